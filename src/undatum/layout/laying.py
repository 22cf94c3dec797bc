"""What follows from a description, laid out once, with all that is wrong with it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Literal

from undatum.building.deforming import DeformingFloor
from undatum.building.held import GroundSprings
from undatum.errors import Fault, InputError
from undatum.layout.acting import case_faults
from undatum.layout.by_rules import make_frame
from undatum.layout.diaphragms import diaphragm_faults, diaphragms_by_level
from undatum.layout.faults import (
    flange_faults,
    height_faults,
    line_faults,
    load_faults,
    member_faults,
    name_faults,
    standing_faults,
    strut_faults,
)
from undatum.layout.frame import Frame
from undatum.layout.held_floors import held_by_level, held_faults
from undatum.layout.plane import plane_faults
from undatum.memory import without_collecting
from undatum.record import FixedDict, record

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding


@record
class Layout:
    """What follows from a description.

    ``frame`` holds members, walls, floors that deform, their nodes and elements (``None`` where
    there are lateral lines alone), ``diaphragms`` the floors not rigid as a whole and ``held``
    those that the ground holds, by place of the level. Where there are ``faults`` the rest is
    empty.
    """

    frame: Frame | None
    diaphragms: Mapping[int, str | DeformingFloor]
    held: Mapping[int, GroundSprings | Literal["fully"]]
    faults: tuple[Fault, ...]


def lay_out(building: PlainBuilding) -> Layout:
    """Members, walls and floors of a building, and everything that is wrong with it.

    Names are looked at first: what they name can't be told before they are right.
    """
    faults = [*name_faults(building), *standing_faults(building)] or height_faults(building)
    if faults:
        return _wrong(faults)
    faults = [*load_faults(building), *line_faults(building)]
    frame, members = _framed(building)
    members = members or [*flange_faults(building, frame), *strut_faults(building, frame),
                          *case_faults(building, frame)]
    if members:  # what they are part of can't be told before they are there
        return _wrong([*faults, *members])
    floors = [*plane_faults(building, frame), *diaphragm_faults(building)]
    open_floors = {} if floors else diaphragms_by_level(building)
    faults += floors or held_faults(building, open_floors)
    if faults:
        return _wrong(faults)
    return Layout(frame, FixedDict(open_floors), FixedDict(held_by_level(building)), ())


def _wrong(faults: list[Fault]) -> Layout:
    return Layout(None, FixedDict(), FixedDict(), tuple(faults))


@without_collecting()
def _framed(building: PlainBuilding) -> tuple[Frame | None, list[Fault]]:
    """The frame, or why there can't be one."""
    if faults := member_faults(building):
        return None, faults
    try:
        return make_frame(building), []
    except InputError as error:
        return None, list(error.faults)
