"""Walls drawn: in plan, in elevation, in space; their actions over the height, their panels."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from matplotlib.axes import Axes
from matplotlib.cm import ScalarMappable
from matplotlib.collections import PolyCollection
from matplotlib.colors import TwoSlopeNorm
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.errors import Fault, InputError
from undatum.finding import several
from undatum.layout.frame import Frame
from undatum.layout.panels import WallRun
from undatum.readings.layouts import Reading
from undatum.readings.of_walls import OF_CORES, OF_WALLS
from undatum.report.drawing import INK, SOFT, as_written, new_figure, plain, settle
from undatum.report.one import HUES, curves_of, dash, names_below
from undatum.results.results import Results
from undatum.standards.terms import Method

Floats = NDArray[np.float64]
FACE, EDGE = "#c3c0b6", "#57544a"
FIELD = "PuOr"  # told apart in gray by the values written, and without red against green
WORDS = {"sideways": "along the wall", "upwards": "up the wall", "shear": "in shear"}


def in_plan(ax: Axes, frame: Frame, level: int, size: float) -> None:
    """Walls of the story below a level with their thickness; door and window gaps left open."""
    panels, named = frame.panels, False
    for run in () if panels is None else panels.walls:
        if level not in run.stories:
            continue
        place = run.stories.index(level)
        across = np.array([-run.along[1], run.along[0]]) * run.thickness[place] / 2
        for k, (a, b) in enumerate(run.segments(place)):
            p, q = (np.add(run.start, run.along * s) for s in (a, b))
            ax.fill(*(np.array([p - across, q - across, q + across, p + across]) / size).T,
                    facecolor=FACE, edgecolor=EDGE, linewidth=0.9, zorder=2.5,
                    label="_" if k or named else "wall")
            named = True
        for a, b, *_ in run.holes[place]:
            p, q = (np.add(run.start, run.along * s) / size for s in (a, b))
            ax.plot(*np.array([p, q]).T, color=EDGE, linewidth=0.8, linestyle=":", zorder=2.5)


def in_space(ax: Axes, frame: Frame, at: Floats, near: Floats | None = None, *,
             lines: bool = True) -> None:
    """Panels of walls, and of floors that deform, as they are seen: ``at`` (M, 2) on the sheet and
    how ``near`` (M,) each node is, so that what is near lies on what is far."""
    parts = [(one.nodes, face, edge) for one, face, edge in (
        (frame.slabs, "#eef1f5", "#d3dae2"), (frame.panels, FACE, "#a19d8f")) if one is not None]
    for nodes, face, edge in parts:
        order = np.arange(len(nodes)) if near is None else np.argsort(near[nodes].mean(axis=1))
        ax.add_collection(PolyCollection(
            list(at[nodes[order]]), facecolors=face, edgecolors=edge if lines else face,
            linewidths=0.25 if lines else 0.0, alpha=0.75, zorder=0.6))


def edges_in_space(frame: Frame) -> list[Floats]:
    """(4, 3) corners of what stands of each wall in each story, and of its openings."""
    panels = frame.panels
    return [np.column_stack([run.start + np.outer(ring[:, 0], run.along), ring[:, 1]])
            for run in (() if panels is None else panels.walls)
            for place in range(len(run.stories)) for ring in rings(run, place)]


def rings(run: WallRun, place: int) -> list[Floats]:
    """(4, 2) corners along the wall and in elevation of what stands in a story: the whole, then
    its openings."""
    low, high = run.reach[place]
    return [np.array([[a, z0], [b, z0], [b, z1], [a, z1]])
            for a, b, z0, z1 in [(0.0, run.length, low, high), *run.holes[place]]]


def on_sheet(ax: Axes, frame: Frame, along: Floats, walls: Sequence[int], size: float) -> None:
    """Walls of an elevation: ``along`` (2,) plan coordinates run along the sheet."""
    panels = frame.panels
    assert panels is not None
    for w in walls:
        run = panels.walls[w]
        start, way = float(run.start @ along), float(run.along @ along)
        mine = panels.box[panels.wall == w]
        if len(mine) < 4000:
            ax.add_collection(PolyCollection(
                [np.array([[start + way * s, z] for s, z in (
                    (b[0], b[2]), (b[1], b[2]), (b[1], b[3]), (b[0], b[3]))]) / size
                 for b in mine], facecolors="none", edgecolors="#aeab9f", linewidths=0.3,
                zorder=0.6))
        low = min(a for a, _ in run.reach)
        ends = np.array([start, start + way * run.length]) / size
        ax.plot(ends, [low / size] * 2, color=INK, linewidth=2.2, zorder=0.9)
        for place in range(len(run.stories)):
            whole, *openings = rings(run, place)
            whole = np.column_stack([start + way * whole[:, 0], whole[:, 1]]) / size
            ax.fill(*whole.T, facecolor=FACE, edgecolor="none", zorder=0.5)
            ax.fill(*whole.T, fill=False, edgecolor=EDGE, linewidth=1.0, zorder=0.8)
            for ring in openings:
                ring = np.column_stack([start + way * ring[:, 0], ring[:, 1]]) / size
                ax.fill(*ring.T, facecolor="white", edgecolor=EDGE, linewidth=1.0, zorder=0.8)


@as_written
def wall_forces(
    results: Results, name: str, under: str = "", by: Method = "spectrum", *, signed: bool = False
) -> Figure:
    """The six actions of one wall or core over its height, under what one reading takes.

    Raises InputError where there is no such wall or core.
    """
    panels = None if results.model.framed is None else results.model.framed.frame.panels
    cores = {} if panels is None else panels.cores
    found = results.read("cores" if name in cores else "walls", name, under, by=by, signed=signed)
    whole = [k for k, part in enumerate(found.thing.places.get(
        "part", ("whole wall",) * len(found.thing.places["story"]))) if part == "whole wall"]
    levels, d = results.model.levels, results.model.diaphragms
    floors = [levels.index(found.thing.places["story"][k]) for k in whole]
    at = [found.thing.places["at"][k] for k in whole]
    z = np.array([d.elevations[i] - (d.story_heights[i] if word == "foot" else 0.0)
                  for i, word in zip(floors, at, strict=True)]) / results.units.size("length")
    figure = new_figure(10.4, 6.4, f"{name}: {results.project.title}")
    axes = figure.subplots(2, 3, sharey=True).ravel()
    curves = [(said, values[whole]) for said, values in curves_of(found)]
    for c, (ax, action) in enumerate(zip(axes, OF_CORES if name in cores else OF_WALLS,
                                         strict=True)):
        dimension = "force" if c < 3 else "moment"
        size, unit = results.units.size(dimension), results.units.label(dimension)
        ax.axvline(0.0, color=SOFT, linewidth=0.8)
        for k, (said, values) in enumerate(curves):
            own = values[:, c] / size
            hue = HUES[k % len(HUES)]
            ax.plot(own, z, color=hue, linewidth=1.5, label=said, linestyle=dash(k))
            lead = int(np.argmax(np.abs(own)))
            if abs(own[lead]) > 1e-9 * np.abs(values).max(initial=1e-300) / size:
                ax.annotate(written(own[lead]), (float(own[lead]), float(z[lead])), fontsize=7.5,
                            color=hue, ha="right" if own[lead] > 0 else "left", va="center",
                            xytext=(-5 if own[lead] > 0 else 5, -6), textcoords="offset points")
        plain(ax, f"{action} ({unit})", "")
        ax.margins(x=0.12, y=0.08)
    ticks = dict(zip((float(v) for v in z), ((levels[i] if word == "head" else "") for i, word in
                                             zip(floors, at, strict=True)), strict=True))
    some = {v: name_ for v, name_ in ticks.items() if name_}
    keep = list(some)[::1 + len(some) // 14]
    axes[0].set_yticks(keep, [some[v] for v in keep])
    names_below(figure, axes[0], 3)
    figure.text(0.01, 0.01, f"{found.thing.title}{found.said}", fontsize=8, color=SOFT)
    settle(figure, list(some.values()), columns=3, rows=2, gap=0.4, bottom=1.25)
    return figure


@as_written
def foot_forces(
    results: Results, wall: str, under: str = "", by: Method = "spectrum", *, signed: bool = False
) -> Figure:
    """What the ground does along the foot of one wall, per length, under what one reading takes.

    Raises InputError where there is no such wall.
    """
    found = results.read("feet", wall or " ", under, by=by, signed=signed)
    assert results.model.framed is not None
    panels = results.model.framed.frame.panels
    assert panels is not None
    own = np.array([int(k) for k in found.thing.quantity.labels["panel"][::3]], dtype=np.intp)
    run, size = panels.walls[int(panels.wall[own[0]])], results.units.size("length")
    order = np.argsort(panels.box[own, 0])
    s = panels.box[own[order], :2].ravel() / size  # both ends of every panel
    figure = new_figure(10.4, 6.4, f"Foot of {wall}: {results.project.title}")
    axes = figure.subplots(3, 1, sharex=True)
    unit = results.units.size("line load")
    for k, (said, values) in enumerate(curves_of(found)):
        for c, ax in enumerate(axes):
            ax.plot(s, np.repeat(values[order, c] / unit, 2), color=HUES[k % len(HUES)],
                    linewidth=1.5, label=said, linestyle=dash(k))
    for ax, (word, _) in zip(axes, found.thing.components, strict=True):
        ax.axhline(0.0, color=SOFT, linewidth=0.8)
        for a, b, *_ in run.holes[0]:
            ax.axvspan(a / size, b / size, color="#f1f0ec", zorder=0)
        plain(ax, "", "", f"{word} ({results.units.label('line load')})")
    axes[2].set_xlabel(f"from the start of the wall ({results.units.label('length')})", color=INK)
    names_below(figure, axes[0], 3)
    figure.text(0.01, 0.01, f"{found.thing.title}{found.said}; openings in gray", fontsize=8,
                color=SOFT)
    settle(figure, ["-0000.0"], columns=1, rows=3, gap=0.2, bottom=1.15)
    return figure


@as_written
def panel_field(
    results: Results, wall: str, under: str = "", by: Method = "spectrum", *,
    signed: bool = False,
) -> Figure:
    """Forces per length at the centers of the panels of one wall in color, with their largest
    values written. Raises InputError for several sources at once, or what is not there."""
    found = results.read("panels", wall or " ", under, by=by, signed=signed)
    if len(found.high) != 1:
        raise InputError([Fault("under", f"{under or 'sets'!r} gives {several(found.names)}",
                                "name one set, mode, load case or kind of combinations")])
    assert results.model.framed is not None
    panels = results.model.framed.frame.panels
    assert panels is not None
    own = np.array([int(k) for k in found.thing.places["panel"]], dtype=np.intp)
    box = panels.box[own] / results.units.size("length")
    tall = 2.2 * float(np.ptp(box[:, 2:])) > float(np.ptp(box[:, :2]))
    figure = new_figure(10.4, 6.4, f"{wall}: {found.names[0]}")
    axes = figure.subplots(*((1, 3) if tall else (3, 1)), sharex=True, sharey=True)
    values = _decisive(found) / results.units.size("line load")
    run = panels.walls[int(panels.wall[own[0]])]
    levels = results.project.building.levels
    step = 1 + len(run.stories) // (18 if tall else 6)
    names = [levels[i].name for i in run.stories[::step]]
    settle(figure, names, columns=3 if tall else 1, rows=1 if tall else 3, bottom=0.8, top=0.8,
           gap=0.9)
    figure.subplots_adjust(right=0.93)
    for c, (ax, word) in enumerate(zip(axes, WORDS.values(), strict=True)):
        _field(figure, ax, box, values[:, c], f"{word} ({results.units.label('line load')})")
        ax.set_yticks([run.reach[k][1] / results.units.size("length")
                       for k in range(0, len(run.stories), step)], names)
        if tall or c == 2:
            ax.set_xlabel(f"from the start ({results.units.label('length')})", color=INK)
    figure.text(0.01, 0.015, f"At the centers of panels, tension positive. {found.thing.title}"
                f"{found.said}", fontsize=8, color=SOFT)
    return figure


def _field(figure: Figure, ax: Axes, box: Floats, values: Floats, title: str) -> None:
    """Panels in color, and the largest and smallest value where they are."""
    most = max(float(np.abs(values).max(initial=0.0)), 1e-12)
    norm = TwoSlopeNorm(0.0, -most, most)
    faces = PolyCollection(
        [np.array([[b[0], b[2]], [b[1], b[2]], [b[1], b[3]], [b[0], b[3]]]) for b in box],
        cmap=FIELD, norm=norm, edgecolors="white" if len(box) < 600 else "face",
        linewidths=0.2)
    faces.set_array(values)
    ax.add_collection(faces)
    for k, up in {int(np.argmax(values)): 8, int(np.argmin(values)): -8}.items():
        if abs(values[k]) < 0.25 * most:
            continue
        ax.annotate(written(values[k]), (float(box[k, :2].mean()), float(box[k, 2:].mean())),
                    fontsize=7.5, color=INK, ha="center", va="center", xytext=(0, up),
                    textcoords="offset points",
                    bbox={"facecolor": "white", "edgecolor": "none", "alpha": 0.8, "pad": 1})
    plain(ax, "", "", title)
    ax.title.set_fontsize(8.5)
    ax.grid(False)
    ax.set_aspect("equal")
    ax.autoscale_view()
    bar = ax.inset_axes((1.03, 0.0, 0.04 if ax.get_position().height > 0.5 else 0.012, 1.0))
    figure.colorbar(ScalarMappable(norm, FIELD), cax=bar).ax.tick_params(labelsize=7)


def written(value: float) -> str:
    """A number on a picture: four digits, none after the point where there are as many before."""
    return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.4g}"


def _decisive(found: Reading) -> Floats:
    """(p, 3) values of one row; of extremes the one that is larger in size."""
    high = found.high[0].reshape(-1, 3)
    low = high if found.words is None else found.low[0].reshape(-1, 3)
    return np.asarray(np.where(np.abs(low) > np.abs(high), low, high))
