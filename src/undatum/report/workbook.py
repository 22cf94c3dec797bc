"""All tables in one workbook, a sheet each, behind one with key numbers, findings and links."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path
from typing import Any

import xlsxwriter

from undatum.finding import Finding, Severity
from undatum.project.spreadsheets import SHEETS
from undatum.record import record
from undatum.report.sheets import grouped, side_by_side
from undatum.table import Cell, Column, Table
from undatum.units import UnitSystem

ROWS = 1_048_576  # a sheet holds no more


@record
class Front:
    """What the first sheet tells: ``lines`` of key numbers, and the findings."""

    lines: Sequence[tuple[str, str]]
    findings: Sequence[Finding]


def write(
    title: str, units: UnitSystem, tables: Sequence[Table], path: str | Path,
    front: Front | None = None,
) -> None:
    """Write a workbook of tables: frozen headers with units, marked rows in color (the words
    for it stand in a column of the table); in front, where asked for, key numbers, findings and
    links to all sheets, and then extremes side by side.

    Text never becomes a formula or a link. The creation date is fixed, so that the same input
    gives the same bytes.
    """
    book = xlsxwriter.Workbook(str(path), {
        "strings_to_formulas": False, "strings_to_urls": False, "nan_inf_to_errors": True,
    })
    book.set_properties({
        "title": title, "created": datetime(2000, 1, 1, tzinfo=UTC),
    })
    formats = {
        (shape, over): book.add_format({
            **({"num_format": shape, "align": "right"} if shape else
               {"indent": 1, "align": "left"}),
            **({"bg_color": OVER} if over else {}),
        })
        for shape in ("", *_SHAPES.values()) for over in (True, False)
    }
    heads = {
        numeric: book.add_format({
            "bold": True, "text_wrap": True, "valign": "bottom", "bottom": 1,
            "bg_color": "#E9EDF2",
            **({"align": "right"} if numeric else {"indent": 1, "align": "left"}),
        })
        for numeric in (True, False)
    }
    large = book.add_format({"bold": True, "font_size": 13})
    note = book.add_format({"italic": True, "font_color": "#5B6675"})
    taken: set[str] = {FRONT.lower()} if front is not None else set()
    if front is not None:
        tables = [side_by_side(table) for table in tables]
    names = {table.name: _sheet_name(table.name, taken) for table in tables}
    if front is not None:
        _front(book, title, front, tables, names, large)
    for table in tables:
        sheet = book.add_worksheet(names[table.name])
        sheet.write_string(0, 0, table.title, large)
        room = ROWS - 3
        cut = "" if len(table) <= room else (
            f"Only the first {room} of {len(table)} rows fit on a sheet; all of them stand in "
            f"tables/{table.name}.csv. ")
        sheet.write_string(1, 0, cut + table.note, note)
        sheet.set_row(2, 32)
        for c, (column, text) in enumerate(
            zip(table.columns, table.heads(units), strict=True)
        ):
            sheet.write_string(2, c, text, heads[bool(column.dimension)])
            sheet.set_column(c, c, _width(column, text))
        last = len(table.columns)
        shapes = [_shape(column, units) for column in table.columns]
        for r, row in enumerate(islice(table.rows(units), room)):
            over = r in table.marks
            for c, cell in enumerate(row):
                _write(sheet, r + 3, c, cell, formats[shapes[c], over])
        sheet.freeze_panes(3, 1)
        if len(table):
            sheet.autofilter(2, 0, 2 + min(len(table), room), last - 1)
        sheet.set_landscape()
        sheet.fit_to_pages(1, 0)
        sheet.repeat_rows(2)
    book.close()


def write_input(path: str | Path) -> None:
    """Write the sheets a project can be given by, each with its heads and examples of rows."""
    book = xlsxwriter.Workbook(str(path), {"strings_to_formulas": False, "strings_to_urls": False})
    book.set_properties({"created": datetime(2000, 1, 1, tzinfo=UTC)})
    head = book.add_format({"bold": True, "bottom": 1, "bg_color": "#E9EDF2"})
    for name, one in SHEETS.items():
        sheet = book.add_worksheet(name)
        for c, text in enumerate(one.heads):
            sheet.write_string(0, c, text, head)
            sheet.set_column(c, c, max(len(text) + 2, 10))
        for r, row in enumerate(one.rows, 1):
            for c, cell in enumerate(row):
                if re.fullmatch(r"-?[0-9.]+", cell):
                    sheet.write_number(r, c, float(cell))
                elif cell:
                    sheet.write_string(r, c, cell)
        sheet.freeze_panes(1, 0)
    book.close()


FRONT = "Summary"
OVER, DOUBT = "#F6D5DC", "#FBEBC8"
SEVERE = {Severity.EXCEEDED: OVER, Severity.WARNING: DOUBT}


def _front(
    book: Any, title: str, front: Front, tables: Sequence[Table], names: Mapping[str, str],
    large: Any,
) -> None:
    """Key numbers, what does not hold or needs a look, and all sheets by group."""
    sheet = book.add_worksheet(FRONT)
    bold = book.add_format({"bold": True, "valign": "top"})
    wrapped = book.add_format({"text_wrap": True, "valign": "top"})
    head = book.add_format({"bold": True, "bottom": 1, "bg_color": "#E9EDF2"})
    link = book.add_format({"font_color": "#1B6CA8", "underline": 1})
    colored = {s: book.add_format({"text_wrap": True, "valign": "top", "bg_color": color})
               for s, color in SEVERE.items()}
    for c, width in enumerate((26, 34, 92, 26)):
        sheet.set_column(c, c, width)
    sheet.write_string(0, 0, title, large)
    row = 2
    for name, text in front.lines:
        sheet.write_string(row, 0, name, bold)
        sheet.merge_range(row, 1, row, 3, "", wrapped)
        sheet.write_string(row, 1, text, wrapped)
        row += 1
    row += 1
    for c, text in enumerate(("Findings", "check and place", "finding", "clause")):
        sheet.write_string(row, c, text, head)
    fine = sum(f.severity is Severity.OK for f in front.findings)
    for f in sorted((f for f in front.findings if f.severity is not Severity.OK),
                    key=lambda f: -f.severity.rank):
        row += 1
        form = colored.get(f.severity, wrapped)
        for c, text in enumerate((f.severity.value, f"{f.check}: {f.where}",
                                  f"{f.text} {f.advice}".strip(), f.clause)):
            sheet.write_string(row, c, text, form)
        sheet.set_row(row, 15 * max(1, -(-len(f.text + f.advice) // 88),
                                    -(-len(f.check + f.where) // 30)))
    row += 1
    sheet.write_string(row, 0, "ok", wrapped)
    sheet.write_string(row, 1, f"{fine} check{'s' if fine != 1 else ''}", wrapped)
    for group, own in grouped(tables).items():
        row += 2
        for c, text in enumerate((group, "", "", "")):
            sheet.write_string(row, c, text, head)
        for table in own:
            row += 1
            sheet.write_url(row, 1, f"internal:'{names[table.name]}'!A1", link,
                            names[table.name])
            sheet.write_string(row, 2, table.title)
    sheet.set_landscape()
    sheet.fit_to_pages(1, 0)
    sheet.hide_gridlines(2)


def _width(column: Column, head: str) -> float:
    """Of a column, from its texts; numbers take about as much each."""
    longest = 10 if column.dimension else max(
        (len(cell) for cell in column.cells if isinstance(cell, str)), default=6)
    return min(max(longest, min(len(head), 14) + 2, 8) + 2, 60)


#: Number formats by the size of the largest number in a column; every cell keeps full precision.
_SHAPES = {1e3: "#,##0.0", 1e1: "#,##0.00", 1e-1: "0.0000", 0.0: "0.000000"}


def _shape(column: Column, units: UnitSystem) -> str:
    """The number format of a column, empty for text."""
    if not column.dimension:
        return ""
    numbers = [abs(v) for v in column.shown(units) if isinstance(v, float) and math.isfinite(v)]
    largest = max(numbers, default=0.0)
    return next(shape for least, shape in _SHAPES.items() if largest >= least)


def _write(sheet: Any, row: int, column: int, cell: Cell, form: Any) -> None:
    if cell is None or (isinstance(cell, float) and not math.isfinite(cell)):
        sheet.write_blank(row, column, None, form)
    elif isinstance(cell, bool):
        sheet.write_string(row, column, "yes" if cell else "no", form)
    elif isinstance(cell, float | int):
        sheet.write_number(row, column, cell, form)
    else:
        sheet.write_string(row, column, cell, form)


def _sheet_name(name: str, taken: set[str]) -> str:
    """A sheet name of at most 31 characters, unlike all others."""
    text = re.sub(r"[\[\]:*?/\\]", " ", name.replace("_", " "))[:31]
    while text.lower() in taken:
        text = text[:28] + f" {len(taken)}"
    taken.add(text.lower())
    return text
