"""The room of EN 1998-1:2004, Design of structures for earthquake resistance: buildings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from undatum.finding import Finding
from undatum.ground.spectrum import CombinedSpectrum, ScaledSpectrum, Spectrum
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
    ModalFacts,
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
from undatum.standards.en1998 import method, regularity, system
from undatum.standards.en1998 import site as site_rules
from undatum.standards.en1998.facts import facts as tables
from undatum.standards.en1998.site import DesignSpectrum, ElasticSpectrum, SiteInput
from undatum.standards.en1998.system import SystemInput
from undatum.table import Table
from undatum.units import STANDARD_GRAVITY
from undatum.working import Section

__all__ = ["EN1998", "SiteInput", "SystemInput"]


class EN1998(Standard):
    """EN 1998-1:2004 as answers to the contract, with its recommended values or national ones."""

    key = "en1998"
    title = "EN 1998-1:2004"
    SiteInput = SiteInput
    SystemInput = SystemInput

    def site(self, given: Any) -> SiteAnswer:
        return site_rules.answer(given)

    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        return system.answer(direction, given, site, facts)

    def reduced_spectrum(
        self, elastic: Spectrum, site: SiteAnswer, system: SystemAnswer,
        purpose: Purpose = "strength",
    ) -> Spectrum:
        q, beta = system.force_divisor, site.parameters["beta"]
        bound = ScaledSpectrum(f"elastic spectrum over q = {q:.3g}", elastic, 1.0 / q)
        if not isinstance(elastic, ElasticSpectrum):
            least = beta * site.parameters["a_g"] * STANDARD_GRAVITY
            return bound if purpose == "drift" else replace(bound, least=least)
        design = DesignSpectrum(f"design spectrum, q = {q:.3g}", elastic, q, beta)
        if purpose == "drift":  # displacements need not exceed the elastic ones, 4.3.4(1)
            return CombinedSpectrum(f"{design.name}, for displacements", (design, bound), "least")
        return design

    def vertical_spectrum(self, site: SiteAnswer) -> VerticalAnswer:
        return site_rules.vertical(site)

    def damping_factor(self, site: SiteAnswer, damping: float) -> Section:
        return site_rules.damping_factor(damping)

    def weight_share(self, load: LoadFacts, given: Any) -> WeightShare:
        return method.weight_share(load, given)

    def gravity_share(self, load: LoadFacts, given: Any) -> tuple[float, str]:
        return method.gravity_share(load, given)

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
        return (*regularity.held_against(systems, irregular),
                *method.procedures(site, systems, shears))

    def irregularities(
        self, site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
        return regularity.judge(shape)

    def modal_findings(self, site: SiteAnswer, modes: ModalFacts) -> tuple[Finding, ...]:
        return method.modal_findings(modes)

    def separation(
        self, site: SiteAnswer, system: SystemAnswer, own: float, neighbor: float | None,
        same_floors: bool,
    ) -> SeparationAnswer:
        return method.separation(own, neighbor, same_floors)

    def load_combinations(
        self, site: SiteAnswer, systems: Mapping[Direction, SystemAnswer],
        irregular: Sequence[str], how: DirectionalCombination,
    ) -> CombinationAnswer:
        return method.load_combinations(site, how)

    def distribution(
        self, system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
        heights: Sequence[float], shape: Sequence[float],
    ) -> Distribution:
        return method.distribution(system, shear, weights, heights, shape)

    def eccentricity(self) -> Eccentricity:
        return Eccentricity(0.05, 1.0, "4.3.2(1), Eq. 4.3")

    def torsion_factor(self, ratio: float) -> float:
        return 1.0 + 0.6 * ratio  # 4.3.3.2.4(1), Eq. 4.12

    def torsion(
        self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
    ) -> TorsionAnswer:
        return method.torsion(direction, drift_ratio, where)

    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        return ModalRules(0.90, 0.05, "CQC", "SRSS", "4.3.3.3.1(3), 4.3.3.3.2", "4.3.3.5.1(2)")

    def force_scale(
        self, system: SystemAnswer, shear: BaseShearAnswer, modal_base_shear: float,
        spectrum: Spectrum,
    ) -> ScaleAnswer:
        return method.no_scale(shear.direction, "forces", "s_F")

    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, shear: BaseShearAnswer,
        modal_base_shear: float, spectrum: Spectrum,
    ) -> ScaleAnswer:
        return method.no_scale(system.direction, "drift", "s_D")

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(tables()["drift"])

    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
        period: float,
    ) -> DriftLimit:
        return method.drift_limit(site, system, structure)

    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        return method.stability(direction, gravity, drift, shear, heights)

    def systems_table(self) -> Table:
        return system.table()
