"""Walls laid out in their stories with their openings, and what is wrong with them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import TYPE_CHECKING, Any

import numpy as np
from shapely.geometry import LineString, Polygon

from undatum.building.families import XY
from undatum.building.materials import SHIPPED
from undatum.building.naming import known_names
from undatum.building.walls import Opening, Wall
from undatum.errors import Fault, InputError, guess
from undatum.layout.panels import CLOSE, Hole, WallRun
from undatum.units import said

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

NARROW = 0.05  # m: strips of a wall beside an opening that are narrower are slips
GAP = 0.1  # m: walls that all but meet
BESIDE = 0.5  # m: a wall this near to the edge of a floor belongs to it
OVER = 4  # panels at least over the depth and along what stands over an opening


@dataclass(slots=True, eq=False)
class Laid:
    """A wall in the making."""

    place: str
    wall: Wall
    run: WallRun
    size: float
    stops: set[float] = field(default_factory=set)
    fine: list[tuple[float, float, float]] = field(default_factory=list)
    corners: dict[float, float] = field(default_factory=dict)  # and what stands over the opening

    def at(self, s: float) -> XY:
        """The plan point at a distance from the start."""
        a, b, t = self.run.start, self.run.end, s / self.run.length
        if t < 1e-12 or t > 1 - 1e-12:  # ends to the last digit
            return a if t < 0.5 else b
        return a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])

    def local(self, p: XY) -> tuple[float, float]:
        """Distance of a plan point from the start along the wall, and across it."""
        d, u = np.subtract(p, self.run.start), self.run.along
        return float(d @ u), float(u[0] * d[1] - u[1] * d[0])

    def holds(self, p: XY) -> float | None:
        """How far along the wall a plan point lies on it; nothing where it does not."""
        s, across = self.local(p)
        on = abs(across) < 10 * CLOSE and -10 * CLOSE < s < self.run.length + 10 * CLOSE
        return min(max(s, 0.0), self.run.length) if on else None


def lay_walls(building: PlainBuilding) -> tuple[Laid, ...]:
    """Every wall in its stories with its openings. Raises InputError with every fault."""
    names = [level.name for level in building.levels]
    faults: list[Fault] = []
    found: list[Laid] = []
    for i, wall in enumerate(building.walls):
        try:
            found.append(_lay(building, names, f"walls[{i}]", wall))
        except InputError as error:
            faults += error.faults
    taken = [one.name for one in building.walls]
    faults += [Fault(f"walls[{i}].name", f"{name!r} stands twice", "name them apart")
               for i, name in enumerate(taken) if name in taken[:i]]
    if not faults:
        faults = [*_overlaps(building, found), *_core_faults(building, found)]
    if faults:
        raise InputError(faults)
    return tuple(found)


def _lay(building: PlainBuilding, names: list[str], place: str, wall: Wall) -> Laid:
    upwards = names[:-1][::-1]
    start, end = (_point(building, place, p) for p in wall.between)
    if np.hypot(end[0] - start[0], end[1] - start[1]) < 10 * NARROW:
        raise InputError([Fault(f"{place}.between", f"wall {wall.name!r} is shorter than "
                                f"{said(10 * NARROW)}", "give it two ends that lie apart, or make "
                                "it a column")])
    stories = _levels(f"{place}.levels", wall.levels, upwards, names)
    if wall.levels.strip() == "all" and len(set(building.below)) < len(names) - 1:
        stories = _own_chain(building, place, wall, start, end, stories)
    stories.sort(key=lambda i: -building.elevations[i])
    if building.plane is not None and abs(
            (end[1] - start[1]) if building.plane == "X" else (end[0] - start[0])) > CLOSE:
        raise InputError([Fault(f"{place}.between", f"wall {wall.name!r} leaves the plane of the "
                                f"building, which runs along {building.plane}",
                                "take it out, or leave building.plane out")])
    thickness = by_level(f"{place}.thickness", wall.thickness, stories, upwards, names)
    strength = [np.nan] * len(stories) if wall.strength is None else by_level(
        f"{place}.strength", wall.strength, stories, upwards, names)
    material = by_level(f"{place}.material", wall.material, stories, upwards, names)
    known = [*building.materials, *SHIPPED]
    for name in dict.fromkeys(material):
        if name not in known:
            raise InputError([Fault(f"{place}.material", f"{name!r} is not among the materials",
                                    guess(name, known) or f"known: {', '.join(known)}")])
    reach = tuple((building.elevations[building.below[i]], building.elevations[i])
                  for i in stories)
    length = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    if max(thickness) > length:
        raise InputError([Fault(f"{place}.thickness", f"wall {wall.name!r} is "
                                f"{said(max(thickness))} thick and {said(length)} long",
                                "are they swapped?")])
    holes = _holes(building, place, wall, stories, length, reach, upwards, names)
    run = WallRun(wall.name, start, end, tuple(stories), tuple(thickness),
                  tuple(building.material(name).unit_weight for name in material), reach, holes,
                  tuple(strength), wall.flanges)
    laid = Laid(place, wall, run, wall.mesh or building.wall_mesh, {0.0, length})
    for own in holes:
        for low, high, *_ in own:
            laid.stops |= {low, high}
            laid.fine.append((low, high, (high - low) / OVER))
    for i in range(len(stories)):
        # a segment between two openings bends like a column
        laid.fine += [(a, b, (b - a) / OVER) for a, b in run.segments(i)
                      if a > 0 and b < length]
    return laid


def _own_chain(
    building: PlainBuilding, place: str, wall: Wall, start: XY, end: XY, stories: Sequence[int]
) -> list[int]:
    """Of floors side by side those whose outline holds a wall that names no levels."""
    line = LineString([start, end])
    found = [i for i in stories
             if Polygon(building.outline(i).polygon.exterior).buffer(BESIDE).covers(line)]
    if not found:
        raise InputError([Fault(f"{place}.levels", f"wall {wall.name!r} names no levels, and no "
                                "outline holds all of it", "name its levels, or extend an "
                                "outline")])
    return found


def _point(building: PlainBuilding, place: str, at: str | XY) -> XY:
    try:
        return building.place(at)
    except ValueError as error:
        raise InputError([Fault(f"{place}.between", str(error))]) from None


def _levels(place: str, text: str, upwards: list[str], names: list[str]) -> list[int]:
    try:
        chosen = upwards if text.strip() == "all" else known_names(text, upwards, "levels")
    except ValueError as error:
        raise InputError([Fault(place, str(error))]) from None
    return [names.index(name) for name in chosen]


def by_level(place: str, given: object, stories: Sequence[int], upwards: list[str],
              names: list[str]) -> list[Any]:
    """What holds in each story of one value, or of a table by ranges of levels."""
    if not isinstance(given, Mapping):
        return [given] * len(stories)
    by: dict[int, object] = {}
    for text, value in given.items():
        by |= dict.fromkeys(_levels(place, text, upwards, names), value)
    missing = [names[i] for i in stories if i not in by]
    if missing:
        raise InputError([Fault(place, f"says nothing of {missing[-1]}"
                                + (f" and {len(missing) - 1} more stories" if missing[1:] else ""),
                                "name a range that holds it")])
    return [by[i] for i in stories]


def _holes(
    building: PlainBuilding, place: str, wall: Wall, stories: Sequence[int], length: float,
    reach: Sequence[tuple[float, float]], upwards: list[str], names: list[str],
) -> tuple[tuple[Hole, ...], ...]:
    found: list[list[Hole]] = [[] for _ in stories]
    faults: list[Fault] = []
    for j, one in enumerate(wall.openings):
        at = f"{place}.openings[{j}]"
        try:
            named = list(stories) if one.at.strip() == "all" else _levels(
                f"{at}.at", one.at, upwards, names)
        except InputError as error:
            faults += error.faults
            continue
        for i in sorted(named, key=lambda i: building.elevations[i]):
            if i not in stories:
                faults.append(Fault(f"{at}.at", f"wall {wall.name!r} does not stand in the story "
                                    f"of {names[i]}", "name stories of the wall"))
                break
            k = list(stories).index(i)
            fault = _hole_fault(at, wall, one, length, reach[k], names[i], found[k])
            if fault is not None:
                faults.append(fault)
                break
            low = reach[k][0] + one.sill
            top = min(low + one.height, reach[k][1])
            found[k].append((_snapped(one.from_start, length),
                             _snapped(one.from_start + one.width, length), low, top))
    if not faults:
        faults = [Fault(f"{place}.openings", f"leave nothing of wall {wall.name!r} in the story of "
                        f"{names[i]} between {said(low)} and {said(high)} above its floor, so that "
                        "what is over them stands on nothing", "leave a pier, or the story out of "
                        "the wall, and make the strip a beam")
                  for i, (bottom, _), own in zip(stories, reach, found, strict=True)
                  for low, high in [_cut_through(own, length, bottom)] if high > low][:1]
    if faults:
        raise InputError(faults)
    return tuple(tuple(sorted(own)) for own in found)


def _cut_through(holes: Sequence[Hole], length: float, bottom: float) -> tuple[float, float]:
    """Heights above the floor between which openings take all of a wall; equal where none do."""
    for low, high in pairwise(sorted({z for hole in holes for z in hole[2:]})):
        at = 0.0
        for hole in sorted(h for h in holes if h[2] < (low + high) / 2 < h[3]):
            if hole[0] - at > CLOSE:
                break
            at = max(at, hole[1])
        if length - at <= CLOSE:
            return low - bottom, high - bottom
    return 0.0, 0.0


def _snapped(s: float, length: float) -> float:
    return 0.0 if s < CLOSE else length if s > length - CLOSE else s


def _hole_fault(
    at: str, wall: Wall, one: Opening, length: float, reach: tuple[float, float], level: str,
    others: Sequence[Hole],
) -> Fault | None:
    """What is wrong with an opening in one story."""
    end, height = one.from_start + one.width, reach[1] - reach[0]
    if end > length + CLOSE:
        return Fault(at, f"reaches {said(end)} from the start of wall {wall.name!r}, which is "
                     f"{said(length)} long", "move it, or make it narrower")
    if one.sill + one.height > height + CLOSE:
        return Fault(at, f"reaches {said(one.sill + one.height)} above the floor in the story of "
                     f"{level}, which is {said(height)} high", "make it lower, or name other "
                     "stories")
    if one.width > length - CLOSE and one.height > height - CLOSE:
        return Fault(at, f"leaves nothing of wall {wall.name!r} in the story of {level}",
                     "leave the story out of the wall")
    for strip, word in ((one.from_start, "the start of the wall"), (length - end, "its end")):
        if CLOSE < strip < NARROW:
            return Fault(at, f"leaves a strip of {said(strip)} at {word}",
                         "move the opening to the edge or further away")
    for strip, word in ((one.sill, "under"), (height - one.sill - one.height, "over")):
        if CLOSE < strip < NARROW:
            return Fault(at, f"leaves a strip of {said(strip)} {word} it in the story of {level}",
                         "let it reach the floor, or leave more")
    base = reach[0] + one.sill
    for low, high, bottom, top in others:
        apart = max(one.from_start - high, low - end, base - top, bottom - base - one.height)
        if apart < -CLOSE:
            return Fault(at, f"overlaps another opening in the story of {level}",
                         "move one of them, or make one of both")
        if CLOSE < apart < NARROW:
            return Fault(at, f"leaves a strip of {said(apart)} to another opening in the story of "
                         f"{level}", "move them apart, or make one of both")
    return None


def _overlaps(building: PlainBuilding, laid: Sequence[Laid]) -> list[Fault]:
    """Walls that stand in each other, or all but meet."""
    faults = []
    for k, one in enumerate(laid):
        for other in laid[:k]:
            shared = set(one.run.stories) & set(other.run.stories)
            if not shared:
                continue
            (s0, a0), (s1, a1) = one.local(other.run.start), one.local(other.run.end)
            low, high = max(min(s0, s1), 0.0), min(max(s0, s1), one.run.length)
            inside = abs(a0) < NARROW and abs(a1) < NARROW
            if inside and high - low > NARROW:
                faults.append(Fault(
                    f"{one.place}.between", f"walls {one.run.name!r} and {other.run.name!r} stand "
                    f"in each other over {said(high - low)}", "end one where the other begins"))
                continue
            for own, near in ((one, other), (other, one)):
                for at in (own.run.start, own.run.end):
                    s, across = near.local(at)
                    gap = np.hypot(max(-s, 0.0, s - near.run.length), across)
                    if 10 * CLOSE < gap < GAP:
                        faults.append(Fault(
                            f"{own.place}.between", f"wall {own.run.name!r} ends "
                            f"{said(float(gap))} from wall {near.run.name!r}, and does not meet it",
                            "let it end on the line of the other, or further away"))
    return faults


def _core_faults(building: PlainBuilding, laid: Sequence[Laid]) -> list[Fault]:
    """Cores of walls that are not there, that hang apart, or are called closed and are not."""
    names = [one.run.name for one in laid]
    faults = []
    for core, members in building.cores.items():
        place = f"cores.{core}"
        if core in names:
            faults.append(Fault(place, f"{core!r} is the name of a wall", "name them apart"))
        for name in members:
            if name not in names:
                faults.append(Fault(place, f"{name!r} is not among the walls",
                                    guess(name, names) or f"known: {', '.join(names) or 'none'}"))
        twice = [name for k, name in enumerate(members) if name in members[:k]]
        faults += [Fault(place, f"{name!r} stands twice", "name it once") for name in twice]
        own = [laid[names.index(name)] for name in dict.fromkeys(members) if name in names]
        groups = joined(own)
        if len(groups) > 1:
            faults.append(Fault(place, f"its walls do not meet: {groups[1][0].run.name!r} stands "
                                f"apart from {groups[0][0].run.name!r}",
                                "let their ends meet, or make two cores of them"))
    elsewhere: dict[str, str] = {}
    for core, members in building.cores.items():
        for name in members:
            if name in elsewhere and elsewhere[name] != core:
                faults.append(Fault(f"cores.{core}", f"wall {name!r} is part of core "
                                    f"{elsewhere[name]!r} already", "name it in one core"))
            elsewhere.setdefault(name, core)
    return faults


def joined(laid: Sequence[Laid]) -> list[list[Laid]]:
    """Walls in groups that meet along lines."""
    groups: list[list[Laid]] = []
    for one in laid:
        near = [g for g in groups if any(meets(one, other) is not None for other in g)]
        for g in near:
            groups.remove(g)
        groups.append([*(w for g in near for w in g), one])
    return groups


def meets(one: Laid, other: Laid) -> XY | None:
    """Where two walls meet in plan, if they do and share a story or follow each other."""
    for own, near in ((one, other), (other, one)):
        for at in (own.run.start, own.run.end):
            if near.holds(at) is not None:
                return at
    crossing = one.run.crossing(other.run)
    return None if crossing is None else one.at(crossing[0])


def within(laid: Sequence[Laid], level: int, p: XY, q: XY) -> bool:
    """Whether a stretch at a level lies in a wall that stands below it; one under the foot of a
    wall carries it."""
    return any(level in one.run.stories and one.holds(p) is not None and one.holds(q) is not None
               for one in laid)


def outside(laid: Sequence[Laid], level: int, p: XY, q: XY) -> tuple[XY, XY]:
    """The part of a stretch at a level that lies before the end of a wall along it."""
    for one in laid:
        if level not in one.run.stories:
            continue
        ends = [p, q]
        for k in (0, 1):
            inner, outer = ends[k], ends[1 - k]
            s, t = one.holds(inner), one.local(outer)
            if s is not None and abs(t[1]) < 10 * CLOSE and CLOSE < s < one.run.length - CLOSE:
                ends[k] = one.run.start if t[0] < 0 else one.run.end
        p, q = ends
    return p, q
