"""Natural vibration: all modes of a small model, the lowest of a large one."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, sparse
from scipy.sparse.linalg import LinearOperator, eigsh

from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver
from undatum.record import fixed

Floats = NDArray[np.float64]
LIGHT = 1e-12  # share of the largest mass below which a freedom counts as massless
DIRECT = 600  # freedoms up to which reducing the whole matrix beats Lanczos iteration


@fixed
def vibration(solver: Solver, count: int | None = None) -> tuple[Floats, Floats]:
    """Circular frequencies (m,) rad/s, rising, and shapes (N, m) with unit modal mass.

    ``count`` asks for the lowest modes only; there are as many as freedoms with mass. Freedoms
    without mass follow the others (exact static condensation). Modes of equal frequency are turned
    so that the first of them carries all the motion along X that the group has, the next along Y.
    """
    model = solver.model
    weight = model.mass.diagonal()
    heavy = weight > LIGHT * weight.max()
    every = int(heavy.sum())
    # Iteration builds up twice as many vectors and a few: more than there is mass for break it.
    if count is not None and max(2 * count + 1, 20) < every and model.freedoms.count > DIRECT:
        omega, shapes = _lowest(solver, count)
    else:
        omega, shapes = _reduced(model, heavy, min(count or every, every))
    _align_equal(omega, shapes, np.asarray(model.mass @ model.influence(model.shaken)))
    return omega, shapes


def _reduced(model: Model, heavy: NDArray[np.bool_], count: int) -> tuple[Floats, Floats]:
    """The lowest ``count`` modes by dense matrices."""
    k, follow = model.dense, None
    if not heavy.all():
        light = ~heavy
        factor = linalg.cho_factor(k[np.ix_(light, light)], lower=True)
        follow = -linalg.cho_solve(factor, k[np.ix_(light, heavy)])
        k = k[np.ix_(heavy, heavy)] + k[np.ix_(heavy, light)] @ follow
    part = None if count == k.shape[0] else (0, count - 1)
    if model.mass.count_nonzero() == np.count_nonzero(model.mass.diagonal()):
        root = 1.0 / np.sqrt(model.mass.diagonal()[heavy])
        k = k * root
        k *= root[:, None]
        squared, vectors = linalg.eigh(  # symmetric: turned, it lies in memory as LAPACK reads it
            k.T, driver="evd" if part is None else "evr", subset_by_index=part,
            check_finite=False, overwrite_a=True)
        vectors *= root[:, None]
    else:
        squared, vectors = linalg.eigh(
            k, model.mass.toarray()[np.ix_(heavy, heavy)], subset_by_index=part,
            check_finite=False)
    if follow is not None:
        shapes = np.zeros((heavy.size, squared.size))
        shapes[heavy], shapes[~heavy] = vectors, follow @ vectors
        vectors = shapes
    return np.sqrt(np.maximum(squared, 0.0)), vectors


def _lowest(solver: Solver, count: int) -> tuple[Floats, Floats]:
    """The lowest modes by Lanczos iteration on the inverse."""
    model = solver.model
    size = model.freedoms.count
    inverse = LinearOperator((size, size), matvec=lambda v: solver.solve(np.asarray(v)),
                             dtype=np.float64)
    start = model.influence(model.shaken).sum(axis=1) + np.cos(np.arange(size))
    squared, shapes = eigsh(
        sparse.csc_array(model.stiffness), k=count, M=sparse.csc_array(model.mass), sigma=0.0,
        OPinv=inverse, v0=solver.solve(np.asarray(model.mass @ start)))
    order = np.argsort(squared)
    squared, shapes = squared[order], shapes[:, order]
    shapes /= np.sqrt(np.einsum("ij,ij->j", shapes, np.asarray(model.mass @ shapes)))
    return np.sqrt(np.maximum(squared, 0.0)), shapes


@fixed
def load_dependent(solver: Solver, count: int) -> tuple[Floats, Floats]:
    """Approximate frequencies (m,) rad/s, rising, and shapes (N, m) with unit modal mass.

    They span what the masses moved by the ground bend the structure to, what the inertia of that
    bends it to, and so on: ``count`` of them at most, fewer where nothing new comes. The static
    displacement under a uniform acceleration is in them exactly, however few they are.
    Source: Wilson, Yuan, Dickens, Dynamic analysis by direct superposition of Ritz vectors, 1982.
    """
    model = solver.model
    ground = [*model.components, *(["Z"] if "Z" in model.shaken else [])]
    new = solver.solve(np.asarray(model.mass @ model.influence(ground)))
    basis = np.zeros((model.freedoms.count, 0))
    while basis.shape[1] < count:
        size = np.sqrt(np.einsum("ij,ij->j", new, np.asarray(model.mass @ new)))
        new = new[:, size > 0] / size[size > 0]
        for _ in range(2):  # once more for the digits lost
            new = new - basis @ (basis.T @ np.asarray(model.mass @ new))
        gram = new.T @ np.asarray(model.mass @ new)
        values, vectors = np.linalg.eigh((gram + gram.T) / 2)
        fresh = values > 1e-14
        if not fresh.any():
            break
        block = (new @ (vectors[:, fresh] / np.sqrt(values[fresh])))[:, ::-1]
        basis = np.column_stack([basis, block])[:, :count]
        new = solver.solve(np.asarray(model.mass @ block))
    within = basis.T @ np.asarray(model.stiffness @ basis)
    squared, turn = np.linalg.eigh((within + within.T) / 2)
    omega, shapes = np.sqrt(np.maximum(squared, 0.0)), basis @ turn
    _align_equal(omega, shapes, np.asarray(model.mass @ model.influence(model.shaken)))
    return omega, shapes


def _align_equal(omega: Floats, shapes: Floats, carried: Floats) -> None:
    """Turn shapes of equal frequency towards X, Y, rotation; fix all signs (in place)."""
    breaks = np.flatnonzero(np.diff(omega) > 1e-7 * omega[1:]) + 1
    if breaks.size + 1 < omega.size:
        for group in np.split(np.arange(omega.size), breaks):
            if group.size > 1:
                q, _ = np.linalg.qr(shapes[:, group].T @ carried, mode="complete")
                shapes[:, group] = shapes[:, group] @ q
    factors = carried.T @ shapes
    size = np.linalg.norm(carried, axis=0)[:, None]  # nothing where nothing moves that way
    leading = np.argmax(np.abs(factors) / np.where(size > 0, size, 1.0), axis=0)
    signs = np.sign(factors[leading, np.arange(omega.size)])
    shapes *= np.where(signs == 0, 1.0, signs)
