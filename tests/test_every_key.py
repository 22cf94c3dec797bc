"""Every key of the schema is kept as it was given: by its type, from the schema itself."""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import cache
from typing import Any, Literal, get_args, get_origin

import pytest
from pydantic import BaseModel, ValidationError, create_model

import undatum as ud
from conftest import ROOMS
from undatum import standards
from undatum.described import Described
from undatum.project.schema import project_model
from undatum.units import UnitSystem

SI = {"units": UnitSystem("N and m")}
PLAIN: tuple[Any, ...] = (
    0.5, 2, 30.0, 3e6, 0.02, 1e-5, 0.2, True, "A", "X", "A1", "by standard", "all", "1.0", "none",
    "2 m",
    "X +",
    "2026-01-02T03:04:05Z", "https://example.org/hazard", [1.0, 2.0], [0.5, 0.5], [1.0], ["A"],
    [0.2, 0.3, 0.01, 0.02], "200 x 300 x 10 x 20 mm", "0.5 %", [[[1, 1], [2, 1], [2, 2]]],

    ["A1", "B2"], [1.0, 2.0, 3.0], [[0, 0], [4, 0], [4, 4]], [[0, 0], [1, 2]], {"A": 0.5},
    {"A": "B"}, {"X": 0.5}, {"A": [1.0, 2.0]}, {"A": ["B"]}, {"L1": 3.0})
#: What a table needs besides its keys that are required.
WHOLE: dict[str, dict[str, Any]] = {
    "Load": {"total": 1.0}, "Line": {"stiffness": 1e6}, "Cantilever": {"length": 4.0,
                                                                      "thickness": 0.3},
    "CrossSection": {"circle": 0.5, "material": "C30/37"}, "MemberRule": {"columns": "all"},
    "SectionPart": {"circle": 0.5, "material": "C30/37"}, "KeptShares": {"bending_y": 0.5},
    "GroundSprings": {"along_x": 1e6, "along_y": 1e6}, "OnLevels": {"X": 1.0},
    "MemberLoad": {"total": 1.0}, "OnMembers": {"total": 1.0},
    "OnSupports": {"X": 0.01}, "Parameter": {"values": [1.0]},
    "KeptValue": {"read": "drift", "component": "X"}, "Variants": {"table": "rows.csv"},
    "LoadCase": {"on_levels": [{"at": "L1", "X": 1.0}]}, "Releases": {"start": ["torsion"]},
    "AxisFamily": {"names": "1..2", "spacing": [6.0]},
    "Rays": {"names": "1..2", "spacing": ["1 deg"]},
    "Rings": {"names": "A", "radii": [4.0]}, "OwnCombination": {"factors": {"dead": 1.2}},
    "DriftCombination": {"sets": {"a": 1.0}}, "Placed": {"start": [0, 0, 0], "end": [0, 0, 3]},
    "Stories": {"heights": {"L1": 3.0}}, "Axes": {}, "Level": {"height": 3.0},
    "Stretch": {"between": ["A1", "B2"]}, "Material": {"modulus": 2e11},
    "MultiPeriod": {"periods": [0.0, 1.0], "accelerations": [0.4, 0.2]},
    "Expectation": {"value": 1.0, "tolerance": 0.1}, "SpectrumTable": {}, "SpectrumSource": {},
    "OwnForces": {"on_levels": [{"at": "L1", "X": 1.0}], "reason": "own"}, "Irregularities": {},
    "Infill": {"thickness": 0.2, "share": 0.1},
    "Location": {"latitude": 41.0, "longitude": 2.0, "file": "hazard.csv"},
    "OwnLimit": {"ratio": 0.02}, "SystemInput05": {"row": "C.1"}, "SystemInput10": {"row": "C.1"},
    "SystemInput22": {"row": "C.1"},
}
SITES = {standards.get(key).site_input: site for key, (site, *_) in ROOMS.items()
         if not key.endswith(".toml")}
ROWS = {"asce7": "C.1", "en1998": "concrete frame", "is1893": "RC SMRF", "tbdy2018": "A11",
        "ubc97": "3.1a"}
STORIES = [{"name": "L1", "height": 3.0, "outline": [[0, 0], [4, 0], [4,
                                                                      4]],
            "loads": [{"name": "a", "kind": "dead", "total": 1.0}]},
           {"name": "G", "outline": [[0, 0], [4, 0], [4, 4]]}]
WHOLE |= {"Axes": {"across_x": WHOLE["AxisFamily"],
                   "across_y": {"names": "A..B", "spacing": [5.0]}},
          "Building": {"levels": STORIES, "lines": [
              {"name": d, "at": [1, 1], "direction": d, "bottom": "G", "top": "L1",
               "stiffness": 1e6} for d in "XY"]}, "Directions": {}}


def models(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for part in get_args(annotation):
        yield from models(part)


def tables(model: type[BaseModel], seen: set[type[BaseModel]]) -> set[type[BaseModel]]:
    if model not in seen:
        seen.add(model)
        for field in model.model_fields.values():
            for one in models(field.annotation):
                tables(one, seen)
    return seen


#: Every table of every standard, by its name; tables that are made anew for each standard bear its.
TABLES: dict[str, type[BaseModel]] = {}
for key in standards.shipped():
    for one in tables(project_model(key), set()) - set(TABLES.values()):
        known = f"{one.__module__}:{one.__qualname__}"
        TABLES[f"{known}:{key}" if known in TABLES else known] = one
KEYS = sorted((label, name) for label, model in TABLES.items() for name in model.model_fields)


def words(annotation: Any) -> Iterator[Any]:
    """Every literal, and lists and tables of literals, that an annotation names."""
    if get_origin(annotation) is Literal:
        for word in get_args(annotation):
            yield from (word, [word], {word: 0.5}, {word: "A"})
    for part in get_args(annotation):
        yield from words(part)


@cache
def table(model: type[BaseModel]) -> str:
    """A table with what it needs, as text; empty where none was found."""
    given: dict[str, Any] = dict(WHOLE.get(model.__name__, {}))
    room = model.__module__.split(".")[2]
    if model.__name__ == "SystemInput" and room in ROWS:
        given["row"] = ROWS[room]
    if model in SITES:
        given |= SITES[model]
    for name, field in model.model_fields.items():
        if field.is_required() and name not in given:
            value = next(iter(samples(model, name)), None)
            if value is None:
                return ""
            given[name] = value
    return json.dumps(given)


def samples(model: type[BaseModel], name: str) -> list[Any]:
    """Values that the key takes by itself."""
    field = model.model_fields[name]
    alone = create_model("Alone", __base__=Described, x=(field.annotation, field))
    nested = [json.loads(text) for one in models(field.annotation) if (text := table(one))]
    tried = [*PLAIN, *([STORIES] if name == "levels" else []), *words(field.annotation),
             *nested, *([n] for n in nested),
             *({"A": n} for n in nested), *({"A": [n]} for n in nested)]
    found = []
    for value in tried:
        try:
            alone.model_validate({"x": value}, context=SI)
        except (ValidationError, ud.InputError):
            continue
        found.append(value)
    return found


@pytest.mark.parametrize(("model", "name"), [(TABLES[label], name) for label, name in KEYS],
                         ids=[f"{label.split(':', 1)[1]}.{name}" for label, name in KEYS])
def test_a_key_is_kept_as_it_was_given(model: type[BaseModel], name: str) -> None:
    """As the store writes it, as JSON, and read back: the same value, given alone."""
    field = model.model_fields[name]
    alone = create_model("Alone", __base__=Described, x=(field.annotation, field))
    found = samples(model, name)
    assert found, "no sample: give the table what it needs in WHOLE"
    for value in found:
        one = alone.model_validate({"x": value}, context=SI)
        kept = json.loads(json.dumps(one.model_dump(mode="json", exclude_unset=True)))
        back = alone.model_validate(kept)
        assert back == one, value
        assert back.model_dump(exclude_unset=True) == one.model_dump(exclude_unset=True)
