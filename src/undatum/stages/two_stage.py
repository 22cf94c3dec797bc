"""The two-stage static procedure: a flexible upper portion on a rigid lower one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from undatum import standards
from undatum.analysis.lateral import StaticForces, accidental_torques, forces_on
from undatum.analysis.response import StaticSet
from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.project.portions import TwoStage
from undatum.record import record
from undatum.stages.shaking import Shaking
from undatum.stages.to_static_forces import bind_standard
from undatum.standards.answers import Eccentricity, SiteAnswer, SystemAnswer
from undatum.standards.facts import Asked, AskedOfSite, ShapeFacts, StructureFacts, TwoStageRule
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from undatum.table import Table, column, number_text
from undatum.units import STANDARD_GRAVITY
from undatum.working import Section, SectionKey, Working

Floats = NDArray[np.float64]


@record
class Stages:
    """Both portions along one direction. SI.

    ``upper`` and ``lower`` are the static forces of each as a structure of its own, by all levels
    of the building; ``ratio`` multiplies the reactions of the upper one; ``stiffness`` the least
    story stiffness of the lower over the largest of the upper, and that of their means;
    ``periods`` of the entire structure and of the upper portion on a fixed base, s.
    """

    direction: Direction
    upper: StaticForces
    lower: StaticForces
    ratio: float
    stiffness: tuple[float, float]
    periods: tuple[float, float]
    working: tuple[Section, ...]

    @property
    def on_lower(self) -> Floats:
        """(n,) N: what the lower portion is designed for, the reactions of the upper amplified."""
        return np.asarray(self.lower.forces + self.ratio * self.upper.forces)


@record
class TwoStages:
    """Two portions of a building, and whether the procedure is permitted."""

    rule: TwoStageRule
    level: str
    found: tuple[Stages, ...]

    def findings(self) -> tuple[Finding, ...]:
        """Whether the portions are stiff and flexible enough, and which forces hold where."""
        made = []
        for one in self.found:
            where, rule = f"direction {one.direction}", self.rule
            strict, mean = one.stiffness
            whole, alone = one.periods
            fits = mean >= rule.stiffness * (1 - 1e-9)
            sure = fits and (rule.by_mean or strict >= rule.stiffness * (1 - 1e-9))
            slow = whole > rule.period * alone * (1 + 1e-9)
            text = f"Stiffness of the stories below {self.level} over those above: {mean:.3g} by " \
                   f"their means, {strict:.3g} the least over the largest, against " \
                   f"{rule.stiffness:g}; period {whole:.3g} s of the entire structure against " \
                   f"{rule.period:g} times {alone:.3g} s of the upper portion by itself. "
            made.append(Finding(
                "two-stage procedure", where,
                Severity.EXCEEDED if slow or not fits else
                Severity.OK if sure else Severity.WARNING,
                text + ("It is not permitted." if slow or not fits else "It is permitted." if sure
                        else "It is permitted if the standard means the means; it does not say."),
                rule.clause, "Stiffen the lower portion, or take one system for the whole height."
                if slow or not fits else "", max(rule.stiffness / mean, whole / (
                    rule.period * alone)), 1.0))
            made.append(Finding(
                "forces of two stages", where, Severity.NOTE,
                f"The upper portion is designed for the sets 'upper portion {one.direction}', the "
                f"lower one for 'lower portion {one.direction}', in which the forces of the upper "
                f"are multiplied by {one.ratio:.3g}. All other results take the system of the "
                "upper portion for the whole height.", rule.clause,
                "Read members and walls of each portion under its own sets."))
        return tuple(made)

    def table(self) -> Table:
        """Level by level: the portion, and the forces of both sets."""
        rows = [(one, i) for one in self.found for i in range(len(one.upper.levels))
                if one.upper.weights[i] > 0 or one.lower.weights[i] > 0]
        return Table(
            "two_stage", "Two-stage procedure: forces of both portions",
            (
                column("direction", "", [one.direction for one, _ in rows]),
                column("level", "", [one.upper.levels[i] for one, i in rows]),
                column("portion", "", ["upper" if one.upper.weights[i] > 0 else "lower"
                                       for one, i in rows]),
                column("weight", "force", [float(one.upper.weights[i] + one.lower.weights[i])
                                           for one, i in rows]),
                column("force of its portion", "force",
                       [float(one.upper.forces[i] + one.lower.forces[i]) for one, i in rows]),
                column("on the upper portion", "force", [float(one.upper.forces[i])
                                                         for one, i in rows]),
                column("on the lower portion", "force", [float(one.on_lower[i])
                                                         for one, i in rows]),
            ),
            note=f"The upper portion stands on {self.level}. On the lower portion act its own "
            "forces and the reactions of the upper one, shear and overturning, by the ratio of "
            "R over the redundancy factor of both, at least 1: "
            + "; ".join(f"{number_text(one.ratio)} in {one.direction}" for one in self.found)
            + f" ({self.rule.clause}). Redundancy itself is not in these forces.")


def two_stages(
    asked: TwoStage | None, standard: standards.AnyStandard, given: AskedOfSite, site: SiteAnswer,
    systems: Mapping[Direction, Asked], facts: StructureFacts, shaking: Shaking, model: Model,
    shape: ShapeFacts, state: LimitState,
) -> TwoStages | None:
    """Both portions as structures of their own; nothing where that is not asked for.

    ``systems`` are the ``[system]`` tables, of the upper portion; ``shape`` holds the stiffness of
    the stories.
    """
    if asked is None:
        return None
    assert standard.two_stage is not None
    if site.category in standard.two_stage.exempt:
        raise InputError([Fault("two_stage", f"category {site.category} is exempt from the chapter "
                                "that has the procedure", "take it out")])
    stand = model.levels.index(asked.level)
    top = np.arange(model.n) < stand
    weights = model.diaphragms.mass * STANDARD_GRAVITY
    z = float(model.heights[stand])
    own = asked.by_direction
    up = _part(facts, facts.height - z, weights[top], model.diaphragms.story_heights[:stand])
    low_at = ~top & model.above_base
    low = _part(facts, z, weights[low_at], model.diaphragms.story_heights[low_at])
    whole, alone = (_periods(model, top, held=held) for held in (False, True))
    found = []
    bound = [bind_standard(standard, given, site, tables, part, shaking)
             for tables, part in ((systems, up), (own, low))]
    for d in systems:
        axis = DIRECTIONS.index(d)
        statics = []
        for (_, part, *_), mask, base, period in (
                (bound[0], top, z, alone[axis]), (bound[1], low_at, 0.0, None)):
            statics.append(forces_on(
                part, model.levels, np.where(mask, weights, 0.0), model.heights - base,
                model.diaphragms.story_heights, d, state, part.period(d), period,
                carried=model.diaphragms.carried))
        k = {name: float(v) for name, v in zip(shape.levels, shape.stiffness[axis], strict=True)}
        upper = np.array([k[name] for i, name in enumerate(model.levels) if top[i] and name in k])
        lower = np.array([k[name] for i, name in enumerate(model.levels)
                          if low_at[i] and name in k])
        ratio, section = _ratio(d, bound[0][0][d], bound[1][0][d], standard.two_stage)
        found.append(Stages(
            d, statics[0], statics[1], ratio,
            (float(lower.min() / upper.max()), float(lower.mean() / upper.mean())),
            (whole[axis], alone[axis]),
            (section, *_renamed(statics[0], "upper portion"),
             *_renamed(statics[1], "lower portion"))))
    return TwoStages(standard.two_stage, asked.level, tuple(found))


def _part(facts: StructureFacts, height: float, weights: Floats, stories: Floats) -> StructureFacts:
    """What is known of a portion by itself."""
    return replace(facts, height=height, stories=len(stories),
                   story_heights=tuple(stories.tolist()), weight=float(weights.sum()))


SHARE = 0.05  # of the mass, of the building or of the upper portion: a mode that counts


def _periods(model: Model, top: NDArray[np.bool_], *, held: bool) -> tuple[float, float]:
    """The longest along X and Y, s, of the modes that move a share of the mass of the building, or
    of its upper portion; the floors of the lower one ``held``, or not.

    On a heavy lower portion the mode with the most mass is that of the lower one, and short.
    """
    floors = model.diaphragms.freedoms
    keep = np.ones(model.freedoms.count, dtype=bool)
    keep[floors[~top].ravel()] = not held
    mass = model.mass.diagonal()[keep]
    squared, shapes = linalg.eigh(np.diag(mass), model.dense[np.ix_(keep, keep)])  # 1 / omega^2
    above = np.isin(np.flatnonzero(keep), floors[top].ravel())
    found = []
    for axis in range(2):
        along = mass * model.influence(("X", "Y"))[keep, axis]
        counts = [(shapes.T @ one)**2 >= SHARE * squared * one.sum()  # shapes have unit stiffness
                  for one in (along, np.where(above, along, 0.0))]
        longest = squared[(counts[0] | counts[1]) & (squared > 0)].max(initial=0.0)
        found.append(float(2 * np.pi * np.sqrt(longest)))
    return found[0], found[1]


def _ratio(
    direction: Direction, upper: SystemAnswer, lower: SystemAnswer,
    rule: TwoStageRule,
) -> tuple[float, Section]:
    w = Working(SectionKey("two stages", direction), f"Two-stage procedure in {direction}")
    for sign, one in (("u", upper), ("l", lower)):
        name = "upper" if sign == "u" else "lower"
        w.given(f"R_{sign}", one.reduction or one.force_divisor, clause=rule.clause,
                meaning=f"R of the {name} portion", branch=f"row {one.row}: {one.name}")
        w.given(f"rho_{sign}", one.redundancy, clause=rule.clause,
                meaning=f"redundancy factor of the {name} portion")
    ratio = w.compute("f", "max(1, (R_u / rho_u) / (R_l / rho_l))", clause=rule.clause,
                      meaning="factor on the reactions of the upper portion")
    return ratio, w.close()


def _renamed(one: StaticForces, portion: str) -> tuple[Section, ...]:
    """The working of a portion's forces under keys of its own."""
    return tuple(replace(s, key=replace(s.key, item=portion), title=f"{s.title}, {portion}")
                 for s in (one.shear.working, one.distribution.working))


def sets_of_stages(
    found: TwoStages | None, solver: Solver, eccentricity: Mapping[Direction, Eccentricity],
    amplification: Mapping[Direction, Floats],
) -> tuple[StaticSet, ...]:
    """The sets of both portions, with both signs of the accidental eccentricity."""
    sets: list[StaticSet] = []
    for one in () if found is None else found.found:
        d, state = one.direction, one.upper.shear.state
        share = eccentricity[d].share
        for name, forces in (("upper portion", one.upper.forces), ("lower portion", one.on_lower)):
            for sign in (1, -1) if share else (0,):
                torque = sign * accidental_torques(
                    solver.model, d, forces, share, amplification.get(d, 1.0))
                loads = solver.model.loads(d, forces, torque)
                sets.append(StaticSet(
                    f"{name} {d}" + {1: ", +e", -1: ", −e", 0: ""}[sign] + f", {state.key}", d,
                    state, sign, forces, torque, torque, solver.solve(loads), loads, own=True))
    return tuple(sets)
