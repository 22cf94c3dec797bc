"""Everything that a run found, in one immutable record."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.accelerations import FloorAccelerations, floor_accelerations
from undatum.analysis.displacement import PlumbDisplacements, plumb_displacements
from undatum.analysis.lateral import StaticForces
from undatum.analysis.modes import Modes
from undatum.analysis.response import (
    FurtherSet,
    ResponseSet,
    SpectrumSet,
    StaticSet,
)
from undatum.analysis.shears import StoryShears, shears_of
from undatum.analysis.torsion import TorsionResult
from undatum.checks.drift import DriftCheck
from undatum.checks.drift_read import DriftReading
from undatum.checks.plausibility import Plausibility
from undatum.checks.separation import SeparationCheck
from undatum.checks.stability import StabilityCheck
from undatum.finding import Finding
from undatum.ground.spectrum import Spectrum
from undatum.labelled import Labelled, axis, labelled
from undatum.layout.groups import LoadGroups
from undatum.layout.weight import Weights
from undatum.mechanics.model import COMPONENTS, Model
from undatum.mechanics.quantities import PlumbLine, center_line
from undatum.project.schema import Project
from undatum.readings.drift_combined import CombinedDrift
from undatum.record import FixedDict, Memo, record
from undatum.results.base_shear import BaseShears
from undatum.results.outcome import Outcome
from undatum.results.read_any import AnyReading
from undatum.stages.floors import FloorJudged
from undatum.stages.halved_mesh import HalvedMesh
from undatum.stages.outcomes import Scaling, SpectrumResult
from undatum.stages.secondary import Secondary
from undatum.stages.shaking import Shaking
from undatum.stages.shared_shear import FramesAlone
from undatum.stages.two_stage import TwoStages
from undatum.standards.answers import (
    CombinationAnswer,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    SiteAnswer,
    SystemAnswer,
)
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import Direction, LimitState
from undatum.table import Table
from undatum.working import Section

if TYPE_CHECKING:
    pass

Floats = NDArray[np.float64]


@record
class Found(AnyReading, Outcome):
    """Everything that a run found, as data; :class:`undatum.Results` adds its tables and words. SI.

    What is asked and judged by: ``project``; ``standard_title``; ``states`` the standard's limit
    states; ``site`` parameters and spectrum; ``laterals`` the system by direction;
    ``procedure`` what is permitted; ``shaking`` the spectra in use, ``reduced`` those divided by R
    or q, by direction and limit state.

    The structure: ``weights`` (n levels) N; ``load_groups`` what combinations take alike; ``model``
    stiffness, mass and quantities for strength; ``modes`` all that were found, ``drift_modes``
    those on another stiffness for drift, if there is one; ``rigidity`` (n, 2) m centers;
    ``shape`` and ``torsion`` what regularity is judged by; ``plumb`` lines on which drift is read.

    Static forces: ``periods`` approximate ones and their cap, ``computed`` those of the model, s;
    ``statics`` by direction and limit state; ``static_sets``, and ``own_sets`` of the engineer's;
    ``torsion_factors`` a standard's simplified factor beside them; ``diaphragms`` (n,) N.

    The spectrum analysis: ``rules`` in use; ``dynamic`` modal base shears and damping;
    ``spectrum_sets``, ``vertical`` and ``further`` ones of several directions; ``by_moments`` and
    ``by_masses`` accidental torsion both ways; ``scaling`` to the static base shear.

    What is judged: ``combinations`` of the standard; ``drifts`` by limit state, ``drift_readings``
    of them and ``drift_combined`` of one's own; ``stability`` second order; ``gaps``;
    ``plausibility`` beside hand estimates; ``floors`` that deform against the standard's test;
    ``two_stages`` of two portions; ``frames_alone`` of dual systems; ``secondary`` members;
    ``findings``; ``working`` every number with its derivation.
    """

    project: Project
    standard_title: str
    states: tuple[LimitState, ...]
    site: SiteAnswer
    laterals: Mapping[Direction, SystemAnswer]
    procedure: ProcedureAnswer
    shaking: Shaking
    reduced: Mapping[tuple[Direction, str], Spectrum]
    weights: Weights
    load_groups: LoadGroups
    model: Model
    modes: Modes
    drift_modes: Modes | None
    by_moments: tuple[SpectrumSet, ...]
    by_masses: tuple[SpectrumSet, ...]
    rules: ModalRules
    periods: Mapping[Direction, PeriodAnswer]
    computed: Mapping[Direction, float]
    statics: Mapping[tuple[Direction, str], StaticForces]
    torsion: Mapping[Direction, TorsionResult]
    torsion_factors: Table | None
    shape: ShapeFacts
    diaphragms: Mapping[Direction, Floats]
    rigidity: Floats
    static_sets: tuple[StaticSet, ...]
    spectrum_sets: tuple[SpectrumSet, ...]
    vertical: SpectrumSet | None
    further: tuple[FurtherSet, ...]
    own_sets: tuple[StaticSet, ...]
    dynamic: tuple[SpectrumResult, ...]
    scaling: tuple[Scaling, ...]
    plumb: tuple[PlumbLine, ...]
    gaps: tuple[SeparationCheck, ...]
    combinations: CombinationAnswer | None
    drifts: Mapping[str, DriftCheck]
    drift_readings: Mapping[str, DriftReading]
    drift_combined: tuple[CombinedDrift, ...]
    stability: tuple[StabilityCheck, ...]
    plausibility: Plausibility
    floors: tuple[FloorJudged, ...]
    mesh_halved: HalvedMesh | None
    two_stages: TwoStages | None
    frames_alone: FramesAlone | None
    secondary: Secondary | None
    findings: tuple[Finding, ...]
    working: tuple[Section, ...]
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def shears(self) -> StoryShears:
        """Shears and moments by story, and shears of lines, of every set for strength."""
        return self.memo.get("shears", lambda: shears_of(self.model, [
            *(s for s in self.sets_for_strength if not s.own),
            *(s for s in self.further if s.state == self.strength), *self.own_sets]))

    @property
    def displacements(self) -> PlumbDisplacements:
        """Displacement of every level on the plumb lines, under the sets for drift."""
        def make() -> PlumbDisplacements:
            every: list[ResponseSet] = [*self.static_sets, *self.spectrum_sets]
            return plumb_displacements(
                self.model, [s for key in self.drifts for s in every if s.state.key == key],
                [center_line(self.model), *self.plumb],
                {(d, key): float(check.factors[check.directions.index(d)])
                 for key, check in self.drifts.items() for d in self.directions})

        return self.memo.get("displacements", make)

    @property
    def accelerations(self) -> FloorAccelerations:
        """Peak accelerations of the floors, by the spectra before reduction."""
        analysis, rules = self.project.analysis, self.rules
        return self.memo.get("accelerations", lambda: floor_accelerations(
            self.model, self.modes, self.shaking.horizontal, self.plumb,
            analysis.modal_combination or rules.modal_combination, self.dynamic[0].damping,
            self.together, rules.rigid_period, analysis.rigid_between))

    @property
    def base_shears(self) -> BaseShears:
        """Periods, static forces and base shears, and how they were found."""
        return BaseShears(
            self.project.title, self.standard_title, self.units, self.site, self.laterals,
            self.statics, self.periods, self.computed, self.shaking, self.working)

    @property
    def drift(self) -> DriftCheck:
        """The drift check of the limit state for drift that decides: that with the largest use of
        its limits; the first of those that have none."""
        def use(check: DriftCheck) -> float:
            judged = np.array([check.judged(c) for c in check.shown])
            return float(judged[np.isfinite(judged)].max(initial=-np.inf))

        return max(self.drifts.values(), key=use)

    @property
    def seismic_weight(self) -> float:
        """Of all levels above the base, N."""
        return self.weights.total

    @property
    def directions(self) -> tuple[Direction, ...]:
        """Along what the building is judged: X and Y, or the one of a plane building."""
        return self.model.directions

    @property
    def spectrum(self) -> Spectrum:
        """The design spectrum in X, before reduction (of a plane building in its direction);
        ``shaking`` holds the others."""
        return self.shaking.horizontal[self.directions[0]]

    # -- arrays -------------------------------------------------------------------------------

    def arrays(self) -> Mapping[str, Labelled]:
        """Everything found for every set, by name, with named axes. SI."""
        static = axis("set", [s.name for s in self.static_sets])
        levels = axis("level", self.model.levels)
        modes = axis("mode", [str(i) for i in self.modes.numbers])
        floors = self.model.diaphragms.freedoms
        components = axis("component", COMPONENTS)
        found = [
            self.shears.shear, self.shears.overturning, self.shears.torsion, self.shears.lines,
            *((self.shears.moments,) if self.shears.moments.values.size else ()),
            self.displacements.elastic, *(d.drift for d in self.drifts.values()),
            labelled("static force", "force", (static, levels),
                     [s.forces for s in self.static_sets]),
            labelled("static torque", "moment", (static, levels),
                     [s.torques for s in self.static_sets]),
            labelled("static displacement", "", (static, levels, components),
                     [s.displacement[floors] for s in self.static_sets]),
            labelled("mode shape", "", (modes, levels, components),
                     self.modes.shapes[floors].transpose(2, 0, 1)),
            labelled("period", "time", (modes,), self.modes.periods),
            labelled("effective mass share", "ratio",
                     (modes, axis("component", self.model.shaken)), self.modes.mass_ratios),
        ]
        return FixedDict({one.name: one for one in found})
