"""Values of the engineer's in place of the standard's: a finding each, with the effect."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from undatum.finding import Finding, Severity
from undatum.project.schema import Project
from undatum.stages.outcomes import OwnEffect
from undatum.standards.answers import BaseShearAnswer
from undatum.standards.terms import Direction
from undatum.table import number_text
from undatum.units import UnitSystem
from undatum.working import OwnValue, Section, Step, in_units


def without_each(
    project: Project, own_values: Sequence[OwnValue]
) -> Iterator[tuple[OwnValue, Project]]:
    """Every value of the engineer's, and the project without it, the others kept."""
    for own in own_values:
        table: Any = project
        for part in own.table.split("."):
            table = getattr(table, part)
        rest = table.replace[:own.index] + table.replace[own.index + 1:]
        yield own, project.varied({f"{own.table}.replace": rest}).placed(project.folder)


def find_own_values(
    own_effects: tuple[OwnEffect, ...], working: tuple[Section, ...],
    strength_shears: Mapping[Direction, BaseShearAnswer], units: UnitSystem,
) -> tuple[Finding, ...]:
    """A finding for every value in place of the standard's, with what it does to the base shear."""
    after = {d: s.base_shear for d, s in strength_shears.items()}
    return tuple(_finding(effect.own, working, units, _change(effect.shears, after, units))
                 for effect in own_effects)


def own_of_site(
    own_values: Sequence[OwnValue], working: Sequence[Section], units: UnitSystem
) -> tuple[Finding, ...]:
    """The same for a site without a building, where there is no base shear."""
    return tuple(_finding(own, working, units, "") for own in own_values)


def replaced_lines(working: Sequence[Section], place: str = "") -> list[tuple[Section, Step]]:
    """The lines with a value of the engineer's, in all or in the one that stands at ``place``."""
    return [(section, step) for section in working for step in section
            if step.own is not None and place in ("", step.own.place)]


def _finding(
    own: OwnValue, working: Sequence[Section], units: UnitSystem, effect: str
) -> Finding:
    values: dict[float, str] = {}
    clause = ""
    lines = replaced_lines(working, own.place)
    if own.beyond_cap and all(step.unit != "s" for _, step in lines):
        effect = f"{effect} beyond_cap has no effect: no cap holds for it.".strip()
    for section, step in lines:
        unit, clause = step.unit_label(units), step.clause
        used, usual = (number_text(float(in_units(v, step.unit, units)), 5)  # type: ignore[arg-type]
                       for v in (step.value, step.usual))
        values.setdefault(float(step.value), " ".join(  # type: ignore[arg-type]
            f"{own.symbol} = {used} {unit} in place of {usual} {unit} by the standard, "
            f"{section.title[:1].lower()}{section.title[1:]}".split()))
    return Finding(
        "value of one's own", own.place, Severity.NOTE,
        f"{'; '.join(values.values())}. Reason: {own.reason.rstrip('.')}. {effect}".rstrip(),
        clause, "The checker must agree with the reason.")


def _change(
    before: Mapping[Direction, float], after: Mapping[Direction, float], units: UnitSystem
) -> str:
    """What happens to the base shears, in words."""
    if not before:
        return "Without it there is no base shear."
    changes = []
    for d, v in after.items():
        if abs(v - before[d]) > 1e-9 * abs(before[d]):
            one, other = (number_text(units.show(x, "force")) for x in (before[d], v))
            changes.append(f"{one} to {other} {units.label('force')} in {d} "
                           f"({v / before[d] - 1:+.1%})")
    return f"Base shear from {' and from '.join(changes)}." if changes else \
        "It does not change the base shear."
