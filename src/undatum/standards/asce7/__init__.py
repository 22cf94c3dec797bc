"""The room of ASCE/SEI 7: Minimum Design Loads and Associated Criteria, edition 2016."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from undatum.finding import Finding
from undatum.standards.asce7 import dynamic, limits, static, system
from undatum.standards.asce7 import site as site_rules
from undatum.standards.asce7.facts import StudyValues, facts
from undatum.standards.asce7.site import SiteInput
from undatum.standards.asce7.system import EDITION, SystemInput
from undatum.standards.contract import (
    BaseShearAnswer,
    Direction,
    Distribution,
    DriftLimit,
    Floats,
    ModalRules,
    PeriodAnswer,
    Purpose,
    ScaleAnswer,
    SiteAnswer,
    StabilityAnswer,
    Standard,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.table import Table

__all__ = ["ASCE7", "SiteInput", "StudyValues", "SystemInput"]


class ASCE7(Standard):
    """ASCE/SEI 7-16 as answers to the contract."""

    key: ClassVar[str] = "asce7-16"
    title: ClassVar[str] = "ASCE/SEI 7-16"
    SiteInput = SiteInput
    SystemInput = SystemInput

    def site(self, given: Any) -> SiteAnswer:
        return site_rules.answer(given, EDITION)

    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        return system.answer(direction, given, site, facts)

    def weight_share(self, kind: str, intensity: float | None) -> WeightShare:
        return limits.weight_share(kind, intensity)

    def gravity_share(self, kind: str) -> tuple[float, str]:
        return limits.gravity_share(kind)

    def period(
        self, system: SystemAnswer, site: SiteAnswer, facts: StructureFacts
    ) -> PeriodAnswer:
        return static.period(system, site, facts)

    def base_shear(
        self,
        purpose: Purpose,
        site: SiteAnswer,
        system: SystemAnswer,
        period: PeriodAnswer,
        computed_period: float | None,
        facts: StructureFacts,
    ) -> BaseShearAnswer:
        return static.base_shear(purpose, site, system, period, computed_period, facts)

    def procedures(
        self, site: SiteAnswer, shears: Sequence[BaseShearAnswer], facts: StructureFacts
    ) -> tuple[Finding, ...]:
        return site_rules.procedures(site, shears)

    def distribution(
        self, shear: BaseShearAnswer, weights: Sequence[float], heights: Sequence[float]
    ) -> Distribution:
        return static.distribution(shear, weights, heights)

    def accidental_eccentricity(self) -> tuple[float, str]:
        return 0.05, "12.8.4.2"

    def torsion(
        self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
    ) -> TorsionAnswer:
        return limits.torsion(direction, site, drift_ratio, where)

    def torsion_amplification(self, largest: Floats, average: Floats) -> Distribution:
        return static.torsion_amplification(largest, average)

    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        return dynamic.rules(site)

    def force_scale(self, shear: BaseShearAnswer, modal_base_shear: float) -> ScaleAnswer:
        return dynamic.force_scale(shear, modal_base_shear)

    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, weight: float, modal_base_shear: float
    ) -> ScaleAnswer:
        return dynamic.drift_scale(site, system, weight, modal_base_shear)

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(facts(EDITION)["drift"])

    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts
    ) -> DriftLimit:
        return limits.drift_limit(site, system, structure, facts)

    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        return limits.stability(direction, site, system, gravity, drift, shear, heights)

    def systems_table(self) -> Table:
        return system.table()
