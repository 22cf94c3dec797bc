"""Named quantities: sparse rows with a kind, labels and a dimension.

A response quantity is a linear map of the displacements, or of the nodal forces that hold them
(a cut force: all forces above, added up). Whatever produced the displacements, a static load or a
mode, the rows are the same; a new quantity is new rows, not new code.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import sparse

from undatum.record import fixed, record

if TYPE_CHECKING:
    from undatum.mechanics.lines import LateralLine
    from undatum.mechanics.model import Diaphragms, Freedoms, Model

Floats = NDArray[np.float64]


@record
class Quantity:
    """``k`` values of one kind: ``rows`` (k, N) applied to displacements or to nodal forces.

    ``labels`` says what each value is of, by ``level``, ``story``, ``line``, ``point`` or
    ``component``, (k,) each; ``dimension`` is that of the values.
    """

    kind: str
    dimension: str
    rows: sparse.csr_array
    labels: Mapping[str, tuple[str, ...]]
    acts_on: Literal["displacements", "forces"] = "displacements"

    def __len__(self) -> int:
        return int(self.rows.shape[0])

    def where(self, **labels: str) -> Quantity:
        """The values with the labels given. Raises KeyError where there is none."""
        keep = np.ones(len(self), dtype=bool)
        for name, value in labels.items():
            keep &= np.array([v == value for v in self.labels[name]])
        if not keep.any():
            raise KeyError(f"{self.kind} has no value of {labels}")
        return self.at(np.flatnonzero(keep))

    def at(self, index: ArrayLike) -> Quantity:
        """The values at ``index``."""
        i = np.atleast_1d(np.asarray(index, dtype=np.intp))
        return Quantity(
            self.kind, self.dimension, sparse.csr_array(self.rows[i]),
            {k: tuple(v[j] for j in i) for k, v in self.labels.items()}, self.acts_on)

    @fixed
    def of(self, displacements: Floats, forces: Floats) -> Floats:
        """Values (k, ...) from displacements and nodal forces (N, ...)."""
        return np.asarray(self.rows @ (displacements if self.acts_on == "displacements"
                                       else forces))


@record
class PlumbLine:
    """A vertical line on which drift is read: a plan point for each story, top down.

    ``points`` (n, 2) in m, ``present`` (n,) says in which stories the point is on the floor above.
    """

    name: str
    points: Floats
    present: NDArray[np.bool_]


def center_line(model: Model) -> PlumbLine:
    """The plumb line through the center of mass of each story's upper floor."""
    return PlumbLine("center of mass", model.diaphragms.centers, np.ones(model.n, dtype=bool))


def plumb_displacement(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str] = ("X", "Y")
) -> Quantity:
    """Displacement of every floor on plumb lines: by component, then by line, then by level."""
    rows = [_floor_motion(model, np.tile(np.arange(model.n), len(lines)),
                          np.concatenate([line.points for line in lines]), c) for c in components]
    return _on_lines(model, lines, components, "displacement", "level", rows)


def plumb_drift(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str] = ("X", "Y")
) -> Quantity:
    """Story drift on plumb lines: by component, then by line, then by story.

    Both ends of a story are read at the same plan point, that of the story's plumb line; below,
    the floor carries the point along as a rigid body (ASCE 7-16, 12.8.6).
    """
    points = np.concatenate([line.points for line in lines])
    top = np.tile(np.arange(model.n), len(lines))
    below = np.tile(model.diaphragms.below, len(lines))
    rows = [sparse.csr_array(_floor_motion(model, top, points, c)
                             - _floor_motion(model, below, points, c)) for c in components]
    return _on_lines(model, lines, components, "story drift", "story", rows)


def _on_lines(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str], kind: str, where: str,
    rows: list[sparse.csr_array],
) -> Quantity:
    count = len(components)
    return Quantity(kind, "displacement", sparse.vstack(rows, format="csr"), {
        "component": tuple(c for c in components for _ in range(len(lines) * model.n)),
        "point": tuple(line.name for line in lines for _ in range(model.n)) * count,
        where: model.levels * (len(lines) * count),
    })


def _floor_motion(
    model: Model, floors: NDArray[np.intp], points: Floats, component: str
) -> sparse.csr_array:
    """Rows giving the motion of plan ``points`` (k, 2) carried by ``floors`` (k,); -1 is still."""
    d = model.diaphragms
    r = np.flatnonzero(floors >= 0)
    at = floors[r]
    turn = d.freedoms[at, 2]
    if component == "rotation":
        data, rows, columns = np.ones(r.size), r, turn
    else:
        arm = points[r] - d.centers[at]
        along = 0 if component == "X" else 1
        lever = -arm[:, 1] if component == "X" else arm[:, 0]
        data = np.concatenate([np.ones(r.size), lever])
        rows = np.concatenate([r, r])
        columns = np.concatenate([d.freedoms[at, along], turn])
    return sparse.csr_array((data, (rows, columns)), shape=(floors.size, model.freedoms.count))


def story_quantities(freedoms: Freedoms, diaphragms: Diaphragms) -> dict[str, Quantity]:
    """Story shear and overturning along X and Y, and torsion: cuts through every story.

    Overturning is about the bottom of the story, torsion about the vertical axis through the
    center of mass of the floor at its top. All nodal forces of the floors above count, vertical
    ones too where there are any.
    """
    d, count = diaphragms, freedoms.count
    story, floor = np.nonzero(d.carried)
    bottom = d.elevations - d.story_heights
    arm = d.elevations[floor] - bottom[story]
    lever = d.centers[floor] - d.centers[story]

    def cut(*parts: tuple[NDArray[np.intp], Floats]) -> sparse.csr_array:
        return sparse.csr_array(
            (np.concatenate([v for _, v in parts]),
             (np.tile(story, len(parts)), np.concatenate([c for c, _ in parts]))),
            shape=(len(d), count))

    one = np.ones(story.size)
    x, y, turn = (d.freedoms[floor, k] for k in range(3))
    shear = sparse.vstack([cut((x, one)), cut((y, one))], format="csr")
    moment = sparse.vstack([cut((x, arm)), cut((y, arm))], format="csr")
    labels = {"component": ("X",) * len(d) + ("Y",) * len(d), "story": d.levels * 2}
    return {
        "story shear": Quantity("story shear", "force", shear, labels, "forces"),
        "overturning moment": Quantity("overturning moment", "moment", moment, labels, "forces"),
        "story torsion": Quantity(
            "story torsion", "moment",
            cut((turn, one), (y, lever[:, 0].copy()), (x, -lever[:, 1])),
            {"story": d.levels}, "forces"),
    }


def line_shear(
    lines: Sequence[LateralLine], motions: Sequence[sparse.csr_array], levels: tuple[str, ...]
) -> Quantity:
    """Shear of every lateral line in each of its stories, top down."""
    rows = sparse.block_diag([line.shear for line in lines], format="csr") @ \
        sparse.vstack(motions, format="csr")
    return Quantity("line shear", "force", sparse.csr_array(rows), {
        "line": tuple(line.name for line in lines for _ in line.levels),
        "story": tuple(levels[i] for line in lines for i in line.levels),
    })
