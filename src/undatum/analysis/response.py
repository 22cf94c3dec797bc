"""Load sets and the response to them: every quantity is rows applied to displacements or forces.

A set answers for any quantity. A static set answers with signs; a spectrum set combines the modal
values of the quantity itself, so its values have none.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.analysis.combine import ModalCombiner, combine_directions
from undatum.analysis.modes import Modes
from undatum.ground.spectrum import Spectrum
from undatum.mechanics.model import SHAKEN, Model
from undatum.mechanics.quantity import Quantity
from undatum.mechanics.solver import Solver
from undatum.record import Memo, fixed, record
from undatum.standards.terms import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    LimitState,
    Method,
    Motion,
)

Floats = NDArray[np.float64]


class Readable(Protocol):
    """What answers for any quantity; no two of a run have one name."""

    @property
    def name(self) -> str: ...
    @property
    def method(self) -> Method: ...

    def of(self, quantity: Quantity) -> Floats:
        """The values (k,) of a quantity."""


class ResponseSet(Readable, Protocol):
    """One load set for one direction and limit state."""

    @property
    def direction(self) -> Motion: ...
    @property
    def state(self) -> LimitState: ...
    @property
    def sign(self) -> int:
        """Sign of the accidental eccentricity, 0 where both are in it."""

    @property
    def own(self) -> bool:
        """Whether it is one of the engineer's, that the standard's combinations don't hold."""

    def vectors(self, quantity: Quantity) -> Floats:
        """Sizes (3, k) of ``k`` plan vectors: along X, along Y and the largest in any direction.

        The first half of the values of ``quantity`` are their components along X, the second
        those along Y.
        """


def along(one: ResponseSet) -> Direction:
    """The horizontal direction of a set. Raises ValueError for one of vertical motion."""
    if one.direction == "Z":
        raise ValueError(f"{one.name!r} holds vertical motion, for which nothing is checked; "
                         "name a set of horizontal motion")
    return one.direction


def _kept(memo: Memo, quantity: Quantity, make: Callable[[], Floats], what: str = "") -> Floats:
    """The values of a quantity, worked out once for each set."""
    return memo.get((what, id(quantity)), lambda: (quantity, make()))[1]


@record
class StaticSet:
    """Static forces of one direction, limit state and sign of the accidental eccentricity.

    ``forces`` (n,) N and ``torques`` (n,) N m at the floors' centers, of which ``accidental`` are
    those of the accidental eccentricity; ``displacement`` (N,) m and ``nodal`` (N,) the loads;
    ``own`` tells forces of the engineer's from those of the standard.
    """

    name: str
    direction: Direction
    state: LimitState
    sign: int
    forces: Floats
    torques: Floats
    accidental: Floats
    displacement: Floats
    nodal: Floats
    method: Method = "static"
    own: bool = False
    memo: Memo = field(default_factory=Memo, init=False)

    def of(self, quantity: Quantity) -> Floats:
        return _kept(self.memo, quantity,
                     lambda: quantity.of(self.displacement, self.nodal))

    def vectors(self, quantity: Quantity) -> Floats:
        return _kept(self.memo, quantity, lambda: self._vectors(quantity), "vectors")

    def _vectors(self, quantity: Quantity) -> Floats:
        along = np.abs(self.of(quantity)).reshape(2, -1)
        return np.vstack([along, np.hypot(*along)])


@record
class SpectrumSet:
    """Modal response to one direction of ground motion.

    ``modal`` (N, m) peak displacement in each mode, the last of which may be the static response
    of the mass the modes leave out, and ``nodal`` (N, m) the forces that go with it; ``combine``
    puts the modes together, ``scale`` multiplies the result; ``torsion`` (N, 2) is displacement
    and nodal force under the accidental torsion, added with its absolute value and not scaled.
    ``periods`` (m,) s and ``labels`` say of which modes the values are; ``sign`` is that of the
    accidental eccentricity where masses are moved by it.
    """

    name: str
    direction: Motion
    state: LimitState
    modal: Floats
    nodal: Floats
    combine: ModalCombiner
    periods: Floats
    labels: tuple[str, ...]
    scale: float = 1.0
    torsion: Floats | None = None
    method: Method = "spectrum"
    sign: int = 0
    own: bool = False
    memo: Memo = field(default_factory=Memo, init=False)

    @fixed
    def modal_values(self, quantity: Quantity) -> Floats:
        """The quantity in each mode (k, m), with its sign, before combination and scaling."""
        return quantity.of(self.modal, self.nodal)

    def of(self, quantity: Quantity) -> Floats:
        return _kept(self.memo, quantity, lambda: self._combined(quantity))

    def _combined(self, quantity: Quantity) -> Floats:
        return self.scale * self.combine.peaks(self.modal_values(quantity)) + self.twist(quantity)

    @fixed
    def twist(self, quantity: Quantity) -> Floats:
        """What the accidental torsion adds (k,), without sign."""
        return np.zeros(len(quantity)) if self.torsion is None else np.abs(self._twist(quantity))

    def dominant(self, model: Model) -> int:
        """The mode with the largest base shear, or vertical force at the base."""
        base = model.at_base("vertical force") if self.direction == "Z" else \
            model.at_base("story shear", component=self.direction)
        return int(np.argmax(np.abs(self.modal_values(base)[0])))

    @fixed
    def signed(self, quantity: Quantity, mode: int) -> Floats:
        """The peaks (k,) with the signs of the values in one mode."""
        values = self.modal_values(quantity)[:, mode]
        return np.where(values < 0, -1.0, 1.0) * self.of(quantity)

    def vectors(self, quantity: Quantity) -> Floats:
        return _kept(self.memo, quantity, lambda: self._vectors(quantity), "vectors")

    def _vectors(self, quantity: Quantity) -> Floats:
        modal = self.modal_values(quantity)
        half = len(quantity) // 2
        combined = self.scale * self.combine.vectors(modal[:half], modal[half:])
        if self.torsion is None:
            return combined
        twist = self._twist(quantity).reshape(2, -1)
        return np.asarray(combined + np.vstack([np.abs(twist), np.hypot(*twist)]))

    def _twist(self, quantity: Quantity) -> Floats:
        assert self.torsion is not None
        return quantity.of(self.torsion[:, 0], self.torsion[:, 1])


@record
class ModalBasis:
    """What spectrum sets are made of: a structure, the modes of it in use, how they go together.

    ``shapes`` holds by direction shapes (N, m) and the forces that go with them; the last may be
    the static response of the mass the modes leave out. ``periods`` (m,) s and ``damping`` (m,).
    """

    solver: Solver
    modes: Modes
    combine: ModalCombiner
    damping: Floats
    periods: Floats
    shapes: Mapping[Motion, tuple[Floats, Floats]]

    def spectrum_set(
        self, name: str, direction: Motion, state: LimitState, spectrum: Spectrum
    ) -> SpectrumSet:
        """The response under a spectrum, neither scaled nor with accidental torsion."""
        factors = modal_factors(self.modes, direction, spectrum)
        if self.periods.size > factors.size:  # the rest moves with the ground
            factors = np.append(factors, float(spectrum(float(self.periods[-1]))))
        shapes, forces = self.shapes[direction]
        return SpectrumSet(name, direction, state, shapes * factors, forces * factors,
                           self.combine, self.periods, self.modes.names_in_use(factors.size))


@record
class BothDirections:
    """Sets for the directions of ground motion, two or three, combined quantity by quantity.

    Of several sets of a direction the larger value counts.
    """

    name: str
    state: LimitState
    sets: tuple[tuple[SpectrumSet, ...], ...]
    combination: DirectionalCombination
    method: Method = "spectrum"

    @fixed
    def of(self, quantity: Quantity) -> Floats:
        return combine_directions(
            [np.max([np.abs(one.of(quantity)) for one in own], axis=0) for own in self.sets],
            self.combination)


@record
class TurnedMotion:
    """One ground motion along an ``angle`` (rad) from X: the modes of X and Y with their shares.

    Each direction keeps its own spectrum and scale; the accidental torsion of both is added.
    """

    name: str
    state: LimitState
    first: SpectrumSet
    second: SpectrumSet
    angle: float
    method: Method = "spectrum"

    @fixed
    def of(self, quantity: Quantity) -> Floats:
        shares = np.cos(self.angle), np.sin(self.angle)
        both = tuple(zip(shares, (self.first, self.second), strict=True))
        modal = np.sum([c * s.scale * s.modal_values(quantity) for c, s in both], axis=0)
        twist = np.sum([abs(c) * s.twist(quantity) for c, s in both], axis=0)
        return np.asarray(self.first.combine.peaks(modal) + twist)


@record
class AnyDirection:
    """The most unfavorable direction of a ground motion with a ``minor`` component across it.

    ``minor`` is the ratio of its spectrum to that of the major one. Each quantity has a direction
    of its own. The accidental torsion of both directions is added as the root of the squares.
    Source: Menun and Der Kiureghian, A replacement for the 30 %, 40 % and SRSS rules for
    multicomponent seismic analysis, Earthquake Spectra 14 (1998), 153-163 (CQC3).
    """

    name: str
    state: LimitState
    first: SpectrumSet
    second: SpectrumSet
    minor: float
    method: Method = "spectrum"

    @fixed
    def of(self, quantity: Quantity) -> Floats:
        x, y = (s.scale * s.modal_values(quantity) for s in (self.first, self.second))
        xx, yy, xy = (self.first.combine.product(p, q) for p, q in ((x, x), (y, y), (x, y)))
        a = self.minor**2
        square = (1 + a) / 2 * (xx + yy) + (1 - a) / 2 * np.sqrt((xx - yy) ** 2 + 4 * xy**2)
        twist = np.hypot(self.first.twist(quantity), self.second.twist(quantity))
        return np.asarray(np.sqrt(np.maximum(square, 0.0)) + twist)


#: Sets of more than one direction of ground motion: combinations of a standard take their
#: directions themselves; one's own may name such a set.
FurtherSet = BothDirections | TurnedMotion | AnyDirection


@fixed
def modal_factors(modes: Modes, direction: Motion, spectrum: Spectrum) -> Floats:
    """Factor (kept,) on the shape of each kept mode at its peak: participation, Sa / omega^2."""
    axis, omega = SHAKEN.index(direction), modes.omega[: modes.kept]
    return np.asarray(
        modes.participation[: modes.kept, axis] * spectrum(2 * np.pi / omega) / omega**2)


@fixed
def modal_peaks(modes: Modes, direction: Direction, spectrum: Spectrum) -> Floats:
    """Peak displacement (N, kept) in each kept mode, m."""
    return np.asarray(modes.shapes[:, : modes.kept] * modal_factors(modes, direction, spectrum))


@fixed
def residual_shape(solver: Solver, modes: Modes, direction: Motion) -> Floats:
    """Displacement (N,) under the mass the kept modes leave out, at 1 m/s2, moving rigidly. m.

    Its base shear is the mass left out times that acceleration.
    Source: Chopra, Dynamics of Structures, 12.12 (static correction).
    """
    model, axis, kept = solver.model, SHAKEN.index(direction), slice(0, modes.kept)
    carried = modes.shapes[:, kept] @ modes.participation[kept, axis]
    return solver.solve(np.asarray(
        model.mass @ (model.influence(model.shaken)[:, axis] - carried)))


@fixed
def modal_damping(value: ArrayLike, kept: int) -> Floats:
    """One damping ratio for each kept mode."""
    return np.broadcast_to(np.asarray(value, dtype=float), (kept,))


@fixed
def nodal_forces(model: Model, displacement: Floats) -> Floats:
    """Forces (N, ...) on the freedoms that hold a displacement."""
    return np.asarray(model.stiffness @ displacement)


@fixed
def peaks_by_spectrum(
    modes: Modes, direction: Direction, quantity: Quantity, model: Model, ordinates: Floats,
    combine: ModalCombiner,
) -> Floats:
    """Combined peaks (S, k) of a quantity under many spectra on the same modes.

    ``ordinates`` (S, kept) m/s2 at the periods of the kept modes; ``combine`` is for these modes.
    """
    unit = modes.shapes[:, : modes.kept] * (
        modes.participation[: modes.kept, DIRECTIONS.index(direction)]
        / modes.omega[: modes.kept] ** 2)
    values = quantity.of(unit, nodal_forces(model, unit))
    found = np.empty((ordinates.shape[0], values.shape[0]))
    step = max(1, 200_000 // max(values.size, 1))  # spectra at once, to stay in the cache
    for start in range(0, len(found), step):
        part = slice(start, start + step)
        found[part] = combine.peaks_of(ordinates[part], values)
    return found
