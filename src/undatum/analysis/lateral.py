"""Static lateral force analysis: the standard's forces put on the structure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import StaticSet
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.record import fixed, record
from undatum.standards.answers import BaseShearAnswer, Distribution, Eccentricity, PeriodAnswer
from undatum.standards.contract import LateralForces
from undatum.standards.facts import StaticLevels
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from undatum.table import Table, column
from undatum.units import STANDARD_GRAVITY

Floats = NDArray[np.float64]


@record
class StaticForces:
    """Static forces of one direction and limit state by level, top down, ``n`` levels. SI."""

    shear: BaseShearAnswer
    distribution: Distribution
    levels: tuple[str, ...]
    weights: Floats
    heights: Floats  # above the base
    story_heights: Floats
    forces: Floats
    carried: NDArray[np.bool_]  # (n, n) whether a level (column) stands on a story (row)

    @property
    @fixed
    def story_shears(self) -> Floats:
        """(n,) N."""
        return np.asarray(self.carried @ self.forces)

    @property
    @fixed
    def overturning(self) -> Floats:
        """(n,) N m, about the bottom of each story."""
        bottom = self.heights - self.story_heights
        arm = np.where(self.carried, self.heights[None, :] - bottom[:, None], 0.0)
        return np.asarray(arm @ self.forces)

    @property
    def table_name(self) -> str:
        """Name of the table of :meth:`table`."""
        return f"static_{self.shear.direction.lower()}_{self.shear.state.slug}"

    def table(self) -> Table:
        """Force, shear and overturning by level."""
        return Table(
            self.table_name,
            f"Equivalent lateral forces, {self.shear.direction}, for {self.shear.state.key}",
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
            + ("" if (self.forces > 0).all() else
               " Levels that carry no force lie at or below the base."),
        )


def static_forces(
    part: LateralForces, model: Model, direction: Direction, state: LimitState,
    period: PeriodAnswer, computed: float, shape: Floats,
) -> StaticForces:
    """The standard's base shear for a limit state, spread over the levels above the base.

    ``shape`` (n,) holds the displacements of the floors in the mode that governs the direction,
    whose period is ``computed`` (s).
    """
    return forces_on(part, model.levels, model.diaphragms.mass * STANDARD_GRAVITY, model.heights,
                     model.diaphragms.story_heights, direction, state, period, computed, shape,
                     model.diaphragms.carried)


def forces_on(
    part: LateralForces, levels: tuple[str, ...], weights: Floats, heights: Floats,
    story_heights: Floats, direction: Direction, state: LimitState, period: PeriodAnswer,
    computed: float | None = None, shape: Floats | None = None,
    carried: NDArray[np.bool_] | None = None,
) -> StaticForces:
    """The same on floors of which weights and heights (n,) are known; without a structure there
    is no ``computed`` period and no ``shape``. One stands on the next where ``carried`` does not
    say otherwise."""
    shear = part.base_shear(direction, state, period, computed)
    above = weights > 0
    found = part.distribution(shear, StaticLevels(
        weights[above], heights[above], None if shape is None else shape[above]))
    forces = np.zeros(len(weights))
    forces[above] = found.forces
    if carried is None:
        carried = np.tri(len(weights), dtype=bool)
    return StaticForces(shear, found, levels, weights, heights, story_heights, forces, carried)


@fixed
def accidental_torques(
    model: Model, direction: Direction, forces: Floats, share: float,
    amplification: Floats | float = 1.0,
) -> Floats:
    """(n,) N m about Z when the mass of each floor moves by ``share`` of the dimension across.

    A force along X on a mass moved towards +Y turns the floor from Y to X (negative); a force
    along Y on a mass moved towards +X turns it from X to Y (positive).
    """
    return sense(direction) * share * model.diaphragms.across(direction) * amplification * forces


@fixed
def inherent_torques(
    model: Model, direction: Direction, forces: Floats, factor: float, rigidity: Floats, sign: int
) -> Floats:
    """(n,) N m about Z that multiply the eccentricity of the story shears by ``factor``.

    The moment of the shear of every story about its center of ``rigidity`` (n, 2) grows where that
    makes the effect of the ``sign`` larger; the torque of a floor is what its story adds to the
    one above.
    """
    if factor == 1.0:
        return np.zeros(model.n)
    across = 1 - DIRECTIONS.index(direction)
    d = model.diaphragms
    moment = d.carried @ (forces * d.centers[:, across]) \
        - (d.carried @ forces) * np.nan_to_num(rigidity[:, across])
    more = (factor - 1.0) * sign * np.maximum(sign * moment, 0.0)
    above = np.zeros(model.n)
    standing = np.flatnonzero(d.below >= 0)
    np.add.at(above, d.below[standing], more[standing])
    return sense(direction) * (more - above)


def sense(direction: Direction) -> float:
    """Sign of the moment about Z of a force along ``direction`` at a positive eccentricity."""
    return -1.0 if direction == "X" else 1.0


def static_sets(
    solver: Solver, statics: Mapping[tuple[Direction, str], StaticForces],
    eccentricity: Mapping[Direction, Eccentricity], amplification: Mapping[Direction, Floats],
    rigidity: Floats, *, plain: bool = False,
) -> tuple[StaticSet, ...]:
    """Every static set: each direction and limit state, with both signs of eccentricity, and
    without any where ``plain`` asks for it.

    An ``eccentricity`` of zero means that the direction goes without. Its static factor multiplies
    the distance from the centers of ``rigidity`` (n, 2) to the story shear: see
    :func:`inherent_torques`.
    """
    model = solver.model
    cases: list[tuple[StaticForces, int, Floats, Floats]] = []
    for static in statics.values():
        d = static.shear.direction
        own = eccentricity[d]
        torque = accidental_torques(model, d, static.forces, own.share,
                                    amplification.get(d, 1.0))
        for sign in (1, -1, *([0] if plain else [])) if own.share else (0,):
            cases.append((static, sign, sign * torque, inherent_torques(
                model, d, static.forces, own.static_factor, rigidity, sign)))
    loads = np.column_stack([model.loads(s.shear.direction, s.forces, t + m)
                             for s, _, t, m in cases])
    found = solver.solve(loads)
    return tuple(
        StaticSet(set_name("static", s.shear.direction, s.shear.state, sign), s.shear.direction,
                  s.shear.state, sign, s.forces, t + m, t, found[:, i], loads[:, i])
        for i, (s, sign, t, m) in enumerate(cases)
    )


def set_name(method: str, direction: str, state: LimitState, sign: int = 0) -> str:
    """The name of a set: method, direction, sign of the eccentricity, limit state."""
    return f"{method} {direction}" + {1: ", +e", -1: ", −e", 0: ""}[sign] + f", {state.key}"


def of_state(sets: Sequence[StaticSet], state: LimitState) -> list[StaticSet]:
    """The sets of one limit state."""
    return [s for s in sets if s.state == state]
