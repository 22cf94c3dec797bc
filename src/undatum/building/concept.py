"""The concept building: levels with rigid diaphragms on lateral lines, no members."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Any

import numpy as np
from pydantic import Discriminator, Field, Tag, model_validator
from pydantic_core import PydanticCustomError

from undatum.building.lines import Line
from undatum.building.loads import Load
from undatum.building.outline import Outline
from undatum.described import Described, Given, Named
from undatum.errors import Fault, InputError, nearest
from undatum.record import FixedDict
from undatum.units import Height, Length


def _named(value: Any) -> str:
    return "name" if isinstance(value, str) else "outline"


OutlineOrName = Annotated[
    Annotated[str, Tag("name")] | Annotated[Outline, Tag("outline")], Discriminator(_named)
]


class Level(Described):
    """A floor. The story below it has its name. Give the story height or the elevation."""

    name: str = Field(min_length=1, max_length=60, description="Name, unique among the levels")
    height: Height | None = Field(default=None, description="Height of the story below this level")
    elevation: Length | None = Field(default=None, description="Elevation of the floor")
    outline: OutlineOrName = Field(description="Name of an outline, or the outline itself")
    floor: str | None = Field(
        default=None, description="Name of a list of loads under building.floors"
    )
    loads: tuple[Load, ...] = Field(default=(), description="Loads of this level alone")
    seismic_mass: bool = Field(
        default=True, description="false: the level carries no seismic mass (moves with the ground)"
    )

    if TYPE_CHECKING:  # what the constructor takes; the fields hold SI numbers

        def __init__(
            self, *, name: str, outline: str | Outline | Sequence[Sequence[Given]],
            height: Given | None = None, elevation: Given | None = None, floor: str | None = None,
            loads: Sequence[Load] = (), seismic_mass: bool = True,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_height(self) -> Level:
        if self.height is not None and self.elevation is not None:
            raise PydanticCustomError("advice", "give height or elevation, not both")
        return self


class ConceptBuilding(Described):
    """Levels from the top down, on lateral lines. The lowest level is held by the ground.

    ``base`` names the level from which heights are measured and above which weight counts as
    seismic; it is the lowest level unless there are stories below ground.
    Raises InputError with every fault at once.
    """

    outlines: Named[str, Outline] = Field(default_factory=FixedDict, description="Outlines by name")
    floors: Named[str, tuple[Load, ...]] = Field(
        default_factory=FixedDict, description="Lists of loads by name")
    levels: tuple[Level, ...] = Field(min_length=2, description="Levels from the top down")
    lines: tuple[Line, ...] = Field(min_length=1, description="Lateral lines")
    base: str | None = Field(
        default=None, description="Name of the level at the base; lowest if left out"
    )

    if TYPE_CHECKING:  # what the constructor takes

        def __init__(
            self, *, levels: Sequence[Level], lines: Sequence[Line],
            outlines: Mapping[str, Outline | Sequence[Sequence[Given]]] = FixedDict(),
            floors: Mapping[str, Sequence[Load]] = FixedDict(), base: str | None = None,
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
        found = [*self.name_faults(), *self.height_faults()]
        if found:
            return found
        return [*self.load_faults(), *self.line_faults()]

    def name_faults(self) -> list[Fault]:
        """Names used twice, and names of levels, outlines and floors that are not there."""
        found = []
        for key, items in (("levels", self.levels), ("lines", self.lines)):
            names = [item.name for item in items]
            for i, name in enumerate(names):
                if name in names[:i]:
                    found.append(Fault(f"{key}[{i}].name", f"{name!r} is already the name of "
                                       f"{key}[{names.index(name)}]", "give each its own name"))
        for i, level in enumerate(self.levels):
            if isinstance(level.outline, str) and level.outline not in self.outlines:
                found.append(_unknown(
                    f"levels[{i}].outline", level.outline, list(self.outlines), "outlines"))
            if level.floor is not None and level.floor not in self.floors:
                found.append(_unknown(
                    f"levels[{i}].floor", level.floor, list(self.floors), "floors"))
        names = [level.name for level in self.levels]
        for i, line in enumerate(self.lines):
            for key, name in (("bottom", line.bottom), ("top", line.top)):
                if name is not None and name not in names:
                    found.append(_unknown(f"lines[{i}].{key}", name, names, "levels"))
        if self.base is not None and self.base not in names:
            found.append(_unknown("base", self.base, names, "levels"))
        return found

    def height_faults(self) -> list[Fault]:
        """Heights and elevations that are missing, too large or out of order."""
        found = []
        for i, level in enumerate(self.levels[:-1]):
            if level.height is None and level.elevation is None:
                found.append(Fault(f"levels[{i}]", f"level {level.name!r} has neither height nor "
                                   "elevation", "give the height of the story below it"))
        if self.levels[-1].height is not None:
            found.append(Fault(
                f"levels[{len(self.levels) - 1}].height",
                f"{self.levels[-1].name!r} is the lowest level; there is no story below it",
                "give its elevation, or leave it out for 0",
            ))
        if found:
            return found
        z = self.elevations
        for i in range(len(z) - 1):
            if z[i] <= z[i + 1]:
                found.append(Fault(
                    f"levels[{i}]",
                    f"level {self.levels[i].name!r} at {z[i]:.4g} m is not above "
                    f"{self.levels[i + 1].name!r} at {z[i + 1]:.4g} m",
                    "list the levels from the top down",
                ))
            elif z[i] - z[i + 1] > 60:
                found.append(Fault(
                    f"levels[{i}]", f"the story below {self.levels[i].name!r} is "
                    f"{z[i] - z[i + 1]:.4g} m high", "is the unit of the elevation right?"))
        return found

    def load_faults(self) -> list[Fault]:
        """Loads counted twice, levels without any, nothing above the base."""
        found = []
        for i, level in enumerate(self.levels):
            loads, names = self.loads(i), set()
            for load in loads:
                if load.name in names:
                    found.append(Fault(
                        f"levels[{i}]", f"the load {load.name!r} is counted twice on level "
                        f"{level.name!r}", "take one out, or name them apart if both are there"))
                names.add(load.name)
            if i in self.above_base and level.seismic_mass and not loads:
                found.append(Fault(
                    f"levels[{i}]", f"level {level.name!r} has no loads, so no mass",
                    "give it a floor or loads, or set seismic_mass = false"))
        if self.base_index == 0:
            found.append(Fault("base", f"{self.base!r} is the top level; nothing stands above it",
                               "name the level at the ground"))
        return found

    def line_faults(self) -> list[Fault]:
        """Lines upside down, with another count of values than stories, stories without one."""
        found = []
        order = [level.name for level in self.levels]
        held = set()
        for i, line in enumerate(self.lines):
            top, bottom = order.index(line.top), order.index(line.bottom)
            if top >= bottom:
                found.append(Fault(f"lines[{i}]", f"line {line.name!r} runs from {line.bottom!r} "
                                   f"up to {line.top!r}, which is not above it",
                                   "bottom is the lower level, top the higher one"))
                continue
            held |= set(range(top, bottom))
            values = line.stiffness if line.cantilever is None else line.cantilever
            if isinstance(values, tuple) and len(values) != bottom - top:
                key = "stiffness" if line.cantilever is None else "cantilever"
                found.append(Fault(
                    f"lines[{i}].{key}", f"line {line.name!r} has {bottom - top} stories but "
                    f"{len(values)} values", "give one value for each story from the top down, "
                    "or a single one"))
            if isinstance(line.strength, tuple) and len(line.strength) != bottom - top:
                found.append(Fault(
                    f"lines[{i}].strength", f"line {line.name!r} has {bottom - top} stories but "
                    f"{len(line.strength)} values", "give one value for each story from the top "
                    "down, or a single one"))
        for i in range(len(self.levels) - 1):
            if i not in held and not found:
                found.append(Fault(
                    f"levels[{i}]", f"no lateral line holds the story below "
                    f"{self.levels[i].name!r}: it has mass but no stiffness",
                    "run a line through this story"))
        return found

    # -- what follows from the description ----------------------------------------------------

    @property
    def elevations(self) -> list[float]:
        """Elevation of every level, top down, m."""
        z = [0.0] * len(self.levels)
        z[-1] = self.levels[-1].elevation or 0.0
        for i in range(len(z) - 2, -1, -1):
            level = self.levels[i]
            above = z[i + 1] + (level.height or 0.0)
            z[i] = above if level.elevation is None else level.elevation
        return z

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
        found = self.levels[i].outline
        return self.outlines[found] if isinstance(found, str) else found

    def loads(self, i: int) -> Sequence[Load]:
        """Every load of level ``i``: those of its floor, then its own."""
        level = self.levels[i]
        return [*(self.floors[level.floor] if level.floor else ()), *level.loads]

    @property
    def story_heights(self) -> list[float]:
        """Height of each story, top down, m."""
        return [float(h) for h in -np.diff(self.elevations)]


def _unknown(place: str, name: str, known: list[str], among: str) -> Fault:
    near = nearest(name, known)
    cure = f"did you mean {near!r}? " if near else ""
    return Fault(place, f"{name!r} is not among the {among}",
                 cure + (f"known: {', '.join(known)}" if known else f"there are no {among}"))
