"""A table with a dimension for each column: the one form in which results leave the core."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, cast

from undatum.errors import one_of
from undatum.units import SI, UnitSystem

if TYPE_CHECKING:
    import pandas as pd

Cell = float | int | str | bool | None
ROUNDING = 1e-14  # share of the largest number of a column below which another is round-off


@dataclass(frozen=True, slots=True)
class Column:
    """One column: its name, the dimension of its numbers (empty for text) and its cells in SI."""

    name: str
    dimension: str
    cells: tuple[Cell, ...]
    digits: int = 4  # significant digits when read by people

    def head(self, units: UnitSystem) -> str:
        unit = units.label(self.dimension) if self.dimension else ""
        return f"{self.name} ({unit})" if unit else self.name

    def shown(self, units: UnitSystem) -> list[Cell]:
        size = units.size(self.dimension) if self.dimension else 1.0
        return [
            cell / size if isinstance(cell, float) and size != 1.0 else cell for cell in self.cells
        ]

    def text(self, units: UnitSystem) -> list[str]:
        return [number_text(cell, self.digits) for cell in self.shown(units)]


def number_text(cell: Cell, digits: int = 4) -> str:
    """A cell as people read it: significant digits, thousands kept whole, a dash for nothing."""
    if cell is None or (isinstance(cell, float) and not math.isfinite(cell)):
        return "–"
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if not isinstance(cell, float):
        return str(cell)
    if cell == 0:
        return "0"
    size = math.floor(math.log10(abs(cell)))
    if size >= 7 or size < -4:
        return f"{cell:.{digits - 1}e}"
    places = max(digits - 1 - size, 0)
    return f"{cell:,.{places}f}".replace(",", "\u202f" if abs(cell) >= 1e4 else "")


@dataclass(frozen=True, slots=True)
class Table:
    """Named columns of equal length. ``marks`` holds rows to be colored: a column says why."""

    name: str
    title: str
    columns: tuple[Column, ...]
    note: str = ""
    marks: tuple[int, ...] = ()

    def __len__(self) -> int:
        return len(self.columns[0].cells) if self.columns else 0

    def heads(self, units: UnitSystem = SI) -> list[str]:
        return [column.head(units) for column in self.columns]

    def rows(self, units: UnitSystem = SI) -> Iterator[tuple[Cell, ...]]:
        """Rows of numbers and texts in ``units``."""
        return zip(*(column.shown(units) for column in self.columns), strict=True)

    def text_rows(self, units: UnitSystem = SI) -> list[tuple[str, ...]]:
        """Rows as people read them."""
        return list(zip(*(column.text(units) for column in self.columns), strict=True))

    def where(self, keep: Sequence[bool]) -> Table:
        """The rows for which ``keep`` is true."""
        kept = [i for i, wanted in enumerate(keep) if wanted]
        columns = tuple(
            Column(c.name, c.dimension, tuple(c.cells[i] for i in kept), c.digits)
            for c in self.columns
        )
        marks = tuple(new for new, old in enumerate(kept) if old in self.marks)
        return Table(self.name, self.title, columns, self.note, marks)

    def to_frame(self, units: UnitSystem | str = SI) -> pd.DataFrame:
        """A pandas DataFrame; the unit stands in the name of each column."""
        import pandas as pd

        system = UnitSystem(units) if isinstance(units, str) else units
        return pd.DataFrame(
            {column.head(system): column.shown(system) for column in self.columns}
        )

    def _repr_html_(self) -> str:
        from html import escape

        head = "".join(f"<th>{escape(name)}</th>" for name in self.heads())
        body = "".join(
            "<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>"
            for row in self.text_rows()
        )
        return f"<table><caption>{escape(self.title)}</caption><tr>{head}</tr>{body}</table>"

    def __str__(self) -> str:
        rows = [tuple(self.heads()), *self.text_rows()]
        widths = [max(len(row[i]) for row in rows) for i in range(len(self.columns))]
        lines = [
            "  ".join(cell.rjust(w) for cell, w in zip(row, widths, strict=True)) for row in rows
        ]
        return "\n".join([self.title, *lines])


def column(name: str, dimension: str, cells: Iterable[Any], digits: int = 4) -> Column:
    """A column from any sequence; NumPy scalars become plain numbers.

    What is not a number or infinite becomes an empty cell, what is round-off of the others zero.
    """
    if getattr(getattr(cells, "dtype", None), "kind", "") == "f":  # an array, all at once
        import numpy as np  # off the start path

        cells = np.ravel(cast(Any, cells))
        whole = np.isfinite(cells)
        most = float(np.abs(cells[whole]).max(initial=0.0))
        round_ = np.where(np.abs(cells) <= ROUNDING * most, 0.0, cells).tolist()
        return Column(name, dimension, tuple(round_) if whole.all() else tuple(
            c if ok else None for c, ok in zip(round_, whole.tolist(), strict=True)), digits)
    plain = [cell.item() if hasattr(cell, "item") else cell for cell in cells]
    sizes = [abs(c) for c in plain if type(c) is float and math.isfinite(c)]
    least = ROUNDING * max(sizes, default=0.0)
    return Column(name, dimension, tuple(
        c if type(c) is not float else
        None if not math.isfinite(c) else 0.0 if abs(c) <= least else c for c in plain), digits)


class Tabled:
    """What has tables, each to be had by its name."""

    __slots__ = ()

    if TYPE_CHECKING:

        @property
        def units(self) -> UnitSystem: ...

    def made_by_name(self) -> Mapping[str, Callable[[], Table]]:
        """How each table is made, by its name, in the order of the job."""
        raise NotImplementedError

    @property
    def table_names(self) -> tuple[str, ...]:
        """The tables there are, in the order of the job."""
        return tuple(self.made_by_name())

    def tables(self) -> tuple[Table, ...]:
        """Every table, in the order of the job."""
        return tuple(make() for make in self.made_by_name().values())

    def table(self, name: str) -> Table:
        """One table by its name, made when asked for. Raises KeyError with the nearest name."""
        found = self.made_by_name()
        if name not in found:
            raise KeyError(f"no table {name!r}; " + one_of(name, found, "there are"))
        return found[name]()

    def to_frame(self, name: str) -> pd.DataFrame:
        """A table as a pandas DataFrame in the project's units."""
        return self.table(name).to_frame(self.units)
