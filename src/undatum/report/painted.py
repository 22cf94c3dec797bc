"""Story drift painted on the building: every face of every story as a share of the limit."""

from __future__ import annotations

import numpy as np
from matplotlib import colormaps
from matplotlib.cm import ScalarMappable
from matplotlib.collections import PolyCollection
from matplotlib.colors import LinearSegmentedColormap, Normalize
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.report.drawing import FLOOR, INK, LIMIT, SOFT, as_written, new_figure
from undatum.report.drift_curves import of_state
from undatum.report.frames import seen
from undatum.results.results import Results
from undatum.standards.terms import DIRECTIONS

Floats = NDArray[np.float64]
Hue = NDArray[np.float64] | str
#: Light to dark, and what exceeds darkest of all, so that a gray print tells the same.
SHADES = LinearSegmentedColormap.from_list(
    "share", colormaps["YlGnBu"](np.linspace(0, 0.7, 256))).with_extremes(over=LIMIT)


@as_written
def drift_painted(results: Results) -> Figure:
    """The largest design drift of the sets that decide, as a share of the allowable drift.

    A face has the larger value of its two ends; what exceeds has a color of its own. Where there
    is no limit the scale is the drift in percent of the story height.
    """
    ways = [DIRECTIONS.index(d) for d in results.directions]
    limited = bool(np.isfinite(results.drift.limits[ways]).all())
    painted = [_largest(results, c) * 100 for c in ways]
    shares = [p / results.drift.limits[c] if limited else p for p, c in
              zip(painted, ways, strict=True)]
    most = 100.0 if limited else max(float(np.nanmax(p)) for p in shares)
    figure = new_figure(10.4, 6.0, f"Design story drift on the building{of_state(results)}")
    axes = figure.subplots(1, len(ways), squeeze=False)[0]
    scale = ScalarMappable(Normalize(0.0, most), SHADES)
    for ax, c, values, share in zip(axes, ways, painted, shares, strict=True):
        faces, hues = _faces(results, share, scale)
        ax.add_collection(PolyCollection(
            faces, facecolors=hues, edgecolors=INK, linewidths=0.4))
        ax.set_aspect("equal")
        ax.autoscale_view()
        ax.axis("off")
        worst = np.unravel_index(int(np.nanargmax(values)), values.shape)
        over = limited and float(np.nanmax(share)) > 100
        ax.set_title(
            f"{DIRECTIONS[c]}: largest {values[worst]:.2f} % in story "
            f"{results.model.levels[worst[1]]}"
            + (f", {share[worst]:.0f} % of the limit" if limited else "")
            + (": exceeds" if over else ""),
            fontsize=10, color=LIMIT if over else INK, y=1.0)
    bar = figure.add_axes((0.3, 0.075, 0.4, 0.025))
    figure.colorbar(scale, cax=bar, orientation="horizontal",
                    extend="max" if limited else "neither")
    bar.tick_params(labelsize=8, colors=INK)
    bar.set_xlabel("design drift over allowable drift (%)" if limited else
                   "design drift over story height (%)", fontsize=9, color=INK)
    if limited:
        bar.annotate("exceeds", (1.0, 0.5), xytext=(20, 0), textcoords="offset points",
                     xycoords="axes fraction", fontsize=8, color=LIMIT, va="center")
    figure.text(0.01, 0.02, "seen from the side of large x and small y, to scale", fontsize=8,
                color=SOFT)
    figure.subplots_adjust(left=0.02, right=0.98, bottom=0.14, top=0.88, wspace=0.05)
    return figure


def _largest(results: Results, c: int) -> Floats:
    """(points, stories) largest drift ratio of the sets that decide; the center of mass first."""
    check = results.drift
    method = check.deciding(c)
    keep = [i for i, m in enumerate(check.methods) if method in (None, m)]
    largest = np.fmax.reduce(check.ratios[keep][..., c], axis=0)
    largest[:, ~check.above_base] = np.nan
    return np.asarray(largest)


def _faces(
    results: Results, values: Floats, scale: ScalarMappable
) -> tuple[list[Floats], list[Hue]]:
    """Every face between the corners of the stories, and the floors, far ones first."""
    building, floors = results.project.building, results.model.diaphragms
    points = np.array([p.points for p in results.plumb]).reshape(-1, results.model.n, 2)
    shapes: list[Floats] = []
    hues: list[Hue] = []
    for i in np.flatnonzero(results.model.above_base):
        outline = building.outline(int(i)).polygon
        top = float(floors.elevations[i])
        bottom = top - float(floors.story_heights[i])
        rings = [outline.exterior, *outline.interiors]
        for ring in rings:
            at = np.asarray(ring.coords)
            at_corner = [_read(values, points, int(i), p) for p in at]
            for k in range(len(at) - 1):
                (a, b), (u, v) = at[k: k + 2], at_corner[k: k + 2]
                shapes.append(np.array([[*a, bottom], [*b, bottom], [*b, top], [*a, top]]))
                hues.append(scale.to_rgba(np.array([max(u, v)]))[0])
        for ring, hue in zip(rings, [FLOOR, *["white"] * len(outline.interiors)], strict=True):
            edge = np.asarray(ring.coords)[:-1]
            shapes.append(np.column_stack([edge, np.full(len(edge), top)]))
            hues.append(hue)
    drawn = [seen(shape) for shape in shapes]
    # seen from above: story by story upwards, in each from the far side to the near one
    # (a floor with its openings comes before the faces that stand on it)
    ranks = [0 if hue is FLOOR else 1 if isinstance(hue, str) else 2 for hue in hues]
    order = sorted(range(len(shapes)), key=lambda k: (
        float(shapes[k][:, 2].min()), ranks[k], float(drawn[k][1].mean())))
    return [drawn[k][0] for k in order], [hues[k] for k in order]


def _read(values: Floats, points: Floats, story: int, at: Floats) -> float:
    """The drift at a corner; that of the center of mass where the corner is not read."""
    if len(points):
        away = np.hypot(*(points[:, story] - at).T)
        k = int(np.argmin(away))
        if away[k] < 1e-6 and np.isfinite(values[k + 1, story]):
            return float(values[k + 1, story])
    return float(values[0, story])
