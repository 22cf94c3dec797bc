"""IS 1893 (Part 1): irregularities, and what is asked of the modes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.finding import Finding, Severity, against
from undatum.standards import irregular
from undatum.standards.answers import RegularityAnswer, SiteAnswer, TorsionAnswer
from undatum.standards.facts import ModalFacts, ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.ties import largest, least

_NAMES_2016 = {
    "V1a": "soft story", "V2": "mass irregularity", "V3": "vertical geometric irregularity",
    "V4": "in-plane discontinuity", "V5": "weak story", "V5a": "weak story",
    "H1": "torsional irregularity", "H2": "re-entrant corners", "H3": "excessive cut-outs",
    "H4": "out-of-plane offsets",
    "H5": "non-parallel system",
}
_NAMES_2002 = {**_NAMES_2016, "V1b": "extreme soft story", "H3": "diaphragm discontinuity"}
LIMITS = {
    "2002": irregular.Limits(
        elevation="Table 5", plan="Table 4", soft=(0.7, 0.8), extreme_soft=(0.6, 0.7), weight=2.0,
        extent=1.5, weak=0.8, extreme_weak=None, names=_NAMES_2002),
    "2016": irregular.Limits(
        elevation="Table 6", plan="Table 5", soft=(1.0, None), extreme_soft=None, weight=1.5,
        extent=1.25, weak=1.0, extreme_weak=None, below_only=True, names=_NAMES_2016),
}


def judge(
    shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer], site: SiteAnswer, edition: str
) -> RegularityAnswer:
    """Types found, those not judged, and a finding for each that is judged and for what follows."""
    kinds, unjudged, findings = irregular.judge(shape, LIMITS[edition])
    kinds |= {"H1" for t in torsion.values() if t.kind}
    findings += _open_story(shape, edition)
    if edition == "2016":
        if "V4" in kinds and site.category != "II":
            findings.append(Finding(
                "in-plane discontinuity", "whole structure", Severity.EXCEEDED,
                f"Not permitted in zone {site.category}.", "Table 6",
                "Check the clause and its amendments against the print."))
        findings += _vertical(site, tuple(sorted(kinds)))
    return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)), tuple(findings))


def _open_story(shape: ShapeFacts, edition: str) -> list[Finding]:
    """Open (stilt) stories, soft against the story above, and what they ask for (7.10)."""
    found = []
    for d in shape.directions:
        axis = DIRECTIONS.index(d)
        k, s = shape.stiffness[axis], shape.strengths[axis]
        if k.size < 2:
            continue
        ratios = k[1:] / k[:-1]
        i = least(ratios)
        ratio, story = float(ratios[i]), shape.levels[i + 1]
        most = 0.8 if edition == "2016" else 0.7
        if ratio >= most * (1 - irregular.ROUNDING):
            continue
        known = np.isfinite(s[i : i + 2]).all()
        strength = f" and {float(s[i + 1] / s[i]):.2f} times its strength" if known else ""
        told = f"{against(ratio, most)} times the stiffness{strength}"
        if edition == "2016":
            text = (f"It has {told} of the story above: an open "
                    "story takes walls or bracing until it has 80 % of the stiffness and 90 % of "
                    "the strength above.")
        else:
            text = (f"It has {told} of the story above: its "
                    "columns and beams are designed for 2.5 times the story shears and moments, or "
                    "walls placed symmetrically for 1.5 times the story shear.")
        found.append(Finding(
            "open story", f"direction {d}, story {story}", Severity.WARNING, text, "7.10",
            "Add walls or bracing in this story.", most, ratio))
    return found


def vertical_asked(site: SiteAnswer, irregular_types: Sequence[str]) -> list[str]:
    """Why vertical motion counts (6.3.3.1 of 2016), as far as site and irregularities tell."""
    return [why for why, holds in (
        (f"zone {site.category}", site.category in ("IV", "V")),
        ("an irregularity was found", bool(irregular_types)),
        ("soft soil", site.site_class == "III")) if holds]


def _vertical(site: SiteAnswer, kinds: Sequence[str]) -> list[Finding]:
    why = vertical_asked(site, kinds)
    if not why:
        return [Finding("vertical motion", "whole structure", Severity.NOTE,
                        "Not required by zone, soil or irregularity; long spans and large "
                        "overhangs are not in the input.", "6.3.3.1")]
    return [Finding(
        "vertical motion", "whole structure", Severity.NOTE,
        f"Required here: {', '.join(why)}. It enters the load combinations with the factor of the "
        "vertical column; forces include it where it is analyzed.",
        "6.3.3.1, 6.3.4.1", "Set analysis.vertical_spectrum = true.")]


def modal_findings(site: SiteAnswer, modes: ModalFacts, edition: str) -> tuple[Finding, ...]:
    """Closely spaced modes; in 2016 also the first three modes and the torsional period."""
    found = []
    t = modes.periods[: modes.kept]
    close = [i for i in range(t.size - 1) if t[i] <= 1.1 * t[i + 1] * (1 + 1e-12)]
    if modes.combination == "SRSS" and close:
        found.append(Finding(
            "combination of modes", f"modes {close[0] + 1} and {close[0] + 2}", Severity.EXCEEDED,
            f"Their frequencies are within 10 %: periods {t[close[0]]:.3f} s and "
            f"{t[close[0] + 1]:.3f} s. SRSS is for modes that are not closely spaced.",
            "7.7.5" if edition == "2016" else "7.8.4.4",
            'Leave modal_combination out, or take "SRSS, close modes absolute".'))
    if edition == "2002":
        return tuple(found)
    share = modes.mass_ratios[:3, :2].sum(axis=0)
    along = modes.axes
    worst = min(along, key=lambda k: share[k])
    least, zone = float(share[worst]), site.category
    found.append(Finding(
        "first three modes", f"direction {DIRECTIONS[worst]}",
        Severity.WARNING if least < 0.65 else Severity.OK,
        f"The first three modes carry {modes.by_direction(share)}; 65 % in each direction is asked "
        "for.", "Table 6", "Revise the configuration; check the clause for the zone."
        if least < 0.65 else "", 0.65, least))
    if len(along) == 1:  # one direction, and no torsion
        return tuple(found)
    first = [float(modes.periods[largest(modes.mass_ratios[:, axis])]) for axis in (0, 1)]
    apart = abs(first[0] - first[1]) / max(first)
    if zone in ("IV", "V"):
        found.append(Finding(
            "fundamental periods apart", "whole structure",
            Severity.WARNING if apart < 0.1 else Severity.OK,
            f"Fundamental periods {first[0]:.3f} s in X and {first[1]:.3f} s in Y differ by "
            f"{apart:.1%} of the larger; 10 % is asked for in zone {zone}.", "Table 6",
            "Check the clause and its amendments against the print." if apart < 0.1 else "",
            0.1, apart))
    turn = float(modes.periods[largest(modes.mass_ratios[:, 2])])
    longer = turn > max(first) * (1 + 1e-9)
    found.append(Finding(
        "torsional period", "whole structure", Severity.WARNING if longer else Severity.OK,
        f"The torsional period is {turn:.3f} s, the translational ones are {first[0]:.3f} s and "
        f"{first[1]:.3f} s" + (": torsionally irregular." if longer else "."), "Table 5",
        "Stiffen the perimeter." if longer else "", turn, max(first), "time"))
    return tuple(found)


def held_against(regular: bool, irregular_types: tuple[str, ...], edition: str) -> Finding | None:
    """A finding where the project calls the building regular and a type was found."""
    if not regular or not irregular_types:
        return None
    limits = LIMITS[edition]
    names = ", ".join(limits.name(k) for k in irregular_types)
    return Finding(
        "regularity", "whole structure", Severity.EXCEEDED,
        f"The project states regular = true, but there is: {names}.", "7.1",
        "Set regular to false; it decides on the procedure.")
