"""Accidental torsion: how irregular the structure is, and by how much torsion is amplified."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces, accidental_torques
from undatum.mechanics.quantities import PlumbLine, plumb_displacement, plumb_drift
from undatum.mechanics.solver import Solver
from undatum.record import record
from undatum.standards.answers import (
    DIRECTIONS,
    Amplification,
    Direction,
    TorsionAnswer,
    TorsionFacts,
)
from undatum.standards.contract import LateralForces
from undatum.table import Table, column

Floats = NDArray[np.float64]


@record
class TorsionResult:
    """Torsional behavior in one direction of force, by story, top down.

    ``facts`` hold drifts and displacements of the floor ends for eccentricity plus and minus;
    ``factors`` (n,) multiply the accidental torsion.
    """

    direction: Direction
    facts: TorsionFacts
    answer: TorsionAnswer
    factors: Floats
    amplification: Amplification | None

    def table(self) -> Table:
        """Drift ratios of the ends and amplification by level."""
        ratios = self.facts.drift_ratios
        largest, average = self.facts.governing_displacements
        return Table(
            f"torsion_{self.direction.lower()}",
            f"Accidental torsion, forces in {self.direction}",
            (
                column("level", "", self.facts.levels),
                column("largest over average drift, +e", "ratio", ratios[0]),
                column("largest over average drift, −e", "ratio", ratios[1]),
                column("largest displacement", "displacement", largest),
                column("average displacement", "displacement", average),
                column("A_x", "ratio", self.factors),
            ),
            note=self.answer.finding.text,
        )


def torsion(part: LateralForces, solver: Solver, static: StaticForces) -> TorsionResult:
    """Judge a direction with the static forces at plus and minus the standard's eccentricity."""
    model, direction = solver.model, static.shear.direction
    share = part.eccentricity("static").share
    torque = accidental_torques(model, direction, static.forces, share)
    loads = np.column_stack(
        [model.loads(direction, static.forces, sign * torque) for sign in (1, -1)])
    displacement = solver.solve(loads)
    ends = model.memo.get(("ends", direction), lambda: _ends(solver, direction))
    shape = (2, model.n, 2)  # end, floor, sign
    drifts, moves = (
        quantity(model, ends, (direction,)).of(displacement, loads).reshape(shape)
        .transpose(2, 0, 1) for quantity in (plumb_drift, plumb_displacement))
    above = model.above_base
    facts = TorsionFacts(model.levels, drifts, moves, above)
    answer = part.torsion(direction, facts)
    factors, amplification = np.ones(model.n), None
    if answer.amplify:
        largest, average = facts.governing_displacements
        amplification = part.amplification(direction, largest[above], average[above])
        factors[above] = amplification.factors
    return TorsionResult(direction, facts, answer, factors, amplification)


def _ends(solver: Solver, direction: Direction) -> tuple[PlumbLine, PlumbLine]:
    """Plumb points at the two ends of each floor across a direction of force."""
    d = solver.model.diaphragms
    present = np.ones(len(d), dtype=bool)
    low, high = d.centers.copy(), d.centers.copy()
    across = 1 - DIRECTIONS.index(direction)
    low[:, across], high[:, across] = d.bounds[:, across], d.bounds[:, 2 + across]
    return PlumbLine("one end", low, present), PlumbLine("other end", high, present)
