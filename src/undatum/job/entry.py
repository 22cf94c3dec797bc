"""From a project to its results."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from undatum.errors import Fault, InputError
from undatum.job.job import Job
from undatum.job.stage import Watch
from undatum.layout.whole import Building
from undatum.project.from_python import make_project
from undatum.project.schema import DEFAULT_STANDARD, Project
from undatum.results.outcome import read_outcome
from undatum.results.results import Results
from undatum.standards.facts import AskedOfSite

Keys = Mapping[str, object]


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
    written in, ``folder`` where files are looked for; ``units`` as for :func:`make_project`.
    Raises InputError when the description is wrong, AnalysisError when it can't be analyzed.

    >>> results = ud.analyze(
    ...     site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
    ...     system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}},
    ...     building=ud.shipped_project("archive").building)
    >>> dict(results.summary())["Findings"]
    '20 ok, 4 notes, 3 warnings'
    """
    return run(make_project(
        title=title, site=site, system=system, building=building, standard=standard, units=units,
        results_in=results_in,
        spectrum=spectrum, analysis=analysis, drift=drift, irregularities=irregularities,
        gaps=gaps, expected=expected, combinations=combinations, static_sets=static_sets,
        alternatives=alternatives, record=record, occupancy=occupancy, description=description,
        prepared_by=prepared_by, checked_by=checked_by, revision=revision, folder=folder))


def calculate(
    project: Project, folder: str | Path | None = None, watch: Watch | None = None,
) -> Job:
    """The job of a project, nothing done yet. ``folder`` is where its files are; ``watch`` is told
    the name of every stage before it is worked out.

    >>> job = ud.calculate(ud.shipped_project("archive")).up_to("weights")
    >>> round(job.weights.total / 1e6, 1)  # MN; nothing else is worked out
    55.2
    """
    return Job(project if folder is None else project.placed(folder), watch=watch)


def run(
    project: Project, folder: str | Path | None = None, watch: Watch | None = None,
) -> Results:
    """Run a project. Files it names are looked for where it was read, or in ``folder``; ``watch``
    is told the name of every stage before it is worked out.

    Raises InputError or AnalysisError; the results are complete or not there.

    >>> results = ud.run(ud.shipped_project("clinic"))
    >>> sorted(results.directions)
    ['X', 'Y']
    """
    return calculate(project, folder, watch).results


def load(folder: str | Path) -> Results:
    """What a run gave, from the folder it was written to (or the ``results.nc`` in it).

    An unfinished run is completed or undone first. Raises InputError when there are no results, or
    the files in the folder are not those of one run.

    >>> _ = ud.run(ud.shipped_project("clinic")).save(folder / "run")
    >>> ud.load(folder / "run").severity.value
    'note'
    """
    found = read_outcome(folder)
    if not isinstance(found, Results):
        raise InputError([Fault(str(folder), "holds results of heights and weights alone",
                                "ud.load_stack reads them")])
    return found
