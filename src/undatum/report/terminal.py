"""The short story on a terminal."""

from __future__ import annotations

from rich.console import Console
from rich.markup import escape
from rich.table import Table as Grid
from rich.text import Text

from undatum.finding import Finding, Severity
from undatum.project.results import Results
from undatum.table import Table
from undatum.units import UnitSystem

STYLE = {
    Severity.OK: "green", Severity.NOTE: "cyan", Severity.WARNING: "yellow",
    Severity.EXCEEDED: "bold red",
}


def story(console: Console, results: Results) -> None:
    """The run in ten lines, then what was found."""
    console.print(f"[bold]{escape(results.project.title)}[/bold]")
    grid = Grid.grid(padding=(0, 2))
    grid.add_column(style="dim", no_wrap=True)
    grid.add_column()
    for name, text in results.story():
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
    console.print(f"[green]{fine} check{'s' if fine != 1 else ''} ok[/green]")


def table(console: Console, one: Table, units: UnitSystem) -> None:
    """A table in the console's width."""
    grid = Grid(title=Text(one.title), title_justify="left", title_style="bold", box=None,
                padding=(0, 1), header_style="dim")
    for head, column in zip(one.heads(units), one.columns, strict=True):
        grid.add_column(Text(head), justify="right" if column.dimension else "left",
                        overflow="fold")
    for i, row in enumerate(one.text_rows(units)):
        grid.add_row(*(Text(cell) for cell in row), style="red" if i in one.marks else None)
    console.print(grid)
    if one.note:
        console.print(Text(one.note, style="dim"))
