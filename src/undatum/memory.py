"""No search for lost cycles while much is made at once."""

from __future__ import annotations

import gc
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
