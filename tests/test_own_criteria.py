"""Criteria of one's own from a file."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from undatum.results.results import Results

HERE = Path(__file__).parent.parent / "examples" / "owner"
G = 9.80665


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for name in ("criteria.toml", "control_building.toml"):
        shutil.copy(HERE / name, tmp_path / name)
    return tmp_path


def run(folder: Path) -> Results:
    path = folder / "control_building.toml"
    return ud.run(ud.read(path), path.parent)


def test_every_rule_of_the_file_is_used(folder: Path) -> None:
    r = run(folder)
    assert r.standard_title == "Plant criteria PC-7"
    s = r.spectrum
    t = np.array([0.0, 0.3, 0.6, 1.2, 4.0, 8.0])
    assert s(t) / G / 1.3 == pytest.approx([0.3, 0.75, 0.75, 0.375, 0.1125, 0.45 * 4 / 64])
    x = r.statics["X", "strength"].shear
    approximate = 0.0724 * 11.8**0.8
    mode = float(r.modes.periods[r.modes.governing(0)])
    assert x.period == pytest.approx(min(mode, 1.3 * approximate))
    assert x.coefficient == pytest.approx(max(float(s(x.period)) / G / 4.0, 0.03))
    drift = r.statics["X", "drift"].shear
    assert drift.period == pytest.approx(mode)
    f = r.statics["X", "strength"]
    raw = f.weights * f.heights**1.2
    assert f.forces == pytest.approx(x.base_shear * raw / raw.sum())
    assert r.drift.limits[0] == 0.015
    assert r.laterals["Y"].drift_factor == 3.0
    assert r.rules.directional_combination == "SRSS"
    live = next(w for w in r.weights.lines if w.kind == "live")
    assert live.counted == pytest.approx(0.1 * live.amount)
    for scale in r.scaling:
        assert scale.answer.factor >= 1.0
        if scale.state.key == "drift":
            assert scale.answer.factor == 1.0
    for section in r.working:
        for step in section:
            if step.formula:
                assert step.evaluate() == pytest.approx(step.value, rel=1e-12)


def test_criteria_that_repeat_a_standard_give_its_base_shear(folder: Path) -> None:
    """ASCE 7-16 for class C, S_S = 1, S_1 = 0.4, steel frames, written as criteria."""
    (folder / "criteria.toml").write_text("""
title = "Copy of a standard"
source = "test"
period_cap = 1.4
eccentricity = 0.05
[spectrum]
short = 0.8
one_second = 0.4
long_period = 8.0
[systems."steel frame"]
divisor = 8.0
drift_factor = 5.5
period_coefficient = 0.07243
period_exponent = 0.8
[systems."steel bracing"]
divisor = 6.0
drift_factor = 5.0
period_coefficient = 0.04876
[weight]
live = 0.0
[drift]
all = 0.02
""", encoding="utf-8")
    path = folder / "control_building.toml"
    text = path.read_text(encoding="utf-8").replace('importance = "process"', "").replace(
        '"process structures"', '"all"')
    path.write_text(text, encoding="utf-8")
    own = run(folder)
    from conftest import starter_text

    (folder / "starter.toml").write_text(starter_text("starter"), encoding="utf-8")
    standard = ud.run(ud.read(folder / "starter.toml"))
    for d in ("X", "Y"):
        for p in ("strength", "drift"):
            mine, theirs = (r.statics[d, p].shear.coefficient for r in (own, standard))  # type: ignore[index]
            assert mine == pytest.approx(theirs, rel=1e-3)
        axis = "XY".index(d)
        assert own.dynamic[axis].base_shear == pytest.approx(standard.dynamic[axis].base_shear)


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("short = 0.75", "shrot = 0.75", r"spectrum\.shrot \(line 20\).*did you mean 'short'"),
        ("short = 0.75", "short = -1", r"spectrum\.short \(line 20\).*out of range"),
        ("divisor = 4.0", "divisor = 0", r"divisor \(line 29\)"),
        ("storage = 0.5", "storage = 50", "not the share of a known kind"),
        ("storage = 0.5", "sotrage = 0.5", "not the share of a known kind"),
        ('"offices" = 0.010', '"offices" = 10', "not a ratio of drift"),
        ("one_second = 0.45", "periods = [0.0, 1.0]\naccelerations = [1.0, 0.5]",
         "give short and one_second, or periods"),
        ("[spectrum]", "[spectrum", "cannot be read"),
    ],
)
def test_wrong_criteria_name_their_place(folder: Path, old: str, new: str, words: str) -> None:
    path = folder / "criteria.toml"
    text = path.read_text(encoding="utf-8")
    assert old in text
    path.write_text(text.replace(old, new), encoding="utf-8")
    if "periods" in new:  # both ways at once
        path.write_text(text.replace(old, f"{old}\n{new}"), encoding="utf-8")
    with pytest.raises(ud.InputError) as caught:
        run(folder)
    import re

    assert re.search(words, str(caught.value).replace("\n", " ")), str(caught.value)


def test_missing_criteria_and_names(folder: Path) -> None:
    path = folder / "control_building.toml"
    text = path.read_text(encoding="utf-8")
    path.write_text(text.replace('"criteria.toml"', '"critera.toml"'), encoding="utf-8")
    with pytest.raises(ud.InputError, match=r"critera\.toml cannot be read"):
        run(folder)
    path.write_text(text.replace('"steel frame"', '"steel fram"'), encoding="utf-8")
    with pytest.raises(ud.InputError, match="did you mean 'steel frame'"):
        run(folder)
    path.write_text(text.replace('"process"', '"proces"'), encoding="utf-8")
    with pytest.raises(ud.InputError, match="choose from: ordinary, process"):
        run(folder)


def test_a_table_of_ordinates(folder: Path) -> None:
    path = folder / "criteria.toml"
    text = path.read_text(encoding="utf-8")
    text = text.replace("short = 0.75\none_second = 0.45\nlong_period = 4.0\n",
                        "periods = [0.0, 0.2, 0.6, 4.0]\naccelerations = [0.3, 0.8, 0.8, 0.1]\n")
    path.write_text(text, encoding="utf-8")
    r = run(folder)
    assert r.spectrum([0.1, 0.4]) / G / 1.3 == pytest.approx([0.55, 0.8])
