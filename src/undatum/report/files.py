"""Everything a run writes, put in place whole or not at all."""

from __future__ import annotations

import csv
import json
import math
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from io import StringIO
from pathlib import Path
from shutil import rmtree
from typing import Any, Literal, get_args

from matplotlib.figure import Figure

from undatum.errors import InputError
from undatum.ground.location import now_text
from undatum.mechanics.factors import solver_words
from undatum.report import figures, record, record_short, workbook
from undatum.report.beside import beside
from undatum.report.printing import print_pages
from undatum.results import store
from undatum.results.exchange import placing
from undatum.results.outcome import Outcome
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces
from undatum.table import Cell, Table
from undatum.units import DIMENSIONS, UnitSystem
from undatum.version import VERSION
from undatum.working import Section

SCHEMA_VERSION = "2.0"
#: Pages of a run, to read and to print.
PAGES = ("record.html", "record_short.html", "base_shear.html")
#: How much a run writes.
Detail = Literal["short", "usual", "full"]
DETAILS: tuple[Detail, ...] = get_args(Detail)


def metadata() -> dict[str, str]:
    """Time and versions: the only part of the output that differs between equal runs.

    ``SOURCE_DATE_EPOCH`` fixes the time, for builds that must be repeatable to the byte.
    """
    import platform

    import numpy
    import scipy

    return {
        "written": now_text(),
        "undatum": VERSION,
        "python": platform.python_version(),
        "numpy": numpy.__version__,
        "scipy": scipy.__version__,
        "solver": solver_words(),
    }


def write_all(
    results: Results, folder: str | Path, say: Callable[[str], None] = lambda _: None, *,
    browser: str | None = None, detail: Detail = "usual", band: Table | None = None,
) -> list[Path]:
    """Write results, tables, workbook, records and figures into ``folder``.

    ``detail`` says how much: ``short`` leaves the record in full, workbook and figures out,
    ``full`` adds tables of the section forces of all members, set by set, under load cases and at
    their extremes in load combinations. The results to load are there in any case. ``band`` is a
    table of how results spread over a family of variants, for a chapter of the records.

    Everything is put in place as one; what no run wrote is left alone. With a ``browser`` the
    pages are printed as PDF too. Raises InputError when it can't be written (see
    :mod:`undatum.results.exchange`), or when the browser fails, all else being in place.

    >>> written = ud.write_all(ud.run(ud.shipped_project("clinic")), folder / "out",
    ...                        detail="short")
    >>> written[0].name
    'record_short.html'
    """
    target = Path(folder).resolve() if str(folder) else folder
    printed: tuple[str, ...] = ()
    failed: InputError | None = None
    with placing(target) as work:
        _make(results, work, say, detail, band)
        pages = [name for name in PAGES if (work / name).exists()]
        if browser is not None:
            say("PDF")
            try:
                printed = tuple(p.name for p in print_pages([work / n for n in pages], browser))
            except InputError as error:
                failed = error
                for name in pages:
                    (work / name).with_suffix(".pdf").unlink(missing_ok=True)
    if failed is not None:
        raise failed
    more = () if detail == "short" else ("results.xlsx", "figures")
    return [Path(target) / n for n in (*pages, *printed, "results.json", "results.nc", "tables",
                                       *more)]


def write_stack(found: StackForces, folder: str | Path) -> list[Path]:
    """Write record, workbook, tables, figures and results of heights and weights into ``folder``.

    Put in place as one, as :func:`write_all` does. Raises InputError when it can't be written.
    """
    target = Path(folder).resolve() if str(folder) else folder
    with placing(target) as work:
        (work / "tables").mkdir()
        (work / "figures").mkdir()
        for table in found.tables():
            (work / "tables" / f"{table.name}.csv").write_text(
                csv_text(table, found.units), encoding="utf-8", newline="")
        drawn = {"spectrum": figures.shaking_spectrum(found.shaking),
                 "story_shears": figures.stack_shears(found)}
        for name, figure in drawn.items():
            figures.save(figure, work / "figures" / f"{name}.png")
        workbook.write(found.project.title, found.units, found.tables(), work / "results.xlsx",
                       workbook.Front(found.summary(), found.findings))
        pictures = {name: (work / "figures" / f"{name}.png").read_bytes() for name in drawn}
        meta = metadata()
        for name, text in (
            ("record.html", record.render(found, pictures, meta)),
            ("base_shear.html", record_short.base_shear_sheet(found.base_shears, meta)),
        ):
            (work / name).write_text(text, encoding="utf-8", newline="\n")
        _keep(found, work, meta)
    return [Path(target) / n for n in ("record.html", "base_shear.html", store.SUMMARY, store.FILE,
                                       "tables", "results.xlsx", "figures")]


def _make(
    results: Results, work: Path, say: Callable[[str], None], detail: Detail,
    band: Table | None,
) -> None:
    meta = metadata()
    (work / "tables").mkdir()
    (work / "figures").mkdir()
    say("tables")
    drawn = figures.of_run(results)
    if detail == "short":
        drawn = {name: draw for name, draw in drawn.items() if record_short.shows(name)}
    names = list(drawn)
    waits = [beside(*(partial(_draw, results, drawn, work / "figures", names[k::DRAWING])
                      for k in range(DRAWING)))]
    try:
        tables = results.tables()
        if detail != "short":
            waits.append(beside(lambda: workbook.write(
                results.project.title, results.units, tables, work / "results.xlsx",
                workbook.Front(results.summary(), results.findings))))
        for table in (*tables, *(results.member_tables() if detail == "full" else ())):
            text = csv_text(table, results.units)
            (work / "tables" / f"{table.name}.csv").write_text(text, encoding="utf-8", newline="")
        say("results")
        _keep(results, work, meta)
    finally:
        say("figures and workbook")
        for wait in waits:
            wait()
    pictures = {name: (work / "figures" / f"{name}.png").read_bytes() for name in drawn}
    say("calculation record")
    if detail == "short":
        rmtree(work / "figures")
    else:
        (work / "record.html").write_text(record.render(results, pictures, meta, band),
                                          encoding="utf-8", newline="\n")
    for name, text in (
        ("record_short.html", record_short.render_short(results, pictures, meta, band)),
        ("base_shear.html", record_short.base_shear_sheet(results.base_shears, meta)),
    ):
        (work / name).write_text(text, encoding="utf-8", newline="\n")


DRAWING = 2  #: processes that draw: figures take about half of the time


def _draw(
    results: Results, drawn: Mapping[str, Callable[[Results], Figure]], folder: Path,
    names: Sequence[str],
) -> None:
    for name in names:
        figures.save(drawn[name](results), folder / f"{name}.png")


def _keep(results: Outcome, work: Path, meta: Mapping[str, str]) -> None:
    """The results to load again, and their summary for other programs."""
    kept = store.write(results, work / store.FILE)
    text = json.dumps(to_json(results, meta, kept), indent=1, ensure_ascii=False, allow_nan=False)
    (work / store.SUMMARY).write_text(text + "\n", encoding="utf-8", newline="\n")


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
    return "'" + text if isinstance(cell, str) and _may_be_formula(text) else text


def tables_json(tables: Sequence[Table], units: UnitSystem) -> str:
    """Tables as JSON: rows by head, in the units of the heads."""
    return json.dumps({
        table.name: [dict(zip(table.heads(units), row, strict=True)) for row in table.rows(units)]
        for table in tables}, indent=1, ensure_ascii=False, default=float)


def _may_be_formula(text: str) -> bool:
    """Whether a sheet would take a text for a formula; a plain number is none."""
    if text[:1] not in ("=", "+", "-", "@", "\t", "\r", "\n"):
        return False
    try:
        return not math.isfinite(float(text))
    except ValueError:
        return True


# -- results.json --------------------------------------------------------------------------------


def to_json(results: Outcome, meta: Mapping[str, str], kept: str = "") -> dict[str, Any]:
    """The summary, in SI. Documented by :func:`results_schema`.

    ``kept`` is the digest of ``results.nc``, which holds the arrays.
    """
    return {
        "schema_version": SCHEMA_VERSION,
        "metadata": dict(meta),
        "title": results.project.title,
        "standard": results.standard_title,
        "severity": results.severity.value,
        "summary": dict(results.summary()),
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
        "tables": {name: f"tables/{name}.csv" for name in results.table_names},
        "store": {"file": store.FILE, "digest": kept},
        "project": results.project.model_dump(mode="json"),
    }


def _section(section: Section) -> dict[str, Any]:
    return {
        "key": {"kind": section.key.kind, "direction": section.key.direction,
                "state": section.key.state, "item": section.key.item},
        "title": section.title,
        "steps": [
            {
                "symbol": s.symbol, "value": s.value, "unit": _si_unit(s.unit),
                "meaning": s.meaning, "clause": s.clause, "formula": s.formula,
                "inputs": {k: {"value": v, "unit": _si_unit(u)} for k, (v, u) in s.inputs.items()},
                "branch": s.branch, "branch_key": s.key,
            }
            for s in section.steps
        ],
    }


def _si_unit(unit: str) -> str:
    return DIMENSIONS.get(unit, (unit, ""))[0]


def results_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of ``results.json``."""
    text = {"type": "string"}
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
        branch=text, branch_key=text,
    )
    finding = table_of(
        check=text, where=text, severity={"enum": ["ok", "note", "warning", "exceeded"]},
        text=text, clause=text, advice=text, demand=number, capacity=number, ratio=number,
        unit=text,
    )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Undatum results",
        "description": "Summary of a run, all values in SI. Tables stand in tables/*.csv, "
        "arrays in results.nc.",
        **table_of(
            schema_version={"const": SCHEMA_VERSION},
            metadata={"type": "object", "additionalProperties": text},
            title=text, standard=text, severity=finding["properties"]["severity"],
            summary={"type": "object", "additionalProperties": text},
            findings=list_of(finding),
            working=list_of(table_of(
                key=table_of(kind=text, direction=text, state=text, item=text), title=text,
                steps=list_of(step))),
            tables={"type": "object", "additionalProperties": text},
            store=table_of(file=text, digest=text),
            project={"type": "object"},
        ),
    }
