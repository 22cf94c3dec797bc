"""A whole code written as criteria: the same numbers and verdicts as its room, on a bank of
buildings; and what a formula may not be."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import shear_building
from undatum.results.results import Results
from undatum.standards.facts import LoadFacts
from undatum.standards.own import OwnCriteria

FILE = Path(ud.__file__).parents[2] / "examples" / "owner" / "code_by_formulas.toml"
K, M = 6e7, 2e5
LOADS = [ud.Load(name="slab", kind="dead", per_area=5e3),
         ud.Load(name="snow", kind="snow", per_area=1.2e3),
         ud.Load(name="desks", kind="live", per_area=2.4e3),
         ud.Load(name="files", kind="storage", per_area=6e3),
         ud.Load(name="walls", kind="partition", per_area=0.3e3)]


def twisted(share: float) -> ud.Building:
    return shear_building([K] * 3, [M] * 3, lines_x=[(0.0, share), (6.0, 1 - share)])


def loaded() -> ud.Building:
    b = shear_building([K] * 3, [M] * 3)
    levels = [x.model_copy(update={"loads": tuple(LOADS)}) for x in b.levels[:-1]]
    return ud.Building(levels=[*levels, b.levels[-1]], lines=b.lines)


BANK = {
    "stiff": shear_building([9e8] * 2, [M] * 2), "three": shear_building([K] * 3, [M] * 3),
    "twelve": shear_building([2 * K] * 12, [M] * 12, height=3.6),
    "soft": shear_building([K, K, K, 0.5 * K], [M] * 4),
    "heavy": shear_building([K, K, K, 0.7 * K], [M, M, M, 1.7 * M]),
    "twisted": twisted(0.8), "hardly twisted": twisted(0.62), "loaded": loaded(),
    "tall and twisted": shear_building([K] * 8, [M] * 8, lines_x=[(0.0, 0.8), (6.0, 0.2)]),
    "very soft": shear_building([0.05 * K] * 5, [M] * 5),
}


def both(b: ud.Building) -> tuple[Results, Results]:
    row = {"row": "3.1a", "regular": False, "r_max": 0.1}
    room = ud.analyze(title="t", standard="ubc97", results_in="kN and m", building=b, site={
        "zone": "2B", "soil": "SD", "occupancy_category": "standard"}, system={"X": row, "Y": row})
    own = {"row": "steel special moment frame"}
    made = ud.make_project(title="t", standard=FILE.name, results_in="kN and m", building=b,
                           site={}, system={"X": own, "Y": own}, folder=FILE.parent)
    return room, ud.run(made, FILE.parent)


def verdicts(r: Results) -> set[tuple[str, str, str]]:
    """Check, place and severity of what both can judge; what a room alone says is left out."""
    shared = ("story drift", "torsional", "soft story", "weight irregularity", "static procedure",
              "re-entrant", "out-of-plane", "nonparallel", "P-Delta", "vertical geometry",
              "weak story", "irregularities not judged")

    return {(f.check, f.where if f.severity.value != "ok" else f.where.split(",")[0],
             f.severity.value) for f in r.findings if f.check.startswith(shared)}


@pytest.mark.parametrize("name", BANK)
def test_a_code_as_formulas_says_what_its_room_says(name: str) -> None:
    room, own = both(BANK[name])
    assert own.weights.weight == pytest.approx(room.weights.weight)
    for key, static in room.statics.items():
        again = own.statics[key]
        assert again.shear.period == pytest.approx(static.shear.period)
        assert again.shear.coefficient == pytest.approx(static.shear.coefficient)
        assert again.forces == pytest.approx(static.forces)
    for d in ("X", "Y"):
        assert own.diaphragms[d] == pytest.approx(room.diaphragms[d])  # type: ignore[index]
        one, other = own.torsion[d], room.torsion[d]  # type: ignore[index]
        assert one.answer.kind == other.answer.kind
        assert one.factors == pytest.approx(other.factors)
        assert own.drift.largest_use(d) == pytest.approx(room.drift.largest_use(d))
    assert own.drift.limits == pytest.approx(room.drift.limits)
    for one_, other_ in zip(own.scaling, room.scaling, strict=True):
        assert one_.answer.factor == pytest.approx(other_.answer.factor)
    for a, b in zip(own.stability, room.stability, strict=True):
        assert a.answer.coefficient == pytest.approx(b.answer.coefficient)
    rows = [x for x in room.combinations.rows if x.kind == "strength"]  # type: ignore[union-attr]
    again_rows = own.combinations.rows  # type: ignore[union-attr]
    assert [(x.dead, x.live, x.snow, x.quake) for x in again_rows] == [
        (pytest.approx(x.dead), x.live, x.snow, pytest.approx(x.quake)) for x in rows]
    assert verdicts(own) == verdicts(room)
    for section in own.working:
        for step in section:
            if step.formula:
                assert step.evaluate() == pytest.approx(step.value, rel=1e-12)


def test_shares_by_intensity_and_on_the_roof() -> None:
    text = FILE.read_text("utf-8").replace(
        "live = 0.0", 'live = { share = 0.5, above = "3 kPa", otherwise = 0.25, on_roof = 0.0 }')
    room = OwnCriteria("c.toml", text)
    rule = room.weight(room.site_input())
    for kpa, on_roof, share in ((3.0, False, 0.25), (3.01, False, 0.5), (None, False, 0.5),
                                (3.01, True, 0.0), (2.0, True, 0.0)):
        facts = LoadFacts("live", None if kpa is None else kpa * 1e3, on_roof)
        assert rule.share(facts).share == share
    least = rule.share(LoadFacts("partition", 100.0, False)).minimum
    assert least == pytest.approx(478.8, rel=1e-3)


# -- what a formula may not be ---------------------------------------------------------------------

@pytest.mark.parametrize(("old", "new", "text"), [
    ('"2.5 * C_a * I / R"', '"2.5 * C_b * I / R"', "uses 'C_b'"),
    ('"2.5 * C_a * I / R"', '"__import__(1)"', "calls '__import__'"),
    ('"2.5 * C_a * I / R"', '"9 ** 9 ** 9"', "neither a symbol nor a number"),
    ('"2.5 * C_a * I / R"', '"T ** 200"', "neither a symbol nor a number"),
    ('"2.5 * C_a * I / R"', '"2.5 *"', "can't be read"),
    ('"2.5 * C_a * I / R"', '"' + "1 + " * 80 + '1"', "at most 200 letters"),
    ("C_a = 0.28", "T = 0.28", "symbol of something else"),
    ("C_a = 0.28", '"C a" = 0.28', "is no symbol"),
    ("height_exponent = 1.0", "height_exponent = 4.0", "not from 0 to 3"),
    ("{ below_period = 0.7, ratio = 0.025 }, { ratio = 0.020 }",
     "{ below_period = 0.7, ratio = 0.025 }", "no step is left for long periods"),
    ("regular_height = \"240 ft\"\nirregular_height = \"65 ft\"\nirregular_stories = 5", "",
     "procedures has no bound"),
])
def test_a_wrong_formula_is_told_at_its_place(
    old: str, new: str, text: str, tmp_path: Path
) -> None:
    whole = FILE.read_text("utf-8")
    assert old in whole
    (tmp_path / "c.toml").write_text(whole.replace(old, new, 1), "utf-8")
    with pytest.raises(ud.InputError, match=text):
        ud.make_project(title="t", standard="c.toml", building=BANK["three"], site={},
                        system={d: {"row": "steel special moment frame"} for d in "XY"},
                        folder=tmp_path)


@pytest.mark.parametrize(("old", "new", "place"), [
    ('"2.5 * C_a * I / R"', '"1 / (I - 1)"', r"forces.branches\[1\].coefficient"),
    ('"2.5 * C_a * I / R"', '"0 - T"', r"forces.branches\[1\].coefficient"),
    ('"2.5 * C_a * I / R"', '"sqrt(0 - T)"', r"forces.branches\[1\].coefficient"),
    ('"min(0.07 * T, 0.25)"', '"2 * T"', r"forces.top"),
])
def test_what_a_formula_can_not_give_is_told_where_it_stands(
    old: str, new: str, place: str, tmp_path: Path
) -> None:
    (tmp_path / "c.toml").write_text(FILE.read_text("utf-8").replace(old, new, 1), "utf-8")
    project = ud.make_project(title="t", standard="c.toml", building=BANK["twelve"], site={},
                              system={d: {"row": "steel special moment frame"} for d in "XY"},
                              folder=tmp_path)
    with pytest.raises(ud.InputError, match=place):
        ud.run(project, tmp_path)


@settings(deadline=None, max_examples=10)
@given(st.sampled_from(["stiff", "three", "twelve", "very soft"]), st.floats(0.1, 0.9))
def test_the_exponent_may_be_a_formula_in_t(name: str, slope: float) -> None:
    """F = V w h^k / sum, k = clip(0.75 + slope T, 1, 2), by hand."""
    with tempfile.TemporaryDirectory() as folder:
        text = FILE.read_text("utf-8").replace(
            "height_exponent = 1.0", f'height_exponent = "clip(0.75 + {slope!r} * T, 1, 2)"')
        (Path(folder) / "c.toml").write_text(text.replace("top =", "# top =").replace(
            "top_above =", "# top_above ="), "utf-8")
        own = {"row": "steel special moment frame"}
        project = ud.make_project(title="t", standard="c.toml", building=BANK[name], site={},
                                  system={"X": own, "Y": own}, folder=folder)
        for static in ud.calculate(project).statics.values():
            k = min(max(0.75 + slope * static.shear.period, 1.0), 2.0)
            raw = static.weights * static.heights**k
            assert static.forces == pytest.approx(static.shear.base_shear * raw / raw.sum())


def test_by_command_with_the_example(tmp_path: Path, command: Any) -> None:
    shutil.copy(FILE, tmp_path / FILE.name)
    source = (FILE.parent / "control_building.toml").read_text("utf-8")
    text = source.replace('"criteria.toml"', f'"{FILE.name}"')
    for row in ("steel frame", "steel bracing"):
        text = text.replace(f'row = "{row}"', 'row = "steel special moment frame"')
    text = "\n".join(line for line in text.splitlines()
                     if not line.startswith(("importance", "structure")))
    (tmp_path / "b.toml").write_text(text, "utf-8")
    assert command(["run", str(tmp_path / "b.toml"), "--out", str(tmp_path / "out")]) in (0, 1)
    record = (tmp_path / "out" / "record.html").read_text("utf-8")
    assert "Eq. 30-4" in record
    assert np.isfinite(ud.load(tmp_path / "out").statics["X", "strength"].shear.coefficient)
