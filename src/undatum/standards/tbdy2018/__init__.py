"""The room of TBDY 2018, the earthquake code for buildings of Turkey."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.contract import Standard
from undatum.standards.facts import CrackedShares, StructureFacts
from undatum.standards.tbdy2018 import system
from undatum.standards.tbdy2018.job import TbdyJob
from undatum.standards.tbdy2018.left import LEFT
from undatum.standards.tbdy2018.limits import STRUCTURES, ModalAnalysis, Structure
from undatum.standards.tbdy2018.site import TITLE, SiteInput, TbdyGround
from undatum.standards.tbdy2018.static import Forces, SeismicWeight
from undatum.standards.tbdy2018.system import SystemInput
from undatum.standards.terms import Direction
from undatum.table import Table

__all__ = ["TBDY2018", "SiteInput", "SystemInput"]


class TBDY2018(Standard[SiteInput, SystemInput]):
    """TBDY 2018, design by strength in the earthquake DD-2."""

    key = "tbdy2018"
    title = TITLE
    left = LEFT
    site_input = SiteInput
    system_input = SystemInput
    cracked = CrackedShares({
        "column": {"bending_y": 0.70, "bending_z": 0.70},
        "beam": {"bending_y": 0.35, "bending_z": 0.35},
        "wall": {"bending": 0.50, "shear": 0.50}}, "TBDY 2018, 4.5.8, Table 4.2")

    def ground(self, given: SiteInput) -> TbdyGround:
        return TbdyGround(given)

    def weight(self, given: SiteInput) -> SeismicWeight:
        return SeismicWeight(given)

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return system.answers(asked, site, facts)

    def forces(self, job: TbdyJob) -> Forces:
        return Forces(job)

    def dynamics(self, job: TbdyJob) -> ModalAnalysis:
        return ModalAnalysis(job)

    def whole(self, job: TbdyJob) -> Structure:
        return Structure(job)

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(STRUCTURES)

    def systems_table(self) -> Table:
        return system.table()
