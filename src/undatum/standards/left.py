"""What a standard asks for and is not judged here: named, so that nobody believes silence."""

from __future__ import annotations

from collections.abc import Sequence

from undatum.record import record
from undatum.table import Table, column


@record
class Left:
    """A rule left to the engineer: its ``clause`` (a chapter, where no more is certain), what it is
    about, ``why`` it is not judged, and how it can be ``stated`` to the program, if it can."""

    clause: str
    rule: str
    why: str
    stated: str = ""


@record
class Required:
    """A rule that binds the building at hand: its ``clause``, what it asks for, and how it is met
    ``here``."""

    clause: str
    rule: str
    here: str


STRENGTH = "needs the strength of members, which is their design"
DETAIL = "is detailing"

#: Of every standard.
ALWAYS: tuple[Left, ...] = (
    Left("", "Design of members, connections and foundations", STRENGTH),
    Left("", "Parts, equipment and their anchorage", "are not part of the description"),
)


def required_table(title: str, category: str, rules: Sequence[Required]) -> Table:
    """What a standard asks of a building of its category."""
    return Table(
        "required", f"What {title} asks for in category {category}",
        (
            column("clause", "", [one.clause for one in rules]),
            column("rule", "", [one.rule for one in rules]),
            column("how it is met here", "", [one.here for one in rules]),
        ),
        note="Rules that hang on the category alone; those of the lateral system, of "
        "irregularities and of materials hold more.")


def left_table(title: str, rules: Sequence[Left]) -> Table:
    """The rules of a standard that are left to the engineer."""
    every = (*rules, *ALWAYS)
    return Table(
        "left_to_you", f"Left to you: rules of {title} that are not judged",
        (
            column("clause", "", [one.clause for one in every]),
            column("rule", "", [one.rule for one in every]),
            column("why it is not judged", "", [one.why for one in every]),
            column("how it is stated", "", [one.stated for one in every]),
        ),
        note="Rules on analysis that are known not to be judged here; one that does not bind this "
        "building is listed all the same. Chapters on materials and detailing hold more.")
