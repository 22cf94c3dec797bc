"""The job from file to results: write one, check, run, compare; what standards ask for."""

from __future__ import annotations

import json
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, cast

import typer

import undatum
from undatum.commands.shared import (
    EXIT_EXCEEDED,
    EXIT_OK,
    ProjectFile,
    app,
    beside,
    calculated,
    counted,
    from_here,
    memory_said,
    save_table,
    say,
    screen,
    standing,
    writing,
)
from undatum.errors import InputError

if TYPE_CHECKING:
    from rich.console import Console

    from undatum.results.outcome import Outcome


@app.command()
def new(
    file: Annotated[Path, typer.Argument(help="File to write")] = Path("project.toml"),
    like: Annotated[
        str, typer.Option(help="What to start from: starter, archive (kip, ft), clinic "
                          "(kN, m); terrace, tower, archive_frames, clinic_frames have members; "
                          "arcade is a plane frame, loft is weights")
    ] = "starter",
    standard: Annotated[str, typer.Option(
        help="The starter under another standard, such as en1998")] = "",
    as_tables: Annotated[bool, typer.Option(
        "--as-tables", help="Levels, outlines, loads, lines, cases and more as sheets of a "
        "workbook beside a short project, with heads and examples")] = False,
) -> None:
    """Write a commented project that runs as it is."""
    from undatum.errors import Fault, one_of
    from undatum.project.project_file import SHIPPED, SHORT, shipped_text, starter_by

    known = (*SHIPPED, *SHORT)
    if like not in known:
        raise InputError([Fault("--like", f"{like!r} is not a project that is shipped",
                                one_of(like, known, "choose from"))])
    book = file.with_suffix(".xlsx")
    if as_tables and like != "starter":
        raise InputError([Fault("--as-tables", f"goes with the starter, not with {like}",
                                "leave one of the two out")])
    if as_tables and book.exists():
        raise InputError([Fault(str(book), "is already there; nothing was written",
                                "choose another name")])
    if standard and (as_tables or like != "starter"):
        raise InputError([Fault("--standard", "goes with the starter alone",
                                "leave the other out, and change standard in the file")])
    text = starter_by(standard, file.name) if standard else shipped_text(
        "by_tables" if as_tables else like, file.name).replace("{book}", book.name)
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        with file.open("x", encoding="utf-8", newline="\n") as out:
            out.write(text)
        if as_tables:
            from undatum.report import workbook

            workbook.write_input(book)
    except FileExistsError:
        raise InputError([Fault(str(file), "is already there; nothing was written",
                                "choose another name")]) from None
    except OSError as error:
        raise InputError([Fault(str(file), f"cannot be written ({error.strerror})",
                                "name another place")]) from None
    beside = f" and {book}" if as_tables else ""
    typer.echo(f"Wrote {file}{beside}. Next: undatum run {file} --out results")


@app.command()
def check(project: ProjectFile) -> None:
    """Validate a project and list what would be run."""
    from rich.table import Table as Grid
    from rich.text import Text

    from undatum import standards
    from undatum.job import site_only
    from undatum.project import project_file
    from undatum.report import terminal

    console = screen()
    if project_file.has_stack(project):
        short = undatum.run_stack(undatum.read_stack(project))
        console.print(Text(f"{project.name}: valid", style="bold green"))
        console.print(Text(
            f"  heights and weights of {len(short.project.stack.floors())} levels; would run: "
            f"period, static and diaphragm forces by {short.standard_title}"))
        return
    if not project_file.has_building(project):
        one = site_only.run_site(project_file.read_site(project))
        console.print(Text(f"{project.name}: valid", style="bold green"))
        console.print(Text("  a site without a building; would run: site parameters and design "
                           f"spectrum by {one.standard_title}"))
        return
    job = undatum.read(project)
    done = undatum.calculate(job).up_to("working", "questions")  # refuses what a run would
    family = None if job.variants is None else undatum.family_of(job)
    named = [*(one.sets for one in job.combinations), *(c.sets for c in job.drift.combinations)]
    if any(named) or job.record.readings:
        results = undatum.run(job)  # names of sets follow from the analysis
        for name in results.table_names:
            if name.startswith("picked_"):
                results.table(name)
    console.print(Text(f"{project.name}: valid", style="bold green"))
    b = job.building
    above = len(b.above_base)
    grid = Grid.grid(padding=(0, 2))
    grid.add_column(style="dim", no_wrap=True)
    grid.add_column()
    rows = [
        ("title", job.title),
        ("standard", f"{standards.get(job.standard, project.parent).title}, units {job.units}"),
        ("building", f"{above} levels above the base, {len(b.levels) - 1 - above} stories below, "
         f"{len(b.lines)} lateral lines, {len(b.outlines)} outlines"
         + (f", {len(b.held)} floors held by the ground" if b.held else "")),
        *([("members", counted(b.frame))] if b.frame is not None else []),
        *([("strong axes", f"of columns; {said}")]
          if b.frame is not None and (said := standing(b.frame)) else []),
        *([("memory", memory_said(b))] if memory_said(b) else []),
        ("hazard", "typed in the project" if job.site.looked_up is None else
         f"looked up for {job.site.looked_up.location.said}, {job.site.looked_up.source}"),
        ("spectrum", job.spectrum.said if job.spectrum else "by the standard"),
        ("would run", "site, weight, modes, equivalent lateral force, response spectrum, scaling, "
         "irregularities, story drift, P-Delta, "
         + (f"separation ({len(job.gaps)} gaps), " if job.gaps else "")
         + "load combinations, plausibility"),
        ("modes combined", job.analysis.modal_combination or "by the standard (CQC)"),
        ("other standards", ", ".join(job.alternatives) or "none (undatum side-by-side)"),
        ("directions", job.analysis.directional_combination or "by the standard"),
        *([] if family is None else [("variants", f"{len(family)}, {family.spec.design} of "
           f"{', '.join(p.name for p in family.parameters)} (undatum vary)")]),
    ]
    for name, text in rows:
        grid.add_row(name, Text(text))
    console.print(grid)
    if done.questions:
        terminal.findings(console, done.questions)


#: Where a run may stop, with what it shows then.
STOPS = ("weight", "modes", "static")


@app.command()
def run(
    project: ProjectFile,
    out: Annotated[str, typer.Option(help="Folder for the results")] = "results",
    quiet: Annotated[bool, typer.Option("--quiet", help="Print nothing but errors")] = False,
    pdf: Annotated[bool, typer.Option(
        "--pdf", help="Print the records as PDF too, through an installed browser")] = False,
    as_json: Annotated[bool, typer.Option(
        "--json", help="Print the summary as JSON in place of words")] = False,
    detail: Annotated[str, typer.Option(
        help="How much to write: short, usual, or full (section forces of all members too)")
        ] = "usual",
    only: Annotated[str, typer.Option(
        help="Stop after weight, modes or static (forces), show them and write nothing")] = "",
    family: Annotated[str, typer.Option(
        help="Folder of its family of variants, from 'undatum vary': records tell the spread of "
        "results beside them")] = "",
) -> None:
    """Run a project and write records, workbook, tables, figures and results."""
    from rich.text import Text

    from undatum.errors import Fault
    from undatum.finding import Severity
    from undatum.project import project_file
    from undatum.report import files, printing, terminal
    from undatum.variants.explain import band_of

    console = screen()
    results: Any
    stack = project_file.has_stack(project)
    if only:
        if only not in STOPS:
            raise InputError([Fault("--only", f"{only!r} is not a stage to stop at",
                                    f"choose from: {', '.join(STOPS)}")])
        if stack or pdf:
            raise InputError([Fault("--only", "goes with a building, and without --pdf",
                                    "leave it out")])
        _show_only(console, project, only, as_json)
        return
    if family and stack:
        raise InputError([Fault("--family", "goes with a building", "leave it out")])
    if detail not in files.DETAILS or (stack and detail != "usual"):
        raise InputError([Fault("--detail", "goes with a building" if stack else
                                f"there is no {detail!r}",
                                f"choose from: {', '.join(files.DETAILS)}")])
    browser = printing.browser() if pdf else None
    if stack:
        results = undatum.run_stack(undatum.read_stack(project))
        written = files.write_stack(results, out)
    else:
        job = undatum.read(project)
        band = band_of(job, family) if family else None
        if _watched(console, quiet or as_json):
            size = f", {memory_said(job.building)} of memory".replace(",  of memory", "")
            with console.status(f"calculating{size} ...") as status:
                results = undatum.run(
                    job, watch=lambda s: status.update(f"calculating{size}: {s} ..."))
        else:
            results = undatum.run(job)
        written = _written(console, results, out, quiet or as_json, browser,
                           cast(Any, detail), band)
    if as_json:
        summary = files.to_json(results, files.metadata())
        say(lambda: typer.echo(json.dumps(summary, indent=1, ensure_ascii=False)))
    elif not quiet:
        say(lambda: terminal.story(console, results), console.print, *(
            partial(console.print, Text(f"  {from_here(path)}"), soft_wrap=True)
            for path in written))
    raise typer.Exit(EXIT_EXCEEDED if results.severity is Severity.EXCEEDED else EXIT_OK)


def _written(
    console: Console, results: Any, out: str, quiet: bool, browser: str | None, detail: Any,
    band: Any,
) -> list[Path]:
    from undatum.report import files

    if not _watched(console, quiet):
        return files.write_all(results, out, browser=browser, detail=detail, band=band)
    with console.status("writing ...") as status:
        return files.write_all(results, out, lambda s: status.update(f"writing {s} ..."),
                               browser=browser, detail=detail, band=band)


def _watched(console: Console, quiet: bool) -> bool:
    """Whether somebody watches, so that progress is worth showing."""
    return console.is_terminal and not quiet


def _show_only(console: Console, project: Path, only: str, as_json: bool) -> None:
    """The tables of a stage, nothing after it worked out."""
    from undatum.report import files, terminal
    from undatum.units import UnitSystem

    job = undatum.read(project)
    done = undatum.calculate(job)
    units = UnitSystem(job.units)
    tables = [done.weights.level_table(), done.weights.table()] if only == "weight" else \
        [done.modes.table()] if only == "modes" else list(done.base_shears.tables())
    if as_json:
        say(lambda: typer.echo(files.tables_json(tables, units)))
        return
    say(*(partial(terminal.table, console, table, units) for table in tables))


@app.command(name="base-shear")
def base_shear(
    project: ProjectFile,
    page: Annotated[Path | None, typer.Option(help="Where to write a page to print (HTML)")] = None,
) -> None:
    """Period used and why, ordinate, coefficient, weight, base shear and forces by level."""
    from undatum.project import project_file
    from undatum.report import files, record_short, terminal

    found = undatum.run_stack(undatum.read_stack(project)).base_shears \
        if project_file.has_stack(project) else undatum.calculate(undatum.read(project)).base_shears
    if page is not None:
        text = record_short.base_shear_sheet(found, files.metadata())
        with writing(page):
            page.write_text(text, encoding="utf-8", newline="\n")
    console = screen()
    say(*(partial(terminal.table, console, table, found.units) for table in found.tables()),
        *([lambda: console.print(f"page: {page}", soft_wrap=True)] if page else []))


@app.command()
def spectrum(
    project: ProjectFile,
    plot: Annotated[
        Path | None, typer.Option(help="Where to draw the plot (PNG)")
    ] = None,
    table: Annotated[
        Path | None, typer.Option(help="Where to write the table (CSV or XLSX)")
    ] = None,
) -> None:
    """Site parameters, design spectrum and its plot; the file needs no building for it."""
    from undatum.errors import Fault
    from undatum.job import site_only
    from undatum.project import project_file
    from undatum.report import figures, terminal

    results: Any
    draw: Any
    if project_file.has_stack(project):
        results = undatum.run_stack(undatum.read_stack(project))
        draw = figures.site_spectrum
    elif project_file.has_building(project):
        results = calculated(undatum.read(project))
        draw = figures.spectrum
    else:
        results = site_only.run_site(project_file.read_site(project))
        draw = figures.site_spectrum
    place = plot or beside(project, "spectrum")
    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    with writing(place):
        figures.save(draw(results), place)
    if table:
        save_table(results.table("spectrum"), table, results.units)
    console = screen()
    say(lambda: terminal.table(console, results.table("site"), results.units), console.print,
         lambda: terminal.table(console, results.table("spectrum"), results.units),
         *([console.print, lambda: terminal.findings(console, results.findings)]
           if draw is figures.site_spectrum else []),
         lambda: console.print(f"plot: {place}", soft_wrap=True))


@app.command(name="side-by-side")
def side_by_side(
    project: ProjectFile,
    out: Annotated[Path, typer.Option(help="Folder for table and figure")] = Path("side-by-side"),
) -> None:
    """The same building by its own standard and by each of its alternatives."""
    from undatum.project import project_file
    from undatum.report import figures, files, terminal

    found = undatum.side_by_side(
        undatum.read_stack(project) if project_file.has_stack(project) else undatum.read(project))
    units = found.results[0].units
    terminal.table(screen(), found.table(), units)
    with writing(out):
        out.mkdir(parents=True, exist_ok=True)
        text = files.csv_text(found.table(), units)
        (out / "side_by_side.csv").write_text(text, encoding="utf-8", newline="")
        figures.save(figures.side_by_side(found), out / "side_by_side.png")
    screen().print(f"\n  {from_here(out.resolve())}", soft_wrap=True)


@app.command()
def compare(
    first: Annotated[Path, typer.Argument(help="Folder of a run, or a project file to be run")],
    second: Annotated[Path, typer.Argument(help="The other one")],
    least: Annotated[str, typer.Option(
        help="Largest change of a number that is not reported")] = "1 %",
    rows: Annotated[int, typer.Option(help="How many rows of each table to show", min=1)] = 25,
    table: Annotated[Path | None, typer.Option(
        help="Where to write all changes of results (CSV or XLSX)")] = None,
) -> None:
    """What changed between two runs: what was asked, judged and found, the largest change first."""
    from undatum.errors import Fault
    from undatum.report import terminal
    from undatum.units import to_si

    try:
        share = to_si(least, "ratio") if "%" in least else float(least)
        if not 0 <= share < 1:
            raise ValueError(f"{least!r} is no share from 0 to 1; write 0.05 for 5 %")
    except ValueError as error:
        raise InputError([Fault("--least", str(error), 'write such as "1 %"')]) from None
    one, other = _outcome(first), _outcome(second)
    first_of_all, judged, asked, found = undatum.compared(one, other, share)
    if table is not None:
        save_table(found, table, one.units)
    console = screen()

    def show(whole: Any) -> None:
        terminal.table(console, whole.where([k < rows for k in range(len(whole))]), one.units)
        if len(whole) > rows:
            console.print(f"{len(whole) - rows} more rows; --rows shows them")

    say(lambda: terminal.table(console, first_of_all, one.units), lambda: show(judged),
        lambda: show(asked), lambda: show(found),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []))


def _outcome(place: Path) -> Outcome:
    """The results of a folder, or of a project file that is run, whatever its depth."""
    from undatum.project import project_file
    from undatum.results.outcome import read_outcome

    if place.suffix != ".toml":
        return read_outcome(place)
    return undatum.run_stack(undatum.read_stack(place)) if project_file.has_stack(place) \
        else calculated(undatum.read(place))


@app.command()
def systems(
    standard: Annotated[str, typer.Argument(help="Key of the standard")] = "asce7-16",
    find: Annotated[str, typer.Option(help="Show rows that hold all these words")] = "",
    category: Annotated[
        str, typer.Option(help="Show rows this design category permits (B to F)")
    ] = "",
) -> None:
    """The lateral systems of a standard, with factors and height limits."""
    from undatum import standards
    from undatum.errors import Fault
    from undatum.report import terminal
    from undatum.standards.everyday import holds
    from undatum.units import SI

    whole = standards.get(standard, Path()).systems_table()
    rows = list(whole.rows(SI))
    heads = whole.heads(SI)
    keep = [all(holds(" ".join(map(str, row)).lower(), word) for word in find.lower().split())
            for row in rows]
    if category:
        known = [head for head in heads if head in tuple("BCDEF")]
        if category.upper() not in known:
            raise InputError([Fault(
                "--category", f"{category!r} is not a design category of the table",
                f"choose from: {', '.join(known)}" if known else
                "this standard has no design categories; leave the option out")])
        at = heads.index(category.upper())
        keep = [k and row[at] != "NP" for k, row in zip(keep, rows, strict=True)]
    if not any(keep):
        raise InputError([Fault("--find", f"no row holds {find!r}",
                                "try fewer words, such as wall, frame, braced or dual")])
    terminal.table(screen(), whole.where(keep), SI)


@app.command()
def schema(
    results: Annotated[
        bool, typer.Option("--results", help="The schema of results.json instead")
    ] = False,
    standard: Annotated[str, typer.Option(help="Key of the standard")] = "asce7-16",
    criteria: Annotated[
        bool, typer.Option("--criteria", help="The schema of a file of criteria of your own")
    ] = False,
) -> None:
    """JSON Schema of the project file, of the results, or of criteria of your own."""
    if criteria:
        from undatum.project.schema import criteria_schema

        found = criteria_schema()
    elif results:
        from undatum.report.files import results_schema

        found = results_schema()
    else:
        from undatum.project.schema import json_schema

        found = json_schema(standard)
    typer.echo(json.dumps(found, indent=2, ensure_ascii=False))
