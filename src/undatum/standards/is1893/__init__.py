"""The room of IS 1893 (Part 1), editions 2002 and 2016."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.contract import Standard
from undatum.standards.facts import CrackedShares, FloorTest, SecondaryRule, StructureFacts
from undatum.standards.is1893 import system
from undatum.standards.is1893.job import IndianJob
from undatum.standards.is1893.left import LEFT
from undatum.standards.is1893.limits import ModalAnalysis, Structure
from undatum.standards.is1893.site import IndianGround, SiteInput, SiteInput2002
from undatum.standards.is1893.static import Forces, SeismicWeight
from undatum.standards.is1893.system import SystemInput
from undatum.standards.terms import Direction
from undatum.table import Table

__all__ = ["IS1893", "SiteInput", "SiteInput2002", "SystemInput"]


class IS1893(Standard[SiteInput | SiteInput2002, SystemInput]):
    """One edition of IS 1893 (Part 1)."""

    concrete = "IS 456"
    secondary = SecondaryRule(None, "", "7.11.2", reduction=True)
    system_input = SystemInput

    def __init__(self, edition: str) -> None:
        self.edition = edition
        self.key = f"is1893-{edition}"
        self.title = f"IS 1893 (Part 1):{edition}"
        self.left = LEFT[edition]
        self.infill = "IS 1893:2016" if edition == "2016" else ""
        self.floor_test = FloorTest("average", 1.2, "7.6.4") if edition == "2016" else \
            FloorTest("average", 1.5, "7.7.2.2")
        if edition == "2016":
            self.cracked = CrackedShares(
                {kind: {"bending_y": share, "bending_z": share}
                 for kind, share in (("column", 0.7), ("beam", 0.35))},
                "IS 1893 (Part 1):2016, 6.4.3.1")
        self.site_input = SiteInput if edition == "2016" else SiteInput2002

    def ground(self, given: SiteInput | SiteInput2002) -> IndianGround:
        return IndianGround(given, self.edition)

    def weight(self, given: SiteInput | SiteInput2002) -> SeismicWeight:
        return SeismicWeight(self.edition)

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return system.answers(asked, site, self.edition)

    def forces(self, job: IndianJob) -> Forces:
        return Forces(job, self.edition)

    def dynamics(self, job: IndianJob) -> ModalAnalysis:
        return ModalAnalysis(job, self.edition)

    def whole(self, job: IndianJob) -> Structure:
        return Structure(job, self.edition)

    def drift_structures(self) -> tuple[str, ...]:
        return ("all structures",)

    def systems_table(self) -> Table:
        return system.table(self.edition)
