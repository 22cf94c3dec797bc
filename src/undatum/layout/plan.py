"""Facts of the description from which regularity is judged: outlines, and where lines stand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon

from undatum.building.lines import Line
from undatum.building.outline import Outline
from undatum.layout.bays import without
from undatum.layout.frame import Frame
from undatum.layout.whole import Building
from undatum.record import record

Floats = NDArray[np.float64]


@record
class InwardCorner:
    """A corner of a floor that turns inwards, and the plan projections beyond it as ratios."""

    level: str
    at: tuple[float, float]
    along_x: float
    along_y: float


@record
class PlanFacts:
    """What the description tells of each of the ``n`` levels that can move, top down.

    ``openings`` (n,) share of the floor, ``recessed``
    (n,) share of the area within the convex hull, ``corners`` by level. ``skew`` names lines along
    neither axis, ``standing`` lines that start on a floor above the base with none below.
    """

    openings: Floats
    recessed: Floats
    corners: tuple[tuple[InwardCorner, ...], ...]
    skew: tuple[str, ...]
    standing: tuple[str, ...]


@record
class Astray:
    """What lies off the floor it belongs to: its key path, what it is, the level and how far, m."""

    place: str
    what: str
    level: str
    distance: float


def off_the_floor(building: Building) -> tuple[Astray, ...]:
    """Lines, point loads and patches of load that don't lie on their floors, the farthest of each.

    A line may stand up to a meter or 5 % of the floor's size outside the edge, as facades do, and
    in a hole, as cores do; a load may not.
    """
    found: list[Astray] = []
    outlines = [building.outline(k) for k in range(len(building.levels))]
    alike = [id(one.polygon) for one in outlines]  # equal outlines share their polygon
    for i, line in enumerate(building.lines):
        floors = {alike[k]: k for k in reversed(building.span(line))}  # the highest of equal ones
        far, level = max(((_beyond(outlines[k], line.at), -k) for k in floors.values()),
                         default=(0.0, 0))
        if far > 0:
            found.append(Astray(f"building.lines[{i}].at", f"line {line.name}",
                                building.levels[-level].name, far))
    for i, level_of in enumerate(building.levels):
        floor = outlines[i].polygon
        for load in building.loads(i):
            point = None if load.at is None else Point(load.at)
            far = 0.0 if point is None else float(floor.distance(point))
            if load.on is not None:
                rest = without(load.on.polygon, floor)
                if rest.area > 1e-6 * load.on.area:
                    far = max(float(floor.distance(Point(p))) for p in rest.exterior.coords) \
                        if rest.geom_type == "Polygon" else float(floor.hausdorff_distance(rest))
                    far = max(far, float(floor.distance(rest.representative_point())))
            if far > 1e-6:
                found.append(Astray(f"building.levels[{i}]", f"load {load.name}", level_of.name,
                                    far))
    return tuple(found)


def _beyond(outline: Outline, at: tuple[float, float]) -> float:
    """How far a plan point lies outside the edge; nothing up to where facades stand."""
    x0, y0, x1, y1 = outline.bounds
    far = outline.off(at)
    return far if far > max(1.0, 0.05 * max(x1 - x0, y1 - y0)) else 0.0


def plan_facts(building: Building) -> PlanFacts:
    """Read them off a description."""
    n = len(building.levels) - 1
    outlines = [building.outline(i) for i in range(n)]
    distinct = {id(o.polygon): o for o in outlines}  # equal outlines share their polygon
    seen = {key: (opening(o), recess(o), inward_corners(o)) for key, o in distinct.items()}
    shapes = [seen[id(o.polygon)] for o in outlines]
    names = [level.name for level in building.levels]
    spans = [building.span(line) for line in building.lines]
    frame = building.frame
    return PlanFacts(
        np.array([s[0] for s in shapes]), np.array([s[1] for s in shapes]),
        tuple(tuple(InwardCorner(names[i], at, x, y) for at, x, y in s[2])
              for i, s in enumerate(shapes)),
        tuple(line.name for line in building.lines
              if min(abs(np.cos(line.direction)), abs(np.sin(line.direction))) > 1e-6)
        + (() if frame is None else _skewed(frame)),
        tuple(line.name for line, span in zip(building.lines, spans, strict=True)
              if _stands_alone(line, span, building, spans)),
    )


def _skewed(frame: Frame) -> tuple[str, ...]:
    """Axes, or beams and braces off them, that run along neither X nor Y and resist.

    A beam resists with columns at both its ends.
    """
    heads = {int(node) for e in np.flatnonzero(frame.kinds == "column") for node in frame.ends[e]}
    found: dict[str, None] = {}
    for m in frame.members:
        across = np.abs(np.subtract(m.end, m.start)[:2])
        nodes = int(frame.ends[m.elements[0], 0]), int(frame.ends[m.elements[-1], 1])
        if m.kind != "column" and across.min() > 1e-6 * np.hypot(*across) and (
                m.kind == "brace" or heads.issuperset(nodes)):
            found[f"axis {m.axis}" if m.axis else m.name] = None
    return tuple(found)


def _stands_alone(
    line: Line, span: list[int], building: Building, spans: Sequence[list[int]]
) -> bool:
    """Whether a line starts on a floor above the base with no line below it in the same plane."""
    foot = building.below[span[-1]]
    if foot >= building.base_index:
        return False
    axis = np.array([np.cos(line.direction), np.sin(line.direction)])
    for other, own in zip(building.lines, spans, strict=True):
        theirs = np.array([np.cos(other.direction), np.sin(other.direction)])
        away = (np.asarray(other.at) - np.asarray(line.at)) @ np.array([-axis[1], axis[0]])
        same_plane = abs(float(axis @ theirs)) > 1 - 1e-6 and abs(float(away)) < 0.1
        if other is not line and same_plane and foot in own:
            return False
    return True


def opening(outline: Outline) -> float:
    """Area of the holes over the area within the outer edge."""
    whole = Polygon(outline.polygon.exterior).area
    return float(1.0 - outline.polygon.area / whole)


def recess(outline: Outline) -> float:
    """Largest single area between the outer edge and its convex hull, over the floor area."""
    edge = Polygon(outline.polygon.exterior)
    rest = without(edge.convex_hull, edge)
    parts = getattr(rest, "geoms", [rest])
    return max((float(p.area) for p in parts), default=0.0) / float(outline.polygon.area)


def inward_corners(outline: Outline) -> list[tuple[tuple[float, float], float, float]]:
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
                found.append(((float(p[0]), float(p[1])), float(along_x), float(along_y)))
                break
    return found
