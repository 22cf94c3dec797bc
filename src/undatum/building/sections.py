"""Cross-sections of members: by shape, composed of parts, or by properties.

A member has its local x along it; y and z lie in the section. ``width`` runs along y and ``depth``
along z, so that the vertical load of a beam bends it about y.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from undatum.building import shapes
from undatum.building.axes import advice
from undatum.building.materials import SHIPPED, Material
from undatum.building.shapes import Properties
from undatum.described import Described, Given
from undatum.units import Area, Measure, SecondMoment

Size = Annotated[float, Measure("length", above=0.0, most=20.0, plausible=(2e-3, 4.0))]
Place = Annotated[float, Measure("length", least=-20.0, most=20.0)]
StrutShare = Annotated[float, Measure("ratio", above=0.0, most=0.5, plausible=(0.05, 0.35))]
Tilt = Annotated[float, Measure("angle", least=-3.2, most=3.2)]


def _sizes(value: Any) -> Any:
    """``"600 x 400 mm"``: sizes with one unit behind the last, or one behind each."""
    if not isinstance(value, str):
        return value
    parts = [part.strip() for part in value.replace("×", "x").split("x")]
    unit = parts[-1].lstrip("0123456789.,eE+- ")
    return tuple(part if part[-1:].isalpha() else f"{part} {unit}".strip() for part in parts)


def _schema(count: int, example: str) -> WithJsonSchema:
    size = {"type": ["number", "string"], "x-dimension": "length", "examples": ["600 mm"]}
    return WithJsonSchema({"anyOf": [
        {"type": "string", "examples": [example]},
        {"type": "array", "items": size, "minItems": count, "maxItems": count}]})


Two = Annotated[tuple[Size, Size], BeforeValidator(_sizes), _schema(2, "400 x 600 mm")]
Three = Annotated[
    tuple[Size, Size, Size], BeforeValidator(_sizes), _schema(3, "200 x 300 x 10 mm")]
Four = Annotated[
    tuple[Size, Size, Size, Size], BeforeValidator(_sizes), _schema(4, "200 x 400 x 20 x 10 mm")]


class GivenProperties(Described):
    """A section by its properties; what is left out of the shear areas doesn't deform in shear.

    >>> ud.GivenProperties(area="0.02 m^2", bending_y="2e-4 m^4", bending_z="1e-4 m^4",
    ...                    torsion="1e-6 m^4").bending_y
    0.0002
    """

    area: Area = Field(description="Area")
    bending_y: SecondMoment = Field(description="Second moment of area about local y")
    bending_z: SecondMoment = Field(description="Second moment of area about local z")
    torsion: SecondMoment = Field(description="Torsion constant")
    shear_y: Area | None = Field(default=None, description="Shear area for forces along y")
    shear_z: Area | None = Field(default=None, description="Shear area for forces along z")
    width: Size | None = Field(default=None, description="Dimension along local y, for stiff ends")
    depth: Size | None = Field(default=None, description="Dimension along local z, for stiff ends")
    tilt: Tilt = Field(
        default=0.0, description="Angle by which the principal axes y and z, to which the second "
        "moments belong, are turned from those of an upright section")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, area: Given, bending_y: Given, bending_z: Given, torsion: Given,
            shear_y: Given | None = None, shear_z: Given | None = None,
            width: Given | None = None, depth: Given | None = None, tilt: Given = 0.0,
        ) -> None: ...


class _Shape(Described):
    """One of the shapes, by its sizes."""

    rectangle: Two | None = Field(default=None, description="Width x depth")
    circle: Size | None = Field(default=None, description="Diameter")
    hollow_rectangle: Three | None = Field(default=None, description="Width x depth x thickness")
    hollow_circle: Two | None = Field(default=None, description="Diameter x thickness")
    i_shape: Four | None = Field(
        default=None, description="Flange width x depth x flange thickness x web thickness")
    channel: Four | None = Field(
        default=None, description="Flange width x depth x flange thickness x web thickness")
    tee: Four | None = Field(
        default=None, description="Flange width x depth x flange thickness x web thickness")
    angle: Three | None = Field(
        default=None, description="Leg along y x leg along z x thickness")

    @property
    def shapes(self) -> list[str]:
        """The shapes that are given; one, where all is well."""
        return [name for name in SHAPES if getattr(self, name) is not None]

    def thick(self) -> str:
        """What is wrong with the plates of a shape, if anything."""
        for name in set(self.shapes) & set(_THIN):
            width, depth, flange, web = getattr(self, name)
            flanges = 1 if name == "tee" else 2
            if flanges * flange >= depth or web >= width:
                return "the plates are thicker than the section; write flange width x depth " \
                    "x flange thickness x web thickness"
        if self.hollow_rectangle and 2 * self.hollow_rectangle[2] >= min(self.hollow_rectangle[:2]):
            return "the walls are thicker than half the section; the last size is the thickness"
        if self.hollow_circle and 2 * self.hollow_circle[1] >= self.hollow_circle[0]:
            return "the wall is thicker than half the section; the last size is the thickness"
        if self.angle and self.angle[2] >= min(self.angle[:2]):
            return "the legs are thicker than they are long; the last size is the thickness"
        return ""

    def sized(self) -> Properties:
        """Properties about the axes of the sizes."""
        return SHAPES[self.shapes[0]](getattr(self, self.shapes[0]))


class SectionPart(_Shape):
    """A part of a composed section: one of the shapes at its place.

    >>> ud.SectionPart(rectangle=("200 mm", "20 mm"), at=("0 mm", "100 mm")).at
    (0.0, 0.1)
    """

    at: tuple[Place, Place] = Field(
        default=(0.0, 0.0), description="Place [y, z] of the middle of its sizes")
    material: str | None = Field(
        default=None, min_length=1, description="Its material; that of the section if left out")
    cut_out: bool = Field(
        default=False, description="It is missing in what stands before, such as the room a steel "
        "shape takes in concrete")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, rectangle: str | Sequence[Given] | None = None, circle: Given | None = None,
            hollow_rectangle: str | Sequence[Given] | None = None,
            hollow_circle: str | Sequence[Given] | None = None,
            i_shape: str | Sequence[Given] | None = None,
            channel: str | Sequence[Given] | None = None,
            tee: str | Sequence[Given] | None = None, angle: str | Sequence[Given] | None = None,
            at: Sequence[Given] = (0.0, 0.0), material: str | None = None, cut_out: bool = False,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_shape(self) -> SectionPart:
        if len(self.shapes) != 1:
            raise advice("found " + (" and ".join(self.shapes) or "none")
                         + f"; give one of {', '.join(SHAPES)}")
        if text := self.thick():
            raise advice(text)
        return self


class Flange(Described):
    """Slab in one piece with a rectangular beam, at its top and within its depth.

    >>> ud.Flange(thickness="150 mm", width="1.2 m").width
    1.2
    """

    thickness: Size = Field(description="Thickness of the slab")
    width: Size | None = Field(
        default=None, description="Effective width including the web; by the standard for every "
                                  "beam if left out")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(self, *, thickness: Given, width: Given | None = None) -> None: ...


class Infill(Described):
    """Masonry that fills a bay, as the strut that stands for it: as thick as the wall, and as wide
    as is given, as a share of the clear diagonal says, or as the rule of a standard says.

    >>> ud.Infill(thickness="230 mm", share="12 %").share
    0.12
    """

    thickness: Size = Field(description="Thickness of the infill")
    width: Size | None = Field(default=None, description="Width of the strut")
    share: StrutShare | None = Field(
        default=None, description="Width as a share of the clear diagonal of the bay")
    rule: Literal["by standard", "IS 1893:2016"] | None = Field(
        default=None, description="Rule by which the width follows from bay and columns")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, thickness: Given, width: Given | None = None, share: Given | None = None,
            rule: Literal["by standard", "IS 1893:2016"] | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_width(self) -> Infill:
        given = [k for k in ("width", "share", "rule") if getattr(self, k) is not None]
        if len(given) != 1:
            raise advice("give one of width, share and rule; found "
                         + (" and ".join(given) if given else "none"))
        return self


class CrossSection(_Shape):
    """A section of members and its material: one of the shapes, parts, properties, or an infill.

    Sizes are width (local y) by depth (local z): of a beam, width by height. Where the principal
    axes of a section are not those of its sizes, local y and z of its members are turned to them.

    >>> found = ud.CrossSection(rectangle=("400 mm", "600 mm"), material="C30/37").found()
    >>> found.area, round(found.bending_y, 5)  # b h, b h^3 / 12
    (0.24, 0.0072)
    """

    material: str = Field(min_length=1, description="Name of a material")
    parts: tuple[SectionPart, ...] = Field(
        default=(), description="Parts that bend together; stiffness in terms of the material")
    properties: GivenProperties | None = Field(default=None, description="Properties as given")
    flange: Flange | None = Field(
        default=None, description="Slab that works with a rectangular beam in bending")
    infill: Infill | None = Field(
        default=None, description="Masonry that fills a bay, of braces that stand for it")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, material: str, rectangle: str | Sequence[Given] | None = None,
            circle: Given | None = None, hollow_rectangle: str | Sequence[Given] | None = None,
            hollow_circle: str | Sequence[Given] | None = None,
            i_shape: str | Sequence[Given] | None = None,
            channel: str | Sequence[Given] | None = None,
            tee: str | Sequence[Given] | None = None, angle: str | Sequence[Given] | None = None,
            parts: Sequence[SectionPart] = (), properties: GivenProperties | None = None,
            flange: Flange | None = None, infill: Infill | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_way(self) -> CrossSection:
        given = [*self.shapes, *(["parts"] if self.parts else []),
                 *(["properties"] if self.properties else []),
                 *(["infill"] if self.infill else [])]
        if len(given) != 1:
            raise advice("found " + (" and ".join(given) or "none")
                         + f"; give one of {', '.join(SHAPES)}, parts, properties, infill")
        if text := self.thick():
            raise advice(text)
        if self.flange is not None:
            if self.rectangle is None:
                raise advice("a flange goes with a rectangle; give one, or take the flange out")
            if self.flange.thickness >= self.rectangle[1]:
                raise advice("the flange is thicker than the beam is deep; the depth holds the "
                             "slab")
            if self.flange.width is not None and self.flange.width < self.rectangle[0]:
                raise advice("the flange is narrower than the web; its width holds the web")
        if self.parts and (self.parts[0].cut_out or self._areas() <= 0):
            raise advice("more is cut out than there is; name first what stands, then what is cut "
                         "out of it")
        return self

    def _areas(self) -> float:
        return sum((-1 if p.cut_out else 1) * p.sized().area for p in self.parts)

    def found(self, materials: Mapping[str, Material] = SHIPPED) -> Properties:
        """Its properties about the principal axes, in terms of its own material.

        ``materials`` are needed for parts of others. Raises ValueError where the parts leave
        nothing that bends.
        """
        if self.properties is not None:
            return _given(self.properties)
        if self.infill is not None:
            return self.strut(self.infill.width or self.infill.thickness)
        if not self.parts:
            return shapes.principal(self.sized())
        own = materials[self.material]
        rows = []
        for p in self.parts:
            m, sign = materials[p.material or self.material], -1.0 if p.cut_out else 1.0
            rows.append((p.sized(), sign * m.modulus / own.modulus,
                         sign * m.shear_modulus / own.shear_modulus, *p.at))
        whole = shapes.composed(rows)
        if min(whole.area, whole.bending_y, whole.bending_z, whole.torsion, whole.shear_y,
               whole.shear_z) <= 0:
            raise ValueError("the parts leave nothing that bends; is what is cut out inside the "
                             "part before it?")
        return shapes.principal(whole)

    def flanged(self, width: float) -> Properties:
        """The beam with the slab over an effective width: it bends about y with it, and is the web
        for all else."""
        assert self.rectangle is not None
        assert self.flange is not None
        web, depth = self.rectangle
        whole = shapes.tee((width, depth, self.flange.thickness, web))
        return replace(self.found(), bending_y=whole.bending_y)

    def strut(self, width: float) -> Properties:
        """The strut that stands for an infill."""
        assert self.infill is not None
        return shapes.rectangle((self.infill.thickness, width))

    def rim(self) -> NDArray[np.float64] | None:
        """(k, 2) outermost points along the local axes from the center of area, m.

        ``None`` where the shape is not known, is made of parts or works with a slab.
        """
        if not self.shapes or self.flange is not None:
            return None
        sizes = getattr(self, self.shapes[0])
        p = self.found()
        c, s = np.cos(p.tilt), np.sin(p.tilt)
        return np.asarray(
            (shapes.rim(self.shapes[0], (sizes,) if isinstance(sizes, float) else sizes)
             - p.middle) @ np.array([[c, -s], [s, c]]))

    def profiles(self) -> list[NDArray[np.float64]]:
        """(k, 2) outside of each shape along the local axes from the center of area, m: one, or
        that of every part that stands; the rectangle around properties with width and depth."""
        p = self.found()
        c, s = np.cos(p.tilt), np.sin(p.tilt)
        turn = np.array([[c, -s], [s, c]])
        each: list[tuple[_Shape, tuple[float, float]]] = [(self, (0.0, 0.0))] if self.shapes else [
            (part, part.at) for part in self.parts if not part.cut_out]
        found = []
        for one, at in each:
            sizes = getattr(one, one.shapes[0])
            points = shapes.profile(
                one.shapes[0], (sizes,) if isinstance(sizes, float) else sizes)
            found.append((points + np.asarray(at) - p.middle) @ turn)
        if not found and p.width and p.depth:
            found.append(shapes.profile("rectangle", (p.width, p.depth)))
        return found

    def unit_weight(self, materials: Mapping[str, Material] = SHIPPED) -> float:
        """Weight per volume of the area of :meth:`found`, N/m3. Infills are loads."""
        if self.infill is not None:
            return 0.0
        if not self.parts:
            return materials[self.material].unit_weight
        weight = sum((-1 if p.cut_out else 1) * p.sized().area
                     * materials[p.material or self.material].unit_weight for p in self.parts)
        return weight / self.found(materials).area


def _given(p: GivenProperties) -> Properties:
    rigid = 1e6 * p.area  # does not deform in shear
    return Properties(p.area, p.shear_y or rigid, p.shear_z or rigid, p.bending_y, p.bending_z,
                      p.torsion, p.width or 0.0, p.depth or 0.0, 0.0, p.tilt)


SHAPES: Mapping[str, Callable[[Any], Properties]] = {
    "rectangle": shapes.rectangle, "circle": shapes.circle,
    "hollow_rectangle": shapes.hollow_rectangle, "hollow_circle": shapes.hollow_circle,
    "i_shape": shapes.i_shape, "channel": shapes.channel, "tee": shapes.tee, "angle": shapes.angle,
}
_THIN = ("i_shape", "channel", "tee")
