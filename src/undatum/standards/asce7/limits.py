"""ASCE 7: story drift limits, P-Delta, separation; with them the whole-structure part."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.errors import Fault, InputError
from undatum.standards import common, irregular
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    DriftLimit,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    SeparationAnswer,
    StabilityAnswer,
    TorsionAnswer,
)
from undatum.standards.asce7 import combinations, irregularity, procedures
from undatum.standards.asce7.facts import Edition, system_rows
from undatum.standards.asce7.job import AsceJob
from undatum.standards.contract import WholeStructure
from undatum.standards.facts import GapFacts, SecondOrderFacts, ShapeFacts
from undatum.standards.terms import Direction, DirectionalCombination, LimitState
from undatum.working import Candidate, SectionKey, Working, first

#: Rows of Table 12.12-1 as they are keyed in the data.
TOLERANT = "low-rise with drift-tolerant finishes"
MASONRY = ("masonry cantilever wall", "other masonry wall")


class Structure(WholeStructure):
    """What one edition says of the whole structure."""

    def __init__(self, job: AsceJob, edition: Edition) -> None:
        self.job, self.edition = job, edition

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        return irregularity.judge(self.job, shape, torsion, self.edition)

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        allowed, findings = procedures.permitted(self.job, shears, regularity, self.edition)
        return ProcedureAnswer(allowed, (
            *procedures.short_period_conditions(self.job, periods, shears, computed),
            *procedures.conditions(self.job, shears, regularity, self.edition),
            *(common.gross_stiffness(self.job.facts, "12.7.3")
              if self.job.site.category != "A" else ()),
            *findings,
        ))

    @property
    def types(self) -> tuple[str, ...]:
        return tuple(irregular.WHAT)

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer:
        return combinations.load_combinations(self.job, how, self.edition)

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """Allowable drift ratio (Table 12.12-1), over rho for moment frames in D, E, F.

        The row follows from the lateral system: masonry shear walls never take that of other
        structures. None is asked for in category A, nor of one story whose finishes tolerate drift.
        """
        edition, site, system = self.edition, self.job.site, self.job.systems[direction]
        structure = self._drift_row(direction, structure)
        if site.category == "A" or (structure == TOLERANT and self.job.facts.stories == 1):
            w = Working(SectionKey("drift limit", direction, state.key),
                        f"Drift limit in {direction}", system.working)
            clause, reason = ("11.7", "category A asks for none") if site.category == "A" else (
                "12.12.1, Table 12.12-1", "one story whose finishes tolerate the drift")
            w.given("a", "none", meaning="allowable story drift over story height", clause=clause,
                    branch=reason)
            return DriftLimit(None, clause, w.close(), reason)
        column = {"I": 0, "II": 0, "III": 1, "IV": 2}[site.risk]
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    system.working)
        w.given("a", edition.table("drift")[structure][column], clause="12.12.1, Table 12.12-1",
                meaning="allowable story drift over story height",
                branch=f"{structure}, {edition.clause('risk')} {site.risk}", within=(0.0, 0.1))
        choice = w.pick("a_rho", first(
            Candidate("moment frames", "a / rho", clause="12.12.1.1",
                      applies=system.group == "moment frame" and site.category in "DEF"),
            Candidate("usual", "a", clause="12.12.1")),
            meaning="allowable story drift over story height, over rho for moment frames in D, E, "
            "F")
        return DriftLimit(choice.value, choice.clause, w.close())

    def _drift_row(self, direction: Direction, structure: str | None) -> str:
        """The row of Table 12.12-1 for a direction. Raises InputError where the one asked is not.

        Coupling of masonry walls is not in the description, so that cantilevers must be stated.
        """
        rows, asked = system_rows(self.edition.key), self.job.asked
        masonry = {d: any(rows[name].kind == "masonry wall"
                          for name in (given.row, *given.with_rows)) for d, given in asked.items()}
        stories, wrong = self.job.facts.stories, ""
        if structure == TOLERANT:
            most = self.edition.table("drift_stories")[TOLERANT]
            if stories > most:
                wrong = f"is for buildings of at most {most} stories above the base; this has " \
                        f"{stories}"
            elif any(masonry.values()):
                wrong = "is for structures other than masonry shear walls"
        elif structure == "other" and masonry[direction]:
            wrong = f"does not hold for the masonry shear walls in {direction}"
        elif structure in MASONRY and not any(masonry.values()):
            wrong = "is for masonry shear walls, and no row of the lateral systems is one"
        if wrong:
            raise InputError([Fault("drift.structure", f"{structure!r} {wrong}",
                                    "leave it out: the row then follows from the system")])
        if structure is None or (structure in MASONRY and not masonry[direction]):
            return "other masonry wall" if masonry[direction] else "other"
        return structure

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
        if self.job.site.category == "A":
            return StabilityAnswer(theta, None, None, None, np.ones_like(theta), "11.7", w.close(),
                                   "category A asks for no such check")
        amplification = common.second_order_factor(theta, 0.10, limit)
        return StabilityAnswer(theta, limit, 0.10, limit, amplification, "12.8.7", w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer | None:
        """delta_M, and the root of the squares to a neighbor (12.12.3); category A is exempt."""
        if self.job.site.category == "A":
            return None
        w, clause = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working), "12.12.3"
        w.given("delta_M1", gap.own, "displacement", clause=clause,
                meaning="inelastic displacement of this building",
                branch="under the forces for drift, whose period has no cap")
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
