"""What one knows beside what was computed: values from a textbook, a hand sheet, another job."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from undatum.errors import Fault, InputError, guess
from undatum.finding import Finding, Severity
from undatum.record import record
from undatum.table import Cell, Column, Table, column, number_text
from undatum.units import DIMENSIONS, UnitSystem, to_si

if TYPE_CHECKING:
    from undatum.project.schema import Expectation


@record
class Compared:
    """One value: as expected and as computed, SI or the bare number of a column without a
    dimension."""

    name: str
    table: str
    column: str
    where: str
    dimension: str
    expected: float
    computed: float
    tolerance: float
    source: str

    @property
    def difference(self) -> float:
        """Relative to what is expected; of a zero, the value itself."""
        return self.computed / self.expected - 1 if self.expected else self.computed

    @property
    def holds(self) -> bool:
        return abs(self.difference) <= self.tolerance * (1 + 1e-9)


def compare(
    wanted: Sequence[Expectation], table_of: Callable[[str], Table], names: Sequence[str],
    units: UnitSystem,
) -> tuple[Compared, ...]:
    """Every expected value beside the cell it names. Raises InputError with every fault."""
    found, faults = [], []
    for i, one in enumerate(wanted):
        try:
            found.append(_compared(one, table_of, names, units))
        except _Amiss as error:
            faults.append(Fault(f"expected[{i}].{error.key}", error.said, error.cure))
    if faults:
        raise InputError(faults)
    return tuple(found)


class _Amiss(Exception):
    def __init__(self, key: str, said: str, cure: str) -> None:
        self.key, self.said, self.cure = key, said, cure


def _known(name: str, known: Sequence[str], key: str, among: str) -> str:
    if name not in known:
        raise _Amiss(key, f"{name!r} is not among the {among}",
                     guess(name, known) or f"there are: {', '.join(known)}")
    return name


def _compared(
    one: Expectation, table_of: Callable[[str], Table], names: Sequence[str], units: UnitSystem
) -> Compared:
    table = table_of(_known(one.table, names, "table", "tables"))
    by_name = {c.name: c for c in table.columns}
    _known(one.column, list(by_name), "column", f"columns of {one.table}")
    keep = [True] * len(table)
    for key, wanted in one.where.items():
        _known(key, list(by_name), f"where.{key}", f"columns of {one.table}")
        keep = [k and _same(cell, wanted) for k, cell in zip(keep, by_name[key].cells, strict=True)]
        if not any(keep):
            cells = list(dict.fromkeys(str(c) for c in by_name[key].cells))
            raise _Amiss(f"where.{key}", f"no row has {wanted!r} there",
                         guess(str(wanted), cells) or f"there is: {', '.join(cells[:8])}")
    rows = [k for k, kept in enumerate(keep) if kept]
    if len(rows) != 1:
        others = [c.name for c in table.columns if c.name not in one.where and not c.dimension]
        raise _Amiss("where", f"names {len(rows)} rows of {one.table}, and one is wanted",
                     f"add another column to it, such as {', '.join(others[:3])}" if others else
                     "add another column to it")
    own = by_name[one.column]
    cell = own.cells[rows[0]]
    if isinstance(cell, bool) or not isinstance(cell, float | int):
        raise _Amiss("column", f"holds {cell!r} there, which is no number", "name another column")
    return Compared(
        one.name, one.table, one.column,
        ", ".join(f"{k} {v}" for k, v in one.where.items()), own.dimension,
        _value(one.value, own, units), float(cell), one.tolerance, one.source)


def _same(cell: Cell, wanted: object) -> bool:
    """Whether a cell is what is asked for; a whole number may stand as text, as in a file."""
    return cell == wanted or str(cell) == str(wanted)


def _value(value: float | str, own: Column, units: UnitSystem) -> float:
    """As SI: a plain number is in the unit of the column, as the table shows it."""
    try:
        if isinstance(value, str):
            return to_si(value, own.dimension) if own.dimension in DIMENSIONS else float(value)
    except ValueError as error:
        raise _Amiss("value", str(error), "") from None
    return float(value) * (units.size(own.dimension) if own.dimension else 1.0)


def expected_table(found: Sequence[Compared], units: UnitSystem) -> Table:
    """Yours, computed, difference, and where each comes from."""
    def plain(value: float, dimension: str) -> str:
        if not dimension:
            return number_text(value, 6)
        shown = float(units.show(value, dimension))
        return f"{number_text(shown, 6)} {units.label(dimension)}".strip()

    return Table(
        "expected", "Expected and computed values",
        (
            column("what", "", [c.name for c in found]),
            column("table", "", [c.table for c in found]),
            column("column", "", [c.column for c in found]),
            column("row", "", [c.where for c in found]),
            column("expected", "", [plain(c.expected, c.dimension) for c in found]),
            column("computed", "", [plain(c.computed, c.dimension) for c in found]),
            column("difference", "ratio", [c.difference for c in found], 3),
            column("tolerance", "ratio", [c.tolerance for c in found], 3),
            column("passes", "", [c.holds for c in found]),
            column("source", "", [c.source for c in found]),
        ),
        note="Expected values are compared and never used. Differences are relative to the "
             "expected value.",
        marks=tuple(i for i, c in enumerate(found) if not c.holds),
    )


def expected_findings(found: Sequence[Compared]) -> tuple[Finding, ...]:
    """A warning for every value off by more than its tolerance; one line where none is."""
    off = [c for c in found if not c.holds]
    if found and not off:
        return (Finding("expected values", "whole structure", Severity.OK,
                        f"{len(found)} of {len(found)} agree within tolerance.", "expected"),)
    return tuple(Finding(
        f"expected: {c.name}", f"table {c.table}, {c.column}" + (f", {c.where}" if c.where else ""),
        Severity.WARNING, f"Computed and expected differ by {c.difference:+.2%}; up to "
        f"{c.tolerance:.2%} is accepted. Source: {c.source}.", "expected",
        "Find out which of the two is wrong.") for c in off)
