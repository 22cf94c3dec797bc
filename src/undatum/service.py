"""A simulated hazard service, for demonstrations and tests: a gridded file behind HTTP."""

from __future__ import annotations

from html import escape
from pathlib import Path
from typing import Annotated

from fastapi import FastAPI, HTTPException, Query
from fastapi.responses import HTMLResponse

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
        title="Hazard service", version="1", docs_url=None, redoc_url=None,
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

    @app.get("/docs", include_in_schema=False, response_class=HTMLResponse)
    def docs() -> str:
        """The description as a plain page, which needs no network."""
        return _page(app)

    @app.get("/v1/about", summary="Who answers")
    def about() -> dict[str, str]:
        return {"service": "simulated", "data": name, "undatum": undatum.__version__}

    return app


def _page(app: FastAPI) -> str:
    """Every route with its parameters, from the description that the service publishes itself."""
    found = app.openapi()
    parts = [f"<h1>{escape(found['info']['title'])}</h1>",
             f"<p>{escape(found['info']['description'])}</p>",
             "<p>The whole description: <a href='/openapi.json'>openapi.json</a></p>"]
    for path, ways in found["paths"].items():
        for way, one in ways.items():
            parts.append(f"<h2>{escape(way.upper())} {escape(path)}</h2>"
                         f"<p>{escape(one.get('summary', ''))}</p><ul>")
            parts += [f"<li><code>{escape(p['name'])}</code> {escape(p.get('description', ''))}"
                      "</li>" for p in one.get("parameters", ())]
            parts.append("</ul>")
    return ("<!doctype html><html lang='en'><head><meta charset='utf-8'><title>"
            f"{escape(found['info']['title'])}</title></head><body>{''.join(parts)}</body></html>")
