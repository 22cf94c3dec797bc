"""EN 1998-1, 4.3.3.3: modal response spectrum analysis."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import CombinedSpectrum, ScaledSpectrum, Spectrum
from undatum.standards import common
from undatum.standards.answers import BaseShearAnswer, ModalRules, ScaleAnswer
from undatum.standards.contract import Dynamics
from undatum.standards.en1998.job import EnJob
from undatum.standards.en1998.site import DesignSpectrum, ElasticSpectrum, ReducedSpectrum
from undatum.standards.facts import ModalFacts
from undatum.standards.terms import Direction, LimitState
from undatum.units import STANDARD_GRAVITY


class ModalAnalysis(Dynamics):
    """The modal response spectrum analysis."""

    def __init__(self, job: EnJob) -> None:
        self.job = job

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        """The design spectrum (3.2.2.5); displacements need not exceed the elastic ones."""
        elastic, p = self.job.spectra[direction], self.job.site.parameters
        q, beta = self.job.systems[direction].force_divisor, p["beta"]
        bound = ScaledSpectrum(f"elastic spectrum over q = {q:.3g}", elastic, 1.0 / q)
        if not isinstance(elastic, ElasticSpectrum):
            least = beta * p["a_g"] * STANDARD_GRAVITY
            reduced = ReducedSpectrum(f"{elastic.name}, q = {q:.3g}", elastic, q, p["T_B"], least)
            return reduced if state.role == "forces" else CombinedSpectrum(
                f"{reduced.name}, for displacements", (reduced, bound), "least")
        design = DesignSpectrum(f"design spectrum, q = {q:.3g}", elastic, q, beta)
        if state.role == "drift":  # 4.3.4(1)
            return CombinedSpectrum(f"{design.name}, for displacements", (design, bound), "least")
        return design

    def rules(self) -> ModalRules:
        return ModalRules(0.90, 0.05, "CQC", "SRSS", "4.3.3.3.1(3), 4.3.3.3.2", "4.3.3.5.1(2)",
                          vertical_divisor=1.5, vertical_clause="3.2.2.5(6)")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        """The standard does not scale a modal analysis to a static base shear."""
        w = common.scale_working(shear, shear.working)
        return common.not_scaled(w, shear.state, "4.3.3.3", "the standard does not scale")

    def findings(self, modes: ModalFacts) -> tuple[Finding, ...]:
        """Modes enough (4.3.3.3.1) and whether they may be combined by SRSS (4.3.3.3.2)."""
        found = []
        kept, t = modes.kept, modes.periods
        carried = modes.mass_ratios[:kept, :2].sum(axis=0)
        left = modes.mass_ratios[kept:, :2]
        enough = bool(np.all(carried[modes.axes] >= 0.9 - 1e-12)
                      or (left.size and left.max() <= 0.05))
        fallback = kept >= 3 * math.sqrt(modes.stories) and t[kept - 1] <= 0.20
        found.append(Finding(
            "modes used", "whole structure",
            Severity.OK if enough or fallback else Severity.WARNING,
            f"{kept} modes carry {modes.by_direction(carried)}; the largest left out has "
            f"{left.max() if left.size else 0.0:.1%}."
            + ("" if enough else
               f" By the other rule {math.ceil(3 * math.sqrt(modes.stories))} modes with the last "
               f"at 0.20 s or less are needed; the last has {t[kept - 1]:.3f} s."),
            "4.3.3.3.1(3), 4.3.3.3.1(5)", "" if enough or fallback else "Raise analysis.modes."))
        close = [i for i in range(kept - 1) if t[i + 1] > 0.9 * t[i]]
        if modes.combination == "SRSS" and close:
            found.append(Finding(
                "combination of modes", f"modes {close[0] + 1} and {close[0] + 2}",
                Severity.EXCEEDED, f"Their periods {t[close[0]]:.3f} s and "
                f"{t[close[0] + 1]:.3f} s are closer than 10 %: the modes are not "
                "independent and SRSS may not be used.", "4.3.3.3.2(2), (3)",
                "Leave modal_combination out, or take CQC."))
        return tuple(found)
