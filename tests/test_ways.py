"""Ways of analysis asked for by name: combinations of modes, directions of ground motion, static
sets of one's own, accidental torsion otherwise; floor accelerations and forces by mode."""

from __future__ import annotations

from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import analyze, frame_of, shear_building
from test_frames import SITE, SYSTEM, building
from undatum.analysis.combine import combiner, correlation, rigid_shares
from undatum.mechanics.moved import moved_masses
from undatum.mechanics.quantities import center_line, plumb_displacement

G = 9.80665
LOPSIDED = {"lines_x": [(0.0, 0.7), (6.0, 0.3)], "lines_y": [(0.0, 0.55), (10.0, 0.45)]}


def lopsided(n: int = 3) -> ud.Building:
    return shear_building([float(k) for k in np.linspace(2e8, 5e8, n)], [2e5] * n, **LOPSIDED)


def frame(stories: int = 2) -> ud.Building:
    real = ud.CrossSection(material="stuff", rectangle=(0.4, 0.5))
    return building(real, real, stories=stories, x=(4.0, 6.0))


# -- combinations of modes -------------------------------------------------------------------------


@given(st.integers(0, 10**6))
def test_double_sum_by_a_double_loop(seed: int) -> None:
    rng = np.random.default_rng(seed)
    m, s = int(rng.integers(1, 7)), float(rng.uniform(2, 60))
    w, z = np.sort(rng.uniform(2, 80, m)), rng.uniform(0.01, 0.2, m)
    r = rng.normal(size=(3, m))
    total = np.zeros(3)
    for i in range(m):
        for j in range(m):
            wi, wj = (w[k] * np.sqrt(1 - z[k] ** 2) for k in (i, j))
            zi, zj = (z[k] + 2 / (s * w[k]) for k in (i, j))
            total += r[:, i] * r[:, j] / (1 + ((wi - wj) / (zi * w[i] + zj * w[j])) ** 2)
    found = combiner("double sum", w, z, duration=s).peaks(r)
    assert found == pytest.approx(np.sqrt(np.maximum(total, 0)), rel=1e-7, abs=1e-7)


@given(st.integers(0, 10**6))
def test_rigid_and_periodic_parts_by_loops(seed: int) -> None:
    rng = np.random.default_rng(seed)
    m = int(rng.integers(1, 6))
    w, z = np.sort(rng.uniform(2, 300, m)), np.full(m, 0.05)
    low, high = 1.5, 25.0
    r = rng.normal(size=m)
    alpha = [min(max(np.log(x / 2 / np.pi / low) / np.log(high / low), 0), 1) for x in w]
    assert rigid_shares(w, (low, high)) == pytest.approx(alpha)
    periodic, rigid = 0.0, 0.0
    for i in range(m):
        rigid += alpha[i] * r[i]
        for j in range(m):
            q = w[i] / w[j]
            rho = 8 * 0.0025 * (1 + q) * q**1.5 / (
                (1 - q * q) ** 2 + 4 * 0.0025 * q * (1 + q) ** 2)  # of equal damping
            periodic += np.sqrt((1 - alpha[i] ** 2) * (1 - alpha[j] ** 2)) * rho * r[i] * r[j]
    found = combiner("CQC", w, z, rigid=rigid_shares(w, (low, high))).peaks(r)
    assert found == pytest.approx(np.sqrt(max(periodic, 0) + rigid**2), rel=1e-7, abs=1e-7)


def test_published_correlation_of_a_building_of_four_stories() -> None:
    """Five modes of an unsymmetrical building at 5 % damping.

    Source: Wilson, Der Kiureghian and Bayo, A replacement for the SRSS method in seismic analysis,
    Earthquake Eng. Struct. Dyn. 9 (1981), 187-192; frequencies in rad/s as printed.
    """
    found = correlation([13.87, 13.93, 43.99, 44.19, 54.42], 0.05)
    printed = [[1, 0.998, 0.006, 0.006, 0.004], [0.998, 1, 0.006, 0.006, 0.004],
               [0.006, 0.006, 1, 0.998, 0.180], [0.006, 0.006, 0.998, 1, 0.186],
               [0.004, 0.004, 0.180, 0.186, 1]]
    assert found == pytest.approx(np.array(printed), abs=1e-3)


def test_ways_are_taken_and_said() -> None:
    one = lopsided()
    plain = analyze(one)
    double = analyze(one, analysis={"modal_combination": "double sum", "duration": "12 s"})
    rigid = analyze(one, analysis={"rigid_between": ["1 Hz", "9 Hz"]})
    for r in (double, rigid):
        d = r.dynamic[0]
        w = 2 * np.pi / d.periods
        by_hand = combiner("double sum", w, d.damping, duration=12.0) if r is double else \
            combiner("CQC", w, d.damping, rigid=rigid_shares(w, (1.0, 9.0)))
        assert d.base_shear == pytest.approx(float(by_hand.peaks(d.modal)))
        assert d.base_shear != pytest.approx(plain.dynamic[0].base_shear, rel=1e-6)
    assert any("12 s" in f.text for f in double.findings)
    assert any("1 Hz to 9 Hz" in f.text for f in rigid.findings)
    assert "double sum" in double.table("mode_correlation").title
    slow = analyze(one, analysis={"rigid_between": [900.0, 1000.0]})  # all modes periodic
    assert slow.dynamic[0].base_shear == pytest.approx(plain.dynamic[0].base_shear)
    fast = analyze(one, analysis={"rigid_between": [0.001, 0.002]})  # all rigid: added with signs
    assert fast.dynamic[0].base_shear == pytest.approx(abs(fast.dynamic[0].modal.sum()))

    left = analyze(one, analysis={"rigid_between": [0.001, 0.002], "residual_mass": True})
    base = left.dynamic[0]  # the modes left out move with the ground: added with signs too
    assert base.modal.size == left.modes.kept + 1
    assert abs(base.modal[-1]) > 1e-4 * abs(base.modal).max()
    assert base.base_shear == pytest.approx(abs(base.modal.sum()))


# -- directions of ground motion -------------------------------------------------------------------


def turned_by(one: ud.Building, angle: float) -> ud.Building:
    """The building turned in plan, lines and floors alike."""
    c, s = np.cos(angle), np.sin(angle)

    def turn(p: Any) -> tuple[float, float]:
        return (float(c * p[0] - s * p[1]), float(s * p[0] + c * p[1]))

    return one.model_copy(update={
        "levels": tuple(level.model_copy(update={"outline": ud.Outline(
            points=[turn(p) for p in level.outline.points])})  # type: ignore[union-attr]
            for level in one.levels),
        "lines": tuple(line.model_copy(update={
            "at": turn(line.at), "direction": float(line.direction + angle)})
            for line in one.lines)})


def test_shaking_along_an_angle_is_that_of_the_building_turned_back() -> None:
    angle, one = 0.4, lopsided()
    still: dict[str, Any] = {"accidental_torsion": "none", "torsion_reason": "test"}
    first = analyze(one, analysis={"shaking": [angle, 0.0, "90 deg"], **still})
    back = analyze(turned_by(one, -angle), analysis=still)
    modal = first.dynamic
    assert modal[0].periods == pytest.approx(back.dynamic[0].periods, rel=1e-7)
    shear = first.model.quantities["line shear"]
    sets = {s.name: s for s in first.further}
    scale = [s.scale for s in (*first.spectrum_sets, *back.spectrum_sets)]
    assert scale[0] > 0
    raw = {s.direction: s for s in first.spectrum_sets if s.state == first.strength}
    own = next(s for s in back.spectrum_sets if s.state == back.strength and s.direction == "X")
    from dataclasses import replace
    plain = replace(sets["spectrum at 22.9183°, strength"],  # type: ignore[type-var]
                    first=replace(raw["X"], scale=1.0), second=replace(raw["Y"], scale=1.0))
    assert plain.of(shear) == pytest.approx(
        replace(own, scale=1.0).of(back.model.quantities["line shear"]), rel=1e-6)
    assert sets["spectrum at 0°, strength"].of(shear) == pytest.approx(raw["X"].of(shear))
    assert sets["spectrum at 90°, strength"].of(shear) == pytest.approx(raw["Y"].of(shear))
    assert "spectrum at 22.9183°, strength" in set(first.to_frame("shears_by_story")["set"])
    drift = first.to_frame("drift_further")
    assert "spectrum at 0°, drift" in set(drift["set"])
    check = first.drift
    factor = check.factors[list(check.directions).index("X")]
    assert factor > 1
    assert drift["amplified drift (mm)"].to_numpy() == pytest.approx(
        factor * drift["elastic drift (mm)"].to_numpy())


@pytest.mark.parametrize("minor", [0.5, 0.85, 1.0])
def test_the_most_unfavorable_direction_by_scanning(minor: float) -> None:
    r = analyze(lopsided(), analysis={"minor_component": minor, "torsion_reason": "test",
                                      "accidental_torsion": "none"})
    one = next(s for s in r.further if "CQC3" in s.name and s.state == r.strength)
    shear = r.model.quantities["line shear"]
    x, y = (next(s for s in r.spectrum_sets if s.direction == d and s.state == r.strength)
            for d in "XY")
    mx, my = (s.scale * s.modal_values(shear) for s in (x, y))
    best = np.zeros(len(shear))
    for angle in np.linspace(0, np.pi, 721):
        c, s = np.cos(angle), np.sin(angle)
        best = np.maximum(best, np.hypot(x.combine.peaks(c * mx + s * my),
                                         minor * x.combine.peaks(c * my - s * mx)))
    assert one.of(shear) == pytest.approx(best, rel=2e-5)
    if minor == 1.0:  # both alike: the root of the squares, whatever the axes
        assert one.of(shear) == pytest.approx(np.hypot(x.of(shear), y.of(shear)))


# -- forces of one's own ---------------------------------------------------------------------------


WIND: dict[str, Any] = {"name": "wind", "direction": "X", "reason": "wind study",
                        "on_levels": [{"at": "L1..L3", "X": 4e4},
                                      {"at": "L3", "X": 1e4, "point": [2.0, 5.0]}]}


def test_static_sets_of_ones_own_by_hand() -> None:
    r = analyze(lopsided(), static_sets=[WIND, {**WIND, "name": "moved", "eccentricity": 0.1}])
    by_name = {s.name: s for s in r.own_sets}
    assert list(by_name) == ["wind, strength", "moved, +e, strength", "moved, −e, strength"]
    one = by_name["wind, strength"]
    shear = one.of(r.model.quantities["story shear"].where(component="X"))
    assert shear == pytest.approx([5e4, 9e4, 13e4])
    torsion = one.of(r.model.quantities["story torsion"])
    assert torsion == pytest.approx([-1e4 * (5.0 - 3.0)] * 3)  # about the center of the plan
    for sign in (1, -1):
        moved = by_name[f"moved, {'+' if sign > 0 else '−'}e, strength"]
        assert moved.of(r.model.quantities["story torsion"]) == pytest.approx(
            np.array([-2e4] * 3) - sign * 0.1 * 6.0 * np.array([5e4, 9e4, 13e4]))
    lines = one.of(r.model.quantities["line shear"])
    in_x = [k for k, name in enumerate(r.model.quantities["line shear"].labels["line"])
            if name.startswith("X")]
    assert lines[in_x].reshape(2, 3).sum(axis=0) == pytest.approx([5e4, 9e4, 13e4])
    table = r.to_frame("own_static")
    usual = r.statics["X", "strength"].story_shears
    assert table["over the standard's"].to_numpy()[:3] == pytest.approx(
        np.array([5e4, 9e4, 13e4]) / usual)
    said = next(f for f in r.findings if f.check == "static set of one's own")
    assert "wind study" in said.text
    assert f"{13e4 / usual[-1]:.3f} times" in said.text


def test_own_sets_enter_combinations_by_name_alone() -> None:
    big = {**WIND, "on_levels": [{"at": "L1..L2", "X": 1e9}]}
    more: dict[str, Any] = {"combinations": [
        {"name": "w", "kind": "wind", "factors": {"dead": 0.9}, "sets": {"wind, strength": 1.6}}]}
    r = analyze(frame(), static_sets=[big], **more)
    plain = analyze(frame())
    for kind in plain.combiner().kinds():
        a, b = (frame_of(x, "forces", "columns on A", "envelope", by="static")
                for x in (r, plain))
        a, b = a[a.kind == kind], b[b.kind == kind]
        assert a["axial (kN)" if "axial (kN)" in a else "force (kN)"].to_numpy() == pytest.approx(
            b["axial (kN)" if "axial (kN)" in b else "force (kN)"].to_numpy(), nan_ok=True)
    own = frame_of(r, "forces", "column A1 at L1", "each", at=(0.0,))
    own = own[own.kind == "wind"].iloc[0]
    forces = frame_of(r, "forces", "column A1 at L1", "wind, strength", at=(0.0,)).iloc[0]
    dead = frame_of(r, "forces", "column A1 at L1", "cases", at=(0.0,))
    dead = dead[dead["case"] == "dead"].iloc[0] if "case" in dead else dead.iloc[0]
    assert own["moment_z (kN·m)"] == pytest.approx(
        0.9 * dead["moment_z (kN·m)"] + 1.6 * forces["moment_z (kN·m)"])


@pytest.mark.parametrize(("change", "said"), [
    ({"on_levels": [{"at": "L9", "X": 1.0}]}, r"static_sets\[0\]\.on_levels\[0\]\.at"),
    ({"direction": "Y"}, "no force acts along Y"), ({"name": "static X"}, "begins like the name"),
    ({"on_levels": []}, "on_levels"), ({"eccentricity": 2.0}, "eccentricity"),
    ({"reason": ""}, "reason")])
def test_wrong_static_sets(change: dict[str, Any], said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        analyze(lopsided(), static_sets=[{**WIND, **change}])
    with pytest.raises(ud.InputError, match="stands twice"):
        analyze(lopsided(), static_sets=[WIND, WIND])


# -- accidental torsion otherwise ------------------------------------------------------------------


def test_eccentricity_of_ones_own_and_none() -> None:
    usual = analyze(lopsided(), analysis={"accidental_torsion": "always"})
    wide = analyze(lopsided(), analysis={"accidental_torsion": "always", "eccentricity": 0.1,
                                         "torsion_reason": "owner", "plain_sets": True})
    signs = [s.sign for s in wide.static_sets if s.direction == "X" and s.state == wide.strength]
    assert signs == [1, -1, 0]
    for sign in (1, -1):
        a, b = (next(s for s in r.static_sets if s.sign == sign and s.state == r.strength
                     and s.direction == "X") for r in (usual, wide))
        assert b.accidental == pytest.approx(2 * a.accidental)
    plain = next(s for s in wide.static_sets if s.sign == 0 and s.direction == "X")
    assert not plain.accidental.any()
    twisting = shear_building([3e8] * 3, [2e5] * 3, lines_x=[(0.0, 0.85), (6.0, 0.15)])
    none = analyze(twisting, analysis={"accidental_torsion": "none", "torsion_reason": "study"})
    assert {s.sign for s in none.static_sets} == {0}
    assert all(s.torsion is None for s in none.spectrum_sets)
    said = next(f for f in none.findings if f.check == "accidental torsion")
    assert said.severity.value == "warning"
    assert "requires it" in said.text
    for wrong in ({"accidental_torsion": "none"}, {"torsion_reason": "x"}, {"eccentricity": 0.07},
                  {"accidental_torsion": "none", "torsion_reason": "x", "moved_masses": "in place"},
                  {"moved_masses": "in place", "shaking": [0.3]}):
        with pytest.raises(ud.InputError, match=r"together|otherwise|static moments"):
            analyze(lopsided(), analysis=wrong)


def test_moved_masses_are_masses_that_stand_elsewhere() -> None:
    """Two heavy points a floor, both moved by the eccentricity: the modes are those."""
    def points(dx: float, dy: float) -> ud.Building:
        base = lopsided(2)
        return base.model_copy(update={"levels": tuple(
            level.model_copy(update={"loads": tuple(
                ud.Load(name=f"p{k}", kind="dead", total=1e6, at=(x + dx, y + dy))
                for k, (x, y) in enumerate([(3.0, 1.5), (7.0, 4.5)]))})
            if level.name != "Ground" else level for level in base.levels)})

    none: dict[str, Any] = {"accidental_torsion": "none", "torsion_reason": "test"}
    r = analyze(points(0.0, 0.0), analysis={"accidental_torsion": "always",
                                            "moved_masses": "in place"})
    shear = r.model.quantities["line shear"]
    for direction, sign, dx, dy in (("X", 1, 0.0, 0.3), ("X", -1, 0.0, -0.3), ("Y", 1, 0.5, 0.0),
                                    ("Y", -1, -0.5, 0.0)):
        one = next(s for s in r.spectrum_sets
                   if (s.direction, s.sign, s.state) == (direction, sign, r.strength))
        other = analyze(points(dx, dy), analysis=none)
        same = next(s for s in other.spectrum_sets
                    if s.direction == direction and s.state == other.strength)
        assert one.periods == pytest.approx(same.periods, rel=1e-8)
        assert one.of(shear) / one.scale == pytest.approx(
            same.of(other.model.quantities["line shear"]) / same.scale, rel=1e-7, abs=1e-3)
    assert len(r.by_moments) == 4
    table = r.to_frame("accidental_torsion")
    turn = r.model.quantities["story torsion"]
    for head, sets in (("static moments", r.by_moments), ("moved masses", r.by_masses)):
        most = [np.max([s.of(turn) for s in sets if s.direction == d and s.state == r.strength],
                       axis=0) for d in "XY"]
        assert table[f"torsion, {head} (kN·m)"].to_numpy() * 1e3 == pytest.approx(
            np.concatenate(most), rel=1e-9)
    both = next(s for s in r.further if s.state == r.strength)
    x, y = (np.max([s.of(shear) for s in r.spectrum_sets
                    if s.direction == d and s.state == r.strength], axis=0) for d in "XY")
    assert both.of(shear) == pytest.approx(np.maximum(x + 0.3 * y, 0.3 * x + y))
    drift = set(r.to_frame("drift_all")["set"])
    assert {"spectrum X, +e, drift", "spectrum X, −e, drift"} <= drift

    # to compare, they change nothing but what stands beside; the table is the same either way
    beside = analyze(points(0.0, 0.0), analysis={"accidental_torsion": "always",
                                                 "moved_masses": "beside", "shaking": [0.3]})
    usual = analyze(points(0.0, 0.0), analysis={"accidental_torsion": "always", "shaking": [0.3]})
    assert [s.name for s in beside.by_masses] == [
        s.name for s in r.spectrum_sets] == [s.name for s in r.by_masses]
    assert beside.spectrum_sets == usual.spectrum_sets == r.by_moments
    assert not usual.by_masses
    assert beside.drifts == usual.drifts
    pd.testing.assert_frame_equal(beside.to_frame("accidental_torsion"), table)
    said = [f.text for one in (r, beside) for f in one.findings if f.clause.endswith("_masses")]
    assert ["in X and Y" in text for text in said] == [True, True]
    assert ["are used" in text for text in said] == [False, True]
    flat = ud.run(ud.shipped_project("arcade").varied({"analysis.moved_masses": "beside"}))
    assert "accidental_torsion" not in flat.table_names
    assert any("has no accidental torsion" in f.text for f in flat.findings)


# -- the spectrum ----------------------------------------------------------------------------------


def test_a_factor_on_the_spectrum_and_damping_by_another_rule() -> None:
    one = lopsided()
    plain = analyze(one)
    more = analyze(one, spectrum={"factor": 1.3, "factor_reason": "owner"})
    assert more.dynamic[0].base_shear == pytest.approx(1.3 * plain.dynamic[0].base_shear)
    assert any("owner" in f.text for f in more.findings)
    low = analyze(one, spectrum={"adjust_damping": "EN 1998-1"}, analysis={"damping": 0.02})
    t = low.modes.periods[0]
    eta = np.sqrt(10 / (5 + 2))
    assert float(low.spectrum(t)) == pytest.approx(eta * float(plain.spectrum(t)))
    assert float(low.spectrum(0.0)) == pytest.approx(float(plain.spectrum(0.0)))
    assert low.spectrum.damping == 0.02
    assert any("3.2.2.2(3)" in f.clause for f in low.findings)
    for wrong in ({"factor": 1.3}, {"factor_reason": "x"}, {"factor": -1, "factor_reason": "x"}):
        with pytest.raises(ud.InputError, match="factor"):
            analyze(one, spectrum=wrong)


# -- floor accelerations ---------------------------------------------------------------------------


def test_one_story_accelerates_by_its_ordinate() -> None:
    r = analyze(shear_building([4e7], [2e5]))
    row = r.to_frame("floor_accelerations").iloc[0]
    period = 2 * np.pi * np.sqrt(2e5 / 4e7)
    assert row["at the center of mass (g)"] == pytest.approx(float(r.spectrum(period)) / G)
    assert row["ground (g)"] == pytest.approx(float(r.spectrum(0.0)) / G)


@pytest.mark.parametrize("modes", [1, 6])
def test_a_stiff_building_moves_like_the_ground(modes: int) -> None:
    r = analyze(shear_building([1e15] * 3, [1e4] * 3, **LOPSIDED),
                analysis={"modes": modes, "mass_target": 1e-6})
    table = r.to_frame("floor_accelerations")
    assert table["largest over ground"].to_numpy() == pytest.approx(1.0, rel=3e-3)


def test_floor_accelerations_by_loops() -> None:
    between = (1.0, 12.0)
    r = analyze(lopsided(), analysis={"rigid_between": between, "modes": 5,
                                      "directional_combination": "SRSS"})
    m, d = r.modes, r.model.diaphragms
    q = plumb_displacement(r.model, [center_line(r.model)], ("X", "Y"))
    peaks = {}
    for axis, direction in enumerate("XY"):
        for floor in range(3):
            for c in range(2):
                own = [m.participation[n, axis] * m.shapes[d.freedoms[floor, c], n]
                       for n in range(m.kept)]
                a = [x * float(r.spectrum(m.periods[n])) for n, x in enumerate(own)]
                f = 1 / m.periods[: m.kept]
                alpha = [min(max(np.log(x / between[0]) / np.log(between[1] / between[0]), 0), 1)
                         for x in f]
                rigid = sum(x * y for x, y in zip(alpha, a, strict=True)) \
                    + ((axis == c) - sum(own)) * float(r.spectrum(0.0))
                rest = [np.sqrt(1 - x * x) * y for x, y in zip(alpha, a, strict=True)]
                periodic = float(combiner("CQC", 2 * np.pi * f, 0.05).peaks(np.array(rest)))
                peaks[direction, floor, c] = np.hypot(periodic, rigid)
    table = r.to_frame("floor_accelerations")
    assert len(q) == 6
    for c, along in enumerate("XY"):
        found = table[table.along == along]["at the center of mass (g)"].to_numpy() * G
        assert found == pytest.approx([np.hypot(peaks["X", i, c], peaks["Y", i, c])
                                       for i in range(3)], rel=1e-8)


# -- mode by mode ----------------------------------------------------------------------------------


def test_story_forces_by_mode_add_up_and_floors_feed_lines() -> None:
    r = analyze(lopsided())
    forces = r.to_frame("modal_story_forces")
    for d, one in zip("XY", r.dynamic, strict=True):
        sums = forces.groupby("mode", sort=False)[f"force along {d}, motion {d} (kN)"].sum()
        assert sums.to_numpy() * 1e3 == pytest.approx(one.modal, rel=1e-8, abs=1e-3)
    static = next(s for s in r.static_sets if s.direction == "X" and s.state == r.strength)
    table = frame_of(r, "lines", under=static.name)
    in_x = table[table.line.str.startswith("X")]
    sums = in_x.groupby("story", sort=False)["force from floor (kN)"].sum()
    assert sums.to_numpy() * 1e3 == pytest.approx(static.forces, rel=1e-9)
    every = frame_of(r, "lines")
    most = np.abs(every["force from floor (kN)"]).groupby(
        [every["line"], every["story"]], sort=False).max()
    assert r.to_frame("floor_to_line")["largest force (kN)"].to_numpy() == pytest.approx(
        most.to_numpy(), rel=1e-12)


def test_masses_of_floors_without_a_diaphragm_are_not_moved() -> None:
    """They have no rigid motion to be moved by: coupling and inertia of rigid floors alone."""
    from test_open_floors import two_by_two

    one = two_by_two({"L1": "none"}, stories=2)
    solver = ud.calculate(ud.make_project(
        standard="asce7-16", building=one, site=SITE, system=SYSTEM
    )).solver
    before, after = solver.model.mass.toarray(), moved_masses(solver, "X",
                                                              0.05).model.mass.toarray()
    floors, d = solver.model.diaphragms.freedoms, solver.model.diaphragms
    rigid, open_ = d.levels.index("L2"), d.levels.index("L1")
    assert np.array_equal(after[floors[open_]][:, floors[open_]],
                          before[floors[open_]][:, floors[open_]])
    away = 0.05 * d.across("X")[rigid]
    assert after[floors[rigid, 0], floors[rigid, 2]] == pytest.approx(-d.mass[rigid] * away)
    assert after[floors[rigid, 2], floors[rigid, 2]] == pytest.approx(
        d.inertia[rigid] + d.mass[rigid] * away**2)
