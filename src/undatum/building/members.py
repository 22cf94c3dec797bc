"""Members that the rules make: columns, beams and braces between nodes.

A member is physical: a column is one story high, a beam runs from support to support whatever
crosses it or stands on it. Its name is made from axes and levels, so that it stays the same when
something else changes. Between nodes it is divided into elements.

Local axes. x runs from start to end: upwards in columns and braces, along X (or Y, where it runs
along Y) in beams. In beams and braces z lies in the vertical plane, upwards, and y = z cross x. In
columns y is X turned by ``turned`` towards Y, and z = x cross y.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from undatum.building.naming import selection
from undatum.building.rules import Hinged, Kind
from undatum.building.shapes import Properties
from undatum.errors import nearest
from undatum.record import Memo, record

if TYPE_CHECKING:
    from undatum.building.axes import Axes
    from undatum.building.whole import Building

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
XY = tuple[float, float]
CLOSE = 1e-6  # m: points nearer than this are one


@record
class Member:
    """A physical member: ``axis`` it stands on (a column: both, from the crossing), and ``level``,
    that at its top (a beam: its own). ``elements`` are its own, in order from start to end.
    ``strength`` is that of a column against a sway of its story, of a brace along itself, N; not a
    number where it is not given. ``turned``, ``hinged``, ``stiff_ends`` and ``released`` are
    as rules give them."""

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
    infinite where fixed.
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
    def lengths(self) -> Floats:
        """(E,) between nodes, m."""
        return self.memo.get("lengths", lambda: np.linalg.norm(
            self.points[self.ends[:, 1]] - self.points[self.ends[:, 0]], axis=1))


_KINDS = {"columns": "column", "beams": "beam", "braces": "brace"}


def chosen_members(building: Building, text: str) -> tuple[Member, ...]:
    """The members a text names: a name, or ``"columns on B at L1..L3"``, ``"all at Roof"``.

    Columns and braces belong to the level at their top. Raises ValueError where it names nothing.
    """
    frame = building.frame
    if frame is None:
        raise ValueError("the building has no members; describe them under building.members")
    exact = [m for m in frame.members if m.name == text.strip()]
    if exact:
        return tuple(exact)
    words = text.split(maxsplit=1)
    if words and words[0] in _KINDS.values():
        near = nearest(text.strip(), [m.name for m in frame.members])
        raise ValueError(f"there is no member {text.strip()!r}"
                         + (f"; did you mean {near!r}?" if near else ""))
    kind = _KINDS.get(words[0]) if words else None
    rest = (words[1] if len(words) > 1 else "all") if kind else text
    chosen = selection(rest)
    assert building.axes is not None
    axes = building.axes
    on, crossings = axes.chosen(chosen.on) if chosen.on else ([], [])
    levels = set(chosen.levels([level.name for level in building.levels][-2::-1]))
    found = []
    for m in frame.members:
        if (kind and m.kind != kind) or m.level not in levels:
            continue
        ends = (m.start[:2], m.end[:2])
        where = [a for a in on if np.all(np.abs(axes.off(a, ends)) < CLOSE)]
        at = [c for c in crossings if all(
            max(abs(p[0] - axes.crossings[c][0]), abs(p[1] - axes.crossings[c][1])) < CLOSE
            for p in ends)]
        if chosen.on and not where and not at:
            continue
        if chosen.low and not any(_within(axes, a, ends, chosen.low, chosen.high) for a in where):
            continue
        found.append(m)
    if not found:
        raise ValueError(f"{text!r} names no member"
                         '; write such as "columns on B at L1..L3"')
    return tuple(found)


def _within(axes: Axes, axis: str, ends: tuple[XY, XY], low: str, high: str) -> bool:
    """Whether a member lies between two axes that cross its own."""
    first, last = axes.stretch(axis, low, high)
    at = axes.along(axis, ends)
    return bool(np.all((first - CLOSE <= at) & (at <= last + CLOSE)))


def weights_of(frame: Frame) -> Mapping[tuple[int, Kind], tuple[float, XY, float]]:
    """Self-weight by level and kind: N, its center (m) and the second moment per unit about it, m2.

    A beam's stands on its level; half of a column or brace goes to each of its ends. It is spread
    along the elements.
    """
    area = np.array([p.area for p in frame.sections])[frame.section]
    weight = area * frame.materials[frame.section, 2] * frame.lengths
    kinds = frame.kinds
    a, b = frame.ends.T
    p, q = frame.points[a, :2], frame.points[b, :2]
    found: dict[tuple[int, Kind], tuple[float, XY, float]] = {}
    for kind in dict.fromkeys(m.kind for m in frame.members):
        e = np.flatnonzero(kinds == kind)
        if kind == "beam":
            floors, amount, at = frame.floors[a[e]], weight[e], (p[e] + q[e]) / 2
            polar = np.sum((q[e] - p[e]) ** 2, axis=1) / 12
        else:
            floors = np.concatenate([frame.floors[a[e]], frame.floors[b[e]]])
            amount, at = np.tile(weight[e] / 2, 2), np.concatenate([p[e], q[e]])
            polar = np.zeros(len(amount))
        for floor in np.unique(floors):
            own = floors == floor
            total = float(amount[own].sum())
            center = amount[own] @ at[own] / total if total else at[own].mean(axis=0)
            about = np.sum((at[own] - center) ** 2, axis=1) + polar[own]
            found[int(floor), kind] = (
                total, (float(center[0]), float(center[1])),
                float(amount[own] @ about) / total if total else 0.0)
    return found
