"""Load cases of one's own as they act on members, floors and feet, and what is wrong with them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, get_args

import numpy as np
from numpy.typing import NDArray

from undatum.building.cases import AnyOnMembers, LoadCase, MemberLoad
from undatum.building.loads import Kind
from undatum.building.naming import known_names
from undatum.errors import Fault
from undatum.layout.frame import Frame, Member
from undatum.layout.landed import Landed
from undatum.layout.members import chosen_members
from undatum.record import record

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

Floats = NDArray[np.float64]


@record
class Acting:
    """A case of one's own on a frame. SI.

    ``landed`` loads along members; ``on_floors`` (n, 5) forces along X and Y, moment about the
    vertical axis, and the first moments of the forces about the vertical axis through the origin
    (x F_Y, y F_X) of those that act at a point, the others acting at the center of mass, whose
    share ``centered`` (n, 2) is; ``strain`` (E,) free lengthening; ``moved`` (S, 6) of supports.
    """

    landed: Landed
    on_floors: Floats
    centered: Floats
    strain: Floats
    moved: Floats


@record
class OnLevel:
    """A load with weight as a level sees it: N, and its center in plan, m."""

    level: int
    name: str
    kind: Kind
    amount: float
    center: tuple[float, float]
    polar: float


def _stretches(
    frame: Frame, m: Member, one: AnyOnMembers, into: Floats
) -> list[tuple[int, float, float, Floats, Floats]]:
    """What acts on a member, element by element: element, reach, local load at both ends.

    ``into`` is the direction as a vector in X, Y and Z. A point load acts on a thousandth of a
    millimeter.
    """
    own = np.array(m.elements)
    reach = np.concatenate([[0.0], np.cumsum(frame.lengths[own])])
    whole = float(reach[-1])
    if one.total is not None:
        half = 5e-7
        middle = min(max(one.at * whole, half), whole - half)
        low, high = middle - half, middle + half
        ends = (one.total / (high - low),) * 2
    else:
        low, high = one.between[0] * whole, one.between[1] * whole
        assert one.per_length is not None
        ends = one.per_length
    found = []
    for e, a, b in zip(own.tolist(), reach[:-1], reach[1:], strict=True):
        s0, s1 = max(low, float(a)), min(high, float(b))
        if s1 <= s0:
            continue
        at = [ends[0] + (ends[1] - ends[0]) * (s - low) / (high - low) for s in (s0, s1)]
        local = frame.axes[e] @ into
        found.append((e, s0 - float(a), s1 - float(a), at[0] * local, at[1] * local))
    return found


def member_landing(
    building: PlainBuilding, frame: Frame, named: Callable[[int, MemberLoad], str]
) -> dict[str, Landed]:
    """Loads with weight on members, by what they are ``named`` on the level of each."""
    order = {level.name: i for i, level in enumerate(building.levels)}
    found: dict[str, list[tuple[int, float, float, Floats, Floats]]] = {}
    for one in building.member_loads:
        for m in chosen_members(building, frame, one.on):
            found.setdefault(named(order[m.level], one), []).extend(
                _stretches(frame, m, one, np.array([0.0, 0.0, -1.0])))
    return {kind: _landed(kind, rows) for kind, rows in found.items()}


def _landed(kind: str, rows: Sequence[tuple[int, float, float, Floats, Floats]]) -> Landed:
    return Landed(
        kind, np.array([r[0] for r in rows], dtype=np.intp),
        np.array([r[1:3] for r in rows]).reshape(-1, 2),
        np.array([r[3:5] for r in rows]).reshape(-1, 2, 3), np.zeros((len(rows), 2)),
        np.zeros(0, dtype=np.intp), np.zeros((0, 6)))


def on_levels(building: PlainBuilding, frame: Frame) -> list[OnLevel]:
    """Loads with weight on members as the levels see them.

    A beam's belong to its level; those of columns and braces to the levels at both ends, by the
    lever.
    """
    order = [level.name for level in building.levels]
    found = []
    for one in building.member_loads:
        sums: dict[int, Floats] = {}
        for m in chosen_members(building, frame, one.on):
            level = order.index(m.level)
            start, span = np.array(m.start), np.subtract(m.end, m.start)
            if one.total is not None:
                amount, t, spread = one.total, one.at, 0.0
            else:
                assert one.per_length is not None
                (w0, w1), (a, b) = one.per_length, one.between
                amount, first = one.sums(m.length)
                t = first / amount if amount else (a + b) / 2
                third = (t - a) / (b - a)
                # second moment of a trapezoid about its center
                second = (w0 + 3 * w1) / (6 * (w0 + w1)) if amount else 1 / 3
                spread = (b - a) ** 2 * (second - third**2)
            parts = [(level, 1.0)] if m.kind == "beam" else [
                (level, t), (building.below[level], 1 - t)]
            at = (start + t * span)[:2]
            polar = spread * float(span[:2] @ span[:2])
            for i, share in parts:
                size = amount * share
                sums[i] = sums.get(i, np.zeros(4)) + np.array(
                    [size, *(size * at), size * (float(at @ at) + polar)])
        for i, (amount, x, y, second) in sorted(sums.items()):
            center = (x / amount, y / amount) if amount else (0.0, 0.0)
            about = second / amount - center[0] ** 2 - center[1] ** 2 if amount else 0.0
            found.append(OnLevel(i, one.name, one.kind, float(amount),
                                 (float(center[0]), float(center[1])), max(float(about), 0.0)))
    return found


def acting(building: PlainBuilding, case: LoadCase, frame: Frame | None) -> Acting:
    """A case of one's own on the floors and the members of a building."""
    n = len(building.levels) - 1
    rows: list[tuple[int, float, float, Floats, Floats]] = []
    elements = 0 if frame is None else len(frame.ends)
    strain = np.zeros(elements)
    feet = 0 if frame is None else len(frame.supports)
    moved = np.zeros((feet, 6))
    if frame is not None:
        for one in case.on_members:
            into = {"X": (1.0, 0, 0), "Y": (0, 1.0, 0), "down": (0, 0, -1.0)}[one.direction]
            for m in chosen_members(building, frame, one.on):
                if one.warming is None:
                    rows += _stretches(frame, m, one, np.array(into))
                else:
                    material = building.material(building.sections[m.section].material)
                    strain[list(m.elements)] += (material.expansion or 0.0) * one.warming
        for place in case.on_supports:
            moved[_feet(building, frame, place.at)] += [place.X, place.Y, -place.down, 0, 0, 0]
    on_floors, centered = np.zeros((n, 5)), np.zeros((n, 2))
    order = [level.name for level in building.levels]
    for force in case.on_levels:
        for name in known_names(force.at, order[:-1], "levels that move"):
            i = order.index(name)
            on_floors[i, :3] += [force.X, force.Y, force.moment]
            if force.point is None:
                centered[i] += [force.X, force.Y]
            else:
                on_floors[i, 3:] += [force.point[0] * force.Y, force.point[1] * force.X]
    return Acting(_landed(case.name, rows), on_floors, centered, strain, moved)


def _feet(building: PlainBuilding, frame: Frame, text: str) -> NDArray[np.bool_]:
    """Which supports a text names. Raises ValueError."""
    from undatum.layout.dividing import feet_named

    return feet_named(building.grid, frame, text)


def case_faults(building: PlainBuilding, frame: Frame | None) -> list[Fault]:
    """Loads on members and cases that name nothing, or want what is not there."""
    found = []
    for i, load in enumerate(building.member_loads):
        found += _named(building, frame, load.on, f"member_loads[{i}].on")
        names = [other.name for other in building.member_loads[:i]]
        if load.name in names:
            found.append(Fault(f"member_loads[{i}].name", f"{load.name!r} stands twice",
                               "name them apart"))
    taken: list[str] = list(get_args(Kind))
    for i, case in enumerate(building.cases):
        at = f"cases[{i}]"
        if case.name in taken:
            found.append(Fault(f"{at}.name", f"{case.name!r} is taken", "give it its own name"))
        taken.append(case.name)
        for j, one in enumerate(case.on_members):
            found += _named(building, frame, one.on, f"{at}.on_members[{j}].on")
            if one.warming is not None and frame is not None and not found:
                used = {building.sections[m.section].material
                        for m in chosen_members(building, frame, one.on)}
                found += [Fault(f"{at}.on_members[{j}].warming", f"the material {name!r} has no "
                                "coefficient of expansion", "give its expansion, such as 1e-5")
                          for name in sorted(used)
                          if building.material(name).expansion is None]
        for j, force in enumerate(case.on_levels):
            try:
                known_names(force.at, [x.name for x in building.levels][:-1], "levels that move")
            except ValueError as error:
                found.append(Fault(f"{at}.on_levels[{j}].at", str(error)))
        for j, place in enumerate(case.on_supports):
            try:
                if frame is None:
                    raise ValueError("there are no members, so no feet of columns; take "
                                     "on_supports out")
                _feet(building, frame, place.at)
            except ValueError as error:
                found.append(Fault(f"{at}.on_supports[{j}].at", str(error)))
    return found


def _named(
    building: PlainBuilding, frame: Frame | None, text: str, place: str
) -> list[Fault]:
    try:
        chosen_members(building, frame, text)
    except ValueError as error:
        return [Fault(place, str(error))]
    return []
