"""Everything a run writes, put in place whole or not at all."""

from __future__ import annotations

import csv
import json
import math
import os
import shutil
import tempfile
from collections.abc import Callable, Mapping
from io import StringIO
from pathlib import Path
from typing import Any

import undatum
from undatum.errors import Fault, InputError
from undatum.ground.location import now_text
from undatum.project.results import Results
from undatum.report import figures, record, workbook
from undatum.table import Cell, Table
from undatum.units import DIMENSIONS, SI, UnitSystem
from undatum.working import Section

SCHEMA_VERSION = "1.0"


def metadata() -> dict[str, str]:
    """Time and versions: the only part of the output that differs between equal runs.

    ``SOURCE_DATE_EPOCH`` fixes the time, for builds that must be repeatable to the byte.
    """
    import platform

    import numpy
    import scipy

    return {
        "written": now_text(),
        "undatum": undatum.__version__,
        "python": platform.python_version(),
        "numpy": numpy.__version__,
        "scipy": scipy.__version__,
    }


def write_all(
    results: Results, folder: Path, say: Callable[[str], None] = lambda _: None
) -> list[Path]:
    """Write results, tables, workbook, record and figures into ``folder``.

    Everything is made in a temporary folder beside it and moved into place at the end; files of
    other names already in the folder are left alone. Raises InputError when it cannot be written.
    """
    target = folder.resolve()
    if target.exists() and not target.is_dir():
        raise InputError([Fault("--out", f"{folder} is a file, not a folder", "name a folder")])
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=target.parent, prefix=".undatum-") as name:
            work = Path(name)
            _make(results, work, say)
            target.mkdir(exist_ok=True)
            for part in sorted(work.iterdir()):
                place = target / part.name
                if place.is_dir() and part.is_dir():
                    shutil.rmtree(place)
                os.replace(part, place)
    except OSError as error:
        raise InputError([Fault(
            "--out", f"cannot write into {folder} ({error.strerror})", "choose another folder"
        )]) from None
    return [target / n for n in ("record.html", "results.xlsx", "results.json", "tables",
                                 "figures")]


def _make(results: Results, work: Path, say: Callable[[str], None]) -> None:
    tables, meta = results.tables(), metadata()
    (work / "tables").mkdir()
    (work / "figures").mkdir()
    say("tables")
    for table in tables:
        text = csv_text(table, results.units)
        (work / "tables" / f"{table.name}.csv").write_text(text, encoding="utf-8", newline="")
    say("figures")
    for name, draw in figures.ALL.items():
        figures.save(draw(results), work / "figures" / f"{name}.png")
    say("workbook")
    workbook.write(results, tables, work / "results.xlsx")
    say("calculation record")
    pictures = {name: (work / "figures" / f"{name}.png").read_bytes() for name in figures.ALL}
    (work / "record.html").write_text(
        record.render(results, pictures, meta), encoding="utf-8", newline="\n")
    say("results")
    text = json.dumps(to_json(results, meta), indent=1, ensure_ascii=False, allow_nan=False)
    (work / "results.json").write_text(text + "\n", encoding="utf-8", newline="\n")


# -- tables as text ------------------------------------------------------------------------------


def csv_text(table: Table, units: UnitSystem) -> str:
    """A table as CSV at full precision. Text that a sheet would take for a formula is quoted."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([_safe(head) for head in table.heads(units)])
    writer.writerows([_safe(cell) for cell in row] for row in table.rows(units))
    return out.getvalue()


def _safe(cell: Cell) -> str:
    if cell is None or (isinstance(cell, float) and math.isnan(cell)):
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return f"{cell:.12g}"
    text = str(cell)
    return "'" + text if isinstance(cell, str) and text[:1] in "=+-@\t\r" else text


# -- results.json --------------------------------------------------------------------------------


def to_json(results: Results, meta: Mapping[str, str]) -> dict[str, Any]:
    """Everything, in SI. Documented by :func:`results_schema`."""
    return {
        "schema_version": SCHEMA_VERSION,
        "metadata": dict(meta),
        "title": results.project.title,
        "standard": results.standard_title,
        "severity": results.severity.value,
        "summary": dict(results.story()),
        "findings": [
            {
                "check": f.check, "where": f.where, "severity": f.severity.value, "text": f.text,
                "clause": f.clause, "advice": f.advice, "demand": f.demand,
                "capacity": f.capacity, "ratio": f.ratio,
                "unit": DIMENSIONS[f.dimension][0],
            }
            for f in results.findings
        ],
        "working": [_section(s) for s in results.working],
        "tables": {t.name: _table(t) for t in results.tables()},
        "project": results.project.model_dump(mode="json"),
    }


def _section(section: Section) -> dict[str, Any]:
    return {
        "title": section.title,
        "steps": [
            {
                "symbol": s.symbol, "value": s.value, "unit": _si_unit(s.unit),
                "meaning": s.meaning, "clause": s.clause, "formula": s.formula,
                "inputs": {k: {"value": v, "unit": _si_unit(u)} for k, (v, u) in s.inputs.items()},
                "branch": s.branch,
            }
            for s in section.steps
        ],
    }


def _si_unit(unit: str) -> str:
    return DIMENSIONS.get(unit, (unit, ""))[0]


def _table(table: Table) -> dict[str, Any]:
    return {
        "title": table.title,
        "note": table.note,
        "columns": [
            {
                "name": c.name,
                "unit": SI.shown[c.dimension] if c.dimension in DIMENSIONS else "",
                "values": [_number(v) for v in c.shown(SI)],
            }
            for c in table.columns
        ],
        "exceeded_rows": list(table.marks),
    }


def _number(value: Cell) -> Cell:
    return None if isinstance(value, float) and not math.isfinite(value) else value


def results_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of ``results.json``."""
    text = {"type": "string"}
    value = {"type": ["number", "string", "boolean", "null"]}
    worked = {"oneOf": [{"type": ["number", "string"]},
                        {"type": "array", "items": {"type": "number"}}]}

    def table_of(**properties: Any) -> dict[str, Any]:
        return {"type": "object", "properties": properties, "required": [*properties],
                "additionalProperties": False}

    def list_of(items: Any) -> dict[str, Any]:
        return {"type": "array", "items": items}

    number = {"type": ["number", "null"]}
    step = table_of(
        symbol=text, value=worked, unit=text, meaning=text, clause=text, formula=text,
        inputs={"type": "object", "additionalProperties": table_of(value=worked, unit=text)},
        branch=text,
    )
    finding = table_of(
        check=text, where=text, severity={"enum": ["ok", "note", "warning", "exceeded"]},
        text=text, clause=text, advice=text, demand=number, capacity=number, ratio=number,
        unit=text,
    )
    table = table_of(
        title=text, note=text,
        columns=list_of(table_of(name=text, unit=text, values=list_of(value))),
        exceeded_rows=list_of({"type": "integer"}),
    )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Undatum results",
        "description": "All values in SI; accelerations in tables in g where the unit says so.",
        **table_of(
            schema_version={"const": SCHEMA_VERSION},
            metadata={"type": "object", "additionalProperties": text},
            title=text, standard=text, severity=finding["properties"]["severity"],
            summary={"type": "object", "additionalProperties": text},
            findings=list_of(finding),
            working=list_of(table_of(title=text, steps=list_of(step))),
            tables={"type": "object", "additionalProperties": table},
            project={"type": "object"},
        ),
    }
