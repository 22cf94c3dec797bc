"""Floor loads on beams: every square meter lands on a beam or a node, or is named.

Beams divide a floor into panels. In a panel each point loads the nearest beam (two-way), or the
beam at the nearer end of its span (one-way); a load at a point goes to the two beams on a line
through it, across the nearest one or along the span, by the lever; slab beyond the last beam loads
that beam with its torque, at corners the node with its moments. A column that no beam reaches takes
the floor nearest to it, within its panel; a load at a point there goes to it and to the beam beyond
by the lever. A floor whose beams enclose no panel goes straight to the nearest column.
In a plane building all slab lies beside the frames and comes without torque.
What a load is in plan, a part of the floor, a line along the edge or a point, only changes the
region and the pressure.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Protocol

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array, csc_array, diags_array
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import spsolve
from shapely.affinity import affine_transform
from shapely.geometry import LineString, Point, Polygon

from undatum.building.cases import MemberLoad
from undatum.building.level import Level
from undatum.building.loads import Load
from undatum.building.outline import Outline
from undatum.errors import AnalysisError
from undatum.layout.acting import member_landing
from undatum.layout.bays import FAR, NONE, THIN, Floor, between, overlap, without
from undatum.layout.frame import Frame
from undatum.layout.groups import Naming, by_kind
from undatum.layout.landed import Landed, both, over_nodes
from undatum.layout.whole import Building
from undatum.record import record
from undatum.units import said

HAIR = 1e-9  # m
Floats = NDArray[np.float64]
#: Beam or element, both ends of the stretch, the load at both, the torque at both.
_OnLine = tuple[int, float, float, float, float, float, float]
#: Node, force, moments about X and Y.
_OnPoint = tuple[int, float, float, float]


@record
class Balance:
    """What a kind of load is on a level and what of it landed: N, and centers in plan, m."""

    level: str
    kind: str
    given: float
    landed: float
    shift: float  # distance between the center of what was given and of what landed, m


@record
class TakeDown:
    """Loads on the members by their names, kinds or groups, and the balance by level and kind."""

    kinds: tuple[str, ...]
    landed: tuple[Landed, ...]
    balance: tuple[Balance, ...]


class Loaded(Protocol):
    """What the loads of a building are told by."""

    @property
    def levels(self) -> Sequence[Level]: ...
    @property
    def member_loads(self) -> Sequence[MemberLoad]: ...
    @property
    def self_weight(self) -> bool: ...
    @property
    def plane(self) -> str | None: ...
    def loads(self, i: int) -> Sequence[Load]: ...
    def outline(self, i: int) -> Outline: ...


@dataclass(frozen=True)
class FloorsOnly:
    """A building with other loads on its floors, by level, and nothing else."""

    building: Building
    on: Sequence[Sequence[Load]]
    member_loads: tuple[MemberLoad, ...] = ()
    self_weight: bool = False

    @property
    def levels(self) -> Sequence[Level]:
        return self.building.levels

    @property
    def plane(self) -> str | None:
        return self.building.plane

    def loads(self, i: int) -> Sequence[Load]:
        return self.on[i]

    def outline(self, i: int) -> Outline:
        return self.building.outline(i)


class _Landing:
    """What landed of a unit pressure, by form of the floor, region and path; and floors by form."""

    __slots__ = ("parts",)

    def __init__(self) -> None:
        known: dict[object, tuple[list[_OnLine], list[_OnPoint], Floats]] = {}
        floors: dict[bytes, Floor] = {}
        self.parts = known, floors


def take_down(building: Loaded, frame: Frame, named: Naming = by_kind) -> TakeDown:
    """Every load of every level above the lowest, on the members, by what it is ``named``.

    Raises AnalysisError where more lands than lies there.
    """
    n = len(building.levels) - 1
    kinds = list(dict.fromkeys(
        named(i, load) for i in range(n) for load in building.loads(i)))
    own = named(-1, None)
    if building.self_weight and own not in kinds:
        kinds.insert(0, own)
    lines: dict[str, list[_OnLine]] = {k: [] for k in kinds}
    points: dict[str, list[_OnPoint]] = {k: [] for k in kinds}
    balance = []
    # of a frame, whatever lies on it; floors that are alike share theirs
    known, floors = frame.memo.get("landing", _Landing).parts
    for i in range(n):
        floor = Floor(frame, i, building.plane)
        floor = Floor.like(floors.setdefault(floor.form, floor), floor)
        outline = building.outline(i)
        sums: dict[str, Floats] = {}
        for load in building.loads(i):
            region, pressure = region_of(load, outline)
            given = float(region.area) * pressure
            key = floor.form, region.wkb, load.at, load.path
            if key not in known:
                found = _landing(floor, region, load.at, load.path)
                known[key] = *found, _sums(floor, *found)
            on_lines, on_points, landed_here = known[key]
            name = named(i, load)
            if pressure:
                lines[name] += [
                    (int(floor.elements[k]), low, high, pressure * first, pressure * last,
                     pressure * turn, pressure * turned)
                    for k, low, high, first, last, turn, turned in on_lines]
                points[name] += [
                    (int(floor.nodes[j]), pressure * force, pressure * about_x, pressure * about_y)
                    for j, force, about_x, about_y in on_points]
            center = np.array(region.centroid.coords[0])
            sums[load.kind] = sums.get(load.kind, np.zeros(6)) + np.array(
                [given, *(given * center), *(pressure * landed_here)])
        for kind, (given, gx, gy, landed, lx, ly) in sums.items():
            away = np.hypot((gx / given - lx / landed) * (building.plane != "Y"),
                            (gy / given - ly / landed) * (building.plane != "X")) \
                if given and landed else 0.0
            balance.append(Balance(building.levels[i].name, kind, float(given), float(landed),
                                   float(away)))
            if abs(landed) > abs(given) * (1 + 1e-4):
                raise AnalysisError(
                    f"On {building.levels[i].name} {said(landed, 'force')} of {kind} is "
                    f"transferred to members, more than the {said(given, 'force')} that lie there. "
                    "Look for corners of outlines, loads or beams that all but meet, and let them "
                    "meet.")
    packed: dict[str, Landed] = {k: _packed(k, lines[k], points[k], frame) for k in kinds}
    if building.self_weight:
        packed[own] = both(packed[own], _own_weight(own, frame))
    landing = member_landing(building, frame, named) if isinstance(building, Building) else {}
    for name, more in landing.items():
        packed[name] = both(packed[name], more) if name in packed else more
    return TakeDown(tuple(packed), tuple(packed.values()), tuple(balance))


@record
class PanelFaults:
    """Levels whose loads find neither beams nor columns to go to, levels with beams that enclose no
    panel, so that all goes straight to the columns, and levels with a panel that isn't convex."""

    bare: tuple[str, ...]
    passed: tuple[str, ...]
    bent: tuple[str, ...]


def panel_faults(building: Building, frame: Frame) -> PanelFaults:
    """Where the way of floor loads to members is cut off, or rough."""
    bare, passed, bent = [], [], []
    seen: dict[bytes, tuple[bool, bool]] = {}
    for i, level in enumerate(building.levels[:-1]):
        paths = {load.path for load in building.loads(i)
                 if load.per_area or load.per_edge or load.total}
        if not paths:
            continue
        floor = Floor(frame, i, building.plane)
        straight = paths == {"columns"}
        if not straight and floor.form not in seen:
            panels = floor.divided().panels
            seen[floor.form] = bool(floor.outer), any(
                p.convex_hull.area > p.area * (1 + 1e-6) for p in panels)
        enclosed, not_convex = (False, False) if straight else seen[floor.form]
        if not enclosed and not len(floor.heads):
            bare.append(level.name)
        elif not enclosed and not straight and not floor.of_wall.all():
            passed.append(level.name)
        if not_convex:
            bent.append(level.name)
    return PanelFaults(tuple(bare), tuple(passed), tuple(bent))


@record
class ColumnShares:
    """Floor loads in full, column by column: the level at the top, what ``landed`` on its head by
    statics, beams between columns as levers, and what lies on the floor ``nearest`` to it, N."""

    columns: tuple[str, ...]
    levels: tuple[str, ...]
    landed: Floats
    nearest: Floats

    @property
    def apart(self) -> NDArray[np.bool_]:
        """Which columns get a fifth more or less than lies on the floor nearest to them."""
        none = 1e-6 * self.nearest.max(initial=0.0)
        return np.asarray(np.abs(self.landed - self.nearest) > 0.2 * self.nearest + none)


def column_shares(building: Building, frame: Frame) -> ColumnShares:
    """What lands on the head of every column, beside the floor area nearest to it."""
    n = len(building.levels) - 1
    loads = [building.loads(i) for i in range(n)]
    taken = take_down(FloorsOnly(building, loads), frame)
    landed = _at_heads(frame, np.sum([over_nodes(frame, one) for one in taken.landed], axis=0)
                       if taken.landed else np.zeros(len(frame.points)))
    nearest = np.zeros(len(frame.points))
    areas: dict[tuple[bytes, bytes], tuple[tuple[int, float], ...]] = {}
    floors: dict[bytes, Floor] = {}
    for i in range(n):
        floor = Floor(frame, i, building.plane)
        known = floors.setdefault(floor.form, floor)
        for load in loads[i]:
            region, pressure = region_of(load, building.outline(i))
            key = floor.form, region.wkb
            if key not in areas:
                areas[key] = tuple(known.around_columns(region))
            for place, area in areas[key]:
                nearest[floor.nodes[place]] += pressure * area
    on_walls = set() if frame.panels is None else set(frame.panels.nodes.ravel().tolist())
    columns = [m for m in frame.members if m.kind == "column"
               and int(frame.ends[m.elements[-1], 1]) not in on_walls]  # those stand in walls
    heads = np.array([frame.ends[m.elements[-1], 1] for m in columns], dtype=np.intp)
    return ColumnShares(tuple(m.name for m in columns), tuple(m.level for m in columns),
                        landed[heads], nearest[heads])


def _at_heads(frame: Frame, load: Floats) -> Floats:
    """(M,) vertical load of the nodes brought along the beams to the heads of columns.

    What stands on a node between goes to its neighbors by the lever; where beams cross, as in a
    net of strings that are pulled alike.
    """
    kinds = frame.kinds
    beams = frame.ends[kinds == "beam"]
    heads = np.zeros(len(frame.points), dtype=bool)
    heads[frame.ends[kinds == "column", 1]] = True
    heads[frame.carriers[len(frame.ends):]] = True
    weight = 1.0 / frame.lengths[kinds == "beam"]
    count = len(frame.points)
    net = coo_array((weight, tuple(beams.T)), shape=(count, count)).tocsr()
    net = net + net.T
    _, part = connected_components(net, directed=False)
    between = np.flatnonzero(~heads & np.isin(part, part[heads]))
    found = np.where(heads, load, 0.0)
    if between.size:
        stiffness = diags_array(np.asarray(net.sum(axis=1)).ravel()) - net
        sag = spsolve(csc_array(stiffness[between][:, between]), load[between])
        found += np.where(heads, net[:, between] @ np.atleast_1d(sag), 0.0)
    return np.asarray(found)


def region_of(load: Load, outline: Outline) -> tuple[Any, float]:
    """Where a load acts in plan and its pressure, N/m2."""
    whole = outline.polygon
    if load.per_area is not None:
        return (load.on.polygon if load.on else whole), load.per_area
    if load.per_edge is not None:
        ring = Polygon(whole.exterior)
        band = without(ring, ring.buffer(-THIN, join_style="mitre"))
        return band, load.per_edge * float(ring.length) / float(band.area)
    total = load.total or 0.0
    if load.at is not None:
        x, y = load.at
        spot = shapely.box(x - THIN, y - THIN, x + THIN, y + THIN)
        return spot, total / float(spot.area)
    return whole, total / float(whole.area)


def _landing(
    floor: Floor, region: Any, at: tuple[float, float] | None, path: str
) -> tuple[list[_OnLine], list[_OnPoint]]:
    """A region with a unit pressure on the beams and nodes of a floor, by their place in it."""
    lines: list[_OnLine] = []
    points: list[_OnPoint] = []
    if path == "columns" or not floor.outer:
        return lines, [(j, area, 0.0, 0.0) for j, area in floor.around_columns(region)]
    span = {"one-way X": np.array([1.0, 0.0]), "one-way Y": np.array([0.0, 1.0])}.get(path)
    if at is not None:
        inside = [panel for panel in floor.panels if panel.covers(Point(at))]
        if inside:
            among = [i for i, _ in floor.alone if inside[0].covers(Point(floor.carry[i]))]
            spot, force = np.array(at), float(region.area)
            return _by_column(floor, inside[0], spot, force, among) if among else (
                _by_lever(floor, inside[0], spot, force, span), points)
    for i, cell in floor.alone:
        own = overlap(region, cell)
        if own.area > NONE:
            points.append((int(floor.heads[i]), float(own.area), 0.0, 0.0))
            region = without(region, cell)
    rest = without(region, floor.inner)
    for panel in floor.panels:
        if region.intersects(panel):
            whole = region.covers(panel)
            if panel.interiors and span is None:
                for k, low, high, cell in floor.around_hole(panel):
                    area = float((cell if whole else overlap(cell, region)).area)
                    if area > NONE:
                        lines.append((k, low, high, *(2 * (area / (high - low),)), 0.0, 0.0))
                continue
            for k, cell in floor.cells(panel) if span is None else floor.spans(panel, span):
                piece = cell if whole else overlap(cell, region)
                _along(floor, k, piece, lines, torque=False, span=span)
    for k in floor.outer:
        if rest.area < NONE:
            break
        own = rest if floor.plane is None else floor.band(k, rest)
        seen = floor.local(k, own)
        # a hair inside, so that strips at both sides of the floor don't hang together by one
        strip = between(seen, HAIR, float(floor.length[k]) - HAIR)
        (c, s), (x, y) = floor.along[k], floor.start[k]
        near = [part for part in (affine_transform(p, [c, -s, s, c, x, y])
                                  for p in shapely.get_parts(strip) if p.area > NONE)
                if floor.plane is not None or floor.nearest(part) == k]
        # beside a wall the slab goes on to columns, where there are any
        hangs = floor.plane is None and not (floor.of_wall[k] and floor.alone)
        for piece in near:
            _along(floor, k, piece, lines, torque=hangs)
            rest = without(rest, piece.buffer(2 * HAIR, join_style="mitre"))
    for part in shapely.get_parts(rest):
        if part.area > NONE:
            center = np.array(part.centroid.coords[0])
            j = int(np.argmin(np.linalg.norm(floor.at - center, axis=1)))
            force, arm = float(part.area), center - floor.at[j]
            if floor.alone and j in floor.wall_nodes:
                arm = np.zeros(2)
            points.append((j, force, -force * arm[1], force * arm[0]))
    return lines, points


def _by_column(
    floor: Floor, panel: Polygon, at: Floats, force: float, among: list[int],
) -> tuple[list[_OnLine], list[_OnPoint]]:
    """A load at a point of a panel with columns inside: on the nearest of them and on the beam
    that the line from it through the point meets."""
    i = min(among, key=lambda j: float(np.hypot(*(floor.carry[j] - at))))
    head = floor.carry[i]
    away = float(np.hypot(*(at - head)))
    share, lines = 0.0, []
    if away > THIN:
        ray = LineString([head, head + 2 * FAR * (at - head) / away])
        end = np.array(shapely.shortest_line(Point(at), ray.intersection(
            shapely.boundary(panel))).coords[-1])
        share = min(away / float(np.hypot(*(end - head))), 1.0)
        lines = [_at_point(floor, floor.beside(panel), end, share * force)]
    return lines, [(int(floor.heads[i]), (1 - share) * force, 0.0, 0.0)]


def _at_point(floor: Floor, own: list[int], at: Floats, force: float) -> _OnLine:
    """A force at a point of the nearest of some beams, over a band as narrow as none."""
    edges = [LineString([floor.start[k], floor.start[k] + floor.span[k]]) for k in own]
    k = own[int(np.argmin(shapely.distance(Point(at), np.array(edges))))]
    s = float(np.clip((at - floor.start[k]) @ floor.along[k], 0.0, floor.length[k]))
    low, high = max(s - THIN, 0.0), min(s + THIN, float(floor.length[k]))
    return k, low, high, *(2 * (force / (high - low),)), 0.0, 0.0


def _by_lever(
    floor: Floor, panel: Polygon, at: Floats, force: float, span: Floats | None,
) -> list[_OnLine]:
    """A load at a point of a panel, on the beams at both ends of a line through it."""
    own = floor.beside(panel)
    edges = [LineString([floor.start[k], floor.start[k] + floor.span[k]]) for k in own]
    away = shapely.distance(Point(at), np.array(edges))
    near = int(np.argmin(away))
    normal = np.array([-floor.along[own[near], 1], floor.along[own[near], 0]]) \
        if span is None else span
    chord = LineString([at - 1e4 * normal, at + 1e4 * normal]).intersection(panel)
    ends = np.asarray(chord.coords) if chord.geom_type == "LineString" else np.array([at, at])
    length = float(np.hypot(*(ends[-1] - ends[0])))
    share = float(np.hypot(*(at - ends[0]))) / length if length > THIN else 0.0
    return [_at_point(floor, own, end, part * force)
            for end, part in ((ends[0], 1 - share), (ends[-1], share)) if part > 0]


def _along(
    floor: Floor, k: int, piece: Any, lines: list[_OnLine], *, torque: bool,
    span: Floats | None = None,
) -> None:
    """A piece of floor under a unit pressure as a load along a beam, stretch by stretch between
    its corners.

    It comes straight across, or along the ``span`` of the slab.
    """
    length, size = float(floor.length[k]), 1.0
    if span is None:
        seen = floor.local(k, piece)
    else:
        seen, size = floor.along_span(k, piece, span)
    own = between(seen, 0.0, length)
    for part in shapely.get_parts(own):  # beams in one line share a piece, each its stretch of it
        if part.geom_type != "Polygon" or part.area < NONE:
            continue
        corners = np.clip(np.concatenate(
            [np.asarray(r.coords)[:, 0] for r in (part.exterior, *part.interiors)]), 0.0, length)
        stops = np.unique(np.round(corners, 9))
        whole = len(stops) == 2
        for s0, s1 in pairwise(stops):
            if s1 - s0 < 1e-7:
                continue
            slice_ = part if whole else between(part, float(s0), float(s1))
            area = float(slice_.area)
            if area < 1e-3 * NONE:
                continue
            center = slice_.centroid
            mean, lean = area / (s1 - s0), 6 * (center.x - (s0 + s1) / 2) / (s1 - s0)
            lines.append((k, float(s0), float(s1),
                          size * mean * (1 - lean), size * mean * (1 + lean),
                          *(_turning(slice_, float(s0), float(s1), size) if torque
                            else (0.0, 0.0))))


def _turning(piece: Any, low: float, high: float, size: float) -> tuple[float, float]:
    """Torque per length at both ends of a stretch, of a piece beside a beam under a unit pressure:
    linear, with the sum and the first moment along the beam of what lies there."""
    first, product = 0.0, 0.0  # integrals of y and of (x - middle) y
    for ring, sign in ((piece.exterior, 1.0), *((r, -1.0) for r in piece.interiors)):
        x, y = np.asarray(ring.coords)[:, :2].T
        x = x - (low + high) / 2
        cross = x[:-1] * y[1:] - x[1:] * y[:-1]
        sign *= 1.0 if cross.sum() >= 0 else -1.0
        first += sign * float(cross @ (y[:-1] + y[1:])) / 6
        product += sign * float(cross @ (x[:-1] * y[1:] + 2 * x[:-1] * y[:-1]
                                         + 2 * x[1:] * y[1:] + x[1:] * y[:-1])) / 24
    mean, lean = first / (high - low), 6 * product / (high - low) ** 2
    return -size * (mean - lean), -size * (mean + lean)


def _own_weight(name: str, frame: Frame) -> Landed:
    """Weight of beams and columns along their axes, of braces half at each end, of panels a
    quarter at each corner."""
    area = np.array([p.area for p in frame.sections])[frame.section]
    weight, lengths = area * frame.materials[frame.section, 2], frame.lengths
    brace = frame.kinds == "brace"
    e, upright = np.flatnonzero(~brace & (weight > 0)), np.flatnonzero(brace & (weight > 0))
    load = np.repeat(-(weight[e, None] * frame.axes[e, :, 2])[:, None], 2, axis=1)
    forces = np.zeros((2 * upright.size, 6))
    forces[:, 2] = -np.repeat(weight[upright] * lengths[upright] / 2, 2)
    nodes = frame.ends[upright].ravel()
    if frame.panels is not None:
        of_walls = np.zeros((4 * len(frame.panels), 6))
        of_walls[:, 2] = -np.repeat(frame.panels.weights / 4, 4)
        forces = np.concatenate([forces, of_walls])
        nodes = np.concatenate([nodes, frame.panels.nodes.ravel()])
    return Landed(name, e, np.column_stack([np.zeros(e.size), lengths[e]]), load,
                  np.zeros((e.size, 2)), nodes, forces,
                  of_panels=frame.panels is not None)


def _sums(floor: Floor, lines: list[_OnLine], points: list[_OnPoint]) -> Floats:
    """Total and first moments in plan of what landed on a floor."""
    total = np.zeros(3)
    if lines:
        k = np.array([one[0] for one in lines])
        s0, s1, w0, w1, t0, t1 = np.array([one[1:] for one in lines]).T
        force, along = (w0 + w1) / 2 * (s1 - s0), floor.along[k]
        middle = s0 + (s1 - s0) * (w0 + 2 * w1) / np.maximum(3 * (w0 + w1), 1e-300)
        left = np.column_stack([-along[:, 1], along[:, 0]])
        at = force[:, None] * (floor.start[k] + along * middle[:, None]) \
            - ((t0 + t1) / 2 * (s1 - s0))[:, None] * left
        total += [force.sum(), *at.sum(axis=0)]
    for j, size, about_x, about_y in points:
        total += [size, *(size * floor.at[j] + np.array([about_y, -about_x]))]
    return total


def _on_tops(a: Floats, frame: Frame) -> Floats:
    """(2 k, 4) what lies along the tops of walls, on the nodes at both ends by the lever."""
    ends = frame.carriers[a[:, 0].astype(np.intp)]
    p, q = frame.points[ends[:, 0], :2], frame.points[ends[:, 1], :2]
    length = np.linalg.norm(q - p, axis=1)
    _, s0, s1, w0, w1, t0, t1 = a.T
    force, reach = (w0 + w1) / 2 * (s1 - s0), s1 - s0
    lean = np.divide(w0 + 2 * w1, 3 * (w0 + w1), out=np.full(len(a), 0.5), where=w0 + w1 != 0)
    far = (s0 + reach * lean) / length
    about = ((t0 + t1) / 2 * reach / 2 / length)[:, None] * (q - p)
    return np.concatenate([
        np.column_stack([ends[:, k], force * share, about])
        for k, share in ((0, 1 - far), (1, far))])


def _packed(
    kind: str, lines: list[_OnLine],
    points: list[_OnPoint], frame: Frame,
) -> Landed:
    a, p = np.array(lines).reshape(-1, 7), np.array(points).reshape(-1, 4)
    on_walls = a[:, 0] >= len(frame.ends)
    if on_walls.any():
        p = np.concatenate([p, _on_tops(a[on_walls], frame)])
        a = a[~on_walls]
    load, forces = np.zeros((len(a), 2, 3)), np.zeros((len(p), 6))
    e = a[:, 0].astype(np.intp)
    up = frame.axes[e, :, 2]  # in local axes
    load -= a[:, 3:5, None] * up[:, None, :]
    forces[:, 2:5] = p[:, 1:] * [-1.0, 1.0, 1.0]
    # floors lie on the line between the nodes, whatever the axis of the beam is shifted by
    y, z = frame.shifted[e].T
    torque = a[:, 5:7] + z[:, None] * load[:, :, 1] - y[:, None] * load[:, :, 2]
    return Landed(kind, e, a[:, 1:3], load, torque, p[:, 0].astype(np.intp), forces)
