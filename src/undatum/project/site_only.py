"""A site without a building: its parameters and its spectra, from the same project file."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from undatum import standards
from undatum.errors import InputError
from undatum.finding import Finding
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.reader import validate_site
from undatum.project.schema import SiteProject
from undatum.project.shaking import Shaking, shaking, site_table, spectrum_table
from undatum.standards.answers import SiteAnswer
from undatum.table import Table
from undatum.units import UnitSystem
from undatum.working import Section


@dataclass(frozen=True, slots=True)
class SiteSpectra:
    """What a standard says of a site before there is a building."""

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

    def site_table(self) -> Table:
        """Site parameters by symbol."""
        return site_table(self.site)

    def spectrum_table(self) -> Table:
        """Design spectra at round periods and corners, before any reduction."""
        return spectrum_table(self.shaking, {}, 4.0)

    def __str__(self) -> str:
        return f"{self.project.title}\n  {self.standard_title}, {self.site.summary}"


def run_site(project: SiteProject, folder: Path | None = None) -> SiteSpectra:
    """Site parameters and spectra. Raises InputError where a value cannot be used."""
    standard = standards.get(project.standard, folder)
    site = standard.site(project.site)
    ground = shaking(project, standard, site, folder)
    return SiteSpectra(
        project, standard.title, site, ground,
        (*hazard_finding(project.site), *site.findings, *ground.findings),
        (*hazard_working(project.site), site.working, *ground.working))


def site_spectra(**description: Any) -> SiteSpectra:
    """From Python: the ``site``, ``standard`` and ``spectrum`` keys of a project as arguments.

    Raises InputError when the description is wrong.
    """
    data: Mapping[str, Any] = {"units": "kN, m", **description}
    project, faults = validate_site(dict(data))
    if project is None:
        raise InputError(faults)
    return run_site(project)
