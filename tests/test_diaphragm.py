"""Diaphragm design forces: by hand, and their floor and ceiling."""

from __future__ import annotations

import numpy as np
import pytest

import undatum as ud
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


# Hand calculation, five alike stories, S_DS = 0.8, S_D1 = 0.4, C_p0 = 0.32:
@pytest.mark.parametrize(("row", "kind", "z", "reduction"), [
    ("C.5", "precast concrete, basic design option", 0.7, 1.0),
    ("B.4", "cast-in-place concrete, shear-controlled", 1.0, 1.5),
    ("B.25", "precast concrete, elastic design option", 0.3, 0.7),
    ("D.3", "wood sheathed, shear-controlled", 0.85, 3.0),
])
@pytest.mark.parametrize("stories", [1, 2, 5])
def test_alternative_forces(row: str, kind: str, z: float, reduction: float, stories: int) -> None:
    """ASCE 7-16, 12.10.3: what precast floors need; collectors take 1.5 times as much."""
    r = analyze(shear_building([6e7] * stories, [2e5] * stories),
                system={"X": {"row": row, "diaphragm": kind}, "Y": {"row": row}})
    n, w = stories, r.shape.weights
    first = r.laterals["X"].overstrength * r.statics["X", "strength"].shear.coefficient
    one, more = 1 + z / 2 * (1 - 1 / n), 0.9 * z * (1 - 1 / n) ** 2
    higher = 0.0 if n == 1 else min((0.15 * n + 0.25) * 0.8, 0.8, 0.4 / (0.03 * (n - 1)))
    base = 0.4 * 0.8
    low = max(0.8 * base, 0.9 * one * first)
    top = max(np.hypot(one * first, more * higher), low)
    at = np.arange(n, 0, -1) / n
    c = np.interp(at, [0, 0.8, 1], [base, low, top]) if n > 2 else base + (top - base) * at
    assert r.site.parameters["S_D1"] == pytest.approx(0.4)
    assert r.diaphragms["X"] == pytest.approx(np.maximum(c / reduction, 0.2 * 0.8) * w)
    assert r.laterals["X"].collectors == 1.5
    assert r.laterals["Y"].collectors is None
    usual = analyze(shear_building([6e7] * stories, [2e5] * stories),
                    system={d: {"row": row} for d in "XY"})
    assert r.diaphragms["Y"] == pytest.approx(usual.diaphragms["Y"])
    words = set(r.to_frame("diaphragms")["governed by, X"])
    assert words <= {"C_px over R_s", "least value"}


def test_editions_without_alternative_forces_refuse_them() -> None:
    with pytest.raises(ud.InputError, match="diaphragm has no rule in this edition"):
        analyze(shear_building([6e7], [2e5]), standard="asce7-10", system={
            d: {"row": "C.5", "diaphragm": "wood sheathed, shear-controlled"} for d in "XY"})


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
