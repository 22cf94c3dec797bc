"""A site by its location: values looked up, kept in the project file, and said in the record."""

from __future__ import annotations

import os
import shutil
import tomllib
from collections.abc import Collection, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.ground.hazard import look_up
from undatum.ground.location import Location, LookedUp
from undatum.standards.facts import AskedOfSite
from undatum.working import Section, SectionKey, Working


def fill_in(
    site: Mapping[str, Any], wanted: Collection[str], folder: Path | None
) -> tuple[dict[str, Any], list[Fault]]:
    """The ``[site]`` table with the values of its location, or what is wrong with them.

    Values kept in ``looked_up`` are used as they are; otherwise the file or service is asked.
    ``wanted`` holds the keys the standard knows; others are kept in the record only.
    """
    if site.get("location") is None:
        if "looked_up" in site:
            return dict(site), [Fault("site.looked_up", "stands without a location",
                                      "give site.location, or take it out")]
        return dict(site), []
    try:
        location = _as(Location, site["location"], "site.location")
        kept = None if site.get("looked_up") is None else \
            _as(LookedUp, site["looked_up"], "site.looked_up")
        if kept is not None and kept.location != location:
            return dict(site), [Fault(
                "site.looked_up", f"is for {kept.location.said}, the project is at "
                f"{location.said} or asks someone else", "run undatum look-up again")]
        kept = kept or look_up(location, folder)
    except InputError as error:
        return dict(site), list(error.faults)
    twice = [Fault(f"site.{key}", "stands in the project and also comes from site.location",
                   "take it out, or state it with its reason in site.replace")
             for key in kept.values if key in site]
    used = {key: value for key, value in kept.values.items() if key in wanted}
    if not used:
        return dict(site), [Fault(
            "site.location", f"gives {', '.join(kept.values)}, none of which the standard asks for",
            f"known here: {', '.join(k for k in wanted if k not in ('location', 'looked_up'))}")]
    return {**site, **used, "looked_up": kept}, twice


def _as(model: Any, given: Any, place: str) -> Any:
    """A described part from plain data, its faults with their place."""
    if isinstance(given, model):
        return given
    if not isinstance(given, Mapping):
        raise InputError([Fault(place, "is not a table", "write it as a table of keys")])
    try:
        return model(**given)
    except InputError as error:
        raise InputError([replace(f, place=f"{place}.{f.place}" if f.place else place)
                          for f in error.faults]) from None


def hazard_working(site: AskedOfSite) -> tuple[Section, ...]:
    """What was looked up, from where and when, as working."""
    kept = site.looked_up
    if kept is None:
        return ()
    w = Working(SectionKey("hazard"), "Hazard at the site")
    asked = kept.location.service or kept.location.file or ""
    w.given("place", kept.location.said, meaning="location of the building", clause="project",
            branch=f"{asked}, {kept.retrieved}: {kept.how}")
    for key, value in kept.values.items():
        w.given(key.replace("_", " "), value, meaning="looked up for this place",
                clause=f"{kept.source}, edition {kept.edition}")
    return (w.close(),)


def hazard_finding(site: AskedOfSite) -> tuple[Finding, ...]:
    """A note that values come from a look-up, and whose they are."""
    kept = site.looked_up
    if kept is None:
        return ()
    values = ", ".join(f"{k} {v}" for k, v in kept.values.items())
    return (Finding(
        "hazard looked up", kept.location.said, Severity.NOTE,
        f"{values}: {kept.source}, edition {kept.edition}, retrieved {kept.retrieved}.", "",
        "Compare with the official map. 'undatum look-up' keeps the values in the project file."),)


def sites_of(data: Mapping[str, Any]) -> dict[tuple[str, ...], Mapping[str, Any]]:
    """Every ``[site]`` table with a location, those of the alternatives too, by its key path."""
    places: dict[tuple[str, ...], Any] = {("site",): data.get("site")}
    others = data.get("alternatives")
    if isinstance(others, Mapping):
        places |= {("alternatives", key, "site"): other.get("site")
                   for key, other in others.items() if isinstance(other, Mapping)}
    return {path: site for path, site in places.items()
            if isinstance(site, Mapping) and isinstance(site.get("location"), Mapping)}


def find_all(
    data: Mapping[str, Any], folder: Path | None, *, refresh: bool = False
) -> dict[tuple[str, ...], LookedUp]:
    """Look up every location of a project. Raises InputError naming all that fail."""
    found, faults = {}, []
    for path, site in sites_of(data).items():
        try:
            location = _as(Location, site["location"], "site.location")
            found[path] = look_up(location, folder, refresh=refresh)
        except InputError as error:
            faults += [replace(f, place=".".join((*path[:-1], f.place))) for f in error.faults]
    if faults:
        raise InputError(faults)
    return found


def keep_in_file(path: str | Path, found: Mapping[tuple[str, ...], LookedUp]) -> None:
    """Write a table ``looked_up`` into each site of a project file; the rest stays as it stands.

    What would be written is read again and compared before the file is replaced; links and the
    mode of the file stay. Raises InputError when it cannot be written; then nothing has changed.
    """
    path = Path(path)
    before = path.read_bytes().decode("utf-8-sig")
    wanted = tomllib.loads(before)
    for place, kept in found.items():
        site = wanted
        for key in place:
            site = site[key]
        site["looked_up"] = kept.model_dump(exclude_none=True)
    for text in (_inserted(before, found), _appended(before, found)):
        if text is not None and _reads_as(text, wanted):
            _replace(path, text)
            return
    raise InputError([Fault(
        "site", "is written in a way that the looked-up values can't be added to",
        "write it as a table, [site], and run undatum look-up again")])


def _inserted(text: str, found: Mapping[tuple[str, ...], LookedUp]) -> str | None:
    """The text with the tables put into their sites, where the site is a table."""
    import tomlkit
    from tomlkit.exceptions import TOMLKitError
    from tomlkit.items import InlineTable

    try:
        document = tomlkit.parse(text)
        for place, kept in found.items():
            site: Any = document
            for key in place:
                site = site[key]
            inside = isinstance(site, InlineTable)
            table: Any = tomlkit.inline_table() if inside else tomlkit.table()
            for key, value in kept.model_dump(exclude_none=True).items():
                table.append(key, _inline(value) if isinstance(value, dict) else value)
            if not inside:
                table.add(tomlkit.nl())
            site.pop("looked_up", None)
            site["looked_up"] = table
        return tomlkit.dumps(document)
    except (TOMLKitError, KeyError, TypeError, AttributeError, ValueError):
        return None


def _appended(text: str, found: Mapping[tuple[str, ...], LookedUp]) -> str:
    """The text with the tables at its end, for sites written with dotted keys."""
    import tomlkit

    parts = [text.rstrip("\n") + "\n"]
    for place, kept in found.items():
        document = tomlkit.document()
        for key, value in kept.model_dump(exclude_none=True).items():
            document.add(key, _inline(value) if isinstance(value, dict) else value)
        head = ".".join(tomlkit.key(k).as_string() for k in (*place, "looked_up"))
        parts.append(f"\n[{head}]\n{tomlkit.dumps(document)}")
    return "".join(parts)


def _inline(values: Mapping[str, Any]) -> Any:
    import tomlkit

    table = tomlkit.inline_table()
    table.update(values)
    return table


def _reads_as(text: str, wanted: Mapping[str, Any]) -> bool:
    try:
        return bool(tomllib.loads(text) == wanted)
    except tomllib.TOMLDecodeError:
        return False


def _replace(path: Path, text: str) -> None:
    """Put a text in the place of a file, through links and with its mode."""
    target = path.resolve()
    beside = target.with_name(f".{target.name}.{os.getpid()}")
    try:
        beside.write_bytes(text.encode("utf-8"))
        shutil.copymode(target, beside)
        os.replace(beside, target)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise InputError([Fault(str(path), f"cannot be written ({error.strerror})",
                                "make room, or ask for permission")]) from None
