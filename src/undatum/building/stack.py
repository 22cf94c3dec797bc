"""A building without a structure: floors with their heights and weights, one above the other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, NamedTuple

from pydantic import Field, model_validator

from undatum.building.axes import advice
from undatum.building.naming import known_names, made_names
from undatum.described import Described, Given, Named
from undatum.units import Extent, Force, Measure

StackHeight = Annotated[float, Measure("length", above=0.0, most=600.0, plausible=(2.0, 300.0))]


class Floor(NamedTuple):
    """A floor: its name, the height of the story below (m) and its seismic weight (N)."""

    name: str
    height: float
    weight: float


class Stack(Described):
    """Heights of stories and seismic weights of floors, from the lowest story up.

    One story as high as the building with the whole weight is a stack too.

    >>> stack = ud.Stack(heights={"L1": "4 m", "Roof": "3 m"}, weights={"L1..Roof": "900 kN"})
    >>> [floor.name for floor in stack.floors()]
    ['Roof', 'L1']
    """

    heights: Named[str, StackHeight] = Field(
        min_length=1, description='Story heights by level or range: "L2..L5" = 3.6')
    weights: Named[str, Force] = Field(
        min_length=1, description='Effective seismic weight of each level: "L1..L5" = 5200')
    plan: tuple[Extent, Extent] | None = Field(
        default=None, description="Plan dimensions along X and Y, for accidental torsion and for "
        "the rules that ask for them")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, heights: Mapping[str, Given], weights: Mapping[str, Given],
            plan: Sequence[Given] | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _made(self) -> Stack:
        try:
            found = self.floors()
        except ValueError as error:
            raise advice(str(error)) from None
        if not any(floor.weight for floor in found):
            raise advice("no floor weighs anything, so there is nothing to shake; give weights "
                         "above zero")
        return self

    def floors(self) -> list[Floor]:
        """The floors, top down. Raises ValueError for names that don't fit together."""
        heights: list[tuple[str, float]] = []
        for text, height in self.heights.items():
            heights += [(name, height) for name in made_names(text)]
        names = [name for name, _ in heights]
        for name in names:
            if names.count(name) > 1:
                raise ValueError(f"the level {name!r} has two heights; name it once")
        weights: dict[str, float] = {}
        for text, weight in self.weights.items():
            for name in known_names(text, names, "levels that have a height"):
                if name in weights:
                    raise ValueError(f"the level {name!r} has two weights; name it once")
                weights[name] = weight
        missing = [name for name in names if name not in weights]
        if missing:
            raise ValueError(f"the level {missing[0]!r} has no weight; give 0 if it has none")
        return [Floor(name, height, weights[name]) for name, height in heights[::-1]]
