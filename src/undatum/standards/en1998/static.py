"""EN 1998-1, 4.3.3.2: the lateral force method of analysis, and torsion."""

from __future__ import annotations

from undatum.finding import Finding, Severity
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    Distribution,
    Eccentricity,
    PeriodAnswer,
    TorsionAnswer,
)
from undatum.standards.contract import LateralForces
from undatum.standards.en1998.facts import behavior_rows, facts
from undatum.standards.en1998.job import EnJob
from undatum.standards.en1998.site import ElasticSpectrum, ReducedSpectrum
from undatum.standards.facts import StaticLevels, TorsionFacts
from undatum.standards.terms import Direction, LimitState, Method
from undatum.units import STANDARD_GRAVITY
from undatum.working import Candidate, Choice, Pick, SectionKey, Working, first, largest, smallest


class Forces(LateralForces):
    """The lateral force method."""

    def __init__(self, job: EnJob) -> None:
        self.job = job

    def period(self, direction: Direction) -> PeriodAnswer:
        """T1 = Ct H^(3/4), H in m up to 40 m (4.3.3.2.2); no cap on a computed period."""
        structure, asked = self.job.facts, self.job.asked[direction]
        row = behavior_rows().get(asked.row)
        kind = row.period if row else "other"
        w = Working(SectionKey("period", direction), f"Period in {direction}",
                    self.job.site.working, self.job.systems[direction].working)
        clause = "4.3.3.2.2(3)"
        w.given("H", structure.height, "m", meaning="height from the base", clause=clause,
                branch="the formula is for heights up to 40 m" if structure.height > 40 else "")
        if asked.period_basis == "sway":
            if direction not in structure.gravity_sway:
                raise common.needs_structure(
                    f"system.{direction}.period_basis", "the sway of the top", "height")
            w.given("d", structure.gravity_sway[direction], "m", clause="4.3.3.2.2(5)",
                    meaning="displacement of the top under the weights applied horizontally")
            t = w.compute("T_a", "2 * sqrt(d)", "s", meaning="approximate period",
                          clause="4.3.3.2.2(5), Eq. 4.9", empirical=True)
            return PeriodAnswer(t, None, w.close())
        if asked.period_basis == "walls":
            clause = "4.3.3.2.2(4)"
            self._wall_coefficient(w, direction, clause)
        else:
            w.given("C_t", facts()["period"][kind], meaning=f"period coefficient, {kind}, H in m",
                    clause=clause)
        approximate = w.compute("T_a", "C_t * H ** 0.75", "s", meaning="approximate period",
                                clause=f"{clause}, Eq. 4.6", empirical=True)
        return PeriodAnswer(approximate, None, w.close())

    def _wall_coefficient(self, w: Working, direction: Direction, clause: str) -> None:
        walls = common.walls_along(direction, self.job.facts)
        names = tuple(x.name for x in walls)
        w.given("A_i", tuple(x.area for x in walls), "m^2", clause=clause, rows=names,
                meaning="areas of the walls")
        w.given("l_i", tuple(x.length for x in walls), "m", clause=clause, rows=names,
                meaning="lengths of the walls")
        w.compute("A_c", "sum(A_i * (0.2 + clip(l_i / H, 0, 0.9)) ** 2)", "m^2",
                  meaning="effective wall area", clause=f"{clause}, Eq. 4.8",
                  branch="the square is taken on the whole bracket, as in the print of 2004")
        w.compute("C_t", "0.075 / sqrt(A_c)", meaning="period coefficient, walls, H in m",
                  clause=f"{clause}, Eq. 4.7", empirical=True)

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """Fb = Sd(T1) m lambda (4.3.3.2.2), the same for forces and displacements."""
        job = self.job
        w = common.shear_working(direction, state, job.site.working,
                                 job.systems[direction].working, period.working)
        if computed is None or not job.asked[direction].computed_period:
            t = w.compute("T_1", "T_a", "s", meaning="fundamental period", clause="4.3.3.2.2(3)",
                          branch="approximate period", key="approximate")
        else:
            t = w.given("T_1", computed, "s", meaning="fundamental period", clause="4.3.3.2.2(2)",
                        branch="mode with the largest effective mass in this direction")
        ordinate = self._ordinate(w, direction, state, t)
        p, symbol = job.site.parameters, "S_d" if state.role == "forces" else "S_dd"
        full = t <= 2 * p["T_C"] and job.facts.stories > 2
        w.given("lambda_m", 0.85 if full else 1.0, meaning="share of the mass in the first mode",
                clause="4.3.3.2.2(1)", within=(0.0, 1.0),
                branch="T_1 ≤ 2 T_C and more than two stories" if full else
                "T_1 > 2 T_C or at most two stories")
        w.given("W", job.facts.weight, "force", meaning="weight of the seismic mass",
                clause="4.2.4")
        v = w.compute("F_b", f"{symbol} * W * lambda_m", "force", meaning="base shear",
                      clause="4.3.3.2.2(1), Eq. 4.5")
        return common.base_shear(w, direction, state, ordinate, v, period="T_1")

    def _ordinate(
        self, w: Working, direction: Direction, state: LimitState, t: float
    ) -> Choice:
        """S_d at T_1; for displacements not above the elastic one over q_d (4.3.4(1))."""
        elastic = self.job.spectra[direction]
        own = isinstance(elastic, ElasticSpectrum) and elastic == self.job.site.spectrum
        if own:
            design = self._design_ordinate(t)
        else:
            p = self.job.site.parameters
            reduced = ReducedSpectrum(elastic.name, elastic, 1.0, p["T_B"], 0.0)
            ramp = elastic.first_period < p["T_B"] and t < p["T_B"]
            w.given("S_eu", float(elastic(max(t, p["T_B"]) if ramp else t)) / STANDARD_GRAVITY,
                    "g", clause="3.2.2.2",
                    meaning=f"elastic ordinate at {'T_B' if ramp else 'T_1'}, {elastic.name}")
            if ramp:
                w.given("S_e0", 1.5 * reduced.ends[0] / STANDARD_GRAVITY, "g", clause="3.2.2.2",
                        meaning=f"elastic ordinate at zero, {elastic.name}")
            design = first(Candidate(
                "ramp", "2 / 3 * S_e0 + T_1 / T_B * (S_eu / q - 2 / 3 * S_e0)",
                "spectrum in use, ramp (Eq. 3.13)")) if ramp else largest(
                Candidate("spectrum in use", "S_eu / q", "spectrum in use over q"),
                Candidate("least", "beta_0 * a_g", "least value beta a_g (3.2.2.5)"))
        chosen = w.pick("S_d", design, "g", meaning="design spectrum at T_1",
                        clause="3.2.2.5(4)")
        if state.role == "forces":
            return chosen
        w.given("S_e", float(elastic(t)) / STANDARD_GRAVITY, "g",
                meaning="elastic spectrum at T_1", clause="3.2.2.2")
        bounded = w.pick(
            "S_dd", smallest(Candidate(chosen.key, "S_d", chosen.words),
                             Candidate("elastic", "S_e / q_d", "elastic spectrum (4.3.4(1))")),
            "g", clause="4.3.4(1)",
            meaning="ordinate for displacements, which need not exceed the elastic ones")
        if bounded.key == "elastic" and bounded.value >= chosen.value * (1 - 1e-12):
            return Choice(bounded.value, chosen.key, chosen.words, bounded.clause)
        return bounded

    def _design_ordinate(self, t: float) -> Pick:
        """The branch of the design spectrum (Eq. 3.13 to 3.16)."""
        p = self.job.site.parameters
        least = Candidate("least", "beta_0 * a_g", "least value beta a_g (3.2.2.5)")
        if t < p["T_B"]:
            return first(Candidate(
                "ramp", "a_g * S * (2 / 3 + T_1 / T_B * (F_0 / q - 2 / 3))", "ramp (Eq. 3.13)"))
        if t <= p["T_C"]:
            return first(Candidate("plateau", "a_g * S * F_0 / q", "plateau (Eq. 3.14)"))
        if t <= p["T_D"]:
            return largest(Candidate("falling", "a_g * S * F_0 / q * T_C / T_1",
                                     "falling branch (Eq. 3.15)"), least)
        return largest(Candidate("long", "a_g * S * F_0 / q * T_C * T_D / T_1 ** 2",
                                 "falling branch beyond T_D (Eq. 3.16)"), least)

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """Fi = Fb si mi / sum sj mj with the mode shape, or with heights in its place."""
        w, clause = common.forces_working(shear), "4.3.3.2.3(3)"
        w.given("m_i", tuple(map(float, levels.weights)), "force", meaning="weight of the level",
                clause=clause)
        if self.job.asked[shear.direction].distribution == "mode shape":
            if levels.shape is None:
                raise common.needs_structure(
                    f"system.{shear.direction}.distribution", "the mode shape", "height")
            top = max(levels.shape, key=abs)
            w.given("s_i", tuple(float(s / top) for s in levels.shape), clause="4.3.3.2.3(2)",
                    meaning="displacement in the fundamental mode, largest one")
            forces = w.compute_all("F_i", "F_b * s_i * m_i / sum(s_i * m_i)", "force",
                                   meaning="force at the level", clause="4.3.3.2.3(2), Eq. 4.10")
            return Distribution(forces, w.close())
        w.given("z_i", tuple(map(float, levels.heights)), "length",
                meaning="height above the base", clause=clause)
        forces = w.compute_all("F_i", "F_b * z_i * m_i / sum(z_i * m_i)", "force",
                               meaning="force at the level", clause=f"{clause}, Eq. 4.11")
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        if self._doubled:
            return Eccentricity(0.10, 1.0, "4.3.2(1), 4.3.6.3.1(4)")
        return Eccentricity(0.05, 1.0, "4.3.2(1), Eq. 4.3")

    @property
    def _doubled(self) -> bool:
        """Whether infills that are irregular in plan double what the accidental eccentricity does
        (4.3.6.3.1(4))."""
        return any(one.irregular_infills for one in self.job.asked.values())

    def torsion_factor(self, ratio: float) -> float:
        return 1.0 + (1.2 if self._doubled else 0.6) * ratio  # 4.3.3.2.4(1), Eq. 4.12

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        """Accidental eccentricity is always applied; the standard sets no limit on drift ratios."""
        ratio, level = facts.worst
        found = Finding(
            "torsion", f"direction {direction}, story {level}",
            Severity.NOTE if ratio > 1.2 else Severity.OK,
            f"Largest over average story drift is {ratio:.3f}. EN 1998-1 sets no limit on it; "
            "regularity in plan is as stated in the project (4.2.3.2).", "4.3.2, 4.3.3.2.4")
        return TorsionAnswer("", "", True, False, False, found,
                             "average displacements of the floors, 4.4.2.2(2)")


def lateral_force_period(job: EnJob) -> float:
    """The longest fundamental period for the lateral force method (4.3.3.2.1(2)), s."""
    return min(4 * job.site.parameters["T_C"], 2.0)
