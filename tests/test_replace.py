"""Values of one's own in place of the standard's: used everywhere, both recorded."""

from __future__ import annotations

from typing import Any

import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building
from undatum.project.results import Results

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
