"""What a standard may need to know about the building, gathered from description and system."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cache, partial
from itertools import pairwise
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from undatum.building.lines import Cantilever
from undatum.layout.weight import Weights
from undatum.layout.whole import Building
from undatum.mechanics.model import Model
from undatum.mechanics.planes import LateralPlanes
from undatum.mechanics.solver import Solver
from undatum.record import Lazy
from undatum.stages.perimeter import side_bays
from undatum.stages.removals import removals
from undatum.stages.shared_shear import taken_by_kind
from undatum.standards.facts import ElementShare, StructureFacts, Wall
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.units import said

Floats = NDArray[np.float64]
T = TypeVar("T")


def structure_facts(
    building: Building, solver: Solver, weights: Weights, planes: LateralPlanes
) -> StructureFacts:
    """Heights, weight, plan at the base, walls and stiffness shares of a building."""
    model = solver.model
    tallest = model.tallest
    base = building.outline(building.base_index)
    x0, y0, x1, y1 = base.bounds
    return StructureFacts(
        height=model.height,
        stories=len(tallest),
        story_heights=tuple(float(model.diaphragms.story_heights[i]) for i in tallest),
        weight=weights.total,
        plan=(x1 - x0, y1 - y0),
        base_area=base.area,
        walls=_walls(building),
        stiffness_shares=_stiffness_shares(building),
        gravity_sway=_asked(lambda: _gravity_sway(solver, weights.weight)),
        bays=_asked(lambda: side_bays(building, solver.model, weights.weight, planes)),
        elements=_asked(lambda: _elements(building, solver, weights.weight)),
        strongest=_strongest(solver.model, planes),
        removals=_asked(lambda: removals(building, solver, weights.weight, planes)),
        taken=_asked(lambda: taken_by_kind(building, solver, weights.weight)),
        gross=_gross(building),
    )


def _strongest(model: Model, planes: LateralPlanes) -> dict[Direction, tuple[str, float]]:
    """The plane with the largest share of a story shear above the base, and the share."""
    found: dict[Direction, tuple[str, float]] = {}
    for one in planes.planes:
        share = float(one.share[model.above_base].max(initial=0.0))
        if share > found.get(one.direction, ("", 0.0))[1]:
            found[one.direction] = (one.name, share)
    return found


def _asked(make: Callable[[], Mapping[Direction, T]]) -> Mapping[Direction, T]:
    """What few standards ask for, by direction, worked out for both when one does."""
    both = cache(make)
    return Lazy({d: partial(lambda own: both()[own], d) for d in DIRECTIONS})


def _elements(
    building: Building, solver: Solver, weight: Floats
) -> dict[Direction, tuple[ElementShare, ...]]:
    """The largest share of the story shear that every line takes in the lower two thirds."""
    model = solver.model
    forces = model.by_height(weight)
    lengths = {line.name: section.length for line in building.lines
               for section in line.by_story(1) if isinstance(section, Cantilever)}
    bottom = model.heights - model.diaphragms.story_heights
    story = model.diaphragms.carried @ forces
    judged = model.above_base & (bottom < 2 / 3 * model.height - 1e-9) & (story > 0)
    quantity, found = model.quantities["line shear"], {}
    names, levels = quantity.labels["line"], quantity.labels["story"]
    across = {d: 0.05 * model.diaphragms.across(d) * forces for d in DIRECTIONS}
    loads = np.column_stack([model.loads(d, forces, s * across[d])
                             for d in DIRECTIONS for s in (1, -1)])
    shears = np.abs(quantity.of(solver.solve(loads), loads))
    floor = np.concatenate([line.levels for line in model.lines])
    for axis, d in enumerate(DIRECTIONS):
        along = np.concatenate([np.full(line.levels.size, abs(line.axis[axis]))
                                for line in model.lines])
        shares = shears[:, 2 * axis: 2 * axis + 2].max(axis=1) * along \
            / np.where(judged, story, 1.0)[floor]
        members = {line.name for line in model.lines if line.stiffness is None}
        counts = [k for k in np.flatnonzero((along > 1e-6) & judged[floor]).tolist()
                  if names[k] not in members]
        found[d] = (*(ElementShare(names[k], levels[k], float(shares[k]), lengths.get(names[k]))
                      for k in counts),
                    *_single(model, solver, d, loads[:, 2 * axis: 2 * axis + 2], story, judged))
    return found


def _single(
    model: Model, solver: Solver, d: Direction, loads: Floats, story: Floats,
    judged: NDArray[np.bool_],
) -> list[ElementShare]:
    """Of members: the share of every brace, and of the two columns of every bay of a frame.

    Of a column between two bays 70 % counts in each (UBC 1997, 1630.1.1).
    """
    if model.framed is None:
        return []
    axis, frame = DIRECTIONS.index(d), model.framed.frame
    own = [m for m in frame.members if m.kind != "beam" and m.level in model.levels
           and not m.infill]
    heads = np.array([m.elements[-1] for m in own], dtype=np.intp)
    shear = np.abs(model.framed.end_rows(heads, (6 + axis,))[:, 0] @ solver.solve(loads)).max(
        axis=1)
    rows: dict[tuple[int, float], list[tuple[float, float]]] = {}
    found = []
    for m, v in zip(own, shear.tolist(), strict=True):
        i = model.levels.index(m.level)
        if not judged[i]:
            continue
        if m.kind == "brace":
            found.append(ElementShare(m.name, m.level, v / float(story[i]), None, single=True))
        else:
            rows.setdefault((i, round(m.end[1 - axis], 3)), []).append((m.end[axis], v))
    for (i, at), columns in rows.items():
        columns.sort()
        inner = [0.7 * v if 0 < k < len(columns) - 1 else v for k, (_, v) in enumerate(columns)]
        most = max(a + b for a, b in pairwise(inner)) if len(inner) > 1 else inner[0]
        found.append(ElementShare(f"frame at {'yx'[axis]} = {said(at)}", model.levels[i],
                                  most / float(story[i]), None, single=True))
    return found


def _walls(building: Building) -> dict[Direction, tuple[Wall, ...]]:
    """Walls that cross the lowest story above the base, along X and along Y, without openings."""
    order = [level.name for level in building.levels]
    z = building.elevations
    lowest = {i for i, k in enumerate(building.below) if k == building.base_index}
    found: dict[Direction, list[Wall]] = {d: [] for d in DIRECTIONS}
    for line in building.lines:
        top, bottom = order.index(line.top), order.index(line.bottom)
        span = building.span(line)
        story = next((k for k, i in enumerate(span) if i in lowest), None)
        if line.cantilever is None or story is None:
            continue
        section = line.by_story(len(span))[story]
        along = np.abs([np.cos(line.direction), np.sin(line.direction)])
        if isinstance(section, Cantilever) and section.length and section.thickness \
                and along.max() > 1 - 1e-6:
            height = z[top] - max(z[bottom], z[building.base_index])
            found[DIRECTIONS[int(np.argmax(along))]].append(
                Wall(line.name, section.length, section.length * section.thickness, height))
    panels = None if building.frame is None else building.frame.panels
    for run in () if panels is None else panels.walls:
        story = next((k for k, i in enumerate(run.stories) if i in lowest), None)
        along = np.abs(run.along)
        if story is None or along.max() < 1 - 1e-6:
            continue
        length = sum(b - a for a, b in run.segments(story))
        found[DIRECTIONS[int(np.argmax(along))]].append(
            Wall(run.name, length, length * run.thickness[story],
                 z[run.stories[0]] - z[building.base_index]))
    return {d: tuple(walls) for d, walls in found.items()}


def _stiffness_shares(building: Building) -> dict[Direction, tuple[float, ...]]:
    """Shares of the gross stiffness kept by cantilevers along X and along Y, columns and beams."""
    found: dict[Direction, list[float]] = {d: [] for d in DIRECTIONS}
    for line in building.lines:
        for section in line.by_story(1):
            if isinstance(section, Cantilever):
                for d, part in zip(DIRECTIONS, (np.cos(line.direction), np.sin(line.direction)),
                                   strict=True):
                    if abs(part) > 1e-6:
                        found[d] += [section.flexural_share, section.shear_share]
    if (frame := building.frame) is not None:
        kept = frame.kept[frame.kinds != "brace"]
        slide = np.where(np.isfinite(kept[:, 4]), kept[:, 4], 1.0)  # none: all of it is kept
        shares = np.unique(np.column_stack([kept[:, :2].max(axis=1), slide]))
        for d in DIRECTIONS:
            found[d] += shares.tolist()
    for wall in building.walls:
        own = wall.shares()
        for d in DIRECTIONS:
            found[d] += [1.0, 1.0] if own is None else [own.bending, own.shear]
    return {d: tuple(dict.fromkeys(own)) for d, own in found.items()}


def _gross(building: Building) -> tuple[str, ...]:
    """Concrete columns and beams, and walls given by their sizes, that keep all of their bending
    stiffness, in words."""
    walls = [line.name for line in building.lines for s in line.by_story(1)
             if isinstance(s, Cantilever) and s.thickness and s.flexural_share > 1 - 1e-9]
    found = [f"line {name}" for name in dict.fromkeys(walls)]
    if (frame := building.frame) is not None:
        upright = np.where(frame.kinds == "beam", frame.kept[:, 0], frame.kept[:, :2].max(axis=1))
        full = upright > 1 - 1e-9  # of beams in bending upwards and down
        concrete = {name for name, s in building.sections.items() if s.material is not None
                    and building.material(s.material).kind == "concrete"}
        whole = [m for m in frame.members if m.kind != "brace" and m.section in concrete
                 and full[list(m.elements)].any()]
        for kind in ("column", "beam"):
            own = [m for m in whole if m.kind == kind]
            found += [f"{len(own)} {kind}{'s' if len(own) > 1 else ''}, such as {own[0].name}"
                      ] if own else []
    for wall in building.walls:
        shares = wall.shares()
        whole_wall = shares is None or shares.bending > 1 - 1e-9
        used = [wall.material] if isinstance(wall.material, str) else wall.material.values()
        if whole_wall and any(building.material(name).kind == "concrete" for name in used):
            found.append(f"wall {wall.name}")
    return tuple(found)


def _gravity_sway(solver: Solver, weight: Floats) -> dict[Direction, float]:
    """Displacement of the center of the highest floor, or of the one of several that moves most,
    under the seismic weights along X and along Y, m."""
    model = solver.model
    found = solver.solve(np.column_stack([model.loads(d, weight) for d in DIRECTIONS]))
    top = model.diaphragms.freedoms[model.heights > model.height - 1e-9]
    return {d: float(np.abs(found[top[:, axis], axis]).max()) for axis, d in enumerate(DIRECTIONS)}
