"""The room of criteria of one's own: an owner's rules, or a country that is not shipped."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from undatum.errors import Fault, InputError, nearest
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.standards.answers import (
    BaseShearAnswer,
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    Distribution,
    DriftLimit,
    Eccentricity,
    Floats,
    LoadCombination,
    LoadFacts,
    ModalRules,
    PeriodAnswer,
    Purpose,
    ScaleAnswer,
    SeparationAnswer,
    SiteAnswer,
    StabilityAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    VerticalAnswer,
    WeightShare,
)
from undatum.standards.common import quake_patterns, write_second_order
from undatum.standards.contract import Standard
from undatum.standards.own.rules import Rules, SiteInput, SystemInput, read_rules
from undatum.table import Table, column
from undatum.units import STANDARD_GRAVITY
from undatum.working import Working

__all__ = ["OwnCriteria", "Rules", "read_rules"]


class OwnCriteria(Standard):
    """Criteria from a file as answers to the contract; clauses are keys of that file."""

    SiteInput = SiteInput
    SystemInput = SystemInput

    def __init__(self, path: Path) -> None:
        self.rules = read_rules(path)
        self.key = path.name
        self.title = self.rules.title

    def site(self, given: Any) -> SiteAnswer:
        r = self.rules
        name = given.importance or next(iter(r.importance))
        if name not in r.importance:
            raise InputError([Fault("site.importance", f"{name!r} is not in the criteria",
                                    f"choose from: {', '.join(r.importance)}")])
        w = Working("Site parameters and design spectrum", replaced=given.replaced)
        factor = w.given("I", r.importance[name], meaning="importance factor", clause="importance",
                         branch=f"{name}; {r.source}")
        spectrum = r.spectrum.make(r.title, factor)
        return SiteAnswer({"I": factor}, "", name, "", factor, spectrum,
                          f"{r.source}, importance {name} ({factor:g})", given, w.close())

    def system(
        self, direction: Direction, given: Any, site: SiteAnswer, facts: StructureFacts
    ) -> SystemAnswer:
        systems = self.rules.systems
        if given.row not in systems:
            near = nearest(given.row, list(systems))
            raise InputError([Fault(
                f"system.{direction}.row", f"{given.row!r} is not in the criteria",
                (f"did you mean {near!r}? " if near else "") + f"known: {', '.join(systems)}")])
        row = systems[given.row]
        w = Working(f"Lateral system in {direction}", site.working, replaced=given.replaced)
        clause = f"systems.{given.row}"
        divisor = w.given("R", row.divisor, meaning="divisor of elastic forces", clause=clause)
        drift = w.given("C_d", row.drift_factor, meaning="amplification of displacement",
                        clause=clause)
        over = w.given("Omega_0", row.overstrength, meaning="overstrength factor", clause=clause)
        findings: tuple[Finding, ...] = ()
        if row.height_limit is not None:
            over_limit = facts.height > row.height_limit * (1 + 1e-9)
            findings = (Finding(
                "height limit", f"system {direction}",
                Severity.EXCEEDED if over_limit else Severity.OK,
                f"{given.row}: {facts.height:.4g} m against {row.height_limit:.4g} m.", clause,
                "Choose another system." if over_limit else "", facts.height, row.height_limit,
                "length"),)
        return SystemAnswer(direction, given.row, given.row, "", divisor, drift, over, 1.0,
                            w.close(), given, findings)

    def reduced_spectrum(
        self, elastic: Spectrum, site: SiteAnswer, system: SystemAnswer,
        purpose: Purpose = "strength",
    ) -> Spectrum:
        return ScaledSpectrum(f"divided by R = {system.force_divisor:.3g}", elastic,
                              1.0 / system.force_divisor)

    def weight_share(self, load: LoadFacts, given: Any) -> WeightShare:
        return WeightShare(self.rules.weight.get(load.kind, 1.0), "weight", load.kind)

    def gravity_share(self, load: LoadFacts, given: Any) -> tuple[float, str]:
        return 1.0, "stability"

    def period(
        self, system: SystemAnswer, site: SiteAnswer, facts: StructureFacts
    ) -> PeriodAnswer:
        row = self.rules.systems[system.row]
        w = Working(f"Period in {system.direction}", site.working, system.working)
        clause = f"systems.{system.row}"
        w.given("c", row.period_coefficient, meaning="period coefficient, h in m", clause=clause)
        w.given("x", row.period_exponent, meaning="period exponent", clause=clause)
        w.given("h", facts.height, "m", meaning="height from the base", clause=clause)
        approximate = w.compute("T_a", "c * h ** x", "s", meaning="approximate period",
                                clause=clause)
        w.given("C_u", self.rules.period_cap, meaning="limit on the computed period",
                clause="period_cap")
        cap = w.compute("T_max", "C_u * T_a", "s", meaning="upper limit on the computed period",
                        clause="period_cap")
        return PeriodAnswer(approximate, cap, w.close())

    def base_shear(
        self,
        purpose: Purpose,
        site: SiteAnswer,
        system: SystemAnswer,
        period: PeriodAnswer,
        computed_period: float | None,
        facts: StructureFacts,
    ) -> BaseShearAnswer:
        w = Working(f"Base shear in {system.direction} for {purpose}",
                    site.working, system.working, period.working)
        if computed_period is None or not system.given.computed_period:
            t = w.compute("T", "T_a", "s", meaning="period used", clause="period_cap")
        else:
            w.given("T_c", computed_period, "s", meaning="computed period", clause="period_cap")
            formula = "min(T_c, T_max)" if purpose == "strength" else "T_c"
            t = w.compute("T", formula, "s", meaning="period used", clause="period_cap",
                          branch="capped" if purpose == "strength" else "not capped for drift")
        w.given("S_a", float(site.spectrum(t)) / STANDARD_GRAVITY, "g", clause="spectrum",
                meaning="design spectrum at T")
        w.given("W", facts.weight, "force", meaning="seismic weight", clause="weight")
        ordinate = w.compute("C_1", "S_a / R", meaning="reduced ordinate", clause="spectrum")
        least = self.rules.least_base_shear if purpose == "strength" else 0.0
        w.given("C_2", least, meaning="least value", clause="least_base_shear")
        governing = "least value" if least > ordinate else "design spectrum"
        c = w.compute("C", "max(C_1, C_2)", meaning="base shear coefficient",
                      clause="least_base_shear", branch=governing)
        v = w.compute("V", "C * W", "force", meaning="base shear", clause="least_base_shear")
        return BaseShearAnswer(system.direction, purpose, t, c, v, governing, w.close())

    def procedures(
        self, site: SiteAnswer, systems: Sequence[SystemAnswer],
        shears: Sequence[BaseShearAnswer], computed: Sequence[float], facts: StructureFacts,
        irregular: Sequence[str],
    ) -> tuple[Finding, ...]:
        return ()

    def distribution(
        self, system: SystemAnswer, shear: BaseShearAnswer, weights: Sequence[float],
        heights: Sequence[float], shape: Sequence[float],
    ) -> Distribution:
        w = Working(f"Story forces in {shear.direction} for {shear.purpose}", shear.working)
        clause = "height_exponent"
        w.given("k", self.rules.height_exponent, meaning="exponent", clause=clause)
        w.given("w_x", tuple(map(float, weights)), "force", meaning="weight of the level",
                clause=clause)
        w.given("h_x", tuple(map(float, heights)), "length", meaning="height above the base",
                clause=clause)
        forces = w.compute_all("F_x", "V * w_x * h_x ** k / sum(w_x * h_x ** k)", "force",
                               meaning="force at the level", clause=clause)
        return Distribution(forces, w.close())

    def vertical_spectrum(self, site: SiteAnswer) -> VerticalAnswer | None:
        share = self.rules.vertical_share
        if not share:
            return None
        w = Working("Vertical spectrum", site.working)
        share = w.given("c_v", share, meaning="vertical over horizontal", clause="vertical_share")
        return VerticalAnswer(
            ScaledSpectrum(f"{self.title}, vertical", site.spectrum, share), w.close())

    def separation(
        self, site: SiteAnswer, system: SystemAnswer, own: float, neighbor: float | None,
        same_floors: bool,
    ) -> SeparationAnswer | None:
        how, clause = self.rules.separation, "separation"
        if how is None:
            return None
        w = Working("Separation")
        w.given("d_1", own, "displacement", meaning="displacement of this building", clause=clause)
        formula = "d_1"
        if neighbor is not None:
            w.given("d_2", neighbor, "displacement", meaning="that of the neighbor", clause=clause)
            formula = "d_1 + d_2" if how == "sum" else "sqrt(d_1 ** 2 + d_2 ** 2)"
        found = w.compute("s", formula, "displacement", meaning="least distance", clause=clause)
        return SeparationAnswer(found, w.close())

    def load_combinations(
        self, site: SiteAnswer, systems: Mapping[Direction, SystemAnswer],
        irregular: Sequence[str], how: DirectionalCombination,
    ) -> CombinationAnswer | None:
        own = self.rules.combinations
        if not own:
            return None
        w = Working("Load combinations")
        w.given("gamma_E", max(c.earthquake for c in own), clause="combinations",
                meaning="largest factor on the earthquake")
        rows = tuple(
            LoadCombination(c.kind, f"{c.name}: {pattern}", c.dead, c.live, c.snow,
                            (c.earthquake * x, c.earthquake * y), "combinations")
            for c in own for pattern, (x, y) in quake_patterns(how)
        )
        return CombinationAnswer(rows, w.close(), f"As written in {self.key}.")

    def eccentricity(self) -> Eccentricity:
        r = self.rules
        return Eccentricity(r.eccentricity, r.static_eccentricity_factor, "eccentricity")

    def torsion(
        self, direction: Direction, site: SiteAnswer, drift_ratio: float, where: str
    ) -> TorsionAnswer:
        found = Finding("torsion", f"direction {direction}, {where}", Severity.OK,
                        f"Largest over average story drift is {drift_ratio:.3f}; the criteria set "
                        "no limit on it.", "eccentricity")
        return TorsionAnswer("", "", self.rules.eccentricity > 0, False, True, found)

    def modal_rules(self, site: SiteAnswer) -> ModalRules:
        r = self.rules
        return ModalRules(r.mass_target, 0.05, r.modal_combination, r.directional_combination,
                          "mass_target, modal_combination", "directional_combination")

    def force_scale(
        self, system: SystemAnswer, shear: BaseShearAnswer, modal_base_shear: float,
        spectrum: Spectrum,
    ) -> ScaleAnswer:
        return _scale(shear, modal_base_shear, self.rules.force_share, "forces", "force_share")

    def drift_scale(
        self, site: SiteAnswer, system: SystemAnswer, shear: BaseShearAnswer,
        modal_base_shear: float, spectrum: Spectrum,
    ) -> ScaleAnswer:
        return _scale(shear, modal_base_shear, self.rules.drift_share, "drift", "drift_share")

    def drift_structures(self) -> tuple[str, ...]:
        return tuple(self.rules.drift)

    def drift_limit(
        self, site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
        period: float,
    ) -> DriftLimit:
        w = Working(f"Drift limit in {system.direction}", system.working)
        ratio = w.given("a", self.rules.drift[structure], clause="drift", branch=structure,
                        meaning="allowable design drift over story height")
        return DriftLimit(ratio, w.close())

    def stability(
        self, direction: Direction, site: SiteAnswer, system: SystemAnswer,
        gravity: Floats, drift: Floats, shear: Floats, heights: Floats,
    ) -> StabilityAnswer:
        r = self.rules.stability
        w = Working(f"P-Delta in {direction}")
        write_second_order(
            w, ("P", "d", "V", "h_s"), (gravity, drift, shear, heights), "stability",
        )
        theta = w.compute_all("theta", "P * d / (V * h_s)", meaning="stability coefficient",
                              clause="stability")
        factor = np.where(theta > r.negligible, 1.0 / np.maximum(1.0 - theta, 1e-9), 1.0)
        return StabilityAnswer(theta, r.limit, r.negligible, r.amplifiable, factor, "stability",
                               w.close())

    def systems_table(self) -> Table:
        s = self.rules.systems
        return Table(
            "systems", f"{self.title}: lateral systems",
            (column("row", "", list(s)),
             column("divisor", "ratio", [v.divisor for v in s.values()], 3),
             column("drift factor", "ratio", [v.drift_factor for v in s.values()], 3)))


def _scale(
    shear: BaseShearAnswer, modal_base_shear: float, share: float, what: str, clause: str
) -> ScaleAnswer:
    symbol = "s_F" if what == "forces" else "s_D"
    w = Working(f"Scaling of {what} in {shear.direction}", shear.working)
    w.given("c_V", share, meaning="share of the static base shear", clause=clause)
    w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear", clause=clause)
    found = w.compute(symbol, "max(1, c_V * V / V_t)", meaning=f"factor on {what}", clause=clause)
    return ScaleAnswer(found, w.close())
