"""Plane buildings: what resists lies along one direction, and nothing acts along the other."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from undatum.errors import Fault

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding
    from undatum.layout.frame import Frame

ALONG = 1e-6  # sine of the angle up to which a line counts as along the plane


def plane_faults(building: PlainBuilding, frame: Frame | None) -> list[Fault]:
    """Lines, members and loads that leave the plane of a plane building."""
    if building.plane is None:
        return []
    across = 1 if building.plane == "X" else 0
    other, cure = "XY"[across], "take it out, or leave building.plane out"
    found = []
    for i, line in enumerate(building.lines):
        lean = (np.cos(line.direction), np.sin(line.direction))[across]
        if abs(lean) > ALONG:
            found.append(Fault(f"lines[{i}].direction", f"line {line.name!r} does not run along "
                               f"{building.plane}, the plane of the building", cure))
    if frame is not None:
        away = [m for m in frame.members if abs(m.end[across] - m.start[across]) > 1e-6]
        if away:
            found.append(Fault(
                "members", f"{away[0].name!r}"
                + (f" and {len(away) - 1} more leave" if len(away) > 1 else " leaves")
                + f" the plane of the building, which runs along {building.plane}",
                f"name the axes along {building.plane} in the rule, or leave plane out"))
    for i, case in enumerate(building.cases):
        for j, force in enumerate(case.on_levels):
            if (force.X, force.Y)[across] or force.moment:
                found.append(Fault(f"cases[{i}].on_levels[{j}]", f"acts along {other} or turns the "
                                   "floor", cure))
        for j, load in enumerate(case.on_members):
            if load.direction == other:
                found.append(Fault(f"cases[{i}].on_members[{j}].direction",
                                   f"is {other}, across the plane of the building", cure))
        for j, moved in enumerate(case.on_supports):
            if (moved.X, moved.Y)[across]:
                found.append(Fault(f"cases[{i}].on_supports[{j}].{other}",
                                   "moves across the plane of the building", cure))
    return found
