"""Spectra of ground-motion records against closed forms and brute force."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

import undatum as ud
from conftest import Command, starter_text
from undatum.ground import GroundMotion, response_spectra, rotated_spectra, usual_periods

G = 9.80665
DATA = Path(__file__).parent.parent / "examples" / "data"


def half_sine(duration: float, step: float, tail: float) -> GroundMotion:
    t = np.arange(0, duration + tail, step)
    a = np.where(t <= duration, np.sin(np.pi * t / duration), 0.0)
    return GroundMotion("half sine", step, a)


@pytest.mark.parametrize("ratio", [0.3, 0.5, 0.8, 1.2, 1.7, 3.0, 6.0])
def test_undamped_half_sine_pulse(ratio: float) -> None:
    """Largest response over the static one, ratio = t_d/T (Chopra, section 4.8).

    Short pulses (ratio below 1/2) peak after the pulse, longer ones during it.
    """
    period, duration = 1.0, ratio
    motion = half_sine(duration, 1e-4, 1.5 * period)
    found = response_spectra(motion, period, 0.0).displacement[0, 0]
    beta = period / (2 * duration)
    static = (period / (2 * np.pi)) ** 2
    after = abs(2 * beta * np.cos(np.pi * ratio) / (beta**2 - 1)) if beta != 1 else np.pi / 2
    t = np.linspace(0, duration, 200001)
    during = np.abs(
        (np.sin(np.pi * t / duration) - beta * np.sin(2 * np.pi * t)) / (1 - beta**2)
        if beta != 1 else 0.5 * (np.sin(2 * np.pi * t) - 2 * np.pi * t * np.cos(2 * np.pi * t))
    ).max()
    assert found / static == pytest.approx(max(after, during), rel=2e-5)


def test_against_brute_force_integration() -> None:
    """A random motion and damped oscillators, integrated with a fine general-purpose solver."""
    rng = np.random.default_rng(5)
    step = 0.02
    a = rng.normal(size=150) * np.hanning(150)
    motion = GroundMotion("random", step, a)
    t = step * np.arange(a.size)
    periods, dampings = np.array([0.15, 0.5, 1.3]), np.array([0.02, 0.1])
    found = response_spectra(motion, periods, dampings).displacement
    for i, period in enumerate(periods):
        for j, z in enumerate(dampings):
            w = 2 * np.pi / period
            run = solve_ivp(
                lambda x, y, w=w, z=z: [y[1], -2 * z * w * y[1] - w * w * y[0]
                                        - np.interp(x, t, a)],
                (0, t[-1]), [0.0, 0.0], max_step=step / 12, rtol=1e-9, atol=1e-12)
            assert found[i, j] == pytest.approx(np.abs(run.y[0]).max(), rel=2e-3)


@settings(deadline=None, max_examples=20)
@given(size=st.floats(0.01, 20.0), seed=st.integers(0, 10**6))
def test_laws_of_the_spectrum(size: float, seed: int) -> None:
    """Linear in the motion, blind to its sign, falling with damping; limits at both ends."""
    a = np.random.default_rng(seed).normal(size=80) * np.hanning(80)
    periods = np.array([0.05, 0.3, 1.0, 4.0])
    base = response_spectra(GroundMotion("a", 0.02, a), periods, [0.02, 0.05, 0.2])
    scaled = response_spectra(GroundMotion("b", 0.02, -size * a), periods, [0.02, 0.05, 0.2])
    assert scaled.displacement == pytest.approx(size * base.displacement, rel=1e-9)
    assert base.pseudo_acceleration == pytest.approx(
        base.pseudo_velocity * 2 * np.pi / periods[:, None])


def test_stiff_oscillator_feels_the_ground_and_a_soft_one_stays_put() -> None:
    t = np.arange(0, 0.8 + 1e-9, 0.002)
    motion = GroundMotion("sine", 0.002, np.sin(2 * np.pi * t / 0.8))  # ends without velocity
    stiff = response_spectra(motion, 0.004, 0.05).pseudo_acceleration[0, 0]
    assert stiff == pytest.approx(motion.peak, rel=1e-3)
    t = motion.step * np.arange(motion.acceleration.size)
    velocity = np.concatenate([[0], np.cumsum((motion.acceleration[1:] + motion.acceleration[:-1])
                                              / 2 * motion.step)])
    ground = np.concatenate([[0], np.cumsum((velocity[1:] + velocity[:-1]) / 2 * motion.step)])
    soft = response_spectra(motion, 400.0, 0.0).displacement[0, 0]
    assert soft == pytest.approx(np.abs(ground).max(), rel=1e-3)
    assert t[-1] == pytest.approx(motion.duration)


def test_finer_sampling_changes_nothing() -> None:
    """Straight lines between samples: the same motion at a third of the step."""
    rng = np.random.default_rng(9)
    a = np.concatenate([[0.0], rng.normal(size=99), [0.0]])
    fine = np.interp(np.arange(301) / 3, np.arange(101), a)
    periods = np.array([0.4, 1.0, 2.5])
    first = response_spectra(GroundMotion("a", 0.03, a), periods, 0.05).displacement
    second = response_spectra(GroundMotion("b", 0.01, fine), periods, 0.05).displacement
    assert first == pytest.approx(second, rel=1.5e-3)


def test_rotated_spectra_against_turning_the_motion_itself() -> None:
    rng = np.random.default_rng(3)
    x, y = rng.normal(size=(2, 120)) * np.hanning(120)
    periods = np.array([0.2, 0.7, 1.5])
    found = rotated_spectra(GroundMotion("x", 0.02, x), GroundMotion("y", 0.02, y), periods,
                            percentiles=(0.0, 50.0, 100.0))
    all_angles = np.array([
        response_spectra(GroundMotion("r", 0.02, np.cos(r) * x + np.sin(r) * y), periods, 0.05
                         ).pseudo_acceleration[:, 0]
        for r in np.radians(np.arange(180))])
    assert found["RotD100"] == pytest.approx(all_angles.max(axis=0), rel=1e-9)
    assert found["RotD50"] == pytest.approx(np.median(all_angles, axis=0), rel=1e-9)
    assert found["RotD0"] == pytest.approx(all_angles.min(axis=0), rel=1e-9)
    same = rotated_spectra(GroundMotion("x", 0.02, x), GroundMotion("y", 0.02, 0 * x), periods)
    alone = response_spectra(GroundMotion("x", 0.02, x), periods, 0.05).pseudo_acceleration[:, 0]
    assert same["RotD100"] == pytest.approx(alone)


def test_reading_both_forms(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("# c\ntime (ms), acceleration (m/s^2)\n0,0\n10,1\n20,-2\n")
    a = ud.read_motion(tmp_path / "a.csv")
    assert a.step == pytest.approx(0.01)
    assert a.acceleration.tolist() == [0.0, 1.0, -2.0]
    (tmp_path / "b.txt").write_text("acceleration (g)\n0 0.1 -0.2\n0.05\n")
    b = ud.read_motion(tmp_path / "b.txt", step=0.005)
    assert b.acceleration == pytest.approx(np.array([0, 0.1, -0.2, 0.05]) * G)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is empty"), ("0,1\n1,2\n", "names no units"),
        ("time (s), acceleration (apples)\n0,1\n", "not known"),
        ("time (ft), acceleration (g)\n0,1\n", "does not measure a time"),
        ("time (s), acceleration (g)\n0,0\n0.01,x\n", "line 3"),
        ("time (s), acceleration (g)\n0,0\n0.01,0.1\n0.05,0.2\n", "fixed step"),
        ("time (s), acceleration (g)\n0,0\n0.01\n", "not a time and an acceleration"),
        ("time (s), acceleration (g)\n0,0\n0.01,40\n0.02,0\n", "is the unit right"),
        ("acceleration (g)\n0 0.1 0.2\n", "give the step"),
        ("time (s), acceleration (g)\n0,0\n0.01,nan\n0.02,0\n", "not a finite number"),
    ],
)
def test_wrong_records(tmp_path: Path, text: str, words: str) -> None:
    (tmp_path / "r.csv").write_text(text)
    with pytest.raises(ud.InputError, match=words):
        ud.read_motion(tmp_path / "r.csv")


def test_wrong_oscillators_and_pairs() -> None:
    motion = half_sine(0.5, 0.01, 0.1)
    for periods, damping in (([0.0], 0.05), ([-1.0], 0.05), ([1.0], 1.0), ([1.0], 5.0), ([], 0.05)):
        with pytest.raises(ud.InputError):
            response_spectra(motion, periods, damping)
    with pytest.raises(ud.InputError, match="does not match"):
        rotated_spectra(motion, half_sine(0.6, 0.01, 0.1), [1.0])


def test_command(tmp_path: Path, command: Command) -> None:
    project = tmp_path / "p.toml"
    project.write_text(starter_text("starter"), encoding="utf-8")
    arguments: list[Any] = [
        "motion-spectrum", DATA / "harbor_north.csv", "--pair", DATA / "harbor_east.csv",
        "--damping", "5 %", "--damping", "2 %", "--project", project, "--out", tmp_path / "out"]
    assert command([str(x) for x in arguments]) == 0
    assert "peak 0.310 g" in command.said.out
    head = (tmp_path / "out" / "record_spectra.csv").read_text(encoding="utf-8").splitlines()[0]
    assert "RotD100 (g)" in head
    assert "pseudo-velocity, 0.02 damping (m/s)" in head
    assert command(["motion-spectrum", str(DATA / "none.csv")]) == 2
    assert command(["motion-spectrum", str(DATA / "harbor_east.csv"), "--damping", "5 kN"]) == 2


@pytest.mark.parametrize("pulse", [0.1, 0.2, 0.35])
@pytest.mark.parametrize("period", [0.4, 1.0, 3.0])
def test_the_free_vibration_after_the_record_counts(pulse: float, period: float) -> None:
    """Half a sine shorter than half the period: the peak comes after it, in closed form.

    Undamped: u w^2 / a_0 = 2 b cos(pi / (2 b)) / (b^2 - 1) with b = T / (2 t_d).
    """
    if pulse >= period / 2:
        pytest.skip("the peak falls within the pulse")
    step = 0.0005
    t = np.arange(0.0, pulse + step / 2, step)
    motion = GroundMotion("pulse", step, 2.0 * np.sin(np.pi * t / pulse))
    b = period / (2 * pulse)
    hand = 2.0 * 2 * b * np.cos(np.pi / (2 * b)) / (b**2 - 1)
    found = response_spectra(motion, [period], 0.0).pseudo_acceleration[0, 0]
    assert found == pytest.approx(hand, rel=2e-3)


def test_a_record_that_stops_in_mid_air_comes_back_to_rest() -> None:
    """A step of 0.2 s: u w^2 / a_0 = 2 sin(pi t_d / T), undamped, for t_d below T / 2."""
    motion = GroundMotion("step", 0.0005, np.full(400, 1.5))
    for period in (0.6, 1.0, 2.0):
        hand = 1.5 * 2 * np.sin(np.pi * 0.2 / period)
        found = response_spectra(motion, [period], 0.0).pseudo_acceleration[0, 0]
        assert found == pytest.approx(hand, rel=5e-3)


def test_a_pair_of_which_one_does_not_start_at_rest(tmp_path: Path) -> None:
    t = np.arange(0.0, 4.0, 0.01)
    one = GroundMotion("one", 0.01, np.sin(7 * t))
    other = GroundMotion("other", 0.01, np.cos(7 * t))
    found = rotated_spectra(one, other, [0.5, 0.9], 0.05)
    alone = response_spectra(other, [0.5, 0.9], 0.05).pseudo_acceleration[:, 0]
    assert np.all(found["RotD100"] >= alone * (1 - 1e-9))
    assert usual_periods().size >= 200
