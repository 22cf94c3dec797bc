"""The building: levels with rigid floors, and what resists: lateral lines, members, or both."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

from undatum.building.axes import Axes
from undatum.building.by_rules import make_frame
from undatum.building.cases import LoadCase, MemberLoad
from undatum.building.deforming import DeformingFloor
from undatum.building.diaphragms import NONE, diaphragm_faults, diaphragms_by_level
from undatum.building.faults import (
    height_faults,
    line_faults,
    load_faults,
    member_faults,
    name_faults,
    standing_faults,
)
from undatum.building.frame import Frame
from undatum.building.held import GroundSprings
from undatum.building.held_floors import held_by_level, held_faults
from undatum.building.level import Level
from undatum.building.lines import Line
from undatum.building.loads import Load
from undatum.building.materials import Material
from undatum.building.outline import Outline
from undatum.building.placed import Placed
from undatum.building.plain import PlainBuilding
from undatum.building.plane import plane_faults
from undatum.building.rules import MemberRule, Support
from undatum.building.sections import CrossSection
from undatum.building.stories import Stories, Stretch
from undatum.building.walls import Wall
from undatum.described import Given
from undatum.errors import Fault, InputError
from undatum.memory import without_collecting
from undatum.record import FixedDict


class Building(PlainBuilding):
    """Levels from the top down, on lateral lines, on members, or on both.

    The lowest level is held by the ground. ``stories`` is a short way to write ``levels``; members
    stand on ``axes`` and are made by rules, of which later ones override earlier ones.

    ``base`` names the level from which heights are measured and above which weight counts as
    seismic; it is the lowest level unless there are stories below ground.
    Raises InputError with every fault at once.
    """

    if TYPE_CHECKING:  # what the constructor takes

        def __init__(
            self, *, levels: Sequence[Level] = (), lines: Sequence[Line] = (),
            outlines: Mapping[str, Outline | Stretch | Sequence[Sequence[Given]]] = FixedDict(),
            floors: Mapping[str, Sequence[Load]] = FixedDict(), base: str | None = None,
            axes: Axes | None = None, stories: Stories | None = None,
            materials: Mapping[str, Material] = FixedDict(),
            sections: Mapping[str, CrossSection] = FixedDict(),
            flange_widths: Mapping[str, Given] = FixedDict(),
            diaphragms: Mapping[str, str | DeformingFloor] = FixedDict(),
            held_by_ground: Mapping[str, GroundSprings | str] = FixedDict(),
            members: Sequence[MemberRule] = (), placed: Sequence[Placed] = (),
            walls: Sequence[Wall] = (), cores: Mapping[str, Sequence[str]] = FixedDict(),
            wall_mesh: Given = 1.0, floors_hold_openings: bool = False,
            supports: Sequence[Support] = (),
            member_loads: Sequence[MemberLoad] = (), cases: Sequence[LoadCase] = (),
            self_weight: bool = True, vertical_mass: bool = False,
            plane: Literal["X", "Y"] | None = None,
        ) -> None: ...
    else:

        def __init__(self, **data: Any) -> None:
            super().__init__(**data)
            if faults := self.faults():
                raise InputError(faults)

        __init__.__pydantic_base_init__ = True

    # -- what hangs together ------------------------------------------------------------------

    def faults(self) -> list[Fault]:
        """Everything that single values cannot show: names, order, ranges, loads, support."""
        found = [*name_faults(self), *standing_faults(self)]
        if not found:
            found = height_faults(self)
        if found:
            return found
        found = [*load_faults(self), *line_faults(self)]
        members = member_faults(self)
        if members:  # what the members are part of can't be told before they are there
            return [*found, *members]
        floors = [*plane_faults(self), *diaphragm_faults(self)]
        return [*found, *(floors or held_faults(self))]

    # -- what is laid out from it ------------------------------------------------------------

    @cached_property
    def _diaphragms(self) -> dict[int, str | DeformingFloor]:
        """What is said of the diaphragms, by place of the level."""
        return diaphragms_by_level(self)

    @cached_property
    def held(self) -> Mapping[int, GroundSprings | Literal["fully"]]:
        """How the ground holds floors in plan, by place of the level."""
        return FixedDict(held_by_level(self))

    def is_open(self, i: int) -> bool:
        """Whether the floor of a level is not rigid as a whole."""
        return i in self._diaphragms

    @cached_property
    def deforming(self) -> Mapping[int, DeformingFloor]:
        """The floors that deform in their plane, by place of the level."""
        return FixedDict({i: said for i, said in self._diaphragms.items()
                          if isinstance(said, DeformingFloor)})

    def stiff_part(self, i: int) -> Outline | None:
        """Within what the floor of a level is rigid; ``None`` where it has no diaphragm, or one
        that deforms."""
        said = self._diaphragms.get(i)
        if said is None:
            return self.outline(i)
        return None if isinstance(said, DeformingFloor) or said == NONE else self._outlines[said]

    @property
    def frame(self) -> Frame | None:
        """The members, nodes and elements; ``None`` without members. Raises InputError."""
        return self._framed

    @cached_property
    @without_collecting()
    def _framed(self) -> Frame | None:
        return make_frame(self)
