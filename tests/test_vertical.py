"""Mass that moves up and down, and the response to vertical ground motion."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import OWN, ROOMS, frame_of
from test_frames import HEIGHT, SITE, SYSTEM, E, building, model_of, slender
from test_gravity import SHORT
from undatum.mechanics.actions import REACTIONS, reactions
from undatum.mechanics.model import SHAKEN

G = 9.80665
BAY = 6.0
AREA = 0.12


def judged(one: ud.Building, key: str = "en1998", **more: Any) -> ud.Results:
    site, system, *_ = ROOMS[key]
    return ud.analyze(title="frame", standard=key, results_in="N and m", site=site, folder=OWN,
                      system={"X": system, "Y": system}, building=one, **more)


def posts(stories: int) -> ud.Building:
    """Four columns that share the floors alike, the beams too weak to tie them up and down."""
    column = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=AREA, bending_y=4e-3, bending_z=4e-3, torsion=1e-9))
    one = building(column, slender(1e-9, other=1e-9), stories=stories)
    return one.model_copy(update={"vertical_mass": True, "floors": {"all": [
        ud.Load(name="slab", kind="dead", per_area=6e3, path="columns")]}})


@pytest.mark.parametrize("stories", [1, 2, 5])
def test_posts_are_rods_of_equal_masses(stories: int) -> None:
    """omega_k = 2 sqrt(E A / (h m)) sin((2 k - 1) pi / (4 n + 2)), each four times."""
    r = judged(posts(stories))
    mass = 6e3 * BAY * SHORT / 4 / G
    k = np.arange(1, stories + 1)
    exact = 2 * np.sqrt(E * AREA / HEIGHT / mass) * np.sin((2 * k - 1) * np.pi / (4 * stories + 2))
    upright = [i for i, kind in enumerate(r.modes.kinds) if kind == "up and down"]
    assert len(upright) == 4 * stories
    assert np.sort(r.modes.omega[upright]) == pytest.approx(np.repeat(exact, 4), rel=1e-6)
    assert r.modes.total_mass[SHAKEN.index("Z")] == pytest.approx(4 * stories * mass, rel=1e-9)
    assert r.modes.effective_mass.sum(axis=0) == pytest.approx(r.modes.total_mass, rel=1e-9)


def test_one_post_by_hand() -> None:
    """One story: all of the mass in one mode, its force that of the vertical spectrum."""
    r = judged(posts(1), analysis={"vertical_spectrum": True, "vertical_divisor": 1.5})
    mass = 6e3 * BAY * SHORT / G
    period = 2 * np.pi * np.sqrt(mass / 4 / (E * AREA / HEIGHT))
    assert r.shaking.vertical is not None
    force = mass * float(r.shaking.vertical(period)) / 1.5
    row = r.to_frame("vertical_response").iloc[0]
    assert row["vertical force (N)"] == pytest.approx(force, rel=1e-6)
    assert row["over the weight"] == pytest.approx(force / (mass * G), rel=1e-6)
    feet = r.to_frame("reactions")
    own = feet[feet.set == "spectrum Z, strength"]
    assert own["force Z (N)"].to_numpy() == pytest.approx([force / 4] * 4 + [force], rel=1e-6)
    said = next(f for f in r.findings if f.check == "vertical ground motion")
    assert f"{force / mass / G:.3f} times" in said.text
    assert "divided by 1.5" in said.text


def test_a_published_frame_of_ten_bays_and_nine_stories() -> None:
    """The three lowest eigenvalues of a plane frame with lumped masses.

    Source: Bathe and Wilson, Large eigenvalue problems in dynamic analysis, J. Eng. Mech. Div.
    ASCE 98 (1972), 1471-1485: bays of 20, stories of 10, E = 432 000, A = 3, I = 1, unit density.
    """
    size = 1e5  # of the modulus, so that it is one of a material
    one = ud.Building(
        plane="X", vertical_mass=True, diaphragms={"L1..L9": "none"},
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..11", spacing=(20.0,) * 10),
                     across_y=ud.AxisFamily(names=["A"], at=(0.0,))),
        stories=ud.Stories(heights={"L1..L9": 10.0}, outline="all"),
        outlines={"all": ud.Outline(points=[(0, -1), (200, -1), (200, 1), (0, 1)])},
        materials={"unit": ud.Material(modulus=432e3 * size, poisson=0.25, unit_weight=G)},
        sections={"one": ud.CrossSection(material="unit", properties=ud.GivenProperties(
            area=3.0, bending_y=1.0, bending_z=1.0, torsion=1.0))},
        members=(ud.MemberRule(columns="all", section="one", shear_deformation=False),
                 ud.MemberRule(beams="all", section="one", shear_deformation=False)))
    project = ud.make_project(title="frame", site=ROOMS["asce7-16"][0], building=one,
                            system={"X": {"row": "C.1"}})
    omega = ud.calculate(project).modes.omega
    assert omega[:3] ** 2 / size == pytest.approx([0.589541, 5.52695, 16.5878], rel=5e-6)


def test_modal_overturning_is_what_the_feet_resist() -> None:
    """Forces up and down turn the building over too: moment by moment, mode by mode."""
    r = judged(building(ud.CrossSection(material="stuff", rectangle=(0.4, 0.5)),
                        ud.CrossSection(material="stuff", rectangle=(0.3, 0.5)), stories=3,
                        x=(4.0, 6.0), vertical_mass=True),
               analysis={"vertical_spectrum": True})
    assert r.vertical is not None
    for one in (*r.spectrum_sets, r.vertical):
        feet = one.modal_values(reactions(r.model)).reshape(-1, len(REACTIONS),
                                                            one.modal.shape[1])
        at = r.model.framed.frame.points[r.model.framed.frame.supports]  # type: ignore[union-attr]
        base = r.model.levels[-1]
        center = r.model.diaphragms.centers[-1]
        for axis, d in enumerate("XY"):
            cut = one.modal_values(r.model.quantities["overturning moment"].where(
                component=d, story=base))[0]
            sheared = one.modal_values(r.model.quantities["story shear"].where(
                component=d, story=base))[0]
            assert feet[:, axis].sum(axis=0) == pytest.approx(
                -sheared, abs=1e-8 * np.abs(feet).max())
            arm = at[:, axis] - center[axis]
            own = feet[:, 4 - axis].sum(axis=0) * (1 if axis == 0 else -1)
            held = own - (arm[:, None] * feet[:, 2]).sum(axis=0)
            assert cut == pytest.approx(-held, rel=1e-6, abs=1e-8 * np.abs(feet).max())
        lifted = one.modal_values(r.model.quantities["vertical force"].where(story=base))[0]
        assert feet[:, 2].sum(axis=0) == pytest.approx(-lifted, abs=1e-8 * np.abs(feet).max())


def test_vertical_mass_moves_nothing_where_members_are_rigid_up_and_down() -> None:
    rigid = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=2e-3, bending_z=2e-3, torsion=1e-9))
    plain = building(rigid, slender(1e3, other=1e3), stories=2)
    lifted = judged(plain.model_copy(update={"vertical_mass": True}))
    own = [i for i, kind in enumerate(lifted.modes.kinds) if kind != "up and down"]
    assert lifted.modes.periods[own[:4]] == pytest.approx(judged(plain).modes.periods[:4], rel=1e-4)


@pytest.mark.parametrize(("key", "how"), [
    ("en1998", "SRSS"), ("en1998", "100/30"), ("en1998", "independent"),
    ("en1998", "absolute sum"), ("is1893-2016", None),
    ("is1893-2002", None), ("asce7-16", None), ("criteria.toml", "100/40")])
def test_three_directions_in_combinations(key: str, how: Any) -> None:
    one = building(ud.CrossSection(material="stuff", rectangle=(0.4, 0.5)),
                   ud.CrossSection(material="stuff", rectangle=(0.3, 0.5)), stories=2,
                   vertical_mass=True)
    more: dict[str, Any] = {"analysis": {"vertical_spectrum": True,
                                         "directional_combination": how}}
    if key == "criteria.toml":
        more["spectrum"] = {"vertical_share": 0.6}
    r = judged(one, key, combinations=[
        {"name": "own", "factors": {"dead": 1.0}, "earthquake": {"X": 1, "Y": 0.5, "Z": 0.7}},
        {"name": "up", "kind": "up", "sets": {"spectrum Z, strength": 0.4}}], **more)
    peaks = {s.direction: s.of(_forces(r)) for s in r.sets_for_strength if s.method == "spectrum"}
    assert set(peaks) == {"X", "Y", "Z"}
    each = frame_of(r, "forces", "column A1 at L1", "each", at=(0.0,))
    each = each[each.acting == "earthquake ±"]
    grown = {d: max(1.0, *(float(s.amplification[-1]) for s in r.stability
                           if s.direction == d and s.method == "spectrum")) for d in "XY"}
    grown["Z"] = 1.0
    assert r.combinations is not None
    rows = {(c.kind, c.name): (*c.quake, c.vertical) for c in r.combinations.rows}
    if key == "asce7-16":  # its vertical effect stands in the dead load
        assert not any(c.vertical for c in r.combinations.rows)
    else:
        assert max(c.vertical for c in r.combinations.rows) > 0
    if key == "en1998" and how == "100/30":
        assert sorted(rows.values()) == [(0.3, 0.3, 1.0), (0.3, 1.0, 0.3), (1.0, 0.3, 0.3)]
    if how == "absolute sum":
        assert sorted(rows.values()) == [(1.0, 1.0, 1.0)]
    if how == "independent":
        assert sorted(rows.values()) == [(0.0, 0.0, 1.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)]
    static = frame_of(r, "forces", "column A1 at L1", "each", at=(0.0,), by="static")
    # the vertical motion is that of the spectrum, whatever the forces sideways are
    lift = "axial (N)"
    for _, row in static[static.acting == "earthquake ±"].iterrows():
        if row.combination != "up" and (f := rows.get((row.kind, row.combination))) and not any(
                f[:2]):
            assert row[lift] == pytest.approx(f[2] * peaks["Z"][0], rel=1e-8)
        elif row.combination == "own":
            assert row[lift] > 0.7 * peaks["Z"][0] * (1 + 1e-6)
    for _, row in each.iterrows():
        factors = rows.get((row.kind, row.combination), {
            "own": (1, 0.5, 0.7), "up": (0, 0, 0.4)}.get(row.combination))
        parts = [abs(f) * grown[d] * peaks[d][0]
                 for d, f in zip("XYZ", factors, strict=True)]  # type: ignore[arg-type]
        total = np.hypot(np.hypot(*parts[:2]), parts[2]) \
            if how == "SRSS" and row.combination not in ("own", "up") else sum(parts)
        assert row["axial (N)"] == pytest.approx(total, rel=1e-8), row.combination


def _forces(r: ud.Results) -> Any:
    from undatum.mechanics.actions import section_forces

    return section_forces(r.model, r.members("column A1 at L1"), (0.0,))


def test_the_third_direction_in_story_shears() -> None:
    one = building(ud.CrossSection(material="stuff", rectangle=(0.4, 0.5)),
                   ud.CrossSection(material="stuff", rectangle=(0.3, 0.5)), stories=2,
                   x=(4.0, 7.0), vertical_mass=True)
    r = judged(one, analysis={"vertical_spectrum": True, "directional_combination": "100/30"})
    table = r.to_frame("shears_by_story").set_index(["set", "story"])
    x, y, z = (table.loc[f"spectrum {d}, strength"] for d in "XYZ")
    both = table.loc["spectrum X, Y and Z, 100/30, strength"]
    for c in both.columns:
        ways = np.array([x[c] + 0.3 * y[c] + 0.3 * z[c], 0.3 * x[c] + y[c] + 0.3 * z[c],
                         0.3 * x[c] + 0.3 * y[c] + z[c]]).max(axis=0)
        assert both[c].to_numpy() == pytest.approx(ways)


def test_what_vertical_motion_needs() -> None:
    plain = building(slender(2e-3), slender(2e-3))
    with pytest.raises(ud.InputError, match=r"building\.vertical_mass"):
        judged(plain, analysis={"vertical_spectrum": True})
    with pytest.raises(ud.InputError, match="gives no vertical spectrum"):
        judged(plain.model_copy(update={"vertical_mass": True}), "asce7-10",
               analysis={"vertical_spectrum": True})
    with pytest.raises(ud.InputError, match=r"earthquake\.Z"):
        judged(plain, combinations=[{"name": "a", "earthquake": {"Z": 1.0}}])
    with pytest.raises(ud.InputError, match="vertical_mass"):
        ud.Building(levels=ud.shipped_project("starter").building.levels, vertical_mass=True,
                    lines=ud.shipped_project("starter").building.lines,
                    outlines=ud.shipped_project("starter").building.outlines,
                    floors=ud.shipped_project("starter").building.floors)
    assert model_of(plain).shaken == ("X", "Y", "rotation")


def test_vertical_motion_is_kept_and_comes_back(tmp_path: Any) -> None:
    r = judged(posts(2), analysis={"vertical_spectrum": True})
    r.save(tmp_path / "out")
    assert ud.load(tmp_path / "out") == r
    assert "vertical_response" in r.table_names


def test_feet_carry_no_mass_up_and_down() -> None:
    """Half of the columns' weight stands on the ground: it is no mass of the building."""
    square = ud.CrossSection(rectangle="600 x 600 mm", material="C30/37")
    one = building(square, square, stories=2, vertical_mass=True)
    calculation = ud.calculate(ud.make_project(
        standard="asce7-16", building=one, site=SITE, system=SYSTEM))
    model = calculation.model
    up = model.freedoms.of("Z")
    assert model.freedoms.points[up, 2].min() > 0.1
    mass = float(model.mass.diagonal()[up].sum())
    assert mass == pytest.approx(calculation.weights.total / 9.80665, rel=1e-9)
