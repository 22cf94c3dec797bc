"""Combination rules, response spectrum analysis, static sets and their laws."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

import undatum as ud
from conftest import SITE, analyze, shear_building, solver_of
from undatum.analysis.combine import (
    combine_directions,
    combiner,
    correlation,
)
from undatum.analysis.modes import find_modes
from undatum.analysis.response import SpectrumSet, modal_damping, modal_peaks, nodal_forces
from undatum.ground import TabulatedSpectrum
from undatum.mechanics.quantities import (
    PlumbLine,
    center_line,
    plumb_displacement,
    plumb_drift,
)
from undatum.results.results import Results
from undatum.standards.terms import DIRECTIONS, STRENGTH
from verification import Verify

G = 9.80665


# -- combination ---------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("ratio", "rho"),
    # Wilson, Der Kiureghian and Bayo (1981), 5 % damping, to their three figures.
    [(1.0, 1.0), (0.9, 0.473), (0.8, 0.166), (0.7, 0.071), (0.5, 0.018)],
)
def test_correlation_published(ratio: float, rho: float, verify: Verify) -> None:
    found = correlation([1.0, ratio], 0.05)[0, 1]
    verify("mechanics", "CQC coefficient, 5 % damping (published to 3 figures)",
           f"frequency ratio {ratio}", found, rho, rel=0.03)
    assert found == pytest.approx(rho, abs=6e-4)


@pytest.mark.parametrize(
    ("w", "z"), [((5.0, 6.0), (0.02, 0.07)), ((3.0, 3.1), (0.05, 0.02)), ((4.0, 9.0), (0.1, 0.03))]
)
def test_unequal_damping_against_random_vibration(
    w: tuple[float, float], z: tuple[float, float]
) -> None:
    """The correlation of two oscillators under white noise, integrated over frequency."""
    def transfer(f: float, i: int) -> complex:
        return 1.0 / (w[i] ** 2 - f**2 + 2j * z[i] * w[i] * f)

    def product(i: int, j: int) -> float:
        value = quad(lambda f: (transfer(f, i) * np.conj(transfer(f, j))).real, 0, 200,
                     limit=2000, points=[*w], epsabs=1e-12)
        return float(value[0])

    exact = product(0, 1) / np.sqrt(product(0, 0) * product(1, 1))
    assert correlation(w, z)[0, 1] == pytest.approx(exact, rel=2e-3)


@given(st.lists(st.floats(0.5, 200.0), min_size=2, max_size=8), st.floats(0.01, 0.2))
def test_correlation_is_symmetric_and_positive(omega: list[float], damping: float) -> None:
    rho = correlation(omega, damping)
    assert rho == pytest.approx(rho.T)
    assert np.all(rho >= 0)
    assert np.all(rho <= 1 + 1e-12)
    assert np.linalg.eigvalsh(rho).min() > -1e-9


@given(st.lists(st.floats(-1e3, 1e3), min_size=2, max_size=6))
def test_cqc_limits(values: list[float]) -> None:
    v = np.array(values)
    apart = 1e4 ** np.arange(v.size, dtype=float)
    srss = float(np.sqrt(np.sum(v**2)))
    assert combiner("CQC", apart).peaks(v) == pytest.approx(srss, rel=1e-3, abs=1e-9)
    equal = np.ones(v.size)
    assert combiner("CQC", equal).peaks(np.abs(v)) == pytest.approx(np.abs(v).sum())
    assert combiner("absolute sum", apart).peaks(v) == pytest.approx(np.abs(v).sum())
    assert combiner("SRSS", apart).peaks(v) == pytest.approx(srss)


@given(st.floats(-100, 100), st.floats(-100, 100))
def test_directional_rules(x: float, y: float) -> None:
    a, b = np.array(abs(x)), np.array(abs(y))
    assert combine_directions([a, b], "SRSS") == pytest.approx(np.hypot(x, y))
    big, small = max(abs(x), abs(y)), min(abs(x), abs(y))
    assert combine_directions([a, b], "100/30") == pytest.approx(big + 0.3 * small)
    assert combine_directions([a, b], "100/40") == pytest.approx(big + 0.4 * small)
    assert combine_directions([a, b], "independent") == pytest.approx(big)
    assert combine_directions([a, b, a], "absolute sum") == pytest.approx(2 * abs(x) + abs(y))


def test_largest_in_plan_by_sweeping() -> None:
    rng = np.random.default_rng(1)
    omega = np.array([4.0, 4.3, 9.0, 11.0])
    x, y = rng.normal(size=(2, 5, 4))
    angles = np.linspace(0, np.pi, 4001)
    sweep = np.array([
        combiner("CQC", omega).peaks(np.cos(a) * x + np.sin(a) * y) for a in angles]).max(axis=0)
    cqc, plain = combiner("CQC", omega), combiner("absolute sum", omega)
    assert cqc.vectors(x, y)[2] == pytest.approx(sweep, rel=1e-6)
    assert np.all(plain.vectors(x, y)[2] >= sweep)
    for one in (cqc, plain):
        assert one.vectors(x, y)[:2] == pytest.approx(np.array([one.peaks(x), one.peaks(y)]))


# -- analysis ------------------------------------------------------------------------------------


def test_single_degree_of_freedom() -> None:
    """Base shear of one story is m Sa / (R/Ie); its drift that over k."""
    k, m = 6.0e7, 2.5e5
    r = analyze(shear_building([k], [m]))
    for d, one in zip(DIRECTIONS, r.dynamic, strict=True):
        sa = float(r.spectrum(r.modes.periods[r.modes.governing(DIRECTIONS.index(d))]))
        assert one.base_shear == pytest.approx(m * sa / 8.0, rel=1e-9)
    s = r.drift.sets.index("spectrum X, drift")
    assert r.drift.elastic[s, 0, 0, 0] == pytest.approx(r.dynamic[0].base_shear / k, rel=1e-9)


def test_two_story_by_hand() -> None:
    """Modal analysis of a two-story frame worked step by step, SRSS."""
    k, m = 1.0e8, 1.0e5
    r = analyze(shear_building([k, k], [m, m]), analysis={"modal_combination": "SRSS", "modes": 6})
    w2 = k / m * np.array([(3 - np.sqrt(5)) / 2, (3 + np.sqrt(5)) / 2])
    shear = []
    drift_top = []
    for w in w2:
        phi = np.array([k / (k - m * w), 1.0])  # roof, first floor
        gamma = phi.sum() / (phi @ phi)
        sa = float(r.spectrum(2 * np.pi / np.sqrt(w))) / 8.0
        shear.append(m * gamma * phi.sum() * sa)
        drift_top.append(gamma * (phi[0] - phi[1]) * sa / w)
    assert r.dynamic[0].base_shear == pytest.approx(np.hypot(*shear), rel=1e-9)
    s = r.drift.sets.index("spectrum X, drift")
    assert r.drift.elastic[s, 0, 0, 0] == pytest.approx(np.hypot(*drift_top), rel=1e-9)


def test_drift_is_not_the_difference_of_combined_displacements(archive: Results) -> None:
    """Nobody may simplify it: in the demo the two differ clearly in upper stories."""
    check, model = archive.drift, archive.model
    one = next(s for s in archive.spectrum_sets if s.name == "spectrum X, drift")
    line = center_line(model)
    moved = one.of(plumb_displacement(model, [line], ("X",)))
    lower = PlumbLine("lower", np.vstack([line.points[:1], line.points[:-1]]), line.present)
    below = np.append(one.of(plumb_displacement(model, [lower], ("X",)))[1:], 0.0)
    ours = check.elastic[check.sets.index("spectrum X, drift"), 0, :, 0]
    assert ours == pytest.approx(one.of(plumb_drift(model, [line], ("X",))))
    difference = np.abs(moved - below)[:-1] / ours[:-1]
    assert difference.min() < 0.93
    assert difference.max() < 1.0 + 1e-9


def turned(data: dict[str, Any]) -> dict[str, Any]:
    """The project with its plan turned by 90 degrees and the directions swapped."""
    def move(p: list[float]) -> list[float]:
        return [-p[1], p[0]]

    building = data["building"]
    building["outlines"] = {k: [move(p) for p in v] for k, v in building["outlines"].items()}
    for level in building["levels"]:
        for load in level.get("loads", []):
            for key in ("at",):
                if key in load:
                    load[key] = move(load[key])
            if "on" in load:
                load["on"] = [move(p) for p in load["on"]]
    for line in building["lines"]:
        line["at"] = move(line["at"])
        line["direction"] = {"X": "Y", "Y": "X"}[line["direction"]]
    for point in data["drift"]["points"]:
        point["at"] = move(point["at"])
    data["system"] = {"X": data["system"]["Y"], "Y": data["system"]["X"]}
    return data


def test_turning_the_plan_by_90_degrees(archive: Results, archive_data: dict[str, Any]) -> None:
    from undatum.project.project_file import validate

    project, faults = validate(turned(archive_data))
    assert not faults
    assert project is not None
    other = ud.run(project)
    assert other.modes.omega == pytest.approx(archive.modes.omega, rel=1e-9)
    for d, e in (("X", "Y"), ("Y", "X")):
        mine, theirs = archive.statics[d, "drift"], other.statics[e, "drift"]  # type: ignore[index]
        assert theirs.forces == pytest.approx(mine.forces, rel=1e-9)
        axis, turned_axis = "XY".index(d), "XY".index(e)
        mine_in = archive.drift.use[archive.drift.sets.index(f"spectrum {d}, drift")]
        theirs_in = other.drift.use[other.drift.sets.index(f"spectrum {e}, drift")]
        assert theirs_in[..., turned_axis] == pytest.approx(
            mine_in[..., axis], rel=1e-7, nan_ok=True)
        a, b = archive.drift.governing(axis), other.drift.governing(turned_axis)
        assert other.drift.use[b][turned_axis] == pytest.approx(archive.drift.use[a][axis])
        assert archive.dynamic[axis].base_shear == pytest.approx(
            other.dynamic[turned_axis].base_shear, rel=1e-9)


@settings(deadline=None, max_examples=15)
@given(turn=st.floats(0.05, 1.5))
def test_srss_of_directions_with_equal_spectra_has_no_preferred_axes(turn: float) -> None:
    """Line shears under SRSS of two equal spectra are the same whatever the axes of motion."""
    plan = [(0.0, 0.0), (14.0, 0.0), (14.0, 5.0), (6.0, 5.0), (6.0, 9.0), (0.0, 9.0)]
    lines = [((7.0, 0.0), 0.0, 2e8), ((3.0, 9.0), 0.0, 1.3e8), ((0.0, 4.0), np.pi / 2, 1.9e8),
             ((14.0, 2.0), np.pi / 2, 1.1e8)]
    flat = TabulatedSpectrum("test", (0.01, 0.5, 5.0), (4.0, 9.0, 2.0))

    def shears(angle: float) -> np.ndarray[Any, Any]:
        c, s = np.cos(angle), np.sin(angle)

        def move(p: tuple[float, float]) -> tuple[float, float]:
            return float(c * p[0] - s * p[1]), float(s * p[0] + c * p[1])

        solver = solver_of(ud.Building(
            outlines={"p": [move(p) for p in plan]},
            levels=[{"name": "L2", "height": 3.5, "outline": "p", "loads": [
                {"name": "d", "kind": "dead", "per_area": 5000.0}]},
                {"name": "L1", "height": 3.5, "outline": "p", "loads": [
                    {"name": "d", "kind": "dead", "per_area": 7000.0}]},
                {"name": "G", "outline": "p"}],
            lines=[{"name": f"l{i}", "at": move(at), "direction": float(a + angle), "bottom": "G",
                    "top": "L2", "stiffness": [k, 1.5 * k]} for i, (at, a, k) in enumerate(lines)],
        ))
        model, modes = solver.model, find_modes(solver, 1.0)
        how = combiner("CQC", modes.omega, modal_damping(0.05, modes.kept))
        peaks = {d: modal_peaks(modes, d, flat) for d in DIRECTIONS}
        sets = [SpectrumSet(d, d, STRENGTH, peaks[d], nodal_forces(model, peaks[d]), how,
                            modes.periods, tuple(map(str, range(modes.kept))))
                for d in DIRECTIONS]
        shear = model.quantities["line shear"]
        return np.asarray(combine_directions([s.of(shear) for s in sets], "SRSS"))

    assert shears(turn) == pytest.approx(shears(0.0), rel=1e-7)


def test_scaled_base_shear_equals_the_static_one(archive: Results) -> None:
    for s in archive.scaling:
        static = archive.statics[s.direction, "strength"].shear.base_shear
        if s.state.key == "strength":
            assert s.answer.factor * s.modal_base_shear == pytest.approx(
                max(static, s.modal_base_shear))
        else:
            assert s.answer.factor == 1.0  # S_1 < 0.6
    # X has no accidental torsion in this demo, so its story shear at the base is V itself.
    i = archive.shears.sets.index("spectrum X, strength")
    base = archive.model.base_stories[0]
    assert archive.shears.shear.values[i, 0, base] == pytest.approx(
        archive.statics["X", "strength"].shear.base_shear)


def test_overturning_from_forces(archive: Results) -> None:
    static = archive.statics["Y", "strength"]
    hand = float(static.forces @ np.maximum(static.heights, 0))
    i = archive.shears.sets.index("static Y, +e, strength")
    found = archive.shears.overturning.values[i, 1, archive.model.base_stories[0]]
    assert abs(found) == pytest.approx(hand)


@pytest.mark.parametrize(("damping", "asked"), [(0.05, False), (0.02, True)])
def test_modal_damping_other_than_that_of_the_spectrum_is_said(
    damping: float, asked: bool
) -> None:
    r = analyze(shear_building([1e8] * 3, [1e5] * 3), analysis={"damping": damping})
    assert any(f.check == "damping" for f in r.findings) == asked


def test_modes_more_than_asked_and_directional_option() -> None:
    b = shear_building([1e8] * 6, [1e5] * 6)
    r = analyze(b, analysis={"modes": 9, "directional_combination": "SRSS"})
    assert r.modes.kept == 10  # modes 9 and 10 are of one period: the cut does not part them
    i, j, k = (r.shears.sets.index(n) for n in
               ("spectrum X, strength", "spectrum Y, strength",
                "spectrum X and Y, SRSS, strength"))
    found = r.shears.shear.values
    assert found[k] == pytest.approx(np.hypot(found[i], found[j]))


def test_spectrum_from_a_table(tmp_path: Any) -> None:
    """A table that repeats the design spectrum gives the same base shear."""
    b = shear_building([1e8] * 3, [1e5] * 3)
    own = analyze(b)
    t = np.unique(np.concatenate([np.linspace(0.01, 4.0, 4000), [*own.spectrum.corners.values()]]))
    t = t[t < 5]
    rows = "\n".join(f"{x:.8f},{y:.8f}" for x, y in zip(t, own.spectrum(t) / G, strict=True))
    (tmp_path / "s.csv").write_text(f"# made up\nperiod (s), acceleration (g)\n{rows}\n")
    from undatum.project.project_file import validate

    project, faults = validate({
        "title": "t", "units": "N and m", "standard": "asce7-16", "site": SITE,
        "system": {"X": {"row": "C.1"}, "Y": {"row": "C.1"}}, "building": b,
        "spectrum": {"file": "s.csv"},
    })
    assert not faults
    assert project is not None
    found = ud.run(project, tmp_path)
    assert found.dynamic[0].base_shear == pytest.approx(own.dynamic[0].base_shear, rel=1e-4)


def test_log_log_interpolation_is_exact_on_a_power_law() -> None:
    t = np.array([0.1, 0.5, 3.0])
    s = TabulatedSpectrum("power", tuple(t), tuple(2.0 / t), interpolation="log-log")
    assert s([0.2, 1.0, 2.9]) == pytest.approx([10.0, 2.0, 2 / 2.9])
    with pytest.raises(ud.InputError, match=r"ends at 3 s but a period of 3\.5 s"):
        s([3.5])


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is empty"),
        ("0.1,0.5\n0.2,0.4\n", "names no units"),
        ("period (s), acceleration (apples)\n0.1,0.5\n", "not known"),
        ("period (ft), acceleration (g)\n0.1,0.5\n", "does not measure a time"),
        ("period (s), acceleration (g)\n0.1,0.5\n0.1,0.4\n", "does not come after"),
        ("period (s), acceleration (g)\n0.1,high\n", "line 2"),
        ("period (s), acceleration (g)\n0.1,-0.5\n0.2,0.1\n", "negative"),
        ("period (s), acceleration (m/s^2)\n0.1,4000\n0.2,0.1\n", "unit in the header right"),
        ("period (s), acceleration (g)\n0.1,0.5\n", "at least two"),
        ("period (s), acceleration (g)\n0.1,nan\n0.2,0.1\n", "finite"),
    ],
)
def test_wrong_spectrum_file(tmp_path: Any, text: str, words: str) -> None:
    path = tmp_path / "bad.csv"
    path.write_text(text)
    with pytest.raises(ud.InputError, match=words):
        ud.read_spectrum(path)
    with pytest.raises(ud.InputError, match="cannot be read"):
        ud.read_spectrum(tmp_path / "missing.csv")


def test_story_torsion_of_static_sets_by_hand(archive: Results) -> None:
    """About the center of mass of each story's top level: own moments and the forces above."""
    c = archive.model.diaphragms.centers
    for one in archive.static_sets:
        if one.state.key != "strength":
            continue
        row = archive.shears.sets.index(one.name)
        for i in range(len(c)):
            above = slice(0, i + 1)
            arm = c[above, 0] - c[i, 0] if one.direction == "Y" else -(c[above, 1] - c[i, 1])
            hand = np.sum(one.torques[above] + arm * one.forces[above])
            assert archive.shears.torsion.values[row, i] == pytest.approx(
                hand, abs=1e-6 * np.abs(one.forces).sum())


# -- the mass the modes leave out ------------------------------------------------------------------


@pytest.mark.parametrize(("standard", "rigid"), [("asce7-16", 0.05), ("asce7-10", 1 / 33)])
def test_residual_mass_moves_with_the_ground(standard: str, rigid: float) -> None:
    """A soft tower on a stiff story: what the slow modes leave out is rigid. Mass adds up."""
    b = shear_building([2e7, 2e7, 4e10], [1e5, 1e5, 4e5])
    r = analyze(b, standard=standard, analysis={"residual_mass": True, "mass_target": 0.3})
    one = r.dynamic[0]
    assert one.periods[-1] == rigid
    assert np.all(one.periods[:-1] >= rigid) or r.modes.kept == r.modes.count
    left = r.modes.total_mass[0] - r.modes.effective_mass[: r.modes.kept, 0].sum()
    assert left > 3e5
    assert one.modal[-1] == pytest.approx(left * one.ordinates[-1])
    note = next(f for f in r.findings if f.check == "mass left out by the modes")
    assert f"{left / r.modes.total_mass[0]:.1%} in X" in note.text
    assert r.table("modal_base_shears").columns[0].cells[-1] == "mass left out"
    plain = analyze(b, standard=standard, analysis={"mass_target": 0.3})
    assert one.base_shear > plain.dynamic[0].base_shear


def test_residual_is_nothing_when_every_mode_is_kept() -> None:
    b = shear_building([2e7, 3e7, 4e7], [1e5, 1e5, 1e5], lines_y=[(0.0, 0.7), (10.0, 0.3)])
    r = analyze(b, analysis={"residual_mass": True, "modes": 9})
    assert r.dynamic[0].modal[-1] == pytest.approx(0.0, abs=1e-3)
    plain = analyze(b, analysis={"modes": 9})
    assert r.shears.shear.values == pytest.approx(plain.shears.shear.values, rel=1e-9, abs=1e-3)


def test_choice_of_accidental_torsion_is_said() -> None:
    r = analyze(shear_building([2e7] * 2, [1e5] * 2), analysis={"accidental_torsion": "always"})
    assert [f for f in r.findings if f.check == "accidental torsion"]
