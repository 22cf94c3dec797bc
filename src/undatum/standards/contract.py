"""What the analysis asks of a standard.

Each published standard answers the same questions in its own room; the records it answers with
are in :mod:`undatum.standards.answers`. The analysis knows these modules only; a new standard is
a new room and no change elsewhere.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from typing import Any

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum
from undatum.standards.answers import (
    Asked,
    AskedOfSite,
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
from undatum.table import Table
from undatum.working import Section


class Standard(ABC):
    """The questions every standard answers. All numbers are SI unless a name says otherwise."""

    key: str
    title: str
    also: tuple[str, ...] = ()  # other keys it is reached by, such as those of building codes
    SiteInput: type[AskedOfSite]
    SystemInput: type[Asked]

    @abstractmethod
    def site(self, given: Any) -> SiteAnswer:
        """Site parameters, category and design spectrum from the ``[site]`` table."""

    @abstractmethod
    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        """Factors and limits of the lateral system in one direction."""

    @abstractmethod
    def reduced_spectrum(
        self, elastic: Spectrum, site: SiteAnswer, system: SystemAnswer,
        purpose: Purpose = "strength",
    ) -> Spectrum:
        """The spectrum of design forces in one direction, from the standard's or a given one."""

    def vertical_spectrum(self, site: SiteAnswer) -> VerticalAnswer | None:
        """Design spectrum of the vertical component; ``None`` where the standard gives none."""
        return None

    def least_spectrum(self, site: SiteAnswer) -> FloorAnswer | None:
        """What a site-specific spectrum may not fall below; ``None`` where nothing is said."""
        return None

    def damping_factor(self, site: SiteAnswer, damping: float) -> Section | None:
        """Factor from 5 % to another damping ratio, as the last line; ``None`` without a rule."""
        return None

    @abstractmethod
    def weight_share(self, load: LoadFacts, given: Any) -> WeightShare:
        """Share of a load that is seismic weight; ``given`` is the ``[site]`` table."""

    @abstractmethod
    def period(
        self, system: SystemAnswer, site: SiteAnswer, facts: StructureFacts
    ) -> PeriodAnswer:
        """Approximate period and cap on the computed one."""

    @abstractmethod
    def base_shear(
        self,
        purpose: Purpose,
        site: SiteAnswer,
        system: SystemAnswer,
        period: PeriodAnswer,
        computed_period: float | None,
        facts: StructureFacts,
    ) -> BaseShearAnswer:
        """Static base shear with every limit and the branch that governed."""

    @abstractmethod
    def procedures(
        self, site: SiteAnswer, systems: Sequence[SystemAnswer],
        shears: Sequence[BaseShearAnswer], computed: Sequence[float], facts: StructureFacts,
        irregular: Sequence[str],
    ) -> tuple[Finding, ...]:
        """Which procedures the standard permits here, judged with the base shears for strength.

        ``computed`` are the periods of the modes that govern X and Y, s; ``irregular`` the types
        that :meth:`irregularities` found.
        """

    def irregularities(
        self, site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
        """Types of structural irregularity found, and the findings on those judged."""
        return (), (Finding(
            "irregularities", "whole structure", Severity.NOTE,
            f"Of the irregularities of {self.title} only torsion is judged.", "",
            "Judge the others by hand."),)

    def modal_findings(self, site: SiteAnswer, modes: ModalFacts) -> tuple[Finding, ...]:
        """What the standard asks of the modes beyond their mass."""
        return ()

    @abstractmethod
    def distribution(
        self, system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
        heights: Sequence[float], shape: Sequence[float],
    ) -> Distribution:
        """Static forces by level, top down, from weights (N) and heights above the base (m).

        ``shape`` holds the displacements of the levels in the mode that governs the direction.
        """

    def diaphragm_forces(
        self, site: SiteAnswer, distribution: Distribution, weights: Floats
    ) -> Distribution | None:
        """Forces on the floors as diaphragms, top down; ``None`` where the standard has no rule.

        ``distribution`` holds the static forces for strength of the levels above the base and
        ``weights`` (n,) theirs.
        """
        return None

    @abstractmethod
    def eccentricity(self) -> Eccentricity:
        """Design eccentricity of the forces."""

    def torsion_factor(self, ratio: float) -> float | None:
        """Simplified factor on a line's share for accidental torsion, to compare with.

        ``ratio`` is the distance of the line from the center of mass over the distance between
        the outermost lines. ``None`` where the standard gives none.
        """
        return None

    @abstractmethod
    def torsion(self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
                ) -> TorsionAnswer:
        """Torsional irregularity from the largest ratio of maximum to average story drift."""

    def torsion_amplification(self, largest: Floats, average: Floats) -> Distribution:
        """Amplification of the accidental torsion by level from displacements in m.

        Asked only where :meth:`torsion` says that it is amplified.
        """
        raise NotImplementedError(f"{self.title} does not amplify accidental torsion")

    @abstractmethod
    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        """Mass target, damping and default combinations."""

    def directions(
        self, site: SiteAnswer, irregular: Sequence[str]
    ) -> tuple[DirectionalCombination, str]:
        """How the two directions of ground motion go together here, and by which clause."""
        rules = self.modal_rules(site)
        return rules.directional_combination, rules.directional_clause

    @abstractmethod
    def force_scale(
        self, system: SystemAnswer, shear: BaseShearAnswer, modal_base_shear: float,
        spectrum: Spectrum,
    ) -> ScaleAnswer:
        """Factor on forces of the modal analysis against the static base shear for strength."""

    @abstractmethod
    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, shear: BaseShearAnswer,
        modal_base_shear: float, spectrum: Spectrum,
    ) -> ScaleAnswer:
        """Factor on displacements of the modal analysis; ``shear`` is the static one for drift."""

    @abstractmethod
    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
        period: float,
    ) -> DriftLimit:
        """Allowable story drift for a ``structure`` named as in :meth:`drift_structures`.

        ``period`` is that of the static forces for drift, s.
        """

    @abstractmethod
    def drift_structures(self) -> tuple[str, ...]:
        """Names of the structure types with a drift limit of their own; the first is usual."""

    @abstractmethod
    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        """Second-order coefficient by story from total gravity load, design drift, story shear."""

    def separation(
        self, site: SiteAnswer, system: SystemAnswer, own: float, neighbor: float | None,
        same_floors: bool,
    ) -> SeparationAnswer | None:
        """Least distance from displacements (m) of this building and of its neighbor.

        ``own`` is the amplified displacement; without a neighbor the property line is meant.
        ``None`` where the standard is silent.
        """
        return None

    def load_combinations(
        self, site: SiteAnswer, systems: Mapping[Direction, SystemAnswer],
        irregular: Sequence[str], how: DirectionalCombination,
    ) -> CombinationAnswer | None:
        """Load combinations with earthquake; ``None`` where the standard leaves them to others."""
        return None

    @abstractmethod
    def gravity_share(self, load: LoadFacts, given: Any) -> tuple[float, str]:
        """Share of a load in the gravity load of second-order checks, and clause."""

    @abstractmethod
    def systems_table(self) -> Table:
        """All lateral systems of the standard."""
