"""The whole job as stages: each a function of ordinary arguments, with named results.

A stage's arguments are named like the results of the stages before it, or like the parts of the
project (``given``, ``asked``, ``building`` and so on). :class:`undatum.project.calculation.
Calculation` strings them together and knows which need not be done again.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from undatum import standards
from undatum.analysis.combine import ModalCombiner, combiner, rigid_shares
from undatum.analysis.lateral import StaticForces, set_name, static_forces, static_sets
from undatum.analysis.modes import Modes, Shapes, find_modes
from undatum.analysis.response import (
    ModalBasis,
    SpectrumSet,
    StaticSet,
    modal_damping,
    nodal_forces,
    residual_shape,
)
from undatum.analysis.torsion import TorsionResult, torsion
from undatum.building.plan import PlanFacts, plan_facts
from undatum.building.weight import FloorMasses, Weights, weigh
from undatum.building.whole import Building
from undatum.errors import Fault, InputError
from undatum.finding import Finding
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.mechanics.idealize import (
    column_lines,
    corner_lines,
    idealize,
    plumb_lines,
    with_second_order,
)
from undatum.mechanics.moved import moved_masses
from undatum.mechanics.quantities import PlumbLine
from undatum.mechanics.rigidity import Rigidity, rigidity
from undatum.mechanics.second_order import Pressing, pressing
from undatum.mechanics.solver import Solver, factorize
from undatum.project.damping import damping_by_part
from undatum.project.facts import structure_facts
from undatum.project.members import gravity_axial
from undatum.project.outcomes import Scaling, SpectrumResult
from undatum.project.registry import stage
from undatum.project.schema import Analysis, Drift, Irregularities, SpectrumTable
from undatum.project.shaking import Shaking, shaking
from undatum.project.shape import shape_facts
from undatum.standards.answers import (
    Eccentricity,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    SiteAnswer,
    SystemAnswer,
)
from undatum.standards.contract import (
    Dynamics,
    Ground,
    LateralForces,
    WeightRule,
    WholeStructure,
)
from undatum.standards.facts import Asked, AskedOfSite, LoadFacts, ShapeFacts, StructureFacts
from undatum.standards.terms import (
    DIRECTIONS,
    MOTIONS,
    Direction,
    DirectionalCombination,
    LimitState,
    Motion,
)

Floats = NDArray[np.float64]
Statics = Mapping[tuple[Direction, str], StaticForces]
ModeChoice = tuple[float, int | None, float | None, Shapes, float, bool]


# -- site, weight, structure -----------------------------------------------------------------------


@stage("standard", settles=False)
def find_standard(standard_key: str, folder: Path | None) -> standards.AnyStandard:
    """The standard of the project."""
    return standards.get(standard_key, folder)


@stage("ground", "site")
def judge_site(standard: standards.AnyStandard, given: AskedOfSite) -> tuple[Ground, SiteAnswer]:
    """Site parameters and the spectrum before any reduction."""
    part = standard.ground(given)
    return part, part.site()


@stage("shaking")
def find_shaking(
    standard: standards.AnyStandard, ground: Ground, site: SiteAnswer,
    spectrum: SpectrumTable | None, damping: float, folder: Path | None,
) -> Shaking:
    """The spectra in use, horizontal and vertical."""
    return shaking(spectrum, damping, standard.title, ground, site, folder)


@stage("directions", settles=True)
def find_directions(building: Building) -> tuple[Direction, ...]:
    """Along what the building moves and is judged: X and Y, or one of them."""
    return building.directions


@stage("weight_rule", settles=True)
def find_weight_rule(standard: standards.AnyStandard, given: AskedOfSite) -> WeightRule:
    """Which loads count, and how much."""
    return standard.weight(given)


@stage("weights", settles=True)
def weigh_building(weight_rule: WeightRule, building: Building) -> Weights:
    """Seismic weight by level."""
    return weigh(building, lambda *load: weight_rule.share(LoadFacts(*load)),
                 lambda *load: weight_rule.gravity(LoadFacts(*load)))


@stage("masses", settles=True)
def take_masses(weights: Weights, building: Building) -> FloorMasses:
    """The masses alone: another rule that counts the same moves nothing."""
    if not (building.diaphragms or building.vertical_mass):
        return weights.masses
    return replace(weights.masses, counted=weights.counted)


@stage("elastic")
def build_elastic(building: Building, masses: FloorMasses) -> Solver:
    """The model of the building, its stiffness factored. Raises AnalysisError for a mechanism."""
    return factorize(idealize(building, masses))


@stage("pressed", settles=True)
def find_pressing(
    elastic: Solver, building: Building, weights: Weights, analysis: Analysis
) -> Pressing | None:
    """Gravity as second order sees it, where it goes into the stiffness."""
    how = analysis.second_order
    if how == "by factor":
        return None
    axial = np.zeros(0) if how == "by story weight" else gravity_axial(elastic, building, weights)
    return pressing(elastic.model, weights.gravity, axial)


@stage("solver")
def build_model(
    elastic: Solver, building: Building, masses: FloorMasses, pressed: Pressing | None
) -> Solver:
    """The model with second order in it where that is asked for."""
    if pressed is None:
        return elastic
    return factorize(with_second_order(building, masses, elastic.model, pressed))


@stage("drift_solver")
def build_for_drift(
    building: Building, masses: FloorMasses, weights: Weights, analysis: Analysis, solver: Solver
) -> Solver:
    """The model on which the forces for drift act: the same, where nothing says otherwise."""
    if not building.other_for_drift:
        return solver
    elastic = factorize(idealize(building, masses, for_drift=True))
    pressed = find_pressing(elastic, building, weights, analysis)
    return elastic if pressed is None else factorize(
        with_second_order(building, masses, elastic.model, pressed, for_drift=True))


@stage("facts", settles=True)
def gather_facts(building: Building, solver: Solver, weights: Weights) -> StructureFacts:
    """What a standard needs to know of the structure."""
    return structure_facts(building, solver, weights)


@stage("plan")
def read_plan(building: Building) -> PlanFacts:
    """What the description tells of regularity."""
    return plan_facts(building)


@stage("plumb")
def find_plumb_lines(
    building: Building, solver: Solver, drift_choices: Drift
) -> tuple[PlumbLine, ...]:
    """The vertical lines on which drift is read, besides the center of mass."""
    points = drift_choices.points
    return (
        *(corner_lines(building, solver.model)
          if drift_choices.corners and not solver.model.plane else ()),
        *column_lines(building, solver.model),
        *plumb_lines(building, solver.model, [p.name for p in points], [p.at for p in points]),
    )


# -- the standard bound to the job -----------------------------------------------------------------


@stage("laterals", "forces_part", "dynamics_part", "whole_part")
def bind_standard(
    standard: standards.AnyStandard, given: AskedOfSite, site: SiteAnswer,
    asked: Mapping[Direction, Asked], facts: StructureFacts, shaking: Shaking,
) -> tuple[Mapping[Direction, SystemAnswer], LateralForces, Dynamics, WholeStructure]:
    """Lateral systems, and the parts of the standard that are bound to them."""
    job = standard.bind(given, site, asked, facts, shaking.horizontal)
    return job.systems, standard.forces(job), standard.dynamics(job), standard.whole(job)


@stage("states")
def limit_states(standard: standards.AnyStandard) -> tuple[LimitState, ...]:
    """The limit states of the standard."""
    return standard.states


@stage("strength")
def strength_state(states: tuple[LimitState, ...]) -> LimitState:
    """The limit state whose base shear is quoted and whose forces enter combinations."""
    return next(s for s in states if s.role == "forces")


@stage("reduced")
def reduce_spectra(
    dynamics_part: Dynamics, states: tuple[LimitState, ...], directions: tuple[Direction, ...]
) -> Mapping[tuple[Direction, str], Spectrum]:
    """The spectrum of each direction and limit state."""
    return {(d, s.key): dynamics_part.reduced(d, s) for d in directions for s in states}


@stage("rules", settles=True)
def modal_rules(dynamics_part: Dynamics) -> ModalRules:
    """What the standard asks of the modal analysis."""
    return dynamics_part.rules()


@stage("mode_choice", settles=True)
def choose_modes(
    rules: ModalRules, analysis: Analysis
) -> ModeChoice:
    """Mass target, least number of modes, the period down to which all are used, their kind, the
    least share of the mass, and whether the target holds vertically too."""
    down_to = [*([rules.rigid_period] if analysis.residual_mass else []),
               *([1 / analysis.to_frequency] if analysis.to_frequency else [])]
    return (analysis.mass_target or rules.mass_target, analysis.modes,
            min(down_to, default=None), analysis.shapes, analysis.least_mass or 0.0,
            analysis.vertical_spectrum)


@stage("modes")
def find_all_modes(
    solver: Solver, mode_choice: ModeChoice
) -> Modes:
    """Periods and shapes, and how many are used."""
    return find_modes(solver, *mode_choice)


@stage("computed")
def computed_periods(
    modes: Modes, directions: tuple[Direction, ...]
) -> Mapping[Direction, float]:
    """Period of the mode that governs each direction, s."""
    return {d: float(modes.periods[modes.governing(DIRECTIONS.index(d))]) for d in directions}


@stage("drift_modes", "drift_computed")
def find_modes_for_drift(
    modes: Modes, computed: Mapping[Direction, float], solver: Solver, drift_solver: Solver,
    mode_choice: ModeChoice, directions: tuple[Direction, ...],
) -> tuple[Modes, Mapping[Direction, float]]:
    """Modes and governing periods of the model on which the forces for drift act."""
    if drift_solver is solver:
        return modes, computed
    own = find_modes(drift_solver, *mode_choice)
    return own, computed_periods(own, directions)


# -- static forces and torsion ---------------------------------------------------------------------


@stage("periods")
def approximate_periods(
    forces_part: LateralForces, directions: tuple[Direction, ...]
) -> Mapping[Direction, PeriodAnswer]:
    """Approximate period and cap of each direction."""
    return {d: forces_part.period(d) for d in directions}


@stage("statics")
def lateral_forces(
    forces_part: LateralForces, solver: Solver, modes: Modes, states: tuple[LimitState, ...],
    periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
    drift_modes: Modes, drift_computed: Mapping[Direction, float],
) -> Statics:
    """Static forces by direction and limit state."""
    floors = solver.model.diaphragms.freedoms

    def one(d: Direction, axis: int, state: LimitState) -> StaticForces:
        shapes, found = (drift_modes, drift_computed) if state.role == "drift" else \
            (modes, computed)
        return static_forces(forces_part, solver.model, d, state, periods[d], found[d],
                             shapes.shapes[floors[:, axis], shapes.governing(axis)])

    return {(d, state.key): one(d, DIRECTIONS.index(d), state)
            for d in solver.model.directions for state in states}


@stage("strength_statics")
def forces_for_strength(
    statics: Statics, strength: LimitState, directions: tuple[Direction, ...]
) -> Mapping[Direction, StaticForces]:
    """The static forces for strength by direction."""
    return {d: statics[d, strength.key] for d in directions}


@stage("twist")
def judge_torsion(
    forces_part: LateralForces, solver: Solver,
    strength_statics: Mapping[Direction, StaticForces], stiff: Rigidity,
) -> Mapping[Direction, TorsionResult]:
    """Torsional behavior in each direction; nothing of a plane building, or without diaphragms."""
    model = solver.model
    if model.plane or model.is_open[model.above_base].all():
        return {}
    return torsion(forces_part, solver, strength_statics, stiff.centers)


@stage("stiff")
def find_rigidity(
    solver: Solver, strength_statics: Mapping[Direction, StaticForces]
) -> Rigidity:
    """Centers of rigidity and torsional radii."""
    return rigidity(solver.model, {d: s.forces for d, s in strength_statics.items()})


@stage("shape")
def describe_shape(
    solver: Solver, plan: PlanFacts, strength_statics: Mapping[Direction, StaticForces],
    stiff: Rigidity, irregularities: Irregularities,
) -> ShapeFacts:
    """What regularity is judged from."""
    return shape_facts(solver, plan, strength_statics, stiff, irregularities.stated)


@stage("regularity")
def judge_regularity(
    whole_part: WholeStructure, shape: ShapeFacts, twist: Mapping[Direction, TorsionResult]
) -> RegularityAnswer:
    """Types of irregularity found, and those that could not be judged."""
    found = [whole_part.irregularities(one, {d: t.answer for d, t in twist.items()})
             for one in shape.by_chain()]
    if len(found) == 1:
        return found[0]
    types, unjudged = (tuple(dict.fromkeys(x for part in parts for x in part)) for parts in (
        [one.found for one in found], [one.unjudged for one in found]))
    # a finding that two chains share is said once
    return RegularityAnswer(types, unjudged, _distinct([f for one in found for f in one.findings]))


def _distinct(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    kept: list[Finding] = []
    for one in findings:
        if one not in kept:
            kept.append(one)
    return tuple(kept)


@stage("irregular")
def found_irregularities(regularity: RegularityAnswer) -> tuple[str, ...]:
    """Types of irregularity found."""
    return regularity.found


@stage("procedure")
def permitted_procedures(
    whole_part: WholeStructure, strength_statics: Mapping[Direction, StaticForces],
    periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
    regularity: RegularityAnswer,
) -> ProcedureAnswer:
    """Which procedures the standard permits."""
    return whole_part.procedures({d: s.shear for d, s in strength_statics.items()}, periods,
                                 computed, regularity)


@stage("eccentricities")
def design_eccentricities(
    forces_part: LateralForces, twist: Mapping[Direction, TorsionResult], analysis: Analysis,
    directions: tuple[Direction, ...],
) -> Mapping[Direction, Eccentricity]:
    """Design eccentricity of the static forces by direction."""
    if not twist:  # a plane building does not turn, floors without diaphragms not as one
        return dict.fromkeys(directions, Eccentricity(0.0, 1.0, ""))
    found = {}
    for d in directions:
        answer = twist[d].answer
        own = forces_part.eccentricity("static", answer)
        always = analysis.accidental_torsion == "always"
        share = forces_part.eccentricity("static").share if always else \
            own.share if answer.include_accidental else 0.0
        if share and analysis.eccentricity is not None:
            share = analysis.eccentricity
        if analysis.accidental_torsion == "none":
            share = 0.0
        found[d] = Eccentricity(share, own.static_factor, own.clause)
    return found


@stage("sets")
def apply_static_forces(
    solver: Solver, drift_solver: Solver, statics: Statics,
    eccentricities: Mapping[Direction, Eccentricity], twist: Mapping[Direction, TorsionResult],
    stiff: Rigidity, strength_statics: Mapping[Direction, StaticForces], analysis: Analysis,
) -> tuple[StaticSet, ...]:
    """Static sets with both signs of eccentricity."""
    factors = {d: t.factors for d, t in twist.items()}
    if drift_solver is solver:
        return static_sets(solver, statics, eccentricities, factors, stiff.centers,
                           plain=analysis.plain_sets)
    found: list[StaticSet] = []
    for drift, own, centers in (
        (False, solver, stiff.centers),
        (True, drift_solver, find_rigidity(drift_solver, strength_statics).centers),
    ):
        part = {key: s for key, s in statics.items() if (s.shear.state.role == "drift") == drift}
        found += static_sets(own, part, eccentricities, factors, centers,
                             plain=analysis.plain_sets)
    return tuple(s for key in statics for s in found if (s.direction, s.state.key) == key)


# -- spectrum analysis -----------------------------------------------------------------------------


@stage("combination", "damping_ratios", "used_periods")
def prepare_combination(
    modes: Modes, rules: ModalRules, analysis: Analysis, solver: Solver, building: Building
) -> tuple[ModalCombiner, Floats, Floats]:
    """How the modes go together; the mass left out counts as one more mode, where asked."""
    residual = analysis.residual_mass
    damping = modal_damping(analysis.damping, modes.kept + residual)
    if analysis.damping_of:
        damping = np.append(damping_by_part(
            solver.model, building, modes, analysis.damping, analysis.damping_of),
            damping[modes.kept:])
    used = np.append(modes.periods[: modes.kept], [rules.rigid_period] * residual)
    how = analysis.modal_combination or rules.modal_combination
    rigid = None
    if analysis.rigid_between is not None:
        if how in ("absolute sum", "SRSS, close modes absolute"):
            raise InputError([Fault("analysis.rigid_between", f"does not go with {how}, which the "
                                    "standard asks for", "choose modal_combination = \"CQC\"")])
        rigid = rigid_shares(2 * np.pi / used, analysis.rigid_between)
        rigid = np.append(rigid[: modes.kept], [1.0] * residual)  # moves with the ground
    return combiner(how, 2 * np.pi / used, damping, duration=analysis.duration or 0.0,
                    rigid=rigid), damping, used


@stage("modal_shapes")
def shapes_and_forces(
    solver: Solver, modes: Modes, analysis: Analysis
) -> Mapping[Motion, tuple[Floats, Floats]]:
    """Kept shapes (N, m) by direction, with the rest of the mass where asked, and their forces."""
    kept = modes.shapes[:, : modes.kept]
    forces = nodal_forces(solver.model, kept)
    ways: list[Motion] = [*solver.model.directions, *MOTIONS[2:] * analysis.vertical_spectrum]
    if not analysis.residual_mass:
        return dict.fromkeys(ways, (kept, forces))
    rest = {d: residual_shape(solver, modes, d) for d in ways}
    return {d: (np.column_stack([kept, rest[d]]),
                np.column_stack([forces, nodal_forces(solver.model, rest[d])])) for d in ways}


@stage("basis")
def take_basis(
    solver: Solver, modes: Modes, combination: ModalCombiner, damping_ratios: Floats,
    used_periods: Floats, modal_shapes: Mapping[Motion, tuple[Floats, Floats]],
) -> ModalBasis:
    """What the spectrum sets for strength are made of."""
    return ModalBasis(solver, modes, combination, damping_ratios, used_periods, modal_shapes)


@stage("drift_basis")
def take_drift_basis(
    basis: ModalBasis, drift_solver: Solver, drift_modes: Modes, rules: ModalRules,
    analysis: Analysis, building: Building,
) -> ModalBasis:
    """What those for drift are made of."""
    if drift_solver is basis.solver:
        return basis
    combine, damping, periods = prepare_combination(
        drift_modes, rules, analysis, drift_solver, building)
    return ModalBasis(drift_solver, drift_modes, combine, damping, periods,
                      shapes_and_forces(drift_solver, drift_modes, analysis))


@stage("moved_bases")
def move_masses(
    basis: ModalBasis, drift_basis: ModalBasis, eccentricities: Mapping[Direction, Eccentricity],
    mode_choice: ModeChoice, rules: ModalRules, analysis: Analysis, building: Building,
) -> Mapping[tuple[Direction, int, bool], ModalBasis]:
    """Modes with the masses moved across each direction, by direction, sign and whether for drift.

    None unless asked for, and for directions without accidental torsion.
    """
    found: dict[tuple[Direction, int, bool], ModalBasis] = {}
    for d, one in eccentricities.items() if analysis.moved_masses else ():
        for sign in (1, -1) if one.share else ():
            for drift, base in ((False, basis), (True, drift_basis)):
                if drift and drift_basis is basis:
                    found[d, sign, True] = found[d, sign, False]
                    continue
                solver = moved_masses(base.solver, d, sign * one.share)
                modes = find_modes(solver, *mode_choice)
                combine, damping, periods = prepare_combination(
                    modes, rules, analysis, solver, building)
                found[d, sign, drift] = ModalBasis(
                    solver, modes, combine, damping, periods,
                    shapes_and_forces(solver, modes, analysis))
    return found


@stage("spectrum_sets", "scaling", "dynamic", "by_moments")
def analyze_spectra(
    dynamics_part: Dynamics, basis: ModalBasis, drift_basis: ModalBasis,
    moved_bases: Mapping[tuple[Direction, int, bool], ModalBasis],
    reduced: Mapping[tuple[Direction, str], Spectrum], statics: Statics,
    sets: tuple[StaticSet, ...], states: tuple[LimitState, ...], strength: LimitState,
    irregular: tuple[str, ...],
) -> tuple[tuple[SpectrumSet, ...], tuple[Scaling, ...], tuple[SpectrumResult, ...],
           tuple[SpectrumSet, ...]]:
    """Spectrum sets of every limit state, scaled, with the accidental torsion in them: added as a
    static response, or by moved masses; then those by static moments stand beside.

    The base shear that is compared with the static one is that of the same structure under the
    spectrum for strength, its masses in their place.
    """
    model = basis.solver.model
    found: list[SpectrumSet] = []
    by_moments: list[SpectrumSet] = []
    scaling: list[Scaling] = []
    dynamic: list[SpectrumResult] = []
    for d in model.directions:
        row = model.at_base("story shear", component=d)
        first, *other = (
            one.spectrum_set(set_name("spectrum", d, strength), d, strength,
                             reduced[d, strength.key])
            for one in ((basis,) if drift_basis is basis else (basis, drift_basis)))
        shears = [float(one.of(row)[0]) for one in (first, *other)]
        dynamic.append(SpectrumResult(
            d, shears[0], first.modal_values(row)[0],
            np.asarray(reduced[d, strength.key](basis.periods)), basis.damping, basis.periods))
        for state in states:
            own, base_shear = (drift_basis, shears[-1]) if state.role == "drift" else \
                (basis, shears[0])
            answer = dynamics_part.scale(statics[d, state.key].shear, base_shear, irregular)
            scaling.append(Scaling(d, state, base_shear, answer))
            one = first if state == strength else own.spectrum_set(
                set_name("spectrum", d, state), d, state, reduced[d, state.key])
            twisted = next((s for s in sets if s.direction == d and s.state == state
                            and s.sign == 1), None)
            twisting = replace(
                one, scale=answer.factor,
                torsion=None if twisted is None else _torsion_alone(own.solver, twisted))
            moved = {sign: b for (e, sign, drift), b in moved_bases.items()
                     if (e, drift) == (d, state.role == "drift")}
            if not moved:
                found.append(twisting)
                continue
            by_moments.append(twisting)
            found += [replace(b.spectrum_set(set_name("spectrum", d, state, sign), d, state,
                                             reduced[d, state.key]),
                              scale=answer.factor, sign=sign) for sign, b in moved.items()]
    return tuple(found), tuple(scaling), tuple(dynamic), tuple(by_moments)


def _torsion_alone(solver: Solver, one: StaticSet) -> Floats:
    """Displacement and loads (N, 2) of the accidental torsion of a set without its forces."""
    loads = solver.model.loads(None, torques=one.accidental)
    return np.column_stack([solver.solve(loads), loads])


@stage("vertical_set")
def analyze_vertical(
    basis: ModalBasis, shaking: Shaking, analysis: Analysis, strength: LimitState,
    standard: standards.AnyStandard,
) -> SpectrumSet | None:
    """The response to vertical ground motion, for strength, where it is asked for.

    Raises InputError where there is no vertical spectrum.
    """
    if not analysis.vertical_spectrum:
        return None
    if shaking.vertical is None:
        raise InputError([Fault(
            "analysis.vertical_spectrum", f"{standard.title} gives no vertical spectrum",
            "give one: spectrum.vertical or spectrum.vertical_share")])
    by = ScaledSpectrum(f"{shaking.vertical.name} over {analysis.vertical_divisor:g}",
                        shaking.vertical, 1.0 / analysis.vertical_divisor)
    return basis.spectrum_set(set_name("spectrum", "Z", strength), "Z", strength, by)


@stage("how", "directional")
def combine_both(
    dynamics_part: Dynamics, irregular: tuple[str, ...], analysis: Analysis,
    directions: tuple[Direction, ...],
) -> tuple[DirectionalCombination, tuple[DirectionalCombination, str]]:
    """How the directions go together: as chosen, and by the standard with its clause.

    There is nothing to combine where there is one.
    """
    if len(directions) == 1:
        return "independent", ("independent", "")
    own = dynamics_part.directions(irregular)
    return analysis.directional_combination or own[0], own


@stage("used_rules")
def rules_in_use(
    rules: ModalRules, directional: tuple[DirectionalCombination, str]
) -> ModalRules:
    """The rules, with the directional combination that holds for the irregularities found."""
    return replace(rules, directional_combination=directional[0],
                   directional_clause=directional[1])
