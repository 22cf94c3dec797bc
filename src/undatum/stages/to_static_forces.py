"""From the description to static forces: what each stage of a job works out, as plain functions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from undatum import standards
from undatum.analysis.lateral import StaticForces, static_forces, static_sets
from undatum.analysis.modes import Modes, Shapes, find_modes
from undatum.analysis.response import (
    StaticSet,
)
from undatum.analysis.torsion import TorsionResult, torsion
from undatum.errors import Fault, InputError
from undatum.finding import Finding
from undatum.ground.spectrum import Spectrum
from undatum.layout.groups import LoadGroups, group_loads
from undatum.layout.plan import PlanFacts, plan_facts
from undatum.layout.weight import FloorMasses, Weights, weigh
from undatum.layout.whole import Building
from undatum.mechanics.idealize import (
    column_lines,
    corner_lines,
    idealize,
    plumb_lines,
    with_second_order,
)
from undatum.mechanics.model import Pressing
from undatum.mechanics.planes import LateralPlanes, lateral_planes
from undatum.mechanics.quantities import NEAR, PlumbLine
from undatum.mechanics.rigidity import Rigidity, rigidity
from undatum.mechanics.second_order import pressing
from undatum.mechanics.solver import Solver, factorize
from undatum.project.schema import Drift, Irregularities, drift_columns
from undatum.project.ways import Analysis, SpectrumTable
from undatum.stages.facts import structure_facts
from undatum.stages.members import gravity_axial
from undatum.stages.shaking import Shaking, shaking
from undatum.stages.shape import shape_facts
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
    Direction,
    LimitState,
)
from undatum.units import said

Statics = Mapping[tuple[Direction, str], StaticForces]
ModeChoice = tuple[float, int | None, float | None, Shapes, float, bool]


# -- site, weight, structure -----------------------------------------------------------------------


def find_standard(
    standard_key: str, folder: Path | None, criteria: str | None
) -> standards.AnyStandard:
    """The standard of the project."""
    return standards.get(standard_key, folder, criteria)


def judge_site(standard: standards.AnyStandard, given: AskedOfSite) -> tuple[Ground, SiteAnswer]:
    """Site parameters and the spectrum before any reduction."""
    part = standard.ground(given)
    return part, part.site()


def find_shaking(
    standard: standards.AnyStandard, ground: Ground, site: SiteAnswer,
    spectrum: SpectrumTable | None, damping: float, folder: Path | None,
) -> Shaking:
    """The spectra in use, horizontal and vertical."""
    return shaking(spectrum, damping, standard.title, ground, site, folder)


def find_directions(building: Building) -> tuple[Direction, ...]:
    """Along what the building moves and is judged: X and Y, or one of them."""
    return building.directions


def find_weight_rule(standard: standards.AnyStandard, given: AskedOfSite) -> WeightRule:
    """Which loads count, and how much."""
    return standard.weight(given)


def weigh_building(weight_rule: WeightRule, building: Building) -> Weights:
    """Seismic weight by level."""
    return weigh(building, lambda *load: weight_rule.share(LoadFacts(*load)),
                 lambda *load: weight_rule.gravity(LoadFacts(*load)))


def group_building_loads(weight_rule: WeightRule, building: Building) -> LoadGroups:
    """Loads that combinations and second order take alike."""
    return group_loads(building, lambda *load: weight_rule.combination(LoadFacts(*load)),
                       lambda *load: weight_rule.gravity(LoadFacts(*load)), weight_rule.effect)


def take_masses(weights: Weights, building: Building) -> FloorMasses:
    """The masses alone: another rule that counts the same moves nothing."""
    if not (building.diaphragms or building.vertical_mass):
        return weights.masses
    return replace(weights.masses, counted=weights.counted)


def build_elastic(building: Building, masses: FloorMasses) -> Solver:
    """The model of the building, its stiffness factored. Raises AnalysisError for a mechanism."""
    return factorize(idealize(building, masses))


def find_pressing(
    elastic: Solver, building: Building, weights: Weights, analysis: Analysis,
    load_groups: LoadGroups,
) -> Pressing | None:
    """Gravity as second order sees it, where it goes into the stiffness."""
    how = analysis.second_order
    if how == "by factor":
        return None
    axial = np.zeros(0) if how == "by story weight" else \
        gravity_axial(elastic, building, load_groups)
    return pressing(elastic.model, weights.gravity, axial)


def build_model(
    elastic: Solver, building: Building, masses: FloorMasses, pressed: Pressing | None
) -> Solver:
    """The model with second order in it where that is asked for."""
    if pressed is None:
        return elastic
    return factorize(with_second_order(building, masses, elastic.model, pressed))


def build_for_drift(
    building: Building, masses: FloorMasses, weights: Weights, analysis: Analysis, solver: Solver,
    load_groups: LoadGroups,
) -> Solver:
    """The model on which the forces for drift act: the same, where nothing says otherwise."""
    if not building.other_for_drift:
        return solver
    elastic = factorize(idealize(building, masses, for_drift=True))
    pressed = find_pressing(elastic, building, weights, analysis, load_groups)
    return elastic if pressed is None else factorize(
        with_second_order(building, masses, elastic.model, pressed, for_drift=True))


def find_planes(building: Building, solver: Solver, weights: Weights) -> LateralPlanes:
    """What carries the shear of each story, plane by plane."""
    return lateral_planes(solver, building, weights.weight)


def gather_facts(
    building: Building, solver: Solver, weights: Weights, planes: LateralPlanes
) -> StructureFacts:
    """What a standard needs to know of the structure."""
    return structure_facts(building, solver, weights, planes)


def read_plan(building: Building) -> PlanFacts:
    """What the description tells of regularity."""
    return plan_facts(building)


def find_plumb_lines(
    building: Building, solver: Solver, drift_choices: Drift
) -> tuple[PlumbLine, ...]:
    """The vertical lines on which drift is read, besides the center of mass."""
    points = {p.name: building.place(p.at) for p in drift_choices.points}
    if faults := _without_node(points, building, solver):
        raise InputError(faults)
    for which in drift_choices.columns:
        points |= {k: at for k, at in drift_columns(building, which).items() if k not in points}
    return (
        *(corner_lines(building, solver.model)
          if drift_choices.corners and not solver.model.plane else ()),
        *column_lines(building, solver.model),
        *plumb_lines(building, solver.model, list(points), list(points.values())),
    )


def _without_node(
    points: Mapping[str, tuple[float, float]], building: Building, solver: Solver
) -> list[Fault]:
    """Points on floors that deform, where no node of their mesh lies to tell how they move."""
    found = []
    for k, (name, at) in enumerate(points.items()):
        for floor in solver.model.open_floors:
            away = np.hypot(*(floor.at - at).T)
            near = int(np.argmin(away))
            if floor.deforms and away[near] > NEAR and building.outline(floor.level).holds(at)[0]:
                x, y = floor.at[near]
                found.append(Fault(
                    f"drift.points[{k}].at", f"point {name!r} lies between the nodes of level "
                    f"{solver.model.levels[floor.level]}, whose floor deforms",
                    f"take the node at ({said(x)}, {said(y)}), a column or a wall end, or a grid "
                    "line through it"))
                break
    return found


# -- the standard bound to the job -----------------------------------------------------------------


def bind_standard(
    standard: standards.AnyStandard, given: AskedOfSite, site: SiteAnswer,
    asked: Mapping[Direction, Asked], facts: StructureFacts, shaking: Shaking,
) -> tuple[Mapping[Direction, SystemAnswer], LateralForces, Dynamics, WholeStructure]:
    """Lateral systems, and the parts of the standard that are bound to them."""
    job = standard.bind(given, site, asked, facts, shaking.horizontal)
    return job.systems, standard.forces(job), standard.dynamics(job), standard.whole(job)


def limit_states(standard: standards.AnyStandard) -> tuple[LimitState, ...]:
    """The limit states of the standard."""
    return standard.states


def strength_state(states: tuple[LimitState, ...]) -> LimitState:
    """The limit state whose base shear is quoted and whose forces enter combinations."""
    return next(s for s in states if s.role == "forces")


def reduce_spectra(
    dynamics_part: Dynamics, states: tuple[LimitState, ...], computed: Mapping[Direction, float]
) -> Mapping[tuple[Direction, str], Spectrum]:
    """The spectrum of each direction and limit state."""
    return {(d, s.key): dynamics_part.reduced_at(d, s, t)
            for d, t in computed.items() for s in states}


def modal_rules(dynamics_part: Dynamics) -> ModalRules:
    """What the standard asks of the modal analysis."""
    return dynamics_part.rules()


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


def find_all_modes(
    solver: Solver, mode_choice: ModeChoice
) -> Modes:
    """Periods and shapes, and how many are used."""
    return find_modes(solver, *mode_choice)


def computed_periods(
    modes: Modes, directions: tuple[Direction, ...]
) -> Mapping[Direction, float]:
    """Period of the mode that governs each direction, s."""
    return {d: float(modes.periods[modes.governing(DIRECTIONS.index(d))]) for d in directions}


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


def approximate_periods(
    forces_part: LateralForces, directions: tuple[Direction, ...]
) -> Mapping[Direction, PeriodAnswer]:
    """Approximate period and cap of each direction."""
    return {d: forces_part.period(d) for d in directions}


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


def forces_for_strength(
    statics: Statics, strength: LimitState, directions: tuple[Direction, ...]
) -> Mapping[Direction, StaticForces]:
    """The static forces for strength by direction."""
    return {d: statics[d, strength.key] for d in directions}


def judge_torsion(
    forces_part: LateralForces, solver: Solver,
    strength_statics: Mapping[Direction, StaticForces], stiff: Rigidity,
) -> Mapping[Direction, TorsionResult]:
    """Torsional behavior in each direction; nothing of a plane building, or without diaphragms."""
    model = solver.model
    if model.plane or model.is_open[model.above_base].all():
        return {}
    return torsion(forces_part, solver, strength_statics, stiff.centers)


def find_rigidity(
    solver: Solver, strength_statics: Mapping[Direction, StaticForces]
) -> Rigidity:
    """Centers of rigidity and torsional radii."""
    return rigidity(solver, {d: s.forces for d, s in strength_statics.items()})


def describe_shape(
    solver: Solver, plan: PlanFacts, strength_statics: Mapping[Direction, StaticForces],
    stiff: Rigidity, irregularities: Irregularities, planes: LateralPlanes,
) -> ShapeFacts:
    """What regularity is judged from."""
    return shape_facts(solver, plan, strength_statics, stiff, irregularities.stated, planes)


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


def found_irregularities(regularity: RegularityAnswer) -> tuple[str, ...]:
    """Types of irregularity found."""
    return regularity.found


def permitted_procedures(
    whole_part: WholeStructure, strength_statics: Mapping[Direction, StaticForces],
    periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
    regularity: RegularityAnswer,
) -> ProcedureAnswer:
    """Which procedures the standard permits."""
    return whole_part.procedures({d: s.shear for d, s in strength_statics.items()}, periods,
                                 computed, regularity)


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
