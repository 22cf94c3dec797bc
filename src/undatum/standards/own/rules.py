"""The file in which criteria of one's own are written."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, model_validator
from pydantic_core import PydanticCustomError

from undatum.described import Described, Named, control_faults, faults_from
from undatum.errors import Fault, InputError
from undatum.ground.spectrum import Interpolation, Spectrum, TabulatedSpectrum, TwoPeriodSpectrum
from undatum.record import FixedDict
from undatum.standards.facts import Asked, AskedOfSite
from undatum.standards.own.formulas import (
    OF_DIVISOR,
    DiaphragmRule,
    DriftStep,
    ForcesRule,
    Formula,
    ProcedureRule,
    RegularityRule,
    ShareRule,
    TorsionRule,
    unknown_symbols,
    wrong_values,
)
from undatum.standards.terms import (
    DRIFT,
    STRENGTH,
    DirectionalCombination,
    ModalCombination,
)
from undatum.textfile import read_text
from undatum.units import STANDARD_GRAVITY, Extent, Measure, Share

InG = Annotated[float, Measure("acceleration in g", above=0.0, most=6.0)]
Seconds = Annotated[float, Measure("time", above=0.0, most=100.0)]


class SpectrumRule(Described):
    """Either the corner values of a ramp, plateau, 1/T and 1/T2, or a table."""

    short: InG | None = Field(default=None, description="Plateau, in g")
    one_second: InG | None = Field(
        default=None, description="Ordinate at 1 s of the falling branch, in g"
    )
    long_period: Seconds = Field(default=100.0, description="Start of the 1/T2 branch, s")
    periods: tuple[float, ...] = Field(default=(), description="Periods of a table, s")
    accelerations: tuple[float, ...] = Field(default=(), description="Ordinates of a table, in g")
    interpolation: Interpolation = Field(
        default="linear", description="How to read between the rows"
    )
    damping: Share = Field(default=0.05, description="Damping ratio of the ordinates")

    @model_validator(mode="after")
    def _one_way(self) -> SpectrumRule:
        corners = self.short is not None and self.one_second is not None
        if corners == bool(self.periods):
            raise PydanticCustomError(
                "advice", "the spectrum is not clear; give short and one_second, or periods and "
                          "accelerations")
        try:
            self.make("", 1.0)
        except InputError as error:
            raise PydanticCustomError("advice", "{text}", {"text": error.faults[0].message}
                                      ) from None
        return self

    def make(self, name: str, factor: float) -> Spectrum:
        """The spectrum times an importance factor."""
        if self.short is not None and self.one_second is not None:
            ts = self.one_second / self.short
            size = factor * STANDARD_GRAVITY
            return TwoPeriodSpectrum(name, self.short * size, self.one_second * size, 0.2 * ts, ts,
                                     self.long_period, self.damping)
        return TabulatedSpectrum(
            name, tuple(self.periods),
            tuple(a * factor * STANDARD_GRAVITY for a in self.accelerations),
            self.damping, self.interpolation)


class StateRule(Described):
    """A further limit state in which drift is judged: its own hazard, reduction and limits."""

    spectrum_factor: float | None = Field(
        default=None, gt=0, le=10, description="Its spectrum as a multiple of the design spectrum")
    spectrum: SpectrumRule | None = Field(
        default=None, description="Its spectrum, in place of a multiple")
    importance: bool = Field(
        default=True, description="The importance factor is on a spectrum of its own")
    divisor: float = Field(default=1.0, gt=0, le=20, description="Elastic forces are divided by it")
    drift_factor: float = Field(
        default=1.0, gt=0, le=20, description="Displacement is multiplied by it")
    drift: float | Named[str, float] = Field(
        description="Allowable story drift over story height, of all structure types or by type")

    @model_validator(mode="after")
    def _one_way(self) -> StateRule:
        if (self.spectrum_factor is None) == (self.spectrum is None):
            raise PydanticCustomError("advice", "the hazard is not clear; give either "
                                                "spectrum_factor or spectrum")
        for ratio in [self.drift] if isinstance(self.drift, float) else self.drift.values():
            if not 0 < ratio < 0.2:
                raise PydanticCustomError(
                    "advice", "{value} is not a ratio of drift to story height; write 0.005 for "
                    "0.5 %", {"value": ratio})
        return self


class SystemRule(Described):
    """One lateral system."""

    divisor: float = Field(gt=0, le=20, description="Elastic forces are divided by it")
    divisor_by_period: Formula | None = Field(
        default=None, description="What elastic forces are divided by at the period T, a formula "
        "of T, R (the divisor), I, h and values, such as \"min(R, 1 + (R - 1) * T / 0.4)\"")
    drift_factor: float = Field(gt=0, le=20, description="Displacement is multiplied by it")
    overstrength: float = Field(default=1.0, gt=0, le=10, description="Overstrength factor")
    redundancy: float = Field(
        default=1.0, ge=1.0, le=2.0, description="Redundancy factor, on the earthquake in the "
        "combinations")
    height_limit: Extent | None = Field(default=None, description="Largest height of the building")
    period_coefficient: float = Field(gt=0, le=1, description="c of T = c h^x, h in m")
    period_exponent: float = Field(default=0.75, gt=0, le=2, description="x of T = c h^x")


class StabilityRule(Described):
    """Bands of the second-order coefficient P d / (V h), d the design drift, or the drift under
    the design forces (``reduced``)."""

    negligible: float = Field(default=0.10, gt=0, le=1, description="Up to here nothing is done")
    amplifiable: float = Field(
        default=0.20, gt=0, le=1, description="Up to here 1/(1 - coefficient)"
    )
    limit: float | None = Field(
        default=0.30, gt=0, le=10, description="Not to be exceeded; \"none\" for no limit")
    reduced: bool = Field(
        default=False, description="From the drift under the design forces, not amplified")

    @model_validator(mode="before")
    @classmethod
    def _no_limit(cls, data: Any) -> Any:
        if isinstance(data, dict) and data.get("limit") == "none":
            return {**data, "limit": None}
        return data

    @model_validator(mode="after")
    def _ordered(self) -> StabilityRule:
        if not self.negligible <= self.amplifiable <= (self.limit or self.amplifiable):
            raise PydanticCustomError("advice", "negligible, amplifiable and limit do not rise; "
                                                "write them from the smallest up")
        return self


class CombinationRule(Described):
    """One load combination with earthquake."""

    name: str = Field(min_length=1, description="How it is written")
    kind: str = Field(default="strength", min_length=1, description="What it is for")
    dead: float | Formula = Field(description="Factor on dead load, or a formula of it")
    live: float = Field(default=0.0, ge=0, le=5, description="Factor on live load")
    snow: float = Field(default=0.0, ge=0, le=5, description="Factor on snow")
    earthquake: float = Field(
        default=1.0, ge=0, le=10, description="Factor on the horizontal forces"
    )


class Rules(Described):
    """Criteria of one's own. Accelerations in g, periods in s, heights in formulas in m."""

    title: str = Field(min_length=3, description="Name of the criteria, for the record")
    source: str = Field(min_length=3, description="Who issued them, and when")
    spectrum: SpectrumRule = Field(description="Design spectrum before reduction")
    systems: Named[str, SystemRule] = Field(min_length=1, description="Lateral systems by name")
    importance: Named[str, float] = Field(
        default_factory=lambda: FixedDict({"usual": 1.0}), min_length=1,
        description="Importance factors by name",
    )
    period_cap: float = Field(
        default=1.4, ge=1.0, le=10,
        description="Computed over approximate period, at most, for strength"
    )
    least_base_shear: Share = Field(
        default=0.0, description="Least base shear over weight, for strength"
    )
    values: Named[str, float] = Field(
        default_factory=FixedDict, description="Numbers of the criteria by symbol, for formulas")
    forces: ForcesRule | None = Field(
        default=None, description="Static base shear by formulas, in place of the spectrum over "
        "the divisor")
    diaphragms: DiaphragmRule | None = Field(
        default=None, description="Forces of floors as diaphragms")
    height_exponent: float | Formula = Field(
        default=1.0, description="k of the vertical distribution, from 0 to 3, or a formula in T"
    )
    weight: Named[str, float | ShareRule] = Field(
        default_factory=lambda: FixedDict({"storage": 0.25, "live": 0.0, "snow": 0.2}),
        description="Share of a kind of load that is seismic weight; others count in full"
    )
    eccentricity: Share = Field(
        default=0.05, description="Accidental, over the plan dimension across"
    )
    static_eccentricity_factor: float = Field(
        default=1.0, ge=1.0, le=3.0,
        description="On the distance of mass and rigidity, static analysis"
    )
    mass_target: Share = Field(default=0.90, description="Share of the mass the modes must carry")
    modal_combination: ModalCombination = Field(default="CQC", description="Combination of modes")
    directional_combination: DirectionalCombination = Field(
        default="100/30", description="Combination of directions"
    )
    force_share: Share = Field(
        default=1.0, description="Modal forces are scaled up to this share of the static base shear"
    )
    drift_share: Share = Field(default=0.0, description="The same for drift; 0 does not scale")
    torsion: TorsionRule | None = Field(
        default=None, description="Torsional irregularity; left out, there is no limit")
    regularity: RegularityRule | None = Field(
        default=None, description="Other irregularities; left out, they are not checked")
    procedures: ProcedureRule | None = Field(
        default=None, description="Where the static procedure is permitted")
    limit_states: Named[str, StateRule] = Field(
        default_factory=FixedDict, description="Further limit states by name, each with its "
        "hazard, in which drift is judged beside that of the design spectrum")
    drift: Named[str, float | tuple[DriftStep, ...]] = Field(
        min_length=1, description="Allowable design drift over story height, by structure type; "
        "or by period, the first step that holds"
    )
    vertical_share: Share = Field(
        default=0.0, description="Vertical spectrum as a share of the horizontal one; 0 gives none"
    )
    separation: Literal["sum", "root of squares"] | None = Field(
        default=None,
        description="How displacements of neighbors go together; left out, nothing is said"
    )
    combinations: tuple[CombinationRule, ...] = Field(
        default=(), description="Load combinations with earthquake"
    )
    stability: StabilityRule = Field(default=StabilityRule(), description="Second-order effects")

    @model_validator(mode="after")
    def _shares(self) -> Rules:
        kinds = ("dead", "cladding", "partition", "equipment", "roof garden", "storage", "live",
                 "snow", "roof live")
        for name, value in self.weight.items():
            if name not in kinds or not (isinstance(value, ShareRule) or 0 <= value <= 1):
                raise PydanticCustomError(
                    "advice", "weight.{name}: {value} is not the share of a known kind of load "
                    "({kinds}), from 0 to 1; write 0.25 for 25 %",
                    {"name": name, "value": value, "kinds": ", ".join(kinds)})
        for name, ratio in self.drift.items():
            if isinstance(ratio, tuple):
                if not ratio or ratio[-1].below_period is not None:
                    raise PydanticCustomError(
                        "advice", "drift.{name}: no step is left for long periods; give a last "
                        "one without below_period", {"name": repr(name)})
            elif not 0 < ratio < 0.2:
                raise PydanticCustomError(
                    "advice", "drift.{name}: {value} is not a ratio of drift to story height; "
                              "write 0.02 for 2 %",
                    {"name": repr(name), "value": ratio})
        return self

    @model_validator(mode="after")
    def _states(self) -> Rules:
        for name, rule in self.limit_states.items():
            place = f"limit_states.{name}"
            if not re.fullmatch(r"[a-z][a-z0-9 ]{0,23}", name) or name in (
                    STRENGTH.key, DRIFT.key):
                raise PydanticCustomError(
                    "advice", "{place} is no name of a further limit state; write one in small "
                    "letters, other than strength and drift", {"place": place})
            left = [] if isinstance(rule.drift, float) else [
                one for one in self.drift if one not in rule.drift]
            if left:
                raise PydanticCustomError(
                    "advice", "{place}.drift: has no limit for {left}; give one for every "
                    "structure type", {"place": place, "left": repr(left[0])})
        return self

    @model_validator(mode="after")
    def _formulas(self) -> Rules:
        formulas = list(self._written())
        wrong = wrong_values(self.values) or unknown_symbols(formulas, self.values) \
            or unknown_symbols(((f"systems.{name}.divisor_by_period", one.divisor_by_period)
                                for name, one in self.systems.items() if one.divisor_by_period),
                               self.values, OF_DIVISOR)
        if not wrong and not isinstance(self.height_exponent, str) \
                and not 0 <= self.height_exponent <= 3:
            wrong = f"height_exponent: {self.height_exponent} is not from 0 to 3"
        if not wrong:
            wrong = next((f"combinations: the factor {c.dead} on dead load is not from 0 to 5"
                          for c in self.combinations
                          if not isinstance(c.dead, str) and not 0 <= c.dead <= 5), "")
        if wrong:
            raise PydanticCustomError("advice", "{text}", {"text": wrong})
        return self

    def _written(self) -> Iterator[tuple[str, str]]:
        """Every formula with its place."""
        if self.forces is not None:
            for word in ("branches", "least"):
                for i, one in enumerate(getattr(self.forces, word)):
                    yield f"forces.{word}[{i}].coefficient", one.coefficient
            if self.forces.top is not None:
                yield "forces.top", self.forces.top
        if self.diaphragms is not None:
            yield "diaphragms.least", self.diaphragms.least
            yield "diaphragms.most", self.diaphragms.most
        if isinstance(self.height_exponent, str):
            yield "height_exponent", self.height_exponent
        for i, one in enumerate(self.combinations):
            if isinstance(one.dead, str):
                yield f"combinations[{i}].dead", one.dead


class SiteInput(AskedOfSite):
    """The ``[site]`` table for criteria of one's own."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    importance: str | None = Field(
        default=None, description="Name of an importance factor; the first if left out"
    )


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for criteria of one's own."""

    row: str = Field(description="Name of a system in the criteria")
    computed_period: bool = Field(default=True, description="Use the computed period up to its cap")


def _wrong(path: str | Path, message: str, cure: str) -> InputError:
    return InputError([Fault("standard", f"the criteria file {Path(path).name} {message}",
                             cure or "name a TOML file beside the project")])


def criteria_text(path: str | Path) -> str:
    """The text of a criteria file. Raises InputError where it can't be read."""
    return read_text(Path(path), partial(_wrong, path))


def read_rules(path: str | Path, text: str | None = None) -> Rules:
    """Read and validate a criteria file, or its ``text``. Raises InputError with every fault and
    its line."""
    from dataclasses import replace

    from undatum.places import Places, path_of

    path = Path(path)
    text = criteria_text(path) if text is None else text
    try:
        data: dict[str, Any] = tomllib.loads(text)
    except (ValueError, RecursionError) as error:
        raise _wrong(path, f"cannot be read ({str(error)[:100]})", "") from None
    if faults := control_faults(data):
        raise InputError([replace(f, place=f"{path.name}: {f.place}") for f in faults])
    try:
        return Rules.model_validate(data)
    except ValidationError as error:
        places = Places(text)
        raise InputError(
            [replace(f, place=f"{path.name}: {f.place}", line=places.line(path_of(f.place)))
             for f in faults_from(error, Rules)]) from None
