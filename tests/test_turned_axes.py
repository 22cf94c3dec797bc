"""Axes that are turned: the same building in another place, and grids that are not square."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import Command
from test_frames import SITE, SYSTEM, E, building, model_of, slender
from test_wrong_frames import FRAME
from undatum.building.axes import Axes, AxisFamily
from undatum.layout.takedown import take_down


def grid(turned: float, skew: float | None = None, *, stories: int = 2, **more: Any) -> ud.Building:
    """Two bays by two, the families turned by one angle or by two."""
    other = turned if skew is None else skew
    column = ud.CrossSection(material="C30/37", rectangle="350 x 450 mm")
    beam = ud.CrossSection(material="C30/37", rectangle="250 x 500 mm")
    return ud.Building(
        axes=Axes(across_x=AxisFamily(names="1..3", spacing=(6, 5), turned=turned),
                  across_y=AxisFamily(names="A..C", spacing=(4, 7), turned=other)),
        stories=ud.Stories(heights={f"L{i + 1}": 4.0 for i in range(stories)}, outline="all",
                           floor="all"),
        outlines={"all": ud.Stretch(between=("A1", "C3"), beyond=0.4)},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=6e3),
                        ud.Load(name="edge", kind="cladding", per_edge=3e3)]},
        sections={"column": column, "beam": beam},
        members=(ud.MemberRule(columns="all", section="column", turned=turned),
                 ud.MemberRule(beams="all", section="beam", stiff_ends=0.5)), **more)


def stiffness(one: ud.Building) -> Any:
    model = model_of(one)
    return model, model.stiffness.toarray()


@pytest.mark.parametrize("angle", [0.3, -0.5, -0.6, 1.0])
def test_a_turned_grid_is_the_building_turned(angle: float) -> None:
    """Stiffness, masses and gravity of every member: those of the upright one, turned."""
    (a, k), (b, turned) = stiffness(grid(0.0)), stiffness(grid(angle))
    n, c, s = a.n, np.cos(angle), np.sin(angle)
    t = np.zeros((3 * n, 3 * n))
    for i in range(n):
        t[np.ix_([i, n + i], [i, n + i])] = [[c, s], [-s, c]]
        t[2 * n + i, 2 * n + i] = 1.0
    assert t.T @ k @ t == pytest.approx(turned, rel=1e-8, abs=1e-8 * np.abs(k).max())
    assert b.diaphragms.mass == pytest.approx(a.diaphragms.mass)
    assert b.diaphragms.inertia == pytest.approx(a.diaphragms.inertia)
    assert b.diaphragms.centers == pytest.approx(a.diaphragms.centers @ np.array([[c, s], [-s, c]]))
    first, second = (results_of(one).load_cases().on_members for one in (grid(0.0), grid(angle)))
    for (name, one), (other_name, other) in zip(first, second, strict=True):
        assert name == other_name
        assert other.reactions[:, 2] == pytest.approx(one.reactions[:, 2], rel=1e-8)
        assert other.faces == pytest.approx(one.faces, rel=1e-6, abs=1e-6 * np.abs(one.faces).max())


def test_more_than_lies_there_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("undatum.layout.takedown.without", lambda one, other: one)
    one = grid(0.0)
    assert one.frame is not None
    with pytest.raises(ud.AnalysisError, match="more than the"):
        take_down(one, one.frame)


def results_of(one: ud.Building) -> ud.Results:
    return ud.analyze(title="turned", standard="asce7-16", results_in="kN and m", site=SITE,
                      system=SYSTEM,
                      building=one)


@given(x=st.lists(st.floats(2.0, 9.0), min_size=1, max_size=3),
       y=st.lists(st.floats(2.0, 9.0), min_size=1, max_size=2),
       start=st.floats(-50.0, 50.0), turns=st.tuples(st.floats(-0.6, 0.6), st.floats(-0.6, 0.6)),
       beyond=st.sampled_from([0.0, 0.3, 1.1]),
       path=st.sampled_from(["two-way", "one-way X", "one-way Y", "columns"]))
@example(x=[2.0, 2.25], y=[2.0], start=0.0, turns=(0.0, 0.001953125), beyond=0.0,
         path="one-way X")  # a cell whose corners meet but for the last digits
@example(x=[2.0], y=[2.0], start=0.0078125, turns=(0.1875, 0.125), beyond=0.0,
         path="two-way")  # a panel and an outline that are one but for the last digits
@settings(max_examples=60)
def test_every_square_meter_lands_wherever_the_axes_lie(
    x: list[float], y: list[float], start: float, turns: tuple[float, float], beyond: float,
    path: Any,
) -> None:
    """Total and center kept, and no beam gets more than the widest strip of slab could bring."""
    names = [f"A{i}" for i in range(len(y) + 1)]
    one = grid(0.0).model_copy(update={
        "axes": Axes(across_x=AxisFamily(names=f"1..{len(x) + 1}", spacing=x, start=start,
                                         turned=turns[0]),
                     across_y=AxisFamily(names=names, spacing=y, start=-start / 3,
                                         turned=turns[1])),
        "outlines": {"all": ud.Stretch(between=("A0-1", f"{names[-1]}-{len(x) + 1}"),
                                       beyond=beyond)},
        "floors": {"all": [ud.Load(name="slab", kind="dead", per_area=6e3, path=path)]},
        "self_weight": False})
    assert one.frame is not None
    taken = take_down(one, one.frame)
    for row in taken.balance:
        assert row.landed == pytest.approx(row.given, rel=1e-6)
        assert row.shift < 1e-4 or path == "columns"
    widest = 6e3 * 2 * (max([*x, *y]) * 3 + beyond)
    assert all(np.abs(landed.load).max(initial=0.0) <= widest for landed in taken.landed)


def test_names_choose_the_same_members() -> None:
    """Selections by axis, crossing and stretch name the same members, however the grid lies."""
    upright, turned = results_of(grid(0.0)), results_of(grid(0.4))
    for text in ("columns on B", "beams on A between 2 and 3", "columns on A1, C3", "all at L2",
                 "beams on 2 at L1", "beams on A, C"):
        assert [m.name for m in upright.members(text)] == [m.name for m in turned.members(text)]
    assert len(turned.members("beams on A between 2 and 3")) == 2
    assert {m.name for m in turned.members("all")} == {m.name for m in upright.members("all")}


def test_a_grid_of_parallelograms_by_hand() -> None:
    """Only the second family is turned: crossings by hand, stiff beams give 12 E I / h^3 each."""
    skew = np.radians(30.0)
    axes = Axes(across_x=AxisFamily(names="1..2", spacing=(6,)),
                across_y=AxisFamily(names="A..B", spacing=(4,), turned=skew))
    assert axes.crossings["A1"] == pytest.approx((0, 0))
    assert axes.crossings["A2"] == pytest.approx((6, 6 * np.tan(skew)))
    assert axes.crossings["B1"] == pytest.approx((0, 4 / np.cos(skew)))
    inertia = 2e-3
    one = building(slender(inertia), slender(1e4, other=1e4)).model_copy(update={"axes": axes})
    k = model_of(one).stiffness.toarray()
    assert k[0, 0] == pytest.approx(4 * 12 * E * inertia / 4.0**3, rel=1e-3)
    area = one.outline(0).area
    assert area == pytest.approx(6 * 4 / np.cos(skew))
    found = results_of(one)
    landed = found.load_cases().on_members[0][1]
    assert landed.reactions[:, 2].sum() == pytest.approx(6e3 * area, rel=1e-9)


def test_turned_frames_are_a_nonparallel_system() -> None:
    """They run along neither X nor Y: said by axis, and directions go together."""
    upright, turned = results_of(grid(0.0)), results_of(grid(0.4))
    for found, irregular in ((upright, False), (turned, True)):
        one = next(f for f in found.findings if f.check == "nonparallel system")
        assert ("axis A" in one.text) == irregular
        assert (one.severity.value == "warning") == irregular
    # a single beam off the axes counts where columns stand at both its ends
    off = grid(0.0).model_copy(update={"members": (
        *grid(0.0).members, ud.MemberRule(beams="all", section="beam", line=("A1", "B2")))})
    one = next(f for f in results_of(off).findings if f.check == "nonparallel system")
    assert "A1-B2" in one.text


@pytest.mark.parametrize(("family", "said"), [
    ("across_x = { names = \"1..5\", spacing = [7, 7, 7, 7], turned = \"60 deg\" }",
     "nearly side by side"),
    ("across_x = { names = \"1..5\", spacing = [7, 7, 7, 7], turned = \"200 deg\" }", "turned"),
    ("across_x = { names = \"1..5\", spacing = [7, 7, 7, 7], turned = \"2 m\" }", "angle"),
])
def test_wrong_turns(family: str, said: str, tmp_path: Path, command: Command) -> None:
    text = FRAME.replace("across_x = { names = \"1..5\", spacing = [7, 7, 7, 7] }", family)
    assert text != FRAME
    text = text.replace("spacing = [6, 8, 6] }", "spacing = [6, 8, 6], turned = \"-20 deg\" }")
    path = tmp_path / "turned.toml"
    path.write_text(text)
    assert command(["check", str(path)]) == 2
    assert said in " ".join(command.said.err.split())


def test_turned_buildings_are_drawn(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "turned.toml"
    text = FRAME
    for spacing in ("[7, 7, 7, 7]", "[6, 8, 6]"):
        text = text.replace(f"spacing = {spacing} }}", f"spacing = {spacing}, turned = '20 deg' }}")
    path.write_text(text)
    for asked in (["check", str(path)], ["elevation", str(path), "B", "--action", "moment"]):
        assert command(asked) in (0, 1), command.said
    ud.figures.save(ud.figures.plan(ud.run(ud.read(path))), tmp_path / "plan.png")
    assert (tmp_path / "plan.png").stat().st_size > 20_000
