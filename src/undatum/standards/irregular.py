"""Structural irregularities as several standards word them, each with its own limits.

Types are written ``H1a`` to ``H5`` for plan and ``V1a`` to ``V5b`` for elevation, the numbering
that most standards share; a room that numbers otherwise gives its own names.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from undatum.finding import Finding, Severity, against, several
from undatum.standards.facts import Floats, ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.ties import largest, least

#: The type found (empty for none) with its finding; the type with ``None`` where not judged.
Judged = tuple[str, Finding | None]

ROUNDING = 1e-6  # stories that are alike differ by this much in the last digits

WHAT = {
    "H1": "torsional irregularity", "H2": "re-entrant corners", "H5": "nonparallel system",
    "V3": "vertical geometry", "V5": "weak story", "H3": "abrupt change of diaphragm stiffness",
    "H4": "out-of-plane offset", "V4": "in-plane discontinuity",
}


@dataclass(frozen=True, slots=True)
class Limits:
    """Where one standard draws the lines, and how it calls its types.

    ``soft`` and ``extreme_soft`` are shares of the stiffness of the story above and of the mean of
    three above; ``weight`` and ``extent`` are ratios to an adjacent story, or to the one below
    only; ``weak`` and ``extreme_weak`` shares of the strength above; ``recess`` and ``opening``
    shares of plan dimension and floor area. ``None`` leaves a check out.

    Where two readings of a standard are possible, ``recess_from`` and ``opening_from`` are the
    lower ones: between the two the type is left open. ``doubted`` says of a type what is not
    certain of it; it is left open where it would be found, or where an exemption would spare it.
    ``without`` are types that the standard does not have, or that its room judges itself.
    """

    elevation: str
    plan: str
    soft: tuple[float, float | None]
    extreme_soft: tuple[float, float] | None
    weight: float
    extent: float
    weak: float
    extreme_weak: float | None
    below_only: bool = False
    recess: float = 0.15
    opening: float = 0.5
    names: Mapping[str, str] = field(default_factory=dict)
    recess_from: float | None = None
    opening_from: float | None = None
    doubted: Mapping[str, str] = field(default_factory=dict)
    without: tuple[str, ...] = ()

    def name(self, kind: str) -> str:
        """How the standard calls a type."""
        where = "horizontal" if kind[0] == "H" else "vertical"
        return self.names.get(kind, f"{where} type {kind[1:]}")


def judge(
    shape: ShapeFacts, limits: Limits, exempt: str = "", barred: Mapping[str, str] | None = None
) -> tuple[set[str], set[str], list[Finding]]:
    """Every type the description or the engineer can tell, those left open, and the findings.

    ``exempt`` says why stiffness and weight need not be looked at, where they need not; ``barred``
    says of types that are not permitted why not.
    """
    along = [(DIRECTIONS.index(d), d) for d in shape.directions]
    found = [
        *(_soft(shape, limits, axis, d, exempt) for axis, d in along
          if "V1a" not in limits.without),
        *([] if "V2" in limits.without else [_weight(shape, limits, exempt)]),
        *(_extent(shape, limits, axis, d) for axis, d in along if "V3" not in limits.without),
        *(_weak(shape, limits, axis, d) for axis, d in along),
        *(_in_plan(shape, limits) if len(along) == 2 else _of_a_plane(shape, limits)),
        _in_plane(shape, limits),
    ]
    kinds = {kind for kind, finding in found
             if kind and finding is not None and finding.severity is not Severity.NOTE}
    open_ = {kind for kind, finding in found
             if finding is None or finding.severity is Severity.NOTE}
    why = barred or {}
    findings = [
        f if kind not in why else
        replace(f, severity=Severity.EXCEEDED, text=f"{f.text} {why[kind]}")
        for kind, f in found if f is not None
    ]
    left = dict.fromkeys(kind for kind, finding in found if finding is None)
    if left:
        findings.append(Finding(
            "irregularities not judged", "whole structure", Severity.NOTE,
            f"Not checked: {', '.join(f'{WHAT[k]} ({limits.name(k)})' for k in left)}. The input "
            "lacks the data needed for these checks.", limits.plan,
            "Give the strengths and lengths of the lines, state the others in [irregularities], or "
            "check them by hand."))
    return kinds, open_, findings


def _in_plan(shape: ShapeFacts, limits: Limits) -> list[Judged]:
    return [*(check(shape, limits) for kind, check in (
        ("H2", _reentrant), ("H3", _diaphragm), ("H4", _offset), ("H5", nonparallel))
        if kind not in limits.without), *([] if shape.turns else [("H1", None)])]


def _of_a_plane(shape: ShapeFacts, limits: Limits) -> list[Judged]:
    """A plane building shows nothing of the plan, but what the engineer states holds."""
    stated = [(kind, judge(shape, limits)) for kind, judge, key in (
        ("H3", _diaphragm, "diaphragm_discontinuity"), ("H4", _offset, "out_of_plane_offset"))
        if shape.stated.get(key) is not None and kind not in limits.without]
    known = [*limits.without, *(kind for kind, _ in stated)]
    return [*(found for _, found in stated),
            *((kind, None) for kind in ("H1", "H2", "H3", "H4", "H5") if kind not in known)]


def drift_exempt(shape: ShapeFacts) -> str:
    """No story drift ratio above 1.3 times that of the story above, the top two left out."""
    if len(shape.levels) < 2:
        return "one-story building"
    own = shape.drift_ratios[[DIRECTIONS.index(d) for d in shape.directions]]
    ratios = own[:, 1:] / own[:, :-1]
    if np.all(ratios[:, 1:] <= 1.3):
        return "no story drift ratio is more than 1.3 times that of the story above"
    return ""


def _result(
    kind: str, irregular: bool, limits: Limits, check: str, where: str, text: str, otherwise: str,
    clause: str, demand: float | None = None, capacity: float | None = None, advice: str = "",
) -> Judged:
    if irregular:
        return kind, Finding(check, where, Severity.WARNING, f"{text}: {limits.name(kind)}.",
                             clause, advice, demand, capacity)
    return "", Finding(check, where, Severity.OK, f"{text}{otherwise}.", clause, "", demand,
                       capacity)


def _left_open(
    kind: str, limits: Limits, check: str, where: str, text: str, clause: str, doubt: str,
    demand: float | None = None, capacity: float | None = None,
) -> Judged:
    """A note: what two readings of the standard judge differently is neither found nor absent."""
    return kind, Finding(check, where, Severity.NOTE, f"{text}. Not judged: {doubt}.", clause,
                         f"Check the print: is this a {limits.name(kind)}?", demand, capacity)


def _adjacent(values: Floats, below_only: bool) -> list[tuple[int, int]]:
    """(story, other) pairs, top down; ``below_only`` compares with the story below alone."""
    steps = (1,) if below_only else (-1, 1)
    return [(i, i + s) for i in range(values.size) for s in steps if 0 <= i + s < values.size]


def _soft(
    shape: ShapeFacts, limits: Limits, axis: int, direction: Direction, exempt: str
) -> Judged:
    k, check, clause = shape.stiffness[axis], "soft story", limits.elevation
    doubt = limits.doubted.get("V1a", "")
    if k.size == 1 or (exempt and not doubt):
        return "", Finding(check, f"direction {direction}", Severity.OK,
                           f"Not considered: {exempt or 'one story'}.", clause)
    one = k[1:] / k[:-1]
    three = np.full(one.size, np.inf)  # over the mean of the three stories above
    three[2:] = 3 * k[3:] / (k[:-3] + k[1:-2] + k[2:-1])
    if limits.soft[1] is None:
        three = np.full(one.shape, np.inf)
    usual = np.minimum(one / limits.soft[0], three / (limits.soft[1] or 1.0))
    kind = "V1a"
    i = least(usual)
    if limits.extreme_soft is not None:
        extreme = np.minimum(one / limits.extreme_soft[0], three / limits.extreme_soft[1])
        if extreme.min() < 1 - ROUNDING:
            kind, i = "V1b", least(extreme)
    soft, extreme_soft = limits.soft, limits.extreme_soft or limits.soft
    ratio = f"{against(one[i], soft[0], extreme_soft[0])} times that of the story above"
    if np.isfinite(three[i]):
        ratio += f" and {against(three[i], soft[1] or 0.0, extreme_soft[1] or 0.0)} times the " \
            "mean of three above"
    where, found = f"direction {direction}, story {shape.levels[i + 1]}", usual[i] < 1 - ROUNDING
    if found and exempt:
        return _left_open(kind, limits, check, where, f"Stiffness is {ratio}; {exempt}", clause,
                          doubt, 1.0, float(usual[i]))
    return _result(kind, bool(found), limits, check, where, f"Stiffness is {ratio}",
                   "", clause, 1.0, float(usual[i]), "Stiffen this story, or soften those above.")


def _weight(shape: ShapeFacts, limits: Limits, exempt: str) -> Judged:
    w, check = shape.weights, "weight irregularity"
    # A roof that is lighter than the floor below is not considered.
    pairs = [(i, j) for i, j in _adjacent(w, limits.below_only)
             if w[j] > 0 and not (j == 0 and w[0] < w[i])]
    doubt = limits.doubted.get("V2", "")
    if not pairs or (exempt and not doubt):
        return "", Finding(check, "whole structure", Severity.OK,
                           f"Not considered: {exempt or 'one level'}.", limits.elevation)
    i, j = max(pairs, key=lambda p: w[p[0]] / w[p[1]])
    ratio = float(w[i] / w[j])
    if doubt and ratio > limits.weight:
        return _left_open("V2", limits, check, f"level {shape.levels[i]}",
                          f"Weight is {against(ratio, limits.weight)} times that of "
                          f"{shape.levels[j]}",
                          limits.elevation, doubt, ratio, limits.weight)
    return _result("V2", ratio > limits.weight, limits, check, f"level {shape.levels[i]}",
                   f"Weight is {against(ratio, limits.weight)} times that of "
                          f"{shape.levels[j]}",
                   f", not above {limits.weight:g}", limits.elevation, ratio, limits.weight)


def _extent(shape: ShapeFacts, limits: Limits, axis: int, direction: Direction) -> Judged:
    e = shape.extents[axis]
    if not np.isfinite(e).all():
        return "V3", None
    pairs = _adjacent(e, limits.below_only)
    if not pairs:
        return "", Finding("vertical geometry", f"direction {direction}", Severity.OK,
                           "One story.", limits.elevation)
    # of the system from end to end, and of the braced bays of each plane
    every = [("The lateral system extends", e)] + [
        (f"The braces on {p.name} extend", p.reach) for p in shape.braced
        if p.direction == direction]
    ratio, i, j, what = max(
        ((float(r[i] / r[j]), i, j, what) for what, r in every for i, j in pairs if r[j] > 0
         and np.isfinite(r[i])), key=lambda found: found[0])
    return _result("V3", ratio > limits.extent * (1 + ROUNDING), limits, "vertical geometry",
                   f"direction {direction}, story {shape.levels[i]}",
                   f"{what} over {against(ratio, limits.extent)} times the length of story "
                   f"{shape.levels[j]}", f", not above {limits.extent:g}", limits.elevation, ratio,
                   limits.extent)


def _weak(shape: ShapeFacts, limits: Limits, axis: int, direction: Direction) -> Judged:
    strength = shape.strengths[axis]
    if not np.isfinite(strength).all():
        return "V5", None
    if strength.size == 1:
        return "", Finding("weak story", f"direction {direction}", Severity.OK, "One story.",
                           limits.elevation)
    ratios = strength[1:] / strength[:-1]
    i = least(ratios)
    ratio = float(ratios[i])
    kind = "V5b" if limits.extreme_weak is not None and ratio < limits.extreme_weak else "V5a"
    return _result(kind, ratio < limits.weak * (1 - ROUNDING), limits, "weak story",
                   f"direction {direction}, story {shape.levels[i + 1]}",
                   "Strength is " + against(ratio, limits.weak, limits.extreme_weak or 0.0)
                   + " times that of the story above",
                   f", not below {limits.weak:g}", limits.elevation, limits.weak, ratio,
                   "Strengthen this story.")


def _reentrant(shape: ShapeFacts, limits: Limits) -> Judged:
    if not shape.corners:
        return "", Finding("re-entrant corner", "whole structure", Severity.OK,
                           "No floor has a re-entrant corner.", limits.plan)
    worst = max(shape.corners, key=lambda c: min(c.along_x, c.along_y))
    least = min(worst.along_x, worst.along_y)
    check, where = "re-entrant corner", f"level {worst.level}"
    text = f"Projections beyond the corner are {worst.along_x:.0%} of the plan along X and " \
           f"{worst.along_y:.0%} along Y"
    low = limits.recess if limits.recess_from is None else limits.recess_from
    if low < least <= limits.recess:
        return _left_open("H2", limits, check, where, text, limits.plan, limits.doubted["H2"],
                          least, low)
    return _result("H2", least > limits.recess, limits, check, where, text,
                   f", not both above {low:.0%}", limits.plan, least, low)


def _diaphragm(shape: ShapeFacts, limits: Limits) -> Judged:
    i = largest(shape.openings)
    share, stated = float(shape.openings[i]), shape.stated.get("diaphragm_discontinuity")
    low = limits.opening if limits.opening_from is None else limits.opening_from
    if low < share <= limits.opening and not stated:
        return _left_open("H3", limits, "diaphragm discontinuity", f"level {shape.levels[i]}",
                          f"Openings take {share:.0%} of the floor", limits.plan,
                          limits.doubted["H3"], share, low)
    if share <= limits.opening and stated is None:
        return "H3", None
    text = f"Openings take {share:.0%} of the floor" if share > limits.opening or not stated \
        else "An abrupt change of stiffness is stated in the project"
    return _result("H3", share > limits.opening or bool(stated), limits,
                   "diaphragm discontinuity", f"level {shape.levels[i]}", text,
                   " at most, and no abrupt change of stiffness is stated", limits.plan, share,
                   limits.opening if share > limits.opening else low)


def _offset(shape: ShapeFacts, limits: Limits) -> Judged:
    stated = bool(shape.stated.get("out_of_plane_offset"))
    text = f"Nothing continues below {several(shape.standing)} in the same plane" \
        if shape.standing else "An offset is stated in the project" if stated else \
        "Every lateral line continues down to the base in its plane"
    return _result("H4", bool(shape.standing) or stated, limits, "out-of-plane offset",
                   "whole structure", text, "", limits.plan)


def _in_plane(shape: ShapeFacts, limits: Limits) -> Judged:
    stated = shape.stated.get("in_plane_offset")
    if stated is None and not shape.shifted and not shape.members_alone:
        return "V4", None
    text = ("Carried by beams, or offset to another bay in their plane: "
            f"{several(shape.shifted)}") if shape.shifted else \
        "An offset is stated in the project" if stated else \
        "None, as stated in the project" if stated is not None else \
        "Every brace continues in its bay and every column on a column"
    return _result("V4", bool(stated) or bool(shape.shifted), limits, "in-plane discontinuity",
                   "whole structure", text, "", limits.elevation)


def nonparallel(shape: ShapeFacts, limits: Limits) -> Judged:
    text = f"Parallel to neither X nor Y: {several(shape.skew)}" if shape.skew else \
        "Every lateral line runs along X or Y"
    return _result("H5", bool(shape.skew), limits, "nonparallel system", "whole structure", text,
                   "", limits.plan)
