"""The straight member between two nodes: twelve freedoms, shear deformation included.

Local freedoms at each end: displacement along x, y, z, then rotation about x, y, z. All functions
work on ``E`` elements at once.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.layout.frame import Frame
from undatum.mechanics.pressed import alike, tangent
from undatum.record import fixed, record

Floats = NDArray[np.float64]


@record
class Elements:
    """``turn`` (E, 12, 12) global to local displacements; ``faces`` (E, 12, 12) forces on the
    deforming part at its ends from local displacements of the nodes; ``stiffness`` (E, 12, 12)
    local, at the nodes."""

    turn: Floats
    faces: Floats
    stiffness: Floats


def elements_of(
    frame: Frame, axial: Floats | None = None, across: int | None = None
) -> tuple[Elements, int]:
    """Every element of a frame, with its hinges and stiff ends, and how many buckle by themselves.

    ``axial`` (E,) forces, tension positive, take stiffness away or add it; none if left out. In a
    plane frame they don't act on motion ``across`` it, along X (0) or Y (1).
    """
    section = frame.section
    p = {name: np.array([getattr(s, name) for s in frame.sections])[section]
         for name in ("area", "shear_y", "shear_z", "bending_y", "bending_z", "torsion")}
    modulus, shear = frame.materials[section, 0], frame.materials[section, 1]
    length = frame.lengths - frame.stiff.sum(axis=1)
    kept = frame.kept
    sizes = (
        modulus * p["area"] * kept[:, 3], modulus * p["bending_y"] * kept[:, 0],
        modulus * p["bending_z"] * kept[:, 1], shear * p["torsion"] * kept[:, 2],
        shear * p["shear_y"] * kept[:, 4], shear * p["shear_z"] * kept[:, 4])
    k, buckled = released(_bars(sizes, length), frame.released), 0
    pressed = np.flatnonzero(np.abs(axial) > 0) if axial is not None else np.zeros(0, dtype=int)
    if axial is not None and pressed.size:
        quarter = _bars([v[pressed] for v in sizes], length[pressed] / 4)
        ways = np.ones((pressed.size, 2), dtype=bool) if across is None else \
            np.abs(frame.axes[pressed, 1:, across]) < 1 - 1e-9
        bent, buckled = tangent(quarter, axial[pressed], length[pressed],
                                frame.released[pressed], ways)
        k = np.array(k)
        k[pressed] = bent
    arms = rigid_arms(frame)
    faces = k @ arms
    turn = np.zeros((len(k), 12, 12))
    for at in range(0, 12, 3):
        turn[:, at:at + 3, at:at + 3] = frame.axes
    stiffness = arms.transpose(0, 2, 1) @ faces
    if axial is not None:  # stiff ends lean with their node
        for at in range(2):
            for turned in (4, 5):
                stiffness[:, 6 * at + turned, 6 * at + turned] += axial * frame.stiff[:, at]
    return Elements(turn, faces, stiffness), buckled


def _bars(sizes: Sequence[Floats], length: Floats) -> Floats:
    axial, about_y, about_z, torsion, shear_y, shear_z = sizes
    return timoshenko(axial, about_y, about_z, torsion, shear_y, shear_z, length)


@fixed
def timoshenko(
    axial: Floats, about_y: Floats, about_z: Floats, torsion: Floats, shear_y: Floats,
    shear_z: Floats, length: Floats,
) -> Floats:
    """(E, 12, 12) local stiffness from EA, EI_y, EI_z, GJ, GA_y, GA_z (E,) and lengths. SI.

    Source: Przemieniecki, Theory of Matrix Structural Analysis, 1968, section 5.6.
    """
    k = np.zeros((len(length), 12, 12))

    def pair(i: int, value: Floats) -> None:
        k[:, i, i] = k[:, i + 6, i + 6] = value
        k[:, i, i + 6] = k[:, i + 6, i] = -value

    pair(0, axial / length)
    pair(3, torsion / length)
    for bending, shear, move, turn, sign in (
        (about_z, shear_y, 1, 5, 1.0), (about_y, shear_z, 2, 4, -1.0),
    ):
        phi = 12 * bending / (shear * length**2)
        base = bending / (length * (1 + phi))
        pair(move, 12 * base / length**2)
        k[:, turn, turn] = k[:, turn + 6, turn + 6] = (4 + phi) * base
        k[:, turn, turn + 6] = k[:, turn + 6, turn] = (2 - phi) * base
        couple = sign * 6 * base / length
        for a, b, s in ((move, turn, 1), (move, turn + 6, 1), (move + 6, turn, -1),
                        (move + 6, turn + 6, -1)):
            k[:, a, b] = k[:, b, a] = s * couple
    return k


@fixed
def released(stiffness: Floats, free: NDArray[np.bool_]) -> Floats:
    """The stiffness (E, 12, 12) with no force in the freedoms (E, 12) that are marked."""
    found = np.array(stiffness)
    for which, own in alike(free):
        if not own.size:
            continue
        k = found[which]
        inner = k[:, own[:, None], own]
        k = k - k[:, :, own] @ np.linalg.solve(inner, k[:, own, :])
        k[:, own, :] = 0.0
        k[:, :, own] = 0.0
        found[which] = k
    return found


@fixed
def rigid_arms(frame: Frame) -> Floats:
    """(E, 12, 12) displacements of the ends of the deforming part from those of the nodes.

    Stiff ends reach along the member, a shifted axis across it: ``u + theta x r`` at either end.
    """
    arms = np.tile(np.eye(12), (len(frame.ends), 1, 1))
    y, z = frame.shifted.T
    for at, sign in ((0, 1.0), (6, -1.0)):
        reach = sign * frame.stiff[:, at // 6]
        arms[:, at, at + 4], arms[:, at, at + 5] = z, -y
        arms[:, at + 1, at + 5], arms[:, at + 1, at + 3] = reach, -z
        arms[:, at + 2, at + 4], arms[:, at + 2, at + 3] = -reach, y
    return arms
