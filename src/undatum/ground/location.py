"""Where a building stands, and what a provider found there."""

from __future__ import annotations

import os
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Annotated, Protocol

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.described import Described, Named
from undatum.errors import Fault, InputError
from undatum.record import record
from undatum.units import InUnit


class Location(Described):
    """The ``site.location`` table: where the building stands, and who knows the hazard there.

    >>> ud.Location(latitude=1.5, longitude=2.5, file="grid.csv").said
    'latitude 1.5, longitude 2.5'
    """

    latitude: Annotated[float | None, InUnit("deg")] = Field(
        default=None, ge=-90, le=90, description="Degrees, north positive"
    )
    longitude: Annotated[float | None, InUnit("deg")] = Field(
        default=None, ge=-180, le=180, description="Degrees, east positive"
    )
    place: str | None = Field(
        default=None, min_length=1, description="Name of a place, for a table of "
                              "zones or a service that knows names")
    file: str | None = Field(
        default=None, min_length=1,
        description="Gridded hazard (CSV or NetCDF) or table of zones by place "
        "(CSV), beside the project")
    service: str | None = Field(
        default=None, min_length=1, description="Address of a hazard service, in place of a file")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, latitude: float | None = None, longitude: float | None = None,
            place: str | None = None, file: str | None = None, service: str | None = None,
        ) -> None: ...

    @model_validator(mode="after")
    def _one_way(self) -> Location:
        both = self.latitude is not None, self.longitude is not None
        if both[0] != both[1]:
            raise PydanticCustomError("advice", "one coordinate is missing; give latitude and "
                                                "longitude together")
        if both[0] == (self.place is not None):
            raise PydanticCustomError("advice", "the place is not clear; give either latitude and "
                                                "longitude, or place")
        if (self.file is None) == (self.service is None):
            raise PydanticCustomError(
                "advice", "it is not said who knows the hazard there; give either file or service")
        return self

    @property
    def said(self) -> str:
        """The place as people write it."""
        if self.place is not None:
            return self.place
        return f"latitude {self.latitude:g}, longitude {self.longitude:g}"


class LookedUp(Described):
    """The ``site.looked_up`` table: what was found for a location, from where and when.

    Written by ``undatum look-up``; with it a later run needs neither the file nor the service.
    """

    location: Location = Field(description="The location it was looked up for")
    source: str = Field(description="Source the provider names")
    edition: str = Field(description="Edition the provider names")
    retrieved: str = Field(description="When it was looked up (UTC)")
    how: str = Field(default="", description="How the values were read off")
    values: Named[str, str] = Field(
        min_length=1, description="Values by the name of the key in [site], each with its unit")


@record
class Found:
    """Hazard at one place: ``values`` by key of ``[site]``, as texts with their units."""

    values: Mapping[str, str]
    source: str
    edition: str
    how: str
    retrieved: str = ""

    def kept(self, location: Location) -> LookedUp:
        """As it is kept in a project file."""
        return LookedUp(
            location=location, source=self.source, edition=self.edition, how=self.how,
            retrieved=self.retrieved or now_text(),
            values=dict(self.values))


def now_text() -> str:
    """The time in UTC; ``SOURCE_DATE_EPOCH`` fixes it, for results that must be repeatable."""
    epoch = os.environ.get("SOURCE_DATE_EPOCH")
    try:
        now = datetime.fromtimestamp(int(epoch), UTC) if epoch else datetime.now(UTC)
    except (ValueError, OverflowError, OSError):
        raise InputError([Fault(
            "SOURCE_DATE_EPOCH", f"{(epoch or '')[:40]!r} is no time", "give whole seconds since "
            "the start of 1970, or take it out of the environment")]) from None
    return now.strftime("%Y-%m-%dT%H:%M:%SZ")


class Provider(Protocol):
    """Whoever knows the hazard at a place."""

    def find(self, location: Location) -> Found:
        """The values there. Raises InputError where the place is not covered."""
