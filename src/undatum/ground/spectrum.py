"""Response spectra as functions of period."""

from __future__ import annotations

import csv
import re
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.errors import Fault, InputError
from undatum.units import STANDARD_GRAVITY, factor

Floats = NDArray[np.float64]
Interpolation = Literal["linear", "log-log"]


class Spectrum(ABC):
    """Pseudo-acceleration against period at one damping ratio.

    Called with periods in s (any shape) it answers accelerations in m/s2 of the same shape.
    """

    name: str
    damping: float

    @abstractmethod
    def __call__(self, period: ArrayLike) -> Floats: ...

    @property
    def corners(self) -> Mapping[str, float]:
        """Named corner periods in s, for the plot."""
        return {}


@dataclass(frozen=True, slots=True)
class TwoPeriodSpectrum(Spectrum):
    """Ramp, plateau, 1/T and 1/T2: the shape fixed by a short-period and a 1-second ordinate.

    ``short`` and ``one_second`` are in m/s2; ``t0``, ``ts`` and ``tl`` are the corner periods in
    s. The ramp starts at 0.4 ``short``. Source: ASCE 7-16, 11.4.6.
    """

    name: str
    short: float
    one_second: float
    t0: float
    ts: float
    tl: float
    damping: float = 0.05

    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        safe = np.maximum(t, 1e-12)
        falling = np.where(t <= self.tl, self.one_second / safe,
                           self.one_second * self.tl / safe**2)
        ramp = self.short * (0.4 + 0.6 * t / self.t0)
        return np.where(t < self.t0, ramp, np.where(t <= self.ts, self.short, falling))

    @property
    def corners(self) -> Mapping[str, float]:
        return {"T0": self.t0, "Ts": self.ts, "TL": self.tl}


@dataclass(frozen=True, slots=True)
class ScaledSpectrum(Spectrum):
    """Another spectrum times a factor, not below ``least`` (m/s2)."""

    name: str
    base: Spectrum
    factor: float
    least: float = 0.0

    @property
    def damping(self) -> float:  # type: ignore[override]
        return self.base.damping

    def __call__(self, period: ArrayLike) -> Floats:
        return np.maximum(self.base(period) * self.factor, self.least)

    @property
    def corners(self) -> Mapping[str, float]:
        return self.base.corners


@dataclass(frozen=True, slots=True)
class TabulatedSpectrum(Spectrum):
    """Ordinates at given periods, with straight-line or log-log interpolation between them.

    Outside the table the first ordinate is held towards short periods; a period beyond the last
    one is an error, since nothing says how the spectrum goes on.
    """

    name: str
    periods: tuple[float, ...]
    ordinates: tuple[float, ...]
    damping: float = 0.05
    interpolation: Interpolation = "linear"

    def __post_init__(self) -> None:
        t, a = np.asarray(self.periods), np.asarray(self.ordinates)
        faults = []
        if t.size < 2 or t.size != a.size:
            faults.append(Fault("spectrum", "needs at least two periods, each with one ordinate"))
        elif not (np.all(np.isfinite(t)) and np.all(np.isfinite(a))):
            faults.append(Fault("spectrum", "holds a value that is not a finite number"))
        else:
            if np.any(np.diff(t) <= 0):
                row = int(np.argmax(np.diff(t) <= 0)) + 1
                faults.append(Fault(
                    f"spectrum row {row + 1}",
                    f"period {t[row]:g} s does not come after {t[row - 1]:g} s",
                    "list the periods in rising order, each once",
                ))
            if t[0] < 0 or np.any(a < 0):
                faults.append(Fault("spectrum", "periods and ordinates may not be negative"))
            if self.interpolation == "log-log" and (np.any(a <= 0) or t[0] <= 0):
                faults.append(Fault("spectrum", "log-log interpolation needs values above zero"))
            if a.max() > 10 * STANDARD_GRAVITY:
                faults.append(Fault(
                    "spectrum",
                    f"the largest ordinate is {a.max() / STANDARD_GRAVITY:.3g} g",
                    "no ground shakes like that; is the unit in the header right?",
                ))
        if faults:
            raise InputError(faults)

    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        if np.any(t > self.periods[-1] * (1 + 1e-12)):
            raise InputError([Fault(
                "spectrum",
                f"ends at {self.periods[-1]:g} s but a period of {float(np.max(t)):.4g} s is asked",
                "extend the table past the longest period of the building",
            )])
        x, y = np.asarray(self.periods), np.asarray(self.ordinates)
        if self.interpolation == "linear":
            return np.asarray(np.interp(t, x, y))
        return np.asarray(np.exp(np.interp(np.log(np.maximum(t, 1e-12)), np.log(x), np.log(y))))


_HEAD = re.compile(r"\s*([A-Za-z _-]+?)\s*[\(\[]\s*([^)\]]+)\s*[\)\]]\s*")


def read_spectrum(
    path: Path, *, damping: float = 0.05, interpolation: Interpolation = "linear"
) -> TabulatedSpectrum:
    """Read a spectrum from a CSV file with the units in its header, as in ``period (s), Sa (g)``.

    The first column is the period, the second the pseudo-acceleration. Lines starting with ``#``
    are passed over. Raises InputError naming the file and the line.
    """
    name = path.name

    def wrong(line: int | None, message: str, cure: str = "") -> InputError:
        return InputError([Fault(f"spectrum file {name}", message, cure, line)])

    try:
        text = path.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise wrong(None, f"cannot be read ({error.strerror})") from None
    except UnicodeDecodeError:
        raise wrong(None, "is not a text file", "save it as CSV in UTF-8") from None
    rows = [
        (number, row)
        for number, row in enumerate(csv.reader(text.splitlines()), 1)
        if row and any(cell.strip() for cell in row) and not row[0].lstrip().startswith("#")
    ]
    example = "write a first line such as: period (s), acceleration (g)"
    if not rows:
        raise wrong(None, "is empty", example)
    head_line, head = rows[0]
    matches = [_HEAD.fullmatch(cell) for cell in head[:2]]
    if len(head) < 2 or not all(matches):
        raise wrong(head_line, f"the header {','.join(head)!r} names no units", example)
    try:
        sizes = [
            factor(match[2].strip(), dimension)
            for match, dimension in zip(matches, ("time", "acceleration"), strict=True)
            if match
        ]
    except ValueError as error:
        raise wrong(head_line, str(error), example) from None
    values: list[tuple[float, float]] = []
    for number, row in rows[1:]:
        try:
            values.append((float(row[0]) * sizes[0], float(row[1]) * sizes[1]))
        except (ValueError, IndexError):
            raise wrong(number, f"{','.join(row)!r} is not a period and an ordinate") from None
    periods: Any
    ordinates: Any
    periods, ordinates = zip(*values, strict=True) if values else ((), ())
    try:
        return TabulatedSpectrum(name, tuple(periods), tuple(ordinates), damping, interpolation)
    except InputError as error:
        raise InputError(list(error.faults), source=name) from None
