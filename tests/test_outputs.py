"""What is written: repeatable to the byte, safe to open, complete."""

from __future__ import annotations

import csv
import re
from pathlib import Path
from typing import Any

import numpy as np
import openpyxl
import pytest

import undatum as ud
from conftest import write_toml
from test_own_combinations import leaning
from undatum.report import files
from undatum.results.results import Results
from undatum.table import number_text


@pytest.fixture(scope="module")
def nasty(tmp_path_factory: pytest.TempPathFactory) -> tuple[Results, Path]:
    """A project whose names try to be markup and formulas, written to disk."""
    import tomllib

    from conftest import starter_text

    data: dict[str, Any] = tomllib.loads(starter_text("starter"))
    data["title"] = '<script>alert("t")</script> & =1+1'
    data["prepared_by"] = "{{ 7*7 }}"
    data["building"]["levels"][0]["name"] = '=HYPERLINK("x")'
    data["building"]["levels"][1]["name"] = "<b>L3</b>"
    for line in data["building"]["lines"]:
        line["top"] = '=HYPERLINK("x")'
    data["building"]["lines"][0]["name"] = "@SUM(A1)"
    data["building"]["floors"]["office"][0]["name"] = "+cmd|' /C calc'!A0"
    folder = tmp_path_factory.mktemp("nasty")
    path = write_toml(data, folder / "p.toml")
    results = ud.run(ud.read(path))
    files.write_all(results, folder / "out")
    return results, folder / "out"


def test_same_input_same_bytes(
    results: dict[str, Results], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1700000000")
    r = results["starter"]
    for name in ("a", "b"):
        files.write_all(r, tmp_path / name)
    first = sorted(p.relative_to(tmp_path / "a") for p in (tmp_path / "a").rglob("*.*")
                   if p.is_file() and ".undatum" not in p.parts)
    assert len(first) > 25
    for part in first:
        assert (tmp_path / "a" / part).read_bytes() == (tmp_path / "b" / part).read_bytes(), part
    assert "2023-11-14" in (tmp_path / "a" / "record.html").read_text(encoding="utf-8")


@pytest.mark.usefixtures("unpainted")
def test_second_run_replaces_the_first_and_leaves_other_files(
    results: dict[str, Results], tmp_path: Path
) -> None:
    out = tmp_path / "out"
    files.write_all(results["archive"], out)
    (out / "notes.txt").write_text("mine")
    assert (out / "tables" / "torsion_x.csv").exists()
    files.write_all(results["starter"], out)
    assert (out / "notes.txt").read_text() == "mine"
    assert "My building" in (out / "record.html").read_text(encoding="utf-8")


def test_failure_half_way_leaves_nothing(
    results: dict[str, Results], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fail(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("undatum.report.workbook.write", fail)
    with pytest.raises(ud.InputError, match="No space left"):
        files.write_all(results["starter"], tmp_path / "out")
    assert list(tmp_path.iterdir()) == []


def test_page_escapes_text_and_runs_nothing(nasty: tuple[Results, Path]) -> None:
    page = (nasty[1] / "record.html").read_text(encoding="utf-8")
    assert "<script" not in page
    assert "&lt;script&gt;" in page
    assert "<b>L3</b>" not in page
    assert "{{ 7*7 }}" in page
    assert not re.search(r'(src|href)="(?!data:|#)', page)  # self-contained


def test_sheet_never_holds_a_formula(nasty: tuple[Results, Path]) -> None:
    book = openpyxl.load_workbook(nasty[1] / "results.xlsx")
    texts = set()
    for sheet in book:
        assert sheet.freeze_panes == (None if sheet.title == "Summary" else "B4")
        for row in sheet.iter_rows():
            for cell in row:
                assert cell.data_type != "f", cell.value
                texts.add(cell.value)
    assert '=HYPERLINK("x")' in texts


def test_csv_text_is_defused(nasty: tuple[Results, Path]) -> None:
    for path in (nasty[1] / "tables").iterdir():
        with path.open(encoding="utf-8", newline="") as source:
            for row in csv.reader(source):
                for cell in row:
                    numeric = re.fullmatch(r"-?[\d.]+(e[-+]\d+)?", cell)
                    assert numeric or not cell.startswith(("=", "+", "-", "@")), (path.name, cell)


def test_workbook_marks_what_is_exceeded_in_words(
    results: dict[str, Results], tmp_path: Path
) -> None:
    r = results["archive"]
    from undatum.report import workbook

    workbook.write("x", r.units, r.tables(), tmp_path / "x.xlsx")
    sheet = openpyxl.load_workbook(tmp_path / "x.xlsx")["drift x"]
    rows = [[c.value for c in row] for row in sheet.iter_rows(min_row=3)]
    use, verdict = rows[0].index("use"), rows[0].index("verdict")
    assert "elastic drift (in)" in rows[0]
    for row in rows[1:]:
        assert row[verdict] == ("exceeded" if row[use] > 1 else "passes")
    assert any(row[verdict] == "exceeded" for row in rows[1:])
    book = openpyxl.load_workbook(tmp_path / "x.xlsx")
    for name in ("findings", "plausibility", "modes"):  # in words of their own
        assert "verdict" not in {c.value for c in next(book[name].iter_rows(min_row=3))}


@pytest.mark.parametrize("project", ["archive", "clinic", "starter"])
def test_rows_are_colored_where_a_verdict_says_exceeded(
    results: dict[str, Results], project: str
) -> None:
    seen = 0
    for table in results[project].tables():
        verdicts = [c.cells for c in table.columns if c.name.startswith("verdict")]
        for k, row in enumerate(zip(*verdicts, strict=True)):
            assert ("exceeded" in row) == (k in table.marks), (table.name, k)
            seen += "exceeded" in row
    assert (seen > 0) == (project == "archive")


def test_every_column_with_a_dimension_names_its_unit(archive: Results) -> None:
    for table in archive.tables():
        for column, head in zip(table.columns, table.heads(archive.units), strict=True):
            if column.dimension not in ("", "ratio"):
                assert head.endswith(")"), head
                assert f"({archive.units.label(column.dimension)})" in head


def test_frames_and_notebook(archive: Results) -> None:
    frame = archive.to_frame("modes")
    assert frame.shape == (24, 14)
    assert frame["period (s)"].iloc[0] == pytest.approx(archive.modes.periods[0])
    weights = archive.to_frame("weight_levels")
    assert weights["weight (kip)"].iloc[-1] == pytest.approx(weights["weight (kip)"][:-1].sum())
    assert "<table>" in archive.modes.table()._repr_html_()
    assert "Harbor records archive" in archive._repr_html_()
    assert "Base shear X" in str(archive)
    with pytest.raises(KeyError, match="there are"):
        archive.table("nonsense")


def test_figures_can_be_had_one_by_one(archive: Results) -> None:
    figure = ud.figures.drift(archive)
    for c, ax in enumerate(figure.axes):
        assert ax.get_xlabel() == "design drift over allowable drift (%)"
        s, _, _ = archive.drift.governing(c)
        named = {line.get_label(): line for line in ax.get_lines()
                 if not str(line.get_label()).startswith("_")}
        bold = named.pop(f"{archive.drift.sets[s]} (governs)")
        exceeds = named.pop("exceeds", None)
        assert all(line.get_linewidth() < bold.get_linewidth() for line in named.values())
        assert len({(line.get_color(), line.get_linestyle(), tuple(line._dash_pattern[1] or ()))
                    for line in named.values()}) == len(named)
        use = 100 * archive.drift.largest_use("XY"[c])
        assert np.nanmax(bold.get_xdata()) == pytest.approx(use)
        assert (exceeds is not None) == (use > 100)
        if exceeds is not None:
            drawn = exceeds.get_xdata()
            assert np.nanmin(drawn) > 100
            assert np.nanmax(drawn) == pytest.approx(use)
    assert len(ud.figures.modes(archive, 3).axes) == 3


@pytest.mark.parametrize(
    ("value", "text"),
    [(0.0, "0"), (1234.5678, "1235"), (0.012345, "0.01235"), (12345.6, "12\u202f346"),
     (1e9, "1.000e+09"),
     (float("nan"), "–"), (None, "–"), (True, "yes"), ("x", "x"), (7, "7"), (-0.5, "-0.5000")],
)
def test_numbers_as_people_read_them(value: Any, text: str) -> None:
    assert number_text(value) == text


def test_a_sheet_that_is_full_says_so_and_where_the_rest_stands(
    archive: Results, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from undatum.report import workbook

    monkeypatch.setattr(workbook, "ROWS", 20)
    table = archive.table("drift_all")
    assert len(table) > 17
    workbook.write("x", archive.units, [table, archive.table("modes")], tmp_path / "w.xlsx")
    book = openpyxl.load_workbook(tmp_path / "w.xlsx")
    sheet = book[book.sheetnames[0]]
    assert sheet.max_row == 20
    assert str(sheet["A2"].value).startswith(
        f"Only the first 17 of {len(table)} rows fit on a sheet; all of them stand in "
        "tables/drift_all.csv.")


def test_verdicts_follow_the_numbers() -> None:
    """A building that leans too much beside a gap that is too narrow, and one that is wide."""
    r = leaning(60e3, gaps=[{"name": name, "direction": "X", "distance": distance}
                            for name, distance in (("narrow", 0.001), ("wide", 5.0))])
    seen: dict[str, set[str]] = {}
    for table in r.tables():
        names = [c.name for c in table.columns]
        if "verdict" not in names or not {"use", "stability coefficient"} & set(names):
            continue
        for row in table.rows():
            of = dict(zip(names, row, strict=True))
            if of["verdict"] not in ("passes", "exceeded"):
                continue
            over = of["use"] > 1 if "use" in of else of["stability coefficient"] > of["limit"]
            assert of["verdict"] == ("exceeded" if over else "passes"), (table.name, row)
            seen.setdefault(table.name, set()).add(of["verdict"])
    assert seen["separation"] == {"passes", "exceeded"}
    assert "exceeded" in seen["stability_x_static"]
    assert "drift_x" in seen


def test_the_first_sheet_leads_to_all_others(results: dict[str, Results], tmp_path: Path) -> None:
    from undatum.report import workbook

    framed = results["terrace"]
    tables = framed.tables()
    workbook.write("x", framed.units, tables, tmp_path / "w.xlsx",
                   workbook.Front(framed.summary(), framed.findings))
    book = openpyxl.load_workbook(tmp_path / "w.xlsx")
    front, *others = book.worksheets
    links = {c.hyperlink.location.split("!")[0].strip("'")
             for row in front.iter_rows() for c in row if c.hyperlink}
    assert links == {sheet.title for sheet in others}
    texts = [str(c.value) for row in front.iter_rows() for c in row if c.value is not None]
    for name, said in framed.summary():
        assert name in texts
        assert said in texts
    told = [f for f in framed.findings if f.severity != "ok"]
    assert all(any(t.startswith(f.text) for t in texts) for f in told)
    # the most serious first, and no dashes as text among numbers
    order = [t for t in texts if t in ("exceeded", "warning", "note")]
    assert order == sorted(order, key=["exceeded", "warning", "note"].index)
    for table, sheet in zip(tables, others, strict=True):
        for c, column in enumerate(table.columns, 1):
            if column.dimension and len(table.columns) == sheet.max_column:
                assert not any(isinstance(row[0].value, str) for row in sheet.iter_rows(
                    min_row=4, min_col=c, max_col=c))


def test_extremes_stand_side_by_side(results: dict[str, Results]) -> None:
    from undatum.report.sheets import side_by_side

    framed = results["terrace"]
    table = framed.table("reactions_envelope")
    wide, long = side_by_side(table), table.to_frame(framed.units)
    frame = wide.to_frame(framed.units)
    assert len(frame) == len(long[["foot", "kind"]].drop_duplicates())
    cell = frame.set_index(["foot", "kind"])
    for row in long.to_dict("records"):
        own = next(v for k, v in row.items() if k.startswith(("force", "moment")) and v == v)
        name = f"{row['component']}, {row['extreme']}"
        told = cell.loc[(row["foot"], row["kind"])]
        assert next(v for k, v in told.items() if str(k).startswith(name)) == own
        assert told[f"combination for {name}"] == row["combination"]
    assert side_by_side(framed.table("modes")) == framed.table("modes")
