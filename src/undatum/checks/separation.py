"""Distance to neighbors and to the property line."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.displacement import PlumbDisplacements
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.record import record
from undatum.standards.answers import SeparationAnswer
from undatum.standards.contract import WholeStructure
from undatum.standards.facts import GapFacts
from undatum.standards.terms import Direction
from undatum.table import Table, column
from undatum.ties import largest

Floats = NDArray[np.float64]


@record
class SeparationCheck:
    """One gap: what is provided, what the standard asks for, and which displacement rules. m.

    ``own`` holds the P-Delta factor ``second_order``.
    """

    name: str
    direction: Direction
    level: str
    own: float
    own_set: str
    own_point: str
    second_order: float
    neighbor: float | None
    distance: float
    answer: SeparationAnswer

    def finding(self) -> Finding:
        """Whether the distance is enough."""
        over = self.answer.required > self.distance * (1 + 1e-9)
        return Finding(
            "separation", f"{self.name}, level {self.level}, direction {self.direction}",
            Severity.EXCEEDED if over else Severity.OK,
            f"Displacement of this building from {self.own_set} at {self.own_point}"
            + (", with that of the neighbor" if self.neighbor is not None else "")
            + (": the gap is too narrow." if over else "."),
            self.answer.clause, "Widen the gap or stiffen the building." if over else "",
            self.answer.required, self.distance, "displacement")


def check_separation(
    part: WholeStructure, model: Model, displacements: PlumbDisplacements, second_order: Floats,
    name: str, direction: Direction, distance: float, level: str | None, neighbor: float | None,
    same_floors: bool, item: str,
) -> SeparationCheck | None:
    """One gap against the largest amplified displacement of any set and point at its level.

    ``second_order`` (n,) amplifies the drift of each story; the displacement takes the largest
    factor of the stories up to the level. ``item`` tells several gaps apart. ``None`` where the
    standard is silent on separation.
    """
    i = model.levels.index(level) if level else 0
    here = displacements.elastic.sel(level=model.levels[i], component=direction)
    values = here.values * displacements.factors[:, None]
    s, p = np.unravel_index(largest(values), values.shape)
    factor = float(np.max(second_order[i:]))
    own = float(values[s, p]) * factor
    answer = part.separation(GapFacts(
        direction, own, neighbor, same_floors, float(model.heights[i]), item))
    if answer is None:
        return None
    sets, points = (a.labels for a in here.axes)
    return SeparationCheck(
        name, direction, model.levels[i], own, sets["set"][s], points["point"][p],
        factor, neighbor, distance, answer)


def separation_table(checks: Sequence[SeparationCheck]) -> Table:
    """Every gap with its displacements, the distance asked for and that provided."""
    required = [c.answer.required for c in checks]
    over = [r > c.distance * (1 + 1e-9) for r, c in zip(required, checks, strict=True)]
    return Table(
        "separation",
        "Separation",
        (
            column("gap", "", [c.name for c in checks]),
            column("direction", "", [c.direction for c in checks]),
            column("level", "", [c.level for c in checks]),
            column("set", "", [c.own_set for c in checks]),
            column("point", "", [c.own_point for c in checks]),
            column("P-Delta factor", "ratio", [c.second_order for c in checks]),
            column("displacement", "displacement", [c.own for c in checks]),
            column("of the neighbor", "displacement", [c.neighbor for c in checks]),
            column("required", "displacement", required),
            column("provided", "displacement", [c.distance for c in checks]),
            column("use", "ratio",
                   [r / c.distance for r, c in zip(required, checks, strict=True)]),
            column("verdict", "", ["exceeded" if one else "passes" for one in over]),
        ),
        marks=tuple(i for i, one in enumerate(over) if one),
    )
