"""The last stages: findings, working, and everything put together."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum import standards
from undatum.analysis.modes import Modes
from undatum.analysis.response import SpectrumSet, StaticSet
from undatum.analysis.torsion import TorsionResult
from undatum.building.weight import Weights
from undatum.building.whole import Building
from undatum.checks.drift import DriftCheck
from undatum.checks.drift_combined import CombinedDrift
from undatum.checks.drift_read import DriftReading
from undatum.checks.plausibility import Plausibility
from undatum.checks.separation import SeparationCheck
from undatum.checks.stability import StabilityCheck
from undatum.errors import InputError
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.project.choices import (
    against_the_standard,
    chosen_ways,
    close_modes,
    free_joints,
    moved_masses,
    not_open,
    open_floors,
    other_for_drift,
    plane_building,
    vertical_motion,
)
from undatum.project.damping import damping_finding
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.odd_members import odd_members
from undatum.project.outcomes import Scaling, SpectrumResult
from undatum.project.own_forces import OwnForces, own_forces_findings
from undatum.project.questions import (
    astray,
    counted_twice,
    ending_in_the_air,
    followed,
    implausible,
    meeting_walls,
    walls_without_weight,
)
from undatum.project.registry import stage
from undatum.project.schema import Project
from undatum.project.second_order import second_order_finding
from undatum.project.shaking import Shaking
from undatum.project.stages import Statics
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    Distribution,
    DriftLimit,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    SiteAnswer,
    SystemAnswer,
)
from undatum.standards.contract import Dynamics, LateralForces
from undatum.standards.facts import ModalFacts, StructureFacts
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, LimitState
from undatum.units import UnitSystem
from undatum.working import OwnValue, Section, unused


@stage("working")
def collect_working(
    project: Project, site: SiteAnswer, shaking: Shaking,
    laterals: Mapping[Direction, SystemAnswer], periods: Mapping[Direction, PeriodAnswer],
    statics: Statics, twist: Mapping[Direction, TorsionResult],
    diaphragms: Mapping[Direction, Distribution], scaling: tuple[Scaling, ...],
    limits: Mapping[tuple[Direction, str], DriftLimit], stability: tuple[StabilityCheck, ...],
    gap_checks: tuple[SeparationCheck, ...], combinations: CombinationAnswer | None,
    own_values: tuple[OwnValue, ...],
) -> tuple[Section, ...]:
    """The working of every answer, in the order of the job; no two sections have one key.

    Raises InputError where a value of one's own was not used.
    """
    found = (
        *hazard_working(project.site),
        site.working,
        *shaking.working,
        *(one.working for one in laterals.values()),
        *(one.working for one in periods.values()),
        *(x for s in statics.values() for x in (s.shear.working, s.distribution.working)),
        *(t.amplification.working for t in twist.values() if t.amplification is not None),
        *(f.working for f in diaphragms.values()),
        *(s.answer.working for s in scaling),
        *(limit.working for limit in limits.values()),
        *(s.answer.working for s in stability),
        *(g.answer.working for g in gap_checks),
        *([combinations.working] if combinations else []),
    )
    if faults := unused(own_values, found):
        raise InputError(faults)
    keys = [s.key for s in found]
    assert len(set(keys)) == len(keys), "two sections of working have one key"
    return found


@stage("questions")
def ask_questions(project: Project, units: UnitSystem) -> tuple[Finding, ...]:
    """Values that are possible but not plausible, and what lies off its floor."""
    return (*implausible(project, units), *astray(project.building, units),
            *counted_twice(project.building), *followed(project.building, units),
            *ending_in_the_air(project.building), *meeting_walls(project.building),
            *walls_without_weight(project.building, units),
            *odd_members(project.building, units))


@stage("findings")
def collect_findings(
    project: Project, standard: standards.AnyStandard, site: SiteAnswer, shaking: Shaking,
    laterals: Mapping[Direction, SystemAnswer], dynamics_part: Dynamics,
    procedure: ProcedureAnswer, regularity: RegularityAnswer,
    twist: Mapping[Direction, TorsionResult], modes: Modes, rules: ModalRules, units: UnitSystem,
    dynamic: tuple[SpectrumResult, ...], solver: Solver,
    facts: StructureFacts, drifts: Mapping[str, DriftCheck],
    drift_readings: Mapping[str, DriftReading], gap_checks: tuple[SeparationCheck, ...],
    stability: tuple[StabilityCheck, ...],
    plausibility: Plausibility, own_findings: tuple[Finding, ...],
    questions: tuple[Finding, ...], damping_ratios: NDArray[np.float64], building: Building,
    drift_modes: Modes, vertical_set: SpectrumSet | None, weights: Weights,
    own_forces: tuple[OwnForces, ...], own_sets: tuple[StaticSet, ...], statics: Statics,
    strength: LimitState, by_masses: tuple[SpectrumSet, ...],
    drift_combined: tuple[CombinedDrift, ...], scaling: tuple[Scaling, ...],
    directional: tuple[DirectionalCombination, str], forces_part: LateralForces,
) -> tuple[Finding, ...]:
    """Every judgement, in the order of the job."""
    modal_facts = ModalFacts(
        modes.periods, modes.kinds, modes.mass_ratios, modes.kept,
        project.analysis.modal_combination or rules.modal_combination, facts.stories,
        solver.model.directions)
    return (
        *own_findings,
        *hazard_finding(project.site),
        *site.findings,
        *(f for one in laterals.values() for f in one.findings),
        *procedure.findings,
        *not_open(project.drift.judged_by, procedure),
        *plane_building(solver.model),
        *open_floors(solver.model),
        *free_joints(solver.model),
        *(t.answer.finding for t in twist.values()),
        *regularity.findings,
        *dynamics_part.findings(modal_facts),
        *chosen_ways(project.analysis, project.irregularities, modes, rules, solver.model, twist),
        *against_the_standard(
            project.analysis, rules, twist, directional,
            {d: forces_part.eccentricity("static", t.answer) for d, t in twist.items()}),
        *moved_masses(project.analysis, by_masses),
        *damping_finding(project.analysis.damping_of, project.analysis.damping_by_mode,
                         damping_ratios[: modes.kept], shaking.horizontal["X"].damping),
        *close_modes(modal_facts.combination, modes, dynamic),
        *_stiffness_ratio(solver.model),
        *second_order_finding(solver.model),
        *own_forces_findings(own_forces, own_sets, solver.model,
                             [s for s in statics.values() if s.shear.state == strength]),
        *vertical_motion(vertical_set, solver.model, weights, project.analysis),
        *other_for_drift(building, modes, drift_modes, solver.model.directions),
        *_unchecked(len(project.gaps) - len(gap_checks), standard.title),
        *(f for check in drifts.values() for f in check.findings()),
        *(f for reading in drift_readings.values() for f in reading.findings()),
        *(f for one in drift_combined if (f := one.finding()) is not None),
        *(gap.finding() for gap in gap_checks),
        *(s.finding() for s in stability),
        *plausibility.findings(),
        *questions,
        *shaking.findings,
        *_beyond_the_table(shaking, modes),
        *_far_scales(scaling),
    )


@stage("strength_shears")
def shears_for_strength(
    statics: Statics, strength: LimitState
) -> Mapping[Direction, BaseShearAnswer]:
    """The static base shears for strength by direction."""
    return {d: s.shear for (d, _), s in statics.items() if s.shear.state == strength}


def _beyond_the_table(shaking: Shaking, modes: Modes) -> list[Finding]:
    """Modes in use whose periods lie where the ordinates of a table end and a rule goes on."""
    found: dict[str, Finding] = {}
    periods, ratios = modes.periods[: modes.kept], modes.mass_ratios[: modes.kept]
    for d, one in shaking.horizontal.items():
        low, high = one.given_between
        axis = DIRECTIONS.index(d)
        for side, out in (("before", periods < low), ("beyond", periods > high)):
            if not out.any():
                continue
            share = float(ratios[out, axis].sum())
            text = f"{one.name} gives ordinates from {low:.3g} to {high:.3g} s; " \
                f"{int(out.sum())} of {modes.kept} modes in use, with {share:.1%} of the mass " \
                f"in {d}, have {'shorter' if side == 'before' else 'longer'} periods: there " \
                f"the rule spectrum.{side} holds."
            found.setdefault(text, Finding(
                "ordinates where none are given", f"spectrum, direction {d}",
                Severity.WARNING if share > 0.05 else Severity.NOTE, text, "",
                "Give ordinates for these periods." if share > 0.05 else ""))
    return list(found.values())


#: A factor on modal response beyond which, or below its inverse, something is likely wrong.
FAR_SCALE = 4.0


def _far_scales(scaling: tuple[Scaling, ...]) -> list[Finding]:
    return [Finding(
        "scale factor", f"direction {one.direction}, {one.state.key}", Severity.WARNING,
        f"The spectrum analysis is multiplied by {one.answer.factor:.3g} to reach the static base "
        "shear: the two hardly speak of the same building.", one.answer.clause,
        "Is the unit of the spectrum right, and does it belong to this site?",
        one.answer.factor, FAR_SCALE)
        for one in scaling if not 1 / FAR_SCALE <= one.answer.factor <= FAR_SCALE]


#: Ratio of the stiffest to the softest story of a line beyond which digits are lost.
STIFF = 1e8


def _stiffness_ratio(model: Model) -> tuple[Finding, ...]:
    """The stiffest and the softest story where they are so far apart that digits are lost."""
    each = [(k[i], line.name, model.levels[line.levels[i]])
            for line in model.lines if line.shear is not None
            for k in [np.diagonal(line.shear)] if (k > 0).any()
            for i in (int(np.argmin(np.where(k > 0, k, np.inf))), int(np.argmax(k)))]
    if not each:
        return ()
    (low, soft, at), (high, stiff, there) = min(each), max(each)
    if high < STIFF * low:
        return ()
    return (Finding(
        "stiffness ratio", f"line {stiff}, level {there}", Severity.WARNING,
        f"Its stiffness is {high / low:.1e} times that of line {soft} at level {at}: about "
        f"{np.log10(high / low):.0f} of 16 digits are lost.", "",
        "A stiffness of a thousand times its neighbors is as good as rigid."),)


def _unchecked(left: int, title: str) -> tuple[Finding, ...]:
    """Gaps of the project that the standard has no rule for."""
    if not left:
        return ()
    return (Finding(
        "separation", "whole structure", Severity.WARNING,
        f"{title} has no rule on separation here: {left} gap{'s were' if left > 1 else ' was'} not "
        "checked.", "", "Check them by another rule."),)


