"""Lists whose order means nothing, shuffled: every number, verdict and finding stays."""

from __future__ import annotations

import copy
import random
import tomllib
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

import undatum as ud
from conftest import OWN, ROOMS, starter_text, write_toml
from test_frames import SITE, SYSTEM
from test_towers import K, level, lines, towers
from undatum.table import Table

#: Keys of lists, anywhere in a project, whose order means nothing; rules of members override.
FREE = {"walls", "placed", "lines", "cases", "member_loads", "loads", "openings", "points", "gaps",
        "combinations", "on_levels", "on_members", "supports", "forces"}


def shuffled(data: dict[str, Any], rng: random.Random) -> dict[str, Any]:
    """The same project with every such list in another order; levels of side chains too."""
    found = copy.deepcopy(data)

    def mix(table: Any, name: str = "", inside: str = "") -> None:
        if isinstance(table, dict):
            items = list(table.items())
            if name in ("floors", "sections", "outlines", "materials", "cores"):
                rng.shuffle(items)
                table.clear()
                table.update(items)
            for key, value in items:
                mix(value, key, name)
        elif isinstance(table, list) and all(isinstance(x, dict) for x in table):
            if name in FREE or inside == "floors":
                rng.shuffle(table)
            for one in table:
                mix(one, "", name)

    mix(found)
    levels = found["building"].get("levels")
    if levels:
        found["building"]["levels"] = reordered(levels, rng)
    return found


def reordered(levels: list[dict[str, Any]], rng: random.Random) -> list[dict[str, Any]]:
    """Levels in any order in which each comes before the one it stands on."""
    names = [one["name"] for one in levels]
    on = {one["name"]: one.get("stands_on") or (names[i + 1] if i + 1 < len(names) else None)
          for i, one in enumerate(levels)}
    base, left, order = names[-1], names[:-1], []
    while left:
        free = [n for n in left if n not in {on[m] for m in left}]
        order.append(rng.choice(free))
        left.remove(order[-1])
    if order == names[:-1]:
        return levels
    by = {one["name"]: one for one in levels}
    return [{**by[n], "stands_on": on[n]} for n in order] + [by[base]]


def rows_of(table: Table) -> list[tuple[Any, ...]]:
    """Rows in an order of their own, columns by name, without the names of what ties."""
    columns = [c for c in sorted(table.columns, key=lambda c: c.name)
               if c.name != "panel" and ("combination" not in c.name
                                         or table.name.endswith("combinations"))]
    return sorted(zip(*(c.cells for c in columns), strict=True), key=lambda row: tuple(
        x if isinstance(x, str) else "" for x in row) + tuple(
        f"{x:.4e}" if isinstance(x, (int, float)) else "" for x in row))


def differences(
    one: ud.Results, other: ud.Results, rel: float = 1e-9, tables: Sequence[str] = ()
) -> Iterator[str]:
    """What differs in tables and findings of the same building listed in another order; what is
    out of balance is round-off, and stays out."""
    for name in tables or [name for name in one.table_names if name != "plausibility"]:
        a, b = one.table(name), other.table(name)
        columns = sorted(c.name for c in a.columns)
        if columns != sorted(c.name for c in b.columns) or len(a) != len(b):
            yield f"{name}: columns {columns} or rows {len(a)}, {len(b)}"
            continue
        size = max((abs(x) for c in a.columns for x in c.cells
                    if isinstance(x, float) and np.isfinite(x)), default=0.0)
        for x, y in zip(rows_of(a), rows_of(b), strict=True):
            for cell, mate in zip(x, y, strict=True):
                same = np.isclose(cell, mate, rtol=rel, atol=rel * size, equal_nan=True) \
                    if isinstance(cell, float) and isinstance(mate, float) else cell == mate
                if not same:
                    yield f"{name}: {cell} and {mate} in {x[:4]}"
                    break
    told = [sorted((f.check, f.where, f.severity.value, f.clause, f.text) for f in r.findings)
            for r in (one, other)]
    for x, y in zip(*told, strict=False):
        if x != y:
            yield f"finding {x} and {y}"
    if len(told[0]) != len(told[1]):
        yield f"{len(told[0])} and {len(told[1])} findings"


def both(data: dict[str, Any], folder: Path, seed: int) -> tuple[ud.Results, ud.Results]:
    mixed = shuffled(data, random.Random(seed))
    assert mixed != data
    return ud.run(ud.read(write_toml(data, folder / "plain.toml"))), ud.run(
        ud.read(write_toml(mixed, folder / "mixed.toml")))


@pytest.mark.parametrize(
    "name", ["archive", "clinic", "clinic_frames", "archive_frames", "terrace"])
def test_shipped_projects_in_another_order(name: str, tmp_path: Path) -> None:
    data = tomllib.loads(starter_text(name))
    assert list(differences(*both(data, tmp_path, 1))) == []


@pytest.mark.parametrize("name", ["hostel", "tower"])
def test_walls_and_members_in_another_order(name: str, tmp_path: Path) -> None:
    """The large ones by what follows from all the rest, to the digits of partial modes."""
    data = tomllib.loads(starter_text(name))
    data.get("analysis", {}).pop("halve_mesh", None)
    data["building"]["wall_mesh"] = "4 m"
    tables = ("modes", "weight_levels", "static_x_strength", "reactions_under_cases", "scaling",
              "drift_x")
    assert list(differences(*both(data, tmp_path, 2), rel=1e-6, tables=tables)) == []


@pytest.mark.parametrize("key", ROOMS)
@settings(deadline=None, max_examples=2, phases=[Phase.generate])
@given(seed=st.integers(0, 10**6))
def test_a_tower_with_a_wing_in_any_order(key: str, seed: int) -> None:
    """A high tower and a low one on a podium, in every standard: all tables, all findings."""
    site, system, *_ = ROOMS[key]
    plain = towers("EW")
    plain = plain.model_copy(update={"lines": tuple(  # so that nothing ties
        one.model_copy(update={"stiffness": one.stiffness * (1 + 0.017 * k)})
        for k, one in enumerate(plain.lines))})
    rng = random.Random(seed)
    names = [one.name for one in plain.levels]
    on = [{"name": one.name, **({"stands_on": one.stands_on} if one.stands_on else {})}
          for one in plain.levels]
    order = reordered(on, rng)
    mixed = plain.model_copy(update={
        "levels": tuple(plain.levels[names.index(one["name"])].model_copy(
            update={"stands_on": one.get("stands_on")}) for one in order),
        "lines": tuple(rng.sample(plain.lines, len(plain.lines)))})

    def run(building: ud.Building) -> ud.Results:
        return ud.analyze(title="order", standard=key, site=site, system=dict.fromkeys(
            "XY", system), building=building, folder=OWN, results_in="kN and m")

    assert list(differences(run(plain), run(mixed))) == []


@pytest.mark.parametrize("key", ROOMS)
def test_equal_towers_get_equal_forces(key: str) -> None:
    """Twins on a podium: a force at the top goes to both, by weight."""
    site, system, *_ = ROOMS[key]
    sides = [[level(f"{n}{i}", None if i > 1 else "P2", n.lower()) for i in (2, 1)] for n in "AB"]
    twins = ud.Building(
        levels=[*sides[0], *sides[1], level("P2", None, "p"), ud.Level(name="Ground", outline="p")],
        outlines={"p": [(0, 0), (40, 0), (40, 20), (0, 20)],
                  "a": [(0, 0), (12, 0), (12, 20), (0, 20)],
                  "b": [(28, 0), (40, 0), (40, 20), (28, 20)]},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=7e3)]},
        lines=[*lines("P", 0, 40, "Ground", "P2"),
               *lines("E", 0, 12, "P2", "A2"),
               *[one.model_copy(update={"stiffness": K["E"]})
                 for one in lines("W", 28, 40, "P2", "B2")]])
    results = ud.analyze(title="twins", standard=key, site=site, system=dict.fromkeys(
        "XY", system), building=twins, folder=OWN)
    for static in results.statics.values():
        force = dict(zip(static.levels, static.forces.tolist(), strict=True))
        assert [force["A2"], force["A1"]] == pytest.approx([force["B2"], force["B1"]])
        assert static.forces.sum() == pytest.approx(static.shear.base_shear)


def wing(order: str) -> ud.Building:
    """A tower of nine stories and a low wing of one that share a floor."""
    high = [level(f"T{i}", None if i > 1 else "P", "east", 3.5) for i in range(9, 0, -1)]
    low = [level("W1", "P", "west")]
    return ud.Building(
        levels=[*(high + low if order == "first" else low + high), level("P", None, "podium"),
                ud.Level(name="Ground", outline="podium")],
        outlines={"podium": [(0, 0), (40, 0), (40, 20), (0, 20)],
                  "east": [(0, 0), (12, 0), (12, 20), (0, 20)],
                  "west": [(28, 0), (40, 0), (40, 20), (28, 20)]},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=7e3)]},
        lines=[*lines("P", 0, 40, "Ground", "P"), *lines("E", 0, 12, "P", "T9"),
               *lines("W", 28, 40, "P", "W1")])


@pytest.mark.parametrize("order", ["first", "last"])
def test_the_height_is_that_of_the_tower(order: str) -> None:
    """4 m and nine times 3.5 m; C_t h^x of it, whichever chain is listed first."""
    results = ud.analyze(title="wing", standard="asce7-16", site=SITE, system=SYSTEM,
                         building=wing(order))
    assert results.periods["X"].working["h_n"].value == pytest.approx(
        (4.0 + 9 * 3.5) / 0.3048)


def test_structures_that_share_only_the_ground_are_told_apart() -> None:
    """A stiff light tower beside a soft heavy one: the period of each as it is alone, and an
    exceeded finding; one floor or one member between them, and they are one structure."""
    def made(sides: str, stiff: float = 3e8) -> ud.Building:
        part = {"A": [level("A2", "A1", "a"), level("A1", "Ground", "a")],
                "B": [level("B2", "B1", "b"), level("B1", "Ground", "b")]}
        own = {"A": lines("E", 0, 12, "Ground", "A2", stiffness=stiff),
               "B": lines("W", 28, 40, "Ground", "B2", stiffness=1e7)}
        return ud.Building(
            levels=[*(one for s in sides for one in part[s]),
                    ud.Level(name="Ground", outline="p")],
            outlines={"p": [(0, 0), (40, 0), (40, 20), (0, 20)],
                      "a": [(0, 0), (12, 0), (12, 20), (0, 20)],
                      "b": [(28, 0), (40, 0), (40, 20), (28, 20)]},
            floors={"all": [ud.Load(name="slab", kind="dead", per_area=7e3)]},
            lines=[x for s in sides for x in own[s]])

    def run(building: ud.Building) -> ud.Results:
        return ud.analyze(title="apart", standard="asce7-16", site=SITE, system=SYSTEM,
                          building=building)

    both_ways = [run(made(sides)) for sides in ("AB", "BA")]
    alone = {side: float(run(made(side)).computed["X"]) for side in "AB"}
    for results in both_ways:
        told = [f for f in results.findings if f.check == "structures apart"]
        assert [(f.where, f.severity.value) for f in told] == [
            ("direction X", "exceeded"), ("direction Y", "exceeded")]
        for side, period in alone.items():
            said = float(told[0].text.split(f"{side}2 and below ")[1].split(" s")[0])
            assert said == pytest.approx(period, rel=0.02)  # Rayleigh's is a little short
    alike = run(made("AB", stiff=1e7))
    assert {f.severity.value for f in alike.findings if f.check == "structures apart"} == {
        "warning"}
    assert not [f for f in run(made("A")).findings if f.check == "structures apart"]
    assert not [f for f in run(towers("EW")).findings if f.check == "structures apart"]
