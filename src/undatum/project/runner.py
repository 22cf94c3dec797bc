"""Run a project from beginning to end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from undatum.building.whole import Building
from undatum.errors import InputError
from undatum.project.calculation import Calculation, Watch, calculate
from undatum.project.expected import expected_findings
from undatum.project.from_python import in_units
from undatum.project.reader import validate
from undatum.project.results import Results
from undatum.project.schema import DEFAULT_STANDARD, Project
from undatum.standards.facts import AskedOfSite

Keys = Mapping[str, object]


def project_of(
    *, title: str = "Building", site: Keys | AskedOfSite, system: Keys,
    building: Building | Keys, standard: str = DEFAULT_STANDARD, units: str | None = None,
    results_in: str | None = None,
    spectrum: Keys | None = None, analysis: Keys | None = None, drift: Keys | None = None,
    irregularities: Keys | None = None, gaps: Sequence[Keys] = (), expected: Sequence[Keys] = (),
    combinations: Sequence[Keys] = (), static_sets: Sequence[Keys] = (),
    alternatives: Keys | None = None, record: Keys | None = None,
    occupancy: str = "other", description: str = "",
    prepared_by: str = "", checked_by: str = "", revision: str = "",
    folder: str | Path | None = None,
) -> Project:
    """A project from Python: the keys of a project file as arguments.

    Plain numbers are SI; others carry their unit as text. ``results_in`` is the system results are
    written in, ``folder`` where files are looked for. Where all of it is plain data, such as a
    project file that was parsed, ``units`` may say what its plain numbers are in, as there.
    Raises InputError naming everything wrong.
    """
    data: dict[str, object] = {
        "title": title, "site": site, "system": system, "building": building,
        "standard": standard, "gaps": gaps, "expected": expected,
        "combinations": combinations, "static_sets": static_sets, "occupancy": occupancy,
        "description": description,
        "prepared_by": prepared_by, "checked_by": checked_by,
        "revision": revision,
    }
    for key, value in (("spectrum", spectrum), ("analysis", analysis), ("drift", drift),
                       ("irregularities", irregularities), ("alternatives", alternatives),
                       ("record", record)):
        if value is not None:
            data[key] = value
    data, written = in_units(data, units, results_in)
    project, faults = validate(data, None if folder is None else Path(folder))
    if project is None:
        raise InputError(faults)
    return project if project.units == written else project.model_copy(update={"units": written})


def analyze(
    *, title: str = "Building", site: Keys | AskedOfSite, system: Keys,
    building: Building | Keys, standard: str = DEFAULT_STANDARD, units: str | None = None,
    results_in: str | None = None,
    spectrum: Keys | None = None, analysis: Keys | None = None, drift: Keys | None = None,
    irregularities: Keys | None = None, gaps: Sequence[Keys] = (), expected: Sequence[Keys] = (),
    combinations: Sequence[Keys] = (), static_sets: Sequence[Keys] = (),
    alternatives: Keys | None = None, record: Keys | None = None,
    occupancy: str = "other", description: str = "",
    prepared_by: str = "", checked_by: str = "", revision: str = "",
    folder: str | Path | None = None,
) -> Results:
    """The whole job from Python: the keys of a project file as arguments.

    Plain numbers are SI; others carry their unit as text. ``results_in`` is the system results are
    written in, ``folder`` where files are looked for; ``units`` as for :func:`project_of`.
    Raises InputError when the description is wrong, AnalysisError when it can't be analyzed.
    """
    return run(project_of(
        title=title, site=site, system=system, building=building, standard=standard, units=units,
        results_in=results_in,
        spectrum=spectrum, analysis=analysis, drift=drift, irregularities=irregularities,
        gaps=gaps, expected=expected, combinations=combinations, static_sets=static_sets,
        alternatives=alternatives, record=record, occupancy=occupancy, description=description,
        prepared_by=prepared_by, checked_by=checked_by, revision=revision, folder=folder))


def run(
    project: Project, folder: str | Path | None = None, watch: Watch | None = None,
) -> Results:
    """Run a project. Files it names are looked for where it was read, or in ``folder``; ``watch``
    is told the name of every stage before it is worked out.

    Raises InputError or AnalysisError; the results are complete or not there.
    """
    return results_of(calculate(project, folder, watch))


_NEEDED = (
    "stiff", "standard", "states", "site", "laterals", "shaking", "reduced", "weights",
    "load_groups", "model", "modes", "solver", "drift_solver", "drift_modes", "by_moments",
    "by_masses", "used_rules", "periods", "computed", "statics", "twist", "factors_table",
    "shape", "diaphragms", "sets", "spectrum_sets", "vertical_set", "further_sets", "own_sets",
    "dynamic", "scaling", "plumb", "gap_checks", "combinations", "drifts", "drift_readings",
    "drift_combined", "stability", "plausibility", "findings", "working",
)


def results_of(calculation: Calculation) -> Results:
    """The results of a calculation, whatever is still missing worked out."""
    of = calculation.up_to(*_NEEDED)
    stiff = of["stiff"]
    found = Results(
        project=of.project.keeping(getattr(of["standard"], "text", None)),
        standard_title=of["standard"].title,
        states=of["states"],
        site=of["site"],
        laterals=of["laterals"],
        shaking=of["shaking"],
        reduced=of["reduced"],
        weights=of["weights"],
        load_groups=of["load_groups"],
        model=of["model"],
        modes=of["modes"],
        drift_modes=None if of["drift_solver"] is of["solver"] else of["drift_modes"],
        by_moments=of["by_moments"],
        by_masses=of["by_masses"],
        rules=of["used_rules"],
        periods=of["periods"],
        computed=of["computed"],
        statics=of["statics"],
        torsion=of["twist"],
        torsion_factors=of["factors_table"],
        shape=of["shape"],
        diaphragms={d: f.forces for d, f in of["diaphragms"].items()},
        rigidity=stiff.centers,
        static_sets=of["sets"],
        spectrum_sets=of["spectrum_sets"],
        vertical=of["vertical_set"],
        further=of["further_sets"],
        own_sets=of["own_sets"],
        dynamic=of["dynamic"],
        scaling=of["scaling"],
        plumb=of["plumb"],
        gaps=of["gap_checks"],
        combinations=of["combinations"],
        drifts=of["drifts"],
        drift_readings=of["drift_readings"],
        drift_combined=of["drift_combined"],
        stability=of["stability"],
        plausibility=of["plausibility"],
        findings=of["findings"],
        working=of["working"],
    )
    return with_expected(found)


def with_expected(found: Results) -> Results:
    """The results with the word on the values one knows. Raises InputError where they name none."""
    if not found.project.expected:
        return found
    return replace(found, findings=(*found.findings, *expected_findings(found.expected())))
