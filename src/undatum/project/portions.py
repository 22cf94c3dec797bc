"""Two portions of a building, one on the other, each a structure of its own: ``[two_stage]``."""

from __future__ import annotations

from typing import TYPE_CHECKING

from pydantic import Field

from undatum.described import Described
from undatum.errors import Fault, one_of
from undatum.layout.whole import Building
from undatum.standards.contract import Standard
from undatum.standards.terms import Direction

if TYPE_CHECKING:
    from typing import Any


class TwoStage(Described):
    """The two-stage static procedure: a flexible upper portion on a rigid lower one.

    ``[system]`` is that of the upper portion; ``X`` and ``Y`` name the rows of the lower one.
    """

    level: str = Field(min_length=1, description="Level on which the upper portion stands")
    X: str | None = Field(
        default=None, description="Row of the lateral system of the lower portion along X")
    Y: str | None = Field(
        default=None, description="Row of the lateral system of the lower portion along Y")
    redundancy: float | None = Field(
        default=None, ge=1.0, le=1.5, description="Redundancy factor of the lower portion, if "
        "another than the standard's own")

    def row(self, direction: Direction) -> str | None:
        """The row of the lower portion along a direction."""
        return self.X if direction == "X" else self.Y


def portions_faults(
    asked: TwoStage | None, building: Building, standard: Standard[Any, Any]
) -> list[Fault]:
    """A standard without the procedure, a level that can't part the building, a row that is none.
    """
    if asked is None:
        return []
    if standard.two_stage is None:
        return [Fault("two_stage", f"{standard.title} is not known to have a two-stage procedure",
                      "take it out")]
    base = building.base_index
    names = [x.name for x in building.levels[1:base]]
    found = [] if asked.level in names else [Fault(
        "two_stage.level", f"{asked.level!r} has no stories above it and below it",
        one_of(asked.level, names) if names else "a building of one story has no two portions")]
    rows = [str(row[0]) for row in standard.systems_table().rows()]
    for d in building.directions:
        row = asked.row(d)
        if row is None:
            found.append(Fault(f"two_stage.{d}", "is missing",
                               "give the row of the lateral system of the lower portion"))
        elif row not in rows:
            found.append(Fault(f"two_stage.{d}", f"{row!r} is no row of the systems of the "
                               "standard", one_of(row, rows)))
    if any(building.is_open(i) for i in range(base)):
        found.append(Fault("two_stage", "needs floors that are rigid in their plane",
                           "leave building.diaphragms out"))
    if _side_by_side(building):
        found.append(Fault("two_stage", "needs one stack of stories, and some stand side by side",
                           "describe one part"))
    return found


def _side_by_side(building: Building) -> bool:
    below = [building.below[i] for i in range(building.base_index)]
    return len(set(below)) < len(below)
