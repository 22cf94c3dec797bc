"""Second order in the stiffness: what gravity takes away, and how far it is from buckling.

Gravity that members don't carry, or all of it where they are not asked, leans on the floors: story
by story it pushes over the drift at the center of what lies above.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, sparse

from undatum.errors import AnalysisError
from undatum.mechanics.elements import elements_of
from undatum.mechanics.factors import scaled_factors
from undatum.mechanics.framing import FrameModel, assembled
from undatum.mechanics.model import COMPONENTS, Model, Pressing
from undatum.mechanics.quantities import PlumbLine, plumb_drift
from undatum.record import fixed

Floats = NDArray[np.float64]
FARTHEST = 200.0  # a buckling factor above this is not sought


def pressing(model: Model, gravity: Floats, axial: Floats) -> Pressing:
    """Gravity (n,) N of the floors, and the part of it that members carry by ``axial`` (E,).

    It is spread over each floor as its mass is.
    """
    d = model.diaphragms
    total = d.carried @ gravity
    safe = np.where(total > 0, total, 1.0)
    centers = np.where(total[:, None] > 0, (d.carried @ (gravity[:, None] * d.centers))
                       / safe[:, None], d.centers)
    own = np.divide(d.inertia, d.mass, out=np.zeros_like(d.mass), where=d.mass > 0)
    about = own + np.sum(d.centers**2, axis=1)
    radii = np.where(total > 0, d.carried @ (gravity * about) / safe
                     - np.sum(centers**2, axis=1), 0.0)
    leaning = np.array(total)
    if axial.size and model.framed is not None:
        frame = model.framed.frame
        upright = np.flatnonzero(frame.kinds != "beam")
        down = -axial[upright] * frame.axes[upright, 0, 2]
        np.add.at(leaning, frame.floors[frame.ends[upright, 1]], -down)
    return Pressing(axial, leaning, centers, np.maximum(radii, 0.0))


@fixed
def leaning_stiffness(model: Model, one: Pressing) -> Floats:
    """(N, N) stiffness that the leaning weight takes away."""
    line = PlumbLine("weight above", one.centers, np.ones(model.n, dtype=bool))
    rows = plumb_drift(model, [line], COMPONENTS).rows
    push = one.leaning / model.diaphragms.story_heights
    weight = np.concatenate([push, push, push * one.radii])
    found = np.asarray((rows.T @ sparse.diags_array(weight) @ rows).toarray())
    found[model.held] = found[:, model.held] = 0.0
    return found


def buckling_factor(model: Model, one: Pressing) -> float:
    """The least factor on gravity at which the structure loses its stiffness; inf above 200.

    With members by looking for the first that makes a pivot negative (after Wittrick and Williams,
    1971), to 0.1 %.
    """
    lean = leaning_stiffness(model, one)
    if model.framed is None or not one.axial.size:
        most = float(linalg.eigh(lean, model.stiffness.toarray(), eigvals_only=True)[-1])
        return 1 / most if most > 1 / FARTHEST else np.inf
    framed = model.framed
    rest = model.stiffness.toarray() - framed.stiffness

    def lost(factor: float) -> bool:
        return _buckled(framed, rest - factor * lean, factor * one.axial)

    low, high = 0.0, 1.0
    while not lost(high):
        low, high = high, 2 * high
        if low >= FARTHEST:
            return float(np.inf)
    while high - low > 1e-3 * high:
        middle = (low + high) / 2
        low, high = (low, middle) if lost(middle) else (middle, high)
    return (low + high) / 2


def _buckled(framed: FrameModel, on_floors: Floats, axial: Floats) -> bool:
    """Whether the structure has a way to move that nothing resists any more."""
    elements, count = elements_of(framed.frame, axial, framed.across)
    if count:
        return True
    whole = framed.spread.T @ (assembled(framed.frame, elements) @ framed.spread)
    rest = sparse.coo_array(on_floors)
    count = on_floors.shape[0]
    if framed.means is not None:  # what leans on a mean leans on the nodes it is of
        own = framed.means.columns
        follow = sparse.lil_array((count, whole.shape[0]))
        kept = np.setdiff1d(np.arange(whole.shape[0]), own)
        rigid = kept[kept < count]
        follow[rigid, rigid] = 1.0
        follow[own, count:] = framed.means.rows @ framed.spread[:, count:]
        by = sparse.csr_array(follow)
        matrix = sparse.csc_array(whole + by.T @ rest @ by)[kept][:, kept]
    else:
        rest.resize(whole.shape)
        matrix = sparse.csc_array(whole + rest)
    return bool(np.any(matrix.diagonal() <= 0)) or scaled_factors(
        sparse.csc_array(matrix), 0.0) is None


def unstable(factor: float) -> AnalysisError:
    """Gravity alone makes the structure buckle."""
    return AnalysisError(
        f"The structure buckles under {factor:.3g} times its gravity load, so that it can't carry "
        "it. Likely cause: a story, a column or a brace that is far too weak sideways, or a "
        "stiffness or load in a wrong unit. Without second order (second_order = \"by factor\") "
        "the run shows which story.")
