"""Story drift as a share of its limit, over the height: what decides is boldest."""

from __future__ import annotations

from typing import Any

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.report.drawing import COLORS, INK, LIMIT, as_written, new_figure, plain, settle
from undatum.report.over_height import heights, level_ticks, stepped
from undatum.results.results import Results
from undatum.standards.terms import DIRECTIONS

Floats = NDArray[np.float64]
OTHER = "#c3cad3"
#: Of the sets that do not govern: no two of one direction look alike.
DASHES: tuple[Any, ...] = ("--", ":", "-.", (0, (6, 1, 1, 1, 1, 1)), (0, (1, 3)), (0, (9, 3)))


@as_written
def drift(results: Results) -> Figure:
    """Largest design drift of each set as a share of the limit, both directions.

    The set that governs is the bold line, its stories above the limit in a color of their own.
    Where there is no limit the drift ratio stands in its place, in percent.
    """
    figure = new_figure(10.4, 5.7, f"Design story drift against the limit{of_state(results)}")
    axes = figure.subplots(1, len(results.directions), sharey=True, squeeze=False)[0]
    _, z = heights(results)
    for ax, d in zip(axes, results.directions, strict=True):
        _curves(ax, results, DIRECTIONS.index(d))
    axes[0].set_ylim(0, 1.1 * z.max())
    settle(figure, level_ticks(axes[0], results), columns=len(axes), bottom=1.35, top=0.85)
    return figure


def of_state(results: Results) -> str:
    """The limit state that decides, for headings, where there are several."""
    return f", {results.drift.state.key}" if len(results.drifts) > 1 else ""


def _curves(ax: Axes, results: Results, c: int) -> None:
    check, d = results.drift, DIRECTIONS[c]
    above, _ = heights(results)
    every = check.at_edges[c] or bool(check.everywhere.any())
    points = slice(None) if every else slice(0, 1)
    limited = bool(np.isfinite(check.limits[c]))
    values = 100 * np.nanmax(np.abs((check.use if limited else check.ratios)[:, points, :, c]), 1)
    governing = check.governing(c)[0] if limited else -1
    dashes = {main: iter(DASHES * len(check.sets)) for main in (True, False)}
    for s, name in enumerate(check.sets):
        main, governs = check.directions[s] == d, s == governing
        ax.plot(*stepped(results, values[s, above]),
                color=INK if governs else COLORS[d] if main else OTHER,
                linewidth=3 if governs else 1.3 if main else 0.9,
                linestyle="-" if governs else next(dashes[main]),
                label=f"{name} (governs)" if governs else name if main else None,
                zorder=4 if governs else 2 if main else 1)
    if any(other != d for other in check.directions):
        ax.plot([], [], color=OTHER, linewidth=0.9, label="other direction")
    ax.set_xlim(0, 1.18 * max(100.0 if limited else 0.0, float(values[:, above].max())))
    deciding = check.deciding(c)
    plain(ax, f"design drift over {'allowable drift' if limited else 'story height'} (%)", "",
          (_verdict(ax, results, c, values[governing]) if limited else f"{d}: no limit")
          + f"\n{'largest of all points' if every else 'at the center of mass'}"
          + (f"; the {deciding} analysis governs" if deciding else ""))
    ax.legend(frameon=False, fontsize=8, ncols=2, loc="upper center", bbox_to_anchor=(0.5, -0.15))


def _verdict(ax: Axes, results: Results, c: int, use: Floats) -> str:
    """Draw the limit, the largest drift and what exceeds in a color of its own; say which it is."""
    check = results.drift
    above, _ = heights(results)
    ax.axvline(100, color=LIMIT, linewidth=1.6)
    left = ax.get_xlim()[1] < 200  # the side with more room
    ax.annotate(f"limit {100 * check.limits[c]:.2f} % of story height", (100, 1.0), color=LIMIT,
                fontsize=9, xycoords=("data", "axes fraction"), xytext=(-5 if left else 5, -2),
                textcoords="offset points", ha="right" if left else "left", va="top")
    story = check.governing(c)[2]
    exceeds = bool(use[story] > 100)
    if exceeds:
        ax.plot(*stepped(results, np.where(use > 100, use, np.nan)[above]), color=LIMIT,
                linewidth=4, zorder=5, label="exceeds", solid_capstyle="butt")
    middle = float(results.model.heights[story] - check.heights[story] / 2)
    ax.plot(use[story], middle / results.units.size("length"), "o",
            color=LIMIT if exceeds else INK, markersize=7, zorder=6)
    return (f"{DIRECTIONS[c]}: {use[story]:.0f} % of the limit in {check.levels[story]}"
            + (", exceeds" if exceeds else ""))
