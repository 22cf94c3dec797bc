"""One member, or one lateral line, drawn over its length or height with its largest values."""

from __future__ import annotations

import numpy as np
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.errors import Fault, InputError
from undatum.mechanics.actions import ACTIONS, rid_of_round_off, section_forces
from undatum.project.combining import member_parts
from undatum.project.results import Results
from undatum.report.diagrams import set_named
from undatum.report.drawing import COLORS, INK, SOFT, as_written, new_figure, plain, settle
from undatum.standards.terms import Method

Floats = NDArray[np.float64]
PLACES = tuple(np.linspace(0.0, 1.0, 21).tolist())
TITLES = {"axial": "axial force", "shear_y": "shear along y", "shear_z": "shear along z",
          "torsion": "torsion", "moment_y": "moment about y", "moment_z": "moment about z"}


@as_written
def member(
    results: Results, name: str, of_set: str = "", combined: str = "", method: Method = "spectrum"
) -> Figure:
    """The six section forces of one member over its length.

    Under one set, or the band between the extremes of a kind of load combination; under load
    cases where neither is named. Raises InputError for more than one member, or what is not there.
    """
    chosen = results.members(name)
    if len(chosen) != 1:
        raise InputError([Fault("", f"{name!r} names {len(chosen)} members, and one is drawn",
                                f"name one, such as {chosen[0].name!r}")])
    curves = [(said, rid_of_round_off(values))
              for said, values in _curves(results, name, of_set, combined, method)]
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
            hue = (COLORS["X"], COLORS["Y"], INK, "#2f6b3a", "#a3123a")[k % 5]
            ax.plot(x, own, color=hue, linewidth=1.6, label=said)
            lead = int(np.argmax(np.abs(own)))
            if abs(own[lead]) > 1e-9 * np.abs(curves[k][1]).max(initial=1e-300) / size:
                ax.annotate(f"{own[lead]:.4g}", (float(x[lead]), float(own[lead])), fontsize=7.5,
                            color=hue, ha="right" if lead > 10 else "left", va="bottom")
        plain(ax, f"from the start ({results.units.label('length')})" if c > 2 else "",
              unit, TITLES[action])
    panels[0].legend(frameon=False, fontsize=7.5)
    settle(figure, ["-0000.0"], columns=3, rows=2, label=True, gap=0.85)
    return figure


def _curves(
    results: Results, name: str, of_set: str, combined: str, method: Method
) -> list[tuple[str, Floats]]:
    """What is drawn: a name and values (place, component) each."""
    own = results.members(name)
    if combined:
        how = results.combiner()
        if combined not in how.kinds():
            raise InputError([Fault("combined", f"there is no kind of combination {combined!r}",
                                    f"choose from: {'; '.join(how.kinds())}")])
        parts = member_parts(how, results.model, results.load_cases(), results.sets_to_read,
                             method, results.stability, own, PLACES)
        found = how.extremes(combined, parts)
        return [(f"{combined}, {extreme}", found[extreme][0].reshape(-1, 6))
                for extreme in ("largest", "smallest")]
    if of_set:
        one = set_named(results, of_set)
        return [(one.name, one.of(section_forces(results.model, own, PLACES)).reshape(-1, 6))]
    frame = results.model.framed
    assert frame is not None
    from undatum.mechanics.cases import along

    return [(case, along(members, frame.frame, own, PLACES)[0])
            for case, members in results.load_cases().on_members]


@as_written
def line(results: Results, name: str) -> Figure:
    """Shear and moment of one lateral line over its height, set by set, for strength.

    Raises InputError where there is no such line.
    """
    where = results.shears.lines.axes[1].labels
    if name not in where["line"]:
        raise InputError([Fault("", f"there is no line {name!r}",
                                f"known: {', '.join(dict.fromkeys(where['line']))}")])
    figure = new_figure(8.6, 5.6, f"Line {name}: {results.project.title}")
    bent = results.shears.moments
    panels = [("shear", "force", results.shears.lines)]
    if bent.values.size and name in bent.axes[1].labels["line"]:
        panels.append(("moment at the bottom of the story", "moment", bent))
    levels = results.model.levels
    d = results.model.diaphragms
    axes = figure.subplots(1, len(panels), sharey=True, squeeze=False)[0]
    size = results.units.size("length")
    heights: list[float] = []
    hues = {s.name: COLORS[s.direction] for s in results.sets_for_strength if s.direction != "Z"}
    for ax, (title, dimension, values) in zip(axes, panels, strict=True):
        labels = values.axes[1].labels
        own = [k for k, line in enumerate(labels["line"]) if line == name]
        floors = [levels.index(labels["story"][k]) for k in own]
        top = d.elevations[floors] / size
        bottom = (d.elevations - d.story_heights)[floors] / size
        heights = [*top.tolist(), float(bottom[-1])]
        for s, one in enumerate(values.axes[0].labels["set"]):
            v = np.abs(values.values[s, own]) / results.units.size(dimension)
            hue = hues.get(one, INK)
            style = "-" if one.startswith("static") else "--"
            z = np.column_stack([top, bottom]).ravel()
            x = np.repeat(v, 2) if dimension == "force" else np.column_stack(
                [np.concatenate([[0.0], v[:-1]]), v]).ravel()
            ax.plot(x, z, style, color=hue, linewidth=1.4, label=one, alpha=0.8)
        ax.set_xlim(left=0)
        plain(ax, f"{title} ({results.units.label(dimension)})", "", "")
    axes[0].set_yticks(heights, [*(levels[i] for i in floors), "foot"])
    axes[0].legend(frameon=False, fontsize=7)
    figure.text(0.01, 0.02, "sizes, of the earthquake alone; solid: static, broken: spectrum",
                fontsize=8, color=SOFT)
    settle(figure, [levels[i] for i in floors], columns=len(panels), bottom=0.85)
    return figure
