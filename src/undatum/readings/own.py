"""Combinations of one's own: of forces, ``[[combinations]]``, and ``drift.combinations``."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import TYPE_CHECKING, Annotated, Literal, get_args

from pydantic import Field, model_validator

from undatum.analysis.response import FurtherSet
from undatum.building.axes import advice
from undatum.building.loads import Kind
from undatum.described import Described, Named
from undatum.errors import Fault, InputError, one_of
from undatum.layout.whole import Building
from undatum.record import FixedDict
from undatum.standards.terms import Effect, Motion
from undatum.table import Table, column, number_text
from undatum.units import Measure

if TYPE_CHECKING:
    from undatum.analysis.response import ResponseSet

Factor = Annotated[float, Measure("ratio", least=-10.0, most=10.0, plausible=(-2.0, 2.5))]
DriftRatio = Annotated[float, Measure("ratio", above=0.0, most=0.2, plausible=(5e-4, 0.05))]
Share = Annotated[float, Measure("ratio", above=0.0, most=10.0, plausible=(0.1, 3.5))]
EFFECTS: tuple[Effect, ...] = get_args(Effect)
_KINDS = tuple(dict.fromkeys((*EFFECTS, *get_args(Kind))))


class _Combination(Described):
    """What every combination of one's own says: loads and sets with their factors."""

    name: str = Field(min_length=1, max_length=60, description="Name of the combination")
    factors: Named[str, Factor] = Field(
        default_factory=FixedDict,
        description="Factors on loads: dead, live and snow as the standard sorts kinds of load, a "
        "kind by its own name in place of that (storage = 0.8), and cases of one's own by name")
    sets: Named[str, Factor] = Field(
        default_factory=FixedDict,
        description="Factors on single sets by name: a static one with the sign it has, a spectrum "
        "with both; those of several directions of motion too. For strength; in "
        "drift.combinations those for drift, and static sets of one's own")
    reason: str = Field(default="", description="Where it comes from, for the record")


class OwnCombination(_Combination):
    """A load combination of one's own, beside those of the standard."""

    kind: str = Field(
        default="own", min_length=1, max_length=40,
        description="What it is for: combinations of one kind share their extremes. A kind of the "
        "standard joins its own; any other stands by itself")
    earthquake: Named[Motion, Share] = Field(
        default_factory=FixedDict,
        description="Factors on the forces for strength along X, Y and, where vertical ground "
        "motion is analyzed, Z, each with both signs")
    together: Literal["sum", "SRSS"] = Field(
        default="sum", description="How the effects of the earthquake along them go together")

    @model_validator(mode="after")
    def _something(self) -> OwnCombination:
        if not (self.factors or self.earthquake or self.sets):
            raise advice("nothing acts; give factors, earthquake or sets")
        return self


class DriftCombination(_Combination):
    """A combination of one's own whose story drift is read, beside the drift checks."""

    of: Literal["elastic", "design"] = Field(
        description="Drift the sets enter with: elastic, under the reduced forces, or design, "
        "amplified as the standard has it")
    limit: DriftRatio | None = Field(
        default=None, description='Limit on drift over story height, such as "0.25 %"')

    @model_validator(mode="after")
    def _fitting(self) -> DriftCombination:
        if not (self.sets or self.factors):
            raise advice("nothing acts; give sets or factors")
        if self.limit is not None and not self.reason:
            raise advice("a limit needs its reason; give reason, or take limit out")
        return self


def drift_combination_faults(
    own: Sequence[DriftCombination], building: Building
) -> list[Fault]:
    """Loads that are not there, and names that stand twice."""
    return _faults_of(own, building, "drift.combinations", _KINDS if building.has_members else ())


def check_drift_sets(
    own: Sequence[DriftCombination], sets: Sequence[ResponseSet | FurtherSet]
) -> dict[str, ResponseSet | FurtherSet]:
    """The sets by name that such combinations may take. Raises InputError for others."""
    fit = {s.name: s for s in sets
           if s.state.role == "drift" or (not isinstance(s, FurtherSet) and s.own)}
    forces = {s.name for s in sets} - set(fit)
    faults = [
        Fault(place, f"{name!r} is for strength: its drift is not judged",
              f"choose from: {'; '.join(fit)}") if name in forces else
        _unknown(place, name, "set for drift", tuple(fit))
        for i, one in enumerate(own) for name in one.sets if name not in fit
        for place in [f"drift.combinations[{i}].sets.{name}"]]
    if faults:
        raise InputError(faults)
    return fit


def _faults_of(
    own: Sequence[_Combination], building: Building, place: str, kinds: Collection[str]
) -> list[Fault]:
    """Factors on what is not there, names that stand twice."""
    known = (*kinds, *(case.name for case in building.cases))
    names = [one.name for one in own]
    return [
        *(Fault(f"{place}[{i}].name", f"{name!r} stands twice", "name them apart")
          for i, name in enumerate(names) if name in names[:i]),
        *(_unknown(f"{place}[{i}].factors.{key}", key, "kind of load, and no case of one's own",
                   known) for i, one in enumerate(own) for key in one.factors if key not in known)]


def combination_faults(
    own: Sequence[OwnCombination], building: Building, vertical: bool
) -> list[Fault]:
    """Factors on what is not there, names that stand twice, directions a plane building lacks."""
    found = _faults_of(own, building, "combinations", _KINDS)
    for i, one in enumerate(own):
        at = f"combinations[{i}]"
        found += [Fault(f"{at}.earthquake.{d}", "is across the plane of the building",
                        f"it moves along {building.plane} alone")
                  for d in one.earthquake if building.plane not in (None, d) and d != "Z"]
        if "Z" in one.earthquake and not vertical:
            found.append(Fault(f"{at}.earthquake.Z", "is not analyzed",
                               "set analysis.vertical_spectrum = true"))
    return found


def _unknown(place: str, name: str, what: str, known: Collection[str]) -> Fault:
    return Fault(place, f"{name!r} is no {what}", one_of(name, known))


def check_sets(own: Sequence[OwnCombination], sets: Sequence[ResponseSet | FurtherSet]) -> None:
    """Refuse sets that are not there, and those for drift. Raises InputError."""
    fit = [s.name for s in sets if s.state.role == "forces"]
    drift = {s.name for s in sets if s.state.role != "forces"}
    faults = []
    for i, one in enumerate(own):
        for name in one.sets:
            place = f"combinations[{i}].sets.{name}"
            if name in drift:
                faults.append(Fault(place, f"{name!r} is for drift: its forces enter no "
                                    "combination", f"choose from: {'; '.join(fit)}"))
            elif name not in fit:
                faults.append(_unknown(place, name, "set for strength", fit))
    if faults:
        raise InputError(faults)


def own_combinations_table(own: Sequence[OwnCombination]) -> Table:
    """Combinations of one's own as they were given."""
    def said(of: object) -> str:
        assert hasattr(of, "items")
        return ", ".join(f"{number_text(v)} {k}" for k, v in of.items())

    return Table(
        "own_combinations", "Load combinations defined in the project",
        (
            column("kind", "", [one.kind for one in own]),
            column("combination", "", [one.name for one in own]),
            column("loads and cases", "", [said(one.factors) for one in own]),
            column("earthquake, both signs", "", [
                said(one.earthquake) + (" by SRSS" if one.together == "SRSS" else "")
                for one in own]),
            column("sets", "", [said(one.sets) for one in own]),
            column("reason", "", [one.reason for one in own]),
        ),
    )
