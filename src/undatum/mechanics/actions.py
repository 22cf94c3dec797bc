"""Section forces of members, reactions and displacements of nodes, as named quantities.

Components are ``axial``, ``shear_y``, ``shear_z``, ``torsion``, ``moment_y`` and ``moment_z``, in
the local axes of :mod:`undatum.layout.members`. At every section they are the action of the part
towards the end on the part towards the start: tension is positive.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse.csgraph import connected_components

from undatum.building.rules import COMPONENTS
from undatum.finding import several
from undatum.layout.frame import Frame, Member
from undatum.mechanics.framing import FrameModel
from undatum.mechanics.model import Model
from undatum.mechanics.quantity import Quantity
from undatum.record import record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
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


@record
class Foot:
    """What stands on the ground together: one column, or walls that meet; the places of its nodes
    among the supports, and where its moments are about, m."""

    name: str
    supports: Ints
    at: Floats


def feet(model: Model) -> tuple[Foot, ...]:
    """Feet of columns, then of walls, each by what stands there."""
    return model.memo.get("feet", lambda: _feet(framed_of(model).frame))


def _feet(frame: Frame) -> tuple[Foot, ...]:
    standing = {int(frame.ends[m.elements[0], 0]): m.axis for m in frame.members
                if m.kind == "column"}
    owner = {int(node): k for k, own in enumerate(wall_groups(frame)) for node in own[1].tolist()}
    alone = [k for k, node in enumerate(frame.supports.tolist()) if node not in owner]
    found = [Foot(standing.get(int(node), "({:.3f}, {:.3f}) m".format(*frame.points[node, :2])),
                  np.array([k]), frame.points[node]) for k in alone
             for node in [frame.supports[k]]]
    for name, nodes in wall_groups(frame):
        found.append(Foot(name, np.searchsorted(frame.supports, nodes),
                          frame.points[nodes].mean(axis=0)))
    return tuple(found)


def wall_groups(frame: Frame) -> list[tuple[str, Ints]]:
    """Walls that meet on the ground, by name, and their supported nodes."""
    panels = frame.panels
    if panels is None:
        return []
    on = np.isin(panels.nodes[:, :2], frame.supports).all(axis=1)
    pairs = panels.nodes[on, :2]
    n = len(frame.points)
    _, part = connected_components(sparse.coo_array(
        (np.ones(len(pairs)), tuple(pairs.T)), shape=(n, n)), directed=False)
    found = []
    for k in dict.fromkeys(part[pairs[:, 0]].tolist()):
        own = part[pairs[:, 0]] == k
        walls = list(dict.fromkeys(panels.wall[on][own].tolist()))
        core = next((name for name, of in panels.cores.items() if set(walls) <= set(of)), None)
        found.append((core or several(sorted(panels.walls[w].name for w in walls)),
                      np.unique(pairs[own])))
    # several feet of one name are counted from the lower left, whatever is listed first
    found.sort(key=lambda one: tuple(np.round(frame.points[one[1], :2].mean(axis=0), 6)))
    every = [name for name, _ in found]
    return [(name if every.count(name) == 1 else f"{name}, foot {every[:k + 1].count(name)}", own)
            for k, (name, own) in enumerate(found)]


def foot_sums(model: Model) -> sparse.csr_array:
    """(6 feet, 6 S) that brings reactions of the supported nodes together, foot by foot."""
    def make() -> sparse.csr_array:
        frame = framed_of(model).frame
        rows, columns, values = [], [], []
        for f, foot in enumerate(feet(model)):
            for k in foot.supports.tolist():
                x, y, z = frame.points[frame.supports[k]] - foot.at
                arms = [(0, 0, 1.0), (1, 1, 1.0), (2, 2, 1.0), (3, 3, 1.0), (4, 4, 1.0),
                        (5, 5, 1.0), (3, 2, y), (3, 1, -z), (4, 0, z), (4, 2, -x), (5, 1, x),
                        (5, 0, -y)]
                for i, j, value in arms:
                    if value:
                        rows.append(6 * f + i)
                        columns.append(6 * k + j)
                        values.append(value)
        return sparse.csr_array((values, (rows, columns)),
                                shape=(6 * len(feet(model)), 6 * len(frame.supports)))

    return model.memo.get("foot sums", make)


def reactions(model: Model) -> Quantity:
    """Forces and moments of the ground on the structure, foot by foot, in X, Y and Z; moments of
    walls are about the middle of their foot. Labels are ``foot`` and ``component``."""
    names = [foot.name for foot in feet(model)]
    return Quantity(
        "reaction", "", sparse.csr_array(foot_sums(model) @ framed_of(model).support_rows),
        {"foot": tuple(name for name in names for _ in REACTIONS),
         "component": REACTIONS * len(names)})


def reactions_and_sum(model: Model) -> tuple[list[str], Quantity]:
    """The feet and, at last, the sum of their forces: names, and six rows of each (no moments)."""
    own = reactions(model).rows
    names = [*(foot.name for foot in feet(model)), "sum"]
    forces = sparse.csr_array(sparse.diags_array([1.0] * 3 + [0.0] * 3))
    whole = sparse.hstack([forces] * (len(names) - 1)) @ own
    return names, Quantity("reaction", "", sparse.csr_array(
        sparse.vstack([own, whole])), {"foot": tuple(n for n in names for _ in range(6))})


def node_displacements(model: Model, nodes: Sequence[int]) -> Quantity:
    """Displacements along X, Y, Z and rotations about them of nodes; label ``node``, its number."""
    framed = framed_of(model)
    at = (6 * np.asarray(nodes)[:, None] + np.arange(6)).ravel()
    return Quantity(
        "node displacement", "", sparse.csr_array(framed.follow[at]),
        {"node": tuple(str(n) for n in nodes for _ in range(6)),
         "component": NODE_MOTIONS * len(nodes)})
