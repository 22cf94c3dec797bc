"""Loads on single members, paths of floor loads and cases of one's own, against closed forms."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import frame_of
from test_frames import BAY, HEIGHT, E, building, real, slender
from test_gravity import SHORT, Q, results_of
from undatum.layout.takedown import take_down

ALPHA = 1.2e-5
STIFF = slender(1e4, torsion=1e4)


def forces(one: ud.Building, member: str, case: str, column: str, *at: float) -> list[float]:
    """One section force of a member under a case, at fractions of its length."""
    results = results_of(one)
    table = frame_of(results, "forces", member, "cases", at=at)
    found: list[float] = table[table["case"] == case][column].tolist()
    return found


def portal(columns: ud.CrossSection, beams: ud.CrossSection, **more: Any) -> ud.Building:
    """One bay each way, with a material that grows when it warms."""
    return building(columns, beams).model_copy(update={
        "materials": {"stuff": ud.Material(modulus=E, poisson=0.25, unit_weight=0.0,
                                           expansion=ALPHA)}, **more})


# -- loads on members ------------------------------------------------------------------------------


def test_point_load_on_a_clamped_beam() -> None:
    """P a b^2 / L^2 at the near end, P a^2 b / L^2 at the far one, shears P b / L and so on."""
    force, t = 7e4, 0.3
    one = portal(STIFF, slender(2e-3), member_loads=(
        ud.MemberLoad(name="press", kind="equipment", on="beam A 1-2 at L1", total=force, at=t),))
    a, b = t * BAY, (1 - t) * BAY
    found = forces(one, "beam A 1-2 at L1", "equipment", "moment_y (N·m)", 0, t, 1)
    start, end = force * a * b**2 / BAY**2, force * a**2 * b / BAY**2
    assert found == pytest.approx(
        [start, (start * b + end * a) / BAY - force * a * b / BAY, end], rel=1e-3)


@pytest.mark.parametrize(("given_", "between"), [
    ((9e3, 9e3), (0.0, 1.0)), ((0.0, 12e3), (0.0, 1.0)), ((4e3, 10e3), (0.2, 0.7))])
def test_spread_loads_on_a_hinged_beam(
    given_: tuple[float, float], between: tuple[float, float]
) -> None:
    """Against the load as ten thousand forces."""
    one = building(slender(2e-3), slender(2e-3), rules=(
        ud.MemberRule(beams="all", hinged="both"),)).model_copy(update={"member_loads": (
            ud.MemberLoad(name="wall", kind="cladding", on="beams on B", per_length=given_,
                          between=between),)})
    x = (np.arange(10000) + 0.5) / 10000
    inside = (x > between[0]) & (x < between[1])
    part = (x - between[0]) / (between[1] - between[0])
    w = np.where(inside, given_[0] + (given_[1] - given_[0]) * part, 0.0) * BAY / 10000
    for at in (0.25, 0.5, 0.9):
        up = float(np.sum(w * (1 - x)))
        expected = -(up * at * BAY - float(np.sum(np.where(x < at, w * (at - x) * BAY, 0.0))))
        found = forces(one, "beam B 1-2 at L1", "cladding", "moment_y (N·m)", at)[0]
        assert found == pytest.approx(expected, rel=1e-4)


def test_loads_on_members_have_weight() -> None:
    """They stand in the weight table with the center, and move the center of mass."""
    results = results_of(building(slender(2e-3), slender(2e-3)).model_copy(update={
        "member_loads": (
            ud.MemberLoad(name="parapet", kind="cladding", on="beams on A", per_length=[2e3, 8e3]),
            ud.MemberLoad(name="tank", kind="equipment", on="column B2 at L1", total=9e4, at=0.25),
        )}))
    rows: Any = results.to_frame("weight_items").set_index("source")
    assert rows.loc["parapet", "load (N)"] == pytest.approx(5e3 * BAY)
    assert rows.loc["tank", "load (N)"] == pytest.approx(9e4 / 4)  # three quarters go to the ground
    slab, wall, tank = Q * BAY * SHORT, 5e3 * BAY, 9e4 / 4
    x = (slab * BAY / 2 + wall * BAY * (2 + 16) / 30 + tank * BAY) / (slab + wall + tank)
    y = (slab * SHORT / 2 + tank * SHORT) / (slab + wall + tank)
    assert results.weights.centers[0] == pytest.approx([x, y])
    # second moment of the trapezoid from many pieces
    s = (np.arange(20000) + 0.5) / 20000
    w = (2e3 + 6e3 * s) * BAY / 20000
    polar = np.sum(w * ((s * BAY - x) ** 2 + y**2)) + tank * ((BAY - x) ** 2 + (SHORT - y) ** 2) \
        + slab * ((BAY**2 + SHORT**2) / 12 + (x - BAY / 2) ** 2 + (y - SHORT / 2) ** 2)
    assert results.weights.inertia[0] * 9.80665 == pytest.approx(polar, rel=1e-6)


def test_every_load_on_members_is_carried() -> None:
    one = real().model_copy(update={"member_loads": (
        ud.MemberLoad(name="a", kind="dead", on="beams on A", per_length=3e3),
        ud.MemberLoad(name="b", kind="storage", on="columns on B at L2", total=5e4),
        ud.MemberLoad(name="c", kind="storage", on="all at L3", per_length=[1e3, 0],
                      between=[0.1, 0.6]))})
    lengths = {k: sum(m.length for m in results_of(one).members(k))
               for k in ("beams on A", "all at L3")}
    count = len(results_of(one).members("columns on B at L2"))
    for name, case in results_of(one).load_cases().on_members:
        if name == "storage":
            total = 5e4 * count + 0.5e3 * 0.5 * lengths["all at L3"]
            patches = sum(b.given for b in results_of(one).load_cases().taken.balance  # type: ignore[union-attr]
                          if b.kind == "storage")
            assert case.reactions[:, 2].sum() == pytest.approx(total + patches, rel=1e-9)
        assert case.residual < 1e-9


def test_a_load_in_place_of_another() -> None:
    one = building(slender(2e-3), slender(2e-3), stories=2)
    levels = list(one.levels)
    levels[0] = levels[0].model_copy(update={"loads": (
        ud.Load(name="slab", kind="dead", per_area=2e3, instead=True),)})
    table: Any = results_of(one.model_copy(update={"levels": tuple(levels)})).to_frame(
        "weight_items")
    assert table["load (N)"].tolist() == pytest.approx([2e3 * BAY * SHORT, Q * BAY * SHORT])
    levels[0] = levels[0].model_copy(update={"loads": (
        ud.Load(name="slap", kind="dead", per_area=2e3, instead=True),)})
    with pytest.raises(ud.InputError, match=r"(?s)stands in place of none.*did you mean 'slab'"):
        one.model_copy(update={"levels": tuple(levels)})


# -- paths of floor loads --------------------------------------------------------------------------


def with_path(path: Any, **more: Any) -> ud.Building:
    return building(slender(2e-3), slender(2e-3), rules=(
        ud.MemberRule(beams="all", hinged="both"),), **more).model_copy(update={"floors": {
            "all": [ud.Load(name="slab", kind="dead", per_area=Q, path=path)]}})


@pytest.mark.parametrize(("path", "loaded", "bare", "span", "across"), [
    ("one-way X", "beam 1 A-B at L1", "beam A 1-2 at L1", SHORT, BAY),
    ("one-way Y", "beam A 1-2 at L1", "beam 1 A-B at L1", BAY, SHORT)])
def test_one_way_slabs_load_two_beams_alone(
    path: str, loaded: str, bare: str, span: float, across: float
) -> None:
    one = with_path(path)
    found = forces(one, loaded, "dead", "moment_y (N·m)", 0.5)
    assert found == pytest.approx([-Q * across / 2 * span**2 / 8])
    assert forces(one, bare, "dead", "moment_y (N·m)", 0.5) == pytest.approx([0.0], abs=1e-6)


@given(path=st.sampled_from(["two-way", "one-way X", "one-way Y"]),
       corner=st.tuples(st.floats(0.2, 5.0), st.floats(0.2, 4.0)),
       size=st.tuples(st.floats(0.3, 9.0), st.floats(0.3, 7.0)))
@settings(deadline=None, max_examples=15)
def test_patches_land_whole_by_every_path(
    path: Any, corner: tuple[float, float], size: tuple[float, float]
) -> None:
    """Skew beams, braces, set-backs: what is given lands; on a span by its nearer end."""
    (x, y), (a, b) = corner, size
    floors = {"all": [ud.Load(name="slab", kind="dead", per_area=5e3, path=path),
                      ud.Load(name="crates", kind="storage", per_area=3e3, path=path,
                              on=[(x, y), (x + a, y), (x + a, y + b), (x, y + b)])]}
    one = real().model_copy(update={"floors": floors})
    assert one.frame is not None
    for row in take_down(one, one.frame).balance:
        assert row.landed == pytest.approx(row.given, rel=1e-6)
        if row.kind == "dead" and path == "two-way":
            assert row.shift < 1e-3


def test_loads_on_one_region_by_several_paths_add_up() -> None:
    """Each goes its own way: together they bring what each brings alone."""
    slabs = [ud.Load(name=path, kind="dead", per_area=q, path=path)
             for path, q in (("one-way X", 5e3), ("one-way Y", 2e3), ("two-way", 3e3))]
    bare = real().model_copy(update={"self_weight": False})
    whole, *alone = (forces(bare.model_copy(update={"floors": {"all": own}}),
                            "beam A 1-2 at L1", "dead", "moment_y (N·m)", 0.5)
                     for own in (slabs, *([one] for one in slabs)))
    assert whole == pytest.approx(np.sum(alone, axis=0), rel=1e-9)
    assert len({round(float(one[0] / s.per_area), 6) for one, s in zip(alone, slabs, strict=True)
                if s.per_area}) == 3


def test_one_way_slab_on_a_skew_beam() -> None:
    """A panel cut by a skew beam: both triangles to the beams at the ends of the span; the
    moments about both axes are those of the slab."""
    one = with_path("one-way X").model_copy(update={"members": (
        *with_path("one-way X").members,
        ud.MemberRule(beams="at L1", line=("A1", "B2"), section="beam", hinged="both"))})
    assert one.frame is not None
    taken = take_down(one, one.frame)
    assert taken.balance[0].landed == pytest.approx(taken.balance[0].given, rel=1e-9)
    assert taken.balance[0].shift < 1e-9  # by symmetry
    beam_1 = forces(one, "beam 1 A-B at L1", "dead", "shear_z (N)", 0, 1)
    # the strip at a height y above A is x = BAY y / SHORT long on the left triangle
    assert np.abs(beam_1).sum() == pytest.approx(Q * BAY * SHORT / 4)


def test_flat_slab_goes_to_columns() -> None:
    one = with_path("columns", x=(BAY, BAY), y=(SHORT, SHORT)).model_copy(
        update={"members": with_path("columns").members[:1]})
    axial = {c: forces(one, f"column {c} at L1", "dead", "axial (N)", 0)[0]
             for c in ("A1", "A2", "B2")}
    quarter = Q * BAY * SHORT / 4
    assert axial == pytest.approx({"A1": -quarter, "A2": -2 * quarter, "B2": -4 * quarter})
    assert not [f for f in results_of(one).findings if f.check == "gravity on members"]


# -- cases of one's own ----------------------------------------------------------------------------


def test_wind_on_floors_and_on_columns() -> None:
    """A push of 60 kN on a floor by rigid beams: 12 E I / h^3 a column; spread along two columns,
    half of it reaches the floor."""
    inertia = 2e-3
    one = portal(slender(inertia), slender(1e4, other=1e4), cases=(
        ud.LoadCase(name="push", on_levels=[ud.OnLevels(at="L1", X=6e4)]),
        ud.LoadCase(name="wind", on_members=[
            ud.OnMembers(on="columns on 1", direction="X", per_length=6e4 / 2 / HEIGHT)]),
        ud.LoadCase(name="twist", on_levels=[ud.OnLevels(at="L1", Y=6e4, point=(BAY, 0))])))
    results = results_of(one)
    table: Any = results.to_frame("case_motion").set_index("case")
    sway = 6e4 / (4 * 12 * E * inertia / HEIGHT**3)
    assert table.loc["push", "displacement X (m)"] == pytest.approx(sway, rel=1e-3)
    assert table.loc["push", "story drift X (m)"] == pytest.approx(sway, rel=1e-3)
    assert table.loc["wind", "displacement X (m)"] == pytest.approx(sway / 2, rel=1e-3)
    # moment at the foot of a windward column: w h^2 / 12 clamped, and half the sway
    w = 6e4 / 2 / HEIGHT
    foot = forces(one, "column A1 at L1", "wind", "moment_z (N·m)", 0)[0]
    assert abs(foot) == pytest.approx(w * HEIGHT**2 / 12 + 6e4 / 2 / 4 * HEIGHT / 2, rel=1e-3)
    twist = table.loc["twist", "rotation (rad)"]
    k = 12 * E * inertia / HEIGHT**3
    assert twist == pytest.approx(6e4 * BAY / 2 / (k * (BAY**2 + SHORT**2)), rel=1e-3)
    for name, total in (("push", 6e4), ("wind", 6e4)):
        case = dict(results.load_cases().on_members)[name]
        assert case.reactions[:, 0].sum() == pytest.approx(-total)
        assert case.residual < 1e-9


def test_warming() -> None:
    """A column between rigid floors grows alone: with all columns warmed the floor only rises; a
    brace between fixed ends is pressed by E A alpha T."""
    one = portal(slender(2e-3), slender(2e-3), cases=(
        ud.LoadCase(name="summer", on_members=[ud.OnMembers(on="columns on A, B", warming=30)]),
        ud.LoadCase(name="one side", on_members=[ud.OnMembers(on="beam A 1-2 at L1", warming=20)]),
    ))
    results = results_of(one)
    summer = dict(results.load_cases().on_members)["summer"]
    frame = one.frame
    assert frame is not None
    up = summer.displacement.reshape(-1, 6)[:, 2]
    assert up[frame.floors == 0] == pytest.approx(ALPHA * 30 * HEIGHT)
    assert np.abs(summer.faces).max() < 1e-3
    # a rigid floor holds the beam along itself
    area = 1e3
    assert forces(one, "beam A 1-2 at L1", "one side", "axial (N)", 0.5) == pytest.approx(
        [-E * area * ALPHA * 20], rel=1e-6)


def test_settlement_of_a_support() -> None:
    """6 E I d / L^2 in beams between very stiff columns of which one side sinks."""
    d, inertia = 0.01, 2e-3
    columns = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=1e6, bending_z=1e6, torsion=1e6))
    one = portal(columns, slender(1e-12, other=inertia), cases=(
        ud.LoadCase(name="sinks", on_supports=[ud.OnSupports(at="on 2", down=d)]),))
    found = forces(one, "beam A 1-2 at L1", "sinks", "moment_y (N·m)", 0, 1)
    size = 6 * E * inertia * d / BAY**2
    assert found == pytest.approx([size, -size], rel=1e-4)
    case = dict(results_of(one).load_cases().on_members)["sinks"]
    assert case.reactions[:, 2].sum() == pytest.approx(0, abs=1e-6 * size)
    assert case.residual < 1e-9
    frame = one.frame
    assert frame is not None
    down = case.displacement.reshape(-1, 6)[frame.supports, 2]
    assert sorted(down.tolist()) == pytest.approx([-d, -d, 0, 0])


def test_settlement_below_springs() -> None:
    """All feet sink alike: nothing is strained; one side sinks: springs and frame in a row."""
    d, k, inertia = 0.01, 5e6, 2e-3
    columns = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=1e6, bending_z=1e6, torsion=1e6))
    one = portal(columns, slender(1e-12, other=inertia), supports=(
        ud.Support(at="all", along_z=k),), cases=(
        ud.LoadCase(name="all", on_supports=[ud.OnSupports(at="all", down=d)]),
        ud.LoadCase(name="side", on_supports=[ud.OnSupports(at="on 2", down=d)])))
    cases = dict(results_of(one).load_cases().on_members)
    assert one.frame is not None
    assert np.abs(cases["all"].reactions).max() < 1e-6 * k * d
    assert cases["all"].displacement.reshape(-1, 6)[:, 2] == pytest.approx(-d)
    frame = 12 * E * inertia / BAY**3  # one end of a beam held against the other
    force = d / (1 / frame + 2 / k)
    side = cases["side"].reactions.reshape(-1, 6)[:, 2]
    assert sorted(np.abs(side)) == pytest.approx([force] * 4, rel=1e-3)
    assert side.sum() == pytest.approx(0.0, abs=1e-6 * force)


def test_cases_of_a_building_of_lines() -> None:
    """Forces on floors alone; the motion is that of the story stiffness."""
    one = ud.shipped_project("starter")
    building_ = one.building.model_copy(update={"cases": (
        ud.LoadCase(name="notional", on_levels=[ud.OnLevels(at=one.building.levels[0].name,
                                                            X=1e4)]),)})
    results = ud.run(one.model_copy(update={"building": building_}))
    table: Any = results.to_frame("case_motion")
    k = np.asarray(results.model.stiffness.todense())
    load = results.model.loads("X", np.eye(results.model.n)[0] * 1e4)
    moved = np.linalg.solve(k, load)[results.model.diaphragms.freedoms[:, 0]]
    name = next(c for c in table.columns if c.startswith("displacement X"))
    assert table[name].tolist() == pytest.approx((1e3 * moved).tolist(), rel=1e-9)


WRONG = {
    "a level that is not there": (
        ud.LoadCase(name="w", on_levels=[ud.OnLevels(at="L9", X=1)]), "L9.*not among the levels"),
    "no member": (ud.LoadCase(name="w", on_members=[
        ud.OnMembers(on="braces on A", per_length=1)]), "names no member"),
    "no foot": (ud.LoadCase(name="w", on_supports=[ud.OnSupports(at="Z9", down=0.01)]), "Z9"),
    "the name of a kind": (ud.LoadCase(name="dead", on_levels=[ud.OnLevels(at="L1", X=1)]),
                           "'dead' is taken"),
    "no coefficient": (ud.LoadCase(name="w", on_members=[ud.OnMembers(on="all", warming=3)]),
                       "no coefficient of expansion"),
}


@pytest.mark.parametrize("name", WRONG)
def test_wrong_cases_name_themselves(name: str) -> None:
    case, text = WRONG[name]
    with pytest.raises(ud.InputError, match=text):
        building(slender(2e-3), slender(2e-3), cases=(case,))


@pytest.mark.parametrize(("make", "text"), [
    (lambda: ud.LoadCase(name="empty"), "nothing acts"),
    (lambda: ud.OnLevels(at="L1"), "nothing acts"),
    (lambda: ud.OnSupports(at="A1"), "nothing moves"),
    (lambda: ud.OnMembers(on="all"), "one of per_length, total and warming"),
    (lambda: ud.OnMembers(on="all", warming=3, direction="X"), "warming has none"),
    (lambda: ud.OnMembers(on="all", per_length=3, at=0.2), "at goes with total"),
    (lambda: ud.OnMembers(on="all", total=3, between=[0, 0.5]), "between goes with per_length"),
    (lambda: ud.MemberLoad(name="a", kind="dead", on="all", per_length=1, between=[0.5, 0.5]),
     "smaller fraction"),
    (lambda: ud.MemberLoad(name="a", kind="dead", on="all", per_length=-1), "can't be negative"),
    (lambda: ud.MemberLoad(name="a", kind="dead", on="all"), "one of per_length and total"),
])
def test_wrong_parts_name_themselves(make: Any, text: str) -> None:
    with pytest.raises(ud.InputError, match=text):
        make()


def test_feet_that_move_along_take_the_building_with_them() -> None:
    """All feet by 20 mm along X: every node follows, nothing is strained, nothing moves along Y."""
    one = portal(slender(2e-3), slender(2e-3), cases=(
        ud.LoadCase(name="shift", on_supports=[ud.OnSupports(at="all", X=0.02)]),))
    case = dict(results_of(one).load_cases().on_members)["shift"]
    moved = case.displacement.reshape(-1, 6)
    assert moved[:, 0] == pytest.approx(0.02)
    assert np.abs(moved[:, 1:]).max() < 1e-9
    assert np.abs(case.faces).max() < 1.0  # N, of a section that carries meganewtons


def test_a_force_along_x_beside_the_center_turns_the_other_way() -> None:
    one = portal(slender(2e-3), slender(1e4, other=1e4), cases=(
        ud.LoadCase(name="x", on_levels=[ud.OnLevels(at="L1", X=6e4, point=(0, SHORT))]),
        ud.LoadCase(name="y", on_levels=[ud.OnLevels(at="L1", Y=6e4, point=(BAY, 0))]),
        ud.LoadCase(name="both", on_levels=[ud.OnLevels(at="L1", X=6e4, Y=6e4)]),
        ud.LoadCase(name="moment", on_levels=[ud.OnLevels(at="L1", moment=6e4)])))
    table: Any = results_of(one).to_frame("case_motion").set_index("case")["rotation (rad)"]
    assert table["x"] == pytest.approx(-table["moment"] * SHORT / 2)
    assert table["y"] == pytest.approx(table["moment"] * BAY / 2)
    assert table["both"] == pytest.approx(0.0, abs=1e-12)
    assert table["moment"] > 0


def test_moments_along_a_column_in_the_wind() -> None:
    """w h^2 / 12 at both ends and -w h^2 / 24 at the middle, beside the sway that is none there;
    along X by local z, along Y by local y."""
    w = 7.5e3
    one = portal(slender(2e-3), slender(1e4, other=1e4, torsion=1e4), cases=tuple(
        ud.LoadCase(name=d, on_members=[ud.OnMembers(on="columns on 1", direction=d, per_length=w)])
        for d in ("X", "Y")))
    for case, column in (("X", "moment_z (N·m)"), ("Y", "moment_y (N·m)")):
        start, middle, end = forces(one, "column A1 at L1", case, column, 0, 0.5, 1)
        clamped = (start + end) / 2
        assert abs(clamped) == pytest.approx(w * HEIGHT**2 / 12, rel=1e-3)
        assert middle == pytest.approx(-clamped / 2, rel=1e-3)


def test_warming_presses_by_the_stiffness_that_is_kept() -> None:
    one = portal(slender(2e-3), slender(2e-3), cases=(
        ud.LoadCase(name="warm", on_members=[ud.OnMembers(on="beam A 1-2 at L1", warming=20)]),))
    one = one.model_copy(update={"members": (*one.members, ud.MemberRule(
        beams="on A", kept=ud.KeptShares(axial=0.4, reason="test")))})
    assert forces(one, "beam A 1-2 at L1", "warm", "axial (N)", 0.5) == pytest.approx(
        [-0.4 * E * 1e3 * ALPHA * 20], rel=1e-6)


def test_loads_on_members_of_a_level_without_mass_do_not_count() -> None:
    one = building(slender(2e-3), slender(2e-3), stories=2, member_loads=(
        ud.MemberLoad(name="wall", kind="cladding", on="beams on A", per_length=5e3),))
    levels = [x.model_copy(update={"seismic_mass": False}) if x.name == "L1" else x
              for x in one.levels]
    rows: Any = results_of(one.model_copy(update={"levels": tuple(levels)})).to_frame(
        "weight_items")
    wall = rows[rows["source"] == "wall"].set_index("level")["seismic weight (N)"]
    assert wall.to_dict() == {"L2": pytest.approx(5e3 * BAY), "L1": 0.0}


def test_floors_without_columns_that_go_to_columns_are_named() -> None:
    """A level held by lines alone: nothing lands, and a finding says so."""
    one = with_path("columns", stories=2)
    one = one.model_copy(update={
        "members": (*one.members, ud.MemberRule(columns="all at L2", remove=True),
                    ud.MemberRule(beams="all at L2", remove=True)),
        "lines": [ud.Line(name=f"{d}{i}", direction=d, at=at, bottom="L1", top="L2", stiffness=1e8)
                  for i, (d, at) in enumerate((("X", (3, 0)), ("X", (3, 5)), ("Y", (0, 2)),
                                               ("Y", (6, 2))))]})
    found = [f for f in results_of(one).findings if f.check == "gravity on members"]
    assert [f.where for f in found] == ["levels L2"]
