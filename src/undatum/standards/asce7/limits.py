"""ASCE 7: story drift limits, P-Delta, separation; with them the whole-structure part."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.errors import Fault, InputError
from undatum.finding import Finding
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    DriftLimit,
    GapFacts,
    LimitState,
    PeriodAnswer,
    SecondOrderFacts,
    SeparationAnswer,
    ShapeFacts,
    StabilityAnswer,
    TorsionAnswer,
)
from undatum.standards.asce7 import combinations, irregularity, procedures
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.job import AsceJob
from undatum.standards.contract import WholeStructure
from undatum.working import Candidate, SectionKey, Working, first


class Structure(WholeStructure):
    """What one edition says of the whole structure."""

    def __init__(self, job: AsceJob, edition: Edition) -> None:
        self.job, self.edition = job, edition

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
        return irregularity.judge(self.job.site, shape, torsion, self.edition)

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        irregular: Sequence[str],
    ) -> tuple[Finding, ...]:
        return (
            *procedures.short_period_conditions(self.job, periods, shears, computed),
            *procedures.exception_3(self.job.site, shears),
            *procedures.conditions(self.job, shears, irregular, self.edition),
            *procedures.permitted(self.job, shears, irregular, self.edition),
        )

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str]
    ) -> CombinationAnswer:
        return combinations.load_combinations(self.job, how, self.edition)

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str, period: float
    ) -> DriftLimit:
        """Allowable drift ratio (Table 12.12-1), over rho for moment frames in D, E, F."""
        edition, site, system = self.edition, self.job.site, self.job.systems[direction]
        most, stories = edition.table("drift_stories").get(structure), self.job.facts.stories
        if most is not None and stories > most:
            raise InputError([Fault(
                "drift.structure", f"{structure!r} is for buildings of at most {most} stories "
                f"above the base; this has {stories}", "take 'other'")])
        column = {"I": 0, "II": 0, "III": 1, "IV": 2}[site.risk]
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    system.working)
        w.given("a", edition.table("drift")[structure][column], clause="12.12.1, Table 12.12-1",
                meaning="allowable story drift over story height",
                branch=f"{structure}, risk category {site.risk}", within=(0.0, 0.1))
        choice = w.pick("a_rho", first(
            Candidate("moment frames", "a / rho", clause="12.12.1.1",
                      applies=system.group == "moment frame" and site.category in "DEF"),
            Candidate("usual", "a", clause="12.12.1")),
            meaning="allowable story drift over story height, over rho for moment frames in D, E, "
            "F")
        return DriftLimit(choice.value, choice.clause, w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """Coefficient by story (Eq. 12.8-16), its limit (12.8-17) and the amplification."""
        edition = self.edition
        w = common.second_order(
            facts, ("P_x", "Delta", "V_x", "h_sx"), "12.8.7",
            {
                "P_x": "gravity load at and above the level",
                "Delta": "design story drift at the center of mass",
                "V_x": "story shear with that drift",
                "h_sx": "story height below the level",
            }, self.job.site.working, self.job.systems[facts.direction].working)
        formula = "P_x * Delta * I_e / (V_x * h_sx * C_d)"
        if not edition.rule("theta_has_importance"):
            formula = "P_x * Delta / (V_x * h_sx * C_d)"
        theta = w.compute_all("theta", formula, meaning="stability coefficient",
                              clause=edition.equation("12.8.7", "12.8-16"))
        limit = w.compute("theta_max", "min(0.5 / (beta * C_d), 0.25)",
                          meaning="limit on the coefficient", within=(0.0, 1.0),
                          clause=edition.equation("12.8.7", "12.8-17"))
        amplification = common.second_order_factor(theta, 0.10, limit)
        return StabilityAnswer(theta, limit, 0.10, limit, amplification, "12.8.7", w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer:
        """delta_M, and the root of the squares to a neighbor (12.12.3)."""
        w, clause = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working), "12.12.3"
        w.given("delta_M1", gap.own, "displacement", clause=clause,
                meaning="inelastic displacement of this building")
        if gap.neighbor is not None:
            w.given("delta_M2", gap.neighbor, "displacement", meaning="that of the neighbor",
                    clause=clause)
        squares = self.edition.rule("separation_by_squares")
        found = w.pick("delta_MT", first(
            Candidate("property line", "delta_M1", clause=clause, applies=gap.neighbor is None),
            Candidate("squares", "sqrt(delta_M1 ** 2 + delta_M2 ** 2)", applies=squares,
                      clause=self.edition.equation(clause, "12.12-2")),
            Candidate("sum", "delta_M1 + delta_M2", clause=clause,
                      words="this edition gives no rule to combine: their sum")),
            "displacement", meaning="least distance to the property line"
            if gap.neighbor is None else "least distance to the neighbor")
        return SeparationAnswer(found.value, found.clause, w.close())
