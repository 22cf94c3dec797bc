"""UBC 1997, 1630: weight, period, static force, distribution and torsion."""

from __future__ import annotations

from collections.abc import Mapping

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
from undatum.standards.facts import (
    Bools,
    CarriedFloors,
    Floats,
    LiveReduction,
    LoadFacts,
    StaticLevels,
    TorsionFacts,
)
from undatum.standards.terms import Direction, Effect, LimitState, Method
from undatum.standards.ubc97.facts import facts, system_rows
from undatum.standards.ubc97.job import UbcJob
from undatum.units import beside_feet, factor
from undatum.working import Candidate, SectionKey, Working, first, largest, smallest

_FOOT = factor("ft", "length")
_PSF = factor("psf", "area load")


class SeismicDeadLoad(WeightRule):
    """Seismic dead load (1630.1.1)."""

    def share(self, load: LoadFacts) -> WeightShare:
        clause = "1630.1.1"
        if load.kind in {"dead", "cladding", "roof garden"}:
            return WeightShare(1.0, clause, "dead load")
        if load.kind == "equipment":
            return WeightShare(1.0, clause, "permanent equipment")
        if load.kind == "partition":
            return WeightShare(1.0, clause, "partitions, not less than 10 psf", 10.0 * _PSF)
        if load.kind == "storage":
            return WeightShare(0.25, clause, "25 % of storage live load")
        if load.kind == "snow":
            counts = load.intensity is None or load.intensity > 30.0 * _PSF * (1 + 1e-9)
            return WeightShare(1.0 if counts else 0.0, clause,
                               "snow above 30 psf (the building official may allow a reduction)"
                               if counts else "snow not above 30 psf does not count")
        return WeightShare(0.0, clause, "live load other than storage does not count")

    def effect(self, kind: str) -> Effect:
        """Partition loads are dead loads (1606.2), live load of roofs is one of its own (1612.1).
        """
        return "dead" if kind == "partition" else "roof live" if kind == "roof live" else \
            super().effect(kind)

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        return 1.0, "1630.1.3"

    def live_reduction(self, carried: CarriedFloors) -> LiveReduction:
        """R = 0.08 (A - 150) percent, not above 40 or 60, nor 23.1 (1 + D / L) (1607.5).

        Places of public assembly are not told apart: they are not reduced.
        """
        area = carried.area / factor("ft^2", "area")
        if carried.intensity > 100 * _PSF * (1 + 1e-9):
            return LiveReduction(1.0, "1607.5", "above 100 psf")
        if area <= 150 or not carried.live:
            return LiveReduction(1.0, "1607.5", "not more than 150 ft2")
        bounds = {"Eq. 7-1": 0.08 * (area - 150), "Eq. 7-2": 23.1 * (1 + carried.dead
                  / carried.live), "its bound": 40.0 if carried.floors < 2 else 60.0}
        which = min(bounds, key=lambda k: bounds[k])
        return LiveReduction(1 - bounds[which] / 100, "1607.5", f"{which} governs")


class Forces(LateralForces):
    """The static force procedure."""

    def __init__(self, job: UbcJob) -> None:
        self.job = job

    def period(self, direction: Direction) -> PeriodAnswer:
        """Method A, and the cap on the computed period (1630.2.2)."""
        job = self.job
        w = Working(SectionKey("period", direction), f"Period in {direction}", job.site.working,
                    job.systems[direction].working)
        w.given("h_n", job.facts.height / _FOOT, "ft", clause="1630.2.2",
                meaning=f"height above the base{beside_feet(job.facts.height)}")
        if job.asked[direction].period_basis == "walls":
            walls = common.walls_along(direction, job.facts)
            names = tuple(x.name for x in walls)
            w.given("A_e", tuple(x.area / _FOOT**2 for x in walls), "ft^2", clause="1630.2.2",
                    meaning="areas of the walls", rows=names)
            w.given("D_e", tuple(x.length / _FOOT for x in walls), "ft", clause="1630.2.2",
                    meaning=f"lengths of the walls{beside_feet(*(x.length for x in walls))}",
                    rows=names)
            w.compute("A_c", "sum(A_e * (0.2 + clip(D_e / h_n, 0, 0.9) ** 2))", "ft^2",
                      meaning="effective wall area", clause="1630.2.2, Eq. 30-9")
            w.compute("C_t", "0.1 / sqrt(A_c)", clause="1630.2.2", empirical=True,
                      meaning="period coefficient, walls, height in ft")
        else:
            kind = system_rows()[job.asked[direction].row].period
            w.given("C_t", facts()["period"][kind], clause="1630.2.2",
                    meaning=f"period coefficient, {kind}, height in ft")
        approximate = w.compute("T_A", "C_t * h_n ** 0.75", "s", meaning="period by method A",
                                clause="1630.2.2, Eq. 30-8", empirical=True)
        w.given("c", 1.3 if job.site.category == "4" else 1.4, clause="1630.2.2",
                meaning="limit on method B over method A", branch=f"zone {job.site.category}")
        cap = w.compute("T_max", f"c * {w.by_standard('T_A')}", "s", clause="1630.2.2",
                        meaning="upper limit on the computed period", cap="T_max")
        return PeriodAnswer(approximate, cap, w.close())

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        """V with its limits. For drift neither the cap nor Eq. 30-6 applies (1630.10.3)."""
        job, drift = self.job, state.role == "drift"
        w = common.shear_working(direction, state, job.site.working,
                                 job.systems[direction].working, period.working)
        self._period_used(w, direction, drift, computed)
        w.given("W", job.facts.weight, "force", meaning="seismic dead load", clause="1630.1.1")
        if job.asked[direction].simplified:
            one = w.pick("V", first(Candidate(
                "simplified", "3 * C_a / R * W", "simplified static force", "1630.2.3.2, Eq. 30-11"
            )), "force", meaning="base shear")
            return common.base_shear(w, direction, state, one, one.value)
        w.compute("V_1", "C_v * I / (R * T) * W", "force", meaning="falling branch",
                  clause="1630.2.1, Eq. 30-4", empirical=True)
        w.compute("V_2", "2.5 * C_a * I / R * W", "force", meaning="largest value",
                  clause="1630.2.1, Eq. 30-5")
        limits = []
        if not drift:
            w.compute("V_3", "0.11 * C_a * I * W", "force", meaning="least value",
                      clause="1630.2.1, Eq. 30-6")
            limits.append(Candidate("least", "V_3", "least value (Eq. 30-6)"))
        if job.site.category == "4":
            w.compute("V_4", "0.8 * Z * N_v * I / R * W", "force", clause="1630.2.1, Eq. 30-7",
                      meaning="least value in zone 4")
            limits.append(Candidate("least in zone 4", "V_4",
                                    "least value in zone 4 (Eq. 30-7)"))
        v = w.pick("V", largest(smallest(
            Candidate("falling", "V_1", "falling branch (Eq. 30-4)"),
            Candidate("plateau", "V_2", "plateau (Eq. 30-5)")), *limits), "force",
            meaning="base shear", clause="1630.2.1",
            note="Eq. 30-6 is left out for drift (1630.10.3)" if drift else "")
        return common.base_shear(w, direction, state, v, v.value)

    def _period_used(
        self, w: Working, direction: Direction, drift: bool, computed: float | None
    ) -> None:
        """Write the period T."""
        if computed is None or not self.job.asked[direction].computed_period:
            common.uncomputed_period(w, "T", "T_A", "1630.2.2", ("method A", "capped"))
            return
        w.given("T_B", computed, "s", meaning="computed period, method B", clause="1630.2.2",
                branch="mode with the largest effective mass in this direction")
        if drift:
            w.compute("T", "T_B", "s", meaning="period used", clause="1630.10.3",
                      branch="computed period without the cap", key="computed")
        else:
            w.pick("T", smallest(Candidate("computed", "T_B", "below its cap"),
                                 Candidate("capped", "T_max", "capped")), "s",
                   meaning="period used", clause="1630.2.2", cap="T_max")

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        """Top force and the rest by weight times height (1630.5); by weight where simplified."""
        w, clause = common.forces_working(shear), "1630.5"
        if self.job.asked[shear.direction].simplified:
            clause = "1630.2.3.3"
            w.given("w_x", tuple(map(float, levels.weights)), "force", clause=clause,
                    meaning="weight of the level")
            return Distribution(w.compute_all(
                "F_x", "V * w_x / sum(w_x)", "force", meaning="force at the level",
                clause=f"{clause}, Eq. 30-12"), w.close())
        w.pick("F_t", first(
            Candidate("none", "0", "T ≤ 0.7 s", clause, shear.period <= 0.7),
            Candidate("top force", "min(0.07 * T * V, 0.25 * V)", "",
                      f"{clause}, Eq. 30-14")), "force", meaning="force at the top",
            empirical=True)
        common.level_lines(w, levels, "w_x", "h_x", (clause, clause))
        common.top_line(w, levels, "t_x", clause)
        forces = w.compute_all("F_x", "F_t * t_x + (V - F_t) * w_x * h_x / sum(w_x * h_x)",
                               "force", meaning="force at the level",
                               clause=f"{clause}, Eq. 30-13 and 30-15")
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        return Eccentricity(0.05, 1.0, "1630.6")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        """Plan irregularity 1 (Table 16-M). Drift is read at all critical places (1630.9.1)."""
        ratio, level = facts.worst
        irregular = ratio > 1.2
        found = Finding(
            "torsional irregularity", f"direction {direction}, story {level}",
            Severity.WARNING if irregular else Severity.OK,
            f"Largest over average story drift is {ratio:.3f}"
            + (": plan irregularity 1; accidental torsion is amplified by A_x (1630.7)."
               if irregular else ", not above 1.2."),
            "1629.5.3, Table 16-M",
            "Move stiffness towards the side that drifts most." if irregular else "", ratio, 1.2)
        return TorsionAnswer("1" if irregular else "", "torsional irregularity", True, irregular,
                             True, found, "all critical places of the structure, 1630.9.1")

    def torsion_of_structure(
        self, answers: Mapping[Direction, TorsionAnswer]
    ) -> dict[Direction, TorsionAnswer]:
        """An irregularity in one direction is one of the structure (1630.7)."""
        return common.torsion_everywhere(answers, "1630.7")

    def amplification(self, direction: Direction, largest: Floats, average: Floats
                      ) -> Amplification:
        return common.torsion_amplification(direction, largest, average, "1630.7",
                                            "1630.7, Eq. 30-16")

    def diaphragms(
        self, distribution: Distribution, weights: Floats, carried: Bools
    ) -> Distribution:
        return common.diaphragm_forces(
            self.job.site, distribution, weights, carried, "0.5 * C_a * I", "C_a * I", "1633.2.9",
            "1633.2.9, Eq. 33-1")
