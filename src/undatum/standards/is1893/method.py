"""IS 1893 (Part 1): weight, period, base shear, eccentricity, scaling, drift."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import nearest
from undatum.finding import Finding, Severity
from undatum.standards.answers import (
    Asked,
    BaseShearAnswer,
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    Distribution,
    DriftLimit,
    Floats,
    LoadCombination,
    LoadFacts,
    PeriodAnswer,
    Purpose,
    ScaleAnswer,
    SeparationAnswer,
    SiteAnswer,
    StabilityAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.standards.common import quake_patterns, write_second_order
from undatum.standards.is1893.regularity import held_against
from undatum.standards.is1893.site import facts
from undatum.table import Table, column
from undatum.units import Period
from undatum.working import Working


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for IS 1893 (Part 1)."""

    row: str = Field(description='Lateral system of the table of R, such as "RC SMRF"')
    regular: bool = Field(description="Regular building, for the choice of procedure")
    infilled: bool = Field(
        False, description="Moment frame with masonry infill: period by the formula of the others"
    )
    period: Period | None = Field(
        None, description="Approximate period of one's own, such as by the wall formula"
    )
    reason: str = Field("", description="Where a period of one's own comes from")

    @model_validator(mode="after")
    def _reason(self) -> SystemInput:
        if self.period is not None and not self.reason:
            raise PydanticCustomError("reason", "a period of one's own needs its reason")
        known = {**facts()["R_2016"], **facts()["R_2002"]}
        if self.row not in known:
            near = nearest(self.row, list(known))
            raise PydanticCustomError(
                "system_row", "{row} is not in the table of R{hint}",
                {"row": repr(self.row), "hint": f"; did you mean {near!r}?" if near else ""})
        return self


def system(
    direction: Direction, given: SystemInput, site: SiteAnswer, edition: str
) -> SystemAnswer:
    """Response reduction factor R; displacements are not amplified for drift."""
    table = facts()[f"R_{edition}"]
    findings: tuple[Finding, ...] = ()
    clause = "7.2.6, Table 9" if edition == "2016" else "6.4.2, Table 7"
    if given.row not in table:
        from undatum.errors import Fault, InputError

        raise InputError([Fault(f"system.{direction}.row",
                                f"{given.row!r} is not in the table of R of {edition}",
                                f"choose from: {', '.join(table)}")])
    w = Working(f"Lateral system in {direction}", site.working, replaced=given.replaced)
    r = w.given("R", table[given.row][0], meaning="response reduction factor", clause=clause,
                branch=given.row)
    divisor = w.compute("R_I", "R / I", meaning="divisor of elastic forces", clause="6.4.2")
    if "OMRF" in given.row or "ordinary" in given.row:
        findings = (Finding(
            "ordinary system", f"system {direction}", Severity.NOTE,
            f"{given.row}: ordinary systems are barred from the higher zones; which ones is not "
            "checked here.", clause, "Check the notes to the table of R."),)
    if edition == "2016" and not given.row.startswith("steel"):
        findings = (*findings, Finding(
            "stiffness reduction", f"system {direction}", Severity.NOTE,
            "Concrete and masonry frames are analyzed with 0.70 of the gross second moment of "
            "area of columns and 0.35 of that of beams; for walls the clause has no number. The "
            "stiffness given is taken as reduced.", "6.4.3.1"))
    return SystemAnswer(direction, given.row, given.row, "", divisor, 1.0, r, 1.0, w.close(),
                        given, findings)


def weight_share(load: LoadFacts, edition: str) -> WeightShare:
    """Seismic weight: dead load and a share of the imposed load by its intensity (7.3, 7.4)."""
    if load.kind in {"dead", "cladding", "partition", "equipment", "roof garden"}:
        return WeightShare(1.0, "7.4", "dead load")
    if load.kind == "snow":
        if edition == "2016" and (load.intensity is None or load.intensity > 1.5e3 * (1 + 1e-9)):
            return WeightShare(0.2, "7.3", "20 % of snow above 1.5 kN/m2 (check against the print)")
        return WeightShare(0.0, "7.3", "snow does not count here")
    if load.on_roof:
        return WeightShare(0.0, "7.3.2", "imposed load on the roof does not count")
    table = "7.3.1, Table 10" if edition == "2016" else "7.3.1, Table 8"
    if load.intensity is not None and load.intensity <= 3.0e3 * (1 + 1e-9):
        return WeightShare(0.25, table, "25 % of imposed load up to 3 kN/m2")
    return WeightShare(0.50, table, "50 % of imposed load above 3 kN/m2")


def period(
    system: SystemAnswer, site: SiteAnswer, structure: StructureFacts, edition: str
) -> PeriodAnswer:
    """Ta: c h^0.75 for bare moment frames, 0.09 h/sqrt(d) for all others. It is always used."""
    given: SystemInput = system.given
    w = Working(f"Period in {system.direction}", site.working, system.working)
    clause = "7.6.2" if edition == "2016" else "7.6.1, 7.6.2"
    kind = facts()[f"R_{edition}"][system.row][1]
    w.given("h", structure.height, "m", meaning="height of the building", clause=clause)
    if given.period is not None:
        ta = w.given("T_a", given.period, "s", meaning="approximate period", clause=clause,
                     branch=f"project: {given.reason}")
    elif kind != "other" and not given.infilled:
        w.given("c", facts()["period"][kind], meaning=f"coefficient, bare {kind}", clause=clause)
        ta = w.compute("T_a", "c * h ** 0.75", "s", meaning="approximate period", clause=clause)
    else:
        along = structure.plan[0 if system.direction == "X" else 1]
        w.given("d", along, "m", meaning=f"base dimension along {system.direction}", clause=clause)
        ta = w.compute("T_a", "0.09 * h / sqrt(d)", "s", meaning="approximate period",
                       clause=clause)
    return PeriodAnswer(ta, ta, w.close())


def base_shear(
    purpose: Purpose, site: SiteAnswer, system: SystemAnswer, periods: PeriodAnswer,
    structure: StructureFacts, edition: str,
) -> BaseShearAnswer:
    """VB = Ah W with Ta; 2016: the static plateau starts at T = 0 and there is a least value."""
    w = Working(f"Base shear in {system.direction} for {purpose}",
                site.working, system.working, periods.working)
    t, corner = periods.approximate, site.parameters["T_2"]
    clause = "6.4.2" if edition == "2016" else "6.4.5"
    if t < 0.1 and edition == "2002":
        w.compute("S_a", "1 + 15 * T_a", meaning="Sa/g", clause=clause, branch="T ≤ 0.1 s")
        governing = "rising branch"
    elif t <= corner:
        w.given("S_a", 2.5, meaning="Sa/g", clause=clause, branch="plateau")
        governing = "plateau"
    elif t <= 4.0 or edition == "2002":
        site.spectrum(t)  # says so where the edition gives no ordinate
        w.compute("S_a", "a / T_a", meaning="Sa/g", clause=clause, branch="falling branch")
        governing = "falling branch"
    else:
        w.given("S_a", facts()["beyond"][site.site_class], meaning="Sa/g", clause=clause,
                branch="T > 4 s")
        governing = "constant beyond 4 s"
    formula = "Z / 2 * S_a / (R / I)"
    if site.parameters["m"] != 1.0:
        formula += " * m_xi"
    w.compute("A_h", formula, meaning="design horizontal acceleration coefficient", clause="6.4.2")
    ah = w.value("A_h")
    if edition == "2002" and t <= 0.1:
        w.compute("A_h2", "max(A_h, Z / 2)", clause="6.4.2",
                  meaning="not below Z/2 for T up to 0.1 s")
        if w.value("A_h2") > ah:
            governing = "Z/2 for T up to 0.1 s (6.4.2)"
        use = "A_h2"
    else:
        use = "A_h"
    w.given("W", structure.weight, "force", meaning="seismic weight", clause="7.4")
    if edition == "2016":
        least = w.given("rho", facts()["least"][site.category.removeprefix("zone ")],
                        meaning="least base shear over weight", clause="7.2.2, Table 7")
        v = w.compute("V_B", f"max({use}, rho) * W", "force", meaning="design base shear",
                      clause="7.6.1, 7.2.2")
        if least > w.value(use):
            governing = "least value (7.2.2)"
    else:
        v = w.compute("V_B", f"{use} * W", "force", meaning="design base shear", clause="7.5.3")
    return BaseShearAnswer(system.direction, purpose, t, v / structure.weight, v, governing,
                           w.close())


def distribution(
    shear: BaseShearAnswer, weights: Sequence[float], heights: Sequence[float], edition: str
) -> Distribution:
    """Qi = VB Wi hi^2 / sum Wj hj^2."""
    w = Working(f"Story forces in {shear.direction} for {shear.purpose}", shear.working)
    clause = "7.6.3" if edition == "2016" else "7.7.1"
    w.given("W_i", tuple(map(float, weights)), "force", meaning="weight of the floor",
            clause=clause)
    w.given("h_i", tuple(map(float, heights)), "length", meaning="height above the base",
            clause=clause)
    forces = w.compute_all("Q_i", "V_B * W_i * h_i ** 2 / sum(W_i * h_i ** 2)", "force",
                           meaning="design lateral force", clause=clause)
    return Distribution(forces, w.close())


def torsion(direction: Direction, ratio: float, where: str, edition: str) -> TorsionAnswer:
    """Torsional irregularity: 1.2 of the average (2002), 1.5 of the smaller end (2016)."""
    if edition == "2002":
        measure, limits, words = ratio, (1.2, math.inf), "Largest over average story drift"
        clause = "Table 4"
    else:
        measure = ratio / (2.0 - ratio) if ratio < 2.0 else 99.0
        limits, words, clause = (1.5, 2.0), "Largest over smallest drift of the ends", "Table 5"
    kind = "extreme" if measure > limits[1] else "irregular" if measure > limits[0] else ""
    found = Finding(
        "torsional irregularity", f"direction {direction}, {where}",
        Severity.EXCEEDED if kind == "extreme" else Severity.WARNING if kind else Severity.OK,
        f"{words} is {measure:.3f}" + {
            "": f", not above {limits[0]:g}.",
            "irregular": f", above {limits[0]:g}: torsionally irregular.",
            "extreme": f", above {limits[1]:g}: the configuration is to be revised.",
        }[kind], clause,
        "Move stiffness towards the side that drifts most." if kind else "", measure, limits[0])
    return TorsionAnswer(kind, "torsional irregularity", True, False, True, found)


def scale(
    shear: BaseShearAnswer, modal_base_shear: float, edition: str, what: str
) -> ScaleAnswer:
    """VB-bar/VB where the dynamic base shear is smaller; 2016: forces only."""
    symbol = "s_F" if what == "forces" else "s_D"
    w = Working(f"Scaling of {what} in {shear.direction}", shear.working)
    clause = "7.7.3" if edition == "2016" else "7.8.2"
    if what == "drift" and edition == "2016":
        w.given(symbol, 1.0, meaning="factor on drift", clause="7.11.1",
                branch="displacements are not scaled for the drift check")
        return ScaleAnswer(1.0, w.close())
    w.given("V_t", modal_base_shear, "force", meaning="base shear of the dynamic analysis",
            clause=clause)
    short = modal_base_shear < shear.base_shear
    found = w.compute(symbol, "max(1, V_B / V_t)", meaning=f"factor on {what}", clause=clause,
                      branch="scaled up" if short else "not scaled")
    return ScaleAnswer(found, w.close())


def drift_limit(system: SystemAnswer) -> DriftLimit:
    """0.004 of the story height under the design forces (7.11.1)."""
    w = Working(f"Drift limit in {system.direction}", system.working)
    ratio = w.given("a", 0.004, meaning="allowable drift over story height, under design forces",
                    clause="7.11.1")
    return DriftLimit(ratio, w.close())


def stability(
    direction: Direction, gravity: Floats, drift: Floats, shear: Floats, heights: Floats
) -> StabilityAnswer:
    """Gravity moment over story moment, for information: the standard sets no limit."""
    w = Working(f"P-Delta in {direction}")
    silent = "not in the standard"
    write_second_order(
        w, ("P", "Delta", "V", "h_s"), (gravity, drift, shear, heights), silent,
        {
            "Delta": "story drift under design forces",
        },
    )
    theta = w.compute_all("theta", "P * Delta / (V * h_s)",
                          meaning="gravity moment over story moment", clause=silent)
    return StabilityAnswer(theta, math.inf, math.inf, math.inf, np.ones_like(theta), "", w.close())


def separation(
    system: SystemAnswer, own: float, neighbor: float | None, same_floors: bool, edition: str
) -> SeparationAnswer:
    """R times the displacements under design forces; half where floors meet (7.11.3)."""
    w = Working("Separation", system.working)
    clause = "7.11.3"
    w.given("Delta_1", own, "displacement", meaning="displacement of this building under design "
            "forces", clause=clause)
    if neighbor is None:
        found = w.compute("s", "R * Delta_1", "displacement", clause=clause,
                          meaning="its own share of the distance",
                          branch="the standard speaks of two buildings; their share is not in it")
        return SeparationAnswer(found, w.close())
    w.given("Delta_2", neighbor, "displacement", clause=clause, meaning="that of the neighbor; "
            "where its R differs, in proportion to it")
    halved = same_floors and edition == "2002"
    note = "floors at the same levels" if halved else (
        "floors at the same levels: halving is left out, the edition's wording is not certain"
        if same_floors else "floors at different levels")
    found = w.compute("s", f"R * (Delta_1 + Delta_2){' / 2' if halved else ''}", "displacement",
                      meaning="least distance to the neighbor", clause=clause, branch=note)
    return SeparationAnswer(found, w.close())


Factors = tuple[tuple[str, float, float, float], ...]  # name, dead, imposed, earthquake
LIMIT_STATE: Factors = (
    ("1.2 (DL + IL ± EL)", 1.2, 1.2, 1.2),
    ("1.5 (DL ± EL)", 1.5, 0.0, 1.5),
    ("0.9 DL ± 1.5 EL", 0.9, 0.0, 1.5),
)
PLASTIC: Factors = (("1.7 (DL ± EL)", 1.7, 0.0, 1.7), ("1.3 (DL + IL ± EL)", 1.3, 1.3, 1.3))


def load_combinations(
    systems: Mapping[Direction, SystemAnswer], how: DirectionalCombination, edition: str
) -> CombinationAnswer:
    """Limit state combinations with earthquake (6.3.1); 2002 also those of plastic design."""
    w = Working("Load combinations")
    clause = "6.3.1"
    groups = [("limit state", LIMIT_STATE)]
    if edition == "2002" and any(s.row.startswith("steel") for s in systems.values()):
        groups.append(("plastic design of steel", PLASTIC))
    rows = []
    for kind, members in groups:
        for name, dead, live, quake in members:
            for pattern, (x, y) in quake_patterns(how):
                rows.append(LoadCombination(kind, f"{name}: {pattern}", dead, live, 0.0,
                                            (quake * x, quake * y), clause))
    w.given("gamma_E", max(row.quake[0] for row in rows), clause=clause,
            meaning="largest factor on the earthquake")
    return CombinationAnswer(
        tuple(rows), w.close(), "Imposed load is the share that counts as seismic weight. "
        "Where vertical motion counts, it joins with 0.3 of the others.")


def procedures(
    site: SiteAnswer, systems: Sequence[SystemAnswer], structure: StructureFacts,
    irregular: Sequence[str], edition: str,
) -> tuple[Finding, ...]:
    """Whether a dynamic analysis is required."""
    regular = all(s.given.regular for s in systems)
    claim = held_against(regular, tuple(irregular), edition)
    h, zone = structure.height, site.category.removeprefix("zone ")
    if edition == "2016":
        allowed, clause = regular and h < 15.0 and zone == "II", "7.7.1"
    else:
        high = zone in ("IV", "V")
        most = (40.0 if high else 90.0) if regular else (12.0 if high else 40.0)
        allowed, clause = h <= most, "7.8.1"
    return (Finding(
        "static procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
        f"{'Regular' if regular else 'Irregular'} building, {h:.3g} m, zone {zone}: "
        + ("the equivalent static method may be used." if allowed else "a dynamic analysis is "
           "required (set drift.judged_by = \"spectrum\")."), clause),
        *([claim] if claim else []))


def table(edition: str) -> Table:
    """The table of response reduction factors."""
    rows = facts()[f"R_{edition}"]
    return Table(
        "systems", f"IS 1893 (Part 1):{edition}, response reduction factors",
        (column("row", "", list(rows)), column("R", "ratio", [v[0] for v in rows.values()], 3),
         column("period", "", [v[1] for v in rows.values()])),
    )
