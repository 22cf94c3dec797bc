"""Branches of the standards that no other test takes: each with its number or its words by hand."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import Room, analyze, share_of, shear_building
from test_laws import OWN, ROOMS, room, shear
from undatum import standards
from undatum.finding import Finding, Severity
from undatum.results.results import Results
from undatum.standards.facts import GapFacts, LoadFacts, StructureFacts

G = 9.80665
K, M = 6e7, 2e5


def found(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


def run(key: str, building: ud.Building | None = None, *, site: dict[str, Any] | None = None,
        system: dict[str, Any] | None = None, **more: Any) -> Results:
    usual, frame, _, _ = ROOMS[key]
    frame = {**frame, **(system or {})}
    return analyze(building or shear_building([K] * 3, [M] * 3), standard=key,
                   site={**usual, **(site or {})}, system={"X": frame, "Y": frame}, **more)


def strong(ratio: float, stories: int = 3, size: float = 1e6) -> ud.Building:
    """A building whose lowest story has ``ratio`` times the strength of those above."""
    b = shear_building([K] * stories, [M] * stories)
    own = [*[size] * (stories - 1), ratio * size]
    return ud.Building(levels=b.levels, lines=[
        line.model_copy(update={"strength": own, "drawn_length": 4.0}) for line in b.lines])


def test_extreme_weak_story_in_low_categories() -> None:
    site = {"ss": 0.3, "s1": 0.1}
    r = run("asce7-16", strong(0.6), site=site)
    assert r.site.category == "B"
    for one, verdict in ((r, Severity.OK), (run("asce7-16", strong(0.6, size=2e5), site=site),
                                            Severity.EXCEEDED)):
        (height,) = found(one, "height with a weak story")
        assert height.severity is verdict
        by_hand = [one.laterals[d].overstrength * one.statics[d, "strength"].shear.base_shear
                   / (2 * 0.6 * (1e6 if one is r else 2e5)) for d in "XY"]
        assert height.demand == pytest.approx(max(by_hand))
    assert found(r, "weak story")[0].severity is Severity.WARNING
    assert not found(run("asce7-16", strong(0.6, 2), site=site), "height with a weak story")
    ubc = run("ubc97", strong(0.6), system={"regular": False})
    assert found(ubc, "height with a weak story")[0].severity is Severity.EXCEEDED


def test_one_story_has_nothing_to_compare() -> None:
    b = shear_building([K], [M])
    lines = [x.model_copy(update={"strength": 1e6, "drawn_length": 4.0}) for x in b.lines]
    r = run("asce7-16", ud.Building(levels=b.levels, lines=lines))
    assert {f.text for f in found(r, "weak story")} == {"One story."}
    assert {f.text for f in found(r, "vertical geometry")} == {"One story."}
    en = run("en1998", b)
    assert found(en, "regularity in elevation")[0].text == "One story: no set-back."


def test_floor_under_a_study_from_a_multi_period_spectrum() -> None:
    multi = {"periods": [0.0, 0.2, 1.0, 10.0], "accelerations": [0.5, 1.5, 0.9, 0.06]}
    r = Room("asce7-22", {**ROOMS["asce7-22"][0], "multi_period": multi}, {"row": "C.1"})
    floor = r.ground.floor(r.site)
    assert floor is not None
    assert float(floor.spectrum(0.6)) / G == pytest.approx(0.8 * 2 / 3 * 1.2)


def test_redundancy_period_row_and_unknown_rows_of_asce7() -> None:
    with pytest.raises(ud.InputError, match=r"1\.0 or 1\.3"):
        run("asce7-16", system={"redundancy": 1.1})
    with pytest.raises(ud.InputError, match="not a row") as error:
        run("asce7-16", system={"row": "zeppelin hangar"})
    assert "did you mean" not in str(error.value)
    r = run("asce7-16", system={"row": "B.4", "period_row": "concrete moment frame",
                                "computed_period": False})
    feet = 9.0 / 0.3048
    assert r.statics["X", "strength"].shear.period == pytest.approx(0.016 * feet**0.9)


def test_national_phi_and_very_low_seismicity() -> None:
    r = standards.get("en1998")
    given = r.site_input(**{**ROOMS["en1998"][0], "national": {"source": "annex", "phi": 0.9}})
    found_share = share_of("en1998", LoadFacts("live", 2e3, False), given).share
    assert found_share == pytest.approx(0.9 * 0.3)
    quiet = run("en1998", site={"reference_acceleration": 0.03})
    assert found(quiet, "very low seismicity")
    strong_site = run("en1998", site={"reference_acceleration": 0.30})
    assert "0.270 g" in found(strong_site, "vertical component")[0].text


def test_no_torsional_radius_where_walls_push_back() -> None:
    """Cantilever walls beside a shear frame: near the top the walls lean on the frame."""
    n = 12
    b = shear_building([K] * n, [M] * n)
    wall = ud.Cantilever(modulus=30e9, length=6.0, thickness=0.3)
    lines = [*b.lines, *(ud.Line(name=f"w{d}", at=(5, 3), direction=d, bottom="Ground",
                                 top=f"L{n}", cantilever=wall) for d in "XY")]
    r = run("en1998", ud.Building(levels=b.levels, lines=lines),
            system={"row": "concrete frame-equivalent dual"})
    radii = r.shape.radii
    assert np.all((radii > 0) | np.isnan(radii))


def test_period_of_ones_own_and_ordinary_systems_of_is1893() -> None:
    with pytest.raises(ud.InputError, match="has no reason"):
        run("is1893-2016", system={"period": 0.6})
    r = run("is1893-2016", system={"row": "RC OMRF"})
    assert len(found(r, "ordinary system")) == 2


@pytest.mark.parametrize(("damping", "factor"), [(0.02, 1.4), (0.10, 0.8), (0.06, 0.95)])
def test_damping_in_the_static_force_of_2002(damping: float, factor: float) -> None:
    plain = shear("is1893-2002", "strength", None, height=12.0)
    assert shear("is1893-2002", "strength", None, {"damping": damping}, height=12.0) == \
        pytest.approx(factor * plain)


def test_concrete_frames_and_method_a_of_ubc97() -> None:
    r = run("ubc97", system={"row": "3.1b", "computed_period": False})
    assert r.statics["X", "strength"].shear.period == pytest.approx(0.030 * (9 / 0.3048) ** 0.75)
    eccentric = run("ubc97", system={"row": "2.1", "computed_period": False})
    assert eccentric.statics["X", "strength"].shear.period == pytest.approx(
        0.030 * (9 / 0.3048) ** 0.75)


def test_own_criteria_by_approximate_period_and_their_table() -> None:
    slow = shear("criteria.toml", "drift", 3.0, system={"computed_period": False}, height=10.0)
    by_hand = 0.45 / (0.0724 * 10**0.8) / 4.0 * 1e7
    assert slow == pytest.approx(min(by_hand, 0.75 / 4.0 * 1e7))
    assert [row[0] for row in room("criteria.toml").systems_table().rows()] == [
        "steel frame", "steel bracing"]


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [("separation = \"sum\"", "stability = { negligible = 0.3, amplifiable = 0.2 }", "do not rise"),
     ("[spectrum]\nshort = 0.75\none_second = 0.45",
      "[spectrum]\nperiods = [1.0, 0.5]\naccelerations = [0.1, 0.2]", "does not come after"),
     ("kind = \"foundations\", dead = 1.0", "kind = \"foundations\"", r"combinations\[2\].dead")],
)
def test_faulty_criteria(tmp_path: Path, old: str, new: str, words: str) -> None:
    text = (OWN / "criteria.toml").read_text()
    assert old in text
    (tmp_path / "criteria.toml").write_text(text.replace(old, new))
    with pytest.raises(ud.InputError, match=words):
        standards.get("criteria.toml", tmp_path)


def test_criteria_that_are_silent_stay_silent(tmp_path: Path) -> None:
    """Without combinations, separation and a vertical share nothing is made up."""
    text = (OWN / "criteria.toml").read_text()
    start = text.index("vertical_share")
    (tmp_path / "criteria.toml").write_text(text[:start] + text[text.index("[spectrum]"):])
    r = Room("criteria.toml", {}, {"row": "steel frame"}, folder=tmp_path)
    assert r.ground.vertical(r.site) is None
    assert r.whole.separation(GapFacts("X", 0.1, None, False, 10.0)) is None
    assert r.whole.combinations("SRSS", ()) is None
    assert r.ground.damping(0.02) is None
    assert r.ground.floor(r.site) is None


def test_period_by_walls_of_ubc97() -> None:
    b = shear_building([K] * 4, [M] * 4)
    section = ud.Cantilever(modulus=30e9, length=4.0, thickness=0.25)
    lines = [ud.Line(name=f"{d}{i}", at=at, direction=d, bottom="Ground", top="L4",
                     cantilever=section)
             for i, (d, at) in enumerate((("X", (5, 0)), ("X", (5, 6)), ("Y", (0, 3)),
                                          ("Y", (10, 3))))]
    r = run("ubc97", ud.Building(levels=b.levels, lines=lines), system={
        "row": "2.3a", "period_basis": "walls", "computed_period": False})
    area = 2 * 1.0 / 0.3048**2 * (0.2 + (4.0 / 12.0) ** 2)
    assert r.statics["X", "strength"].shear.period == pytest.approx(
        0.1 / np.sqrt(area) * (12 / 0.3048) ** 0.75)


def test_height_limit_of_own_criteria(tmp_path: Path) -> None:
    for height, severity in ((39.9, Severity.OK), (40.1, Severity.EXCEEDED)):
        facts = StructureFacts(height, 10, (height / 10,) * 10, 1e7)
        limits = Room("criteria.toml", {}, {"row": "steel frame"}, facts, OWN).job.systems
        assert [f.severity for f in limits["X"].findings] == [severity]
    free = Room("criteria.toml", {}, {"row": "steel bracing"}, facts, OWN)
    assert not free.job.systems["X"].findings


def test_what_the_standards_say_when_there_is_nothing_to_say() -> None:
    from dataclasses import replace

    from undatum.standards.en1998 import regularity

    late = Room("is1893-2016", ROOMS["is1893-2016"][0], ROOMS["is1893-2016"][1])
    assert late.ground.damping(0.02) is None
    shape = run("en1998").shape
    unknown = replace(shape, radii=np.full_like(shape.radii, np.nan))
    told = [f.text for f in regularity.judge(unknown).findings]
    assert told.count("No torsional radius can be given for these lines.") == 2
    rows = {str(row[0]): row for row in room("en1998").systems_table().rows()}
    assert rows["timber nailed panels"][3:5] == ("–", "5")
    ubc = run("ubc97", system={"regular": False}, irregularities={"in_plane_offset": True})
    assert "special combinations" in found(ubc, "elements under discontinuous systems")[0].text


def test_p_delta_is_left_off_for_small_drift_in_zones_3_and_4() -> None:
    """Heavy and stiff: 0.02/R is 0.00235 for R = 8.5; the same building in zone 2A has no rule."""
    stiff = shear_building([1.2e9] * 3, [2e6] * 3)
    for zone, exempt in (("4", True), ("2A", False)):
        site = {"zone": zone}
        r = run("ubc97", stiff, site=site)
        one = next(c for c in r.stability if c.direction == "X" and c.method == "static")
        ratio = one.drift / (0.7 * 8.5) / one.heights
        assert np.all(ratio <= 0.02 / 8.5)
        assert bool(one.answer.exempt) == exempt
        assert ("it need not be considered" in one.finding().text) == exempt
    soft = run("ubc97", shear_building([3e7] * 3, [2e5] * 3))
    one = next(c for c in soft.stability if c.direction == "X" and c.method == "static")
    ratio = one.drift / (0.7 * 8.5) / one.heights
    assert not one.answer.exempt
    assert ratio.max() > 0.02 / 8.5


def test_gaps_without_a_rule_are_not_passed_over(tmp_path: Path) -> None:
    from undatum.job import run as run_project
    from undatum.project.project_file import validate

    text = (OWN / "criteria.toml").read_text()
    (tmp_path / "criteria.toml").write_text(text.replace('separation = "sum"\n', ""))
    project, _ = validate({
        "title": "t", "standard": "criteria.toml", "site": {}, "units": "N and m",
        "system": {d: {"row": "steel frame"} for d in "XY"},
        "building": shear_building([K] * 2, [M] * 2),
        "gaps": [{"name": "g", "direction": "X", "distance": 0.1}]}, tmp_path)
    assert project is not None
    told = found(run_project(project), "separation")
    assert [f.severity for f in told] == [Severity.WARNING]
    assert "1 gap was not checked" in told[0].text


def test_stated_irregularities_and_their_reason_are_in_the_record() -> None:
    bare = run("asce7-16", irregularities={"in_plane_offset": False})
    item = found(bare, "irregularities stated")[0]
    assert item.severity is Severity.NOTE
    assert "in plane offset: no" in item.text
    why = run("asce7-16", irregularities={"in_plane_offset": False, "reason": "drawing 12"})
    item = found(why, "irregularities stated")[0]
    assert item.severity is Severity.OK
    assert "drawing 12" in item.text
