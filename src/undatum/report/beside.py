"""Work done beside the rest, by a process that is split off and finds everything as it is here."""

from __future__ import annotations

import multiprocessing
import multiprocessing.connection
import os
import sys
import warnings
from collections.abc import Callable


def beside(*calls: Callable[[], object]) -> Callable[[], None]:
    """Begin calls, each in a process of its own; what is returned waits until they are done.

    They write files: what they return is lost. Where processes can't share memory, or there is one
    processor, they are made at once. Waiting raises what they raise.
    """
    if not (sys.platform == "linux" and len(os.sched_getaffinity(0)) > 1):
        for call in calls:
            call()
        return lambda: None
    forked = multiprocessing.get_context("fork")
    begun = []
    for call in calls:
        here, there = forked.Pipe(duplex=False)
        process = forked.Process(target=_run, args=(call, there), daemon=True)
        with warnings.catch_warnings():  # threads of this process are not needed there
            warnings.simplefilter("ignore", DeprecationWarning)
            process.start()
        there.close()
        begun.append((process, here))

    def wait() -> None:
        failed: BaseException | None = None
        for process, here in begun:
            try:
                failed = here.recv() or failed
            except EOFError:
                failed = failed or MemoryError("a process that was split off is gone")
            process.join()
        if failed is not None:
            raise failed

    return wait


def _run(call: Callable[[], object], told: multiprocessing.connection.Connection) -> None:
    try:
        call()
    except BaseException as error:
        told.send(error)
    else:
        told.send(None)
