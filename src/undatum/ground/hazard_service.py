"""A hazard service over HTTP: time-outs, a few tries, a local cache, and failures that advise.

The interface is described in ``docs/schema/hazard-service.openapi.json``; ``undatum serve-hazard``
runs a simulated service of this kind.
"""

from __future__ import annotations

import hashlib
import json
import os
import time
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import httpx
from pydantic import BaseModel, ValidationError

from undatum.errors import Fault, InputError
from undatum.ground.location import Found, Location, now_text

TRIES = 3
BUSY = frozenset({429, 502, 503, 504})  # worth another try
CACHE_DAYS = 30


class Answer(BaseModel):
    """What a service answers for a place: values as texts with their units."""

    values: dict[str, str]
    source: str
    edition: str
    how: str = ""


def cache_folder() -> Path:
    """Where answers are kept: ``UNDATUM_CACHE``, or the usual folder of the system."""
    from platformdirs import user_cache_path

    own = os.environ.get("UNDATUM_CACHE")
    return Path(own) if own else user_cache_path("undatum")


@dataclass(frozen=True, slots=True)
class HazardService:
    """The client of one service. ``refresh`` asks anew even where an answer is kept."""

    address: str
    refresh: bool = False
    timeout: float = 10.0
    pause: float = 0.3  # s before the second try, doubled for the third
    transport: httpx.BaseTransport | None = None

    def find(self, location: Location) -> Found:
        """Ask for a place. Raises InputError when the service cannot be reached or refuses."""
        if urlsplit(self.address).scheme not in ("http", "https"):
            raise self._wrong(f"{self.address!r} is not an http address",
                              'such as "http://localhost:8765"')
        query: dict[str, str] = {"place": location.place} if location.place is not None else {
            "latitude": f"{location.latitude:.6f}", "longitude": f"{location.longitude:.6f}"}
        kept = None if self.refresh else self._kept(query)
        if kept is not None:
            return kept
        answer = self._read(self._ask(query))
        now = now_text()
        self._keep(query, answer, now)
        return Found(answer.values, f"{answer.source}; {self.address}", answer.edition, answer.how,
                     now)

    def _ask(self, query: dict[str, str]) -> httpx.Response:
        last = ""
        with httpx.Client(timeout=self.timeout, transport=self.transport) as client:
            for attempt in range(TRIES):
                if attempt:
                    time.sleep(self.pause * 2 ** (attempt - 1))
                try:
                    response = client.get(f"{self.address.rstrip('/')}/v1/hazard", params=query)
                except httpx.TimeoutException:
                    last = f"no answer within {self.timeout:g} s"
                    continue
                except httpx.HTTPError as error:
                    last = str(error) or type(error).__name__
                    continue
                if response.status_code not in BUSY:
                    return response
                last = f"it answered {response.status_code}"
        raise self._wrong(
            f"{self.address} cannot be reached after {TRIES} tries: {last}",
            "try later, or give the values in [site], or name a gridded file in site.location")

    def _read(self, response: httpx.Response) -> Answer:
        if response.status_code != 200:
            raise self._wrong(f"{self.address} refuses ({response.status_code}): "
                              f"{_detail(response)}", "choose a place it covers")
        try:
            return Answer.model_validate_json(response.content)
        except ValidationError:
            raise self._wrong(
                f"{self.address} does not answer as a hazard service",
                "is the address right? docs/schema/hazard-service.openapi.json describes it"
            ) from None

    def _place(self, query: dict[str, str]) -> Path:
        key = json.dumps([self.address.rstrip("/"), sorted(query.items())])
        return cache_folder() / f"hazard-{hashlib.sha256(key.encode()).hexdigest()[:24]}.json"

    def _kept(self, query: dict[str, str]) -> Found | None:
        try:
            held: dict[str, Any] = json.loads(self._place(query).read_text(encoding="utf-8"))
            then = datetime.fromisoformat(held["retrieved"])
            answer = Answer.model_validate(held["answer"])
        except (OSError, ValueError, KeyError, TypeError):
            return None  # nothing kept, or not readable: ask
        if datetime.now(UTC) - then > timedelta(days=CACHE_DAYS):
            return None
        return Found(answer.values, f"{answer.source}; {self.address}", answer.edition, answer.how,
                     held["retrieved"])

    def _keep(self, query: dict[str, str], answer: Answer, now: str) -> None:
        place = self._place(query)
        text = json.dumps({"retrieved": now, "answer": answer.model_dump()})
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
            part = place.with_suffix(f".{os.getpid()}")
            part.write_text(text, encoding="utf-8")
            os.replace(part, place)
        except OSError:
            return  # a cache that cannot be written costs time, not results

    def _wrong(self, message: str, cure: str) -> InputError:
        return InputError([Fault("site.location.service", message, cure)])


def _detail(response: httpx.Response) -> str:
    try:
        found = response.json()["detail"]
    except (ValueError, KeyError, TypeError):
        return response.reason_phrase or "no reason given"
    return found if isinstance(found, str) else "the request is not understood"
