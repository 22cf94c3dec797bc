"""Members that the rules make: columns, beams and braces between nodes.

A member is physical: a column is one story high, a beam runs from support to support whatever
crosses it or stands on it. Its name is made from axes and levels, so that it stays the same when
something else changes. Between nodes it is divided into elements.

Local axes. x runs from start to end: upwards in columns and braces, along X (or Y, where it runs
along Y) in beams. In beams and braces z lies in the vertical plane, upwards, and y = z cross x. In
columns y is X turned by ``turned`` towards Y, and z = x cross y.
"""

from __future__ import annotations

from dataclasses import field, replace

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.building.rules import Hinged, Kind
from undatum.building.shapes import Properties
from undatum.layout.panels import Panels, Slabs
from undatum.record import Memo, record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@record
class Member:
    """A physical member: ``axis`` it stands on (a column: both, from the crossing), and ``level``,
    that at its top (a beam: its own). ``elements`` are its own, in order from start to end.
    ``strength`` is that of a column against a sway of its story, of a brace along itself, N, of a
    beam the moment at either end, N m; not a number where it is not given. ``secondary`` ones carry
    gravity alone; an ``infill`` is a strut in place of masonry, no part of the lateral system.
    ``turned``, ``hinged``, ``stiff_ends`` and ``released`` are as rules give them."""

    name: str
    kind: Kind
    axis: str
    level: str
    section: str
    elements: tuple[int, ...]
    start: tuple[float, float, float]
    end: tuple[float, float, float]
    strength: float = float("nan")
    turned: float = 0.0
    hinged: Hinged = "no"
    stiff_ends: float = 0.0
    released: str = ""
    secondary: bool = False
    infill: bool = False

    @property
    def length(self) -> float:
        """m."""
        return float(np.linalg.norm(np.subtract(self.end, self.start)))


@record
class Frame:
    """Members, nodes and elements. SI.

    ``points`` (M, 3) of the nodes and ``floors`` (M,) the level of each, top down. For the ``E``
    elements: ``ends`` (E, 2) nodes, ``member`` (E,), ``section`` (E,) index into ``sections``,
    ``axes`` (E, 3, 3) unit vectors along local x, y and z as rows, ``released`` (E, 12) what the
    ends don't pass on, along local x, y and z and about them, first at the start, ``stiff`` (E, 2)
    lengths at both ends that don't deform, ``kept`` (E, 5)
    shares in bending about y and z, torsion, axial and shear, ``kept_for_drift`` those where the
    forces for drift act, ``shifted`` (E, 2) distance along
    local y and z from the line between the nodes to the axis. ``supports`` (S,) nodes that are
    held and ``springs`` (S, 6) stiffness against motion along X, Y and Z and rotation about them,
    infinite where fixed. ``panels`` are those of walls, ``slabs`` those of
    floors that deform; nodes between levels have the floor -1. ``beside`` (6 M, 6 M) is what
    lateral lines add to the stiffness where they meet floors that deform.
    """

    members: tuple[Member, ...]
    points: Floats
    floors: Ints
    ends: Ints
    member: Ints
    section: Ints
    axes: Floats
    released: NDArray[np.bool_]
    stiff: Floats
    kept: Floats
    kept_for_drift: Floats
    shifted: Floats
    sections: tuple[Properties, ...]
    materials: Floats  # (sections, 3): modulus, shear modulus, unit weight
    supports: Ints
    springs: Floats
    panels: Panels | None = None
    slabs: Slabs | None = None
    beside: sparse.csr_array | None = None
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def hinged(self) -> NDArray[np.bool_]:
        """(E, 2) ends without bending moments."""
        return self.memo.get("hinged", lambda: np.column_stack(
            [self.released[:, [4, 5]].all(axis=1), self.released[:, [10, 11]].all(axis=1)]))

    @property
    def kinds(self) -> NDArray[np.str_]:
        """(E,) kind of the member of every element."""
        return self.memo.get(
            "kinds", lambda: np.array([m.kind for m in self.members])[self.member])

    @property
    def transfer(self) -> tuple[str, ...]:
        """Names of the columns that stand on beams."""
        heads = {int(self.ends[m.elements[-1], 1]) for m in self.members if m.kind != "beam"}
        heads.update(int(s) for s in self.supports)
        return tuple(m.name for m in self.members
                     if m.kind == "column" and int(self.ends[m.elements[0], 0]) not in heads)

    @property
    def carriers(self) -> Ints:
        """(E + J, 2) nodes of the elements, then of the tops of walls, which take floor loads."""
        return self.ends if self.panels is None else np.concatenate([self.ends, self.panels.edges])

    @property
    def for_drift(self) -> Frame:
        """As stiff as it is where the forces for drift act."""
        panels = self.panels
        return replace(self, kept=self.kept_for_drift, panels=None if panels is None else replace(
            panels, kept=panels.kept_for_drift))

    @property
    def other_for_drift(self) -> bool:
        """Whether that is another stiffness."""
        panels = self.panels
        return bool((self.kept != self.kept_for_drift).any()) or (
            panels is not None and bool((panels.kept != panels.kept_for_drift).any()))

    @property
    def lengths(self) -> Floats:
        """(E,) between nodes, m."""
        return self.memo.get("lengths", lambda: np.linalg.norm(
            self.points[self.ends[:, 1]] - self.points[self.ends[:, 0]], axis=1))
