"""UBC 1997: combined systems, zones that bar a system, near-source cap, redundancy from lines."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import analyze, shear_building
from undatum.finding import Finding, Severity
from undatum.results.results import Results

FT = 0.3048
SITE: dict[str, Any] = {"zone": "3", "soil": "SD", "occupancy_category": "standard"}
NEAR: dict[str, Any] = {"zone": "4", "source_type": "A", "source_distance": "3 km"}


def run(x: dict[str, Any], y: dict[str, Any] | None = None,
        building: ud.Building | None = None, **more: Any) -> Results:
    systems = {"X": {"regular": True, **x}, "Y": {"regular": True, **(y or x)}}
    return analyze(building or shear_building([6e7] * 4, [2e5] * 4), standard="ubc97",
                   site={**SITE, **more.pop("site", {})}, system=systems, **more)


def of(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


@pytest.mark.parametrize(("zone", "r"), [("3", 4.5), ("4", 4.5), ("2B", 8.5)])
def test_bearing_walls_in_one_direction_cap_r_in_the_other(zone: str, r: float) -> None:
    """1630.4.3: concrete bearing walls (R 4.5) along X, special frames (8.5) along Y."""
    site = {**(NEAR if zone == "4" else {}), "zone": zone}
    found = run({"row": "1.2a"}, {"row": "3.1a"}, site=site)
    assert found.laterals["X"].force_divisor == 4.5
    assert found.laterals["Y"].force_divisor == r
    assert found.laterals["Y"].drift_factor == pytest.approx(0.7 * r)
    turned = run({"row": "3.1a"}, {"row": "1.2a"}, site=site)
    assert turned.laterals["X"].force_divisor == r
    frames = run({"row": "2.3a"}, {"row": "3.1a"}, site=site)  # building frame: no bearing walls
    assert frames.laterals["Y"].force_divisor == 8.5


def test_systems_in_one_direction_take_the_least_r() -> None:
    found = run({"row": "3.1a", "with_rows": ["2.5a"]}, {"row": "3.1a"})
    assert found.laterals["X"].force_divisor == 6.4
    assert found.laterals["Y"].force_divisor == 8.5
    assert len([f for f in of(found, "height limit") if f.where == "system X"]) == 2
    with pytest.raises(ud.InputError, match=r"9\.9"):
        run({"row": "3.1a", "with_rows": ["9.9"]})


@pytest.mark.parametrize(("row", "zone", "barred"), [
    ("3.4b", "1", False), ("3.4b", "2A", True), ("3.4b", "2B", True), ("3.4b", "3", True),
    ("3.3", "2B", False), ("3.3", "3", True), ("1.4b", "3", True), ("6", "3", True),
    ("6", "2B", False), ("4.1c", "3", True), ("3.1a", "3", False)])
def test_systems_barred_by_zone_are_exceeded(row: str, zone: str, barred: bool) -> None:
    found = of(run({"row": row}, site={"zone": zone}), "height limit")
    assert {f.severity for f in found} == {Severity.EXCEEDED if barred else Severity.OK}
    assert all("not permitted in zone" in f.text for f in found) is barred


@pytest.mark.parametrize(("more", "words"), [
    ({}, ""), ({"soil": "SE"}, "soil SE"), ({"r_max": 1.0, "plan": (60.0, 40.0)}, "rho is above"),
    ({"row": "3.4a"}, "not special"), ({"shares": (0.9, 0.1)}, "plan type 1")])
def test_the_near_source_cap_needs_its_conditions(more: dict[str, Any], words: str) -> None:
    more = dict(more)
    shares = more.pop("shares", (0.5, 0.5))
    plan = more.pop("plan", (10.0, 6.0))
    b = shear_building([6e7] * 4, [2e5] * 4, plan=plan,
                       lines_x=[(0.0, shares[0]), (plan[1], shares[1])],
                       lines_y=[(0.3 * plan[0], 0.5), (0.7 * plan[0], 0.5)]
                       if shares[0] > 0.5 else None)
    site = {**NEAR, "near_source_cap": True, "soil": more.pop("soil", "SD")}
    frame = {"row": "3.1a", "r_max": 0.2, **more}
    found = of(run(frame, building=b, site=site), "cap on the near-source factor")
    assert len(found) == 1
    assert (found[0].severity is Severity.EXCEEDED) is bool(words)
    assert words in found[0].text
    assert not of(run(frame, building=b, site={**site, "near_source_cap": False}),
                  "cap on the near-source factor")


def test_r_max_from_the_line_shears_by_hand() -> None:
    """Four walls of 3 m and 6 m along X and frames along Y, in a plan of 40 m by 30 m."""
    a, b = 40.0, 30.0
    base = shear_building([4e8] * 3, [4e5] * 3, plan=(a, b),
                          lines_y=[(0.0, 0.3), (a / 2, 0.4), (a, 0.3)])
    section = {n: ud.Cantilever(modulus=30e9, length=n, thickness=0.3) for n in (3.0, 6.0)}
    walls = [ud.Line(name=f"W{i}", at=(10.0, y), direction="X", bottom="Ground", top="L3",
                     cantilever=section[n])
             for i, (y, n) in enumerate([(0.0, 6.0), (0.0, 3.0), (b, 6.0), (b, 3.0)])]
    building = base.model_copy(update={"lines": [
        *walls, *(x for x in base.lines if x.name.startswith("Y"))]})
    r = run({"row": "1.2a"}, {"row": "3.1a"}, building=building)
    # Along Y the frames keep their shares up the height: 0.3, 0.4, 0.3 of the shear, and the
    # torsion of 5 % shared with the walls; the outer ones take the most of it, the middle one none.
    found = {e.line: e.share for e in ud.calculate(r.project).facts.elements["Y"]}
    assert found["Y1"] == pytest.approx(0.4, rel=1e-6)
    assert found["Y0"] == pytest.approx(found["Y2"], rel=1e-6)
    assert 0.3 < found["Y0"] < 0.36
    area = a * b / FT**2
    share = max(found.values())
    hand = min(max(2 - 20 / (share * np.sqrt(area)), 1.0), 1.5)
    assert r.section("system", "Y")["r_max"].value == pytest.approx(share)
    assert r.laterals["Y"].redundancy == pytest.approx(hand)
    # Along X: a 6 m wall takes most; its ratio is its share times 10 over its length in ft.
    own = ud.calculate(r.project).facts.elements["X"]
    ratios = [e.share * 10 / (e.length / FT) for e in own]
    assert r.section("system", "X")["r_max"].value == pytest.approx(max(ratios))
    assert {e.story for e in own} == {"L1", "L2"}  # the lower two thirds
    assert r.laterals["X"].redundancy == pytest.approx(
        min(max(2 - 20 / (max(ratios) * np.sqrt(area)), 1.0), 1.5))
    stated = run({"row": "1.2a", "r_max": 0.9}, {"row": "3.1a"}, building=building)
    assert stated.laterals["X"].redundancy == pytest.approx(
        min(2 - 20 / (0.9 * np.sqrt(area)), 1.5))


def test_shares_of_one_story_add_up_without_torsion() -> None:
    r = run({"row": "3.1a"}, building=shear_building([6e7] * 3, [2e5] * 3))
    for own in ud.calculate(r.project).facts.elements.values():
        for story in {e.story for e in own}:
            shares = [e.share for e in own if e.story == story]
            assert sum(shares) >= 1.0 - 1e-9  # each with the sign that makes it larger
            assert len(shares) == 2


def test_an_irregularity_found_decides_on_the_procedure() -> None:
    """Stated regular, 183 ft: permitted; with a soft story found it is irregular and not."""
    k = [6e8] * 14
    tall = run({"row": "3.1a", "r_max": 0.2}, building=shear_building(k, [2e5] * 14, height=4.0))
    assert of(tall, "static procedure")[0].severity is Severity.OK
    soft = run({"row": "3.1a", "r_max": 0.2},
               building=shear_building([*k[:-1], 2.4e8], [2e5] * 14, height=4.0))
    assert of(soft, "static procedure")[0].severity is Severity.NOTE
    assert soft.drift.barred == (True, True)
