"""A hazard service over HTTP: time-outs, a few tries, a local cache, and failures that advise.

The interface is described in ``docs/schema/hazard-service.openapi.json``; ``undatum serve-hazard``
runs a simulated service of this kind.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import time
import unicodedata
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from queue import Empty, Queue
from threading import Thread
from typing import Annotated, Any
from urllib.parse import urlsplit

import httpx
from pydantic import AfterValidator, BaseModel, Field

from undatum.errors import Fault, InputError
from undatum.ground.location import Found, Location, now_text

TRIES = 3
BUSY = frozenset({429, 502, 503, 504})  # worth another try
CACHE_DAYS = 30


LARGEST_ANSWER = 1_000_000  # bytes, after decompression
LONGEST_TEXT = 300  # characters of a text that a service sends


def _cleaned(text: str) -> str:
    """A text of a service without control characters, and cut where it is far too long."""
    plain = "".join(c if unicodedata.category(c)[0] != "C" else " " for c in text)
    plain = " ".join(plain.split())
    return plain if len(plain) <= LONGEST_TEXT else plain[: LONGEST_TEXT - 1] + "…"


Text = Annotated[str, AfterValidator(_cleaned)]


class Answer(BaseModel):
    """What a service answers for a place: values as texts with their units."""

    values: dict[Text, Text] = Field(max_length=100)
    source: Text
    edition: Text
    how: Text = ""


def cache_folder() -> Path:
    """Where answers are kept: ``UNDATUM_CACHE``, or the usual folder of the system."""
    from platformdirs import user_cache_path

    own = os.environ.get("UNDATUM_CACHE")
    return Path(own) if own else user_cache_path("undatum")


@dataclass(frozen=True, slots=True)
class HazardService:
    """The client of one service. ``refresh`` asks anew even where an answer is kept.

    ``timeout`` (s) bounds every step and ``whole`` everything, tries and pauses included.
    """

    address: str
    refresh: bool = False
    timeout: float = 10.0
    whole: float = 30.0
    pause: float = 0.3  # s before the second try, doubled for the third
    transport: httpx.BaseTransport | None = None

    def find(self, location: Location) -> Found:
        """Ask for a place. Raises InputError when the service cannot be reached or refuses."""
        try:
            parts = urlsplit(self.address)
            sound = parts.scheme in ("http", "https") and bool(parts.hostname) \
                and (parts.port is None or parts.port > 0) and not re.search(r"\s", self.address)
        except ValueError:  # brackets that don't close, a port that is none
            sound = False
        if not sound:
            raise self._wrong(f"{self.address!r} is not an http address",
                              'such as "http://localhost:8765"')
        query: dict[str, str] = {"place": location.place} if location.place is not None else {
            "latitude": f"{location.latitude:.6f}", "longitude": f"{location.longitude:.6f}"}
        kept = None if self.refresh else self._kept(query)
        if kept is not None:
            return kept
        answer = self._read(*self._ask(query))
        now = now_text()
        self._keep(query, answer, now)
        return Found(answer.values, f"{answer.source}; {self.address}", answer.edition, answer.how,
                     now)

    def _ask(self, query: dict[str, str]) -> tuple[int, bytes, str]:
        """Status, content and reason of the first answer that is none of being busy."""
        last = ""
        with httpx.Client(timeout=self.timeout, transport=self.transport) as client:
            end = time.monotonic() + self.whole  # a busy machine makes a client slowly
            for attempt in range(TRIES):
                if attempt:
                    time.sleep(self.pause * 2 ** (attempt - 1))
                if time.monotonic() > end:
                    if not last:
                        raise self._late()
                    break
                try:
                    status, content, reason = self._one(client, query, end)
                except httpx.TimeoutException:
                    last = f"no answer within {self.timeout:g} s"
                    continue
                except (httpx.HTTPError, httpx.InvalidURL) as error:
                    last = str(error) or type(error).__name__
                    continue
                if status not in BUSY:
                    return status, content, reason
                last = f"it answered {status}"
        raise self._wrong(
            f"{self.address} cannot be reached after {TRIES} tries: {last}",
            "try later, or give the values in [site], or name a gridded file in site.location")

    def _one(
        self, client: httpx.Client, query: dict[str, str], end: float
    ) -> tuple[int, bytes, str]:
        """One request, in a thread of its own: a drop now and then outlives any bound on steps."""
        done: Queue[tuple[int, bytes, str] | Exception] = Queue()

        def ask() -> None:
            try:
                done.put(self._read_bounded(client, query, end))
            except Exception as error:  # handed on to who asked
                done.put(error)

        Thread(target=ask, daemon=True).start()
        try:
            found = done.get(timeout=max(end - time.monotonic(), 0.01))
        except Empty:
            raise self._late() from None
        if isinstance(found, Exception):
            raise found
        return found

    def _read_bounded(
        self, client: httpx.Client, query: dict[str, str], end: float
    ) -> tuple[int, bytes, str]:
        content = bytearray()
        with client.stream("GET", f"{self.address.rstrip('/')}/v1/hazard",
                           params=query) as response:
            for part in response.iter_bytes():
                content += part
                if len(content) > LARGEST_ANSWER:
                    raise self._wrong(
                        f"{self.address} answers with more than {LARGEST_ANSWER // 1000} kB",
                        "is the address that of a hazard service?")
                if time.monotonic() > end:
                    raise self._late()
            return response.status_code, bytes(content), response.reason_phrase

    def _late(self) -> InputError:
        return self._wrong(f"{self.address} did not finish its answer within {self.whole:g} s",
                           "try later, or give the values in [site]")

    def _read(self, status: int, content: bytes, reason: str) -> Answer:
        if status != 200:
            raise self._wrong(f"{self.address} refuses ({status}): {_detail(content, reason)}",
                              _cure(status))
        try:
            return Answer.model_validate_json(content)
        except ValueError:
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
            age = datetime.now(UTC) - then
        except (OSError, ValueError, KeyError, TypeError, RecursionError):
            return None  # nothing kept, or not readable: ask
        if not timedelta(0) <= age <= timedelta(days=CACHE_DAYS):
            return None  # too old, or from a clock that was wrong
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


def _detail(content: bytes, reason: str) -> str:
    try:
        found = json.loads(content)["detail"]
    except (ValueError, KeyError, TypeError, RecursionError):
        return _cleaned(reason) or "no reason given"
    return _cleaned(found) if isinstance(found, str) else "the request is not understood"


def _cure(status: int) -> str:
    """What to do about a status."""
    if status in (401, 403, 407):
        return "it asks for a permission that this program can't show; give the values in [site]"
    if status in (301, 302, 303, 307, 308):
        return "it has moved; name its new address"
    if status in (404, 422):
        return "choose a place it covers, or look at the address"
    return "try later, or give the values in [site]" if status >= 500 else \
        "choose a place it covers"
