"""Load combinations with numbers: brute force, sums by hand, equilibrium, every standard."""

from __future__ import annotations

from itertools import product
from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import OWN, ROOMS, frame_of
from test_frames import building, slender
from undatum.layout.takedown import take_down
from undatum.mechanics import factorize
from undatum.mechanics.actions import ACTIONS, section_forces
from undatum.mechanics.cases import along, load_cases

LOADS = [ud.Load(name="slab", kind="dead", per_area=5e3),
         ud.Load(name="partitions", kind="partition", per_area=1e3),
         ud.Load(name="use", kind="live", per_area=3.5e3, use="C"),
         ud.Load(name="racks", kind="storage", per_area=2e3),
         ud.Load(name="snow", kind="snow", per_area=1.2e3)]
#: What each kind is in combinations, by standard: partitions are told apart.
LIVE = {"partition": ("asce7-05", "asce7-10", "asce7-16", "asce7-22", "is1893-2002", "is1893-2016",
                      "criteria.toml")}
AT = (0.0, 0.5, 1.0)


def lopsided(**more: Any) -> ud.Building:
    """Two stories, two bays by one, the floor heavier at one side: both eccentricities count."""
    column = ud.CrossSection(rectangle="450 x 350 mm", material="C30/37")
    beam = ud.CrossSection(rectangle="300 x 500 mm", material="C30/37")
    one = building(column, beam, stories=2, x=(6.0, 4.0), y=(5.0,), **more)
    part = ud.Outline(points=[(0, 0), (3, 0), (3, 5), (0, 5)])
    return one.model_copy(update={"floors": {"all": [
        *LOADS, ud.Load(name="tank", kind="equipment", per_area=8e3, on=part)]}})


def judged(key: str, one: ud.Building | None = None, **more: Any) -> ud.Results:
    site, system, *_ = ROOMS[key]
    return ud.analyze(title="t", standard=key, results_in="N and m", site=site, folder=OWN,
                      system={"X": system, "Y": system}, building=one or lopsided(), **more)


def effect_of(key: str, kind: str) -> str:
    if kind == "partition":
        return "live" if key in LIVE[kind] else "dead"
    return {"live": "live", "storage": "live", "snow": "snow"}.get(kind, "dead")


def by_loops(r: ud.Results, key: str, method: str, name: str) -> dict[tuple[str, str, str], Any]:
    """Every combination, set and sign written out: the extremes of a member by place, component."""
    assert r.combinations is not None
    frame = r.model.framed
    assert frame is not None
    members = r.members(name)
    # load by load and level by level: self-weight is no load of a level
    alone = load_cases(factorize(r.model), take_down(
        r.project.building, frame.frame,
        lambda i, load: "dead -1" if load is None else f"{load.kind} {i}"), [])
    gravity = {n: along(c, frame.frame, members, AT)[0] for n, c in alone.on_members}
    quantity = section_forces(r.model, members, AT)
    quake = {d: [s.of(quantity).reshape(3, 6) for s in r.sets_for_strength
                 if s.direction == d and s.method == method] for d in "XY"}
    how = r.rules.directional_combination
    found: dict[tuple[str, str, str], Any] = {}
    for row in (*r.combinations.gravity, *r.combinations.rows):
        still = np.zeros((3, 6))
        for name_, values in gravity.items():
            kind, level = name_.rsplit(maxsplit=1)
            effect = effect_of(key, kind)
            f = {"dead": row.dead, "live": row.live, "snow": row.snow}[effect]
            if any(row.quake):
                on_roof = level == "0"
                if key == "en1998":  # category C, E, no snow above 1,000 m
                    f *= {"live": 0.6, "storage": 0.8, "snow": 0.0}.get(kind, 1.0)
                if key.startswith("is1893"):  # above 3 kPa, not above it, none on the roof
                    f *= {"live": 0.5 * (not on_roof), "storage": 0.25 * (not on_roof)}.get(
                        kind, 1.0)
            still += f * values
        own = [(row.quake[k], quake[d]) for k, d in enumerate("XY") if row.quake[k]]
        every = []
        for sets in product(*(s for _, s in own)):
            if how == "SRSS" and own:
                size = np.sqrt(sum((f * v) ** 2 for (f, _), v in zip(own, sets, strict=True)))
                every += [size, -size]
                continue
            for signs in product((1, -1), repeat=len(own)):
                if method == "static":
                    every.append(sum((s * f * v for s, (f, _), v in
                                      zip(signs, own, sets, strict=True)), np.zeros((3, 6))))
            if method == "spectrum":
                size = sum((f * v for (f, _), v in zip(own, sets, strict=True)), np.zeros((3, 6)))
                every += [size, -size]
        for quake_part in every or [np.zeros((3, 6))]:
            values = still + quake_part
            for j, c in product(range(3), range(6)):
                spot = (row.kind, ("start", "0.5", "end")[j], ACTIONS[c])
                low, high = found.get(spot, (np.inf, -np.inf))
                found[spot] = (min(low, values[j, c]), max(high, values[j, c]))
    return found


@pytest.mark.parametrize(("edition", "clause", "some", "most", "rows"), [
    ("05", "2.3.2", 0.5, 1.6, 7), ("10", "2.3.2", 0.5, 1.6, 7), ("16", "2.3.1", 0.5, 1.6, 7),
    ("22", "2.3.1", 0.3, 1.0, 5)])
def test_combinations_without_earthquake(
    edition: str, clause: str, some: float, most: float, rows: int
) -> None:
    """ASCE/SEI 7, 2.3 and 2.4: snow is at strength level in 2022."""
    found = judged(f"asce7-{edition}").combinations
    assert found is not None
    assert len(found.gravity) == rows
    by_name = {r.name: r for r in found.gravity}
    second = by_name[f"1.2 D + 1.6 L + {some:g} S"]
    third = by_name[f"1.2 D + {most:g} S + L"]
    assert (second.dead, second.live, second.snow, second.clause) == (1.2, 1.6, some, clause)
    assert (third.dead, third.live, third.snow) == (1.2, 1.0, most)
    assert {r.kind for r in found.gravity} <= {r.kind for r in found.rows}


def test_the_combination_named_gives_the_extreme() -> None:
    """1.2 D + 1.6 L governs the middle of a beam, an earthquake row its end; told by name."""
    r = judged("asce7-16")
    table = frame_of(r, "forces", "beam B 1-2 at L2", "envelope", at=AT)
    own = table[(table.kind == "strength, redundancy") & (table.component == "moment_y")]
    middle = own[own["at"] == "0.5"].set_index("extreme")
    sides = middle["moment (N·m)"].abs()
    assert "1.6" in middle.loc[sides.idxmax(), "combination"]
    column = frame_of(r, "forces", "column A1 at L1", "envelope", at=AT)
    own = column[(column.kind == "strength, redundancy") & (column.component == "moment_z")]
    assert own[own["at"] == "start"]["combination"].str.endswith(("(+)", "(−)")).all()
    static = frame_of(r, "forces", "column A1 at L1", "envelope", at=AT, by="static")
    own = static[(static.kind == "strength, redundancy") & (static.component == "shear_y")]
    assert own["combination"].str.contains("X [+−]e, Y [+−]e").all()


def test_a_portal_by_hand() -> None:
    """Axial force of a column: half the roof, and the overturning of the story over the bay."""
    one = building(slender(2e-3), slender(1e4, other=1e4), self_weight=False).model_copy(
        update={"floors": {"all": LOADS}})
    r = judged("asce7-16", one)
    dead, partition, live, storage, snow = (v * 30 / 4 for v in (5e3, 1e3, 3.5e3, 2e3, 1.2e3))
    found = frame_of(r, "forces", "column A1 at L1", "each", at=(0.0,), by="static")
    six = found[found.combination.str.startswith("6: X + 0.3 Y")
                & (found.kind == "strength, redundancy")].set_index("acting")
    sds = r.site.parameters["S_DS"]
    by_hand = -((1.2 + 0.2 * sds) * dead + partition + live + storage + 0.2 * snow)
    assert six.loc["gravity", "axial (N)"] == pytest.approx(by_hand, rel=1e-6)
    quake = {}
    for d, bay in (("X", 6.0), ("Y", 5.0)):
        sets = [s for s in r.static_sets if s.direction == d and s.state.role == "forces"]
        # stiff beams: the column's share of the story moment above its point of inflection, h / 2
        shares = []
        for s in sets:
            shear = s.forces.sum() / 4
            turn = s.torques.sum()
            k = 12.0
            polar = k * 4 * (2.5**2 + 3.0**2)
            arm = 2.5 if d == "X" else 3.0
            other = 3.0 if d == "X" else 2.5
            along = shear + (-1 if d == "X" else 1) * (-arm) * turn * k / polar
            aside = (1 if d == "X" else -1) * (-other) * turn * k / polar
            cross = 5.0 if d == "X" else 6.0
            shares.append(abs(along * 2.0 / (bay / 2) + aside * 2.0 / (cross / 2)))
        quake[d] = max(shares)
    rho = r.laterals["X"].redundancy
    assert six.loc["earthquake ±", "axial (N)"] == pytest.approx(
        rho * (quake["X"] + 0.3 * quake["Y"]), rel=2e-2)


def test_uplift_is_marked() -> None:
    """Narrow, tall and light: under 0.9 D a foot is held down, and its row says so."""
    column = ud.CrossSection(rectangle="300 x 300 mm", material="C30/37")
    light = building(column, column, stories=4, x=(2.5,), y=(2.5,)).model_copy(update={
        "floors": {"all": [ud.Load(name="slab", kind="dead", per_area=9e3)]}})
    table = judged("asce7-16", light).read("reactions", under="envelope", by="static").table()
    frame = table.to_frame(judged("asce7-16", light).units)
    held = frame[frame["uplift"]]
    assert not held.empty
    assert "sum" not in set(held.foot)  # the building as a whole is heavy enough
    assert (held["force (N)"] < 0).all()
    assert set(held.extreme) == {"smallest"}
    assert held["combination"].str.startswith(("7", "10")).all()
    assert len(table.marks) == len(held)


@pytest.mark.parametrize("key", ["asce7-16", "en1998"])
def test_axial_force_with_both_moments(key: str) -> None:
    """Static rows are true states: the extremes are among them, each in equilibrium; those of a
    spectrum take every sign."""
    r = judged(key)
    name = "column B2 at L1"
    loops = by_loops(r, key, "static", name)
    kind = "strength, redundancy" if key == "asce7-16" else "seismic"
    table = frame_of(r, "forces", name, "together", at=(0.0,), by="static")
    own = table[table.kind == kind]
    for component, head in (("axial", "axial (N)"), ("moment_y", "moment_y (N·m)"),
                            ("moment_z", "moment_z (N·m)")):
        low, high = loops[kind, "start", component]
        assert (own[head].min(), own[head].max()) == pytest.approx((low, high), rel=1e-9)
    table = frame_of(r, "forces", name, "together", at=(0.0,))
    first = table[(table.kind == kind) & table.signs.str.contains("axial")].groupby("combination")
    assert set(first.size()) == {8}


def test_lines_have_neither_members_nor_feet() -> None:
    r = ud.run(ud.shipped_project("clinic"))
    for what in ("reactions", "forces"):
        with pytest.raises(ud.InputError, match="no members"):
            r.read(what, under="envelope")
    assert "reactions_envelope" not in r.table_names
