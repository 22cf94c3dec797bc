"""The room of the Uniform Building Code 1997, chapter 16, division IV."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.contract import Standard
from undatum.standards.facts import FloorTest, SecondaryRule, StructureFacts, TwoStageRule
from undatum.standards.terms import Direction
from undatum.standards.ubc97 import system
from undatum.standards.ubc97.job import UbcJob
from undatum.standards.ubc97.left import LEFT
from undatum.standards.ubc97.limits import ModalAnalysis, Structure
from undatum.standards.ubc97.site import SiteInput, UbcGround
from undatum.standards.ubc97.static import Forces, SeismicDeadLoad
from undatum.standards.ubc97.system import SystemInput
from undatum.table import Table

__all__ = ["UBC97", "SiteInput", "SystemInput"]


class UBC97(Standard[SiteInput, SystemInput]):
    """UBC 1997."""

    key = "ubc97"
    title = "UBC 1997"
    concrete = "UBC 1997, chapter 19"
    left = LEFT
    floor_test = FloorTest("drift", 2.0, "1630.6")
    two_stage = TwoStageRule("1629.8.3, 1630.4.2", by_mean=True)
    secondary = SecondaryRule(None, "", "1633.2.4")
    site_input = SiteInput
    system_input = SystemInput

    def ground(self, given: SiteInput) -> UbcGround:
        return UbcGround(given)

    def weight(self, given: SiteInput) -> SeismicDeadLoad:
        return SeismicDeadLoad()

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return system.answers(asked, site, facts)

    def forces(self, job: UbcJob) -> Forces:
        return Forces(job)

    def dynamics(self, job: UbcJob) -> ModalAnalysis:
        return ModalAnalysis(job)

    def whole(self, job: UbcJob) -> Structure:
        return Structure(job)

    def drift_structures(self) -> tuple[str, ...]:
        return ("all structures",)

    def systems_table(self) -> Table:
        return system.table()
