"""How many threads the linear algebra takes: one for small models, all for large ones.

Small matrices lose more by waiting for each other's threads than they gain: on two cores a job of
100 stories takes several times as long with two threads as with one, and worse under load.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

from threadpoolctl import ThreadpoolController

SMALL = 400  # levels up to which one thread is the faster way
FEW = 30_000  # and freedoms of members


@cache
def _controller() -> ThreadpoolController:
    """The libraries loaded once; looking for them takes milliseconds."""
    import scipy.linalg  # noqa: F401  (loads its own library)

    return ThreadpoolController()


@contextmanager
def few_threads(levels: int, freedoms: int = 0) -> Iterator[None]:
    """One thread while a model of so many levels and freedoms of members is worked on, if it is
    small."""
    if levels > SMALL or freedoms > FEW:
        yield
        return
    with _controller().limit(limits=1, user_api="blas"):
        yield
