"""Overturning where the structure meets its foundation, and what a standard takes off it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.analysis.response import ResponseSet
from undatum.mechanics.model import Model
from undatum.standards.answers import SystemAnswer
from undatum.standards.facts import FoundationRule
from undatum.standards.terms import Direction
from undatum.table import Table, column


def foundation_overturning(
    rule: FoundationRule, model: Model, sets: Sequence[ResponseSet],
    systems: Mapping[Direction, SystemAnswer],
) -> Table:
    """Every set for strength along its own direction, with the factor that is permitted."""
    rows = []
    for one, d in ((one, d) for one in sets for d in systems
                   if one.direction == d and not one.own):
        moment = abs(float(one.of(model.at_base("overturning moment", component=d))[0]))
        barred = one.method == "static" and systems[d].group in rule.barred
        factor = 1.0 if barred else rule.static if one.method == "static" else rule.spectrum
        why = f"not for a {systems[d].group} system" if barred else \
            "static procedure" if one.method == "static" else "modal analysis"
        rows.append((one.name, d, moment, factor, moment * factor, why))
    return Table(
        "foundation_overturning", "Overturning at the foundation, earthquake alone",
        (
            column("set", "", [r[0] for r in rows]), column("direction", "", [r[1] for r in rows]),
            column("overturning moment", "moment", [r[2] for r in rows]),
            column("factor permitted", "ratio", [r[3] for r in rows], 3),
            column("for the foundation", "moment", [r[4] for r in rows]),
            column("why", "", [r[5] for r in rows]),
        ),
        note=f"About the base, along the direction of each set. {rule.clause} permits the factor "
        "where soil meets foundation; the structure itself, its reactions and all combinations "
        "have the full moment.")
