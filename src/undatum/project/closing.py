"""The last stages: findings, working, and everything put together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum import standards
from undatum.analysis.combine import combiner, correlation
from undatum.analysis.modes import CLOSE, Modes
from undatum.analysis.response import SpectrumSet
from undatum.analysis.torsion import TorsionResult
from undatum.building.rules import KeptShares
from undatum.building.weight import Weights
from undatum.building.whole import Building
from undatum.checks.drift import DriftCheck
from undatum.checks.drift_read import DriftReading
from undatum.checks.plausibility import Plausibility
from undatum.checks.separation import SeparationCheck
from undatum.checks.stability import StabilityCheck
from undatum.errors import InputError
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.project.damping import damping_finding
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.outcomes import Scaling, SpectrumResult
from undatum.project.questions import (
    astray,
    counted_twice,
    ending_in_the_air,
    followed,
    implausible,
)
from undatum.project.registry import stage
from undatum.project.schema import Analysis, Irregularities, Project
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
from undatum.standards.contract import Dynamics
from undatum.standards.facts import ModalFacts, StructureFacts
from undatum.standards.terms import DIRECTIONS, Direction, LimitState, ModalCombination
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
            *counted_twice(project.building), *followed(project.building),
            *ending_in_the_air(project.building))


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
        *_not_open(project.drift.judged_by, procedure),
        *_plane(solver.model),
        *_open(solver.model),
        *(t.answer.finding for t in twist.values()),
        *regularity.findings,
        *dynamics_part.findings(modal_facts),
        *_chosen(project.analysis, project.irregularities, modes, rules, solver.model),
        *damping_finding(project.analysis.damping_of, damping_ratios[: modes.kept],
                         shaking.horizontal["X"].damping),
        *_close_modes(modal_facts.combination, modes, dynamic),
        *_stiffness_ratio(solver.model),
        *second_order_finding(solver.model),
        *_vertical(vertical_set, solver.model, weights, project.analysis),
        *_other_for_drift(building, modes, drift_modes, solver.model.directions),
        *_unchecked(len(project.gaps) - len(gap_checks), standard.title),
        *(f for check in drifts.values() for f in check.findings()),
        *(f for reading in drift_readings.values() for f in reading.findings()),
        *(gap.finding() for gap in gap_checks),
        *(s.finding() for s in stability),
        *plausibility.findings(),
        *questions,
        *shaking.findings,
    )


@stage("strength_shears")
def shears_for_strength(
    statics: Statics, strength: LimitState
) -> Mapping[Direction, BaseShearAnswer]:
    """The static base shears for strength by direction."""
    return {d: s.shear for (d, _), s in statics.items() if s.shear.state == strength}


def _other_for_drift(
    building: Building, modes: Modes, drift_modes: Modes, directions: Sequence[Direction]
) -> tuple[Finding, ...]:
    """Two stiffnesses in one run: what each is for, and the periods of both."""
    if drift_modes is modes:
        return ()
    said = []
    for d in directions:
        axis = DIRECTIONS.index(d)
        for_forces, for_drift = (float(m.periods[m.governing(axis)]) for m in (modes, drift_modes))
        said.append(f"{for_forces:.3f} s and {for_drift:.3f} s in {d}")
    reasons = dict.fromkeys(
        rule.kept_for_drift.reason for rule in building.members
        if isinstance(rule.kept_for_drift, KeptShares))
    return (Finding(
        "stiffness for drift", "whole structure", Severity.NOTE,
        "Another share of the stiffness is kept where the forces for drift act: periods are "
        f"{', '.join(said)}, for strength and for drift. Irregularity, torsion and second order of "
        "forces are those of the model for strength."
        + (f" {'; '.join(reasons)}." if reasons else ""), "kept_for_drift"),)


def _vertical(
    one: SpectrumSet | None, model: Model, weights: Weights, analysis: Analysis
) -> tuple[Finding, ...]:
    """What vertical ground motion does at the base, and what reduces it."""
    if one is None:
        return ()
    base = float(one.of(model.at_base("vertical force"))[0])
    reduced = "is not reduced" if analysis.vertical_divisor == 1 else \
        f"is divided by {analysis.vertical_divisor:g}"
    return (Finding(
        "vertical ground motion", "whole structure", Severity.NOTE,
        f"At the base it gives {base / weights.total:.3f} times the seismic weight. Its spectrum "
        f"{reduced}; P-Delta does not multiply it, and drift does not hold it.",
        "analysis.vertical_spectrum"),)


def _plane(model: Model) -> tuple[Finding, ...]:
    """What a plane building leaves out."""
    if not model.plane:
        return ()
    return (Finding(
        "plane building", "whole structure", Severity.NOTE,
        f"It moves along {model.directions[0]} alone and does not turn: the other direction, "
        "torsion, accidental eccentricity and regularity in plan are not judged, and no direction "
        "is combined with another.", "building.plane",
        "Judge them by hand, or describe the whole building."),)


def _open(model: Model) -> tuple[Finding, ...]:
    """Floors that are not rigid as a whole, and what that leaves out."""
    if not model.open_floors:
        return ()
    names = ", ".join(model.levels[one.level] for one in model.open_floors)
    every = bool(model.is_open[model.above_base].all())
    return (Finding(
        "floors not rigid", f"level{'s' if len(model.open_floors) > 1 else ''} {names}",
        Severity.NOTE,
        "Nodes carry the mass there, and drift is judged on every column line. "
        + ("Torsion, its irregularity and accidental eccentricity are not judged: no floor turns "
           "as one." if every else "Torsional irregularity is judged of the other floors alone; "
           "accidental torsion acts on the nodes by their mass."),
        "building.diaphragms", "Check forces within these floors, and what ties them."),)


def _chosen(
    analysis: Analysis, stated: Irregularities, modes: Modes, rules: ModalRules, model: Model
) -> tuple[Finding, ...]:
    """Choices of analysis that a reader must know of."""
    found = []
    if analysis.residual_mass:
        left = 1.0 - modes.cumulative[modes.kept - 1, :2]
        found.append(Finding(
            "mass left out by the modes", "whole structure", Severity.NOTE,
            " and ".join(f"{left[DIRECTIONS.index(d)]:.1%} in {d}" for d in model.directions)
            + " move with the ground at the ordinate of "
            f"{rules.rigid_period:.3f} s and are combined as one more mode.",
            rules.rigid_clause or "by choice of the project"))
    if analysis.accidental_torsion == "always":
        found.append(Finding(
            "accidental torsion", "whole structure", Severity.NOTE,
            "It is in forces and drift by choice of the project, whatever the standard asks for.",
            "analysis.accidental_torsion"))
    if stated.stated:
        said = ", ".join(f"{k.replace('_', ' ')}: {'yes' if v else 'no'}"
                         for k, v in stated.stated.items())
        found.append(Finding(
            "irregularities stated", "whole structure",
            Severity.OK if stated.reason else Severity.NOTE,
            f"By the engineer: {said}. {stated.reason or 'No reason is given.'}",
            "irregularities", "" if stated.reason else "Give irregularities.reason."))
    return tuple(found)


def _not_open(judged_by: str, procedure: ProcedureAnswer) -> tuple[Finding, ...]:
    """A choice of the static drift where the static procedure is not permitted."""
    barred = [d for d, open_ in procedure.static.items() if not open_]
    if judged_by != "static" or not barred:
        return ()
    return (Finding(
        "drift judged by the static analysis", f"direction {', '.join(barred)}", Severity.WARNING,
        "The static procedure is not permitted here, so drift is judged by both analyses.",
        "", "Take drift.judged_by out."),)


def _close_modes(
    how: ModalCombination, modes: Modes, dynamic: tuple[SpectrumResult, ...]
) -> tuple[Finding, ...]:
    """Close modes under SRSS, with the base shear that CQC would give."""
    rho = correlation(modes.omega[: modes.kept], 0.05) - np.eye(modes.kept)
    if how != "SRSS" or not (rho > CLOSE).any():
        return ()
    i, j = sorted(np.unravel_index(int(rho.argmax()), rho.shape))
    parts = [(r, float(combiner("CQC", 2 * np.pi / r.periods, r.damping).peaks(r.modal)))
             for r in dynamic]
    return (Finding(
        "close modes", f"modes {modes.numbers[i]} and {modes.numbers[j]}", Severity.WARNING,
        f"Their correlation is {rho[i, j]:.2f} at 5 % damping, which SRSS leaves out. With CQC the "
        "base shear would be " + " and ".join(
            f"{cqc / r.base_shear:.3f} times as large in {r.direction}"
            for r, cqc in parts if r.base_shear) + ".",
        "", "Take modal_combination = \"CQC\" unless the standard asks for SRSS."),)


#: Ratio of the stiffest to the softest story of a line beyond which digits are lost.
STIFF = 1e8


def _stiffness_ratio(model: Model) -> tuple[Finding, ...]:
    """The stiffest and the softest story where they are so far apart that digits are lost."""
    each = [(float(k), line.name, model.levels[i]) for line in model.lines
            if line.shear is not None
            for k, i in zip(np.diag(line.shear), line.levels, strict=True) if k > 0]
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
        f"{title} says nothing on separation: {left} gap{'s were' if left > 1 else ' was'} not "
        "checked.", "", "Check them by another rule."),)


