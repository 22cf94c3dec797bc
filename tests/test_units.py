"""Units at the edge: what may be typed, and what it becomes."""

from __future__ import annotations

import math

import pint
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from undatum.units import DIMENSIONS, SYSTEMS, UnitSystem, to_si


@pytest.mark.parametrize(
    ("text", "dimension", "si"),
    [
        ("12 ft", "length", 12 * 0.3048),
        ("12 ft 6 in", "length", 12.5 * 0.3048),
        ("-3 ft 6 in", "length", -3.5 * 0.3048),
        ("12' 6\"", "length", 12.5 * 0.3048),
        ("80 psf", "area load", 80 * 4.4482216152605 / 0.3048**2),
        ("3.2 kPa", "area load", 3200.0),
        ("3.2 kN/m2", "area load", 3200.0),
        ("150 pcf", "unit weight", 150 * 4.4482216152605 / 0.3048**3),
        ("3.2 kN/m^2", "area load", 3200.0),
        ("29000 ksi", "stress", 29000e3 * 4.4482216152605 / 0.0254**2),
        ("30 GPa", "stress", 30e9),
        ("1 kip/in", "stiffness", 4448.2216152605 / 0.0254),
        ("0.4 g", "acceleration", 0.4 * 9.80665),
        ("5 %", "ratio", 0.05),
        ("30 deg", "angle", math.pi / 6),
        ("1_200 kip", "force", 1200 * 4448.2216152605),
        ("1.2 g", "acceleration in g", 1.2),
        ("9.80665 m/s^2", "acceleration in g", 1.0),
    ],
)
def test_text_with_unit(text: str, dimension: str, si: float) -> None:
    assert to_si(text, dimension) == pytest.approx(si, rel=1e-12)


@pytest.mark.parametrize(
    ("value", "dimension", "words"),
    [
        ("12", "length", "without a unit"),
        ("12 psf", "length", "does not measure a length"),
        ("12 furlongz", "length", "not known"),
        ("high", "length", "does not begin with a number"),
        (True, "length", "not a length"),
        (None, "force", "not a force"),
        ([3], "force", "not a force"),
        (float("nan"), "length", "not a finite number"),
        (float("inf"), "length", "not a finite number"),
        ("1e400 m", "length", "not a finite number"),
        ("3 g", "length", "does not measure"),
    ],
)
def test_wrong_value_says_why(value: object, dimension: str, words: str) -> None:
    with pytest.raises(ValueError, match=words):
        to_si(value, dimension)


def test_pint_quantity_is_taken() -> None:
    assert to_si(pint.Quantity(12, "foot"), "length") == pytest.approx(3.6576)
    assert ud.si("12 ft") == pytest.approx(3.6576)
    with pytest.raises(ud.InputError, match="not a number with a unit"):
        ud.si("twelve feet")


@pytest.mark.parametrize("name", SYSTEMS)
@pytest.mark.parametrize("dimension", DIMENSIONS)
@given(value=st.floats(-1e6, 1e6))
@settings(max_examples=25)
def test_shown_value_with_its_unit_reads_back(name: str, dimension: str, value: float) -> None:
    """What a result shows can be typed in again and is the same quantity."""
    system = UnitSystem(name)
    shown = system.show(value, dimension)
    text = f"{shown!r} {system.shown[dimension]}"
    assert to_si(text, dimension) == pytest.approx(value, abs=1e-9)
    bare = system.show(value, dimension, coherent=True)
    assert to_si(bare, dimension, system) == pytest.approx(value, abs=1e-9)


@pytest.mark.parametrize("name", SYSTEMS)
def test_bare_units_are_coherent(name: str) -> None:
    """Force, length and second alone make every other unit of plain numbers."""
    u = UnitSystem(name)
    force, length = u.size("force", coherent=True), u.size("length", coherent=True)
    for dimension, expected in {
        "moment": force * length, "stiffness": force / length, "area load": force / length**2,
        "mass": force / length, "rotational inertia": force * length, "stress": force / length**2,
        "second moment of area": length**4,
    }.items():
        assert u.size(dimension, coherent=True) == pytest.approx(expected, rel=1e-12)


def test_g_is_never_the_gram() -> None:
    assert ud.si("0.4 g") == pytest.approx(0.4 * 9.80665)
    assert ud.si("2 kg") == 2.0
