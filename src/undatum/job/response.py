"""Drift, second order, gaps, combinations and what is compared by hand."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.analysis.combine import Floats
from undatum.analysis.lateral import of_state
from undatum.analysis.response import FurtherSet, ResponseSet, StaticSet
from undatum.checks.drift import DriftCheck
from undatum.checks.drift_read import DriftReading
from undatum.checks.plausibility import Plausibility
from undatum.checks.separation import SeparationCheck
from undatum.checks.stability import StabilityCheck
from undatum.job.spectra import SpectrumParts
from undatum.job.stage import settled, stage
from undatum.mechanics.model import Model
from undatum.readings.drift_combined import CombinedDrift
from undatum.stages.response import (
    amplify_second_order,
    apply_own_forces,
    check_all_drift,
    check_gaps,
    check_second_order,
    choose_drift_sets,
    combine_drift,
    combine_motions,
    compare_by_hand,
    compare_torsion_factors,
    diaphragm_forces,
    displacement_factors,
    drift_limits,
    load_combinations,
    model_of,
    read_drift_further,
    usual_drift,
)
from undatum.stages.secondary import Secondary, secondary_members
from undatum.stages.shared_shear import FramesAlone, frames_alone
from undatum.stages.two_stage import sets_of_stages
from undatum.standards.answers import CombinationAnswer, Distribution, DriftLimit
from undatum.standards.terms import Direction
from undatum.table import Table


class ResponseParts(SpectrumParts):
    """Drift, second order, gaps, combinations and what is compared by hand."""

    @stage
    def own_sets(self) -> tuple[StaticSet, ...]:
        """Static sets of one's own and of the two-stage procedure, for strength."""
        return (*apply_own_forces(self.own_forces, self.building, self.solver, self.strength),
                *sets_of_stages(self.two_stages, self.solver, self.eccentricities,
                                {d: t.factors for d, t in self.twist.items()}))

    @stage
    def further_sets(self) -> tuple[FurtherSet, ...]:
        """Sets of more than one direction of ground motion, by limit state: both (or all three)"""
        return combine_motions(
            self.spectrum_sets, self.vertical_set, self.states, self.strength, self.how,
            self.analysis, self.directions)

    @stage
    def drift_sets(self) -> Mapping[str, tuple[ResponseSet, ...]]:
        """The sets whose drift is judged, by limit state; never those for strength."""
        return choose_drift_sets(self.sets, self.spectrum_sets, self.states)

    @settled
    def amplifiers(self) -> Mapping[tuple[Direction, str], float]:
        """Factor on the displacements of each direction and limit state."""
        return displacement_factors(self.dynamics_part, self.states, self.directions)

    @stage
    def stability(self) -> tuple[StabilityCheck, ...]:
        """Second-order effects of each direction and method, for every limit state with drift."""
        return check_second_order(
            self.whole_part, self.solver, self.weights, self.amplifiers, self.drift_sets,
            self.plumb, self.twist, self.analysis, self.strength, self.sets, self.spectrum_sets)

    @stage
    def second_order(self) -> Mapping[tuple[Direction, str], Floats]:
        """P-Delta factor of every story by direction and limit state: the larger of the methods."""
        return amplify_second_order(self.stability, self.states, self.directions)

    @stage
    def limits(self) -> Mapping[tuple[Direction, str], DriftLimit]:
        """Allowable drift by direction and limit state, with the period of that state."""
        return drift_limits(
            self.whole_part, self.statics, self.states, self.drift_choices, self.irregular,
            self.directions)

    @stage
    def drifts(self) -> Mapping[str, DriftCheck]:
        """Story drift held against its limit, by limit state."""
        return check_all_drift(
            self.solver, self.drift_sets, self.plumb, self.amplifiers, self.limits, self.twist,
            self.second_order, self.states, self.drift_choices, self.procedure)

    @stage
    def drift_readings(self) -> Mapping[str, DriftReading]:
        """Both directions together, a limit of one's own, and points, by limit state."""
        return read_drift_further(self.drifts, self.how, self.drift_choices, self.building)

    @stage
    def drift_combined(self) -> tuple[CombinedDrift, ...]:
        """Drift of combinations of one's own, in their order."""
        return combine_drift(
            self.solver, self.drifts, self.sets, self.own_sets, self.spectrum_sets,
            self.further_sets, self.building, self.plumb, self.drift_choices, self.load_groups)

    @stage
    def drift(self) -> DriftCheck:
        """The drift check of the first limit state for drift."""
        return usual_drift(self.drifts)

    @stage
    def gap_checks(self) -> tuple[SeparationCheck, ...]:
        """Every gap of the project that the standard has a rule for, by the analysis that
        decides.
        """
        return check_gaps(
            self.whole_part, self.solver, self.second_order, self.gaps, self.drift_sets, self.plumb,
            self.amplifiers, self.drifts)

    @stage
    def combinations(self) -> CombinationAnswer | None:
        """Load combinations with earthquake; those of one's own name sets that there are."""
        return load_combinations(
            self.whole_part, self.how, self.irregular, self.own_combinations, self.sets,
            self.spectrum_sets, self.vertical_set, self.own_sets, self.further_sets,
            self.load_groups, self.building)

    @stage
    def diaphragms(self) -> Mapping[Direction, Distribution]:
        """Diaphragm design forces by direction, where the standard has a rule."""
        return diaphragm_forces(self.forces_part, self.strength_statics, self.weights)

    @stage
    def frames_alone(self) -> FramesAlone | None:
        """Moment frames of dual systems by themselves, under their share of the forces."""
        return frames_alone(
            self.building, self.masses, self.solver, self.laterals, self.facts.taken,
            of_state(self.sets, self.strength), [
                *of_state(self.sets, self.strength),
                *(s for s in self.spectrum_sets if s.state == self.strength)])

    @stage
    def secondary(self) -> Secondary | None:
        """Members that carry gravity alone: their stiffness, and what displacement does to them."""
        rule = self.standard.secondary
        factors = {key: one.reduction if rule is not None and rule.reduction
                   and (one := self.laterals[key[0]]).reduction else factor
                   for key, factor in self.amplifiers.items()}
        return secondary_members(
            self.building, self.masses, self.solver,
            {d: s.forces for d, s in self.strength_statics.items()},
            [s for sets in self.drift_sets.values() for s in sets], factors, rule)

    @stage
    def factors_table(self) -> Table | None:
        """The standard's simplified torsion factor beside the analysis."""
        return compare_torsion_factors(self.forces_part, self.solver, self.sets, self.strength)

    @stage
    def plausibility(self) -> Plausibility:
        "Hand estimates and computed values."
        return compare_by_hand(
            self.solver, self.weights, self.modes, self.strength_statics, self.sets, self.strength,
            self.occupancy, self.periods, self.units, self.building, self.load_groups)

    @stage
    def model(self) -> Model:
        """The model without its factors."""
        return model_of(self.solver)
