"""The basis of design on one page: what was given and decided, and every factor of the base shear
with the numbers it is made of, so that each printed number follows from what stands beside it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from markupsafe import Markup

from undatum.finding import Finding
from undatum.report.chapter import Chapter
from undatum.report.formula import compact, math, numbers_of, symbol
from undatum.results.base_shear import BaseShears
from undatum.results.results import Results
from undatum.standards.answers import SystemAnswer
from undatum.standards.terms import Direction
from undatum.table import number_text
from undatum.units import UnitSystem
from undatum.working import Section, SectionKey, Step

#: What is shown of the working, in this order: kinds of sections under one heading.
GROUPS = (
    ("Site", ("site",)), ("Lateral system", ("system",)), ("Period", ("period",)),
    ("Static base shear", ("base shear",)), ("Scaling of the spectrum analysis", ("scaling",)),
    ("Drift limit", ("drift limit",)))
Fact = tuple[str, str, str]  # what, how it was answered, by which clause


def add_basis(chapter: Chapter, facts: Sequence[Fact], working: Sequence[Section],
              units: UnitSystem) -> None:
    """The facts, then the working of every group line by line, equal lines of several directions
    and limit states once."""
    chapter.parts.append({
        "kind": "basis", "facts": facts,
        "groups": [(title, lines) for title, kinds in GROUPS if (lines := _lines(
            [s for s in working if s.key.kind in kinds], units))]})


def _lines(sections: Sequence[Section], units: UnitSystem) -> list[dict[str, Any]]:
    """Lines with one value; a line worked level by level is left to its table."""
    every = [s.key for s in sections]
    found: dict[tuple[str, ...], tuple[dict[str, Any], list[SectionKey]]] = {}
    for section in sections:
        for step in section.steps:
            if isinstance(step.value, tuple):
                continue
            line = _line(step, units)
            key = tuple(map(str, line.values()))
            found.setdefault(key, (line, []))[1].append(section.key)
    return [{**line, "where": _where(own, every)} for line, own in found.values()]


def _line(step: Step, units: UnitSystem) -> dict[str, Any]:
    shown = step.shown(units)
    value = shown if isinstance(shown, str) else "" if isinstance(shown, tuple) else (
        number_text(shown, 5) if step.formula else f"{shown:.6g}")
    how, numbers = "", ""
    if step.formula:
        how = Markup(math(compact(step.formula)))
        numbers = Markup(math(f"<mo>=</mo>{compact(step.formula, numbers_of(step, units))}"))
    return {"symbol": Markup(math(symbol(step.symbol))), "value": value,
            "unit": step.unit_label(units), "meaning": step.meaning, "how": how,
            "numbers": numbers, "branch": step.branch, "clause": step.clause}


def _where(own: Sequence[SectionKey], every: Sequence[SectionKey]) -> str:
    """For which directions and limit states a line holds; nothing where it does for all."""
    if {str(k) for k in own} == {str(k) for k in every}:
        return ""
    states = dict.fromkeys(k.state for k in every)
    by_state = {state: [k.direction for k in own if k.state == state] for state in states}
    if len({tuple(d) for d in by_state.values()}) == 1:  # alike for all limit states
        return ", ".join(dict.fromkeys(k.direction for k in own))
    return "; ".join(f"{', '.join(d)} {state}".strip() for state, d in by_state.items() if d)


def basis_of(results: Results) -> Chapter:
    """The chapter of a building's record."""
    found = Chapter("Basis of design")
    add_basis(found, facts_of(results), results.working, results.units)
    return found


def facts_of(results: Results) -> list[Fact]:
    """What was asked and decided: standard, site, structure, systems, procedures, analysis."""
    model, analysis = results.model, results.project.analysis
    height = float(model.diaphragms.elevations.max() - model.base_elevation)
    found: list[Fact] = [
        ("standard", results.standard_title, ""),
        ("site", results.site.summary, ""),
        ("structure", f"{int(model.above_base.sum())} levels above the base, "
         f"{_number(height, 'length', results.units)} high", ""),
        *_systems(results.laterals),
        *((f"procedure{_at(f)}", f.text, f.clause) for f in results.procedure.findings),
        ("periods computed", ", ".join(
            f"{t:.4g} s in {d}" for d, t in results.computed.items()), ""),
        ("spectrum analysis", f"{results.modes.kept} modes, {analysis.damping:.1%} damping, "
         f"combined by {results.spectrum_sets[0].combine.how}; directions by "
         f"{results.rules.directional_combination}", results.rules.clause),
        ("seismic weight", _number(results.weights.total, "force", results.units), ""),
        ("left to you", f"{len(results.table('left_to_you'))} rules that are not judged, in the "
         "last chapter of the full record and table left_to_you", ""),
    ]
    return [(what, text, clause) for what, text, clause in found if text]


def _systems(laterals: Mapping[Direction, SystemAnswer]) -> list[Fact]:
    alike = len({one.name for one in laterals.values()}) == 1
    found: list[Fact] = []
    for d, one in laterals.items():
        if found and alike:
            break
        text = " ".join(f.text for f in one.findings) or f"{one.name} ({one.row})"
        clause = next((f.clause for f in one.findings if f.clause), "")
        found.append(("system" if alike else f"system {d}", text, clause))
    return found


def _number(value: float, dimension: str, units: UnitSystem) -> str:
    return f"{number_text(units.show(value, dimension))} {units.label(dimension)}"


def _at(finding: Finding) -> str:
    return "" if finding.where == "whole structure" else f", {finding.where}"


def facts_of_shears(found: BaseShears) -> list[Fact]:
    """The same of the static base shear alone."""
    return [("standard", found.standard_title, ""), ("site", found.site.summary, ""),
            *_systems(found.laterals)]
