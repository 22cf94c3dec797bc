"""Members chosen by name or selection, and what they weigh."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from undatum.building.families import XY
from undatum.building.naming import selection
from undatum.errors import guess
from undatum.layout.frame import Frame, Member
from undatum.layout.panels import CLOSE

if TYPE_CHECKING:
    from undatum.building.axes import Axes
    from undatum.building.plain import PlainBuilding


_KINDS = {"columns": "column", "beams": "beam", "braces": "brace"}


def chosen_members(
    building: PlainBuilding, frame: Frame | None, text: str
) -> tuple[Member, ...]:
    """The members a text names: a name, or ``"columns on B at L1..L3"``, ``"all at Roof"``.

    Columns and braces belong to the level at their top. Raises ValueError where it names nothing.
    """
    if frame is None or not frame.members:
        raise ValueError("the building has no members; describe them under building.members")
    exact = [m for m in frame.members if m.name == text.strip()]
    if exact:
        return tuple(exact)
    words = text.split(maxsplit=1)
    if words and words[0] in _KINDS.values():
        raise ValueError(f"there is no member {text.strip()!r}"
                         + guess(text.strip(), [m.name for m in frame.members], before="; "))
    kind = _KINDS.get(words[0]) if words else None
    rest = (words[1] if len(words) > 1 else "all") if kind else text
    chosen = selection(rest)
    axes = building.grid
    on, crossings = axes.chosen(chosen.on) if chosen.on else ([], [])
    levels = set(chosen.levels([level.name for level in building.levels][-2::-1]))
    found = []
    for m in frame.members:
        if (kind and m.kind != kind) or m.level not in levels:
            continue
        ends = (m.start[:2], m.end[:2])
        where = [a for a in on if np.all(np.abs(axes.off(a, ends)) < CLOSE)]
        at = [c for c in crossings if all(
            max(abs(p[0] - axes.crossings[c][0]), abs(p[1] - axes.crossings[c][1])) < CLOSE
            for p in ends)]
        if chosen.on and not where and not at:
            continue
        if chosen.low and not any(_within(axes, a, ends, chosen.low, chosen.high) for a in where):
            continue
        found.append(m)
    if not found:
        raise ValueError(f"{text!r} names no member"
                         '; write such as "columns on B at L1..L3"')
    return tuple(found)


def _within(axes: Axes, axis: str, ends: tuple[XY, XY], low: str, high: str) -> bool:
    """Whether a member lies between two axes that cross its own."""
    first, last = axes.stretch(axis, low, high)
    at = axes.along(axis, ends)
    return bool(np.all((first - CLOSE <= at) & (at <= last + CLOSE)))


def weights_of(frame: Frame) -> Mapping[tuple[int, str], tuple[float, XY, float]]:
    """Self-weight by level and kind: N, its center (m) and the second moment per unit about it, m2.

    A beam's stands on its level; half of a column or brace goes to each of its ends. It is spread
    along the elements.
    """
    area = np.array([p.area for p in frame.sections])[frame.section]
    weight = area * frame.materials[frame.section, 2] * frame.lengths
    kinds = frame.kinds
    a, b = frame.ends.T
    p, q = frame.points[a, :2], frame.points[b, :2]
    found: dict[tuple[int, str], tuple[float, XY, float]] = {}
    for kind in dict.fromkeys(m.kind for m in frame.members):
        e = np.flatnonzero(kinds == kind)
        if kind == "beam":
            floors, amount, at = frame.floors[a[e]], weight[e], (p[e] + q[e]) / 2
            polar = np.sum((q[e] - p[e]) ** 2, axis=1) / 12
        else:
            floors = np.concatenate([frame.floors[a[e]], frame.floors[b[e]]])
            amount, at = np.tile(weight[e] / 2, 2), np.concatenate([p[e], q[e]])
            polar = np.zeros(len(amount))
        for floor in np.unique(floors):
            own = floors == floor
            total = float(amount[own].sum())
            center = amount[own] @ at[own] / total if total else at[own].mean(axis=0)
            about = np.sum((at[own] - center) ** 2, axis=1) + polar[own]
            found[int(floor), kind] = (
                total, (float(center[0]), float(center[1])),
                float(amount[own] @ about) / total if total else 0.0)
    return found | _weights_of_walls(frame)


def _weights_of_walls(frame: Frame) -> dict[tuple[int, str], tuple[float, XY, float]]:
    """Of walls, as :func:`weights_of`: half of each story goes to the level above, half below,
    where it stands in plan."""
    panels = frame.panels
    if panels is None:
        return {}
    half, found = panels.weights / 2, {}
    starts = np.array([w.start for w in panels.walls])[panels.wall]
    at = starts + panels.along * panels.box[:, :2].mean(axis=1)[:, None]
    polar = (panels.box[:, 1] - panels.box[:, 0]) ** 2 / 12
    levels = frame.floors[panels.carrying]
    for level in np.unique(levels[:, [0, 2]]):
        weight = half * ((levels[:, 0] == level).astype(float) + (levels[:, 2] == level))
        total = float(weight.sum())
        if total > 0:
            center = weight @ at / total
            about = np.sum((at - center) ** 2, axis=1) + polar
            found[int(level), "wall"] = (total, (float(center[0]), float(center[1])),
                                         float(weight @ about) / total)
    return found


_EQUAL = 1.02  # second moments this near to each other have no strong axis
_ALONG = 0.95  # cosine, from which an axis runs along X or Y


def strong_axes(frame: Frame) -> dict[str, Counter[str]]:
    """How many columns of each section are strong along ``X``, along ``Y`` or along neither
    (empty); sections that are alike both ways are left out."""
    found: dict[str, Counter[str]] = {}
    for m in frame.members:
        section = frame.sections[frame.section[m.elements[0]]]
        low, high = sorted((section.bending_y, section.bending_z))
        if m.kind != "column" or high < _EQUAL * low:
            continue
        strong = frame.axes[m.elements[0], 1 if section.bending_z == high else 2]
        along = next((d for d, c in zip("XY", strong, strict=False) if abs(c) > _ALONG), "")
        found.setdefault(m.section, Counter())[along] += 1
    return found
