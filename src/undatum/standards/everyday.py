"""Everyday words for lateral systems, so that a table can be searched by them."""

from __future__ import annotations

from collections.abc import Mapping

#: A word or abbreviation of the trade, and the words of a row that it stands for, any of them.
MEANT: Mapping[str, tuple[tuple[str, ...], ...]] = {
    "smrf": (("special", "moment"), ("smrf",)), "smf": (("special", "moment"), ("smrf",)),
    "imrf": (("intermediate", "moment"),), "imf": (("intermediate", "moment"),),
    "omrf": (("ordinary", "moment"), ("omrf",)), "omf": (("ordinary", "moment"), ("omrf",)),
    "scbf": (("special", "concentrically"), ("special", "concentric"), ("special", "braced")),
    "ocbf": (("ordinary", "concentrically"), ("ordinary", "concentric"), ("ordinary", "braced")),
    "ebf": (("eccentrically",), ("eccentric",)), "cbf": (("concentrically",), ("concentric",)),
    "brb": (("buckling",),), "brbf": (("buckling",),), "mrf": (("moment",),),
    "rc": (("concrete",), ("rc",)), "concrete": (("concrete",), ("rc",)),
    "wood": (("wood",), ("timber",), ("light-frame",), ("light-framed",)),
    "timber": (("timber",), ("wood",)), "shear": (("shear",), ("wall",)),
    "brick": (("masonry",),), "block": (("masonry",),), "core": (("wall",),),
    "portal": (("moment",), ("portal",)), "rigid": (("moment",),),
    "bracing": (("brac",),), "braced": (("brac",),), "brace": (("brac",),), "cross": (("brac",),),
    "podium": (("dual",), ("combin",)), "column": (("column",),),
}


def holds(text: str, word: str) -> bool:
    """Whether a row, in small letters, holds a word, its singular or what it stands for."""
    singular = word[:-1] if len(word) > 3 and word.endswith("s") else word
    if word in text or singular in text:
        return True
    return any(all(part in text for part in parts)
               for key in (word, singular) for parts in MEANT.get(key, ()))
