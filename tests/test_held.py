"""Floors the ground holds: closed forms, what they tend to, equilibrium, and wrong descriptions."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from conftest import SYSTEMS, analyze, shear_building
from test_wrong_frames import FRAME
from undatum.mechanics.actions import reactions
from undatum.report.files import write_all
from undatum.results.results import Results

pytestmark = pytest.mark.usefixtures("unpainted")
K, M = [4e8, 5e8, 6e8, 2e8, 3e8], [2e5, 2e5, 2e5, 0.0, 0.0]
SPRINGS = ud.GroundSprings(along_x=3e8, along_y="700 MN/m", turning=9e9)


def founded(held: dict[str, object], *, k: list[float] = K, turned: bool = False) -> ud.Building:
    """Three stories on two below ground, L2 at the base, more twisted than not."""
    one = shear_building(k, [max(m, 1.0) for m in M], lines_x=[(0.0, 0.6), (6.0, 0.4)],
                         plan=(10.0, 6.0))
    lines = [line.model_copy(update={
        "at": (line.at[1], line.at[0]), "direction": np.pi / 2 - line.direction})
        for line in one.lines] if turned else list(one.lines)
    levels = [level.model_copy(update={"outline": [(0, 0), (6, 0), (6, 10), (0, 10)]})
              for level in one.levels] if turned else list(one.levels)
    return ud.Building(levels=levels, lines=lines, base="L2", held_by_ground=held)  # type: ignore[arg-type]


@pytest.mark.parametrize(("kg", "held"), [
    (0.0, {}), (3e8, {"L2": ud.GroundSprings(along_x=3e8)}),
    (7e8, {"L2": ud.GroundSprings(along_x="700 MN/m")})])
def test_one_story_on_a_held_base_is_springs_in_series(
    kg: float, held: dict[str, object]
) -> None:
    """1/k = 1/k_1 + 1/(k_g + k_2 k_3 / (k_2 + k_3)); the ground takes its share of the shear."""
    one = shear_building([4e8, 2e8, 3e8], [2e5, 1.0, 1.0])
    r = analyze(ud.Building(levels=one.levels, lines=one.lines, base="L2",
                            held_by_ground=held))  # type: ignore[arg-type]
    below = 2e8 * 3e8 / (2e8 + 3e8)
    k = 1 / (1 / 4e8 + 1 / (kg + below))
    x = int(r.modes.governing(0))
    assert r.modes.omega[x] == pytest.approx(np.sqrt(k / 2e5), rel=1e-9)
    for s in (s for s in r.sets_for_strength if s.direction == "X"):
        shear = dict(zip(r.model.levels, np.abs(s.of(
            r.model.quantities["story shear"].where(component="X"))), strict=True))
        share = below / (kg + below)
        assert shear["L2"] == pytest.approx(share * shear["L3"], rel=1e-9)
        assert shear["L1"] == pytest.approx(share * shear["L3"], rel=1e-9)
        if held:
            ground = r.model.quantities["ground force"].where(component="X")
            assert abs(float(s.of(ground)[0])) == pytest.approx((1 - share) * shear["L3"], rel=1e-9)


def test_fully_held_is_a_building_without_stories_below() -> None:
    """Periods, forces and drift of the three stories alone, on rigid ground."""
    above = shear_building(K[:3], M[:3], lines_x=[(0.0, 0.6), (6.0, 0.4)])
    alone = analyze(above)
    for held in ({"L2": "fully"}, {"L1..L2": "fully"}):
        r = analyze(founded(held))  # type: ignore[arg-type]
        count = alone.modes.count
        assert r.modes.omega[:count] == pytest.approx(alone.modes.omega, rel=1e-8)
        assert r.drift.drift.values[:, 0, :3] == pytest.approx(
            alone.drift.drift.values[:, 0], rel=1e-7)
        for s, t in zip(r.static_sets, alone.static_sets, strict=True):
            shear = s.of(r.model.quantities["story shear"]).reshape(2, -1)
            assert shear[:, :3].ravel() == pytest.approx(
                t.of(alone.model.quantities["story shear"]), rel=1e-7, abs=1.0)
            assert np.abs(shear[:, 3:]).max() < 1e-6 * np.abs(shear).max()  # all in the ground


def test_what_the_ground_holds_needs_no_line_of_its_own() -> None:
    """Lines that start at the street, over a basement without any; free, nothing holds it."""
    one = founded({})
    lines = [line.model_copy(update={"bottom": "L2", "stiffness": line.stiffness[:3]})  # type: ignore[index]
             for line in one.lines]
    given = {"levels": one.levels, "lines": lines, "base": "L2"}
    r = analyze(ud.Building(**given, held_by_ground={"L1..L2": "fully"}))  # type: ignore[arg-type]
    alone = analyze(shear_building(K[:3], M[:3], lines_x=[(0.0, 0.6), (6.0, 0.4)]))
    assert r.modes.omega[:9] == pytest.approx(alone.modes.omega, rel=1e-8)
    with pytest.raises(ud.InputError, match="no lateral line holds the story below 'L2'"):
        ud.Building(**given)  # type: ignore[arg-type]


def balance(r: Results) -> None:
    """Every cut: forces above and ground above against lines; all of it against the base."""
    d, of = r.model.diaphragms, r.model.quantities
    lines, levels = of["line shear"].labels["line"], of["line shear"].labels["story"]
    axes = {line.name: line for line in r.model.lines}
    along = np.array([axes[name].axis for name in lines])
    arms = np.array([axes[name].moment_arm for name in lines])
    assert r.static_sets
    for s in r.static_sets:
        own = s.of(of["line shear"])
        whole = np.array([[*(own[k] * along[k]), own[k] * arms[k]] for k in range(own.size)])
        applied = np.zeros((r.model.n, 3))
        applied[:, 0 if s.direction == "X" else 1] = s.forces
        applied[:, 2] = s.torques
        ground = np.zeros_like(applied)
        held = of["ground moment"].labels["level"]
        at = [r.model.levels.index(name) for name in held]
        ground[at, :2] = s.of(of["ground force"]).reshape(2, -1).T
        ground[at, 2] = s.of(of["ground moment"])
        acts = applied + ground
        acts[:, 2] += d.centers[:, 0] * acts[:, 1] - d.centers[:, 1] * acts[:, 0]
        size = np.abs(acts).max(axis=0)
        shears = s.of(of["story shear"]).reshape(2, -1)
        turned = s.of(of["story torsion"])
        bent = s.of(of["overturning moment"]).reshape(2, -1)
        for i, name in enumerate(r.model.levels):
            cut = acts[: i + 1].sum(axis=0)
            assert whole[[lev == name for lev in levels]].sum(axis=0) == pytest.approx(
                cut, abs=1e-8 * size.max())
            assert shears[:, i] == pytest.approx(cut[:2], abs=1e-8 * size.max())
            about = cut[2] - d.centers[i, 0] * cut[1] + d.centers[i, 1] * cut[0]
            assert turned[i] == pytest.approx(about, abs=1e-8 * size.max())
            arm = d.elevations[: i + 1] - (d.elevations[i] - d.story_heights[i])
            assert bent[:, i] == pytest.approx(arm @ acts[: i + 1, :2], abs=1e-7 * size.max())


def test_every_cut_is_in_equilibrium_with_the_ground() -> None:
    balance(analyze(founded({"L2": SPRINGS, "L1": ud.GroundSprings(along_y=2e8)})))
    balance(analyze(founded({"L1..L2": "fully"})))


def test_the_turned_building_is_held_the_turned_way() -> None:
    one = analyze(founded({"L2": ud.GroundSprings(along_x=3e8, along_y=7e8, turning=9e9)}))
    other = analyze(founded({"L2": ud.GroundSprings(along_y=3e8, along_x=7e8, turning=9e9)},
                            turned=True))
    assert one.modes.omega == pytest.approx(other.modes.omega, rel=1e-9)
    a, b = one.to_frame("ground_forces"), other.to_frame("ground_forces")
    for (_, mine), (_, its) in zip(a.groupby("set"), b.groupby("set"), strict=True):
        assert len(mine) == len(its) == 1
    size = {name: np.abs(a.filter(like=name).to_numpy()).max() for name in "XY"}
    assert size["X"] == pytest.approx(np.abs(b.filter(like="Y").to_numpy()).max())
    assert size["Y"] == pytest.approx(np.abs(b.filter(like="X").to_numpy()).max())


def test_members_share_with_the_ground_and_the_table_stands_in_every_output(
    tmp_path: Path
) -> None:
    """The reactions of columns and of the ground add up to the base shear."""
    r = ud.run(ud.read(frame_with(
        tmp_path, 'held_by_ground = { L1 = { along_x = "80 MN/m", along_y = "1e5 kN/m" } }')))
    assert any("held by the ground" in c.name for c in r.table("input_levels").columns)
    for s in r.static_sets:
        feet = s.of(reactions(r.model)).reshape(-1, 6)[:, :2].sum(axis=0)
        ground = s.of(r.model.quantities["ground force"])
        assert np.abs(ground).max() > 0
        along = 0 if s.direction == "X" else 1
        assert (feet + ground)[along] == pytest.approx(-s.forces.sum(), rel=1e-8)
        assert (feet + ground)[1 - along] == pytest.approx(0.0, abs=1e-6 * s.forces.sum())
    write_all(r, tmp_path / "out")
    said = r.table("ground_forces").title
    assert said in (tmp_path / "out" / "record.html").read_text(encoding="utf-8")
    assert (tmp_path / "out" / "tables" / "ground_forces.csv").exists()
    assert "read ground" in r.read("reactions").table().note


def test_a_plane_building_is_held_along_its_plane() -> None:
    one = shear_building([4e8, 2e8], [2e5, 1.0])
    lines = [line for line in one.lines if line.name.startswith("X")]
    r = analyze(ud.Building(levels=one.levels, lines=lines, base="L1", plane="X",
                            held_by_ground={"L1": SPRINGS}), system={"X": SYSTEMS["X"]})
    k = 1 / (1 / 4e8 + 1 / (2e8 + 3e8))
    assert r.modes.omega[0] == pytest.approx(np.sqrt(k / 2e5), rel=1e-9)
    assert "moment" not in " ".join(r.to_frame("ground_forces").columns)
    with pytest.raises(ud.InputError, match="nothing holds level 'L1' along X, the plane"):
        ud.Building(levels=one.levels, lines=lines, base="L1", plane="X",
                    held_by_ground={"L1": ud.GroundSprings(along_y=1e8, turning=1e8)})


@pytest.mark.parametrize(("held", "said"), [
    ({"L9": "fully"}, "'L9' is not among the levels above the lowest"),
    ({"L3": "fully"}, "level 'L3' lies above the base, 'L2'"),
    ({"L2": SPRINGS, "Ground": "fully"}, "'Ground' is not among"),
    ({"L2": "partly"}, "fully"),
])
def test_what_can_not_be_held_is_refused(held: dict[str, object], said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        founded(held)


def frame_with(tmp_path: Path, keys: str) -> Path:
    file = tmp_path / "one.toml"
    file.write_text(FRAME.replace("[building.axes]", f"[building]\nbase = \"L1\"\n{keys}\n"
                                  "[building.axes]"), encoding="utf-8")
    return file


@pytest.mark.parametrize(("keys", "said"), [
    ("held_by_ground = { L1 = { } }", "springs that hold nothing"),
    ("held_by_ground = { L1 = { turning = 0 } }", "springs that hold nothing"),
    ("held_by_ground = { L1 = { along_x = 0 } }", "is out of range"),
    ('held_by_ground = { L1 = { along_x = "-3 kN/m" } }', "along_x"),
    ("held_by_ground = { L1 = { along_z = 1 } }", "along_z"),
    ('held_by_ground = { L1 = "fully" }\ndiaphragms = { L1 = "none" }', "not rigid as a whole"),
    ('held_by_ground = { L1 = "fully" }\ndiaphragms = { L9 = "none" }',
     "diaphragms.*'L9' is not among"),
])
def test_wrong_springs_are_refused_by_name(tmp_path: Path, keys: str, said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        ud.read(frame_with(tmp_path, keys))


def test_the_ground_can_not_hold_the_top_floor_either() -> None:
    """Above the base at any level: the highest too; ranges run from level to level either way."""
    b = shear_building([6e7] * 3, [2e5] * 3)
    for name in ("L3", "L2", "L3..L2", "L2..L3"):
        with pytest.raises(ud.InputError, match="lies above the base"):
            ud.Building(levels=b.levels, lines=b.lines, base="L1", held_by_ground={name: "fully"})


@pytest.mark.parametrize("text", ["L1..L2", "L2..L1"])
def test_a_range_that_is_held_fully_is_held_at_each_of_its_levels(text: str) -> None:
    """Weak along X beside stiff along Y: held along both, as if nothing below moved."""
    b = shear_building([6e7, 6e7, 6e7], [2e5] * 3)
    weak = [x.model_copy(update={"stiffness": 6e4}) if x.name.startswith("X") else x
            for x in b.lines]
    held = ud.Building(levels=b.levels, lines=[
        *weak, *(x.model_copy(update={"name": f"top {x.name}", "bottom": "L2", "stiffness": 6e7})
                 for x in b.lines)], base="L2", held_by_ground={text: "fully"})
    r = analyze(held)
    moved = r.array("static displacement").values
    for k, name in ((1, "L2"), (2, "L1")):
        assert r.model.levels[k] == name
        assert np.abs(moved[:, k, :2]).max() < 1e-6 * np.abs(moved[:, 0, :2]).max()
