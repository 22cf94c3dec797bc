"""UBC 1997: every coefficient, the static force on every branch, drift, scaling, checks."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import Room, analyze, share_of, shear_building, site_of
from undatum import standards
from undatum.finding import Severity
from undatum.results.results import Results
from undatum.standards.answers import BaseShearAnswer, SiteAnswer
from undatum.standards.facts import LoadFacts, StructureFacts
from verification import Verify

G, FT, PSF = 9.80665, 0.3048, 47.880258980336
ROOM = standards.get("ubc97")
SITE: dict[str, Any] = {"zone": "3", "soil": "SD", "occupancy_category": "standard"}
NEAR: dict[str, Any] = {"zone": "4", "source_type": "A", "source_distance": "20 km"}
FRAME: dict[str, Any] = {"row": "3.1a", "regular": True}

# Tables 16-Q and 16-R written out again, zones 1, 2A, 2B, 3, 4 (the last without Na, Nv).
CA = {"SA": (0.06, 0.12, 0.16, 0.24, 0.32), "SB": (0.08, 0.15, 0.20, 0.30, 0.40),
      "SC": (0.09, 0.18, 0.24, 0.33, 0.40), "SD": (0.12, 0.22, 0.28, 0.36, 0.44),
      "SE": (0.19, 0.30, 0.34, 0.36, 0.36)}
CV = {"SA": (0.06, 0.12, 0.16, 0.24, 0.32), "SB": (0.08, 0.15, 0.20, 0.30, 0.40),
      "SC": (0.13, 0.25, 0.32, 0.45, 0.56), "SD": (0.18, 0.32, 0.40, 0.54, 0.64),
      "SE": (0.26, 0.50, 0.64, 0.84, 0.96)}


def site(**more: Any) -> SiteAnswer:
    return site_of(ROOM, **{**SITE, **more})


def run(building: ud.Building | None = None, frame: dict[str, Any] | None = None,
        **more: Any) -> Results:
    frame = {**FRAME, **(frame or {})}
    return analyze(building or shear_building([6e7] * 4, [2e5] * 4), standard="ubc97",
                   site={**SITE, **more.pop("site", {})}, system={"X": frame, "Y": frame}, **more)


def shear(purpose: Any, computed: float, height: float = 60 * FT, **more: Any) -> BaseShearAnswer:
    facts = StructureFacts(height, 5, (height / 5,) * 5, 1e7)
    return Room("ubc97", {**SITE, **more}, FRAME, facts).shear(purpose, computed)


@pytest.mark.parametrize("soil", CA)
def test_every_coefficient(soil: str, verify: Verify) -> None:
    for i, zone in enumerate(("1", "2A", "2B", "3")):
        p = site(zone=zone, soil=soil).parameters
        verify("ubc97", "C_a", f"zone {zone}, {soil}", p["C_a"], CA[soil][i], rel=1e-15)
        verify("ubc97", "C_v", f"zone {zone}, {soil}", p["C_v"], CV[soil][i], rel=1e-15)
        assert p["Z"] == (0.075, 0.15, 0.2, 0.3)[i]
    far = site(**NEAR, soil=soil).parameters
    assert (far["C_a"], far["C_v"], far["Z"]) == (CA[soil][4], CV[soil][4], 0.4)


@pytest.mark.parametrize(
    ("source", "distance", "na", "nv"),
    [("A", 1, 1.5, 2.0), ("A", 2, 1.5, 2.0), ("A", 3.5, 1.35, 1.8), ("A", 5, 1.2, 1.6),
     ("A", 7.5, 1.1, 1.4), ("A", 10, 1.0, 1.2), ("A", 12.5, 1.0, 1.1), ("A", 15, 1.0, 1.0),
     ("B", 2, 1.3, 1.6), ("B", 3.5, 1.15, 1.4), ("B", 5, 1.0, 1.2), ("B", 7.5, 1.0, 1.1),
     ("B", 10, 1.0, 1.0), ("C", 1, 1.0, 1.0)],
)
def test_near_source_factors(
    source: str, distance: float, na: float, nv: float, verify: Verify
) -> None:
    a = site(zone="4", source_type=source, source_distance=f"{distance} km", soil="SB")
    for symbol, own in (("N_a", na), ("N_v", nv)):
        verify("ubc97", symbol, f"source {source}, {distance} km", a.working[symbol].value, own)
    assert a.parameters["C_a"] == pytest.approx(0.40 * na)
    capped = site(zone="4", source_type=source, source_distance=f"{distance} km", soil="SB",
                  near_source_cap=True)
    assert capped.parameters["C_a"] == pytest.approx(0.40 * min(na, 1.1))


def test_zone_4_needs_its_source() -> None:
    with pytest.raises(ud.InputError, match="give source_type and source_distance"):
        site(zone="4")


def test_spectrum_by_hand() -> None:
    s = site().spectrum  # C_a 0.36, C_v 0.54: T_s 0.6, T_0 0.12
    t = np.array([0.0, 0.06, 0.12, 0.6, 1.2, 6.0])
    assert s(t) / G == pytest.approx([0.36, 0.36 * 1.75, 0.9, 0.9, 0.45, 0.09])


@pytest.mark.parametrize(
    ("purpose", "computed", "feet", "more", "coefficient", "branch"),
    # Height 60 ft: T_A = 0.035 x 60^0.75 = 0.7545 s; caps 0.9808 s (zone 4) and 1.0563 s.
    [
        ("strength", 0.9, 60, {}, 0.54 / (8.5 * 0.9), "30-4"),
        ("strength", 5.0, 60, {}, 0.54 / (8.5 * 1.4 * 0.035 * 60**0.75), "30-4"),
        ("strength", 0.3, 60, {}, 2.5 * 0.36 / 8.5, "30-5"),
        ("strength", 0.3, 60, {"occupancy_category": "essential"}, 2.5 * 0.36 * 1.25 / 8.5,
         "30-5"),
        # 0.08/(8.5 x 3.3746) = 0.0028 at 300 ft is below 0.11 x 0.08.
        ("strength", 9.0, 300, {"soil": "SB", "zone": "1"}, 0.11 * 0.08, "30-6"),
        ("strength", 9.0, 600, {}, 0.11 * 0.36, "30-6"),
        # Zone 4, far from the source: 0.11 x 0.44 = 0.0484 is above 0.8 x 0.4/8.5 = 0.0376.
        ("strength", 9.0, 600, {**NEAR}, 0.11 * 0.44, "30-6"),
        # On hard rock 0.11 x 0.32 = 0.0352 is below it.
        ("strength", 9.0, 600, {**NEAR, "soil": "SA"}, 0.8 * 0.4 / 8.5, "30-7"),
        ("drift", 5.0, 60, {**NEAR, "soil": "SA"}, 0.8 * 0.4 / 8.5, "30-7"),
        ("drift", 5.0, 60, {**NEAR, "source_distance": "2 km"}, 0.8 * 0.4 * 2.0 / 8.5, "30-7"),
        ("drift", 3.0, 60, {}, 0.54 / (8.5 * 3.0), "30-4"),
        ("drift", 9.0, 600, {}, 0.54 / (8.5 * 9.0), "30-4"),
    ],
)
def test_base_shear_by_hand(
    purpose: str, computed: float, feet: float, more: dict[str, Any], coefficient: float,
    branch: str, verify: Verify,
) -> None:
    found = shear(purpose, computed, height=feet * FT, **more)
    verify("ubc97", f"static V/W, Eq. {branch}",
           {**SITE, **more, "height": f"{feet} ft", "T": computed, "for": purpose},
           found.coefficient, coefficient)
    assert branch in found.governing


@given(period=st.floats(0.1, 6.0), n=st.integers(1, 12))
def test_distribution_with_top_force(period: float, n: int) -> None:
    one = shear("drift", period)
    weights, heights = np.full(n, 1e6), 3.5 * np.arange(n, 0, -1)
    forces = Room("ubc97", SITE, FRAME).spread(one, weights, heights)
    v = one.base_shear
    assert forces.sum() == pytest.approx(v)
    top = 0.0 if period <= 0.7 else min(0.07 * period * v, 0.25 * v)
    share = heights / heights.sum()
    assert forces[0] == pytest.approx(top + (v - top) * share[0])
    assert forces[1:] == pytest.approx((v - top) * share[1:])


@pytest.mark.parametrize(
    ("regular", "share"), [(True, 0.9), (False, 1.0)]
)
def test_dynamic_base_shear_is_scaled_by_regularity(regular: bool, share: float) -> None:
    r = run(frame={"regular": regular})
    for s in r.scaling:
        static = r.statics[s.direction, s.state.key].shear.base_shear
        assert s.answer.factor == pytest.approx(max(1.0, share * static / s.modal_base_shear))


def test_drift_is_the_inelastic_one_at_the_critical_points() -> None:
    r = run()
    i = r.drift.sets.index("static X, +e, drift")
    assert r.drift.design[i, 0, 0, 0] == pytest.approx(0.7 * 8.5 * r.drift.elastic[i, 0, 0, 0])
    assert r.drift.at_edges == (True, True)
    period = r.statics["X", "drift"].shear.period
    assert r.drift.limits[0] == (0.025 if period < 0.7 else 0.020)
    slow = run(shear_building([4e6] * 4, [2e5] * 4))
    assert slow.drift.limits[0] == 0.020


def test_p_delta_ratio_uses_the_drift_under_design_forces() -> None:
    r = run()
    c = next(x for x in r.stability if x.direction == "X" and x.method == "static")
    hand = c.gravity * (c.drift / (0.7 * 8.5)) / (c.shear * c.heights)
    assert c.answer.coefficient == pytest.approx(hand)
    soft = run(shear_building([2.2e6] * 2, [1.2e5] * 2))
    found = next(x for x in soft.stability if x.direction == "X").finding()
    assert found.severity is Severity.WARNING


@pytest.mark.parametrize(
    ("load", "share"),
    [(LoadFacts("dead", 1e3, False), 1.0), (LoadFacts("storage", 1e4, False), 0.25),
     (LoadFacts("live", 1e3, False), 0.0), (LoadFacts("snow", 30 * PSF, True), 0.0),
     (LoadFacts("snow", 31 * PSF, True), 1.0), (LoadFacts("equipment", None, True), 1.0)],
)
def test_weight(load: LoadFacts, share: float) -> None:
    assert share_of("ubc97", load).share == share
    assert share_of("ubc97", LoadFacts("partition", 1.0, False)).minimum == \
        pytest.approx(10 * PSF)


def test_accidental_torsion_always_and_amplified_where_irregular() -> None:
    r = run()
    assert {s.sign for s in r.static_sets} == {1, -1}
    odd = run(shear_building([4e7], [4e5], plan=(30.0, 10.0), lines_y=[(0.0, 0.25), (30.0, 0.75)]))
    assert odd.torsion["Y"].answer.kind == "1"
    assert odd.torsion["Y"].factors[0] > 1.0


@pytest.mark.parametrize(
    ("row", "height", "zone", "severity"),
    [("3.1a", 200.0, "4", Severity.OK), ("2.3a", 240.1, "3", Severity.EXCEEDED),
     ("2.3a", 239.9, "3", Severity.OK), ("2.3a", 500.0, "2B", Severity.OK),
     ("3.3", 30.0, "3", Severity.EXCEEDED), ("5", 36.0, "4", Severity.EXCEEDED)],
)
def test_height_limits(row: str, height: float, zone: str, severity: Severity) -> None:
    more = NEAR if zone == "4" else {"zone": zone}
    facts = StructureFacts(height * FT, 5, (height * FT / 5,) * 5, 1e7)
    found = Room("ubc97", {**SITE, **more}, {"row": row, "regular": True}, facts).job.systems["X"]
    assert found.findings[0].severity is severity


def test_static_procedure_is_judged() -> None:
    tall = run(shear_building([5e8] * 21, [2e5] * 21, height=3.6))
    found = next(f for f in tall.findings if f.check == "static procedure")
    assert "may not be used" in found.text
    assert any("may be used" in f.text for f in run().findings)


def test_recorded_formulas_reevaluate() -> None:
    for r in (run(), run(site=NEAR), run(shear_building([4e6] * 4, [2e5] * 4))):
        for section in r.working:
            for step in section:
                if step.formula:
                    assert step.evaluate() == pytest.approx(step.value, rel=1e-12)


def test_systems() -> None:
    rows = {row[0]: row for row in ROOM.systems_table().rows()}
    assert len(rows) == 41
    for row, values in {"1.2a": (4.5, 2.8, "160"), "2.1": (7.0, 2.8, "240"),
                        "3.1b": (8.5, 2.8, "NL"), "4.1a": (8.5, 2.8, "NL"),
                        "5": (2.2, 2.0, "35")}.items():
        assert rows[row][3:] == values
    with pytest.raises(ud.InputError, match=r"Table 16-N\n    did you mean"):
        ROOM.system_input(row="3.1", regular=True)


# -- simplified static force (1629.8.2, 1630.2.3) --------------------------------------------------

def simple(stories: int, row: str = "3.1a", occupancy: str = "standard", y: bool = True,
           **more: Any) -> Results:
    site = {"zone": "3", "soil": "SB", "occupancy_category": occupancy, **more}
    return analyze(shear_building([6e7] * stories, [2e5] * stories), standard="ubc97", site=site,
                   system={d: {"row": row, "regular": True, "simplified": y or d == "X"}
                           for d in "XY"},
                   gaps=[{"name": "party wall", "direction": "X", "distance": 1.0}])


@pytest.mark.parametrize(("stories", "row", "occupancy", "opened"), [
    (2, "3.1a", "standard", True), (3, "3.1a", "standard", False),
    (3, "1.1a", "miscellaneous", True), (4, "1.1a", "standard", False),
    (2, "3.1a", "essential", False),
])
def test_simplified_static_force(stories: int, row: str, occupancy: str, opened: bool) -> None:
    """V = 3.0 C_a W / R, shared out by weight; where it is open drift has no limit."""
    r = simple(stories, row, occupancy)
    static = r.statics["X", "strength"]
    w = np.array(static.weights)
    reduction = {"3.1a": 8.5, "1.1a": 5.5}[row]
    assert static.forces == pytest.approx(3.0 * 0.3 / reduction * w)
    assert static.shear.governing == "simplified static force"
    (found,) = [f for f in r.findings if f.check == "simplified static force"]
    assert (found.severity is Severity.OK) == opened
    assert np.isfinite(r.drift.limits[0]) == (not opened)
    drift = next(f for f in r.findings if f.check == "story drift X, static")
    assert ("no limit: the simplified static force is used" in drift.text) == opened
    assert drift.demand is not None
    assert drift.demand > 1e-4  # the largest, also without a limit
    gap = next(f for f in r.findings if f.check.startswith("separation"))
    assert gap.demand is not None
    assert (gap.demand >= 0.01 * 3.0 * stories - 1e-12) >= opened


def test_simplified_in_one_direction_is_not_open() -> None:
    r = simple(2, y=False)
    (found,) = [f for f in r.findings if f.check == "simplified static force"]
    assert found.severity is Severity.EXCEEDED
    assert "one direction only" in found.text
    assert np.isfinite(r.drift.limits[:2]).all()


def test_strength_combinations_of_concrete_take_a_tenth_more() -> None:
    """1612.2.1: those with earthquake alone, on every factor."""
    plain, more = (simple(2, concrete_multiplier=c).combinations for c in (False, True))
    assert plain is not None
    assert more is not None
    for a, b in zip(plain.rows, more.rows, strict=True):
        k = 1.1 if a.kind == "strength" else 1.0
        assert (b.dead, b.live, b.snow, *b.quake) == pytest.approx(
            (k * a.dead, k * a.live, k * a.snow, *(k * f for f in a.quake)))
    assert plain.gravity == more.gravity
    assert more.strength == pytest.approx({d: 1.1 * f for d, f in plain.strength.items()})
