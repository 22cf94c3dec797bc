"""Loads where they land: along elements and on nodes of a frame."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from undatum.record import record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@record
class Landed:
    """Loads of one kind where they land. SI.

    On ``elements`` (k,) between ``reach`` (k, 2) from their start: ``load`` (k, 2, 3) N/m along
    local x, y and z at both ends of the stretch, linear between, and ``torque`` (k,) N m/m about
    local x. On ``nodes`` (j,): ``forces`` (j, 6) N and N m along and about X, Y and Z.
    """

    kind: str
    elements: Ints
    reach: Floats
    load: Floats
    torque: Floats
    nodes: Ints
    forces: Floats


def both(first: Landed, second: Landed) -> Landed:
    """What lands of two, under the name of the first."""
    return Landed(first.kind, *(np.concatenate([getattr(first, k), getattr(second, k)])
                                for k in ("elements", "reach", "load", "torque", "nodes",
                                          "forces")))
