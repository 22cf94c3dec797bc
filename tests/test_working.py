"""Working: every recorded formula gives its recorded value, in every unit system."""

from __future__ import annotations

import math
import re

import numpy as np
import pytest

from undatum.expression import FormulaError, expression
from undatum.project.results import Results
from undatum.report.formula import formula, symbol
from undatum.units import SYSTEMS, UnitSystem
from undatum.working import SectionKey, Working

T = SectionKey("test")


def evaluate_plainly(text: str, values: dict[str, object]) -> object:
    """A second evaluator: names replaced in the text, then plain Python arithmetic."""
    scope = {"min": min, "max": max, "sqrt": math.sqrt, "sum": np.sum, "clip": np.clip, "abs": abs}
    for name, value in values.items():
        text = re.sub(rf"\b{re.escape(name)}\b", f"_v[{name!r}]", text)
        scope.setdefault("_v", {})[name] = value  # type: ignore[index]
    return eval(text, {"__builtins__": {}}, scope)


@pytest.mark.parametrize("project", ["starter", "archive", "clinic"])
@pytest.mark.parametrize("system", SYSTEMS)
def test_recorded_formulas_reevaluate(
    results: dict[str, Results], project: str, system: str
) -> None:
    units = UnitSystem(system)
    count = 0
    for section in results[project].working:
        for step in section:
            if not step.formula:
                continue
            count += 1
            shown = step.shown(units)
            assert step.evaluate(units) == pytest.approx(shown, rel=1e-12), (section.title, step)
            si = {k: np.asarray(v) if isinstance(v, tuple) else v
                  for k, (v, _) in step.inputs.items()}
            assert evaluate_plainly(step.formula, si) == pytest.approx(step.value, rel=1e-12)
    assert count > 40


def test_numbers_put_in_give_the_value_to_their_digits(archive: Results) -> None:
    """The printed line itself can be followed with a pocket calculator."""
    scope = {"min": min, "max": max, "sqrt": math.sqrt, "clip": np.clip}
    checked = 0
    for section in archive.working:
        for step in section:
            if step.formula and "sum(" not in step.formula:
                text = step.substituted(archive.units, digits=7)
                first = step.shown(archive.units)
                first = first[0] if isinstance(first, tuple) else first
                assert eval(text, {"__builtins__": {}}, scope) == pytest.approx(first, rel=1e-4)
                checked += 1
    assert checked > 40


def test_every_symbol_has_a_meaning_and_steps_from_the_standard_a_clause(archive: Results) -> None:
    for section in archive.working:
        for step in section:
            assert step.meaning, step
            assert step.clause, step
            assert set(expression(step.formula).symbols if step.formula else ()) == set(step.inputs)


def test_a_wrong_value_would_be_noticed() -> None:
    """The check above can fail: a step whose value was tampered with does not re-evaluate."""
    from dataclasses import replace

    w = Working(T, "test")
    w.given("a", 2.0, meaning="a")
    w.compute("b", "3 * a ** 2", meaning="b")
    step = w.close()["b"]
    assert step.value == 12.0
    assert replace(step, value=12.1).evaluate() != pytest.approx(12.1)


def test_interpolation_is_linear_between_and_constant_outside() -> None:
    points, values = [1.0, 2.0, 4.0], [10.0, 20.0, 0.0]
    for at in np.linspace(0.5, 5.0, 46):
        w = Working(T, "t")
        w.given("x", float(at), meaning="x")
        found = w.interpolate("y", "x", points, values, meaning="y", clause="none")
        assert found == pytest.approx(np.interp(at, points, values), rel=1e-12)


def test_formula_as_mathml_keeps_precedence() -> None:
    text = formula("S_D1 / (T * (R / I_e))")
    assert text.count("<mfrac>") == 1  # the inner one is written with a slash, in parentheses
    assert "<mo>(</mo><msub>" in text.replace("<mrow>", "").replace("<mi>R</mi>", "<msub>")
    assert formula("a / b / c").count("<mfrac>") == 1
    assert "<mo>(</mo><mfrac>" in formula("(a / b) ** 2")
    assert formula("a * b / c + d / e").count("<mfrac>") == 2
    assert "<mo>(</mo>" in formula("(a + b) * c")
    assert "<mo>(</mo>" not in formula("a + b * c")
    assert "<mo>(</mo>" in formula("(a + b) ** 2")
    assert "<mo>(</mo>" in formula("a - (b - c)")
    assert symbol("theta_max").startswith("<msub><mi>θ</mi>")
    assert "&lt;" in symbol("<b>")
    with pytest.raises(FormulaError, match="holds"):
        formula("[1]")
