"""From the coordinates of its ends to a member: where it stands on axes, the one a rule makes."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from undatum.building.axes import Axes
from undatum.building.families import XY
from undatum.building.placed import Placed
from undatum.layout.draft import Key, Made
from undatum.layout.panels import CLOSE
from undatum.units import said

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

Found = list[tuple[Key, Made]]
_NEAR = 1e-3  # m: ends nearer than this to a level or a crossing lie on it


def by_points(building: PlainBuilding, axes: Axes, names: Sequence[str], one: Placed) -> Found:
    """The members that one with these ends is: a column one a story, a beam one a bay.

    Raises ValueError with what is wrong, the name left to the caller.
    """
    ends = [_on_level(building, axes, names, at) for at in (one.start, one.end)]
    if one.kind != "beam":
        ends.sort(key=lambda end: building.elevations[end[1]])
    (p, low), (q, level) = ends
    found = _column(building, axes, names, one, p, q, low, level) if one.kind == "column" else \
        _beam(axes, one, p, q, low, level) if one.kind == "beam" else \
        _brace(axes, one, p, q, low, level)
    for _, made in found:
        made.section, made.hinged = one.section, "both" if one.kind == "brace" else "no"
        made.take(one)
    return found


def _on_level(
    building: PlainBuilding, axes: Axes, names: Sequence[str], at: tuple[float, float, float]
) -> tuple[XY, int]:
    """A point of a level: in plan, at a crossing where there is one, and the level."""
    z = building.elevations
    near = [k for k in range(len(z)) if abs(z[k] - at[2]) < _NEAR]
    if len(near) > 1:  # floors side by side
        near = [k for k in near if building.outline(k).holds([at[:2]])[0]] or near
    if not near:
        close = min(range(len(z)), key=lambda k: abs(z[k] - at[2]))
        raise ValueError(f"ends at z = {said(at[2])}, which is no level; {names[close]} is at "
                         f"{said(z[close])}")
    plan = next((c for c in axes.crossings.values()
                 if max(abs(c[0] - at[0]), abs(c[1] - at[1])) < _NEAR), (at[0], at[1]))
    return plan, near[0]


def _stands_on(axes: Axes, at: XY, axis: str) -> bool:
    return abs(float(axes.off(axis, at))) < CLOSE


def _column(
    building: PlainBuilding, axes: Axes, names: Sequence[str], one: Placed, p: XY, q: XY, low: int,
    level: int,
) -> Found:
    if np.hypot(p[0] - q[0], p[1] - q[1]) > _NEAR:
        raise ValueError("is a column that leans; a brace may")
    stories = building.stories_between(level, low)
    if not stories:
        raise ValueError("does not run from a level up to one that stands on it; name the lower "
                         "level first")
    name = next((name for name, c in axes.crossings.items() if c == p), "")
    own = {k: one.name if len(stories) == 1 else f"{one.name} at {names[k]}" for k in stories}
    return [(("column", name or one.name, k), Made(
        "column", name or one.name, k, p, p, "", building.below[k], given="" if name else own[k]))
        for k in stories]


def _beam(axes: Axes, one: Placed, p: XY, q: XY, low: int, level: int) -> Found:
    if low != level:
        raise ValueError("is a beam between two levels; a brace may lean")
    for axis in (*axes.y, *axes.x):
        if not (_stands_on(axes, p, axis) and _stands_on(axes, q, axis)):
            continue
        if axes.curved(axis):  # straight from ray to ray
            for a, b in axes.bays(axis):
                if {axes.cross(axis, a), axes.cross(axis, b)} == {p, q}:
                    return [(("beam", axis, a, b, level), Made(
                        "beam", axis, level, axes.cross(axis, a), axes.cross(axis, b), "", level,
                        between=(a, b)))]
            continue
        at = {name: axes.cross(axis, name) for name in axes.others(axis)}
        other = {name: float(axes.along(axis, c)) for name, c in at.items()}
        first, last = sorted((float(axes.along(axis, p)), float(axes.along(axis, q))))
        on = [name for name, value in other.items() if first - CLOSE < value < last + CLOSE]
        if len(on) < 2 or other[on[0]] > first + CLOSE or other[on[-1]] < last - CLOSE:
            continue  # an end lies between crossings
        return [(("beam", axis, a, b, level), Made(
            "beam", axis, level, at[a], at[b], "", level, between=(a, b)))
            for a, b in pairwise(on)]
    return [(("placed", one.name), Made("beam", "", level, p, q, "", level, given=one.name))]


def _brace(axes: Axes, one: Placed, p: XY, q: XY, low: int, level: int) -> Found:
    if low == level:
        raise ValueError("is a brace on one level; a beam may be")
    axis = next((a for a in (*axes.y, *axes.x)
                 if _stands_on(axes, p, a) and _stands_on(axes, q, a)), "")
    return [(("placed", one.name), Made("brace", axis, level, p, q, "", low, given=one.name))]
