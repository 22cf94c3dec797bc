"""ASCE 7: what is asked of whom. Scope, methods, rows and editions, each against a hand value."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building
from undatum.finding import Finding, Severity
from undatum.results.results import Results

EDITIONS = ["asce7-05", "asce7-10", "asce7-16", "asce7-22"]
MASONRY = {"asce7-05": "B.17", "asce7-10": "B.16", "asce7-16": "B.16", "asce7-22": "B.18"}
LIGHT = {"asce7-05": "A.13", "asce7-10": "A.15", "asce7-16": "A.15", "asce7-22": "A.16"}
K, M = 6e7, 2e5


def site(key: str, **more: Any) -> dict[str, Any]:
    found = {**SITE, **({"sms": 1.2, "sm1": 0.6} if key == "asce7-22" else {}), **more}
    if key == "asce7-22" and "ss" in more:
        found |= {"sms": 1.2 * more["ss"], "sm1": 1.5 * more.get("s1", 0.4)}
    return found


def run(key: str, building: ud.Building | None = None, *, at: dict[str, Any] | None = None,
        row: str = "C.1", **more: Any) -> Results:
    return analyze(building or shear_building([K] * 3, [M] * 3), standard=key,
                   site=site(key, **(at or {})),
                   **{"system": {d: {"row": row} for d in "XY"}, **more})


def of(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


def judged(b: ud.Building) -> ud.Building:
    """With lengths and strengths, so that every type can be told."""
    return b.model_copy(update={"lines": [
        x.model_copy(update={"drawn_length": 4.0, "strength": 1e7}) for x in b.lines]})


STATED = {"diaphragm_discontinuity": False, "in_plane_offset": False}


# -- the drift row follows from the system ---------------------------------------------------------


@pytest.mark.parametrize("key", EDITIONS)
def test_masonry_walls_never_take_the_row_of_others(key: str) -> None:
    """Table 12.12-1: 0.007, or 0.010 where the walls are stated to be cantilevers."""
    row = MASONRY[key]
    assert run(key, row=row).drift.limits[0] == pytest.approx(0.007)
    stated = run(key, row=row, drift={"structure": "masonry cantilever wall"})
    assert stated.drift.limits[0] == pytest.approx(0.010)
    for wrong in ("other", "low-rise with drift-tolerant finishes"):
        with pytest.raises(ud.InputError, match=r"drift\.structure"):
            run(key, row=row, drift={"structure": wrong})
    mixed = run(key, system={"X": {"row": row}, "Y": {"row": "B.4"}})
    assert mixed.drift.limits[:2] == pytest.approx([0.007, 0.020])
    with pytest.raises(ud.InputError, match="no row of the lateral systems is one"):
        run(key, drift={"structure": "other masonry wall"})


@pytest.mark.parametrize("key", EDITIONS)
def test_one_story_whose_finishes_tolerate_drift_has_no_limit(key: str) -> None:
    soft = shear_building([4e6], [M])
    given = {"structure": "low-rise with drift-tolerant finishes"}
    r = run(key, soft, drift=given)
    assert not np.isfinite(r.drift.limits[:2]).any()
    found = [f for f in r.findings if f.check.startswith("story drift")]
    assert {f.severity for f in found} == {Severity.OK}
    assert "no limit: one story" in found[0].text
    assert "without a limit" in dict(r.summary())["Drift X"]
    assert all(c is None for c in r.to_frame("drift_x")["allowable"])
    assert any(f.severity is Severity.EXCEEDED and f.check.startswith("story drift")
               for f in run(key, soft).findings)
    two = run(key, shear_building([K] * 2, [M] * 2), drift=given)
    assert two.drift.limits[0] == pytest.approx(0.025 / 1.3)


# -- category A ------------------------------------------------------------------------------------


@pytest.mark.parametrize(("key", "clause"), [
    ("asce7-05", "11.7.2"), ("asce7-10", "1.4.3"), ("asce7-16", "1.4.3"), ("asce7-22", "1.4")])
@pytest.mark.parametrize("k", [1e5, 4e8])
def test_category_a_asks_for_one_per_cent_and_nothing_else(
    key: str, clause: str, k: float
) -> None:
    """Soft, and stiff enough for a coefficient above one per cent elsewhere."""
    at = {"ss": 0.15, "s1": 0.04, **({"sms": 0.2, "sm1": 0.05} if key == "asce7-22" else {})}
    r = analyze(shear_building([k] * 3, [M, 2 * M, M]), standard=key, site={**SITE, **at},
                system={d: {"row": "C.1"} for d in "XY"})
    assert r.site.category == "A"
    for d in "XY":
        forces = r.statics[d, "strength"].forces  # type: ignore[index]
        assert forces == pytest.approx(0.01 * 9.80665 * np.array([M, 2 * M, M]))
        assert r.section("base shear", d, "strength")["C_s"].clause.startswith(
            ("12.8.1.1", clause))
        assert clause in r.section("story forces", d, "strength")["F_x"].clause
    assert {s.answer.factor for s in r.scaling} == {1.0}
    asked = [f for f in r.findings if f.check.startswith(("story drift", "P-Delta"))]
    assert asked
    assert {f.severity for f in asked if "P-Delta" not in f.check} == {Severity.OK}
    assert not any(f.severity is Severity.EXCEEDED and "above 1:" not in f.text for f in asked)


# -- procedures, and what they decide --------------------------------------------------------------


@pytest.mark.parametrize("key", ["asce7-05", "asce7-10", "asce7-16"])
def test_light_frame_construction_may_use_the_static_procedure(key: str) -> None:
    """Whatever its irregularities (Table 12.6-1); one direction of another kind ends that."""
    b = shear_building([K] * 3, [M] * 3, lines_x=[(0.0, 0.85), (6.0, 0.15)])
    light = run(key, b, row=LIGHT[key])
    assert light.torsion["X"].answer.kind
    assert "light-frame construction" in of(light, "permitted procedure")[0].text
    assert of(light, "permitted procedure")[0].severity is Severity.OK
    mixed = run(key, b, system={"X": {"row": LIGHT[key]}, "Y": {"row": "C.1"}})
    assert "not permitted" in of(mixed, "permitted procedure")[0].text


@pytest.mark.parametrize("key", ["asce7-05", "asce7-10", "asce7-16"])
def test_where_the_static_procedure_is_barred_the_modal_analysis_decides(key: str) -> None:
    """The static drift is above the limit, that of the spectrum below: nothing is exceeded."""
    b = shear_building([1.25e7] * 3, [M] * 3, lines_x=[(0.0, 0.75), (6.0, 0.25)],
                       lines_y=[(0.0, 0.7), (10.0, 0.3)])
    frame = {d: {"row": "C.1", "beta": 0.2} for d in "XY"}
    r = run(key, b, system=frame)
    assert "not permitted" in of(r, "permitted procedure")[0].text
    assert r.drift.barred == (True, True)
    for d in "XY":
        static, spectrum = (of(r, f"story drift {d}, {m}")[0] for m in ("static", "spectrum"))
        assert static.ratio
        assert spectrum.ratio
        assert static.ratio > spectrum.ratio
        assert static.severity is (Severity.NOTE if static.ratio > 1 else Severity.OK)
        assert "For information: the standard does not permit" in static.text
        assert spectrum.severity is (Severity.EXCEEDED if spectrum.ratio > 1 else Severity.OK)
        assert "spectrum" in dict(r.summary())[f"Drift {d}"]
        assert "not permitted" in dict(r.summary())[f"Drift {d}"]
    assert "the spectrum analysis governs" in r.table("drift_x").note
    chosen = run(key, b, system=frame, drift={"judged_by": "static"})
    assert chosen.drift.deciding(0) is None
    assert of(chosen, "drift judged by the static analysis")
    regular = run(key, judged(shear_building([1.25e7] * 3, [M] * 3)), system=frame,
                  irregularities=STATED)
    assert regular.drift.barred == (False, False)
    assert regular.drift.deciding(0) is None


def test_permitted_is_not_said_while_what_would_bar_it_is_not_judged() -> None:
    b = shear_building([K] * 3, [M] * 3)
    unknown = of(run("asce7-16", b), "permitted procedure")[0]
    assert unknown.severity is Severity.WARNING
    assert "vertical type 3" in unknown.text
    known = of(run("asce7-16", judged(b), irregularities=STATED), "permitted procedure")[0]
    assert known.severity is Severity.OK
    low = run("asce7-16", shear_building([K] * 2, [M] * 2))  # two stories: nothing can bar it
    assert of(low, "permitted procedure")[0].severity is Severity.OK


# -- values from a study ---------------------------------------------------------------------------


def study(tmp_path: Path, key: str, sds: float, sd1: float, *, soil: str = "D",
          damping: str = "5 %", at: dict[str, Any] | None = None) -> dict[str, Severity]:
    """A plateau of 0.9 g to 0.6 s, then 0.54/T to 1.5 s, then 0.8 times that."""
    rows = [(0.0, 0.36), (0.12, 0.9), (0.6, 0.9), (1.0, 0.54), (1.5, 0.36), (2.0, 0.216),
            (3.0, 0.144), (5.0, 0.0864)]
    (tmp_path / "s.csv").write_text(
        f"period (s), {damping} (g)\n" + "".join(f"{t}, {a}\n" for t, a in rows))
    r = ud.site_spectra(
        standard=key, folder=tmp_path, spectrum={"file": "s.csv"},
        site=site(key, site_class=soil, **(at or {"ss": 0.9, "s1": 0.3}),
                  study={"sds": sds, "sd1": sd1, "reason": "made up"}))
    return {f.check.split()[0]: f.severity for f in r.findings if "of the study" in f.check}


@pytest.mark.parametrize(("key", "sds", "sd1"), [
    # 90 % of 0.9; the largest T Sa from 1 s on is 0.54 (at the interpolated peak 0.54 at 1.5 s)
    ("asce7-05", 0.90, 0.54), ("asce7-10", 0.90, 0.54), ("asce7-16", 0.81, 0.5625),
    ("asce7-22", 0.81, 0.54)])
def test_study_values_are_held_to_their_spectrum(
    key: str, sds: float, sd1: float, tmp_path: Path
) -> None:
    """05 and 10: ordinates at 0.2 s and 1 s, twice that at 2 s; 16: largest T Sa; 22: 90 % of it.

    Between 1 s and 1.5 s the straight line lies above 0.54/T: T Sa = 0.9 T - 0.36 T^2 has its
    largest value at 1.25 s, 0.5625 g s.
    """
    ok, bad = Severity.OK, Severity.EXCEEDED
    assert study(tmp_path, key, sds, sd1) == {"S_DS": ok, "S_D1": ok}
    assert study(tmp_path, key, sds * 0.99, sd1) == {"S_DS": bad, "S_D1": ok}
    assert study(tmp_path, key, sds, sd1 * 0.99) == {"S_DS": ok, "S_D1": bad}


def test_study_values_are_held_to_the_general_ones(tmp_path: Path) -> None:
    """80 % of 2/3 F S: class D, S_S 1.5 (F_a 1.0) and S_1 0.7 (F_v 2.5 for this purpose)."""
    strong = {"ss": 1.5, "s1": 0.7}
    sds, sd1 = 0.8 * 2 / 3 * 1.5, 0.8 * 2 / 3 * 2.5 * 0.7
    sds = max(sds, 0.81)
    ok, bad = Severity.OK, Severity.EXCEEDED
    assert study(tmp_path, "asce7-16", sds, sd1, at=strong) == {"S_DS": ok, "S_D1": ok}
    assert study(tmp_path, "asce7-16", sds, 0.98 * sd1, at=strong) == {"S_DS": ok, "S_D1": bad}


def test_the_shipped_study_is_in_order() -> None:
    path = Path(__file__).parent.parent / "examples" / "study" / "hall.toml"
    r = ud.run(ud.read(path))
    found = [f for f in r.findings if "of the study" in f.check]
    assert {f.severity for f in found} == {Severity.OK}
    assert len(found) == 2


def test_the_floor_is_compared_at_its_own_damping(tmp_path: Path) -> None:
    """The 2 % curve is 1.3 times the 5 % one; the latter is 70 % of the floor at the plateau."""
    given = site("asce7-16", site_class="C", study={"sds": 0.8, "sd1": 0.4, "reason": "made up"})
    general = 0.8 * 2 / 3 * 1.2  # F_a 1.2: plateau of the floor in g
    low = 0.7 * general
    (tmp_path / "s.csv").write_text("period (s), 2 % (g), 5 % (g)\n" + "".join(
        f"{t}, {1.3 * low}, {low}\n" for t in (0.0, 0.1, 0.45, 10.0)))
    r = ud.site_spectra(standard="asce7-16", site=given, folder=tmp_path,
                        spectrum={"file": "s.csv", "site_specific": True},
                        analysis={"damping": 0.02})
    spectrum = r.shaking.horizontal["X"]
    assert spectrum.damping == 0.02
    assert float(spectrum(0.3)) == pytest.approx(1.3 * general * 9.80665)
    text = next(f.text for f in r.findings if f.check == "site-specific spectrum")
    assert "The least ordinate is 70% of the floor" in text
    (tmp_path / "s.csv").write_text("period (s), 2 % (g)\n0.0, 0.5\n1.0, 0.5\n")
    alone = ud.site_spectra(standard="asce7-16", site=given, folder=tmp_path,
                            spectrum={"file": "s.csv", "site_specific": True},
                            analysis={"damping": 0.02})
    assert any("not compared" in f.text and f.severity is Severity.WARNING
               for f in alone.findings)


# -- 2022 ------------------------------------------------------------------------------------------


def test_the_ordinate_at_t_governs_with_a_multi_period_spectrum() -> None:
    """Method 1: a bulge at 1.2 s above S_D1/T is not cut off; C_s by hand."""
    periods = [0.0, 0.1, 0.2, 0.5, 1.0, 1.2, 2.0, 5.0, 10.0]
    mce = [0.5, 1.0, 1.2, 1.2, 0.6, 0.72, 0.3, 0.12, 0.05]
    given = {**SITE, "multi_period": {"periods": periods, "accelerations": mce}}
    b = shear_building([1.6e7] * 3, [M] * 3, height=7.0)
    r = analyze(b, standard="asce7-22", site=given)
    shear = r.statics["X", "strength"].shear
    section = r.section("base shear", "X", "strength")
    ordinate = 2 / 3 * float(np.interp(shear.period, periods, mce))
    p = r.site.parameters
    usual = min(p["S_DS"] / 8, p["S_D1"] / shear.period / 8)
    assert section["C_sT"].value == pytest.approx(ordinate / 8)
    assert shear.coefficient == pytest.approx(max(ordinate / 8, usual, 0.044 * p["S_DS"]))
    assert "larger of the methods" in section["C_s"].branch
    two = analyze(b, standard="asce7-22", site=site("asce7-22"))
    assert not any(s.symbol == "C_sT" for s in two.section("base shear", "X", "strength"))


def test_one_torsional_type_with_its_ratio_and_the_strength_on_one_side() -> None:
    def told(shares: tuple[float, float], strengths: tuple[float, float] | None = None,
             **system: Any) -> Results:
        b = shear_building([K] * 3, [M] * 3, lines_x=[(0.0, shares[0]), (6.0, shares[1])],
                           lines_y=[(3.0, 0.5), (7.0, 0.5)])
        if strengths:
            own = dict(zip(("X0", "X1"), strengths, strict=True))
            b = b.model_copy(update={"lines": [
                x.model_copy(update={"strength": own.get(x.name, 1e7)}) for x in b.lines]})
        return run("asce7-22", b, system={d: {"row": "C.1", **system} for d in "XY"})

    mild, strong = told((0.62, 0.38)), told((0.9, 0.1))
    assert (mild.torsion["X"].answer.kind, strong.torsion["X"].answer.kind) == ("1", "1")
    assert "type 1)" in mild.torsion["X"].answer.finding.text
    rho = {"redundancy": 1.0, "redundancy_reason": "made up"}
    assert {f.severity for f in of(told((0.62, 0.38), **rho), "redundancy")} == {Severity.WARNING}
    assert {f.severity for f in of(told((0.9, 0.1), **rho), "redundancy")} == {Severity.EXCEEDED}
    even = told((0.5, 0.5), (7.6e6, 2.4e6)).torsion["X"].answer  # 76 % on one side
    assert even.kind == "1"
    assert "76% of the strength of story" in even.finding.text
    assert told((0.5, 0.5), (7.5e6, 2.5e6)).torsion["X"].answer.kind == ""
    unknown = told((0.5, 0.5)).torsion["X"].answer.finding.text
    assert "not checked: not all strengths" in unknown
    early = run("asce7-16", shear_building([K] * 3, [M] * 3))
    assert "strength" not in early.torsion["X"].answer.finding.text


def test_clauses_of_another_edition_are_not_cited() -> None:
    """7-05 speaks of occupancy, Table 11.5-1 and 12.5.3; equation numbers of 2022 are left out."""
    def every(key: str) -> str:
        r = run(key, at={"ss": 0.35, "s1": 0.1})
        return " ".join([*(f"{s.clause} {s.branch}" for w in r.working for s in w),
                         r.rules.directional_clause, r.site.summary])

    old = every("asce7-05")
    assert "Table 11.5-1" in old
    assert "occupancy category" in old
    assert not any(x in old for x in ("Table 1.5", "risk", "12.5.3.1"))
    late = every("asce7-22")
    assert "Eq." not in late
    assert not any(x in late for x in ("11.4.4", "11.4.6", "11.4.8", "12.8.6.2", "12.9.1.4.1"))
    assert "6b" in {c.name.split(":")[0] for c in (run("asce7-10").combinations.rows)}  # type: ignore[union-attr]


def test_separation_says_which_forces_it_rests_on() -> None:
    r = run("asce7-16", gaps=[{"name": "party wall", "direction": "X", "distance": 0.5}])
    assert "under the forces for drift" in r.section("separation", "X", item="1")["delta_M1"].branch


@pytest.mark.parametrize(("key", "clause"), [("asce7-05", "11.4.1"), ("asce7-10", "11.4.1"),
                                             ("asce7-16", "11.4.2"), ("asce7-22", "11.4")])
def test_category_a_is_exempt_from_chapter_12(key: str, clause: str) -> None:
    """11.7: no separation, no vertical effect, no overstrength, nothing of irregularities."""
    b = shear_building([K] * 3, [M] * 3)
    offset = [ud.Line(name="s", at=(5, 1), direction="X", bottom="L1", top="L3", stiffness=K)]
    quiet = {"ss": 0.1, "s1": 0.04, **({"sms": 0.1, "sm1": 0.05} if key[-2:] == "22" else {})}
    r = run(key, ud.Building(levels=b.levels, lines=[*b.lines, *offset]), at=quiet,
            gaps=[{"name": "line", "direction": "X", "distance": 0.05}])
    assert r.site.category == "A"
    assert f"({clause})" in r.section("site")["SDC"].branch
    assert not r.gaps
    assert r.combinations is not None
    assert {c.kind for c in r.combinations.rows} == {
        "strength, redundancy", "allowable stress, redundancy"}
    assert max(c.dead for c in r.combinations.rows) == 1.2
    assert r.shape.standing
    assert not of(r, "elements under discontinuous lines")
    assert [f.clause for f in of(r, "irregularities")] == ["11.7"]
    assert [f.clause for f in of(r, "permitted procedure")] == ["11.7"]


@pytest.mark.parametrize(("row", "share"), [("C.1", 0.75), ("G.1", 1.0)])
@pytest.mark.parametrize("key", EDITIONS)
def test_overturning_at_the_foundation(key: str, row: str, share: float) -> None:
    """12.13.4: 25 % less by the static procedure, not for cantilevered columns; 10 % by modes. The
    moment is the sum of force times height; the modal one that of the table of shears."""
    r = run(key, row=row)
    table = r.to_frame("foundation_overturning").set_index("set")
    for d in ("X", "Y"):
        static = r.statics[d, "strength"]
        moment = float(static.forces @ static.heights) / 1e3
        for name in (n for n in table.index if n.startswith(f"static {d}")):
            own = table.loc[name]
            assert own["overturning moment (kN·m)"] == pytest.approx(moment)
            assert own["for the foundation (kN·m)"] == pytest.approx(share * moment)
        own = table.loc[f"spectrum {d}, strength"]
        whole = float(r.shears.overturning.sel(
            set=f"spectrum {d}, strength", component=d).values[-1]) / 1e3
        assert own["overturning moment (kN·m)"] == pytest.approx(whole)
        assert own["for the foundation (kN·m)"] == pytest.approx(0.9 * whole)
    quiet = {"ss": 0.1, "s1": 0.04, **({"sms": 0.1, "sm1": 0.05} if key[-2:] == "22" else {})}
    assert "foundation_overturning" not in run(key, at=quiet).table_names
