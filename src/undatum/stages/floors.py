"""Floors that deform in their plane: how far, against the standard's test of a rigid floor."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces
from undatum.errors import UndatumError
from undatum.finding import Finding, Severity, several
from undatum.layout.frame import Frame
from undatum.layout.panels import CLOSE
from undatum.layout.weight import FloorMasses
from undatum.layout.whole import Building
from undatum.mechanics.floors import OpenFloor
from undatum.mechanics.idealize import idealize
from undatum.mechanics.lines import line_nodes
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver, factorize
from undatum.mechanics.vibration import vibration
from undatum.record import record
from undatum.standards.facts import FloorTest
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
_AGAINST = {"drift": "drift of what carries it", "average": "mean displacement of the floor",
            "rigid": "displacement under a rigid floor"}


@record
class FloorJudged:
    """A floor that deforms under the static forces along a direction. SI.

    ``deflection`` is the largest displacement beyond the straight line, or plane, that fits the
    walls (columns where there are none); ``drift`` the mean story drift of those; ``largest`` and
    ``average`` the displacement of the floor, ``rigid`` the largest under a rigid floor, not a
    number where no standard asks; ``ratio`` what the standard compares with ``limit``.
    """

    level: str
    direction: Direction
    deflection: float
    drift: float
    largest: float
    average: float
    rigid: float
    ratio: float
    test: FloorTest

    @property
    def flexible(self) -> bool:
        """Whether the standard calls it flexible."""
        return self.ratio > self.test.limit


@record
class RigidInstead:
    """The first period (s) of the same structure with rigid floors, and with those it has."""

    period: float
    period_deforming: float


def judge_floors(
    building: Building, solver: Solver, rigid: Callable[[], Solver | None], test: FloorTest | None,
    statics: Mapping[Direction, StaticForces],
) -> tuple[FloorJudged, ...]:
    """Every floor that deforms against the standard's test; ``rigid`` gives the same structure
    with rigid floors."""
    model = solver.model
    floors = [one for one in model.open_floors if one.deforms]
    if not floors or test is None or model.framed is None:
        return ()
    stiff = rigid() if test.kind == "rigid" else None
    found: list[FloorJudged] = []
    for d, one in statics.items():
        axis = DIRECTIONS.index(d)
        moved = _nodes(model, solver.solve(model.loads(d, one.forces)))
        with_rigid = None if stiff is None else _floors(
            stiff.model, stiff.solve(stiff.model.loads(d, one.forces)))
        for floor in floors:
            found.append(_judged(building, model, floor, d, axis, moved, with_rigid, test))
    return tuple(found)


def rigid_instead(
    solver: Solver, rigid: Callable[[], Solver | None]
) -> RigidInstead | None:
    """The first period with rigid floors beside that with floors that deform; nothing where none
    does."""
    if not any(one.deforms for one in solver.model.open_floors):
        return None
    stiff = rigid()
    return None if stiff is None else RigidInstead(*(
        float(2 * np.pi / vibration(s, 1)[0][0]) for s in (stiff, solver)))


def rigid_twin(building: Building, masses: FloorMasses) -> Solver | None:
    """The same with rigid floors; nothing where that can't stand."""
    try:
        return factorize(idealize(building, masses, rigid=True))
    except UndatumError:
        return None


def _nodes(model: Model, motion: Floats) -> Floats:
    """(M, 6) motion of the nodes."""
    assert model.framed is not None
    return np.asarray(model.framed.moved(motion).reshape(-1, 6))


def _floors(model: Model, motion: Floats) -> Floats:
    """(n, 5) motion of rigid floors along X, Y and in rotation, and their centers."""
    d = model.diaphragms
    return np.column_stack([motion[d.freedoms], d.centers])


def _judged(
    building: Building, model: Model, floor: OpenFloor, d: Direction, axis: int, moved: Floats,
    rigid: Floats | None, test: FloorTest,
) -> FloorJudged:
    assert model.framed is not None
    frame, i = model.framed.frame, floor.level
    sway = np.abs(moved[floor.nodes, axis]) * np.sign(moved[floor.nodes, axis].sum() or 1.0) \
        * np.sign(moved[floor.nodes, axis])
    held, below = _carried(model, frame, floor, building.below[i], axis)
    fit = np.column_stack([np.ones(len(held)), floor.at[held, 1 - axis]])
    line = np.linalg.lstsq(fit, sway[held], rcond=1e-9)[0]
    off = np.abs(sway - np.column_stack([np.ones(len(sway)), floor.at[:, 1 - axis]]) @ line)
    under = np.array([moved[n, axis] if n >= 0 else 0.0 for n in below])
    drift = float(np.mean(np.abs(moved[floor.nodes[held], axis] - under)))
    largest, average = float(np.abs(sway).max()), float(np.abs(sway).mean())
    most = np.nan
    if rigid is not None:
        x, y, turn, cx, cy = rigid[i]
        most = float(np.abs((x, y)[axis] + turn * (
            (floor.at[:, 0] - cx) if axis else -(floor.at[:, 1] - cy))).max())
    deflection = float(off.max())
    ratio = {"drift": deflection / max(drift, 1e-300),
             "average": largest / max(average, 1e-300), "rigid": largest / max(most, 1e-300)
             }[test.kind]
    return FloorJudged(building.levels[i].name, d, deflection, drift, largest, average, most,
                       ratio, test)


def _carried(
    model: Model, frame: Frame, floor: OpenFloor, below: int, axis: int
) -> tuple[Ints, list[int]]:
    """The nodes of a floor, by their place in it, that walls and lateral lines along a direction
    carry, or any walls, or columns; and the nodes under them, -1 for none."""
    panels = frame.panels
    chosen = {node for line in model.lines
              if line.stiffness is not None and floor.level in line.levels
              and abs(line.axis[axis]) > 0.5
              for node, _ in line_nodes(line, frame, floor.level)}
    if panels is not None:
        own = panels.story == floor.level
        run = np.abs(panels.along[:, axis]) > 0.5
        for which in (own & run, own):
            if which.any() and (which is not own or not chosen):
                chosen |= set(panels.carrying[which][:, :2].ravel().tolist())
    if not chosen:
        upright = frame.kinds == "column"
        chosen = set(frame.ends[upright, 1].tolist())
    held = np.flatnonzero(np.isin(floor.nodes, list(chosen)))
    if not held.size:
        held = np.arange(floor.nodes.size)
    at_foot = np.flatnonzero(frame.floors == below)
    feet = []
    for place in floor.at[held]:
        away = np.hypot(*(frame.points[at_foot, :2] - place).T) if at_foot.size else np.array([1.0])
        near = int(np.argmin(away))
        feet.append(int(at_foot[near]) if at_foot.size and away[near] < 10 * CLOSE else -1)
    return held, feet


def all_flexible(
    judged: Sequence[FloorJudged], model: Model, said: Sequence[str], test: FloorTest | None
) -> bool:
    """Whether a standard that exempts flexible floors from accidental torsion and torsional
    irregularity takes every floor above the base as flexible, both ways: those ``said`` to be,
    and those that its test finds so."""
    if test is None or test.kind != "drift":
        return False
    levels = {model.levels[i] for i in np.flatnonzero(model.above_base)}
    found = {(j.level, j.direction) for j in judged if j.flexible} | {
        (name, d) for name in said for d in model.directions}
    return found >= {(name, d) for name in levels for d in model.directions}


def said_flexible(
    said: Sequence[str], test: FloorTest | None, *, exempt: bool
) -> tuple[Finding, ...]:
    """Floors that are taken as flexible because the engineer says so, and who permits it."""
    if not said:
        return ()
    where, idealized = f"levels {several(said)}", None if test is None else test.idealized
    means = ("The elements that support these floors take their tributary mass and load and move "
             "independently; drift is checked on the lines of columns and walls. Walls across the "
             "motion keep their stiffness out of plane and take a small part of the shares.")
    if idealized is None:
        left = " No floor rotates as a unit, so accidental torsion is left out." if exempt else ""
        return (Finding(
            "floors said to be flexible", where, Severity.WARNING,
            f"{means}{left} No provision of this standard is known here that lets a floor be "
            "idealized as flexible without its stiffness.", "" if test is None else test.clause,
            "Give their stiffness (deforms, or shear_stiffness of a deck): the test of the "
            "standard is then made."),)
    torsion = " Accidental torsion and torsional irregularity do not apply to flexible floors." \
        if exempt else ""
    return (Finding(
        "floors said to be flexible", where, Severity.NOTE,
        f"{means}{torsion} It is permitted for {idealized[0]}.", idealized[1],
        "Any other floor needs its stiffness (deforms, or shear_stiffness of a deck)."),)


def floor_findings(
    judged: Sequence[FloorJudged], instead: RigidInstead | None, *, exempt: bool = False
) -> tuple[Finding, ...]:
    """A finding for every direction: what the standard's test says of the floors that deform."""
    found = []
    for d in dict.fromkeys(j.direction for j in judged):
        own = [j for j in judged if j.direction == d]
        worst = max(own, key=lambda j: j.ratio)
        word = "flexible" if worst.flexible else "not flexible" if worst.test.kind != "rigid" \
            else "rigid"
        text = (f"By the test of the standard the floor is {word}: {_said(worst)} is "
                f"{worst.ratio:.2f}, limit {worst.test.limit:g}.")
        if instead is not None:
            text += f" With rigid floors the first period would be {instead.period:.3g} s in " \
                f"place of {instead.period_deforming:.3g} s."
        if worst.flexible and worst.test.kind == "drift":
            text += (" Accidental torsion and torsional irregularity, which do not apply to "
                     "flexible floors, are left out.") if exempt else \
                (" Not all floors are flexible in both directions: accidental torsion is applied "
                 "to all.")
        found.append(Finding(
            "floors in their plane", f"level {worst.level}, direction {d}", Severity.NOTE, text,
            worst.test.clause, "The analysis includes the in-plane stiffness of the "
                               "floor.", worst.ratio))
    return tuple(found)


def long_floors(
    model: Model, test: FloorTest | None, irregular: Sequence[str] = ()
) -> tuple[Finding, ...]:
    """Rigid floors that a standard does not let one take as rigid without a word: too long ones,
    and any of a building that is ``irregular`` in plan."""
    if test is None or test.presumed is None or model.plane:
        return ()
    d = model.diaphragms
    size = np.column_stack([d.bounds[:, 2] - d.bounds[:, 0], d.bounds[:, 3] - d.bounds[:, 1]])
    ratio = size.max(axis=1) / np.maximum(size.min(axis=1), 1e-9)
    long = np.flatnonzero((ratio > test.presumed * (1 + 1e-9)) & model.above_base
                          & ~model.not_rigid)
    rigid = sorted(np.flatnonzero(model.above_base & ~model.not_rigid).tolist(),
                   key=lambda i: (-round(float(model.heights[i]), 6), model.levels[i]))
    if not long.size and rigid and (
            kinds := sorted(k for k in irregular if k.startswith("H"))):
        return (Finding(
            "floors taken as rigid", f"levels {several([model.levels[i] for i in rigid])}",
            Severity.NOTE, f"Horizontal irregularities: {several(kinds)}. Concrete floors may be "
            f"taken as rigid without their stiffness up to {test.presumed:g} times as long as deep "
            "where there is no horizontal irregularity. In-plane deformation between supporting "
            "lines was not checked.", test.presumed_clause,
            "Give its stiffness under building.diaphragms, where walls or members support it: the "
            f"test of {test.clause} is then made."),)
    if not long.size:
        return ()
    worst = int(long[np.argmax(ratio[long])])
    return (Finding(
        "floors taken as rigid", f"levels {several([model.levels[i] for i in long])}",
        Severity.NOTE, f"Their plan is up to {ratio[worst]:.3g} times as long as deep; concrete "
                       f"floors may be taken as rigid up to {test.presumed:g}, where there is no "
                       "horizontal irregularity. In-plane deformation between supporting lines was "
                       "not checked.", test.presumed_clause,
        "Give its stiffness under building.diaphragms, where walls or members support it: the test "
        f"of {test.clause} is then made.", float(ratio[worst] / test.presumed)),)


def _said(one: FloorJudged) -> str:
    lead = "its deflection" if one.test.kind == "drift" else "its largest displacement"
    return f"{lead} over the {_AGAINST[one.test.kind]}"


def floors_table(judged: Sequence[FloorJudged]) -> Table:
    """Floors that deform, direction by direction, and the standard's test."""
    return Table(
        "floor_deflection", "In-plane deformation of floors",
        (
            column("level", "", [j.level for j in judged]),
            column("direction", "", [j.direction for j in judged]),
            column("deflection", "displacement", [j.deflection for j in judged]),
            column("mean drift below", "displacement", [j.drift for j in judged]),
            column("largest displacement", "displacement", [j.largest for j in judged]),
            column("mean displacement", "displacement", [j.average for j in judged]),
            column("with a rigid floor", "displacement",
                   [None if np.isnan(j.rigid) else j.rigid for j in judged]),
            column("ratio", "ratio", [j.ratio for j in judged], 3),
            column("limit", "ratio", [j.test.limit for j in judged]),
            column("flexible", "", [j.flexible for j in judged]),
            column("clause", "", [j.test.clause for j in judged]),
        ),
        note="Elastic, under the static forces without accidental torsion. The deflection is "
             "measured from the straight line that fits the walls along the direction; the drift "
             "is the mean of theirs. The ratio is " + (_said(judged[0]) if judged else "") + ".",
    )
