"""Bays of the lateral system near the edges of the plan, story by story."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from undatum.building.lines import Cantilever
from undatum.layout.frame import Frame
from undatum.layout.whole import Building
from undatum.mechanics.model import Model
from undatum.mechanics.planes import SAME, LateralPlanes, Plane
from undatum.stages.removals import at_columns, moment_ends
from undatum.standards.facts import SideBays
from undatum.standards.terms import DIRECTIONS, Direction

Floats = NDArray[np.float64]
NEAR = 0.1  # of the plan across: how far from the edge a plane may stand


def side_bays(
    building: Building, model: Model, weight: Floats, planes: LateralPlanes
) -> dict[Direction, tuple[SideBays, ...]]:
    """Of every story above the base; none of a plane building."""
    found: dict[Direction, tuple[SideBays, ...]] = dict.fromkeys(DIRECTIONS, ())
    if model.plane:
        return found
    shares = model.shear_shares(model.by_height(weight))
    for axis, d in enumerate(DIRECTIONS):
        low, high = model.diaphragms.bounds[:, 1 - axis], model.diaphragms.bounds[:, 3 - axis]
        sides = np.zeros((2, model.n))
        for plane in planes.along(d):
            bays = _bays(building, model, plane, axis)
            for k, edge in enumerate((low, high)):
                near = plane.carries & (np.abs(plane.at - edge) <= NEAR * (high - low))
                sides[k, near] += bays[near]
        found[d] = tuple(
            SideBays(model.levels[i], float(shares[i]), float(sides[0, i]), float(sides[1, i]))
            for i in np.flatnonzero(model.above_base).tolist())
    return found


def _bays(building: Building, model: Model, plane: Plane, axis: int) -> Floats:
    """(n,) of one plane: braced bays and walls by their length over the height of the story, else
    those of frames; not a number where a lateral line does not say what it is."""
    found = np.zeros(model.n)
    heights = model.diaphragms.story_heights
    described = {line.name: line for line in building.lines}
    for line in model.lines:
        given = described.get(line.name)
        if given is None or abs(line.axis[axis]) < 0.5 \
                or abs(float(line.point[1 - axis]) - plane.at) > SAME:
            continue
        for i, section in zip(line.levels.tolist(), given.by_story(line.levels.size), strict=True):
            length = section.length if isinstance(section, Cantilever) else None
            found[i] += length / heights[i] if length else np.nan
    if model.framed is None:
        return found
    frame = model.framed.frame
    found += _braced_bays(model, frame, plane, axis)
    for run in () if frame.panels is None else frame.panels.walls:
        if abs(run.along[axis]) > 1 - 1e-6 and abs(float(run.middle[1 - axis]) - plane.at) <= SAME:
            for place, i in enumerate(run.stories):
                found[i] += sum(b - a for a, b in run.segments(place)) / heights[i]
    # beside braces and walls it is not told whether frames are part of the system
    return np.where(found == 0, _frame_bays(model, frame, plane, axis), found)


def _braced_bays(model: Model, frame: Frame, plane: Plane, axis: int) -> Floats:
    """(n,) bays between columns of a plane that hold braces, however many."""
    own = [m for m in frame.members if m.level in model.levels and not m.infill
           and abs(m.start[1 - axis] - plane.at) <= SAME >= abs(m.end[1 - axis] - plane.at)]
    found = np.zeros(model.n)
    for level in {m.level for m in own if m.kind == "brace"}:
        story = [m for m in own if m.level == level]
        columns = sorted({round(m.end[axis], 3) for m in story if m.kind == "column"})
        middles = [(m.start[axis] + m.end[axis]) / 2 for m in story if m.kind == "brace"]
        found[model.levels.index(level)] = len(set(np.searchsorted(columns, middles).tolist()))
    return found


def _frame_bays(model: Model, frame: Frame, plane: Plane, axis: int) -> Floats:
    """(n,) beams of a plane that pass a moment on to a column at either end."""
    found, columns = np.zeros(model.n), at_columns(frame)
    for m in frame.members:
        there = abs(m.start[1 - axis] - plane.at) <= SAME >= abs(m.end[1 - axis] - plane.at)
        if m.kind == "beam" and there and m.level in model.levels \
                and sum(len(which) for _, which in moment_ends(frame, m, columns)) == 2:
            found[model.levels.index(m.level)] += 1
    return found
