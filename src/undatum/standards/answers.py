"""What a standard is told about a structure, and what it answers.

Each answer is a frozen record that carries its numbers and the working that led to them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from undatum.described import Described
from undatum.finding import Finding
from undatum.ground.location import Location, LookedUp
from undatum.ground.spectrum import Spectrum
from undatum.working import Section

Floats = NDArray[np.float64]
Direction = Literal["X", "Y"]
DIRECTIONS: tuple[Direction, Direction] = ("X", "Y")
ModalCombination = Literal["CQC", "SRSS", "SRSS, close modes absolute", "absolute sum"]
DirectionalCombination = Literal["SRSS", "100/30", "100/40", "independent"]
Purpose = Literal["strength", "drift"]
PURPOSES: tuple[Purpose, Purpose] = ("strength", "drift")


@dataclass(frozen=True, slots=True)
class Wall:
    """A wall of the lowest story: length (m), web area (m2) and height from foot to top (m)."""

    name: str
    length: float
    area: float
    height: float


@dataclass(frozen=True, slots=True)
class StructureFacts:
    """What a standard may need to know about the building. SI.

    ``height`` is from the base to the highest level, ``stories`` and ``story_heights`` are those
    above the base, top down; ``weight`` is the effective seismic weight; ``plan`` holds the
    dimensions of the floor at the base along X and Y and ``base_area`` its area; ``walls`` are
    those of the lowest story above the base, by the direction they resist; ``stiffness_shares``
    are the shares of the gross stiffness that cantilevers keep for bending; ``gravity_sway`` is
    the displacement of the top under the seismic weights applied along a direction.
    """

    height: float
    stories: int
    story_heights: tuple[float, ...]
    weight: float
    plan: tuple[float, float] = (math.nan, math.nan)
    base_area: float = math.nan
    walls: Mapping[Direction, tuple[Wall, ...]] = field(default_factory=dict)
    stiffness_shares: Mapping[Direction, tuple[float, ...]] = field(default_factory=dict)
    gravity_sway: Mapping[Direction, float] = field(default_factory=dict)


class Replacement(Described):
    """A value of one's own in place of the standard's."""

    symbol: str = Field(min_length=1, description='Symbol as the record writes it, such as "R"')
    value: float = Field(allow_inf_nan=False, description="Value, in the unit the record shows")
    reason: str = Field(min_length=3, description="Why; the record shows both values and this")


class Asked(Described):
    """Base of the ``[site]`` and ``[system]`` tables a standard asks for."""

    replace: list[Replacement] = Field(
        default=[], description="Values in place of the standard's, each with its reason"
    )

    @property
    def replaced(self) -> dict[str, tuple[float, str]]:
        """By symbol: value and reason."""
        return {r.symbol: (r.value, r.reason) for r in self.replace}


class AskedOfSite(Asked):
    """Base of the ``[site]`` tables."""

    location: Location | None = Field(
        None, description="Where the building stands and who knows the hazard there, in place of "
        "typed values"
    )
    looked_up: LookedUp | None = Field(
        None, description="What was found for the location; written by undatum look-up"
    )


@dataclass(frozen=True, slots=True)
class LoadFacts:
    """What a weight rule may need to know about a load: ``intensity`` is in N/m2."""

    kind: str
    intensity: float | None
    on_roof: bool


@dataclass(frozen=True, slots=True)
class ReentrantCorner:
    """A corner of a floor that turns inwards, and the plan projections beyond it as ratios."""

    level: str
    at: tuple[float, float]
    along_x: float
    along_y: float


@dataclass(frozen=True, slots=True)
class ShapeFacts:
    """What irregularities are judged from, for the ``n`` stories above the base, top down. SI.

    Along X and Y, (2, n): ``stiffness`` and ``drift_ratios`` under the static forces,
    ``strengths`` of the stories and ``extents`` of the lateral lines (not a number where the
    description does not give them), ``dimensions`` of the floors, ``eccentricities`` of mass and
    rigidity and torsional ``radii``. By story (n,): ``weights``, ``heights`` of the floors above
    the base, radii of ``gyration`` of the floor mass, share of ``openings`` in the floor, share
    ``recessed`` of the area within the convex hull. ``bounds`` (n, 4) least and most x and y.

    ``skew`` names lines along neither axis, ``standing`` lines that start on a floor with no line
    below. ``stated`` holds what the engineer judged: see the ``[irregularities]`` table.
    """

    levels: tuple[str, ...]
    weights: Floats
    heights: Floats
    stiffness: Floats
    drift_ratios: Floats
    strengths: Floats
    extents: Floats
    dimensions: Floats
    bounds: Floats
    eccentricities: Floats
    radii: Floats
    gyration: Floats
    openings: Floats
    recessed: Floats
    corners: tuple[ReentrantCorner, ...]
    skew: tuple[str, ...]
    standing: tuple[str, ...]
    stated: Mapping[str, bool]


@dataclass(frozen=True, slots=True)
class ModalFacts:
    """What a standard may need to know about the modes: ``m`` of them, of which ``kept`` are used.

    ``periods`` (m,) s; ``kinds`` (m,) what moves; ``mass_ratios`` (m, 3) in X, Y and rotation;
    ``combination`` the way they are combined; ``stories`` above the base.
    """

    periods: Floats
    kinds: tuple[str, ...]
    mass_ratios: Floats
    kept: int
    combination: ModalCombination
    stories: int


@dataclass(frozen=True, slots=True)
class SiteAnswer:
    """Site parameters, design category and the spectrum before any reduction.

    ``summary`` says in one line what the site is; ``category`` is empty where a standard has none.
    """

    parameters: Mapping[str, float]
    site_class: str
    risk: str
    category: str
    importance: float
    spectrum: Spectrum
    summary: str
    given: Any
    working: Section
    findings: tuple[Finding, ...] = ()


@dataclass(frozen=True, slots=True)
class SystemAnswer:
    """Factors of the lateral system in one direction.

    ``force_divisor`` reduces elastic forces to design forces (R/Ie), ``drift_factor`` turns the
    displacement under design forces into the design displacement (Cd/Ie).
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
    given: Any
    findings: tuple[Finding, ...] = ()


@dataclass(frozen=True, slots=True)
class PeriodAnswer:
    """Approximate period and the upper limit on the computed one, in s."""

    approximate: float
    cap: float
    working: Section


@dataclass(frozen=True, slots=True)
class BaseShearAnswer:
    """Static base shear for one direction and one purpose."""

    direction: Direction
    purpose: Purpose
    period: float
    coefficient: float
    base_shear: float
    governing: str
    working: Section


@dataclass(frozen=True, slots=True)
class Distribution:
    """Forces by level, top down, that add up to a base shear. N."""

    forces: Floats
    working: Section


@dataclass(frozen=True, slots=True)
class Eccentricity:
    """Accidental eccentricity as a share of the plan dimension across the force.

    ``static_factor`` multiplies the eccentricity between the centers of mass and rigidity in the
    static analysis where that makes the effect larger; 1 leaves it as it is.
    """

    share: float
    static_factor: float
    clause: str


@dataclass(frozen=True, slots=True)
class TorsionAnswer:
    """How irregular a direction is in torsion, and what follows from it."""

    kind: str  # empty when regular, otherwise the standard's own number for the irregularity
    name: str
    include_accidental: bool
    amplify: bool
    drift_at_edges: bool
    finding: Finding


@dataclass(frozen=True, slots=True)
class ModalRules:
    """Share of the mass the modes must carry, and the standard's way of combining.

    Modes of a period below ``rigid_period`` (s) may be taken together as rigid.
    """

    mass_target: float
    damping: float
    modal_combination: ModalCombination
    directional_combination: DirectionalCombination
    clause: str
    directional_clause: str
    rigid_period: float = 1.0 / 33.0
    rigid_clause: str = ""


@dataclass(frozen=True, slots=True)
class ScaleAnswer:
    """Factor by which results of a modal analysis are multiplied."""

    factor: float
    working: Section


@dataclass(frozen=True, slots=True)
class DriftLimit:
    """Allowable story drift as a ratio of the story height."""

    ratio: float
    working: Section


@dataclass(frozen=True, slots=True)
class StabilityAnswer:
    """Second-order effects by story, top down: coefficient, its limit and the amplification.

    Up to ``negligible`` second-order effects need not be considered; up to ``amplifiable`` the
    factor is enough; beyond ``limit`` the structure is not acceptable. ``exempt`` says why nothing
    need be done, where the standard lets the structure off.
    """

    coefficient: Floats
    limit: float
    negligible: float
    amplifiable: float
    amplification: Floats
    clause: str
    working: Section
    exempt: str = ""


@dataclass(frozen=True, slots=True)
class WeightShare:
    """How much of a load counts as seismic weight, and why.

    ``minimum`` (N/m2) lifts the intensity of an area load before the share is taken.
    """

    share: float
    clause: str
    reason: str
    minimum: float = 0.0


@dataclass(frozen=True, slots=True)
class VerticalAnswer:
    """Design spectrum of the vertical component, before any reduction."""

    spectrum: Spectrum
    working: Section


@dataclass(frozen=True, slots=True)
class LoadCombination:
    """Factors on the effects of dead, live and snow load and of the earthquake in X and Y.

    ``quake`` multiplies the effects of the horizontal forces in X and in Y, each with both signs.
    The vertical effect of the earthquake stands in ``dead``.
    """

    kind: str
    name: str
    dead: float
    live: float
    snow: float
    quake: tuple[float, float]
    clause: str


@dataclass(frozen=True, slots=True)
class CombinationAnswer:
    """The load combinations with earthquake, and what to know about them."""

    rows: tuple[LoadCombination, ...]
    working: Section
    note: str


@dataclass(frozen=True, slots=True)
class SeparationAnswer:
    """Least distance to a neighbor or to the property line, m."""

    required: float
    working: Section


@dataclass(frozen=True, slots=True)
class FloorAnswer:
    """A spectrum that a site-specific one may not fall below."""

    spectrum: Spectrum
    working: Section
