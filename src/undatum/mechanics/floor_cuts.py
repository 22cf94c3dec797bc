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
    """Cuts along ``lines`` (name, axis, coordinate) where the mesh of a floor has nodes on them."""
    slabs = frame.slabs
    found: list[FloorCut] = []
    if slabs is None:
        return ()
    for level in np.unique(slabs.level).tolist():
        own = slabs.nodes[slabs.level == level]
        at = frame.points[own]
        for name, axis, value in lines:
            on = np.abs(at[:, :, axis] - value) < 10 * CLOSE
            beside = on.sum(axis=1) >= 2
            if not beside.any():
                continue
            places = at[beside][:, :, 1 - axis][on[beside]]
            low, high = float(places.min()), float(places.max())
            side = (at[beside][:, :, axis].mean(axis=1) > value)
            if high - low > CLOSE:
                found.append(FloorCut(level, name, axis, value, (low, high),
                                      bool(side.any() and not side.all())))
    return tuple(found)


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
    """(3 k, 6 M) half of the forces on either side of every cut, of panels or beams of a kind."""
    place = frame.points[nodes]
    rows, columns, values = [], [], []
    for k, cut in enumerate(cuts):
        off = place[:, :, cut.axis] - cut.at
        on = (np.abs(off) < 10 * CLOSE) & (level == cut.level)[:, None]
        side = off.sum(axis=1)  # of the start or of the end
        middle = sum(cut.reach) / 2
        own, corner = np.nonzero(on & (np.abs(side) > 10 * CLOSE)[:, None])
        if not own.size:
            continue
        sign = np.where(side[own] < 0, 1.0, -1.0) * (0.5 if cut.inside else 1.0)
        along = frame.points[nodes[own, corner], 1 - cut.axis] - middle
        turn = 2 if each == 3 else 5
        take = matrices[own][np.arange(own.size)[:, None], each * corner[:, None]
                             + np.array([0, 1, turn])]  # (m, 3, c)
        normal, shear = take[:, cut.axis], take[:, 1 - cut.axis]
        lever = along if cut.axis else -along
        three = np.stack([normal, shear, take[:, 2] + lever[:, None] * normal], axis=1)
        count = at.shape[1]
        values.append((sign[:, None, None] * three).ravel())
        rows.append(np.tile(np.repeat(3 * k + np.arange(3), count), own.size))
        columns.append(np.repeat(at[own][:, None], 3, axis=1).ravel())
    shape = (3 * len(cuts), 6 * len(frame.points))
    if not rows:
        return sparse.csr_array(shape)
    return sparse.csr_array(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=shape)
