"""Under what a thing is read: sets, modes, load cases, combinations, in one grammar of words.

``sets``, ``modes`` and ``cases`` mean all of them, ``modes of`` a set its own; the combinations
come as ``envelope`` (the largest and smallest with the combination), ``extremes`` (the same side by
side), ``each`` (their parts) or ``together`` (what is designed for at once, under every choice of
signs). Anything else is a name or a pattern such as ``static X*``: of sets, of modes, of load
cases, of kinds of combination (their envelope) or of single combinations. Several are divided by a
semicolon.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fnmatch import fnmatchcase
from itertools import product
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import Readable, SpectrumSet
from undatum.checks.stability import StabilityCheck
from undatum.errors import Fault, InputError, nearest
from undatum.finding import several
from undatum.mechanics.cases import LoadCases, StaticCase
from undatum.mechanics.model import Model
from undatum.readings.combinations import SIGNS, Combiner, Parts, Row, parts_of, story_factors
from undatum.readings.layouts import Head, Reading, Way
from undatum.readings.readable import Thing
from undatum.record import record
from undatum.standards.terms import MOTIONS, Method

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Texts = NDArray[np.object_]
WAYS: tuple[Way, ...] = get_args(Way)
_MODES_OF = "modes of "


@record
class Acting:
    """Everything that acts on a structure, to be read under. What is a function is made when asked
    for.

    ``sets`` for strength, and ``others`` for drift; ``apart`` says that those move another
    stiffness. ``combiner`` raises InputError where there are no combinations; ``cases_said`` are
    the load cases of one's own.
    """

    model: Model
    sets: tuple[Readable, ...]
    others: tuple[Readable, ...]
    apart: bool
    cases: Callable[[], LoadCases]
    combiner: Callable[[], Combiner]
    stability: tuple[StabilityCheck, ...]
    cases_said: tuple[str, ...]


# -- the grammar -----------------------------------------------------------------------------------


def read(
    thing: Thing, acting: Acting, under: str = "", *, by: Method = "spectrum",
    signed: bool = False,
) -> Reading:
    """A thing under what ``under`` names. Raises InputError with the nearest where nothing fits.

    ``by`` says which forces of the earthquake enter combinations; ``signed`` gives the peaks of
    spectrum sets the signs of the mode with the largest base shear.
    """
    said = [part.strip() for part in under.split(";") if part.strip()] or ["sets"]
    words = [part for part in said if part in WAYS]
    if words and len(said) > 1:
        raise InputError([Fault("under", f"{words[0]!r} means all there are and stands alone",
                                "name single ones, or this word alone")])
    of_sets = said[0].startswith(_MODES_OF)
    way: Way
    if of_sets:
        way, names = "modes", tuple(part.removeprefix(_MODES_OF) for part in said)
    else:
        way, names = (words[0], ()) if words else _found(said, acting)
    if signed and way != "sets":
        raise InputError([Fault("signed", f"goes with sets, and not with {under!r}",
                                "name sets, or leave it out")])
    if way == "sets":
        found = _sets(thing, _chosen(acting, thing, names), acting.model, signed=signed)
    elif way == "modes":
        found = _modes(thing, acting, () if of_sets else names, names if of_sets else ())
    elif way == "cases":
        found = _cases(thing, _own_cases(thing, acting), names)
    else:
        found = _combined(thing, acting, way, names, by)
    if np.isnan(found.high).all():
        raise InputError([Fault("under", f"of {thing.title.lower()} nothing is known there",
                                thing.unknown)])
    return found


def _fits(name: str, patterns: Sequence[str]) -> bool:
    return any(name == p or fnmatchcase(name, p.replace("[", "[[]")) for p in patterns)


def _found(said: Sequence[str], acting: Acting) -> tuple[Way, tuple[str, ...]]:
    """Which kind of thing names are of: the first kind that every one of them fits."""
    known: list[tuple[Way, tuple[str, ...]]] = [
        ("sets", tuple(s.name for s in (*acting.sets, *acting.others)))]
    spectra = [s for s in acting.sets if isinstance(s, SpectrumSet)]
    known.append(("modes", tuple(dict.fromkeys(
        f"mode {label}" for s in spectra for label in s.labels))))
    cases = acting.cases().cases
    known.append(("cases", tuple(case.name for case in cases)))
    try:
        how = acting.combiner()
        known += [("envelope", how.kinds()), ("each", tuple(row.name for row in how.rows))]
    except InputError:
        pass
    for way, names in known:
        chosen = [name for name in names if _fits(name, said)]
        if chosen and all(any(_fits(name, [one]) for name in names) for one in said):
            return way, tuple(chosen)
    every = [name for _, names in known for name in names]
    lost = next((one for one in said if not any(_fits(name, [one]) for name in every)), said[0])
    near = nearest(lost, [*every, *WAYS])
    raise InputError([Fault(
        "under", f"nothing here is named {lost!r}" if lost not in every else
        f"{', '.join(map(repr, said))} are not of one kind",
        (f"did you mean {near!r}? " if near and near != lost else "")
        + f"all of a kind: {', '.join(WAYS)}; sets: {'; '.join(known[0][1])}"
        + (f"; cases: {several(known[2][1])}" if known[2][1] else "")
        + (f"; combinations of: {several(known[3][1])}" if len(known) > 3 else ""))])


# -- sets, modes, cases ----------------------------------------------------------------------------


def _chosen(acting: Acting, thing: Thing, names: Sequence[str]) -> list[Readable]:
    """The sets of these names, or those that are meant where none is named. Raises InputError."""
    if not names:
        return list(acting.others if thing.for_drift and acting.others else acting.sets)
    sets = [s for s in (*acting.sets, *acting.others) if s.name in names]
    away = [s.name for s in sets if s in acting.others]
    if away and acting.apart and not thing.of_floors:
        raise InputError([Fault("under", f"{away[0]!r} acts on the stiffness for drift, which is "
                                "another", "run the project with that stiffness alone")])
    return sets


def _sets(thing: Thing, sets: Sequence[Readable], model: Model, *, signed: bool) -> Reading:
    values = [one.signed(thing.quantity, one.dominant(model))
              if signed and isinstance(one, SpectrumSet) else one.of(thing.quantity)
              for one in sets]
    has_sign = np.array([one.method == "static" or (signed and isinstance(one, SpectrumSet))
                         for one in sets])
    high = _array(thing, values)
    lead = [one for one in sets if isinstance(one, SpectrumSet)]
    note = "Earthquake effects only. " + (
        "Static sets have signs; values of spectrum sets are peaks, each combined from its own "
        "modal values, " + ("with the signs they have in the mode with the largest base shear: "
                            + "; ".join(f"{one.name}: {one.labels[one.dominant(model)]}"
                                        for one in lead) + "." if signed and lead
                            else "without sign.") if not has_sign.all() or signed else "")
    return Reading(thing, "sets", (Head("set", tuple(one.name for one in sets)),), high,
                   np.where(has_sign[:, None], high, -high), has_sign, "", note.strip())


def _array(thing: Thing, values: Sequence[Floats]) -> Floats:
    return np.array(values, dtype=float).reshape(len(values), len(thing.quantity))


def _modes(
    thing: Thing, acting: Acting, names: Sequence[str], of: Sequence[str] = ()
) -> Reading:
    every = [s for s in (*acting.sets, *acting.others) if _fits(s.name, of)] if of else \
        _chosen(acting, thing, ())
    sets = [s for s in every if isinstance(s, SpectrumSet)]
    if not sets:
        known = [s.name for s in acting.sets if isinstance(s, SpectrumSet)]
        raise InputError([Fault("under", f"{'; '.join(of) or 'this'} has no modes of its own",
                                f"name spectrum sets of one direction: {'; '.join(known)}")])
    rows = [(one, m) for one in sets for m, label in enumerate(one.labels)
            if not names or f"mode {label}" in names]
    by_set = {id(one): one.scale * one.modal_values(thing.quantity) for one in sets}
    high = _array(thing, [by_set[id(one)][:, m] for one, m in rows])
    return Reading(
        thing, "modes", (Head("set", tuple(one.name for one, _ in rows)),
                         Head("mode", tuple(one.labels[m] for one, m in rows)),
                         Head("period", tuple(float(one.periods[m]) for one, m in rows), "time")),
        high, high, np.ones(len(rows), dtype=bool), ", mode by mode",
        "Signed peaks of each mode, scaled like the set; accidental torsion is added to the "
        "combined value only.")


def _own_cases(thing: Thing, acting: Acting) -> tuple[StaticCase, ...]:
    """The load cases a thing has values of: members where it is of members."""
    return tuple(case for case in acting.cases().cases
                 if case.members is not None or thing.of_floors)


def _cases(thing: Thing, cases: Sequence[StaticCase], names: Sequence[str]) -> Reading:
    chosen = [case for case in cases if not names or case.name in names]
    if not chosen:
        raise InputError([Fault("under", "there are no load cases", "describe loads or [[cases]] "
                                "under [building]")])
    high = _array(thing, [thing.still(case) for case in chosen])
    residual = max((c.members.residual for c in chosen if c.members is not None), default=0.0)
    return Reading(
        thing, "cases", (Head("case", tuple(case.name for case in chosen)),), high, high,
        np.ones(len(chosen), dtype=bool), " under load cases",
        "First order, unfactored loads; self-weight of members is dead load. Largest "
        f"out-of-balance force at a node: {residual:.1e} of the largest end force.")


# -- combinations ----------------------------------------------------------------------------------


GRAVITY = "Gravity is first order, by kind of load, without live load reduction."
UNSIGNED = "Spectrum forces are unsigned: both signs are considered."
VERTICAL = "The vertical earthquake effect is included in the factor on dead load."


def note_of(
    how: Combiner, checks: Sequence[StabilityCheck], method: Method, cases: Sequence[str]
) -> str:
    """What to know about the numbers: P-Delta, and cases that no combination names."""
    said = [GRAVITY, *([UNSIGNED] if method == "spectrum" else []),
            *([VERTICAL] if how.vertical_in_dead else [])]
    own = [c for c in checks if c.method == method]
    grown = [(float(c.amplification.max()), c) for c in own]
    largest = [f"{f:.3f} in {c.direction}" + c.state.beside(", ") for f, c in grown if f > 1]
    if own and all(c.included for c in own):
        said.append("Earthquake forces include second-order effects.")
    elif largest:
        said.append("P-Delta factors multiply the earthquake forces story by story, up to "
                    f"{' and '.join(largest)}.")
    lost = [f"{level} in {c.direction}" for c in own for level, factor in
            zip(c.levels, c.answer.amplification, strict=True) if not np.isfinite(factor)]
    if lost:
        said.append("NO P-DELTA FACTOR EXISTS for the stories above the limit, and none is "
                    f"applied: {', '.join(lost)}.")
    alone = [name for name in cases if not any(row.factor(name) for row in how.rows)]
    if alone:
        said.append(f"In no combination: {', '.join(alone)}.")
    return " ".join(said)


def _combined(
    thing: Thing, acting: Acting, way: Way, names: Sequence[str], by: Method
) -> Reading:
    how = acting.combiner()
    parts = parts_of(thing, _own_cases(thing, acting), acting.sets, by,
                     story_factors(acting.stability, by, acting.model), how)
    note = note_of(how, acting.stability, by, acting.cases_said)
    said = ", earthquake by " + ("static forces" if by == "static" else "response spectrum")
    if way in ("envelope", "extremes"):
        kinds = [k for k in how.kinds() if not names or k in names]
        return _extremes(thing, how, parts, kinds, way, said, note)
    rows = [row for row in how.rows if not names or row.name in names]
    return (_each if way == "each" else _together)(thing, how, parts, rows, said, note)


def _extremes(
    thing: Thing, how: Combiner, parts: Parts, kinds: Sequence[str], way: Way, said: str, note: str
) -> Reading:
    symmetric = not any(np.any(how.gravity(row, parts)) for row in how.rows if row.kind in kinds)
    both: list[list[Floats]] = [[], []]
    words: list[list[Texts]] = [[], []]
    for kind in kinds:
        found = how.extremes(kind, parts)
        for k, (name, sign) in enumerate(SIGNS):
            both[k].append(found[name][0])
            words[k].append(_words(how, *found[name][1:], "±" if symmetric else sign, parts))
    high, low = (_array(thing, own) for own in both)
    return Reading(
        thing, way, (Head("kind", tuple(kinds)),), high, low, np.zeros(len(kinds), dtype=bool),
        f", extremes of load combinations{said}",
        ("Earthquake effects only, with both signs. " if symmetric else "") + note
        + " Extremes of different components need not occur together.",
        np.array(words, dtype=object), symmetric=symmetric)


def _words(how: Combiner, which: Ints, leads: Ints, sign: str, parts: Parts) -> Texts:
    """(k,) the combinations in words: few of them, for many values."""
    code = which.copy()
    for lead in leads:
        code = code * (int(leads.max(initial=0)) + 2) + lead + 1
    _, first, back = np.unique(code, return_index=True, return_inverse=True)
    said = np.array([how.said(int(which[k]), leads[:, k], sign, parts) for k in first.tolist()],
                    dtype=object)
    return np.asarray(said[np.ravel(back)])


def _each(
    thing: Thing, how: Combiner, parts: Parts, rows: Sequence[Row], said: str, note: str
) -> Reading:
    """Every combination: what does not change its sign, and what is put on it with both."""
    found: list[tuple[Row, str, Floats]] = []
    for row in rows:
        found.append((row, "gravity", how.gravity(row, parts)))
        if any(row.quake) or any(not parts.named[name][1] for name in row.sets):
            found.append((row, "earthquake ±", how.quake(row, parts)[0]))
    high = _array(thing, [values for *_, values in found])
    has_sign = np.array([part == "gravity" for _, part, _ in found])
    return Reading(
        thing, "each", (Head("kind", tuple(row.kind for row, *_ in found)),
                        Head("combination", tuple(row.name for row, *_ in found)),
                        Head("acting", tuple(part for _, part, _ in found))),
        high, np.where(has_sign[:, None], high, -high), has_sign, f" in load combinations{said}",
        note + " Where a direction has several sets (both signs of the eccentricity), the larger "
               "counts, component by component.", clauses=tuple(row.clause for row, *_ in found))


def _together(
    thing: Thing, how: Combiner, parts: Parts, rows: Sequence[Row], said: str, note: str
) -> Reading:
    """What is designed for at once, for every combination and every choice of signs.

    Static sets keep their signs against each other: each eccentricity and each sense of the forces
    is a row of true values. Those of a spectrum have none, so that the components take every sign
    by themselves.
    """
    if not thing.together:
        raise InputError([Fault("under", f"nothing of {thing.title.lower()} is designed for at "
                                "once", "choose envelope or each")])
    found = [(row, name, how.gravity(row, parts) + quake)
             for row in rows for name, quake in _variants(how, row, parts, thing)]
    high = _array(thing, [values for *_, values in found])
    return Reading(
        thing, "together", (Head("kind", tuple(row.kind for row, *_ in found)),
                            Head("combination", tuple(row.name for row, *_ in found)),
                            Head("signs", tuple(name for _, name, _ in found))),
        high, high, np.ones(len(found), dtype=bool),
        f", components together in load combinations{said}", note)


def _variants(how: Combiner, row: Row, parts: Parts, thing: Thing) -> list[tuple[str, Floats]]:
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
    size = how.quake(row, parts)[0].reshape(-1, len(thing.components))
    for signs in product((1.0, -1.0), repeat=len(thing.together)):
        one = np.zeros_like(size)
        for c, sign in zip(thing.together, signs, strict=True):
            one[:, c] = sign * size[:, c]
        found.append((", ".join(f"{'+' if s > 0 else '−'} {thing.components[c][0]}" for c, s in
                                zip(thing.together, signs, strict=True)), one.ravel()))
    return found
