"""Questions about the input, and findings on what no other room judges."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from undatum.analysis.modes import Modes
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.project.schema import Project
from undatum.stages.odd_members import odd_members
from undatum.stages.outcomes import Scaling
from undatum.stages.questions import (
    astray,
    counted_twice,
    ending_in_the_air,
    followed,
    implausible,
    meeting_walls,
    walls_without_weight,
)
from undatum.stages.shaking import Shaking
from undatum.stages.to_static_forces import Statics
from undatum.standards.answers import (
    BaseShearAnswer,
)
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from undatum.ties import largest, least
from undatum.units import UnitSystem


def ask_questions(project: Project, units: UnitSystem) -> tuple[Finding, ...]:
    """Values that are possible but not plausible, and what lies off its floor."""
    return (*implausible(project, units), *astray(project.building, units),
            *counted_twice(project.building), *followed(project.building, units),
            *ending_in_the_air(project.building), *meeting_walls(project.building),
            *walls_without_weight(project.building, units),
            *odd_members(project.building, units))


def shears_for_strength(
    statics: Statics, strength: LimitState
) -> Mapping[Direction, BaseShearAnswer]:
    """The static base shears for strength by direction."""
    return {d: s.shear for (d, _), s in statics.items() if s.shear.state == strength}


def beyond_the_table(shaking: Shaking, modes: Modes) -> list[Finding]:
    """Modes in use whose periods lie where the ordinates of a table end and a rule goes on."""
    found: dict[str, Finding] = {}
    periods, ratios = modes.periods[: modes.kept], modes.mass_ratios[: modes.kept]
    for d, one in shaking.horizontal.items():
        low, high = one.given_between
        axis = DIRECTIONS.index(d)
        for side, out in (("before", periods < low), ("beyond", periods > high)):
            if not out.any():
                continue
            share = float(ratios[out, axis].sum())
            text = f"{one.name} gives ordinates from {low:.3g} to {high:.3g} s; " \
                f"{int(out.sum())} of {modes.kept} modes in use, with {share:.1%} of the mass " \
                f"in {d}, have {'shorter' if side == 'before' else 'longer'} periods: there " \
                f"the rule spectrum.{side} holds."
            found.setdefault(text, Finding(
                "ordinates where none are given", f"spectrum, direction {d}",
                Severity.WARNING if share > 0.05 else Severity.NOTE, text, "",
                "Give ordinates for these periods." if share > 0.05 else ""))
    return list(found.values())


#: A factor on modal response beyond which, or below its inverse, something is likely wrong.
FAR_SCALE = 4.0


def far_scales(scaling: tuple[Scaling, ...]) -> list[Finding]:
    return [Finding(
        "scale factor", f"direction {one.direction}, {one.state.key}", Severity.WARNING,
        f"The spectrum analysis is scaled by {one.answer.factor:.3g} to reach the static base "
        "shear: the two are unlikely to describe the same building.", one.answer.clause,
        "Is the unit of the spectrum right, and does it belong to this site?",
        one.answer.factor, FAR_SCALE)
        for one in scaling if not 1 / FAR_SCALE <= one.answer.factor <= FAR_SCALE]


#: Ratio of the stiffest to the softest story of a line beyond which digits are lost.
STIFF = 1e8


def stiffness_ratio(model: Model) -> tuple[Finding, ...]:
    """The stiffest and the softest story where they are so far apart that digits are lost."""
    each = [(k[i], line.name, model.levels[line.levels[i]])
            for line in model.lines if line.shear is not None
            for k in [np.diagonal(line.shear)] if (k > 0).any()
            for i in (least(np.where(k > 0, k, np.inf)), largest(k))]
    if not each:
        return ()
    (low, soft, at), (high, stiff, there) = min(each), max(each)
    if high < STIFF * low:
        return ()
    return (Finding(
        "stiffness ratio", f"line {stiff}, level {there}", Severity.WARNING,
        f"Its stiffness is {high / low:.1e} times that of line {soft} at level {at}: about "
        f"{np.log10(high / low):.0f} of 16 digits are lost.", "",
        "A stiffness a thousand times that of its neighbors is effectively rigid."),)


def unchecked_gaps(left: int, title: str) -> tuple[Finding, ...]:
    """Gaps of the project that the standard has no rule for."""
    if not left:
        return ()
    return (Finding(
        "separation", "whole structure", Severity.WARNING,
        f"{title} has no rule for separation here: {left} gap{'s were' if left > 1 else ' was'} "
        "not checked.", "", "Check them by another rule."),)
