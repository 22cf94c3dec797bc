"""Slips that no single value shows: each is asked about, and a sound building is not."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import analyze
from undatum.finding import Finding
from undatum.stages.odd_members import odd_members
from undatum.units import SI


def building(
    rules: tuple[ud.MemberRule, ...], at: tuple[float, ...] = (0.0, 6.0, 12.0), **sizes: Any
) -> ud.Building:
    """Two floors on columns and beams, with more rules or another section."""
    section = ud.CrossSection(**{"rectangle": (0.4, 0.6), "material": "C30/37", **sizes})
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names=[str(k) for k in range(len(at))], at=at),
                     across_y=ud.AxisFamily(names="A..C", at=[0, 5, 10])),
        stories=ud.Stories(heights={"L1": 3.5, "L2": 3.5}, outline="all", floor="all"),
        outlines={"all": ud.Stretch(between=("A0", f"C{len(at) - 1}"))},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=5e3)]},
        sections={"any": section},
        members=(ud.MemberRule(columns="all", section="any"),
                 ud.MemberRule(beams="all", section="any"), *rules))


def asked(*rules: ud.MemberRule, **more: Any) -> list[Finding]:
    """What is asked of it."""
    return odd_members(building(rules, **more), SI)


def test_a_sound_building_is_not_asked() -> None:
    """Beams off the axes and crossing braces are sound too."""
    assert asked(ud.MemberRule(beams="at L1", line=("A0", "B1"), section="any"),
                 ud.MemberRule(braces="on A between 0 and 1", section="any", pattern="X")) == []


@pytest.mark.parametrize(("bending", "ratio"), [(1.0, 100.0), (1e-12, 1e-4)])
def test_area_and_second_moment_of_two_units(bending: float, ratio: float) -> None:
    own = ud.GivenProperties(area=1e-4, bending_y=bending, bending_z=1e-10,
                             torsion=1e-6)
    found = asked(rectangle=None, properties=own)
    assert [f.check for f in found] == ["plausible section"]
    assert found[0].demand == pytest.approx((bending / 1e-4) ** 0.5)
    assert found[0].demand == pytest.approx(ratio)


def test_beams_far_from_their_nodes() -> None:
    found = asked(ud.MemberRule(beams="on A", section="any", shifted=(3.0, -4.0)))
    assert [(f.check, f.demand) for f in found] == [("shifted members", 5.0)]
    assert "A" in found[0].where


@pytest.mark.parametrize(("gap", "named"), [(0.02, True), (0.05, True), (0.06, False)])
def test_columns_a_hand_apart(gap: float, named: bool) -> None:
    found = asked(at=(0.0, 6.0, 6.0 + gap, 12.0))
    assert ("columns side by side" in [f.check for f in found]) is named
    if named:
        assert found[0].demand == pytest.approx(gap)
        assert "B1" in found[0].where
        assert "B2" in found[0].where
        assert "B0" not in found[0].where


@pytest.mark.parametrize("turned", [0.0, "90 deg", "30 deg"])
def test_a_foot_hinged_twice_is_a_foot_hinged_once(turned: float | str) -> None:
    """Pinned, hinged, or both: the same periods and reactions, and the joint is named."""
    def run(*, pinned: bool, hinged: bool) -> ud.Results:
        foot = ud.MemberRule(columns="B1 at L1", section="any", turned=turned,
                             hinged="start" if hinged else None)
        whole = building((foot,)).model_copy(update={
            "supports": (ud.Support(at="B1", hold="pinned"),) if pinned else ()})
        return analyze(whole)

    once, other, twice = run(pinned=True, hinged=False), run(pinned=False, hinged=True), run(
        pinned=True, hinged=True)
    for one in (other, twice):
        assert one.modes.periods == pytest.approx(once.modes.periods, rel=1e-10)
        a, b = (r.read("reactions").table().to_frame(SI)
                .select_dtypes("number").fillna(0.0).to_numpy()
                for r in (one, once))
        np.testing.assert_allclose(a, b, atol=1e-8 * np.abs(b).max())
    named = [[f.where for f in r.findings if f.check == "joints that turn freely"]
             for r in (once, other, twice)]
    assert named == [[], [], ["column B1 at L1"]]
