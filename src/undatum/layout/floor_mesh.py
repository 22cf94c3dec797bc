"""Floors that deform in their plane, laid out as panels that share the nodes of all that meets
them.

Where a floor and its walls run along X and Y, lines right through it divide it: at its corners and
openings, at every node of walls, columns and beams, and between them to a size. Any other floor,
and one that such lines would divide too finely, is divided into triangles between the same points.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from numpy.typing import NDArray

from undatum.building.deforming import DeformingFloor
from undatum.building.families import XY
from undatum.errors import Fault, InputError
from undatum.layout.panels import CLOSE, Slabs

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
MOST = 300_000  # panels; more is a slip
MANY = 4  # times the panels that the size asks for: beyond, triangles take their place


@dataclass(slots=True)
class FloorLines:
    """Lines of a mesh along X and Y, shared by all floors that deform; ``straight`` are the levels
    that they can divide."""

    x: list[float] = field(default_factory=list)
    y: list[float] = field(default_factory=list)
    straight: frozenset[int] = frozenset()


def is_straight(polygon: Any) -> bool:
    """Whether all edges of a floor run along X or Y."""
    for ring in (polygon.exterior, *polygon.interiors):
        p = np.asarray(ring.coords)
        if (np.abs(np.diff(p, axis=0)).min(axis=1) > CLOSE).any():
            return False
    return True


def floor_lines(
    building: PlainBuilding, deforming: Mapping[int, DeformingFloor], points: Sequence[XY],
    straight: frozenset[int],
) -> FloorLines:
    """Lines through all ``points`` and the corners of the floors, and between them to size."""
    levels = [i for i in deforming if i in straight]
    if not levels:
        return FloorLines()
    corners = [p for i in levels for ring in (
        building.outline(i).polygon.exterior, *building.outline(i).polygon.interiors)
        for p in ring.coords]
    size = min(deforming[i].mesh for i in levels)
    found = [_divided([*(p[k] for p in corners), *(p[k] for p in points)], size) for k in (0, 1)]
    area = max(building.outline(i).area for i in levels)
    if (len(found[0]) - 1) * (len(found[1]) - 1) > MANY * area / size**2 + 100:
        return FloorLines()  # lines of fine walls right through would make too many
    return FloorLines(found[0], found[1], frozenset(levels))


def _divided(places: Sequence[float], size: float) -> list[float]:
    apart: list[float] = []
    for at in sorted(places):
        if not apart or at - apart[-1] > 10 * CLOSE:
            apart.append(at)
    found = apart[:1]
    for a, b in pairwise(apart):
        n = max(int(np.ceil((b - a) / size - 1e-6)), 1)
        found += [a + (b - a) * j / n for j in range(1, n)] + [b]
    return found


def lay_floors(
    building: PlainBuilding, deforming: Mapping[int, DeformingFloor], lines: FloorLines,
    node: Callable[[int, XY], int], points: list[tuple[float, float, float]], floors: list[int],
) -> Slabs | None:
    """Every floor that deforms as panels. Raises InputError where there are too many."""
    parts: list[tuple[int, list[tuple[int, int, int, int]]]] = []
    for i, one in deforming.items():
        polygon = building.outline(i).polygon
        own = _by_lines(polygon, lines, i, node) if i in lines.straight else \
            _by_triangles(polygon, one, i, node, points, floors)
        parts.append((i, own))
    count = sum(len(own) for _, own in parts)
    if count > MOST:
        raise InputError([Fault("diaphragms", f"the floors make {count} panels", "give them a "
                                f"larger mesh, so that there are no more than {MOST}")])
    nodes = np.array([n for _, own in parts for n in own], dtype=np.intp).reshape(-1, 4)
    level = np.repeat([i for i, _ in parts], [len(own) for _, own in parts])
    sizes = {i: one.sizes(None if one.material is None else building.material(one.material))
             for i, one in deforming.items()}
    return Slabs(nodes, level, np.array([sizes[i] for i in level.tolist()]).reshape(-1, 3))


def _by_lines(
    polygon: Any, lines: FloorLines, level: int, node: Callable[[int, XY], int],
) -> list[tuple[int, int, int, int]]:
    x0, y0, x1, y1 = polygon.bounds
    x = [v for v in lines.x if x0 - CLOSE < v < x1 + CLOSE]
    y = [v for v in lines.y if y0 - CLOSE < v < y1 + CLOSE]
    mx, my = (np.add(v[:-1], v[1:]) / 2 for v in (x, y))
    inside = shapely.contains_xy(polygon, *np.meshgrid(mx, my, indexing="ij"))
    return [(node(level, (x[i], y[j])), node(level, (x[i + 1], y[j])),
             node(level, (x[i + 1], y[j + 1])), node(level, (x[i], y[j + 1])))
            for i, j in np.argwhere(inside).tolist()]


def _by_triangles(
    polygon: Any, one: DeformingFloor, level: int, node: Callable[[int, XY], int],
    points: list[tuple[float, float, float]], floors: list[int],
) -> list[tuple[int, int, int, int]]:
    size = one.mesh
    fixed = np.array([points[n][:2] for n, f in enumerate(floors) if f == level]).reshape(-1, 2)
    inside = shapely.intersects_xy(polygon.buffer(CLOSE), fixed[:, 0], fixed[:, 1])
    places = [fixed[inside]]
    for ring in (polygon.exterior, *polygon.interiors):
        corners = np.asarray(ring.coords)
        for p, q in pairwise(corners):
            length = float(np.hypot(*(q - p)))
            on = [0.0, length]  # what stands on the edge divides it
            u = (q - p) / length
            for at in fixed:
                s, across = float((at - p) @ u), float(u[0] * (at - p)[1] - u[1] * (at - p)[0])
                if abs(across) < 10 * CLOSE and 0 < s < length:
                    on.append(s)
            places.append(p + np.outer(_divided(on, size), u))
    x0, y0, x1, y1 = polygon.bounds
    grid = np.array(np.meshgrid(np.arange(x0, x1 + size, size), np.arange(y0, y1 + size, size))
                    ).reshape(2, -1).T
    from scipy.spatial import Delaunay  # slow to load, and few buildings need it

    edge = np.concatenate(places)
    clear = shapely.distance(shapely.points(grid), shapely.multipoints(edge)) > 0.6 * size
    grid = grid[clear & shapely.contains_xy(polygon, grid[:, 0], grid[:, 1])]
    _, first = np.unique(np.round(np.concatenate([edge, grid]) / CLOSE / 10), axis=0,
                         return_index=True)
    every = np.concatenate([edge, grid])[first]  # in an order of their own: equal distances tie
    corners3 = Delaunay(every).simplices
    a, b, c = (every[corners3[:, k]] for k in range(3))
    area = ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]) / 2
    middle = (a + b + c) / 3
    keep = shapely.contains_xy(polygon, middle[:, 0], middle[:, 1]) & (np.abs(area) > 1e-6)
    turned = np.where(area[:, None] > 0, corners3, corners3[:, ::-1])[keep]
    numbers = [node(level, (float(x), float(y))) for x, y in every.tolist()]
    return [(numbers[i], numbers[j], numbers[k], numbers[k]) for i, j, k in turned.tolist()]
