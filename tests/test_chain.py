"""One chain by hand: from the site to the governing moment at the foot of a column.

Everything is taken from the tables that a run writes of its input, and worked out again here: site
coefficients, period, base shear, a plane frame of bars, modes, ordinates, CQC, scale, redundancy.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest
from scipy import linalg

import undatum as ud
from conftest import Command, frame_of, write_toml

pytestmark = pytest.mark.usefixtures("unpainted")

G = 9.80665
FOOT = 0.3048

JOB: dict[str, Any] = {
    "title": "Chain", "standard": "asce7-16", "units": "N and m",
    "site": {"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
    "system": {"X": {"row": "C.5"}, "Y": {"row": "C.5"}},
    "analysis": {"accidental_torsion": "none", "torsion_reason": "symmetrical"},
    "building": {
        "self_weight": False,
        "axes": {"across_x": {"names": "1..3", "spacing": [5.5, 5.5]},
                 "across_y": {"names": "A..B", "spacing": 7.0}},
        "stories": {"heights": {"L1": 4.2, "L2": 3.4, "L3": 3.4}, "outline": "all",
                    "floor": "all"},
        "outlines": {"all": {"between": ["A1", "B3"]}},
        "floors": {"all": [{"name": "slab", "kind": "dead", "per_area": 7.5e3,
                            "path": "columns"}]},
        "sections": {"C": {"rectangle": "400 x 450 mm", "material": "C35/45"},
                     "B": {"rectangle": "300 x 550 mm", "material": "C35/45"}},
        "members": [{"columns": "all", "section": "C"}, {"beams": "all", "section": "B"}],
    },
}


def bar(e: float, g: float, p: pd.Series, length: float, along: np.ndarray[Any, Any],
        about: str, shear: str) -> np.ndarray[Any, Any]:
    """(6, 6) stiffness of a bar in the plane X-Z, axial, bending and shear, in X, Z and turn."""
    ea, ei, ga = e * p["area (m²)"], e * p[about], g * p[shear]
    f = 12 * ei / (ga * length**2)
    k = ei / (1 + f) / length**3
    local = np.array([
        [ea / length, 0, 0, -ea / length, 0, 0],
        [0, 12 * k, 6 * k * length, 0, -12 * k, 6 * k * length],
        [0, 6 * k * length, (4 + f) * k * length**2, 0, -6 * k * length,
         (2 - f) * k * length**2],
        [-ea / length, 0, 0, ea / length, 0, 0],
        [0, -12 * k, -6 * k * length, 0, 12 * k, -6 * k * length],
        [0, 6 * k * length, (2 - f) * k * length**2, 0, -6 * k * length,
         (4 + f) * k * length**2]])
    c, s = along
    turn = linalg.block_diag(*[np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])] * 2)
    return np.asarray(turn.T @ local @ turn)


def test_from_the_site_to_a_governing_moment(tmp_path: Path, command: Command) -> None:
    write_toml(JOB, tmp_path / "job.toml")
    assert command(["run", str(tmp_path / "job.toml"), "--out", str(tmp_path / "out")]) in (0, 1)

    def table(name: str) -> pd.DataFrame:
        return pd.read_csv(tmp_path / "out" / "tables" / f"{name}.csv")

    # -- site, weight --------------------------------------------------------------------------
    choices = table("choices").set_index(["table", "key"])["value"]
    ss, s1 = (float(choices["site", key].removesuffix(" g")) for key in ("ss", "s1"))
    assert (ss, s1, choices["site", "site_class"]) == (1.0, 0.4, "C")
    sds, sd1 = 2 / 3 * 1.2 * ss, 2 / 3 * 1.5 * s1  # F_a = 1.2, F_v = 1.5 in class C
    items = table("weight_items")
    floor = items["load per area (N/m²)"] * items["area (m²)"]
    weight = dict(zip(items["level"], floor, strict=True))  # dead load counts in full

    # -- the plane frame of axis A, both of which stand side by side --------------------------
    members, sections = table("members"), table("input_sections").set_index("section")
    own = members[(members["start y (m)"] == 0) & (members["end y (m)"] == 0)]
    nodes: dict[tuple[float, float], int] = {}
    for end in ("start", "end"):
        for x, z in zip(own[f"{end} x (m)"], own[f"{end} z (m)"], strict=True):
            nodes.setdefault((x, z), len(nodes))
    k = np.zeros((3 * len(nodes),) * 2)
    bars = {}
    for _, m in own.iterrows():
        p = sections.loc[m["section"]]
        e, nu = float(p["modulus (N/m²)"]), float(p["Poisson ratio"])
        a, b = (nodes[m[f"{end} x (m)"], m[f"{end} z (m)"]] for end in ("start", "end"))
        span = np.array([m["end x (m)"] - m["start x (m)"], m["end z (m)"] - m["start z (m)"]])
        column = m["kind"] == "column"
        # a column's width lies along local y, which is X; a beam's depth along z, upwards
        one = bar(e, e / 2 / (1 + nu), p, float(m["length (m)"]), span / np.hypot(*span),
                  "second moment about z (m⁴)" if column else "second moment about y (m⁴)",
                  "shear area along y (m²)" if column else "shear area along z (m²)")
        at = [*range(3 * a, 3 * a + 3), *range(3 * b, 3 * b + 3)]
        k[np.ix_(at, at)] += one
        bars[m["member"]] = one, at
    levels = table("input_levels").set_index("level")["elevation (m)"]
    up = [name for name in levels.index if name != levels.index[-1]]
    spread = np.zeros((len(k), 0))
    for name in up:  # the floor moves its nodes alike
        row = np.zeros(len(k))
        for (_, z), n in nodes.items():
            row[3 * n] = float(abs(z - levels[name]) < 1e-6)
        spread = np.column_stack([spread, row])
    free = [3 * n + i for (_, z), n in nodes.items() for i in (1, 2) if z > 1e-6]
    spread = np.column_stack([spread, np.eye(len(k))[:, free]])
    whole = spread.T @ k @ spread
    f = len(up)
    follow = -np.linalg.solve(whole[f:, f:], whole[f:, :f])
    floors = whole[:f, :f] + whole[:f, f:] @ follow
    moved = spread @ np.vstack([np.eye(f), follow])

    # -- modes and spectrum --------------------------------------------------------------------
    mass = np.array([weight[name] for name in up]) / G
    squared, shapes = linalg.eigh(2 * floors, np.diag(mass))
    omega = np.sqrt(squared)
    period = 2 * np.pi / omega
    factor = shapes.T @ mass

    def ordinate(t: float) -> float:
        ts = sd1 / sds
        if t < 0.2 * ts:
            return sds * (0.4 + 0.6 * t / (0.2 * ts))
        return sds if t <= ts else sd1 / t

    reduction = 8.0  # R of special moment frames of concrete, I_e = 1
    kept = int(np.argmax(np.cumsum(factor**2) / mass.sum() >= 0.9)) + 1
    sa = np.array([ordinate(t) * G / reduction for t in period])
    rho = np.eye(f)
    for i in range(f):
        for j in range(f):
            q = omega[i] / omega[j]
            rho[i, j] = 8 * 0.0025 * (1 + q) * q**1.5 / (
                (1 - q * q) ** 2 + 4 * 0.0025 * q * (1 + q) ** 2)
    rho = rho[:kept, :kept]

    def combined(modal: np.ndarray[Any, Any]) -> float:
        return float(np.sqrt(modal[:kept] @ rho @ modal[:kept]))

    # -- static base shear and scale -----------------------------------------------------------
    height = max(levels) - min(levels)
    approximate = 0.016 * (height / FOOT) ** 0.9
    used = min(period[0], 1.4 * approximate)  # C_u = 1.4 from S_D1 = 0.4 on
    cs = max(min(sds / reduction, sd1 / (used * reduction)), 0.044 * sds, 0.01)
    static = cs * sum(weight.values())
    dynamic = combined(factor**2 * sa)
    scale = max(1.0, static / dynamic)

    # -- the moment at the foot of a column ----------------------------------------------------
    one, at = bars["column A1 at L1"]
    modal = np.array([
        (one @ (moved @ shapes[:, n])[at])[2] * factor[n] * sa[n] / squared[n] for n in range(f)])
    redundancy = 1.3  # category D, no reason given for 1.0
    # gravity goes straight to the nearest column; the inner ones shorten more, and beams bend
    reach = {0.0: 2.75, 5.5: 5.5, 11.0: 2.75}
    load = np.zeros(len(k))
    for (x, z), n in nodes.items():
        if z > 1e-6:
            pressure = float(items["load per area (N/m²)"].iloc[0])
            load[3 * n + 1] = -pressure * reach[x] * 3.5
    still = spread @ np.linalg.solve(whole, spread.T @ load)
    dead = (one @ still[at])[2]
    moment = max(f * dead for f in (1.2 + 0.2 * sds, 0.9 - 0.2 * sds)) \
        + redundancy * scale * combined(modal)

    # -- what the program says -----------------------------------------------------------------
    assert table("modes")["period (s)"].to_numpy() == pytest.approx(
        np.sort(table("modes")["period (s)"])[::-1])
    in_x = table("modes")[table("modes")["dominant direction"] == "X"]["period (s)"].to_numpy()
    assert in_x[:f] == pytest.approx(period, rel=1e-6)
    scaling = table("scaling")
    row = scaling[(scaling["direction"] == "X") & (scaling["purpose"] == "strength")].iloc[0]
    assert row["static base shear (N)"] == pytest.approx(static, rel=1e-6)
    assert row["factor"] == pytest.approx(scale, rel=1e-6)
    results = ud.load(tmp_path / "out")
    envelope = frame_of(results, "forces", "column A1 at L1", "envelope", at=(0.0,))
    governing = envelope[(envelope.component == "moment_z") & (envelope.extreme == "largest")
                         & (envelope.kind == "strength, redundancy")].iloc[0]
    assert governing["moment (N·m)"] == pytest.approx(moment, rel=1e-6)
    assert "X + 0.3 Y" in governing.combination
