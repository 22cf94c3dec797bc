"""The same structure with panels of half the size: what moves, and where."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces
from undatum.finding import Finding, Severity
from undatum.layout.weight import FloorMasses
from undatum.layout.whole import Building
from undatum.mechanics.actions import framed_of
from undatum.mechanics.cuts import PartKind, Section, section_rows, wall_sections
from undatum.mechanics.idealize import idealize
from undatum.mechanics.solver import Solver, factorize
from undatum.mechanics.vibration import vibration
from undatum.record import FixedDict, record
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column
from undatum.ties import largest

Floats = NDArray[np.float64]
MODES = 3  #: whose periods are compared
COARSE = 0.05  #: of what is largest of its kind, above which the mesh is called coarse
#: What is compared of every part of a wall: its place among the six actions, and its dimension.
KINDS: Mapping[PartKind, str] = FixedDict({
    "whole": "walls", "segment": "segments", "coupling beam": "coupling beams"})
ACTIONS = (("axial force", 0, "force"), ("shear in plane", 1, "force"),
           ("moment in plane", 5, "moment"))


@record
class Moved:
    """One value with the mesh as it is and with panels of half the size; ``part`` is the change
    over the ``largest`` of its kind. SI."""

    what: str
    where: str
    direction: str
    dimension: str
    value: float
    halved: float
    largest: float

    @property
    def part(self) -> float:
        """The change, as a share of the largest value of its kind."""
        return abs(self.halved - self.value) / max(self.largest, 1e-300)


@record
class HalvedMesh:
    """What moves where panels are halved: ``panels`` with the mesh as it is and halved."""

    panels: tuple[int, int]
    moved: tuple[Moved, ...]

    def finding(self) -> Finding:
        """What moves most, and whether the mesh is coarse for what is read."""
        worst = max(self.moved, key=lambda one: one.part)
        coarse = worst.part > COARSE
        periods = [one.part for one in self.moved if one.dimension == "time"]
        sway = [one.part for one in self.moved if one.dimension == "displacement"]
        return Finding(
            "mesh halved", worst.where, Severity.WARNING if coarse else Severity.NOTE,
            f"With panels of half the size ({self.panels[1]} in place of {self.panels[0]}) the "
            f"first periods move by {max(periods):.1%}, sway at the top by "
            f"{max(sway, default=0.0):.1%}; most the {worst.what} of {worst.where}"
            + (f" along {worst.direction}" if worst.direction else "")
            + f", by {worst.part:.1%} of the largest of its kind.", "building.wall_mesh",
            "Give the walls a smaller mesh (wall_mesh, or mesh of a wall or floor)." if coarse
            else "", worst.part, COARSE)

    def table(self) -> Table:
        """What moves, kind by kind, where it moves most."""
        rows = self.moved
        dimensions = [d for d in ("time", "displacement", "force", "moment")
                      if any(r.dimension == d for r in rows)]
        return Table(
            "mesh_halved", "What moves with panels of half the size",
            (
                column("what", "", [r.what for r in rows]),
                column("where", "", [r.where for r in rows]),
                column("direction", "", [r.direction for r in rows]),
                *(column(f"{word} {dimension}", dimension,
                         [getattr(r, name) if r.dimension == dimension else None for r in rows])
                  for dimension in dimensions
                  for word, name in (("as it is,", "value"), ("halved,", "halved"))),
                column("change", "ratio", [r.part for r in rows], 4),
            ),
            note=f"{self.panels[0]} panels of walls and floors as they are, {self.panels[1]} with "
            "half the size. Under the static forces without accidental torsion, second order left "
            "out. Of actions of walls the place is named where they change most; the change is a "
            "share of the largest of their kind.")


def halved(building: Building) -> Building:
    """The building with panels of half the size. Raises InputError where they become too many."""
    changes: dict[str, object] = {
        "wall_mesh": building.wall_mesh / 2,
        "walls": [w.model_copy(update={"mesh": w.mesh / 2}) if w.mesh else w
                  for w in building.walls],
        "diaphragms": {key: one if isinstance(one, str)
                       else one.model_copy(update={"mesh": one.mesh / 2})
                       for key, one in building.diaphragms.items()}}
    return building.model_copy(update=changes)


def compare_meshes(
    building: Building, masses: FloorMasses, elastic: Solver,
    statics: Mapping[Direction, StaticForces],
) -> HalvedMesh:
    """What moves with panels of half the size, under the static forces for strength.

    Raises InputError where the halved panels become too many.
    """
    finer = factorize(idealize(halved(building), masses))
    both = elastic, finer
    count = MODES if elastic.model.freedoms.count >= MODES else 1
    periods = [2 * np.pi / vibration(one, count)[0] for one in both]
    top = elastic.model.tallest[0]
    moved = [Moved(f"period of mode {k + 1}", "whole structure", "", "time", float(a), float(b),
                   float(a)) for k, (a, b) in enumerate(zip(*periods, strict=True))]
    for d, one in statics.items():
        motion = [s.solve(s.model.loads(d, one.forces)) for s in both]
        sway = [float(m[s.model.diaphragms.freedoms[top, DIRECTIONS.index(d)]])
                for s, m in zip(both, motion, strict=True)]
        moved.append(Moved("sway of the top floor", elastic.model.levels[top], d, "displacement",
                           sway[0], sway[1], abs(sway[0])))
        moved += _actions(elastic, finer, motion, d)
    return HalvedMesh((_panels(elastic), _panels(finer)), tuple(moved))


def _panels(solver: Solver) -> int:
    frame = framed_of(solver.model).frame
    return sum(len(one) for one in (frame.panels, frame.slabs) if one is not None)


def _actions(elastic: Solver, finer: Solver, motion: list[Floats], d: str) -> list[Moved]:
    """Of every kind of part and every action, where it changes most."""
    frames = [framed_of(s.model).frame for s in (elastic, finer)]
    if frames[0].panels is None:
        return []
    every = [wall_sections(f) for f in frames]
    at = [{(s.wall, s.part, s.story, s.at): k for k, s in enumerate(own)} for own in every]
    shared = [key for key in at[0] if key in at[1]]
    values = [(section_rows(f, own) @ framed_of(s.model).moved(m).ravel()).reshape(-1, 6)[
        [places[key] for key in shared]] for s, f, m, own, places in zip(
        (elastic, finer), frames, motion, every, at, strict=True)]
    sections = [every[0][at[0][key]] for key in shared]
    found = []
    for kind, said in KINDS.items():
        own = np.array([k for k, s in enumerate(sections) if s.kind == kind], dtype=np.intp)
        for name, c, dimension in ACTIONS if own.size else ():
            if kind == "coupling beam" and c == 0:
                continue  # what the floor leaves of it
            a, b = values[0][own, c], values[1][own, c]
            k = largest(np.abs(b - a))
            found.append(Moved(f"{name} of {said}", _place(sections[own[k]], elastic), d, dimension,
                               float(a[k]), float(b[k]), float(np.abs(a).max())))
    return found


def _place(one: Section, solver: Solver) -> str:
    part = "" if one.kind == "whole" else f", {one.part}"
    return f"{one.wall}{part}, {solver.model.levels[one.story]}, {one.at}"
