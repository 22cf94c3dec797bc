"""EN 1998-1:2004: every table entry, the spectra, behavior factors, the method and its checks."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import Room, analyze, share_of, shear_building, site_of
from undatum import standards
from undatum.finding import Finding, Severity
from undatum.results.results import Results
from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.en1998.site import DesignSpectrum, ElasticSpectrum
from undatum.standards.facts import LoadFacts, SecondOrderFacts, StructureFacts
from undatum.standards.terms import DRIFT
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
    return site_of("en1998", **{**SITE, **more})


def system(**more: Any) -> SystemAnswer:
    facts = StructureFacts(12.0, 4, (3.0,) * 4, 1e7)
    return Room("en1998", SITE, {**FRAME, **more}, facts).job.systems["X"]


def run(building: ud.Building | None = None, frame: dict[str, Any] | None = None,
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
        ({"row": "steel frame with contacting infill", "ductility": "DCH"}, 2.0),
        ({"row": "steel frame with isolated infill"}, 4.0),
        ({"row": "composite walls"}, 3.0 * 1.1),
        ({"row": "composite coupled walls", "ductility": "DCH"}, 4.5 * 1.2),
        ({"row": "composite steel plate walls", "ductility": "DCH"}, 4.0 * 1.2),
        ({"row": "masonry confined"}, 2.0),
        ({"row": "masonry reinforced", "regular_in_elevation": False}, 2.0),
        ({"row": "timber portal frames", "ductility": "DCH"}, 4.0),
        ({"row": "timber nailed panels", "ductility": "DCH"}, 5.0),
        ({"row": "timber frame", "q": 2.5, "reason": "chapter 8, by the engineer"}, 2.5),
    ],
)
def test_behavior_factors_by_hand(given: dict[str, Any], q: float, verify: Verify) -> None:
    verify("en1998", "behavior factor q", {**FRAME, **given}, system(**given).force_divisor, q)


@pytest.mark.parametrize(
    ("given", "words"),
    [({"row": "concrete fram"}, "did you mean 'concrete frame'"),
     ({"row": "concrete coupled walls"}, "needs wall_slenderness"),
     ({"row": "timber nailed panels"}, "is not in ductility class DCM\n    it is in DCH"),
     ({"q": 3.0}, "has no reason")],
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
        (LoadFacts("live", 3e3, False), {"national": {"source": "annex", "psi2": {"B": 0.5}}}, 0.4),
    ],
)
def test_mass_shares(load: LoadFacts, more: dict[str, Any], share: float) -> None:
    found = share_of("en1998", load, ROOM.site_input(**{**SITE, **more}))
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
    facts = StructureFacts(3.0 * stories, stories, (3.0,) * stories, 1e7)
    room = Room("en1998", SITE, FRAME, facts)
    found = room.shear("strength", computed)
    verify("en1998", f"base shear over weight, {branch}",
           f"a_g S 0.3 g, ground B, q 3.9, T_1 {computed} s, {stories} stories",
           found.base_shear / 1e7, ordinate * share)
    assert branch in found.governing
    spectrum = room.dynamics.reduced("X", room.state("strength"))
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
    i = r.drift.sets.index("spectrum X, drift")
    assert r.drift.design[i, 0, 0, 0] == pytest.approx(3.9 * r.drift.elastic[i, 0, 0, 0])
    assert r.rules.directional_combination == "SRSS"


def test_stability_bands() -> None:
    h, v = np.full(4, 3.0), np.full(4, 1e6)
    theta = np.array([0.05, 0.15, 0.25, 0.35])
    found = Room("en1998", SITE, FRAME).whole.stability(SecondOrderFacts(
        "X", "static", DRIFT, theta * v * h / 0.01, np.full(4, 0.01), v, h))
    assert found.coefficient == pytest.approx(theta)
    assert found.amplification == pytest.approx([1.0, 1 / 0.85, 1 / 0.75, np.nan], nan_ok=True)
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
            twin = f"<h3>Forces in {section.key.direction} for {section.key.state}</h3>"
            assert f"<h3>{section.title}</h3>" in page or (
                section.key.kind in ("base shear", "story forces") and twin in page), section.title


# -- regularity, wall period, forces by mode shape, bound of displacements, modes ------------------


def regularity(r: Results, words: str) -> list[Finding]:
    return [f for f in r.findings if f.check.startswith("regularity in") and words in f.text]


def test_eccentricity_and_torsional_radius_by_hand(verify: Verify) -> None:
    """Lines along Y at 0, 6 and 10 m with shares 0.2, 0.2, 0.6: rigidity at 7.2 m, mass at 5 m."""
    k = 1e8
    r = run(shear_building([k] * 2, [1e5] * 2, lines_y=[(0.0, 0.2), (6.0, 0.2), (10.0, 0.6)]))
    kx = {0.0: 0.5, 6.0: 0.5}
    torsional = sum(s * (y - 3.0) ** 2 for y, s in kx.items()) + sum(
        s * (x - 7.2) ** 2 for x, s in ((0.0, 0.2), (6.0, 0.2), (10.0, 0.6)))
    e, radius, gyration = 2.2, np.sqrt(torsional), np.sqrt((100 + 36) / 12)
    about = "10 m by 6 m, lines along Y at 0, 6, 10 m with 0.2, 0.2, 0.6 of k, along X at 0 and 6 m"
    verify("en1998", "eccentricity e_0x, m", about, r.shape.eccentricities[0, 0], e)
    verify("en1998", "torsional radius r_x, m", about, r.shape.radii[0, 0], radius)
    verify("en1998", "radius of gyration l_s, m", about, r.shape.gyration[0], gyration)
    item = regularity(r, "Eccentricity over")[0]
    assert item.demand == pytest.approx(e / radius)
    assert item.severity is Severity.NOTE  # 0.48 is above 0.30
    claim = [f for f in r.findings if f.check == "regularity in plan" and "states" in f.text]
    assert claim[0].severity is Severity.EXCEEDED
    honest = run(shear_building([k] * 2, [1e5] * 2, lines_y=[(0.0, 0.2), (6.0, 0.2), (10.0, 0.6)]),
                 frame={"regular_in_plan": False})
    assert not [f for f in honest.findings if "states" in f.text]


def test_torsional_radius_takes_the_stiffness_across_it() -> None:
    """Along Y twice as stiff as along X: r_x is over k_y, r_y over k_x."""
    b = shear_building([1e8] * 2, [1e5] * 2)
    lines = [x.model_copy(update={"stiffness": [2 * k for k in x.stiffness]})  # type: ignore[union-attr]
             if x.name.startswith("Y") else x for x in b.lines]
    r = run(ud.Building(levels=b.levels, lines=lines))
    torsional = 1e8 * 3.0**2 + 2e8 * 5.0**2
    assert r.shape.radii[0] == pytest.approx(np.sqrt(torsional / 2e8))
    assert r.shape.radii[1] == pytest.approx(np.sqrt(torsional / 1e8))


def test_slender_and_flexible_in_torsion() -> None:
    long = run(shear_building([1e8] * 2, [1e5] * 2, plan=(41.0, 10.0)))
    assert regularity(long, "Slenderness")[0].demand == pytest.approx(4.1)
    assert regularity(long, "Slenderness")[0].severity is Severity.NOTE
    core = shear_building([1e8] * 2, [1e5] * 2, lines_x=[(2.5, 0.5), (3.5, 0.5)],
                          lines_y=[(4.0, 0.5), (6.0, 0.5)])
    found = regularity(run(core), "radius of gyration")
    assert found[0].demand == pytest.approx(np.sqrt(0.25 + 1.0) / np.sqrt(136 / 12))
    assert {f.severity for f in found} == {Severity.NOTE}


def tower(steps: list[tuple[float, float]]) -> ud.Building:
    """Stories of 3 m, top down, each from x0 to x1 and 10 m deep."""
    k = 1e8
    levels = [
        ud.Level(name=f"L{len(steps) - i}", height=3.0,
                 outline=[(a, 0), (b, 0), (b, 10), (a, 10)],
                 loads=[ud.Load(name="floor", kind="dead", per_area=6e3)])
        for i, (a, b) in enumerate(steps)]
    a, b = steps[-1]
    levels.append(ud.Level(name="Ground", outline=[(a, 0), (b, 0), (b, 10), (a, 10)]))
    middle = sum(steps[0]) / 2
    lines = [ud.Line(name=n, at=at, direction=d, bottom="Ground", top=levels[0].name, stiffness=k)
             for n, at, d in (("x0", (middle, 0), "X"), ("x1", (middle, 10), "X"),
                              ("y0", (steps[0][0], 5), "Y"), ("y1", (steps[0][1], 5), "Y"))]
    return ud.Building(levels=levels, lines=lines)


@pytest.mark.parametrize(
    ("steps", "words", "severity"),
    [
        ([(0, 20)] * 4, "No set-back", Severity.OK),
        ([(1.9, 18.1), (0, 20), (0, 20), (0, 20)], "symmetry kept", Severity.OK),       # 19 %
        ([(2.1, 17.9), (0, 20), (0, 20), (0, 20)], "symmetry kept", Severity.NOTE),     # 21 %
        ([(0, 18.2), (0, 20), (0, 20), (0, 20)], "one face", Severity.OK),              # 9 %
        ([(0, 17.8), (0, 20), (0, 20), (0, 20)], "one face", Severity.NOTE),            # 11 %
        ([(0, 14.7), (0, 16.2), (0, 18), (0, 20)], "one face", Severity.OK),            # 26.5 %
        ([(0, 12), (0, 13.3), (0, 14.7), (0, 16.2), (0, 18), (0, 20)], "one face", Severity.NOTE),
        ([(0, 11)] * 6 + [(0, 20)], "lowest 15 %", Severity.OK),                        # 45 %
        ([(0, 9)] * 6 + [(0, 20)], "lowest 15 %", Severity.NOTE),                       # 55 %
        ([(5.5, 14.5)] * 6 + [(0, 20)], "lowest 15 %", Severity.NOTE),  # 55 %, both sides
        ([(5.1, 14.9)] * 6 + [(0, 20)], "lowest 15 %", Severity.NOTE),  # 51 %
        ([(5.0, 15.0)] * 6 + [(0, 20)], "lowest 15 %", Severity.OK),    # 50 %
        ([(0, 11)] * 5 + [(0, 20)] * 2, "one face", Severity.NOTE),  # 45 %, at 29 % of H
        ([(0, 22), (0, 20)], "extends beyond", Severity.NOTE),
    ],
)
def test_set_backs(steps: list[tuple[float, float]], words: str, severity: Severity) -> None:
    r = run(tower(steps))
    found = [f for f in r.findings if f.check == "regularity in elevation"
             and "direction X" in f.where and "states" not in f.text]
    assert words in found[0].text
    assert found[0].severity is severity
    claims = [f for f in r.findings if "regular_in_elevation = true" in f.text]
    assert bool(claims) == (severity is not Severity.OK and words != "extends beyond")


def walls(**wall: Any) -> ud.Building:
    b = shear_building([1e8] * 4, [1.5e5] * 4)
    section = ud.Cantilever(modulus=30e9, length=4.0, thickness=0.25, **wall)
    lines = [ud.Line(name=f"{d}{i}", at=at, direction=d, bottom="Ground", top="L4",
                     cantilever=section)
             for i, (d, at) in enumerate((("X", (5, 0)), ("X", (5, 6)), ("Y", (0, 3)),
                                          ("Y", (10, 3))))]
    return ud.Building(levels=b.levels, lines=lines)


def test_period_by_walls_by_hand(verify: Verify) -> None:
    frame = {"row": "concrete uncoupled walls", "wall_slenderness": 3.0, "period_basis": "walls",
             "computed_period": False}
    r = run(walls(), frame=frame)
    area = 2 * 1.0 * (0.2 + 4.0 / 12.0) ** 2
    verify("en1998", "period by walls T_1, s", "two walls of 4.0 m by 0.25 m, H 12 m",
           r.statics["X", "strength"].shear.period, 0.075 / np.sqrt(area) * 12**0.75)
    with pytest.raises(ud.InputError, match="no rectangular wall"):
        run(frame={"period_basis": "walls"})


def test_walls_are_named_in_the_record() -> None:
    """Two walls along X: their table bears the names of the walls, not of levels."""
    from undatum.report import figures, record

    r = run(walls(), frame={"row": "concrete uncoupled walls", "wall_slenderness": 3.0,
                            "period_basis": "walls"})
    page = record.render(r, dict.fromkeys(figures.ALL, b""), {})
    part = page[page.index("<h3>Period in X</h3>"):page.index("<h3>Period in Y</h3>")]
    assert ">X0<" in part
    assert ">X1<" in part
    assert ">L4<" not in part
    assert "areas of the walls (X0; all below)" in part


def test_cracked_stiffness_is_asked_for() -> None:
    frame = {"row": "concrete uncoupled walls", "wall_slenderness": 3.0}
    gross = [f for f in run(walls(), frame=frame).findings if f.check == "cracked stiffness"]
    half = [f for f in run(walls(flexural_share=0.5, shear_share=0.5), frame=frame).findings
            if f.check == "cracked stiffness"]
    assert {f.severity for f in gross} == {Severity.WARNING}
    assert {f.severity for f in half} == {Severity.NOTE}


def test_forces_by_mode_shape() -> None:
    """Two equal masses and springs: the mode is 1 to 0.618, heights are 1 to 0.5."""
    b = shear_building([1e8] * 2, [1.5e5] * 2)
    f = run(b, frame={"distribution": "mode shape"}).statics["X", "strength"].forces
    golden = (np.sqrt(5) - 1) / 2
    assert f / f.sum() == pytest.approx(np.array([1, golden]) / (1 + golden))
    plain = run(b).statics["X", "strength"].forces
    assert plain / plain.sum() == pytest.approx([2 / 3, 1 / 3])
    assert plain.sum() == pytest.approx(f.sum())


def test_displacements_need_not_exceed_the_elastic_ones(verify: Verify) -> None:
    """Long period: the least value of the design spectrum would give more than the elastic."""
    r = run(shear_building([1.2e6] * 4, [1.5e5] * 4))
    t = float(r.modes.periods[r.modes.governing(0)])
    assert t > 2.0
    drift, strength = (r.statics["X", p].shear.coefficient for p in ("drift", "strength"))
    elastic = 0.25 * 1.2 * 2.5 * 0.5 * 2.0 / t**2
    verify("en1998", "ordinate for displacements, g", f"q 3.9, T_1 {t:.3f} s", drift, elastic / 3.9)
    assert strength == pytest.approx(0.2 * 0.25)
    assert "elastic" in r.statics["X", "drift"].shear.governing
    x, y = (next(s for s in r.spectrum_sets if s.state.key == p and s.direction == "X")
            for p in ("drift", "strength"))
    shear = r.model.quantities["story shear"].where(component="X")
    assert np.all(x.of(shear) < y.of(shear))


def test_modes_asked_for_and_srss() -> None:
    fine = [f for f in run().findings if f.check == "modes used"]
    assert fine[0].severity is Severity.OK
    few = run(analysis={"mass_target": 0.5})
    item = next(f for f in few.findings if f.check == "modes used")
    assert item.severity is Severity.WARNING
    assert "6 modes" in item.text  # 3 sqrt(4)
    barred = run(analysis={"modal_combination": "SRSS"})
    close = [f for f in barred.findings if f.check == "combination of modes"]
    gaps = barred.modes.periods[1:barred.modes.kept] / barred.modes.periods[
        : barred.modes.kept - 1]
    assert bool(close) == bool((gaps > 0.9).any())
    assert close


def test_simplified_torsion_factor_beside_the_analysis() -> None:
    """Two lines each way, 6 m and 10 m apart, all of one stiffness: 1 + 0.6 x/L_e is 1.3.

    By statics a torque of 0.05 L F on lines at x_i takes F_i (1 + 0.05 L k_i x_i / sum k x^2 ...).
    """
    r = run(shear_building([1e8] * 3, [1.5e5] * 3))
    assert r.torsion_factors is not None
    found = {row[1]: row for row in r.torsion_factors.rows()}
    assert found["X0"][2:5] == pytest.approx((3.0, 6.0, 1.3))
    polar = 1e8 * (3.0**2 + 5.0**2)  # half of k on each line: 2 k/2 (3^2 + 5^2)
    for name, arm, across in (("X0", 3.0, 6.0), ("Y0", 5.0, 10.0)):
        exact = 1 + 0.05 * across * 1e8 * arm / polar
        assert found[name][5] == pytest.approx(exact)
        assert float(str(found[name][5])) < float(str(found[name][4]))
    assert analyze(shear_building([1e8], [1e5])).torsion_factors is None


def test_period_by_sway_and_vertical_parameters(verify: Verify) -> None:
    """One story: d = m g / k, so T_1 is 2 sqrt(m g / k), close to 2 pi sqrt(m / k)."""
    r = run(shear_building([2e7], [1e5]), frame={"period_basis": "sway", "computed_period": False})
    verify("en1998", "period by sway T_1, s", "one story, 100 t on 20 kN/mm",
           r.statics["X", "strength"].shear.period, 2 * np.sqrt(1e5 * G / 2e7))
    assert r.modes.periods[0] == pytest.approx(2 * np.pi * np.sqrt(1e5 / 2e7))
    own = {"source": "annex", "vertical_ratio": 0.7, "vertical_TC": 0.2}
    room = Room("en1998", {**SITE, "national": own}, FRAME)
    v = room.ground.vertical(room.site)
    assert v is not None
    assert dict(v.spectrum.corners) == {"TB": 0.05, "TC": 0.2, "TD": 1.0}
    assert float(v.spectrum(0.1)) / G == pytest.approx(3 * 0.7 * 0.25)
    assert v.working["c_v"].branch == "annex; recommended 0.9"


@pytest.mark.parametrize(("row", "ductility", "factor"), [
    ("concrete uncoupled walls", "DCM", 1.5), ("concrete uncoupled walls", "DCH", None),
    ("concrete uncoupled walls", "DCL", None), ("concrete frame", "DCM", None)])
def test_shears_of_ductile_walls_are_raised_beside_the_analysis(
    row: str, ductility: str, factor: float | None
) -> None:
    """5.4.2.4(7): 1.5 in class DCM, story by story, of the largest set; nothing else changes."""
    from test_walls import CORE, building

    one = ud.run(ud.make_project(
        title="w", standard="en1998", building=building(CORE, 3), results_in="kN and m",
        site={"reference_acceleration": 0.1, "ground_type": "B", "importance_class": "II",
              "use": "B"},
        system={d: {"row": row, "ductility": ductility, "regular_in_plan": True,
                    "regular_in_elevation": True, "wall_slenderness": 2.5} for d in "XY"}))
    if factor is None:
        assert "wall_design_shears" not in one.table_names
        return
    table = one.to_frame("wall_design_shears")
    assert len(table) == 3 * len(CORE)
    found = one.read("walls")
    places = list(zip(found.thing.places["wall"], found.thing.places["part"],
                      found.thing.places["story"], strict=True))
    for _, line in table.iterrows():
        own = [k for k, p in enumerate(places) if p == (line["wall"], "whole wall", line["story"])]
        most = np.abs(found.values[:, own, 1]).max() / 1e3
        assert line["shear of the analysis (kN)"] == pytest.approx(most, rel=1e-9)
        assert line["design shear (kN)"] == pytest.approx(1.5 * most, rel=1e-9)


@pytest.mark.parametrize("resistance", [1.1, 2.0, 6.0])
def test_shears_of_walls_of_class_dch_rise_with_the_resistance_of_their_foot(
    resistance: float
) -> None:
    """5.5.2.4: slender walls with higher modes, from 1.5 to q; squat ones without, up to q."""
    from test_walls import building, wall

    walls = [wall("a", (1, 1), (4, 1)), wall("b", (1, 8), (4, 8)), wall("c", (1, 3), (1, 6)),
             wall("squat", (6, 4), (11, 4)), wall("d", (11, 2), (11, 5))]
    one = ud.run(ud.make_project(
        title="w", standard="en1998", building=building(walls, 3), results_in="kN and m",
        site={"reference_acceleration": 0.25, "ground_type": "B", "importance_class": "II",
              "use": "B"},
        system={d: {"row": "concrete uncoupled walls", "ductility": "DCH", "regular_in_plan": True,
                    "regular_in_elevation": True, "wall_slenderness": 2.5,
                    "wall_overstrength": resistance} for d in "XY"}))
    q = one.laterals["X"].force_divisor
    table = one.to_frame("wall_design_shears").set_index("wall")
    for name, d in (("a", "X"), ("c", "Y")):  # 9 m high, 3 m long
        t = one.computed[d]
        plateau = 1.2 * 2.5 * 0.25 * G  # S_e on ground B up to T_C = 0.5 s
        ordinate = plateau if t <= 0.5 else plateau * 0.5 / t
        if t < 0.15:
            ordinate = 1.2 * 0.25 * G * (1 + t / 0.15 * 1.5)
        hand = q * np.sqrt((1.2 / q * resistance) ** 2 + 0.1 * (plateau / ordinate) ** 2)
        assert table.loc[name, "factor"].tolist() == pytest.approx([max(min(hand, q), 1.5)] * 3)
    assert table.loc["squat", "factor"].tolist() == pytest.approx([min(1.2 * resistance, q)] * 3)
    assert set(table.loc["squat", "clause"]) == {"5.5.2.4.2(2), Eq. 5.26"}


@pytest.mark.parametrize(("row", "ductility", "cot", "there"), [
    ("concrete uncoupled walls", "DCM", 1.0, True), ("concrete uncoupled walls", "DCH", 2.0, True),
    ("concrete uncoupled walls", "DCL", 1.0, False), ("concrete frame", "DCM", 1.0, False)])
def test_moments_of_slender_walls_have_a_straight_envelope_that_is_shifted(
    row: str, ductility: str, cot: float, there: bool
) -> None:
    """5.4.2.4(5): over all moments, no lower straight line from the foot does; 0.4 l_w cot theta
    up. Walls up to twice as high as long have none."""
    from test_walls import building, wall

    slender = [wall("a", (1, 1), (4, 1)), wall("b", (1, 8), (4, 8)), wall("c", (1, 3), (1, 6)),
               wall("d", (11, 3), (11, 6)), wall("long", (5, 5), (10, 5), thickness=0.02)]
    more = {"strut_cotangent": cot} if cot != 1 else {}
    one = ud.run(ud.make_project(
        title="w", standard="en1998", building=building(slender, 3, height=3.2),
        results_in="kN and m",
        site={"reference_acceleration": 0.1, "ground_type": "B", "importance_class": "II",
              "use": "B"},
        system={d: {"row": row, "ductility": ductility, "regular_in_plan": True,
                    "regular_in_elevation": True, "wall_slenderness": 3.0, **more} for d in "XY"}))
    if not there:
        assert "wall_design_moments" not in one.table_names
        return
    table = one.to_frame("wall_design_moments")
    assert set(table["wall"]) == {"a", "b", "c", "d"}  # 9.6 m over 5 m is squat
    found = one.read("walls", "a").values
    for name, own in table.groupby("wall"):
        z, m = own["above the foot (m)"].to_numpy(), own["moment of the analysis (kN·m)"].to_numpy()
        line, design = (own[f"{what} (kN·m)"].to_numpy() for what in ("envelope", "design moment"))
        foot = m[z == 0][0]
        assert (line >= m * (1 - 1e-9)).all()
        tops = [top for top in np.linspace(0, foot, 20001)
                if (foot + (top - foot) * z / 9.6 >= m * (1 - 1e-9)).all()]
        assert line[z == 9.6] == pytest.approx(tops[0], abs=foot / 1e4)
        shift = 0.5 * 0.8 * 3.0 * cot
        assert own["shift (m)"].to_numpy() == pytest.approx(shift)
        slope = (line[z == 9.6][0] - foot) / 9.6
        assert design == pytest.approx(foot + slope * np.maximum(z - shift, 0.0))
        if name == "a":
            assert m.max() == pytest.approx(np.abs(found[..., 5]).max() / 1e3)


def test_irregular_infills_double_the_accidental_eccentricity() -> None:
    """4.3.6.3.1(4): moments of 10 % of the plan in place of 5 %, in both directions."""
    plain, infilled = run(), run(frame={"irregular_infills": True})
    for one, other in zip(plain.static_sets, infilled.static_sets, strict=True):
        assert other.accidental == pytest.approx(2 * one.accidental)
        assert other.forces == pytest.approx(one.forces)
