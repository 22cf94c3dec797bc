"""Shears of walls for their design, where a standard asks for more than the analysis gives."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from undatum.mechanics.cuts import WHOLE
from undatum.readings.layouts import Reading
from undatum.standards.answers import SystemAnswer
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column
from undatum.ties import largest

SKEW = 0.1  # of its length: a wall that runs so little along a direction is none of it


def wall_design_shears(
    read: Reading, along: Mapping[str, tuple[float, float]], slender: Mapping[str, bool],
    systems: Mapping[Direction, SystemAnswer], periods: Mapping[Direction, float],
) -> Table:
    """The largest shear of every wall under the sets for strength, times the factor of the
    direction along which it runs; ``along`` (wall: unit vector in plan), ``slender`` whether it is
    more than twice as high as long, ``periods`` the first ones by direction, s."""
    shear = np.abs(read.values[:, :, [n for n, _ in read.thing.components].index("shear in plane")])
    places = read.thing.places
    rows: dict[tuple[str, str], tuple[float, str]] = {}
    for k, (wall, part, story) in enumerate(zip(
            places["wall"], places["part"], places["story"], strict=True)):
        if part != WHOLE:
            continue
        s = largest(shear[:, k])
        if float(shear[s, k]) > rows.get((wall, story), (-1.0, ""))[0]:
            rows[wall, story] = (float(shear[s, k]), read.names[s])
    found = []
    for (wall, story), (value, name) in rows.items():
        factors = [one.wall_shear.of(slender=slender[wall], period=periods[d])
                   for d, one in systems.items() if one.wall_shear is not None
                   and abs(along[wall][DIRECTIONS.index(d)]) > SKEW]
        if factors:
            factor, clause = max(factors)
            found.append((wall, story, value, name, factor, clause))
    return Table(
        "wall_design_shears", "Shears of walls for their design, earthquake alone",
        (
            column("wall", "", [r[0] for r in found]), column("story", "", [r[1] for r in found]),
            column("shear of the analysis", "force", [r[2] for r in found]),
            column("set", "", [r[3] for r in found]),
            column("factor", "ratio", [r[4] for r in found], 3),
            column("design shear", "force", [r[2] * r[4] for r in found]),
            column("clause", "", [r[5] for r in found]),
        ),
        note="Beside the analysis: other tables and combinations have the shears as analyzed. "
        "Their moments are in the table wall_design_moments. Walls that are given "
        "as lateral lines are not among these: take the factor to their shears in line_forces.")
