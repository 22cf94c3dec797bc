"""What is read: members, anything under anything, modes; drawn and turned."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Annotated, Any, cast

import typer

import undatum
from undatum.commands.shared import (
    ProjectFile,
    app,
    beside,
    busy,
    calculated,
    counted,
    from_here,
    head_of,
    save_table,
    say,
    screen,
    writing,
)
from undatum.errors import InputError

METHODS = ("spectrum", "static")
Under = Annotated[str, typer.Option(
    help="What acts: sets, modes, cases; of load combinations envelope, extremes (side by side), "
    "each, or together (what is designed for at once); or names and patterns, such as "
    '"static X*" or "mode 1", several with a semicolon between')]
By = Annotated[str, typer.Option(
    help="Forces of the earthquake in combinations: spectrum or static")]
TableFile = Annotated[Path | None, typer.Option(help="Where to write the table (CSV or XLSX)")]


@app.command()
def members(
    project: ProjectFile,
    which: Annotated[str, typer.Argument(
        help='A name or a selection, such as "columns on B at L1..L3"')] = "",
    table: TableFile = None,
) -> None:
    """List the members that the rules made, and the walls, without any analysis."""
    from rich.text import Text

    from undatum.errors import Fault
    from undatum.layout.members import chosen_members
    from undatum.report import terminal
    from undatum.stages.members import members_table
    from undatum.stages.walls import walls_table
    from undatum.units import UnitSystem

    job = undatum.read(project)
    frame = job.building.frame
    if frame is None:
        raise InputError([Fault("building.members", "there are none",
                                "its lines have shears by story: undatum run")],
                         source=project.name)
    shown, units = members_table(frame), UnitSystem(job.units)
    of_walls = walls_table(job.building, units) if frame.panels is not None and not which else None
    if of_walls is not None and not frame.members:
        shown, of_walls = of_walls, None
    if which:
        try:
            chosen = {m.name for m in chosen_members(job.building, job.building.frame, which)}
        except ValueError as error:
            raise InputError([Fault("WHICH", str(error))]) from None
        shown = shown.where([m.name in chosen for m in frame.members])
    if table:
        save_table(shown, table, units)
    console = screen()
    say(lambda: console.print(Text(counted(frame))),
        lambda: terminal.table(console, head_of(shown, table), units),
        *([lambda: terminal.table(console, of_walls, units)] if of_walls is not None else []),
        *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []))


@app.command()
def read(
    project: ProjectFile,
    what: Annotated[str, typer.Argument(
        help="forces, stress or motion (of nodes) of members, reactions, lines, stories, drift, "
        "walls, cores, panels and feet (of walls), floors (that deform), ground")],
    which: Annotated[str, typer.Argument(
        help='Members by name or selection, such as "columns on B at L1..L3"; a foot, line, story, '
        "point, wall, core or level; all if left out")] = "",
    under: Under = "sets",
    at: Annotated[str, typer.Option(
        help="Fractions of the length at which members are read")] = "0, 1",
    signed: Annotated[bool, typer.Option(
        "--signed", help="Peaks of a spectrum with the signs of its largest mode")] = False,
    by: By = "spectrum",
    table: TableFile = None,
    plot: Annotated[Path | None, typer.Option(
        help="Where to draw one member or line (PNG)")] = None,
) -> None:
    """Read anything under anything: section forces, reactions, drift ... by set, mode, load case
    or combination."""
    from undatum.errors import Fault
    from undatum.report import one, terminal, walls

    _check_by(by)
    try:
        places = [float(x) for x in at.split(",")]
    except ValueError:
        raise InputError([Fault("--at", f"{at!r} is no list of fractions",
                                'write such as "0, 0.5, 1"')]) from None
    job = undatum.read(project)
    if what in ("forces", "stress", "motion", "reactions") and job.building.frame is None:
        raise InputError([Fault("building.members", "there are none",
                                f"its lines are read by: undatum read {project.name} lines")],
                         source=project.name)
    results = calculated(job, to_read=True)
    method = cast(Any, by)
    shown = results.read(what, which, under, at=places, by=method, signed=signed).table()
    if plot is not None:
        pictures = {"forces": one.member, "lines": one.line, "walls": walls.wall_forces,
                    "cores": walls.wall_forces, "panels": walls.panel_field,
                    "feet": walls.foot_forces}
        if what not in pictures:
            raise InputError([Fault("--plot", f"{what} have no picture over a length",
                                    "draw forces of one member, or one of the lines, walls or "
                                    "cores, or panels or the foot (feet) of a wall")])
        _draw(plot, pictures[what](results, which, under, method, signed=signed))
    if table:
        save_table(shown, table, results.units)
    console = screen()
    say(lambda: terminal.table(console, head_of(shown, table), results.units),
        *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []),
        *([lambda: console.print(f"plot: {plot}", soft_wrap=True)] if plot else []))


def _draw(place: Path, drawn: Any) -> None:
    """Save a figure. Raises InputError where the file is no PNG."""
    from undatum.errors import Fault
    from undatum.report import figures

    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    with writing(place):
        figures.save(drawn, place)


def _check_by(by: str) -> None:
    from undatum.errors import Fault

    if by not in METHODS:
        raise InputError([Fault("--by", f"there is no {by!r}",
                                f"choose from: {', '.join(METHODS)}")])


@app.command()
def modes(
    project: ProjectFile,
    between: Annotated[tuple[str, str] | None, typer.Option(
        metavar="SHORTEST LONGEST", help='Only those with periods between two, such as '
        '"0.1 s" "0.5 s"')] = None,
    plot: Annotated[Path | None, typer.Option(help="Where to draw the first shapes (PNG)")] = None,
) -> None:
    """Periods of the modes, what moves in them and the mass they carry; nothing after them."""
    from undatum.errors import Fault
    from undatum.report import figures, terminal
    from undatum.units import UnitSystem

    if plot is not None and plot.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{plot.name!r} is no PNG file",
                                "give a name that ends in .png")])
    job = undatum.read(project)
    done = undatum.calculate(job)
    if between is None:
        found = done.modes
    else:
        try:
            found = done.modes_between(*(f"{text} s" if text[-1:].isdigit() else text
                                         for text in between))
        except ValueError as error:
            raise InputError([Fault("--between", str(error))]) from None
    console = screen()
    shown = found.table() if found.count else None
    if plot is not None:
        results = calculated(job, to_read=True)
        with writing(plot):
            figures.save(figures.modes(results), plot)
    say(lambda: terminal.table(console, shown, UnitSystem(job.units)) if shown is not None else
         console.print("no mode has a period between these"),
         *([lambda: console.print(f"plot: {plot}", soft_wrap=True)] if plot else []))


@app.command()
def elevation(
    project: ProjectFile,
    axis: Annotated[str, typer.Argument(help="Name of an axis")],
    action: Annotated[str, typer.Option(
        help="A section force to draw: moment, shear (both in the plane), axial, torsion, or "
        "a component such as moment_y")] = "",
    under: Annotated[str, typer.Option(
        help="What it is under: a set, a mode, a load case, a combination or a kind of them, whose "
        "largest and smallest values are drawn; the static set along the axis if left out. Without "
        "--action the displacement is drawn")] = "",
    by: By = "spectrum",
    plot: Annotated[Path | None, typer.Option(help="Where to draw it (PNG)")] = None,
) -> None:
    """Draw the members on an axis, their displacement, or the diagram of a section force."""
    from undatum.errors import Fault
    from undatum.report import diagrams, figures, frames, moved

    place = plot or beside(project, axis)
    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    _check_by(by)
    job = undatum.read(project)
    if job.building.frame is None or job.building.axes is None:
        raise InputError([Fault("building.members", "there are none to draw", "undatum run draws "
                                "the plan of its lines")], source=project.name)
    results = calculated(job, to_read=True)
    along = "Y" if axis in job.building.axes.x else "X"
    first = sorted(results.sets_for_strength, key=lambda s: s.direction != along)[0]
    drawn = diagrams.diagram(results, axis, action, under or first.name, cast(Any, by)) \
        if action else moved.deformed(results, axis, under, cast(Any, by)) if under \
        else frames.elevation(results, axis)
    with writing(place):
        figures.save(drawn, place)
    screen().print(f"plot: {place}", soft_wrap=True)


@app.command()
def plan(
    project: ProjectFile,
    level: Annotated[str, typer.Argument(help="Name of a level that moves")],
    under: Annotated[str, typer.Option(
        help="What moves it: a set, a mode or a load case; the first static set if left out")] = "",
    by: By = "spectrum",
    plot: Annotated[Path | None, typer.Option(help="Where to draw it (PNG)")] = None,
) -> None:
    """Draw a floor in plan where it moves to, with its walls and beams."""
    from undatum.errors import Fault
    from undatum.report import moved

    place = plot or beside(project, level)
    _check_by(by)
    job = undatum.read(project)
    if job.building.frame is None:
        raise InputError([Fault("building.members", "there are neither members nor walls to draw",
                                "undatum run draws the plan of its lines")], source=project.name)
    results = calculated(job, to_read=True)
    _draw(place, moved.floor_moved(
        results, level, under or results.sets_for_strength[0].name, cast(Any, by)))
    screen().print(f"plot: {place}", soft_wrap=True)


@app.command()
def view(
    project: ProjectFile,
    out: Annotated[Path, typer.Option(help="Folder for building.html and building.vtu")
                   ] = Path("view"),
    film: Annotated[str, typer.Option(
        help="What to film (GIF): a mode by number, a static set or a load case by name")] = "",
) -> None:
    """A page to turn the building, pick members and play modes, static sets and load cases; the
    same as a VTK grid."""
    from undatum.report import view as views

    results = calculated(undatum.read(project))
    if film:
        views.filmed(results, film)
    with busy("drawing"):
        page = views.page(results)
    with writing(out):
        out.mkdir(parents=True, exist_ok=True)
        (out / "building.html").write_text(page, encoding="utf-8", newline="\n")
        views.write_grid(results, out / "building.vtu")
        written = [out / "building.html", out / "building.vtu"]
        if film:
            name = f"mode_{film}" if film.isdigit() else re.sub(r"[^\w-]+", "_", film)[:60]
            written.append(out / f"{name}.gif")
            views.write_film(results, film, written[-1])
    for place in written:
        screen().print(f"  {from_here(place.resolve())}", soft_wrap=True)
