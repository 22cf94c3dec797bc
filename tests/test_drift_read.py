"""Drift under both directions together, own limits, groups of points, torsion ratios."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS, analyze, frame_of, shear_building
from test_combined import judged, lopsided
from test_own_combinations import leaning
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
    return ud.analyze(title="t", standard="asce7-16", results_in="N and m", site=site,
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
    assert set(judged_.table("drift_both").to_frame(judged_.units)["verdict"]) == {"passes"}
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
        "spectrum governs"}


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


WIND = {"name": "wind", "on_levels": [{"at": "L1..L2", "X": 20e3, "Y": -5e3}]}


def test_sets_of_several_directions_in_combinations_of_drift() -> None:
    """Both directions by 100/30 from the drift of each; the larger factor on displacement."""
    one = lopsided()
    name = "spectrum X and Y, 100/30, drift"
    system = {"X": {"row": "C.1"}, "Y": {"row": "B.3"}}  # other factors on displacement
    r = analyze(one, system=system, drift={"combinations": [
        {"name": of, "sets": {name: -2.0}, "of": of} for of in ("elastic", "design")]})
    check, table = r.drift, r.to_frame("drift_combinations")
    at = {s.direction: check.drift.axes[0].labels["set"].index(s.name) for s in r.spectrum_sets
          if s.state == check.state}
    x, y = (check.drift.values[at[d], :, :, :2] for d in "XY")
    both = 2 * np.maximum(x + 0.3 * y, 0.3 * x + y)
    factors = dict(zip(check.directions, check.factors, strict=True))
    assert factors["X"] != factors["Y"]
    for of, grown in (("elastic", np.ones((1, 1, 2))),
                      ("design", max(factors.values()) * check.second_order[:2].T[None])):
        own = table[table.combination == of]
        expected = (both * grown)[:, r.model.above_base]
        for c in (0, 1):
            column = next(k for k in own.columns if k.startswith(f"drift {'XY'[c]}"))
            found = own[column].to_numpy() / 1e3
            assert found == pytest.approx(expected[..., c][np.isfinite(expected[..., c])], rel=1e-9)
    with pytest.raises(ud.InputError, match="is for strength"):
        analyze(one, drift={"combinations": [
            {"name": "a", "sets": {"spectrum X and Y, 100/30, strength": 1.0}, "of": "design"}]})


@pytest.mark.parametrize("of", ["elastic", "design"])
@pytest.mark.parametrize("key", list(ROOMS))
def test_combinations_of_drift_by_the_motion_of_the_floors(key: str, of: str) -> None:
    """Signs of static sets and of the wind, both of a spectrum, the factors of each direction; own
    forces and wind stay as they are. Points move with their floor, as a rigid body."""
    mine: dict[str, Any] = {
        "name": "mine", "direction": "X", "on_levels": [{"at": "L2", "X": 30e3}], "reason": "test"}
    one = lopsided().model_copy(update={"cases": [WIND]})
    plain = judged(key, one, static_sets=[mine])
    state = plain.drift.state
    static = [next(s for s in plain.static_sets if (s.direction, s.sign) == pair
                   and s.state == state) for pair in (("X", 1), ("Y", -1))]
    peaks = next(s for s in plain.spectrum_sets if s.direction == "Y" and s.state == state)
    own = plain.own_sets[0]
    factors = {static[0].name: 0.7, static[1].name: -0.4, peaks.name: -0.25, own.name: 0.5}
    r = judged(key, one, static_sets=[mine], drift={"combinations": [
        {"name": "all", "sets": factors, "factors": {"wind": -1.3}, "of": of},
        {"name": "gusts", "factors": {"wind": 1.0}, "of": of, "limit": 1e-3, "reason": "glass"}]})
    model, check = r.model, r.drift
    floors = model.diaphragms.freedoms
    wind = next(c for c in r.load_cases().cases if c.own).motion[floors]

    def grown(d: str) -> Any:
        if of == "elastic":
            return np.ones((2, 1))
        factor = check.factors[check.directions.index(d)]  # type: ignore[arg-type]
        return factor * check.second_order[:2]

    def at(motion: Any, point: Any, i: int) -> Any:
        x, y, turn = motion[i]
        arm = point - model.diaphragms.centers[i]
        return np.array([x - turn * arm[1], y + turn * arm[0]])

    table = r.to_frame("drift_combinations")
    assert set(table["combination"]) == {"all", "gusts"}
    points = {line.name: line for line in r.plumb}
    rows = 0
    for _, row in table.iterrows():
        i = model.levels.index(row["story"])
        place = model.diaphragms.centers[i] if row["point"] == "center of mass" else \
            points[row["point"]].points[i]

        def drift(motion: Any, i: int = i, place: Any = place) -> Any:
            below = at(motion, place, i + 1) if i + 1 < model.n else 0.0
            return at(motion, place, i) - below

        if row["combination"] == "gusts":
            expected = abs(drift(wind))
        else:
            p = check.points.index(row["point"])
            total = -1.3 * drift(wind) + 0.5 * drift(own.displacement[floors])
            for f, s in ((0.7, static[0]), (-0.4, static[1])):
                g = grown(s.direction)
                total = total + f * g[:, min(i, g.shape[1] - 1)] * drift(s.displacement[floors])
            k = check.sets.index(peaks.name)
            g = grown("Y")
            both = 0.25 * g[:, min(i, g.shape[1] - 1)] * check.elastic[k, p, i, :2]
            expected = abs(total) + both
        assert [row["drift X (m)"], row["drift Y (m)"]] == pytest.approx(expected, rel=1e-9)
        assert row["resultant (m)"] == pytest.approx(np.hypot(*expected))
        assert row["ratio Y"] == pytest.approx(expected[1] / check.heights[i])
        over = max(expected) / check.heights[i] > 1e-3
        assert row["verdict"] == ("no limit" if row["combination"] == "all"
                                  else "exceeded" if over else "passes")
        rows += 1
    assert rows == 2 * 2 * len(check.points)
    told = [f for f in r.findings if f.check == "story drift, gusts"]
    worst = table[table.combination == "gusts"][["ratio X", "ratio Y"]].to_numpy().max()
    assert [f.ratio for f in told] == pytest.approx([worst / 1e-3])
    assert (told[0].severity is Severity.EXCEEDED) == (worst > 1e-3)
    assert not any(f.check == "story drift, all" for f in r.findings)


def test_a_chosen_set_has_the_drift_of_the_check() -> None:
    """Each set alone, with its own factor on displacement and P-Delta by direction of the drift."""
    for make in (unlike, lambda **drift: leaning(27e3, drift=drift)):
        r = make(combinations=[{"name": name, "sets": {name: -1.0}, "of": "design"}
                               for name in make().drift.sets])
        check = r.drift
        assert len(set(check.factors)) > 1 or check.second_order[0] != pytest.approx(
            check.second_order[1])
        for s, one in enumerate(r.drift_combined):
            assert one.drift == pytest.approx(check.design[s, ..., :2], nan_ok=True)


def test_combinations_of_drift_that_can_not_be() -> None:
    one = lopsided().model_copy(update={"cases": [WIND]})
    given = {"name": "a", "of": "design"}
    for more, said in (
        ({}, "nothing acts"), ({"factors": {"wnd": 1.0}}, "did you mean 'wind'"),
        ({"sets": {"static X, +e, strength": 1.0}}, "is for strength"),
        ({"sets": {"static X, drift": 1.0}}, "is no set for drift"),
        ({"factors": {"wind": 1.0}, "limit": 0.002}, "a limit needs its reason"),
        ({"factors": {"wind": 1.0}, "limit": 2.0, "reason": "percent"}, "limit"),
    ):
        with pytest.raises(ud.InputError, match=said):
            judged("asce7-16", one, drift={"combinations": [{**given, **more}]})
    with pytest.raises(ud.InputError, match="stands twice"):
        judged("asce7-16", one, drift={"combinations": [
            {**given, "factors": {"wind": 1.0}}, {**given, "factors": {"wind": 0.5}}]})


def test_top_and_bottom_of_every_story() -> None:
    """Static: their difference is the drift that is judged. A spectrum: each is its own peak, the
    bottom that of the level below at the same plan point."""
    r = ud.run(ud.shipped_project("archive"))
    ends = r.to_frame("drift_ends").set_index(["set", "point", "story"])
    full = r.to_frame("drift_all").set_index(["set", "point", "story"])
    moved = r.to_frame("displacements").set_index(["set", "point", "level"])
    assert len(ends) == sum(full.index.get_level_values("story") != "Quay")
    below = dict(zip(r.model.levels, r.model.levels[1:], strict=False))
    seen = 0
    for (name, point, story), row in ends.iterrows():
        for d in "XY":
            top, bottom, drift = (row[f"{w} {d} (in)"] for w in ("top", "bottom", "drift"))
            assert abs(drift) == pytest.approx(full.loc[(name, point, story)][f"elastic {d} (in)"],
                                               abs=1e-12)
            if name.startswith("static"):
                assert top - bottom == pytest.approx(drift, abs=1e-12)
            assert abs(top) == pytest.approx(moved.loc[(name, point, story)][f"elastic {d} (in)"])
            under = (name, point, below[story])
            if point != "center of mass" and under in moved.index:
                assert abs(bottom) == pytest.approx(moved.loc[under][f"elastic {d} (in)"], abs=1e-9)
                seen += 1
    assert seen > 100
    peaks = ends[ends.index.get_level_values("set").str.startswith("spectrum X")]
    assert (peaks["drift X (in)"] > (peaks["top X (in)"] - peaks["bottom X (in)"]) * 1.001).any()


@pytest.mark.parametrize("over", [0.99, 1.0, 1.001])
def test_combinations_of_drift_add_what_has_no_sign_and_judge_where_they_may(over: float) -> None:
    """Two spectrum sets add up; a point that is off the floor above, and stories below the base,
    are not judged; just above its limit a drift is exceeded."""
    b = shear_building([6e7] * 3, [2e5] * 3)
    small = ud.Outline(points=[(0, 0), (5, 0), (5, 6), (0, 6)])
    b = ud.Building(levels=[b.levels[0].model_copy(update={"outline": small}), *b.levels[1:]],
                    lines=b.lines, base="L1")
    sets = ("spectrum X, drift", "spectrum Y, drift")

    def asked(**more: Any) -> ud.Results:
        return analyze(b, drift={
            "points": [{"name": "far", "at": [9.5, 3.0]}], "combinations": [
                {"name": "both", "sets": dict.fromkeys(sets, 1.0), "of": "elastic", **more},
                *({"name": one, "sets": {one: 1.0}, "of": "elastic"} for one in sets)]})

    both, x, y = asked().drift_combined
    assert both.drift == pytest.approx(x.drift + y.drift, nan_ok=True)
    lone = both.points.index("far")
    assert np.isnan(both.drift[lone, both.levels.index("L3")]).all()
    assert np.isfinite(both.drift[lone, both.levels.index("L2")]).all()
    assert np.isnan(both.ratios[:, both.levels.index("L1")]).all()
    most = float(np.nanmax(both.ratios))
    judged = asked(limit=most / over, reason="glass").drift_combined[0]
    finding = judged.finding()
    assert finding is not None
    assert (finding.severity.value == "exceeded") is (over > 1)
    assert finding.where.split(", ")[0] != "story L1"


def test_drift_by_column_and_with_gravity() -> None:
    """Columns of a selection by their crossings and on average; dead load leans as it is read."""
    p = ud.shipped_project("terrace").varied({
        "drift.columns": ["columns on B"], "drift.combinations": [
            {"name": "sustained", "factors": {"dead": 1.0, "live": -0.5}, "of": "elastic"}]})
    r = ud.run(p)
    t = r.table("drift_groups").to_frame(r.units)
    full = r.table(r.drift.full_name).to_frame(r.units)
    for _, row in t[t.story.isin(["L5", "L1"])].iterrows():
        own = full[(full["set"] == row["set"]) & (full.story == row.story)
                   & full.point.isin([f"B{k}" for k in range(1, 6)])]
        assert len(own) == row["points on the floor"] == (3 if row.story == "L5" else 5)
        assert own["design X (mm)"].mean() == pytest.approx(row["average X (mm)"], rel=1e-9)
    lean = r.table("drift_combinations").to_frame(r.units)
    sway = {one: frame_of(r, "drift", "center of mass", one)["drift Y (mm)"]
            for one in ("dead", "cladding", "live", "partition")}  # cladding counts as dead load
    assert lean[lean.point == "center of mass"]["drift Y (mm)"].to_numpy() == pytest.approx(
        np.abs(sway["dead"] + sway["cladding"] - 0.5 * (sway["live"] + sway["partition"]))
        .to_numpy(), rel=1e-8)
    with pytest.raises(ud.InputError, match="no load of kind 'snow'"):
        ud.run(p.varied({"drift.combinations": [
            {"name": "a", "factors": {"snow": 1.0}, "of": "elastic"}]}))
    with pytest.raises(ud.InputError, match="which is no column"):
        p.varied({"drift.columns": ["beams on B"]})
