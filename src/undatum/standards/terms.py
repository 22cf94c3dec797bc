"""Words that what a standard is told and what it answers share."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from undatum.record import FixedDict, record

Direction = Literal["X", "Y"]
DIRECTIONS: tuple[Direction, Direction] = ("X", "Y")
#: Directions of ground motion: those the building is judged along, and the vertical one.
Motion = Literal["X", "Y", "Z"]
MOTIONS: tuple[Motion, Motion, Motion] = ("X", "Y", "Z")
Method = Literal["static", "spectrum"]
Effect = Literal["dead", "live", "snow", "roof live"]
METHODS: tuple[Method, Method] = ("static", "spectrum")
ModalCombination = Literal[
    "CQC", "SRSS", "double sum", "SRSS, close modes absolute", "absolute sum"]
DirectionalCombination = Literal["SRSS", "100/30", "100/40", "absolute sum", "independent"]
#: Share of the other directions beside the whole of one.
OTHERS: Mapping[DirectionalCombination, float] = FixedDict({
    "100/30": 0.3, "100/40": 0.4, "absolute sum": 1.0, "independent": 0.0})


@record
class LimitState:
    """A limit state of a standard for which forces are found or drift is judged.

    ``key`` names it in results, ``role`` says what its response is for: ``forces`` enter load
    combinations, ``drift`` is held against a limit. The two never mix.
    """

    key: str
    role: Literal["forces", "drift"]

    @property
    def slug(self) -> str:
        """The key as it stands in names of tables and files."""
        return "_".join(self.key.split())

    def beside(self, mark: str) -> str:
        """What names the state in a heading or a table, after ``mark``; nothing for ``drift``."""
        if self.key == "drift":
            return ""
        return mark + (self.slug if mark == "_" else self.key)

    def __hash__(self) -> int:
        return hash((self.key, self.role))


STRENGTH = LimitState("strength", "forces")
DRIFT = LimitState("drift", "drift")
