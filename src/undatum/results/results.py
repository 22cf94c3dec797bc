"""The results of a run: what was found, as tables, in words and on disk."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from undatum.analysis.modes import Normalization
from undatum.record import record
from undatum.results.catalog import expected_of, given_tables_of, tables_of
from undatum.results.expected import Compared
from undatum.results.found import Found
from undatum.results.store import save
from undatum.results.summary import summary_of
from undatum.results.tables_out import mode_shape_table
from undatum.table import Table, Tabled


@record
class Results(Found, Tabled):
    """The results of a run. Tables carry dimensions and write themselves in any unit system."""

    # -- tables -------------------------------------------------------------------------------

    def given_tables(self) -> tuple[Table, ...]:
        """What was put in, with which every number can be followed."""
        return tuple(make() for make in given_tables_of(self).values())

    def expected(self) -> tuple[Compared, ...]:
        """What the project expects beside what was computed. Raises InputError."""
        return expected_of(self)

    def made_by_name(self) -> Mapping[str, Callable[[], Table]]:
        return tables_of(self)

    # -- on disk ------------------------------------------------------------------------------

    def save(self, folder: str | Path) -> Path:
        """Keep everything in ``folder``; :func:`undatum.load` gives it back. Returns the folder.

        Arrays go to ``results.nc`` (NetCDF), the rest to ``results.records.json``. Raises
        InputError where it can't be written.
        """
        return save(self, folder)

    # -- in words -----------------------------------------------------------------------------

    def summary(self) -> list[tuple[str, str]]:
        """The summary: pairs of heading and text."""
        return summary_of(self)

    def shape_table(self, how: Normalization = "unit modal mass") -> Table:
        """Shapes of the modes in use, with unit modal mass or another normalization."""
        return mode_shape_table(self, how)

    def __str__(self) -> str:
        head = f"{self.project.title}\n"
        return head + "\n".join(f"  {name:<13} {text}" for name, text in self.summary())

    def __repr__(self) -> str:
        return f"<Results {self.project.title!r}, {self.standard_title}: {self.severity.value}>"

    def _repr_html_(self) -> str:
        from html import escape

        rows = "".join(f"<tr><th style='text-align:left'>{escape(a)}</th>"
                       f"<td style='text-align:left'>{escape(b)}</td></tr>"
                       for a, b in self.summary())
        return f"<table><caption>{escape(self.project.title)}</caption>{rows}</table>"

