"""The static base shear on one page: period and why, ordinate, coefficient, weight, forces."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces
from undatum.record import record
from undatum.stages.shaking import Shaking
from undatum.standards.answers import PeriodAnswer, SiteAnswer, SystemAnswer
from undatum.standards.terms import Direction
from undatum.table import Table, column
from undatum.units import UnitSystem
from undatum.working import Section

Floats = NDArray[np.float64]


@record
class BaseShears:
    """Static forces of every direction and limit state, and what they come from.

    ``computed`` periods by direction, s; none where there is no structure.
    """

    title: str
    standard_title: str
    units: UnitSystem
    site: SiteAnswer
    laterals: Mapping[Direction, SystemAnswer]
    statics: Mapping[tuple[Direction, str], StaticForces]
    periods: Mapping[Direction, PeriodAnswer]
    computed: Mapping[Direction, float]
    shaking: Shaking
    working: tuple[Section, ...]

    def table(self) -> Table:
        """By direction and limit state: periods, ordinate, coefficient, weight, base shear."""
        rows = list(self.statics.items())
        periods = [self.periods[d] for (d, _), _ in rows]
        return Table(
            "base_shears", "Static base shear",
            (
                column("direction", "", [d for (d, _), _ in rows]),
                column("purpose", "", [s for (_, s), _ in rows]),
                column("approximate period", "time", [p.approximate for p in periods]),
                column("largest period allowed", "time", [p.cap for p in periods]),
                column("computed period", "time", [self.computed.get(d) for (d, _), _ in rows]),
                column("period used", "time", [one.shear.period for _, one in rows]),
                column("why", "", [one.shear.why for _, one in rows]),
                column("spectral ordinate", "acceleration",
                       [float(self.shaking.horizontal[d](one.shear.period))
                        for (d, _), one in rows]),
                column("coefficient", "ratio", [one.shear.coefficient for _, one in rows]),
                column("governed by", "", [one.shear.governing for _, one in rows]),
                column("clause", "", [one.shear.clause for _, one in rows]),
                column("weight", "force", [one.shear.weight for _, one in rows]),
                column("base shear", "force", [one.shear.base_shear for _, one in rows]),
            ),
            note="The ordinate is that of the design spectrum at the period used, before any "
            "reduction; the coefficient is base shear over weight.",
        )

    def upright(self) -> Table:
        """The same to read down the page: a row for each quantity, a column for each purpose."""
        table = self.table()
        heads, rows = table.heads(self.units), table.text_rows(self.units)
        cases = [", ".join(row[:2]) for row in rows]
        return Table(
            table.name, table.title,
            (column("", "", heads[2:]),
             *(column(case, "", row[2:]) for case, row in zip(cases, rows, strict=True))),
            note=f"{table.note} Forces by level that are the same for two purposes are listed "
                 "once.")

    def tables(self) -> tuple[Table, ...]:
        """The base shears down the page, then the forces by level."""
        return (self.upright(), *self.by_level())

    def by_level(self) -> tuple[Table, ...]:
        """The forces by level of every direction and limit state; those equal to others once."""
        found = []
        for (d, _), one in self.statics.items():
            twin = next(other for (e, _), other in self.statics.items() if e == d)
            if one is twin or (one.forces != twin.forces).any():
                found.append(one.table())
        return tuple(found)


def diaphragms_governed(
    working: Sequence[Section], direction: str, forces: Floats
) -> list[str]:
    """What gives every diaphragm force: what its rule shares out, the least or the largest."""
    own = next(s for s in working
               if s.key.kind == "diaphragms" and s.key.direction == direction)
    shared = own["F_s"]
    assert isinstance(shared.value, tuple)
    return [shared.meaning if abs(f - s) <= 1e-9 * abs(s) else "least value" if f > s
            else "largest value" for f, s in zip(forces.tolist(), shared.value, strict=True)]
