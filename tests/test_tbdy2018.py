"""TBDY 2018 by hand: site, reduction, static forces, drift, torsion, scope and combinations."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import shear_building, site_of
from undatum.finding import Finding, Severity
from undatum.results.results import Results
from undatum.standards.facts import LoadFacts
from undatum.standards.tbdy2018 import TBDY2018
from undatum.standards.tbdy2018.system import height_class, reduction

G = 9.80665
K, M = 6e7, 2e5
SITE: dict[str, Any] = {"ss": 0.9, "s1": 0.25, "ss_dd3": 0.38, "s1_dd3": 0.1, "site_class": "ZC",
                        "use_class": "3"}


def run(k: list[float], m: list[float] | None = None, row: str = "A11", height: float = 3.0,
        site: dict[str, Any] | None = None, building: Any = None, **more: Any) -> Results:
    b = building or shear_building(k, m or [M] * len(k), height=height)
    return ud.analyze(title="t", standard="tbdy2018", results_in="kN and m", building=b,
                      site={**SITE, **(site or {})},
                      system={d: {"row": row} for d in b.directions}, **more)


def found(r: Results, check: str) -> list[Finding]:
    return [f for f in r.findings if f.check.startswith(check)]


@pytest.mark.parametrize(("site_class", "ss", "s1", "fs", "f1"), [
    ("ZA", 0.9, 0.25, 0.8, 0.8), ("ZB", 2.0, 0.9, 0.9, 0.8), ("ZC", 0.625, 0.55, 1.25, 1.45),
    ("ZD", 0.1, 0.05, 1.6, 2.4), ("ZD", 1.1, 0.35, 1.06, 1.95), ("ZE", 1.5, 0.15, 0.8, 3.75),
    ("ZE", 0.375, 0.6, 2.05, 2.0)])
def test_site_coefficients(site_class: str, ss: float, s1: float, fs: float, f1: float) -> None:
    """Tables 2.1 and 2.2, straight lines between their columns, constant beyond."""
    site = site_of("tbdy2018", **{**SITE, "ss": ss, "s1": s1, "site_class": site_class})
    assert site.parameters["S_DS"] == pytest.approx(ss * fs)
    assert site.parameters["S_D1"] == pytest.approx(s1 * f1)


def test_spectra_by_branch() -> None:
    site = site_of("tbdy2018", **SITE)
    sds, sd1, tb = 1.08, 0.375, 0.375 / 1.08
    t = np.array([0.0, 0.1 * tb, 0.2 * tb, 0.9 * tb, 1.0, 6.0, 8.0])
    assert site.spectrum(t) / G == pytest.approx(
        [0.4 * sds, 0.7 * sds, sds, sds, sd1, sd1 / 6, sd1 * 6 / 64])
    v = TBDY2018().ground(TBDY2018.site_input(**SITE)).vertical(site)
    at = np.array([0.0, 0.2 * tb / 3, tb / 3, 0.5])
    assert v.spectrum(at) / G == pytest.approx(
        [0.32 * sds, 0.8 * sds, 0.8 * sds, 0.8 * sds * tb / 3 / 0.5])


@pytest.mark.parametrize(("ss", "use_class", "category"), [
    (0.24, "3", "4"), (0.24, "1", "4a"), (0.30, "2", "3"), (0.30, "1", "3a"), (0.5, "3", "2"),
    (0.7, "1", "1a"), (0.7, "2", "1")])
def test_design_category(ss: float, use_class: str, category: str) -> None:
    site = site_of("tbdy2018", **{**SITE, "ss": ss, "use_class": use_class})
    assert site.category == category
    assert site.importance == {"1": 1.5, "2": 1.2, "3": 1.0}[use_class]


def test_height_classes_and_what_systems_they_permit() -> None:
    for category, heights in (("1a", (70, 56, 42, 28, 17.5, 10.5, 7)),
                              ("3", (91, 70, 56, 42, 28, 17.5, 10.5))):
        for k, h in enumerate(heights, 1):
            assert (height_class(h + 0.01, category), height_class(h, category)) == (k, k + 1)
    # A11 from class 3: up to 56 m; C31 from class 7: up to 10.5 m
    for row, stories, height, fine in (("A11", 14, 4.0, True), ("A11", 15, 4.0, False),
                                       ("C31", 3, 3.5, True), ("C31", 4, 3.0, False)):
        r = run([K] * stories, row=row, height=height)
        own = found(r, "height class")
        assert {f.severity for f in own} == {Severity.OK if fine else Severity.EXCEEDED}, row


def test_reduction_and_base_shear_by_hand() -> None:
    """R_a on a straight line from D below T_B; 0.04 I S_DS at least; 1.4 T_pA at most."""
    assert reduction([0.0, 0.2, 0.4, 0.41], 8.0, 3.0, 0.4) == pytest.approx([3, 5.5, 8, 8])
    sds, sd1, tb = 1.08, 0.375, 0.375 / 1.08
    for k, height in (([50 * K] * 3, 3.0), ([K] * 5, 3.0), ([2 * K] * 9, 3.0)):
        r = run(k, height=height, site={"use_class": "2"})
        shear = r.statics["X", "strength"].shear
        mode = r.computed["X"]
        t = min(mode, 1.4 * 0.10 * (height * len(k)) ** 0.75)
        assert shear.period == pytest.approx(t)
        divisor = 8 / 1.2
        ra = divisor if t > tb else 3 + (divisor - 3) * t / tb
        sa = sds if t <= tb else sd1 / t
        assert shear.coefficient == pytest.approx(max(sa / ra, 0.04 * 1.2 * sds))
        assert shear.base_shear == pytest.approx(shear.coefficient * len(k) * M * G)
        n, v = len(k), shear.base_shear
        h = np.arange(n, 0, -1) * height
        hand = (1 - 0.0075 * n) * v * h / h.sum()
        hand[0] += 0.0075 * n * v
        assert r.statics["X", "strength"].forces == pytest.approx(hand)
        modal = next(s for s in r.dynamic if s.direction == "X")
        own = float(r.reduced["X", "strength"](mode)) / G
        at = divisor if mode > tb else 3 + (divisor - 3) * mode / tb
        assert own == pytest.approx((sds if mode <= tb else sd1 / mode) / at)
        scale = next(s for s in r.scaling if s.direction == "X" and s.state.key == "strength")
        assert scale.answer.factor == pytest.approx(max(1.0, 0.8 * v / modal.base_shear))


@pytest.mark.parametrize(("row", "structure", "limit"), [
    ("A11", None, 0.008), ("A11", "infills with flexible joints", 0.016), ("C11", None, 0.004)])
def test_drift_limit(row: str, structure: str | None, limit: float) -> None:
    """lambda delta / h: lambda of both spectra at the period, kappa 0.5 of steel."""
    r = run([2 * K] * 5, row=row, drift={} if structure is None else {"structure": structure})
    t = r.statics["X", "strength"].shear.period
    frequent = min(0.38 * 1.3, 0.15 / t)
    rare = min(1.08, 0.375 / t)
    assert r.drift.limits[0] == pytest.approx(limit / (frequent / rare))
    assert set(r.drift.factors) == {8.0}
    silent = run([2 * K] * 5, site={"ss_dd3": None, "s1_dd3": None})
    assert not np.isfinite(silent.drift.limits[:2]).any()
    told = found(silent, "story drift X, static")[0]
    assert "DD-3 are not given" in told.text
    assert told.severity is Severity.WARNING  # a limit that is not known is never ok
    assert set(silent.table("drift_x").to_frame()["verdict"]) & {"not checked", "below the base"}
    assert not {"no limit", "passes"} & set(silent.table("drift_x").to_frame()["verdict"])
    assert found(silent, "story drift, resultant")[0].severity is Severity.NOTE
    with pytest.raises(ud.InputError, match="give ss_dd3 and s1_dd3"):
        run([K], site={"s1_dd3": None})


def test_torsion_amplifies_the_eccentricity_by_story_drifts() -> None:
    """D_bi = (eta / 1.2)^2 from 1.2 to 2.0; above that no static forces."""
    r = run([K] * 3, building=shear_building([K] * 3, [M] * 3, lines_x=[(0.0, 0.9), (6.0, 0.1)]))
    eta = np.array(r.to_frame("torsion_x").filter(like="over average").max(axis=1))
    assert 1.2 < eta.max() <= 2.0
    factors = r.to_frame("torsion_x")["A_x"].to_numpy()
    assert factors == pytest.approx(np.clip((eta / 1.2) ** 2, 1.0, (2 / 1.2) ** 2))
    assert "irregularity A1" in found(r, "torsional irregularity")[0].text
    worse = run([K] * 3, building=shear_building([K] * 3, [M] * 3,
                                                 lines_x=[(1.0, 0.5), (1.4, 0.5)],
                                                 lines_y=[(4.5, 0.5), (5.5, 0.5)]))
    assert worse.to_frame("torsion_x").filter(like="over average").to_numpy().max() > 2
    assert "are permitted in higher classes alone" in found(worse, "torsional irregularity")[0].text


def test_where_static_forces_are_permitted() -> None:
    """Category 1: from class 4 (42 m) where regular, from class 5 (28 m) with B2."""
    for stories, soft, allowed in ((10, False, True), (11, False, False), (7, True, True),
                                   (8, True, False)):
        k = [40 * K] * stories  # top down
        if soft:
            k[-1] = 12 * K
        r = run(k, height=4.0 if not soft else 3.9)
        (one,) = found(r, "static procedure")
        assert ("are permitted from class" in one.text) is True
        assert (one.severity is Severity.OK) == allowed, (stories, one.text)
        b2 = [f for f in found(r, "soft story") if f.severity is Severity.WARNING]
        assert bool(b2) == soft
    quiet = run([40 * K] * 12, height=4.0, site={"ss": 0.3, "s1": 0.1})  # class 4, category 3
    (one,) = found(quiet, "static procedure")
    assert one.severity is Severity.WARNING
    assert "not certain here" in one.text


def test_second_order_index() -> None:
    """w Delta / (V h), Delta under the design forces, up to 0.12 D / (C_h R)."""
    for row, most in (("A11", 0.12 * 3 / (0.5 * 8)), ("C11", 0.12 * 3 / 8)):
        r = run([0.5 * K] * 5, row=row)
        one = next(s for s in r.stability if s.direction == "X" and s.method == "static")
        w = np.cumsum([M * G] * 5)
        v = np.cumsum(r.statics["X", "drift"].forces)
        # springs alone: V / k at the center of mass, the largest of the ends beside it
        hand = w * (v / (0.5 * K)) / (v * 3.0)
        twist = r.to_frame("torsion_x").filter(like="over average").to_numpy().max()
        assert one.answer.coefficient == pytest.approx(hand * twist, rel=1e-6)
        assert one.answer.negligible == pytest.approx(most)


def test_weight_and_combinations() -> None:
    rule = TBDY2018().weight(TBDY2018.site_input(**SITE))

    def share(kind: str, use: str = "") -> float:
        return rule.share(LoadFacts(kind, 2e3, False, use)).share

    assert [share(k) for k in ("dead", "equipment", "partition", "live", "storage", "snow")] == [
        1.0, 1.0, 1.0, 0.3, 0.8, 0.3]
    assert (share("live", "C"), share("live", "B"), share("live", "E")) == (0.6, 0.3, 0.8)
    crowd = TBDY2018().weight(TBDY2018.site_input(**{**SITE, "live_participation": "0.6"}))
    assert crowd.share(LoadFacts("live", 2e3, False)).share == 0.6
    r = run([K] * 3)
    assert r.combinations is not None
    up = 1 + 0.3 * 2 / 3 * 1.08
    assert {(round(c.dead, 9), c.live, c.snow) for c in r.combinations.rows} == {
        (round(up, 9), 1.0, 0.2), (round(0.9 - 0.2 * 1.08, 9), 0.0, 0.0)}
    assert {tuple(np.round(c.quake, 9)) for c in r.combinations.rows} == {(1.0, 0.3), (0.3, 1.0)}


def test_rows_in_doubt_say_so() -> None:
    assert found(run([K], row="C13"), "behavior factor")
    assert not found(run([K], row="A13"), "behavior factor")
    with pytest.raises(ud.InputError, match="is not a row of Table"):
        run([K], row="A99")
