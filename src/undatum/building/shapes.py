"""Properties of sections from their sizes: closed forms, plates, composed parts, principal axes.

y and z lie in the section, ``width`` along y and ``depth`` along z.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from undatum.record import record


@record
class Properties:
    """Properties of a section about its principal axes, SI.

    ``area`` m2; ``shear_y``, ``shear_z`` shear areas for forces along y and z, m2; ``bending_y``,
    ``bending_z`` second moments about y and z, m4; ``torsion`` constant, m4; ``width`` along y and
    ``depth`` along z, m; 0 where they are not known. ``product`` of area about y and z, m4, is
    zero once they are principal axes, turned by ``tilt`` (rad) from those of the sizes; ``middle``
    is the center of area from the middle of the sizes, m.
    """

    area: float
    shear_y: float
    shear_z: float
    bending_y: float
    bending_z: float
    torsion: float
    width: float
    depth: float
    product: float = 0.0
    tilt: float = 0.0
    middle: tuple[float, float] = (0.0, 0.0)


def rectangle(sizes: tuple[float, float]) -> Properties:
    """Shear area 5/6 of the area; Saint-Venant's series for torsion (Timoshenko, Goodier)."""
    b, h = sizes
    long, short = max(b, h), min(b, h)
    k = np.arange(1, 60, 2)
    series = float(np.sum(np.tanh(k * np.pi * long / (2 * short)) / k**5))
    torsion = long * short**3 * (1 - 192 * short / (np.pi**5 * long) * series) / 3
    return Properties(b * h, 5 / 6 * b * h, 5 / 6 * b * h, b * h**3 / 12, h * b**3 / 12,
                      float(torsion), b, h)


def circle(d: float) -> Properties:
    """Shear area 9/10 of the area."""
    area, moment = np.pi * d**2 / 4, np.pi * d**4 / 64
    return Properties(float(area), float(0.9 * area), float(0.9 * area), float(moment),
                      float(moment), float(2 * moment), d, d)


def hollow_rectangle(sizes: tuple[float, float, float]) -> Properties:
    """The walls along a force carry its shear; Bredt's formula for torsion."""
    b, h, t = sizes
    inner_b, inner_h = b - 2 * t, h - 2 * t
    middle = (b - t) * (h - t)
    return Properties(
        b * h - inner_b * inner_h, 2 * t * b, 2 * t * h, (b * h**3 - inner_b * inner_h**3) / 12,
        (h * b**3 - inner_h * inner_b**3) / 12, 2 * t * middle**2 / (b + h - 2 * t), b, h)


def hollow_circle(sizes: tuple[float, float]) -> Properties:
    """Half the area carries shear, as in a thin ring."""
    d, t = sizes
    inner = d - 2 * t
    area, moment = np.pi * (d**2 - inner**2) / 4, np.pi * (d**4 - inner**4) / 64
    return Properties(float(area), float(area / 2), float(area / 2), float(moment), float(moment),
                      float(2 * moment), d, d)


def plates(
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
        float(np.sum(b * a**3 / 12 + areas * (y - y0) ** 2)), float(torsion.sum()), width, depth,
        float(np.sum(areas * (y - y0) * (z - z0))), 0.0, (float(y0), float(z0)))


def i_shape(sizes: tuple[float, float, float, float]) -> Properties:
    """The web carries shear along z over the full depth, 5/6 of the flanges that along y."""
    b, h, flange, web = sizes
    at = (h - flange) / 2
    return plates([(b, flange, 0, at), (b, flange, 0, -at), (web, h - 2 * flange, 0, 0)],
                  5 / 6 * 2 * b * flange, web * h, b, h)


def channel(sizes: tuple[float, float, float, float]) -> Properties:
    """As the i_shape with the web at one side; the offset of the shear center is left out."""
    b, h, flange, web = sizes
    at = (h - flange) / 2
    return plates([(b, flange, 0, at), (b, flange, 0, -at),
                   (web, h - 2 * flange, (web - b) / 2, 0)],
                  5 / 6 * 2 * b * flange, web * h, b, h)


def tee(sizes: tuple[float, float, float, float]) -> Properties:
    """The stem carries shear along z over the full depth, 5/6 of the flange that along y."""
    b, h, flange, web = sizes
    return plates([(b, flange, 0, (h - flange) / 2), (web, h - flange, 0, -flange / 2)],
                  5 / 6 * b * flange, web * h, b, h)


def angle(sizes: tuple[float, float, float]) -> Properties:
    """Legs along y and z that meet at the lower left; each carries the shear along it.

    The offset of the shear center is left out.
    """
    b, h, t = sizes
    return plates([(b, t, 0, (t - h) / 2), (t, h - t, (t - b) / 2, t / 2)],
                  5 / 6 * b * t, 5 / 6 * h * t, b, h)


def composed(parts: Sequence[tuple[Properties, float, float, float, float]]) -> Properties:
    """Parts that bend together: properties, share in stretching, share in shear, and y, z.

    Shares are the modulus and shear modulus over those of the reference material, negative for
    what is cut out; y and z are the place of the middle of the part's sizes. Shear areas and
    torsion constants add up.
    """
    each = [p for p, *_ in parts]
    stretch, slide, y, z = np.array([row[1:] for row in parts]).T
    y, z = y + [p.middle[0] for p in each], z + [p.middle[1] for p in each]
    area = stretch * [p.area for p in each]
    y0, z0 = (area @ y) / area.sum(), (area @ z) / area.sum()
    ends = [(y - p.middle[0] - p.width / 2, y - p.middle[0] + p.width / 2,
             z - p.middle[1] - p.depth / 2, z - p.middle[1] + p.depth / 2)
            for p, y, z in zip(each, y, z, strict=True)]
    left, right, low, high = np.array(ends).T
    return Properties(
        float(area.sum()), float(slide @ [p.shear_y for p in each]),
        float(slide @ [p.shear_z for p in each]),
        float(stretch @ [p.bending_y for p in each] + area @ (z - z0) ** 2),
        float(stretch @ [p.bending_z for p in each] + area @ (y - y0) ** 2),
        float(slide @ [p.torsion for p in each]), float(right.max() - left.min()),
        float(high.max() - low.min()),
        float(stretch @ [p.product for p in each] + area @ ((y - y0) * (z - z0))), 0.0,
        (float(y0 - (left.min() + right.max()) / 2), float(z0 - (low.min() + high.max()) / 2)))


def principal(p: Properties) -> Properties:
    """The same about its principal axes, y turned towards z by at most 45 degrees.

    Shear areas turn as flexibilities do, what couples them left out.
    """
    if abs(p.product) <= 1e-12 * (p.bending_y + p.bending_z):
        return replace(p, product=0.0)
    apart = p.bending_z - p.bending_y
    lead = -1.0 if apart < -1e-9 * (p.bending_y + p.bending_z) else 1.0
    tilt = 0.5 * float(np.arctan2(lead * 2 * p.product, max(lead * apart, 0.0)))
    c, s = np.cos(tilt) ** 2, np.sin(tilt) ** 2
    turn = p.product * np.sin(2 * tilt)
    return replace(
        p, product=0.0, tilt=tilt,
        bending_y=float(p.bending_y * c + p.bending_z * s - turn),
        bending_z=float(p.bending_z * c + p.bending_y * s + turn),
        shear_y=float(1 / (c / p.shear_y + s / p.shear_z)),
        shear_z=float(1 / (c / p.shear_z + s / p.shear_y)))


#: Points of a round rim: a stress between two of them is at most 0.1 % larger.
ROUND = 72


def rim(shape: str, sizes: Sequence[float]) -> NDArray[np.float64]:
    """(k, 2) y and z of the outermost points of a shape from the middle of its sizes, m."""
    if shape in ("circle", "hollow_circle"):
        at = 2 * np.pi * np.arange(ROUND) / ROUND
        return np.asarray(sizes[0] / 2 * np.column_stack([np.cos(at), np.sin(at)]))
    b, h = sizes[0] / 2, sizes[1] / 2
    corners = {"left low": (-b, -h), "right low": (b, -h), "right high": (b, h),
               "left high": (-b, h)}
    if shape == "tee":
        web = sizes[3] / 2
        corners |= {"left low": (-web, -h), "right low": (web, -h)}
    if shape == "angle":
        t = sizes[2]
        del corners["right high"]
        corners |= {"foot": (b, t - h), "head": (t - b, h)}
    return np.array(list(corners.values()))


def profile(shape: str, sizes: Sequence[float]) -> NDArray[np.float64]:
    """(k, 2) y and z around the outside of a shape, from the middle of its sizes, m."""
    if shape in ("circle", "hollow_circle"):
        return rim(shape, sizes)[::6]
    b, h = sizes[0] / 2, sizes[1] / 2
    if shape in ("rectangle", "hollow_rectangle"):
        return rim(shape, sizes)
    if shape == "angle":
        t = sizes[2]
        points = [(-b, -h), (b, -h), (b, t - h), (t - b, t - h), (t - b, h), (-b, h)]
    else:
        flange, web = sizes[2], sizes[3]
        left, right = {"i_shape": (-web / 2, web / 2), "channel": (-b, web - b),
                       "tee": (-web / 2, web / 2)}[shape]
        top = [(right, h - flange), (b, h - flange), (b, h), (-b, h), (-b, h - flange),
               (left, h - flange)]
        low = [(left, -h), (right, -h)] if shape == "tee" else [
            (left, flange - h), (-b, flange - h), (-b, -h), (b, -h), (b, flange - h),
            (right, flange - h)]
        points = [p for k, p in enumerate([*top, *low]) if p not in [*top, *low][:k]]
    return np.array(points)
