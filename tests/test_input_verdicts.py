"""What is fed in: replaced values, intensities of totals, places off the floor, checks up front."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

import undatum as ud
from conftest import OWN, ROOMS, SITE, Command, analyze, shear_building, starter_text, write_toml
from undatum import standards
from undatum.finding import Severity
from undatum.results.results import Results

pytestmark = pytest.mark.usefixtures("unpainted")

FRAME: dict[str, Any] = {"row": "C.1"}


def replaced(key: str, *own: dict[str, Any], site: tuple[dict[str, Any], ...] = (),
             building: ud.Building | None = None, **more: Any) -> Results:
    usual, system, *_ = ROOMS[key]
    return ud.analyze(
        title="test", standard=key, folder=OWN,
        site={**usual, **({"replace": list(site)} if site else {})},
        system={"X": {**system, "replace": list(own)}, "Y": system},
        building=building or shear_building([2e7] * 4, [2e5] * 4), **more)


# -- values of one's own ---------------------------------------------------------------------------


def test_a_value_of_ones_own_is_a_finding_with_its_effect() -> None:
    """R of 4 in place of 8 doubles the base shear in X; nothing changes in Y."""
    r = replaced("asce7-16", {"symbol": "R", "value": 4.0, "reason": "old welds"},
                 results_in="kip and ft")
    plain = replaced("asce7-16")
    found = [f for f in r.findings if f.check == "value of one's own"]
    assert len(found) == 1
    assert found[0].severity is Severity.NOTE
    assert found[0].where == "system.X.replace[0]"
    kip = 4448.2216152605
    before = plain.statics["X", "strength"].shear.base_shear / kip
    after = r.statics["X", "strength"].shear.base_shear / kip
    assert f"{before:.1f} to {after:.1f} kip in X (+{after / before - 1:.1%})" in found[0].text
    assert "in Y" not in found[0].text
    assert "4.0000 in place of 8.0000" in found[0].text
    assert "old welds" in found[0].text
    assert dict(r.summary())["Own values"].startswith("R in X ")
    assert "Own values" not in dict(plain.summary())
    site = ud.site_spectra(standard="asce7-16", site={
        **SITE, "replace": [{"symbol": "S_DS", "value": 0.5, "reason": "study"}]})
    assert [f.check for f in site.findings].count("value of one's own") == 1


def test_each_of_several_values_has_its_own_effect() -> None:
    """Without one of them, the other stays: 8/4 and 8/6 go together."""
    r = replaced("asce7-16", {"symbol": "R", "value": 4.0, "reason": "one"},
                 site=({"symbol": "I_e", "value": 1.5, "reason": "two"},))
    by = {f.where: f.text for f in r.findings if f.check == "value of one's own"}
    v = {d: r.statics[d, "strength"].shear.base_shear for d in ("X", "Y")}  # type: ignore[index]
    assert set(by) == {"site.replace[0]", "system.X.replace[0]"}
    assert "(+50.0%)" in by["site.replace[0]"]
    assert by["site.replace[0]"].count("(+50.0%)") == 2
    assert "(+100.0%)" in by["system.X.replace[0]"]
    assert v["X"] == pytest.approx(2 * v["Y"])


@pytest.mark.parametrize("order", [1, -1])
def test_values_of_one_table_keep_their_effects_in_any_order(order: int) -> None:
    """C_d bears on the displacements alone, R on the base shear, whichever stands first."""
    own = ({"symbol": "C_d", "value": 4.0, "reason": "one"},
           {"symbol": "R", "value": 4.0, "reason": "two"})[::order]
    texts = {f.where: f.text for f in replaced("asce7-16", *own).findings
             if f.check == "value of one's own"}
    for i, one in enumerate(own):
        said = "(+100.0%)" if one["symbol"] == "R" else "does not change the base shear"
        assert said in texts[f"system.X.replace[{i}]"]


@pytest.mark.parametrize(("key", "approximate"), [
    ("asce7-05", "T_a"), ("asce7-16", "T_a"), ("asce7-22", "T_a"), ("ubc97", "T_A"),
    ("criteria.toml", "T_a")])
def test_a_period_of_ones_own_is_held_to_the_cap(key: str, approximate: str) -> None:
    """Whether the period itself, the approximate one or the cap is replaced; waived by a key."""
    plain = replaced(key)
    section = plain.section("period", "X")
    cap = float(section["T_max"].value)  # type: ignore[arg-type]
    ta = float(section[approximate].value)  # type: ignore[arg-type]
    long = shear_building([2e6] * 4, [2e5] * 4)  # computed far beyond the cap
    for symbol, value in (("T", 5 * cap), ("T_max", 5 * cap), (approximate, 5 * ta)):
        own = {"symbol": symbol, "value": value, "reason": "measured on site"}
        held = replaced(key, own, building=long).statics["X", "strength"].shear
        assert held.period == pytest.approx(cap), symbol
        free = replaced(key, {**own, "beyond_cap": True}, building=long)
        assert free.statics["X", "strength"].shear.period > cap * 1.5, symbol
        small = {**own, "value": 0.5 * (ta if symbol == approximate else cap)}
        assert replaced(key, small).statics["X", "strength"].shear.period \
            <= 0.5 * cap * (1 + 1e-9), symbol
    computed = {"row": ROOMS[key][1]["row"], **ROOMS[key][1], "computed_period": False}
    own = {"symbol": approximate, "value": 5 * ta, "reason": "measured on site"}
    r = ud.analyze(title="t", standard=key, folder=OWN, site=ROOMS[key][0],
                   system={"X": {**computed, "replace": [own]}, "Y": computed}, building=long)
    assert r.statics["X", "strength"].shear.period == pytest.approx(cap)
    assert r.statics["Y", "strength"].shear.period == pytest.approx(ta)


LINES = [("A", "X", 0.0), ("B", "X", 6.0), ("1", "Y", 0.0), ("2", "Y", 10.0)]


def in_texts(key: str, units: str, own: dict[str, Any] | None) -> dict[str, Any]:
    """A project in which every dimensioned number carries its unit."""
    site, system, *_ = ROOMS[key]
    site = {k: f"{v} m" if k == "source_distance" else v for k, v in site.items()}
    plan = [[f"{x} m", f"{y} m"] for x, y in ((0, 0), (10, 0), (10, 6), (0, 6))]
    loads = [{"name": "floor", "kind": "dead", "total": "1900 kN"}]
    return {
        "title": "t", "units": units, "standard": key, "site": site,
        "system": {"X": {**system, **({"replace": [own]} if own else {})}, "Y": system},
        "building": {
            "levels": [*({"name": f"L{i}", "height": "3 m", "outline": plan, "loads": loads}
                         for i in (3, 2, 1)), {"name": "G", "outline": plan}],
            "lines": [{"name": name, "at": [f"{5 if d == 'X' else at} m",
                                            f"{at if d == 'X' else 3} m"],
                       "direction": d, "bottom": "G", "top": "L3", "stiffness": "2e7 N/m"}
                      for name, d, at in LINES]}}


@pytest.mark.parametrize("key", ROOMS)
def test_every_value_with_a_dimension_is_taken_in_the_units_of_the_file(
    key: str, tmp_path: Path
) -> None:
    """Plain in each unit system, or as a text with another unit: the same number in SI."""
    path = tmp_path / "p.toml"
    for extra in OWN.glob("*.toml"):
        (tmp_path / extra.name).write_text(extra.read_text(encoding="utf-8"), encoding="utf-8")

    def working(units: str, own: dict[str, Any] | None) -> Any:
        return ud.calculate(ud.read(write_toml(in_texts(key, units, own), path))).working

    sizes = {"kN and m": (1e3, 1.0), "kip and ft": (4448.2216152605, 0.3048),
             "kip and in": (4448.2216152605, 0.0254), "N and m": (1.0, 1.0)}
    lines = [(section.key, step) for section in working("N and m", None) for step in section
             if section.key.direction == "X" and step.replaceable
             and isinstance(step.value, float) and step.value and step.unit in ("force", "length")]
    assert any(step.unit == "force" for _, step in lines)
    for k, (at, step) in enumerate(lines):
        value = 0.9 * float(step.value)  # type: ignore[arg-type]
        own = {"symbol": step.symbol, "reason": "law", "section": str(at)}
        units, (force, length) = list(sizes.items())[k % len(sizes)]  # in turn
        given = value / (force if step.unit == "force" else length)
        if units == "kip and ft":
            given = f"{value / 1e3!r} {'kN' if step.unit == 'force' else 'km'}"
        found = next(s for s in working(units, {**own, "value": given}) if s.key == at)
        assert found[step.symbol].value == pytest.approx(value, rel=1e-9), (step.symbol, units)


def test_an_option_without_effect_says_so() -> None:
    r = replaced("asce7-16", {"symbol": "R", "value": 4.0, "reason": "old", "beyond_cap": True})
    assert "beyond_cap has no effect" in next(
        f.text for f in r.findings if f.check == "value of one's own")
    r = replaced("asce7-16", {"symbol": "T", "value": 0.5, "reason": "old", "beyond_cap": True})
    assert "no effect" not in next(
        f.text for f in r.findings if f.check == "value of one's own")


# -- loads and places ------------------------------------------------------------------------------


@pytest.mark.parametrize(("how", "given", "share"), [
    ("total", 378e3, 0.25), ("per_edge", 378e3 / 70.0, 0.25), ("per_area", 378e3 / 294.0, 0.25),
    ("total", 294 * 3001.0, 0.5), ("per_edge", 294 * 3001.0 / 70.0, 0.5),
    ("per_area", 3001.0, 0.5), ("total", 294 * 3000.0, 0.25)])
def test_a_total_is_judged_by_its_intensity(how: str, given: float, share: float) -> None:
    """IS 1893: 378 kN on 21 m by 14 m is 1.29 kN/m2, hence a quarter; above 3 kN/m2 half."""
    b = shear_building([2e8] * 2, [2e5] * 2, plan=(21.0, 14.0))
    live = ud.Load(**{"name": "rooms", "kind": "live", how: given})  # type: ignore[arg-type]
    b = b.model_copy(update={"levels": [
        b.levels[0], b.levels[1].model_copy(update={"loads": [*b.levels[1].loads, live]}),
        b.levels[2]]})
    r = replaced("is1893-2016", building=b)
    line = next(x for x in r.weights.lines if x.source == "rooms")
    assert line.share == share
    assert line.counted == pytest.approx(share * line.amount)


def test_a_load_at_a_point_has_no_intensity() -> None:
    b = shear_building([2e8] * 2, [2e5] * 2, plan=(21.0, 14.0))
    live = ud.Load(name="store", kind="live", total=1e4, at=(3.0, 3.0))
    b = b.model_copy(update={"levels": [
        b.levels[0], b.levels[1].model_copy(update={"loads": [*b.levels[1].loads, live]}),
        b.levels[2]]})
    line = next(x for x in replaced("is1893-2016", building=b).weights.lines
                if x.source == "store")
    assert line.share == 0.5


def off(building: ud.Building) -> list[tuple[str, str]]:
    return [(f.where, f.text) for f in analyze(building).findings if f.check == "place in plan"]


def test_what_lies_off_its_floor_is_questioned_with_its_distance() -> None:
    b = shear_building([6e7] * 2, [2e5] * 2, plan=(18.0, 12.0))
    assert off(b) == []
    far = b.lines[0].model_copy(update={"at": (180.0, 6.0)})
    assert off(b.model_copy(update={"lines": [far, *b.lines[1:]]})) == [
        ("building.lines[0].at", "Line X0 lies 162.0 m off the floor of level L2.")]
    facade = b.lines[2].model_copy(update={"at": (-0.4, 6.0)})
    assert off(b.model_copy(update={"lines": [*b.lines[:2], facade, b.lines[3]]})) == []

    def with_load(load: ud.Load, hole: bool = False) -> ud.Building:
        shape: Any = ud.Outline(points=[(0, 0), (18, 0), (18, 12), (0, 12)], holes=[
            [(4, 4), (8, 4), (8, 8), (4, 8)]] if hole else [])
        return b.model_copy(update={"levels": [
            b.levels[0].model_copy(update={"loads": [*b.levels[0].loads, load],
                                           "outline": shape}), *b.levels[1:]]})

    assert off(with_load(ud.Load(name="tank", kind="equipment", total=5e4, at=(21.0, 16.0)))) == [
        ("building.levels[0]", "Load tank lies 5.000 m off the floor of level L2.")]
    inside = ud.Load(name="pit", kind="equipment", total=5e4, at=(6.0, 6.0))
    assert off(with_load(inside)) == []
    assert off(with_load(inside, hole=True)) == [
        ("building.levels[0]", "Load pit lies 2.000 m off the floor of level L2.")]
    patch = ud.Load(name="plant", kind="equipment", per_area=5e3,
                    on=[(5, 5), (7, 5), (7, 7), (5, 7)])
    assert off(with_load(patch)) == []
    assert "Load plant lies 2.000 m off" in off(with_load(patch, hole=True))[0][1]
    beside = ud.Load(name="deck", kind="equipment", per_area=5e3,
                     on=[(16, 2), (21, 2), (21, 4), (16, 4)])
    assert "Load deck lies 3.000 m off" in off(with_load(beside))[0][1]


def test_a_drift_point_off_every_floor_is_refused_with_its_distance() -> None:
    with pytest.raises(ud.InputError, match="32 m off the nearest"):
        analyze(shear_building([6e7] * 2, [2e5] * 2, plan=(18.0, 12.0)),
                drift={"points": [{"name": "sign", "at": (50.0, 6.0)}]})


# -- check -----------------------------------------------------------------------------------------


def changed(tmp_path: Path, *pairs: tuple[str, str]) -> Path:
    text = starter_text("starter")
    for old, new in pairs:
        assert old in text
        text = text.replace(old, new)
    path = tmp_path / "p.toml"
    path.write_text(text, encoding="utf-8")
    return path


def test_check_accepts_a_site_without_a_building(command: Command) -> None:
    site = Path(__file__).parent.parent / "examples" / "located" / "site.toml"
    assert command(["check", str(site)]) == 0
    assert "a site without a building" in command.said.out


@pytest.mark.parametrize(("change", "words", "code"), [
    ((('row = "C.1"', 'row = "C.99"'),), "C.99", 2),
    ((('[system.X]', '[[site.replace]]\nsymbol = "I_e"\nvalue = 40\nreason = "none"\n\n'
       '[system.X]'),), "out of range", 2),
    ((('[system.Y]', '[[system.X.replace]]\nsymbol = "RR"\nvalue = 3\nreason = "none"\n\n'
       '[system.Y]'),), "RR", 2),
    ((('direction = "Y"', 'direction = "X"'),), "mechanism", 3)])
def test_check_finds_what_run_would_refuse(
    change: tuple[tuple[str, str], ...], words: str, code: int, tmp_path: Path, command: Command,
) -> None:
    path = changed(tmp_path, *change)
    said = []
    for asked in (["check", str(path)], ["run", str(path), "--out", str(tmp_path / "o")]):
        assert command(asked) == code, command
        done = command.said
        said.append((done.out + done.err).split("\n", 2)[1])
        assert words in done.out + done.err
    assert said[0] == said[1]
    assert not (tmp_path / "o").exists()


# -- choices, and several faults at once -----------------------------------------------------------


@pytest.mark.parametrize(("key", "written", "meant"), [
    ("asce7-16", {"site_class": "c"}, {"site_class": "C"}),
    ("asce7-16", {"site_class": "Class D"}, {"site_class": "D"}),
    ("asce7-16", {"risk_category": 2}, {"risk_category": "II"}),
    ("asce7-16", {"risk_category": "iii"}, {"risk_category": "III"}),
    ("is1893-2016", {"zone": 4}, {"zone": "IV"}),
    ("is1893-2016", {"zone": "zone v"}, {"zone": "V"}),
    ("is1893-2016", {"soil": 1}, {"soil": "I"}), ("is1893-2016", {"soil": "type III"},
                                                 {"soil": "III"}),
    ("is1893-2016", {"importance_factor": 1.5}, {"importance_factor": "1.5"}),
    ("is1893-2016", {"importance_factor": 1}, {"importance_factor": "1.0"}),
    ("ubc97", {"zone": 3}, {"zone": "3"}), ("ubc97", {"soil": "D"}, {"soil": "SD"}),
    ("ubc97", {"soil": "S_C"}, {"soil": "SC"}), ("ubc97", {"zone": "2b"}, {"zone": "2B"}),
    ("en1998", {"ground_type": "type b"}, {"ground_type": "B"}),
    ("en1998", {"importance_class": 3}, {"importance_class": "III"})])
def test_choices_are_taken_as_people_write_them(
    key: str, written: dict[str, Any], meant: dict[str, Any]
) -> None:
    found = standards.get(key).site_input(**{**ROOMS[key][0], **written})
    for name, value in meant.items():
        assert getattr(found, name) == value


@pytest.mark.parametrize(("key", "written"), [
    ("asce7-16", {"site_class": "G"}), ("asce7-16", {"risk_category": 7}),
    ("is1893-2016", {"importance_factor": 1.3}), ("ubc97", {"zone": 2}), ("ubc97", {"zone": True})])
def test_other_choices_are_refused_with_the_list(key: str, written: dict[str, Any]) -> None:
    with pytest.raises(ud.InputError, match="choose from") as caught:
        standards.get(key).site_input(**{**ROOMS[key][0], **written})
    assert "did you mean '1.3'" not in str(caught.value)
