"""From members to nodes and elements: what meets, what is divided there, what holds it.

Nodes are put where members meet, beams are divided there, and spans over crossings without a
column are joined.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from undatum.building.deforming import DeformingFloor
from undatum.building.families import XY
from undatum.building.lines import Line
from undatum.building.rules import COMPONENTS, KeptShares
from undatum.building.shapes import Properties
from undatum.errors import Fault, InputError
from undatum.layout.diaphragms import deforming_floors, diaphragm_faults, on_floor
from undatum.layout.draft import PROPERTIES, Made
from undatum.layout.floor_mesh import FloorLines, floor_lines, is_straight, lay_floors
from undatum.layout.frame import Frame, Member
from undatum.layout.panels import CLOSE, Panels, Slabs
from undatum.layout.wall_lines import Laid
from undatum.layout.wall_mesh import BeamEnd, Mesher, foot_springs

if TYPE_CHECKING:
    from undatum.building.axes import Axes
    from undatum.building.plain import PlainBuilding

Shares = tuple[float, float, float, float, float]
RIGID = 1e5  #: times the stiffness along a member that is not to deform there
Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


class Divider:
    """Nodes where members meet; beams divided at them.

    ``transfer`` are the plan points and levels at which a column may stand on a beam.
    """

    def __init__(
        self, building: PlainBuilding, axes: Axes, made: Sequence[Made],
        transfer: Collection[tuple[XY, int]], laid: Sequence[Laid] = (),
        within: int = 0,
    ) -> None:
        self.building, self.made, self.transfer, self.laid = building, made, transfer, laid
        self.axes, self.within = axes, within
        self.names = [level.name for level in building.levels]
        self.z = building.elevations
        self.nodes: dict[tuple[int, int, int], int] = {}
        self.points: list[tuple[float, float, float]] = []
        self.floors: list[int] = []

    def node(self, level: int, at: XY) -> int:
        """The node at a point of a level, made where there is none."""
        key = (level, round(at[0] / CLOSE / 10), round(at[1] / CLOSE / 10))
        if key not in self.nodes:
            self.nodes[key] = len(self.points)
            self.points.append((at[0], at[1], self.z[level]))
            self.floors.append(level)
        return self.nodes[key]

    def frame(self) -> Frame:
        """Everything put together. Raises InputError for members that hang in the air."""
        made = self.made
        if not made and not self.laid:
            raise InputError([Fault("members", "the rules leave no member",
                                    "take out the rule that removes them, or all of members")])
        upright = [(m, self.node(m.low, m.start), self.node(m.level, m.end))
                   for m in made if m.kind != "beam"]
        beams = [m for m in made if m.kind == "beam"]
        for m in beams:
            self.node(m.level, m.start)
            self.node(m.level, m.end)
        self._crossings(beams)
        panels, slabs = self._panels(beams, [m.start for m, *_ in upright if m.kind == "column"])
        heads = {head for m, _, head in upright if m.kind == "column"}
        if panels is not None:
            heads.update(panels.nodes.ravel().tolist())
        parts = [*((m, [m], [foot, head]) for m, foot, head in upright),
                 *self._chains(beams, heads)]
        members: list[Member] = []
        ends: list[tuple[int, int]] = []
        free: list[tuple[int, int]] = []  # elements, and in which of their freedoms at the ends
        widths: dict[str, Mapping[str, float]] = {
            "beam": self.building.flange_widths, "brace": self.building.strut_widths, "column": {}}
        points = np.array(self.points)
        taken: set[str] = set()
        alike: dict[tuple[object, ...], int] = {}  # a few rules, for thousands of members
        names: dict[tuple[str, float | None], int] = {}  # section, and width of its flange or strut
        like: list[int] = []
        by_rule: list[tuple[int, float, float, Shares, Shares, tuple[float, float]]] = []
        for m, whole, nodes in parts:
            name = self._name(m, whole)
            while name in taken:
                name += "'"
            taken.add(name)
            first, column = len(ends), m.kind == "column"
            width = widths[m.kind].get(name)
            key = (m.section, width, column, *m.properties())
            if key not in alike:
                alike[key] = len(by_rule)
                by_rule.append((
                    names.setdefault((m.section, width), len(names)),
                    m.turned if column else np.nan, m.stiff_ends, self._kept(m, m.kept),
                    self._kept(m, m.kept_for_drift or m.kept), m.shifted))
            ends += pairwise(nodes)
            like += [alike[key]] * (len(ends) - first)
            free += _free(m, first, len(ends) - 1)
            members.append(Member(
                name, m.kind, m.axis, self.names[m.level], m.section,
                tuple(range(first, len(ends))), self.points[nodes[0]], self.points[nodes[-1]],
                m.moment_strength if m.kind == "beam" else m.strength,
                m.turned if column else 0.0, m.hinged, m.stiff_ends,
                "" if m.released is None else m.released.said, m.secondary,
                self.building.sections[m.section].infill is not None))
        sections = [self._properties(*one) for one in names]
        found = [self._material(name) for name, _ in names]
        section, turned, stiff, kept, for_drift, shifted = (
            np.array(values)[like] for values in zip(*by_rule, strict=True)) if by_rule else (
            np.zeros((0, k) if k else 0, int if k is None else float)
            for k in (None, 0, 0, 5, 5, 2))
        released = np.zeros((len(ends), 12), dtype=bool)
        released[tuple(np.array(free, dtype=int).reshape(-1, 2).T)] = True
        floors = np.array(self.floors)
        joined = np.array(ends, dtype=np.intp).reshape(-1, 2)
        frame = Frame(
            members=tuple(members), points=points, floors=floors, ends=joined,
            member=np.repeat(np.arange(len(members)), np.array(
                [len(m.elements) for m in members], dtype=int)),
            section=section, axes=_local(points, joined, turned, np.array(
                [p.tilt for p in sections], dtype=float)[section]),
            released=released, stiff=np.column_stack([stiff, stiff]).astype(float), kept=kept,
            kept_for_drift=for_drift, shifted=shifted.astype(float),
            sections=tuple(sections), materials=np.array(found, dtype=float).reshape(-1, 3),
            supports=np.flatnonzero(floors == len(self.z) - 1), springs=np.zeros((0, 6)),
            panels=panels, slabs=slabs)
        faults = [*self._loose(frame), *self._walls_on_nothing(frame, upright),
                  *self._transfers(frame, upright), *self._side_by_side(made),
                  *_too_free(frame)]
        if faults:
            raise InputError(faults)
        return _supported(self.building, _stiffened(frame))

    def _panels(
        self, beams: Sequence[Made], columns: Sequence[XY]
    ) -> tuple[Panels | None, Slabs | None]:
        """The walls, and the floors that deform, divided where members and each other meet them."""
        deforming = {} if diaphragm_faults(self.building) else deforming_floors(self.building)
        if not self.laid and not deforming:
            return None, None
        for line in self.building.lines:
            for i in line_levels(self.building, line, deforming):
                size = deforming[i].mesh if i in deforming else math.inf
                for at in line_points(self.building, line, i, size):
                    self.node(i, at)
        ends = [BeamEnd(m.level, m.start, m.end, self.building.section(m.section).depth)
                for m in beams]
        mesher = Mesher(self.building, self.laid, self.node, self.points, self.floors)
        mesher.divide(columns, ends)
        lines = self._floor_lines(mesher, deforming)
        mesher.meet(lines)
        panels = replace(mesher.panels(ends), beams_within=self.within) if self.laid else None
        slabs = lay_floors(self.building, deforming, lines, self.node, self.points, self.floors) \
            if deforming else None
        return panels, slabs

    def _floor_lines(self, mesher: Mesher, deforming: Mapping[int, DeformingFloor]) -> FloorLines:
        """Lines of the floors that deform, where their edges and walls run along X and Y."""
        straight = frozenset(
            i for i in deforming
            if is_straight(self.building.outline(i).polygon) and mesher.straight(i))
        places = [p[:2] for p, f in zip(self.points, self.floors, strict=True) if f in straight]
        for i in straight:
            places += mesher.at_level(i)
        return floor_lines(self.building, deforming, places, straight)

    def _kept(
        self, m: Made, k: KeptShares | Literal["by standard"] | None
    ) -> Shares:
        """Shares of the gross stiffness; those by the standard are put in its place before.

        Without deformation in shear the share is endless, along the member as good as that.
        """
        shares: Shares
        gross = not isinstance(k, KeptShares) or (k.concrete_only and self.building.material(
            self.building.sections[m.section].material).kind != "concrete")
        if gross or not isinstance(k, KeptShares):
            shares = (1.0,) * 5
        else:
            shares = k.bending_y, k.bending_z, k.torsion, k.axial, k.shear
        shares = (*shares[:3], shares[3] if m.axial_deformation else RIGID,
                  shares[4] if m.shear_deformation else np.inf)
        if m.ends is None or not m.axial_deformation:
            return shares
        core, ends = (self.building.section(name).area
                      * self.building.material(self.building.sections[name].material).modulus
                      for name in (m.section, m.ends.section))
        stiffer = 1 / (1 - m.ends.share + m.ends.share * core / ends)
        return *shares[:3], shares[3] * stiffer, shares[4]

    def _properties(self, name: str, given: float | None) -> Properties:
        """Of a section, with the width of its flange or of the strut it is."""
        one = self.building.sections[name]
        if one.infill is not None and given is not None:
            return one.strut(given)
        width = None if one.flange is None else given or one.flange.width
        return self.building.section(name) if width is None else one.flanged(width)

    def _material(self, section: str) -> tuple[float, float, float]:
        one = self.building.material(self.building.sections[section].material)
        return one.modulus, one.shear_modulus, self.building.unit_weight(section)

    def _crossings(self, beams: list[Made]) -> None:
        """Nodes where beams of one level cross; axes cross at crossings already."""
        for level in {m.level for m in beams if not m.axis}:
            own = [m for m in beams if m.level == level]
            free = [m for m in own if not m.axis]
            for m in free:
                for other in own:
                    at = _meeting(m, other)
                    if other is not m and at is not None:
                        self.node(level, at)

    def _chains(
        self, beams: list[Made], heads: set[int]
    ) -> list[tuple[Made, list[Made], list[int]]]:
        """Beams from support to support: spans over crossings without a column are joined."""
        on_level: dict[int, list[int]] = {}
        for node, level in enumerate(self.floors):
            on_level.setdefault(level, []).append(node)
        points = np.array(self.points)[:, :2]
        rows: dict[tuple[int, str], tuple[list[float], list[int]]] = {}  # by axis
        reach: dict[tuple[str, XY, XY], list[float]] = {}  # by axis and ends
        found: list[tuple[Made, list[Made], list[int]]] = []
        for m in beams:
            straight = bool(m.axis) and not self.axes.curved(m.axis)
            if not straight:
                nodes = _on_span(points, np.array(on_level[m.level]), m).tolist()
            else:
                if (m.level, m.axis) not in rows:
                    every = np.array(on_level[m.level])
                    every = every[np.abs(self.axes.off(m.axis, points[every])) < 10 * CLOSE]
                    every = every[np.argsort(self.axes.along(m.axis, points[every]))]
                    rows[m.level, m.axis] = (
                        self.axes.along(m.axis, points[every]).tolist(), every.tolist())
                places, there = rows[m.level, m.axis]
                key = m.axis, m.start, m.end
                if key not in reach:
                    reach[key] = self.axes.along(m.axis, [m.start, m.end]).tolist()
                low, high = reach[key]
                nodes = there[bisect_left(places, low - 10 * CLOSE):
                              bisect_left(places, high + 10 * CLOSE)]
            start = nodes[0]
            last = found[-1] if found else None
            joined = last is not None and last[2][-1] == start and start not in heads \
                and straight and _alike(last[0], m)
            if joined and last is not None:
                last[1].append(m)
                last[2].extend(nodes[1:])
            else:
                found.append((m, [m], nodes))
        return found

    def _name(self, m: Made, whole: list[Made]) -> str:
        level = self.names[m.level]
        if m.given:
            return m.given
        if m.kind == "column":
            return f"column {m.axis} at {level}"
        first, last = whole[0].between[0], whole[-1].between[1]
        if m.kind == "beam":
            return f"beam {m.axis + ' ' if m.axis else ''}{first}-{last} at {level}"
        return f"brace {m.axis} {first}-{last} at {level}, {m.pattern}"

    def _loose(self, frame: Frame) -> list[Fault]:
        """Parts of the frame from which nothing leads to the ground."""
        n = len(frame.points)
        flat = [one.nodes for one in (frame.panels, frame.slabs) if one is not None]
        pairs = np.concatenate([frame.ends, *(
            nodes[:, [k, (k + 1) % 4]] for nodes in flat for k in range(4))])
        graph = coo_array((np.ones(len(pairs)), tuple(pairs.T)), shape=(n, n))
        count, part = connected_components(graph, directed=False)
        held = np.zeros(count, dtype=bool)
        held[part[frame.supports]] = True
        faults = []
        for k in np.flatnonzero(~held):
            own = np.flatnonzero(part[frame.ends[:, 0]] == k)
            if not own.size:
                continue  # of walls alone: told beside
            first, *more = [frame.members[i] for i in dict.fromkeys(frame.member[own].tolist())]
            faults.append(Fault(
                "members", f"{first.name!r}"
                + (f" and {len(more)} more hang in the air: nothing leads from them"
                   if more else " hangs in the air: nothing leads from it")
                + " to the lowest level", "put a column or a beam there, or remove what hangs"))
        return faults

    def _walls_on_nothing(
        self, frame: Frame, upright: Sequence[tuple[Made, int, int]]
    ) -> list[Fault]:
        """Walls whose foot is above the lowest level with neither wall, column nor beam below."""
        panels = frame.panels
        if panels is None:
            return []
        faults = []
        lowest = len(self.z) - 1
        held = {head for _, _, head in upright} | set(frame.ends[frame.kinds == "beam"].ravel())
        for k, one in enumerate(self.laid):
            below = {i: self.building.below[i] for i in one.run.stories}
            for i in one.run.stories:
                if below[i] in (*one.run.stories, lowest):
                    continue
                own = np.flatnonzero((panels.wall == k) & (panels.story == i))
                feet = {int(n) for n in panels.nodes[own, :2].ravel()
                        if self.floors[n] == below[i]}
                under = panels.nodes[panels.story == below[i]].ravel()
                if not feet & held and not feet & set(under.tolist()):
                    faults.append(Fault(
                        f"{one.place}.levels", f"wall {one.run.name!r} stands on nothing at "
                        f"{self.names[below[i]]}", "carry it down, or put a wall, beam or columns "
                        "under it"))
        return faults

    def _transfers(self, frame: Frame, upright: list[tuple[Made, int, int]]) -> list[Fault]:
        """Columns that stand on no column: consent is asked for, and something to stand on."""
        lowest = len(self.z) - 1
        heads = {head for _, _, head in upright}
        if frame.panels is not None:
            heads.update(frame.panels.nodes.ravel().tolist())
        carried = set(frame.ends[frame.kinds == "beam"].ravel().tolist())
        consent = {self.node(level, at) for at, level in self.transfer}
        faults = []
        for m, foot, _ in upright:
            if m.kind != "column" or m.low == lowest or foot in heads:
                continue
            where = f"the column at {m.axis} from {self.names[m.low]} to " \
                f"{self.names[m.level]}"
            if foot not in carried:
                faults.append(Fault(m.place, f"{where} stands on nothing",
                                    "carry it down, or put a beam under it"))
            elif foot not in consent:
                faults.append(Fault(
                    m.place, f"{where} stands on a beam",
                    "if so meant, remove the column below by a rule with transfer = true"))
        return faults

    def _side_by_side(self, made: Sequence[Made]) -> list[Fault]:
        """Columns of floors that stand aside, over the same height at one place."""
        by_axis: dict[str, list[Made]] = {}
        for m in made:
            if m.kind == "column":
                by_axis.setdefault(m.axis, []).append(m)
        faults = []
        for axis, own in by_axis.items():
            own.sort(key=lambda m: (self.z[m.low], self.z[m.level]))
            for a, b in pairwise(own):
                if self.z[b.low] < self.z[a.level] - CLOSE:
                    names = " and of ".join(sorted(self.names[m.level] for m in (a, b)))
                    faults.append(Fault(
                        b.place, f"two columns stand at {axis} over the same height, "
                        f"of {names}, and nothing joins them",
                        "remove one by a rule, or give the floors axes of their own"))
        return faults


def _meeting(m: Made, other: Made) -> XY | None:
    """Where two beams of a level cross or touch; ``None`` where they don't, or run in one line."""
    p, r = np.array(m.start), np.subtract(m.end, m.start)
    q, s = np.array(other.start), np.subtract(other.end, other.start)
    cross = r[0] * s[1] - r[1] * s[0]
    if abs(cross) < 1e-9 * np.hypot(*r) * np.hypot(*s):
        return None
    d = q - p
    t, u = (d[0] * s[1] - d[1] * s[0]) / cross, (d[0] * r[1] - d[1] * r[0]) / cross
    near = 1e-6
    if not (-near <= t <= 1 + near and -near <= u <= 1 + near):
        return None
    at = q + u * s
    return float(at[0]), float(at[1])


def _on_span(points: Floats, nodes: Ints, m: Made) -> Ints:
    """The nodes that lie on a beam, in order from its start."""
    start, span = np.array(m.start), np.subtract(m.end, m.start)
    length = float(np.hypot(*span))
    along = (points[nodes] - start) @ span / length
    off = np.abs((points[nodes] - start) @ np.array([-span[1], span[0]]) / length)
    on = (off < 10 * CLOSE) & (along > -10 * CLOSE) & (along < length + 10 * CLOSE)
    order = np.argsort(along[on])
    return np.asarray(nodes[on][order])


def _too_free(frame: Frame) -> list[Fault]:
    """Members that hinges and releases together let move in the plane of their bending."""
    found: list[Fault] = []
    for plane, at in (("along y", [1, 5, 7, 11]), ("along z", [2, 4, 8, 10])):
        loose = np.flatnonzero(frame.released[:, at].sum(axis=1) > 2)
        if loose.size:
            name = frame.members[frame.member[loose[0]]].name
            found.append(Fault("members", f"{name!r} moves freely {plane}: its hinges and releases "
                               "together leave nothing to hold it", "release less"))
    return found


def _free(m: Made, first: int, last: int) -> list[tuple[int, int]]:
    """What the ends of a member don't pass on: elements, and in which of their freedoms."""
    ends = ((first, 0, "start"), (last, 6, "end"))
    found = [(e, at + k) for e, at, word in ends
             if m.secondary or m.hinged in (word, "both") for k in (4, 5)]
    if m.released is not None:
        found += [(first, COMPONENTS.index(name)) for name in m.released.start]
        found += [(last, 6 + COMPONENTS.index(name)) for name in m.released.end]
    return found


def _alike(a: Made, b: Made) -> bool:
    """Whether two spans can be one beam."""
    both = ((getattr(a, name), getattr(b, name))
            for name in ("axis", "level", "section", *PROPERTIES))
    return all(x is y or x == y for x, y in both)  # a strength not given is no number


def _local(points: Floats, ends: Ints, turned: Floats, tilt: Floats) -> Floats:
    """(E, 3, 3) local x, y and z as rows: see the module; ``turned`` is of columns alone, ``tilt``
    that of the principal axes of the section."""
    x = points[ends[:, 1]] - points[ends[:, 0]]
    x /= np.linalg.norm(x, axis=1)[:, None]
    column = np.isfinite(turned)
    flat = np.where(column, 1.0, np.hypot(x[:, 0], x[:, 1]))
    y = np.zeros_like(x)
    y[:, 0] = np.where(column, np.cos(turned), -x[:, 1] / flat)
    y[:, 1] = np.where(column, np.sin(turned), x[:, 0] / flat)
    z = np.cross(x, y)
    c, s = np.cos(tilt)[:, None], np.sin(tilt)[:, None]
    return np.stack([x, c * y + s * z, c * z - s * y], axis=1)


def _stiffened(frame: Frame) -> Frame:
    """Lengths of the stiff ends: a share of half the size of what meets the member there."""
    if not frame.stiff.any():
        return frame
    column, beam = frame.kinds == "column", frame.kinds == "beam"
    n = len(frame.points)
    there: dict[int, list[int]] = {}  # columns at a node
    deep = np.zeros(n)  # half the depth of the beams at a node
    for e in np.flatnonzero(column):
        for node in frame.ends[e].tolist():
            there.setdefault(node, []).append(int(e))
    for e in np.flatnonzero(beam):
        for node in frame.ends[e]:
            deep[node] = max(deep[node], frame.sections[frame.section[e]].depth / 2)
    stiff = np.zeros_like(frame.stiff)
    for k in (0, 1):
        stiff[:, k] = np.where(column, deep[frame.ends[:, k]], 0.0) * frame.stiff[:, k]
        for e in np.flatnonzero(beam & (frame.stiff[:, k] > 0)):
            own = there.get(int(frame.ends[e, k]), ())
            stiff[e, k] = frame.stiff[e, k] * max(
                (to_face(frame, c, frame.axes[e, 0]) for c in own), default=0.0)
    return replace(frame, stiff=stiff)


def to_face(frame: Frame, column: int, along: Floats) -> float:
    """From the middle of a column to its face along a direction, m."""
    p = frame.sections[frame.section[column]]
    out = [size / 2 / part for size, part in (
        (p.width, abs(float(frame.axes[column, 1] @ along))),
        (p.depth, abs(float(frame.axes[column, 2] @ along)))) if part > 1e-9]
    return min(out, default=0.0)


def feet_named(axes: Axes, frame: Frame, text: str) -> NDArray[np.bool_]:
    """(S,) which supports a text names: "all", axes or crossings. Raises ValueError."""
    at = frame.points[frame.supports, :2]
    if text.strip() == "all":
        return np.ones(len(at), dtype=bool)
    chosen = np.zeros(len(at), dtype=bool)
    names, crossings = axes.chosen(text.strip().removeprefix("on "))
    for name in names:
        chosen |= np.abs(axes.off(name, at)) < CLOSE
    for name in crossings:
        chosen |= np.abs(at - axes.crossings[name]).max(axis=1) < CLOSE
    if not chosen.any():
        raise ValueError(f"{text!r} names no foot of a column; name crossings or axes "
                         "where columns stand")
    return chosen


def _supported(building: PlainBuilding, frame: Frame) -> Frame:
    """The supports by the rules; faults where they name nothing."""
    springs = np.full((len(frame.supports), 6), np.inf)
    faults = []
    if frame.panels is not None:
        on_nodes, stretches, stiffness = foot_springs(building, frame.panels)
        for node, own in on_nodes.items():
            springs[np.searchsorted(frame.supports, node)] = own
        frame = replace(frame, panels=replace(frame.panels, feet=stretches,
                                              feet_stiffness=stiffness))
    if not building.supports:
        return replace(frame, springs=springs)
    for i, rule in enumerate(building.supports):
        try:
            chosen = feet_named(building.grid, frame, rule.at)
        except ValueError as error:
            faults.append(Fault(f"supports[{i}].at", str(error)))
            continue
        springs[chosen] = rule.springs
    if faults:
        raise InputError(faults)
    return replace(frame, springs=springs)


def line_levels(
    building: PlainBuilding, line: Line, deforming: Collection[int]
) -> tuple[int, ...]:
    """The levels at which a lateral line has nodes: all of its own, where it reaches a floor that
    deforms; none otherwise."""
    span = building.span(line)
    foot = building.below[span[-1]]
    own = (*span, *([foot] if foot < len(building.levels) - 1 else []))
    return own if set(own) & set(deforming) else ()


def line_points(building: PlainBuilding, line: Line, level: int, size: float) -> list[XY]:
    """Where a lateral line meets a floor: along its length in steps of ``size`` at most, as far as
    that lies on the floor, or at its point."""
    x, y = line.at
    half, outline = 0.5 * (line.plan_length or 0.0), building.outline(level)
    c, s = math.cos(line.direction), math.sin(line.direction)
    steps = max(2, math.ceil(2 * half / size)) if half else 0
    found = [(x, y)] if steps % 2 or not steps else []
    found += [(x + t * c, y + t * s) for t in np.linspace(-half, half, steps + 1 if half else 0)]
    return [at for at in found if on_floor(outline, at)]
