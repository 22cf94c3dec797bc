"""UBC 1997, 1629.5: irregularities and what follows from them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.finding import Finding, Severity
from undatum.standards import irregular
from undatum.standards.answers import (
    Direction,
    RegularityAnswer,
    ShapeFacts,
    TorsionAnswer,
)
from undatum.standards.ubc97.system import SystemInput
from undatum.units import factor

_FOOT = factor("ft", "length")
LIMITS = irregular.Limits(
    elevation="1629.5.3, Table 16-L", plan="1629.5.3, Table 16-M", soft=(0.7, 0.8),
    extreme_soft=None, weight=1.5, extent=1.3, weak=0.8, extreme_weak=0.65,
    names={"V1a": "vertical type 1", "V5a": "vertical type 5", "V5b": "vertical type 5, below 65 %",
           **{f"H{i}": f"plan type {i}" for i in range(1, 6)}},
)


def judge(
    shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
) -> RegularityAnswer:
    """Types of Tables 16-L and 16-M found, and a finding for each that is judged."""
    kinds, unjudged, findings = irregular.judge(shape, LIMITS, irregular.drift_exempt(shape))
    kinds |= {"H1" for t in torsion.values() if t.kind}
    if "V5b" in kinds and (len(shape.levels) > 2 or shape.heights[0] > 30 * _FOOT):
        findings.append(Finding(
            "height with a weak story", "whole structure", Severity.EXCEEDED,
            "With a story below 65 % of the strength above only two stories or 30 ft are "
            "permitted, unless it is strong enough for the forces with overstrength.", "1629.9.1",
            "Strengthen the story."))
    if kinds & {"H4", "V4"}:
        findings.append(Finding(
            "elements under discontinuous systems", "whole structure", Severity.WARNING,
            "Columns that carry discontinuous walls or frames take the special combinations.",
            "1630.8.2", "Use the special rows of the load combinations for them."))
    return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)), tuple(findings))


def held_against(
    asked: Mapping[Direction, SystemInput], types: Sequence[str]
) -> tuple[Finding, ...]:
    """A finding where the project calls a structure regular and a type was found."""
    stated = [d for d, given in asked.items() if given.regular]
    if not stated or not types:
        return ()
    names = ", ".join(LIMITS.name(k) for k in types)
    return (Finding(
        "regularity", f"direction {', '.join(stated)}", Severity.EXCEEDED,
        f"The project states regular = true, but there is: {names}.", "1629.5.3",
        "Set regular to false; it decides on the procedure and on the scaling of forces."),)
