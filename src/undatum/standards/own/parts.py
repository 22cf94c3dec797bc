"""The parts of criteria of one's own; clauses are keys of their file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.standards import common
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    Distribution,
    DriftLimit,
    Eccentricity,
    LoadCombination,
    ModalRules,
    PeriodAnswer,
    ProcedureAnswer,
    RegularityAnswer,
    ScaleAnswer,
    SeparationAnswer,
    SiteAnswer,
    StabilityAnswer,
    TorsionAnswer,
    VerticalAnswer,
    WeightShare,
)
from undatum.standards.contract import (
    Dynamics,
    Ground,
    Job,
    LateralForces,
    WeightRule,
    WholeStructure,
    torsion_only,
)
from undatum.standards.facts import (
    GapFacts,
    LoadFacts,
    SecondOrderFacts,
    ShapeFacts,
    StaticLevels,
    TorsionFacts,
)
from undatum.standards.own.rules import Rules, SiteInput, SystemInput
from undatum.standards.terms import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    LimitState,
    Method,
)
from undatum.units import STANDARD_GRAVITY
from undatum.working import Candidate, SectionKey, Working, first, largest, smallest

OwnJob = Job[SiteInput, SystemInput]


class OwnGround(Ground):
    """Importance and spectrum of the criteria."""

    def __init__(self, given: SiteInput, rules: Rules) -> None:
        self.given, self.rules = given, rules

    def site(self) -> SiteAnswer:
        r, given = self.rules, self.given
        name = given.importance or next(iter(r.importance))
        if name not in r.importance:
            raise InputError([Fault("site.importance", f"{name!r} is not in the criteria",
                                    f"choose from: {', '.join(r.importance)}")])
        w = Working(SectionKey("site"), "Site parameters and design spectrum",
                    replaced=given.replaced("site"))
        factor = w.given("I", r.importance[name], meaning="importance factor", clause="importance",
                         branch=f"{name}; {r.source}")
        spectrum = r.spectrum.make(r.title, factor)
        return SiteAnswer({"I": factor}, "", name, "", factor, spectrum,
                          f"{r.source}, importance {name} ({factor:g})", w.close())

    def vertical(self, site: SiteAnswer) -> VerticalAnswer | None:
        if not self.rules.vertical_share:
            return None
        w = Working(SectionKey("vertical spectrum"), "Vertical spectrum", site.working)
        share = w.given("c_v", self.rules.vertical_share, meaning="vertical over horizontal",
                        clause="vertical_share")
        return VerticalAnswer(
            ScaledSpectrum(f"{self.rules.title}, vertical", site.spectrum, share), w.close())


class OwnWeight(WeightRule):
    """Shares by kind of load."""

    def __init__(self, rules: Rules) -> None:
        self.rules = rules

    def share(self, load: LoadFacts) -> WeightShare:
        return WeightShare(self.rules.weight.get(load.kind, 1.0), "weight", load.kind)

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        return 1.0, "stability"


class Forces(LateralForces):
    """The static procedure of the criteria."""

    def __init__(self, job: OwnJob, rules: Rules) -> None:
        self.job, self.rules = job, rules

    def period(self, direction: Direction) -> PeriodAnswer:
        name = self.job.asked[direction].row
        row, clause = self.rules.systems[name], f"systems.{name}"
        w = Working(SectionKey("period", direction), f"Period in {direction}",
                    self.job.site.working, self.job.systems[direction].working)
        w.given("c", row.period_coefficient, meaning="period coefficient, h in m", clause=clause)
        w.given("x", row.period_exponent, meaning="period exponent", clause=clause)
        w.given("h", self.job.facts.height, "m", meaning="height from the base", clause=clause)
        approximate = w.compute("T_a", "c * h ** x", "s", meaning="approximate period",
                                clause=clause, empirical=True)
        w.given("C_u", self.rules.period_cap, meaning="limit on the computed period",
                clause="period_cap")
        cap = w.compute("T_max", f"C_u * {w.by_standard('T_a')}", "s", clause="period_cap",
                        meaning="upper limit on the computed period", cap="T_max")
        return PeriodAnswer(approximate, cap, w.close())

    def base_shear(
        self, direction: Direction, state: LimitState, period: PeriodAnswer, computed: float | None
    ) -> BaseShearAnswer:
        job, forces = self.job, state.role == "forces"
        w = common.shear_working(direction, state, job.site.working,
                                 job.systems[direction].working, period.working)
        if computed is None or not job.asked[direction].computed_period:
            t = w.pick("T", smallest(
                Candidate("approximate", "T_a", "approximate period"),
                Candidate("capped", "T_max", "capped", applies=w.value("T_a") > w.value("T_max"))),
                "s", meaning="period used", clause="period_cap", cap="T_max").value
        else:
            w.given("T_c", computed, "s", meaning="computed period", clause="period_cap")
            candidates = [Candidate("computed", "T_c",
                                    "computed" if forces else "not capped for drift")]
            if forces:
                candidates.append(Candidate("capped", "T_max", "capped"))
            t = w.pick("T", smallest(*candidates), "s", meaning="period used",
                       clause="period_cap", cap="T_max" if forces else "").value
        w.given("S_a", float(job.spectra[direction](t)) / STANDARD_GRAVITY, "g", clause="spectrum",
                meaning="design spectrum at T")
        w.given("W", job.facts.weight, "force", meaning="seismic weight", clause="weight")
        w.compute("C_1", "S_a / R", meaning="reduced ordinate", clause="spectrum")
        least = self.rules.least_base_shear if forces else 0.0
        w.given("C_2", least, meaning="least value", clause="least_base_shear")
        c = w.pick("C", largest(Candidate("spectrum", "C_1", "design spectrum"),
                                Candidate("least", "C_2", "least value")),
                   meaning="base shear coefficient", clause="least_base_shear")
        v = w.compute("V", "C * W", "force", meaning="base shear", clause="least_base_shear")
        return BaseShearAnswer(direction, state, t, c.value, v, w.value("W"), c.key, c.words,
                               c.clause, w.close(), w.close()["T"].branch)

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        w, clause = common.forces_working(shear), "height_exponent"
        w.given("k", self.rules.height_exponent, meaning="exponent", clause=clause)
        common.level_lines(w, levels, "w_x", "h_x", (clause, clause))
        forces = w.compute_all("F_x", "V * w_x * h_x ** k / sum(w_x * h_x ** k)", "force",
                               meaning="force at the level", clause=clause)
        return Distribution(forces, w.close())

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        """The factor on the distance of mass and rigidity holds in the static analysis."""
        r = self.rules
        static = method == "static" and torsion is not None
        return Eccentricity(r.eccentricity, r.static_eccentricity_factor if static else 1.0,
                            "eccentricity")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        ratio, level = facts.worst
        found = Finding("torsion", f"direction {direction}, story {level}", Severity.OK,
                        f"Largest over average story drift is {ratio:.3f}; the criteria set "
                        "no limit on it.", "eccentricity")
        return TorsionAnswer("", "", self.rules.eccentricity > 0, False, True, found,
                             "the criteria name no place")


class ModalAnalysis(Dynamics):
    """Modal analysis and scaling by the criteria."""

    def __init__(self, job: OwnJob, rules: Rules) -> None:
        self.job, self._rules = job, rules

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        divisor = self.job.systems[direction].force_divisor
        return ScaledSpectrum(f"divided by R = {divisor:.3g}", self.job.spectra[direction],
                              1.0 / divisor)

    def rules(self) -> ModalRules:
        r = self._rules
        return ModalRules(r.mass_target, 0.05, r.modal_combination, r.directional_combination,
                          "mass_target, modal_combination", "directional_combination")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        r, forces = self._rules, shear.state.role == "forces"
        share, clause = (r.force_share, "force_share") if forces else (r.drift_share, "drift_share")
        w = common.scale_working(shear, shear.working)
        w.given("c_V", share, meaning="share of the static base shear", clause=clause)
        w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
                clause=clause)
        return common.scaled_up(w, shear.state, "c_V * V", clause, "scaled up", "not scaled")


class Structure(WholeStructure):
    """What the criteria say of the whole structure."""

    def __init__(self, job: OwnJob, rules: Rules, key: str) -> None:
        self.job, self.rules, self.key = job, rules, key

    def irregularities(
        self, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
    ) -> RegularityAnswer:
        return torsion_only(self.rules.title)

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        return ProcedureAnswer({}, ())

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    self.job.systems[direction].working)
        row = structure or next(iter(self.rules.drift))
        ratio = w.given("a", self.rules.drift[row], clause="drift", branch=row,
                        meaning="allowable design drift over story height", within=(0.0, 0.2))
        return DriftLimit(ratio, "drift", w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        r = self.rules.stability
        w = common.second_order(facts, ("P", "d", "V", "h_s"), "stability")
        theta = w.compute_all("theta", "P * d / (V * h_s)", meaning="stability coefficient",
                              clause="stability")
        factor = common.second_order_factor(theta, r.negligible, r.limit)
        return StabilityAnswer(theta, r.limit, r.negligible, r.amplifiable, factor, "stability",
                               w.close())

    def separation(self, gap: GapFacts) -> SeparationAnswer | None:
        how, clause = self.rules.separation, "separation"
        if how is None:
            return None
        w = common.separation_working(
            gap, self.job.site.working, self.job.systems[gap.direction].working)
        w.given("d_1", gap.own, "displacement", meaning="displacement of this building",
                clause=clause)
        if gap.neighbor is not None:
            w.given("d_2", gap.neighbor, "displacement", meaning="that of the neighbor",
                    clause=clause)
        found = w.pick("s", first(
            Candidate("property line", "d_1", applies=gap.neighbor is None),
            Candidate("sum", "d_1 + d_2", applies=how == "sum"),
            Candidate("squares", "sqrt(d_1 ** 2 + d_2 ** 2)")),
            "displacement", meaning="least distance", clause=clause)
        return SeparationAnswer(found.value, clause, w.close())

    def combinations(
        self, how: DirectionalCombination, irregular: Sequence[str], vertical: bool = False
    ) -> CombinationAnswer | None:
        own = self.rules.combinations
        if not own:
            return None
        w = Working(SectionKey("combinations"), "Load combinations", self.job.site.working)
        w.given("gamma_E", max(c.earthquake for c in own), clause="combinations",
                meaning="largest factor on the earthquake", replaceable=False)
        alone = dict.fromkeys(self.job.asked, 1.0)
        patterns = common.three_patterns(how, alone) if vertical else [
            (name, (*quake, 0.0)) for name, quake in common.quake_patterns(how, alone)]
        rows = tuple(
            LoadCombination(c.kind, f"{c.name}: {pattern}", c.dead, c.live, c.snow,
                            (c.earthquake * x, c.earthquake * y), "combinations",
                            c.earthquake * z)
            for c in own for pattern, (x, y, z) in patterns
        )
        most = max(c.earthquake for c in own)
        return CombinationAnswer(rows, w.close(), f"As written in {self.key}.",
                                 dict.fromkeys(DIRECTIONS, most))
