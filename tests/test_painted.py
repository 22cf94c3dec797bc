"""Drift painted on the building: every face has the color of its table."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.collections import PolyCollection
from matplotlib.colors import to_hex
from matplotlib.figure import Figure
from matplotlib.text import Text
from matplotlib.transforms import Bbox

import undatum as ud
from undatum.report import figures, painted
from undatum.report.drawing import LIMIT


def test_a_face_has_the_drift_of_its_corners(archive: ud.Results) -> None:
    """Every corner of every outline is read on its own plumb line, where it is on the floor."""
    values = painted._largest(archive, 0)
    points = np.array([p.points for p in archive.plumb])
    read = 0
    for i in np.flatnonzero(archive.model.above_base):
        for at in archive.project.building.outline(int(i)).corners:
            own = next(k for k, p in enumerate(archive.plumb)
                       if np.allclose(p.points[i], at) and p.present[i])
            name = archive.plumb[own].name
            expected = values[archive.drift.points.index(name), i]
            assert painted._read(values, points, int(i), at) == expected
            read += 1
    assert read > 20
    assert painted._read(values, points, 0, np.array([1e3, 1e3])) == values[0, 0]


@pytest.mark.parametrize(("name", "panels"), [("clinic", 2), ("archive", 2), ("arcade", 1)])
def test_faces_have_the_colors_of_the_drift_table(
    name: str, panels: int, results: dict[str, ud.Results]
) -> None:
    """The face that governs has the color of its share; what exceeds has one of its own."""
    found = results[name] if name in results else ud.run(ud.shipped_project(name))
    figure = painted.drift_painted(found)
    drawn = [ax for ax in figure.axes if any(isinstance(c, PolyCollection) for c in ax.collections)
             and ax.get_title()]
    assert len(drawn) == panels
    for ax, d in zip(drawn, found.directions, strict=True):
        c = "XY".index(d)
        painted_hues = {to_hex(h) for h in ax.collections[0].get_facecolors()}
        s, p, i = found.drift.governing(c)
        worst = float(found.drift.ratios[s, p, i, c])
        use = worst / found.drift.limits[c]
        assert f"{worst * 100:.2f} %" in ax.get_title()
        assert f"story {found.drift.levels[i]}" in ax.get_title()
        assert ax.get_title().endswith(
            f"{100 * use:.0f} % of the limit" + (": exceeds" if use > 1 else ""))
        assert (to_hex(LIMIT) in painted_hues) == (use > 1)
        assert to_hex(painted.SHADES(use)) in painted_hues
        if found.model.plane:
            method = found.drift.deciding(c)
            for story in np.flatnonzero(found.model.above_base):
                ratio = max(float(found.drift.ratios[k, 0, story, c])
                            for k, m in enumerate(found.drift.methods) if method in (None, m))
                assert to_hex(painted.SHADES(ratio / found.drift.limits[c])) in painted_hues


def texts_of(figure: Figure) -> list[tuple[str, Bbox]]:
    """Every text that is drawn, with its place on the sheet; ticks beyond the axes are not."""
    figure.canvas.draw()
    renderer = FigureCanvasAgg(figure).get_renderer()
    unseen: set[Text] = set()
    for ax in figure.axes:
        every = [ax.xaxis, ax.yaxis, *([ax.zaxis] if hasattr(ax, "zaxis") else [])]
        for axis in every:
            shown = axis._update_ticks() if ax.axison and len(every) == 2 else []
            unseen |= {text for tick in (*axis.majorTicks, *axis.minorTicks) if tick not in shown
                       for text in (tick.label1, tick.label2)}
    return [(one.get_text(), box) for one in figure.findobj(Text)
            if one.get_text().strip() and one.get_visible() and one not in unseen
            and (box := one.get_window_extent(renderer)).width > 1 and figure.bbox.overlaps(box)]


def test_no_text_lies_on_another_in_any_shipped_figure(results: dict[str, ud.Results]) -> None:
    seen = 0
    for name, found in results.items():
        for title, make in figures.of_run(found).items():
            texts = texts_of(make(found))
            seen += len(texts)
            for (a, one), (b, other) in combinations(texts, 2):
                across = min(one.x1, other.x1) - max(one.x0, other.x0)
                up = min(one.y1, other.y1) - max(one.y0, other.y0)
                assert across < 1.5 or up < 1.5, (name, title, a, b)
    assert seen > 900
