"""ASCE 7, 12.3.2.1 and 12.8.4: torsional irregularity and what follows from it."""

from __future__ import annotations

from undatum.finding import Finding, Severity
from undatum.standards.answers import Direction, SiteAnswer, TorsionAnswer, TorsionFacts
from undatum.standards.asce7.facts import Edition


def judge(
    direction: Direction, facts: TorsionFacts, site: SiteAnswer, edition: Edition
) -> TorsionAnswer:
    """Horizontal irregularity 1a or 1b (Table 12.3-1) and what the category makes of it."""
    ratio, level = facts.worst
    severe = site.category in "CDEF"
    usual = not edition.rule("torsion_only_where_irregular")  # before 2016 always in the forces
    clause, place = "12.3.2.1, Table 12.3-1", f"direction {direction}, story {level}"
    if ratio <= 1.2:
        found = Finding("torsional irregularity", place, Severity.OK,
                        f"Largest over average story drift is {ratio:.3f}, not above 1.2.",
                        clause, "", ratio, 1.2)
        return TorsionAnswer("", "regular in torsion", usual, False, False, found)
    extreme = ratio > 1.4
    kind = "1b" if extreme else "1a"
    name = "extreme torsional irregularity" if extreme else "torsional irregularity"
    banned = extreme and site.category in "EF"
    include = usual or severe or (site.category == "B" and extreme)
    follow = []
    if include:
        follow.append("accidental torsion is in forces and drift (12.8.4.2)")
    if severe:
        follow += ["it is amplified by A_x (12.8.4.3)", "drift is read at the edges (12.12.1)"]
    if extreme and site.category == "D" and edition.rule("extreme_torsion_keeps_rho"):
        follow.append("the redundancy factor stays 1.3 (12.3.4.2)")
    found = Finding(
        "torsional irregularity", place, Severity.EXCEEDED if banned else Severity.WARNING,
        f"{name.capitalize()} (type {kind}): largest over average story drift is {ratio:.3f}"
        + (f"; category {site.category} does not permit type 1b (12.3.3.1)." if banned else ".")
        + (f" Hence {', '.join(follow)}." if follow else ""),
        clause,
        "Move stiffness towards the side that drifts most, or stiffen the perimeter lines.",
        ratio, 1.2,
    )
    return TorsionAnswer(kind, name, include, severe, severe, found)
