"""Floors below ground: held in plan by the soil around them, altogether or by springs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.building.naming import known_names
from undatum.building.rules import RotationalStiffness
from undatum.described import Described, Given
from undatum.errors import Fault
from undatum.units import Stiffness

if TYPE_CHECKING:
    from undatum.building.whole import Building

FULLY = "fully"


class GroundSprings(Described):
    """Springs by which the ground holds a floor in plan, at the middle of its outline."""

    along_x: Stiffness | None = Field(default=None, description="Against motion along X")
    along_y: Stiffness | None = Field(default=None, description="Against motion along Y")
    turning: RotationalStiffness | None = Field(
        default=None, description="Against rotation about the vertical axis")

    if TYPE_CHECKING:  # what the constructor takes; the fields hold SI numbers

        def __init__(
            self, *, along_x: Given | None = None, along_y: Given | None = None,
            turning: Given | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _some(self) -> GroundSprings:
        if not any(self.values):
            raise advice("springs that hold nothing; give along_x, along_y or turning, or write "
                         f'"{FULLY}"')
        return self

    @property
    def values(self) -> tuple[float, float, float]:
        """Along X, along Y (N/m) and in rotation (N m/rad); zero where nothing holds."""
        return self.along_x or 0.0, self.along_y or 0.0, self.turning or 0.0


def _fully_or_springs(value: Any) -> str:
    return "springs" if isinstance(value, Mapping | GroundSprings) else "fully"


Held = Annotated[
    Annotated[Literal["fully"], Tag("fully")] | Annotated[GroundSprings, Tag("springs")],
    Discriminator(_fully_or_springs),
]


def held_by_level(building: Building) -> dict[int, GroundSprings | Literal["fully"]]:
    """What the ground holds, by place of the level; later ranges go before earlier ones.

    Raises ValueError for a range that names no level.
    """
    order = [level.name for level in building.levels]
    return {order.index(name): how for text, how in building.held_by_ground.items()
            for name in known_names(text, order[:-1], "levels above the lowest")}


def held_faults(building: Building) -> list[Fault]:
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
        elif building.is_open(i):
            found.append(Fault(
                "held_by_ground", f"the floor of level {name!r} is not rigid as a whole",
                "give it a diaphragm, or hold the feet of its columns"))
    return found
