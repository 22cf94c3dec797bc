"""Single actions that the ends of members don't pass on."""

from __future__ import annotations

import numpy as np
import pytest

import undatum as ud
from test_cases import forces
from test_frames import BAY, HEIGHT, NU, E, building, model_of, slender, sway_stiffness
from undatum.mechanics.elements import released, timoshenko

STIFF = slender(1e4, other=1e4)


@pytest.mark.parametrize("turned", [0.0, np.pi / 2])
def test_a_column_released_about_one_axis_sways_freely_one_way(turned: float) -> None:
    """3 EI / h^3 a column along what turns about local y, 12 EI / h^3 along the other."""
    inertia = 2e-3
    model = model_of(building(slender(inertia), STIFF, rules=(ud.MemberRule(
        columns="all", turned=turned, released=ud.Releases(end=["moment_y"])),)))
    one = E * inertia / HEIGHT**3
    soft, hard = ("Y", "X") if not turned else ("X", "Y")
    assert sway_stiffness(model, soft) == pytest.approx(4 * 3 * one, rel=1e-3)
    assert sway_stiffness(model, hard) == pytest.approx(4 * 12 * one, rel=1e-3)


def test_both_moments_released_are_a_hinge() -> None:
    given = [building(slender(2e-3), slender(3e-3), rules=(rule,)) for rule in (
        ud.MemberRule(beams="on A", hinged="start"),
        ud.MemberRule(beams="on A", released=ud.Releases(start=["moment_y", "moment_z"])))]
    a, b = (model_of(one).stiffness.toarray() for one in given)
    assert a == pytest.approx(b, rel=1e-12)
    frames = [one.frame for one in given]
    assert frames[0] is not None
    assert frames[1] is not None
    assert np.array_equal(frames[0].hinged, frames[1].hinged)


def test_columns_released_in_torsion_twist_without_g_j() -> None:
    model = model_of(building(slender(2e-3, torsion=3e-3), STIFF, rules=(
        ud.MemberRule(columns="all", released=ud.Releases(start=["torsion"])),)))
    plain = model_of(building(slender(2e-3, torsion=3e-3), STIFF))
    lost = plain.stiffness.toarray()[2, 2] - model.stiffness.toarray()[2, 2]
    assert lost == pytest.approx(4 * E / 2 / (1 + NU) * 3e-3 / HEIGHT, rel=1e-6)


@pytest.mark.parametrize(("start", "end"), [((), ("shear_z",)), (("shear_z",), ())])
def test_a_beam_released_in_shear_hangs_from_its_other_end(
    start: tuple[str, ...], end: tuple[str, ...]
) -> None:
    """Clamped and guided: w L^2 / 3 and - w L^2 / 6, no shear at the guided end."""
    w = 1e4
    columns = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=1e6, bending_z=1e6, torsion=1e6))
    one = building(columns, slender(1e-12, other=2e-3), rules=(ud.MemberRule(
        beams="on A", released=ud.Releases(start=start, end=end)),), cases=(  # type: ignore[arg-type]
        ud.LoadCase(name="w", on_members=[ud.OnMembers(on="beam A 1-2 at L1", per_length=w)]),))
    moments = forces(one, "beam A 1-2 at L1", "w", "moment_y (N·m)", 0, 1)
    shears = forces(one, "beam A 1-2 at L1", "w", "shear_z (N)", 0, 1)
    clamped, guided = (0, 1) if end else (1, 0)
    assert abs(moments[clamped]) == pytest.approx(w * BAY**2 / 3, rel=1e-3)
    assert abs(moments[guided]) == pytest.approx(w * BAY**2 / 6, rel=1e-3)
    assert np.sign(moments[clamped]) == -np.sign(moments[guided])
    assert abs(shears[clamped]) == pytest.approx(w * BAY, rel=1e-6)
    assert shears[guided] == pytest.approx(0.0, abs=1e-6 * w * BAY)


def test_a_brace_that_slides_resists_nothing() -> None:
    brace = ud.MemberRule(braces="on A, B between 1 and 2", pattern="rising", section="beam")
    slides = ud.MemberRule(braces="on A, B between 1 and 2", released=ud.Releases(end=["axial"]))
    bare, braced, loose = (sway_stiffness(model_of(building(
        slender(2e-3), slender(2e-3), rules=rules))) for rules in ((), (brace,), (brace, slides)))
    assert braced > 100 * bare
    assert loose == pytest.approx(bare, rel=1e-9)


@pytest.mark.parametrize(("about_z", "about_y"), [(2e-3, 2e-2), (2e-2, 2e-3)])
def test_pressed_columns_free_to_turn_above_buckle_as_flagpoles(
    about_z: float, about_y: float
) -> None:
    """pi^2 E I / (2 h)^2 a column, about whichever axis is the weaker."""
    r = ud.run(ud.make_project(
        title="frame", standard="asce7-16", results_in="kN and m",
        site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "C.5"}, "Y": {"row": "C.5"}},
        analysis={"second_order": "by axial force"},
        building=building(slender(about_z, other=about_y), STIFF, rules=(ud.MemberRule(
            columns="all", released=ud.Releases(end=["moment_y", "moment_z"])),)).model_copy(
                update={"floors": {"all": [ud.Load(name="slab", kind="dead", per_area=1e5)]}})))
    assert r.model.second_order is not None
    poles = 4 * np.pi**2 * E * 2e-3 / (4 * HEIGHT**2)
    assert r.model.second_order.buckling == pytest.approx(poles / r.weights.gravity[0], rel=1e-3)
    assert "released" in [c.name for c in r.table("members").columns]


def test_the_end_of_a_divided_beam_is_that_of_its_last_part() -> None:
    """A secondary beam lands in the middle: the parts meet there with all their actions."""
    one = building(slender(2e-3), slender(3e-3), rules=(
        ud.MemberRule(beams="at L1", line=((BAY / 2, 0.0), (BAY / 2, 5.0)), section="beam"),
        ud.MemberRule(beams="on A", released=ud.Releases(start=["moment_z"], end=["torsion"]))))
    assert one.frame is not None
    beam = next(m for m in one.frame.members if m.name == "beam A 1-2 at L1")
    assert len(beam.elements) == 2
    first, last = (np.flatnonzero(one.frame.released[e]).tolist() for e in beam.elements)
    assert (first, last) == ([5], [9])


@pytest.mark.parametrize(("rule", "said"), [
    ({"released": {"start": ["torsion"], "end": ["torsion"]}}, "released in torsion at both ends"),
    ({"released": {"start": ["axial"], "end": ["axial"]}}, "released in axial at both ends"),
    ({"released": {}}, "nothing is released; choose from: axial, shear_y"),
    ({"released": {"start": ["moment"]}}, "moment_y"),
    ({"hinged": "both", "released": {"end": ["shear_z"]}}, "moves freely along z"),
    ({"released": {"start": ["moment_z", "shear_y"], "end": ["moment_z"]}},
     "'beam 1 A-B at L1' moves freely along y"),
])
def test_releases_that_leave_nothing_are_refused(rule: dict[str, object], said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        building(slender(2e-3), slender(2e-3), rules=(
            ud.MemberRule(beams="on 1", **rule),))  # type: ignore[arg-type]


def test_what_is_released_has_no_stiffness_at_all() -> None:
    """Rows and columns of released freedoms are zero to the last digit, not to round-off."""
    k = timoshenko(*(np.array([v]) for v in (1e9, 3e7, 2e7, 5e6, 4e8, 4e8)), np.array([3.7]))
    for own in ([5], [4, 10], [3, 5, 11], [0, 4, 5]):
        free = np.zeros((1, 12), dtype=bool)
        free[0, own] = True
        found = released(k, free)[0]
        assert np.all(found[own] == 0)
        assert np.all(found[:, own] == 0)
        # by a second method: springs of next to nothing in series
        rest = np.setdiff1d(np.arange(12), own)
        condensed = k[0][np.ix_(rest, rest)] - k[0][np.ix_(rest, own)] @ np.linalg.inv(
            k[0][np.ix_(own, own)]) @ k[0][np.ix_(own, rest)]
        assert found[np.ix_(rest, rest)] == pytest.approx(condensed, abs=1e-6 * k.max())
