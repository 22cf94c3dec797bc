"""Moments of ductile walls for their design: a straight envelope, shifted for tension."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.layout.panels import WallRun
from undatum.mechanics.cuts import WHOLE
from undatum.readings.layouts import Reading
from undatum.results.wall_shears import SKEW
from undatum.standards.answers import SystemAnswer
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column

Floats = NDArray[np.float64]
SLENDER = 2.0  # height over length, above which it holds
ARM = 0.8  # of the length of a wall: its inner lever arm


def straight_envelope(z: Floats, moment: Floats) -> Floats:
    """The lowest straight line from the moment at the foot that lies on or above all of them.

    ``z`` (k,) heights above the foot, of which one is zero, and ``moment`` (k,) at them, both as
    they come.

    >>> straight_envelope(np.array([6.0, 3.0, 0.0]), np.array([0.0, 8.0, 12.0])).tolist()
    [4.0, 8.0, 12.0]
    """
    foot = float(moment[z == 0.0].max())
    above = z > 0.0
    slope = float(((moment[above] - foot) / z[above]).max(initial=-foot / float(z.max())))
    if slope > 0:  # the largest moment is not at the foot: no line falls over it
        return np.full(z.size, float(moment.max()))
    return np.asarray(foot + slope * z)


def wall_design_moments(
    read: Reading, walls: Mapping[str, WallRun], elevations: Mapping[str, tuple[float, float]],
    systems: Mapping[Direction, SystemAnswer],
) -> Table:
    """The largest moment in plane of every slender wall under the sets for strength, its envelope
    up the wall and that shifted; ``elevations`` foot and head of the stories, m."""
    moment = np.abs(read.values[:, :, [n for n, _ in read.thing.components].index(
        "moment in plane")])
    places = read.thing.places
    rows: list[tuple[str, str, str, float, float, float, float, float]] = []
    for name, run in walls.items():
        asked = [one.wall_envelope for d, one in systems.items() if one.wall_envelope is not None
                 and abs(float(run.along[DIRECTIONS.index(d)])) > SKEW]
        at = [k for k, (wall, part) in enumerate(zip(places["wall"], places["part"], strict=True))
              if wall == name and part == WHOLE]
        z = np.array([elevations[places["story"][k]][places["at"][k] == "head"] for k in at])
        if not asked or not at or np.ptp(z) <= SLENDER * run.length:
            continue
        shift = 0.5 * ARM * run.length * max(cot for cot, _ in asked)
        z = np.round(z - z.min(), 9)
        most = moment[:, at].max(axis=0)
        envelope = straight_envelope(z, most)
        order = np.argsort(z)
        shifted = np.interp(np.maximum(z - shift, 0.0), z[order], envelope[order])
        rows += [(name, places["story"][k], places["at"][k], float(h), float(m), float(e),
                  float(s), shift)
                 for k, h, m, e, s in zip(at, z, most, envelope, shifted, strict=True)]
    clauses = sorted({one.wall_envelope[1] for one in systems.values() if one.wall_envelope})
    return Table(
        "wall_design_moments", "Moments of slender walls for their design, earthquake alone",
        (
            column("wall", "", [r[0] for r in rows]), column("story", "", [r[1] for r in rows]),
            column("at", "", [r[2] for r in rows]),
            column("above the foot", "length", [r[3] for r in rows]),
            column("moment of the analysis", "moment", [r[4] for r in rows]),
            column("envelope", "moment", [r[5] for r in rows]),
            column("design moment", "moment", [r[6] for r in rows]),
            column("shift", "length", [r[7] for r in rows]),
        ),
        note=f"Walls more than {SLENDER:g} times as high as long ({', '.join(clauses)}). The "
        "envelope is the lowest straight line from the foot over the moments of the analysis, for "
        "walls whose mass, stiffness and resistance do not change abruptly; it is shifted up by "
        "0.5 z cot θ, z = 0.8 of the length of the wall. Beside the analysis: other tables and "
        "combinations have the moments as analyzed.")
