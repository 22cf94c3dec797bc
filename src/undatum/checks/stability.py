"""Second-order effects of gravity, story by story."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.finding import Finding, Severity
from undatum.mechanics.system import System
from undatum.standards.answers import (
    DIRECTIONS,
    Direction,
    SiteAnswer,
    StabilityAnswer,
    SystemAnswer,
)
from undatum.standards.contract import Standard
from undatum.table import Table, column

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class StabilityCheck:
    """Stability coefficients of one direction and method, stories above the base, top down."""

    direction: Direction
    method: str
    levels: tuple[str, ...]
    gravity: Floats
    drift: Floats
    shear: Floats
    heights: Floats
    answer: StabilityAnswer
    amplification: Floats  # (n,) for every level of the system, 1 below the base

    def table(self) -> Table:
        """Gravity load, drift, shear, coefficient and amplification by story."""
        a = self.answer
        return Table(
            f"stability_{self.direction.lower()}_{self.method}",
            f"P-Delta, {self.direction}, {self.method}",
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
            marks=tuple(int(i) for i in np.flatnonzero(a.coefficient > a.limit)),
        )

    def finding(self) -> Finding:
        """The worst story."""
        a = self.answer
        i = int(np.argmax(a.coefficient))
        value = float(a.coefficient[i])
        if a.exempt:
            return Finding(f"P-Delta {self.direction}, {self.method}", f"story {self.levels[i]}",
                           Severity.OK, f"Stability coefficient {value:.4f}; it need not be "
                           f"considered: {a.exempt}.", a.clause, "", value)
        if not math.isfinite(a.negligible):
            return Finding(f"P-Delta {self.direction}, {self.method}", f"story {self.levels[i]}",
                           Severity.OK, f"Stability coefficient {value:.4f}, for information: the "
                           "standard sets no limit.", "", "", value)
        if value > a.limit:
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
            f"P-Delta {self.direction}, {self.method}", f"story {self.levels[i]}", severity,
            f"Stability coefficient {value:.4f} {text}.", a.clause, advice, value,
            a.limit if math.isfinite(a.limit) else a.negligible,
        )


def check_stability(
    standard: Standard, site: SiteAnswer, lateral: SystemAnswer, system: System,
    gravity: Floats, one: ResponseSet,
) -> StabilityCheck:
    """Stability of one direction from the drift at the centers of mass and the shear of a set.

    ``gravity`` (n,) is the gravity load of each level; it is added up from the top.
    """
    direction = lateral.direction
    axis = DIRECTIONS.index(direction)
    above = system.above_base
    drift = np.abs(one.of(system.drift_map(system.center_line(), axis)))[above]
    shear = np.abs(one.of(system.shear_map(axis)))[above]
    heights, load = system.story_heights[above], np.cumsum(gravity)[above]
    drift = drift * lateral.drift_factor
    answer = standard.stability(direction, site, lateral, load, drift,
                                np.maximum(shear, 1e-9 * shear.max()), heights)
    amplification = np.ones(system.n)
    amplification[above] = answer.amplification
    levels = tuple(name for name, keep in zip(system.levels, above, strict=True) if keep)
    return StabilityCheck(
        direction, one.method, levels, load, drift, shear, heights, answer, amplification
    )
