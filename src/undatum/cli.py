"""The command-line tool: how it starts and how it ends.

Modules are loaded when a command needs them.
"""

from __future__ import annotations

import signal
import sys
from typing import Annotated

import typer

import undatum

# they register themselves, in the order of the list of commands
# isort: off
from undatum.commands import job  # noqa: F401
from undatum.commands import members  # noqa: F401
from undatum.commands import family  # noqa: F401
from undatum.commands import ground  # noqa: F401
# isort: on
from undatum.commands.shared import (
    EXIT_ANALYSIS,
    EXIT_INPUT,
    EXIT_OK,
    EXIT_UNFORESEEN,
    app,
    gone,
    screen,
    silence,
)
from undatum.errors import AnalysisError, InputError


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
        sys.stdout.flush()
    except InputError as error:
        count = len(error.faults)
        _fail("\n".join(map(str, error.faults)), EXIT_INPUT, "Input error: "
              f"{count} problem{'s' if count != 1 else ''} found"
              + (f" in {error.source}" if error.source else ""))
    except AnalysisError as error:
        _fail(error, EXIT_ANALYSIS, "The analysis could not be done")
    except MemoryError:
        _fail(AnalysisError(
            "Memory ran out. Close other programs, take a machine with more of it, or describe "
            "less: fewer members, fewer modes, fewer tables at once."), EXIT_ANALYSIS,
            "The analysis could not be done")
    except SystemExit as end:
        if not gone(end):
            raise
        silence()
        sys.exit(EXIT_OK)
    except OSError as error:
        _refused(error)
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


def _refused(error: OSError) -> None:
    """What the machine refuses: a reader who left is no error, a full disk is one."""
    silence()
    if gone(error):
        sys.exit(EXIT_OK)
    place = str(error.filename or "the output")
    _fail(AnalysisError(f"{place[:200]}: cannot be read or written ({error.strerror or error}). "
                        "Make room, ask for permission, or name another place."), EXIT_ANALYSIS,
          "The machine refuses")


def _unforeseen(error: Exception) -> None:
    """One line of advice; the trace goes to a file that can be sent on."""
    import tempfile
    import traceback

    with tempfile.NamedTemporaryFile(
            "w", prefix="undatum-", suffix=".txt", delete=False, encoding="utf-8") as out:
        out.write("".join(traceback.format_exception(error)))
    print(f"Unexpected error: {type(error).__name__}. This is a fault of the program, not of your "
          f"input; please send {out.name} to its developers, with the project if you "
          "can.", file=sys.stderr)
    sys.exit(EXIT_UNFORESEEN)


def _fail(error: Exception | str, code: int, head: str) -> None:
    from rich.text import Text

    console = screen(stderr=True)
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


if __name__ == "__main__":
    main()
