"""Whole jobs that are wrong or odd: each is refused with its place and its cure, or runs to the end
and says what is odd."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

import undatum as ud
from conftest import Command, starter_text

pytestmark = pytest.mark.usefixtures("unpainted")

#: By name: the shipped project, lines put behind its text, replacements, and words of the message.
Odd = tuple[str, str, tuple[tuple[str, str], ...], tuple[str, ...]]

SET = '[[static_sets]]\nname = "wind"\ndirection = "X"\nreason = "wind study"\n'
COMBINATION = '[[combinations]]\nname = "own"\n'
EXPECTED = '[[expected]]\nname = "V"\nsource = "hand sheet"\n'

WRONG: dict[str, Odd] = {
    # forces of one's own
    "set without forces": ("clinic", SET, (), ("static_sets[0].on_levels",)),
    "set on no level": ("clinic", SET + 'on_levels = [{ at = "L17", X = 10 }]', (), (
        "static_sets[0].on_levels[0].at", "L17")),
    "set across its direction": ("clinic", SET + 'on_levels = [{ at = "Roof", Y = 10 }]', (), (
        "no force acts along X",)),
    "set of nothing": ("clinic", SET + 'on_levels = [{ at = "Roof" }]', (), ("nothing acts",)),
    "set named like the standard's": (
        "clinic", SET.replace('"wind"', '"spectrum X"') + 'on_levels = [{ at = "Roof", X = 1 }]',
        (), ("static_sets[0].name", "begins like")),
    "set in newtons": ("clinic", SET + 'on_levels = [{ at = "Roof", X = "3 kPa" }]', (), (
        "does not measure a force",)),
    "set without a reason": ("clinic", SET.replace('reason = "wind study"\n', "")
                             + 'on_levels = [{ at = "Roof", X = 1 }]', (), ("reason",)),
    "eccentricity of a percent sign too few": (
        "clinic", SET + 'eccentricity = 5\non_levels = [{ at = "Roof", X = 1 }]', (), (
            "static_sets[0].eccentricity", "at most 1")),
    "set across a plane building": (
        "arcade", SET.replace('"X"', '"Y"') + 'on_levels = [{ at = "Roof", Y = 10 }]', (), (
            "across the plane",)),
    # combinations of one's own
    "combination of nothing": ("clinic", COMBINATION, (), ("nothing acts",)),
    "combination twice": ("clinic", 2 * (COMBINATION + "factors = { dead = 1 }\n"), (), (
        "combinations[1].name", "stands twice")),
    "factor on what is not there": ("clinic", COMBINATION + "factors = { wind = 1.5 }", (), (
        "combinations[0].factors.wind", "no kind of load")),
    "factor of the sign too many": ("clinic", COMBINATION + "factors = { dead = 120 }", (), (
        "combinations[0].factors.dead", "out of range")),
    "set that is not there": ("clinic", COMBINATION + 'sets = { "static Z" = 1 }', (), (
        "combinations[0].sets.static Z",)),
    "set for drift in a combination": (
        "clinic", COMBINATION + 'sets = { "spectrum X, drift" = 1 }', (), ("is for drift",)),
    "vertical that is not analyzed": ("clinic", COMBINATION + "earthquake = { Z = 1 }", (), (
        "combinations[0].earthquake.Z", "analysis.vertical_spectrum")),
    "other direction of a plane building": ("arcade", COMBINATION + "earthquake = { Y = 1 }", (), (
        "across the plane",)),
    # values one knows
    "expected in no table": ("clinic", EXPECTED + 'table = "scalings"\ncolumn = "factor"\n'
                             "value = 1", (), ("scalings", "did you mean 'scaling'")),
    "expected in no column": ("clinic", EXPECTED + 'table = "scaling"\ncolumn = "faktor"\n'
                              "value = 1", (), ("faktor",)),
    "expected in several rows": ("clinic", EXPECTED + 'table = "scaling"\ncolumn = "factor"\n'
                                 "value = 1", (), ("expected[0]",)),
    "expected of another dimension": (
        "clinic", EXPECTED + 'table = "weight_levels"\ncolumn = "weight"\nvalue = "3 m"\n'
        'where = { level = "Roof" }', (), ("expected[0].value",)),
    # the record
    "record of members that are none": (
        "clinic", '[record]\nreadings = [{ which = "columns" }]', (), (
        "there are none on axes",)),
    "record of an axis that is none": ("terrace", '[record]\ndiagrams = ["F"]', (), (
        "record.diagrams[0]", "'F'")),
    "record of no member": ("terrace", '[record]\nreadings = [{ which = "columns on 9" }]', (), (
        "record.readings[0].which",)),
    # drift
    "own limit without a reason": ("clinic", '[drift.own_limit]\nratio = 0.01\nof = "design"', (), (
        "drift.own_limit.reason",)),
    "own limit in percent as a ratio": (
        "clinic", '[drift.own_limit]\nratio = 1.0\nof = "design"\nreason = "owner"', (), (
            "drift.own_limit.ratio", "at most 0.2")),
    "own limit of another drift": (
        "clinic", '[drift.own_limit]\nratio = 0.01\nof = "total"\nreason = "owner"', (), (
            "choose from: 'elastic'",)),
    "group of points that are none": (
        "clinic", '[drift.groups]\neast = ["corner 1", "corner 40"]', (), (
            "drift.groups.east", "'corner 40'")),
    "point off every number": ("clinic", '[[drift.points]]\nname = "a"\nat = [1]', (), (
        "drift.points[0].at",)),
    # ways of analysis
    "double sum without a duration": (
        "terrace", '[analysis]\nmodal_combination = "double sum"', (), ("duration go together",)),
    "duration without a double sum": ("terrace", "[analysis]\nduration = 12", (), (
        "duration go together",)),
    "duration in hertz": ("terrace", '[analysis]\nmodal_combination = "double sum"\n'
                          'duration = "12 Hz"', (), ("does not measure a time",)),
    "key frequencies the wrong way": ("terrace", "[analysis]\nrigid_between = [20, 2]", (), (
        "from the lower frequency",)),
    "one key frequency": ("terrace", "[analysis]\nrigid_between = [2]", (), (
        "analysis.rigid_between",)),
    "rigid parts of an absolute sum": (
        "terrace", '[analysis]\nmodal_combination = "absolute sum"\nrigid_between = [2, 20]', (), (
            "goes with CQC",)),
    "most unfavorable of an absolute sum": (
        "terrace", '[analysis]\nmodal_combination = "absolute sum"\nminor_component = 0.85', (), (
            "analysis.minor_component", "no most unfavorable direction")),
    "minor larger than major": ("terrace", "[analysis]\nminor_component = 1.4", (), (
        "analysis.minor_component",)),
    "shaking in meters": ("terrace", '[analysis]\nshaking = ["30 m"]', (), (
        "does not measure an angle",)),
    "no torsion without a reason": ("terrace", '[analysis]\naccidental_torsion = "none"', (), (
        "torsion_reason go together",)),
    "moved masses and angles": (
        "terrace", '[analysis]\nmoved_masses = "in place"\nshaking = ["30 deg"]', (), (
            "static moments",)),
    "vertical spectrum without mass": ("terrace", "[analysis]\nvertical_spectrum = true", (), (
        "building.vertical_mass",)),
    "least mass beyond reason": ("terrace", "[analysis]\nleast_mass = 0.7", (), (
        "analysis.least_mass",)),
    "damping of no member": ("terrace", '[analysis.damping_of]\n"braces on A" = 0.02', (), (
        "analysis.damping_of.braces on A",)),
    "no modes": ("terrace", "[analysis]\nmodes = 0", (), ("analysis.modes",)),
    "misspelt choice": ("terrace", "[analysis]\nvertical_spektrum = true", (), (
        "did you mean 'vertical_spectrum'",)),
    # the spectrum
    "factor without a reason": ("terrace", "[spectrum]\nfactor = 1.2", (), (
        "factor and factor_reason",)),
    "factor of nothing": ("terrace", '[spectrum]\nfactor = 0\nfactor_reason = "x"', (), (
        "spectrum.factor",)),
    "file that is not there": ("terrace", '[spectrum]\nfile = "none.csv"', (), ("none.csv",)),
    # members
    "deformation as a word": (
        "terrace", "", (('stiff_ends = 0.5', 'shear_deformation = "perhaps"'),), (
            "building.members[1].shear_deformation",)),
    "shift of one number": ("terrace", "", (('stiff_ends = 0.5', "shifted = 0.3"),), (
        "building.members[1].shifted",)),
    "shares for drift without a reason": (
        "terrace", "", (('stiff_ends = 0.5', "kept_for_drift = { bending_y = 0.5 }"),), (
            "building.members[1].kept_for_drift",)),
    "shares for drift by a standard that has none": (
        "terrace", "", (('stiff_ends = 0.5', 'kept_for_drift = "by standard"'),), (
            "kept_for_drift", "names no shares")),
    "rays without rings": ("terrace", "", ((
        'across_x = { names = "1..5", spacing = [7, 7, 7, 7] }',
        'rays = { names = "1..5", spacing = "20 deg" }'),), ("rays and rings",)),
    "crossing told in two ways": ("terrace", "", (
        ('names = "1..5", spacing = [7, 7, 7, 7]', 'names = ["1", "11", "3", "4", "5"], '
         "spacing = 7"), ('names = "A..D"', 'names = ["A", "A1", "C", "D"]'),
        ('["A1", "D5"]', '["A11", "D5"]')), ("building.outlines.low", "write the dash")),
    "vertical mass without members": ("clinic", "", (
        ("[building.outlines]", "[building]\nvertical_mass = true\n[building.outlines]"),), (
        "building.vertical_mass", "there are no members")),
    # the whole
    "two tables of analysis": ("terrace", "[analysis]\nmodes = 3\n[analysis]\nmodes = 4", (), (
        "analysis",)),
    "no such standard": ("terrace", "", (('"asce7-16"', '"asce7-17"'),), (
        "did you mean 'asce7-16'",)),
    "no such units": ("terrace", "", (('units = "kN and m"', 'units = "kN, mm"'),), ("units",)),
    "acceleration in percent": ("terrace", "", (("ss = 1.0", "ss = 100"),), ("site.ss",)),
    "a direction without a system": ("terrace", "", (('[system.Y]\nrow = "C.5"\n', ""),), (
        "system.Y", "is missing")),
    "no such row": ("terrace", "", (('[system.Y]\nrow = "C.5"', '[system.Y]\nrow = "C.55"'),), (
        "system.Y",)),
}


def put(case: Odd, folder: Path) -> Path:
    starter, more, changes, _ = case
    text = starter_text(starter)
    for old, new in changes:
        assert old in text, old
        text = text.replace(old, new, 1)
    path = folder / "job.toml"
    # tables of the file go on behind its own keys
    path.write_text(f"{text}\n{more}\n", encoding="utf-8")
    return path


@pytest.mark.parametrize("name", WRONG)
def test_a_wrong_job_says_where_and_what(name: str, tmp_path: Path, command: Command) -> None:
    path = put(WRONG[name], tmp_path)
    assert command(["run", str(path), "--out", str(tmp_path / "out")]) == 2
    said = " ".join(command.said.err.split())
    for word in WRONG[name][3]:
        assert word in said
    assert "Traceback" not in said
    assert not (tmp_path / "out").exists()


def test_there_are_enough_of_them() -> None:
    assert len(WRONG) >= 60


ODD: dict[str, Odd] = {
    "one mode": ("terrace", "[analysis]\nmodes = 1\nmass_target = 0.01", (), ()),
    "every mode": ("terrace", "[analysis]\nmass_target = 1.0", (), ()),
    "all of it at once": (
        "terrace", '[analysis]\nmodal_combination = "double sum"\nduration = 15\n'
        'rigid_between = [2, 20]\nshaking = ["30 deg", "-45 deg"]\nminor_component = 0.85\n'
        "residual_mass = true\nplain_sets = true\nleast_mass = 1e-4\n"
        'second_order = "by axial force"\n[drift]\nboth_directions = true\n'
        '[record]\nreadings = [{ which = "columns on B at L1" }]\n' + SET
        + 'eccentricity = 0.05\non_levels = [{ at = "L1..Roof", X = 30 }]\n' + COMBINATION
        + 'factors = { dead = 0.9 }\nsets = { "wind, +e, strength" = 1.6 }', (),
        ("double sum", "2 Hz to 20 Hz", "wind study")),
    "vertical under a standard without": (
        "terrace", "[analysis]\nvertical_spectrum = true\nvertical_divisor = 1.5\n"
        "[spectrum]\nvertical_share = 0.67",
        (("[building.axes]", "[building]\nvertical_mass = true\n[building.axes]"),),
        ("divided by 1.5",)),
    "torsion by masses": (
        "archive", "", (('moved_masses = "beside"', 'moved_masses = "in place"'),),
        ("it is modeled by masses moved both ways",)),
    "a factor, and drift of one's own": (
        "arcade", '[spectrum]\nfactor = 1.5\nfactor_reason = "old soil"\n[drift.own_limit]\n'
        'ratio = 0.002\nof = "elastic"\nreason = "glass"', (), ("old soil", "glass")),
}


@pytest.mark.parametrize("name", ODD)
def test_an_odd_job_runs_to_the_end(name: str, tmp_path: Path, command: Command) -> None:
    path = put(ODD[name], tmp_path)
    assert command(["run", str(path), "--out", str(tmp_path / "out"),
                 "--detail", "short"]) in (0, 1)
    said = " ".join(command.said.out.split())
    for word in ODD[name][3]:
        assert word in said
    back = ud.load(tmp_path / "out")
    again: Any = ud.run(ud.read(path))
    assert back == again
    page = (tmp_path / "out" / "record_short.html").read_text(encoding="utf-8")
    assert "nan" not in page.replace("nanometer", "").split("<body>")[1].lower().split()
