"""The short path: heights and weights give periods, static forces and diaphragm forces.

What needs stiffness is not done, and the findings say so.
"""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

import numpy as np

from undatum import standards
from undatum.analysis.lateral import forces_on
from undatum.building.stack import Stack
from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.project.heights import StackProject
from undatum.project.located import hazard_finding, hazard_working
from undatum.results.expected import expected_findings
from undatum.results.outcome import read_outcome
from undatum.results.stack_forces import StackForces
from undatum.stages.own_values import own_of_site
from undatum.stages.shaking import shaking
from undatum.standards.answers import RegularityAnswer
from undatum.standards.facts import StructureFacts
from undatum.standards.terms import DIRECTIONS
from undatum.units import UnitSystem
from undatum.working import OwnValue, unused


def _facts(stack: Stack) -> StructureFacts:
    floors = stack.floors()
    heights = tuple(f.height for f in floors)
    x, y = stack.plan or (math.nan, math.nan)
    return StructureFacts(
        height=sum(heights), stories=len(floors), story_heights=heights,
        weight=sum(f.weight for f in floors), plan=(x, y), base_area=x * y)


#: Keys that need a structure; they stay in the file for the day there is one.
OF_A_STRUCTURE = ("drift", "gaps", "irregularities", "combinations", "static_sets", "record",
                  "occupancy")


def _unused_keys(project: StackProject) -> tuple[Finding, ...]:
    """Keys that say something of a structure there is not, and tables nobody can compare with."""
    keys = [key for key in OF_A_STRUCTURE if key in project.model_fields_set]
    if not keys:
        return ()
    return (Finding(
        "keys without a structure", "whole structure", Severity.NOTE,
        f"Not used: {', '.join(keys)}. They apply once there is a [building].",
        "", ""),)


def run_stack(project: StackProject) -> StackForces:
    """Periods, static forces and diaphragm forces. Raises InputError where a value can't be used,
    or where a rule asks for what only a structure has.

    Keys that need a structure may stand in the project, and a finding names them.

    >>> stack = ud.make_stack(
    ...     site={"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C",
    ...           "risk_category": "II"},
    ...     system={"X": {"row": "B.2"}, "Y": {"row": "B.2"}},
    ...     stack={"heights": {"Roof": "18 m"}, "weights": {"Roof": "24 MN"}, "plan": [40, 24]})
    >>> round(ud.run_stack(stack).statics["X", "strength"].shear.base_shear / 1e6, 2)  # MN
    3.52
    """
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
                "There is no structure: modes, spectrum analysis, drift, second-order effects and "
                "irregularities are not checked; the approximate period is used."
                + ("" if torques is not None else " Accidental torsion is left out: the plan is "
                   "not given."), "",
                "Describe lines, members or walls under [building] to check them."),
        *_unused_keys(project))
    found = StackForces(
        project, standard.title, standard.states, site, shakes, job.systems, periods, statics,
        {d: f.forces for d, f in spread.items() if f is not None}, torques, findings, working)
    if not project.expected:
        return found
    return replace(found, findings=(*found.findings, *expected_findings(found.expected())))


def load_stack(folder: str | Path) -> StackForces:
    """As :func:`undatum.load`, for a run of heights and weights alone.

    >>> stack = ud.make_stack(
    ...     site={"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C",
    ...           "risk_category": "II"},
    ...     system={"X": {"row": "B.2"}, "Y": {"row": "B.2"}},
    ...     stack={"heights": {"Roof": "18 m"}, "weights": {"Roof": "24 MN"}, "plan": [40, 24]})
    >>> _ = ud.run_stack(stack).save(folder / "run")
    >>> ud.load_stack(folder / "run").severity.value
    'warning'
    """
    found = read_outcome(folder)
    if not isinstance(found, StackForces):
        raise InputError([Fault(str(folder), "holds results of a building", "ud.load reads it")])
    return found
