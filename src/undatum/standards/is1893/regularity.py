"""IS 1893 (Part 1): irregularities, and what is asked of the modes."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from undatum.finding import Finding, Severity
from undatum.standards import irregular
from undatum.standards.answers import (
    DIRECTIONS,
    Direction,
    ModalFacts,
    RegularityAnswer,
    ShapeFacts,
    SiteAnswer,
    TorsionAnswer,
)

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
    shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer], edition: str
) -> RegularityAnswer:
    """Types found, those not judged, and a finding for each that is judged."""
    kinds, unjudged, findings = irregular.judge(shape, LIMITS[edition])
    kinds |= {"H1" for t in torsion.values() if t.kind}
    return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)), tuple(findings))


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
    least, zone = float(share.min()), site.category
    found.append(Finding(
        "first three modes", f"direction {DIRECTIONS[int(np.argmin(share))]}",
        Severity.WARNING if least < 0.65 else Severity.OK,
        f"The first three modes carry {share[0]:.1%} in X and {share[1]:.1%} in Y; 65 % in each is "
        "asked for.", "Table 6", "Revise the configuration; check the clause for the zone."
        if least < 0.65 else "", 0.65, least))
    first = [float(modes.periods[int(np.argmax(modes.mass_ratios[:, axis]))]) for axis in (0, 1)]
    apart = abs(first[0] - first[1]) / max(first)
    if zone in ("IV", "V"):
        found.append(Finding(
            "fundamental periods apart", "whole structure",
            Severity.WARNING if apart < 0.1 else Severity.OK,
            f"Fundamental periods {first[0]:.3f} s in X and {first[1]:.3f} s in Y differ by "
            f"{apart:.1%} of the larger; 10 % is asked for in zone {zone}.", "Table 6",
            "Check the clause and its amendments against the print." if apart < 0.1 else "",
            0.1, apart))
    turn = float(modes.periods[int(np.argmax(modes.mass_ratios[:, 2]))])
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
