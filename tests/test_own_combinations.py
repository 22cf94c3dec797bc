"""Combinations of one's own, P-Delta in them, lateral lines, fibers, diagrams of extremes."""

from __future__ import annotations

import tomllib
from itertools import product
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS, frame_of, starter_text
from test_combined import AT, judged, lopsided
from test_frames import building, slender
from undatum.building.sections import CrossSection
from undatum.mechanics.actions import ACTIONS, reactions, section_forces
from undatum.mechanics.cases import along

WIND = {"name": "wind", "on_levels": [{"at": "L1..L2", "X": 20e3, "Y": -5e3}]}
SOIL = {"name": "soil", "on_levels": [{"at": "L1", "X": 30e3}], "counts_as": "dead"}
NAME = "column A1 at L1"


def with_cases(*cases: dict[str, Any]) -> ud.Building:
    return lopsided().model_copy(update={"cases": list(cases)})


def values_of(r: ud.Results, name: str = NAME) -> tuple[dict[str, Any], dict[str, Any]]:
    """Section forces (place, component) by case and by set."""
    frame = r.model.framed
    assert frame is not None
    members = r.members(name)
    quantity = section_forces(r.model, members, AT)
    cases: dict[str, Any] = {}
    for name_, c in r.load_cases().on_members:  # "live, share 0.25" and such by kind
        kind = name_.split(",")[0]
        cases[kind] = cases.get(kind, 0.0) + along(c, frame.frame, members, AT)[0]
    return (cases, {s.name: s.of(quantity).reshape(3, 6) for s in r.sets_for_strength})


def extreme(table: Any, kind: str) -> dict[tuple[str, str, str], float]:
    own = table[table.kind == kind]
    return {(a, c, e): v if c in ACTIONS[:3] else m for a, c, e, v, m in zip(
        own["at"], own["component"], own["extreme"], own["force (N)"], own["moment (N·m)"],
        strict=True)}


def test_a_case_that_counts_as_a_kind_takes_its_factors() -> None:
    r = judged("asce7-16", with_cases(WIND, SOIL))
    without = judged("asce7-16")
    assert r.combinations is not None
    cases, _ = values_of(r)
    tables = [frame_of(x, "forces", NAME, "each", at=AT, by="static")
              for x in (r, without)]
    both, alone = (t[t.acting == "gravity"].reset_index() for t in tables)
    rows = {(x.kind, x.name): x.dead for x in (*r.combinations.gravity, *r.combinations.rows)}
    places = {"start": 0, "0.5": 1, "end": 2}
    for c, name in enumerate(ACTIONS):
        head = f"{name} (N)" if c < 3 else f"{name} (N·m)"
        more = [rows[k, n] * cases["soil"][places[at], c] for k, n, at in
                zip(both["kind"], both["combination"], both["at"], strict=True)]
        np.testing.assert_allclose(both[head] - alone[head], more, rtol=1e-6, atol=1e-2)
    note = r.read("forces", NAME, "envelope").table().note
    assert "In no combination: wind." in note


def leaning(weight: float, **more: Any) -> ud.Results:
    """A portal that leans: thin columns, stiffer along Y, stiff beams; C_d of 2.5."""
    site, system, *_ = ROOMS["asce7-16"]
    soft = building(slender(1.2e-4, other=1.55e-4), slender(1e2, other=1e2), stories=2,
                    self_weight=False).model_copy(
        update={"floors": {"all": [ud.Load(name="slab", kind="dead", per_area=weight)]}})
    own = {**system, "row": "C.7"}
    return ud.analyze(title="t", standard="asce7-16", results_in="N and m", site=site,
                      building=soft,
                      system={"X": own, "Y": own}, **more)


@pytest.mark.parametrize("method", ["static", "spectrum"])
def test_p_delta_multiplies_forces_story_by_story(method: Any) -> None:
    """ASCE/SEI 7-16, 12.8.7: displacements and member forces, 1 / (1 - theta)."""
    r = leaning(27e3, combinations=[
        {"name": d, "kind": d, "earthquake": {d: 1.0}} for d in ("X", "Y")])
    factors = {(s.direction, s.method): s.amplification for s in r.stability}
    assert factors["X", method][1] > factors["Y", method][1] > 1.1
    assert factors["X", method][0] == 1.0
    for name, story in (("column A1 at L1", (1,)), ("column A1 at L2", (0,)),
                        ("beam A 1-2 at L2", (0,)), ("beam A 1-2 at L1", (0, 1))):
        _, sets = values_of(r, name)
        for d in ("X", "Y"):
            plain = np.max([abs(sets[s.name]) for s in r.sets_for_strength
                            if s.direction == d and s.method == method], axis=0)
            found = extreme(frame_of(r, "forces", name, "envelope", at=AT, by=method), d)
            factor = max(factors[d, method][i] for i in story)
            for j, c in product(range(3), range(6)):
                at = ("start", "0.5", "end")[j]
                assert found[at, ACTIONS[c], "largest"] == pytest.approx(
                    factor * plain[j, c], rel=1e-8, abs=1e-2)
    feet = frame_of(r, "reactions", under="envelope", by=method)
    plain = np.max([abs(s.of(reactions(r.model))) for s in r.sets_for_strength
                    if s.direction == "X" and s.method == method], axis=0).reshape(-1, 6)
    own = feet[(feet.kind == "X") & (feet.component == "force X") & (feet.extreme == "largest")
               & (feet.foot != "sum")]
    np.testing.assert_allclose(own["force (N)"], factors["X", method][1] * plain[:, 0], rtol=1e-8)
    assert "P-Delta factors multiply" in r.read("forces", NAME, "envelope", by=method).table().note


def test_sets_of_several_directions_in_combinations_of_ones_own() -> None:
    """Along an angle, both directions and the most unfavorable one: both signs, the larger P-Delta
    factor of X and Y; those for drift are refused."""
    ways = {"shaking": ["30 deg"], "minor_component": 0.7}
    names = {"angle": "spectrum at 30°, strength",
             "any": "spectrum, any direction, CQC3 0.7, strength",
             "both": "spectrum X and Y, 100/30, strength"}
    r = leaning(27e3, analysis=ways, combinations=[
        {"name": f"by {k}", "kind": k, "factors": {"dead": 0.9}, "sets": {n: 1.2}}
        for k, n in names.items()])
    growth = {(s.direction, s.method): s.amplification[1] for s in r.stability}
    factor = max(growth["X", "spectrum"], growth["Y", "spectrum"])
    assert growth["X", "spectrum"] > 1.005 * growth["Y", "spectrum"] > 1.0
    cases, _ = values_of(r)
    quantity = section_forces(r.model, r.members(NAME), AT)
    for kind, n in names.items():
        one = next(s for s in r.further if s.name == n)
        peaks = one.of(quantity).reshape(3, 6)
        found = extreme(frame_of(r, "forces", NAME, "envelope", at=AT), kind)
        for j, c in product(range(3), range(6)):
            at = ("start", "0.5", "end")[j]
            high = 0.9 * cases["dead"][j, c] + 1.2 * factor * peaks[j, c]
            low = 0.9 * cases["dead"][j, c] - 1.2 * factor * peaks[j, c]
            assert found[at, ACTIONS[c], "largest"] == pytest.approx(high, rel=1e-8, abs=1e-2)
            assert found.get((at, ACTIONS[c], "smallest"), high) == pytest.approx(
                low, rel=1e-8, abs=1e-2)
        each = frame_of(r, "forces", NAME, "together", at=AT)
        assert each[each.kind == kind]["signs"].nunique() == 8
    with pytest.raises(ud.InputError, match="is for drift"):
        leaning(27e3, analysis=ways, combinations=[
            {"name": "a", "sets": {"spectrum at 30°, drift": 1.0}}])


def test_what_p_delta_could_not_be_applied_is_said() -> None:
    assert "NO P-DELTA FACTOR EXISTS" in leaning(60000.0).read(
        "forces", NAME, "envelope").note
    r = leaning(27e3, analysis={"second_order": "by axial force"})
    assert "Earthquake forces include second-order" in r.read(
        "forces", NAME, "envelope").table().note


def test_faults_name_the_place() -> None:
    for own, said in (
        ([{"name": "a", "factors": {"wnd": 1.0}}], "did you mean 'wind'"),
        ([{"name": "a", "factors": {"dead": 1}}, {"name": "a", "factors": {"dead": 1}}], "twice"),
        ([{"name": "a"}], "nothing acts"),
        ([{"name": "a", "factors": {"dead": 1.2}, "earthquake": {"Z": 1}}], "earthquake"),
        ([{"name": "a", "factors": {"dead": 120}}], "factors.dead"),
        ([{"name": "a", "sets": {"spectrum X, drift": 1}}], "is for drift"),
        ([{"name": "a", "sets": {"spectrum X": 1}}], "did you mean"),
    ):
        with pytest.raises(ud.InputError, match=said):
            judged("asce7-16", with_cases(WIND), combinations=own)
    with pytest.raises(ud.InputError, match="is taken"):
        with_cases({**WIND, "name": "snow"})
    with pytest.raises(ud.InputError, match="across the plane"):
        ud.shipped_project("arcade").model_copy(update={
            "combinations": [{"name": "a", "earthquake": {"Y": 1.0}}]})


@pytest.mark.parametrize("name", ["clinic", "archive"])
def test_moments_of_lines_are_their_shears_times_heights(name: str) -> None:
    """M at the bottom of a story is the sum of V h from there up; at the base all lines together
    hold the overturning of the static forces."""
    r = ud.run(ud.shipped_project(name))
    heights = dict(zip(r.model.levels, r.model.diaphragms.story_heights, strict=True))
    for one in r.static_sets:
        if one.state.role != "forces":
            continue
        shears, moments = (a.sel(set=one.name) for a in (r.shears.lines, r.shears.moments))
        labels, total = shears.axes[0].labels, 0.0
        sums: dict[str, float] = {}
        last = {line.name: r.model.levels[line.levels[-1]] for line in r.model.lines}
        axes = {line.name: line.axis["XY".index(one.direction)] for line in r.model.lines}
        for line, story, v, m in zip(labels["line"], labels["story"], shears.values,
                                     moments.values, strict=True):
            sums[line] = sums.get(line, 0.0) + v * heights[story]
            assert m == pytest.approx(sums[line], rel=1e-8, abs=1.0)
            if story == last[line] and last[line] == r.model.levels[r.model.base_stories[-1]]:
                total += axes[line] * m
        if len({*last.values()}) == 1:
            held = one.forces @ (r.model.diaphragms.elevations - r.model.base_elevation)
            assert total == pytest.approx(held, rel=1e-8)


@pytest.mark.parametrize("shape", [
    {"rectangle": "400 x 600 mm"}, {"circle": "500 mm"}, {"hollow_rectangle": "300 x 400 x 12 mm"},
    {"hollow_circle": "400 x 10 mm"}, {"i_shape": "300 x 500 x 20 x 12 mm"},
    {"channel": "120 x 300 x 16 x 10 mm"}, {"tee": "300 x 400 x 20 x 15 mm"},
    {"angle": "150 x 200 x 15 mm"}])
def test_stress_at_the_rim_by_unsymmetric_bending(shape: dict[str, Any]) -> None:
    """About the axes of the sizes, with the product of area, as textbooks have it."""
    section = CrossSection(material="S355", **shape)
    sized, found, rim = section.sized(), section.found(), section.rim()
    assert rim is not None
    c, s = np.cos(found.tilt), np.sin(found.tilt)
    my, mz = 3.0, 2.0  # about principal axes
    big_y, big_z = c * my - s * mz, s * my + c * mz  # about those of the sizes
    y, z = (rim @ np.array([[c, s], [-s, c]])).T
    iy, iz, iyz = sized.bending_y, sized.bending_z, sized.product
    exact = ((big_y * iz + big_z * iyz) * z - (big_z * iy + big_y * iyz) * y) / (iy * iz - iyz**2)
    own = my * rim[:, 1] / found.bending_y - mz * rim[:, 0] / found.bending_z
    np.testing.assert_allclose(own, exact, rtol=1e-9, atol=1e-9 * abs(exact).max())
    corner = rim - rim.mean(axis=0)
    assert np.ptp((rim @ np.array([[c, s], [-s, c]]))[:, 0]) == pytest.approx(sized.width)
    assert corner.shape[0] >= 4


def test_stresses_of_combinations_are_those_of_the_states() -> None:
    """Every static state has its axial force and both moments: N / A and M / W at four corners."""
    r = judged("asce7-16")
    width, depth = 0.45, 0.35
    states = frame_of(r, "forces", NAME, "together", at=(0.0,), by="static")
    found = frame_of(r, "stress", NAME, "envelope", at=(0.0,), by="static")
    for kind in states["kind"].unique():
        own = states[states.kind == kind]
        bent = abs(own["moment_y (N·m)"]) / (width * depth**2 / 6) \
            + abs(own["moment_z (N·m)"]) / (depth * width**2 / 6)
        axial = own["axial (N)"] / (width * depth)
        row = found[found.kind == kind].iloc[0]
        assert row["largest (N/m²)"] == \
            pytest.approx((axial + bent).max(), rel=1e-9)
        assert row["smallest (N/m²)"] == pytest.approx((axial - bent).min(), rel=1e-9)
    sets = frame_of(r, "stress", NAME, at=(0.0,)).set_index("set")
    forces = frame_of(r, "forces", NAME, at=(0.0,)).set_index("set")
    for s in r.static_sets:
        if s.state == r.strength:
            f = forces.loc[s.name]
            size = f["axial (N)"] / (width * depth) + abs(f["moment_y (N·m)"]) / (
                width * depth**2 / 6) + abs(f["moment_z (N·m)"]) / (depth * width**2 / 6)
            assert sets.loc[s.name]["largest (N/m²)"] == pytest.approx(size, rel=1e-9)


def test_sections_without_a_shape_are_named() -> None:
    one = building(slender(1e-2), slender(1e-2), stories=1).model_copy(
        update={"floors": {"all": [ud.Load(name="slab", kind="dead", per_area=5e3)]}})
    with pytest.raises(ud.InputError, match="has a shape"):
        judged("asce7-16", one).read("stress").table()
    mixed = lopsided().model_copy(update={"sections": {
        **lopsided().sections, "beam": CrossSection(parts=[{"rectangle": "300 x 500 mm"}],
                                                    material="C30/37")}})
    assert "slab flange): beam." in judged("asce7-16", mixed).read("stress").table().note


def test_unsigned_sets_count_with_both_signs_whatever_their_factor() -> None:
    """A spectrum set with a factor of -0.5 is as bad as with 0.5; choices offered are for strength
    alone; a plane building may name vertical motion."""
    r, other = (judged("asce7-16", lopsided(), combinations=[
        {"name": "mine", "kind": "mine", "factors": {"dead": 1.0},
         "sets": {"spectrum X, strength": f}}]) for f in (0.5, -0.5))
    tables = [extreme(frame_of(x, "forces", NAME, "envelope", at=AT), "mine") for x in (r, other)]
    assert tables[0] == tables[1]
    with pytest.raises(ud.InputError) as caught:
        judged("asce7-16", lopsided(), combinations=[
            {"name": "mine", "factors": {"dead": 1.0}, "sets": {"spectrum X, drift": 1.0}}])
    assert "choose from" in str(caught.value)
    assert "drift" not in str(caught.value).split("choose from")[1]
    data = tomllib.loads(starter_text("arcade"))
    data["building"]["vertical_mass"] = True
    data["analysis"] = {"vertical_spectrum": True}
    data["combinations"] = [{"name": "up", "factors": {"dead": 1.0}, "earthquake": {"Z": 1.0}}]
    assert ud.analyze(**data).project.combinations[0].earthquake == {"Z": 1.0}
    data["combinations"] = [{"name": "up", "factors": {"dead": 1.0}, "earthquake": {
        "Y" if data["building"]["plane"] == "X" else "X": 1.0}}]
    with pytest.raises(ud.InputError, match="across the plane"):
        ud.analyze(**data)


def test_moments_that_act_together_stand_under_their_own_names() -> None:
    """Under gravity alone, without the earthquake, the table gives the section forces of the case:
    unlike moments about y and z, each in its column."""
    r = judged("asce7-16", lopsided(), combinations=[
        {"name": "mine", "kind": "mine", "factors": {"dead": 1.0, "live": 1.0}}])
    table = frame_of(r, "forces", NAME, "together", at=(1.0,), by="static")
    assert [c for c in table.columns if "(N" in c] == [
        "axial (N)", "moment_y (N·m)", "moment_z (N·m)"]
    own = table[table.kind == "mine"].iloc[0]
    cases = frame_of(r, "forces", NAME, "cases", at=(1.0,)).set_index("case")
    kinds = ["dead", "equipment", "partition", "live", "storage"]
    for c in ("axial (N)", "moment_y (N·m)", "moment_z (N·m)"):
        assert own[c] == pytest.approx(cases.loc[kinds, c].sum())
    assert abs(own["moment_y (N·m)"] / own["moment_z (N·m)"] - 1) > 0.05
