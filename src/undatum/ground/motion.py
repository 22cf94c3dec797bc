"""Response spectra of ground-motion records.

The motion is taken as straight lines between its samples. For such a motion the response of a
damped oscillator is known exactly from one sample to the next; the step is written as a digital
filter with two poles, so that a whole history is one pass of a compiled loop.
Source: Nigam and Jennings, Bull. Seism. Soc. Am. 59 (1969), 909-922, for the exact step.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import linalg

from undatum.errors import Fault, InputError
from undatum.record import fixed, frozen, record
from undatum.table import Table, column
from undatum.textfile import csv_rows, read_text
from undatum.units import STANDARD_GRAVITY, factor

Floats = NDArray[np.float64]

#: A peak may fall between samples; the history is resampled so that a period has this many, and
#: a peak is then low by at most 1 - cos(pi/60), 0.14 %.
SAMPLES_A_PERIOD = 60
LARGEST_RECORD = 200_000_000  # bytes of a file


@record
class GroundMotion:
    """Ground acceleration (n,) in m/s2 at a fixed step in s.

    >>> import numpy as np
    >>> motion = ud.GroundMotion("sine", 0.01, np.sin(np.arange(0, 5, 0.01)))
    >>> motion.step
    0.01
    """

    name: str
    step: float
    acceleration: Floats

    def __post_init__(self) -> None:
        a = np.asarray(self.acceleration, dtype=float)
        faults = []
        if a.ndim != 1 or a.size < 3:
            faults.append(Fault(self.name, "holds fewer than three samples",
                                "give the record from its first sample to its last"))
        elif not np.all(np.isfinite(a)):
            row = int(np.flatnonzero(~np.isfinite(a))[0])
            faults.append(Fault(self.name, f"sample {row + 1} is not a finite number",
                                "take it from the source again"))
        elif np.abs(a).max() > 10 * STANDARD_GRAVITY:
            faults.append(Fault(
                self.name, f"reaches {np.abs(a).max() / STANDARD_GRAVITY:.3g} g",
                "no ground shakes like that; is the unit right?"))
        if not (np.isfinite(self.step) and 1e-5 <= self.step <= 1.0):
            faults.append(Fault(self.name, f"the step of {self.step:g} s is not between 1e-05 and "
                                "1 s", "give the time between two samples"))
        if faults:
            raise InputError(faults)
        object.__setattr__(self, "acceleration", frozen(np.array(a)))  # a copy of its own

    @property
    def peak(self) -> float:
        """Peak ground acceleration, m/s2."""
        return float(np.abs(self.acceleration).max())

    def __str__(self) -> str:
        return (f"{self.name}: {self.acceleration.size} samples at {self.step:g} s, "
                f"{self.duration:.1f} s, peak {self.peak / STANDARD_GRAVITY:.3f} g")

    @property
    def duration(self) -> float:
        """s."""
        return self.step * (self.acceleration.size - 1)


@record
class RecordSpectra:
    """Spectra of one record: ``displacement`` (periods, dampings) in m; periods (n,) in s."""

    name: str
    periods: Floats
    dampings: Floats
    displacement: Floats

    @property
    @fixed
    def pseudo_velocity(self) -> Floats:
        """Circular frequency times spectral displacement, m/s."""
        return np.asarray(2 * np.pi / self.periods[:, None] * self.displacement)

    @property
    @fixed
    def pseudo_acceleration(self) -> Floats:
        """Circular frequency squared times spectral displacement, m/s2."""
        return np.asarray((2 * np.pi / self.periods[:, None]) ** 2 * self.displacement)

    def table(self, rotated: Mapping[str, Floats] | None = None) -> Table:
        """All ordinates by period, with those over all directions of a pair (m/s2) if given."""
        parts = [("pseudo-acceleration", "acceleration", self.pseudo_acceleration),
                 ("pseudo-velocity", "velocity", self.pseudo_velocity),
                 ("displacement", "displacement", self.displacement)]
        return Table(
            "record_spectra",
            f"Response spectra of {self.name}",
            (
                column("period", "time", self.periods),
                *(column(f"{name}, {z:.3g} damping", dimension, values[:, j])
                  for name, dimension, values in parts
                  for j, z in enumerate(self.dampings)),
                *(column(name, "acceleration", values)
                  for name, values in (rotated or {}).items()),
            ),
        )

    def __str__(self) -> str:
        first = self.pseudo_acceleration[:, 0]
        at = int(first.argmax())
        return (f"{self.name}: largest ordinate {first[at] / STANDARD_GRAVITY:.3f} g at "
                f"{self.periods[at]:.2f} s ({self.dampings[0]:.0%} damping)")


@fixed
def usual_periods(count: int = 240, shortest: float = 0.02, longest: float = 10.0) -> Floats:
    """Periods in equal steps of their logarithm, s."""
    return np.geomspace(shortest, longest, count)


def response_spectra(
    motion: GroundMotion, periods: ArrayLike, dampings: ArrayLike = 0.05
) -> RecordSpectra:
    """Spectral displacement of a record for oscillators at rest before it starts.

    ``periods`` (n,) in s, all above zero; ``dampings`` ratios below one. Before its first and after
    its last sample the ground is at rest, with one step between; the free vibration after the end
    counts, whose first peak comes within half a period.

    >>> import numpy as np
    >>> t = np.arange(0, 10, 0.005)
    >>> motion = ud.GroundMotion("sine", 0.005, np.sin(2 * np.pi * t))
    >>> found = ud.response_spectra(motion, [1.0], 0.05)
    >>> round(float(found.pseudo_acceleration[0, 0]), 1)  # resonance: nearly 1 / (2 zeta), m/s2
    9.6
    """
    t, z = _oscillators(periods, dampings)
    found = np.empty((t.size, z.size))
    for i, j, history in _histories(motion, t, z):
        found[i, j] = np.abs(history).max()
    return RecordSpectra(motion.name, t, z, found)


@fixed
def rotated_spectra(
    first: GroundMotion, second: GroundMotion, periods: ArrayLike, damping: float = 0.05,
    percentiles: tuple[float, ...] = (50.0, 100.0),
) -> dict[str, Floats]:
    """Pseudo-acceleration (n,) in m/s2 over all directions of a horizontal pair, by percentile.

    For each period the two responses are turned through 180 directions in steps of 1 degree; the
    peaks are ranked. The keys are ``RotD50``, ``RotD100`` and so on.
    Source: Boore, Bull. Seism. Soc. Am. 100 (2010), 1830-1835.

    >>> import numpy as np
    >>> t = np.arange(0, 4, 0.01)
    >>> one, none = ud.GroundMotion("a", 0.01, np.sin(6 * t)), ud.GroundMotion("b", 0.01, 0 * t)
    >>> sorted(ud.rotated_spectra(one, none, [0.5], percentiles=(100,)))
    ['RotD100']
    """
    if first.step != second.step or first.acceleration.size != second.acceleration.size:
        raise InputError([Fault(
            second.name, f"does not match {first.name}: {second.acceleration.size} samples at "
            f"{second.step:g} s against {first.acceleration.size} at {first.step:g} s",
            "the pair must have one step and one length")])
    t, z = _oscillators(periods, damping)
    angles = np.radians(np.arange(180.0))
    turn = np.stack([np.cos(angles), np.sin(angles)])
    found = {f"RotD{p:g}": np.empty(t.size) for p in percentiles}
    pairs = zip(_histories(first, t, z), _histories(second, t, z), strict=True)
    for (i, _, x), (_, _, y) in pairs:
        path = _hull(np.column_stack([x, y]))
        peaks = np.abs(path @ turn).max(axis=0)
        size = (2 * np.pi / t[i]) ** 2
        for p in percentiles:
            found[f"RotD{p:g}"][i] = size * np.percentile(peaks, p)
    return found


def _hull(path: Floats) -> Floats:
    """The corners of the convex hull of a plane path: no other point is a peak in any direction."""
    from scipy.spatial import ConvexHull, QhullError

    try:
        return np.asarray(path[ConvexHull(path).vertices])
    except QhullError:  # all on one line
        return path


def _oscillators(periods: ArrayLike, dampings: ArrayLike) -> tuple[Floats, Floats]:
    t = np.atleast_1d(np.asarray(periods, dtype=float))
    z = np.atleast_1d(np.asarray(dampings, dtype=float))
    if t.size == 0 or not np.all(np.isfinite(t)) or np.any(t <= 0):
        raise InputError("the periods of a response spectrum are positive numbers of seconds")
    if np.any(z < 0) or np.any(z >= 1):
        raise InputError("a damping ratio lies between 0 and 1; 5 % is 0.05")
    return t, z


def _histories(
    motion: GroundMotion, t: Floats, z: Floats
) -> Iterator[tuple[int, int, Floats]]:
    """Displacement history of every oscillator relative to the ground: (i, j, history)."""
    from scipy.signal import lfilter  # takes seconds to load, and only records need it

    finer = np.maximum(np.ceil(SAMPLES_A_PERIOD * motion.step / t), 1).astype(int)
    # Of a period, until the first peak after the end; with much damping it comes sooner.
    slow = min(0.5 / float(np.sqrt(1.0 - z.max() ** 2)), 2.0)
    after = {int(k): int(np.ceil(slow * t[finer == k].max() / motion.step)) + 1
             for k in np.unique(finer)}
    sampled = {k: _resample(motion.acceleration, k, rest) for k, rest in after.items()}
    for j, damping in enumerate(z):
        numerator, denominator = _filters(t, damping, motion.step / finer)
        for i in range(t.size):
            yield i, j, lfilter(numerator[i], denominator[i], -sampled[int(finer[i])])


def _resample(a: Floats, times: int, rest: int) -> Floats:
    """The same straight lines with ``times`` as many samples, from zero and back to it.

    ``rest`` samples of the ground at rest follow.
    """
    a = np.concatenate([[0.0], a, np.zeros(rest)])
    if times == 1:
        return np.asarray(a)
    at = np.arange((a.size - 1) * times + 1) / times
    return np.asarray(np.interp(at, np.arange(a.size), a))


def _filters(t: Floats, damping: float, step: Floats) -> tuple[Floats, Floats]:
    """Numerators (n, 3) and denominators (n, 3) of the exact step for each period.

    The state (u, v, p, dp/dt) of an oscillator under a straight-line force p moves on by the
    exponential of a 4 x 4 matrix; u alone obeys the difference equation returned here.
    """
    w = 2 * np.pi / t
    m = np.zeros((t.size, 4, 4))
    m[:, 0, 1] = 1.0
    m[:, 1, 0], m[:, 1, 1], m[:, 1, 2] = -(w**2), -2 * damping * w, 1.0
    m[:, 2, 3] = 1.0
    phi = linalg.expm(m * step[:, None, None])
    e = phi[:, :2, :2]
    after = phi[:, :2, 3] / step[:, None]  # effect of the force at the end of the step
    before = phi[:, :2, 2] - after
    trace = e[:, 0, 0] + e[:, 1, 1]
    determinant = e[:, 0, 0] * e[:, 1, 1] - e[:, 0, 1] * e[:, 1, 0]
    numerator = np.column_stack([
        after[:, 0],
        before[:, 0] - e[:, 1, 1] * after[:, 0] + e[:, 0, 1] * after[:, 1],
        -e[:, 1, 1] * before[:, 0] + e[:, 0, 1] * before[:, 1],
    ])
    return numerator, np.column_stack([np.ones(t.size), -trace, determinant])


# -- files ---------------------------------------------------------------------------------------

_HEAD = re.compile(r"\s*([A-Za-z _-]+?)\s*[\(\[]\s*([^)\]]+)\s*[\)\]]\s*")


def read_motion(path: str | Path, *, step: float | None = None) -> GroundMotion:
    r"""Read an acceleration history with its unit in the header.

    Either two columns, ``time (s), acceleration (g)``, at a fixed step; or values one after the
    other under ``acceleration (g)``, any number to a line, with the ``step`` in s given. Lines
    starting with ``#`` are passed over. Raises InputError naming the file and the line.

    >>> path = folder / "motion.csv"
    >>> _ = path.write_text("time (s), acceleration (g)\n0, 0\n0.01, 0.1\n0.02, 0.05\n")
    >>> ud.read_motion(path).step
    0.01
    """
    path = Path(path)
    name = path.name

    def wrong(message: str, cure: str = "", line: int | None = None) -> InputError:
        return InputError([Fault(f"record {name}", message, cure, line)])

    text = read_text(path, wrong, LARGEST_RECORD)
    lines = [(i, line) for i, line in enumerate(text.splitlines(), 1)
             if line.strip() and not line.lstrip().startswith("#")]
    example = "write a first line such as: time (s), acceleration (g)"
    if not lines:
        raise wrong("is empty", example)
    heads = [_HEAD.fullmatch(cell) for cell in csv_rows(lines[0][1], wrong)[0][1]]
    if not heads or not all(heads) or len(heads) > 2:
        raise wrong(f"the header {lines[0][1].strip()[:60]!r} names no units", example, lines[0][0])
    units = [h[2].strip() for h in heads if h]
    try:
        size = factor(units[-1], "acceleration")
        tick = factor(units[0], "time") if len(units) == 2 else 1.0
    except ValueError as error:
        raise wrong(str(error), example, lines[0][0]) from None
    numbers: list[list[float]] = []
    for i, line in lines[1:]:
        try:
            numbers.append([float(cell) for cell in re.split(r"[,;\s]+", line.strip()) if cell])
        except ValueError:
            raise wrong(f"{line.strip()[:60]!r} is not a row of numbers",
                        "numbers only, apart by commas or spaces", i) from None
        if len(units) == 2 and len(numbers[-1]) != 2:
            raise wrong(f"{line.strip()[:60]!r} is not a time and an acceleration",
                        "two numbers to a line", i)
    values = np.array([x for row in numbers for x in row])
    with np.errstate(over="ignore"):  # what is not finite is refused with its place
        values = values * np.resize([tick, size], values.size) if len(units) == 2 else values * size
    if len(units) == 1:
        if step is None:
            raise wrong("has no time column", "give the step, such as --step \"0.01 s\"")
        return GroundMotion(name, step, values)
    times, values = values[0::2], values[1::2]
    gaps = np.diff(times)
    if times.size < 3 or np.any(gaps <= 0) or np.ptp(gaps) > 0.01 * gaps.mean():
        row = int(np.argmax(np.abs(gaps - np.median(gaps)))) + 1 if gaps.size else 0
        raise wrong("the times do not rise by a fixed step", "resample the record first",
                    lines[min(row + 1, len(lines) - 1)][0])
    return GroundMotion(name, float(gaps.mean()), values)
