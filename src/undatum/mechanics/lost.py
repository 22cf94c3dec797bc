"""Parts taken out of a structure that is solved already: how it moves without them.

One more solution each: the formula of Sherman, Morrison and Woodbury for a stiffness that loses
springs, also where a frame is condensed to its floors.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.layout.frame import Member
from undatum.mechanics.cantilever import shear_flexure_line
from undatum.mechanics.elements import rigid_arms
from undatum.mechanics.framing import FrameModel, end_freedoms
from undatum.mechanics.lines import LateralLine, motions
from undatum.mechanics.model import Model
from undatum.mechanics.panels import shells_of
from undatum.mechanics.solver import Solver
from undatum.record import fixed, record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
LEAST = 1e-9  # of what is left: the building can't stand
FARTHEST = 1e5  # times as far as before: what moves so far can't stand either
KEPT = 1e-7  # of the stiffness of a wall that is taken out, so that its panels stay somewhere
NONE = 1e-12  # of the largest: no spring


@record
class Springs:
    """What is lost: ``rows`` (r, D) on the motion of the floors, ``stiffness`` (r,), and
    ``flexible`` (r, r), how far their ends move under unit forces where the floors are held."""

    rows: Floats
    stiffness: Floats
    flexible: Floats


def without(solver: Solver, whole: Floats, lost: Springs) -> Floats | None:
    """The motion (D, k) without springs, from that with them; nothing where it can't stand."""
    by = solver.solve(lost.rows.T)
    root = np.sqrt(lost.stiffness)
    left = np.eye(len(root)) - root[:, None] * (lost.rows @ by + lost.flexible) * root
    if float(np.linalg.eigvalsh((left + left.T) / 2).min()) < LEAST:
        return None
    moved = whole + by @ (root[:, None] * np.linalg.solve(
        left, root[:, None] * (lost.rows @ whole)))
    far = np.abs(moved).max() > FARTHEST * np.abs(whole).max()
    return None if far else np.asarray(moved)


def _springs(rows: Floats, matrix: Floats) -> tuple[Floats, Floats]:
    """A symmetric stiffness on rows (k, D) as springs: their rows (r, D) and stiffness (r,)."""
    values, vectors = np.linalg.eigh((matrix + matrix.T) / 2)
    keep = values > NONE * max(float(values.max(initial=0.0)), 1e-300)
    return np.asarray(vectors[:, keep].T @ rows), values[keep]


# -- lateral lines ---------------------------------------------------------------------------------


def of_line(
    model: Model, line: LateralLine, story: int, sections: Sequence[tuple[float, float]] | None
) -> Springs:
    """A lateral line left out of its ``story``, counted from its top; ``sections`` are EI and GA by
    story of one that bends, None of one with story springs."""
    rows = motions([line], model.diaphragms.centers, model.diaphragms.freedoms,
                   model.freedoms.count).toarray()
    assert line.stiffness is not None
    assert line.shear is not None
    if sections is None:
        spring = rows[story] - (rows[story + 1] if story + 1 < len(rows) else 0.0)
        lost = spring[None], np.array([line.shear[story, story]])
    else:
        heights = model.diaphragms.story_heights[line.levels]
        lost = _springs(rows, line.stiffness - _cut(sections, heights, story))
    return Springs(*lost, np.zeros((len(lost[1]),) * 2))


@fixed
def _cut(sections: Sequence[tuple[float, float]], heights: Floats, story: int) -> Floats:
    """(m, m) stiffness of a cantilever without one story: what stands on the foot, and above the
    gap a piece that is free to lean."""
    def piece(which: slice) -> Floats:
        bending, shear = zip(*sections[which], strict=True)
        return shear_flexure_line(bending, shear, heights[which].tolist())[0]

    m, low = len(heights), story + 1
    found = np.zeros((m, m))
    if low < m:
        found[low:, low:] = piece(slice(low, None))
    if story > 1:
        above = piece(slice(story))
        lean = np.cumsum(heights[:story][::-1])[::-1]
        turned = above @ lean
        above = above - np.outer(turned, turned) / float(lean @ turned)
        to_floor = np.column_stack([np.eye(story), -np.ones(story)])  # relative to its lowest floor
        found[:low, :low] = to_floor.T @ above @ to_floor
    return found


# -- members and walls -----------------------------------------------------------------------------


def _of_nodes(framed: FrameModel, at: Ints, rows: Floats, stiffness: Floats) -> Springs:
    """Springs from rows (r, k) on the freedoms ``at`` (k,) of nodes."""
    spread = framed.spread[at]
    free = np.asarray(spread[:, framed.stiffness.shape[0]:].T @ rows.T)
    flexible = free.T @ framed.free(free) if len(free) else np.zeros((len(rows),) * 2)
    return Springs(np.asarray(rows @ framed.follow[at]), stiffness, np.asarray(flexible))


def of_member(framed: FrameModel, member: Member) -> Springs:
    """A member. Its torsion is left where it is: it may be all that keeps a joint from turning."""
    elements = list(member.elements)
    at = end_freedoms(framed.frame.ends[elements]).ravel()
    rows, sizes = [], []
    for k, e in enumerate(elements):
        local = framed.elements.stiffness[e].copy()
        local[[3, 9]] = 0.0
        local[:, [3, 9]] = 0.0
        own, stiffness = _springs(framed.elements.turn[e], local)
        placed = np.zeros((len(own), at.size))
        placed[:, 12 * k:12 * k + 12] = own
        rows.append(placed)
        sizes.append(stiffness)
    return _of_nodes(framed, at, np.concatenate(rows), np.concatenate(sizes))


def of_ends(framed: FrameModel, ends: Sequence[tuple[int, Sequence[int]]]) -> Springs:
    """Bending moments at ends of elements that are passed on no more: elements, and which of their
    freedoms."""
    frame, rows, sizes = framed.frame, [], []
    at = end_freedoms(frame.ends[[e for e, _ in ends]]).ravel()
    arms = framed.memo.get("arms", lambda: rigid_arms(frame))
    for k, (e, which) in enumerate(ends):
        own = list(which)
        faces = framed.elements.faces[e]
        held = faces[own] @ np.linalg.inv(arms[e])[:, own]
        values, vectors = np.linalg.eigh((held + held.T) / 2)
        placed = np.zeros((len(own), at.size))
        placed[:, 12 * k:12 * k + 12] = vectors.T @ faces[own] @ framed.elements.turn[e]
        rows.append(placed)
        sizes.append(1.0 / values)
    return _of_nodes(framed, at, np.concatenate(rows), np.concatenate(sizes))


def of_panels(framed: FrameModel, which: Ints) -> Springs:
    """Panels, all but a trace of their stiffness."""
    shells = shells_of(framed.frame)
    assert shells is not None
    at, place = np.unique(shells.at[which], return_inverse=True)
    place = place.reshape(len(which), 24)
    matrix = np.zeros((at.size, at.size))
    np.add.at(matrix, (place[:, :, None], place[:, None, :]), shells.matrices[shells.which[which]])
    rows, stiffness = _springs(np.eye(at.size), matrix)
    return _of_nodes(framed, at, rows, stiffness * (1 - KEPT))
