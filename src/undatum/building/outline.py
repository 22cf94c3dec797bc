"""Plan outlines: polygons with holes, their area, center and second moment."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray
from pydantic import ConfigDict, Field, GetJsonSchemaHandler, model_validator
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, PydanticCustomError
from shapely.geometry import Polygon

from undatum.described import Described, Given
from undatum.record import fixed
from undatum.units import Length, said

Floats = NDArray[np.float64]
Point = tuple[Length, Length]


@lru_cache(maxsize=256)
def _polygon(
    points: tuple[tuple[float, float], ...], holes: tuple[tuple[tuple[float, float], ...], ...]
) -> Polygon:
    """Floors of the same outline share one polygon."""
    return shapely.geometry.polygon.orient(Polygon(points, holes))


class Outline(Described):
    """A floor in plan: corner points in order, either way round, and holes in it. SI inside.

    A plain list of points is an outline without holes. Raises InputError where the edge crosses
    itself, encloses nothing, or a hole is not inside.

    >>> ud.Outline(points=[(0, 0), (20, 0), (20, 10), (0, 10)]).area
    200.0
    """

    model_config = ConfigDict(frozen=True, extra="forbid", ignored_types=(cached_property,))

    points: tuple[Point, ...] = Field(min_length=3, description="Corner points [x, y] in order")
    holes: tuple[tuple[Point, ...], ...] = Field(
        default=(), description="Holes, each a list of points [x, y]")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, points: Sequence[Sequence[Given]],
            holes: Sequence[Sequence[Sequence[Given]]] = (),
        ) -> None: ...

    @model_validator(mode="before")
    @classmethod
    def _plain_list(cls, value: Any) -> Any:
        return {"points": value} if isinstance(value, list | tuple) else value

    @classmethod
    def __get_pydantic_json_schema__(
        cls, core_schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        whole = super().__get_pydantic_json_schema__(core_schema, handler)
        points = whole["properties"]["points"]
        return {"anyOf": [whole, points], "description": whole.get("description", "")}

    @model_validator(mode="after")
    def _sound(self) -> Outline:
        def wrong(text: str) -> PydanticCustomError:
            return PydanticCustomError("advice", "{text}", {"text": text})

        for ring in (self.points, *self.holes):
            for a, b in zip(ring, [*ring[1:], ring[0]], strict=True):
                if a == b and len(ring) > 1:
                    raise wrong(
                        f"the point ({said(a[0])}, {said(a[1])}) stands twice in a row; an outline "
                        "closes by itself, list each corner once"
                    )
            if len(ring) < 3:
                raise wrong("a hole needs at least three points; list its corners in order")
        if not self.polygon.is_valid:
            reason = shapely.is_valid_reason(self.polygon)
            raise wrong(f"the edge crosses or touches itself ({reason}); list the corners in order")
        if self.polygon.area < 1e-6:
            raise wrong("the outline encloses no area; list its corners one after the other")
        return self

    @cached_property
    def polygon(self) -> Polygon:
        """The outline as a Shapely polygon, outer edge counter-clockwise."""
        return _polygon(self.points, self.holes)

    @cached_property
    def area(self) -> float:
        """m2, holes taken off."""
        return float(self.polygon.area)

    @cached_property
    def centroid(self) -> tuple[float, float]:
        """m."""
        return float(self.polygon.centroid.x), float(self.polygon.centroid.y)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """(x least, y least, x most, y most) in m."""
        x0, y0, x1, y1 = self.polygon.bounds
        return float(x0), float(y0), float(x1), float(y1)

    @cached_property
    def polar_moment(self) -> float:
        """Second moment of area about the vertical axis through the centroid, m4.

        From the edges by Green's theorem, taken about the centroid so that no digits are lost
        when the plan lies far from the origin.
        """
        center = np.asarray(self.centroid)
        total = 0.0
        for ring in (self.polygon.exterior, *self.polygon.interiors):
            p = np.asarray(ring.coords) - center
            (x0, y0), (x1, y1) = p[:-1].T, p[1:].T
            cross = x0 * y1 - x1 * y0
            total += float(np.sum(cross * (x0**2 + x0 * x1 + x1**2 + y0**2 + y0 * y1 + y1**2)))
        return total / 12.0

    @cached_property
    def edge(self) -> tuple[float, tuple[float, float], float]:
        """Length (m), center (m) and polar moment about it (m3) of the outer edge as a line."""
        p = np.asarray(self.polygon.exterior.coords)
        a, b = p[:-1], p[1:]
        lengths = np.hypot(*(b - a).T)
        total = float(lengths.sum())
        center = (lengths[:, None] * (a + b) / 2).sum(axis=0) / total
        a, b = a - center, b - center
        polar = float(np.sum(lengths * np.sum(a * a + a * b + b * b, axis=1) / 3))
        return total, (float(center[0]), float(center[1])), polar

    @property
    @fixed
    def corners(self) -> Floats:
        """Outer corner points, shape (n, 2), m."""
        return np.asarray(self.points, dtype=float)

    @cached_property
    def _reach(self) -> Polygon:
        """The outer edge, a hair wider, so that points on it count."""
        grown = Polygon(self.polygon.exterior).buffer(1e-6)
        shapely.prepare(grown)
        return grown

    def off(self, at: tuple[float, float]) -> float:
        """How far a plan point lies outside the outer edge, m; holes count as floor."""
        edge = Polygon(self.polygon.exterior)
        return float(edge.distance(shapely.geometry.Point(at)))

    @fixed
    def holds(self, points: ArrayLike) -> NDArray[np.bool_]:
        """Which of ``points`` (n, 2) lie inside the outer edge or on it (holes count as floor)."""
        p = np.atleast_2d(np.asarray(points, dtype=float))
        return np.asarray(shapely.intersects_xy(self._reach, p[:, 0], p[:, 1]))
