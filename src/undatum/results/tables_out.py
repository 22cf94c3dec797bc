"""Tables of a run that draw on several of its parts, made when asked for."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from undatum.analysis.modes import Normalization, normalized
from undatum.analysis.response import BothDirections
from undatum.mechanics.model import COMPONENTS
from undatum.mechanics.quantities import (
    center_line,
    plumb_bottom,
    plumb_displacement,
    plumb_drift,
)
from undatum.results.base_shear import diaphragms_governed
from undatum.results.summary import said_force
from undatum.standards.terms import DIRECTIONS
from undatum.table import Table, column, number_text

if TYPE_CHECKING:
    from undatum.analysis.response import ResponseSet, SpectrumSet
    from undatum.results.found import Found


def centers_table(results: Found) -> Table:
    """Elevation, center of mass and center of rigidity by level, and their distance."""
    s = results.model.diaphragms
    e = np.round(s.centers - results.rigidity, 9)  # no digits below a nanometer
    return Table(
        "centers",
        "Levels and centers",
        (
            column("level", "", s.levels),
            column("elevation", "length", s.elevations),
            column("story height", "length", s.story_heights),
            column("x of center of mass", "length", s.centers[:, 0]),
            column("y of center of mass", "length", s.centers[:, 1]),
            *(() if results.model.plane else (
                column("x of center of rigidity", "length", results.rigidity[:, 0]),
                column("y of center of rigidity", "length", results.rigidity[:, 1]),
                column("eccentricity x", "length", e[:, 0]),
                column("eccentricity y", "length", e[:, 1]))),
        ),
        note="" if results.model.plane else
        "Center of rigidity: where the story shear of the static forces acts when floors translate "
        "without rotation.",
    )


def mode_shape_table(results: Found, how: Normalization = "unit modal mass") -> Table:
    """Shapes of the modes in use, with unit modal mass or another normalization."""
    floors, kept = results.model.diaphragms.freedoms, results.modes.kept
    rows = [(m, i) for m in range(kept) for i in range(results.model.n)]
    phi = normalized(results.modes, results.model, how)[floors]  # floor, component, mode
    return Table(
        "mode_shapes",
        f"Mode shapes at the centers of mass, {how} (SI)",
        (
            column("mode", "", [results.modes.numbers[m] for m, _ in rows]),
            column("level", "", [results.model.levels[i] for _, i in rows]),
            *(column(name, "ratio", [phi[i, c, m] for m, i in rows], 5)
              for c, name in enumerate(COMPONENTS) if name in results.model.components),
        ),
    )


def diaphragm_table(results: Found) -> Table:
    """Diaphragm design forces by level beside the static forces."""
    heavy = results.weights.weight > 0
    weight = results.weights.weight[heavy]
    return Table(
        "diaphragms",
        "Diaphragm design forces",
        (
            column("level", "", [name for name, keep in
                                 zip(results.model.levels, heavy, strict=True) if keep]),
            column("weight", "force", weight),
            *(col for d, forces in results.diaphragms.items() for col in (
                column(f"static force, {d}", "force",
                       results.statics[d, results.strength.key].forces[heavy]),
                column(f"diaphragm force, {d}", "force", forces),
                column(f"over weight, {d}", "ratio", forces / weight),
                column(f"governed by, {d}", "", diaphragms_governed(results.working, d, forces)),
            )),
        ),
        note="Inertial forces of the whole level. Transfer forces from offsets and changes of "
             "stiffness are not included." + ("" if not results.model.open_floors else
                                      " Floors that are not rigid as a whole, "
        + ", ".join(results.model.levels[one.level] for one in results.model.open_floors)
        + ", have no diaphragm to take them: they are the inertia of their nodes."),
    )


def modal_base_shear_table(results: Found) -> Table:
    """Base shear of each mode in use, for both directions of ground motion."""
    return Table(
        "modal_base_shears",
        "Base shear by mode, before scaling",
        (
            column("mode", "", results.modes.names_in_use(results.dynamic[0].periods.size)),
            column("period", "time", results.dynamic[0].periods),
            *([column("damping", "ratio", results.dynamic[0].damping)]
              if np.ptp(results.dynamic[0].damping) else []),
            *(col for r in results.dynamic for col in (
                column(f"reduced acceleration, {r.direction}", "acceleration",
                       r.ordinates),
                column(f"base shear, {r.direction}", "force", r.modal),
            )),
        ),
        note="; ".join(f"combined {r.direction}: {said_force(results, r.base_shear)}"
                       for r in results.dynamic),
    )


def floor_motion_table(results: Found) -> Table:
    """Elastic displacement and rotation of every floor under every set, whatever it is for."""
    model, sets = results.model, results.every_set
    quantity = plumb_displacement(model, [center_line(model)], model.components)
    values = np.array([one.of(quantity) for one in sets]).reshape(
        len(sets), len(model.components), model.n)
    rows = [(s, i) for s in range(len(sets)) for i in range(model.n)]
    return Table(
        "floor_motion", "Displacement and rotation of the floors, every set",
        (
            column("set", "", [sets[s].name for s, _ in rows]),
            column("level", "", [model.levels[i] for _, i in rows]),
            *(column(f"displacement {name}" if name != "rotation" else "rotation",
                     "displacement" if name != "rotation" else "angle",
                     [float(values[s, c, i]) for s, i in rows], 6 if name == "rotation" else 4)
              for c, name in enumerate(model.components)),
        ),
        note="At the center of mass, under the forces of the set, not amplified; rotation from X "
             "to Y. Spectrum values are unsigned.",
    )


def points_table(results: Found) -> Table:
    """Where drift is read: plan points with coordinates, and the crossing of axes they stand at."""
    axes = results.project.building.axes
    known = {} if axes is None else axes.crossings
    at = [line.points[0] for line in results.plumb]
    here = [", ".join(name for name, c in known.items() if np.hypot(*(np.array(c) - p)) < 1e-3)
            for p in at]
    return Table(
        "drift_points", "Points where drift is read",
        (
            column("point", "", [line.name for line in results.plumb]),
            column("x", "length", [float(p[0]) for p in at]),
            column("y", "length", [float(p[1]) for p in at]),
            *([column("crossing", "", here)] if any(here) else []),
            column("highest story", "", [
                next((results.model.levels[i] for i in np.flatnonzero(line.present)), "")
                for line in results.plumb]),
        ),
        note="In addition to the centers of mass.",
    )


def modal_story_forces_table(results: Found) -> Table:
    """Force on every level in each mode in use, before scaling, for each direction of motion.

    Of masses where they are: moved ones have modes of their own, by direction and sign.
    """
    model = results.model
    sets = [s for s in results.by_moments if s.state == results.strength]
    levels = np.flatnonzero(model.above_base & (results.weights.weight > 0)).tolist()
    rows = [(m, i) for m in range(len(sets[0].labels)) for i in levels]
    floors = model.diaphragms.freedoms
    return Table(
        "modal_story_forces", "Story forces by mode, before scaling",
        (
            column("mode", "", [sets[0].labels[m] for m, _ in rows]),
            column("level", "", [model.levels[i] for _, i in rows]),
            *(column(f"force along {d}, motion {s.direction}", "force",
                     [float(s.nodal[floors[i, DIRECTIONS.index(d)], m]) for m, i in rows])
              for s in sets for d in results.directions),
        ),
        note="Signed peaks of each mode.",
    )


def drift_ends_table(results: Found) -> Table:
    """Displacement of the top and the bottom of every story on its plumb line, set by set."""
    model = results.model
    lines = [center_line(model), *results.plumb]
    every: list[ResponseSet] = [*results.static_sets, *results.spectrum_sets]
    sets = [s for s in every if s.state.role == "drift"]
    present = np.array([line.present for line in lines]) & model.above_base
    p, i = np.nonzero(present)
    read = (plumb_displacement(model, lines), plumb_bottom(model, lines), plumb_drift(model, lines))
    values = np.array([[one.of(quantity).reshape(2, len(lines), model.n)[:, p, i]
                        for quantity in read] for one in sets])  # set, what, along, row
    return Table(
        "drift_ends", "Displacement of the top and bottom of stories",
        (
            column("set", "", [one.name for one in sets for _ in p]),
            column("point", "", [lines[k].name for _ in sets for k in p]),
            column("story", "", [model.levels[k] for _ in sets for k in i]),
            *(column(f"{what} {d}", "displacement", values[:, w, c].ravel())
              for c, d in enumerate(DIRECTIONS) if d in results.directions
              for w, what in enumerate(("top", "bottom", "drift"))),
        ),
        note="Elastic, on the plumb line of the story. Static values are signed; spectrum values "
             "are unsigned peaks, each combined from its own modal values, so the drift is not the "
             "difference of the other two.",
    )


def further_drift_table(results: Found) -> Table:
    """Largest drift of every story under motion along angles of one's own and in any direction."""
    rows: list[tuple[str, str, str, str, float, float, float]] = []
    lines = [center_line(results.model), *results.plumb]
    quantity = plumb_drift(results.model, lines, results.directions)
    present = np.array([line.present for line in lines])
    for check in results.drifts.values():
        own = [s for s in results.further
               if s.state == check.state and not isinstance(s, BothDirections)]
        for one in own:
            values = one.of(quantity).reshape(len(results.directions), *present.shape)
            for c, d in enumerate(results.directions):
                factor = float(max(f for f, along in zip(check.factors, check.directions,
                                                         strict=True) if along == d))
                for i in np.flatnonzero(results.model.above_base).tolist():
                    here = np.where(present[:, i], values[c, :, i], -1.0)
                    p = int(np.argmax(here))
                    rows.append((one.name, d, results.model.levels[i], lines[p].name,
                                 float(here[p]), factor * float(here[p]),
                                 factor * float(here[p]) / float(check.heights[i])))
    return Table(
        "drift_further", "Story drift for further directions of ground motion",
        (
            column("set", "", [r[0] for r in rows]),
            column("drift along", "", [r[1] for r in rows]),
            column("story", "", [r[2] for r in rows]), column("point", "", [r[3] for r in rows]),
            column("elastic drift", "displacement", [r[4] for r in rows]),
            column("amplified drift", "displacement", [r[5] for r in rows]),
            column("ratio", "ratio", [r[6] for r in rows]),
        ),
        note="For information: largest value of all points, without P-Delta; drift is checked for "
             "the sets of X and Y.",
    )


def moved_masses_table(results: Found) -> Table:
    """Accidental torsion by static moments and by moved masses, side by side, by story."""
    model = results.model
    torsion, shear = model.quantities["story torsion"], model.quantities["line shear"]
    rows: list[tuple[str, str, float, float, float, float]] = []
    said = []
    for d in results.directions:
        ways, moved = [], [s for s in results.by_masses
                           if s.direction == d and s.state == results.strength]
        if not moved:  # no accidental torsion this way
            continue
        usual = [s for s in results.by_moments if s.direction == d and s.state == results.strength]
        said.append(f"moved for {d} " + " and ".join(
            f"{number_text(float(s.periods[0]))} s" for s in moved))
        for own in (usual, moved):
            ways.append((np.max([s.of(torsion) for s in own], axis=0),
                         np.max([s.of(shear) for s in own], axis=0)))
        story = np.array(shear.labels["story"])
        for i in np.flatnonzero(model.above_base).tolist():
            here = story == model.levels[i]
            (t1, v1), (t2, v2) = ways
            k = int(np.argmax(np.where(here, np.maximum(v1, v2), -1.0)))
            rows.append((d, model.levels[i], float(t1[i]), float(t2[i]), float(v1[k]),
                         float(v2[k])))
    return Table(
        "accidental_torsion", "Accidental torsion by static moments and by moved masses",
        (
            column("direction", "", [r[0] for r in rows]),
            column("story", "", [r[1] for r in rows]),
            column("torsion, static moments", "moment", [r[2] for r in rows]),
            column("torsion, moved masses", "moment", [r[3] for r in rows]),
            column("largest line shear, static moments", "force", [r[4] for r in rows]),
            column("the same line, moved masses", "force", [r[5] for r in rows]),
            column("moved over static", "ratio", [r[5] / r[4] if r[4] else None for r in rows]),
        ),
        note="Peaks of the spectrum analysis for strength, about the center of mass. Static "
             "moments include the standard's amplification, moved masses do not. Longest period "
             f"with masses in place {number_text(float(results.modes.periods[0]))} s, "
             f"{', '.join(said)}. In use: "
        + ("moved masses." if results.project.analysis.moved_masses == "in place" else
           "static moments."),
    )


def vertical_table(results: Found, one: SpectrumSet) -> Table:
    """Vertical force of every story under vertical ground motion, beside the weight above it."""
    model = results.model
    force = one.of(model.quantities["vertical force"])
    above = model.diaphragms.carried @ results.weights.weight
    rows = np.flatnonzero(model.above_base)
    divisor = results.project.analysis.vertical_divisor
    return Table(
        "vertical_response", "Vertical ground motion, for strength",
        (
            column("story", "", [model.levels[i] for i in rows]),
            column("weight above", "force", above[rows]),
            column("vertical force", "force", force[rows]),
            column("over the weight", "ratio", force[rows] / np.maximum(above[rows], 1e-300)),
        ),
        note=f"By the vertical spectrum, {'not reduced' if divisor == 1 else f'over {divisor:g}'}; "
        f"the modes in use carry {results.modes.cumulative[results.modes.kept - 1, 3]:.1%} of the "
        "mass vertically. Peaks without sign.",
    )


def combination_table(results: Found) -> Table:
    """Load combinations without and with earthquake: factors on each effect."""
    assert results.combinations is not None
    rows = (*results.combinations.gravity, *results.combinations.rows)
    return Table(
        "load_combinations",
        "Load combinations",
        (
            column("kind", "", [c.kind for c in rows]),
            column("combination", "", [c.name for c in rows]),
            column("dead", "ratio", [c.dead for c in rows]),
            column("live", "ratio", [c.live for c in rows]),
            column("snow", "ratio", [c.snow for c in rows]),
            *([column("roof live", "ratio", [c.roof for c in rows])]
              if any(c.roof for c in rows) else []),
            *(column(f"forces in {d}, both signs", "ratio", [c.quake[i] for c in rows])
              for i, d in enumerate(DIRECTIONS) if d in results.directions),
            *([column("vertical, both signs", "ratio", [c.vertical for c in rows])]
              if any(c.vertical for c in rows) else []),
            column("clause", "", [c.clause for c in rows]),
        ),
        note=results.combinations.note,
    )


def scaling_table(results: Found) -> Table:
    """Static against modal base shear and the factors."""
    rows = results.scaling
    static = [results.statics[s.direction, s.state.key].shear.base_shear for s in rows]
    return Table(
        "scaling",
        "Scaling of the spectrum analysis",
        (
            column("direction", "", [s.direction for s in rows]),
            column("purpose", "", [s.state.key for s in rows]),
            column("static base shear", "force", static),
            column("modal base shear", "force", [s.modal_base_shear for s in rows]),
            column("factor", "ratio", [s.answer.factor for s in rows]),
            column("why", "", [s.answer.why for s in rows]),
            column("clause", "", [s.answer.clause for s in rows]),
        ),
    )
