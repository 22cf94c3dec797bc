"""The building as points and paths that move: what every view in space is drawn from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import SpectrumSet, StaticSet
from undatum.layout.frame import Frame
from undatum.mechanics.actions import framed_of
from undatum.mechanics.lines import line_nodes
from undatum.mechanics.model import Model
from undatum.record import record
from undatum.results.results import Results

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Part = Literal["column", "beam", "brace", "lateral line", "wall", "wall edge", "floor"]


@record
class Path:
    """A member, a lateral line or the edge of a floor: a path through points of the scene."""

    name: str
    kind: Part
    section: str
    points: tuple[int, ...]


@record
class Scene:
    """``points`` (P, 3) m, ``paths`` through them, and how the points move in the first modes,
    under static sets and under load cases: ``shapes`` (k, P, 3) with the largest motion 1, their
    ``names`` as one reading takes them, and the words for each."""

    points: Floats
    paths: tuple[Path, ...]
    shapes: Floats
    names: tuple[str, ...]
    titles: tuple[str, ...]
    feet: tuple[tuple[int, bool], ...]  # point, and whether it is fixed
    walls: Ints  # (P, 4) points at the corners of the panels of walls
    slabs: Ints  # (Q, 4) of floors that deform


def scene_of(results: Results, modes: int = 6) -> Scene:
    """Members, lateral lines and floors of a run, with the first modes, static sets, spectrum sets
    of one direction (peaks with the signs of the mode with the largest base shear) and cases."""
    model, building = results.model, results.project.building
    d = model.diaphragms
    points: list[Floats] = []
    moves: list[Floats] = []
    paths: list[Path] = []
    feet: list[tuple[int, bool]] = []
    walls = slabs = np.zeros((0, 4), dtype=np.intp)
    first = min(modes, results.modes.kept)
    sets = [s for s in results.sets_for_strength if isinstance(s, StaticSet)]
    peaks = [s for s in results.sets_for_strength if isinstance(s, SpectrumSet)]
    cases = results.load_cases().cases
    shapes = np.column_stack([results.modes.shapes[:, :first], *(s.displacement for s in sets),
                              *(c.motion for c in cases), *(_vectors(s) for s in peaks)])
    count = shapes.shape[1]
    start = 0
    if model.framed is not None:
        frame = model.framed.frame
        points.append(frame.points)
        moved = np.array(model.framed.moved(shapes)).reshape(len(frame.points), 6, count)[:, :3]
        for k, case in enumerate(cases, first + len(sets)):
            if case.members is not None:  # loads between floors bend members on their own
                moved[..., k] = case.members.displacement.reshape(-1, 6)[:, :3]
        moves.append(moved)
        paths += [Path(m.name, m.kind, m.section,
                       (int(frame.ends[m.elements[0], 0]),
                        *(int(frame.ends[e, 1]) for e in m.elements))) for m in frame.members]
        standing = set(frame.ends.ravel().tolist())
        feet = [(int(node), bool(np.isinf(spring).all()))
                for node, spring in zip(frame.supports, frame.springs, strict=True)
                if int(node) in standing]
        paths += wall_paths(frame)
        walls, slabs = (np.zeros((0, 4), dtype=np.intp) if one is None else one.nodes
                        for one in (frame.panels, frame.slabs))
        start = len(frame.points)

    def with_floor(at: Floats, level: int) -> Floats:
        """Motion (p, 3, k) of plan points that a floor carries along; none at the ground."""
        found = np.zeros((len(at), 3, count))
        if level < len(d):
            arm = at - d.centers[level]
            x, y, turn = (shapes[i] for i in d.freedoms[level])
            found[:, 0] = x - arm[:, 1:] * turn
            found[:, 1] = y + arm[:, :1] * turn
        return found

    elevations = building.elevations
    for i, level in enumerate(building.levels):
        if i in building.deforming and slabs.size:
            continue  # its panels move by themselves
        outline = building.outline(i)
        for k, ring in enumerate((outline.polygon.exterior, *outline.polygon.interiors)):
            at = np.asarray(ring.coords)[:-1]
            paths.append(Path(f"floor {level.name}" if not k else f"opening {k} in {level.name}",
                              "floor", "", (*range(start, start + len(at)), start)))
            points.append(np.column_stack([at, np.full(len(at), elevations[i])]))
            moves.append(with_floor(at, i))
            start += len(at)
    for line, stands in zip(building.lines, model.lines, strict=False):  # of members come after
        span = building.span(line)
        floors = [*span, building.below[span[-1]]]
        half = 0.5 * (line.plan_length or 0.0) * np.array(
            [np.cos(line.direction), np.sin(line.direction)])
        ends = [[] if i == len(d) or not model.at_nodes(stands) else
                line_nodes(stands, framed_of(model).frame, i) for i in floors]
        for sign in (1, -1) if line.plan_length else (1,):
            at = np.tile(np.asarray(line.at) + sign * half, (len(floors), 1))
            paths.append(Path(f"line {line.name}", "lateral line", "",
                              tuple(range(start, start + len(at)))))
            points.append(np.column_stack([at, [elevations[i] for i in floors]]))
            moves.append(np.concatenate([
                moves[0][[own[-1 if sign > 0 else 0][0]]] if own else with_floor(at[[k]], i)
                for k, (i, own) in enumerate(zip(floors, ends, strict=True))]))
            start += len(at)
    moved = _peaks(np.concatenate(moves), first + len(sets) + len(cases), peaks, model)
    largest = np.abs(moved).max(axis=(1, 2), initial=0.0)
    names = (*(f"mode {results.modes.numbers[i]}" for i in range(first)),
             *(s.name for s in sets), *(c.name for c in cases), *(s.name for s in peaks))
    return Scene(
        np.concatenate(points), tuple(paths),
        moved / np.where(largest > 0, largest, 1.0)[:, None, None], names,
        _titles(results, first, names, largest), tuple(feet), walls, slabs)


def _vectors(one: SpectrumSet) -> Floats:
    """Displacement (N, m + 1) in every mode of a set, then under its accidental torsion."""
    twist = np.zeros(len(one.modal)) if one.torsion is None else one.torsion[:, 0]
    return np.column_stack([one.modal, twist])


def _peaks(moved: Floats, plain: int, sets: Sequence[SpectrumSet], model: Model) -> Floats:
    """(k, p, 3) motion of points: the first ``plain`` as they are, then of every spectrum set what
    its modes combine to, with the signs of the one that leads."""
    found, start = [moved[..., :plain]], plain
    for one in sets:
        stop = start + one.modal.shape[1]
        modal = moved[..., start:stop].reshape(-1, stop - start)
        size = one.scale * one.combine.peaks(modal) + np.abs(moved[..., stop]).ravel()
        sign = np.where(modal[:, one.dominant(model)] < 0, -1.0, 1.0)
        found.append((sign * size).reshape(*moved.shape[:2], 1))
        start = stop + 1
    return np.concatenate(found, axis=2).transpose(2, 0, 1)


def _titles(
    results: Results, first: int, names: Sequence[str], largest: Floats
) -> tuple[str, ...]:
    """Modes by number and period; sets and cases with their largest displacement."""
    size, unit = results.units.size("displacement"), results.units.label("displacement")
    return (*(results.modes.title(i) for i in range(first)),
            *(f"{name}, largest {most / size:.4g} {unit}" for name, most in
              zip(names[first:], largest[first:], strict=True)))


def wall_paths(frame: Frame) -> list[Path]:
    """The outer edge of every wall, to be picked, and the edges of its openings."""
    panels, found = frame.panels, []
    for w, run in enumerate(() if panels is None else panels.walls):
        assert panels is not None
        mine = np.flatnonzero(panels.wall == w)
        box, nodes = panels.box[mine], panels.nodes[mine]
        at = {(round(float(s), 5), round(float(z), 5)): int(n)
              for k, (a, b) in enumerate(((0, 2), (1, 2), (1, 3), (0, 3)))
              for s, z, n in zip(box[:, a], box[:, b], nodes[:, k], strict=True)}
        low, high = min(a for a, _ in run.reach), max(b for _, b in run.reach)
        thick = ", ".join(f"{t:g}" for t in dict.fromkeys(run.thickness))
        sides = [sorted(n for n in at if n[k] == round(v, 5)) for k, v in (
            (0, 0.0), (1, high), (0, run.length), (1, low))]
        ring = [at[p] for p in (*sides[0], *sides[1], *sides[2][::-1], *sides[3][::-1])]
        if len(ring) > 2:
            found.append(Path(f"wall {run.name}", "wall", thick, (*ring, ring[0])))
        for place in range(len(run.stories)):
            for a, b, bottom, top in run.holes[place]:
                corners = [at.get((round(s, 5), round(z, 5))) for s, z in (
                    (a, bottom), (b, bottom), (b, top), (a, top), (a, bottom))]
                known = tuple(n for n in corners if n is not None)
                if len(known) > 2:
                    found.append(Path(f"opening in wall {run.name}", "wall edge", "", known))
    return found
