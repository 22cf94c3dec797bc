"""Rays and rings: curved axes, against the same members by coordinates and laws of symmetry; and
crossings whose names could be told in two ways."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import analyze, frame_of
from test_frames import model_of
from test_placed import by_table

HEIGHT = 3.5


def rotunda(rays: int = 8, start: Any = 0.0, *, closed: bool = True, center: Any = (0.0, 0.0),
            **more: Any) -> ud.Building:
    """Two rings of columns around a court; a closed one has its floors as a ring of chords."""
    step = 2 * np.pi / rays if closed else np.pi / (rays - 1)
    axes = ud.Axes(rays=ud.Rays(names=f"1..{rays}", start=start, spacing=step), center=center,
                   rings=ud.Rings(names="A..B", radii=(6.0, 12.0), closed=closed))
    around = [start + k * step for k in range(rays)]
    outer, inner = ([(center[0] + r * np.cos(a), center[1] + r * np.sin(a)) for a in around]
                    for r in (12.0, 6.0))
    floor = ud.Outline(points=outer, holes=[inner]) if closed else \
        ud.Stretch(between=("A1", f"B{rays}"))
    return ud.Building(
        axes=axes, outlines={"ring": floor},
        stories=ud.Stories(heights={"L1..L2": HEIGHT}, outline="ring", floor="all"),
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=5e3)]},
        sections={"post": ud.CrossSection(material="C30/37", circle=0.5),
                  "beam": ud.CrossSection(material="C30/37", rectangle=(0.3, 0.5))},
        members=(ud.MemberRule(columns="all", section="post"),
                 ud.MemberRule(beams="all", section="beam")), **more)


def test_crossings_stand_on_rays_and_rings() -> None:
    one = rotunda(8, np.pi / 8, center=(3.0, -2.0))
    axes = one.axes
    assert axes is not None
    x, y = axes.point("B-3")
    assert (x, y) == pytest.approx((3 + 12 * np.cos(np.pi / 8 + np.pi / 2),
                                    -2 + 12 * np.sin(np.pi / 8 + np.pi / 2)))
    assert axes.point("3B") == (x, y)
    assert axes.off("B", [x, y]) == pytest.approx(0.0)
    assert axes.off("3", [x, y]) == pytest.approx(0.0)
    assert axes.along("B", [x, y]) == pytest.approx(12 * np.pi / 2)
    assert abs(float(axes.off("3", [6 - x, -4 - y]))) == pytest.approx(12.0)  # beyond the center
    frame = one.frame
    assert frame is not None
    kinds = [m.kind for m in frame.members]
    assert kinds.count("column") == 2 * 16
    assert kinds.count("beam") == 2 * (8 + 8 + 8)  # two rings all the way round, and the rays
    names = {m.name for m in frame.members}
    assert {"column A1 at L1", "beam B 8-1 at L2", "beam 5 A-B at L1"} <= names


def test_a_closed_ring_sways_alike_both_ways() -> None:
    """Eight-fold symmetry: equal stiffness along any direction, the center in the middle."""
    for start in (0.0, 0.3):
        m = model_of(rotunda(8, start))
        n = m.n
        k = m.stiffness.toarray()
        assert k[:n, :n] == pytest.approx(k[n:2 * n, n:2 * n], rel=1e-9)
        assert np.abs(k[:n, n:]).max() < 1e-7 * k.max()
        assert m.diaphragms.centers == pytest.approx(0.0, abs=1e-9)
    assert model_of(rotunda(8, 0.0)).stiffness.toarray() == pytest.approx(
        model_of(rotunda(8, np.pi / 4)).stiffness.toarray(), rel=1e-8, abs=1e2)


@pytest.mark.parametrize("closed", [True, False])
def test_rays_and_rings_or_coordinates(closed: bool, tmp_path: Path) -> None:
    """The same members placed one by one, on these axes and on none of them."""
    one = rotunda(7, 0.2, closed=closed)
    again = by_table(one, tmp_path / "members.csv")
    assert one.frame is not None
    assert again.frame is not None
    assert {m.name for m in again.frame.members} == {m.name for m in one.frame.members}
    elsewhere = again.model_copy(update={
        "axes": ud.Axes(across_x=ud.AxisFamily(names=["p", "q"], at=(-90.0, 90.0)),
                        across_y=ud.AxisFamily(names=["r", "s"], at=(-90.0, 90.0))),
        "outlines": {"ring": one.outline(0)}})
    a, b, c = (model_of(x) for x in (one, again, elsewhere))
    k = a.stiffness.toarray()
    for other in (b, c):
        assert other.stiffness.toarray() == pytest.approx(k, rel=1e-7, abs=1e-8 * np.abs(k).max())
    results = analyze(one)
    landed = results.to_frame("loads_transferred")
    given, found = (landed[c].to_numpy() for c in landed.columns if "(" in c and "shift" not in c
                    and "moved" not in c)
    assert found == pytest.approx(given, rel=1e-9)


def test_a_sector_has_its_outline_between_crossings() -> None:
    one = rotunda(7, closed=False)
    outline = one.outline(0)
    sectors = 6 * 0.5 * np.sin(np.pi / 6) * (12.0**2 - 6.0**2)  # chords, not arcs
    assert outline.area == pytest.approx(sectors)
    beyond = ud.Stretch(between=("B7", "A1"), beyond=0.5).outline(one.axes)  # type: ignore[arg-type]
    inner, outer = 5.5, 12.5
    within = 4 * 0.5 * np.sin(np.pi / 6) * (outer**2 - inner**2)
    ends = 2 * 0.5 * (outer**2 - inner**2) * np.sin(np.pi / 6)
    assert within + ends < beyond.area < within + ends + 2 * 0.5 * (outer - inner) + 1e-9
    for corners in (("A1", "B1"), ("A1", "A5")):
        with pytest.raises(ValueError, match="one ray or one ring"):
            ud.Stretch(between=corners).outline(one.axes)  # type: ignore[arg-type]


def test_selections_and_drawings_on_rings() -> None:
    results = analyze(rotunda(8, 0.1))
    assert len(results.members("beams on A")) == 2 * 8
    assert len(results.members("beams on B between 2 and 5 at L1")) == 3
    assert len(results.members("columns on 3")) == 4
    assert len(results.members("columns A3 at L2")) == 1
    from undatum.report import diagrams, frames

    one = next(s.name for s in results.sets_for_strength if s.method == "static")
    for axis in ("B", "3"):
        frames.elevation(results, axis)
        diagrams.diagram(results, axis, "moment", one)
        diagrams.diagram(results, axis, "axial", one)


def test_moments_along_a_ring_are_those_of_its_beams() -> None:
    from undatum.report.diagrams import forces_on_axis

    results = analyze(rotunda(8, 0.1))
    one = next(s for s in results.sets_for_strength if s.method == "static")
    found, own, at = forces_on_axis(results, "B", "moment", one.name)
    beams = [k for k, m in enumerate(own) if m in results.members("beams on B at L1")]
    drawn = found.high[0].reshape(-1, len(at))[beams][:, [0, -1]]
    forces = frame_of(results, "forces", "beams on B at L1", one.name, at=(0.0, 1.0))
    size = np.abs(forces["moment_y (kN·m)"].to_numpy()) * 1e3
    assert np.sort(np.abs(drawn).ravel()) == pytest.approx(np.sort(size), rel=1e-6, abs=1.0)


def test_names_that_could_be_two_crossings() -> None:
    """A1 and 11, or A11 and 1: listed with a dash, and refused without one."""
    axes = ud.Axes(across_x=ud.AxisFamily(names="1..12", spacing=5.0),
                   across_y=ud.AxisFamily(names="A1..A12", spacing=4.0))
    assert len(axes.crossings) == 144
    assert axes.point("A1-11") == (50.0, 0.0)
    assert axes.point("A11-1") == (0.0, 40.0)
    assert axes.point("11-A1") == (50.0, 0.0)
    assert axes.cross("A1", "11") == (50.0, 0.0)
    assert axes.cross("11", "A1") == (50.0, 0.0)
    assert axes.point("A23") == (10.0, 4.0)
    with pytest.raises(ValueError, match=r"could be A1+-1+ or A1+-1+"):
        axes.point("A111")


def test_every_crossing_stands_where_its_axes_do() -> None:
    for axes in (
        ud.Axes(across_x=ud.AxisFamily(names="1..25", spacing=7.0),
                across_y=ud.AxisFamily(names="A1..A25", spacing=6.0)),
        ud.Axes(across_x=ud.AxisFamily(names=["1", "11", "111"], at=(0, 5, 9)),
                across_y=ud.AxisFamily(names=["2", "22", "12"], at=(0, 4, 8)))):
        for a, x in axes.x.items():
            for b, y in axes.y.items():
                assert axes.cross(a, b) == axes.cross(b, a) == (x, y)
                assert axes.point(f"{b}-{a}") == (x, y)


@pytest.mark.parametrize(("given", "said"), [
    ({"rays": {"names": "1..4", "spacing": 0.5}}, "give across_x and across_y, or rays and rings"),
    ({"rays": {"names": "1..9", "spacing": np.pi / 4}, "rings": {"names": "A", "radii": [5]}},
     "all the way round"),
    ({"rays": {"names": "1..3", "at": [0.0, 0.4, 0.4]}, "rings": {"names": "A", "radii": [5]}},
     "don't run upwards"),
    ({"rays": {"names": "1..3", "spacing": 0.4}, "rings": {"names": "A..B", "radii": [5, 4]}},
     "don't run upwards"),
    ({"rays": {"names": "1..3", "spacing": 0.4}, "rings": {"names": "A..B", "radii": [5]}},
     "2 axes need 2 values"),
    ({"rays": {"names": "1..3", "spacing": 0.4}, "rings": {"names": "3..4", "radii": [5, 6]}},
     "stands in both families"),
    ({"across_x": {"names": "1..3", "spacing": 4}, "across_y": {"names": "A..B", "spacing": 5},
      "points": {"A1": [1, 1]}}, "has the name of an axis or of a crossing"),
])
def test_wrong_axes(given: dict[str, Any], said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        ud.Axes(**given)
