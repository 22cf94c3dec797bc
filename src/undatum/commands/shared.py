"""What all commands share: the screen, what is written, exit codes."""

from __future__ import annotations

import errno
import re
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from undatum.errors import InputError

if TYPE_CHECKING:
    from rich.console import Console

    from undatum.layout.whole import Building
    from undatum.project.schema import Project
    from undatum.results.results import Results
    from undatum.table import Table
    from undatum.units import UnitSystem

EXIT_OK, EXIT_EXCEEDED, EXIT_INPUT, EXIT_ANALYSIS, EXIT_UNFORESEEN = 0, 1, 2, 3, 4

app = typer.Typer(
    no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Seismic analysis of buildings, traceable to the clause.\n\n"
    "Exit codes: 0 every check holds, 1 a check is exceeded, 2 the input is wrong, "
    "3 the analysis could not be done, 4 an unforeseen error.",
)
ProjectFile = Annotated[Path, typer.Argument(metavar="PROJECT", help="Project file (TOML)")]


def silence() -> None:
    """Nobody reads any more: what is still to be said goes nowhere."""
    import os

    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def gone(error: BaseException | None) -> bool:
    """Whether the reader of what is printed has left: a pipe closed at its other end."""
    if isinstance(error, SystemExit):  # what a library makes of it
        return isinstance(error.__context__, BrokenPipeError)
    return isinstance(error, OSError) and error.filename is None \
        and error.errno in (errno.EPIPE, errno.EINVAL)


def screen(*, stderr: bool = False) -> Console:
    from rich.console import Console

    return Console(stderr=stderr, highlight=False, markup=False)


def calculated(job: Project, *, to_read: bool = False) -> Results:
    """The results of a project; whoever watches sees what is being worked out. ``to_read``: only
    forces and motion are read from them, for which no second mesh is solved."""
    import undatum

    if to_read and job.analysis.halve_mesh:
        job = job.varied({"analysis.halve_mesh": False})
    with busy("calculating") as told:
        return undatum.run(job, watch=told)


@contextmanager
def busy(what: str) -> Iterator[Callable[[str], None]]:
    """Something that takes a while: on a terminal it is said beside the output, and how far it is
    by what is given."""
    console = screen(stderr=True)
    if not console.is_terminal:
        yield lambda _: None
        return
    with console.status(f"{what} ...") as status:
        yield lambda step: status.update(f"{what}: {step} ...")


def say(*show: Callable[[], None]) -> None:
    """Show what was found, after everything is written; a reader who left is no error."""
    try:
        for one in show:
            one()
        sys.stdout.flush()
    except (OSError, SystemExit) as error:
        if not gone(error):
            raise
        silence()


def beside(project: Path, what: str) -> Path:
    """Where a drawing lies that was given no place; a name never leads out of the folder."""
    said = re.sub(r"[^\w.-]+", "_", what)[:60]
    return project.with_name(f"{project.stem}-{said}.png")


class writing:
    """Turn a failed write into advice."""

    def __init__(self, place: Path) -> None:
        self.place = place

    def __enter__(self) -> None: ...

    def __exit__(self, kind: Any, error: BaseException | None, trace: Any) -> None:
        from undatum.errors import Fault

        if isinstance(error, OSError | ValueError):
            raise InputError([Fault(str(self.place),
                                    "cannot be written "
                                    f"({getattr(error, 'strerror', None) or error})",
                                    "name another place")]) from None


SHOWN = 40  # rows of a table on the screen where it is written to a file as well


def head_of(table: Table, written: Path | None) -> Table:
    """The table as the screen shows it: its first rows where a file holds all of them."""
    if written is None or len(table) <= SHOWN:
        return table
    from dataclasses import replace

    short = table.where([k < SHOWN for k in range(len(table))])
    return replace(short, note=f"{len(table) - SHOWN} more rows in {written}. {short.note}".strip())


def save_table(table: Table, place: Path, units: UnitSystem) -> None:
    """Write one table, as CSV or as a workbook of one sheet by the name of the file."""
    from undatum.errors import Fault
    from undatum.report import files, workbook

    kind = place.suffix.lower()
    if kind not in (".csv", ".xlsx"):
        raise InputError([Fault("--table", f"{place.name!r} is neither CSV nor XLSX",
                                "give a name that ends in .csv or .xlsx")])
    with writing(place):
        if kind == ".csv":
            place.write_text(files.csv_text(table, units), encoding="utf-8", newline="")
        else:
            workbook.write(table.title, units, [table], place)


def from_here(path: Path) -> Path:
    """A path from here where it lies below, otherwise whole."""
    here = Path.cwd()
    return path.relative_to(here) if path.is_relative_to(here) else path


LARGE = 2e8  # bytes of a model that are worth a word
SLOW = 2.5e-7  # s by freedoms to 1.5 that SuperLU takes for walls; measured, and rounded up


def memory_said(building: Building) -> str:
    """The memory that the model of a large building takes; empty where it is little."""
    from undatum.mechanics.factors import pardiso_there
    from undatum.mechanics.framing import memory_needed

    frame = building.frame
    needed = 0.0 if frame is None else memory_needed(frame, 3 * len(building.levels))
    if frame is None or needed <= LARGE:
        return ""
    freedoms = 6 * len(frame.points)
    seconds = SLOW * freedoms ** 1.5 if not pardiso_there() else 0.0
    return f"about {needed / 1e9:.1f} GB" + (
        f", and about {seconds:.0f} s to factor {freedoms} freedoms with SciPy alone; "
        "undatum-seismic[fast] takes a tenth of that" if seconds > 5 else "")


def counted(frame: Any) -> str:
    """How many members of each kind and section the rules made, walls, and where they stand."""
    from collections import Counter

    kinds = Counter(f"{m.kind}s of {m.section}" for m in frame.members)
    if frame.panels is not None:
        kinds[f"walls of {len(frame.panels)} panels"] = len(frame.panels.walls)
    if frame.slabs is not None:
        kinds["panels of floors that deform"] = len(frame.slabs)
    pinned = int((frame.springs[:, 3:5] == 0).all(axis=1).sum())
    springy = int((frame.springs[:, :3] < float("inf")).any(axis=1).sum())
    return ", ".join(f"{n} {name}" for name, n in kinds.items()) \
        + f"; {len(frame.points)} nodes, {len(frame.supports)} feet" \
        + (f", {pinned} of them pinned" if pinned else "") \
        + (f", {springy} on springs" if springy else "")


def standing(frame: Any) -> str:
    """Along what the columns resist with their strong axis, section by section."""
    from undatum.layout.members import strong_axes

    return "; ".join(f"{section}: " + ", ".join(
        f"{n} along {along or 'a skew line'}" for along, n in sorted(own.items()))
        for section, own in strong_axes(frame).items())
