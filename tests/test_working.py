"""Working: every recorded formula gives its recorded value, in every unit system."""

from __future__ import annotations

import math
import re
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import undatum as ud
from undatum.expression import FormulaError, expression
from undatum.report.formula import formula, symbol
from undatum.results.results import Results
from undatum.units import SYSTEMS, UnitSystem
from undatum.working import Candidate, SectionKey, Working, first, largest, smallest

T = SectionKey("test")


def evaluate_plainly(text: str, values: dict[str, object]) -> object:
    """A second evaluator: names replaced in the text, then plain Python arithmetic."""
    scope = {"min": min, "max": max, "sqrt": math.sqrt, "sum": np.sum, "clip": np.clip, "abs": abs}
    for name, value in values.items():
        text = re.sub(rf"\b{re.escape(name)}\b", f"_v[{name!r}]", text)
        scope.setdefault("_v", {})[name] = value  # type: ignore[index]
    return eval(text, {"__builtins__": {}}, scope)


@pytest.mark.parametrize("project", ["starter", "archive", "clinic", "terrace"])
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


# -- one call for competing candidates, a grammar, dimensions --------------------------------------


def fresh(**values: object) -> Working:
    w = Working(SectionKey("trial"), "Trial")
    for name, value in values.items():
        w.given(name, value, meaning=name, clause="1")  # type: ignore[arg-type]
    return w


def two(pick: Any, a: float, b: float) -> Any:
    return fresh(a=a, b=b).pick("c", pick(
        Candidate("one", "2 * a", "said of one", "1.1"), Candidate("other", "b", "of the other",
                                                                   "1.2")), meaning="m")


@given(st.floats(0.1, 1e3), st.floats(0.1, 1e3))
def test_value_branch_and_clause_come_together(a: float, b: float) -> None:
    for pick, best in ((smallest, min), (largest, max)):
        found = two(pick, a, b)
        assert found.value == best(2 * a, b)
        if 2 * a != b:
            first_one = (2 * a < b) == (best is min)
            assert (found.key, found.clause) == (("one", "1.1") if first_one else
                                                 ("other", "1.2"))
            assert found.words == ("said of one" if first_one else "of the other")


def test_of_equal_candidates_the_first_governs() -> None:
    for pick in (smallest, largest):
        assert two(pick, 1.0, 2.0).key == "one"


def test_the_first_that_applies() -> None:
    w = fresh(a=1.0)
    found = w.pick("c", first(Candidate("no", "1", applies=False), Candidate("yes", "3 * a"),
                              Candidate("late", "4")), meaning="m", clause="9")
    assert (found.value, found.key, found.clause) == (3.0, "yes", "9")
    assert w.close()["c"].key == "yes"


@pytest.mark.parametrize("text", [
    "a.b", "a[0]", "lambda: 1", "__import__('os')", "a if b else c", "a and b", "a < b", "[a]",
    "'text'", "eval(a)", "a @ b", "min(a, key=b)", "a := 1", "", "True", "{a}", "+a", "a // b"])
def test_a_formula_beyond_the_grammar_is_refused(text: str) -> None:
    with pytest.raises(FormulaError):
        fresh(a=1.0, b=2.0, c=3.0).compute("d", text, meaning="m")


def test_a_misspelt_symbol_names_itself_and_the_nearest() -> None:
    with pytest.raises(FormulaError, match=r"'S_D2'.*did you mean 'S_D1'"):
        fresh(S_D1=0.4).compute("C", "S_D2 / 2", meaning="m")


@pytest.mark.parametrize(("formula", "unit", "fine"), [
    ("F / A", "force", False), ("F * L", "moment", True), ("F + L", "force", False),
    ("sqrt(L ** 2 + L ** 2)", "length", True), ("max(F, L)", "force", False),
    ("clip(F, 0, 2 * F)", "force", True), ("L / L", "", True), ("L / L", "length", False),
    ("F / L", "stiffness", True), ("abs(F) - F", "force", True)])
def test_the_dimension_of_a_result_is_checked(formula: str, unit: str, fine: bool) -> None:
    def go() -> float:
        w = Working(SectionKey("trial"), "Trial")
        for name, value, of in (("F", 3.0, "force"), ("L", 2.0, "length"), ("A", 4.0, "area")):
            w.given(name, value, of, meaning="m")
        return w.compute("r", formula, unit, meaning="m")

    if fine:
        assert np.isfinite(go())
    else:
        with pytest.raises(FormulaError):
            go()


def test_arrays_work_in_min_and_max() -> None:
    w = fresh(a=(1.0, 5.0, 3.0), b=2.0)
    assert w.compute_all("c", "min(a, b, 4)", meaning="m") == pytest.approx([1, 2, 2])
    assert w.compute_all("d", "max(a, 2 * b)", meaning="m") == pytest.approx([4, 5, 4])


@pytest.mark.parametrize(("formula", "a"), [("1 / a", 0.0), ("sqrt(a)", -1.0), ("a ** 0.5", -1.0),
                                            ("10 ** a", 400.0), ("sqrt(a) / a", 0.0)])
def test_a_formula_without_a_value_says_so(formula: str, a: float) -> None:
    w = Working(SectionKey("trial"), "Trial")
    w.given("a", a, meaning="m")
    with pytest.raises(ud.InputError, match="has no value with a"):
        w.compute("b", formula, meaning="m")
