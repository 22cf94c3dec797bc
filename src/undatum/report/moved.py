"""Where things move to: the members and walls on an axis, and a floor in plan, under anything with
signs."""

from __future__ import annotations

import numpy as np
from matplotlib.axes import Axes
from matplotlib.collections import LineCollection, PolyCollection
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.errors import Fault, InputError
from undatum.finding import several
from undatum.layout.frame import Frame
from undatum.mechanics.actions import framed_of
from undatum.mechanics.lines import line_nodes
from undatum.readings.layouts import Reading
from undatum.readings.readable import known
from undatum.readings.things import motion_at
from undatum.report.drawing import COLORS, INK, SOFT, as_written, new_figure, plain, settle
from undatum.report.frames import draw_elevation, drawn, nodes_on, on_axis, on_plan, walls_on_axis
from undatum.report.walls import EDGE, written
from undatum.results.results import Results
from undatum.standards.terms import Method

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
ENLARGED = 0.06  # of what is drawn, that the largest displacement takes on the sheet


@as_written
def deformed(
    results: Results, axis: str, under: str, by: Method = "spectrum"
) -> Figure:
    """The members and walls on an axis where they move to, over where they stand, to a scale that
    is said.

    ``under`` is a set, a mode, a load case or a single combination's gravity: what has signs, or a
    spectrum with the signs of its largest mode. Members bend by the rotations of their nodes, loads
    between them left out. Raises InputError for what moves both ways, or for several sources.
    """
    own, frame = on_axis(results, axis), framed_of(results.model).frame
    nodes = nodes_on(results, axis, own)
    found = signed_motion(results, nodes, under, by)
    figure = new_figure(8.6, 6.4, f"Displacement, axis {axis}: {found.names[0]}")
    ax = figure.add_subplot()
    at = draw_elevation(ax, results, axis, sections=False)
    for line in list(ax.collections):
        line.set_alpha(0.25)
    size = results.units.size("length")
    motion = found.high[0].reshape(-1, 6)
    moved = dict(zip(nodes.tolist(), motion, strict=True))
    peak = max(float(np.abs(motion[:, :3]).max()), 1e-300)
    scale = ENLARGED * float(np.ptp(frame.points[nodes], axis=0).max()) / peak
    curves = _walls_moved(ax, results, axis, at, moved, scale / size)
    for m in own:
        for e in m.elements:
            a, b = drawn(results, axis, at, *frame.ends[e].tolist())
            along = results.project.building.axes.direction(  # type: ignore[union-attr]
                axis, frame.points[frame.ends[e], :2].mean(axis=0)[None])[0]
            first, last = (moved[n] for n in frame.ends[e].tolist())
            curves.append(_bent(a, b, first, last, along, float(frame.lengths[e]),
                                frame.hinged[e], scale, size))
    ax.add_collection(LineCollection(curves, colors=COLORS["Y"], linewidths=1.3, clip_on=False))
    reach = np.concatenate(curves)
    ax.set_xlim(min(ax.get_xlim()[0], reach[:, 0].min()), max(ax.get_xlim()[1], reach[:, 0].max()))
    shown = results.units.show(peak, "displacement")
    figure.text(0.01, 0.02, f"gray: undeformed; displacements {_times(scale)} times enlarged, "
                f"largest {shown:.4g} {results.units.label('displacement')}; elastic", fontsize=8,
                color=SOFT)
    settle(figure, [level.name for level in results.project.building.levels], bottom=0.8, top=0.9)
    return figure


def signed_motion(results: Results, nodes: Ints, under: str, by: Method) -> Reading:
    """Motion of nodes under one source with signs. Raises InputError."""
    on = motion_at(results.structure, nodes.tolist())
    found = results.read_thing(on, under, by=by)
    if found.way == "sets" and not found.signed.all():
        found = results.read_thing(on, under, by=by, signed=True)
    if len(found.high) != 1 or not found.signed[0]:
        raise InputError([Fault("under", f"{under or 'sets'!r} gives {several(found.names)}: "
                                "several displacements, or both ways", "name one set of one "
                                "direction, a mode of one set, or a load case")])
    return found


def _times(scale: float) -> str:
    """A scale in three digits, as people write it."""
    return written(float(f"{scale:.3g}"))


def _walls_moved(
    ax: Axes, results: Results, axis: str, at: Floats, moved: dict[int, Floats], scale: float
) -> list[Floats]:
    """Draws the panels of walls on an axis where they move to; edges of what stands, as curves."""
    panels, axes = framed_of(results.model).frame.panels, results.project.building.axes
    own = walls_on_axis(results, axis)
    if panels is None or axes is None or not own:
        return []
    mine = panels.nodes[np.isin(panels.wall, own)]
    nodes = np.unique(mine)
    run = panels.walls[own[0]]
    along = np.asarray(axes.direction(axis, np.array([run.start]))[0])
    place = {int(n): at[n] + scale * np.array([along @ moved[int(n)][:2], moved[int(n)][2]])
             for n in nodes}
    ax.add_collection(PolyCollection(
        [np.array([place[int(n)] for n in four]) for four in mine], facecolors=COLORS["Y"],
        edgecolors="none", alpha=0.25, zorder=3))
    edges = np.concatenate([mine[:, [k, (k + 1) % 4]] for k in range(4)])
    pairs, count = np.unique(np.sort(edges, axis=1), axis=0, return_counts=True)
    return [np.array([place[int(a)], place[int(b)]]) for a, b in pairs[count == 1]]


def _bent(
    a: Floats, b: Floats, first: Floats, last: Floats, along: Floats, length: float,
    hinged: NDArray[np.bool_], scale: float, size: float,
) -> Floats:
    """(9, 2) an element between two nodes on the page as it bends; straight where it is hinged."""
    chord = (b - a) / np.hypot(*(b - a))
    normal = np.array([-chord[1], chord[0]])
    flat = np.array([[*along, 0.0], [0.0, 0.0, 1.0]])
    out = np.array([along[1], -along[0], 0.0])
    u = [flat @ one[:3] for one in (first, last)]
    turn = [float(out @ one[3:]) for one in (first, last)]
    swing = float((u[1] - u[0]) @ normal) / length
    s = np.linspace(0.0, 1.0, 9)
    turn = [swing if free else t for t, free in zip(turn, hinged, strict=True)]
    h = (s * (1 - s)**2, -s**2 * (1 - s))
    across = (1 - s) * (u[0] @ normal) + s * (u[1] @ normal) \
        + length * (h[0] * (turn[0] - swing) + h[1] * (turn[1] - swing))
    on = (1 - s) * (u[0] @ chord) + s * (u[1] @ chord)
    return np.asarray(a + s[:, None] * (b - a) + scale / size * (
        on[:, None] * chord + across[:, None] * normal))


@as_written
def floor_moved(
    results: Results, level: str, under: str, by: Method = "spectrum"
) -> Figure:
    """A floor in plan with its walls and beams where it moves to, over where it stands, to a scale
    that is said. Raises InputError for an unknown level, and what :func:`deformed` does."""
    frame, building = framed_of(results.model).frame, results.project.building
    i = known(level, [one.name for one in building.levels], "level")
    nodes = np.flatnonzero(frame.floors == i)
    if not nodes.size or level not in results.model.levels:
        raise InputError([Fault("level", f"neither members nor walls reach {level!r}, or the "
                                "ground holds it", "name a level that moves")])
    found = signed_motion(results, nodes, under, by)
    motion = np.zeros((len(frame.points), 2))
    motion[nodes] = found.high[0].reshape(-1, 6)[:, :2]
    size, outline = results.units.size("length"), building.outline(i)
    x0, y0, x1, y1 = np.array(outline.bounds) / size
    most = int(nodes[np.argmax(np.hypot(*motion[nodes].T))])
    peak = max(float(np.hypot(*motion[most])), 1e-300)
    scale = ENLARGED * max(x1 - x0, y1 - y0) * size / peak
    place = (frame.points[:, :2] + scale * motion) / size
    figure = new_figure(9.4, 6.4, f"Displacement of {level} in plan: {found.names[0]}")
    ax = figure.add_subplot()
    ring = [np.asarray(r.coords) for r in (outline.polygon.exterior, *outline.polygon.interiors)]
    for one in ring:
        ax.plot(*one.T / size, color=SOFT, linewidth=0.8)
    pad = 1.6 * ENLARGED * max(x1 - x0, y1 - y0)
    ax.set_xlim(x0 - pad, x1 + pad)
    ax.set_ylim(y0 - pad, y1 + pad)
    on_plan(ax, results, [i])
    for line in (*ax.lines, *ax.patches):
        line.set_alpha(0.3)
    _floor_moved(ax, frame, i, place)
    for stands in results.model.lines:
        if results.model.at_nodes(stands) and stands.meets({i}):
            own = [node for node, _ in line_nodes(stands, frame, i)]
            ax.plot(*place[own].T, "-" if len(own) > 1 else "s", color=COLORS["X"], linewidth=2.4,
                    markersize=5, zorder=5)
            ax.annotate(stands.name, place[own[-1]], xytext=(0, 4), textcoords="offset points",
                        fontsize=8, color=INK, ha="center", zorder=6)
    if not results.model.not_rigid[i]:
        fit = np.column_stack([np.ones(nodes.size), frame.points[nodes, :2]])
        rigid = np.linalg.lstsq(fit, motion[nodes], rcond=1e-9)[0]
        for one in ring:
            to = one + scale * np.column_stack([np.ones(len(one)), one]) @ rigid
            ax.plot(*to.T / size, color=COLORS["Y"], linewidth=1.2, zorder=4)
    unit = results.units.label("displacement")
    beyond = place[most, 0] > (x0 + x1) / 2  # written inwards
    ax.annotate(f"{results.units.show(peak, 'displacement'):.4g} {unit}", place[most],
                xytext=(-6 if beyond else 6, 6), ha="right" if beyond else "left",
                textcoords="offset points", fontsize=8, color=INK, zorder=6,
                bbox={"facecolor": "white", "edgecolor": "none", "alpha": 0.8, "pad": 1})
    ax.plot(*place[most], "o", color=INK, markersize=3.5, zorder=6)
    ax.set_aspect("equal")
    plain(ax, f"x ({results.units.label('length')})", f"y ({results.units.label('length')})")
    ax.grid(False)
    figure.text(0.01, 0.02, f"gray: undeformed; displacements {_times(scale)} times enlarged; "
                "elastic", fontsize=8, color=SOFT)
    settle(figure, ["-000.0"], bottom=0.9, top=0.9, label=True)
    return figure


def _floor_moved(ax: Axes, frame: Frame, level: int, place: Floats) -> None:
    """Slab, beams and walls of a level at the places (M, 2) of their nodes."""
    if frame.slabs is not None:
        own = frame.slabs.nodes[frame.slabs.level == level]
        ax.add_collection(PolyCollection(
            list(place[own]), facecolors=COLORS["Y"], edgecolors=COLORS["Y"], linewidths=0.3,
            alpha=0.25, zorder=3))
    flat = (frame.floors[frame.ends] == level).all(axis=1)
    ax.add_collection(LineCollection(list(place[frame.ends[flat]]), colors=COLORS["Y"],
                                     linewidths=1.0, zorder=4))
    if frame.panels is not None:
        top = frame.panels.nodes[:, [3, 2]]
        ax.add_collection(LineCollection(
            list(place[top[(frame.floors[top] == level).all(axis=1)]]), colors=EDGE,
            linewidths=2.4, zorder=5))
