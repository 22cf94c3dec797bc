"""EN 1998-1:2004: every table entry, the spectra, behavior factors, the method and its checks."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import analyze, shear_building
from undatum import standards
from undatum.finding import Severity
from undatum.project.results import Results
from undatum.standards.answers import LoadFacts, SiteAnswer, StructureFacts, SystemAnswer
from undatum.standards.en1998.site import DesignSpectrum, ElasticSpectrum
from verification import Verify

G = 9.80665
ROOM = standards.get("en1998")
SITE: dict[str, Any] = {"reference_acceleration": 0.25, "ground_type": "B",
                        "importance_class": "II", "use": "B"}
FRAME: dict[str, Any] = {"row": "concrete frame", "ductility": "DCM", "regular_in_plan": True,
                         "regular_in_elevation": True}

# Tables 3.2 and 3.3 written out again: S, TB, TC, TD.
TABLES = {
    1: {"A": (1.0, 0.15, 0.4, 2.0), "B": (1.2, 0.15, 0.5, 2.0), "C": (1.15, 0.2, 0.6, 2.0),
        "D": (1.35, 0.2, 0.8, 2.0), "E": (1.4, 0.15, 0.5, 2.0)},
    2: {"A": (1.0, 0.05, 0.25, 1.2), "B": (1.35, 0.05, 0.25, 1.2), "C": (1.5, 0.1, 0.25, 1.2),
        "D": (1.8, 0.1, 0.3, 1.2), "E": (1.6, 0.05, 0.25, 1.2)},
}


def site(**more: Any) -> SiteAnswer:
    return ROOM.site(ROOM.SiteInput(**{**SITE, **more}))


def system(**more: Any) -> SystemAnswer:
    facts = StructureFacts(12.0, 4, (3.0,) * 4, 1e7)
    return ROOM.system("X", ROOM.SystemInput(**{**FRAME, **more}), site(), facts)


def run(building: ud.ConceptBuilding | None = None, frame: dict[str, Any] | None = None,
        **more: Any) -> Results:
    frame = {**FRAME, **(frame or {})}
    return analyze(building or shear_building([1e8] * 4, [1.5e5] * 4), standard="en1998",
                   site={**SITE, **more.pop("site", {})}, system={"X": frame, "Y": frame}, **more)


@pytest.mark.parametrize("kind", [1, 2])
@pytest.mark.parametrize("ground", "ABCDE")
def test_every_ground_type(kind: int, ground: str, verify: Verify) -> None:
    p = site(spectrum_type=kind, ground_type=ground).parameters
    for symbol, own in zip(("S", "T_B", "T_C", "T_D"), TABLES[kind][ground], strict=True):
        verify("en1998", symbol, f"type {kind}, ground {ground}", p[symbol], own, rel=1e-15)


@pytest.mark.parametrize(("name", "gamma", "nu"), [("I", 0.8, 0.5), ("II", 1.0, 0.5),
                                                   ("III", 1.2, 0.4), ("IV", 1.4, 0.4)])
def test_importance_and_reduction(name: str, gamma: float, nu: float) -> None:
    r = run(site={"importance_class": name})
    assert r.site.parameters["a_g"] == pytest.approx(0.25 * gamma)
    assert r.drift.limits[0] == pytest.approx(0.005 / nu)


def test_elastic_spectrum_by_hand() -> None:
    s = ElasticSpectrum("t", 2.0, 1.2, 0.15, 0.5, 2.0)
    t = np.array([0.0, 0.075, 0.15, 0.5, 1.0, 2.0, 4.0])
    by_hand = 2.4 * np.array([1.0, 1.75, 2.5, 2.5, 1.25, 0.625, 2.5 * 0.5 * 2.0 / 16])
    assert s(t) == pytest.approx(by_hand)
    damped = ElasticSpectrum("t", 2.0, 1.2, 0.15, 0.5, 2.0, damping=0.10)
    assert damped.correction == pytest.approx(np.sqrt(10 / 15))
    assert float(damped(0.3)) == pytest.approx(2.4 * 2.5 * np.sqrt(10 / 15))
    assert ElasticSpectrum("t", 1, 1, 0.1, 0.5, 2, damping=0.5).correction == 0.55


def test_design_spectrum_by_hand() -> None:
    e = ElasticSpectrum("t", 2.0, 1.2, 0.15, 0.5, 2.0)
    s = DesignSpectrum("t", e, 4.0, 0.2)
    t = np.array([0.0, 0.075, 0.15, 0.5, 1.0, 2.0, 4.0])
    by_hand = [2.4 * 2 / 3, 2.4 * (2 / 3 + 0.5 * (0.625 - 2 / 3)), 1.5, 1.5, 0.75, 0.4, 0.4]
    assert s(t) == pytest.approx(by_hand)


@given(q=st.floats(1.5, 6.5), kind=st.sampled_from([1, 2]), ground=st.sampled_from("ABCDE"))
def test_spectra_are_continuous_and_fall(q: float, kind: int, ground: str) -> None:
    a = site(spectrum_type=kind, ground_type=ground)
    assert isinstance(a.spectrum, ElasticSpectrum)
    for s in (a.spectrum, DesignSpectrum("d", a.spectrum, q, 0.2)):
        for corner in a.spectrum.corners.values():
            assert float(s(corner * (1 - 1e-9))) == pytest.approx(float(s(corner * (1 + 1e-9))),
                                                                  rel=1e-6)
        t = np.linspace(a.spectrum.tb, 6.0, 300)
        assert np.all(np.diff(s(t)) <= 1e-12)


def test_design_with_q_of_one_is_elastic_from_the_plateau_on() -> None:
    a = site()
    assert isinstance(a.spectrum, ElasticSpectrum)
    t = np.linspace(a.spectrum.tb, 4.0, 50)
    assert DesignSpectrum("d", a.spectrum, 1.0, 0.0)(t) == pytest.approx(a.spectrum(t))


@pytest.mark.parametrize(
    ("given", "q"),
    [
        ({}, 3.0 * 1.3),
        ({"ductility": "DCH"}, 4.5 * 1.3),
        ({"ductility": "DCL"}, 1.5),
        ({"regular_in_plan": False}, 3.0 * 1.15),
        ({"regular_in_elevation": False}, 0.8 * 3.0 * 1.3),
        ({"overstrength_ratio": 1.45}, 3.0 * 1.45),
        ({"row": "concrete frame one story"}, 3.0 * 1.1),
        ({"row": "concrete coupled walls", "wall_slenderness": 5.0}, 3.0 * 1.2),
        ({"row": "concrete uncoupled walls", "wall_slenderness": 5.0}, 3.0),
        ({"row": "concrete uncoupled walls", "wall_slenderness": 5.0, "ductility": "DCH"}, 4.4),
        ({"row": "concrete two uncoupled walls", "wall_slenderness": 1.0}, 3.0 * 2 / 3),
        ({"row": "concrete two uncoupled walls", "wall_slenderness": 0.2}, 1.5),
        ({"row": "concrete torsionally flexible", "wall_slenderness": 3.0}, 2.0),
        ({"row": "concrete inverted pendulum", "ductility": "DCH"}, 2.0),
        ({"row": "concrete inverted pendulum", "regular_in_elevation": False}, 1.5),
        ({"row": "steel frame"}, 4.0),
        ({"row": "steel frame", "ductility": "DCH"}, 5.0 * 1.3),
        ({"row": "steel frame", "ductility": "DCH", "regular_in_elevation": False}, 0.8 * 6.5),
        ({"row": "steel V bracing"}, 2.0),
        ({"row": "steel V bracing", "ductility": "DCH"}, 2.5),
        ({"row": "steel diagonal bracing", "ductility": "DCH"}, 4.0),
        ({"row": "steel eccentric bracing", "ductility": "DCH"}, 6.0),
        ({"row": "steel frame with bracing", "ductility": "DCH"}, 4.8),
        ({"row": "timber frame", "q": 2.5, "reason": "chapter 8, by the engineer"}, 2.5),
    ],
)
def test_behavior_factors_by_hand(given: dict[str, Any], q: float, verify: Verify) -> None:
    verify("en1998", "behavior factor q", {**FRAME, **given}, system(**given).force_divisor, q)


@pytest.mark.parametrize(
    ("given", "words"),
    [({"row": "concrete fram"}, "did you mean 'concrete frame'"),
     ({"row": "concrete coupled walls"}, "needs wall_slenderness"),
     ({"q": 3.0}, "needs its reason")],
)
def test_wrong_systems(given: dict[str, Any], words: str) -> None:
    with pytest.raises(ud.InputError, match=words):
        system(**given)


@pytest.mark.parametrize(
    ("load", "more", "share"),
    [
        (LoadFacts("dead", 3e3, False), {}, 1.0),
        (LoadFacts("partition", 3e2, False), {}, 1.0),
        (LoadFacts("live", 3e3, False), {}, 0.8 * 0.3),
        (LoadFacts("live", 3e3, True), {}, 0.3),
        (LoadFacts("live", 3e3, False), {"correlated_use": False}, 0.5 * 0.3),
        (LoadFacts("live", 3e3, False), {"use": "C"}, 0.8 * 0.6),
        (LoadFacts("live", 3e3, False), {"use": "D"}, 0.6),
        (LoadFacts("storage", 9e3, False), {}, 0.8),
        (LoadFacts("snow", 1e3, True), {}, 0.0),
        (LoadFacts("snow", 1e3, True), {"snow_above_1000m": True}, 0.2),
        (LoadFacts("live", 3e3, False), {"national": {"source": "annex", "psi2_live": 0.5}}, 0.4),
    ],
)
def test_mass_shares(load: LoadFacts, more: dict[str, Any], share: float) -> None:
    found = ROOM.weight_share(load, ROOM.SiteInput(**{**SITE, **more}))
    assert found.share == pytest.approx(share)


@pytest.mark.parametrize(
    ("computed", "stories", "ordinate", "share", "branch"),
    # q = 3.9, a_g S = 0.3 g, T_C = 0.5 s, T_D = 2 s.
    [(0.1, 4, 0.3 * (2 / 3 + 0.1 / 0.15 * (2.5 / 3.9 - 2 / 3)), 0.85, "3.13"),
     (0.4, 4, 0.3 * 2.5 / 3.9, 0.85, "3.14"),
     (0.4, 2, 0.3 * 2.5 / 3.9, 1.0, "3.14"),
     (0.9, 4, 0.3 * 2.5 / 3.9 * 0.5 / 0.9, 0.85, "3.15"),
     (1.1, 4, 0.3 * 2.5 / 3.9 * 0.5 / 1.1, 1.0, "3.15"),
     (3.0, 9, 0.05, 1.0, "least value")],
)
def test_base_shear_by_hand(
    computed: float, stories: int, ordinate: float, share: float, branch: str, verify: Verify
) -> None:
    a = site()
    facts = StructureFacts(3.0 * stories, stories, (3.0,) * stories, 1e7)
    lateral = ROOM.system("X", ROOM.SystemInput(**FRAME), a, facts)
    found = ROOM.base_shear("strength", a, lateral, ROOM.period(lateral, a, facts), computed, facts)
    verify("en1998", f"base shear over weight, {branch}",
           f"a_g S 0.3 g, ground B, q 3.9, T_1 {computed} s, {stories} stories",
           found.base_shear / 1e7, ordinate * share)
    assert branch in found.governing
    spectrum = ROOM.reduced_spectrum(a.spectrum, a, lateral)
    assert float(spectrum(computed)) / G == pytest.approx(ordinate)  # the second way to it


@pytest.mark.parametrize(
    ("row", "ct"),
    [("concrete frame", 0.075), ("steel frame", 0.085), ("steel eccentric bracing", 0.075),
     ("steel V bracing", 0.05)],
)
def test_approximate_period(row: str, ct: float) -> None:
    r = run(frame={"row": row, "computed_period": False})
    assert r.statics["X", "strength"].shear.period == pytest.approx(ct * 12.0**0.75)


def test_whole_job() -> None:
    r = run()
    assert r.site.category == ""
    assert {s.sign for s in r.static_sets} == {1, -1}  # accidental eccentricity always
    assert all(s.answer.factor == 1.0 for s in r.scaling)
    f = r.statics["X", "strength"].forces
    z = np.array([12.0, 9.0, 6.0, 3.0])
    assert f / f.sum() == pytest.approx(z / z.sum())  # equal masses
    assert r.statics["X", "drift"].forces == pytest.approx(f)
    i = r.drift.sets.index("spectrum X")
    assert r.drift.design[i, 0, 0, 0] == pytest.approx(3.9 * r.drift.elastic[i, 0, 0, 0])
    assert r.rules.directional_combination == "SRSS"
    for section in r.working:
        for step in section:
            if step.formula:
                assert step.evaluate() == pytest.approx(step.value, rel=1e-12)


def test_stability_bands() -> None:
    h, v = np.full(4, 3.0), np.full(4, 1e6)
    theta = np.array([0.05, 0.15, 0.25, 0.35])
    found = ROOM.stability("X", site(), system(), theta * v * h / 0.01, np.full(4, 0.01), v, h)
    assert found.coefficient == pytest.approx(theta)
    assert found.amplification == pytest.approx([1.0, 1 / 0.85, 1 / 0.75, 1 / 0.65])
    assert (found.negligible, found.amplifiable, found.limit) == (0.1, 0.2, 0.3)
    severities = []
    for k in (2e8, 2.2e7, 1.3e7, 9e6):
        r = run(shear_building([k] * 2, [1.5e5] * 2), site={"reference_acceleration": 0.35})
        severities.append(next(c for c in r.stability if c.direction == "X").finding().severity)
    assert severities[0] is Severity.OK
    assert severities[-1] is Severity.EXCEEDED
    assert Severity.NOTE in severities or Severity.WARNING in severities


def test_lateral_force_method_conditions() -> None:
    slow = run(shear_building([2e6] * 4, [1.5e5] * 4))
    found = [f for f in slow.findings if f.check == "lateral force method"]
    assert all(f.severity is Severity.NOTE for f in found)
    odd = run(frame={"regular_in_elevation": False})
    assert any("not regular in elevation" in f.text for f in odd.findings)
    fine = run()
    assert all(f.severity is Severity.OK for f in fine.findings
               if f.check == "lateral force method")


def test_national_parameters_replace_and_are_recorded() -> None:
    own = {"source": "annex of a made-up country", "S": 1.3, "TC": 0.55, "beta": 0.1,
           "importance_factor": 1.1, "nu": 0.45}
    r = run(site={"national": own})
    p = r.site.parameters
    assert (p["S"], p["T_C"], p["beta"]) == (1.3, 0.55, 0.1)
    assert p["a_g"] == pytest.approx(0.275)
    assert p["T_B"] == 0.15  # left as recommended
    assert r.drift.limits[0] == pytest.approx(0.005 / 0.45)
    step = r.site.working["S"]
    assert step.branch == "annex of a made-up country; recommended 1.2"


def test_every_drift_structure() -> None:
    limits = [run(drift={"structure": s}).drift.limits[0] for s in ROOM.drift_structures()]
    assert limits == pytest.approx([0.01, 0.015, 0.02])


def test_every_section_of_working_is_printed() -> None:
    from undatum.report import figures, record

    for r in (run(), analyze(shear_building([1e8] * 2, [1e5] * 2))):
        page = record.render(r, dict.fromkeys(figures.ALL, b""), {})
        for section in r.working:
            assert f"<h3>{section.title}</h3>" in page, section.title
