"""Rules that several standards word alike, each with its own clauses and coefficients."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from undatum.errors import Fault, InputError
from undatum.standards.answers import (
    DirectionalCombination,
    Distribution,
    Floats,
    SiteAnswer,
    StructureFacts,
    SystemAnswer,
    Wall,
)
from undatum.working import Working


def torsion_amplification(
    largest: Floats, average: Floats, clause: str, equation: str
) -> Distribution:
    """(d_max / 1.2 d_avg)^2 by level, from 1 to 3, from displacements in m."""
    w = Working("Amplification of accidental torsion")
    w.given("delta_max", tuple(np.abs(largest)), "length", clause=clause,
            meaning="largest displacement at the level, with A_x = 1")
    w.given("delta_avg", tuple(np.abs(average)), "length", clause=clause,
            meaning="average of the displacements at the extreme points")
    factors = w.compute_all("A_x", "clip((delta_max / (1.2 * delta_avg)) ** 2, 1, 3)",
                            meaning="torsional amplification factor", clause=equation)
    return Distribution(factors, w.close())


def diaphragm_forces(
    site: SiteAnswer, distribution: Distribution, weights: Floats, least: str, most: str,
    clause: str, equation: str,
) -> Distribution:
    """Share of the forces above by weight, from ``least`` to ``most`` times the weight.

    The weight tributary to a diaphragm is taken as that of the level; walls parallel to the force
    may be left out of it. Transfer forces are not in it.
    """
    w = Working(distribution.working.title.replace("Story", "Diaphragm"), site.working)
    w.given("w_px", tuple(map(float, weights)), "force", clause=clause,
            meaning="weight tributary to the diaphragm, that of the level")
    w.given("sum_F", tuple(map(float, np.cumsum(distribution.forces))), "force", clause=clause,
            meaning="forces at and above the level")
    w.given("sum_w", tuple(map(float, np.cumsum(weights))), "force", clause=clause,
            meaning="weights at and above the level")
    found = w.compute_all(
        "F_px", f"clip(sum_F / sum_w * w_px, {least} * w_px, {most} * w_px)", "force",
        meaning="diaphragm design force", clause=equation)
    return Distribution(found, w.close())


def write_second_order(
    w: Working, symbols: tuple[str, str, str, str], values: tuple[Floats, Floats, Floats, Floats],
    clause: str, meanings: Mapping[str, str] | None = None,
) -> None:
    """Write gravity load, story drift, story shear and story height of every story."""
    usual = ("gravity load at and above the story", "design story drift", "story shear",
             "story height")
    for symbol, array, unit, meaning in zip(
        symbols, values, ("force", "length", "force", "length"), usual, strict=True
    ):
        w.given(symbol, tuple(map(float, array)), unit, clause=clause,
                meaning=(meanings or {}).get(symbol, meaning))


def quake_patterns(
    how: DirectionalCombination, factors: tuple[float, float] = (1.0, 1.0)
) -> list[tuple[str, tuple[float, float]]]:
    """Name and factors on the forces in X and Y for each way the directions go together.

    ``factors`` multiply each direction (redundancy, overstrength). Forces combined by SRSS enter
    with both factors at once; the root of the squares is taken of the effects.
    """
    x, y = factors
    if how == "SRSS":
        return [("X and Y, root of squares", (x, y))]
    if how == "independent":
        return [("X", (x, 0.0)), ("Y", (0.0, y))]
    share = 0.3 if how == "100/30" else 0.4
    return [(f"X + {share:g} Y", (x, share * y)), (f"{share:g} X + Y", (share * x, y))]


def walls_along(system: SystemAnswer, facts: StructureFacts) -> tuple[Wall, ...]:
    """The walls a period formula needs. Raises InputError where there is none."""
    walls = facts.walls.get(system.direction, ())
    if not walls:
        raise InputError([Fault(
            f"system.{system.direction}.period_basis", "no rectangular wall of the lowest story "
            f"resists along {system.direction}",
            "describe the walls as cantilevers with length and thickness, or take 'height'")])
    return walls
