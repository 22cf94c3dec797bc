"""ASCE 7, 12.8: the equivalent lateral force procedure."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from undatum.errors import Fault, InputError
from undatum.standards import common
from undatum.standards.answers import (
    Amplification,
    BaseShearAnswer,
    Distribution,
    Eccentricity,
    PeriodAnswer,
    TorsionAnswer,
)
from undatum.standards.asce7 import diaphragms, torsion
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.inputs import SiteInput22
from undatum.standards.asce7.job import AsceJob
from undatum.standards.asce7.system import period_row
from undatum.standards.contract import LateralForces
from undatum.standards.facts import Bools, Floats, StaticLevels, TorsionFacts
from undatum.standards.terms import Direction, LimitState, Method
from undatum.units import STANDARD_GRAVITY, beside_feet, factor
from undatum.working import (
    Candidate,
    Choice,
    Pick,
    SectionKey,
    Working,
    first,
    largest,
    smallest,
)

_FOOT = factor("ft", "length")


class Forces(LateralForces):
    """The static procedure of one edition."""

    def __init__(self, job: AsceJob, edition: Edition) -> None:
        self.job, self.edition = job, edition

    # -- period --------------------------------------------------------------------------------

    def period(self, direction: Direction) -> PeriodAnswer:
        """Approximate period (Eq. 12.8-7) and its cap (12.8.2).

        The coefficients are those for heights in ft, the standard's primary unit, whatever the
        unit system of the project: the printed metric ones are rounded conversions of these.
        """
        job, edition = self.job, self.edition
        w = Working(SectionKey("period", direction), f"Period in {direction}", job.site.working,
                    job.systems[direction].working)
        w.given("h_n", job.facts.height / _FOOT, "ft", clause="11.2",
                meaning=f"structural height{beside_feet(job.facts.height)}")
        basis = job.asked[direction].period_basis
        if basis == "stories":
            approximate = self._by_stories(w, direction)
        elif basis == "walls":
            approximate = self._by_walls(w, direction)
        else:
            row = period_row(direction, job.asked[direction], edition)
            ct, x = edition.table("period")[row]
            clause = "12.8.2.1, Table 12.8-2"
            w.given("C_t", ct, meaning=f"period coefficient, {row}, height in ft", clause=clause)
            w.given("x", x, meaning="period exponent", clause=clause)
            approximate = w.compute("T_a", "C_t * h_n ** x", "s", meaning="approximate period",
                                    clause=edition.equation("12.8.2.1", "12.8-7"), empirical=True)
        cap = edition.table("period_cap")
        w.interpolate("C_u", "S_D1", cap["points"], cap["Cu"],
                      meaning="coefficient for the upper limit", clause="12.8.2, Table 12.8-1")
        most = w.compute("T_max", f"C_u * {w.by_standard('T_a')}", "s", clause="12.8.2",
                         meaning="upper limit on the computed period", cap="T_max")
        return PeriodAnswer(approximate, most, w.close())

    def _by_stories(self, w: Working, direction: Direction) -> float:
        """0.1 N for moment frames of up to twelve stories (Eq. 12.8-8)."""
        facts, system = self.job.facts, self.job.systems[direction]
        heights = np.asarray(facts.story_heights) / _FOOT
        early = self.edition.rule("stories_by_least_height")
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
                f"system.{direction}.period_basis", f"0.1 s for each story is not open: {wrong}",
                "take 'height'")])
        w.given("N", facts.stories, meaning="stories above the base", clause="12.8.2.1",
                branch=f"moment frames, at most twelve stories of {measure:.3g} ft "
                f"{'or more' if early else 'on average'}")
        return w.compute("T_a", "0.1 * N", "s", meaning="approximate period", empirical=True,
                         clause=self.edition.equation("12.8.2.1", "12.8-8"))

    def _by_walls(self, w: Working, direction: Direction) -> float:
        """0.0019 h_n / sqrt(C_w) from the walls of the lowest story (Eq. 12.8-9 and 12.8-10)."""
        facts, edition = self.job.facts, self.edition
        walls = common.walls_along(direction, facts)
        late = edition.rule("wall_period") == "late"
        if late and facts.height > 120 * _FOOT * (1 + 1e-9):
            raise InputError([Fault(
                f"system.{direction}.period_basis", "the wall formula is for heights up to "
                f"120 ft, this is {facts.height / _FOOT:.4g} ft{beside_feet(facts.height)}",
                "take 'height'")])
        clause = edition.equation("12.8.2.1", "12.8-10")
        w.given("A_B", common.base_area_of(facts) / _FOOT**2, "ft^2", meaning="area of the base",
                clause=clause)
        names = tuple(x.name for x in walls)
        w.given("A_i", tuple(x.area / _FOOT**2 for x in walls), "ft^2", clause=clause,
                meaning="web areas of the walls", rows=names)
        w.given("D_i", tuple(x.length / _FOOT for x in walls), "ft", clause=clause, rows=names,
                meaning=f"lengths of the walls{beside_feet(*(x.length for x in walls))}")
        if late:
            formula = "100 / A_B * sum(A_i / (1 + 0.83 * (h_n / D_i) ** 2))"
        else:
            w.given("h_i", tuple(x.height / _FOOT for x in walls), "ft", clause=clause, rows=names,
                    meaning=f"heights of the walls{beside_feet(*(x.height for x in walls))}")
            formula = "100 / A_B * sum((h_n / h_i) ** 2 * A_i / (1 + 0.83 * (h_i / D_i) ** 2))"
        w.compute("C_w", formula, meaning="wall coefficient", clause=clause)
        return w.compute("T_a", "0.0019 / sqrt(C_w) * h_n", "s", meaning="approximate period",
                         clause=edition.equation("12.8.2.1", "12.8-9"), empirical=True)

    # -- base shear ----------------------------------------------------------------------------

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """Cs with every limit, and V. For drift the period is not capped.

        From the 2010 edition on the least value of Eq. 12.8-5 is dropped for drift.
        """
        job, edition = self.job, self.edition
        w = common.shear_working(direction, state, job.site.working,
                                 job.systems[direction].working, period.working)
        t = self._period_used(w, direction, state, computed)
        cs = self._category_a(w) if job.site.category == "A" else \
            self._coefficient(w, direction, state, t)
        w.given("W", job.facts.weight, "force", meaning="effective seismic weight",
                clause="12.7.2")
        v = w.compute("V", "C_s * W", "force", meaning="base shear",
                      clause=edition.equation("12.8.1", "12.8-1"))
        return common.base_shear(w, direction, state, cs, v)

    def _category_a(self, w: Working) -> Choice:
        """1 % of the weight at every level is all that category A asks for (11.7)."""
        return w.pick("C_s", first(Candidate(
            "category A", "0.01", "1 % of the weight at each level, category A",
            self.edition.clause("lateral_force_a"))),
            meaning="lateral force over weight, category A")

    def _period_used(
        self, w: Working, direction: Direction, state: LimitState, computed: float | None
    ) -> float:
        if computed is None or not self.job.asked[direction].computed_period:
            return common.uncomputed_period(
                w, "T", "T_a", "12.8.2", ("approximate period", "capped at C_u T_a"))
        w.given("T_c", computed, "s", meaning="computed period", clause="12.8.2",
                branch="mode with the largest effective mass in this direction")
        if state.role == "drift":
            return w.compute("T", "T_c", "s", meaning="period used", key="computed",
                             clause=self.edition.clause("period_drift"),
                             branch="computed period without the cap")
        return w.pick(
            "T", smallest(Candidate("computed", "T_c", "computed period, below its cap"),
                          Candidate("capped", "T_max", "capped at C_u T_a")),
            "s", meaning="period used", clause="12.8.2", cap="T_max").value

    def _coefficient(
        self, w: Working, direction: Direction, state: LimitState, t: float
    ) -> Choice:
        """C_s (12.8.1.1): plateau or falling branch, not below the least values."""
        edition, p = self.edition, self.job.site.parameters

        def eq(number: str) -> str:
            return f" (Eq. {number})" if edition.rule("equation_numbers") else ""

        at = edition.equation
        sds = self._short_period(w, direction)
        w.compute("C_s1", f"{sds} / (R / I_e)", meaning="plateau", clause=at("12.8.1.1", "12.8-2"))
        # Exception 2 of 11.4.8: class D keeps the plateau to 1.5 T_S and takes 1.5 times beyond.
        exception = p["exception"] == 2
        held = exception and t <= 1.5 * p["T_S"]
        above = Candidate(
            "plateau", "C_s1", "plateau (Eq. 12.8-2, 11.4.8 exception 2: T ≤ 1.5 T_S)" if held else
            "plateau" + eq("12.8-2"), at("12.8.1.1", "12.8-2"))
        falling = self._falling(w, t, "1.5 * " if exception else "") if not held else None
        more = [Candidate(
            "falling", "C_s2", ("falling branch" if t <= p["T_L"] else
                                "falling branch beyond T_L") + eq(falling), at("12.8.1.1", falling)
        )] if falling else []
        if self.edition.rule("ordinate_method") and self._multi_period():
            w.given("S_aT", float(self.job.site.spectrum(t)) / STANDARD_GRAVITY, "g",
                    meaning="ordinate of the multi-period design spectrum at T", clause="12.8.1.1")
            w.compute("C_sT", "S_aT / (R / I_e)", meaning="from the ordinate at T",
                      clause="12.8.1.1")
            usual: Candidate | Pick = largest(
                Candidate("ordinate", "C_sT", "ordinate of the multi-period spectrum at T",
                          "12.8.1.1"), smallest(above, *more))
        else:
            usual = smallest(above, *more)
        limits = []
        dropped = state.role == "drift" and edition.rule("drift_drops_minimum")
        if not dropped:
            w.compute("C_s3", f"max(0.044 * {sds} * I_e, 0.01)", meaning="least value",
                      clause=at("12.8.1.1", "12.8-5"))
            limits.append(Candidate("least", "C_s3", "least value" + eq("12.8-5"),
                                    at("12.8.1.1", "12.8-5")))
        if p["S_1"] >= 0.6:
            w.compute("C_s4", "0.5 * S_1 / (R / I_e)", meaning="least value where S_1 ≥ 0.6",
                      clause=at("12.8.1.1", "12.8-6"))
            limits.append(Candidate("least near faults", "C_s4",
                                    "least value near faults" + eq("12.8-6"),
                                    at("12.8.1.1", "12.8-6")))
        both = "the larger of the methods by ordinate and by S_DS and S_D1, as the print was not " \
            "at hand" if isinstance(usual, Pick) and usual.how == "largest" else ""
        note = "the least value 0.044 S_DS I_e need not be considered for drift " \
               f"({edition.clause('minimum_drift')})" if dropped else ""
        return w.pick("C_s", largest(usual, *limits), clause="12.8.1.1",
                      meaning="seismic response coefficient",
                      note="; ".join(x for x in (both, note) if x))

    def _multi_period(self) -> bool:
        given = self.job.given
        return isinstance(given, SiteInput22) and given.multi_period is not None

    def _short_period(self, w: Working, direction: Direction) -> str:
        """The symbol of the short-period acceleration for C_s, capped where asked (12.8.1.3)."""
        if not self.job.asked[direction].cap_on_sds:
            return "S_DS"
        if self.edition.rule("sds_cap") == "S_DS":
            w.compute("S_DSc", "max(min(S_DS, 1), 0.7 * S_DS)", "g", clause="12.8.1.3",
                      meaning="short-period acceleration for C_s")
        else:  # F_a no longer changes beyond S_S = 1.25
            w.compute("S_DSc", "S_DS * min(1, 1.5 / S_S)", "g", clause="12.8.1.3",
                      meaning="short-period acceleration for C_s, with S_S of 1.5")
        return "S_DSc"

    def _falling(self, w: Working, t: float, more: str) -> str:
        """Write the falling branch and return the number of its equation."""
        clause = "11.4.8 exception 2, 12.8.1.1" if more else "12.8.1.1"
        at = self.edition.equation
        long = t > self.job.site.parameters["T_L"]
        w.pick("C_s2", first(
            Candidate("long", f"{more}S_D1 * T_L / (T ** 2 * (R / I_e))",
                      clause=at(clause, "12.8-4"), applies=long),
            Candidate("usual", f"{more}S_D1 / (T * (R / I_e))", clause=at(clause, "12.8-3"))),
            meaning="falling branch, T > T_L" if long else "falling branch, T ≤ T_L",
            empirical=True)
        return "12.8-4" if long else "12.8-3"

    # -- over the height and in plan -----------------------------------------------------------

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """Vertical distribution (Eq. 12.8-11 and 12.8-12), top down."""
        w, clause, at = common.forces_working(shear), "12.8.3", self.edition.equation
        if self.job.site.category == "A":
            w.given("w_x", tuple(map(float, levels.weights)), "force", clause="12.7.2",
                    meaning="weight of the level")
            forces = w.compute_all("F_x", "w_x / sum(w_x) * V", "force",
                                   meaning="force at the level",
                                   clause=self.edition.clause("lateral_force_a"))
            return Distribution(forces, w.close())
        w.pick("k", first(
            Candidate("short", "1", "T ≤ 0.5 s", applies=shear.period <= 0.5),
            Candidate("long", "2", "T ≥ 2.5 s", applies=shear.period >= 2.5),
            Candidate("between", "1 + (T - 0.5) / 2", "between 0.5 s and 2.5 s")),
            meaning="exponent of the distribution", clause=clause, empirical=True)
        common.level_lines(w, levels, "w_x", "h_x", ("12.7.2", "11.3"))
        w.compute_all("C_vx", "w_x * h_x ** k / sum(w_x * h_x ** k)", meaning="share of the level",
                      clause=at("12.8.3", "12.8-12"))
        forces = w.compute_all("F_x", "C_vx * V", "force", meaning="force at the level",
                               clause=at("12.8.3", "12.8-11"))
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        """5 % (12.8.4.2), where the structure is such that it has to be included."""
        included = torsion is None or torsion.include_accidental
        return Eccentricity(0.05 if included else 0.0, 1.0, "12.8.4.2")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        return torsion.judge(direction, facts, self.job.site, self.edition)

    def torsion_of_structure(
        self, answers: Mapping[Direction, TorsionAnswer]
    ) -> dict[Direction, TorsionAnswer]:
        """An irregularity in one direction is one of the structure (12.8.4.2, 12.12.1)."""
        return common.torsion_everywhere(answers, "12.8.4.2, 12.12.1")

    def amplification(self, direction: Direction, largest: Floats, average: Floats
                      ) -> Amplification:
        return common.torsion_amplification(
            direction, largest, average, "12.8.4.3",
            self.edition.equation("12.8.4.3", "12.8-14"))

    def diaphragms(
        self, distribution: Distribution, weights: Floats, carried: Bools
    ) -> Distribution:
        return diaphragms.forces(self.job, self.edition, distribution, weights, carried)
