"""What a reader is told: which spectrum, where drift is read, what a verdict means, empty cells."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from conftest import OWN, ROOMS, analyze, shear_building
from undatum.finding import Severity
from undatum.report.files import csv_text, write_all
from undatum.results.results import Results
from undatum.table import Table, column, number_text
from undatum.units import UnitSystem

pytestmark = pytest.mark.usefixtures("unpainted")


def run(key: str, building: ud.Building | None = None, **more: object) -> Results:
    site, system, *_ = ROOMS[key]
    return ud.analyze(  # type: ignore[arg-type]
        title="t", standard=key, site=site, system={"X": system, "Y": system}, folder=OWN,
        building=building or shear_building([6e7] * 3, [2e5] * 3), **more)


@pytest.mark.parametrize(("key", "words"), [
    ("asce7-16", "torsionally irregular, categories C to F (12.12.1)"),
    ("ubc97", "1630.9.1"), ("is1893-2016", "7.11.1 names no place"),
    ("en1998", "4.4.2.2(2)"), ("criteria.toml", "the criteria name no place")])
def test_drift_tables_say_where_and_why_in_the_standards_words(key: str, words: str) -> None:
    twisted = shear_building([6e7] * 3, [2e5] * 3, lines_x=[(0.0, 0.85), (6.0, 0.15)])
    note = run(key, twisted).table("drift_x").note
    assert words in note
    assert ("torsionally irregular" in note) is (key == "asce7-16")


def test_every_row_of_the_full_drift_table_has_its_verdict() -> None:
    r = analyze(shear_building([1.2e7] * 3, [2e5] * 3))
    frame = r.to_frame("drift_all")
    for d in "XY":
        over = frame[f"use {d}"] > 1
        center = frame["point"] == "center of mass"
        verdict = frame[f"verdict {d}"]
        assert set(verdict[over & center]) == {"exceeded"}
        assert set(verdict[~over & center]) <= {"passes"}
        assert set(verdict[~center]) == {"center of mass governs"}
        exceeded = any(f.severity is Severity.EXCEEDED for f in r.findings
                       if f.check.startswith(f"story drift {d}"))
        assert exceeded == bool((verdict == "exceeded").any())


def test_a_spectrum_from_a_file_is_named_first_and_compared(tmp_path: Path) -> None:
    (tmp_path / "own.csv").write_text("period (s), ordinate (g)\n0, 0.4\n0.6, 0.4\n9, 0.1\n")
    r = analyze(shear_building([4e8] * 3, [2e5] * 3), spectrum={"file": "own.csv"},
                folder=tmp_path)
    name, text = r.summary()[1]
    assert name == "Spectrum"
    t = float(r.modes.periods[r.modes.governing(0)])
    ratio = 0.4 / (2 / 3 * 1.2)  # plateau of class C, S_S 1.0
    assert t < 0.5
    assert text.startswith(f"own.csv in place of the standard's: {ratio:.2f} times its ordinate at "
                           f"{t:.3f} s in X")
    assert "Spectrum" not in dict(analyze(shear_building([6e7] * 3, [2e5] * 3)).summary())


@pytest.mark.parametrize("k", [2e8, 2e7, 6e6])
def test_the_period_is_held_against_the_standards_own_estimate(k: float) -> None:
    """From 0.4 to 2.5 times T_a of Eq. 12.8-7: not 0.1 s for each story."""
    r = analyze(shear_building([k] * 6, [2e5] * 6))
    ta = 0.028 * (18.0 / 0.3048) ** 0.8
    t = float(r.modes.periods[r.modes.governing(0)])
    row = next(c for c in r.plausibility.comparisons
               if c.name == "period by the standard's formula" and c.where == "X")
    assert row.estimate == pytest.approx(ta)
    assert row.believed == (0.4 * ta <= t <= 2.5 * ta)


def test_plausibility_speaks_the_units_of_the_project() -> None:
    r = analyze(shear_building([6e7] * 3, [2e5] * 3), results_in="kip and ft")
    frame = r.to_frame("plausibility")
    shear = frame[frame["check"] == "base shear by hand"]["computed"].iloc[0]
    assert shear.endswith(" kip")
    weight = next(f for f in r.findings if f.check == "weight per floor area")
    assert "psf" in weight.text
    assert "kN" not in weight.text


def test_cells_are_what_they_say() -> None:
    """Empty text is empty, negative numbers stay numbers, a leading break is no formula."""
    table = Table("t", "t", (
        column("a", "", ["", "-0.4", "-5 kN", "\n=1", "=1", "plain", None]),
        column("b", "force", [-2.0, 0.0, 3.7e-34, 1e6, float("nan"), float("inf"), -1e-20])))
    rows = list(csv.reader(io.StringIO(csv_text(table, UnitSystem("N and m")))))[1:]
    assert [r[0] for r in rows] == ["", "-0.4", "'-5 kN", "'\n=1", "'=1", "plain", ""]
    assert [r[1] for r in rows] == ["-2", "0", "0", "1000000", "", "", "0"]
    assert number_text(table.columns[1].cells[2]) == "0"


def test_results_without_a_drift_limit_are_written_and_read_back(tmp_path: Path) -> None:
    r = analyze(shear_building([4e6], [2e5]),
                drift={"structure": "low-rise with drift-tolerant finishes"})
    write_all(r, tmp_path / "o")
    again = ud.load(tmp_path / "o")
    assert np.isinf(again.drift.limits[0])
    assert again.drift.reasons == r.drift.reasons
