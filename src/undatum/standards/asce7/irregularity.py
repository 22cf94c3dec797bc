"""ASCE 7, 12.3.2 and 12.6: structural irregularities and the permitted procedures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.finding import Finding, Severity
from undatum.standards.answers import (
    DIRECTIONS,
    BaseShearAnswer,
    Direction,
    ShapeFacts,
    SiteAnswer,
    StructureFacts,
    TorsionAnswer,
)
from undatum.standards.asce7.facts import Edition
from undatum.table import number_text
from undatum.units import factor

_TABLE = {"V": "12.3.2.2, Table 12.3-2", "H": "12.3.2.1, Table 12.3-1"}


def judge(
    site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer],
    edition: Edition,
) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
    """Types found (H1a, H1b, H2, V1a, V1b, V2) and a finding for each type that is judged.

    The other types need more than this description holds; the last finding names them.
    """
    kinds = {f"H{a.kind}" for a in torsion.values() if a.kind}
    findings: list[Finding] = []
    if edition.key == "22":
        return tuple(sorted(kinds)), (Finding(
            "irregularities", "whole structure", Severity.NOTE,
            "Of the irregularities of the 2022 edition only the torsional one is judged.",
            "12.3.2", "Judge the others by hand."),)
    exempt = _drift_exempt(site, shape)
    for axis, d in enumerate(DIRECTIONS):
        kind, finding = _soft_story(shape, axis, d, exempt, site)
        kinds |= {kind} if kind else set()
        findings.append(finding)
    kind, finding = _weight(shape, exempt)
    kinds |= {kind} if kind else set()
    findings.append(finding)
    kind, finding = _reentrant(shape)
    kinds |= {kind} if kind else set()
    findings.append(finding)
    findings.append(Finding(
        "irregularities not judged", "whole structure", Severity.NOTE,
        "Horizontal types 3, 4, 5 and vertical types 3, 4, 5a, 5b need the diaphragms, the systems "
        "and the strengths, which this description does not hold.", "12.3.2",
        "Judge them by hand."))
    return tuple(sorted(kinds)), tuple(findings)


def _drift_exempt(site: SiteAnswer, shape: ShapeFacts) -> str:
    """Why vertical types 1a, 1b and 2 need not be considered, or an empty text (12.3.2.2)."""
    n = len(shape.levels)
    if n == 1 or (n == 2 and site.category in "BCD"):
        return f"{'one' if n == 1 else 'two'}-story building"
    # Top down; the ratios of the top two stories need not be looked at.
    ratios = shape.drift_ratios[:, 1:] / shape.drift_ratios[:, :-1]
    if np.all(ratios[:, 1:] <= 1.3):
        return "no story drift ratio is more than 1.3 times that of the story above"
    return ""


def _soft_story(
    shape: ShapeFacts, axis: int, direction: Direction, exempt: str, site: SiteAnswer
) -> tuple[str, Finding]:
    k = shape.stiffness[axis]
    worst, where, kind = np.inf, 0, ""
    for i in range(1, k.size):
        one = k[i] / k[i - 1]
        three = k[i] / k[i - 3 : i].mean() if i >= 3 else np.inf
        if min(one / 0.7, three / 0.8) < worst:
            worst, where = min(one / 0.7, three / 0.8), i
            kind = "V1b" if one < 0.6 or three < 0.7 else "V1a" if worst < 1 else ""
    place = f"direction {direction}, story {shape.levels[where]}"
    if k.size == 1 or not kind or exempt:
        text = f"No soft story: the least stiffness is {worst:.2f} times the threshold."
        if exempt:
            text = f"Not considered: {exempt}."
        return "", Finding("soft story", place, Severity.OK, text, _TABLE["V"])
    banned = kind == "V1b" and site.category in "EF"
    name = "extreme soft story" if kind == "V1b" else "soft story"
    return kind, Finding(
        "soft story", place, Severity.EXCEEDED if banned else Severity.WARNING,
        f"{name.capitalize()} (vertical type {kind[1:]}): stiffness is {worst:.2f} times the "
        "threshold of type 1a." + (f" Not permitted in category {site.category} (12.3.3.1)."
                                   if banned else ""),
        _TABLE["V"], "Stiffen this story, or soften those above.", 1.0, float(worst))


def _weight(shape: ShapeFacts, exempt: str) -> tuple[str, Finding]:
    w = shape.weights
    pairs = [(i, j) for i in range(w.size) for j in (i - 1, i + 1) if 0 <= j < w.size
             and w[j] > 0 and not (j == 0 and w[0] < w[i])]  # a lighter roof is not considered
    worst = max(pairs, key=lambda p: w[p[0]] / w[p[1]], default=None)
    if worst is None:
        return "", Finding("weight irregularity", "whole structure", Severity.OK, "One level.",
                           _TABLE["V"])
    ratio = float(w[worst[0]] / w[worst[1]])
    place = f"level {shape.levels[worst[0]]}"
    text = f"Weight is {ratio:.2f} times that of {shape.levels[worst[1]]}"
    if ratio <= 1.5 or exempt:
        text += f"; not considered: {exempt}." if ratio > 1.5 else ", not above 1.5."
        return "", Finding("weight irregularity", place, Severity.OK, text, _TABLE["V"], "", ratio,
                           1.5)
    return "V2", Finding("weight irregularity", place, Severity.WARNING,
                         f"{text}: vertical type 2.", _TABLE["V"], "", ratio, 1.5)


def _reentrant(shape: ShapeFacts) -> tuple[str, Finding]:
    if not shape.corners:
        return "", Finding("re-entrant corner", "whole structure", Severity.OK,
                           "No floor has a re-entrant corner.", _TABLE["H"])
    worst = max(shape.corners, key=lambda c: min(c.along_x, c.along_y))
    least = min(worst.along_x, worst.along_y)
    text = (f"Projections beyond the corner are {worst.along_x:.0%} of the plan along X and "
            f"{worst.along_y:.0%} along Y")
    irregular = least > 0.15
    return "H2" if irregular else "", Finding(
        "re-entrant corner", f"level {worst.level}",
        Severity.WARNING if irregular else Severity.OK,
        f"{text}{': horizontal type 2.' if irregular else ', not both above 15 %.'}", _TABLE["H"],
        "In categories D to F connections of diaphragms and collectors take 25 % more (12.3.3.4)."
        if irregular else "", least, 0.15)


def permitted(
    site: SiteAnswer, shears: Sequence[BaseShearAnswer], structure: StructureFacts,
    kinds: Sequence[str], edition: Edition,
) -> tuple[Finding, ...]:
    """Whether the equivalent lateral force procedure is permitted (Table 12.6-1)."""
    clause = "12.6, Table 12.6-1"
    if edition.key == "22":
        return (Finding("permitted procedure", "whole structure", Severity.NOTE,
                        "Which procedures the 2022 edition permits is not judged.", "12.6"),)
    if site.category in "ABC":
        return (Finding("permitted procedure", "whole structure", Severity.OK,
                        f"Category {site.category}: every procedure is permitted.", clause),)
    feet = structure.height / factor("ft", "length")
    limit = 3.5 * site.parameters["T_S"]
    short = all(s.period < limit for s in shears)
    mild = not set(kinds) - {"H2"}  # of the types judged here only re-entrant corners are mild
    low = site.risk in ("I", "II") and structure.stories <= 2
    if edition.key == "05":
        allowed = low or (short and mild)
        rule = f"T {'<' if short else 'not <'} 3.5 T_S = {limit:.2f} s"
    else:
        allowed = low or (not kinds and (feet <= 160 or short)) or (mild and feet <= 160)
        rule = f"height {number_text(feet)} ft against 160 ft, T {'<' if short else 'not <'} " \
               f"3.5 T_S = {limit:.2f} s"
    found = f"irregularities found: {', '.join(kinds)}" if kinds else "no irregularity found"
    return (Finding(
        "permitted procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
        f"Category {site.category}, {rule}, {found}: the equivalent lateral force procedure is "
        + ("permitted." if allowed else "not permitted as the only analysis; the modal analysis "
           "governs (set drift.judged_by = \"spectrum\")."), clause),)


