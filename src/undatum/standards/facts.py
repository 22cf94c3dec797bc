"""What a standard is told about a structure: what is asked of it, and the facts it judges by."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import field, replace
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, PrivateAttr, ValidationInfo, model_validator

from undatum.described import Described
from undatum.ground.location import Location, LookedUp
from undatum.record import fixed, record
from undatum.standards.terms import DIRECTIONS, Direction, LimitState, Method, ModalCombination
from undatum.ties import largest
from undatum.units import SI, UnitSystem
from undatum.working import OwnValue

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]


@record
class Wall:
    """A wall of the lowest story: length (m), web area (m2) and height from foot to top (m)."""

    name: str
    length: float
    area: float
    height: float


class ElementShare(NamedTuple):
    """A lateral line and the share of the story shear it takes, torsion with it.

    ``length`` (m) is that of a rectangular wall, ``None`` for other lines. ``single`` says that the
    share is that of one element: a brace, or the columns of one bay of a frame.
    """

    line: str
    story: str
    share: float
    length: float | None
    single: bool = False


class SideBays(NamedTuple):
    """Bays of the lateral system along a direction near either edge of the plan, in a ``story``
    that takes ``share`` of the base shear: braced ones, those of frames, and walls by their length
    over the height of the story. Not a number where a lateral line does not say what it is."""

    story: str
    share: float
    low: float
    high: float


RemovedKind = Literal["line", "wall", "pier", "brace", "beam", "column"]


class Removal(NamedTuple):
    """A part of the lateral system left out of a story, which takes ``share`` of the base shear: a
    lateral line, a wall or pier, a brace, the moments at both ends of a beam, or that at the base
    of a column that stands by itself. The largest torsion ratio of the building without it, under
    forces by weight and height with 5 % of eccentricity either way, infinite where it can't stand;
    and the share of the story's strength that stays, not a number where it is not known. Of a pier
    all of its wall's strength is taken away, of a beam both moments in either story beside it."""

    line: str
    story: str
    share: float
    torsion: float
    strength: float
    kind: RemovedKind = "line"


@record
class TwoStageRule:
    """When a flexible upper portion on a rigid lower one may be two structures: where the stories
    of the lower are ``stiffness`` times as stiff, ``by_mean`` if the standard says so of their
    means, and the entire structure has at most ``period`` times the period of the upper one.
    Categories that are ``exempt`` from the chapter have no such procedure."""

    clause: str
    stiffness: float = 10.0
    period: float = 1.1
    by_mean: bool = False
    exempt: tuple[str, ...] = ()


@record
class FoundationRule:
    """Factors on overturning at the foundation, by the static and the modal analysis; the static
    one not for systems of the groups ``barred``."""

    static: float
    spectrum: float
    clause: str
    barred: tuple[str, ...] = ()


@record
class SecondaryRule:
    """What a standard asks of members that carry gravity and no lateral force.

    ``share`` of the lateral stiffness of the others that theirs may reach, and its clause;
    ``displaced`` is the clause by which they are checked as the structure moves, ``reduction`` that
    this is R times the displacement under the design forces, where drift takes another factor.
    """

    share: float | None
    clause: str
    displaced: str
    reduction: bool = False


class Taken(NamedTuple):
    """Shares of the base shear along a direction that the lateral system takes; of ``lines`` it is
    not known what they are. Infills are no part of it."""

    frames: float = 0.0
    braces: float = 0.0
    walls: float = 0.0
    lines: float = 0.0


@record
class CrackedShares:
    """What cracked members of concrete keep of their gross stiffness, by kind of member."""

    shares: Mapping[str, Mapping[str, float]]
    clause: str


@record
class FloorTest:
    """When a standard takes a floor as flexible: where its deflection is more than ``limit`` times
    the drift of what carries it (``drift``), its largest displacement more than that times its
    mean (``average``), or more than that times the displacement under a rigid floor (``rigid``).
    Floors up to ``presumed`` times as long as they are deep may be taken as rigid without it;
    ``idealized`` says of which floors they may be taken as flexible without it, and its clause.
    """

    kind: Literal["drift", "average", "rigid"]
    limit: float
    clause: str
    presumed: float | None = None
    presumed_clause: str = ""
    idealized: tuple[str, str] | None = None


@record
class StructureFacts:
    """What a standard may need to know about the building. SI.

    ``height`` is from the base to the highest level, ``stories`` and ``story_heights`` are those
    above the base, top down; ``weight`` is the effective seismic weight; ``plan`` holds the
    dimensions of the floor at the base along X and Y and ``base_area`` its area; ``walls`` are
    those of the lowest story above the base, by the direction they resist; ``stiffness_shares``
    are the shares of the gross stiffness that cantilevers keep for bending; ``gravity_sway`` is
    the displacement of the top under the seismic weights applied along a direction; ``bays`` what
    of the system stands within a tenth of the plan from either edge, story by story. ``elements``
    are the lines of the stories in the lower two thirds of the height with their largest shares,
    under forces by weight and height with 5 %
    of eccentricity either way; ``strongest`` the plane along each direction that takes the largest
    share of a story shear without eccentricity, and that share. ``removals`` of each line by story,
    or of each brace where there are members; none where floors deform, lines stand at an angle or
    have no stiffness by story. ``taken``
    is what frames, braces, walls and lines take of the base shear, under the same forces. ``gross``
    names what is of concrete, or a wall by its sizes, and keeps its gross stiffness in bending.
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
    bays: Mapping[Direction, tuple[SideBays, ...]] = field(default_factory=dict)
    elements: Mapping[Direction, tuple[ElementShare, ...]] = field(default_factory=dict)
    strongest: Mapping[Direction, tuple[str, float]] = field(default_factory=dict)
    removals: Mapping[Direction, tuple[Removal, ...] | None] = field(default_factory=dict)
    taken: Mapping[Direction, Taken] = field(default_factory=dict)
    gross: tuple[str, ...] = ()


class Replacement(Described):
    """A value of one's own in place of the standard's, where it is worked out."""

    symbol: str = Field(min_length=1, description='Symbol as the record writes it, such as "R"')
    value: float | str = Field(
        description='Value: a text with its unit, such as "250 kN", or a number in the unit of the '
        "record"
    )
    reason: str = Field(min_length=3, description="Why; the record shows both values and this")
    section: str = Field(
        default="",
        description='Where it holds, such as "base shear" or "base shear, X, strength"; in '
        "every section of this table where the symbol is worked out if left out"
    )
    beyond_cap: bool = Field(
        default=False,
        description="The cap on the period does not hold for this value; the reason says why"
    )
    _units: UnitSystem = PrivateAttr(default=SI)

    @model_validator(mode="after")
    def _keep_units(self, info: ValidationInfo) -> Replacement:
        self._units = (info.context or {}).get("units", SI)
        return self


class Asked(Described):
    """Base of the ``[site]`` and ``[system]`` tables a standard asks for."""

    replace: tuple[Replacement, ...] = Field(
        default=(), description="Values in place of the standard's, each with its reason"
    )

    def replaced(self, table: str, direction: Direction | Literal[""] = "") -> tuple[OwnValue, ...]:
        """The values of one's own, for the sections of a direction or of the site (empty)."""
        return tuple(
            OwnValue(r.symbol, r.value, r.reason, r._units, direction, r.section,
                     table, i, r.beyond_cap)
            for i, r in enumerate(self.replace))


class AskedOfSite(Asked):
    """Base of the ``[site]`` tables."""

    location: Location | None = Field(
        default=None,
        description="Where the building stands and who knows the hazard there, in place of "
        "typed values"
    )
    looked_up: LookedUp | None = Field(
        default=None, description="What was found for the location; written by undatum look-up"
    )


class LoadFacts(NamedTuple):
    """What a weight rule may need to know about a load: ``intensity`` is in N/m2.

    ``use`` is its own category of use where it has one, as in EN 1991-1-1.
    """

    kind: str
    intensity: float | None
    on_roof: bool
    use: str = ""


@record
class CarriedFloors:
    """What a column carries of floors, the roof apart. SI.

    ``area`` m2 of floor whose load it carries, over all levels; ``floors`` how many with live load
    stand above it, ``roof`` whether a roof does too; ``intensity`` N/m2, the largest live load of
    them; ``uses`` their categories of use, as far as they are given; ``dead`` and ``live`` N;
    ``influence`` the ratio of the area that influences the column to the one it carries.
    """

    area: float
    floors: int
    roof: bool
    intensity: float
    uses: tuple[str, ...]
    dead: float
    live: float
    influence: float


@record
class LiveReduction:
    """Factor on the live load of the floors that a column carries, with its reason."""

    factor: float
    clause: str
    reason: str


@record
class ReentrantCorner:
    """A corner of a floor that turns inwards, and the plan projections beyond it as ratios."""

    level: str
    at: tuple[float, float]
    along_x: float
    along_y: float


class BracedPlane(NamedTuple):
    """A plane with braces: from where to where those of each story reach, (n,) m, top down; not a
    number where there are none, or where they carry next to nothing."""

    name: str
    direction: Direction
    reach: Floats


@record
class ShapeFacts:
    """What irregularities are judged from, for the ``n`` stories above the base, top down. SI.

    Along X and Y, (2, n): ``stiffness``, ``shears`` and ``drift_ratios`` under the static forces,
    ``strengths`` of the stories and ``extents`` of the lateral lines (not a number where the
    description does not give them), ``dimensions`` of the floors, ``eccentricities`` of mass and
    rigidity and torsional ``radii``. By story (n,): ``weights``, ``heights`` of the floors above
    the base, radii of ``gyration`` of the floor mass, share of ``openings`` in the floor, share
    ``recessed`` of the area within the convex hull. ``bounds`` (n, 4) least and most x and y.

    ``skew`` names lines along neither axis, ``standing`` what starts on a floor with nothing below
    in its plane, ``shifted`` what goes on below at another place of its plane; ``braced`` are the
    planes with braces, and with ``members_alone`` there is no line whose members are not known.
    ``stated`` holds what the engineer judged: see the ``[irregularities]`` table. ``chains`` are
    the stories from every highest floor down to the base where floors stand side by side;
    ``directions`` those the building moves along: of a plane building, which has no torsion, one;
    ``turns`` whether torsion is judged.
    """

    levels: tuple[str, ...]
    weights: Floats
    heights: Floats
    stiffness: Floats
    shears: Floats
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
    shifted: tuple[str, ...]
    braced: tuple[BracedPlane, ...]
    members_alone: bool
    stated: Mapping[str, bool]
    chains: tuple[tuple[int, ...], ...] = ()
    directions: tuple[Direction, ...] = DIRECTIONS
    turns: bool = True

    def by_chain(self) -> tuple[ShapeFacts, ...]:
        """The same for the stories from each highest floor down; one where none stand aside."""
        if len(self.chains) < 2:
            return (self,)
        return tuple(self._of(np.array(rows)) for rows in self.chains)

    def _of(self, rows: NDArray[np.intp]) -> ShapeFacts:
        names = {self.levels[i] for i in rows}
        return replace(
            self, levels=tuple(self.levels[i] for i in rows),
            corners=tuple(c for c in self.corners if c.level in names), chains=(),
            braced=tuple(p._replace(reach=p.reach[rows]) for p in self.braced),
            **{k: getattr(self, k)[rows] for k in (
                "weights", "heights", "bounds", "gyration", "openings", "recessed")},
            **{k: getattr(self, k)[:, rows] for k in (
                "stiffness", "shears", "drift_ratios", "strengths", "extents", "dimensions",
                "eccentricities", "radii")})


@record
class ModalFacts:
    """What a standard may need to know about the modes: ``m`` of them, of which ``kept`` are used.

    ``periods`` (m,) s; ``kinds`` (m,) what moves; ``mass_ratios`` (m, 3) in X, Y and rotation;
    ``combination`` the way they are combined; ``stories`` above the base; ``directions`` those the
    building moves along.
    """

    periods: Floats
    kinds: tuple[str, ...]
    mass_ratios: Floats
    kept: int
    combination: ModalCombination
    stories: int
    directions: tuple[Direction, ...] = DIRECTIONS

    @property
    def axes(self) -> list[int]:
        """Places of the directions the building moves along among X and Y."""
        return [DIRECTIONS.index(d) for d in self.directions]

    def by_direction(self, shares: Floats) -> str:
        """Shares (2,) of the mass in X and Y, in words."""
        return " and ".join(f"{shares[k]:.1%} in {DIRECTIONS[k]}" for k in self.axes)


@record
class StaticLevels:
    """The levels that carry static forces, top down.

    ``weights`` (n,) N, ``heights`` (n,) m above the base and ``shape`` (n,), their displacements
    in the mode that governs the direction, where there is a structure.
    """

    weights: Floats
    heights: Floats
    shape: Floats | None


@record
class TorsionFacts:
    """What torsional irregularity is judged from: static forces at plus and minus an eccentricity.

    ``drifts`` (2, 2, n) and ``displacements`` (2, 2, n) in m by sign (plus, minus), by end of the
    floor across the forces and by story or level, top down; ``judged`` (n,) says which stories
    lie above the base and carry shear. ``one_side`` (n,) is the largest share of the story's
    strength along the forces at or on one side of the center of mass, not a number where the
    strengths are not given.
    """

    levels: tuple[str, ...]
    drifts: Floats
    displacements: Floats
    judged: NDArray[np.bool_]
    one_side: Floats = field(default_factory=lambda: np.array([]))

    @property
    @fixed
    def drift_ratios(self) -> Floats:
        """(2, n) largest over average drift of the ends by sign; not a number where not judged."""
        return np.where(self.judged, largest_over_average(self.drifts), np.nan)

    @property
    def worst(self) -> tuple[float, str]:
        """The largest of :attr:`drift_ratios` and the level at the top of its story."""
        if not self.judged.any():
            return 1.0, self.levels[0]
        ratios = np.where(self.judged, self.drift_ratios.max(axis=0), -np.inf)
        i = largest(ratios, self.levels)
        return float(ratios[i]), self.levels[i]

    @property
    def worst_displacement(self) -> tuple[float, str]:
        """The largest ratio of the displacements of a floor's ends, and the level."""
        if not self.judged.any():
            return 1.0, self.levels[0]
        ends = self.displacements
        lead = np.sign(ends.sum(axis=1, keepdims=True))
        high, low = (ends * lead).max(axis=1), (ends * lead).min(axis=1)
        ratios = high / np.maximum(low, high / 100.0 + 1e-300)  # ends that move apart: 100
        most = np.where(self.judged, ratios.max(axis=0), -np.inf)
        i = largest(most, self.levels)
        return float(most[i]), self.levels[i]

    @property
    def worst_displacement_over_mean(self) -> tuple[float, str]:
        """The largest displacement of a floor's ends over their mean, and the level."""
        if not self.judged.any():
            return 1.0, self.levels[0]
        ratios = largest_over_average(self.displacements).max(axis=0)
        most = np.where(self.judged, ratios, -np.inf)
        i = largest(most, self.levels)
        return float(most[i]), self.levels[i]

    @property
    @fixed
    def governing_drifts(self) -> tuple[Floats, Floats]:
        """Largest and average story drift (n,) of the ends, of the sign that twists most; both 1
        where a story is not judged. m."""
        largest, average = _governing(self.drifts)
        return np.where(self.judged, largest, 1.0), np.where(self.judged, average, 1.0)

    @property
    @fixed
    def governing_displacements(self) -> tuple[Floats, Floats]:
        """Largest and average displacement (n,) of the ends, of the sign that twists most. m."""
        return _governing(self.displacements)


def _governing(moves: Floats) -> tuple[Floats, Floats]:
    """Largest and average (n,) of the ends (signs, 2, n), of the sign with the largest ratio."""
    sign = np.argmax(largest_over_average(moves), axis=0)
    index = np.arange(moves.shape[2])
    largest = np.abs(moves).max(axis=1)[sign, index]
    return largest, np.maximum(np.abs(moves.mean(axis=1))[sign, index], largest / OPPOSITE)


OPPOSITE = 1e3  # the ratio written where the ends move against each other by as much


def largest_over_average(ends: Floats) -> Floats:
    """(signs, n) largest over average of the two ends, from (signs, 2, n)."""
    largest, average = np.abs(ends).max(axis=1), np.abs(ends.mean(axis=1))
    least = np.maximum(average, largest / OPPOSITE)
    return np.asarray(np.divide(largest, least, out=np.ones_like(largest), where=least > 0))


@record
class SecondOrderFacts:
    """Gravity load at and above each story (N), design drift (m), story shear (N), height (m).

    (n,) each, for the stories above the base, top down.
    """

    direction: Direction
    method: Method
    state: LimitState
    gravity: Floats
    drift: Floats
    shear: Floats
    heights: Floats


@record
class GapFacts:
    """A gap: displacements (m) of this building, amplified, and of its neighbor.

    Without a neighbor the property line is meant. ``height`` is that of the level above the base,
    ``item`` tells several gaps apart.
    """

    direction: Direction
    own: float
    neighbor: float | None
    same_floors: bool
    height: float
    item: str = ""
