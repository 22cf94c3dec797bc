"""Combination of modal values, then of the two directions of ground motion."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, get_args

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.record import fixed, record
from undatum.standards.terms import DirectionalCombination, ModalCombination

Floats = NDArray[np.float64]


def _known(how: str, choices: Any) -> None:
    if how not in get_args(choices):
        raise ValueError(f"{how!r} is no combination; choose from {', '.join(get_args(choices))}")


@fixed
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
    return rho


@record
class ModalCombiner:
    """A way of combining modal values, made once for a set of modes.

    ``factor`` (m, q) is one factor of the correlation matrix, ``rho = factor factor'``, where the
    modes are correlated; ``order`` puts the modes by rising frequency and ``starts`` is where each
    group of close modes begins in that order, where groups are added without sign.
    """

    how: ModalCombination
    factor: Floats | None
    order: tuple[int, ...]
    starts: tuple[int, ...]

    @fixed
    def peaks(self, values: Floats) -> Floats:
        """Peak (...,) of quantities from their modal values (..., m); the sign is lost."""
        if self.how == "absolute sum":
            return np.asarray(np.abs(values).sum(axis=-1))
        if self.how == "SRSS, close modes absolute":
            rising = np.abs(values)[..., list(self.order)]
            sums = np.add.reduceat(rising, self.starts, axis=-1)
            return np.asarray(np.sqrt(np.sum(sums**2, axis=-1)))
        spread = self._spread(values)
        return np.asarray(np.sqrt(np.einsum("...i,...i->...", spread, spread)))

    @fixed
    def peaks_of(self, ordinates: Floats, values: Floats) -> Floats:
        """Peaks (S, k) of quantities whose modal values are ``values`` (k, m) times ``ordinates``
        (S, m)."""
        if self.factor is None:
            return self.peaks(ordinates[:, None, :] * values)
        k, m = values.shape
        spread = values.T[:, :, None] * self.factor[:, None, :]  # one product for all of them
        parts = (ordinates @ spread.reshape(m, -1)).reshape(len(ordinates), k, -1)
        return np.asarray(np.sqrt(np.einsum("...i,...i->...", parts, parts)))

    @fixed
    def in_plan(self, x: Floats, y: Floats) -> Floats:
        """Largest combined value of a plan vector in any direction, from modal x and y values.

        The combined value along direction a is the root of a quadratic form in (cos a, sin a), so
        the largest is the root of its larger eigenvalue. Where absolute values are added there is
        no such form: the root of the sum of squares is returned, an upper bound.
        """
        if self.how in ("absolute sum", "SRSS, close modes absolute"):
            return np.asarray(np.hypot(self.peaks(x), self.peaks(y)))
        a, b = self._spread(x), self._spread(y)
        xx, yy, xy = (np.einsum("...i,...i->...", p, q) for p, q in ((a, a), (b, b), (a, b)))
        root = np.sqrt(((xx - yy) / 2) ** 2 + xy**2)
        return np.asarray(np.sqrt((xx + yy) / 2 + root))

    def _spread(self, values: Floats) -> Floats:
        """Values whose plain sum of squares is the quadratic form."""
        return values if self.factor is None else np.asarray(values @ self.factor)


def combiner(how: ModalCombination, omega: ArrayLike, damping: ArrayLike = 0.05) -> ModalCombiner:
    """Prepare a combination for modes of frequencies ``omega`` (m,) rad/s, in any order.

    SRSS: Rosenblueth (1951); CQC: see :func:`correlation`; absolute sum: the upper bound. With
    close modes absolute, modes within 10 % of the lowest frequency of their group are added
    without sign and the groups by SRSS (IS 1893, 7.8.4.4 of 2002).
    """
    _known(how, ModalCombination)
    w = np.asarray(omega, dtype=float)
    factor = None
    if how == "CQC":
        values, vectors = np.linalg.eigh(correlation(w, damping))
        factor = np.ascontiguousarray(vectors * np.sqrt(np.maximum(values, 0.0)))
    order = np.argsort(w, kind="stable")
    rising, starts = w[order], [0]
    for i in range(1, w.size):
        if rising[i] > 1.1 * rising[starts[-1]] * (1 + 1e-12):
            starts.append(i)
    return ModalCombiner(how, factor, tuple(order.tolist()), tuple(starts))


@fixed
def combine_directions(peaks: Sequence[Floats], how: DirectionalCombination) -> Floats:
    """Peak under all directions of ground motion from the peaks (k,) under each, two or three.

    SRSS, 100 % of one with 30 or 40 % of the others (the largest of all ways), or the largest of
    those taken alone.
    """
    _known(how, DirectionalCombination)
    each = np.array(peaks)
    if how == "SRSS":
        return np.asarray(np.sqrt(np.sum(each**2, axis=0)))
    if how == "independent":
        return np.asarray(each.max(axis=0))
    share = 0.3 if how == "100/30" else 0.4
    return np.asarray((1 - share) * each.max(axis=0) + share * each.sum(axis=0))
