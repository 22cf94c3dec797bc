"""Walls laid out as panels: where they are divided, which nodes they share, what floors hold.

Every wall is divided by lines up and along it, right through, so that panels meet at their corners
and no node hangs. Lines stand at levels, edges of openings, walls and columns that meet it, and
where beams end; between them the panels are no larger than asked for, and at least four over the
depth and along what stands over an opening.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from undatum.building.families import XY
from undatum.building.materials import Material
from undatum.building.walls import Wall
from undatum.errors import Fault, InputError
from undatum.layout.floor_mesh import FloorLines
from undatum.layout.panels import CLOSE, Hole, Panels, WallRun
from undatum.layout.wall_lines import NARROW, OVER, Laid, by_level, joined, meets
from undatum.record import FixedDict

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
CORNER = 8  # panels at the corners of openings: this share of what stands over them, or of a panel
USUAL = 1.0  # m: with panels larger than this those at corners grow too
GROWTH = 0.5  # of their distance from there
MOST = 300_000  # panels; more is a slip


@dataclass(frozen=True, slots=True)
class BeamEnd:
    """Where a beam meets walls: its level, ends in plan and depth."""

    level: int
    start: XY
    end: XY
    depth: float


class Mesher:
    """Panels of walls on nodes that are shared with everything that meets them."""

    def __init__(
        self, building: PlainBuilding, laid: Sequence[Laid], node: Callable[[int, XY], int],
        points: list[tuple[float, float, float]], floors: list[int],
    ) -> None:
        self.building, self.laid, self.node = building, laid, node
        self.points, self.floors = points, floors
        self.z = building.elevations
        self.there: dict[tuple[int, int, int], int] = {}
        self.rows: dict[int, list[float]] = {}  # elevations of mesh lines, by wall
        self.columns: dict[int, list[float]] = {}
        self.level_nodes: dict[tuple[int, int], tuple[Floats, list[int]]] = {}

    def _levels(self, one: Laid) -> set[int]:
        """The levels a wall reaches."""
        return {*one.run.stories, *(self.building.below[i] for i in one.run.stories)}

    def _used(self, k: int, one: Laid, level: int, j: int) -> bool:
        """Whether a panel meets a line of a wall at a level, above or below it."""
        columns = self.columns[k]
        sides = [(a + b) / 2 for a, b in pairwise(columns[max(j - 1, 0):j + 2])]
        for i, (low, high), holes in zip(one.run.stories, one.run.reach, one.run.holes,
                                         strict=True):
            if level not in (i, self.building.below[i]):
                continue
            z = high - NARROW / 10 if level == i else low + NARROW / 10
            if any(not any(h[0] < s < h[1] and h[2] < z < h[3] for h in holes) for s in sides):
                return True
        return False

    def _near(self, k: int, level: int, s: float) -> int:
        """The node of a wall at a level that is nearest to a place along it."""
        places, nodes = self.level_nodes[k, level]
        return nodes[int(np.argmin(np.abs(places - s)))]

    def divide(self, columns: Sequence[XY], beams: Sequence[BeamEnd]) -> None:
        """Divide the walls where ``columns`` stand in plan and beams meet them."""
        self._lines(columns, beams)

    def at_level(self, level: int) -> list[XY]:
        """The plan points at which walls are divided that reach a level."""
        return [one.at(s) for k, one in enumerate(self.laid) if level in self._levels(one)
                for s in self.columns[k]]

    def straight(self, level: int) -> bool:
        """Whether all walls that reach a level run along X or Y."""
        return all(min(abs(one.run.along)) < 1e-9 for one in self.laid
                   if level in self._levels(one))

    def meet(self, lines: FloorLines) -> None:
        """Divide the walls where lines of the mesh of floors meet them."""
        for k, one in enumerate(self.laid):
            if not lines.straight & self._levels(one):
                continue
            axis = int(np.argmax(np.abs(one.run.along)))
            here = one.run.start[axis], one.run.end[axis]
            one.stops |= {abs(v - here[0]) for v in (lines.x, lines.y)[axis]
                          if min(here) - CLOSE < v < max(here) + CLOSE}
            self.columns[k] = _divided(one.stops, one.fine, one.size, one.corners)

    def panels(self, beams: Sequence[BeamEnd]) -> Panels:
        """The walls as panels."""
        count = sum((len(self.columns[k]) - 1) * (len(self.rows[k]) - 1)
                    for k in range(len(self.laid)))
        if count > MOST:
            raise InputError([Fault("wall_mesh", f"the walls make {count} panels",
                                    f"give panels a larger size, so that there are no more than "
                                    f"{MOST}")])
        for k, one in enumerate(self.laid):  # nodes of levels before those between
            for i in self._levels(one):
                used = [s for j, s in enumerate(self.columns[k]) if self._used(k, one, i, j)]
                self.level_nodes[k, i] = np.array(used), [self.node(i, one.at(s)) for s in used]
                for s, n in zip(used, self.level_nodes[k, i][1], strict=True):
                    self.there[self._key(one.at(s), self.z[i])] = n
        parts = [self._wall(k, one) for k, one in enumerate(self.laid)]
        return self._packed(parts, beams)

    def _key(self, at: XY, z: float) -> tuple[int, int, int]:
        return (round(at[0] / CLOSE / 10), round(at[1] / CLOSE / 10), round(z / CLOSE / 10))

    def _node(self, at: XY, z: float) -> int:
        key = self._key(at, z)
        if key not in self.there:
            self.there[key] = len(self.points)
            self.points.append((at[0], at[1], z))
            self.floors.append(-1)
        return self.there[key]

    def _lines(self, columns: Sequence[XY], beams: Sequence[BeamEnd]) -> None:
        for k, one in enumerate(self.laid):
            for other in self.laid[:k]:
                at = meets(one, other)
                if at is not None:
                    for own in (one, other):
                        s = own.holds(at)
                        if s is not None:
                            own.stops.add(s)
            for at in columns:
                s = one.holds(at)
                if s is not None:
                    one.stops.add(s)
            for beam in beams:
                if beam.level in self._levels(one):
                    one.stops |= _on_wall(one, beam)
        for group in joined(self.laid):
            self._group(group, beams)

    def _group(self, group: Sequence[Laid], beams: Sequence[BeamEnd]) -> None:
        """Lines along walls that meet stand at the same elevations."""
        stops: set[float] = set()
        fine: list[tuple[float, float, float]] = []
        corners: dict[float, float] = {}
        for one in group:
            for i, (low, high), holes in zip(one.run.stories, one.run.reach, one.run.holes,
                                             strict=True):
                stops |= {low, high}
                for hole in holes:
                    stops |= set(hole[2:])
                    top = _top_of_beam(one.run, i, hole, self.building.below)
                    deep = top - hole[3] if top - hole[3] > CLOSE else one.size
                    fine.append((hole[3], top, deep / OVER))
                    for z in hole[2:]:
                        corners[z] = min(deep, corners.get(z, deep))
                    for s in hole[:2]:
                        one.corners[s] = min(deep, one.corners.get(s, deep))
            for beam in beams:
                if _ends_on(one, beam):
                    z = self.z[beam.level]
                    for edge in (z - beam.depth / 2, z + beam.depth / 2):
                        if all(abs(edge - other) > NARROW for other in stops):
                            stops.add(edge)
        size = min(one.size for one in group)
        rows = _divided(stops, fine, size, corners)
        for one in group:
            k = self.laid.index(one)
            low = min(a for a, _ in one.run.reach) - CLOSE
            high = max(b for _, b in one.run.reach) + CLOSE
            self.rows[k] = [z for z in rows if low < z < high]
            self.columns[k] = _divided(one.stops, one.fine, one.size, one.corners)

    def _wall(self, k: int, one: Laid) -> dict[str, NDArray[Any]]:
        """The panels of one wall, story by story, bay by bay, upwards."""
        columns, rows = np.array(self.columns[k]), self.rows[k]
        plan = [one.at(s) for s in self.columns[k]]
        parts: dict[str, list[NDArray[Any]]] = {name: [] for name in (
            "wall", "story", "box", "nodes", "over", "carrying", "thickness")}
        for i, (low, high), holes, t in zip(one.run.stories, one.run.reach, one.run.holes,
                                            one.run.thickness, strict=True):
            own = np.array([z for z in rows if low - CLOSE < z < high + CLOSE])
            s, z = (columns[:-1] + columns[1:]) / 2, (own[:-1] + own[1:]) / 2
            solid = np.ones((s.size, z.size), dtype=bool)
            over = np.zeros(s.size, dtype=bool)
            for first, last, bottom, top in holes:
                across = (first < s) & (s < last)
                over |= across
                solid[np.ix_(across, (bottom < z) & (z < top))] = False
            a, r = np.nonzero(solid)
            used = np.zeros((columns.size, own.size), dtype=bool)
            for da, dr in ((0, 0), (1, 0), (1, 1), (0, 1)):
                used[a + da, r + dr] = True
            number = np.zeros(used.shape, dtype=np.intp)
            for c, row in np.argwhere(used).tolist():
                number[c, row] = self._node(plan[c], float(own[row]))
            ends = np.array([[self._near(k, level, v) for v in self.columns[k]]
                             for level in (i, self.building.below[i])])
            parts["wall"].append(np.full(a.size, k))
            parts["story"].append(np.full(a.size, i))
            parts["box"].append(np.column_stack(
                [columns[a], columns[a + 1], own[r], own[r + 1]]))
            parts["nodes"].append(np.column_stack(
                [number[a, r], number[a + 1, r], number[a + 1, r + 1], number[a, r + 1]]))
            parts["over"].append(over[a])
            parts["carrying"].append(np.column_stack(
                [ends[0, a], ends[0, a + 1], ends[1, a], ends[1, a + 1]]))
            parts["thickness"].append(np.full(a.size, t))
        return {name: np.concatenate(each) for name, each in parts.items()}

    def _packed(
        self, parts: Sequence[Mapping[str, NDArray[Any]]], beams: Sequence[BeamEnd]
    ) -> Panels:
        every = {name: np.concatenate([one[name] for one in parts]) for name in parts[0]}
        wall, story, nodes, carrying = (
            every[name].astype(np.intp) for name in ("wall", "story", "nodes", "carrying"))
        over = every["over"].astype(bool)
        materials = [self._materials(one) for one in self.laid]
        own = [materials[k][i] for k, i in zip(wall.tolist(), story.tolist(), strict=True)]
        kept, for_drift = (np.array([_shares(one.wall, late) for one in self.laid])[
            wall, over.astype(int)] for late in (False, True))
        links, sizes = self._links(beams, materials)
        return Panels(
            walls=tuple(one.run for one in self.laid), nodes=nodes, wall=wall, story=story,
            box=every["box"], thickness=every["thickness"],
            modulus=np.array([m.modulus for m in own]), poisson=np.array([m.poisson for m in own]),
            weight=np.array([m.unit_weight for m in own]), kept=kept, kept_for_drift=for_drift,
            over=over, carrying=carrying, edges=self._edges(nodes, story), links=links,
            link_size=sizes, loose=self._loose(),
            cores={name: tuple([w.name for w in self.building.walls].index(m) for m in members)
                   for name, members in self.building.cores.items()})

    def _materials(self, one: Laid) -> dict[int, Material]:
        upwards = [level.name for level in self.building.levels][:-1][::-1]
        names = [level.name for level in self.building.levels]
        by = by_level(one.place, one.wall.material, one.run.stories, upwards, names)
        return {i: self.building.material(name)
                for i, name in zip(one.run.stories, by, strict=True)}

    def _edges(self, nodes: Ints, story: Ints) -> Ints:
        """(J, 2) along the tops of walls at levels, each once."""
        top = nodes[:, [3, 2]]
        floors = np.array(self.floors)
        on = (floors[top] == story[:, None]).all(axis=1)
        return np.unique(np.sort(top[on], axis=1), axis=0) if on.any() \
            else np.zeros((0, 2), dtype=np.intp)

    def _loose(self) -> Ints:
        """Nodes of levels that lie over or under an opening alone, which floors don't hold."""
        loose: set[int] = set()
        held: set[int] = set()
        if self.building.floors_hold_openings:
            return np.zeros(0, dtype=np.intp)
        for k, one in enumerate(self.laid):
            for i in self._levels(one):
                spans = [h[:2] for j, own in zip(one.run.stories, one.run.holes, strict=True)
                         if i in (j, self.building.below[j]) for h in own]
                for s in self.columns[k]:
                    n = self.there.get(self._key(one.at(s), self.z[i]))
                    if n is None:
                        continue
                    inside = any(a + CLOSE < s < b - CLOSE for a, b in spans)
                    (loose if inside else held).add(n)
        lowest = len(self.z) - 1
        return np.array(sorted(n for n in loose - held if self.floors[n] != lowest),
                        dtype=np.intp)

    def _links(
        self, beams: Sequence[BeamEnd], materials: Sequence[Mapping[int, Material]]
    ) -> tuple[Ints, Floats]:
        """Nodes up the side of a wall over the depth of a beam that frames into it."""
        found: dict[tuple[int, int, int], tuple[float, ...]] = {}
        for beam in beams:
            way = np.subtract(beam.end, beam.start)
            way /= np.hypot(*way)
            for at in (beam.start, beam.end):
                here = [(k, one, s) for k, one in enumerate(self.laid)
                        if beam.level in self._levels(one) and (s := one.holds(at)) is not None]
                if not here:
                    continue  # the wall that lies most along the beam takes it
                k, one, s = max(here, key=lambda w: (
                    round(abs(float(w[1].run.along @ way)), 9), w[1].run.start, w[1].run.end))
                z, half = self.z[beam.level], beam.depth / 2 + NARROW
                line = [self.there.get(self._key(one.at(s), r)) for r in self.rows[k]
                        if abs(r - z) <= half]
                i = beam.level if beam.level in one.run.stories else one.run.stories[-1]
                size = (materials[k][i].modulus,
                        one.run.thickness[one.run.stories.index(i)], beam.depth, k, *way)
                for a, b in pairwise(line):
                    if a is not None and b is not None:
                        found.setdefault((a, b, k), size)
        sizes = np.array(list(found.values()), dtype=float).reshape(-1, 6)
        return np.array(list(found), dtype=np.intp).reshape(-1, 3)[:, :2], sizes


def _shares(wall: Wall, for_drift: bool) -> tuple[tuple[float, float], tuple[float, float]]:
    """Shares kept of the wall and of what stands over openings."""
    given = wall.shares(for_drift=for_drift)
    four = (1.0,) * 4 if given is None else given.by_part
    return four[:2], four[2:]


def _on_wall(one: Laid, beam: BeamEnd) -> set[float]:
    """Where a beam ends on a wall or crosses it, along the wall."""
    found = {s for p in (beam.start, beam.end) if (s := one.holds(p)) is not None}
    (s0, a0), (s1, a1) = one.local(beam.start), one.local(beam.end)
    if a0 * a1 < 0 and abs(a0 - a1) > CLOSE:
        s = s0 + (s1 - s0) * a0 / (a0 - a1)
        if -CLOSE < s < one.run.length + CLOSE:
            found.add(min(max(s, 0.0), one.run.length))
    return found


def _ends_on(one: Laid, beam: BeamEnd) -> bool:
    return any(one.holds(p) is not None for p in (beam.start, beam.end))


def _top_of_beam(run: WallRun, story: int, hole: Hole, below: Sequence[int]) -> float:
    """How far up what stands over an opening reaches: to its level, or to the sill of the opening
    above it."""
    place = run.stories.index(story)
    top = run.reach[place][1]
    above = [i for i in run.stories if below[i] == story]
    for i in above:
        for low, high, sill, _ in run.holes[run.stories.index(i)]:
            if low < hole[1] - CLOSE and high > hole[0] + CLOSE:
                top = max(top, sill)
    return top


def _divided(
    stops: set[float], fine: Sequence[tuple[float, float, float]], size: float,
    corners: Mapping[float, float] = FixedDict(),
) -> list[float]:
    """Lines at all stops and between them, no further apart than asked for there.

    ``fine`` are stretches with a size of their own. At ``corners`` of openings, each with what
    stands there, stresses grow without limit: panels begin there at a share of that and grow.
    """
    places: list[float] = []
    for s in sorted(stops):
        if not places or s - places[-1] > 10 * CLOSE:
            places.append(s)
    at = np.array(list(corners)).reshape(-1)
    coarser = max(size / USUAL, 1.0)
    begin = np.array([min(size, deep) / CORNER * coarser for deep in corners.values()]).reshape(-1)
    found = [places[0]]
    for a, b in pairwise(places):
        own = min([size, *(most for low, high, most in fine
                           if low < (a + b) / 2 < high)])
        # as many panels as their sizes ask for, each of its share: equal where nothing grows
        x = np.linspace(a, b, 65)
        h = np.full(x.size, own)
        if at.size:
            h = np.minimum(h, (begin + GROWTH * np.abs(x[:, None] - at)).min(axis=1))
        steps = np.diff(x) * (1 / h[1:] + 1 / h[:-1]) / 2
        upto = np.concatenate([[0.0], np.cumsum(steps)])
        n = max(int(np.ceil(upto[-1] - 1e-6)), 1)
        inner = np.interp(np.arange(1, n) / n * upto[-1], upto, x)
        found += [*inner.tolist(), b]
    return found


def foot_springs(
    building: PlainBuilding, panels: Panels
) -> tuple[Mapping[int, tuple[float, ...]], Ints, Floats]:
    """How walls stand on the lowest level: springs (6) at every node, infinite where it is held;
    and (F, 2) nodes along feet on springs with the stiffness (F,) up and down of each stretch, N/m.

    What one wall lets go, another that shares the node does not hold.
    """
    lowest = len(building.levels) - 1
    found: dict[int, Floats] = {}
    stretches: list[list[int]] = []
    stiffness: list[float] = []
    for k, wall in enumerate(building.walls):
        run, foot = panels.walls[k], wall.foot
        standing = [i for i in run.stories if building.below[i] == lowest]
        own = np.flatnonzero((panels.wall == k) & np.isin(panels.story, standing))
        own = own[np.abs(panels.box[own, 2] - building.elevations[lowest]) < CLOSE]
        soft = foot.vertical is not None
        # pinned: free to turn about its own line; on springs: in its plane
        turn = [0.0 if (foot.hold == "pinned" and abs(run.along[j]) > 1e-9)
                or (soft and abs(run.along[1 - j]) > 1e-9) else np.inf for j in (0, 1)]
        one = np.array([np.inf, np.inf, 0.0 if soft else np.inf, *turn, np.inf])
        for e in own.tolist():
            pair = panels.nodes[e, :2].tolist()
            for node in pair:
                found[node] = np.minimum(one, found.get(node, one))
            if foot.vertical is not None:
                stretches.append(pair)
                stiffness.append(foot.vertical * float(panels.box[e, 1] - panels.box[e, 0]))
    return ({node: tuple(own.tolist()) for node, own in found.items()},
            np.array(stretches, dtype=np.intp).reshape(-1, 2), np.array(stiffness, dtype=float))
