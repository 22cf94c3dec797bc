"""Figures of members: in space, on an axis, on one plan; shapes in space."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from matplotlib.axes import Axes
from matplotlib.collections import LineCollection
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.building.axes import Axes as GridAxes
from undatum.errors import Fault, InputError
from undatum.layout.frame import Frame, Member
from undatum.mechanics.actions import framed_of
from undatum.mechanics.model import COMPONENTS
from undatum.report import walls
from undatum.report.drawing import (
    COLORS,
    INK,
    LIMIT,
    MAY_GO,
    SOFT,
    as_written,
    new_figure,
    plain,
    settle,
    spaced,
)
from undatum.report.scene import wall_paths
from undatum.results.results import Results

Floats = NDArray[np.float64]
HUES = {"column": INK, "beam": "#5b7fa6", "brace": COLORS["Y"]}
WIDTHS = {"column": 1.5, "beam": 0.9, "brace": 1.8}


def seen(points: Floats, turn: float = 0.6, tilt: float = 0.42) -> tuple[Floats, Floats]:
    """Points (k, 3) as seen from above and aside: places on the sheet (k, 2), and nearness (k,)."""
    c, s = np.cos(turn), np.sin(turn)
    along, away = points[:, 0] * c + points[:, 1] * s, -points[:, 0] * s + points[:, 1] * c
    up = points[:, 2] * np.cos(tilt) + away * np.sin(tilt)
    return np.column_stack([along, up]), -away


def _colors(frame: Frame) -> list[str]:
    return [HUES[frame.members[m].kind] for m in frame.member]


def _legend(ax: Axes, frame: Frame, *, feet: bool = True) -> None:
    kinds = dict.fromkeys(m.kind for m in frame.members)
    for kind in kinds:
        ax.plot([], [], color=HUES[kind], linewidth=2, label=f"{kind}s")
    if frame.panels is not None:
        ax.fill([], [], facecolor=walls.FACE, edgecolor=walls.EDGE, label="walls")
    if feet:
        fixed = np.isinf(frame.springs).all(axis=1)
        for mark, which, name in (("s", fixed, "fixed"), ("o", ~fixed, "pinned, or on springs")):
            if which.any():
                ax.plot([], [], mark, color="white", markeredgecolor=LIMIT, markersize=6,
                        label=f"foot, {name}")


def _feet(ax: Axes, frame: Frame, at: Floats, which: Sequence[int]) -> None:
    standing = set(frame.ends.ravel().tolist())  # feet of walls are their lowest edge
    for k in which:
        if int(frame.supports[k]) not in standing:
            continue
        mark = "s" if np.isinf(frame.springs[k]).all() else "o"
        ax.plot(*at[frame.supports[k]], mark, color="white", markeredgecolor=LIMIT, markersize=5,
                zorder=6)


@as_written
def space(results: Results) -> Figure:
    """The members in space, seen from the side of the first axes, with their feet."""
    frame = framed_of(results.model).frame
    size, unit = results.units.size("length"), results.units.label("length")
    at, near = seen(frame.points / size)
    figure = new_figure(8.6, 6.4, "Members in space")
    ax = figure.add_subplot()
    walls.in_space(ax, frame, at, near, lines=False)
    ax.add_collection(LineCollection(
        [seen(np.vstack([ring, ring[:1]]) / size)[0] for ring in walls.edges_in_space(frame)],
        colors=walls.EDGE, linewidths=0.5, zorder=0.7))
    depth = near[frame.ends].mean(axis=1)
    order = np.argsort(depth)
    share = (depth - depth.min(initial=0.0)) / max(float(np.ptp(depth)) if depth.size else 0.0,
                                                   1e-9)
    hues, widths = _colors(frame), [WIDTHS[frame.members[m].kind] for m in frame.member]
    if order.size:
        ax.add_collection(LineCollection(
            [at[frame.ends[e]] for e in order], colors=[hues[e] for e in order],
            linewidths=[widths[e] for e in order], alpha=[float(0.35 + 0.65 * share[e])
                                                          for e in order]))
    _feet(ax, frame, at, range(len(frame.supports)))
    _legend(ax, frame)
    ax.set_aspect("equal")
    ax.autoscale_view()
    ax.axis("off")
    x, y = np.ptp(frame.points[:, 0]) / size, np.ptp(frame.points[:, 1]) / size
    z = np.ptp(frame.points[:, 2]) / size
    counts = ", ".join(f"{sum(m.kind == k for m in frame.members)} {k}s"
                       for k in dict.fromkeys(m.kind for m in frame.members))
    if frame.panels is not None:
        counts = ", ".join(filter(None, (counts, f"{len(frame.panels.walls)} walls")))
    figure.text(0.01, 0.02, f"{x:.4g} by {y:.4g} by {z:.4g} {unit}; {counts}", fontsize=9,
                color=SOFT)
    figure.legend(*ax.get_legend_handles_labels(), frameon=False, fontsize=9, loc="upper right")
    figure.subplots_adjust(left=0.02, right=0.98, bottom=0.06, top=0.93)
    return figure


def on_axis(results: Results, name: str) -> list[Member]:
    """The members on an axis. Raises InputError with the axes there are."""
    axes = results.project.building.axes
    if axes is None or name not in {**axes.x, **axes.y}:
        known = "" if axes is None else ", ".join({**axes.x, **axes.y})
        raise InputError([Fault("axis", f"there is no axis {name!r}", f"known: {known}")])
    members = framed_of(results.model).frame.members
    ends = np.array([(m.start[:2], m.end[:2]) for m in members])
    found = [members[k] for k in np.flatnonzero(
        np.all(np.abs(axes.off(name, ends)) < 1e-5, axis=1)).tolist()] if members else []
    if not found and not walls_on_axis(results, name):
        raise InputError([Fault("axis", f"no member stands on axis {name!r}",
                                "name an axis with members")])
    return found


def walls_on_axis(results: Results, name: str) -> list[int]:
    """The walls, by their places, that stand on an axis."""
    axes, panels = results.project.building.axes, framed_of(results.model).frame.panels
    if axes is None or panels is None:
        return []
    return [w for w, run in enumerate(panels.walls)
            if np.all(np.abs(axes.off(name, np.array([run.start, run.end]))) < 1e-5)]


def ends_of(frame: Frame, m: Member) -> tuple[int, int]:
    """The nodes at both ends of a member."""
    return int(frame.ends[m.elements[0], 0]), int(frame.ends[m.elements[-1], 1])


def drawn(results: Results, axis: str, at: Floats, start: int, end: int) -> Floats:
    """(2, 2) where a member between two nodes is drawn: around a ring it goes on beyond the last
    ray rather than back to the first."""
    axes = results.project.building.axes
    found = at[[start, end]]
    if axes is not None and axes.curved(axis):
        around = 2 * np.pi * axes.y[axis] / results.units.size("length")
        if abs(found[1, 0] - found[0, 0]) > around / 2:
            found[np.argmin(found[:, 0]), 0] += around
    return np.asarray(found)


def draw_elevation(ax: Axes, results: Results, name: str, *, sections: bool) -> Floats:
    """Draw the members of an axis; returns where the nodes are."""
    building, frame = results.project.building, framed_of(results.model).frame
    assert building.axes is not None
    size = results.units.size("length")
    at = np.column_stack([building.axes.along(name, frame.points[:, :2]),
                          frame.points[:, 2]]) / size
    own = on_axis(results, name)
    upright = walls_on_axis(results, name)
    if upright:
        panels = frame.panels
        assert panels is not None
        run = panels.walls[upright[0]]
        along = np.asarray(building.axes.direction(name, np.array([run.start]))[0])
        walls.on_sheet(ax, frame, along, upright, size)
    lines = [drawn(results, name, at, *ends_of(frame, m)) for m in own]
    ax.add_collection(LineCollection(
        lines, colors=[HUES[m.kind] for m in own], linewidths=[1.2 * WIDTHS[m.kind] for m in own]))
    ends = [(m.elements[-k], k, line[k] + 0.06 * (line[1 - k] - line[k]))
            for m, line in zip(own, lines, strict=True) for k in (0, 1)]
    for mark, marked, said in (
        ("o", frame.hinged, "hinge"),
        ("D", ~frame.hinged & frame.released.reshape(-1, 2, 6).any(axis=2), "single release"),
    ):
        places = [place for e, k, place in ends if marked[e, k]]
        if places:
            ax.plot(*np.array(places).T, mark, color="white", markeredgecolor=INK, markersize=4,
                    linestyle="none", zorder=5, label=said if sections else "_")
    feet = {int(frame.ends[m.elements[0], 0]) for m in own}
    _feet(ax, frame, at, [k for k, node in enumerate(frame.supports) if int(node) in feet])
    if sections:
        _section_names(ax, frame, own, at)
    _axis_names(ax, results, name, at, own, frame)
    return at


def _section_names(ax: Axes, frame: Frame, own: Iterable[Member], at: Floats) -> None:
    """The section beside each member, where it differs from that of its neighbor before."""
    last: dict[tuple[str, str], str] = {}
    for m in sorted(own, key=lambda m: (m.end[2], m.kind)):  # from below upwards
        row = (m.kind, "" if m.kind == "beam" else m.axis)
        if last.get(row) == m.section:
            continue
        last[row] = m.section
        a, b = at[list(ends_of(frame, m))]
        middle = (a + b) / 2
        offset, across, along = (3, 0), "left", "center"
        if m.kind == "beam":
            offset, across, along = (0, 2), "center", "bottom"
        elif m.kind == "brace":  # on its upper side near its head, where the bay has room
            side, middle = -1 if (b[0] - a[0]) * (b[1] - a[1]) > 0 else 1, a + 0.72 * (b - a)
            offset, across, along = (4 * side, 2), "right" if side < 0 else "left", "bottom"
        ax.annotate(m.section, (float(middle[0]), float(middle[1])), fontsize=7,
                    color=HUES[m.kind], xytext=offset, textcoords="offset points",
                    rotation=90 if m.kind == "column" else 0, gid=MAY_GO, ha=across, va=along)


def _axis_names(
    ax: Axes, results: Results, name: str, at: Floats, own: list[Member], frame: Frame
) -> None:
    """Names of the axes that cross, above; levels at the left."""
    building = results.project.building
    assert building.axes is not None
    size = results.units.size("length")
    axes = building.axes
    crossing = {b: float(axes.along(name, axes.cross(name, b))) for b in axes.others(name)}
    nodes = nodes_on(results, name, own)
    top = float(at[nodes, 1].max())
    across = np.concatenate([at[nodes, 0], *(
        drawn(results, name, at, *ends_of(frame, m))[:, 0] for m in own)])
    low, high = float(across.min()), float(across.max())
    for label, value in crossing.items():
        if low - 1e-6 <= value / size <= high + 1e-6:
            ax.annotate(label, (value / size, top), xytext=(0, 12), textcoords="offset points",
                        ha="center", fontsize=8, color=INK,
                        bbox={"boxstyle": "circle,pad=0.25", "facecolor": "white",
                              "edgecolor": SOFT, "linewidth": 0.8})
    floors = sorted({int(f) for f in frame.floors[nodes]} - {-1}, reverse=True)
    floors = floors[::1 + len(floors) // 24]  # more names than this can't be read
    ax.set_yticks([building.elevations[i] / size for i in floors],
                  [building.levels[i].name + (", held" if i in building.held else "")
                   for i in floors])
    plain(ax, f"along axis {name} ({results.units.label('length')})", "")
    ax.grid(False)
    pad = 0.06 * max(high - low, 1e-9)
    ax.set_xlim(low - pad, high + pad)
    foot = float(at[nodes, 1].min())
    ax.set_ylim(foot - 0.03 * (top - foot), top + 0.03 * (top - foot))


def nodes_on(results: Results, axis: str, own: Sequence[Member]) -> NDArray[np.intp]:
    """The nodes of members and walls on an axis."""
    frame = framed_of(results.model).frame
    panels, walled = frame.panels, walls_on_axis(results, axis)
    found = [frame.ends[[e for m in own for e in m.elements]].ravel().astype(np.intp)]
    if panels is not None and walled:
        found.append(panels.nodes[np.isin(panels.wall, walled)].ravel())
    return np.unique(np.concatenate(found))


@as_written
def elevation(results: Results, axis: str) -> Figure:
    """The members on an axis with their sections, hinges and feet."""
    figure = new_figure(8.6, 6.4, f"Elevation of axis {axis}: {results.project.title}")
    ax = figure.add_subplot()
    draw_elevation(ax, results, axis, sections=True)
    _legend(ax, framed_of(results.model).frame)
    figure.legend(*ax.get_legend_handles_labels(), frameon=False, fontsize=8, ncols=5,
                  loc="lower center")
    settle(figure, [level.name for level in results.project.building.levels], bottom=0.95, top=0.9)
    spaced(figure)
    return figure


def main_axes(results: Results, count: int = 4) -> list[str]:
    """The axes with most members, those with braces and with the longest walls first, both ways or
    along the plane."""
    axes = results.project.building.axes
    panels = framed_of(results.model).frame.panels
    if axes is None:
        return []
    found = []
    for d, family in (("X", axes.y), ("Y", axes.x)):
        if d not in results.directions:
            continue
        ranked: list[tuple[int, float, int, int, str]] = []
        for name in family:
            try:
                own = on_axis(results, name)
            except InputError:
                continue
            size = sum(run.length for w in walls_on_axis(results, name)
                       for run in [panels.walls[w]]) if panels is not None else 0.0
            ranked.append((-sum(m.kind == "brace" for m in own), -round(size, 6), -len(own),
                           len(ranked), name))
        found += [name for *_, name in sorted(ranked)[:count // 2]]
    return found


@as_written
def elevations(results: Results) -> Figure:
    """The main axes both ways, side by side."""
    names = main_axes(results)
    walled = framed_of(results.model).frame.panels is not None
    figure = new_figure(11.0, 5.6, "Elevations: members and walls by axis" if walled else
                        "Elevations: members by axis")
    axes = figure.subplots(1, len(names), squeeze=False)[0]
    for ax, name in zip(axes, names, strict=True):
        draw_elevation(ax, results, name, sections=True)
    _legend(axes[0], framed_of(results.model).frame)
    figure.legend(*axes[0].get_legend_handles_labels(), frameon=False, fontsize=8, ncols=5,
                  loc="lower center")
    levels = [level.name for level in results.project.building.levels]
    settle(figure, levels, columns=len(names), gap=0.3 + 0.075 * max(map(len, levels)),
           bottom=0.95, top=0.9)
    spaced(figure)
    return figure


@as_written
def shapes(results: Results, count: int = 3) -> Figure:
    """The first modes in space: the members where they swing to, over where they stand."""
    framed = framed_of(results.model)
    frame, modes = framed.frame, results.modes
    count = min(count, modes.count)
    figure = new_figure(11.0, 5.4, "Modes in space")
    axes = figure.subplots(1, count, squeeze=False)[0]
    still, _ = seen(frame.points)
    edges = wall_paths(frame)
    reach = 0.09 * float(np.ptp(frame.points, axis=0).max())
    for m, ax in enumerate(axes):
        moved = framed.moved(modes.shapes[:, m]).reshape(-1, 6)[:, :3]
        moved = moved * reach / max(float(np.abs(moved).max()), 1e-300)
        at, near = seen(frame.points + moved)
        walls.in_space(ax, frame, at, near, lines=False)
        ax.add_collection(LineCollection(
            [*still[frame.ends], *(still[list(p.points)] for p in edges)], colors="#c9d0d8",
            linewidths=0.6))
        ax.add_collection(LineCollection(list(at[frame.ends]), colors=_colors(frame),
                                         linewidths=0.9))
        ax.set_aspect("equal")
        ax.autoscale_view()
        ax.axis("off")
        share = modes.mass_ratios[m]
        ax.set_title(modes.title(m), fontsize=10,
                     color=INK, y=1.0)
        said = [f"{'mass ' if not k else ''}{name} {share[COMPONENTS.index(name)]:.1%}"
                for k, name in enumerate(results.model.components)]
        ax.text(0.5, -0.02, ", ".join(said),
                transform=ax.transAxes, ha="center", va="top", fontsize=8, color=INK)
    figure.text(0.01, 0.02, "gray: undeformed; displacements not to scale", fontsize=8,
                color=SOFT)
    figure.subplots_adjust(left=0.01, right=0.99, bottom=0.1, top=0.86, wspace=0.05)
    return figure


def layouts(results: Results) -> list[frozenset[tuple[object, ...]]]:
    """What stands and lies on every level, to tell which plans are the same."""
    found: dict[str, set[tuple[object, ...]]] = {name: set() for name in results.model.levels}
    frame = None if results.model.framed is None else results.model.framed.frame
    for m in () if frame is None else frame.members:
        if m.level in found:
            found[m.level].add((m.kind, m.section, m.start[:2], m.end[:2]))
    for run in () if frame is None or frame.panels is None else frame.panels.walls:
        for place, i in enumerate(run.stories):
            found[results.model.levels[i]].add(
                ("wall", run.name, run.thickness[place], tuple(run.segments(place))))
    return [frozenset(found[name]) for name in results.model.levels]


def on_plan(ax: Axes, results: Results, levels: Sequence[int]) -> None:
    """Members of a group of levels in plan: beams, columns by their size, braces; and the axes."""
    framed, axes = results.model.framed, results.project.building.axes
    if framed is None:
        return
    frame, size = framed.frame, results.units.size("length")
    walls.in_plan(ax, frame, levels[0], size)
    level = next((i for i in levels if i in set(frame.floors[frame.ends[:, 1]].tolist())), None)
    if level is None:
        if axes is not None:
            _name_axes(ax, axes, size)
        return
    name = results.model.levels[level] if level < results.model.n else ""
    for m in frame.members:
        if m.level != name:
            continue
        if m.kind == "column":
            e = m.elements[0]
            p = frame.sections[frame.section[e]]
            half = [k * v / 2 for k, v in ((max(p.width, 0.2), frame.axes[e, 1, :2]),
                                           (max(p.depth, 0.2), frame.axes[e, 2, :2]))]
            corners = [np.add(m.end[:2], i * half[0] + j * half[1]) / size
                       for i, j in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
            ax.fill(*np.array(corners).T, color=HUES["column"], linewidth=0.5, zorder=3)
        else:
            line = np.array([m.start[:2], m.end[:2]]) / size
            ax.plot(*line.T, color=HUES[m.kind], linewidth=3 * WIDTHS[m.kind] - 1.5
                    if m.kind == "brace" else 1.2, alpha=0.75, zorder=2)
    if axes is not None:
        _name_axes(ax, axes, size)


def _name_axes(ax: Axes, axes: GridAxes, size: float) -> None:
    """Names of the axes at the edge of a plan."""
    x0, x1 = ax.get_xlim()
    y0, y1 = ax.get_ylim()
    for label, x in axes.x.items() if axes.plain else ():
        if x0 <= x / size <= x1:
            ax.annotate(label, (x / size, y1), xytext=(0, -8), textcoords="offset points",
                        ha="center", va="center", fontsize=7, color=SOFT)
    for label, y in axes.y.items() if axes.plain else ():
        if y0 <= y / size <= y1:
            ax.annotate(label, (x1, y / size), xytext=(-7, 0), textcoords="offset points",
                        ha="center", va="center", fontsize=7, color=SOFT)
    for label in () if axes.plain else (*axes.y, *axes.x):  # at the end of each
        last = np.array(axes.cross(label, axes.others(label)[-1])) / size
        if x0 <= last[0] <= x1 and y0 <= last[1] <= y1:
            out = 9 * axes.direction(label, axes.cross(label, axes.others(label)[-1]))
            ax.annotate(label, tuple(last), xytext=tuple(out), textcoords="offset points",
                        ha="center", va="center", fontsize=7, color=SOFT)
