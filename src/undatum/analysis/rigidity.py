"""Centers of rigidity by story."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from undatum.mechanics.system import System

Floats = NDArray[np.float64]


def centers_of_rigidity(system: System, forces_x: Floats, forces_y: Floats) -> Floats:
    """(n, 2) m: where the story shear passes when the floors move without turning.

    All rotations are held, the static forces of each direction are applied, and the line shears
    of a story give the line of action of their resultant. For lines given by story stiffness it
    is the stiffness-weighted mean of the lines; for walls, whose share changes with height, it
    depends on the pattern of forces.
    """
    n = system.n
    free = system.stiffness[: 2 * n, : 2 * n]
    loads = np.zeros((2 * n, 2))
    loads[:n, 0], loads[n:, 1] = forces_x, forces_y
    shift = np.zeros((3 * n, 2))
    shift[: 2 * n] = linalg.solve(free, loads, assume_a="pos")
    shear, moment = np.zeros((n, 2, 2)), np.zeros((n, 2))  # story, component, set; story, set
    for line in system.lines:
        v = system.line_shear_map(line) @ shift
        shear[line.levels] += line.axis[None, :, None] * v[:, None, :]
        arm = line.point[0] * line.axis[1] - line.point[1] * line.axis[0]
        moment[line.levels] += arm * v
    # The moment about the origin is x V_y - y V_x for both sets: two equations for x and y.
    matrix = np.stack([shear[:, 1, :], -shear[:, 0, :]], axis=-1)
    loaded = np.abs(np.linalg.det(matrix)) > 1e-9 * np.abs(shear).max() ** 2
    centers = np.full((n, 2), np.nan)  # a story without shear has no line of action
    centers[loaded] = np.linalg.solve(matrix[loaded], moment[loaded][..., None])[..., 0]
    return centers
