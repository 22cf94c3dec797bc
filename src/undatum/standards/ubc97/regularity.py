"""UBC 1997, 1629.5: irregularities and what follows from them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.finding import Finding, Severity
from undatum.standards import irregular
from undatum.standards.answers import RegularityAnswer, TorsionAnswer
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import Direction
from undatum.standards.ubc97.facts import system_rows
from undatum.standards.ubc97.job import UbcJob
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


def near_source_conditions(job: UbcJob, regularity: RegularityAnswer) -> tuple[Finding, ...]:
    """Whether N_a may be held to 1.1 (1629.4.2), where the project says so."""
    if not job.given.near_source_cap or job.site.category != "4":
        return ()
    rows = {d: [system_rows()[name] for name in (given.row, *given.with_rows)]
            for d, given in job.asked.items()}
    barred = [kind for kind in ("V1a", "V1b", "V4", "V5a", "V5b", "H1", "H4")
              if kind in regularity.found]
    open_ = [kind for kind in ("V4", "V5") if kind in regularity.unjudged]
    failed = [text for text, fails in (
        ("soil SE", job.site.site_class == "SE"),
        ("rho is above 1.0", any(s.redundancy > 1.0 + 1e-9 for s in job.systems.values())),
        ("a moment frame is not special",
         any(row.group == "moment frame" and not row.special for own in rows.values()
             for row in own) and job.facts.stories > 1),
        ("there is " + ", ".join(LIMITS.name(kind) for kind in barred), bool(barred))) if fails]
    if failed:
        return (Finding(
            "cap on the near-source factor", "site", Severity.EXCEEDED,
            f"N_a is held to 1.1, but {'; '.join(failed)}.", "1629.4.2",
            "Remove near_source_cap."),)
    left = "" if not open_ else \
        f" Not checked: {', '.join(LIMITS.name(kind) for kind in open_)}."
    return (Finding(
        "cap on the near-source factor", "site", Severity.NOTE if open_ else Severity.OK,
        "N_a is limited to 1.1: no condition that is checked fails. The column rules of the steel "
        f"chapter are not in the input.{left}", "1629.4.2",
        "Check the rest by hand." if open_ else ""),)
