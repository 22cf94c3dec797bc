"""Sections against closed forms, names and rules of members, laws of the whole job on frames."""

from __future__ import annotations

import tomllib
import warnings
from collections import Counter
from dataclasses import fields
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import OWN, ROOMS, Command, dot
from test_frames import BAY, HEIGHT, SITE, SYSTEM, building, model_of, real
from test_wrong_frames import FRAME
from undatum.building.naming import known_names, made_names, selection
from undatum.building.sections import Properties
from undatum.commands.shared import standing
from undatum.project.project_file import validate

MM = 1e-3


def found(**shape: Any) -> Properties:
    return ud.CrossSection(material="steel EN", **shape).found()


# -- sections --------------------------------------------------------------------------------------


def test_rectangle_and_circle() -> None:
    p = found(rectangle="300 x 500 mm")
    assert (p.area, p.bending_y, p.bending_z) == pytest.approx(
        (0.15, 0.3 * 0.5**3 / 12, 0.5 * 0.3**3 / 12))
    assert found(rectangle=[0.4, 0.4]).torsion == pytest.approx(0.1406 * 0.4**4, rel=3e-4)
    assert found(rectangle=[0.4, 4.0]).torsion == pytest.approx(0.312 * 4 * 0.4**3, rel=2e-3)
    assert found(rectangle=[4.0, 0.4]).torsion == pytest.approx(found(rectangle=[0.4, 4]).torsion)
    c = found(circle="0.5 m")
    assert (c.area, c.bending_y, c.torsion) == pytest.approx(
        (np.pi * 0.25**2, np.pi * 0.25**4 / 4, np.pi * 0.25**4 / 2))


def by_strips(shape: Any, width: float, depth: float, n: int = 1200) -> tuple[float, float, float]:
    """Area and second moments about the center, by adding up small squares."""
    y = (np.arange(n) + 0.5) / n * width - width / 2
    z = (np.arange(n) + 0.5) / n * depth - depth / 2
    inside = shape(*np.meshgrid(y, z, indexing="ij"))
    cell = width * depth / n**2
    area = inside.sum() * cell
    y0, z0 = (inside.sum(axis=1) @ y) * cell / area, (inside.sum(axis=0) @ z) * cell / area
    return (area, (inside.sum(axis=0) @ (z - z0) ** 2) * cell,
            (inside.sum(axis=1) @ (y - y0) ** 2) * cell)


@pytest.mark.parametrize(("shape", "inside", "size"), [
    ({"i_shape": "200 x 400 x 20 x 10 mm"},
     lambda y, z: (np.abs(z) > 0.18) | (np.abs(y) < 0.005), (0.2, 0.4)),
    ({"channel": "100 x 300 x 20 x 10 mm"},
     lambda y, z: (np.abs(z) > 0.13) | (y < -0.04), (0.1, 0.3)),
    ({"tee": "240 x 300 x 30 x 20 mm"},
     lambda y, z: (z > 0.12) | (np.abs(y) < 0.01), (0.24, 0.3)),
    ({"hollow_rectangle": "200 x 300 x 10 mm"},
     lambda y, z: (np.abs(y) > 0.09) | (np.abs(z) > 0.14), (0.2, 0.3)),
    ({"hollow_circle": "300 x 20 mm"},
     lambda y, z: (np.hypot(y, z) < 0.15) & (np.hypot(y, z) > 0.13), (0.3, 0.3)),
], ids=lambda v: next(iter(v)) if isinstance(v, dict) else "")
def test_shapes_by_strips(shape: dict[str, str], inside: Any, size: tuple[float, float]) -> None:
    p = found(**shape)
    assert (p.area, p.bending_y, p.bending_z) == pytest.approx(by_strips(inside, *size), rel=3e-3)
    assert (p.width, p.depth) == pytest.approx(size)
    assert 0 < p.shear_y + p.shear_z < 1.2 * p.area


def test_closed_and_open_sections_in_torsion() -> None:
    """A slit tube loses its torsional stiffness; a thin round one has Bredt's 2 pi r^3 t."""
    assert found(hollow_circle="300 x 2 mm").torsion == pytest.approx(
        2 * np.pi * 0.149**3 * 0.002, rel=1e-3)
    closed = found(hollow_rectangle="200 x 200 x 8 mm").torsion
    assert closed == pytest.approx(0.192**3 * 0.008)
    assert found(i_shape="200 x 200 x 8 x 8 mm").torsion < closed / 100


# -- names and selections --------------------------------------------------------------------------


@given(low=st.integers(1, 40), count=st.integers(1, 30), before=st.sampled_from(["", "L", "Lev "]))
def test_ranges_make_what_they_choose(low: int, count: int, before: str) -> None:
    names = made_names(f"{before}{low}..{before}{low + count}")
    assert names == [f"{before}{k}" for k in range(low, low + count + 1)]
    assert known_names(f"{names[0]}..{names[-1]}", names, "levels") == names
    assert known_names(f"{names[-1]}..{names[0]}", names, "levels") == names
    assert known_names(f"{names[-1]}, {names[0]}", names, "levels") == [names[0], names[-1]]


@pytest.mark.parametrize(("text", "parts"), [
    ("all", ("", "", "", "")), ("all at Roof", ("", "", "", "Roof")),
    ("on B", ("B", "", "", "")), ("B, C", ("B, C", "", "", "")),
    ("on B between 2 and 4 at L1..L3", ("B", "2", "4", "L1..L3")),
    ("at L1, L2", ("", "", "", "L1, L2")), ("A1 at L1", ("A1", "", "", "L1")),
])
def test_selections(text: str, parts: tuple[str, ...]) -> None:
    one = selection(text)
    assert tuple(getattr(one, f.name) for f in fields(one)) == parts  # type: ignore[arg-type]


def test_members_of_the_frame_are_physical() -> None:
    """A beam over a missing column is one; names stay when something else changes."""
    project, faults = validate(tomllib.loads(FRAME))
    assert project is not None, faults
    frame = project.building.frame
    assert frame is not None
    names = [m.name for m in frame.members]
    assert len(set(names)) == len(names)
    kinds = Counter(m.kind for m in frame.members)
    # 20 crossings below L4 and 12 above, without C2 in two stories
    assert kinds["column"] == 3 * 20 + 3 * 12 - 2
    # spans along X and along Y: a missing column joins two of each
    assert kinds["beam"] == 3 * (4 * 4 + 5 * 3) + 3 * (4 * 2 + 3 * 3) - 2 * 2
    joined = next(m for m in frame.members if m.name == "beam C 1-3 at L1")
    assert joined.length == pytest.approx(14)
    assert len(joined.elements) == 2
    assert frame.transfer == ("column C2 at L3",)
    after = [m.name for m in project.varied({"building.members[0].turned": "90 deg"})
             .building.frame.members]  # type: ignore[union-attr]
    assert after == names


@pytest.mark.parametrize(("which", "count"), [
    ("columns on B at L1", 5), ("columns on 1..2 at Roof", 8), ("C3 at L2", 1),
    ("beams on A between 1 and 3 at L1..L3", 6), ("beams at Roof", 17), ("all at L5", 29),
    ("column D5 at L3", 1),
])
def test_which_members(which: str, count: int) -> None:
    project, _ = validate(tomllib.loads(FRAME))
    assert project is not None
    from undatum.layout.members import chosen_members

    assert len(chosen_members(project.building, project.building.frame, which)) == count


def test_crossing_beams_share_a_node_and_braces_divide_beams() -> None:
    frame = real().frame
    assert frame is not None
    skew = next(m for m in frame.members if m.name == "beam A1-B2 at L2")
    chevron = [m for m in frame.members if m.kind == "brace"]
    assert len(chevron) == 2 * 3
    heads = {int(frame.ends[m.elements[-1], 1]) for m in chevron}
    beams = [m for m in frame.members if m.name.startswith("beam A 2-3")]
    assert {int(frame.ends[m.elements[0], 1]) for m in beams} == heads
    crossed = real(lines=[]).model_copy(update={"members": (
        *real().members, ud.MemberRule(beams="at L2", line=("A2", "B1"), section="B"))}).frame
    assert crossed is not None
    middle = (2.5, 2.5)
    at = [k for k, p in enumerate(crossed.points) if np.allclose(p[:2], middle)]
    assert len(at) == 1
    assert np.sum(crossed.ends == at[0]) == 4
    assert len(skew.elements) == 1


# -- laws of the whole job -------------------------------------------------------------------------


def told(project: ud.Project) -> Counter[tuple[str, str, str, str]]:
    """Findings without words that name a place."""
    return Counter((f.check.replace(" X", "").replace(" Y", ""), f.severity.value,
                    "" if f.ratio is None else f"{f.ratio:.6g}", f.clause)
                   for f in ud.run(project).findings if f.check != "plausibility")


def turned(text: str) -> str:
    """The same building with X and Y exchanged."""
    return text.replace("across_x", "?").replace("across_y", "across_x").replace("?", "across_y") \
        .replace('"600 x 600', '"600 x 600').replace("beyond = 0.3", "beyond = 0.3")


def test_a_turned_frame_has_the_same_findings() -> None:
    """Axes exchanged, so that the building lies along Y; columns are square."""
    plain, _ = validate(tomllib.loads(FRAME))
    other, _ = validate(tomllib.loads(turned(FRAME)))
    assert plain is not None
    assert other is not None
    assert told(plain) == told(other)


@given(shift=st.tuples(st.floats(-500, 500), st.floats(-500, 500)))
@settings(deadline=None, max_examples=5)
def test_where_the_axes_start_changes_nothing(shift: tuple[float, float]) -> None:
    axes = real().axes
    assert axes is not None
    moved = real().model_copy(update={"axes": ud.Axes(
        across_x=axes.across_x.model_copy(update={"start": shift[0]}),
        across_y=axes.across_y.model_copy(update={"start": shift[1]}))})
    assert model_of(moved).stiffness.toarray() == pytest.approx(
        model_of(real()).stiffness.toarray(), rel=1e-7, abs=1e2)


def test_order_of_rules_that_say_the_same_changes_nothing() -> None:
    one = real()
    first, second, *rest = one.members
    other = one.model_copy(update={"members": (second, first, *rest)})
    assert model_of(other).stiffness.toarray() == pytest.approx(
        model_of(one).stiffness.toarray(), rel=1e-9, abs=1.0)


def test_taller_frames_keep_their_shear_stiffness() -> None:
    """With stiff beams and no axial strain every story is 12 E I / h^3 a column."""
    from test_frames import HEIGHT, E, slender

    model = model_of(building(slender(2e-3), slender(1e4, other=1e4), stories=4))
    k = 4 * 12 * E * 2e-3 / HEIGHT**3
    x = model.diaphragms.freedoms[:, 0]
    own = model.stiffness.toarray()[np.ix_(x, x)]
    expected = k * (np.diag([1.0, 2, 2, 2]) - np.eye(4, k=1) - np.eye(4, k=-1))
    assert own == pytest.approx(expected, rel=2e-3, abs=2e-3 * k)


# -- the tower -------------------------------------------------------------------------------------


def test_tower_by_rules() -> None:
    """Forty stories of frames around a core of walls; equilibrium holds, beams end at the core."""
    from undatum.project.project_file import shipped_text

    assert len(shipped_text("tower", "tower.toml").splitlines()) < 120
    results = ud.run(ud.shipped_project("tower"))
    assert all(f.severity.value == "ok" for f in results.findings if f.check == "plausibility")
    frame = results.project.building.frame
    assert frame is not None
    kinds = Counter(m.kind for m in frame.members)
    assert kinds["column"] == 4 * 63 + 36 * 49 - 40 * 9
    bays = 4 * (7 * 8 + 9 * 6) + 36 * (7 * 6 + 7 * 6)
    assert kinds["beam"] == bays - 40 * 10  # six bays in walls, and spans joined over no column
    reactions = results.to_frame("reactions")
    own = reactions[(reactions["set"] == "static X, strength") & (reactions["foot"] != "sum")]
    static = next(s for s in results.static_sets if s.name == "static X, strength")
    assert -own["force X (kN)"].sum() == pytest.approx(static.forces.sum() / 1e3, rel=1e-8)
    assert -own[own["foot"] == "core"]["force X (kN)"].iloc[0] > 0.7 * static.forces.sum() / 1e3


def test_commands_on_members(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    """List, forces at points with a table, an elevation and a diagram."""
    path = tmp_path / "frame.toml"
    path.write_text(FRAME, encoding="utf-8")
    table = tmp_path / "forces.csv"
    assert command(["read", str(path), "forces", "columns on A at L1",
                    "--under", "static X, +e, strength", "--at", "0, 0.5, 1",
                    "--table", str(table)]) == 0
    rows = table.read_text(encoding="utf-8").splitlines()
    assert len(rows) == 1 + 5 * 3
    moments = [float(row.split(",")[-1].strip('"')) for row in rows[1:4]]
    assert moments[1] == pytest.approx((moments[0] + moments[2]) / 2)
    assert command(["read", str(path), "forces", "beams on A at L1", "--under", "cases",
                    "--table", str(table)]) == 0
    assert "dead" in table.read_text(encoding="utf-8")
    for extra in ([], ["--action", "moment"], ["--action", "axial", "--under",
                                                "spectrum Y, strength"]):
        plot = tmp_path / f"plot{len(extra)}.png"
        assert command(["elevation", str(path), "B", "--plot", str(plot), *extra]) == 0
        assert plot.stat().st_size > 20_000
    monkeypatch.setattr("undatum.report.figures.save", dot)
    assert command(["run", str(path), "--out", str(tmp_path / "out")]) in (0, 1)
    page = (tmp_path / "out" / "record.html").read_text(encoding="utf-8")
    assert "Members in space" in page
    assert "Sections of members" in page
    back = ud.load(tmp_path / "out")
    assert list(back.read("forces", "beam A 1-2 at L1").table().rows(back.units)) == \
        list(ud.run(ud.read(path)).read("forces", "beam A 1-2 at L1").table().rows(back.units))


def test_weight_of_members_entered_as_a_load_is_found() -> None:
    named = FRAME.replace('name = "slab"', 'name = "concrete frame"')
    for text, count in ((named, 1), (FRAME, 0),
                        (named.replace("[building.axes]", "[building]\nself_weight = false\n"
                                       "[building.axes]"), 0)):
        project, faults = validate(tomllib.loads(text))
        assert project is not None, faults
        found = [f for f in ud.run(project).findings if f.check == "self-weight"]
        assert len(found) == count


@pytest.mark.parametrize("key", ROOMS)
def test_a_frame_runs_under_every_standard(key: str) -> None:
    """Nothing warns, nothing is not a number; periods and weights by kind follow no standard."""
    site, system, *_ = ROOMS[key]
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        results = run_as(key, site, system, real())
        for table in results.tables():
            for row in table.rows(results.units):
                assert not any(isinstance(c, float) and not np.isfinite(c) for c in row), table.name
        assert "axis A" in results.to_frame("line_shears")["line"].tolist()


def run_as(key: str, site: dict[str, Any], system: dict[str, Any], one: ud.Building) -> ud.Results:
    return ud.run(ud.make_project(
        title="frame", standard=key, results_in="kN and m", site=site, folder=OWN,
        system={"X": system, "Y": system}, building=one))


def test_uncracked_members_are_found_where_cracking_is_asked_for() -> None:
    """EN 1998-1, 4.3.1(7): half of the gross stiffness, of members as of walls."""
    site, system, *_ = ROOMS["en1998"]
    kept = [ud.MemberRule(**{kind: "all"}, kept=ud.KeptShares(  # type: ignore[arg-type]
        bending_y=0.5, bending_z=0.5, shear=0.5, reason="4.3.1(7)"))
        for kind in ("columns", "beams")]
    cracked = real().model_copy(update={"members": (*real().members, *kept)})
    found = [[f for f in run_as("en1998", site, system, one).findings
              if "crack" in f.check or "crack" in f.text] for one in (real(), cracked)]
    assert any(f.severity.value != "ok" for f in found[0])
    assert not any(f.severity.value in ("warning", "exceeded") for f in found[1])


def test_rules_without_section_reach_braces_and_beams_off_the_axes() -> None:
    one = real()
    changed = one.model_copy(update={"members": (
        *one.members, ud.MemberRule(braces="on A", hinged="start"),
        ud.MemberRule(beams="all at L2", hinged="end"))}).frame
    assert changed is not None
    for m in changed.members:
        first, last = changed.hinged[m.elements[0], 0], changed.hinged[m.elements[-1], 1]
        expected = (True, False) if m.kind == "brace" else \
            (False, True) if m.kind == "beam" and m.level == "L2" else (False, False)
        assert (first, last) == expected, m.name
    without = one.model_copy(update={"members": (
        *one.members, ud.MemberRule(braces="all at L2", remove=True),
        ud.MemberRule(beams="at L2", line=("A1", "B2"), remove=True))}).frame
    assert without is not None
    assert sum(m.kind == "brace" for m in without.members) == 4
    assert not any(m.name.startswith("beam A1-B2") for m in without.members)


# -- what the standard says of cracking, and strengths ---------------------------------------------


def kept_of(standard: str) -> dict[str, list[float]]:
    """Shares that the members of a concrete frame with a steel brace keep, by kind."""
    site, system, *_ = ROOMS[standard]
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    one = building(square, square)
    one = one.model_copy(update={
        "sections": {**one.sections, "tube": ud.CrossSection(
            hollow_circle="200 x 10 mm", material="steel EN")},
        "members": (*one.members, ud.MemberRule(columns="all", kept="by standard"),
                    ud.MemberRule(beams="all", kept="by standard"),
                    ud.MemberRule(braces="on A", pattern="rising", section="tube",
                                  kept="by standard"))})
    results = ud.analyze(title="cracked", standard=standard, results_in="N and m", site=site,
                         system={"X": system, "Y": system}, folder=OWN, building=one)
    assert results.model.framed is not None
    frame = results.model.framed.frame
    return {m.kind: frame.kept[m.elements[0]].tolist() for m in frame.members}


@pytest.mark.parametrize(("standard", "column", "beam"), [
    ("en1998", [0.5, 0.5, 1, 1, 0.5], [0.5, 0.5, 1, 1, 0.5]),
    ("is1893-2016", [0.7, 0.7, 1, 1, 1], [0.35, 0.35, 1, 1, 1])])
def test_cracked_shares_of_the_standard(
    standard: str, column: list[float], beam: list[float]
) -> None:
    """4.3.1(7) of EN 1998-1, 6.4.3.1 of IS 1893:2016; steel braces keep everything."""
    found = kept_of(standard)
    assert found == {"column": column, "beam": beam, "brace": [1.0] * 5}


@pytest.mark.parametrize("standard", ["asce7-16", "ubc97", "is1893-2002"])
def test_standards_without_shares_say_so(standard: str) -> None:
    with pytest.raises(ud.InputError, match=r"(?s)members\[2\]\.kept.*names no shares"):
        kept_of(standard)


def test_strengths_of_members_are_judged() -> None:
    """Four columns of 100 and 60 kN; a brace adds its part along X alone; a column without one
    leaves the story unknown, one that swings does not."""
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    rules = (ud.MemberRule(columns="all at L1", strength=6e4),
             ud.MemberRule(columns="all at L2", strength=1e5))

    def facts(*more: ud.MemberRule) -> ud.Job:
        one = building(square, square, stories=2, rules=(*rules, *more))
        return ud.calculate(ud.make_project(title="s", standard="asce7-16", results_in="N and m",
                                          site=SITE,
                                          system=SYSTEM, building=one))

    plain = facts()
    assert plain.shape.strengths == pytest.approx(np.array([[4e5, 2.4e5]] * 2))
    weak = [f for f in plain.findings if f.check == "weak story"]
    assert weak
    assert all("0.60 times" in f.text and f.severity.value != "ok" for f in weak)
    braced = facts(ud.MemberRule(braces="on A at L1", pattern="rising", section="beam",
                                 strength=3e5))
    part = BAY / np.hypot(BAY, HEIGHT)
    assert braced.shape.strengths[:, 1] == pytest.approx([2.4e5 + 3e5 * part, 2.4e5])
    lines = {x.name: x.strength for x in braced.model.lines}
    assert lines["axis A"] == pytest.approx([2e5, 1.2e5 + 3e5 * part])
    unknown = facts(ud.MemberRule(braces="on A at L1", pattern="rising", section="beam"))
    assert np.isnan(unknown.shape.strengths[0, 1])
    assert unknown.shape.strengths[1] == pytest.approx([4e5, 2.4e5])
    swinging = facts(ud.MemberRule(columns="A1 at L1", hinged="both"))
    assert swinging.shape.strengths[0] == pytest.approx([4e5, 1.8e5])


def test_brace_with_stiffer_ends_is_springs_in_a_row() -> None:
    """L / EA of the core over 0.7 L and of the ends over 0.3 L, added up."""
    bar, end = ud.CrossSection(circle=0.05, material="steel EN"), ud.CrossSection(
        circle=0.09, material="steel EN")
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")

    def axial(**more: Any) -> float:
        one = building(square, square)
        one = one.model_copy(update={
            "sections": {**one.sections, "bar": bar, "end": end},
            "members": (*one.members, ud.MemberRule(
                braces="on A", pattern="rising", section="bar", **more))})
        framed = model_of(one).framed
        assert framed is not None
        e = next(m for m in framed.frame.members if m.kind == "brace").elements[0]
        return float(framed.elements.stiffness[e, 0, 0])

    a, b = bar.found().area, end.found().area
    length = np.hypot(BAY, HEIGHT)
    assert axial() == pytest.approx(210e9 * a / length)
    row = 0.7 * length / (210e9 * a) + 0.3 * length / (210e9 * b)
    ends = ud.BraceEnds(section="end", share=0.3)
    assert axial(ends=ends) == pytest.approx(1 / row)
    kept = ud.KeptShares(axial=0.5, reason="test")
    assert axial(ends=ends, kept=kept) == pytest.approx(0.5 / row)
    with pytest.raises(ud.InputError, match=r"'emd' is not among.*\n.*'end'"):
        axial(ends=ud.BraceEnds(section="emd", share=0.3))
    with pytest.raises(ud.InputError, match="braces only"):
        ud.MemberRule(beams="all", section="bar", ends=ends)


@pytest.mark.parametrize("name", ["archive", "clinic"])
def test_a_building_in_members_is_its_concept(name: str) -> None:
    """The same weight and centers as the concept; periods within a tenth."""
    concept, members = (ud.calculate(ud.shipped_project(one)) for one in (name, f"{name}_frames"))
    assert members.weights.weight == pytest.approx(concept.weights.weight, rel=1e-9)
    assert members.weights.centers == pytest.approx(concept.weights.centers, rel=1e-9)
    for d in "XY":
        assert members.computed[d] == pytest.approx(concept.computed[d], rel=0.11)


def test_walls_and_frames_share_the_story() -> None:
    """The clinic: walls as lines take most at the foot, and with the axes they take it all."""
    found = ud.run(ud.shipped_project("clinic_frames"))
    one = found.static_sets[0]
    shears = found.shears.lines.sel(set=one.name)
    labels = shears.axes[0].labels
    foot = [k for k, story in enumerate(labels["story"]) if story == "First floor"]
    along = {line.name: float(line.axis[0]) for line in found.model.lines}
    walls = sum(float(shears.values[k]) * along[labels["line"][k]] for k in foot
                if labels["line"][k].startswith("Wall"))
    whole = sum(float(shears.values[k]) * along[labels["line"][k]] for k in foot)
    assert whole == pytest.approx(one.forces.sum(), rel=1e-9)
    assert 0.8 < walls / whole < 1.0


def test_columns_that_end_in_the_air_are_named() -> None:
    """A crossing named beyond the set-back runs on without a floor; with its levels it does not."""
    text = FRAME + """[[building.members]]
columns = "A5"
section = "C50"
"""
    for said, count in ((text, 1), (text.replace('"A5"', '"A5 at L1..L3"'), 0), (FRAME, 0)):
        project, _ = validate(tomllib.loads(said))
        assert project is not None
        found = [f for f in ud.calculate(project).questions
                 if f.check == "members ending in the air"]
        assert len(found) == count
        assert all("column A5 at Roof" in f.where for f in found)


def test_strong_axes_of_columns_are_told_as_they_act() -> None:
    """Pushed along the direction they are said to resist, frame columns bend about the axis of
    which their section has more; pushed across it, where braces stand, far less so."""
    found = ud.run(ud.shipped_project("archive_frames"))
    frame = frame_of_building(found)
    assert standing(frame).split("; ")[0] == "frame_column_low: 72 along X"
    column = next(m for m in frame.members if m.section == "frame_column_low" and m.level == "L2")
    section = frame.sections[frame.section[column.elements[0]]]
    assert section.bending_y != section.bending_z
    strong = 4 if section.bending_y > section.bending_z else 5
    share = {}
    for direction in "XY":
        values = found.read("forces", column.name, f"static {direction}, +e, strength").values[0]
        most = np.abs(values).max(axis=0)
        share[direction] = most[strong] / most[9 - strong]
    assert share["X"] > 10 * share["Y"] > 0


def frame_of_building(results: ud.Results) -> Any:
    frame = results.project.building.frame
    assert frame is not None
    return frame
