"""Why the worst variants are the worst: each of their changes taken back, one at a time."""

from __future__ import annotations

import numpy as np

from undatum.errors import UndatumError
from undatum.job.job import Job
from undatum.table import Table, column
from undatum.variants.family import Family
from undatum.variants.found import FamilyResults, variant_name
from undatum.variants.kept import values_of


def explained_worst(
    family: Family, found: FamilyResults, quantity: str, count: int = 10
) -> Table:
    """The variants with the largest values of a quantity. Each is run again once for every
    parameter, with the project's own value in its place; the one change that lowers the quantity
    most is named. Raises KeyError for a quantity that was not kept."""
    rows, job = [], None
    for i in found.worst(quantity, count):
        value = float(found.of(quantity)[i])
        without: list[float] = []
        for k in range(len(family.parameters)):
            try:
                project = family.varied_but(i, k)
                job = Job(project) if job is None else job.of(project)
                with project.at_work():
                    without.append(next((v for name, _, v in values_of(job, family.spec.keep)
                                         if name == quantity), float("nan")))
            except UndatumError:
                without.append(float("nan"))
                job = None
        fall = value - np.array(without)
        best = int(np.nanargmax(fall)) if np.isfinite(fall).any() else -1
        helps = best >= 0 and fall[best] > 1e-9 * abs(value)
        rows.append((
            variant_name(i), value, found.parameters[best] if helps else "none alone",
            found.settings[i][best] if helps else "", without[best] if helps else None,
            found.governs[i]))
    dimension = found.dimensions[found.names.index(quantity)]
    return Table(
        "worst", f"The largest of {quantity}, and the one change behind it",
        (
            column("variant", "", [r[0] for r in rows]),
            column(quantity, dimension, [r[1] for r in rows]),
            column("the one change", "", [r[2] for r in rows]),
            column("it is", "", [r[3] for r in rows]),
            column("without it", dimension, [r[4] for r in rows]),
            *([column("governs", "", [r[5] for r in rows])] if any(r[5] for r in rows) else []),
        ),
        note="Each was run again with the project's own value of one parameter at a time; the "
        "change named is the one without which the quantity falls most.")
