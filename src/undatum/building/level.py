"""A level: a floor and the story below it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import (
    Discriminator,
    Field,
    Tag,
    model_validator,
)
from pydantic_core import PydanticCustomError

from undatum.building.loads import Load
from undatum.building.outline import Outline
from undatum.described import Described, Given
from undatum.units import Height, Length


def _named(value: Any) -> str:
    return "name" if isinstance(value, str) else "outline"


OutlineOrName = Annotated[
    Annotated[str, Tag("name")] | Annotated[Outline, Tag("outline")], Discriminator(_named)
]


class Level(Described):
    """A floor. The story below it has its name. Give the story height or the elevation.

    Floors side by side, towers on a podium or half-levels, each name the one they stand on.

    >>> round(ud.Level(name="L2", height="12 ft", outline=[(0, 0), (9, 0), (9, 6)]).height, 4)
    3.6576
    """

    name: str = Field(min_length=1, max_length=60, description="Name, unique among the levels")
    height: Height | None = Field(default=None, description="Height of the story below this level")
    elevation: Length | None = Field(default=None, description="Elevation of the floor")
    stands_on: str | None = Field(
        default=None, description="Name of the level its story stands on, further down the list; "
        "the next one if left out")
    outline: OutlineOrName = Field(description="Name of an outline, or the outline itself")
    floor: str | None = Field(
        default=None, description="Name of a list of loads under building.floors"
    )
    loads: tuple[Load, ...] = Field(default=(), description="Loads of this level alone")
    seismic_mass: bool = Field(
        default=True, description="false: the level carries no seismic mass (moves with the ground)"
    )

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, outline: str | Outline | Sequence[Sequence[Given]],
            height: Given | None = None, elevation: Given | None = None,
            stands_on: str | None = None, floor: str | None = None, loads: Sequence[Load] = (),
            seismic_mass: bool = True,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_height(self) -> Level:
        if self.height is not None and self.elevation is not None:
            raise PydanticCustomError("advice", "the height is given twice; give height or "
                                                "elevation, not both")
        return self
