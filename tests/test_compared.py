"""Two runs side by side: what was asked, judged and found differently."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

import undatum as ud
from conftest import Command, analyze, shear_building, starter_text
from undatum.finding import Finding, Severity
from undatum.results.compared import _changes
from undatum.results.results import Results
from undatum.table import Table, column
from undatum.units import SI

pytestmark = pytest.mark.usefixtures("unpainted")

PLAN = shear_building([6e7, 6e7, 6e7], [2e5, 2e5, 2e5])


def test_a_run_and_itself_are_alike() -> None:
    first, judged, asked, found = ud.compared(analyze(PLAN), analyze(PLAN), 0.0)
    assert [len(t) for t in (first, asked, judged, found)] == [0, 0, 0, 0]
    assert "both inputs are the same" in asked.note


@pytest.mark.parametrize("units", ["kN and m", "kip and ft"])
def test_units_are_no_change_of_results(units: str) -> None:
    """The same building shown in other units: asked differently, found alike."""
    first, judged, asked, found = ud.compared(analyze(PLAN), analyze(PLAN, results_in=units), 1e-9)
    assert len(first) == len(found) == 0
    assert len(judged) == 0
    assert [*asked.columns[0].cells] == ([] if units == "kN and m" else ["units"])


def test_what_changes_is_found_with_its_size() -> None:
    """A tenth more ground motion on the same modes: weights stay, shears and drifts go with it."""
    site = {"ss": 1.2, "s1": 0.65, "long_period": 8.0, "site_class": "B", "risk_category": "II"}
    more = {**site, "ss": 1.32, "s1": 0.715}
    first, second = analyze(PLAN, site=site), analyze(PLAN, site=more)
    _, _, asked, found = ud.compared(first, second)
    assert [*asked.columns[0].cells] == ["site.ss", "site.s1"]
    assert [*asked.columns[2].cells] == ["1.32 g", "0.715 g"]
    tables = dict(zip(found.columns[0].cells, found.columns[5].cells, strict=True))
    assert "weight_levels" not in tables
    assert "modes" not in tables
    rows = [*zip(*(c.cells for c in found.columns), strict=True)]
    base = [r for r in rows if r[0] == "scaling" and r[2] == "static base shear"]
    assert base
    assert all(r[5] == pytest.approx(1 - 1 / 1.1, rel=1e-6) for r in base)
    kept = {r[0]: float(r[3]) for r in zip(*(c.cells for c in ud.compared(first, second)[0]
                                             .columns), strict=True)}  # type: ignore[arg-type]
    assert kept["static base shear in X"] == pytest.approx(1 - 1 / 1.1)
    assert not [name for name in kept if name.startswith(("period", "seismic weight", "factor"))]
    # the other way round the same changes with the other sign
    back = ud.compared(second, first)[3]
    assert sorted(back.columns[5].cells) == pytest.approx(  # type: ignore[type-var]
        sorted(-float(v) for v in found.columns[5].cells))  # type: ignore[arg-type]


def test_rows_are_told_apart_by_their_names_not_their_place() -> None:
    """A level more at the top: those below are compared with themselves."""
    taller = shear_building([6e7] * 4, [2e5] * 4)
    found = ud.compared(analyze(PLAN), analyze(taller), 1e-6)[3]
    rows = [*zip(*(c.cells for c in found.columns), strict=True)]
    assert not [r for r in rows if r[0] == "weight_levels" and r[1] in ("L1", "L2", "L3")
                and r[2] == "weight"]
    assert [r for r in rows if r[0] == "weight_levels" and r[1] == "total"]


def test_what_is_judged_differently() -> None:
    """Softer by ten: drift holds no more, and that is said once."""
    soft = shear_building([6e6] * 3, [2e5] * 3)
    _, judged, _, _ = ud.compared(analyze(PLAN), analyze(soft))
    rows = {str(r[0]): r[1:3] for r in zip(*(c.cells for c in judged.columns), strict=True)}
    assert rows["story drift X, static"] == ("ok", "exceeded")
    order = [r for r in judged.columns[2].cells if r == "exceeded"]
    assert [*judged.columns[2].cells][: len(order)] == order


def test_compare_from_the_command_line(tmp_path: Path, command: Command) -> None:
    first, second = tmp_path / "a.toml", tmp_path / "b.toml"
    first.write_text(starter_text("clinic"))
    second.write_text(starter_text("clinic").replace('site_class = "C"', 'site_class = "D"', 1))
    out, table = tmp_path / "out", tmp_path / "changes.csv"
    assert command(["run", str(first), "--out", str(out)]) == 0
    assert command(["compare", str(out), str(second), "--table", str(table), "--rows", "5"]) == 0
    text = " ".join(command.said.out.split())
    assert "site.site_class" in text
    assert "more rows" in text
    assert len(table.read_text().splitlines()) > 20
    assert command(["compare", str(out), str(first), "--least", "0"]) == 0
    assert "None: both inputs are the same" in " ".join(command.said.out.split())
    for wrong in ([str(out), str(tmp_path / "none")], [str(out), str(second), "--least", "x"],
                  [str(out), str(second), "--least", "120 %"]):
        assert command(["compare", *wrong]) == 2
        assert command.said.err


def table_of(*values: float, dimension: str = "force") -> Table:
    return Table("t", "t", (column("row", "", [str(k) for k in range(len(values))]),
                            column("value", dimension, list(values))))


@pytest.mark.parametrize(("moved", "told"), [(0.0, 0), (0.5e-6, 0), (3e-6, 1), (0.02, 1)])
def test_round_off_is_measured_beside_the_largest_of_a_dimension(moved: float, told: int) -> None:
    """A small number that changes by half is noise beside a large one of its dimension, in another
    column too; above a millionth of that it is told."""
    a, b = table_of(1.0, 2 * moved), table_of(1.0, moved)
    assert len(_changes(a, b, SI, 1e-3, {"force": 1.0})) == told
    assert len(_changes(a, b, SI, 1e-3, {"force": 1e9})) == 0
    equal = table_of(1.0, 3.0)
    assert _changes(equal, equal, SI, 0.0, {"force": 0.0}) == []


def test_of_a_check_the_most_serious_finding_is_compared() -> None:
    """A note that comes first or last does not hide that the same check is now exceeded."""
    def told(*severities: str) -> Results:
        r = analyze(PLAN)
        return replace(r, findings=tuple(
            Finding("a check", str(k), Severity(s), s) for k, s in enumerate(severities)))

    for before, after, said in ((("ok", "warning"), ("exceeded", "ok"), ("warning", "exceeded")),
                                (("exceeded", "note"), ("note", "exceeded"), None)):
        judged = ud.compared(told(*before), told(*after))[1]
        rows = [*zip(*(c.cells for c in judged.columns[:3]), strict=True)]
        assert rows == ([] if said is None else [("a check", *said)])
