"""Two results side by side: what changed in what was asked, what was found, and what was judged."""

from __future__ import annotations

import math
from collections import Counter

from undatum.finding import Finding, Severity
from undatum.results.description import flat
from undatum.results.outcome import Outcome
from undatum.table import Cell, Column, Table, column, number_text
from undatum.units import UnitSystem

NOISE = 1e-6  # of the largest of a dimension: below this two numbers are the same
LEFT_OUT = ("choices", "input_levels", "input_outlines", "input_lines", "input_members",
         "input_sections", "input_cases", "findings", "expected", "plausibility",
         "mode_shapes", "spectrum")  # signs of shapes say nothing, ordinates have no name


def compared(first: Outcome, second: Outcome, least: float = 1e-3) -> tuple[Table, ...]:
    """What is different in another job, in four tables: what matters first (weight, periods, base
    shears, drift), what was judged, what was asked, and every number of the results, the largest
    change first. ``least`` is the relative change up to which numbers there count as alike.

    >>> first = ud.run(ud.shipped_project("clinic"))
    >>> second = ud.run(ud.shipped_project("clinic").varied({"site.s1": 0.5}))
    >>> ud.compared(first, second)[0].title
    'What matters first'
    """
    return (key_changes(first, second), finding_changes(first, second),
            input_changes(first, second), result_changes(first, second, least))


def key_changes(first: Outcome, second: Outcome) -> Table:
    """What a reader asks first: weight, periods, base shears and what governs them, scale factors,
    the largest drift and the findings, side by side where they differ."""
    a, b = (r.key_numbers() | _counts(r) for r in (first, second))
    units, rows = first.units, []
    for name in dict.fromkeys((*a, *b)):
        x, y = a.get(name, ("", None)), b.get(name, ("", None))
        dimension = x[0] or y[0]
        before, after = x[1], y[1]
        if isinstance(before, float) and isinstance(after, float):
            size = max(abs(before), abs(after))
            change = (after - before) / size if size else 0.0
            if abs(change) > NOISE:
                rows.append((name, *(_text(v, dimension, units) for v in (before, after)), change))
        elif before != after:
            rows.append((name, _text(before, dimension, units), _text(after, dimension, units),
                         None))
    return Table(
        "key_changes", "What matters first",
        (column("value", "", [r[0] for r in rows]), column("first", "", [r[1] for r in rows]),
         column("second", "", [r[2] for r in rows]),
         column("change", "ratio", [r[3] for r in rows], 3)),
        note="" if rows else "Weight, periods, base shears, scale factors, drift and the number of "
        "findings are the same.")


def _counts(r: Outcome) -> dict[str, tuple[str, float | str | None]]:
    counts = Counter(f.severity.value for f in r.findings)
    return {f"findings: {s.value}": ("", str(counts[s.value])) for s in Severity}


def _text(value: float | str | None, dimension: str, units: UnitSystem) -> str:
    if not isinstance(value, float):
        return value or "–"
    shown = number_text(float(units.show(value, dimension)) if dimension else value, 5)
    return f"{shown} {units.label(dimension) if dimension else ''}".strip()


def input_changes(first: Outcome, second: Outcome) -> Table:
    """Keys of the project whose values differ, are new or are gone; in the units of the first."""
    a, b = (dict(flat(r.project, first.units)) for r in (first, second))
    keys = [k for k in dict.fromkeys((*a, *b)) if a.get(k) != b.get(k)]
    return Table(
        "input_changes", "Differences in input",
        (
            column("key", "", keys),
            column("first", "", [a.get(k, "–") for k in keys]),
            column("second", "", [b.get(k, "–") for k in keys]),
        ),
        note="" if keys else "None: both inputs are the same.",
    )


def result_changes(first: Outcome, second: Outcome, least: float = 1e-3) -> Table:
    """Every number of the results that differs by more than ``least``; first what changes most
    beside the largest of its dimension.

    Rows are the same where their texts are; a change is relative to the larger of both values,
    and what is small beside the largest of its dimension is no change.
    """
    rows: list[tuple[str, str, str, str, str, float, float]] = []
    names = [n for n in first.table_names if n in second.table_names and n not in LEFT_OUT]
    units, tables = first.units, [(first.table(n), second.table(n)) for n in names]
    sizes: dict[str, float] = {}
    for c in (c for pair in tables for one in pair for c in one.columns):
        sizes[c.dimension] = max(
            sizes.get(c.dimension, 0.0),
            *(abs(v) for v in map(_number, c.cells) if v is not None), 0.0)
    for a, b in tables:
        rows += _changes(a, b, units, least, sizes)
    rows.sort(key=lambda r: -r[6])
    gone = [n for n in first.table_names if n not in second.table_names]
    new = [n for n in second.table_names if n not in first.table_names]
    said = [f"tables only {where}: {', '.join(own)}" for where, own in
            (("in the first", gone), ("in the second", new)) if own]
    return Table(
        "result_changes", "Differences in results",
        (
            column("table", "", [r[0] for r in rows]), column("row", "", [r[1] for r in rows]),
            column("column", "", [r[2] for r in rows]), column("first", "", [r[3] for r in rows]),
            column("second", "", [r[4] for r in rows]),
            column("change", "ratio", [r[5] for r in rows], 3),
        ),
        note="; ".join([f"Changes are relative to the larger value; those below {least:g} are "
                        "omitted. Sorted by the change relative to the largest value of its "
                        "kind", *said]) + ".",
    )


def _changes(
    a: Table, b: Table, units: UnitSystem, least: float, sizes: dict[str, float]
) -> list[tuple[str, str, str, str, str, float, float]]:
    """Changes of one table, and rows that only one of both has."""
    others = {c.name: c for c in b.columns}
    keys = [c for c in a.columns if _names_rows(c) and c.name in others]
    mine, theirs = _labels(keys, len(a)), _labels([others[c.name] for c in keys], len(b))
    place = {label: k for k, label in enumerate(theirs)}
    found = []
    for c in a.columns:
        if c.name not in others or c in keys:
            continue
        other = others[c.name]
        # what has no dimension, and ratios, are large or small by what they are of
        size = sizes[c.dimension] if c.dimension not in ("", "ratio") else max(
            (abs(v) for v in map(_number, (*c.cells, *other.cells)) if v is not None),
            default=0.0)
        for k, label in enumerate(mine):
            if label not in place:
                continue
            x, y = _number(c.cells[k]), _number(other.cells[place[label]])
            if x is None or y is None or abs(y - x) <= max(NOISE * size, 1e-300):
                continue
            change = (y - x) / max(abs(x), abs(y))
            if abs(change) > least:
                found.append((a.name, ", ".join(map(str, label[:-1])), c.name,
                              _shown(x, c, units), _shown(y, c, units), change,
                              abs(y - x) / size))
    return found


def _names_rows(c: Column) -> bool:
    """Whether a column says what a row is of: texts or whole numbers without a dimension."""
    return not c.dimension and not any(isinstance(v, float) for v in c.cells)


def _labels(keys: list[Column], count: int) -> list[tuple[Cell, ...]]:
    """What each row is of; rows of one name are told apart by their order."""
    seen: Counter[tuple[Cell, ...]] = Counter()
    found = []
    for k in range(count):
        label = tuple(c.cells[k] for c in keys)
        seen[label] += 1
        found.append((*label, seen[label]))
    return found


def _number(value: Cell) -> float | None:
    """A cell as a number, where it is one."""
    good = isinstance(value, float | int) and not isinstance(value, bool) and math.isfinite(value)
    return float(value) if good else None  # type: ignore[arg-type]


def _shown(value: float, c: Column, units: UnitSystem) -> str:
    return _text(value, c.dimension, units)


def finding_changes(first: Outcome, second: Outcome) -> Table:
    """Checks that came, went or changed in severity, each by its most serious finding."""
    def by_key(findings: tuple[Finding, ...]) -> dict[str, Finding]:
        worst: dict[str, Finding] = {}
        for f in findings:
            if f.check not in worst or f.severity.rank > worst[f.check].severity.rank:
                worst[f.check] = f
        return worst

    a, b = by_key(first.findings), by_key(second.findings)
    rows: list[tuple[str, str, str, str, int]] = []
    for check in dict.fromkeys((*b, *a)):
        both = a.get(check), b.get(check)
        there = [f for f in both if f is not None]
        if len(there) < 2 or there[0].severity is not there[1].severity:
            before, after = (f.severity.value if f is not None else "–" for f in both)
            rows.append((check, before, after, there[-1].text,
                         max(f.severity.rank for f in there)))
    rows.sort(key=lambda r: -r[4])
    return Table(
        "finding_changes", "Differences in findings",
        (
            column("check", "", [r[0] for r in rows]), column("first", "", [r[1] for r in rows]),
            column("second", "", [r[2] for r in rows]), column("text", "", [r[3] for r in rows]),
        ),
        note="" if rows else "None: every check has the same severity.",
    )
