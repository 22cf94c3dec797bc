"""The whole job in order: the one place where the steps are strung together."""

from __future__ import annotations

from collections.abc import Sequence
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
    residual_peak,
)
from undatum.analysis.rigidity import rigidity
from undatum.analysis.shape import shape_facts
from undatum.analysis.shears import story_response
from undatum.analysis.torsion import torsion, torsion_factors
from undatum.building.weight import weigh
from undatum.checks.drift import check_drift
from undatum.checks.plausibility import check_plausibility
from undatum.checks.separation import SeparationCheck, check_separation
from undatum.checks.stability import check_stability
from undatum.errors import Fault, InputError, nearest
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum
from undatum.mechanics.idealize import corner_lines, idealize, plumb_lines
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import System
from undatum.project.facts import structure_facts
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
    SystemAnswer,
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
    facts = structure_facts(project.building, system, weights)
    laterals = {
        d: standard.system(d, getattr(project.system, d), site, facts) for d in DIRECTIONS
    }
    reduced = {
        (d, p): standard.reduced_spectrum(ground.horizontal[d], site, laterals[d], p)
        for d in DIRECTIONS for p in PURPOSES
    }
    rules = standard.modal_rules(site)
    options = project.analysis
    modes = find_modes(system, options.mass_target or rules.mass_target, options.modes,
                       rules.rigid_period if options.residual_mass else np.inf)

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
    gaps = _gaps(project, standard, site, laterals, system, displacements, second_order)
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
        *_chosen(project, modes, rules),
        *_unchecked(project, gaps, standard.title),
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


def _chosen(project: Project, modes: Modes, rules: ModalRules) -> tuple[Finding, ...]:
    """Choices of analysis that a reader must know of."""
    found = []
    if project.analysis.residual_mass:
        left = 1.0 - modes.cumulative[modes.kept - 1, :2]
        found.append(Finding(
            "mass left out by the modes", "whole structure", Severity.NOTE,
            f"{left[0]:.1%} in X and {left[1]:.1%} in Y move with the ground at the ordinate of "
            f"{rules.rigid_period:.3f} s and are combined as one more mode.",
            rules.rigid_clause or "by choice of the project"))
    if project.analysis.accidental_torsion == "always":
        found.append(Finding(
            "accidental torsion", "whole structure", Severity.NOTE,
            "It is in forces and drift by choice of the project, whatever the standard asks for.",
            "analysis.accidental_torsion"))
    stated = project.irregularities
    if stated.stated:
        said = ", ".join(f"{k.replace('_', ' ')}: {'yes' if v else 'no'}"
                         for k, v in stated.stated.items())
        found.append(Finding(
            "irregularities stated", "whole structure",
            Severity.OK if stated.reason else Severity.NOTE,
            f"By the engineer: {said}. {stated.reason or 'No reason is given.'}",
            "irregularities", "" if stated.reason else "Give irregularities.reason."))
    return tuple(found)


def _unchecked(
    project: Project, checked: Sequence[SeparationCheck], title: str
) -> tuple[Finding, ...]:
    """Gaps of the project that the standard has no rule for."""
    left = len(project.gaps) - len(checked)
    if not left:
        return ()
    return (Finding(
        "separation", "whole structure", Severity.WARNING,
        f"{title} says nothing on separation: {left} gap{'s were' if left > 1 else ' was'} not "
        "checked.", "", "Check them by another rule."),)


def _gaps(
    project: Project, standard: standards.Standard, site: SiteAnswer,
    laterals: dict[Direction, SystemAnswer], system: System, displacements: PlumbDisplacements,
    second_order: dict[Direction, Floats],
) -> tuple[SeparationCheck, ...]:
    """Every gap of the project that the standard has a rule for."""
    found = (
        check_separation(standard, site, laterals[g.direction], system, displacements,
                         second_order[g.direction], g.name, g.distance, g.level, g.neighbor,
                         g.same_floors)
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
    residual = project.analysis.residual_mass
    damping = modal_damping(project.analysis.damping, modes.kept + residual)
    periods = np.append(modes.periods[: modes.kept], [rules.rigid_period] * residual)

    def peaks(d: Direction, purpose: Purpose) -> Floats:
        spectrum = reduced[d, purpose]
        modal = modal_peaks(modes, d, spectrum)
        if not residual:
            return modal
        rest = residual_peak(system, modes, d, spectrum, rules.rigid_period)
        return np.column_stack([modal, rest])

    found: list[SpectrumSet] = []
    scaling: list[Scaling] = []
    dynamic: list[SpectrumResult] = []
    for axis, d in enumerate(DIRECTIONS):
        plain = SpectrumSet(
            f"spectrum {d}", d, "strength", peaks(d, "strength"), 2 * np.pi / periods, damping, how)
        base_row = system.shear_map(axis)[[system.base_story]]
        base_shear = float(plain.of(base_row)[0])
        dynamic.append(SpectrumResult(
            d, base_shear, plain.modal_values(base_row)[0],
            np.asarray(reduced[d, "strength"](periods)), damping, periods,
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
                modal=peaks(d, purpose),
                torsion=None if twisted is None else _torsion_alone(system, twisted),
            ))
    return tuple(found), tuple(scaling), tuple(dynamic)


def _torsion_alone(system: System, one: StaticSet) -> Floats:
    """Displacement under the accidental torsion of a static set without its forces."""
    loads = np.zeros(3 * system.n)
    loads[2 * system.n :] = one.accidental
    return solve_static(system, loads[:, None])[:, 0]
