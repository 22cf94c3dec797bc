"""ASCE 7-16 section 12.8: base shear on every branch, distribution, torsion, drift, P-Delta."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import SITE, Room, analyze, shear_building, twisted
from undatum import standards
from undatum.finding import Severity
from undatum.standards.answers import BaseShearAnswer
from undatum.standards.facts import StructureFacts
from verification import Verify

STANDARD = standards.get("asce7-16")
FT = 0.3048


def shear(
    purpose: str = "strength", computed: float | None = 0.3, *, row: str = "C.1",
    height: float = 10.0, weight: float = 1e7, system: dict[str, Any] | None = None, **given: Any,
) -> BaseShearAnswer:
    facts = StructureFacts(height, 3, (height / 3,) * 3, weight)
    room = Room("asce7-16", {**SITE, **given}, {"row": row, **(system or {})}, facts)
    return room.shear(purpose, computed)


# Class B rock without measured velocity: F = 1.0, so S_DS = 2/3 S_S and S_D1 = 2/3 S_1.
ROCK = {"site_class": "B", "velocity_measured": False}


@pytest.mark.parametrize(
    ("given", "purpose", "computed", "coefficient", "governs"),
    [
        # Plateau: S_DS = 1.0, R = 8, Ie = 1.
        ({"ss": 1.5, "s1": 0.45, **ROCK}, "strength", 0.2, 1.0 / 8, "12.8-2"),
        # Plateau with Ie = 1.5.
        ({"ss": 1.5, "s1": 0.45, "risk_category": "IV", **ROCK}, "strength", 0.2, 0.1875, "12.8-2"),
        # Falling branch: S_D1 = 0.3, T = 0.5 s, below the cap of C_u T_a = 1.4 x 0.457.
        ({"ss": 1.5, "s1": 0.45, **ROCK}, "strength", 0.5, 0.3 / (0.5 * 8), "12.8-3"),
        # Least value: S_DS = 0.2, falling branch 0.02/(0.7 x 8) = 0.0036 < 0.01 > 0.044 x 0.2.
        ({"ss": 0.3, "s1": 0.03, **ROCK}, "strength", 0.7, 0.01, "12.8-5"),
        # Least value 0.044 S_DS Ie = 0.044 x 1.0 x 1.25; falling 0.02/(0.7 x 6.4) is less.
        ({"ss": 1.5, "s1": 0.03, "risk_category": "III", **ROCK}, "strength", 0.7, 0.055, "12.8-5"),
        # Dropped for drift: the falling branch rules, T = 0.7 s uncapped.
        ({"ss": 1.5, "s1": 0.03, "risk_category": "III", **ROCK}, "drift", 0.7,
         0.02 / (0.7 * 6.4), "12.8-3"),
        # S_1 >= 0.6: 0.5 x 0.6/8 = 0.0375 against 0.4/(2.0 x 8) = 0.025 at a long period, drift.
        ({"ss": 1.5, "s1": 0.6, **ROCK}, "drift", 2.0, 0.0375, "12.8-6"),
        # Beyond T_L = 4 s: 0.3 x 4/(36 x 8), for drift.
        ({"ss": 1.5, "s1": 0.45, "long_period": 4.0, **ROCK}, "drift", 6.0,
         0.3 * 4 / (36 * 8), "12.8-4"),
        # Class D, S_1 = 0.3: S_D1 = 0.4, S_DS = 2/3 x 1.1, T_S = 0.5455; T <= 1.5 T_S keeps the
        # plateau where Eq. 12.8-3 would already fall.
        ({"ss": 1.0, "s1": 0.3, "site_class": "D"}, "drift", 0.8, 2 / 3 * 1.1 / 8, "exception 2"),
        # Beyond it 1.5 times Eq. 12.8-3.
        ({"ss": 1.0, "s1": 0.3, "site_class": "D"}, "drift", 1.0, 1.5 * 0.4 / 8, "12.8-3"),
        # And 1.5 times Eq. 12.8-4 beyond T_L.
        ({"ss": 1.0, "s1": 0.3, "site_class": "D", "long_period": 4.0}, "drift", 5.0,
         1.5 * 0.4 * 4 / (25 * 8), "12.8-4"),
    ],
)
def test_every_branch_of_cs_by_hand(
    given: dict[str, Any], purpose: str, computed: float, coefficient: float, governs: str,
    verify: Verify,
) -> None:
    found = shear(purpose, computed, **given)
    verify("asce7", f"C_s, 7-16, branch {governs}", {**given, "T": computed, "for": purpose},
           found.coefficient, coefficient)
    assert governs in found.governing
    assert found.base_shear == pytest.approx(coefficient * 1e7)


def test_period_and_cap_by_hand() -> None:
    """Steel moment frame 100 ft high: T_a = 0.028 x 100^0.8 = 1.1147 s; C_u = 1.4 at 0.4."""
    capped = shear("strength", 5.0, height=100 * FT, ss=1.5, s1=0.6, **ROCK)
    assert capped.period == pytest.approx(1.4 * 0.028 * 100**0.8, rel=1e-9)
    assert capped.period == pytest.approx(1.5606, abs=2e-4)
    assert shear("drift", 5.0, height=100 * FT, ss=1.5, s1=0.6, **ROCK).period == 5.0
    free = shear("strength", 0.9, height=100 * FT, ss=1.5, s1=0.6, **ROCK)
    assert free.period == 0.9
    plain = shear("strength", 5.0, height=100 * FT, system={"computed_period": False})
    assert plain.period == pytest.approx(0.028 * 100**0.8, rel=1e-9)


@pytest.mark.parametrize(
    ("row", "ct", "x"),
    [("C.1", 0.028, 0.8), ("C.5", 0.016, 0.9), ("B.1", 0.03, 0.75), ("B.25", 0.03, 0.75),
     ("D.12", 0.03, 0.75), ("B.4", 0.02, 0.75), ("A.15", 0.02, 0.75), ("C.8", 0.02, 0.75)],
)
def test_approximate_period_of_every_row(
    row: str, ct: float, x: float, verify: Verify
) -> None:
    found = shear("strength", None, row=row, height=50 * FT)
    verify("asce7", "approximate period T_a, s", f"row {row}, height 50 ft", found.period,
           ct * 50**x)


@pytest.mark.parametrize(
    ("s1", "cu"), [(0.1, 1.7), (0.15, 1.7), (0.1875, 1.65), (0.225, 1.6), (0.3, 1.5), (0.375, 1.45),
                   (0.45, 1.4), (0.6, 1.4), (0.9, 1.4)],
)
def test_cap_coefficient(s1: float, cu: float, verify: Verify) -> None:
    """C_u by S_D1 = 2/3 S_1: every entry of Table 12.8-1 and midway points."""
    long = shear("strength", 50.0, height=60 * FT, ss=1.0, s1=s1, **ROCK)
    verify("asce7", "upper limit on the period C_u T_a, s", f"S_D1 {2 / 3 * s1:.4f}, 60 ft",
           long.period, cu * 0.028 * 60**0.8)


@settings(deadline=None)
@given(
    weights=st.lists(st.floats(1e4, 1e8), min_size=1, max_size=30),
    period=st.floats(0.05, 5.0),
)
def test_distribution_adds_up_and_follows_the_exponent(
    weights: list[float], period: float
) -> None:
    heights = [3.5 * (len(weights) - i) for i in range(len(weights))]
    one = shear("drift", period)
    forces = Room("asce7-16", SITE, {"row": "C.1"}).spread(one, weights, heights)
    assert forces.sum() == pytest.approx(one.base_shear, rel=1e-12)
    k = float(np.interp(period, [0.5, 2.5], [1.0, 2.0]))
    raw = np.array(weights) * np.array(heights) ** k
    assert forces == pytest.approx(one.base_shear * raw / raw.sum(), rel=1e-9)


def test_one_irregular_direction_gives_torsion_to_both_with_its_own_amplification() -> None:
    """One story, lines at the plan's ends: irregular for forces along Y alone."""
    a, b = 30.0, 10.0
    r = analyze(shear_building([4e7], [4e5], plan=(a, b), lines_y=[(0.0, 0.25), (a, 0.75)]))
    t = r.torsion["Y"]
    assert t.answer.kind == "1b"
    assert t.factors[0] > 1.3
    # 12.8.4.2: one irregular direction makes the structure irregular, with A_x by direction.
    x = r.torsion["X"]
    assert x.answer.kind == ""
    assert x.answer.include_accidental
    assert x.answer.drift_at_edges
    assert x.factors[0] == pytest.approx(1.0)
    assert [s.name for s in r.static_sets if s.state.key == "strength"] == [
        f"static {d}, {sign}e, strength" for d in "XY" for sign in "+−"]
    for s in r.static_sets:
        if s.state.key == "strength":
            own, across, sense = (t, a, 1) if s.direction == "Y" else (x, b, -1)
            force = r.statics[s.direction, "strength"].forces[0]
            assert s.torques[0] == pytest.approx(
                sense * s.sign * 0.05 * across * force * own.factors[0])


def test_corners_left_out_of_an_irregular_building_is_questioned() -> None:
    building = shear_building([4e7], [4e5], plan=(30.0, 10.0), lines_y=[(0.0, 0.25), (30.0, 0.75)])
    r = analyze(building, drift={"corners": False})
    assert any(f.check == "story drift, where it is read" for f in r.findings)
    assert not any(f.check == "story drift, where it is read" for f in analyze(building).findings)


@pytest.mark.parametrize(("direction", "axis"), [("X", 1), ("Y", 0)])
def test_plus_e_loads_the_lines_on_the_positive_side(direction: str, axis: int) -> None:
    """Static set +e: the mass moves towards +Y (force in X) or +X, and that side takes more."""
    r = analyze(shear_building([1e8] * 2, [1e5] * 2), analysis={"accidental_torsion": "always"})
    plus = r.shears.lines.sel(set=f"static {direction}, +e, strength", story="L1")
    own = [(line.point[axis], abs(plus.sel(line=line.name).item))
           for line in r.model.lines if abs(line.axis[1 - axis]) > 0.5]
    low, high = sorted(own)
    assert high[1] > low[1] * 1.02


def test_accidental_torsion_always() -> None:
    r = analyze(shear_building([1e8] * 2, [1e5] * 2), analysis={"accidental_torsion": "always"})
    assert {s.sign for s in r.static_sets} == {1, -1}
    plain = analyze(shear_building([1e8] * 2, [1e5] * 2))
    i, j = (x.shears.sets.index("spectrum X, strength") for x in (r, plain))
    assert np.all(r.shears.torsion.values[i] > plain.shears.torsion.values[j])
    assert r.shears.shear.values[i, 0] == pytest.approx(plain.shears.shear.values[j, 0])


@pytest.mark.parametrize(
    ("ratio", "category_s1", "kind", "include", "amplify", "severity"),
    [
        (1.2, 0.4, "", False, False, Severity.OK),
        (1.21, 0.4, "1a", True, True, Severity.WARNING),
        (1.40, 0.4, "1a", True, True, Severity.WARNING),
        (1.41, 0.4, "1b", True, True, Severity.WARNING),
        (1.41, 0.8, "1b", True, True, Severity.EXCEEDED),   # category E: not permitted
        (1.41, 0.1, "1b", True, False, Severity.WARNING),   # category B
        (1.30, 0.1, "1a", False, False, Severity.WARNING),  # category B, type 1a: only noted
    ],
)
def test_torsional_irregularity(
    ratio: float, category_s1: float, kind: str, include: bool, amplify: bool, severity: Severity
) -> None:
    given = {**SITE, "s1": category_s1, "ss": 0.4 if category_s1 == 0.1 else 1.5, **ROCK}
    room = Room("asce7-16", given, {"row": "C.1"})
    site = room.site
    assert site.category == {0.1: "B", 0.4: "D", 0.8: "E"}[category_s1]
    found = room.forces.torsion("X", twisted(ratio))
    assert (found.kind, found.include_accidental, found.amplify) == (kind, include, amplify)
    assert found.finding.severity is severity


@pytest.mark.parametrize(
    ("structure", "risk", "limit"),
    [
        ("other", "I", 0.020), ("other", "II", 0.020), ("other", "III", 0.015),
        ("other", "IV", 0.010),
        ("low-rise with drift-tolerant finishes", "II", 0.025),
        ("low-rise with drift-tolerant finishes", "III", 0.020),
        ("low-rise with drift-tolerant finishes", "IV", 0.015),
        ("masonry cantilever wall", "II", 0.010), ("masonry cantilever wall", "IV", 0.010),
        ("other masonry wall", "I", 0.007), ("other masonry wall", "IV", 0.007),
    ],
)
def test_drift_limits(structure: str, risk: str, limit: float, verify: Verify) -> None:
    b = shear_building([1e8] * 2, [1e5] * 2)
    r = analyze(b, site={**SITE, "risk_category": risk}, drift={"structure": structure},
                system={"X": {"row": "B.16" if "masonry" in structure else "B.4"},
                        "Y": {"row": "C.1"}})
    assert r.site.category == "D"
    verify("asce7", "allowable drift ratio", f"{structure}, risk category {risk}",
           r.drift.limits[0], limit)
    other = {"III": 0.015, "IV": 0.010}.get(risk, 0.020) if "masonry" in structure else limit
    assert r.drift.limits[1] == pytest.approx(other / 1.3)  # moment frame, rho = 1.3
    assert r.drift.limits[2] == pytest.approx(min(limit, other / 1.3))


def test_redundancy_of_one_needs_its_reason_and_is_used() -> None:
    b = shear_building([1e8] * 2, [1e5] * 2)
    frame = {"row": "C.1", "redundancy": 1.0, "redundancy_reason": "12.3.4.2(b), two bays a side"}
    r = analyze(b, system={"X": frame, "Y": {"row": "C.1"}})
    assert r.drift.limits[:2] == pytest.approx([0.020, 0.020 / 1.3])
    with pytest.raises(ud.InputError, match="has no reason"):
        analyze(b, system={"X": {"row": "C.1", "redundancy": 1.0}, "Y": {"row": "C.1"}})


def test_low_rise_limit_is_refused_above_four_stories() -> None:
    with pytest.raises(ud.InputError, match="at most 4 stories"):
        analyze(shear_building([1e8] * 5, [1e5] * 5),
                drift={"structure": "low-rise with drift-tolerant finishes"})


def test_design_drift_by_hand() -> None:
    """Two stories: drift is F/k, amplified by C_d over I_e, over the height."""
    k, m = 3.0e7, 1.2e5
    r = analyze(shear_building([k, k], [m, m]), site={**SITE, "risk_category": "IV"})
    f = r.statics["X", "drift"].forces
    s = r.drift.sets.index("static X, drift")
    lower = f.sum() / k * 5.5 / 1.5
    theta = 2 * m * 9.80665 * lower * 1.5 / (f.sum() * 3.0 * 5.5)
    factor = 1 / (1 - theta) if theta > 0.1 else 1.0
    assert r.drift.ratios[s, 0, 1, 0] == pytest.approx(lower * factor / 3.0, rel=1e-9)
    check = next(c for c in r.stability if c.direction == "X" and c.method == "static")
    assert check.answer.coefficient[1] == pytest.approx(theta, rel=1e-9)
    assert check.answer.limit == pytest.approx(min(0.5 / 5.5, 0.25))


def test_p_delta_amplifies_and_is_exceeded_in_a_soft_story() -> None:
    soft = analyze(shear_building([2.2e6, 2.2e6], [1.2e5, 1.2e5]))
    check = next(c for c in soft.stability if c.direction == "X")
    theta = check.answer.coefficient
    assert theta.max() > 0.1
    limit = 0.5 / 5.5  # below 0.10, so that no factor is ever applied with beta of 1.0
    assert np.isnan(check.answer.amplification[theta > limit]).all()
    assert check.finding().severity is Severity.EXCEEDED
    assert "unstable" in check.finding().text
    assert soft.drift.second_order.max() == 1.0
    strong = {d: {"row": "C.1", "beta": 0.4} for d in "XY"}
    stiffer = analyze(shear_building([7e6, 7e6], [1.2e5, 1.2e5]), system=strong)
    check = next(c for c in stiffer.stability if c.direction == "X")
    theta = check.answer.coefficient
    assert 0.1 < theta.max() < 0.5 / (0.4 * 5.5)
    assert check.answer.amplification == pytest.approx(np.where(theta > 0.1, 1 / (1 - theta), 1))
    assert stiffer.drift.second_order.max() == pytest.approx(1 / (1 - theta.max()))


@pytest.mark.parametrize(("s1", "expected"), [(0.59, 1.0), (0.7, None)])
def test_drift_scaling_only_where_the_near_fault_minimum_applies(
    s1: float, expected: float | None
) -> None:
    r = analyze(shear_building([4e6] * 4, [2e5] * 4), site={**SITE, "ss": 1.5, "s1": s1})
    x = next(s for s in r.scaling if s.direction == "X" and s.state.key == "drift")
    if expected is None:
        expected = max(1.0, 0.5 * s1 / 8 * r.weights.total / x.modal_base_shear)
        assert expected > 1.1
    assert x.answer.factor == pytest.approx(expected)
    one = next(s for s in r.spectrum_sets if s.direction == "X" and s.state.key == "drift")
    assert one.scale == x.answer.factor


@pytest.mark.parametrize(
    ("row", "height", "severity"),
    [("B.2", 48.0, Severity.OK), ("B.2", 49.5, Severity.NOTE), ("B.2", 73.1, Severity.NOTE),
     ("B.2", 73.2, Severity.EXCEEDED), ("B.16", 49.5, Severity.EXCEEDED),
     ("C.4", 6.0, Severity.EXCEEDED), ("C.1", 150.0, Severity.OK)],
)
def test_height_limits(row: str, height: float, severity: Severity) -> None:
    stories = 10
    b = shear_building([1e9] * stories, [1e5] * stories, height=height / stories)
    r = analyze(b, system={"X": {"row": row}, "Y": {"row": "C.1"}})
    found = next(f for f in r.findings if f.check == "height limit" and f.where == "system X")
    assert found.severity is severity


@pytest.mark.parametrize(("share", "at", "height", "torsion"), [
    (0.60, 10.0, Severity.NOTE, Severity.OK), (0.61, 10.0, Severity.EXCEEDED, Severity.OK),
    (0.55, 2.0, Severity.NOTE, Severity.EXCEEDED)])
@pytest.mark.parametrize("turned", [False, True])
def test_a_raised_height_asks_for_several_planes_and_little_torsion(
    share: float, at: float, height: Severity, torsion: Severity, turned: bool
) -> None:
    """Two planes with shares of the force, 20 m apart or so near each other that the floors twist
    by more than 1.4; the same turned by a right angle (12.2.5.4)."""
    own, across = ("Y", "X") if turned else ("X", "Y")
    middle, n = 10.0, 10

    def line(name: str, d: str, x: float, k: float) -> ud.Line:
        place = (x, middle) if (d == "Y") else (middle, x)
        return ud.Line(name=name, at=place, direction=d, bottom="G", top=f"L{n}", stiffness=[k] * n)

    total = 2e9  # as seen from the center of mass both shares are those of the stiffness
    a, b = middle - at * 2 * (1 - share), middle + at * 2 * share
    soft = total / 1e3 if at < 5 else total
    lines = [line("a", own, a, share * total), line("b", own, b, (1 - share) * total),
             line("c", across, middle - at, soft), line("d", across, middle + at, soft)]
    outline = [(0, 0), (20, 0), (20, 20), (0, 20)]
    levels = [ud.Level(name=f"L{i}", height=5.0, outline=outline, loads=[
        ud.Load(name="q", kind="dead", per_area=5e3)]) for i in range(n, 0, -1)]
    r = analyze(ud.Building(levels=[*levels, ud.Level(name="G", outline=outline)], lines=lines),
                system={own: {"row": "B.2"}, across: {"row": "C.1"}})
    said = {f.check: f for f in r.findings if f.where == f"system {own}"}
    assert said["height limit"].severity is height
    assert said["raised height limit"].severity is torsion
    assert not [f for f in r.findings if f.check == "raised height limit"
                and f.where == f"system {across}"]


# -- other ways to the period, the cap on S_DS, several systems, category by S_DS alone ------------


def findings(r: Any, check: str) -> list[Any]:
    return [f for f in r.findings if f.check == check]


def test_period_by_stories() -> None:
    b = shear_building([6e7] * 4, [2e5] * 4, height=3.5)
    system = {d: {"row": "C.1", "period_basis": "stories", "computed_period": False} for d in "XY"}
    assert analyze(b, system=system).statics["X", "strength"].shear.period == pytest.approx(0.4)


@pytest.mark.parametrize(
    ("building", "row", "words"),
    [(shear_building([6e7] * 13, [2e5] * 13, height=3.5), "C.1", "13 stories"),
     (shear_building([6e7] * 3, [2e5] * 3, height=3.0), "C.1", "below 10 ft"),
     (shear_building([6e7] * 3, [2e5] * 3, height=3.5), "B.2", "no moment frame")])
def test_period_by_stories_is_refused(
    building: ud.Building, row: str, words: str
) -> None:
    with pytest.raises(ud.InputError, match=words):
        analyze(building, system={d: {"row": row, "period_basis": "stories"} for d in "XY"})


def wall_building(height: float = 3.0, stories: int = 4) -> ud.Building:
    b = shear_building([6e7] * stories, [2e5] * stories, height=height)
    lines = [
        ud.Line(name=name, at=at, direction=d, bottom="Ground", top=top, cantilever=ud.Cantilever(
            modulus=30e9, length=length, thickness=0.3))
        for name, d, at, length, top in (
            ("a", "X", (5, 0), 5.0, f"L{stories}"), ("b", "X", (5, 6), 3.0, "L2"),
            ("c", "Y", (0, 3), 4.0, f"L{stories}"), ("d", "Y", (10, 3), 4.0, f"L{stories}"))]
    return ud.Building(levels=b.levels, lines=lines)


@pytest.mark.parametrize("standard", ["asce7-05", "asce7-10", "asce7-16"])
def test_period_by_walls(standard: str, verify: Verify) -> None:
    """Two walls along X, 5 m over the full 12 m and 3 m over the lowest 6 m; base 10 m by 6 m."""
    system = {d: {"row": "B.4" if standard != "asce7-05" else "B.5", "period_basis": "walls",
                  "computed_period": False} for d in "XY"}
    r = analyze(wall_building(), standard=standard, system=system)
    hn, total = 12.0 / FT, 0.0
    for length, height in ((5.0, 12.0), (3.0, 6.0)):
        area, d, hi = length * 0.3 / FT**2, length / FT, height / FT
        if standard == "asce7-16":
            total += area / (1 + 0.83 * (hn / d) ** 2)
        else:
            total += (hn / hi) ** 2 * area / (1 + 0.83 * (hi / d) ** 2)
    cw = 100 / (60.0 / FT**2) * total
    verify("asce7", "period by walls T_a, s", f"{standard[4:]}, walls 5.0 and 3.0 m by 0.3 m",
           r.statics["X", "strength"].shear.period, 0.0019 / np.sqrt(cw) * hn)


def test_period_by_walls_is_refused() -> None:
    system = {d: {"row": "B.4", "period_basis": "walls"} for d in "XY"}
    with pytest.raises(ud.InputError, match="no rectangular wall"):
        analyze(shear_building([6e7], [2e5]), system=system)
    with pytest.raises(ud.InputError, match="up to 120 ft"):
        analyze(wall_building(3.8, 10), system=system)


@pytest.mark.parametrize(
    ("standard", "ss", "used"),
    # Class B without measured velocity in 7-16 and class B in 7-10: F_a = 1, S_DS = 2/3 S_S.
    [("asce7-16", 2.4, 0.7 * 1.6), ("asce7-16", 1.8, 1.0), ("asce7-16", 1.2, 0.8),
     ("asce7-10", 2.4, 1.0), ("asce7-10", 1.2, 0.8)],
)
def test_cap_on_the_short_period_acceleration(
    standard: str, ss: float, used: float, verify: Verify
) -> None:
    site = {**SITE, "ss": ss, "s1": 0.5, "site_class": "B", "velocity_measured": False}
    system = {d: {"row": "B.2", "cap_on_sds": True, "redundancy": 1.0,
                  "redundancy_reason": "every line may be lost"} for d in "XY"}
    b = shear_building([8e8] * 3, [2e5] * 3)
    r = analyze(b, standard=standard, site=site, system=system,
                irregularities={"diaphragm_discontinuity": False, "in_plane_offset": False})
    known = analyze(ud.Building(levels=b.levels, lines=[x.model_copy(update={
        "strength": 1e7, "drawn_length": 4.0}) for x in b.lines]), standard=standard, site=site,
        system=system, irregularities={"diaphragm_discontinuity": False, "in_plane_offset": False})
    divisor = r.laterals["X"].force_divisor
    verify("asce7", "plateau of C_s with the cap on S_DS", f"{standard[4:]}, S_S {ss}, R {divisor}",
           r.statics["X", "strength"].shear.coefficient, used / divisor)
    for one, severity in ((r, Severity.WARNING), (known, Severity.OK)):
        assert {f.severity for f in findings(one, "cap on the short-period acceleration")} == {
            severity}
    plain = analyze(b, standard=standard, site={**site, "risk_category": "III"}, system={
        d: {"row": "B.2", "cap_on_sds": True} for d in "XY"})
    text = findings(plain, "cap on the short-period acceleration")[0]
    late = standard == "asce7-16"
    assert (text.severity is Severity.EXCEEDED) == late
    assert ("redundancy" in text.text and "risk category III" in text.text) == late
    tall = analyze(shear_building([8e8] * 6, [2e5] * 6), standard=standard, site=site,
                   system=system)
    assert "6 stories" in findings(tall, "cap on the short-period acceleration")[0].text


def test_several_systems_in_one_direction() -> None:
    """C.1 (R 8, Omega_0 3, C_d 5.5) beside B.25 (8, 2.5, 5) and B.2 (6, 2, 5).

    12.2.3.3: C_d and overstrength go with the governing R; in 2005 the largest of each. The kinds
    of the period table differ, so the period is that of the others.
    """
    b = shear_building([6e7] * 3, [2e5] * 3)
    r = analyze(b, system={"X": {"row": "C.1", "with_rows": ["B.25", "B.2"]},
                           "Y": {"row": "C.1"}})
    x = r.laterals["X"]
    assert (x.force_divisor, x.overstrength, x.drift_factor) == (6.0, 2.0, 5.0)
    assert r.section("period", "X")["C_t"].value == 0.02
    assert r.section("period", "Y")["C_t"].value == 0.028
    old = analyze(b, standard="asce7-05", system={"X": {"row": "C.1", "with_rows": ["B.3"]},
                                                  "Y": {"row": "C.1"}}).laterals["X"]
    assert (old.force_divisor, old.overstrength, old.drift_factor) == (6.0, 3.0, 5.5)
    tied = analyze(b, system={"X": {"row": "B.25", "with_rows": ["C.1"]}, "Y": {"row": "C.1"}}
                   ).laterals["X"]
    assert (tied.force_divisor, tied.overstrength, tied.drift_factor) == (8.0, 3.0, 5.5)
    assert len([f for f in findings(r, "height limit") if f.where == "system X"]) == 3
    assert r.drift.limits[0] == 0.02  # not solely moment frames: not over rho (12.12.1.1)
    assert r.drift.limits[1] == pytest.approx(0.02 / 1.3)
    with pytest.raises(ud.InputError, match=r"with_rows|B\.99"):
        analyze(b, system={"X": {"row": "C.1", "with_rows": ["B.99"]}, "Y": {"row": "C.1"}})


@pytest.mark.parametrize(("stiffness", "severity"), [(8e9, Severity.OK), (6e7, Severity.EXCEEDED)])
def test_category_by_the_short_period_alone(stiffness: float, severity: Severity) -> None:
    """S_DS 0.30 g gives B, S_D1 0.15 g would give C; T_S is 0.5 s."""
    site = {**SITE, "ss": 0.45, "s1": 0.225, "site_class": "B", "velocity_measured": False}
    b = shear_building([stiffness] * 3, [2e5] * 3)
    system = {d: {"row": "B.2"} for d in "XY"}
    assert analyze(b, site=site, system=system).site.category == "C"
    r = analyze(b, site={**site, "category_by_short_period": True}, system=system)
    assert r.site.category == "B"
    assert {f.severity for f in findings(r, "design category by S_DS alone")} == {severity}


def test_redundancy_of_one_with_extreme_torsion() -> None:
    b = shear_building([6e7] * 3, [2e5] * 3, lines_y=[(0.0, 0.9), (10.0, 0.1)])
    rho = {"redundancy": 1.0, "redundancy_reason": "made-up reason"}
    r = analyze(b, system={d: {"row": "C.1", **rho} for d in "XY"})
    assert findings(r, "redundancy")[0].severity is Severity.EXCEEDED
    old = analyze(b, standard="asce7-10", system={d: {"row": "C.1", **rho} for d in "XY"})
    assert {f.severity for f in findings(old, "redundancy")} == {Severity.WARNING}
    even = analyze(shear_building([6e7] * 3, [2e5] * 3),
                   system={d: {"row": "C.1", **rho} for d in "XY"})
    assert {f.severity for f in findings(even, "redundancy")} == {Severity.NOTE}
    inner = analyze(shear_building([6e7] * 3, [2e5] * 3, lines_x=[(2.0, 0.5), (4.0, 0.5)]),
                    system={d: {"row": "C.1", **rho} for d in "XY"})
    assert "without a lateral line near an edge" in findings(inner, "redundancy")[0].text


# -- removal of lines (12.3.4.2) -----------------------------------------------------------------

def four_lines(ys: Sequence[float], stories: int = 1, strength: float | None = 1e6,
               without: str = "", turned: bool = False) -> ud.Building:
    """Lines along X at ``ys``, along Y at both ends, of a square floor of 20 m."""
    outline = [(0, 0), (20, 0), (20, 20), (0, 20)]
    places = [("a", "X", (10.0, y)) for y in ys] + [("b", "Y", (x, 10.0)) for x in (0.0, 20.0)]
    lines = []
    for n, (kind, d, (x, y)) in enumerate(places):
        name = f"{kind}{n}"
        if name == without:
            continue
        at, own = ((y, x), {"X": "Y", "Y": "X"}[d]) if turned else ((x, y), d)
        lines.append(ud.Line(name=name, at=at, direction=own, bottom="G", top=f"L{stories}",
                             stiffness=[1e8] * stories,
                             strength=None if strength is None else [strength] * stories))
    levels = [ud.Level(name=f"L{i}", height=4.0, outline=outline, loads=[
        ud.Load(name="q", kind="dead", per_area=5e3)]) for i in range(stories, 0, -1)]
    return ud.Building(levels=[*levels, ud.Level(name="G", outline=outline)], lines=lines)


RHO = {d: {"row": "B.4", "redundancy": 1.0, "redundancy_reason": "removal"} for d in "XY"}


@pytest.mark.parametrize("turned", [False, True])
def test_a_line_left_out_twists_as_the_building_without_it(turned: bool) -> None:
    """Of one story: the ratio of every removal is that of a building described without the line."""
    ys, own = (0.0, 6.0, 13.0, 20.0), "Y" if turned else "X"
    whole = analyze(four_lines(ys, turned=turned), system=RHO)
    facts = ud.calculate(whole.project).facts
    found = {r.line: r for r in facts.removals[own]}
    assert sorted(found) == ["a0", "a1", "a2", "a3"]
    for name, one in found.items():
        less = analyze(four_lines(ys, without=name, turned=turned), system=RHO)
        table = less.to_frame(f"torsion_{own.lower()}")
        told = table[[c for c in table if c.startswith("largest over average")]].max().max()
        assert one.torsion == pytest.approx(told, rel=1e-6)
        assert one.strength == pytest.approx(0.75)


def test_condition_a_of_redundancy_by_torsion_and_strength() -> None:
    def told(building: ud.Building) -> Any:
        r = analyze(building, system=RHO)
        return {f.where: f for f in r.findings if f.check == "redundancy"}

    good = told(four_lines((0.0, 0.0, 10.0, 20.0, 20.0)))["direction X"]
    assert good.severity is Severity.OK
    assert "at least 80.0% of the story strength stay" in good.text
    # along Y there are two lines: without one of them half the strength is lost
    lost = told(four_lines((0.0, 0.0, 10.0, 20.0, 20.0)))["direction Y"]
    assert lost.severity is not Severity.OK
    assert "50.0%" in lost.text
    unknown = told(four_lines((0.0, 0.0, 10.0, 20.0, 20.0), strength=None))["direction X"]
    assert unknown.severity is Severity.NOTE
    assert "the strength that stays is not known" in unknown.text
    third = told(four_lines((0.0, 10.0, 20.0)))["direction X"]  # two thirds stay: 33 % are lost
    assert "at least 66.7%" in third.text
    # the top of six stories takes 6/21 of the base shear and does not count, the lowest does
    high = four_lines((0.0, 10.0, 20.0), 6)
    shares = {r.story: r.share
              for r in ud.calculate(analyze(high, system=RHO).project).facts.removals["X"]}
    assert shares == pytest.approx({f"L{i}": sum(range(i, 7)) / 21 for i in range(1, 7)})
    for place, text in ((0, "at least 66.7%"), (-1, "at least 18.2%")):  # 2 of 11 parts stay
        strengths = [1e6] * 6  # top down
        strengths[place] = 9e6
        lines = (high.lines[0].model_copy(update={"strength": strengths}), *high.lines[1:])
        assert text in told(high.model_copy(update={"lines": lines}))["direction X"].text
