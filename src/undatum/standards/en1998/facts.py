"""The tables of EN 1998-1 as shipped data."""

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
class BehaviorRow:
    """One structural type: basic behavior factor by ductility class and what multiplies it."""

    row: str
    material: str
    system: str
    certain: bool  # whether the row is beyond doubt
    #: class -> (factor, whether it is multiplied by the overstrength ratio)
    basic: Mapping[str, tuple[float, bool]]
    ratio: float
    wall_factor: bool
    period: str


@cache
def facts() -> Mapping[str, Any]:
    """Recommended values by table."""
    text = (files(__package__) / "data" / "en1998.toml").read_text(encoding="utf-8")
    found: Mapping[str, Any] = frozen(tomllib.loads(text))
    return found


@cache
def behavior_rows() -> Mapping[str, BehaviorRow]:
    """Behavior factors by structural type."""
    text = (files(__package__) / "data" / "systems.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if not line.startswith("#")]
    return FixedDict({
        r["row"]: BehaviorRow(
            r["row"], r["material"], r["system"], not r["system"].endswith("?"),
            FixedDict({c: (float(r[c].rstrip("*")), r[c].endswith("*")) for c in ("DCM", "DCH")
             if r[c] != "NA"}),
            float(r["ratio"]), r["wall_factor"] == "yes", r["period"],
        )
        for r in csv.DictReader(lines)
    })
