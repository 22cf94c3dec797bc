"""The structure with the masses of its floors moved, for accidental torsion by modes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy import sparse

from undatum.mechanics.solver import Solver


def moved_masses(solver: Solver, direction: str, share: float) -> Solver:
    """The same structure with the mass of every rigid floor moved across a direction of force.

    By a ``share`` of the dimension of the floor across it: towards positive Y for X, positive X
    for Y. Freedoms stay where they are, so that the mass matrix couples them.
    """
    model = solver.model
    d = model.diaphragms
    away = np.where(model.is_open, 0.0, share * d.across(direction))
    axis, sign = (0, -1.0) if direction == "X" else (1, 1.0)
    along, turn = d.freedoms[:, axis], d.freedoms[:, 2]
    coupling = sign * d.mass * away
    more = sparse.csr_array(
        (np.concatenate([coupling, coupling, d.mass * away**2]),
         (np.concatenate([along, turn, turn]), np.concatenate([turn, along, turn]))),
        shape=model.mass.shape)
    return replace(solver, model=replace(model, mass=sparse.csr_array(model.mass + more)))
