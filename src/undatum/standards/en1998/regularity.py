"""EN 1998-1, 4.2.3: regularity in plan and in elevation, held against what the project states."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.finding import Finding, Severity
from undatum.standards.answers import RegularityAnswer
from undatum.standards.en1998.system import SystemInput
from undatum.standards.facts import ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.ties import largest, least

ADVICE = "Set it to false in the project, or show why the criterion does not apply."


RADIUS = "4.2.3.2(6), Eq. 4.1b"
FLEXIBLE = "torsionally flexible"  # 5.2.2.1(4): the torsional radius is below that of gyration


def _fails(finding: Finding) -> bool:
    """Whether a criterion was judged and is not met; what has no number is left open."""
    return finding.severity is not Severity.OK and finding.capacity is not None


def judge(shape: ShapeFacts) -> RegularityAnswer:
    """Criteria of 4.2.3.2 and 4.2.3.3 that numbers can show; ``plan`` or ``elevation`` where one
    of them fails.

    Symmetry, continuity of the systems and the gradual change of stiffness and mass have no
    number: they are left to the engineer, and the last finding says so.
    """
    plan, elevation = _plan(shape), _elevation(shape)
    kinds = [name for name, found in (("plan", plan), ("elevation", elevation))
             if any(_fails(f) for f in found)]
    if any(_fails(f) and f.clause == RADIUS for f in plan):
        kinds.append(FLEXIBLE)
    open_ = [name for name, found in (("plan", plan), ("elevation", elevation))
             if any(f.severity is not Severity.OK and not _fails(f) for f in found)]
    rest = Finding(
        "regularity not judged", "whole structure", Severity.NOTE,
        "Symmetry in plan, continuity of the lateral systems, gradual change of stiffness and mass "
        "and the ratio of story strengths have no number in the standard.", "4.2.3.2, 4.2.3.3",
        "Judge them by hand.")
    return RegularityAnswer(tuple(kinds), tuple(open_), (*plan, *elevation, rest))


def held_against(
    asked: Mapping[Direction, SystemInput], irregular: Sequence[str]
) -> tuple[Finding, ...]:
    """A finding where the project calls the building regular and a criterion fails."""
    found = []
    for name, key in (("plan", "regular_in_plan"), ("elevation", "regular_in_elevation")):
        stated = [d for d, given in asked.items() if getattr(given, key)]
        if name in irregular and stated:
            cost = "the default overstrength ratio falls" if name == "plan" else \
                "q is reduced by 20 % and the lateral force method is not open"
            found.append(Finding(
                f"regularity in {name}", f"direction {', '.join(stated)}", Severity.EXCEEDED,
                f"The project states {key} = true, but a criterion of 4.2.3 is not met; with "
                f"false {cost}.", "4.2.3.1, Table 4.1", ADVICE))
    return tuple(found)


def _criterion(
    name: str, where: str, value: float, limit: float, text: str, clause: str, *,
    least: bool = False,
) -> Finding:
    near = 1e-9 * limit  # a set-back of just the limit is within it
    holds = value >= limit - near if least else value <= limit + near
    return Finding(f"regularity in {name}", where, Severity.OK if holds else Severity.NOTE,
                   f"{text}: {value:.3g} against {'at least' if least else 'at most'} {limit:.3g}.",
                   clause, "", value, limit)


def _plan(shape: ShapeFacts) -> list[Finding]:
    if len(shape.directions) == 1:
        return [Finding("regularity in plan", "whole structure", Severity.NOTE,
                        "Not checked: a plane building has no plan.", "4.2.3.2",
                        "Judge it by hand.")]
    found = []
    slender = shape.dimensions.max(axis=0) / shape.dimensions.min(axis=0)
    i = largest(slender)
    found.append(_criterion("plan", f"level {shape.levels[i]}", float(slender[i]), 4.0,
                            "Slenderness in plan", "4.2.3.2(5)"))
    i = largest(shape.recessed)
    found.append(_criterion("plan", f"level {shape.levels[i]}", float(shape.recessed[i]), 0.05,
                            "Largest recess from the convex outline over the floor area",
                            "4.2.3.2(3)"))
    for axis, d in enumerate(DIRECTIONS if shape.turns else ()):
        e, r = shape.eccentricities[axis], shape.radii[axis]
        known = np.isfinite(e) & (r > 0) & np.isfinite(r) & (shape.gyration > 0)
        if not known.any():
            found.append(Finding(
                "regularity in plan", f"direction {d}", Severity.NOTE,
                "No torsional radius can be given for these lines.", "4.2.3.2(6)",
                "Judge it by hand."))
            continue
        i = largest(np.where(known, e / r, -1.0))
        found.append(_criterion("plan", f"story {shape.levels[i]}, eccentricity along {d}",
                                float(e[i] / r[i]), 0.30, "Eccentricity over torsional radius",
                                "4.2.3.2(6), Eq. 4.1a"))
        i = least(np.where(known, r / shape.gyration, np.inf))
        found.append(_criterion("plan", f"story {shape.levels[i]}, radius with {d}",
                                float(r[i] / shape.gyration[i]), 1.0,
                                "Torsional radius over radius of gyration",
                                RADIUS, least=True))
    return found


def _elevation(shape: ShapeFacts) -> list[Finding]:
    """Set-backs by face (4.2.3.3(5))."""
    found = []
    for d in shape.directions:
        axis = DIRECTIONS.index(d)
        low, high = shape.bounds[:, axis], shape.bounds[:, 2 + axis]
        if len(shape.levels) < 2:
            continue
        found.append(_setbacks(shape, d, low, high))
    return found or [Finding("regularity in elevation", "whole structure", Severity.OK,
                             "One story: no set-back.", "4.2.3.3(5)")]


def _setbacks(
    shape: ShapeFacts, d: Direction, low: np.ndarray[tuple[int, ...], np.dtype[np.float64]],
    high: np.ndarray[tuple[int, ...], np.dtype[np.float64]],
) -> Finding:
    """Top down: the step from the floor below, on either face, over the plan dimension below."""
    size = high - low
    left, right = low[:-1] - low[1:], high[1:] - high[:-1]
    name, where, clause = "elevation", f"direction {d}", "4.2.3.3(5)"
    if np.all(np.maximum(left, right) < 1e-6) and np.all(np.minimum(left, right) > -1e-6):
        return Finding(f"regularity in {name}", where, Severity.OK, "No set-back.", clause)
    if np.any(np.minimum(left, right) < -1e-6):
        i = least(np.minimum(left, right))
        return Finding(
            f"regularity in {name}", f"{where}, level {shape.levels[i]}", Severity.NOTE,
            f"The floor extends beyond {shape.levels[i + 1]} below; the standard has rules for "
            "set-backs only, so this is not checked.", clause, "Check the overhang by hand.")
    steps = (left + right) / size[1:]
    i = largest(steps)
    where = f"{where}, level {shape.levels[i]}"
    alone = np.count_nonzero(steps > 1e-6) == 1
    if alone and shape.heights[i + 1] <= 0.15 * shape.heights[0] * (1 + 1e-9):
        return _criterion(
            name, where, float(steps[i]), 0.50, "Single set-back in the lowest 15 % of the height "
            "(the part below the tower is to carry 75 % of its shear)", f"{clause}(b)")
    if np.allclose(left, right, atol=1e-3 * size[-1]):
        return _criterion(name, where, float(steps[i]), 0.20,
                          "Set-back with symmetry kept, over the dimension below", f"{clause}(a)")
    whole = max(float(left.sum()), float(right.sum())) / float(size[-1])
    each = float(np.max(np.maximum(left, right) / size[1:]))
    worst = max(whole / 0.30, each / 0.10)
    return _criterion(
        name, where, worst, 1.0,
        f"Set-backs on one face, {whole:.0%} in all against 30 % and {each:.0%} at one floor "
        "against 10 %", f"{clause}(c)")
