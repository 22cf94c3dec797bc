"""The weight table: shares, sources, centers and inertia."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import analyze, shear_building
from undatum import standards
from undatum.layout import weigh
from undatum.layout.weight import Weights
from undatum.results.results import Results
from undatum.standards.facts import LoadFacts

G = 9.80665
PSF = 4.4482216152605 / 0.3048**2
PLAN = [(0, 0), (12, 0), (12, 8), (0, 8)]


def weights_of(*loads: dict[str, Any], seismic_mass: bool = True) -> Weights:
    building = ud.Building(
        levels=[
            ud.Level(name="Roof", height=3, outline=PLAN, loads=[ud.Load(**x) for x in loads],
                     seismic_mass=seismic_mass),
            ud.Level(name="Ground", outline=PLAN),
        ],
        lines=[ud.Line(name="A", at=(0, 4), direction="Y", bottom="Ground", top="Roof",
                       stiffness=1e8)],
    )
    rule = standards.get("asce7-16").weight(None)
    return weigh(building, lambda *x: rule.share(LoadFacts(*x)),
                 lambda *x: rule.gravity(LoadFacts(*x)))


@pytest.mark.parametrize(
    ("load", "counted"),
    [
        ({"kind": "dead", "per_area": 3000.0}, 3000.0 * 96),
        ({"kind": "equipment", "total": 5e4}, 5e4),
        ({"kind": "cladding", "per_edge": 2000.0}, 2000.0 * 40),
        ({"kind": "storage", "per_area": 6000.0}, 0.25 * 6000 * 96),
        ({"kind": "live", "per_area": 2400.0}, 0.0),
        ({"kind": "partition", "per_area": 1000.0}, 1000.0 * 96),
        ({"kind": "partition", "per_area": "4 psf"}, 10 * PSF * 96),
        ({"kind": "snow", "per_area": "30 psf"}, 0.0),
        ({"kind": "snow", "per_area": "31 psf"}, 0.2 * 31 * PSF * 96),
        ({"kind": "roof garden", "per_area": 4000.0}, 4000.0 * 96),
        ({"kind": "live", "per_area": 2000.0, "share": 0.5, "reason": "owner"}, 1000.0 * 96),
        ({"kind": "storage", "per_area": 1000.0, "on": [(0, 0), (6, 0), (6, 8), (0, 8)]},
         0.25 * 1000 * 48),
    ],
)
def test_share_by_kind(load: dict[str, Any], counted: float) -> None:
    base = {"name": "base", "kind": "dead", "per_area": 1.0}  # so that the level has some weight
    found = weights_of(base, {"name": "load", **load})
    assert found.total == pytest.approx(counted + 96.0, rel=1e-12)
    assert found.total == pytest.approx(sum(x.counted for x in found.lines))


def test_center_and_inertia_by_parallel_axes() -> None:
    found = weights_of(
        {"name": "slab", "kind": "dead", "per_area": 4000.0},
        {"name": "tank", "kind": "equipment", "total": 3e5, "at": (10.0, 7.0)},
        {"name": "garden", "kind": "roof garden", "per_area": 2500.0,
         "on": [(0, 0), (3, 0), (3, 4), (0, 4)]},
        {"name": "facade", "kind": "cladding", "per_edge": 1500.0},
    )
    parts = [
        (4000.0 * 96, (6, 4), (12**2 + 8**2) / 12),
        (3e5, (10, 7), 0.0),
        (2500.0 * 12, (1.5, 2), (3**2 + 4**2) / 12),
        # Four edges: each its own l^2/12, moved from its middle to the center of the plan.
        (1500.0 * 40, (6, 4), (2 * (12 * (12**2 / 12 + 4**2)) + 2 * (8 * (8**2 / 12 + 6**2))) / 40),
    ]
    total = sum(w for w, _, _ in parts)
    center = sum(w * np.array(c) for w, c, _ in parts) / total
    inertia = sum(w * (k + np.sum((np.array(c) - center) ** 2)) for w, c, k in parts) / G
    assert found.total == pytest.approx(total)
    assert found.centers[0] == pytest.approx(center)
    assert found.inertia[0] == pytest.approx(inertia)
    assert found.gravity[0] == pytest.approx(total)


def test_level_without_seismic_mass_is_listed_but_not_counted(archive: Results) -> None:
    quay = [x for x in archive.weights.lines if x.level == "Quay"]
    assert len(quay) == 1
    assert quay[0].counted == 0
    assert quay[0].reason == "at or below the base"
    assert archive.model.diaphragms.mass[-1] == 0


def test_nothing_that_counts_is_an_error() -> None:
    with pytest.raises(ud.InputError, match="no seismic weight"):
        weights_of({"name": "people", "kind": "live", "per_area": 2400.0})


def test_demo_weight_by_hand(archive: Results) -> None:
    """One archive floor, in psf and kip, as an engineer would add it up."""
    floor = 90 * 100
    edge = 2 * (90 + 100)
    kip = ((62 + 14 + 10 + 10 + 0.25 * 200) * floor / 1000) + 0.32 * edge
    i = archive.weights.levels.index("L6")
    assert archive.weights.weight[i] / 4448.2216152605 == pytest.approx(kip, rel=1e-12)


def test_weight_does_not_depend_on_how_the_load_is_given() -> None:
    b = shear_building([1e8], [50e3])
    w = analyze(b).weights
    assert w.mass[0] == pytest.approx(50e3, rel=1e-12)
    assert w.inertia[0] == pytest.approx(50e3 * (10**2 + 6**2) / 12, rel=1e-12)


def test_walls_by_their_sizes_weigh_or_it_is_said() -> None:
    """25 kN/m3 times length, thickness and height, half of each story at either end, at the wall;
    without a unit weight a note with what it would be, with 0 nothing."""
    def walled(**more: Any) -> ud.Results:
        b = shear_building([1e8] * 2, [1.5e5] * 2, height=3.0)
        wall = ud.Cantilever(modulus=30e9, length=4.0, thickness=0.3, **more)
        return analyze(ud.Building(levels=b.levels, lines=[
            x.model_copy(update={"stiffness": None, "cantilever": wall}) for x in b.lines]))

    plain, heavy, held = walled(), walled(unit_weight=25e3), walled(unit_weight=0)
    one = 25e3 * 4.0 * 0.3 * 3.0
    assert heavy.weights.weight - plain.weights.weight == pytest.approx([4 * one / 2, 4 * one])
    rows = [x for x in heavy.weights.lines if x.source.endswith("self-weight")]
    assert [x.polar for x in rows] == pytest.approx([4.0**2 / 12] * len(rows))
    assert {x.center for x in rows} == {line.at for line in heavy.project.building.lines}
    said = [[f for f in r.findings if f.check == "weight of walls"] for r in (plain, heavy, held)]
    assert [len(x) for x in said] == [1, 0, 0]
    assert f"{4 * 1.5 * one / 1e3:.0f} kN" in said[0][0].text
    with pytest.raises(ud.InputError, match="goes with length and thickness"):
        ud.Cantilever(modulus=3e10, inertia=1.0, shear_area=1.0, unit_weight=25e3)


@pytest.mark.parametrize(("shift", "top", "meet"), [
    (0.0, "L2", True), (0.19, "L2", True), (0.3, "L2", False), (0.0, "L1", True)])
def test_walls_that_meet_in_plan_are_named(shift: float, top: str, meet: bool) -> None:
    """An L of two walls 0.3 m thick: faces apart by more than 5 cm they don't meet; parallel ones
    never do."""
    b = shear_building([1e8] * 2, [1.5e5] * 2)
    wall = ud.Cantilever(modulus=30e9, length=4.0, thickness=0.3, unit_weight=0)
    lines = [ud.Line(name=name, at=at, direction=d, bottom="Ground", top=t, cantilever=wall)
             for name, at, d, t in (("a", (4.0, 1.0), "X", "L2"), ("c", (4.0, 5.0), "X", "L2"),
                                    ("d", (4.0, 5.9), "X", "L2"),
                                    ("b", (2.0 - shift - (0.15 if shift else 0), 3.0), "Y", top))]
    r = analyze(ud.Building(levels=b.levels, lines=[*b.lines, *lines]))
    found = [f for f in r.findings if f.check == "walls that meet"]
    assert [f.where for f in found] == (["lines a, b, c"] if meet else [])
