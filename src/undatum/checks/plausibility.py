"""Hand estimates beside computed values: who checks the computer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.analysis.lateral import StaticForces
from undatum.analysis.modes import Modes
from undatum.analysis.response import StaticSet, nodal_forces
from undatum.checks.comparison import Comparison
from undatum.finding import Finding, Severity
from undatum.layout.weight import Weights
from undatum.mechanics.model import COMPONENTS, Model
from undatum.mechanics.second_order import leaning_stiffness
from undatum.mechanics.solver import Solver
from undatum.record import FixedDict, record
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column, number_text
from undatum.units import SI, UnitSystem

#: Seismic weight per floor area that is usual for an occupancy, N/m2. A judgement of ours for a
#: first look, not a rule of any standard: structure, finishes, facade and the counted share.
USUAL_WEIGHT: Mapping[str, tuple[float, float]] = FixedDict({
    "residential": (3.0e3, 11.0e3),
    "office": (3.0e3, 10.0e3),
    "school": (3.5e3, 11.0e3),
    "health care": (4.0e3, 13.0e3),
    "storage": (4.0e3, 16.0e3),
    "industrial": (1.5e3, 14.0e3),
    "other": (2.0e3, 15.0e3),
})


@record
class Plausibility:
    """All comparisons, and those that only ask whether a value lies in a usual range."""

    comparisons: tuple[Comparison, ...]
    ranges: tuple[Finding, ...]

    def table(self, units: UnitSystem = SI) -> Table:
        """Computed value, estimate, difference and what is believed, in words in ``units``."""
        rows = self.comparisons
        return Table(
            "plausibility",
            "Plausibility: hand estimates beside computed values",
            (
                column("check", "", [c.name for c in rows]),
                column("where", "", [c.where for c in rows]),
                column("computed", "", [_plain(c.computed, c.dimension, units) for c in rows]),
                column("estimate", "", [_plain(c.estimate, c.dimension, units) for c in rows]),
                column("difference", "ratio", [c.difference for c in rows], 3),
                column("tolerance", "ratio", [c.tolerance for c in rows], 2),
                column("passes", "", [c.believed for c in rows]),
                column("how", "", [c.how for c in rows]),
            ),
            marks=tuple(i for i, c in enumerate(rows) if not c.believed),
        )

    def findings(self) -> tuple[Finding, ...]:
        """A warning for every comparison that does not hold; one line when all do."""
        found = [
            Finding(
                f"plausibility: {c.name}", c.where, Severity.WARNING,
                f"Computed and estimated values differ by {_percent(c.difference)}; "
                + ("up to" if c.least is None else f"from {_percent(c.least)} to")
                + f" {_percent(c.tolerance)} is usual.", "", f"Estimate: {c.how}.",
                c.computed, c.estimate, c.dimension,
            )
            for c in self.comparisons if not c.believed
        ]
        if not found:
            found.append(Finding("plausibility", "whole structure", Severity.OK,
                                 f"All {len(self.comparisons)} hand estimates agree."))
        return (*found, *self.ranges)


def _percent(share: float) -> str:
    return f"{number_text(100 * share, 2 if abs(share) > 1e-3 else 3)} %"


def _plain(value: float, dimension: str, units: UnitSystem) -> str:
    return f"{number_text(units.show(value, dimension), 5)} {units.label(dimension)}".strip()


def check_plausibility(
    solver: Solver, weights: Weights, modes: Modes, statics: Mapping[Direction, StaticForces],
    sets: Sequence[StaticSet], occupancy: str,
    approximate: Mapping[Direction, float] | None = None, units: UnitSystem = SI,
    balances: Sequence[Comparison] = (),
) -> Plausibility:
    """Compare what was computed with what a hand calculation gives.

    ``statics`` are the forces for strength; ``sets`` those of the same limit state;
    ``approximate`` the standard's own estimates of the periods, s; ``balances`` those of the load
    cases.
    """
    rows: list[Comparison] = []
    for direction, static in statics.items():
        rows += _direction(solver, weights, modes, static, DIRECTIONS.index(direction),
                           (approximate or {}).get(direction))
    for i, name in enumerate(COMPONENTS if modes.complete else ()):
        if name not in solver.model.components:
            continue
        rows.append(Comparison(
            "effective masses add up to the mass", name, float(modes.effective_mass[:, i].sum()),
            float(modes.total_mass[i]), "mass" if i < 2 else "rotational inertia", 1e-9,
            "sum over all modes against the sum over the levels"))
    if not modes.complete:
        rows.append(_by_energy(solver.model, modes))
    if not solver.model.plane:
        rows += [_torsion_balance(solver.model, one) for one in sets]
    rows += balances
    per_area = weights.total / float(weights.areas[weights.weight > 0].sum())
    low, high = USUAL_WEIGHT[occupancy]
    usual = low <= per_area <= high
    unit = units.label("area load")
    said = [number_text(units.show(v, "area load"), 3) for v in (per_area, low, high)]
    ranges = (Finding(
        "weight per floor area", "levels above the base",
        Severity.OK if usual else Severity.WARNING,
        f"{said[0]} {unit} " + ("lies in" if usual else "lies outside")
        + f" the usual {said[1]} to {said[2]} {unit} for {occupancy}.",
        "", "" if usual else "Compare the weight table with a hand estimate, source by source.",
        per_area, high, "area load"),)
    return Plausibility(tuple(rows), ranges)


def _direction(
    solver: Solver, weights: Weights, modes: Modes, static: StaticForces, axis: int,
    approximate: float | None,
) -> list[Comparison]:
    model, direction = solver.model, DIRECTIONS[axis]
    load = model.loads(direction, static.forces)
    u = solver.solve(load)
    rayleigh = 2 * np.pi * np.sqrt((u @ (model.mass @ u)) / (u @ load))
    period = float(modes.periods[modes.governing(axis)])
    height, stories = model.height, len(model.tallest)
    shear = static.shear
    held = nodal_forces(model, u)
    reaction, moment = (
        abs(float(model.at_base(kind, component=direction).of(u, held)[0]))
        for kind in ("story shear", "overturning moment"))
    arms = np.maximum(static.heights, 0.0)
    return [
        Comparison("period by Rayleigh quotient", direction, period, float(rayleigh), "time", 0.10,
                   "2 pi sqrt(sum w d^2 / (g sum F d)) with the static forces"),
        *([] if approximate is None else [
            Comparison("period by the standard's formula", direction, period, approximate, "time",
                       1.5, "approximate period of the standard for the lateral system; 0.4 to 2.5 "
                            "times it is plausible", -0.6)]),
        Comparison("story forces add up to the base shear", direction,
                   float(static.forces.sum()), shear.base_shear, "force", 1e-9,
                   "sum over the levels"),
        Comparison("base shear by hand", direction, shear.base_shear,
                   shear.coefficient * sum(line.counted for line in weights.lines), "force", 1e-9,
                   "coefficient times the sum of the weight table, source by source"),
        Comparison("resisted shear equals applied force", direction, reaction,
                   float(static.forces.sum()), "force", 1e-6,
                   "shear of the story at the base from the displacements"),
        Comparison("overturning moment by hand", direction, moment,
                   float(static.forces @ arms), "moment", 1e-6, "sum of force times height"),
        Comparison("height per story", direction, height / stories, 3.8, "length", 0.75,
                   "a story is usually 2.5 to 6 m"),
    ]


def _by_energy(model: Model, modes: Modes) -> Comparison:
    """The last mode in use by its own shape: strain against kinetic energy."""
    last = modes.kept - 1
    shape = modes.shapes[:, last]
    omega = np.sqrt((shape @ (model.stiffness @ shape)) / (shape @ (model.mass @ shape)))
    return Comparison(
        "period of the last mode used by its energies", f"mode {modes.numbers[last]}",
        float(modes.periods[last]), float(2 * np.pi / omega), "time", 1e-6,
        "2 pi sqrt(kinetic over strain energy of its shape)")


def _torsion_balance(model: Model, one: StaticSet) -> Comparison:
    """Moment of the line shears at the base against that of the applied forces."""
    c = model.diaphragms.centers
    lever = -c[:, 1] if one.direction == "X" else c[:, 0]
    applied = float(np.sum(one.torques + lever * one.forces))
    if model.second_order is not None:  # gravity pushes over what leans
        pushed = (leaning_stiffness(model.second_order.elastic, model.second_order.pressing)
                  @ one.displacement)[model.diaphragms.freedoms]
        applied += float(np.sum(pushed[:, 2] + c[:, 0] * pushed[:, 1] - c[:, 1] * pushed[:, 0]))
    shears = model.quantities["line shear"]
    arms = np.concatenate([line.moment_arm * np.isin(line.levels, model.base_stories)
                           for line in model.lines])
    resisted = float(arms @ one.of(shears))
    if "member twist" in model.quantities:
        resisted += float(one.of(model.at_base("member twist"))[0])
    return Comparison("equilibrium of torsion at the base", one.name, resisted, applied, "moment",
                      1e-6, "line shears times their arms against the applied moment")
