"""Working: a number together with how it came about.

A :class:`Working` is written line by line while a calculation runs. Each line (a :class:`Step`)
holds symbol, value, unit, clause, the formula in symbols and the branch that governed, as a key for
programs and in words for people. The formula that is printed is the formula that is evaluated, so
that the two can't drift apart; the numbers put in are the values of the lines above it. Where
several candidates compete, :meth:`Working.pick` gives value, branch and clause in one answer.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from undatum.errors import Fault, InputError, guess, one_of
from undatum.expression import FormulaError as FormulaError
from undatum.expression import check_dimension, expression, missing
from undatum.record import FixedDict, fixed, record
from undatum.table import number_text
from undatum.units import DIMENSIONS, SI, UnitSystem, fixed_unit_value, to_si

Value = float | str | tuple[float, ...]
NO_INPUTS: Mapping[str, tuple[Value, str]] = FixedDict()


@record
class SectionKey:
    """What a section of working is about. ``kind`` says what is worked out; the others for what.

    ``direction`` is empty for what holds for the whole site or structure; ``state`` is the key of a
    limit state and ``item`` tells apart what else there are several of.
    """

    kind: str
    direction: str = ""
    state: str = ""
    item: str = ""

    def __str__(self) -> str:
        return ", ".join(part for part in (self.kind, self.direction, self.state, self.item)
                         if part)

    def __hash__(self) -> int:
        return hash((self.kind, self.direction, self.state, self.item))


@record
class OwnValue:
    """A value of the engineer's in place of the standard's.

    ``value`` is a number (in the coherent unit of ``units`` where the line has a dimension, in the
    line's own unit otherwise) or a text with its unit. It holds in the sections of ``direction``
    (empty: of the site and the whole structure), or in the one named ``section`` alone. It is
    number ``index`` in the ``replace`` list of the project's ``table``. A period is held to its
    cap unless ``beyond_cap``.
    """

    symbol: str
    value: float | str
    reason: str
    units: UnitSystem = SI
    direction: str = ""
    section: str = ""
    table: str = ""
    index: int = 0
    beyond_cap: bool = False

    @property
    def place(self) -> str:
        """Where it stands in the project."""
        return f"{self.table}.replace[{self.index}]"

    def holds_in(self, key: SectionKey) -> bool:
        """Whether a section is within its scope."""
        return self.direction == key.direction and self.section in ("", key.kind, str(key))

    def in_place_of(self, step: Step) -> float:
        """Its number in the unit of a line. Raises InputError where it is out of range."""
        try:
            if step.unit in DIMENSIONS:
                number = to_si(self.value, step.unit, self.units)
            else:
                number = fixed_unit_value(self.value, step.unit)
        except ValueError as error:
            raise self._wrong(str(error), f"{step.symbol}: {step.meaning}") from None
        low, high = step.within
        own = step.value if isinstance(step.value, float) else math.nan
        enough = number >= low if low > 0 or own == 0 else number > low
        if not (enough and number <= high):
            unit = DIMENSIONS.get(step.unit, (step.unit, ""))[0]
            most = f" and at most {high:g}" if math.isfinite(high) else ""
            least = f"at least {low:g}" if low > 0 or own == 0 else f"above {low:g}"
            raise self._wrong(f"{self.value} is out of range for {step.symbol}",
                              f"{step.meaning}: {least}{most} {unit}".rstrip())
        return number

    def _wrong(self, message: str, cure: str) -> InputError:
        return InputError([Fault(f"{self.place}.value", message, cure)])


@record
class Step:
    """One line of working.

    ``value`` is in SI when ``unit`` names a dimension (``"force"``), otherwise in ``unit`` as it
    stands (``"ft"``, ``"s"``, ``"g"``, empty for a ratio). A line worked for every level holds a
    tuple of values, roof first; one worked for other things, such as walls, names them in ``rows``.
    ``inputs`` holds the value and unit of each symbol in ``formula``; ``key`` names the branch that
    governed and ``branch`` says it. ``within`` is what a value of one's own has to lie in, ``own``
    such a value where there is one, and ``usual`` what it replaced.
    """

    symbol: str
    value: Value
    unit: str
    meaning: str
    clause: str = ""
    formula: str = ""
    inputs: Mapping[str, tuple[Value, str]] = field(default_factory=dict)
    branch: str = ""
    rows: tuple[str, ...] = ()
    key: str = ""
    within: tuple[float, float] = (0.0, math.inf)
    own: OwnValue | None = None
    usual: float | None = None
    replaceable: bool = True

    def shown(self, units: UnitSystem) -> Value:
        """The value in the coherent unit of ``units``."""
        return in_units(self.value, self.unit, units)

    def unit_label(self, units: UnitSystem) -> str:
        return units.label(self.unit, coherent=True) if self.unit else ""

    def substituted(self, units: UnitSystem = SI, digits: int = 4) -> str:
        """The formula with the numbers put in (for the first level when there are many)."""
        text = self.formula
        for name in sorted(self.inputs, key=len, reverse=True):
            value, unit = self.inputs[name]
            value = in_units(value, unit, units)
            if isinstance(value, tuple):
                # "sum(...)" runs over all levels; a single number would misstate it.
                value = value[0] if "sum(" not in self.formula else name
            shown = value if isinstance(value, str) else number_text(float(value), digits)
            text = re.sub(rf"\b{re.escape(name)}\b", shown.replace("\u202f", ""), text)
        return text

    def evaluate(self, units: UnitSystem = SI) -> Any:
        """The formula evaluated anew from the recorded inputs, in coherent ``units``."""
        return expression(self.formula).evaluate({
            name: _array(in_units(given, unit, units))
            for name, (given, unit) in self.inputs.items()})


def _array(value: Value) -> Any:
    return np.asarray(value) if isinstance(value, tuple) else value


def in_units(value: Value, unit: str, units: UnitSystem) -> Value:
    """A value of a line in the coherent unit of ``units``."""
    if unit not in DIMENSIONS or isinstance(value, str):
        return value
    size = units.size(unit, coherent=True)
    return tuple(v / size for v in value) if isinstance(value, tuple) else value / size


# -- candidates ------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Candidate:
    """A formula that may govern: its key, the formula, how people call it, and its clause."""

    key: str
    formula: str
    words: str = ""
    clause: str = ""
    applies: bool = True


@dataclass(frozen=True, slots=True)
class Pick:
    """The smallest, the largest or the first that applies of several candidates."""

    how: Literal["smallest", "largest", "first"]
    candidates: tuple[Candidate | Pick, ...]

    @property
    def open(self) -> tuple[Candidate | Pick, ...]:
        """The candidates that apply."""
        return tuple(c for c in self.candidates if isinstance(c, Pick) or c.applies)

    @property
    def formula(self) -> str:
        """The whole as it is printed."""
        parts = [c.formula for c in self.open]
        if len(parts) == 1 or self.how == "first":
            return parts[0]
        return f"{'min' if self.how == 'smallest' else 'max'}({', '.join(parts)})"

    def governing(self, evaluate: Any) -> Candidate:
        """The candidate that gives the value; the first of equal ones."""
        if self.how == "first":
            lead = self.open[0]
        else:
            values = [float(evaluate(c.formula)) for c in self.open]
            lead = self.open[int(np.argmin(values) if self.how == "smallest"
                                 else np.argmax(values))]
        return lead.governing(evaluate) if isinstance(lead, Pick) else lead


def smallest(*candidates: Candidate | Pick) -> Pick:
    """The smallest of the candidates that apply governs."""
    return Pick("smallest", candidates)


def largest(*candidates: Candidate | Pick) -> Pick:
    """The largest of the candidates that apply governs."""
    return Pick("largest", candidates)


def first(*candidates: Candidate) -> Pick:
    """The first candidate that applies governs."""
    return Pick("first", candidates)


@record
class Choice:
    """What governed: value, key of the branch, the branch in words and its clause."""

    value: float
    key: str
    words: str
    clause: str


OWN = "own value"  # the branch of a value that the engineer put in place of the standard's


# -- sections --------------------------------------------------------------------------------------


@record
class Section:
    """A finished piece of working: what it is about, its heading and its lines."""

    key: SectionKey
    title: str
    steps: tuple[Step, ...]
    replaced: tuple[OwnValue, ...] = ()

    def __iter__(self) -> Iterator[Step]:
        return iter(self.steps)

    def __getitem__(self, symbol: str) -> Step:
        for step in reversed(self.steps):
            if step.symbol == symbol:
                return step
        raise KeyError(symbol)

    def __str__(self) -> str:
        lines = [self.title]
        for step in self.steps:
            value = step.value if isinstance(step.value, str | float | int) else step.value[0]
            text = value if isinstance(value, str) else number_text(float(value))
            line = f"  {step.symbol} = "
            if step.formula:
                line += f"{step.formula} = {step.substituted()} = "
            unit = DIMENSIONS.get(step.unit, (step.unit, ""))[0]
            line += f"{text} {unit}".rstrip() + f"   {step.meaning}"
            lines.append(line + (f" [{step.clause}]" if step.clause else ""))
        return "\n".join(lines)


class Working:
    """Collects steps; symbols written above, here or in ``parents``, can be used below.

    ``replaced`` holds values the engineer puts in place of the standard's: a line of that symbol
    within their scope takes the value and records the standard's own beside it. Those of the
    parents hold here too.
    """

    def __init__(
        self, key: SectionKey, title: str, *parents: Section,
        replaced: Sequence[OwnValue] = (),
    ) -> None:
        self.key = key
        self.title = title
        self._steps: list[Step] = []
        self._known: dict[str, Step] = {}
        every: dict[tuple[str, str], OwnValue] = {}
        for parent in parents:
            self._known.update((step.symbol, step) for step in parent.steps)
            every.update(((own.place, own.symbol), own) for own in parent.replaced)
        every.update(((own.place, own.symbol), own) for own in replaced)
        self._replaced = tuple(every.values())

    def given(
        self, symbol: str, value: Value, unit: str = "", *, meaning: str, clause: str = "",
        branch: str = "", key: str = "", rows: tuple[str, ...] = (),
        within: tuple[float, float] = (0.0, math.inf), replaceable: bool = True,
    ) -> float:
        """Write down a value that is given or read from a table, not worked out.

        ``rows`` names what a tuple of values belongs to, where it is not the levels. ``within`` is
        what a value of the engineer's in its place has to lie in (above zero if left out).
        """
        if isinstance(value, np.ndarray | list):
            value = tuple(float(v) for v in value)
        elif not isinstance(value, str | tuple):
            value = float(value)
        found = self._add(Step(symbol, value, unit, meaning, clause, "", NO_INPUTS, branch, rows,
                               key, within, replaceable=replaceable))
        return found if isinstance(found, float) else math.nan

    def compute(
        self, symbol: str, formula: str, unit: str = "", *, meaning: str, clause: str = "",
        branch: str = "", key: str = "", empirical: bool = False,
        within: tuple[float, float] = (0.0, math.inf), replaceable: bool = True, cap: str = "",
    ) -> float:
        """Evaluate ``formula`` from the symbols above, write the line and return its value.

        The dimension of the result is checked against ``unit``, but for an ``empirical`` formula,
        whose numbers carry units that are not written. ``cap``: see :meth:`pick`.
        """
        return float(self._work(symbol, formula, unit, meaning, clause, branch, key, empirical,
                                within, replaceable, cap))

    @fixed
    def compute_all(
        self, symbol: str, formula: str, unit: str = "", *, meaning: str, clause: str = "",
        branch: str = "", empirical: bool = False,
    ) -> np.ndarray[Any, np.dtype[np.float64]]:
        """As :meth:`compute` for a formula worked for every level at once."""
        found = self._work(symbol, formula, unit, meaning, clause, branch, "", empirical,
                           (0.0, math.inf), False)
        return np.asarray(found, dtype=float)

    def pick(
        self, symbol: str, candidates: Pick, unit: str = "", *, meaning: str, clause: str = "",
        note: str = "", empirical: bool = False, within: tuple[float, float] = (0.0, math.inf),
        cap: str = "",
    ) -> Choice:
        """Write the line of competing candidates; value, branch and clause come together.

        The clause is that of the line, or of the candidate that governed where the line has none.
        ``note`` is added to the branch in the record. ``cap`` is a symbol above: a value of one's
        own in place of this line is held to it.
        """
        def evaluate(formula: str) -> Any:
            try:
                with np.errstate(divide="raise", over="raise", invalid="raise"):
                    return self._value_of(formula)[0]
            except (FloatingPointError, ZeroDivisionError, OverflowError):
                raise self._unworkable(symbol, formula) from None

        lead = candidates.governing(evaluate)
        said_so = f"{lead.words}; {note}" if note and lead.words else lead.words or note
        at = clause or lead.clause
        if expression(candidates.formula).symbols:
            value = self.compute(symbol, candidates.formula, unit, meaning=meaning, clause=at,
                                 branch=said_so, key=lead.key, empirical=empirical, within=within,
                                 cap=cap)
        else:  # a number of the standard's own
            value = self.given(symbol, evaluate(candidates.formula), unit, meaning=meaning,
                               clause=at, branch=said_so, key=lead.key, within=within)
        step = self._known[symbol]
        if step.own is not None:
            return Choice(value, OWN, f"own value: {step.own.reason}", step.clause)
        return Choice(value, lead.key, lead.words, lead.clause or clause)

    def _value_of(self, formula: str) -> tuple[Any, dict[str, Step]]:
        found = expression(formula)
        steps = {}
        for name in found.symbols:
            if name not in self._known:
                raise missing(name, formula, self._known)
            steps[name] = self._known[name]
        return found.evaluate({name: _array(step.value) for name, step in steps.items()}), steps

    def _work(
        self, symbol: str, formula: str, unit: str, meaning: str, clause: str, branch: str,
        key: str, empirical: bool, within: tuple[float, float], replaceable: bool, cap: str = "",
    ) -> Any:
        try:
            with np.errstate(divide="raise", over="raise", invalid="raise"):
                result, steps = self._value_of(formula)
        except (FloatingPointError, ZeroDivisionError, OverflowError):
            raise self._unworkable(symbol, formula) from None
        value: float | tuple[float, ...]
        if isinstance(result, float):
            value, sound = float(result), math.isfinite(result)
        elif isinstance(result, np.ndarray) and result.ndim:
            value, sound = tuple(result.tolist()), bool(np.isfinite(result).all())
        else:
            sound = not isinstance(result, complex) and math.isfinite(result)
            value = float(result) if sound else math.nan
        if not sound:
            raise self._unworkable(symbol, formula)
        if not empirical:
            check_dimension(symbol, formula, unit,
                            tuple((name, step.unit) for name, step in steps.items()))
        inputs = {name: (step.value, step.unit) for name, step in steps.items()}
        found = self._add(Step(symbol, value, unit, meaning, clause, formula, FixedDict(inputs),
                               branch, (), key, within, replaceable=replaceable), cap)
        return result if found is value else found

    def _unworkable(self, symbol: str, formula: str) -> InputError:
        """A division by nothing, an overflow or the root of a negative number."""
        numbers = ", ".join(f"{name} = {self._known[name].value}"
                            for name in expression(formula).symbols
                            if not isinstance(self._known[name].value, tuple))
        own = [o for o in self._replaced if o.symbol in expression(formula).symbols]
        return InputError([Fault(
            own[0].place if own else "", f"{self.title}: {symbol} = {formula} has no value with "
            f"{numbers}", "look at the values of your own" if own else
            "look at the values it is worked out from")])

    def by_standard(self, symbol: str) -> str:
        """The symbol of what the standard gives, where a larger value of one's own is in its place.

        For a cap that goes with it: the cap does not rise with the value, unless that is waived.
        """
        step = self._known[symbol]
        if step.own is None or step.own.beyond_cap or step.usual is None \
                or float(step.usual) >= self.value(symbol):
            return symbol
        self.given(f"{symbol}s", step.usual, step.unit, replaceable=False, clause=step.clause,
                   meaning=f"{step.meaning}, by the standard; the cap goes with it")
        return f"{symbol}s"

    def _add(self, step: Step, cap: str = "") -> Value:
        """Write a step, or in its place the engineer's own value with both recorded.

        ``cap`` is the symbol above to which such a value is held; that of the step itself means
        the standard's value.
        """
        own = next((o for o in self._replaced
                    if o.symbol == step.symbol and o.holds_in(self.key)), None)
        if own is not None:
            if not isinstance(step.value, float) or not step.replaceable:
                what = "a text" if isinstance(step.value, str) else "a list of values" \
                    if isinstance(step.value, tuple) else "a value that nothing else uses"
                raise InputError([Fault(
                    f"{own.place}.symbol", f"{own.symbol!r} in {self.title!r} is {what} and can't "
                    "be replaced", "replace a single value that it is worked out from")])
            by = f" = {step.formula}" if step.formula else ""
            value, held = own.in_place_of(step), ""
            most = math.inf if not cap or own.beyond_cap else \
                step.value if cap == step.symbol else self.value(cap)
            if value > most:
                value, held = most, f"{value:.6g} is held to the cap; "
            step = replace(
                step, value=value, formula="", inputs=NO_INPUTS, key=OWN, own=own,
                usual=step.value, branch=f"replaced in the project: {own.reason}; {held}by the "
                f"standard {step.symbol}{by} = {step.value:.6g}")
        self._steps.append(step)
        self._known[step.symbol] = step
        return step.value

    def interpolate(
        self,
        symbol: str,
        argument: str,
        points: Sequence[float],
        values: Sequence[float],
        *,
        meaning: str,
        clause: str,
    ) -> float:
        """Straight-line interpolation in a table, constant outside it, as one recorded line."""
        at = self.value(argument)
        if at <= points[0]:
            return self.given(symbol, values[0], meaning=meaning, clause=clause,
                              branch=f"{argument} ≤ {points[0]:g}", key="below the table")
        if at >= points[-1]:
            return self.given(symbol, values[-1], meaning=meaning, clause=clause,
                              branch=f"{argument} ≥ {points[-1]:g}", key="beyond the table")
        i = int(np.searchsorted(points, at, side="right"))
        low, high, y0, y1 = points[i - 1], points[i], values[i - 1], values[i]
        if y0 == y1 or at == low:
            where = f"{argument} = {low:g}" if at == low else f"between {low:g} and {high:g}, equal"
            return self.given(symbol, y0, meaning=meaning, clause=clause, branch=where,
                              key="on a row")
        formula = f"{y0:g} + ({y1:g} - {y0:g}) * ({argument} - {low:g}) / ({high:g} - {low:g})"
        return self.compute(symbol, formula, meaning=meaning, clause=clause, key="between rows",
                            branch=f"between {low:g} and {high:g}", empirical=True)

    def value(self, symbol: str) -> float:
        """The number last written under ``symbol``."""
        if symbol not in self._known:
            raise missing(symbol, symbol, self._known)
        found = self._known[symbol].value
        if isinstance(found, float):
            return found
        raise TypeError(f"{symbol} is not a single number")

    def close(self) -> Section:
        """The finished section."""
        return Section(self.key, self.title, tuple(self._steps), self._replaced)


def unused(replaced: Sequence[OwnValue], sections: Sequence[Section]) -> list[Fault]:
    """Values of one's own that stand in no line within their scope, with the nearest symbol."""
    used = {(step.own.place, step.own.symbol) for section in sections for step in section
            if step.own is not None}
    found = []
    for own in replaced:
        if (own.place, own.symbol) in used:
            continue
        scope = [s for s in sections if s.key.direction == own.direction]
        if own.section and not any(own.section in (s.key.kind, str(s.key)) for s in scope):
            known = sorted({name for s in scope for name in (s.key.kind, str(s.key))})
            found.append(Fault(f"{own.place}.section", f"{own.section!r} is no section of this "
                               "calculation", guess(own.section, known, after=" ")
                               + f"known: {'; '.join(known)}"))
            continue
        known = sorted({step.symbol for s in scope for step in s
                        if isinstance(step.value, float) and step.replaceable
                        and own.section in ("", s.key.kind, str(s.key))})
        found.append(Fault(
            f"{own.place}.symbol", f"{own.symbol!r} is no single value of this calculation"
            + (f" in direction {own.direction}" if own.direction else " outside the directions"),
            one_of(own.symbol, known)))
    return found
