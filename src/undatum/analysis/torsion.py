"""Accidental torsion: how irregular the structure is, and by how much torsion is amplified."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces, accidental_torques, inherent_torques
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, plumb_displacement, plumb_drift
from undatum.mechanics.solver import Solver
from undatum.record import record
from undatum.standards.answers import Amplification, TorsionAnswer
from undatum.standards.contract import LateralForces
from undatum.standards.facts import TorsionFacts
from undatum.standards.terms import DIRECTIONS, Direction
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


def torsion(
    part: LateralForces, solver: Solver, statics: Mapping[Direction, StaticForces],
    rigidity: Floats,
) -> dict[Direction, TorsionResult]:
    """Judge each direction at plus and minus the standard's eccentricity, then the structure.

    ``rigidity`` (n, 2) are the centers of rigidity, for standards that multiply the distance to
    them.

    What follows from an irregularity may hold for both directions wherever it was found; the
    amplification is that of each direction's own displacements.
    """
    facts = {d: _facts(part, solver, static, rigidity) for d, static in statics.items()}
    answers = part.torsion_of_structure({d: part.torsion(d, f) for d, f in facts.items()})
    found = {}
    for d, answer in answers.items():
        factors, amplification = np.ones(solver.model.n), None
        loaded = statics[d].forces != 0
        if answer.amplify:
            largest, average = facts[d].governing_drifts if part.amplified_by == "drift" else \
                facts[d].governing_displacements
            amplification = part.amplification(d, largest[loaded], average[loaded])
            factors[loaded] = amplification.factors
        found[d] = TorsionResult(d, facts[d], answer, factors, amplification)
    return found


def _facts(
    part: LateralForces, solver: Solver, static: StaticForces, rigidity: Floats
) -> TorsionFacts:
    """Drifts and displacements of the floor ends in one direction."""
    model, direction = solver.model, static.shear.direction
    own = part.eccentricity("static")
    torque = accidental_torques(model, direction, static.forces, own.share)
    loads = np.column_stack([model.loads(
        direction, static.forces, sign * torque + inherent_torques(
            model, direction, static.forces, own.static_factor, rigidity, sign))
        for sign in (1, -1)])
    displacement = solver.solve(loads)
    ends = model.memo.get(("ends", direction), lambda: _ends(solver, direction))
    shape = (2, model.n, 2)  # end, floor, sign
    drifts, moves = (
        quantity(model, ends, (direction,)).of(displacement, loads).reshape(shape)
        .transpose(2, 0, 1) for quantity in (plumb_drift, plumb_displacement))
    carries = model.above_base & (static.story_shears > 0) & ~model.is_open
    return TorsionFacts(model.levels, drifts, moves, carries, _one_side(model, direction))


def _one_side(model: Model, direction: Direction) -> Floats:
    """(n,) share of the story strength at or on one side of the center of mass."""
    axis = DIRECTIONS.index(direction)
    sides = np.zeros((2, model.n))
    whole = np.zeros(model.n)
    for line in model.lines:
        part = abs(float(line.axis[axis]))
        if part < 1e-9:
            continue
        own = line.strength * part
        away = line.point[1 - axis] - model.diaphragms.centers[line.levels, 1 - axis]
        whole[line.levels] += own
        for side, sign in enumerate((1, -1)):
            sides[side, line.levels] += np.where(sign * away >= -1e-6, own, 0.0)
    return np.asarray(
        np.divide(sides.max(axis=0), whole, out=np.full(model.n, np.nan), where=whole > 0))


def _ends(solver: Solver, direction: Direction) -> tuple[PlumbLine, PlumbLine]:
    """Plumb points at the two ends of each floor across a direction of force."""
    d = solver.model.diaphragms
    present = np.ones(len(d), dtype=bool)
    low, high = d.centers.copy(), d.centers.copy()
    across = 1 - DIRECTIONS.index(direction)
    low[:, across], high[:, across] = d.bounds[:, across], d.bounds[:, 2 + across]
    return PlumbLine("one end", low, present), PlumbLine("other end", high, present)
