"""UBC 1997: modal analysis, drift, P-Delta, separation, combinations and procedures."""

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
from undatum.standards.facts import GapFacts, SecondOrderFacts, ShapeFacts
from undatum.standards.terms import DIRECTIONS, Direction, DirectionalCombination, LimitState
from undatum.standards.ubc97.job import UbcJob
from undatum.standards.ubc97.regularity import held_against, judge, near_source_conditions
from undatum.standards.ubc97.system import HIGH
from undatum.table import number_text
from undatum.units import beside_feet, factor
from undatum.working import Candidate, SectionKey, Working, first

_FOOT = factor("ft", "length")


class ModalAnalysis(Dynamics):
    """The dynamic analysis of 1631."""

    def __init__(self, job: UbcJob) -> None:
        self.job = job

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        divisor = self.job.systems[direction].force_divisor
        return ScaledSpectrum(f"divided by R/I = {divisor:.3g}", self.job.spectra[direction],
                              1.0 / divisor)

    def rules(self) -> ModalRules:
        return ModalRules(0.90, 0.05, "CQC", "100/30", "1631.5.2, 1631.5.3", "1633.1")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        """Dynamic base shear not below 90, 80 or 100 % of the static one (1631.5.4).

        A structure in which an irregularity was found takes 100 %, whatever the project states.
        """
        d = shear.direction
        regular = self.job.asked[d].regular and not irregular
        usual = self.job.spectra[d] == self.job.site.spectrum
        w = common.scale_working(shear, shear.working)
        w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
                clause="1631.5.3")
        w.pick("c_V", first(
            Candidate("irregular", "1", "irregular", applies=not regular),
            Candidate("own spectrum", "0.9", "regular, design spectrum of Figure 16-3",
                      applies=usual),
            Candidate("site-specific", "0.8", "regular, site-specific spectrum")),
            meaning="share of the static base shear", clause="1631.5.4", within=(0.0, 1.0))
        return common.scaled_up(w, shear.state, "c_V * V", "1631.5.4", "scaled up", "not scaled")


def gravity(f1: float) -> tuple[LoadCombination, ...]:
    """Without earthquake (1612.2.1, 1612.3.1), for dead, live, snow and roof live load; ``f1`` with
    snow or live load of roofs."""
    return tuple(
        LoadCombination(kind, name, dead, live, snow, (0.0, 0.0), clause, roof=roof)
        for kind, clause, name, dead, live, snow, roof in (
            ("strength", "1612.2.1", "1.4 D", 1.4, 0.0, 0.0, 0.0),
            ("strength", "1612.2.1", "1.2 D + 1.6 L + 0.5 S", 1.2, 1.6, 0.5, 0.0),
            ("strength", "1612.2.1", "1.2 D + 1.6 L + 0.5 Lr", 1.2, 1.6, 0.0, 0.5),
            ("strength", "1612.2.1", "1.2 D + 1.6 S + f1 L", 1.2, f1, 1.6, 0.0),
            ("strength", "1612.2.1", "1.2 D + 1.6 Lr + f1 L", 1.2, f1, 0.0, 1.6),
            ("allowable stress", "1612.3.1", "D", 1.0, 0.0, 0.0, 0.0),
            ("allowable stress", "1612.3.1", "D + L + S", 1.0, 1.0, 1.0, 0.0),
            ("allowable stress", "1612.3.1", "D + L + Lr", 1.0, 1.0, 0.0, 1.0)))


#: Rows of Table 16-N that are light-framed.
LIGHT_FRAMED = ("1.1a", "1.1b", "1.3", "2.2a", "2.2b")


def bars_simplified(job: UbcJob) -> list[str]:
    """Why the simplified static force is not open (1629.8.2): up to three stories of light-framed
    structures, two of others, standard and miscellaneous occupancy."""
    rows = [name for one in job.asked.values() for name in (one.row, *one.with_rows)]
    most = 3 if all(name in LIGHT_FRAMED for name in rows) else 2
    return [text for text, fails in (
        (f"{job.facts.stories} stories are more than {most}", job.facts.stories > most),
        (f"occupancy is {job.site.risk}", job.site.risk not in ("standard", "miscellaneous")),
        ("it is taken in one direction only",
         not all(one.simplified for one in job.asked.values()))) if fails]


class Structure(WholeStructure):
    """What UBC 1997 says of the whole structure."""

    def __init__(self, job: UbcJob) -> None:
        self.job = job

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        return judge(shape, torsion)

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        """Whether the static procedure may be used (1629.8.3).

        A structure in which an irregularity was found is irregular, whatever the project states.
        """
        site, structure = self.job.site, self.job.facts
        feet = structure.height / _FOOT
        regular = all(given.regular for given in self.job.asked.values()) and not regularity.found
        quiet = site.category == "1" or (
            site.category in ("2A", "2B") and site.risk in ("standard", "miscellaneous"))
        allowed = quiet or (
            feet < 240 if regular else feet <= 65 and structure.stories <= 5)
        return ProcedureAnswer(dict.fromkeys(DIRECTIONS, allowed), (Finding(
            "static procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
            f"{'Regular' if regular else 'Irregular'} structure, {number_text(feet)} "
            f"ft{beside_feet(feet * _FOOT)}, "
            f"{structure.stories} stories: the static procedure "
            + ("may be used." if allowed else "may not be used; the dynamic analysis governs."),
            "1629.8.3"),
            *self._simplified(), *common.gross_stiffness(self.job.facts, "1630.1.2"),
            *held_against(self.job.asked, regularity.found),
            *near_source_conditions(self.job, regularity)))

    def _simplified(self) -> tuple[Finding, ...]:
        """Whether the simplified static force is open, where the project takes it."""
        if not any(one.simplified for one in self.job.asked.values()):
            return ()
        failed, stories = bars_simplified(self.job), self.job.facts.stories
        return (Finding(
            "simplified static force", "whole structure",
            Severity.EXCEEDED if failed else Severity.OK,
            f"Not open: {'; '.join(failed)}." if failed else
            f"Open: {stories} stor{'y' if stories == 1 else 'ies'}, occupancy "
            f"{self.job.site.risk}. Drift and P-Delta are not limited (1630.2.3.4).", "1629.8.2",
            "Remove simplified." if failed else ""),)

    @property
    def _freed(self) -> bool:
        """Whether the simplified static force frees from the limits on drift and P-Delta."""
        return all(one.simplified for one in self.job.asked.values()) \
            and not bars_simplified(self.job)

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        """0.025 below 0.7 s, else 0.020 of the story height (1630.10.2)."""
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    self.job.systems[direction].working)
        if self._freed:
            return DriftLimit(None, "1630.2.3.4", w.close(), "the simplified static force is used")
        t = w.given("T", period, "s", meaning="fundamental period", clause="1630.10.2")
        found = w.pick("a", first(Candidate("short", "0.025", "T < 0.7 s", applies=t < 0.7),
                                  Candidate("long", "0.020", "T ≥ 0.7 s")),
                       meaning="allowable drift over story height", clause="1630.10.2",
                       within=(0.0, 0.1))
        return DriftLimit(found.value, "1630.10.2", w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        """Ratio of secondary to primary moment (1630.1.3), from the drift under design forces.

        In zones 3 and 4 nothing need be done where no story drift ratio is above 0.02/R.
        """
        w = common.second_order(
            facts, ("P_x", "Delta_M", "V_x", "h_sx"), "1630.1.3",
            {
                "P_x": "dead, floor live and snow load at and above the story",
                "Delta_M": "maximum inelastic story drift",
            }, self.job.systems[facts.direction].working)
        theta = w.compute_all("theta", "P_x * (Delta_M / C_M) / (V_x * h_sx)",
                              meaning="secondary over primary moment", clause="1630.1.3")
        exempt = "" if not self._freed else \
            "the simplified static force is used (1630.2.3.4)"
        if self.job.site.category in HIGH and not exempt:
            ratio = w.compute_all("r_s", "Delta_M / C_M / h_sx", clause="1630.1.3",
                                  meaning="story drift ratio under design forces")
            most = w.compute("r_P", "0.02 / R", clause="1630.1.3",
                             meaning="up to here P-Delta need not be considered")
            if np.all(ratio <= most * (1 + 1e-9)):
                exempt = f"no story drift ratio is above 0.02/R = {most:.5f}"
        return StabilityAnswer(theta, None, 0.10, 0.10, np.ones_like(theta), "1630.1.3",
                               w.close(), exempt)

    def separation(self, gap: GapFacts) -> SeparationAnswer:
        """Delta_M to the property line, root of the squares to a neighbor (1633.2.11)."""
        w, clause = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working), "1633.2.11"
        w.given("Delta_M1", max(gap.own, 0.01 * gap.height) if self._freed else gap.own,
                "displacement", meaning="maximum inelastic displacement", clause=clause,
                branch="at least 0.01 of the height (1630.2.3.4)" if self._freed else "")
        if gap.neighbor is not None:
            w.given("Delta_M2", gap.neighbor, "displacement", meaning="that of the neighbor",
                    clause=clause)
        found = w.pick("Delta_MT", first(
            Candidate("property line", "Delta_M1", clause=clause, applies=gap.neighbor is None),
            Candidate("squares", "sqrt(Delta_M1 ** 2 + Delta_M2 ** 2)",
                      clause=f"{clause}, Eq. 33-2")),
            "displacement", meaning="least distance to the property line"
            if gap.neighbor is None else "least distance to the neighbor")
        return SeparationAnswer(found.value, found.clause, w.close())

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer:
        """Strength, allowable stress and special combinations (1612)."""
        systems = self.job.systems
        w = Working(SectionKey("combinations"), "Load combinations", self.job.site.working)
        w.compute("e_v", "0.5 * C_a * I", meaning="vertical effect over dead load, for strength",
                  clause="1630.1.1")
        up = w.compute("d_5", "1.2 + e_v", meaning="factor on dead load, 1.2 D + 1.0 E",
                       clause="1612.2.1, Eq. 12-5")
        down = w.compute("d_6", "0.9 - e_v", meaning="factor on dead load, 0.9 D - 1.0 E",
                         clause="1612.2.1, Eq. 12-6")
        stress = w.compute("e_s", "1 / 1.4", meaning="factor on the earthquake, allowable stress",
                           clause="1612.3.1")
        given = self.job.given
        f1 = w.given("f_1", float(given.live_with_earthquake), clause="1612.2.1",
                     meaning="factor on live load with the earthquake", branch="as stated")
        f2 = w.given("f_2", float(given.snow_with_earthquake), clause="1612.2.1",
                     meaning="factor on snow with the earthquake", branch="as stated")
        rho = {d: s.redundancy for d, s in systems.items()}
        over = {d: s.overstrength for d, s in systems.items()}
        m = w.given("m_c", 1.1 if given.concrete_multiplier else 1.0, clause="1612.2.1",
                    meaning="multiplier of strength combinations with earthquake",
                    branch="concrete and masonry" if given.concrete_multiplier else
                    "not asked for")
        table = (
            ("strength", "1.2 D + E + f1 L + f2 S", up, f1, f2, 0.0, 1.0, rho, "1612.2.1"),
            ("strength", "0.9 D - E", down, 0.0, 0.0, 0.0, 1.0, rho, "1612.2.1"),
            ("allowable stress", "D + E/1.4", 1.0, 0.0, 0.0, 0.0, stress, rho, "1612.3.1"),
            ("allowable stress", "0.9 D ± E/1.4", 0.9, 0.0, 0.0, 0.0, stress, rho,
             "1612.3.1"),
            ("allowable stress", "D + 0.75 (L + S + E/1.4)", 1.0, 0.75, 0.75, 0.0,
             0.75 * stress, rho, "1612.3.1"),
            ("allowable stress", "D + 0.75 (L + Lr + E/1.4)", 1.0, 0.75, 0.0, 0.75,
             0.75 * stress, rho, "1612.3.1"),
            ("special", "1.2 D + f1 L + Em", 1.2, f1, 0.0, 0.0, 1.0, over, "1612.4"),
            ("special", "0.9 D ± Em", 0.9, 0.0, 0.0, 0.0, 1.0, over, "1612.4"),
        )
        rows = [
            LoadCombination(kind, f"{name}: {pattern}", k * dead, k * live, k * snow,
                            (k * quake * x, k * quake * y), clause, roof=k * roof)
            for kind, name, dead, live, snow, roof, quake, factors, clause in table
            for k in (m if kind == "strength" else 1.0,)
            for pattern, (x, y) in common.quake_patterns(how, factors)
        ]
        return CombinationAnswer(
            tuple(rows), w.close(), f"f1 = {f1:g} and f2 = {f2:g} as stated in the site; f1 may "
            "be 0.5 outside assembly, garages and live load above 100 psf, f2 0.2 on roofs that "
            "shed snow. Vertical effect is zero for allowable stress. The multiplier for concrete "
            "and masonry is " + ("in the factors for strength." if m > 1 else
                                "not in the factors."),
            {d: m * s.redundancy for d, s in systems.items()}, gravity=gravity(f1),
            vertical_in_dead=True)
