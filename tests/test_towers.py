"""Floors side by side: towers on a podium, half-levels. Chains of diaphragms against hand work."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import linalg

import undatum as ud
from conftest import OWN, ROOMS, Command
from test_frames import SITE, SYSTEM

pytestmark = pytest.mark.usefixtures("unpainted")

K = {"P": 9e8, "E": 3e8, "W": 2e8}  # story stiffness of each of two lines both ways, N/m
Q, P_AREA, T_AREA = 7e3, 40 * 20, 12 * 20


def level(name: str, on: str | None, outline: str, height: float = 4.0) -> ud.Level:
    return ud.Level(name=name, height=height, outline=outline, floor="all", stands_on=on)


def lines(part: str, x0: float, x1: float, bottom: str, top: str, **more: Any) -> list[ud.Line]:
    k = more.get("stiffness", K[part])
    return [ud.Line(name=f"{part} X{i}", direction="X", at=((x0 + x1) / 2, y), bottom=bottom,
                    top=top, stiffness=k) for i, y in enumerate((0.0, 20.0))] + [
        ud.Line(name=f"{part} Y{i}", direction="Y", at=(x, 10.0), bottom=bottom, top=top,
                stiffness=k) for i, x in enumerate((x0, x1))]


def towers(order: str = "EW", **stiffness: Any) -> ud.Building:
    """A podium of two stories, tower E of three on its left, tower W of two on its right."""
    east = [level(f"E{i}", None if i > 1 else "P2", "east") for i in (3, 2, 1)]
    west = [level(f"W{i}", None if i > 1 else "P2", "west") for i in (2, 1)]
    sides = {"EW": [*east, *west], "WE": [*west, *east], "mixed": [
        level("E3", "E2", "east"), level("W2", "W1", "west"), level("E2", "E1", "east"),
        level("W1", "P2", "west"), level("E1", "P2", "east")]}[order]
    return ud.Building(
        levels=[*sides, level("P2", None, "podium"), level("P1", None, "podium"),
                ud.Level(name="Ground", outline="podium")],
        outlines={"podium": [(0, 0), (40, 0), (40, 20), (0, 20)],
                  "east": [(0, 0), (12, 0), (12, 20), (0, 20)],
                  "west": [(28, 0), (40, 0), (40, 20), (28, 20)]},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=Q)]},
        lines=[*lines("P", 0, 40, "Ground", "P2"),
               *lines("E", 0, 12, "P2", "E3", **stiffness),
               *lines("W", 28, 40, "P2", "W2")])


def run(building: ud.Building, **more: Any) -> ud.Results:
    given: dict[str, Any] = {"standard": "asce7-16", "site": SITE, "system": SYSTEM, **more}
    return ud.analyze(title="towers", results_in="N and m", building=building, **given)


def by_hand() -> tuple[Any, Any, list[str]]:
    """Stiffness and mass along X alone of five floors on a podium of two, assembled here."""
    names = ["E3", "E2", "E1", "W2", "W1", "P2", "P1"]
    below = {"E3": "E2", "E2": "E1", "E1": "P2", "W2": "W1", "W1": "P2", "P2": "P1"}
    k, m = np.zeros((7, 7)), np.zeros(7)
    for i, name in enumerate(names):
        s = 2 * K[name[0]]
        k[i, i] += s
        if name in below:
            j = names.index(below[name])
            k[j, j] += s
            k[i, j] -= s
            k[j, i] -= s
        m[i] = Q * (P_AREA if name[0] == "P" else T_AREA) / 9.80665
    return k, np.diag(m), names


@pytest.mark.parametrize("order", ["EW", "WE", "mixed"])
def test_periods_and_static_forces_by_hand(order: str) -> None:
    """The chain of X alone (the plan is symmetric about y = 10): periods, shears, overturning."""
    k, m, names = by_hand()
    results = run(towers(order))
    expected = 2 * np.pi / np.sqrt(linalg.eigh(k, m, eigvals_only=True))
    found = results.modes.periods
    for t in expected:
        assert np.abs(found / t - 1).min() < 1e-9
    static = results.statics["X", "strength"]
    force = dict(zip(static.levels, static.forces, strict=True))
    shear = dict(zip(static.levels, static.story_shears, strict=True))
    moment = dict(zip(static.levels, static.overturning, strict=True))
    assert shear["E1"] == pytest.approx(force["E1"] + force["E2"] + force["E3"])
    assert shear["W1"] == pytest.approx(force["W1"] + force["W2"])
    assert shear["P2"] == pytest.approx(shear["E1"] + shear["W1"] + force["P2"])
    assert shear["P1"] == pytest.approx(static.shear.base_shear)
    z = dict(zip(results.model.levels, results.model.heights, strict=True))
    assert z == {"E3": 20, "E2": 16, "E1": 12, "W2": 16, "W1": 12, "P2": 8, "P1": 4}
    assert moment["P2"] == pytest.approx(sum(f * (z[n] - 4) for n, f in force.items() if n != "P1"))
    one = next(s for s in results.static_sets if s.direction == "X" and s.state.role == "forces")
    x = results.model.diaphragms.freedoms[:, 0]
    place = [results.model.levels.index(n) for n in names]
    moved = np.linalg.solve(k, [force[n] for n in names])
    assert one.displacement[x][place] == pytest.approx(moved, rel=1e-9)
    rows = results.shears.shear.sel(set=one.name, component="X").values
    assert rows == pytest.approx(static.story_shears, rel=1e-9)
    assert not [f for f in results.findings if (f.check.startswith("plausibility:")
                and "balance" in f.check) or "equals applied" in f.check]


def test_order_in_the_file_changes_nothing() -> None:
    first = run(towers("EW"))
    for order in ("WE", "mixed"):
        other = run(towers(order))
        for name in ("shears_by_story", "weight_levels", "centers", "diaphragms"):
            a: Any = first.to_frame(name)
            b: Any = other.to_frame(name)
            keys = list(a.columns[:2]) if name == "shears_by_story" else [a.columns[0]]
            merged = a.merge(b, on=keys)
            assert len(merged) == len(a)
            for column in (c for c in merged.columns if c.endswith("_x")):
                left, right = merged[column], merged[column[:-2] + "_y"]
                if left.dtype == float:
                    assert left.to_numpy() == pytest.approx(
                        right.to_numpy(), rel=1e-6, abs=1e-6 * left.abs().max(), nan_ok=True)
        assert {(f.check, f.where, f.severity) for f in first.findings} == \
            {(f.check, f.where, f.severity) for f in other.findings}


def test_drift_is_read_against_the_floor_below() -> None:
    """W1 against P2 at the same point, never against E1 that comes before it in the list."""
    results = run(towers())
    drift = results.drift
    one = next(s for s in results.static_sets if s.name == drift.sets[0])
    model = results.model
    x = one.displacement[model.diaphragms.freedoms[:, 0]]
    i, below = model.levels.index("W1"), model.levels.index("P2")
    turn = one.displacement[model.diaphragms.freedoms[:, 2]]
    y = model.diaphragms.centers[:, 1]
    expected = (x[i] - x[below] - turn[below] * -(y[below] - y[i]))
    factor = results.laterals["X"].drift_factor
    rows = results.to_frame(drift.full_name)
    row = rows[(rows["set"] == one.name) & (rows["story"] == "W1")
               & (rows["point"] == "center of mass")]
    column = next(c for c in rows.columns if "elastic" in c and "X" in c)
    assert row[column].iloc[0] == pytest.approx(expected, rel=1e-6)
    assert factor > 1


def test_diaphragm_forces_count_what_stands_above() -> None:
    results = run(towers())
    static = results.statics["X", "strength"]
    levels = list(static.levels)
    force = dict(zip(levels, static.forces, strict=True))
    weight = dict(zip(levels, static.weights, strict=True))
    sds = 2 / 3 * 1.0 * 1.2
    for name, above in (("W1", "W1 W2"), ("E2", "E2 E3"), ("P2", "E1 E2 E3 W1 W2 P2")):
        share = sum(force[n] for n in above.split()) / sum(weight[n] for n in above.split())
        expected = np.clip(share, 0.2 * sds, 0.4 * sds) * weight[name]
        assert results.diaphragms["X"][levels.index(name)] == pytest.approx(expected, rel=1e-6)


def test_irregularities_are_judged_down_every_chain() -> None:
    """Tower E with a soft first story is found; W stays as it is; turned round it is W's."""
    soft = run(towers(stiffness=(3e8, 3e8, 1.2e8)))
    found = [f for f in soft.findings if "soft story" in f.check and f.severity.value != "ok"]
    assert found
    assert all("E1" in f.where for f in found)
    plain = run(towers())
    assert not [f for f in plain.findings if "soft story" in f.check and "W1" in f.where
                and f.severity.value != "ok"]
    table: Any = soft.to_frame("shape")
    assert set(table["up to"]) == {"E3", "W2"}
    assert table[table["up to"] == "W2"]["story"].tolist() == ["W2", "W1", "P2", "P1"]
    one = table[(table["up to"] == "E3") & (table["story"] == "E1")].iloc[0]
    two = table[(table["up to"] == "E3") & (table["story"] == "E2")].iloc[0]
    k = next(c for c in table.columns if c.startswith("stiffness X"))
    assert one["over story above, X"] == pytest.approx(one[k] / two[k])


@pytest.mark.parametrize("standard", ROOMS)
def test_every_standard_takes_towers(standard: str) -> None:
    site, system, *_ = ROOMS[standard]
    results = run(towers("mixed"), standard=standard, site=site,
                  system={"X": system, "Y": system}, folder=OWN)
    for s in results.statics.values():
        assert s.forces.sum() == pytest.approx(s.shear.base_shear)
    assert not [f for f in results.findings if f.check.startswith("plausibility: equilibrium")
                or f.check.startswith("plausibility: resisted")]


def halves() -> ud.Building:
    """Two halves whose floors are half a story apart, both from the ground."""
    return ud.Building(
        levels=[level("R2", "R1", "right"), level("L2", "L1", "left"), level("R1", "Ground",
                "right", 5.5), level("L1", "Ground", "left", 4.0),
                ud.Level(name="Ground", outline="all")],
        outlines={"all": [(0, 0), (40, 0), (40, 20), (0, 20)],
                  "left": [(0, 0), (20, 0), (20, 20), (0, 20)],
                  "right": [(20, 0), (40, 0), (40, 20), (20, 20)]},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=Q)]},
        lines=[*lines("E", 0, 20, "Ground", "L2"), *lines("W", 20, 40, "Ground", "R2")])


def test_half_levels_both_stand_on_the_ground() -> None:
    """Stories of 4 m and 5.5 m, none of 1.5 m; base shears of both halves add up; nothing joins
    them, so that each vibrates as if it were alone."""
    results = run(halves())
    heights = dict(zip(results.model.levels, results.model.diaphragms.story_heights, strict=True))
    assert heights == {"R2": 4.0, "L2": 4.0, "R1": 5.5, "L1": 4.0}
    static = results.statics["X", "strength"]
    at = {n: i for i, n in enumerate(static.levels)}
    total = static.story_shears[at["R1"]] + static.story_shears[at["L1"]]
    assert total == pytest.approx(static.shear.base_shear)
    spectrum = next(r for r in results.dynamic if r.direction == "X")
    assert len(results.model.base_stories) == 2
    alone = []
    for part, name in (("E", "L"), ("W", "R")):
        one = halves()
        alone.append(run(one.model_copy(update={
            "levels": [x.model_copy(update={"stands_on": None}) for x in one.levels
                       if x.name[0] in (name, "G")],
            "lines": [x for x in one.lines if x.name.startswith(part)]})))
    periods = np.sort(np.concatenate([r.modes.periods for r in alone]))[::-1]
    assert results.modes.periods == pytest.approx(periods, rel=1e-9)
    parts = [r.dynamic[0].base_shear for r in alone]
    assert np.hypot(*parts) * 0.999 < spectrum.base_shear < sum(parts) * 1.001
    assert not [f for f in results.findings if "equilibrium" in f.check]


def framed() -> ud.Building:
    """The towers as frames on axes: a podium of 6 by 2 bays, towers of 2 by 2 at its ends."""
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..7", spacing=[6] * 6),
                     across_y=ud.AxisFamily(names="A..C", spacing=[6, 6])),
        stories=ud.Stories(
            heights={"P1": 4.5, "E1..E3": 3.5, "W1..W2": 3.5}, stands_on={"W1": "P1"},
            outline={"P1": "podium", "E1..E3": "east", "W1..W2": "west"}, floor="all"),
        outlines={"podium": ud.Stretch(between=("A1", "C7"), beyond=0.3),
                  "east": ud.Stretch(between=("A1", "C3"), beyond=0.3),
                  "west": ud.Stretch(between=("A5", "C7"), beyond=0.3)},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=Q),
                        ud.Load(name="use", kind="live", per_area=2e3)]},
        sections={"C": ud.CrossSection(rectangle="500 x 500 mm", material="C30/37"),
                  "B": ud.CrossSection(rectangle="300 x 600 mm", material="C30/37")},
        members=(ud.MemberRule(columns="all", section="C"),
                 ud.MemberRule(beams="all", section="B")))


def test_members_stand_on_their_own_chain() -> None:
    """Columns of W1 start on the podium; loads, weights and reactions are all there; one tower
    stiffened leaves the other as it was when the podium does not move."""
    results = run(framed())
    assert results.model.framed is not None
    frame = results.model.framed.frame
    ends = {m.name: (m.start[2], m.end[2]) for m in frame.members if m.kind == "column"}
    assert ends["column A5 at W1"] == (4.5, 8.0)
    assert ends["column A1 at E1"] == (4.5, 8.0)
    assert "column A4 at W1" not in ends
    for name, case in results.load_cases().on_members:
        taken = results.load_cases().taken
        assert taken is not None
        given_ = sum(b.given for b in taken.balance if b.kind == name)
        if name == "live":
            assert case.reactions[:, 2].sum() == pytest.approx(given_, rel=1e-9)
        assert case.residual < 1e-9
    weights = results.weights
    areas = {"E": 12.6 * 12.6, "W": 12.6 * 12.6, "P": 36.6 * 12.6}
    for i, name in enumerate(weights.levels):
        assert weights.areas[i] == pytest.approx(areas[name[0]])
    table: Any = results.to_frame("column_loads").set_index("column")
    assert table.loc["column A1 at P1", "why"] != table.loc["column A5 at W2", "why"]
    lines_ = {x.name: [results.model.levels[i] for i in x.levels] for x in results.model.lines}
    assert lines_["axis 5"] == ["W2", "W1", "P1"]
    assert lines_["axis 4"] == ["P1"]
    total = sum(s.sum() for s in [results.statics["Y", "strength"].forces])
    rows = results.model.at_base("story shear", component="Y")
    one = next(s for s in results.static_sets if s.direction == "Y")
    assert abs(float(one.of(rows)[0])) == pytest.approx(total)


def test_second_order_follows_the_chains() -> None:
    """P over h of each story, of what stands above it alone."""
    results = run(towers(), analysis={"second_order": "by story weight"})
    second = results.model.second_order
    assert second is not None
    weight = dict(zip(results.model.levels, results.weights.gravity, strict=True))
    at = results.model.levels.index
    assert second.pressing.leaning[at("W1")] == pytest.approx(weight["W1"] + weight["W2"])
    assert second.pressing.leaning[at("P1")] == pytest.approx(sum(weight.values()))
    x = results.model.diaphragms.freedoms[at("W2"), 0]
    k = results.model.stiffness.toarray()[x, x]
    assert k == pytest.approx(2 * K["W"] - weight["W2"] / 4.0)


@pytest.mark.parametrize(("change", "text"), [
    ({"W1": "P3"}, r"P3.*not among the levels"),
    ({"W1": "E1"}, r"does not come after it"),
    ({"W1": "W1"}, r"does not come after it"),
    ({"Ground": "P1"}, r"lowest level; the ground holds it"),
])
def test_wrong_chains(change: dict[str, str], text: str) -> None:
    one = towers()
    with pytest.raises(ud.InputError, match=text):
        one.model_copy(update={"levels": [
            x.model_copy(update={"stands_on": change.get(x.name, x.stands_on)})
            for x in one.levels]})


def test_columns_of_two_chains_at_one_place_are_refused() -> None:
    """Towers that touch on axis 3: both would put a column there, and nothing would join them."""
    one = framed()
    with pytest.raises(ud.InputError, match=r"(?s)two columns stand at \w3.*of E1 and of W1"):
        one.model_copy(update={"outlines": {
            **one.outlines, "west": ud.Stretch(between=("A3", "C7"), beyond=0.3)}})


def test_lines_stay_on_one_chain() -> None:
    one = towers()
    astray = ud.Line(name="astray", direction="X", at=(6, 0), bottom="W1", top="E3", stiffness=1e8)
    with pytest.raises(ud.InputError, match=r"'W1' up to 'E3', which is not above it"):
        one.model_copy(update={"lines": (*one.lines, astray)})
    with pytest.raises(ud.InputError, match="no lateral line holds the story below 'W2'"):
        one.model_copy(update={"lines": [x for x in one.lines if x.name[0] != "W"]})


def test_from_a_file(tmp_path: Any, command: Command) -> None:
    path = tmp_path / "towers.toml"
    path.write_text('''
title = "Two towers"
standard = "asce7-16"
units = "kN and m"
site = { ss = 1.0, s1 = 0.4, long_period = 8, site_class = "C", risk_category = "II" }
system = { X = { row = "C.5" }, Y = { row = "C.5" } }
[building]
floors = { all = [{ name = "slab", kind = "dead", per_area = 7 }] }
[building.axes]
across_x = { names = "1..7", spacing = [6, 6, 6, 6, 6, 6] }
across_y = { names = "A..C", spacing = [6, 6] }
[building.stories]
heights = { P1 = 4.5, "E1..E3" = 3.5, "W1..W2" = 3.5 }
stands_on = { W1 = "P1" }
outline = { P1 = "podium", "E1..E3" = "east", "W1..W2" = "west" }
floor = "all"
[building.outlines]
podium = { between = ["A1", "C7"] }
east = { between = ["A1", "C3"] }
west = { between = ["A5", "C7"] }
[building.sections]
C = { rectangle = "500 x 500 mm", material = "C30/37" }
[[building.members]]
columns = "all"
section = "C"
[[building.members]]
beams = "all"
section = "C"
''')
    assert command(["check", str(path)]) == 0
    assert "columns of C" in command.said.out
    out = str(tmp_path / "out")
    assert command(["run", str(path), "--out", out, "--quiet"]) in (0, 1)
    again = ud.load(tmp_path / "out")
    assert len(again.model.chains) == 2
    path.write_text(path.read_text().replace('W1 = "P1" }', 'W1 = "P01" }'))
    assert command(["check", str(path)]) == 2
    assert "did you mean 'P1'" in command.said.err


def test_every_highest_floor_is_a_roof_and_stories_count_along_a_chain() -> None:
    """IS 1893: imposed load on a roof does not count, on W2 as on E3; five stories, not seven."""
    one = towers().model_copy(update={"floors": {"all": [
        ud.Load(name="slab", kind="dead", per_area=Q),
        ud.Load(name="use", kind="live", per_area=3e3)]}})
    site, system, *_ = ROOMS["is1893-2016"]
    job = ud.calculate(ud.make_project(
        title="t", standard="is1893-2016", results_in="N and m", site=site, building=one,
        system={"X": system, "Y": system}))
    weights = dict(zip(job.weights.levels, job.weights.weight, strict=True))
    assert weights["W2"] == weights["E3"] == pytest.approx(Q * T_AREA)
    assert weights["W1"] == pytest.approx((Q + 0.25 * 3e3) * T_AREA)
    assert job.facts.stories == 5
    assert job.facts.story_heights == (4.0,) * 5
    assert job.facts.height == 20.0


def test_inherent_torques_of_the_floors_add_up_story_by_story() -> None:
    """What a factor adds to the moment of a story's shear about its center of rigidity is the sum
    of what the floors on it get."""
    from undatum.analysis.lateral import inherent_torques

    results = run(towers("mixed"))
    model, forces = results.model, results.statics["Y", "strength"].forces
    rigid = model.diaphragms.centers + np.array([-2.0, 1.0])
    found = inherent_torques(model, "Y", forces, 1.5, rigid, 1)
    carried = model.diaphragms.carried
    moment = carried @ (forces * model.diaphragms.centers[:, 0]) - (carried @ forces) * rigid[:, 0]
    assert carried @ found == pytest.approx(0.5 * np.maximum(moment, 0.0))


def test_members_carry_all_there_is_in_every_story() -> None:
    """Axial forces of the columns of each story hold what stands on it: nothing leans."""
    results = run(framed(), analysis={"second_order": "by axial force"})
    second = results.model.second_order
    assert second is not None
    total = float(results.weights.gravity.sum())
    assert np.abs(second.pressing.leaning).max() < 1e-6 * total
    assert results.modes.periods[0] > run(framed()).modes.periods[0]
