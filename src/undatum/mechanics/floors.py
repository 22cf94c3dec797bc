"""Floors that are not rigid as a whole: without a diaphragm, with one over a part, or one that
deforms.

The nodes of such a floor carry its mass, each what lands on it. Their motion is split in two: the
rigid motion of the floor that has the momentum of all of them, and what is left, in shapes that
have no momentum. The first is the floor's motion everywhere in the analysis: a force on it is
spread over the nodes by their mass, and the sum of their inertia forces is the force on it. The
second are freedoms of their own, labelled ``within``. A floor that deforms in its plane has the
same freedoms as means over its nodes, whose motion follows from the structure.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import linalg, sparse

from undatum.errors import AnalysisError
from undatum.layout.apart import nodes_apart
from undatum.layout.frame import Frame
from undatum.layout.groups import by_source
from undatum.layout.landed import over_nodes
from undatum.layout.takedown import region_of, take_down
from undatum.layout.weight import FloorMasses
from undatum.layout.whole import Building
from undatum.record import record
from undatum.units import STANDARD_GRAVITY

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@record
class OpenFloor:
    """One such floor. SI.

    ``nodes`` (k,) of the frame, ``at`` (k, 2) in plan; ``columns`` (s,) freedoms that move them:
    those of the floor, then those within; ``moves`` (k, 3, s) along X and Y and in rotation, which
    counts for those of the ``body`` (k,) that moves as one; ``within`` (s - 3,) masses of the
    latter, kg.
    """

    level: int
    nodes: Ints
    at: Floats
    columns: Ints
    body: NDArray[np.bool_]
    moves: Floats
    within: Floats
    reads: Floats | None = None

    @property
    def deforms(self) -> bool:
        """Whether it deforms in its plane, and has neither none nor a part of a diaphragm."""
        return self.reads is not None


def open_floors(
    building: Building, masses: FloorMasses, freedoms: Ints, axes: Sequence[int], *,
    rigid: bool = False,
) -> tuple[FloorMasses, tuple[OpenFloor, ...]]:
    """The floors without a whole diaphragm, and the masses with theirs as their nodes carry it.

    ``freedoms`` (n, 3) are those of all floors, ``axes`` the components that move (0 X, 1 Y, 2
    rotation); ``rigid`` leaves those that deform as they are. Raises AnalysisError where the mass
    of a floor does not span a plane.
    """
    which = [i for i in range(len(freedoms))
             if building.is_open(i) and not (rigid and i in building.deforming)]
    frame = building.frame
    if not which or frame is None:
        return masses, ()
    carried = node_weights(building, frame, masses.counted) / STANDARD_GRAVITY
    centers, inertia = np.array(masses.centers), np.array(masses.inertia)
    found, start = [], freedoms.size
    floors = max(len(building.deforming), 1)
    degree = next((d for d in DEGREES if floors * (d + 1) * (d + 2) <= MOST), DEGREES[-1])
    for i in which:
        nodes = np.flatnonzero(frame.floors == i)
        if i in building.deforming:  # what stands apart neither moves with the floor nor pushes it
            nodes = np.setdiff1d(nodes, nodes_apart(building, frame, i))
        if not nodes.size:
            raise AnalysisError(
                f"Level {building.levels[i].name!r} has no diaphragm, and no member reaches it: "
                "nothing could carry its mass. Give it members, or leave it rigid.")
        at = where = frame.points[nodes, :2]
        mass, total = carried[nodes], masses.mass[i]
        name, every = building.levels[i].name, None
        if building.is_flexible(i):
            lines = lines_of(frame, nodes, at, i, axes, name)
            over, where = _spread(building, i, masses.counted, lines)
            mass, where = np.append(mass, over / STANDARD_GRAVITY), np.concatenate([at, where])
            every = between_lines(lines, at), between_lines(lines, where)
        share = mass / mass.sum() if total and mass.sum() else np.full(len(mass), 1 / len(mass))
        centers[i] = share @ where
        arm = where - centers[i]
        inertia[i] = total * float(share @ np.sum(arm**2, axis=1))
        part = building.stiff_part(i)
        body = np.zeros(nodes.size, dtype=bool) if part is None else part.holds(at)
        reads = None
        if i in building.deforming:
            reads, within = _means(share, at, centers[i], axes, degree if total else 0)
            moves = np.zeros((nodes.size, 3, len(reads)))
        else:
            moves, within = _split(share, where, centers[i], every or (
                _independent(at, body, axes),) * 2, axes, name)
        own = [freedoms[i, a] for a in axes]
        columns = np.array([*own, *range(start, start + within.size)], dtype=np.intp)
        start += within.size
        found.append(OpenFloor(i, nodes, at, columns, body, moves, within * total, reads))
    return FloorMasses(masses.levels, masses.mass, centers, inertia, masses.counted), tuple(found)


DEGREES = (7, 6, 5, 4, 3, 2)  #: of the polynomials in plan whose inertia floors that deform have
MOST = 360  #: freedoms of all of them together, as far as a lower degree can keep to it


def _means(
    share: Floats, at: Floats, center: Floats, axes: Sequence[int], degree: int
) -> tuple[Floats, Floats]:
    """(s, 2 k) means of the motion of nodes, and the masses (per unit) of those within.

    The motion of a floor that deforms is told by its mean along X, along Y and in rotation, by
    mass, and by means over polynomials in plan that have no momentum: its inertia is that of the
    best polynomial through the motion of its mass, its stiffness and its statics are exact.
    """
    k = len(at)
    weight = np.tile(share, 2)
    basis = _rigid(at, center, axes)[:2 * k]
    away = (at - center) / max(float(np.abs(at - center).max()), 1e-9)
    for total in range(degree + 1):
        for up in range(total + 1):
            one = away[:, 0] ** (total - up) * away[:, 1] ** up
            for way in (a for a in axes if a < 2):
                new = np.zeros(2 * k)
                new[way * k:(way + 1) * k] = one
                size = float(new @ (weight * new))
                for _ in range(2):  # once more for the digits lost
                    new -= basis @ ((basis.T @ (weight * new)) / (weight @ basis**2))
                left = float(new @ (weight * new))
                if left > 1e-8 * size:
                    basis = np.column_stack([basis, new / np.sqrt(left)])
    within = np.ones(basis.shape[1] - len(axes))
    return (basis * weight[:, None] / (weight @ basis**2)).T, within


def mean_rows(floors: Sequence[OpenFloor], nodes: int) -> tuple[Ints, sparse.csr_array]:
    """Freedoms of the floors that deform, and (s, 6 nodes) how they follow from the nodes."""
    own = [one for one in floors if one.reads is not None]
    columns = np.concatenate([np.zeros(0, dtype=np.intp), *(one.columns for one in own)])
    blocks = []
    for one in own:
        assert one.reads is not None
        row, node = np.nonzero(one.reads)
        k = one.nodes.size
        at = 6 * one.nodes[node % k] + node // k
        blocks.append(sparse.csr_array((one.reads[row, node], (row, at)),
                                       shape=(len(one.reads), 6 * nodes)))
    if not blocks:
        return columns, sparse.csr_array((0, 6 * nodes))
    return columns, sparse.csr_array(sparse.vstack(blocks))


def _independent(at: Floats, body: NDArray[np.bool_], axes: Sequence[int]) -> Floats:
    """(3 k, q) motion of the nodes by what moves by itself, X of all first: a body, and every node
    beside it."""
    k = len(at)
    parts = []
    if body.any():
        parts.append(_rigid(at, at[body].mean(axis=0), axes) * np.tile(body, 3)[:, None])
    free = np.flatnonzero(~body)
    for a in (a for a in axes if a < 2):
        one = np.zeros((3 * k, free.size))
        one[a * k + free, np.arange(free.size)] = 1.0
        parts.append(one)
    return np.column_stack(parts)


def lines_of(
    frame: Frame, nodes: Ints, at: Floats, level: int, axes: Sequence[int], name: str
) -> Mapping[int, Floats]:
    """Where the lines stand that hold a flexible floor along X (0) and Y (1): at which y, and x.

    Raises AnalysisError where one line alone holds it.
    """
    found = {}
    for axis in (a for a in axes if a < 2):
        upright, columns = _holding(frame, level, axis)
        for own in (upright, np.union1d(upright, columns)):  # columns where walls are not enough
            found[axis] = np.unique(np.round(at[np.isin(nodes, own), 1 - axis], 3))
            if found[axis].size > 1:
                break
        if found[axis].size < 2 and 1 - axis in axes:
            raise AnalysisError(
                f"Level {name!r} is flexible, and along {'XY'[axis]} "
                f"{'one line holds' if found[axis].size else 'nothing holds'} it: nothing keeps it "
                "from turning. Give it two lines of walls, braces or columns along each "
                "direction, or its stiffness.")
    return found


def between_lines(lines: Mapping[int, Floats], at: Floats) -> Floats:
    """(3 k, q) motion of points of a flexible floor by the lines that hold it, X of all first.

    Along X and along Y the floor moves with the lines of that direction, and between two of them as
    a simple beam does: each takes what is tributary to it.
    """
    k, parts = len(at), []
    for axis, own in lines.items():
        weights = _beams_between(own, at[:, 1 - axis])
        one = np.zeros((3 * k, weights.shape[1]))
        one[axis * k:(axis + 1) * k] = weights
        parts.append(one)
    return np.column_stack(parts)


CELLS = 4  #: parts of what lies between two lines, at whose middles the mass of a floor stands


def _spread(
    building: Building, level: int, counted: Mapping[str, tuple[float, ...]],
    lines: Mapping[int, Floats],
) -> tuple[Floats, Floats]:
    """Seismic weight (p,) of the loads of a flexible floor and where it lies (p, 2)."""
    outline = building.outline(level)
    x0, y0, x1, y1 = outline.bounds
    sides = []
    for axis, low, high in ((1, x0, x1), (0, y0, y1)):
        inner = [z for z in lines.get(axis, ()) if low < z < high]
        marks = np.array([low, *inner, high])
        sides.append(np.unique(np.concatenate(
            [np.linspace(a, b, CELLS + 1) for a, b in pairwise(marks)])))
    (xs, ys), weights, places = sides, [np.zeros(0)], [np.zeros((0, 2))]
    cells = shapely.box(*(side.ravel() for side in (
        *np.meshgrid(xs[:-1], ys[:-1]), *np.meshgrid(xs[1:], ys[1:]))))
    none = (0.0,) * (len(building.levels) - 1)
    for load in building.loads(level):
        region, pressure = region_of(load, outline)
        factor = counted.get(load.name, none)[level] * pressure
        if factor:
            own = shapely.intersection(cells, region)
            area = shapely.area(own)
            there = area > 0
            weights.append(factor * area[there])
            places.append(shapely.get_coordinates(shapely.centroid(own[there])))
    return np.concatenate(weights), np.concatenate(places)


def _holding(frame: Frame, level: int, axis: int) -> tuple[Ints, Ints]:
    """The nodes of what holds a floor along a direction from below: walls and braces along it, and
    columns."""
    found = []
    if frame.panels is not None:
        along = (frame.panels.story == level) & (np.abs(frame.panels.along[:, axis]) > 0.5)
        found.append(frame.panels.carrying[along][:, :2].ravel())
    tops = frame.floors[frame.ends[:, 1]] == level
    braces = (frame.kinds == "brace") & tops & (np.abs(frame.axes[:, 0, axis]) > 0.1)
    found.append(frame.ends[braces, 1])
    return np.unique(np.concatenate(found)), frame.ends[(frame.kinds == "column") & tops, 1]


def _beams_between(lines: Floats, x: Floats) -> Floats:
    """(k, q) share of every line in the motion at ``x``: linear between two, and beyond the last
    as between the last two."""
    if lines.size == 1:
        return np.ones((len(x), 1))
    left = np.clip(np.searchsorted(lines, x, side="right") - 1, 0, lines.size - 2)
    far = (x - lines[left]) / (lines[left + 1] - lines[left])
    found = np.zeros((len(x), lines.size))
    found[np.arange(len(x)), left], found[np.arange(len(x)), left + 1] = 1 - far, far
    return found


def _split(
    share: Floats, at: Floats, center: Floats, every: tuple[Floats, Floats], axes: Sequence[int],
    name: str,
) -> tuple[Floats, Floats]:
    """(k, 3, s) motion of the nodes by the floor and within it, and the masses (per unit).

    ``every`` is independent motion, X of all first: (3 k, q) of the nodes, and (3 p, q) of where
    the mass stands, its ``share`` (p,) ``at`` (p, 2).
    """
    ways = [a for a in axes if a < 2]
    k = len(at)
    independent = every[1][:2 * k]
    weight = np.tile(share, 2)
    mass = independent.T @ (weight[:, None] * independent)
    rigid = np.linalg.lstsq(independent, _rigid(at, center, axes)[:2 * k]
                            * np.repeat([a in ways for a in (0, 1)], k)[:, None], rcond=None)[0]
    momentum = mass @ rigid
    if np.linalg.matrix_rank(rigid.T @ momentum, tol=1e-9) < len(axes):
        raise AnalysisError(
            f"Level {name!r} has no diaphragm, and its mass stands at one point: its turning "
            "can't be told. Likely cause: a floor with a single column, or loads on one node.")
    rest = linalg.null_space(momentum.T, rcond=1e-12)
    within, turn = np.linalg.eigh(rest.T @ mass @ rest)
    within[within < 1e-12] = 0.0
    moves = every[0] @ np.column_stack([rigid, rest @ turn])
    return moves.reshape(3, len(every[0]) // 3, -1).transpose(1, 0, 2), within


def _rigid(at: Floats, center: Floats, axes: Sequence[int]) -> Floats:
    """(3 k, len(axes)) motion of points, X of all first, when a body moves about a center."""
    k = len(at)
    full = np.zeros((3 * k, 3))
    full[:k, 0] = full[k: 2 * k, 1] = full[2 * k:, 2] = 1.0
    full[:k, 2], full[k: 2 * k, 2] = -(at - center)[:, 1], (at - center)[:, 0]
    return full[:, list(axes)]


def node_weights(
    building: Building, frame: Frame, counted: Mapping[str, tuple[float, ...]], *,
    carried: bool = False,
) -> Floats:
    """(M,) seismic weight that stands over every node: of what lands on a beam, by the lever.

    That of floors that deform stands where it lies, unless what is ``carried`` vertically is asked
    for; that of flexible floors, which lies between their nodes, is left out then.
    """
    found = np.zeros(len(frame.points))
    taken = take_down(building, frame, by_source)
    none = (0.0,) * (len(building.levels) - 1)
    deforming = () if carried else tuple(building.deforming)
    where_they_lie = () if carried else tuple(
        i for i in range(len(building.levels)) if i in building.deforming
        or building.is_flexible(i))
    on_floors = {load.name for i in where_they_lie for load in building.loads(i)}
    for one in taken.landed:
        share = np.append(np.array(counted.get(one.kind, none)), 0.0)
        own = over_nodes(frame, one) * share[frame.floors]
        if one.kind in on_floors:  # of floors that deform, loads lie where they are
            own[np.isin(frame.floors, where_they_lie)] = 0.0
        found += own
    for i in deforming:
        for load in building.loads(i):
            region, pressure = region_of(load, building.outline(i))
            share_here = counted.get(load.name, none)[i]
            if share_here and pressure:
                found += share_here * pressure * over_slab(frame, i, region)
    return np.maximum(found, 0.0)


def over_slab(frame: Frame, level: int, region: Any) -> Floats:
    """(M,) area of a region of a floor that its nodes stand for, each panel's by the lever."""
    slabs = frame.slabs
    assert slabs is not None
    own = slabs.nodes[slabs.level == level]
    corners = frame.points[own][:, :, :2]
    rings = np.concatenate([corners, corners[:, :1]], axis=1)
    shared = shapely.intersection(shapely.polygons(rings), region)
    area = shapely.area(shared)
    there = np.flatnonzero(area > 0)
    middle = shapely.get_coordinates(shapely.centroid(shared[there]))
    found = np.zeros(len(frame.points))
    p = corners[there]
    three = own[there, 2] == own[there, 3]
    shares = np.zeros((there.size, 4))
    wide, high = p[:, 1, 0] - p[:, 0, 0], p[:, 3, 1] - p[:, 0, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        s, t = (middle[:, 0] - p[:, 0, 0]) / wide, (middle[:, 1] - p[:, 0, 1]) / high
        bilinear = np.column_stack([(1 - s) * (1 - t), s * (1 - t), s * t, (1 - s) * t])
    shares[~three] = bilinear[~three]
    a, b, c = (p[three, k] for k in range(3))
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    m = middle[three]
    for k, (q, r) in enumerate(((b, c), (c, a), (a, b))):
        shares[three, k] = ((q - m)[:, 0] * (r - m)[:, 1] - (q - m)[:, 1] * (r - m)[:, 0]) / twice
    np.add.at(found, own[there].ravel(), (area[there, None] * shares).ravel())
    return found


def upright_rows(nodes: Ints, frame_nodes: int, first: int, count: int) -> sparse.csr_array:
    """(6 frame_nodes, count) motion up and down of ``nodes``, whose freedoms stand from ``first``
    on."""
    return sparse.csr_array(
        (np.ones(nodes.size), (6 * nodes + 2, first + np.arange(nodes.size))),
        shape=(6 * frame_nodes, count))


def node_rows(floors: Sequence[OpenFloor], nodes: int, count: int) -> sparse.csr_array:
    """(6 nodes, count) motion of the nodes of these floors in plan."""
    rows, columns, values = [np.zeros(0, dtype=np.intp)], [np.zeros(0, dtype=np.intp)], \
        [np.zeros(0)]
    for one in floors:
        for way, row in () if one.deforms else ((0, 0), (1, 1), (2, 5)):
            own = np.flatnonzero(one.body) if way == 2 else np.arange(one.nodes.size)
            rows.append(np.repeat(6 * one.nodes[own] + row, one.columns.size))
            columns.append(np.tile(one.columns, own.size))
            values.append(one.moves[own, way].ravel())
    return sparse.csr_array(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))),
        shape=(6 * nodes, count))
