"""Displacement of every level on plumb lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.mechanics.system import PlumbLine, System
from undatum.standards.answers import Direction
from undatum.table import Table, column

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class PlumbDisplacements:
    """Displacement of each set, plumb line and level. SI.

    ``elastic`` (sets, plumb lines, levels, 2) along X and Y under the reduced forces, without sign;
    not a number where the point is not on the floor. ``factors`` (sets,) amplify it.
    """

    levels: tuple[str, ...]
    sets: tuple[str, ...]
    points: tuple[str, ...]
    elastic: Floats
    factors: Floats

    def table(self) -> Table:
        """Every set, plumb line and level."""
        index = [
            (s, p, i)
            for s in range(len(self.sets)) for p in range(len(self.points))
            for i in range(len(self.levels)) if np.isfinite(self.elastic[s, p, i, 0])
        ]
        return Table(
            "displacements",
            "Displacement on plumb lines",
            (
                column("set", "", [self.sets[s] for s, _, _ in index]),
                column("point", "", [self.points[p] for _, p, _ in index]),
                column("level", "", [self.levels[i] for _, _, i in index]),
                *(column(f"elastic {d}", "displacement", [self.elastic[k][c] for k in index])
                  for c, d in enumerate("XY")),
                *(column(f"amplified {d}", "displacement",
                         [self.elastic[k][c] * self.factors[k[0]] for k in index])
                  for c, d in enumerate("XY")),
            ),
            note="Story drift is not the difference of these where they come from a spectrum "
            "analysis: each value is the peak of its own modal values.",
        )


def plumb_displacements(
    system: System, sets: Sequence[ResponseSet], plumb: Sequence[PlumbLine],
    factors: Mapping[Direction, float],
) -> PlumbDisplacements:
    """Evaluate the displacement of every level on every plumb line for every set."""
    elastic = np.full((len(sets), len(plumb), system.n, 2), np.nan)
    levels = np.arange(system.n)
    for p, line in enumerate(plumb):
        for axis in (0, 1):
            rows = system.displacement_map(levels, line.points, axis)
            for s, one in enumerate(sets):
                elastic[s, p, line.present, axis] = np.abs(one.of(rows))[line.present]
    return PlumbDisplacements(
        system.levels, tuple(s.name for s in sets), tuple(line.name for line in plumb), elastic,
        np.array([factors[s.direction] for s in sets]),
    )
