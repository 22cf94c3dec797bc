"""The tables of ASCE 7 as shipped data."""

from __future__ import annotations

import csv
import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Literal

from pydantic import Field

from undatum.described import Described

Category = Literal["A", "B", "C", "D", "E", "F"]


@dataclass(frozen=True, slots=True)
class SystemRow:
    """One row of the table of lateral systems; heights in ft, ``NL`` or ``NP``, by category."""

    row: str
    group: str
    system: str
    R: float
    overstrength: float
    Cd: float
    limits: dict[str, str]


@cache
def facts(edition: str) -> dict[str, Any]:
    """Site coefficients, categories, period and drift tables of an edition (``"16"``)."""
    text = (files(__package__) / "data" / f"site_{edition}.toml").read_text(encoding="utf-8")
    return tomllib.loads(text)


@cache
def system_rows(edition: str) -> dict[str, SystemRow]:
    """Table 12.2-1 by row number."""
    text = (files(__package__) / "data" / f"systems_{edition}.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if not line.startswith("#")]
    return {
        row["row"]: SystemRow(
            row["row"], row["group"], row["system"], float(row["R"]),
            float(row["overstrength"]), float(row["Cd"]), {c: row[c] for c in "BCDEF"},
        )
        for row in csv.DictReader(lines)
    }


class StudyValues(Described):
    """Design accelerations from a site-specific study, used in place of the mapped route."""

    sds: float = Field(gt=0, le=5, description="S_DS of the study (21.4), in g")
    sd1: float = Field(gt=0, le=5, description="S_D1 of the study (21.4), in g")
    reason: str = Field(min_length=3, description="Who made the study, and when")
