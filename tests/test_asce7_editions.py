"""What differs between the editions of ASCE 7, by hand for each."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, share_of, shear_building, site_of
from undatum import standards
from undatum.results.results import Results
from undatum.standards.facts import LoadFacts
from verification import Verify

G = 9.80665
OLD = ("asce7-05", "asce7-10")
ALL = ("asce7-05", "asce7-10", "asce7-16", "asce7-22")

# Tables 11.4-1 and 11.4-2 of the 2005 and 2010 editions, written out again.
FA = {"A": (0.8,) * 5, "B": (1.0,) * 5, "C": (1.2, 1.2, 1.1, 1.0, 1.0),
      "D": (1.6, 1.4, 1.2, 1.1, 1.0), "E": (2.5, 1.7, 1.2, 0.9, 0.9)}
FV = {"A": (0.8,) * 5, "B": (1.0,) * 5, "C": (1.7, 1.6, 1.5, 1.4, 1.3),
      "D": (2.4, 2.0, 1.8, 1.6, 1.5), "E": (3.5, 3.2, 2.8, 2.4, 2.4)}


def run(standard: str, site: dict[str, Any] | None = None, **more: Any) -> Results:
    given = {**SITE, **(site or {})}
    if standard == "asce7-22":
        given = {**given, "sms": 1.2, "sm1": 0.6, **(site or {})}
    building = more.pop("building", None) or shear_building([6e7] * 4, [2e5] * 4)
    return analyze(building, standard=standard, site=given, **more)


@pytest.mark.parametrize("standard", OLD)
@pytest.mark.parametrize("name", FA)
def test_old_site_coefficients(standard: str, name: str, verify: Verify) -> None:
    room = standards.get(standard)
    for i, (ss, s1) in enumerate(zip((0.25, 0.5, 0.75, 1.0, 1.25), (0.1, 0.2, 0.3, 0.4, 0.5),
                                     strict=True)):
        p = site_of(room, **{**SITE, "ss": ss, "s1": s1, "site_class": name})
        for symbol, own, at in (("F_a", FA, f"S_S {ss}"), ("F_v", FV, f"S_1 {s1}")):
            verify("asce7", f"{symbol}, {standard[4:]}", f"class {name}, {at}",
                   p.parameters[symbol], own[name][i], rel=1e-15)
        assert p.parameters["exception"] == 0
    mid = site_of(room, **{**SITE, "ss": 0.9, "s1": 0.33, "site_class": name})
    assert mid.parameters["F_a"] == pytest.approx(np.interp(0.9, (0.75, 1.0), FA[name][2:4]))
    assert mid.parameters["F_v"] == pytest.approx(np.interp(0.33, (0.3, 0.4), FV[name][2:4]))


@pytest.mark.parametrize("standard", OLD)
def test_default_class_had_no_floor(standard: str) -> None:
    room = standards.get(standard)
    p = site_of(room, **{**SITE, "ss": 1.5, "site_class": "default"})
    assert p.parameters["F_a"] == 1.0


@pytest.mark.parametrize(
    ("key", "standard"),
    [("ibc-2006", "asce7-05"), ("ibc-2009", "asce7-05"), ("ibc-2012", "asce7-10"),
     ("ibc-2015", "asce7-10"), ("ibc-2018", "asce7-16"), ("ibc-2021", "asce7-16"),
     ("ibc-2024", "asce7-22")],
)
def test_building_codes_lead_to_their_edition(key: str, standard: str) -> None:
    assert standards.get(key) is standards.get(standard)
    with pytest.raises(ud.InputError, match="did you mean 'ibc-20"):
        standards.get("ibc-2081")


@pytest.mark.parametrize(("standard", "share"), [("asce7-05", 0.85), ("asce7-10", 0.85),
                                                 ("asce7-16", 1.0), ("asce7-22", 1.0)])
def test_forces_are_scaled_to_the_editions_share(standard: str, share: float) -> None:
    r = run(standard)
    for s in r.scaling:
        if s.state.key == "strength":
            v = r.statics[s.direction, "strength"].shear.base_shear
            assert s.answer.factor == pytest.approx(max(1.0, share * v / s.modal_base_shear))
            assert s.answer.factor > 1


@pytest.mark.parametrize(
    ("standard", "share"), [("asce7-05", 0.0), ("asce7-10", 0.85), ("asce7-16", 1.0)]
)
def test_drift_scaling_near_faults(standard: str, share: float) -> None:
    r = run(standard, {"ss": 1.5, "s1": 0.7}, building=shear_building([4e6] * 4, [2e5] * 4))
    x = next(s for s in r.scaling if s.state.key == "drift" and s.direction == "X")
    least = 0.5 * 0.7 / 8 * r.weights.total
    assert x.answer.factor == pytest.approx(max(1.0, share * least / x.modal_base_shear))
    assert (x.answer.factor > 1) == (share > 0)


@pytest.mark.parametrize("standard", ALL)
def test_least_value_for_drift(standard: str) -> None:
    """Long period: 0.044 S_DS governs strength always, and drift in 2005 only."""
    site = {"s1": 0.05} if standard != "asce7-22" else {"s1": 0.05, "sm1": 0.05}
    r = run(standard, site, building=shear_building([3e6] * 4, [2e5] * 4))
    s_ds = r.site.parameters["S_DS"]
    strength, drift = (r.statics["X", p].shear.coefficient for p in ("strength", "drift"))  # type: ignore[index]
    assert strength == pytest.approx(0.044 * s_ds)
    assert drift == pytest.approx(0.044 * s_ds) if standard == "asce7-05" else drift < strength


@pytest.mark.parametrize("standard", ALL)
def test_accidental_torsion_of_a_regular_building(standard: str) -> None:
    """Before 2016 always in the forces; since then only where the structure is irregular."""
    r = run(standard)
    assert not r.torsion["X"].answer.kind
    assert {s.sign for s in r.static_sets} == ({1, -1} if standard in OLD else {0})
    assert np.all(r.torsion["X"].factors == 1.0)


@pytest.mark.parametrize("standard", ALL)
def test_importance_in_the_stability_coefficient(standard: str) -> None:
    r = run(standard, {"risk_category": "IV"})
    c = next(x for x in r.stability if x.direction == "X" and x.method == "static")
    i = 0 if standard == "asce7-05" else 1
    hand = c.gravity * c.drift * (1.0, 1.5)[i] / (c.shear * c.heights * 5.5)
    assert c.answer.coefficient == pytest.approx(hand)


@pytest.mark.parametrize(
    ("standard", "row", "ct"),
    [("asce7-05", "B.26", 0.020), ("asce7-10", "B.25", 0.030), ("asce7-22", "B.27", 0.030),
     ("asce7-05", "B.2", 0.030), ("asce7-05", "C.1", 0.028), ("asce7-22", "C.5", 0.016)],
)
def test_period_coefficients(standard: str, row: str, ct: float) -> None:
    r = run(standard, system={"X": {"row": row}, "Y": {"row": "C.1"}})
    step = next(s for w in r.working if w.title == "Period in X" for s in w if s.symbol == "C_t")
    assert step.value == ct, r.laterals["X"].name


@pytest.mark.parametrize(
    ("standard", "psf", "share"),
    [("asce7-05", 31, 0.20), ("asce7-10", 30, 0.0), ("asce7-16", 44, 0.20), ("asce7-22", 44, 0.0),
     ("asce7-22", 46, 0.15)],
)
def test_snow(standard: str, psf: float, share: float) -> None:
    load = LoadFacts("snow", psf * 47.880258980336, True)
    found = share_of(standard, load)
    assert found.share == share


def test_system_tables_by_edition() -> None:
    count = {key: len(standards.get(key).systems_table()) for key in ALL}
    assert count == {"asce7-05": 83, "asce7-10": 85, "asce7-16": 85, "asce7-22": 92}
    tables = {key: {r[0]: r for r in standards.get(key).systems_table().rows()} for key in ALL}
    assert tables["asce7-05"]["B.25"][3:6] == (7.0, 2.0, 5.5)  # other beam-column connections
    assert tables["asce7-05"]["B.26"][3:6] == (8.0, 2.5, 5.0)
    assert tables["asce7-22"]["A.2"][2:6] == (
        "Reinforced concrete ductile coupled wall", 8.0, 2.5, 8.0)
    assert tables["asce7-10"] == tables["asce7-16"]
    assert "counted, not read" in standards.get("asce7-22").systems_table().note


def test_2022_takes_its_parameters_from_the_mapped_data() -> None:
    r = run("asce7-22", {"sms": 1.5, "sm1": 0.9, "site_class": "CD"})
    p = r.site.parameters
    assert (p["S_DS"], p["S_D1"], p["T_S"]) == pytest.approx((1.0, 0.6, 0.6))
    assert "F_a" not in p
    with pytest.raises(ud.InputError, match="sms and sm1 of the mapped data"):
        analyze(shear_building([1e8], [1e5]), standard="asce7-22", site=SITE)
    with pytest.raises(ud.InputError, match="class F"):
        run("asce7-22", {"site_class": "F"})


def test_2022_multi_period_spectrum() -> None:
    periods = [0.0, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0]
    ordinates = [0.6, 1.1, 1.5, 1.2, 0.75, 0.4, 0.12, 0.05]
    r = run("asce7-22", {"multi_period": {"periods": periods, "accelerations": ordinates}})
    assert r.spectrum(np.array([0.2, 0.35, 1.5])) / G == pytest.approx(
        [1.0, 2 / 3 * (1.5 + 1.2) / 2, 2 / 3 * (0.75 + 0.4) / 2])
    # The static procedure keeps S_DS and S_D1 of the mapped data.
    assert r.site.parameters["S_DS"] == pytest.approx(0.8)
    bad = {"multi_period": {"periods": [0.0, 0.0], "accelerations": [1.0, 1.0]}}
    with pytest.raises(ud.InputError, match="does not come after"):
        run("asce7-22", bad)


@pytest.mark.parametrize("standard", ALL)
def test_recorded_formulas_of_every_edition_reevaluate(standard: str) -> None:
    for section in run(standard).working:
        for step in section:
            if step.formula:
                assert step.evaluate() == pytest.approx(step.value, rel=1e-12)
            if standard == "asce7-22":
                assert "Eq." not in step.clause  # numbers of this edition are not certain


@pytest.mark.parametrize("standard", OLD)
def test_clauses_are_those_of_the_edition(standard: str) -> None:
    r = run(standard, {"site_class": "D", "ss": 0.9})
    clauses = {s.symbol: s.clause for w in r.working for s in w}
    assert clauses["F_a"].startswith("11.4.3, Table 11.4-1")
    assert clauses["S_DS"] == "11.4.4, Eq. 11.4-3"
    assert clauses["s_F"] == ("12.9.4" if standard == "asce7-05" else "12.9.4.1")


MULTI = {"periods": [0.0, 0.1, 0.2, 0.3, 0.5, 1.0, 1.5, 2.0, 3.0, 5.0, 10.0],
         "accelerations": [0.6, 1.1, 1.4, 1.5, 1.2, 0.8, 0.6, 0.5, 0.35, 0.15, 0.05]}


@pytest.mark.parametrize(
    ("name", "product"),
    [("C", 1.0), ("BC", 1.0), ("CD", 1.05), ("E", 1.05), ("default", 1.05)],
)
def test_2022_parameters_from_the_multi_period_table(
    name: str, product: float, verify: Verify
) -> None:
    """Largest ordinate 1.5 g at 0.3 s; T times Sa: 0.8, 0.9, 1.0 up to 2 s, and 1.05 at 3 s."""
    given = {k: v for k, v in SITE.items() if k != "site_class"}
    room = standards.get("asce7-22")
    p = site_of(room, **given, site_class=name, multi_period=MULTI).parameters
    verify("asce7", "S_DS from a multi-period table, 7-22", f"class {name}", p["S_DS"],
           0.9 * 2 / 3 * 1.5)
    verify("asce7", "S_D1 from a multi-period table, 7-22", f"class {name}", p["S_D1"],
           0.9 * 2 / 3 * product)
    assert p["S_MS"] == pytest.approx(1.5 * p["S_DS"])
    low = {**MULTI, "accelerations": [0.6, 1.1, 1.4, 1.5, 1.2, 0.8, 0.4, 0.2, 0.1, 0.05, 0.02]}
    p = site_of(room, **given, site_class=name, multi_period=low).parameters
    assert p["S_D1"] == pytest.approx(2 / 3 * 0.8)  # not below the ordinate at 1 s


@pytest.mark.parametrize(
    ("more", "words"),
    [({"sms": 1.0}, "sms and sm1 together"), ({}, "sms and sm1 of the mapped data, or"),
     ({"multi_period": {"periods": [0.0, 2.0], "accelerations": [1.0, 0.5]}}, "must reach 5 s")],
)
def test_2022_needs_one_or_the_other(more: dict[str, Any], words: str) -> None:
    room = standards.get("asce7-22")
    with pytest.raises(ud.InputError, match=words):
        site_of(room, **SITE, **more)
