"""Plane buildings: the same numbers as half of a symmetrical whole, and nothing of what is not."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

import numpy as np
import pytest

import undatum as ud
from conftest import OWN, ROOMS, Command, frame_of, starter_text
from test_frames import BAY, HEIGHT, SITE, E, slender
from undatum.finding import Severity

Plane = Literal["X", "Y"]


def frame(plane: Plane | None, rows: int = 1, *, apart: float = 5.0, **more: Any) -> ud.Building:
    """Two bays and three stories in every row; a strip of floor as wide as ``apart`` each.

    Rows run along the plane; without a plane beams run across too, and the rows along X.
    """
    bays, width = (6.0, 4.0), apart * rows
    along = ud.AxisFamily(names="1..3", spacing=bays)
    across = ud.AxisFamily(names=[chr(65 + i) for i in range(rows)],
                           at=[apart * (i + 0.5) for i in range(rows)])
    turned = plane == "Y"
    corners = [(0.0, 0.0), (10.0, 0.0), (10.0, width), (0.0, width)]
    rule: dict[str, Any] = {
        "axes": ud.Axes(across_x=across, across_y=along) if turned else
        ud.Axes(across_x=along, across_y=across),
        "stories": ud.Stories(heights={"L1": 4.5, "L2": 3.5, "L3": 3.0}, outline="all",
                              floor="all"),
        "outlines": {"all": [(y, x) if turned else (x, y) for x, y in corners]},
        "floors": {"all": [ud.Load(name="slab", kind="dead", per_area=6e3),
                           ud.Load(name="use", kind="live", per_area=2e3)]},
        "sections": {
            "column": ud.CrossSection(rectangle=("0.40 m", "0.40 m"), material="C30/37"),
            "beam": ud.CrossSection(rectangle=("0.30 m", "0.60 m"), material="C30/37")},
        "members": (ud.MemberRule(columns="all", section="column"),
                    ud.MemberRule(beams="all", section="beam")), "self_weight": False}
    return ud.Building(**{**rule, **more}, plane=plane)


def judged(one: ud.Building, key: str = "asce7-16", **more: Any) -> ud.Results:
    site, system, *_ = ROOMS[key]
    return ud.analyze(title="plane", standard=key, results_in="kN and m", site=site,
                      system=dict.fromkeys(one.directions, system), building=one,
                      folder=OWN, **more)


@pytest.fixture(scope="module")
def plane() -> ud.Results:
    return judged(frame("X"))


def test_plane_is_half_of_the_whole(plane: ud.Results) -> None:
    """Two equal rows with beams across: by symmetry each moves along X like one alone."""
    whole = judged(frame(None, rows=2))
    along = [i for i, kind in enumerate(whole.modes.kinds) if kind == "X"]
    assert plane.modes.periods == pytest.approx(whole.modes.periods[along], rel=1e-9)
    key = "X", "strength"
    assert plane.weights.total == pytest.approx(whole.weights.total / 2)
    assert plane.statics[key].forces == pytest.approx(whole.statics[key].forces / 2, rel=1e-9)
    one, other = (own.shears.shear.sel(set="spectrum X, strength", component="X").values
                  for own in (plane, whole))
    twist = whole.spectrum_sets[0].torsion is not None
    assert not twist
    assert one == pytest.approx(other / 2, rel=1e-6)
    plain = plane.drift.elastic[list(plane.drift.sets).index("static X, drift"), 0, :, 0]
    both = [whole.drift.elastic[i, 0, :, 0] for i, name in enumerate(whole.drift.sets)
            if name.startswith("static X") and name.endswith("drift")]
    assert plain == pytest.approx(np.mean(both, axis=0), rel=1e-9)
    theta, of_whole = (next(s for s in own.stability if s.method == "spectrum"
                            and s.direction == "X").answer.coefficient for own in (plane, whole))
    assert theta == pytest.approx(of_whole, rel=1e-6)


def test_moments_are_those_of_the_whole(plane: ud.Results) -> None:
    """A column of row A takes half of what both take, under spectrum and static forces alike."""
    whole = judged(frame(None, rows=2))
    for name in ("static X, strength", "spectrum X, strength"):
        one = frame_of(plane, "forces", "columns on A", name)
        sets = [s.name for s in whole.sets_for_strength if s.name.startswith(name[:8])
                and s.direction == "X"]
        several = [frame_of(whole, "forces", "columns on A", s)
                   for s in sets]
        for head in [c for c in one.columns if c.startswith(("axial", "moment", "shear"))]:
            mean = np.mean([abs(other[head]) for other in several], axis=0)
            if name.startswith("static"):
                assert abs(one[head]).to_numpy() == pytest.approx(mean, rel=1e-6, abs=1e-3), head
    forces = frame_of(plane, "forces", "all", at=(0.0, 0.5, 1.0))
    still = frame_of(plane, "forces", "beams on A", "cases", at=(0.0, 0.5, 1.0))
    assert abs(still["torsion (kN·m)"]).max() == 0  # slab beside a beam doesn't turn it here
    for out_of_plane in ("shear_z (kN)", "torsion (kN·m)"):
        assert abs(forces[forces.member.str.startswith("column")][out_of_plane]).max() == 0


def test_turned_is_the_same(plane: ud.Results) -> None:
    other = judged(frame("Y"))
    assert other.directions == ("Y",)
    assert other.modes.periods == pytest.approx(plane.modes.periods, rel=1e-12)
    assert set(other.modes.kinds) == {"Y"}
    assert other.statics["Y", "strength"].forces == pytest.approx(
        plane.statics["X", "strength"].forces, rel=1e-12)
    assert other.drift.largest_use("Y") == pytest.approx(plane.drift.largest_use("X"), rel=1e-9)
    assert plane.drift.largest_use("X") > 0.05
    assert np.isfinite([plane.drift.limits[0], other.drift.limits[1]]).all()
    assert np.isinf([plane.drift.limits[1], other.drift.limits[0]]).all()
    said = [(f.check.replace("Y", "X"), f.severity) for f in other.findings]
    assert said == [(f.check, f.severity) for f in plane.findings]
    load = [r.combinations.rows for r in (plane, other) if r.combinations is not None]
    assert [r.quake[::-1] for r in load[0]] == [r.quake for r in load[1]]


@pytest.mark.parametrize("key", list(ROOMS))
def test_every_standard_judges_one_direction(key: str) -> None:
    """No torsion, no other direction, no word on the plan that would say it is in order."""
    found = judged(frame("X"), key)
    assert found.torsion == {}
    assert found.torsion_factors is None
    assert {d for d, _ in found.statics} == {"X"}
    assert [s.sign for s in found.static_sets] == [0] * len(found.states)
    assert all(s.direction == "X" for s in found.spectrum_sets)
    if found.combinations is not None:
        rows = found.combinations.rows
        assert rows
        assert all(r.quake[1] == 0 and r.quake[0] > 0 for r in rows)
        assert not any("Y" in r.name.partition(":")[2] for r in rows)
    for table in found.tables():
        heads = [c.name for c in table.columns]
        if "reactions" in table.name:  # all six components of a foot, those across zero
            continue
        assert not any(h.endswith((" Y", ", Y")) for h in heads), (table.name, heads)
    ok = [f for f in found.findings if f.severity is Severity.OK]
    told = " ".join(f.check for f in ok)
    for never in ("torsion", "re-entrant", "nonparallel", "offset", "diaphragm", "in plan"):
        assert never not in told, never
    assert next(f for f in found.findings if f.check == "plane building").severity \
        is Severity.NOTE
    if key.startswith(("asce7-05", "asce7-1", "is", "ubc")):
        left = next(f for f in found.findings if f.check == "irregularities not judged").text
        assert all(word in left for word in ("torsional", "re-entrant", "nonparallel"))


def test_what_the_engineer_states_of_the_plan_holds() -> None:
    found = judged(frame("X"), irregularities={"out_of_plane_offset": True, "reason": "seen"})
    one = next(f for f in found.findings if f.check == "out-of-plane offset")
    assert one.severity is Severity.WARNING


def test_redundancy_of_one_is_not_judged_in_a_plane() -> None:
    """Neither the lines near the edges nor regularity in plan can be told."""
    found = ud.analyze(
        title="t", standard="asce7-16", results_in="kN and m", site=SITE, building=frame("X"),
        system={"X": {"row": "C.5", "redundancy": 1.0, "redundancy_reason": "shown elsewhere"}})
    one = next(f for f in found.findings if f.check == "redundancy")
    assert one.severity is Severity.NOTE
    assert "plane building" in one.text


def test_lines_in_a_plane() -> None:
    """Story springs k over masses m: the first period of two equal stories by hand."""
    k, m, g = 4e7, 5e4, 9.80665
    levels = [ud.Level(name=n, height=3.0, outline=[(0, -1), (8, -1), (8, 3), (0, 3)], loads=[
        ud.Load(name="all", kind="dead", total=m * g, at=(2.0, 2.5))]) for n in ("B", "A")]
    ground = ud.Level(name="G", outline=[(0, -1), (8, -1), (8, 3), (0, 3)])
    line = ud.Line(name="x", at=(0, 0), direction="X", bottom="G", top="B", stiffness=k)
    found = judged(ud.Building(levels=[*levels, ground], lines=[line], plane="X"))
    exact = 2 * np.pi / np.sqrt(k / m * (3 - np.array([np.sqrt(5), -np.sqrt(5)])) / 2)
    assert found.modes.periods == pytest.approx(exact, rel=1e-9)
    assert found.modes.mass_ratios[:, 0].sum() == pytest.approx(1.0)
    # the line stands aside of the mass, and nothing turns for it
    moved = np.array([s.displacement for s in found.static_sets])
    assert np.all(moved[:, found.model.held] == 0)
    assert np.all(moved[:, ~found.model.held] > 0)


def test_floor_loads_land_whole_between_the_rows() -> None:
    """Three rows 5 m apart: each takes its strip, and a row at the edge the slab beyond it."""
    one = frame("X", rows=3, outlines={"all": [(0, 0), (10, 0), (10, 17), (0, 17)]})
    found = judged(one)
    table = found.table("reactions_under_cases").to_frame(found.units)
    up = next(c for c in table.columns if c.startswith("force Z"))
    live = table[table.case == "live"]
    by_row = [live[live.foot.str.startswith(row)][up].sum() for row in "ABC"]
    assert by_row == pytest.approx([2 * 10 * w * 3 for w in (5, 5, 7)], rel=1e-9)
    forces = frame_of(found, "forces", "beams on C", "cases", at=(0.0, 0.5, 1.0))
    # 2.5 m and 4.5 m of slab
    assert abs(forces["torsion (kN·m)"]).max() == 0


def test_buckling_out_of_the_plane_is_not_sought() -> None:
    """Cantilevers weak across: what counts is their bending in the plane, 100 times as stiff."""
    inertia = 4e-5
    section = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=inertia / 100, bending_z=inertia, torsion=1e-9))
    one = ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..2", spacing=(BAY,)),
                     across_y=ud.AxisFamily(names="A")),
        stories=ud.Stories(heights={"L1": HEIGHT}, outline="all", floor="all"),
        outlines={"all": [(0, -1), (BAY, -1), (BAY, 1), (0, 1)]},
        floors={"all": [ud.Load(name="slab", kind="dead", total=1e5, path="columns")]},
        materials={"stuff": ud.Material(modulus=E, poisson=0.25, unit_weight=0.0)},
        sections={"column": section, "beam": slender(1e4, other=1e4)},
        members=(ud.MemberRule(columns="all", section="column"),
                 ud.MemberRule(beams="all", section="beam", hinged="both")), plane="X")
    found = judged(one, analysis={"second_order": "by axial force"})
    second = found.model.second_order
    assert second is not None
    euler = np.pi**2 * E * inertia / (2 * HEIGHT) ** 2
    assert second.buckling == pytest.approx(2 * euler / 1e5, rel=1e-2)


@pytest.mark.parametrize(("old", "new", "place", "said"), [
    ("[system.X]", "[system.Y]", "system.X", "is missing"),
    ('plane = "X"', "", "system.Y", "is missing"),
    ('plane = "X"', 'plane = "Y"', "building.members[1].beams", "chooses no beam"),
    ('plane = "X"', 'plane = "Z"', "building.plane", "Z"),
    ('beams = "all"', 'beams = "on 1"', "building.members[1].beams", "across the plane"),
    ("[building.stories]", '[[building.lines]]\nname = "w"\nat = [0, 0]\ndirection = "45 deg"\n'
     'bottom = "Street"\ntop = "Roof"\nstiffness = 1e4\n[building.stories]',
     "building.lines[0].direction", "does not run along X"),
    ("[building.stories]", '[[building.cases]]\nname = "wind"\n'
     'on_levels = [{ at = "Roof", Y = 3 }]\n[building.stories]',
     "building.cases[0].on_levels[0]", "acts along Y"),
    ("[building.stories]", '[[building.cases]]\nname = "turn"\n'
     'on_levels = [{ at = "Roof", moment = 3 }]\n[building.stories]',
     "building.cases[0].on_levels[0]", "turns the"),
    ("[building.stories]", '[[building.cases]]\nname = "wind"\n'
     'on_members = [{ on = "columns on A", direction = "Y", per_length = 2 }]\n[building.stories]',
     "building.cases[0].on_members[0].direction", "across the plane"),
    ("[building.stories]", '[[building.cases]]\nname = "feet"\non_supports = [{ at = "all", '
     'Y = 0.01 }]\n[building.stories]', "building.cases[0].on_supports[0].Y", "across the plane"),
    ("[building]\n", '[[gaps]]\nname = "lane"\ndirection = "Y"\ndistance = 0.1\n[building]\n',
     "gaps[0].direction", "across the plane"),
    ("[building]\n", '[analysis]\naccidental_torsion = "always"\n[building]\n',
     "analysis.accidental_torsion", "does not turn"),
    ("[building]\n", '[analysis]\ndirectional_combination = "SRSS"\n[building]\n',
     "analysis.directional_combination", "one direction"),
])
def test_what_leaves_the_plane_is_named(
        old: str, new: str, place: str, said: str, tmp_path: Path, command: Command) -> None:
    text = starter_text("arcade")
    assert old in text
    path = tmp_path / "arcade.toml"
    path.write_text(text.replace(old, new, 1))
    assert command(["check", str(path)]) == 2
    shown = " ".join(command.said.err.split())
    assert place in shown
    assert said in shown


def test_the_system_of_the_other_direction_is_refused() -> None:
    with pytest.raises(ud.InputError, match="plane along X"):
        ud.make_project(title="t", standard="asce7-16", results_in="kN and m", site=SITE,
                      system={"X": {"row": "C.5"}, "Y": {"row": "C.5"}}, building=frame("X"))


def test_arcade_from_the_command_line(tmp_path: Path, command: Command) -> None:
    """Every command takes a plane frame; its base reactions are the loads by hand."""
    path = tmp_path / "arcade.toml"
    assert command(["new", str(path), "--like", "arcade"]) == 0
    for asked in (["check", str(path)], ["spectrum", str(path)],
                    ["read", str(path), "forces", "columns on A at Gallery"],
                    ["read", str(path), "forces", "beams on A at Roof", "--under", "cases"],
                    ["elevation", str(path), "A", "--action", "moment", "--plot",
                     str(tmp_path / "a.png")],
                    ["run", str(path), "--out", str(tmp_path / "out")]):
        assert command(asked) == 0, (asked, command.said)
    text = command.said.out
    assert "1 mode carries" in text
    assert "Base shear Y" not in text
    assert "Drift Y" not in text
    found = ud.load(tmp_path / "out")
    assert found.directions == ("X",)
    table = found.table("reactions_under_cases").to_frame(found.units)
    up = next(c for c in table.columns if c.startswith("force Z"))
    dead = table[(table.case == "dead") & (table.foot == "sum")][up].sum()
    own = 12 * 0.3 * 0.6 * 25 * 3 + 3 * 0.45**2 * 25 * 11.2
    assert dead == pytest.approx(72 * (6.5 + 6.5 + 5.7) + own, rel=1e-9)
    assert found.table("shears_by_story").columns[-1].name == "overturning by X"
