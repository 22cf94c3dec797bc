"""Rules that several standards word alike, each with its own clauses and coefficients."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity, several
from undatum.standards.answers import (
    Amplification,
    BaseShearAnswer,
    Distribution,
    ScaleAnswer,
    SiteAnswer,
    TorsionAnswer,
)
from undatum.standards.facts import (
    Bools,
    Floats,
    GapFacts,
    SecondOrderFacts,
    StaticLevels,
    StructureFacts,
    Wall,
)
from undatum.standards.terms import OTHERS, Direction, DirectionalCombination, LimitState
from undatum.working import Candidate, Choice, Section, SectionKey, Working, largest, smallest


def torsion_amplification(
    direction: Direction, largest: Floats, average: Floats, clause: str, equation: str,
    *parents: Section,
) -> Amplification:
    """(d_max / 1.2 d_avg)^2 by level, from 1 to 3, from displacements in m."""
    w = Working(SectionKey("amplification", direction),
                f"Amplification of accidental torsion, forces in {direction}", *parents)
    w.given("delta_max", tuple(np.abs(largest)), "length", clause=clause,
            meaning="largest displacement at the level, with A_x = 1")
    w.given("delta_avg", tuple(np.abs(average)), "length", clause=clause,
            meaning="average of the displacements at the extreme points")
    factors = w.compute_all("A_x", "clip((delta_max / (1.2 * delta_avg)) ** 2, 1, 3)",
                            meaning="torsional amplification factor", clause=equation)
    return Amplification(factors, w.close())


def torsion_everywhere(
    answers: Mapping[Direction, TorsionAnswer], clause: str
) -> dict[Direction, TorsionAnswer]:
    """Torsional irregularity as a property of the structure: what follows holds both ways."""
    include, amplify, edges = (any(flags) for flags in zip(*(
        (a.include_accidental, a.amplify, a.drift_at_edges) for a in answers.values()),
        strict=True))
    found = {}
    for d, a in answers.items():
        more = [text for text, own, all_ in (
            ("accidental torsion is included in forces and drift", a.include_accidental, include),
            ("it is amplified", a.amplify, amplify),
            ("drift is checked at the floor edges", a.drift_at_edges, edges)) if all_ and not own]
        finding = a.finding
        if more:
            other = next(o for o in answers if o != d)
            finding = replace(finding, text=f"{finding.text} The structure is irregular by "
                              f"direction {other}, so here too {', '.join(more)} ({clause}).")
        where = max(o.drift_where for o in answers.values()) if edges else a.drift_where
        found[d] = replace(a, include_accidental=include, amplify=amplify, drift_at_edges=edges,
                           finding=finding, drift_where=where)
    return found


def diaphragm_forces(
    site: SiteAnswer, distribution: Distribution, weights: Floats,
    carried: Bools, least: str, most: str, clause: str, equation: str,
) -> Distribution:
    """Share of the forces above by weight, from ``least`` to ``most`` times the weight.

    The weight tributary to a diaphragm is taken as that of the level; walls parallel to the force
    may be left out of it. Transfer forces are not in it.
    """
    of = distribution.working.key
    w = Working(SectionKey("diaphragms", of.direction, of.state),
                f"Diaphragm forces in {of.direction} for {of.state}", site.working)
    w.given("w_px", tuple(map(float, weights)), "force", clause=clause,
            meaning="weight tributary to the diaphragm, that of the level")
    w.given("sum_F", tuple(map(float, carried @ distribution.forces)), "force", clause=clause,
            meaning="forces at and above the level")
    w.given("sum_w", tuple(map(float, carried @ weights)), "force", clause=clause,
            meaning="weights at and above the level")
    w.compute_all("F_s", "sum_F / sum_w * w_px", "force", meaning="share of forces above",
                  clause=clause)
    found = w.compute_all(
        "F_px", f"clip(F_s, {least} * w_px, {most} * w_px)", "force",
        meaning="diaphragm design force", clause=equation)
    return Distribution(found, w.close())


def second_order(
    facts: SecondOrderFacts, symbols: tuple[str, str, str, str], clause: str,
    meanings: Mapping[str, str] | None = None, *parents: Section,
) -> Working:
    """Working that holds gravity load, story drift, story shear and story height of every story."""
    w = Working(SectionKey("stability", facts.direction, facts.state.key, facts.method),
                f"P-Delta in {facts.direction}, {facts.method}" + facts.state.beside(", "),
                *parents)
    usual = ("gravity load at and above the story", "design story drift", "story shear",
             "story height")
    values = (facts.gravity, facts.drift, facts.shear, facts.heights)
    for symbol, array, unit, meaning in zip(
        symbols, values, ("force", "length", "force", "length"), usual, strict=True
    ):
        w.given(symbol, tuple(array.tolist()), unit, clause=clause,
                meaning=(meanings or {}).get(symbol, meaning))
    return w


def second_order_factor(theta: Floats, negligible: float, last: float) -> Floats:
    """1 / (1 - theta) above ``negligible``; not a number above ``last``, where no factor helps."""
    found = np.ones_like(theta)
    grown = (theta > negligible) & (theta <= last) & (theta < 1.0)
    found[grown] = 1.0 / (1.0 - theta[grown])
    found[(theta > last) | (theta >= 1.0)] = np.nan
    return found


def level_lines(
    w: Working, levels: StaticLevels, weight: str, height: str, clauses: tuple[str, str],
    meaning: str = "weight of the level",
) -> None:
    """Write weight and height of every level that carries a static force."""
    w.given(weight, tuple(map(float, levels.weights)), "force", meaning=meaning, clause=clauses[0])
    w.given(height, tuple(map(float, levels.heights)), "length", meaning="height above the base",
            clause=clauses[1])


def top_line(w: Working, levels: StaticLevels, symbol: str, clause: str) -> None:
    """Write the share of every level in a force at the top: that of the highest one, of several
    roofs equally high by their weights."""
    top = levels.heights > levels.heights.max() * (1 - 1e-9)
    share = np.where(top, levels.weights, 0.0) / levels.weights[top].sum()
    w.given(symbol, tuple(map(float, share)), clause=clause, meaning="1 at the top, 0 below"
            if top.sum() == 1 else "share of the highest levels by weight, 0 below")


def forces_working(shear: BaseShearAnswer) -> Working:
    """The working of the story forces of a base shear."""
    return Working(SectionKey("story forces", shear.direction, shear.state.key),
                   f"Story forces in {shear.direction} for {shear.state.key}", shear.working)


def shear_working(direction: Direction, state: LimitState, *parents: Section) -> Working:
    """The working of a base shear."""
    return Working(SectionKey("base shear", direction, state.key),
                   f"Base shear in {direction} for {state.key}", *parents)


def uncomputed_period(
    w: Working, symbol: str, approximate: str, clause: str, words: tuple[str, str]
) -> float:
    """The period used where none is computed: the approximate one, in ``words`` of the standard, or
    the cap on computed ones where that is shorter."""
    long = w.value(approximate) > w.value("T_max")
    return w.pick(symbol, smallest(Candidate("approximate", approximate, words[0]),
                                   Candidate("capped", "T_max", words[1], applies=long)),
                  "s", meaning="period used", clause=clause, cap="T_max").value


def base_shear(
    w: Working, direction: Direction, state: LimitState, governs: Choice, shear: float,
    weight: str = "W", period: str = "T",
) -> BaseShearAnswer:
    """The answer to a working that ends in a ``shear`` (N): what ``governs`` it, and the symbols of
    weight and period in it."""
    section, whole = w.close(), w.value(weight)
    return BaseShearAnswer(direction, state, w.value(period), shear / whole, shear, whole,
                           governs.key, governs.words, governs.clause, section,
                           section[period].branch)


def scale_working(shear: BaseShearAnswer, *parents: Section) -> Working:
    """The working of a scale factor on the modal response of a limit state."""
    return Working(SectionKey("scaling", shear.direction, shear.state.key),
                   f"Scaling of {scaled(shear.state)} in {shear.direction}", *parents)


def scaled(state: LimitState) -> str:
    """What is scaled, in words."""
    if state.key in ("strength", "drift"):
        return "forces" if state.role == "forces" else "drift"
    return state.key


def scale_symbol(state: LimitState) -> str:
    return "s_F" if state.role == "forces" else "s_D"


def not_scaled(
    w: Working, state: LimitState, clause: str, branch: str, key: str = "not scaled"
) -> ScaleAnswer:
    """A factor of one, where a standard does not scale."""
    factor = w.given(scale_symbol(state), 1.0, meaning=f"factor on {scaled(state)}", clause=clause,
                     branch=branch, key=key)
    return ScaleAnswer(factor, key, branch, clause, w.close())


def scaled_up(
    w: Working, state: LimitState, target: str, clause: str, short: str, enough: str
) -> ScaleAnswer:
    """max(1, target / V_t): ``short`` and ``enough`` say which of the two governed."""
    choice = w.pick(
        scale_symbol(state),
        largest(Candidate("not scaled", "1", enough), Candidate("scaled up", f"{target} / V_t",
                                                                 short)),
        meaning=f"factor on {scaled(state)}", clause=clause)
    return ScaleAnswer(choice.value, choice.key, choice.words, clause, w.close())


def separation_working(gap: GapFacts, *parents: Section) -> Working:
    """The working of the distance to a neighbor."""
    return Working(SectionKey("separation", gap.direction, item=gap.item), "Separation", *parents)


def quake_patterns(
    how: DirectionalCombination, factors: Mapping[Direction, float]
) -> list[tuple[str, tuple[float, float]]]:
    """Name and factors on the forces in X and Y for each way the directions go together.

    ``factors`` multiply each direction (redundancy, overstrength); of a plane building there is
    one. Forces combined by SRSS enter with both factors at once; the root of the squares is taken
    of the effects.
    """
    if len(factors) == 1:
        (name, factor), = factors.items()
        return [(name, (factor, 0.0) if name == "X" else (0.0, factor))]
    x, y = factors["X"], factors["Y"]
    if how == "SRSS":
        return [("X and Y, root of squares", (x, y))]
    share = OTHERS[how]
    if share == 0:
        return [("X", (x, 0.0)), ("Y", (0.0, y))]
    if share == 1:
        return [("X + Y", (x, y))]
    return [(f"X + {share:g} Y", (x, share * y)), (f"{share:g} X + Y", (share * x, y))]


def three_patterns(
    how: DirectionalCombination, factors: Mapping[Direction, float]
) -> list[tuple[str, tuple[float, float, float]]]:
    """As :func:`quake_patterns`, with vertical motion as one direction more."""
    ways = [*factors, "Z"]
    own: dict[str, float] = {str(d): f for d, f in factors.items()} | {"Z": 1.0}

    def row(shares: Mapping[str, float]) -> tuple[float, float, float]:
        x, y, z = (own.get(d, 0.0) * shares.get(d, 0.0) for d in ("X", "Y", "Z"))
        return x, y, z

    if how == "SRSS":
        return [(f"{', '.join(ways)}, root of squares", row(dict.fromkeys(ways, 1.0)))]
    rest = OTHERS[how]
    if rest == 1:
        return [(" + ".join(ways), row(dict.fromkeys(ways, 1.0)))]
    return [(" + ".join(d if d == lead else f"{rest:g} {d}" for d in ways if d == lead or rest),
             row({d: 1.0 if d == lead else rest for d in ways})) for lead in ways]


def needs_structure(place: str, what: str, instead: str) -> InputError:
    """A rule asks for what heights and weights alone don't tell."""
    return InputError([Fault(place, f"asks for {what}, which only a structure has",
                             f"take {instead!r}, or describe lines or members")])


def plan_of(facts: StructureFacts) -> tuple[float, float]:
    """Plan dimensions along X and Y, m. Raises InputError where they are not given."""
    if not all(map(math.isfinite, facts.plan)):
        raise _without_plan()
    return facts.plan


def base_area_of(facts: StructureFacts) -> float:
    """Area of the floor at the base, m2. Raises InputError where the plan is not given."""
    if not math.isfinite(facts.base_area):
        raise _without_plan()
    return facts.base_area


def _without_plan() -> InputError:
    return InputError([Fault("stack.plan", "is missing, and a rule asks for the plan dimensions",
                             "give plan = [along X, along Y]")])


def gross_stiffness(facts: StructureFacts, clause: str) -> tuple[Finding, ...]:
    """Concrete that is analyzed with its gross stiffness where a standard asks for cracked
    sections."""
    if not facts.gross:
        return ()
    return (Finding(
        "cracked stiffness", "whole structure", Severity.WARNING,
        f"Modeled with gross stiffness: {several(facts.gross)}. Concrete and masonry require the "
        "stiffness of cracked sections.", clause,
        "Give stiffness factors: kept of members and walls, flexural_share of lines."),)


def walls_along(direction: Direction, facts: StructureFacts) -> tuple[Wall, ...]:
    """The walls a period formula needs. Raises InputError where there is none."""
    walls = facts.walls.get(direction, ())
    if not walls:
        raise InputError([Fault(
            f"system.{direction}.period_basis", "no rectangular wall of the lowest story "
            f"resists along {direction}",
            "describe the walls as cantilevers with length and thickness, or take 'height'")])
    return walls
