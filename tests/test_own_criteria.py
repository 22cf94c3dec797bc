"""Criteria of one's own from a file."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

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


# -- several hazards, and a divisor that hangs on the period ---------------------------------------

MORE = """
[limit_states.frequent]
spectrum_factor = 0.4
drift = { "process structures" = 0.004, "offices" = 0.006 }
[limit_states.rare]
drift = 0.05
drift_factor = 1.1
importance = false
[limit_states.rare.spectrum]
periods = [0.0, 0.2, 1.0, 4.0]
accelerations = [0.5, 1.2, 0.9, 0.2]
"""


def with_more(folder: Path, more: str = MORE, **changes: str) -> Results:
    text = (HERE / "criteria.toml").read_text("utf-8")
    for old, new in changes.values():
        assert old in text
        text = text.replace(old, new)
    (folder / "criteria.toml").write_text(text + more, "utf-8")
    return run(folder)


def test_every_hazard_has_its_own_drift_and_limit(folder: Path) -> None:
    """A share of the design spectrum, elastic: drift is that share times the divisor over the
    factor on drift; another spectrum: as criteria that have no other. The worst decides."""
    r = with_more(folder)
    plain = run_plain(folder)
    assert [s.key for s in r.states] == ["strength", "drift", "frequent", "rare"]
    assert r.drifts["frequent"].limits[0] == 0.004
    assert r.drifts["rare"].limits[:2] == pytest.approx([0.05, 0.05])
    usual, frequent = r.drifts["drift"], r.drifts["frequent"]
    for d, divisor in (("X", 4.0), ("Y", 3.0)):  # in Y the factor on drift is the divisor
        one, two = (check.elastic[[k for k, name in enumerate(check.sets)
                                   if name.startswith(f"spectrum {d},")]] for check in (
            usual, frequent))
        assert two == pytest.approx(0.4 * divisor * one)
    assert set(frequent.factors) == {1.0}
    shear = r.statics["Y", "frequent"].shear
    assert shear.coefficient == pytest.approx(0.4 * float(r.spectrum(shear.period)) / G)
    rare = r.statics["Y", "rare"].shear
    assert rare.coefficient == pytest.approx(
        np.interp(rare.period, [0.0, 0.2, 1.0, 4.0], [0.5, 1.2, 0.9, 0.2]))
    other = with_more(folder, "", spectrum=(
        "short = 0.75\none_second = 0.45\nlong_period = 4.0",
        "periods = [0.0, 0.2, 1.0, 4.0]\naccelerations = [0.5, 1.2, 0.9, 0.2]"),
        process=("process = 1.3", "process = 1.0"), least=("least_base_shear = 0.03", ""),
        bracing=("divisor = 3.0\ndrift_factor = 3.0", "divisor = 1.0\ndrift_factor = 1.1"))
    alone = next(f for f in other.findings if f.check == "story drift Y, spectrum")
    here = next(f for f in r.findings if f.check == "story drift Y, spectrum, rare")
    assert here.demand == pytest.approx(alone.demand, rel=1e-9)
    shears = {s.state.key: s.modal_base_shear for s in r.scaling if s.direction == "Y"}
    assert shears["frequent"] == pytest.approx(0.4 * 3.0 * shears["strength"])
    assert shears["drift"] == pytest.approx(shears["strength"])
    # what is judged in the design earthquake is as it was
    assert r.drifts["drift"].use == pytest.approx(plain.drifts["drift"].use, nan_ok=True)
    most = {key: max(check.largest_use(d) for d in "XY") for key, check in r.drifts.items()}
    assert r.drift is r.drifts[max(most, key=most.__getitem__)]
    assert r.drift.state.key == "frequent"


def run_plain(folder: Path) -> Results:
    shutil.copy(HERE / "criteria.toml", folder / "criteria.toml")
    return run(folder)


def test_a_divisor_by_period(folder: Path) -> None:
    """The ordinate at every period over the divisor there, static and in every mode."""
    rule = 'divisor = 4.0\ndivisor_by_period = "min(R, 1 + (R - 1) * T / tau)"'
    r = with_more(folder, "[values]\ntau = 1.5\n", steel=("divisor = 4.0", rule))
    plain = run_plain(folder)

    def divisor(t: Any) -> Any:
        return np.minimum(4.0, 1 + 3.0 * np.asarray(t) / 1.5)

    x = r.statics["X", "strength"].shear
    assert x.coefficient == pytest.approx(float(r.spectrum(x.period)) / G / divisor(x.period))
    assert r.statics["Y", "strength"].shear.coefficient == \
        plain.statics["Y", "strength"].shear.coefficient
    modes = next(s for s in r.dynamic if s.direction == "X"), next(
        s for s in plain.dynamic if s.direction == "X")
    t = r.modes.periods[: len(modes[0].modal)]
    assert np.abs(modes[0].modal) == pytest.approx(np.abs(modes[1].modal) * 4.0 / divisor(t))
    symbols = {step.symbol: step.value for section in r.working
               for step in section if section.key.direction == "X"}
    assert symbols["R_T"] == pytest.approx(divisor(r.statics["X", "drift"].shear.period))


@pytest.mark.parametrize(("more", "said"), [
    ("[limit_states.drift]\nspectrum_factor = 0.4\ndrift = 0.004\n", "no name of a further"),
    ("[limit_states.frequent]\ndrift = 0.004\n", "either spectrum_factor or spectrum"),
    ("[limit_states.frequent]\nspectrum_factor = 0.4\ndrift = 0.4\n", "write 0.005 for 0.5 %"),
    ("[limit_states.frequent]\nspectrum_factor = 0.4\ndrift = { offices = 0.004 }\n",
     "has no limit for 'process structures'"),
])
def test_limit_states_that_are_not_clear_are_refused(
    folder: Path, more: str, said: str
) -> None:
    with pytest.raises(ud.InputError, match=said):
        with_more(folder, more)


def test_a_divisor_that_names_what_it_may_not_is_refused(folder: Path) -> None:
    for wrong, said in (("S_a * T", "uses 'S_a'"), ("R - 100 * T", "no divisor above zero|gives")):
        with pytest.raises(ud.InputError, match=said):
            with_more(folder, "", steel=(
                "divisor = 4.0", f'divisor = 4.0\ndivisor_by_period = "{wrong}"'))
