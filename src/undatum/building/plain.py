"""What an engineer describes of a building, and what follows from single parts of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import (
    ConfigDict,
    Discriminator,
    Field,
    Tag,
    ValidationError,
    ValidationInfo,
    model_validator,
)
from pydantic_core import PydanticCustomError

from undatum.building.axes import Axes, no_axes
from undatum.building.cases import LoadCase, MemberLoad
from undatum.building.deforming import Diaphragm
from undatum.building.held import Held
from undatum.building.level import Level
from undatum.building.lines import Line
from undatum.building.loads import Load
from undatum.building.materials import SHIPPED, Material
from undatum.building.outline import Outline
from undatum.building.placed import Placed
from undatum.building.rules import MemberRule, Support
from undatum.building.sections import CrossSection
from undatum.building.shapes import Properties
from undatum.building.stories import Stories, Stretch
from undatum.building.walls import PanelSize, Wall
from undatum.described import Described, Named
from undatum.record import FixedDict
from undatum.units import Length


def _points_or_axes(value: Any) -> str:
    by_axes = isinstance(value, Stretch) or (isinstance(value, Mapping) and "between" in value)
    return "stretched" if by_axes else "drawn"


OutlineOrStretch = Annotated[
    Annotated[Outline, Tag("drawn")] | Annotated[Stretch, Tag("stretched")],
    Discriminator(_points_or_axes),
]


class PlainBuilding(Described):
    """The keys of a building and what they say by themselves; what follows from them together is
    laid out in :mod:`undatum.layout`."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", ignored_types=(cached_property,),
        json_schema_extra=lambda schema: schema.update(
            required=[], anyOf=[{"required": ["levels"]}, {"required": ["stories"]}]))

    axes: Axes | None = Field(default=None, description="Axes in plan, for members and outlines")
    stories: Stories | None = Field(
        default=None, description="Levels in short, in place of building.levels")
    outlines: Named[str, OutlineOrStretch] = Field(
        default_factory=FixedDict, description="Outlines by name: points, or from axes to axes")
    floors: Named[str, tuple[Load, ...]] = Field(
        default_factory=FixedDict, description="Lists of loads by name")
    levels: tuple[Level, ...] = Field(min_length=2, description="Levels from the top down")
    lines: tuple[Line, ...] = Field(default=(), description="Lateral lines")
    materials: Named[str, Material] = Field(
        default_factory=FixedDict, description="Materials by name, beside those that ship")
    sections: Named[str, CrossSection] = Field(
        default_factory=FixedDict, description="Sections of members by name")
    flange_widths: Named[str, Length] = Field(
        default_factory=FixedDict, description="Effective widths of slab flanges by the name of "
        "the beam, in place of those by the standard")
    strut_widths: Named[str, Length] = Field(
        default_factory=FixedDict, description="Widths of struts that stand for infills by the "
        "name of the brace, in place of those by the rule")
    diaphragms: Named[str, Diaphragm] = Field(
        default_factory=FixedDict, description="Levels whose floor is not rigid as a whole, or "
        "ranges of them: \"none\", \"flexible\" (what holds it takes what is tributary), the name "
        "of the outline within which it is rigid, or how it deforms")
    held_by_ground: Named[str, Held] = Field(
        default_factory=FixedDict, description="Floors at or below the base, or ranges of them, "
        "that the ground holds in plan: \"fully\", or by springs")
    members: tuple[MemberRule, ...] = Field(
        default=(), description="Rules that make columns, beams and braces, in order")
    placed: tuple[Placed, ...] = Field(
        default=(), description="Members one by one, by the coordinates of their ends")
    walls: tuple[Wall, ...] = Field(
        default=(), description="Walls from point to point in plan, with openings")
    cores: Named[str, tuple[str, ...]] = Field(
        default_factory=FixedDict, description="Walls whose actions are read together, by the name "
        "of the core")
    wall_mesh: PanelSize = Field(
        default=1.0, description="Largest side of the panels of walls")
    floors_hold_openings: bool = Field(
        default=False, description="Floors hold walls across their openings too, so that coupling "
        "beams can't stretch along their edges: stiffer")
    members_file: str | None = Field(
        default=None, description="Table (CSV) of members beside the project, placed one by one")
    walls_file: str | None = Field(
        default=None, description="Table (CSV) of walls beside the project, without openings")
    sections_file: str | None = Field(
        default=None, description="Table (CSV) of sections by properties beside the project")
    supports: tuple[Support, ...] = Field(
        default=(), description="How columns stand on the lowest level; fixed if left out")
    member_loads: tuple[MemberLoad, ...] = Field(
        default=(), description="Loads with weight on single members")
    cases: tuple[LoadCase, ...] = Field(
        default=(), description="Your own load cases: wind, earth pressure, temperature")
    self_weight: bool = Field(
        default=True, description="Include the self-weight of members; false: the loads already "
                                  "include it")
    vertical_mass: bool = Field(
        default=False, description="Member nodes carry their tributary mass vertically too, so "
                                   "that modes include vertical motion")
    base: str | None = Field(
        default=None, description="Name of the level at the base; lowest if left out"
    )
    plane: Literal["X", "Y"] | None = Field(
        default=None, description="A plane building: it moves in this direction only; no input is "
                                  "needed for the other, and floors do not rotate")

    @model_validator(mode="before")
    @classmethod
    def _in_full(cls, data: Any, info: ValidationInfo) -> Any:
        """Stories written out as levels; where they are faulty they stay and say so themselves."""
        if not isinstance(data, Mapping) or data.get("stories") is None or data.get("levels"):
            return data
        try:
            short = Stories.model_validate(data["stories"], context=info.context)
        except ValidationError:
            return {**data, "levels": _STAND_IN}
        return {**{k: v for k, v in data.items() if k != "stories"}, "levels": short.levels()}

    @model_validator(mode="after")
    def _one_way(self) -> Self:
        for key, reads in (("members_file", "placed=ud.read_members(path)"),
                           ("walls_file", "walls=ud.read_walls(path)"),
                           ("sections_file", "sections=ud.read_sections(path)")):
            if getattr(self, key) is not None:
                raise PydanticCustomError("advice", "{key} is read with a project file; in Python "
                                          "give {reads}", {"key": key, "reads": reads})
        if self.stories is not None:
            raise PydanticCustomError("advice", "the levels are given twice or not at all; give "
                                                "either stories or levels")
        return self

    # -- what follows ------------------------------------------------------------------------

    @cached_property
    def elevations(self) -> tuple[float, ...]:
        """Elevation of every level, top down, m."""
        z = [0.0] * len(self.levels)
        z[-1] = self.levels[-1].elevation or 0.0
        below = self.below
        for i in range(len(z) - 2, -1, -1):
            level = self.levels[i]
            above = z[below[i]] + (level.height or 0.0)
            z[i] = above if level.elevation is None else level.elevation
        return tuple(z)

    @cached_property
    def below(self) -> tuple[int, ...]:
        """Place of the level that each but the lowest stands on."""
        names = [level.name for level in self.levels]
        return tuple(i + 1 if level.stands_on not in names else names.index(level.stands_on)
                     for i, level in enumerate(self.levels[:-1]))

    def is_roof(self, i: int) -> bool:
        """Whether nothing stands on a level."""
        return i not in self._carrying

    @cached_property
    def _carrying(self) -> frozenset[int]:
        return frozenset(self.below)

    def stories_between(self, top: int, bottom: int) -> list[int]:
        """The stories from a level down to another, top down; none where it is not above it."""
        found, i = [], top
        while i < bottom:
            found.append(i)
            i = self.below[i]
        return found if i == bottom else []

    def span(self, line: Line) -> list[int]:
        """The stories a lateral line crosses, top down."""
        ends = line.top, line.bottom
        if ends not in self._spans:
            names = [level.name for level in self.levels]
            self._spans[ends] = self.stories_between(*map(names.index, ends))
        return list(self._spans[ends])

    @cached_property
    def _spans(self) -> dict[tuple[str, str], list[int]]:
        """The stories between two levels, as far as they were asked for."""
        return {}

    @property
    def directions(self) -> tuple[Literal["X", "Y"], ...]:
        """Along what the building is judged: X and Y, or the one direction of a plane building."""
        return ("X", "Y") if self.plane is None else (self.plane,)

    @property
    def base_index(self) -> int:
        """Place of the base among the levels."""
        if self.base is None:
            return len(self.levels) - 1
        return [level.name for level in self.levels].index(self.base)

    @property
    def above_base(self) -> range:
        """Places of the levels above the base."""
        return range(self.base_index)

    def outline(self, i: int) -> Outline:
        """Outline of level ``i``."""
        return self._floors[i]

    @cached_property
    def _floors(self) -> tuple[Outline, ...]:
        """The outline of every level."""
        return tuple(self._outlines[level.outline] if isinstance(level.outline, str)
                     else level.outline for level in self.levels)

    @cached_property
    def _outlines(self) -> dict[str, Outline]:
        """Every named outline as points."""
        return {name: one if isinstance(one, Outline) else one.outline(_given(self.axes))
                for name, one in self.outlines.items()}

    @property
    def grid(self) -> Axes:
        """The axes, or what stands in for them where there are none."""
        return no_axes() if self.axes is None else self.axes

    @property
    def has_members(self) -> bool:
        """Whether there are members, by rules or placed, or walls."""
        return bool(self.members or self.placed or self.walls)

    def place(self, at: str | tuple[float, float]) -> tuple[float, float]:
        """A plan point by the name of a crossing of axes, or as it is. Raises ValueError."""
        if not isinstance(at, str):
            return at
        if self.axes is None:
            raise ValueError(f"{at!r} names a crossing, but there are no axes; describe "
                             "building.axes, or give coordinates")
        return self.axes.point(at)

    def material(self, name: str) -> Material:
        """A material of the building, or one that ships."""
        return self.materials.get(name) or SHIPPED[name]

    def section(self, name: str) -> Properties:
        """Properties of a section, with the materials of the building."""
        return self.sections[name].found({**SHIPPED, **self.materials})

    def unit_weight(self, name: str) -> float:
        """Weight per volume of a section, N/m3."""
        return self.sections[name].unit_weight({**SHIPPED, **self.materials})

    def loads(self, i: int) -> Sequence[Load]:
        """Every load of level ``i``: those of its floor, then its own."""
        level = self.levels[i]
        if not level.floor:
            return level.loads
        instead = {load.name for load in level.loads if load.instead}
        return [*(load for load in self.floors[level.floor] if load.name not in instead),
                *level.loads]

    @cached_property
    def story_heights(self) -> tuple[float, ...]:
        """Height of each story, top down, m."""
        z = self.elevations
        return tuple(z[i] - z[k] for i, k in enumerate(self.below))


_STAND_IN = ({"name": "top", "height": 3.0, "outline": [[0, 0], [1, 0], [1, 1]],
              "seismic_mass": False},
             {"name": "lowest", "outline": [[0, 0], [1, 0], [1, 1]]})


def _given(axes: Axes | None) -> Axes:
    assert axes is not None
    return axes
