"""Equilibrium of every load case: what the ground gives against what the description put in."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.checks.comparison import Comparison
from undatum.mechanics.cases import LoadCases, StaticCase
from undatum.mechanics.model import GROUND, Model

Floats = NDArray[np.float64]
_NAMES = ("force X", "force Y", "force Z", "moment about X", "moment about Y", "moment about Z")
MOVED = 0.01  # of a moment: what tributary areas may move a floor load, within its panel
TO_WALLS = 0.05  # where it goes to the nearest of walls and columns
ROUND_OFF = 1e-6


def case_balances(
    model: Model, found: LoadCases, given: Mapping[str, Floats], kinds: Mapping[str, str]
) -> list[Comparison]:
    """For every case its forces and its moments, the worst component of each; the nodes of all.

    ``given`` (6,) is the force and moment about the origin of every case as the user described it,
    ``kinds`` the kind of load of every group.
    Kinds of load of which nothing landed on a level stand over lateral lines there and are not
    judged: another finding names them.
    """
    if model.framed is None:
        return []
    frame = model.framed.frame
    low, size = frame.points.min(axis=0), np.maximum(np.ptp(frame.points, axis=0), 1.0)
    aside = low - size  # moments about a point outside, so that no lever is nothing
    lost = {b.kind for b in found.taken.balance if b.given and not b.landed} \
        if found.taken is not None else set()
    rows = []
    for case in found.cases:
        if case.members is None or kinds.get(case.name) in lost:
            continue
        put, got = (_about(aside, one) for one in (given[case.name], _reaction(model, case)))
        got = -got  # what the structure does to the ground
        forces = float(np.abs(case.members.reactions[:, :3]).sum())
        judged = _judged(model)
        for part, word, tolerance in (
            (judged[judged < 3], "force", ROUND_OFF),
            (judged[judged > 2], "moment", ROUND_OFF if case.own else
             MOVED if frame.panels is None else TO_WALLS),
        ):
            if not part.size:
                continue
            scale = float(max(np.abs(put[part]).max(), np.abs(got[part]).max(),
                              forces * (1.0 if word == "force" else size.max())))
            if not scale:
                continue
            k = int(part[np.argmax(np.abs(got - put)[part])])
            rows.append(Comparison(
                "reactions balance the loads as given", f"{case.name}, {_NAMES[k]}",
                _clean(got[k], scale), _clean(put[k], scale), word, tolerance,
                "sum of the loads where the description puts them" if word == "force" else
                "moments of the same about a point outside the plan; tributary areas move floor "
                "loads within a panel" if not case.own else
                "moments of the same about a point outside the plan", scale=scale))
    held = [case.members.residual for case in found.cases if case.members is not None]
    if held:
        rows.append(Comparison(
            "every node is in balance", "every case", max(held), 0.0, "ratio", 1e-8,
            "largest force left over at a node, over the largest at an end", scale=1.0))
    return rows


def _clean(value: float, scale: float) -> float:
    return float(value) if abs(value) > 1e-12 * scale else 0.0


def _judged(model: Model) -> NDArray[np.intp]:
    """The components that feet, lateral lines and the ground answer for."""
    upright = not any(line.stiffness is not None for line in model.lines)
    if model.plane:
        along = 0 if model.directions[0] == "X" else 1
        return np.array([along, 2, *([4 - along] if upright else [])])
    return np.arange(6) if upright else np.array([0, 1, 2, 5])


def _about(point: Floats, one: Floats) -> Floats:
    """Force and moment about the origin brought to another point."""
    return np.append(one[:3], one[3:] - np.cross(point, one[:3]))


def _reaction(model: Model, case: StaticCase) -> Floats:
    """(6,) force and moment about the origin of all that holds the structure."""
    assert model.framed is not None
    assert case.members is not None
    frame, forces = model.framed.frame, case.members.reactions
    turned = forces[:, 3:] + np.cross(frame.points[frame.supports], forces[:, :3])
    total = np.append(forces[:, :3].sum(axis=0), turned.sum(axis=0))
    if frame.beside is not None:  # of lines at nodes, what their levels do not balance
        pushed = (frame.beside @ case.members.displacement).reshape(-1, 6)[:, :3]
        total -= np.append(pushed.sum(axis=0), np.cross(frame.points, pushed).sum(axis=0))
    shears = model.quantities["line shear"]
    values = shears.of(case.motion, case.motion)
    start = 0
    for line in model.lines:
        start += line.levels.size
        if line.stiffness is not None and line.foot == GROUND and not model.at_nodes(line):
            total[[0, 1, 5]] -= values[start - 1] * np.array([*line.axis, line.moment_arm])
    if "ground force" in model.quantities:
        d = model.diaphragms
        force, turn = (model.quantities[f"ground {word}"] for word in ("force", "moment"))
        own = [d.levels.index(name) for name in turn.labels["level"]]
        x, y = force.of(case.motion, case.motion).reshape(2, -1)
        at = np.column_stack([d.centers[own], d.elevations[own]])
        pushed = np.column_stack([x, y, np.zeros_like(x)])
        total += np.append(pushed.sum(axis=0), np.cross(at, pushed).sum(axis=0))
        total[5] += turn.of(case.motion, case.motion).sum()
    return total

