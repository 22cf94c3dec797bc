"""Named quantities: sparse rows with a kind, labels and a dimension.

A response quantity is a linear map of the displacements, or of the nodal forces that hold them
(a cut force: all forces above, added up). Whatever produced the displacements, a static load or a
mode, the rows are the same; a new quantity is new rows, not new code.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.mechanics.lines import blocks, row_ends
from undatum.mechanics.quantity import Quantity
from undatum.record import FixedDict, record

if TYPE_CHECKING:
    from undatum.mechanics.lines import LateralLine
    from undatum.mechanics.model import Diaphragms, Freedoms, Model

Floats = NDArray[np.float64]
NEAR = 1e-3  # m, up to which a point is at a node


@record
class PlumbLine:
    """A vertical line on which drift is read: a plan point for each story, top down.

    ``points`` (n, 2) in m, ``present`` (n,) says in which stories the point is on the floor above;
    ``at_nodes`` that where a floor is not rigid it is read at its node there, not as if it were.
    """

    name: str
    points: Floats
    present: NDArray[np.bool_]
    at_nodes: bool = False


def center_line(model: Model) -> PlumbLine:
    """The plumb line through the center of mass of each story's upper floor."""
    return model.memo.get("center line", lambda: PlumbLine(
        "center of mass", model.diaphragms.centers, np.ones(model.n, dtype=bool)))


def plumb_displacement(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str] = ("X", "Y")
) -> Quantity:
    """Displacement of every floor on plumb lines: by component, then by line, then by level."""
    def make() -> Quantity:
        points = np.concatenate([line.points for line in lines])
        top = np.tile(np.arange(model.n), len(lines))
        return _on_lines(model, lines, components, "displacement", "level",
                         _floor_motion(model, points, components, lines, (top, 1.0)))

    return _kept(model, "displacement", lines, components, make)


def plumb_bottom(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str] = ("X", "Y")
) -> Quantity:
    """Displacement of the bottom of every story on plumb lines, as :func:`plumb_drift` reads it."""
    points = np.concatenate([line.points for line in lines])
    below = np.tile(model.diaphragms.below, len(lines))
    return _on_lines(model, lines, components, "displacement below", "story",
                     _floor_motion(model, points, components, lines, (below, 1.0)))


def plumb_drift(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str] = ("X", "Y")
) -> Quantity:
    """Story drift on plumb lines: by component, then by line, then by story.

    Both ends of a story are read at the same plan point, that of the story's plumb line; below,
    the floor carries the point along as a rigid body (ASCE 7-16, 12.8.6).
    """
    def make() -> Quantity:
        points = np.concatenate([line.points for line in lines])
        top = np.tile(np.arange(model.n), len(lines))
        below = np.tile(model.diaphragms.below, len(lines))
        return _on_lines(model, lines, components, "story drift", "story",
                         _floor_motion(model, points, components, lines, (top, 1.0),
                                       (below, -1.0)))

    return _kept(model, "drift", lines, components, make)


def _kept(
    model: Model, kind: str, lines: Sequence[PlumbLine], components: Sequence[str],
    make: Callable[[], Quantity],
) -> Quantity:
    """Rows made once for the same lines on the same model."""
    key = (kind, tuple(components), tuple(map(id, lines)))
    return model.memo.get(key, lambda: (make(), tuple(lines)))[0]


def _on_lines(
    model: Model, lines: Sequence[PlumbLine], components: Sequence[str], kind: str, where: str,
    rows: sparse.csr_array,
) -> Quantity:
    count = len(components)
    return Quantity(kind, "displacement", rows, FixedDict({
        "component": sum(((c,) * (len(lines) * model.n) for c in components), ()),
        "point": sum(((line.name,) * model.n for line in lines), ()) * count,
        where: model.levels * (len(lines) * count),
    }))


def _floor_motion(
    model: Model, points: Floats, components: Sequence[str], lines: Sequence[PlumbLine],
    *parts: tuple[NDArray[np.intp], float],
) -> sparse.csr_array:
    """Rows giving the motion of plan ``points`` (k, 2), by component, then by point.

    Every part is the floors (k,) that carry the points, -1 being the still ground, and a sign.
    """
    d, k = model.diaphragms, len(points)
    floors = np.column_stack([one for one, _ in parts])  # (k, parts)
    signs = np.array([sign for _, sign in parts])
    arm = (points[:, None] - d.centers[floors]) * signs[:, None]
    freedoms = d.freedoms.astype(np.int32)[floors]
    shape = (len(components), k, len(parts), 2)  # by rotation of each floor, and along
    data, columns = np.empty(shape), np.empty(shape, dtype=np.int32)
    there = np.empty(shape, dtype=bool)
    there[:] = (floors >= 0)[:, :, None]
    for c, component in enumerate(components):
        if component == "rotation":
            data[c, ..., 0], columns[c, ..., 0] = signs, freedoms[..., 2]
            there[c, ..., 1] = False
            continue
        axis = "XY".index(component)
        np.multiply(arm[..., 1 - axis], 1.0 if axis else -1.0, out=data[c, ..., 0])
        data[c, ..., 1] = signs
        columns[c] = freedoms[..., [2, axis]]
    ends = row_ends(there.sum(axis=(2, 3)).ravel())
    found = sparse.csr_array((data[there], columns[there], ends),
                             shape=(k * len(components), model.freedoms.count))
    read = np.repeat([line.at_nodes for line in lines], model.n)
    for held, sign in parts if model.open_floors and read.any() else ():
        found = sparse.csr_array(found + sign * _within(
            model, points, components, np.where(read, held, -1)))
    return found


def _within(
    model: Model, points: Floats, components: Sequence[str], floors: NDArray[np.intp]
) -> sparse.csr_array:
    """What nodes at the points move by beside the motion of their floor, if it is not rigid."""
    rows, columns, values = [np.zeros(0, dtype=np.intp)], [np.zeros(0, dtype=np.intp)], \
        [np.zeros(0)]
    own: list[tuple[int, int]] = []  # rows, and freedoms of nodes on floors that deform
    for one in model.open_floors:
        inner = one.columns[-one.within.size:] if one.within.size else one.columns[:0]
        for j in np.flatnonzero(floors == one.level):
            away = np.hypot(*(one.at - points[j]).T)
            node = int(np.argmin(away))
            for c, component in enumerate(components):
                if one.deforms and component in ("X", "Y") and away[node] < NEAR:
                    axis = "XY".index(component)
                    own.append((c * len(points) + int(j), 6 * int(one.nodes[node]) + axis))
                    arm = points[j] - model.diaphragms.centers[one.level]
                    # less that of the floor as it is read
                    rows.append(np.full(2, c * len(points) + j))
                    columns.append(model.diaphragms.freedoms[one.level][[axis, 2]])
                    values.append(np.array([-1.0, -arm[0] if axis else arm[1]]))
                elif component in ("X", "Y") and away[node] < NEAR:
                    rows.append(np.full(inner.size, c * len(points) + j))
                    columns.append(inner)
                    values.append(one.moves[node, "XY".index(component), -inner.size:]
                                  if inner.size else np.zeros(0))
    shape = len(points) * len(components), model.freedoms.count
    found = sparse.csr_array(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=shape)
    if not own or model.framed is None:
        return found
    at, freedom = np.array(own).T
    nodes = sparse.csr_array((np.ones(len(own)), (np.arange(len(own)), freedom)),
                             shape=(len(own), 6 * len(model.framed.frame.points)))
    put = sparse.csr_array((np.ones(len(own)), (at, np.arange(len(own)))),
                           shape=(shape[0], len(own)))
    return sparse.csr_array(found + put @ sparse.csr_array(model.framed.applied(nodes)))


def story_quantities(
    freedoms: Freedoms, diaphragms: Diaphragms, ground: Floats | None = None
) -> dict[str, Callable[[], Quantity]]:
    """Story shear and overturning along X and Y, torsion: how each cut through every story is made.

    Overturning is about the bottom of the story, below the center of mass of the floor at its
    top, torsion about the vertical axis through that. All nodal forces of the floors above count,
    vertical ones too where there are any, and what the springs of the ``ground`` (N,) give back.
    """
    d, count = diaphragms, freedoms.count
    story, floor = np.nonzero(d.carried)
    bottom = d.elevations - d.story_heights
    arm = d.elevations[floor] - bottom[story]
    lever = d.centers[floor] - d.centers[story]

    ends = row_ends(d.carried.sum(axis=1))  # the pairs run by story

    def returned(rows: sparse.csr_array) -> sparse.csr_array | None:
        return None if ground is None else sparse.csr_array(-(rows * ground))

    def cut(columns: NDArray[np.intp], values: Floats) -> sparse.csr_array:
        return sparse.csr_array((values, columns, ends), shape=(len(d), count))

    one = np.ones(story.size)
    x, y, turn = d.freedoms.astype(np.int32)[floor].T
    labels = {"component": ("X",) * len(d) + ("Y",) * len(d), "story": d.levels * 2}
    upright = bool(freedoms.of("Z").any())

    def shear() -> Quantity:
        rows = sparse.csr_array(
            (np.tile(one, 2), np.concatenate([x, y]), np.append(ends, ends[1:] + ends[-1])),
            shape=(2 * len(d), count))
        return Quantity("story shear", "force", rows, labels, "forces", returned(rows))

    def moment() -> Quantity:
        rows = sparse.csr_array(
            (np.tile(arm, 2), np.concatenate([x, y]), np.append(ends, ends[1:] + ends[-1])),
            shape=(2 * len(d), count))
        if upright:
            rows = sparse.csr_array(rows + _lifted(freedoms, d)[0])
        return Quantity("overturning moment", "moment", rows, labels, "forces", returned(rows))

    def torsion() -> Quantity:
        rows = sparse.csr_array(cut(turn, one) + cut(y, lever[:, 0]) - cut(x, lever[:, 1]))
        return Quantity("story torsion", "moment", rows, {"story": d.levels}, "forces",
                        returned(rows))

    found: dict[str, Callable[[], Quantity]] = {
        "story shear": shear, "overturning moment": moment, "story torsion": torsion}
    if ground is not None:
        found |= ground_quantities(d, ground)
    if upright:
        found["vertical force"] = lambda: Quantity(
            "vertical force", "force", _lifted(freedoms, d)[1], {"story": d.levels}, "forces")
    return found


def ground_quantities(d: Diaphragms, ground: Floats) -> dict[str, Callable[[], Quantity]]:
    """What the ground does to the floors it holds: forces along X and Y, and moments about the
    vertical axis through the middle of the floor."""
    held = np.flatnonzero(ground[d.freedoms].any(axis=1))
    names = tuple(d.levels[i] for i in held.tolist())

    def rows(freedoms: NDArray[np.intp]) -> sparse.csr_array:
        return sparse.csr_array((-ground[freedoms], (np.arange(freedoms.size), freedoms)),
                                shape=(freedoms.size, ground.size))

    return {
        "ground force": lambda: Quantity(
            "ground force", "force", rows(d.freedoms[held, :2].T.ravel()),
            {"component": ("X",) * held.size + ("Y",) * held.size, "level": names * 2}),
        "ground moment": lambda: Quantity(
            "ground moment", "moment", rows(d.freedoms[held, 2]), {"level": names}),
    }


def _lifted(
    freedoms: Freedoms, d: Diaphragms
) -> tuple[sparse.csr_array, sparse.csr_array]:
    """(2n, N) what forces along Z at the nodes above add to the overturning moments, and (n, N)
    their sums."""
    upright = np.flatnonzero(freedoms.of("Z"))
    floor = np.array([d.levels.index(freedoms.level[i]) for i in upright])
    story, k = np.nonzero(d.carried[:, floor])
    arm = freedoms.points[upright[k], :2] - d.centers[story]
    moment = sparse.csr_array(
        (np.concatenate([-arm[:, 0], -arm[:, 1]]),
         (np.concatenate([story, story + len(d)]), np.tile(upright[k], 2))),
        shape=(2 * len(d), freedoms.count))
    return moment, sparse.csr_array(
        (np.ones(k.size), (story, upright[k])), shape=(len(d), freedoms.count))


def line_shear(
    lines: Sequence[LateralLine], moved: sparse.csr_array, levels: tuple[str, ...]
) -> Quantity:
    """Shear of every lateral line in each of its stories, top down; ``moved`` is of motions."""
    rows = blocks([line.shear for line in lines if line.shear is not None]) @ moved
    return Quantity("line shear", "force", sparse.csr_array(rows), {
        "line": tuple(line.name for line in lines for _ in line.levels),
        "story": tuple(levels[i] for line in lines for i in line.levels),
    })


def moments_of(line: LateralLine, diaphragms: Diaphragms) -> Floats:
    """(m, m) moments at the bottom of the stories of a line with a stiffness of its own, by its
    motions."""
    assert line.stiffness is not None
    d = diaphragms
    bottom = (d.elevations - d.story_heights)[line.levels]
    return np.asarray(
        np.triu(d.elevations[line.levels][:, None] - bottom[None]).T @ line.stiffness)


def line_moment(
    lines: Sequence[LateralLine], moved: sparse.csr_array, diaphragms: Diaphragms
) -> Quantity:
    """Moment of every lateral line at the bottom of each of its stories, top down.

    That of the forces on the line above; ``moved`` is of motions. For a line of story springs it
    is the moment its columns resist together.
    """
    d = diaphragms
    rows = blocks([moments_of(line, d) for line in lines if line.stiffness is not None]) @ moved
    return Quantity("line moment", "moment", sparse.csr_array(rows), {
        "line": tuple(line.name for line in lines for _ in line.levels),
        "story": tuple(d.levels[i] for line in lines for i in line.levels),
    })
