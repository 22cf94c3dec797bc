"""Figures of a run. Each function takes results and returns a Matplotlib figure."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.patches import PathPatch
from matplotlib.path import Path as Shape
from numpy.typing import NDArray

from undatum.building.outline import Outline
from undatum.ground.motion import RecordSpectra
from undatum.ground.spectrum import CombinedSpectrum
from undatum.job.by_standards import SideBySide
from undatum.job.site_only import SiteSpectra
from undatum.report import diagrams, drift_curves, frames, painted
from undatum.report.drawing import (
    COLORS,
    FLOOR,
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
from undatum.report.over_height import apart, heights, jointed, level_ticks, stepped
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces
from undatum.stages.shaking import Shaking
from undatum.standards.terms import DIRECTIONS, METHODS
from undatum.units import STANDARD_GRAVITY, factor


def _unit(results: Results, dimension: str) -> str:
    return results.units.label(dimension)


@as_written
def spectrum(results: Results) -> Figure:
    """Design spectrum with its corner periods and the building's periods marked on it."""
    periods = results.modes.periods
    figure, ax, t = _spectra(results.shaking, max(3.0, 1.6 * float(periods[0])))
    of = {d: results.reduced[d, results.strength.key] for d in results.directions}
    reduced = {d: one(t) / STANDARD_GRAVITY for d, one in of.items()}
    one, *others = reduced.values()
    same = bool(others) and all(np.allclose(one, other) for other in others)
    for d in results.directions[: 1 if same else 2]:
        ax.plot(t, reduced[d], color=SOFT if same else COLORS[d], linewidth=1.4, linestyle="--",
                label=f"{of[d].name}, {'X and Y' if same else d}")
    for d in results.directions:
        at = float(periods[results.modes.governing(DIRECTIONS.index(d))])
        value = float(results.shaking.horizontal[d](np.array(at))) / STANDARD_GRAVITY
        ax.plot([at, at], [0, value], color=COLORS[d], linewidth=1.2)
        ax.plot(at, value, "o", color=COLORS[d], markersize=7,
                label=f"first mode in {d}: {at:.3f} s, {value:.3f} g")
    ax.legend(frameon=False, fontsize=9, loc="upper right", bbox_to_anchor=(1.0, 0.93))
    return figure


@as_written
def site_spectrum(spectra: SiteSpectra | StackForces) -> Figure:
    """Design spectra of a site without a building."""
    return shaking_spectrum(spectra.shaking)


@as_written
def shaking_spectrum(shaking: Shaking) -> Figure:
    """Design spectra before reduction."""
    figure, ax, _ = _spectra(shaking, 4.0)
    ax.legend(frameon=False, fontsize=9, loc="upper right", bbox_to_anchor=(1.0, 0.93))
    return figure


@as_written
def stack_shears(found: StackForces) -> Figure:
    """Static forces and story shears of a stack over its height, for strength."""
    u, key = found.units, found.strength.key
    figure = new_figure(8.6, 5.2, f"Static forces for {key}")
    axes = figure.subplots(1, 2, sharey=True)
    one = found.statics["X", key]
    size, force = u.size("length"), u.size("force")
    edges = np.concatenate([[one.heights[0]], one.heights[1:], [0.0]]) / size
    for ax, title in zip(axes, ("Forces", "Story shears"), strict=True):
        for d in DIRECTIONS:
            s = found.statics[d, key]
            if title == "Forces":
                shift = (0.5 if d == "X" else -0.5) * 0.22 * float(np.min(-np.diff(edges)))
                ax.barh(s.heights / size + shift, s.forces / force,
                        height=0.2 * float(np.min(-np.diff(edges))), color=COLORS[d], label=d)
            else:
                ax.step(np.append(s.story_shears, s.story_shears[-1]) / force, edges,
                        where="pre", color=COLORS[d], linewidth=2 if d == "X" else 1.6,
                        linestyle="-" if d == "X" else "--", label=d)
        plain(ax, f"{title.lower()} ({u.label('force')})", "", title)
        ax.set_xlim(left=0)
    axes[0].set_yticks(one.heights / size, one.levels)
    axes[0].set_ylim(0, edges[0] * 1.06)
    axes[1].legend(frameon=False, loc="upper right")
    settle(figure, one.levels, columns=2)
    return figure


def _spectra(shaking: Shaking, longest: float) -> tuple[Figure, Axes, NDArray[np.float64]]:
    """Horizontal and vertical spectra before reduction, with corners, and the periods drawn."""
    ground, vertical = shaking.horizontal, shaking.vertical
    figure = new_figure(8.6, 4.8, f"Spectrum, {ground['X'].name}")
    ax = figure.add_subplot()
    longest = min(longest, *(one.last_period for one in ground.values()))
    corners = {k: t for k, t in ground["X"].corners.items() if t <= longest}
    t = np.unique(np.concatenate([np.linspace(0, longest, 800), [*corners.values()]]))
    alike = ground["X"] == ground["Y"]
    for d in DIRECTIONS[: 1 if alike else 2]:
        whole = ground[d]
        ax.plot(t, whole(t) / STANDARD_GRAVITY, color=INK if alike else COLORS[d], linewidth=2,
                label=f"horizontal{'' if alike else f' {d}'}, before reduction, "
                f"{whole.damping:.0%} damping")
        parts = whole.parts if isinstance(whole, CombinedSpectrum) else ()
        for part, style in zip(parts, (":", "-.", "--", ":"), strict=False):
            ax.plot(t, part(t) / STANDARD_GRAVITY, color=SOFT, linewidth=1.1, linestyle=style,
                    label=part.name)
    if vertical is not None:
        short = t[t <= vertical.last_period]
        ax.plot(short, vertical(short) / STANDARD_GRAVITY, color="#4a7c3a", linewidth=1.4,
                label=f"{vertical.name}, before reduction")
    every = [*ground.values(), *([vertical] if vertical is not None else [])]
    top = max(float(one(t[t <= one.last_period]).max()) for one in every) / STANDARD_GRAVITY
    last, raised = -np.inf, False
    for name, at in sorted(corners.items(), key=lambda item: item[1]):
        ax.axvline(at, color=SOFT, linewidth=0.8, linestyle=":")
        raised = at - last < 0.13 * longest and not raised  # beside its neighbor it has no room
        last = at
        ax.annotate(f"{name} = {at:.3f} s", (at, top * (1.115 if raised else 1.06)),
                    fontsize=8, color=SOFT, ha="left", va="bottom", xytext=(3, 0),
                    textcoords="offset points")
    ax.set_xlim(0, longest)
    ax.set_ylim(0, top * 1.18)
    plain(ax, "period (s)", "acceleration (g)")
    settle(figure, label=True, top=0.45)
    return figure, ax, t


@as_written
def plan(results: Results) -> Figure:
    """Every different outline with its lateral lines and its centers of mass and rigidity."""
    building, model = results.project.building, results.model
    groups: list[tuple[Outline, list[int]]] = []
    layouts = frames.layouts(results)
    for i in range(model.n):
        outline = building.outline(i)
        near = next((g for g in groups if g[0] == outline and layouts[i] == layouts[g[1][0]] and
                     bool(model.above_base[g[1][0]]) == bool(model.above_base[i])), None)
        if near:
            near[1].append(i)
        else:
            groups.append((outline, [i]))
    figure = new_figure(4.6 * min(len(groups), 3) + 1.2, 4.6 * -(-len(groups) // 3) + 0.4,
                     "Plan: lateral system, centers of mass and rigidity")
    axes = figure.subplots(-(-len(groups) // 3), min(len(groups), 3), squeeze=False)
    size = results.units.size("length")
    for ax in axes.flat[len(groups):]:
        ax.axis("off")
    bounds = np.array([g[0].bounds for g in groups]) / size
    (x0, y0), (x1, y1) = bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
    pad = 0.1 * max(x1 - x0, y1 - y0)
    for ax, (outline, levels) in zip(axes.flat, groups, strict=False):
        _draw_floor(ax, outline, size)
        _draw_lines(ax, results, levels, size, 0.3 * max(x1 - x0, y1 - y0))
        _draw_plumb_points(ax, results, levels, size)
        _draw_centers(ax, results, levels, size)
        names = [model.levels[i] for i in levels]
        ax.set_xlim(x0 - pad, x1 + pad)
        ax.set_ylim(y0 - pad, y1 + pad)
        frames.on_plan(ax, results, levels)
        ax.set_aspect("equal")
        plain(ax, f"x ({_unit(results, 'length')})", f"y ({_unit(results, 'length')})",
               f"{names[0]} to {names[-1]}" if len(names) > 1 else names[0])
    settle(figure, ("-000.0",), columns=axes.shape[1], rows=axes.shape[0], label=True, gap=0.75,
            bottom=1.0)
    handles, labels = axes.flat[0].get_legend_handles_labels()
    figure.legend(handles, labels, frameon=False, fontsize=9, ncols=4, loc="lower center",
                  title="small squares: points where drift is read, by corner number or name"
                  if results.plumb else None,
                  title_fontsize=8)
    return figure


def _draw_floor(ax: Axes, outline: Outline, size: float) -> None:
    rings = [outline.polygon.exterior, *outline.polygon.interiors]
    points = np.concatenate([np.asarray(r.coords) for r in rings]) / size
    codes = np.concatenate([
        [Shape.MOVETO, *[Shape.LINETO] * (len(r.coords) - 2), Shape.CLOSEPOLY] for r in rings
    ])
    ax.add_patch(PathPatch(Shape(points, codes), facecolor=FLOOR, edgecolor=SOFT, linewidth=1))


def _draw_lines(ax: Axes, results: Results, levels: list[int], size: float, usual: float) -> None:
    for line in results.model.lines:
        if line.stiffness is None or not set(levels) & set(line.levels.tolist()):
            continue  # members are drawn one by one
        half = (line.plan_length / size if line.plan_length else usual) / 2
        middle, axis = line.point / size, line.axis
        ends = np.stack([middle - half * axis, middle + half * axis])
        mainly = "X" if abs(axis[0]) >= abs(axis[1]) else "Y"
        ax.plot(*ends.T, color=COLORS[mainly], linewidth=3.5, solid_capstyle="butt")
        turned = float(np.degrees(np.arctan2(axis[1], axis[0])))
        shift = 4 * axis + 6.5 * np.array([-axis[1], axis[0]])
        ax.annotate(line.name, ends[0], xytext=(float(shift[0]), float(shift[1])),
                    textcoords="offset points", fontsize=7, color=COLORS[mainly], ha="left",
                    va="center", rotation=turned if turned <= 90 else turned - 180,
                    rotation_mode="anchor",
                    bbox={"boxstyle": "square,pad=0.05", "facecolor": "white", "alpha": 0.75,
                          "edgecolor": "none"})


def _draw_centers(ax: Axes, results: Results, levels: list[int], size: float) -> None:
    heavy = [i for i in levels if results.model.diaphragms.mass[i] > 0]
    centers = results.model.diaphragms.centers[heavy] / size
    ax.plot(*centers.T, "o", color=INK, markersize=6, label="center of mass", zorder=5)
    rigidity = results.rigidity[levels] / size
    if np.isfinite(rigidity).any():
        ax.plot(*rigidity.T, "x", color=LIMIT, markersize=8, markeredgewidth=2,
                label="center of rigidity", zorder=6)


def _draw_plumb_points(ax: Axes, results: Results, levels: list[int], size: float) -> None:
    """The points where drift is read, by the number or name used in the drift tables."""
    for plumb in results.plumb:
        if not plumb.present[levels].any() or not results.model.above_base[levels].any():
            continue
        point = plumb.points[levels[0]] / size
        ax.plot(*point, "s", color="white", markeredgecolor=SOFT, markersize=4, zorder=4)
        if not plumb.name.startswith(("wall ", "line ")):  # those are drawn with their names
            name = plumb.name.removeprefix("corner ").removeprefix("column ")
            ax.annotate(name, (float(point[0]), float(point[1])),
                        xytext=(4, -9), textcoords="offset points", fontsize=7, color=SOFT)


@as_written
def shears(results: Results) -> Figure:
    """Static story forces, and story shears of the static and the scaled spectrum analysis."""
    figure = new_figure(10.4, 5.2, "Story forces and story shears for strength")
    axes = figure.subplots(1, 2 * len(results.directions), sharey=True)
    above, z = heights(results)
    size, unit = results.units.size("force"), _unit(results, "force")
    for column, d in enumerate(results.directions):
        static = results.statics[d, results.strength.key]
        forces = static.forces[above] / size
        ax = axes[2 * column]
        places, thick = apart(z)
        ax.barh(places, forces, height=thick, color=COLORS[d], alpha=0.85)
        for at, value in zip(places, forces, strict=True):
            ax.annotate(f"{value:.0f}", (value, at), fontsize=8, color=INK, va="center",
                        xytext=(3, 0), textcoords="offset points", gid=MAY_GO)
        ax.set_xlim(0, 1.22 * forces.max())
        plain(ax, f"force ({unit})", "", f"static forces, {d}")
        ax = axes[2 * column + 1]
        shear = static.story_shears[above] / size
        ax.plot(*stepped(results, shear), color=COLORS[d], linewidth=2,
                label=f"static, base {static.forces.sum() / size:.0f}")
        one = next(x for x in results.spectrum_sets
                   if x.direction == d and x.state == results.strength)
        spectral = results.shears.shear.sel(set=one.name, component=d).values[above] / size
        ax.plot(*stepped(results, spectral), color=INK, linewidth=1.8, linestyle="--",
                label="spectrum, base "
                f"{float(one.of(results.model.at_base('story shear', component=d))[0]) / size:.0f}")
        ax.set_xlim(left=0)
        plain(ax, f"story shear ({unit})", "", f"story shears, {d}")
        ax.legend(frameon=False, fontsize=8, loc="lower left")  # shears are largest there
    axes[0].set_ylim(0, 1.06 * z.max())
    settle(figure, level_ticks(axes[0], results), columns=len(axes))
    spaced(figure)
    return figure


@as_written
def modes(results: Results, count: int = 6) -> Figure:
    """Shapes of the first modes over the height: X, Y and the motion at the edge by rotation."""
    count = min(count, results.modes.count)
    figure = new_figure(11.0, 5.2, "Mode shapes (largest component 1)")
    axes = figure.subplots(1, count, sharey=True, squeeze=False)[0]
    floors, n = results.model.diaphragms, results.model.n
    above, z = heights(results)
    base = results.project.building.base_index
    reach = np.sqrt(floors.inertia / np.maximum(floors.mass, 1e-9))  # radius of gyration
    for m, ax in enumerate(axes):
        x, y, turn = results.modes.shapes[floors.freedoms, m].T
        parts = {"X": x, "Y": y, "rotation × r": turn * reach}
        if results.model.plane:
            parts = {d: parts[d] for d in results.directions}
        size = max(np.abs(p).max() for p in parts.values())
        for name, part in parts.items():
            foot = part[base] if base < n else 0.0  # the base may stand on stories below ground
            ax.plot(*jointed(results, part[above] / size, foot / size), linewidth=2, marker="o",
                    color=COLORS.get(name, "#4a7c3a"), markersize=3, label=name)
        ax.axvline(0, color=SOFT, linewidth=0.8)
        ax.set_xlim(-1.15, 1.15)
        ax.set_xticks((-1, 0, 1))
        share = results.modes.mass_ratios[m]
        plain(ax, "", "", f"mode {results.modes.numbers[m]}: {results.modes.periods[m]:.3f} s\n"
               f"{results.modes.kinds[m]}")
        ax.set_xlabel(f"mass {share[DIRECTIONS.index(results.directions[0])]:.1%}"
                      if results.model.plane else
                      f"mass X {share[0]:.1%}\nY {share[1]:.1%}, rot. {share[2]:.1%}", fontsize=8)
    axes[0].set_ylim(0, 1.04 * z.max())
    settle(figure, level_ticks(axes[0], results), columns=count, gap=0.2, bottom=1.15, top=0.85)
    handles, labels = axes[0].get_legend_handles_labels()
    figure.legend(handles, labels, frameon=False, fontsize=9, ncols=3, loc="lower center",
                  title=None if results.model.plane else "r: radius of gyration of the level",
                  title_fontsize=8)
    return figure


@as_written
def side_by_side(comparison: SideBySide) -> Figure:
    """Base shear over weight and drift over limit by several standards."""
    results, whole = comparison.results, comparison.of_structure
    figure = new_figure(10.4, 1.6 + 0.62 * len(results), f"{results[0].project.title}, by standard")
    left, *others = figure.subplots(1, 2 if whole else 1, sharey=True, squeeze=False)[0]
    y = np.arange(len(results))[::-1]
    for d in results[0].directions:
        at = y + 0.2 * (1 - 2 * DIRECTIONS.index(d))
        shear = [comparison.design_level(r, d) for r in results]
        left.barh(at, shear, height=0.36, color=COLORS[d], label=f"{d}, static")
        for place, value in zip(at, shear, strict=True):
            left.annotate(f"{value:.3f}", (0, place), xytext=(4, 0), textcoords="offset points",
                          va="center", fontsize=8, color="white")
    for right in others:
        _spectrum_and_drift(comparison, left, right, y)
    left.set_yticks(y, [r.standard_title for r in results])
    plain(left, "base shear at design level over seismic weight" if whole else
          "static base shear over seismic weight", "")
    for ax, count in zip((left, *others), (3, 4), strict=False):
        ax.grid(False, axis="y")
        ax.legend(frameon=False, fontsize=8, loc="upper center", bbox_to_anchor=(0.5, -0.16),
                  ncols=count)
    settle(figure, [r.standard_title for r in results], columns=1 + len(others), bottom=0.85,
           top=0.45)
    return figure


def _spectrum_and_drift(comparison: SideBySide, left: Axes, right: Axes, y: Any) -> None:
    """Scaled base shears of the spectrum beside the static ones, and drift over its limit."""
    results = comparison.of_structure
    for d in results[0].directions:
        c = DIRECTIONS.index(d)
        at = y + 0.2 * (1 - 2 * c)
        scaled = [next(s.modal_base_shear * s.answer.factor for s in r.scaling
                       if s.direction == d and s.state == r.strength) / r.seismic_weight
                  * comparison.strength_factor(r, d) for r in results]
        left.plot(scaled, at, "D", color=INK, markersize=5,
                  label="spectrum, scaled" if c == 0 else None)
        use = {m: [float(r.drift.use[r.drift.governing(c, method=m)][c]) for r in results]
               for m in METHODS}
        right.barh(at, use["static"], height=0.36, color=COLORS[d], label=f"{d}, static")
        right.plot(use["spectrum"], at, "D", color=INK, markersize=5,
                   label="spectrum" if c == 0 else None)
    right.axvline(1.0, color=LIMIT, linewidth=1.6, label="limit")
    plain(right, "largest drift over its limit", "")


@as_written
def record_spectra(
    spectra: RecordSpectra, rotated: dict[str, Any], results: Results | None, velocity: str,
    displacement: str,
) -> Figure:
    """Pseudo-acceleration of a record beside the design spectrum; velocity and displacement."""
    figure = new_figure(10.4, 5.0, f"Response spectra of {spectra.name}")
    grid = figure.add_gridspec(2, 2, width_ratios=(1.7, 1))
    main, top, low = (figure.add_subplot(grid[:, 0]), figure.add_subplot(grid[0, 1]),
                      figure.add_subplot(grid[1, 1]))
    t = spectra.periods
    shades = ["#1b6ca8", "#6aa5cf", "#aac9e2", "#c8611a", "#8a94a3"]
    for j, z in enumerate(spectra.dampings):
        color, name = shades[j % len(shades)], f"{z:.0%} damping"
        main.plot(t, spectra.pseudo_acceleration[:, j] / STANDARD_GRAVITY, color=color, label=name)
        top.plot(t, spectra.pseudo_velocity[:, j] / factor(velocity, "velocity"), color=color)
        low.plot(t, spectra.displacement[:, j] / factor(displacement, "displacement"), color=color)
    for name, values in rotated.items():
        main.plot(t, values / STANDARD_GRAVITY, color=COLORS["Y"], linewidth=1.6,
                  linestyle="--" if name != "RotD100" else "-", label=name)
    if results is not None:
        inside = np.unique([*t, *(c for c in results.spectrum.corners.values() if c < t[-1])])
        inside = inside[inside <= results.spectrum.last_period]
        main.plot(inside, results.spectrum(inside) / STANDARD_GRAVITY, color=INK,
                  linewidth=2, label=f"design spectrum, {results.spectrum.name}")
    for ax, y in ((main, "pseudo-acceleration (g)"), (top, f"pseudo-velocity ({velocity})"),
                  (low, f"displacement ({displacement})")):
        ax.set_xscale("log")
        ax.xaxis.set_major_formatter(lambda x, _: f"{x:g}")
        ax.set_ylim(bottom=0)
        plain(ax, "period (s)" if ax is not top else "", y)
    main.legend(frameon=False, fontsize=8)
    settle(figure, columns=2, rows=2, label=True, gap=0.8, row_gap=0.3, top=0.45)
    return figure


drift = drift_curves.drift

ALL: dict[str, Callable[[Results], Figure]] = {
    "spectrum": spectrum,
    "plan": plan,
    "mode_shapes": modes,
    "story_shears": shears,
    "drift": drift,
    "drift_painted": painted.drift_painted,
}


def of_run(results: Results) -> dict[str, Callable[[Results], Figure]]:
    """The figures of a run by name: those of every building, and those of members."""
    if results.model.framed is None:
        return dict(ALL)
    asked = {
        name: partial(diagrams.diagram, axis=axis, action=action, under=kind)
        for name, (axis, action, kind) in diagrams.diagrams_asked(results).items()}
    on_axes = {"elevations": frames.elevations} if frames.main_axes(results) else {}
    return {**ALL, "members": frames.space, **on_axes, "modes_in_space": frames.shapes, **asked}


@as_written
def save(figure: Figure, path: str | Path) -> None:
    """Write a PNG that holds nothing but the picture: same figure, same bytes."""
    canvas: Any = FigureCanvasAgg(figure)
    figure.set_dpi(130)  # drawn once, where savefig would draw twice
    canvas.print_png(path, metadata={"Software": None}, pil_kwargs={"compress_level": 1})
