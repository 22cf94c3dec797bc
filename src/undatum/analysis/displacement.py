"""Displacement of every level on plumb lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.combine import combine_directions
from undatum.analysis.response import ResponseSet, along
from undatum.labelled import Labelled, axis, labelled
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, plumb_displacement
from undatum.record import record
from undatum.standards.terms import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    LimitState,
    Method,
)
from undatum.table import Table, column

Floats = NDArray[np.float64]


@record
class PlumbDisplacements:
    """Displacement of each set, plumb line and level. SI.

    ``elastic`` (set, point, level, component) along X and Y under the reduced forces, without
    sign; not a number where the point is not on the floor. ``factors`` (sets,) amplify it.
    ``methods``, ``directions`` and ``states`` (sets,) tell the sets apart.
    """

    elastic: Labelled
    factors: Floats
    methods: tuple[Method, ...]
    directions: tuple[Direction, ...]
    states: tuple[LimitState, ...]

    def together(
        self, state: LimitState, method: Method, how: DirectionalCombination
    ) -> tuple[Floats, Floats]:
        """(point, level, component) elastic and amplified, under both directions of ground motion.

        Of the sets of a direction the largest counts, amplified by its own factor.
        """
        each = []
        for d in DIRECTIONS:
            own = [s == state and m == method and e == d for s, m, e in
                   zip(self.states, self.methods, self.directions, strict=True)]
            values, factors = self.elastic.values[own], self.factors[own]
            each.append((values.max(axis=0), (values * factors[:, None, None, None]).max(axis=0)))
        (x, grown_x), (y, grown_y) = each
        return combine_directions([x, y], how), combine_directions([grown_x, grown_y], how)

    def both_table(self, how: DirectionalCombination) -> Table:
        """Displacement of every point and level under both directions of ground motion."""
        _, points, levels, along = (next(iter(a.labels.values())) for a in self.elastic.axes)
        rows: list[tuple[str, str, str, Floats, Floats]] = []
        for state in dict.fromkeys(self.states):
            for method in dict.fromkeys(self.methods):
                elastic, grown = self.together(state, method, how)
                rows += [(f"{method} X and Y, {how}, {state.key}", points[p], levels[i],
                          elastic[p, i], grown[p, i])
                         for p, i in np.argwhere(np.isfinite(elastic[..., 0])).tolist()]
        return Table(
            "displacements_both", "Displacement under both directions of ground motion",
            (
                column("sets", "", [r[0] for r in rows]),
                column("point", "", [r[1] for r in rows]),
                column("level", "", [r[2] for r in rows]),
                *(column(f"elastic {d}", "displacement", [float(r[3][c]) for r in rows])
                  for c, d in enumerate(along)),
                *(column(f"amplified {d}", "displacement", [float(r[4][c]) for r in rows])
                  for c, d in enumerate(along)),
            ),
            note="Values are unsigned; story drift is not their difference.",
        )

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
            note="For spectrum sets, story drift is not the difference of these values: each is a "
                 "peak combined from its own modal values.",
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
        np.array([factors[along(s), s.state.key] for s in sets]),
        tuple(s.method for s in sets), tuple(along(s) for s in sets),
        tuple(s.state for s in sets),
    )
