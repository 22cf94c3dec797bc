"""NZS 1170.5:2004 by hand: spectral shape as printed, reduction, forces, drift and scope."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import shear_building
from undatum.finding import Finding, Severity
from undatum.results.results import Results
from undatum.standards.nzs1170.site import largest_near_fault, near_fault, shape_factor
from undatum.standards.nzs1170.system import kind_of

K, M = 6e7, 2e5
SITE: dict[str, Any] = {"hazard_factor": 0.3, "subsoil": "C", "importance_level": "2"}
PERIODS = [0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 4.0, 4.5]
STATIC = {  # Table 3.1 as printed, to two decimals
    "A": [1.89] * 5 + [1.6, 1.4, 1.24, 1.12, 1.03, 0.95, 0.7, 0.53, 0.42, 0.35, 0.26, 0.2, 0.16],
    "C": [2.36] * 5 + [2.0, 1.74, 1.55, 1.41, 1.29, 1.19, 0.88, 0.66, 0.53, 0.44, 0.32, 0.25, 0.2],
    "D": [3.0] * 6 + [2.84, 2.53, 2.29, 2.09, 1.93, 1.43, 1.07, 0.86, 0.71, 0.52, 0.40, 0.32],
    "E": [3.0] * 11 + [2.21, 1.66, 1.33, 1.11, 0.81, 0.62, 0.49]}
MODAL = {"A": [1.00, 2.35, 2.35, 2.35, 1.89], "C": [1.33, 2.93, 2.93, 2.93, 2.36],
         "D": [1.12, 3.0, 3.0, 3.0, 3.0], "E": [1.12, 3.0, 3.0, 3.0, 3.0]}


def run(k: list[float], m: list[float] | None = None, mu: float = 3.0,
        site: dict[str, Any] | None = None, height: float = 3.0, building: Any = None,
        system: dict[str, Any] | None = None, **more: Any) -> Results:
    b = building or shear_building(k, m or [M] * len(k), height=height)
    return ud.analyze(title="t", standard="nzs1170", results_in="kN and m", building=b,
                      site={**SITE, **(site or {})},
                      system={d: {"ductility": mu, **(system or {})} for d in b.directions}, **more)


def found(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check == check]


@pytest.mark.parametrize("subsoil", STATIC)
def test_the_spectral_shape_is_that_of_the_table(subsoil: str) -> None:
    assert np.abs(shape_factor(PERIODS, subsoil, static=True) - STATIC[subsoil]).max() < 0.0101
    assert np.abs(shape_factor(PERIODS[:5], subsoil) - MODAL[subsoil]).max() < 0.0101
    late = [t for t in PERIODS if t >= 0.5]
    assert shape_factor(late, subsoil) == pytest.approx(shape_factor(late, subsoil, static=True))
    assert shape_factor(1.0, "A") == shape_factor(1.0, "B")


def test_near_fault_and_hazard() -> None:
    """3.1.6: 1.36 at 3 s within 2 km; 15/18 of what is above 1 at 5 km; none beyond 20 km, nor for
    return periods up to 250 years; Z R at most 0.7."""
    assert largest_near_fault([1.5, 2, 3, 4, 5, 9]) == pytest.approx(
        [1, 1.12, 1.36, 1.6, 1.72, 1.72])
    assert near_fault(3.0, 1e3) == pytest.approx(1.36)
    assert near_fault(3.0, 5e3) == pytest.approx(1 + 0.36 * 15 / 18)
    assert near_fault(3.0, 20e3) == near_fault(3.0, None) == 1
    slow = [0.02 * K] * 4
    near = run(slow, site={"fault_distance": "5 km"})
    far = run(slow)
    t = near.statics["X", "strength"].shear.period
    assert t > 2
    share = near.section("base shear", "X", "strength")["C_1"].value \
        / far.section("base shear", "X", "strength")["C_1"].value
    assert share == pytest.approx(1 + (np.interp(t, [1.5, 2, 3, 4, 5], [1, 1.12, 1.36, 1.6, 1.72])
                                       - 1) * 15 / 18)
    rare = run(slow, site={"fault_distance": "5 km", "return_period": "250"})
    assert rare.section("base shear", "X", "strength")["N"].value == 1
    assert float(near.shaking.horizontal["X"](3.0)) == pytest.approx(
        9.80665 * 0.3 * 0.44 * (1 + 0.36 * 15 / 18), rel=2e-3)
    assert run([K], site={"hazard_factor": 0.45, "importance_level": "4"}).site.parameters[
        "ZR"] == 0.7


@pytest.mark.parametrize(("level", "r"), [("1", 0.5), ("2", 1.0), ("3", 1.3), ("4", 1.8)])
def test_return_periods_by_importance(level: str, r: float) -> None:
    assert run([K], site={"importance_level": level}).site.parameters["R_u"] == r


@pytest.mark.parametrize(("mu", "k", "sp"), [(1.0, 1.0, 1.0), (1.25, 1.25, 0.925),
                                             (1.999, 1.999, 0.7003), (2.0, 2.0, 0.7),
                                             (6.0, 6.0, 0.7)])
def test_performance_and_reduction_of_long_periods(mu: float, k: float, sp: float) -> None:
    section = run([0.2 * K] * 4, mu=mu).section("base shear", "X", "strength")
    assert section["k_mu"].value == pytest.approx(k)
    r = run([0.2 * K] * 4, mu=mu)
    assert r.section("system", "X")["S_p"].value == pytest.approx(sp)


@pytest.mark.parametrize(("subsoil", "mu", "t", "k"), [
    ("C", 4.0, 0.7, 4.0), ("C", 4.0, 0.56, 1 + 3 * 0.8), ("C", 4.0, 0.2, 1 + 3 * 0.4 / 0.7),
    ("E", 4.0, 1.0, 4.0), ("E", 4.0, 0.8, 1.5 + 2.5 * 0.8), ("E", 4.0, 0.2, 1.5 + 2.5 * 0.4),
    ("E", 1.4, 0.3, 1.4)])
def test_reduction_of_short_periods_holds_for_both_methods(
    subsoil: str, mu: float, t: float, k: float
) -> None:
    """k_mu at T_1, not below 0.4 s; the whole spectrum of the modal analysis has the same one."""
    r = run([(2 * np.pi / t) ** 2 * M], mu=mu, site={"subsoil": subsoil})
    section = r.section("base shear", "X", "strength")
    assert section["T_1"].value == pytest.approx(t, rel=1e-6)
    assert section["k_mu"].value == pytest.approx(k, rel=1e-6)
    sp = 0.7 if mu >= 2 else 1.3 - 0.3 * mu
    c = float(shape_factor(t, subsoil, static=True)) * 0.3
    least = max((0.3 / 20 + 0.02) * 1.0, 0.03)
    v = max(c * sp / k, least) * M * 9.80665
    assert r.statics["X", "strength"].shear.base_shear == pytest.approx(v, rel=1e-6)
    ordinates = np.array([0.05, 0.3, 1.0, 2.5])
    assert r.reduced["X", "strength"](ordinates) == pytest.approx(
        9.80665 * 0.3 * shape_factor(ordinates, subsoil) * sp / k, rel=1e-6)


@pytest.mark.parametrize(("z", "level", "least"), [(0.13, "2", 0.03), (0.3, "2", 0.035),
                                                   (0.2, "4", 1.8 * 0.03)])
def test_least_coefficient(z: float, level: str, least: float) -> None:
    r = run([0.002 * K] * 3, mu=6.0, site={"hazard_factor": z, "importance_level": level})
    assert r.statics["X", "strength"].shear.coefficient == pytest.approx(least)


def test_forces_by_level_have_eight_percent_at_the_top() -> None:
    static = run([K] * 4, [M, M, 2 * M, M]).statics["X", "strength"]
    v, raw = static.shear.base_shear, static.weights * static.heights
    assert static.forces == pytest.approx(0.92 * v * raw / raw.sum() + [0.08 * v, 0, 0, 0])


@pytest.mark.parametrize(("stories", "factor"), [(4, 1.2), (5, 1.2), (8, 1.38), (10, 1.5),
                                                 (12, 1.5)])
def test_drift_is_that_of_the_design_forces_times_mu_and_k_dm(stories: int, factor: float) -> None:
    r = run([20 * K] * stories, mu=3.0)
    assert r.laterals["X"].drift_factor == pytest.approx(3.0 * factor)
    assert r.drift.limits == pytest.approx([0.025] * 3)
    s = r.drift.sets.index("static X, +e, drift")
    assert r.drift.design[s, 0, :, 0] == pytest.approx(3.0 * factor * r.drift.elastic[s, 0, :, 0])


@pytest.mark.parametrize(("stories", "height", "k", "soft", "severity"), [
    (3, 3.33, K, True, Severity.OK),                  # 9.99 m, whatever else
    (4, 3.0, 40 * K, True, Severity.OK),              # 12 m, T_1 below 0.4 s
    (4, 3.0, 10 * K, True, Severity.OK),              # 0.37 s
    (4, 3.0, 7 * K, True, Severity.NOTE),             # 0.44 s
    (4, 3.0, 1.0 * K, True, Severity.NOTE),           # irregular
    (4, 3.0, 1.0 * K, False, Severity.OK),            # regular, T_1 below 2 s
    (4, 3.0, 0.1 * K, False, Severity.NOTE),          # regular, T_1 above 2 s
])
def test_where_the_static_method_is_open(
    stories: int, height: float, k: float, soft: bool, severity: Severity
) -> None:
    stiffness = [k] * (stories - 1) + [0.6 * k if soft else k]
    b = shear_building(stiffness, [M] * stories, height=height)
    b = b.model_copy(update={"lines": [
        x.model_copy(update={"drawn_length": 4.0, "strength": 1e7}) for x in b.lines]})
    r = run([], building=b, irregularities={"in_plane_offset": False})
    (item,) = found(r, "static procedure")
    assert item.severity is severity, item.text
    assert not {f.check for f in r.findings} & {"re-entrant corner", "nonparallel system"}
    scaled = [s["c_V"].value for s in r.working if "c_V" in {x.symbol for x in s}]
    assert set(scaled) == {1.0 if soft else 0.8}


def test_what_is_not_judged_leaves_the_static_method_open() -> None:
    (item,) = found(run([K] * 5), "static procedure")
    assert item.severity is Severity.WARNING
    assert "discontinuity in capacity" in item.text
    assert "diaphragm" not in found(run([K] * 5), "irregularities not judged")[0].text


@pytest.mark.parametrize(("share", "severity"), [(0.6, Severity.OK), (0.9, Severity.WARNING)])
def test_torsional_sensitivity(share: float, severity: Severity) -> None:
    b = shear_building([K] * 2, [M] * 2, lines_x=[(0.0, share), (6.0, 1 - share)],
                       lines_y=[(4.0, 0.5), (6.0, 0.5)])
    r = run([], building=b)
    item = next(f for f in found(r, "torsional sensitivity") if "direction X" in f.where)
    assert item.severity is severity
    assert item.capacity == 1.4
    assert r.torsion["X"].answer.amplify is False


def test_weights_combinations_and_directions() -> None:
    b = shear_building([K] * 2, [M] * 2)
    loads = [ud.Load(name=k, kind=k, per_area=1e3) for k in ("dead", "live", "storage", "snow")]
    roof = ud.Load(name="r", kind="roof live", per_area=1e3)
    levels = [b.levels[0].model_copy(update={"loads": (*loads[:1], roof)}),
              b.levels[1].model_copy(update={"loads": tuple(loads)}), b.levels[2]]
    r = run([], building=ud.Building(levels=levels, lines=b.lines))
    assert r.weights.weight / 60e3 == pytest.approx([1.0, 1 + 0.3 + 0.6])
    rows = r.combinations.rows  # type: ignore[union-attr]
    assert [(x.name, x.quake) for x in rows] == [
        ("G + Eu + psi_E Q: X", (1.0, 0.0)), ("G + Eu + psi_E Q: Y", (0.0, 1.0))]
    assert [(x.dead, x.live) for x in r.combinations.gravity] == [  # type: ignore[union-attr]
        (1.35, 0.0), (1.2, 1.5)]
    nominal = run([K] * 2, mu=1.25)
    assert nominal.rules.directional_combination == "100/30"
    assert run([K] * 2, mu=1.26).rules.directional_combination == "independent"
    assert [kind_of(m) for m in (1.0, 1.25, 1.26, 3.0, 3.1)] == [
        "brittle", "nominally ductile", "limited ductile", "limited ductile", "ductile"]


def test_vertical_separation_and_periods_of_ones_own() -> None:
    r = run([K] * 2, gaps=[{"name": "line", "direction": "X", "distance": 0.05}])
    t = np.array([0.05, 0.5, 2.0])
    assert r.shaking.vertical(t) == pytest.approx(  # type: ignore[misc]
        0.7 * r.shaking.horizontal["X"](t))
    section = r.section("separation", "X", item="1")
    assert section["s"].value == pytest.approx(
        section["u_1"].value / 1.2)  # type: ignore[operator]
    with pytest.raises(ud.InputError, match="has no reason"):
        run([K], system={"period": 0.6})
    own = run([K], system={"period": 0.6, "reason": "by test"})
    assert own.statics["X", "strength"].shear.period == 0.6
    stack = {"heights": {"Roof": "18 m"}, "weights": {"Roof": "24 MN"}, "plan": [40, 24]}
    given = {"ductility": 2.0, "period": 0.6, "reason": "by a sketch"}
    s = ud.run_stack(ud.make_stack(title="t", standard="nzs1170", site=SITE, stack=stack,
                                   system={"X": given, "Y": given}))
    k = 1 + 1 * 0.6 / 0.7
    assert s.statics["X", "strength"].shear.coefficient == pytest.approx(
        0.3 * float(shape_factor(0.6, "C", static=True)) * 0.7 / k)
    with pytest.raises(ud.InputError, match=r"system\.X\.period"):
        ud.run_stack(ud.make_stack(title="t", standard="nzs1170", site=SITE, stack=stack,
                                   system={d: {"ductility": 2.0} for d in "XY"}))
