"""A project from Python, and what its plain numbers are in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from undatum.errors import Fault, InputError
from undatum.layout.whole import Building
from undatum.project.project_file import validate
from undatum.project.schema import DEFAULT_STANDARD, Project
from undatum.standards.facts import AskedOfSite
from undatum.units import UnitSystem

Keys = Mapping[str, object]

USUAL = "kN and m"


def in_units(
    data: Mapping[str, object], units: str | None, results_in: str | None
) -> tuple[dict[str, Any], str]:
    """The keys of a project with the system its plain numbers are in, and that of the results.

    Plain numbers are SI, or those of ``units`` where all of it is plain data, as read from a file.
    Raises InputError where objects stand in it, which hold SI numbers.
    """
    found = UnitSystem(results_in or units or USUAL).name
    if units is None:
        return {**data, "units": "N and m"}, found
    UnitSystem(units)
    if held := _objects(data, ""):
        raise InputError([Fault(
            "units", f"says what the plain numbers of a project file are in, but {held} is an "
            "object, whose plain numbers are SI",
            "leave it out; results_in names the system of the results")])
    return {**data, "units": units}, found


def _objects(value: object, at: str) -> str:
    """Where the first object stands among plain data; empty where there is none."""
    if isinstance(value, BaseModel):
        return at
    parts: list[tuple[str, object]] = []
    if isinstance(value, Mapping):
        parts = [(f"{at}.{key}" if at else str(key), one) for key, one in value.items()]
    elif isinstance(value, list | tuple):
        parts = [(f"{at}[{i}]", one) for i, one in enumerate(value)]
    return next((where for name, one in parts if (where := _objects(one, name))), "")


def make_project(
    *, title: str = "Building", site: Keys | AskedOfSite, system: Keys,
    building: Building | Keys, standard: str = DEFAULT_STANDARD, units: str | None = None,
    results_in: str | None = None,
    spectrum: Keys | None = None, analysis: Keys | None = None, drift: Keys | None = None,
    irregularities: Keys | None = None, gaps: Sequence[Keys] = (), expected: Sequence[Keys] = (),
    combinations: Sequence[Keys] = (), static_sets: Sequence[Keys] = (),
    alternatives: Keys | None = None, record: Keys | None = None, two_stage: Keys | None = None,
    occupancy: str = "other", description: str = "",
    prepared_by: str = "", checked_by: str = "", revision: str = "",
    folder: str | Path | None = None,
) -> Project:
    """A project from Python: the keys of a project file as arguments.

    Plain numbers are SI; others carry their unit as text. ``results_in`` is the system results are
    written in, ``folder`` where files are looked for. Where all of it is plain data, such as a
    project file that was parsed, ``units`` may say what its plain numbers are in, as there.
    Raises InputError naming everything wrong.

    >>> outline = [(0, 0), (12, 0), (12, 9), (0, 9)]
    >>> project = ud.make_project(
    ...     title="Shed", results_in="kN and m",
    ...     site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
    ...     system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}},
    ...     building={"levels": [{"name": "Roof", "height": 3.0, "outline": outline,
    ...                           "loads": [{"name": "slab", "kind": "dead", "per_area": 6e3}]},
    ...                          {"name": "Ground", "outline": outline}],
    ...               "lines": [{"name": f"{d}{k}", "at": at, "direction": d, "bottom": "Ground",
    ...                          "top": "Roof", "stiffness": 40e6}
    ...                         for d, places in (("X", [(6, 0), (6, 9)]), ("Y", [(0, 4), (12, 4)]))
    ...                         for k, at in enumerate(places)]})
    >>> project.units
    'kN and m'
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
                       ("record", record), ("two_stage", two_stage)):
        if value is not None:
            data[key] = value
    data, written = in_units(data, units, results_in)
    project, faults = validate(data, None if folder is None else Path(folder))
    if project is None:
        raise InputError(faults)
    return project if project.units == written else project.model_copy(update={"units": written})
