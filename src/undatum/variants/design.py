"""Which variants there are: grids, single changes and samples of what is varied."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum.errors import Fault, InputError
from undatum.project.varying import MOST, Design, Parameter, Scalar

Floats = NDArray[np.float64]
#: One variant: the value of every parameter; None where the project's own stays.
Row = tuple[Scalar | None, ...]
STEPS = 5
_NUMBER = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(.*)")


def drawn(parameters: Sequence[Parameter], design: Design, count: int, seed: int) -> list[Row]:
    """The variants of a design, in its order. Raises InputError where a grid has too many, or a
    distribution no end."""
    if design in ("grid", "one at a time"):
        steps = [_steps(p, f"variants.vary[{i}]") for i, p in enumerate(parameters)]
        if design == "one at a time":
            nothing: list[Scalar | None] = [None] * len(parameters)
            return [tuple(nothing), *((*nothing[:i], value, *nothing[i + 1:])
                                      for i, own in enumerate(steps) for value in own)]
        total = int(np.prod([float(len(own)) for own in steps]))
        if total > MOST:
            raise InputError([Fault("variants.design", f"the grid has {total:,} variants",
                                    f"no more than {MOST:,} are run; take fewer steps or a "
                                    "sample")])
        return list(product(*steps))
    return [tuple(_at(p, u, f"variants.vary[{i}]")
                  for i, (p, u) in enumerate(zip(parameters, row, strict=True)))
            for row in sample(len(parameters), design, count, seed)]


def sample(width: int, design: Design, count: int, seed: int) -> Floats:
    """(n, width) of numbers from 0 to 1. ``indices`` gives two samples A and B of ``count``, then A
    with each column of B in turn (Saltelli et al. 2010)."""
    rng = np.random.default_rng(seed)
    if design == "random":
        return rng.random((count, width))
    if design == "latin hypercube":  # every column once in each of so many equal parts
        parts = np.tile(np.arange(count, dtype=float)[:, None], (1, width))
        return np.asarray((rng.permuted(parts, axis=0) + rng.random((count, width))) / count)
    from scipy.stats import qmc  # takes longer to load than most commands take

    def sobol(columns: int) -> Floats:
        make: Any = qmc.Sobol
        try:
            return np.asarray(make(columns, rng=rng).random(count))
        except TypeError:  # its name before SciPy 1.15
            return np.asarray(make(columns, seed=rng).random(count))

    if design == "sobol":
        return sobol(width)
    both = sobol(2 * width)
    a, b = both[:, :width], both[:, width:]
    mixed = []
    for i in range(width):
        one = a.copy()
        one[:, i] = b[:, i]
        mixed.append(one)
    return np.concatenate([a, b, *mixed])


def _steps(one: Parameter, place: str) -> list[Scalar]:
    if one.values:
        return list(one.values)
    if one.between is None:
        raise InputError([Fault(place, "a distribution has no steps",
                                'give values, or between and steps, or choose a sample: design = '
                                '"latin hypercube"')])
    low, high, unit = _ends(*one.between, f"{place}.between")
    return [_with(float(v), unit) for v in np.linspace(low, high, one.steps or STEPS)]


def _at(one: Parameter, u: float, place: str) -> Scalar:
    """The value at which the parameter stays below with probability ``u``."""
    if one.values:
        weights = np.array(one.weights or [1.0] * len(one.values))
        reach = np.cumsum(weights / weights.sum())
        return one.values[min(int(np.searchsorted(reach, u, side="right")), len(one.values) - 1)]
    if one.between is not None:
        low, high, unit = _ends(*one.between, f"{place}.between")
        return _with(low + u * (high - low), unit)
    from scipy.special import ndtri  # slow to load

    z = float(ndtri(min(max(u, 1e-12), 1 - 1e-12)))
    if one.normal is not None:
        mean, deviation, unit = _ends(one.normal.mean, one.normal.deviation, f"{place}.normal")
        return _with(mean + z * deviation, unit)
    assert one.lognormal is not None
    median, unit = parted(one.lognormal.median, f"{place}.lognormal")
    return _with(median * float(np.exp(one.lognormal.spread * z)), unit)


def parted(value: float | str, place: str) -> tuple[float, str]:
    """A number and the unit written behind it. Raises InputError."""
    if not isinstance(value, str):
        return float(value), ""
    found = _NUMBER.fullmatch(value)
    if found is None:
        raise InputError([Fault(place, f"{value!r} is no number with a unit",
                                'write such as 1.2 or "250 mm"')])
    return float(found[1]), found[2].strip()


def _ends(a: float | str, b: float | str, place: str) -> tuple[float, float, str]:
    (low, unit), (high, other) = parted(a, place), parted(b, place)
    if unit != other:
        raise InputError([Fault(place, f"{a!r} and {b!r} have different units",
                                "write both in one unit")])
    return low, high, unit


def _with(value: float, unit: str) -> Scalar:
    return f"{value!r} {unit}" if unit else value


def number_of(value: str) -> float:
    """A value as a number, its unit left out; NaN where it is a word."""
    try:
        return parted(value, "")[0]
    except InputError:
        return float("nan")
