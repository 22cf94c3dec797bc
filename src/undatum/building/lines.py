"""Lateral lines: a frame, a wall or a braced line standing at a place in plan."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import BeforeValidator, Discriminator, Field, Tag, WithJsonSchema, model_validator
from pydantic_core import PydanticCustomError

from undatum.building.materials import UnitWeight
from undatum.building.outline import Point
from undatum.described import Described, Given, one_or_list
from undatum.units import (
    Area,
    Extent,
    Force,
    InUnit,
    KeptShare,
    Modulus,
    SecondMoment,
    Stiffness,
    to_si,
)


def _angle(value: Any) -> float:
    if value in ("X", "x"):
        return 0.0
    if value in ("Y", "y"):
        return math.pi / 2
    if isinstance(value, str):
        try:
            return to_si(value, "angle")
        except ValueError:
            pass
    elif isinstance(value, float) and abs(value) <= 2 * math.pi:
        return value  # an angle in rad, from Python
    raise PydanticCustomError(
        "advice", '{value} is not a direction; write "X", "Y" or an angle from X such as "30 deg"',
        {"value": repr(value)},
    )


Bearing = Annotated[
    float,
    BeforeValidator(_angle),
    InUnit("angle"),
    WithJsonSchema({"type": ["string", "number"], "examples": ["X", "Y", "30 deg"]}),
]


class Cantilever(Described):
    """Section of a wall or core that bends and shears as a cantilever.

    Either ``length`` and ``thickness`` of a rectangle (shear area 5/6 of the section), or
    ``inertia`` and ``shear_area``. ``flexural_share`` and ``shear_share`` reduce the gross
    stiffness, for instance for cracking; those for drift hold where the forces for drift act.

    >>> wall = ud.Cantilever(modulus="30 GPa", length="5 m", thickness="250 mm")
    >>> round(wall.bending / 1e9, 3)  # E t l^3 / 12, GN m2
    78.125
    """

    modulus: Modulus = Field(description="Modulus of elasticity")
    poisson: float = Field(
        default=0.2, ge=0, lt=0.5, description="Poisson ratio, for the shear modulus"
    )
    length: Extent | None = Field(default=None, description="Length of a rectangular wall in plan")
    thickness: Extent | None = Field(default=None, description="Thickness of a rectangular wall")
    inertia: SecondMoment | None = Field(default=None, description="Second moment of area")
    shear_area: Area | None = Field(default=None, description="Shear area")
    unit_weight: UnitWeight | None = Field(
        default=None, description="Weight per volume: the wall brings its own weight, half of each "
        "story to the level above and half below; 0 where the loads hold it. Of length and "
        "thickness alone")
    flexural_share: KeptShare = Field(
        default=1.0, description="Share of the gross bending stiffness"
    )
    shear_share: KeptShare = Field(default=1.0, description="Share of the gross shear stiffness")
    flexural_share_for_drift: KeptShare | None = Field(
        default=None, description="Share of the bending stiffness where the forces for drift act, "
        "if another; a second model is then made for them")
    shear_share_for_drift: KeptShare | None = Field(
        default=None, description="Share of the shear stiffness there, if another")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, modulus: Given, poisson: float = 0.2, length: Given | None = None,
            thickness: Given | None = None, inertia: Given | None = None,
            shear_area: Given | None = None, unit_weight: Given | None = None,
            flexural_share: Given = 1.0, shear_share: Given = 1.0,
            flexural_share_for_drift: Given | None = None,
            shear_share_for_drift: Given | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_way(self) -> Cantilever:
        rectangle = (self.length is not None, self.thickness is not None)
        section = (self.inertia is not None, self.shear_area is not None)
        if not ((all(rectangle) and not any(section)) or (all(section) and not any(rectangle))):
            raise PydanticCustomError(
                "advice", "the section is not clear; give either length and thickness, or inertia "
                          "and shear_area"
            )
        if self.unit_weight and not self.length:
            raise PydanticCustomError(
                "advice", "a unit weight goes with length and thickness; give the weight of "
                "another section among the loads")
        if self.length and self.thickness and self.thickness > self.length:
            raise PydanticCustomError("advice", "the thickness is larger than the length; are "
                                                "they swapped?")
        if min(self.bending, self.shear) < 1e-3:  # N m2 and N
            raise PydanticCustomError("advice", "the section has no stiffness in bending or "
                                                "shear; give values above zero")
        return self

    @property
    def for_drift(self) -> Cantilever:
        """The section as it is where the forces for drift act."""
        own = {"flexural_share": self.flexural_share_for_drift,
               "shear_share": self.shear_share_for_drift}
        return self.model_copy(update={k: v for k, v in own.items() if v is not None}) \
            if any(v is not None for v in own.values()) else self

    @property
    def bending(self) -> float:
        """EI in N m2."""
        inertia = self.inertia or (self.thickness or 0.0) * (self.length or 0.0) ** 3 / 12
        return self.modulus * inertia * self.flexural_share

    @property
    def shear(self) -> float:
        """G times shear area, N."""
        area = self.shear_area or 5 / 6 * (self.thickness or 0.0) * (self.length or 0.0)
        return self.modulus / (2 * (1 + self.poisson)) * area * self.shear_share


OneOrMoreStiffness = Annotated[
    Annotated[Stiffness, Tag("one")] | Annotated[tuple[Stiffness, ...], Tag("list")],
    Discriminator(one_or_list),
]
OneOrMoreCantilever = Annotated[
    Annotated[Cantilever, Tag("one")] | Annotated[tuple[Cantilever, ...], Tag("list")],
    Discriminator(one_or_list),
]

OneOrMoreForce = Annotated[
    Annotated[Force, Tag("one")] | Annotated[tuple[Force, ...], Tag("list")],
    Discriminator(one_or_list),
]


class Line(Described):
    """A lateral line at a place and direction in plan, from one level up to another.

    ``stiffness`` is the story stiffness along the line (force over story drift), one value for
    all its stories or a list from the top story down; ``cantilever`` likewise gives the section.

    >>> line = ud.Line(name="Frame A", at=(12, 0), direction="X", bottom="Ground", top="L2",
    ...                stiffness=["300 kip/in", "450 kip/in"])
    >>> [round(k / 1e6, 1) for k in line.by_story(2)]  # MN/m, top down
    [52.5, 78.8]
    """

    name: str = Field(min_length=1, description="Name, unique among the lines")
    at: Point = Field(description="A point of the line in plan [x, y]; its middle, for the drawing")
    direction: Bearing = Field(description='"X", "Y" or the angle from X, such as "30 deg"')
    bottom: str = Field(description="Name of the level it stands on")
    top: str = Field(description="Name of the highest level it is connected to")
    stiffness: OneOrMoreStiffness | None = Field(
        default=None, description="Story stiffness, one value or a list from the top story down"
    )
    cantilever: OneOrMoreCantilever | None = Field(
        default=None,
        description="Section of a shear-flexure cantilever, one or a list from the top down"
    )
    strength: OneOrMoreForce | None = Field(
        default=None,
        description="Lateral strength of the line in each story, one value or a list from "
        "the top story down; where every line has it, weak stories are judged"
    )
    drawn_length: Extent | None = Field(
        default=None, description="Length in plan, for the drawing and "
        "for the extent of the lateral system")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, at: Sequence[Given], direction: Given, bottom: str, top: str,
            stiffness: Given | Sequence[Given] | None = None,
            cantilever: Cantilever | Sequence[Cantilever] | None = None,
            strength: Given | Sequence[Given] | None = None, drawn_length: Given | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_kind(self) -> Line:
        if (self.stiffness is None) == (self.cantilever is None):
            raise PydanticCustomError("advice", "the stiffness of the line is not clear; give "
                                                "either stiffness or cantilever")
        return self

    @property
    def for_drift(self) -> Line:
        """The line as it is where the forces for drift act; itself, if nothing says otherwise."""
        given = self.cantilever
        if given is None:
            return self
        each = given if isinstance(given, tuple) else (given,)
        own = tuple(one.for_drift for one in each)
        if all(new is old for new, old in zip(own, each, strict=True)):
            return self
        return self.model_copy(
            update={"cantilever": own if isinstance(given, tuple) else own[0]})

    def by_story(self, stories: int) -> list[float] | list[Cantilever]:
        """The stiffness or section of each story, top down."""
        given: Any = self.cantilever if self.stiffness is None else self.stiffness
        return list(given) if isinstance(given, tuple) else [given] * stories

    def strengths(self, stories: int) -> list[float]:
        """The lateral strength in each story, top down; not a number where it is not given. N."""
        if self.strength is None:
            return [math.nan] * stories
        given = self.strength
        return list(given) if isinstance(given, tuple) else [given] * stories

    @property
    def plan_length(self) -> float | None:
        """Length to draw: as given, or that of a rectangular wall. m."""
        sections = self.cantilever if isinstance(self.cantilever, tuple) else [self.cantilever]
        wall = next((s.length for s in sections if s and s.length), None)
        return self.drawn_length or wall
