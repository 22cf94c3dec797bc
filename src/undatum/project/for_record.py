"""What the record shows beside the usual: the ``[record]`` table."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from undatum.described import Described
from undatum.errors import Fault, one_of
from undatum.layout.members import chosen_members
from undatum.layout.whole import Building
from undatum.units import Measure

OF_MEMBERS = ("forces", "stress", "motion")


Fraction = Annotated[float, Measure("ratio", least=0.0, most=1.0)]


class ChosenReading(Described):
    """One thing that is read, and under what."""

    what: str = Field(
        default="forces", min_length=1, max_length=40, description="forces, stress or motion of "
        "members, reactions, lines, stories, drift")
    which: str = Field(
        default="", max_length=300, description='Members by name or selection, such as "columns on '
        'B at L1"; a foot, line, story or point; all if left out')
    under: str = Field(
        default="envelope", max_length=300, description="What acts: sets, modes, cases, envelope, "
        "extremes, each, together, or names and patterns")
    at: tuple[Fraction, ...] = Field(
        default=(0.0, 0.5, 1.0), description="Fractions of the length at which members are read")


class RecordChoices(Described):
    """The ``[record]`` table: readings and axes that get a chapter of the calculation record."""

    readings: tuple[ChosenReading, ...] = Field(
        default=(), description="What is read for the record and all tables")
    diagrams: tuple[str, ...] = Field(
        default=(), description="Axes on which the extremes of moment and shear are drawn")


def record_faults(chosen: RecordChoices, building: Building) -> list[Fault]:
    """Selections that choose nothing, and axes that are not there."""
    of_members = [(i, one.which) for i, one in enumerate(chosen.readings) if one.what in OF_MEMBERS]
    if not (of_members or chosen.diagrams):
        return []
    if not building.has_members or building.axes is None:
        return [Fault("record", "members are asked for, and there are none on axes",
                      "take the table out")]
    found = []
    for i, which in of_members:
        try:
            chosen_members(building, building.frame, which or "all")
        except ValueError as error:
            found.append(Fault(f"record.readings[{i}].which", str(error)))
    known = [*building.axes.x, *building.axes.y]
    for i, name in enumerate(chosen.diagrams):
        if name not in known:
            found.append(Fault(f"record.diagrams[{i}]", f"there is no axis {name!r}",
                               one_of(name, known)))
    return found
