"""Facts of the structure's shape from which a standard judges its regularity."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces
from undatum.layout.plan import PlanFacts
from undatum.mechanics.model import Model
from undatum.mechanics.planes import LateralPlanes
from undatum.mechanics.rigidity import Rigidity
from undatum.mechanics.solver import Solver
from undatum.standards.facts import BracedPlane, ReentrantCorner, ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column


def shape_facts(
    solver: Solver, plan: PlanFacts, statics: Mapping[Direction, StaticForces],
    rigidity: Rigidity, stated: Mapping[str, bool], planes: LateralPlanes,
) -> ShapeFacts:
    """What regularity is judged from, for the stories above the base, top down.

    Stories above the highest mass are left out. The stiffness of a story is the story shear of
    the static forces (those for strength) over the drift they cause at the center of mass, without
    accidental torsion.
    """
    model, d = solver.model, solver.model.diaphragms
    # A level without mass at the top leaves its story without shear: there is nothing to judge.
    one = next(iter(statics.values()))
    above = model.above_base & (one.story_shears > 0)
    stiffness, drifts, shears = np.full((3, 2, int(above.sum())), np.nan)
    loads = np.column_stack([model.loads(name, own.forces) for name, own in statics.items()])
    moved = model.quantities["story drift"]
    found = solver.solve(loads)
    for k, name in enumerate(statics):
        axis = DIRECTIONS.index(name)
        drift = np.abs(moved.where(component=name).of(found[:, k], loads[:, k]))[above]
        shears[axis] = statics[name].story_shears[above]
        stiffness[axis] = statics[name].story_shears[above] / np.maximum(drift, 1e-300)
        drifts[axis] = drift / d.story_heights[above]
    rows = np.flatnonzero(above)
    b = d.bounds[above]
    size = np.array([b[:, 2] - b[:, 0], b[:, 3] - b[:, 1]])
    eccentricities = np.abs(d.centers - rigidity.centers)[above].T
    eccentricities[eccentricities < 1e-9 * size] = 0.0  # round-off is none
    with np.errstate(divide="ignore", invalid="ignore"):
        gyration = np.sqrt(d.inertia / d.mass)[above]
    return ShapeFacts(
        levels=tuple(model.levels[i] for i in rows),
        weights=one.weights[above],
        heights=one.heights[above],
        stiffness=stiffness,
        shears=shears,
        drift_ratios=drifts,
        strengths=planes.strengths[:, above],
        extents=planes.extents[:, above],
        braced=tuple(BracedPlane(p.name, p.direction, np.where(
            p.braced, p.reach[:, 1] - p.reach[:, 0], np.nan)[above]) for p in planes.planes
            if any(p.bays)),
        dimensions=size,
        bounds=b,
        eccentricities=eccentricities,
        radii=rigidity.radii[above].T,
        gyration=gyration,
        openings=plan.openings[above],
        recessed=plan.recessed[above],
        corners=tuple(ReentrantCorner(c.level, c.at, c.along_x, c.along_y)
                      for i in rows for c in plan.corners[i]),
        skew=tuple(sorted(plan.skew)),
        standing=tuple(sorted((*plan.standing, *planes.standing))),
        shifted=tuple(sorted(planes.shifted)),
        members_alone=model.framed is not None and all(x.stiffness is None for x in model.lines),
        stated=stated,
        chains=_chains(model, above),
        directions=model.directions,
        turns=not (model.plane or bool(model.is_open[model.above_base].all())),
    )


def _chains(model: Model, above: NDArray[np.bool_]) -> tuple[tuple[int, ...], ...]:
    """The judged stories of every chain of floors, by their place among those judged."""
    place = {int(i): k for k, i in enumerate(np.flatnonzero(above))}
    found = [tuple(place[i] for i in chain if i in place) for chain in model.chains]
    return tuple(dict.fromkeys(chain for chain in found if chain))


def shape_table(shape: ShapeFacts) -> Table:
    """Story stiffness, its ratio to the stories above, drift and weight ratios."""
    if len(shape.chains) > 1:
        parts = [shape_table(one) for one in shape.by_chain()]
        return Table(
            parts[0].name, parts[0].title,
            (column("up to", "", [one.levels[0] for one in shape.by_chain() for _ in one.levels]),
             *(replace(c, cells=tuple(v for part in parts for v in part.columns[k].cells))
               for k, c in enumerate(parts[0].columns))),
            note=parts[0].note + " Parts of the building stand side by side: each is checked down "
                                 "to the base, with the stories they share.")
    k, w, n = shape.stiffness, shape.weights, len(shape.levels)
    along = [(DIRECTIONS.index(d), d) for d in shape.directions]

    def above(axis: int, i: int, count: int) -> float | None:
        """Stiffness over the mean of ``count`` stories above."""
        return float(k[axis, i] / k[axis, i - count : i].mean()) if i >= count else None

    return Table(
        "shape",
        "Data for the regularity checks, story by story",
        (
            column("story", "", shape.levels),
            *(col for axis, d in along for col in (
                column(f"stiffness {d}", "stiffness", k[axis]),
                column(f"over story above, {d}", "ratio", [above(axis, i, 1) for i in range(n)]),
                column(f"over mean of three above, {d}", "ratio",
                       [above(axis, i, 3) for i in range(n)]),
                column(f"drift over story above, {d}", "ratio",
                       [float(shape.drift_ratios[axis, i] / shape.drift_ratios[axis, i - 1])
                        if i else None for i in range(n)]),
            )),
            *(column(f"strength {d}", "force", shape.strengths[axis])
              for axis, d in along if np.isfinite(shape.strengths).any()),
            *(column(f"extent of lines {d}", "length", shape.extents[axis]) for axis, d in along),
            *(() if len(along) == 1 else (*(col for axis, d in along for col in (
                column(f"eccentricity along {d}", "length", shape.eccentricities[axis]),
                column(f"torsional radius with it, {d}", "length", shape.radii[axis]),
            )), column("radius of gyration", "length", shape.gyration))),
            column("openings", "ratio", shape.openings, 3),
            column("largest recess", "ratio", shape.recessed, 3),
            column("weight over level above", "ratio",
                   [float(w[i] / w[i - 1]) if i and w[i - 1] else None for i in range(n)]),
        ),
        note="Stiffness is story shear over drift at the center of mass under the static forces, "
        "without accidental torsion. The torsional radius is that of the whole structure, from its "
        "flexibility under the static forces and under moments of the same pattern.",
    )
