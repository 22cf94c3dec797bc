"""IS 1893 (Part 1): modal analysis, drift, separation, combinations and procedures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    DriftLimit,
    LoadCombination,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    ScaleAnswer,
    SeparationAnswer,
    StabilityAnswer,
    TorsionAnswer,
)
from undatum.standards.contract import Dynamics, WholeStructure
from undatum.standards.facts import GapFacts, ModalFacts, SecondOrderFacts, ShapeFacts
from undatum.standards.is1893.job import IndianJob
from undatum.standards.is1893.regularity import (
    held_against,
    judge,
    modal_findings,
    vertical_asked,
)
from undatum.standards.is1893.system import system_rows
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, LimitState
from undatum.units import said
from undatum.working import Candidate, SectionKey, Working, first

SILENT = "not in the standard"


class ModalAnalysis(Dynamics):
    """The dynamic analysis of one edition."""

    def __init__(self, job: IndianJob, edition: str) -> None:
        self.job, self.edition = job, edition

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        divisor = self.job.systems[direction].force_divisor
        return ScaledSpectrum(f"divided by R/I = {divisor:.3g}", self.job.spectra[direction],
                              1.0 / divisor)

    def rules(self) -> ModalRules:
        clause = "7.7.5" if self.edition == "2016" else "7.8.4"
        return ModalRules(0.90, 0.05, "CQC", "independent", clause, "6.3.2", 1 / 33, clause)

    def findings(self, modes: ModalFacts) -> tuple[Finding, ...]:
        return modal_findings(self.job.site, modes, self.edition)

    def directions(self, irregular: Sequence[str]) -> tuple[DirectionalCombination, str]:
        return ("100/30", "6.3.2.2") if "H5" in irregular else ("independent", "6.3.2.1")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        """VB-bar/VB where the dynamic base shear is smaller; 2016: forces only."""
        w = common.scale_working(shear, shear.working)
        clause = "7.7.3" if self.edition == "2016" else "7.8.2"
        if shear.state.role == "drift":
            return common.not_scaled(w, shear.state, "7.11.1",
                                     "displacements are not scaled for the drift check"
                                     if self.edition == "2016" else "the lower bound of 7.8.2 need "
                                     "not hold for displacements")
        w.given("V_t", modal_base_shear, "force", meaning="base shear of the dynamic analysis",
                clause=clause)
        return common.scaled_up(w, shear.state, "V_B", clause, "scaled up", "not scaled")


Factors = tuple[tuple[str, float, float, float], ...]  # name, dead, imposed, earthquake
LIMIT_STATE: Factors = (
    ("1.2 (DL + IL ± EL)", 1.2, 1.2, 1.2),
    ("1.5 (DL ± EL)", 1.5, 0.0, 1.5),
    ("0.9 DL ± 1.5 EL", 0.9, 0.0, 1.5),
)
PLASTIC: Factors = (("1.7 (DL ± EL)", 1.7, 0.0, 1.7), ("1.3 (DL + IL ± EL)", 1.3, 1.3, 1.3))


#: One component in full with 0.3 of the two others.
THREE = [("X + 0.3 Y + 0.3 Z", (1.0, 0.3, 0.3)), ("0.3 X + Y + 0.3 Z", (0.3, 1.0, 0.3)),
         ("0.3 X + 0.3 Y + Z", (0.3, 0.3, 1.0))]


class Structure(WholeStructure):
    """What one edition says of the whole structure."""

    def __init__(self, job: IndianJob, edition: str) -> None:
        self.job, self.edition = job, edition

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        return judge(shape, torsion, self.job.site, self.edition)

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        """Whether a dynamic analysis is required.

        A building in which an irregularity was found is irregular, whatever the project states.
        """
        stated = all(given.regular for given in self.job.asked.values())
        claim = held_against(stated, regularity.found, self.edition)
        regular = stated and not regularity.found
        h, zone = self.job.facts.height, self.job.site.category
        if self.edition == "2016":
            allowed, clause = regular and h < 15.0 and zone == "II", "7.7.1"
        else:
            high = zone in ("IV", "V")
            most = (40.0 if high else 90.0) if regular else (12.0 if high else 40.0)
            allowed, clause = h <= most, "7.8.1"
        return ProcedureAnswer(dict.fromkeys(DIRECTIONS, allowed), (Finding(
            "static procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
            f"{'Regular' if regular else 'Irregular'} building, {said(h)}, zone {zone}: "
            + ("the equivalent static method may be used." if allowed else "a dynamic analysis is "
                                                                           "required and "
                                                                           "governs."), clause),
            *(common.gross_stiffness(self.job.facts, "6.4.3.1")
              if self.edition == "2016" else ()),
            *([claim] if claim else [])))

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """0.004 of the story height under the design forces (7.11.1).

        0.002 where offsets ask for it (2016: out of plane in zones III to V, in plane in zone II).
        """
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    self.job.systems[direction].working)
        late, zone = self.edition == "2016", self.job.site.category
        out = late and "H4" in irregular and zone != "II"
        within = late and "V4" in irregular and zone == "II"
        found = w.pick("a", first(
            Candidate("out-of-plane offset", "0.002", "0.2 % with an out-of-plane offset in zones "
                      "III to V; taken for every story", "Table 5", out),
            Candidate("in-plane offset", "0.002", "0.2 % with an in-plane discontinuity in zone II;"
                      " taken for every story", "Table 6", within),
            Candidate("usual", "0.004", clause="7.11.1")), within=(0.0, 0.1),
            meaning="allowable drift over story height, under design forces")
        return DriftLimit(found.value, found.clause, w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """Gravity moment over story moment, for information: the standard sets no limit."""
        w = common.second_order(facts, ("P", "Delta", "V", "h_s"), SILENT,
                                {"Delta": "story drift under design forces"})
        theta = w.compute_all("theta", "P * Delta / (V * h_s)",
                              meaning="gravity moment over story moment", clause=SILENT)
        return StabilityAnswer(theta, None, None, None, np.ones_like(theta), "", w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer:
        """R times the displacements under design forces; half where floors meet (7.11.3)."""
        w = common.separation_working(gap, self.job.systems[gap.direction].working)
        clause = "7.11.3"
        w.given("Delta_1", gap.own, "displacement", clause=clause,
                meaning="displacement of this building under design forces")
        if gap.neighbor is not None:
            w.given("Delta_2", gap.neighbor, "displacement", clause=clause, meaning="that of the "
                    "neighbor; where its R differs, in proportion to it")
        both = "R * (Delta_1 + Delta_2)"
        found = w.pick("s", first(
            Candidate("property line", "R * Delta_1", "the standard speaks of two buildings; "
                      "their share is not in it", applies=gap.neighbor is None),
            Candidate("halved", f"{both} / 2", "floors at the same levels",
                      applies=gap.same_floors and self.edition == "2002"),
            Candidate("not halved", both, "floors at the same levels: halving is left out, the "
                      "edition's wording is not certain", applies=gap.same_floors),
            Candidate("other floors", both, "floors at different levels")),
            "displacement", clause=clause, meaning="its own share of the distance"
            if gap.neighbor is None else "least distance to the neighbor")
        return SeparationAnswer(found.value, clause, w.close())

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer:
        """Limit state combinations with earthquake (6.3.1); 2002 also those of plastic design."""
        w = Working(SectionKey("combinations"), "Load combinations", self.job.site.working)
        clause = "6.3.1"
        groups = [("limit state", LIMIT_STATE)]
        steel = any(system_rows(self.edition)[s.row].material == "steel"
                    for s in self.job.systems.values())
        if self.edition == "2002" and steel:
            groups.append(("plastic design of steel", PLASTIC))
        asked = self.edition == "2016" and bool(vertical_asked(self.job.site, irregular))
        up = asked or vertical
        alone = dict.fromkeys(self.job.asked, 1.0)
        patterns = [(name, (x, y, 0.0)) for name, (x, y) in common.quake_patterns(how, alone)]
        if up:
            patterns = THREE if len(alone) == 2 else [
                (f"{factor}{d}{rest}", (x * (d == "X"), x * (d == "Y"), z)) for d in alone
                for factor, rest, x, z in (("", " + 0.3 Z", 1.0, 0.3), ("0.3 ", " + Z", 0.3, 1.0))]
        rows = [
            LoadCombination(kind, f"{name}: {pattern}", dead, live, 0.0, (quake * x, quake * y),
                            "6.3.4.1" if up else clause, quake * z)
            for kind, members in groups for name, dead, live, quake in members
            for pattern, (x, y, z) in patterns
        ]
        w.given("gamma_E", max(max(row.quake) for row in rows), clause=clause,
                meaning="largest factor on the earthquake", replaceable=False)
        return CombinationAnswer(
            tuple(rows), w.close(), "Imposed load is the share that counts as seismic weight, "
            "load by load: table load_shares. "
            + ("Vertical motion joins with 0.3 of the others." if vertical else
               "Vertical motion is asked for here (6.3.3.1) and joins with 0.3 of the others; it "
               "is not analyzed (analysis.vertical_spectrum), so that forces lack it." if asked
               else "Where vertical motion counts, it joins with 0.3 of the others."),
            dict.fromkeys(DIRECTIONS, max(quake for *_, quake in LIMIT_STATE)),
            gravity=(
                LoadCombination("limit state", "1.5 (DL + IL)", 1.5, 1.5, 0.0, (0.0, 0.0), clause),
                *([LoadCombination(groups[1][0], "1.7 (DL + IL)", 1.7, 1.7, 0.0, (0.0, 0.0),
                                   clause)] if len(groups) > 1 else [])))
