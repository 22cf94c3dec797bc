"""What stands on a level and no floor there holds: walls and columns in a hole, or beside the edge.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from undatum.layout.frame import Frame
from undatum.layout.whole import Building
from undatum.record import record

Ints = NDArray[np.intp]


BESIDE = 0.5  # m: walls of a core stand this near to the hole they line, drawn at their faces
_SLIP = 1e-3  # m: a floor that deforms is joined to what stands on its mesh alone


def nodes_apart(building: Building, frame: Frame, level: int) -> Ints:
    """Nodes of a level that lie beside its floor or in a hole, and that neither beams nor walls
    join to it."""
    own = np.flatnonzero(frame.floors == level)
    near = _SLIP if level in building.deforming else BESIDE
    away = shapely.distance(shapely.points(frame.points[own, :2]), building.outline(level).polygon)
    on = own[away < near]
    if not on.size or on.size == own.size:
        return np.zeros(0, dtype=np.intp)
    both = np.isin(frame.ends, own).all(axis=1)
    pairs = [frame.ends[both]]
    if frame.panels is not None:
        edges = frame.panels.edges
        pairs.append(edges[np.isin(edges, own).all(axis=1)])
    a, b = np.concatenate(pairs).T
    count = len(frame.points)
    _, part = connected_components(coo_array((np.ones(a.size), (a, b)), shape=(count, count)),
                                   directed=False)
    return own[~np.isin(part[own], part[on])]


@record
class Apart:
    """A wall or column by its name, and the levels whose floors do not hold it, from below."""

    what: str
    levels: tuple[str, ...]


def parts_apart(building: Building) -> tuple[Apart, ...]:
    """Walls and columns that the floors of some of their levels do not hold; floors without a
    diaphragm hold nothing anyhow."""
    frame = building.frame
    if frame is None:
        return ()
    found: dict[str, list[str]] = {}
    for i in reversed(range(len(building.levels) - 1)):
        if building.is_open(i) and i not in building.deforming:
            continue
        apart = nodes_apart(building, frame, i)
        if not apart.size:
            continue
        names = [m.name for m in frame.members if m.kind == "column"
                 and int(frame.ends[m.elements[-1], 1]) in set(apart.tolist())]
        if frame.panels is not None:
            here = np.isin(frame.panels.nodes, apart).any(axis=1)
            names += [f"wall {frame.panels.walls[w].name}" for w in np.unique(
                frame.panels.wall[here & (frame.panels.story == i)]).tolist()]
        for name in names:
            found.setdefault(name, []).append(building.levels[i].name)
    return tuple(Apart(name, tuple(levels)) for name, levels in sorted(found.items()))
