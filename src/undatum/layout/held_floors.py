"""Floors that the ground holds, level by level, and what is wrong with what is said of them."""

from __future__ import annotations

from collections.abc import Container
from typing import TYPE_CHECKING, Literal

from undatum.building.held import GroundSprings
from undatum.building.naming import known_names
from undatum.errors import Fault

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding


def held_by_level(building: PlainBuilding) -> dict[int, GroundSprings | Literal["fully"]]:
    """What the ground holds, by place of the level; later ranges go before earlier ones.

    Raises ValueError for a range that names no level.
    """
    order = [level.name for level in building.levels]
    return {order.index(name): how for text, how in building.held_by_ground.items()
            for name in known_names(text, order[:-1], "levels above the lowest")}


def held_faults(building: PlainBuilding, open_floors: Container[int]) -> list[Fault]:
    """Floors above the base, and floors that are not rigid, which nothing can hold as a whole."""
    try:
        by_level = held_by_level(building)
    except ValueError as error:
        return [Fault("held_by_ground", str(error))]
    found = []
    for i, how in by_level.items():
        name = building.levels[i].name
        if i in building.above_base:
            found.append(Fault(
                "held_by_ground", f"level {name!r} lies above the base, "
                f"{building.levels[building.base_index].name!r}",
                f"set building.base to {name!r} or to a level above it: what the ground holds is "
                "not shaken as a building"))
        elif isinstance(how, GroundSprings) and building.plane is not None \
                and not how.values["XY".index(building.plane)]:
            found.append(Fault(
                "held_by_ground", f"nothing holds level {name!r} along {building.plane}, the plane "
                "of the building", f"give along_{building.plane.lower()}, or leave it out"))
        elif i in open_floors:
            found.append(Fault(
                "held_by_ground", f"the floor of level {name!r} is not rigid as a whole",
                "give it a diaphragm, or hold the feet of its columns"))
    return found
