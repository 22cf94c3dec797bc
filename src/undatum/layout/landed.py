"""Loads where they land: along elements and on nodes of a frame."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum.layout.frame import Frame
from undatum.record import record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@record
class Landed:
    """Loads of one kind where they land. SI.

    On ``elements`` (k,) between ``reach`` (k, 2) from their start: ``load`` (k, 2, 3) N/m along
    local x, y and z at both ends of the stretch, linear between, and ``torque`` (k, 2) N m/m
    about local x, likewise. On ``nodes`` (j,): ``forces`` (j, 6) N and N m along and about X, Y and
    Z; ``of_panels`` whether the weight of the panels of walls is among them.
    """

    kind: str
    elements: Ints
    reach: Floats
    load: Floats
    torque: Floats
    nodes: Ints
    forces: Floats
    of_panels: bool = False


def both(first: Landed, second: Landed) -> Landed:
    """What lands of two, under the name of the first."""
    def joined(name: str) -> NDArray[Any]:
        return np.concatenate([getattr(first, name), getattr(second, name)])

    return Landed(first.kind, joined("elements"), joined("reach"), joined("load"),
                  joined("torque"), joined("nodes"), joined("forces"),
                  first.of_panels or second.of_panels)


def over_nodes(frame: Frame, one: Landed) -> Floats:
    """(M,) vertical load of a kind on the nodes, downwards, statically by the lever; the weight of
    walls on those at the levels above and below."""
    found = np.zeros(len(frame.points))
    np.add.at(found, one.nodes, -one.forces[:, 2])
    if one.of_panels and frame.panels is not None:
        quarter = np.repeat(frame.panels.weights / 4, 4)
        np.subtract.at(found, frame.panels.nodes.ravel(), quarter)
        np.add.at(found, frame.panels.carrying.ravel(), quarter)
    e = one.elements
    if e.size:
        down = -np.einsum("kej,kj->ke", one.load, frame.axes[e][:, :, 2])  # at both ends
        reach = one.reach[:, 1] - one.reach[:, 0]
        total = down.mean(axis=1) * reach
        middle = one.reach[:, 0] + reach * np.divide(
            down[:, 0] + 2 * down[:, 1], 3 * (down[:, 0] + down[:, 1]),
            out=np.full(e.size, 0.5), where=np.abs(down.sum(axis=1)) > 0)
        far = middle / frame.lengths[e]
        np.add.at(found, frame.ends[e, 0], total * (1 - far))
        np.add.at(found, frame.ends[e, 1], total * far)
    return found
