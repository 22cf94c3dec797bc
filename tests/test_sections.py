"""Angles, composed sections and flanges: against strips, sums by hand and frames of them."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import OWN, ROOMS
from test_frames import HEIGHT, E, building, model_of, slender
from undatum.building.shapes import Properties
from undatum.report.files import csv_text
from undatum.stages.members import sections_table
from undatum.standards.flanges import RULES, BesideBeam
from undatum.units import UnitSystem

Part = ud.SectionPart


def found(material: str = "steel EN", **shape: Any) -> Properties:
    return ud.CrossSection(material=material, **shape).found()


def moments(b: float, h: float, t: float, n: int = 1500) -> tuple[float, Any]:
    """Area and tensor of second moments about y and z of an angle, by small squares."""
    y = (np.arange(n) + 0.5) / n * b - b / 2
    z = (np.arange(n) + 0.5) / n * h - h / 2
    yy, zz = np.meshgrid(y, z, indexing="ij")
    inside = (zz < -h / 2 + t) | (yy < -b / 2 + t)
    cell = b * h / n**2
    yy, zz = yy[inside], zz[inside]
    yy, zz = yy - yy.mean(), zz - zz.mean()
    return yy.size * cell, cell * np.array(
        [[np.sum(yy * yy), np.sum(yy * zz)], [np.sum(yy * zz), np.sum(zz * zz)]])


@pytest.mark.parametrize("sizes", [(0.1, 0.15, 0.012), (0.15, 0.1, 0.012), (0.12, 0.12, 0.01)])
def test_angle_by_strips(sizes: tuple[float, float, float]) -> None:
    """Principal moments are the eigenvalues, the tilt turns y to a principal axis."""
    p = found(angle=list(sizes))
    area, tensor = moments(*sizes)
    assert p.area == pytest.approx(area, rel=3e-3)
    assert sorted((p.bending_y, p.bending_z)) == pytest.approx(np.linalg.eigvalsh(tensor), rel=5e-3)
    along = np.array([np.cos(p.tilt), np.sin(p.tilt)])  # local y among the axes of the sizes
    across = np.array([-along[1], along[0]])
    assert along @ tensor @ along == pytest.approx(p.bending_z, rel=5e-3)  # about z: distances in y
    assert across @ tensor @ across == pytest.approx(p.bending_y, rel=5e-3)
    assert abs(along @ tensor @ across) < 3e-3 * p.bending_y
    assert abs(p.tilt) <= np.pi / 4 + 1e-12


def test_angle_columns_push_a_floor_aside() -> None:
    """Four cantilevers of angles: the sway stiffness has the product of area off its diagonal."""
    sizes = (0.1, 0.15, 0.012)
    section = ud.CrossSection(material="stuff", angle=list(sizes))
    frame = building(section, slender(1e4, other=1e4),
                     rules=(ud.MemberRule(beams="all", hinged="both"),))
    k = model_of(frame).stiffness.toarray()[:2, :2]
    _, tensor = moments(*sizes)
    shear = 0.02 * np.abs(tensor).max()
    assert k * HEIGHT**3 / (4 * 3 * E) == pytest.approx(tensor, rel=0.02, abs=shear)
    assert k[0, 1] < 0


@given(turn=st.sampled_from([0.0, 0.5, 1.0, 1.5]), b=st.floats(0.08, 0.2), h=st.floats(0.08, 0.2))
def test_principal_moments_keep_their_sum(turn: float, b: float, h: float) -> None:
    p = found(angle=[b, h, 0.01])
    _, tensor = moments(b, h, 0.01, 300)
    assert p.bending_y + p.bending_z == pytest.approx(np.trace(tensor), rel=0.1)
    assert p.bending_y * p.bending_z == pytest.approx(np.linalg.det(tensor), rel=0.2)


def test_floor_loads_on_tilted_beams_stay_vertical() -> None:
    """Beams of angles: the reactions are the loads, and nothing pushes sideways."""
    angle = ud.CrossSection(material="steel EN", angle="200 x 300 x 20 mm")
    frame = building(slender(2e-3), angle, self_weight=False)
    site = {"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"}
    results = ud.analyze(title="t", standard="asce7-16", results_in="kN and m", site=site,
                         building=frame,
                         system={"X": {"row": "C.5"}, "Y": {"row": "C.5"}})
    case = results.load_cases().on_members[0][1]
    assert case.reactions[:, 2].sum() == pytest.approx(6e3 * 30)
    assert case.residual < 1e-9
    assert abs(case.reactions[:, :2].sum(axis=0)).max() < 1e-6 * 6e3 * 30


# -- composed sections -----------------------------------------------------------------------------


def test_parts_make_the_shape() -> None:
    """Three plates are the I they form; a box with a hole is the tube."""
    plates = found(parts=[Part(rectangle="200 x 20 mm", at=(0, "190 mm")),
                          Part(rectangle="10 x 360 mm"),
                          Part(rectangle="200 x 20 mm", at=(0, "-190 mm"))])
    whole = found(i_shape="200 x 400 x 20 x 10 mm")
    for key in ("area", "bending_y", "bending_z", "width", "depth"):
        assert getattr(plates, key) == pytest.approx(getattr(whole, key)), key
    tube = found(parts=[Part(rectangle="200 x 300 mm"),
                        Part(rectangle="180 x 280 mm", cut_out=True)])
    box = found(hollow_rectangle="200 x 300 x 10 mm")
    for key in ("area", "bending_y", "bending_z"):
        assert getattr(tube, key) == pytest.approx(getattr(box, key)), key


def test_two_channels_back_to_back_by_hand() -> None:
    """I_z by the parallel axes, each channel turned by its place alone."""
    one = found(channel="80 x 200 x 11 x 8 mm")
    web = 0.04 + one.middle[0]  # from the back to the center of area
    gap = 0.012
    other = ud.CrossSection(material="steel EN", parts=[
        Part(channel="80 x 200 x 11 x 8 mm", at=(gap / 2 + 0.04, 0))]).found()
    assert other.bending_z == pytest.approx(one.bending_z)  # alone, about its own center
    # a plate opposite makes the pair unsymmetrical: by hand
    plate = 0.2 * 0.01
    y = np.array([gap / 2 + web, -gap / 2 - 0.005])
    area = np.array([one.area, plate])
    center = area @ y / area.sum()
    by_hand = one.bending_z + 0.2 * 0.01**3 / 12 + area @ (y - center) ** 2
    pair = found(parts=[Part(channel="80 x 200 x 11 x 8 mm", at=(gap / 2 + 0.04, 0)),
                        Part(rectangle="10 x 200 mm", at=(-gap / 2 - 0.005, 0))])
    assert pair.bending_z == pytest.approx(by_hand)


def test_steel_in_concrete() -> None:
    """Transformed to concrete; weight of both, the steel's room taken out of the concrete."""
    column = ud.CrossSection(material="C30/37", parts=[
        Part(rectangle="400 x 400 mm"), Part(i_shape="200 x 200 x 15 x 9 mm", cut_out=True),
        Part(i_shape="200 x 200 x 15 x 9 mm", material="steel EN")])
    steel = found(i_shape="200 x 200 x 15 x 9 mm")
    n = 210e9 / (22e9 * 3.8**0.3)
    p = column.found()
    assert p.area == pytest.approx(0.16 + (n - 1) * steel.area)
    assert p.bending_y == pytest.approx(0.4**4 / 12 + (n - 1) * steel.bending_y)
    slide = n * 1.2 / 1.3  # shear moduli: Poisson ratios 0.3 and 0.2
    assert p.shear_z == pytest.approx(5 / 6 * 0.16 + (slide - 1) * steel.shear_z)
    assert column.unit_weight() * p.area == pytest.approx(
        25e3 * (0.16 - steel.area) + 78.5e3 * steel.area)


def test_composed_sections_weigh_what_they_are() -> None:
    frame = building(
        ud.CrossSection(material="C30/37", parts=[
            Part(rectangle="400 x 400 mm"),
            Part(hollow_rectangle="400 x 400 x 10 mm", cut_out=True),
            Part(hollow_rectangle="400 x 400 x 10 mm", material="steel EN")]), slender(2e-3))
    assert frame.frame is not None
    areas = 0.4**2 - 0.38**2
    weight = 4 * HEIGHT * (25e3 * 0.38**2 + 78.5e3 * areas)
    f = frame.frame
    own = [p.area for p in f.sections]
    total = sum(own[s] * f.materials[s, 2] * length
                for s, length, kind in zip(f.section, f.lengths, f.kinds, strict=True)
                if kind == "column")
    assert total == pytest.approx(weight)


@pytest.mark.parametrize(("shape", "said"), [
    ({"angle": "100 x 100 x 120 mm"}, "legs are thicker"),
    ({"parts": [Part(rectangle="100 x 100 mm", cut_out=True)]}, "cut out"),
    ({"parts": [Part(rectangle="100 x 100 mm"),
                Part(rectangle="200 x 200 mm", cut_out=True)]}, "cut out"),
    ({"parts": [Part(rectangle="100 x 100 mm")], "rectangle": "100 x 100 mm"}, "give one of"),
    ({}, "give one of"),
])
def test_wrong_sections(shape: dict[str, Any], said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        ud.CrossSection(material="steel EN", **shape)


def test_wrong_parts() -> None:
    with pytest.raises(ud.InputError, match="give one of"):
        Part(at=(0, 0))
    with pytest.raises(ud.InputError, match="thicker"):
        Part(tee="100 x 100 x 120 x 10 mm")
    with pytest.raises(ud.InputError, match="leave nothing that bends"):
        building(ud.CrossSection(material="stuff", parts=[
            Part(rectangle="100 x 300 mm"),
            Part(rectangle="90 x 300 mm", at=(0.2, 0), cut_out=True)]), slender(2e-3))
    with pytest.raises(ud.InputError, match=r"parts\[0\].material.*not among the materials"):
        building(ud.CrossSection(material="stuff", parts=[
            Part(rectangle="100 x 300 mm", material="cheese")]), slender(2e-3))


def test_tilted_sections_come_back_from_their_table(tmp_path: Path) -> None:
    """What the table of sections of a run holds makes the same stiffness again."""
    angle = ud.CrossSection(material="stuff", angle="100 x 150 x 12 mm")
    one = building(angle, slender(2e-3))
    assert one.frame is not None
    path = tmp_path / "sections.csv"
    path.write_text(csv_text(sections_table(one, one.frame), UnitSystem("kip and in")), newline="")
    other = one.model_copy(update={"sections": ud.read_sections(path)})
    a, b = model_of(one).stiffness.toarray(), model_of(other).stiffness.toarray()
    assert b == pytest.approx(a, rel=1e-5, abs=1e-6 * np.abs(a).max())
    assert abs(a[0, 1]) > 1e-3 * a[0, 0]


# -- slab that works with beams --------------------------------------------------------------------

BESIDE = BesideBeam(6.0, 5.5, 2, 0.3, 0.15, 1.2, 2.1)
EDGE = replace(BESIDE, continues=1, left=0.0)


@pytest.mark.parametrize(("rule", "one", "width"), [
    # 0.3 + min(1.2, 1.2, 0.6875) + min(1.2, 2.1, 0.6875)
    ("ACI 318-14", BESIDE, 0.3 + 2 * 5.5 / 8), ("ACI 318-19", EDGE, 0.3 + 5.5 / 12),
    ("ACI 318-19", replace(BESIDE, slab=0.05, clear=20.0), 0.3 + 0.8),
    ("ACI 318-14", replace(EDGE, slab=0.05, clear=20.0), 0.3 + 0.3),
    # in all a quarter of the span; a twelfth beside an edge beam
    ("ACI 318-05", BESIDE, 1.5), ("ACI 318-08", EDGE, 0.8),
    ("UBC 1997, chapter 19", replace(BESIDE, length=20.0), 0.3 + 1.2 + 1.2),
    # l_0 = 4.2: 0.2 x 1.2 + 0.42 = 0.66, 0.2 x 2.1 + 0.42 = 0.84, at most 0.84
    ("EN 1992-1-1", BESIDE, 0.3 + 0.66 + 0.84),
    # l_0 = 5.1: 0 and 0.42 + 0.51
    ("EN 1992-1-1", EDGE, 0.3 + 0.93),
    ("EN 1992-1-1", replace(BESIDE, continues=0, left=0.1, right=9.0), 0.3 + 0.1 + 1.2),
    # l_0 = 4.2: 0.7 + 0.3 + 0.9; 0.35 + 0.3 + 0.45
    ("IS 456", BESIDE, 1.9), ("IS 456", EDGE, 1.1), ("IS 456", replace(BESIDE, left=0.2, right=0.3),
                                                     0.8),
])
def test_effective_widths_by_hand(rule: str, one: BesideBeam, width: float) -> None:
    assert RULES[rule](one).width == pytest.approx(width)


def slabbed(key: str = "en1998", **more: Any) -> ud.Results:
    """Two bays of 6 and 5 m by two of 4 and 7 m, slab 0.3 m beyond the outer axes."""
    beam = ud.CrossSection(material="C30/37", rectangle="300 x 600 mm",
                           flange=ud.Flange(thickness=0.15))
    one = building(ud.CrossSection(material="C30/37", rectangle="400 x 400 mm"), beam,
                   x=(6.0, 5.0), y=(4.0, 7.0), **more)
    one = one.model_copy(update={"outlines": {"all": ud.Stretch(between=("A1", "C3"), beyond=0.3)}})
    site, system, *_ = ROOMS[key]
    return ud.analyze(title="t", standard=key, results_in="kN and m", site=site, building=one,
                      system={"X": system, "Y": system}, folder=OWN)


def test_widths_of_a_floor_by_hand() -> None:
    """Beam B 1-2: 6 m, end span; half clear distances (4 - 0.3) / 2 and (7 - 0.3) / 2."""
    found = slabbed()
    rows = found.to_frame("flanges").set_index("beam")
    assert len(rows) == 12
    one = rows.loc["beam B 1-2 at L1"]
    assert sorted((one["slab on the left (m)"], one["slab on the right (m)"])) == pytest.approx(
        [1.85, 3.35])
    assert one["clear length (m)"] == pytest.approx(5.6)
    zero = 0.85 * 6
    by_hand = 0.3 + min(0.2 * 1.85 + 0.1 * zero, 0.2 * zero) + min(0.2 * 3.35 + 0.1 * zero,
                                                                  0.2 * zero)
    assert one["effective width (m)"] == pytest.approx(by_hand)
    edge = rows.loc["beam A 1-2 at L1"]  # 0.15 m of slab beyond the web, 1.85 m within
    assert sorted((edge["slab on the left (m)"], edge["slab on the right (m)"])) == pytest.approx(
        [0.15, 1.85])
    frame = found.model.framed
    assert frame is not None
    f = frame.frame
    m = next(m for m in f.members if m.name == "beam B 1-2 at L1")
    p = f.sections[f.section[m.elements[0]]]
    tee = ud.CrossSection(material="C30/37", tee=[by_hand, 0.6, 0.15, 0.3]).found()
    assert p.bending_y == pytest.approx(tee.bending_y)
    assert (p.area, p.bending_z) == pytest.approx((0.18, 0.6 * 0.3**3 / 12))


def test_flanges_stiffen_and_weigh_nothing() -> None:
    found = slabbed()
    plain = ud.analyze(title="t", standard="en1998", results_in="kN and m", site=ROOMS["en1998"][0],
                       system=dict.fromkeys("XY", ROOMS["en1998"][1]),
                       building=found.project.building.model_copy(update={"sections": {
                           **found.project.building.sections, "beam": ud.CrossSection(
                               material="C30/37", rectangle="300 x 600 mm")}}))
    assert found.weights.total == pytest.approx(plain.weights.total)
    assert found.modes.periods[0] < 0.98 * plain.modes.periods[0]


@pytest.mark.parametrize("key", [k for k in ROOMS if k not in (
    "criteria.toml", "nzs1170", "tbdy2018")])
def test_every_standard_has_its_concrete(key: str) -> None:
    rows = slabbed(key).to_frame("flanges")
    assert rows["clause"].str.startswith(("ACI", "EN", "IS", "UBC")).all()
    assert (rows["effective width (m)"] > 0.3).all()


def test_mirrored_floors_have_the_same_widths() -> None:
    """Sides are told apart by the slab, not by the way a beam runs."""
    one = slabbed().to_frame("flanges")["effective width (m)"]
    other = building(ud.CrossSection(material="C30/37", rectangle="400 x 400 mm"),
                     ud.CrossSection(material="C30/37", rectangle="300 x 600 mm",
                                     flange=ud.Flange(thickness=0.15)),
                     x=(5.0, 6.0), y=(7.0, 4.0))
    other = other.model_copy(update={"outlines": {
        "all": ud.Stretch(between=("A1", "C3"), beyond=0.3)}})
    found = ud.analyze(title="t", standard="en1998", results_in="kN and m", site=ROOMS["en1998"][0],
                       system=dict.fromkeys("XY", ROOMS["en1998"][1]), building=other)
    assert sorted(found.to_frame("flanges")["effective width (m)"]) == pytest.approx(sorted(one))


def test_given_widths_go_before_the_standard() -> None:
    found = slabbed(flange_widths={"beam B 1-2 at L1": 1.0})
    rows = found.to_frame("flanges").set_index("beam")
    assert rows.loc["beam B 1-2 at L1", "effective width (m)"] == 1.0
    assert rows.loc["beam B 1-2 at L1", "why"] == "as given"
    assert rows.loc["beam B 2-3 at L1", "why"] != "as given"


def test_ends_of_a_beam_off_the_axes() -> None:
    """What stops in the air keeps its web; what goes on over a beam in its line has one end free to
    turn; a slanted one leaves a column through its nearest face."""
    def lines(*ends: tuple[float, float]) -> tuple[ud.MemberRule, ...]:
        return tuple(ud.MemberRule(beams="all", line=pair, section="beam")
                     for pair in pairwise(ends))

    def read(one: tuple[ud.MemberRule, ...]) -> Any:
        found = slabbed(rules=one).to_frame("flanges").set_index("beam")
        return found[found.index.str.contains("(3.000", regex=False)]

    stub = read(lines((3.0, 0.0), (3.0, 2.0))).iloc[0]
    assert (stub["why"], stub["clear length (m)"]) == ("ends in the air: the web alone", 2.0)
    assert np.isnan(stub["effective width (m)"])
    through = read(lines((3.0, 0.0), (3.0, 4.0), (3.0, 11.0)))
    assert list(through["goes on over"]) == ["1 of 2 ends"] * 2
    assert list(through["clear length (m)"]) == pytest.approx([4.0, 7.0])
    assert (through["slab on the left (m)"] - 1.35).abs().max() < 1e-9  # (3 - 0.3) / 2
    assert (read(lines((3.0, 0.0), (3.0, 4.0)))["goes on over"] == "0 of 2 ends").all()
    slanted = read(lines((3.0, 0.0), (6.0, 4.0))).iloc[0]  # 3-4-5, into the column at B2
    face = 0.2 / 0.8  # leaves the column through the face across Y
    assert slanted["clear length (m)"] == pytest.approx(5.0 - face)


def test_wrong_flanges() -> None:
    with pytest.raises(ud.InputError, match="did you mean 'beam B 1-2 at L1'"):
        slabbed(flange_widths={"beam B 1-2 at L": 1.0})
    with pytest.raises(ud.InputError, match="narrower than the web"):
        slabbed(flange_widths={"beam B 1-2 at L1": 0.2})
    with pytest.raises(ud.InputError, match="has no rule for it"):
        slabbed("criteria.toml")
    for shape, said in (({"circle": 0.5}, "goes with a rectangle"),
                        ({"rectangle": [0.3, 0.1]}, "thicker than the beam")):
        with pytest.raises(ud.InputError, match=said):
            ud.CrossSection(material="C30/37", flange=ud.Flange(thickness=0.15), **shape)
    with pytest.raises(ud.InputError, match="narrower than the web"):
        ud.CrossSection(material="C30/37", rectangle=[0.3, 0.6],
                        flange=ud.Flange(thickness=0.15, width=0.2))
    with pytest.raises(ud.InputError, match="has no flange"):
        building(slender(2e-3), slender(2e-3), flange_widths={"beam A 1-2 at L1": 1.0})


@pytest.mark.parametrize(("name", "modulus", "strength"), [
    ("4 ksi", 3604.997 * 6.894757e6, 27.57903e6), ("M25", 25e9, 25e6), ("S355", 210e9, 355e6),
    ("A992", 199.948e9, 344.738e6), ("C30/37", 32.8366e9, 30e6)])
def test_grades_of_several_countries(name: str, modulus: float, strength: float) -> None:
    from undatum.building.materials import SHIPPED

    one = SHIPPED[name]
    assert (one.modulus, one.strength) == pytest.approx((modulus, strength), rel=1e-5)
    assert one.source
