"""Everything a run found, in one immutable object that explains itself."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.displacement import PlumbDisplacements
from undatum.analysis.lateral import StaticForces
from undatum.analysis.modes import Modes, Normalization
from undatum.analysis.response import SpectrumSet, StaticSet
from undatum.analysis.shape import shape_table
from undatum.analysis.shears import StoryResponse
from undatum.analysis.torsion import TorsionResult
from undatum.building.weight import Weights
from undatum.checks.drift import DriftCheck
from undatum.checks.plausibility import Plausibility
from undatum.checks.separation import SeparationCheck, separation_table
from undatum.checks.stability import StabilityCheck
from undatum.finding import Finding, Severity, findings_table, worst
from undatum.ground.spectrum import Spectrum
from undatum.mechanics.system import PlumbLine, System
from undatum.project.schema import Project
from undatum.project.shaking import Shaking, site_table, spectrum_table
from undatum.standards.answers import (
    DIRECTIONS,
    CombinationAnswer,
    Direction,
    ModalRules,
    Purpose,
    ScaleAnswer,
    ShapeFacts,
    SiteAnswer,
    SystemAnswer,
)
from undatum.table import Table, column, number_text
from undatum.units import STANDARD_GRAVITY, UnitSystem
from undatum.working import Section

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Scaling:
    """The factor on one direction and purpose of the spectrum analysis."""

    direction: Direction
    purpose: Purpose
    modal_base_shear: float
    answer: ScaleAnswer


@dataclass(frozen=True, slots=True)
class SpectrumResult:
    """Base shear of the spectrum analysis in one direction, before scaling. SI.

    ``modal`` (m,) base shear of each mode, with its sign; ``ordinates`` (m,) spectral acceleration
    after reduction at ``periods`` (m,). The last may be the mass the modes leave out.
    """

    direction: Direction
    base_shear: float
    modal: Floats
    ordinates: Floats
    damping: Floats
    periods: Floats


@dataclass(frozen=True, slots=True)
class Results:
    """The results of a run. Tables carry dimensions and write themselves in any unit system."""

    project: Project
    standard_title: str
    site: SiteAnswer
    laterals: Mapping[Direction, SystemAnswer]
    shaking: Shaking
    reduced: Mapping[Direction, Spectrum]
    weights: Weights
    system: System
    modes: Modes
    rules: ModalRules
    statics: Mapping[tuple[Direction, Purpose], StaticForces]
    torsion: Mapping[Direction, TorsionResult]
    torsion_factors: Table | None
    shape: ShapeFacts
    diaphragms: Mapping[Direction, Floats]
    rigidity: Floats
    static_sets: tuple[StaticSet, ...]
    spectrum_sets: tuple[SpectrumSet, ...]
    dynamic: tuple[SpectrumResult, ...]
    scaling: tuple[Scaling, ...]
    shears: StoryResponse
    plumb: tuple[PlumbLine, ...]
    displacements: PlumbDisplacements
    gaps: tuple[SeparationCheck, ...]
    combinations: CombinationAnswer | None
    drift: DriftCheck
    stability: tuple[StabilityCheck, ...]
    plausibility: Plausibility
    findings: tuple[Finding, ...]
    working: tuple[Section, ...]

    @property
    def units(self) -> UnitSystem:
        """The unit system of the project, in which people read the results."""
        return UnitSystem(self.project.units)

    @property
    def spectrum(self) -> Spectrum:
        """The design spectrum in X, before reduction; ``shaking`` holds the others."""
        return self.shaking.horizontal["X"]

    @property
    def severity(self) -> Severity:
        """The most serious finding."""
        return worst(self.findings)

    # -- tables -------------------------------------------------------------------------------

    def tables(self) -> tuple[Table, ...]:
        """Every table, in the order of the job."""
        return (
            self.site_table(),
            self.spectrum_table(),
            self.weights.level_table(),
            self.weights.table(),
            self.level_table(),
            self.modes.table(),
            self.shape_table(),
            *(s.table() for s in self.statics.values()),
            *(self.torsion[d].table() for d in DIRECTIONS),
            *([self.torsion_factors] if self.torsion_factors else []),
            shape_table(self.shape),
            *([self.diaphragm_table()] if self.diaphragms else []),
            self.modal_shear_table(),
            self.scaling_table(),
            self.shears.table(),
            self.shears.line_table(),
            self.displacements.table(),
            *(self.drift.envelope(c) for c in range(3)),
            self.drift.full_table(),
            *([separation_table(self.gaps)] if self.gaps else []),
            *([self.combination_table()] if self.combinations else []),
            *(s.table() for s in self.stability),
            self.plausibility.table(),
            findings_table(self.findings),
        )

    def table(self, name: str) -> Table:
        """One table by its name. Raises KeyError with the names there are."""
        found = {table.name: table for table in self.tables()}
        if name not in found:
            raise KeyError(f"no table {name!r}; there are: {', '.join(found)}")
        return found[name]

    def to_frame(self, name: str) -> Any:
        """A table as a pandas DataFrame in the project's units."""
        return self.table(name).to_frame(self.units)

    def site_table(self) -> Table:
        """Site parameters by symbol."""
        return site_table(self.site)

    def spectrum_table(self) -> Table:
        """Design spectrum before and after reduction, at round periods and corners."""
        return spectrum_table(
            self.shaking, self.reduced, max(4.0, 1.2 * float(self.modes.periods[0])))

    def level_table(self) -> Table:
        """Elevation, center of mass and center of rigidity by level, and their distance."""
        s = self.system
        e = np.round(s.centers - self.rigidity, 9)  # no digits below a nanometer
        return Table(
            "centers",
            "Levels and centers",
            (
                column("level", "", s.levels),
                column("elevation", "length", s.elevations),
                column("story height", "length", s.story_heights),
                column("x of center of mass", "length", s.centers[:, 0]),
                column("y of center of mass", "length", s.centers[:, 1]),
                column("x of center of rigidity", "length", self.rigidity[:, 0]),
                column("y of center of rigidity", "length", self.rigidity[:, 1]),
                column("eccentricity x", "length", e[:, 0]),
                column("eccentricity y", "length", e[:, 1]),
            ),
            note="Center of rigidity: where the story shear of the static forces passes when the "
            "floors move without turning.",
        )

    def shape_table(self, how: Normalization = "unit modal mass") -> Table:
        """Shapes of the modes in use, with unit modal mass or another normalization."""
        n, kept = self.system.n, self.modes.kept
        rows = [(m, i) for m in range(kept) for i in range(n)]
        phi = self.modes.normalized(how)
        return Table(
            "mode_shapes",
            f"Mode shapes at the centers of mass, {how} (SI)",
            (
                column("mode", "", [m + 1 for m, _ in rows]),
                column("level", "", [self.system.levels[i] for _, i in rows]),
                *(column(name, "ratio", [phi[axis * n + i, m] for m, i in rows], 5)
                  for axis, name in enumerate(("X", "Y", "rotation"))),
            ),
        )

    def diaphragm_table(self) -> Table:
        """Diaphragm design forces by level beside the static forces."""
        heavy = self.weights.weight > 0
        weight = self.weights.weight[heavy]
        return Table(
            "diaphragms",
            "Diaphragm design forces",
            (
                column("level", "", [name for name, keep in
                                     zip(self.system.levels, heavy, strict=True) if keep]),
                column("weight", "force", weight),
                *(col for d, forces in self.diaphragms.items() for col in (
                    column(f"static force, {d}", "force",
                           self.statics[d, "strength"].forces[heavy]),
                    column(f"diaphragm force, {d}", "force", forces),
                    column(f"over weight, {d}", "ratio", forces / weight),
                )),
            ),
            note="For the inertia of the whole level. Transfer forces from offsets and changes of "
            "stiffness are not in it.",
        )

    def modal_shear_table(self) -> Table:
        """Base shear of each mode in use, for both directions of ground motion."""
        return Table(
            "modal_base_shears",
            "Base shear by mode, before scaling",
            (
                column("mode", "", [
                    str(m) if m <= self.modes.kept else "mass left out"
                    for m in range(1, self.dynamic[0].periods.size + 1)]),
                column("period", "time", self.dynamic[0].periods),
                *(col for r in self.dynamic for col in (
                    column(f"reduced acceleration, {r.direction}", "acceleration",
                           r.ordinates),
                    column(f"base shear, {r.direction}", "force", r.modal),
                )),
            ),
            note="; ".join(
                f"combined {r.direction}: {self._force(r.base_shear)}" for r in self.dynamic),
        )

    def combination_table(self) -> Table:
        """Load combinations with earthquake: factors on each effect."""
        assert self.combinations is not None
        rows = self.combinations.rows
        return Table(
            "load_combinations",
            "Load combinations with earthquake",
            (
                column("kind", "", [c.kind for c in rows]),
                column("combination", "", [c.name for c in rows]),
                column("dead", "ratio", [c.dead for c in rows]),
                column("live", "ratio", [c.live for c in rows]),
                column("snow", "ratio", [c.snow for c in rows]),
                *(column(f"forces in {d}, both signs", "ratio", [c.quake[i] for c in rows])
                  for i, d in enumerate(DIRECTIONS)),
                column("clause", "", [c.clause for c in rows]),
            ),
            note=self.combinations.note,
        )

    def scaling_table(self) -> Table:
        """Static against modal base shear and the factors."""
        rows = self.scaling
        static = [self.statics[s.direction, s.purpose].shear.base_shear for s in rows]
        return Table(
            "scaling",
            "Scaling of the spectrum analysis",
            (
                column("direction", "", [s.direction for s in rows]),
                column("purpose", "", [s.purpose for s in rows]),
                column("static base shear", "force", static),
                column("modal base shear", "force", [s.modal_base_shear for s in rows]),
                column("factor", "ratio", [s.answer.factor for s in rows]),
                column("why", "", [s.answer.working.steps[-1].branch for s in rows]),
                column("clause", "", [s.answer.working.steps[-1].clause for s in rows]),
            ),
        )

    # -- in words -----------------------------------------------------------------------------

    def _force(self, value: float) -> str:
        return f"{number_text(self.units.show(value, 'force'))} {self.units.label('force')}"

    def story(self) -> list[tuple[str, str]]:
        """The short story: pairs of heading and text."""
        lines = [("Site", f"{self.standard_title}, {self.site.summary}")]
        per_area = self.weights.total / float(self.weights.areas[self.weights.weight > 0].sum())
        lines.append((
            "Weight",
            f"W = {self._force(self.weights.total)}, "
            f"{number_text(self.units.show(per_area, 'area load'), 3)} "
            f"{self.units.label('area load')} of floor",
        ))
        kinds = self.modes.kinds
        lines.append((
            "Periods",
            ", ".join(f"{t:.3f} s ({k})" for t, k in
                      zip(self.modes.periods[:3], kinds[:3], strict=True))
            + f"; {self.modes.kept} modes carry "
            + ", ".join(f"{c:.1%} in {d}" for c, d in zip(
                self.modes.cumulative[self.modes.kept - 1, :2], DIRECTIONS, strict=True)),
        ))
        for d in DIRECTIONS:
            static = self.statics[d, "strength"].shear
            dynamic = next(r for r in self.dynamic if r.direction == d)
            scale = {s.purpose: s.answer.factor for s in self.scaling if s.direction == d}
            lines.append((
                f"Base shear {d}",
                f"static {self._force(static.base_shear)} ({static.coefficient:.4f} W, "
                f"{static.governing}), spectrum {self._force(dynamic.base_shear)}; "
                f"factor on forces {scale['strength']:.3f}, on drift {scale['drift']:.3f}",
            ))
        for c, d in enumerate(DIRECTIONS):
            s, point, i = self.drift.governing(c)
            use = float(self.drift.use[s, point, i, c])
            lines.append((
                f"Drift {d}",
                f"{self.drift.ratios[s, point, i, c]:.4f} against {self.drift.limits[c]:.4f} "
                f"({use:.0%}): story {self.drift.levels[i]}, {self.drift.points[point]}, "
                f"{self.drift.sets[s]}",
            ))
        counts = {s: sum(f.severity is s for f in self.findings) for s in Severity}
        lines.append(("Findings", ", ".join(f"{n} {s.value}" for s, n in counts.items() if n)))
        return lines

    def __str__(self) -> str:
        head = f"{self.project.title}\n"
        return head + "\n".join(f"  {name:<13} {text}" for name, text in self.story())

    def _repr_html_(self) -> str:
        from html import escape

        rows = "".join(f"<tr><th style='text-align:left'>{escape(a)}</th>"
                       f"<td style='text-align:left'>{escape(b)}</td></tr>"
                       for a, b in self.story())
        return f"<table><caption>{escape(self.project.title)}</caption>{rows}</table>"

    def accelerations_in_g(self, values: Floats) -> Floats:
        """m/s2 to g, for plots."""
        return np.asarray(values / STANDARD_GRAVITY)
