"""Files that come in: ordinary ones of a stated size, as text, with advice for all others."""

from __future__ import annotations

import csv
import stat
from collections.abc import Callable
from pathlib import Path

from undatum.errors import InputError

LARGEST = 20_000_000  # bytes

#: Makes the error for a message and a cure, with the place that the caller knows.
Wrong = Callable[[str, str], InputError]


def ordinary(path: Path, wrong: Wrong, largest: int = LARGEST) -> None:
    """Refuse what is no ordinary file of at most ``largest`` bytes. Raises what ``wrong`` makes."""
    try:
        found = path.stat()
    except (OSError, ValueError) as error:
        raise wrong(f"cannot be read ({getattr(error, 'strerror', None) or error})",
                    "name a file that can be read") from None
    if stat.S_ISDIR(found.st_mode):
        raise wrong("is a folder, not a file", "name the file in it")
    if not stat.S_ISREG(found.st_mode):
        raise wrong("is no ordinary file (a device, a pipe or the like)",
                    "copy what it gives into a file first")
    if found.st_size > largest:
        raise wrong(f"is larger than {largest // 1_000_000} MB",
                    "a file of this kind is never so large")


def read_text(path: Path, wrong: Wrong, largest: int = LARGEST) -> str:
    """The text of a UTF-8 file. Raises what ``wrong`` makes of a message and a cure."""
    ordinary(path, wrong, largest)
    try:
        raw = path.read_bytes()
    except OSError as error:
        raise wrong(f"cannot be read ({error.strerror})", "name a file that can be read") from None
    if b"\0" in raw:
        raise wrong("is not a text file", "save it as plain text in UTF-8")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = raw.count(b"\n", 0, error.start) + 1
        raise wrong("is not UTF-8 text", "save the file in UTF-8").at_line(line) from None


def csv_rows(text: str, wrong: Wrong) -> list[tuple[int, list[str]]]:
    """Rows of a CSV text with their line numbers; empty ones and comments (#) are passed over."""
    reader = csv.reader(text.splitlines())
    try:
        return [(number, row) for number, row in enumerate(reader, 1)
                if any(cell.strip() for cell in row) and not row[0].lstrip().startswith("#")]
    except csv.Error as error:
        raise wrong(f"cannot be read as CSV ({error})",
                    "look for a quote that is not closed, or a cell that is far too long"
                    ).at_line(reader.line_num) from None
