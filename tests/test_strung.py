"""Where steps are strung together: which purpose, sign, method, direction, floor or boundary."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, SYSTEMS, analyze, shear_building, starter_text
from undatum.finding import Severity
from undatum.mechanics.quantities import center_line, plumb_drift
from undatum.report.files import write_all
from undatum.results.results import Results

pytestmark = pytest.mark.usefixtures("unpainted")

G = 9.80665
FRAME = {"X": {"row": "C.1"}, "Y": {"row": "C.1"}}


def loaded(kinds: dict[str, float], stiffness: list[float], **more: Any) -> ud.Building:
    """A building whose every floor carries the loads given in N."""
    b = shear_building(stiffness, [1.0] * len(stiffness), **more)
    loads = [ud.Load(name=k, kind=k, total=v) for k, v in kinds.items()]  # type: ignore[arg-type]
    return b.model_copy(update={"levels": [
        *(level.model_copy(update={"loads": loads}) for level in b.levels[:-1]), b.levels[-1]]})


# -- second order ----------------------------------------------------------------------------------


def test_p_delta_takes_the_gravity_load_and_not_the_seismic_weight() -> None:
    """Live load presses down without being seismic weight; theta by hand (Eq. 12.8-16)."""
    r = analyze(loaded({"dead": 2e6, "live": 6e5}, [3e7] * 3))
    assert r.weights.total == pytest.approx(6e6)
    for check in r.stability:
        assert check.gravity == pytest.approx([2.6e6, 5.2e6, 7.8e6])
    one = next(c for c in r.stability if (c.direction, c.method) == ("X", "static"))
    elastic = one.drift / r.drift.factors[0]
    theta = one.gravity * elastic / (one.shear * 3.0)  # C_d and I_e cancel against the drift
    assert one.answer.coefficient == pytest.approx(theta)
    assert elastic == pytest.approx(one.shear / 3e7, rel=1e-6)


def test_drift_takes_the_larger_amplification_of_both_methods_in_its_direction() -> None:
    r = analyze(loaded({"dead": 2e6, "live": 3e6}, [4.4e7, 4.4e7, 4.0e7],
                       lines_x=[(0.0, 0.75), (6.0, 0.25)], lines_y=[(0.0, 0.7), (10.0, 0.5)]),
                analysis={"accidental_torsion": "always"},
                system={d: {"row": "C.1", "beta": 0.2} for d in "XY"})
    worked = 0
    for axis, d in enumerate("XY"):
        both = {c.method: c.answer.amplification for c in r.stability if c.direction == d}
        most = np.maximum(both["static"], both["spectrum"])
        worked += int(not np.allclose(both["static"], both["spectrum"]))
        assert r.drift.second_order[axis] == pytest.approx(most)
    assert worked
    assert r.drift.second_order[2] == pytest.approx(
        np.maximum(r.drift.second_order[0], r.drift.second_order[1]))
    assert not np.allclose(r.drift.second_order[0], r.drift.second_order[1])


# -- sets of each limit state ----------------------------------------------------------------------


TWISTED = shear_building([6e7] * 3, [2e5] * 3, lines_x=[(0.0, 0.85), (6.0, 0.15)],
                         lines_y=[(0.0, 0.6), (10.0, 0.4)])


def test_a_spectrum_set_takes_the_torsion_of_its_own_limit_state_and_direction() -> None:
    """0.05 of the plan across times the static forces of that state, by hand."""
    site = {**SITE, "ss": 1.5, "s1": 0.5}
    r = analyze(TWISTED, site=site, analysis={"accidental_torsion": "always"})
    turn = r.model.freedoms.of("rotation")
    seen = set()
    for one in r.spectrum_sets:
        forces = r.statics[one.direction, one.state.key].forces
        across = 6.0 if one.direction == "X" else 10.0
        assert one.torsion is not None
        moment = 0.05 * across * forces * r.torsion[one.direction].factors
        assert np.abs(one.torsion[turn, 1]) == pytest.approx(moment)
        seen.add(round(float(moment.sum())))
    assert len(seen) == 4  # strength and drift, X and Y, all differ


def test_the_resultant_of_a_spectrum_set_holds_its_torsion() -> None:
    r = analyze(TWISTED, analysis={"accidental_torsion": "always", "modal_combination": "SRSS"})
    both = plumb_drift(r.model, [center_line(r.model)])
    x, y = both.where(component="X"), both.where(component="Y")
    assert {s.scale == 1.0 for s in r.spectrum_sets} == {True, False}
    for one in r.spectrum_sets:
        mx, my = one.modal_values(x), one.modal_values(y)
        a, b, c = (mx**2).sum(1), (my**2).sum(1), (mx * my).sum(1)
        largest = np.sqrt([np.linalg.eigvalsh([[p, q], [q, s]])[-1]
                           for p, s, q in zip(a, b, c, strict=True)])
        assert one.torsion is not None
        u, f = one.torsion.T
        twist = np.hypot(x.of(u, f), y.of(u, f))
        assert twist.max() > 1e-7
        assert one.vectors(both)[2] == pytest.approx(one.scale * largest + twist, rel=1e-9)
        assert one.vectors(both)[:2].ravel() == pytest.approx(one.of(both), rel=1e-9)
        assert one.of(x) == pytest.approx(one.scale * np.sqrt(a) + np.abs(x.of(u, f)), rel=1e-9)


def test_only_sets_for_drift_are_judged_and_each_factor_is_its_own() -> None:
    """Different C_d along X and Y, a longer period for drift than for strength."""
    r = analyze(shear_building([6e6] * 3, [2e5] * 3),
                system={"X": {"row": "C.1"}, "Y": {"row": "B.3"}})
    assert all(name.endswith("drift") for name in r.drift.sets)
    for d in "XY":
        found = [f for f, own in zip(r.drift.factors, r.drift.directions, strict=True) if own == d]
        assert found == pytest.approx([found[0]] * len(found))
        assert r.laterals[d].drift_factor == pytest.approx(found[0])  # type: ignore[index]
    assert len({float(f) for f in r.drift.factors}) == 2
    strength = r.statics["X", "strength"].shear
    drift = r.statics["X", "drift"].shear
    assert drift.period > strength.period
    assert drift.base_shear < strength.base_shear
    one = next(s for s in r.static_sets if s.state.key == "drift" and s.direction == "X")
    assert one.forces.sum() == pytest.approx(drift.base_shear)


def test_the_drift_limit_goes_with_the_period_of_its_limit_state() -> None:
    """UBC 1997: 0.025 below 0.7 s; the period for strength is capped below it."""
    site = {"zone": "4", "soil": "SC", "occupancy_category": "standard", "source_type": "B",
            "source_distance": 20e3}
    system = {"row": "3.1a", "regular": True}
    r = analyze(shear_building([1.6e7] * 4, [2e5] * 4, height=2.7), standard="ubc97", site=site,
                system={"X": system, "Y": system})
    assert r.statics["X", "strength"].shear.period < 0.7 < r.statics["X", "drift"].shear.period
    assert r.drift.limits[0] == pytest.approx(0.020)


def test_scaling_names_the_static_base_shear_of_each_limit_state() -> None:
    r = analyze(shear_building([6e6] * 3, [2e5] * 3, lines_y=[(0.0, 1.5), (10.0, 1.5)]),
                results_in="kip and ft")
    frame = r.to_frame("scaling")
    for i, one in enumerate(r.scaling):
        static = r.statics[one.direction, one.state.key].shear.base_shear
        row = frame.iloc[i]
        assert (row["direction"], row["purpose"]) == (one.direction, one.state.key)
        assert row["static base shear (kip)"] == pytest.approx(static / 4448.2216152605)
        assert row["factor"] == pytest.approx(one.answer.factor)
        kept = next(s for s in r.spectrum_sets
                    if (s.direction, s.state) == (one.direction, one.state))
        assert kept.scale == pytest.approx(one.answer.factor)
    assert len({round(x, 6) for x in frame["static base shear (kip)"]}) > 2
    assert len({round(x, 6) for x in frame["factor"]}) > 1


def test_a_combination_of_both_directions_takes_one_of_each(archive: Results) -> None:
    found = archive.shears.shear
    both = next(s for s in found.axes[0].labels["set"] if " and " in s)
    x, y, together = (found.sel(set=s).values for s in
                      ("spectrum X, strength", "spectrum Y, strength", both))
    assert not np.allclose(x, y)
    bound = np.hypot(x, y), np.maximum(x + 0.3 * y, 0.3 * x + y)
    assert any(np.allclose(together, b) for b in bound)


# -- directions and floors -------------------------------------------------------------------------


def test_each_direction_has_its_own_period_shape_and_twist() -> None:
    b = shear_building([2e8, 5e7, 9e7], [2e5] * 3, lines_x=[(0.0, 0.8), (6.0, 0.2)],
                       lines_y=[(0.0, 0.7), (10.0, 0.7)])
    site = {"reference_acceleration": 0.2, "ground_type": "A", "importance_class": "II",
            "use": "B"}
    frame = {"row": "concrete frame", "ductility": "DCM", "regular_in_plan": False,
             "regular_in_elevation": False}
    r = analyze(b, standard="en1998", site=site, system={"X": frame, "Y": frame})
    for axis, d in enumerate("XY"):
        lead = int(np.argmax(r.modes.mass_ratios[:, axis]))
        assert r.statics[d, "strength"].shear.period == pytest.approx(r.modes.periods[lead])  # type: ignore[index]
    # By hand, with k = 1: center of rigidity at y = 1.2, eccentricity with 5 % of the plan across.
    polar = 0.8 * 1.2**2 + 0.2 * 4.8**2 + 0.7 * 2 * 5.0**2
    turn_x, turn_y = (1.8 + 0.3) / polar, 0.5 / polar
    far, near = 1 + 4.8 * turn_x, 1 - 1.2 * turn_x
    shift = 1 / 1.4
    assert r.torsion["X"].facts.drift_ratios.max() == pytest.approx(2 * far / (far + near))
    assert r.torsion["Y"].facts.drift_ratios.max() == pytest.approx((shift + 5 * turn_y) / shift)


def test_diaphragm_weights_stand_beside_the_forces_of_their_floor() -> None:
    """F_px with floors of different weight, top down, by hand (Eq. 12.10-1)."""
    r = analyze(shear_building([6e7] * 3, [1e5, 2e5, 4e5]))
    static = r.statics["X", "strength"]
    w = np.array([1e5, 2e5, 4e5]) * G
    s_ds = r.site.parameters["S_DS"]
    hand = np.clip(np.cumsum(static.forces) / np.cumsum(w) * w, 0.2 * s_ds * w, 0.4 * s_ds * w)
    assert r.diaphragms["X"] == pytest.approx(hand)


# -- exactly on a boundary -------------------------------------------------------------------------


@pytest.mark.parametrize(("s_ds", "s_d1", "category"), [
    (0.1669, 0.0669, "A"), (0.167, 0.05, "B"), (0.1, 0.067, "B"), (0.33, 0.05, "C"),
    (0.3299, 0.05, "B"), (0.1, 0.133, "C"), (0.1, 0.1329, "B"), (0.50, 0.05, "D"),
    (0.4999, 0.05, "C"), (0.1, 0.20, "D"), (0.1, 0.1999, "C")])
def test_a_value_on_the_boundary_is_in_the_higher_category(
    s_ds: float, s_d1: float, category: str
) -> None:
    """Tables 11.6-1 and 11.6-2 for risk category II: `0.167 <= S_DS < 0.33` and so on."""
    own = [{"symbol": k, "value": v, "reason": "boundary"}
           for k, v in (("S_DS", s_ds), ("S_D1", s_d1))]
    site = {**SITE, "s1": 0.1, "replace": own}
    assert ud.site_spectra(standard="asce7-16", site=site).site.category == category
    if s_d1 == 0.05:  # then S_DS alone decides either way
        alone = {**site, "category_by_short_period": True}
        assert ud.site_spectra(standard="asce7-16", site=alone).site.category == category


@pytest.mark.parametrize(("s1", "category"), [(0.75, "E"), (0.7499, "D")])
def test_near_fault_category_on_its_boundary(s1: float, category: str) -> None:
    found = ud.site_spectra(standard="asce7-16", site={**SITE, "ss": 1.5, "s1": s1})
    assert found.site.category == category


@pytest.mark.parametrize(("ss", "s1", "category"), [
    (0.15, 0.04, "A"), (0.1501, 0.04, "A"), (0.30, 0.0401, "B")])
def test_low_hazard_on_its_boundary(ss: float, s1: float, category: str) -> None:
    found = ud.site_spectra(standard="asce7-16", site={**SITE, "ss": ss, "s1": s1})
    assert found.site.category == category
    said = next(w for w in found.working if w.key.kind == "site")["SDC"].key
    assert (said == "low hazard") == (ss <= 0.15 and s1 <= 0.04)


@pytest.mark.parametrize(("s1", "floor"), [(0.6, True), (0.5999, False)])
def test_the_floor_of_strong_ground_holds_from_six_tenths_on(s1: float, floor: bool) -> None:
    """Eq. 12.8-6 where S_1 is 0.6 g or more: 0.5 S_1 over R/I_e, for a very soft building."""
    r = analyze(shear_building([4e5] * 3, [2e5] * 3), site={**SITE, "ss": 0.6, "s1": s1},
                system={d: {"row": "C.1", "replace": [
                    {"symbol": "T", "value": 6.0, "reason": "boundary", "beyond_cap": True,
                     "section": f"base shear, {d}, strength"}]} for d in "XY"})
    shear = r.statics["X", "strength"].shear
    weight = 3 * 2e5 * G
    s_ds = r.site.parameters["S_DS"]
    usual = max(0.044 * s_ds, r.site.parameters["S_D1"] / (6.0 * 8.0))
    assert shear.base_shear == pytest.approx(
        weight * (0.5 * s1 / 8.0 if floor else usual), rel=1e-9)
    drift = next(s for s in r.scaling if s.direction == "X" and s.state.key == "drift")
    assert drift.answer.factor == pytest.approx(  # 12.9.1.4.2
        max(1.0, weight * 0.5 * s1 / 8.0 / drift.modal_base_shear) if floor else 1.0)
    assert (drift.answer.factor > 1.01) is floor


def test_a_period_between_eight_tenths_and_the_whole_of_the_corner_is_refused() -> None:
    """Category by S_DS alone needs T_a below 0.8 T_S (11.6), not below T_S."""
    site = {**SITE, "ss": 1.0, "s1": 0.3, "category_by_short_period": True}
    t_s = ud.site_spectra(standard="asce7-16", site=site).site.parameters["T_S"]
    seen = {}
    for share in (0.78, 0.9):
        height = (share * t_s / 0.0724) ** 1.25 / 3
        r = analyze(shear_building([9e8] * 3, [2e5] * 3, height=height), site=site)
        f = next(f for f in r.findings if "S_DS alone" in f.check or "S_DS alone" in f.text
                 or "0.8 T_S" in f.text)
        seen[share] = f.severity
    assert seen[0.9] is Severity.EXCEEDED
    assert seen[0.78] is not Severity.EXCEEDED


@pytest.mark.parametrize(("stories", "share"), [(2, 1.0), (3, 0.85)])
def test_lambda_needs_more_than_two_stories(stories: int, share: float) -> None:
    """EN 1998-1, 4.3.3.2.2(1): 0.85 where T_1 is at most 2 T_C and there are more than two."""
    site = {"reference_acceleration": 0.2, "ground_type": "A", "importance_class": "II",
            "use": "B"}
    frame = {"row": "concrete frame", "ductility": "DCM", "regular_in_plan": True,
             "regular_in_elevation": True}
    r = analyze(shear_building([8e7] * stories, [2e5] * stories), standard="en1998", site=site,
                system={"X": frame, "Y": frame})
    working = r.section("base shear", "X", "strength")
    assert working["lambda_m"].value == share
    assert 0.4 < working["T_1"].value < 0.8 or stories == 2  # between T_C and 2 T_C


# -- what is handed over ---------------------------------------------------------------------------


def test_levels_stand_top_down_in_the_record_and_the_tables(
    archive: Results, tmp_path: Path
) -> None:
    write_all(archive, tmp_path / "o")
    page = (tmp_path / "o" / "record.html").read_text(encoding="utf-8")
    names = [level.name for level in archive.project.building.levels[:-1]]
    own = archive.statics["X", "strength"]
    text = re.sub(r"<[^>]+>", "|", page[page.index("Equivalent lateral forces"):])
    at = [text.index(f"|{name}|") for name, f in zip(own.levels, own.forces, strict=True) if f > 0]
    assert at == sorted(at)
    assert list(archive.to_frame("weight_levels")["level"])[:-1] == names
    forces = archive.section("story forces", "X", "strength")
    assert np.asarray(forces["w_x"].value) == pytest.approx(own.weights[own.weights > 0])
    heights = np.asarray(forces["h_x"].value)
    assert (np.diff(heights) < 0).all()


def test_the_summary_is_in_si_and_says_its_units(archive: Results, tmp_path: Path) -> None:
    write_all(archive, tmp_path / "o")
    said = json.loads((tmp_path / "o" / "results.json").read_text(encoding="utf-8"))
    height = next(f for f in said["findings"] if f["check"] == "height limit" and f["capacity"])
    assert height["unit"] == "m"
    assert height["demand"] == pytest.approx(110 * 0.3048)
    base = next(w for w in said["working"] if w["key"] == {
        "kind": "base shear", "direction": "X", "state": "strength", "item": ""})
    v = next(s for s in base["steps"] if s["symbol"] == "V")
    assert v["value"] == pytest.approx(archive.statics["X", "strength"].shear.base_shear)
    assert v["unit"] in ("N", "force")


def test_the_residual_takes_its_place_at_the_rigid_period() -> None:
    b = shear_building([6e9] * 6, [2e5] * 6)
    r = analyze(b, analysis={"residual_mass": True, "mass_target": 0.5})
    one = next(s for s in r.spectrum_sets if s.direction == "X" and s.state.key == "strength")
    row = r.model.quantities["story shear"].where(component="X", story=r.model.levels[-1])
    rigid = one.modal_values(row)[0, -1]
    left = 1 - r.modes.mass_ratios[: r.modes.kept, 0].sum()
    sa = float(r.reduced["X", "strength"](r.rules.rigid_period))
    assert rigid == pytest.approx(left * 6 * 2e5 * sa, rel=1e-6)


def test_projects_of_all_kinds_have_the_texts_they_ship(tmp_path: Path) -> None:
    for name in ("starter", "archive", "clinic", "terrace", "arcade", "clinic_frames"):
        path = tmp_path / f"{name}.toml"
        path.write_text(starter_text(name), encoding="utf-8")
        assert ud.read(path) == ud.shipped_project(name)
    assert SYSTEMS["X"]["row"] == FRAME["X"]["row"]


def test_directions_go_together_as_the_category_asks() -> None:
    """ASCE 7-16, 12.5.3: in category C without a nonparallel system each direction alone."""
    b = shear_building([6e7] * 3, [2e5] * 3)
    found = {}
    for ss, s1 in ((0.45, 0.13), (1.0, 0.4)):
        r = analyze(b, site={**SITE, "ss": ss, "s1": s1})
        found[r.site.category] = r
        both = next(s for s in r.shears.sets if " and " in s)
        assert r.rules.directional_combination in both
        sets = {s: r.shears.shear.sel(set=s).values for s in r.shears.sets}
        x, y = sets["spectrum X, strength"], sets["spectrum Y, strength"]
        hand = np.maximum(x, y) if r.site.category == "C" else np.maximum(
            x + 0.3 * y, 0.3 * x + y)
        assert sets[both] == pytest.approx(hand)
    assert set(found) == {"C", "D"}
    assert found["C"].rules.directional_combination == "independent"
    assert (found["C"].rules.directional_clause, found["D"].rules.directional_clause) == \
        ("12.5.3", "12.5.4")
    for how, share in (("100/40", 0.4), ("absolute sum", 1.0)):
        chosen = analyze(b, analysis={"directional_combination": how})
        both = next(s for s in chosen.shears.sets if " and " in s)
        x, y = (chosen.shears.shear.sel(set=f"spectrum {d}, strength").values for d in "XY")
        assert chosen.shears.shear.sel(set=both).values == pytest.approx(
            np.maximum(x + share * y, share * x + y))
        assert chosen.combinations is not None
        factors = {row.quake for row in chosen.combinations.rows if row.kind.endswith("redundancy")
                   and row.name.startswith("6")}
        rho = max(map(max, factors))
        assert factors == {(rho, share * rho), (share * rho, rho)}


@pytest.mark.parametrize(("period", "limit"), [(0.7, 0.020), (0.6999, 0.025)])
def test_the_limit_of_long_periods_holds_from_seven_tenths_on(period: float, limit: float) -> None:
    """UBC 1997, 1630.10.2: 0.025 for periods less than 0.7 s, 0.020 for 0.7 s and more."""
    site = {"zone": "3", "soil": "SB", "occupancy_category": "standard"}
    own = [{"symbol": "T", "value": period, "reason": "boundary",
            "section": "drift limit, X, drift"}]
    system = {"row": "3.1a", "regular": True}
    r = analyze(shear_building([6e7] * 3, [2e5] * 3), standard="ubc97", site=site,
                system={"X": {**system, "replace": own}, "Y": system})
    assert r.drift.limits[0] == pytest.approx(limit)


@pytest.mark.parametrize(("shares", "share"), [((0.5, 0.5), 0.9), ((0.95, 0.05), 1.0)])
def test_an_irregularity_that_is_found_outweighs_what_is_stated(
    shares: tuple[float, float], share: float
) -> None:
    """UBC 1997, 1631.5.4: 90 % for regular structures, all of it where torsion is irregular."""
    site = {"zone": "3", "soil": "SB", "occupancy_category": "standard"}
    system = {"row": "3.1a", "regular": True}
    lines = [(0.0, shares[0]), (6.0, shares[1])]
    r = analyze(shear_building([6e7] * 3, [2e5] * 3, lines_x=lines, plan=(10.0, 6.0)),
                standard="ubc97", site=site, system={"X": system, "Y": system})
    assert r.section("scaling", "X", "strength")["c_V"].value == share
