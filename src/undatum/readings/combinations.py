"""What load combinations multiply, and how rows of factors become extremes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import FurtherSet, Readable, SpectrumSet, StaticSet
from undatum.checks.stability import StabilityCheck
from undatum.layout.groups import LoadGroups
from undatum.layout.whole import Building
from undatum.mechanics.cases import StaticCase
from undatum.mechanics.model import Model
from undatum.readings.own import OwnCombination
from undatum.readings.readable import Thing
from undatum.record import record
from undatum.standards.answers import CombinationAnswer, LoadCombination
from undatum.standards.terms import MOTIONS, DirectionalCombination, Method, Motion

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Extreme = Literal["largest", "smallest"]
SIGNS: tuple[tuple[Extreme, str], ...] = (("largest", "+"), ("smallest", "−"))


@record
class Row:
    """One combination: factors on kinds of load and cases by name, on the forces along X, Y and Z
    (both signs), which go together by ``how``, and on single sets."""

    kind: str
    name: str
    factors: Mapping[str, float]
    quake: tuple[float, float, float]
    how: DirectionalCombination
    clause: str
    sets: Mapping[str, float]

    def factor(self, name: str) -> float:
        """What multiplies a kind of load or a case; nothing where it is not named."""
        return self.factors.get(name, 0.0)


@record
class Parts:
    """Everything a combination multiplies, for ``count`` values. SI.

    ``still`` (k,) by kind of load and case, first order; ``quake`` by direction: the sets of one
    method by direction and eccentricity, with their values (k,), signed for static sets, peaks for
    a spectrum; ``named`` those of single sets that rows name, and whether they have a sign. P-Delta
    factors are in what comes of the earthquake.
    """

    count: int
    still: Mapping[str, Floats]
    quake: Mapping[Motion, tuple[tuple[str, Floats], ...]]
    named: Mapping[str, tuple[Floats, bool]]
    method: Method


@record
class Combiner:
    """The combinations of a job, with and without earthquake, ready to multiply."""

    rows: tuple[Row, ...]
    vertical_in_dead: bool = False

    def gravity(self, row: Row, parts: Parts) -> Floats:
        """The part (k,) of a row that does not change its sign."""
        total = np.zeros(parts.count)
        for name, values in parts.still.items():
            total += row.factor(name) * values
        for name, factor in row.sets.items():
            values, signed = parts.named[name]
            if signed:
                total += factor * values
        return total

    def quake(self, row: Row, parts: Parts) -> tuple[Floats, Ints]:
        """Largest effect (k,) of what has both signs, and which set (3, k) of each direction gives
        it, -1 for none."""
        sizes = []
        lead = np.full((3, parts.count), -1)
        for axis, (d, own) in enumerate(zip(MOTIONS, row.quake, strict=True)):
            sets = parts.quake.get(d, ()) if own else ()
            if sets:
                values = np.abs(np.array([v for _, v in sets]))
                sizes.append(own * values.max(axis=0))
                lead[axis] = values.argmax(axis=0)
        total = np.zeros(parts.count)
        if sizes:
            total += np.sqrt(np.sum(np.square(sizes), axis=0)) if row.how == "SRSS" \
                else np.sum(sizes, axis=0)
        for name, factor in row.sets.items():
            values, signed = parts.named[name]
            if not signed:
                total += abs(factor) * values
        return total, lead

    def extremes(self, kind: str, parts: Parts) -> dict[Extreme, tuple[Floats, Ints, Ints]]:
        """Of the rows of a kind the largest and smallest value (k,), the row, the sets (3, k)."""
        rows = [i for i, row in enumerate(self.rows) if row.kind == kind]
        found: dict[Extreme, tuple[Floats, Ints, Ints]] = {}
        highs, lows, leads = [], [], []
        for i in rows:
            gravity = self.gravity(self.rows[i], parts)
            quake, lead = self.quake(self.rows[i], parts)
            highs.append(gravity + quake)
            lows.append(gravity - quake)
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
        sets = [parts.quake[d][int(k)][0] for d, k in zip(MOTIONS, lead, strict=True) if k >= 0]
        if not sets:
            return one.name
        told = any(name not in MOTIONS for name in sets)  # eccentricities
        return f"{one.name} ({sign}" + (f": {', '.join(sets)})" if told else ")")

    @property
    def named(self) -> tuple[str, ...]:
        """Single sets that rows name."""
        return tuple(dict.fromkeys(name for row in self.rows for name in row.sets))


def combiner_of(
    answer: CombinationAnswer | None, own: Sequence[OwnCombination], how: DirectionalCombination,
    groups: LoadGroups, building: Building, *, vertical: bool,
) -> Combiner:
    """The combinations of a standard, then those of one's own, ready to multiply.

    Each group of loads takes the factor on what it counts as, with earthquake times its share. A
    case of one's own stands in them where it counts as a kind of load. ``vertical`` says that
    vertical motion is analyzed: rows that ask for it say so where it is not.
    """
    effects = {group.kind: group.effect for group in groups.groups}
    as_kind = _counted(building)

    def of_standard(row: LoadCombination) -> dict[str, float]:
        by = {"dead": row.dead, "live": row.live, "snow": row.snow, "roof live": row.roof}
        return {group.name: by[group.effect] * (group.combination if any(row.quake) else 1.0)
                for group in groups.groups} | {
                    name: by[effects.get(kind, kind)] for name, kind in as_kind.items()}

    rows = [] if answer is None else [
        Row(row.kind, row.name + (", Z not analyzed" if row.vertical and not vertical else ""),
            of_standard(row), (*row.quake, row.vertical), how, row.clause, {})
        for row in (*answer.gravity, *answer.rows)]
    rows += [
        Row(one.kind, one.name, own_factors(one.factors, groups, building),
            (one.earthquake.get("X", 0.0), one.earthquake.get("Y", 0.0),
             one.earthquake.get("Z", 0.0)),
            "SRSS" if one.together == "SRSS" else "independent", one.reason or "own", one.sets)
        for one in own]
    return Combiner(tuple(rows), answer is not None and answer.vertical_in_dead)


def own_factors(
    given: Mapping[str, float], groups: LoadGroups, building: Building
) -> dict[str, float]:
    """The factor on every group of loads and every case, from those on kinds, on what they count
    as, and on cases by name; a narrower name goes before a wider one."""
    effects = {group.kind: group.effect for group in groups.groups}
    as_kind = _counted(building)

    def factor(kind: str) -> float:
        return given.get(kind, given.get(effects.get(kind, kind), 0.0))

    return {group.name: factor(group.kind) for group in groups.groups} | {
        case.name: given.get(
            case.name, factor(as_kind[case.name]) if case.name in as_kind else 0.0)
        for case in building.cases}


def _counted(building: Building) -> dict[str, str]:
    """The kind of load that cases of one's own count as, by their names."""
    return {case.name: case.counts_as for case in building.cases if case.counts_as}


# -- what is multiplied ------------------------------------------------------------------------


def story_factors(
    checks: Sequence[StabilityCheck], method: Method, model: Model
) -> Mapping[Motion, Floats]:
    """P-Delta factor (n,) of every story by direction, for the forces of a method.

    Where several limit states are judged the largest counts; 1 where the standard asks for none,
    where second order is in the analysis, and where no factor exists.
    """
    return {d: np.max([np.ones(model.n), *(s.amplification for s in checks
                                           if s.direction == d and s.method == method)], axis=0)
            for d in model.directions}


def parts_of(
    thing: Thing, cases: Sequence[StaticCase], sets: Sequence[Readable], method: Method,
    factors: Mapping[Motion, Floats], how: Combiner,
) -> Parts:
    """The values of a thing under what stands still, and under the sets of one method.

    ``factors`` are the P-Delta factors of the stories by direction.
    """
    quake: dict[Motion, tuple[tuple[str, Floats], ...]] = {}
    whole = np.ones(len(thing.quantity))
    grown = thing.grown(factors)
    single = [s for s in sets if isinstance(s, StaticSet | SpectrumSet)]
    for d in MOTIONS:
        own = [s for s in single if s.direction == d and not s.own
               and (s.method == method or d == "Z")]
        if own:
            quake[d] = tuple((d + {1: " +e", -1: " −e", 0: ""}[s.sign],
                              grown.get(d, whole) * s.of(thing.quantity)) for s in own)
    named = {s.name: (grown.get(s.direction, whole) * s.of(thing.quantity), s.method == "static")
             for s in single if s.name in how.named}
    most = np.max([whole, *grown.values()], axis=0)  # of motion in more than one direction
    named |= {s.name: (most * s.of(thing.quantity), False)
              for s in sets if isinstance(s, FurtherSet) and s.name in how.named}
    wanted = {name for row in how.rows for name, factor in row.factors.items() if factor}
    return Parts(len(whole), {case.name: thing.still(case) for case in cases
                              if case.name in wanted}, quake, named, method)
