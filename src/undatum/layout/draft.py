"""A member in the making."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any, Literal

import numpy as np

from undatum.building.families import XY
from undatum.building.placed import Placed
from undatum.building.rules import (
    BraceEnds,
    Hinged,
    KeptShares,
    Kind,
    MemberRule,
    Releases,
)

Key = tuple[Any, ...]  #: what tells one member in the making from another


@dataclass(slots=True)
class Made:
    """A member in the making: what the rules so far gave it."""

    kind: Kind
    axis: str
    level: int
    start: XY
    end: XY
    place: str  # in the project file
    low: int = 0  # level of the start
    section: str = ""
    turned: float = 0.0
    hinged: Hinged = "no"
    released: Releases | None = None
    stiff_ends: float = 0.0
    kept: KeptShares | Literal["by standard"] | None = None
    kept_for_drift: KeptShares | Literal["by standard"] | None = None
    shear_deformation: bool = True
    axial_deformation: bool = True
    shifted: XY = (0.0, 0.0)
    strength: float = np.nan
    moment_strength: float = np.nan
    secondary: bool = False
    ends: BraceEnds | None = None
    given: str = ""  # name of its own
    between: tuple[str, str] = ("", "")
    pattern: str = ""

    def take(self, one: MemberRule | Placed) -> None:
        """The properties that a rule, or a member placed by itself, gives."""
        for name in PROPERTIES:
            value = getattr(one, name, None)
            if value is not None:
                setattr(self, name, value)

    def properties(self) -> tuple[object, ...]:
        """All of them, to tell members that are alike; of objects, which one it is."""
        return tuple(value if isinstance(value := getattr(self, name), _PLAIN) else id(value)
                     for name in PROPERTIES)


_PLAIN = (float, str, bool, tuple)
#: What a rule may say of members beside their section: a property more is a field of both.
PROPERTIES = tuple(f.name for f in fields(Made)
                   if f.name in MemberRule.model_fields
                   and f.name not in ("kind", "section", "pattern"))
