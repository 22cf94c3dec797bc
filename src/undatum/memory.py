"""No search for lost cycles while much is made at once, and what memory is free before it."""

from __future__ import annotations

import gc
import os
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def without_collecting() -> Iterator[None]:
    """Python's collector of cycles waits while a description is read or a job is done.

    Making thousands of members or records sets it off again and again, each time through all of
    them, and they hold no cycles to be found: a fifth of the time of a job.
    """
    if not gc.isenabled():  # somebody waits already, and ends it
        yield
        return
    gc.disable()
    try:
        yield
    finally:
        gc.enable()


def free_memory() -> float:
    """Bytes that can still be taken without swapping; endless where the system does not say."""
    try:
        with open("/proc/meminfo", encoding="ascii") as file:
            for line in file:
                if line.startswith("MemAvailable:"):
                    return 1024.0 * float(line.split()[1])
    except (OSError, ValueError, IndexError):
        pass
    try:
        return float(os.sysconf("SC_AVPHYS_PAGES") * os.sysconf("SC_PAGE_SIZE"))
    except (AttributeError, OSError, ValueError):
        return float("inf")
