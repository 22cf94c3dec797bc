"""Massless levels, torsion, second order, close modes and stiffness ratios: sums and verdicts."""

from __future__ import annotations

import math
import re
import warnings
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import OWN, ROOMS, analyze, shear_building
from undatum.analysis.combine import combiner, correlation
from undatum.finding import Severity
from undatum.results.results import Results

EVERY = [pytest.param(key, id=key) for key in ROOMS]


def run(key: str, building: ud.Building, **more: Any) -> Results:
    site, system, *_ = ROOMS[key]
    return ud.analyze(title="test", standard=key, site=site, system={"X": system, "Y": system},
                      building=building, folder=OWN, **more)


def without_mass(building: ud.Building, *which: int) -> ud.Building:
    return building.model_copy(update={"levels": [
        level.model_copy(update={"seismic_mass": False}) if i in which else level
        for i, level in enumerate(building.levels)]})


def numbers_are_sound(r: Results) -> None:
    """No cell, finding or text holds what is not a number or infinite."""
    for table in r.tables():
        for col in table.columns:
            for cell in col.cells:
                assert not isinstance(cell, float) or math.isfinite(cell), (table.name, col.name)
    for f in r.findings:
        for value in (f.demand, f.capacity, f.ratio):
            assert value is None or math.isfinite(value), f
        assert not re.search(r"\b(nan|inf)\b|\d{12,}", f"{f.text} {f.advice} {f.where}"), f


@pytest.mark.parametrize("key", EVERY)
@pytest.mark.parametrize("which", [(0,), (1,), (0, 1), (2,)])
def test_a_level_without_mass_is_not_judged(key: str, which: tuple[int, ...]) -> None:
    """Three stories with one or two floors of no mass: torsion is that of the floors with mass."""
    lines = {"lines_x": [(0.0, 0.6), (6.0, 0.4)], "lines_y": [(0.0, 0.55), (10.0, 0.45)]}
    b = without_mass(shear_building([6e7] * 3, [2e5] * 3, **lines), *which)
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        r = run(key, b)
    numbers_are_sound(r)
    # By hand, each story apart: the angle of a story follows from its shear alone.
    for d, across, parts, places in (("X", 6.0, (0.6, 0.4), (0.0, 6.0)),
                                     ("Y", 10.0, (0.55, 0.45), (0.0, 10.0))):
        ratios = r.torsion[d].facts.drift_ratios  # type: ignore[index]
        rigid = parts[1] * across
        polar = sum(p * (x - rigid) ** 2 for p, x in zip(parts, places, strict=True))
        other = (0.25 * 10.0**2 * (0.55 * 0.45 / 0.25)) if d == "X" else 36.0 * 0.6 * 0.4
        polar += other
        e = (0.1 if key == "nzs1170" else 0.05) * across
        for row, sign in ((0, 1), (1, -1)):
            inherent = across / 2 - rigid
            design = 1.5 if key.startswith("is1893") and sign * inherent > 0 else 1.0
            arm = design * inherent + sign * e
            ends = [1 + arm / polar * (x - rigid) for x in (0.0, across)]
            worst = max(map(abs, ends)) / abs(sum(ends) / 2)
            judged = ratios[row][np.isfinite(ratios[row])]
            top = 1 + max((i for i in range(3) if set(range(i + 1)) <= set(which)), default=-1)
            assert judged.size == 3 - top
            assert judged == pytest.approx(np.full(judged.size, worst), rel=1e-6)


def test_story_shear_eccentricity_counts_floor_by_floor() -> None:
    """IS 1893: half of (sum of F x_CM - V x_CR) is added, where a floor's own offset is zero too.

    The mass of the upper floor is off the lines' center, that of the lower one is not.
    """
    b = shear_building([6e7] * 2, [2e5] * 2)
    off = ud.Load(name="tank", kind="dead", total=1.5e6, at=(10.0, 3.0))
    b = b.model_copy(update={"levels": [
        b.levels[0].model_copy(update={"loads": [*b.levels[0].loads, off]}), *b.levels[1:]]})
    r = run("is1893-2016", b)
    centers = r.model.diaphragms.centers[:, 0]
    assert centers[1] == pytest.approx(5.0)
    assert centers[0] > 6.0
    plus = next(s for s in r.static_sets if s.name == "static Y, +e, strength")
    minus = next(s for s in r.static_sets if s.name == "static Y, −e, strength")
    f = plus.forces
    moment = np.cumsum(f * centers) - np.cumsum(f) * 5.0  # about the center of rigidity, by story
    assert np.cumsum(plus.torques - plus.accidental) == pytest.approx(0.5 * moment)
    assert minus.torques == pytest.approx(minus.accidental)
    own_floor = 0.5 * f * (centers - 5.0)
    assert np.cumsum(own_floor)[1] == pytest.approx(0.5 * moment[1])  # here the two agree


def test_story_shear_eccentricity_with_rigidity_that_moves() -> None:
    """Lines that move from story to story: a floor without offset still twists the story below."""
    b = shear_building([6e7] * 2, [2e5] * 2)
    lines = [line.model_copy(update={"stiffness": [3e7, k]}) for line, k in
             zip([x for x in b.lines if x.name.startswith("Y")], (5e7, 1e7), strict=True)]
    b = b.model_copy(update={"lines": [
        *(x for x in b.lines if x.name.startswith("X")), *lines]})
    r = run("is1893-2016", b)
    rigid = np.array([5.0, 10.0 / 6.0])
    assert r.rigidity[:, 0] == pytest.approx(rigid)
    plus = next(s for s in r.static_sets if s.name == "static Y, +e, strength")
    f = plus.forces
    moment = np.cumsum(f * 5.0) - np.cumsum(f) * rigid
    added = np.cumsum(plus.torques - plus.accidental)
    assert added == pytest.approx(0.5 * np.maximum(moment, 0.0))
    assert added[0] == pytest.approx(0.0, abs=1e-6)
    assert added[1] == pytest.approx(0.5 * f.sum() * (5.0 - 10.0 / 6.0))


@pytest.mark.parametrize("key", EVERY)
def test_stability_takes_the_governing_sign_and_the_edges(key: str) -> None:
    """Mirrored, the same coefficients; they are P d / (V h) of the worst sign and point."""
    found = []
    for turned in (False, True):
        lines = [(0.0, 0.75), (6.0, 0.25)]
        own = [(6.0 - y, k) for y, k in lines] if turned else lines
        found.append(run(key, shear_building([3e7] * 3, [2e5] * 3, lines_x=own),
                         analysis={"accidental_torsion": "always"}))
    for one, other in zip(found[0].stability, found[1].stability, strict=True):
        assert one.answer.coefficient == pytest.approx(other.answer.coefficient, rel=1e-9)
    r = found[0]
    for check in r.stability:
        axis = "XY".index(check.direction)
        drift = r.drift
        own_sets = [i for i, (m, d) in enumerate(zip(drift.methods, drift.directions, strict=True))
                    if (m, d) == (check.method, check.direction)]
        points = slice(None) if drift.at_edges[axis] else slice(0, 1)
        values = np.nanmax(drift.elastic[own_sets][:, points, :, axis], axis=(0, 1))
        assert check.drift == pytest.approx(values * drift.factors[own_sets[0]], rel=1e-9)
        assert len(own_sets) == (2 if check.method == "static" else 1)


def test_beyond_the_limit_there_is_no_factor() -> None:
    r = analyze(shear_building([2e5] * 3, [2e5] * 3))
    numbers_are_sound(r)
    for check in r.stability:
        over = check.answer.coefficient > check.answer.limit
        assert over.any()
        assert np.isnan(check.answer.amplification[over]).all()
        assert check.amplification == pytest.approx(np.ones(3))
        found = check.finding()
        assert found.severity is Severity.EXCEEDED
        assert "unstable" in found.text
    for f in r.findings:
        for number in re.findall(r"About ([\d.,]+)", f.advice):
            assert float(number.replace(",", "")) < 1e6


@given(st.permutations(range(6)))
@settings(deadline=None)
def test_the_order_in_which_modes_are_given_does_not_matter(order: list[int]) -> None:
    """Close modes are added without sign whatever place they have in the list."""
    omega = np.array([5.0, 5.3, 9.0, 20.0, 21.0, 22.5])
    values = np.array([3.0, -2.0, 1.0, 4.0, -4.0, 2.0])
    for how in ("SRSS, close modes absolute", "CQC", "SRSS", "absolute sum"):
        usual = combiner(how, omega).peaks(values)  # type: ignore[arg-type]
        mixed = combiner(how, omega[order]).peaks(values[order])  # type: ignore[arg-type]
        assert float(mixed) == pytest.approx(float(usual), rel=1e-9)
    hand = math.sqrt((3 + 2) ** 2 + 1 + (4 + 4) ** 2 + 2**2)
    assert float(combiner("SRSS, close modes absolute", omega).peaks(values)) == pytest.approx(hand)


def test_the_mass_left_out_takes_its_place_among_close_modes() -> None:
    """A soft building whose later modes are longer than the rigid period (1/33 s)."""
    r = run("is1893-2002", shear_building([8e8] * 8, [2e5] * 8), analysis={
        "residual_mass": True, "mass_target": 0.5, "modes": 24,
        "modal_combination": "SRSS, close modes absolute"})
    one = next(d for d in r.dynamic if d.direction == "X")
    pairs = sorted(zip(1 / one.periods, np.abs(one.modal), strict=True))
    assert one.periods[-1] > one.periods[:-1].min() or r.modes.kept < 24
    groups, start = [[pairs[0][1]]], pairs[0][0]
    for f, v in pairs[1:]:
        if f > 1.1 * start * (1 + 1e-12):
            groups.append([])
            start = f
        groups[-1].append(v)
    assert one.base_shear == pytest.approx(math.sqrt(sum(sum(g) ** 2 for g in groups)), rel=1e-9)


@settings(deadline=None, max_examples=15)
@given(ask=st.integers(1, 12), ratio=st.floats(0.6, 1.0))
def test_the_cut_never_parts_close_modes(ask: int, ratio: float) -> None:
    b = shear_building([6e7] * 4, [2e5] * 4,
                       lines_y=[(0.0, 0.5 * ratio), (10.0, 0.5 * ratio)])
    r = analyze(b, analysis={"modes": ask})
    k, w = r.modes.kept, r.modes.omega
    assert k >= ask
    if k < w.size:
        assert correlation(w[k - 1 : k + 1], 0.05)[0, 1] <= 0.5
    close = [correlation(list(p), 0.05)[0, 1] > 0.5 for p in pairwise(w)]
    least = max(ask, int(np.argmax(np.all(r.modes.cumulative[:, :2] >= 0.9 - 1e-12, axis=1))) + 1)
    while least < w.size and close[least - 1]:
        least += 1
    assert k == least


@pytest.mark.parametrize(("how", "asked"), [("SRSS", True), ("CQC", False)])
def test_srss_with_close_modes_says_what_cqc_gives(how: str, asked: bool) -> None:
    b = shear_building([6e7] * 3, [2e5] * 3, lines_x=[(0.0, 0.6), (6.0, 0.4)])
    r = analyze(b, analysis={"modal_combination": how})
    found = [f for f in r.findings if f.check == "close modes"]
    assert bool(found) is asked
    if asked:
        one = r.dynamic[0]
        rho = correlation(2 * np.pi / one.periods, one.damping)
        hand = math.sqrt(sum(rho[i, j] * one.modal[i] * one.modal[j]
                             for i in range(one.modal.size) for j in range(one.modal.size)))
        assert f"{hand / one.base_shear:.3f} times as large in X" in found[0].text


@pytest.mark.parametrize(("ratio", "said"), [(1e6, False), (2e8, True), (1e12, True)])
def test_stiffness_ratios_that_cost_digits_are_named(ratio: float, said: bool) -> None:
    """No false mechanism: the periods are those of the soft story alone, by hand."""
    k, m = 400.0, 2.0
    r = analyze(shear_building([k * ratio, k], [m, m]))
    found = [f for f in r.findings if f.check == "stiffness ratio"]
    assert bool(found) is said
    if said:
        assert "level L2" in found[0].where
        assert "level L1" in found[0].text
    period = 2 * np.pi * math.sqrt(2 * m / k)
    assert r.modes.periods[0] == pytest.approx(period, rel=1e-6 if ratio < 1e9 else 1e-3)


def test_the_stiffest_and_the_softest_line_are_named() -> None:
    b = shear_building([4e2, 8e2], [2e3, 2e3])
    r = analyze(b.model_copy(update={"lines": [
        x.model_copy(update={"stiffness": tuple(1e9 * k for k in x.stiffness)})
        if x.name.startswith("X") else x for x in b.lines]}))
    found = next(f for f in r.findings if f.check == "stiffness ratio")
    assert found.where.startswith("line X")
    assert found.where.endswith("level L1")
    assert "line Y" in found.text
    assert "at level L2" in found.text


@pytest.mark.parametrize("key", ["asce7-05", "asce7-10", "asce7-16", "asce7-22", "ubc97"])
def test_torsional_irregularity_is_one_of_the_structure(key: str) -> None:
    """ASCE 7, 12.8.4.2, 12.8.4.3 and 12.12.1; UBC 1630.7: irregular along X, regular along Y."""
    r = run(key, shear_building([6e7] * 3, [2e5] * 3, lines_x=[(0.0, 0.85), (6.0, 0.15)],
                                lines_y=[(0.0, 0.5), (10.0, 0.5)]))
    assert r.torsion["X"].answer.kind
    assert not r.torsion["Y"].answer.kind
    for d in ("X", "Y"):
        t = r.torsion[d]  # type: ignore[index]
        assert t.answer.include_accidental
        assert t.answer.amplify
        assert t.amplification is not None
        largest, average = t.facts.governing_displacements
        assert t.factors == pytest.approx(np.clip((largest / (1.2 * average)) ** 2, 1, 3))
    assert r.drift.at_edges == (True, True)
    assert {s.sign for s in r.static_sets if s.direction == "Y"} == {1, -1}
    mirrored = run(key, shear_building([6e7] * 3, [2e5] * 3, plan=(6.0, 10.0),
                                       lines_y=[(0.0, 0.85), (6.0, 0.15)],
                                       lines_x=[(0.0, 0.5), (10.0, 0.5)]))
    for d, other in (("X", "Y"), ("Y", "X")):
        assert mirrored.torsion[d].factors == pytest.approx(  # type: ignore[index]
            r.torsion[other].factors)  # type: ignore[index]


def test_a_level_without_mass_takes_no_amplification() -> None:
    """Irregular in torsion: A_x for the levels that carry force, one for the other."""
    b = without_mass(shear_building([6e7] * 3, [2e5] * 3, lines_x=[(0.0, 0.9), (6.0, 0.1)],
                                    lines_y=[(3.0, 0.5), (7.0, 0.5)]), 1)
    r = run("asce7-16", b)
    t = r.torsion["X"]
    assert t.amplification is not None
    assert t.amplification.factors.size == 2
    assert t.factors[1] == 1.0
    assert (t.factors[[0, 2]] > 1.05).all()
