"""What the checks rest on, by hand, for the verification pages: theta, A_x, scaling and so on."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, analyze, shear_building, site_of
from verification import Verify

G, FT = 9.80665, 0.3048
EDITIONS = ("asce7-05", "asce7-10", "asce7-16", "asce7-22")
K, M, A, B = 4e7, 4e5, 30.0, 10.0


def site(key: str, **more: Any) -> dict[str, Any]:
    return {**SITE, **({"sms": 1.2, "sm1": 0.6} if key == "asce7-22" else {}), **more}


def one(key: str, **more: Any) -> ud.Results:
    """One story, 30 m by 10 m, a quarter and three quarters of the stiffness at the ends."""
    b = shear_building([K], [M], plan=(A, B), lines_y=[(0.0, 0.25), (A, 0.75)])
    return analyze(b, standard=key, site=site(key, **more.pop("at", {})), **more)


@pytest.mark.parametrize("key", EDITIONS)
def test_torsion_and_its_amplification(key: str, verify: Verify) -> None:
    r = one(key)
    force = r.statics["Y", "strength"].forces[0]
    turn = K * (B / 2) ** 2 + 0.25 * K * 22.5**2 + 0.75 * K * 7.5**2
    ratio = 0.0
    for sign in (1, -1):
        angle = force * (A / 2 + sign * 0.05 * A - 22.5) / turn
        ends = np.abs([force / K + angle * (x - 22.5) for x in (0.0, A)])
        ratio = max(ratio, ends.max() / ends.mean())
    verify("asce7", "torsion ratio", f"{key}, one story, 0.25 and 0.75 of the stiffness",
           np.nanmax(r.torsion["Y"].facts.drift_ratios), ratio)
    verify("asce7", "amplification A_x", f"{key}, torsion ratio {ratio:.4f}",
           r.torsion["Y"].factors[0], min(max((ratio / 1.2) ** 2, 1.0), 3.0))


@pytest.mark.parametrize("key", EDITIONS)
def test_stability_coefficient(key: str, verify: Verify) -> None:
    """theta = P Delta I / (V h C_d) with Delta = C_d V / (k I); 2005 without I in the formula."""
    for importance, category in ((1.0, "II"), (1.5, "IV")):
        b = shear_building([K, K], [M, M])
        r = analyze(b, standard=key, site=site(key, risk_category=category))
        check = next(c for c in r.stability if (c.direction, c.method) == ("X", "static"))
        hand = 2 * M * G / (K * 3.0) / (importance if key == "asce7-05" else 1.0)
        verify("asce7", "stability coefficient", f"{key}, two stories, I_e {importance}",
               check.answer.coefficient[1], hand)


@pytest.mark.parametrize("key", EDITIONS)
@pytest.mark.parametrize("period", [0.3, 0.8, 2.5, 12.0])
def test_coefficient_of_each_edition(key: str, period: float, verify: Verify) -> None:
    """R 8, I_e 1: plateau, falling branches and least values with S_1 of 0.6 and more."""
    for s1 in (0.4, 0.7):
        found = site_of(key, **site(key, s1=s1, **({"sm1": 1.5 * s1} if key == "asce7-22" else {})))
        sds, sd1 = found.parameters["S_DS"], found.parameters["S_D1"]
        own = {"symbol": "T", "value": period, "reason": "check", "beyond_cap": True}
        r = analyze(shear_building([K], [M]), standard=key, site=site(
            key, s1=s1, **({"sm1": 1.5 * s1} if key == "asce7-22" else {})),
            system={"X": {"row": "C.1", "replace": [own]}, "Y": {"row": "C.1"}})
        falling = sd1 / period if period <= 8.0 else sd1 * 8.0 / period**2
        least = max(0.044 * sds, 0.01, 0.5 * s1 / 8.0 if s1 >= 0.6 else 0.0)
        verify("asce7", "C_s", f"{key}, T {period} s, S_1 {s1}",
               r.statics["X", "strength"].shear.coefficient,
               max(min(sds / 8.0, falling / 8.0), least))


@pytest.mark.parametrize(("key", "share"), [
    ("asce7-05", 0.85), ("asce7-10", 0.85), ("asce7-16", 1.0), ("asce7-22", 1.0)])
def test_scaling_to_the_static_base_shear(key: str, share: float, verify: Verify) -> None:
    """One mass a direction: V_t is its ordinate over R times the mass."""
    r = one(key, system={d: {"row": "C.1"} for d in "XY"})
    x = next(s for s in r.scaling if s.direction == "X" and s.state.key == "strength")
    t = 2 * np.pi * np.sqrt(M / K)
    modal = float(r.spectrum(t)) / 8.0 * M
    static = r.statics["X", "strength"].shear.base_shear
    verify("asce7", "modal base shear of one mass", f"{key}, T {t:.3f} s", x.modal_base_shear,
           modal, rel=1e-6)
    verify("asce7", "factor on forces", f"{key}, {share} V over V_t", x.answer.factor,
           max(1.0, share * static / modal), rel=1e-6)


@pytest.mark.parametrize("key", EDITIONS)
def test_diaphragm_forces(key: str, verify: Verify) -> None:
    """sum F / sum w times w, from 0.2 to 0.4 S_DS I_e w."""
    r = analyze(shear_building([K] * 3, [M] * 3), standard=key, site=site(key))
    f = r.statics["X", "strength"].forces
    w, sds = M * G, r.site.parameters["S_DS"]
    hand = np.clip(np.cumsum(f) / (w * np.arange(1, 4)) * w, 0.2 * sds * w, 0.4 * sds * w)
    for i, (ours, own) in enumerate(zip(r.diaphragms["X"], hand, strict=True)):
        verify("asce7", "diaphragm force", f"{key}, level {3 - i} of 3", ours, own)


@pytest.mark.parametrize("key", ["asce7-05", "asce7-10", "asce7-16"])
@pytest.mark.parametrize(("ss", "s1", "risk", "category"), [
    (0.20, 0.03, "II", "A"), (0.35, 0.06, "II", "B"), (0.55, 0.12, "II", "C"),
    (1.0, 0.4, "II", "D"), (0.55, 0.12, "IV", "D"), (1.5, 0.8, "III", "E"), (1.5, 0.8, "IV", "F")])
def test_design_categories(
    key: str, ss: float, s1: float, risk: str, category: str, verify: Verify
) -> None:
    """Tables 11.6-1 and 11.6-2 on class B with measured velocity off: F_a = F_v = 1.0."""
    found = site_of(key, **{**SITE, "ss": ss, "s1": s1, "site_class": "B", "risk_category": risk})
    verify("asce7", "design category", f"{key}, S_S {ss}, S_1 {s1}, risk {risk}: {category}",
           "ABCDEF".index(found.category), "ABCDEF".index(category))


@pytest.mark.parametrize(("row", "category_site", "limit"), [
    ("B.4", {}, 160), ("B.3", {}, 35), ("A.15", {}, 65), ("B.4", {"s1": 0.8, "ss": 1.5,
                                                                "risk_category": "IV"}, 100)])
def test_height_limits(
    row: str, category_site: dict[str, Any], limit: float, verify: Verify
) -> None:
    r = analyze(shear_building([K], [M]), site={**SITE, **category_site},
                system={d: {"row": row} for d in "XY"})
    found = next(f for f in r.findings if f.check == "height limit")
    assert found.capacity is not None
    verify("asce7", "height limit, ft", f"7-16, {row}, category {r.site.category}",
           found.capacity / FT, limit)
