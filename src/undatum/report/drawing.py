"""What all figures share: colors, margins set by hand, texts drawn as they are written."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from matplotlib import rc_context
from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.text import Annotation
from matplotlib.ticker import AutoLocator, MaxNLocator
from matplotlib.transforms import ScaledTranslation

INK = "#1f2a37"
SOFT = "#8a94a3"
COLORS = {"X": "#1b6ca8", "Y": "#c8611a"}
LIMIT = "#a3123a"
FLOOR = "#e9edf2"


P = ParamSpec("P")
R = TypeVar("R")


def as_written(draw: Callable[P, R]) -> Callable[P, R]:
    """Draw with every text as it is written: a "$" in a name is no formula.

    Letters are not fitted to the pixels, which takes time and is not seen at this resolution.
    """

    @wraps(draw)
    def drawn(*args: P.args, **kwargs: P.kwargs) -> R:
        with rc_context({"text.parse_math": False, "text.hinting": "no_hinting"}):
            return draw(*args, **kwargs)

    return drawn


def new_figure(width: float, height: float, title: str) -> Figure:
    figure = Figure(figsize=(width, height))
    FigureCanvasAgg(figure)
    figure.suptitle(title, fontsize=12, fontweight="bold", color=INK, x=0.01, ha="left")
    return figure


def settle(
    figure: Figure, ticks: Iterable[str] = ("0.00",), *, columns: int = 1, rows: int = 1,
    label: bool = False, gap: float = 0.3, row_gap: float = 0.85, bottom: float = 0.55,
    top: float = 0.68,
) -> None:
    """Give the axes their place: margins and gaps in inches, the left one by its tick labels.

    Measuring every text, as a layout engine does, takes longer than the drawing itself.
    """
    width, height = figure.get_size_inches()
    left = 0.22 + 0.075 * max(map(len, ticks)) + (0.22 if label else 0.0)
    across = (width - left - 0.25 - (columns - 1) * gap) / columns
    up = (height - bottom - top - (rows - 1) * row_gap) / rows
    figure.subplots_adjust(
        left=left / width, right=1 - 0.25 / width, bottom=bottom / height, top=1 - top / height,
        wspace=gap / across, hspace=row_gap / up)
    for ax in figure.axes:
        _place_labels(figure, ax, left if ax.get_ylabel() else 0.0)


def _place_labels(figure: Figure, ax: Axes, left: float) -> None:
    """Put the labels of the axes where their margins are, in inches: nothing is measured then."""
    below = ScaledTranslation(0, -0.29, figure.dpi_scale_trans)
    ax.xaxis.set_label_coords(0.5, 0.0, ax.transAxes + below)
    beside = ScaledTranslation(0.27 - left, 0, figure.dpi_scale_trans)
    ax.yaxis.set_label_coords(0.0, 0.5, ax.transAxes + beside)


MAY_GO = "may go"  # the gid of labels that repeat what others say


def spaced(figure: Figure) -> None:
    """Take away labels that may go where they would lie on others, those said before first."""
    canvas: Any = figure.canvas
    renderer = canvas.get_renderer()
    for ax in figure.axes:
        mine = [one for one in ax.texts if one.get_gid() == MAY_GO]
        if not mine:
            continue
        said = [one.get_text() for one in mine]
        first = {text: k for k, text in reversed([*enumerate(said)])}
        fixed = [one for one in ax.texts if one.get_gid() != MAY_GO]
        kept = [one.get_window_extent(renderer) for one in (*fixed, *ax.get_yticklabels())]
        for k in sorted(range(len(mine)), key=lambda k: (first[said[k]] != k, k)):
            box = mine[k].get_window_extent(renderer)
            below = ax.bbox.y0 + 2 - box.y0
            if below > 0 and isinstance(mine[k], Annotation):  # on the ticks: lift it
                label: Any = mine[k]
                label.xyann = (label.xyann[0], label.xyann[1] + below * 72 / figure.dpi)
                box = mine[k].get_window_extent(renderer)
            if any(min(box.x1, b.x1) - max(box.x0, b.x0) > 1
                   and min(box.y1, b.y1) - max(box.y0, b.y0) > 1 for b in kept):
                mine[k].remove()
            else:
                kept.append(box)


def plain(ax: Axes, x: str, y: str, title: str = "") -> None:
    ax.set_xlabel(x, color=INK)
    ax.set_ylabel(y, color=INK)
    if title:
        ax.set_title(title, fontsize=10, color=INK, loc="left", y=1.0)
    ax.grid(True, color="#dfe4ea", linewidth=0.6)
    ax.set_axisbelow(True)
    for side in ("top", "right"):
        ax.spines[side].set_visible(False)
    ax.tick_params(colors=INK, labelsize=9)
    for axis in (ax.xaxis, ax.yaxis):  # every tick costs; six are enough to read by
        if isinstance(axis.get_major_locator(), AutoLocator):
            axis.set_major_locator(MaxNLocator(6, steps=(1, 2, 2.5, 5, 10)))
