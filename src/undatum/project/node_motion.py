"""Displacements and rotations of the nodes of chosen members, by set, by mode and by load case."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import Readable, SpectrumSet
from undatum.building.members import Frame, Member
from undatum.building.whole import Building
from undatum.mechanics.actions import (
    NODE_MOTIONS,
    framed_of,
    node_displacements,
    rid_of_round_off,
)
from undatum.mechanics.cases import LoadCases
from undatum.mechanics.model import Model
from undatum.table import Column, Table, column

Floats = NDArray[np.float64]


def node_motion_table(
    model: Model, building: Building, members: Sequence[Member], sets: Sequence[Readable], *,
    signed: bool = False,
) -> Table:
    """The nodes of members under every set, as the forces of the set move them.

    ``signed`` gives the peaks of spectrum sets the signs of the mode with the largest base shear.
    """
    nodes = _nodes(framed_of(model).frame, members)
    quantity = node_displacements(model, nodes)
    values = np.array([
        one.signed(quantity, one.dominant(model)) if signed and isinstance(one, SpectrumSet)
        else one.of(quantity) for one in sets])
    return Table(
        "node_motion", "Displacement of the nodes of members",
        _columns(building, framed_of(model).frame, nodes, values,
                 [("set", [one.name for one in sets])]),
        note="Elastic, under the forces of the set, without amplification. Values of spectrum sets "
        "are peaks, each combined from its own modal values, "
        + ("with the signs they have in the mode with the largest base shear: "
           + "; ".join(f"{one.name}: {one.labels[one.dominant(model)]}" for one in sets
                       if isinstance(one, SpectrumSet)) + "." if signed else "without sign."))


def modal_node_motion_table(
    model: Model, building: Building, members: Sequence[Member], sets: Sequence[SpectrumSet],
) -> Table:
    """The nodes of members in every mode of the spectrum sets, scaled, with their signs."""
    nodes = _nodes(framed_of(model).frame, members)
    quantity = node_displacements(model, nodes)
    values = np.concatenate([one.scale * one.modal_values(quantity).T for one in sets])
    return Table(
        "modal_node_motion", "Displacement of the nodes of members, mode by mode",
        _columns(building, framed_of(model).frame, nodes, values, [
            ("set", [one.name for one in sets for _ in one.labels]),
            ("mode", [label for one in sets for label in one.labels])]),
        note="Peaks in each mode with its signs, scaled, without accidental torsion.")


def case_node_motion_table(
    model: Model, building: Building, members: Sequence[Member], found: LoadCases
) -> Table:
    """The nodes of members under every load case."""
    frame = framed_of(model).frame
    nodes = _nodes(frame, members)
    names = [name for name, _ in found.on_members]
    values = np.array([case.displacement.reshape(-1, 6)[nodes].ravel()
                       for _, case in found.on_members])
    return Table(
        "case_node_motion", "Displacement of the nodes of members under load cases",
        _columns(building, frame, nodes, values, [("case", names)]),
        note="First order, loads in full, without any factor.")


def _nodes(frame: Frame, members: Sequence[Member]) -> list[int]:
    """The nodes at the ends of members, and those between where others meet them."""
    every = [frame.ends[list(m.elements)].ravel().tolist() for m in members]
    return list(dict.fromkeys(node for own in every for node in own))


def _columns(
    building: Building, frame: Frame, nodes: Sequence[int], values: Floats,
    by: Sequence[tuple[str, Sequence[str]]],
) -> tuple[Column, ...]:
    """A row for each node and what ``by`` names, values (len(by), 6 nodes)."""
    motion = rid_of_round_off(values.reshape(len(values), len(nodes), 6)).transpose(1, 0, 2)
    count = motion.shape[1]
    crossings = {} if building.axes is None else {
        (round(x, 3), round(y, 3)): name for name, (x, y) in building.axes.crossings.items()}
    at = frame.points[list(nodes)]
    named = [crossings.get((round(x, 3), round(y, 3)), f"({x:.3f}, {y:.3f}) m")
             for x, y, _ in at.tolist()]
    levels = [building.levels[i].name for i in frame.floors[list(nodes)].tolist()]
    return (
        column("node", "", [name for name in named for _ in range(count)]),
        column("level", "", [name for name in levels for _ in range(count)]),
        *(column(head, "", [said for _ in nodes for said in own]) for head, own in by),
        *(column(name if k > 2 else f"displacement {name}", "angle" if k > 2 else "displacement",
                 motion[..., k].ravel(), 6 if k > 2 else 4) for k, name in enumerate(NODE_MOTIONS)),
    )
