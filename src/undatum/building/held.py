"""Floors below ground: held in plan by the soil around them, altogether or by springs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import advice
from undatum.building.rules import RotationalStiffness
from undatum.described import Described, Given
from undatum.units import Stiffness

FULLY = "fully"


class GroundSprings(Described):
    """Springs by which the ground holds a floor in plan, at the middle of its outline.

    >>> ud.GroundSprings(along_x="200 MN/m", along_y="150 MN/m").along_y
    150000000.0
    """

    along_x: Stiffness | None = Field(default=None, description="Against motion along X")
    along_y: Stiffness | None = Field(default=None, description="Against motion along Y")
    turning: RotationalStiffness | None = Field(
        default=None, description="Against rotation about the vertical axis")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

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
