"""Cross-sections of members: by shape or by properties.

A member has its local x along it; y and z lie in the section. ``width`` runs along y and ``depth``
along z, so that the vertical load of a beam bends it about y.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Any

import numpy as np
from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from undatum.building.axes import advice
from undatum.described import Described, Given
from undatum.record import record
from undatum.units import Area, Measure, SecondMoment

Size = Annotated[float, Measure("length", above=0.0, most=20.0, plausible=(2e-3, 4.0))]


@record
class Properties:
    """Properties of a section, SI.

    ``area`` m2; ``shear_y``, ``shear_z`` shear areas for forces along y and z, m2; ``bending_y``,
    ``bending_z`` second moments about y and z, m4; ``torsion`` constant, m4; ``width`` along y and
    ``depth`` along z, m; 0 where they are not known.
    """

    area: float
    shear_y: float
    shear_z: float
    bending_y: float
    bending_z: float
    torsion: float
    width: float
    depth: float


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
    """A section by its properties; what is left out of the shear areas doesn't deform in shear."""

    area: Area = Field(description="Area")
    bending_y: SecondMoment = Field(description="Second moment of area about local y")
    bending_z: SecondMoment = Field(description="Second moment of area about local z")
    torsion: SecondMoment = Field(description="Torsion constant")
    shear_y: Area | None = Field(default=None, description="Shear area for forces along y")
    shear_z: Area | None = Field(default=None, description="Shear area for forces along z")
    width: Size | None = Field(default=None, description="Size along local y, for stiff ends")
    depth: Size | None = Field(default=None, description="Size along local z, for stiff ends")

    if TYPE_CHECKING:  # what the constructor takes; the fields hold SI numbers

        def __init__(
            self, *, area: Given, bending_y: Given, bending_z: Given, torsion: Given,
            shear_y: Given | None = None, shear_z: Given | None = None,
            width: Given | None = None, depth: Given | None = None,
        ) -> None: ...


class CrossSection(Described):
    """A section of members and its material: one of the shapes, or properties.

    Sizes are width (local y) by depth (local z): of a beam, width by height.
    """

    material: str = Field(min_length=1, description="Name of a material")
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
    properties: GivenProperties | None = Field(default=None, description="Properties as given")

    if TYPE_CHECKING:  # what the constructor takes; the fields hold SI numbers

        def __init__(
            self, *, material: str, rectangle: str | Sequence[Given] | None = None,
            circle: Given | None = None, hollow_rectangle: str | Sequence[Given] | None = None,
            hollow_circle: str | Sequence[Given] | None = None,
            i_shape: str | Sequence[Given] | None = None,
            channel: str | Sequence[Given] | None = None, tee: str | Sequence[Given] | None = None,
            properties: GivenProperties | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_shape(self) -> CrossSection:
        given = [name for name in SHAPES if getattr(self, name) is not None]
        if len(given) != 1:
            raise advice(f"give one of {', '.join(SHAPES)}; found "
                         + (" and ".join(given) if given else "none"))
        if given[0] in _THIN:
            width, depth, flange, web = getattr(self, given[0])
            flanges = 1 if given[0] == "tee" else 2
            if flanges * flange >= depth or web >= width:
                raise advice("the plates are thicker than the section; write flange width x depth "
                             "x flange thickness x web thickness")
        if self.hollow_rectangle and 2 * self.hollow_rectangle[2] >= min(self.hollow_rectangle[:2]):
            raise advice("the walls are thicker than half the section")
        if self.hollow_circle and 2 * self.hollow_circle[1] >= self.hollow_circle[0]:
            raise advice("the wall is thicker than half the section")
        return self

    def found(self) -> Properties:
        """Its properties."""
        name = next(name for name in SHAPES if getattr(self, name) is not None)
        return SHAPES[name](getattr(self, name))


def _rectangle(sizes: tuple[float, float]) -> Properties:
    """Shear area 5/6 of the area; Saint-Venant's series for torsion (Timoshenko, Goodier)."""
    b, h = sizes
    long, short = max(b, h), min(b, h)
    k = np.arange(1, 60, 2)
    series = float(np.sum(np.tanh(k * np.pi * long / (2 * short)) / k**5))
    torsion = long * short**3 * (1 - 192 * short / (np.pi**5 * long) * series) / 3
    return Properties(b * h, 5 / 6 * b * h, 5 / 6 * b * h, b * h**3 / 12, h * b**3 / 12,
                      float(torsion), b, h)


def _circle(d: float) -> Properties:
    """Shear area 9/10 of the area."""
    area, moment = np.pi * d**2 / 4, np.pi * d**4 / 64
    return Properties(float(area), float(0.9 * area), float(0.9 * area), float(moment),
                      float(moment), float(2 * moment), d, d)


def _hollow_rectangle(sizes: tuple[float, float, float]) -> Properties:
    """The walls along a force carry its shear; Bredt's formula for torsion."""
    b, h, t = sizes
    inner_b, inner_h = b - 2 * t, h - 2 * t
    middle = (b - t) * (h - t)
    return Properties(
        b * h - inner_b * inner_h, 2 * t * b, 2 * t * h, (b * h**3 - inner_b * inner_h**3) / 12,
        (h * b**3 - inner_h * inner_b**3) / 12, 2 * t * middle**2 / (b + h - 2 * t), b, h)


def _hollow_circle(sizes: tuple[float, float]) -> Properties:
    """Half the area carries shear, as in a thin ring."""
    d, t = sizes
    inner = d - 2 * t
    area, moment = np.pi * (d**2 - inner**2) / 4, np.pi * (d**4 - inner**4) / 64
    return Properties(float(area), float(area / 2), float(area / 2), float(moment), float(moment),
                      float(2 * moment), d, d)


def _plates(
    plates: Sequence[tuple[float, float, float, float]], shear_y: float, shear_z: float,
    width: float, depth: float,
) -> Properties:
    """A section of rectangles (size along y, size along z, y and z of the middle).

    The torsion constant is the sum of l t^3 / 3 of thin open plates.
    """
    a, b, y, z = np.array(plates).T
    areas = a * b
    y0, z0 = (areas @ y) / areas.sum(), (areas @ z) / areas.sum()
    torsion = np.maximum(a, b) * np.minimum(a, b) ** 3 / 3
    return Properties(
        float(areas.sum()), shear_y, shear_z,
        float(np.sum(a * b**3 / 12 + areas * (z - z0) ** 2)),
        float(np.sum(b * a**3 / 12 + areas * (y - y0) ** 2)), float(torsion.sum()), width, depth)


def _i_shape(sizes: tuple[float, float, float, float]) -> Properties:
    """The web carries shear along z over the full depth, 5/6 of the flanges that along y."""
    b, h, flange, web = sizes
    at = (h - flange) / 2
    return _plates([(b, flange, 0, at), (b, flange, 0, -at), (web, h - 2 * flange, 0, 0)],
                   5 / 6 * 2 * b * flange, web * h, b, h)


def _channel(sizes: tuple[float, float, float, float]) -> Properties:
    """As the i_shape with the web at one side; the offset of the shear center is left out."""
    b, h, flange, web = sizes
    at = (h - flange) / 2
    return _plates([(b, flange, 0, at), (b, flange, 0, -at),
                    (web, h - 2 * flange, (web - b) / 2, 0)],
                   5 / 6 * 2 * b * flange, web * h, b, h)


def _tee(sizes: tuple[float, float, float, float]) -> Properties:
    """The stem carries shear along z over the full depth, 5/6 of the flange that along y."""
    b, h, flange, web = sizes
    return _plates([(b, flange, 0, (h - flange) / 2), (web, h - flange, 0, -flange / 2)],
                   5 / 6 * b * flange, web * h, b, h)


def _given(p: GivenProperties) -> Properties:
    rigid = 1e6 * p.area  # does not deform in shear
    return Properties(p.area, p.shear_y or rigid, p.shear_z or rigid, p.bending_y, p.bending_z,
                      p.torsion, p.width or 0.0, p.depth or 0.0)


SHAPES: Mapping[str, Callable[[Any], Properties]] = {
    "rectangle": _rectangle, "circle": _circle, "hollow_rectangle": _hollow_rectangle,
    "hollow_circle": _hollow_circle, "i_shape": _i_shape, "channel": _channel, "tee": _tee,
    "properties": _given,
}
_THIN = ("i_shape", "channel", "tee")
