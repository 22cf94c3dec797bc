"""Diaphragm design forces: by hand, and their floor and ceiling."""

from __future__ import annotations

import numpy as np
import pytest

from conftest import SITE, analyze, shear_building
from undatum.results.results import Results


def test_by_hand_with_floor_and_ceiling() -> None:
    """Class C, S_DS = 0.8, I_e = 1: 0.16 w at least, 0.32 w at most."""
    r = analyze(shear_building([6e7] * 4, [2e5] * 4), system={"X": {"row": "C.4"},
                                                              "Y": {"row": "C.1"}})
    w = r.shape.weights
    for d in ("X", "Y"):
        f = r.statics[d, "strength"].forces  # type: ignore[index]
        hand = np.cumsum(f) / np.cumsum(w) * w
        expected = np.minimum(np.maximum(hand, 0.2 * 0.8 * w), 0.4 * 0.8 * w)
        assert r.diaphragms[d] == pytest.approx(expected)  # type: ignore[index]
        words = np.where(hand < 0.16 * w, "least value", np.where(
            hand > 0.32 * w, "largest value", "share of forces above"))
        assert r.to_frame("diaphragms")[f"governed by, {d}"].tolist() == words.tolist()
    assert np.any(r.diaphragms["X"] > 0.161 * w)  # R = 3.5: above the floor
    assert r.diaphragms["Y"] == pytest.approx(0.16 * w)  # R = 8: the floor


def test_ceiling_for_an_essential_stiff_building() -> None:
    r = analyze(shear_building([1e9] * 3, [2e5] * 3), site={**SITE, "risk_category": "IV"},
                system={"X": {"row": "B.20"}, "Y": {"row": "B.20"}})
    assert r.diaphragms["X"] == pytest.approx(0.4 * 0.8 * 1.5 * r.shape.weights)


def test_ubc_with_top_force() -> None:
    r = analyze(shear_building([1e7] * 4, [2e5] * 4), standard="ubc97",
                site={"zone": "3", "soil": "SB", "occupancy_category": "standard"},
                system=({d: {"row": "3.4a", "regular": True} for d in "XY"}))
    f, w = r.statics["X", "strength"].forces, r.shape.weights
    hand = np.clip(np.cumsum(f) / np.cumsum(w) * w, 0.5 * 0.30 * w, 0.30 * w)
    assert r.diaphragms["X"] == pytest.approx(hand)


def test_silent_standards_have_no_table(archive: Results) -> None:
    r = analyze(shear_building([6e7] * 3, [2e5] * 3), standard="is1893-2016",
                site={"zone": "IV", "soil": "I", "importance_factor": "1.0"},
                system=({d: {"row": "RC SMRF", "regular": True} for d in "XY"}))
    assert r.diaphragms == {}
    assert "diaphragms" not in {t.name for t in r.tables()}
    assert "diaphragms" in {t.name for t in archive.tables()}
