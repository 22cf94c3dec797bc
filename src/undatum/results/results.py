"""The results of a run: what was found, as tables, in words and on disk."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from undatum.analysis.modes import Normalization
from undatum.record import record
from undatum.results.catalog import given_tables_of, tables_of
from undatum.results.found import Found
from undatum.results.summary import key_numbers_of, summary_of
from undatum.results.tables_out import mode_shape_table
from undatum.table import Table


@record
class Results(Found):
    """The results of a run. Tables carry dimensions and write themselves in any unit system.

    >>> results = ud.run(ud.shipped_project("archive"))
    >>> round(results.drift.largest_use("X"), 3), results.severity.value
    (1.104, 'exceeded')
    """

    # -- tables -------------------------------------------------------------------------------

    def given_tables(self) -> tuple[Table, ...]:
        """What was put in, with which every number can be followed."""
        return tuple(make() for make in given_tables_of(self).values())

    def made_by_name(self) -> Mapping[str, Callable[[], Table]]:
        return tables_of(self)

    # -- in words -----------------------------------------------------------------------------

    def summary(self) -> list[tuple[str, str]]:
        """The summary: pairs of heading and text."""
        return summary_of(self)

    def key_numbers(self) -> dict[str, tuple[str, float | str | None]]:
        return key_numbers_of(self)

    def shape_table(self, how: Normalization = "unit modal mass") -> Table:
        """Shapes of the modes in use, with unit modal mass or another normalization."""
        return mode_shape_table(self, how)
