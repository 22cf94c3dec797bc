"""Reactions of walls as line loads: what the ground does along the foot of a wall, per length."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.errors import Fault, InputError
from undatum.layout.frame import Frame
from undatum.layout.panels import Panels
from undatum.mechanics.actions import framed_of
from undatum.mechanics.cases import StaticCase
from undatum.mechanics.panels import shells_of
from undatum.mechanics.quantity import Quantity
from undatum.readings.of_walls import walled
from undatum.readings.readable import Structure, Thing, growth, known
from undatum.record import record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
UP = np.array([0.0, 0.0, 1.0])


@record
class _Edges:
    """Rows (3 e, ...) of the forces up, along and across, per length, on lower edges of panels: of
    what the panels themselves bring (``inner``, from the motion of the nodes) and of the rest of
    the reactions (``rest``, from those of the supported nodes, shared by length)."""

    inner: sparse.csr_array
    rest: sparse.csr_array


def feet(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """What the ground does along the feet of walls, or of one, per length of wall, panel by panel.

    Raises InputError where no such wall stands on the ground.
    """
    frame, framed = walled(on), framed_of(on.model)
    panels = frame.panels
    assert panels is not None
    standing = standing_panels(panels, frame.supports)
    names = [panels.walls[w].name for w in dict.fromkeys(panels.wall[standing].tolist())]
    if not names:
        raise InputError([Fault("", "no wall stands on the ground", "read walls, or reactions")])
    if which:
        wanted = names[known(which, names, "wall that stands on the ground")]
    edges = frame.memo.get("feet of walls", lambda: _edges(frame, panels, standing))
    own = np.array([k for k, p in enumerate(standing.tolist())
                    if not which or panels.walls[panels.wall[p]].name == wanted])
    rows = (3 * own[:, None] + np.arange(3)).ravel()
    inner, rest = sparse.csr_array(edges.inner[rows]), sparse.csr_array(edges.rest[rows])

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(inner @ case.members.displacement.ravel()
                          + rest @ case.members.reactions.ravel())

    box = panels.box[standing[own]]
    return Thing(
        "foot_forces", "Base reactions along walls, per length", Quantity(
            "foot force", "line load", sparse.csr_array(
                framed.applied(inner) + rest @ framed.support_rows),
            {"panel": tuple(str(p) for p in standing[own].tolist() for _ in range(3))}),
        {"wall": tuple(panels.walls[panels.wall[p]].name for p in standing[own].tolist()),
         "from start": tuple(f"{a:.3f} .. {b:.3f} m" for a, b in box[:, :2].tolist())},
        (("up", "line load"), ("along", "line load"), ("across", "line load")), still,
        growth(on.model, box[:, 2], box[:, 2], 3),
        "Actions of the ground on the wall, averaged over each panel: up (negative is uplift), "
        "along the wall from its start, and across it. Integrated over the length they are the "
        "reaction of the foot. At the ends of a fixed foot they grow as panels get smaller; "
        "average them over the length over which the foundation spreads them.",
        marked=("uplift", "up"), together=(0, 1, 2), by_source=True)


def standing_panels(panels: Panels, supports: Ints) -> Ints:
    """The panels whose lower edge stands on supported nodes."""
    return np.flatnonzero(np.isin(panels.nodes[:, :2], supports).all(axis=1))


def _edges(frame: Frame, panels: Panels, standing: Ints) -> _Edges:
    """The lower edges of panels on the ground, and how reactions are shared among them."""
    count = len(standing)
    corners = panels.nodes[standing, :2]
    lengths = np.diff(panels.box[standing, :2], axis=1).ravel()
    along = np.column_stack([panels.along[standing], np.zeros(count)])
    axes = np.stack([np.broadcast_to(UP, along.shape), along, np.cross(UP, along)], axis=1)
    # every supported node shares what else it takes by the length of the edges that meet there
    supports = np.searchsorted(frame.supports, corners)
    at_node = np.bincount(supports.ravel(), np.repeat(lengths, 2), minlength=len(frame.supports))
    share = lengths[:, None] / at_node[supports]  # (e, 2)
    spread = _blocks(share[:, :, None, None] * axes[:, None], 6 * supports,
                     6 * len(frame.supports))
    # what each panel brings to its two supported nodes is its own, along X, Y and Z
    shells = shells_of(frame)
    assert shells is not None
    forces = shells.matrices[shells.which[standing]][:, [0, 1, 2, 6, 7, 8]]
    columns = np.broadcast_to(shells.at[standing][:, None], forces.shape)
    own = np.arange(6 * count).reshape(-1, 6)
    brought = sparse.csr_array(
        (forces.ravel(), (np.broadcast_to(own[:, :, None], forces.shape).ravel(),
                          columns.ravel())), shape=(6 * count, 6 * len(frame.points)))
    gather = sparse.csr_array(
        (np.ones(6 * count), ((6 * supports.ravel()[:, None] + np.arange(3)).ravel(),
                              np.arange(6 * count))),
        shape=(6 * len(frame.supports), 6 * count))
    mine = _blocks(np.broadcast_to(axes[:, None], (count, 2, 3, 3)), own[:, ::3], 6 * count)
    scale = sparse.diags_array(np.repeat(1 / lengths, 3))
    return _Edges(sparse.csr_array(scale @ (mine - spread @ gather) @ brought),
                  sparse.csr_array(scale @ spread))


def _blocks(values: Floats, at: Ints, count: int) -> sparse.csr_array:
    """(3 e, count) with blocks (e, 2, 3, 3) from the columns ``at`` (e, 2) on."""
    rows = np.broadcast_to((3 * np.arange(len(at))[:, None, None, None]
                            + np.arange(3)[None, None, :, None]), values.shape)
    columns = np.broadcast_to(at[:, :, None, None] + np.arange(3), values.shape)
    return sparse.csr_array((values.ravel(), (rows.ravel(), columns.ravel())),
                            shape=(3 * len(at), count))
