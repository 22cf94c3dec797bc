"""The room of IS 1893 (Part 1), editions 2002 and 2016."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from undatum.finding import Finding
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
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
from undatum.standards.is1893 import method, regularity
from undatum.standards.is1893 import site as site_rules
from undatum.standards.is1893.method import SystemInput
from undatum.standards.is1893.site import SiteInput, SiteInput2002
from undatum.table import Table
from undatum.working import Section

__all__ = ["IS1893", "SiteInput", "SiteInput2002", "SystemInput"]


class IS1893(Standard):
    """One edition of IS 1893 (Part 1) as answers to the contract."""

    def __init__(self, edition: str) -> None:
        self.edition = edition
        self.key = f"is1893-{edition}"
        self.title = f"IS 1893 (Part 1):{edition}"
        self.SiteInput = SiteInput if edition == "2016" else SiteInput2002
        self.SystemInput = SystemInput

    def site(self, given: Any) -> SiteAnswer:
        return site_rules.answer(given, self.edition)

    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        return method.system(direction, given, site, self.edition)

    def reduced_spectrum(
        self, elastic: Spectrum, site: SiteAnswer, system: SystemAnswer,
        purpose: Purpose = "strength",
    ) -> Spectrum:
        return ScaledSpectrum(f"divided by R/I = {system.force_divisor:.3g}", elastic,
                              1.0 / system.force_divisor)

    def weight_share(self, load: LoadFacts, given: Any) -> WeightShare:
        return method.weight_share(load, self.edition)

    def gravity_share(self, load: LoadFacts, given: Any) -> tuple[float, str]:
        return 1.0, ""

    def period(
        self, system: SystemAnswer, site: SiteAnswer, facts: StructureFacts
    ) -> PeriodAnswer:
        return method.period(system, site, facts, self.edition)

    def base_shear(
        self,
        purpose: Purpose,
        site: SiteAnswer,
        system: SystemAnswer,
        period: PeriodAnswer,
        computed_period: float | None,
        facts: StructureFacts,
    ) -> BaseShearAnswer:
        return method.base_shear(purpose, site, system, period, facts, self.edition)

    def procedures(
        self, site: SiteAnswer, systems: Sequence[SystemAnswer],
        shears: Sequence[BaseShearAnswer], computed: Sequence[float], facts: StructureFacts,
        irregular: Sequence[str],
    ) -> tuple[Finding, ...]:
        return method.procedures(site, systems, facts, irregular, self.edition)

    def irregularities(
        self, site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
        return regularity.judge(shape, torsion, self.edition)

    def modal_findings(self, site: SiteAnswer, modes: ModalFacts) -> tuple[Finding, ...]:
        return regularity.modal_findings(site, modes, self.edition)

    def vertical_spectrum(self, site: SiteAnswer) -> VerticalAnswer:
        return site_rules.vertical(site, self.edition)

    def damping_factor(self, site: SiteAnswer, damping: float) -> Section | None:
        return site_rules.damping_factor(damping, self.edition)

    def separation(
        self, site: SiteAnswer, system: SystemAnswer, own: float, neighbor: float | None,
        same_floors: bool,
    ) -> SeparationAnswer:
        return method.separation(system, own, neighbor, same_floors, self.edition)

    def load_combinations(
        self, site: SiteAnswer, systems: Mapping[Direction, SystemAnswer],
        irregular: Sequence[str], how: DirectionalCombination,
    ) -> CombinationAnswer:
        return method.load_combinations(systems, how, self.edition)

    def distribution(
        self, system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
        heights: Sequence[float], shape: Sequence[float],
    ) -> Distribution:
        return method.distribution(shear, weights, heights, self.edition)

    def eccentricity(self) -> Eccentricity:
        return Eccentricity(0.05, 1.5, "7.8.2" if self.edition == "2016" else "7.9.2")

    def torsion(
        self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
    ) -> TorsionAnswer:
        return method.torsion(direction, drift_ratio, where, self.edition)

    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        clause = "7.7.5" if self.edition == "2016" else "7.8.4"
        return ModalRules(0.90, 0.05, "CQC", "independent", clause, "6.3.2", 1 / 33, clause)

    def directions(
        self, site: SiteAnswer, irregular: Sequence[str]
    ) -> tuple[DirectionalCombination, str]:
        return ("100/30", "6.3.2.2") if "H5" in irregular else ("independent", "6.3.2.1")

    def force_scale(
        self, system: SystemAnswer, shear: BaseShearAnswer, modal_base_shear: float,
        spectrum: Spectrum,
    ) -> ScaleAnswer:
        return method.scale(shear, modal_base_shear, self.edition, "forces")

    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, shear: BaseShearAnswer,
        modal_base_shear: float, spectrum: Spectrum,
    ) -> ScaleAnswer:
        return method.scale(shear, modal_base_shear, self.edition, "drift")

    def drift_structures(self) -> tuple[str, ...]:
        return ("all structures",)

    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
        period: float,
    ) -> DriftLimit:
        return method.drift_limit(system)

    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        return method.stability(direction, gravity, drift, shear, heights)

    def systems_table(self) -> Table:
        return method.table(self.edition)
