"""From a building description to a model: the only door between the two."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import sparse

from undatum.building.concept import ConceptBuilding
from undatum.building.lines import Cantilever, Line
from undatum.building.weight import FloorMasses
from undatum.mechanics.cantilever import shear_flexure_line, shear_line
from undatum.mechanics.lines import LateralLine, assemble, motions
from undatum.mechanics.model import COMPONENTS, GROUND, Diaphragms, Freedoms, Model
from undatum.mechanics.quantities import (
    PlumbLine,
    center_line,
    line_shear,
    plumb_displacement,
    plumb_drift,
    story_quantities,
)

Floats = NDArray[np.float64]


def idealize(building: ConceptBuilding, masses: FloorMasses) -> Model:
    """Stiffness, mass and quantities of a concept building: one rigid diaphragm a level."""
    n = len(building.levels) - 1
    elevations = np.asarray(building.elevations)
    index = np.arange(3 * n).reshape(3, n).T  # by component, then by level
    diaphragms = Diaphragms(
        levels=masses.levels,
        below=np.append(np.arange(1, n), GROUND),
        elevations=elevations[:n],
        story_heights=np.asarray(building.story_heights),
        centers=masses.centers,
        bounds=np.array([building.outline(i).bounds for i in range(n)]),
        mass=masses.mass,
        inertia=masses.inertia,
        freedoms=index,
    )
    freedoms = Freedoms(
        tuple(c for c in COMPONENTS for _ in range(n)), masses.levels * 3,
        np.tile(np.column_stack([masses.centers, elevations[:n]]), (3, 1)))
    lines = tuple(_line(building, line) for line in building.lines)
    moved = motions(lines, masses.centers, index, 3 * n)
    model = Model(
        freedoms=freedoms,
        stiffness=assemble(lines, moved),
        mass=sparse.csr_array(sparse.diags_array(
            np.concatenate([masses.mass, masses.mass, masses.inertia]))),
        diaphragms=diaphragms,
        spread=sparse.csr_array(sparse.eye_array(3 * n)),
        base_elevation=float(elevations[building.base_index]),
        lines=lines,
    )
    at_center = [center_line(model)]
    return replace(model, quantities={
        **story_quantities(freedoms, diaphragms),
        "line shear": line_shear(lines, moved, masses.levels),
        "displacement": plumb_displacement(model, at_center, COMPONENTS),
        "story drift": plumb_drift(model, at_center, COMPONENTS),
    })


def _line(building: ConceptBuilding, line: Line) -> LateralLine:
    order = [level.name for level in building.levels]
    top, bottom = order.index(line.top), order.index(line.bottom)
    values = line.by_story(bottom - top)
    if line.cantilever is None:
        stiffness, shear = shear_line([v for v in values if isinstance(v, float)])
    else:
        sections = [v for v in values if isinstance(v, Cantilever)]
        stiffness, shear = shear_flexure_line(
            [s.bending for s in sections], [s.shear for s in sections],
            building.story_heights[top:bottom],
        )
    return LateralLine(
        line.name,
        np.asarray(line.at, dtype=float),
        np.array([np.cos(line.direction), np.sin(line.direction)]),
        np.arange(top, bottom),
        bottom if bottom < len(order) - 1 else GROUND,
        stiffness,
        shear,
        line.plan_length,
        np.asarray(line.strengths(bottom - top)),
    )


def corner_lines(building: ConceptBuilding, model: Model) -> tuple[PlumbLine, ...]:
    """Plumb lines through every distinct corner of the outlines, in reading order.

    A corner counts in a story where it lies on the floor at the story's top.
    """
    corners = np.concatenate([building.outline(i).corners for i in range(model.n)])
    _, first = np.unique(np.round(corners, 6), axis=0, return_index=True)
    distinct = corners[np.sort(first)]
    names = [f"corner {number}" for number in range(1, len(distinct) + 1)]
    return plumb_lines(building, model, names, distinct)


def plumb_lines(
    building: ConceptBuilding, model: Model, names: Sequence[str], points: ArrayLike
) -> tuple[PlumbLine, ...]:
    """Plumb lines through plan points (k, 2); each counts where the floor above holds it."""
    at = np.asarray(points, dtype=float).reshape(-1, 2)
    held: dict[int, NDArray[np.bool_]] = {}
    present = np.empty((model.n, len(at)), dtype=bool)
    for i in range(model.n):
        outline = building.outline(i)
        key = id(outline.polygon)  # equal outlines share their polygon
        if key not in held:
            held[key] = outline.holds(at)
        present[i] = held[key]
    return tuple(
        PlumbLine(name, np.tile(point, (model.n, 1)), present[:, k])
        for k, (name, point) in enumerate(zip(names, at, strict=True))
    )
