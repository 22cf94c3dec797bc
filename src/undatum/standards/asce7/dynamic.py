"""ASCE 7, 12.5 and 12.9: rules and scaling of the modal response spectrum analysis."""

from __future__ import annotations

from collections.abc import Sequence

from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.standards import common
from undatum.standards.answers import BaseShearAnswer, ModalRules, ScaleAnswer
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.job import AsceJob
from undatum.standards.contract import Dynamics
from undatum.standards.terms import Direction, DirectionalCombination, LimitState
from undatum.working import Candidate, largest


class ModalAnalysis(Dynamics):
    """The modal response spectrum analysis of one edition."""

    def __init__(self, job: AsceJob, edition: Edition) -> None:
        self.job, self.edition = job, edition

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        divisor = self.job.systems[direction].force_divisor
        return ScaledSpectrum(f"divided by R/Ie = {divisor:.3g}", self.job.spectra[direction],
                              1.0 / divisor)

    def rules(self) -> ModalRules:
        """Mass target of 90 % by direction, CQC, and the orthogonal rule of the category."""
        clause = f"{self.edition.clause('modal_mass')}, {self.edition.clause('modal_combination')}"
        how, orthogonal = self.directions(("H5",))
        if self.edition.rule("rigid_modes"):
            return ModalRules(0.90, 0.05, "CQC", how, clause, orthogonal, 0.05,
                              self.edition.clause("modal_mass"))
        return ModalRules(0.90, 0.05, "CQC", how, clause, orthogonal)

    def directions(self, irregular: Sequence[str]) -> tuple[DirectionalCombination, str]:
        """Each direction alone in A and B, and in C without a nonparallel system (12.5).

        In D to F the combination is asked for columns and walls that two systems share; which
        those are is not in a concept building, so it is taken for all.
        """
        category = self.job.site.category
        if category in ("A", "B"):
            return "independent", "12.5.2"
        if category == "C" and "H5" not in irregular:
            return "independent", "12.5.3"
        return "100/30", self.edition.clause("orthogonal") if category == "C" else "12.5.4"

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        if shear.state.role == "forces":
            return self._forces(shear, modal_base_shear)
        return self._drift(shear, modal_base_shear)

    def _forces(self, shear: BaseShearAnswer, modal_base_shear: float) -> ScaleAnswer:
        """Scale up to V, or to 0.85 V before the 2016 edition."""
        share = self.edition.rule("force_share")
        target, said = ("V", "V") if share == 1 else (f"{share:g} * V", f"{share:g} V")
        w = common.scale_working(shear, shear.working)
        if self.job.site.category == "A":
            return common.not_scaled(w, shear.state, "11.7", "category A asks for no such analysis")
        w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
                clause=self.edition.clause("modal_combination"))
        return common.scaled_up(
            w, shear.state, target, self.edition.clause("force_scale"),
            f"V_t < {said}: scaled up to {said}", f"V_t ≥ {said}: not scaled")

    def _drift(self, shear: BaseShearAnswer, modal_base_shear: float) -> ScaleAnswer:
        """Cs W/Vt with Cs of Eq. 12.8-6, where that equation applies (2010: 0.85; 2005: none)."""
        edition = self.edition
        clause, share = edition.clause("drift_scale"), edition.rule("drift_scale_share")
        w = common.scale_working(shear, shear.working)
        if self.job.site.category == "A":
            return common.not_scaled(w, shear.state, "11.7", "category A asks for no such analysis")
        if not share:
            return common.not_scaled(w, shear.state, clause, "this edition does not scale drift")
        if self.job.site.parameters["S_1"] < 0.6:
            return common.not_scaled(
                w, shear.state, clause,
                "S_1 < 0.6: the least value near faults does not apply, drift is not scaled")
        w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
                clause=edition.clause("modal_combination"))
        target, said = ("C_s4 * W", "C_s W") if share == 1 else (
            f"{share:g} * C_s4 * W", f"{share:g} C_s W")
        choice = w.pick(
            "s_D", largest(Candidate("not scaled", "1", f"V_t ≥ {said}: not scaled"),
                           Candidate("scaled up", f"{target} / V_t",
                                     f"V_t < {said}: scaled up")),
            meaning="factor on drift", clause=clause)
        return ScaleAnswer(choice.value, choice.key, choice.words, clause, w.close())
