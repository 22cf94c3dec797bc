"""What frames, braces and walls take of the base shear, and what standards make of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, shear_building
from test_en1998 import SITE as EN_SITE
from test_frames import building as frame_of
from undatum.finding import Finding, Severity
from undatum.mechanics.actions import section_forces

SQUARE = ud.CrossSection(rectangle="400 x 400 mm", material="C30/37")
BEAM = ud.CrossSection(rectangle="300 x 500 mm", material="C30/37")
HINGED = ud.MemberRule(beams="all", hinged="both")
EN: dict[str, Any] = {"site": EN_SITE}


def both(*rules: ud.MemberRule, thickness: float = 0.2, length: float = 3.0, walls: bool = True,
         mirrored: bool = False, **more: Any) -> ud.Building:
    """Frames of three bays by two, and a wall along X and along Y inside of them."""
    def at(x: float, y: float) -> tuple[float, float]:
        return (18.0 - x if mirrored else x, y)

    own = [ud.Wall(name="x", between=[at(7.5, 4.0), at(7.5 + length, 4.0)], thickness=thickness,
                   material="stuff"),  # no weight: masses are those of the frame
           ud.Wall(name="y", between=[at(8.0, 2.0), at(8.0, 2.0 + length)], thickness=thickness,
                   material="stuff")] if walls else []
    return frame_of(SQUARE, BEAM, stories=3, x=(6.0,) * 3, y=(5.0,) * 2, walls=tuple(own),
                    rules=rules, **more)


def job(one: ud.Building, row: str = "D.3", standard: str = "asce7-16", **more: Any) -> ud.Job:
    given: dict[str, Any] = {
        "title": "t", "standard": standard, "site": SITE, "building": one,
        "system": {d: {"row": row} for d in "XY"}, **more}
    return ud.calculate(ud.make_project(**given))


def found(of: ud.Job, check: str) -> list[Finding]:
    return [f for f in of.findings if f.check == check]


# -- who takes the base shear ----------------------------------------------------------------------

def test_a_wall_beside_a_line_takes_what_its_stiffness_is() -> None:
    """One story: k = 1 / (h^3 / 3 E I + h / G A) of the wall, over that and the line's."""
    h, line = 3.0, 4e7
    b = shear_building([2 * line], [2e5], height=h)
    section = ud.Cantilever(modulus=30e9, length=2.0, thickness=0.2)
    x0 = b.lines[0].model_copy(update={"stiffness": None, "cantilever": section})
    b = ud.Building(levels=b.levels, lines=[x0, *b.lines[1:]])
    k = 1 / (h**3 / (3 * section.bending) + h / section.shear)
    rest = sum(x.stiffness[0] for x in b.lines[1:] if x.direction == 0.0)  # type: ignore[index]
    taken = job(b).facts.taken["X"]
    assert taken.frames == taken.braces == 0
    # the building turns too where the wall is not like the line; equilibrium holds all the same
    assert taken.walls + taken.lines == pytest.approx(1)
    two = ud.Building(levels=b.levels, lines=[
        x0, x0.model_copy(update={"name": "x0 again", "at": b.lines[1].at}), *b.lines[1:]])
    even = ud.Building(levels=two.levels, lines=[
        *two.lines, two.lines[2].model_copy(update={"name": "over x0", "at": x0.at})])
    assert job(even).facts.taken["X"].walls == pytest.approx(2 * k / (2 * k + 2 * rest))
    assert job(even).facts.taken["Y"].lines == pytest.approx(1)


@pytest.mark.parametrize("mirrored", [False, True])
def test_shares_add_up_and_a_thicker_wall_takes_more(mirrored: bool) -> None:
    thin, thick = (job(both(thickness=t, mirrored=mirrored)).facts.taken for t in (0.15, 0.4))
    for d in ("X", "Y"):
        assert sum(thin[d]) == pytest.approx(1, rel=1e-6)
        assert thin[d].braces == thin[d].lines == 0
        assert 0.2 < thin[d].walls < thick[d].walls < 1
    assert job(both(walls=False), "C.5").facts.taken["X"] == pytest.approx((1, 0, 0, 0))
    usual = job(both(thickness=0.15))
    assert thin["X"] == pytest.approx(usual.facts.taken["X"], rel=1e-6)
    # what is read of the wall at its foot under static forces, which are those by height here
    assert usual.statics["X", "strength"].shear.period < 0.5
    read = usual.results.read("walls", "", "static X*")
    at = [k for k, place in enumerate(zip(*read.thing.places.values(), strict=True))
          if {"x", "L1", "foot"} <= set(place)]
    shear = read.values[:, at, [n for n, _ in read.thing.components].index("shear in plane")]
    own = abs(float(shear.mean())) / usual.strength_statics["X"].forces.sum()
    assert own == pytest.approx(thin["X"].walls, rel=0.015)  # the other wall bends across


def test_braces_are_told_from_columns() -> None:
    rules = [ud.MemberRule(braces=f"on {a} between {p} and {q}", pattern="X", section="beam")
             for a, p, q in (("A", 1, 2), ("C", 1, 2), ("1", "A", "B"), ("4", "A", "B"))]
    taken = job(both(*rules, HINGED, walls=False), "B.3").facts.taken
    for d in ("X", "Y"):
        assert sum(taken[d]) == pytest.approx(1)
        assert taken[d].braces > 0.85


# -- frames of dual systems by themselves ----------------------------------------------------------

def test_frames_alone_are_the_building_described_without_its_walls() -> None:
    """Members of a frame without the walls, under a quarter of the forces; base shears too."""
    whole, bare = job(both()), job(both(walls=False), "C.5")
    alone = whole.frames_alone
    assert alone is not None
    assert alone.shares == dict.fromkeys("XY", (0.25, "12.2.5.1"))
    assert alone.taken["X"] == pytest.approx(whole.facts.taken["X"].frames)
    model, members = bare.model, bare.building.frame.members  # type: ignore[union-attr]
    sets = [s for s in whole.sets if s.state == whole.strength]
    assert len(sets) == 4
    loads = np.column_stack([
        model.loads(s.direction, s.forces / 4, s.torques / 4) for s in sets])
    moved = bare.solver.solve(loads)
    values = np.abs(section_forces(model, members, (0, 1)).of(moved, loads).T).reshape(
        4, -1, 2, 6).max(axis=(0, 2))
    parts = {p.name: p for p in alone.parts}
    assert set(parts) == {m.name for m in members}
    for m, v in zip(members, values, strict=True):
        assert parts[m.name].alone == pytest.approx(
            (v[0], max(v[1:3]), max(v[4:6])), rel=1e-5, abs=1e-3 * values.max())
    for s, motion, load in zip(sets, moved.T, loads.T, strict=True):
        shear = model.at_base("story shear", component=s.direction).of(motion, load)
        assert abs(float(shear[0])) == pytest.approx(s.forces.sum() / 4)
    analysis = whole.results.read("forces", under="static *; spectrum *")
    plain = [k for k, name in enumerate(analysis.names) if " and " not in name]
    assert max(p.analysis[2] for p in alone.parts) == pytest.approx(
        np.abs(analysis.high[plain].reshape(-1, 6)[:, 4:]).max())
    assert not any(p.governs for p in alone.parts)  # the wall is soft


def test_what_is_said_of_a_dual_system(tmp_path: Path) -> None:
    dual = job(both(thickness=0.4))
    said = found(dual, "frames of a dual system")
    assert [f.severity for f in said] == [Severity.NOTE] * 2
    assert {f.clause for f in said} == {"12.2.5.1"}
    table = dual.results.to_frame("frames_alone")
    more = int((table["governs"] == "frames alone").sum())
    assert f"in {more} of {len(table)} members" in said[0].text
    assert more > 0
    ud.write_all(dual.results, tmp_path / "out")
    assert ud.load(tmp_path / "out").to_frame("frames_alone").equals(table)
    assert not found(job(both(), "B.5"), "frames of a dual system")
    calm = {**SITE, "ss": 0.1, "s1": 0.03}
    assert not found(job(both(), site=calm), "frames of a dual system")
    failed = found(job(both(ud.MemberRule(columns="all", hinged="both"))),
                   "frames of a dual system")
    assert [f.severity for f in failed] == [Severity.WARNING] * 2
    assert "can't be analyzed by themselves" in failed[0].text


def test_lines_of_a_dual_system_by_themselves() -> None:
    """A wall line is left out, the other lines take a quarter: by hand, 1/4 V each their half."""
    b = shear_building([8e7], [2e5])
    wall = ud.Line(name="core", at=(5, 3), direction="X", bottom="Ground", top="L1",
                   cantilever=ud.Cantilever(modulus=30e9, length=3.0, thickness=0.2))
    one = job(ud.Building(levels=b.levels, lines=[*b.lines, wall]))
    alone = one.frames_alone
    assert alone is not None
    shear = one.strength_statics["X"].forces.sum()
    own = {p.name: p for p in alone.parts}
    assert set(own) == {x.name for x in b.lines}
    along = [p.alone[1] for x in b.lines for p in alone.parts
             if p.name == x.name and x.direction == 0.0]
    assert sum(along) >= shear / 4 * (1 - 1e-9)  # the larger of both eccentricities, each
    assert sum(along) == pytest.approx(shear / 4, rel=0.11)
    assert own[b.lines[0].name].analysis[1] > 0
    assert np.isnan(own[b.lines[0].name].alone[0])


@pytest.mark.parametrize(("standard", "row", "clause"), [
    ("asce7-05", "D.3", "12.2.5.1"), ("asce7-10", "E.8", "12.2.5.1"), ("ubc97", "4.1a", "1629.6.5"),
    ("is1893-2002", "dual, ductile RC walls and RC SMRF", "Table 7, dual systems"),
    ("is1893-2016", "dual, ductile RC walls and RC SMRF", "Table 9, dual systems"),
    ("asce7-16", "B.5", ""), ("ubc97", "1.2a", ""),
    ("is1893-2016", "RC SMRF", "")])
def test_which_systems_are_dual(standard: str, row: str, clause: str) -> None:
    room = ud.standards.get(standard)
    site: dict[str, Any] = {
        "asce7": SITE, "ubc97": {"zone": "3", "soil": "SB", "occupancy_category": "standard"},
        "is189": {"zone": "IV", "soil": "II", "importance_factor": "1.0"}}[standard[:5]]
    more = {"regular": False} if standard[:3] in ("ubc", "is1") else {}
    names = {r[0] for r in room.systems_table().rows()}
    if row not in names:
        pytest.skip(f"{row} is no row")
    one = job(both(), row, standard, site=site,
              system={d: {"row": row, **more} for d in "XY"})
    answer = one.laterals["X"].frames_alone
    assert (answer is not None) == bool(clause)
    if answer is not None:
        assert answer[0] == 0.25
        assert clause in answer[1]


# -- EN 1998-1, 5.1.2 ------------------------------------------------------------------------------

@pytest.mark.parametrize(("row", "thickness", "severity", "said"), [
    ("concrete frame", 0.0, Severity.OK, ""),
    ("concrete frame", 0.3, Severity.WARNING, "wall"),
    ("concrete uncoupled walls", 0.3, Severity.OK, ""),
    ("concrete wall-equivalent dual", 0.3, Severity.OK, ""),
    ("concrete frame-equivalent dual", 0.3, Severity.WARNING, "wall system"),
    ("concrete uncoupled walls", 0.0, Severity.WARNING, "a frame system"),
])
def test_structural_type_by_shares(
    row: str, thickness: float, severity: Severity, said: str
) -> None:
    one = both(walls=thickness > 0, thickness=thickness or 0.1, length=4.0)
    own = {"row": row, "regular_in_plan": True, "regular_in_elevation": True,
           **({"wall_slenderness": 3.0} if "wall" in row else {})}
    of = job(one, standard="en1998", **EN, system=dict.fromkeys("XY", own))
    findings = found(of, "structural type")
    assert [f.severity for f in findings] == [severity] * 2
    assert said in findings[0].text
    taken = of.facts.taken["X"]
    assert f"walls {taken.walls:.0%}" in findings[0].text


def test_lines_of_unknown_kind_are_not_judged() -> None:
    own = {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True}
    of = job(shear_building([8e7], [2e5]), standard="en1998", **EN,
             system=dict.fromkeys("XY", own))
    assert {f.severity for f in found(of, "structural type")} == {Severity.NOTE}
    assert "not judged" in found(of, "structural type")[0].text
    steel = job(shear_building([8e7], [2e5]), standard="en1998", **EN, system={
        d: {**own, "row": "steel frame"} for d in "XY"})
    assert not found(steel, "structural type")


# -- secondary members -----------------------------------------------------------------------------

INNER = ud.MemberRule(columns="B2", secondary=True)
RULES = {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True}


def european(one: ud.Building, **more: Any) -> ud.Job:
    return job(one, standard="en1998", **EN, system=dict.fromkeys("XY", RULES), **more)


def test_a_secondary_column_is_one_with_hinges_and_its_share_that_of_two_models() -> None:
    """The model is that of hinged ends; the share, story by story, that of a run with it as a
    primary member: k = V / drift."""
    with_it, hinged, primary = (european(both(*rules, walls=False)) for rules in (
        (ud.MemberRule(columns="A1", secondary=True),),
        (ud.MemberRule(columns="A1", hinged="both"),), ()))
    assert with_it.modes.periods == pytest.approx(hinged.modes.periods)
    assert with_it.modes.periods[0] > primary.modes.periods[0] * 1.001
    assert hinged.secondary is None
    own = with_it.secondary
    assert own is not None
    assert own.names == tuple(f"column A1 at L{k}" for k in (1, 2, 3))
    for axis, d in enumerate(("X", "Y")):
        forces, drifts = with_it.strength_statics[d].forces, []  # type: ignore[index]
        for one in (with_it, primary):
            u = one.solver.solve(one.model.loads(d, forces))[
                one.model.diaphragms.freedoms[:, axis]]
            drifts.append(u - np.append(u[1:], 0.0))
        ratios = drifts[0] / drifts[1] - 1
        share, story = own.shares[d]  # type: ignore[index]
        assert share == pytest.approx(ratios.max())
        assert story == with_it.model.levels[int(np.argmax(ratios))]
        assert 0.02 < share < 0.15
    said = found(with_it, "secondary members")
    assert [f.severity for f in said] == [Severity.OK] * 2
    assert said[0].clause == "4.2.2(4)"
    assert not found(primary, "secondary members")


@pytest.mark.parametrize("mirrored", [False, True])
def test_more_than_15_percent_is_no_secondary_stiffness(mirrored: bool) -> None:
    chosen = ("B2", "B3") if mirrored else ("B3", "B2")
    rules = [ud.MemberRule(columns=name, secondary=True) for name in chosen]
    of = european(both(*rules, walls=False))
    said = {f.where: f for f in found(of, "secondary members")}
    assert {f.severity for f in said.values()} == {Severity.EXCEEDED}
    assert said["direction X"].demand > 0.15  # type: ignore[operator]
    us = job(both(*rules, walls=False), "C.5")
    assert {f.severity for f in found(us, "secondary members")} == {Severity.NOTE}
    assert {f.clause for f in found(us, "displaced secondary members")} == {"12.12.5"}


def test_what_the_displacement_does_is_that_of_the_member_where_floors_move_so(
    tmp_path: Path
) -> None:
    """A member between floors that move as they do: forces of the model in which it is stiff under
    those displacements, times q; saved and loaded."""
    of = european(both(INNER, walls=False))
    stiff = european(both(walls=False))
    members = [m for m in stiff.building.frame.members  # type: ignore[union-attr]
               if m.name in of.secondary.names]  # type: ignore[union-attr]
    quantity = section_forces(stiff.model, members, (0, 1))
    most = np.zeros((len(members), 6))
    for s in of.drift_sets["drift"]:
        most = np.maximum(most, of.amplifiers[s.direction, "drift"] * np.abs(  # type: ignore[index]
            s.of(quantity)).reshape(-1, 2, 6).max(axis=1))
    forces = of.secondary.forces  # type: ignore[union-attr]
    assert forces[:, 0] == pytest.approx(most[:, 0])
    assert forces[:, 2] == pytest.approx(most[:, 4:].max(axis=1))
    assert of.results.read("forces", "B2 at L1", "static X*").values[..., 4:] == pytest.approx(0)
    # about 6 E I / h^2 of the amplified drift of the story, less what beams give way
    drift = float(np.nanmax(of.drift.design[:, :, -1, :2]))
    rough = 6 * 0.5 * 33e9 * 0.4**4 / 12 / 4.0**2 * drift
    assert 0.5 * rough < forces[2, 2] < 2.5 * rough
    ud.write_all(of.results, tmp_path / "out")
    table = of.results.to_frame("secondary_members")
    assert ud.load(tmp_path / "out").to_frame("secondary_members").equals(table)
    indian = job(both(INNER, walls=False), "RC SMRF", "is1893-2016", system={
        d: {"row": "RC SMRF", "regular": False} for d in "XY"}, site={
        "zone": "IV", "soil": "II", "importance_factor": "1.0"})
    assert "R times the displacement" in indian.results.table("secondary_members").note
    quantity = section_forces(job(both(walls=False), "C.5").model, members, (0, 1))
    five = [5 * np.abs(s.of(quantity)).reshape(-1, 2, 6).max(axis=1)[:, 4:].max(axis=1)
            for s in indian.drift_sets["drift"]]
    assert indian.secondary.forces[:, 2] == pytest.approx(  # type: ignore[union-attr]
        np.max(five, axis=0))


def test_braces_are_never_secondary_and_placed_members_may_be() -> None:
    with pytest.raises(ud.InputError, match="leave a secondary brace out"):
        both(ud.MemberRule(braces="on A between 1 and 2", pattern="X", section="beam",
                           secondary=True))
    post = ud.Placed(name="post", kind="column", section="column", start=(3, 2, 0), end=(3, 2, 4),
                     secondary=True)
    of = european(both(walls=False, placed=(post,)))
    assert of.secondary is not None
    assert of.secondary.names == ("column post",) or of.secondary.names == ("post",)
