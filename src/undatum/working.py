"""Working: a number together with how it came about.

A :class:`Working` is written line by line while a calculation runs. Each line (a :class:`Step`)
holds symbol, value, unit, clause, the formula in symbols and which branch governed. The formula
that is printed is the formula that is evaluated, so that the two cannot drift apart; the numbers
put in are the values of the lines above it.
"""

from __future__ import annotations

import ast
import math
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from types import CodeType
from typing import Any

import numpy as np

from undatum.table import number_text
from undatum.units import DIMENSIONS, SI, UnitSystem

Value = float | str | tuple[float, ...]

FUNCTIONS: dict[str, Callable[..., Any]] = {
    "min": min,
    "max": max,
    "sqrt": math.sqrt,
    "abs": abs,
    "sum": lambda values: float(np.sum(values)),
    "clip": np.clip,
}


@lru_cache(maxsize=512)
def _compiled(formula: str) -> tuple[CodeType, tuple[str, ...]]:
    tree = ast.parse(formula, mode="eval")
    names = {node.id for node in ast.walk(tree) if isinstance(node, ast.Name)}
    return compile(tree, "<formula>", "eval"), tuple(sorted(names - FUNCTIONS.keys()))


def names_in(formula: str) -> tuple[str, ...]:
    """The symbols a formula uses, functions left out."""
    return _compiled(formula)[1]


@dataclass(frozen=True, slots=True)
class Step:
    """One line of working.

    ``value`` is in SI when ``unit`` names a dimension (``"force"``), otherwise in ``unit`` as it
    stands (``"ft"``, ``"s"``, ``"g"``, empty for a ratio). A line worked for every level holds a
    tuple of values, roof first; one worked for other things, such as walls, names them in ``rows``.
    ``inputs`` holds the value and unit of each symbol in ``formula``.
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
        values = {
            name: np.asarray(value) if isinstance(value, tuple) else value
            for name, (given, unit) in self.inputs.items()
            for value in [in_units(given, unit, units)]
        }
        return eval(_compiled(self.formula)[0], {"__builtins__": {}, **FUNCTIONS}, values)


def in_units(value: Value, unit: str, units: UnitSystem) -> Value:
    if unit not in DIMENSIONS or isinstance(value, str):
        return value
    size = units.size(unit, coherent=True)
    return tuple(v / size for v in value) if isinstance(value, tuple) else value / size


@dataclass(frozen=True, slots=True)
class Section:
    """A finished piece of working under a heading."""

    title: str
    steps: tuple[Step, ...]
    replaced: Mapping[str, tuple[float, str]] = field(default_factory=dict)

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

    ``replaced`` holds values the engineer puts in place of the standard's, by symbol, each with
    its reason: a line of that symbol takes this value and records the standard's own beside it.
    Replacements of the parents hold here too.
    """

    def __init__(
        self, title: str, *parents: Section,
        replaced: Mapping[str, tuple[float, str]] | None = None,
    ) -> None:
        self.title = title
        self._steps: list[Step] = []
        self._known: dict[str, Step] = {}
        self._replaced: dict[str, tuple[float, str]] = {}
        for parent in parents:
            self._known |= {step.symbol: step for step in parent.steps}
            self._replaced |= parent.replaced
        self._replaced |= replaced or {}

    def given(
        self, symbol: str, value: Value, unit: str = "", *, meaning: str, clause: str = "",
        branch: str = "", rows: tuple[str, ...] = (),
    ) -> float:
        """Write down a value that is given or read from a table, not worked out.

        ``rows`` names what a tuple of values belongs to, where it is not the levels.
        """
        if isinstance(value, np.ndarray | list):
            value = tuple(float(v) for v in value)
        elif not isinstance(value, str | tuple):
            value = float(value)
        found = self._add(Step(symbol, value, unit, meaning, clause, branch=branch, rows=rows))
        return found if isinstance(found, float) else math.nan

    def compute(
        self, symbol: str, formula: str, unit: str = "", *, meaning: str, clause: str = "",
        branch: str = "",
    ) -> float:
        """Evaluate ``formula`` from the symbols above, write the line and return its value."""
        return float(self._work(symbol, formula, unit, meaning, clause, branch))

    def compute_all(
        self, symbol: str, formula: str, unit: str = "", *, meaning: str, clause: str = "",
        branch: str = "",
    ) -> np.ndarray[Any, np.dtype[np.float64]]:
        """As :meth:`compute` for a formula worked for every level at once."""
        return np.asarray(self._work(symbol, formula, unit, meaning, clause, branch), dtype=float)

    def _work(
        self, symbol: str, formula: str, unit: str, meaning: str, clause: str, branch: str
    ) -> Any:
        code, names = _compiled(formula)
        steps = {name: self._known[name] for name in names}
        values = {
            name: np.asarray(step.value) if isinstance(step.value, tuple) else step.value
            for name, step in steps.items()
        }
        result = eval(code, {"__builtins__": {}, **FUNCTIONS}, values)
        value = (
            tuple(float(v) for v in result) if isinstance(result, np.ndarray) else float(result)
        )
        inputs = {name: (step.value, step.unit) for name, step in steps.items()}
        found = self._add(Step(symbol, value, unit, meaning, clause, formula, inputs, branch))
        return result if found is value else found

    def _add(self, step: Step) -> Value:
        """Write a step, or in its place the engineer's own value with both recorded."""
        if step.symbol in self._replaced and isinstance(step.value, float):
            own, reason = self._replaced[step.symbol]
            by = f" = {step.formula}" if step.formula else ""
            step = Step(step.symbol, own, step.unit, step.meaning, step.clause,
                        branch=f"replaced in the project: {reason}; by the standard "
                        f"{step.symbol}{by} = {step.value:.6g}")
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
                              branch=f"{argument} ≤ {points[0]:g}")
        if at >= points[-1]:
            return self.given(symbol, values[-1], meaning=meaning, clause=clause,
                              branch=f"{argument} ≥ {points[-1]:g}")
        i = int(np.searchsorted(points, at, side="right"))
        low, high, y0, y1 = points[i - 1], points[i], values[i - 1], values[i]
        if y0 == y1 or at == low:
            where = f"{argument} = {low:g}" if at == low else f"between {low:g} and {high:g}, equal"
            return self.given(symbol, y0, meaning=meaning, clause=clause, branch=where)
        formula = f"{y0:g} + ({y1:g} - {y0:g}) * ({argument} - {low:g}) / ({high:g} - {low:g})"
        return self.compute(symbol, formula, meaning=meaning, clause=clause,
                            branch=f"between {low:g} and {high:g}")

    def value(self, symbol: str) -> float:
        """The number last written under ``symbol``."""
        found = self._known[symbol].value
        if isinstance(found, float):
            return found
        raise TypeError(f"{symbol} is not a single number")

    def close(self) -> Section:
        """The finished section."""
        return Section(self.title, tuple(self._steps), self._replaced)
