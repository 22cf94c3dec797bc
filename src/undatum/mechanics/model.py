"""The structure as the computer sees it: labelled freedoms, stiffness, mass and diaphragms.

Nothing in here knows what the structure is made of. A model has ``N`` freedoms with labels; its
diaphragms say which of them are the motion of a floor, and which diaphragm each story stands on.
Whatever acts on a floor reaches the freedoms through :attr:`Model.spread`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import sparse

from undatum.mechanics.lines import LateralLine
from undatum.mechanics.quantity import Quantity
from undatum.record import FixedDict, Memo, fixed, record
from undatum.standards.terms import DIRECTIONS, Direction

if TYPE_CHECKING:
    from undatum.mechanics.floors import OpenFloor
    from undatum.mechanics.framing import FrameModel

Floats = NDArray[np.float64]
GROUND = -1  # in place of a diaphragm
WITHIN = "within"
#: Components of motion in plan: along X and Y, and rotation about the vertical axis, X to Y.
COMPONENTS = ("X", "Y", "rotation")
#: Components of motion of the ground.
SHAKEN = (*COMPONENTS, "Z")


@record
class Freedoms:
    """Labels of the ``N`` freedoms: component of motion, level, and the point they stand at (N, 3).

    A component is ``X``, ``Y``, ``Z``, ``rotation`` (about the vertical axis, X towards Y) or
    ``within``: a shape of a floor that is not rigid, without momentum.
    """

    component: tuple[str, ...]
    level: tuple[str, ...]
    points: Floats
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def count(self) -> int:
        return len(self.component)

    def of(self, component: str) -> NDArray[np.bool_]:
        """Which freedoms move along a component."""
        return self.memo.get(component, lambda: np.array([c == component for c in self.component]))


@record
class Diaphragms:
    """``n`` floors that move as rigid bodies in plan, top down. SI.

    ``levels`` names the level of each and ``below`` (n,) the diaphragm its story stands on, or
    :data:`GROUND`; ``elevations`` and ``story_heights`` (n,) m; ``centers`` (n, 2) of mass, m;
    ``bounds`` (n, 4) least and most x and y as ``x0, y0, x1, y1``; ``mass`` (n,) kg and
    ``inertia`` (n,) kg m2, zero for floors that carry none; ``freedoms`` (n, 3) the freedoms of
    their motion along X, along Y and in rotation.
    """

    levels: tuple[str, ...]
    below: NDArray[np.intp]
    elevations: Floats
    story_heights: Floats
    centers: Floats
    bounds: Floats
    mass: Floats
    inertia: Floats
    freedoms: NDArray[np.intp]
    memo: Memo = field(default_factory=Memo, init=False)

    def __len__(self) -> int:
        return len(self.levels)

    @property
    def carried(self) -> NDArray[np.bool_]:
        """(n, n) whether diaphragm j (column) stands on story i (row), its own story included."""
        return self.memo.get("carried", self._carried)

    def _carried(self) -> NDArray[np.bool_]:
        found = np.eye(len(self), dtype=bool)
        for j in reversed(range(len(self))):  # top down: what j stands on comes after it
            if self.below[j] != GROUND:
                found[:, j] |= found[:, self.below[j]]
        return found

    @fixed
    def across(self, direction: str) -> Floats:
        """(n,) plan dimension across a direction of force, m."""
        b = self.bounds
        return b[:, 3] - b[:, 1] if direction == "X" else b[:, 2] - b[:, 0]


@record
class Pressing:
    """Gravity as second order sees it. SI.

    ``axial`` (E,) forces of the elements, tension positive, empty where members are not asked;
    ``leaning`` (n,) N, what presses in each story beside them; ``centers`` (n, 2) of what lies
    above each story and ``radii`` (n,) m2, its second moment per unit about the vertical axis
    there.
    """

    axial: Floats
    leaning: Floats
    centers: Floats
    radii: Floats


@record
class SecondOrder:
    """What second order did to a model: the ``elastic`` one without it, and the factor on gravity
    at which the structure would buckle (infinite above 200)."""

    elastic: Model
    pressing: Pressing
    buckling: float


@record
class Model:
    """Equations of motion of a structure and the quantities it answers for. SI.

    ``stiffness`` and ``mass`` (N, N) sparse; ``second_order`` what gravity took of the
    stiffness, where that is asked for; ``framed`` the members condensed into it; ``spread`` (N, 3n)
    turns forces along X and Y and moments about the vertical axis at the centers of the diaphragms
    (by component, then by diaphragm) into loads on the freedoms; ``base_elevation`` is where
    heights start; ``directions`` are those it may move along, the rest is held; ``open_floors``
    those that are not rigid as a whole. ``quantities`` holds rows by kind.
    """

    freedoms: Freedoms
    stiffness: sparse.csr_array
    mass: sparse.csr_array
    diaphragms: Diaphragms
    spread: sparse.csr_array
    base_elevation: float
    lines: tuple[LateralLine, ...] = ()
    second_order: SecondOrder | None = None
    framed: FrameModel | None = None
    directions: tuple[Direction, ...] = DIRECTIONS
    open_floors: tuple[OpenFloor, ...] = ()
    quantities: Mapping[str, Quantity] = field(default_factory=FixedDict)
    memo: Memo = field(default_factory=Memo, init=False)

    @property
    def levels(self) -> tuple[str, ...]:
        """Level of every diaphragm, top down; the story below it has its name."""
        return self.diaphragms.levels

    @property
    def n(self) -> int:
        """Number of diaphragms."""
        return len(self.diaphragms)

    @property
    def is_open(self) -> NDArray[np.bool_]:
        """(n,) which floors have no diaphragm, or one over a part; not those that deform."""
        found = np.zeros(self.n, dtype=bool)
        found[[one.level for one in self.open_floors if not one.deforms]] = True
        return found

    @property
    def not_rigid(self) -> NDArray[np.bool_]:
        """(n,) which floors are not rigid as a whole: without a diaphragm, or deforming."""
        found = np.zeros(self.n, dtype=bool)
        found[[one.level for one in self.open_floors]] = True
        return found

    def at_nodes(self, line: LateralLine) -> bool:
        """Whether a lateral line meets a floor that deforms, and so acts on nodes of its own."""
        return line.meets({one.level for one in self.open_floors if one.deforms})

    @property
    def plane(self) -> bool:
        """Whether it moves along one direction alone, and floors don't turn."""
        return len(self.directions) == 1

    @property
    def components(self) -> tuple[str, ...]:
        """Components of motion in plan that are not held."""
        return self.directions if self.plane else COMPONENTS

    @property
    def dense(self) -> Floats:
        """(N, N) the stiffness as a dense matrix, kept: for small models."""
        return self.memo.get("dense", self.stiffness.toarray)

    @property
    def shaken(self) -> tuple[str, ...]:
        """Components of motion of the ground: those of the plan, and ``Z`` where mass moves so."""
        return SHAKEN if self.freedoms.of("Z").any() else COMPONENTS

    @property
    def held(self) -> NDArray[np.bool_]:
        """(N,) which freedoms never move: those across a plane building.

        They have no mass and a stiffness of their own, coupled to nothing.
        """
        return self.memo.get("held", lambda: np.array(
            [c not in (*self.components, "Z", WITHIN) for c in self.freedoms.component]))

    @property
    @fixed
    def center_of_mass(self) -> Floats:
        """Center of the whole mass in plan, m."""
        d = self.diaphragms
        return np.asarray(d.mass @ d.centers / d.mass.sum())

    @property
    @fixed
    def above_base(self) -> NDArray[np.bool_]:
        """(n,) which diaphragms lie above the base."""
        return self.diaphragms.elevations > self.base_elevation + 1e-9

    @property
    @fixed
    def heights(self) -> Floats:
        """(n,) height of the diaphragms above the base, m."""
        return self.diaphragms.elevations - self.base_elevation

    @property
    def chains(self) -> tuple[tuple[int, ...], ...]:
        """Stories above the base from every highest floor down to the base, top down; one where
        every floor stands on the next."""
        return self.memo.get("chains", self._chains)

    def _chains(self) -> tuple[tuple[int, ...], ...]:
        below, above = self.diaphragms.below.tolist(), self.above_base.tolist()
        found, carrying = [], set(below)
        for top in range(self.n):
            if above[top] and top not in carrying:
                chain, i = [], top
                while i != GROUND and above[i]:
                    chain.append(i)
                    i = below[i]
                found.append(tuple(chain))
        return tuple(found)

    @property
    def tallest(self) -> tuple[int, ...]:
        """The chain whose top lies highest; of several the one with the most stories."""
        return max(self.chains, key=lambda chain: (float(self.heights[chain[0]]), len(chain)))

    @property
    def height(self) -> float:
        """From the base to the highest level, m, wherever that stands in the list."""
        return float(self.heights.max())

    @property
    def base_stories(self) -> tuple[int, ...]:
        """The stories that stand on the base, whose shears add up to the base shear."""
        d = self.diaphragms
        bottom = d.elevations - d.story_heights - self.base_elevation
        return tuple(int(i) for i in np.flatnonzero(self.above_base & (bottom < 1e-9)))

    def by_height(self, weights: Floats) -> Floats:
        """(n,) forces on the diaphragms in proportion to ``weights`` and height above the base."""
        return np.asarray(weights * np.maximum(self.heights, 0.0))

    def shear_shares(self, forces: Floats) -> Floats:
        """(n,) shears of the stories under forces on the diaphragms over the base shear, 0 where
        there is none."""
        shears = self.diaphragms.carried @ forces
        base = float(shears[list(self.base_stories)].sum())
        return np.asarray(shears / base if base else np.zeros(self.n))

    def at_base(self, kind: str, **labels: str) -> Quantity:
        """A story quantity summed over the stories that stand on the base: one value."""
        return self.memo.get(("at base", kind, *labels.items()),
                             lambda: self._at_base(kind, labels))

    def _at_base(self, kind: str, labels: Mapping[str, str]) -> Quantity:
        parts = [self.quantities[kind].where(story=self.levels[i], **labels)
                 for i in self.base_stories]
        rows, back = parts[0].rows, parts[0].returned
        for other in parts[1:]:
            rows = sparse.csr_array(rows + other.rows)
            if back is not None and other.returned is not None:
                back = sparse.csr_array(back + other.returned)
        return Quantity(kind, parts[0].dimension, rows, parts[0].labels, parts[0].acts_on, back)

    @fixed
    def influence(self, components: Sequence[str] = COMPONENTS) -> Floats:
        """(N, k) motion of the freedoms when the ground moves as a rigid body.

        By 1 m along ``X``, ``Y`` or ``Z``; by 1 rad about the vertical axis through the center of
        the whole mass for ``rotation``.
        """
        arm = self.freedoms.points[:, :2] - self.center_of_mass
        found = np.zeros((self.freedoms.count, len(components)))
        for k, name in enumerate(components):
            found[self.freedoms.of(name), k] = 1.0
            if name == "rotation":
                x, y = self.freedoms.of("X"), self.freedoms.of("Y")
                found[x, k], found[y, k] = -arm[x, 1], arm[y, 0]
        return found

    @fixed
    def loads(
        self, direction: str | None, forces: ArrayLike = 0.0, torques: ArrayLike = 0.0
    ) -> Floats:
        """(N,) loads from forces (n,) N along a direction and moments (n,) N m at the centers."""
        at = np.zeros((len(COMPONENTS), self.n))
        if direction is not None:
            at[COMPONENTS.index(direction)] = forces
        at[COMPONENTS.index("rotation")] = torques
        return np.asarray(self.spread @ at.ravel())
