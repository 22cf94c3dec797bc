"""Two portions of a building, one on the other, each a structure of its own: ``[two_stage]``."""

from __future__ import annotations

from pydantic import Field

from undatum.errors import Fault, one_of
from undatum.layout.whole import Building
from undatum.project.directions import Directions, system_faults
from undatum.standards import AnyStandard


class TwoStage(Directions):
    """The two-stage static procedure: a flexible upper portion on a rigid lower one.

    ``[system]`` is that of the upper portion; ``X`` and ``Y`` are the tables of the lower one.
    """

    level: str = Field(min_length=1, description="Level on which the upper portion stands")


TwoStage.plain = TwoStage


def portions_faults(
    asked: TwoStage | None, building: Building, standard: AnyStandard
) -> list[Fault]:
    """A standard without the procedure, a level that can't part the building, systems that are
    missing, floors that are not one rigid stack."""
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
    found += system_faults(asked.by_direction, building.plane, "two_stage")
    found += [Fault(f"two_stage.{d}.replace", "is not taken here", "replace values in [system]")
              for d, own in asked.by_direction.items() if own.replace]
    if any(building.is_open(i) for i in range(base)):
        found.append(Fault("two_stage", "needs floors that are rigid in their plane",
                           "leave building.diaphragms out"))
    if len(set(building.below[:base])) < base:
        found.append(Fault("two_stage", "needs one stack of stories, and some stand side by side",
                           "describe one part"))
    return found
