"""Wrong buildings of members: each with the message a person needs, at its place in the file."""

from __future__ import annotations

from pathlib import Path

import pytest

import undatum as ud
from conftest import Command
from mutants import lacking
from undatum.errors import UndatumError

pytestmark = pytest.mark.usefixtures("unpainted")

FRAME = """\
title = "Six stories"
standard = "asce7-16"
units = "kN and m"
site = { ss = 1.0, s1 = 0.4, long_period = 8, site_class = "C", risk_category = "II" }
system = { X = { row = "C.5" }, Y = { row = "C.5" } }
[building.axes]
across_x = { names = "1..5", spacing = [7, 7, 7, 7] }
across_y = { names = "A..D", spacing = [6, 8, 6] }
[building.stories]
heights = { L1 = 4.5, "L2..L5" = 3.6, Roof = 3.4 }
outline = { "L1..L3" = "low", "L4..Roof" = "high" }
floor = "office"
[building.outlines]
low = { between = ["A1", "D5"], beyond = 0.3 }
high = { between = ["A1", "D3"], beyond = 0.3 }
[building.floors]
office = [{ name = "slab", kind = "dead", per_area = 5.0 }]
[building.sections]
C60 = { rectangle = "600 x 600 mm", material = "C35/45" }
C50 = { rectangle = "500 x 500 mm", material = "C35/45" }
B70 = { rectangle = "350 x 700 mm", material = "C35/45" }
[[building.members]]
columns = "all"
section = { "L1..L3" = "C60", "L4..Roof" = "C50" }
[[building.members]]
beams = "all"
section = "B70"
[[building.members]]
columns = "C2 at L1..L2"
remove = true
transfer = true
"""


def put(old: str, new: str) -> str:
    assert old in FRAME, old
    return FRAME.replace(old, new)


def rule(*lines: str) -> str:
    return FRAME + "\n".join(f"[[building.members]]\n{text}\n" for text in lines)


def materials(text: str) -> str:
    return put("[building.sections]", f"[building.materials]\n{text}\n[building.sections]")


CASES: dict[str, tuple[str, tuple[str, ...]]] = {
    "everything removed": (rule('columns = "all"\nremove = true', 'beams = "all"\nremove = true'), (
        "building.members", "leave no member", "take out the rule")),
    "unknown section": (put('section = "B70"', 'section = "B77"'), (
        "building.members[1].beams (line", "'B77'", "did you mean 'B70'")),
    "unknown material": (put('700 mm", material = "C35/45"', '700 mm", material = "C36/45"'), (
        "building.sections.B70.material (line", "did you mean 'C35/45'")),
    "no section": (put('section = "B70"\n', ""), ("building.members[1].beams", "chooses no beam")),
    "no shape": (put('B70 = { rectangle = "350 x 700 mm", ', "B70 = { "), (
        "building.sections.B70", "found none")),
    "two shapes": (put('B70 = { rectangle = "350 x 700 mm"', 'B70 = { circle = 0.5, rectangle = '
                       '"350 x 700 mm"'), ("found rectangle and circle",)),
    "millimeters for meters": (put('"350 x 700 mm"', "[350, 700]"), (
        "building.sections.B70.rectangle[0]", "350 m is out of range")),
    "three sizes": (put('"350 x 700 mm"', '"350 x 700 x 20 mm"'), (
        "building.sections.B70.rectangle", "at most 2 are needed")),
    "thick walls": (put('B70 = { rectangle = "350 x 700 mm"',
                        'B70 = { hollow_rectangle = "350 x 700 x 200 mm"'),
                    ("building.sections.B70", "thicker than half the section")),
    "thick ring": (put('B70 = { rectangle = "350 x 700 mm"', 'B70 = { hollow_circle = "300 x 150'
                       ' mm"'), ("thicker than half",)),
    "thick plates": (put('B70 = { rectangle = "350 x 700 mm"',
                         'B70 = { i_shape = "350 x 700 x 400 x 10 mm"'),
                     ("plates are thicker", "flange width x depth")),
    "modulus in a wrong unit": (materials("soft = { modulus = 30, unit_weight = 25 }").replace(
        "C35/45", "soft"), ("longest period", "wrong unit")),
    "poisson ratio": (materials('soft = { modulus = "30 GPa", poisson = 0.6, unit_weight = 25 }'), (
        "building.materials.soft.poisson",)),
    "unit weight as mass": (materials('x = { modulus = "30 GPa", unit_weight = "2500 kg/m^3" }'), (
        "building.materials.x.unit_weight", "does not measure")),
    "unknown axis": (rule('columns = "on E"\nsection = "C60"'), (
        "building.members[3].columns (line", "known: 1, 2, 3")),
    "unknown crossing": (rule('columns = "A9"\nsection = "C60"'), ("'A9' is not among the axes",)),
    "unknown level": (rule('columns = "all at L9"\nsection = "C60"'), (
        "'L9' is not among the levels", "known: L1, L2")),
    "unknown level of a range": (rule('beams = "on A at L1..L9"'), ("'L9'",)),
    "empty selection": (rule('columns = ""'), ("building.members[3]", "says nothing of which")),
    "all and an axis": (rule('columns = "all on A"'), ("says nothing of which",)),
    "names nothing": (rule('columns = "on A,,B"'), ("names nothing",)),
    "beams on a crossing": (rule('beams = "A1"'), ("names a crossing", "run along axes")),
    "stretch without axis": (rule('beams = "between 4 and 5"'), ("stretch without an axis",)),
    "stretch of its own family": (rule('beams = "on A between 4 and B"'), (
        "'B' is not among the axes that cross A",)),
    "no kind": (rule('section = "C60"'), ("give one of columns, beams and braces; found none",)),
    "two kinds": (rule('columns = "all"\nbeams = "all"'), ("found columns and beams",)),
    "braces without pattern": (rule('braces = "on A"\nsection = "C60"'), ("need a pattern",)),
    "unknown pattern": (rule('braces = "on A"\nsection = "C60"\npattern = "K"'), (
        "building.members[3].pattern", "choose from: 'rising'")),
    "pattern of beams": (rule('beams = "all"\npattern = "X"'), ("goes with braces only",)),
    "turned beams": (rule('beams = "all"\nturned = "Y"'), ("turned goes with columns only",)),
    "line of columns": (rule('columns = "at L1"\nline = ["A1", "B2"]'), (
        "a line goes with beams only",)),
    "line on axes": (rule('beams = "on A at L1"\nline = ["A1", "B2"]'), ("a line goes with",)),
    "line of no length": (rule('beams = "at L1"\nline = ["A1", "A1"]\nsection = "B70"'), (
        "has no length",)),
    "line to nowhere": (rule('beams = "at L1"\nline = ["A1", "Z1"]\nsection = "B70"'), (
        "'Z1' is not among the crossings",)),
    "transfer alone": (rule('columns = "A1"\ntransfer = true'), ("columns that are removed",)),
    "transfer without consent": (put("transfer = true\n", ""), (
        "building.members[0]", "the column at C2 from L2 to L3 stands on a beam",
        "transfer = true")),
    "column on nothing": (rule('columns = "A1 at L1"\nremove = true',
                               'beams = "on A, 1 at L1"\nremove = true'), (
        "the column at A1 from L1 to L2 stands on nothing",)),
    "no columns": (rule('columns = "all"\nremove = true'), ("'beam A 1-5 at L1' and", "hang in "
                                                            "the air")),
    "no columns in a story": (rule('columns = "all at L2"\nremove = true\ntransfer = true'), (
        "hang in the air", "lowest level")),
    "floating beam": (rule('beams = "at L1"\nline = [[1, 1], [3, 1]]\nsection = "B70"'), (
        "'beam (1.000, 1.000)-(3.000, 1.000) at L1' hangs in the air",)),
    "nothing to remove": (rule('beams = "on A between 4 and 5 at Roof"\nremove = true'), (
        "chooses no beam", "on the floor of that level")),
    "removed twice": (rule('columns = "C2 at L1"\nsection = "C60"\nremove = true'), (
        "chooses no column",)),
    "misspelt key": (rule('colums = "all"'), ("building.members[3].colums", "did you mean "
                                              "'columns'")),
    "section missing at a level": (put('"L4..Roof" = "C50"', '"L4..L5" = "C50"'), (
        "columns at Roof get no section",)),
    "section of an unknown level": (put('"L4..Roof" = "C50"', '"L4..Rof" = "C50"'), (
        "'Rof' is not among the levels", "did you mean 'Roof'")),
    "shares without a reason": (rule('beams = "all"\nkept = { bending_y = 0.35 }'), (
        "building.members[3].kept.reason", "is missing")),
    "no share": (rule('beams = "all"\nkept = { bending_y = 0, reason = "x" }'), (
        "building.members[3].kept.bending_y", "greater than 0")),
    "stiff ends twice": (rule('beams = "all"\nstiff_ends = 2'), ("at most 1",)),
    "every end hinged": (rule('columns = "all"\nhinged = "both"', 'beams = "all"\nhinged = '
                              '"both"'), ("mechanism", "hinged", "column B4")),
    "story of hinges": (rule('columns = "all at L1"\nhinged = "both"'), (
        "mechanism", "level 'L1' can move", "hinged at both ends")),
    "range downwards": (put('"L2..L5"', '"L5..L2"'), ("building.stories", "does not run upwards")),
    "range of two names": (put('"L2..L5"', '"L2..M5"'), ("building.stories", "is no range")),
    "level without outline": (put('"L1..L3" = "low", ', '"L1..L2" = "low", '), (
        "building.stories", "'L3' has no outline")),
    "unknown outline": (put('"L4..Roof" = "high"', '"L4..Roof" = "higher"'), (
        "'higher' is not among the outlines", "did you mean 'high'")),
    "spacings too few": (put("[7, 7, 7, 7]", "[7, 7, 7]"), (
        "building.axes.across_x", "5 axes need 4 values, found 3")),
    "no spacing": (put("[7, 7, 7, 7]", "[7, 0, 7, 7]"), ("building.axes.across_x.spacing[1]",)),
    "axes on each other": (put("[7, 7, 7, 7]", '[7, "1 mm", 7, 7]'), ("only 1 mm apart",)),
    "spacing and coordinates": (put("[7, 7, 7, 7]", "[7, 7, 7, 7], at = [0, 1, 2, 3, 4]"), (
        "give either spacing or at",)),
    "coordinates downwards": (put("spacing = [7, 7, 7, 7]", "at = [0, 7, 6, 8, 9]"), (
        "don't run upwards",)),
    "names in both families": (put('names = "A..D"', 'names = "1..4"'), (
        "building.axes", "stands in both families")),
    "axis named twice": (put('names = "A..D"', 'names = ["A", "B", "A", "D"]'), ("same name",)),
    "outline to nowhere": (put('["A1", "D5"]', '["A1", "E5"]'), (
        "building.outlines.low (line", "'E5' is not among the crossings")),
    "misspelt outline": (put('between = ["A1", "D5"]', 'betwen = ["A1", "D5"]'), (
        "building.outlines.low.betwen", "did you mean 'between'")),
    "no axes": (FRAME.replace(FRAME[FRAME.index("[building.axes]"):
                                    FRAME.index("[building.stories]")], ""), ("there are none",)),
    "nothing resists": (FRAME[:FRAME.index("[[building.members]]")], ("nothing resists",)),
    "supports nowhere": (FRAME + '[[building.supports]]\nat = "E"\n', (
        "building.supports[0].at (line", "'E'")),
    "spring of a clamp": (FRAME + '[[building.supports]]\nat = "all"\nrotation_x = 1e5\n', (
        "goes with a hinge",)),
    "supports without members": (FRAME[:FRAME.index("[[building.members]]")]
                                 + '[[building.supports]]\nat = "all"\n', ("supports",)),
    "no weight": (materials('none = { modulus = "30 GPa", unit_weight = 0 }').replace(
        "C35/45", "none").replace('floor = "office"\n', ""), ("has no seismic weight",)),
}


@pytest.mark.parametrize("name", CASES)
def test_wrong_building(name: str, tmp_path: Path, command: Command) -> None:
    text, words = CASES[name]
    path = tmp_path / "frame.toml"
    path.write_text(text, encoding="utf-8")
    for asked in (["check", str(path)], ["run", str(path), "--out", str(tmp_path / "out")]):
        assert command(asked) in (2, 3)
        said = command.said.err
        for word in words:
            assert word in said
    assert not (tmp_path / "out").exists()
    with pytest.raises(UndatumError) as caught:
        ud.run(ud.read(path))
    assert not lacking(caught.value)


@pytest.mark.parametrize(("asked", "words"), [
    (["members", "", "columns on E"], ("'E' is not among the axes",)),
    (["members", "", "column A1 at L11"], ("did you mean 'column A1 at L1'",)),
    (["members", "", "braces"], ("names no member",)),
    (["elevation", "", "E"], ("no axis 'E'", "known: 1, 2")),
    (["elevation", "", "A", "--action", "moment_w"], ("choose from: moment, shear",)),
    (["elevation", "", "A", "--plot", "a.jpg"], ("is no PNG file",)),
])
def test_wrong_question(
        asked: list[str], words: tuple[str, ...], tmp_path: Path, command: Command) -> None:
    path = tmp_path / "frame.toml"
    path.write_text(FRAME, encoding="utf-8")
    assert command([asked[0], str(path), *asked[2:]]) == 2
    said = command.said.err
    for word in words:
        assert word in said


def test_a_rule_without_section_changes_what_is_there(tmp_path: Path, command: Command) -> None:
    """And doesn't bring back what was removed."""
    path = tmp_path / "frame.toml"
    said = []
    for text in (FRAME, rule('columns = "all"\nhinged = "end"')):
        path.write_text(text, encoding="utf-8")
        assert command(["members", str(path)]) == 0
        said.append(command.said.out.split("\n")[0])
    assert said[0] == said[1]
    assert "58 columns of C60" in said[0]


@pytest.mark.parametrize(("units", "top"), [("kN and m", "8.1 m"), ("kip and ft", "26.57 ft")])
def test_a_mechanism_is_told_in_the_units_of_the_project(
        units: str, top: str, tmp_path: Path) -> None:
    text = rule('columns = "all"\nhinged = "both"', 'beams = "all"\nhinged = "both"')
    path = tmp_path / "frame.toml"
    for numbers in ("7, 7, 7, 7", "6, 8, 6"):
        text = text.replace(numbers, ", ".join(f'"{n} m"' for n in numbers.split(", ")))
    for key, value in (("L1", 4.5), ('"L2..L5"', 3.6), ("Roof", 3.4), ("beyond", 0.3)):
        text = text.replace(f"{key} = {value}", f'{key} = "{value} m"')
    path.write_text(text.replace("kN and m", units))
    with pytest.raises(ud.AnalysisError, match=f"elevation {top}"):
        ud.run(ud.read(path))
