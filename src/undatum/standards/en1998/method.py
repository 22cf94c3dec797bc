"""EN 1998-1, 4.2.4 to 4.4: mass, lateral force method, modal analysis, displacements, checks."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from undatum.finding import Finding, Severity
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    Distribution,
    DriftLimit,
    Floats,
    LoadCombination,
    LoadFacts,
    ModalFacts,
    PeriodAnswer,
    Purpose,
    ScaleAnswer,
    SeparationAnswer,
    SiteAnswer,
    StabilityAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.standards.common import quake_patterns, walls_along, write_second_order
from undatum.standards.en1998.facts import behavior_rows, facts
from undatum.standards.en1998.site import SiteInput, national
from undatum.units import STANDARD_GRAVITY
from undatum.working import Working


def weight_share(load: LoadFacts, given: SiteInput) -> WeightShare:
    """Masses G + psi_E Q (3.2.4, 4.2.4): psi_E = phi psi_2."""
    clause = "3.2.4, 4.2.4"
    if load.kind in {"dead", "cladding", "partition", "equipment", "roof garden"}:
        return WeightShare(1.0, clause, "permanent action")
    psi2, source = _psi2(load, given)
    phi, why = _phi(load, given)
    return WeightShare(phi * psi2, clause, f"phi {phi:g} ({why}) × psi_2 {psi2:g} ({source})")


def gravity_share(load: LoadFacts, given: SiteInput) -> tuple[float, str]:
    """G + psi_2 Q, the gravity load of the seismic design situation (6.4.3.4 of EN 1990)."""
    if load.kind in {"dead", "cladding", "partition", "equipment", "roof garden"}:
        return 1.0, "4.4.2.2"
    return _psi2(load, given)[0], "4.4.2.2, EN 1990 6.4.3.4"


def _psi2(load: LoadFacts, given: SiteInput) -> tuple[float, str]:
    n, table = given.national, facts()["psi2"]
    if load.kind == "snow":
        key, usual, name = "psi2_snow", 0.2 if given.snow_above_1000m else 0.0, "snow"
    elif load.kind == "storage":
        key, usual, name = "psi2_storage", table["E"], "category E"
    else:
        key, usual, name = "psi2_live", table[given.use], f"category {given.use}"
    own: float | None = getattr(n, key, None)
    if own is not None and n is not None:
        return own, f"{name}, {n.source}; recommended {usual:g}"
    return usual, f"{name}, EN 1990 Table A1.1"


def _phi(load: LoadFacts, given: SiteInput) -> tuple[float, str]:
    n = given.national
    if load.kind in {"storage", "snow"} or given.use not in "ABC":
        return 1.0, "categories D to F and archives" if load.kind != "snow" else "snow"
    if load.on_roof:
        return 1.0, "roof"
    usual = 0.8 if given.correlated_use else 0.5
    if n and n.phi is not None:
        return n.phi, f"{n.source}; recommended {usual:g}"
    return usual, "correlated use" if given.correlated_use else "independent use"


def period(system: SystemAnswer, site: SiteAnswer, facts_: StructureFacts) -> PeriodAnswer:
    """T1 = Ct H^(3/4), H in m up to 40 m (4.3.3.2.2). There is no cap on a computed period."""
    row = behavior_rows().get(system.row)
    kind = row.period if row else "other"
    w = Working(f"Period in {system.direction}", site.working, system.working)
    clause = "4.3.3.2.2(3)"
    w.given("H", facts_.height, "m", meaning="height from the base", clause=clause,
            branch="the formula is for heights up to 40 m" if facts_.height > 40 else "")
    if system.given.period_basis == "sway":
        w.given("d", facts_.gravity_sway[system.direction], "m", clause="4.3.3.2.2(5)",
                meaning="displacement of the top under the weights applied horizontally")
        t = w.compute("T_a", "2 * sqrt(d)", "s", meaning="approximate period",
                      clause="4.3.3.2.2(5), Eq. 4.9")
        return PeriodAnswer(t, math.inf, w.close())
    if system.given.period_basis == "walls":
        walls = walls_along(system, facts_)
        clause = "4.3.3.2.2(4)"
        names = tuple(x.name for x in walls)
        w.given("A_i", tuple(x.area for x in walls), "m^2", clause=clause, rows=names,
                meaning="areas of the walls")
        w.given("l_i", tuple(x.length for x in walls), "m", clause=clause, rows=names,
                meaning="lengths of the walls")
        w.compute("A_c", "sum(A_i * (0.2 + clip(l_i / H, 0, 0.9)) ** 2)", "m^2",
                  meaning="effective wall area", clause=f"{clause}, Eq. 4.8",
                  branch="the square is taken on the whole bracket, as in the print of 2004")
        w.compute("C_t", "0.075 / sqrt(A_c)", meaning="period coefficient, walls, H in m",
                  clause=f"{clause}, Eq. 4.7")
    else:
        w.given("C_t", facts()["period"][kind], meaning=f"period coefficient, {kind}, H in m",
                clause=clause)
    approximate = w.compute("T_a", "C_t * H ** 0.75", "s", meaning="approximate period",
                            clause=f"{clause}, Eq. 4.6")
    return PeriodAnswer(approximate, math.inf, w.close())


def base_shear(
    purpose: Purpose, site: SiteAnswer, system: SystemAnswer, periods: PeriodAnswer,
    computed: float | None, facts_: StructureFacts,
) -> BaseShearAnswer:
    """Fb = Sd(T1) m lambda (4.3.3.2.2), the same for forces and displacements."""
    w = Working(f"Base shear in {system.direction} for {purpose}",
                site.working, system.working, periods.working)
    if computed is None or not system.given.computed_period:
        t = w.compute("T_1", "T_a", "s", meaning="fundamental period", clause="4.3.3.2.2(3)",
                      branch="approximate period")
    else:
        t = w.given("T_1", computed, "s", meaning="fundamental period", clause="4.3.3.2.2(2)",
                    branch="mode with the largest effective mass in this direction")
    p = site.parameters
    if t < p["T_B"]:
        formula, governing = ("a_g * S * (2 / 3 + T_1 / T_B * (2.5 / q - 2 / 3))",
                              "ramp (Eq. 3.13)")
    elif t <= p["T_C"]:
        formula, governing = "a_g * S * 2.5 / q", "plateau (Eq. 3.14)"
    elif t <= p["T_D"]:
        formula, governing = ("max(a_g * S * 2.5 / q * T_C / T_1, beta_0 * a_g)",
                              "falling branch (Eq. 3.15)")
    else:
        formula, governing = ("max(a_g * S * 2.5 / q * T_C * T_D / T_1 ** 2, beta_0 * a_g)",
                              "falling branch beyond T_D (Eq. 3.16)")
    sd = w.compute("S_d", formula, "g", meaning="design spectrum at T_1", clause="3.2.2.5(4)",
                   branch=governing)
    symbol = "S_d"
    if purpose == "drift":
        w.given("S_e", float(site.spectrum(t)) / STANDARD_GRAVITY, "g",
                meaning="elastic spectrum at T_1", clause="3.2.2.2")
        symbol = "S_dd"
        bounded = w.compute("S_dd", "min(S_d, S_e / q_d)", "g", clause="4.3.4(1)",
                            meaning="ordinate for displacements, which need not exceed the "
                            "elastic ones")
        if bounded < sd * (1 - 1e-12):
            governing = "elastic spectrum (4.3.4(1))"
            sd = math.inf  # the least value no longer governs
    if t > p["T_C"] and sd <= p["beta"] * p["a_g"] * (1 + 1e-12):
        governing = "least value beta a_g (3.2.2.5)"
    full = t <= 2 * p["T_C"] and facts_.stories > 2
    w.given("lambda_m", 0.85 if full else 1.0, meaning="share of the mass in the first mode",
            clause="4.3.3.2.2(1)",
            branch="T_1 ≤ 2 T_C and more than two stories" if full else
            "T_1 > 2 T_C or at most two stories")
    w.given("W", facts_.weight, "force", meaning="weight of the seismic mass", clause="4.2.4")
    v = w.compute("F_b", f"{symbol} * W * lambda_m", "force", meaning="base shear",
                  clause="4.3.3.2.2(1), Eq. 4.5")
    return BaseShearAnswer(system.direction, purpose, t, v / facts_.weight, v, governing, w.close())


def distribution(
    system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
    heights: Sequence[float], shape: Sequence[float],
) -> Distribution:
    """Fi = Fb si mi / sum sj mj with the mode shape, or with heights in its place (4.3.3.2.3)."""
    w = Working(f"Story forces in {shear.direction} for {shear.purpose}", shear.working)
    clause = "4.3.3.2.3(3)"
    w.given("m_i", tuple(map(float, weights)), "force", meaning="weight of the level",
            clause=clause)
    if system.given.distribution == "mode shape":
        top = max(shape, key=abs)
        w.given("s_i", tuple(float(s / top) for s in shape), clause="4.3.3.2.3(2)",
                meaning="displacement in the fundamental mode, largest one")
        forces = w.compute_all("F_i", "F_b * s_i * m_i / sum(s_i * m_i)", "force",
                               meaning="force at the level", clause="4.3.3.2.3(2), Eq. 4.10")
        return Distribution(forces, w.close())
    w.given("z_i", tuple(map(float, heights)), "length", meaning="height above the base",
            clause=clause)
    forces = w.compute_all("F_i", "F_b * z_i * m_i / sum(z_i * m_i)", "force",
                           meaning="force at the level", clause=f"{clause}, Eq. 4.11")
    return Distribution(forces, w.close())


def separation(own: float, neighbor: float | None, same_floors: bool) -> SeparationAnswer:
    """Largest displacement to the property line; root of squares to a neighbor (4.4.2.7)."""
    w = Working("Separation")
    clause = "4.4.2.7"
    w.given("d_s1", own, "displacement", meaning="displacement of this building", clause=clause)
    if neighbor is None:
        found = w.compute("d_j", "d_s1", "displacement", meaning="least distance to the property "
                          "line", clause=f"{clause}(2)")
        return SeparationAnswer(found, w.close())
    w.given("d_s2", neighbor, "displacement", meaning="displacement of the neighbor", clause=clause)
    found = w.compute(
        "d_j", f"{'0.7 * ' if same_floors else ''}sqrt(d_s1 ** 2 + d_s2 ** 2)", "displacement",
        meaning="least distance to the neighbor, of the same property", clause=f"{clause}(2), (3)",
        branch="floors at the same levels" if same_floors else "floors at different levels")
    return SeparationAnswer(found, w.close())


def modal_findings(modes: ModalFacts) -> tuple[Finding, ...]:
    """Modes enough (4.3.3.3.1) and whether they may be combined by SRSS (4.3.3.3.2)."""
    found = []
    kept, t = modes.kept, modes.periods
    carried = modes.mass_ratios[:kept, :2].sum(axis=0)
    left = modes.mass_ratios[kept:, :2]
    enough = bool(np.all(carried >= 0.9 - 1e-12) or (left.size and left.max() <= 0.05))
    fallback = kept >= 3 * math.sqrt(modes.stories) and t[kept - 1] <= 0.20
    found.append(Finding(
        "modes used", "whole structure",
        Severity.OK if enough or fallback else Severity.WARNING,
        f"{kept} modes carry {carried[0]:.1%} in X and {carried[1]:.1%} in Y; the largest left out "
        f"has {left.max() if left.size else 0.0:.1%}."
        + ("" if enough else f" By the other rule {math.ceil(3 * math.sqrt(modes.stories))} modes "
           f"with the last at 0.20 s or less are needed; the last has {t[kept - 1]:.3f} s."),
        "4.3.3.3.1(3), 4.3.3.3.1(5)", "" if enough or fallback else "Raise analysis.modes."))
    close = [i for i in range(kept - 1) if t[i + 1] > 0.9 * t[i]]
    if modes.combination == "SRSS" and close:
        found.append(Finding(
            "combination of modes", f"modes {close[0] + 1} and {close[0] + 2}", Severity.EXCEEDED,
            f"Their periods {t[close[0]]:.3f} s and {t[close[0] + 1]:.3f} s are closer than 10 %: "
            "the modes are not independent and SRSS may not be used.", "4.3.3.3.2(2), (3)",
            "Leave modal_combination out, or take CQC."))
    return tuple(found)


def load_combinations(
    site: SiteAnswer, how: DirectionalCombination
) -> CombinationAnswer:
    """G + A_Ed + sum psi_2 Q (EN 1990, 6.4.3.4), once for each combination of directions."""
    given: SiteInput = site.given
    w = Working("Load combinations", site.working)
    clause = "EN 1990 6.4.3.4, 4.3.3.5"
    live, source = _psi2(LoadFacts("live", None, False), given)
    w.given("psi_2L", live, meaning="psi_2 of live load", clause="EN 1990 Table A1.1",
            branch=source)
    snow, source = _psi2(LoadFacts("snow", None, True), given)
    w.given("psi_2S", snow, meaning="psi_2 of snow", clause="EN 1990 Table A1.1", branch=source)
    rows = tuple(
        LoadCombination("seismic", name, 1.0, live, snow, quake, clause)
        for name, quake in quake_patterns(how)
    )
    return CombinationAnswer(
        rows, w.close(), "G + A_Ed + psi_2 Q. Storage takes psi_2 of category E. The vertical "
        "component, where 4.3.3.5.2 asks for it, joins with 0.30 of the others.")


def procedures(
    site: SiteAnswer, systems: Sequence[SystemAnswer], shears: Sequence[BaseShearAnswer]
) -> tuple[Finding, ...]:
    """Whether the lateral force method may be used (4.3.3.2.1)."""
    most = min(4 * site.parameters["T_C"], 2.0)
    found = []
    for system, s in zip(systems, shears, strict=True):
        regular = system.given.regular_in_elevation
        fine = s.period <= most and regular
        found.append(Finding(
            "lateral force method", f"direction {s.direction}",
            Severity.OK if fine else Severity.NOTE,
            f"T_1 = {s.period:.3f} s against {most:.3g} s"
            + ("" if regular else "; the building is not regular in elevation")
            + ("." if fine else ": the static forces are for comparison, the modal analysis "
               "governs (set drift.judged_by = \"spectrum\")."),
            "4.3.3.2.1(2)", "", s.period, most, "time"))
    return tuple(found)


def torsion(direction: Direction, ratio: float, where: str) -> TorsionAnswer:
    """Accidental eccentricity is always applied; the standard sets no limit on drift ratios."""
    found = Finding(
        "torsion", f"direction {direction}, {where}", Severity.NOTE if ratio > 1.2 else Severity.OK,
        f"Largest over average story drift is {ratio:.3f}. EN 1998-1 sets no limit on it; "
        "regularity in plan is as stated in the project (4.2.3.2).", "4.3.2, 4.3.3.2.4")
    return TorsionAnswer("", "", True, False, False, found)


def no_scale(direction: str, what: str, symbol: str) -> ScaleAnswer:
    """The standard does not scale a modal analysis to a static base shear."""
    w = Working(f"Scaling of {what} in {direction}")
    w.given(symbol, 1.0, meaning=f"factor on {what}", clause="4.3.3.3",
            branch="the standard does not scale")
    return ScaleAnswer(1.0, w.close())


def drift_limit(site: SiteAnswer, system: SystemAnswer, structure: str) -> DriftLimit:
    """d_r nu <= a h (4.4.3.2), written as a limit on d_r / h."""
    given: SiteInput = site.given
    w = Working(f"Drift limit in {system.direction}", site.working, system.working)
    w.given("a", facts()["drift"][structure], clause="4.4.3.2(1)",
            meaning="limit on d_r nu over story height", branch=structure)
    national(w, "nu", given.national, "nu", facts()["nu"][given.importance_class],
             clause="4.4.3.2(2)", meaning="reduction to the damage limitation action",
             branch=f"importance class {given.importance_class}")
    ratio = w.compute("a_r", "a / nu", meaning="allowable design drift over story height",
                      clause="4.4.3.2(1), Eq. 4.31 to 4.33")
    return DriftLimit(ratio, w.close())


def stability(
    direction: Direction, gravity: Floats, drift: Floats, shear: Floats, heights: Floats
) -> StabilityAnswer:
    """theta = Ptot dr / (Vtot h) and its bands 0.1, 0.2, 0.3 (4.4.2.2)."""
    w = Working(f"P-Delta in {direction}")
    write_second_order(
        w, ("P_tot", "d_r", "V_tot", "h"), (gravity, drift, shear, heights), "4.4.2.2(2)",
        {
            "d_r": "design interstory drift",
        },
    )
    theta = w.compute_all("theta", "P_tot * d_r / (V_tot * h)",
                          meaning="interstory drift sensitivity coefficient",
                          clause="4.4.2.2(2), Eq. 4.28")
    factor = np.where(theta > 0.1, 1.0 / np.maximum(1.0 - theta, 1e-9), 1.0)
    return StabilityAnswer(theta, 0.3, 0.1, 0.2, factor, "4.4.2.2", w.close())


