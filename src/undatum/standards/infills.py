"""Masonry that fills the bays of a frame: how wide the strut is that stands for it.

Rooms name the standard whose rule goes with them; each rule is written once, here.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from undatum.record import FixedDict, record
from undatum.units import said


@record
class FilledBay:
    """The clear ``height`` and ``length`` of what fills a bay (m), its ``thickness`` (m) and
    ``modulus`` (Pa), and the bending stiffness ``column`` (N m2) of the columns beside it in the
    plane of the bay, the mean of both."""

    height: float
    length: float
    thickness: float
    modulus: float
    column: float

    @property
    def diagonal(self) -> float:
        """m."""
        return math.hypot(self.height, self.length)


@record
class StrutWidth:
    """Width of a strut, m, with what it comes from."""

    width: float
    clause: str
    reason: str


def _relative(one: FilledBay) -> StrutWidth:
    """0.175 alpha_h^-0.4 times the diagonal, alpha_h the height over a length in which column and
    infill are in contact (IS 1893 (Part 1): 2016, 7.9.2.2; after Mainstone, 1974)."""
    slope = math.atan2(one.height, one.length)
    alpha = one.height * (one.modulus * one.thickness * math.sin(2 * slope) / (
        4 * one.column * one.height)) ** 0.25
    return StrutWidth(
        0.175 * alpha**-0.4 * one.diagonal, "7.9.2.2",
        f"0.175 alpha_h^-0.4 L_ds, alpha_h = {alpha:.3f}, L_ds = {said(one.diagonal)}")


#: By the name of the standard that has it.
RULES: Mapping[str, Callable[[FilledBay], StrutWidth]] = FixedDict({"IS 1893:2016": _relative})
