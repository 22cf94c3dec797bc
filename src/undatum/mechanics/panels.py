"""Flat panels with four corners: in their plane, across it, and as part of a structure.

In its plane a panel has a bilinear displacement with two incompatible shapes a way, so that it
bends well (Wilson and others, 1973, in the form that passes the patch test: Taylor, Beresford and
Wilson, A non-conforming element for stress analysis, 1976), and a rotation about its normal at
each corner, which follows the rotation of the material (Hughes and Brezzi, On drilling degrees of
freedom, 1989). Across its plane it is the discrete Kirchhoff quadrilateral (Batoz and Tahar,
Evaluation of a new quadrilateral thin plate bending element, 1982): thin, without shear
deformation across.

Local axes: x along the wall, y upwards, z = x cross y. Freedoms of each corner are displacements
along x, y, z, then rotations about them.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.layout.frame import Frame
from undatum.layout.panels import Panels
from undatum.record import fixed, record

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
_POINT = 1 / np.sqrt(3.0)
_GAUSS = tuple((x, y) for y in (-_POINT, _POINT) for x in (-_POINT, _POINT))
_XI = np.array([-1.0, 1.0, 1.0, -1.0])
_ETA = np.array([-1.0, -1.0, 1.0, 1.0])
TIED = 0.1  #: of the shear stiffness, by which corners follow the rotation of the material
RIGID = 100.0  #: times the stiffness of a strip of wall as deep as the beam that frames in


@fixed
def in_plane(corners: Floats, normal: Floats, shear: Floats, poisson: Floats) -> Floats:
    """(P, 12, 12) stiffness at x, y and the rotation of every corner in turn.

    ``corners`` (P, 4, 2); ``normal`` E t / (1 - nu2) and ``shear`` G t (P,), as far as they are
    kept.
    """
    p = len(corners)
    d = np.zeros((p, 3, 3))
    d[:, 0, 0] = d[:, 1, 1] = normal
    d[:, 0, 1] = d[:, 1, 0] = poisson * normal
    d[:, 2, 2] = shear
    whole = np.zeros((p, 16, 16))
    middle = _jacobian(corners, 0.0, 0.0)
    at_middle, back = np.linalg.det(middle), np.linalg.inv(middle)
    for xi, eta in _GAUSS:
        jacobian = _jacobian(corners, xi, eta)
        size = np.linalg.det(jacobian)
        dx, dy = np.einsum("pij,jn->ipn", np.linalg.inv(jacobian), _slopes(xi, eta))
        # the incompatible shapes 1 - xi2 and 1 - eta2, mapped as at the middle
        extra = np.array([[-2 * xi, 0.0], [0.0, -2 * eta]])
        ex, ey = np.einsum("pij,jn->ipn", back, extra) * (at_middle / size)[None, :, None]
        strain = np.zeros((p, 3, 16))
        spin = np.zeros((p, 16))
        for n in range(4):
            strain[:, 0, 3 * n] = strain[:, 2, 3 * n + 1] = dx[:, n]
            strain[:, 1, 3 * n + 1] = strain[:, 2, 3 * n] = dy[:, n]
            spin[:, 3 * n], spin[:, 3 * n + 1] = -dy[:, n] / 2, dx[:, n] / 2
            spin[:, 3 * n + 2] = -(1 + xi * _XI[n]) * (1 + eta * _ETA[n]) / 4
        for n in range(2):
            u, v = 12 + 2 * n, 13 + 2 * n
            strain[:, 0, u] = strain[:, 2, v] = ex[:, n]
            strain[:, 1, v] = strain[:, 2, u] = ey[:, n]
            spin[:, u], spin[:, v] = -ey[:, n] / 2, ex[:, n] / 2
        whole += size[:, None, None] * (
            strain.transpose(0, 2, 1) @ d @ strain
            + (TIED * shear)[:, None, None] * spin[:, :, None] * spin[:, None, :])
    inner = np.linalg.solve(whole[:, 12:, 12:], whole[:, 12:, :12])
    return np.asarray(whole[:, :12, :12] - whole[:, :12, 12:] @ inner)


@fixed
def across(corners: Floats, bending: Floats, twisting: Floats, poisson: Floats) -> Floats:
    """(P, 12, 12) stiffness at z and the rotations about x and y of every corner in turn.

    ``bending`` is E t3 / 12 (1 - nu2) and ``twisting`` G t3 / 12 (P,), as far as they are kept.
    """
    p = len(corners)
    d = np.zeros((p, 3, 3))
    d[:, 0, 0] = d[:, 1, 1] = bending
    d[:, 0, 1] = d[:, 1, 0] = poisson * bending
    d[:, 2, 2] = twisting
    # rotations of the normal, -dw/dx and -dw/dy, at the corners and the middles of the sides
    tilt = np.zeros((2, p, 8, 12))
    for n in range(4):
        tilt[0, :, n, 3 * n + 2], tilt[1, :, n, 3 * n + 1] = 1.0, -1.0
    for side in range(4):
        i, j = side, (side + 1) % 4
        run = corners[:, j] - corners[:, i]
        length = np.linalg.norm(run, axis=1)
        c, s = (run / length[:, None]).T
        # along the side the deflection is cubic, across it the rotation is linear
        along = np.zeros((p, 12))
        along[:, 3 * i], along[:, 3 * j] = 1.5 / length, -1.5 / length
        ends = np.zeros((2, p, 12))
        for k in (i, j):
            ends[0, :, 3 * k + 2], ends[1, :, 3 * k + 1] = 1.0, -1.0
        along -= (c[:, None] * ends[0] + s[:, None] * ends[1]) / 4
        aside = (c[:, None] * ends[1] - s[:, None] * ends[0]) / 2
        tilt[0, :, 4 + side] = c[:, None] * along - s[:, None] * aside
        tilt[1, :, 4 + side] = s[:, None] * along + c[:, None] * aside
    found = np.zeros((p, 12, 12))
    for xi, eta in _GAUSS:
        jacobian = _jacobian(corners, xi, eta)
        dx, dy = np.einsum("pij,jn->ipn", np.linalg.inv(jacobian), _slopes_of_eight(xi, eta))
        curved = np.stack([
            np.einsum("pn,pnk->pk", dx, tilt[0]), np.einsum("pn,pnk->pk", dy, tilt[1]),
            np.einsum("pn,pnk->pk", dy, tilt[0]) + np.einsum("pn,pnk->pk", dx, tilt[1])], axis=1)
        found += np.linalg.det(jacobian)[:, None, None] * (curved.transpose(0, 2, 1) @ d @ curved)
    return found


def _slopes(xi: float, eta: float) -> Floats:
    """(2, 4) derivatives of the bilinear shapes by xi and eta."""
    return np.asarray([_XI * (1 + eta * _ETA), _ETA * (1 + xi * _XI)]) / 4


def _slopes_of_eight(xi: float, eta: float) -> Floats:
    """(2, 8) derivatives of the eight-node shapes: corners, then the middles of the sides."""
    x, y = xi * _XI, eta * _ETA
    by_xi = _XI * (1 + y) * (2 * x + y) / 4
    by_eta = _ETA * (1 + x) * (x + 2 * y) / 4
    return np.asarray([
        [*by_xi, -xi * (1 - eta), (1 - eta**2) / 2, -xi * (1 + eta), -(1 - eta**2) / 2],
        [*by_eta, -(1 - xi**2) / 2, -eta * (1 + xi), (1 - xi**2) / 2, -eta * (1 - xi)]])


def _jacobian(corners: Floats, xi: float, eta: float) -> Floats:
    """(P, 2, 2) of x and y by xi (first row) and eta."""
    return np.asarray(np.einsum("jn,pni->pji", _slopes(xi, eta), corners))


# -- as part of a structure -----------------------------------------------------------------------

_PLANE = np.array([6 * n + k for n in range(4) for k in (0, 1, 5)])
_ACROSS = np.array([6 * n + k for n in range(4) for k in (2, 3, 4)])


@record
class Shells:
    """Panels of a structure as matrices. SI.

    ``matrices`` (k, 24, 24) of those that differ, in X, Y and Z, and ``which`` (P,) each panel has;
    ``at`` (P, 24) its freedoms, six a node; ``links`` (L, 12, 12) and ``link_at`` (L, 12).
    """

    matrices: Floats
    which: Ints
    at: Ints
    links: Floats
    link_at: Ints

    @fixed
    def forces(self, moved: Floats) -> Floats:
        """(P, 24) forces on the panels at their corners, from the motion of all nodes (6 M,)."""
        return np.asarray(np.einsum("pij,pj->pi", self.matrices[self.which], moved[self.at]))

    def parts(self) -> tuple[Floats, Ints, Ints]:
        """Values, rows and columns of the stiffness of all."""
        p, n = len(self.which), len(self.links)
        return (np.concatenate([self.matrices[self.which].ravel(), self.links.ravel()]),
                np.concatenate([np.repeat(self.at, 24, axis=1).ravel(),
                                np.repeat(self.link_at, 12, axis=1).ravel()]),
                np.concatenate([np.tile(self.at, (1, 24)).ravel(),
                                np.tile(self.link_at, (1, 12)).ravel()])) if p or n else (
            np.zeros(0), np.zeros(0, dtype=np.intp), np.zeros(0, dtype=np.intp))


def shells_of(frame: Frame) -> Shells | None:
    """The panels of a frame as matrices, kept with it; nothing where it has none."""
    panels = frame.panels
    return None if panels is None else frame.memo.get("shells", lambda: _shells(frame, panels))


def _shells(frame: Frame, panels: Panels) -> Shells:
    box, along = panels.box, panels.along
    wide, high = box[:, 1] - box[:, 0], box[:, 3] - box[:, 2]
    form = np.column_stack([wide, high, along, panels.thickness, panels.modulus, panels.poisson,
                            panels.kept])
    scale = np.maximum(np.abs(form).max(axis=0), 1e-300)
    _, first, which = np.unique(np.round(form / scale, 11), axis=0, return_index=True,
                                return_inverse=True)
    one = form[first]
    corners = np.zeros((len(first), 4, 2))
    corners[:, [1, 2], 0] = one[:, :1]
    corners[:, [2, 3], 1] = one[:, 1:2]
    t, modulus, nu, kept, kept_in_shear = one[:, 4:].T
    local = np.zeros((len(first), 24, 24))
    plate = modulus / (1 - nu**2) * kept
    slide = modulus / (2 * (1 + nu)) * kept_in_shear
    local[:, _PLANE[:, None], _PLANE] = in_plane(corners, plate * t, slide * t, nu)
    local[:, _ACROSS[:, None], _ACROSS] = across(
        corners, plate * t**3 / 12, modulus / (2 * (1 + nu)) * kept * t**3 / 12, nu)
    turn = turning(one[:, 2:4], 8)
    matrices = turn.transpose(0, 2, 1) @ local @ turn
    six = np.arange(6)
    links = _links(frame, panels)
    return Shells(
        matrices, np.asarray(which.ravel(), dtype=np.intp),
        (6 * panels.nodes[:, :, None] + six).reshape(len(panels), 24),
        links, (6 * panels.links[:, :, None] + six).reshape(len(panels.links), 12))


@fixed
def turning(along: Floats, times: int) -> Floats:
    """(k, 3 times, 3 times) from X, Y and Z to the local axes of upright panels that run along
    (k, 2)."""
    axes = np.zeros((len(along), 3, 3))
    axes[:, 0, :2] = along
    axes[:, 1, 2] = 1.0
    axes[:, 2, 0], axes[:, 2, 1] = along[:, 1], -along[:, 0]
    found = np.zeros((len(along), 3 * times, 3 * times))
    for k in range(times):
        found[:, 3 * k:3 * k + 3, 3 * k:3 * k + 3] = axes
    return found


def _links(frame: Frame, panels: Panels) -> Floats:
    """(L, 12, 12) upright bars that keep the side of a wall straight where a beam frames in."""
    from undatum.mechanics.elements import timoshenko

    if not len(panels.links):
        return np.zeros((0, 12, 12))
    modulus, thickness, depth, _, x, y = panels.link_size.T
    length = np.abs(np.diff(frame.points[panels.links][:, :, 2], axis=1)[:, 0])
    none, endless = np.zeros(len(x)), np.full(len(x), np.inf)
    bend = RIGID * modulus * thickness * depth**3 / 12
    # local x upwards, y along the beam: stiff in its plane alone
    local = timoshenko(none, none, bend, none, endless, endless, length)
    axes = np.zeros((len(x), 3, 3))
    axes[:, 0, 2] = 1.0
    axes[:, 1, 0], axes[:, 1, 1] = x, y
    axes[:, 2, 0], axes[:, 2, 1] = -y, x
    turn = np.zeros((len(x), 12, 12))
    for at in range(0, 12, 3):
        turn[:, at:at + 3, at:at + 3] = axes
    return np.asarray(turn.transpose(0, 2, 1) @ local @ turn)


def panel_stiffness(frame: Frame) -> sparse.csr_array:
    """(6 M, 6 M) stiffness of all panels of a frame, of walls and floors, kept with it."""
    def make() -> sparse.csr_array:
        shells, n = shells_of(frame), 6 * len(frame.points)
        found = sparse.csr_array((n, n))
        if shells is not None:
            values, rows, columns = shells.parts()
            found = sparse.csr_array((values, (rows, columns)), shape=(n, n))
        for matrices, at in () if frame.slabs is None else slab_matrices(frame):
            size = at.shape[1]
            found = sparse.csr_array(found + sparse.csr_array(
                (matrices.ravel(), (np.repeat(at, size, axis=1).ravel(),
                                    np.tile(at, (1, size)).ravel())), shape=(n, n)))
        return found

    return frame.memo.get("panel stiffness", make)


def slab_matrices(frame: Frame) -> list[tuple[Floats, Ints]]:
    """(q, 3 c, 3 c) matrices and (q, 3 c) freedoms of the panels of floors with ``c`` corners, four
    and three: along X, along Y and about the vertical axis at each."""
    slabs = frame.slabs
    assert slabs is not None
    three = slabs.nodes[:, 2] == slabs.nodes[:, 3]
    found = []
    for which, corners in ((~three, 4), (three, 3)):
        own = np.flatnonzero(which)
        if own.size:
            nodes = slabs.nodes[own, :corners]
            normal, shear, poisson = slabs.sizes[own].T
            make = in_plane if corners == 4 else in_triangle
            found.append((make(frame.points[nodes][:, :, :2], normal, shear, poisson),
                          (6 * nodes[:, :, None] + np.array([0, 1, 5])).reshape(
                              len(own), 3 * corners)))
    return found


@fixed
def in_triangle(corners: Floats, normal: Floats, shear: Floats, poisson: Floats) -> Floats:
    """(P, 9, 9) stiffness of panels with three corners, as :func:`in_plane`: sides bend as the
    corners turn (Allman, A compatible triangular element including vertex rotations for plane
    elasticity analysis, 1984), the mean rotation follows the material."""
    p = len(corners)
    x, y = corners[..., 0], corners[..., 1]
    twice = (x[:, 1] - x[:, 0]) * (y[:, 2] - y[:, 0]) - (x[:, 2] - x[:, 0]) * (y[:, 1] - y[:, 0])
    by = np.zeros((2, p, 3))  # derivatives of the area coordinates
    for n in range(3):
        i, j = (n + 1) % 3, (n + 2) % 3
        by[:, :, n] = (y[:, i] - y[:, j]) / twice, (x[:, j] - x[:, i]) / twice
    move = np.zeros((2, p, 6, 9))  # of corners, then of the middles of the sides
    for n in range(3):
        move[0, :, n, 3 * n] = move[1, :, n, 3 * n + 1] = 1.0
        j = (n + 1) % 3
        run = corners[:, j] - corners[:, n]
        for k, across in ((0, -run[:, 1]), (1, run[:, 0])):
            move[k, :, 3 + n, 3 * n + k] = move[k, :, 3 + n, 3 * j + k] = 0.5
            move[k, :, 3 + n, 3 * n + 2], move[k, :, 3 + n, 3 * j + 2] = across / 8, -across / 8
    d = np.zeros((p, 3, 3))
    d[:, 0, 0] = d[:, 1, 1] = normal
    d[:, 0, 1] = d[:, 1, 0] = poisson * normal
    d[:, 2, 2] = shear
    found = np.zeros((p, 9, 9))
    for at in ((0.5, 0.5, 0.0), (0.0, 0.5, 0.5), (0.5, 0.0, 0.5)):
        slopes = np.zeros((2, p, 6))
        for n in range(3):
            j = (n + 1) % 3
            slopes[:, :, n] = (4 * at[n] - 1) * by[:, :, n]
            slopes[:, :, 3 + n] = 4 * (at[n] * by[:, :, j] + at[j] * by[:, :, n])
        u, v = (np.einsum("cpn,pnk->cpk", slopes, one) for one in move)
        strain = np.stack([u[0], v[1], u[1] + v[0]], axis=1)
        found += (twice / 6)[:, None, None] * (strain.transpose(0, 2, 1) @ d @ strain)
    spin = np.zeros((p, 9))
    for n in range(3):
        spin[:, 3 * n], spin[:, 3 * n + 1] = -by[1, :, n] / 2, by[0, :, n] / 2
        spin[:, 3 * n + 2] = -1 / 3
    return np.asarray(found + (TIED * shear * twice / 2)[:, None, None]
                      * spin[:, :, None] * spin[:, None, :])


def center_rows(frame: Frame, which: Ints) -> sparse.csr_array:
    """(3 k, 6 M) forces per length at the centers of panels of walls: sideways, upwards and in
    shear, tension positive, from the motion of the nodes."""
    panels, shells = frame.panels, shells_of(frame)
    assert panels is not None
    assert shells is not None
    box, along = panels.box[which], panels.along[which]
    wide, high = box[:, 1] - box[:, 0], box[:, 3] - box[:, 2]
    nu, kept = panels.poisson[which], panels.kept[which]
    plate = panels.modulus[which] * panels.thickness[which] / (1 - nu**2) * kept[:, 0]
    slide = panels.modulus[which] * panels.thickness[which] / (2 * (1 + nu)) * kept[:, 1]
    rows = np.zeros((len(which), 3, 24))
    for n in range(4):
        dx, dy = _XI[n] / 2 / wide, _ETA[n] / 2 / high
        for k in (0, 1):  # along the wall, of motion along X and Y
            rows[:, 0, 6 * n + k] = plate * dx * along[:, k]
            rows[:, 1, 6 * n + k] = plate * nu * dx * along[:, k]
            rows[:, 2, 6 * n + k] = slide * dy * along[:, k]
        rows[:, 0, 6 * n + 2] = plate * nu * dy
        rows[:, 1, 6 * n + 2] = plate * dy
        rows[:, 2, 6 * n + 2] = slide * dx
    at = shells.at[which]
    return sparse.csr_array(
        (rows.ravel(), (np.repeat(np.arange(3 * len(which)), 24),
                        np.repeat(at[:, None], 3, axis=1).ravel())),
        shape=(3 * len(which), 6 * len(frame.points)))
