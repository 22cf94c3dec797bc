"""IS 1893 (Part 1), 2002 and 2016: spectrum, period, base shear, eccentricity, drift, scaling."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from conftest import Room, analyze, share_of, shear_building, site_of, twisted
from undatum import standards
from undatum.analysis.combine import combiner
from undatum.finding import Severity
from undatum.results.results import Results
from undatum.standards.facts import LoadFacts, StructureFacts
from verification import Verify

G = 9.80665
SITE: dict[str, Any] = {"zone": "IV", "soil": "II", "importance_factor": "1.0"}
FRAME: dict[str, Any] = {"row": "RC SMRF", "regular": True}
EDITIONS = ("2002", "2016")


def run(edition: str, building: ud.Building | None = None,
        frame: dict[str, Any] | None = None, **more: Any) -> Results:
    frame = {**FRAME, **(frame or {})}
    return analyze(building or shear_building([1.2e8] * 5, [2e5] * 5),
                   standard=f"is1893-{edition}", site={**SITE, **more.pop("site", {})},
                   system={"X": frame, "Y": frame}, **more)


def shear(edition: str, height: float, frame: dict[str, Any] | None = None,
          plan: tuple[float, float] = (20.0, 12.0), **site: Any) -> Any:
    facts = StructureFacts(height, 5, (height / 5,) * 5, 1e7, plan)
    room = Room(f"is1893-{edition}", {**SITE, **site}, {**FRAME, **(frame or {})}, facts)
    return room.shear("strength", None)


@pytest.mark.parametrize(("zone", "z"), [("II", 0.10), ("III", 0.16), ("IV", 0.24), ("V", 0.36)])
@pytest.mark.parametrize("edition", EDITIONS)
def test_zone_factors(edition: str, zone: str, z: float) -> None:
    room = standards.get(f"is1893-{edition}")
    a = site_of(room, **{**SITE, "zone": zone})
    assert a.parameters["Z"] == z
    assert float(a.spectrum(0.3)) == pytest.approx(z / 2 * 2.5 * G)


@pytest.mark.parametrize(
    ("soil", "corner", "a", "beyond"),
    [("I", 0.40, 1.00, 0.25), ("II", 0.55, 1.36, 0.34), ("III", 0.67, 1.67, 0.42)],
)
def test_spectrum_by_hand(
    soil: str, corner: float, a: float, beyond: float, verify: Verify
) -> None:
    room = standards.get("is1893-2016")
    s = site_of(room, **{**SITE, "soil": soil}).spectrum
    t = np.array([0.0, 0.05, 0.1, corner, 1.0, 3.9, 5.0])
    for period, hand in zip(t, [1.0, 1.75, 2.5, 2.5, a, a / 3.9, beyond], strict=True):
        verify("is1893", "Sa/g, 2016", f"soil {soil}, T {period:g} s",
               float(s(period)) / (0.12 * G), hand)
    old = standards.get("is1893-2002")
    early = site_of(old, **{**SITE, "soil": soil}).spectrum
    assert early(t[:-1]) == pytest.approx(s(t[:-1]))
    with pytest.raises(ud.InputError, match="no ordinate beyond 4 s"):
        early(t)


@given(soil=st.sampled_from(["I", "II", "III"]))
def test_spectrum_is_nearly_continuous(soil: str) -> None:
    """The printed constants close to within two per cent at the corners."""
    room = standards.get("is1893-2016")
    s = site_of(room, **{**SITE, "soil": soil}).spectrum
    for corner in s.corners.values():
        assert float(s(corner * (1 - 1e-9))) == pytest.approx(float(s(corner * (1 + 1e-9))),
                                                              rel=0.02)


@pytest.mark.parametrize(("percent", "factor"), [(0, 3.2), (2, 1.4), (5, 1.0), (6, 0.95), (10, 0.8),
                                                 (30, 0.5)])
def test_damping_factors_of_2002(percent: float, factor: float) -> None:
    room = standards.get("is1893-2002")
    s = site_of(room, **{**SITE, "damping": percent / 100}).spectrum
    assert float(s(0.3)) == pytest.approx(0.12 * 2.5 * G * factor)


@pytest.mark.parametrize(
    ("frame", "period"),
    [({}, 0.075 * 18**0.75), ({"infilled": True}, 0.09 * 18 / np.sqrt(20.0)),
     ({"row": "ductile RC walls"}, 0.09 * 18 / np.sqrt(20.0)),
     ({"period": 0.8, "reason": "wall formula, by the engineer"}, 0.8)],
)
@pytest.mark.parametrize("edition", EDITIONS)
def test_period_formulas(
    edition: str, frame: dict[str, Any], period: float, verify: Verify
) -> None:
    verify("is1893", f"approximate period, {edition}, s", {**FRAME, **frame, "h": "18 m"},
           shear(edition, 18.0, frame).period, period)


def test_steel_frames_have_their_own_coefficient() -> None:
    assert shear("2016", 18.0, {"row": "steel SMRF"}).period == pytest.approx(0.085 * 18**0.75)
    old = shear("2002", 18.0, {"row": "steel moment frame to SP 6(6)"})
    assert old.period == pytest.approx(0.085 * 18**0.75)


@pytest.mark.parametrize(
    ("edition", "height", "more", "coefficient", "branch"),
    [
        # T_a = 0.075 x 18^0.75 = 0.6554 s on soil II: falling branch 1.36/T.
        ("2016", 18.0, {}, 0.12 * 1.36 / (0.075 * 18**0.75) / 5, "falling"),
        ("2002", 18.0, {"importance_factor": "1.5"}, 0.12 * 1.36 / (0.075 * 18**0.75) * 1.5 / 5,
         "falling"),
        ("2016", 9.0, {}, 0.12 * 2.5 / 5, "plateau"),
        # A very tall frame: the least value of Table 7 for zone IV.
        ("2016", 160.0, {}, 0.016, "least value"),
        # T_a = 0.0892 s < 0.1 s: 2002 keeps Z/2, 2016 the plateau.
        ("2002", 1.26, {}, 0.12, "Z/2"),
        ("2016", 1.26, {}, 0.12 * 2.5 / 5, "plateau"),
        ("2016", 220.0, {"zone": "V"}, 0.024, "least value"),
    ],
)
def test_base_shear_by_hand(
    edition: str, height: float, more: dict[str, Any], coefficient: float, branch: str,
    verify: Verify,
) -> None:
    found = shear(edition, height, **more)
    verify("is1893", f"base shear over weight, {edition}, {branch}",
           {**SITE, **more, "height": f"{height} m", "system": "RC SMRF"}, found.coefficient,
           coefficient)
    assert branch in found.governing


@pytest.mark.parametrize("edition", EDITIONS)
def test_whole_job(edition: str) -> None:
    r = run(edition)
    static = r.statics["X", "strength"]
    h = np.array([15.0, 12.0, 9.0, 6.0, 3.0])
    assert static.forces / static.forces.sum() == pytest.approx(h**2 / np.sum(h**2))
    assert r.drift.limits[0] == 0.004
    i = r.drift.sets.index("static X, +e, drift")
    assert r.drift.design[i, 0, 0, 0] == pytest.approx(r.drift.elastic[i, 0, 0, 0])
    for s in r.scaling:
        v = r.statics[s.direction, "strength"].shear.base_shear
        expected = max(1.0, v / s.modal_base_shear)
        assert expected > 1.05 or s.state.key == "drift"
        scaled = s.state.key == "strength"  # 7.11.1: displacements are not lifted to a bound
        assert s.answer.factor == pytest.approx(expected if scaled else 1.0)
    assert all("for information" in f.text for f in r.findings if f.check.startswith("P-Delta"))


@pytest.mark.parametrize("edition", EDITIONS)
def test_design_eccentricity_by_hand(edition: str) -> None:
    """1.5 e + 0.05 b away from the center of rigidity, e - 0.05 b towards it."""
    a, k = 20.0, 1.0e8
    r = run(edition, shear_building([k], [3e5], plan=(a, 10.0), lines_y=[(0.0, 0.4), (a, 0.6)]))
    force = r.statics["Y", "strength"].forces[0]
    e = a / 2 - 0.6 * a  # mass lies at -x of the center of rigidity
    torques = {s.sign: s.torques[0] for s in r.static_sets
               if s.direction == "Y" and s.state.key == "strength"}
    assert torques[1] == pytest.approx(0.05 * a * force)
    assert torques[-1] == pytest.approx((0.5 * e - 0.05 * a) * force)
    # About the center of rigidity: the whole design eccentricity.
    assert e * force + torques[-1] == pytest.approx((1.5 * e - 0.05 * a) * force)
    one = next(s for s in r.spectrum_sets if s.direction == "Y")
    assert one.torsion is not None
    angle = abs(one.torsion[2, 0])  # the spectrum analysis takes the accidental part alone
    k_theta = k * 5.0**2 + 0.4 * k * 12.0**2 + 0.6 * k * 8.0**2
    assert angle == pytest.approx(0.05 * a * force / k_theta, rel=1e-9)


@pytest.mark.parametrize(
    ("edition", "load", "share"),
    [
        ("2016", LoadFacts("dead", 1e3, False), 1.0),
        ("2016", LoadFacts("live", 3.0e3, False), 0.25),
        ("2016", LoadFacts("live", 3.1e3, False), 0.50),
        ("2002", LoadFacts("storage", 7e3, False), 0.50),
        ("2002", LoadFacts("live", 2e3, True), 0.0),
        ("2016", LoadFacts("snow", 1.6e3, True), 0.2),
        ("2016", LoadFacts("snow", 1.4e3, True), 0.0),
        ("2002", LoadFacts("snow", 1.6e3, True), 0.0),
    ],
)
def test_imposed_load_shares(edition: str, load: LoadFacts, share: float) -> None:
    assert share_of(f"is1893-{edition}", load).share == share


@pytest.mark.parametrize(
    ("edition", "ratio", "severity"),
    [("2002", 1.2, Severity.OK), ("2002", 1.21, Severity.WARNING), ("2016", 1.2, Severity.OK),
     ("2016", 1.21, Severity.WARNING), ("2016", 1.34, Severity.EXCEEDED)],
)
def test_torsional_irregularity(edition: str, ratio: float, severity: Severity) -> None:
    """max/avg of 1.2 is max/min of 1.5; 4/3 is 2."""
    room = Room(f"is1893-{edition}", SITE, FRAME)
    assert room.forces.torsion("X", twisted(ratio)).finding.severity is severity


@pytest.mark.parametrize(
    ("edition", "zone", "stories", "regular", "allowed"),
    [("2016", "II", 4, True, True), ("2016", "II", 5, True, False), ("2016", "III", 2, True, False),
     ("2002", "IV", 13, True, True), ("2002", "IV", 14, True, False),
     ("2002", "IV", 5, False, False), ("2002", "II", 13, False, True)],
)
def test_static_method_limits(
    edition: str, zone: str, stories: int, regular: bool, allowed: bool
) -> None:
    b = shear_building([4e8] * stories, [2e5] * stories)
    r = run(edition, b, frame={"regular": regular}, site={"zone": zone})
    found = next(f for f in r.findings if f.check == "static procedure")
    assert (found.severity is Severity.OK) == allowed


def test_tables_of_r_differ_between_the_editions() -> None:
    tables = {e: {r[0]: r[1] for r in standards.get(f"is1893-{e}").systems_table().rows()}
              for e in EDITIONS}
    key = "dual, ductile RC walls and RC OMRF"
    assert (tables["2002"][key], tables["2016"][key]) == (4.5, 4.0)
    assert tables["2016"]["steel special concentric braces"] == 4.5
    assert tables["2002"]["masonry with RC bands and vertical bars"] == 3.0
    assert tables["2016"]["masonry with RC bands and vertical bars"] == 2.5
    with pytest.raises(ud.InputError, match="not in the table of R of 2002"):
        run("2002", frame={"row": "steel SMRF"})
    with pytest.raises(ud.InputError, match="did you mean 'RC SMRF'"):
        run("2016", frame={"row": "RC SMF"})


# -- what is asked of the modes -------------------------------------------------------------------


def test_close_modes_are_added_without_sign(verify: Verify) -> None:
    """Groups within 10 % of their lowest frequency: {1.0, 1.1}, {1.2}, {2.0, 2.2}."""
    values = np.array([3.0, -4.0, 2.0, 1.0, 5.0])
    omega = np.array([1.0, 1.1, 1.2, 2.0, 2.2])
    found = combiner("SRSS, close modes absolute", omega).peaks(values)
    verify("is1893", "close modes absolute, then SRSS", "3, -4 | 2 | 1, 5 in three groups",
           float(found), np.sqrt(7.0**2 + 2.0**2 + 6.0**2))
    apart = combiner("SRSS, close modes absolute", omega**8).peaks(values)
    assert float(apart) == pytest.approx(np.sqrt((values**2).sum()))


def test_srss_with_close_modes_is_flagged() -> None:
    twin = shear_building([1.2e8] * 3, [2e5] * 3)  # the same in X and Y
    barred = run("2016", twin, analysis={"modal_combination": "SRSS"})
    found = [f for f in barred.findings if f.check == "combination of modes"]
    assert found[0].severity is Severity.EXCEEDED
    allowed = run("2016", twin, analysis={"modal_combination": "SRSS, close modes absolute"})
    assert not [f for f in allowed.findings if f.check == "combination of modes"]


def test_first_three_modes_and_periods_apart() -> None:
    """A building alike in X and Y has equal periods; one with 1.3 times the stiffness does not."""
    same = run("2016", shear_building([1.2e8] * 3, [2e5] * 3))
    apart = next(f for f in same.findings if f.check == "fundamental periods apart")
    assert apart.severity is Severity.WARNING
    b = shear_building([1.2e8] * 3, [2e5] * 3)
    lines = [x.model_copy(update={"stiffness": [1.3 * k for k in x.stiffness]})  # type: ignore[union-attr]
             if x.name.startswith("Y") else x for x in b.lines]
    other = run("2016", ud.Building(levels=b.levels, lines=lines))
    apart = next(f for f in other.findings if f.check == "fundamental periods apart")
    assert apart.severity is Severity.OK
    assert apart.capacity == pytest.approx(1 - 1 / np.sqrt(1.3), rel=1e-6)
    three = next(f for f in other.findings if f.check == "first three modes")
    assert three.capacity == pytest.approx(
        float(other.modes.mass_ratios[:3, :2].sum(axis=0).min()))
    quiet = run("2016", site={"zone": "II"})
    assert not [f for f in quiet.findings if f.check == "fundamental periods apart"]


def test_first_three_modes_of_a_tower_on_a_heavy_podium() -> None:
    """A light tower vibrates first; the heavy, stiff podium below carries the mass later."""
    shares = []
    for podium in (1.0e5, 1.4e5, 2.4e5, 6e6):
        r = run("2016", shear_building([2e7, 2e7, 2e7, 4e9], [1e5, 1e5, 1e5, podium]))
        found = next(f for f in r.findings if f.check == "first three modes")
        assert found.capacity is not None
        assert (found.severity is Severity.WARNING) == (found.capacity < 0.65)
        shares.append(found.capacity)
    assert shares == sorted(shares, reverse=True)
    assert shares[0] > 0.65 > shares[1] > 0.05


def test_torsional_period() -> None:
    core = shear_building([1.2e8] * 3, [2e5] * 3, lines_x=[(2.5, 0.5), (3.5, 0.5)],
                          lines_y=[(4.5, 0.5), (5.5, 0.5)])
    found = [f for f in run("2016", core).findings if f.check == "torsional period"]
    assert found[0].severity is Severity.WARNING
    assert not [f for f in run("2002", core).findings if f.check == "torsional period"]
    assert [f for f in run("2016").findings if f.check == "stiffness reduction"]
