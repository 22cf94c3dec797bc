"""Static lateral force analysis: the standard's forces put on the structure."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import StaticSet
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import System
from undatum.standards.answers import (
    DIRECTIONS,
    BaseShearAnswer,
    Direction,
    Distribution,
    Purpose,
    SiteAnswer,
    StructureFacts,
    SystemAnswer,
)
from undatum.standards.contract import Standard
from undatum.table import Table, column
from undatum.units import STANDARD_GRAVITY

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class StaticForces:
    """Static forces of one direction and purpose by level, top down, ``n`` levels. SI."""

    shear: BaseShearAnswer
    distribution: Distribution
    levels: tuple[str, ...]
    weights: Floats
    heights: Floats  # above the base
    story_heights: Floats
    forces: Floats

    @property
    def story_shears(self) -> Floats:
        """(n,) N."""
        return np.cumsum(self.forces)

    @property
    def overturning(self) -> Floats:
        """(n,) N m, about the bottom of each story."""
        return np.cumsum(self.story_shears * self.story_heights)

    def table(self) -> Table:
        """Force, shear and overturning by level."""
        d, p = self.shear.direction, self.shear.purpose
        base = self.forces > 0
        return Table(
            f"static_{d.lower()}_{p}",
            f"Equivalent lateral forces, {d}, for {p}",
            (
                column("level", "", self.levels),
                column("height above base", "length", self.heights),
                column("weight", "force", self.weights),
                column("share of base shear", "ratio", self.forces / self.forces.sum()),
                column("force", "force", self.forces),
                column("story shear", "force", self.story_shears),
                column("overturning moment", "moment", self.overturning),
            ),
            note=f"V = {self.shear.coefficient:.5f} W, T = {self.shear.period:.4g} s; "
            f"{self.shear.governing}."
            + ("" if base.all() else " Levels that carry no force lie at or below the base."),
        )


def static_forces(
    standard: Standard, site: SiteAnswer, lateral: SystemAnswer, system: System,
    facts: StructureFacts, purpose: Purpose, computed_period: float, shape: Floats,
) -> StaticForces:
    """The standard's base shear for a purpose, spread over the levels above the base.

    ``shape`` (n,) holds the displacements in the mode that governs the direction.
    """
    periods = standard.period(lateral, site, facts)
    shear = standard.base_shear(purpose, site, lateral, periods, computed_period, facts)
    weights = system.mass * STANDARD_GRAVITY
    heights = system.elevations - system.base_elevation
    above = weights > 0
    found = standard.distribution(
        lateral, shear, list(weights[above]), list(heights[above]), list(shape[above]))
    forces = np.zeros(system.n)
    forces[above] = found.forces
    return StaticForces(
        shear, found, system.levels, weights, heights, system.story_heights, forces
    )


def level_loads(system: System, direction: Direction, forces: Floats, torques: Floats) -> Floats:
    """Load vector (3n,) of forces along a direction and moments about Z at the centers."""
    loads = np.zeros(3 * system.n)
    axis = DIRECTIONS.index(direction)
    loads[axis * system.n : (axis + 1) * system.n] = forces
    loads[2 * system.n :] = torques
    return loads


def plan_across(system: System, direction: Direction) -> Floats:
    """(n,) plan dimension across a direction of force, m."""
    b = system.bounds
    return np.asarray(b[:, 3] - b[:, 1] if direction == "X" else b[:, 2] - b[:, 0])


def accidental_torques(
    system: System, direction: Direction, forces: Floats, share: float, amplification: Floats
) -> Floats:
    """(n,) N m about Z when the mass of each level moves by ``share`` of the dimension across.

    A force along X on a mass moved towards +Y turns the floor from Y to X (negative); a force
    along Y on a mass moved towards +X turns it from X to Y (positive).
    """
    sense = -1.0 if direction == "X" else 1.0
    return np.asarray(
        sense * share * plan_across(system, direction) * amplification * forces
    )


def static_sets(
    system: System, statics: Mapping[tuple[Direction, Purpose], StaticForces],
    shares: Mapping[Direction, float], amplification: Mapping[Direction, Floats],
    static_factor: float, rigidity: Floats,
) -> tuple[StaticSet, ...]:
    """Every static set: each direction and purpose, with both signs of eccentricity.

    ``shares`` is the accidental eccentricity by direction; zero means that direction goes without.
    ``static_factor`` multiplies the distance from the centers of ``rigidity`` (n, 2) to those of
    mass for the sign that makes it larger.
    """
    cases = []
    for (direction, purpose), static in statics.items():
        signs = (1, -1) if shares[direction] else (0,)
        torque = accidental_torques(
            system, direction, static.forces, shares[direction], amplification[direction]
        )
        across, sense = (1, -1.0) if direction == "X" else (0, 1.0)
        inherent = np.nan_to_num(system.centers[:, across] - rigidity[:, across])
        for sign in signs:
            more = (static_factor - 1.0) * sign * np.maximum(sign * inherent, 0.0)
            cases.append((direction, purpose, sign, static.forces, sign * torque,
                          sense * more * static.forces))
    loads = np.column_stack([level_loads(system, d, f, t + m) for d, _, _, f, t, m in cases])
    found = solve_static(system, loads)
    ends = {1: ", +e", -1: ", −e", 0: ""}
    return tuple(
        StaticSet(f"static {d}{ends[s]}", d, p, s, f, t + m, t, found[:, i])
        for i, (d, p, s, f, t, m) in enumerate(cases)
    )
