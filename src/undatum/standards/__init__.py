"""One room per published standard; :func:`get` finds the room by its key.

A standard from outside is registered as an entry point of the group ``undatum.standards``: its name
is the key, its object a :class:`Standard` or a function that makes one.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any

from undatum.errors import Fault, InputError, guess
from undatum.record import FixedDict
from undatum.standards.contract import Standard

__all__ = ["ENTRY_POINTS", "AnyStandard", "Standard", "get", "shipped"]

ENTRY_POINTS = "undatum.standards"
AnyStandard = Standard[Any, Any]


@cache
def shipped() -> Mapping[str, AnyStandard]:
    """Every shipped standard by its key."""
    from undatum.standards.asce7 import ASCE7
    from undatum.standards.en1998 import EN1998
    from undatum.standards.is1893 import IS1893
    from undatum.standards.nzs1170 import NZS1170
    from undatum.standards.tbdy2018 import TBDY2018
    from undatum.standards.ubc97 import UBC97

    rooms: list[AnyStandard] = [
        *(ASCE7(key) for key in ("05", "10", "16", "22")),
        EN1998(),
        *(IS1893(year) for year in ("2002", "2016")),
        NZS1170(),
        TBDY2018(),
        UBC97(),
    ]
    return FixedDict({standard.key: standard for standard in rooms})


@cache
def registered() -> Mapping[str, AnyStandard]:
    """Every standard that another package registers, by its key."""
    from importlib.metadata import entry_points

    found: dict[str, AnyStandard] = {}
    for point in entry_points(group=ENTRY_POINTS):
        made = point.load()
        standard = made if isinstance(made, Standard) else made()
        if not isinstance(standard, Standard):
            raise InputError([Fault("standard", f"{point.name!r}, registered as {point.value}, is "
                                    "no standard", "it must give an undatum Standard")])
        found[point.name] = standard
    return FixedDict(found)


def get(
    key: str, folder: str | Path | None = None, criteria: str | None = None
) -> AnyStandard:
    """The standard named ``key``, such as ``"asce7-16"``. Raises InputError when unknown.

    A key that ends in ``.toml`` names a file with criteria of one's own, looked for in ``folder``
    unless ``criteria``, its text, is given.
    """
    if isinstance(key, str) and key.endswith(".toml"):
        from undatum.standards.own import OwnCriteria

        return OwnCriteria(Path(folder or "") / key, criteria)
    known = shipped()
    if key in known:
        return known[key]
    aliases = {other: standard for standard in known.values() for other in standard.also}
    if key in aliases:
        return aliases[key]
    others = registered()
    if key in others:
        return others[key]
    raise InputError([Fault(
        "standard",
        f"{key!r} is not a standard that is shipped or registered",
        guess(str(key), [*known, *aliases, *others], after=" ")
        + f"known: {', '.join([*known, *others])}",
    )])
