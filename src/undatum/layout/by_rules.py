"""From rules to members: what stands where, made, changed and removed in the order of the rules."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray

from undatum.building.families import XY
from undatum.building.naming import known_names, selection
from undatum.building.placed import Placed
from undatum.building.rules import MemberRule
from undatum.errors import Fault, InputError, guess
from undatum.layout.dividing import Divider
from undatum.layout.draft import Key, Made
from undatum.layout.frame import Frame
from undatum.layout.panels import CLOSE
from undatum.layout.points import by_points
from undatum.layout.wall_lines import lay_walls, outside, within

if TYPE_CHECKING:
    from undatum.building.axes import Axes
    from undatum.building.plain import PlainBuilding


@dataclass(slots=True)
class _Maker:
    building: PlainBuilding
    axes: Axes
    names: list[str]
    made: dict[Key, Made] = field(default_factory=dict)
    transfer: set[tuple[XY, int]] = field(default_factory=set)
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
            filled = [name for name in sections or () if name is not None
                      and self.building.sections[name].infill is not None]
            if rule.kind == "brace" and filled and rule.pattern not in ("rising", "falling"):
                raise ValueError(f"{filled[0]!r} is an infill, for which one strut a bay stands; "
                                 'write pattern = "rising" or "falling"')
            if rule.ends is not None:
                self._known_section(rule.ends.section)
        except ValueError as error:
            self.faults.append(Fault(place, str(error)))
            return
        if rule.section is None or rule.remove:  # it changes or removes what is there
            named = {key for key, _ in found}
            bays = {key[:5] for key in named}
            found = [(key, one) for key, one in self.made.items()
                     if self._meant(key, one, rule, named, bays, set(levels), on=chosen.on)]
        if rule.remove:
            self._remove([key for key, _ in found], keep_transfer=rule.transfer)
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
            one.take(rule)

    def _remove(self, gone: Sequence[Key], *, keep_transfer: bool) -> None:
        """Take members out; columns above may stand on beams where that is consented to."""
        for key in gone:
            if keep_transfer:
                self.transfer.add((self.made[key].start, self.made[key].level))
            del self.made[key]

    def place(self, i: int, one: Placed) -> None:
        """A member by the coordinates of its ends."""
        place = f"placed[{i}]"
        try:
            self._known_section(one.section)
            found = by_points(self.building, self.axes, self.names, one)
        except ValueError as error:
            self.faults.append(Fault(f"{place} {one.name!r}", str(error)))
            return
        if one.transfer:
            self.transfer.add((found[-1][1].start, found[-1][1].low))
        for key, made in found:
            if key in self.made:
                self.faults.append(Fault(place, f"{one.name!r} stands where "
                                         f"{self.made[key].given or self.made[key].place} does",
                                         "take one of them out"))
                return
            made.place = place
            self.made[key] = made

    def _meant(
        self, key: Key, one: Made, rule: MemberRule, found: Collection[Key], bays: Collection[Key],
        levels: set[int], *, on: str,
    ) -> bool:
        """Whether a rule that makes nothing means a member that is there."""
        if key in found:
            return True
        if rule.kind == "brace" and one.kind == "brace":  # of any pattern in its bays
            return rule.pattern is None and key[:5] in bays
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
            raise ValueError(f"{name!r} is not among the sections; " + (
                guess(name, self.building.sections) or "describe it under building.sections"))

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
            every = list(self.axes.crossing_names)
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
                                 f"along {self.building.plane}; name one that runs along it")
            axes = [a for a in axes if a in within]
        for axis in axes:
            reach = self.axes.stretch(axis, low, high) if low else (-np.inf, np.inf)
            for a, b in self.axes.bays(axis):
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
            raise ValueError("the line has no length; give two points that lie apart")
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


def make_frame(building: PlainBuilding) -> Frame | None:
    """The members of a building; ``None`` where it has none. Raises InputError with every fault."""
    if not building.has_members:
        return None
    laid = lay_walls(building)
    if building.axes is None and building.members:
        raise InputError([Fault("axes", "is missing", "rules choose members by axes; give across_x "
                                "and across_y, or rays and rings, or members by coordinates")])
    maker = _Maker(building, building.grid, [level.name for level in building.levels])
    for i, one in enumerate(building.placed):
        maker.place(i, one)
    for i, rule in enumerate(building.members):
        maker.apply(i, rule)
    if maker.faults:
        raise InputError(maker.faults)
    made = [m for m in maker.made.values() if m.kind != "beam" or not within(
        laid, m.level, m.start, m.end)]
    for m in made if laid else ():
        if m.kind == "beam":
            m.start, m.end = outside(laid, m.level, m.start, m.end)
    return Divider(building, building.grid, made, maker.transfer, laid,
                   len(maker.made) - len(made)).frame()
