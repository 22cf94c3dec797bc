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
    SystemAnswer,
    TorsionAnswer,
)
from undatum.standards.asce7.facts import Edition
from undatum.table import number_text
from undatum.units import factor

_FOOT = factor("ft", "length")
_TABLE = {"V": "12.3.2.2, Table 12.3-2", "H": "12.3.2.1, Table 12.3-1"}


def judge(
    site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer],
    edition: Edition,
) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
    """Types found (H1a ... H5, V1a ... V5b) and a finding for each type that is judged.

    What neither the description nor the engineer says is named in the last finding.
    """
    kinds = {f"H{a.kind}" for a in torsion.values() if a.kind}
    if edition.key == "22":
        return tuple(sorted(kinds)), (Finding(
            "irregularities", "whole structure", Severity.NOTE,
            "Of the irregularities of the 2022 edition only the torsional one is judged: its "
            "tables were recast and their numbers are not certain.",
            "12.3.2", "Judge the others by hand."),)
    exempt = _drift_exempt(site, shape)
    found = [
        *(_soft_story(shape, axis, d, exempt, site) for axis, d in enumerate(DIRECTIONS)),
        _weight(shape, exempt),
        *(_geometry(shape, axis, d) for axis, d in enumerate(DIRECTIONS)),
        *(_weak_story(shape, axis, d, site) for axis, d in enumerate(DIRECTIONS)),
        _reentrant(shape),
        _diaphragm(shape),
        _offset(shape, site),
        _in_plane(shape),
        _skew(shape, site),
    ]
    kinds |= {kind for kind, _ in found if kind}
    open_types = [name for name, finding in found if finding is None]
    findings = [f for _, f in found if f is not None]
    kinds -= set(open_types)
    if open_types:
        findings.append(Finding(
            "irregularities not judged", "whole structure", Severity.NOTE,
            f"Not judged: {', '.join(_NAMES[name] for name in dict.fromkeys(open_types))}. The "
            "description does not hold what they need.", "12.3.2",
            "Give the strengths and lengths of the lines, state the others in [irregularities], or "
            "judge them by hand."))
    return tuple(sorted(kinds)), (*findings, *_consequences(kinds, site))


_NAMES = {
    "V3": "vertical geometry (vertical type 3)", "V5": "weak story (vertical types 5a, 5b)",
    "H3": "abrupt change of diaphragm stiffness (horizontal type 3)",
    "H4": "out-of-plane offset (horizontal type 4)",
    "V4": "in-plane discontinuity (vertical type 4)",
}
Judged = tuple[str, Finding | None]


def _consequences(kinds: set[str], site: SiteAnswer) -> tuple[Finding, ...]:
    """What the types found ask for besides the analysis (12.3.3.3, 12.3.3.4)."""
    found = []
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
    return tuple(found)


def _geometry(shape: ShapeFacts, axis: int, direction: Direction) -> Judged:
    """Vertical type 3: extent of the lateral system against the adjacent stories."""
    e = shape.extents[axis]
    if not np.isfinite(e).all():
        return "V3", None
    pairs = [(i, j) for i in range(e.size) for j in (i - 1, i + 1) if 0 <= j < e.size]
    if not pairs:
        return "", _one_story("vertical geometry", direction)
    i, j = max(pairs, key=lambda p: e[p[0]] / e[p[1]])
    ratio = float(e[i] / e[j])
    irregular = ratio > 1.3
    return "V3" if irregular else "", Finding(
        "vertical geometry", f"direction {direction}, story {shape.levels[i]}",
        Severity.WARNING if irregular else Severity.OK,
        f"The lateral lines extend over {ratio:.2f} times the length of story {shape.levels[j]}"
        + (": vertical type 3." if irregular else ", not above 1.3."), _TABLE["V"], "", ratio, 1.3)


def _one_story(check: str, direction: Direction) -> Finding:
    return Finding(check, f"direction {direction}", Severity.OK, "One story.", _TABLE["V"])


def _weak_story(shape: ShapeFacts, axis: int, direction: Direction, site: SiteAnswer) -> Judged:
    """Vertical types 5a and 5b: story strength against the story above."""
    strength = shape.strengths[axis]
    if not np.isfinite(strength).all():
        return "V5", None
    if strength.size == 1:
        return "", _one_story("weak story", direction)
    ratios = strength[1:] / strength[:-1]
    i = int(np.argmin(ratios)) + 1
    ratio = float(ratios[i - 1])
    kind = "V5b" if ratio < 0.65 else "V5a" if ratio < 0.8 else ""
    place = f"direction {direction}, story {shape.levels[i]}"
    text = f"Strength is {ratio:.2f} times that of the story above"
    if not kind:
        return "", Finding("weak story", place, Severity.OK, f"{text}, not below 0.8.",
                           _TABLE["V"], "", 0.8, ratio)
    banned = site.category in ("DEF" if kind == "V5b" else "EF")
    tall = kind == "V5b" and (len(shape.levels) > 2 or shape.heights[0] > 30 * _FOOT)
    follow = f" Not permitted in category {site.category} (12.3.3.1)." if banned else (
        " Only up to two stories or 30 ft unless the story is strong enough for the forces with "
        "overstrength (12.3.3.2)." if tall else "")
    return kind, Finding(
        "weak story", place,
        Severity.EXCEEDED if banned else Severity.WARNING,
        f"{text}: vertical type {kind[1:]}.{follow}", _TABLE["V"], "Strengthen this story.",
        0.8, ratio)


def _diaphragm(shape: ShapeFacts) -> Judged:
    """Horizontal type 3: openings over half of the floor, or as the engineer states."""
    i = int(np.argmax(shape.openings))
    share, stated = float(shape.openings[i]), shape.stated.get("diaphragm_discontinuity")
    place = f"level {shape.levels[i]}"
    if share > 0.5 or stated:
        why = f"Openings take {share:.0%} of the floor" if share > 0.5 else "Stated in the project"
        return "H3", Finding("diaphragm discontinuity", place, Severity.WARNING,
                             f"{why}: horizontal type 3.", _TABLE["H"], "", share, 0.5)
    if stated is None:
        return "H3", None
    return "", Finding("diaphragm discontinuity", place, Severity.OK,
                       f"Openings take {share:.0%} of the floor at most; no abrupt change of "
                       "stiffness is stated.", _TABLE["H"], "", share, 0.5)


def _offset(shape: ShapeFacts, site: SiteAnswer) -> Judged:
    """Horizontal type 4: lines that do not go on to the base in their plane."""
    stated = shape.stated.get("out_of_plane_offset")
    if shape.standing or stated:
        why = f"Nothing goes on below {', '.join(shape.standing)} in the same plane" \
            if shape.standing else "Stated in the project"
        return "H4", Finding("out-of-plane offset", "whole structure", Severity.WARNING,
                             f"{why}: horizontal type 4.", _TABLE["H"])
    return "", Finding("out-of-plane offset", "whole structure", Severity.OK,
                       "Every lateral line goes down to the base in its plane.", _TABLE["H"])


def _in_plane(shape: ShapeFacts) -> Judged:
    stated = shape.stated.get("in_plane_offset")
    if stated is None:
        return "V4", None
    return "V4" if stated else "", Finding(
        "in-plane discontinuity", "whole structure",
        Severity.WARNING if stated else Severity.OK,
        "Stated in the project: vertical type 4." if stated else
        "None, as stated in the project.", _TABLE["V"])


def _skew(shape: ShapeFacts, site: SiteAnswer) -> Judged:
    """Horizontal type 5: lines that are not parallel to the axes."""
    if not shape.skew:
        return "", Finding("nonparallel system", "whole structure", Severity.OK,
                           "Every lateral line runs along X or Y.", _TABLE["H"])
    severe = site.category in "CDEF"
    return "H5", Finding(
        "nonparallel system", ", ".join(shape.skew), Severity.WARNING,
        "Lateral lines are parallel to neither axis: horizontal type 5"
        + (", so the directions are combined 100 and 30 % (12.5.3)." if severe else "."),
        _TABLE["H"])


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
    feet = structure.height / _FOOT
    limit = 3.5 * site.parameters["T_S"]
    short = all(s.period < limit for s in shears)
    mild = not set(kinds) - {"H2", "H3", "H4", "H5", "V4", "V5a", "V5b"}
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




def conditions(
    site: SiteAnswer, systems: Sequence[SystemAnswer], shears: Sequence[BaseShearAnswer],
    structure: StructureFacts, kinds: Sequence[str], edition: Edition,
) -> tuple[Finding, ...]:
    """Whether what the project claims is open: the cap on S_DS (12.8.1.3) and rho of 1.0."""
    found = []
    for system, shear in zip(systems, shears, strict=True):
        where = f"direction {system.direction}"
        late = edition.rule("sds_cap") == "S_DS"
        if system.given.cap_on_sds:
            failed = [text for text, holds in (
                ("an irregularity was found", not kinds),
                (f"{structure.stories} stories are more than five", structure.stories <= 5),
                (f"T = {shear.period:.3f} s is above 0.5 s", shear.period <= 0.5 + 1e-12),
                ("the redundancy factor is not 1.0", not late or system.redundancy == 1.0),
                (f"site class {site.site_class}", not late or site.site_class not in "EF"),
                (f"risk category {site.risk}", not late or site.risk in ("I", "II")),
            ) if not holds]
            found.append(Finding(
                "cap on the short-period acceleration", where,
                Severity.EXCEEDED if failed else Severity.OK,
                f"Not open: {'; '.join(failed)}." if failed else "Every condition is met.",
                "12.8.1.3", "Take cap_on_sds out." if failed else ""))
        if system.redundancy == 1.0 and site.category == "D" and "H1b" in kinds \
                and edition.key == "16":
            found.append(Finding(
                "redundancy", where, Severity.EXCEEDED,
                "With extreme torsional irregularity in category D the factor is 1.3.",
                "12.3.4.2", "Take redundancy out."))
    return tuple(found)
