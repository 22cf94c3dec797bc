"""Structural irregularities and permitted procedures of ASCE 7, by hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building
from test_frames import building as frame_of
from undatum.building import Outline
from undatum.finding import Finding, Severity, against
from undatum.layout.plan import inward_corners
from undatum.results.results import Results

K, M = 6e7, 2e5


def found(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


def run(stiffness: list[float], mass: list[float] | None = None, **more: Any) -> Results:
    return analyze(shear_building(stiffness, mass or [M] * len(stiffness)), **more)


def test_story_stiffness_is_that_of_the_springs(archive: Results) -> None:
    r = run([K, 1.5 * K, 2 * K])
    assert r.shape.stiffness == pytest.approx(np.array([[K, 1.5 * K, 2 * K]] * 2))


@pytest.mark.parametrize(
    ("stiffness", "severity", "words"),
    # Top down. Below the first two, a jump in drift of more than 1.3 lifts the exemption.
    [
        ([K, K, K, K], Severity.OK, "1.3 times"),
        ([0.9 * K, 0.9 * K, K, 0.69 * K], Severity.WARNING, "type 1a"),
        ([K, K, K, 0.69 * K], Severity.WARNING, "type 1b"),   # 0.7 of the mean of three
        ([K, K, K, 0.71 * K], Severity.WARNING, "type 1a"),   # 0.8 of the mean of three
        ([K, K, K, 0.59 * K], Severity.WARNING, "type 1b"),
        ([K, 2 * K, 2 * K, 2 * K], Severity.OK, "1.3 times"),
    ],
)
def test_soft_story(stiffness: list[float], severity: Severity, words: str) -> None:
    items = found(run(stiffness), "soft story")
    assert {f.severity for f in items} == {severity}
    assert all(words in f.text for f in items)


def test_extreme_soft_story_is_barred_in_category_e() -> None:
    r = run([K, K, K, 0.5 * K], site={**SITE, "ss": 1.5, "s1": 0.8})
    assert r.site.category == "E"
    assert {f.severity for f in found(r, "soft story")} == {Severity.EXCEEDED}


def test_level_without_mass_at_the_top_is_left_out() -> None:
    b = shear_building([K] * 4, [M] * 4)
    top = b.levels[0].model_copy(update={"seismic_mass": False, "loads": []})
    r = analyze(ud.Building(levels=[top, *b.levels[1:]], lines=b.lines))
    assert r.shape.levels == ("L3", "L2", "L1")
    assert r.diaphragms["X"].size == 3
    assert r.modes.count == 9
    assert np.all(np.isfinite(r.shape.stiffness))


def test_one_and_two_story_buildings_are_exempt() -> None:
    for stiffness in ([K], [K, 0.3 * K]):
        assert all(f.severity is Severity.OK for f in found(run(stiffness), "soft story"))


@pytest.mark.parametrize(
    ("mass", "stiffness", "severity"),
    [
        ([M, M, M, 1.6 * M], [K, K, K, 0.7 * K], Severity.WARNING),
        ([M, M, M, 1.4 * M], [K, K, K, 0.7 * K], Severity.OK),
        ([0.3 * M, M, M, M], [K, K, K, 0.7 * K], Severity.OK),      # a lighter roof
        ([2.0 * M, M, M, M], [K, K, K, 0.7 * K], Severity.WARNING),  # a heavier one
        ([M, M, M, 1.6 * M], [K, 2 * K, 2.6 * K, 3 * K], Severity.OK),  # exempt by drift
    ],
)
def test_weight(mass: list[float], stiffness: list[float], severity: Severity) -> None:
    item = found(run(stiffness, mass), "weight irregularity")[0]
    assert item.severity is severity


@pytest.mark.parametrize(
    ("points", "corners"),
    [
        ([(0, 0), (10, 0), (10, 6), (0, 6)], []),
        ([(0, 0), (18, 0), (18, 7), (9, 7), (9, 13), (0, 13)], [(0.5, 6 / 13)]),
        ([(0, 13), (9, 13), (9, 7), (18, 7), (18, 0), (0, 0)], [(0.5, 6 / 13)]),  # other way
        ([(0, 0), (18, 0), (18, 12), (16.5, 12), (16.5, 13), (0, 13)], [(1.5 / 18, 1 / 13)]),
        # T: two corners under the flange.
        ([(4, 0), (8, 0), (8, 6), (12, 6), (12, 9), (0, 9), (0, 6), (4, 6)],
         [(4 / 12, 6 / 9), (4 / 12, 6 / 9)]),
    ],
)
def test_reentrant_corners(points: list[Any], corners: list[tuple[float, float]]) -> None:
    items = inward_corners(Outline(points=points))
    assert [c[1:] for c in items] == [pytest.approx(c) for c in corners]


def test_l_shape_of_the_demo_is_found(archive: Results) -> None:
    item = found(archive, "re-entrant corner")[0]
    assert item.severity is Severity.WARNING
    assert "50% of the plan along X and 46% along Y" in item.text


def tall(stories: int, k: float, **more: Any) -> Results:
    """Every type judged: lines of one length and strength, the rest stated."""
    b = shear_building([k] * stories, [M] * stories, height=4.0)
    lines = [line.model_copy(update={"drawn_length": 4.0, "strength": 1e7}) for line in b.lines]
    return analyze(b.model_copy(update={"lines": lines}), irregularities={
        "diaphragm_discontinuity": False, "in_plane_offset": False}, **more)


@pytest.mark.parametrize(
    ("standard", "stories", "k", "plan_irregular", "permitted"),
    [
        # Category D, risk II, T_S = 0.5 s (class C: S_DS 0.8, S_D1 0.4): 3.5 T_S = 1.75 s.
        ("asce7-16", 10, 1e9, False, True),    # regular, 131 ft
        ("asce7-16", 14, 1e9, False, True),    # regular, 184 ft, T short
        ("asce7-16", 14, 4e7, False, False),   # regular, 184 ft, T capped at C_u T_a = 2.0 s
        ("asce7-10", 10, 4e7, False, True),    # regular and low: T does not matter
        ("asce7-05", 10, 1e9, False, True),
        ("asce7-05", 14, 4e7, False, False),   # 2005: T decides
    ],
)
def test_permitted_procedure(
    standard: str, stories: int, k: float, plan_irregular: bool, permitted: bool
) -> None:
    r = tall(stories, k, standard=standard)
    assert r.site.category == "D"
    item = found(r, "permitted procedure")[0]
    assert (item.severity is Severity.OK) == permitted, item.text


def test_irregular_building_needs_the_modal_analysis(archive: Results) -> None:
    assert "H1b, H2" in found(archive, "permitted procedure")[0].text
    low = analyze(shear_building([K, K], [M, M]), system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}})
    assert "is permitted" in found(low, "permitted procedure")[0].text
    mild = analyze(shear_building([K] * 3, [M] * 3), site={**SITE, "ss": 0.3, "s1": 0.1})
    assert "every procedure" in found(mild, "permitted procedure")[0].text


# -- 2022: judged as far as every reading of its tables agrees -------------------------------------

LATE: dict[str, Any] = {"standard": "asce7-22", "site": {**SITE, "sms": 1.2, "sm1": 0.6}}


def late(check: str, building: ud.Building, **more: Any) -> tuple[Severity, ud.Results]:
    r = analyze(building, **{**LATE, **more})
    return max((f.severity for f in found(r, check)), key=list(Severity).index), r


@pytest.mark.parametrize(("share", "severity"), [
    (0.149, Severity.OK), (0.151, Severity.NOTE), (0.199, Severity.NOTE),
    (0.201, Severity.WARNING)])
@pytest.mark.parametrize("mirrored", [False, True])
def test_2022_corners_between_two_readings_are_left_open(
    share: float, severity: Severity, mirrored: bool
) -> None:
    b = shear_building([K] * 2, [M] * 2)
    x, y = 10 * (1 - share), 6 * (1 - share)
    points = [(0, 0), (10, 0), (10, y), (x, y), (x, 6), (0, 6)]
    if mirrored:
        points = [(10 - px, py) for px, py in points][::-1]
    outline = {"points": points}
    levels = [b.levels[0], ud.Level(**{**b.levels[1].model_dump(), "outline": outline}),
              b.levels[2]]
    what, r = late("re-entrant corner", ud.Building(levels=levels, lines=b.lines))
    assert what is severity
    assert ("H2" in ud.calculate(r.project).regularity.found) == (severity is Severity.WARNING)
    assert ("H2" in ud.calculate(r.project).regularity.unjudged) == (severity is Severity.NOTE)


@pytest.mark.parametrize(("share", "stated", "severity"), [
    (0.249, False, Severity.OK), (0.251, False, Severity.NOTE), (0.499, False, Severity.NOTE),
    (0.501, False, Severity.WARNING), (0.3, True, Severity.WARNING)])
def test_2022_openings_between_two_readings_are_left_open(
    share: float, stated: bool, severity: Severity
) -> None:
    b = shear_building([K] * 2, [M] * 2)
    hole = [(1, 0.1), (9, 0.1), (9, 0.1 + 7.5 * share), (1, 0.1 + 7.5 * share)]
    outline = {"points": [(0, 0), (10, 0), (10, 6), (0, 6)], "holes": [hole]}
    levels = [b.levels[0], ud.Level(**{**b.levels[1].model_dump(), "outline": outline}),
              b.levels[2]]
    what, r = late("diaphragm discontinuity", ud.Building(levels=levels, lines=b.lines),
                   irregularities={"diaphragm_discontinuity": stated})
    assert what is severity
    assert ("H3" in ud.calculate(r.project).regularity.unjudged) == (severity is Severity.NOTE)


@pytest.mark.parametrize(("mass", "stiffness", "weight", "soft"), [
    ([M, M, M, 1.49 * M], [K, K, K, 0.81 * K], Severity.OK, Severity.OK),
    ([M, M, M, 1.51 * M], [K, K, K, 0.69 * K], Severity.NOTE, Severity.WARNING),
    ([M] * 4, [3 * K, K, K, 0.9 * K], Severity.OK, Severity.NOTE),  # spared by its drift
])
def test_2022_weight_and_what_spares_soft_stories_are_left_open(
    mass: list[float], stiffness: list[float], weight: Severity, soft: Severity
) -> None:
    b = shear_building(stiffness, mass)
    what, r = late("weight irregularity", b)
    assert what is weight
    assert late("soft story", b)[0] is soft
    assert "V2" not in ud.calculate(r.project).regularity.found
    assert ("V1b" in ud.calculate(r.project).regularity.unjudged) == (soft is Severity.NOTE)
    early = analyze(b)
    assert ("V2" in ud.calculate(early.project).regularity.found) == (weight is Severity.NOTE)
    assert "type" not in " ".join(f.text for f in r.findings if "story" in f.check)


def test_2022_bars_weak_and_extreme_soft_stories_and_asks_for_what_follows() -> None:
    weak = changed(shear_building([K] * 3, [M] * 3), strength=[1e6, 1e6, 0.64e6])
    what, r = late("weak story", weak)
    assert what is Severity.EXCEEDED
    assert "extreme weak story irregularity" in found(r, "weak story")[0].text
    severe = {"sms": 2.4, "sm1": 1.4, "s1": 0.8}
    what, r = late("soft story", shear_building([K, K, K, 0.5 * K], [M] * 4),
                   site={**SITE, **severe})
    assert r.site.category == "E"
    assert what is Severity.EXCEEDED
    twisted = shear_building([K] * 2, [M] * 2, lines_x=[(0.0, 0.95), (6.0, 0.05)],
                             lines_y=[(4.5, 0.5), (5.5, 0.5)])
    what, r = late("torsional irregularity", twisted, site={**SITE, **severe})
    assert what is Severity.WARNING  # not certain of this edition
    assert "earlier editions do not permit" in found(r, "torsional irregularity")[0].text
    assert found(r, "connections of diaphragms")
    assert late("torsional irregularity", twisted, standard="asce7-16",
                site={**SITE, "ss": 1.8, "s1": 0.8})[0] is Severity.EXCEEDED


# -- the other types, with the same structure by each standard -------------------------------------

UBC = {"site": {"zone": "3", "soil": "SB", "occupancy_category": "standard"},
       "system": {d: {"row": "3.1a", "regular": False} for d in "XY"}}
IS = {"site": {"zone": "IV", "soil": "II", "importance_factor": "1.0"},
      "system": {d: {"row": "RC SMRF", "regular": False} for d in "XY"}}
ROOMS: dict[str, dict[str, Any]] = {
    "asce7-16": {}, "asce7-22": {"site": {**SITE, "sms": 1.2, "sm1": 0.6}}, "ubc97": UBC,
    "is1893-2002": IS, "is1893-2016": IS}


def changed(building: ud.Building, **of_lines: Any) -> ud.Building:
    lines = [line.model_copy(update=of_lines) for line in building.lines]
    return ud.Building(levels=building.levels, lines=lines)


@pytest.mark.parametrize(
    ("standard", "ratio", "kind"),
    [("asce7-16", 0.81, ""), ("asce7-16", 0.79, "V5a"), ("asce7-16", 0.66, "V5a"),
     ("asce7-16", 0.64, "V5b"), ("asce7-22", 0.81, ""), ("asce7-22", 0.79, "V5a"),
     ("asce7-22", 0.64, "V5b"), ("ubc97", 0.81, ""), ("ubc97", 0.79, "V5a"),
     ("ubc97", 0.64, "V5b"), ("is1893-2002", 0.81, ""), ("is1893-2002", 0.79, "V5a"),
     ("is1893-2016", 1.0, ""), ("is1893-2016", 0.99, "V5a")],
)
def test_weak_story(standard: str, ratio: float, kind: str) -> None:
    building = changed(shear_building([K] * 3, [M] * 3), strength=[1e6, 1e6, ratio * 1e6])
    items = found(analyze(building, standard=standard, **ROOMS[standard]), "weak story")
    assert [f.severity is Severity.OK for f in items] == [not kind] * 2
    if kind:
        assert items[0].where.endswith("story L1")
        assert (items[0].severity is Severity.EXCEEDED) == (
            kind == "V5b" and standard.startswith("asce7"))  # category D bars it


@pytest.mark.parametrize(
    ("standard", "limit"),
    [("asce7-16", 1.3), ("asce7-22", 1.3), ("ubc97", 1.3), ("is1893-2002", 1.5),
     ("is1893-2016", 1.25)])
def test_vertical_geometry(standard: str, limit: float) -> None:
    """A second pair of lines in the lowest stories makes the system longer there."""
    for longer, irregular in ((0.99 * limit, False), (1.01 * limit, True)):
        b = shear_building([K] * 3, [M] * 3)
        x = b.lines[0]
        lines = [line.model_copy(update={"drawn_length": 4.0}) for line in b.lines]
        lines.append(x.model_copy(update={"name": "low", "drawn_length": 4.0 * longer,
                                          "top": "L1", "stiffness": K / 2}))
        r = analyze(ud.Building(levels=b.levels, lines=lines), standard=standard,
                    **ROOMS[standard])
        item = next(f for f in found(r, "vertical geometry") if "direction X" in f.where)
        if standard == "is1893-2016":  # only the story below counts, and that one is longer
            assert item.severity is Severity.OK
        else:
            assert (item.severity is Severity.WARNING) == irregular
            assert item.ratio == pytest.approx(longer / limit)


def test_upper_story_that_is_longer_counts_downwards() -> None:
    b = shear_building([K] * 2, [M] * 2)
    lines = [line.model_copy(update={"drawn_length": 4.0}) for line in b.lines]
    lines.append(lines[0].model_copy(update={"name": "high", "bottom": "L1", "drawn_length": 5.1,
                                             "stiffness": K}))
    r = analyze(ud.Building(levels=b.levels, lines=lines), standard="is1893-2016", **IS)
    item = next(f for f in found(r, "vertical geometry") if "direction X" in f.where)
    assert item.severity is Severity.WARNING
    assert item.ratio == pytest.approx(5.1 / 4.0 / 1.25)


@pytest.mark.parametrize("standard", ROOMS)
@pytest.mark.parametrize(("side", "irregular"), [(0.69, False), (0.72, True)])
def test_openings(standard: str, side: float, irregular: bool) -> None:
    """A hole of side by side times the plan: 0.69^2 is below and 0.72^2 above one half."""
    b = shear_building([K] * 2, [M] * 2)
    outline = {"points": [(0, 0), (10, 0), (10, 6), (0, 6)],
               "holes": [[(1, 0.5), (1 + 10 * side, 0.5), (1 + 10 * side, 0.5 + 6 * side),
                          (1, 0.5 + 6 * side)]]}
    levels = [b.levels[0], ud.Level(**{**b.levels[1].model_dump(), "outline": outline}),
              b.levels[2]]
    r = analyze(ud.Building(levels=levels, lines=b.lines), standard=standard,
                irregularities={"diaphragm_discontinuity": False}, **ROOMS[standard])
    item = found(r, "diaphragm discontinuity")[0]
    assert item.demand == pytest.approx(side**2)
    assert (item.severity is Severity.WARNING) == irregular


def test_offset_skew_and_what_is_stated() -> None:
    b = shear_building([K] * 3, [M] * 3)
    more = [
        ud.Line(name="on the floor", at=(5, 3), direction="X", bottom="L1", top="L3", stiffness=K),
        ud.Line(name="slanted", at=(5, 3), direction="30 deg", bottom="Ground", top="L3",
                stiffness=K / 5),
    ]
    building = ud.Building(levels=b.levels, lines=[*b.lines, *more])
    r = analyze(building, irregularities={"in_plane_offset": True,
                                          "diaphragm_discontinuity": False})
    assert "Nothing continues below on the floor" in found(r, "out-of-plane offset")[0].text
    assert "slanted" in found(r, "nonparallel system")[0].text
    assert found(r, "in-plane discontinuity")[0].severity is Severity.WARNING
    assert found(r, "elements under discontinuous lines")
    assert found(r, "orthogonal directions")
    left = found(r, "irregularities not judged")[0].text
    assert "weak story" in left
    assert "in-plane" not in left
    below = ud.Line(name="below it", at=(2, 3), direction="X", bottom="Ground", top="L1",
                    stiffness=K)
    again = analyze(ud.Building(levels=b.levels, lines=[*b.lines, more[0], below]))
    assert found(again, "out-of-plane offset")[0].severity is Severity.OK
    high = ud.Line(name="two floors up", at=(5, 3), direction="X", bottom="L2", top="L3",
                   stiffness=K)
    apart = analyze(ud.Building(levels=b.levels, lines=[*b.lines, high, below]))
    assert "two floors up" in found(apart, "out-of-plane offset")[0].text


def test_a_claim_of_regularity_is_held_against_what_is_found() -> None:
    soft = shear_building([K] * 3 + [0.5 * K], [M] * 4)
    for standard, more in (("ubc97", UBC), ("is1893-2016", IS)):
        system = {d: {**s, "regular": True} for d, s in more["system"].items()}
        r = analyze(soft, standard=standard, site=more["site"], system=system)
        assert found(r, "regularity")[0].severity is Severity.EXCEEDED
        even = analyze(shear_building([K] * 3, [M] * 3), standard=standard, site=more["site"],
                       system=system)
        assert not found(even, "regularity")


# -- the system, told from gravity members ---------------------------------------------------------

BRACED = [("on A", "1", "2"), ("on D", "1", "2"), ("on 1", "A", "B"), ("on 5", "A", "B")]


def braced(*rules: ud.MemberRule, stories: int = 4) -> Results:
    """Columns that only stand under hinged beams, and braces by rule; everything else alike."""
    square = ud.CrossSection(rectangle="300 x 300 mm", material="C30/37")
    one = frame_of(square, square, stories=stories, x=(6.0,) * 4, y=(5.0,) * 3, rules=(
        ud.MemberRule(beams="all", hinged="both"),
        *(ud.MemberRule(braces=f"{line} between {a} and {b}", pattern="rising", section="beam")
          for line, a, b in BRACED), *rules))
    return ud.analyze(standard="asce7-16", building=one, site=SITE, system={
        d: {"row": "B.3"} for d in "XY"})


def put(which: str, **more: Any) -> ud.MemberRule:
    return ud.MemberRule(braces=which, **(more or {"remove": True}))


def types(r: Results) -> set[str]:
    return {name for check, name in (
        ("out-of-plane offset", "H4"), ("vertical geometry", "V3"),
        ("in-plane discontinuity", "V4"))
        if any(f.severity is Severity.WARNING for f in found(r, check))}


def brace(which: str) -> ud.MemberRule:
    return put(which, pattern="rising", section="beam")


@pytest.mark.parametrize(("rules", "expected", "text"), [
    ((), set(), ""),
    ((put("on D between 1 and 2 at L1..L2"), brace("on C between 1 and 2 at L1..L2")), {"H4"},
     "below axis D at L2"),
    ((put("on 5 between A and B at L1"), brace("on 4 between A and B at L1")), {"H4"},
     "below axis 5 at L1"),
    ((brace("on A between 2 and 4 at L1..L2"), brace("on D between 2 and 4 at L1..L2")), {"V3"},
     ""),
    ((brace("on A between 2 and 4 at L1..L2"),), {"V3"}, ""),
    ((put("on A between 1 and 2 at L1..L2"), brace("on A between 4 and 5 at L1..L2")), {"V4"},
     "braces on axis A at L2"),
    ((put("on 1 between A and B at L3..L4"), brace("on 1 between B and C at L3..L4")), {"V4"},
     "braces on axis 1 at L2"),
])
def test_the_system_is_told_from_gravity_columns(
    rules: tuple[ud.MemberRule, ...], expected: set[str], text: str
) -> None:
    """Braces that change their plane, that widen below, that move within it: H4, V3, V4; columns
    everywhere hide nothing."""
    r = braced(*rules)
    assert types(r) == expected
    assert text in " ".join(f.text for f in r.findings)
    carried = bool(found(r, "elements under discontinuous lines"))
    assert carried is bool(expected & {"H4", "V4"})
    if expected == {"V3"}:
        assert max(f.demand or 0.0 for f in found(r, "vertical geometry")) == pytest.approx(3.0)


def test_perimeter_and_strength_count_the_system_alone() -> None:
    """Braces inside alone: no line near the edges, for all the columns there; the strength of a
    story is that of its braces."""
    inside = braced(*(put(f"{line} between {a} and {b}") for line, a, b in BRACED),
                    *(ud.MemberRule(braces=which, pattern="rising", section="beam", strength=4e5)
                      for which in ("on B between 2 and 3", "on C between 2 and 3",
                                    "on 2 between B and C", "on 4 between B and C")))
    calculation = ud.calculate(inside.project)
    assert bays_of(calculation) == {"X": {0.0}, "Y": {0.0}}
    lean = 6.0 / np.hypot(6.0, 4.0)
    assert inside.shape.strengths[0] == pytest.approx([2 * 4e5 * lean] * 4)
    assert bays_of(ud.calculate(braced().project)) == {"X": {1.0}, "Y": {1.0}}


def bays_of(job: ud.Job) -> dict[str, set[float]]:
    """The numbers of bays near the edges that there are."""
    return {d: {n for one in own for n in (one.low, one.high)} for d, own in job.facts.bays.items()}


def test_a_column_on_a_beam_is_an_in_plane_discontinuity() -> None:
    """12.3.3.3 holds for what carries it; no plane of the frames ends."""
    square = ud.CrossSection(rectangle="500 x 500 mm", material="C30/37")
    one = frame_of(square, square, stories=3, x=(6.0, 6.0), y=(5.0, 5.0), rules=(
        ud.MemberRule(columns="B2 at L1", remove=True, transfer=True),))
    r = ud.analyze(standard="asce7-16", building=one, site=SITE,
                   system={d: {"row": "C.5"} for d in "XY"})
    assert types(r) == {"V4"}
    assert "column B2 at L2" in found(r, "in-plane discontinuity")[0].text
    assert found(r, "elements under discontinuous lines")


@pytest.mark.parametrize(("value", "limits", "text"), [
    (0.9996, (1.0,), "0.9996"), (0.62, (0.7,), "0.62"), (0.7, (0.7,), "0.70"),
    (1.5000001, (1.5,), "1.5000001"), (0.599, (0.7, 0.6), "0.599")])
def test_digits_tell_a_ratio_from_its_limit(value: float, limits: tuple[float, ...], text: str
                                            ) -> None:
    assert against(value, *limits) == text
