"""Rules of criteria of one's own that are formulas, steps and limits, beside single numbers."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.described import Described
from undatum.expression import FormulaError, expression
from undatum.standards import irregular
from undatum.units import Extent, Measure, Share

#: What every formula may name beside the values of the criteria; T in s, h in m.
KNOWN = ("I", "R", "R_T", "C_d", "Omega_0", "T", "T_a", "S_a", "h", "N")
#: What the divisor by period may name.
OF_DIVISOR = ("I", "R", "T", "h")
#: Symbols of the working that a value of the criteria may not have.
TAKEN = (*KNOWN, "V", "W", "C", "F_t", "F_x", "k", "w_x", "h_x", "t_x", "T_c", "T_max", "C_u", "c",
         "x", "w_px", "sum_F", "sum_w", "gamma_E", "a", "e_v", "delta_max", "delta_avg", "A_x",
         "c_V", "V_t", "R_s", "F_s", "c_v", "P", "d", "h_s", "theta", "min", "max", "sqrt", "abs",
         "sum", "clip")
_LONGEST, _POWER = 200, 10

Pressure = Annotated[float, Measure("area load", above=0.0, most=1e6)]
Seconds = Annotated[float, Measure("time", above=0.0, most=100.0)]


def _formula(text: str) -> str:
    """A formula of the grammar, short, and with no power of a power."""
    if len(text) > _LONGEST:
        raise PydanticCustomError("advice", "a formula has at most {most} letters; give a part of "
                                  "it as a value", {"most": _LONGEST})
    try:
        tree = expression(text).tree
    except (FormulaError, RecursionError, ValueError, MemoryError) as error:
        raise PydanticCustomError("advice", "{text}", {"text": str(error)[:200]}) from None
    for node in ast.walk(tree):
        if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Pow):
            power = node.right.operand if isinstance(node.right, ast.UnaryOp) else node.right
            if not (isinstance(power, ast.Name) or (
                    isinstance(power, ast.Constant) and power.value <= _POWER)):  # type: ignore[operator]
                raise PydanticCustomError(
                    "advice", "the formula {text!r} raises to a power that is neither a symbol nor "
                    "a number up to {most}", {"text": text, "most": _POWER})
    return text


Formula = Annotated[str, Field(min_length=1), AfterValidator(_formula)]


class Branch(Described):
    """A coefficient of the base shear that may govern."""

    name: str = Field(min_length=1, description="How the branch is called")
    coefficient: Formula = Field(description="Base shear over weight, as a formula")
    limit_state: Literal["both", "strength", "drift"] = Field(
        default="both", description="For which forces it holds")
    clause: str = Field(default="", description="Where it is written")

    def holds(self, role: str) -> bool:
        """Whether it holds for forces of a role."""
        return self.limit_state in ("both", "strength" if role == "forces" else "drift")


class ForcesRule(Described):
    """The static base shear by formulas: the smallest of the branches, and not below the least."""

    branches: tuple[Branch, ...] = Field(min_length=1, description="The smallest governs")
    least: tuple[Branch, ...] = Field(default=(), description="The largest of them is a floor")
    top: Formula | None = Field(
        default=None, description="Share of the base shear at the top, beside the rest")
    top_above: Seconds | None = Field(
        default=None, description="No force at the top up to this period")


class DiaphragmRule(Described):
    """Forces of floors as diaphragms: the forces above by weight, between two bounds."""

    least: Formula = Field(description="Least force over the weight of the floor")
    most: Formula = Field(description="Largest force over the weight of the floor")


class TorsionRule(Described):
    """When torsion is irregular, and what follows."""

    irregular: float = Field(
        ge=1.0, le=3.0, description="Largest over average story drift, above which it is")
    amplified: bool = Field(
        default=False, description="Accidental torsion is then multiplied by (largest over 1.2 "
        "times average displacement) squared, from 1 to 3")
    everywhere: bool = Field(
        default=False, description="Irregular in one direction is irregular in both")


class DriftStep(Described):
    """An allowable drift for short periods, or for all that are left."""

    ratio: float = Field(gt=0, lt=0.2, description="Allowable design drift over story height")
    below_period: Seconds | None = Field(
        default=None, description="For periods below this; all others if left out")


class ShareRule(Described):
    """The share of a kind of load that is seismic weight, where it hangs on its intensity."""

    share: Share = Field(description="Share that counts")
    above: Pressure | None = Field(
        default=None, description="For loads above this; no area load known counts as above")
    otherwise: Share = Field(default=0.0, description="Share of loads up to it")
    on_roof: Share | None = Field(default=None, description="Share on the roof, if another")
    least: Pressure | None = Field(
        default=None, description="Area loads count with at least this intensity")


class RegularityRule(Described):
    """Where irregularities begin; what is left out is not checked."""

    soft: tuple[float, float] = Field(
        default=(0.7, 0.8), description="Stiffness over that of the story above, and over the mean "
        "of three above")
    weight: float = Field(default=1.5, gt=1, le=10, description="Weight over that next to it")
    extent: float = Field(default=1.3, gt=1, le=10, description="Length of the lateral system over "
                          "that next to it")
    weak: float = Field(default=0.8, gt=0, le=1,
                        description="Strength over that of the story above")
    recess: Share = Field(default=0.15, description="Projections beyond a re-entrant corner")
    opening: Share = Field(default=0.5, description="Openings over the area of the floor")
    spared_by_drift: bool = Field(
        default=True, description="Soft stories and weight are not looked at where no story drift "
        "ratio is above 1.3 times that of the story above")

    def limits(self) -> irregular.Limits:
        """As the checks take them."""
        return irregular.Limits(
            elevation="regularity", plan="regularity", soft=self.soft, extreme_soft=None,
            weight=self.weight, extent=self.extent, weak=self.weak, extreme_weak=None,
            recess=self.recess, opening=self.opening)


class ProcedureRule(Described):
    """Up to where the static procedure is permitted; without a bound it always is."""

    regular_height: Extent | None = Field(
        default=None, description="Height below which a regular structure may use it")
    irregular_height: Extent | None = Field(
        default=None, description="Height up to which an irregular one may")
    irregular_stories: int | None = Field(
        default=None, ge=1, description="Stories up to which an irregular one may")

    @model_validator(mode="after")
    def _something(self) -> ProcedureRule:
        if self.regular_height is self.irregular_height is self.irregular_stories is None:
            raise PydanticCustomError("advice", "procedures has no bound; give one, or leave it "
                                      "out")
        return self


def unknown_symbols(
    formulas: Iterable[tuple[str, str]], values: Mapping[str, float], names: Sequence[str] = KNOWN
) -> str:
    """The first symbol of formulas (place, text) that is neither known nor a value, in words."""
    known = {*names, *values}
    for place, text in formulas:
        for symbol in expression(text).symbols:
            if symbol not in known:
                return f"{place}: the formula {text!r} uses {symbol!r}; known are " \
                       f"{', '.join(sorted(known))}"
    return ""


def wrong_values(values: Mapping[str, Any]) -> str:
    """The first value whose name is none, or is taken, in words."""
    for name in values:
        if not re.fullmatch(r"[A-Za-z][A-Za-z0-9_]{0,15}", name):
            return f"values.{name} is no symbol; use letters, digits and _"
        if name in TAKEN:
            return f"values.{name} is the symbol of something else here; take another"
    return ""
