"""ASCE 7, 11.4.8, 11.6, 12.6, 12.8.1.3: what is open once periods and irregularities are known."""

from __future__ import annotations

import math
from collections.abc import Mapping

from undatum.finding import Finding, Severity
from undatum.record import FixedDict
from undatum.standards.answers import BaseShearAnswer, PeriodAnswer, RegularityAnswer
from undatum.standards.asce7 import irregularity
from undatum.standards.asce7.facts import Edition, system_rows
from undatum.standards.asce7.job import AsceJob
from undatum.standards.asce7.site import BY_SHORT_PERIOD
from undatum.standards.facts import RemovedKind, StructureFacts
from undatum.standards.terms import Direction
from undatum.table import number_text
from undatum.units import beside_feet, factor

_FOOT = factor("ft", "length")
#: Of redundancy by removal (12.3.4.2): stories that count, by their share of the base shear; what
#: of their strength may be lost; the torsion ratio that is extreme.
COUNTS, LOST, EXTREME_TORSION = 0.35, 0.33, 1.4
TWO = 2.0  # bays on each side, condition (b)
BESIDE = 0.1  # of the base shear: kinds of element that take less don't count


def short_period_conditions(
    job: AsceJob, periods: Mapping[Direction, PeriodAnswer],
    shears: Mapping[Direction, BaseShearAnswer], computed: Mapping[Direction, float],
) -> tuple[Finding, ...]:
    """The conditions under which S_DS alone gives the design category (11.6)."""
    if job.site.working["SDC"].key != BY_SHORT_PERIOD:
        return ()
    ts, found = job.site.parameters["T_S"], []
    for d, s in shears.items():
        period, t = periods[d], computed.get(d)
        fine = period.approximate < 0.8 * ts and (t is None or t < ts) and s.branch == "plateau"
        for_drift = "T for drift is not known without a structure" if t is None else \
            f"T for drift = {t:.3f} s against T_S = {ts:.3f} s"
        found.append(Finding(
            "design category by S_DS alone", f"direction {d}",
            Severity.EXCEEDED if not fine else Severity.NOTE if t is None else Severity.OK,
            f"T_a = {period.approximate:.3f} s against 0.8 T_S = {0.8 * ts:.3f} s, {for_drift}, "
            f"C_s from the {s.governing}; diaphragms are rigid."
            + ("" if fine else " Not every condition is met."), "11.6",
            "" if fine else "Remove category_by_short_period."))
    return tuple(found)


def permitted(
    job: AsceJob, shears: Mapping[Direction, BaseShearAnswer], regularity: RegularityAnswer,
    edition: Edition,
) -> tuple[dict[Direction, bool], tuple[Finding, ...]]:
    """Whether the equivalent lateral force procedure is permitted, by direction, and what is then
    open at all: 11.7, Table 12.6-1 and exception 3 of 11.4.8 together.

    A direction is left out where an irregularity that could bar it is not judged.
    """
    site = job.site
    if site.category == "A":
        return dict.fromkeys(shears, True), (Finding(
            "permitted procedure", "whole structure", Severity.OK,
            "Category A is exempt from chapter 12: only forces of 1 % of the weight are "
            "required.", "11.7"),)
    allowed, finding = _by_table(job, shears, regularity, edition)
    ts = site.parameters["T_S"]
    needed = site.parameters["exception"] == 3
    if not needed:
        return ({} if allowed is None else dict.fromkeys(shears, allowed)), (finding,)
    late = [d for d, s in shears.items() if s.period > ts]
    study = "Have the study made and give it in site.study and [spectrum]."
    clause = "11.4.8 exception 3" + (", 12.6" if allowed is not True else "")
    periods = ", ".join(f"T = {s.period:.3f} s in {d}" for d, s in shears.items())
    said = (f"Exception 3 permits only the static procedure, for T up to T_S = {ts:.3f} s: "
            f"{periods}. ")
    if late or allowed is False:
        worst = max(shears.values(), key=lambda s: s.period)
        return dict.fromkeys(shears, False), (Finding(
            "permitted procedure", "whole structure", Severity.EXCEEDED,
            said + ("" if allowed is not False else "Table 12.6-1 does not permit it here. ")
            + "No procedure is permitted without a ground motion hazard analysis.", clause, study,
            *((worst.period, ts, "time") if late else ())),)
    if allowed is None:
        return {}, (Finding(
            "permitted procedure", "whole structure", Severity.WARNING,
            f"{said}{finding.text} Otherwise no procedure is permitted without a ground motion "
            "hazard analysis.", clause, finding.advice),)
    return dict.fromkeys(shears, True), (Finding(
        "permitted procedure", "whole structure", Severity.OK,
        said + "The static forces may be used, the spectrum analysis is for comparison.", clause),)


def _by_table(
    job: AsceJob, shears: Mapping[Direction, BaseShearAnswer], regularity: RegularityAnswer,
    edition: Edition,
) -> tuple[bool | None, Finding]:
    """The equivalent lateral force procedure by Table 12.6-1; ``None`` where it hangs on what is
    not judged."""
    clause, site, kinds = "12.6, Table 12.6-1", job.site, regularity.found
    if edition.rule("static_open_to_all"):
        return None, Finding(
            "permitted procedure", "whole structure", Severity.NOTE,
            "The 2022 edition is taken to permit every procedure; the printed text was not at "
            "hand.",
            "12.6", "Check 12.6 of the print.")
    if site.category in "BC":
        return True, Finding("permitted procedure", "whole structure", Severity.OK,
                             f"Category {site.category}: every procedure is permitted.", clause)
    allowed, rule = _static_open(job, shears, set(kinds), edition)
    open_ = {LEAST.get(kind, kind) for kind in regularity.unjudged}
    barring = sorted(kind for kind in open_
                     if not _static_open(job, shears, {*kinds, kind}, edition)[0])
    found = f"irregularities found: {', '.join(kinds)}" if kinds else "no irregularity found"
    said = f"Category {site.category}, {rule}, {found}: the equivalent lateral force procedure is "
    if not allowed:
        return False, Finding(
            "permitted procedure", "whole structure", Severity.NOTE,
            f"{said}not permitted as the only analysis; the modal analysis governs.", clause)
    if barring:
        names = ", ".join(irregularity.limits_of(edition).name(kind) for kind in barring)
        return None, Finding(
            "permitted procedure", "whole structure", Severity.WARNING,
            f"{said}permitted only without the following, which were not checked and would bar it: "
            f"{names}.",
            clause, "Give the data for those checks, or make them by hand.")
    return True, Finding("permitted procedure", "whole structure", Severity.OK,
                         f"{said}permitted.", clause)


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
            f"height {number_text(feet)} ft against 160 ft"
            f"{beside_feet(feet * _FOOT, 160 * _FOOT, between=' against ')}, {period}")


def conditions(
    job: AsceJob, shears: Mapping[Direction, BaseShearAnswer], regularity: RegularityAnswer,
    edition: Edition,
) -> tuple[Finding, ...]:
    """Whether what the project claims is open: the cap on S_DS (12.8.1.3) and rho of 1.0."""
    found, site, structure, kinds = [], job.site, job.facts, regularity.found
    left = ", ".join(irregularity.limits_of(edition).name(kind)
                     for kind in regularity.unjudged)
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
                Severity.EXCEEDED if failed else Severity.WARNING if left else Severity.OK,
                f"Not permitted: {'; '.join(failed)}." if failed else
                "Permitted only without these irregularities, which were not checked: "
                f"{left}." if left
                else "Every condition is met.",
                "12.8.1.3", "Take cap_on_sds out." if failed else
                "Check them by hand, or state them in [irregularities]." if left else ""))
        if system.redundancy == 1.0 and site.category in "DEF":
            found.append(_redundancy(job, d, regularity, edition))
    return tuple(found)


def _redundancy(
    job: AsceJob, direction: Direction, regularity: RegularityAnswer, edition: Edition
) -> Finding:
    """Whether a redundancy factor of 1.0 can stand: condition (a) or (b) of 12.3.4.2."""
    kinds = regularity.found
    where, clause = f"direction {direction}", "12.3.4.2"
    said = job.asked[direction].redundancy_reason
    if {"H1b", irregularity.EXTREME} & set(kinds) and edition.rule("extreme_torsion_keeps_rho"):
        return Finding("redundancy", where, Severity.EXCEEDED,
                       "With a torsion ratio above 1.4 the factor is 1.3.", clause,
                       "Remove redundancy.")
    if len(job.asked) == 1:
        return Finding(
            "redundancy", where, Severity.NOTE,
            f"The factor is stated as 1.0 ({said}). A plane building has no plan: neither "
            "condition (a) nor (b) is checked here.", clause, "Show one of them.")
    if not any(job.facts.bays.values()):
        return Finding(
            "redundancy", where, Severity.NOTE,
            f"The factor is stated as 1.0 ({said}). Without a structure neither condition (a) nor "
            "(b) is checked here.", clause, "Show one of them.")
    without, shown = _without_one(job.facts, direction)
    if shown:
        return Finding("redundancy", where, Severity.OK, "Condition (a) holds: " + without, clause)
    open_ = [k for k in regularity.unjudged if k.startswith("H")]
    few, known = _two_bays(job.facts)
    plan = ", ".join(k for k in kinds if k.startswith("H"))
    failed = [text for text in (f"irregular in plan: {plan}" if plan else "", few) if text]
    if failed:
        return Finding(
            "redundancy", where, Severity.EXCEEDED if shown is False else Severity.WARNING,
            f"The factor is stated as 1.0 ({said}). "
            + ("Neither condition is met" if shown is False else "Condition (b) is not met")
            + f": {'; '.join(failed)}. "
            + (f"Of condition (a): {without}" if without else
               "Condition (a), the removal of elements, is not checked here."), clause,
            "Remove redundancy." if shown is False else "Show condition (a), or remove redundancy.")
    if known and not open_:
        return Finding("redundancy", where, Severity.OK, "Condition (b) holds: regular in plan, "
                       "with two bays on each side in every story that counts.", clause)
    return Finding(
        "redundancy", where, Severity.NOTE,
        f"The factor is stated as 1.0 ({said}). Regular in plan as far as checked"
        + ("; the number of bays of condition (b) does not follow from lateral lines." if not known
           else ", with two bays on each side in every story that counts.")
        + (f" Of condition (a): {without}" if without else ""), clause,
        "Check two bays on each side, or condition (a)." if not known else
        "Check regularity in plan by hand, or condition (a).")


def _two_bays(facts: StructureFacts) -> tuple[str, bool]:
    """The story with fewest bays near an edge where there are fewer than two, in words, and whether
    all are known: of condition (b)."""
    sides = [(n, f"along {d}, {one.story}") for d, own in facts.bays.items() for one in own
             if one.share > COUNTS for n in (one.low, one.high)]
    known = bool(sides) and not any(math.isnan(n) for n, _ in sides)
    few = min(((n, where) for n, where in sides if n < TWO - 1e-9), default=None)
    if few is None:
        return "", known
    number, where = few
    return (f"a story without a lateral line near an edge ({where})" if number < 1e-9 else
            f"{number:.3g} bay{'s' if number > 1 else ''} near an edge, where two are required "
            f"({where})"), known


#: What is left out, in words, and the kinds of :class:`Taken` that it belongs to.
PARTS: Mapping[RemovedKind, tuple[str, str]] = FixedDict({
    "line": ("lateral line", "lines"), "wall": ("wall", "walls"),
    "pier": ("wall pier", "walls"),
    "brace": ("brace", "braces"), "beam": ("beam (the moments at both ends)", "frames"),
    "column": ("cantilever column (the moment at its base)", "frames")})


def _without_one(facts: StructureFacts, direction: Direction) -> tuple[str, bool | None]:
    """What happens with any one part left out of any story that counts, and whether that meets
    condition (a): None where it can't be told, with no words where nothing is known.

    Kinds that take next to nothing of the base shear are no part of the system. A lateral line is
    at least as much as the part that Table 12.3-3 names: without one it need not fail.
    """
    every = facts.removals.get(direction)
    if every is None:
        return "", None
    taken = facts.taken[direction]._asdict()
    own = [r for r in every if r.share > COUNTS and taken[PARTS[r.kind][1]] > BESIDE]
    if not own:
        return "no part of the system is one that Table 12.3-3 names (walls no higher in a story " \
            "than they are long).", True
    names = " or ".join(dict.fromkeys(PARTS[r.kind][0] for r in own))
    worst = max(own, key=lambda r: r.torsion)
    torsion = f"the torsion ratio is at most {worst.torsion:.3f} of {EXTREME_TORSION} permitted " \
        f"({worst.line}, {worst.story})" \
        if math.isfinite(worst.torsion) else \
        f"the building can't stand ({worst.line}, {worst.story})"
    unknown = dict.fromkeys(f"{PARTS[r.kind][0].split(' (')[0]}s" for r in own
                            if math.isnan(r.strength))
    least = min(own, key=lambda r: r.strength)
    strength = f"the strength that stays is not known: give the strengths of every part of the " \
        f"story and of {' and '.join(unknown)}" if unknown else \
        f"at least {least.strength:.1%} of the story strength stay of {1 - LOST:.0%} required " \
        f"({least.line}, {least.story})"
    how = [text for text, there in (
        ("of a pier all of its wall's strength is taken away", any(r.kind == "pier" for r in own)),
        ("of a beam 2 M / h in either story beside it", any(r.kind == "beam" for r in own)))
        if there and not unknown]
    fails = [r.torsion > EXTREME_TORSION or r.strength < 1 - LOST - 1e-9 for r in own]
    holds = False if any(f and r.kind != "line" for f, r in zip(fails, own, strict=True)) else \
        None if unknown or any(fails) else True
    return (f"with one {names} left out of a story that takes more than 35 % of the base shear, "
            f"{torsion}, and {strength}." + (f" Taken: {'; '.join(how)}." if how else ""), holds)
