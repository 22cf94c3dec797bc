"""The whole job in order: the one place where the steps are strung together."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum import standards
from undatum.analysis.displacement import PlumbDisplacements, plumb_displacements
from undatum.analysis.lateral import StaticForces, static_forces, static_sets
from undatum.analysis.modes import Modes, find_modes
from undatum.analysis.response import (
    BothDirections,
    ResponseSet,
    SpectrumSet,
    StaticSet,
    modal_damping,
    modal_peaks,
)
from undatum.analysis.rigidity import rigidity
from undatum.analysis.shape import shape_facts
from undatum.analysis.shears import story_response
from undatum.analysis.torsion import torsion, torsion_factors
from undatum.building.lines import Cantilever
from undatum.building.weight import weigh
from undatum.checks.drift import check_drift
from undatum.checks.plausibility import check_plausibility
from undatum.checks.separation import SeparationCheck, check_separation
from undatum.checks.stability import check_stability
from undatum.errors import Fault, InputError, nearest
from undatum.ground.spectrum import Spectrum
from undatum.mechanics.idealize import corner_lines, idealize, plumb_lines
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import System
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.questions import questions
from undatum.project.reader import validate
from undatum.project.results import Results, Scaling, SpectrumResult
from undatum.project.schema import Project
from undatum.project.shaking import Shaking, shaking
from undatum.standards.answers import (
    DIRECTIONS,
    PURPOSES,
    Direction,
    LoadFacts,
    ModalFacts,
    ModalRules,
    Purpose,
    ScaleAnswer,
    SiteAnswer,
    StructureFacts,
    SystemAnswer,
    Wall,
)
from undatum.units import UnitSystem
from undatum.working import Section

Floats = NDArray[np.float64]
Statics = dict[tuple[Direction, Purpose], StaticForces]


def analyze(**description: Any) -> Results:
    """The whole job from Python: the keys of a project as arguments.

    Numbers are SI unless they carry a unit; ``units`` is the system results are written in.
    Raises InputError when the description is wrong, AnalysisError when it cannot be analyzed.
    """
    units = description.pop("units", "kN, m")
    project, faults = validate({**description, "units": "N, m"})
    if project is None:
        raise InputError(faults)
    UnitSystem(units)
    return run(project.model_copy(update={"units": units}))


def run(project: Project, folder: Path | None = None) -> Results:
    """Run a project. ``folder`` is where files it names are looked for.

    Raises InputError or AnalysisError; the results are complete or not there.
    """
    standard = standards.get(project.standard, folder)
    site = standard.site(project.site)
    ground = shaking(project, standard, site, folder)
    weights = weigh(
        project.building,
        lambda *load: standard.weight_share(LoadFacts(*load), project.site),
        lambda *load: standard.gravity_share(LoadFacts(*load), project.site),
    )
    system = idealize(project.building, weights)
    above = system.above_base
    facts = StructureFacts(
        height=float(system.elevations[0] - system.base_elevation),
        stories=int(above.sum()),
        story_heights=tuple(system.story_heights[above]),
        weight=weights.total,
        plan=_base_plan(project),
        base_area=project.building.outline(project.building.base_index).area,
        walls=_walls(project),
        stiffness_shares=_stiffness_shares(project),
    )
    laterals = {
        d: standard.system(d, getattr(project.system, d), site, facts) for d in DIRECTIONS
    }
    reduced = {
        (d, p): standard.reduced_spectrum(ground.horizontal[d], site, laterals[d], p)
        for d in DIRECTIONS for p in PURPOSES
    }
    rules = standard.modal_rules(site)
    options = project.analysis
    modes = find_modes(system, options.mass_target or rules.mass_target, options.modes)

    statics: Statics = {
        (d, p): static_forces(
            standard, site, laterals[d], system, facts, p,
            float(modes.periods[modes.governing(axis)]),
            modes.shapes[axis * system.n : (axis + 1) * system.n, modes.governing(axis)],
        )
        for axis, d in enumerate(DIRECTIONS) for p in PURPOSES
    }
    twist = {d: torsion(standard, site, system, statics[d, "strength"]) for d in DIRECTIONS}
    stiff = rigidity(
        system, statics["X", "strength"].forces, statics["Y", "strength"].forces)
    shape = shape_facts(
        system, [project.building.outline(i) for i in range(system.n)], statics, stiff,
        project.irregularities.stated)
    irregular, irregularities = standard.irregularities(
        site, shape, {d: twist[d].answer for d in DIRECTIONS})
    eccentricity = standard.eccentricity()
    always = options.accidental_torsion == "always"
    shares = {
        d: eccentricity.share if always or twist[d].answer.include_accidental else 0.0
        for d in DIRECTIONS
    }
    sets = static_sets(system, statics, shares, {d: twist[d].amplification for d in DIRECTIONS},
                       eccentricity.static_factor, stiff.centers)

    spectrum_sets, scaling, dynamic = _spectrum_analysis(
        project, rules, reduced, system, modes, statics, laterals, sets, site, standard, ground,
    )
    own_how, clause = standard.directions(site, irregular)
    rules = replace(rules, directional_combination=own_how, directional_clause=clause)
    how = options.directional_combination or own_how
    strength = [s for s in spectrum_sets if s.purpose == "strength"]
    both = BothDirections(
        f"spectrum X and Y, {how}", "strength", strength[0], strength[1], how)
    shears = story_response(
        system, [*(s for s in sets if s.purpose == "strength"), *strength, both]
    )

    drift_sets: list[ResponseSet] = [
        *(s for s in sets if s.purpose == "drift"),
        *(s for s in spectrum_sets if s.purpose == "drift"),
    ]
    stability = tuple(
        check_stability(standard, site, laterals[d], system, weights.gravity, one)
        for d in DIRECTIONS for one in _one_each(drift_sets, d)
    )
    second_order = {
        d: np.max([s.amplification for s in stability if s.direction == d], axis=0)
        for d in DIRECTIONS
    }
    plumb = (
        *(corner_lines(project.building, system) if project.drift.corners else ()),
        *plumb_lines(project.building, system, [p.name for p in project.drift.points],
                     [p.at for p in project.drift.points]),
    )
    structure = project.drift.structure or standard.drift_structures()[0]
    limits = {
        d: standard.drift_limit(site, laterals[d], structure, facts,
                                statics[d, "drift"].shear.period)
        for d in DIRECTIONS
    }
    drift = check_drift(
        system, drift_sets, plumb,
        {d: laterals[d].drift_factor for d in DIRECTIONS},
        limits,
        {d: twist[d].answer.drift_at_edges for d in DIRECTIONS},
        second_order,
        project.drift.judged_by,
    )
    displacements = plumb_displacements(
        system, drift_sets, [system.center_line(), *plumb],
        {d: laterals[d].drift_factor for d in DIRECTIONS})
    gaps = _gaps(project, standard, site, laterals, system, displacements)
    combinations = standard.load_combinations(site, laterals, irregular, how)
    modal_facts = ModalFacts(
        modes.periods, modes.kinds, modes.mass_ratios, modes.kept,
        options.modal_combination or rules.modal_combination, facts.stories)
    plausibility = check_plausibility(
        system, weights, modes, statics, sets, shears, project.occupancy
    )
    units = UnitSystem(project.units)
    findings = (
        *hazard_finding(project.site),
        *site.findings,
        *(f for d in DIRECTIONS for f in laterals[d].findings),
        *standard.procedures(
            site, [laterals[d] for d in DIRECTIONS],
            [statics[d, "strength"].shear for d in DIRECTIONS],
            [float(modes.periods[modes.governing(axis)]) for axis in (0, 1)], facts, irregular),
        *(twist[d].answer.finding for d in DIRECTIONS),
        *irregularities,
        *standard.modal_findings(site, modal_facts),
        *drift.findings(),
        *(gap.finding() for gap in gaps),
        *(s.finding() for s in stability),
        *plausibility.findings(),
        *questions(project, units),
        *ground.findings,
    )
    heavy = weights.weight > 0
    diaphragms = {
        d: standard.diaphragm_forces(
            site, statics[d, "strength"].distribution, weights.weight[heavy])
        for d in DIRECTIONS
    }
    working = (
        *hazard_working(project.site),
        site.working,
        *ground.working,
        *(laterals[d].working for d in DIRECTIONS),
        *(standard.period(laterals[d], site, facts).working for d in DIRECTIONS),
        *(x for s in statics.values() for x in (s.shear.working, s.distribution.working)),
        *(replace(r.working, title=f"{r.working.title}, forces in {d}") for d in DIRECTIONS
          for r in [twist[d].distribution] if r is not None),
        *(f.working for f in diaphragms.values() if f is not None),
        *(s.answer.working for s in scaling),
        *(limits[d].working for d in DIRECTIONS),
        *(replace(s.answer.working, title=f"{s.answer.working.title}, {s.method}")
          for s in stability),
        *(replace(g.answer.working, title=f"Separation, {g.name}") for g in gaps),
        *([combinations.working] if combinations else []),
    )
    _all_replacements_used(project, working)
    return Results(
        project=project,
        standard_title=standard.title,
        site=site,
        laterals=laterals,
        shaking=ground,
        reduced={d: reduced[d, "strength"] for d in DIRECTIONS},
        weights=weights,
        system=system,
        modes=modes,
        rules=rules,
        statics=statics,
        torsion=twist,
        torsion_factors=torsion_factors(standard, system, sets),
        shape=shape,
        diaphragms={d: f.forces for d, f in diaphragms.items() if f is not None},
        rigidity=stiff.centers,
        static_sets=sets,
        spectrum_sets=spectrum_sets,
        dynamic=dynamic,
        scaling=scaling,
        shears=shears,
        plumb=plumb,
        displacements=displacements,
        gaps=gaps,
        combinations=combinations,
        drift=drift,
        stability=stability,
        plausibility=plausibility,
        findings=findings,
        working=working,
    )


def _all_replacements_used(project: Project, working: tuple[Section, ...]) -> None:
    """A replaced symbol that stands in no working is a mistake. Raises InputError naming it."""
    known = sorted({step.symbol for section in working for step in section
                    if isinstance(step.value, float)})
    faults = []
    for place, asked in (("site", project.site), ("system.X", project.system.X),
                         ("system.Y", project.system.Y)):
        for i, own in enumerate(asked.replace):
            if own.symbol not in known:
                near = nearest(own.symbol, known)
                faults.append(Fault(
                    f"{place}.replace[{i}].symbol", f"{own.symbol!r} is no single value of this "
                    "calculation", (f"did you mean {near!r}? " if near else "")
                    + f"known: {', '.join(known)}"))
    if faults:
        raise InputError(faults)


def _base_plan(project: Project) -> tuple[float, float]:
    """Dimensions of the floor at the base along X and Y, m."""
    x0, y0, x1, y1 = project.building.outline(project.building.base_index).bounds
    return x1 - x0, y1 - y0


def _walls(project: Project) -> dict[Direction, tuple[Wall, ...]]:
    """Rectangular walls that cross the lowest story above the base, along X and along Y."""
    building = project.building
    order = [level.name for level in building.levels]
    story, z = building.base_index - 1, building.elevations
    found: dict[Direction, list[Wall]] = {d: [] for d in DIRECTIONS}
    for line in building.lines:
        top, bottom = order.index(line.top), order.index(line.bottom)
        if line.cantilever is None or not top <= story < bottom:
            continue
        section = line.by_story(bottom - top)[story - top]
        along = np.abs([np.cos(line.direction), np.sin(line.direction)])
        if isinstance(section, Cantilever) and section.length and section.thickness \
                and along.max() > 1 - 1e-6:
            height = z[top] - max(z[bottom], z[building.base_index])
            found[DIRECTIONS[int(np.argmax(along))]].append(
                Wall(line.name, section.length, section.length * section.thickness, height))
    return {d: tuple(walls) for d, walls in found.items()}


def _stiffness_shares(project: Project) -> dict[Direction, tuple[float, ...]]:
    """Share of the gross bending stiffness kept by every cantilever along X and along Y."""
    found: dict[Direction, list[float]] = {d: [] for d in DIRECTIONS}
    for line in project.building.lines:
        for section in line.by_story(1):
            if isinstance(section, Cantilever):
                for d, part in zip(DIRECTIONS, (np.cos(line.direction), np.sin(line.direction)),
                                   strict=True):
                    if abs(part) > 1e-6:
                        found[d].append(section.flexural_share)
    return {d: tuple(shares) for d, shares in found.items()}


def _gaps(
    project: Project, standard: standards.Standard, site: SiteAnswer,
    laterals: dict[Direction, SystemAnswer], system: System, displacements: PlumbDisplacements,
) -> tuple[SeparationCheck, ...]:
    """Every gap of the project that the standard has a rule for."""
    found = (
        check_separation(standard, site, laterals[g.direction], system, displacements, g.name,
                         g.distance, g.level, g.neighbor, g.same_floors)
        for g in project.gaps
    )
    return tuple(g for g in found if g is not None)


def _one_each(sets: list[ResponseSet], direction: Direction) -> list[ResponseSet]:
    """The first set of each method along a direction."""
    found: dict[str, ResponseSet] = {}
    for one in sets:
        if one.direction == direction:
            found.setdefault(one.method, one)
    return list(found.values())


def _spectrum_analysis(
    project: Project, rules: ModalRules, reduced: dict[tuple[Direction, Purpose], Spectrum],
    system: System, modes: Modes, statics: Statics, laterals: dict[Direction, SystemAnswer],
    sets: tuple[StaticSet, ...], site: SiteAnswer, standard: standards.Standard, ground: Shaking,
) -> tuple[tuple[SpectrumSet, ...], tuple[Scaling, ...], tuple[SpectrumResult, ...]]:
    """Spectrum sets of both purposes, scaled, with the accidental torsion added."""
    how = project.analysis.modal_combination or rules.modal_combination
    damping = modal_damping(project.analysis.damping, modes.kept)
    found: list[SpectrumSet] = []
    scaling: list[Scaling] = []
    dynamic: list[SpectrumResult] = []
    for axis, d in enumerate(DIRECTIONS):
        plain = SpectrumSet(
            f"spectrum {d}", d, "strength", modal_peaks(modes, d, reduced[d, "strength"]),
            modes.omega[: modes.kept], damping, how)
        base_row = system.shear_map(axis)[[system.base_story]]
        base_shear = float(plain.of(base_row)[0])
        dynamic.append(SpectrumResult(
            d, base_shear, plain.modal_values(base_row)[0],
            np.asarray(reduced[d, "strength"](modes.periods[: modes.kept])), damping,
        ))
        answers: dict[Purpose, ScaleAnswer] = {
            "strength": standard.force_scale(
                laterals[d], statics[d, "strength"].shear, base_shear, ground.horizontal[d]),
            "drift": standard.drift_scale(
                site, laterals[d], statics[d, "drift"].shear, base_shear, ground.horizontal[d]),
        }
        for purpose, answer in answers.items():
            scaling.append(Scaling(d, purpose, base_shear, answer))
            twisted = next((s for s in sets if s.direction == d and s.purpose == purpose
                            and s.sign == 1), None)
            found.append(replace(
                plain, purpose=purpose, scale=answer.factor,
                modal=modal_peaks(modes, d, reduced[d, purpose]),
                torsion=None if twisted is None else _torsion_alone(system, twisted),
            ))
    return tuple(found), tuple(scaling), tuple(dynamic)


def _torsion_alone(system: System, one: StaticSet) -> Floats:
    """Displacement under the accidental torsion of a static set without its forces."""
    loads = np.zeros(3 * system.n)
    loads[2 * system.n :] = one.accidental
    return solve_static(system, loads[:, None])[:, 0]
