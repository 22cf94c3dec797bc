"""Natural modes: periods, shapes, participation, effective mass and what moves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.mechanics.solve import vibration
from undatum.mechanics.system import System
from undatum.table import Table, column

Floats = NDArray[np.float64]
Normalization = Literal["unit modal mass", "largest component", "roof"]

#: A mode is named for the component that holds at least this share of its kinetic energy.
NAMED_SHARE = 2 / 3


@dataclass(frozen=True, slots=True)
class Modes:
    """All modes of a system, longest period first; ``m`` modes, ``n`` levels. SI.

    ``omega`` (m,) rad/s; ``shapes`` (3n, m) with unit modal mass; ``participation`` (m, 3) and
    ``effective_mass`` (m, 3) for ground motion in X, Y and rotation about the vertical axis
    through the center of the whole mass; ``total_mass`` (3,); ``shares`` (m, 3) of the kinetic
    energy in X, Y and rotation; ``kept`` how many are used in the spectrum analysis.
    Source: Chopra, Dynamics of Structures, chapters 10 and 13.
    """

    omega: Floats
    shapes: Floats
    participation: Floats
    effective_mass: Floats
    total_mass: Floats
    shares: Floats
    kept: int
    target: float

    @property
    def count(self) -> int:
        return self.omega.size

    @property
    def periods(self) -> Floats:
        """(m,) s."""
        return np.asarray(2 * np.pi / self.omega)

    @property
    def mass_ratios(self) -> Floats:
        """(m, 3) effective modal mass over the whole mass (inertia for rotation)."""
        return np.asarray(self.effective_mass / self.total_mass)

    @property
    def cumulative(self) -> Floats:
        """(m, 3) running sum of :attr:`mass_ratios`."""
        return np.cumsum(self.mass_ratios, axis=0)

    @property
    def kinds(self) -> tuple[str, ...]:
        """What moves in each mode: ``X``, ``Y``, ``torsion`` or ``mixed``."""
        names = ("X", "Y", "torsion")
        return tuple(
            names[int(np.argmax(share))] if share.max() >= NAMED_SHARE else "mixed"
            for share in self.shares
        )

    def governing(self, axis: int) -> int:
        """The mode with the largest effective mass in X (0), Y (1) or rotation (2)."""
        return int(np.argmax(self.mass_ratios[:, axis]))

    def normalized(self, how: Normalization) -> Floats:
        """Shapes (3n, m): unit modal mass, largest translation one, or largest at the roof one."""
        if how == "unit modal mass":
            return self.shapes
        n = self.shapes.shape[0] // 3
        rows = self.shapes[: 2 * n]
        if how == "roof":
            rows = self.shapes[[0, n]]
        lead = np.argmax(np.abs(rows), axis=0)
        size = rows[lead, np.arange(self.count)]
        return np.asarray(self.shapes / np.where(np.abs(size) > 1e-30, size, 1.0))

    def table(self) -> Table:
        """Periods, what moves, participation and effective masses of every mode."""
        pick, total, run = self.shares, self.mass_ratios, self.cumulative
        return Table(
            "modes",
            "Modes",
            (
                column("mode", "", [*range(1, self.count + 1)]),
                column("period", "time", self.periods),
                column("frequency", "frequency", self.omega / (2 * np.pi)),
                column("moves", "", self.kinds),
                *(column(f"share {name}", "ratio", pick[:, i], 3)
                  for i, name in enumerate(("X", "Y", "torsion"))),
                *(column(f"effective mass {name}", "ratio", total[:, i])
                  for i, name in enumerate(("X", "Y", "rotation"))),
                *(column(f"cumulative {name}", "ratio", run[:, i])
                  for i, name in enumerate(("X", "Y", "rotation"))),
                column("used", "", [i < self.kept for i in range(self.count)]),
            ),
            note=f"The first {self.kept} modes carry at least {self.target:.0%} of the mass in X "
            "and in Y. Shares are of the kinetic energy of the mode.",
        )


def find_modes(
    system: System, target: float = 0.9, count: int | None = None, shortest: float = np.inf
) -> Modes:
    """Every mode, and how many reach the mass ``target`` (a ratio) in X and in Y.

    ``count`` keeps at least that many, ``shortest`` (s) every mode of at least that period. Raises
    AnalysisError for a mechanism.
    """
    omega, shapes = vibration(system)
    mass, influence = system.mass_diagonal, system.influence()
    participation = shapes.T @ (mass[:, None] * influence)  # unit modal mass
    total = np.einsum("i,ij,ij->j", mass, influence, influence)
    energy = mass[:, None] * shapes**2
    n = system.n
    shares = np.column_stack([energy[i * n : (i + 1) * n].sum(axis=0) for i in range(3)])
    effective = participation**2
    enough = np.all(np.cumsum(effective[:, :2], axis=0) / total[:2] >= target - 1e-12, axis=1)
    kept = int(np.argmax(enough)) + 1 if enough.any() else omega.size
    slow = int(np.sum(2 * np.pi / omega >= shortest))
    kept = min(max(kept, count or 0, slow), omega.size)
    for array in (omega, shapes, participation, effective, total, shares):
        array.flags.writeable = False
    return Modes(omega, shapes, participation, effective, total, shares, kept, target)
