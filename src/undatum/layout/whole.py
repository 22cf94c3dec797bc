"""The building: levels with rigid floors, and what resists: lateral lines, members, or both."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from undatum.building.axes import Axes
from undatum.building.cases import LoadCase, MemberLoad
from undatum.building.deforming import DeformingFloor
from undatum.building.held import GroundSprings
from undatum.building.level import Level
from undatum.building.lines import Line
from undatum.building.loads import Load
from undatum.building.materials import Material
from undatum.building.outline import Outline
from undatum.building.placed import Placed
from undatum.building.plain import PlainBuilding
from undatum.building.rules import MemberRule, Support
from undatum.building.sections import CrossSection
from undatum.building.stories import Stories, Stretch
from undatum.building.walls import Wall
from undatum.described import Given
from undatum.errors import Fault, InputError
from undatum.layout.diaphragms import FLEXIBLE, NONE
from undatum.layout.frame import Frame
from undatum.layout.laying import Layout, lay_out
from undatum.record import FixedDict


class Building(PlainBuilding):
    """Levels from the top down, on lateral lines, on members, or on both.

    The lowest level is held by the ground. ``stories`` is a short way to write ``levels``; members
    stand on ``axes`` and are made by rules, of which later ones override earlier ones.

    ``base`` names the level from which heights are measured and above which weight counts as
    seismic; it is the lowest level unless there are stories below ground.
    Raises InputError with every fault at once.

    >>> outline = [(0, 0), (12, 0), (12, 9), (0, 9)]
    >>> building = ud.Building(
    ...     levels=[ud.Level(name="Roof", height="3 m", outline=outline,
    ...                      loads=[ud.Load(name="slab", kind="dead", per_area="6 kPa")]),
    ...             ud.Level(name="Ground", outline=outline)],
    ...     lines=[ud.Line(name=f"{d}{k}", at=at, direction=d, bottom="Ground", top="Roof",
    ...                    stiffness="40 MN/m")
    ...            for d, places in (("X", [(6, 0), (6, 9)]), ("Y", [(0, 4.5), (12, 4.5)]))
    ...            for k, at in enumerate(places)])
    >>> building.directions
    ('X', 'Y')
    """

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, levels: Sequence[Level] = (), axes: Axes | None = None,
            stories: Stories | None = None,
            outlines: Mapping[str, Outline | Sequence[Sequence[Given]] | Stretch] = ...,
            floors: Mapping[str, Sequence[Load]] = ..., lines: Sequence[Line] = (),
            materials: Mapping[str, Material] = ..., sections: Mapping[str, CrossSection] = ...,
            flange_widths: Mapping[str, Given] = ..., strut_widths: Mapping[str, Given] = ...,
            diaphragms: Mapping[str, str | DeformingFloor] = ...,
            held_by_ground: Mapping[str, str | GroundSprings] = ...,
            members: Sequence[MemberRule] = (), placed: Sequence[Placed] = (),
            walls: Sequence[Wall] = (), cores: Mapping[str, Sequence[str]] = ...,
            wall_mesh: Given = 1.0, floors_hold_openings: bool = False,
            supports: Sequence[Support] = (), member_loads: Sequence[MemberLoad] = (),
            cases: Sequence[LoadCase] = (), self_weight: bool = True, vertical_mass: bool = False,
            base: str | None = None, plane: Literal["X", "Y"] | None = None,
        ) -> None: ...
    else:

        def __init__(self, **data: Any) -> None:
            super().__init__(**data)
            if faults := self.faults():
                raise InputError(faults)

        __init__.__pydantic_base_init__ = True

    def faults(self) -> tuple[Fault, ...]:
        """Everything that single values cannot show: names, order, ranges, loads, support."""
        return self.laid_out.faults

    # -- what is laid out from it ------------------------------------------------------------

    @cached_property
    def laid_out(self) -> Layout:
        """What follows from the description, and its faults; made once."""
        return lay_out(self)

    @property
    def frame(self) -> Frame | None:
        """The members, nodes and elements; ``None`` without members. Raises InputError."""
        return self.laid_out.frame

    @property
    def held(self) -> Mapping[int, GroundSprings | Literal["fully"]]:
        """How the ground holds floors in plan, by place of the level."""
        return self.laid_out.held

    def is_open(self, i: int) -> bool:
        """Whether the floor of a level is not rigid as a whole."""
        return i in self.laid_out.diaphragms

    @cached_property
    def deforming(self) -> Mapping[int, DeformingFloor]:
        """The floors that deform in their plane, by place of the level."""
        return FixedDict({i: said for i, said in self.laid_out.diaphragms.items()
                          if isinstance(said, DeformingFloor)})

    def is_flexible(self, i: int) -> bool:
        """Whether the floor of a level is said to be flexible."""
        return self.laid_out.diaphragms.get(i) == FLEXIBLE

    @property
    def flexible(self) -> tuple[str, ...]:
        """The levels whose floors are said to be flexible, from the top down."""
        return tuple(level.name for i, level in enumerate(self.levels) if self.is_flexible(i))

    def stiff_part(self, i: int) -> Outline | None:
        """Within what the floor of a level is rigid; ``None`` where it has no diaphragm, or one
        that deforms."""
        said = self.laid_out.diaphragms.get(i)
        if said is None:
            return self.outline(i)
        if isinstance(said, DeformingFloor) or said in (NONE, FLEXIBLE):
            return None
        return self._outlines[said]

    @property
    def other_for_drift(self) -> bool:
        """Whether stiffness is another where the forces for drift act."""
        return any(line.for_drift is not line for line in self.lines) or (
            self.frame is not None and self.frame.other_for_drift)
