"""What is kept of every variant: numbers with a name and a dimension, worked out as far as they
need."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

import numpy as np

from undatum.errors import Fault, InputError, one_of
from undatum.finding import Severity
from undatum.job.job import Job
from undatum.project.varying import KeptValue, Taken
from undatum.standards.terms import DIRECTIONS

MODES = 3


class Value(NamedTuple):
    """What is kept: its name, dimension and value, SI, and whether it is a share of a limit."""

    name: str
    dimension: str
    value: float
    use: bool = False


def values_of(job: Job, keep: Sequence[str | KeptValue]) -> list[Value]:
    """Everything kept of one variant, in order. Raises what the job raises, and InputError where a
    table, a column or a reading is not there."""
    found: list[Value] = []
    for i, one in enumerate(keep):
        if isinstance(one, str):
            found += BY_NAME[one](job)
        else:
            try:
                found.append(_read(job, one) if one.read is not None else _cell(job, one))
            except InputError as error:
                raise InputError([Fault(f"variants.keep[{i}].{f.place}".rstrip("."), f.message,
                                        f.cure) for f in error.faults]) from None
        names = [v.name for v in found]
        if len(set(names)) < len(names):
            raise InputError([Fault(f"variants.keep[{i}]", f"{names[-1]!r} is kept twice",
                                    "give it another name, or take one out")])
    return found


def _weight(job: Job) -> Iterator[Value]:
    yield Value("seismic weight", "force", job.weights.total)


def _periods(job: Job) -> Iterator[Value]:
    for k, period in enumerate(job.modes.periods[:MODES].tolist(), 1):
        yield Value(f"period of mode {k}", "time", period)


def _base_shear(job: Job) -> Iterator[Value]:
    for d, shear in job.strength_shears.items():
        yield Value(f"static base shear {d}", "force", shear.base_shear)
        yield Value(f"coefficient {d}", "ratio", shear.coefficient)


def _spectrum_shear(job: Job) -> Iterator[Value]:
    for one in job.dynamic:
        yield Value(f"spectrum base shear {one.direction}", "force", one.base_shear)


def _drift(job: Job) -> Iterator[Value]:
    for key, check in job.drifts.items():
        said = "" if len(job.drifts) == 1 else f", {key}"
        for d in job.model.directions:
            c = DIRECTIONS.index(d)
            if not np.isfinite(check.limits[c]):
                continue  # no limit, no use of it
            s, p, i = check.governing(c)
            yield Value(f"drift use {d}{said}", "ratio", float(check.use[s, p, i, c]), use=True)


def _findings(job: Job) -> Iterator[Value]:
    findings = job.findings
    yield Value("exceeded", "", float(sum(f.severity is Severity.EXCEEDED for f in findings)))
    yield Value("warnings", "", float(sum(f.severity is Severity.WARNING for f in findings)))


def _key_numbers(job: Job) -> Iterator[Value]:
    for name, (dimension, value) in job.results.key_numbers().items():
        if isinstance(value, float | int):
            yield Value(name, dimension, float(value))


BY_NAME: Mapping[str, Callable[[Job], Iterator[Value]]] = MappingProxyType({
    "weight": _weight, "periods": _periods, "base shear": _base_shear,
    "spectrum base shear": _spectrum_shear, "drift": _drift, "findings": _findings,
    "key numbers": _key_numbers})


def _cell(job: Job, one: KeptValue) -> Value:
    results = job.results
    assert one.table is not None
    assert one.column is not None
    if one.table not in results.table_names:
        raise InputError([Fault("table", f"{one.table!r} is not among the tables",
                                one_of(one.table, results.table_names))])
    table = results.table(one.table)
    by_name = {c.name: c for c in table.columns}
    for key in (one.column, *one.where):
        if key not in by_name:
            raise InputError([Fault("column" if key == one.column else f"where.{key}",
                                    f"{key!r} is not a column of {one.table}",
                                    one_of(key, by_name))])
    rows = [k for k in range(len(table)) if all(
        str(by_name[key].cells[k]) == str(wanted) for key, wanted in one.where.items())]
    cells = [by_name[one.column].cells[k] for k in rows]
    numbers = [float(v) for v in cells if isinstance(v, float | int) and np.isfinite(v)]
    if not numbers:
        raise InputError([Fault("where", f"no number of column {one.column!r} is there",
                                "choose another column or other rows")])
    return Value(one.name, by_name[one.column].dimension, _taken(np.array(numbers), one.take),
                 one.use)


def _read(job: Job, one: KeptValue) -> Value:
    assert one.read is not None
    reading = job.results.read(one.read, one.which, one.under)
    names = [name for name, _ in reading.thing.components]
    if one.component not in names:
        raise InputError([Fault("component", f"{one.component!r} is not read of {one.read}",
                                one_of(str(one.component), names))])
    c = names.index(one.component)
    both = np.concatenate([v.reshape(-1, len(names))[:, c] for v in (reading.high, reading.low)])
    return Value(one.name, reading.thing.components[c][1], _taken(both, one.take), one.use)


def _taken(values: np.ndarray, take: Taken) -> float:
    if take == "largest size":
        return float(np.nanmax(np.abs(values)))
    return float(np.nanmax(values) if take == "largest" else np.nanmin(values))
