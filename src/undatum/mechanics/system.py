"""The structure as the computer sees it: stiffness, mass and maps from displacement to response.

Every level has three degrees of freedom at its center of mass: translation along X and Y and
rotation about Z (X towards Y). They stand in blocks, ``u = [ux..., uy..., rz...]``, levels from
the top down. A response quantity is a row of a matrix applied to ``u``; the maps below make these
rows. A story bears the index of the level at its top.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

Floats = NDArray[np.float64]
Map = sparse.csr_array | Floats


@dataclass(frozen=True, slots=True)
class LateralLine:
    """A lateral line: ``stiffness`` (m, m) against displacement along ``axis`` at ``levels``.

    ``point`` and ``axis`` are plan coordinates and the unit vector along the line; ``levels``
    holds the system's level indices, top down, without the one it stands on. Displacements are
    relative to that one, ``foot``, which may move itself (``n`` is the ground). ``strength`` (m,)
    is the lateral strength by story, not a number where it is not known.
    """

    name: str
    point: Floats
    axis: Floats
    levels: NDArray[np.intp]
    foot: int
    stiffness: Floats
    plan_length: float | None
    strength: Floats


@dataclass(frozen=True, slots=True)
class PlumbLine:
    """A vertical line on which drift is read: a plan point for each story, top down.

    ``points`` (n, 2) in m, ``present`` (n,) says in which stories the point is on the floor above.
    """

    name: str
    points: Floats
    present: NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class System:
    """``n`` levels that can move, top down, and the ``3 n`` equations of their motion. SI.

    ``elevations`` and ``story_heights`` (n,) m; ``base_elevation`` where heights start;
    ``centers`` (n, 2) m; ``bounds`` (n, 4) m, least and most x and y of each floor as
    ``x0, y0, x1, y1``; ``mass`` (n,) kg and ``inertia`` (n,) kg m2, zero for levels that carry
    none; ``stiffness`` (3n, 3n) and ``factor``, its lower Cholesky factor.
    """

    levels: tuple[str, ...]
    elevations: Floats
    story_heights: Floats
    base_elevation: float
    centers: Floats
    bounds: Floats
    mass: Floats
    inertia: Floats
    stiffness: Floats
    factor: Floats
    lines: tuple[LateralLine, ...]

    @property
    def n(self) -> int:
        return len(self.levels)

    @property
    def mass_diagonal(self) -> Floats:
        """(3n,) masses and rotational inertias; the mass matrix is diagonal at the centers."""
        return np.concatenate([self.mass, self.mass, self.inertia])

    @property
    def center_of_mass(self) -> Floats:
        """Center of the whole mass in plan, m."""
        return np.asarray(self.mass @ self.centers / self.mass.sum())

    @property
    def above_base(self) -> NDArray[np.bool_]:
        """Which levels lie above the base."""
        return self.elevations > self.base_elevation + 1e-9

    @property
    def base_story(self) -> int:
        """The lowest story above the base, whose shear is the base shear."""
        return int(np.flatnonzero(self.above_base)[-1])

    # -- maps from displacement to response ---------------------------------------------------

    def influence(self) -> Floats:
        """(3n, 3): rigid motion of the ground by 1 m in X, in Y, and 1 rad about the center."""
        n, arm = self.n, self.centers - self.center_of_mass
        one, zero = np.ones(n), np.zeros(n)
        return np.column_stack([
            np.concatenate([one, zero, zero]),
            np.concatenate([zero, one, zero]),
            np.concatenate([-arm[:, 1], arm[:, 0], one]),
        ])

    def displacement_map(self, levels: NDArray[np.intp], points: Floats, axis: int
                         ) -> sparse.csr_array:
        """Rows giving the displacement along ``axis`` (0 X, 1 Y) at plan ``points`` of ``levels``.

        A level index of ``n`` is the ground, which does not move.
        """
        n, rows = self.n, np.arange(len(levels))
        moves = levels < n
        r, i = rows[moves], levels[moves]
        arm = points[moves] - self.centers[i]
        lever = -arm[:, 1] if axis == 0 else arm[:, 0]
        data = np.concatenate([np.ones(r.size), lever])
        columns = np.concatenate([i + axis * n, i + 2 * n])
        return sparse.csr_array((data, (np.concatenate([r, r]), columns)),
                                shape=(len(levels), 3 * n))

    def drift_map(self, plumb: PlumbLine, axis: int) -> sparse.csr_array:
        """Rows giving the story drift on a plumb line, one for each story, top down.

        Both ends of a story are read at the same plan point, that of the story's plumb line;
        below, the floor carries the point along as a rigid body (ASCE 7-16, 12.8.6).
        """
        top = np.arange(self.n)
        return sparse.csr_array(
            self.displacement_map(top, plumb.points, axis)
            - self.displacement_map(top + 1, plumb.points, axis)
        )

    def shear_map(self, axis: int) -> Floats:
        """(n, 3n) rows giving the story shear along ``axis``: the forces above added up."""
        block = self.stiffness[axis * self.n : (axis + 1) * self.n]
        return np.cumsum(block, axis=0)

    def overturning_map(self, axis: int) -> Floats:
        """(n, 3n) rows giving the moment of all forces above about the bottom of each story."""
        return np.cumsum(self.story_heights[:, None] * self.shear_map(axis), axis=0)

    def torsion_map(self) -> Floats:
        """(n, 3n) rows: moment about the vertical axis through each story's center of mass."""
        n, k, c = self.n, self.stiffness, self.centers
        fx, fy, mz = k[:n], k[n : 2 * n], k[2 * n :]
        # Sum over j above of Mz_j + (x_j - x_i) Fy_j - (y_j - y_i) Fx_j, written with running sums.
        about_origin = np.cumsum(mz + c[:, :1] * fy - c[:, 1:] * fx, axis=0)
        return np.asarray(
            about_origin - c[:, :1] * np.cumsum(fy, axis=0) + c[:, 1:] * np.cumsum(fx, axis=0)
        )

    def line_shear_map(self, line: LateralLine) -> Floats:
        """(m, 3n) rows giving the shear of one line in each of its stories, top down."""
        forces = line.stiffness @ self.line_displacement_map(line)
        return np.cumsum(forces, axis=0)

    def line_displacement_map(self, line: LateralLine) -> Floats:
        """(m, 3n) rows giving the displacement along the line at each of its levels.

        Relative to the level the line stands on.
        """
        n, count = self.n, len(line.levels)
        rows, found = np.arange(count), np.zeros((count, 3 * n))
        ends = [(line.levels, 1.0)]
        if line.foot < n:  # the ground does not move
            ends.append((np.full(count, line.foot), -1.0))
        for at, sign in ends:
            arm = line.point - self.centers[at]
            found[rows, at] += sign * line.axis[0]
            found[rows, n + at] += sign * line.axis[1]
            found[rows, 2 * n + at] += sign * (arm[:, 0] * line.axis[1] - arm[:, 1] * line.axis[0])
        return found

    def center_line(self) -> PlumbLine:
        """The plumb line through the center of mass of each story's upper level."""
        return PlumbLine("center of mass", self.centers, np.ones(self.n, dtype=bool))
