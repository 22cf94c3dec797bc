"""Equilibrium of every node and of every floor under every static set, from section forces alone.

The forces of members on their nodes are put together here from the section forces at their
faces, the axes and the geometry that the frame states; nothing of the stiffness is used.
"""

from __future__ import annotations

import numpy as np
import pytest
from scipy import sparse

import undatum as ud
from conftest import frame_of
from test_frames import BAY, building, slender
from test_gravity import results_of
from test_open_floors import run, two_by_two
from undatum.checks.equilibrium import case_balances
from undatum.layout.given import given_actions
from undatum.mechanics.actions import reactions
from undatum.mechanics.quantity import Quantity
from undatum.results.results import Results


def mixed_up() -> Results:
    """Turned columns, stiff ends, shifted axes, hinges; a floor rigid in part, one not at all."""
    one = two_by_two({}, stories=3, rules=(
        ud.MemberRule(columns="all", turned=0.4, shifted=(0.05, -0.1)),
        ud.MemberRule(beams="all", stiff_ends=0.6, shifted=(0.0, -0.2)),
        ud.MemberRule(beams="on B", hinged="start"),
        ud.MemberRule(columns="on A", released=ud.Releases(start=["torsion"], end=["moment_y"])),
        ud.MemberRule(beams="on A", released=ud.Releases(start=["moment_z"], end=["shear_z"]))))
    return run(one.model_copy(update={
        "diaphragms": {"L1": "none", "L2": "part"}, "outlines": {
            **one.outlines, "part": [(-0.1, -0.1), (6.1, -0.1), (6.1, 12.1), (-0.1, 12.1)]}}))


CASES = {name: lambda name=name: ud.run(ud.shipped_project(name))
         for name in ("archive_frames", "clinic_frames", "terrace", "arcade")}
CASES["mixed up"] = mixed_up


def on_nodes(r: Results, one: object) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """(M, 6) forces and moments, in X, Y and Z, of members and ground on every node."""
    framed = r.model.framed
    assert framed is not None
    frame = framed.frame
    count = len(frame.ends)
    found = np.zeros((len(frame.points), 6))
    faces = framed.face_rows(np.arange(count))
    values = one.of(Quantity("faces", "", sparse.csr_array(  # type: ignore[attr-defined]
        faces.reshape(12 * count, -1)), {})).reshape(count, 2, 6)
    for e in range(count):
        along, shift = frame.axes[e][0], frame.shifted[e] @ frame.axes[e][1:]
        for end, node in enumerate(frame.ends[e]):
            way = 1 if end == 0 else -1
            face = way * frame.stiff[e, end] * along + shift  # from the node
            force, moment = (way * values[e, end, k:k + 3] @ frame.axes[e] for k in (0, 3))
            found[node] += [*force, *(moment + np.cross(face, force))]
    found[frame.supports] += one.of(reactions(r.model)).reshape(-1, 6)  # type: ignore[attr-defined]
    return found


def lines_on_floors(r: Results, one: object) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """(n, 3) forces along X and Y of lateral lines on the floors, and moments about the origin."""
    shears = r.model.quantities["line shear"]
    values = dict(zip(zip(shears.labels["line"], shears.labels["story"], strict=True),
                      one.of(shears), strict=True))  # type: ignore[attr-defined]
    found = np.zeros((r.model.n, 3))
    for line in r.model.lines:
        if line.stiffness is None:
            continue  # a line of members
        for k, floor in enumerate(line.levels):
            above = values[line.name, r.model.levels[line.levels[k - 1]]] if k else 0.0
            taken = values[line.name, r.model.levels[floor]] - above
            found[floor] -= taken * np.array([*line.axis, line.moment_arm])
    return found


@pytest.mark.parametrize("name", CASES)
def test_every_node_and_every_floor_is_in_equilibrium(name: str) -> None:
    r = CASES[name]()
    framed, d, is_open = r.model.framed, r.model.diaphragms, r.model.is_open
    assert framed is not None
    assert r.static_sets
    frame = framed.frame
    grounded = np.isin(np.arange(len(frame.points)), frame.supports)
    swaying = np.append(is_open, False)[frame.floors] & ~framed.tied & ~grounded
    told = np.array([c not in framed.held for c in range(6)])  # what a plane frame does at all
    zero = np.tile(told, (len(frame.points), 1))
    zero[framed.tied & ~grounded] &= np.array([c not in (0, 1, 5) for c in range(6)])
    said = r.project.building.diaphragms
    for node in np.flatnonzero(swaying):  # a part of a floor that is rigid turns its nodes
        part = said[r.model.levels[frame.floors[node]]] != "none"
        zero[node, [0, 1, 5] if part else [0, 1]] = False
    for one in r.static_sets:
        forces, floors = on_nodes(r, one), lines_on_floors(r, one)
        near = 1e-9 * np.abs(one.forces).sum() * np.ptp(frame.points, axis=0).max()
        assert forces[zero] == pytest.approx(0, abs=near)
        axis = "XY".index(one.direction)
        for i in range(r.model.n):
            own = (framed.tied | swaying) & (frame.floors == i) & ~grounded
            at = frame.points[own, :2]
            turn = forces[own, 5] + at[:, 0] * forces[own, 1] - at[:, 1] * forces[own, 0]
            given = np.zeros(3)
            given[axis] = one.forces[i]
            lever = d.centers[i, 0] if axis else -d.centers[i, 1]
            given[2] = one.torques[i] + lever * one.forces[i]
            left = given + floors[i] + [*forces[own, :2].sum(axis=0), turn.sum()]
            assert left[[axis] if framed.held else [0, 1, 2]] == pytest.approx(0, abs=near)


@pytest.mark.parametrize("name", ["terrace", "mixed up"])
def test_reactions_add_up_to_the_base_shear_under_every_set(name: str) -> None:
    """Of static sets by their signs, of spectra and sets of both directions the peak of the sum."""
    r = CASES[name]()
    table = r.to_frame("reactions")
    force = {d: next(h for h in table if h.startswith(f"force {d}")) for d in "XYZ"}
    lowest = r.model.levels[-1]
    unit = r.units.size("force")
    assert set(table["set"]) == set(r.shears.sets)
    for one in r.shears.sets:
        total = table[(table["set"] == one) & (table["foot"] == "sum")]
        for d in "XY":
            shear = r.shears.shear.sel(set=one, component=d, story=lowest).values
            assert abs(total[force[d]].item()) * unit == pytest.approx(
                abs(float(shear)), rel=1e-8, abs=1e-6 * float(np.abs(r.shears.shear.values).max()))
        assert total[force["Z"]].item() == pytest.approx(0.0, abs=1e-6)


def balances(r: Results) -> dict[str, float]:
    """How far reactions are from the loads as given, relative, by case and by force or moment."""
    rows = [c for c in r.plausibility.comparisons if c.name.startswith("reactions balance")]
    assert all(c.believed for c in r.plausibility.comparisons)
    return {f"{c.where.split(',')[0]} {c.dimension}": abs(c.difference) for c in rows}


@pytest.mark.parametrize("name", ["terrace", "mixed up", "archive_frames"])
def test_reactions_balance_the_loads_as_the_description_gives_them(name: str) -> None:
    """Forces and moments of every case, and a case is missed where a tenth of it gets lost."""
    r = CASES[name]()
    found, frame = r.load_cases(), r.project.building.frame
    assert frame is not None
    assert set(balances(r)) == {f"{case.name} {k}" for case in found.cases
                                for k in ("force", "moment")}
    assert max(balances(r).values()) < 1e-6
    given = given_actions(r.project.building, frame, r.weights.centers)
    assert set(given) == {case.name for case in found.cases}  # one share for all of a kind
    for kind, put in given.items():  # the same sums by the weight table
        own = [line for line in r.weights.lines if line.kind == kind]
        if kind != "dead":
            assert put[2] == pytest.approx(-sum(line.amount for line in own))
            assert put[3] == pytest.approx(-sum(line.amount * line.center[1] for line in own))
            assert put[4] == pytest.approx(sum(line.amount * line.center[0] for line in own))
    more = {kind: 1.1 * put for kind, put in given.items()}
    moved = {kind: put + np.array([0, 0, 0, 0, 0.5 * put[2], 0]) for kind, put in given.items()}
    wrong = [{c.where.split()[-2] for c in case_balances(r.model, found, one, {}) if not c.believed}
             for one in (more, moved)]
    alone = any(line.stiffness is not None for line in r.model.lines)  # they take moments too
    assert wrong[0] == ({"force"} if alone else {"force", "about"})
    assert wrong[1] == (set() if alone else {"about"})


@pytest.mark.parametrize("s", [0.0, 0.1, 0.29])
def test_a_load_on_a_stiff_end_goes_to_its_own_node_with_its_lever(s: float) -> None:
    """A hinge at the face: all of it on the foot below, P s in the head of the column."""
    wide = ud.CrossSection(material="stuff", properties=ud.GivenProperties(
        area=1e3, bending_y=2e-3, bending_z=2e-3, torsion=1e-3, width=0.6, depth=0.6))
    one = building(wide, slender(2e-3), rules=(
        ud.MemberRule(beams="all", stiff_ends=1.0, hinged="both"),), cases=(
        ud.LoadCase(name="load", on_members=[ud.OnMembers(
            on="beam A 1-2 at L1", total=1e5, at=s / BAY)]),))
    r = results_of(one)
    table = r.to_frame("reactions_under_cases").set_index(["case", "foot"]).loc["load"]
    assert table.loc["A1", "force Z (N)"] == pytest.approx(1e5)
    assert table.loc[["A2", "B2"], "force Z (N)"].tolist() == pytest.approx([0, 0], abs=1.0)
    for column, expected in (("A1", 1e5 * s), ("A2", 0.0)):
        head = frame_of(r, "forces", f"column {column} at L1", "cases", at=(1,)).set_index("case")
        assert abs(head.loc["load", "moment_z (N·m)"]) == pytest.approx(expected, abs=1.0)
    assert max(balances(r).values()) < 1e-6


def test_torsion_is_balanced_under_second_order() -> None:
    """What leans pushes over the drift: the balance of torsion at the base knows it."""
    project = ud.shipped_project("clinic")
    for how in ("by story weight", "by factor"):
        r = ud.run(project.varied({"analysis.second_order": how}))
        rows = [c for c in r.plausibility.comparisons if "torsion" in c.name]
        assert rows
        assert all(c.believed for c in rows), how
