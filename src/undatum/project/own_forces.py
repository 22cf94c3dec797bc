"""Static sets of one's own: forces by level, beside those of the standard: ``[[static_sets]]``."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import Field

from undatum.analysis.lateral import StaticForces, accidental_torques
from undatum.analysis.response import StaticSet
from undatum.building.cases import LoadCase, OnLevels
from undatum.building.naming import known_names
from undatum.described import Described
from undatum.errors import Fault
from undatum.finding import Finding, Severity
from undatum.layout.acting import acting
from undatum.layout.whole import Building
from undatum.mechanics.cases import floor_loads
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import center_line, plumb_drift
from undatum.mechanics.solver import Solver
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from undatum.table import Table, column
from undatum.units import Share


class OwnForces(Described):
    """Lateral forces of one's own on the levels, for strength."""

    name: str = Field(min_length=1, max_length=40, description="Name of the set")
    direction: Direction = Field(
        description="Direction they stand for: that whose base shear they are compared with")
    on_levels: tuple[OnLevels, ...] = Field(min_length=1, description="Forces on floors")
    eccentricity: Share | None = Field(
        default=None, description="Move the forces along the direction by this share of the "
        "dimension across, both ways; none if left out")
    reason: str = Field(min_length=3, description="Where they come from, for the record")


def forces_faults(own: Sequence[OwnForces], building: Building) -> list[Fault]:
    """Names that stand twice, levels that are not there, forces across a plane building."""
    found, names = [], []
    levels = [x.name for x in building.levels][:-1]
    for i, one in enumerate(own):
        at = f"static_sets[{i}]"
        if one.name in names:
            found.append(Fault(f"{at}.name", f"{one.name!r} stands twice", "name them apart"))
        names.append(one.name)
        if one.name.startswith(("static ", "spectrum ")):
            found.append(Fault(f"{at}.name", "begins like the name of a set of the standard",
                               "give it another name"))
        for j, force in enumerate(one.on_levels):
            try:
                known_names(force.at, levels, "levels that move")
            except ValueError as error:
                found.append(Fault(f"{at}.on_levels[{j}].at", str(error)))
            across = {"X": force.Y, "Y": force.X}.get(building.plane or "", 0.0)
            if across or (building.plane and force.moment):
                found.append(Fault(f"{at}.on_levels[{j}]", "acts across the plane of the building",
                                   f"it moves along {building.plane} alone"))
        if building.plane not in (None, one.direction):
            found.append(Fault(f"{at}.direction", "is across the plane of the building",
                               f"it moves along {building.plane} alone"))
        if not any(getattr(force, one.direction) for force in one.on_levels):
            found.append(Fault(f"{at}.on_levels", f"no force acts along {one.direction}",
                               "name the direction in which they act"))
    return found


def own_static_sets(
    own: Sequence[OwnForces], building: Building, solver: Solver, state: LimitState
) -> tuple[StaticSet, ...]:
    """Every set of one's own, with both signs of its eccentricity where it has one."""
    model = solver.model
    found = []
    for one in own:
        acts = acting(building, LoadCase(name=one.name, on_levels=one.on_levels), None)
        forces = np.asarray(acts.on_floors[:, DIRECTIONS.index(one.direction)])
        plain = floor_loads(solver, acts)
        for sign in (1, -1) if one.eccentricity else (0,):
            torque = sign * accidental_torques(model, one.direction, forces,
                                               one.eccentricity or 0.0)
            loads = plain + model.loads(None, torques=torque)
            name = one.name + {1: ", +e", -1: ", −e", 0: ""}[sign]
            found.append(StaticSet(
                f"{name}, {state.key}", one.direction, state, sign, forces, torque, torque,
                solver.solve(loads), loads, own=True))
    return tuple(found)


def own_static_table(
    sets: Sequence[StaticSet], model: Model, statics: Sequence[StaticForces]
) -> Table:
    """By set and level: force, story shear and drift at the center of mass."""
    rows = [(s, i) for s in range(len(sets)) for i in np.flatnonzero(model.above_base).tolist()]
    drift = plumb_drift(model, [center_line(model)])
    moved = [np.reshape(one.of(drift), (2, -1))[DIRECTIONS.index(one.direction)] for one in sets]
    shears = [one.of(model.quantities["story shear"].where(component=one.direction))
              for one in sets]
    usual = {s.shear.direction: s.story_shears for s in statics}
    return Table(
        "own_static", "Static sets of one's own",
        (
            column("set", "", [sets[s].name for s, _ in rows]),
            column("direction", "", [sets[s].direction for s, _ in rows]),
            column("level", "", [model.levels[i] for _, i in rows]),
            column("force", "force", [float(sets[s].forces[i]) for s, i in rows]),
            column("story shear", "force", [float(shears[s][i]) for s, i in rows]),
            column("over the standard's", "ratio", [
                float(shears[s][i] / usual[sets[s].direction][i])
                if usual[sets[s].direction][i] else None for s, i in rows]),
            column("elastic drift", "displacement", [float(moved[s][i]) for s, i in rows]),
        ),
        note="In the direction of the set; drift at the center of mass. Values of the standard are "
             "its static forces for strength. These sets enter the project's combinations by name.",
    )


def own_forces_findings(
    own: Sequence[OwnForces], sets: Sequence[StaticSet], model: Model,
    statics: Sequence[StaticForces],
) -> tuple[Finding, ...]:
    """The base shear of every set of one's own beside that of the standard."""
    usual = {s.shear.direction: s.shear.base_shear for s in statics}
    found = []
    for one in own:
        first = next(s for s in sets if s.name.startswith(one.name))
        row = model.at_base("story shear", component=one.direction)
        ratio = abs(float(first.of(row)[0])) / usual[one.direction]
        found.append(Finding(
            "static set of one's own", one.name, Severity.NOTE,
            f"Its base shear along {one.direction} is {ratio:.3f} times that of the standard's "
            f"static forces for strength: {one.reason}.", "static_sets", "", ratio))
    return tuple(found)
