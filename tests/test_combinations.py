"""Load combinations with earthquake and separation, by hand for each standard."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building
from undatum.finding import Severity
from undatum.results.results import Results
from verification import Verify

BUILDING = shear_building([6e7] * 3, [2e5] * 3)
EN = {"standard": "en1998",
      "site": {"reference_acceleration": 0.25, "ground_type": "B", "importance_class": "II",
               "use": "D", "snow_above_1000m": True},
      "system": {d: {"row": "concrete frame", "regular_in_plan": True,
                     "regular_in_elevation": True} for d in "XY"}}
UBC = {"standard": "ubc97", "site": {"zone": "3", "soil": "SB", "occupancy_category": "essential"},
       "system": {d: {"row": "3.1a", "regular": True, "r_max": 0.3} for d in "XY"}}
IS = {"standard": "is1893-2016",
      "site": {"zone": "IV", "soil": "II", "importance_factor": "1.0"},
      "system": {d: {"row": "RC SMRF", "regular": True} for d in "XY"}}


def run(**more: Any) -> Results:
    return analyze(more.pop("building", BUILDING), **more)


def rows(r: Results) -> dict[tuple[str, str], tuple[float, ...]]:
    assert r.combinations is not None
    return {(c.kind, c.name): (c.dead, c.live, c.snow, *c.quake) for c in r.combinations.rows}


SDS = 2 / 3 * 1.2  # class C, S_S 1.0


@pytest.mark.parametrize(
    ("standard", "name", "kind", "hand"),
    [
        ("asce7-16", "6", "strength, redundancy", (1.2 + 0.2 * SDS, 1, 0.2, 1.3, 0.39)),
        ("asce7-16", "7", "strength, redundancy", (0.9 - 0.2 * SDS, 0, 0, 1.3, 0.39)),
        ("asce7-16", "6", "strength, overstrength", (1.2 + 0.2 * SDS, 1, 0.2, 3.0, 0.9)),
        ("asce7-16", "8", "allowable stress, redundancy", (1 + 0.14 * SDS, 0, 0, 0.91, 0.273)),
        ("asce7-16", "9", "allowable stress, redundancy",
         (1 + 0.105 * SDS, 0.75, 0.75, 0.525 * 1.3, 0.525 * 0.39)),
        ("asce7-16", "10", "allowable stress, overstrength", (0.6 - 0.14 * SDS, 0, 0, 2.1, 0.63)),
        ("asce7-22", "6", "strength, redundancy", (1.2 + 0.2 * SDS, 1, 0.15, 1.3, 0.39)),
    ],
)
def test_asce7(
    standard: str, name: str, kind: str, hand: tuple[float, ...], verify: Verify
) -> None:
    site = {**SITE, "sms": 1.2, "sm1": 0.6} if standard == "asce7-22" else SITE
    found = rows(run(standard=standard, site=site))[kind, f"{name}: X + 0.3 Y"]
    for what, ours, own in zip(("dead", "live", "snow", "X", "Y"), found, hand, strict=True):
        verify("asce7", f"factor on {what}, combination {name}, {kind}",
               f"{standard[4:]}, S_DS {SDS:.3f} g, rho 1.3, Omega_0 3", ours, own)


@pytest.mark.parametrize("standard", ["asce7-05", "asce7-10"])
def test_asce7_early(standard: str) -> None:
    s_ds = 2 / 3 * 1.0  # class C: F_a is 1.0 at S_S 1.0
    found = rows(run(standard=standard))
    assert found["strength, redundancy", "5: X + 0.3 Y"] == pytest.approx(
        (1.2 + 0.2 * s_ds, 1, 0.2, 1.3, 0.39))
    assert found["allowable stress, redundancy", "8: 0.3 X + Y"] == pytest.approx(
        (0.6 - 0.14 * s_ds, 0, 0, 0.273, 0.91))


def test_2022_leaves_out_what_is_not_certain() -> None:
    r = run(standard="asce7-22", site={**SITE, "sms": 1.2, "sm1": 0.6})
    assert r.combinations is not None
    assert not [c for c in r.combinations.rows if c.name.startswith("9")]
    assert "left out" in r.combinations.note


def test_en1998() -> None:
    assert rows(run(**EN)) == {("seismic", "X and Y, root of squares"): (1.0, 1.0, 1.0, 1.0, 1.0)}
    by_30 = rows(run(**EN, analysis={"directional_combination": "100/30"}))
    assert by_30["seismic", "0.3 X + Y"][3:] == (0.3, 1.0)


def test_is1893() -> None:
    quiet = {**IS, "site": {**IS["site"], "zone": "III"}}
    found = rows(run(**quiet))
    assert found["limit state", "1.2 (DL + IL ± EL): X"] == (1.2, 1.2, 0.0, 1.2, 0.0)
    assert found["limit state", "0.9 DL ± 1.5 EL: Y"] == (0.9, 0.0, 0.0, 0.0, 1.5)
    assert len(found) == 6
    slanted = ud.Building(levels=BUILDING.levels, lines=[*BUILDING.lines, ud.Line(
        name="s", at=(5, 3), direction="30 deg", bottom="Ground", top="L3", stiffness=1e7)])
    old = {**quiet, "standard": "is1893-2002"}
    assert rows(run(**old, building=slanted))[
        "limit state", "1.5 (DL ± EL): X + 0.3 Y"] == pytest.approx((1.5, 0, 0, 1.5, 0.45))
    up = {c.name: (*c.quake, c.vertical) for c in run(**IS).combinations.rows}  # zone IV
    assert up["1.5 (DL ± EL): 0.3 X + 0.3 Y + Z"] == pytest.approx((0.45, 0.45, 1.5))
    assert up["0.9 DL ± 1.5 EL: X + 0.3 Y + 0.3 Z"] == pytest.approx((1.5, 0.45, 0.45))
    assert len(up) == 9
    steel = {**IS, "standard": "is1893-2002",
             "system": {d: {"row": "steel concentric braces", "regular": True} for d in "XY"}}
    assert rows(run(**steel))["plastic design of steel", "1.7 (DL ± EL): X"] == (
        1.7, 0.0, 0.0, 1.7, 0.0)


def test_ubc97(verify: Verify) -> None:
    """A_B = 10 m by 6 m; r_max 0.3 gives rho = 2 - 20 / (0.3 sqrt(A_B))."""
    area = 60 / 0.3048**2
    hand = min(max(2 - 20 / (0.3 * np.sqrt(area)), 1.0), 1.5)
    r = run(**UBC)
    verify("ubc97", "redundancy factor", f"r_max 0.3, A_B {area:.1f} ft2",
           r.laterals["X"].redundancy, hand)
    wide = run(**{**UBC, "system": {d: {"row": "3.1a", "regular": True, "r_max": 0.9}
                                    for d in "XY"}})
    rho = 2 - 20 / (0.9 * np.sqrt(area))
    verify("ubc97", "redundancy factor", f"r_max 0.9, A_B {area:.1f} ft2",
           wide.laterals["X"].redundancy, rho)
    assert rho > 1.0
    found = rows(wide)
    ev = 0.5 * 0.30 * 1.25
    assert found["strength", "1.2 D + E + f1 L + f2 S: X + 0.3 Y"] == pytest.approx(
        (1.2 + ev, 1.0, 0.7, rho, 0.3 * rho))
    assert found["allowable stress", "D + 0.75 (L + S + E/1.4): X + 0.3 Y"] == pytest.approx(
        (1.0, 0.75, 0.75, 0.75 * rho / 1.4, 0.75 * 0.3 * rho / 1.4))
    assert found["special", "0.9 D ± Em: 0.3 X + Y"] == pytest.approx((0.9, 0, 0, 0.3 * 2.8, 2.8))
    assert r.statics["X", "strength"].shear.base_shear == pytest.approx(
        wide.statics["X", "strength"].shear.base_shear)  # rho is in the combinations alone


def test_ubc97_redundancy_without_r_max_and_its_limit() -> None:
    plain = run(**{**UBC, "system": {d: {"row": "1.2a", "regular": True} for d in "XY"}})
    assert plain.laterals["X"].redundancy == 1.0  # from the lines of a small plan
    assert "upper bound" in plain.section("system", "X")["r_max"].branch
    quiet = run(**{**UBC, "site": {**UBC["site"], "zone": "2A"}})  # type: ignore[dict-item]
    assert quiet.laterals["X"].redundancy == 1.0
    large = shear_building([6e7] * 3, [2e5] * 3, plan=(60.0, 40.0))
    r = run(**{**UBC, "building": large,
               "system": {d: {"row": "3.1a", "regular": True, "r_max": 1.0} for d in "XY"}})
    note = next(f for f in r.findings if f.check == "redundancy")
    assert note.severity is Severity.EXCEEDED
    assert note.capacity == 1.25


# -- separation ------------------------------------------------------------------------------------

CASES: list[tuple[dict[str, Any], str]] = [
    ({}, "squares"), ({"standard": "asce7-05"}, "sum"), (EN, "70 %"), (UBC, "squares"), (IS, "R"),
    ({**IS, "standard": "is1893-2002"}, "R/2"),
]


@pytest.mark.parametrize(("standard", "how"), CASES)
def test_separation(standard: dict[str, Any], how: str) -> None:
    other = 0.02
    gaps = [{"name": "line", "direction": "Y", "distance": 5.0},
            {"name": "hall", "direction": "X", "distance": 0.001, "neighbor": other,
             "same_floors": True, "level": "L2"}]
    r = run(**standard, gaps=gaps)
    d = r.displacements
    amplified = d.elastic * d.factors[:, None, None, None]
    sets = d.elastic.axes[0].labels["set"]
    ruling = [[r.drift.deciding(k) in (None, name.split()[0]) for name in sets] for k in (0, 1)]
    roof_y, second_x = (np.nanmax(amplified[ruling[k], :, i, k]) for i, k in ((0, 1), (1, 0)))
    row = 5.0 if how.startswith("R") else 1.0
    line, hall = r.gaps
    roof_y, second_x = roof_y * line.second_order, second_x * hall.second_order
    assert line.answer.required == pytest.approx(row * roof_y)
    assert hall.answer.required == pytest.approx({
        "squares": np.hypot(second_x, other), "sum": second_x + other,
        "70 %": 0.7 * np.hypot(second_x, other), "R": row * (second_x + other),
        "R/2": row * (second_x + other) / 2}[how])
    found = [f for f in r.findings if f.check == "separation"]
    assert [f.severity for f in found] == [Severity.OK, Severity.EXCEEDED]
    assert r.table("separation").marks == (1,)


def test_second_order_widens_the_gap() -> None:
    """A soft building: the displacement takes the largest P-Delta factor of the stories below."""
    soft = shear_building([1.4e7] * 3, [3e5] * 3)
    strong = {d: {"row": "C.1", "beta": 0.25} for d in "XY"}
    r = run(building=soft, system=strong,
            gaps=[{"name": "line", "direction": "X", "distance": 2.0}])
    theta = max(float(c.answer.coefficient.max()) for c in r.stability if c.direction == "X")
    assert theta > 0.1
    d = r.displacements
    top = d.elastic.sel(level=r.model.levels[0], component="X").values
    plain = np.nanmax(top * d.factors[:, None])
    assert r.gaps[0].second_order == pytest.approx(1 / (1 - theta))
    assert r.gaps[0].answer.required == pytest.approx(plain / (1 - theta))


def test_unknown_level_of_a_gap() -> None:
    with pytest.raises(ud.InputError, match="did you mean 'L2'"):
        run(gaps=[{"name": "a", "direction": "X", "distance": 1.0, "level": "L 2"}])


# -- live load of roofs ----------------------------------------------------------------------------

def roofed(kind: str | None, standard: dict[str, Any]) -> Results:
    """One column at each corner, 10 m apart, with 4 kN/m2 dead, 2 live and 1 of ``kind`` above."""
    outline = [(0, 0), (10, 0), (10, 10), (0, 10)]
    loads = [ud.Load(name="slab", kind="dead", per_area=4e3),
             ud.Load(name="use", kind="live", per_area=2e3)]
    more = [] if kind is None else [ud.Load(name="roof", kind=kind, per_area=1e3)]
    axes = ud.Axes(across_x=ud.AxisFamily(names="1..2", spacing=[10]),
                   across_y=ud.AxisFamily(names="A..B", spacing=[10]))
    one = ud.Building(
        axes=axes, self_weight=False,
        levels=[ud.Level(name="L1", height=4.0, outline=outline, loads=[*loads, *more]),
                ud.Level(name="G", outline=outline)],
        sections={"s": ud.CrossSection(rectangle=(0.4, 0.4), material="C30/37")},
        members=[ud.MemberRule(columns="all", section="s"), ud.MemberRule(beams="all",
                                                                          section="s")])
    return analyze(one, **standard)


ASCE = {"standard": "asce7-16", "site": SITE, "system": {d: {"row": "C.1"} for d in "XY"}}


@pytest.mark.parametrize(("standard", "clause", "factors"), [
    (ASCE, "2.3.1", {"1.2 D + 1.6 L + 0.5 Lr": 1.2 * 4 + 1.6 * 2 + 0.5,
                     "1.2 D + 1.6 Lr + L": 1.2 * 4 + 2 + 1.6, "D + Lr": 5.0,
                     "D + 0.75 L + 0.75 Lr": 4 + 0.75 * 3}),
    (UBC, "1612.2.1", {"1.2 D + 1.6 L + 0.5 Lr": 1.2 * 4 + 1.6 * 2 + 0.5,
                       "1.2 D + 1.6 Lr + f1 L": 1.2 * 4 + 2 + 1.6, "D + L + Lr": 7.0}),
    ({**ASCE, "standard": "asce7-05"}, "2.3.2", {
        "1.2 D + 1.6 Lr + L": 1.2 * 4 + 2 + 1.6}),
])
def test_roofs_have_a_live_load_of_their_own(
    standard: dict[str, Any], clause: str, factors: dict[str, float]
) -> None:
    """A foot carries a quarter of 100 m2: by hand under every combination with Lr. No seismic
    weight, and no such rows where there is no such load."""
    r = roofed("roof live", standard)
    without = roofed(None, standard)
    assert r.weights.total == without.weights.total
    found = r.read("reactions", "A1", "each")
    told = {name.removesuffix(", gravity").split(", ")[-1]: v[0, 2] / 25e3 for name, v in zip(
        found.names, found.values, strict=True)}
    for name, hand in factors.items():
        [value] = [v for key, v in told.items() if key == name]
        assert value == pytest.approx(hand, rel=1e-6), name
    assert r.combinations is not None
    assert without.combinations is not None
    assert clause in {c.clause for c in r.combinations.gravity if c.roof}
    assert not [c for c in (*without.combinations.rows, *without.combinations.gravity) if c.roof]
    quake = [c for c in r.combinations.rows if c.roof]
    assert bool(quake) == (standard["standard"] in ("ubc97", "asce7-05"))


def test_other_standards_take_it_as_live_load_that_does_not_shake() -> None:
    for standard in (EN, IS):
        r, without = roofed("roof live", standard), roofed(None, standard)
        assert r.weights.total == without.weights.total
        line = next(x for x in r.weights.lines if x.source == "roof")
        assert line.counted == 0


def test_ubc97_takes_f1_and_f2_as_stated() -> None:
    """1612.2.1, Eq. 12-3 and 12-5, and 1612.4."""
    site = {**UBC["site"], "live_with_earthquake": "0.5", "snow_with_earthquake": "0.2"}
    found, usual = rows(run(**{**UBC, "site": site})), rows(run(**UBC))
    for (kind, name), values in found.items():
        plain = usual[kind, name]
        both = "f1" in name, "f2" in name
        assert values[1] == pytest.approx(plain[1] * (0.5 if both[0] else 1.0))
        assert values[2] == pytest.approx(plain[2] * (0.2 / 0.7 if both[1] else 1.0))
        assert values[0] == plain[0]
    told = run(**{**UBC, "site": site}).combinations
    assert told is not None
    assert {c.live for c in told.gravity if "f1" in c.name} == {0.5}
