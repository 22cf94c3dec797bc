"""One room per published standard; :func:`get` finds the room by its key."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from undatum.errors import Fault, InputError, nearest
from undatum.standards.contract import Standard

__all__ = ["Standard", "get", "shipped"]


@cache
def shipped() -> dict[str, Standard]:
    """Every shipped standard by its key."""
    from undatum.standards.asce7 import ASCE7
    from undatum.standards.en1998 import EN1998
    from undatum.standards.is1893 import IS1893
    from undatum.standards.ubc97 import UBC97

    rooms: list[Standard] = [
        *(ASCE7(key) for key in ("05", "10", "16", "22")),
        EN1998(),
        *(IS1893(year) for year in ("2002", "2016")),
        UBC97(),
    ]
    return {standard.key: standard for standard in rooms}


def get(key: str, folder: Path | None = None) -> Standard:
    """The standard named ``key``, such as ``"asce7-16"``. Raises InputError when unknown.

    A key that ends in ``.toml`` names a file with criteria of one's own, looked for in ``folder``.
    """
    if isinstance(key, str) and key.endswith(".toml"):
        from undatum.standards.own import OwnCriteria

        return OwnCriteria((folder or Path()) / key)
    known = shipped()
    aliases = {other: standard for standard in known.values() for other in standard.also}
    if key in aliases:
        return aliases[key]
    if key not in known:
        near = nearest(str(key), [*known, *aliases])
        raise InputError([Fault(
            "standard",
            f"{key!r} is not a standard that is shipped",
            (f"did you mean {near!r}? " if near else "") + "shipped: " + ", ".join(known),
        )])
    return known[key]
