"""Lateral lines and braces left out one by one: what that does to torsion and strength.

One more solution each: the formula of Sherman, Morrison and Woodbury for a stiffness that loses a
spring, or an element of a frame, also where that is condensed to its floors.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from undatum.layout.frame import Member
from undatum.layout.whole import Building
from undatum.mechanics.framing import FrameModel, end_freedoms
from undatum.mechanics.lines import motions
from undatum.mechanics.model import Model
from undatum.mechanics.planes import LateralPlanes
from undatum.mechanics.solver import Solver
from undatum.standards.facts import Removal
from undatum.standards.terms import DIRECTIONS, Direction

Floats = NDArray[np.float64]
_LEAST = 1e-9  # of what is left: the building can't stand


def removals(
    building: Building, solver: Solver, weight: Floats, planes: LateralPlanes
) -> dict[Direction, tuple[Removal, ...]]:
    """Every lateral line, or where members resist every brace, left out of every story."""
    model, found = solver.model, dict[Direction, tuple[Removal, ...]]()
    forces = weight * np.maximum(model.heights, 0.0)
    story = model.diaphragms.carried @ forces
    base = float(story[list(model.base_stories)].sum())
    for axis, d in enumerate(DIRECTIONS):
        found[d] = ()
        if model.plane or model.open_floors:
            continue
        e = 0.05 * model.diaphragms.across(d) * forces
        loads = np.column_stack([model.loads(d, forces, s * e) for s in (1, -1)])
        whole = solver.solve(loads)
        each = _lines(building, solver, planes, axis, whole) if model.framed is None else \
            _braces(model.framed, solver, planes, axis, whole)
        found[d] = tuple(
            Removal(name, model.levels[i], float(story[i] / base) if base else 0.0,
                    np.inf if moved is None else _twist(model, axis, moved), 1 - strength, kind)
            for name, i, moved, strength, kind in each)
    return found


One = tuple[str, int, Floats | None, float, str]  # name, story, motion without it, its share, kind


def _lines(
    building: Building, solver: Solver, planes: LateralPlanes, axis: int, whole: Floats
) -> Iterator[One]:
    """Of lines along X and Y with a stiffness by story, story by story; else nothing."""
    model = solver.model
    given = {line.name: line for line in building.lines}
    own = [line for line in model.lines if abs(line.axis[axis]) > 1e-6]
    if any(line.stiffness is None or given[line.name].cantilever is not None
           or abs(line.axis[axis]) < 1 - 1e-6 for line in own):
        return
    for line in own:
        rows = motions([line], model.diaphragms.centers, model.diaphragms.freedoms,
                       model.freedoms.count).toarray()
        assert line.shear is not None
        for j, i in enumerate(line.levels.tolist()):
            if not model.above_base[i]:
                continue
            spring = rows[j] - (rows[j + 1] if j + 1 < len(rows) else 0.0)
            yield (line.name, i,
                   _without(solver, whole, spring[None], np.array([line.shear[j, j]]), None),
                   float(line.strength[j] / planes.strengths[axis, i]), "line")


def _braces(
    framed: FrameModel, solver: Solver, planes: LateralPlanes, axis: int, whole: Floats
) -> Iterator[One]:
    """Of braces that run along the axis, where floors are rigid."""
    model = solver.model
    for member in framed.frame.members:
        lean = abs(member.end[axis] - member.start[axis]) / member.length
        if member.kind != "brace" or lean < 1e-6 or member.level not in model.levels:
            continue
        i = model.levels.index(member.level)
        if model.above_base[i]:
            yield (member.name, i, _without(solver, whole, *_element(framed, member)),
                   float(member.strength * lean / planes.strengths[axis, i]), "brace")


def _element(framed: FrameModel, member: Member) -> tuple[Floats, Floats, Floats]:
    """The springs that a member is: rows (r, D) on the motion of the floors, stiffness (r,), and
    their flexibility (r, r) where the floors are held.

    Torsion is left where it is: it may be all that keeps a joint from turning.
    """
    frame, rows, sizes = framed.frame, [], []
    for e in member.elements:
        local = framed.elements.stiffness[e].copy()
        local[[3, 9]] = 0.0
        local[:, [3, 9]] = 0.0
        values, vectors = np.linalg.eigh(local)
        keep = values > 1e-12 * values.max()
        at = end_freedoms(frame.ends[[e]]).ravel()
        own = np.zeros((int(keep.sum()), 6 * len(frame.points)))
        own[:, at] = vectors[:, keep].T @ framed.elements.turn[e]
        rows.append(own)
        sizes.append(values[keep])
    every = np.concatenate(rows)
    free = np.asarray(every @ framed.spread[:, framed.stiffness.shape[0]:])
    return np.asarray(every @ framed.follow), np.concatenate(sizes), \
        np.asarray(free @ framed.free(free.T)) if free.shape[1] else np.zeros((len(every),) * 2)


def _without(
    solver: Solver, whole: Floats, rows: Floats, stiffness: Floats, flexible: Floats | None
) -> Floats | None:
    """The motion without springs (r,) of these rows (r, D); nothing where it can't stand."""
    by = solver.solve(rows.T)
    within = rows @ by + (0.0 if flexible is None else flexible)
    root = np.sqrt(stiffness)
    left = np.eye(len(root)) - root[:, None] * within * root
    if float(np.linalg.eigvalsh((left + left.T) / 2).min()) < _LEAST:
        return None
    return np.asarray(whole + by @ (root[:, None] * np.linalg.solve(
        left, root[:, None] * (rows @ whole))))


def _twist(model: Model, axis: int, moved: Floats) -> float:
    """The largest story drift at an edge over the mean of both edges, of all stories and signs."""
    d, most = model.diaphragms, 1.0
    sign = -1.0 if axis == 0 else 1.0  # X goes back with y where a floor turns, Y goes along with x
    for i in np.flatnonzero(model.above_base).tolist():
        edges = d.bounds[i, [1 - axis, 3 - axis]]

        def at(floor: int, edges: Floats = edges) -> Floats:
            turn = moved[d.freedoms[floor, 2]]
            arm = edges[:, None] - d.centers[floor, 1 - axis]
            return np.asarray(moved[d.freedoms[floor, axis]] + sign * arm * turn)

        drift = at(i) - (at(int(d.below[i])) if d.below[i] >= 0 else 0.0)
        mean = np.abs(drift.mean(axis=0))
        most = max(most, float((np.abs(drift).max(axis=0) / np.maximum(mean, 1e-300)).max()))
    return most
