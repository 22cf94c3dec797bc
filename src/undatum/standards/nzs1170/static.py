"""NZS 1170.5, chapters 4 to 6: weight, period, equivalent static forces and torsion."""

from __future__ import annotations

import math

from undatum.errors import Fault, InputError
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
from undatum.standards.facts import LoadFacts, StaticLevels, TorsionFacts
from undatum.standards.nzs1170.job import NzsJob
from undatum.standards.nzs1170.site import NEAR, largest_near_fault, shape_factor
from undatum.standards.nzs1170.system import reduction
from undatum.standards.terms import Direction, LimitState, Method
from undatum.units import STANDARD_GRAVITY
from undatum.working import Candidate, SectionKey, Working, largest

SENSITIVE = 1.4  # 4.5.2.3


class SeismicWeight(WeightRule):
    """G and the share psi_E of Q (4.2)."""

    def share(self, load: LoadFacts) -> WeightShare:
        if load.kind in {"dead", "cladding", "partition", "equipment", "roof garden"}:
            return WeightShare(1.0, "4.2", "permanent action")
        if load.kind == "storage":
            return WeightShare(0.6, "4.2, Table 4.1", "storage, psi_E = 0.6")
        if load.kind == "snow":
            return WeightShare(0.0, "4.2", "snow is not counted here: left to you")
        if load.kind == "roof live" or load.on_roof:
            return WeightShare(0.0, "4.2, Table 4.1", "roofs (check against the print)")
        return WeightShare(0.3, "4.2, Table 4.1", "psi_E = 0.3")

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        """As in the seismic weight: G and psi_E Q are there in the earthquake."""
        return self.share(load).share, "AS/NZS 1170.0, 4.2.2"

    def combination(self, load: LoadFacts) -> WeightShare:
        """psi_E Q beside the earthquake (AS/NZS 1170.0, 4.2.2)."""
        if self.effect(load.kind) in ("live", "roof live") and load.kind != "partition":
            return self.share(load)
        return WeightShare(1.0, "AS/NZS 1170.0, 4.2.2", "in full")


class Forces(LateralForces):
    """The equivalent static method."""

    def __init__(self, job: NzsJob) -> None:
        self.job = job

    def period(self, direction: Direction) -> PeriodAnswer:
        """The period of one's own; else the computed one is used, and an estimate stands beside it:
        of one mass at the top, by the sway under the weights applied horizontally.

        4.1.2 asks for the largest translational period; there is no cap on it.
        """
        given, facts = self.job.asked[direction], self.job.facts
        w = Working(SectionKey("period", direction), f"Period in {direction}",
                    self.job.site.working, self.job.systems[direction].working)
        if given.period is not None:
            t = w.given("T_1", given.period, "s", meaning="period", clause="4.1.2",
                        branch=f"project: {given.reason}")
        elif direction in facts.gravity_sway:
            t = 2.0 * math.sqrt(facts.gravity_sway[direction])  # to compare: the computed is used
        else:
            t = math.nan  # the computed one is needed then
        return PeriodAnswer(t, None, w.close())

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """V = C_d(T_1) W_t (6.2.1.2), with the least value of 5.2.1.1."""
        job, site = self.job, self.job.site
        w = common.shear_working(direction, state, site.working, job.systems[direction].working)
        own = job.asked[direction].period
        t = period.approximate if computed is None or own is not None else computed
        if math.isnan(t):
            raise InputError([Fault(
                f"system.{direction}.period", "is missing, and there is no structure to compute "
                "it from", "give period and reason")])
        t = w.given("T_1", t, "s", meaning="period used", clause="4.1.2", branch="of one's own"
                    if own is not None else "approximate" if computed is None else
                    "computed: mode with the largest effective mass in this direction")
        elastic(w, job, direction, t)
        reduction(w, site.site_class, t)
        w.compute("C_1", "C * S_p / k_mu", meaning="horizontal design action coefficient",
                  clause="5.2.1.1, Eq. 5.2(1)")
        w.compute("C_2", "(Z / 20 + 0.02) * R_u", meaning="least value",
                  clause="5.2.1.1, Eq. 5.2(2)")
        w.compute("C_3", "0.03 * R_u", meaning="least value", clause="5.2.1.1, Eq. 5.2(2)")
        c = w.pick("C_d", largest(
            Candidate("spectrum", "C_1", "spectrum over ductility", "5.2.1.1"),
            Candidate("least by hazard", "C_2", "least value by Z", "5.2.1.1, Eq. 5.2(2)"),
            Candidate("least", "C_3", "least value of 3 %", "5.2.1.1, Eq. 5.2(2)")),
            meaning="horizontal design action coefficient in use")
        w.given("W_t", job.facts.weight, "force", meaning="seismic weight", clause="4.2")
        v = w.compute("V", "C_d * W_t", "force", meaning="horizontal seismic shear at the base",
                      clause="6.2.1.2")
        return common.base_shear(w, direction, state, c, v, "W_t", "T_1")

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """8 % at the top, the rest by weight times height (6.2.1.3)."""
        w, clause = common.forces_working(shear), "6.2.1.3"
        common.level_lines(w, levels, "W_i", "h_i", (clause, clause))
        common.top_line(w, levels, "t_i", clause)
        forces = w.compute_all("F_i", "0.08 * V * t_i + 0.92 * V * W_i * h_i / sum(W_i * h_i)",
                               "force", meaning="force at the level", clause=clause)
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        return Eccentricity(0.10, 1.0, "5.3.2")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        """Torsionally sensitive above 1.4 times the mean displacement (4.5.2.3)."""
        ratio, level = facts.worst_displacement_over_mean
        sensitive = ratio > SENSITIVE
        found = Finding(
            "torsional sensitivity", f"direction {direction}, story {level}",
            Severity.WARNING if sensitive else Severity.OK,
            f"Largest over average displacement of the ends is {ratio:.3f}, "
            + (f"above {SENSITIVE}: irregular in plan." if sensitive else
               f"not above {SENSITIVE}."), "4.5.2.3",
            "Move stiffness towards the side that moves most." if sensitive else "", ratio,
            SENSITIVE)
        return TorsionAnswer("1" if sensitive else "", "torsional sensitivity", True, False, True,
                             found, "7.5 names no place")


def elastic(w: Working, job: NzsJob, direction: Direction, t: float) -> None:
    """C(T_1), of the standard's spectrum for the static method or of another in its place."""
    site = job.site
    if job.spectra[direction] != site.spectrum:
        w.given("C", float(job.spectra[direction](t)) / STANDARD_GRAVITY, clause="spectrum",
                meaning="spectrum in place of the standard's, at T_1")
        return
    w.given("C_h", float(shape_factor(t, site.site_class, static=True)), clause="3.1.2, Table 3.1",
            meaning=f"spectral shape factor, subsoil {site.site_class}")
    if job.given.fault_distance is not None and site.parameters["R_u"] > NEAR:
        w.given("N_max", float(largest_near_fault(t)), clause="3.1.6, Table 3.7",
                meaning="largest near-fault factor at T_1")
        w.compute("N", "1 + (N_max - 1) * n_D", meaning="near-fault factor", clause="3.1.6")
    else:
        w.given("N", 1.0, meaning="near-fault factor", clause="3.1.6", branch="no near fault")
    w.compute("C", "C_h * ZR * N", meaning="elastic site spectrum at T_1",
              clause="3.1.1, Eq. 3.1(1)")
