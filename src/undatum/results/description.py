"""What was put in, as tables: with them every number can be followed from the print alone."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np
from pydantic import BaseModel

from undatum.analysis.combine import ModalCombiner, correlation
from undatum.analysis.modes import Modes
from undatum.analysis.response import SpectrumSet
from undatum.building.held import GroundSprings
from undatum.building.lines import Cantilever
from undatum.checks.drift import DriftCheck
from undatum.layout.whole import Building
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.project.schema import Project
from undatum.stages.outcomes import SpectrumResult
from undatum.standards.terms import DIRECTIONS
from undatum.table import Cell, Column, Table, column
from undatum.units import UnitSystem, dimension_of

LEAST_CORRELATION = 1e-3  # pairs of modes below it are not listed


def levels_table(building: Building) -> Table:
    """Every level as it was given, from the top down."""
    z, levels = building.elevations, building.levels
    heights = [*building.story_heights, None]
    return Table(
        "input_levels", "Levels as given",
        (
            column("level", "", [x.name for x in levels]),
            column("elevation", "length", z),
            column("story height below", "length", heights),
            *([column("stands on", "", [*(levels[k].name for k in building.below), ""])]
              if any(x.stands_on for x in levels) else []),
            column("outline", "", [x.outline if isinstance(x.outline, str) else "its own"
                                   for x in levels]),
            column("floor loads", "", [x.floor or "" for x in levels]),
            column("carries mass", "", [x.seismic_mass and i in building.above_base
                                        for i, x in enumerate(levels)]),
            *_held_columns(building),
        ),
        note=f"Base: {levels[building.base_index].name}. Loads are itemized in the weight table.",
    )


def _held_columns(building: Building) -> list[Column]:
    """How the ground holds floors, where it does."""
    if not building.held:
        return []
    held = [building.held.get(i) for i in range(len(building.levels) - 1)]
    springs = [how.values if isinstance(how, GroundSprings) else (None,) * 3 for how in held]
    return [
        column("held by the ground", "", [
            *("" if how is None else how if isinstance(how, str) else "by springs"
              for how in held), "fully"]),
        *(column(f"spring {name}", dimension, [*(one[k] for one in springs), None])
          for k, (name, dimension) in enumerate((
              ("X", "stiffness"), ("Y", "stiffness"), ("in rotation", "rotational stiffness")))
          if any(one[k] for one in springs)),
    ]


def outlines_table(building: Building) -> Table:
    """Corner points of every outline that is used."""
    rows: list[tuple[str, str, float, float]] = []
    seen = set()
    for i, level in enumerate(building.levels):
        name = level.outline if isinstance(level.outline, str) else f"that of {level.name}"
        if name in seen:
            continue
        seen.add(name)
        outline = building.outline(i)
        for ring, points in (("edge", outline.points),
                             *((f"hole {k + 1}", h) for k, h in enumerate(outline.holes))):
            rows += [(name, ring, float(x), float(y)) for x, y in points]
    return Table(
        "input_outlines", "Outlines as given",
        (
            column("outline", "", [r[0] for r in rows]), column("ring", "", [r[1] for r in rows]),
            column("x", "length", [r[2] for r in rows]),
            column("y", "length", [r[3] for r in rows]),
        ),
    )


def lines_table(building: Building) -> Table:
    """Every lateral line story by story: where it stands, and its stiffness or section."""
    order = [level.name for level in building.levels]
    rows: list[tuple[Cell, ...]] = []
    for line in building.lines:
        span = building.span(line)
        for i, value, strength in zip(span, line.by_story(len(span)), line.strengths(len(span)),
                                      strict=True):
            wall = value if isinstance(value, Cantilever) else None
            rows.append((
                line.name, order[i], float(line.at[0]), float(line.at[1]),
                float(np.degrees(line.direction)), None if wall else float(value),  # type: ignore[arg-type]
                wall.bending if wall else None, wall.shear if wall else None,
                wall.flexural_share if wall else None, wall.shear_share if wall else None,
                strength))
    heads = (("line", ""), ("story", ""), ("x", "length"), ("y", "length"),
             ("angle from X (deg)", "ratio"), ("story stiffness", "stiffness"),
             ("bending stiffness EI", "bending stiffness"), ("shear stiffness GA", "force"),
             ("share in bending", "ratio"), ("share in shear", "ratio"), ("strength", "force"))
    return Table(
        "input_lines", "Lateral lines as given",
        tuple(column(name, dimension, [r[k] for r in rows])
              for k, (name, dimension) in enumerate(heads)
              if k < 5 or any(r[k] is not None and r[k] == r[k] for r in rows)),
        note="A cantilever is fixed at the base of its line; EI and GA include the stiffness "
             "factors.",
    )


def rules_table(building: Building, units: UnitSystem) -> Table:
    """Axes, rules that make members, and supports, in order; each number with its unit."""
    parts = [("axes", building.axes), *((f"members[{i}]", rule)
                                        for i, rule in enumerate(building.members)),
             *((f"placed[{i}]", one) for i, one in enumerate(building.placed)),
             *((f"supports[{i}]", rule) for i, rule in enumerate(building.supports))]
    return _as_given(
        "input_members", "Axes and members as given", parts, units,
        note="A later rule overrides an earlier one. The resulting members are listed in the table "
             "of members.",
    )


def cases_table(building: Building, units: UnitSystem) -> Table:
    """Loads on members and load cases of one's own, in order; each number with its unit."""
    parts = [*((f"member_loads[{i}]", one) for i, one in enumerate(building.member_loads)),
             *((f"cases[{i}]", one) for i, one in enumerate(building.cases))]
    return _as_given(
        "input_cases", "Loads on members and load cases as given", parts, units,
        note="Loads on members count as seismic weight by their kind; cases do not.",
    )


def choices_table(project: Project) -> Table:
    """Every choice of site, systems, analysis, drift, irregularities; numbers with their units."""
    return _as_given(
        "choices", "Choices of the project",
        (("project", {"standard": project.standard, "units": project.units,
                      "occupancy": project.occupancy}),
         ("site", project.site),
         *((f"system.{d}", one) for d, one in project.system.by_direction.items()),
         ("spectrum", project.spectrum), ("analysis", project.analysis),
         ("drift", project.drift), ("irregularities", project.irregularities)),
        UnitSystem(project.units), "Keys not given take the default shown.")


def _as_given(
    name: str, title: str, parts: Iterable[tuple[str, Any]], units: UnitSystem, note: str
) -> Table:
    rows = [(where, key, value) for where, part in parts for key, value in flat(part, units)]
    return Table(name, title, tuple(column(head, "", [r[k] for r in rows])
                                    for k, head in enumerate(("table", "key", "value"))), note)


def flat(
    node: Any, units: UnitSystem, at: str = "", measure: str = ""
) -> Iterator[tuple[str, str]]:
    """Keys and values of a part of the project as texts with units; what is empty is left out.

    ``measure`` is the dimension that the field of a model states for the numbers in it.
    """
    if isinstance(node, BaseModel):
        for name, field in type(node).model_fields.items():
            yield from flat(getattr(node, name), units, f"{at}.{name}" if at else name,
                            dimension_of(field))
    elif isinstance(node, dict):
        for key, value in node.items():
            yield from flat(value, units, f"{at}.{key}" if at else str(key), measure)
    elif isinstance(node, list | tuple):
        if node and not isinstance(node[0], BaseModel | dict | list | tuple):
            yield at, ", ".join(_said(v, units, measure) for v in node)
        else:
            for i, value in enumerate(node):
                yield from flat(value, units, f"{at}[{i}]", measure)
    elif node not in (None, ""):
        yield at, _said(node, units, measure)


def _said(value: Any, units: UnitSystem, measure: str) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if not isinstance(value, float):
        return str(value)
    if measure == "angle":
        return f"{np.degrees(value):.8g} deg"
    shown = units.show(value, measure) if measure else value
    return f"{shown:.8g} {units.label(measure)}".strip()


def modal_drift_table(
    model: Model, check: DriftCheck, sets: tuple[SpectrumSet, ...], plumb: tuple[PlumbLine, ...],
) -> Table:
    """The governing drift of the spectrum analysis along X and Y, mode by mode, before scaling."""
    lines = {line.name: line for line in (center_line(model), *plumb)}
    rows: list[tuple[Cell, ...]] = []
    for d in check.along:
        c = DIRECTIONS.index(d)
        s, p, i = check.governing(c, method="spectrum")
        one = next(x for x in sets if x.name == check.sets[s])
        quantity = plumb_drift(model, [lines[check.points[p]]], (d,))
        values = one.modal_values(quantity)[i]
        total = float(one.combine.peaks(values))
        rows += [(d, check.levels[i], check.points[p], name, float(t), float(v), None)
                 for name, t, v in zip(one.labels, one.periods, values, strict=True)]
        rows.append((d, check.levels[i], check.points[p], f"by {one.combine.how}", None, total,
                     one.scale))
    heads = (("drift", ""), ("story", ""), ("point", ""), ("mode", ""), ("period", "time"),
             ("elastic drift", "displacement"), ("factor on drift", "ratio"))
    return Table(
        "modal_drift", "The governing spectrum drift, mode by mode",
        tuple(column(n, dim, [r[k] for r in rows]) for k, (n, dim) in enumerate(heads)),
        note="Accidental torsion is added to the scaled value, which is then amplified.",
    )


def correlation_table(
    dynamic: SpectrumResult, modes: Modes, combine: ModalCombiner
) -> Table:
    """Correlation coefficients of the modes in use, pairs above a thousandth: those in use, or
    those of CQC where modes are combined otherwise."""
    used = combine.correlation
    rho = correlation(2 * np.pi / dynamic.periods, dynamic.damping) if used is None else used
    by = combine.how if used is not None else "CQC"
    names = modes.names_in_use(len(rho))
    pairs = [(i, j) for i in range(len(rho)) for j in range(i + 1, len(rho))
             if rho[i, j] >= LEAST_CORRELATION]
    return Table(
        "mode_correlation", f"Correlation of the modes ({by})",
        (column("mode", "", [names[i] for i, _ in pairs]),
         column("and mode", "", [names[j] for _, j in pairs]),
         column("coefficient", "ratio", [float(rho[i, j]) for i, j in pairs])),
        note=f"Pairs below {LEAST_CORRELATION:g} are omitted; a mode correlates with itself at 1.",
    )
