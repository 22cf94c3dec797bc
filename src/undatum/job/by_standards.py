"""One building by several standards, side by side."""

from __future__ import annotations

from pathlib import Path

from undatum.errors import Fault, InputError
from undatum.finding import Severity
from undatum.job.entry import calculate
from undatum.project.project_file import alternative_project
from undatum.project.schema import Project
from undatum.record import record
from undatum.results.results import Results
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column


def _along(result: Results) -> list[tuple[int, Direction]]:
    """The directions a building is judged along, with their places."""
    return [(DIRECTIONS.index(d), d) for d in result.model.directions]


@record
class SideBySide:
    """Results of the same building by its own standard and by every alternative, in order."""

    results: tuple[Results, ...]

    def strength_factor(self, result: Results, direction: Direction) -> float:
        """The factor on the earthquake of strength design; one where the standard gives none."""
        found = result.combinations
        return 1.0 if found is None else found.strength.get(direction, 1.0)

    def design_level(self, result: Results, direction: Direction) -> float:
        """Static base shear over weight at design level, with that factor."""
        shear = result.statics[direction, result.strength.key].shear
        return shear.coefficient * self.strength_factor(result, direction)

    def table(self) -> Table:
        """Hazard, factors, base shear at design level, drift over limit and the worst finding."""
        rows = [(r, c, d) for r in self.results for c, d in _along(r)]
        static = [r.statics[d, r.strength.key].shear for r, _, d in rows]
        scale = [next(s for s in r.scaling if s.direction == d and s.state == r.strength)
                 for r, _, d in rows]
        weight = [r.weights.total for r, _, _ in rows]
        worst = {method: [r.drift.governing(c, method=method) for r, c, _ in rows]
                 for method in ("static", "spectrum")}
        gravest = [max(r.findings, key=lambda f: f.severity.rank, default=None)
                   for r, _, _ in rows]
        return Table(
            "side_by_side",
            f"{self.results[0].project.title}: by several standards",
            (
                column("standard", "", [r.standard_title for r, _, _ in rows]),
                column("direction", "", [d for _, _, d in rows]),
                column("hazard level", "", [r.site.hazard for r, _, _ in rows]),
                column("seismic weight", "force", weight),
                column("mode period", "time",
                       [float(r.modes.periods[r.modes.governing(c)]) for r, c, _ in rows]),
                column("period used", "time", [s.period for s in static]),
                column("R or q", "ratio", [r.laterals[d].reduction for r, _, d in rows]),
                column("importance", "ratio", [r.site.importance for r, _, _ in rows]),
                column("static V/W", "ratio", [s.coefficient for s in static]),
                column("governed by", "", [s.governing for s in static]),
                column("earthquake factor", "ratio",
                       [self.strength_factor(r, d) for r, _, d in rows]),
                column("V/W at design level", "ratio",
                       [self.design_level(r, d) for r, _, d in rows]),
                column("spectrum V/W", "ratio",
                       [s.modal_base_shear / w for s, w in zip(scale, weight, strict=True)]),
                column("factor", "ratio", [s.answer.factor for s in scale]),
                *(column(f"drift over limit, {method}", "ratio",
                         [float(r.drift.use[at][c])
                          for (r, c, _), at in zip(rows, worst[method], strict=True)], 3)
                  for method in worst),
                column("drift decided by", "",
                       [r.drift.deciding(c) or "both" for r, c, _ in rows]),
                column("drift read", "", ["edges" if r.drift.at_edges[c] else "center of mass"
                                          for r, c, _ in rows]),
                column("worst finding", "", ["" if f is None else f"{f.severity.value}: {f.check}"
                                             for f in gravest]),
            ),
            note=self._note(),
            marks=tuple(i for i, f in enumerate(gravest)
                        if f is not None and f.severity is Severity.EXCEEDED),
        )

    def _note(self) -> str:
        """What may be compared, and what not."""
        said = (
            "Each standard with its own weight rule, spectrum, divisor and drift limit. At design "
            "level the base shear takes the largest factor on the earthquake in strength design. "
            "Drift limits are not comparable by themselves: some hold for amplified, some for "
            "elastic drift. The worst finding is of the whole structure; a row with an exceeded "
            "one is marked, such as that of a system the standard does not permit.")
        first = self.results[0].project
        if first.spectrum is not None:
            said += f" The spectrum of the project ({first.spectrum.said}) holds for " \
                    f"{self.results[0].standard_title} alone; the others use their own."
        return said


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
    found = [first.results]
    for key in project.alternatives:
        other, faults = alternative_project(first.project, key)
        if other is None:
            raise InputError(faults)
        found.append(first.of(other).results)
    return SideBySide(tuple(found))
