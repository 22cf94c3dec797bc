"""What carries the shear of a story, plane by plane: frames, braced bays, walls, and not gravity
members.

A plane holds the lateral lines, columns and braces that stand in one vertical plane along X or Y.
What carries is told from the shears under forces in proportion to weight and height: a plane with
a tenth of the shear of the strongest one over the stories it stands in, and in it braces, and
columns that take a tenth of its strongest member.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.building.lines import Line
from undatum.layout.frame import Frame, Member
from undatum.layout.whole import Building
from undatum.mechanics.cuts import wall_heads
from undatum.mechanics.framing import FrameModel
from undatum.mechanics.lines import LateralLine
from undatum.mechanics.model import GROUND, Model
from undatum.mechanics.solver import Solver
from undatum.record import record
from undatum.standards.terms import DIRECTIONS, Direction

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
CARRIES = 0.1  # of the strongest: what takes less is no part of the system
SAME = 0.1  # m: planes nearer than this are one
_Bay = tuple[float, float]


@record
class Plane:
    """One plane along a direction, by story, top down. SI.

    ``at`` (m) is its coordinate across; ``share`` (n,) of the story shear; ``carries`` (n,) whether
    it is part of the system; ``braced`` (n,) whether braces or lateral lines stand in it,
    ``framed`` (n,) whether columns that bend do; ``reach`` (n, 2) from where to where along the
    direction what carries reaches, not a number where that is not known; ``bays`` those of its
    braces; ``strength`` (n,) N of what carries, and of what else is given one.
    """

    name: str
    direction: Direction
    at: float
    share: Floats
    carries: Bools
    braced: Bools
    framed: Bools
    reach: Floats
    bays: tuple[tuple[_Bay, ...], ...]
    strength: Floats


@record
class LateralPlanes:
    """The lateral system of a building: its planes, and what follows from them.

    ``strengths`` and ``extents`` (2, n) along X and Y, not a number where the description does not
    give them; ``standing`` what ends above the base with nothing below in its plane, ``shifted``
    what goes on below at another place of its plane.
    """

    planes: tuple[Plane, ...]
    strengths: Floats
    extents: Floats
    standing: tuple[str, ...]
    shifted: tuple[str, ...]

    def along(self, direction: Direction) -> tuple[Plane, ...]:
        """The planes of a direction."""
        return tuple(p for p in self.planes if p.direction == direction)


def lateral_planes(solver: Solver, building: Building, weights: Floats) -> LateralPlanes:
    """Planes of the system by the shears that forces ``weights`` (n,) times height give."""
    model = solver.model
    forces = model.by_height(weights)
    if not forces.any():
        forces = np.ones(model.n)
    loads = np.column_stack([model.loads(d, forces) for d in model.directions])
    moved = solver.solve(loads)
    shears = np.abs(model.quantities["line shear"].of(moved, loads))
    planes: list[Plane] = []
    for j, d in enumerate(model.directions):
        planes += _along(model, building, d, shears[:, j], moved[:, j])
    strengths, extents = np.full((2, 2, model.n), np.nan)
    for d in model.directions:
        own = [p for p in planes if p.direction == d]
        axis = DIRECTIONS.index(d)
        strengths[axis] = np.sum([p.strength for p in own], axis=0) if own else np.nan
        extents[axis] = _extent(own, model.n)
    standing = [name for p in planes for name in _ends_above(p, model)]
    shifted = [name for p in planes for name in _moves(p, model)]
    frame = building.frame
    return LateralPlanes(
        tuple(planes), strengths, extents, tuple(dict.fromkeys(standing)),
        tuple(dict.fromkeys([*shifted, *(() if frame is None else frame.transfer)])))


def _along(
    model: Model, building: Building, d: Direction, shears: Floats, moved: Floats
) -> list[Plane]:
    axis, n = DIRECTIONS.index(d), model.n
    places, starts = [], np.cumsum([0, *(line.levels.size for line in model.lines)])
    for k, line in enumerate(model.lines):
        if abs(line.axis[axis]) > 0.5:
            places.append((float(line.point[1 - axis]), k))
    groups: list[list[int]] = []
    last = -np.inf
    for at, k in sorted(places):
        if at - last > SAME:
            groups.append([])
        groups[-1].append(k)
        last = at
    shares = np.zeros((len(groups), n))
    for g, members in enumerate(groups):
        for k in members:
            line = model.lines[k]
            shares[g, line.levels] += shears[starts[k]:starts[k + 1]] * abs(line.axis[axis])
    total, most = shares.sum(axis=0), shares.max(axis=0, initial=0.0)
    # over all stories it stands in: walls and frames take turns up the height
    there = np.zeros((len(groups), n), dtype=bool)
    for g, members in enumerate(groups):
        there[g, np.concatenate([model.lines[k].levels for k in members])] = True
    whole = np.where(there, shares, 0.0).sum(axis=1) >= CARRIES * np.where(
        there, most, 0.0).sum(axis=1)
    carries = there & whole[:, None] & (shares > 0) & (most > 0)
    upright = _upright(model, axis, moved)
    described = {line.name: line for line in building.lines}
    found = []
    for g, own in enumerate(groups):
        lines = [model.lines[k] for k in own]
        standing = [u for u in upright if any(abs(u.at[1 - axis] - line.point[1 - axis]) <= SAME
                                           for line in lines)]
        found.append(_plane(
            d, lines, described, standing, carries[g],
            np.divide(shares[g], total, out=np.zeros(n), where=total > 0)))
    return found


@record
class _Upright:
    """A column or brace: its story, where its head is, its stretch along, shear and strength."""

    story: int
    at: tuple[float, float]
    bay: _Bay
    brace: bool
    bends: bool
    shear: float
    strength: float

    @property
    def place(self) -> _Bay:
        """Its stretch to a centimeter, the same for those above each other."""
        return round(self.bay[0], 2), round(self.bay[1], 2)


def _upright(model: Model, axis: int, moved: Floats) -> list[_Upright]:
    if model.framed is None:
        return []
    frame = model.framed.frame
    own = [m for m in frame.members if m.kind != "beam"]
    heads = np.array([m.elements[-1] for m in own], dtype=np.intp)
    shear = np.abs(model.framed.end_rows(heads, (6 + axis,))[:, 0] @ moved)
    order = {name: i for i, name in enumerate(model.levels)}
    found = []
    for m, v in zip(own, shear, strict=True):
        a, b = m.start[axis], m.end[axis]
        lean = abs(b - a) / m.length
        if m.level not in order or m.infill or (m.kind == "brace" and lean < 1e-9):
            continue
        found.append(_Upright(
            order[m.level], (m.end[0], m.end[1]), (min(a, b), max(a, b)), m.kind == "brace",
            _bends(frame, m), float(v), m.strength * (lean if m.kind == "brace" else 1.0)))
    return [*found, *_walls(model.framed, axis, moved)]


def _walls(framed: FrameModel, axis: int, moved: Floats) -> list[_Upright]:
    """Walls that run along an axis, story by story."""
    panels = framed.frame.panels
    if panels is None:
        return []
    heads = framed.memo.get("wall heads", lambda: wall_heads(framed.frame, framed.applied))
    shears = np.abs(heads.rows[:, axis] @ moved)
    found = []
    for w, i, shear in zip(heads.wall.tolist(), heads.story.tolist(), shears, strict=True):
        run = panels.walls[w]
        if abs(run.along[axis]) > 0.5:
            low, high = sorted((run.start[axis], run.end[axis]))
            x, y = run.middle.tolist()
            strength = run.strength[run.stories.index(i)] * abs(float(run.along[axis]))
            found.append(_Upright(i, (x, y), (low, high), True, True, float(shear), strength))
    return found


def _bends(frame: Frame, m: Member) -> bool:
    """Whether it is no column hinged at both ends, which only stands."""
    return m.kind == "column" and not (len(m.elements) == 1
                                       and bool(frame.hinged[m.elements[0]].all()))


def _plane(
    d: Direction, lines: Sequence[LateralLine], described: dict[str, Line],
    upright: Sequence[_Upright], carries: Bools, share: Floats,
) -> Plane:
    axis, n = DIRECTIONS.index(d), share.size
    braced, framed = np.zeros(n, dtype=bool), np.zeros(n, dtype=bool)
    low, high, strength = np.full(n, np.inf), np.full(n, -np.inf), np.zeros(n)
    bays: list[list[_Bay]] = [[] for _ in range(n)]
    for line in lines:
        if line.name not in described:
            continue  # a line of members: they stand for themselves
        braced[line.levels] = True
        part = abs(line.axis[axis])
        half = np.nan if line.plan_length is None else 0.5 * line.plan_length * part
        low[line.levels] = np.minimum(low[line.levels], line.point[axis] - half)
        high[line.levels] = np.maximum(high[line.levels], line.point[axis] + half)
        strength[line.levels] += part * line.strength
    most = np.zeros(n)
    for u in upright:
        most[u.story] = max(most[u.story], u.shear)
    taken: dict[_Bay, Floats] = {}  # of all columns above each other, and of the strongest there
    for u in upright:
        taken.setdefault(u.place, np.zeros(2))[:] += u.shear, most[u.story]
    for u in upright:
        i = u.story
        if u.brace:
            braced[i] = True
            bays[i].append(u.bay)
        framed[i] |= u.bends
        if carries[i] and (u.brace or (
                u.bends and taken[u.place][0] >= CARRIES * taken[u.place][1])):
            low[i], high[i] = np.minimum(low[i], u.bay[0]), np.maximum(high[i], u.bay[1])
            strength[i] += u.strength
        elif (u.brace or u.bends) and np.isfinite(u.strength):  # it is said to have one
            strength[i] += u.strength
    reach = np.column_stack([low, high])
    reach[~carries | ~np.isfinite(reach).all(axis=1)] = np.nan
    names = list(dict.fromkeys(line.name for line in lines))
    return Plane(" and ".join(names), d, float(lines[0].point[1 - axis]), share, carries, braced,
                 framed, reach, tuple(tuple(dict.fromkeys(b)) for b in bays),
                 strength)


def _extent(planes: Sequence[Plane], n: int) -> Floats:
    """(n,) from the outermost of what carries to the other, m; not known where one end is not.

    Where braces carry everywhere, what those of each plane reach, plane after plane.
    """
    found = np.full(n, np.nan)
    by_braces = all(p.bays[i] for p in planes for i in range(n) if p.carries[i])
    for i in range(n):
        own = np.array([p.reach[i] for p in planes if p.carries[i]]).reshape(-1, 2)
        if own.size and np.isfinite(own).all():
            size = np.ptp(own, axis=1).sum() if by_braces else own[:, 1].max() - own[:, 0].min()
            found[i] = size if size > 1e-6 else np.nan
    return found


def _pairs(model: Model) -> list[tuple[int, int]]:
    """Every story above the base with the one below it."""
    below, above = model.diaphragms.below.tolist(), model.above_base.tolist()
    return [(i, k) for i, k in enumerate(below) if k != GROUND and above[i] and above[k]]


def _ends_above(p: Plane, model: Model) -> list[str]:
    """Where braces stand over columns alone, or frames over nothing, in the same plane.

    What ends by itself, without members, is told from the lines of the description.
    """
    if model.framed is None:
        return []
    return [f"{p.name} at {model.levels[k]}" for i, k in _pairs(model) if p.carries[i] and (
        (bool(p.bays[i]) and not p.braced[k])
        or (not p.braced[i] and p.framed[i] and not (p.braced[k] or p.framed[k])))]


def _moves(p: Plane, model: Model) -> list[str]:
    """Where braces go on in another bay of the same plane."""
    return [f"braces on {p.name} at {model.levels[k]}" for i, k in _pairs(model)
            if p.carries[i] and p.bays[i] and p.bays[k] and any(
                all(min(b, hi) - max(a, lo) < 1e-3 for lo, hi in p.bays[k]) for a, b in p.bays[i])]
