"""Mirrored, turned, renamed, in other units: the same building, the same findings."""

from __future__ import annotations

import re
from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import OWN, ROOMS, shear_building

Lines = list[tuple[float, float]]
SHARES = st.floats(0.15, 0.85)
PLACES = st.tuples(st.floats(0.0, 2.0), st.floats(4.0, 6.0))


def told(key: str, building: ud.Building, units: str = "kN and m", *,
         turned: bool = False) -> Counter[tuple[str, str, str, str]]:
    """Check, severity, ratio and clause of every finding; directions by another name if turned."""
    site, system, *_ = ROOMS[key]
    r = ud.analyze(title="t", standard=key, site=site, system={"X": system, "Y": system},
                   building=building, folder=OWN, results_in=units)

    def name(text: str) -> str:
        return re.sub(r"\b[XY]\b", lambda m: {"X": "Y", "Y": "X"}[m[0]], text) if turned else text

    return Counter((name(f.check), f.severity.value,
                    "" if f.ratio is None else f"{f.ratio:.5g}", f.clause) for f in r.findings)


def made(x: Lines, y: Lines, plan: tuple[float, float] = (6.0, 6.0)) -> ud.Building:
    return shear_building([6e7] * 3, [2e5] * 3, lines_x=x, lines_y=y, plan=plan)


@pytest.mark.parametrize("key", ROOMS)
@settings(deadline=None, max_examples=4)
@given(share=SHARES, places=PLACES, other=SHARES)
def test_the_same_building_has_the_same_findings(
    key: str, share: float, places: tuple[float, float], other: float
) -> None:
    x = [(places[0], share), (places[1], 1.0 - share)]
    y = [(0.5, other), (5.5, 1.0 - other)]
    b = made(x, y)
    plain = told(key, b)
    assert told(key, made([(6.0 - p, k) for p, k in x], y)) == plain  # mirrored
    assert told(key, made([(6.0 - p, k) for p, k in x], [(6.0 - p, k) for p, k in y])) == plain
    assert told(key, made(y, x), turned=True) == plain  # X and Y exchanged
    names = {level.name: f"floor {i}" for i, level in enumerate(b.levels)}
    renamed = ud.Building(
        levels=[v.model_copy(update={"name": names[v.name]}) for v in b.levels],
        lines=[v.model_copy(update={"name": f"line {i}", "top": names[v.top],
                                    "bottom": names[v.bottom]})
               for i, v in enumerate(reversed(b.lines))])
    assert told(key, renamed) == plain
    assert told(key, b, "kip and ft") == plain
