"""Members and modes: chosen, drawn, turned."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any, cast

import typer

import undatum
from undatum.commands.shared import (
    ProjectFile,
    app,
    beside,
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
OneSet = Annotated[str, typer.Option("--set", help="One set in place of all")]
Signed = Annotated[bool, typer.Option(
    "--signed", help="Peaks of a spectrum with the signs of its largest mode")]
ByMode = Annotated[bool, typer.Option(
    "--by-mode", help="Mode by mode in place of the combined peaks")]
By = Annotated[str, typer.Option(
    help="Forces of the earthquake in combinations: spectrum or static")]
Loads = Annotated[bool, typer.Option(
    "--loads", help="Under load cases: each kind of load, and cases of your own")]
TableFile = Annotated[Path | None, typer.Option(help="Where to write the table (CSV or XLSX)")]


@app.command()
def members(
    project: ProjectFile,
    which: Annotated[str, typer.Argument(
        help='A name or a selection, such as "columns on B at L1..L3"')] = "",
    at: Annotated[str, typer.Option(
        help="Fractions of the length at which forces are given")] = "0, 1",
    of_set: OneSet = "",
    loads: Loads = False,
    combined: Annotated[str, typer.Option(
        help="Under load combinations: envelope, extremes (the same side by side), each, together "
        "(axial force with both moments) or stress (at the extreme fibers)")] = "",
    stress: Annotated[bool, typer.Option(
        "--stress", help="Stress at the extreme fibers in place of section forces")] = False,
    signed: Signed = False,
    by_mode: ByMode = False,
    by: By = "spectrum",
    table: TableFile = None,
    plot: Annotated[Path | None, typer.Option(
        help="Where to draw one member over its length (PNG)")] = None,
) -> None:
    """Members that the rules made, or the section forces of those that are chosen."""
    from rich.text import Text

    from undatum.errors import Fault
    from undatum.project.members import members_table
    from undatum.report import one, terminal
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
    if combined and (loads or of_set or stress or not which):
        raise InputError([Fault("--combined", "goes with members, without --loads, --set and "
                                "--stress", 'write such as "columns on B" --combined envelope')])
    if stress and (loads or not which):
        raise InputError([Fault("--stress", "goes with members and without --loads",
                                'write such as "columns on B" --stress')])
    if (signed or by_mode) and (loads or combined or stress or not which or (signed and by_mode)):
        raise InputError([Fault("--signed" if signed else "--by-mode", "goes with members and "
                                "section forces set by set", 'write such as "columns on B" '
                                + ("--signed" if signed else "--by-mode"))])
    for option, value, known in (("--combined", combined, ("", "envelope", "extremes", "each",
                                                   "together", "stress")),
                                 ("--by", by, METHODS)):
        if value not in known:
            raise InputError([Fault(option, f"there is no {value!r}",
                                    f"choose from: {', '.join(k for k in known if k)}")])
    results = undatum.run(job) if which else None
    shown = members_table(frame) if results is None else \
        results.case_forces(which, places) if loads else \
        results.combined_forces(
            which, places, method=cast(Any, by), show=cast(Any, combined)) if combined else \
        results.fiber_stresses(which, places, of_set) if stress else \
        results.modal_forces(which, places, of_set) if by_mode else \
        results.section_forces(which, places, of_set, signed=signed)
    units = UnitSystem(job.units)
    if plot is not None:
        drawn = one.member(results, which, of_set, _kind_drawn(results, combined),
                           cast(Any, by)) if results is not None else None
        _draw(plot, drawn)
    if table:
        save_table(shown, table, units)
    console = screen()
    say(lambda: console.print(Text(counted(frame))),
         lambda: terminal.table(console, head_of(shown, table), units),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []),
         *([lambda: console.print(f"plot: {plot}", soft_wrap=True)] if plot else []))


def _kind_drawn(results: Any, combined: str) -> str:
    """The kind of combination that is drawn: the first one, where any is asked for."""
    return results.combiner().kinds()[0] if combined else ""


def _draw(place: Path, drawn: Any) -> None:
    """Save a figure. Raises InputError where there is none, or the file is no PNG."""
    from undatum.errors import Fault
    from undatum.report import figures

    if drawn is None:
        raise InputError([Fault("--plot", "goes with one member or line", "name it")])
    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    with writing(place):
        figures.save(drawn, place)


@app.command()
def lines(
    project: ProjectFile,
    name: Annotated[str, typer.Argument(help="One line in place of all")] = "",
    combined: Annotated[bool, typer.Option(
        "--combined", help="Under load combinations, in place of set by set")] = False,
    of_set: OneSet = "",
    signed: Signed = False,
    by_mode: ByMode = False,
    by: By = "spectrum",
    table: TableFile = None,
    plot: Annotated[Path | None, typer.Option(
        help="Where to draw one line over its height (PNG)")] = None,
) -> None:
    """Shear and moment of lateral lines, story by story."""
    from undatum.report import one, terminal

    _check_by(by)
    _choose_one(of_set, combined=combined, signed=signed, by_mode=by_mode)
    results = undatum.run(undatum.read(project))
    shown = results.modal_line_forces(name, of_set) if by_mode else \
        results.line_forces(name, of_set, signed=signed)  # refuses a line that is not there
    if combined:
        shown = results.line_combinations(cast(Any, by))
        if name:
            shown = shown.where([row[0] == name for row in shown.rows(results.units)])
    if plot is not None:
        _draw(plot, one.line(results, name) if name else None)
    if table:
        save_table(shown, table, results.units)
    console = screen()
    say(lambda: terminal.table(console, head_of(shown, table), results.units),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []),
         *([lambda: console.print(f"plot: {plot}", soft_wrap=True)] if plot else []))


@app.command("reactions")
def feet(
    project: ProjectFile,
    name: Annotated[str, typer.Argument(
        help="One foot, by the axes of its column, or sum, in place of all")] = "",
    combined: Annotated[bool, typer.Option(
        "--combined", help="Extremes under load combinations, uplift marked")] = False,
    loads: Loads = False,
    of_set: OneSet = "",
    signed: Signed = False,
    by_mode: ByMode = False,
    by: By = "spectrum",
    table: TableFile = None,
) -> None:
    """Reactions at the feet of columns, one by one and summed."""
    from undatum.errors import Fault, nearest
    from undatum.report import terminal

    _check_by(by)
    _choose_one(of_set, combined=combined, loads=loads, signed=signed, by_mode=by_mode)
    results = undatum.run(undatum.read(project))
    results.members()  # names what is missing where there are none
    shown = results.footings(cast(Any, by)) if combined else \
        results.table("case_reactions") if loads else \
        results.modal_reactions(of_set) if by_mode else \
        results.reactions(of_set, signed=signed)
    if name:
        at = [c.name for c in shown.columns].index("foot")
        known = list(dict.fromkeys(str(row[at]) for row in shown.rows()))
        if name not in known:
            near = nearest(name, known)
            raise InputError([Fault("NAME", f"there is no foot {name!r}",
                                    (f"did you mean {near!r}? " if near else "")
                                    + f"known: {', '.join(known)}")])
        shown = shown.where([row[at] == name for row in shown.rows()])
    if table:
        save_table(shown, table, results.units)
    console = screen()
    say(lambda: terminal.table(console, head_of(shown, table), results.units),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []))


@app.command()
def nodes(
    project: ProjectFile,
    which: Annotated[str, typer.Argument(
        help='Members whose nodes are meant: a name or a selection, such as "columns on B"')],
    loads: Loads = False,
    of_set: OneSet = "",
    signed: Signed = False,
    by_mode: ByMode = False,
    table: TableFile = None,
) -> None:
    """Displacement and rotation of the nodes of members."""
    from undatum.report import terminal

    _choose_one(of_set, loads=loads, signed=signed, by_mode=by_mode)
    results = undatum.run(undatum.read(project))
    shown = results.case_node_motion(which) if loads else \
        results.modal_node_motion(which, of_set) if by_mode else \
        results.node_motion(which, of_set, signed=signed)
    if table:
        save_table(shown, table, results.units)
    console = screen()
    say(lambda: terminal.table(console, head_of(shown, table), results.units),
         *([lambda: console.print(f"table: {table}", soft_wrap=True)] if table else []))


def _choose_one(of_set: str, **asked: bool) -> None:
    """Refuse what does not go together: one way of reading, and a set only set by set."""
    from undatum.errors import Fault

    chosen = ["--" + name.replace("_", "-") for name, wanted in asked.items() if wanted]
    if of_set and chosen[:1] in (["--combined"], ["--loads"]):
        chosen.append("--set")
    if len(chosen) > 1:
        raise InputError([Fault(chosen[0], f"goes without {chosen[1]}", "choose one")])


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
        found = done["modes"]
    else:
        try:
            found = done.modes_between(*(f"{text} s" if text[-1:].isdigit() else text
                                         for text in between))
        except ValueError as error:
            raise InputError([Fault("--between", str(error))]) from None
    console = screen()
    shown = found.table() if found.count else None
    if plot is not None:
        results = undatum.run(job)
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
    of_set: Annotated[str, typer.Option(
        "--set", help="The set it is of; the static one along the axis if left out")] = "",
    combined: Annotated[str, typer.Option(
        help="A kind of load combination, whose largest and smallest values are drawn")] = "",
    by: By = "spectrum",
    plot: Annotated[Path | None, typer.Option(help="Where to draw it (PNG)")] = None,
) -> None:
    """Draw the members on an axis, or the diagram of a section force on them."""
    from undatum.errors import Fault
    from undatum.report import diagrams, figures, frames

    place = plot or beside(project, axis)
    if place.suffix.lower() != ".png":
        raise InputError([Fault("--plot", f"{place.name!r} is no PNG file",
                                "give a name that ends in .png")])
    if combined and (of_set or not action):
        raise InputError([Fault("--combined", "goes with --action and without --set",
                                'write such as --action moment --combined "strength"')])
    _check_by(by)
    job = undatum.read(project)
    if job.building.frame is None or job.building.axes is None:
        raise InputError([Fault("building.members", "there are none to draw", "undatum run draws "
                                "the plan of its lines")], source=project.name)
    results = undatum.run(job)
    along = "Y" if axis in job.building.axes.x else "X"
    of_kind = sorted(results.sets_for_strength, key=lambda s: s.direction != along)
    one = of_set or of_kind[0].name
    drawn = diagrams.extremes(results, axis, action, combined, cast(Any, by)) if combined else \
        diagrams.diagram(results, axis, action, one) if action else \
        frames.elevation(results, axis)
    with writing(place):
        figures.save(drawn, place)
    screen().print(f"plot: {place}", soft_wrap=True)


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
    with writing(out):
        out.mkdir(parents=True, exist_ok=True)
        (out / "building.html").write_text(page, encoding="utf-8", newline="\n")
        views.write_grid(results, out / "building.vtu")
        written = [out / "building.html", out / "building.vtu"]
        if film:
            written.append(out / f"mode_{film}.gif")
            views.write_film(results, film, written[-1])
    for place in written:
        screen().print(f"  {from_here(place.resolve())}", soft_wrap=True)
