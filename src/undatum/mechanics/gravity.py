"""Frames under loads on their members: gravity by kind of load, first order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from undatum.building.members import Frame, Member
from undatum.building.takedown import Landed, TakeDown
from undatum.mechanics.actions import framed_of
from undatum.mechanics.elements import elements_of, stiff_arms
from undatum.mechanics.framing import FrameModel, end_freedoms
from undatum.mechanics.solver import Solver
from undatum.record import fixed, record

Floats = NDArray[np.float64]
_GAUSS = np.polynomial.legendre.leggauss(4)  # exact for the cubic flexibility and a linear load


@record
class GravityCase:
    """The frame under one kind of load. SI.

    ``displacement`` (6 M,) of the nodes; ``faces`` (E, 12) section forces at both faces of every
    element, in the signs of :mod:`undatum.mechanics.actions`; ``reactions`` (S, 6) of the ground;
    ``residual`` largest force out of balance at a node over the whole load.
    """

    kind: str
    landed: Landed
    displacement: Floats
    faces: Floats
    reactions: Floats
    residual: float


@record
class Gravity:
    """Every kind of load on the members, and how it got there."""

    taken: TakeDown
    cases: tuple[GravityCase, ...]


def gravity(solver: Solver, taken: TakeDown) -> Gravity:
    """The frame under every kind of load, floors rigid in plan and lines taking their share."""
    model = solver.model
    framed = framed_of(model)
    count = framed.stiffness.shape[0]
    fixed_ends = [_fixed_ends(framed, case) for case in taken.landed]
    loads = np.column_stack([_nodal(framed, case, ends) for case, ends in
                             zip(taken.landed, fixed_ends, strict=True)])
    reduced = framed.spread.T @ loads
    on_floors, on_nodes = reduced[:count], reduced[count:]
    follow = framed.follow_free
    floors = solver.solve(on_floors + follow.T @ on_nodes)
    free = framed.free(on_nodes) + follow @ floors
    moved = framed.spread @ np.concatenate([floors, free])
    cases = []
    for c, (case, ends) in enumerate(zip(taken.landed, fixed_ends, strict=True)):
        cases.append(_case(framed, case, ends, moved[:, c], loads[:, c]))
    return Gravity(taken, tuple(cases))


def _case(
    framed: FrameModel, case: Landed, ends: Floats, moved: Floats, loads: Floats,
) -> GravityCase:
    frame, elements = framed.frame, framed.elements
    at = end_freedoms(frame.ends)
    local = np.einsum("eij,ej->ei", elements.turn, moved[at])
    faces = np.einsum("eij,ej->ei", elements.faces, local) + ends
    arms = stiff_arms(frame.stiff)
    at_nodes = np.einsum("eji,ej->ei", elements.turn,
                         np.einsum("eji,ej->ei", arms, faces))
    total = np.zeros(6 * len(frame.points))
    np.add.at(total, at.ravel(), at_nodes.ravel())
    outside = np.zeros_like(total)  # on the nodes themselves
    _on_nodes(case, outside)
    springs = np.where(np.isfinite(frame.springs), frame.springs, 0.0)
    held = 6 * frame.supports[:, None] + np.array([3, 4])
    total[held] += springs * moved[held]
    left = total - outside
    reactions = left.reshape(-1, 6)[frame.supports]
    reactions[:, 3:5] -= springs * moved[held] * np.isfinite(frame.springs)
    free = framed.owner
    size = max(float(np.abs(loads.reshape(-1, 6)[:, 2]).sum()), 1e-300)
    signed = faces.copy()
    signed[:, :6] *= -1.0
    return GravityCase(case.kind, case, moved, signed, reactions,
                       float(np.abs(left[free]).max(initial=0.0)) / size)


def _nodal(framed: FrameModel, case: Landed, ends: Floats) -> Floats:
    """(6 M,) loads on the nodes that stand for what acts between them, and what acts on them."""
    frame = framed.frame
    loads = np.zeros(6 * len(frame.points))
    arms = stiff_arms(frame.stiff)
    world = -np.einsum("eji,ej->ei", framed.elements.turn, np.einsum("eji,ej->ei", arms, ends))
    at = end_freedoms(frame.ends)
    np.add.at(loads, at.ravel(), world.ravel())
    _on_nodes(case, loads)
    return loads


def _on_nodes(case: Landed, loads: Floats) -> None:
    np.add.at(loads, 6 * case.nodes + 2, -case.force)
    np.add.at(loads, 6 * case.nodes + 3, case.moments[:, 0])
    np.add.at(loads, 6 * case.nodes + 4, case.moments[:, 1])


@fixed
def _fixed_ends(framed: FrameModel, case: Landed) -> Floats:
    """(E, 12) local forces at the faces of elements whose ends are held, under loads along them.

    From the flexibility of the cantilever clamped at the start: with the end held too, the forces
    there undo its displacement. Loads within a stiff end act at its face.
    """
    frame = framed.frame
    found = np.zeros((len(frame.ends), 12))
    e = case.elements
    if not e.size:
        return found
    clear = frame.lengths - frame.stiff.sum(axis=1)
    p = {name: np.array([getattr(s, name) for s in frame.sections])[frame.section[e]]
         for name in ("bending_y", "shear_z")}
    modulus, shear = frame.materials[frame.section[e], 0], frame.materials[frame.section[e], 1]
    bend = modulus * p["bending_y"] * frame.kept[e, 0]
    slide = shear * p["shear_z"] * frame.kept[e, 4]
    length = clear[e]
    cantilever = np.zeros((len(e), 6))  # displacement of the free end
    sums = np.zeros((len(e), 3))  # force down, its moment about the start, torque
    moved_x = np.zeros(len(e))

    def put(a: Floats, w: Floats, turn: Floats) -> None:
        """Forces and torques at distances from the start face."""
        nonlocal moved_x
        cantilever[:, 2] -= w * (a**2 * (3 * length - a) / (6 * bend) + a / slide)
        cantilever[:, 4] += w * a**2 / (2 * bend)
        moved_x = moved_x + turn * a / length
        sums[:] += np.column_stack([w, w * a, turn])

    faces = frame.stiff[e, 0], frame.lengths[e] - frame.stiff[e, 1]
    stops = [case.reach[:, 0], *(np.clip(f, case.reach[:, 0], case.reach[:, 1]) for f in faces),
             case.reach[:, 1]]
    for k in range(3):  # before the start face, between the faces, beyond the end face
        low, reach = stops[k], stops[k + 1] - stops[k]
        for t, weight in zip(*_GAUSS, strict=True):
            at = low + (1 + t) / 2 * reach
            share = (at - case.reach[:, 0]) / (case.reach[:, 1] - case.reach[:, 0])
            w = case.load[:, 0] * (1 - share) + case.load[:, 1] * share
            put(np.clip(at - faces[0], 0.0, length), w * reach * weight / 2,
                case.torque * reach * weight / 2)
    total = np.zeros((len(frame.ends), 6))
    np.add.at(total, e, cantilever)
    force = np.zeros((len(frame.ends), 3))
    np.add.at(force, e, sums)
    twist = np.zeros(len(frame.ends))
    np.add.at(twist, e, moved_x)
    stiff = _clamped(frame)
    at_end = -np.einsum("eij,ej->ei", stiff[:, 6:, 6:], total)
    at_end[:, 3] = -twist  # torques by the lever: a uniform bar
    found[:, 6:] = at_end
    found[:, 2] = force[:, 0] - at_end[:, 2]
    found[:, 4] = -force[:, 1] - at_end[:, 4] + at_end[:, 2] * clear
    found[:, 3] = -force[:, 2] + twist
    return _released(found, stiff, frame)


def _clamped(frame: Frame) -> Floats:
    """(E, 12, 12) stiffness of the deforming parts with no hinge."""
    without = elements_of(replace(frame, hinged=np.zeros_like(frame.hinged)))
    return np.asarray(without.faces @ np.linalg.inv(stiff_arms(frame.stiff)))


def _released(ends: Floats, stiff: Floats, frame: Frame) -> Floats:
    """Held-end forces where hinges let go of the bending moments."""
    found = ends.copy()
    for e in np.flatnonzero(frame.hinged.any(axis=1) & np.abs(ends).any(axis=1)):
        free = [i for k, i in ((0, 4), (0, 5), (1, 10), (1, 11)) if frame.hinged[e, k]]
        found[e] -= stiff[e][:, free] @ np.linalg.solve(stiff[e][np.ix_(free, free)],
                                                        ends[e][free])
        found[e][free] = 0.0
    return found


@fixed
def along(
    case: GravityCase, frame: Frame, members: Sequence[Member], at: Sequence[float]
) -> Floats:
    """(member, place, 6) section forces at fractions of the length, loads between counted."""
    found = np.zeros((len(members), len(at), 6))
    lengths = frame.lengths
    for i, m in enumerate(members):
        own = np.array(m.elements)
        reach = np.concatenate([[0.0], np.cumsum(lengths[own])])
        for j, place in enumerate(at):
            s = place * reach[-1]
            k = min(max(int(np.searchsorted(reach, s, side="right")) - 1, 0), len(own) - 1)
            found[i, j] = _section(case, frame, int(own[k]), float(s - reach[k]))
    return found


def _section(case: GravityCase, frame: Frame, e: int, s: float) -> Floats:
    """Section forces of an element at a distance from its start, from its start face."""
    first = frame.stiff[e, 0]
    s = float(np.clip(s, first, frame.lengths[e] - frame.stiff[e, 1]))
    f = case.faces[e, :6].copy()
    reach = s - first
    f[4] += f[2] * reach
    f[5] -= f[1] * reach
    own = np.flatnonzero(case.landed.elements == e)
    for k in own:
        a, b = case.landed.reach[k]
        w0, w1 = case.landed.load[k]
        for low, high in ((a, min(b, first)), (max(a, first), min(b, s))):
            if high <= low:
                continue
            at_low, at_high = (w0 + (w1 - w0) * (c - a) / (b - a) for c in (low, high))
            force = (at_low + at_high) / 2 * (high - low)
            middle = low + (high - low) * (at_low + 2 * at_high) / (3 * (at_low + at_high)) \
                if force else low
            f[2] += force
            f[4] += force * (s - max(middle, first))
            f[3] -= case.landed.torque[k] * (high - low)
    return f
