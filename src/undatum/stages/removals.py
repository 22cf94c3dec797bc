"""Parts of the lateral system left out one by one: what that does to torsion and strength.

Lateral lines, walls and wall piers, braces, the moments at both ends of a beam and, where columns
stand by themselves, that at their base.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from undatum.building.lines import Cantilever, Line
from undatum.layout.frame import Frame, Member
from undatum.layout.panels import WallRun
from undatum.layout.whole import Building
from undatum.mechanics import lost
from undatum.mechanics.framing import FrameModel
from undatum.mechanics.lines import LateralLine
from undatum.mechanics.lost import Springs
from undatum.mechanics.model import Model
from undatum.mechanics.planes import LateralPlanes
from undatum.mechanics.solver import Solver
from undatum.standards.facts import Removal, RemovedKind
from undatum.standards.terms import DIRECTIONS, Direction

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SLENDER = 1.0  # height over length: walls and piers above it are left out
UPWARDS = (4, 10)  # bending of a beam in its upright plane, at its start and end


class _Part(NamedTuple):
    """What is left out: its ``strength`` (N) counts against that of the stories named."""

    name: str
    kind: RemovedKind
    stories: tuple[int, ...]
    strengths: tuple[float, ...]
    lost: Springs


def removals(
    building: Building, solver: Solver, weight: Floats, planes: LateralPlanes
) -> dict[Direction, tuple[Removal, ...] | None]:
    """Every part that counts, left out of every story; nothing where that can't be told: a plane
    building, floors that are not rigid, lateral lines askew."""
    model, found = solver.model, dict[Direction, tuple[Removal, ...] | None]()
    forces = model.by_height(weight)
    shares = model.shear_shares(forces)
    for axis, d in enumerate(DIRECTIONS):
        found[d] = None
        if model.plane or model.open_floors or any(
                line.stiffness is not None and 1e-6 < abs(line.axis[axis]) < 1 - 1e-6
                for line in model.lines):
            continue
        e = 0.05 * model.diaphragms.across(d) * forces
        whole = solver.solve(np.column_stack([model.loads(d, forces, s * e) for s in (1, -1)]))
        strengths = planes.strengths[axis] - _beyond_beams(model, axis)
        own = []
        for part in _parts(building, model, axis):
            moved = lost.without(solver, whole, part.lost)
            torsion = np.inf if moved is None else _twist(model, axis, moved)
            own += [Removal(
                part.name, model.levels[i], float(shares[i]), torsion,
                1 - float(strength / strengths[i]), part.kind)
                for i, strength in zip(part.stories, part.strengths, strict=True)]
        found[d] = tuple(own)
    return found


def _parts(building: Building, model: Model, axis: int) -> Iterator[_Part]:
    given = {line.name: line for line in building.lines}
    for line in model.lines:
        if line.stiffness is not None and abs(line.axis[axis]) > 1e-6:
            yield from _line(model, line, given[line.name])
    if model.framed is not None:
        yield from _walls(building, model, model.framed, axis)
        yield from _members(model, model.framed, axis)


# -- lines and walls -------------------------------------------------------------------------------


def _line(model: Model, line: LateralLine, given: Line) -> Iterator[_Part]:
    """Story by story; a wall no longer than its story is high counts, as does a core."""
    described = given.by_story(line.levels.size)
    cantilevers = [s for s in described if isinstance(s, Cantilever)]
    sections = [(s.bending, s.shear) for s in cantilevers] or None
    for j, i in enumerate(line.levels.tolist()):
        length = cantilevers[j].length if cantilevers else None
        squat = length is not None and model.diaphragms.story_heights[i] <= SLENDER * length
        if model.above_base[i] and not squat:
            yield _Part(line.name, "wall" if cantilevers else "line", (i,),
                        (float(line.strength[j]),), lost.of_line(model, line, j, sections))


def _walls(
    building: Building, model: Model, framed: FrameModel, axis: int
) -> Iterator[_Part]:
    """Walls along the axis: whole where they are slender in a story, else their slender piers."""
    panels = framed.frame.panels
    if panels is None:
        return
    for w, run in enumerate(panels.walls):
        part = abs(float(run.along[axis]))
        for place, i in enumerate(run.stories):
            if part < 1e-6 or not model.above_base[i]:
                continue
            there = (panels.wall == w) & (panels.story == i)
            for kind, name, low, high, foot, head in _pieces(run, place):
                own = there & (panels.box[:, 0] > low - 1e-6) & (panels.box[:, 1] < high + 1e-6) \
                    & (panels.box[:, 2] > foot - 1e-6) & (panels.box[:, 3] < head + 1e-6)
                yield _Part(name, kind, (i,), (part * run.strength[place],),
                            lost.of_panels(framed, np.flatnonzero(own)))


def _pieces(
    run: WallRun, place: int
) -> Iterator[tuple[RemovedKind, str, float, float, float, float]]:
    """What counts of a wall in a story: kind, name, from and to along it and in elevation."""
    foot, head = run.reach[place]
    if head - foot > SLENDER * run.length:
        yield "wall", run.name, 0.0, run.length, foot, head
        return
    for low, high in run.segments(place):
        beside = [h for h in run.holes[place] if abs(h[1] - low) < 1e-6 or abs(h[0] - high) < 1e-6]
        if not beside:
            continue
        sill, lintel = max(h[2] for h in beside), min(h[3] for h in beside)
        if lintel - sill > SLENDER * (high - low):
            yield "pier", f"{run.name}, pier from {low:.3g} m", low, high, sill, lintel


# -- members ---------------------------------------------------------------------------------------


def _members(model: Model, framed: FrameModel, axis: int) -> Iterator[_Part]:
    frame = framed.frame
    beams, columns = False, at_columns(frame)
    for member in frame.members:
        lean = abs(member.end[axis] - member.start[axis]) / member.length
        if member.level not in model.levels or member.infill or lean < 1e-6:
            continue
        i = model.levels.index(member.level)
        if member.kind == "brace" and model.above_base[i]:
            yield _Part(member.name, "brace", (i,), (member.strength * lean,),
                        lost.of_member(framed, member))
        elif member.kind == "beam" and (ends := moment_ends(frame, member, columns)):
            beams = True
            stories = tuple(k for k in (i, *_above(model, i)) if model.above_base[k])
            moments = sum(len(which) for _, which in ends) * member.strength * lean
            yield _Part(member.name, "beam", stories, tuple(
                moments / float(model.diaphragms.story_heights[k]) for k in stories),
                lost.of_ends(framed, ends))
    if not beams:
        yield from _cantilevers(model, framed, axis)


def _beyond_beams(model: Model, axis: int) -> Floats:
    """(n,) N by which the columns of a story are stronger than the beams at its top let them be,
    2 M / h of each beam that passes on both moments; nothing where no beam does."""
    found = np.zeros(model.n)
    if model.framed is None:
        return found
    frame = model.framed.frame
    at, columns, beams = at_columns(frame), np.zeros(model.n), np.zeros(model.n)
    held = np.zeros(model.n, dtype=bool)
    for member in frame.members:
        if member.level not in model.levels or member.infill or member.secondary:
            continue
        i = model.levels.index(member.level)
        if member.kind == "column" and np.isfinite(member.strength):
            columns[i] += member.strength
        elif member.kind == "beam":
            lean = abs(member.end[axis] - member.start[axis]) / member.length
            ends = moment_ends(frame, member, at) if lean > 1e-6 else []
            held[i] |= bool(ends)
            beams[i] += sum(len(which) for _, which in ends) * (member.strength * lean if ends
                                                                else 0.0)
    by_beams = beams / model.diaphragms.story_heights
    return np.where(held & (by_beams < columns), columns - by_beams, found)


def at_columns(frame: Frame) -> set[int]:
    return set(frame.ends[frame.kinds == "column"].ravel().tolist())


def _above(model: Model, i: int) -> list[int]:
    """The stories that stand on a level."""
    return [int(k) for k in np.flatnonzero(model.diaphragms.below == i)]


def moment_ends(
    frame: Frame, member: Member, columns: set[int]
) -> list[tuple[int, tuple[int, ...]]]:
    """Where a beam passes a moment on to a column: elements, and which of their freedoms."""
    first, last = member.elements[0], member.elements[-1]
    ends = [(e, k) for e, k, node in ((first, UPWARDS[0], frame.ends[first, 0]),
                                      (last, UPWARDS[1], frame.ends[last, 1]))
            if not frame.released[e, k] and int(node) in columns]
    if len(ends) == 2 and first == last:
        return [(first, UPWARDS)]
    return [(e, (k,)) for e, k in ends]


def _cantilevers(model: Model, framed: FrameModel, axis: int) -> Iterator[_Part]:
    """Columns that no beam holds at its ends: what holds them is the moment at their base."""
    frame, bases = framed.frame, set(framed.frame.supports.tolist())
    for member in frame.members:
        first = member.elements[0]
        if member.kind != "column" or member.level not in model.levels or member.secondary \
                or int(frame.ends[first, 0]) not in bases or frame.released[first, [4, 5]].all():
            continue
        i = model.levels.index(member.level)
        which = tuple(k for k in (4, 5) if not frame.released[first, k])
        if model.above_base[i]:
            yield _Part(member.name, "column", (i,), (member.strength,),
                        lost.of_ends(framed, [(first, which)]))


# -- torsion ---------------------------------------------------------------------------------------


def _twist(model: Model, axis: int, moved: Floats) -> float:
    """The largest story drift at an edge over the mean of both edges, of all stories and signs."""
    d, own = model.diaphragms, np.flatnonzero(model.above_base)
    sign = -1.0 if axis == 0 else 1.0  # X goes back with y where a floor turns, Y goes along with x
    edges = d.bounds[own][:, [1 - axis, 3 - axis]]

    def at(floors: Ints) -> Floats:
        motion = moved[d.freedoms[floors]]  # (stories, 3, signs)
        arm = edges - d.centers[floors, 1 - axis][:, None]
        return np.asarray(motion[:, [axis]] + sign * arm[:, :, None] * motion[:, [2]])

    below = d.below[own]
    drift = at(own) - np.where((below >= 0)[:, None, None], at(np.maximum(below, 0)), 0.0)
    mean = np.maximum(np.abs(drift.mean(axis=1)), 1e-300)
    return float((np.abs(drift).max(axis=1) / mean).max(initial=1.0))
