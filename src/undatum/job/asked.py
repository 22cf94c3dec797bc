"""What is asked of a job, part by part: an equal part of another project is the same part."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from undatum.job.stage import Stages, Watch, settled
from undatum.layout.whole import Building
from undatum.project.cracking import cracked_building
from undatum.project.flanges import flanged_building
from undatum.project.infills import filled_building
from undatum.project.own_forces import OwnForces
from undatum.project.portions import TwoStage
from undatum.project.schema import Drift, Gap, Irregularities, Project
from undatum.project.ways import Analysis, SpectrumTable
from undatum.readings.own import OwnCombination
from undatum.standards.facts import Asked, AskedOfSite
from undatum.standards.terms import Direction
from undatum.units import UnitSystem
from undatum.working import OwnValue


class GivenParts(Stages):
    """The parts of a project."""

    def __init__(
        self, project: Project, *, before: GivenParts | None = None, watch: Watch | None = None
    ) -> None:
        if before is not None and before._project.units != project.units:
            before = None  # what is said is said in the units
        super().__init__(before, watch)
        self._project: Project = project

    @property
    def project(self) -> Project:
        """What is asked."""
        self._note("project", self._project)
        return self._project

    @settled
    def standard_key(self) -> str:
        """The key of the standard."""
        return self.project.standard

    @settled
    def folder(self) -> Path | None:
        """Where files are looked for."""
        return self.project.folder

    @settled
    def criteria(self) -> str | None:
        """The text of criteria of one's own, where results were made by them."""
        return self.project.criteria

    @settled
    def given(self) -> AskedOfSite:
        """What is said of the site."""
        return self.project.site

    @settled
    def asked(self) -> Mapping[Direction, Asked]:
        """What is said of the lateral system, by direction."""
        return self.project.system.by_direction

    @settled
    def spectrum(self) -> SpectrumTable | None:
        """A spectrum from a file, if one is given."""
        return self.project.spectrum

    @settled
    def analysis(self) -> Analysis:
        """Choices of analysis."""
        return self.project.analysis

    @settled
    def damping(self) -> float:
        """The damping ratio of all modes that are given no other."""
        return self.project.analysis.damping

    @settled
    def building(self) -> Building:
        """The building, with the standard's shares of stiffness, widths of flanges and struts."""
        standard, building = self.project.find_standard(), self.project.building
        return filled_building(standard, flanged_building(
            standard, cracked_building(standard, building)))

    @settled
    def irregularities(self) -> Irregularities:
        """Irregularities as they are stated."""
        return self.project.irregularities

    @settled
    def drift_choices(self) -> Drift:
        """What is asked of drift."""
        return self.project.drift

    @settled
    def gaps(self) -> tuple[Gap, ...]:
        """Gaps to neighbors."""
        return self.project.gaps

    @settled
    def own_combinations(self) -> tuple[OwnCombination, ...]:
        """Load combinations of one's own."""
        return self.project.combinations

    @settled
    def own_forces(self) -> tuple[OwnForces, ...]:
        """Static sets of one's own, as they are given."""
        return self.project.static_sets

    @settled
    def portions(self) -> TwoStage | None:
        """Where the building is parted for the two-stage procedure."""
        return self.project.two_stage

    @settled
    def occupancy(self) -> str:
        """What the building is for."""
        return self.project.occupancy

    @settled
    def units(self) -> UnitSystem:
        """The unit system of the project."""
        return UnitSystem(self.project.units)

    @settled
    def own_values(self) -> tuple[OwnValue, ...]:
        """Every value of the engineer's in place of the standard's."""
        return (*self.project.site.replaced("site"), *(
            own for d, asked in self.asked.items() for own in asked.replaced(f"system.{d}", d)))
