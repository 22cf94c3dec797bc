"""What the record shows of members: the ``[record]`` table."""

from __future__ import annotations

from pydantic import Field

from undatum.building.members import chosen_members
from undatum.building.whole import Building
from undatum.described import Described
from undatum.errors import Fault, nearest


class RecordChoices(Described):
    """The ``[record]`` table: members and axes that get a chapter of the calculation record."""

    members: tuple[str, ...] = Field(
        default=(), description='Selections whose extreme section forces are printed, such as '
        '"columns on B at L1"')
    diagrams: tuple[str, ...] = Field(
        default=(), description="Axes on which the extremes of moment and shear are drawn")


def record_faults(chosen: RecordChoices, building: Building) -> list[Fault]:
    """Selections that choose nothing, and axes that are not there."""
    if not (chosen.members or chosen.diagrams):
        return []
    if not building.has_members or building.axes is None:
        return [Fault("record", "members are asked for, and there are none on axes",
                      "take the table out")]
    found = []
    for i, which in enumerate(chosen.members):
        try:
            chosen_members(building, which)
        except ValueError as error:
            found.append(Fault(f"record.members[{i}]", str(error)))
    known = [*building.axes.x, *building.axes.y]
    for i, name in enumerate(chosen.diagrams):
        if name not in known:
            near = nearest(name, known)
            found.append(Fault(f"record.diagrams[{i}]", f"there is no axis {name!r}",
                               (f"did you mean {near!r}? " if near else "")
                               + f"known: {', '.join(known)}"))
    return found
