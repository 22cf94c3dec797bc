"""Sparse factors of a stiffness: the one place where a large matrix is factored."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse.linalg import splu

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class ScaledFactors:
    """LU factors of a symmetric matrix scaled to a unit diagonal."""

    factors: Any
    scale: Floats

    def solve(self, loads: Floats) -> Floats:
        """The solution for loads (N,) or (N, k)."""
        scale = self.scale if loads.ndim == 1 else self.scale[:, None]
        return np.asarray(scale * self.factors.solve(scale * loads))


def scaled_factors(matrix: sparse.csc_array, lost: float) -> ScaledFactors | None:
    """Factors with a symmetric ordering; ``None`` where a pivot over its diagonal is ``lost``.

    The diagonal must be positive.
    """
    scale = np.asarray(1.0 / np.sqrt(matrix.diagonal()))
    shrink = sparse.diags_array(scale)
    try:
        found = splu(sparse.csc_array(shrink @ matrix @ shrink), permc_spec="MMD_AT_PLUS_A",
                     diag_pivot_thresh=0.0, options={"SymmetricMode": True})
    except RuntimeError:
        return None
    if np.min(np.abs(found.U.diagonal())) <= lost:
        return None
    return ScaledFactors(found, scale)
