"""Structures that share nothing but the ground: no floor, line, member or wall above it joins them.
"""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from undatum.layout.whole import Building


def separate_structures(building: Building) -> tuple[tuple[int, ...], ...]:
    """Places of the levels above the base, structure by structure, each top down; one of a building
    that hangs together."""
    base = building.base_index
    if sum(k >= base for k in building.below[:base]) < 2:  # all stand on one story
        return (tuple(range(base)),)
    pairs = [(i, k) for i, k in enumerate(building.below[:base]) if k < base]
    for line in building.lines:
        own = [i for i in building.span(line) if i < base]
        pairs += [(own[0], i) for i in own[1:]]
    count, frame = base, building.frame
    if frame is not None:
        count += len(frame.points)
        on = np.flatnonzero((frame.floors >= 0) & (frame.floors < base))
        pairs += [(int(frame.floors[n]), base + int(n)) for n in on]
        ends = [frame.ends] if frame.panels is None else [
            frame.ends, frame.panels.nodes[:, [0, 1]], frame.panels.nodes[:, [1, 2]],
            frame.panels.nodes[:, [2, 3]], frame.panels.links]
        joined = np.concatenate([e.reshape(-1, 2) for e in ends])
        ground = frame.floors >= base
        joined = joined[~ground[joined].any(axis=1)]
        pairs += [(base + a, base + b) for a, b in joined.tolist()]
    if not pairs:
        return tuple((i,) for i in range(base))
    a, b = np.array(pairs).T
    _, part = connected_components(coo_array((np.ones(len(pairs)), (a, b)), shape=(count, count)),
                                   directed=False)
    of_level = part[:base].tolist()
    return tuple(tuple(i for i in range(base) if of_level[i] == k) for k in dict.fromkeys(of_level))
