"""Axes in plan: lines along X and along Y with names, and the points where they cross."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from itertools import pairwise
from typing import TYPE_CHECKING, Annotated, Any

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import BeforeValidator, ConfigDict, Field, WithJsonSchema, model_validator
from pydantic_core import PydanticCustomError

from undatum.building.naming import known_names, made_names
from undatum.described import Described, Given, Named
from undatum.record import FixedDict
from undatum.units import Extent, Length, Measure

Floats = NDArray[np.float64]
Turn = Annotated[float, Measure("angle", least=-1.2, most=1.2)]


def advice(text: str) -> PydanticCustomError:
    """A fault of a description in its own words."""
    return PydanticCustomError("advice", "{text}", {"text": text})


def _names(value: Any) -> Any:
    if isinstance(value, str):
        try:
            return tuple(made_names(value))
        except ValueError as error:
            raise advice(str(error)) from None
    return value


AxisNames = Annotated[
    tuple[str, ...], BeforeValidator(_names),
    WithJsonSchema({"anyOf": [{"type": "string", "examples": ["1..5"]}, {
        "type": "array", "items": {"type": "string"}, "minItems": 1}]})]


class AxisFamily(Described):
    """Parallel axes: names, and either the spacing from one to the next or the coordinates."""

    names: AxisNames = Field(
        min_length=1, description='Names in order, such as "1..5" or ["A", "B", "B2"]')
    spacing: tuple[Extent, ...] | None = Field(
        default=None, description="Distance from each axis to the next")
    start: Length = Field(default=0.0, description="Coordinate of the first axis")
    at: tuple[Length, ...] | None = Field(
        default=None, description="Coordinate of every axis, in place of the spacing")
    turned: Turn = Field(
        default=0.0, description="Angle by which the axes are turned from their usual direction, "
        "from X to Y; coordinates then run across them, from the origin")

    if TYPE_CHECKING:  # what the constructor takes; the fields hold SI numbers

        def __init__(
            self, *, names: str | Sequence[str], spacing: Sequence[Given] | None = None,
            start: Given = 0.0, at: Sequence[Given] | None = None, turned: Given = 0.0,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> AxisFamily:
        n = len(self.names)
        if len(set(self.names)) < n:
            raise advice("two axes have the same name")
        if (self.at is None) == (self.spacing is None) and n > 1:
            raise advice("give either spacing or at")
        given, wanted = (self.at, n) if self.at is not None else (self.spacing or (), n - 1)
        if len(given) != wanted:
            raise advice(f"{n} axes need {wanted} values, found {len(given)}")
        places = self.places
        steps = [b - a for a, b in pairwise(places)]
        if min(steps, default=1.0) < 0.01:
            raise advice("the coordinates don't run upwards" if min(steps) <= 0 else
                         f"two axes are only {1e3 * min(steps):.3g} mm apart")
        return self

    @property
    def across(self) -> tuple[float, float]:
        """Cosine and sine of the turn."""
        return math.cos(self.turned), math.sin(self.turned)

    @property
    def places(self) -> list[float]:
        """Coordinate of every axis, m."""
        if self.at is not None:
            return list(self.at)
        found = [self.start]
        for step in self.spacing or ():
            found.append(found[-1] + step)
        return found


class Axes(Described):
    """Two families of axes: those met on the way along X, and those met on the way along Y.

    Where two cross is a point with the names of both, ``A1`` or ``A-1``, either way round.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", ignored_types=(cached_property,))

    across_x: AxisFamily = Field(description="Axes met on the way along X; they run along Y")
    across_y: AxisFamily = Field(description="Axes met on the way along Y; they run along X")
    points: Named[str, tuple[Length, Length]] = Field(
        default_factory=FixedDict, description="Further points by name [x, y]")

    @model_validator(mode="after")
    def _apart(self) -> Axes:
        both = set(self.across_x.names) & set(self.across_y.names)
        if both:
            raise advice(f"the name {sorted(both)[0]!r} stands in both families; a crossing could "
                         "not be told")
        if abs(self.across_x.turned - self.across_y.turned) > math.radians(70):
            raise advice("the two families run nearly side by side; turn them less against each "
                         "other")
        return self

    def across(self, axis: str) -> Floats:
        """(2,) unit vector across an axis, along which its coordinate runs."""
        c, s = (self.across_x if axis in self.x else self.across_y).across
        return np.array([c, s] if axis in self.x else [-s, c])

    def direction(self, axis: str) -> Floats:
        """(2,) unit vector along an axis: X or Y, where it is not turned."""
        c, s = (self.across_x if axis in self.x else self.across_y).across
        return np.array([-s, c] if axis in self.x else [c, s])

    def off(self, axis: str, points: ArrayLike) -> Floats:
        """Distance of plan points (..., 2) from an axis, m, with its sign."""
        return np.asarray(points) @ self.across(axis) - {**self.x, **self.y}[axis]

    def along(self, axis: str, points: ArrayLike) -> Floats:
        """Coordinate of plan points (..., 2) along an axis, m."""
        return np.asarray(np.asarray(points) @ self.direction(axis))

    def others(self, axis: str) -> tuple[str, ...]:
        """The axes that cross an axis, in order."""
        return self.across_x.names if axis in self.y else self.across_y.names

    def cross(self, axis: str, other: str) -> tuple[float, float]:
        """Where two axes of different families cross, m."""
        a, b = (axis, other) if axis in self.y else (other, axis)
        return self.crossings[f"{a}{b}"]

    @property
    def plain(self) -> bool:
        """Whether all axes run along X and Y."""
        return self.across_x.turned == 0 and self.across_y.turned == 0

    @cached_property
    def x(self) -> dict[str, float]:
        """Coordinates of the axes that run along Y, m."""
        return dict(zip(self.across_x.names, self.across_x.places, strict=True))

    @cached_property
    def y(self) -> dict[str, float]:
        """Coordinates of the axes that run along X, m."""
        return dict(zip(self.across_y.names, self.across_y.places, strict=True))

    @cached_property
    def crossings(self) -> dict[str, tuple[float, float]]:
        """Every crossing by its name, the axis along X first, and the points named beside, m."""
        if self.plain:
            found = {f"{b}{a}": (x, y) for b, y in self.y.items() for a, x in self.x.items()}
        else:
            found = {f"{b}{a}": meeting(self.across_x, x, self.across_y, y)
                     for b, y in self.y.items() for a, x in self.x.items()}
        return {**found, **self.points}

    def point(self, name: str) -> tuple[float, float]:
        """A point by name. Raises ValueError."""
        found = self._spelled(name)
        if found is None:
            known_names(name, list(self.crossings), "crossings of axes")
        assert found is not None
        return self.crossings[found]

    def _spelled(self, name: str) -> str | None:
        """The name under which a crossing is listed, however it is written."""
        if name in self.crossings:
            return name
        for cut in range(1, len(name)):
            first, second = name[:cut].rstrip("-"), name[cut:].lstrip("-")
            for along_x, along_y in ((first, second), (second, first)):
                if along_x in self.y and along_y in self.x:
                    return f"{along_x}{along_y}"
        return None

    def chosen(self, text: str) -> tuple[list[str], list[str]]:
        """Axes and crossings that a list of names means. Raises ValueError."""
        axes, crossings = [], []
        known = [*self.x, *self.y]
        for part in text.split(","):
            name = part.strip()
            spelled = self._spelled(name)
            if name not in known and spelled is not None:
                crossings.append(spelled)
                continue
            first = name.partition("..")[0].strip()
            family = list(self.x if first in self.x else self.y if first in self.y else known)
            axes += known_names(name, family, "axes")
        return axes, crossings

    def stretch(self, axis: str, low: str, high: str) -> tuple[float, float]:
        """The coordinates along an axis between two others, m. Raises ValueError."""
        ends = [float(self.along(axis, self.cross(axis, known_names(
            name, list(self.others(axis)), f"axes that cross {axis}")[0]))) for name in (low, high)]
        return min(ends), max(ends)


def meeting(across_x: AxisFamily, x: float, across_y: AxisFamily, y: float) -> tuple[float, float]:
    """Where an axis of each family meets the other, by their coordinates, m."""
    (c, s), (d, t) = across_x.across, across_y.across
    at = np.linalg.solve([[c, s], [-t, d]], [x, y])
    return float(at[0]), float(at[1])
