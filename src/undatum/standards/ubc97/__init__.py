"""The room of the Uniform Building Code 1997, chapter 16, division IV."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from undatum.finding import Finding
from undatum.ground.spectrum import ScaledSpectrum, Spectrum, TwoPeriodSpectrum
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    Distribution,
    DriftLimit,
    Eccentricity,
    Floats,
    LoadFacts,
    ModalRules,
    PeriodAnswer,
    Purpose,
    ScaleAnswer,
    SeparationAnswer,
    ShapeFacts,
    SiteAnswer,
    StabilityAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    VerticalAnswer,
    WeightShare,
)
from undatum.standards.contract import Standard
from undatum.standards.ubc97 import method, rules
from undatum.standards.ubc97 import site as site_rules
from undatum.standards.ubc97.method import SystemInput
from undatum.standards.ubc97.site import SiteInput
from undatum.table import Table

__all__ = ["UBC97", "SiteInput", "SystemInput"]


class UBC97(Standard):
    """UBC 1997 as answers to the contract."""

    key = "ubc97"
    title = "UBC 1997"
    SiteInput = SiteInput
    SystemInput = SystemInput

    def site(self, given: Any) -> SiteAnswer:
        return site_rules.answer(given)

    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        return method.system(direction, given, site, facts)

    def reduced_spectrum(
        self, elastic: Spectrum, site: SiteAnswer, system: SystemAnswer,
        purpose: Purpose = "strength",
    ) -> Spectrum:
        return ScaledSpectrum(f"divided by R/I = {system.force_divisor:.3g}", elastic,
                              1.0 / system.force_divisor)

    def weight_share(self, load: LoadFacts, given: Any) -> WeightShare:
        return method.weight_share(load)

    def gravity_share(self, load: LoadFacts, given: Any) -> tuple[float, str]:
        return 1.0, "1630.1.3"

    def period(
        self, system: SystemAnswer, site: SiteAnswer, facts: StructureFacts
    ) -> PeriodAnswer:
        return method.period(system, site, facts)

    def base_shear(
        self,
        purpose: Purpose,
        site: SiteAnswer,
        system: SystemAnswer,
        period: PeriodAnswer,
        computed_period: float | None,
        facts: StructureFacts,
    ) -> BaseShearAnswer:
        return method.base_shear(purpose, site, system, period, computed_period, facts)

    def procedures(
        self, site: SiteAnswer, systems: Sequence[SystemAnswer],
        shears: Sequence[BaseShearAnswer], computed: Sequence[float], facts: StructureFacts,
        irregular: Sequence[str],
    ) -> tuple[Finding, ...]:
        return method.procedures(site, systems, facts, irregular)

    def irregularities(
        self, site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
        return rules.judge(shape, torsion)

    def vertical_spectrum(self, site: SiteAnswer) -> VerticalAnswer:
        return rules.vertical(site)

    def separation(
        self, site: SiteAnswer, system: SystemAnswer, own: float, neighbor: float | None,
        same_floors: bool,
    ) -> SeparationAnswer:
        return rules.separation(own, neighbor)

    def load_combinations(
        self, site: SiteAnswer, systems: Mapping[Direction, SystemAnswer],
        irregular: Sequence[str], how: DirectionalCombination,
    ) -> CombinationAnswer:
        return rules.load_combinations(site, systems, how)

    def distribution(
        self, system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
        heights: Sequence[float], shape: Sequence[float],
    ) -> Distribution:
        return method.distribution(shear, weights, heights)

    def diaphragm_forces(
        self, site: SiteAnswer, distribution: Distribution, weights: Floats
    ) -> Distribution | None:
        return common.diaphragm_forces(
            site, distribution, weights, "0.5 * C_a * I", "C_a * I", "1633.2.9",
            "1633.2.9, Eq. 33-1")

    def eccentricity(self) -> Eccentricity:
        return Eccentricity(0.05, 1.0, "1630.6")

    def torsion(
        self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
    ) -> TorsionAnswer:
        return method.torsion(direction, drift_ratio, where)

    def torsion_amplification(self, largest: Floats, average: Floats) -> Distribution:
        return common.torsion_amplification(largest, average, "1630.7", "1630.7, Eq. 30-16")

    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        return ModalRules(0.90, 0.05, "CQC", "100/30", "1631.5.2, 1631.5.3", "1633.1")

    def force_scale(
        self, system: SystemAnswer, shear: BaseShearAnswer, modal_base_shear: float,
        spectrum: Spectrum,
    ) -> ScaleAnswer:
        return method.scale(shear, modal_base_shear, system.given.regular,
                            isinstance(spectrum, TwoPeriodSpectrum))

    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, shear: BaseShearAnswer,
        modal_base_shear: float, spectrum: Spectrum,
    ) -> ScaleAnswer:
        return method.scale(shear, modal_base_shear, system.given.regular,
                            isinstance(spectrum, TwoPeriodSpectrum))

    def drift_structures(self) -> tuple[str, ...]:
        return ("all structures",)

    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
        period: float,
    ) -> DriftLimit:
        return method.drift_limit(site, system, period)

    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        return method.stability(direction, site, system, gravity, drift, shear, heights)

    def systems_table(self) -> Table:
        return method.table()
