"""From rules to members: what stands where, the nodes they share, the elements between.

Rules are applied in order to a list of members in the making; then nodes are put where members
meet, beams are divided there, and spans over crossings without a column are joined.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from undatum.building.made import Key, Made
from undatum.building.materials import SHIPPED
from undatum.building.members import CLOSE, XY, Frame, Member
from undatum.building.naming import known_names, selection
from undatum.building.placed import Placed
from undatum.building.points import by_points
from undatum.building.rules import KeptShares, MemberRule
from undatum.building.shapes import Properties
from undatum.errors import Fault, InputError, nearest

if TYPE_CHECKING:
    from undatum.building.axes import Axes
    from undatum.building.whole import Building

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(slots=True)
class _Maker:
    building: Building
    axes: Axes
    names: list[str]
    made: dict[Key, Made] = field(default_factory=dict)
    planted: set[tuple[XY, int]] = field(default_factory=set)
    faults: list[Fault] = field(default_factory=list)

    # -- rules ---------------------------------------------------------------------------------

    def apply(self, i: int, rule: MemberRule) -> None:
        """Make, change or remove what a rule names."""
        place = f"members[{i}].{rule.kind}s"
        try:
            chosen = selection(rule.which)
            upwards = self.names[:-1][::-1]
            levels = [self.names.index(name) for name in chosen.levels(upwards)]
            if rule.kind == "column":
                found = list(self._columns(chosen.on, levels))
            elif rule.kind == "beam" and rule.line is not None:
                found = list(self._line_beams(rule, levels))
            elif rule.kind == "beam":
                found = list(self._beams(chosen.on, chosen.low, chosen.high, levels))
            else:
                found = list(self._braces(chosen.on, chosen.low, chosen.high, levels,
                                          rule.pattern or ""))
            sections = self._sections(rule, upwards)
            if rule.ends is not None:
                self._known_section(rule.ends.section)
        except ValueError as error:
            self.faults.append(Fault(place, str(error)))
            return
        if rule.section is None or rule.remove:  # it changes or removes what is there
            found = [(key, one) for key, one in self.made.items()
                     if self._meant(key, one, rule, dict(found), levels, on=chosen.on)]
        if rule.remove:
            gone = [key for key, _ in found]
            for key in gone:
                if rule.planted:
                    self.planted.add((self.made[key].start, self.made[key].level))
                del self.made[key]
        if not found:
            self.faults.append(Fault(place, f"{rule.which!r} chooses no {rule.kind}",
                                     "is the crossing on the floor of that level?"))
        if rule.remove:
            return
        for key, new in found:
            one = self.made.setdefault(key, new)
            one.place = f"members[{i}]"
            one.section = (sections[one.level] if sections else None) or one.section
            if not one.section:
                self.faults.append(Fault(
                    f"members[{i}].section", f"{rule.kind}s at {self.names[one.level]} get no "
                    "section", "name one for every level the rule reaches"))
                return
            one.turned = one.turned if rule.turned is None else rule.turned
            one.hinged = one.hinged if rule.hinged is None else rule.hinged
            one.stiff_ends = one.stiff_ends if rule.stiff_ends is None else rule.stiff_ends
            one.kept = one.kept if rule.kept is None else rule.kept
            one.ends = one.ends if rule.ends is None else rule.ends
            one.strength = one.strength if rule.strength is None else rule.strength

    def place(self, i: int, one: Placed) -> None:
        """A member by the coordinates of its ends."""
        place = f"placed[{i}]"
        try:
            self._known_section(one.section)
            found = by_points(self.building, self.axes, self.names, one)
        except ValueError as error:
            self.faults.append(Fault(place, f"{one.name!r} {error}"))
            return
        if one.planted:
            self.planted.add((found[-1][1].start, found[-1][1].low))
        for key, made in found:
            if key in self.made:
                self.faults.append(Fault(place, f"{one.name!r} stands where "
                                         f"{self.made[key].given or self.made[key].place} does",
                                         "take one of them out"))
                return
            made.place = place
            self.made[key] = made

    def _meant(
        self, key: Key, one: Made, rule: MemberRule, found: Mapping[Key, Made],
        levels: list[int], *, on: str,
    ) -> bool:
        """Whether a rule that makes nothing means a member that is there."""
        if key in found:
            return True
        if rule.kind == "brace" and one.kind == "brace":  # of any pattern in its bays
            return rule.pattern is None and any(key[:5] == other[:5] for other in found)
        free = one.kind == "beam" and not one.axis  # off the axes, so that none names it
        return free and rule.kind == "beam" and rule.line is None and not on \
            and one.level in levels

    def _sections(self, rule: MemberRule, upwards: list[str]) -> list[str | None] | None:
        """The section by level, as a rule gives it."""
        if rule.section is None:
            return None
        if isinstance(rule.section, str):
            by_level: dict[str, str] = dict.fromkeys(self.names, rule.section)
        else:
            by_level = {}
            for text, name in rule.section.items():
                by_level |= dict.fromkeys(known_names(text, upwards, "levels"), name)
        for name in set(by_level.values()):
            self._known_section(name)
        return [by_level.get(name) for name in self.names]

    def _known_section(self, name: str) -> None:
        if name not in self.building.sections:
            near = nearest(name, list(self.building.sections))
            raise ValueError(f"{name!r} is not among the sections"
                             + (f"; did you mean {near!r}?" if near else ""))

    # -- where -----------------------------------------------------------------------------------

    def _held(self, level: int, points: Sequence[XY]) -> NDArray[np.bool_]:
        """Which points lie on the floor of a level or on its edge."""
        return self.building.outline(level).holds(np.reshape(points, (-1, 2)))

    def _columns(self, on: str, levels: list[int]) -> Iterator[tuple[Key, Made]]:
        named: set[str] = set()
        if on:
            axes, crossings = self.axes.chosen(on)
            named = set(crossings)
            every = [c for c in self.axes.crossings if c in named or any(
                self._stands_on(self.axes.crossings[c], a) for a in axes)]
        else:
            every = [f"{b}{a}" for b in self.axes.y for a in self.axes.x]
        points = [self.axes.crossings[c] for c in every]
        for level in levels:
            for name, at, held in zip(every, points, self._held(level, points), strict=True):
                if held or name in named:
                    yield ("column", name, level), Made(
                        "column", name, level, at, at, "", self.building.below[level])

    def _stands_on(self, at: XY, axis: str) -> bool:
        return abs(float(self.axes.off(axis, at))) < CLOSE

    def _bays(self, on: str, low: str, high: str) -> Iterator[tuple[str, str, str, XY, XY]]:
        """Every bay of the axes chosen: axis, the axes that bound it, and its ends."""
        axes, crossings = self.axes.chosen(on) if on else ([*self.axes.y, *self.axes.x], [])
        if crossings:
            raise ValueError(f"{crossings[0]!r} names a crossing; beams and braces run along axes")
        if self.building.plane is not None:  # nothing lies across a plane building
            within = self.axes.y if self.building.plane == "X" else self.axes.x
            away = [a for a in axes if a not in within]
            if on and away:
                raise ValueError(f"{away[0]!r} runs across the plane of the building, which lies "
                                 f"along {self.building.plane}")
            axes = [a for a in axes if a in within]
        for axis in axes:
            names = list(self.axes.others(axis))
            reach = self.axes.stretch(axis, low, high) if low else (-np.inf, np.inf)
            for a, b in pairwise(names):
                p, q = self.axes.cross(axis, a), self.axes.cross(axis, b)
                if low and (float(self.axes.along(axis, p)) < reach[0] - CLOSE
                            or float(self.axes.along(axis, q)) > reach[1] + CLOSE):
                    continue
                yield axis, a, b, p, q

    def _beams(
        self, on: str, low: str, high: str, levels: list[int]
    ) -> Iterator[tuple[Key, Made]]:
        bays = list(self._bays(on, low, high))
        if not bays:
            return
        ends = [p for bay in bays for p in bay[3:]]
        middle = np.array([[(p[0] + q[0]) / 2, (p[1] + q[1]) / 2] for *_, p, q in bays])
        for level in levels:
            held = self._held(level, ends).reshape(-1, 2).all(axis=1)
            outline = self.building.outline(level)
            floor = shapely.intersects_xy(outline.polygon.buffer(CLOSE), middle[:, 0],
                                          middle[:, 1])
            for (axis, a, b, p, q), keep in zip(bays, held & floor, strict=True):
                if keep:
                    yield ("beam", axis, a, b, level), Made(
                        "beam", axis, level, p, q, "", level, between=(a, b))

    def _line_beams(self, rule: MemberRule, levels: list[int]) -> Iterator[tuple[Key, Made]]:
        assert rule.line is not None
        p, q = (self.axes.point(end) if isinstance(end, str) else end for end in rule.line)
        said = tuple(end if isinstance(end, str) else f"({end[0]:.3f}, {end[1]:.3f})"
                     for end in rule.line)
        if np.hypot(q[0] - p[0], q[1] - p[1]) < CLOSE:
            raise ValueError("the line has no length")
        for level in levels:
            yield ("beam", said, level), Made(
                "beam", "", level, p, q, "", level, between=(said[0], said[1]))

    def _braces(
        self, on: str, low: str, high: str, levels: list[int], pattern: str
    ) -> Iterator[tuple[Key, Made]]:
        for axis, a, b, p, q in self._bays(on, low, high):
            middle = ((p[0] + q[0]) / 2, (p[1] + q[1]) / 2)
            ways = {"rising": [(p, q)], "falling": [(q, p)], "X": [(p, q), (q, p)],
                    "V": [(middle, p), (middle, q)], "chevron": [(p, middle), (q, middle)],
                    "": [(p, q)]}[pattern]
            words = {"X": ("rising", "falling"), "V": ("V first", "V second"),
                     "chevron": ("chevron first", "chevron second")}.get(pattern, (pattern,))
            for level in levels:
                if not self._held(level, [p, q]).all():
                    continue
                for word, (foot, head) in zip(words, ways, strict=True):
                    yield ("brace", axis, a, b, level, word), Made(
                        "brace", axis, level, foot, head, "", self.building.below[level],
                        hinged="both",
                        between=(a, b), pattern=word)


# -- from members to nodes and elements ----------------------------------------------------------


def make_frame(building: Building) -> Frame | None:
    """The members of a building; ``None`` where it has none. Raises InputError with every fault."""
    if not building.members and not building.placed:
        return None
    if building.axes is None:
        raise InputError([Fault("axes", "is missing", "members stand on axes; give across_x and "
                                "across_y")])
    maker = _Maker(building, building.axes, [level.name for level in building.levels])
    for i, one in enumerate(building.placed):
        maker.place(i, one)
    for i, rule in enumerate(building.members):
        maker.apply(i, rule)
    if maker.faults:
        raise InputError(maker.faults)
    return _Divider(maker).frame()


class _Divider:
    """Nodes where members meet; beams divided at them."""

    def __init__(self, maker: _Maker) -> None:
        self.maker = maker
        self.building = maker.building
        self.z = maker.building.elevations
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
        made = list(self.maker.made.values())
        upright = [(m, self.node(m.low, m.start), self.node(m.level, m.end))
                   for m in made if m.kind != "beam"]
        beams = [m for m in made if m.kind == "beam"]
        for m in beams:
            self.node(m.level, m.start)
            self.node(m.level, m.end)
        self._crossings(beams)
        heads = {head for m, _, head in upright if m.kind == "column"}
        parts = [*((m, [m], [foot, head]) for m, foot, head in upright),
                 *self._chains(beams, heads)]
        members: list[Member] = []
        ends: list[tuple[int, int]] = []
        member, section, turned, hinged, stiff, kept = [], [], [], [], [], []
        names: list[tuple[str, float | None]] = []  # section, and width of its flange
        widths = self.building.flange_widths
        points = np.array(self.points)
        taken: set[str] = set()
        for m, whole, nodes in parts:
            name = self._name(m, whole)
            while name in taken:
                name += "'"
            taken.add(name)
            first = len(ends)
            whose = m.section, widths.get(name) if m.kind == "beam" else None
            if whose not in names:
                names.append(whose)
            for a, b in pairwise(nodes):
                ends.append((a, b))
                member.append(len(members))
                section.append(names.index(whose))
                turned.append(np.nan if m.kind != "column" else m.turned)
                hinged.append((m.hinged in ("start", "both") and a == nodes[0],
                               m.hinged in ("end", "both") and b == nodes[-1]))
                stiff.append((m.stiff_ends, m.stiff_ends))
                kept.append(self._kept(m))
            members.append(Member(
                name, m.kind, m.axis, self.maker.names[m.level], m.section,
                tuple(range(first, len(ends))), self.points[nodes[0]], self.points[nodes[-1]],
                m.strength, 0.0 if m.kind != "column" else m.turned, m.hinged, m.stiff_ends))
        sections = [self._properties(*one) for one in names]
        found = [self._material(name) for name, _ in names]
        floors = np.array(self.floors)
        frame = Frame(
            members=tuple(members), points=points, floors=floors,
            ends=np.array(ends), member=np.array(member), section=np.array(section),
            axes=_local(points, np.array(ends), np.array(turned),
                        np.array([p.tilt for p in sections])[section]),
            hinged=np.array(hinged), stiff=np.array(stiff, dtype=float), kept=np.array(kept),
            sections=tuple(sections), materials=np.array(found),
            supports=np.flatnonzero(floors == len(self.z) - 1), springs=np.zeros((0, 2)))
        faults = [*self._loose(frame), *self._planted(frame, upright), *self._side_by_side(made)]
        if faults:
            raise InputError(faults)
        return _supported(self.building, _stiffened(frame))

    def _kept(self, m: Made) -> tuple[float, float, float, float, float]:
        """Shares of the gross stiffness; those by the standard are put in its place before."""
        k = m.kept
        shares: tuple[float, float, float, float, float]
        gross = not isinstance(k, KeptShares) or (k.concrete_only and self.building.material(
            self.building.sections[m.section].material).kind != "concrete")
        if gross or not isinstance(k, KeptShares):
            shares = (1.0,) * 5
        else:
            shares = k.bending_y, k.bending_z, k.torsion, k.axial, k.shear
        if m.ends is None:
            return shares
        core, ends = (self.building.section(name).area
                      * self.building.material(self.building.sections[name].material).modulus
                      for name in (m.section, m.ends.section))
        stiffer = 1 / (1 - m.ends.share + m.ends.share * core / ends)
        return *shares[:3], shares[3] * stiffer, shares[4]

    def _properties(self, name: str, flange: float | None) -> Properties:
        one = self.building.sections[name]
        width = None if one.flange is None else flange or one.flange.width
        return self.building.section(name) if width is None else one.flanged(width)

    def _material(self, section: str) -> tuple[float, float, float]:
        shape = self.building.sections[section]
        one = self.building.material(shape.material)
        weight = shape.unit_weight({**SHIPPED, **self.building.materials})
        return one.modulus, one.shear_modulus, weight

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
        rows: dict[tuple[int, str], tuple[list[float], list[int], list[float]]] = {}  # by axis
        found: list[tuple[Made, list[Made], list[int]]] = []
        for m in beams:
            if not m.axis:
                nodes = _on_span(points, np.array(on_level[m.level]), m).tolist()
            else:
                axes = self.maker.axes
                if (m.level, m.axis) not in rows:
                    every = np.array(on_level[m.level])
                    every = every[np.abs(axes.off(m.axis, points[every])) < 10 * CLOSE]
                    every = every[np.argsort(axes.along(m.axis, points[every]))]
                    rows[m.level, m.axis] = (axes.along(m.axis, points[every]).tolist(),
                                             every.tolist(), axes.direction(m.axis).tolist())
                places, there, (c, s) = rows[m.level, m.axis]
                nodes = there[bisect_left(places, c * m.start[0] + s * m.start[1] - 10 * CLOSE):
                              bisect_left(places, c * m.end[0] + s * m.end[1] + 10 * CLOSE)]
            start = nodes[0]
            last = found[-1] if found else None
            joined = last is not None and last[2][-1] == start and start not in heads \
                and bool(m.axis) and _alike(last[0], m)
            if joined and last is not None:
                last[1].append(m)
                last[2].extend(nodes[1:])
            else:
                found.append((m, [m], nodes))
        return found

    def _name(self, m: Made, whole: list[Made]) -> str:
        level = self.maker.names[m.level]
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
        graph = coo_array((np.ones(len(frame.ends)), tuple(frame.ends.T)), shape=(n, n))
        count, part = connected_components(graph, directed=False)
        held = np.zeros(count, dtype=bool)
        held[part[frame.supports]] = True
        faults = []
        for k in np.flatnonzero(~held):
            own = np.flatnonzero(part[frame.ends[:, 0]] == k)
            first, *more = [frame.members[i] for i in dict.fromkeys(frame.member[own].tolist())]
            faults.append(Fault(
                "members", f"{first.name!r}"
                + (f" and {len(more)} more hang in the air: nothing leads from them"
                   if more else " hangs in the air: nothing leads from it")
                + " to the lowest level", "put a column or a beam there, or remove what hangs"))
        return faults

    def _planted(self, frame: Frame, upright: list[tuple[Made, int, int]]) -> list[Fault]:
        """Columns that stand on no column: consent is asked for, and something to stand on."""
        lowest = len(self.z) - 1
        heads = {head for _, _, head in upright}
        carried = set(frame.ends[frame.kinds == "beam"].ravel().tolist())
        consent = {self.node(level, at) for at, level in self.maker.planted}
        faults = []
        for m, foot, _ in upright:
            if m.kind != "column" or m.low == lowest or foot in heads:
                continue
            where = f"the column at {m.axis} from {self.maker.names[m.low]} to " \
                f"{self.maker.names[m.level]}"
            if foot not in carried:
                faults.append(Fault(m.place, f"{where} stands on nothing",
                                    "carry it down, or put a beam under it"))
            elif foot not in consent:
                faults.append(Fault(
                    m.place, f"{where} stands on a beam",
                    "if so meant, remove the column below by a rule with planted = true"))
        return faults


    def _side_by_side(self, made: list[Made]) -> list[Fault]:
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
                    names = " and of ".join(sorted(self.maker.names[m.level] for m in (a, b)))
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


def _alike(a: Made, b: Made) -> bool:
    """Whether two spans can be one beam."""
    return (a.axis, a.level, a.section, a.hinged, a.stiff_ends, a.kept) == \
        (b.axis, b.level, b.section, b.hinged, b.stiff_ends, b.kept)


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
                (_to_face(frame, c, frame.axes[e, 0]) for c in own), default=0.0)
    return replace(frame, stiff=stiff)


def _to_face(frame: Frame, column: int, along: Floats) -> float:
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
        raise ValueError(f"{text!r} names no foot of a column")
    return chosen


def _supported(building: Building, frame: Frame) -> Frame:
    """The supports by the rules; faults where they name nothing."""
    springs = np.full((len(frame.supports), 2), np.inf)
    assert building.axes is not None
    faults = []
    for i, rule in enumerate(building.supports):
        try:
            chosen = feet_named(building.axes, frame, rule.at)
        except ValueError as error:
            faults.append(Fault(f"supports[{i}].at", str(error)))
            continue
        springs[chosen] = np.inf if rule.hold == "fixed" else \
            (rule.rotation_x or 0.0, rule.rotation_y or 0.0)
    if faults:
        raise InputError(faults)
    return replace(frame, springs=springs)
