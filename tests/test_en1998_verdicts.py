"""EN 1998-1: national shape of the spectrum, behavior factors that are allowed, and scope."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import shear_building, site_of
from test_en1998 import SITE, run
from undatum.finding import Finding, Severity
from undatum.results.results import Results


def of(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


@pytest.mark.parametrize("k", [8e8, 1e8, 2e7, 3e6])
def test_a_national_amplification_reaches_spectra_and_static_forces(k: float) -> None:
    """F_0 of 2.9 in place of 2.5 on ramp, plateau and falling branches, by hand."""
    national = {"source": "made-up annex", "amplification": 2.9, "vertical_amplification": 2.7}
    r = run(shear_building([k] * 4, [1.5e5] * 4), site={"national": national})
    t, q = r.statics["X", "strength"].shear.period, 3.9
    ag, soil, tb, tc, td = 0.25, 1.2, 0.15, 0.5, 2.0
    if t < tb:
        ordinate = ag * soil * (2 / 3 + t / tb * (2.9 / q - 2 / 3))
    else:
        ordinate = ag * soil * 2.9 / q * (1.0 if t <= tc else tc / t if t <= td else
                                          tc * td / t**2)
        ordinate = max(ordinate, 0.2 * ag) if t > tc else ordinate
    share = 0.85 if t <= 2 * tc else 1.0
    weight = 4 * 1.5e5 * 9.80665
    assert r.statics["X", "strength"].shear.base_shear == pytest.approx(share * ordinate * weight)
    assert float(r.reduced["X", "strength"](t)) == pytest.approx(ordinate * 9.80665)
    assert float(r.spectrum(0.3)) == pytest.approx(2.9 * ag * soil * 9.80665)
    assert r.shaking.vertical is not None
    assert float(r.shaking.vertical(0.1)) == pytest.approx(2.7 * 0.9 * ag * 9.80665)
    assert "made-up annex; recommended 2.5" in r.section("site")["F_0"].branch


@pytest.mark.parametrize(("national", "asked"), [(None, False), (0.95, True), (0.9, False)])
def test_the_vertical_component_is_asked_for_with_the_national_ratio(
    national: float | None, asked: bool
) -> None:
    """a_vg above 0.25 g (4.3.3.5.2): a_g of 0.27 g with the recommended 0.9, or with 0.95."""
    more = {} if national is None else {
        "national": {"source": "made-up annex", "vertical_ratio": national}}
    found = site_of("en1998", **{**SITE, "reference_acceleration": 0.27, **more})
    assert any(f.check == "vertical component" for f in found.findings) is asked


@pytest.mark.parametrize(("ductility", "most"), [("DCM", 2.0), ("DCH", 3.0)])
def test_torsionally_flexible_concrete_takes_the_factor_of_its_row(
    ductility: str, most: float
) -> None:
    """All lines near the middle: the torsional radius is below the radius of gyration."""
    core = shear_building([1e8] * 4, [1.5e5] * 4, lines_x=[(2.5, 0.5), (3.5, 0.5)],
                          lines_y=[(4.5, 0.5), (5.5, 0.5)])
    r = run(core, {"ductility": ductility})
    found = of(r, "torsionally flexible")
    assert {f.severity for f in found} == {Severity.EXCEEDED}
    assert found[0].capacity == pytest.approx(most)
    fine = run(core, {"ductility": ductility, "row": "concrete torsionally flexible",
                      "wall_slenderness": 4.0})
    assert not of(fine, "torsionally flexible")
    assert fine.laterals["X"].force_divisor == pytest.approx(most)
    assert not of(run(frame={"ductility": ductility}), "torsionally flexible")
    assert not of(run(core, {"row": "steel frame", "ductility": ductility}),
                  "torsionally flexible")


@pytest.mark.parametrize(("frame", "most"), [
    ({"q": 4.5, "reason": "a"}, 4.5), ({"q": 4.6, "reason": "a"}, 4.5),     # 3.0 * 1.5
    ({"q": 6.8, "reason": "a", "ductility": "DCH"}, 6.75),                  # 4.5 * 1.5
    ({"q": 3.7, "reason": "a", "regular_in_elevation": False}, 3.6),        # 0.8 * 4.5
    ({"q": 8.0, "reason": "a", "row": "steel frame", "ductility": "DCH"}, 8.0),
    ({"q": 4.1, "reason": "a", "row": "steel frame"}, 4.0),
    ({"q": 1.6, "reason": "a", "ductility": "DCL"}, 1.5),
    ({"replace": [{"symbol": "q", "value": 5.0, "reason": "abc"}]}, 4.5)])
def test_a_behavior_factor_above_what_is_allowed_is_exceeded(
    frame: dict[str, Any], most: float
) -> None:
    frame = {**frame, **({"reason": "a test"} if "q" in frame else {})}
    found = of(run(frame=frame), "largest behavior factor")
    q = frame.get("q", 5.0)
    assert bool(found) is (q > most)
    if found:
        assert found[0].severity is Severity.EXCEEDED
        assert (found[0].demand, found[0].capacity) == (pytest.approx(q), pytest.approx(most))


def test_the_ratio_of_overstrength_is_bounded_by_material() -> None:
    with pytest.raises(ud.InputError, match=r"above 1\.5"):
        run(frame={"overstrength_ratio": 1.55})
    assert run(frame={"row": "steel frame", "ductility": "DCH", "overstrength_ratio": 1.55}
               ).laterals["X"].force_divisor == pytest.approx(5.0 * 1.55)


@pytest.mark.parametrize(("ag", "ground", "severity"), [
    (0.08, "A", Severity.OK), (0.081, "D", Severity.WARNING), (0.09, "A", Severity.OK),
    (0.09, "B", Severity.WARNING)])
def test_low_ductility_is_for_low_seismicity(ag: float, ground: str, severity: Severity) -> None:
    """a_g up to 0.08 g, or a_g S up to 0.10 g (3.2.1(4))."""
    r = run(frame={"ductility": "DCL"}, site={"reference_acceleration": ag,
                                             "ground_type": ground})
    assert {f.severity for f in of(r, "ductility class")} == {severity}


@pytest.mark.parametrize(("height", "computed", "open_"), [
    (10.0, False, True), (10.1, False, False), (10.1, True, True)])
def test_the_formula_for_the_period_is_for_forty_meters(
    height: float, computed: bool, open_: bool
) -> None:
    b = shear_building([4e8] * 4, [1.5e5] * 4, height=height)
    r = run(b, {"computed_period": computed})
    found = of(r, "lateral force method")[0]
    assert (found.severity is Severity.OK) is open_
    assert ("up to 40 m" in found.text) is not open_


def test_cracking_is_judged_in_shear_too() -> None:
    def told(**wall: Any) -> set[Severity]:
        b = shear_building([1e8] * 2, [1.5e5] * 2)
        wall_of = ud.Cantilever(modulus=30e9, length=4.0, thickness=0.25, **wall)
        lines = [x.model_copy(update={"stiffness": None, "cantilever": wall_of}) for x in b.lines]
        r = run(b.model_copy(update={"lines": lines}))
        return {f.severity for f in of(r, "cracked stiffness")}

    assert told(flexural_share=0.5, shear_share=0.5) == {Severity.NOTE}
    assert told(flexural_share=0.5, shear_share=1.0) == {Severity.WARNING}
    assert told(flexural_share=1.0, shear_share=0.5) == {Severity.WARNING}


def test_where_the_static_forces_are_for_comparison_the_modal_analysis_decides() -> None:
    """Soft along X alone: the method asks for both main directions (4.3.3.2.1(2)a))."""
    b = shear_building([1e8] * 4, [1.5e5] * 4)
    lines = [x.model_copy(update={"stiffness": 1e6}) if x.name.startswith("X") else x
             for x in b.lines]
    r = run(b.model_copy(update={"lines": lines}))
    assert r.drift.barred == (True, True)
    assert (r.drift.deciding(0), r.drift.deciding(1)) == ("spectrum", "spectrum")
    assert [f.where for f in of(r, "lateral force method")] == [
        "direction X", "direction Y", "whole structure"]


@pytest.mark.parametrize(("k", "bounded"), [(8e9, "elastic spectrum"), (7e6, "beta")])
def test_the_sensitivity_coefficient_takes_the_shear_of_the_design_situation(
    k: float, bounded: str
) -> None:
    """V_tot of the design spectrum, d_r of it or, where that is less, of the elastic spectrum
    (4.3.4(1)): theta = P q / (k h) by the ratio of the two shears. Stiff, where the bound holds
    for all of them; long periods, where the least value beta governs the forces alone."""
    m, q, h, stories = 1.5e5, 3.9, 3.0, 4
    r = run(shear_building([k] * stories, [m] * stories))
    shear, for_drift = (r.statics["X", state].shear.base_shear for state in ("strength", "drift"))
    assert shear > 1.2 * for_drift, bounded
    t = r.statics["X", "strength"].shear.period
    assert t < 0.15 if bounded == "elastic spectrum" else t > 2.0
    gravity = stories * m * 9.80665
    for check in r.stability:
        if check.method == "static":
            assert check.answer.coefficient[3] == pytest.approx(
                gravity * q / (k * h) * for_drift / shear, rel=1e-6)
            assert check.shear[3] == pytest.approx(shear)


def cored(columns: tuple[str, ...] = (), size: float = 6.0, stories: int = 4) -> ud.Building:
    """A hollow core column at the center of a floor of 16 by 12 m; light columns beside."""
    return ud.Building(
        axes=ud.Axes(across_x=ud.AxisFamily(names="1..3", at=[0, 8, 16]),
                     across_y=ud.AxisFamily(names="A..C", at=[0, 6, 12])),
        stories=ud.Stories(heights={f"L{i + 1}": 3.5 for i in range(stories)}, outline="all",
                           floor="all"),
        outlines={"all": ud.Stretch(between=("A1", "C3"))},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=8e3)]}, self_weight=False,
        sections={"core": ud.CrossSection(hollow_rectangle=(size, size, 0.3),
                                          material="C30/37"),
                  "post": ud.CrossSection(rectangle=(0.2, 0.2), material="C30/37")},
        members=(ud.MemberRule(columns="B2", section="core"),
                 *(ud.MemberRule(columns=at, section="post") for at in columns)))


@pytest.mark.parametrize("columns", [(), ("A1", "A3", "C1", "C3")])
def test_a_closed_core_resists_torsion_by_itself(columns: tuple[str, ...]) -> None:
    """Its torsion is faster than its sway: no torsional flexibility, q stays; alone too."""
    r = run(cored(columns))
    kinds = list(r.modes.kinds)
    sway, twist = (float(r.modes.periods[[k == kind for k in kinds]].max())
                   for kind in ("X", "torsion"))
    assert twist < sway
    ratio = r.shape.radii[0] / r.shape.gyration
    assert ratio == pytest.approx(sway / twist, rel=0.05)  # a vector of Rayleigh, either way
    assert not [f for f in of(r, "torsional flexibility") if f.severity is not Severity.OK]
    assert "torsionally flexible" not in r.findings[0].text


@pytest.mark.parametrize("places", [(0.0, 6.0), (2.5, 3.5), (0.0, 2.0)])
def test_torsional_radius_by_the_periods(places: tuple[float, float]) -> None:
    """Of a shear building r over the radius of gyration is the ratio of its periods, uncoupled;
    of one with an eccentricity by hand."""
    b = shear_building([2e8] * 3, [1.5e5] * 3, lines_y=[(x, 0.5) for x in places],
                       lines_x=[(y, 0.5) for y in places], plan=(6.0, 6.0))
    r = run(b)
    center = sum(places) / 2
    about = np.sqrt(sum(2 * 0.5 * (p - center) ** 2 for p in places))
    assert r.shape.radii[0] == pytest.approx(about)
    if center == 3.0:
        rot = r.modes.kinds.index("torsion")
        first = min(i for i, kind in enumerate(r.modes.kinds) if kind == "X")
        own = r.shape.radii[1] / r.shape.gyration
        assert own == pytest.approx(r.modes.periods[first] / r.modes.periods[rot], rel=1e-6)
