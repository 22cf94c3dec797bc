"""The room of ASCE/SEI 7, Minimum Design Loads: editions 2005, 2010, 2016 and 2022."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.asce7 import required, system
from undatum.standards.asce7.dynamic import ModalAnalysis
from undatum.standards.asce7.facts import StudyValues, edition
from undatum.standards.asce7.inputs import SiteInput, SiteInput22
from undatum.standards.asce7.job import AsceJob
from undatum.standards.asce7.left import LEFT
from undatum.standards.asce7.limits import Structure
from undatum.standards.asce7.site import AsceGround
from undatum.standards.asce7.static import Forces
from undatum.standards.asce7.system import SYSTEM_INPUTS, SystemInput
from undatum.standards.asce7.weight import EffectiveWeight
from undatum.standards.contract import Standard
from undatum.standards.facts import (
    FloorTest,
    FoundationRule,
    SecondaryRule,
    StructureFacts,
    TwoStageRule,
)
from undatum.standards.left import Required
from undatum.standards.terms import Direction
from undatum.table import Table

__all__ = ["ASCE7", "SiteInput", "SiteInput22", "StudyValues", "SystemInput"]


#: The concrete standard that an edition refers to (chapter 14, chapter 23).
CONCRETE = {"05": "ACI 318-05", "10": "ACI 318-08", "16": "ACI 318-14", "22": "ACI 318-19"}


#: Where deformation compatibility stands; of 2022 the clause is not certain here.
COMPATIBILITY = {"05": "12.12.4", "10": "12.12.5", "16": "12.12.5", "22": "chapter 12"}


class ASCE7(Standard[SiteInput | SiteInput22, SystemInput]):
    """One edition of ASCE/SEI 7."""

    floor_test = FloorTest(
        "drift", 2.0, "12.3.1.3", 3.0, "12.3.1.2",
        ("untopped steel decking or wood structural panels, where what resists is braced frames or "
         "shear walls, or the building is light-frame with the further conditions there",
         "12.3.1.1"))

    def __init__(self, key: str) -> None:
        self.edition = edition(key)
        self.key = f"asce7-{key}"
        self.title = self.edition.title
        self.also = self.edition.also
        self.concrete = CONCRETE[key]
        self.left = LEFT[key]
        self.foundation = FoundationRule(
            0.75, 0.90, "12.13" if key == "22" else "12.13.4", ("cantilevered column",))
        self.two_stage = TwoStageRule(
            "12.2.3" if key == "05" else "12.2.3.2", exempt=("A",))
        self.secondary = SecondaryRule(None, "", COMPATIBILITY[key])
        self.site_input = SiteInput22 if key == "22" else SiteInput
        self.system_input = SYSTEM_INPUTS[key]

    def ground(self, given: SiteInput | SiteInput22) -> AsceGround:
        return AsceGround(given, self.edition)

    def weight(self, given: SiteInput | SiteInput22) -> EffectiveWeight:
        return EffectiveWeight(self.edition)

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return system.answers(asked, site, facts, self.edition)

    def forces(self, job: AsceJob) -> Forces:
        return Forces(job, self.edition)

    def dynamics(self, job: AsceJob) -> ModalAnalysis:
        return ModalAnalysis(job, self.edition)

    def whole(self, job: AsceJob) -> Structure:
        return Structure(job, self.edition)

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(self.edition.table("drift"))

    def required(self, site: SiteAnswer) -> tuple[Required, ...]:
        return required.required(self.edition, site.category)

    def systems_table(self) -> Table:
        return system.table(self.edition)
