"""Combination of modal values, then of the two directions of ground motion."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, get_args

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.record import fixed, record
from undatum.standards.terms import OTHERS, DirectionalCombination, ModalCombination

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


@fixed
def double_sum_correlation(omega: ArrayLike, damping: ArrayLike, duration: float) -> Floats:
    """Correlation coefficients (m, m) of modal responses to a white noise of some ``duration``, s.

    ``omega`` (m,) rad/s, ``damping`` a ratio or one for each mode. Source: Rosenblueth and Elorduy,
    Responses of linear systems to certain transient disturbances, 4th WCEE, 1969.
    """
    w = np.asarray(omega, dtype=float)
    z = np.broadcast_to(np.asarray(damping, dtype=float), w.shape)
    damped = w * np.sqrt(1 - z**2)
    width = (z + 2 / (duration * w)) * w
    apart = (damped[:, None] - damped[None, :]) / (width[:, None] + width[None, :])
    return np.asarray(1 / (1 + apart**2))


@fixed
def rigid_shares(omega: ArrayLike, between: tuple[float, float]) -> Floats:
    """(m,) share of the rigid response in each mode: nothing up to the first key frequency (Hz),
    all of it from the second one on, by the logarithm between.

    Source: Gupta, Response Spectrum Method in Seismic Analysis and Design of Structures, 1990,
    chapter 3; U.S. NRC Regulatory Guide 1.92, revision 2, 2006.
    """
    low, high = between
    f = np.maximum(np.asarray(omega, dtype=float) / (2 * np.pi), 1e-12)
    return np.asarray(np.clip(np.log(f / low) / np.log(high / low), 0.0, 1.0))


@record
class ModalCombiner:
    """A way of combining modal values, made once for a set of modes.

    ``factor`` (m, q) is one factor of the correlation matrix, ``rho = factor factor'``, where the
    modes are correlated; ``lesser`` (m, r) that of what is taken off it again, where the matrix is
    not positive; ``order`` puts the modes by rising frequency and ``starts`` is where each group of
    close modes begins in that order, where groups are added without sign.
    """

    how: ModalCombination
    factor: Floats | None
    order: tuple[int, ...]
    starts: tuple[int, ...]
    lesser: Floats | None = None

    @fixed
    def peaks(self, values: Floats) -> Floats:
        """Peak (...,) of quantities from their modal values (..., m); the sign is lost."""
        if self.how == "absolute sum":
            return np.asarray(np.abs(values).sum(axis=-1))
        if self.how == "SRSS, close modes absolute":
            rising = np.abs(values)[..., list(self.order)]
            sums = np.add.reduceat(rising, self.starts, axis=-1)
            return np.asarray(np.sqrt(np.sum(sums**2, axis=-1)))
        return np.asarray(np.sqrt(np.maximum(self.product(values, values), 0.0)))

    @fixed
    def peaks_of(self, ordinates: Floats, values: Floats) -> Floats:
        """Peaks (S, k) of quantities whose modal values are ``values`` (k, m) times ``ordinates``
        (S, m)."""
        if self.factor is None or self.lesser is not None:
            return self.peaks(ordinates[:, None, :] * values)
        k, m = values.shape
        spread = values.T[:, :, None] * self.factor[:, None, :]  # one product for all of them
        parts = (ordinates @ spread.reshape(m, -1)).reshape(len(ordinates), k, -1)
        return np.asarray(np.sqrt(np.einsum("...i,...i->...", parts, parts)))

    @fixed
    def vectors(self, x: Floats, y: Floats) -> Floats:
        """Combined values (3, k) of plan vectors from modal x and y values (k, m): along x, along
        y, and the largest in any direction.

        The combined value along direction a is the root of a quadratic form in (cos a, sin a), so
        the largest is the root of its larger eigenvalue. Where absolute values are added there is
        no such form: the root of the sum of squares is returned, an upper bound.
        """
        if not self.quadratic:
            along = [self.peaks(x), self.peaks(y)]
            return np.array([*along, np.hypot(*along)])
        xx, yy, xy = (self.product(p, q) for p, q in ((x, x), (y, y), (x, y)))
        root = np.sqrt(((xx - yy) / 2) ** 2 + xy**2)
        return np.asarray(np.sqrt(np.maximum([xx, yy, (xx + yy) / 2 + root], 0.0)))

    @property
    @fixed
    def correlation(self) -> Floats | None:
        """(m, m) coefficients with which products of two modes count; none where no two do."""
        if self.factor is None:
            return None
        found = self.factor @ self.factor.T
        return found if self.lesser is None else found - self.lesser @ self.lesser.T

    @property
    def quadratic(self) -> bool:
        """Whether the square of a peak is a quadratic form of the modal values."""
        return self.how not in ("absolute sum", "SRSS, close modes absolute")

    @fixed
    def product(self, x: Floats, y: Floats) -> Floats:
        """(...,) the quadratic form of two sets of modal values (..., m): x rho y."""
        if self.factor is None:
            return np.asarray(np.einsum("...i,...i->...", x, y))
        a = x @ self.factor
        total = np.einsum("...i,...i->...", a, a if y is x else y @ self.factor)
        if self.lesser is None:
            return np.asarray(total)
        return np.asarray(total - np.einsum("...i,...i->...", x @ self.lesser, y @ self.lesser))


def combiner(
    how: ModalCombination, omega: ArrayLike, damping: ArrayLike = 0.05, *,
    duration: float = 0.0, rigid: ArrayLike | None = None,
) -> ModalCombiner:
    """Prepare a combination for modes of frequencies ``omega`` (m,) rad/s, in any order.

    SRSS: Rosenblueth (1951); CQC: see :func:`correlation`; double sum for a ``duration`` (s): see
    :func:`double_sum_correlation`; absolute sum: the upper bound. With close modes absolute, modes
    within 10 % of the lowest frequency of their group are added without sign and the groups by
    SRSS (IS 1893, 7.8.4.4 of 2002). ``rigid`` (m,) shares are added with their signs, the rest of
    the modes goes together as asked: see :func:`rigid_shares`.
    """
    _known(how, ModalCombination)
    w = np.asarray(omega, dtype=float)
    rho = correlation(w, damping) if how == "CQC" else \
        double_sum_correlation(w, damping, duration) if how == "double sum" else None
    if rigid is not None:
        alpha = np.asarray(rigid, dtype=float)
        rest = np.sqrt(1 - alpha**2)
        rho = rest[:, None] * (np.eye(w.size) if rho is None else rho) * rest \
            + alpha[:, None] * alpha
    factor, lesser = (None, None) if rho is None else _factors(rho)
    order = np.argsort(w, kind="stable")
    rising, starts = w[order], [0]
    for i in range(1, w.size):
        if rising[i] > 1.1 * rising[starts[-1]] * (1 + 1e-12):
            starts.append(i)
    return ModalCombiner(how, factor, tuple(order.tolist()), tuple(starts), lesser)


def _factors(rho: Floats) -> tuple[Floats, Floats | None]:
    """Factors of the positive part of a symmetric matrix and of the negative one, if there is."""
    values, vectors = np.linalg.eigh(rho)
    below = values < -1e-9 * values[-1]
    factor = np.ascontiguousarray(vectors * np.sqrt(np.maximum(values, 0.0)))
    return factor, vectors[:, below] * np.sqrt(-values[below]) if below.any() else None


@fixed
def combine_directions(peaks: Sequence[Floats], how: DirectionalCombination) -> Floats:
    """Peak under all directions of ground motion from the peaks (k,) under each, two or three.

    SRSS, 100 % of one with 30 or 40 % of the others (the largest of all ways), the sum of all, or
    the largest of those taken alone.
    """
    _known(how, DirectionalCombination)
    each = np.array(peaks)
    if how == "SRSS":
        return np.asarray(np.sqrt(np.sum(each**2, axis=0)))
    share = OTHERS[how]
    return np.asarray((1 - share) * each.max(axis=0) + share * each.sum(axis=0))
