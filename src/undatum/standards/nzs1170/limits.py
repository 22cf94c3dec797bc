"""NZS 1170.5, chapters 4 to 7: modal analysis, irregularity, drift, combinations, procedures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
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
from undatum.standards.nzs1170.job import NzsJob
from undatum.standards.nzs1170.system import NOMINAL, reduction
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, LimitState
from undatum.units import said
from undatum.working import Candidate, SectionKey, Working, first

LIMITS = irregular.Limits(
    elevation="4.5.1", plan="4.5.2", soft=(0.7, 0.8), extreme_soft=None, weight=1.5, extent=1.3,
    weak=0.9, extreme_weak=None, names={
        "V1a": "vertical stiffness irregularity", "V2": "weight irregularity",
        "V3": "vertical geometric irregularity", "V4": "in-plane offset",
        "V5": "discontinuity in capacity", "V5a": "discontinuity in capacity",
        "H1": "torsional sensitivity", "H4": "horizontal offset"},
    without=("H2", "H3", "H5"))


class ModalAnalysis(Dynamics):
    """The modal response spectrum method."""

    def __init__(self, job: NzsJob) -> None:
        self.job = job

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        divisor = self.job.systems[direction].force_divisor
        return self._over(direction, divisor)

    def reduced_at(
        self, direction: Direction, state: LimitState, period: float
    ) -> Spectrum:
        """C(T) S_p / k_mu, with k_mu at the largest translational period (5.2.2.1)."""
        w = Working(SectionKey("reduction", direction), "", self.job.site.working,
                    self.job.systems[direction].working)
        w.given("T_1", self.job.asked[direction].period or period, "s", meaning="period")
        k = reduction(w, self.job.site.site_class, w.value("T_1"))
        return self._over(direction, k / w.value("S_p"))

    def _over(self, direction: Direction, divisor: float) -> Spectrum:
        return ScaledSpectrum(f"divided by k_mu/S_p = {divisor:.3g}", self.job.spectra[direction],
                              1.0 / divisor)

    def rules(self) -> ModalRules:
        how, clause = self._directions()
        return ModalRules(0.90, 0.05, "CQC", how, "6.3.3, 6.3.4", clause)

    def _directions(self) -> tuple[DirectionalCombination, str]:
        """Ductile structures one direction at a time, others with 30 % of the other (5.3.1)."""
        ductile = all(given.ductility > NOMINAL + 1e-9 for given in self.job.asked.values())
        return ("independent", "5.3.1.1") if ductile else ("100/30", "5.3.1.2")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        """Up to 80 % of the static base shear, all of it where irregular (5.2.2.2)."""
        w = common.scale_working(shear, shear.working)
        w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
                clause="5.2.2.2")
        w.pick("c_V", first(
            Candidate("irregular", "1", "irregular", applies=bool(irregular)),
            Candidate("regular", "0.8", "not irregular")),
            meaning="share of the static base shear", clause="5.2.2.2", within=(0.0, 1.0))
        return common.scaled_up(w, shear.state, "c_V * V", "5.2.2.2", "scaled up", "not scaled")


class Structure(WholeStructure):
    """What NZS 1170.5 says of the whole structure."""

    def __init__(self, job: NzsJob) -> None:
        self.job = job

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        kinds, unjudged, findings = irregular.judge(shape, LIMITS)
        kinds |= {"H1" for t in torsion.values() if t.kind}
        return RegularityAnswer(tuple(sorted(kinds)), tuple(sorted(unjudged)), tuple(findings))

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        """Whether the equivalent static method may be used (6.1.3.1)."""
        h, regular = self.job.facts.height, not regularity.found
        t = max(s.period for s in shears.values())
        low, stiff = h <= 10.0 * (1 + 1e-9), t < 0.4
        usual = regular and t < 2.0
        allowed = low or stiff or usual
        open_ = usual and not (low or stiff) and bool(regularity.unjudged)
        left = ", ".join(LIMITS.name(k) for k in regularity.unjudged)
        return ProcedureAnswer({} if open_ else dict.fromkeys(DIRECTIONS, allowed), (Finding(
            "static procedure", "whole structure",
            Severity.WARNING if open_ else Severity.OK if allowed else Severity.NOTE,
            f"{'Regular' if regular else 'Irregular'} as far as checked, height {said(h)} against "
            f"10 m, T_1 = {t:.3g} s against 0.4 s and, where regular, 2.0 s: the equivalent static "
            "method " + (f"may be used only without these, which were not checked: {left}."
                         if open_ else "may be used." if allowed else
                         "may not be used; the modal analysis governs."), "6.1.3.1",
            "Check them by hand, or state them in [irregularities]." if open_ else ""),
            *common.gross_stiffness(self.job.facts, "")))

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """2.5 % of the story height at the ultimate limit state (7.5.1)."""
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    self.job.systems[direction].working)
        ratio = w.given("a", 0.025, clause="7.5.1", within=(0.0, 0.1),
                        meaning="allowable design drift over story height")
        return DriftLimit(ratio, "7.5.1", w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """P u / (V h); up to 0.1 nothing is asked for, 0.3 is not to be exceeded (6.5)."""
        w = common.second_order(facts, ("P", "u", "V", "h_s"), "6.5.2", {
            "u": "design story drift, the drift modification factor in it"})
        theta = w.compute_all("theta", "P * u / (V * h_s)", meaning="stability coefficient",
                              clause="6.5.2")
        return StabilityAnswer(theta, 0.30, 0.10, 0.10, np.ones_like(theta), "6.5.2", w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer:
        """Design displacements within the boundary, of both buildings between two (7.4)."""
        w = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working)
        clause = "7.4"
        w.given("u_1", gap.own, "displacement", clause=clause,
                meaning="displacement of this building, the drift modification factor in it")
        if gap.neighbor is not None:
            w.given("u_2", gap.neighbor, "displacement", meaning="that of the neighbor",
                    clause=clause)
        found = w.pick("s", first(
            Candidate("property line", "u_1 / k_dm", "without the factor on drift",
                      applies=gap.neighbor is None),
            Candidate("sum", "u_1 / k_dm + u_2", "each within its own boundary")),
            "displacement", meaning="least distance", clause=clause)
        return SeparationAnswer(found.value, clause, w.close())

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer:
        """G + E_u + psi_E Q, and without earthquake 1.35 G and 1.2 G + 1.5 Q."""
        clause = "AS/NZS 1170.0, 4.2.2"
        w = Working(SectionKey("combinations"), "Load combinations", self.job.site.working)
        w.given("gamma_E", 1.0, meaning="factor on the earthquake", clause=clause,
                replaceable=False)
        alone = dict.fromkeys(self.job.asked, 1.0)
        patterns = common.three_patterns(how, alone) if vertical else [
            (name, (*quake, 0.0)) for name, quake in common.quake_patterns(how, alone)]
        rows = tuple(
            LoadCombination("ultimate", f"G + Eu + psi_E Q: {pattern}", 1.0, 1.0, 0.0, (x, y),
                            clause, z)
            for pattern, (x, y, z) in patterns)
        return CombinationAnswer(
            rows, w.close(), "Imposed action is the share psi_E, load by load: table load_shares. "
            "Combinations with snow and wind are yours.", dict.fromkeys(DIRECTIONS, 1.0),
            gravity=(LoadCombination("ultimate", "1.35 G", 1.35, 0.0, 0.0, (0.0, 0.0), clause),
                     LoadCombination("ultimate", "1.2 G + 1.5 Q", 1.2, 1.5, 0.0, (0.0, 0.0),
                                     clause)))
