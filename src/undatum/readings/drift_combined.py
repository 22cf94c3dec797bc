"""Story drift of chosen sets and load cases together, as the engineer puts them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import FurtherSet, ResponseSet, along
from undatum.checks.drift import DriftCheck
from undatum.finding import Finding, Severity
from undatum.mechanics.cases import StaticCase
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.readings.combinations import Combiner, Parts, Row
from undatum.readings.own import DriftCombination
from undatum.record import record
from undatum.standards.terms import DIRECTIONS
from undatum.table import Table, column
from undatum.ties import largest

Floats = NDArray[np.float64]


@record
class CombinedDrift:
    """Story drift of a combination of one's own. SI.

    ``drift`` (points, stories, 2) along X and Y, the larger of both signs of what has none; not a
    number where a point is not on the floor above. ``limit`` is drift over story height, with its
    ``reason``, or ``None``; ``amplified`` says whether sets enter with their design drift.
    """

    name: str
    drift: Floats
    points: tuple[str, ...]
    levels: tuple[str, ...]
    heights: Floats
    above_base: NDArray[np.bool_]
    amplified: bool
    limit: float | None
    reason: str

    @property
    def ratios(self) -> Floats:
        """(points, stories) larger drift of X and Y over story height, above the base."""
        found = np.max(self.drift, axis=-1) / self.heights
        return np.where(self.above_base, found, np.nan)

    def finding(self) -> Finding | None:
        """The largest against the limit; nothing where there is none."""
        if self.limit is None:
            return None
        p, i = np.unravel_index(largest(self.ratios), self.ratios.shape)
        ratio = float(self.ratios[p, i])
        over = ratio > self.limit
        return Finding(
            f"story drift, {self.name}", f"story {self.levels[i]}, {self.points[p]}",
            Severity.EXCEEDED if over else Severity.OK,
            f"Story drift ratio {ratio:.5f} against {self.limit:.5f}: {self.reason}.",
            "drift.combinations", "Stiffen the story, or take the limit out with a reason."
            if over else "", ratio, self.limit)


def combined_drift(
    model: Model, one: DriftCombination, factors: Mapping[str, float],
    sets: Mapping[str, ResponseSet | FurtherSet], cases: Sequence[StaticCase],
    checks: Mapping[str, DriftCheck], plumb: Sequence[PlumbLine],
) -> CombinedDrift:
    """Drift under the ``factors`` on load ``cases`` and those of the combination on ``sets``.

    Static sets and cases are added with their signs, spectrum sets with both. Sets that enter with
    design drift take the factors of their own check, on displacement and P-Delta, those of several
    directions the larger one of displacement; sets without a check, and cases, stay as they are.
    """
    lines = [center_line(model), *plumb]
    rows = plumb_drift(model, lines, DIRECTIONS)
    shape = (len(DIRECTIONS), len(lines), model.n)

    def values(of: ResponseSet | FurtherSet) -> Floats:
        found, check = of.of(rows), checks.get(of.state.key)
        if one.of == "elastic" or check is None:
            return found
        grown = check.factors.max() if isinstance(of, FurtherSet) else \
            check.factors[check.directions.index(along(of))]
        return np.ravel(found.reshape(shape) * grown * check.second_order[: len(DIRECTIONS), None])

    row = Row("drift", one.name, factors, (0.0, 0.0, 0.0), "independent", "", one.sets)
    parts = Parts(
        len(rows), {case.name: rows.of(case.motion, case.motion) for case in cases}, {},
        {name: (values(sets[name]), sets[name].method == "static") for name in one.sets}, "static")
    engine = Combiner((row,))
    drift = np.abs(engine.gravity(row, parts)) + engine.quake(row, parts)[0]
    drift = np.moveaxis(drift.reshape(shape), 0, -1)
    drift[~np.array([line.present for line in lines])] = np.nan
    return CombinedDrift(
        one.name, drift, tuple(line.name for line in lines), model.levels,
        model.diaphragms.story_heights, model.above_base, one.of == "design", one.limit, one.reason)


def combined_drift_table(found: Sequence[CombinedDrift]) -> Table:
    """Every combination, point and story above the base."""
    rows = [(one, p, i) for one in found
            for p, i in np.argwhere(np.isfinite(one.ratios)).tolist()]
    over = [one.limit is not None and bool(one.ratios[p, i] > one.limit) for one, p, i in rows]
    x, y = ([float(one.drift[p, i, c]) for one, p, i in rows] for c in (0, 1))
    heights = [float(one.heights[i]) for one, _, i in rows]
    return Table(
        "drift_combinations", "Story drift of combinations defined in the project",
        (
            column("combination", "", [one.name for one, _, _ in rows]),
            column("point", "", [one.points[p] for one, p, _ in rows]),
            column("story", "", [one.levels[i] for one, _, i in rows]),
            column("drift X", "displacement", x), column("drift Y", "displacement", y),
            column("resultant", "displacement", np.hypot(x, y)),
            column("ratio X", "ratio", np.divide(x, heights)),
            column("ratio Y", "ratio", np.divide(y, heights)),
            column("limit", "ratio", [one.limit for one, _, _ in rows]),
            column("use", "ratio", [None if one.limit is None else
                                    float(one.ratios[p, i] / one.limit) for one, p, i in rows]),
            column("verdict", "", [
                "no limit" if one.limit is None else "exceeded" if bad else "passes"
                for (one, _, _), bad in zip(rows, over, strict=True)]),
        ),
        note="Static sets and cases with their signs, spectrum sets with both signs, sets of "
             "several directions with the larger displacement factor; load cases and forces of the "
             "project are elastic and first order. " + "; ".join(
            f"{one.name}: " + ("design" if one.amplified else "elastic") + " drift of the sets"
            + (", limit" if one.limit is not None and one.reason else "")
            + (f": {one.reason}" if one.reason else "") for one in found)
        + ". The resultant is at least that of any moment.",
        marks=tuple(k for k, bad in enumerate(over) if bad),
    )
