"""From a building description to a model: the only door between the two."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from itertools import compress

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import sparse

from undatum.building.lines import Cantilever, Line
from undatum.layout.apart import nodes_apart
from undatum.layout.weight import FloorMasses
from undatum.layout.whole import Building
from undatum.mechanics.cantilever import shear_flexure_line, shear_line
from undatum.mechanics.floors import (
    OpenFloor,
    mean_rows,
    node_rows,
    node_weights,
    open_floors,
    upright_rows,
)
from undatum.mechanics.framing import FrameModel, Means, condense, member_lines, with_lines
from undatum.mechanics.lines import (
    LateralLine,
    assemble,
    collectors,
    diagonal,
    motions,
    node_motions,
)
from undatum.mechanics.model import (
    COMPONENTS,
    GROUND,
    WITHIN,
    Diaphragms,
    Freedoms,
    Model,
    Pressing,
    SecondOrder,
)
from undatum.mechanics.quantities import (
    NEAR,
    PlumbLine,
    center_line,
    line_moment,
    line_shear,
    plumb_displacement,
    plumb_drift,
    story_quantities,
)
from undatum.mechanics.quantity import Quantity
from undatum.mechanics.second_order import buckling_factor, leaning_stiffness, unstable
from undatum.mechanics.vibration import LIGHT
from undatum.record import Lazy
from undatum.standards.terms import Direction
from undatum.units import STANDARD_GRAVITY

Floats = NDArray[np.float64]
_FULLY = 1e9  # stiffness of ground that holds fully, over the largest of the building's own


def idealize(
    building: Building, masses: FloorMasses, axial: NDArray[np.float64] | None = None, *,
    for_drift: bool = False, rigid: bool = False,
) -> Model:
    """Stiffness, mass and quantities of a building: one diaphragm a level, rigid unless it says
    otherwise; ``rigid`` takes floors that deform as if they did not.

    Members are condensed to the floors; ``axial`` (E,) forces in them take stiffness away. With
    ``for_drift`` stiffness is that where the forces for drift act. Raises AnalysisError where part
    of them moves freely.
    """
    n = len(building.levels) - 1
    index = np.arange(3 * n).reshape(3, n).T  # by component, then by level
    moving = [k for k, c in enumerate(COMPONENTS) if building.plane in (None, c)]
    masses, within = open_floors(building, masses, index, moving, rigid=rigid)
    shapes = np.concatenate([np.zeros(0), *(one.within for one in within)])
    upright, lifted = _upright(building, masses)
    count = 3 * n + shapes.size + upright.size
    diaphragms = _diaphragms(building, masses, index)
    freedoms = _freedoms(building, masses, within, upright)
    lines = tuple(_line(building, line.for_drift if for_drift else line)
                  for line in building.lines)
    moved = motions(lines, masses.centers, index, count)
    deform = {one.level for one in within if one.deforms}
    over = np.array([line.meets(deform) for line in lines], dtype=bool)
    at_nodes = list(compress(lines, over))  # their stiffness is in that of the frame
    framed = _framed(building, diaphragms, axial, within, count, for_drift, upright, rigid,
                     at_nodes)
    own = np.repeat(over, [line.levels.size for line in lines])
    stiffness = assemble(list(compress(lines, ~over)), sparse.csr_array(moved[~own]))
    if at_nodes and framed is not None:
        every = sparse.eye_array(own.size).tocsr()
        moved = sparse.csr_array(
            every[:, ~own] @ moved[~own]
            + every[:, own] @ framed.applied(node_motions(at_nodes, framed.frame)))
    shears: Callable[[], Quantity] = partial(line_shear, lines, moved, masses.levels)
    more: dict[str, Callable[[], Quantity]] = {
        "line moment": partial(line_moment, lines, moved, diaphragms)}
    if framed is not None:
        stiffness = sparse.csr_array(stiffness + sparse.csr_array(framed.stiffness))
        axes = building.axes
        found = ({v: k for k, v in axes.x.items()}, {v: k for k, v in axes.y.items()}) \
            if axes is not None and axes.plain else ({}, {})
        made, rows, twist = member_lines(framed, found, diaphragms.below, [x.name for x in lines])
        lines += made
        shears = partial(with_lines, shears, made, rows, masses.levels)
        more["member twist"] = lambda: Quantity(
            "member twist", "moment", sparse.csr_array(twist()), {"story": masses.levels})
    ground = _ground(building, index[:, moving], moving, stiffness.diagonal())
    if ground is not None:
        stiffness = sparse.csr_array(stiffness + sparse.diags_array(ground))
    floor_mass = np.zeros((3, n))  # what does not move has none
    floor_mass[moving] = np.array([masses.mass, masses.mass, masses.inertia])[moving]
    model = Model(
        freedoms=freedoms,
        stiffness=_held(stiffness, freedoms, building.directions),
        mass=diagonal(np.concatenate([*floor_mass, shapes, lifted])),
        diaphragms=diaphragms,
        spread=diagonal(np.ones(3 * n), count),
        base_elevation=float(building.elevations[building.base_index]),
        lines=lines,
        framed=framed,
        directions=building.directions,
        open_floors=within,
    )
    at_center = [center_line(model)]
    return replace(model, quantities=Lazy({
        **story_quantities(freedoms, diaphragms, ground),
        "line shear": shears,
        **more,
        "displacement": partial(plumb_displacement, model, at_center, COMPONENTS),
        "story drift": partial(plumb_drift, model, at_center, COMPONENTS),
    }))


def _diaphragms(
    building: Building, masses: FloorMasses, index: NDArray[np.intp]
) -> Diaphragms:
    """The floors as bodies, with their freedoms (n, 3) by ``index``."""
    n = len(index)
    return Diaphragms(
        levels=masses.levels,
        below=np.array([k if k < n else GROUND for k in building.below]),
        elevations=np.asarray(building.elevations)[:n],
        story_heights=np.asarray(building.story_heights),
        centers=masses.centers,
        bounds=np.array([building.outline(i).bounds for i in range(n)]),
        mass=masses.mass,
        inertia=masses.inertia,
        freedoms=index,
    )


def _freedoms(
    building: Building, masses: FloorMasses, within: Sequence[OpenFloor],
    upright: NDArray[np.intp],
) -> Freedoms:
    """What every freedom is: of floors by component, within floors that are not rigid, of nodes
    that carry mass vertically."""
    n, frame = len(masses.levels), building.frame
    centers = np.column_stack([masses.centers, np.asarray(building.elevations)[:n]])
    of_shape = [one.level for one in within for _ in one.within]
    at_nodes = np.zeros((0, 3)) if frame is None else frame.points[upright]
    floors_of = () if frame is None else tuple(
        masses.levels[i] for i in frame.floors[upright].tolist())
    return Freedoms(
        tuple(c for c in COMPONENTS for _ in range(n)) + (WITHIN,) * len(of_shape)
        + ("Z",) * upright.size,
        masses.levels * 3 + tuple(masses.levels[i] for i in of_shape) + floors_of,
        np.concatenate([np.tile(centers, (3, 1)), centers[of_shape].reshape(-1, 3), at_nodes]))


def _ground(
    building: Building, index: NDArray[np.intp], moving: Sequence[int], stiffness: Floats
) -> Floats | None:
    """(N,) springs of the ground on the floors it holds; where it holds fully, so stiff that
    nothing there counts beside what moves. ``index`` (n, c) are the freedoms that may move."""
    if not building.held:
        return None
    found = np.zeros(stiffness.size)
    for i, how in building.held.items():
        found[index[i]] = _FULLY * stiffness[index].max(axis=0) if how == "fully" else \
            np.array(how.values)[list(moving)]
    return found


def _upright(building: Building, masses: FloorMasses) -> tuple[NDArray[np.intp], Floats]:
    """The nodes that carry mass vertically, and how much (k,) kg; none unless asked for."""
    frame = building.frame
    if frame is None or not building.vertical_mass:
        return np.zeros(0, dtype=np.intp), np.zeros(0)
    mass = node_weights(building, frame, masses.counted, carried=True) / STANDARD_GRAVITY
    nodes = np.flatnonzero(mass > LIGHT * mass.max(initial=0.0))
    return nodes, mass[nodes]


def _held(
    stiffness: sparse.csr_array, freedoms: Freedoms, directions: Sequence[Direction]
) -> sparse.csr_array:
    """The stiffness of a plane building: what it never does is coupled to nothing."""
    if len(directions) == 2:
        return stiffness
    moves = np.array([c in (*directions, "Z", WITHIN) for c in freedoms.component])
    keep = sparse.diags_array(moves.astype(float))
    rest = stiffness.diagonal()[moves].mean() * ~moves
    return sparse.csr_array(keep @ stiffness @ keep + sparse.diags_array(rest))


def _framed(
    building: Building, floors: Diaphragms, axial: Floats | None, within: Sequence[OpenFloor],
    count: int, for_drift: bool, upright: NDArray[np.intp], rigid: bool,
    over: Sequence[LateralLine],
) -> FrameModel | None:
    """The members condensed to the floors; a node is held by the floor it lies on."""
    frame = building.frame
    if frame is None:
        return None
    if for_drift:
        frame = frame.for_drift
    if over:
        frame = replace(frame, beside=assemble(over, node_motions(over, frame))
                        + collectors(over, frame))
    tied = np.zeros(len(frame.points), dtype=bool)
    for i in range(len(floors)):
        if building.is_open(i) and not (rigid and i in building.deforming):
            continue
        own = np.flatnonzero(frame.floors == i)
        tied[own] = building.outline(i).holds(frame.points[own, :2])
        tied[nodes_apart(building, frame, i)] = False
    if frame.panels is not None:
        tied[frame.panels.loose] = False
    held = {None: (), "X": (1, 3, 5), "Y": (0, 4, 5)}[building.plane]
    moves = node_rows(within, len(frame.points), count) if within else None
    if upright.size:
        lifted = upright_rows(upright, len(frame.points), count - upright.size, count)
        moves = lifted if moves is None else sparse.csr_array(moves + lifted)
    columns, rows = mean_rows(within, len(frame.points))
    means = Means(columns, rows) if columns.size else None
    return condense(frame, tied, floors.centers, floors.freedoms, count, axial, held, moves, means)


def with_second_order(
    building: Building, masses: FloorMasses, elastic: Model, one: Pressing, *,
    for_drift: bool = False,
) -> Model:
    """The model with what gravity takes of its stiffness. Raises AnalysisError where it buckles."""
    factor = buckling_factor(elastic, one)
    if factor <= 1:
        raise unstable(factor)
    base = idealize(building, masses, one.axial, for_drift=for_drift) if one.axial.size \
        else elastic
    taken = sparse.csr_array(leaning_stiffness(elastic, one))
    return replace(base, stiffness=sparse.csr_array(base.stiffness - taken),
                   second_order=SecondOrder(elastic, one, factor))


def _line(building: Building, line: Line) -> LateralLine:
    span = building.span(line)
    foot = building.below[span[-1]]
    values = line.by_story(len(span))
    if line.cantilever is None:
        stiffness, shear = shear_line([v for v in values if isinstance(v, float)])
    else:
        sections = [v for v in values if isinstance(v, Cantilever)]
        stiffness, shear = shear_flexure_line(
            [s.bending for s in sections], [s.shear for s in sections],
            [building.story_heights[i] for i in span],
        )
    axis = np.array([np.cos(line.direction), np.sin(line.direction)])
    axis[np.abs(axis) < 1e-15] = 0.0  # along X or Y to the last digit
    return LateralLine(
        line.name,
        np.asarray(line.at, dtype=float),
        axis,
        np.array(span),
        foot if foot < len(building.levels) - 1 else GROUND,
        stiffness,
        shear,
        line.plan_length,
        np.asarray(line.strengths(len(span))),
    )


def corner_lines(building: Building, model: Model) -> tuple[PlumbLine, ...]:
    """Plumb lines through every distinct corner of the outlines, from the highest floor down.

    A corner counts in a story where it lies on the floor at the story's top.
    """
    open_ = model.not_rigid
    rigid = {id(outline.polygon): outline.corners  # equal outlines share their polygon
             for outline in (building.outline(i) for i in sorted(
                 np.flatnonzero(~open_).tolist(), key=lambda i: (
                     -round(building.elevations[i], 6), *building.outline(i).bounds)))}
    if not rigid:
        return ()
    corners = np.concatenate(list(rigid.values()))
    _, first = np.unique(np.round(corners, 6), axis=0, return_index=True)
    distinct = corners[np.sort(first)]
    names = [f"corner {number}" for number in range(1, len(distinct) + 1)]
    return plumb_lines(building, model, names, distinct)


def column_lines(building: Building, model: Model) -> tuple[PlumbLine, ...]:
    """Plumb lines along the columns and the ends of walls of the stories between floors that are
    not rigid as a whole."""
    frame = building.frame
    if frame is None or not model.open_floors:
        return ()
    levels = {one.level for one in model.open_floors}
    heads = {f"column {m.axis or m.name}": m.end[:2] for m in frame.members if m.kind == "column"
             and model.levels.index(m.level) in levels}
    there = {(round(x, 6), round(y, 6)) for x, y in heads.values()}
    for run in () if frame.panels is None else sorted(frame.panels.walls, key=lambda w: w.name):
        for word, (x, y) in (("start", run.start), ("end", run.end)) \
                if levels & set(run.stories) else ():
            if (round(x, 6), round(y, 6)) not in there:
                heads[f"wall {run.name}, {word}"] = x, y
                there.add((round(x, 6), round(y, 6)))
    for line in model.lines:
        if line.stiffness is not None and levels & set(line.levels.tolist()):
            heads[f"line {line.name}"] = (float(line.point[0]), float(line.point[1]))
    found = plumb_lines(building, model, list(heads), list(heads.values()))
    open_ = model.not_rigid
    between = open_ | np.append(open_, False)[model.diaphragms.below]
    return tuple(replace(line, present=line.present & between) for line in found)


def plumb_lines(
    building: Building, model: Model, names: Sequence[str], points: ArrayLike
) -> tuple[PlumbLine, ...]:
    """Plumb lines through plan points (k, 2); each counts where the floor above holds it.

    Where a floor is not rigid as a whole, a point of it is known at the nodes alone.
    """
    at = np.asarray(points, dtype=float).reshape(-1, 2)
    held: dict[int, NDArray[np.bool_]] = {}
    present = np.empty((model.n, len(at)), dtype=bool)
    for i in range(model.n):
        outline = building.outline(i)
        key = id(outline.polygon)  # equal outlines share their polygon
        if key not in held:
            held[key] = outline.holds(at)
        present[i] = held[key]
    for one in model.open_floors:
        known = np.min(np.hypot(*(at[:, None] - one.at[None]).transpose(2, 0, 1)), axis=1) < NEAR
        for i in (one.level, *np.flatnonzero(model.diaphragms.below == one.level)):
            present[i] &= known
    return tuple(
        PlumbLine(name, np.tile(point, (model.n, 1)), present[:, k], at_nodes=True)
        for k, (name, point) in enumerate(zip(names, at, strict=True))
    )
