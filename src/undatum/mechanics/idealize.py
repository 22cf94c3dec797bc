"""From a building description to a system: the only door between the two."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.building.concept import ConceptBuilding
from undatum.building.lines import Cantilever, Line
from undatum.building.weight import Weights
from undatum.mechanics.cantilever import shear_flexure_line, shear_line
from undatum.mechanics.solve import factorize
from undatum.mechanics.system import LateralLine, PlumbLine, System

Floats = NDArray[np.float64]


def idealize(building: ConceptBuilding, weights: Weights) -> System:
    """Stiffness and mass of a concept building; diaphragms are rigid in their plane.

    Raises AnalysisError when the structure is a mechanism.
    """
    n = len(building.levels) - 1
    elevations = np.asarray(building.elevations)
    system = System(
        levels=weights.levels,
        elevations=elevations[:n],
        story_heights=np.asarray(building.story_heights),
        base_elevation=float(elevations[building.base_index]),
        centers=weights.centers,
        bounds=np.array([building.outline(i).bounds for i in range(n)]),
        mass=weights.mass,
        inertia=weights.inertia,
        stiffness=np.zeros((3 * n, 3 * n)),
        factor=np.zeros((3 * n, 3 * n)),
        lines=tuple(_line(building, line) for line in building.lines),
    )
    for line in system.lines:
        a = system.line_displacement_map(line)
        system.stiffness[:] += a.T @ line.stiffness @ a
    system.stiffness[:] = 0.5 * (system.stiffness + system.stiffness.T)
    system.factor[:] = factorize(system)
    for array in (system.stiffness, system.factor, system.elevations, system.story_heights):
        array.flags.writeable = False
    return system


def _line(building: ConceptBuilding, line: Line) -> LateralLine:
    order = [level.name for level in building.levels]
    top, bottom = order.index(line.top), order.index(line.bottom)
    values = line.by_story(bottom - top)
    if line.cantilever is None:
        stiffness = shear_line([v for v in values if isinstance(v, float)])
    else:
        sections = [v for v in values if isinstance(v, Cantilever)]
        stiffness = shear_flexure_line(
            [s.bending for s in sections], [s.shear for s in sections],
            building.story_heights[top:bottom],
        )
    return LateralLine(
        line.name,
        np.asarray(line.at, dtype=float),
        np.array([np.cos(line.direction), np.sin(line.direction)]),
        np.arange(top, bottom),
        bottom,
        stiffness,
        line.plan_length,
        np.asarray(line.strengths(bottom - top)),
    )


def corner_lines(building: ConceptBuilding, system: System) -> tuple[PlumbLine, ...]:
    """Plumb lines through every distinct corner of the outlines, in reading order.

    A corner counts in a story where it lies on the floor at the story's top.
    """
    corners = np.concatenate([building.outline(i).corners for i in range(system.n)])
    _, first = np.unique(np.round(corners, 6), axis=0, return_index=True)
    distinct = corners[np.sort(first)]
    names = [f"corner {number}" for number in range(1, len(distinct) + 1)]
    return plumb_lines(building, system, names, distinct)


def plumb_lines(
    building: ConceptBuilding, system: System, names: Sequence[str], points: ArrayLike
) -> tuple[PlumbLine, ...]:
    """Plumb lines through plan points (k, 2); each counts where the floor above holds it."""
    at = np.asarray(points, dtype=float).reshape(-1, 2)
    present = np.array([building.outline(i).holds(at) for i in range(system.n)])
    return tuple(
        PlumbLine(name, np.tile(point, (system.n, 1)), present[:, k])
        for k, (name, point) in enumerate(zip(names, at, strict=True))
    )
