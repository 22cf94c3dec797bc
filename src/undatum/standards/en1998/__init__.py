"""The room of EN 1998-1:2004, Design of structures for earthquake resistance: buildings."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.contract import Standard
from undatum.standards.en1998 import system
from undatum.standards.en1998.dynamic import ModalAnalysis
from undatum.standards.en1998.facts import facts as tables
from undatum.standards.en1998.job import EnJob
from undatum.standards.en1998.left import LEFT
from undatum.standards.en1998.limits import Structure
from undatum.standards.en1998.site import EnGround, SiteInput
from undatum.standards.en1998.static import Forces
from undatum.standards.en1998.system import SystemInput
from undatum.standards.en1998.weight import SeismicMass
from undatum.standards.facts import CrackedShares, FloorTest, SecondaryRule, StructureFacts
from undatum.standards.terms import Direction
from undatum.table import Table

__all__ = ["EN1998", "SiteInput", "SystemInput"]


class EN1998(Standard[SiteInput, SystemInput]):
    """EN 1998-1:2004 with its recommended values or national ones."""

    key = "en1998"
    title = "EN 1998-1:2004"
    cracked = CrackedShares(
        {kind: {"bending_y": 0.5, "bending_z": 0.5, "shear": 0.5}
         for kind in ("column", "beam", "brace")} | {"wall": {"bending": 0.5, "shear": 0.5}},
        "EN 1998-1, 4.3.1(7)")
    concrete = "EN 1992-1-1"
    left = LEFT
    floor_test = FloorTest("rigid", 1.1, "4.3.1(4)")
    secondary = SecondaryRule(0.15, "4.2.2(4)", "4.2.2(1), 5.7")
    site_input = SiteInput
    system_input = SystemInput

    def ground(self, given: SiteInput) -> EnGround:
        return EnGround(given)

    def weight(self, given: SiteInput) -> SeismicMass:
        return SeismicMass(given)

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return system.answers(asked, site, facts)

    def forces(self, job: EnJob) -> Forces:
        return Forces(job)

    def dynamics(self, job: EnJob) -> ModalAnalysis:
        return ModalAnalysis(job)

    def whole(self, job: EnJob) -> Structure:
        return Structure(job)

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(tables()["drift"])

    def systems_table(self) -> Table:
        return system.table()
