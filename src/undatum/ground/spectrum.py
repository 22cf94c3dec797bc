"""Response spectra as functions of period."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.errors import Fault, InputError
from undatum.record import fixed
from undatum.units import STANDARD_GRAVITY

Floats = NDArray[np.float64]
Interpolation = Literal["linear", "log-log"]
Beyond = Literal["refuse", "hold", "1/T", "1/T2"]
Before = Literal["refuse", "hold"]


class Spectrum(ABC):
    """Pseudo-acceleration against period at one damping ratio.

    Called with periods in s (any shape) it answers accelerations in m/s2 of the same shape.

    >>> given = ud.TabulatedSpectrum("site", (0.1, 1.0, 2.0), (5.0, 5.0, 2.5))
    >>> isinstance(given, ud.Spectrum), float(given(1.5))
    (True, 3.75)
    """

    name: str
    damping: float

    @abstractmethod
    def __call__(self, period: ArrayLike) -> Floats: ...

    @property
    def corners(self) -> Mapping[str, float]:
        """Named corner periods in s, for the plot."""
        return {}

    @property
    def last_period(self) -> float:
        """The longest period it answers for, s."""
        return math.inf

    @property
    def first_period(self) -> float:
        """The shortest period it answers for, s."""
        return 0.0

    @property
    def given_between(self) -> tuple[float, float]:
        """The periods between which ordinates are given, s: at others a rule goes on."""
        return 0.0, math.inf

    @fixed
    def displacement(self, period: ArrayLike) -> Floats:
        """Spectral displacement in m: the acceleration over the square of the frequency."""
        t = np.asarray(period, dtype=float)
        return np.asarray(self(t) * (t / (2 * np.pi)) ** 2)


class ChangedSpectrum(Spectrum):
    """Another spectrum, changed: it answers for the periods that one does."""

    base: Spectrum

    @property
    def corners(self) -> Mapping[str, float]:
        return self.base.corners

    @property
    def last_period(self) -> float:
        return self.base.last_period

    @property
    def first_period(self) -> float:
        return self.base.first_period

    @property
    def given_between(self) -> tuple[float, float]:
        return self.base.given_between


class ReshapedSpectrum(ChangedSpectrum):
    """Another spectrum, changed for any reason but damping."""

    @property
    def damping(self) -> float:  # type: ignore[override]
        return self.base.damping


@dataclass(frozen=True, slots=True)
class TwoPeriodSpectrum(Spectrum):
    """Ramp, plateau, 1/T and 1/T2: the shape fixed by a short-period and a 1-second ordinate.

    ``short`` and ``one_second`` are in m/s2; ``t0``, ``ts`` and ``tl`` are the corner periods in
    s. The ramp starts at 0.4 ``short``. ``end`` is what the end of the plateau is called.
    Source: ASCE 7-16, 11.4.6.
    """

    name: str
    short: float
    one_second: float
    t0: float
    ts: float
    tl: float
    damping: float = 0.05
    end: str = "Ts"

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        safe = np.maximum(t, 1e-12)
        falling = np.where(t <= self.tl, self.one_second / safe,
                           self.one_second * self.tl / safe**2)
        ramp = self.short * (0.4 + 0.6 * t / max(self.t0, 1e-12))
        return np.where(t < self.t0, ramp, np.where(t <= self.ts, self.short, falling))

    @property
    def corners(self) -> Mapping[str, float]:
        return {"T0": self.t0, self.end: self.ts, "TL": self.tl}


@dataclass(frozen=True, slots=True)
class ScaledSpectrum(ChangedSpectrum):
    """Another spectrum times a factor, not below ``least`` (m/s2).

    ``adjusted_to`` is the damping ratio the factor brings it to, where it does.
    """

    name: str
    base: Spectrum
    factor: float
    least: float = 0.0
    adjusted_to: float | None = None

    @property
    def damping(self) -> float:  # type: ignore[override]
        return self.base.damping if self.adjusted_to is None else self.adjusted_to

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        return np.maximum(self.base(period) * self.factor, self.least)


@dataclass(frozen=True, slots=True)
class PeriodScaledSpectrum(ChangedSpectrum):
    """Another spectrum times a factor that depends on the period, straight lines between."""

    name: str
    base: Spectrum
    periods: tuple[float, ...]
    factors: tuple[float, ...]
    damping: float = 0.05

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        return np.asarray(self.base(t) * np.interp(t, self.periods, self.factors))


@dataclass(frozen=True, slots=True)
class TabulatedSpectrum(Spectrum):
    """Ordinates at given periods, with straight-line or log-log interpolation between them.

    ``before`` says what happens at periods shorter than the first: nothing is known and asking is
    an error, or the first ordinate is held. ``beyond`` says the same of those past the last one,
    where it may also fall with the period or with its square.

    >>> given = ud.TabulatedSpectrum("site", (0.1, 1.0, 2.0), (5.0, 5.0, 2.5))
    >>> [float(a) for a in given([0.5, 1.5])]  # straight between the points, m/s2
    [5.0, 3.75]
    """

    name: str
    periods: tuple[float, ...]
    ordinates: tuple[float, ...]
    damping: float = 0.05
    interpolation: Interpolation = "linear"
    beyond: Beyond = "refuse"
    before: Before = "refuse"

    def __post_init__(self) -> None:
        t, a = np.asarray(self.periods), np.asarray(self.ordinates)
        faults = []
        if t.size < 2 or t.size != a.size:
            faults.append(Fault("spectrum", "needs at least two periods, each with one ordinate",
                                "list them in pairs"))
        elif not (np.all(np.isfinite(t)) and np.all(np.isfinite(a))):
            faults.append(Fault("spectrum", "holds a value that is not a finite number",
                                "take it from the source again"))
        else:
            if np.any(np.diff(t) <= 0):
                row = int(np.argmax(np.diff(t) <= 0)) + 1
                faults.append(Fault(
                    f"spectrum row {row + 1}",
                    f"period {t[row]:g} s does not come after {t[row - 1]:g} s",
                    "list the periods in rising order, each once",
                ))
            if t[0] < 0 or np.any(a < 0):
                row = int(np.argmax((t < 0) | (a < 0)))
                faults.append(Fault(f"spectrum row {row + 1}",
                                    "periods and ordinates may not be negative",
                                    "take the signs out, or the rows"))
            if self.interpolation == "log-log" and (np.any(a <= 0) or t[0] <= 0):
                faults.append(Fault("spectrum", "log-log interpolation needs values above zero",
                                    "take linear, or leave those rows out"))
            if a.max() > 10 * STANDARD_GRAVITY:
                faults.append(Fault(
                    f"spectrum row {int(np.argmax(a)) + 1}",
                    f"the largest ordinate is {a.max() / STANDARD_GRAVITY:.3g} g",
                    "no ground shakes like that; is the unit in the header right?",
                ))
        if faults:
            raise InputError(faults)

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t, last = np.asarray(period, dtype=float), self.periods[-1]
        if self.beyond == "refuse" and np.any(t > last * (1 + 1e-12)):
            raise InputError([Fault(
                "spectrum",
                f"ends at {last:g} s but a period of {float(np.max(t)):.4g} s is asked",
                "extend the table past the longest period of the building, or say with "
                'beyond = "1/T", "1/T2" or "hold" how it goes on',
            )])
        if self.before == "refuse" and np.any(t < self.periods[0] * (1 - 1e-12)):
            raise InputError([Fault(
                "spectrum",
                f"begins at {self.periods[0]:g} s but a period of {float(np.min(t)):.4g} s is "
                "asked",
                'begin the table at 0, or say with before = "hold" that the first ordinate holds '
                "below it")])
        x, y = np.asarray(self.periods), np.asarray(self.ordinates)
        if self.interpolation == "linear":
            inside = np.interp(t, x, y)
        else:
            inside = np.exp(np.interp(np.log(np.maximum(t, 1e-12)), np.log(x), np.log(y)))
        power = {"1/T": 1, "1/T2": 2}.get(self.beyond, 0)
        return np.asarray(inside * np.minimum(last / np.maximum(t, 1e-12), 1.0) ** power)

    @property
    def last_period(self) -> float:
        return self.periods[-1] if self.beyond == "refuse" else math.inf

    @property
    def first_period(self) -> float:
        return self.periods[0] if self.before == "refuse" else 0.0

    @property
    def given_between(self) -> tuple[float, float]:
        return self.periods[0], self.periods[-1]


@dataclass(frozen=True, slots=True)
class CombinedSpectrum(Spectrum):
    """Envelope (largest) or mean of several spectra, or the smallest of them, at each period."""

    name: str
    parts: tuple[Spectrum, ...]
    how: Literal["envelope", "mean", "least"]

    @property
    def damping(self) -> float:  # type: ignore[override]
        return self.parts[0].damping

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        values = np.stack([part(period) for part in self.parts])
        if self.how == "mean":
            return np.asarray(values.mean(axis=0))
        return np.asarray(values.max(axis=0) if self.how == "envelope" else values.min(axis=0))

    @property
    def corners(self) -> Mapping[str, float]:
        return {k: v for part in reversed(self.parts) for k, v in part.corners.items()}

    @property
    def last_period(self) -> float:
        return min(part.last_period for part in self.parts)

    @property
    def first_period(self) -> float:
        return max(part.first_period for part in self.parts)

    @property
    def given_between(self) -> tuple[float, float]:
        each = [part.given_between for part in self.parts]
        return max(a for a, _ in each), min(b for _, b in each)


@dataclass(frozen=True, slots=True)
class LiftedSpectrum(ReshapedSpectrum):
    """A spectrum multiplied, where ``same`` lies below ``floor``, by what lifts that to it.

    ``same`` is the curve of the same ground for the damping of the floor.
    """

    name: str
    base: Spectrum
    same: Spectrum
    floor: Spectrum

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        low = np.maximum(self.same(period), 1e-12 * STANDARD_GRAVITY)
        return np.asarray(self.base(period) * np.maximum(self.floor(period) / low, 1.0))

    @property
    def last_period(self) -> float:
        return min(self.base.last_period, self.same.last_period, self.floor.last_period)

    @property
    def first_period(self) -> float:
        return max(self.base.first_period, self.same.first_period, self.floor.first_period)
