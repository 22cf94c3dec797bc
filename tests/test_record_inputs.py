"""The record holds what was put in, so that its numbers can be followed from the print alone."""

from __future__ import annotations

import math
import re
from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building
from undatum.report.files import write_all
from undatum.results.results import Results

pytestmark = pytest.mark.usefixtures("unpainted")


def test_line_shears_follow_from_the_printed_tables(archive: Results) -> None:
    """Stiffness and place of every line, forces and torques: the shears of the top story."""
    r = analyze(shear_building([6e7] * 3, [2e5] * 3, lines_x=[(0.0, 0.7), (6.0, 0.3)]),
                analysis={"accidental_torsion": "always"})
    lines = r.table("input_lines").to_frame("N and m")
    top = lines[lines["story"] == "L3"]
    force = float(r.table("static_x_strength").to_frame("N and m")["force (N)"].iloc[0])
    center = float(r.table("centers").to_frame("N and m")["y of center of mass (m)"].iloc[0])
    along = np.isclose(top["angle from X (deg)"], 0.0)
    k, y, x = (top[c].to_numpy(float) for c in ("story stiffness (N/m)", "y (m)", "x (m)"))
    rigid = float((k * y)[along].sum() / k[along].sum())
    middle = float((k * x)[~along].sum() / k[~along].sum())
    polar = (k * (y - rigid) ** 2)[along].sum() + (k * (x - middle) ** 2)[~along].sum()
    worst = np.zeros(along.sum())
    for sign in (1, -1):
        moment = force * (center + sign * 0.05 * 6.0 - rigid)
        shears = force * k[along] / k[along].sum() + moment * k[along] * (y[along] - rigid) / polar
        worst = np.maximum(worst, np.abs(shears))
    found = r.table("line_shears").to_frame("N and m")
    for name, hand in zip(top["line"][along], worst, strict=True):
        row = found[(found["line"] == name) & (found["story"] == "L3")]
        assert float(row["shear (N)"].iloc[0]) >= hand * (1 - 1e-9)
        static = [abs(float(r.shears.lines.sel(set=f"static X, {s}e, strength", line=name,
                                               story="L3").values)) for s in "+−"]
        assert max(static) == pytest.approx(hand, rel=1e-9)
    assert archive.table("input_lines")


def test_the_governing_spectrum_drift_follows_mode_by_mode(archive: Results) -> None:
    """CQC by a plain double loop over the printed modal values and coefficients."""
    rows = [dict(zip([c.name for c in archive.table("modal_drift").columns], row, strict=True))
            for row in archive.table("modal_drift").rows()]
    pairs = {(i, j): rho for i, j, rho in archive.table("mode_correlation").rows()}
    for d in "XY":
        own = [r for r in rows if r["drift"] == d]
        values = {r["mode"]: r["elastic drift"] for r in own[:-1]}
        total = sum(v * w * (1.0 if i == j else pairs.get((min(i, j), max(i, j)), 0.0))
                    for i, v in values.items() for j, w in values.items())
        assert own[-1]["mode"] == "by CQC"
        assert own[-1]["elastic drift"] == pytest.approx(math.sqrt(total), rel=2e-3)


def test_gravity_load_is_the_sum_of_its_items(archive: Results) -> None:
    items = archive.table("weight_items").to_frame("N and m")
    for level, load in zip(archive.weights.levels, archive.weights.gravity, strict=True):
        own = items[items["level"] == level]["in P of second order (N)"]
        assert float(own.sum()) == pytest.approx(load)
    assert (items["in P of second order (N)"] > items["seismic weight (N)"]).any()  # live load


def test_the_record_holds_inputs_verdicts_and_lines_to_sign(tmp_path: Path) -> None:
    r = analyze(shear_building([6e7] * 3, [2e5] * 3), revision="B", checked_by="A. N. Other",
                site={**SITE, "risk_category": "III"})
    write_all(r, tmp_path / "o")
    page = re.sub(r"<[^>]+>", " ", (tmp_path / "o" / "record.html").read_text(encoding="utf-8"))
    for words in ("Input", "Lateral lines as given", "Outlines as given",
                  "Revision: B", "Checked by", "A. N. Other", "risk_category",
                  "Correlation of the modes", "verdict X", "in P of second order"):
        assert words in page, words


def test_equal_blocks_are_printed_once(tmp_path: Path) -> None:
    """EN 1998-1 takes one set of forces; ASCE 7 with a capped period does not."""
    site = {"reference_acceleration": 0.25, "ground_type": "B", "importance_class": "II",
            "use": "B"}
    frame = {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True}
    same = analyze(shear_building([6e7] * 3, [2e5] * 3), standard="en1998", site=site,
                   system={"X": frame, "Y": frame})
    write_all(same, tmp_path / "a")
    page = (tmp_path / "a" / "record.html").read_text(encoding="utf-8")
    assert page.count("printed once") == 2
    other = analyze(shear_building([6e6] * 3, [2e5] * 3))
    write_all(other, tmp_path / "b")
    assert "printed once" not in (tmp_path / "b" / "record.html").read_text(encoding="utf-8")


def test_what_was_put_in_stands_in_the_units_of_the_project() -> None:
    r = ud.run(ud.shipped_project("archive_frames"))
    given = r.to_frame("input_members").set_index(["table", "key"])["value"]
    assert given["axes", "across_x.spacing"] == ", ".join(["30 ft"] * 6)
    assert given["members[2]", "turned"] == "90 deg"
    asked = r.to_frame("choices").set_index(["table", "key"])["value"]
    assert asked["site", "ss"] == "1.35 g"
    assert asked["drift", "points[0].at"] == "125 ft, 35 ft"
    walls = ud.run(ud.shipped_project("clinic")).table("input_lines")
    si, mm = (walls.to_frame(units).set_index("line").loc["Wall S1"].iloc[0]
              for units in ("N and m", "kN and mm"))
    assert mm["bending stiffness EI (kN·mm²)"] == pytest.approx(
        1e3 * si["bending stiffness EI (N·m²)"])
