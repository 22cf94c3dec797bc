"""Static solution and natural vibration, with a clear word when the structure is a mechanism."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from undatum.errors import AnalysisError
from undatum.mechanics.system import System

Floats = NDArray[np.float64]

_SINGULAR = 1e-12  # pivot over diagonal below which a stiffness counts as lost
_DIRECTIONS = ("in X", "in Y", "in rotation about Z")


def factorize(system: System) -> Floats:
    """Cholesky factor of the stiffness. Raises AnalysisError naming what can move freely."""
    k = system.stiffness
    diagonal = np.diag(k)
    if np.all(diagonal > 0):
        scale = 1.0 / np.sqrt(diagonal)
        try:
            scaled = linalg.cholesky(scale[:, None] * k * scale, lower=True)
        except linalg.LinAlgError:
            pass
        else:
            if np.min(np.diag(scaled)) ** 2 > _SINGULAR:
                return np.asarray(scaled / scale[:, None])
    raise AnalysisError(_mechanism(system))


def _mechanism(system: System) -> str:
    """Name the level and the direction that move without resistance."""
    n, k = system.n, system.stiffness
    scale = 1.0 / np.sqrt(np.maximum(np.diag(k), np.finfo(float).tiny ** 0.25))
    lost = np.flatnonzero(np.diag(k) <= 0)
    if lost.size:
        worst = int(lost[-1])
    else:
        _, vectors = np.linalg.eigh(scale[:, None] * k * scale)
        shape = vectors[:, 0]
        worst = int(np.argmax(np.abs(shape)))
        # The whole building above may move along: the lowest level that does is the cause.
        block = np.abs(shape[worst // n * n : worst // n * n + n])
        moving = np.flatnonzero(block > 0.5 * block.max())
        worst = worst // n * n + int(moving[-1])
    level, direction = system.levels[worst % n], _DIRECTIONS[worst // n]
    here = [line for line in system.lines if worst % n in line.levels]
    cause = {
        0: "no lateral line runs along X (or at an angle to Y) in this story",
        1: "no lateral line runs along Y (or at an angle to X) in this story",
        2: "all lateral lines of this story pass through one point or run side by side in one "
           "line, so nothing resists twisting",
    }[worst // n]
    names = ", ".join(line.name for line in here) or "none"
    return (
        f"The structure is a mechanism: level {level!r} can move {direction} without "
        f"resistance. Likely cause: {cause}. Lines in this story: {names}."
    )


def solve_static(system: System, loads: Floats) -> Floats:
    """Displacements (3n, m) under loads (3n, m): forces in N, moments about Z in N m."""
    return np.asarray(linalg.cho_solve((system.factor, True), loads))


def vibration(system: System) -> tuple[Floats, Floats]:
    """Circular frequencies (m,) rad/s, rising, and shapes (3n, m) with unit modal mass.

    Degrees of freedom without mass follow the others (exact static condensation), so ``m`` counts
    only those with mass. Modes of equal frequency are turned so that the first of them carries
    all the motion along X that the group has, the next along Y.
    """
    mass = system.mass_diagonal
    heavy = mass > 1e-12 * mass.max()
    k = system.stiffness
    root = 1.0 / np.sqrt(mass[heavy])
    if heavy.all():
        condensed, follow = k, np.zeros((0, int(heavy.sum())))
    else:
        light = ~heavy
        factor = linalg.cho_factor(k[np.ix_(light, light)], lower=True)
        follow = -linalg.cho_solve(factor, k[np.ix_(light, heavy)])
        condensed = k[np.ix_(heavy, heavy)] + k[np.ix_(heavy, light)] @ follow
    matrix = root[:, None] * condensed * root
    squared, vectors = linalg.eigh(0.5 * (matrix + matrix.T))
    shapes = np.zeros((mass.size, squared.size))
    shapes[heavy] = root[:, None] * vectors
    shapes[~heavy] = follow @ shapes[heavy]
    omega = np.sqrt(np.maximum(squared, 0.0))
    _align_equal(omega, shapes, mass[:, None] * system.influence())
    return omega, shapes


def _align_equal(omega: Floats, shapes: Floats, carried: Floats) -> None:
    """Turn shapes of equal frequency towards X, Y, rotation; fix all signs (in place)."""
    breaks = np.flatnonzero(np.diff(omega) > 1e-7 * omega[1:]) + 1
    for group in np.split(np.arange(omega.size), breaks):
        if group.size > 1:
            q, _ = np.linalg.qr(shapes[:, group].T @ carried, mode="complete")
            shapes[:, group] = shapes[:, group] @ q
    factors = carried.T @ shapes
    leading = np.argmax(np.abs(factors / np.linalg.norm(carried, axis=0)[:, None]), axis=0)
    signs = np.sign(factors[leading, np.arange(omega.size)])
    shapes *= np.where(signs == 0, 1.0, signs)
