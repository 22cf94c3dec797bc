"""Load combinations with numbers, as tables: section forces of members, reactions, lines."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product

import numpy as np
from numpy.typing import NDArray

from undatum.building.members import Member
from undatum.checks.stability import StabilityCheck
from undatum.mechanics.actions import ACTIONS, REACTIONS, feet, place_name, rid_of_round_off
from undatum.mechanics.model import Model
from undatum.project.combining import SIGNS, Combiner, Parts, Row
from undatum.project.members import beside_the_feet
from undatum.standards.terms import MOTIONS, Method
from undatum.table import Column, Table, column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Texts = NDArray[np.object_]
NOTE = "Gravity is first order, in full by kind of load, without any reduction of live load."
UNSIGNED = "Forces of a spectrum carry no sign: both count."
VERTICAL = "The vertical effect of the earthquake stands in the factor on dead load."


def note_of(
    how: Combiner, checks: Sequence[StabilityCheck], method: Method, cases: Sequence[str]
) -> str:
    """What to know about the numbers: P-Delta, and cases that no combination names."""
    said = [NOTE, *([UNSIGNED] if method == "spectrum" else []),
            *([VERTICAL] if how.vertical_in_dead else [])]
    own = [c for c in checks if c.method == method]
    grown = [(float(c.amplification.max()), c) for c in own]
    largest = [f"{f:.3f} in {c.direction}" + c.state.beside(", ") for f, c in grown if f > 1]
    if own and all(c.included for c in own):
        said.append("Second order is in the forces of the earthquake.")
    elif largest:
        said.append("P-Delta factors multiply the forces of the earthquake story by story, up to "
                    f"{' and '.join(largest)}.")
    lost = [f"{level} in {c.direction}" for c in own for level, factor in
            zip(c.levels, c.answer.amplification, strict=True) if not np.isfinite(factor)]
    if lost:
        said.append("NO P-DELTA FACTOR EXISTS for the stories beyond the limit, and none is "
                    f"applied: {', '.join(lost)}.")
    alone = [name for name in cases if not any(row.factor(name) for row in how.rows)]
    if alone:
        said.append(f"In no combination: {', '.join(alone)}.")
    return " ".join(said)


def envelope_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float],
    note: str = NOTE,
) -> Table:
    """Largest and smallest of every component by member, place and kind of combination."""
    place, kind, component, extreme, values, words = _listed(how, parts)
    names = [m.name for m in members for _ in at]
    said = [place_name(p) for _ in members for p in at]
    return Table(
        "member_envelopes", f"Extremes of load combinations, earthquake by {_by(parts.method)}",
        (
            column("member", "", _taken(names, place)), column("at", "", _taken(said, place)),
            *_extremes(how, ACTIONS, kind, component, extreme, values),
            column("combination", "", words.tolist()),
        ),
        note=note + " Components stand for themselves: their extremes need not come together.",
    )


def _extremes(
    how: Combiner, components: Sequence[str], kind: Ints, component: Ints, extreme: Ints,
    values: Floats,
) -> tuple[Column, ...]:
    """What is the same in tables of extremes, three forces before three moments."""
    force = component < 3
    return (
        column("kind", "", _taken(how.kinds(), kind)),
        column("component", "", _taken(components, component)),
        column("extreme", "", _taken([name for name, _ in SIGNS], extreme)),
        column("force", "force", np.where(force, values, np.nan)),
        column("moment", "moment", np.where(force, np.nan, values)),
    )


def _taken(names: Sequence[str], at: Ints) -> list[str]:
    return [names[i] for i in at.tolist()]


def _listed(how: Combiner, parts: Parts) -> tuple[Ints, Ints, Ints, Ints, Floats, Texts]:
    """Extremes of values of six components a place: place, kind, component, extreme, value and
    the combination in words, in this order; what is nothing both ways stands once."""
    every, words = [], []
    for kind in how.kinds():
        found = how.extremes(kind, parts)
        every.append([rid_of_round_off(found[name][0].reshape(-1, 6)) for name, _ in SIGNS])
        words.append([_words(how, *found[name][1:], sign, parts).reshape(-1, 6)
                      for name, sign in SIGNS])
    order = (2, 0, 3, 1)  # from kind, extreme, place, component
    values, texts = np.array(every).transpose(order), np.array(words).transpose(order)
    keep = np.ones(values.shape, dtype=bool)
    keep[..., 1] = values.any(axis=-1)  # the smallest beside the largest
    where = np.nonzero(keep)
    return where[0], where[1], where[2], where[3], values[keep], texts[keep]


def _words(how: Combiner, which: Ints, leads: Ints, sign: str, parts: Parts) -> Texts:
    """(k,) the combinations in words: few of them, for many values."""
    codes, back = np.unique(np.vstack([which, leads]), axis=1, return_inverse=True)
    said = np.array([how.said(int(code[0]), code[1:], sign, parts) for code in codes.T],
                    dtype=object)
    return np.asarray(said[np.ravel(back)])


def extremes_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float],
    note: str = NOTE,
) -> Table:
    """The same in short: a row for the largest and one for the smallest, components side by side,
    without the names of the combinations."""
    rows: list[tuple[int, str, str, str, str, Floats]] = []
    for kind in how.kinds():
        found = how.extremes(kind, parts)
        for name, _ in SIGNS:
            table = rid_of_round_off(found[name][0].reshape(len(members), len(at), 6))
            rows += [(i, m.name, place_name(place), kind, name, table[i, j])
                     for i, m in enumerate(members) for j, place in enumerate(at)]
    rows.sort(key=lambda r: r[0])
    return Table(
        "member_extremes", f"Extremes of load combinations, earthquake by {_by(parts.method)}",
        (
            column("member", "", [r[1] for r in rows]), column("at", "", [r[2] for r in rows]),
            column("kind", "", [r[3] for r in rows]), column("extreme", "", [r[4] for r in rows]),
            *(column(name, "force" if c < 3 else "moment", [float(r[5][c]) for r in rows])
              for c, name in enumerate(ACTIONS)),
        ),
        note=note + " Components stand for themselves: their extremes need not come together.",
    )


def _by(method: Method) -> str:
    return "static forces" if method == "static" else "response spectrum"


def each_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float],
    note: str = NOTE,
) -> Table:
    """Every combination: what gravity gives, and the earthquake to be put on it with both signs."""
    said = [place_name(p) for p in at]
    places = [(m.name, place) for m in members for place in said]
    rows: list[tuple[int, Row, str, Floats]] = []
    for row in how.rows:
        gravity = rid_of_round_off(how.gravity(row, parts).reshape(-1, 6))
        quake, _ = how.quake(row, parts)
        size = rid_of_round_off(quake.reshape(-1, 6))
        acts = any(row.quake) or any(not parts.named[name][1] for name in row.sets)
        for k in range(len(places)):
            rows.append((k, row, "gravity", gravity[k]))
            if acts:
                rows.append((k, row, "earthquake ±", size[k]))
    rows.sort(key=lambda r: r[0])
    return Table(
        "member_combinations", f"Load combinations, earthquake by {_by(parts.method)}",
        (
            column("member", "", [places[r[0]][0] for r in rows]),
            column("at", "", [places[r[0]][1] for r in rows]),
            column("kind", "", [r[1].kind for r in rows]),
            column("combination", "", [r[1].name for r in rows]),
            column("part", "", [r[2] for r in rows]),
            *(column(name, "force" if c < 3 else "moment", [float(r[3][c]) for r in rows])
              for c, name in enumerate(ACTIONS)),
            column("clause", "", [r[1].clause for r in rows]),
        ),
        note=note + " Of several sets of a direction (both signs of the eccentricity) the larger "
        "counts, component by component.",
    )


def together_table(
    how: Combiner, parts: Parts, members: Sequence[Member], at: Sequence[float],
    note: str = NOTE,
) -> Table:
    """Axial force with both moments for every combination and every choice of signs.

    Static sets keep their signs against each other: each eccentricity and each sense of the forces
    is a row of true values. Those of a spectrum have none, so that axial force and moments take
    every sign by themselves.
    """
    said = [place_name(p) for p in at]
    places = [(m.name, place) for m in members for place in said]
    taken = (0, 4, 5)  # axial, moment_y, moment_z
    rows: list[tuple[int, str, str, str, Floats]] = []
    for row in how.rows:
        gravity = how.gravity(row, parts).reshape(-1, 6)
        for name, quake in _variants(how, row, parts, taken):
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
        note=note,
    )


def _variants(
    how: Combiner, row: Row, parts: Parts, taken: Sequence[int]
) -> list[tuple[str, Floats]]:
    """What the earthquake adds (k,), by every choice of sets and signs, with its name."""
    own = [(d, f, parts.quake[d]) for d, f in zip(MOTIONS, row.quake, strict=True)
           if f and d in parts.quake]
    unsigned = any(not parts.named[name][1] for name in row.sets)
    if not own and not unsigned:
        return [("", np.zeros(parts.count))]
    found = []
    if parts.method == "static" and row.how != "SRSS" and not unsigned:
        for sets in product(*(s for *_, s in own)):
            for signs in product((1.0, -1.0), repeat=len(own)):
                total = sum((sign * f * values for (_, f, _), (_, values), sign in
                             zip(own, sets, signs, strict=True)), np.zeros(parts.count))
                found.append((", ".join(
                    f"{'+' if s > 0 else '−'} {name}" for (name, _), s in
                    zip(sets, signs, strict=True)), np.asarray(total)))
        return found
    size = how.quake(row, parts)[0].reshape(-1, 6)
    for signs in product((1.0, -1.0), repeat=len(taken)):
        one = np.zeros_like(size)
        for c, sign in zip(taken, signs, strict=True):
            one[:, c] = sign * size[:, c]
        found.append((", ".join(f"{'+' if s > 0 else '−'} {ACTIONS[c]}" for c, s in
                                zip(taken, signs, strict=True)), one.ravel()))
    return found


def footing_table(how: Combiner, parts: Parts, model: Model, note: str = NOTE) -> Table:
    """Extremes of the reactions foot by foot, by kind of combination; what lifts off is marked."""
    place, kind, component, extreme, values, words = _listed(how, parts)
    told = (place < len(feet(model))) | (component < 3)  # moments of the sum are about no point
    place, kind, component, extreme = place[told], kind[told], component[told], extreme[told]
    values, words = values[told], words[told]
    lifted = (component == REACTIONS.index("force Z")) & (values < 0)
    return Table(
        "footings", f"Reactions of load combinations, earthquake by {_by(parts.method)}",
        (
            column("foot", "", _taken([*feet(model), "sum"], place)),
            *_extremes(how, REACTIONS, kind, component, extreme, values),
            column("uplift", "", lifted.tolist()),
            column("combination", "", words.tolist()),
        ),
        note=note + " Actions of the ground on the structure: a negative force Z holds a foot "
        "down, or the whole building in the sum." + beside_the_feet(model),
        marks=tuple(np.flatnonzero(lifted).tolist()),
    )


def line_table(
    how: Combiner, shears: Parts, floors: Parts, moments: Parts,
    stories: Sequence[tuple[str, str]], note: str = NOTE,
) -> Table:
    """Largest shear, force from the floor and moment of lateral lines by story and kind, of the
    earthquake alone."""
    every = (shears, floors, moments)
    rows: list[tuple[int, str, tuple[float, ...], tuple[str, ...]]] = []
    for kind in how.kinds():
        found = [how.extremes(kind, parts)["largest"] for parts in every]
        rows += [(k, kind, tuple(float(v[k]) for v, _, _ in found),
                  tuple(how.said(int(row[k]), lead[:, k], "±", parts)
                        for (_, row, lead), parts in zip(found, every, strict=True)))
                 for k in range(len(stories)) if any(v[k] for v, _, _ in found)]
    rows.sort(key=lambda r: r[0])
    return Table(
        "line_combinations",
        f"Lateral lines in load combinations, earthquake by {_by(shears.method)}",
        (
            column("line", "", [stories[r[0]][0] for r in rows]),
            column("story", "", [stories[r[0]][1] for r in rows]),
            column("kind", "", [r[1] for r in rows]),
            column("shear", "force", [r[2][0] for r in rows]),
            column("combination for shear", "", [r[3][0] for r in rows]),
            column("force from floor", "force", [r[2][1] for r in rows]),
            column("combination for force from floor", "", [r[3][1] for r in rows]),
            column("moment at the bottom", "moment", [r[2][2] for r in rows]),
            column("combination for moment", "", [r[3][2] for r in rows]),
        ),
        note="Of the earthquake alone, with both signs: lateral lines carry loads that are not "
        "followed. The moment of the lowest story and its shear act on the foot. "
        + note.removeprefix(NOTE).strip(),
    )
