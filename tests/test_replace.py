"""Values of one's own in place of the standard's: used everywhere, both recorded."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building
from undatum.project.project_file import validate
from undatum.results.results import Results

B = shear_building([6e7] * 4, [2e5] * 4)


def own(symbol: str, value: float) -> dict[str, Any]:
    return {"symbol": symbol, "value": value, "reason": "agreed with the authority"}


def step(r: Results, title: str, symbol: str) -> Any:
    return next(w for w in r.working if w.title == title)[symbol]


def test_replaced_r_goes_through_the_whole_job() -> None:
    frame = {"row": "C.1", "replace": [own("R", 5.0), own("C_d", 4.5)]}
    r = analyze(B, system={"X": frame, "Y": {"row": "C.1"}})
    plain = analyze(B)
    assert r.laterals["X"].force_divisor == 5.0
    assert r.laterals["X"].drift_factor == 4.5
    assert r.laterals["Y"].force_divisor == 8.0
    x = [a.statics["X", "strength"].shear.base_shear for a in (r, plain)]
    assert x[0] == pytest.approx(x[1] * 8 / 5)
    assert r.dynamic[0].base_shear == pytest.approx(plain.dynamic[0].base_shear * 8 / 5)
    written = step(r, "Lateral system in X", "R")
    assert written.value == 5.0
    assert "agreed with the authority" in written.branch
    assert "by the standard R = 8" in written.branch


def test_replaced_computed_value_records_the_formula() -> None:
    r = analyze(B, site={**SITE, "replace": [own("S_D1", 0.7)]})
    assert r.site.parameters["S_D1"] == 0.7
    assert r.site.parameters["T_S"] == pytest.approx(0.7 / r.site.parameters["S_DS"])
    assert float(r.spectrum(2.0)) == pytest.approx(0.7 * 9.80665 / 2)
    assert "S_D1 = 2 / 3 * S_M1 = 0.4" in r.site.working["S_D1"].branch


def test_replaced_height_in_the_period_formula() -> None:
    frame = {"row": "C.1", "replace": [own("h_n", 60.0)], "computed_period": False}
    r = analyze(B, system={"X": frame, "Y": {"row": "C.1"}})
    assert r.statics["X", "strength"].shear.period == pytest.approx(0.028 * 60**0.8)


@pytest.mark.parametrize(
    ("standard", "site", "system", "symbol", "value"),
    [
        ("en1998", {"reference_acceleration": 0.2, "ground_type": "A", "importance_class": "II",
                    "use": "B"},
         {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True},
         "q", 3.0),
        ("ubc97", {"zone": "3", "soil": "SB", "occupancy_category": "standard"},
         {"row": "3.1a", "regular": True}, "R", 6.0),
        ("is1893-2016", {"zone": "IV", "soil": "I", "importance_factor": "1.0"},
         {"row": "RC SMRF", "regular": True}, "R", 4.0),
    ],
)
def test_every_standard_takes_replacements(
    standard: str, site: dict[str, Any], system: dict[str, Any], symbol: str, value: float
) -> None:
    frame = {**system, "replace": [own(symbol, value)]}
    r = analyze(B, standard=standard, site=site, system={"X": frame, "Y": system})
    assert r.laterals["X"].force_divisor == pytest.approx(value)
    for section in r.working:
        for line in section:
            if line.formula:
                assert line.evaluate() == pytest.approx(line.value, rel=1e-12)


def test_unknown_symbol_is_an_error_with_the_nearest() -> None:
    wrong = {"row": "C.1", "replace": [own("C_D", 5.0)]}
    with pytest.raises(ud.InputError, match="did you mean 'C_d'") as caught:
        analyze(B, system={"X": {"row": "C.1"}, "Y": wrong})
    assert caught.value.faults[0].place == "system.Y.replace[0].symbol"
    with pytest.raises(ud.InputError, match="reason"):
        analyze(B, system={"X": {"row": "C.1"},
                           "Y": {"row": "C.1", "replace": [{"symbol": "R", "value": 5.0}]}})


# -- units, ranges and scope -----------------------------------------------------------------------


def shear(r: Results, d: str = "X", state: str = "strength") -> float:
    return r.statics[d, state].shear.base_shear  # type: ignore[index]


def put(symbol: str, value: object, **more: object) -> dict[str, Any]:
    return {"row": "C.1", "replace": [
        {"symbol": symbol, "value": value, "reason": "agreed", **more}]}


@pytest.mark.parametrize(("units", "plain", "si"), [
    ("N and m", 2.5e5, 2.5e5), ("kN and m", 250.0, 2.5e5), ("kip and ft", 60.0,
                                                            60 * 4448.2216152605),
    ("kip and in", 60.0, 60 * 4448.2216152605)])
def test_a_replaced_force_is_in_the_unit_of_its_file(
    units: str, plain: float, si: float
) -> None:
    """A plain number in a file is in the file's system; in Python it is SI; text says its own."""
    project, faults = validate({**bare(units), "system": {
        "X": put("V", plain), "Y": {"row": "C.1"}}})
    assert project is not None, faults
    assert shear(ud.run(project)) == pytest.approx(si)
    said, faults = validate({**bare(units), "system": {
        "X": put("V", "123 kN"), "Y": {"row": "C.1"}}})
    assert said is not None, faults
    assert shear(ud.run(said)) == pytest.approx(123e3)
    python = analyze(B, results_in=units, system={"X": put("V", 2.5e5), "Y": {"row": "C.1"}})
    assert shear(python) == pytest.approx(2.5e5)


def bare(units: str) -> dict[str, Any]:
    """A project as a file would hold it, with every unit written."""
    plan = [["0 m", "0 m"], ["10 m", "0 m"], ["10 m", "6 m"], ["0 m", "6 m"]]
    return {
        "title": "t", "standard": "asce7-16", "units": units,
        "site": {**SITE},
        "building": {
            "outlines": {"p": plan},
            "levels": [{"name": "R", "height": "3 m", "outline": "p", "loads": [
                {"name": "a", "kind": "dead", "total": "2000 kN"}]},
                {"name": "G", "outline": "p"}],
            "lines": [{"name": f"{d}{i}", "at": at, "direction": d, "bottom": "G", "top": "R",
                       "stiffness": "60 kN/mm"}
                      for d, places in (("X", [["5 m", "0 m"], ["5 m", "6 m"]]),
                                        ("Y", [["0 m", "3 m"], ["10 m", "3 m"]]))
                      for i, at in enumerate(places)]}}


@pytest.mark.parametrize(("symbol", "value", "where"), [
    ("S_DS", -0.5, "site"), ("S_DS", "3 kN", "site"), ("T_L", 0.0, "site"), ("rho", -1.0, "X"),
    ("R", 0.0, "X"), ("R", "8 m", "X"), ("V", -1.0, "X"), ("V", "3 m", "X"), ("I_e", -1.0, "site"),
    ("R", float("nan"), "X"), ("R", float("inf"), "X")])
def test_a_value_out_of_range_is_refused_with_its_place(
    symbol: str, value: object, where: str
) -> None:
    one = {"symbol": symbol, "value": value, "reason": "agreed"}
    frame, site = {"row": "C.1"}, {**SITE, "replace": [one]}
    given = {"site": site} if where == "site" else {
        "system": {"X": {**frame, "replace": [one]}, "Y": frame}}
    with pytest.raises(ud.InputError, match=r"replace\[0\]"):
        analyze(B, **given)


def test_a_replaced_base_shear_moves_forces_and_not_the_weight() -> None:
    """Six times the base shear: six times forces and static drift, once; the weight stays."""
    plain = analyze(B)
    six = analyze(B, system={"X": put("V", 6 * shear(plain), section="base shear, X, strength"),
                             "Y": {"row": "C.1"}})
    assert shear(six) == pytest.approx(6 * shear(plain))
    assert shear(six, state="drift") == pytest.approx(shear(plain, state="drift"))
    assert shear(six, "Y") == pytest.approx(shear(plain, "Y"))
    assert six.weights.total == plain.weights.total
    assert six.drift.drift.values == pytest.approx(plain.drift.drift.values, nan_ok=True)
    assert six.statics["X", "strength"].shear.weight == pytest.approx(plain.weights.total)


def test_a_value_holds_in_its_direction_and_section_alone() -> None:
    plain = analyze(B)
    one = analyze(B, system={"X": put("C_d", 3.0), "Y": {"row": "C.1"}})
    assert one.laterals["X"].drift_factor == 3.0
    assert one.laterals["Y"].drift_factor == plain.laterals["Y"].drift_factor
    with pytest.raises(ud.InputError, match="is no section"):
        analyze(B, system={"X": put("C_d", 3.0, section="base sheer"), "Y": {"row": "C.1"}})
    with pytest.raises(ud.InputError, match="C_d"):
        analyze(B, system={"X": put("C_d", 3.0, section="base shear"), "Y": {"row": "C.1"}})
    other = analyze(B, system={"X": {"row": "C.1"}, "Y": put("V", 5e5, section="base shear")})
    assert shear(other, "Y") == shear(other, "Y", "drift") == pytest.approx(5e5)
    assert shear(other) == pytest.approx(shear(plain))


def test_a_replaced_chain_by_hand() -> None:
    """S_DS, R, I_e and T replaced together against the chain of 12.8 written out."""
    site = {**SITE, "replace": [own("S_DS", 0.9), own("S_D1", 0.5), own("I_e", 1.25)]}
    frame = {"row": "C.1", "replace": [own("R", 6.0), own("C_d", 5.0)]}
    r = analyze(B, site=site, system={"X": frame, "Y": frame})
    weight = 4 * 2e5 * 9.80665
    computed = 2 * np.pi / min(
        w for w, kind in zip(r.modes.omega, r.modes.kinds, strict=True) if kind == "X")
    t_a = 0.0724 * 12.0**0.8  # steel moment frame, SI
    upper = 1.4 * t_a  # S_D1 of 0.4 and more
    t = min(computed, upper)
    cs = min(0.9 / (6.0 / 1.25), 0.5 / (t * 6.0 / 1.25))
    cs = max(cs, 0.044 * 0.9 * 1.25, 0.01)
    assert shear(r) == pytest.approx(cs * weight, rel=2e-3)  # 0.0724 is 0.028 rounded to SI
    base = r.statics["X", "strength"].shear
    assert base.period == pytest.approx(t, rel=2e-3)
    assert r.drift.factors[0] == pytest.approx(5.0 / 1.25)  # C_d over I_e


def test_two_gaps_of_one_name_keep_both_workings() -> None:
    gaps = [{"name": "joint", "direction": d, "distance": 0.3, "neighbor": n}
            for d, n in (("X", 0.02), ("X", 0.05), ("Y", 0.02))]
    r = analyze(B, gaps=gaps)
    found = [w for w in r.working if w.key.kind == "separation"]
    assert len(found) == 3
    assert {w["delta_M2"].value for w in found} == {0.02, 0.05}
    assert len({str(w.key) for w in found}) == 3
    assert len([g for g in r.gaps if g.direction == "X"]) == 2
    assert r.gaps[0].answer.required < r.gaps[1].answer.required


def test_a_replaced_separation_reaches_the_gap_of_its_number() -> None:
    gaps = [{"name": "joint", "direction": "X", "distance": 0.3, "neighbor": n}
            for n in (0.02, 0.05)]
    r = analyze(B, gaps=gaps, system={
        "X": put("delta_MT", "250 mm", section="separation, X, 2"), "Y": {"row": "C.1"}})
    assert r.gaps[1].answer.required == pytest.approx(0.25)
    assert r.gaps[0].answer.required != pytest.approx(0.25)
