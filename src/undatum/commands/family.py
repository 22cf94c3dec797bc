"""Families of variants: run them, read them, compare two, and find what cures a drift."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

import undatum
from undatum.commands.shared import EXIT_EXCEEDED, EXIT_OK, ProjectFile, app, from_here, say, screen
from undatum.errors import AnalysisError, Fault, InputError, one_of

if TYPE_CHECKING:
    from undatum.variants.family import Family


@app.command()
def vary(
    project: ProjectFile,
    out: Annotated[Path, typer.Option(help="Folder of the family; one that was stopped goes on")
                   ] = Path("variants"),
    rows: Annotated[str, typer.Option(
        help="Table (CSV) of variants beside the project, in place of the design")] = "",
    jobs: Annotated[int, typer.Option(min=1, max=1024, help="Processes on this machine")] = 1,
    cluster: Annotated[str, typer.Option(
        help="Address of a Dask scheduler, or 'local' for one here")] = "",
    of: Annotated[str, typer.Option(
        help="The quantity that pictures show; the largest use of a drift limit if left out")] = "",
    worst: Annotated[int, typer.Option(
        min=0, max=1000, help="Variants with the largest values that are explained, each by a run "
        "for every parameter")] = 10,
    between: Annotated[str, typer.Option(
        "--compare", help="Two variants to run in full and compare, such as v00003,v00017")] = "",
) -> None:
    """Run the variants of a project: what is varied stands in its [variants] table."""
    from rich.text import Text

    from undatum.report import terminal
    from undatum.report import variants as report
    from undatum.variants.explain import explained_worst
    from undatum.variants.found import FILE

    console = screen()
    family = undatum.family_of(undatum.read(project), **({"table": rows} if rows else {}))
    if between:
        _compared(family, between)
        return
    found = _run(family, out, jobs, cluster)
    if not found.main:
        raise AnalysisError(f"No variant could be run: {found.failed[0]}")
    quantity = of or found.main[0]
    if quantity not in found.names:
        raise InputError([Fault("--of", f"nothing was kept as {quantity!r}",
                                one_of(quantity, found.names, "there is"))])
    written = report.write_family(found, out, quantity, [
        explained_worst(family, found, quantity, worst)] if worst else [])
    say(lambda: console.print(Text(found.title, style="bold")),
        *(partial(console.print, Text(f"  {name}: {text}"), soft_wrap=True)
          for name, text in report.story_of(found)),
        console.print,
        lambda: terminal.table(console, found.influence(quantity), found.units),
        *(partial(console.print, Text(f"  {from_here(path)}"), soft_wrap=True)
          for path in (out / FILE, *written)))
    raise typer.Exit(EXIT_EXCEEDED if found.exceeded else EXIT_OK)


def _run(
    family: Family, out: Path, jobs: int, cluster: str
) -> undatum.FamilyResults:
    """Run with a bar of what is done and the time that is left, on a terminal."""
    from rich.progress import (
        BarColumn,
        MofNCompleteColumn,
        Progress,
        TextColumn,
        TimeRemainingColumn,
    )

    console = screen(stderr=True)
    with Progress(TextColumn("variants"), BarColumn(), MofNCompleteColumn(), TimeRemainingColumn(),
                  console=console, disable=not console.is_terminal, transient=True) as bar:
        task = bar.add_task("variants", total=len(family))
        return undatum.run_family(
            family, out, jobs=jobs, cluster=cluster or None,
            progress=lambda done, total: bar.update(task, completed=done, total=total))


def _compared(family: Family, names: str) -> None:
    """Two variants run in full, and what differs."""
    from undatum.report import terminal
    from undatum.variants.found import variant_name

    known = [variant_name(i) for i in range(len(family))]
    asked = [name.strip() for name in names.split(",")]
    if len(asked) != 2 or not set(asked) <= set(known):
        raise InputError([Fault(
            "--compare", f"{names!r} does not name two variants",
            f"write two of {known[0]} to {known[-1]}, such as {known[0]},{known[-1]}")])
    first, second = (undatum.run(family.variant(known.index(name))) for name in asked)
    console = screen()
    say(*(partial(terminal.table, console, table, first.units)
          for table in undatum.compared(first, second) if len(table)))


@app.command()
def cure(
    project: ProjectFile,
    group: Annotated[list[str] | None, typer.Option(
        help="Path of what may be changed, such as \"building.lines[direction=X].stiffness\"; as "
        "often as there are groups. Left out: what [variants] varies by factors")] = None,
    costs: Annotated[str, typer.Option(
        help="What doubling each group costs, such as 2,1,1; alike if left out")] = "",
    most: Annotated[float, typer.Option(help="Largest factor on a group")] = 3.0,
    story: Annotated[str, typer.Option(
        help="Take the drift of this story apart, by the level at its top, in place of the "
        "governing one")] = "",
) -> None:
    """Where the largest drift comes from, and the least change of groups that meets its limit."""
    from rich.text import Text

    from undatum.commands.shared import busy
    from undatum.report import terminal
    from undatum.units import UnitSystem

    read = undatum.read(project)
    paths = list(group or [])
    if not paths and read.variants is not None:
        paths = [path for p in read.variants.vary if p.times for path in p.paths]
    try:
        prices = [float(c) for c in costs.split(",")] if costs else []
    except ValueError:
        raise InputError([Fault("--costs", f"{costs!r} is no list of numbers",
                                "write such as 2,1,1")]) from None
    console = screen()
    with busy("calculating") as told:
        job = undatum.calculate(read, watch=told)
        tables = [undatum.drift_sources(job, d, story).table() for d in job.directions]
    found = None
    if paths:
        with busy("seeking the least change"):
            found = undatum.cure(read, paths, prices, most=most)
        tables.append(found.table())
    units = UnitSystem(read.units)
    say(*(partial(terminal.table, console, table, units) for table in tables),
        *([] if paths else [partial(console.print, Text(
            "Name what may be changed with --group to seek the least change."))]))
    raise typer.Exit(EXIT_OK if found is None or found.meets else EXIT_EXCEEDED)
