"""Load sources: what hangs, stands or lies on a level."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.building.outline import Outline, Point
from undatum.described import Described, Given
from undatum.units import AreaLoad, Force, LineLoad, Share

Kind = Literal[
    "dead", "cladding", "partition", "equipment", "roof garden", "storage", "live", "snow",
    "roof live",
]

Path = Literal["two-way", "one-way X", "one-way Y", "columns"]


class Load(Described):
    """One source of load, given per floor area, along the floor's edge, or as a total.

    The standard's weight rule says how much of each kind counts as seismic weight; ``share`` with
    a ``reason`` replaces it.

    >>> round(ud.Load(name="slab", kind="dead", per_area="80 psf").per_area)  # N/m2
    3830
    """

    name: str = Field(min_length=1, description="Name in the weight table, unique on its level")
    kind: Kind = Field(description="What it is, for the weight rule")
    per_area: AreaLoad | None = Field(default=None, description="Load per floor area")
    per_edge: LineLoad | None = Field(
        default=None, description="Load along the outer edge of the floor"
    )
    total: Force | None = Field(default=None, description="Total load")
    at: Point | None = Field(
        default=None,
        description="Where a total acts in plan [x, y]; spread over the floor if left out"
    )
    on: Outline | None = Field(
        default=None, description="Part of the floor a load per area lies on"
    )
    path: Path = Field(
        default="two-way",
        description="How it gets to members: to the nearest beam of each panel (two-way), along "
        "X or Y to the beams at the ends of the span (one-way), straight to the nearest column")
    instead: bool = Field(
        default=False,
        description="Stands in place of the load of the same name that the floor has")
    share: Share | None = Field(
        default=None,
        description="Share that counts as seismic weight, in place of the standard's rule"
    )
    use: Literal["", "A", "B", "C", "D", "E", "F", "G", "H"] = Field(
        default="",
        description="Category of use of this load (EN 1991-1-1); that of the site if left out"
    )
    reason: str = Field(default="", description="Why the share differs from the standard's rule")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, kind: Kind, per_area: Given | None = None,
            per_edge: Given | None = None, total: Given | None = None,
            at: Sequence[Given] | None = None,
            on: Outline | Sequence[Sequence[Given]] | None = None, path: Path = "two-way",
            instead: bool = False, share: Given | None = None,
            use: Literal["", "A", "B", "C", "D", "E", "F", "G", "H"] = "", reason: str = "",
        ) -> None: ...

    @model_validator(mode="after")
    def _one_amount(self) -> Load:
        given = [n for n in ("per_area", "per_edge", "total") if getattr(self, n) is not None]
        text = ""
        if len(given) != 1:
            text = "give exactly one of per_area, per_edge and total; " + (
                f"found {' and '.join(given)}" if given else "found none"
            )
        elif self.at is not None and self.total is None:
            text = "a position (at) goes with a total only; give total, or take it out"
        elif self.on is not None and self.per_area is None:
            text = "a part of the floor (on) goes with per_area only; give per_area, or take it out"
        elif self.share is not None and not self.reason:
            text = "a share of one's own has no reason; say it beside the share"
        if text:
            raise PydanticCustomError("advice", "{text}", {"text": text})
        return self
