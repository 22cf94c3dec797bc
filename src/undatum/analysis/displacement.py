"""Displacement of every level on plumb lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.labelled import Labelled, axis, labelled
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, plumb_displacement
from undatum.record import record
from undatum.standards.terms import Direction
from undatum.table import Table, column

Floats = NDArray[np.float64]


@record
class PlumbDisplacements:
    """Displacement of each set, plumb line and level. SI.

    ``elastic`` (set, point, level, component) along X and Y under the reduced forces, without
    sign; not a number where the point is not on the floor. ``factors`` (sets,) amplify it.
    """

    elastic: Labelled
    factors: Floats

    def table(self) -> Table:
        """Every set, plumb line and level."""
        sets, points, levels, along = (next(iter(a.labels.values())) for a in self.elastic.axes)
        values = self.elastic.values
        index = [tuple(map(int, k)) for k in np.argwhere(np.isfinite(values[..., 0]))]
        return Table(
            "displacements",
            "Displacement on plumb lines",
            (
                column("set", "", [sets[s] for s, _, _ in index]),
                column("point", "", [points[p] for _, p, _ in index]),
                column("level", "", [levels[i] for _, _, i in index]),
                *(column(f"elastic {d}", "displacement", [values[k][c] for k in index])
                  for c, d in enumerate(along)),
                *(column(f"amplified {d}", "displacement",
                         [values[k][c] * self.factors[k[0]] for k in index])
                  for c, d in enumerate(along)),
            ),
            note="Story drift is not the difference of these where they come from a spectrum "
            "analysis: each value is the peak of its own modal values.",
        )


def plumb_displacements(
    model: Model, sets: Sequence[ResponseSet], plumb: Sequence[PlumbLine],
    factors: Mapping[tuple[Direction, str], float],
) -> PlumbDisplacements:
    """Evaluate the displacement of every level on every plumb line for every set.

    ``factors`` amplify it by direction and limit state.
    """
    quantity = plumb_displacement(model, plumb, model.directions)
    shape = (len(model.directions), len(plumb), model.n)
    elastic = np.array([np.abs(one.of(quantity)).reshape(shape).transpose(1, 2, 0)
                        for one in sets])
    present = np.array([line.present for line in plumb])
    elastic[:, ~present] = np.nan
    return PlumbDisplacements(
        labelled("displacement", "displacement", (
            axis("set", [s.name for s in sets]), axis("point", [p.name for p in plumb]),
            axis("level", model.levels), axis("component", model.directions)), elastic),
        np.array([factors[s.direction, s.state.key] for s in sets]),
    )
