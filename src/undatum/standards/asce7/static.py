"""ASCE 7, 12.8: the equivalent lateral force procedure."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from undatum.errors import Fault, InputError
from undatum.standards.answers import (
    BaseShearAnswer,
    Distribution,
    PeriodAnswer,
    Purpose,
    SiteAnswer,
    StructureFacts,
    SystemAnswer,
)
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.system import period_row
from undatum.standards.common import walls_along
from undatum.units import factor
from undatum.working import Working

_FOOT = factor("ft", "length")


def period(
    system: SystemAnswer, site: SiteAnswer, facts: StructureFacts, edition: Edition
) -> PeriodAnswer:
    """Approximate period (Eq. 12.8-7) and its cap (12.8.2).

    The coefficients are those for heights in ft, the standard's primary unit, whatever the unit
    system of the project: the printed metric ones are rounded conversions of these.
    """
    w = Working(f"Period in {system.direction}", site.working, system.working)
    w.given("h_n", facts.height / _FOOT, "ft", meaning="structural height", clause="11.2")
    basis = system.given.period_basis
    if basis == "stories":
        approximate = _by_stories(w, system, facts, edition)
    elif basis == "walls":
        approximate = _by_walls(w, system, facts, edition)
    else:
        row = period_row(system, edition)
        ct, x = edition.table("period")[row]
        clause = "12.8.2.1, Table 12.8-2"
        w.given("C_t", ct, meaning=f"period coefficient, {row}, height in ft", clause=clause)
        w.given("x", x, meaning="period exponent", clause=clause)
        approximate = w.compute("T_a", "C_t * h_n ** x", "s", meaning="approximate period",
                                clause=edition.equation("12.8.2.1", "12.8-7"))
    cap = edition.table("period_cap")
    w.interpolate("C_u", "S_D1", cap["points"], cap["Cu"],
                  meaning="coefficient for the upper limit", clause="12.8.2, Table 12.8-1")
    most = w.compute("T_max", "C_u * T_a", "s", meaning="upper limit on the computed period",
                     clause="12.8.2")
    return PeriodAnswer(approximate, most, w.close())


def _by_stories(
    w: Working, system: SystemAnswer, facts: StructureFacts, edition: Edition
) -> float:
    """0.1 N for moment frames of up to twelve stories (Eq. 12.8-8)."""
    heights = np.asarray(facts.story_heights) / _FOOT
    early = edition.key == "05"
    measure = float(heights.min() if early else heights.mean())
    wrong = ""
    if system.group != "moment frame":
        wrong = f"row {system.row} is no moment frame"
    elif facts.stories > 12:
        wrong = f"{facts.stories} stories are more than twelve"
    elif measure < 10.0 * (1 - 1e-9):
        wrong = f"the {'least' if early else 'average'} story height of {measure:.3g} ft is " \
                "below 10 ft"
    if wrong:
        raise InputError([Fault(
            f"system.{system.direction}.period_basis", f"0.1 s for each story is not open: {wrong}",
            "take 'height'")])
    w.given("N", facts.stories, meaning="stories above the base", clause="12.8.2.1",
            branch=f"moment frames, at most twelve stories of {measure:.3g} ft "
            f"{'or more' if early else 'on average'}")
    return w.compute("T_a", "0.1 * N", "s", meaning="approximate period",
                     clause=edition.equation("12.8.2.1", "12.8-8"))


def _by_walls(
    w: Working, system: SystemAnswer, facts: StructureFacts, edition: Edition
) -> float:
    """0.0019 h_n / sqrt(C_w) from the walls of the lowest story (Eq. 12.8-9 and 12.8-10)."""
    walls = walls_along(system, facts)
    late = edition.rule("wall_period") == "late"
    if late and facts.height > 120 * _FOOT * (1 + 1e-9):
        raise InputError([Fault(
            f"system.{system.direction}.period_basis", "the wall formula is for heights up to "
            f"120 ft, this is {facts.height / _FOOT:.4g} ft", "take 'height'")])
    clause = edition.equation("12.8.2.1", "12.8-10")
    w.given("A_B", facts.base_area / _FOOT**2, "ft^2", meaning="area of the base", clause=clause)
    names = tuple(x.name for x in walls)
    w.given("A_i", tuple(x.area / _FOOT**2 for x in walls), "ft^2", clause=clause,
            meaning="web areas of the walls", rows=names)
    w.given("D_i", tuple(x.length / _FOOT for x in walls), "ft", meaning="lengths of the walls",
            clause=clause, rows=names)
    if late:
        formula = "100 / A_B * sum(A_i / (1 + 0.83 * (h_n / D_i) ** 2))"
    else:
        w.given("h_i", tuple(x.height / _FOOT for x in walls), "ft", clause=clause, rows=names,
                meaning="heights of the walls")
        formula = "100 / A_B * sum((h_n / h_i) ** 2 * A_i / (1 + 0.83 * (h_i / D_i) ** 2))"
    w.compute("C_w", formula, meaning="wall coefficient", clause=clause)
    return w.compute("T_a", "0.0019 / sqrt(C_w) * h_n", "s", meaning="approximate period",
                     clause=edition.equation("12.8.2.1", "12.8-9"))


def base_shear(
    purpose: Purpose,
    site: SiteAnswer,
    system: SystemAnswer,
    periods: PeriodAnswer,
    computed_period: float | None,
    facts: StructureFacts,
    edition: Edition,
) -> BaseShearAnswer:
    """Cs with every limit, and V. For drift the period is not capped.

    From the 2010 edition on the least value of Eq. 12.8-5 is dropped for drift.
    """
    w = Working(
        f"Base shear in {system.direction} for {purpose}",
        site.working, system.working, periods.working,
    )

    def eq(number: str) -> str:
        return f" (Eq. {number})" if edition.rule("equation_numbers") else ""

    t = _period_used(w, purpose, system, computed_period, edition)
    tl, ts = site.parameters["T_L"], site.parameters["T_S"]
    sds = "S_DS"
    if system.given.cap_on_sds:
        sds = "S_DSc"
        if edition.rule("sds_cap") == "S_DS":
            w.compute("S_DSc", "max(min(S_DS, 1), 0.7 * S_DS)", "g", clause="12.8.1.3",
                      meaning="short-period acceleration for C_s")
        else:  # F_a no longer changes beyond S_S = 1.25
            w.compute("S_DSc", "S_DS * min(1, 1.5 / S_S)", "g", clause="12.8.1.3",
                      meaning="short-period acceleration for C_s, with S_S of 1.5")
    w.compute("C_s1", f"{sds} / (R / I_e)", meaning="plateau",
              clause=edition.equation("12.8.1.1", "12.8-2"))
    factor_text, clause = "", "12.8.1.1"
    if site.parameters["exception"] == 2 and t > 1.5 * ts:
        factor_text, clause = "1.5 * ", "11.4.8 exception 2, 12.8.1.1"
    plateau_only = site.parameters["exception"] == 2 and t <= 1.5 * ts
    if plateau_only:
        base, governing = "C_s1", "plateau (Eq. 12.8-2, 11.4.8 exception 2: T ≤ 1.5 T_S)"
    else:
        if t <= tl:
            w.compute("C_s2", f"{factor_text}S_D1 / (T * (R / I_e))",
                      meaning="falling branch, T ≤ T_L", clause=edition.equation(clause, "12.8-3"))
            falling = "falling branch" + eq("12.8-3")
        else:
            w.compute("C_s2", f"{factor_text}S_D1 * T_L / (T ** 2 * (R / I_e))",
                      meaning="falling branch, T > T_L", clause=edition.equation(clause, "12.8-4"))
            falling = "falling branch beyond T_L" + eq("12.8-4")
        base = "min(C_s1, C_s2)"
        governing = (
            falling if w.value("C_s2") < w.value("C_s1") else "plateau" + eq("12.8-2")
        )
    floors: list[tuple[str, str]] = []
    dropped = purpose == "drift" and edition.rule("drift_drops_minimum")
    if not dropped:
        w.compute("C_s3", f"max(0.044 * {sds} * I_e, 0.01)", meaning="least value",
                  clause=edition.equation("12.8.1.1", "12.8-5"))
        floors.append(("C_s3", "least value" + eq("12.8-5")))
    if site.parameters["S_1"] >= 0.6:
        w.compute("C_s4", "0.5 * S_1 / (R / I_e)", meaning="least value where S_1 ≥ 0.6",
                  clause=edition.equation("12.8.1.1", "12.8-6"))
        floors.append(("C_s4", "least value near faults" + eq("12.8-6")))
    above = w.value("C_s1") if plateau_only else min(w.value("C_s1"), w.value("C_s2"))
    for symbol, name in floors:
        if w.value(symbol) > above:
            above, governing = w.value(symbol), name
    formula = f"max({base}, {', '.join(s for s, _ in floors)})" if floors else base
    if dropped:
        governing_note = (f"{governing}; the least value 0.044 S_DS I_e need not be considered for "
                          f"drift ({edition.clause('minimum_drift')})")
    else:
        governing_note = governing
    cs = w.compute("C_s", formula, meaning="seismic response coefficient", clause="12.8.1.1",
                   branch=governing_note)
    w.given("W", facts.weight, "force", meaning="effective seismic weight", clause="12.7.2")
    v = w.compute("V", "C_s * W", "force", meaning="base shear",
                  clause=edition.equation("12.8.1", "12.8-1"))
    return BaseShearAnswer(system.direction, purpose, t, cs, v, governing, w.close())


def _period_used(
    w: Working, purpose: Purpose, system: SystemAnswer, computed: float | None, edition: Edition
) -> float:
    if computed is None or not system.given.computed_period:
        return w.compute("T", "T_a", "s", meaning="period used", clause="12.8.2",
                         branch="approximate period")
    w.given("T_c", computed, "s", meaning="computed period", clause="12.8.2",
            branch="mode with the largest effective mass in this direction")
    if purpose == "drift":
        return w.compute("T", "T_c", "s", meaning="period used",
                         clause=edition.clause("period_drift"),
                         branch="computed period without the cap")
    capped = computed > w.value("T_max")
    return w.compute("T", "min(T_c, T_max)", "s", meaning="period used", clause="12.8.2",
                     branch="capped at C_u T_a" if capped else "computed period, below its cap")


def distribution(
    shear: BaseShearAnswer, weights: Sequence[float], heights: Sequence[float],
    edition: Edition,
) -> Distribution:
    """Vertical distribution (Eq. 12.8-11 and 12.8-12), top down."""
    w = Working(f"Story forces in {shear.direction} for {shear.purpose}", shear.working)
    clause = "12.8.3"
    if shear.period <= 0.5:
        w.given("k", 1.0, meaning="exponent of the distribution", clause=clause, branch="T ≤ 0.5 s")
    elif shear.period >= 2.5:
        w.given("k", 2.0, meaning="exponent of the distribution", clause=clause, branch="T ≥ 2.5 s")
    else:
        w.compute("k", "1 + (T - 0.5) / 2", meaning="exponent of the distribution", clause=clause,
                  branch="between 0.5 s and 2.5 s")
    w.given("w_x", tuple(map(float, weights)), "force", meaning="weight of the level",
            clause="12.7.2")
    w.given("h_x", tuple(map(float, heights)), "length", meaning="height above the base",
            clause="11.3")
    w.compute_all("C_vx", "w_x * h_x ** k / sum(w_x * h_x ** k)", meaning="share of the level",
                  clause=edition.equation("12.8.3", "12.8-12"))
    forces = w.compute_all("F_x", "C_vx * V", "force", meaning="force at the level",
                           clause=edition.equation("12.8.3", "12.8-11"))
    return Distribution(forces, w.close())
