"""Plan geometry against closed forms and invariance."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from undatum.building import Outline
from undatum.errors import InputError

sides = st.floats(0.5, 200.0)
shifts = st.floats(-5000.0, 5000.0)


@given(a=sides, b=sides, x=shifts, y=shifts, turn=st.floats(0, 2 * math.pi))
def test_rectangle_anywhere_at_any_angle(
    a: float, b: float, x: float, y: float, turn: float
) -> None:
    corners = np.array([(0, 0), (a, 0), (a, b), (0, b)], dtype=float)
    c, s = math.cos(turn), math.sin(turn)
    moved = corners @ np.array([[c, s], [-s, c]]) + (x, y)
    o = Outline(points=[tuple(map(float, p)) for p in moved])
    assert o.area == pytest.approx(a * b, rel=1e-7)
    assert o.polar_moment == pytest.approx(a * b * (a**2 + b**2) / 12, rel=1e-6)
    center = corners.mean(axis=0) @ np.array([[c, s], [-s, c]]) + (x, y)
    assert o.centroid == pytest.approx(tuple(center), abs=1e-6)


def test_l_shape_from_two_rectangles() -> None:
    """Area, centroid and polar moment of the L by parallel axes from its parts."""
    o = Outline(points=[(0, 0), (18, 0), (18, 7), (9, 7), (9, 13), (0, 13)])
    parts = [((4.5, 6.5), 9.0, 13.0), ((13.5, 3.5), 9.0, 7.0)]
    area = sum(a * b for _, a, b in parts)
    center = np.sum([np.array(c) * a * b for c, a, b in parts], axis=0) / area
    polar = sum(a * b * (a**2 + b**2) / 12 + a * b * float(np.sum((np.array(c) - center) ** 2))
                for c, a, b in parts)
    assert o.area == pytest.approx(area)
    assert o.centroid == pytest.approx(tuple(center))
    assert o.polar_moment == pytest.approx(polar)


def test_hole_is_taken_off_and_order_does_not_matter() -> None:
    outer = [(0, 0), (10, 0), (10, 6), (0, 6)]
    hole = [(2, 2), (4, 2), (4, 4), (2, 4)]
    for points in (outer, outer[::-1]):
        for inner in (hole, hole[::-1]):
            o = Outline(points=points, holes=[inner])
            assert o.area == pytest.approx(56)
            x = (60 * 5 - 4 * 3) / 56
            assert o.centroid == pytest.approx((x, 3.0))
            polar = (60 * (136 / 12) + 60 * (5 - x) ** 2) - (4 * (8 / 12) + 4 * (3 - x) ** 2)
            assert o.polar_moment == pytest.approx(polar)


def test_edge_as_a_line_mass() -> None:
    """Center and polar moment of the perimeter by fine sampling."""
    o = Outline(points=[(0, 0), (8, 0), (8, 3), (2, 7)])
    length, center, polar = o.edge
    p = np.array([*o.points, o.points[0]], dtype=float)
    t = (np.arange(20000) + 0.5) / 20000
    pieces = [(a + t[:, None] * (b - a), np.hypot(*(b - a)) / t.size)
              for a, b in itertools.pairwise(p)]
    total = sum(w * t.size for _, w in pieces)
    middle = sum(w * q.sum(axis=0) for q, w in pieces) / total
    spread = sum(w * np.sum((q - middle) ** 2) for q, w in pieces)
    assert length == pytest.approx(total)
    assert center == pytest.approx(tuple(middle))
    assert polar == pytest.approx(spread, rel=1e-7)


@pytest.mark.parametrize(
    ("points", "holes", "words"),
    [
        ([(0, 0), (1, 1), (1, 0), (0, 1)], [], "crosses"),
        ([(0, 0), (1, 0), (2, 0)], [], "encloses no area|crosses"),
        ([(0, 0), (1, 0), (1, 0), (0, 1)], [], "twice in a row"),
        ([(0, 0), (1, 0)], [], "at least 3"),
        ([(0, 0), (9, 0), (9, 9), (0, 9)], [[(8, 8), (12, 8), (12, 12)]], "crosses|inside"),
        ([(0, 0), (9, 0), (9, 9), (0, 9)], [[(1, 1), (2, 2)]], "at least three"),
    ],
)
def test_unsound_outline(points: list[object], holes: list[object], words: str) -> None:
    with pytest.raises(InputError, match=words):
        Outline(points=points, holes=holes)


def test_points_on_the_edge_and_in_a_hole_count_as_floor() -> None:
    o = Outline(points=[(0, 0), (9, 0), (9, 9), (0, 9)], holes=[[(2, 2), (4, 2), (4, 4)]])
    assert o.holds([(0, 0), (9, 4.5), (3.5, 2.5), (9.01, 4)]).tolist() == [True, True, True, False]
