"""Load cases, first order: gravity by kind of load, and cases of one's own."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from undatum.layout.acting import Acting
from undatum.layout.frame import Frame, Member
from undatum.layout.landed import Landed
from undatum.layout.takedown import TakeDown
from undatum.mechanics.elements import elements_of, rigid_arms
from undatum.mechanics.framing import FrameModel, end_freedoms, ground_stiffness
from undatum.mechanics.panels import panel_stiffness
from undatum.mechanics.solver import Solver
from undatum.record import fixed, record

Floats = NDArray[np.float64]
ROUND_OFF = 1e-13  # of the largest force at a node: what is less is nothing
_GAUSS = np.polynomial.legendre.leggauss(4)  # exact for the cubic flexibility and a linear load


@record
class CaseOfMembers:
    """The members under one case. SI.

    ``displacement`` (6 M,) of the nodes; ``faces`` (E, 12) section forces at both faces of every
    element, in the signs of :mod:`undatum.mechanics.actions`; ``reactions`` (S, 6) of the ground;
    ``residual`` largest force out of balance at a node over the whole load.
    """

    landed: Landed
    displacement: Floats
    faces: Floats
    reactions: Floats
    residual: float


@record
class StaticCase:
    """The structure under one case: ``motion`` (N,) of its freedoms, ``nodal`` (N,) the loads on
    the floors themselves, and the members if there are.

    ``own`` tells a case of one's own from a kind of floor load.
    """

    name: str
    own: bool
    motion: Floats
    nodal: Floats
    members: CaseOfMembers | None


@record
class LoadCases:
    """Every kind of load and every case of one's own, and how the floor loads got to members."""

    taken: TakeDown | None
    cases: tuple[StaticCase, ...]

    @property
    def on_members(self) -> tuple[tuple[str, CaseOfMembers], ...]:
        """Name and members of every case; nothing where there are no members."""
        return tuple((c.name, c.members) for c in self.cases if c.members is not None)


def load_cases(solver: Solver, taken: TakeDown | None, own: Sequence[tuple[str, Acting]]
               ) -> LoadCases:
    """The structure under every case, floors rigid in plan, lines and members sharing it."""
    landed = () if taken is None else taken.landed
    names = [(case.kind, False) for case in landed] + [(name, True) for name, _ in own]
    floors = np.column_stack([np.zeros((solver.model.freedoms.count, len(landed))),
                              *(floor_loads(solver, one) for _, one in own)])
    if not names:
        return LoadCases(taken, ())
    if solver.model.framed is None:
        motion = solver.solve(floors)
        return LoadCases(taken, tuple(
            StaticCase(name, is_own, motion[:, c], floors[:, c], None)
            for c, (name, is_own) in enumerate(names)))
    parts = [(case, np.zeros(0), np.zeros(0)) for case in landed]
    parts += [(one.landed, one.strain, one.moved) for _, one in own]
    return LoadCases(taken, _on_frame(solver, solver.model.framed, names, parts, floors))


def floor_loads(solver: Solver, one: Acting) -> Floats:
    """(N,) loads of a case on the floors; what acts at no point acts at the center of mass."""
    model = solver.model
    x, y, turn, at_x, at_y = one.on_floors.T
    away = np.column_stack([x, y]) - one.centered
    center = model.diaphragms.centers
    torque = turn + at_x - center[:, 0] * away[:, 1] - at_y + center[:, 1] * away[:, 0]
    return np.asarray(model.loads("X", x) + model.loads("Y", y, torque))


def _on_frame(
    solver: Solver, framed: FrameModel, names: Sequence[tuple[str, bool]],
    parts: Sequence[tuple[Landed, Floats, Floats]], floors: Floats,
) -> tuple[StaticCase, ...]:
    count = framed.stiffness.shape[0]
    held = [_held_ends(framed, *part) for part in parts]
    loads = np.column_stack([_nodal(framed, part[0], ends, part[2])
                             for part, ends in zip(parts, held, strict=True)])
    reduced = framed.spread.T @ loads
    on_floors, on_nodes = reduced[:count] + floors, reduced[count:]
    follow = framed.follow_free
    motion = solver.solve(on_floors + follow.T @ on_nodes)
    free = framed.free(on_nodes) + follow @ motion
    moved = framed.spread @ np.concatenate([motion, free])
    pushed = np.zeros_like(moved)  # on the nodes of floors that deform, by loads of the floor
    if framed.means is not None:
        beside = solver.model.stiffness @ motion - framed.stiffness @ motion
        pushed = framed.means.rows.T @ (floors - beside)[framed.means.columns]
    found = []
    for c, ((name, own), (landed, _, settled), ends) in enumerate(
            zip(names, parts, held, strict=True)):
        members = _members(framed, landed, ends, moved[:, c], settled, pushed[:, c],
                           float(np.abs(floors[:, c]).sum()))
        found.append(StaticCase(name, own, motion[:, c], floors[:, c], members))
    return tuple(found)


def _members(
    framed: FrameModel, case: Landed, ends: Floats, moved: Floats, settled: Floats,
    pushed: Floats, elsewhere: float,
) -> CaseOfMembers:
    """Forces at the faces, reactions, and what is out of balance, of which there should be none."""
    frame, elements = framed.frame, framed.elements
    at = end_freedoms(frame.ends)
    local = np.einsum("eij,ej->ei", elements.turn, moved[at])
    faces = np.einsum("eij,ej->ei", elements.faces, local) + ends
    arms = rigid_arms(frame)
    at_nodes = np.einsum("eji,ej->ei", elements.turn,
                         np.einsum("eji,ej->ei", arms, faces))
    total = np.zeros(6 * len(frame.points))
    np.add.at(total, at.ravel(), at_nodes.ravel())
    size = max(float(np.abs(at_nodes).max(initial=0.0)), elsewhere, 1e-300)
    if frame.panels is not None or frame.slabs is not None:
        of_panels = panel_stiffness(frame) @ (
            moved + _settling(frame, settled) if settled.size else moved)
        size = max(size, float(np.abs(of_panels).max(initial=0.0)))
        if settled.size:
            size = max(size, float(np.abs(
                panel_stiffness(frame) @ _settling(frame, settled)).max(initial=0.0)))
        total += of_panels
    outside = pushed.copy()  # on the nodes themselves
    _on_nodes(framed, case, outside)
    held = end_freedoms(frame.supports[:, None])
    of_ground = ground_stiffness(frame) @ moved
    total += of_ground
    if frame.beside is not None:
        total += frame.beside @ moved
    left = total - outside
    reactions = left.reshape(-1, 6)[frame.supports]
    reactions -= of_ground[held]
    reactions[np.abs(reactions) < ROUND_OFF * size] = 0.0
    residual = float(np.abs(left[framed.owner]).max(initial=0.0)) / size
    signed = faces.copy()
    signed[:, :6] *= -1.0
    shown = moved
    if settled.size:
        shown = moved + _settling(frame, settled)
    return CaseOfMembers(case, shown, signed, reactions, residual)


def _nodal(framed: FrameModel, case: Landed, ends: Floats, settled: Floats) -> Floats:
    """(6 M,) loads on the nodes that stand for what acts between them, and what acts on them."""
    frame = framed.frame
    loads = np.zeros(6 * len(frame.points))
    arms = rigid_arms(frame)
    world = -np.einsum("eji,ej->ei", framed.elements.turn, np.einsum("eji,ej->ei", arms, ends))
    at = end_freedoms(frame.ends)
    np.add.at(loads, at.ravel(), world.ravel())
    _on_nodes(framed, case, loads)
    if frame.panels is not None and settled.size:
        loads -= panel_stiffness(frame) @ _settling(frame, settled)
    return loads


def _settling(frame: Frame, settled: Floats) -> Floats:
    """(6 M,) motion of the nodes when nothing but supports move."""
    found = np.zeros((len(frame.points), 6))
    found[frame.supports] = settled
    return found.ravel()


def _on_nodes(framed: FrameModel, case: Landed, loads: Floats) -> None:
    """Add what acts on the nodes (6 M,), and on the stiff ends of members, which go with them."""
    at = 6 * case.nodes[:, None] + np.arange(6)
    np.add.at(loads, at.ravel(), case.forces.ravel())
    frame, e = framed.frame, case.elements
    for end, (low, high) in enumerate(_stops(frame, case)[::2]):
        there = np.flatnonzero(high > low)
        if not there.size:
            continue
        own = e[there]
        arm = np.zeros((there.size, 3))
        arm[:, 1:] = frame.shifted[own]
        for s, weight, f, turn_of in _by_gauss(case, low, high):
            force = f[there] * weight[there, None]
            arm[:, 0] = s[there] - (frame.lengths[own] if end else 0.0)
            moment = np.cross(arm, force)
            moment[:, 0] += turn_of[there] * weight[there]
            turn = frame.axes[own].transpose(0, 2, 1)
            world = np.column_stack([(turn @ x[:, :, None])[:, :, 0] for x in (force, moment)])
            np.add.at(loads, end_freedoms(frame.ends[own, end][:, None]), world)


def _stops(frame: Frame, case: Landed) -> list[tuple[Floats, Floats]]:
    """From where to where loads lie before the face at the start, between the faces, beyond."""
    e = case.elements
    faces = frame.stiff[e, 0], frame.lengths[e] - frame.stiff[e, 1]
    stops = [case.reach[:, 0], *(np.clip(f, case.reach[:, 0], case.reach[:, 1]) for f in faces),
             case.reach[:, 1]]
    return list(pairwise(stops))


def _by_gauss(
    case: Landed, low: Floats, high: Floats
) -> Iterator[tuple[Floats, Floats, Floats, Floats]]:
    """Places (k,), reaches (k,) they stand for, loads (k, 3) and torques (k,) there, from ``low``
    to ``high``."""
    for t, weight in zip(*_GAUSS, strict=True):
        at = low + (1 + t) / 2 * (high - low)
        share = ((at - case.reach[:, 0]) / (case.reach[:, 1] - case.reach[:, 0]))[:, None]
        yield (at, (high - low) * weight / 2,
               case.load[:, 0] * (1 - share) + case.load[:, 1] * share,
               case.torque[:, 0] * (1 - share[:, 0]) + case.torque[:, 1] * share[:, 0])


@fixed
def _held_ends(framed: FrameModel, case: Landed, strain: Floats, settled: Floats) -> Floats:
    """(E, 12) local forces at the faces of elements whose nodes are held where they belong.

    Under loads along them from the flexibility of the cantilever clamped at the start: with the
    end held too, the forces there undo its displacement. Loads within a stiff end reach its node.
    """
    frame = framed.frame
    found = _under_loads(framed, case)
    if strain.any():
        area = np.array([s.area for s in frame.sections])[frame.section]
        push = frame.materials[frame.section, 0] * area * frame.kept[:, 3] * strain \
            * frame.lengths / (frame.lengths - frame.stiff.sum(axis=1))
        found[:, 0] += push
        found[:, 6] -= push
    if settled.size:
        local = np.einsum("eij,ej->ei", framed.elements.turn,
                          _settling(frame, settled)[end_freedoms(frame.ends)])
        found += np.einsum("eij,ej->ei", framed.elements.faces, local)
    return found


def _under_loads(framed: FrameModel, case: Landed) -> Floats:
    frame = framed.frame
    found = np.zeros((len(frame.ends), 12))
    e = case.elements
    if not e.size:
        return found
    clear = frame.lengths - frame.stiff.sum(axis=1)
    p = {name: np.array([getattr(s, name) for s in frame.sections])[frame.section[e]]
         for name in ("area", "bending_y", "bending_z", "shear_y", "shear_z")}
    modulus, shear = frame.materials[frame.section[e], 0], frame.materials[frame.section[e], 1]
    kept = frame.kept[e]
    stretch = modulus * p["area"] * kept[:, 3]
    bend = {1: modulus * p["bending_z"] * kept[:, 1], 2: modulus * p["bending_y"] * kept[:, 0]}
    slide = {1: shear * p["shear_y"] * kept[:, 4], 2: shear * p["shear_z"] * kept[:, 4]}
    length = clear[e]
    cantilever = np.zeros((len(e), 6))  # displacement of the free end
    sums = np.zeros((len(e), 6))  # of what acts: forces, torque, moments about the start
    twist = np.zeros(len(e))

    def put(a: Floats, f: Floats, turn: Floats) -> None:
        """Forces (k, 3) and torques at distances from the start face."""
        nonlocal twist
        cantilever[:, 0] += f[:, 0] * a / stretch
        for k, other, sign in ((1, 5, 1.0), (2, 4, -1.0)):
            cantilever[:, k] += f[:, k] * (a**2 * (3 * length - a) / (6 * bend[k]) + a / slide[k])
            cantilever[:, other] += sign * f[:, k] * a**2 / (2 * bend[k])
            sums[:, other] += sign * f[:, k] * a
        sums[:, :3] += f
        sums[:, 3] += turn
        twist = twist + turn * a / length

    for at, reach, f, turn in _by_gauss(case, *_stops(frame, case)[1]):
        put(np.clip(at - frame.stiff[e, 0], 0.0, length), f * reach[:, None], turn * reach)
    total, acts, turned = (np.zeros((len(frame.ends), *x.shape[1:])) for x in
                           (cantilever, sums, twist))
    for into, values in ((total, cantilever), (acts, sums), (turned, twist)):
        np.add.at(into, e, values)
    stiff = _clamped(frame)
    at_end = -np.einsum("eij,ej->ei", stiff[:, 6:, 6:], total)
    at_end[:, 3] = -turned  # torques by the lever: a uniform bar
    found[:, 6:] = at_end
    found[:, :6] = -acts - at_end
    found[:, 4] += at_end[:, 2] * clear
    found[:, 5] -= at_end[:, 1] * clear
    return _released(found, stiff, frame)


def _clamped(frame: Frame) -> Floats:
    """(E, 12, 12) stiffness of the deforming parts with no hinge."""
    without, _ = elements_of(replace(frame, released=np.zeros_like(frame.released)))
    return np.asarray(without.faces @ np.linalg.inv(rigid_arms(frame)))


def _released(ends: Floats, stiff: Floats, frame: Frame) -> Floats:
    """Held-end forces where ends let go of some of them."""
    found = ends.copy()
    for e in np.flatnonzero(frame.released.any(axis=1) & np.abs(ends).any(axis=1)):
        free = np.flatnonzero(frame.released[e])
        found[e] -= stiff[e][:, free] @ np.linalg.solve(stiff[e][np.ix_(free, free)],
                                                        ends[e][free])
        found[e][free] = 0.0
    return found


@fixed
def along(
    case: CaseOfMembers, frame: Frame, members: Sequence[Member], at: Sequence[float]
) -> Floats:
    """(member, place, 6) section forces at fractions of the length, loads between counted."""
    e, s = _where(frame, members, at)
    first = frame.stiff[e, 0]
    s = np.clip(s, first, frame.lengths[e] - frame.stiff[e, 1])
    found = case.faces[e, :6].copy()
    found[:, 4] += found[:, 2] * (s - first)
    found[:, 5] -= found[:, 1] * (s - first)
    order = np.argsort(case.landed.elements, kind="stable")
    begin, end = (np.searchsorted(case.landed.elements[order], e, side=side)
                  for side in ("left", "right"))
    place = np.repeat(np.arange(len(e)), end - begin)  # every load on the element of every place
    load = order[np.arange(len(place)) - np.repeat(np.cumsum(end - begin) - (end - begin) - begin,
                                                   end - begin)]
    a, b = case.landed.reach[load].T
    low, high = np.maximum(a, first[place]), np.minimum(b, s[place])
    there = high > low
    place, load, a, b, low, high = (x[there] for x in (place, load, a, b, low, high))
    w0, w1 = case.landed.load[load].transpose(1, 0, 2)
    at_low, at_high = (w0 + (w1 - w0) * ((c - a) / (b - a))[:, None] for c in (low, high))
    reach = (high - low)[:, None]
    force = (at_low + at_high) / 2 * reach
    # about the section: the lever of a trapezoid
    moment = force * (s[place] - high)[:, None] + reach**2 * (2 * at_low + at_high) / 6
    t0, t1 = case.landed.torque[load].T
    turn = sum(t0 + (t1 - t0) * (c - a) / (b - a) for c in (low, high)) / 2 * reach[:, 0]
    taken = np.column_stack([force, turn, moment[:, 2], -moment[:, 1]])
    np.subtract.at(found, place, taken)
    return found.reshape(len(members), len(at), 6)


def _where(
    frame: Frame, members: Sequence[Member], at: Sequence[float]
) -> tuple[NDArray[np.intp], Floats]:
    """(m a,) the element at every place of every member, and how far from its start."""
    counts = np.array([len(m.elements) for m in members], dtype=np.intp)
    own = np.array([e for m in members for e in m.elements], dtype=np.intp)
    starts = np.cumsum(counts) - counts
    lengths = frame.lengths[own]
    upto = np.cumsum(lengths)  # to the end of every element, over all members
    before = upto[starts] - lengths[starts]
    whole = upto[starts + counts - 1] - before
    s = np.asarray(at)[None, :] * whole[:, None]
    # At a node between elements the one beyond it counts, whatever the last digit says.
    k = np.searchsorted(upto, (before[:, None] + s).ravel() + 1e-9 * whole.min(), side="right")
    k = np.clip(k, np.repeat(starts, len(at)), np.repeat(starts + counts - 1, len(at)))
    return own[k], s.ravel() - (upto[k] - lengths[k] - np.repeat(before, len(at)))
