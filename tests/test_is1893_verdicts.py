"""IS 1893: torsion, displacements, vertical motion, barred systems, offsets and open stories."""

from __future__ import annotations

import numpy as np
import pytest

import undatum as ud
from conftest import Room, shear_building, site_of
from test_is1893 import EDITIONS, FRAME, SITE, run
from undatum.finding import Finding, Severity
from undatum.results.results import Results
from undatum.standards.facts import TorsionFacts


def of(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


@pytest.mark.parametrize("edition", EDITIONS)
def test_torsion_is_judged_with_the_design_eccentricity(edition: str) -> None:
    """One story: 1.5 e_s + 0.05 b about the center of rigidity, the ends by hand."""
    k, b = 4e7, 10.0
    r = run(edition, shear_building([k], [4e5], lines_y=[(0.0, 0.4), (b, 0.6)]))
    e = 1.5 * (5.0 - 6.0) - 0.05 * b  # towards the softer side
    polar = 0.4 * 6.0**2 + 0.6 * 4.0**2 + 0.25 * 6.0**2
    ends = [1 + e / polar * (x - 6.0) for x in (0.0, b)]
    assert max(ends) / np.mean(ends) == pytest.approx(
        np.nanmax(r.torsion["Y"].facts.drift_ratios))
    ratio = max(ends) / np.mean(ends) if edition == "2002" else max(ends) / min(ends)
    found = of(r, "torsional irregularity")[1]
    assert found.demand == pytest.approx(ratio)


def test_2016_reads_displacements_of_the_ends_and_2002_drifts() -> None:
    """A floor that has moved evenly below and twists in its own story only."""
    drifts = np.array([[[1.6, 1.0], [0.4, 1.0]]] * 2)  # sign, end, story
    moves = np.array([[[2.6, 1.0], [1.4, 1.0]]] * 2)
    facts = TorsionFacts(("2", "1"), drifts, moves, np.array([True, True]))
    late = Room("is1893-2016", SITE, FRAME).forces.torsion("X", facts).finding
    assert late.demand == pytest.approx(2.6 / 1.4)
    assert late.severity is Severity.WARNING
    early = Room("is1893-2002", SITE, FRAME).forces.torsion("X", facts).finding
    assert early.demand == pytest.approx(1.6)


def test_2002_displacements_take_the_computed_period_without_the_bound() -> None:
    r = run("2002", shear_building([2e7] * 5, [2e5] * 5))
    t = r.modes.periods[r.modes.governing(0)]
    drift, strength = (r.statics["X", s].shear for s in ("drift", "strength"))
    assert drift.period == pytest.approx(t)
    assert strength.period == pytest.approx(0.075 * 15.0**0.75)
    weight = 5 * 2e5 * 9.80665
    assert drift.base_shear == pytest.approx(0.24 / 2 * (1.36 / t) / 5 * weight)
    factor = {s.state.key: s.answer.factor for s in r.scaling if s.direction == "X"}
    assert factor["drift"] == 1.0
    assert factor["strength"] > 1.0
    late = run("2016", shear_building([2e7] * 5, [2e5] * 5))
    assert late.statics["X", "drift"].shear.period == pytest.approx(0.075 * 15.0**0.75)


def test_the_printed_vertical_value_holds_the_damping_factor() -> None:
    """2002, 2 %: two thirds of 2.5 Z/2 times 1.4, the plateau of the curve itself."""
    r = ud.site_spectra(standard="is1893-2002", site={**SITE, "damping": 0.02})
    value = next(s for w in r.working for s in w if s.symbol == "A_v0").value
    assert value == pytest.approx(2 / 3 * 0.12 * 2.5 * 1.4)
    assert float(r.shaking.vertical(0.3)) == pytest.approx(value * 9.80665)  # type: ignore


@pytest.mark.parametrize(("zone", "soil", "twisted", "asked"), [
    ("IV", "I", False, True), ("V", "I", False, True), ("III", "III", False, True),
    ("III", "II", True, True), ("III", "II", False, False), ("II", "I", False, False)])
def test_vertical_motion_where_it_is_mandatory(
    zone: str, soil: str, twisted: bool, asked: bool
) -> None:
    lines = [(0.0, 0.85), (6.0, 0.15)] if twisted else None
    b = shear_building([1.2e8] * 5, [2e5] * 5, lines_x=lines)
    r = run("2016", b, site={"zone": zone, "soil": soil})
    assert r.combinations is not None
    assert any(c.vertical for c in r.combinations.rows) is asked
    assert ("Required here" in of(r, "vertical motion")[0].text) is asked
    assert not any(c.vertical for c in run("2002", b, site={"zone": zone, "soil": soil})
                   .combinations.rows)  # type: ignore[union-attr]


@pytest.mark.parametrize("row", ["RC OMRF", "steel OMRF", "ordinary RC walls"])
@pytest.mark.parametrize(("zone", "severity"), [
    ("II", Severity.OK), ("III", Severity.EXCEEDED), ("V", Severity.EXCEEDED)])
def test_ordinary_systems_are_for_zone_ii(row: str, zone: str, severity: Severity) -> None:
    r = run("2016", frame={"row": row}, site={"zone": zone})
    assert {f.severity for f in of(r, "ordinary system")} == {severity}


@pytest.mark.parametrize(("edition", "zone", "what", "limit"), [
    ("2016", "III", "out_of_plane_offset", 0.002), ("2016", "V", "out_of_plane_offset", 0.002),
    ("2016", "II", "out_of_plane_offset", 0.004), ("2016", "II", "in_plane_offset", 0.002),
    ("2016", "IV", "in_plane_offset", 0.004), ("2002", "V", "out_of_plane_offset", 0.004)])
def test_offsets_halve_the_drift(edition: str, zone: str, what: str, limit: float) -> None:
    r = run(edition, site={"zone": zone}, irregularities={what: True})
    assert r.drift.limits[0] == pytest.approx(limit)
    barred = edition == "2016" and what == "in_plane_offset" and zone != "II"
    assert any(f.severity is Severity.EXCEEDED and "Not permitted in zone" in f.text
               for f in of(r, "in-plane discontinuity")) is barred


@pytest.mark.parametrize(("edition", "ratio", "words"), [
    ("2016", 0.75, "80 % of the stiffness"), ("2016", 0.85, ""), ("2002", 0.75, ""),
    ("2002", 0.6, "2.5 times the story shears")])
def test_an_open_story_has_its_consequence(edition: str, ratio: float, words: str) -> None:
    k = 1.2e8
    r = run(edition, shear_building([k, k, k, k, ratio * k], [2e5] * 5))
    found = of(r, "open story")
    assert bool(found) is bool(words)
    assert all(words in f.text and "story L1" in f.where for f in found)


def test_importance_is_asked_for_by_use() -> None:
    plain = {"zone": "III", "soil": "I"}
    for use, factor in (("important", 1.5), ("crowded", 1.2), ("other", 1.0)):
        found = site_of("is1893-2016", **plain, use=use)
        assert found.importance == factor
        assert not any(f.check == "importance" for f in found.findings)
    assert site_of("is1893-2002", **plain, use="important").importance == 1.5
    stated = site_of("is1893-2016", **plain, importance_factor="1.2")
    assert any(f.check == "importance" for f in stated.findings)
    assert any(f.check == "amendments" for f in stated.findings)
    with pytest.raises(ud.InputError, match=r"below 1\.5"):
        site_of("is1893-2016", **plain, use="important", importance_factor="1.2")
    with pytest.raises(ud.InputError, match="use of the building"):
        site_of("is1893-2016", **plain)
