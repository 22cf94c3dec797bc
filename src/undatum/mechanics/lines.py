"""Lateral lines: their part of the stiffness, and the shear they take."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.record import record

Floats = NDArray[np.float64]


@record
class LateralLine:
    """A lateral line: ``stiffness`` (m, m) against displacement along ``axis`` at ``levels``.

    ``point`` and ``axis`` are plan coordinates and the unit vector along the line; ``levels`` (m,)
    holds the diaphragms it is connected to, top down, without the one it stands on. Displacements
    are relative to that one, ``foot``, which may move itself (-1 is the ground). ``shear`` (m, m)
    gives the shear in each of its stories from the same displacements. ``strength`` (m,) is the
    lateral strength by story, not a number where it is not known.
    """

    name: str
    point: Floats
    axis: Floats
    levels: NDArray[np.intp]
    foot: int
    stiffness: Floats
    shear: Floats
    plan_length: float | None
    strength: Floats

    @property
    def moment_arm(self) -> float:
        """Arm of a force along the line about the vertical axis through the origin, m."""
        return float(self.point[0] * self.axis[1] - self.point[1] * self.axis[0])


def motion(
    line: LateralLine, centers: Floats, freedoms: NDArray[np.intp], count: int
) -> sparse.csr_array:
    """(m, N) rows giving the displacement along a line at its levels, relative to its foot.

    ``centers`` (n, 2) and ``freedoms`` (n, 3) are those of the diaphragms, ``count`` is N.
    """
    rows = np.arange(line.levels.size)
    ends = [(line.levels, 1.0)]
    if line.foot >= 0:  # the ground does not move
        ends.append((np.full(rows.size, line.foot), -1.0))
    data, columns = [], []
    for at, sign in ends:
        arm = line.point - centers[at]
        lever = arm[:, 0] * line.axis[1] - arm[:, 1] * line.axis[0]
        data += [np.full(rows.size, sign * line.axis[0]), np.full(rows.size, sign * line.axis[1]),
                 sign * lever]
        columns += [freedoms[at, 0], freedoms[at, 1], freedoms[at, 2]]
    return sparse.csr_array(
        (np.concatenate(data), (np.tile(rows, len(data)), np.concatenate(columns))),
        shape=(rows.size, count))


def blocks(parts: Sequence[Floats]) -> sparse.csr_array:
    """Square matrices along a diagonal, what is zero in them left out."""
    starts = np.cumsum([0, *(len(part) for part in parts)])
    places = [np.nonzero(part) for part in parts]
    return sparse.csr_array(
        (np.concatenate([part[at] for part, at in zip(parts, places, strict=True)]),
         (np.concatenate([at[0] + k for at, k in zip(places, starts, strict=False)]),
          np.concatenate([at[1] + k for at, k in zip(places, starts, strict=False)]))),
        shape=(int(starts[-1]), int(starts[-1])))


def assemble(
    lines: Sequence[LateralLine], motions: Sequence[sparse.csr_array], count: int
) -> sparse.csr_array:
    """(N, N) stiffness of all lines together."""
    if not lines:
        return sparse.csr_array((count, count))
    rows = sparse.vstack(motions, format="csr")
    return sparse.csr_array(rows.T @ (blocks([line.stiffness for line in lines]) @ rows))
