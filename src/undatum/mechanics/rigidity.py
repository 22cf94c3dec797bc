"""Centers of rigidity and torsional radii by story."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from undatum.mechanics.model import Model
from undatum.record import record
from undatum.standards.terms import Direction

Floats = NDArray[np.float64]


@record
class Rigidity:
    """``centers`` (n, 2) of rigidity and torsional ``radii`` (n, 2) by story, top down, m.

    ``radii[:, 0]`` is the root of torsional stiffness over lateral stiffness along Y (it goes with
    an eccentricity along X), ``radii[:, 1]`` that over the stiffness along X. Values are not a
    number where a story has no shear, or where walls push back so that no radius can be given.
    """

    centers: Floats
    radii: Floats


def rigidity(model: Model, forces: Mapping[Direction, Floats]) -> Rigidity:
    """Where the story shear passes when the floors move without turning, and how stiff they turn.

    All rotations are held, the static forces of each direction are applied, and the line shears
    of a story give the line of action of their resultant. For lines given by story stiffness it
    is the stiffness-weighted mean of the lines; for walls, whose share changes with height, it
    depends on the pattern of forces. A plane building has neither center nor radius.
    """
    if model.plane:
        return Rigidity(*np.full((2, model.n, 2), np.nan))
    n, free = model.n, ~model.freedoms.of("rotation")
    loads = np.column_stack([model.loads(d, forces[d]) for d in model.directions])
    shift = np.zeros_like(loads)
    held = model.memo.get("rotations held", lambda: linalg.cho_factor(
        model.dense[np.ix_(free, free)], lower=True, check_finite=False))
    shift[free] = linalg.cho_solve(held, loads[free], check_finite=False)
    every = model.quantities["line shear"].of(shift, shift)
    shears = np.split(every, np.cumsum([line.levels.size for line in model.lines])[:-1])
    shear, moment = np.zeros((n, 2, 2)), np.zeros((n, 2))  # story, component, set; story, set
    for line, v in zip(model.lines, shears, strict=True):
        shear[line.levels] += line.axis[None, :, None] * v[:, None, :]
        moment[line.levels] += line.moment_arm * v
    # The moment about the origin is x V_y - y V_x for both sets: two equations for x and y.
    matrix = np.stack([shear[:, 1, :], -shear[:, 0, :]], axis=-1)
    loaded = np.abs(np.linalg.det(matrix)) > 1e-9 * np.abs(shear).max() ** 2
    centers = np.full((n, 2), np.nan)  # a story without shear has no line of action
    centers[loaded] = np.linalg.solve(matrix[loaded], moment[loaded][..., None])[..., 0]
    return Rigidity(centers, _radii(model, centers, shift, shears))


def _radii(model: Model, centers: Floats, shift: Floats, shears: list[Floats]) -> Floats:
    """Each line's story stiffness is its shear over its own drift in the pure translation."""
    n, d = model.n, model.diaphragms
    moves = np.zeros((n + 1, 2, 2))  # floor (the ground last), component, set
    moves[:n] = shift[d.freedoms[:, :2]]
    drift = moves[:-1] - moves[d.below]
    lateral, torsional = np.zeros((n, 2)), np.zeros(n)
    for line, v in zip(model.lines, shears, strict=True):
        own = np.einsum("c,icj->ij", line.axis, drift[line.levels])
        lead = np.argmax(np.abs(own), axis=1)
        rows = np.arange(len(line.levels))
        moved = own[rows, lead]
        k = np.divide(v[rows, lead], moved, out=np.zeros_like(moved), where=moved != 0)
        arm = line.point - centers[line.levels]
        turn = arm[:, 0] * line.axis[1] - arm[:, 1] * line.axis[0]
        lateral[line.levels] += k[:, None] * line.axis**2
        torsional[line.levels] += k * turn**2
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.sqrt(torsional[:, None] / lateral[:, ::-1])
