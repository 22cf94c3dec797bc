"""Formulas as MathML, from the same text that is evaluated."""

from __future__ import annotations

import ast
from collections.abc import Mapping
from html import escape

from undatum.expression import expression
from undatum.table import number_text
from undatum.units import UnitSystem
from undatum.working import Step, Value, in_units

_GREEK = {
    "theta": "θ", "mu": "μ", "rho": "ρ", "beta": "β", "delta": "δ", "Delta": "Δ", "Omega": "Ω",
    "gamma": "γ", "lambda": "λ", "eta": "η", "psi": "ψ", "xi": "ξ", "nu": "ν", "alpha": "α",
}
_LEVEL = {ast.Add: 1, ast.Sub: 1, ast.Mult: 2, ast.Div: 2, ast.USub: 3, ast.Pow: 4}
_SIGN = {ast.Add: "+", ast.Sub: "−", ast.Mult: "·", ast.Div: "/"}


def symbol(name: str) -> str:
    """A symbol with its subscript: ``S_DS``, ``theta_max``."""
    stem, _, index = name.partition("_")
    base = f"<mi>{_GREEK.get(stem, escape(stem))}</mi>"
    return f"<msub>{base}<mi mathvariant='normal'>{escape(index)}</mi></msub>" if index else base


def math(inner: str) -> str:
    """Wrap MathML elements."""
    return f"<math displaystyle='true'>{inner}</math>"


def formula(text: str, numbers: Mapping[str, str] | None = None) -> str:
    """The formula in symbols, or with ``numbers`` put in for the names they are given for."""
    return _node(expression(text).tree, numbers or {}, 0)


def compact(text: str, numbers: Mapping[str, str] | None = None) -> str:
    """As :func:`formula` on one line: fractions with a slash."""
    return _node(expression(text).tree, numbers or {}, 0, inline=True)


def numbers_of(step: Step, units: UnitSystem, digits: int = 4) -> dict[str, str]:
    """The numbers to put into a step's formula; a value by level is shown for the first one."""
    found = {}
    for name, (value, unit) in step.inputs.items():
        shown: Value = in_units(value, unit, units)
        if isinstance(shown, tuple):
            if "sum(" in step.formula:
                continue  # a sum over all levels is left in symbols
            shown = shown[0]
        found[name] = shown if isinstance(shown, str) else number_text(shown, digits)
    return found


def _node(
    node: ast.expr, numbers: Mapping[str, str], outer: int, inline: bool = False
) -> str:
    """Write one node. A fraction within a fraction is written ``inline``, with a slash."""
    if isinstance(node, ast.Name):
        if node.id in numbers:
            return f"<mn>{escape(numbers[node.id])}</mn>"
        return symbol(node.id)
    if isinstance(node, ast.Constant):
        return f"<mn>{node.value!s}</mn>"
    if isinstance(node, ast.UnaryOp):
        return f"<mo>−</mo>{_node(node.operand, numbers, 3)}"
    if isinstance(node, ast.Call):
        return _call(node, numbers, inline)
    if not isinstance(node, ast.BinOp):
        raise TypeError(f"a formula holds {type(node).__name__}, which cannot be written")
    kind = type(node.op)
    level = _LEVEL[kind]
    if kind is ast.Div and not inline:
        return (f"<mfrac><mrow>{_node(node.left, numbers, 0, True)}</mrow>"
                f"<mrow>{_node(node.right, numbers, 0, True)}</mrow></mfrac>")
    if kind is ast.Pow:
        base = _node(node.left, numbers, 5, inline)
        if _is_slash(node.left) and not inline:
            base = f"<mo>(</mo>{base}<mo>)</mo>"
        return (f"<msup><mrow>{base}</mrow>"
                f"<mrow>{_node(node.right, numbers, 0)}</mrow></msup>")
    right_level = level + 1 if kind in (ast.Sub, ast.Div) else level
    # A slash inside a product is kept apart by parentheses, as in T (R / I_e).
    left, right = (
        _node(part, numbers, around + (1 if _is_slash(part) and kind is ast.Mult else 0), inline)
        for part, around in ((node.left, level), (node.right, right_level))
    )
    inner = f"{left}<mo>{_SIGN[kind]}</mo>{right}"
    return f"<mrow><mo>(</mo>{inner}<mo>)</mo></mrow>" if level < outer else f"<mrow>{inner}</mrow>"


def _is_slash(node: ast.expr) -> bool:
    return isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div)


def _call(node: ast.Call, numbers: Mapping[str, str], inline: bool) -> str:
    name = node.func.id if isinstance(node.func, ast.Name) else "?"
    parts = [_node(part, numbers, 0, inline) for part in node.args]
    if name == "sqrt":
        return f"<msqrt>{parts[0]}</msqrt>"
    if name == "abs":
        return f"<mrow><mo>|</mo>{parts[0]}<mo>|</mo></mrow>"
    if name == "sum":
        return f"<mrow><mo>∑</mo>{parts[0]}</mrow>"
    if name == "clip":
        within = "<mspace width='0.6em'/><mtext>within</mtext><mspace width='0.3em'/>"
        return f"<mrow>{parts[0]}{within}{parts[1]}<mo>…</mo>{parts[2]}</mrow>"
    inner = "<mo>;</mo>".join(parts)
    return f"<mrow><mi>{name}</mi><mo>(</mo>{inner}<mo>)</mo></mrow>"
