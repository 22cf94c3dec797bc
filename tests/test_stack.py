"""Heights and weights alone: the static forces of a structure, and honest about the rest."""

from __future__ import annotations

import pickle
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import OWN, ROOMS, SITE, Command, starter_text
from undatum.building.stack import Floor


def lines(stories: int = 4) -> ud.Building:
    return ud.Building(
        levels=[*(ud.Level(name=f"L{i}", height=3.0 + 0.2 * i, outline="all", floor="all")
                  for i in range(stories, 0, -1)), ud.Level(name="Ground", outline="all")],
        outlines={"all": [(0, 0), (24, 0), (24, 15), (0, 15)]},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=7e3)]},
        lines=[ud.Line(name=f"{d}{k}", direction=d, at=at, bottom="Ground", top=f"L{stories}",
                       stiffness=4e8)
               for d, k, at in (("X", 1, (12, 0)), ("X", 2, (12, 15)), ("Y", 1, (0, 7)),
                                ("Y", 2, (24, 7)))])


def stack(stories: int = 4, **more: Any) -> ud.Stack:
    return ud.Stack(heights={f"L{i}": 3.0 + 0.2 * i for i in range(1, stories + 1)},
                    weights={f"L1..L{stories}" if stories > 1 else "L1": 7e3 * 24 * 15},
                    plan=(24, 15), **more)


SYSTEM = {"X": {"row": "C.5"}, "Y": {"row": "C.5"}}


@pytest.mark.parametrize("standard", ROOMS)
def test_as_with_a_structure_at_the_approximate_period(standard: str) -> None:
    site, system, *_ = ROOMS[standard]
    if standard == "nzs1170":  # there is no approximate one
        system = {**system, "period": 0.6, "reason": "by a sketch"}
    elif not standard.startswith("is1893"):  # there the approximate one is the rule
        system = {**system, "computed_period": False}
    both = {"X": system, "Y": system}
    whole = ud.analyze(title="a", standard=standard, results_in="N and m", site=site, system=both,
                       building=lines(), folder=OWN)
    short = ud.run_stack(ud.make_stack(title="a", standard=standard, results_in="N and m",
                                       site=site, system=both, stack=stack(), folder=OWN))
    drift = {key for key in short.statics if key[1] != short.strength.key}
    for key, one in short.statics.items():
        if key in drift and standard.startswith("is1893-2002"):
            continue  # for displacements the computed period counts where there is one
        assert one.forces == pytest.approx(whole.statics[key].forces, rel=1e-12)
        assert one.shear.base_shear == pytest.approx(whole.statics[key].shear.base_shear)
        assert one.levels == whole.statics[key].levels
    for d, forces in short.diaphragms.items():
        assert forces == pytest.approx(whole.diaphragms[d])
    assert short.torques is not None
    share = 0.1 if standard == "nzs1170" else 0.05
    for d, across in (("X", 15), ("Y", 24)):
        assert short.torques[d] == pytest.approx(
            share * across * short.statics[d, short.strength.key].forces)


def test_loft_by_hand(tmp_path: Path) -> None:
    """C_t h^x, C_s = S_DS / R on the plateau, forces by weight times height."""
    path = tmp_path / "loft.toml"
    path.write_text(starter_text("loft"))
    found = ud.run_stack(ud.read_stack(path))
    h = np.array([64, 51, 39, 27, 15.0])
    w = np.array([640, 980, 980, 980, 980.0])
    assert found.periods["X"].approximate == pytest.approx(0.02 * 64**0.75)
    shear = 1.2 * 1.1 * 2 / 3 / 6 * w.sum()
    one = found.statics["X", "strength"]
    kip = 4448.2216152605
    assert one.shear.base_shear / kip == pytest.approx(shear)
    k = 1.0  # T below 0.5 s
    assert one.forces / kip == pytest.approx(shear * w * h**k / (w * h**k).sum())
    assert "kip" in str(found)
    assert "Loft" in str(found)


def test_one_weight_and_one_height() -> None:
    found = ud.run_stack(ud.make_stack(
        site=SITE, system=SYSTEM,
        stack=ud.Stack(heights={"Roof": 20}, weights={"Roof": 5e6})))
    one = found.statics["Y", "strength"]
    assert one.forces.tolist() == [pytest.approx(one.shear.base_shear)]
    assert found.torques is None
    said = next(f for f in found.findings if f.check == "scope")
    assert said.severity.value == "warning"
    for word in ("modes", "drift", "second-order", "irregularities", "plan is not given"):
        assert word in said.text


def test_floors_in_order() -> None:
    one = ud.Stack(heights={"L1": 4, "L2..L3": 3}, weights={"L1..L2": 10, "L3": 0})
    assert one.floors() == [Floor("L3", 3, 0), Floor("L2", 3, 10), Floor("L1", 4, 10)]


@pytest.mark.parametrize(("heights", "weights", "text"), [
    ({"L1": 4}, {"L2": 1}, "L2.*not among the levels"),
    ({"L1": 4, "L2": 3}, {"L1": 1}, "'L2' has no weight"),
    ({"L1": 4, "L1..L2": 3}, {"L1..L2": 1}, "'L1' has two heights"),
    ({"L1": 4, "L2": 3}, {"L1..L2": 1, "L2": 2}, "'L2' has two weights"),
    ({"L1": 4}, {"L1": 0}, "nothing to shake"),
    ({"L1": -4}, {"L1": 1}, "heights"),
    ({}, {"L1": 1}, "heights"),
])
def test_wrong_stacks(heights: Any, weights: Any, text: str) -> None:
    with pytest.raises(ud.InputError, match=text):
        ud.Stack(heights=heights, weights=weights)


def test_rules_that_need_more_say_so() -> None:
    site, system, *_ = ROOMS["en1998"]
    for more, text in (({"period_basis": "sway"}, "sway of the top, which only a structure has"),
                       ({"distribution": "mode shape"}, "the mode shape, which only a structure"),
                       ({"period_basis": "walls"}, "no rectangular wall")):
        with pytest.raises(ud.InputError, match=text):
            ud.run_stack(ud.make_stack(standard="en1998", site=site, stack=stack(),
                                     system={"X": {**system, **more}, "Y": system}))
    bare = ud.Stack(heights={"Roof": 12}, weights={"Roof": 1e6})
    with pytest.raises(ud.InputError, match=r"(?s)stack\.plan.*plan dimensions"):
        ud.run_stack(ud.make_stack(
            standard="is1893-2016", stack=bare, site=ROOMS["is1893-2016"][0],
            system={d: {**ROOMS["is1893-2016"][1], "infilled": True} for d in "XY"}))


def test_by_command(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "loft.toml"
    assert command(["new", str(path), "--like", "loft"]) == 0
    assert command(["check", str(path)]) == 0
    assert "heights and weights of 5 levels" in " ".join(command.said.out.split())
    assert command(["run", str(path), "--out", str(tmp_path / "out")]) == 0
    assert "668.8 kip" in command.said.out
    made = {p.name for p in (tmp_path / "out").iterdir() if not p.name.startswith(".")}
    assert made == {"record.html", "base_shear.html", "results.xlsx", "tables", "figures",
                    "results.json", "results.nc"}
    assert command(["compare", str(tmp_path / "out"), str(path)]) == 0
    assert "both inputs are the same" in command.said.out
    page = (tmp_path / "out" / "record.html").read_text()
    assert "There is no structure" in page
    table = (tmp_path / "out" / "tables" / "static_x_strength.csv").read_text()
    assert table.splitlines()[1].startswith("Roof,64")
    path.write_text(path.read_text().replace("Roof = 640", "Rof = 640"))
    assert command(["run", str(path)]) == 2
    assert "did you mean 'Roof'" in command.said.err


def test_one_job_at_two_depths(tmp_path: Path, command: Command) -> None:
    """Kept, loaded, compared, expected, side by side; going over to a building costs no key."""
    known = {"site": SITE, "system": SYSTEM, "drift": {"judged_by": "static"}, "expected": [{
        "name": "hand", "table": "base_shears", "column": "weight", "value": 4 * 7e3 * 24 * 15,
        "where": {"direction": "X", "purpose": "strength"}, "source": "by hand"}],
        "alternatives": {"en1998": dict(zip(("site", "system"), (
            ROOMS["en1998"][0], dict.fromkeys("XY", ROOMS["en1998"][1])), strict=True))}}
    project = ud.make_stack(stack=stack(), results_in="N and m", **known)
    assert pickle.loads(pickle.dumps(project)) == project
    r = ud.run_stack(project)
    assert r.expected()[0].holds
    assert {f.check for f in r.findings} >= {"expected values", "keys without a structure"}
    r.save(tmp_path / "kept")
    again = ud.load_stack(tmp_path / "kept")
    assert again.project == project
    assert again.findings == r.findings
    assert all(a.table(n) == r.table(n) for a in [again] for n in r.table_names)
    assert r.array("story shear").values[:, -1] == pytest.approx(
        [s.shear.base_shear for s in r.statics.values()])
    with pytest.raises(ud.InputError, match="load_stack"):
        ud.load(tmp_path / "kept")
    assert not any(len(t) for t in ud.compared(r, again))
    heavier = ud.run_stack(ud.make_stack(
        site=SITE, system=SYSTEM, results_in="N and m",
        stack=ud.Stack(heights=stack().heights, weights={"L1..L4": 9e3 * 24 * 15},
                       plan=(24, 15))))
    change = ud.compared(r, heavier)[0].to_frame(r.units).set_index("value")["change"]
    assert change["seismic weight"] == pytest.approx(2 / 9)
    both = ud.side_by_side(project)
    assert [one.standard_title for one in both.results] == ["ASCE/SEI 7-16", "EN 1998-1:2004"]
    assert both.results[1].statics["X", "strength"].forces == pytest.approx(ud.run_stack(
        ud.make_stack(standard="en1998", stack=stack(), **known["alternatives"]["en1998"])
    ).statics["X", "strength"].forces)
    assert ud.analyze(building=lines(), results_in="N and m", **known).expected()[0].holds


def test_commands_that_need_a_building_say_so(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "loft.toml"
    path.write_text(starter_text("loft"))
    for asked in ("view", "members"):
        assert command([asked, str(path)]) == 2
        assert "gives heights and weights alone" in command.said.err
    plot = tmp_path / "s.png"
    assert command(["spectrum", str(path), "--plot", str(plot)]) == 0
    assert "S_DS" in command.said.out
    assert plot.stat().st_size > 20_000


@pytest.mark.parametrize(("stories", "risk", "severity"), [(7, "IV", "exceeded"),
                                                          (4, "II", "warning")])
def test_what_heights_grant_is_checked(stories: int, risk: str, severity: str) -> None:
    """The cap on S_DS for seven stories of category IV; with four the irregularities stay open."""
    site = {**SITE, "ss": 2.0, "s1": 0.5, "site_class": "C", "risk_category": risk}
    r = ud.run_stack(ud.make_stack(site=site, stack=stack(stories), system={d: {
        "row": "B.2", "cap_on_sds": True, "redundancy": 1.0, "redundancy_reason": "lines"}
        for d in "XY"}))
    found = [f for f in r.findings if f.check == "cap on the short-period acceleration"]
    assert [f.severity.value for f in found] == [severity] * 2
    assert [f.severity.value for f in r.findings if f.check == "redundancy"] == ["note"] * 2
    assert ("7 stories are more than five" in found[0].text) is (stories == 7)


def test_category_by_s_ds_alone_and_exception_3_without_a_structure() -> None:
    """T_a against 0.8 T_S and T against T_S, from heights alone."""
    site = {**SITE, "ss": 0.5, "s1": 0.2, "site_class": "B", "category_by_short_period": True}
    high = {d: {"row": "C.1"} for d in "XY"}
    for stories, verdict in ((1, "note"), (12, "exceeded")):
        r = ud.run_stack(ud.make_stack(site=site, stack=stack(stories), system=high))
        found = [f for f in r.findings if f.check == "design category by S_DS alone"]
        assert [f.severity.value for f in found] == [verdict] * 2
    site = {**SITE, "ss": 0.6, "s1": 0.3, "site_class": "E"}
    for stories, verdict in ((3, "warning"), (30, "exceeded")):
        r = ud.run_stack(ud.make_stack(site=site, stack=stack(stories), system=high))
        (one,) = [f for f in r.findings if f.check == "permitted procedure"]
        assert one.severity.value == verdict, r.statics["X", "strength"].shear.period
