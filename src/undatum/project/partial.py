"""Faults of a project whose single values are not all valid yet, so that all are told at once."""

from __future__ import annotations

import os
import re
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from pydantic import BaseModel, TypeAdapter, ValidationError

from undatum import standards
from undatum.building.level import Level
from undatum.building.lines import Line
from undatum.building.loads import Load
from undatum.building.outline import Outline
from undatum.described import faults_from
from undatum.errors import Fault, InputError, guess, one_of
from undatum.layout.faults import height_faults, line_faults, load_faults, name_faults
from undatum.layout.whole import Building
from undatum.standards.terms import DIRECTIONS
from undatum.units import SI, UnitSystem


def building_faults(data: Mapping[str, Any]) -> list[Fault]:
    """Names, heights, loads and lines that do not fit together, as far as they can be read."""
    raw = data.get("building")
    if not isinstance(raw, dict):
        return []
    try:
        found = _faults(raw, {"units": units_in(data)})
    except (TypeError, AttributeError, ValueError, KeyError, IndexError):
        return []  # not even tables and lists: the faults of the values say so
    return [replace(f, place=f"building.{f.place}") for f in found]


def units_in(data: Mapping[str, Any]) -> UnitSystem:
    """The unit system a project asks for, or SI where it asks for none that is known."""
    try:
        return UnitSystem(data.get("units", "kN and m"))
    except (InputError, TypeError):
        return SI


def _faults(raw: dict[str, Any], context: dict[str, Any]) -> list[Fault]:
    levels = [_valid(Level, part, context) for part in raw.get("levels", ())]
    lines = [_valid(Line, part, context) for part in raw.get("lines", ())]
    names = _names(raw)
    if names:
        return names
    outlines = {k: _valid(Outline, v, context) for k, v in raw.get("outlines", {}).items()}
    loads = TypeAdapter(tuple[Load, ...])
    floors = {k: _valid(loads, v, context) for k, v in raw.get("floors", {}).items()}
    sound = all(level is not None for level in levels)
    stand_in = next((level for level in levels if level is not None), None)
    if stand_in is None or not lines:
        return []
    shown = [level or stand_in.model_copy() for level in levels]
    for level, part in zip(shown, raw["levels"], strict=True):
        if isinstance(part, dict) and isinstance(part.get("name"), str):
            level.__dict__["name"] = part["name"]
    kept = [(i, line) for i, line in enumerate(lines) if line is not None]
    building = Building.model_construct(
        outlines={k: v for k, v in outlines.items() if v is not None},
        floors={k: v if v is not None else () for k, v in floors.items()},
        levels=tuple(shown), lines=tuple(line for _, line in kept), base=raw.get("base"),
        held_by_ground=raw.get("held_by_ground", {}),
        members=tuple(raw.get("members", ())), placed=tuple(raw.get("placed", ())))
    heights = height_faults(building) if sound else []
    if heights:
        return heights
    found = load_faults(building) if sound and all(v is not None for v in floors.values()) else []
    if kept:
        found += [replace(f, place=re.sub(r"^lines\[(\d+)\]",
                                          lambda m: f"lines[{kept[int(m[1])][0]}]", f.place))
                  for f in line_faults(building)
                  if len(kept) == len(lines) or f.place.startswith("lines[")]
    return found


def _valid(kind: Any, part: Any, context: dict[str, Any]) -> Any:
    """A part of the description, or ``None`` where its values are not valid."""
    adapter = kind if isinstance(kind, TypeAdapter) else TypeAdapter(kind)
    try:
        return adapter.validate_python(part, context=context)
    except (ValidationError, InputError):
        return None


def _names(raw: dict[str, Any]) -> list[Fault]:
    def views(key: str, **usual: Any) -> list[Any]:
        return [SimpleNamespace(**{**usual, "name": f"{key} {i}", **part})
                for i, part in enumerate(raw.get(key, []))]

    building: Any = Building.model_construct(
        outlines=raw.get("outlines", {}), floors=raw.get("floors", {}),
        levels=views("levels", outline={}, floor=None),
        lines=views("lines", bottom=None, top=None), base=raw.get("base"))
    return name_faults(building)


def beside_faults(data: Mapping[str, Any], folder: Path | None) -> list[Fault]:
    """What is wrong with the drift row, with alternatives and with the files that are named."""
    found = []
    key = data.get("standard")
    drift = data.get("drift")
    structure = drift.get("structure") if isinstance(drift, dict) else None
    if isinstance(key, str) and isinstance(structure, str):
        try:
            known = standards.get(key, folder).drift_structures()
        except InputError:
            known = (structure,)
        if structure not in known:
            found.append(Fault("drift.structure", f"{structure!r} is not in the drift table of the "
                               "standard", one_of(structure, known, "choose from")))
    spectrum = data.get("spectrum")
    if isinstance(spectrum, dict) and folder is not None:
        found += missing_files(spectrum, folder)
    alternatives = data.get("alternatives")
    if isinstance(alternatives, dict):
        for name, part in alternatives.items():
            found += _alternative(str(name), part, units_in(data), folder)
    return found


def missing_files(spectrum: Mapping[str, Any], folder: Path, at: str = "spectrum") -> list[Fault]:
    """Files of spectra that are named and not there."""
    found = []
    names = [("file", spectrum.get("file")),
             *((f"files[{i}]", n) for i, n in enumerate(spectrum.get("files") or ()))]
    for key, name in names:
        if isinstance(name, str) and name and not os.path.exists(folder / name):
            found.append(Fault(f"{at}.{key}", f"there is no file {name!r} beside the project",
                               guess(name, [p.name for p in folder.glob("*.csv")])
                               or "name a CSV file"))
    for key in (*DIRECTIONS, "vertical"):
        part = spectrum.get(key)
        if isinstance(part, dict):
            found += missing_files(part, folder, f"{at}.{key}")
    return found


def _alternative(key: str, part: Any, units: UnitSystem, folder: Path | None) -> list[Fault]:
    """The site and system of an alternative by themselves."""
    try:
        standard = standards.get(key, folder)
    except InputError:
        return []  # the alternative's own faults say so
    if not isinstance(part, dict):
        return []
    site = part.get("site")
    looked_up = isinstance(site, dict) and {"location", "looked_up"} & set(site)
    tables: list[tuple[str, Any, type[BaseModel]]] = [
        ("site", None if looked_up else site, standard.site_input)]
    system = part.get("system")
    if isinstance(system, dict):
        tables += [(f"system.{d}", system.get(d), standard.system_input) for d in DIRECTIONS]
    found = []
    for at, value, model in tables:
        if not isinstance(value, dict):
            continue
        try:
            model.model_validate(value, context={"units": units})
        except ValidationError as error:
            found += [replace(f, place=f"alternatives.{key}.{at}.{f.place}".rstrip("."))
                      for f in faults_from(error, model)]
    return found
