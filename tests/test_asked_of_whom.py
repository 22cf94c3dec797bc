"""What a standard asks of whom: scope, choices against it, sentences that hold of it."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS, SITE, analyze, shear_building
from test_frames import building as frame_of


def test_the_2022_edition_judges_nonparallel_lines() -> None:
    """Category C with a slanted line takes 100/30 (12.5.3); without it each direction alone."""
    b = shear_building([6e7] * 3, [2e5] * 3)
    slanted = ud.Line(name="s", at=(5, 3), direction="30 deg", bottom="Ground", top="L3",
                      stiffness=1e7)
    site = {**SITE, "sms": 0.6, "sm1": 0.25}
    plain, skew = (analyze(ud.Building(levels=b.levels, lines=lines), standard="asce7-22",
                           site=site) for lines in (b.lines, [*b.lines, slanted]))
    assert plain.site.category == skew.site.category == "C"
    assert plain.rules.directional_combination == "independent"
    assert skew.rules.directional_combination == "100/30"
    assert [f.severity.value for f in skew.findings if f.check == "nonparallel system"] == [
        "warning"]


@pytest.mark.parametrize(("key", "row", "known"), [
    ("asce7-05", "steel buckling-restrained braced frame", False),
    ("asce7-16", "steel buckling-restrained braced frame", True),
    ("asce7-05", "concrete moment frame", True)])
def test_period_rows_are_those_of_the_edition(key: str, row: str, known: bool) -> None:
    def asked() -> Any:
        return analyze(shear_building([6e7] * 3, [2e5] * 3), standard=key, system={
            d: {"row": "C.1", "period_row": row} for d in "XY"})

    if known:
        assert f"{row}, height in ft" in asked().section("period", "X")["C_t"].meaning
    else:
        with pytest.raises(ud.InputError, match=r"(?s)system\.X\.period_row.*choose from"):
            asked()


@pytest.mark.parametrize("key", ["asce7-05", "asce7-22", "is1893-2016", "ubc97", "is1893-2002"])
@pytest.mark.parametrize("kept", [1.0, 0.5])
def test_gross_concrete_is_named_where_cracked_sections_are_asked_for(
    key: str, kept: float
) -> None:
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    site, system, *_ = ROOMS[key]
    shares = ud.KeptShares(bending_y=kept, bending_z=kept, reason="test")
    one = frame_of(square, square, stories=2, rules=(
        ud.MemberRule(columns="all", kept=shares), ud.MemberRule(beams="all", kept=shares)))
    r = analyze(one, standard=key, site=site, system=dict.fromkeys("XY", system))
    found = [f for f in r.findings if f.check == "cracked stiffness"]
    assert bool(found) is (kept == 1.0 and key != "is1893-2002")
    if found:
        assert "8 columns" in found[0].text
        assert found[0].severity.value == "warning"


def test_r_max_of_frames_comes_from_their_columns() -> None:
    """Two frames of three columns: the outer column and 70 % of the inner one, by the table of
    section forces; a lateral line alone is an upper bound and no more than a warning."""
    site, system, *_ = ROOMS["ubc97"]
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    one = frame_of(square, square, stories=2, x=(6.0, 6.0), y=(5.0,))
    calculation = ud.calculate(ud.make_project(
        standard="ubc97", building=one, site=site, system=dict.fromkeys("XY", system)))
    worst = max(calculation.facts.elements["X"], key=lambda e: e.share)
    assert worst.single
    model, weights = calculation.model, calculation.weights.weight
    forces = weights * model.heights
    found = []
    for level, above in (("L2", forces[0]), ("L1", forces.sum())):
        heads = np.array([m.elements[-1] for m in model.framed.frame.members
                          if m.name in (f"column A1 at {level}", f"column A2 at {level}")])
        rows = model.framed.end_rows(heads, (6,))[:, 0]
        for sign in (1, -1):
            load = model.loads("X", forces, sign * 0.05 * 5.0 * forces)
            end, middle = np.abs(rows @ np.linalg.solve(model.dense, load)) / above
            found.append(end + 0.7 * middle)
    assert worst.share == pytest.approx(max(found), rel=1e-6)
    frames = dict.fromkeys("XY", system)
    lines = [ud.run(ud.make_project(standard="ubc97", building=b, site=site, system=frames))
             for b in (shear_building([6e7] * 3, [2e5] * 3), one)]
    said = [[f.severity.value for f in r.findings if f.check == "redundancy"] for r in lines]
    assert set(said[0]) <= {"warning"}
    assert "upper bound" in lines[0].section("system", "X")["r_max"].branch
    assert "columns of one bay" in lines[1].section("system", "X")["r_max"].branch


@pytest.mark.parametrize(("key", "ways", "named"), [
    ("asce7-16", {"directional_combination": "independent"}, "analysis.directional_combination"),
    ("is1893-2016", {"directional_combination": "independent"}, ""),
    ("asce7-16", {"mass_target": 0.8}, "analysis.mass_target"),
    ("asce7-16", {"mass_target": 0.95}, ""),
    ("en1998", {"eccentricity": 0.02, "torsion_reason": "t"}, "analysis.eccentricity"),
    ("en1998", {"eccentricity": 0.1, "torsion_reason": "t"}, ""),
    ("en1998", {"accidental_torsion": "none", "torsion_reason": "t"}, "analysis.accidental_tors"),
])
def test_choices_against_the_standard_are_all_as_loud(
    key: str, ways: dict[str, Any], named: str
) -> None:
    site, system, *_ = ROOMS[key]
    r = analyze(shear_building([6e7] * 3, [2e5] * 3), standard=key, site=site,
                system=dict.fromkeys("XY", system), analysis=ways)
    against = [f for f in r.findings if "or justify the lower value" in f.advice]
    assert [f.severity.value for f in against] == (["warning"] if named else [])
    assert all(named in f.advice for f in against)


@pytest.mark.parametrize(("key", "divisor", "loud"), [
    ("en1998", 1.5, False), ("en1998", 2.0, True), ("asce7-16", 1.5, True), ("asce7-16", 1, False)])
def test_divisors_of_vertical_motion_that_need_proof(key: str, divisor: float, loud: bool) -> None:
    site, system, *_ = ROOMS[key]
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    r = analyze(frame_of(square, square, vertical_mass=True), standard=key, site=site,
                system={d: {**system, **({"row": "C.5"} if key != "en1998" else {})}
                        for d in "XY"},
                analysis={"vertical_spectrum": True, "vertical_divisor": divisor})
    assert bool([f for f in r.findings if "analysis.vertical_divisor" in f.advice]) is loud


def test_sentences_hold_of_the_standard_at_hand() -> None:
    """The vertical effect in the factor on dead load is claimed where it is; a row with vertical
    motion says where it is not analyzed."""
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    for key, stands in (("asce7-16", True), ("ubc97", True), ("en1998", False),
                        ("is1893-2016", False)):
        site, system, *_ = ROOMS[key]
        r = analyze(frame_of(square, square), standard=key, site=site,
                    system={d: {**system, **({"row": "C.5"} if key == "asce7-16" else {})}
                            for d in "XY"})
        table = r.read("forces", "column A1 at L1", "each").table()
        assert ("in the factor on dead load" in table.note) is stands, key
        assert r.combinations is not None
        assert stands == any(row.dead not in (0.9, 0.6, 1.0, 1.2, 1.5)
                             for row in r.combinations.rows)
        names = {str(x) for x in r.to_frame("load_combinations")["combination"]}
        asks = any("Z" in name for name in names)
        assert asks is (key == "is1893-2016")
        shown = {str(x) for x in table.to_frame(r.units)["combination"] if "Z" in str(x)}
        assert all("Z not analyzed" in x for x in shown)


def test_separation_is_judged_by_the_analysis_that_decides() -> None:
    """EN 1998-1, soft: the lateral force method is not open, its larger displacements don't
    count; where both decide the larger one does."""
    site, system, *_ = ROOMS["en1998"]
    gaps = [{"name": "line", "direction": "X", "distance": 1.0}]
    for k, barred in ((3e6, True), (1e9, False)):
        r = analyze(shear_building([k] * 4, [1.5e5] * 4), standard="en1998", site=site,
                    system=dict.fromkeys("XY", system), gaps=gaps)
        (gap,) = r.gaps
        assert r.drift.barred[0] is barred
        roof = r.displacements.elastic.sel(level="L4", component="X").values \
            * r.displacements.factors[:, None]
        own = [roof[[n.startswith(m) for n in r.drift.sets]].max() for m in ("static", "spectrum")]
        assert own[0] > own[1] or not barred
        assert gap.own == pytest.approx((own[1] if barred else max(own)) * gap.second_order)
