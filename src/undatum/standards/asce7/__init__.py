"""The room of ASCE/SEI 7, Minimum Design Loads: editions 2005, 2010, 2016 and 2022."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from undatum.finding import Finding
from undatum.ground import ScaledSpectrum, Spectrum
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
    FloorAnswer,
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
from undatum.standards.asce7 import (
    combinations,
    dynamic,
    irregularity,
    limits,
    spectra,
    static,
    system,
)
from undatum.standards.asce7 import site as site_rules
from undatum.standards.asce7.facts import StudyValues, edition
from undatum.standards.asce7.site import SiteInput, SiteInput22
from undatum.standards.asce7.system import SystemInput, system_input
from undatum.standards.contract import Standard
from undatum.table import Table

__all__ = ["ASCE7", "SiteInput", "SiteInput22", "StudyValues", "SystemInput"]


class ASCE7(Standard):
    """One edition of ASCE/SEI 7 as answers to the contract."""

    def __init__(self, key: str) -> None:
        self.edition = edition(key)
        self.key = f"asce7-{key}"
        self.title = self.edition.title
        self.also = self.edition.also
        self.SiteInput = SiteInput22 if key == "22" else SiteInput
        self.SystemInput = system_input(key)

    def site(self, given: Any) -> SiteAnswer:
        return site_rules.answer(given, self.edition)

    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        return system.answer(direction, given, site, facts, self.edition)

    def reduced_spectrum(
        self, elastic: Spectrum, site: SiteAnswer, system: SystemAnswer,
        purpose: Purpose = "strength",
    ) -> Spectrum:
        return ScaledSpectrum(f"divided by R/Ie = {system.force_divisor:.3g}", elastic,
                              1.0 / system.force_divisor)

    def weight_share(self, load: LoadFacts, given: Any) -> WeightShare:
        return limits.weight_share(load, self.edition)

    def gravity_share(self, load: LoadFacts, given: Any) -> tuple[float, str]:
        return limits.gravity_share(load)

    def period(
        self, system: SystemAnswer, site: SiteAnswer, facts: StructureFacts
    ) -> PeriodAnswer:
        return static.period(system, site, facts, self.edition)

    def base_shear(
        self,
        purpose: Purpose,
        site: SiteAnswer,
        system: SystemAnswer,
        period: PeriodAnswer,
        computed_period: float | None,
        facts: StructureFacts,
    ) -> BaseShearAnswer:
        return static.base_shear(
            purpose, site, system, period, computed_period, facts, self.edition)

    def procedures(
        self, site: SiteAnswer, systems: Sequence[SystemAnswer],
        shears: Sequence[BaseShearAnswer], computed: Sequence[float], facts: StructureFacts,
        irregular: Sequence[str],
    ) -> tuple[Finding, ...]:
        periods = [self.period(system, site, facts) for system in systems]
        return (
            *site_rules.procedures(site, periods, shears, computed),
            *irregularity.conditions(site, systems, shears, facts, irregular, self.edition),
            *irregularity.permitted(site, shears, facts, irregular, self.edition),
        )

    def vertical_spectrum(self, site: SiteAnswer) -> VerticalAnswer | None:
        return spectra.vertical(site, self.edition)

    def least_spectrum(self, site: SiteAnswer) -> FloorAnswer:
        return spectra.least_spectrum(site, self.edition)

    def separation(
        self, site: SiteAnswer, system: SystemAnswer, own: float, neighbor: float | None,
        same_floors: bool,
    ) -> SeparationAnswer:
        return limits.separation(own, neighbor, self.edition)

    def load_combinations(
        self, site: SiteAnswer, systems: Mapping[Direction, SystemAnswer],
        irregular: Sequence[str], how: DirectionalCombination,
    ) -> CombinationAnswer:
        return combinations.load_combinations(site, systems, how, self.edition)

    def irregularities(
        self, site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
        return irregularity.judge(site, shape, torsion, self.edition)

    def distribution(
        self, system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
        heights: Sequence[float], shape: Sequence[float],
    ) -> Distribution:
        return static.distribution(shear, weights, heights, self.edition)

    def diaphragm_forces(
        self, site: SiteAnswer, distribution: Distribution, weights: Floats
    ) -> Distribution | None:
        clause = "12.10.1.1"
        return common.diaphragm_forces(
            site, distribution, weights, "0.2 * S_DS * I_e", "0.4 * S_DS * I_e", clause,
            self.edition.equation(clause, "12.10-1 to 12.10-3"))

    def eccentricity(self) -> Eccentricity:
        return Eccentricity(0.05, 1.0, "12.8.4.2")

    def torsion(
        self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
    ) -> TorsionAnswer:
        return limits.torsion(direction, site, drift_ratio, where, self.edition)

    def torsion_amplification(self, largest: Floats, average: Floats) -> Distribution:
        return common.torsion_amplification(
            largest, average, "12.8.4.3", self.edition.equation("12.8.4.3", "12.8-14"))

    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        return dynamic.rules(site, self.edition)

    def directions(
        self, site: SiteAnswer, irregular: Sequence[str]
    ) -> tuple[DirectionalCombination, str]:
        return dynamic.directions(site, irregular)

    def force_scale(
        self, system: SystemAnswer, shear: BaseShearAnswer, modal_base_shear: float,
        spectrum: Spectrum,
    ) -> ScaleAnswer:
        return dynamic.force_scale(shear, modal_base_shear, self.edition)

    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, shear: BaseShearAnswer,
        modal_base_shear: float, spectrum: Spectrum,
    ) -> ScaleAnswer:
        return dynamic.drift_scale(
            site, system, shear.base_shear / shear.coefficient, modal_base_shear, self.edition)

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(self.edition.table("drift"))

    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
        period: float,
    ) -> DriftLimit:
        return limits.drift_limit(site, system, structure, facts, self.edition)

    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        return limits.stability(
            direction, site, system, gravity, drift, shear, heights, self.edition)

    def systems_table(self) -> Table:
        return system.table(self.edition)
