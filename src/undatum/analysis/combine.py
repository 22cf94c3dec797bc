"""Combination of modal values, then of the two directions of ground motion."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.standards.answers import DirectionalCombination, ModalCombination

Floats = NDArray[np.float64]


def correlation(omega: ArrayLike, damping: ArrayLike) -> Floats:
    """Correlation coefficients (m, m) of modal responses to white noise.

    ``omega`` (m,) rad/s, ``damping`` a ratio or one for each mode.
    Source: Der Kiureghian, Earthquake Eng. Struct. Dyn. 9 (1981), 419-435; Wilson, Der Kiureghian
    and Bayo, same journal 9 (1981), 187-194.
    """
    w = np.asarray(omega, dtype=float)
    z = np.broadcast_to(np.asarray(damping, dtype=float), w.shape)
    r = w[None, :] / w[:, None]
    zi, zj = z[:, None], z[None, :]
    top = 8 * np.sqrt(zi * zj) * (zi + r * zj) * r**1.5
    bottom = (1 - r**2) ** 2 + 4 * zi * zj * r * (1 + r**2) + 4 * (zi**2 + zj**2) * r**2
    with np.errstate(invalid="ignore"):
        rho = np.where(bottom > 0, top / bottom, 0.0)
    np.fill_diagonal(rho, 1.0)
    return np.asarray(rho)


def combine_modes(
    values: Floats, how: ModalCombination, omega: ArrayLike, damping: ArrayLike = 0.05
) -> Floats:
    """Peak of quantities from their modal values (..., m); the sign is lost. Same units.

    SRSS: Rosenblueth (1951); CQC: see :func:`correlation`; absolute sum: the upper bound. With
    close modes absolute, modes within 10 % of the lowest frequency of their group are added
    without sign and the groups by SRSS (IS 1893, 7.8.4.4 of 2002).
    """
    if how == "absolute sum":
        return np.asarray(np.abs(values).sum(axis=-1))
    if how == "SRSS, close modes absolute":
        starts = _group_starts(np.asarray(omega, dtype=float))
        sums = np.add.reduceat(np.abs(values), starts, axis=-1)
        return np.asarray(np.sqrt(np.sum(sums**2, axis=-1)))
    return np.asarray(np.sqrt(np.maximum(pairing(values, values, how, omega, damping), 0.0)))


def _group_starts(omega: Floats) -> list[int]:
    """Where each group of close modes starts, frequencies rising."""
    starts = [0]
    for i in range(1, omega.size):
        if omega[i] > 1.1 * omega[starts[-1]] * (1 + 1e-12):
            starts.append(i)
    return starts


def pairing(
    a: Floats, b: Floats, how: ModalCombination, omega: ArrayLike, damping: ArrayLike = 0.05
) -> Floats:
    """The quadratic form of CQC or SRSS for two quantities: sum of rho_ij a_i b_j."""
    if how == "SRSS":
        return np.asarray(np.sum(a * b, axis=-1))
    return np.asarray(np.sum((a @ correlation(omega, damping)) * b, axis=-1))


def largest_in_plan(
    x: Floats, y: Floats, how: ModalCombination, omega: ArrayLike, damping: ArrayLike = 0.05
) -> Floats:
    """Largest combined value of a plan vector in any direction, from modal x and y values.

    The combined value along direction a is the root of a quadratic form in (cos a, sin a), so the
    largest is the root of its larger eigenvalue. Where absolute values are added there is no such
    form: the root of the sum of squares is returned, an upper bound.
    """
    if how in ("absolute sum", "SRSS, close modes absolute"):
        return np.hypot(*(combine_modes(v, how, omega, damping) for v in (x, y)))
    xx, yy, xy = (pairing(a, b, how, omega, damping) for a, b in ((x, x), (y, y), (x, y)))
    root = np.sqrt(((xx - yy) / 2) ** 2 + xy**2)
    return np.asarray(np.sqrt(np.maximum((xx + yy) / 2 + root, 0.0)))


def combine_directions(x: Floats, y: Floats, how: DirectionalCombination) -> Floats:
    """Peak under both directions of ground motion from the peaks under each.

    SRSS, 100 % of one with 30 or 40 % of the other (the larger of both ways), or the larger of
    the two taken alone.
    """
    if how == "SRSS":
        return np.hypot(x, y)
    if how == "independent":
        return np.maximum(x, y)
    share = 0.3 if how == "100/30" else 0.4
    return np.maximum(x + share * y, share * x + y)
