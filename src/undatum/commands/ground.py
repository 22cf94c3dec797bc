"""Shaking: records, and the hazard of a place."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

import undatum
from undatum.commands.shared import ProjectFile, app, from_here, screen, writing
from undatum.errors import InputError


@app.command(name="motion-spectrum")
def motion_spectrum(
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
    units = UnitSystem("kN and m") if results is None else results.units
    with writing(out):
        out.mkdir(parents=True, exist_ok=True)
        text = files.csv_text(spectra.table(rotated), units)
        (out / "record_spectra.csv").write_text(text, encoding="utf-8", newline="")
        figures.save(figures.record_spectra(
            spectra, rotated, results, units.shown["velocity"], units.shown["displacement"],
        ), out / "record_spectra.png")
    console = screen()
    console.print(str(motion), soft_wrap=True)
    console.print(str(spectra), soft_wrap=True)
    console.print(f"  {from_here(out.resolve())}", soft_wrap=True)


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
    from undatum.project import located, project_file

    found = located.find_all(project_file.data_of(project), project.parent, refresh=refresh)
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
            'install the extra with: pip install "undatum-seismic[service]"')]) from None

    service = make_service(data)
    typer.echo(f"Answering on http://{host}:{port}/v1/hazard (described on /docs). "
               "Stop with Ctrl-C.")
    uvicorn.run(service, host=host, port=port, log_level="warning")
