"""IS 1893 (Part 1): weight, period, base shear, eccentricity and torsion."""

from __future__ import annotations

from undatum.finding import Finding, Severity
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    Distribution,
    Eccentricity,
    PeriodAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.standards.contract import LateralForces, WeightRule
from undatum.standards.facts import (
    CarriedFloors,
    LiveReduction,
    LoadFacts,
    StaticLevels,
    TorsionFacts,
)
from undatum.standards.is1893.job import IndianJob
from undatum.standards.is1893.site import facts
from undatum.standards.is1893.system import system_rows
from undatum.standards.terms import Direction, LimitState, Method
from undatum.working import Candidate, SectionKey, Working, first, largest


class SeismicWeight(WeightRule):
    """Dead load and a share of the imposed load by its intensity (7.3, 7.4)."""

    def __init__(self, edition: str) -> None:
        self.edition = edition

    def share(self, load: LoadFacts) -> WeightShare:
        if load.kind in {"dead", "cladding", "partition", "equipment", "roof garden"}:
            return WeightShare(1.0, "7.4", "dead load")
        if load.kind == "snow":
            if self.edition == "2016" and (
                    load.intensity is None or load.intensity > 1.5e3 * (1 + 1e-9)):
                return WeightShare(0.2, "7.3",
                                   "20 % of snow above 1.5 kN/m2 (check against the print)")
            return WeightShare(0.0, "7.3", "snow does not count here")
        if load.on_roof or load.kind == "roof live":
            return WeightShare(0.0, "7.3.2", "imposed load on the roof does not count")
        table = "7.3.1, Table 10" if self.edition == "2016" else "7.3.1, Table 8"
        if load.intensity is not None and load.intensity <= 3.0e3 * (1 + 1e-9):
            return WeightShare(0.25, table, "25 % of imposed load up to 3 kN/m2")
        return WeightShare(0.50, table, "50 % of imposed load above 3 kN/m2")

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        return 1.0, ""

    def combination(self, load: LoadFacts) -> WeightShare:
        """Imposed load with its share in the seismic weight, by its own intensity (7.3.3)."""
        if self.effect(load.kind) == "live":
            return self.share(load)
        return WeightShare(1.0, "6.3.1", "in full")

    def live_reduction(self, carried: CarriedFloors) -> LiveReduction:
        """By the floors a column carries, the roof included (IS 875 (Part 2):1987, 3.2.1).

        Storage, garages and machinery are not told apart: they are not reduced.
        """
        n = carried.floors + carried.roof
        share = 0.0 if n < 2 else 0.5 if n > 10 else 0.4 if n > 4 else (n - 1) / 10
        return LiveReduction(1 - share, "IS 875 (Part 2):1987, 3.2.1",
                             f"{n} floors with the roof")


class Forces(LateralForces):
    """The equivalent static method of one edition."""

    def __init__(self, job: IndianJob, edition: str) -> None:
        self.job, self.edition = job, edition
        self.late = edition == "2016"

    def period(self, direction: Direction) -> PeriodAnswer:
        """Ta: c h^0.75 for bare moment frames, 0.09 h/sqrt(d) for others. It is always used."""
        given, structure = self.job.asked[direction], self.job.facts
        w = Working(SectionKey("period", direction), f"Period in {direction}",
                    self.job.site.working, self.job.systems[direction].working)
        clause = "7.6.2" if self.late else "7.6.1, 7.6.2"
        kind = system_rows(self.edition)[given.row].period
        w.given("h", structure.height, "m", meaning="height of the building", clause=clause,
                replaceable=given.period is None)
        if given.period is not None:
            ta = w.given("T_a", given.period, "s", meaning="approximate period", clause=clause,
                         branch=f"project: {given.reason}")
        elif kind != "other" and not given.infilled:
            w.given("c", facts()["period"][kind], meaning=f"coefficient, bare {kind}",
                    clause=clause)
            ta = w.compute("T_a", "c * h ** 0.75", "s", meaning="approximate period",
                           clause=clause, empirical=True)
        else:
            along = common.plan_of(structure)[0 if direction == "X" else 1]
            w.given("d", along, "m", meaning=f"base dimension along {direction}", clause=clause)
            ta = w.compute("T_a", "0.09 * h / sqrt(d)", "s", meaning="approximate period",
                           clause=clause, empirical=True)
        return PeriodAnswer(ta, ta, w.close())

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """VB = Ah W with Ta; 2016: the plateau starts at T = 0 and there is a least value."""
        job = self.job
        w = common.shear_working(direction, state, job.site.working,
                                 job.systems[direction].working, period.working)
        t, site = period.approximate, job.site
        symbol = "T_a"
        if state.role == "drift" and not self.late and computed is not None:
            symbol = "T_c"  # for displacements the computed period may be taken (7.11.1)
            t = w.given("T_c", computed, "s", meaning="computed period", clause="7.11.1",
                        branch="mode with the largest effective mass in this direction")
        self._ordinate(w, t, symbol)
        formula = "Z / 2 * S_a / (R / I)" + (" * m_xi" if site.parameters["m"] != 1.0 else "")
        branch = w.close()["S_a"]
        w.compute("A_h", formula, meaning="design horizontal acceleration coefficient",
                  clause="6.4.2")
        usual = Candidate(branch.key, "A_h", branch.branch)
        use = largest(usual)
        if not self.late and t <= 0.1:
            use = largest(usual, Candidate("Z/2", "Z / 2", "Z/2 for T up to 0.1 s (6.4.2)"))
        if self.late:
            w.given("rho", facts()["least"][site.category], clause="7.2.2, Table 7",
                    meaning="least base shear over weight", within=(0.0, 1.0))
            use = largest(*use.candidates, Candidate("least", "rho", "least value (7.2.2)"))
        choice = w.pick("A_hd", use, meaning="coefficient of the design base shear",
                        clause="7.6.1, 7.2.2" if self.late else "7.5.3, 6.4.2")
        w.given("W", job.facts.weight, "force", meaning="seismic weight", clause="7.4")
        v = w.compute("V_B", "A_hd * W", "force", meaning="design base shear",
                      clause="7.6.1" if self.late else "7.5.3")
        weight = w.value("W")
        return BaseShearAnswer(direction, state, t, v / weight, v, weight, choice.key,
                               choice.words, choice.clause, w.close(),
                               "approximate period" if symbol == "T_a" else
                               "computed period, for displacements")

    def _ordinate(self, w: Working, t: float, symbol: str) -> None:
        """Sa/g at the period of that symbol."""
        site, clause = self.job.site, "6.4.2" if self.late else "6.4.5"
        corner = site.parameters["T_2"]
        rising = t < 0.1 and not self.late
        constant = t > 4.0 and self.late
        if not rising and t > corner:
            site.spectrum(t)  # says so where the edition gives no ordinate
        if constant:
            w.given("S_a", facts()["beyond"][site.site_class], meaning="Sa/g", clause=clause,
                    branch="constant beyond 4 s", key="constant")
            return
        w.pick("S_a", first(
            Candidate("rising", f"1 + 15 * {symbol}", "rising branch", applies=rising),
            Candidate("plateau", "2.5", "plateau", applies=t <= corner),
            Candidate("falling", f"a / {symbol}", "falling branch")),
            meaning="Sa/g", clause=clause, empirical=True)

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """Qi = VB Wi hi^2 / sum Wj hj^2."""
        w = common.forces_working(shear)
        clause = "7.6.3" if self.late else "7.7.1"
        common.level_lines(w, levels, "W_i", "h_i", (clause, clause), "weight of the floor")
        forces = w.compute_all("Q_i", "V_B * W_i * h_i ** 2 / sum(W_i * h_i ** 2)", "force",
                               meaning="design lateral force", clause=clause)
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        """1.5 e_si + 0.05 b in the static analysis; the accidental part alone in the modal one.

        Torsional irregularity is judged with the design eccentricity of the static analysis.
        """
        static = method == "static"
        return Eccentricity(0.05, 1.5 if static else 1.0, "7.8.2" if self.late else "7.9.2")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        """Drift over 1.2 of the average (2002), displacement over 1.5 of the far end (2016)."""
        if not self.late:
            measure, level = facts.worst
            words, clause = "Largest over average story drift", "Table 4"
            usual, extreme = 1.2, None
        else:
            measure, level = facts.worst_displacement
            words, clause = "Largest over smallest displacement of the ends of a floor", "Table 5"
            usual, extreme = 1.5, 2.0
        kind, severity = "", Severity.OK
        text = f", not above {usual:g}."
        if extreme is not None and measure > extreme:
            kind, severity = "extreme", Severity.EXCEEDED
            text = f", above {extreme:g}: the configuration is to be revised."
        elif measure > usual:
            kind, severity = "irregular", Severity.WARNING
            text = f", above {usual:g}: torsionally irregular."
        found = Finding(
            "torsional irregularity", f"direction {direction}, story {level}", severity,
            f"{words} is {measure:.3f}{text}", clause,
            "Move stiffness towards the side that drifts most." if kind else "", measure, usual)
        return TorsionAnswer(kind, "torsional irregularity", True, False, True, found,
                             "7.11.1 names no place")
