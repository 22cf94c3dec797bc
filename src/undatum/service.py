"""A simulated hazard service, for demonstrations and tests: a gridded file behind HTTP."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import FastAPI, HTTPException, Query

import undatum
from undatum.errors import InputError
from undatum.ground.hazard_files import open_provider
from undatum.ground.hazard_service import Answer
from undatum.ground.location import Location, Provider


def make_service(path: str | Path) -> FastAPI:
    """The application that answers from one gridded file or table of zones."""
    return application(open_provider(path), Path(path).name)


def application(provider: Provider | None, name: str) -> FastAPI:
    """Routes and their description; ``provider`` may be left out to describe them only."""
    app = FastAPI(
        title="Hazard service", version="1",
        description="Seismic hazard at a place: values by the names of the keys in a project's "
        "[site] table, each a text with its unit.")

    @app.get(
        "/v1/hazard", response_model=Answer, summary="Hazard at coordinates or at a named place",
        responses={404: {"description": "The place is not covered; detail says why"}})
    def hazard(
        latitude: Annotated[float | None, Query(ge=-90, le=90, description="Degrees north")] = None,
        longitude: Annotated[
            float | None, Query(ge=-180, le=180, description="Degrees east")] = None,
        place: Annotated[str | None, Query(min_length=1, description="Name of a place")] = None,
    ) -> Answer:
        try:
            location = Location(latitude=latitude, longitude=longitude, place=place, file=name)
            assert provider is not None
            found = provider.find(location)
        except InputError as error:
            fault = error.faults[0]
            raise HTTPException(404, f"{fault.message}; {fault.cure}".rstrip("; ")) from None
        return Answer(values=dict(found.values), source=found.source, edition=found.edition,
                      how=found.how)

    @app.get("/v1/about", summary="Who answers")
    def about() -> dict[str, str]:
        return {"service": "simulated", "data": name, "undatum": undatum.__version__}

    return app
