"""Two runs side by side: what was asked, judged and found differently."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import analyze, shear_building, starter_text
from test_bad_input import call

pytestmark = pytest.mark.usefixtures("unpainted")

PLAN = shear_building([6e7, 6e7, 6e7], [2e5, 2e5, 2e5])


def test_a_run_and_itself_are_alike() -> None:
    asked, judged, found = analyze(PLAN).compared_with(analyze(PLAN), 0.0)
    assert (len(asked), len(judged), len(found)) == (0, 0, 0)
    assert "same job" in asked.note


@pytest.mark.parametrize("units", ["kN and m", "kip and ft"])
def test_units_are_no_change_of_results(units: str) -> None:
    """The same building shown in other units: asked differently, found alike."""
    asked, judged, found = analyze(PLAN).compared_with(analyze(PLAN, results_in=units), 1e-9)
    assert len(found) == 0
    assert len(judged) == 0
    assert [*asked.columns[0].cells] == ([] if units == "kN and m" else ["units"])


def test_what_changes_is_found_with_its_size() -> None:
    """A tenth more ground motion on the same modes: weights stay, shears and drifts go with it."""
    site = {"ss": 1.2, "s1": 0.65, "long_period": 8.0, "site_class": "B", "risk_category": "II"}
    more = {**site, "ss": 1.32, "s1": 0.715}
    first, second = analyze(PLAN, site=site), analyze(PLAN, site=more)
    asked, _, found = first.compared_with(second)
    assert [*asked.columns[0].cells] == ["site.ss", "site.s1"]
    assert [*asked.columns[2].cells] == ["1.32", "0.715"]
    tables = dict(zip(found.columns[0].cells, found.columns[5].cells, strict=True))
    assert "weight_levels" not in tables
    assert "modes" not in tables
    rows = [*zip(*(c.cells for c in found.columns), strict=True)]
    base = [r for r in rows if r[0] == "scaling" and r[2] == "static base shear"]
    assert base
    assert all(r[5] == pytest.approx(1 - 1 / 1.1, rel=1e-6) for r in base)
    sizes = [abs(float(r[5])) for r in rows]  # type: ignore[arg-type]
    assert sizes == sorted(sizes, reverse=True)
    # the other way round the same changes with the other sign
    back = second.compared_with(first)[2]
    assert sorted(back.columns[5].cells) == pytest.approx(  # type: ignore[type-var]
        sorted(-float(v) for v in found.columns[5].cells))  # type: ignore[arg-type]


def test_rows_are_told_apart_by_their_names_not_their_place() -> None:
    """A level more at the top: those below are compared with themselves."""
    taller = shear_building([6e7] * 4, [2e5] * 4)
    found = analyze(PLAN).compared_with(analyze(taller), 1e-6)[2]
    rows = [*zip(*(c.cells for c in found.columns), strict=True)]
    assert not [r for r in rows if r[0] == "weight_levels" and r[1] in ("L1", "L2", "L3")
                and r[2] == "weight"]
    assert [r for r in rows if r[0] == "weight_levels" and r[1] == "total"]


def test_what_is_judged_differently() -> None:
    """Softer by ten: drift holds no more, and that is said once."""
    soft = shear_building([6e6] * 3, [2e5] * 3)
    _, judged, _ = analyze(PLAN).compared_with(analyze(soft))
    rows = {str(r[0]): r[1:3] for r in zip(*(c.cells for c in judged.columns), strict=True)}
    assert rows["story drift X, static"] == ("ok", "exceeded")
    order = [r for r in judged.columns[2].cells if r == "exceeded"]
    assert [*judged.columns[2].cells][: len(order)] == order


def test_compare_from_the_command_line(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    first, second = tmp_path / "a.toml", tmp_path / "b.toml"
    first.write_text(starter_text("clinic"))
    second.write_text(starter_text("clinic").replace('site_class = "C"', 'site_class = "D"', 1))
    out, table = tmp_path / "out", tmp_path / "changes.csv"
    assert call(["run", str(first), "--out", str(out)], monkeypatch) == 0
    capsys.readouterr()
    assert call(["compare", str(out), str(second), "--table", str(table), "--rows", "5"],
                monkeypatch) == 0
    text = " ".join(capsys.readouterr().out.split())
    assert "site.site_class" in text
    assert "more rows" in text
    assert len(table.read_text().splitlines()) > 20
    assert call(["compare", str(out), str(first), "--least", "0"], monkeypatch) == 0
    assert "Nothing: both describe the same job" in " ".join(capsys.readouterr().out.split())
    for wrong in ([str(out), str(tmp_path / "none")], [str(out), str(second), "--least", "x"],
                  [str(out), str(second), "--least", "120 %"]):
        assert call(["compare", *wrong], monkeypatch) == 2
        assert capsys.readouterr().err
