"""Gravity on members: every newton lands where its center is; beams against closed forms."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import OWN, ROOMS, frame_of
from test_frames import BAY, HEIGHT, SITE, SYSTEM, building, real, slender
from undatum.layout.takedown import take_down
from undatum.mechanics.cases import LoadCases

SHORT, Q = 5.0, 6e3  # m, N/m2: the other span and the load of the floor


def results_of(one: ud.Building) -> ud.Results:
    return ud.analyze(title="gravity", standard="asce7-16", results_in="N and m", site=SITE,
                      system=SYSTEM,
                      building=one)


def moments(one: ud.Building, name: str, *at: float) -> list[float]:
    """Bending moments about y of a beam at fractions of its length, N m."""
    results = results_of(one)
    found: list[float] = frame_of(results, "forces", name, "cases", at=at)[
        "moment_y (N·m)"].tolist()
    return found


def test_hinged_beams_around_a_panel() -> None:
    """Triangles on the short beams, trapezoids on the long ones: w L^2 / 12 and w (3 L^2 - 4 a^2)
    / 24 at the middle, peak w = q a with a half the short span."""
    one = building(slender(2e-3), slender(2e-3), rules=(ud.MemberRule(beams="all", hinged="both"),))
    w, a = Q * SHORT / 2, SHORT / 2
    short = moments(one, "beam 1 A-B at L1", 0, 0.5, 1)
    assert short == pytest.approx([0, -w * SHORT**2 / 12, 0], abs=1e-3)
    long = moments(one, "beam A 1-2 at L1", 0, 0.5, 1)
    assert long == pytest.approx([0, -w * (3 * BAY**2 - 4 * a**2) / 24, 0], abs=1e-3)
    quarter = moments(one, "beam 1 A-B at L1", 0.25)[0]
    x = SHORT / 4
    assert quarter == pytest.approx(-(w * SHORT / 4 * x - w / SHORT * 2 * x**3 / 6))


@pytest.mark.parametrize("shear", [None, 0.02])
def test_clamped_beam_under_a_triangle(shear: float | None) -> None:
    """5 w L^2 / 96 at both ends, whatever the shear deformation; the columns are very stiff."""
    beam = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=2e-3, bending_z=2e-3, torsion=1e-9, shear_z=shear))
    one = building(slender(1e4, torsion=1e4), beam)
    w = Q * SHORT / 2
    found = moments(one, "beam 1 A-B at L1", 0, 0.5, 1)
    end = 5 * w * SHORT**2 / 96
    assert found == pytest.approx([end, end - w * SHORT**2 / 12, end], rel=1e-4)


def test_stiff_ends_shorten_a_clamped_beam() -> None:
    """Between the faces the load on the clear span; the faces are the ends of the diagram."""
    column = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=1e4, bending_z=1e4, torsion=1e4, width=0.6, depth=0.6))
    one = building(column, slender(2e-3), rules=(ud.MemberRule(beams="all", stiff_ends=1.0),))
    found = moments(one, "beam 1 A-B at L1", 0, 0.5, 1)
    # second method: the same beam in many pieces
    length, n = SHORT - 0.6, 2000
    x = (np.arange(n) + 0.5) * length / n
    w = Q * np.minimum(x + 0.3, SHORT - x - 0.3)
    start = float(np.sum(w * x * (length - x) ** 2) / length**2 * length / n)
    middle = start - float(np.sum(np.where(x < length / 2, w * (length / 2), 0.0)) * length / n) \
        + float(np.sum(np.where(x < length / 2, w * (length / 2 - x), 0.0)) * length / n)
    assert found[0] == pytest.approx(start, rel=1e-3)
    assert found[0] == pytest.approx(found[2])
    assert found[1] == pytest.approx(middle, rel=2e-3)


def test_portal_with_clamped_feet_under_gravity() -> None:
    """M at the foot = half of that at the head; heads by slope deflection with the fixed end
    moment of the trapezoid."""
    inertia, ratio = 2e-3, 0.8
    own = ratio * inertia / HEIGHT * BAY
    one = building(slender(inertia), slender(1e-12, other=own))
    a, w = SHORT / 2, Q * SHORT / 2
    clamped = w * (BAY**3 - 2 * a**2 * BAY + a**3) / (12 * BAY)
    head = clamped * 2 / (2 + ratio)  # 4 k_c / (4 k_c + 2 k_b)
    beam = moments(one, "beam A 1-2 at L1", 0, 1)
    assert beam == pytest.approx([head, head], rel=1e-4)
    column = frame_of(results_of(one), "forces", "column A1 at L1", "cases", at=(0, 1))
    assert np.abs(column["moment_z (N·m)"]) .tolist() == pytest.approx([head / 2, head], rel=1e-3)
    assert column["axial (N)"].tolist() == pytest.approx([-Q * BAY * SHORT / 4] * 2, rel=1e-6)


def cases_of(one: ud.Building) -> LoadCases:
    return results_of(one).load_cases()


def test_everything_lands_and_is_carried() -> None:
    """A real frame with a set-back, overhangs, facade, a patch and a point load."""
    floors = {"all": [
        ud.Load(name="slab", kind="dead", per_area=5e3),
        ud.Load(name="facade", kind="cladding", per_edge=3e3),
        ud.Load(name="store", kind="storage", per_area=4e3,
                on=[(1, 1), (7, 2), (8, 9), (2, 6)]),
        ud.Load(name="shelf", kind="storage", per_area=2e3,  # along a beam that braces divide
                on=[(6, 0), (10, 0), (10, 1), (6, 1)]),
        ud.Load(name="chiller", kind="equipment", total=8e4, at=(6.3, 8.1)),
        ud.Load(name="use", kind="live", total=3e5)]}
    one = real().model_copy(update={"floors": floors})
    found = cases_of(one)
    assert found.taken is not None
    for b in found.taken.balance:
        assert b.landed == pytest.approx(b.given, rel=1e-9)
        assert b.shift < 0.35, b  # of a rectangle nothing moves; patches move within their panel
        if b.kind != "storage":
            assert b.shift < 1e-3
    frame = one.frame
    assert frame is not None
    weight = np.array([p.area for p in frame.sections])[frame.section] \
        * frame.materials[frame.section, 2] * frame.lengths
    for name, case in found.on_members:
        given_ = sum(b.given for b in found.taken.balance if b.kind == name)
        total = given_ + (weight.sum() if name == "dead" else 0.0)
        assert case.reactions[:, 2].sum() == pytest.approx(total, rel=1e-9)
        assert np.abs(case.reactions[:, :2].sum(axis=0)).max() < 1e-6 * total
        assert case.residual < 1e-9
    # Moments about the axes through the origin balance too: what landed where it lies.
    dead = dict(found.on_members)["cladding"]
    feet = frame.points[frame.supports]
    about_x = np.sum(feet[:, 1] * dead.reactions[:, 2] + dead.reactions[:, 3]
                     - feet[:, 2] * dead.reactions[:, 1])
    center = sum(one.outline(i).polygon.exterior.centroid.y * one.outline(i).edge[0] * 3e3
                 for i in range(3))
    assert about_x == pytest.approx(center, rel=1e-6)


@given(x=st.floats(0.5, 14.0), y=st.floats(0.5, 11.5), beyond=st.floats(0.0, 0.9))
@settings(deadline=None, max_examples=12)
def test_a_point_load_lands_at_its_place_or_says_how_far(
    x: float, y: float, beyond: float
) -> None:
    floors = {"all": [ud.Load(name="point", kind="equipment", total=1e5, at=(x, y)),
                      ud.Load(name="slab", kind="dead", per_area=5e3)]}
    one = real().model_copy(update={
        "floors": floors, "outlines": {**real().outlines, "low": ud.Stretch(
            between=("A1", "C4"), beyond=beyond)}})
    frame = one.frame
    assert frame is not None
    taken = take_down(one, frame)
    for b in taken.balance:
        assert b.landed == pytest.approx(b.given, rel=1e-7)
        assert b.shift < 1e-3


def test_slab_beyond_the_last_beam_twists_it() -> None:
    """A cantilever slab of 1 m: q b on the beam, with q b^2 / 2 of torque; nothing moves."""
    one = building(slender(2e-3), slender(2e-3)).model_copy(update={
        "outlines": {"all": ud.Outline(points=[(0, -1), (BAY, -1), (BAY, SHORT), (0, SHORT)])}})
    frame = one.frame
    assert frame is not None
    taken = take_down(one, frame)
    landed = taken.landed[0]
    e = next(m for m in frame.members if m.name == "beam A 1-2 at L1").elements[0]
    twisting = (landed.elements == e) & (landed.torque != 0).any(axis=1)
    assert landed.torque[twisting] == pytest.approx([Q / 2])  # to the right of the beam
    assert landed.load[twisting] == pytest.approx(np.array([[[0, 0, -Q]] * 2]))
    assert taken.balance[0].shift < 1e-9


def slab_on(rules: Any, x: Any = (BAY, BAY), y: Any = (BAY, BAY), **more: Any) -> ud.Building:
    """Three by three columns under one slab, without the beams that the rules take out."""
    square = ud.CrossSection(rectangle="400 x 400 mm", material="C30/37")
    return building(square, square, x=x, y=y, rules=tuple(
        ud.MemberRule(beams=which, remove=True) for which in rules), **more)


EDGE_ONLY = ("on B", "on 2")
WHOLE = Q * (2 * BAY) ** 2


@pytest.mark.parametrize(("rules", "inner"), [((), 0.25), (EDGE_ONLY, 0.25), (("all",), 0.25),
                                              (("on A", "on C", "on 1", "on 3"), None)])
def test_every_column_carries_the_floor_over_it(rules: Any, inner: float | None) -> None:
    """A quarter of a square slab on the inner of nine columns, beams or none; hand statics, and the
    same by the way straight to columns."""
    one = slab_on(rules)
    results = results_of(one)
    table: Any = results.to_frame("column_shares").set_index("column")
    landed = table["transferred to its head (N)"]
    assert landed.sum() == pytest.approx(WHOLE)
    if inner is not None:
        assert landed["column B2 at L1"] == pytest.approx(inner * WHOLE)
        assert not [f for f in results.findings if f.check == "floor load on columns"]
    else:  # a cross of beams encloses no panel: all goes to the columns, and that is said
        assert table["ratio"].tolist() == pytest.approx([1.0] * 9)
        found = [f for f in results.findings if f.check == "gravity on members"]
        assert [f.where for f in found] == ["levels L1"]
        assert "directly to the nearest columns" in found[0].text
    for _, case in results.load_cases().on_members:
        assert case.reactions[4, 2] > 0.18 * case.reactions[:, 2].sum()


def test_the_inner_column_has_mass_without_a_diaphragm() -> None:
    """Bare columns on a floor without diaphragm: each moves by itself, its mass by the area."""
    one = slab_on(("all",), diaphragms={"L1": "none"}, self_weight=False)
    results = results_of(one)
    material = ud.Building.material(one, "C30/37")
    stiff = 3 * material.modulus * 0.4**4 / 12 / HEIGHT**3
    shear = HEIGHT / (material.shear_modulus * 0.4**2 * 5 / 6)
    mass = WHOLE / 9.80665 / 16
    periods = sorted(results.modes.periods, reverse=True)
    slowest = 2 * np.pi * np.sqrt(4 * mass * (1 / stiff + shear))
    assert periods[0] == pytest.approx(slowest, rel=1e-4)


@given(x=st.floats(0.1, 11.9), y=st.floats(0.1, 11.9))
@settings(deadline=None, max_examples=25)
def test_a_point_load_beside_an_inner_column_keeps_its_moments(x: float, y: float) -> None:
    one = slab_on(EDGE_ONLY).model_copy(update={"floors": {"all": [
        ud.Load(name="point", kind="equipment", total=1e5, at=(x, y))]}})
    assert one.frame is not None
    (balance, *_) = take_down(one, one.frame).balance
    assert balance.landed == pytest.approx(1e5, rel=1e-9)
    assert balance.shift < 1e-3


def test_columns_that_get_another_load_than_the_floor_near_them_are_named() -> None:
    """Edge beams of 12 m around an inner column near a corner: by hand, the far edge columns."""
    results = results_of(slab_on(EDGE_ONLY, x=(2.0, 10.0), y=(2.0, 10.0)))
    table: Any = results.to_frame("column_shares").set_index("column")
    assert table.loc["column B2 at L1"].tolist()[1:4] == pytest.approx([Q * 36, Q * 36, 1.0])
    assert table["on the floor nearest to it (N)"]["column C3 at L1"] == pytest.approx(Q * 25)
    (found,) = [f for f in results.findings if f.check == "floor load on columns"]
    assert found.where.startswith("column A2 at L1, column A3 at L1, column B1 at L1")
    assert "column C3" not in found.where
    assert "column B3 at L1: 121" in found.text
    marked = table["within a fifth"]
    assert (~marked).tolist() == [abs(r - 1) > 0.2 for r in table["ratio"]]


def test_panels_that_are_not_convex_are_named() -> None:
    """An L of beams around a missing crossing: nothing is said of whole panels."""
    whole = building(slender(2e-3), slender(2e-3), x=(BAY, BAY), y=(SHORT, SHORT))
    bent = whole.model_copy(update={"members": (
        *whole.members, ud.MemberRule(beams="on B between 1 and 2", remove=True),
        ud.MemberRule(beams="on 2 between A and B", remove=True))})
    for one, count in ((whole, 0), (bent, 1)):
        found = [f for f in results_of(one).findings if f.check == "gravity on members"]
        assert len(found) == count
        assert all("not convex" in f.text for f in found)


def test_corner_beyond_the_beams_loads_the_node_with_its_moments() -> None:
    """Overhangs of 1 m on two sides alone: the corner square hangs on one column."""
    one = building(slender(2e-3), slender(2e-3)).model_copy(update={
        "outlines": {"all": ud.Outline(points=[(-1, -1), (BAY, -1), (BAY, SHORT), (-1, SHORT)])}})
    frame = one.frame
    assert frame is not None
    taken = take_down(one, frame)
    landed = taken.landed[0]
    assert frame.points[landed.nodes[0], :2] == pytest.approx([0, 0])
    assert landed.forces == pytest.approx(  # arm (-0.5, -0.5)
        np.array([[0, 0, -Q, Q / 2, -Q / 2, 0]]))
    assert taken.balance[0].shift < 1e-9
    found = cases_of(one).cases[0].members
    assert found is not None
    feet = frame.points[frame.supports]
    for axis, sign in ((0, -1), (1, 1)):  # moments of the reactions about Y and about X
        resisted = np.sum(sign * feet[:, axis] * found.reactions[:, 2]
                          + found.reactions[:, 4 - axis])
        center = (BAY - 1) / 2 if axis == 0 else (SHORT - 1) / 2
        assert resisted == pytest.approx(sign * center * Q * (BAY + 1) * (SHORT + 1), rel=1e-6)


def test_torsion_of_a_beam_under_a_cantilever_slab() -> None:
    """t L / 2 at both ends of a beam that very stiff columns hold, straight between."""
    one = building(slender(1e4, torsion=1e4), slender(2e-3, torsion=1e-3)).model_copy(update={
        "outlines": {"all": ud.Outline(points=[(0, -1), (BAY, -1), (BAY, SHORT), (0, SHORT)])}})
    results = results_of(one)
    found = frame_of(results, "forces", "beam A 1-2 at L1", "cases", at=(0, 0.25, 0.5, 1))
    t = Q / 2
    assert found["torsion (N·m)"].tolist() == pytest.approx(
        [t * BAY / 2, t * BAY / 4, 0, -t * BAY / 2], rel=1e-4, abs=1.0)


@pytest.mark.parametrize("stiff", [0.0, 1.0])
def test_torsion_of_a_beam_shifted_sideways_follows_its_load(stiff: float) -> None:
    """dT/dx = e w(x): a triangle of peak q L / 2 at e = 0.2 m from the axis; T is e times the
    load beyond the section, half of it at either end, whatever lies within stiff ends."""
    column = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=1e4, bending_z=1e4, torsion=1e4, width=0.6, depth=0.6))
    one = building(column, slender(2e-3, torsion=1e-3), y=(BAY,), rules=(
        ud.MemberRule(beams="all", shifted=(0.2, 0.0), stiff_ends=stiff),))
    at = (0.0, 0.25, 0.4, 0.5, 0.6, 1.0)
    found = frame_of(results_of(one), "forces", "beam 1 A-B at L1", "cases", at=at)
    place = np.array(at) * BAY
    place[[0, -1]] += [0.3 * stiff, -0.3 * stiff]
    within = np.minimum(place, BAY - place)
    expected = 0.2 * Q * ((BAY / 2) ** 2 - within**2) / 2 * np.sign(BAY / 2 - place)
    assert np.abs(found["torsion (N·m)"]).tolist() == pytest.approx(
        np.abs(expected).tolist(), rel=1e-4, abs=1.0)


# -- columns ---------------------------------------------------------------------------------------


def grid(path: Any, stories: int, **live: Any) -> ud.Building:
    """Three by three columns, 6 m by 5 m, floors straight to the columns, a light roof."""
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    one = building(square, square, stories=stories, x=(BAY, BAY), y=(SHORT, SHORT), rules=(
        ud.MemberRule(beams="all", hinged="both"),))  # nothing is shared through bending
    floors = {"all": [ud.Load(name="slab", kind="dead", per_area=5e3, path=path),
                      ud.Load(name="use", kind="live", path=path, **{"per_area": 3e3, **live})]}
    levels = [level.model_copy(update={"floor": None, "loads": (
        ud.Load(name="roofing", kind="dead", per_area=1e3, path=path),)}) if i == 0 else level
        for i, level in enumerate(one.levels)]
    return one.model_copy(update={"floors": floors, "levels": tuple(levels)})


def loads_of(one: ud.Building, standard: str) -> Any:
    site, system, *_ = ROOMS[standard]
    results = ud.analyze(title="columns", standard=standard, results_in="N and m", site=site,
                         system={"X": system, "Y": system}, folder=OWN, building=one)
    return results.to_frame("column_loads").set_index("column")


FT2 = 0.3048**2


def asce(area: float, floors: int, least: float) -> float:
    influence = 4 * area / FT2
    return max(0.25 + 15 / np.sqrt(influence), least) if influence >= 400 else 1.0


@pytest.mark.parametrize("stories", [2, 3, 6])
def test_live_load_of_columns_is_reduced(stories: int) -> None:
    """The interior column carries 30 m2 a floor; the factors of four standards by hand."""
    one, floors = grid("columns", stories), stories - 1
    area, name = 30.0 * floors, "column B2 at L1"
    dead = 5e3 * area + 1e3 * 30
    expected = {
        "asce7-16": asce(area, floors, 0.4 if floors > 1 else 0.5),
        "asce7-05": asce(area, floors, 0.4 if floors > 1 else 0.5),
        "en1998": 1.0 if floors <= 2 else (2 + 0.7 * (floors - 2)) / floors,
        "is1893-2016": {2: 0.9, 3: 0.8, 6: 0.6}[stories],  # with the roof
        "ubc97": 1 - min(0.08 * (area / FT2 - 150), 40 if floors == 1 else 60,
                         23.1 * (1 + dead / (3e3 * area))) / 100,
    }
    for standard, factor in expected.items():
        row = loads_of(one, standard).loc[name]
        assert row["area carried (m²)"] == pytest.approx(area)
        assert row["live (N)"] == pytest.approx(3e3 * row["area carried (m²)"])
        assert row["factor on live"] == pytest.approx(factor), standard
        assert row["live of floors reduced (N)"] == pytest.approx(
            row["live (N)"] * row["factor on live"])
        weight = row["dead (N)"] + row["live (N)"]
        assert row["all in full (N)"] == pytest.approx(weight)
        assert row["all over plain section"] == pytest.approx(weight / (0.25 * 30e6))
    assert "criteria.toml" in ROOMS
    own = loads_of(one, "criteria.toml").loc[name]
    assert (own["factor on live"], own["why"]) == (1.0, "the standard has no rule")


def test_heavy_loads_and_uses_that_are_not_reduced() -> None:
    heavy = grid("columns", 4, per_area=5e3)  # above 100 psf
    assert loads_of(heavy, "asce7-16").loc["column B2 at L1", "factor on live"] == 0.8
    assert loads_of(heavy, "asce7-16").loc["column B2 at L3", "factor on live"] == 1.0
    assert loads_of(heavy, "ubc97").loc["column B2 at L1", "factor on live"] == 1.0
    archive = grid("columns", 4, use="E")
    assert loads_of(archive, "en1998").loc["column B2 at L1", "factor on live"] == 1.0
    top = loads_of(heavy, "asce7-16").loc["column B2 at L4"]
    assert (top["factor on live"], top["why"]) == (1.0, "no floor with live load above")


def test_edge_columns_under_cantilever_slabs() -> None:
    """K_LL 4 inside and at an edge without slab beyond, 3 at an edge with it, 2 at a corner."""
    plain = loads_of(grid("columns", 5), "asce7-16")
    wide = grid("columns", 5).model_copy(update={"outlines": {
        "all": ud.Stretch(between=("A1", "C3"), beyond=1.5)}})
    reaching = loads_of(wide, "asce7-16")
    for column, inside, beyond in (("B2", 4, 4), ("A2", 4, 3), ("B3", 4, 3), ("A1", 4, 2)):
        for table, ratio in ((plain, inside), (reaching, beyond)):
            row = table.loc[f"column {column} at L1"]
            influence = ratio * row["area carried (m²)"] / FT2
            assert row["factor on live"] == pytest.approx(max(0.25 + 15 / influence**0.5, 0.4))


def test_all_columns_together_carry_the_building() -> None:
    table = loads_of(grid("two-way", 4), "asce7-16")
    feet = table[[name.endswith("at L1") for name in table.index]]
    floor = 4 * BAY * SHORT
    assert feet["area carried (m²)"].sum() == pytest.approx(3 * floor, rel=1e-6)
    assert feet["live (N)"].sum() == pytest.approx(3 * 3e3 * floor, rel=1e-6)
