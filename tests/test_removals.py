"""Parts of the lateral system left out one by one (ASCE 7, 12.3.4.2): torsion as of the building
described without them, strength by hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE
from test_frames import building as frame_of
from test_irregularity import BRACED, put
from test_walls import building as walls_on
from test_walls import wall
from undatum.finding import Finding, Severity
from undatum.mechanics import lost

# -- redundancy: braces left out one by one --------------------------------------------------------

RHO = {d: {"row": "B.3", "redundancy": 1.0, "redundancy_reason": "removal"} for d in "XY"}


def four_planes(*rules: ud.MemberRule, stories: int = 2, spare: bool = True,
                strength: str = "900 kN", column: str = "300 x 300 mm") -> ud.Job:
    """Two braced bays on A and D and on 1 and 5, gravity columns hinged beams everywhere else."""
    own = [(line, a, b) for line, a, b in (*BRACED, *((
        ("on A", "4", "5"), ("on D", "4", "5"), ("on 1", "C", "D"), ("on 5", "C", "D"))
        if spare else ()))]
    square = ud.CrossSection(rectangle="300 x 300 mm", material="C30/37")
    upright = ud.CrossSection(rectangle=column, material="C30/37")
    one = frame_of(upright, square, stories=stories, x=(6.0,) * 4, y=(5.0,) * 3, self_weight=False,
                   rules=(ud.MemberRule(beams="all", hinged="both"), *(
            ud.MemberRule(braces=f"{line} between {a} and {b}", pattern="rising", section="beam",
                          strength=strength) for line, a, b in own), *rules))
    return ud.calculate(ud.make_project(title="t", standard="asce7-16", building=one, site=SITE,
                                        system=RHO))


def ratio_by_hand(job: ud.Job, axis: int) -> float:
    """Largest drift of an edge over the mean of both, of all stories, under weight times height
    with 5 % either way."""
    model, d = job.solver.model, job.solver.model.diaphragms
    forces = job.weights.weight * np.maximum(model.heights, 0.0)
    most = 1.0
    for sign in (1, -1):
        u = job.solver.solve(model.loads(
            "XY"[axis], forces, sign * 0.05 * d.across("XY"[axis]) * forces))[d.freedoms]
        ends = []
        for edge in (d.bounds[:, 1 - axis], d.bounds[:, 3 - axis]):
            arm = edge - d.centers[:, 1 - axis]
            moved = u[:, axis] + (-arm if axis == 0 else arm) * u[:, 2]
            ends.append(moved - np.append(moved[1:], 0.0))
        both = np.array(ends)
        most = max(most, float((np.abs(both).max(0) / np.abs(both.mean(0))).max()))
    return most


@pytest.mark.parametrize("which", ["on A between 1 and 2 at L1", "on D between 4 and 5 at L2",
                                   "on 5 between C and D at L1"])
def test_a_brace_left_out_twists_as_the_frame_without_it(which: str) -> None:
    whole, less = four_planes(), four_planes(put(which))
    axis = 1 if which.startswith("on 5") else 0
    own = [r for r in whole.facts.removals["XY"[axis]] or () if r.kind == "brace"]
    assert len(own) == 8
    gone = {m.name for m in whole.building.frame.members} - {  # type: ignore[union-attr]
        m.name for m in less.building.frame.members}  # type: ignore[union-attr]
    (one,) = [r for r in own if r.line in gone]
    assert one.kind == "brace"
    # the torsion of the brace itself stays: 6e-6 of difference
    assert one.torsion == pytest.approx(ratio_by_hand(less, axis), rel=2e-5)
    assert one.torsion > ratio_by_hand(whole, axis) + 1e-3
    assert one.strength == pytest.approx(0.75)


def test_redundancy_by_braces() -> None:
    def told(job: ud.Job) -> list[Finding]:
        return [f for f in job.findings if f.check == "redundancy"]

    good = told(four_planes())
    assert [f.severity for f in good] == [Severity.OK] * 2
    assert "one brace left out" in good[0].text
    assert "at least 75.0% of the story strength stay" in good[0].text
    few = told(four_planes(spare=False))  # half the strength goes with one brace
    assert [f.severity for f in few] == [Severity.EXCEEDED] * 2  # and one bay on each side
    assert "Neither condition is met: 1 bay near an edge, where two are required" in few[0].text
    assert "50.0%" in few[0].text
    # columns that stand by themselves count once they take a tenth
    frames = told(four_planes(column="1500 x 1500 mm"))
    assert "or cantilever column" in frames[0].text
    assert "give the strengths of every part of the story" in frames[0].text
    assert all(f.severity is not Severity.OK for f in frames)


# -- beams and columns -----------------------------------------------------------------------------

SQUARE = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
DEEP = ud.CrossSection(rectangle="300 x 600 mm", material="C30/37")


def job_of(one: ud.Building, row: str = "C.5") -> ud.Job:
    system = {d: {"row": row, "redundancy": 1.0, "redundancy_reason": "removal"} for d in "XY"}
    return ud.calculate(ud.make_project(title="t", standard="asce7-16", building=one, site=SITE,
                                        system=system))


def told(job: ud.Job) -> dict[str, Finding]:
    return {f.where: f for f in job.findings if f.check == "redundancy"}


def frames(*rules: ud.MemberRule, stories: int = 2, bays: int = 2) -> ud.Job:
    return job_of(frame_of(SQUARE, DEEP, stories=stories, x=(6.0,) * bays, y=(5.0,) * bays,
                           rules=(ud.MemberRule(columns="all", strength="200 kN"),
                                  ud.MemberRule(beams="all", moment_strength="150 kN*m",
                                                stiff_ends=0.5, shifted=[0.0, -0.3]), *rules)))


@pytest.mark.parametrize("where", ["on A between 1 and 2 at L1", "on 3 between B and C at L2"])
def test_a_beam_without_moments_twists_as_the_frame_with_hinges(where: str) -> None:
    """Stiff ends and a shifted axis included."""
    whole, less = frames(), frames(ud.MemberRule(beams=where, hinged="both"))
    axis = 1 if where.startswith("on 3") else 0
    (name,) = {m.name for m in less.building.frame.members  # type: ignore[union-attr]
               if m.hinged == "both"}
    own = [r for r in whole.facts.removals["XY"[axis]] or () if r.line == name]
    # the moments at both ends of a beam, over either story beside it
    assert [(r.story, r.kind) for r in own] == [
        (s, "beam") for s in (("L1", "L2") if where.endswith("L1") else ("L2",))]
    for r in own:
        # hinges free the beam sideways too: 5e-6 of difference
        assert r.torsion == pytest.approx(ratio_by_hand(less, axis), rel=2e-5)
        assert r.torsion > ratio_by_hand(whole, axis) + 1e-3
        height = whole.building.story_heights[whole.model.levels.index(r.story)]
        # six beams along the axis on every level let the columns do no more than 2 M / h each
        assert r.strength == pytest.approx(1 - 2 * 150e3 / height / min(
            9 * 200e3, 6 * 2 * 150e3 / height))


def test_redundancy_by_beams() -> None:
    good = told(frames())
    assert [f.severity for f in good.values()] == [Severity.OK] * 2
    assert "one beam (the moments at both ends) left out" in good["direction X"].text
    one_bay = told(frames(bays=1))["direction X"]  # 2 (150) / h is more than a third of 4 (200)?
    share = 1 - 1 / 2  # of two beams, whose moments bound the story
    assert f"{share:.1%}" in one_bay.text
    assert one_bay.severity is not Severity.OK
    blank = ud.MemberRule(beams="on B between 1 and 2", section="beam")
    assert told(frames(blank))["direction X"].severity is Severity.OK  # a strength stays
    plain = told(job_of(frame_of(SQUARE, DEEP, stories=2, x=(6.0, 6.0), y=(5.0, 5.0))))
    assert plain["direction X"].severity is Severity.NOTE
    assert "give the strengths of every part of the story and of beams" in plain["direction X"].text


def test_two_bays_on_each_side() -> None:
    """Condition (b): frames by their beams, chevrons as one bay, walls by length over height."""
    def sides(job: ud.Job, d: Any) -> set[float]:
        return {round(n, 9) for one in job.facts.bays[d] for n in (one.low, one.high)}

    plan = {d: {"row": "C.5", "redundancy": 1.0, "redundancy_reason": "b"} for d in "XY"}

    def regular(one: ud.Building) -> dict[str, Finding]:
        return told(ud.calculate(ud.make_project(
            title="t", standard="asce7-16", building=one, site=SITE, system=plan,
            irregularities={"diaphragm_discontinuity": False, "reason": "solid slabs"})))

    two = frame_of(SQUARE, DEEP, stories=2, x=(6.0, 6.0), y=(5.0, 5.0))
    good = regular(two)
    assert [f.severity for f in good.values()] == [Severity.OK] * 2
    assert good["direction X"].text.startswith("Condition (b) holds")
    one_bay = regular(frame_of(SQUARE, DEEP, stories=2, x=(6.0, 6.0), y=(5.0,)))
    assert {f.severity for f in one_bay.values()} == {Severity.WARNING}
    assert "1 bay near an edge" in one_bay["direction X"].text
    # hinged at one end: no bay of a frame
    hinge = ud.MemberRule(beams="on A between 1 and 2", hinged="start")
    assert sides(job_of(frame_of(SQUARE, DEEP, stories=2, x=(6.0, 6.0), y=(5.0, 5.0),
                                 rules=(hinge,))), "X") == {1.0, 2.0}
    braced = job_of(frame_of(SQUARE, DEEP, x=(6.0, 6.0, 6.0), y=(5.0,), rules=(
        ud.MemberRule(braces="on A between 1 and 3", pattern="chevron", section="beam"),
        ud.MemberRule(braces="on B between 1 and 2", pattern="X", section="beam"))))
    assert sides(braced, "X") == {2.0, 1.0}
    doors = [ud.Opening(from_start=1.0, width=0.6, height=2.0)]
    assert sides(around(length=3.6, height=3.0, openings=doors), "X") == {1.0, 1.2}
    assert sides(cantilevers(length=2.4), "Y") == {0.8}
    assert all(np.isnan(n) for n in sides(cantilevers(length=None), "Y"))


def test_a_column_by_itself_loses_its_base() -> None:
    def standing(*supports: ud.Support) -> ud.Job:
        return job_of(frame_of(SQUARE, DEEP, x=(6.0, 6.0), y=(5.0,), rules=(
            ud.MemberRule(beams="all", hinged="both"),
            ud.MemberRule(columns="all", strength="90 kN")), supports=supports), "G.3")

    whole, less = standing(), standing(ud.Support(at="A1", hold="pinned"))
    own = {r.line: r for r in whole.facts.removals["X"] or ()}
    assert {r.kind for r in own.values()} == {"column"}
    assert len(own) == 6
    one = next(r for name, r in own.items() if "A1" in name)
    assert one.torsion == pytest.approx(ratio_by_hand(less, 0), rel=1e-6)
    assert one.strength == pytest.approx(5 / 6)
    assert "one cantilever column (the moment at its base)" in told(whole)["direction X"].text


# -- walls -----------------------------------------------------------------------------------------

def around(first: str = "all", length: float = 2.5, strength: Any = "900 kN",
           openings: Sequence[ud.Opening] = (), turned: bool = False, **more: Any) -> ud.Job:
    """Three walls along X, of which the first may be lower, and three along Y; or turned by 90
    degrees about a corner."""
    def put(x: float, y: float) -> tuple[float, float]:
        return (9.0 - y, x) if turned else (x, y)

    along = [wall(f"x{k}", put(4.0, y), put(4.0 + length, y), levels=first if k == 0 else "all",
                  openings=openings if k == 0 else (), strength=strength)
             for k, y in enumerate((0.0, 4.0, 9.0))]
    across = [wall(f"y{k}", put(x, 3.0), put(x, 3.0 + length), strength=strength)
              for k, x in enumerate((0.0, 6.0 + 0.5, 12.0))]
    plan = [put(*p) for p in ((0.0, 0.0), (12.0, 0.0), (12.0, 9.0), (0.0, 9.0))]
    return job_of(walls_on([*along, *across], self_weight=False, outline=plan, **more), "B.4")


def test_a_wall_left_out_of_its_top_story_twists_as_a_lower_wall() -> None:
    whole, less = around(), around("L1..L2")
    own = [r for r in whole.facts.removals["X"] or () if r.line == "x0"]
    assert [(r.story, r.kind) for r in own] == [("L3", "wall"), ("L2", "wall"), ("L1", "wall")]
    assert own[0].torsion == pytest.approx(ratio_by_hand(less, 0), rel=1e-3)  # its panels: 1e-7
    assert abs(own[0].torsion - ratio_by_hand(whole, 0)) > 1e-3
    assert own[2].torsion > own[1].torsion > ratio_by_hand(whole, 0)
    assert {round(r.strength, 9) for r in own} == {round(2 / 3, 9)}
    assert "one wall left out" in told(whole)["direction X"].text


def test_a_turned_building_says_the_same_of_its_walls() -> None:
    plain, turned = around(), around(turned=True)
    for d, e in (("X", "Y"), ("Y", "X")):
        own, other = ({(r.line, r.story): r for r in job.facts.removals[way] or ()}
                      for job, way in ((plain, d), (turned, e)))
        assert set(own) == set(other)
        assert [own[k].torsion for k in own] == pytest.approx([other[k].torsion for k in own])
        assert [own[k].strength for k in own] == pytest.approx([other[k].strength for k in own])
        assert told(plain)[f"direction {d}"].severity is told(turned)[f"direction {e}"].severity


def test_squat_walls_are_not_left_out_and_their_piers_are() -> None:
    """Walls longer than a story is high ask for nothing; a slender pier between doors counts."""
    squat = around(length=3.2)
    assert squat.facts.removals["X"] == ()
    fine = told(squat)["direction X"]
    assert fine.severity is Severity.OK
    assert "no higher in a story than they are long" in fine.text
    doors = [ud.Opening(from_start=a, width=0.8, height=2.4) for a in (0.6, 2.2)]
    wide = [ud.Opening(from_start=0.6, width=2.4, height=2.4)]
    piers, less = around(length=3.6, openings=doors, stories=1), around(
        length=3.6, openings=wide, stories=1)
    own = {r.line: r for r in piers.facts.removals["X"] or ()}
    assert list(own) == ["x0, pier from 0 m", "x0, pier from 1.4 m", "x0, pier from 3 m"]
    middle = own["x0, pier from 1.4 m"]
    assert {r.kind for r in own.values()} == {"pier"}
    assert "Taken: of a pier all of its wall's strength" in told(piers)["direction X"].text
    assert middle.torsion == pytest.approx(ratio_by_hand(less, 0), rel=5e-3)  # other panels
    assert middle.strength == pytest.approx(2 / 3)  # at worst that of the whole wall


def test_the_strength_of_walls_makes_a_weak_story() -> None:
    """V5 is judged where walls say what they bear, story by story."""
    def weak(job: ud.Job) -> list[Finding]:
        return [f for f in job.findings if f.check == "weak story"]

    by_story = {"L1": "500 kN", "L2..L3": "900 kN"}
    (x, y) = weak(around(strength=by_story))
    assert x.severity is y.severity is Severity.EXCEEDED
    assert x.capacity == pytest.approx(5 / 9)
    assert weak(around())[0].severity is Severity.OK
    unknown = weak(around(strength=None))
    assert all("not" in f.text for f in unknown)


# -- lines that bend -------------------------------------------------------------------------------

def cantilevers(low: str = "L3", length: float | None = 2.5) -> ud.Job:
    plan = [(0, 0), (12, 0), (12, 9), (0, 9)]
    own = {"modulus": 30e9, "length": length, "thickness": 0.25} if length else {
        "modulus": 30e9, "inertia": 0.4, "shear_area": 0.6}
    lines = [ud.Line(name=f"{d}{k}", at=at, direction=d, bottom="G",
                     top=low if (d, k) == ("X", 0) else "L3", strength="1 MN",
                     cantilever=ud.Cantilever(**own))
             for d, ats in (("X", [(6, 0), (6, 4), (6, 9)]), ("Y", [(0, 4), (12, 4)]))
             for k, at in enumerate(ats)]
    levels = [ud.Level(name=f"L{i}", height=3.0, outline=plan, loads=[
        ud.Load(name="q", kind="dead", per_area=5e3)]) for i in (3, 2, 1)]
    return job_of(ud.Building(levels=[*levels, ud.Level(name="G", outline=plan)], lines=lines),
                  "B.4")


def test_a_line_that_bends_is_cut_story_by_story() -> None:
    """Without its top story it is a lower line; without its middle one too, since a single story
    above the gap leans freely."""
    whole = cantilevers()
    own = {r.story: r for r in whole.facts.removals["X"] or () if r.line == "X0"}
    assert {r.kind for r in own.values()} == {"wall"}
    for story, top in (("L3", "L2"), ("L2", "L1")):
        assert own[story].torsion == pytest.approx(ratio_by_hand(cantilevers(top), 0), rel=1e-9)
    assert own["L1"].torsion > own["L2"].torsion
    assert cantilevers(length=3.1).facts.removals["X"] == ()
    assert len(cantilevers(length=None).facts.removals["Y"] or ()) == 6  # a core: it counts


def test_what_stands_above_a_gap_is_a_beam_on_three_floors() -> None:
    """Two stories above it resist 48 E I / (2 h)^3 against the middle floor alone."""
    job = cantilevers()
    model, line = job.model, job.model.lines[0]
    bending = 1e9
    taken = lost.of_line(model, line, 2, [(bending, 1e18)] * 3)
    rows = taken.rows[:, model.diaphragms.freedoms[:, 0]]
    assert line.stiffness is not None
    left = line.stiffness - rows.T @ (taken.stiffness[:, None] * rows)
    v = np.array([-0.5, 1.0, -0.5])
    assert left == pytest.approx(48 * bending / 6.0**3 * np.outer(v, v), rel=1e-6, abs=1.0)
