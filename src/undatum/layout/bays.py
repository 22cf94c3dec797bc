"""Panels of a floor between its beams, and which part of each loads which beam or column."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import affine_transform
from shapely.geometry import LineString, Point, Polygon

from undatum.layout.frame import Frame

Floats = NDArray[np.float64]
THIN = 1e-3  # m: width of the band that stands for a load along the edge, size of a point
NONE = 1e-9  # m2: area that is none
_FINE, _COARSE = 1e-14, 1e-10  # of the largest coordinate: grids that corners are set to
FAR = 1e4  # m, beyond any floor
WALL_STEP = 0.8  # m between nodes of walls that floor loads go to where no beams lead them


class Floor:
    """One level: its beams, the panels between them, the heads of its columns."""

    def __init__(self, frame: Frame, level: int, plane: str | None = None) -> None:
        self.plane = plane
        ends = frame.carriers
        beams = np.flatnonzero((frame.kinds == "beam") & (frame.floors[frame.ends[:, 0]] == level))
        tops = np.flatnonzero(frame.floors[ends[len(frame.ends):, 0]] == level) + len(frame.ends)
        #: Elements of beams, and behind those of the frame the tops of walls.
        self.elements = np.append(beams, tops)
        self.of_wall = self.elements >= len(frame.ends)
        self.start = frame.points[ends[self.elements, 0], :2]
        self.end = frame.points[ends[self.elements, 1], :2]
        self.span = self.end - self.start
        self.length = np.linalg.norm(self.span, axis=1)
        self.along = self.span / self.length[:, None]
        upright = (frame.kinds == "column") & (frame.floors[frame.ends[:, 1]] == level)
        heads = np.unique(np.append(frame.ends[upright, 1], _thinned(frame, ends[tops])))
        self.nodes = np.unique(np.append(ends[self.elements], heads))
        self.at = frame.points[self.nodes, :2]
        #: Heads of columns and nodes along the tops of walls, by their place among the nodes.
        self.heads = np.searchsorted(self.nodes, heads)
        self.carry = self.at[self.heads]
        self.wall_nodes = set(np.searchsorted(self.nodes, ends[tops].ravel()).tolist())
        self.form = b"".join(a.tobytes() for a in (self.carry, self.start, self.span, self.at))
        self.nearest_to: dict[int, Polygon] = {}

    def divided(self) -> Floor:
        """With its panels found, and the columns that none of their edges reaches."""
        # ends to the last digit: panels close only where they meet
        lines = [LineString([a, b]) for a, b in zip(self.start, self.end, strict=True)]
        found = shapely.polygonize(lines) if lines else None
        self.panels: list[Polygon] = [] if found is None else list(found.geoms)
        self.divisions: dict[int, list[tuple[int, Any]]] = {}  # by panel
        self.stretches: dict[int, list[tuple[int, float, float, Any]]] = {}  # around a core
        self.middles = self.start + self.span / 2
        inner = shapely.unary_union(self.panels) if self.panels else Polygon()
        self.inner = inner
        if self.plane is not None:  # all slab lies beside the beams: nothing spans between frames
            self.panels, self.inner = [], Polygon()
            self.outer, self.edges = list(range(len(lines))), np.array(lines)
            self.alone = self._alone(shapely.union_all(lines))
            return self
        edge = shapely.boundary(inner)
        self.outer = [k for k, m in enumerate(self.middles)
                      if self.panels and float(edge.distance(Point(m))) < 1e-6]
        self.edges = np.array([lines[k] for k in self.outer])
        self.alone = self._alone(shapely.union_all([shapely.boundary(p) for p in self.panels]))
        return self

    def _alone(self, edges: Any) -> list[tuple[int, Any]]:
        """Heads of columns, by their place in ``heads``, that no beam of a panel reaches, and the
        floor nearest to each: within its panel, or beyond all panels."""
        away = shapely.distance(shapely.points(self.carry), edges)  # not a number without edges
        found = []
        for i in np.flatnonzero(~(away < 1e-6)).tolist():
            cell, at = self.cell_of(i), Point(self.carry[i])
            within = [panel for panel in self.panels if panel.covers(at)]
            found.append((i, overlap(within[0], cell) if within else without(cell, self.inner)))
        return found

    @staticmethod
    def like(first: Floor, other: Floor) -> Floor:
        """``other`` with the panels of ``first``, which has the same beams in plan."""
        if first is other:
            return other.divided()
        for name in ("panels", "middles", "inner", "outer", "edges", "divisions", "stretches",
                     "alone", "nearest_to"):
            setattr(other, name, getattr(first, name))
        return other

    def beside(self, panel: Polygon) -> list[int]:
        """The beams on the edge of a panel."""
        edge = shapely.boundary(panel)
        return [int(k) for k in np.flatnonzero(
            shapely.dwithin(edge, shapely.points(self.middles), 1e-6))]

    def band(self, k: int, region: Any) -> Any:
        """Of a plane building the part of a region nearer to the line of a beam than to others."""
        across = 1 if self.plane == "X" else 0
        places = np.unique(np.round(self.start[:, across], 6))
        i = int(np.argmin(np.abs(places - self.start[k, across])))
        low = (places[i - 1] + places[i]) / 2 if i else -FAR
        high = (places[i] + places[i + 1]) / 2 if i + 1 < len(places) else FAR
        box = (-FAR, low, FAR, high) if across else (low, -FAR, high, FAR)
        return overlap(region, shapely.box(*box))

    def nearest(self, part: Any) -> int:
        """The outer beam nearest to the center of a part of the floor."""
        away = shapely.distance(part.centroid, self.edges)
        return self.outer[int(np.argmin(away))]

    def local(self, k: int, region: Any) -> Any:
        """A region as seen from a beam: along it, and to its left."""
        (c, s), (x, y) = self.along[k], self.start[k]
        return affine_transform(region, [c, s, -s, c, -c * x - s * y, s * x - c * y])

    def spans(self, panel: Polygon, u: Floats) -> Iterator[tuple[int, Any]]:
        """The part of a panel whose nearer end, along the span ``u``, lies on each beam around it.

        A panel is taken as convex.
        """
        own, v = self.beside(panel), np.array([-u[1], u[0]])
        ring = np.asarray(panel.exterior.coords)
        a, b = ring @ u, ring @ v
        edges = [(a[k], b[k], a[k + 1], b[k + 1], (ring[k] + ring[k + 1]) / 2)
                 for k in range(len(ring) - 1) if abs(b[k + 1] - b[k]) > THIN * 1e-3]

        def on(edge: tuple[float, float, float, float, Floats], at: float) -> float:
            return float(edge[0] + (edge[2] - edge[0]) * (at - edge[1]) / (edge[3] - edge[1]))

        for low, high in pairwise(np.unique(np.round(b, 9))):
            middle = (low + high) / 2
            crossed = sorted((e for e in edges if min(e[1], e[3]) < middle < max(e[1], e[3])),
                             key=lambda e: on(e, middle))
            if len(crossed) < 2:
                continue
            ends = crossed[0], crossed[-1]
            half = [(on(ends[0], c) + on(ends[1], c)) / 2 for c in (low, high)]
            for edge in ends:
                corners = [(on(edge, low), low), (half[0], low), (half[1], high),
                           (on(edge, high), high)]
                k = min(own, key=lambda i: float(np.hypot(*(self.middles[i] - edge[4]))))
                piece = _simple(np.array([s * u + t * v for s, t in corners]))
                if len(piece) > 2:
                    yield k, Polygon(piece)

    def along_span(self, k: int, region: Any, u: Floats) -> tuple[Any, float]:
        """A region as seen from a beam along the span ``u``, and the area of what is seen as 1."""
        (c, s), (x, y) = self.along[k], self.start[k]
        across = float(c * u[1] - s * u[0])
        lean = float(c * u[0] + s * u[1]) / across
        t = np.array([-s, c]) / across  # distance from the beam along the span
        r = np.array([c, s]) - lean * np.array([-s, c])
        return affine_transform(region, [*r, *t, -(r @ (x, y)), -(t @ (x, y))]), abs(across)

    def cell_of(self, i: int) -> Polygon:
        """The part of the plane that is nearer to a column, by its place in ``heads``, than to any
        other."""
        if i not in self.nearest_to:
            p = self.carry[i]
            ring = p + FAR * np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
            away = np.hypot(*(self.carry - p).T)
            for j in np.argsort(away, kind="stable")[1:]:
                if away[j] > 2 * np.hypot(*(ring - p).T).max():
                    break  # the others are too far away to cut anything off
                toward = (self.carry[j] - p) / away[j]
                ring = _clipped(ring, toward, float(toward @ p + away[j] / 2))
            self.nearest_to[i] = Polygon(_simple(ring))
        return self.nearest_to[i]

    def around_columns(self, region: Any) -> Iterator[tuple[int, float]]:
        """Every column head, by its place among the nodes, and the area nearest to it."""
        for i, place in enumerate(self.heads.tolist()):
            area = float(overlap(region, self.cell_of(i)).area)
            if area > NONE:
                yield place, area

    def cells(self, panel: Polygon) -> list[tuple[int, Any]]:
        """The part of a panel nearest to each beam around it. A panel is taken as convex."""
        if id(panel) not in self.divisions:
            self.divisions[id(panel)] = list(self._cells(panel))
        return self.divisions[id(panel)]

    def around_hole(self, panel: Polygon) -> list[tuple[int, float, float, Any]]:
        """Of a panel around a core: beams, stretches of them and the floor nearest to each."""
        if id(panel) not in self.stretches:
            self.stretches[id(panel)] = list(self._around_hole(panel))
        return self.stretches[id(panel)]

    def _around_hole(self, panel: Polygon) -> Iterator[tuple[int, float, float, Any]]:
        own = self.beside(panel)
        at, whose = [], []
        for k in own:
            n = max(int(np.ceil(self.length[k] / 0.5)), 1)
            step = float(self.length[k]) / n
            at.append(self.start[k] + np.outer((np.arange(n) + 0.5) / n, self.span[k]))
            whose += [(k, i * step, (i + 1) * step) for i in range(n)]
        places = np.concatenate(at)
        cells = shapely.get_parts(shapely.voronoi_polygons(
            shapely.multipoints(places), extend_to=panel.envelope))
        nearest = shapely.STRtree(shapely.points(places)).query(cells, predicate="contains")
        for cell, place in nearest.T.tolist():
            piece = overlap(cells[cell], panel)
            if piece.area > NONE:
                yield *whose[place], piece

    def _cells(self, panel: Polygon) -> Iterator[tuple[int, Any]]:
        own = self.beside(panel)
        center = np.array(panel.representative_point().coords[0])
        normals, offsets = [], []
        for k in own:
            normal = np.array([-self.along[k, 1], self.along[k, 0]])
            side = np.sign(normal @ (center - self.start[k])) or 1.0
            normals.append(side * normal)
            offsets.append(float(side * normal @ self.start[k]))
        for i, k in enumerate(own):
            ring = np.asarray(panel.exterior.coords)[:-1]
            for j in range(len(own)):
                cut = normals[i] - normals[j]
                if np.hypot(*cut) > 1e-9:
                    ring = _clipped(ring, cut, offsets[i] - offsets[j])
            ring = _simple(ring)
            if len(ring) > 2:
                yield k, Polygon(ring)


def _thinned(frame: Frame, edges: NDArray[np.intp]) -> NDArray[np.intp]:
    """Nodes along the tops of walls, no more than tell what lies nearest to a wall: ends and
    corners, and between them those nearest to equal parts, whatever the order of the walls."""
    beside: dict[int, list[int]] = {}
    for a, b in edges.tolist():
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    at = frame.points[:, :2]

    def passes(node: int) -> bool:
        if len(beside[node]) != 2:
            return False
        u, v = (at[other] - at[node] for other in beside[node])
        return bool(u @ v < 0) and abs(float(u[0] * v[1] - u[1] * v[0])) < 1e-6 * float(
            np.hypot(*u) * np.hypot(*v))

    kept = {node for node in beside if not passes(node)}
    for start in list(kept):
        for way in beside[start]:
            chain, node = [start, way], way
            while node not in kept:
                node = next(n for n in beside[node] if n != chain[-2])
                chain.append(node)
            reach = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(at[chain], axis=0).T))])
            parts = int(reach[-1] / WALL_STEP + 1e-9)
            for k in range(1, parts):
                away = np.abs(reach - reach[-1] * k / parts)
                kept |= {chain[i] for i in np.flatnonzero(away < away.min() + 1e-6).tolist()}
    return np.array(sorted(kept), dtype=np.intp)


def overlap(one: Any, other: Any) -> Any:
    """What two regions share, their corners on a fine grid.

    Of regions whose corners differ in the last digits the overlay without a grid can be wrong
    unseen: all of one instead of nothing.
    """
    return _on_grid(shapely.intersection, one, other)


def without(one: Any, other: Any) -> Any:
    """A region without another; corners as in :func:`overlap`."""
    return _on_grid(shapely.difference, one, other)


def _on_grid(overlay: Callable[..., Any], one: Any, other: Any) -> Any:
    """Only what has an area: where edges touch, lines are left too."""
    if one.is_empty:
        return one
    far = max(1.0, *map(abs, one.bounds))
    try:
        found = overlay(one, other, grid_size=_FINE * far)
    except shapely.GEOSException:  # a ring that touches itself
        found = overlay(_valid(one), _valid(other), grid_size=_COARSE * far)
    return _areas(found)


def _valid(region: Any) -> Any:
    """A region whose rings don't touch themselves."""
    return _areas(shapely.make_valid(region))


def _areas(found: Any) -> Any:
    if found.geom_type in ("Polygon", "MultiPolygon"):
        return found
    parts = shapely.get_parts(found)
    return shapely.union_all(parts[shapely.get_dimensions(parts) == 2])


def between(region: Any, low: float, high: float) -> Any:
    """The part of a region between two places along a beam; whatever its corners lie on.

    (``clip_by_rect`` is faster, and wrong where a corner lies on the edge but for the last digit.)
    """
    whole = region if region.is_valid else _valid(region)
    return overlap(whole, shapely.box(low, -FAR, high, FAR))


def _simple(ring: Floats) -> Floats:
    """A ring without corners that differ from the one before in the last digits alone."""
    if not len(ring):
        return ring
    apart = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T) > 1e-7
    return np.asarray(ring[apart])


def _clipped(ring: Floats, normal: Floats, offset: float) -> Floats:
    """The part of a convex polygon where ``normal . p <= offset``."""
    if not len(ring):
        return ring
    value = ring @ normal - offset
    if value.max() <= 0:
        return ring  # nothing is cut off, as of most
    kept: list[Floats] = []
    for i in range(len(ring)):
        a, b, p, q = value[i - 1], value[i], ring[i - 1], ring[i]
        if (a <= 0) != (b <= 0):
            kept.append(p + (q - p) * (a / (a - b)))
        if b <= 0:
            kept.append(q)
    return np.array(kept)
