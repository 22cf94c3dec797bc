"""The short path: heights and weights give periods, static forces and diaphragm forces.

What needs stiffness is not done, and the findings say so.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, create_model

from undatum import standards
from undatum.analysis.lateral import StaticForces, forces_on
from undatum.building.stack import Stack
from undatum.errors import InputError
from undatum.finding import Finding, Severity, findings_table, worst
from undatum.project.from_python import in_units
from undatum.project.located import hazard_finding, hazard_working
from undatum.project.project_file import read_as, validated
from undatum.project.schema import (
    DEFAULT_STANDARD,
    SignedProject,
    asked_in,
    directions_class,
    restored,
)
from undatum.record import FixedDict, record
from undatum.results.base_shear import BaseShears
from undatum.stages.own_values import own_of_site
from undatum.stages.shaking import Shaking, shaking, site_table, spectrum_table
from undatum.standards.answers import PeriodAnswer, RegularityAnswer, SiteAnswer, SystemAnswer
from undatum.standards.facts import Asked, AskedOfSite, StructureFacts
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from undatum.table import Table, Tabled, column, number_text
from undatum.units import UnitSystem
from undatum.working import OwnValue, Section, unused

Floats = NDArray[np.float64]


class StackProject(SignedProject):
    """A job without a structure: site, lateral systems, heights and weights."""

    stack: Stack = Field(description="Heights and weights")

    def __reduce_ex__(self, protocol: Any) -> Any:
        fields = type(self).model_fields
        system: Any = fields["system"].annotation
        kinds = (fields["site"].annotation, asked_in(system))
        return restored, (_stack_class, kinds, self.__getstate__())


@record
class StackForces(Tabled):
    """Static forces of a building of which heights and weights are all that is known. SI."""

    project: StackProject
    standard_title: str
    states: tuple[LimitState, ...]
    site: SiteAnswer
    shaking: Shaking
    laterals: Mapping[Direction, SystemAnswer]
    periods: Mapping[Direction, PeriodAnswer]
    statics: Mapping[tuple[Direction, str], StaticForces]
    diaphragms: Mapping[Direction, Floats]
    torques: Mapping[Direction, Floats] | None
    findings: tuple[Finding, ...]
    working: tuple[Section, ...]

    @property
    def units(self) -> UnitSystem:
        """The unit system of the project."""
        return UnitSystem(self.project.units)

    @property
    def severity(self) -> Severity:
        """The most serious finding."""
        return worst(self.findings)

    @property
    def strength(self) -> LimitState:
        """The limit state whose base shear is quoted."""
        return next(s for s in self.states if s.role == "forces")

    def stack_table(self) -> Table:
        """Height, elevation and weight by level, with the sums."""
        floors = self.project.stack.floors()
        heights = np.array([f.height for f in floors])
        return Table(
            "stack", "Heights and weights as given",
            (
                column("level", "", [*(f.name for f in floors), "total"]),
                column("story height", "length", [*heights.tolist(), float(heights.sum())]),
                column("height above base", "length",
                       [*np.cumsum(heights[::-1])[::-1].tolist(), None]),
                column("seismic weight", "force",
                       [*(f.weight for f in floors), sum(f.weight for f in floors)]),
            ))

    def diaphragm_table(self) -> Table:
        """Design forces of the diaphragms."""
        levels = self.statics["X", self.strength.key].levels
        heavy = [f.weight > 0 for f in self.project.stack.floors()]
        shown = [n for n, w in zip(levels, heavy, strict=True) if w]
        return Table(
            "diaphragms", "Diaphragm design forces",
            (column("level", "", shown),
             *(column(f"force {d}", "force", f) for d, f in self.diaphragms.items())))

    def torsion_table(self) -> Table:
        """Moments about the vertical axis of the accidental eccentricity, not amplified."""
        assert self.torques is not None
        return Table(
            "accidental_torsion", "Moments of the accidental eccentricity",
            (column("level", "", self.statics["X", self.strength.key].levels),
             *(column(f"moment, forces in {d}", "moment", self.torques[d]) for d in DIRECTIONS)),
            note="Of either sign, for strength, not amplified: that needs the displacements of a "
            "structure.")

    @property
    def base_shears(self) -> BaseShears:
        """Periods, static forces and base shears, and how they were found."""
        return BaseShears(
            self.project.title, self.standard_title, self.units, self.statics, self.periods,
            FixedDict(), self.shaking, self.working)

    def made_by_name(self) -> Mapping[str, Callable[[], Table]]:
        found: dict[str, Callable[[], Table]] = {
            "stack": self.stack_table, "site": lambda: site_table(self.site),
            "spectrum": lambda: spectrum_table(self.shaking, {}, 4.0),
            "base_shears": lambda: self.base_shears.table(),
            **{s.table_name: s.table for s in self.statics.values()}}
        if self.torques is not None:
            found["accidental_torsion"] = self.torsion_table
        if self.diaphragms:
            found["diaphragms"] = self.diaphragm_table
        return {**found, "findings": lambda: findings_table(self.findings)}

    def summary(self) -> list[tuple[str, str]]:
        """The summary, line by line."""
        u = self.units
        weight = sum(f.weight for f in self.project.stack.floors())

        def force(value: float) -> str:
            return f"{number_text(u.show(value, 'force'))} {u.label('force')}"

        lines = [("Standard", f"{self.standard_title}, {self.site.summary}"),
                 ("Weight", force(weight))]
        for d in DIRECTIONS:
            s = self.statics[d, self.strength.key].shear
            lines.append((f"Base shear {d}", f"{force(s.base_shear)} = {s.coefficient:.4f} W at "
                          f"T = {s.period:.3f} s; {s.governing}"))
        counts = {s: sum(f.severity is s for f in self.findings) for s in Severity}
        lines.append(("Findings", ", ".join(f"{n} {s.value}" for s, n in counts.items() if n)))
        return lines

    def __str__(self) -> str:
        return f"{self.project.title}\n" + "\n".join(
            f"  {name:<13} {text}" for name, text in self.summary())


def _facts(stack: Stack) -> StructureFacts:
    floors = stack.floors()
    heights = tuple(f.height for f in floors)
    x, y = stack.plan or (math.nan, math.nan)
    return StructureFacts(
        height=sum(heights), stories=len(floors), story_heights=heights,
        weight=sum(f.weight for f in floors), plan=(x, y), base_area=x * y)


def run_stack(project: StackProject) -> StackForces:
    """Periods, static forces and diaphragm forces. Raises InputError where a value can't be used,
    or where a rule asks for what only a structure has."""
    with project.at_work():
        return _run(project)


def _run(project: StackProject) -> StackForces:
    standard = standards.get(project.standard, project.folder)
    ground = standard.ground(project.site)
    site = ground.site()
    shakes = shaking(project.spectrum, project.analysis.damping, standard.title, ground, site,
                     project.folder)
    asked = project.system.by_direction
    job = standard.bind(project.site, site, asked, _facts(project.stack), shakes.horizontal)
    part = standard.forces(job)
    floors = project.stack.floors()
    levels = tuple(f.name for f in floors)
    stories = np.array([f.height for f in floors])
    heights = np.cumsum(stories[::-1])[::-1]
    weights = np.array([f.weight for f in floors])
    periods = {d: part.period(d) for d in DIRECTIONS}
    statics = {
        (d, s.key): forces_on(part, levels, weights, heights, stories, d, s, periods[d])
        for d in DIRECTIONS for s in standard.states}
    strength = next(s for s in standard.states if s.role == "forces")
    spread = {d: part.diaphragms(statics[d, strength.key].distribution, weights[weights > 0],
                                np.tri(int((weights > 0).sum()), dtype=bool))
              for d in DIRECTIONS}
    torques = None
    if project.stack.plan is not None:
        x, y = project.stack.plan
        torques = {d: part.eccentricity("static").share * across
                   * statics[d, strength.key].forces
                   for d, across in zip(DIRECTIONS, (y, x), strict=True)}
    whole = standard.whole(job)
    procedure = whole.procedures({d: statics[d, strength.key].shear for d in DIRECTIONS}, periods,
                                 {}, RegularityAnswer((), whole.types, ()))
    working = (
        *hazard_working(project.site), site.working, *shakes.working,
        *(job.systems[d].working for d in DIRECTIONS), *(periods[d].working for d in DIRECTIONS),
        *(w for s in statics.values() for w in (s.shear.working, s.distribution.working)),
        *(f.working for f in spread.values() if f is not None))
    own: tuple[OwnValue, ...] = (*project.site.replaced("site"), *(
        one for d, a in asked.items() for one in a.replaced(f"system.{d}", d)))
    if faults := unused(own, working):
        raise InputError(faults)
    findings = (
        *own_of_site(own, working, UnitSystem(project.units)), *hazard_finding(project.site),
        *site.findings, *(f for d in DIRECTIONS for f in job.systems[d].findings),
        *procedure.findings, *shakes.findings,
        Finding("scope", "whole structure", Severity.WARNING,
                "There is no structure: modes, spectrum analysis, drift, second order, torsional "
                "and other irregularities are not judged; the period is the approximate one."
                + ("" if torques is not None else " Accidental torsion is left out: the plan is "
                   "not given."), "",
                "Describe lines or members under [building] to have them judged."))
    return StackForces(
        project, standard.title, standard.states, site, shakes, job.systems, periods, statics,
        {d: f.forces for d, f in spread.items() if f is not None}, torques, findings, working)


@cache
def _stack_class(site_input: type[AskedOfSite], system_input: type[Asked]) -> type[StackProject]:
    return cast(type[StackProject], create_model(
        "StackProject", __base__=StackProject, __doc__=StackProject.__doc__,
        site=(cast(Any, site_input), Field(description="Site parameters")),
        system=(cast(Any, directions_class(system_input)),
                Field(description="Lateral system by direction")),
    ))


def _stack_model(key: str, folder: Path | None = None) -> type[StackProject]:
    standard = standards.get(key, folder)
    return _stack_class(cast(Any, standard.site_input), cast(Any, standard.system_input))


def read_stack(path: str | Path) -> StackProject:
    """Read a project file with heights and weights alone. Raises InputError."""
    return read_as(path, _stack_model)


def make_stack(
    *, site: Mapping[str, object] | AskedOfSite, system: Mapping[str, object],
    stack: Stack | Mapping[str, object], title: str = "Building",
    standard: str = DEFAULT_STANDARD, units: str | None = None, results_in: str | None = None,
    folder: str | Path | None = None,
) -> StackProject:
    """A project of heights and weights from Python: the keys of a project file as arguments.

    Plain numbers are SI; others carry their unit as text. ``results_in`` is the system results are
    written in; ``units`` as for :func:`make_project`. Raises InputError when it is wrong.
    """
    data, written = in_units({
        "title": title, "standard": standard, "site": site, "system": system, "stack": stack},
        units, results_in)
    project, faults = validated(data, None if folder is None else Path(folder), _stack_model)
    if project is None:
        raise InputError(faults)
    return project if project.units == written else project.model_copy(update={"units": written})
