"""Floors without a diaphragm, or with one over a part: against nodes solved one by one."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import linalg

import undatum as ud
from conftest import OWN, ROOMS, analyze
from test_frames import SITE, SYSTEM, building, slender
from undatum.mechanics.elements import elements_of
from undatum.mechanics.framing import assembled
from undatum.units import STANDARD_GRAVITY

LOAD = 6e3


def two_by_two(diaphragms: dict[str, str], *, stories: int = 2, **more: Any) -> ud.Building:
    """Two bays each way, square; the slab goes to the nearest column, members weigh nothing."""
    column = ud.CrossSection(material="C30/37", rectangle="350 x 450 mm")
    beam = ud.CrossSection(material="C30/37", rectangle="250 x 500 mm")
    one = building(column, beam, stories=stories, x=(6.0, 6.0), y=(6.0, 6.0), self_weight=False,
                   diaphragms=diaphragms, **more)
    floors = {"all": [ud.Load(name="slab", kind="dead", per_area=LOAD, path="columns")]}
    return one.model_copy(update={"floors": floors})


def run(one: ud.Building, **more: Any) -> ud.Results:
    return ud.analyze(title="open", standard="asce7-16", results_in="N and m", site=SITE,
                      system=SYSTEM,
                      building=one, **more)


def by_nodes(one: ud.Building, bodies: dict[int, np.ndarray[Any, Any]]) -> Any:
    """Periods from the assembled members, nodes with their tributary mass; ``bodies`` move rigidly.

    A second way: no floors, no shapes within; a body's nodes follow its middle.
    """
    frame = one.frame
    assert frame is not None
    k = assembled(frame, elements_of(frame)[0]).toarray()
    points, n = frame.points, len(frame.points)
    edge = sum((np.abs(points[:, axis] - 6.0) > 1).astype(float) for axis in (0, 1))
    mass = LOAD / STANDARD_GRAVITY * 36.0 / 2**edge
    mass[frame.supports] = 0.0
    m = np.zeros(6 * n)
    m[0::6] = m[1::6] = mass
    ties = [np.zeros((6 * n, 0))]
    tied = np.zeros(6 * n, dtype=bool)
    for nodes in bodies.values():
        t = np.zeros((6 * n, 3))
        for node in nodes:
            x, y = points[node, :2] - points[nodes, :2].mean(axis=0)
            t[6 * node, [0, 2]], t[6 * node + 1, [1, 2]], t[6 * node + 5, 2] = (1, -y), (1, x), 1
            tied[[6 * node, 6 * node + 1, 6 * node + 5]] = True
        ties.append(t)
    held = np.zeros(6 * n, dtype=bool)
    held[(6 * frame.supports[:, None] + np.arange(6)).ravel()] = True
    free = np.eye(6 * n)[:, ~(held | tied)]
    basis = np.column_stack([*ties, free])
    stiff, masses = basis.T @ k @ basis, basis.T @ (m[:, None] * basis)
    flexible = linalg.eigh(masses, stiff, eigvals_only=True)[::-1]  # 1 / omega^2, no mass gives 0
    return 2 * np.pi * np.sqrt(flexible[flexible > 1e-9 * flexible[0]])


def lines_of(count: int) -> list[str]:
    return [f"{chr(65 + b)}{a + 1}" for b in range(count) for a in range(count)]


def on_floor(one: ud.Building, level: int) -> Any:
    assert one.frame is not None
    return np.flatnonzero(one.frame.floors == level)


@pytest.mark.parametrize(("said", "open_"), [
    ({"L2": "none"}, [0]), ({"L1": "none"}, [1]), ({"L1..L2": "none"}, [0, 1])])
def test_periods_are_those_of_the_nodes(said: dict[str, str], open_: list[int]) -> None:
    one = two_by_two(said)
    found = run(one)
    exact = by_nodes(one, {i: on_floor(one, i) for i in (0, 1) if i not in open_})
    own = found.modes.periods
    if len(open_) == 2:
        assert found.modes.count == 2 * 18
        assert own == pytest.approx(exact[: own.size], rel=1e-6)
    else:  # rigid floors turn with their spread mass here, there with that of nodes: none that turn
        own = own[found.modes.shares[:, 2] < 1e-9]
        assert own.size >= 12
        assert all(np.min(np.abs(exact - t)) < 1e-6 * t for t in own)


def test_a_part_moves_as_one_and_the_rest_by_itself() -> None:
    one = two_by_two({})
    one = one.model_copy(update={"diaphragms": {"L1..L2": "part"}, "outlines": {
        **one.outlines, "part": [(-0.1, -0.1), (6.1, -0.1), (6.1, 12.1), (-0.1, 12.1)]}})
    found = run(one)
    assert one.frame is not None
    bodies = {i: np.array([j for j in on_floor(one, i) if one.frame.points[j, 0] < 7])
              for i in (0, 1)}
    exact = by_nodes(one, bodies)
    assert found.modes.periods == pytest.approx(exact[: found.modes.count], rel=1e-6)
    frame = found.model.framed
    assert frame is not None
    shapes = (frame.follow @ found.modes.shapes).reshape(len(frame.frame.points), 6, -1)
    west = bodies[0][frame.frame.points[bodies[0], 0] < 1]
    moved = shapes[west, 0]  # along X the nodes of one edge of a body differ by rotation alone
    middle = np.argsort(frame.frame.points[west, 1])
    assert moved[middle[0]] + moved[middle[2]] == pytest.approx(2 * moved[middle[1]], abs=1e-9)


def test_rows_of_frames_move_by_themselves() -> None:
    """No beams between the rows: the building has the periods of each row alone, along X."""
    loads = {"all": [ud.Load(name="slab", kind="dead", per_area=LOAD, path="columns")]}
    whole = two_by_two({"L1..L2": "none"}).model_copy(update={"members": (
        ud.MemberRule(columns="all", section="column"),
        ud.MemberRule(beams="on A, B, C", section="beam"))})
    found = run(whole)
    alone = []
    for width in (3.0, 6.0):
        row = ud.Building(
            axes=ud.Axes(across_x=ud.AxisFamily(names="1..3", spacing=(6, 6)),
                         across_y=ud.AxisFamily(names="A")),
            stories=ud.Stories(heights={"L1": 4.0, "L2": 4.0}, outline="all", floor="all"),
            outlines={"all": [(0, -width / 2), (12, -width / 2), (12, width / 2), (0, width / 2)]},
            floors=loads, sections=whole.sections, members=(
                whole.members[0], ud.MemberRule(beams="all", section="beam")), self_weight=False,
            plane="X", diaphragms={"L1..L2": "none"})
        alone += ud.analyze(title="row", standard="asce7-16", results_in="N and m", site=SITE,
                            system={"X": SYSTEM["X"]}, building=row).modes.periods[:2].tolist()
    for t in alone:
        assert np.min(np.abs(found.modes.periods - t)) < 1e-6 * t


def test_bracing_in_plan_makes_a_diaphragm() -> None:
    """Stiff diagonals in every bay: periods tend to those of rigid floors with nodal masses."""
    diagonals = tuple(
        ud.MemberRule(beams="all", section="strut", hinged="both", line=(a, b))
        for a, b in (("A1", "B2"), ("B2", "C3"), ("A2", "B3"), ("B1", "C2")))
    one = two_by_two({"L1..L2": "none"})
    one = one.model_copy(update={
        "sections": {**one.sections, "strut": slender(1e-6)},
        "members": (*one.members, *diagonals)})
    found = run(one)
    exact = by_nodes(two_by_two({}), {i: on_floor(two_by_two({}), i) for i in (0, 1)})
    assert found.modes.periods[:3] == pytest.approx(exact[:3], rel=3e-3)
    assert found.modes.periods[:6] == pytest.approx(exact[:6], rel=1e-2)


@pytest.mark.parametrize("said", [{"L2": "none"}, {"L1..L2": "none"}])
def test_forces_and_masses_add_up(said: dict[str, str]) -> None:
    found = run(two_by_two(said))
    assert found.modes.effective_mass.sum(axis=0) == pytest.approx(found.modes.total_mass)
    assert found.modes.total_mass[0] * STANDARD_GRAVITY == pytest.approx(LOAD * 144 * 2)
    table = found.to_frame("reactions")
    for one in found.static_sets:
        if one.state.role == "forces":
            own = table[(table.set == one.name) & (table.foot != "sum")]
            total = own[f"force {one.direction} (N)"].sum()
            assert abs(total) == pytest.approx(one.forces.sum(), rel=1e-9)
    for result in found.dynamic:
        shear = found.model.at_base("story shear", component=result.direction)
        assert result.base_shear == pytest.approx(
            found.spectrum_sets[0].combine.peaks(result.modal))
        assert shear.rows.nnz == 2


def test_forces_on_an_open_floor_go_by_mass() -> None:
    """Alone on its columns, no beams that tie: each node takes its share and drifts by itself."""
    one = two_by_two({"L1": "none"}, stories=1)
    one = one.model_copy(update={"members": (
        ud.MemberRule(columns="all", section="column"),
        ud.MemberRule(beams="all", section="beam", hinged="both"))})
    one = one.model_copy(update={"sections": {**one.sections, "beam": ud.CrossSection(
        material="stuff", properties=ud.GivenProperties(
            area=1e-9, bending_y=1e-9, bending_z=1e-9, torsion=1e-9))}})
    found = run(one)
    static = next(s for s in found.static_sets if s.name == "static X, drift")
    i = found.drift.sets.index(static.name)
    e = 22e9 * 3.8**0.3
    inertia, area = 0.45 * 0.35**3 / 12, 5 / 6 * 0.35 * 0.45  # width lies along X
    k = 1 / (4.0**3 / (3 * e * inertia) + 4.0 / (e / 2.4 * area))
    for name, share in (("A1", 1 / 16), ("A2", 1 / 8), ("B2", 1 / 4)):
        p = found.drift.points.index(f"column {name}")
        by_hand = static.forces.sum() * share / k
        assert found.drift.elastic[i, p, 0, 0] == pytest.approx(by_hand, rel=1e-5)
        assert np.isfinite(found.drift.judged(0)[i, p, 0])


def test_drift_on_column_lines_is_that_of_the_nodes() -> None:
    found = run(two_by_two({"L2": "none"}))
    framed = found.model.framed
    assert framed is not None
    points, lines = framed.frame.points, {p.name: p for p in found.plumb}
    assert [n for n in lines if n.startswith("column")]
    for one in found.static_sets:
        if one.state.role != "drift":
            continue
        moved = (framed.follow @ one.displacement).reshape(-1, 6)
        s = found.drift.sets.index(one.name)
        mean = np.average([  # that of the floor: by mass, a sixteenth, an eighth, a quarter
            found.drift.elastic[s, found.drift.points.index(f"column {name}"), 0, :2]
            for name in lines_of(3)], axis=0, weights=[1, 2, 1, 2, 4, 2, 1, 2, 1])
        c = "XY".index(one.direction)
        assert found.drift.elastic[s, 0, 0, c] == pytest.approx(mean[c], rel=1e-9)
        for name in ("A1", "B2", "C3"):
            line = lines[f"column {name}"]
            at = line.points[0]
            top, bottom = (next(j for j in range(len(points)) if np.allclose(
                points[j], [*at, z])) for z in (8.0, 4.0))
            drift = np.abs(moved[top, :2] - moved[bottom, :2])
            p = found.drift.points.index(line.name)
            assert found.drift.elastic[s, p, 0, :2] == pytest.approx(drift, rel=1e-9, abs=1e-12)


def test_nodes_keep_the_center_of_what_counts() -> None:
    """Lopsided slabs, live load that does not count, a load that grows along a beam: the center of
    the nodes' masses is that of the weights, level by level."""
    part = ud.Outline(points=[(6, 0), (12, 0), (12, 6), (6, 6)])
    one = two_by_two({"L1..L2": "none"}, member_loads=(ud.MemberLoad(
        name="wall", kind="cladding", on="beams on A at L2", per_length=[0.0, 4e4]),))
    one = one.model_copy(update={"floors": {"all": [
        ud.Load(name="slab", kind="dead", per_area=LOAD),
        ud.Load(name="tank", kind="equipment", per_area=9e3, on=part),
        ud.Load(name="hall", kind="live", per_area=2e4, on=part)]}})
    found = run(one)
    assert found.model.diaphragms.centers == pytest.approx(found.weights.centers, abs=1e-6)
    assert abs(found.weights.centers[0] - 6.0).max() > 0.2


def test_points_off_the_nodes_are_not_read() -> None:
    """Corners of the slab beyond the columns, between the open roof and the floor below it."""
    one = two_by_two({"L2": "none"}).model_copy(update={
        "outlines": {"all": ud.Stretch(between=("A1", "C3"), beyond=0.5)}})
    found = run(one)
    corners = [p for p in found.plumb if p.name.startswith("corner")]
    assert corners
    assert all(p.present.tolist() == [False, True] for p in corners)
    assert found.torsion["X"].facts.judged.tolist() == [False, True]


@pytest.mark.parametrize("key", list(ROOMS))
def test_what_is_not_judged_is_said(key: str) -> None:
    """All floors open: no verdict on torsion by any standard; one of two: that of the other."""
    site, system, *_ = ROOMS[key]
    for said, every in (({"L1..L2": "none"}, True), ({"L2": "none"}, False)):
        found = ud.analyze(title="t", standard=key, results_in="kN and m", site=site, folder=OWN,
                           system={"X": system, "Y": system}, building=two_by_two(said))
        assert (found.torsion == {}) == every
        one = next(f for f in found.findings if f.check == "floors not rigid")
        assert ("not checked: no floor rotates" in one.text) == every
        judged = [f for f in found.findings if f.check == "torsional irregularity"]
        assert not (judged and every)
        assert judged or every or not key.startswith("asce7")
        assert all("L1" in f.where for f in judged)
        if every:
            assert not [s for s in found.static_sets if s.sign]


def test_diaphragm_forces_say_where_there_is_no_diaphragm() -> None:
    for said, told in (({"L2": "none"}, True), ({}, False)):
        table = run(two_by_two(said)).table("diaphragms")
        assert ("L2, have no diaphragm" in table.note) == told


def test_turned_and_renamed_it_is_the_same() -> None:
    """X for Y: the same periods and the same largest drift, the other way round."""
    one = two_by_two({"L2": "none"})
    first = run(one)
    turned = one.model_copy(update={"members": (
        ud.MemberRule(columns="all", section="column", turned="90 deg"), *one.members[1:])})
    second = run(turned)
    assert second.modes.periods == pytest.approx(first.modes.periods, rel=1e-9)
    assert second.drift.largest_use("Y") == pytest.approx(first.drift.largest_use("X"), rel=1e-9)


def test_massless_open_levels_and_second_order() -> None:
    """A roof without seismic mass, and gravity in the stiffness: both go on as before."""
    one = two_by_two({"L2": "none"})
    light = one.model_copy(update={"levels": (
        one.levels[0].model_copy(update={"seismic_mass": False}), *one.levels[1:])})
    assert run(light).modes.count == 3
    plain, second = (run(one, analysis={"second_order": how})
                     for how in ("by factor", "by axial force"))
    ratio = second.modes.periods[:2] / plain.modes.periods[:2]
    assert np.all((ratio > 1.0) & (ratio < 1.05))


@pytest.mark.parametrize(("more", "said"), [
    ({"diaphragms": {"L2": "nine"}}, "did you mean 'none'"),
    ({"diaphragms": {"L7": "none"}}, "L7"),
    ({"diaphragms": {"Ground": "none"}}, "Ground"),
    ({"diaphragms": {"L2": "none"}, "lines": (ud.Line(
        name="wall", at=(0, 0), direction="X", bottom="Ground", top="L2", stiffness=1e8),)},
     "whose floor is not rigid"),
])
def test_wrong_diaphragms(more: dict[str, Any], said: str) -> None:
    with pytest.raises(ud.InputError, match=said):
        two_by_two(**{"diaphragms": {}, **more})


def test_an_outline_is_not_called_none() -> None:
    one = two_by_two({"L2": "none"}).model_dump(exclude_unset=True)
    with pytest.raises(ud.InputError, match="give the outline another name"):
        ud.Building(**{**one, "outlines": {
            "all": ud.Stretch(between=("A1", "C3")), "none": ud.Stretch(between=("A1", "B2"))}})


def test_lines_alone_have_rigid_floors() -> None:
    plan = [(0, 0), (8, 0), (8, 6), (0, 6)]
    load = [ud.Load(name="all", kind="dead", per_area=5e3)]
    with pytest.raises(ud.InputError, match="no members or walls that could move"):
        ud.Building(levels=[ud.Level(name="A", height=3, outline=plan, loads=load),
                            ud.Level(name="G", outline=plan)],
                    lines=[ud.Line(name=d, at=(4, 3), direction=d, bottom="G", top="A",
                                   stiffness=1e8) for d in ("X", "Y")], diaphragms={"A": "none"})
    bare = two_by_two({"L2": "none"}, lines=tuple(
        ud.Line(name=f"{d}{k}", at=(6, 6 * k) if d == "X" else (6 * k, 6), direction=d,
                bottom="Ground", top="L1", stiffness=1e8) for d in ("X", "Y") for k in (0, 2)))
    bare = bare.model_copy(update={"members": tuple(
        rule.model_copy(update={rule.kind + "s": "all at L1"}) for rule in bare.members)})
    with pytest.raises(ud.AnalysisError, match="no member reaches it"):
        run(bare)
    with pytest.raises(ud.AnalysisError, match="no diaphragm, and its mass stands at one point"):
        analyze(two_by_two({"L2": "none"}).model_copy(update={"floors": {"all": [
            ud.Load(name="tank", kind="dead", total=1e5, at=(6, 6), path="columns")]}}))
