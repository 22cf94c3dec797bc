"""One member or one line drawn; points by axis names; motion of the floors under every set."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest

import undatum as ud
from conftest import Command, starter_text
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
    table = terrace.case_forces(name, one.PLACES).to_frame(terrace.units)
    first = next(c for c in table.columns if table[c].isin(["dead"]).any())
    figure = one.member(terrace, name)
    for ax, action in zip(figure.axes, ACTIONS, strict=True):
        head = next(c for c in table.columns if c.startswith(action))
        for case, values in drawn(ax).items():
            own = table[table[first] == case][head].to_numpy()
            assert values == pytest.approx(own, rel=1e-9, abs=1e-6)
    bands = drawn(one.member(terrace, name, combined="strength, redundancy").axes[4])
    envelope = terrace.combined_forces(name, one.PLACES).to_frame(terrace.units)
    envelope = envelope[(envelope.kind == "strength, redundancy")
                        & (envelope.component == "moment_y")]
    for extreme in ("largest", "smallest"):
        assert bands[f"strength, redundancy, {extreme}"] == pytest.approx(
            envelope[envelope.extreme == extreme]["moment (kN·m)"].to_numpy())
    one_set = drawn(one.member(terrace, name, "static X, +e, strength").axes[4])
    assert list(one_set) == ["static X, +e, strength"]
    for wrong in ({"name": "columns on B"}, {"name": name, "of_set": "static Z"},
                  {"name": name, "combined": "own"}):
        with pytest.raises(ud.InputError):
            one.member(terrace, **wrong)


def test_a_line_is_drawn_as_it_is_tabled() -> None:
    r = ud.run(ud.shipped_project("clinic"))
    table = r.line_forces("Wall E").to_frame(r.units)
    shear, moment = one.line(r, "Wall E").axes
    for name, values in drawn(shear).items():
        own = np.abs(table[table.set == name]["shear (kN)"].to_numpy())
        assert values.size == 2 * own.size
        by_story = next(line for line in shear.lines if line.get_label() == name)
        assert np.array(by_story.get_xdata())[::2] == pytest.approx(own)
        bent = next(line for line in moment.lines if line.get_label() == name)
        assert np.array(bent.get_xdata())[1::2] == pytest.approx(
            np.abs(table[table.set == name]["moment at the bottom (kN·m)"].to_numpy()))
    with pytest.raises(ud.InputError, match="known: "):
        one.line(r, "Wall Q")


def test_lines_mode_by_mode_and_with_signs() -> None:
    """Modes put together by a double loop are the peaks; signs are those of the largest mode."""
    r = ud.run(ud.shipped_project("clinic"))
    one = next(s for s in r.spectrum_sets if s.direction == "Y" and s.state == r.strength)
    modes = r.modal_line_forces("Wall E", one.name).to_frame(r.units)
    peaks = r.line_forces("Wall E", one.name).to_frame(r.units)
    signed = r.line_forces("Wall E", one.name, signed=True).to_frame(r.units)
    w = 2 * np.pi / one.periods
    for head, quantity in (("shear (kN)", "line shear"),
                           ("moment at the bottom (kN·m)", "line moment")):
        twist = one.twist(r.model.quantities[quantity].where(line="Wall E")) / 1e3
        for k, story in enumerate(dict.fromkeys(modes["story"])):
            v = modes[modes.story == story][head].to_numpy()
            total = 0.0
            for i, j in np.ndindex(v.size, v.size):
                q = w[j] / w[i]  # CQC at 5 % damping
                total += v[i] * v[j] * 8 * 0.05**2 * (1 + q) * q**1.5 / (
                    (1 - q**2)**2 + 4 * 0.05**2 * q * (1 + q)**2)
            peak = peaks[peaks.story == story][head].item()
            assert peak == pytest.approx(np.sqrt(total) + twist[k], rel=1e-9)
            lead = int(np.argmax(np.abs(one.modal_values(
                r.model.at_base("story shear", component="Y"))[0])))
            found = signed[signed.story == story][head].item()
            assert found == pytest.approx(np.sign(v[lead]) * peak)
    assert len(r.modal_line_forces()) == len(r.modal_line_forces("", one.name)) * 2
    for wrong, said in (({"which": "Wal E"}, "did you mean 'Wall E'"),
                        ({"of_set": "static X, strength"}, "no modes of its own")):
        with pytest.raises(ud.InputError, match=said):
            r.modal_line_forces(**wrong)


def test_reactions_by_command(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    """Summed mode by mode they are the modal base shears; one foot is a part of every table."""
    (tmp_path / "terrace.toml").write_text(starter_text("terrace"))
    monkeypatch.chdir(tmp_path)
    r = ud.run(ud.read("terrace.toml"))
    for options, whole in (((), r.reactions()), (("--by-mode",), r.modal_reactions()),
                           (("--signed",), r.reactions(signed=True)),
                           (("--combined", "--by", "static"), r.footings("static")),
                           (("--loads",), r.table("case_reactions")),
                           (("--set", "static X, +e, strength"),
                            r.reactions("static X, +e, strength"))):
        assert command(["reactions", "terrace.toml", "B2", *options, "--table", "f.csv"]) == 0
        frame = whole.to_frame(r.units)
        own = frame[frame.foot == "B2"].reset_index(drop=True)
        assert 0 < len(own) < len(frame)
        written = pd.read_csv("f.csv")
        assert list(written.columns) == list(own.columns)
        for head in own:
            if own[head].dtype.kind == "f":
                np.testing.assert_allclose(written[head], own[head], rtol=1e-9, atol=1e-9)
    modal = r.modal_reactions().to_frame(r.units)
    total = modal[modal.foot == "sum"]
    shears = r.to_frame("modal_base_shears")
    for d in "XY":
        scale = next(s.answer.factor for s in r.scaling
                     if s.direction == d and s.state == r.strength)
        own = total[total["set"] == f"spectrum {d}, strength"]
        assert np.abs(own[f"force {d} (kN)"]).tolist() == pytest.approx(
            (np.abs(shears[f"base shear, {d} (kN)"]) * scale).tolist(), rel=1e-6, abs=1e-6)
    for wrong in (["B9"], ["--by-mode", "--signed"], ["--loads", "--set", "spectrum X, strength"]):
        assert command(["reactions", "terrace.toml", *wrong]) == 2


def test_tables_of_what_was_chosen(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    """As CSV and as a sheet, of members and of lines; what the record names is in every output."""
    (tmp_path / "terrace.toml").write_text(starter_text("terrace")
                                           + '\n[record]\nmembers = ["columns on B2 at L1..L2"]\n')
    (tmp_path / "clinic.toml").write_text(starter_text("clinic"))
    monkeypatch.chdir(tmp_path)
    for name, options in (("clinic.toml", ["lines", "Wall E", "--by-mode"]),
                          ("clinic.toml", ["lines", "--set", "spectrum X, strength", "--signed"]),
                          ("terrace.toml", ["members", "columns on B2", "--combined", "envelope"])):
        for file in ("t.csv", "t.xlsx"):
            assert command([options[0], name, *options[1:], "--table", file]) == 0
        plain = pd.read_csv("t.csv")
        sheet = pd.read_excel("t.xlsx", header=2).replace("–", np.nan)
        assert list(plain.columns) == list(sheet.columns)
        for head in plain:
            if plain[head].dtype.kind == "f":
                np.testing.assert_allclose(plain[head], sheet[head].astype(float), rtol=1e-9)
    for wrong in (["--by-mode", "--signed"], ["--combined", "--set", "x"], ["--table", "t.pdf"]):
        assert command(["lines", "clinic.toml", *wrong]) == 2
    r = ud.run(ud.read("terrace.toml"))
    picked = r.to_frame("picked_1")
    assert set(picked["member"]) == {"column B2 at L1", "column B2 at L2"}
    whole = r.combined_forces("column B2 at L1", (0, 0.5, 1)).to_frame(r.units)
    pd.testing.assert_frame_equal(
        picked[picked.member == "column B2 at L1"].reset_index(drop=True), whole)


def test_drawing_by_command(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    for name in ("terrace", "clinic"):
        (tmp_path / f"{name}.toml").write_text(starter_text(name))
    monkeypatch.chdir(tmp_path)
    assert command(["members", "terrace.toml", "column B2 at L1", "--combined", "envelope",
                    "--plot", "m.png"]) == 0
    assert command(["lines", "clinic.toml", "Wall E", "--plot", "w.png"]) == 0
    for file in ("m.png", "w.png"):
        assert (tmp_path / file).read_bytes().startswith(b"\x89PNG")
    for wrong in (["members", "terrace.toml", "--plot", "x.png"],
                  ["members", "terrace.toml", "columns on B", "--plot", "x.png"],
                  ["lines", "clinic.toml", "--plot", "x.png"],
                  ["lines", "clinic.toml", "Wall E", "--plot", "x.pdf"]):
        assert command(wrong) == 2
    assert not (tmp_path / "x.png").exists()


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
