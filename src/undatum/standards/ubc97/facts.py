"""The tables of UBC 1997 as shipped data."""

from __future__ import annotations

import csv
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any


@dataclass(frozen=True, slots=True)
class SystemRow:
    """One row of Table 16-N. ``height`` in ft for zones 3 and 4, ``NL`` or ``NP``."""

    row: str
    group: str
    system: str
    R: float
    overstrength: float
    height: str

    @property
    def certain(self) -> bool:
        """Whether the height limit is beyond doubt."""
        return not self.height.endswith("?")


@cache
def facts() -> dict[str, Any]:
    """Zone, soil, near-source, importance and period tables."""
    text = (files(__package__) / "data" / "ubc97.toml").read_text(encoding="utf-8")
    return tomllib.loads(text)


@cache
def system_rows() -> dict[str, SystemRow]:
    """Table 16-N by row."""
    text = (files(__package__) / "data" / "systems.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if not line.startswith("#")]
    return {
        r["row"]: SystemRow(r["row"], r["group"], r["system"], float(r["R"]),
                            float(r["overstrength"]), r["height"])
        for r in csv.DictReader(lines)
    }
