"""What acts on a building as it was described, before anything lands: force and moment by case."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.building.naming import known_names
from undatum.layout.frame import Frame, Member
from undatum.layout.groups import Naming, by_kind
from undatum.layout.members import chosen_members
from undatum.layout.weight import spread
from undatum.layout.whole import Building

Floats = NDArray[np.float64]
_DOWN = np.array([0.0, 0.0, -1.0])
_WAYS = {"X": np.array([1.0, 0.0, 0.0]), "Y": np.array([0.0, 1.0, 0.0]), "down": _DOWN}


def given_actions(
    building: Building, frame: Frame, centers: Floats, named: Naming = by_kind
) -> Mapping[str, Floats]:
    """(6,) force and moment about the origin, N and N m, of every load as ``named`` and every case.

    Where the user put them: floor loads at the center of their area, weight along the members,
    forces on floors at ``centers`` (n, 2) unless they name a point. Moments are about X, Y and Z.
    """
    found: dict[str, Floats] = {}
    names = [level.name for level in building.levels]

    def add(name: str, force: Floats, at: Floats) -> None:
        found[name] = found.get(name, np.zeros(6)) + np.append(force, np.cross(at, force))

    for i in range(len(building.levels) - 1):
        for load in building.loads(i):
            _, _, _, amount, (x, y), _ = spread(load, building.outline(i))
            add(named(i, load), amount * _DOWN, np.array([x, y, building.elevations[i]]))
    def add_along(name: str, m: Member, way: Floats, whole: float, first: float) -> None:
        at, span = np.array(m.start) + _shift(frame, m), np.subtract(m.end, m.start)
        found[name] = found.get(name, np.zeros(6)) + np.append(
            whole * way, np.cross(whole * at + first * span, way))

    if building.self_weight:
        for m in frame.members:
            section = frame.section[m.elements[0]]
            weight = frame.sections[section].area * frame.materials[section, 2] * m.length
            add_along(named(-1, None), m, _DOWN, weight, weight / 2)
        for run in () if frame.panels is None else frame.panels.walls:
            for t, heavy, (low, high), holes in zip(run.thickness, run.unit_weight, run.reach,
                                                    run.holes, strict=True):
                parts = [(run.length * (high - low), run.length / 2),
                         *((-(b - a) * (z1 - z0), (a + b) / 2) for a, b, z0, z1 in holes)]
                for area, middle in parts:
                    at = np.array([*(run.start + run.along * middle), low])
                    add(named(-1, None), heavy * t * area * _DOWN, at)
    for one in building.member_loads:
        for m in chosen_members(building, frame, one.on):
            add_along(named(names.index(m.level), one), m, _DOWN, *one.sums(m.length))
    for case in building.cases:
        found.setdefault(case.name, np.zeros(6))
        for acting in case.on_members:
            if acting.warming is not None:
                continue
            for m in chosen_members(building, frame, acting.on):
                add_along(case.name, m, _WAYS[acting.direction], *acting.sums(m.length))
        for force in case.on_levels:
            for level in known_names(force.at, names, "levels"):
                i = names.index(level)
                x, y = centers[i] if force.point is None else force.point
                add(case.name, np.array([force.X, force.Y, 0.0]),
                    np.array([x, y, building.elevations[i]]))
                found[case.name][5] += force.moment
    return found


def _shift(frame: Frame, m: Member) -> Floats:
    """From the line between the nodes of a member to its axis."""
    first = m.elements[0]
    return np.asarray(frame.shifted[first] @ frame.axes[first, 1:])
