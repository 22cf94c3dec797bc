"""Facts of the structure's shape from which a standard judges its regularity."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon

from undatum.analysis.lateral import StaticForces, level_loads
from undatum.building.outline import Outline
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import System
from undatum.standards.answers import DIRECTIONS, Direction, Purpose, ReentrantCorner, ShapeFacts
from undatum.table import Table, column

Floats = NDArray[np.float64]


def shape_facts(
    system: System, outlines: list[Outline],
    statics: Mapping[tuple[Direction, Purpose], StaticForces],
) -> ShapeFacts:
    """Story stiffness, drift ratios, weights and re-entrant corners above the base, top down.

    Stories above the highest mass are left out.

    The stiffness of a story is the story shear of the static forces over the drift they cause at
    the center of mass, without accidental torsion.
    """
    # A level without mass at the top leaves its story without shear: there is nothing to judge.
    above = system.above_base & (np.cumsum(statics["X", "strength"].forces) > 0)
    stiffness, drifts = np.empty((2, int(above.sum()))), np.empty((2, int(above.sum())))
    for axis, d in enumerate(DIRECTIONS):
        forces = statics[d, "strength"].forces
        u = solve_static(system, level_loads(system, d, forces, np.zeros(system.n)))
        drift = np.abs(system.drift_map(system.center_line(), axis) @ u)[above]
        stiffness[axis] = np.cumsum(forces)[above] / np.maximum(drift, 1e-300)
        drifts[axis] = drift / system.story_heights[above]
    names = tuple(n for n, keep in zip(system.levels, above, strict=True) if keep)
    corners = tuple(
        corner for i in np.flatnonzero(above)
        for corner in reentrant_corners(system.levels[i], outlines[i])
    )
    return ShapeFacts(names, statics["X", "strength"].weights[above], stiffness, drifts, corners)


def reentrant_corners(level: str, outline: Outline) -> list[ReentrantCorner]:
    """Every corner of the outer edge that turns inwards, with the projections beyond it.

    A projection is the distance from the corner to the edge of the plan on the side where the
    floor is missing, over the plan dimension along X and along Y.
    """
    edge = Polygon(outline.polygon.exterior)
    points = np.asarray(edge.exterior.coords)[:-1]
    x0, y0, x1, y1 = outline.bounds
    found = []
    for i, p in enumerate(points):
        before, after = p - points[i - 1], points[(i + 1) % len(points)] - p
        if before[0] * after[1] - before[1] * after[0] >= -1e-9 * np.hypot(*before) * np.hypot(
                *after):
            continue  # the outer edge runs counter-clockwise: a left turn is convex
        reach = 1e-3 * min(np.hypot(*before), np.hypot(*after))
        for sx, sy in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
            if not edge.covers(Point(p[0] + sx * reach, p[1] + sy * reach)):
                along_x = (x1 - p[0] if sx > 0 else p[0] - x0) / (x1 - x0)
                along_y = (y1 - p[1] if sy > 0 else p[1] - y0) / (y1 - y0)
                found.append(ReentrantCorner(level, (float(p[0]), float(p[1])), float(along_x),
                                             float(along_y)))
                break
    return found


def shape_table(shape: ShapeFacts) -> Table:
    """Story stiffness, its ratio to the stories above, drift and weight ratios."""
    k, w, n = shape.stiffness, shape.weights, len(shape.levels)

    def above(axis: int, i: int, count: int) -> float | None:
        """Stiffness over the mean of ``count`` stories above."""
        return float(k[axis, i] / k[axis, i - count : i].mean()) if i >= count else None

    return Table(
        "shape",
        "Story stiffness and weight, story by story",
        (
            column("story", "", shape.levels),
            *(col for axis, d in enumerate(DIRECTIONS) for col in (
                column(f"stiffness {d}", "stiffness", k[axis]),
                column(f"over story above, {d}", "ratio", [above(axis, i, 1) for i in range(n)]),
                column(f"over mean of three above, {d}", "ratio",
                       [above(axis, i, 3) for i in range(n)]),
                column(f"drift over story above, {d}", "ratio",
                       [float(shape.drift_ratios[axis, i] / shape.drift_ratios[axis, i - 1])
                        if i else None for i in range(n)]),
            )),
            column("weight over level above", "ratio",
                   [float(w[i] / w[i - 1]) if i else None for i in range(n)]),
        ),
        note="Stiffness is story shear over drift at the center of mass under the static forces, "
        "without accidental torsion.",
    )
