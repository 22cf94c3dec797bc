"""All tables in one workbook, a sheet each."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path
from typing import Any

import xlsxwriter

from undatum.table import Cell, Column, Table
from undatum.units import UnitSystem

ROWS = 1_048_576  # a sheet holds no more


def write(title: str, units: UnitSystem, tables: Sequence[Table], path: str | Path) -> None:
    """Write a workbook of tables: frozen headers with units, marked rows in color (the words
    for it stand in a column of the table).

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
            **({"bg_color": "#F6D5DC"} if over else {}),
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
    taken: set[str] = set()
    for table in tables:
        sheet = book.add_worksheet(_sheet_name(table.name, taken))
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
            longest = max((len(cell) for cell in column.text(units)), default=0)
            sheet.set_column(c, c, min(max(longest, min(len(text), 14) + 2, 8) + 2, 60))
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
        sheet.write_string(row, column, "–", form)
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
