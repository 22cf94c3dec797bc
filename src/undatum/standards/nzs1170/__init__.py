"""The room of NZS 1170.5:2004, Structural design actions, part 5: earthquake actions."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.contract import Standard
from undatum.standards.facts import StructureFacts
from undatum.standards.nzs1170 import system
from undatum.standards.nzs1170.job import NzsJob
from undatum.standards.nzs1170.left import LEFT
from undatum.standards.nzs1170.limits import ModalAnalysis, Structure
from undatum.standards.nzs1170.site import NzsGround, SiteInput
from undatum.standards.nzs1170.static import Forces, SeismicWeight
from undatum.standards.nzs1170.system import SystemInput
from undatum.standards.terms import Direction
from undatum.table import Table

__all__ = ["NZS1170", "SiteInput", "SystemInput"]


class NZS1170(Standard[SiteInput, SystemInput]):
    """NZS 1170.5:2004, ultimate limit state."""

    key = "nzs1170"
    title = "NZS 1170.5:2004"
    left = LEFT
    site_input = SiteInput
    system_input = SystemInput

    def ground(self, given: SiteInput) -> NzsGround:
        return NzsGround(given)

    def weight(self, given: SiteInput) -> SeismicWeight:
        return SeismicWeight()

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return system.answers(asked, site, facts)

    def forces(self, job: NzsJob) -> Forces:
        return Forces(job)

    def dynamics(self, job: NzsJob) -> ModalAnalysis:
        return ModalAnalysis(job)

    def whole(self, job: NzsJob) -> Structure:
        return Structure(job)

    def drift_structures(self) -> tuple[str, ...]:
        return ("all structures",)

    def systems_table(self) -> Table:
        return system.table()
