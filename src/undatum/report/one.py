"""One member, or one lateral line, drawn over its length or height with its largest values."""

from __future__ import annotations

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.errors import Fault, InputError
from undatum.finding import several
from undatum.mechanics.actions import ACTIONS, rid_of_round_off
from undatum.readings.layouts import Reading
from undatum.report.drawing import COLORS, INK, SOFT, as_written, new_figure, plain, settle
from undatum.results.results import Results
from undatum.standards.terms import Method

Floats = NDArray[np.float64]
PLACES = tuple(np.linspace(0.0, 1.0, 21).tolist())
TITLES = {"axial": "axial force", "shear_y": "shear along y", "shear_z": "shear along z",
          "torsion": "torsion", "moment_y": "moment about y", "moment_z": "moment about z"}


MOST = 12  # curves that can still be told apart
HUES = (COLORS["X"], COLORS["Y"], INK, "#2f6b3a", "#a3123a", "#6a4c93")


@as_written
def member(
    results: Results, name: str, under: str = "", by: Method = "spectrum", *, signed: bool = False
) -> Figure:
    """The six section forces of one member over its length, under what one reading takes.

    A curve for every source; of the combinations of a kind one for each extreme. Raises InputError
    for more than one member, or what is not there.
    """
    chosen = results.members(name)
    if len(chosen) != 1:
        raise InputError([Fault("", f"{name!r} names {len(chosen)} members, and one is drawn",
                                f"name one, such as {chosen[0].name!r}")])
    found = results.read("forces", name, under, at=PLACES, by=by, signed=signed)
    curves = curves_of(found)
    figure = new_figure(10.4, 6.0, f"{chosen[0].name}: {results.project.title}")
    panels = figure.subplots(2, 3).ravel()
    length = chosen[0].length / results.units.size("length")
    x = np.array(PLACES) * length
    for c, (ax, action) in enumerate(zip(panels, ACTIONS, strict=True)):
        dimension = "force" if c < 3 else "moment"
        size, unit = results.units.size(dimension), results.units.label(dimension)
        ax.axhline(0.0, color=SOFT, linewidth=0.8)
        for k, (said, values) in enumerate(curves):
            own = values[:, c] / size
            hue = HUES[k % len(HUES)]
            ax.plot(x, own, color=hue, linewidth=1.6, label=said, linestyle=dash(k))
            lead = int(np.argmax(np.abs(own)))
            if abs(own[lead]) > 1e-9 * np.abs(curves[k][1]).max(initial=1e-300) / size:
                ax.annotate(f"{own[lead]:.4g}", (float(x[lead]), float(own[lead])), fontsize=7.5,
                            color=hue, ha="right" if lead > 10 else "left", va="bottom")
        plain(ax, f"from the start ({results.units.label('length')})" if c > 2 else "",
              unit, TITLES[action])
    names_below(figure, panels[0], 4)
    figure.text(0.01, 0.01, f"{found.thing.title}{found.said}", fontsize=8, color=SOFT)
    settle(figure, ["-0000.0"], columns=3, rows=2, label=True, gap=0.85, bottom=1.1)
    return figure


def names_below(figure: Figure, ax: Axes, columns: int) -> None:
    """What each curve is, under the panels, where no curve runs."""
    figure.legend(*ax.get_legend_handles_labels(), frameon=False, fontsize=7.5, ncols=columns,
                  loc="lower center", bbox_to_anchor=(0.5, 0.025))


def dash(k: int) -> str:
    return ("-", "--")[k // len(HUES) % 2]


def curves_of(found: Reading) -> list[tuple[str, Floats]]:
    """What is drawn: a name and values (place, component) each. Raises InputError for too many."""
    width = len(found.thing.components)
    curves = []
    for k, name in enumerate(found.names):
        if found.words is None:
            curves.append((name, rid_of_round_off(found.high[k].reshape(-1, width))))
        else:
            curves += [(f"{name}, {extreme}", rid_of_round_off(values[k].reshape(-1, width)))
                       for extreme, values in (("largest", found.high), ("smallest", found.low))]
    if len(curves) > MOST:
        raise InputError([Fault("under", f"{len(curves)} curves can't be told apart",
                                f"name up to {MOST}: {several(found.names)}")])
    return curves


@as_written
def line(
    results: Results, name: str, under: str = "", by: Method = "spectrum", *, signed: bool = False
) -> Figure:
    """Shear and moment of one lateral line over its height, under what one reading takes.

    Raises InputError where there is no such line.
    """
    found = results.read("lines", name or " ", under, by=by, signed=signed)
    curves = curves_of(found)
    figure = new_figure(8.6, 5.6, f"Line {name}: {results.project.title}")
    bent = found.thing.blank is None or not found.thing.blank.all(where=_moments(found))
    panels = [("shear", "force", 0)]
    if bent:
        panels.append(("moment at the bottom of the story", "moment", 2))
    d, levels = results.model.diaphragms, results.model.levels
    floors = [levels.index(story) for story in found.thing.places["story"]]
    size = results.units.size("length")
    top = d.elevations[floors] / size
    bottom = (d.elevations - d.story_heights)[floors] / size
    axes = figure.subplots(1, len(panels), sharey=True, squeeze=False)[0]
    z = np.column_stack([top, bottom]).ravel()
    for ax, (title, dimension, c) in zip(axes, panels, strict=True):
        ax.axvline(0.0, color=SOFT, linewidth=0.8)
        for k, (said, values) in enumerate(curves):
            v = values[:, c] / results.units.size(dimension)
            x = np.repeat(v, 2) if dimension == "force" else np.column_stack(
                [np.concatenate([[0.0], v[:-1]]), v]).ravel()
            ax.plot(x, z, dash(k), color=HUES[k % len(HUES)], linewidth=1.4, label=said, alpha=0.8)
        plain(ax, f"{title} ({results.units.label(dimension)})", "", "")
    axes[0].set_yticks([*top.tolist(), float(bottom[-1])], [*(levels[i] for i in floors), "foot"])
    names_below(figure, axes[0], 3)
    figure.text(0.01, 0.02, f"{found.thing.title}{found.said}", fontsize=8, color=SOFT)
    settle(figure, [levels[i] for i in floors], columns=len(panels), bottom=1.2)
    return figure


def _moments(found: Reading) -> NDArray[np.bool_]:
    """Which of the values of lines are moments."""
    return np.asarray(np.arange(len(found.thing.quantity)) % 3 == 2)
