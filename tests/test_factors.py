"""One seam for the factors: the same answers by each way, and the same refusals."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import sparse

import undatum as ud
from test_frames import real
from undatum.mechanics import factors
from undatum.mechanics.factors import scaled_factors

WAYS = ["splu", pytest.param("pardiso", marks=pytest.mark.skipif(
    not factors.pardiso_there(), reason="undatum-seismic[fast] is not installed"))]


def chain(stiffness: np.ndarray[Any, np.dtype[np.float64]]) -> sparse.csc_array:
    """Springs from the ground up, one after the other."""
    n = len(stiffness)
    k = np.zeros((n, n))
    for i, s in enumerate(stiffness):
        k[i, i] += s
        if i:
            k[i - 1, i - 1] += s
            k[i - 1, i] -= s
            k[i, i - 1] -= s
    return sparse.csc_array(k)


@pytest.mark.parametrize("way", WAYS)
def test_same_answers(way: Any) -> None:
    """Springs in a row: the end moves by the sum of the flexibilities; many loads at once."""
    stiffness = 10.0 ** np.random.default_rng(3).uniform(2, 9, 400)
    found = scaled_factors(chain(stiffness), 1e-13, way)
    assert found is not None
    load = np.zeros((400, 2))
    load[-1, 0], load[0, 1] = 1.0, 2.0
    moved = found.solve(load)
    assert moved[:, 0] == pytest.approx(np.cumsum(1 / stiffness), rel=1e-6)
    assert moved[:, 1] == pytest.approx(np.full(400, 2 / stiffness[0]), rel=1e-6)
    assert found.solve(load[:, 0]) == pytest.approx(moved[:, 0], rel=1e-7)


@pytest.mark.parametrize("way", WAYS)
def test_same_refusals(way: Any) -> None:
    """A ring without a support, a spring of next to nothing, a spring that pushes away."""
    ring = np.diag(np.full(50, 2.0)) - np.roll(np.eye(50), 1, axis=0) - np.roll(
        np.eye(50), -1, axis=0)
    assert scaled_factors(sparse.csc_array(ring), 1e-13, way) is None
    weak = np.ones(50)
    weak[0] = 1e-15
    assert scaled_factors(chain(weak), 1e-13, way) is None
    pushing = ring + np.diag(np.full(50, 0.01))
    pushing[7, 7] -= 0.5
    assert scaled_factors(sparse.csc_array(pushing), 1e-13, way) is None
    assert scaled_factors(sparse.csc_array(ring + 0.01 * np.eye(50)), 1e-13, way) is not None


@pytest.mark.parametrize("way", WAYS)
def test_same_building(way: Any, monkeypatch: Any) -> None:
    """The frame of the tests by each way: the same condensed stiffness."""
    monkeypatch.setattr(factors, "LARGE", 1 if way == "pardiso" else 10**9)
    project = ud.make_project(
        title="frame", standard="asce7-16", results_in="kN and m", building=real(),
        site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "C.5"}, "Y": {"row": "C.5"}})
    found = ud.calculate(project).model.framed.stiffness
    monkeypatch.setattr(factors, "LARGE", 10**9)
    assert found == pytest.approx(ud.calculate(project).model.framed.stiffness, rel=1e-9,
                                  abs=1e-9 * np.abs(found).max())
