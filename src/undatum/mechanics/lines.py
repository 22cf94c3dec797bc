"""Lateral lines: their part of the stiffness, and the shear they take."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.layout.frame import Frame
from undatum.record import record

Floats = NDArray[np.float64]
_COLLECTS = 1e4  # stiffness along a line that has a length, over its own against the ground


@record
class LateralLine:
    """A lateral line: ``stiffness`` (m, m) against displacement along ``axis`` at ``levels``.

    ``point`` and ``axis`` are plan coordinates and the unit vector along the line; ``levels`` (m,)
    holds the diaphragms it is connected to, top down, without the one it stands on. Displacements
    are relative to that one, ``foot``, which may move itself (-1 is the ground). ``shear`` (m, m)
    gives the shear in each of its stories from the same displacements. ``strength`` (m,) is the
    lateral strength by story, not a number where it is not known. A line of members has no
    ``stiffness`` and ``shear`` of its own: its members are assembled one by one.
    """

    name: str
    point: Floats
    axis: Floats
    levels: NDArray[np.intp]
    foot: int
    stiffness: Floats | None
    shear: Floats | None
    plan_length: float | None
    strength: Floats

    def meets(self, levels: Collection[int]) -> bool:
        """Whether it has a stiffness of its own and stands on or under one of ``levels``."""
        return self.stiffness is not None and any(
            i in levels for i in (*self.levels.tolist(), self.foot))

    @property
    def moment_arm(self) -> float:
        """Arm of a force along the line about the vertical axis through the origin, m."""
        return float(self.point[0] * self.axis[1] - self.point[1] * self.axis[0])


def motions(
    lines: Sequence[LateralLine], centers: Floats, freedoms: NDArray[np.intp], count: int
) -> sparse.csr_array:
    """Rows (k, N) giving the displacement along every line at its levels, relative to its foot.

    ``centers`` (n, 2) and ``freedoms`` (n, 3) are those of the diaphragms, ``count`` is N.
    """
    if not lines:
        return sparse.csr_array((0, count))
    each = np.array([line.levels.size for line in lines])
    at = np.concatenate([line.levels for line in lines])
    point = np.repeat([line.point for line in lines], each, axis=0)
    axis = np.repeat([line.axis for line in lines], each, axis=0)
    foot = np.repeat([line.foot for line in lines], each)
    moved = np.flatnonzero(foot >= 0)  # the ground does not move
    row = np.concatenate([np.arange(at.size), moved])
    floor = np.concatenate([at, foot[moved]])
    sign = np.repeat([1.0, -1.0], [at.size, moved.size])
    arm, along = point[row] - centers[floor], sign[:, None] * axis[row]
    lever = arm[:, 0] * along[:, 1] - arm[:, 1] * along[:, 0]
    order = np.argsort(row, kind="stable")
    values, columns = np.column_stack([along, lever])[order], freedoms[floor[order]]
    there = values != 0.0
    ends = row_ends(np.bincount(row[order], there.sum(axis=1), at.size).astype(np.int32))
    return sparse.csr_array((values[there], columns.astype(np.int32)[there], ends),
                            shape=(at.size, count))


def row_ends(counts: NDArray[Any]) -> NDArray[np.int32]:
    """Where rows of so many values end, in the integers that sparse rows are kept in."""
    found = np.zeros(counts.size + 1, dtype=np.int32)
    np.cumsum(counts, out=found[1:])
    return found


def blocks(parts: Sequence[Floats]) -> sparse.csr_array:
    """Square matrices along a diagonal, what is zero in them left out."""
    if not parts:
        return sparse.csr_array((0, 0))
    size = sum(map(len, parts))
    values, columns, counts = [], [], []
    start = 0
    for part in parts:
        there = part != 0.0
        row_count = np.count_nonzero(there, axis=1)
        at = np.flatnonzero(there)
        values.append(part.ravel()[at])
        columns.append(at - np.repeat(np.arange(len(part)) * len(part) - start, row_count))
        counts.append(row_count)
        start += len(part)
    ends = row_ends(np.concatenate(counts))
    return sparse.csr_array(
        (np.concatenate(values), np.concatenate(columns).astype(np.int32), ends),
        shape=(size, size))


def diagonal(values: Floats, rows: int | None = None) -> sparse.csr_array:
    """A matrix of the values along the diagonal, with as many rows or with empty ones below."""
    count = values.size if rows is None else rows
    ends = np.minimum(np.arange(count + 1, dtype=np.int32), np.int32(values.size))
    return sparse.csr_array((values, np.arange(values.size, dtype=np.int32), ends),
                            shape=(count, values.size))


def assemble(lines: Sequence[LateralLine], rows: sparse.csr_array) -> sparse.csr_array:
    """(N, N) stiffness of all lines together, from the ``rows`` of :func:`motions`."""
    if not lines:
        return sparse.csr_array((rows.shape[1], rows.shape[1]))
    across: sparse.csr_array = rows.T.tocsr()
    return across @ (blocks(  # type: ignore[no-any-return]
        [line.stiffness for line in lines if line.stiffness is not None]) @ rows)


def node_motions(lines: Sequence[LateralLine], frame: Frame) -> sparse.csr_array:
    """(k, 6 M) rows as :func:`motions`, from the nodes where lines meet floors that deform.

    A line with a length moves as the mean along it, see :func:`collectors`.
    """
    rows, columns, values = [], [], []
    r = 0
    for line in lines:
        for level in line.levels.tolist():
            for floor, sign in ((level, 1.0), (line.foot, -1.0)):
                if floor < 0:
                    continue  # the ground does not move
                for node, share in line_nodes(line, frame, floor):
                    rows += [r, r]
                    columns += [6 * node, 6 * node + 1]
                    values += [sign * share * float(a) for a in line.axis]
            r += 1
    return sparse.csr_array((values, (rows, columns)), shape=(r, 6 * len(frame.points)))


def collectors(lines: Sequence[LateralLine], frame: Frame) -> sparse.csr_array:
    """(6 M, 6 M) stiffness that keeps the nodes along every line moving as one along it."""
    rows, columns, values = [], [], []
    r = 0
    for line in lines:
        assert line.stiffness is not None
        stiff = math.sqrt(_COLLECTS * float(np.abs(line.stiffness).max()))
        for level in {*line.levels.tolist(), line.foot} - {-1}:
            nodes = line_nodes(line, frame, level)
            for node, _ in nodes if len(nodes) > 1 else ():
                for other, share in nodes:
                    rows += [r, r]
                    columns += [6 * other, 6 * other + 1]
                    values += [stiff * ((other == node) - share) * float(a) for a in line.axis]
                r += 1
    found = sparse.csr_array((values, (rows, columns)), shape=(r, 6 * len(frame.points)))
    return sparse.csr_array(found.T @ found)


def line_nodes(line: LateralLine, frame: Frame, level: int) -> list[tuple[int, float]]:
    """The nodes of a floor along a line, and the share of each in its motion: of its length."""
    own = np.flatnonzero(frame.floors == level)
    away = frame.points[own, :2] - line.point
    along = away @ line.axis
    off = np.abs(away @ np.array([-line.axis[1], line.axis[0]]))
    there = np.flatnonzero((off < 1e-4) & (np.abs(along) < 0.5 * (line.plan_length or 0.0) + 1e-4))
    there = there[np.argsort(along[there])]
    if there.size == 1:
        return [(int(own[there[0]]), 1.0)]
    gaps = np.diff(along[there])
    share = 0.5 * (np.append(gaps, 0.0) + np.append(0.0, gaps))
    return list(zip(own[there].tolist(), (share / share.sum()).tolist(), strict=True))
