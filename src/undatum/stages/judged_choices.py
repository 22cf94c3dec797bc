"""Findings on how the analysis was done: choices and forms that a reader must know of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.analysis.combine import combiner, correlation
from undatum.analysis.lateral import StaticForces
from undatum.analysis.modes import CLOSE, Modes
from undatum.analysis.response import SpectrumSet
from undatum.analysis.torsion import TorsionResult
from undatum.building.rules import KeptShares
from undatum.finding import Finding, Severity, several
from undatum.layout.separate import separate_structures
from undatum.layout.weight import Weights
from undatum.layout.whole import Building
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.project.schema import Irregularities
from undatum.project.ways import Analysis
from undatum.stages.outcomes import SpectrumResult
from undatum.standards.answers import Eccentricity, ModalRules, ProcedureAnswer
from undatum.standards.terms import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    ModalCombination,
)


def other_for_drift(
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
        f"Stiffness factors for drift differ: periods are {', '.join(said)}, for strength and for "
        "drift. Irregularity, torsion and second-order effects on forces are those of the model "
        "for strength."
        + (f" {'; '.join(reasons)}." if reasons else ""), "kept_for_drift"),)


def vertical_motion(
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
        f"{reduced}; P-Delta factors are not applied to it, and drift does not include it.",
        "analysis.vertical_spectrum"),)


def plane_building(model: Model) -> tuple[Finding, ...]:
    """What a plane building leaves out."""
    if not model.plane:
        return ()
    return (Finding(
        "plane building", "whole structure", Severity.NOTE,
        f"It moves in {model.directions[0]} only and does not rotate: the other direction, "
        "torsion, accidental eccentricity and regularity in plan are not checked, and directions "
        "are not combined.", "building.plane",
        "Check them by hand, or describe the whole building."),)


def open_floors(model: Model, flexible: Sequence[str]) -> tuple[Finding, ...]:
    """Floors that are not rigid as a whole, and what that leaves out."""
    if not model.open_floors:
        return ()
    found = []
    bare = [name for one in model.open_floors
            if not one.deforms and (name := model.levels[one.level]) not in flexible]
    if bare:
        every = bool(model.is_open[model.above_base].all())
        found.append(Finding(
            "floors not rigid", f"level{'s' if len(bare) > 1 else ''} {', '.join(bare)}",
            Severity.NOTE,
            "Nodes carry their tributary mass there, and drift is checked on every column line. "
            + ("Torsion, torsional irregularity and accidental eccentricity are not checked: no "
               "floor rotates as a "
               "unit." if every else "Torsional irregularity is checked for the other floors only; "
                                     "accidental torsion acts on the nodes in proportion to their "
                                     "mass."),
            "building.diaphragms", "Check the forces within these floors, and their ties."))
    deforming = [model.levels[one.level] for one in model.open_floors if one.deforms]
    if deforming:
        found.append(Finding(
            "floors that deform", f"level{'s' if len(deforming) > 1 else ''} "
            + ", ".join(deforming), Severity.NOTE,
            "Their mass lies where their loads are. The center and the rotation of such a floor "
            "are means over its mass; accidental torsion, where required, acts as forces in "
            "proportion to mass and distance from the center; drift is checked on the lines of "
            "columns and walls. Slabs have no bending stiffness, and floors are joined to walls "
            "along their full length.", "building.diaphragms"))
    return tuple(found)


def free_joints(model: Model) -> tuple[Finding, ...]:
    """Joints that nothing keeps from turning."""
    if model.framed is None or not model.framed.turning_freely.size:
        return ()
    frame = model.framed.frame
    nodes = model.framed.turning_freely
    names = list(dict.fromkeys(
        frame.members[m].name for m in frame.member[np.isin(frame.ends, nodes).any(axis=1)]))
    return (Finding(
        "joints that turn freely", several(names), Severity.NOTE,
        f"All members that end at {len(nodes)} joint{'s' if len(nodes) > 1 else ''} of these are "
        "hinged there. No force depends on the rotation of these joints, so it is held.", "",
        "A pinned base under a hinged column needs only one of the two hinges."),)


def against_the_standard(
    analysis: Analysis, rules: ModalRules, twist: Mapping[Direction, TorsionResult],
    standard_way: tuple[DirectionalCombination, str], usual: Mapping[Direction, Eccentricity],
) -> tuple[Finding, ...]:
    """Every choice of analysis by which less is done than the standard asks for, alike loud.

    ``standard_way`` is how the standard takes directions together, ``usual`` its eccentricities.
    """
    found: list[tuple[str, str, str, str]] = []
    way, clause = standard_way
    if analysis.directional_combination == "independent" and way != "independent":
        found.append(("directional combination", "Directions are not combined by choice of the "
                                                 "project; the standard combines both "
                                                 f"({way}).", clause,
                      "analysis.directional_combination"))
    target = analysis.mass_target
    if target is not None and target < rules.mass_target * (1 - 1e-9):
        found.append(("mass carried by the modes", f"The target is {target:.0%} of the mass by "
                      f"choice of the project, below the {rules.mass_target:.0%} of the standard.",
                      rules.clause, "analysis.mass_target"))
    asked = [d for d, one in twist.items() if one.answer.include_accidental]
    if analysis.accidental_torsion == "none" and asked:
        found.append(("accidental torsion", f"It is left out: {analysis.torsion_reason}. The "
                                            "standard requires it in "
                                            f"{' and '.join(asked)}.", usual[asked[0]].clause,
                      "analysis.accidental_torsion"))
    own = analysis.eccentricity
    if own is not None and asked and own < min(usual[d].share for d in asked) * (1 - 1e-9):
        found.append(("accidental torsion", f"The eccentricity is {own:.3g} of the dimension "
                      "across by choice of the project, below the "
                      f"{min(usual[d].share for d in asked):.3g} of the standard: "
                      f"{analysis.torsion_reason}.", usual[asked[0]].clause,
                      "analysis.eccentricity"))
    if analysis.vertical_spectrum and analysis.vertical_divisor > rules.vertical_divisor * (
            1 + 1e-9):
        found.append(("vertical ground motion", "Its spectrum is divided by "
                                                f"{analysis.vertical_divisor:g} by choice of the "
                                                "project; without justification the standard "
                                                f"allows up to {rules.vertical_divisor:g}.",
                      rules.vertical_clause,
                      "analysis.vertical_divisor"))
    return tuple(Finding(check, "whole structure", Severity.WARNING, text, clause,
                         f"Remove {key}, or justify the lower value.")
                 for check, text, clause, key in found)


def chosen_ways(
    analysis: Analysis, stated: Irregularities, modes: Modes, rules: ModalRules, model: Model,
    twist: Mapping[Direction, TorsionResult],
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
    found += _torsion(analysis, twist)
    if analysis.duration is not None:
        found.append(Finding(
            "combination of modes", "whole structure", Severity.NOTE,
            f"By the double sum for a strong motion of {analysis.duration:g} s, by choice of the "
            "project.", "analysis.modal_combination"))
    if analysis.rigid_between is not None:
        low, high = analysis.rigid_between
        found.append(Finding(
            "rigid and periodic parts", "whole structure", Severity.NOTE,
            f"From {low:g} Hz to {high:g} Hz the response of a mode turns from periodic to rigid, "
            "by the logarithm of the frequency; rigid parts are added with their signs.",
            "analysis.rigid_between"))
    if analysis.accidental_torsion == "always":
        found.append(Finding(
            "accidental torsion", "whole structure", Severity.NOTE if twist else Severity.WARNING,
            "Forces and drift include it by choice of the project, whether or not the standard "
            "requires it." if twist else "It is asked for and not applied: no floor rotates as a "
            "unit.", "analysis.accidental_torsion",
            "" if twist else "Give the floors their stiffness, or remove accidental_torsion."))
    if stated.stated:
        said = ", ".join(f"{k.replace('_', ' ')}: {'yes' if v else 'no'}"
                         for k, v in stated.stated.items())
        found.append(Finding(
            "irregularities stated", "whole structure",
            Severity.OK if stated.reason else Severity.NOTE,
            f"By the engineer: {said}. {stated.reason or 'No reason is given.'}",
            "irregularities", "" if stated.reason else "Give irregularities.reason."))
    return tuple(found)


def not_open(judged_by: str, procedure: ProcedureAnswer) -> tuple[Finding, ...]:
    """A choice of the static drift where the static procedure is not permitted."""
    barred = [d for d, open_ in procedure.static.items() if not open_]
    if judged_by != "static" or not barred:
        return ()
    return (Finding(
        "drift judged by the static analysis", f"direction {', '.join(barred)}", Severity.WARNING,
        "The static procedure is not permitted here, so drift is checked by both analyses.",
        "", "Remove drift.judged_by."),)


def close_modes(
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
        f"Their correlation is {rho[i, j]:.2f} at 5 % damping, which SRSS neglects. With CQC the "
        "base shear would be " + " and ".join(
            f"{cqc / r.base_shear:.3f} times as large in {r.direction}"
            for r, cqc in parts if r.base_shear) + ".",
        "", 'Use modal_combination = "CQC" unless the standard requires SRSS.'),)


def _torsion(
    analysis: Analysis, twist: Mapping[Direction, TorsionResult]
) -> list[Finding]:
    """Accidental torsion left out, or of another eccentricity."""
    found = []
    if analysis.accidental_torsion == "none" and not any(
            one.answer.include_accidental for one in twist.values()):
        found.append(Finding(
            "accidental torsion", "whole structure", Severity.NOTE,
            f"It is left out: {analysis.torsion_reason}.", "analysis.accidental_torsion"))
    if analysis.eccentricity is not None:
        found.append(Finding(
            "accidental torsion", "whole structure", Severity.NOTE,
            f"The eccentricity is {analysis.eccentricity:.3g} of the dimension across by choice of "
            f"the project, where the standard requires any: {analysis.torsion_reason}. "
            "Irregularity is checked with that of the standard.", "analysis.eccentricity"))
    return found


def moved_masses(
    analysis: Analysis, by_masses: Sequence[SpectrumSet]
) -> tuple[Finding, ...]:
    """Accidental torsion of the spectrum analysis by moved masses, in use or to compare."""
    if analysis.moved_masses == "no":
        return ()
    along = " and ".join(dict.fromkeys(s.direction for s in by_masses))
    said = "The spectrum analysis has no accidental torsion, so no masses are moved." \
        if not along else \
        (f"In the spectrum analysis in {along} it is modeled by masses moved both ways, each with "
         "its own modes, without amplification; table accidental_torsion lists the static moments "
         "beside it.") if analysis.moved_masses == "in place" else \
        (f"Static moments are used. Table accidental_torsion compares them, in {along}, with "
         "masses moved both ways, each with its own modes, without amplification.")
    return (Finding("accidental torsion", "whole structure", Severity.NOTE, said,
                    "analysis.moved_masses"),)


def separate(
    building: Building, solver: Solver, statics: Mapping[Direction, StaticForces]
) -> tuple[Finding, ...]:
    """Structures that share only the ground and are analyzed as one, with the period each has by
    itself (Rayleigh, under its part of the static forces)."""
    groups = separate_structures(building)
    if len(groups) < 2:
        return ()
    model, found = solver.model, []
    for d, static in statics.items():
        at = model.diaphragms.freedoms[:, DIRECTIONS.index(d)]
        moved = solver.solve(model.loads(d, static.forces))[at]
        periods = []
        for group in groups:
            own = list(group)
            work = float(static.forces[own] @ moved[own])
            swung = float(model.diaphragms.mass[own] @ moved[own] ** 2)
            periods.append(2 * np.pi * np.sqrt(swung / work) if work > 0 else np.nan)
        apart = not np.nanmax(periods) < 1.1 * np.nanmin(periods)
        said = "; ".join(f"{model.levels[group[0]]} and below {t:.3g} s"
                         for group, t in sorted(zip(groups, periods, strict=True),
                                                key=lambda one: model.levels[one[0][0]]))
        found.append(Finding(
            "structures apart", f"direction {d}", Severity.EXCEEDED if apart else Severity.WARNING,
            f"{len(groups)} structures share only the ground and are analyzed as one, with one "
            f"period, base shear and scale factor: T = {static.shear.period:.3g} s is used. By "
            f"themselves: {said}. " + ("None of the forces is that of either." if apart else
                                       "They are about alike."),
            "", "Describe each in a project of its own, and their gap under [[gaps]]."))
    return tuple(found)
