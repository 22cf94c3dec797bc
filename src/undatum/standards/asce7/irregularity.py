"""ASCE 7, 12.3: structural irregularities and their consequences."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.finding import Finding, Severity
from undatum.standards import irregular
from undatum.standards.answers import RegularityAnswer, SiteAnswer, TorsionAnswer
from undatum.standards.asce7.facts import Edition
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import Direction
from undatum.units import factor

_FOOT = factor("ft", "length")
LIMITS = irregular.Limits(
    elevation="12.3.2.2, Table 12.3-2", plan="12.3.2.1, Table 12.3-1",
    soft=(0.7, 0.8), extreme_soft=(0.6, 0.7), weight=1.5, extent=1.3, weak=0.8, extreme_weak=0.65,
)


#: Marks a torsion ratio above 1.4 where the edition has one type of torsional irregularity.
EXTREME = "H1, ratio above 1.4"


def judge(
    site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer],
    edition: Edition,
) -> RegularityAnswer:
    """Types found (H1a ... H5, V1a ... V5b) and a finding for each type that is judged.

    What neither the description nor the engineer says is named in a finding of its own.
    """
    kinds = {f"H{a.kind}" for a in torsion.values() if a.kind}
    if edition.rule("one_torsion_type") and any(a.extreme for a in torsion.values()):
        kinds.add(EXTREME)
    if not edition.rule("irregularities_known"):
        return RegularityAnswer(tuple(sorted(kinds)), (), (Finding(
            "irregularities", "whole structure", Severity.NOTE,
            "Of the irregularities of the 2022 edition only the torsional one is judged: its "
            "tables were recast and their numbers are not certain.",
            "12.3.2", "Judge the others by hand."),))
    exempt = irregular.drift_exempt(shape)
    if len(shape.levels) == 2 and site.category in "BCD":
        exempt = "two-story building"
    c = site.category
    barred = {kind: f"Not permitted in category {c} (12.3.3.1)."
              for kind, where in (("V1b", "EF"), ("V5a", "EF"), ("V5b", "DEF")) if c in where}
    more, unjudged, findings = irregular.judge(shape, LIMITS, exempt, barred)
    kinds |= more
    return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)),
                            (*findings, *_consequences(kinds, shape, site)))


def _consequences(kinds: set[str], shape: ShapeFacts, site: SiteAnswer) -> tuple[Finding, ...]:
    """What the types found ask for besides the analysis (12.3.3.2 to 12.3.3.4, 12.5.3)."""
    found = []
    if "V5b" in kinds and site.category in "BC" and (
            len(shape.levels) > 2 or shape.heights[0] > 30 * _FOOT):
        found.append(Finding(
            "height with a weak story", "whole structure", Severity.WARNING,
            "With an extreme weak story only two stories or 30 ft are permitted, unless the story "
            "is strong enough for the forces with overstrength.", "12.3.3.2"))
    if kinds & {"H4", "V4"} and site.category in "BCDEF":
        found.append(Finding(
            "elements under discontinuous lines", "whole structure", Severity.WARNING,
            "Columns, beams and slabs that carry discontinuous walls or frames take the "
            "combinations with overstrength.", "12.3.3.3",
            "Use the overstrength rows of the load combinations for them."))
    if kinds & {"H1a", "H1b", "H2", "H3", "H4", "V4"} and site.category in "DEF":
        found.append(Finding(
            "connections of diaphragms", "whole structure", Severity.NOTE,
            "Diaphragm forces take 25 % more for connections to vertical elements and collectors, "
            "and for collectors, unless overstrength is used.", "12.3.3.4"))
    if "H5" in kinds and site.category in "CDEF":
        found.append(Finding(
            "orthogonal directions", "whole structure", Severity.NOTE,
            "With a nonparallel system the directions are combined, 100 % of one with 30 % of the "
            "other.", "12.5.3"))
    return tuple(found)
