"""One member or one line drawn; points by axis names; motion of the floors under every set."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import Command, frame_of, starter_text
from undatum.mechanics.actions import ACTIONS
from undatum.report import one

TERRACE = ud.shipped_project("terrace")


@pytest.fixture(scope="module")
def terrace() -> ud.Results:
    return ud.run(TERRACE.varied({"drift": {"points": [
        {"name": "west", "at": "B-1"}, {"name": "middle", "at": [14.0, 7.0]}]}}))


def drawn(ax: Any) -> dict[str, Any]:
    return {line.get_label(): np.array(line.get_ydata()) for line in ax.lines
            if not line.get_label().startswith("_")}


def test_a_member_is_drawn_as_it_is_tabled(terrace: ud.Results) -> None:
    name = "beam B 2-3 at L1"
    table = frame_of(terrace, "forces", name, "cases", at=one.PLACES)
    first = next(c for c in table.columns if table[c].isin(["dead"]).any())
    figure = one.member(terrace, name, "cases")
    for ax, action in zip(figure.axes, ACTIONS, strict=True):
        head = next(c for c in table.columns if c.startswith(action))
        for case, values in drawn(ax).items():
            own = table[table[first] == case][head].to_numpy()
            assert values == pytest.approx(own, rel=1e-9, abs=1e-6)
    bands = drawn(one.member(terrace, name, "strength, redundancy").axes[4])
    envelope = frame_of(terrace, "forces", name, "envelope", at=one.PLACES)
    envelope = envelope[(envelope.kind == "strength, redundancy")
                        & (envelope.component == "moment_y")]
    for extreme in ("largest", "smallest"):
        assert bands[f"strength, redundancy, {extreme}"] == pytest.approx(
            envelope[envelope.extreme == extreme]["moment (kN·m)"].to_numpy())
    one_set = drawn(one.member(terrace, name, "static X, +e, strength").axes[4])
    assert list(one_set) == ["static X, +e, strength"]
    for wrong in ({"name": "columns on B"}, {"name": name, "under": "static Z"},
                  {"name": name, "under": "each"}):
        with pytest.raises(ud.InputError):
            one.member(terrace, **wrong)


def test_drawing_by_command(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    for name in ("terrace", "clinic"):
        (tmp_path / f"{name}.toml").write_text(starter_text(name))
    monkeypatch.chdir(tmp_path)
    assert command(["read", "terrace.toml", "forces", "column B2 at L1",
                    "--under", "strength, redundancy", "--plot", "m.png"]) == 0
    assert command(["read", "clinic.toml", "lines", "Wall E", "--plot", "w.png"]) == 0
    for file in ("m.png", "w.png"):
        assert (tmp_path / file).read_bytes().startswith(b"\x89PNG")


def test_points_by_the_names_of_axes(terrace: ud.Results) -> None:
    points = terrace.to_frame("drift_points").set_index("point")
    assert tuple(points.loc["west", ["x (m)", "y (m)"]]) == (0.0, 6.0)
    assert points.loc["west", "crossing"] == "B1"
    assert points.loc["middle", "crossing"] == ""
    assert "west" in set(terrace.to_frame("drift_all")["point"])
    with pytest.raises(ud.InputError, match=r"drift\.points\[0\]\.at"):
        TERRACE.varied({"drift": {"points": [{"name": "p", "at": "Z9"}]}})
    with pytest.raises(ud.InputError, match="there are no axes"):
        ud.shipped_project("clinic").varied({"drift": {"points": [{"name": "p", "at": "B2"}]}})


def test_floors_turn_as_their_corners_move(terrace: ud.Results) -> None:
    """Two points of a rigid floor differ by its rotation times their distance."""
    motion = terrace.to_frame("floor_motion").set_index(["set", "level"])
    name = "static X, +e, drift"
    turn = float(motion.loc[(name, "L2"), "rotation (rad)"])
    moved = terrace.to_frame("displacements").set_index(["set", "point", "level"])
    points = terrace.to_frame("drift_points").set_index("point")
    a, b = "corner 1", "corner 3"
    across = points.loc[b, "y (m)"] - points.loc[a, "y (m)"]
    difference = moved.loc[(name, b, "L2"), "elastic X (mm)"] \
        - moved.loc[(name, a, "L2"), "elastic X (mm)"]
    assert difference / 1e3 == pytest.approx(-turn * across, rel=1e-9)
    assert set(motion.index.get_level_values(0)) == {s.name for s in terrace.every_set}


def test_period_ratio_of_torsion(terrace: ud.Results) -> None:
    m = terrace.modes
    said = terrace.table("modes").note
    for axis, d in enumerate("XY"):
        assert f"{m.periods[m.governing(2)] / m.periods[m.governing(axis)]:.2f} in {d}" in said


def test_the_displacement_of_an_axis_is_that_of_its_nodes(terrace: ud.Results) -> None:
    """Ends of the curves are moved nodes, enlarged alike; what has no sign is refused."""
    from undatum.report.moved import deformed

    for under, column in (("static X, +e, strength", "X"), ("dead", "X"),
                          ("modes of spectrum X, strength", "")):
        if not column:
            with pytest.raises(ud.InputError, match="several displacements"):
                deformed(terrace, "B", under)
            continue
        figure = deformed(terrace, "B", under)
        curves = figure.axes[0].collections[-1].get_segments()  # type: ignore[attr-defined]
        scale = float(figure.texts[-1].get_text().split("displacements ")[1].split(" times")[0])
        table = frame_of(terrace, "motion", "columns on B2 at L1", under)
        moved = table[table.level == "L1"].iloc[0]
        ends = np.array([c[k] for c in curves for k in (0, -1)])
        there = np.array([7.0, 4.5]) + scale / 1e3 * np.array(
            [moved["displacement X (mm)"], moved["displacement Z (mm)"]])
        assert np.hypot(*(ends - there).T).min() < 0.01
    with pytest.raises(ud.InputError, match="both ways"):
        deformed(terrace, "B", "strength, redundancy")
