"""A frame on rigid floors: assembled from its elements, brought down to the motion of the floors.

Everything but the motion of the floors carries no lateral mass, so that it can be condensed
exactly: ``K = K_dd - K_df K_ff^-1 K_fd``. What the other freedoms do then follows from the floors.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import field
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.errors import AnalysisError
from undatum.finding import several
from undatum.layout.frame import Frame
from undatum.layout.panels import Panels
from undatum.mechanics.cuts import wall_heads
from undatum.mechanics.elements import Elements, elements_of
from undatum.mechanics.factors import ScaledFactors, scaled_factors
from undatum.mechanics.lines import LateralLine
from undatum.mechanics.panels import panel_stiffness
from undatum.mechanics.quantity import Quantity
from undatum.memory import free_memory
from undatum.record import Memo, fixed, record
from undatum.units import said

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
_SINGULAR = 1e-13  # pivot over diagonal below which a stiffness counts as lost
_ROUND_OFF = 1e-10  # of the stiffness its members would have unhinged: a rotation counts as free
_WAYS = ("in X", "in Y", "in Z", "in rotation about X", "in rotation about Y",
         "in rotation about Z")


@record
class Means:
    """Freedoms that are means of the motion of nodes: their places (s,) among the ``D``, and
    ``rows`` (s, 6 M) of the means. A force on one acts on the nodes by the same row."""

    columns: Ints
    rows: sparse.csr_array


@record
class _Pushed:
    """Where means are held: ``by`` (F, s) how free freedoms move under forces on them, and the
    ``stiffness`` (s, s) against the means."""

    rows: sparse.csr_array
    by: Floats
    stiffness: Floats


@record
class FrameModel:
    """A frame condensed to ``D`` freedoms of the floors. SI.

    ``tied`` (M,) nodes held by a floor; ``spread`` (6 M, D + F) displacement of the nodes from all
    freedoms, those of the floors first; ``stiffness`` (D, D); ``axial`` (E,) forces whose
    second-order effect is in it; ``held`` what no node does, as in :func:`condense`; ``means`` the
    freedoms that follow from the nodes and not the other way.
    """

    frame: Frame
    tied: NDArray[np.bool_]
    spread: sparse.csr_array
    stiffness: Floats
    axial: Floats | None = None
    held: tuple[int, ...] = ()
    means: Means | None = None
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def elements(self) -> Elements:
        """Stiffness and transformations of the elements."""
        return self.memo.get("elements", lambda: elements_of(
            self.frame, self.axial, self.across)[0])

    @property
    def across(self) -> int | None:
        """Across what a plane frame stands, 0 for X and 1 for Y."""
        return self.held[0] if self.held else None

    @property
    def follow(self) -> Floats:
        """(6 M, D) displacement of every node (X, Y, Z, then rotations about them) when the floors
        move."""
        return self.memo.get("follow", self._follow)

    def _follow(self) -> Floats:
        count = self.stiffness.shape[0]
        moved = self.spread[:, :count].toarray()
        if self.means is not None:
            free, pushed = self.spread[:, count:], self.pushed
            moving, by_rigid = self.memo.get("by rigid", self._by_rigid)
            moved[:, moving] += free @ (by_rigid - pushed.by @ (
                pushed.stiffness @ (pushed.rows @ by_rigid)))
            moved[:, self.means.columns] += free @ (pushed.by @ pushed.stiffness)
        elif self.owner.size:
            free = self.spread[:, count:]
            coupling = free.T @ (assembled(self.frame, self.elements) @ self.spread[:, :count])
            moved -= free @ self.free(coupling.toarray())
        return np.asarray(moved)

    @fixed
    def applied(self, rows: sparse.csr_array) -> Floats:
        """(k, D) rows (k, 6 M) on the motion of the nodes as rows on that of the floors."""
        if self.means is None:
            return np.asarray(rows @ self.follow)
        count = self.stiffness.shape[0]  # without making the motion of every node
        found = (rows @ self.spread[:, :count]).toarray()
        of_free = sparse.csr_array(rows @ self.spread[:, count:])
        pushed, (moving, by_rigid) = self.pushed, self.memo.get("by rigid", self._by_rigid)
        held = of_free @ pushed.by
        found[:, moving] += of_free @ by_rigid - held @ (
            pushed.stiffness @ (pushed.rows @ by_rigid))
        found[:, self.means.columns] += held @ pushed.stiffness
        return np.asarray(found)

    @fixed
    def moved(self, motion: Floats) -> Floats:
        """(6 M, ...) motion of the nodes when the floors move by ``motion`` (D, ...)."""
        if self.means is None:
            return np.asarray(self.follow @ motion)
        count = self.stiffness.shape[0]
        moving, by_rigid = self.memo.get("by rigid", self._by_rigid)
        free = by_rigid @ motion[moving]
        push = self.pushed.stiffness @ (motion[self.means.columns] - self.pushed.rows @ free)
        return np.asarray(self.spread[:, :count] @ motion
                          + self.spread[:, count:] @ (free + self.pushed.by @ push))

    def _by_rigid(self) -> tuple[Ints, Floats]:
        """Freedoms of rigid floors, and how the free ones follow them, nothing else held."""
        count = self.stiffness.shape[0]
        coupling = (self.spread[:, count:].T @ (assembled(self.frame, self.elements)
                                                @ self.spread[:, :count])).toarray()
        moving = np.flatnonzero(coupling.any(axis=0))
        return moving, -self.memo.get("factors", self._factors).solve(coupling[:, moving]) \
            if moving.size else coupling[:, moving]

    @property
    def pushed(self) -> _Pushed:
        """What moves where means are held. Of models that have some."""
        assert self.means is not None
        means = self.means
        return self.memo.get("pushed", lambda: _pushed(
            self.memo.get("factors", self._factors), means, self.spread, self.stiffness.shape[0]))

    @property
    def owner(self) -> Ints:
        """(F,) which freedoms of the nodes no floor holds."""
        count = self.stiffness.shape[0]
        return self.memo.get("owner", lambda: np.asarray(
            self.spread[:, count:].tocsc().indices, dtype=np.intp))

    @property
    def follow_free(self) -> Floats:
        """(F, D) what they do when the floors move."""
        return np.asarray(self.follow[self.owner])

    @fixed
    def free(self, loads: Floats) -> Floats:
        """(F, k) motion of the freedoms that no floor holds, under loads on them (F, k), the
        freedoms of the floors held."""
        found = self.memo.get("factors", self._factors).solve(loads)
        if self.means is not None:
            pushed = self.pushed
            found = found - pushed.by @ (pushed.stiffness @ (pushed.rows @ found))
        return found

    def _factors(self) -> ScaledFactors:
        return _factored(self._unheld, self.frame, self.owner)[0]

    @property
    def _unheld(self) -> sparse.csc_array:
        """(F, F) stiffness of what no floor holds."""
        spread = self.spread[:, self.stiffness.shape[0]:]
        return sparse.csc_array(spread.T @ (assembled(self.frame, self.elements) @ spread))

    @property
    def turning_freely(self) -> Ints:
        """Nodes that nothing keeps from turning; they are held, which changes no force."""
        return self.memo.get("turning freely", lambda: free_rotations(
            self._unheld, self.frame, self.owner)[0])

    @fixed
    def end_rows(self, which: Ints, at: Sequence[int] = range(12)) -> Floats:
        """(len, at, D) global forces of the nodes on the elements ``which`` by floor motion: all
        twelve, or some."""
        if not which.size:
            return np.zeros((0, len(at), self.stiffness.shape[0]))
        turn = self.elements.turn[which]
        world = turn.transpose(0, 2, 1)[:, list(at)] @ self.elements.stiffness[which] @ turn
        return np.asarray(world @ self.follow[end_freedoms(self.frame.ends[which])])

    @property
    @fixed
    def support_rows(self) -> Floats:
        """(6 S, D) forces and moments of the ground on the supported nodes by floor motion."""
        frame = self.frame
        held = end_freedoms(frame.supports[:, None]).ravel()
        of_structure = assembled(frame, self.elements) - ground_stiffness(frame)
        return self.applied(sparse.csr_array(sparse.csr_array(of_structure)[held]))

    @fixed
    def face_rows(self, which: Ints) -> Floats:
        """(len, 12, D) local section forces at both faces of the elements, by floor motion.

        At every section the action of the part towards the end on the part towards the start:
        along x, y, z, then moments about x, y, z; first at the start, then at the end.
        """
        forces = self.elements.faces[which] @ (
            self.elements.turn[which] @ self.follow[end_freedoms(self.frame.ends[which])])
        forces[:, :6] *= -1.0
        return np.asarray(forces)


def condense(
    frame: Frame, tied: NDArray[np.bool_], centers: Floats, freedoms: Ints, count: int,
    axial: Floats | None = None, held: Sequence[int] = (),
    moves: sparse.csr_array | None = None, means: Means | None = None,
) -> FrameModel:
    """Assemble a frame and condense it to the freedoms of its floors.

    ``tied`` (M,) says which nodes a rigid floor holds; ``centers`` (n, 2) and ``freedoms`` (n, 3)
    are those of the floors, ``count`` is D; ``axial`` (E,) forces whose second-order effect
    counts; ``held`` names what no node does, 0 to 5 for motion along X, Y, Z and rotation about
    them; ``moves`` (6 M, D) how freedoms within floors that are not rigid move their nodes along X
    and Y; ``means`` those that follow from the motion of their nodes. Raises AnalysisError naming
    what can move freely.
    """
    _room_for(frame, count)
    elements, _ = elements_of(frame, axial, held[0] if held else None)
    spread, owner = _spread(frame, tied, centers, freedoms, count, held, moves)
    whole = sparse.csr_array(spread.T @ (assembled(frame, elements) @ spread))
    condensed = whole[:count, :count].toarray()
    memo: dict[str, Any] = {"elements": elements}
    if owner.size:
        coupling = whole[count:, :count].toarray()
        factors, loose = _factored(sparse.csc_array(whole[count:, count:]), frame, owner)
        memo |= {"factors": factors, "turning freely": loose}
        half = None if means is not None else factors.half(coupling)
        if means is not None:  # most columns are means, and couple nothing by themselves
            moving = np.flatnonzero(coupling.any(axis=0))
            by_rigid = -factors.solve(coupling[:, moving]) if moving.size else coupling[:, moving]
            condensed[:, moving] += coupling.T @ by_rigid
            pushed = _pushed(factors, means, spread, count)
            back = np.zeros((len(means.columns), count))  # what brings the means to nothing
            back[:, moving] = -np.asarray(pushed.rows @ by_rigid)
            back[:, means.columns] += np.eye(len(means.columns))
            condensed = condensed + back.T @ pushed.stiffness @ back
            memo |= {"pushed": pushed, "by rigid": (moving, by_rigid)}
        elif half is not None:
            condensed = condensed - half.T @ half
        else:
            follow = -factors.solve(coupling)
            condensed = condensed + coupling.T @ follow
            memo["follow"] = spread[:, :count].toarray() + spread[:, count:] @ follow
    model = FrameModel(frame, tied, spread, (condensed + condensed.T) / 2, axial, tuple(held),
                       means)
    for name, value in memo.items():
        model.memo.get(name, lambda kept=value: kept)  # type: ignore[misc]
    return model


def _pushed(
    factors: ScaledFactors, means: Means, spread: sparse.csr_array, count: int
) -> _Pushed:
    rows = sparse.csr_array(means.rows @ spread[:, count:])
    by = factors.solve(rows.T.toarray())
    flexible = np.asarray(rows @ by)
    return _Pushed(rows, by, np.linalg.inv((flexible + flexible.T) / 2))


#: Bytes an element takes with its matrices, and a freedom of a node with its factors, beside its
#: row of the coupling to the floors; measured, and rounded up.
PER_ELEMENT, PER_FREEDOM = 7_000, 1_500


def memory_needed(frame: Frame, count: int) -> float:
    """Bytes that assembling and condensing a frame to ``count`` freedoms takes, roughly."""
    freedoms = 6 * len(frame.points)
    panels = 0 if frame.panels is None else len(frame.panels)
    return float(PER_ELEMENT * (len(frame.ends) + panels) + freedoms * (PER_FREEDOM + 16 * count)
                 + 40 * count**2)


def _room_for(frame: Frame, count: int) -> None:
    """Raises AnalysisError where a model won't fit, before anything of it is made."""
    needed, free = memory_needed(frame, count), free_memory()
    if needed > free:
        raise AnalysisError(
            f"The model needs about {needed / 1e9:.3g} GB of memory and {free / 1e9:.3g} GB are "
            f"free: {len(frame.ends)} elements, {len(frame.points)} nodes, {count} freedoms of "
            "floors. Close other programs, take a machine with more memory, or describe fewer "
            "members: part of a building, or columns of several stories as lateral lines.")


def assembled(frame: Frame, elements: Elements) -> sparse.csr_array:
    """(6 M, 6 M) stiffness of all elements and panels and of the springs at the supports."""
    world = elements.turn.transpose(0, 2, 1) @ elements.stiffness @ elements.turn
    at = end_freedoms(frame.ends)
    rows = np.repeat(at, 12, axis=1).ravel()
    columns = np.tile(at, (1, 12)).ravel()
    n = 6 * len(frame.points)
    members = sparse.csr_array(
        (world.ravel(), (rows, columns)), shape=(n, n)) + ground_stiffness(frame)
    if frame.beside is not None:
        members = members + frame.beside
    flat = frame.panels is not None or frame.slabs is not None
    return sparse.csr_array(members + panel_stiffness(frame) if flat else members)


def ground_stiffness(frame: Frame) -> sparse.csr_array:
    """(6 M, 6 M) stiffness of the springs at the supports, and along the feet of walls."""
    def make() -> sparse.csr_array:
        springs = np.where(np.isfinite(frame.springs), frame.springs, 0.0).ravel()
        held = end_freedoms(frame.supports[:, None]).ravel()
        values, rows, columns = [springs], [held], [held]
        if frame.panels is not None and len(frame.panels.feet):  # linear between the nodes
            a, b = 6 * frame.panels.feet.T + 2
            k = frame.panels.feet_stiffness
            for one, other, share in ((a, a, 3), (a, b, 6), (b, a, 6), (b, b, 3)):
                values.append(k / share)
                rows.append(one)
                columns.append(other)
        n = 6 * len(frame.points)
        return sparse.csr_array((np.concatenate(values), (
            np.concatenate(rows), np.concatenate(columns))), shape=(n, n))

    return frame.memo.get("ground stiffness", make)


def end_freedoms(ends: Ints) -> Ints:
    """(E, 12) freedoms of the nodes at both ends, or (E, 6) of one node each."""
    return np.asarray((6 * ends[:, :, None] + np.arange(6)).reshape(len(ends), 6 * ends.shape[1]))


def _spread(
    frame: Frame, tied: NDArray[np.bool_], centers: Floats, freedoms: Ints, count: int,
    held: Sequence[int], moves: sparse.csr_array | None,
) -> tuple[sparse.csr_array, Ints]:
    """(6 M, D + F) motion of the nodes from the floors' and the free freedoms, and (F,) which."""
    m = len(frame.points)
    free = np.ones((m, 6), dtype=bool)
    free[tied] = [False, False, True, True, True, False]
    free[frame.supports] = np.isfinite(frame.springs)
    if moves is not None:
        moved = np.flatnonzero(np.diff(moves.indptr))
        free[moved // 6, moved % 6] = False
    free[:, list(held)] = False
    if frame.slabs is not None:  # nothing but members and walls holds nodes across a floor
        alone = np.ones(m, dtype=bool)  # of floors, and of lateral lines that meet them
        alone[frame.ends] = False
        if frame.panels is not None:
            alone[frame.panels.nodes] = False
        free[alone, 2:5] = False
    owner = np.flatnonzero(free.ravel())
    node = np.flatnonzero(tied)
    floor = frame.floors[node]
    arm = (frame.points[node, :2] - centers[floor]) * (5 not in held)
    one = np.ones(node.size)
    rows = [owner, 6 * node, 6 * node, 6 * node + 1, 6 * node + 1, 6 * node + 5]
    columns = [count + np.arange(owner.size), freedoms[floor, 0], freedoms[floor, 2],
               freedoms[floor, 1], freedoms[floor, 2], freedoms[floor, 2]]
    values = [np.ones(owner.size), one, -arm[:, 1], one, arm[:, 0], one]
    data, row, column = (np.concatenate(part) for part in (values, rows, columns))
    if moves is not None:
        own = moves.tocoo()
        data, row, column = (np.concatenate(pair) for pair in (
            (data, own.data), (row, own.row), (column, own.col)))
    kept = ~np.isin(row % 6, held)
    return sparse.csr_array(
        (data[kept], (row[kept], column[kept])),
        shape=(6 * m, count + owner.size)), owner


def free_rotations(
    k: sparse.csc_array, frame: Frame, owner: Ints
) -> tuple[Ints, sparse.csc_array | None]:
    """Nodes that turn without any resistance, and (F, F) stiffness that holds them where they are.

    Where all members are hinged a node may turn as it likes, about any axis; nothing is coupled to
    it, because the stiffness is nowhere negative, so that holding it changes no force. What the
    hinges leave of the stiffness after turning to global axes is round-off, and counts as nothing.
    """
    if not len(frame.ends):
        return np.zeros(0, dtype=np.intp), None
    nodes = len(frame.points)
    hinged = np.ones(nodes, dtype=bool)
    full = np.zeros(nodes)  # rotational stiffness without hinges
    sections = np.array([[s.bending_y, s.bending_z] for s in frame.sections])[frame.section]
    turning = 4 * frame.materials[frame.section, 0] * sections.max(axis=1) / frame.lengths
    for end in (0, 1):
        stuck = ~frame.released[:, 6 * end + 3:6 * end + 6].any(axis=1)
        hinged[frame.ends[stuck, end]] = False
        np.maximum.at(full, frame.ends[:, end], turning)
    own = np.flatnonzero((owner % 6 >= 3) & hinged[owner // 6] & (full[owner // 6] > 0))
    if not own.size:
        return np.zeros(0, dtype=np.intp), None
    at, which = np.unique(owner[own] // 6, return_inverse=True)
    place = owner[own] % 6 - 3
    blocks = np.zeros((at.size, 3, 3))
    blocks[:, range(3), range(3)] = full[at][:, None]  # what is not free is held
    blocks[which, place, place] = 0.0
    part = k[own][:, own].tocoo()
    same = which[part.row] == which[part.col]
    np.add.at(blocks, (which[part.row[same]], place[part.row[same]], place[part.col[same]]),
              part.data[same])
    values, vectors = np.linalg.eigh(blocks / full[at][:, None, None])
    loose = values <= _ROUND_OFF
    if not loose.any():
        return np.zeros(0, dtype=np.intp), None
    holding = np.einsum("nik,nk,njk->nij", vectors, loose * full[at][:, None], vectors)
    one, other = np.nonzero(which[:, None] == which[None, :])
    added = sparse.csc_array(
        (holding[which[one], place[one], place[other]], (own[one], own[other])), shape=k.shape)
    return np.asarray(at[loose.any(axis=1)]), added


def _factored(k: sparse.csc_array, frame: Frame, owner: Ints) -> tuple[ScaledFactors, Ints]:
    """Factors of the matrix, and nodes that turn freely. Raises AnalysisError naming the node that
    moves freely otherwise.
    """
    loose, added = free_rotations(k, frame, owner)
    if added is not None:
        k = sparse.csc_array(k + added)
    diagonal = k.diagonal()
    if np.any(diagonal <= 0):
        raise AnalysisError(_moves(frame, int(owner[int(np.argmin(diagonal))])))
    found = scaled_factors(k, _SINGULAR)
    if found is None:  # what moves most under loads at random, once it is held a little
        near = scaled_factors(sparse.csc_array(k + 1e-11 * sparse.diags_array(diagonal)), 0.0)
        shape = np.random.default_rng(1).standard_normal(k.shape[0])
        for _ in range(3 if near is not None else 0):
            shape = near.solve(diagonal * shape)  # type: ignore[union-attr]
            shape /= np.abs(shape * np.sqrt(diagonal)).max()
        worst = int(np.argmax(np.abs(shape) * np.sqrt(diagonal)))
        raise AnalysisError(_moves(frame, int(owner[worst])))
    return found, loose


def _moves(frame: Frame, freedom: int) -> str:
    """Which node moves freely, how, and what ends there."""
    node, way = divmod(freedom, 6)
    x, y, z = frame.points[node]
    here = [frame.members[m].name for m in dict.fromkeys(
        frame.member[np.any(frame.ends == node, axis=1)].tolist())]
    if frame.panels is not None:
        here += [f"wall {frame.panels.walls[w].name}" for w in np.unique(frame.panels.wall[
            np.any(frame.panels.nodes == node, axis=1)]).tolist()]
    if frame.slabs is not None and np.any(frame.slabs.nodes == node):
        here.append("a floor that deforms")
    of_walls = not any(np.any(frame.ends == node, axis=1))
    cause = "what is there stands on nothing, or hangs on an edge alone" if of_walls else \
        "every member that ends there is hinged" if way in (3, 4) else \
        "its members are hinged, or have no stiffness, that way"
    return (
        f"The structure is a mechanism: the node at ({said(x)}, {said(y)}), elevation {said(z)}, "
        f"can move {_WAYS[way]} without resistance. Likely cause: {cause}. What meets there: "
        f"{several(here) or 'nothing'}.")


# -- frames as lateral lines ----------------------------------------------------------------------


def member_lines(
    model: FrameModel, names: tuple[dict[float, str], dict[float, str]], below: Ints,
    taken: Sequence[str],
) -> tuple[tuple[LateralLine, ...], Callable[[], Floats], Callable[[], Floats]]:
    """The frame read as lines along X and along Y, with their story shears and the rest's twist.

    What the columns and braces of a story carry along X counts for the line through their heads
    along X, and likewise along Y. ``names`` gives the axes by coordinate: those that run along Y
    by x, those along X by y. Returns the lines, and how to make rows (k, D) of their shears story
    by story and rows (n, D) of the moments about the vertical axis the members carry of themselves.
    """
    frame = model.frame
    which = np.flatnonzero(frame.kinds != "beam")
    head = frame.ends[which, 1]
    floor, at = frame.floors[head], np.round(frame.points[head, :2], 6)
    hinged = frame.hinged[which].all(axis=1)
    lean = np.abs(frame.axes[which, 0, :2])
    reach = np.sort(frame.points[frame.ends[which]][:, :, :2], axis=1)  # from, to in plan
    bends = ~hinged | (lean.max(axis=1) < 1e-9)
    if frame.panels is not None:  # walls stand beside them, each at its middle
        stories, middles, ends = _walls_by_story(frame.panels)
        floor, at = np.append(floor, stories), np.concatenate([at, middles])
        reach = np.concatenate([reach, ends])
        lean = np.concatenate([lean, np.ones((len(stories), 2))])
        bends = np.append(bends, np.ones(len(stories), dtype=bool))
    lines: list[LateralLine] = []
    parts: list[tuple[int, Ints, Ints]] = []  # axis, elements, and the place of each among levels
    for axis in (0, 1):
        counts = bends | (lean[:, axis] > 1e-9)
        for place in np.unique(at[counts, 1 - axis]):
            own = np.flatnonzero(counts & (at[:, 1 - axis] == place))
            levels = np.unique(floor[own])
            parts.append((axis, own, np.searchsorted(levels, floor[own])))
            low, high = reach[own, 0, axis].min(), reach[own, 1, axis].max()
            near = [name for value, name in names[1 - axis].items() if abs(value - place) < 1e-5]
            word = "members" if frame.panels is None else "walls"
            name = f"axis {near[0]}" if near else f"{word} at {'yx'[axis]} = {place:.3f} m"
            direction = np.eye(2)[axis]
            point = np.zeros(2)
            point[axis], point[1 - axis] = (low + high) / 2, place
            members = own[own < len(which)]
            strength = _strengths(frame, which[members], axis, floor[members], levels)
            strength[np.isin(levels, floor[own[own >= len(which)]])] = np.nan  # walls have none
            lines.append(LateralLine(
                name if name not in taken else f"{name}, members", point, direction, levels,
                int(below[levels[-1]]), None, None, float(high - low), strength))

    once = cache(lambda: _at_heads(model, which))

    def shears() -> Floats:
        rows = once()
        found = []
        for line, (axis, own, place) in zip(lines, parts, strict=True):
            total = np.zeros((line.levels.size, rows.shape[2]))
            np.add.at(total, place, rows[own, axis])
            found.append(total)
        return np.concatenate(found)

    def twist() -> Floats:
        rows = once()
        found = np.zeros((len(below), rows.shape[2]))
        np.add.at(found, floor, rows[:, 2])
        return found

    return tuple(lines), shears, twist


def _walls_by_story(panels: Panels) -> tuple[Ints, Floats, Floats]:
    """Every wall in every story: the level above (k,), its middle (k, 2), its ends in order."""
    walls = [(w, i) for w in panels.walls for i in w.stories]
    return (np.array([i for _, i in walls]), np.round([w.middle for w, _ in walls], 6),
            np.sort(np.array([[w.start, w.end] for w, _ in walls]), axis=1))


def _at_heads(model: FrameModel, which: Ints) -> Floats:
    """(m, 3, D) forces along X and Y and about Z at the heads of members, then of walls."""
    frame, rows = model.frame, model.end_rows(which, (6, 7, 11))
    if frame.panels is None:
        return rows
    of_walls = model.memo.get("wall heads", lambda: wall_heads(frame, model.applied))
    order = {(w, i): k for k, (w, i) in enumerate(zip(
        of_walls.wall.tolist(), of_walls.story.tolist(), strict=True))}
    chosen = [order[w, i] for w, run in enumerate(frame.panels.walls) for i in run.stories]
    return np.concatenate([rows, of_walls.rows[chosen]])


def _strengths(
    frame: Frame, elements: Ints, axis: int, floor: Ints, levels: Ints
) -> Floats:
    """(levels,) lateral strength along an axis of the columns and braces of each story, but
    for infills."""
    own = [frame.members[m] for m in frame.member[elements].tolist()]
    if not own:
        return np.zeros(len(levels))
    last = np.array([m.elements[-1] for m in own]) == elements
    alone = np.array([m.kind == "column" and len(m.elements) == 1 for m in own])
    brace = np.array([m.kind == "brace" for m in own])
    lean = np.where(brace, np.abs(frame.axes[elements, 0, axis]), 1.0)
    infill = np.array([m.infill for m in own], dtype=bool)
    counts = last & (lean > 1e-9) & ~infill & ~(alone & frame.hinged[elements].all(axis=1))
    return np.asarray(np.bincount(
        np.searchsorted(levels, floor)[counts],
        (np.array([m.strength for m in own]) * lean)[counts], len(levels)), dtype=float)


def with_lines(shears: Callable[[], Quantity], lines: Sequence[LateralLine],
               rows: Callable[[], Floats], levels: tuple[str, ...]) -> Quantity:
    """The shears of other lines behind those that ``shears`` makes."""
    first = shears()
    return Quantity(
        first.kind, first.dimension, sparse.csr_array(sparse.vstack(
            [first.rows, sparse.csr_array(rows())])), {
            "line": first.labels["line"] + tuple(x.name for x in lines for _ in x.levels),
            "story": first.labels["story"] + tuple(levels[i] for x in lines for i in x.levels),
        })
