"""What heights and weights alone lead to: periods, static forces, diaphragm forces."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.lateral import StaticForces
from undatum.finding import Finding, counted, findings_table
from undatum.labelled import Labelled, axis, labelled
from undatum.project.heights import StackProject
from undatum.record import FixedDict, record
from undatum.results.base_shear import BaseShears, diaphragms_governed
from undatum.results.expected import expected_table
from undatum.results.outcome import Outcome
from undatum.stages.shaking import Shaking, site_table, spectrum_table
from undatum.standards.answers import PeriodAnswer, SiteAnswer, SystemAnswer
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from undatum.table import Table, column, number_text
from undatum.working import Section

Floats = NDArray[np.float64]


@record
class StackForces(Outcome):
    """Static forces of a building of which heights and weights are all that is known. SI.

    >>> stack = ud.make_stack(
    ...     site={"ss": 1.1, "s1": 0.42, "long_period": 8, "site_class": "C",
    ...           "risk_category": "II"},
    ...     system={"X": {"row": "B.2"}, "Y": {"row": "B.2"}},
    ...     stack={"heights": {"Roof": "18 m"}, "weights": {"Roof": "24 MN"}, "plan": [40, 24]})
    >>> found = ud.run_stack(stack)
    >>> [round(float(f) / 1e6, 2) for f in found.statics["X", "strength"].forces]
    [3.52]
    """

    project: StackProject
    standard_title: str
    states: tuple[LimitState, ...]
    site: SiteAnswer
    shaking: Shaking
    laterals: Mapping[Direction, SystemAnswer]
    periods: Mapping[Direction, PeriodAnswer]
    statics: Mapping[tuple[Direction, str], StaticForces]
    diaphragms: Mapping[Direction, Floats]
    torques: Mapping[Direction, Floats] | None
    findings: tuple[Finding, ...]
    working: tuple[Section, ...]

    @property
    def directions(self) -> tuple[Direction, ...]:
        """Along what the building is judged."""
        return DIRECTIONS

    @property
    def seismic_weight(self) -> float:
        """Of all levels, N."""
        return sum(f.weight for f in self.project.stack.floors())

    @property
    def strength(self) -> LimitState:
        """The limit state whose base shear is quoted."""
        return next(s for s in self.states if s.role == "forces")

    def stack_table(self) -> Table:
        """Height, elevation and weight by level, with the sums."""
        floors = self.project.stack.floors()
        heights = np.array([f.height for f in floors])
        return Table(
            "stack", "Heights and weights as given",
            (
                column("level", "", [*(f.name for f in floors), "total"]),
                column("story height", "length", [*heights.tolist(), float(heights.sum())]),
                column("height above base", "length",
                       [*np.cumsum(heights[::-1])[::-1].tolist(), None]),
                column("seismic weight", "force",
                       [*(f.weight for f in floors), sum(f.weight for f in floors)]),
            ))

    def diaphragm_table(self) -> Table:
        """Design forces of the diaphragms."""
        levels = self.statics["X", self.strength.key].levels
        heavy = [f.weight > 0 for f in self.project.stack.floors()]
        shown = [n for n, w in zip(levels, heavy, strict=True) if w]
        return Table(
            "diaphragms", "Diaphragm design forces",
            (column("level", "", shown),
             *(c for d, f in self.diaphragms.items() for c in (
                 column(f"force {d}", "force", f),
                 column(f"governed by, {d}", "", diaphragms_governed(self.working, d, f))))))

    def torsion_table(self) -> Table:
        """Moments about the vertical axis of the accidental eccentricity, not amplified."""
        assert self.torques is not None
        return Table(
            "accidental_torsion", "Accidental torsional moments",
            (column("level", "", self.statics["X", self.strength.key].levels),
             *(column(f"moment, forces in {d}", "moment", self.torques[d]) for d in DIRECTIONS)),
            note="Of either sign, for strength, not amplified: amplification needs the "
                 "displacements of a structure.")

    @property
    def base_shears(self) -> BaseShears:
        """Periods, static forces and base shears, and how they were found."""
        return BaseShears(
            self.project.title, self.standard_title, self.units, self.site, self.laterals,
            self.statics, self.periods, FixedDict(), self.shaking, self.working)

    def made_by_name(self) -> Mapping[str, Callable[[], Table]]:
        found: dict[str, Callable[[], Table]] = {
            "stack": self.stack_table, "site": lambda: site_table(self.site),
            "spectrum": lambda: spectrum_table(self.shaking, {}, 4.0),
            "base_shears": lambda: self.base_shears.table(),
            **{s.table_name: s.table for s in self.statics.values()}}
        if self.torques is not None:
            found["accidental_torsion"] = self.torsion_table
        if self.diaphragms:
            found["diaphragms"] = self.diaphragm_table
        if self.project.expected:
            found["expected"] = lambda: expected_table(self.expected(), self.units)
        return {**found, "findings": lambda: findings_table(self.findings)}

    def summary(self) -> list[tuple[str, str]]:
        """The summary, line by line."""
        u = self.units
        def force(value: float) -> str:
            return f"{number_text(u.show(value, 'force'))} {u.label('force')}"

        lines = [("Standard", f"{self.standard_title}, {self.site.summary}"),
                 ("Weight", force(self.seismic_weight))]
        for d in DIRECTIONS:
            s = self.statics[d, self.strength.key].shear
            lines.append((f"Base shear {d}", f"{force(s.base_shear)} = {s.coefficient:.4f} W at "
                          f"T = {s.period:.3f} s; {s.governing}"))
        lines.append(("Findings", counted(self.findings)))
        return lines

    def key_numbers(self) -> dict[str, tuple[str, float | str | None]]:
        found: dict[str, tuple[str, float | str | None]] = {
            "standard": ("", self.standard_title),
            "seismic weight": ("force", self.seismic_weight)}
        for d in DIRECTIONS:
            shear = self.statics[d, self.strength.key].shear
            found |= {f"period used in {d}": ("time", shear.period),
                      f"static base shear in {d}": ("force", shear.base_shear),
                      f"what governs it in {d}": ("", shear.governing)}
        return found

    def arrays(self) -> Mapping[str, Labelled]:
        """Forces, shears and overturning moments of every direction and limit state. SI."""
        sets = axis("set", [f"static {d}, {key}" for d, key in self.statics])
        levels = axis("level", [f.name for f in self.project.stack.floors()])
        return FixedDict({name: labelled(name, dimension, (sets, levels), [
            getattr(s, key) for s in self.statics.values()]) for name, dimension, key in (
                ("static force", "force", "forces"), ("story shear", "force", "story_shears"),
                ("overturning moment", "moment", "overturning"))})
