"""What floors bring to walls: within floors and into walls under the standard's diaphragm forces,
and what goes through a floor from the walls above it to others below."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces
from undatum.layout.whole import Building
from undatum.mechanics.actions import framed_of
from undatum.mechanics.cuts import Section, section_rows, wall_sections
from undatum.mechanics.floor_cuts import FLOOR_FORCES, FloorCut, cut_rows
from undatum.mechanics.solver import Solver
from undatum.standards.terms import Direction
from undatum.table import Column, Table, column

Floats = NDArray[np.float64]
Row = tuple[str, str, str, float, Floats]  # level, cut, direction, force on the floor, actions


def _of_cuts(rows: Sequence[Row], force: str) -> tuple[Column, ...]:
    return (
        column("level", "", [r[0] for r in rows]), column("cut", "", [r[1] for r in rows]),
        column("direction", "", [r[2] for r in rows]),
        column(force, "force", [r[3] for r in rows]),
        *(column(name, "moment" if name.startswith("moment") else "force",
                 [float(r[4][k]) for r in rows]) for k, name in enumerate(FLOOR_FORCES)))


def _by_cut(
    building: Building, solver: Solver, cuts: Sequence[FloorCut],
    pushes: Mapping[Direction, Floats], *, alone: bool,
) -> list[Row]:
    """Actions of every cut where its floor is pushed ``alone``, or all the others are."""
    model, framed = solver.model, framed_of(solver.model)
    rows: list[Row] = []
    for level in dict.fromkeys(c.level for c in cuts):
        own = [c for c in cuts if c.level == level]
        reads = framed.applied(cut_rows(framed.frame, framed.elements, own))
        for d, forces in pushes.items():
            push = np.where((np.arange(model.n) == level) == alone, forces, 0.0)
            values = (reads @ solver.solve(model.loads(d, push))).reshape(-1, len(FLOOR_FORCES))
            rows += [(building.levels[level].name, c.name, d, float(forces[level]), v)
                     for c, v in zip(own, values, strict=True)]
    return rows


def _design_forces(
    n: int, diaphragms: Mapping[Direction, Floats], heavy: Sequence[int]
) -> dict[Direction, Floats]:
    """The standard's diaphragm forces (n,) of all floors from those of the ``heavy`` ones."""
    found: dict[Direction, Floats] = {}
    for d, forces in diaphragms.items():
        found[d] = np.zeros(n)
        found[d][list(heavy)] = forces
    return found


def cuts_under_design(
    building: Building, solver: Solver, cuts: Sequence[FloorCut],
    diaphragms: Mapping[Direction, Floats], heavy: Sequence[int],
) -> Table:
    """Every cut of a floor under the standard's diaphragm force on that floor alone.

    ``diaphragms`` gives the forces of the ``heavy`` floors, top down, N.
    """
    rows = _by_cut(building, solver, cuts, _design_forces(solver.model.n, diaphragms, heavy),
                   alone=True)
    return Table(
        "floor_design_forces", "Within floors under the diaphragm forces of the standard",
        _of_cuts(rows, "diaphragm force"),
        note="One floor at a time, the force distributed like its mass and resisted by all that "
             "supports it. Transfer forces from the walls above to others below are separate, in "
             "table floor_transfer_forces; forces delivered to walls are in table floor_to_walls.")


def transfer_forces(
    building: Building, solver: Solver, cuts: Sequence[FloorCut],
    statics: Mapping[Direction, StaticForces],
) -> Table:
    """Every cut of a floor under the static forces for strength of all other floors."""
    rows = _by_cut(building, solver, cuts, {d: s.forces for d, s in statics.items()}, alone=False)
    return Table(
        "floor_transfer_forces", "Transfer forces within floors",
        _of_cuts(rows, "force of the floor"),
        note="Under the static forces for strength on all floors but this one, without accidental "
             "torsion: forces that pass through the floor from walls and frames above to others "
             "below, and between those that would deflect differently.")


def floor_to_walls(
    building: Building, solver: Solver, diaphragms: Mapping[Direction, Floats],
    heavy: Sequence[int], collectors: Mapping[Direction, float],
) -> Table:
    """What every wall takes from every floor under the standard's diaphragm force on that floor
    alone: shear along it below less that above."""
    model, framed = solver.model, framed_of(solver.model)
    pushes = _design_forces(model.n, diaphragms, heavy)
    panels = framed.frame.panels
    assert panels is not None
    lengths = {run.name: run.length for run in panels.walls}
    heads, feet = ({(s.wall, s.story): s for s in wall_sections(framed.frame)
                    if s.kind == "whole" and s.at == at} for at in ("head", "foot"))
    rows: list[tuple[str, str, Direction, float, float, float]] = []
    for level in heavy:
        above = [j for j in range(model.n) if model.diaphragms.below[j] == level]
        walls = [(wall, one, [feet[wall, j] for j in above if (wall, j) in feet])
                 for (wall, story), one in heads.items() if story == level]
        if not walls:
            continue
        over = [s for _, _, feet_above in walls for s in feet_above]
        owner = [k for k, (_, _, feet_above) in enumerate(walls) for _ in feet_above]
        reads = _shears(solver, [one for _, one, _ in walls])
        if over:
            np.subtract.at(reads, owner, _shears(solver, over))
        for d, push in pushes.items():
            alone = np.where(np.arange(model.n) == level, push, 0.0)
            taken = reads @ solver.solve(model.loads(d, alone))
            rows += [(building.levels[level].name, wall, d, float(push[level]), float(v),
                      lengths[wall]) for (wall, _, _), v in zip(walls, taken, strict=True)]
    more = [collectors[r[2]] for r in rows]
    return Table(
        "floor_to_walls", "Forces delivered to walls by floors under the diaphragm forces of the "
                          "standard",
        (
            column("level", "", [r[0] for r in rows]), column("wall", "", [r[1] for r in rows]),
            column("direction", "", [r[2] for r in rows]),
            column("diaphragm force", "force", [r[3] for r in rows]),
            column("taken along the wall", "force", [r[4] for r in rows]),
            column("per length of wall", "line load", [r[4] / r[5] for r in rows]),
            *([column("for collectors", "force",
                      [r[4] * k for r, k in zip(rows, more, strict=True)])]
              if any(k != 1 for k in more) else []),
        ),
        note="One floor at a time: the shear along the wall below the floor less that above it. "
             "Where the floor meets the wall over its full length it is transferred along the "
             "wall; the part from beyond the ends of the wall is delivered by collectors. "
             "Collectors take the overstrength of the lateral system, or the factor that goes with "
             "the diaphragm forces, where the standard requires it.")


def _shears(solver: Solver, sections: Sequence[Section]) -> Floats:
    """(k, D) rows of the shear in plane of sections."""
    framed = framed_of(solver.model)
    return np.array(framed.applied(section_rows(framed.frame, sections))[1::6])
