"""The parts of criteria of one's own; clauses are keys of their file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from undatum.errors import Fault, InputError
from undatum.expression import FormulaError
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.record import FixedDict
from undatum.standards import common, irregular
from undatum.standards.answers import (
    Amplification,
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
    LateralForces,
    WeightRule,
    WholeStructure,
    torsion_only,
)
from undatum.standards.facts import (
    Bools,
    Floats,
    GapFacts,
    LoadFacts,
    SecondOrderFacts,
    ShapeFacts,
    StaticLevels,
    TorsionFacts,
)
from undatum.standards.own.formulas import Branch, ForcesRule, TorsionRule
from undatum.standards.own.hazards import DividedSpectrum, OwnJob, hazard
from undatum.standards.own.rules import Rules, SiteInput
from undatum.standards.terms import (
    DIRECTIONS,
    Direction,
    DirectionalCombination,
    LimitState,
    Method,
)
from undatum.units import STANDARD_GRAVITY, said
from undatum.working import Candidate, SectionKey, Working, first, largest, smallest


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
        for symbol, value in r.values.items():
            w.given(symbol, value, meaning="value of the criteria", clause=f"values.{symbol}")
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
        rule = self.rules.weight.get(load.kind, 1.0)
        if isinstance(rule, float):
            return WeightShare(rule, "weight", load.kind)
        if load.on_roof and rule.on_roof is not None:
            return WeightShare(rule.on_roof, "weight", f"{load.kind} on the roof")
        counts = rule.above is None or load.intensity is None \
            or load.intensity > rule.above * (1 + 1e-9)
        said_ = "" if rule.above is None else \
            f" {'above' if counts else 'up to'} {said(rule.above, 'area load')}"
        return WeightShare(rule.share if counts else rule.otherwise, "weight",
                           f"{load.kind}{said_}", rule.least or 0.0)

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
            t = common.uncomputed_period(
                w, "T", "T_a", "period_cap", ("approximate period", "capped"))
        else:
            w.given("T_c", computed, "s", meaning="computed period", clause="period_cap")
            candidates = [Candidate("computed", "T_c",
                                    "computed" if forces else "not capped for drift")]
            if forces:
                candidates.append(Candidate("capped", "T_max", "capped"))
            t = w.pick("T", smallest(*candidates), "s", meaning="period used",
                       clause="period_cap", cap="T_max" if forces else "").value
        further = self.rules.limit_states.get(state.key)
        clause = "spectrum" if further is None else f"limit_states.{state.key}"
        w.given("S_a", float(hazard(job, self.rules, direction, state)(t)) / STANDARD_GRAVITY, "g",
                clause=clause, meaning="design spectrum at T" if further is None else
                f"spectrum of {state.key} at T")
        w.given("W", job.facts.weight, "force", meaning="seismic weight", clause="weight")
        row = self.rules.systems[job.asked[direction].row]
        by_period = None if further is not None else row.divisor_by_period
        if by_period is not None:
            checked(w, "R_T", by_period, "divisor of elastic forces at T",
                    f"systems.{job.asked[direction].row}", "divisor_by_period")
        if self.rules.forces is not None and further is None:
            if by_period is None:
                w.compute("R_T", "R", meaning="divisor of elastic forces at T", clause=clause)
            return self._by_formulas(w, self.rules.forces, direction, state, t)
        if further is not None:
            w.given("R_s", further.divisor, clause=clause, meaning="divisor of elastic forces")
        divisor = "R_s" if further is not None else "R" if by_period is None else "R_T"
        w.compute("C_1", f"S_a / {divisor}", meaning="reduced ordinate", clause=clause)
        least = self.rules.least_base_shear if forces else 0.0
        w.given("C_2", least, meaning="least value", clause="least_base_shear")
        c = w.pick("C", largest(Candidate("spectrum", "C_1", "design spectrum"),
                                Candidate("least", "C_2", "least value")),
                   meaning="base shear coefficient", clause="least_base_shear")
        v = w.compute("V", "C * W", "force", meaning="base shear", clause="least_base_shear")
        return common.base_shear(w, direction, state, c, v)

    def _by_formulas(
        self, w: Working, rule: ForcesRule, direction: Direction, state: LimitState, t: float
    ) -> BaseShearAnswer:
        """The smallest of the branches, and not below the largest of the least values."""
        w.given("N", float(self.job.facts.stories), meaning="stories above the base",
                clause="forces")

        def made(word: str, branches: Sequence[Branch]) -> list[Candidate]:
            found = []
            for i, one in enumerate(branches):
                if not one.holds(state.role):
                    continue
                place = f"forces.{word}[{i}]"
                value = checked(w, f"C_{word[0]}{i + 1}", one.coefficient, one.name,
                                one.clause or place, f"{place}.coefficient")
                found.append(Candidate(one.name, value, one.name, one.clause or place))
            return found

        branches, least = made("branches", rule.branches), made("least", rule.least)
        if not branches:
            raise InputError([Fault("forces.branches", f"has none for {state.key}",
                                    "give one for both limit states")])
        c = w.pick("C", largest(smallest(*branches), *least), meaning="base shear coefficient",
                   clause="forces")
        v = w.compute("V", "C * W", "force", meaning="base shear", clause="forces")
        return common.base_shear(w, direction, state, c, v)

    def distribution(self, shear: BaseShearAnswer, levels: StaticLevels) -> Distribution:
        r, clause = self.rules, "height_exponent"
        w = common.forces_working(shear)
        if isinstance(r.height_exponent, str):
            checked(w, "k", r.height_exponent, "exponent", clause, clause)
        else:
            w.given("k", r.height_exponent, meaning="exponent", clause=clause)
        common.level_lines(w, levels, "w_x", "h_x", (clause, clause))
        top = r.forces.top if r.forces is not None else None
        if r.forces is None or top is None:
            forces = w.compute_all("F_x", "V * w_x * h_x ** k / sum(w_x * h_x ** k)", "force",
                                   meaning="force at the level", clause=clause)
            return Distribution(forces, w.close())
        late = r.forces.top_above is None or shear.period > r.forces.top_above
        if late:
            checked(w, "f_t", top, "share of the base shear at the top", "forces.top",
                    "forces.top", most=1.0)
        else:
            w.given("f_t", 0.0, meaning="share of the base shear at the top", clause="forces.top",
                    branch=f"T up to {r.forces.top_above:g} s")
        common.top_line(w, levels, "t_x", "forces.top")
        forces = w.compute_all(
            "F_x", "f_t * V * t_x + (1 - f_t) * V * w_x * h_x ** k / sum(w_x * h_x ** k)", "force",
            meaning="force at the level", clause=clause)
        return Distribution(forces, w.close())

    def diaphragms(
        self, distribution: Distribution, weights: Floats, carried: Bools
    ) -> Distribution | None:
        rule = self.rules.diaphragms
        if rule is None:
            return None
        return common.diaphragm_forces(
            self.job.site, distribution, weights, carried, f"({rule.least})", f"({rule.most})",
            "diaphragms", "diaphragms")

    def eccentricity(self, method: Method, torsion: TorsionAnswer | None = None) -> Eccentricity:
        """The factor on the distance of mass and rigidity holds in the static analysis."""
        r = self.rules
        static = method == "static" and torsion is not None
        return Eccentricity(r.eccentricity, r.static_eccentricity_factor if static else 1.0,
                            "eccentricity")

    def torsion(self, direction: Direction, facts: TorsionFacts) -> TorsionAnswer:
        ratio, level = facts.worst
        rule = self.rules.torsion
        if rule is not None:
            return self._judged(rule, direction, ratio, level)
        found = Finding("torsion", f"direction {direction}, story {level}", Severity.OK,
                        f"Largest over average story drift is {ratio:.3f}; the criteria set "
                        "no limit on it.", "eccentricity")
        return TorsionAnswer("", "", self.rules.eccentricity > 0, False, True, found,
                             "the criteria name no place")

    def _judged(
        self, rule: TorsionRule, direction: Direction, ratio: float, level: str
    ) -> TorsionAnswer:
        irregular = ratio > rule.irregular
        amplify = irregular and rule.amplified
        found = Finding(
            "torsional irregularity", f"direction {direction}, story {level}",
            Severity.WARNING if irregular else Severity.OK,
            f"Largest over average story drift is {ratio:.3f}, "
            + (f"above {rule.irregular:g}" + (": accidental torsion is amplified." if amplify
                                              else ".")
               if irregular else f"not above {rule.irregular:g}."), "torsion",
            "Move stiffness towards the side that drifts most." if irregular else "", ratio,
            rule.irregular)
        return TorsionAnswer("1" if irregular else "", "torsional irregularity",
                             self.rules.eccentricity > 0, amplify, True, found,
                             "the criteria name no place")

    def torsion_of_structure(
        self, answers: Mapping[Direction, TorsionAnswer]
    ) -> Mapping[Direction, TorsionAnswer]:
        rule = self.rules.torsion
        return answers if rule is None or not rule.everywhere else \
            common.torsion_everywhere(answers, "torsion")

    def amplification(
        self, direction: Direction, largest: Floats, average: Floats
    ) -> Amplification:
        return common.torsion_amplification(direction, largest, average, "torsion", "torsion")


def checked(
    w: Working, symbol: str, formula: str, meaning: str, clause: str, place: str,
    most: float = np.inf,
) -> str:
    """Work out a formula of the criteria; the symbol it has then. Raises InputError where it gives
    no number from zero up."""
    try:
        value = w.compute(symbol, formula, meaning=meaning, clause=clause, empirical=True)
    except InputError as error:
        raise InputError([Fault(place, f"{formula!r} can't be worked out: "
                                f"{error.faults[0].place}: {error.faults[0].message}",
                                "mend the formula in the criteria")]) from None
    except FormulaError as error:
        raise InputError([Fault(place, str(error), "mend the formula in the criteria")]) from None
    if not (np.isreal(value) and np.isfinite(value) and 0 <= value <= most):
        raise InputError([Fault(place, f"{formula!r} gives {value}, which is no coefficient"
                                + (f" up to {most:g}" if np.isfinite(most) else ""),
                                "mend the formula in the criteria")])
    return symbol


class ModalAnalysis(Dynamics):
    """Modal analysis and scaling by the criteria."""

    def __init__(self, job: OwnJob, rules: Rules) -> None:
        self.job, self._rules = job, rules

    def reduced(self, direction: Direction, state: LimitState) -> Spectrum:
        base, row = hazard(self.job, self._rules, direction, state), self.job.asked[direction].row
        further, by_period = self._rules.limit_states.get(state.key), \
            self._rules.systems[row].divisor_by_period
        if further is None and by_period is not None:
            site, system = self.job.site.working, self.job.systems[direction].working
            values = {name: site[name].value for name in ("I", *self._rules.values)}
            return DividedSpectrum(
                f"divided by {by_period}", base, by_period,
                FixedDict({**values, "R": system["R"].value, "h": self.job.facts.height}))
        divisor = self.job.systems[direction].force_divisor if further is None else further.divisor
        return ScaledSpectrum(f"divided by R = {divisor:.3g}", base, 1.0 / divisor)

    def displacement_factor(self, direction: Direction, state: LimitState) -> float:
        further = self._rules.limit_states.get(state.key)
        return super().displacement_factor(direction, state) if further is None else \
            further.drift_factor

    def rules(self) -> ModalRules:
        r = self._rules
        return ModalRules(r.mass_target, 0.05, r.modal_combination, r.directional_combination,
                          "mass_target, modal_combination", "directional_combination")

    def scale(
        self, shear: BaseShearAnswer, modal_base_shear: float, irregular: Sequence[str]
    ) -> ScaleAnswer:
        r, forces = self._rules, shear.state.role == "forces"
        share, clause = (r.force_share, "force_share") if forces else (r.drift_share, "drift_share")
        if shear.state.key in r.limit_states:
            share, clause = 0.0, f"limit_states.{shear.state.key}"
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
        rule, kinds = self.rules.regularity, {"H1" for t in torsion.values() if t.kind}
        if rule is None:
            only = torsion_only(self.rules.title)
            return replace(only, found=tuple(sorted(kinds)))
        more, unjudged, findings = irregular.judge(
            shape, rule.limits(), irregular.drift_exempt(shape) if rule.spared_by_drift else "")
        return RegularityAnswer(tuple(sorted(kinds | more)), tuple(sorted(unjudged)),
                                tuple(findings))

    def procedures(
        self, shears: Mapping[Direction, BaseShearAnswer],
        periods: Mapping[Direction, PeriodAnswer], computed: Mapping[Direction, float],
        regularity: RegularityAnswer,
    ) -> ProcedureAnswer:
        rule, facts = self.rules.procedures, self.job.facts
        if rule is None:
            return ProcedureAnswer({}, ())
        regular = not regularity.found
        bounds = [("height", facts.height, rule.regular_height, False)] if regular else [
            ("height", facts.height, rule.irregular_height, True),
            ("stories", float(facts.stories), rule.irregular_stories, True)]
        allowed = all(most is None or (own <= most * (1 + 1e-9) if closed else own < most)
                      for _, own, most, closed in bounds)
        text = "; ".join(
            f"{name} {said(own) if name == 'height' else f'{own:g}'} against "
            f"{said(most) if name == 'height' else f'{most:g}'}"
            for name, own, most, _ in bounds if most is not None) or "no bound"
        return ProcedureAnswer(dict.fromkeys(self.job.asked, allowed), (Finding(
            "static procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
            f"{'Regular' if regular else 'Irregular'} structure, {text}: the static procedure "
            + ("may be used." if allowed else "may not be used; the dynamic analysis governs."),
            "procedures"),))

    def drift_limit(
        self, direction: Direction, state: LimitState, structure: str | None, period: float,
        irregular: Sequence[str] = (),
    ) -> DriftLimit:
        w = Working(SectionKey("drift limit", direction, state.key), f"Drift limit in {direction}",
                    self.job.systems[direction].working)
        row = structure or next(iter(self.rules.drift))
        rule = self.rules.drift[row]
        if (further := self.rules.limit_states.get(state.key)) is not None:
            clause = f"limit_states.{state.key}.drift"
            ratio = w.given(
                "a", further.drift if isinstance(further.drift, float) else further.drift[row],
                clause=clause, branch=row, within=(0.0, 0.2),
                meaning=f"allowable drift over story height, {state.key}")
            return DriftLimit(ratio, clause, w.close())
        if isinstance(rule, float):
            ratio = w.given("a", rule, clause="drift", branch=row,
                            meaning="allowable design drift over story height", within=(0.0, 0.2))
            return DriftLimit(ratio, "drift", w.close())
        w.given("T", period, "s", meaning="period of the static forces", clause="drift")
        ratio = w.pick("a", first(*(
            Candidate(f"step {i + 1}", f"{step.ratio:g}", f"T < {step.below_period:g} s"
                      if step.below_period is not None else "all other periods",
                      applies=step.below_period is None or period < step.below_period)
            for i, step in enumerate(rule))),
            meaning="allowable design drift over story height", clause="drift",
            within=(0.0, 0.2)).value
        return DriftLimit(ratio, "drift", w.close())

    def stability(self, facts: SecondOrderFacts) -> StabilityAnswer:
        r = self.rules.stability
        w = common.second_order(facts, ("P", "d", "V", "h_s"), "stability", None,
                                self.job.systems[facts.direction].working)
        further = self.rules.limit_states.get(facts.state.key)
        if further is not None:
            w.given("C_d", further.drift_factor, meaning="amplification of displacement",
                    clause=f"limit_states.{facts.state.key}")
        theta = w.compute_all("theta", "P * (d / C_d) / (V * h_s)" if r.reduced else
                              "P * d / (V * h_s)", meaning="stability coefficient",
                              clause="stability")
        factor = common.second_order_factor(theta, r.negligible, r.limit or np.inf) \
            if r.amplifiable > r.negligible else np.ones_like(theta)
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
        alone = {d: s.redundancy for d, s in self.job.systems.items()}
        patterns = common.three_patterns(how, alone) if vertical else [
            (name, (*quake, 0.0)) for name, quake in common.quake_patterns(how, alone)]
        dead = [w.value(checked(w, f"d_{i + 1}", c.dead, f"factor on dead load, {c.name}",
                                "combinations", f"combinations[{i}].dead"))
                if isinstance(c.dead, str) else c.dead for i, c in enumerate(own)]
        rows = tuple(
            LoadCombination(c.kind, f"{c.name}: {pattern}", factor, c.live, c.snow,
                            (c.earthquake * x, c.earthquake * y), "combinations",
                            c.earthquake * z)
            for c, factor in zip(own, dead, strict=True) for pattern, (x, y, z) in patterns
        )
        most = max(c.earthquake for c in own)
        return CombinationAnswer(rows, w.close(), f"As written in {self.key}.",
                                 {d: most * alone.get(d, 1.0) for d in DIRECTIONS})
