"""Lateral lines under floors that deform: spans by hand, invariance, a whole job."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from test_walls import (
    PLAN,
    balanced,
    beam_of_floor,
    building,
    made,
    moved_at,
    solved,
    turned,
    wall,
)
from undatum.mechanics.vibration import vibration


def end_lines(angle: float = 0.0, mirror: bool = False, **more: Any) -> tuple[ud.Line, ...]:
    """Lateral lines at the ends of the hall, across it, as long as it is wide."""
    ends = turned([(0, 6), (36, 6)], angle, mirror)
    return tuple(ud.Line(
        name=name, at=tuple(at), direction=np.pi / 2 + (-angle if mirror else angle), bottom="Base",
        top="L2", stiffness=3e8, drawn_length=12.0, **more)
        for name, at in zip(("w", "e"), ends, strict=True))


def test_a_floor_spans_between_lateral_lines() -> None:
    """Ends move by half the force over the stiffness of two stories, the middle as of a beam."""
    one = building([wall("s", (16, 6), (20, 6))], 2, 4.0, PLAN, lines=end_lines(), diaphragms={
        "L1..L2": ud.DeformingFloor(deforms=0.15, material="plain", mesh=1.0)}, self_weight=False)
    solver, _ = solved(one)
    model, force = solver.model, 1e6
    motion = solver.solve(model.loads("Y", [force, 0.0]))
    shear = model.quantities["line shear"]
    taken = [shear.where(line=name, story=story).of(motion, motion)[0]
             for name in ("w", "e") for story in ("L1", "L2")]
    across = [shear.where(line=name, story=story).of(motion, motion)[0]
              for name in dict.fromkeys(shear.labels["line"]) if name.startswith("walls at x")
              for story in ("L1", "L2")]
    assert taken[0] == pytest.approx(taken[2], rel=1e-9)
    assert taken[0] + taken[2] + sum(across[::2]) == pytest.approx(force, rel=1e-9)
    assert taken[0] == pytest.approx(force / 2, rel=0.02)  # the wall bends across a little
    line = moved_at(solver, motion, 0, 18, 36)
    assert line[[0, 2]] == pytest.approx(2 * force / 2 / 3e8, rel=0.03)
    assert line[1] - (line[0] + line[2]) / 2 == pytest.approx(beam_of_floor(force), rel=0.05)


def with_lines(angle: float = 0.0, mirror: bool = False, deforms: float = 0.15) -> ud.Building:
    plan = turned(PLAN, angle, mirror)
    walls = [wall(name, *turned(ends, angle, mirror)) for name, ends in (
        ("south", [(10, 0), (18, 0)]), ("north", [(14, 12), (22, 12)]))]
    return building(walls, 2, 4.0, plan[::-1] if mirror else plan, lines=end_lines(angle, mirror),
                    diaphragms={"L1..L2": ud.DeformingFloor(
                        deforms=deforms, material="plain", mesh=2.0)})


def test_lines_under_floors_that_deform_turn_mirror_and_stiffen() -> None:
    period = [2 * np.pi / vibration(solved(one)[0], 6)[0] for one in (
        with_lines(), with_lines(mirror=True), with_lines(0.5), with_lines(deforms=10.0))]
    assert period[1] == pytest.approx(period[0], rel=1e-6)
    assert period[2] == pytest.approx(period[0], rel=0.01)  # another mesh
    rigid = solved(with_lines().model_copy(update={"diaphragms": {}}))[0]
    heavy = solved(with_lines(deforms=10.0))[1].mass / solved(with_lines())[1].mass
    assert period[3] == pytest.approx(
        2 * np.pi / vibration(rigid, 6)[0] * np.sqrt(heavy.mean()), rel=0.06)


def test_lines_under_floors_that_deform_through_a_whole_job() -> None:
    push = ud.LoadCase(name="push", on_levels=[ud.OnLevels(at="L2", X=3e5, Y=2e5)])
    results = ud.run(made(with_lines().model_copy(update={"cases": (push,)})))
    assert balanced(results)
    judged = {(j.level, j.direction): j for j in results.floors}
    assert judged["L2", "Y"].ratio > judged["L2", "X"].ratio > 0
    there = results.table("drift_points").to_frame()
    assert any("line w" in str(row) for row in there.to_numpy().tolist())
    for under, total in (("push", 2e5), ("dead", 0.0)):
        walls = results.read("walls", "", under)
        for i, story in enumerate(("L2", "L1")):
            of_lines = [results.read("lines", name, under).values[0].reshape(2, 3)[i, 0]
                        for name in ("w", "e")]
            of_walls = [v[2] for on, at, v in zip(
                walls.thing.places["story"], walls.thing.places["at"], walls.values[0],
                strict=True) if (on, at) == (story, "foot")]
            assert len(of_walls) == 2
            assert sum(of_lines) + sum(of_walls) == pytest.approx(total, abs=1.0)
            assert abs(of_lines[0]) > 2e4
    from undatum.report.moved import floor_moved
    said = {text.get_text() for ax in floor_moved(results, "L2", "push").axes for text in ax.texts}
    assert {"w", "e"} <= said
    from undatum.report.scene import scene_of
    scene = scene_of(results)
    at = {tuple(np.round(p, 6) + 0.0): k  # the node of the floor comes first
          for k, p in reversed(list(enumerate(scene.points)))}
    for path in (p for p in scene.paths if p.kind == "lateral line"):  # goes with its floor
        for k in path.points[:2]:
            assert scene.shapes[:, k] == pytest.approx(
                scene.shapes[:, at[tuple(np.round(scene.points[k], 6) + 0.0)]], abs=1e-12)
    extremes = results.table("line_forces_envelope").to_frame()
    assert set(extremes["line"]) >= {"w", "e"}


def test_a_line_in_two_pieces_is_one_line() -> None:
    """Story springs from the base up, and the same as two lines of one story each."""
    one = with_lines()
    pieces = [piece for line in one.lines for piece in (
        line.model_copy(update={"top": "L1"}),
        line.model_copy(update={"name": f"{line.name} above", "bottom": "L1"}))]
    whole, split = (solved(o)[0] for o in (one, one.model_copy(update={"lines": tuple(pieces)})))
    moved = [s.solve(s.model.loads("Y", [2e6, 1e6])) for s in (whole, split)]
    assert moved[1] == pytest.approx(moved[0], rel=1e-5, abs=1e-5 * abs(moved[0]).max())
    assert vibration(split, 6)[0] == pytest.approx(vibration(whole, 6)[0], rel=1e-5)
    shear = split.model.quantities["line shear"].where(line="w above", story="L2")
    same = whole.model.quantities["line shear"].where(line="w", story="L2")
    assert shear.of(moved[1], moved[1]) == pytest.approx(same.of(moved[0], moved[0]), rel=1e-5)
