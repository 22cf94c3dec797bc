"""ASCE 7, 12.3: structural irregularities and their consequences."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from undatum.finding import Finding, Severity
from undatum.record import FixedDict
from undatum.standards import irregular
from undatum.standards.answers import RegularityAnswer, TorsionAnswer
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.job import AsceJob
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.units import factor

_FOOT = factor("ft", "length")
EXTREME_WEAK = 0.65  # of the strength of the story above
LIMITS = irregular.Limits(
    elevation="12.3.2.2, Table 12.3-2", plan="12.3.2.1, Table 12.3-1",
    soft=(0.7, 0.8), extreme_soft=(0.6, 0.7), weight=1.5, extent=1.3, weak=0.8,
    extreme_weak=EXTREME_WEAK,
)
#: The 2022 edition: the numbers of its types are left out, and where lists of its facts differ from
#: each other or from earlier editions, a type is judged only as far as every reading agrees.
_ANSWERS_BY_PRINT = "the printed table decides"
LIMITS_22 = replace(
    LIMITS, recess=0.20, recess_from=0.15, opening_from=0.25,
    names=FixedDict({
        "H1": "torsional irregularity", "H2": "re-entrant corner irregularity",
        "H3": "diaphragm discontinuity irregularity", "H4": "out-of-plane offset irregularity",
        "H5": "nonparallel system irregularity", "V1a": "soft story irregularity",
        "V1b": "extreme soft story irregularity", "V2": "weight irregularity",
        "V3": "vertical geometric irregularity", "V4": "in-plane discontinuity irregularity",
        "V5": "weak story irregularity", "V5a": "weak story irregularity",
        "V5b": "extreme weak story irregularity"}),
    doubted=FixedDict({
        "H2": f"up to 15 % of the plan there is none, above 20 % there is one; between, "
              f"{_ANSWERS_BY_PRINT}",
        "H3": f"openings up to 25 % of the floor are none, above 50 % are one; between, "
              f"{_ANSWERS_BY_PRINT}",
        "V1a": f"whether this still spares the check, {_ANSWERS_BY_PRINT}",
        "V2": f"an irregularity in earlier editions; whether it still is, {_ANSWERS_BY_PRINT}"}))


def limits_of(edition: Edition) -> irregular.Limits:
    return LIMITS if edition.rule("irregularities_known") else LIMITS_22


#: Marks a torsion ratio above 1.4 where the edition has one type of torsional irregularity.
EXTREME = "H1, ratio above 1.4"


def judge(
    job: AsceJob, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer],
    edition: Edition,
) -> RegularityAnswer:
    """Types found (H1a ... H5, V1a ... V5b) and a finding for each type that is judged.

    What neither the description nor the engineer says is named in a finding of its own.
    """
    site = job.site
    if site.category == "A":
        return RegularityAnswer((), (), (Finding(
            "irregularities", "whole structure", Severity.OK,
            "Category A is exempt from chapter 12, including irregularities.", "11.7"),))
    kinds = {f"H{a.kind}" for a in torsion.values() if a.kind}
    if edition.rule("one_torsion_type") and any(a.extreme for a in torsion.values()):
        kinds.add(EXTREME)
    exempt = irregular.drift_exempt(shape)
    if len(shape.levels) == 2 and site.category in "BCD":
        exempt = "two-story building"
    c = site.category
    barred = {kind: f"Not permitted in category {c} (12.3.3.1)."
              for kind, where in (("V1b", "EF"), ("V5a", "EF"), ("V5b", "DEF")) if c in where}
    more, unjudged, findings = irregular.judge(shape, limits_of(edition), exempt, barred)
    kinds |= more
    return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)),
                            (*findings, *_consequences(kinds, shape, job)))


def _weak_and_high(shape: ShapeFacts, job: AsceJob) -> Finding:
    """A building higher than an extreme weak story permits, unless it is strong enough (12.3.3.2).

    The force that counts is the design force with overstrength, by the story shear where the
    story is weak.
    """
    ratios, text = [], []
    for axis, d in enumerate(DIRECTIONS):
        if d not in job.systems or len(shape.levels) < 2:
            continue
        strength, omega = shape.strengths[axis], job.systems[d].overstrength
        weak = np.flatnonzero(strength[1:] < EXTREME_WEAK * strength[:-1] * (1 - 1e-9)) + 1
        for i in weak.tolist():
            ratios.append(float(omega * shape.shears[axis, i] / strength[i]))
            text.append(f"{ratios[-1]:.3g} of the strength of {shape.levels[i]} in {d}")
    fine = bool(ratios) and max(ratios) <= 1 + 1e-9
    return Finding(
        "height with a weak story", "whole structure",
        Severity.OK if fine else Severity.EXCEEDED if ratios else Severity.WARNING,
        "With an extreme weak story only two stories or 30 ft are permitted, unless the story "
        "resists the design force with overstrength"
        + (f": that is {', '.join(text)}." if ratios else "; its strength is not known."),
        "12.3.3.2", "" if fine else "Strengthen the weak story, or give the strengths of lines.",
        *((max(ratios), 1.0) if ratios else ()))


def _raised_height(kinds: set[str], shape: ShapeFacts, job: AsceJob) -> list[Finding]:
    """Whether a building above the table of heights has the torsion that 12.2.5.4 excludes."""
    extreme = bool(kinds & {"H1b", EXTREME})
    text = "There is an extreme torsional irregularity, with which heights are not raised." \
        if extreme else "No extreme torsional irregularity: the raised limit holds." \
        if shape.turns else "Torsion is not judged here: show that it is not extreme."
    return [Finding(
        "raised height limit", f"system {d}", Severity.EXCEEDED if extreme else
        Severity.OK if shape.turns else Severity.WARNING, text, "12.2.5.4",
        "Reduce torsion, or choose another system." if extreme else "")
        for d, one in job.systems.items() if one.beyond_height]


def _consequences(kinds: set[str], shape: ShapeFacts, job: AsceJob) -> tuple[Finding, ...]:
    """What the types found ask for besides the analysis (12.3.3.2 to 12.3.3.4, 12.5.3)."""
    found, site = [*_raised_height(kinds, shape, job)], job.site
    if "V5b" in kinds and site.category in "BC" and (
            len(shape.levels) > 2 or shape.heights[0] > 30 * _FOOT):
        found.append(_weak_and_high(shape, job))
    if kinds & {"H4", "V4"} and site.category in "BCDEF":
        found.append(Finding(
            "elements under discontinuous lines", "whole structure", Severity.WARNING,
            "Columns, beams and slabs that carry discontinuous walls or frames take the "
            "combinations with overstrength.", "12.3.3.3",
            "Use the overstrength rows of the load combinations for them."))
    if kinds & {"H1", "H1a", "H1b", "H2", "H3", "H4", "V4"} and site.category in "DEF":
        found.append(Finding(
            "connections of diaphragms", "whole structure", Severity.NOTE,
            "Diaphragm forces take 25 % more for connections to vertical elements and collectors, "
            "and for collectors, unless overstrength is used.", "12.3.3.4"))
    if "H5" in kinds and site.category in "CDEF":
        found.append(Finding(
            "orthogonal directions", "whole structure", Severity.NOTE,
            "With a nonparallel system, directions are combined: 100 % of one with 30 % of the "
            "other.", "12.5.3"))
    return tuple(found)
