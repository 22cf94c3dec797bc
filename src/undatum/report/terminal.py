"""The summary on a terminal."""

from __future__ import annotations

from rich.console import Console
from rich.table import Table as Grid
from rich.text import Text

from undatum.finding import Finding, Severity
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces
from undatum.table import Table
from undatum.units import UnitSystem

STYLE = {
    Severity.OK: "green", Severity.NOTE: "cyan", Severity.WARNING: "yellow",
    Severity.EXCEEDED: "bold red",
}


def story(console: Console, results: Results | StackForces) -> None:
    """The run in ten lines, then what was found."""
    console.print(Text(results.project.title, style="bold"))
    grid = Grid.grid(padding=(0, 2))
    grid.add_column(style="dim", no_wrap=True)
    grid.add_column()
    for name, text in results.summary():
        grid.add_row(name, Text(text))
    console.print(grid)
    console.print()
    findings(console, results.findings)


def findings(console: Console, items: tuple[Finding, ...]) -> None:
    """Everything that is not plainly ok, the most serious first, then how many are."""
    open_ones = sorted((f for f in items if f.severity is not Severity.OK),
                       key=lambda f: -f.severity.rank)
    grid = Grid.grid(padding=(0, 1))
    grid.add_column(justify="right", no_wrap=True)
    grid.add_column(max_width=112)
    for f in open_ones:
        body = Text.assemble((f.check, "bold"), (f"  {f.where}", "dim"))
        if f.ratio is not None:
            body.append(f", ratio {f.ratio:.2f}", "dim")
        body.append(f"\n{f.text}")
        if f.clause:
            body.append(f" [{f.clause}]", "dim")
        if f.advice:
            body.append(f"\n→ {f.advice}", "italic")
        grid.add_row(Text(f.severity.value, STYLE[f.severity]), body)
    console.print(grid)
    fine = len(items) - len(open_ones)
    if fine or not open_ones:
        console.print(Text(f"{fine} check{'s' if fine != 1 else ''} ok", style="green"))


def table(console: Console, one: Table, units: UnitSystem) -> None:
    """A table in the console's width; one that is too wide goes in parts, each with its names."""
    heads, rows = one.heads(units), one.text_rows(units)
    widths = [max([_longest_word(head), *(min(len(row[i]), 28) for row in rows)]) + 2
              for i, head in enumerate(heads)]
    names = next((i for i, c in enumerate(one.columns) if c.dimension), 1)
    keep = min(names, 2) if sum(widths) > console.width else 0
    left = sum(widths[:keep])
    parts: list[list[int]] = [[]]
    for i in range(keep, len(heads)):
        used = left + sum(widths[j] for j in parts[-1])
        if parts[-1] and used + widths[i] > console.width:
            parts.append([])
        parts[-1].append(i)
    for number, part in enumerate(parts):
        title = Text(one.title if number == 0 else f"{one.title}, continued")
        grid = Grid(title=title, title_justify="left", title_style="bold", box=None,
                    padding=(0, 1), header_style="dim")
        shown = [*range(keep), *part]
        for i in shown:
            grid.add_column(Text(heads[i]), overflow="fold",
                            justify="right" if one.columns[i].dimension else "left",
                            width=widths[i] - 2 if keep else None)
        for r, row in enumerate(rows):
            grid.add_row(*(Text(row[i]) for i in shown), style="red" if r in one.marks else None)
        console.print(grid)
    if one.note:
        console.print(Text(one.note, style="dim"))


def _longest_word(head: str) -> int:
    return max((len(word) for word in head.split()), default=0)
