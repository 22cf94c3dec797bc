"""Stages of the spectrum analysis: how modes go together, sets by limit state, directions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from undatum import standards
from undatum.analysis.combine import ModalCombiner, combiner, rigid_shares
from undatum.analysis.lateral import set_name
from undatum.analysis.modes import Modes, find_modes
from undatum.analysis.response import (
    ModalBasis,
    SpectrumSet,
    StaticSet,
    modal_damping,
    nodal_forces,
    residual_shape,
)
from undatum.errors import Fault, InputError
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.layout.whole import Building
from undatum.mechanics.moved import moved_masses
from undatum.mechanics.solver import Solver
from undatum.project.damping import damping_by_part, given_by_mode
from undatum.project.ways import Analysis
from undatum.stages.outcomes import Scaling, SpectrumResult
from undatum.stages.shaking import Shaking
from undatum.stages.to_static_forces import ModeChoice, Statics
from undatum.standards.answers import Eccentricity, ModalRules
from undatum.standards.contract import Dynamics
from undatum.standards.terms import (
    MOTIONS,
    Direction,
    DirectionalCombination,
    LimitState,
    Motion,
)

Floats = NDArray[np.float64]
#: Spectrum sets, scaling, results, and the sets with static moments and with moved masses apart.
Analyzed = tuple[
    tuple[SpectrumSet, ...], tuple[Scaling, ...], tuple[SpectrumResult, ...],
    tuple[SpectrumSet, ...], tuple[SpectrumSet, ...]]


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
    elif analysis.damping_by_mode:
        damping = np.append(given_by_mode(modes, analysis.damping_by_mode), damping[modes.kept:])
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


def take_basis(
    solver: Solver, modes: Modes, combination: ModalCombiner, damping_ratios: Floats,
    used_periods: Floats, modal_shapes: Mapping[Motion, tuple[Floats, Floats]],
) -> ModalBasis:
    """What the spectrum sets for strength are made of."""
    return ModalBasis(solver, modes, combination, damping_ratios, used_periods, modal_shapes)


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


def move_masses(
    basis: ModalBasis, drift_basis: ModalBasis, eccentricities: Mapping[Direction, Eccentricity],
    mode_choice: ModeChoice, rules: ModalRules, analysis: Analysis, building: Building,
) -> Mapping[tuple[Direction, int, bool], ModalBasis]:
    """Modes with the masses moved across each direction, by direction, sign and whether for drift.

    None unless asked for, and for directions without accidental torsion.
    """
    found: dict[tuple[Direction, int, bool], ModalBasis] = {}
    for d, one in eccentricities.items() if analysis.moved_masses != "no" else ():
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


def analyze_spectra(
    dynamics_part: Dynamics, basis: ModalBasis, drift_basis: ModalBasis,
    moved_bases: Mapping[tuple[Direction, int, bool], ModalBasis],
    reduced: Mapping[tuple[Direction, str], Spectrum], statics: Statics,
    sets: tuple[StaticSet, ...], states: tuple[LimitState, ...], strength: LimitState,
    irregular: tuple[str, ...], analysis: Analysis,
) -> Analyzed:
    """Spectrum sets of every limit state, scaled, with the accidental torsion in them: added as a
    static response, or by moved masses; then all sets by the one way and by the other.

    The base shear that is compared with the static one of a limit state is that of the same
    structure under its own spectrum, the masses in their place.
    """
    model = basis.solver.model
    twisting = {key: values for drift, base in ((False, basis), (True, drift_basis))
                for key, values in _torsion_alone(base.solver, [
                    s for s in sets if s.sign == 1 and (s.state.role == "drift") == drift]).items()}
    found: list[SpectrumSet] = []
    by_moments: list[SpectrumSet] = []
    by_masses: list[SpectrumSet] = []
    scaling: list[Scaling] = []
    dynamic: list[SpectrumResult] = []
    for d in model.directions:
        row = model.at_base("story shear", component=d)
        first = basis.spectrum_set(set_name("spectrum", d, strength), d, strength,
                                   reduced[d, strength.key])
        dynamic.append(SpectrumResult(
            d, float(first.of(row)[0]), first.modal_values(row)[0],
            np.asarray(reduced[d, strength.key](basis.periods)), basis.damping, basis.periods))
        for state in states:
            own = drift_basis if state.role == "drift" else basis
            one = first if state == strength else own.spectrum_set(
                set_name("spectrum", d, state), d, state, reduced[d, state.key])
            base_shear = float(one.of(row)[0])
            answer = dynamics_part.scale(statics[d, state.key].shear, base_shear, irregular)
            scaling.append(Scaling(d, state, base_shear, answer))
            by_moments.append(replace(one, scale=answer.factor,
                                      torsion=twisting.get((d, state.key))))
            moved = [replace(b.spectrum_set(set_name("spectrum", d, state, sign), d, state,
                                            reduced[d, state.key]),
                             scale=answer.factor, sign=sign)
                     for (e, sign, drift), b in moved_bases.items()
                     if (e, drift) == (d, state.role == "drift")]
            by_masses += moved
            found += moved if moved and analysis.moved_masses == "in place" else by_moments[-1:]
    return tuple(found), tuple(scaling), tuple(dynamic), tuple(by_moments), tuple(by_masses)


def _torsion_alone(
    solver: Solver, sets: Sequence[StaticSet]
) -> dict[tuple[Direction, str], Floats]:
    """Displacement and loads (N, 2) of the accidental torsion of sets without their forces, by
    direction and limit state."""
    if not sets:
        return {}
    loads = np.column_stack([solver.model.loads(None, torques=one.accidental) for one in sets])
    moved = solver.solve(loads)
    return {(one.direction, one.state.key): np.column_stack([moved[:, k], loads[:, k]])
            for k, one in enumerate(sets)}


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


def rules_in_use(
    rules: ModalRules, directional: tuple[DirectionalCombination, str]
) -> ModalRules:
    """The rules, with the directional combination that holds for the irregularities found."""
    return replace(rules, directional_combination=directional[0],
                   directional_clause=directional[1])
