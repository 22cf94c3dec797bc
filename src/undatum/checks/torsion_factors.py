"""A standard's simplified factor for accidental torsion beside what the analysis gives."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from undatum.analysis.response import StaticSet
from undatum.mechanics.model import Model
from undatum.standards.contract import LateralForces
from undatum.standards.terms import DIRECTIONS
from undatum.table import Table, column


def torsion_factors(
    part: LateralForces, model: Model, sets: Sequence[StaticSet]
) -> Table | None:
    """The factor on each line beside the shear with over without torques, at the lowest story.

    Lines along X and Y that cross the lowest story above the base; ``sets`` are those for
    strength. ``None`` where the standard has no such factor, where several floors stand on the
    base, and for a plane building.
    """
    if len(model.base_stories) != 1 or model.plane:
        return None
    story, rows = model.base_stories[0], []
    base, center = model.levels[story], model.diaphragms.centers[story]
    lines = [x for x in model.lines if story in x.levels and np.abs(x.axis).max() > 1 - 1e-9]
    for axis, d in enumerate(DIRECTIONS):
        own = [x for x in lines if abs(x.axis[axis]) > 0.5]
        away = [abs(float(x.point[1 - axis] - center[1 - axis])) for x in own]
        places = [float(x.point[1 - axis]) for x in own]
        extent = max(places, default=0.0) - min(places, default=0.0)
        pair = {s.sign: s for s in sets if s.direction == d and s.sign}
        for line, x in zip(own, away, strict=True):
            factor = part.torsion_factor(x / extent) if extent else None
            if factor is None or set(pair) != {1, -1}:
                return None
            shear = model.quantities["line shear"].where(line=line.name, story=base)
            plus, minus = (float(pair[sign].of(shear)[0]) for sign in (1, -1))
            if abs(plus + minus) <= 1e-9 * (abs(plus) + abs(minus)):
                continue  # it carries nothing, as members that are secondary, or torsion alone
            rows.append((d, line.name, x, extent, factor,
                         max(abs(plus), abs(minus)) / abs((plus + minus) / 2)))
    return None if not rows else Table(
        "torsion_factors", "Accidental torsion by line: simplified factor beside the analysis",
        (
            column("direction", "", [r[0] for r in rows]),
            column("line", "", [r[1] for r in rows]),
            column("distance from center of mass", "length", [r[2] for r in rows]),
            column("between outermost lines", "length", [r[3] for r in rows]),
            column("simplified factor", "ratio", [r[4] for r in rows]),
            column("shear with over without torques", "ratio", [r[5] for r in rows]),
        ),
        note="The simplified factor is for stiffness and mass symmetric in plan and is not used "
             "here: accidental torsion is applied to the structure as torques.",
    )
