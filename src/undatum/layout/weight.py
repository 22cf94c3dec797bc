"""The weight table: one line per source, and from it mass, center and rotational inertia."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from undatum.building.lines import Cantilever, Line
from undatum.building.loads import Load
from undatum.building.outline import Outline
from undatum.errors import Fault, InputError
from undatum.layout.acting import on_levels
from undatum.layout.members import weights_of
from undatum.layout.whole import Building
from undatum.record import FixedDict, record
from undatum.table import Table, column
from undatum.units import STANDARD_GRAVITY

Floats = NDArray[np.float64]


class Counted(Protocol):
    """What the weight rule answers: see ``WeightShare`` in the standards' contract."""

    @property
    def share(self) -> float: ...
    @property
    def clause(self) -> str: ...
    @property
    def reason(self) -> str: ...
    @property
    def minimum(self) -> float: ...


#: Answers for the kind of a load, its intensity in N/m2, whether it lies on the roof, and its own
#: category of use.
Rule = Callable[[str, float | None, bool, str], Counted]
GravityRule = Callable[[str, float | None, bool, str], tuple[float, str]]


@record
class WeightLine:
    """One source on one level. ``amount`` is all of it, ``counted`` what is seismic weight. N."""

    level: str
    source: str
    kind: str
    basis: str
    intensity: float | None
    extent: float | None
    amount: float
    share: float
    counted: float
    clause: str
    reason: str
    center: tuple[float, float]
    polar: float  # polar second moment per unit of load about its own center, m2
    gravity: float = 0.0  # in the gravity load of second-order checks, N

    @property
    def key(self) -> str:
        """The source by itself, whatever else has its name (see ``by_source``)."""
        return self.basis if self.basis == "self-weight" else \
            f"{self.source} on members" if self.basis == "members" else self.source


@record
class FloorMasses:
    """Mass of every level but the lowest, top down: ``mass`` (n,) kg, ``centers`` (n, 2) m,
    ``inertia`` (n,) kg m2 about the vertical axis through the center; ``counted`` (n,) the share of
    every source that counts, where nodes carry mass."""

    levels: tuple[str, ...]
    mass: Floats
    centers: Floats
    inertia: Floats
    counted: Mapping[str, tuple[float, ...]] = field(default_factory=FixedDict)


@record
class Weights:
    """Seismic weight by level, top down, for every level but the lowest.

    ``weight`` (n,) N; ``mass`` (n,) kg; ``centers`` (n, 2) m; ``inertia`` (n,) kg m2 about the
    vertical axis through the center; ``gravity`` (n,) N, what presses down for second-order
    effects; ``areas`` (n,) floor areas in m2.
    """

    levels: tuple[str, ...]
    lines: tuple[WeightLine, ...]
    weight: Floats
    mass: Floats
    centers: Floats
    inertia: Floats
    gravity: Floats
    areas: Floats

    @property
    def masses(self) -> FloorMasses:
        """What a model needs of them."""
        return FloorMasses(self.levels, self.mass, self.centers, self.inertia)

    @property
    def counted(self) -> Mapping[str, tuple[float, ...]]:
        """Share of every source that counts, by level, top down."""
        sums: dict[str, Floats] = {}
        for one in self.lines:
            own = sums.setdefault(one.key, np.zeros((2, len(self.levels))))
            own[:, self.levels.index(one.level)] += one.counted, one.amount
        return FixedDict({key: tuple((c / a if a else 0.0) for c, a in zip(*own, strict=True))
                          for key, own in sums.items()})

    @property
    def total(self) -> float:
        """Effective seismic weight in N."""
        return float(self.weight.sum())

    def table(self) -> Table:
        """Every source with what was counted, at what share, by which clause."""
        return Table(
            "weight_items",
            "Seismic weight, item by item",
            (
                column("level", "", [x.level for x in self.lines]),
                column("source", "", [x.source for x in self.lines]),
                column("kind", "", [x.kind for x in self.lines]),
                column("basis", "", [x.basis for x in self.lines]),
                column("load per area", "area load",
                       [x.intensity if x.basis == "area" else None for x in self.lines]),
                column("load per length", "line load",
                       [x.intensity if x.basis == "edge" else None for x in self.lines]),
                column("area", "area",
                       [x.extent if x.basis == "area" else None for x in self.lines]),
                column("length", "length",
                       [x.extent if x.basis == "edge" else None for x in self.lines]),
                column("load", "force", [x.amount for x in self.lines]),
                column("share", "ratio", [x.share for x in self.lines], 3),
                column("seismic weight", "force", [x.counted for x in self.lines]),
                column("in P of second order", "force", [x.gravity for x in self.lines]),
                column("why", "", [x.reason for x in self.lines]),
                column("clause", "", [x.clause for x in self.lines]),
            ),
        )

    def level_table(self) -> Table:
        """Weight, mass, rotational inertia and center of mass by level, with the total."""
        n = len(self.levels)
        counted = [self.weight[i] > 0 for i in range(n)]
        per_area = [float(self.weight[i] / self.areas[i]) for i in range(n)]

        def centers(axis: int) -> list[float | None]:
            return [float(self.centers[i, axis]) if counted[i] else None for i in range(n)]

        return Table(
            "weight_levels",
            "Seismic weight by level",
            (
                column("level", "", [*self.levels, "total"]),
                column("floor area", "area", [*self.areas, float(self.areas.sum())]),
                column("weight", "force", [*self.weight, self.total]),
                column("weight per area", "area load",
                       [*per_area, self.total / float(self.areas[self.weight > 0].sum())]),
                column("mass", "mass", [*self.mass, float(self.mass.sum())]),
                column("rotational inertia", "rotational inertia", [*self.inertia, None]),
                column("x of center of mass", "length", [*centers(0), None]),
                column("y of center of mass", "length", [*centers(1), None]),
                column("gravity load", "force", [*self.gravity, float(self.gravity.sum())]),
            ),
        )


def weigh(
    building: Building, rule: Rule, gravity_share: GravityRule
) -> Weights:
    """Weigh every level but the lowest by the standard's weight ``rule``.

    Levels at or below the base, or with ``seismic_mass = false``, are listed with share 0.
    Raises InputError where a level above the base ends up without any weight.
    """
    n = len(building.levels) - 1
    counts = [i in building.above_base and building.levels[i].seismic_mass for i in range(n)]
    lines: list[WeightLine] = []
    at: list[int] = []
    for i in range(n):
        for load in building.loads(i):
            lines.append(_line(building, i, load, rule, gravity_share, counts[i]))
            at.append(i)
    for (i, kind), (amount, center, polar) in _self_weight(building).items():
        if i < n:
            lines.append(_own_line(building, i, f"{kind}s, self-weight", "dead", amount, center,
                                   polar, rule, gravity_share, counts[i], "self-weight"))
            at.append(i)
    for i, line, amount, polar in wall_weights(building):
        if i < n:
            lines.append(_own_line(building, i, f"{line.name}, self-weight", "dead", amount,
                                   line.at, polar, rule, gravity_share, counts[i], "self-weight"))
            at.append(i)
    for one in on_levels(building, building.frame) if building.frame is not None else ():
        if one.level < n:
            lines.append(_own_line(
                building, one.level, one.name, one.kind, one.amount, one.center, one.polar,
                rule, gravity_share, counts[one.level]))
            at.append(one.level)

    def by_level(values: Floats) -> Floats:
        return np.asarray(np.bincount(np.asarray(at, dtype=int), values, n), dtype=float)

    counted = np.array([x.counted for x in lines])
    weight = by_level(counted)
    heavy = weight > 0
    faults = [Fault(
        f"building.levels[{i}]", f"level {building.levels[i].name!r} has no seismic weight: "
        "nothing on it counts by the weight rule",
        "give it its dead load, or set seismic_mass = false")
        for i in range(n) if counts[i] and not heavy[i]]
    if not faults and not heavy.any():
        faults = [Fault("building.levels", "no level carries seismic mass: there is nothing to "
                        "shake", "leave seismic_mass true where there are loads")]
    if faults:
        raise InputError(faults)
    place = np.array([x.center for x in lines]).reshape(-1, 2)
    centers = np.array([building.outline(i).centroid for i in range(n)])
    for axis in (0, 1):
        centers[heavy, axis] = by_level(counted * place[:, axis])[heavy] / weight[heavy]
    arms = np.sum((place - centers[at]) ** 2, axis=1) + np.array([x.polar for x in lines])
    mass, inertia = (np.where(heavy, by_level(values), 0.0) / STANDARD_GRAVITY
                     for values in (counted, counted * arms))
    return Weights(
        tuple(level.name for level in building.levels[:n]), tuple(lines),
        mass * STANDARD_GRAVITY, mass, centers, inertia,
        by_level(np.array([x.gravity for x in lines])),
        np.array([building.outline(i).area for i in range(n)]),
    )


def _line(
    building: Building, i: int, load: Load, rule: Rule, gravity_share: GravityRule,
    counts: bool,
) -> WeightLine:
    outline = building.outline(i)
    basis, intensity, extent, amount, center, polar = spread(load, outline)
    pressure = pressure_of(load, outline)
    answer = rule(load.kind, pressure, building.is_roof(i), load.use)
    share, clause, reason = answer.share, answer.clause, answer.reason
    counted = amount * share
    if load.share is not None:
        share, clause, reason = load.share, "", f"project: {load.reason}"
        counted = amount * share
    elif basis == "area" and intensity is not None and extent is not None \
            and intensity < answer.minimum:
        counted = answer.minimum * extent * share
        share, reason = counted / amount if amount else 1.0, f"{reason}: raised to it"
    if not counts:
        where = "at or below the base" if i not in building.above_base else "no seismic mass"
        share, counted, reason = 0.0, 0.0, where
    return WeightLine(
        building.levels[i].name, load.name, load.kind, basis, intensity, extent, amount, share,
        counted, clause, reason, center, polar,
        amount * gravity_share(load.kind, pressure, building.is_roof(i), load.use)[0],
    )


def wall_weights(
    building: Building, unit_weight: float | None = None
) -> list[tuple[int, Line, float, float]]:
    """Weight of the walls given by their sizes: level, line, N, second moment per unit, m2.

    Half of each story goes to the level above, half below. ``unit_weight`` N/m3 stands in for one
    that is not given; without it such walls weigh nothing.
    """
    found: dict[tuple[int, str], tuple[Line, float, float]] = {}
    for line in building.lines:
        span = building.span(line)
        for i, wall in zip(span, line.by_story(len(span)), strict=True):
            if not isinstance(wall, Cantilever) or not wall.length or not wall.thickness:
                continue
            heavy = wall.unit_weight if wall.unit_weight is not None else unit_weight
            half = (heavy or 0.0) * wall.length * wall.thickness * building.story_heights[i] / 2
            for level in (i, building.below[i]) if half else ():
                _, amount, second = found.get((level, line.name), (line, 0.0, 0.0))
                found[level, line.name] = (line, amount + half,
                                           second + half * wall.length**2 / 12)
    return [(level, line, amount, second / amount)
            for (level, _), (line, amount, second) in found.items()]


def _self_weight(
    building: Building,
) -> Mapping[tuple[int, str], tuple[float, tuple[float, float], float]]:
    """Weight of the members by level and kind, where it is not in the loads already."""
    frame = building.frame if building.self_weight else None
    return {} if frame is None else {key: value for key, value in weights_of(frame).items()
                                     if value[0] > 0}


def _own_line(
    building: Building, i: int, name: str, kind: str, amount: float, center: tuple[float, float],
    polar: float, rule: Rule, gravity_share: GravityRule, counts: bool, basis: str = "members",
) -> WeightLine:
    """What weighs along members: themselves, and loads on them."""
    answer = rule(kind, None, building.is_roof(i), "")
    share, reason = (answer.share, answer.reason) if counts else \
        (0.0, "at or below the base" if i not in building.above_base else "no seismic mass")
    return WeightLine(
        building.levels[i].name, name, kind, basis, None, None, amount,
        share, amount * share, answer.clause, reason, center, polar,
        amount * gravity_share(kind, None, building.is_roof(i), "")[0])


def pressure_of(load: Load, outline: Outline) -> float | None:
    """Intensity by which a load is judged, N/m2; ``None`` for one that acts at a point.

    A total and a load along the edge count as spread over the floor.
    """
    if load.at is not None:
        return None
    return load.per_area if load.per_area is not None else \
        spread(load, outline)[3] / outline.area


def spread(
    load: Load, outline: Outline
) -> tuple[str, float | None, float | None, float, tuple[float, float], float]:
    """Basis, intensity, extent, amount (N), center (m) and polar moment per unit load (m2)."""
    if load.per_area is not None:
        part = load.on or outline
        return ("area", load.per_area, part.area, load.per_area * part.area, part.centroid,
                part.polar_moment / part.area)
    if load.per_edge is not None:
        length, center, polar = outline.edge
        return "edge", load.per_edge, length, load.per_edge * length, center, polar / length
    total = load.total or 0.0
    if load.at is not None:
        return "total", None, None, total, load.at, 0.0
    return ("total", None, None, total, outline.centroid, outline.polar_moment / outline.area)
