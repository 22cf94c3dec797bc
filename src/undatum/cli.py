"""The command-line tool. Modules are loaded when a command needs them."""

from __future__ import annotations

import json
import signal
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, cast

import typer

import undatum
from undatum.errors import AnalysisError, InputError

if TYPE_CHECKING:
    from rich.console import Console

EXIT_OK, EXIT_EXCEEDED, EXIT_INPUT, EXIT_ANALYSIS, EXIT_UNFORESEEN = 0, 1, 2, 3, 4

app = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Seismic analysis of buildings, traceable to the clause.\n\n"
    "Exit codes: 0 every check holds, 1 a check is exceeded, 2 the input is wrong, "
    "3 the analysis could not be done, 4 an unforeseen error.",
)
ProjectFile = Annotated[Path, typer.Argument(metavar="PROJECT", help="Project file (TOML)")]


def main() -> None:
    """Run the tool; wrong input ends with advice and an exit code, never with a traceback."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):  # a screen that lacks a sign shows another for it
            stream.reconfigure(errors="replace")
    for name in ("SIGTERM", "SIGHUP"):
        if hasattr(signal, name):
            signal.signal(getattr(signal, name), _stop)
    try:
        _time_of_outputs()
        app()
        _flush()
    except InputError as error:
        _fail(error, EXIT_INPUT, "The input needs mending")
    except AnalysisError as error:
        _fail(error, EXIT_ANALYSIS, "The analysis could not be done")
    except BrokenPipeError:
        _silence()
        sys.exit(EXIT_OK)
    except Exception as error:
        _unforeseen(error)


def _time_of_outputs() -> None:
    """Refuse a SOURCE_DATE_EPOCH that is no time before libraries stumble over it."""
    import os
    from datetime import UTC, datetime

    epoch = os.environ.get("SOURCE_DATE_EPOCH", "")
    try:
        datetime.fromtimestamp(int(epoch or 0), UTC)
    except (ValueError, OverflowError, OSError):
        from undatum.errors import Fault

        raise InputError([Fault(
            "SOURCE_DATE_EPOCH", f"{epoch[:40]!r} is no time", "give whole seconds since the start "
            "of 1970, or take it out of the environment")]) from None


def _stop(number: int, _: object) -> None:
    """A wish to end ends like any error: what is half made is taken away."""
    sys.exit(128 + number)


def _flush() -> None:
    try:
        sys.stdout.flush()
    except BrokenPipeError:
        _silence()


def _silence() -> None:
    """Nobody reads any more: what is still to be said goes nowhere."""
    import os

    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _unforeseen(error: Exception) -> None:
    """One line of advice; the trace goes to a file that can be sent on."""
    import tempfile
    import traceback

    with tempfile.NamedTemporaryFile(
            "w", prefix="undatum-", suffix=".txt", delete=False, encoding="utf-8") as out:
        out.write("".join(traceback.format_exception(error)))
    print(f"An unforeseen error: {type(error).__name__}. It is no fault of yours; please send "
          f"{out.name} to the makers, with the project if you may.", file=sys.stderr)
    sys.exit(EXIT_UNFORESEEN)


def _console(*, stderr: bool = False) -> Console:
    from rich.console import Console

    return Console(stderr=stderr, highlight=False, markup=False)


def _say(*show: Callable[[], None]) -> None:
    """Show what was found, after everything is written; a reader who left is no error."""
    try:
        for one in show:
            one()
        sys.stdout.flush()
    except OSError:  # a closed pipe, a full device
        _silence()


def _fail(error: Exception, code: int, head: str) -> None:
    from rich.text import Text

    console = _console(stderr=True)
    console.print(Text(f"{head}.", style="bold red"))
    console.print(Text(str(error)), soft_wrap=True)
    sys.exit(code)


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"undatum {undatum.__version__}")
        raise typer.Exit


@app.callback()
def _options(
    version: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Show the version")
    ] = False,
) -> None:
    pass


@app.command()
def new(
    file: Annotated[Path, typer.Argument(help="File to write")] = Path("project.toml"),
    like: Annotated[
        str, typer.Option(help="What to start from: starter, archive (kip, ft), clinic "
                          "(kN, m); terrace, tower, archive_frames, clinic_frames have members; "
                          "arcade is a plane frame, loft is weights")
    ] = "starter",
) -> None:
    """Write a commented project that runs as it is."""
    from undatum.errors import Fault, nearest
    from undatum.project.reader import SHIPPED, SHORT, shipped_text

    known = (*SHIPPED, *SHORT)
    if like not in known:
        near = nearest(like, list(known))
        raise InputError([Fault("--like", f"{like!r} is not a project that is shipped",
                                (f"did you mean {near!r}? " if near else "")
                                + "choose from: " + ", ".join(known))])
    text = shipped_text(like, file.name)
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        with file.open("x", encoding="utf-8", newline="\n") as out:
            out.write(text)
    except FileExistsError:
        raise InputError([Fault(str(file), "is already there; nothing was written",
                                "choose another name")]) from None
    except OSError as error:
        raise InputError([Fault(str(file), f"cannot be written ({error.strerror})")]) from None
    typer.echo(f"Wrote {file}. Next: undatum run {file} --out results")


@app.command()
def check(project: ProjectFile) -> None:
    """Validate a project and list what would be run."""
    from rich.table import Table as Grid
    from rich.text import Text

    from undatum import standards
    from undatum.project import reader, site_only
    from undatum.report import terminal

    console = _console()
    if reader.has_stack(project):
        short = undatum.run_stack(undatum.read_stack(project))
        console.print(Text(f"{project.name}: valid", style="bold green"))
        console.print(Text(
            f"  heights and weights of {len(short.project.stack.floors())} levels; would run: "
            f"period, static and diaphragm forces by {short.standard_title}"))
        return
    if not reader.has_building(project):
        one = site_only.run_site(reader.read_site(project))
        console.print(Text(f"{project.name}: valid", style="bold green"))
        console.print(Text("  a site without a building; would run: site parameters and design "
                           f"spectrum by {one.standard_title}"))
        return
    job = undatum.read(project)
    done = undatum.calculate(job).up_to("working", "questions")  # refuses what a run would
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
         f"{len(b.lines)} lateral lines, {len(b.outlines)} outlines"),
        *([("members", _counted(b.frame))] if b.frame is not None else []),
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
    ]
    for name, text in rows:
        grid.add_row(name, Text(text))
    console.print(grid)
    if done["questions"]:
        terminal.findings(console, done["questions"])


def _counted(frame: Any) -> str:
    """How many members of each kind and section the rules made, and where they stand."""
    from collections import Counter

    kinds = Counter(f"{m.kind}s of {m.section}" for m in frame.members)
    pinned = int((frame.springs == 0).all(axis=1).sum())
    return ", ".join(f"{n} {name}" for name, n in kinds.items()) \
        + f"; {len(frame.points)} nodes, {len(frame.supports)} feet" \
        + (f", {pinned} of them pinned" if pinned else "")


@app.command()
def members(
    project: ProjectFile,
    which: Annotated[str, typer.Argument(
        help='A name or a selection, such as "columns on B at L1..L3"')] = "",
    at: Annotated[str, typer.Option(
        help="Fractions of the length at which forces are given")] = "0, 1",
    of_set: Annotated[str, typer.Option("--set", help="One set in place of all")] = "",
    loads: Annotated[bool, typer.Option(
        "--loads", help="Under load cases: each kind of load, and cases of your own")] = False,
    combined: Annotated[str, typer.Option(
        help="Under load combinations: envelope, each, or together (axial force with both "
        "moments)")] = "",
    by: Annotated[str, typer.Option(
        help="Forces of the earthquake in combinations: spectrum or static")] = "spectrum",
    table: Annotated[Path | None, typer.Option(help="Where to write the table (CSV)")] = None,
) -> None:
    """Members that the rules made, or the section forces of those that are chosen."""
    from rich.text import Text

    from undatum.errors import Fault
    from undatum.project.members import members_table
    from undatum.report import files, terminal
    from undatum.units import UnitSystem

    job = undatum.read(project)
    frame = job.building.frame
    if frame is None:
        raise InputError([Fault("building.members", "there are none",
                                "its lines have shears by story: undatum run")],
                         source=project.name)
    try:
        places = [float(x) for x in at.split(",")]
    except ValueError:
        raise InputError([Fault("--at", f"{at!r} is no list of fractions",
                                'write such as "0, 0.5, 1"')]) from None
    if loads and (of_set or not which):
        raise InputError([Fault("--loads", "goes with members and without --set",
                                'write such as "columns on B" --loads')])
    if combined and (loads or of_set or not which):
        raise InputError([Fault("--combined", "goes with members, without --loads and --set",
                                'write such as "columns on B" --combined envelope')])
    for option, value, known in (("--combined", combined, ("", "envelope", "each", "together")),
                                 ("--by", by, ("spectrum", "static"))):
        if value not in known:
            raise InputError([Fault(option, f"there is no {value!r}",
                                    f"choose from: {', '.join(k for k in known if k)}")])
    results = undatum.run(job) if which else None
    shown = members_table(frame) if results is None else \
        results.case_forces(which, places) if loads else \
        results.combined_forces(
            which, places, method=cast(Any, by), show=cast(Any, combined)) if combined else \
        results.section_forces(which, places, of_set)
    units = UnitSystem(job.units)
    if table:
        with _writing(table):
            table.write_text(files.csv_text(shown, units), encoding="utf-8", newline="")
    console = _console()
    _say(lambda: console.print(Text(_counted(frame))),
         lambda: terminal.table(console, shown, units),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []))


@app.command()
def modes(
    project: ProjectFile,
    between: Annotated[tuple[str, str] | None, typer.Option(
        metavar="SHORTEST LONGEST", help='Only those with periods between two, such as '
        '"0.1 s" "0.5 s"')] = None,
    plot: Annotated[Path | None, typer.Option(help="Where to draw the first shapes (PNG)")] = None,
) -> None:
    """Periods of the modes, what moves in them and the mass they carry; nothing after them."""
    from undatum.analysis.modes import modes_between
    from undatum.errors import Fault
    from undatum.report import figures, terminal
    from undatum.units import UnitSystem, to_si

    if plot is not None and plot.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{plot.name!r} is no PNG file",
                                "give a name that ends in .png")])
    job = undatum.read(project)
    done = undatum.calculate(job)
    if between is None:
        found = done["modes"]
    else:
        try:
            low, high = (to_si(f"{text} s" if text[-1:].isdigit() else text, "time")
                         for text in between)
        except ValueError as error:
            raise InputError([Fault("--between", str(error))]) from None
        if not 0 < low < high:
            raise InputError([Fault("--between", f"{between[0]} to {between[1]} is no range",
                                    'give the shorter period first, such as "0.1 s" "0.5 s"')])
        found = modes_between(done["solver"], low, high)
    console = _console()
    shown = found.table() if found.count else None
    if plot is not None:
        results = undatum.run(job)
        with _writing(plot):
            figures.save(figures.modes(results), plot)
    _say(lambda: terminal.table(console, shown, UnitSystem(job.units)) if shown is not None else
         console.print("no mode has a period between these"),
         *([lambda: console.print(f"plot: {plot}", soft_wrap=True)] if plot else []))


@app.command()
def elevation(
    project: ProjectFile,
    axis: Annotated[str, typer.Argument(help="Name of an axis")],
    action: Annotated[str, typer.Option(
        help="A section force to draw: moment, shear (both in the plane), axial, torsion, or "
        "a component such as moment_y")] = "",
    of_set: Annotated[str, typer.Option(
        "--set", help="The set it is of; the static one along the axis if left out")] = "",
    plot: Annotated[Path | None, typer.Option(help="Where to draw it (PNG)")] = None,
) -> None:
    """Draw the members on an axis, or the diagram of a section force on them."""
    from undatum.errors import Fault
    from undatum.report import figures, frames

    place = plot or project.with_name(f"{project.stem}-{axis}.png")
    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    job = undatum.read(project)
    if job.building.frame is None or job.building.axes is None:
        raise InputError([Fault("building.members", "there are none to draw", "undatum run draws "
                                "the plan of its lines")], source=project.name)
    results = undatum.run(job)
    along = "Y" if axis in job.building.axes.x else "X"
    of_kind = sorted(results.sets_for_strength, key=lambda s: s.direction != along)
    one = of_set or of_kind[0].name
    drawn = frames.diagram(results, axis, action, one) if action else \
        frames.elevation(results, axis)
    with _writing(place):
        figures.save(drawn, place)
    _console().print(f"plot: {place}", soft_wrap=True)


@app.command()
def view(
    project: ProjectFile,
    out: Annotated[Path, typer.Option(help="Folder for building.html and building.vtu")
                   ] = Path("view"),
    film: Annotated[int, typer.Option(help="Number of a mode to film (GIF)")] = 0,
) -> None:
    """A page to turn the building, pick members and play modes; the same as a VTK grid."""
    from undatum.report import view as views

    results = undatum.run(undatum.read(project))
    if film:
        views.check_mode(results, film)
    page = views.page(results)
    with _writing(out):
        out.mkdir(parents=True, exist_ok=True)
        (out / "building.html").write_text(page, encoding="utf-8", newline="\n")
        views.write_grid(results, out / "building.vtu")
        written = [out / "building.html", out / "building.vtu"]
        if film:
            written.append(out / f"mode_{film}.gif")
            views.write_film(results, film, written[-1])
    for place in written:
        _console().print(f"  {_near(place.resolve())}", soft_wrap=True)


@app.command()
def spectrum(
    project: ProjectFile,
    plot: Annotated[
        Path | None, typer.Option(help="Where to draw the plot (PNG)")
    ] = None,
    table: Annotated[
        Path | None, typer.Option(help="Where to write the table (CSV)")
    ] = None,
) -> None:
    """Site parameters, design spectrum and its plot; the file needs no building for it."""
    from undatum.errors import Fault
    from undatum.project import reader, site_only
    from undatum.report import figures, files, terminal

    results: Any
    draw: Any
    if reader.has_stack(project):
        results = undatum.run_stack(undatum.read_stack(project))
        draw = figures.site_spectrum
    elif reader.has_building(project):
        results = undatum.run(undatum.read(project))
        draw = figures.spectrum
    else:
        results = site_only.run_site(reader.read_site(project))
        draw = figures.site_spectrum
    place = plot or project.with_name(f"{project.stem}-spectrum.png")
    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    with _writing(place):
        figures.save(draw(results), place)
    if table:
        with _writing(table):
            table.write_text(files.csv_text(results.spectrum_table(), results.units),
                             encoding="utf-8", newline="")
    console = _console()
    _say(lambda: terminal.table(console, results.site_table(), results.units), console.print,
         lambda: terminal.table(console, results.spectrum_table(), results.units),
         *([console.print, lambda: terminal.findings(console, results.findings)]
           if draw is figures.site_spectrum else []),
         lambda: console.print(f"plot: {place}", soft_wrap=True))


class _writing:
    """Turn a failed write into advice."""

    def __init__(self, place: Path) -> None:
        self.place = place

    def __enter__(self) -> None: ...

    def __exit__(self, kind: Any, error: BaseException | None, trace: Any) -> None:
        from undatum.errors import Fault

        if isinstance(error, OSError | ValueError):
            raise InputError([Fault(str(self.place),
                                    "cannot be written "
                                    f"({getattr(error, 'strerror', None) or error})")]) from None


@app.command()
def run(
    project: ProjectFile,
    out: Annotated[str, typer.Option(help="Folder for the results")] = "results",
    quiet: Annotated[bool, typer.Option("--quiet", help="Print nothing but errors")] = False,
) -> None:
    """Run a project and write record, workbook, tables, figures and results."""
    from rich.text import Text

    from undatum.finding import Severity
    from undatum.project import reader
    from undatum.report import files, terminal

    console = _console()
    results: Any
    if reader.has_stack(project):
        results = undatum.run_stack(undatum.read_stack(project))
        written = files.write_stack(results, out)
    else:
        results = undatum.run(undatum.read(project))
        written = _written(console, results, out, quiet)
    if not quiet:
        _say(lambda: terminal.story(console, results), console.print, *(
            partial(console.print, Text(f"  {_near(path)}"), soft_wrap=True)
            for path in written))
    raise typer.Exit(EXIT_EXCEEDED if results.severity is Severity.EXCEEDED else EXIT_OK)


def _written(console: Console, results: Any, out: str, quiet: bool) -> list[Path]:
    from undatum.report import files

    if quiet or not console.is_terminal:
        return files.write_all(results, out)
    with console.status("writing ...") as status:
        return files.write_all(results, out, lambda s: status.update(f"writing {s} ..."))


def _near(path: Path) -> Path:
    """A path from here where it lies below, otherwise whole."""
    here = Path.cwd()
    return path.relative_to(here) if path.is_relative_to(here) else path


@app.command(name="side-by-side")
def side_by_side(
    project: ProjectFile,
    out: Annotated[Path, typer.Option(help="Folder for table and figure")] = Path("side-by-side"),
) -> None:
    """The same building by its own standard and by each of its alternatives."""
    from undatum.report import figures, files, terminal

    job = undatum.read(project)
    found = undatum.side_by_side(job)
    units = found.results[0].units
    terminal.table(_console(), found.table(), units)
    with _writing(out):
        out.mkdir(parents=True, exist_ok=True)
        text = files.csv_text(found.table(), units)
        (out / "side_by_side.csv").write_text(text, encoding="utf-8", newline="")
        figures.save(figures.side_by_side(found), out / "side_by_side.png")
    _console().print(f"\n  {_near(out.resolve())}", soft_wrap=True)


@app.command()
def compare(
    first: Annotated[Path, typer.Argument(help="Folder of a run, or a project file to be run")],
    second: Annotated[Path, typer.Argument(help="The other one")],
    least: Annotated[str, typer.Option(
        help="Change of a number up to which both count as alike")] = "1 %",
    rows: Annotated[int, typer.Option(help="How many rows of each table to show", min=1)] = 25,
    table: Annotated[Path | None, typer.Option(
        help="Where to write all changes of results (CSV)")] = None,
) -> None:
    """What changed between two runs: what was asked, judged and found, the largest change first."""
    from undatum.errors import Fault
    from undatum.report import files, terminal
    from undatum.units import to_si

    try:
        share = to_si(least, "ratio") if "%" in least else float(least)
        if not 0 <= share < 1:
            raise ValueError(f"{least!r} is no share from 0 to 1")
    except ValueError as error:
        raise InputError([Fault("--least", str(error), 'write such as "1 %"')]) from None
    one, other = (undatum.run(undatum.read(place)) if place.suffix == ".toml"
                  else undatum.load(place) for place in (first, second))
    asked, judged, found = one.compared_with(other, share)
    if table is not None:
        with _writing(table):
            table.write_text(files.csv_text(found, one.units), encoding="utf-8", newline="")
    console = _console()

    def show(whole: Any) -> None:
        terminal.table(console, whole.where([k < rows for k in range(len(whole))]), one.units)
        if len(whole) > rows:
            console.print(f"{len(whole) - rows} more rows; --rows shows them")

    _say(lambda: show(asked), lambda: show(judged), lambda: show(found),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []))


@app.command(name="record-spectrum")
def record_spectrum(
    record: Annotated[Path, typer.Argument(help="Acceleration history (CSV, unit in its header)")],
    pair: Annotated[
        Path | None, typer.Option(help="The other horizontal component, for RotD50 and RotD100")
    ] = None,
    step: Annotated[str, typer.Option(help='Step of a record without times, "0.01 s"')] = "",
    damping: Annotated[list[str] | None, typer.Option(help='Damping, "5 %"; may be given again')
                       ] = None,
    project: Annotated[
        Path | None, typer.Option(help="Project whose design spectrum is drawn beside it")
    ] = None,
    out: Annotated[Path, typer.Option(help="Folder for table and figure")] = Path("shaking"),
) -> None:
    """Response spectra of a ground-motion record, beside a design spectrum."""
    from undatum.errors import Fault
    from undatum.ground import read_motion, response_spectra, rotated_spectra, usual_periods
    from undatum.report import figures, files
    from undatum.units import UnitSystem, to_si

    try:
        dampings = [to_si(text, "ratio") for text in damping or ["5 %"]]
        seconds = to_si(step, "time") if step else None
    except ValueError as error:
        raise InputError([Fault("--damping or --step", str(error))]) from None
    motion = read_motion(record, step=seconds)
    periods = usual_periods()
    spectra = response_spectra(motion, periods, dampings)
    rotated = {} if pair is None else rotated_spectra(
        motion, read_motion(pair, step=seconds), periods, dampings[0])
    results = None if project is None else undatum.run(undatum.read(project))
    units = UnitSystem("kN, m") if results is None else results.units
    with _writing(out):
        out.mkdir(parents=True, exist_ok=True)
        text = files.csv_text(spectra.table(rotated), units)
        (out / "record_spectra.csv").write_text(text, encoding="utf-8", newline="")
        figures.save(figures.record_spectra(
            spectra, rotated, results, units.shown["velocity"], units.shown["displacement"],
        ), out / "record_spectra.png")
    console = _console()
    console.print(str(motion), soft_wrap=True)
    console.print(str(spectra), soft_wrap=True)
    console.print(f"  {_near(out.resolve())}", soft_wrap=True)


@app.command(name="look-up")
def look_up(
    project: ProjectFile,
    keep: Annotated[
        bool, typer.Option("--keep/--show", help="Keep the values in the project file, or only "
                           "show them")
    ] = True,
    refresh: Annotated[
        bool, typer.Option("--refresh", help="Ask a service anew even where its answer is kept")
    ] = False,
) -> None:
    """Look up the hazard at the location of a project and keep it in the project file."""
    from undatum.errors import Fault
    from undatum.project import located, reader

    found = located.find_all(reader.data_of(project), project.parent, refresh=refresh)
    if not found:
        raise InputError([Fault("site.location", f"{project.name} gives no location",
                                "write one such as: location = { latitude = -40.3, longitude = "
                                '-20.1, file = "hazard.csv" }')])
    for path, kept in found.items():
        typer.echo(f"{'.'.join(path)}: {kept.location.said}\n  {kept.source}, "
                   f"edition {kept.edition}; {kept.how}")
        for key, value in kept.values.items():
            typer.echo(f"  {key} = {value}")
    if keep:
        located.keep_in_file(project, found)
        typer.echo(f"Kept in {project} as looked_up; a later run needs nothing else.")


@app.command(name="serve-hazard")
def serve_hazard(
    data: Annotated[Path, typer.Argument(help="Gridded hazard file or table of zones")],
    port: Annotated[int, typer.Option(min=1, max=65535, help="Port to answer on")] = 8765,
    host: Annotated[str, typer.Option(help="Address to answer on")] = "127.0.0.1",
) -> None:
    """Run a simulated hazard service from a file, for demonstrations and tests."""
    try:
        import uvicorn

        from undatum.service import make_service
    except ImportError as error:
        from undatum.errors import Fault

        raise InputError([Fault(
            "undatum serve-hazard", f"needs {error.name}, which is not installed",
            'install the extra with: pip install "undatum[service]"')]) from None

    service = make_service(data)
    typer.echo(f"Answering on http://{host}:{port}/v1/hazard (described on /docs). "
               "Stop with Ctrl-C.")
    uvicorn.run(service, host=host, port=port, log_level="warning")


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
    terminal.table(_console(), whole.where(keep), SI)


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


if __name__ == "__main__":
    main()
