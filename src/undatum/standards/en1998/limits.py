"""EN 1998-1, 4.2.3, 4.3.4 and 4.4: regularity, displacements and what they are held against."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from undatum.finding import Finding, Severity
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    DriftLimit,
    LoadCombination,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    SeparationAnswer,
    StabilityAnswer,
    TorsionAnswer,
)
from undatum.standards.contract import WholeStructure
from undatum.standards.en1998.facts import behavior_rows, facts
from undatum.standards.en1998.job import EnJob
from undatum.standards.en1998.regularity import FLEXIBLE, held_against, judge
from undatum.standards.en1998.site import national
from undatum.standards.en1998.static import lateral_force_period
from undatum.standards.en1998.weight import psi2
from undatum.standards.facts import GapFacts, LoadFacts, SecondOrderFacts, ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, LimitState
from undatum.units import said
from undatum.working import Candidate, SectionKey, Working, first


class Structure(WholeStructure):
    """What EN 1998-1 says of the whole structure."""

    #: V_tot of the seismic design situation, 4.4.2.2(2).
    second_order_shear: Literal["drift", "forces"] = "forces"

    def __init__(self, job: EnJob) -> None:
        self.job = job

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        return judge(shape)

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        """Whether the lateral force method may be used (4.3.3.2.1).

        Where a criterion of regularity in elevation fails it may not, whatever is stated.
        """
        most = lateral_force_period(self.job)
        found = [*held_against(self.job.asked, regularity.found),
                 *self._flexible(regularity.found)]
        judged: dict[Direction, bool] = {}
        for d, s in shears.items():
            regular = self.job.asked[d].regular_in_elevation \
                and "elevation" not in regularity.found
            fine = judged[d] = s.period <= most and regular and not self._tall(d)
            found.append(Finding(
                "lateral force method", f"direction {d}",
                Severity.OK if fine else Severity.NOTE,
                f"T_1 = {s.period:.3f} s against {most:.3g} s"
                + ("" if regular else "; the building is not regular in elevation")
                + self._tall(d)
                + ("." if fine else ": the static forces are for comparison, the modal analysis "
                                    "governs."), "4.3.3.2.1(2)", "", s.period, most, "time"))
        both = all(judged.values())  # in the two main directions, 4.3.3.2.1(2)a)
        if any(judged.values()) and not both:
            found.append(Finding(
                "lateral force method", "whole structure", Severity.NOTE,
                "Its conditions are met in one main direction only, so it is not permitted: the "
                "modal analysis governs in both.", "4.3.3.2.1(2)a)"))
        return ProcedureAnswer(dict.fromkeys(judged, both), tuple(found))

    def _tall(self, direction: Direction) -> str:
        """The formulas with C_t are for heights up to 40 m."""
        asked = self.job.asked[direction]
        by_height = not asked.computed_period and asked.period_basis != "sway"
        tall = self.job.facts.height > 40.0 * (1 + 1e-9)
        return f"; the period is by a formula for heights up to {said(40.0)}, this is " \
               f"{said(self.job.facts.height)}" if by_height and tall else ""

    def _flexible(self, kinds: Sequence[str]) -> list[Finding]:
        """Concrete that is torsionally flexible takes the factor of that row (5.2.2.1(4))."""
        if FLEXIBLE not in kinds:
            return []
        row, found = behavior_rows()["concrete torsionally flexible"], []
        for d, given in self.job.asked.items():
            own = behavior_rows().get(given.row)
            if own is None or own.material != "concrete" or given.ductility not in row.basic:
                continue
            share = 1.0 if given.regular_in_elevation else 0.8
            most = max(1.5, row.basic[given.ductility][0] * share)
            q = self.job.systems[d].force_divisor
            if q > most * (1 + 1e-9):
                found.append(Finding(
                    "torsionally flexible", f"system {d}", Severity.EXCEEDED,
                    "The torsional radius is below the radius of gyration: a torsionally flexible "
                    f"system, for which q is at most {most:.3g} in {given.ductility}; {q:.3g} is "
                    "used.", "5.2.2.1(4), 5.2.2.2, Table 5.1",
                    'Take the row "concrete torsionally flexible", or stiffen the perimeter.',
                    q, most))
        return found

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """d_r nu <= a h (4.4.3.2), written as a limit on d_r / h."""
        given = self.job.given
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    self.job.site.working, self.job.systems[direction].working)
        row = structure or next(iter(facts()["drift"]))
        w.given("a", facts()["drift"][row], clause="4.4.3.2(1)", within=(0.0, 0.1),
                meaning="limit on d_r nu over story height", branch=row)
        national(w, "nu", given.national, "nu", facts()["nu"][given.importance_class],
                 clause="4.4.3.2(2)", meaning="reduction to the damage limitation action",
                 branch=f"importance class {given.importance_class}")
        clause = "4.4.3.2(1), Eq. 4.31 to 4.33"
        ratio = w.compute("a_r", "a / nu", meaning="allowable design drift over story height",
                          clause=clause, within=(0.0, 0.2))
        return DriftLimit(ratio, clause, w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """theta = Ptot dr / (Vtot h) and its bands 0.1, 0.2, 0.3 (4.4.2.2)."""
        w = common.second_order(facts, ("P_tot", "d_r", "V_tot", "h"), "4.4.2.2(2)",
                                {"d_r": "design interstory drift"})
        theta = w.compute_all("theta", "P_tot * d_r / (V_tot * h)",
                              meaning="interstory drift sensitivity coefficient",
                              clause="4.4.2.2(2), Eq. 4.28")
        factor = common.second_order_factor(theta, 0.1, 0.3)
        return StabilityAnswer(theta, 0.3, 0.1, 0.2, factor, "4.4.2.2", w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer:
        """Largest displacement to the property line; root of squares to a neighbor (4.4.2.7)."""
        w, clause = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working), "4.4.2.7"
        w.given("d_s1", gap.own, "displacement", meaning="displacement of this building",
                clause=clause)
        if gap.neighbor is not None:
            w.given("d_s2", gap.neighbor, "displacement", meaning="displacement of the neighbor",
                    clause=clause)
        both = f"{clause}(2), (3)"
        found = w.pick("d_j", first(
            Candidate("property line", "d_s1", clause=f"{clause}(2)",
                      applies=gap.neighbor is None),
            Candidate("same floors", "0.7 * sqrt(d_s1 ** 2 + d_s2 ** 2)",
                      "floors at the same levels", both, gap.same_floors),
            Candidate("other floors", "sqrt(d_s1 ** 2 + d_s2 ** 2)",
                      "floors at different levels", both)),
            "displacement", meaning="least distance to the property line"
            if gap.neighbor is None else "least distance to the neighbor, of the same property")
        return SeparationAnswer(found.value, found.clause, w.close())

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer:
        """G + A_Ed + sum psi_2 Q (EN 1990, 6.4.3.4), for each combination of directions."""
        w = Working(SectionKey("combinations"), "Load combinations", self.job.site.working)
        clause = "EN 1990 6.4.3.4, 4.3.3.5"
        for symbol, kind, roof, what in (("psi_2L", "live", False, "live load of the site's use"),
                                         ("psi_2S", "snow", True, "snow")):
            value, source = psi2(LoadFacts(kind, None, roof), self.job.given)
            w.given(symbol, value, meaning=f"psi_2 of {what}; every load takes its own",
                    branch=source, clause="EN 1990 Table A1.1", replaceable=False)
        alone = dict.fromkeys(self.job.asked, 1.0)
        patterns = common.three_patterns(how, alone) if vertical else [
            (name, (*quake, 0.0)) for name, quake in common.quake_patterns(how, alone)]
        rows = tuple(
            LoadCombination("seismic", name, 1.0, 1.0, 1.0, (x, y),
                            clause + (", 4.3.3.5.2" if z else ""), z)
            for name, (x, y, z) in patterns
        )
        return CombinationAnswer(
            rows, w.close(), "G + A_Ed + psi_2 Q, psi_2 load by load: table load_shares. "
            + ("The vertical component is found apart and joins (4.3.3.5.2)." if vertical else
               "The vertical component, where 4.3.3.5.2 asks for it, joins with 0.30 of the "
               "others."),
            dict.fromkeys(DIRECTIONS, 1.0))
