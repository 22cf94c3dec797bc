"""Solution of the equations: factor once, solve for many loads; a clear word for a mechanism."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.linalg.lapack import dpotrf, dpotrs

from undatum.errors import AnalysisError
from undatum.mechanics.factors import ScaledFactors, scaled_factors
from undatum.mechanics.model import COMPONENTS, WITHIN, Model
from undatum.record import fixed

Floats = NDArray[np.float64]

_SINGULAR = 2e-14  # pivot over diagonal below which a stiffness counts as lost
DENSE = 1500  # equations up to which dense matrices are the faster way
_SAID = {"X": "in X", "Y": "in Y", "Z": "in Z", "rotation": "in rotation about Z",
         WITHIN: "within itself"}


@dataclass(frozen=True, slots=True)
class Solver:
    """The factored stiffness of a model."""

    model: Model
    _lower: Floats | None  # Cholesky factor of a small model, in its lower triangle
    _sparse: ScaledFactors | None  # of a large one

    @fixed
    def solve(self, loads: Floats) -> Floats:
        """Displacements (N,) or (N, k) under loads of the same shape. SI."""
        if self.model.plane:  # what is held takes whatever comes
            loads = np.array(loads)
            loads[self.model.held] = 0.0
        if self._lower is not None:
            return np.asarray(dpotrs(self._lower, loads, lower=True)[0])
        assert self._sparse is not None
        return self._sparse.solve(np.asarray(loads))


def factorize(model: Model) -> Solver:
    """Factor the stiffness. Raises AnalysisError naming what can move freely."""
    k = model.stiffness
    diagonal = k.diagonal()
    if np.all(diagonal > 0):
        scale = 1.0 / np.sqrt(diagonal)
        if k.shape[0] > DENSE:
            factors = scaled_factors(sparse.csc_array(k), _SINGULAR)
            if factors is None:
                raise AnalysisError(_mechanism(model))
            return Solver(model, None, factors)
        scaled = model.dense * scale
        scaled *= scale[:, None]
        # Symmetric: turned, it lies in memory as LAPACK reads it, and is overwritten.
        lower, failed = dpotrf(scaled.T, lower=True, clean=False, overwrite_a=True)
        if not failed and np.min(np.diag(lower)) ** 2 > _SINGULAR:
            lower /= scale[:, None]
            lower.flags.writeable = False
            return Solver(model, lower, None)
    raise AnalysisError(_mechanism(model))


def _mechanism(model: Model) -> str:
    """Name the level and the direction that move without resistance."""
    k = model.stiffness.toarray()
    components, levels = np.array(model.freedoms.component), model.freedoms.level
    scale = 1.0 / np.sqrt(np.maximum(np.diag(k), np.finfo(float).tiny ** 0.25))
    lost = np.flatnonzero(np.diag(k) <= 0)
    if lost.size:
        worst = int(lost[-1])
    else:
        _, vectors = np.linalg.eigh(scale[:, None] * k * scale)
        shape = np.abs(vectors[:, 0])
        worst = int(np.argmax(shape))
        # The whole building above may move along: the lowest level that does is the cause.
        alike = np.flatnonzero(components == components[worst])
        worst = int(alike[shape[alike] > 0.5 * shape[alike].max()][-1])
    component, level = str(components[worst]), levels[worst]
    floor = model.levels.index(level)
    here = [line for line in model.lines if floor in line.levels]
    causes = dict(zip(COMPONENTS, (
        "no lateral line runs along X (or at an angle to Y) in this story",
        "no lateral line runs along Y (or at an angle to X) in this story",
        "all lateral lines of this story pass through one point or run side by side in one "
        "line, so nothing resists twisting"), strict=True))
    cause = causes.get(component, "a part of the floor, which is not rigid, is held by nothing")
    if any(line.stiffness is None for line in here):
        cause = "the columns and braces of this story are hinged at both ends, or their " \
            "stiffness is in a wrong unit"
    names = ", ".join(line.name for line in here) or "none"
    return (
        f"The structure is a mechanism: level {level!r} can move {_SAID[component]} without "
        f"resistance. Likely cause: {cause}. Lines in this story: {names}."
    )
