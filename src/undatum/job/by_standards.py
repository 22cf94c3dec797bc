"""One building by several standards, side by side."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from undatum.errors import Fault, InputError
from undatum.finding import Severity
from undatum.job.entry import calculate
from undatum.job.heights_and_weights import run_stack
from undatum.project.heights import StackProject, alternative_stack
from undatum.project.project_file import alternative_project, found_or_raise
from undatum.project.schema import Project
from undatum.record import record
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces
from undatum.standards.terms import DIRECTIONS, METHODS, Direction
from undatum.table import Column, Table, column

Either = Results | StackForces


@record
class SideBySide:
    """Results of the same building by its own standard and by every alternative, in order; all of
    the same depth.

    >>> found = ud.side_by_side(ud.shipped_project("clinic"))
    >>> len(found.results)
    5
    """

    results: tuple[Either, ...]

    @property
    def of_structure(self) -> tuple[Results, ...]:
        """Those with modes, spectrum analysis and drift: all of them, or none."""
        return tuple(r for r in self.results if isinstance(r, Results))

    def strength_factor(self, result: Either, direction: Direction) -> float:
        """The factor on the earthquake of strength design; one where the standard gives none, or
        combinations need a structure there is not."""
        found = result.combinations if isinstance(result, Results) else None
        return 1.0 if found is None else found.strength.get(direction, 1.0)

    def design_level(self, result: Either, direction: Direction) -> float:
        """Static base shear over weight at design level, with that factor."""
        shear = result.statics[direction, result.strength.key].shear
        return shear.coefficient * self.strength_factor(result, direction)

    def table(self) -> Table:
        """Hazard, factors, base shear at design level, drift over limit and the worst finding."""
        rows = [(r, d) for r in self.results for d in r.directions]
        static = [r.statics[d, r.strength.key].shear for r, d in rows]
        gravest = [max(r.findings, key=lambda f: f.severity.rank, default=None) for r, _ in rows]
        whole = [(r, DIRECTIONS.index(d), d) for r in self.of_structure for d in r.directions]
        return Table(
            "side_by_side",
            f"{self.results[0].project.title}: by several standards",
            (
                column("standard", "", [r.standard_title for r, _ in rows]),
                column("direction", "", [d for _, d in rows]),
                column("hazard level", "", [r.site.hazard for r, _ in rows]),
                column("seismic weight", "force", [r.seismic_weight for r, _ in rows]),
                *([column("mode period", "time", [
                    float(r.modes.periods[r.modes.governing(c)]) for r, c, _ in whole])]
                  if whole else []),
                column("period used", "time", [s.period for s in static]),
                column("R or q", "ratio", [r.laterals[d].reduction for r, d in rows]),
                column("importance", "ratio", [r.site.importance for r, _ in rows]),
                column("static V/W", "ratio", [s.coefficient for s in static]),
                column("governed by", "", [s.governing for s in static]),
                *(self._of_structure(whole) if whole else []),
                column("worst finding", "", ["" if f is None else f"{f.severity.value}: {f.check}"
                                             for f in gravest]),
            ),
            note=self._note(),
            marks=tuple(i for i, f in enumerate(gravest)
                        if f is not None and f.severity is Severity.EXCEEDED),
        )

    def _of_structure(self, rows: Sequence[tuple[Results, int, Direction]]) -> list[Column]:
        """Columns of what needs a structure."""
        scale = [next(s for s in r.scaling if s.direction == d and s.state == r.strength)
                 for r, _, d in rows]
        worst = {method: [r.drift.governing(c, method=method) for r, c, _ in rows]
                 for method in METHODS}
        return [
            column("earthquake factor", "ratio", [self.strength_factor(r, d) for r, _, d in rows]),
            column("V/W at design level", "ratio", [self.design_level(r, d) for r, _, d in rows]),
            column("spectrum V/W", "ratio", [s.modal_base_shear / r.seismic_weight
                                             for s, (r, *_) in zip(scale, rows, strict=True)]),
            column("factor", "ratio", [s.answer.factor for s in scale]),
            *(column(f"drift over limit, {method}", "ratio",
                     [float(r.drift.use[at][c])
                      for (r, c, _), at in zip(rows, worst[method], strict=True)], 3)
              for method in worst),
            column("drift decided by", "", [r.drift.deciding(c) or "both" for r, c, _ in rows]),
            column("drift read", "", ["edges" if r.drift.at_edges[c] else "center of mass"
                                      for r, c, _ in rows]),
        ]

    def _note(self) -> str:
        """What may be compared, and what not."""
        said = (
            "Each standard with its own spectrum and divisor, on the weights as given. There is no "
            "structure: drift, modes and combinations are not checked."
            if not self.of_structure else
            "Each standard with its own weight rule, spectrum, divisor and drift limit. At design "
            "level the base shear includes the largest factor on the earthquake in strength "
            "design. Drift limits are not comparable by themselves: some apply to amplified drift, "
            "some to elastic drift. The worst finding is for the whole structure; a row with an "
            "exceeded one is marked, for instance where the standard does not permit the system.")
        first = self.results[0].project
        if first.spectrum is not None:
            said += f" The spectrum of the project ({first.spectrum.said}) holds for " \
                    f"{self.results[0].standard_title} alone; the others use their own."
        return said


def side_by_side(
    project: Project | StackProject, folder: str | Path | None = None
) -> SideBySide:
    """Run a project by its own standard and by each of its alternatives.

    Where the alternatives give the same weight, the structure is not solved again. Raises
    InputError when the project names none, or one can't be used.

    >>> [r.standard_title for r in ud.side_by_side(ud.shipped_project("clinic")).results][:2]
    ['ASCE/SEI 7-16', 'ASCE/SEI 7-10']
    """
    if not project.alternatives:
        raise InputError([Fault(
            "alternatives", "the project names no other standard",
            'add a table such as [alternatives.en1998] with its own site and system')])
    if isinstance(project, StackProject):
        at = project if folder is None else project.placed(folder)
        return SideBySide((run_stack(at), *(run_stack(found_or_raise(
            alternative_stack(at, key))) for key in at.alternatives)))
    first = calculate(project, folder)
    return SideBySide((first.results, *(first.of(found_or_raise(
        alternative_project(first.project, key))).results for key in project.alternatives)))
