"""The standard bound to the job, modes, static forces and torsion."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.analysis.lateral import StaticForces
from undatum.analysis.modes import Modes
from undatum.analysis.response import StaticSet
from undatum.analysis.torsion import TorsionResult
from undatum.ground.spectrum import Spectrum
from undatum.job.stage import settled, stage
from undatum.job.structure import StructureParts
from undatum.mechanics.rigidity import Rigidity
from undatum.mechanics.solver import Solver
from undatum.stages.floors import FloorJudged, all_flexible, judge_floors, rigid_twin
from undatum.stages.halved_mesh import HalvedMesh, compare_meshes
from undatum.stages.to_static_forces import (
    ModeChoice,
    Statics,
    apply_static_forces,
    approximate_periods,
    bind_standard,
    choose_modes,
    computed_periods,
    describe_shape,
    design_eccentricities,
    find_all_modes,
    find_modes_for_drift,
    find_rigidity,
    forces_for_strength,
    found_irregularities,
    judge_regularity,
    judge_torsion,
    lateral_forces,
    limit_states,
    modal_rules,
    permitted_procedures,
    reduce_spectra,
    strength_state,
)
from undatum.stages.two_stage import TwoStages, two_stages
from undatum.standards.answers import (
    Eccentricity,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    SystemAnswer,
)
from undatum.standards.contract import Dynamics, LateralForces, WholeStructure
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import Direction, LimitState


class StaticParts(StructureParts):
    """The standard bound to the job, modes, static forces and torsion."""

    @stage
    def _bind_standard(
        self,
    ) -> tuple[Mapping[Direction, SystemAnswer], LateralForces, Dynamics, WholeStructure]:
        """Lateral systems, and the parts of the standard that are bound to them."""
        return bind_standard(
            self.standard, self.given, self.site, self.asked, self.facts, self.shaking)

    @stage
    def laterals(self) -> Mapping[Direction, SystemAnswer]:
        return self._bind_standard[0]

    @stage
    def forces_part(self) -> LateralForces:
        return self._bind_standard[1]

    @stage
    def dynamics_part(self) -> Dynamics:
        return self._bind_standard[2]

    @stage
    def whole_part(self) -> WholeStructure:
        return self._bind_standard[3]

    @stage
    def states(self) -> tuple[LimitState, ...]:
        """The limit states of the standard."""
        return limit_states(self.standard)

    @stage
    def strength(self) -> LimitState:
        """The limit state whose base shear is quoted and whose forces enter combinations."""
        return strength_state(self.states)

    @stage
    def reduced(self) -> Mapping[tuple[Direction, str], Spectrum]:
        """The spectrum of each direction and limit state."""
        return reduce_spectra(self.dynamics_part, self.states, self.computed)

    @settled
    def rules(self) -> ModalRules:
        """What the standard asks of the modal analysis."""
        return modal_rules(self.dynamics_part)

    @settled
    def mode_choice(self) -> ModeChoice:
        """Mass target, least number of modes, the period down to which all are used, their
        kind, the
        """
        return choose_modes(self.rules, self.analysis)

    @stage
    def modes(self) -> Modes:
        """Periods and shapes, and how many are used."""
        return find_all_modes(self.solver, self.mode_choice)

    @stage
    def computed(self) -> Mapping[Direction, float]:
        """Period of the mode that governs each direction, s."""
        return computed_periods(self.modes, self.directions)

    @stage
    def _find_modes_for_drift(self) -> tuple[Modes, Mapping[Direction, float]]:
        """Modes and governing periods of the model on which the forces for drift act."""
        return find_modes_for_drift(
            self.modes, self.computed, self.solver, self.drift_solver, self.mode_choice,
            self.directions)

    @stage
    def drift_modes(self) -> Modes:
        return self._find_modes_for_drift[0]

    @stage
    def drift_computed(self) -> Mapping[Direction, float]:
        return self._find_modes_for_drift[1]

    @stage
    def periods(self) -> Mapping[Direction, PeriodAnswer]:
        """Approximate period and cap of each direction."""
        return approximate_periods(self.forces_part, self.directions)

    @stage
    def statics(self) -> Statics:
        """Static forces by direction and limit state."""
        return lateral_forces(
            self.forces_part, self.solver, self.modes, self.states, self.periods, self.computed,
            self.drift_modes, self.drift_computed)

    @stage
    def strength_statics(self) -> Mapping[Direction, StaticForces]:
        """The static forces for strength by direction."""
        return forces_for_strength(self.statics, self.strength, self.directions)

    @stage
    def rigid_twin(self) -> Solver | None:
        """The structure with rigid floors, to compare; nothing where that can't stand."""
        return rigid_twin(self.building, self.masses)

    @stage
    def floors_judged(self) -> tuple[FloorJudged, ...]:
        """Floors that deform against the standard's test."""
        return judge_floors(self.building, self.solver, lambda: self.rigid_twin,
                            self.standard.floor_test, self.strength_statics)

    @stage
    def mesh_halved(self) -> HalvedMesh | None:
        """What moves with panels of half the size, where that is asked for."""
        if not self.analysis.halve_mesh:
            return None
        return compare_meshes(self.building, self.masses, self.elastic, self.strength_statics)

    @stage
    def twist(self) -> Mapping[Direction, TorsionResult]:
        """Torsional behavior in each direction; nothing of a plane building, without
        diaphragms, or where the standard takes all of them as flexible.
        """
        if all_flexible(self.floors_judged, self.solver.model, self.building.flexible,
                        self.standard.floor_test):
            return {}
        return judge_torsion(self.forces_part, self.solver, self.strength_statics, self.stiff)

    @stage
    def stiff(self) -> Rigidity:
        """Centers of rigidity and torsional radii."""
        return find_rigidity(self.solver, self.strength_statics)

    @stage
    def shape(self) -> ShapeFacts:
        """What regularity is judged from."""
        return describe_shape(
            self.solver, self.plan, self.strength_statics, self.stiff, self.irregularities,
            self.planes)

    @stage
    def regularity(self) -> RegularityAnswer:
        """Types of irregularity found, and those that could not be judged."""
        return judge_regularity(self.whole_part, self.shape, self.twist)

    @stage
    def irregular(self) -> tuple[str, ...]:
        """Types of irregularity found."""
        return found_irregularities(self.regularity)

    @stage
    def procedure(self) -> ProcedureAnswer:
        """Which procedures the standard permits."""
        return permitted_procedures(
            self.whole_part, self.strength_statics, self.periods, self.computed, self.regularity)

    @stage
    def two_stages(self) -> TwoStages | None:
        """Two portions of the building as structures of their own, where that is asked for."""
        return two_stages(
            self.portions, self.standard, self.given, self.site, self.asked, self.facts,
            self.shaking, self.solver.model, self.shape, self.strength)

    @stage
    def eccentricities(self) -> Mapping[Direction, Eccentricity]:
        """Design eccentricity of the static forces by direction."""
        return design_eccentricities(self.forces_part, self.twist, self.analysis, self.directions)

    @stage
    def sets(self) -> tuple[StaticSet, ...]:
        """Static sets with both signs of eccentricity."""
        return apply_static_forces(
            self.solver, self.drift_solver, self.statics, self.eccentricities, self.twist,
            self.stiff, self.strength_statics, self.analysis)
