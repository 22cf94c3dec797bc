"""Flanges by the standard: slab beside beams, and walls that work with a wall they meet."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import LineString, Point

from undatum.errors import Fault, InputError
from undatum.layout.bays import Floor
from undatum.layout.dividing import to_face
from undatum.layout.frame import Frame, Member
from undatum.layout.whole import Building
from undatum.project.cracking import BY_STANDARD
from undatum.record import FixedDict
from undatum.standards import AnyStandard
from undatum.standards.flanges import RULES, WALL_RULES, BesideBeam, EffectiveWidth
from undatum.table import Table, column

Floats = NDArray[np.float64]
Row = tuple[Member, BesideBeam, EffectiveWidth | None]
_FAR = 1e3  # m, beyond any floor
_READ_AT = 0.45  # share of the span where the slab beside is read, off beams that meet the middle


def flanged_building(standard: AnyStandard, building: Building) -> Building:
    """The building with the effective width of every beam whose section has a flange.

    A beam that ends in the air keeps its web alone. Raises InputError where the standard has no
    rule.
    """
    if faults := flange_faults(standard, building):
        raise InputError(faults)
    if any(w.flanges == BY_STANDARD for w in building.walls):
        building = building.model_copy(update={"walls": tuple(
            w.model_copy(update={"flanges": standard.concrete}) if w.flanges == BY_STANDARD else w
            for w in building.walls)})
    if not any(s.flange for s in building.sections.values()) or building.frame is None:
        return building
    own = building.flange_widths
    found = {m.name: width.width for m, _, width in _widths(standard, building, building.frame)
             if width is not None and m.name not in own}
    return building.model_copy(update={"flange_widths": FixedDict({**found, **own})})


def _widths(standard: AnyStandard, building: Building, frame: Frame) -> list[Row]:
    """Every beam with its width by the section or the standard; ``None`` keeps the web alone."""
    rule = RULES.get(standard.concrete)
    floors: dict[str, Floor] = {}
    order = [level.name for level in building.levels]
    found: list[Row] = []
    for m in frame.members:
        flange = building.sections[m.section].flange
        if m.kind != "beam" or flange is None:
            continue
        if m.level not in floors:
            floors[m.level] = Floor(frame, order.index(m.level))
        one, free = _beside(building, frame, m, floors[m.level], order.index(m.level))
        given = flange.width if flange.width is not None else \
            building.flange_widths.get(m.name)
        width: EffectiveWidth | None = None
        if given is not None:
            width = EffectiveWidth(given, "", "as given")
        elif not free:
            assert rule is not None  # see flange_faults
            width = rule(one)
        found.append((m, one, width))
    return found


def _beside(
    building: Building, frame: Frame, m: Member, floor: Floor, level: int
) -> tuple[BesideBeam, bool]:
    """A beam with the slab on either side, and whether an end of it rests on nothing."""
    section = building.sections[m.section]
    assert section.flange is not None
    assert section.rectangle is not None
    web = section.rectangle[0]
    start, end = np.array(m.start[:2]), np.array(m.end[:2])
    axis = frame.axes[m.elements[0], 0]
    u = axis[:2]
    faces, goes_on, free = 0.0, 0, False
    for node, inward in ((frame.ends[m.elements[0], 0], u), (frame.ends[m.elements[-1], 1], -u)):
        others = [e for e in np.flatnonzero((frame.ends == node).any(axis=1)).tolist()
                  if e not in m.elements]
        free |= not others
        faces += max((to_face(frame, e, axis) for e in others
                      if frame.members[frame.member[e]].kind == "column"), default=0.0)
        goes_on += any(_straight_on(frame, e, node, inward) for e in others)
    at = start + _READ_AT * (end - start)
    left, right = (_slab(building, frame, m, floor, level, at, n, web)
                   for n in (np.array([-u[1], u[0]]), np.array([u[1], -u[0]])))
    return BesideBeam(m.length, m.length - faces, goes_on, web, section.flange.thickness, left,
                      right), free


def _straight_on(frame: Frame, e: int, node: int, inward: Floats) -> bool:
    """Whether a beam that meets another at a node goes on in its line."""
    x = frame.axes[e, 0, :2] * (1 if frame.ends[e, 0] == node else -1)
    return frame.members[frame.member[e]].kind == "beam" and float(x @ inward) < -1 + 1e-6


def _slab(
    building: Building, frame: Frame, m: Member, floor: Floor, level: int, at: Floats, n: Floats,
    web: float,
) -> float:
    """Slab on one side: half the clear distance to the next beam, or all of it to the edge."""
    r, d = floor.along, floor.start - at
    with np.errstate(divide="ignore", invalid="ignore"):  # beams along the ray meet it nowhere
        cross = n[0] * r[:, 1] - n[1] * r[:, 0]
        away = (d[:, 0] * r[:, 1] - d[:, 1] * r[:, 0]) / cross
        along = (d[:, 0] * n[1] - d[:, 1] * n[0]) / cross
    met = (np.abs(cross) > 1e-9) & (away > 1e-6) & (along > -1e-6) \
        & (along < floor.length + 1e-6) & (frame.member[floor.elements] != frame.member[
            m.elements[0]])
    ray = LineString([at, at + _FAR * n]).intersection(building.outline(level).polygon)
    parts = [g for g in getattr(ray, "geoms", [ray]) if g.length and g.distance(Point(at)) < 1e-6]
    edge = float(parts[0].length) if parts else 0.0
    next_one = int(np.argmin(np.where(met, away, np.inf)))
    if met[next_one] and away[next_one] <= edge + 1e-9:
        other: float = frame.sections[frame.section[floor.elements[next_one]]].width
        return max((float(away[next_one]) - (web + other) / 2) / 2, 0.0)
    return max(edge - web / 2, 0.0)


def flange_faults(standard: AnyStandard, building: Building) -> list[Fault]:
    """Flanges by a standard that has no rule, and widths of beams that are not there."""
    concrete = standard.concrete
    asked = [name for name, s in building.sections.items() if s.flange and s.flange.width is None]
    found = []
    if asked and concrete not in RULES:
        title = standard.title
        found += [Fault(f"building.sections.{name}.flange.width",
                        f"is missing, and {title} has no rule for it", "give the effective width")
                  for name in asked]
    if concrete not in WALL_RULES:
        found += [Fault(f"building.walls[{i}].flanges",
                        f"{standard.title} leads to no rule for flanges of walls", 'give the width '
                        f'on either side, or name a standard: {", ".join(WALL_RULES)}')
                  for i, wall in enumerate(building.walls) if wall.flanges == BY_STANDARD]
    return found


def flanges_table(standard: AnyStandard, building: Building) -> Table:
    """Effective width of every beam in one piece with the slab, and what it comes from."""
    frame = building.frame
    assert frame is not None
    rows = _widths(standard, building, frame)
    concrete = standard.concrete
    said: Mapping[bool, str] = {True: "ends in the air: the web alone", False: ""}
    return Table(
        "flanges", "Beams in one piece with the slab",
        (
            column("beam", "", [m.name for m, *_ in rows]),
            column("section", "", [m.section for m, *_ in rows]),
            column("length", "length", [s.length for _, s, _ in rows]),
            column("clear length", "length", [s.clear for _, s, _ in rows]),
            column("goes on over", "", [f"{s.continues} of 2 ends" for _, s, _ in rows]),
            column("slab on the left", "length", [s.left for _, s, _ in rows]),
            column("slab on the right", "length", [s.right for _, s, _ in rows]),
            column("effective width", "length", [None if w is None else w.width for *_, w in rows]),
            column("clause", "", [f"{concrete}, {w.clause}" if w and w.clause else ""
                                  for *_, w in rows]),
            column("why", "", [said[True] if w is None else w.reason for *_, w in rows]),
        ),
        note="Slab is half the clear distance to the next beam, or all of it to an edge. The "
        "flange counts in bending under vertical loads; area, weight and bending sideways are "
        "those of the web.",
    )
