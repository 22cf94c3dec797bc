"""Wrong project files: each gets the message a person needs, the exit code, and no output."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

import undatum as ud
from conftest import Command, analyze, shear_building, starter_text
from mutants import lacking
from undatum.errors import UndatumError
from undatum.places import Places
from undatum.project.project_file import read

pytestmark = pytest.mark.usefixtures("unpainted")

STARTER = starter_text("starter")


def swap(old: str, new: str, count: int = 1) -> Callable[[str], str]:
    def change(text: str) -> str:
        assert old in text, old
        return text.replace(old, new, count)

    return change


ROOF_LOADS = 'loads = [{ name = "plant", kind = "equipment", total = 120, at = [22, 9] }]'

# (what is wrong, how the starter project is changed, words the message must hold, exit code)
CASES: list[tuple[str, Callable[[str], str], tuple[str, ...], int]] = [
    ("unit of another kind", swap("height = 3.8", 'height = "3.8 kPa"'),
     ("building.levels[0].height (line", "does not measure a length", "12 ft"), 2),
    ("unknown unit", swap("height = 3.8", 'height = "3.8 mtrs"'), ("'mtrs' is not known",), 2),
    ("text without unit", swap("height = 3.8", 'height = "3.8"'), ("without a unit",), 2),
    ("millimetres read as metres", swap("height = 3.8", "height = 3800"),
     ("building.levels[0].height", "3800 m is out of range", "at most 60 m"), 2),
    ("negative height", swap("height = 3.8", "height = -3.8"), ("greater than 0 m",), 2),
    ("missing height", swap("height = 3.8\n", ""), ("neither height nor elevation",), 2),
    ("height and elevation", swap("height = 3.8", "height = 3.8\nelevation = 11.8"),
     ("not both",), 2),
    ("not a number", swap("ss = 1.00", "ss = nan"), ("site.ss (line", "finite"), 2),
    ("percent of g", swap("ss = 1.00", "ss = 150"), ("site.ss", "at most 6 g"), 2),
    ("true for a number", swap("ss = 1.00", "ss = true"), ("True is not a",), 2),
    ("missing site value", swap("long_period = 8", "# long_period = 8"),
     ("site.long_period", "is missing", "long-period transition period"), 2),
    ("missing table", swap("[system.X]", "[system.Z]"),
     ("system.X", "is missing", "system.Z", "is not a known key"), 2),
    ("unknown key", swap("risk_category", "risk_catagory"),
     ("site.risk_catagory (line", "did you mean 'risk_category'?"), 2),
    ("unknown key in a level", swap("height = 3.8", "hieght = 3.8"),
     ("building.levels[0].hieght", "did you mean 'height'?"), 2),
    ("gap to an unknown level", swap("[building.", '[[gaps]]\nname = "w"\ndirection = "X"\n'
                                     'distance = "80 mm"\nlevel = "L22"\n\n[building.'),
     ("gaps[0].level (line", "is not a level that moves"), 2),
    ("gap without a width", swap("[building.", '[[gaps]]\nname = "w"\ndirection = "X"\n'
                                 "\n[building."), ("gaps[0].distance", "is missing"), 2),
    ("unknown irregularity", swap("in_plane_offset = false", "weak_stories = true"),
     ("irregularities.weak_stories", "known here: diaphragm_discontinuity"), 2),
    ("two ways to a spectrum", swap("[building.", '[spectrum]\nfile = "a.csv"\n'
                                    'files = ["b.csv"]\n\n[building.'),
     ("either file or files",), 2),
    ("unknown row beside a system", swap('row = "C.1"', 'row = "C.1"\nwith_rows = ["C.99"]'),
     ("'C.99' is not a row",), 2),
    ("place without who knows", swap("[system.X]", "[site.location]\nlatitude = 1\n"
                                     "longitude = 1\n\n[system.X]"),
     ("site.location", "either file or service"), 2),
    ("unknown choice", swap('site_class = "C"', 'site_class = "G"'),
     ("'G' is not one of the choices", "default"), 2),
    ("unknown load kind", swap('kind = "cladding"', 'kind = "clading"'),
     ("building.floors.office[5].kind (line", "did you mean 'cladding'?"), 2),
    ("unknown standard", swap('"asce7-16"', '"asce7-61"'), ("did you mean 'asce7-16'?",), 2),
    ("standard is a number", swap('"asce7-16"', "7"), ("standard",), 2),
    ("unknown unit system", swap('units = "kN and m"', 'units = "kN and ft"'),
     ("'kN and ft' is no system of units", "did you mean"), 2),
    ("unknown system row", swap('row = "C.1"', 'row = "C.99"'),
     ("system.X", "not a row of Table 12.2-1"), 2),
    ("system by name", swap('row = "C.1"', 'row = "special moment frame"'),
     ("did you mean 'C.1'",), 2),
    ("duplicate level", swap('name = "L3"', 'name = "Roof"'),
     ("building.levels[1].name", "'Roof' is already the name of levels[0]"), 2),
    ("duplicate line", swap('name = "Frame north"', 'name = "Frame south"'),
     ("building.lines[1].name", "already"), 2),
    ("load counted twice", swap('name = "steel frame"', 'name = "slab on deck"'),
     ("counted twice",), 2),
    ("crossing outline", swap("[[0, 0], [30, 0], [30, 18], [0, 18]]",
                              "[[0, 0], [30, 18], [30, 0], [0, 18]]"),
     ("building.outlines.floor (line", "crosses or touches itself"), 2),
    ("flat outline", swap("[[0, 0], [30, 0], [30, 18], [0, 18]]", "[[0, 0], [30, 0], [15, 0]]"),
     ("building.outlines.floor",), 2),
    ("point with three numbers", swap("[30, 18], [0, 18]", "[30, 18, 4], [0, 18]"),
     ("building.outlines.floor.points[2]",), 2),
    ("unknown outline", swap('outline = "floor"', 'outline = "flor"'),
     ("'flor' is not among the outlines", "did you mean 'floor'?"), 2),
    ("unknown floor", swap('floor = "office"', 'floor = "ofice"'), ("did you mean 'office'?",), 2),
    ("levels from the bottom up", swap("height = 3.8\n", "elevation = 2.0\n"),
     ("is not above", "from the top down"), 2),
    ("height of the lowest level", swap('name = "Ground"', 'name = "Ground"\nheight = 3'),
     ("is the lowest level",), 2),
    ("empty story", lambda t: t.replace('floor = "roof"\n', "").replace(ROOF_LOADS, ""),
     ("building.levels[0]", "has no loads, so no mass"), 2),
    ("nothing counts", lambda t: t.replace('floor = "roof"\n', "").replace(
        '"equipment", total = 120, at = [22, 9]', '"live", total = 120'),
     ("no seismic weight",), 2),
    ("zero stiffness", swap('"90 kN/mm"', "0"), ("building.lines[2].stiffness", "greater than 0"),
     2),
    ("moment for a stiffness", swap('"90 kN/mm"', '"90 kN*m"'), ("not measure a stiffness",), 2),
    ("too few stiffnesses", swap('["24 kN/mm", "32 kN/mm", "38 kN/mm"]', '["24 kN/mm"]'),
     ("has 3 stories but 1 values", "building.lines[0].stiffness"), 2),
    ("mass without stiffness", lambda t: t.replace('top = "Roof"', 'top = "L3"').replace(
        '["24 kN/mm", "32 kN/mm", "38 kN/mm"]', '["24 kN/mm", "32 kN/mm"]'),
     ("no lateral line holds the story below 'Roof'", "mass but no stiffness"), 2),
    ("line upside down", swap('bottom = "Ground"\ntop = "Roof"', 'bottom = "Roof"\ntop = "Ground"'),
     ("is not above it",), 2),
    ("line to nowhere", swap('top = "Roof"', 'top = "Rof"'),
     ("building.lines[0].top", "did you mean 'Roof'?"), 2),
    ("bare angle", swap('direction = "X"', "direction = 30"),
     ("building.lines[0].direction", 'write "X", "Y" or an angle'), 2),
    ("no stiffness at all", swap('stiffness = "90 kN/mm"', ""),
     ("give either stiffness or cantilever",), 2),
    ("load given twice", swap("per_area = 3.0", "per_area = 3.0, total = 5"),
     ("exactly one of per_area",), 2),
    ("share without reason", swap("per_area = 3.0", "per_area = 3.0, share = 0.5"),
     ("has no reason",), 2),
    ("share in percent", swap("per_area = 3.0", 'per_area = 3.0, share = 50, reason = "x"'),
     ("at most 1",), 2),
    ("unknown drift structure", swap('structure = "other"', 'structure = "others"'),
     ("drift.structure", "choose from"), 2),
    ("drift point off the floor", swap('structure = "other"',
                                       'points = [{ name = "far", at = [99, 9] }]'),
     ("drift.points[0].at (line", "lies on no floor"), 2),
    ("not TOML", swap("ss = 1.00", "ss = = 1.00"), ("not valid TOML (line", "ss = = 1.00"), 2),
    ("same key twice", swap("ss = 1.00", "ss = 1.00\nss = 1.10"), ("not valid TOML",), 2),
    ("truncated", lambda t: t[: t.index('stiffness = [') + 20], ("not valid TOML",), 2),
    ("cut between tables", lambda t: t[: t.index("[[building.lines]]")],
     ("building.lines", "is missing"), 2),
    ("empty", lambda _: "", ("is empty",), 2),
    ("only comments", lambda _: "# nothing\n", ("site", "building", "is missing"), 2),
    ("class F", swap('site_class = "C"', 'site_class = "F"'), ("site response analysis",), 2),
    ("spectrum file missing", lambda t: t + '\n[spectrum]\nfile = "none.csv"\n',
     ("none.csv", "there is no file"), 2),
    ("mechanism", lambda t: t.replace('direction = "Y"', 'direction = "X"'),
     ("mechanism", "in Y", "Likely cause"), 3),
]


@pytest.mark.parametrize(("name", "change", "words", "code"), CASES, ids=[c[0] for c in CASES])
def test_wrong_file(
        name: str, change: Callable[[str], str], words: tuple[str, ...], code: int, tmp_path: Path,
        command: Command) -> None:
    path = tmp_path / "project.toml"
    path.write_text(change(STARTER), encoding="utf-8")
    out = tmp_path / "out"
    assert command(["run", str(path), "--out", str(out)]) == code
    said = command.said
    for word in words:
        assert word in said.err
    assert "Traceback" not in said.err
    assert said.out == ""
    assert sorted(p.name for p in tmp_path.iterdir()) == ["project.toml"]  # nothing was written
    with pytest.raises(UndatumError) as caught:
        ud.run(ud.read(path))
    assert not lacking(caught.value)


def test_entries_that_lack_the_same_are_one_fault(tmp_path: Path) -> None:
    gap = '[[gaps]]\nname = "{}"\ndirection = "X"\ndistance = "80 mm"\nlevel = "L22"\n\n'
    path = tmp_path / "p.toml"
    path.write_text(STARTER + "\n" + "".join(gap.format(i) for i in range(255)))
    with pytest.raises(ud.InputError, match=r"and at 254 more places, the last gaps\[254\]") as e:
        read(path)
    assert len(e.value.faults) == 1


def test_all_faults_at_once_in_file_order(tmp_path: Path) -> None:
    text = STARTER
    for old, new in (("ss = 1.00", "ss = -1"), ('site_class = "C"', 'site_class = "H"'),
                     ("height = 3.8", 'height = "3.8 s"'), ("per_edge = 3.5", "per_egde = 3.5"),
                     ('top = "Roof"', 'top = "Rof"'), ('floor = "office"', 'floor = "ofice"')):
        text = text.replace(old, new, 1)
    path = tmp_path / "p.toml"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(ud.InputError) as caught:
        read(path)
    places = [f.place for f in caught.value.faults]
    assert set(places) >= {"site.ss", "site.site_class", "building.levels[0].height",
                           "building.floors.office[5].per_egde", "building.lines[0].top",
                           "building.levels[1].floor"}
    lines = [f.line for f in caught.value.faults]
    assert None not in lines
    assert lines == sorted(lines, key=lambda n: n or 0)
    numbered = text.splitlines()
    for fault in caught.value.faults:
        assert fault.line is not None
        key = fault.place.split(".")[-1].split("[")[0]
        if key in {"ss", "site_class", "height", "per_egde"}:
            assert key in numbered[fault.line - 1]


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"\x89PNG\r\n\x1a\n\0\0\0", "not a text file"),
        (b"title = \"caf\xe9\"\n", "not UTF-8"),
        (b"a = " + b"[" * 5000, "not valid TOML|nested too deeply"),
    ],
)
def test_binary_and_odd_files(tmp_path: Path, content: bytes, words: str) -> None:
    path = tmp_path / "p.toml"
    path.write_bytes(content)
    with pytest.raises(ud.InputError, match=words):
        read(path)


def test_unreadable_paths(tmp_path: Path) -> None:
    with pytest.raises(ud.InputError, match="no such file"):
        read(tmp_path / "none.toml")
    with pytest.raises(ud.InputError, match="is a folder"):
        read(tmp_path)
    with pytest.raises(ud.InputError, match=r"cannot be read|no such file"):
        read("bad\0name")
    (tmp_path / "there.toml").write_text("x = 1")
    with pytest.raises(ud.InputError, match=r"in this folder: there\.toml"):
        read(tmp_path / "their.toml")
    big = tmp_path / "big.toml"
    with big.open("wb") as out:
        out.truncate(30_000_000)
    with pytest.raises(ud.InputError, match="larger than"):
        read(big)


@pytest.mark.parametrize("arguments", [
    ["elevation", "{file}", "a/b"], ["run", "{file}", "--out", "{long}"], ["check", "{long}"],
    ["compare", "{file}", "{long}"], ["new", "{long}"], ["look-up", "{long}"],
    ["spectrum", "{file}", "--plot", "{long}.png"], ["motion-spectrum", "{long}"]])
def test_names_that_no_folder_takes(
    arguments: list[str], tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command,
) -> None:
    file = tmp_path / "project.toml"
    file.write_text(STARTER, encoding="utf-8")
    monkeypatch.chdir(tmp_path)
    said = [a.format(file=file, long="x" * 300) for a in arguments]
    assert command(said) == 2
    assert "\n    " in command.said.err, "without a cure"
    assert [p.name for p in tmp_path.iterdir()] == ["project.toml"]


@pytest.mark.skipif(not Path("/dev/full").exists(), reason="no such device here")
@pytest.mark.parametrize("arguments", [["systems"], ["schema"], ["--help"]])
def test_a_full_disk_is_advice_and_a_closed_pipe_is_nothing(arguments: list[str]) -> None:
    command = [sys.executable, "-m", "undatum", *arguments]
    with open("/dev/full", "w") as full:
        done = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert done.returncode == 3
    assert "Make room" in done.stderr
    assert "unforeseen" not in done.stderr
    read, write = os.pipe()
    os.close(read)
    done = subprocess.run(command, stdout=write, stderr=subprocess.PIPE, text=True, check=False)
    os.close(write)
    assert (done.returncode, done.stderr) == (0, "")


def test_python_constructors_give_the_same_advice() -> None:
    with pytest.raises(ud.InputError, match="did you mean 'height'"):
        ud.Level(name="L", hieght=3, outline=[(0, 0), (1, 0), (0, 1)])
    with pytest.raises(ud.InputError) as caught:
        ud.Building(
            levels=[{"name": "A", "height": "3 kg", "outline": [(0, 0), (1, 0), (0, 1)]},
                    {"name": "B", "outline": [(0, 0), (0, 1)]}],
            lines=[{"name": "l", "at": (0, 0), "direction": "Z", "bottom": "B", "top": "A",
                    "stiffness": 1e8}])
    assert {f.place for f in caught.value.faults} == {
        "levels[0].height", "levels[1].outline.points", "lines[0].direction"}
    with pytest.raises(ud.InputError, match="thickness is larger"):
        ud.Cantilever(modulus="30 GPa", length=0.2, thickness=4.0)
    with pytest.raises(ud.InputError, match="give either length and thickness"):
        ud.Cantilever(modulus="30 GPa", length=4.0)


def test_questions_about_implausible_values(tmp_path: Path) -> None:
    text = STARTER.replace("height = 3.8", "height = 13.8", 1).replace("per_area = 3.0",
                                                                      "per_area = 62")
    path = tmp_path / "p.toml"
    path.write_text(text, encoding="utf-8")
    asked = [f for f in ud.run(read(path)).findings if f.check == "plausible input"]
    assert {f.where for f in asked} == {"building.levels[0].height",
                                       "building.floors.office[0].per_area"}
    assert all("Check the unit" in f.advice for f in asked)


@pytest.mark.parametrize("value", [1e3, 5e14])
def test_one_implausible_value_of_many_is_asked_about(value: float) -> None:
    r = analyze(shear_building([1e8, 1e8, value, 1e8], [1e4] * 4))
    asked = {f.where for f in r.findings if f.check == "plausible input"}
    assert {f"building.lines[{i}].stiffness[2]" for i in range(len(r.project.building.lines))} \
        == {place for place in asked if "lines" in place}


def test_places_follow_every_form_of_toml() -> None:
    text = '''# comment
title = "a # b" # c
dotted.key = 1
[table]
  text = """
multi "quoted" [line]
"""
  raw = 'x = [1'
  array = [
    1,  # one
    { a = 2, b = [3, 4] },
    # two
  ]
[[list]]
x = 1
[[list]]
x = 2
[list.sub]
y = 3
[[list.sub.deep]]
z = """"quoted""""
'''
    import tomllib

    tomllib.loads(text)
    places = Places(text)
    for path, line in {
        ("title",): 2, ("dotted", "key"): 3, ("table",): 4, ("table", "text"): 5,
        ("table", "raw"): 8, ("table", "array"): 9, ("table", "array", 0): 10,
        ("table", "array", 1, "a"): 11, ("table", "array", 1, "b", 1): 11,
        ("list", 0, "x"): 15, ("list", 1): 16, ("list", 1, "x"): 17, ("list", 1, "sub", "y"): 19,
        ("list", 1, "sub", "deep", 0, "z"): 21, ("list", 1, "nothing", "here"): 16,
    }.items():
        assert places.line(path) == line, path
    assert places.line(("absent",)) is None


def test_places_agree_with_the_parsed_data() -> None:
    """Every key of the shipped projects has a line, and the line holds the key."""
    import tomllib

    for name in ("starter", "archive", "clinic", "terrace"):
        text = starter_text(name)
        lines, places = text.splitlines(), Places(text)

        def walk(value: Any, path: tuple[str | int, ...], lines: list[str] = lines,
                 places: Places = places) -> None:
            if path:
                line = places.line(path)
                assert line is not None
                if isinstance(path[-1], str):
                    assert path[-1] in lines[line - 1], path
            if isinstance(value, dict):
                for key, item in value.items():
                    walk(item, (*path, key))
            elif isinstance(value, list):
                for i, item in enumerate(value):
                    walk(item, (*path, i))

        walk(tomllib.loads(text), ())
