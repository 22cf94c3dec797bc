"""Input from spreadsheets: tables of a project as CSV files or sheets of a workbook.

A head names a key of the project file, its unit behind it: ``per area (kPa)``. A key within a key
has a dot (``factors.dead``), coordinates their letter (``at x (m)``). A row is what a table of the
project file is; rows of one name add to each other where the key holds a list of things
(``on_levels.at``). An empty cell says nothing; rows and heads that begin with ``#`` are remarks.
"""

from __future__ import annotations

import re
import zipfile
from collections.abc import Mapping
from dataclasses import field, replace
from pathlib import Path
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from undatum.building.cases import LoadCase, MemberLoad, OnLevels, OnMembers, OnSupports
from undatum.building.level import Level
from undatum.building.lines import Line
from undatum.building.loads import Load
from undatum.building.placed import Placed
from undatum.building.walls import Wall
from undatum.errors import Fault, InputError, one_of
from undatum.project.own_forces import OwnForces
from undatum.project.schema import Expectation, PlumbPoint
from undatum.readings.own import OwnCombination
from undatum.record import FixedDict, record
from undatum.textfile import csv_rows, read_text

_HEAD = re.compile(r"^\s*(?P<name>.*?)\s*(?:\((?P<unit>[^()]*)\))?\s*$")
_LETTER = re.compile(r"^(?P<key>.+) (?P<letter>[xyz])$")
TEXTS = frozenset({"outline", "ring", "floor"})  #: heads of names, whatever else their key takes


@record
class Sheet:
    """What a table holds: rows of a ``model`` that go to ``path``, lists of things by their key
    (``nested``), heads by which a column may go too (``also``; to nothing where it is passed over),
    and keys that coordinates of two ends make up (``ends``)."""

    path: str
    model: type[BaseModel]
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...] = ()
    nested: Mapping[str, type[BaseModel]] = field(default_factory=FixedDict)
    also: Mapping[str, str] = field(default_factory=FixedDict)
    ends: str = ""
    by: str = ""


#: Every table that may be brought, with its heads and examples of rows.
SHEETS: Mapping[str, Sheet] = {
    "levels": Sheet(
        "building.levels", Level, ("name", "height (m)", "outline", "floor"),
        (("Roof", "3.5", "whole", "roof"), ("L2", "3.5", "whole", "office"),
         ("L1", "4.2", "whole", "office"), ("Ground", "", "whole", "")),
        also={"level": "name", "story height below": "", "floor loads": "floor",
              "carries mass": "seismic_mass"}),
    "outlines": Sheet(
        "building.outlines", Level, ("outline", "ring", "x (m)", "y (m)"),
        (("whole", "edge", "0", "0"), ("whole", "edge", "24", "0"), ("whole", "edge", "24", "15"),
         ("whole", "edge", "0", "15"))),
    "loads": Sheet(
        "building.floors", Load, ("floor", "name", "kind", "per area (kN/m^2)", "per edge (kN/m)"),
        (("office", "slab", "dead", "5.0", ""), ("office", "use", "live", "2.5", ""),
         ("office", "facade", "cladding", "", "4.0"), ("roof", "slab", "dead", "4.5", ""),
         ("roof", "snow", "snow", "1.0", "")), by="floor"),
    "lines": Sheet(
        "building.lines", Line,
        ("name", "at x (m)", "at y (m)", "direction", "bottom", "top", "stiffness (kN/m)"),
        (("Frame A", "12", "0", "X", "Ground", "Roof", "150000"),
         ("Frame B", "12", "15", "X", "Ground", "Roof", "150000"),
         ("Wall 1", "0", "7.5", "Y", "Ground", "Roof", "180000; 240000; 320000"),
         ("Wall 2", "24", "7.5", "Y", "Ground", "Roof", "180000; 240000; 320000"))),
    "members": Sheet(
        "building.placed", Placed,
        ("name", "kind", "section", "start x (m)", "start y (m)", "start z (m)", "end x (m)",
         "end y (m)", "end z (m)"),
        also={"member": "name"}, ends="start end"),
    "walls": Sheet(
        "building.walls", Wall, ("name", "start x (m)", "start y (m)", "end x (m)", "end y (m)",
                                 "levels", "thickness (m)", "material"),
        also={"wall": "name"}, ends="between"),
    "member_loads": Sheet(
        "building.member_loads", MemberLoad, ("name", "kind", "on", "per_length (kN/m)",
                                              "total (kN)")),
    "cases": Sheet(
        "building.cases", LoadCase,
        ("name", "counts_as", "on_levels.at", "on_levels.X (kN)", "on_levels.Y (kN)",
         "on_members.on", "on_members.direction", "on_members.per_length (kN/m)",
         "on_supports.at", "on_supports.down (mm)"),
        (("wind X", "", "Roof", "60", "", "", "", "", "", ""),
         ("wind X", "", "L1, L2", "110", "", "", "", "", "", "")),
        nested={"on_levels": OnLevels, "on_members": OnMembers, "on_supports": OnSupports}),
    "static_sets": Sheet(
        "static_sets", OwnForces,
        ("name", "direction", "reason", "on_levels.at", "on_levels.X (kN)", "on_levels.Y (kN)"),
        nested={"on_levels": OnLevels}),
    "combinations": Sheet(
        "combinations", OwnCombination,
        ("name", "kind", "factors.dead", "factors.live", "factors.wind X", "earthquake.X",
         "earthquake.Y", "reason"),
        (("wind", "service", "1.0", "0.5", "1.0", "", "", "example"),)),
    "points": Sheet("drift.points", PlumbPoint, ("name", "at x (m)", "at y (m)")),
    "expected": Sheet(
        "expected", Expectation,
        ("name", "table", "column", "where.level", "value", "tolerance", "source")),
}


@record
class Origins:
    """Where rows come from: the file or sheet and the row, by the place in the project."""

    rows: Mapping[str, tuple[str, int]]

    def told(self, fault: Fault) -> Fault:
        """The fault at the row and column of its table, where it comes from one."""
        place = fault.place
        while place:
            if place in self.rows:
                where, row = self.rows[place]
                rest = fault.place[len(place):].lstrip(".")
                return replace(fault, place=f"{where}, row {row}"
                               + (f", {rest}" if rest else ""), line=None)
            place = place[:max(place.rfind("."), place.rfind("["), 0)]
        return fault


def with_sheets(
    data: dict[str, Any], folder: Path | None
) -> tuple[dict[str, Any], Origins, list[Fault]]:
    """The data of a project with the tables it names under ``tables``, or what is wrong."""
    given = data.get("tables")
    if not isinstance(given, str | dict):
        return data, Origins(FixedDict()), []
    made = {k: v for k, v in data.items() if k != "tables"}
    origins: dict[str, tuple[str, int]] = {}
    try:
        named = _named(given, folder or Path())
    except InputError as error:
        return made, Origins(FixedDict()), list(error.faults)
    faults: list[Fault] = []
    for name, (where, rows) in named.items():
        try:
            found = _things(SHEETS[name], where, rows)
        except InputError as error:
            faults += error.faults
            continue
        made = _put(made, name, where, found, origins, faults)
    return made, Origins(origins), faults


Rows = list[tuple[int, list[str]]]


def _named(given: str | dict[str, Any], folder: Path) -> dict[str, tuple[str, Rows]]:
    """The rows of every table by its name, and what they are called. Raises InputError."""
    if isinstance(given, str):
        book = _book(folder, given, "tables")
        if strange := [name for name in book if name not in SHEETS and not name.startswith("#")]:
            raise InputError([Fault(
                f"{given}, sheet {name}", "is not a table of a project", one_of(name, SHEETS)
                + "; the name of a sheet of remarks begins with #") for name in strange])
        found = {name: (f"{given}, sheet {name}", rows) for name, rows in book.items()
                 if name in SHEETS and rows}
        if not found:
            raise InputError([Fault("tables", f"no sheet of {given} holds a table of a project",
                                    f"name sheets: {', '.join(SHEETS)}")])
        return found
    found, faults = {}, []
    for name, place in given.items():
        at = f"tables.{name}"
        if name not in SHEETS:
            faults.append(Fault(at, "is not a table of a project", one_of(name, SHEETS)))
            continue
        if not isinstance(place, str):
            faults.append(Fault(at, "is not the name of a file", 'write such as "loads.csv"'))
            continue
        file, _, sheet = place.partition("#")
        try:
            if file.lower().endswith(".xlsx"):
                book = _book(folder, file, at)
                sheet = sheet or name
                if sheet not in book:
                    raise InputError([Fault(at, f"{file} has no sheet {sheet!r}",
                                            f"there are: {', '.join(book)}")])
                found[name] = f"{file}, sheet {sheet}", book[sheet]
            else:
                found[name] = file, _csv(folder, file, at)
        except InputError as error:
            faults += error.faults
    if faults:
        raise InputError(faults)
    return found


def _csv(folder: Path, name: str, at: str) -> Rows:
    def wrong(message: str, cure: str = "", line: int | None = None) -> InputError:
        return InputError([Fault(name, message, cure, line)])

    if not (folder / name).exists():
        raise InputError([Fault(at, f"there is no file {name!r} beside the project",
                                "name a CSV file, or a workbook and its sheet: book.xlsx#loads")])
    return csv_rows(read_text(folder / name, wrong), wrong)


def _book(folder: Path, name: str, at: str) -> dict[str, Rows]:
    """The rows of every sheet of a workbook as text, formulas by their values."""
    import openpyxl  # off the start path
    from openpyxl.utils.exceptions import InvalidFileException

    if not (folder / name).exists():
        raise InputError([Fault(at, f"there is no file {name!r} beside the project",
                                "name a workbook (.xlsx)")])
    _bounded(folder / name, name, at)
    try:
        books = [openpyxl.load_workbook(folder / name, read_only=True, data_only=values)
                 for values in (True, False)]
    except (InvalidFileException, OSError, ValueError, KeyError) as error:
        raise InputError([Fault(at, f"{name} cannot be read as a workbook "
                                f"({type(error).__name__})", "save it as .xlsx")]) from None
    except Exception as error:  # a damaged archive raises what its parts raise
        raise InputError([Fault(at, f"{name} is damaged ({type(error).__name__})",
                                "save it again as .xlsx")]) from None
    found: dict[str, Rows] = {}
    faults: list[Fault] = []
    for sheet, formulas in zip(*(book.worksheets for book in books), strict=True):
        remarks = sheet.title.startswith("#")
        found[sheet.title] = [] if remarks else _rows(
            sheet, formulas, f"{name}, sheet {sheet.title}", faults)
    for book in books:
        book.close()
    if faults:
        raise InputError(faults)
    return found


MOST_BYTES, MOST_ROWS, MOST_COLUMNS = 200_000_000, 100_000, 500
#: What a cell shows whose formula went wrong.
WRONG = frozenset({"#NULL!", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#N/A", "#SPILL!",
                   "#CALC!", "#GETTING_DATA"})


def _bounded(path: Path, name: str, at: str) -> None:
    """Raises InputError for what is no file, no archive, or too large once it is unpacked."""
    if not path.is_file():
        raise InputError([Fault(at, f"{name} is not a file", "name a workbook (.xlsx)")])
    try:
        with zipfile.ZipFile(path) as archive:
            size = sum(part.file_size for part in archive.infolist())
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise InputError([Fault(at, f"{name} cannot be read as a workbook "
                                f"({type(error).__name__})", "save it as .xlsx")]) from None
    if size > MOST_BYTES:
        raise InputError([Fault(at, f"{name} holds {size / 1e6:.0f} MB once it is unpacked; at "
                                f"most {MOST_BYTES / 1e6:.0f} MB are read", "take out what is no "
                                "table of the project")])


def _rows(sheet: Any, formulas: Any, where: str, faults: list[Fault]) -> Rows:
    """The rows of a sheet that say something; what can't be read goes to ``faults``."""
    from openpyxl.utils import get_column_letter

    found: Rows = []
    for one in (sheet, formulas):
        one.reset_dimensions()  # what a file says of its own size may be wrong
    for number, (row, made) in enumerate(zip(
            sheet.iter_rows(values_only=True), formulas.iter_rows(values_only=True),
            strict=False), 1):
        if not any(cell is not None for cell in made):
            continue
        if number > MOST_ROWS or len(row) > MOST_COLUMNS:
            faults.append(Fault(f"{where}, cell {get_column_letter(len(row))}{number}",
                                f"lies beyond {MOST_ROWS} rows or {MOST_COLUMNS} columns",
                                "clear the cells that belong to no table"))
            return found
        cells = [_text(cell) for cell in row]
        for k, (cell, formula) in enumerate(zip(cells, made, strict=False), 1):
            lost = row[k - 1] is None and isinstance(formula, str) and formula.startswith("=")
            if cell in WRONG or lost:
                faults.append(Fault(
                    f"{where}, cell {get_column_letter(k)}{number}",
                    "holds a formula without a stored value" if lost else f"holds the error {cell}",
                    "open the workbook where formulas are worked out and save it, or write the "
                    "value" if lost else "mend its formula, or write the value"))
        if any(cells) and not cells[0].startswith("#"):
            found.append((number, cells))
    return found


def _text(cell: Any) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    return str(cell).strip()


# -- rows to things --------------------------------------------------------------------------------


def _things(sheet: Sheet, where: str, rows: Rows) -> list[tuple[int, dict[str, Any]]]:
    """Every row as keys of the project file. Raises InputError."""
    if not rows:
        raise InputError([Fault(where, "is empty", f"give heads: {', '.join(sheet.heads)}")])
    head = rows[0][1]
    columns = [_HEAD.match(cell) for cell in head]
    names = [(m["name"] if m else "") for m in columns]
    units = [(m["unit"] or "") if m else "" for m in columns]
    twice = [n for k, n in enumerate(names) if n and n in names[:k] and not n.startswith("#")]
    if twice:
        raise InputError([Fault(f"{where}, row {rows[0][0]}", f"the head {twice[0]!r} stands twice",
                                "give every column its own head")])
    places: dict[str, set[int]] = {}
    for name in names:
        if letter := _LETTER.match(sheet.also.get(name, name)):
            places.setdefault(letter["key"].replace(" ", "_"), set()).add(
                "xyz".index(letter["letter"]))
    found = []
    for line, row in rows[1:]:
        one: dict[str, Any] = {}
        lost = [cell for k, cell in enumerate(row) if cell.strip() and not "".join(names[k:k + 1])]
        if lost:
            raise InputError([Fault(f"{where}, row {line}", f"{lost[0]!r} stands under no head",
                                    "give its column a head; one that begins with # is a remark")])
        for name, unit, cell in zip(names, units, [*row, *[""] * len(names)], strict=False):
            text = cell.strip()
            if not text or name.startswith("#"):
                continue
            key = sheet.also.get(name, name)
            if key:
                _set(one, sheet, key, text, unit)
        for key, own in one.items():
            if key in places:
                if blank := places[key] - set(own):
                    raise InputError([Fault(
                        f"{where}, row {line}, {key.replace('_', ' ')} {'xyz'[min(blank)]}",
                        "is blank, and a place is given whole", "fill the cell")])
                one[key] = [own[axis] for axis in sorted(own)]
        if sheet.ends == "between" and {"start", "end"} <= set(one):
            one["between"] = [one.pop("start"), one.pop("end")]
        found.append((line, one))
    return found


def _set(one: dict[str, Any], sheet: Sheet, key: str, text: str, unit: str) -> None:
    """Put a cell where its head says."""
    letter = _LETTER.match(key)
    if letter:
        axis = "xyz".index(letter["letter"])
        one.setdefault(letter["key"].replace(" ", "_"), {})[axis] = _number(text, unit)
        return
    lead, dot, inner = key.partition(".")
    lead = lead.replace(" ", "_")
    if dot:
        model = sheet.nested.get(lead)
        own = one.setdefault(lead, {})
        own[inner.replace(" ", "_") if model else inner] = _value(
            model, inner.replace(" ", "_"), text, unit)
        return
    one[lead] = _value(sheet.model, lead, text, unit)


def _value(model: type[BaseModel] | None, key: str, text: str, unit: str) -> Any:
    """A cell as its key takes it: text as it stands, numbers with the unit of their head."""
    kind = None if model is None or key not in model.model_fields else \
        model.model_fields[key].annotation
    if kind is bool:
        return {"yes": True, "true": True, "no": False, "false": False}.get(text.lower(), text)
    if key in TEXTS or _is_text(kind):
        return text
    if ";" in text:
        return [_number(part.strip(), unit) for part in text.split(";")]
    return _number(text, unit)


def _is_text(kind: Any) -> bool:
    """Whether a key takes texts alone."""
    if get_origin(kind) in (Union, UnionType):
        return all(_is_text(part) for part in get_args(kind) if part is not type(None))
    return kind is str or get_origin(kind) is Literal


def _number(text: str, unit: str) -> Any:
    """A number with the unit of its head; a cell with a unit of its own keeps that."""
    try:
        number = float(text)
    except ValueError:
        return text
    return f"{text} {unit}" if unit else number


def _put(
    data: dict[str, Any], name: str, where: str, found: list[tuple[int, dict[str, Any]]],
    origins: dict[str, tuple[str, int]], faults: list[Fault],
) -> dict[str, Any]:
    """The data with rows at their place, after what stands there already."""
    sheet = SHEETS[name]
    *outer, last = sheet.path.split(".")
    made = dict(data)
    inside = made
    for key in outer:
        own = inside.get(key, {})
        if not isinstance(own, dict):
            return data  # the model says what is wrong with it
        inside[key] = inside = dict(own)
    if name == "outlines":
        inside[last] = {**inside.get(last, {}), **_rings(where, found, faults)}
        return made
    if sheet.by:
        groups = {k: list(v) for k, v in inside.get(last, {}).items()}
        for row, one in found:
            key = str(one.pop(sheet.by, ""))
            if not key:
                faults.append(Fault(f"{where}, row {row}", f"names no {sheet.by}",
                                    f"fill the column {sheet.by}"))
                continue
            origins[f"{sheet.path}.{key}[{len(groups.setdefault(key, []))}]"] = where, row
            groups[key].append(one)
        inside[last] = groups
        return made
    things = list(inside.get(last, ()))
    first = len(things)
    for row, one in found:
        lists = {key: [one.pop(key)] for key in sheet.nested if key in one}
        old = next((k for k in range(first, len(things)) if things[k].get("name") == one.get(
            "name")), None) if sheet.nested else None
        if old is None:
            origins[f"{sheet.path}[{len(things)}]"] = where, row
            things.append({**one, **lists})
            continue
        for key, own in lists.items():
            held = things[old].setdefault(key, [])
            origins[f"{sheet.path}[{old}].{key}[{len(held)}]"] = where, row
            held += own
        for key, value in one.items():
            if things[old].setdefault(key, value) != value:
                faults.append(Fault(f"{where}, row {row}, {key}", f"{value!r} differs from that of "
                                    f"the same name before, {things[old][key]!r}",
                                    "say it once, or give another name"))
    inside[last] = things
    return made


def _rings(
    where: str, found: list[tuple[int, dict[str, Any]]], faults: list[Fault]
) -> dict[str, Any]:
    """Outlines from their corners: the ring ``edge`` and the others, which are openings."""
    rings: dict[str, dict[str, list[list[Any]]]] = {}
    for row, one in found:
        missing = [k for k in ("outline", "x", "y") if k not in one]
        if missing:
            faults.append(Fault(f"{where}, row {row}", f"has no {' and no '.join(missing)}",
                                "fill the columns outline, ring, x and y"))
            continue
        rings.setdefault(str(one["outline"]), {}).setdefault(
            str(one.get("ring", "edge")), []).append([one["x"], one["y"]])
    return {name: {"points": own.pop("edge", []), **(
        {"holes": list(own.values())} if own else {})} for name, own in rings.items()}
