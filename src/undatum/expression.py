"""Formulas: a small grammar, evaluated as it is printed, with its dimensions checked.

A formula may hold numbers, symbols, ``+ - * / **``, a sign, and the functions below; anything else
is refused. Everything works on numbers and on arrays.
"""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cache, lru_cache, reduce
from types import CodeType
from typing import Any

import numpy as np

from undatum.errors import UndatumError, guess
from undatum.units import DIMENSIONS

FUNCTIONS: Mapping[str, Callable[..., Any]] = {
    "min": lambda *values: reduce(np.minimum, values),
    "max": lambda *values: reduce(np.maximum, values),
    "sqrt": np.sqrt,
    "abs": np.abs,
    "sum": lambda values: float(np.sum(values)),
    "clip": np.clip,
}
_OPERATORS = (ast.Add, ast.Sub, ast.Mult, ast.Div, ast.Pow)
_SCOPE = {"__builtins__": {}, **FUNCTIONS}


class FormulaError(UndatumError):
    """A formula that the grammar, its symbols or its dimensions don't allow: a mistake of ours."""


@dataclass(frozen=True, slots=True)
class Expression:
    """A formula that the grammar allows, ready to be evaluated."""

    text: str
    tree: ast.expr
    code: CodeType
    symbols: tuple[str, ...]

    def evaluate(self, values: Mapping[str, Any]) -> Any:
        """The value with ``values`` put in; arrays element by element."""
        return eval(self.code, _SCOPE, dict(values))


@lru_cache(maxsize=1024)
def expression(text: str) -> Expression:
    """Read a formula. Raises FormulaError for anything beyond the grammar."""
    try:
        tree = ast.parse(text, mode="eval")
    except SyntaxError as error:
        raise FormulaError(f"the formula {text!r} can't be read: {error.msg}") from None
    names: set[str] = set()
    _allow(tree.body, text, names)
    return Expression(text, tree.body, compile(tree, "<formula>", "eval"), tuple(sorted(names)))


def _allow(node: ast.expr, text: str, names: set[str]) -> None:
    """Walk the formula and refuse what the grammar does not hold."""
    if isinstance(node, ast.Name):
        names.add(node.id)
    elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
        return
    elif isinstance(node, ast.BinOp) and isinstance(node.op, _OPERATORS):
        _allow(node.left, text, names)
        _allow(node.right, text, names)
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        _allow(node.operand, text, names)
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and not node.keywords:
        if node.func.id not in FUNCTIONS:
            raise FormulaError(f"the formula {text!r} calls {node.func.id!r}; it may call "
                               f"{', '.join(FUNCTIONS)}")
        for part in node.args:
            _allow(part, text, names)
    else:
        raise FormulaError(f"the formula {text!r} holds {ast.unparse(node)!r}, which is no "
                           "number, symbol, sum, product, power or listed function")


def missing(symbol: str, text: str, known: Iterable[str]) -> FormulaError:
    """The error for a symbol that nothing above has made."""
    return FormulaError(f"the formula {text!r} uses {symbol!r}, which is not known here"
                        + guess(symbol, known, before="; "))


# -- dimensions ------------------------------------------------------------------------------------

#: Exponents by base unit; a unit that is no SI unit, such as ``ft``, is a base of its own.
Powers = Mapping[str, Fraction]
NONE: Powers = {}
_BASE: Mapping[str, Mapping[str, int]] = {
    "N": {"kg": 1, "m": 1, "s": -2}, "rad": {}, "g": {}, "%": {}, "": {},
}


@cache
def powers_of(unit: str) -> Powers:
    """The exponents of a dimension's name or of a fixed unit such as ``ft^2``.

    ``g`` is a ratio to gravity, as accelerations are published, and so has none.
    """
    text, found = DIMENSIONS.get(unit, (unit, ""))[0], dict[str, Fraction]()
    sign = 1
    for part in text.replace("*", " * ").replace("/", " / ").split():
        if part in "*/":
            sign = -1 if part == "/" else 1
            continue
        name, _, power = part.partition("^")
        for base, count in _BASE.get(name, {name: 1}).items():
            if base not in ("1",):
                found[base] = found.get(base, Fraction(0)) + sign * count * int(power or 1)
    return {k: v for k, v in found.items() if v}


@lru_cache(maxsize=4096)
def check_dimension(
    symbol: str, text: str, unit: str, units: tuple[tuple[str, str], ...]
) -> None:
    """Hold the dimension of a formula against that of its result.

    ``units`` gives the unit of each symbol. Raises FormulaError where they differ.
    """
    found = _dimension(expression(text).tree, {name: powers_of(u) for name, u in units}, text)
    if found != powers_of(unit):
        raise FormulaError(f"{symbol} = {text} gives {_said(found)}, not {_said(powers_of(unit))}")


def _dimension(node: ast.expr, symbols: Mapping[str, Powers], text: str) -> Powers:
    """The exponents of a formula from those of its symbols."""
    if isinstance(node, ast.Name):
        return symbols[node.id]
    if isinstance(node, ast.Constant):
        return NONE
    if isinstance(node, ast.UnaryOp):
        return _dimension(node.operand, symbols, text)
    if isinstance(node, ast.Call):
        assert isinstance(node.func, ast.Name)
        # A plain zero is zero of anything.
        parts = [_dimension(a, symbols, text) for a in node.args
                 if not (isinstance(a, ast.Constant) and a.value == 0)]
        if node.func.id == "sqrt":
            return {k: v / 2 for k, v in parts[0].items()}
        return _same(parts, text)
    assert isinstance(node, ast.BinOp)
    left = _dimension(node.left, symbols, text)
    right = _dimension(node.right, symbols, text)
    if isinstance(node.op, ast.Pow):
        if right:
            raise FormulaError(f"the formula {text!r} has an exponent with a unit")
        power = _exponent(node.right)
        return {k: v * power for k, v in left.items()}
    if isinstance(node.op, ast.Add | ast.Sub):
        return _same([left, right], text)
    sign = 1 if isinstance(node.op, ast.Mult) else -1
    found = {k: left.get(k, Fraction(0)) + sign * right.get(k, Fraction(0))
             for k in {*left, *right}}
    return {k: v for k, v in found.items() if v}


def _exponent(node: ast.expr) -> Fraction:
    """A written exponent; a symbol in its place (which must cancel) counts as one."""
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        return Fraction(node.value).limit_denominator(10**6)
    return Fraction(1)


def _same(kinds: list[Powers], text: str) -> Powers:
    for other in kinds[1:]:
        if other != kinds[0]:
            raise FormulaError(f"the formula {text!r} adds or compares {_said(kinds[0])} and "
                               f"{_said(other)}")
    return kinds[0]


def _said(powers: Powers) -> str:
    """Exponents as people write them."""
    return "·".join(k if v == 1 else f"{k}^{v}" for k, v in sorted(powers.items())) or "a ratio"
