"""The room of criteria of one's own: an owner's rules, or a country that is not shipped."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from undatum.errors import Fault, InputError, one_of
from undatum.finding import Finding, Severity
from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.contract import Standard
from undatum.standards.facts import StructureFacts
from undatum.standards.own.hazards import OwnJob
from undatum.standards.own.parts import (
    Forces,
    ModalAnalysis,
    OwnGround,
    OwnWeight,
    Structure,
)
from undatum.standards.own.rules import Rules, SiteInput, SystemInput, criteria_text, read_rules
from undatum.standards.terms import DRIFT, STRENGTH, Direction, LimitState
from undatum.table import Table, column
from undatum.units import said
from undatum.working import SectionKey, Working

__all__ = ["OwnCriteria", "Rules", "read_rules"]
FACTOR = (0.0, 20.0)


class OwnCriteria(Standard[SiteInput, SystemInput]):
    """Criteria from a file as answers to the contract."""

    site_input = SiteInput
    system_input = SystemInput

    def __init__(self, path: str | Path, text: str | None = None) -> None:
        self.text = criteria_text(path) if text is None else text
        self.rules = read_rules(path, self.text)
        self.key = Path(path).name
        self.title = self.rules.title
        self.states = (STRENGTH, DRIFT, *(
            LimitState(name, "drift") for name in self.rules.limit_states))

    def ground(self, given: SiteInput) -> OwnGround:
        return OwnGround(given, self.rules)

    def weight(self, given: SiteInput) -> OwnWeight:
        return OwnWeight(self.rules)

    def systems(
        self, asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
    ) -> Mapping[Direction, SystemAnswer]:
        return {d: self._system(d, given, site, facts) for d, given in asked.items()}

    def _system(
        self, direction: Direction, given: SystemInput, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        systems = self.rules.systems
        if given.row not in systems:
            raise InputError([Fault(
                f"system.{direction}.row", f"{given.row!r} is not in the criteria",
                one_of(given.row, systems))])
        row = systems[given.row]
        w = Working(SectionKey("system", direction), f"Lateral system in {direction}",
                    site.working, replaced=given.replaced(f"system.{direction}", direction))
        clause = f"systems.{given.row}"
        divisor = w.given("R", row.divisor, meaning="divisor of elastic forces", clause=clause,
                          within=FACTOR)
        drift = w.given("C_d", row.drift_factor, meaning="amplification of displacement",
                        clause=clause, within=FACTOR)
        over = w.given("Omega_0", row.overstrength, meaning="overstrength factor", clause=clause,
                       within=FACTOR, replaceable=False)
        findings: tuple[Finding, ...] = ()
        if row.height_limit is not None:
            over_limit = facts.height > row.height_limit * (1 + 1e-9)
            findings = (Finding(
                "height limit", f"system {direction}",
                Severity.EXCEEDED if over_limit else Severity.OK,
                f"{given.row}: {said(facts.height)} against {said(row.height_limit)}.", clause,
                "Choose another system." if over_limit else "", facts.height, row.height_limit,
                "length"),)
        return SystemAnswer(direction, given.row, given.row, "", divisor, drift, over,
                            row.redundancy,
                            w.close(), findings, divisor)

    def forces(self, job: OwnJob) -> Forces:
        return Forces(job, self.rules)

    def dynamics(self, job: OwnJob) -> ModalAnalysis:
        return ModalAnalysis(job, self.rules)

    def whole(self, job: OwnJob) -> Structure:
        return Structure(job, self.rules, self.key)

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(self.rules.drift)

    def systems_table(self) -> Table:
        s = self.rules.systems
        return Table(
            "systems", f"{self.title}: lateral systems",
            (column("row", "", list(s)),
             column("divisor", "ratio", [v.divisor for v in s.values()], 3),
             column("drift factor", "ratio", [v.drift_factor for v in s.values()], 3)))
