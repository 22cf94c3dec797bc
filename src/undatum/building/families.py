"""Families of axes in plan: parallel lines, rays from a center, and rings around it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Annotated, Any, Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import BeforeValidator, Discriminator, Field, Tag, WithJsonSchema, model_validator
from pydantic_core import PydanticCustomError

from undatum.building.naming import made_names
from undatum.described import Described, Given, one_or_list
from undatum.units import Extent, Length, Measure

Floats = NDArray[np.float64]
XY = tuple[float, float]
Turn = Annotated[float, Measure("angle", least=-1.2, most=1.2)]
Angle = Annotated[float, Measure("angle", least=-2 * math.pi, most=2 * math.pi)]
Step = Annotated[float, Measure("angle", above=0.0, most=math.pi)]
NEAR = 0.01  # m: axes nearer than this are a slip


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
Extents = Annotated[
    Annotated[Extent, Tag("one")] | Annotated[tuple[Extent, ...], Tag("list")],
    Discriminator(one_or_list)]
Steps = Annotated[
    Annotated[Step, Tag("one")] | Annotated[tuple[Step, ...], Tag("list")],
    Discriminator(one_or_list)]


def _places(
    names: Sequence[str], start: float, spacing: float | tuple[float, ...] | None,
    at: tuple[float, ...] | None,
) -> list[float]:
    """Coordinate of every axis of a family. Raises the advice on what is missing."""
    n = len(names)
    if len(set(names)) < n:
        raise advice("two axes have the same name; name them apart; give each axis once")
    if (at is None) == (spacing is None) and n > 1:
        raise advice("the places of the axes are not clear; give either spacing or at")
    steps = (spacing,) * (n - 1) if isinstance(spacing, float) else spacing or ()
    given, wanted = (at, n) if at is not None else (steps, n - 1)
    if len(given) != wanted:
        raise advice(f"{n} axes need {wanted} values, found {len(given)}; give one for each")
    if at is not None:
        return list(at)
    return [start, *(start + float(s) for s in np.cumsum(steps))]


def _rising(places: Sequence[float]) -> None:
    steps = [b - a for a, b in pairwise(places)]
    if min(steps, default=1.0) < NEAR:
        raise advice("the coordinates don't run upwards; list them from the smallest up"
                     if min(steps) <= 0 else
                     f"two axes are only {1e3 * min(steps):.3g} mm apart")


class AxisFamily(Described):
    """Parallel axes: names, and either the spacing from one to the next or the coordinates.

    >>> ud.AxisFamily(names="1..4", spacing=["6 m", "7 m", "6 m"]).names
    ('1', '2', '3', '4')
    """

    names: AxisNames = Field(
        min_length=1, description='Names in order, such as "1..5" or ["A", "B", "B2"]')
    spacing: Extents | None = Field(
        default=None, description="Distance from each axis to the next, or one for all")
    start: Length = Field(default=0.0, description="Coordinate of the first axis")
    at: tuple[Length, ...] | None = Field(
        default=None, description="Coordinate of every axis, in place of the spacing")
    turned: Turn = Field(
        default=0.0, description="Angle by which the axes are turned from their usual direction, "
        "from X to Y; coordinates then run across them, from the origin")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, names: str | Sequence[str], spacing: Given | Sequence[Given] | None = None,
            start: Given = 0.0, at: Sequence[Given] | None = None, turned: Given = 0.0,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> AxisFamily:
        _rising(self.places)
        return self

    @property
    def across(self) -> XY:
        """Cosine and sine of the turn."""
        return math.cos(self.turned), math.sin(self.turned)

    @property
    def places(self) -> list[float]:
        """Coordinate of every axis, m."""
        return _places(self.names, self.start, self.spacing, self.at)


class Rays(Described):
    """Axes that run outwards from the center, by their angles from X to Y.

    >>> ud.Rays(names="1..3", spacing=["30 deg", "30 deg"]).names
    ('1', '2', '3')
    """

    names: AxisNames = Field(min_length=2, description='Names in order, such as "1..9"')
    start: Angle = Field(default=0.0, description="Angle of the first ray")
    spacing: Steps | None = Field(
        default=None, description="Angle from each ray to the next, or one for all")
    at: tuple[Angle, ...] | None = Field(
        default=None, description="Angle of every ray, in place of the spacing")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, names: str | Sequence[str], start: Given = 0.0,
            spacing: Given | Sequence[Given] | None = None, at: Sequence[Given] | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> Rays:
        places = self.places
        if min(b - a for a, b in pairwise(places)) < 1e-3:
            raise advice("the angles don't run upwards, or two rays lie on each other; list them "
                         "from the smallest up, each once")
        if places[-1] - places[0] > 2 * math.pi - 1e-3:
            raise advice("the rays run all the way round: the last one lies on the first; leave "
                         "the last one out")
        return self

    @property
    def places(self) -> list[float]:
        """Angle of every ray, rad."""
        return _places(self.names, self.start, self.spacing, self.at)


class Rings(Described):
    """Axes around the center, by their radii. Beams on them are straight from ray to ray.

    >>> ud.Rings(names="A..B", radii=["8 m", "14 m"]).radii
    (8.0, 14.0)
    """

    names: AxisNames = Field(min_length=1, description='Names from within, such as "A..C"')
    radii: tuple[Extent, ...] = Field(min_length=1, description="Radius of every ring")
    closed: bool = Field(
        default=False, description="The rings run on from the last ray to the first")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, names: str | Sequence[str], radii: Sequence[Given], closed: bool = False,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> Rings:
        _rising(_places(self.names, 0.0, None, self.radii))
        return self


# -- where they are --------------------------------------------------------------------------------


class Family(Protocol):
    """The axes of one family in plan: ``names`` and their coordinates ``at``."""

    @property
    def names(self) -> tuple[str, ...]: ...
    @property
    def at(self) -> dict[str, float]: ...

    def off(self, axis: str, points: ArrayLike) -> Floats:
        """Distance of plan points (..., 2) from an axis, m, with its sign."""

    def along(self, axis: str, points: ArrayLike) -> Floats:
        """Coordinate of plan points (..., 2) along an axis, m."""

    def direction(self, axis: str, points: ArrayLike) -> Floats:
        """(..., 2) unit vectors along an axis at plan points."""


@dataclass(frozen=True, slots=True, eq=False)
class Parallels:
    """Straight axes side by side; ``normal`` is the unit vector across them, ``side`` along."""

    at: dict[str, float]
    normal: Floats
    side: Floats

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self.at)

    def off(self, axis: str, points: ArrayLike) -> Floats:
        return np.asarray(np.asarray(points) @ self.normal - self.at[axis])

    def along(self, axis: str, points: ArrayLike) -> Floats:
        return np.asarray(np.asarray(points) @ self.side)

    def direction(self, axis: str, points: ArrayLike) -> Floats:
        return np.broadcast_to(self.side, np.shape(points))


@dataclass(frozen=True, slots=True, eq=False)
class Outwards:
    """Rays from a center."""

    at: dict[str, float]
    center: Floats

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self.at)

    def _unit(self, axis: str) -> Floats:
        return np.array([math.cos(self.at[axis]), math.sin(self.at[axis])])

    def off(self, axis: str, points: ArrayLike) -> Floats:
        away, u = np.asarray(points) - self.center, self._unit(axis)
        aside = u[0] * away[..., 1] - u[1] * away[..., 0]
        return np.where(away @ u > -NEAR, aside, np.hypot(away[..., 0], away[..., 1]))

    def along(self, axis: str, points: ArrayLike) -> Floats:
        return np.asarray((np.asarray(points) - self.center) @ self._unit(axis))

    def direction(self, axis: str, points: ArrayLike) -> Floats:
        return np.broadcast_to(self._unit(axis), np.shape(points))


@dataclass(frozen=True, slots=True, eq=False)
class Around:
    """Rings about a center; coordinates along them start at the angle ``first``."""

    at: dict[str, float]
    center: Floats
    first: float

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(self.at)

    def off(self, axis: str, points: ArrayLike) -> Floats:
        away = np.asarray(points) - self.center
        return np.asarray(np.hypot(away[..., 0], away[..., 1]) - self.at[axis])

    def along(self, axis: str, points: ArrayLike) -> Floats:
        away = np.asarray(points) - self.center
        hair = 1e-6  # the first ray lies at the start, not a turn further
        angle = np.arctan2(away[..., 1], away[..., 0]) - self.first + hair
        return np.asarray(self.at[axis] * (np.mod(angle, 2 * np.pi) - hair))

    def direction(self, axis: str, points: ArrayLike) -> Floats:
        away = np.asarray(points) - self.center
        size = np.maximum(np.hypot(away[..., 0], away[..., 1]), NEAR)
        return np.asarray(np.stack([-away[..., 1], away[..., 0]], axis=-1) / size[..., None])
