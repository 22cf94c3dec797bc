"""Values one knows beside those computed: compared, never used."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import Command, analyze, shear_building, starter_text
from undatum.finding import Severity

pytestmark = pytest.mark.usefixtures("unpainted")

K, M = 6e7, 2e5
T1 = float(2 * np.pi / np.sqrt(K / M * (3 - np.sqrt(5)) / 2))  # two equal stories, by hand


def job(*wanted: dict[str, Any], **more: Any) -> ud.Results:
    return analyze(shear_building([K, K], [M, M]), expected=wanted, **more)


def period(**changes: Any) -> dict[str, Any]:
    return {"name": "first period", "table": "modes", "column": "period", "where": {"mode": 1},
            "value": T1, "source": "two equal stories, by hand", **changes}


def weight(value: Any, **changes: Any) -> dict[str, Any]:
    return {"name": "weight", "table": "weight_levels", "column": "weight",
            "where": {"level": "total"}, "value": value, "source": "2 M g", **changes}


def test_values_that_agree_and_values_that_do_not() -> None:
    found = job(period(tolerance=1e-9), weight(f"{2 * M * 9.80665} N"), weight("900 kip"))
    first, second, third = found.expected()
    assert first.difference == pytest.approx(0, abs=1e-9)
    assert first.holds
    assert second.holds
    assert not third.holds
    assert third.difference == pytest.approx(2 * M * 9.80665 / (900 * 4448.2216) - 1, rel=1e-6)
    one = next(f for f in found.findings if f.check == "expected: weight")
    assert one.severity is Severity.WARNING
    assert not [f for f in found.findings if f.check == "expected values"]
    agree = job(period(), weight("881.9 kip"))
    one = next(f for f in agree.findings if f.check == "expected values")
    assert (one.severity, "2 of 2" in one.text) == (Severity.OK, True)


def test_they_change_nothing_else() -> None:
    plain, found = job(), job(period(value=9.0))
    assert found.modes.periods == pytest.approx(plain.modes.periods, rel=0)
    assert [f for f in found.findings if not f.check.startswith("expected")] == \
        list(plain.findings)
    assert "expected" in found.table_names
    assert "expected" not in plain.table_names


@pytest.mark.parametrize("units", ["kN and m", "kip and ft", "kip and in", "N and m"])
def test_plain_numbers_are_in_the_unit_of_the_column(units: Any) -> None:
    """What a table shows, typed again, agrees, whatever the units."""
    plain = job(results_in=units)
    for name, head in (("weight_levels", "weight"), ("drift_x", "design drift"),
                       ("static_x_strength", "force")):
        table = plain.table(name)
        key = table.columns[0].name
        number = plain.to_frame(name)[next(
            c.head(plain.units) for c in table.columns if c.name == head)].iloc[0]
        found = job({"name": "again", "table": name, "column": head,
                     "where": {key: table.columns[0].cells[0]}, "value": float(number),
                     "tolerance": 1e-9, "source": "the run before"}, results_in=units)
        assert found.expected()[0].holds


@pytest.mark.parametrize(("changes", "place", "said"), [
    ({"table": "mode"}, r"expected\[0\].table", "did you mean 'modes'"),
    ({"table": "expected"}, r"expected\[0\].table", "not among"),
    ({"column": "periods"}, r"expected\[0\].column", "did you mean 'period'"),
    ({"column": "dominant direction"}, r"expected\[0\].column", "no number"),
    ({"column": "used"}, r"expected\[0\].column", "no number"),
    ({"where": {"node": 1}}, r"expected\[0\].where.node", "did you mean 'mode'"),
    ({"where": {"mode": 99}}, r"expected\[0\].where.mode", "no row has"),
    ({"where": {}}, r"expected\[0\].where", "names 6 rows"),
    ({"value": "1.2 kN"}, r"expected\[0\].value", "time"),
    ({"value": "long"}, r"expected\[0\].value", "number"),
    ({"source": ""}, r"expected\[0\].source", "3"),
    ({"tolerance": -0.1}, r"expected\[0\].tolerance", ""),
])
def test_expectations_that_name_nothing(changes: dict[str, Any], place: str, said: str) -> None:
    with pytest.raises(ud.InputError, match=place) as error:
        job(period(**changes))
    assert said in str(error.value)


def test_expected_values_of_a_file(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "clinic.toml"
    wanted = """
[[expected]]
name = "base shear X"
table = "scaling"
column = "static base shear"
where = { direction = "X", purpose = "strength" }
value = "2290 kN"
tolerance = "1 %"
source = "hand sheet 3"

[[expected]]
name = "weight"
table = "weight_levels"
column = "weight"
where = { level = "total" }
value = 12000
source = "tender"

[building.outlines]"""
    path.write_text(starter_text("clinic").replace("\n[building.outlines]", wanted, 1))
    out = tmp_path / "out"
    assert command(["run", str(path), "--out", str(out)]) == 0
    shown = " ".join(command.said.out.split())
    assert "expected: weight" in shown
    assert "expected: base shear" not in shown
    assert "tender" in (out / "record.html").read_text()
    assert "hand sheet 3" in (out / "tables" / "expected.csv").read_text()
    again = ud.load(out)
    assert [c.holds for c in again.expected()] == [True, False]
