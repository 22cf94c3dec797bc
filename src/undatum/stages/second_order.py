"""Second order in the analysis: what it changed, side by side, and the word on it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from undatum.analysis.modes import Modes
from undatum.analysis.response import StaticSet
from undatum.finding import Finding, Severity
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.mechanics.solver import factorize
from undatum.mechanics.vibration import vibration
from undatum.table import Table, column


def second_order_table(
    model: Model, sets: Sequence[StaticSet], modes: Modes, plumb: Sequence[PlumbLine],
    role: str = "drift",
) -> Table:
    """Periods and drift with second order in the stiffness beside those without it, point by point.

    Drift is that of the static sets of a ``role``, which act on this model.
    """
    second = model.second_order
    assert second is not None
    plain = factorize(second.elastic)
    count = min(6, modes.count)
    own = modes.numbers[:count]
    before = 2 * np.pi / vibration(plain, max(own))[0]
    rows: list[tuple[str, str, float, float]] = [
        (f"period of mode {n}", "s", float(before[n - 1]), float(modes.periods[i]))
        for i, n in enumerate(own) if n <= before.size]
    lines = [center_line(model), *plumb]
    drift = plumb_drift(model, lines)
    for one in sets:
        if one.sign >= 0 and one.state.role == role:
            k = "XY".index(one.direction)
            first, with_it = (np.asarray(drift.of(u, one.nodal)).reshape(2, len(lines), -1)[k]
                              for u in (plain.solve(one.nodal), one.displacement))
            rows += [(f"story drift of {level}, {line.name}, {one.name}", "", float(first[p, i]),
                      float(with_it[p, i])) for p, line in enumerate(lines)
                     for i, level in enumerate(model.levels) if line.present[i]]
    return Table(
        "second_order", "With and without second order",
        (
            column("what", "", [r[0] for r in rows]),
            column("without", "time", [r[2] if r[1] else None for r in rows], 4),
            column("with", "time", [r[3] if r[1] else None for r in rows], 4),
            column("drift without", "displacement", [None if r[1] else r[2] for r in rows]),
            column("drift with", "displacement", [None if r[1] else r[3] for r in rows]),
            column("ratio", "ratio", [r[3] / r[2] if r[2] else None for r in rows], 4),
        ),
        note="Elastic drift along the forces of the set. The structure would buckle under "
        f"{said(second.buckling)} times the gravity load of second-order checks.",
    )


def said(factor: float) -> str:
    """A buckling factor as people read it."""
    return f"{factor:.3g}" if np.isfinite(factor) else "more than 200"


def second_order_finding(model: Model) -> tuple[Finding, ...]:
    """That second order is in the stiffness, and how far gravity is from buckling the structure."""
    second = model.second_order
    if second is None:
        return ()
    how = "the axial forces of members and the weight beside them" if second.pressing.axial.size \
        else "the weight on each story"
    return (Finding(
        "second order", "whole structure", Severity.NOTE,
        f"It is in the stiffness, from {how}; modes, forces and drift include it. The structure "
        f"would buckle under {said(second.buckling)} times that load.",
        "analysis.second_order", "",
        second.buckling if np.isfinite(second.buckling) else None),)
