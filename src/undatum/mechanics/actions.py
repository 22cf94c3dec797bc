"""Section forces of members, reactions and displacements of nodes, as named quantities.

Components are ``axial``, ``shear_y``, ``shear_z``, ``torsion``, ``moment_y`` and ``moment_z``, in
the local axes of :mod:`undatum.building.members`. At every section they are the action of the part
towards the end on the part towards the start: tension is positive.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.building.frame import Member
from undatum.building.rules import COMPONENTS
from undatum.mechanics.framing import FrameModel
from undatum.mechanics.model import Model
from undatum.mechanics.quantity import Quantity

Floats = NDArray[np.float64]
ACTIONS = COMPONENTS  # of section forces: those that ends may release
NODE_MOTIONS = ("X", "Y", "Z", "rotation X", "rotation Y", "rotation Z")
REACTIONS = ("force X", "force Y", "force Z", "moment X", "moment Y", "moment Z")


def framed_of(model: Model) -> FrameModel:
    """The members of a model. Raises ValueError where it has none."""
    if model.framed is None:
        raise ValueError("the building has no members; its lines have shears by story")
    return model.framed


def place_name(at: float) -> str:
    """What a fraction of the length is called: ``start``, ``end`` or the number."""
    return "start" if at == 0 else "end" if at == 1 else f"{at:g}"


def rid_of_round_off(values: Floats) -> Floats:
    """(..., 6) with zeros for what is nothing beside the largest force, and the largest moment."""
    found = np.array(values)
    for part in (found[..., :3], found[..., 3:]):
        part[np.abs(part) < 1e-10 * np.abs(part).max(initial=0.0)] = 0.0
    return found


def section_forces(
    model: Model, members: Sequence[Member], at: Sequence[float] = (0.0, 1.0)
) -> Quantity:
    """Section forces of members at fractions ``at`` of their length, member by member.

    0 and 1 are the faces at the ends (where they meet others, if stiff ends are asked for). There
    is no load between them in the sets for the earthquake: what lies between two faces is linear.
    Labels are ``member``, ``at`` (``start``, ``end`` or the fraction) and ``component``.
    """
    framed = framed_of(model)
    frame = framed.frame
    every = np.array([e for m in members for e in m.elements], dtype=np.intp)
    faces = dict(zip(every.tolist(), framed.face_rows(every), strict=True))
    lengths = frame.lengths
    rows: list[Floats] = []
    labels: dict[str, list[str]] = {"member": [], "at": [], "component": []}
    for m in members:
        own = np.array(m.elements)
        reach = np.concatenate([[0.0], np.cumsum(lengths[own])]) / lengths[own].sum()
        for place in at:
            k = min(max(int(np.searchsorted(reach, place, side="right")) - 1, 0), len(own) - 1)
            e = int(own[k])
            from_start = (place - reach[k]) * lengths[own].sum()
            clear = lengths[e] - frame.stiff[e].sum()
            t = float(np.clip((from_start - frame.stiff[e, 0]) / clear, 0.0, 1.0))
            rows.append((1 - t) * faces[e][:6] + t * faces[e][6:])
            labels["member"] += [m.name] * 6
            labels["at"] += [place_name(place)] * 6
            labels["component"] += ACTIONS
    return Quantity("section force", "", sparse.csr_array(np.concatenate(rows)),
                    {k: tuple(v) for k, v in labels.items()})


def reactions(model: Model) -> Quantity:
    """Forces and moments of the ground on the feet of columns, foot by foot, in X, Y and Z.

    Labels are ``foot`` (the plan point in m) and ``component``.
    """
    framed = framed_of(model)
    frame = framed.frame
    place = {int(node): k for k, node in enumerate(frame.supports)}
    total = np.zeros((len(frame.supports), 6, framed.stiffness.shape[0]))
    which = np.flatnonzero(np.isin(frame.ends, frame.supports).any(axis=1))
    rows = framed.end_rows(which)
    for e, own in zip(which, rows, strict=True):
        for k, node in enumerate(frame.ends[e].tolist()):
            if node in place:
                total[place[node]] += own[6 * k:6 * k + 6]
    names = feet(model)
    return Quantity(
        "reaction", "", sparse.csr_array(total.reshape(-1, total.shape[2])),
        {"foot": tuple(name for name in names for _ in REACTIONS),
         "component": REACTIONS * len(names)})


def reactions_and_sum(model: Model) -> tuple[list[str], Quantity]:
    """The feet and, at last, the sum of their forces: names, and six rows of each (no moments)."""
    quantity = reactions(model)
    names = [*feet(model), "sum"]
    forces = sparse.csr_array(sparse.diags_array([1.0] * 3 + [0.0] * 3))
    whole = sparse.hstack([forces] * (len(names) - 1)) @ quantity.rows
    return names, Quantity("reaction", "", sparse.csr_array(
        sparse.vstack([quantity.rows, whole])), {"foot": tuple(n for n in names for _ in range(6))})


def feet(model: Model) -> list[str]:
    """Names of the supports: the column that stands there, or its plan point."""
    frame = framed_of(model).frame
    standing = {int(frame.ends[m.elements[0], 0]): m.axis for m in frame.members
                if m.kind == "column"}
    return [standing.get(int(node), "({:.3f}, {:.3f}) m".format(*frame.points[node, :2]))
            for node in frame.supports]


def node_displacements(model: Model, nodes: Sequence[int]) -> Quantity:
    """Displacements along X, Y, Z and rotations about them of nodes; label ``node``, its number."""
    framed = framed_of(model)
    at = (6 * np.asarray(nodes)[:, None] + np.arange(6)).ravel()
    return Quantity(
        "node displacement", "", sparse.csr_array(framed.follow[at]),
        {"node": tuple(str(n) for n in nodes for _ in range(6)),
         "component": NODE_MOTIONS * len(nodes)})
