"""Second-order effects of gravity, story by story."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.record import record
from undatum.standards.answers import (
    Direction,
    LimitState,
    Method,
    SecondOrderFacts,
    StabilityAnswer,
)
from undatum.standards.contract import WholeStructure
from undatum.table import Table, column

Floats = NDArray[np.float64]


@record
class StabilityCheck:
    """Stability coefficients of one direction and method, stories above the base, top down."""

    direction: Direction
    method: Method
    state: LimitState
    levels: tuple[str, ...]
    gravity: Floats
    drift: Floats
    shear: Floats
    heights: Floats
    answer: StabilityAnswer
    amplification: Floats  # (n,) for every level of the system, 1 below the base

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
            ),
            marks=() if a.limit is None else
            tuple(int(i) for i in np.flatnonzero(a.coefficient > a.limit)),
        )

    def finding(self) -> Finding:
        """The worst story."""
        a = self.answer
        i = int(np.argmax(a.coefficient))
        value = float(a.coefficient[i])
        if a.exempt:
            return Finding(self._said, f"story {self.levels[i]}",
                           Severity.OK, f"Stability coefficient {value:.4f}; it need not be "
                           f"considered: {a.exempt}.", a.clause, "", value)
        if a.negligible is None or a.amplifiable is None:
            return Finding(self._said, f"story {self.levels[i]}",
                           Severity.OK, f"Stability coefficient {value:.4f}, for information: the "
                           "standard sets no limit.", "", "", value)
        if a.limit is not None and value > a.limit:
            severity, text = Severity.EXCEEDED, "is above its limit: the structure may be unstable"
            advice = "Stiffen this story or reduce the gravity load on it."
        elif value > a.amplifiable:
            severity, text = Severity.WARNING, (
                f"is above {a.amplifiable:.2f}: a second-order analysis is called for")
            advice = "The factor shown is no longer enough; stiffen the story or analyze further."
        elif value > a.negligible:
            severity, text = Severity.NOTE, (
                f"is above {a.negligible:.2f}: drift is multiplied by {a.amplification[i]:.3f}")
            advice = "Member forces take the same factor."
        else:
            severity, text, advice = Severity.OK, "is low enough to leave P-Delta out", ""
        return Finding(
            self._said, f"story {self.levels[i]}", severity,
            f"Stability coefficient {value:.4f} {text}.", a.clause, advice, value,
            a.negligible if a.limit is None else a.limit,
        )


def check_stability(
    part: WholeStructure, model: Model, gravity: Floats, one: ResponseSet, direction: Direction,
    factor: float,
) -> StabilityCheck:
    """Stability of one direction from the drift at the centers of mass and the shear of a set.

    ``gravity`` (n,) is the gravity load of each level; it is added up from the top. ``factor``
    turns the drift of the set into the design drift.
    """
    d = direction
    above = model.above_base
    drift = np.abs(one.of(model.quantities["story drift"].where(component=d)))[above]
    shear = np.abs(one.of(model.quantities["story shear"].where(component=d)))[above]
    heights = model.diaphragms.story_heights[above]
    load = (model.diaphragms.carried @ gravity)[above]
    drift = drift * factor
    answer = part.stability(SecondOrderFacts(
        d, one.method, one.state, load, drift, np.maximum(shear, 1e-9 * shear.max()), heights))
    amplification = np.ones(model.n)
    amplification[above] = answer.amplification
    levels = tuple(name for name, keep in zip(model.levels, above, strict=True) if keep)
    return StabilityCheck(
        d, one.method, one.state, levels, load, drift, shear, heights, answer, amplification
    )
