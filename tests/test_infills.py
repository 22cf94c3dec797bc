"""Struts in place of infills: widths by hand, the structure as with braces of that size."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS, SITE

MASONRY = ud.Material(modulus=4.5e9, poisson=0.2, unit_weight=20e3)
COLUMN = ud.CrossSection(rectangle="300 x 600 mm", material="M30")
BEAM = ud.CrossSection(rectangle="300 x 500 mm", material="M30")


def filled(infill: ud.CrossSection, *rules: ud.MemberRule, **more: Any) -> ud.Building:
    """Two bays of 5 m by one of 4 m, 3.2 m high; infills on A above the lowest story."""
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..3", spacing=[5.0, 5.0]),
                     across_y=ud.AxisFamily(names="A..B", spacing=[4.0])),
        stories=ud.Stories(heights={f"L{i}": 3.2 for i in (1, 2, 3)}, outline="all", floor="all"),
        outlines={"all": ud.Stretch(between=("A1", "B3"))},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=6e3)]},
        materials={"masonry": MASONRY, "light": MASONRY.model_copy(update={"unit_weight": 0.0})},
        sections={"column": COLUMN, "beam": BEAM, "wall": infill},
        members=(ud.MemberRule(columns="all", section="column"),
                 ud.MemberRule(beams="all", section="beam"),
                 ud.MemberRule(braces="on A, 1 at L2..L3", pattern="rising", section="wall"),
                 *rules), **more)


def run(one: ud.Building, key: str = "is1893-2016") -> ud.Results:
    site, system, *_ = ROOMS[key]
    return ud.analyze(title="t", standard=key, building=one, site=site,
                      system=dict.fromkeys("XY", system))


def of(**how: Any) -> ud.CrossSection:
    return ud.CrossSection(infill=ud.Infill(thickness=0.23, **how), material="masonry")


def test_width_by_hand_and_the_structure_with_braces_of_that_width() -> None:
    """IS 1893:2016, 7.9.2.2: 0.175 alpha^-0.4 L, columns 300 along X and 600 along Y."""
    found = run(filled(of(rule="by standard")))
    table = found.to_frame("struts").set_index("brace")
    width = {}
    for bay, run_, across, inertia in (("A 1-2", 5.0, 0.3, 0.6 * 0.3**3 / 12),
                                       ("1 A-B", 4.0, 0.6, 0.3 * 0.6**3 / 12)):
        h, length = 3.2 - 0.5, run_ - across
        angle = np.arctan2(h, length)
        alpha = h * (4.5e9 * 0.23 * np.sin(2 * angle)
                     / (4 * 5000e6 * np.sqrt(30) * inertia * h)) ** 0.25
        width[bay[0]] = 0.175 * alpha**-0.4 * np.hypot(h, length)
        row = table.loc[f"brace {bay} at L2, rising"]
        assert row["width (m)"] == pytest.approx(width[bay[0]], rel=1e-9)
        assert row["clause"] == "IS 1893:2016, 7.9.2.2"
        assert (row["clear height (m)"], row["clear length (m)"]) == pytest.approx((h, length))
    bare = {name: ud.CrossSection(rectangle=(0.23, width[name]), material="light")
            for name in ("A", "1")}
    plain = filled(of(width=0.5))
    by_hand = plain.model_copy(update={
        "sections": {**plain.sections, "on A": bare["A"], "on 1": bare["1"]},
        "members": (*plain.members[:2], *(
            ud.MemberRule(braces=f"on {a} at L2..L3", pattern="rising", section=f"on {a}")
            for a in ("A", "1")))})
    other = run(by_hand)
    assert found.modes.periods == pytest.approx(other.modes.periods, rel=1e-9)
    assert found.weights.total == pytest.approx(other.weights.total)  # infills are loads
    forces = [r.read("forces", "brace A 1-2 at L2, rising", "spectrum X, strength").values
              for r in (found, other)]
    assert forces[0] == pytest.approx(forces[1], rel=1e-6, abs=1.0)
    soft = [f for f in found.findings if f.check == "soft story"]
    assert "story L1" in soft[0].where


def test_infills_are_no_part_of_the_lateral_system() -> None:
    """No offset where they begin, no bays and no removal of theirs, frames take all of the shear;
    braces of the same size in the same places are all that."""
    def job(section: ud.CrossSection) -> ud.Job:
        system = {d: {"row": "C.5", "redundancy": 1.0, "redundancy_reason": "r"} for d in "XY"}
        return ud.calculate(ud.make_project(title="t", standard="asce7-16", site=SITE,
                                            building=filled(section), system=system))

    masonry = job(of(width=0.6))
    braces = job(ud.CrossSection(rectangle=(0.23, 0.6), material="light"))
    for one, there in ((masonry, False), (braces, True)):
        offsets = [f for f in one.findings if f.check == "out-of-plane offset"]
        assert ("Nothing continues below" in offsets[0].text) is there
        kinds = {r.kind for r in one.facts.removals["X"] or ()}
        assert ("brace" in kinds) is there
        assert "beam" in kinds
        assert one.facts.taken["X"].frames == pytest.approx(1.0)  # none in the lowest story
        assert any("soft story" in f.check and "L1" in f.where for f in one.findings)
    # the first bays of masonry count as frames: two beams on A
    assert {s.low for s in masonry.facts.bays["X"]} == {2.0}
    assert masonry.modes.periods == pytest.approx(braces.modes.periods)


def test_widths_as_given() -> None:
    share = run(filled(of(share="10 %"))).to_frame("struts")
    assert share["width (m)"].tolist() == pytest.approx(
        [0.1 * np.hypot(2.7, 4.7)] * 4 + [0.1 * np.hypot(2.7, 3.4)] * 2)
    own = run(filled(of(rule="IS 1893:2016"), strut_widths={"brace A 1-2 at L2, rising": 0.4}))
    table = own.to_frame("struts").set_index("brace")
    assert table["width (m)"]["brace A 1-2 at L2, rising"] == 0.4
    assert table["width (m)"]["brace A 2-3 at L2, rising"] != 0.4
    # the same by any name of the standard
    assert table["width (m)"]["brace A 2-3 at L2, rising"] == pytest.approx(
        run(filled(of(rule="by standard"))).to_frame("struts").set_index("brace")[
            "width (m)"]["brace A 2-3 at L2, rising"])


def test_what_is_no_infill_is_refused() -> None:
    with pytest.raises(ud.InputError, match="no rule for the width of struts"):
        run(filled(of(rule="by standard")), "en1998")
    with pytest.raises(ud.InputError, match=r"is no brace[\s\S]*give braces in its bay"):
        filled(of(width=0.5), ud.MemberRule(beams="on B", section="wall"))
    with pytest.raises(ud.InputError, match="one strut a bay"):
        filled(of(width=0.5), ud.MemberRule(braces="on B", pattern="X", section="wall"))
    with pytest.raises(ud.InputError, match="strut_widths"):
        filled(of(width=0.5), strut_widths={"brace B 1-2 at L2, rising": 0.4})
    for wrong in ({}, {"width": 0.5, "share": 0.1}):
        with pytest.raises(ud.InputError, match="give one of width, share and rule"):
            of(**wrong)
