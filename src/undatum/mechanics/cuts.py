"""What acts at sections of walls: sums of the forces of panels on one side of a cut.

A section takes the corner forces of the panels on one side of it, so that it is in equilibrium
with everything beyond: sums of sections are exact, however coarse the panels are; the part of one
wall, where walls share the corners of a cut, is as good as the panels.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.layout.frame import Frame
from undatum.layout.panels import CLOSE, Panels, WallRun
from undatum.layout.wall_flanges import WallFlange, wall_flanges
from undatum.mechanics.panels import shells_of
from undatum.record import record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
WHOLE = "whole wall"
FLANGED = "with flanges"
PartKind = Literal["whole", "segment", "coupling beam", "core", "flanged"]


@record
class Section:
    """A section: of which ``wall`` (or core), which ``part`` of it and of what kind, in which
    ``story`` (the level at its top), ``at`` its foot or head, or the start or end of a coupling
    beam. ``place`` (3,) is what moments are about, m, ``axes`` (3, 3) unit vectors of its
    components as rows: along the part, along y and z across it. ``panels`` (k,) and ``corners``
    (k, 2) give what is summed, ``before`` whether those lie on the side of the start; ``shares``
    (k,) by how much each counts, where not in full."""

    wall: str
    part: str
    kind: PartKind
    story: int
    at: str
    place: Floats
    axes: Floats
    panels: Ints
    corners: Ints
    before: bool
    shares: Floats | None = None


def wall_sections(frame: Frame) -> tuple[Section, ...]:
    """Sections of every wall, of its segments and coupling beams, top down in each."""
    return frame.memo.get("wall sections", lambda: tuple(_wall_sections(frame)))


def core_sections(frame: Frame) -> tuple[Section, ...]:
    """Sections of every core: all its walls at the foot and head of a story, about the center of
    their area there."""
    return frame.memo.get("core sections", lambda: tuple(_core_sections(frame)))


def _wall_sections(frame: Frame) -> list[Section]:
    panels = frame.panels
    found: list[Section] = []
    if panels is None:
        return found
    for w, run in enumerate(panels.walls):
        mine = np.flatnonzero(panels.wall == w)
        for place, story in enumerate(run.stories):
            own = mine[panels.story[mine] == story]
            low, high = run.reach[place]
            found += _level_pair(panels, run, WHOLE, "whole", story, own, (0.0, run.length), low,
                                 high)
            if run.holes[place]:
                found += _segments(panels, run, place, story, own)
                found += _beams(panels, run, place, story, mine)
    return [*found, *_flanged(panels, found)]


def _flanged(panels: Panels, found: Sequence[Section]) -> list[Section]:
    """Walls that ask for it with what meets them, as far as it is effective, about the center of
    that area; a panel that the width cuts counts by its part of it."""
    every = {(s.wall, s.story, s.at): s for s in found if s.kind == "whole"}
    made: dict[tuple[str, int, str], list[WallFlange]] = {}
    for one in wall_flanges(panels):
        made.setdefault((panels.walls[one.web].name, one.story, one.at), []).append(one)
    sections = []
    for key, flanges in made.items():
        web = every[key]
        parts, shares = [web], [np.ones(len(web.panels))]
        area = [_area(panels.walls[flanges[0].web], web.story)]
        middle = [web.place]
        for one in flanges:
            run = panels.walls[one.wall]
            own = every[run.name, one.story, one.at]
            low, high = panels.box[own.panels, 0], panels.box[own.panels, 1]
            parts.append(own)
            shares.append(np.clip((np.minimum(high, one.high) - np.maximum(low, one.low))
                                  / (high - low), 0.0, 1.0))
            area.append((one.high - one.low) * run.thickness[run.stories.index(one.story)])
            middle.append(np.array([*(run.start + run.along * (one.low + one.high) / 2),
                                    web.place[2]]))
        share = np.concatenate(shares)
        sections.append(replace(
            web, part=FLANGED, kind="flanged", place=np.array(area) @ np.array(middle) / sum(area),
            panels=np.concatenate([p.panels for p in parts])[share > 0],
            corners=np.concatenate([p.corners for p in parts])[share > 0],
            shares=share[share > 0]))
    return sections


def _upright(run: WallRun) -> Floats:
    """Up the wall, along it, and what is left."""
    along = np.array([*run.along, 0.0])
    up = np.array([0.0, 0.0, 1.0])
    return np.array([up, along, np.cross(up, along)])


def _level_pair(
    panels: Panels, run: WallRun, part: str, kind: PartKind, story: int, own: Ints,
    reach: tuple[float, float], low: float, high: float,
) -> list[Section]:
    """Sections at the foot and at the head of a part."""
    box, found = panels.box[own], []
    inside = (box[:, 0] > reach[0] - CLOSE) & (box[:, 1] < reach[1] + CLOSE)
    middle = run.start + run.along * (reach[0] + reach[1]) / 2
    for word, z, edge, corners in (("head", high, 3, (2, 3)), ("foot", low, 2, (0, 1))):
        chosen = own[inside & (np.abs(box[:, edge] - z) < 10 * CLOSE)]
        found.append(Section(
            run.name, part, kind, story, word, np.array([*middle, z]), _upright(run), chosen,
            np.tile(corners, (len(chosen), 1)), word == "head"))
    return found


def _segments(
    panels: Panels, run: WallRun, place: int, story: int, own: Ints
) -> list[Section]:
    """Sections of what stands between openings, over the height that they have in common."""
    found: list[Section] = []
    for n, (a, b) in enumerate(run.segments(place), 1):
        beside = [h for h in run.holes[place] if abs(h[1] - a) < CLOSE or abs(h[0] - b) < CLOSE]
        low, high = max(h[2] for h in beside), min(h[3] for h in beside)
        if high - low > CLOSE:
            found += _level_pair(panels, run, f"segment {n}", "segment", story, own, (a, b), low,
                                 high)
    return found


def _beams(
    panels: Panels, run: WallRun, place: int, story: int, mine: Ints
) -> list[Section]:
    """Sections of what stands over openings: up to the level, or to an opening above it."""
    found: list[Section] = []
    along = np.array([*run.along, 0.0])
    up = np.array([0.0, 0.0, 1.0])
    axes = np.array([along, up, np.cross(up, along)])
    above = [h for k, reach in enumerate(run.reach)
             if abs(reach[0] - run.reach[place][1]) < CLOSE for h in run.holes[k]]
    for n, hole in enumerate(run.holes[place], 1):
        top = max([run.reach[place][1], *(
            h[2] for h in above if h[0] < hole[1] - CLOSE and h[1] > hole[0] + CLOSE)])
        if top - hole[3] < CLOSE:
            continue
        box = panels.box[mine]
        level = (box[:, 2] > hole[3] - CLOSE) & (box[:, 3] < top + CLOSE)
        for word, s, edge, corners in (("start", hole[0], 0, (0, 3)), ("end", hole[1], 1, (1, 2))):
            chosen = mine[level & (np.abs(box[:, edge] - s) < 10 * CLOSE)]
            if len(chosen):
                found.append(Section(
                    run.name, f"over opening {n}", "coupling beam", story, word,
                    np.array([*(run.start + run.along * s), (hole[3] + top) / 2]), axes, chosen,
                    np.tile(corners, (len(chosen), 1)), word == "end"))
    return found


def _core_sections(frame: Frame) -> list[Section]:
    panels, found = frame.panels, []
    if panels is None:
        return []
    every = {(s.wall, s.story, s.at): s for s in wall_sections(frame) if s.kind == "whole"}
    axes = np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]])
    for core, walls in panels.cores.items():
        stories = sorted({i for w in walls for i in panels.walls[w].stories})
        for story in stories:
            for word in ("head", "foot"):
                own = [every[panels.walls[w].name, story, word] for w in walls
                       if story in panels.walls[w].stories]
                area = np.array([_area(panels.walls[w], story) for w in walls
                                 if story in panels.walls[w].stories])
                place = area @ np.array([s.place for s in own]) / area.sum()
                found.append(Section(
                    core, core, "core", story, word, place, axes,
                    np.concatenate([s.panels for s in own]),
                    np.concatenate([s.corners for s in own]), word == "head"))
    return found


def _area(run: WallRun, story: int) -> float:
    return run.length * run.thickness[run.stories.index(story)]


def section_rows(frame: Frame, sections: Sequence[Section]) -> sparse.csr_array:
    """(6 k, 6 M) axial force, two shears, torsion and two moments of every section from the motion
    of the nodes, in its axes: the action of the part towards the end (or above) on the other."""
    shells, panels = shells_of(frame), frame.panels
    assert shells is not None
    assert panels is not None
    which = np.repeat(np.arange(len(sections)), [2 * len(s.panels) for s in sections])
    element = np.concatenate([np.repeat(s.panels, 2) for s in sections])
    corner = np.concatenate([s.corners.ravel() for s in sections])
    at = panels.nodes[element, corner]
    six = 6 * corner[:, None] + np.arange(6)
    forces = shells.matrices[shells.which[element]][np.arange(len(element))[:, None], six]
    if any(s.shares is not None for s in sections):
        forces = forces * np.concatenate([
            np.repeat(np.ones(len(s.panels)) if s.shares is None else s.shares, 2)
            for s in sections])[:, None, None]
    columns = shells.at[element]
    parts = [_summed(frame, sections, which, at, forces, columns)]
    if len(panels.links):
        parts.append(_of_links(frame, panels, sections, shells.links, shells.link_at))
    total = parts[0]
    for one in parts[1:]:
        total = sparse.csr_array(total + one)
    return total


def weight_beyond(frame: Frame, sections: Sequence[Section]) -> Floats:
    """(6 k,) what sections gain where panels weigh: their weight is put to their corners, and what
    a panel beside a cut puts to the cut acts on its own side of it."""
    panels = frame.panels
    assert panels is not None
    which = np.repeat(np.arange(len(sections)), [2 * len(s.panels) for s in sections])
    element = np.concatenate([np.repeat(s.panels, 2) for s in sections])
    at = panels.nodes[element, np.concatenate([s.corners.ravel() for s in sections])]
    share = np.concatenate([np.repeat(np.ones(len(s.panels)) if s.shares is None else s.shares, 2)
                            for s in sections])
    up = np.zeros((len(at), 6, 1))
    up[:, 2, 0] = share * panels.weights[element] / 4
    column = np.zeros((len(at), 1), dtype=np.intp)
    return _summed(frame, sections, which, at, up, column)[:, [0]].toarray().ravel()


def _summed(
    frame: Frame, sections: Sequence[Section], which: Ints, at: Ints, forces: Floats, columns: Ints
) -> sparse.csr_array:
    """Forces (k, 6, c) on parts at nodes (k,), from freedoms (k, c), summed section by section."""
    axes = np.array([s.axes for s in sections])[which]
    place = np.array([s.place for s in sections])[which]
    sign = np.where([s.before for s in sections], 1.0, -1.0)[which]
    arm = frame.points[at] - place
    cross = np.zeros((len(at), 3, 3))
    cross[:, 0, 1], cross[:, 0, 2] = -arm[:, 2], arm[:, 1]
    cross[:, 1, 0], cross[:, 1, 2] = arm[:, 2], -arm[:, 0]
    cross[:, 2, 0], cross[:, 2, 1] = -arm[:, 1], arm[:, 0]
    turn = np.zeros((len(at), 6, 6))
    turn[:, :3, :3] = turn[:, 3:, 3:] = axes
    turn[:, 3:, :3] = axes @ cross
    values = sign[:, None, None] * (turn @ forces)
    rows = 6 * which[:, None] + np.arange(6)
    count = columns.shape[1]
    return sparse.csr_array(
        (values.ravel(), (np.repeat(rows, count, axis=1).ravel(),
                          np.tile(columns, (1, 6)).ravel())),
        shape=(6 * len(sections), 6 * len(frame.points)))


def _of_links(
    frame: Frame, panels: Panels, sections: Sequence[Section], links: Floats, link_at: Ints
) -> sparse.csr_array:
    """What goes through the rigid sides of walls where beams frame in, across level sections."""
    by_end: tuple[dict[int, list[int]], dict[int, list[int]]] = ({}, {})
    for e, pair in enumerate(panels.links.tolist()):
        low, high = sorted((0, 1), key=lambda k: frame.points[pair[k], 2])
        by_end[0].setdefault(pair[low], []).append(e)
        by_end[1].setdefault(pair[high], []).append(e)
    which, at, ends, elements = [], [], [], []
    members = {core: tuple(panels.walls[w].name for w in own) for core, own in panels.cores.items()}
    owner = [panels.walls[int(w)].name for w in panels.link_size[:, 3]]
    for k, s in enumerate(sections):
        if s.at not in ("foot", "head"):
            continue
        nodes = np.unique(panels.nodes[np.repeat(s.panels, 2), s.corners.ravel()])
        for node in nodes.tolist():
            for e in by_end[1 if s.before else 0].get(node, ()):
                if owner[e] not in (s.wall, *members.get(s.wall, ())):
                    continue
                which.append(k)
                at.append(node)
                ends.append(panels.links[e].tolist().index(node))
                elements.append(e)
    shape = (6 * len(sections), 6 * len(frame.points))
    if not which:
        return sparse.csr_array(shape)
    six = 6 * np.array(ends)[:, None] + np.arange(6)
    forces = links[elements][np.arange(len(elements))[:, None], six]
    return _summed(frame, sections, np.array(which), np.array(at), forces,
                   link_at[np.array(elements)])


@record
class Heads:
    """Every wall story by story at its head: the wall (w,) and the level at its top (w,), and the
    rows (w, 3, D) of its shear along X and Y and of its moment about the vertical axis."""

    wall: Ints
    story: Ints
    rows: Floats


def wall_heads(frame: Frame, applied: Callable[[sparse.csr_array], Floats]) -> Heads:
    """What walls take, in the axes of the plan; ``applied`` turns rows on the nodes (k, 6 M) to
    rows on the floors (k, D)."""
    chosen = [s for s in wall_sections(frame) if s.kind == "whole" and s.at == "head"]
    panels = frame.panels
    assert panels is not None
    names = [w.name for w in panels.walls]
    rows = applied(section_rows(frame, chosen)).reshape(len(chosen), 6, -1)
    axes = np.array([s.axes for s in chosen])
    plan = np.einsum("sij,sid->sjd", axes, rows[:, :3])[:, :2]
    return Heads(np.array([names.index(s.wall) for s in chosen]),
                 np.array([s.story for s in chosen]),
                 np.concatenate([plan, rows[:, 3:4]], axis=1))
