"""Names in ranges, and the short text that says which members are meant.

A list of names is written ``"A, C..E"``; a range runs in the order of what is known, or, where
names are made, over the last letter or number: ``"1..5"``, ``"A..D"``, ``"L2..L5"``.

A selection is written ``"on B, C between 2 and 4 at L1..L3"``: axes or crossings after ``on``, the
stretch of the axes after ``between``, levels after ``at``; each part may be left out, and ``all``
says that nothing is.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from undatum.errors import guess
from undatum.record import record

_END = re.compile(r"^(.*?)(\d+|[A-Za-z])$")
_PARTS = re.compile(
    r"^\s*(?:(?P<all>all)\b\s*)?(?:(?:on\s+)?(?P<on>(?!at\b|between\b).+?)\s*)?"
    r"(?:\bbetween\s+(?P<low>\S+)\s+and\s+(?P<high>\S+)\s*)?(?:\bat\s+(?P<at>.+?))?\s*$")


def made_names(text: str) -> list[str]:
    """The names a text makes: ``"L1..L3, Roof"`` gives L1, L2, L3 and Roof. Raises ValueError."""
    found: list[str] = []
    for part in _listed(text):
        first, dots, last = (p.strip() for p in part.partition(".."))
        found += _counted(first, last) if dots else [part]
    return found


def _counted(first: str, last: str) -> list[str]:
    a, b = _END.match(first), _END.match(last)
    if not a or not b or a[1] != b[1] or a[2].isdigit() != b[2].isdigit():
        raise ValueError(f"'{first}..{last}' is no range; write one such as '1..5', 'A..D' or "
                         "'L2..L5'")
    if a[2].isdigit():
        low, high = int(a[2]), int(b[2])
    else:
        low, high = ord(a[2]), ord(b[2])
    if not low < high <= low + 1000:
        raise ValueError(f"'{first}..{last}' does not run upwards, or over more than 1000 names; "
                         "write the lower name first")
    return [a[1] + (str(k) if a[2].isdigit() else chr(k)) for k in range(low, high + 1)]


def known_names(text: str, known: Sequence[str], what: str) -> list[str]:
    """The known names a text chooses, in their own order. Raises ValueError naming the nearest."""
    chosen: set[str] = set()
    for part in _listed(text):
        if part in known:
            chosen.add(part)
            continue
        first, dots, last = (p.strip() for p in part.partition(".."))
        for name in (first, last) if dots else (part,):
            if name not in known:
                raise ValueError(f"{name!r} is not among the {what}"
                                 + guess(name, known, before="; ")
                                 + f"; known: {', '.join(known)}")
        i, j = sorted((known.index(first), known.index(last)))
        chosen.update(known[i:j + 1])
    return [name for name in known if name in chosen]


def _listed(text: str) -> list[str]:
    parts = [part.strip() for part in text.split(",")]
    if not all(parts):
        raise ValueError(f"{text!r} names nothing; write names with commas between them")
    return parts


@record
class Selection:
    """A selection taken apart: texts of its parts, empty where they are left out."""

    on: str
    low: str
    high: str
    at: str

    def levels(self, known: Sequence[str]) -> list[str]:
        """The levels meant, of those known; all where none are named. Raises ValueError."""
        return known_names(self.at, known, "levels") if self.at else list(known)


def selection(text: str) -> Selection:
    """Take a selection apart. Raises ValueError where it can't be one."""
    found = _PARTS.match(text) if text.strip() else None
    if found is None or (found["all"] and found["on"]):
        raise ValueError(f"{text!r} says nothing of which; write 'all', or such as "
                         "'on B between 1 and 3 at L1..L3'")
    if found["low"] and not found["on"] and not found["all"]:
        raise ValueError(f"{text!r} has a stretch without an axis; write 'on B between 1 and 3'")
    return Selection(*((found[key] or "").strip() for key in ("on", "low", "high", "at")))
