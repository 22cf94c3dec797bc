"""Stories by ranges of levels, and outlines by axes: short for levels and points one by one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated

from pydantic import Discriminator, Field, Tag, model_validator

from undatum.building.axes import Axes, advice
from undatum.building.naming import known_names, made_names
from undatum.building.outline import Outline
from undatum.described import Described, Given, Named, one_or_table
from undatum.errors import guess
from undatum.record import FixedDict
from undatum.units import Height, Length

if TYPE_CHECKING:
    from undatum.building.level import Level


ByLevel = Annotated[
    Annotated[str, Tag("one")] | Annotated[Named[str, str], Tag("table")],
    Discriminator(one_or_table),
]


class Stories(Described):
    """Levels with the same properties in one line, from the lowest story up.

    >>> ud.Stories(heights={"L1": "4.5 m", "L2..L6": "3.2 m"}, outline="plan",
    ...            floor="office").outline
    'plan'
    """

    base: str = Field(default="Ground", min_length=1, description="Name of the lowest level")
    base_elevation: Length = Field(default=0.0, description="Elevation of the lowest level")
    heights: Named[str, Height] = Field(
        min_length=1, description='Story heights by level or range: "L2..L5" = 3.6')
    outline: ByLevel = Field(
        description="Name of an outline, or a table of names by ranges of levels")
    floor: ByLevel | None = Field(
        default=None,
        description="Name of a list of loads under building.floors, or a table of names")

    stands_on: Named[str, str] = Field(
        default_factory=FixedDict, description="Levels whose story stands on another than the one "
        'before: towers on a podium, { W1 = "P2" }')

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, heights: Mapping[str, Given], outline: str | Mapping[str, str],
            base: str = "Ground", base_elevation: Given = 0.0,
            floor: str | Mapping[str, str] | None = None, stands_on: Mapping[str, str] = ...,
        ) -> None: ...

    @model_validator(mode="after")
    def _made(self) -> Stories:
        try:
            self.parts()
        except ValueError as error:
            raise advice(str(error)) from None
        return self

    def parts(self) -> list[tuple[str, float, str, str | None]]:
        """Name, height, outline and floor of every level above the lowest, top down."""
        found: list[tuple[str, float]] = []
        for text, height in self.heights.items():
            found += [(name, height) for name in made_names(text)]
        names = [name for name, _ in found]
        for name in names:
            if names.count(name) > 1 or name == self.base:
                raise ValueError(f"the level {name!r} is named twice; name it once")
        outline, floor = (_by_level(part, names) for part in (self.outline, self.floor))
        for name in (*self.stands_on, *self.stands_on.values()):
            if name not in (*names, self.base):
                raise ValueError(f"stands_on names {name!r}, which is no level"
                                 + guess(name, names, before="; "))
        missing = [name for name in names if name not in outline]
        if missing:
            raise ValueError(f"the level {missing[0]!r} has no outline; name one for it")
        return [(name, height, outline[name], floor.get(name)) for name, height in found[::-1]]

    def levels(self) -> tuple[Level, ...]:
        """The levels, top down; the lowest has the outline of the one above."""
        from undatum.building.level import Level

        parts = self.parts()
        outline = parts[-1][2]
        if isinstance(self.outline, Mapping):
            outline = self.outline.get(self.base, outline)
        return (*(Level(name=name, height=height, outline=on, floor=floor,
                        stands_on=self.stands_on.get(name))
                  for name, height, on, floor in parts),
                Level(name=self.base, elevation=self.base_elevation, outline=outline))


def _by_level(part: str | Mapping[str, str] | None, names: Sequence[str]) -> dict[str, str]:
    if part is None:
        return {}
    if isinstance(part, str):
        return dict.fromkeys(names, part)
    found: dict[str, str] = {}
    for text, value in part.items():
        if text in names or ".." in text or "," in text:
            found |= dict.fromkeys(known_names(text, names, "levels"), value)
    return found


class Stretch(Described):
    """An outline from one crossing of axes to another, its sides along the axes.

    >>> ud.Stretch(between=["A1", "D7"], beyond="0.4 m").beyond
    0.4
    """

    between: tuple[str, str] = Field(description="Crossings of axes at opposite corners")
    beyond: Length = Field(
        default=0.0, description="How far the floor reaches beyond the axes")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(self, *, between: Sequence[str], beyond: Given = 0.0) -> None: ...

    def outline(self, axes: Axes) -> Outline:
        """The outline. Raises ValueError for crossings that are not there."""
        return Outline(points=axes.between(self.between, self.beyond))
