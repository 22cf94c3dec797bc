"""Drift under both directions together, own limits, groups of points, torsion ratios."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS
from test_combined import judged, lopsided
from undatum.finding import Severity

LIMIT = {"ratio": 0.004, "of": "elastic", "reason": "cladding"}


def loops(r: ud.Results, how: str) -> dict[tuple[str, str, str, str], tuple[float, float]]:
    """Design and elastic drift by method, component, story and point, written out row by row."""
    frame = r.table("drift_all").to_frame(r.units)
    facts = {s.name: s for s in (*r.static_sets, *r.spectrum_sets)}
    best: dict[Any, float] = {}
    for _, row in frame.iterrows():
        one = facts[row["set"]]
        for c in "XY":
            for kind in ("design", "elastic"):
                key = (one.method, c, row["story"], row["point"], kind, one.direction)
                best[key] = max(best.get(key, 0.0), row[f"{kind} {c} (m)"])
    found = {}
    for method, c, story, point, kind, d in best:
        if kind == "design" and d == "X":
            both = []
            for k in ("design", "elastic"):
                x, y = (best[method, c, story, point, k, e] for e in "XY")
                share = {"100/30": 0.3, "100/40": 0.4}.get(how)
                both.append(np.hypot(x, y) if share is None
                            else max(x + share * y, share * x + y))
            found[method, c, story, point] = (both[0], both[1])
    return found


@pytest.mark.parametrize("key", list(ROOMS))
def test_both_directions_written_out(key: str) -> None:
    """Amplified by the factor of each direction first, the governing point where it is judged."""
    for how in (["SRSS", "100/40"] if key == "asce7-16" else ["100/30"]):
        r = judged(key, analysis={"directional_combination": how})
        exact = loops(r, how)
        table = r.table("drift_both").to_frame(r.units)
        check = r.drift
        assert len(table) == 2 * 2 * 2
        for _, row in table.iterrows():
            c = "XY".index(row["drift along"])
            points = check.points if check.at_edges[c] else ("center of mass",)
            rows = {p: exact[row["analysis"], row["drift along"], row["story"], p]
                    for p in points}
            worst = max(rows, key=lambda p: rows[p][0])
            assert row["design drift (m)"] == pytest.approx(rows[worst][0], rel=1e-12)
            assert row["elastic drift (m)"] == pytest.approx(rows[row["point"]][1], rel=1e-12)
            assert row["drift ratio"] == pytest.approx(rows[worst][0] / 4.0, rel=1e-12)


def unlike(**drift: Any) -> ud.Results:
    """Systems that differ, so that displacements are amplified by different factors."""
    site, system, *_ = ROOMS["asce7-16"]
    return ud.analyze(title="t", standard="asce7-16", units="N, m", site=site,
                      system={"X": system, "Y": {**system, "row": "C.7"}}, building=lopsided(),
                      drift=drift or None)


def test_each_direction_keeps_its_own_factor() -> None:
    r = unlike()
    factors = dict(zip(r.drift.directions, r.drift.factors, strict=True))
    assert factors["X"] != factors["Y"]
    exact, table = loops(r, "100/30"), r.table("drift_both").to_frame(r.units)
    for _, row in table.iterrows():
        assert row["design drift (m)"] >= exact[
            row["analysis"], row["drift along"], row["story"], "center of mass"][0] * (1 - 1e-12)
    shown = r.table("displacements_both").to_frame(r.units)
    single = r.table("displacements").to_frame(r.units).set_index(["set", "point", "level"])
    for _, row in shown[shown["sets"].str.startswith("spectrum") & shown["sets"].str.endswith(
            ", drift")].iterrows():
        for kind in ("elastic", "amplified"):
            x, y = (single.loc[(f"spectrum {d}, drift", row["point"], row["level"])]
                    [f"{kind} X (m)"] for d in "XY")
            assert row[f"{kind} X (m)"] == pytest.approx(max(x + 0.3 * y, 0.3 * x + y))
    assert shown["sets"].str.startswith("static").any()


def test_it_counts_only_where_it_is_asked_for() -> None:
    """For information: no finding while it holds, a note beyond; asked for, it decides."""
    base = ud.shipped_project("clinic")
    told = [f for f in ud.run(base).findings if "both directions" in f.check]
    assert told == []
    judged_ = ud.run(base.varied({"drift.both_directions": True}))
    asked = [f for f in judged_.findings if "both directions" in f.check]
    assert len(asked) == 4
    assert {f.severity for f in asked} == {Severity.OK}
    assert set(judged_.table("drift_both").to_frame(judged_.units)["verdict"]) == {"holds"}
    soft = base.model_copy(update={"building": base.building.model_copy(update={"lines": [
        line.model_copy(update={"cantilever": line.cantilever.model_copy(update={
            "flexural_share": 0.05, "shear_share": 0.05})})
        if line.cantilever is not None else line for line in base.building.lines]})})
    for both, severity in ((False, Severity.NOTE), (True, Severity.EXCEEDED)):
        r = ud.run(soft.varied({"drift.both_directions": both}))
        found = [f for f in r.findings if "both directions" in f.check]
        assert found
        assert severity in {f.severity for f in found}
    static = ud.run(soft.varied({"drift.both_directions": True, "drift.judged_by": "spectrum"}))
    for f in static.findings:
        if "both directions, static" in f.check:
            assert f.severity is Severity.NOTE
    words = static.table("drift_both").to_frame(static.units)
    assert set(words[words.analysis == "static"]["verdict"]) == {
        "spectrum decides"}


@pytest.mark.parametrize("of", ["elastic", "design"])
def test_a_limit_of_ones_own(of: str) -> None:
    """Held against the drift it is for; exactly on the limit holds, a hair below is exceeded."""
    r = unlike()
    values = getattr(r.drift, of)
    decided = [m == "spectrum" for m in r.drift.methods]
    assert all(r.drift.deciding(c) in (None, "spectrum") for c in (0, 1))
    for c, name in enumerate("XY"):
        own = values[decided] if r.drift.deciding(c) else values
        points = slice(None) if r.drift.at_edges[c] else slice(0, 1)
        largest = float(np.nanmax(own[:, points, :, c]) / 4.0)
        for ratio, severity in ((largest, Severity.OK),
                                (largest * (1 - 1e-9), Severity.EXCEEDED)):
            found = unlike(own_limit={"ratio": ratio, "of": of, "reason": "cladding"})
            one = next(f for f in found.findings if f.check == f"story drift {name}, own limit")
            assert (one.severity, one.demand) == (severity, pytest.approx(largest, rel=1e-12))
            assert "cladding" in one.text
    table = found.table("drift_own_limit")
    assert table.heads(found.units)[4] == f"{of} drift ratio"
    assert len(table.marks) >= 1


def test_groups_and_torsion_ratios() -> None:
    r = unlike(groups={"west": ["corner 1", "corner 4"], "mid": ["center of mass"]})
    every = r.table("drift_all").to_frame(r.units).set_index(["set", "point", "story"])
    groups = r.table("drift_groups").to_frame(r.units)
    for _, row in groups.iterrows():
        points = {"west": ["corner 1", "corner 4"], "mid": ["center of mass"]}[row["group"]]
        mean = np.mean([every.loc[(row["set"], p, row["story"])]["design Y (m)"] for p in points])
        assert row["average Y (m)"] == pytest.approx(mean)
        assert row["ratio Y"] == pytest.approx(mean / 4.0)
    ratios = r.table("torsion_ratios").to_frame(r.units)
    for _, row in ratios.iterrows():
        d = "X" if " X" in row["set"] else "Y"
        values = [every.loc[(row["set"], f"corner {k}", row["story"])][f"elastic {d} (m)"]
                  for k in (1, 2, 3, 4)]
        assert row["torsion ratio"] == pytest.approx(max(values) / np.mean(values))
    for wrong in ({"a": ["corner 9"]}, {"a": []}):
        with pytest.raises(ud.InputError, match=r"drift\.groups\.a"):
            unlike(groups=wrong)
    for wrong_limit in ({**LIMIT, "of": "amplified"}, {"ratio": 0.004, "reason": "why"},
                        {**LIMIT, "ratio": 4.0}, {**LIMIT, "reason": ""}):
        with pytest.raises(ud.InputError, match=r"drift\.own_limit"):
            unlike(own_limit=wrong_limit)


def test_a_plane_building_has_one_direction() -> None:
    r = ud.run(ud.shipped_project("arcade"))
    assert not {"drift_both", "displacements_both", "torsion_ratios"} & set(r.table_names)
    own = ud.run(ud.shipped_project("arcade").varied({"drift.own_limit": LIMIT}))
    assert set(own.table("drift_own_limit").to_frame(own.units)["drift along"]) == {"X"}
