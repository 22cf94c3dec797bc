"""Wrong walls and floors: each with the message a person needs, at its place in the file."""

from __future__ import annotations

from pathlib import Path

import pytest

import undatum as ud
from conftest import Command
from mutants import lacking
from undatum.errors import UndatumError

pytestmark = pytest.mark.usefixtures("unpainted")

WALLS = """\
title = "Walls"
standard = "asce7-16"
units = "kN and m"
site = { ss = 1.0, s1 = 0.4, long_period = 8, site_class = "C", risk_category = "II" }
system = { X = { row = "B.4" }, Y = { row = "B.4" } }
[building]
diaphragms = { L1 = { deforms = "200 mm", material = "C30/37" } }
[building.cores]
lift = ["south", "east", "north", "west"]
[building.axes]
across_x = { names = "1..4", spacing = [6, 6, 6] }
across_y = { names = "A..C", spacing = [5, 5] }
[building.stories]
heights = { L1 = 4.0, "L2..L3" = 3.2 }
outline = "plan"
floor = "floor"
[building.outlines]
plan = { between = ["A1", "C4"] }
[building.floors]
floor = [{ name = "slab", kind = "dead", per_area = 6.0 }]
[[building.walls]]
name = "south"
between = ["A2", "A3"]
thickness = "250 mm"
material = "C30/37"
openings = [{ from_start = 2.0, width = 1.2, height = 2.2 }]
[[building.walls]]
name = "east"
between = ["A3", "B3"]
thickness = { L1 = "300 mm", "L2..L3" = "250 mm" }
material = "C30/37"
[[building.walls]]
name = "north"
between = ["B3", "B2"]
thickness = "250 mm"
material = "C30/37"
[[building.walls]]
name = "west"
between = ["B2", "A2"]
thickness = "250 mm"
material = "C30/37"
"""
DOOR = "openings = [{ from_start = 2.0, width = 1.2, height = 2.2 }]"
FLOOR = 'L1 = { deforms = "200 mm", material = "C30/37" }'


def put(old: str, new: str) -> str:
    assert old in WALLS, old
    return WALLS.replace(old, new, 1)


def opening(text: str) -> str:
    return put(DOOR, f"openings = [{{ {text} }}]")


def more(name: str, between: str, rest: str = "") -> str:
    return WALLS + f"""[[building.walls]]
name = "{name}"
between = {between}
thickness = "250 mm"
material = "C30/37"
{rest}
"""


SOUTH = "building.walls[0]"
CASES: dict[str, tuple[str, tuple[str, ...]]] = {
    "unknown crossing": (put('["A2", "A3"]', '["A2", "A9"]'), (f"{SOUTH}.between (line", "'A9'")),
    "no length": (put('["A2", "A3"]', '["A2", "A2"]'), (f"{SOUTH}.between", "shorter than 0.5 m")),
    "three ends": (put('["A2", "A3"]', '["A2", "A3", "A4"]'), (f"{SOUTH}.between", "2")),
    "points of three": (put('["A2", "A3"]', "[[0, 0, 0], [5, 0, 0]]"), (f"{SOUTH}.between",)),
    "same name": (put('name = "east"', 'name = "south"'), (
        "building.walls[1].name", "stands twice", "name them apart")),
    "unknown level": (put('name = "south"\n', 'name = "south"\nlevels = "L1..L7"\n'), (
        f"{SOUTH}.levels (line", "'L7'", "known: L1, L2, L3")),
    "unknown material": (put('material = "C30/37"\nopenings', 'material = "C31/37"\nopenings'), (
        f"{SOUTH}.material (line", "did you mean 'C30/37'")),
    "millimeters for meters": (put('thickness = "250 mm"', "thickness = 250"), (
        f"{SOUTH}.thickness", "250 m is out of range")),
    "swapped": (put('thickness = "250 mm"', "thickness = 7"), (
        f"{SOUTH}.thickness", "7 m thick and 6 m long", "are they swapped?")),
    "no thickness in a story": (put('{ L1 = "300 mm", "L2..L3" = "250 mm" }', '{ L1 = "300 mm" }'),
                                ("building.walls[1].thickness", "says nothing of L2 and 1 more")),
    "thickness of no level": (put('"L2..L3" = "250 mm"', '"L2..L4" = "250 mm"'), (
        "building.walls[1].thickness", "'L4'")),
    "opening over the end": (opening("from_start = 5.2, width = 1.2, height = 2.2"), (
        f"{SOUTH}.openings[0]", "6.4 m from the start", "6 m long", "make it narrower")),
    "opening over the story": (opening("from_start = 2.0, width = 1.2, height = 3.6"), (
        f"{SOUTH}.openings[0]", "3.6 m above the floor in the story of L2", "3.2 m high")),
    "opening before the start": (opening("from_start = -1, width = 1.2, height = 2.2"), (
        f"{SOUTH}.openings[0]", "values of 0 or more")),
    "opening below the floor": (opening(
        "from_start = 1, width = 1.2, height = 2.2, sill = -0.2"), (f"{SOUTH}.openings[0]",)),
    "opening without width": (opening("from_start = 1, width = 0, height = 2.2"), (
        f"{SOUTH}.openings[0].width", "greater than 0")),
    "opening without height": (opening("from_start = 1, width = 1"), (
        f"{SOUTH}.openings[0].height", "missing")),
    "nothing of the wall is left": (opening("at = \"L2\", from_start = 0, width = 6, height = 3.2"),
                                    (f"{SOUTH}.openings[0]", "leaves nothing", "leave the story")),
    "slit at the end": (opening("from_start = 4.77, width = 1.2, height = 2.2"), (
        f"{SOUTH}.openings[0]", "strip of 0.03 m at its end")),
    "slit at the start": (opening("from_start = 0.02, width = 1.2, height = 2.2"), (
        f"{SOUTH}.openings[0]", "strip of 0.02 m at the start")),
    "slit under the window": (opening("from_start = 2, width = 1.2, height = 2.2, sill = 0.01"), (
        f"{SOUTH}.openings[0]", "strip of 0.01 m under it")),
    "slit over the door": (opening('at = "L2", from_start = 2, width = 1.2, height = 3.17'), (
        f"{SOUTH}.openings[0]", "strip of 0.03 m over it in the story of L2")),
    "openings in each other": (put(DOOR, "openings = [{ from_start = 2, width = 1.2, height = 2.2 }"
                                   ", { from_start = 2.5, width = 1, height = 1, sill = 1 }]"), (
        f"{SOUTH}.openings[1]", "overlaps another opening", "make one of both")),
    "slit between openings": (put(DOOR, "openings = [{ from_start = 2, width = 1, height = 2.2 }, "
                                  "{ from_start = 3.02, width = 1, height = 2.2 }]"), (
        f"{SOUTH}.openings[1]", "strip of 0.02 m to another opening")),
    "opening of another story": (put('name = "south"\n', 'name = "south"\nlevels = "L1"\n').replace(
        "{ from_start = 2.0", '{ at = "L2", from_start = 2.0'), (
        f"{SOUTH}.openings[0].at", "does not stand in the story of L2")),
    "opening of no story": (opening('at = "L8", from_start = 2, width = 1.2, height = 2.2'), (
        f"{SOUTH}.openings[0].at", "'L8'")),
    "walls in each other": (more("twin", '[[7, 0], [11, 0]]'), (
        "building.walls[4].between", "'twin' and 'south' stand in each other over 4 m")),
    "walls that all but meet": (more("near", '[[15, 0.05], [15, 5]]').replace("[15, 0.05]",
                                                                            "[12.05, 3.0]").replace(
        "[15, 5]", "[18, 3.0]"), ("building.walls[4].between", "0.05 m from wall 'east'",
                                  "and does not meet it")),
    "on nothing": (more("flying", '["C1", "C2"]', 'levels = "L2..L3"'), (
        "building.walls[4].levels", "stands on nothing at L1", "carry it down")),
    "with a gap": (more("gap", '["C1", "C2"]', 'levels = "L1, L3"'), (
        "building.walls[4].levels", "stands on nothing at L2")),
    "core of no wall": (put('"north", "west"]', '"north", "vest"]'), (
        "building.cores.lift", "'vest' is not among the walls", "did you mean 'west'")),
    "core twice": (put('"north", "west"]', '"north", "west", "west"]'), (
        "building.cores.lift", "'west' stands twice")),
    "core that hangs apart": (more("far", '["C1", "C2"]').replace('"west"]', '"west", "far"]'), (
        "building.cores.lift", "'far' stands apart", "make two cores")),
    "core named as a wall": (put("lift =", "south ="), ("building.cores.south",
                                                        "is the name of a wall")),
    "wall in two cores": (put("[building.axes]", 'other = ["west"]\n[building.axes]'), (
        "building.cores.other", "'west' is part of core 'lift' already")),
    "core without walls": ("\n".join(line for line in WALLS.split("[[building.walls]]")[:1]), (
        "building.cores", "no walls")),
    "shares without a reason": (put(DOOR, DOOR + "\nkept = { bending = 0.5 }"), (
        f"{SOUTH}.kept.reason", "missing")),
    "shares of no standard": (put(DOOR, DOOR + '\nkept = "by standard"'), (
        f"{SOUTH}.kept", "names no shares for cracked walls", "reason")),
    "share above one": (put(DOOR, DOOR + '\nkept = { bending = 1.5, reason = "r" }'), (
        f"{SOUTH}.kept.bending", "at most 1")),
    "a mesh of a million": (put("[building]\n", "[building]\nwall_mesh = 0.05\n").replace(
        'between = ["A2", "A3"]', 'between = ["A2", "A3"]\nmesh = 0.001'), (f"{SOUTH}.mesh",)),
    "too fine": (put("[building]\n", "[building]\nwall_mesh = 0.05\n").replace(
        'heights = { L1 = 4.0, "L2..L3" = 3.2 }', 'heights = { "L1..L40" = 3.2 }').replace(
            '{ L1 = "300 mm", "L2..L3" = "250 mm" }', '"250 mm"'), (
        "building.wall_mesh", "panels", "no more than 300000")),
    "floor of no material": (put(FLOOR, 'L1 = { deforms = "200 mm", material = "C30" }'), (
        "building.diaphragms.L1.material", "'C30' is not among the materials")),
    "floor by two ways": (put(FLOOR, 'L1 = { deforms = "200 mm", material = "C30/37", '
                              "shear_stiffness = 5000 }"), (
        "building.diaphragms.L1", "either deforms", "or shear_stiffness")),
    "floor without a material": (put(FLOOR, 'L1 = { deforms = "200 mm" }'), (
        "building.diaphragms.L1", "name it beside its thickness")),
    "floor of no level": (put(FLOOR, FLOOR.replace("L1", "L9")), ("building.diaphragms", "'L9'")),
    "line under a floor without a diaphragm": (put("[building]\n", '[building]\nlines = [{ name = '
        '"l", at = [1, 1], direction = "X", bottom = "Base", top = "L1", stiffness = 1e5 }]\n'
        ).replace(FLOOR, 'L1 = "none"').replace(
            "[building.stories]\n", '[building.stories]\nbase = "Base"\n'), (
        "building.lines[0]", "not rigid as a whole")),
    "line beside a floor that deforms": (put("[building]\n", '[building]\nlines = [{ name = "l", '
        'at = [-9, 1], direction = "X", bottom = "Base", top = "L1", stiffness = 1e5 }]\n').replace(
            "[building.stories]\n", '[building.stories]\nbase = "Base"\n'), (
        "building.lines[0].at", "beside the floor of level 'L1'", "extend the outline")),
    "table of walls missing": (put("[building]\n", '[building]\nwalls_file = "none.csv"\n'), (
        "building.walls_file", "there is no file 'none.csv'")),
}


@pytest.mark.parametrize("name", CASES)
def test_the_message_names_place_value_and_cure(name: str, tmp_path: Path) -> None:
    text, wanted = CASES[name]
    path = tmp_path / "walls.toml"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(UndatumError) as caught:
        ud.read(path).building.frame  # noqa: B018
    said = str(caught.value)
    for part in wanted:
        assert part in said, said
    assert not lacking(caught.value)


def test_the_sound_one_passes(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "walls.toml"
    path.write_text(WALLS, encoding="utf-8")
    assert command(["check", str(path)]) == 0
