"""Accidental torsion: how irregular the structure is, and by how much torsion is amplified."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces, accidental_torques, level_loads
from undatum.analysis.response import StaticSet
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import PlumbLine, System
from undatum.standards.answers import DIRECTIONS, Direction, Distribution, SiteAnswer, TorsionAnswer
from undatum.standards.contract import Standard
from undatum.table import Table, column

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class TorsionResult:
    """Torsional behavior in one direction of force, by story, top down.

    ``ratios`` (2, n): largest over average story drift for eccentricity plus and minus;
    ``largest`` and ``average`` (n,) displacements in m of the sign with the larger quotient;
    ``amplification`` (n,) factor on the accidental torsion.
    """

    direction: Direction
    levels: tuple[str, ...]
    ratios: Floats
    largest: Floats
    average: Floats
    answer: TorsionAnswer
    amplification: Floats
    distribution: Distribution | None

    def table(self) -> Table:
        """Drift ratios of the ends and amplification by level."""
        return Table(
            f"torsion_{self.direction.lower()}",
            f"Accidental torsion, forces in {self.direction}",
            (
                column("level", "", self.levels),
                column("largest over average drift, +e", "ratio", self.ratios[0]),
                column("largest over average drift, −e", "ratio", self.ratios[1]),
                column("largest displacement", "displacement", self.largest),
                column("average displacement", "displacement", self.average),
                column("A_x", "ratio", self.amplification),
            ),
            note=self.answer.finding.text,
        )


def torsion(
    standard: Standard, site: SiteAnswer, system: System, static: StaticForces,
) -> TorsionResult:
    """Judge a direction with the static forces at plus and minus the accidental eccentricity."""
    direction = static.shear.direction
    axis = DIRECTIONS.index(direction)
    share = standard.eccentricity().share
    torque = accidental_torques(system, direction, static.forces, share, np.ones(system.n))
    loads = np.column_stack(
        [level_loads(system, direction, static.forces, sign * torque) for sign in (1, -1)]
    )
    displacement = solve_static(system, loads)
    ends = _ends(system, axis)
    drifts = np.stack([system.drift_map(end, axis) @ displacement for end in ends])
    index = np.arange(system.n)
    moves = np.stack(
        [system.displacement_map(index, end.points, axis) @ displacement for end in ends]
    )
    ratios = _largest_over_average(drifts).T
    above = system.above_base
    ratios[:, ~above] = np.nan
    story = int(np.argmax(np.where(above, ratios.max(axis=0), -1.0)))
    answer = standard.torsion(
        direction, site, float(np.nanmax(ratios)), f"story {system.levels[story]}"
    )
    quotient = _largest_over_average(moves)
    sign = np.argmax(quotient, axis=1)
    largest = np.abs(moves).max(axis=0)[index, sign]
    average = np.abs(moves.mean(axis=0))[index, sign]
    amplification, distribution = np.ones(system.n), None
    if answer.amplify:
        distribution = standard.torsion_amplification(largest[above], average[above])
        amplification[above] = distribution.forces
    return TorsionResult(
        direction, system.levels, ratios, largest, average, answer, amplification, distribution
    )


def torsion_factors(standard: Standard, system: System, sets: Sequence[StaticSet]) -> Table | None:
    """The standard's simplified factor on each line beside what the torques of the sets give.

    Lines along X and Y that cross the lowest story above the base; ``None`` where the standard
    has no such factor.
    """
    story, rows = system.base_story, []
    lines = [x for x in system.lines if story in x.levels and np.abs(x.axis).max() > 1 - 1e-9]
    for axis, d in enumerate(DIRECTIONS):
        own = [x for x in lines if abs(x.axis[axis]) > 0.5]
        away = [abs(float(x.point[1 - axis] - system.centers[story, 1 - axis])) for x in own]
        places = [float(x.point[1 - axis]) for x in own]
        extent = max(places, default=0.0) - min(places, default=0.0)
        pair = [s for s in sets if s.direction == d and s.purpose == "strength" and s.sign]
        for line, x in zip(own, away, strict=True):
            factor = standard.torsion_factor(x / extent) if extent else None
            if factor is None or len(pair) != 2:
                return None
            at = int(np.flatnonzero(line.levels == story)[0])
            row = system.line_shear_map(line)[[at]]
            plus, minus = (float(s.of(row)[0]) for s in pair)
            rows.append((d, line.name, x, extent, factor,
                         max(abs(plus), abs(minus)) / abs((plus + minus) / 2)))
    return None if not rows else Table(
        "torsion_factors", "Accidental torsion by line: simplified factor beside the analysis",
        (
            column("direction", "", [r[0] for r in rows]),
            column("line", "", [r[1] for r in rows]),
            column("distance from center of mass", "length", [r[2] for r in rows]),
            column("between outermost lines", "length", [r[3] for r in rows]),
            column("simplified factor", "ratio", [r[4] for r in rows]),
            column("shear with over without torques", "ratio", [r[5] for r in rows]),
        ),
        note="The simplified factor is for stiffness and mass symmetric in plan and is not used "
        "here: the torques of the accidental eccentricity are applied to the structure.",
    )


def _ends(system: System, axis: int) -> tuple[PlumbLine, PlumbLine]:
    """Plumb points at the two ends of each floor across a direction of force."""
    present = np.ones(system.n, dtype=bool)
    low, high = system.centers.copy(), system.centers.copy()
    across = 1 - axis
    low[:, across], high[:, across] = system.bounds[:, across], system.bounds[:, 2 + across]
    return PlumbLine("one end", low, present), PlumbLine("other end", high, present)


def _largest_over_average(ends: Floats) -> Floats:
    """Largest over average of the two ends; ``ends`` is (2, stories, sets)."""
    largest, average = np.abs(ends).max(axis=0), np.abs(ends.mean(axis=0))
    return np.asarray(largest / np.maximum(average, 1e-300))
