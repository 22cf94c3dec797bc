"""A ledger of checks against independent numbers, written as pages for people to read.

A test that calls ``verify`` compares our number with one worked by hand in the test itself. With
``--verification DIR`` every such comparison is also written to one page for each standard.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import pytest

Verify = Callable[..., None]

TITLES = {
    "asce7": "ASCE/SEI 7, editions 2005 to 2022",
    "en1998": "EN 1998-1:2004",
    "is1893": "IS 1893 (Part 1), editions 2002 and 2016",
    "ubc97": "UBC 1997",
    "mechanics": "Modes, combination and response",
}


@dataclass(frozen=True)
class Entry:
    page: str
    quantity: str
    inputs: str
    ours: float
    independent: float

    @property
    def difference(self) -> float:
        size = abs(self.independent)
        return abs(self.ours - self.independent) / size if size else abs(self.ours)

    @property
    def row(self) -> tuple[str, ...]:
        size = "none" if self.difference < 1e-12 else f"{self.difference:.1e}"
        return self.quantity, self.inputs, f"{self.ours:.8g}", f"{self.independent:.8g}", size


LEDGER: list[Entry] = []


@pytest.fixture
def verify() -> Verify:
    """Compare and write down: ``verify(page, quantity, inputs, ours, independent)``."""

    def check(
        page: str, quantity: str, inputs: object, ours: float, independent: float,
        rel: float = 1e-9,
    ) -> None:
        text = ", ".join(f"{k} {v}" for k, v in inputs.items()) if isinstance(inputs, dict) \
            else str(inputs)
        LEDGER.append(Entry(page, quantity, text, float(ours), float(independent)))
        assert float(ours) == pytest.approx(float(independent), rel=rel)

    return check


def _rows(entries: list[Entry]) -> set[tuple[str, ...]]:
    """A row for each comparison; retyped tables, many entries without a difference, take one."""
    found: set[tuple[str, ...]] = set()
    for quantity in {e.quantity for e in entries}:
        own = {e.row for e in entries if e.quantity == quantity}
        if len(own) > TABLE and all(row[4] == "none" for row in own):
            found.add((quantity, f"table, {len(own)} entries", "–", "–", "none"))
        else:
            found |= own
    return found


TABLE = 12  # comparisons of one quantity from which on it is a table


def write_pages(folder: Path) -> None:
    """One page for each standard, rows in a fixed order."""
    folder.mkdir(parents=True, exist_ok=True)
    for page, title in TITLES.items():
        own = [e for e in LEDGER if e.page == page]
        rows = sorted(_rows(own))
        lines = [
            f"# Verification: {title}", "",
            f"{len({e.row for e in own})} comparisons, made by the test suite "
            "(`make verification`). The "
            "independent number is worked in the test with the published formula or table, "
            "written out again, not by calling the library a second time. A table that was typed "
            "a second time takes one line.", "",
            "| quantity | inputs | ours | independent | relative difference |",
            "| --- | --- | --- | --- | --- |",
            *("| " + " | ".join(cell.replace("|", "/") for cell in row) + " |" for row in rows),
        ]
        (folder / f"{page}.md").write_text("\n".join(lines) + "\n", encoding="utf-8")
