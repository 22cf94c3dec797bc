"""The tables of UBC 1997 as shipped data."""

from __future__ import annotations

import csv
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from undatum.record import FixedDict, frozen


@dataclass(frozen=True, slots=True)
class SystemRow:
    """One row of Table 16-N. ``height`` in ft for zones 3 and 4, ``NL`` or ``NP``."""

    row: str
    group: str
    system: str
    R: float
    overstrength: float
    height: str
    certain: bool  # whether the height limit is beyond doubt
    period: str  # row of the period formula
    special: bool  # a special moment frame
    barred: tuple[str, ...]  # zones in which it is not permitted


@cache
def facts() -> Mapping[str, Any]:
    """Zone, soil, near-source, importance and period tables."""
    text = (files(__package__) / "data" / "ubc97.toml").read_text(encoding="utf-8")
    found: Mapping[str, Any] = frozen(tomllib.loads(text))
    return found


@cache
def system_rows() -> Mapping[str, SystemRow]:
    """Table 16-N by row."""
    text = (files(__package__) / "data" / "systems.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if not line.startswith("#")]
    return FixedDict({
        r["row"]: SystemRow(r["row"], r["group"], r["system"], float(r["R"]),
                            float(r["overstrength"]), r["height"].rstrip("?"),
                            not r["height"].endswith("?"), r["period"], r["special"] == "yes",
                            tuple(r["barred"].split()))
        for r in csv.DictReader(lines)
    })
