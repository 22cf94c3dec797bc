"""Input from spreadsheets: the same job as by keys, faults told at row and column, input tables
that a run writes read back."""

from __future__ import annotations

import csv
import os
import zipfile
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import openpyxl
import pytest

import undatum as ud
from conftest import ROOMS, Command
from undatum.units import to_si

SITE, SYSTEM, _, _ = ROOMS["asce7-16"]
HEAD = f'''title = "t"
units = "kN and m"
[site]
ss = {SITE["ss"]}
s1 = {SITE["s1"]}
long_period = 8
site_class = "C"
risk_category = "II"
[system]
X = {{ row = "C.1" }}
Y = {{ row = "C.1" }}
'''
LEVELS = [("name", "height (ft)", "outline", "floor"),
          *((f"L{k}", 12, "whole", "typical") for k in range(5, 0, -1)), ("Base", "", "whole", "")]
OUTLINE = [("outline", "ring", "x (m)", "y (m)"), ("whole", "edge", 0, 0), ("whole", "edge", 24, 0),
           ("whole", "edge", 24, 18), ("whole", "edge", 0, 18), ("whole", "stair", 10, 8),
           ("whole", "stair", 13, 8), ("whole", "stair", 13, 11), ("whole", "stair", 10, 11)]
LOADS = [("floor", "name", "kind", "per area (kPa)"), ("typical", "slab", "dead", 6),
         ("typical", "use", "live", 2.4)]


def members() -> list[dict[str, Any]]:
    """Over two hundred members of a frame by coordinates."""
    xs, ys, zs = (0, 8, 16, 24), (0, 6, 12, 18), [round(k * 12 * 0.3048, 4) for k in range(6)]
    found = []
    for k, (a, b) in enumerate(pairwise(zs), 1):
        for x in xs:
            found += [{"name": f"C{x}-{y}-{k}", "kind": "column", "section": "C",
                       "start": [x, y, a], "end": [x, y, b]} for y in ys]
            found += [{"name": f"Y{x}-{y}-{k}", "kind": "beam", "section": "B",
                       "start": [x, y, b], "end": [x, y + 6, b]} for y in ys[:-1]]
        found += [{"name": f"X{x}-{y}-{k}", "kind": "beam", "section": "B", "start": [x, y, b],
                   "end": [x + 8, y, b]} for x in xs[:-1] for y in ys]
    return found


def cases() -> list[dict[str, Any]]:
    return [{"name": f"case {k}", "on_levels": [{"at": f"L{1 + k % 5}", "X": 10.0 * k},
                                                {"at": "L5", "Y": 5.0 + k}]}
            for k in range(1, 16)]


def combinations() -> list[dict[str, Any]]:
    return [{"name": f"own {k}", "kind": "own", "reason": "test",
             "factors": {"dead": round(1.0 + k / 100, 2), f"case {1 + k % 15}": 1.0}}
            for k in range(40)]


def book(path: Path, **sheets: list[Any]) -> None:
    made = openpyxl.Workbook()
    made.remove(made.active)
    for name, rows in sheets.items():
        sheet = made.create_sheet(name)
        for row in rows:
            sheet.append(list(row))
    made.save(path)


SECTIONS = '''
[building.sections]
C = { rectangle = [0.5, 0.5], material = "C30/37" }
B = { rectangle = [0.3, 0.6], material = "C30/37" }
'''


def given_by_tables(folder: Path) -> Path:
    book(folder / "in.xlsx", levels=LEVELS, outlines=OUTLINE, loads=LOADS,
         members=[("member", "kind", "section", *(f"{end} {c} (m)" for end in ("start", "end")
                                                  for c in "xyz")),
                  *((m["name"], m["kind"], m["section"], *m["start"], *m["end"])
                    for m in members())],
         cases=[("name", "on_levels.at", "on_levels.X (kN)", "on_levels.Y (kN)"),
                *((c["name"], one["at"], one.get("X"), one.get("Y"))
                  for c in cases() for one in c["on_levels"])],
         combinations=[("name", "kind", "reason", "factors.dead",
                        *(f"factors.case {k}" for k in range(1, 16))),
                       *((c["name"], c["kind"], c["reason"], c["factors"]["dead"],
                          *(c["factors"].get(f"case {k}") for k in range(1, 16)))
                         for c in combinations())])
    (folder / "p.toml").write_text('tables = "in.xlsx"\n' + HEAD + SECTIONS, encoding="utf-8")
    return folder / "p.toml"


def test_members_cases_and_combinations_from_tables_are_those_by_keys(tmp_path: Path) -> None:
    by_tables = ud.read(given_by_tables(tmp_path))
    keys = ud.make_project(
        title="t", units="kN and m", site=SITE, system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}},
        combinations=combinations(), building={
            "levels": [{"name": n, **({"height": f"{h} ft"} if h else {}), "outline": o,
                        **({"floor": f} if f else {})} for n, h, o, f in LEVELS[1:]],
            "outlines": {"whole": {
                "points": [[x, y] for _, ring, x, y in OUTLINE[1:] if ring == "edge"],
                "holes": [[[x, y] for _, ring, x, y in OUTLINE[1:] if ring == "stair"]]}},
            "floors": {"typical": [{"name": n, "kind": k, "per_area": p} for _, n, k, p in
                                   LOADS[1:]]},
            "sections": {"C": {"rectangle": [0.5, 0.5], "material": "C30/37"},
                         "B": {"rectangle": [0.3, 0.6], "material": "C30/37"}},
            "placed": members(), "cases": cases()})
    assert len(by_tables.building.placed) >= 200
    assert len(by_tables.building.cases) == 15
    assert len(by_tables.combinations) == 40
    assert by_tables.building == keys.building
    assert by_tables.combinations == keys.combinations
    one, other = ud.run(by_tables), ud.run(keys)
    a, b = (r.read("forces", "columns", "own").table() for r in (one, other))
    assert a == b


@pytest.mark.parametrize(("file", "rows", "place", "words"), [
    ("levels.csv", [*LEVELS[:2], ("L4", "12 kg", "whole", "typical"), *LEVELS[3:]],
     "levels.csv, row 3, height", "12 kg"),
    ("levels.csv", [("name", "hight (ft)", "outline", "floor"), *LEVELS[1:]],
     "levels.csv, row 2, hight", "did you mean 'height'"),
    ("loads.csv", [*LOADS, ("typical", "roof", "ded", 1.0)], "loads.csv, row 4, kind", "ded"),
    ("loads.csv", [*LOADS, ("", "roof", "dead", 1.0)], "loads.csv, row 4", "fill the column floor"),
    ("outlines.csv", [*OUTLINE[:3], ("whole", "edge", "", 3)], "outlines.csv, row 4", "has no x"),
    ("levels.csv", [], "levels.csv", "is empty"),
    ("levels.csv", [("name", "name", "outline", "floor"), *LEVELS[1:]], "levels.csv, row 1",
     "stands twice"),
    ("loads.csv", [*LOADS, ("typical", "roof", "dead", 1.0, "remark")], "loads.csv, row 4",
     "stands under no head"),
])
def test_what_is_wrong_is_told_at_row_and_column(
    file: str, rows: list[Any], place: str, words: str, tmp_path: Path
) -> None:
    tables = {"levels.csv": LEVELS, "loads.csv": LOADS, "outlines.csv": OUTLINE, file: rows}
    for name, own in tables.items():
        with (tmp_path / name).open("w", newline="", encoding="utf-8") as out:
            csv.writer(out).writerows(own)
    named = ", ".join(f'{n.removesuffix(".csv")} = "{n}"' for n in tables)
    (tmp_path / "p.toml").write_text(f"tables = {{ {named} }}\n" + HEAD + '''
[[building.lines]]
name = "a"
at = [12, 0]
direction = "X"
bottom = "Base"
top = "L5"
stiffness = 2e5
''', encoding="utf-8")
    with pytest.raises(ud.InputError) as caught:
        ud.read(tmp_path / "p.toml")
    fault = next(f for f in caught.value.faults if f.place == place)
    assert words in str(fault)


@pytest.mark.parametrize(("tables", "words"), [
    ('"none.xlsx"', "no file 'none.xlsx'"), ('"p.toml"', "cannot be read as a workbook"),
    ('{ floors = "x.csv" }', "known: levels"), ('{ loads = "in.xlsx#nowhere" }', "no sheet"),
    ('{ loads = "none.csv" }', "no file 'none.csv'"), ('{ loads = 3 }', "not the name of a file"),
])
def test_tables_that_are_not_there(tables: str, words: str, tmp_path: Path) -> None:
    book(tmp_path / "in.xlsx", other=[("a",)])
    (tmp_path / "p.toml").write_text(f"tables = {tables}\n" + HEAD, encoding="utf-8")
    with pytest.raises(ud.InputError, match=words):
        ud.read(tmp_path / "p.toml")


def test_a_project_by_tables_is_written_and_its_input_read_back(
    tmp_path: Path, command: Command, unpainted: None
) -> None:
    file = tmp_path / "mine.toml"
    assert command(["new", str(file), "--as-tables"]) == 0
    first = ud.run(ud.read(file))
    assert command(["new", str(file), "--as-tables"]) == 2  # nothing is written over
    assert command(["new", str(tmp_path / "x.toml"), "--as-tables", "--like", "clinic"]) == 2
    out = first.save(tmp_path / "saved")
    ud.write_all(first, tmp_path / "out", detail="short")
    assert out
    again = tmp_path / "again.toml"
    text = file.read_text(encoding="utf-8")
    again.write_text(text.replace('tables = "mine.xlsx"', '''tables = {
 levels = "out/tables/input_levels.csv", outlines = "out/tables/input_outlines.csv",
 loads = "mine.xlsx#loads", lines = "mine.xlsx#lines", cases = "mine.xlsx#cases",
 combinations = "mine.xlsx#combinations" }'''.replace("\n", "")), encoding="utf-8")
    second = ud.run(ud.read(again))
    assert second.modes.periods == pytest.approx(first.modes.periods, rel=1e-9)
    assert second.weights.total == pytest.approx(first.weights.total)


# -- nothing is lost or guessed --------------------------------------------------------------------

POINTS = [("name", "at x (m)", "at y (m)"), ("p", 3, 4)]
WALLS = [("name", "start x (m)", "start y (m)", "end x (m)", "end y (m)", "thickness (m)",
          "material"), *((f"W{k}", *ends, 0.3, "C30/37") for k, ends in enumerate(
              [(0, 0, 24, 0), (0, 18, 24, 18), (0, 0, 0, 18), (24, 0, 24, 18)]))]


def whole_book(path: Path, **sheets: Any) -> ud.Project:
    """A building of walls that is told by sheets alone."""
    book(path / "mine.xlsx", levels=LEVELS, outlines=OUTLINE, loads=LOADS, walls=WALLS, **sheets)
    project = path / "mine.toml"
    project.write_text('tables = "mine.xlsx"\n' + HEAD, encoding="utf-8")
    return ud.read(project)


def test_a_cell_with_its_own_unit_keeps_it(tmp_path: Path) -> None:
    """Under a head in m: "24 m" and "78.740157 ft" are 24 m, and never millimeters."""
    plain = whole_book(tmp_path).building
    rows = [list(row) for row in WALLS]
    rows[1][3], rows[2][3] = "24 m", f"{24 / 0.3048!r} ft"
    book(tmp_path / "mine.xlsx", levels=LEVELS, outlines=OUTLINE, loads=LOADS, walls=rows)
    found = ud.read(tmp_path / "mine.toml").building
    for one, other in zip(found.walls, plain.walls, strict=True):
        assert np.array(one.between) == pytest.approx(np.array(other.between), rel=1e-12)
    with pytest.raises(ValueError, match=r"3\.5 m m"):
        to_si("3.5 m m", "length")
    assert to_si("2 kN m", "moment") == pytest.approx(2e3)


@pytest.mark.parametrize("column", [1, 2, 3, 4])
def test_a_place_is_whole_or_a_fault(tmp_path: Path, column: int) -> None:
    whole_book(tmp_path)
    rows = [list(row) for row in WALLS]
    rows[2][column] = None
    book(tmp_path / "mine.xlsx", levels=LEVELS, outlines=OUTLINE, loads=LOADS, walls=rows)
    with pytest.raises(ud.InputError, match=rf"sheet walls, row 3, {WALLS[0][column][:-4]}: is"):
        ud.read(tmp_path / "mine.toml")


def test_sheets_that_are_no_tables_are_named(tmp_path: Path) -> None:
    with pytest.raises(ud.InputError, match=r"sheet member loads.*\n.*did you mean 'member_loads'"):
        whole_book(tmp_path, **{"member loads": [("name",), ("x",)]})
    whole_book(tmp_path, **{"# notes": [("anything",), ("at all",)], "points": POINTS})


@pytest.mark.parametrize(("cell", "said"), [
    ("#REF!", "holds the error #REF!"), ("#N/A", "holds the error #N/A"),
    ("=1+1", "holds a formula without a stored value")])
def test_formulas_that_went_wrong_are_faults_at_their_cell(
    tmp_path: Path, cell: str, said: str
) -> None:
    for column, letter in ((0, "A"), (3, "D")):
        rows = [list(row) for row in LOADS]
        rows[2][column] = cell
        whole_book(tmp_path)
        book(tmp_path / "mine.xlsx", levels=LEVELS, outlines=OUTLINE, loads=rows, walls=WALLS)
        with pytest.raises(ud.InputError, match=f"sheet loads, cell {letter}3: {said}"):
            ud.read(tmp_path / "mine.toml")


def test_a_stray_cell_at_the_end_of_the_sheet_is_named_at_once(tmp_path: Path) -> None:
    whole_book(tmp_path)
    made = openpyxl.load_workbook(tmp_path / "mine.xlsx")
    made["loads"]["XFD1048576"] = 1
    made.save(tmp_path / "mine.xlsx")
    with pytest.raises(ud.InputError, match="cell XFD1048576: lies beyond"):
        ud.read(tmp_path / "mine.toml")


def test_what_is_no_file_or_grows_beyond_bounds_is_refused(tmp_path: Path) -> None:
    whole_book(tmp_path)
    path = tmp_path / "mine.xlsx"
    with zipfile.ZipFile(path, "a", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/bomb.xml", bytes(210_000_000))
    assert path.stat().st_size < 1_000_000
    with pytest.raises(ud.InputError, match="MB once it is unpacked"):
        ud.read(tmp_path / "mine.toml")
    path.unlink()
    os.mkfifo(path)
    with pytest.raises(ud.InputError, match="is not a file"):
        ud.read(tmp_path / "mine.toml")
