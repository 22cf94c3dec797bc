"""Load take-down by column: what each carries by kind of load, and its live load reduced."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.building.loads import Load, Path
from undatum.layout.frame import Frame, Member
from undatum.layout.groups import LoadGroups
from undatum.layout.takedown import FloorsOnly, take_down
from undatum.layout.whole import Building
from undatum.mechanics.actions import framed_of
from undatum.mechanics.cases import LoadCases, load_cases
from undatum.mechanics.model import Model
from undatum.mechanics.solver import factorize
from undatum.standards.contract import WeightRule
from undatum.standards.facts import CarriedFloors
from undatum.table import Table, column

Floats = NDArray[np.float64]
_LIVE: Literal["live"] = "live"


def columns_table(
    model: Model, building: Building, found: LoadCases, rule: WeightRule,
    groups: LoadGroups,
) -> Table:
    """Axial force at the foot of every column by kind of load, with the live load reduced.

    The area a column carries is the force that a unit pressure on all floors but the roof puts
    into it, in the analysis as it is.
    """
    if model.second_order is not None:
        model = model.second_order.elastic
    frame = framed_of(model).frame
    columns = [m for m in frame.members if m.kind == "column"]
    force: dict[str, Floats] = {}
    for one in found.cases:
        if not one.own and one.members is not None:
            kind = groups.of(one.name).kind
            force[kind] = force.get(kind, 0.0) + _pressed(one.members.faces, columns)
    area, live = _floors_alone(model, building, frame, columns)
    total = np.sum(list(force.values()), axis=0) if force else np.zeros(len(columns))
    reduced, reasons, clauses = np.ones(len(columns)), [], []
    order = [level.name for level in building.levels]
    carried = _carried(columns, building, order)
    heads: dict[str, list[tuple[float, float]]] = {}
    for m in columns:
        heads.setdefault(m.level, []).append(m.end[:2])
    places = {name: np.array(at) for name, at in heads.items()}
    for k, m in enumerate(columns):
        level = order.index(m.level)
        floors, roof, intensity, uses = carried[k]
        answer = rule.live_reduction(CarriedFloors(
            float(max(area[k], 0.0)), floors, roof, intensity, uses,
            float(force.get("dead", np.zeros(len(columns)))[k]), float(live[k]),
            _influence(building, frame, m, level, places[m.level]))) if floors else None
        reduced[k] = 1.0 if answer is None else answer.factor
        reasons.append("no floor with live load above" if not floors else
                       "the standard has no rule" if answer is None else answer.reason)
        clauses.append("" if answer is None else answer.clause)
    strength = [_capacity(building, m) for m in columns]
    return Table(
        "column_loads", "Loads on columns under gravity",
        (
            column("column", "", [m.name for m in columns]),
            column("section", "", [m.section for m in columns]),
            *(column(name, "force", values.tolist()) for name, values in force.items()),
            column("all in full", "force", total.tolist()),
            column("area carried", "area", area.tolist()),
            column("factor on live", "ratio", reduced.tolist(), 3),
            column("live of floors reduced", "force", (live * reduced).tolist()),
            column("all over plain section", "ratio",
                   [float(total[k] / c) if c else None for k, c in enumerate(strength)], 3),
            column("why", "", reasons), column("clause", "", clauses),
        ),
        note="Compression at the base from first-order analysis of the frame, unfactored; all "
             "columns shorten at once, so inner columns shed load to outer ones. The area is what "
             "floors below the roof deliver under a unit pressure; roof live load is not reduced "
             "here. The plain section is its area times the strength of its material, where given: "
             "not a design check.",
    )


def _pressed(faces: Floats, columns: list[Member]) -> Floats:
    """Compression at the foot of columns, N."""
    return np.array([-faces[m.elements[0], 0] for m in columns])


def _floors_alone(
    model: Model, building: Building, frame: Frame, columns: list[Member]
) -> tuple[Floats, Floats]:
    """Area (m2) and live load (N) that the floors, the roof apart, bring to every column."""
    n = len(building.levels)
    paths: list[Path] = [next((load.path for load in building.loads(i)), "two-way")
                         for i in range(n)]
    by_path = {path: Load(name="unit", kind=_LIVE, per_area=1.0, path=path) for path in paths}
    none = {i for i in range(n) if i == n - 1 or building.is_roof(i)}
    unit = [[] if i in none else [by_path[paths[i]]] for i in range(n)]
    live = [[] if i in none else [x for x in building.loads(i) if x.kind == _LIVE]
            for i in range(n)]
    found = []
    for loads in (unit, live):
        cases = load_cases(factorize(model), take_down(FloorsOnly(building, loads), frame), [])
        parts = [_pressed(case.faces, columns) for _, case in cases.on_members]
        found.append(parts[0] if parts else np.zeros(len(columns)))
    size = np.abs(found[0]).max(initial=0.0)
    return np.where(np.abs(found[0]) < 1e-9 * size, 0.0, found[0]), found[1]


_Carried = tuple[int, bool, float, tuple[str, ...]]


def _carried(columns: list[Member], building: Building, order: list[str]) -> list[_Carried]:
    """What stands on each column, added up from the top: floors with live load, whether a roof
    does, the largest live load of those floors, and their uses."""
    own: list[_Carried] = []
    for i in range(len(order) - 1):
        loads = [load for load in building.loads(i) if load.kind == _LIVE]
        roof = building.is_roof(i)
        counts = bool(loads) and not roof
        own.append((int(counts), roof, max(
            (_intensity(load, building, i) for load in loads), default=0.0) if counts else 0.0,
            tuple(dict.fromkeys(load.use for load in loads)) if counts else ()))
    place = {name: i for i, name in enumerate(order)}
    above: dict[tuple[str, int], list[int]] = {}  # columns by axis and the level they stand on
    for k, m in enumerate(columns):
        above.setdefault((m.axis, building.below[place[m.level]]), []).append(k)
    found: dict[int, _Carried] = {}
    for k in sorted(range(len(columns)), key=lambda k: place[columns[k].level]):  # top down
        top = place[columns[k].level]
        parts = [own[top], *(found[j] for j in above.get((columns[k].axis, top), []))]
        found[k] = (sum(p[0] for p in parts), any(p[1] for p in parts),
                    max(p[2] for p in parts),
                    tuple(dict.fromkeys(use for p in parts for use in p[3])))
    return [found[k] for k in range(len(columns))]


def _intensity(load: Load, building: Building, i: int) -> float:
    if load.per_area is not None:
        return load.per_area
    return (load.total or 0.0) / building.outline(i).area


def _influence(
    building: Building, frame: Frame, m: Member, level: int, columns: Floats
) -> float:
    """K_LL of a column: 4, but 3 at an edge and 2 at a corner where slab reaches beyond it.

    Source: ASCE/SEI 7-16, Table 4.7-1.
    """
    at = np.array(m.end[:2])
    section = frame.sections[frame.section[m.elements[-1]]]
    beyond = max(section.width, section.depth) / 2 + 0.01
    sides = 0
    for way in ((1.0, 0.0), (-1.0, 0.0), (0.0, 1.0), (0.0, -1.0)):
        step = np.array(way)
        ahead = bool(np.any((columns - at) @ step > beyond))
        sides += not ahead and bool(building.outline(level).holds([at + beyond * step])[0])
    return {0: 4.0, 1: 3.0}.get(sides, 2.0)


def _capacity(building: Building, m: Member) -> float:
    section = building.sections[m.section]
    strength = building.material(section.material).strength
    if strength is None or section.parts:  # several materials have no one strength
        return 0.0
    return building.section(m.section).area * strength
