"""Second-order effects of gravity, story by story."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.record import record
from undatum.standards.answers import StabilityAnswer
from undatum.standards.contract import WholeStructure
from undatum.standards.facts import SecondOrderFacts
from undatum.standards.terms import DIRECTIONS, Direction, LimitState, Method
from undatum.table import Table, column, number_text
from undatum.ties import largest

Floats = NDArray[np.float64]
NO_SHEAR = 1e-9  # share of the largest story shear below which a story carries none


@record
class StabilityCheck:
    """Stability coefficients of one direction and method, stories that carry shear, top down."""

    direction: Direction
    method: Method
    state: LimitState
    levels: tuple[str, ...]
    gravity: Floats
    drift: Floats
    shear: Floats
    heights: Floats
    answer: StabilityAnswer
    amplification: Floats  # (n,) for every level of the system, 1 where there is none to apply
    included: bool = False  # second order is in the analysis: there is nothing left to apply

    @property
    def table_name(self) -> str:
        return f"stability_{self.direction.lower()}_{self.method}" + self.state.beside("_")

    @property
    def _said(self) -> str:
        return f"P-Delta {self.direction}, {self.method}" + self.state.beside(", ")

    def table(self) -> Table:
        """Gravity load, drift, shear, coefficient and amplification by story."""
        a = self.answer
        return Table(
            self.table_name,
            f"P-Delta, {self.direction}, {self.method}" + self.state.beside(", "),
            (
                column("story", "", self.levels),
                column("gravity load", "force", self.gravity),
                column("design drift", "displacement", self.drift),
                column("story shear", "force", self.shear),
                column("story height", "length", self.heights),
                column("stability coefficient", "ratio", a.coefficient),
                column("limit", "ratio", [a.limit] * len(self.levels)),
                column("amplification", "ratio", a.amplification),
                column("verdict", "", self.verdicts),
            ),
            marks=tuple(np.flatnonzero(self.exceeded).tolist()),
        )

    @property
    def exceeded(self) -> NDArray[np.bool_]:
        """(stories,) whether the coefficient is over its limit; nowhere where there is none."""
        most = np.inf if self.answer.limit is None else self.answer.limit
        return np.asarray(self.answer.coefficient > most)

    @property
    def verdicts(self) -> tuple[str, ...]:
        """What that means, story by story."""
        if self.answer.limit is None:
            return ("no limit",) * len(self.levels)
        return tuple("exceeded" if over else "passes" for over in self.exceeded)

    def finding(self) -> Finding:
        """The worst story."""
        a = self.answer
        if not self.levels:
            return Finding(self._said, "whole structure", Severity.NOTE,
                           "No story carries shear, so this is not checked.", a.clause)
        i = largest(a.coefficient)
        value = float(a.coefficient[i])
        where, limit = f"story {self.levels[i]}", 1.0 if a.limit is None else a.limit
        if value > limit or value >= 1.0:
            return Finding(
                self._said, where, Severity.EXCEEDED,
                f"Stability coefficient {value:.4f} is above {limit:.3g}: the story is unstable. "
                "No amplification exists for it and none is applied.", a.clause,
                f"Increase the stiffness of this story {number_text(value / limit, 3)} times, or "
                "reduce the gravity load on it.", value, limit)
        if a.exempt:
            return Finding(self._said, where, Severity.OK,
                           f"Stability coefficient {value:.4f}; it need not be considered: "
                           f"{a.exempt}.", a.clause, "", value)
        if a.negligible is None or a.amplifiable is None:
            return Finding(self._said, where, Severity.OK,
                           f"Stability coefficient {value:.4f}, for information: the standard sets "
                           "no limit.", "", "", value)
        if self.included:
            return Finding(
                self._said, where, Severity.OK,
                f"Stability coefficient {value:.4f}; second-order effects are in the analysis, so "
                "no factor is applied.", a.clause, "", value,
                a.negligible if a.limit is None else a.limit)
        if value > a.amplifiable:
            severity, text = Severity.WARNING, (
                f"> {a.amplifiable:.2f}: a second-order analysis is required")
            advice = ("A factor is not sufficient; stiffen the story or make a second-order "
                      "analysis.")
        elif value > a.negligible:
            severity, text = Severity.NOTE, (
                f"> {a.negligible:.2f}: drift is multiplied by {a.amplification[i]:.3f}")
            advice = "Forces in load combinations include the factor; those of single sets do not."
        else:
            severity, advice = Severity.OK, ""
            text = f"≤ {a.negligible:.2f}: P-Delta need not be considered"
        return Finding(
            self._said, where, severity, f"Stability coefficient {value:.4f} {text}.", a.clause,
            advice, value, a.negligible if a.limit is None else a.limit,
        )


def check_stability(
    part: WholeStructure, model: Model, gravity: Floats, sets: Sequence[ResponseSet],
    direction: Direction, factor: float, lines: Sequence[PlumbLine] = (), *,
    included: bool = False, shear_sets: Sequence[ResponseSet] = (),
) -> StabilityCheck:
    """Stability of one direction from the drift and the shear of the sets of one method.

    ``gravity`` (n,) is the gravity load of each level; it is added up from the top. ``factor``
    turns the drift of the sets into the design drift. Drift is read at the centers of mass and on
    ``lines``; of several sets (the signs of the eccentricity) and lines, that counts which gives
    the largest ratio of drift to shear. Stories without shear are not judged. ``shear_sets``, one
    for each of the sets, give the shear where a standard takes it from other forces than drift.

    Where second order is ``included`` in the sets, the drift without it is that over 1 + theta
    (ASCE 7-16, 12.8.7), and no factor is left to apply.
    """
    d, one = direction, sets[0]
    points = [center_line(model), *lines]
    quantity = plumb_drift(model, points)  # the one that drift is judged by: worked out once
    axis = DIRECTIONS.index(d)
    present = np.array([line.present for line in points])
    shears = np.array([np.abs(s.of(model.quantities["story shear"].where(component=d)))
                       for s in shear_sets or sets])
    judged = model.above_base & (shears.max(axis=0) > NO_SHEAR * shears.max())
    drifts = np.array([
        np.where(present, s.vectors(quantity)[axis].reshape(present.shape), 0.0).max(axis=0)
        for s in sets])[:, judged]
    shears = shears[:, judged]
    lead = np.argmax(drifts / np.maximum(shears, NO_SHEAR * shears.max(initial=0.0)), axis=0)
    drift, shear = (np.take_along_axis(v, lead[None], axis=0)[0] for v in (drifts * factor, shears))
    heights = model.diaphragms.story_heights[judged]
    load = (model.diaphragms.carried @ gravity)[judged]
    facts = SecondOrderFacts(d, one.method, one.state, load, drift, shear, heights)
    answer = part.stability(facts)
    amplification = np.ones(model.n)
    if included:
        drift = drift / (1 + answer.coefficient)
        answer = part.stability(replace(facts, drift=drift))
        answer = replace(answer, amplification=np.ones_like(answer.amplification))
    else:
        amplification[judged] = np.where(
            np.isfinite(answer.amplification), answer.amplification, 1.0)
    levels = tuple(name for name, keep in zip(model.levels, judged, strict=True) if keep)
    return StabilityCheck(
        d, one.method, one.state, levels, load, drift, shear, heights, answer, amplification,
        included,
    )
