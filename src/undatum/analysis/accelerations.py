"""Peak accelerations of the floors, the ground's included.

The acceleration of a floor in a mode is participation times shape times ordinate; what the modes
in use leave out of the motion of the ground moves with it, at the acceleration of the ground.
Between two key frequencies the response of a mode turns from periodic to rigid: rigid parts go
with the ground and are added with their signs, so that a stiff building moves like the ground.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.combine import combine_directions, combiner, rigid_shares
from undatum.analysis.modes import Modes
from undatum.ground.spectrum import Spectrum
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_displacement
from undatum.mechanics.quantity import Quantity
from undatum.record import fixed, record
from undatum.standards.terms import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    ModalCombination,
)
from undatum.table import Table, column

Floats = NDArray[np.float64]


@record
class FloorAccelerations:
    """Peak accelerations, m/s2, ``peaks`` (direction, point, level, component) under each direction
    of ground motion, not a number where a point lies off the floor; ``ground`` by direction;
    ``between`` the key frequencies (Hz)."""

    levels: tuple[str, ...]
    points: tuple[str, ...]
    directions: tuple[Direction, ...]
    peaks: Floats
    ground: Mapping[Direction, float]
    between: Mapping[Direction, tuple[float, float]]
    how: DirectionalCombination
    above: NDArray[np.bool_]

    def table(self) -> Table:
        """By level: at the center of mass and the largest of all points, along each direction."""
        rows = [(i, c) for c in range(len(self.directions)) for i in np.flatnonzero(self.above)]
        both = combine_directions(list(self.peaks), self.how)
        largest = [int(np.nanargmax(both[:, i, c])) for i, c in rows]
        keys = "; ".join(f"{low:.3g} Hz to {high:.3g} Hz in {d}"
                         for d, (low, high) in self.between.items())
        return Table(
            "floor_accelerations", "Peak accelerations of the floors",
            (
                column("along", "", [self.directions[c] for _, c in rows]),
                column("level", "", [self.levels[i] for i, _ in rows]),
                column("ground", "acceleration",
                       [self.ground[self.directions[c]] for _, c in rows]),
                column("at the center of mass", "acceleration",
                       [float(both[0, i, c]) for i, c in rows]),
                column("largest", "acceleration",
                       [float(both[p, i, c]) for p, (i, c) in zip(largest, rows, strict=True)]),
                column("point", "", [self.points[p] for p in largest]),
                column("largest over ground", "ratio", [
                    float(both[p, i, c]) / self.ground[self.directions[c]]
                    for p, (i, c) in zip(largest, rows, strict=True)]),
            ),
            note="From the unreduced spectrum, without scaling or accidental torsion; directions "
                 f"of ground motion combined by {self.how}. The response changes from periodic to "
                 f"rigid from {keys}.",
        )


def key_frequencies(spectrum: Spectrum, rigid_period: float) -> tuple[float, float]:
    """From where on responses begin to be rigid, and from where on they are, Hz.

    The first is the largest ordinate over the largest pseudo-velocity and 2 pi (where both are on
    a plateau, the end of that of acceleration), the second that of the rigid period.
    Source: Gupta, Response Spectrum Method, 1990, chapter 3.
    """
    last = min(4.0, spectrum.last_period)
    t = np.unique(np.concatenate([np.geomspace(0.02, last, 400),
                                  [c for c in spectrum.corners.values() if 0 < c <= last]]))
    ordinates = spectrum(t)
    velocity = (ordinates * t / (2 * np.pi)).max()
    low = float(ordinates.max() / velocity / (2 * np.pi))
    high = 1.0 / rigid_period
    return (low, high) if low < high else (0.5 * high, high)


def floor_accelerations(
    model: Model, modes: Modes, spectra: Mapping[Direction, Spectrum], lines: Sequence[PlumbLine],
    how: ModalCombination, damping: Floats, together: DirectionalCombination,
    rigid_period: float, between: tuple[float, float] | None = None,
) -> FloorAccelerations:
    """Peak accelerations at the centers of mass and on plumb lines, under each direction.

    ``spectra`` are before reduction; ``damping`` (kept,) of the modes. Modes that can't be combined
    with rigid parts go together by CQC.
    """
    points = [center_line(model), *lines]
    quantity = plumb_displacement(model, points, model.directions)
    shape = (len(model.directions), len(points), model.n)
    peaks, ground, keys = [], {}, {}
    for d in model.directions:
        one = spectra[d]
        ground[d] = float(one(0.0))
        keys[d] = between or key_frequencies(one, rigid_period)
        values = _under(model, modes, d, one, quantity, how, damping, keys[d])
        peaks.append(values.reshape(shape).transpose(1, 2, 0))
    found = np.array(peaks)
    found[:, ~np.array([p.present for p in points])] = np.nan
    return FloorAccelerations(
        model.levels, tuple(p.name for p in points), model.directions, found, ground, keys,
        together, model.above_base)


@fixed
def _under(
    model: Model, modes: Modes, direction: Direction, spectrum: Spectrum, quantity: Quantity,
    how: ModalCombination, damping: Floats, between: tuple[float, float],
) -> Floats:
    """(k,) peak accelerations of points under one direction of ground motion."""
    axis, kept = DIRECTIONS.index(direction), slice(0, modes.kept)
    moved = modes.shapes[:, kept] * modes.participation[kept, axis]
    carried = quantity.of(moved, moved)  # (k, kept), the share of the ground motion in each mode
    rigid_motion = model.influence()[:, axis]
    whole = quantity.of(rigid_motion, rigid_motion)
    omega = modes.omega[kept]
    values = np.column_stack([
        carried * spectrum(2 * np.pi / omega),
        (whole - carried.sum(axis=1)) * float(spectrum(spectrum.first_period))])
    alpha = np.append(rigid_shares(omega, between), 1.0)
    rest = how if how in ("CQC", "SRSS") else "CQC"
    every = np.append(omega, 2 * np.pi * 1e6)
    return combiner(rest, every, np.append(damping[kept], 0.05), rigid=alpha).peaks(values)
