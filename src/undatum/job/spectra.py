"""The response spectrum analysis."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.analysis.combine import Floats, ModalCombiner
from undatum.analysis.response import ModalBasis, SpectrumSet
from undatum.job.stage import stage
from undatum.job.statics import StaticParts
from undatum.stages.outcomes import Scaling, SpectrumResult
from undatum.stages.spectrum_analysis import (
    Analyzed,
    analyze_spectra,
    analyze_vertical,
    combine_both,
    move_masses,
    prepare_combination,
    rules_in_use,
    shapes_and_forces,
    take_basis,
    take_drift_basis,
)
from undatum.standards.answers import ModalRules
from undatum.standards.terms import Direction, DirectionalCombination, Motion


class SpectrumParts(StaticParts):
    """The response spectrum analysis."""

    @stage
    def _prepare_combination(self) -> tuple[ModalCombiner, Floats, Floats]:
        """How the modes go together; the mass left out counts as one more mode, where asked."""
        return prepare_combination(
            self.modes, self.rules, self.analysis, self.solver, self.building)

    @stage
    def combination(self) -> ModalCombiner:
        return self._prepare_combination[0]

    @stage
    def damping_ratios(self) -> Floats:
        return self._prepare_combination[1]

    @stage
    def used_periods(self) -> Floats:
        return self._prepare_combination[2]

    @stage
    def modal_shapes(self) -> Mapping[Motion, tuple[Floats, Floats]]:
        """Kept shapes (N, m) by direction, with the rest of the mass where asked, and their
        forces.
        """
        return shapes_and_forces(self.solver, self.modes, self.analysis)

    @stage
    def basis(self) -> ModalBasis:
        """What the spectrum sets for strength are made of."""
        return take_basis(
            self.solver, self.modes, self.combination, self.damping_ratios, self.used_periods,
            self.modal_shapes)

    @stage
    def drift_basis(self) -> ModalBasis:
        """What those for drift are made of."""
        return take_drift_basis(
            self.basis, self.drift_solver, self.drift_modes, self.rules, self.analysis,
            self.building)

    @stage
    def moved_bases(self) -> Mapping[tuple[Direction, int, bool], ModalBasis]:
        """Modes with the masses moved across each direction, by direction, sign and whether for
        drift.
        """
        return move_masses(
            self.basis, self.drift_basis, self.eccentricities, self.mode_choice, self.rules,
            self.analysis, self.building)

    @stage
    def _analyze_spectra(self) -> Analyzed:
        """Spectrum sets of every limit state, scaled, with the accidental torsion in them:
        added as a
        """
        return analyze_spectra(
            self.dynamics_part, self.basis, self.drift_basis, self.moved_bases, self.reduced,
            self.statics, self.sets, self.states, self.strength, self.irregular, self.analysis)

    @stage
    def spectrum_sets(self) -> tuple[SpectrumSet, ...]:
        return self._analyze_spectra[0]

    @stage
    def scaling(self) -> tuple[Scaling, ...]:
        return self._analyze_spectra[1]

    @stage
    def dynamic(self) -> tuple[SpectrumResult, ...]:
        return self._analyze_spectra[2]

    @stage
    def by_moments(self) -> tuple[SpectrumSet, ...]:
        return self._analyze_spectra[3]

    @stage
    def by_masses(self) -> tuple[SpectrumSet, ...]:
        return self._analyze_spectra[4]

    @stage
    def vertical_set(self) -> SpectrumSet | None:
        """The response to vertical ground motion, for strength, where it is asked for."""
        return analyze_vertical(
            self.basis, self.shaking, self.analysis, self.strength, self.standard)

    @stage
    def _combine_both(self) -> tuple[DirectionalCombination, tuple[DirectionalCombination, str]]:
        """How the directions go together: as chosen, and by the standard with its clause."""
        return combine_both(self.dynamics_part, self.irregular, self.analysis, self.directions)

    @stage
    def how(self) -> DirectionalCombination:
        return self._combine_both[0]

    @stage
    def directional(self) -> tuple[DirectionalCombination, str]:
        return self._combine_both[1]

    @stage
    def used_rules(self) -> ModalRules:
        """The rules, with the directional combination that holds for the irregularities found."""
        return rules_in_use(self.rules, self.directional)
