"""Lateral stiffness of single lines, condensed to one displacement a level."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.record import fixed

Floats = NDArray[np.float64]


@fixed
def shear_line(stiffness: Sequence[float]) -> tuple[Floats, Floats]:
    """Stiffness (n, n) of a line of story springs, top down, held below its lowest story. N/m.

    With it the rows (n, n) that give the shear in each story from the displacements.
    """
    k, n = np.asarray(stiffness, dtype=float), len(stiffness)
    whole, shear = np.zeros((n, n)), np.zeros((n, n))
    at, above, below = np.arange(n), np.arange(n - 1), np.arange(1, n)
    shear[at, at] = k
    whole[at, at] = k
    whole[below, below] += k[:-1]
    shear[above, below] = whole[above, below] = whole[below, above] = -k[:-1]
    return whole, shear


@fixed
def shear_flexure_line(
    bending: Sequence[float], shear: Sequence[float], heights: Sequence[float]
) -> tuple[Floats, Floats]:
    """Stiffness (n, n) of a cantilever that bends and shears, top down, clamped at its foot.

    ``bending`` EI (N m2), ``shear`` G times shear area (N) and ``heights`` (m) of each story. The
    inverse of the flexibility from the unit-load theorem, story by story:
    f_ij = sum over stories below both of integral m_i m_j / EI dz + h / GA. With it the rows (n, n)
    that give the shear in each story: the forces above it added up.
    Source: unit-load theorem; Timoshenko, Strength of Materials, part I.
    """
    ei, ga, h = (np.asarray(v, dtype=float) for v in (bending, shear, heights))
    n = h.size
    z_top = np.cumsum(h[::-1])[::-1]  # height of the top of each story above the foot
    z_bottom = z_top - h
    # Arms of a unit force at level i about the bottom and the top of story s (0 above the force).
    below = np.tri(n).T.astype(bool)  # story s (column) lies below level i (row): s >= i
    arm_bottom = np.where(below, z_top[:, None] - z_bottom[None, :], 0.0)
    arm_top = np.where(below, z_top[:, None] - z_top[None, :], 0.0)
    # Product of two linear diagrams over a story: h/6 (2ab + a b' + a' b + 2 a'b').
    w = h / (6.0 * ei)
    flexibility = (arm_bottom * w) @ (2.0 * arm_bottom + arm_top).T \
        + (arm_top * w) @ (2.0 * arm_top + arm_bottom).T
    flexibility += (below * (h / ga)) @ below.T
    inverse = np.linalg.inv(flexibility)
    stiffness = 0.5 * (inverse + inverse.T)
    return stiffness, np.cumsum(stiffness, axis=0)
