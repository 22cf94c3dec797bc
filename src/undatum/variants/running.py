"""Variants run: in order, on processes or on a cluster, with the same numbers; stopped at any
moment, the next run goes on.

A task is a handful of variants that follow each other; in it a variant keeps what the one before
has in common with it. Every task that is done is a file of its own (NetCDF) in the folder of the
family until all are there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from importlib import import_module
from pathlib import Path
from typing import Any

import numpy as np
from threadpoolctl import threadpool_limits

from undatum.errors import Fault, InputError, UndatumError
from undatum.finding import Severity
from undatum.job.job import Job
from undatum.record import record
from undatum.results.exchange import STATE, alone, write_json
from undatum.variants.design import parted
from undatum.variants.family import Family
from undatum.variants.found import (
    FILE,
    PARTS,
    SPEC,
    FamilyResults,
    Kept,
    close,
    load_family,
    spec_of,
    write_part,
)
from undatum.variants.kept import Value, values_of

TASKS = ((64, 8), (512, 16))  # up to so many variants: how many a task
TASK = 48  # of more
#: Told how many variants are done, and how many there are.
Progress = Callable[[int, int], None]


@record
class Done:
    """One variant: what was kept of it, its gravest finding, and why it failed, if it did."""

    number: int
    values: tuple[Value, ...] = ()
    severity: str = ""
    governs: str = ""
    failed: str = ""


def tasks_of(family: Family) -> list[tuple[int, ...]]:
    """The numbers of the variants of every task; those of one model stay together, as far as a
    task goes."""
    order = family.order
    size = next((own for most, own in TASKS if len(order) <= most), TASK)
    return [tuple(order[k:k + size]) for k in range(0, len(order), size)]


def run_task(family: Family, numbers: Sequence[int]) -> list[Done]:
    """Work out some variants, one after the other, on one thread."""
    found: list[Done] = []
    with threadpool_limits(limits=1, user_api="blas"):
        job: Job | None = None
        for i in numbers:
            try:
                project = family.variant(i)
                job = Job(project) if job is None else job.of(project)
                with project.at_work():
                    values = values_of(job, family.spec.keep)
                found.append(Done(i, tuple(values), *(
                    _gravest(job) if "findings" in family.spec.keep else ())))
            except UndatumError as error:
                found.append(Done(i, failed=str(error)))
                job = None
            except Exception as error:  # one variant may fail in any way; the others go on
                found.append(Done(i, failed=f"{type(error).__name__}: {error}"))
                job = None
    return found


def _gravest(job: Job) -> tuple[str, str]:
    """The severity of the gravest finding, and which it is, and where."""
    one = max(job.findings, key=lambda f: (f.severity.rank, f.ratio or 0.0), default=None)
    return (Severity.OK.value, "") if one is None or one.severity is Severity.OK else \
        (one.severity.value, f"{one.check}, {one.where}")


def run_family(
    family: Family, folder: str | Path, *, jobs: int = 1, cluster: str | None = None,
    progress: Progress | None = None,
) -> FamilyResults:
    """Run every variant that is not in ``folder`` yet, and give back them all.

    ``jobs`` are processes on this machine; ``cluster`` the address of a Dask scheduler, or
    ``"local"`` for one of ``jobs`` processes here. The numbers are the same to the last bit
    whichever it is. Raises InputError where the folder holds another family, or nothing can be
    written there.

    >>> family = ud.Family(ud.shipped_project("archive"), ud.Variants(
    ...     vary=[ud.Parameter(name="site class", path="site.site_class", values=["C", "D"])],
    ...     keep=["base shear"]))
    >>> found = ud.run_family(family, folder / "family")
    >>> [round(float(v) / 1e6, 2) for v in found.of("static base shear X")]  # MN
    [3.57, 6.43]
    """
    place = Path(folder)
    own = [one for one in family.spec.keep if not isinstance(one, str)]
    if own and not place.exists():  # names of tables and readings are checked on the project itself
        with family.project.at_work():
            values_of(Job(family.project), family.spec.keep)
    state = _prepared(family, place)
    with alone(state, place):
        if (place / FILE).is_file():
            return load_family(place)
        tasks = tasks_of(family)
        left = [k for k in range(len(tasks)) if not _part(place, k).is_file()]
        total, done = len(family), len(family) - sum(len(tasks[k]) for k in left)
        say = progress or (lambda *_: None)
        say(done, total)
        for k, found in _worked_out(family, tasks, left, jobs, cluster):
            write_part(_kept(family, found), _part(place, k))
            done += len(found)
            say(done, total)
        return close(place)


def _worked_out(
    family: Family, tasks: Sequence[tuple[int, ...]], left: Sequence[int], jobs: int,
    cluster: str | None,
) -> Iterator[tuple[int, list[Done]]]:
    """Tasks as they are done."""
    if cluster is not None:
        yield from _on_cluster(family, tasks, left, jobs, cluster)
    elif jobs == 1 or len(left) < 2:
        for k in left:
            yield k, run_task(family, tasks[k])
    else:
        joblib: Any = import_module("joblib")
        yield from joblib.Parallel(
            n_jobs=jobs, return_as="generator_unordered", pre_dispatch="2*n_jobs",
            inner_max_num_threads=1, backend="loky")(
            joblib.delayed(_numbered)(family, k, tasks[k]) for k in left)


def _numbered(family: Family, k: int, numbers: Sequence[int]) -> tuple[int, list[Done]]:
    return k, run_task(family, numbers)


def _on_cluster(
    family: Family, tasks: Sequence[tuple[int, ...]], left: Sequence[int], jobs: int, address: str
) -> Iterator[tuple[int, list[Done]]]:
    """Tasks on a Dask cluster; those of a worker that is lost are done again by another."""
    try:
        dask: Any = import_module("distributed")
    except ImportError:
        raise InputError([Fault("--cluster", "needs dask.distributed, which is not installed",
                                "pip install 'undatum-seismic[cluster]'")]) from None
    own = dask.LocalCluster(n_workers=jobs, threads_per_worker=1, dashboard_address=None) \
        if address == "local" else None
    try:
        client = dask.Client(own or address, timeout="20s")
    except OSError as error:
        raise InputError([Fault("--cluster", f"{address!r} does not answer ({error})",
                                "start a scheduler there, or take --cluster local")]) from None
    try:
        sent = client.scatter(family, broadcast=True)
        waiting, ahead = iter(left), 4 * max(len(client.scheduler_info()["workers"]), 1)
        running = dask.as_completed()

        def send() -> None:
            k = next(waiting, None)
            if k is not None:
                running.add(client.submit(_numbered, sent, k, tasks[k], pure=False, retries=3))

        for _ in range(ahead):
            send()
        for future in running:
            yield future.result()
            future.release()
            send()
    finally:
        client.close()
        if own is not None:
            own.close()


# -- in the folder -----------------------------------------------------------------------------

def _part(place: Path, k: int) -> Path:
    return place / PARTS / f"part-{k:06d}.nc"


def _prepared(family: Family, place: Path) -> Path:
    """Make the folder, or check that it is of this family; where its lock is kept."""
    state = place / STATE
    try:
        if (place / SPEC).is_file():
            if spec_of(place)["fingerprint"] != family.fingerprint:
                raise InputError([Fault(str(place), "holds another family, or an older state of "
                                        "this one", "name another folder, or take it away")])
            return state
        if place.exists() and any(place.iterdir()):
            raise InputError([Fault(str(place), "holds other files", "name an empty folder")])
        for made in (state, place / PARTS):
            made.mkdir(parents=True)
        write_json(place / SPEC, {
            "fingerprint": family.fingerprint, "title": family.project.title,
            "units": family.project.units, "variants": len(family), "design": family.spec.design,
            "count": family.spec.count, "parameters": [
                [p.name, _unit(family, k), [v for v in p.values if isinstance(v, str)]]
                for k, p in enumerate(family.parameters)]})
    except OSError as error:
        raise InputError([Fault(str(place), f"can't be used ({error.strerror or error})",
                                "name another folder")]) from None
    return state


def _unit(family: Family, k: int) -> str:
    """What the numbers of a parameter are in, as they are given."""
    if family.parameters[k].times:
        return "factor"
    value = next((row[k] for row in family.rows if row[k] is not None), None)
    try:
        return parted(value, "")[1] if isinstance(value, str) else ""
    except InputError:  # a word
        return ""


def _kept(family: Family, found: Sequence[Done]) -> Kept:
    """Values under the names of all of them; what one variant lacks is no number there."""
    place: dict[tuple[str, str, bool], int] = {}
    own = [[place.setdefault((v.name, v.dimension, v.use), len(place)) for v in one.values]
           for one in found]
    values = np.full((len(found), len(place)), np.nan)
    for i, one in enumerate(found):
        values[i, own[i]] = [v.value for v in one.values]
    return Kept(
        np.array([one.number for one in found]),
        tuple(tuple("" if v is None else str(v) for v in family.rows[one.number])
              for one in found),
        tuple(name for name, *_ in place), tuple(d for _, d, _ in place),
        tuple(use for *_, use in place), values, tuple(one.severity for one in found),
        tuple(one.governs for one in found), tuple(one.failed for one in found))
