"""ASCE 7, 12.3.2.1 and 12.8.4: torsional irregularity and what follows from it."""

from __future__ import annotations

import numpy as np

from undatum.finding import Finding, Severity
from undatum.standards.answers import SiteAnswer, TorsionAnswer
from undatum.standards.asce7.facts import Edition
from undatum.standards.facts import TorsionFacts
from undatum.standards.terms import Direction


def judge(
    direction: Direction, facts: TorsionFacts, site: SiteAnswer, edition: Edition
) -> TorsionAnswer:
    """Horizontal irregularity 1a or 1b (Table 12.3-1) and what the category makes of it."""
    ratio, level = facts.worst
    one = edition.rule("one_torsion_type")
    severe = site.category in "CDEF"
    usual = not edition.rule("torsion_only_where_irregular")  # before 2016 always in the forces
    clause, place = "12.3.2.1, Table 12.3-1", f"direction {direction}, story {level}"
    lopsided = _lopsided(facts) if one else None
    if ratio <= 1.2 and lopsided is None:
        found = Finding("torsional irregularity", place, Severity.OK,
                        f"Largest over average story drift is {ratio:.3f}, not above 1.2."
                        + (_strength_unknown(facts) if one else ""), clause, "", ratio, 1.2)
        return TorsionAnswer("", "regular in torsion", usual, False, False, found)
    extreme = ratio > 1.4
    kind = "1" if one else "1b" if extreme else "1a"
    name = "extreme torsional irregularity" if extreme and not one else "torsional irregularity"
    banned = extreme and site.category in "EF"
    include = usual or severe or (site.category == "B" and extreme)
    follow = []
    if include:
        follow.append("accidental torsion is included in forces and drift (12.8.4.2)")
    if severe:
        follow += ["it is amplified by A_x (12.8.4.3)", "drift is checked at the floor edges "
                                                        "(12.12.1)"]
    if extreme and site.category == "D" and edition.rule("extreme_torsion_keeps_rho"):
        follow.append("rho = 1.3 (12.3.4.2)")
    what = "" if ratio <= 1.2 else f": largest over average story drift is {ratio:.3f}"
    if lopsided is not None:
        share, story = lopsided
        what += f"{';' if what else ':'} {share:.0%} of the strength of story {story} lies at or " \
                "on one side of the center of mass (75 %)"
    ban = "" if not banned else (
        f"; earlier editions do not permit a ratio above 1.4 in category {site.category}; whether "
        "12.3.3.1 still bars it, the print decides." if one else
        f"; category {site.category} does not permit type 1b (12.3.3.1).")
    found = Finding(
        "torsional irregularity", place,
        Severity.EXCEEDED if banned and not one else Severity.WARNING,
        f"{name.capitalize()} (type {kind}){what}" + (ban or ".")
        + (f" Consequences: {', '.join(follow)}." if follow else ""),
        clause,
        "Move stiffness towards the side that drifts most, or stiffen the perimeter lines.",
        ratio, 1.2,
    )
    where = "torsionally irregular, categories C to F (12.12.1)" if severe else ""
    return TorsionAnswer(kind, name, include, severe, severe, found, where, extreme)


def _lopsided(facts: TorsionFacts) -> tuple[float, str] | None:
    """The largest share of strength on one side where it is above 75 %, and its story."""
    shares = [(float(s), name) for s, name, judged in
              zip(facts.one_side, facts.levels, facts.judged, strict=False)
              if judged and np.isfinite(s) and s > 0.75 * (1 + 1e-9)]
    return max(shares, default=None)


def _strength_unknown(facts: TorsionFacts) -> str:
    known = facts.one_side.size and np.isfinite(facts.one_side[facts.judged]).all()
    return "" if known else (" The share of strength on one side is not checked: not all strengths "
                             "of the lines are given.")
