"""Which of several is the largest or the least, where some differ in the last digits alone.

Values that are equal but for round-off tie, and of those the first counts: what governs does not
hang on the order in which sums were taken.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

EQUAL = 1e-9  # of the value


def largest(values: ArrayLike, names: Sequence[str] = ()) -> int:
    """Place of the largest, among the flattened; what is not a number never is. Of places whose
    order means nothing the first by ``names`` counts.

    >>> largest([1.0, 2.0 - 1e-15, 2.0])
    1
    """
    v = np.ravel(np.asarray(values, dtype=float))
    v = np.where(np.isnan(v), -np.inf, v)
    most = v.max()
    slack = EQUAL * abs(most) if np.isfinite(most) else 0.0
    tied = np.flatnonzero(v >= most - slack).tolist()
    return int(min(tied, key=lambda i: names[i]) if names else tied[0])


def least(values: ArrayLike) -> int:
    """Place of the least, as :func:`largest`."""
    return largest(-np.asarray(values, dtype=float))
