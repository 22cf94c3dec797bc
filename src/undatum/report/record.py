"""The calculation record: one self-contained page another engineer can follow line by line."""

from __future__ import annotations

import base64
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from importlib.resources import files
from typing import Any

import numpy as np
from jinja2 import Environment
from markupsafe import Markup, escape

from undatum.analysis.lateral import StaticForces
from undatum.checks.separation import separation_table
from undatum.finding import findings_table
from undatum.project.description import (
    correlation_table,
)
from undatum.project.results import Results
from undatum.project.shape import shape_table
from undatum.project.stack import StackForces
from undatum.report.formula import formula, math, numbers_of, symbol
from undatum.table import Table, number_text
from undatum.units import UnitSystem
from undatum.working import Section, Step


@dataclass
class Chapter:
    """A chapter: a lead sentence, then tables, pictures and working in order."""

    title: str
    lead: str = ""
    parts: list[dict[str, Any]] = field(default_factory=list)

    def add_table(self, table: Table, units: UnitSystem) -> None:
        self.parts.append({
            "kind": "table", "title": table.title, "note": table.note,
            "heads": table.heads(units), "rows": table.text_rows(units),
            "marks": set(table.marks),
            "numeric": [bool(c.dimension) for c in table.columns],
        })

    def add_text(self, title: str, text: str) -> None:
        self.parts.append({"kind": "text", "title": title, "text": text})

    def add_picture(self, name: str, data: bytes, caption: str) -> None:
        self.parts.append({
            "kind": "picture", "caption": caption,
            "source": Markup("data:image/png;base64," + base64.b64encode(data).decode()),
        })

    def add_working(
        self, section: Section, units: UnitSystem, levels: Mapping[int, Sequence[str]]
    ) -> None:
        """Working line by line; lines worked for every level are followed by their table.

        ``levels`` holds the names of the levels by how many there are.
        """
        lines = [_line(step, units) for step in section.steps]
        many = [s for s in section.steps if isinstance(s.value, tuple)]
        rows = list(zip(*([number_text(float(v)) for v in _shown(s, units)] for s in many),
                        strict=False))
        own = next((s.rows for s in many if s.rows), ())
        names = own or levels.get(len(rows), [""] * len(rows))
        rows = [(name, *row) for name, row in zip(names, rows, strict=True)]
        more = f", {section.key.item}" if section.key.kind == "separation" else ""
        self.parts.append({
            "kind": "working", "title": section.title + more, "lines": lines,
            "first": "wall" if own else "level",
            "heads": [Markup(math(symbol(s.symbol))) + _unit_text(s, units) for s in many],
            "rows": rows,
        })


_SYMBOL = re.compile(r"\b(S|T|C|A|F|V|I|MCE)_(DS|D1|S|1|L|s|u|a|x|v|t|e|n|R)\b")


def typeset(text: str) -> Markup:
    """Escape a text and set the symbols of the standards in it: S_DS, T_L, C_s."""
    return Markup(_SYMBOL.sub(r"<i>\1</i><sub>\2</sub>", str(escape(text))))


def _shown(step: Step, units: UnitSystem) -> tuple[float, ...]:
    shown = step.shown(units)
    return shown if isinstance(shown, tuple) else ()


def _unit_text(step: Step, units: UnitSystem) -> str:
    unit = step.unit_label(units)
    return f" ({unit})" if unit else ""


def _line(step: Step, units: UnitSystem) -> dict[str, Any]:
    shown = step.shown(units)
    many = isinstance(shown, tuple)
    first = shown[0] if isinstance(shown, tuple) else shown
    if isinstance(first, str):
        value = first
    else:  # a given value as it was given, a worked one to five digits
        value = number_text(float(first), 5) if step.formula else f"{float(first):.6g}"
    parts = [symbol(step.symbol)]
    if step.formula:
        parts.append(formula(step.formula))
        numbers = numbers_of(step, units)
        if numbers:
            parts.append(formula(step.formula, numbers))
    tail = f"<mn>{value}</mn>" if not isinstance(first, str) else f"<mtext>{escape(value)}</mtext>"
    unit = step.unit_label(units)
    if unit:
        tail += f"<mspace width='0.3em'/><mtext>{escape(unit)}</mtext>"
    parts.append(tail)
    return {
        "meaning": step.meaning + ("" if not many else f" ({step.rows[0]}; all below)"
                                   if step.rows else " (top level; all levels below)"),
        "math": Markup(math("<mo>=</mo>".join(f"<mrow>{p}</mrow>" for p in parts))),
        "clause": step.clause,
        "branch": step.branch,
    }


def _add_working(
    results: Results | StackForces, levels: Mapping[int, Sequence[str]], chapter: Chapter,
    *kinds: str, direction: str = "", state: str = "",
) -> None:
    """The working of some kinds, of one direction and limit state where they are named."""
    for section in results.working:
        key = section.key
        if key.kind in kinds and direction in ("", key.direction) and state in ("", key.state):
            chapter.add_working(section, results.units, levels)


def chapters(results: Results, pictures: Mapping[str, bytes]) -> list[Chapter]:
    """The record in the order of the job."""
    u = results.units
    heavy = [n for n, w in zip(results.model.levels, results.weights.weight, strict=True) if w]
    above = [n for n, a in zip(results.model.levels, results.model.above_base, strict=True) if a]
    working = partial(_add_working, results, {len(above): above, len(heavy): heavy})

    given = Chapter("What was put in", "With these tables every number below can be followed.")
    for made in results.given_tables():
        given.add_table(made, u)

    site = Chapter("Site and design spectrum")
    site.add_picture("spectrum", pictures["spectrum"], "Design spectrum and first modes.")
    working(site, "hazard", "site", "vertical spectrum", "floor", "damping")

    building = Chapter(
        "Building and seismic weight",
        "Rigid diaphragms on " + " and ".join(
            word for word, there in (("lateral lines", results.project.building.lines),
                                     ("members", results.model.framed)) if there)
        + ". Heights are measured from the base.")
    building.add_picture("plan", pictures["plan"], "Lateral lines, members and centers.")
    for name, caption in (("members", "Members in space."),
                          ("elevations", "Members on the main axes, with sections.")):
        if name in pictures:
            building.add_picture(name, pictures[name], caption)
    building.add_table(results.weights.level_table(), u)
    building.add_table(results.weights.table(), u)
    building.add_table(results.table("centers"), u)
    working(building, "system")

    vibration = Chapter("Modes", "Each mode is named for the component that holds at least two "
                        "thirds of its kinetic energy.")
    vibration.add_picture("mode_shapes", pictures["mode_shapes"], "First modes.")
    if "modes_in_space" in pictures:
        vibration.add_picture("modes_in_space", pictures["modes_in_space"],
                              "First modes in space.")
    vibration.add_table(results.modes.table(), u)

    static = Chapter(
        "Equivalent lateral force",
        "One set of forces for strength and one for drift, as the standard tells them apart. "
        "Forces are the effect of the earthquake alone; redundancy and overstrength factors enter "
        "with the load combinations, not here.")
    working(static, "period")
    for d in results.directions:
        for state in results.states:
            own = results.statics[d, state.key]
            twin = next((s for s in results.states if s != state and _alike(
                own, results.statics[d, s.key]) and results.states.index(s)
                < results.states.index(state)), None)
            if twin is not None:
                static.add_text(f"Forces in {d} for {state.key}",
                                f"The same as for {twin.key}: base shear, forces and period are "
                                "equal, so they are printed once.")
                continue
            working(static, "base shear", direction=d, state=state.key)
            static.add_table(own.table(), u)
    working(static, "story forces")
    for twisted in results.torsion.values():
        static.add_table(twisted.table(), u)
    working(static, "amplification")
    if results.torsion_factors:
        static.add_table(results.torsion_factors, u)
    static.add_table(shape_table(results.shape), u)
    working(static, "diaphragms")
    if results.diaphragms:
        static.add_table(results.table("diaphragms"), u)

    dynamic = Chapter(
        "Modal response spectrum analysis",
        f"Modes combined by {results.spectrum_sets[0].combine.how} at "
        f"{results.project.analysis.damping:.1%} damping. Every quantity is combined from its own "
        "modal values; combined values carry no sign and are not in equilibrium with each other. "
        + ("" if results.model.plane else
           "Accidental torsion is added as a static response with its absolute value, unscaled."))
    dynamic.add_table(results.table("modal_base_shears"), u)
    dynamic.add_table(correlation_table(results.dynamic[0]), u)
    dynamic.add_table(results.table("scaling"), u)
    working(dynamic, "scaling")
    dynamic.add_picture("story_shears", pictures["story_shears"], "Static against spectrum.")
    dynamic.add_table(results.shears.table(), u)
    dynamic.add_table(results.shears.line_table(), u)

    drift = Chapter(
        "Story drift",
        "Drift is read between floors on vertical lines; elastic drift under the reduced forces "
        "and amplified design drift stand side by side.")
    drift.add_picture("drift", pictures["drift"], "Design drift against the limit.")
    drift.add_picture("drift_painted", pictures["drift_painted"],
                      "Design drift over story height on the building, percent.")
    working(drift, "drift limit")
    for check in results.drifts.values():
        for c in check.shown:
            drift.add_table(check.envelope(c), u)
    for reading in results.drift_readings.values():
        for make in reading.tables().values():
            drift.add_table(make(), u)
    drift.add_table(results.modal_drift_table(), u)
    for check in results.drifts.values():
        drift.add_table(check.full_table(), u)

    if results.gaps:
        drift.add_table(separation_table(results.gaps), u)
        working(drift, "separation")

    second = Chapter("Second-order effects")
    for one in results.stability:
        second.add_table(one.table(), u)
    working(second, "stability")

    plausible = Chapter("Plausibility", "Hand estimates beside computed values.")
    plausible.add_table(results.plausibility.table(u), u)
    if results.project.expected:
        plausible.add_table(results.table("expected"), u)
    found = [given, site, building, vibration, static, dynamic, drift, second]
    if results.combinations:
        loads = Chapter("Load combinations", "Factors on the effects of each load, with the "
                        "vertical effect of the earthquake in the factor on dead load.")
        working(loads, "combinations")
        loads.add_table(results.table("load_combinations"), u)
        found.append(loads)
    if results.project.combinations:
        mine = Chapter("Load combinations of one's own", "Beside those of the standard.")
        mine.add_table(results.table("own_combinations"), u)
        found.append(mine)
    return [*found, plausible]


def _alike(one: StaticForces, other: StaticForces) -> bool:
    """Whether the static forces of two limit states are the same in every printed number."""
    a, b = one.shear, other.shear
    return bool(a.period == b.period and a.base_shear == b.base_shear
                and np.array_equal(one.forces, other.forces))


def stack_chapters(found: StackForces, pictures: Mapping[str, bytes]) -> list[Chapter]:
    """The short record of heights and weights."""
    u = found.units
    levels = found.statics["X", found.strength.key].levels
    heavy = [f.name for f in found.project.stack.floors() if f.weight]
    working = partial(_add_working, found, {len(levels): levels, len(heavy): heavy})

    given = Chapter("Heights and weights", "All that is known of the building.")
    given.add_table(found.stack_table(), u)
    site = Chapter("Site and design spectrum")
    site.add_picture("spectrum", pictures["spectrum"], "Design spectrum.")
    working(site, "hazard", "site", "vertical spectrum", "floor", "damping")
    system = Chapter("Lateral systems")
    working(system, "system")
    static = Chapter("Static forces", "Forces are the effect of the earthquake alone.")
    working(static, "period")
    for (d, state), one in found.statics.items():
        working(static, "base shear", direction=d, state=state)
        static.add_table(one.table(), u)
    working(static, "story forces")
    static.add_picture("story_shears", pictures["story_shears"], "Forces and shears, strength.")
    if found.torques is not None:
        static.add_table(found.torsion_table(), u)
    working(static, "diaphragms")
    if found.diaphragms:
        static.add_table(found.diaphragm_table(), u)
    return [given, site, system, static]


def render(
    results: Results | StackForces, pictures: Mapping[str, bytes], meta: Mapping[str, str]
) -> str:
    """The page. Every text of the project is escaped."""
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters["typeset"] = typeset
    source = files("undatum.report") / "templates" / "record.html.j2"
    template = environment.from_string(source.read_text(encoding="utf-8"))
    findings = findings_table(results.findings)
    return template.render(
        results=results,
        project=results.project,
        story=results.story(),
        findings=[dict(zip((c.name.replace(" ", "_") for c in findings.columns), row, strict=True))
                  for row in findings.text_rows(results.units)],
        chapters=chapters(results, pictures) if isinstance(results, Results)
        else stack_chapters(results, pictures),
        meta=meta,
        units=results.units.name,
    )
