"""Beams in one piece with a slab: how far they span and how much slab lies on either side."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import LineString, Point

from undatum.building.members import Frame, Member
from undatum.record import record

if TYPE_CHECKING:
    from undatum.building.whole import Building

Floats = NDArray[np.float64]
_FAR = 1e3  # m, beyond any floor
_READ_AT = 0.45  # share of the span where the slab beside is read, off beams that meet the middle


@record
class SlabSpan:
    """A beam and the slab beside it. SI.

    ``length`` between its ends and ``clear`` between the faces of columns there, m; ``continues``
    over how many ends another beam goes on; ``left`` and ``right``, seen from its start, half the
    clear distance to the next beam, or all of it to the edge of the slab, m; ``ends_free`` where
    an end rests on nothing.
    """

    member: Member
    length: float
    clear: float
    continues: int
    web: float
    slab: float
    left: float
    right: float
    ends_free: bool


def slab_spans(building: Building, frame: Frame) -> tuple[SlabSpan, ...]:
    """Every beam whose section has a flange, with the slab beside it."""
    wanted = [m for m in frame.members
              if m.kind == "beam" and building.sections[m.section].flange is not None]
    by_level: dict[str, list[Member]] = {}
    for m in frame.members:
        if m.kind == "beam":
            by_level.setdefault(m.level, []).append(m)
    columns: dict[int, list[int]] = {}
    for e in np.flatnonzero(frame.kinds == "column"):
        for node in frame.ends[e]:
            columns.setdefault(int(node), []).append(int(e))
    order = [level.name for level in building.levels]
    return tuple(_span(building, frame, m, by_level[m.level], columns, order.index(m.level))
                 for m in wanted)


def _span(
    building: Building, frame: Frame, m: Member, beams: list[Member],
    columns: dict[int, list[int]], level: int,
) -> SlabSpan:
    section = building.sections[m.section]
    assert section.flange is not None
    assert section.rectangle is not None
    web = section.rectangle[0]
    start, end = np.array(m.start[:2]), np.array(m.end[:2])
    length = float(np.hypot(*(end - start)))
    u = (end - start) / length
    nodes = (int(frame.ends[m.elements[0], 0]), int(frame.ends[m.elements[-1], 1]))
    faces, goes_on, free = 0.0, 0, False
    for node, point, out in zip(nodes, (start, end), (-u, u), strict=True):
        here = columns.get(node, [])
        faces += max((_reach(frame, e, u) for e in here), default=0.0)
        others = [_away(b, point) for b in beams if b is not m]
        others = [v for v in others if v is not None]
        goes_on += any(float(v @ out) > 1 - 1e-6 for v in others)
        free |= not here and not others and not _crossed(beams, m, point)
    sides = [_slab(building, level, m, beams, start + _READ_AT * (end - start), n, web)
             for n in (np.array([-u[1], u[0]]), np.array([u[1], -u[0]]))]
    return SlabSpan(m, length, length - faces, goes_on, web, section.flange.thickness,
                    sides[0], sides[1], free)


def _reach(frame: Frame, e: int, u: Floats) -> float:
    """Half the size of a column along a direction."""
    p = frame.sections[frame.section[e]]
    y, z = frame.axes[e, 1, :2], frame.axes[e, 2, :2]
    return float(p.width * abs(y @ u) + p.depth * abs(z @ u)) / 2


def _away(beam: Member, point: Floats) -> Floats | None:
    """Where a beam runs from a point at its end; ``None`` where it has none there."""
    ends = np.array(beam.start[:2]), np.array(beam.end[:2])
    for near, far in (ends, ends[::-1]):
        if np.hypot(*(near - point)) < 1e-6:
            return np.asarray((far - near) / np.hypot(*(far - near)))
    return None


def _crossed(beams: list[Member], m: Member, point: Floats) -> bool:
    """Whether another beam passes through a point."""
    return any(b is not m and LineString([b.start[:2], b.end[:2]]).distance(Point(point)) < 1e-6
               for b in beams)


def _slab(
    building: Building, level: int, m: Member, beams: list[Member], at: Floats, n: Floats,
    web: float,
) -> float:
    """Slab on one side: half the clear distance to the next beam, or all of it to the edge."""
    near, other = _FAR, 0.0
    for b in beams:
        p, r = np.array(b.start[:2]), np.subtract(b.end[:2], b.start[:2])
        cross = n[0] * r[1] - n[1] * r[0]
        if b is m or abs(cross) < 1e-9 * np.hypot(*r):
            continue
        d = p - at
        away, along = (d[0] * r[1] - d[1] * r[0]) / cross, (d[0] * n[1] - d[1] * n[0]) / cross
        if 1e-6 < away < near and -1e-9 <= along <= 1 + 1e-9:
            p_other = building.section(b.section)
            near, other = float(away), p_other.width
    ray = LineString([at, at + _FAR * n]).intersection(building.outline(level).polygon)
    parts = [g for g in getattr(ray, "geoms", [ray]) if g.length and g.distance(Point(at)) < 1e-6]
    edge = float(parts[0].length) if parts else 0.0
    if near <= edge + 1e-9:
        return max((near - (web + other) / 2) / 2, 0.0)
    return max(edge - web / 2, 0.0)
