"""Facts of the structure's shape from which a standard judges its regularity."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon

from undatum.analysis.lateral import StaticForces, level_loads
from undatum.analysis.rigidity import Rigidity
from undatum.building.outline import Outline
from undatum.mechanics.solve import solve_static
from undatum.mechanics.system import LateralLine, System
from undatum.standards.answers import DIRECTIONS, Direction, Purpose, ReentrantCorner, ShapeFacts
from undatum.table import Table, column

Floats = NDArray[np.float64]


def shape_facts(
    system: System, outlines: list[Outline],
    statics: Mapping[tuple[Direction, Purpose], StaticForces], rigidity: Rigidity,
    stated: Mapping[str, bool],
) -> ShapeFacts:
    """What regularity is judged from, for the stories above the base, top down.

    Stories above the highest mass are left out. The stiffness of a story is the story shear of
    the static forces over the drift they cause at the center of mass, without accidental torsion.
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
    rows = np.flatnonzero(above)
    b = system.bounds[above]
    static = statics["X", "strength"]
    with np.errstate(divide="ignore", invalid="ignore"):
        gyration = np.sqrt(system.inertia / system.mass)[above]
    return ShapeFacts(
        levels=tuple(system.levels[i] for i in rows),
        weights=static.weights[above],
        heights=static.heights[above],
        stiffness=stiffness,
        drift_ratios=drifts,
        strengths=_strengths(system)[:, above],
        extents=_extents(system)[:, above],
        dimensions=np.array([b[:, 2] - b[:, 0], b[:, 3] - b[:, 1]]),
        bounds=b,
        eccentricities=np.abs(system.centers - rigidity.centers)[above].T,
        radii=rigidity.radii[above].T,
        gyration=gyration,
        openings=np.array([_opening(outlines[i]) for i in rows]),
        recessed=np.array([_recess(outlines[i]) for i in rows]),
        corners=tuple(c for i in rows for c in reentrant_corners(system.levels[i], outlines[i])),
        skew=tuple(line.name for line in system.lines
                   if min(abs(line.axis[0]), abs(line.axis[1])) > 1e-6),
        standing=tuple(line.name for line in system.lines if _stands_alone(line, system)),
        stated=stated,
    )


def _strengths(system: System) -> Floats:
    """(2, n) lateral strength of every story along X and Y, from the lines that cross it."""
    total = np.zeros((2, system.n))
    for line in system.lines:
        total[:, line.levels] += np.abs(line.axis)[:, None] * line.strength
    return total


def _extents(system: System) -> Floats:
    """(2, n) from one end of the lateral lines to the other, not a number without their lengths."""
    low, high = np.full((2, system.n), np.inf), np.full((2, system.n), -np.inf)
    for line in system.lines:
        length = np.nan if line.plan_length is None else line.plan_length
        for axis in (0, 1):
            if abs(line.axis[axis]) > 0.5:
                half = 0.5 * length * abs(line.axis[axis])
                i = line.levels
                low[axis, i] = np.minimum(low[axis, i], line.point[axis] - half)
                high[axis, i] = np.maximum(high[axis, i], line.point[axis] + half)
    return np.where(np.isfinite(high - low), high - low, np.nan)


def _stands_alone(line: LateralLine, system: System) -> bool:
    """Whether a line starts on a floor above the base with no line below it in the same plane."""
    if line.foot >= system.n or not system.above_base[line.foot]:
        return False
    for other in system.lines:
        away = (other.point - line.point) @ np.array([-line.axis[1], line.axis[0]])
        same_plane = abs(float(line.axis @ other.axis)) > 1 - 1e-6 and abs(float(away)) < 0.1
        if other is not line and same_plane and line.foot in other.levels:
            return False
    return True


def _opening(outline: Outline) -> float:
    """Area of the holes over the area within the outer edge."""
    whole = Polygon(outline.polygon.exterior).area
    return float(1.0 - outline.polygon.area / whole)


def _recess(outline: Outline) -> float:
    """Largest single area between the outer edge and its convex hull, over the floor area."""
    edge = Polygon(outline.polygon.exterior)
    rest = edge.convex_hull.difference(edge)
    parts = getattr(rest, "geoms", [rest])
    return max((float(p.area) for p in parts), default=0.0) / float(outline.polygon.area)


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
        "What regularity is judged from, story by story",
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
            *(column(f"strength {d}", "force", shape.strengths[axis])
              for axis, d in enumerate(DIRECTIONS) if np.isfinite(shape.strengths).any()),
            *(col for axis, d in enumerate(DIRECTIONS) for col in (
                column(f"extent of lines {d}", "length", shape.extents[axis]),
                column(f"eccentricity along {d}", "length", shape.eccentricities[axis]),
                column(f"torsional radius with it, {d}", "length", shape.radii[axis]),
            )),
            column("radius of gyration", "length", shape.gyration),
            column("openings", "ratio", shape.openings, 3),
            column("largest recess", "ratio", shape.recessed, 3),
            column("weight over level above", "ratio",
                   [float(w[i] / w[i - 1]) if i else None for i in range(n)]),
        ),
        note="Stiffness is story shear over drift at the center of mass under the static forces, "
        "without accidental torsion.",
    )
