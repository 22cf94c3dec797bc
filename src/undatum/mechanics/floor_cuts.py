"""What acts within floors that deform: cuts through the slab and its beams along lines.

A cut is the mean of the sums on its two sides: the panels on one side alone carry half of the
load of the panels beside the line. Along an edge there is one side, and its sum is taken.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.layout.frame import Frame
from undatum.layout.panels import CLOSE
from undatum.mechanics.elements import Elements
from undatum.mechanics.framing import end_freedoms
from undatum.mechanics.panels import slab_matrices
from undatum.record import record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FLOOR_FORCES = ("normal", "shear", "moment in plane", "chord force")


@record
class FloorCut:
    """A cut through the floor of a ``level`` along a line: its ``name``, ``axis`` the coordinate
    that is the same along it (0 for x), where it lies, from and to along it (m), and whether the
    floor goes on on both sides."""

    level: int
    name: str
    axis: int
    at: float
    reach: tuple[float, float]
    inside: bool

    @property
    def depth(self) -> float:
        """m, between what is outermost: the lever arm of chords."""
        return self.reach[1] - self.reach[0]


def floor_cuts(frame: Frame, lines: Sequence[tuple[str, int, float]]) -> tuple[FloorCut, ...]:
    """Cuts along ``lines`` (name, axis, coordinate) through floors, along their edges too, whether
    nodes of the mesh lie there or not."""
    slabs = frame.slabs
    found: list[FloorCut] = []
    if slabs is None:
        return ()
    for level in np.unique(slabs.level).tolist():
        own = slabs.nodes[slabs.level == level]
        at = frame.points[own]
        for name, axis, value in lines:
            off = at[:, :, axis] - value
            low, high = off.min(axis=1) < -10 * CLOSE, off.max(axis=1) > 10 * CLOSE
            places = _crossed(at, off, axis)
            if places.size and np.ptp(places) > CLOSE:
                found.append(FloorCut(
                    level, name, axis, value, (float(places.min()), float(places.max())),
                    bool(low.any() and high.any())))
    return tuple(found)


def _crossed(at: Floats, off: Floats, axis: int) -> Floats:
    """Where the edges of panels (q, 4, 3) meet a line from which their corners lie ``off``."""
    found = [at[:, :, 1 - axis][np.abs(off) < 10 * CLOSE]]
    for k in range(4):
        a, b = off[:, k], off[:, (k + 1) % 4]
        across = (np.minimum(a, b) < -10 * CLOSE) & (np.maximum(a, b) > 10 * CLOSE)
        t = a[across] / (a - b)[across]
        p, q = at[across, k, 1 - axis], at[across, (k + 1) % 4, 1 - axis]
        found.append(p + t * (q - p))
    return np.concatenate(found)


def cut_rows(frame: Frame, elements: Elements, cuts: Sequence[FloorCut]) -> sparse.csr_array:
    """(4 k, 6 M) normal force, shear, moment about the vertical axis through the middle and chord
    force of every cut from the motion of the nodes."""
    total = sparse.csr_array((3 * len(cuts), 6 * len(frame.points)))
    slabs = frame.slabs
    assert slabs is not None
    three = slabs.nodes[:, 2] == slabs.nodes[:, 3]
    which = [np.flatnonzero(~three), np.flatnonzero(three)]
    parts = [(matrices, at, slabs.nodes[own][:, :at.shape[1] // 3], slabs.level[own], 3)
             for (matrices, at), own in zip(slab_matrices(frame),
                                            [w for w in which if w.size], strict=True)]
    beams = np.flatnonzero(frame.kinds == "beam")
    if beams.size:
        turn = elements.turn[beams]
        world = turn.transpose(0, 2, 1) @ elements.stiffness[beams] @ turn
        parts.append((world, end_freedoms(frame.ends[beams]), frame.ends[beams],
                      frame.floors[frame.ends[beams, 0]], 6))
    for matrices, at, nodes, level, each in parts:
        total = sparse.csr_array(total + _sides(frame, cuts, matrices, at, nodes, level, each))
    order = np.zeros((4 * len(cuts), 3 * len(cuts)))
    for k, cut in enumerate(cuts):
        order[4 * k:4 * k + 3, 3 * k:3 * k + 3] = np.eye(3)
        order[4 * k + 3, 3 * k + 2] = 1 / cut.depth
    return sparse.csr_array(sparse.csr_array(order) @ total)


def _sides(
    frame: Frame, cuts: Sequence[FloorCut], matrices: Floats, at: Ints, nodes: Ints, level: Ints,
    each: int,
) -> sparse.csr_array:
    """(3 k, 6 M) half of the forces on either side of every cut, of panels or beams of a kind: of
    all that reaches beyond it."""
    place = frame.points[nodes]
    rows, columns, values = [], [], []
    for k, cut in enumerate(cuts):
        off = place[:, :, cut.axis] - cut.at
        here = level == cut.level
        middle = sum(cut.reach) / 2
        before, after = off < -10 * CLOSE, off > 10 * CLOSE
        # what lies before the line on what does not, and the other way about
        one, other = (np.nonzero(~side & (side.any(axis=1) & here)[:, None])
                      for side in (before, after))
        own, corner = (np.concatenate(pair) for pair in zip(one, other, strict=True))
        if not own.size:
            continue
        sign = np.repeat([1.0, -1.0], [one[0].size, other[0].size]) * (0.5 if cut.inside else 1.0)
        along = frame.points[nodes[own, corner], 1 - cut.axis] - middle
        across = off[own, corner]
        turn = 2 if each == 3 else 5
        take = matrices[own][np.arange(own.size)[:, None], each * corner[:, None]
                             + np.array([0, 1, turn])]  # (m, 3, c)
        normal, shear = take[:, cut.axis], take[:, 1 - cut.axis]
        lever, arm = (along, -across) if cut.axis else (-along, across)
        three = np.stack([normal, shear, take[:, 2] + lever[:, None] * normal
                          + arm[:, None] * shear], axis=1)
        count = at.shape[1]
        values.append((sign[:, None, None] * three).ravel())
        rows.append(np.tile(np.repeat(3 * k + np.arange(3), count), own.size))
        columns.append(np.repeat(at[own][:, None], 3, axis=1).ravel())
    shape = (3 * len(cuts), 6 * len(frame.points))
    if not rows:
        return sparse.csr_array(shape)
    return sparse.csr_array(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=shape)
