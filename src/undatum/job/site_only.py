"""A site without a building: its parameters and its spectra, from the same project file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from undatum import standards
from undatum.errors import InputError
from undatum.finding import Finding
from undatum.project.from_python import in_units
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.project_file import validate_site
from undatum.project.schema import DEFAULT_STANDARD, SiteProject
from undatum.record import record
from undatum.stages.own_values import own_of_site
from undatum.stages.shaking import Shaking, shaking, site_table, spectrum_table
from undatum.standards.answers import SiteAnswer
from undatum.standards.facts import AskedOfSite
from undatum.table import Table, Tabled
from undatum.units import UnitSystem
from undatum.working import Section, unused


@record
class SiteSpectra(Tabled):
    """What a standard says of a site before there is a building.

    >>> found = ud.site_spectra(
    ...     site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"})
    >>> found.site.category
    'D'
    """

    project: SiteProject
    standard_title: str
    site: SiteAnswer
    shaking: Shaking
    findings: tuple[Finding, ...]
    working: tuple[Section, ...]

    @property
    def units(self) -> UnitSystem:
        """The unit system in which people read the tables."""
        return UnitSystem(self.project.units)

    def made_by_name(self) -> Mapping[str, Callable[[], Table]]:
        return {"site": lambda: site_table(self.site),
                "spectrum": lambda: spectrum_table(self.shaking, {}, 4.0)}

    def __str__(self) -> str:
        return f"{self.project.title}\n  {self.standard_title}, {self.site.summary}"


def run_site(project: SiteProject, folder: str | Path | None = None) -> SiteSpectra:
    """Site parameters and spectra. Raises InputError where a value can't be used."""
    with project.at_work():
        return _run(project, folder)


def _run(project: SiteProject, folder: str | Path | None) -> SiteSpectra:
    place = project.folder if folder is None else Path(folder)
    standard = standards.get(project.standard, place)
    part = standard.ground(project.site)
    site = part.site()
    ground = shaking(project.spectrum, project.analysis.damping, standard.title, part, site, place)
    working = (*hazard_working(project.site), site.working, *ground.working)
    own = project.site.replaced("site")
    if faults := unused(own, working):
        raise InputError(faults)
    return SiteSpectra(
        project, standard.title, site, ground,
        (*own_of_site(own, working, UnitSystem(project.units)), *hazard_finding(project.site),
         *site.findings, *ground.findings), working)


def site_spectra(
    *, site: Mapping[str, object] | AskedOfSite, title: str = "Site",
    standard: str = DEFAULT_STANDARD, units: str | None = None, results_in: str | None = None,
    spectrum: Mapping[str, object] | None = None, analysis: Mapping[str, object] | None = None,
    folder: str | Path | None = None,
) -> SiteSpectra:
    """Spectra of a site from Python: the keys of a project file as arguments.

    Plain numbers are SI; others carry their unit as text. ``results_in`` is the system results are
    written in, ``folder`` where files are looked for; ``units`` as for :func:`make_project`.
    Raises InputError when it is wrong.

    >>> found = ud.site_spectra(
    ...     site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"})
    >>> round(float(found.shaking.horizontal["X"](0.3)) / 9.80665, 3)  # S_DS = 2/3 1.2 1.0 g
    0.8
    """
    data: dict[str, object] = {"title": title, "standard": standard, "site": site}
    for key, value in (("spectrum", spectrum), ("analysis", analysis)):
        if value is not None:
            data[key] = value
    data, written = in_units(data, units, results_in)
    project, faults = validate_site(data, None if folder is None else Path(folder))
    if project is None:
        raise InputError(faults)
    return run_site(project.model_copy(update={"units": written}))
