"""Findings: every judgement in one form, the same in terminal, page, workbook and JSON."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from undatum.table import Table, column


class Severity(StrEnum):
    OK = "ok"
    NOTE = "note"
    WARNING = "warning"
    EXCEEDED = "exceeded"

    @property
    def rank(self) -> int:
        return list(Severity).index(self)


@dataclass(frozen=True, slots=True)
class Finding:
    """What was checked, where, demand, capacity, ratio, how serious, by which clause, what to do.

    ``demand`` and ``capacity`` are SI numbers of ``dimension``, or ``None`` where there is nothing
    to compare. ``ratio`` is demand over capacity.
    """

    check: str
    where: str
    severity: Severity
    text: str
    clause: str = ""
    advice: str = ""
    demand: float | None = None
    capacity: float | None = None
    dimension: str = "ratio"

    @property
    def ratio(self) -> float | None:
        if self.demand is None or not self.capacity:
            return None
        return self.demand / self.capacity


SHOWN = 6  # names that a finding lists


def several(names: Sequence[str]) -> str:
    """The first few of many names, and how many more there are."""
    left = len(names) - SHOWN
    return ", ".join(names[:SHOWN]) + (f" and {left} more" if left > 0 else "")


def against(value: float, *limits: float, digits: int = 2) -> str:
    """A number with as many decimals as tell it from the limits it is held against.

    >>> against(0.9996, 1.0), against(0.62, 0.7)
    ('0.9996', '0.62')
    """
    while digits < 9 and any(limit != value and f"{limit:.{digits}f}" == f"{value:.{digits}f}"
                             for limit in limits):
        digits += 1
    return f"{value:.{digits}f}"


def counted(findings: Iterable[Finding]) -> str:
    """How many findings there are of each severity: "9 ok, 3 notes, 1 warning"."""
    each = [f.severity for f in findings]
    plural = {Severity.NOTE: "notes", Severity.WARNING: "warnings"}
    return ", ".join(f"{n} {plural.get(s, s.value) if n > 1 else s.value}"
                     for s in Severity if (n := each.count(s)))


def worst(findings: Iterable[Finding]) -> Severity:
    """The most serious severity among ``findings`` (``ok`` when there is none)."""
    return max((f.severity for f in findings), key=lambda s: s.rank, default=Severity.OK)


def findings_table(findings: Iterable[Finding]) -> Table:
    """The list as a table, the most serious first."""
    ordered = sorted(findings, key=lambda f: -f.severity.rank)
    return Table(
        "findings",
        "Findings",
        (
            column("severity", "", [f.severity.value for f in ordered]),
            column("check", "", [f.check for f in ordered]),
            column("where", "", [f.where for f in ordered]),
            column("ratio", "ratio", [f.ratio for f in ordered], 3),
            column("finding", "", [f.text for f in ordered]),
            column("what to do", "", [f.advice for f in ordered]),
            column("clause", "", [f.clause for f in ordered]),
        ),
        marks=tuple(i for i, f in enumerate(ordered) if f.severity is Severity.EXCEEDED),
    )
