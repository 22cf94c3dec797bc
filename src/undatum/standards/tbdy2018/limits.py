"""TBDY 2018, chapters 3 and 4: modal analysis, irregularities, drift, combinations, procedures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.finding import Finding, Severity, against
from undatum.ground.spectrum import Spectrum, TwoPeriodSpectrum
from undatum.standards import common, irregular
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    DriftLimit,
    LoadCombination,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    ScaleAnswer,
    SeparationAnswer,
    StabilityAnswer,
    TorsionAnswer,
)
from undatum.standards.contract import Dynamics, WholeStructure
from undatum.standards.facts import GapFacts, SecondOrderFacts, ShapeFacts
from undatum.standards.tbdy2018.job import TbdyJob
from undatum.standards.tbdy2018.site import T_L
from undatum.standards.tbdy2018.system import ROWS, ReducedSpectrum, height_class
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, LimitState
from undatum.units import STANDARD_GRAVITY, said
from undatum.working import Candidate, SectionKey, Working, first, largest

LIMITS = irregular.Limits(
    elevation="3.6.2, Table 3.6", plan="3.6.2, Table 3.6", soft=(0.0, None), extreme_soft=None,
    weight=np.inf, extent=np.inf, weak=0.80, extreme_weak=0.60, recess=0.20, opening=1 / 3, names={
        "V5": "B1, weak story", "V5a": "B1, weak story", "V5b": "B1, weak story",
        "V1a": "B2, soft story", "V4": "B3, discontinuity of vertical elements",
        "H1": "A1, torsion", "H1b": "A1, torsion above 2.0",
        "H2": "A3, projections in plan", "H3": "A2, discontinuity of slabs"},
    without=("H4", "H5", "V1a", "V2", "V3"))
SOFT = 2.0  # drift over height against the stories above and below (B2)
STRUCTURES = {"brittle infills attached": 0.008, "infills with flexible joints": 0.016}


class ModalAnalysis(Dynamics):
    """The mode combination method."""

    def __init__(self, job: TbdyJob) -> None:
        self.job = job

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        system, site = self.job.systems[direction], self.job.site
        return ReducedSpectrum(
            f"over R_a, R/I = {system.force_divisor:.3g}, D = {system.overstrength:.3g}",
            self.job.spectra[direction], system.force_divisor, system.overstrength,
            site.parameters["T_B"])

    def rules(self) -> ModalRules:
        return ModalRules(0.95, 0.05, "CQC", "100/30", "4.8.1, 4.8.2", "4.4.2")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        """Up to 80 % of the static base shear, 90 % with A1, B2 or B3 (4.8.4)."""
        w = common.scale_working(shear, shear.working)
        w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
                clause="4.8.4")
        w.pick("gamma_E", first(
            Candidate("irregular", "0.9", "A1, B2 or B3",
                      applies=bool({"H1", "V1a", "V4"} & set(irregular))),
            Candidate("regular", "0.8", "none of A1, B2 and B3")),
            meaning="share of the static base shear", clause="4.8.4", within=(0.0, 1.0))
        return common.scaled_up(w, shear.state, "gamma_E * V_tE", "4.8.4", "scaled up",
                                "not scaled")


class Structure(WholeStructure):
    """What TBDY 2018 says of the whole structure."""

    def __init__(self, job: TbdyJob) -> None:
        self.job = job

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        kinds, unjudged, findings = irregular.judge(shape, LIMITS, barred={
            "V5b": "A ratio below 0.60 is not permitted."})
        for d in shape.directions:
            found = _soft(shape, d)
            findings.append(found)
            if found.severity is Severity.WARNING:
                kinds.add("V1a")
        kinds |= {kind for t in torsion.values() for kind, holds in (
            ("H1", bool(t.kind)), ("H1b", t.extreme)) if holds}
        return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)), tuple(findings))

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        """Where static forces are permitted, by class of height, torsion and B2 (Table 4.4)."""
        site, height = self.job.site, self.job.facts.height
        own = height_class(height, site.category)
        torn = bool({"H1b", "V1a"} & set(regularity.found))
        least, certain = (5 if torn else 4), site.category[0] in "12"
        allowed = own >= least
        open_ = not certain and not own >= 5
        what = "a torsion coefficient above 2.0 or B2" if torn else \
            "no torsion coefficient above 2.0, no B2"
        return ProcedureAnswer({} if open_ else dict.fromkeys(DIRECTIONS, allowed), (Finding(
            "static procedure", "whole structure",
            Severity.WARNING if open_ else Severity.OK if allowed else Severity.NOTE,
            f"Height {said(height)} is of class {own}, {what}: static forces "
            + ("are permitted from class 5 in any reading; the bound of this category is not "
               "certain here." if open_ else f"are permitted from class {least}"
               + ("." if allowed else ": the modal analysis governs.")), "4.6.2, Table 4.4",
            "Check Table 4.4 of the print." if open_ else ""),
            *common.gross_stiffness(self.job.facts, "4.5.8")))

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """lambda delta / h up to 0.008 kappa, 0.016 kappa with flexible joints (4.9.1)."""
        job, clause = self.job, "4.9.1"
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    job.site.working, job.systems[direction].working)
        row = structure or next(iter(STRUCTURES))
        p = job.site.parameters
        if "S_DS3" not in p:
            return DriftLimit(None, clause, w.close(), "S_S and S_1 of DD-3 are not given "
                              "(site.ss_dd3, site.s1_dd3)", known=False)
        frequent = TwoPeriodSpectrum(
            "DD-3", p["S_DS3"] * STANDARD_GRAVITY, p["S_D13"] * STANDARD_GRAVITY,
            0.2 * p["S_D13"] / p["S_DS3"], p["S_D13"] / p["S_DS3"], T_L)
        t = w.given("T_p", period, "s", meaning="dominant period", clause=clause)
        w.given("S_3", float(frequent(t)) / STANDARD_GRAVITY, "g", clause=clause,
                meaning="elastic acceleration of DD-3 at T_p")
        w.given("S_2", float(job.site.spectrum(t)) / STANDARD_GRAVITY, "g", clause=clause,
                meaning="elastic acceleration of DD-2 at T_p")
        w.compute("lambda_3", "S_3 / S_2", meaning="ratio of the earthquake levels", clause=clause)
        steel = ROWS[job.asked[direction].row].steel
        w.given("kappa", 0.5 if steel else 1.0, clause=clause, within=(0.0, 1.0),
                meaning="coefficient of the material", branch="steel" if steel else "concrete")
        w.given("a_0", STRUCTURES[row], meaning="limit on lambda delta / (kappa h)", clause=clause,
                branch=row, within=(0.0, 0.1))
        ratio = w.compute("a", "a_0 * kappa / lambda_3", clause=clause,
                          meaning="allowable drift over story height", within=(0.0, 1.0))
        return DriftLimit(ratio, clause, w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """theta up to 0.12 D / (C_h R): second order need not be considered (4.9.2)."""
        row = ROWS[self.job.asked[facts.direction].row]
        w = common.second_order(facts, ("w", "delta", "V", "h"), "4.9.2", {
            "w": "weight G + n Q at and above the story", "delta": "effective story drift"},
            self.job.systems[facts.direction].working)
        theta = w.compute_all("theta", "w * (delta / R_I) / (V * h)", clause="4.9.2",
                              meaning="second-order index")
        w.given("C_h", 1.0 if row.steel else 0.5, clause="4.9.2", within=(0.0, 1.0),
                meaning="coefficient of the hysteresis",
                branch="steel" if row.steel else "concrete")
        most = w.compute("theta_max", "0.12 * D / (C_h * R)", clause="4.9.2",
                         meaning="up to here nothing is asked for")
        return StabilityAnswer(theta, None, most, most, np.ones_like(theta), "4.9.2", w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer:
        """A quarter of the effective displacements where floors meet, half where they do not, and
        30 mm and 10 mm more for every 3 m above 6 m at least (4.9.3)."""
        w, clause = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working), "4.9.3"
        w.given("delta_1", gap.own, "displacement", clause=clause,
                meaning="effective displacement of this building, R/I times that of the analysis")
        if gap.neighbor is not None:
            w.given("delta_2", gap.neighbor, "displacement", clause=clause,
                    meaning="effective displacement of the neighbor")
        w.given("alpha", 0.25 if gap.same_floors else 0.5, clause=clause, within=(0.0, 1.0),
                meaning="floors at the same levels" if gap.same_floors else
                "floors at other levels", branch="check the factors against the print")
        w.pick("s_1", first(
            Candidate("alone", "alpha * delta_1", "no neighbor", applies=gap.neighbor is None),
            Candidate("both", "alpha * sqrt(delta_1 ** 2 + delta_2 ** 2)", "root of squares")),
            "displacement", meaning="by displacements", clause=clause)
        w.given("h", gap.height, "m", meaning="height above the base", clause=clause)
        w.compute("s_2", "0.03 + 0.01 * max(h - 6, 0) / 3", "m", meaning="least joint",
                  clause=clause, empirical=True)
        found = w.pick("s", largest(Candidate("displacements", "s_1", "by displacements"),
                                    Candidate("least", "s_2", "least joint")),
                       "displacement", meaning="least distance", clause=clause)
        return SeparationAnswer(found.value, clause, w.close())

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer:
        """G + Q + 0.2 S + E + 0.3 E_z, and 0.9 G + E - 0.3 E_z (4.4.4)."""
        clause = "4.4.4"
        w = Working(SectionKey("combinations"), "Load combinations", self.job.site.working)
        w.given("gamma_E", 1.0, meaning="factor on the earthquake", clause=clause,
                replaceable=False)
        if vertical:
            up, down = 1.0, 0.9
        else:
            w.compute("e_z", "0.3 * 2 / 3 * S_DS", clause="4.4.3.2",
                      meaning="vertical effect over dead load")
            up = w.compute("d_1", "1 + e_z", meaning="factor on dead load, G + Q", clause=clause)
            down = w.compute("d_2", "0.9 - e_z", meaning="factor on dead load, 0.9 G",
                             clause=clause)
        alone = dict.fromkeys(self.job.asked, 1.0)
        patterns = common.three_patterns(how, alone) if vertical else [
            (name, (*quake, 0.0)) for name, quake in common.quake_patterns(how, alone)]
        rows = tuple(
            LoadCombination("strength", f"{name}: {pattern}", dead, live, snow, (x, y), clause, z)
            for name, dead, live, snow in (("G + Q + 0.2 S + E", up, 1.0, 0.2),
                                           ("0.9 G + E", down, 0.0, 0.0))
            for pattern, (x, y, z) in patterns)
        return CombinationAnswer(
            rows, w.close(), "Soil pressure H and combinations without earthquake are yours. "
            + ("" if vertical else "The vertical effect 0.3 (2/3) S_DS G is in the factor on dead "
               "load."), dict.fromkeys(DIRECTIONS, 1.0), vertical_in_dead=not vertical)


def _soft(shape: ShapeFacts, direction: Direction) -> Finding:
    """B2: story drift ratio over that of the story above or below, above 2.0 (3.6.2)."""
    own = shape.drift_ratios[DIRECTIONS.index(direction)]
    where, clause = f"direction {direction}", LIMITS.elevation
    pairs = [(i, j) for i in range(own.size) for j in (i - 1, i + 1)
             if 0 <= j < own.size and own[j] > 0]
    if not pairs:
        return Finding("soft story", where, Severity.OK, "Not considered: one story.", clause)
    i, j = max(pairs, key=lambda p: own[p[0]] / own[p[1]])
    ratio = float(own[i] / own[j])
    soft = ratio > SOFT * (1 + irregular.ROUNDING)
    return Finding(
        "soft story", f"{where}, story {shape.levels[i]}",
        Severity.WARNING if soft else Severity.OK,
        f"Mean drift ratio is {against(ratio, SOFT)} times that of story {shape.levels[j]}"
        + (f", above {SOFT:g}: irregularity B2." if soft else f", not above {SOFT:g}."), clause,
        "Stiffen this story." if soft else "", ratio, SOFT)
