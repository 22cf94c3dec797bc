"""ASCE 7, 11.4.8, 11.6, 12.6, 12.8.1.3: what is open once periods and irregularities are known."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.finding import Finding, Severity
from undatum.standards.answers import BaseShearAnswer, PeriodAnswer, RegularityAnswer, SiteAnswer
from undatum.standards.asce7 import irregularity
from undatum.standards.asce7.facts import Edition, system_rows
from undatum.standards.asce7.job import AsceJob
from undatum.standards.asce7.site import BY_SHORT_PERIOD
from undatum.standards.terms import Direction
from undatum.table import number_text
from undatum.units import factor

_FOOT = factor("ft", "length")


def short_period_conditions(
    job: AsceJob, periods: Mapping[Direction, PeriodAnswer],
    shears: Mapping[Direction, BaseShearAnswer], computed: Mapping[Direction, float],
) -> tuple[Finding, ...]:
    """The conditions under which S_DS alone gives the design category (11.6)."""
    if job.site.working["SDC"].key != BY_SHORT_PERIOD:
        return ()
    ts, found = job.site.parameters["T_S"], []
    for d, s in shears.items():
        period, t = periods[d], computed[d]
        fine = period.approximate < 0.8 * ts and t < ts and s.branch == "plateau"
        found.append(Finding(
            "design category by S_DS alone", f"direction {d}",
            Severity.OK if fine else Severity.EXCEEDED,
            f"T_a = {period.approximate:.3f} s against 0.8 T_S = {0.8 * ts:.3f} s, T for drift = "
            f"{t:.3f} s against T_S = {ts:.3f} s, C_s from the {s.governing}; diaphragms are "
            "rigid." + ("" if fine else " Not every condition is met."), "11.6",
            "" if fine else "Take category_by_short_period out."))
    return tuple(found)


def exception_3(
    site: SiteAnswer, shears: Mapping[Direction, BaseShearAnswer]
) -> tuple[Finding, ...]:
    """Exception 3 of 11.4.8 needs T not above T_S."""
    if site.parameters["exception"] != 3:
        return ()
    ts = site.parameters["T_S"]
    return tuple(
        Finding(
            "site-specific ground motion", f"direction {d}",
            Severity.EXCEEDED if s.period > ts else Severity.OK,
            f"Exception 3 needs T not above T_S: T = {s.period:.3f} s, T_S = {ts:.3f} s"
            + ("; a ground motion hazard analysis is required." if s.period > ts else
               "; the static forces may be used, the spectrum analysis is for comparison."),
            "11.4.8 exception 3",
            "Have the study made and give it in site.study and [spectrum]."
            if s.period > ts else "", s.period, ts, "time",
        )
        for d, s in shears.items()
    )


def permitted(
    job: AsceJob, shears: Mapping[Direction, BaseShearAnswer], regularity: RegularityAnswer,
    edition: Edition,
) -> tuple[bool | None, tuple[Finding, ...]]:
    """Whether the equivalent lateral force procedure is permitted (Table 12.6-1).

    ``None`` where an irregularity that could bar it is not judged.
    """
    clause, site, kinds = "12.6, Table 12.6-1", job.site, regularity.found
    if edition.rule("static_open_to_all"):
        return None, (Finding(
            "permitted procedure", "whole structure", Severity.NOTE,
            "The 2022 edition is taken to permit every procedure; the print was not at hand.",
            "12.6", "Check 12.6 of the print."),)
    if site.category in "ABC":
        return True, (Finding("permitted procedure", "whole structure", Severity.OK,
                              f"Category {site.category}: every procedure is permitted.", clause),)
    allowed, rule = _static_open(job, shears, set(kinds), edition)
    open_ = {LEAST.get(kind, kind) for kind in regularity.unjudged}
    barring = sorted(kind for kind in open_
                     if not _static_open(job, shears, {*kinds, kind}, edition)[0])
    found = f"irregularities found: {', '.join(kinds)}" if kinds else "no irregularity found"
    said = f"Category {site.category}, {rule}, {found}: the equivalent lateral force procedure is "
    if not allowed:
        return False, (Finding(
            "permitted procedure", "whole structure", Severity.NOTE,
            f"{said}not permitted as the only analysis; the modal analysis decides.", clause),)
    if barring:
        names = ", ".join(irregularity.LIMITS.name(kind) for kind in barring)
        return None, (Finding(
            "permitted procedure", "whole structure", Severity.NOTE,
            f"{said}open only if there is none of what is not judged and would bar it: {names}.",
            clause, "Give what those checks need, or judge them by hand."),)
    return True, (Finding("permitted procedure", "whole structure", Severity.OK,
                          f"{said}permitted.", clause),)


#: The mildest type of those that one check tells apart.
LEAST = {"V5": "V5a", "H1": "H1a"}


def _static_open(
    job: AsceJob, shears: Mapping[Direction, BaseShearAnswer], kinds: set[str], edition: Edition
) -> tuple[bool, str]:
    """Table 12.6-1 for categories D to F with these irregularities, and what it was judged by."""
    site, structure = job.site, job.facts
    rows = system_rows(edition.key)
    if all(rows[name].kind == "light frame" for given in job.asked.values()
           for name in (given.row, *given.with_rows)):
        return True, "light-frame construction"
    feet = structure.height / _FOOT
    limit = 3.5 * site.parameters["T_S"]
    short = all(s.period < limit for s in shears.values())
    mild = not kinds - {"H2", "H3", "H4", "H5", "V4", "V5a", "V5b"}
    low = site.risk in ("I", "II") and structure.stories <= 2
    period = f"T {'<' if short else 'not <'} 3.5 T_S = {limit:.2f} s"
    if edition.rule("static_by_period_alone"):
        return low or (short and mild), period
    return (low or (not kinds and (feet <= 160 or short)) or (mild and feet <= 160),
            f"height {number_text(feet)} ft against 160 ft, {period}")


def conditions(
    job: AsceJob, shears: Mapping[Direction, BaseShearAnswer], kinds: Sequence[str],
    edition: Edition,
) -> tuple[Finding, ...]:
    """Whether what the project claims is open: the cap on S_DS (12.8.1.3) and rho of 1.0."""
    found, site, structure = [], job.site, job.facts
    for d, system in job.systems.items():
        where, shear = f"direction {d}", shears[d]
        late = edition.rule("sds_cap") == "S_DS"
        if job.asked[d].cap_on_sds:
            failed = [text for text, holds in (
                ("an irregularity was found", not kinds),
                (f"{structure.stories} stories are more than five", structure.stories <= 5),
                (f"T = {shear.period:.3f} s is above 0.5 s", shear.period <= 0.5 + 1e-12),
                ("the redundancy factor is not 1.0", not late or system.redundancy == 1.0),
                (f"site class {site.site_class}", not late or site.site_class not in "EF"),
                (f"{edition.clause('risk')} {site.risk}", not late or site.risk in ("I", "II")),
            ) if not holds]
            found.append(Finding(
                "cap on the short-period acceleration", where,
                Severity.EXCEEDED if failed else Severity.OK,
                f"Not open: {'; '.join(failed)}." if failed else
                "Every condition is met, with the irregularities that were judged.",
                "12.8.1.3", "Take cap_on_sds out." if failed else ""))
        if system.redundancy == 1.0 and site.category in "DEF":
            found.append(_redundancy(job, d, kinds, edition))
    return tuple(found)


def _redundancy(
    job: AsceJob, direction: Direction, kinds: Sequence[str], edition: Edition
) -> Finding:
    """Whether a redundancy factor of 1.0 can stand, as far as torsion and the lines tell."""
    where, clause = f"direction {direction}", "12.3.4.2"
    said = job.asked[direction].redundancy_reason
    if {"H1b", irregularity.EXTREME} & set(kinds) and edition.rule("extreme_torsion_keeps_rho"):
        return Finding("redundancy", where, Severity.EXCEEDED,
                       "With a torsion ratio above 1.4 the factor is 1.3.", clause,
                       "Take redundancy out.")
    if len(job.asked) == 1:
        return Finding(
            "redundancy", where, Severity.NOTE,
            f"The factor is stated as 1.0 ({said}). A plane building shows nothing of its plan: "
            "neither condition (a) nor (b) is judged here.", clause, "Show one of them.")
    failed = [text for text, fails in (
        ("irregular in plan: " + ", ".join(k for k in kinds if k.startswith("H")),
         any(k.startswith("H") for k in kinds)),
        ("a story without a lateral line near an edge",
         any(n < 1 for n in job.facts.perimeter.values()))) if fails]
    if failed:
        return Finding(
            "redundancy", where, Severity.WARNING,
            f"The factor is stated as 1.0 ({said}). Condition (b) is not met: {'; '.join(failed)}. "
            "Condition (a), the removal of elements, is not judged here.", clause,
            "Show condition (a), or take redundancy out.")
    return Finding(
        "redundancy", where, Severity.NOTE,
        f"The factor is stated as 1.0 ({said}). Regular in plan as far as judged, with lines near "
        "every edge; the number of bays of condition (b) is not in the description.", clause,
        "Check two bays on each side, or condition (a).")
