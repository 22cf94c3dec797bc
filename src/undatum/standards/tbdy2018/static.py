"""TBDY 2018, 4.7: weight, period, equivalent static forces and torsion."""

from __future__ import annotations

from typing import Literal

import numpy as np

from undatum.finding import Finding, Severity
from undatum.standards import common
from undatum.standards.answers import (
    Amplification,
    BaseShearAnswer,
    Distribution,
    Eccentricity,
    PeriodAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.standards.contract import LateralForces, WeightRule
from undatum.standards.facts import Floats, LoadFacts, StaticLevels, TorsionFacts
from undatum.standards.tbdy2018.job import TbdyJob
from undatum.standards.tbdy2018.site import SiteInput
from undatum.standards.tbdy2018.system import FRAMES, STEEL
from undatum.standards.terms import Direction, LimitState, Method
from undatum.units import STANDARD_GRAVITY
from undatum.working import Candidate, SectionKey, Working, first, largest, smallest

TWISTED, STATIC_TO = 1.2, 2.0  # torsion coefficients: irregular, and the most for static forces
#: n by a use of its own, of the categories that loads may have: assembly, shops, garages; storage.
BY_USE = {"A": 0.3, "B": 0.3, "C": 0.6, "D": 0.6, "E": 0.8, "F": 0.6, "G": 0.6}


class SeismicWeight(WeightRule):
    """G + n Q (4.7.1)."""

    def __init__(self, given: SiteInput) -> None:
        self.n = float(given.live_participation)

    def share(self, load: LoadFacts) -> WeightShare:
        clause = "4.5.9, Table 4.3"
        if load.kind in {"dead", "cladding", "partition", "equipment", "roof garden"}:
            return WeightShare(1.0, clause, "permanent load")
        if load.kind == "storage":
            return WeightShare(0.8, clause, "storage, n = 0.8")
        if load.kind == "snow":
            return WeightShare(0.3, clause, "30 % of snow")
        n = BY_USE.get(load.use[:1], self.n)
        return WeightShare(n, clause, f"n = {n:g}")

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        """As in the seismic weight."""
        return self.share(load).share, "4.9.2"


class Forces(LateralForces):
    """The equivalent static forces."""

    amplified_by: Literal["displacement", "drift"] = "drift"

    def __init__(self, job: TbdyJob) -> None:
        self.job = job

    def period(self, direction: Direction) -> PeriodAnswer:
        """T_pA = C_t H_N^0.75; the computed one up to 1.4 times as long (4.7.3)."""
        row = self.job.asked[direction].row
        w = Working(SectionKey("period", direction), f"Period in {direction}",
                    self.job.site.working, self.job.systems[direction].working)
        w.given("H_N", self.job.facts.height, "m", meaning="height from the base", clause="4.7.3")
        w.pick("C_t", first(
            Candidate("concrete frames", "0.10", "concrete frames alone", applies=row in FRAMES),
            Candidate("steel", "0.08", "steel frames or eccentric braces", applies=row in STEEL),
            Candidate("others", "0.07", "other buildings")),
            meaning="period coefficient, height in m", clause="4.7.3", within=(0.0, 0.2))
        approximate = w.compute("T_pA", "C_t * H_N ** 0.75", "s", meaning="approximate period",
                                clause="4.7.3", empirical=True)
        cap = w.compute("T_max", f"1.4 * {w.by_standard('T_pA')}", "s", cap="T_max",
                        meaning="upper limit on the computed period", clause="4.7.3")
        return PeriodAnswer(approximate, cap, w.close())

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """V_tE = m_t S_aR(T_p), not below 0.04 m_t I S_DS g (4.7.1); for drift too."""
        job = self.job
        w = common.shear_working(direction, state, job.site.working,
                                 job.systems[direction].working, period.working)
        t = self._period_used(w, direction, computed)
        w.given("S_ae", float(job.spectra[direction](t)) / STANDARD_GRAVITY, "g", clause="2.3.4",
                meaning="elastic design acceleration at T_p")
        w.pick("R_a", first(
            Candidate("long", "R_I", "T_p > T_B", applies=t > w.value("T_B")),
            Candidate("short", "D + (R_I - D) * T_p / T_B", "T_p ≤ T_B")),
            meaning="reduction factor", clause="4.2.1.2", empirical=True)
        w.compute("C_1", "S_ae / R_a", meaning="reduced design acceleration over g",
                  clause="4.2.1.3")
        w.compute("C_2", "0.04 * I * S_DS", meaning="least value", clause="4.7.1")
        c = w.pick("C", largest(Candidate("spectrum", "C_1", "reduced spectrum", "4.7.1"),
                                Candidate("least", "C_2", "least value", "4.7.1")),
                   meaning="base shear over weight")
        w.given("W", job.facts.weight, "force", meaning="seismic weight", clause="4.7.1")
        v = w.compute("V_tE", "C * W", "force", meaning="base shear", clause="4.7.1")
        return common.base_shear(w, direction, state, c, v, period="T_p")

    def _period_used(self, w: Working, direction: Direction, computed: float | None) -> float:
        if computed is None or not self.job.asked[direction].computed_period:
            return common.uncomputed_period(
                w, "T_p", "T_pA", "4.7.3", ("approximate period", "capped"))
        w.given("T_c", computed, "s", meaning="computed period", clause="4.7.3",
                branch="mode with the largest effective mass in this direction")
        return w.pick("T_p", smallest(Candidate("computed", "T_c", "below its cap"),
                                      Candidate("capped", "T_max", "capped at 1.4 T_pA")),
                      "s", meaning="period used", clause="4.7.3", cap="T_max").value

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """0.0075 N V at the top, the rest by weight times height (4.7.2)."""
        w, clause = common.forces_working(shear), "4.7.2"
        common.level_lines(w, levels, "w_i", "H_i", (clause, clause))
        w.given("N", float(self.job.facts.stories), meaning="stories above the base",
                clause=clause)
        w.compute("dF_N", "0.0075 * N * V_tE", "force", meaning="further force at the top",
                  clause=clause)
        common.top_line(w, levels, "t_i", clause)
        forces = w.compute_all("F_i", "dF_N * t_i + (V_tE - dF_N) * w_i * H_i / sum(w_i * H_i)",
                               "force", meaning="force at the level", clause=clause)
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        return Eccentricity(0.05, 1.0, "4.5.10")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        """A1 where a torsion coefficient is above 1.2; eccentricities then grow (3.6, 4.7.4)."""
        ratio, level = facts.worst
        irregular = ratio > TWISTED
        text = f"Torsion coefficient {ratio:.3f}, not above {TWISTED}." if not irregular else \
            f"Torsion coefficient {ratio:.3f}, above {TWISTED}: irregularity A1." + (
                f" It is above {STATIC_TO} too: static forces are permitted in higher "
                "classes alone (Table 4.4)."
                if ratio > STATIC_TO else " Accidental eccentricity is amplified by D_bi (4.7.4).")
        found = Finding(
            "torsional irregularity", f"direction {direction}, story {level}",
            Severity.WARNING if irregular else Severity.OK, text, "3.6.2, Table 3.6",
            "Move stiffness towards the side that drifts most." if irregular else "", ratio,
            TWISTED)
        return TorsionAnswer("1" if irregular else "", "torsional irregularity", True, irregular,
                             True, found, "the largest drift of a story, 4.9.1",
                             ratio > STATIC_TO)

    def amplification(
        self, direction: Direction, largest: Floats, average: Floats
    ) -> Amplification:
        """D_bi = (eta_i / 1.2)^2 from drifts of the stories, of coefficients up to 2.0 (4.7.4)."""
        w = Working(SectionKey("amplification", direction),
                    f"Amplification of accidental torsion, forces in {direction}")
        ratio = np.abs(largest) / np.maximum(np.abs(average), 1e-300)
        w.given("eta_i", tuple(np.where(np.isfinite(ratio), ratio, 1.0)), clause="3.6.2",
                meaning="torsion coefficient of the story")
        factors = w.compute_all("D_b", "clip((min(eta_i, 2) / 1.2) ** 2, 1, 2.7777778)",
                                meaning="amplification of the eccentricity", clause="4.7.4")
        return Amplification(factors, w.close())
