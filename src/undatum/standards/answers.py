"""What a standard answers.

Each answer is a frozen record that carries its numbers, the clause and the branch that governed as
keys, and the working that led to them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field

import numpy as np
from numpy.typing import NDArray

from undatum.finding import Finding
from undatum.ground.spectrum import Spectrum
from undatum.record import record
from undatum.standards.terms import Direction, DirectionalCombination, LimitState, ModalCombination
from undatum.working import Section

Floats = NDArray[np.float64]


@record
class SiteAnswer:
    """Site parameters, design category and the spectrum before any reduction.

    ``category`` is the letter or number of the design category or zone, empty where a standard has
    none; ``site_class`` and ``risk`` are as the standard names them; ``summary`` says in one line
    what the site is, ``hazard`` what level of shaking the spectrum stands for.
    """

    parameters: Mapping[str, float]
    site_class: str
    risk: str
    category: str
    importance: float
    spectrum: Spectrum
    summary: str
    working: Section
    findings: tuple[Finding, ...] = ()
    hazard: str = ""


@record
class WallShear:
    """What the design of walls multiplies their shears by, in every wall alike."""

    clause: str
    factor: float

    def of(self, *, slender: bool, period: float) -> tuple[float, str]:
        """The factor of a wall in a direction whose first period is ``period`` (s), with its
        clause."""
        return self.factor, self.clause


@record
class SystemAnswer:
    """Factors of the lateral system in one direction.

    ``force_divisor`` reduces elastic forces to design forces (R/Ie), ``drift_factor`` turns the
    displacement under design forces into the design displacement (Cd/Ie). Where the divisor
    depends on the period, the reduced spectrum holds it and this is its usual value.
    ``reduction`` is R or q itself, without importance; ``beyond_height`` says that the building is
    higher than the table of systems permits, by a clause with conditions of its own.
    ``wall_shear`` is what the design of walls multiplies their shears by;
    ``wall_envelope`` the cotangent by which the envelope of their moments is shifted, likewise;
    ``frames_alone`` the share of the design forces that the frames of a dual system resist by
    themselves, with its clause; ``collectors`` what collectors multiply diaphragm forces by, where
    that is not the overstrength.
    """

    direction: Direction
    row: str
    name: str
    group: str
    force_divisor: float
    drift_factor: float
    overstrength: float
    redundancy: float
    working: Section
    findings: tuple[Finding, ...] = ()
    reduction: float | None = None
    beyond_height: bool = False
    wall_shear: WallShear | None = None
    frames_alone: tuple[float, str] | None = None
    wall_envelope: tuple[float, str] | None = None
    collectors: float | None = None


@record
class PeriodAnswer:
    """Approximate period in s, and the upper limit on the computed one where there is one."""

    approximate: float
    cap: float | None
    working: Section


@record
class BaseShearAnswer:
    """Static base shear for one direction and one limit state.

    ``branch`` is the key of the limit that governed, ``governing`` says it in words; ``why`` says
    which period was used.
    """

    direction: Direction
    state: LimitState
    period: float
    coefficient: float
    base_shear: float
    weight: float
    branch: str
    governing: str
    clause: str
    working: Section
    why: str = ""


@record
class Distribution:
    """Forces by level, top down, that add up to a base shear. N."""

    forces: Floats
    working: Section


@record
class Amplification:
    """Factors (n,) on the accidental torsion by level, top down."""

    factors: Floats
    working: Section


@record
class Eccentricity:
    """Accidental eccentricity as a share of the plan dimension across the force.

    ``static_factor`` multiplies the eccentricity between the centers of mass and rigidity where
    that makes the effect larger; 1 leaves it as it is.
    """

    share: float
    static_factor: float
    clause: str


@record
class TorsionAnswer:
    """How irregular a direction is in torsion, and what follows from it.

    ``drift_where`` says in the standard's words where drift is read, and by which clause;
    ``extreme`` marks the degree that some standards bar or judge apart.
    """

    kind: str  # empty when regular, otherwise the standard's own number for the irregularity
    name: str
    include_accidental: bool
    amplify: bool
    drift_at_edges: bool
    finding: Finding
    drift_where: str = ""
    extreme: bool = False


@record
class RegularityAnswer:
    """Types of irregularity found, types that nothing could be judged of, and the findings."""

    found: tuple[str, ...]
    unjudged: tuple[str, ...]
    findings: tuple[Finding, ...]


@record
class ProcedureAnswer:
    """Whether the static procedure may be used, by direction; one left out is not judged."""

    static: Mapping[Direction, bool]
    findings: tuple[Finding, ...]


@record
class ModalRules:
    """Share of the mass the modes must carry, and the standard's way of combining.

    Modes of a period below ``rigid_period`` (s) may be taken together as rigid. The response to
    vertical motion may be divided by ``vertical_divisor`` without proof.
    """

    mass_target: float
    damping: float
    modal_combination: ModalCombination
    directional_combination: DirectionalCombination
    clause: str
    directional_clause: str
    rigid_period: float = 1.0 / 33.0
    rigid_clause: str = ""
    vertical_divisor: float = 1.0
    vertical_clause: str = ""


@record
class ScaleAnswer:
    """Factor by which results of a modal analysis are multiplied, and why."""

    factor: float
    branch: str
    why: str
    clause: str
    working: Section


@record
class DriftLimit:
    """Allowable story drift as a ratio of the story height; ``None`` where there is no limit.

    ``reason`` says why there is none; ``known`` is false where the standard has a limit and what
    it needs is not given.
    """

    ratio: float | None
    clause: str
    working: Section
    reason: str = ""
    known: bool = True


@record
class StabilityAnswer:
    """Second-order effects by story, top down: coefficient, its limits and the amplification.

    Up to ``negligible`` second-order effects need not be considered; up to ``amplifiable`` the
    factor is enough; beyond ``limit`` the structure is not acceptable and the amplification is not
    a number. ``None`` where the standard sets no such line. ``exempt`` says why nothing need be
    done, where the standard lets the structure off.
    """

    coefficient: Floats
    limit: float | None
    negligible: float | None
    amplifiable: float | None
    amplification: Floats
    clause: str
    working: Section
    exempt: str = ""


@record
class WeightShare:
    """How much of a load counts as seismic weight, and why.

    ``minimum`` (N/m2) lifts the intensity of an area load before the share is taken.
    """

    share: float
    clause: str
    reason: str
    minimum: float = 0.0


@record
class VerticalAnswer:
    """Design spectrum of the vertical component, before any reduction."""

    spectrum: Spectrum
    working: Section


@record
class DampingAnswer:
    """Factors that bring 5 % damped ordinates to another damping ratio.

    ``factors`` (k,) at ``periods`` (k,) in s, straight lines between; one value holds for every
    period.
    """

    factors: Floats
    periods: Floats
    meaning: str
    clause: str
    branch: str
    working: Section


@record
class LoadCombination:
    """Factors on the effects of dead, live and snow load and of the earthquake in X and Y.

    ``quake`` multiplies the effects of the horizontal forces in X and in Y, each with both signs,
    ``vertical`` those of the vertical component where they are found apart; otherwise the vertical
    effect of the earthquake stands in ``dead``. ``roof`` multiplies live load of roofs, where the
    standard tells it from other live load.
    """

    kind: str
    name: str
    dead: float
    live: float
    snow: float
    quake: tuple[float, float]
    clause: str
    vertical: float = 0.0
    roof: float = 0.0


@record
class CombinationAnswer:
    """The load combinations with earthquake, and what to know about them.

    ``strength`` is the largest factor on the forces of each direction in strength design.
    ``gravity`` are those without earthquake, of the same kinds, as far as they are held here. With
    ``vertical_in_dead`` the vertical effect of the earthquake is in the factor on dead load. The
    weight rule says what share of each load the factors of those with earthquake multiply.
    """

    rows: tuple[LoadCombination, ...]
    working: Section
    note: str
    strength: Mapping[Direction, float] = field(default_factory=dict)
    gravity: tuple[LoadCombination, ...] = ()
    vertical_in_dead: bool = False


@record
class SeparationAnswer:
    """Least distance to a neighbor or to the property line, m."""

    required: float
    clause: str
    working: Section


@record
class FloorAnswer:
    """A spectrum that a site-specific one may not fall below."""

    spectrum: Spectrum
    clause: str
    working: Section
