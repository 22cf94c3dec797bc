"""Load take-down by column: what each carries by kind of load, and its live load reduced."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.building.groups import LoadGroups
from undatum.building.loads import Load, Path
from undatum.building.members import Frame, Member
from undatum.building.takedown import FloorsOnly, take_down
from undatum.building.whole import Building
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
    stacks = _stacks(columns, building, order)
    places: dict[str, Floats] = {
        name: np.array([m.end[:2] for m in columns if m.level == name]) for name in order}
    for k, m in enumerate(columns):
        level = order.index(m.level)
        on = [i for i in stacks[k] if not building.is_roof(i)
              and any(load.kind == _LIVE for load in building.loads(i))]
        loads = [(load, i) for i in on for load in building.loads(i) if load.kind == _LIVE]
        answer = rule.live_reduction(CarriedFloors(
            float(max(area[k], 0.0)), len(on), any(building.is_roof(i) for i in stacks[k]),
            max((_intensity(load, building, i) for load, i in loads), default=0.0),
            tuple(dict.fromkeys(load.use for load, _ in loads)),
            float(force.get("dead", np.zeros(len(columns)))[k]), float(live[k]),
            _influence(building, frame, m, level, places[m.level]))) if on else None
        reduced[k] = 1.0 if answer is None else answer.factor
        reasons.append("no floor with live load above" if not on else
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
        note="Compression at the foot, by the analysis of the frame, first order, without any "
        "factor; columns shorten all at once, so that inner ones hand load to outer ones. The area "
        "is what floors but the roof bring under a unit pressure; live load on the roof is not "
        "reduced here. The plain section is its area times the strength of its "
        "material, where that is given: no check.",
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


def _stacks(columns: list[Member], building: Building, order: list[str]) -> list[list[int]]:
    """The levels at the tops of each column and of those that stand on it."""
    above: dict[tuple[str, int], list[int]] = {}
    for m in columns:
        top = order.index(m.level)
        above.setdefault((m.axis, building.below[top]), []).append(top)
    found = []
    for m in columns:
        stack, new = [], [order.index(m.level)]
        while new:
            stack += new
            new = [top for i in new for top in above.get((m.axis, i), [])]
        found.append(stack)
    return found


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
