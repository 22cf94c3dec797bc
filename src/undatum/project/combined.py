"""Load combinations with numbers: section forces of members and reactions, and their extremes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.building.members import Member
from undatum.building.weight import Weights
from undatum.mechanics.actions import (
    ACTIONS,
    REACTIONS,
    feet,
    framed_of,
    place_name,
    reactions,
    rid_of_round_off,
    section_forces,
)
from undatum.mechanics.cases import LoadCases, along
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import Quantity
from undatum.record import record
from undatum.standards.answers import CombinationAnswer, LoadCombination
from undatum.standards.contract import WeightRule
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, Method
from undatum.table import Table, column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Extreme = Literal["largest", "smallest"]
SIGNS: tuple[tuple[Extreme, str], ...] = (("largest", "+"), ("smallest", "−"))


@record
class Parts:
    """Everything a combination multiplies, for ``k`` values. SI.

    ``gravity`` (k,) by kind of load, first order; ``quake`` by direction: the sets of one method
    by direction and eccentricity, with their values (k,), signed for static sets, peaks for a
    spectrum.
    """

    gravity: Mapping[str, Floats]
    quake: Mapping[Direction, tuple[tuple[str, Floats], ...]]
    method: Method


@record
class Combiner:
    """How rows of a standard become numbers.

    ``rows`` with and without earthquake; ``how`` directions go together; ``factor`` what a row puts
    on a kind of load.
    """

    rows: tuple[LoadCombination, ...]
    how: DirectionalCombination
    factor: Callable[[LoadCombination, str], float]

    def gravity(self, row: LoadCombination, parts: Parts) -> Floats | float:
        """The part of a row that carries no sign of its own."""
        total: Floats | float = 0.0
        for kind, values in parts.gravity.items():
            total = total + self.factor(row, kind) * values
        return total

    def quake(self, row: LoadCombination, parts: Parts) -> tuple[Floats | float, Floats]:
        """Largest effect (k,) of the earthquake with a positive sign, and which set (2, k) of each
        direction gives it, -1 for none. With the other sign it is the same: both stand in a row."""
        sizes, which = [], []
        for d, own in zip(DIRECTIONS, row.quake, strict=True):
            sets = parts.quake.get(d, ()) if own else ()
            if not sets:
                continue
            values = np.abs(np.array([v for _, v in sets]))
            sizes.append(own * values.max(axis=0))
            which.append((DIRECTIONS.index(d), values.argmax(axis=0)))
        count = len(next(iter(parts.gravity.values()), ())) or (len(sizes[0]) if sizes else 0)
        lead = np.full((2, count), -1)
        for axis, index in which:
            lead[axis] = index
        if not sizes:
            return 0.0, lead
        if self.how == "SRSS":
            return np.sqrt(np.sum(np.square(sizes), axis=0)), lead
        return np.sum(sizes, axis=0), lead

    def extremes(
        self, kind: str, parts: Parts
    ) -> dict[Extreme, tuple[Floats, Ints, Ints]]:
        """Of the rows of a kind the largest and smallest value (k,), the row, the sets (2, k)."""
        rows = [i for i, row in enumerate(self.rows) if row.kind == kind]
        found: dict[Extreme, tuple[Floats, Ints, Ints]] = {}
        highs, lows, leads = [], [], []
        for i in rows:
            gravity = self.gravity(self.rows[i], parts)
            quake, lead = self.quake(self.rows[i], parts)
            highs.append(np.broadcast_to(gravity + quake, lead.shape[1:]))
            lows.append(np.broadcast_to(gravity - quake, lead.shape[1:]))
            leads.append(lead)
        both: tuple[tuple[Extreme, Floats], ...] = (
            ("largest", np.array(highs)), ("smallest", -np.array(lows)))
        for name, table in both:
            best = np.asarray(np.argmax(table, axis=0), dtype=np.intp)
            at = np.arange(table.shape[1])
            value = np.asarray(table[best, at] * (1 if name == "largest" else -1))
            which = np.array(rows, dtype=np.intp)[best]
            found[name] = value, which, np.asarray(np.array(leads)[best, :, at].T, dtype=np.intp)
        return found

    def kinds(self) -> tuple[str, ...]:
        """Kinds of combination, in order: each has extremes of its own."""
        return tuple(dict.fromkeys(row.kind for row in self.rows))

    def said(self, row: int, lead: Ints, sign: str, parts: Parts) -> str:
        """A row with the sets that lead in it, in words."""
        one = self.rows[row]
        sets = [parts.quake[d][int(k)][0] for d, k in zip(DIRECTIONS, lead, strict=True) if k >= 0]
        if not sets:
            return one.name
        told = any(name not in DIRECTIONS for name in sets)  # eccentricities
        return f"{one.name} ({sign}" + (f": {', '.join(sets)})" if told else ")")


def combiner_of(
    answer: CombinationAnswer, how: DirectionalCombination, rule: WeightRule, weights: Weights
) -> Combiner:
    """The combinations of a standard, ready to multiply."""
    counted: dict[str, float] = {}
    for kind in dict.fromkeys(line.kind for line in weights.lines):
        own = [line for line in weights.lines if line.kind == kind]
        amount = sum(line.amount for line in own)
        counted[kind] = sum(line.counted for line in own) / amount if amount else 0.0

    def factor(row: LoadCombination, kind: str) -> float:
        effect = rule.effect(kind)
        if effect != "live":
            return row.dead if effect == "dead" else row.snow
        if not any(row.quake):
            return row.live
        if kind == "storage" and answer.storage is not None:
            return answer.storage
        return row.live * (counted.get(kind, 0.0) if answer.imposed == "seismic share" else 1.0)

    return Combiner((*answer.gravity, *answer.rows), how, factor)


def parts_of(
    cases: LoadCases, sets: Sequence[ResponseSet], method: Method, quantity: Quantity,
    gravity: Mapping[str, Floats],
) -> Parts:
    """The values of a quantity under gravity by kind, and under the sets of one method."""
    kinds = cases.taken.kinds if cases.taken is not None else ()
    quake: dict[Direction, tuple[tuple[str, Floats], ...]] = {}
    for d in DIRECTIONS:
        own = [s for s in sets if s.direction == d and s.method == method]
        if own:
            quake[d] = tuple((d + {1: " +e", -1: " −e", 0: ""}[s.sign], s.of(quantity))
                             for s in own)
    return Parts({k: v for k, v in gravity.items() if k in kinds}, quake, method)


def member_parts(
    model: Model, cases: LoadCases, sets: Sequence[ResponseSet], method: Method,
    members: Sequence[Member], at: Sequence[float],
) -> Parts:
    """Section forces (member, place, component) laid out in one row each."""
    frame = framed_of(model).frame
    gravity = {name: along(case, frame, members, at).ravel() for name, case in cases.on_members}
    return parts_of(cases, sets, method, section_forces(model, members, at), gravity)


def foot_parts(
    model: Model, cases: LoadCases, sets: Sequence[ResponseSet], method: Method
) -> Parts:
    """Reactions (foot, component) laid out in one row each."""
    gravity = {name: case.reactions.ravel() for name, case in cases.on_members}
    return parts_of(cases, sets, method, reactions(model), gravity)


NOTE = "Gravity is first order, in full by kind of load, without any reduction of live load; the " \
    "vertical effect of the earthquake stands in the factor on dead load. Forces of a spectrum " \
    "carry no sign: both count. P-Delta factors are not in them."


def envelope_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float]
) -> Table:
    """Largest and smallest of every component by member, place and kind of combination."""
    said = [place_name(p) for p in at]
    rows: list[tuple[str, str, str, str, str, float, str]] = []
    order: list[tuple[int, ...]] = []
    for n, kind in enumerate(how.kinds()):
        found = how.extremes(kind, parts)
        for name, sign in SIGNS:
            values, which, leads = found[name]
            table = rid_of_round_off(values.reshape(-1, 6))
            for i, m in enumerate(members):
                for j, place in enumerate(said):
                    for c, component in enumerate(ACTIONS):
                        k = (i * len(at) + j) * 6 + c
                        order.append((i, j, n, c, name == "smallest"))
                        rows.append((m.name, place, kind, component, name, float(table[k // 6, c]),
                                     how.said(int(which[k]), leads[:, k], sign, parts)))
    rows = [rows[k] for k in sorted(range(len(rows)), key=lambda k: order[k])]
    none = {r[:4] for r in rows} - {r[:4] for r in rows if r[5]}  # no need to say it twice
    rows = [r for r in rows if r[:4] not in none or r[4] == "largest"]
    force = [r[3] in ACTIONS[:3] for r in rows]
    return Table(
        "member_envelopes", f"Extremes of load combinations, earthquake by {_by(parts.method)}",
        (
            column("member", "", [r[0] for r in rows]), column("at", "", [r[1] for r in rows]),
            column("kind", "", [r[2] for r in rows]), column("component", "", [r[3] for r in rows]),
            column("extreme", "", [r[4] for r in rows]),
            column("force", "force", [r[5] if f else None
                                      for r, f in zip(rows, force, strict=True)]),
            column("moment", "moment", [None if f else r[5]
                                        for r, f in zip(rows, force, strict=True)]),
            column("combination", "", [r[6] for r in rows]),
        ),
        note=NOTE + " Components stand for themselves: their extremes need not come together.",
    )


def _by(method: Method) -> str:
    return "static forces" if method == "static" else "response spectrum"


def each_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float]
) -> Table:
    """Every combination: what gravity gives, and the earthquake to be put on it with both signs."""
    said = [place_name(p) for p in at]
    places = [(m.name, place) for m in members for place in said]
    rows: list[tuple[str, str, LoadCombination, str, Floats]] = []
    for row in how.rows:
        gravity = rid_of_round_off(
            np.broadcast_to(how.gravity(row, parts), (6 * len(places),)).reshape(-1, 6))
        quake, lead = how.quake(row, parts)
        size = rid_of_round_off(np.broadcast_to(quake, (6 * len(places),)).reshape(-1, 6))
        for (member, place), g, q in zip(places, gravity, size, strict=True):
            rows.append((member, place, row, "gravity", g))
            if (lead >= 0).any():
                rows.append((member, place, row, "earthquake ±", q))
    rows.sort(key=lambda r: places.index((r[0], r[1])))
    return Table(
        "member_combinations", f"Load combinations, earthquake by {_by(parts.method)}",
        (
            column("member", "", [r[0] for r in rows]), column("at", "", [r[1] for r in rows]),
            column("kind", "", [r[2].kind for r in rows]),
            column("combination", "", [r[2].name for r in rows]),
            column("part", "", [r[3] for r in rows]),
            *(column(name, "force" if c < 3 else "moment", [float(r[4][c]) for r in rows])
              for c, name in enumerate(ACTIONS)),
            column("clause", "", [r[2].clause for r in rows]),
        ),
        note=NOTE + " Of several sets of a direction (both signs of the eccentricity) the larger "
        "counts, component by component.",
    )


def together_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float]
) -> Table:
    """Axial force with both moments for every combination and every choice of signs.

    Static sets keep their signs against each other: each eccentricity and each sense of the forces
    is a row of true values. Those of a spectrum have none, so that axial force and moments take
    every sign by themselves.
    """
    said = [place_name(p) for p in at]
    places = [(m.name, place) for m in members for place in said]
    count = 6 * len(places)
    taken = (0, 4, 5)  # axial, moment_y, moment_z
    rows: list[tuple[int, str, str, str, Floats]] = []
    for row in how.rows:
        gravity = np.broadcast_to(how.gravity(row, parts), (count,)).reshape(-1, 6)
        for name, quake in _variants(how, row, parts, count, taken):
            both = rid_of_round_off(gravity + quake.reshape(-1, 6))
            rows += [(k, row.kind, row.name, name, both[k, taken]) for k in range(len(places))]
    rows.sort(key=lambda r: r[0])
    return Table(
        "column_actions", f"Axial force with both moments, earthquake by {_by(parts.method)}",
        (
            column("member", "", [places[r[0]][0] for r in rows]),
            column("at", "", [places[r[0]][1] for r in rows]),
            column("kind", "", [r[1] for r in rows]),
            column("combination", "", [r[2] for r in rows]),
            column("signs", "", [r[3] for r in rows]),
            *(column(ACTIONS[c], "force" if c < 3 else "moment", [float(r[4][k]) for r in rows])
              for k, c in enumerate(taken)),
        ),
        note=NOTE,
    )


def _variants(
    how: Combiner, row: LoadCombination, parts: Parts, count: int, taken: Sequence[int]
) -> list[tuple[str, Floats]]:
    """What the earthquake adds (k,), by every choice of sets and signs, with its name."""
    own = [(d, f, parts.quake[d]) for d, f in zip(DIRECTIONS, row.quake, strict=True)
           if f and d in parts.quake]
    if not own:
        return [("", np.zeros(count))]
    if parts.method == "static" and how.how != "SRSS":
        found = []
        for sets in product(*(s for *_, s in own)):
            for signs in product((1.0, -1.0), repeat=len(own)):
                total = sum((sign * f * values for (_, f, _), (_, values), sign in
                             zip(own, sets, signs, strict=True)), np.zeros(count))
                found.append((", ".join(
                    f"{'+' if s > 0 else '−'} {name}" for (name, _), s in
                    zip(sets, signs, strict=True)), np.asarray(total)))
        return found
    size, _ = how.quake(row, parts)
    found = []
    for signs in product((1.0, -1.0), repeat=len(taken)):
        one = np.zeros((count // 6, 6))
        for c, sign in zip(taken, signs, strict=True):
            one[:, c] = sign * np.broadcast_to(size, (count,)).reshape(-1, 6)[:, c]
        found.append((", ".join(f"{'+' if s > 0 else '−'} {ACTIONS[c]}" for c, s in
                                zip(taken, signs, strict=True)), one.ravel()))
    return found


def footing_table(how: Combiner, parts: Parts, model: Model) -> Table:
    """Extremes of the reactions foot by foot, by kind of combination; what lifts off is marked."""
    names = feet(model)
    rows: list[tuple[str, str, str, str, float, str]] = []
    for kind in how.kinds():
        found = how.extremes(kind, parts)
        for name, sign in SIGNS:
            values, which, leads = found[name]
            table = rid_of_round_off(values.reshape(-1, 6))
            rows += [(foot, kind, component, name, float(table[i, c]),
                      how.said(int(which[6 * i + c]), leads[:, 6 * i + c], sign, parts))
                     for i, foot in enumerate(names) for c, component in enumerate(REACTIONS)]
    none = {r[:3] for r in rows} - {r[:3] for r in rows if r[4]}
    rows = [r for r in rows if r[:3] not in none or r[3] == "largest"]
    rows.sort(key=lambda r: names.index(r[0]))
    force = [r[2] in REACTIONS[:3] for r in rows]
    up = REACTIONS[2]
    return Table(
        "footings", f"Reactions of load combinations, earthquake by {_by(parts.method)}",
        (
            column("foot", "", [r[0] for r in rows]), column("kind", "", [r[1] for r in rows]),
            column("component", "", [r[2] for r in rows]),
            column("extreme", "", [r[3] for r in rows]),
            column("force", "force", [r[4] if f else None
                                      for r, f in zip(rows, force, strict=True)]),
            column("moment", "moment", [None if f else r[4]
                                        for r, f in zip(rows, force, strict=True)]),
            column("uplift", "", [r[2] == up and r[4] < 0 for r in rows]),
            column("combination", "", [r[5] for r in rows]),
        ),
        note=NOTE + " Actions of the ground on the structure: a negative force Z holds a foot "
        "down.",
        marks=tuple(i for i, r in enumerate(rows) if r[2] == up and r[4] < 0),
    )
