"""Centers of rigidity by story, and torsional radii of the whole structure."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.record import record
from undatum.standards.terms import Direction

Floats = NDArray[np.float64]


@record
class Rigidity:
    """``centers`` (n, 2) of rigidity by story and torsional ``radii`` (n, 2), top down, m.

    ``radii[:, 0]`` is the root of torsional stiffness over lateral stiffness along Y (it goes with
    an eccentricity along X), ``radii[:, 1]`` that over the stiffness along X, each of the whole
    structure: the same for every floor, but for floors that stand side by side, which have their
    own. Centers are not a number where a story has no shear.
    """

    centers: Floats
    radii: Floats


def rigidity(solver: Solver, forces: Mapping[Direction, Floats]) -> Rigidity:
    """Where the story shear passes when the floors move without turning, and how stiff they turn.

    All rotations are held, the static forces of each direction are applied, and the line shears
    of a story give the line of action of their resultant. For lines given by story stiffness it
    is the stiffness-weighted mean of the lines; for walls, whose share changes with height, it
    depends on the pattern of forces. A plane building has neither center nor radius.

    Radii come from the flexibility of the whole structure, floors free to turn: from the work that
    the static forces do along their direction, where they pass so that they turn nothing, and from
    that of moments of the same pattern. So what members and cores resist in torsion is in them, and
    a radius above that of gyration means a torsional mode faster than the sway of that pattern.
    """
    model = solver.model
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
    if "member twist" in model.quantities:
        moment += model.quantities["member twist"].of(shift, shift)
    # The moment about the origin is x V_y - y V_x for both sets: two equations for x and y.
    matrix = np.stack([shear[:, 1, :], -shear[:, 0, :]], axis=-1)
    loaded = np.abs(np.linalg.det(matrix)) > 1e-9 * np.abs(shear).max() ** 2
    centers = np.full((n, 2), np.nan)  # a story without shear has no line of action
    centers[loaded] = np.linalg.solve(matrix[loaded], moment[loaded][..., None])[..., 0]
    return Rigidity(centers, _radii(solver, forces))


def _radii(solver: Solver, forces: Mapping[Direction, Floats]) -> Floats:
    """(n, 2) torsional radii by the work of forces along Y and along X and of moments."""
    model = solver.model
    x, y, turn = model.diaphragms.freedoms.T
    found = np.full((model.n, 2), np.nan)
    for k, (direction, along) in enumerate((("Y", y), ("X", x))):
        push = forces[direction]  # type: ignore[index]
        moved = solver.solve(np.column_stack([
            model.loads(direction, push), model.loads(None, 0.0, push)]))
        work = np.array([[push * moved[f, c] for c in range(2)] for f in (along, turn)])
        for floors in _apart(model):
            sway, _, mixed, twist = work[:, :, floors].sum(axis=2).ravel()
            if twist > 0:  # the forces pass where they turn nothing
                found[floors, k] = np.sqrt(max(sway - mixed**2 / twist, 0.0) / twist)
    return found


def _apart(model: Model) -> list[NDArray[np.intp]]:
    """Floors whose radius is their own: those of each chain that is alone there, and the rest."""
    chains = model.chains
    count = np.bincount([i for chain in chains for i in chain], minlength=model.n)
    if len(chains) < 2:
        return [np.arange(model.n)]
    return [*(np.array([i for i in chain if count[i] == 1]) for chain in chains),
            np.flatnonzero(count != 1)]
