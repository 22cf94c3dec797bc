"""ASCE 7-16 chapter 11: every table entry, interpolation, categories, spectrum."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import SITE, SYSTEMS, analyze, shear_building, site_of
from undatum import standards
from undatum.finding import Severity
from undatum.standards.answers import SiteAnswer
from verification import Verify

G = 9.80665
STANDARD = standards.get("asce7-16")

# Written out again here, row by row, not read from the shipped data.
FA = {
    "A": (0.8, 0.8, 0.8, 0.8, 0.8, 0.8),
    "B": (0.9, 0.9, 0.9, 0.9, 0.9, 0.9),
    "C": (1.3, 1.3, 1.2, 1.2, 1.2, 1.2),
    "D": (1.6, 1.4, 1.2, 1.1, 1.0, 1.0),
    "E": (2.4, 1.7, 1.3, None, None, None),
}
FV = {
    "A": (0.8, 0.8, 0.8, 0.8, 0.8, 0.8),
    "B": (0.8, 0.8, 0.8, 0.8, 0.8, 0.8),
    "C": (1.5, 1.5, 1.5, 1.5, 1.5, 1.4),
    "D": (2.4, 2.2, 2.0, 1.9, 1.8, 1.7),
    "E": (4.2, 3.3, 2.8, 2.4, 2.2, 2.0),
}
SS = (0.25, 0.5, 0.75, 1.0, 1.25, 1.5)
S1 = (0.1, 0.2, 0.3, 0.4, 0.5, 0.6)


def site(**given: Any) -> SiteAnswer:
    return site_of(STANDARD, **{**SITE, "velocity_measured": True, **given})


@pytest.mark.parametrize("name", FA)
def test_every_fa(name: str, verify: Verify) -> None:
    for ss, fa in zip(SS, FA[name], strict=True):
        if fa is not None:
            found = site(ss=ss, s1=0.05, site_class=name).parameters["F_a"]
            verify("asce7", "F_a, 7-16", f"class {name}, S_S {ss}", found, fa, rel=1e-15)
    assert site(ss=0.1, s1=0.05, site_class=name).parameters["F_a"] == FA[name][0]
    if name != "E":
        assert site(ss=2.5, s1=0.05, site_class=name).parameters["F_a"] == FA[name][-1]


@pytest.mark.parametrize("name", FV)
def test_every_fv(name: str, verify: Verify) -> None:
    for s1, fv in zip(S1, FV[name], strict=True):
        found = site(ss=0.5, s1=s1, site_class=name).parameters["F_v"]
        verify("asce7", "F_v, 7-16", f"class {name}, S_1 {s1}", found, fv, rel=1e-15)
    assert site(s1=0.02, site_class=name).parameters["F_v"] == FV[name][0]
    assert site(s1=0.74, site_class=name).parameters["F_v"] == FV[name][-1]


@given(ss=st.floats(0.25, 1.5), s1=st.floats(0.1, 0.6), name=st.sampled_from("ABCD"))
def test_interpolation_between_entries(ss: float, s1: float, name: str) -> None:
    found = site(ss=ss, s1=s1, site_class=name).parameters
    fa = [x for x in FA[name] if x is not None]
    assert found["F_a"] == pytest.approx(float(np.interp(ss, SS, fa)))
    assert found["F_v"] == pytest.approx(float(np.interp(s1, S1, FV[name])))


def test_site_by_hand() -> None:
    """Class D, S_S = 0.9, S_1 = 0.15: F_a by interpolation 1.14, F_v 2.3."""
    p = site(ss=0.9, s1=0.15, site_class="D").parameters
    assert p["F_a"] == pytest.approx(1.14)
    assert p["F_v"] == pytest.approx(2.3)
    assert p["S_DS"] == pytest.approx(0.684)
    assert p["S_D1"] == pytest.approx(0.23)
    assert p["T_S"] == pytest.approx(0.23 / 0.684)
    assert p["T_0"] == pytest.approx(0.2 * 0.23 / 0.684)


def test_default_class_and_unmeasured_rock() -> None:
    assert site(ss=1.5, s1=0.1, site_class="default").parameters["F_a"] == 1.2
    assert site(ss=0.5, s1=0.1, site_class="default").parameters["F_a"] == 1.4
    rock = site_of(STANDARD, **{**SITE, "site_class": "B"}).parameters  # the safe side
    assert (rock["F_a"], rock["F_v"]) == (1.0, 1.0)
    assert site(site_class="B").parameters["F_a"] == 0.9


def test_site_specific_conditions() -> None:
    with pytest.raises(ud.InputError, match="class F needs a site response analysis"):
        site(site_class="F")
    study = {"sds": 0.8, "sd1": 0.6, "reason": "study of the harbor, 2025"}
    assert site(site_class="F", study=study).parameters["S_DS"] == 0.8
    soft = site(ss=1.2, s1=0.05, site_class="E")
    assert soft.parameters["exception"] == 1
    assert soft.parameters["F_a"] == pytest.approx(1.2)  # class C at S_S = 1.2
    assert site(ss=0.9, s1=0.05, site_class="E").parameters["F_a"] == 1.3  # held, table ends
    for name, s1, exception in (("D", 0.19, 0), ("D", 0.2, 2), ("E", 0.19, 0), ("E", 0.2, 3),
                                ("C", 0.5, 0), ("default", 0.3, 2)):
        assert site(ss=0.6, s1=s1, site_class=name).parameters["exception"] == exception


def test_exception_2_lengthens_the_plateau_of_the_modal_spectrum() -> None:
    a = site(ss=1.0, s1=0.3, site_class="D")
    p, s = a.parameters, a.spectrum
    ts = p["T_S"]
    plateau = p["S_DS"] * G
    assert s(np.array([ts, 1.5 * ts])) == pytest.approx([plateau, plateau])
    assert float(s(2 * ts)) == pytest.approx(1.5 * p["S_D1"] * G / (2 * ts))
    assert s.corners["1.5 Ts"] == pytest.approx(1.5 * ts)
    assert "Ts" not in s.corners


@pytest.mark.parametrize(
    ("ss", "s1", "risk", "category"),
    # Class B with F = 1.0 (velocity not measured): S_DS = 2/3 S_S, S_D1 = 2/3 S_1.
    [
        (0.15, 0.04, "II", "A"), (0.16, 0.04, "II", "A"), (0.24, 0.05, "II", "A"),
        (0.2506, 0.05, "II", "B"), (0.2506, 0.05, "IV", "C"), (0.16, 0.1006, "I", "B"),
        (0.494, 0.05, "III", "B"), (0.496, 0.05, "III", "C"), (0.496, 0.05, "IV", "D"),
        (0.16, 0.1994, "II", "B"), (0.16, 0.2, "II", "C"), (0.16, 0.2, "IV", "D"),
        (0.751, 0.05, "II", "D"), (0.16, 0.301, "II", "D"), (0.749, 0.2, "II", "C"),
        (1.5, 0.749, "II", "D"), (1.5, 0.75, "II", "E"), (1.5, 0.75, "III", "E"),
        (1.5, 0.75, "IV", "F"),
    ],
)
def test_design_category(ss: float, s1: float, risk: str, category: str) -> None:
    a = site(ss=ss, s1=s1, risk_category=risk, site_class="B", velocity_measured=False)
    assert a.category == category


def test_importance() -> None:
    found = [site(risk_category=r).importance for r in ("I", "II", "III", "IV")]
    assert found == [1.0, 1.0, 1.25, 1.5]


def test_plateau_beyond_the_long_period_is_refused() -> None:
    with pytest.raises(ud.InputError, match=r"are S_S and S_1 swapped\?"):
        site(ss=0.2, s1=1.4, long_period=4.0, site_class="A")


def test_spectrum_branches_by_hand(verify: Verify) -> None:
    s = site(ss=1.0, s1=0.4, site_class="C", long_period=6.0).spectrum  # S_DS 0.8, S_D1 0.4
    t = [0.0, 0.05, 0.1, 0.3, 0.5, 1.0, 4.0, 6.0, 12.0]
    by_hand = [0.32, 0.8 * (0.4 + 0.6 * 0.5), 0.8, 0.8, 0.8, 0.4, 0.1, 0.4 / 6, 0.4 * 6 / 144]
    for period, hand in zip(t, by_hand, strict=True):
        verify("asce7", "design spectrum, g", f"S_DS 0.8, S_D1 0.4, T_L 6 s, T {period} s",
               float(s(period)) / G, hand)


def test_class_e_with_long_period_is_exceeded() -> None:
    b = shear_building([6e7] * 12, [2e5] * 12)
    r = analyze(b, site={**SITE, "ss": 0.6, "s1": 0.3, "site_class": "E"})
    (found,) = [f for f in r.findings if f.check == "permitted procedure"]
    assert found.severity is Severity.EXCEEDED
    assert "No procedure is permitted without a ground motion hazard analysis" in found.text


@pytest.mark.parametrize(("stiffness", "risk", "severity"), [
    ([4e8] * 3, "II", "ok"), ([4e8, 4e8, 1e8], "II", "exceeded"), ([4e8] * 3, None, "warning")])
def test_exception_3_and_table_12_6_give_one_verdict(
    stiffness: list[float], risk: str | None, severity: str
) -> None:
    """T below T_S: open where the static procedure is, nothing where a soft story bars it, in
    doubt where what could bar it is not judged."""
    b = shear_building(stiffness, [2e5] * 3)
    lines = [x.model_copy(update={"strength": 1e7, "drawn_length": 4.0}) for x in b.lines]
    stated = dict.fromkeys(("diaphragm_discontinuity", "in_plane_offset"), False)
    r = analyze(ud.Building(levels=b.levels, lines=lines if risk else b.lines),
                site={**SITE, "ss": 0.9, "s1": 0.4, "site_class": "E"},
                irregularities=stated if risk else None)
    t = r.statics["X", "strength"].shear.period
    assert t < r.site.parameters["T_S"]
    assert r.site.category in "DEF"
    (found,) = [f for f in r.findings if f.check == "permitted procedure"]
    assert found.severity.value == severity
    assert ("No procedure is permitted" in found.text) is (severity == "exceeded")
    assert r.drift.barred == (severity == "exceeded",) * 2


def test_category_a_says_what_is_asked() -> None:
    b = shear_building([1e8] * 2, [1e5] * 2)
    r = analyze(b, site={**SITE, "ss": 0.1, "s1": 0.03}, system=SYSTEMS)
    assert r.site.category == "A"
    assert any("1.4.3" in f.text for f in r.findings)
    assert r.rules.directional_combination == "independent"


def test_what_a_category_asks_for_is_listed() -> None:
    """Nothing of chapter 12 in A, piles and their ties by category, faults in E and F; of 2022 the
    section alone."""
    site = site_of(STANDARD, **SITE)

    def clauses(category: str, key: str = "asce7-16") -> set[str]:
        own = replace(site, category=category)
        return {one.clause for one in standards.get(key).required(own)}

    assert clauses("A") == {"11.7"}
    assert clauses("D") - clauses("C") == {
        "11.8.3", "12.2.5.5", "12.3.3.1", "12.3.3.4", "12.4.4", "12.5.4", "12.12.1.1", "12.12.5",
        "12.13.8"}
    assert clauses("C") - clauses("D") == {"12.13.7"}
    assert clauses("C", "asce7-10") - clauses("D", "asce7-10") == {"12.13.5"}
    assert clauses("C") - clauses("B") == {
        "11.8.2", "12.5.3", "12.8.4.3", "12.10.2.1", "12.11.2.2", "12.13.7"}
    assert clauses("B") - clauses("C") == {"12.5.2"}
    assert clauses("E") - clauses("D") == {"11.8.1"} == clauses("F") - clauses("D")
    assert "12.12.4" in clauses("D", "asce7-05")
    assert all(one.count(".") < 2 for one in clauses("D", "asce7-22"))
    assert standards.get("en1998").required(site) == ()
