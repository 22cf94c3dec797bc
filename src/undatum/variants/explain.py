"""What a family says of its members: why the worst are the worst, and of the project itself."""

from __future__ import annotations

import numpy as np

from undatum.errors import Fault, InputError, UndatumError
from undatum.job.job import Job
from undatum.project.schema import Project
from undatum.table import Table, column
from undatum.variants.family import Family, family_of
from undatum.variants.found import FamilyResults, load_family, spec_of, variant_name
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
                without.append(_of(job, family)[quantity])
            except (UndatumError, KeyError):
                without.append(float("nan"))
                job = None
        fall = value - np.array(without)
        best = int(np.nanargmax(fall)) if np.isfinite(fall).any() else -1
        helps = best >= 0 and fall[best] > 1e-9 * abs(value)
        rows.append((
            variant_name(i), value, found.parameters[best] if helps else "none alone",
            found.settings[i][best] if helps else "", without[best] if helps else None,
            found.governs[i]))
    dimension = found.dimensions[found.place(quantity)]
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


def _of(job: Job, family: Family) -> dict[str, float]:
    with job.project.at_work():
        return {v.name: v.value for v in values_of(job, family.spec.keep)}


def band_of(project: Project, folder: str) -> Table:
    """What a project gives beside how it spreads over its family in a folder, for the record.
    Raises InputError where the folder holds another family, or an older state of it."""
    from pathlib import Path

    family = family_of(project)
    if spec_of(Path(folder))["fingerprint"] != family.fingerprint:
        raise InputError([Fault("--family", f"{folder} holds the family of another project, or of "
                                "another state of this one", "run 'undatum vary' again")])
    found = load_family(folder)
    nominal = _of(Job(project), family)
    spread = {c.name: c for c in found.spread().columns}
    shown = {found.shown(name)[1]: nominal.get(name, float("nan")) / found.size(name)
             for name in found.names}
    return Table(
        "band", f"Spread over {len(found)} variants", (
            spread["quantity"],
            column("this project", "", [shown[str(q)] for q in spread["quantity"].cells]),
            *(spread[name] for name in ("variants", "5%", "50%", "95%", "above 1"))),
        note=f"Varied: {', '.join(found.parameters)} ({found.design}). Above 1: the share of "
        "variants that exceed a limit. Percentiles are of the variants run, each as likely as the "
        "design makes it.")
