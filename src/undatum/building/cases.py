"""Loads on single members, and load cases of one's own: wind, earth pressure, temperature, others.

A load on members has weight: it counts by the weight rule like any load of a floor. A case is
none of the seismic weight and stands by itself: forces on levels, loads along members, warming,
supports that move.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from undatum.building.axes import advice
from undatum.building.loads import Kind
from undatum.building.outline import Point
from undatum.described import Described, Given
from undatum.units import InUnit, Measure, Share

SignedForce = Annotated[float, Measure("force", least=-1e11, most=1e11)]
SignedLineLoad = Annotated[
    float, Measure("line load", least=-1e8, most=1e8, plausible=(-300e3, 300e3))]
SignedMoment = Annotated[float, Measure("moment", least=-1e13, most=1e13)]
Settling = Annotated[float, Measure("displacement", least=-5.0, most=5.0, plausible=(-0.3, 0.3))]


def _one_or_two(value: Any) -> Any:
    return value if isinstance(value, list | tuple) else (value, value)


_LOAD = {"type": ["number", "string"], "x-dimension": "line load", "examples": ["8 kN/m"]}
Along = Annotated[
    tuple[SignedLineLoad, SignedLineLoad], BeforeValidator(_one_or_two),
    WithJsonSchema({"anyOf": [_LOAD, {"type": "array", "items": _LOAD, "minItems": 2,
                                      "maxItems": 2}]})]


class AnyOnMembers(Described):
    """What acts on members: spread along a stretch, or at a point."""

    on: str = Field(min_length=1, description='Which: "beams on A at L1..L3", or a member\'s name')
    per_length: Along | None = Field(
        default=None, description="Load per length; [at the start, at the end] where it changes")
    total: SignedForce | None = Field(default=None, description="Load at a point of each member")
    between: tuple[Share, Share] = Field(
        default=(0.0, 1.0), description="Stretch it acts on, as fractions from the start")
    at: Share = Field(default=0.5, description="Where a total acts, as a fraction from the start")

    def sums(self, length: float) -> tuple[float, float]:
        """The whole load on a member of a length, N, and its first moment by fractions of it."""
        if self.total is not None:
            return self.total, self.total * self.at
        w0, w1 = self.per_length or (0.0, 0.0)
        a, b = self.between
        reach = (b - a) * length
        return (w0 + w1) / 2 * reach, reach * (a * (w0 + w1) / 2 + (b - a) * (w0 + 2 * w1) / 6)

    def faulty(self) -> str:
        """What does not fit together; empty where all does."""
        if self.total is not None and self.per_length is not None:
            return "give one of per_length and total"
        if self.total is not None and "between" in self.model_fields_set:
            return "between goes with per_length; a total acts at a point"
        if self.total is None and "at" in self.model_fields_set:
            return "at goes with total; a load per length acts between two fractions"
        if not self.between[0] < self.between[1]:
            return "between runs from the smaller fraction to the larger"
        return ""


class MemberLoad(AnyOnMembers):
    """A load with weight on members: a facade on edge beams, a machine on one beam.

    >>> ud.MemberLoad(on="beam A1-A2 at L1", name="tank", kind="dead", total="40 kN").total
    40000.0
    """

    name: str = Field(min_length=1, description="Name in the weight table")
    kind: Kind = Field(description="What it is, for the weight rule")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, on: str, name: str, kind: Kind,
            per_length: Given | Sequence[Given] | None = None, total: Given | None = None,
            between: Sequence[Given] = (0.0, 1.0), at: Given = 0.5,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> MemberLoad:
        text = self.faulty()
        if not text and self.total is None and self.per_length is None:
            text = "give one of per_length and total"
        if not text and min(self.total or 0.0, *(self.per_length or (0.0,))) < 0:
            text = "a load with weight can't be negative; a case of its own can"
        if text:
            raise advice(text)
        return self


class OnLevels(Described):
    """Forces on floors: at the center of mass, or at a point of the plan.

    >>> ud.OnLevels(at="Roof", X="30 kN", Y="10 kN").Y
    10000.0
    """

    at: str = Field(min_length=1, description='Levels, such as "L1..Roof"')
    X: SignedForce = Field(default=0.0, description="Force along X on each of them")
    Y: SignedForce = Field(default=0.0, description="Force along Y on each of them")
    moment: SignedMoment = Field(
        default=0.0, description="Moment about the vertical axis, positive from X to Y")
    point: Point | None = Field(
        default=None, description="Where the forces act [x, y]; the center of mass if left out")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, at: str, X: Given = 0.0, Y: Given = 0.0, moment: Given = 0.0,
            point: Sequence[Given] | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _something(self) -> OnLevels:
        if not (self.X or self.Y or self.moment):
            raise advice("nothing acts; give X, Y or moment")
        return self


class OnMembers(AnyOnMembers):
    """A load along X, along Y or down on members, or a change of their temperature.

    >>> ud.OnMembers(on="beams at L1", per_length="5 kN/m").per_length
    (5000.0, 5000.0)
    """

    direction: Literal["X", "Y", "down"] = Field(
        default="down", description="Where it points; negative values point the other way")
    warming: Annotated[float | None, InUnit("K")] = Field(
        default=None, ge=-300, le=300, description="Rise of the temperature in kelvin, all through")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, on: str, per_length: Given | Sequence[Given] | None = None,
            total: Given | None = None, between: Sequence[Given] = (0.0, 1.0), at: Given = 0.5,
            direction: Literal["X", "Y", "down"] = "down", warming: float | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> OnMembers:
        text = self.faulty()
        given = [k for k in ("per_length", "total", "warming") if getattr(self, k) is not None]
        if not text and len(given) != 1:
            text = "give one of per_length, total and warming"
        if not text and self.warming is not None and "direction" in self.model_fields_set:
            text = "a direction goes with a load; warming has none"
        if text:
            raise advice(text)
        return self


class OnSupports(Described):
    """Supports that move.

    >>> ud.OnSupports(at="A1", down="10 mm").down
    0.01
    """

    at: str = Field(min_length=1, description='Which: "all", "on A" or crossings "A1, B2"')
    down: Settling = Field(default=0.0, description="Settlement, downwards")
    X: Settling = Field(default=0.0, description="Movement along X")
    Y: Settling = Field(default=0.0, description="Movement along Y")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, at: str, down: Given = 0.0, X: Given = 0.0, Y: Given = 0.0,
        ) -> None: ...

    @model_validator(mode="after")
    def _something(self) -> OnSupports:
        if not (self.down or self.X or self.Y):
            raise advice("nothing moves; give down, X or Y")
        return self


class LoadCase(Described):
    """A load case of one's own, first order, without any factor; no part of the seismic weight.

    >>> wind = ud.LoadCase(name="wind", on_levels=[ud.OnLevels(at="L1..L3", X="20 kN")])
    >>> wind.on_levels[0].X
    20000.0
    """

    name: str = Field(min_length=1, max_length=60, description="Name of the case")
    on_levels: tuple[OnLevels, ...] = Field(default=(), description="Forces on floors")
    on_members: tuple[OnMembers, ...] = Field(default=(), description="Loads on members")
    on_supports: tuple[OnSupports, ...] = Field(default=(), description="Supports that move")
    counts_as: Kind | None = Field(
        default=None, description="Kind of load whose factors it takes in the combinations of the "
        "standard, such as dead for earth pressure that stays; left out, it stands in "
        "combinations of your own alone")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, on_levels: Sequence[OnLevels] = (),
            on_members: Sequence[OnMembers] = (), on_supports: Sequence[OnSupports] = (),
            counts_as: Kind | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> LoadCase:
        if not (self.on_levels or self.on_members or self.on_supports):
            raise advice("nothing acts; give on_levels, on_members or on_supports")
        return self


# -- on a frame ------------------------------------------------------------------------------------
