"""Questions about values that are possible but not plausible, asked by name."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
from pydantic import BaseModel
from shapely.geometry import LineString

from undatum.building.lines import Cantilever
from undatum.described import place_of
from undatum.finding import Finding, Severity, several
from undatum.layout.plan import off_the_floor
from undatum.layout.takedown import column_shares, panel_faults
from undatum.layout.weight import wall_weights
from undatum.layout.whole import Building
from undatum.table import number_text
from undatum.units import Measure, UnitSystem


def astray(building: Building, units: UnitSystem) -> list[Finding]:
    """A warning for every line and load that lies off its floor, with its distance."""
    return [Finding(
        "place in plan", one.place, Severity.WARNING,
        f"{one.what[:1].upper()}{one.what[1:]} lies "
        f"{number_text(units.show(one.distance, 'length'))} {units.label('length')} off the "
        f"floor of level {one.level}.", "",
        'Check the coordinate and its unit; a value may carry its own, such as "12 ft".',
    ) for one in off_the_floor(building)]


def followed(building: Building, units: UnitSystem) -> list[Finding]:
    """Floors whose gravity can't be followed in members, or only roughly."""
    frame = building.frame
    if frame is None:
        return []
    faults = panel_faults(building, frame)
    found = [Finding("gravity on members", f"levels {', '.join(levels)}", Severity.WARNING,
                     text, "", cure) for levels, text, cure in (
        (faults.bare, "No beams enclose a bay and no column supports the floor, so its loads are "
                      "not carried down: they count as weight only.",
         "Add beams or columns; loads on lateral lines are not carried down."),
        (faults.passed, "The beams enclose no bay, so the floor loads go directly to the nearest "
                        "columns: the beams carry none of them.", "Add beams around the bays."),
        (faults.bent, "A bay between beams is not convex; its load goes to the nearest beam lines, "
                      "which is approximate there.", "Divide it by a beam."),
    ) if levels]
    shares = column_shares(building, frame)
    apart = np.flatnonzero(shares.apart)
    if apart.size:
        worst = int(apart[np.argmax(np.abs(shares.landed - shares.nearest)[apart])])
        landed, nearest = (float(x[worst]) for x in (shares.landed, shares.nearest))
        unit = units.label("force")
        said = [number_text(units.show(x, "force")) for x in (landed, nearest)]
        names = [shares.columns[k] for k in apart]
        found.append(Finding(
            "floor load on columns", several(names), Severity.WARNING,
            "Floor loads transferred to them by the beams differ by more than a fifth from the "
            f"load on the floor nearest to them; most at {shares.columns[worst]}: {said[0]} "
            f"against {said[1]} {unit}.", "",
            "See table column_shares; change the load path, or add beams.",
            landed, nearest, "force"))
    return found


#: How far off walls are that stand apart in the model and meet in the building, and how they can
#: be described today.
APART = ("Solved separately, they do not act as flanges of each other: a closed core of four lines "
         "is 3 to 5 times too soft in sway and, for six to thirty stories, 10 to 190 times too "
         "soft in torsion.")


def meeting_walls(building: Building) -> list[Finding]:
    """Walls along different directions that touch in plan over a common story."""
    walls = []
    for line in building.lines:
        if line.plan_length and line.cantilever is not None:
            half = line.plan_length / 2 * np.array([np.cos(line.direction), np.sin(line.direction)])
            at = np.array(line.at)
            thick = max((s.thickness or 0.0 for s in line.by_story(1)
                         if isinstance(s, Cantilever)), default=0.0)
            walls.append((line, LineString([at - half, at + half]), thick,
                          set(building.span(line))))
    names: dict[str, None] = {}
    for k, (a, first, t1, stories) in enumerate(walls):
        for b, second, t2, others in walls[k + 1:]:
            if stories & others and abs(np.sin(a.direction - b.direction)) > 0.1 \
                    and first.distance(second) <= (t1 + t2) / 2 + NEAR:
                names |= {a.name: None, b.name: None}
    if not names:
        return []
    return [Finding(
        "walls that meet", f"lines {', '.join(names)}", Severity.WARNING,
        f"These walls meet in plan. {APART}", "",
        "Describe a closed core as one column with a hollow section, or compare with an analysis "
        "that joins the walls.")]


def walls_without_weight(building: Building, units: UnitSystem) -> list[Finding]:
    """Walls given by their sizes whose weight nobody gave."""
    missing = list(dict.fromkeys(
        line.name for line in building.lines for s in line.by_story(1)
        if isinstance(s, Cantilever) and s.length and s.unit_weight is None))
    if not missing:
        return []
    weight = sum(amount for i, line, amount, _ in wall_weights(building, CONCRETE)
                 if line.name in missing and i in building.above_base)
    said = [number_text(units.show(x, d), 3) for x, d in ((CONCRETE, "unit weight"),
                                                         (weight, "force"))]
    return [Finding(
        "weight of walls", f"lines {several(missing)}", Severity.NOTE,
        "A wall given by its dimensions has no self-weight unless unit_weight is given. At "
        f"{said[0]} {units.label('unit weight')} it would be {said[1]} {units.label('force')} "
        "above the base.", "", "Give unit_weight, or 0 where the loads include it.")]


def ending_in_the_air(building: Building) -> list[Finding]:
    """Columns and braces whose head lies on no floor and meets no other member."""
    frame = building.frame
    if frame is None:
        return []
    met = np.bincount(frame.ends.ravel(), minlength=len(frame.points))
    names = []
    for m in frame.members:
        head = int(frame.ends[m.elements[-1], 1])
        if m.kind != "beam" and met[head] == 1 and not building.outline(
                int(frame.floors[head])).holds(frame.points[head, :2])[0]:
            names.append(m.name)
    if not names:
        return []
    return [Finding(
        "members ending in the air", names[0] if len(names) == 1 else
        f"{names[0]} and {len(names) - 1} more", Severity.WARNING,
        "Their upper ends lie on no floor and meet no other member, so they carry nothing.", "",
        'Name the levels they belong to, such as "F1 at L1..L3", or remove them.')]


NEAR = 0.05  # m: walls nearer than this, faces apart, meet
CONCRETE = 25e3  # N/m3: for the estimate alone
_OWN = ("frame", "column", "beam", "brace", "self-weight", "self weight", "selfweight")


def counted_twice(building: Building) -> list[Finding]:
    """A warning for dead loads whose name says members, where members bring their own weight."""
    if not building.has_members or not building.self_weight:
        return []
    found: dict[str, str] = {}
    for i, level in enumerate(building.levels[:-1]):
        for load in building.loads(i):
            if load.kind == "dead" and any(word in load.name.casefold() for word in _OWN):
                found.setdefault(load.name, level.name)
    return [Finding(
        "self-weight", f"load {name}", Severity.WARNING,
        f"The name of the load {name!r} (on {level} and below) suggests member self-weight, which "
        "is already included.", "",
        "Remove it, or set building.self_weight = false if the loads include it.")
        for name, level in found.items()]


def implausible(model: BaseModel, units: UnitSystem) -> list[Finding]:
    """A warning for every value outside the plausible range its field declares.

    A description that stands at several places is asked about once.
    """
    return _ask_all(model, units, (), set())


def _ask_all(
    model: BaseModel, units: UnitSystem, at: tuple[int | str, ...], seen: set[int]
) -> list[Finding]:
    found: list[Finding] = []
    if id(model) in seen:
        return found
    seen.add(id(model))
    for name, measures in _measures(type(model)):
        value = getattr(model, name)
        if type(value) not in _SILENT:
            found += _look(value, measures, units, (*at, name), seen)
    return found


@cache
def _measures(model: type[BaseModel]) -> list[tuple[str, list[Measure]]]:
    """The fields of a model that can be asked about, with the measures of the numbers in them."""
    found = [
        (name, [m for m in (*field.metadata, *_inner_measures(field.annotation))
                if isinstance(m, Measure) and m.plausible], field.annotation)
        for name, field in model.model_fields.items()
    ]
    return [(name, measures) for name, measures, annotation in found
            if measures or _holds_models(annotation)]


def _holds_models(annotation: Any) -> bool:
    """Whether descriptions stand within an annotation."""
    parts = getattr(annotation, "__args__", ())
    return any(map(_holds_models, parts)) if parts else isinstance(annotation, type) \
        and issubclass(annotation, BaseModel)


def _inner_measures(annotation: Any) -> list[Measure]:
    """Measures inside optional, list and tagged annotations."""
    found = [m for m in getattr(annotation, "__metadata__", ()) if isinstance(m, Measure)]
    for part in getattr(annotation, "__args__", ()):
        found += _inner_measures(part)
    return found


_FLOATS = {float}
_SILENT = {type(None), str, bool, int}  # kinds of values that nothing is asked about


def _look(
    value: Any, measures: list[Measure], units: UnitSystem, at: tuple[int | str, ...],
    seen: set[int],
) -> list[Finding]:
    if type(value) is float:
        return [_ask(value, m, m.plausible, units, at) for m in measures
                if m.plausible and value and not m.plausible[0] <= value <= m.plausible[1]]
    if isinstance(value, BaseModel):
        return _ask_all(value, units, at, seen)
    if isinstance(value, list | tuple):
        if value and _FLOATS.issuperset(map(type, value)) and all(
                m.plausible and m.plausible[0] <= v <= m.plausible[1]
                for m in measures for v in (min(value), max(value))):
            return []
        return [f for i, item in enumerate(value)
                for f in _look(item, measures, units, (*at, i), seen)]
    if isinstance(value, dict):
        return [f for key, item in value.items()
                for f in _look(item, measures, units, (*at, key), seen)]
    return []


def _ask(
    value: float, measure: Measure, usual: tuple[float, float], units: UnitSystem,
    at: tuple[int | str, ...],
) -> Finding:
    size = units.size(measure.dimension)
    unit = units.label(measure.dimension)
    low, high, said = (number_text(v / size) for v in (*usual, value))
    return Finding(
        "plausible input", place_of(at), Severity.WARNING,
        f"{said} {unit} is unusual; {low} to {high} {unit} is typical.".replace("  ", " "),
        "", 'Check the unit; a value may carry its own, such as "12 ft".',
        value, usual[1] if value > usual[1] else usual[0], measure.dimension,
    )
