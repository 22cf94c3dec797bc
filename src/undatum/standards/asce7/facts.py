"""The tables of ASCE 7 as shipped data."""

from __future__ import annotations

import csv
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from pydantic import Field

from undatum.described import Described
from undatum.record import FixedDict, frozen


@dataclass(frozen=True, slots=True)
class SystemRow:
    """One row of the table of lateral systems; heights in ft, ``NL`` or ``NP``, by category."""

    row: str
    group: str
    system: str
    R: float
    overstrength: float
    Cd: float
    limits: Mapping[str, str]
    period: str  # row of the period formula
    kind: str  # "masonry wall" or "light frame" where a rule asks for it


@dataclass(frozen=True)
class Edition:
    """One edition of the standard: its tables, its clauses and the rules in which it differs."""

    key: str
    data: Mapping[str, Any]

    @property
    def title(self) -> str:
        return str(self.data["rules"]["title"])

    @property
    def also(self) -> tuple[str, ...]:
        """The building codes that refer to this edition, by key."""
        return tuple(self.data["rules"]["also"])

    def rule(self, name: str) -> Any:
        return self.data["rules"][name]

    def clause(self, name: str) -> str:
        return str(self.data["clauses"][name])

    def equation(self, clause: str, number: str) -> str:
        """Clause with equation number, the number left out where it is not certain."""
        return f"{clause}, Eq. {number}" if self.rule("equation_numbers") else clause

    def table(self, name: str) -> Mapping[str, Any]:
        found: Mapping[str, Any] = self.data[name]
        return found


@cache
def edition(key: str) -> Edition:
    """An edition by the last two digits of its year: ``"05"``, ``"10"``, ``"16"``, ``"22"``."""
    text = (files(__package__) / "data" / f"edition_{key}.toml").read_text(encoding="utf-8")
    return Edition(key, frozen(tomllib.loads(text)))


@cache
def system_rows(key: str) -> Mapping[str, SystemRow]:
    """Table 12.2-1 of an edition by row number."""
    text = (files(__package__) / "data" / f"systems_{key}.csv").read_text(encoding="utf-8")
    lines = [line for line in text.splitlines() if not line.startswith("#")]
    return FixedDict({
        row["row"]: SystemRow(
            row["row"], row["group"], row["system"], float(row["R"]),
            float(row["overstrength"]), float(row["Cd"]),
            FixedDict({c: row[c] for c in "BCDEF"}), row["period"],
            row["kind"],
        )
        for row in csv.DictReader(lines)
    })


class StudyValues(Described):
    """Design accelerations from a site-specific study, used in place of the mapped route."""

    sds: float = Field(gt=0, le=5, description="S_DS of the study (21.4), in g")
    sd1: float = Field(gt=0, le=5, description="S_D1 of the study (21.4), in g")
    reason: str = Field(min_length=3, description="Who made the study, and when")
