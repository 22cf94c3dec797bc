"""Flat panels between nodes, and the walls they make up."""

from __future__ import annotations

from dataclasses import field

import numpy as np
from numpy.typing import NDArray

from undatum.building.families import XY
from undatum.record import Memo, record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Hole = tuple[float, float, float, float]
CLOSE = 1e-6  # m: points nearer than this are one


@record
class WallRun:
    """A wall as it is laid out: ends in plan, its ``stories`` (places of the levels at their top),
    top down, and in each its thickness, weight per volume, bottom and top, ``strength`` against a
    force along it (not a number where it is not given) and ``holes``, as from
    and to along the wall, then from and to in elevation. ``flanges``: effective width on either
    side of what meets it, or the standard for that; None where nobody asks. SI.
    """

    name: str
    start: XY
    end: XY
    stories: tuple[int, ...]
    thickness: tuple[float, ...]
    unit_weight: tuple[float, ...]
    reach: tuple[tuple[float, float], ...]
    holes: tuple[tuple[Hole, ...], ...]
    strength: tuple[float, ...]
    flanges: float | str | None = None

    @property
    def length(self) -> float:
        """m."""
        return float(np.hypot(self.end[0] - self.start[0], self.end[1] - self.start[1]))

    @property
    def along(self) -> Floats:
        """(2,) unit vector from start to end."""
        return np.subtract(self.end, self.start) / self.length

    @property
    def middle(self) -> Floats:
        """(2,) its middle in plan, m."""
        return np.add(self.start, self.end) / 2

    def crossing(self, other: WallRun) -> tuple[float, float] | None:
        """How far along this wall and along another their lines cross in plan, m; None where they
        are parallel or do not reach each other."""
        sine = self.sine(other)
        if abs(sine) < 1e-9:
            return None
        d, u, v = np.subtract(other.start, self.start), self.along, other.along
        s, t = (d[0] * v[1] - d[1] * v[0]) / sine, (d[0] * u[1] - d[1] * u[0]) / sine
        inside = -CLOSE < s < self.length + CLOSE and -CLOSE < t < other.length + CLOSE
        return (float(s), float(t)) if inside else None

    def sine(self, other: WallRun) -> float:
        """Of the angle from this wall to another."""
        u, v = self.along, other.along
        return float(u[0] * v[1] - u[1] * v[0])

    def segments(self, place: int) -> list[tuple[float, float]]:
        """From where to where it stands in the story at a ``place`` of ``stories``, beside its
        openings."""
        found, at = [], 0.0
        for low, high in sorted((h[0], h[1]) for h in self.holes[place]):
            if low - at > CLOSE:
                found.append((at, low))
            at = max(at, high)
        return [*found, (at, self.length)] if self.length - at > CLOSE else found


@record
class Panels:
    """``P`` flat panels with four corners. SI.

    ``nodes`` (P, 4) counter-clockwise, from the lower corner nearer to the start of the wall;
    ``wall`` (P,) index into ``walls``, ``story`` (P,) the level at its top; ``box`` (P, 4) from and
    to along the wall and in elevation; ``thickness``, ``modulus``, ``poisson`` and ``weight``
    (P,), the last per volume; ``kept`` and ``kept_for_drift`` (P, 2) shares of the stiffness along
    the panel and in shear; ``over`` (P,) whether it lies over or under an opening; ``carrying``
    (P, 4) nodes of the levels above and below that its weight stands on. ``edges`` (J, 2) nodes
    along the tops of walls, which take floor loads; ``links`` (L, 2) nodes joined rigidly, up the
    side where a beam frames in, and ``link_size`` (L, 6) modulus, thickness and depth of those, the
    wall they belong to, and the unit vector along the beam; ``loose`` nodes of levels that floors
    don't hold, over openings; ``cores`` walls by the name of their core; ``beams_within`` how many
    bays of beams lie within walls and are left out; ``feet`` (F, 2) nodes along feet on springs and
    ``feet_stiffness`` (F,) up and down of each stretch, N/m.
    """

    walls: tuple[WallRun, ...]
    nodes: Ints
    wall: Ints
    story: Ints
    box: Floats
    thickness: Floats
    modulus: Floats
    poisson: Floats
    weight: Floats
    kept: Floats
    kept_for_drift: Floats
    over: NDArray[np.bool_]
    carrying: Ints
    edges: Ints
    links: Ints
    link_size: Floats
    loose: Ints
    cores: dict[str, tuple[int, ...]]
    beams_within: int = 0
    feet: Ints = field(default_factory=lambda: np.zeros((0, 2), dtype=np.intp))
    feet_stiffness: Floats = field(default_factory=lambda: np.zeros(0))
    memo: Memo = field(default_factory=Memo, init=False)

    def __len__(self) -> int:
        return len(self.nodes)

    @property
    def weights(self) -> Floats:
        """(P,) N."""
        return np.asarray(self.weight * self.thickness * (self.box[:, 1] - self.box[:, 0])
                          * (self.box[:, 3] - self.box[:, 2]))

    @property
    def along(self) -> Floats:
        """(P, 2) unit vectors along their walls."""
        return np.array([w.along for w in self.walls]).reshape(-1, 2)[self.wall]


@record
class Slabs:
    """Panels of floors that deform in their plane, ``Q`` of them, with no stiffness across it. SI.

    ``nodes`` (Q, 4) counter-clockwise as seen from above, the last twice in triangles; ``level``
    (Q,) they lie on; ``sizes`` (Q, 3) E t / (1 - nu2), G t and nu, as far as they are kept.
    """

    nodes: Ints
    level: Ints
    sizes: Floats

    def __len__(self) -> int:
        return len(self.nodes)
