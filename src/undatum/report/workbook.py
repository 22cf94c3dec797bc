"""All tables in one workbook, a sheet each."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path

import xlsxwriter

from undatum.project.results import Results
from undatum.table import Table


def write(results: Results, tables: tuple[Table, ...], path: Path) -> None:
    """Write ``results.xlsx``: frozen headers with units, exceeded rows in words and color.

    Text never becomes a formula or a link. The creation date is fixed, so that the same input
    gives the same bytes.
    """
    book = xlsxwriter.Workbook(str(path), {
        "strings_to_formulas": False, "strings_to_urls": False, "nan_inf_to_errors": True,
    })
    book.set_properties({
        "title": results.project.title, "created": datetime(2000, 1, 1, tzinfo=UTC),
    })
    head = book.add_format({"bold": True, "text_wrap": True, "valign": "top", "bottom": 1,
                            "bg_color": "#E9EDF2"})
    title = book.add_format({"bold": True, "font_size": 13})
    note = book.add_format({"italic": True, "font_color": "#5B6675"})
    number = book.add_format({"num_format": "#,##0.0000"})
    marked = {"": book.add_format({"bg_color": "#F6D5DC"}),
              "n": book.add_format({"bg_color": "#F6D5DC", "num_format": "#,##0.0000"})}
    taken: set[str] = set()
    for table in tables:
        sheet = book.add_worksheet(_sheet_name(table.name, taken))
        sheet.write_string(0, 0, table.title, title)
        sheet.write_string(1, 0, table.note, note)
        heads = [*table.heads(results.units), *(["verdict"] if table.marks else [])]
        for c, text in enumerate(heads):
            sheet.write_string(2, c, text, head)
            cells = table.columns[c].text(results.units) if c < len(table.columns) else []
            width = max([len(cell) for cell in cells] + [min(len(text), 14), 8])
            sheet.set_column(c, c, min(width + 2, 60))
        for r, row in enumerate(table.rows(results.units)):
            over = r in table.marks
            for c, cell in enumerate(row):
                if cell is None or (isinstance(cell, float) and cell != cell):
                    sheet.write_string(r + 3, c, "–", marked[""] if over else None)
                elif isinstance(cell, bool):
                    sheet.write_string(r + 3, c, "yes" if cell else "no",
                                       marked[""] if over else None)
                elif isinstance(cell, float):
                    sheet.write_number(r + 3, c, cell, marked["n"] if over else number)
                elif isinstance(cell, int):
                    sheet.write_number(r + 3, c, cell, marked[""] if over else None)
                else:
                    sheet.write_string(r + 3, c, cell, marked[""] if over else None)
            if table.marks:
                sheet.write_string(r + 3, len(row), "exceeded" if over else "holds",
                                   marked[""] if over else None)
        sheet.freeze_panes(3, 1)
        if len(table):
            sheet.autofilter(2, 0, 2 + len(table), len(heads) - 1)
        sheet.set_landscape()
        sheet.fit_to_pages(1, 0)
        sheet.repeat_rows(2)
    book.close()


def _sheet_name(name: str, taken: set[str]) -> str:
    """A sheet name of at most 31 characters, unlike all others."""
    text = re.sub(r"[\[\]:*?/\\]", " ", name.replace("_", " "))[:31]
    while text.lower() in taken:
        text = text[:28] + f" {len(taken)}"
    taken.add(text.lower())
    return text
