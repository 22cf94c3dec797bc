"""One building by several standards, side by side."""

from __future__ import annotations

from pathlib import Path

from undatum.errors import Fault, InputError
from undatum.project.calculation import calculate
from undatum.project.reader import alternative_project
from undatum.project.results import Results
from undatum.project.runner import results_of
from undatum.project.schema import Project
from undatum.record import record
from undatum.standards.answers import DIRECTIONS
from undatum.table import Table, column


@record
class SideBySide:
    """Results of the same building by its own standard and by every alternative, in order."""

    results: tuple[Results, ...]

    def table(self) -> Table:
        """Period, base shear over weight and drift over limit of each standard and direction."""
        rows = [(r, c, d) for r in self.results for c, d in enumerate(DIRECTIONS)]
        static = [r.statics[d, r.strength.key].shear for r, _, d in rows]
        scale = [next(s for s in r.scaling if s.direction == d and s.state == r.strength)
                 for r, _, d in rows]
        weight = [r.weights.total for r, _, _ in rows]
        worst = {method: [r.drift.governing(c, method=method) for r, c, _ in rows]
                 for method in ("static", "spectrum")}
        return Table(
            "side_by_side",
            f"{self.results[0].project.title}: by several standards",
            (
                column("standard", "", [r.standard_title for r, _, _ in rows]),
                column("direction", "", [d for _, _, d in rows]),
                column("seismic weight", "force", weight),
                column("mode period", "time",
                       [float(r.modes.periods[r.modes.governing(c)]) for r, c, _ in rows]),
                column("period used", "time", [s.period for s in static]),
                column("divisor", "ratio", [r.laterals[d].force_divisor for r, _, d in rows]),
                column("static V/W", "ratio", [s.coefficient for s in static]),
                column("governed by", "", [s.governing for s in static]),
                column("spectrum V/W", "ratio",
                       [s.modal_base_shear / w for s, w in zip(scale, weight, strict=True)]),
                column("factor", "ratio", [s.answer.factor for s in scale]),
                *(column(f"drift over limit, {method}", "ratio",
                         [float(r.drift.use[at][c])
                          for (r, c, _), at in zip(rows, worst[method], strict=True)], 3)
                  for method in worst),
            ),
            note="Each standard with its own weight rule, spectrum, divisor and drift limit; the "
            "divisor reduces elastic forces. Drift limits are not comparable by themselves: some "
            "hold for amplified, some for elastic drift.",
        )


def side_by_side(project: Project, folder: str | Path | None = None) -> SideBySide:
    """Run a project by its own standard and by each of its alternatives.

    Where the alternatives give the same weight, the structure is not solved again. Raises
    InputError when the project names none, or one can't be used.
    """
    if not project.alternatives:
        raise InputError([Fault(
            "alternatives", "the project names no other standard",
            'add a table such as [alternatives.en1998] with its own site and system')])
    first = calculate(project, folder)
    found = [results_of(first)]
    for key in project.alternatives:
        other, faults = alternative_project(first.project, key)
        if other is None:
            raise InputError(faults)
        found.append(results_of(first.of(other)))
    return SideBySide(tuple(found))
