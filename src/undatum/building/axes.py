"""Axes in plan: two families with names, and the points where they cross."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from functools import cache, cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike
from pydantic import ConfigDict, Field, model_validator

from undatum.building.families import (
    XY,
    Around,
    AxisFamily,
    Family,
    Floats,
    Outwards,
    Parallels,
    Rays,
    Rings,
    advice,
)
from undatum.building.naming import known_names
from undatum.described import Described, Named
from undatum.record import FixedDict
from undatum.units import Length

__all__ = ["Axes", "AxisFamily", "Rays", "Rings", "advice"]


class Axes(Described):
    """Two families of axes: those met on the way along X, and those met on the way along Y; or
    rays from a center and rings around it.

    Where two cross is a point with the names of both, ``A1`` or ``A-1``, either way round; with a
    dash alone, where ``A11`` could be A1 and 1 as well as A and 11.

    >>> axes = ud.Axes(across_x=ud.AxisFamily(names="1..3", spacing=["6 m", "8 m"]),
    ...                 across_y=ud.AxisFamily(names="A..B", spacing=["5 m"]))
    >>> axes.x
    {'1': 0.0, '2': 6.0, '3': 14.0}
    """

    model_config = ConfigDict(frozen=True, extra="forbid", ignored_types=(cached_property,))

    across_x: AxisFamily | None = Field(
        default=None, description="Axes met on the way along X; they run along Y")
    across_y: AxisFamily | None = Field(
        default=None, description="Axes met on the way along Y; they run along X")
    rays: Rays | None = Field(
        default=None, description="Axes outwards from the center, in place of across_x")
    rings: Rings | None = Field(
        default=None, description="Axes around the center, in place of across_y")
    center: tuple[Length, Length] = Field(
        default=(0.0, 0.0), description="Center of rays and rings [x, y]")
    points: Named[str, tuple[Length, Length]] = Field(
        default_factory=FixedDict, description="Further points by name [x, y]")

    @model_validator(mode="after")
    def _apart(self) -> Axes:
        straight = (self.across_x is not None, self.across_y is not None)
        round_ = (self.rays is not None, self.rings is not None)
        if not ((all(straight) and not any(round_)) or (all(round_) and not any(straight))):
            raise advice("the axes are not whole; give across_x and across_y, or rays and rings")
        both = set(self.first.names) & set(self.second.names)
        if both:
            raise advice(f"the name {sorted(both)[0]!r} stands in both families; a crossing could "
                         "not be told")
        if self.across_x is not None and self.across_y is not None \
                and abs(self.across_x.turned - self.across_y.turned) > math.radians(70):
            raise advice("the two families run nearly side by side; turn them less against each "
                         "other")
        for name in self.points:
            if name in self._named.values() or name in (*self.x, *self.y):
                raise advice(f"the point {name!r} has the name of an axis or of a crossing; give "
                             "it another name")
        return self

    # -- the families ------------------------------------------------------------------------

    @cached_property
    def first(self) -> Family:
        """The axes met on the way along X, or the rays."""
        if self.across_x is not None:
            c, s = self.across_x.across
            return Parallels(dict(zip(self.across_x.names, self.across_x.places, strict=True)),
                             np.array([c, s]), np.array([-s, c]))
        assert self.rays is not None
        return Outwards(dict(zip(self.rays.names, self.rays.places, strict=True)),
                        np.array(self.center))

    @cached_property
    def second(self) -> Family:
        """The axes met on the way along Y, or the rings."""
        if self.across_y is not None:
            c, s = self.across_y.across
            return Parallels(dict(zip(self.across_y.names, self.across_y.places, strict=True)),
                             np.array([-s, c]), np.array([c, s]))
        assert self.rings is not None
        assert self.rays is not None
        return Around(dict(zip(self.rings.names, self.rings.radii, strict=True)),
                      np.array(self.center), self.rays.places[0])

    def _of(self, axis: str) -> Family:
        return self.first if axis in self.first.at else self.second

    @property
    def x(self) -> dict[str, float]:
        """Coordinates of the axes met on the way along X, m, or angles of the rays."""
        return self.first.at

    @property
    def y(self) -> dict[str, float]:
        """Coordinates of the axes met on the way along Y, m, or radii of the rings."""
        return self.second.at

    @property
    def plain(self) -> bool:
        """Whether all axes run along X and Y."""
        return self.across_x is not None and self.across_y is not None \
            and self.across_x.turned == 0 and self.across_y.turned == 0

    def curved(self, axis: str) -> bool:
        """Whether an axis is a ring, on which members are straight from ray to ray."""
        return self.rings is not None and axis in self.y

    def off(self, axis: str, points: ArrayLike) -> Floats:
        """Distance of plan points (..., 2) from an axis, m, with its sign."""
        return self._of(axis).off(axis, points)

    def along(self, axis: str, points: ArrayLike) -> Floats:
        """Coordinate of plan points (..., 2) along an axis, m; around a ring from the first ray."""
        return self._of(axis).along(axis, points)

    def direction(self, axis: str, points: ArrayLike = (0.0, 0.0)) -> Floats:
        """(..., 2) unit vectors along an axis at plan points: X or Y, where it is not turned."""
        return self._of(axis).direction(axis, points)

    def others(self, axis: str) -> tuple[str, ...]:
        """The axes that cross an axis, in order."""
        return self.first.names if axis in self.y else self.second.names

    def bays(self, axis: str) -> Iterator[tuple[str, str]]:
        """The axes that bound every bay of an axis."""
        names = self.others(axis)
        yield from pairwise(names)
        if self.rings is not None and self.rings.closed and axis in self.y and len(names) > 2:
            yield names[-1], names[0]

    # -- crossings ---------------------------------------------------------------------------

    def cross(self, axis: str, other: str) -> XY:
        """Where two axes of different families cross, m."""
        a, b = (axis, other) if axis in self.y else (other, axis)
        return self.crossings[self._named[a, b]]

    @cached_property
    def _named(self) -> dict[tuple[str, str], str]:
        """Name of every crossing by its axes, that of the second family first."""
        pairs = [(b, a) for b in self.y for a in self.x]
        seen = Counter(f"{b}{a}" for b, a in pairs)
        return {(b, a): f"{b}{a}" if seen[f"{b}{a}"] == 1 else f"{b}-{a}" for b, a in pairs}

    @cached_property
    def crossings(self) -> dict[str, XY]:
        """Every crossing by its name, that of the second family first, and the points named
        beside, m."""
        return {**{name: self._meeting(self.x[a], self.y[b])
                   for (b, a), name in self._named.items()}, **self.points}

    @property
    def crossing_names(self) -> tuple[str, ...]:
        """The names of the crossings alone."""
        return tuple(self._named.values())

    def _meeting(self, first: float, second: float) -> XY:
        if self.across_x is None or self.across_y is None:
            x, y = self.center
            return x + second * math.cos(first), y + second * math.sin(first)
        if self.plain:
            return first, second
        return meeting(self.across_x, first, self.across_y, second)

    def point(self, name: str) -> XY:
        """A point by name. Raises ValueError."""
        found = self._spelled(name)
        if found is None:
            known_names(name, list(self.crossings), "crossings of axes")
        assert found is not None
        return self.crossings[found]

    def _spelled(self, name: str) -> str | None:
        """The name under which a crossing is listed, however it is written.

        Raises ValueError where it could be one or another.
        """
        if name in self.crossings:
            return name
        found = []
        for cut in range(1, len(name)):
            first, second = name[:cut], name[cut:]
            if second.startswith("-"):  # a dash parts the names, wherever there is one
                second = second.removeprefix("-")
            elif "-" in name:
                continue
            for b, a in ((first, second), (second, first)):
                if (b, a) in self._named:
                    found.append(self._named[b, a])
        if len(set(found)) > 1:
            raise ValueError(f"{name!r} could be {' or '.join(dict.fromkeys(found))}; write the "
                             "dash")
        return found[0] if found else None

    def chosen(self, text: str) -> tuple[list[str], list[str]]:
        """Axes and crossings that a list of names means. Raises ValueError."""
        axes, crossings = [], []
        known = [*self.x, *self.y]
        if not known:
            raise ValueError(f"{text!r} names axes, and there are none; describe building.axes, "
                             "or name members")
        for part in text.split(","):
            name = part.strip()
            spelled = None if name in known else self._spelled(name)
            if spelled is not None:
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

    def between(self, corners: Sequence[str], beyond: float) -> list[XY]:
        """The outline from one crossing to another, its sides along the axes, ``beyond`` them (m).

        Along a ring it is straight from ray to ray. Raises ValueError.
        """
        at = np.array([self.point(name) for name in corners])
        if self.across_x is not None and self.across_y is not None:
            (x0, x1), (y0, y1) = (
                np.sort(family.off(family.names[0], at)) + family.at[family.names[0]]
                + np.array([-beyond, beyond]) for family in (self.first, self.second))
            return [self._meeting(float(x), float(y))
                    for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
        away = at - np.array(self.center)
        inner, outer = np.sort(np.hypot(away[:, 0], away[:, 1])) + np.array([-beyond, beyond])
        angles = np.sort(self.second.along(self.second.names[0], at)) \
            / self.y[self.second.names[0]] + next(iter(self.x.values()))
        rays = [a for a in self.x.values() if angles[0] - 1e-6 <= a <= angles[1] + 1e-6]
        if len(rays) < 2 or inner <= 0 or outer - inner < 1e-6:
            raise ValueError("the corners lie on one ray or one ring, or beyond the center; name "
                             "corners that enclose an area")
        return [*self._arc(rays, outer, beyond), *self._arc(rays, inner, beyond)[::-1]]

    def _arc(self, rays: Sequence[float], radius: float, beyond: float) -> list[XY]:
        """Points on the rays at a radius, the first and the last moved on by ``beyond``."""
        points = np.array([self._meeting(a, radius) for a in rays])
        for k, sign in ((0, -1.0), (-1, 1.0)):
            points[k] += sign * beyond * np.array([-math.sin(rays[k]), math.cos(rays[k])])
        return [(float(x), float(y)) for x, y in points]


def meeting(across_x: AxisFamily, x: float, across_y: AxisFamily, y: float) -> XY:
    """Where an axis of each family meets the other, by their coordinates, m."""
    (c, s), (d, t) = across_x.across, across_y.across
    at = np.linalg.solve([[c, s], [-t, d]], [x, y])
    return float(at[0]), float(at[1])


@cache
def no_axes() -> Axes:
    """The axes of a building that has none: nothing is chosen by them, nothing stands on them."""
    found = Axes.model_construct(across_x=None, across_y=None, rays=None, rings=None,
                                 center=(0.0, 0.0), points=FixedDict())
    along = np.array([1.0, 0.0]), np.array([0.0, 1.0])
    found.__dict__["first"], found.__dict__["second"] = (
        Parallels({}, *along), Parallels({}, *reversed(along)))
    return found
