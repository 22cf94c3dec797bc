"""The last of the analysis: shears, drift, second order, gaps, combinations, what is read off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.displacement import plumb_displacements
from undatum.analysis.lateral import StaticForces, of_state
from undatum.analysis.modes import Modes
from undatum.analysis.response import (
    AnyDirection,
    BothDirections,
    FurtherSet,
    ResponseSet,
    SpectrumSet,
    StaticSet,
    TurnedMotion,
)
from undatum.analysis.torsion import TorsionResult
from undatum.checks.drift import DriftCheck, check_drift
from undatum.checks.drift_read import DriftReading, OwnDriftLimit
from undatum.checks.equilibrium import case_balances
from undatum.checks.plausibility import Plausibility, check_plausibility
from undatum.checks.separation import SeparationCheck, check_separation
from undatum.checks.stability import StabilityCheck, check_stability
from undatum.checks.torsion_factors import torsion_factors
from undatum.errors import Fault, InputError
from undatum.layout.given import given_actions
from undatum.layout.groups import LoadGroups
from undatum.layout.weight import Weights
from undatum.layout.whole import Building
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line
from undatum.mechanics.solver import Solver
from undatum.project.own_forces import OwnForces, own_static_sets
from undatum.project.schema import Drift, Gap, drift_columns
from undatum.project.ways import Analysis
from undatum.readings.combinations import own_factors
from undatum.readings.drift_combined import CombinedDrift, combined_drift
from undatum.readings.own import OwnCombination, check_drift_sets, check_sets
from undatum.stages.members import cases_of
from undatum.stages.to_static_forces import Statics
from undatum.standards.answers import (
    CombinationAnswer,
    Distribution,
    DriftLimit,
    PeriodAnswer,
    ProcedureAnswer,
)
from undatum.standards.contract import (
    Dynamics,
    LateralForces,
    WholeStructure,
)
from undatum.standards.terms import (
    DIRECTIONS,
    METHODS,
    Direction,
    DirectionalCombination,
    LimitState,
)
from undatum.table import Table
from undatum.units import UnitSystem

Floats = NDArray[np.float64]


def apply_own_forces(
    own_forces: tuple[OwnForces, ...], building: Building, solver: Solver, strength: LimitState
) -> tuple[StaticSet, ...]:
    """Static sets of one's own, for strength."""
    return own_static_sets(own_forces, building, solver, strength)


def combine_motions(
    spectrum_sets: tuple[SpectrumSet, ...], vertical_set: SpectrumSet | None,
    states: tuple[LimitState, ...], strength: LimitState, how: DirectionalCombination,
    analysis: Analysis, directions: tuple[Direction, ...],
) -> tuple[FurtherSet, ...]:
    """Sets of more than one direction of ground motion, by limit state: both (or all three)
    together, along angles of one's own, and the most unfavorable direction.

    Raises InputError where the modes go together in a way that has none.
    """
    if len(directions) == 1:
        return ()
    if analysis.minor_component is not None and not spectrum_sets[0].combine.quadratic:
        raise InputError([Fault(
            "analysis.minor_component", f"modes combined by {spectrum_sets[0].combine.how} have no "
            "most unfavorable direction", 'choose modal_combination = "CQC" or "SRSS"')])
    found: list[FurtherSet] = []
    for state in states:
        own = [tuple(s for s in spectrum_sets if s.direction == d and s.state == state)
               for d in DIRECTIONS]
        x, y = (sets[0] for sets in own)
        every = [*own, *([(vertical_set,)] if vertical_set is not None and state == strength
                         else [])]
        said = "X and Y" if len(every) == 2 else "X, Y and Z"
        found.append(BothDirections(
            f"spectrum {said}, {how}, {state.key}", state, tuple(every), how))
        found += [TurnedMotion(f"spectrum at {np.degrees(a):g}°, {state.key}", state, x, y, a)
                  for a in analysis.shaking]
        if analysis.minor_component is not None:
            found.append(AnyDirection(
                f"spectrum, any direction, CQC3 {analysis.minor_component:g}, {state.key}", state,
                x, y, analysis.minor_component))
    return tuple(found)


def choose_drift_sets(
    sets: tuple[StaticSet, ...], spectrum_sets: tuple[SpectrumSet, ...],
    states: tuple[LimitState, ...],
) -> Mapping[str, tuple[ResponseSet, ...]]:
    """The sets whose drift is judged, by limit state; never those for strength."""
    every: list[ResponseSet] = [*sets, *spectrum_sets]
    return {s.key: tuple(one for one in every if one.state == s)
            for s in states if s.role == "drift"}


def displacement_factors(
    dynamics_part: Dynamics, states: tuple[LimitState, ...], directions: tuple[Direction, ...]
) -> Mapping[tuple[Direction, str], float]:
    """Factor on the displacements of each direction and limit state."""
    return {(d, s.key): dynamics_part.displacement_factor(d, s) for d in directions
            for s in states}


def check_second_order(
    whole_part: WholeStructure, solver: Solver, weights: Weights,
    amplifiers: Mapping[tuple[Direction, str], float],
    drift_sets: Mapping[str, tuple[ResponseSet, ...]], plumb: tuple[PlumbLine, ...],
    twist: Mapping[Direction, TorsionResult], analysis: Analysis, strength: LimitState,
    sets: tuple[StaticSet, ...], spectrum_sets: tuple[SpectrumSet, ...],
) -> tuple[StabilityCheck, ...]:
    """Second-order effects of each direction and method, for every limit state with drift.

    Drift is read where it is judged: at the center of mass, or at the edges too.
    """
    every: list[ResponseSet] = [*sets, *spectrum_sets]
    for_strength = {(s.direction, s.method, s.sign): s for s in every if s.state == strength}
    apart = whole_part.second_order_shear == "forces"
    return tuple(
        check_stability(whole_part, solver.model, weights.gravity, own, d, amplifiers[d, key],
                        plumb if d in twist and twist[d].answer.drift_at_edges else (),
                        included=analysis.second_order != "by factor", shear_sets=[
                            for_strength[d, method, s.sign] for s in own] if apart else ())
        for key, judged in drift_sets.items() for d in solver.model.directions
        for method in METHODS
        if (own := [s for s in judged if s.direction == d and s.method == method])
    )


def amplify_second_order(
    stability: tuple[StabilityCheck, ...], states: tuple[LimitState, ...],
    directions: tuple[Direction, ...],
) -> Mapping[tuple[Direction, str], Floats]:
    """P-Delta factor of every story by direction and limit state: the larger of the methods."""
    return {
        (d, state.key): np.max([s.amplification for s in stability
                                if s.direction == d and s.state == state], axis=0)
        for d in directions for state in states if state.role == "drift"
    }


def drift_limits(
    whole_part: WholeStructure, statics: Statics, states: tuple[LimitState, ...],
    drift_choices: Drift, irregular: tuple[str, ...], directions: tuple[Direction, ...],
) -> Mapping[tuple[Direction, str], DriftLimit]:
    """Allowable drift by direction and limit state, with the period of that state."""
    return {
        (d, s.key): whole_part.drift_limit(
            d, s, drift_choices.structure, statics[d, s.key].shear.period, irregular)
        for d in directions for s in states if s.role == "drift"
    }


def check_all_drift(
    solver: Solver, drift_sets: Mapping[str, tuple[ResponseSet, ...]],
    plumb: tuple[PlumbLine, ...], amplifiers: Mapping[tuple[Direction, str], float],
    limits: Mapping[tuple[Direction, str], DriftLimit],
    twist: Mapping[Direction, TorsionResult],
    second_order: Mapping[tuple[Direction, str], Floats], states: tuple[LimitState, ...],
    drift_choices: Drift, procedure: ProcedureAnswer,
) -> Mapping[str, DriftCheck]:
    """Story drift held against its limit, by limit state.

    Where the standard does not permit the static procedure, the spectrum analysis decides.
    """
    barred = {d: procedure.static.get(d) is False for d in solver.model.directions}
    return {
        s.key: check_drift(
            solver.model, s, drift_sets[s.key], plumb,
            {d: amplifiers[d, s.key] for d in barred}, {d: limits[d, s.key] for d in barred},
            {d: t.answer for d, t in twist.items()},
            {d: second_order[d, s.key] for d in barred}, drift_choices.judged_by, barred)
        for s in states if s.role == "drift"
    }


def read_drift_further(
    drifts: Mapping[str, DriftCheck], how: DirectionalCombination, drift_choices: Drift,
    building: Building,
) -> Mapping[str, DriftReading]:
    """Both directions together, a limit of one's own, and points, by limit state."""
    groups = {**drift_choices.groups, **{
        which: tuple(drift_columns(building, which)) for which in drift_choices.columns}}
    own = drift_choices.own_limit
    limit = None if own is None else OwnDriftLimit(own.ratio, own.of, own.reason)
    known = next(iter(drifts.values())).points
    faults = [Fault(f"drift.groups.{name}", f"{point!r} is no point on which drift is read",
                    f"known: {', '.join(known)}")
              for name, points in drift_choices.groups.items()
              for point in (points or ("",)) if point not in known]
    if faults:
        raise InputError(faults)
    return {key: DriftReading(check, how, drift_choices.both_directions, limit,
                              groups) for key, check in drifts.items()}


def combine_drift(
    solver: Solver, drifts: Mapping[str, DriftCheck], sets: tuple[StaticSet, ...],
    own_sets: tuple[StaticSet, ...], spectrum_sets: tuple[SpectrumSet, ...],
    further_sets: tuple[FurtherSet, ...], building: Building, plumb: tuple[PlumbLine, ...],
    drift_choices: Drift, load_groups: LoadGroups,
) -> tuple[CombinedDrift, ...]:
    """Drift of combinations of one's own, in their order."""
    own = drift_choices.combinations
    fit = check_drift_sets(own, [*sets, *spectrum_sets, *own_sets, *further_sets])
    cases = cases_of(solver.model, building, load_groups).cases \
        if any(one.factors for one in own) else ()
    kinds = {group.name: group.kind for group in load_groups.groups}
    faults = [Fault(f"drift.combinations[{i}].factors.{key}", f"there is no load of kind {key!r} "
                    "on members", "take it out; known: " + ", ".join(dict.fromkeys(
                        kinds.get(case.name, case.name) for case in cases)))
              for i, one in enumerate(own) for key in one.factors
              if not any(own_factors({key: 1.0}, load_groups, building).get(case.name)
                         for case in cases)]
    if faults:
        raise InputError(faults)
    return tuple(combined_drift(
        solver.model, one, own_factors(one.factors, load_groups, building), fit, cases, drifts,
        plumb) for one in own)


def usual_drift(drifts: Mapping[str, DriftCheck]) -> DriftCheck:
    """The drift check of the first limit state for drift."""
    return next(iter(drifts.values()))


def check_gaps(
    whole_part: WholeStructure, solver: Solver, second_order: Mapping[tuple[Direction, str],
    Floats], gaps: tuple[Gap, ...], drift_sets: Mapping[str, tuple[ResponseSet, ...]],
    plumb: tuple[PlumbLine, ...], amplifiers: Mapping[tuple[Direction, str], float],
    drifts: Mapping[str, DriftCheck],
) -> tuple[SeparationCheck, ...]:
    """Every gap of the project that the standard has a rule for, by the analysis that decides."""
    if not gaps:
        return ()
    deciding = {(key, d): check.deciding(DIRECTIONS.index(d)) for key, check in drifts.items()
                for d in solver.model.directions}
    displacements = plumb_displacements(
        solver.model, [one for key, own in drift_sets.items() for one in own
                       if one.direction != "Z"
                       and deciding[key, one.direction] in (None, one.method)],
        [center_line(solver.model), *plumb], amplifiers)
    found = []
    for i, g in enumerate(gaps):
        factors = np.max([f for (d, _), f in second_order.items() if d == g.direction], axis=0)
        found.append(check_separation(
            whole_part, solver.model, displacements, factors, g.name, g.direction, g.distance,
            g.level, g.neighbor, g.same_floors, str(i + 1)))
    return tuple(g for g in found if g is not None)


def load_combinations(
    whole_part: WholeStructure, how: DirectionalCombination, irregular: tuple[str, ...],
    own_combinations: tuple[OwnCombination, ...], sets: tuple[StaticSet, ...],
    spectrum_sets: tuple[SpectrumSet, ...], vertical_set: SpectrumSet | None,
    own_sets: tuple[StaticSet, ...], further_sets: tuple[FurtherSet, ...],
    load_groups: LoadGroups, building: Building,
) -> CombinationAnswer | None:
    """Load combinations with earthquake; those of one's own name sets that there are. Rows with
    live load of roofs are left out where there is none."""
    check_sets(own_combinations, [
        *sets, *own_sets, *spectrum_sets, *([] if vertical_set is None else [vertical_set]),
        *further_sets])
    found = whole_part.combinations(how, irregular, vertical_set is not None)
    if found is None or any(group.effect == "roof live" for group in load_groups.groups) or any(
            case.counts_as == "roof live" for case in building.cases):
        return found
    return replace(found, rows=tuple(r for r in found.rows if not r.roof),
                   gravity=tuple(r for r in found.gravity if not r.roof))


def diaphragm_forces(
    forces_part: LateralForces, strength_statics: Mapping[Direction, StaticForces],
    weights: Weights,
) -> Mapping[Direction, Distribution]:
    """Diaphragm design forces by direction, where the standard has a rule."""
    heavy = weights.weight[weights.weight > 0]
    own = weights.weight > 0
    found = {d: forces_part.diaphragms(s.distribution, heavy, s.carried[np.ix_(own, own)])
             for d, s in strength_statics.items()}
    return {d: f for d, f in found.items() if f is not None}


def compare_torsion_factors(
    forces_part: LateralForces, solver: Solver, sets: tuple[StaticSet, ...], strength: LimitState
) -> Table | None:
    """The standard's simplified torsion factor beside the analysis."""
    return torsion_factors(forces_part, solver.model, of_state(sets, strength))


def compare_by_hand(
    solver: Solver, weights: Weights, modes: Modes,
    strength_statics: Mapping[Direction, StaticForces], sets: tuple[StaticSet, ...],
    strength: LimitState, occupancy: str, periods: Mapping[Direction, PeriodAnswer],
    units: UnitSystem, building: Building, load_groups: LoadGroups,
) -> Plausibility:
    "Hand estimates and computed values."
    frame = building.frame
    balances = [] if frame is None else case_balances(
        solver.model, cases_of(solver.model, building, load_groups),
        given_actions(building, frame, weights.centers, load_groups.name),
        {one.name: one.kind for one in load_groups.groups})
    return check_plausibility(solver, weights, modes, strength_statics, of_state(sets, strength),
                              occupancy, {d: p.approximate for d, p in periods.items()}, units,
                              balances)


def model_of(solver: Solver) -> Model:
    """The model without its factors."""
    return solver.model
