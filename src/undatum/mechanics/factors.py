"""Sparse factors of a stiffness: the one place where a large matrix is factored.

SciPy's ``splu`` with a symmetric ordering is always there; PARDISO is taken for large matrices
where the extra ``undatum-seismic[fast]`` is installed. Both give the same answers and both refuse
the same matrices: a matrix that has lost its stiffness can pass a factorization without a word, so
pivots are looked at, or what is the same, how much the inverse makes of loads at random.
"""

from __future__ import annotations

import os
import sys
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from importlib.util import find_spec
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse.linalg import splu

Floats = NDArray[np.float64]
Way = Literal["splu", "pardiso"]
AT_ONCE = 4  # loads that SuperLU solves for together; more at a time take longer each
LARGE = 5_000  # equations from which PARDISO is the faster way


@dataclass(frozen=True, slots=True)
class ScaledFactors:
    """Factors of a symmetric matrix scaled to a unit diagonal."""

    factors: Any
    scale: Floats

    def solve(self, loads: Floats) -> Floats:
        """The solution for loads (N,) or (N, k)."""
        if loads.ndim == 1:
            return np.asarray(self.scale * self.factors.solve(self.scale * loads))
        scaled = self.scale[:, None] * loads
        if isinstance(self.factors, _Pardiso) or loads.shape[1] <= AT_ONCE:
            return np.asarray(self.scale[:, None] * self.factors.solve(scaled))
        found = np.empty_like(scaled)
        for k in range(0, loads.shape[1], AT_ONCE):
            found[:, k:k + AT_ONCE] = self.factors.solve(scaled[:, k:k + AT_ONCE])
        return np.asarray(self.scale[:, None] * found)


    def half(self, loads: Floats) -> Floats | None:
        """What squared gives the work of the loads (N, k): ``h.T @ h = loads.T @ inverse @ loads``.

        Half of a solution, where the library can stop there; else nothing.
        """
        if not isinstance(self.factors, _Pardiso):
            return None
        return self.factors.forward(self.scale[:, None] * loads)


class _Pardiso:
    """A positive definite matrix factored by PARDISO, its memory given back at the end."""

    def __init__(self, matrix: sparse.csc_array) -> None:
        self.upper = sparse.csr_matrix(sparse.triu(matrix, format="csr"))
        self.solver = _pardiso_solver()
        self.solver.factorize(self.upper)

    def solve(self, loads: Floats) -> Floats:
        # No refinement, which costs more than the solution: no pivot of a positive definite matrix
        # is disturbed. The library sets it anew at every factorization.
        self.solver.set_iparm(8, 0)
        return np.asarray(self.solver.solve(self.upper, np.asfortranarray(loads)))

    def forward(self, loads: Floats) -> Floats:
        """Loads (N, k) through the lower factor alone."""
        self.solver.set_phase(331)
        return np.asarray(self.solver._call_pardiso(self.upper, np.asfortranarray(loads)))

    def __del__(self) -> None:
        if hasattr(self, "solver") and not sys.is_finalizing():
            self.solver.free_memory(everything=True)


_LIBRARY: list[str] = []  # where the library was found; the search reads the whole environment


def _pardiso_solver() -> Any:
    key, before = "PYPARDISO_MKL_RT", os.environ.get("PYPARDISO_MKL_RT")
    if _LIBRARY and before is None:
        os.environ[key] = _LIBRARY[0]
    try:
        found = import_module("pypardiso").PyPardisoSolver(mtype=2)
    finally:
        if before is None:
            os.environ.pop(key, None)
    _LIBRARY[:] = [found.libmkl._name]
    return found


@cache
def pardiso_there() -> bool:
    """Whether ``undatum-seismic[fast]`` is installed and can be loaded."""
    if find_spec("pypardiso") is None:
        return False
    try:
        import_module("pypardiso")
    except (ImportError, OSError):
        return False
    return True


def solver_words() -> str:
    """Which library solves sparse systems here, in words."""
    return f"PARDISO from {LARGE} freedoms on, SuperLU below" if pardiso_there() else "SuperLU"


def scaled_factors(
    matrix: sparse.csc_array, lost: float, way: Way | None = None
) -> ScaledFactors | None:
    """Factors of a symmetric matrix; ``None`` where a pivot over its diagonal is ``lost``, or
    where it is not positive definite.

    The diagonal must be positive. ``way`` is the fastest there is if left out.
    """
    scale = np.asarray(1.0 / np.sqrt(matrix.diagonal()))
    shrink = sparse.diags_array(scale)
    scaled = sparse.csc_array(shrink @ matrix @ shrink)
    if way is None:
        way = "pardiso" if matrix.shape[0] >= LARGE and pardiso_there() else "splu"
    found = _by_pardiso(scaled, lost) if way == "pardiso" else _by_splu(scaled, lost)
    return None if found is None else ScaledFactors(found, scale)


def _by_splu(scaled: sparse.csc_array, lost: float) -> Any:
    try:
        # Relaxed supernodes, which are usual, cost three to five times as long on such matrices.
        found = splu(scaled, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, relax=1,
                     panel_size=16, options={"SymmetricMode": True})
    except RuntimeError:
        return None
    return None if np.min(found.U.diagonal()) <= lost else _not_lost(found, scaled, lost)


def _by_pardiso(scaled: sparse.csc_array, lost: float) -> Any:
    try:
        found = _Pardiso(scaled)
    except Exception as error:  # PyPardisoError: a pivot is not positive
        if type(error).__name__ != "PyPardisoError":
            raise
        return None
    return _not_lost(found, scaled, lost)


def _not_lost(found: Any, scaled: sparse.csc_array, lost: float) -> Any:
    """The factors, unless the inverse makes too much of anything: the largest by iteration, the
    diagonal of the matrix being one. A pivot alone misses what moves over many nodes at once."""
    if not lost:
        return found
    shape = np.random.default_rng(1).standard_normal(scaled.shape[0])
    size = 0.0
    for _ in range(4):
        shape /= np.linalg.norm(shape)
        shape = found.solve(shape)
        size = float(np.linalg.norm(shape))
        if not np.isfinite(size):
            return None
    return None if size * lost >= 1.0 else found
