"""Load sets and the response to them: every quantity is a map applied to displacements.

A set answers for any map (rows applied to the displacement vector). A static set answers with
signs; a spectrum set combines the modal values of the quantity itself, so its values have none.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.analysis.combine import (
    combine_directions,
    combine_modes,
    largest_in_plan,
)
from undatum.analysis.modes import Modes
from undatum.ground.spectrum import Spectrum
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import Map, System
from undatum.standards.answers import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    ModalCombination,
    Purpose,
)

Floats = NDArray[np.float64]


class ResponseSet(Protocol):
    """One load set for one purpose."""

    @property
    def name(self) -> str: ...
    @property
    def direction(self) -> Direction: ...
    @property
    def purpose(self) -> Purpose: ...
    @property
    def method(self) -> str: ...

    def of(self, rows: Map) -> Floats:
        """The quantities whose rows are given."""

    def in_plan(self, x: Map, y: Map) -> Floats:
        """The largest value in any plan direction of vectors with components ``x`` and ``y``."""


@dataclass(frozen=True, slots=True)
class StaticSet:
    """Static forces of one direction, purpose and sign of the accidental eccentricity.

    ``forces`` (n,) N and ``torques`` (n,) N m at the levels' centers, of which ``accidental`` are
    those of the accidental eccentricity; ``displacement`` (3n,) m.
    """

    name: str
    direction: Direction
    purpose: Purpose
    sign: int
    forces: Floats
    torques: Floats
    accidental: Floats
    displacement: Floats
    method: str = "static"

    def of(self, rows: Map) -> Floats:
        return np.asarray(rows @ self.displacement)

    def in_plan(self, x: Map, y: Map) -> Floats:
        return np.hypot(self.of(x), self.of(y))


@dataclass(frozen=True, slots=True)
class SpectrumSet:
    """Modal response to one direction of ground motion.

    ``modal`` (3n, m) peak displacement in each mode, the last of which may be the static
    response of the mass the modes leave out; ``scale`` multiplies the combined modal
    response; ``torsion`` (3n,) is the static displacement under the accidental torsion, added
    with its absolute value and not scaled.
    """

    name: str
    direction: Direction
    purpose: Purpose
    modal: Floats
    omega: Floats
    damping: Floats
    combination: ModalCombination
    scale: float = 1.0
    torsion: Floats | None = None
    method: str = "spectrum"

    def modal_values(self, rows: Map) -> Floats:
        """The quantity in each mode, with its sign, before combination and scaling."""
        return np.asarray(rows @ self.modal)

    def of(self, rows: Map) -> Floats:
        combined = self.scale * combine_modes(
            self.modal_values(rows), self.combination, self.omega, self.damping
        )
        if self.torsion is None:
            return np.asarray(combined)
        return np.asarray(combined + np.abs(rows @ self.torsion))

    def in_plan(self, x: Map, y: Map) -> Floats:
        combined = self.scale * largest_in_plan(
            self.modal_values(x), self.modal_values(y), self.combination, self.omega, self.damping
        )
        if self.torsion is None:
            return np.asarray(combined)
        return np.asarray(combined + np.hypot(x @ self.torsion, y @ self.torsion))


@dataclass(frozen=True, slots=True)
class BothDirections:
    """Two sets, one for each direction of ground motion, combined quantity by quantity."""

    name: str
    purpose: Purpose
    first: ResponseSet
    second: ResponseSet
    combination: DirectionalCombination

    def of(self, rows: Map) -> Floats:
        return combine_directions(
            np.abs(self.first.of(rows)), np.abs(self.second.of(rows)), self.combination
        )


def modal_peaks(
    modes: Modes, direction: Direction, spectrum: Spectrum
) -> Floats:
    """Peak displacement (3n, kept) in each kept mode: shape, participation, Sa / omega^2, m."""
    axis = DIRECTIONS.index(direction)
    omega = modes.omega[: modes.kept]
    ordinates = spectrum(2 * np.pi / omega)
    return np.asarray(
        modes.shapes[:, : modes.kept]
        * (modes.participation[: modes.kept, axis] * ordinates / omega**2)
    )


def residual_peak(
    system: System, modes: Modes, direction: Direction, spectrum: Spectrum, period: float
) -> Floats:
    """Displacement (3n,) under the mass the kept modes leave out, moving with the ground, m.

    Static, at the ordinate of the ``period`` from which on a mode counts as rigid. Its base shear
    is the mass left out times that ordinate.
    Source: Chopra, Dynamics of Structures, 12.12 (static correction).
    """
    axis = DIRECTIONS.index(direction)
    kept = slice(0, modes.kept)
    carried = modes.shapes[:, kept] @ modes.participation[kept, axis]
    left = system.mass_diagonal * (system.influence()[:, axis] - carried)
    return solve_static(system, left[:, None])[:, 0] * float(spectrum(period))


def modal_damping(value: ArrayLike, kept: int) -> Floats:
    """One damping ratio for each kept mode."""
    return np.asarray(np.broadcast_to(np.asarray(value, dtype=float), (kept,)))
