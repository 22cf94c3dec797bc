"""UBC 1997, 1629 to 1631: systems, static force, drift, dynamic analysis."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import nearest
from undatum.finding import Finding, Severity
from undatum.standards.answers import (
    Asked,
    BaseShearAnswer,
    Direction,
    Distribution,
    DriftLimit,
    Floats,
    LoadFacts,
    PeriodAnswer,
    Purpose,
    ScaleAnswer,
    SiteAnswer,
    StabilityAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.standards.common import walls_along, write_second_order
from undatum.standards.ubc97 import rules
from undatum.standards.ubc97.facts import facts, system_rows
from undatum.table import Table, column, number_text
from undatum.units import factor
from undatum.working import Working

_FOOT = factor("ft", "length")
_PSF = factor("psf", "area load")


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for UBC 1997."""

    row: str = Field(description='Row of Table 16-N, such as "3.1a" (steel special moment frame)')
    regular: bool = Field(description="Structure is regular (1629.5), for the dynamic base shear")
    r_max: float | None = Field(
        None, gt=0, le=1, description="Largest element-story shear ratio in the lower two thirds "
        "of the height, for the redundancy factor (1630.1.1)"
    )
    computed_period: bool = Field(True, description="Use the computed period up to its cap")
    period_basis: Literal["height", "walls"] = Field(
        "height", description="Method A by the table, or with C_t of the walls in the first story"
    )

    @model_validator(mode="after")
    def _known(self) -> SystemInput:
        rows = system_rows()
        if self.row not in rows:
            near = nearest(self.row, list(rows))
            raise PydanticCustomError(
                "system_row", "{row} is not a row of Table 16-N{hint}",
                {"row": repr(self.row), "hint": f"; did you mean {near!r} ({rows[near].system})?"
                 if near else ""})
        return self


def system(
    direction: Direction, given: SystemInput, site: SiteAnswer, structure: StructureFacts
) -> SystemAnswer:
    """R, overstrength and the height limit of zones 3 and 4."""
    row = system_rows()[given.row]
    w = Working(f"Lateral system in {direction}", site.working, replaced=given.replaced)
    w.given("R", row.R, meaning="response modification factor", clause="Table 16-N",
            branch=f"row {row.row}, {row.group}: {row.system}")
    overstrength = w.given("Omega_0", row.overstrength, meaning="overstrength factor",
                           clause="Table 16-N")
    divisor = w.compute("R_I", "R / I", meaning="divisor of elastic forces", clause="1630.2.1")
    amplifier = w.compute("C_M", "0.7 * R", meaning="amplification of displacement",
                          clause="1630.9.2, Eq. 30-17")
    rho, findings = rules.redundancy(w, row.system, row.group, given.r_max, site, structure)
    return SystemAnswer(
        direction, row.row, row.system, row.group, divisor, amplifier, overstrength, rho,
        w.close(), given, (_height(direction, given, site, structure), *findings),
    )


def _height(
    direction: Direction, given: SystemInput, site: SiteAnswer, structure: StructureFacts
) -> Finding:
    row = system_rows()[given.row]
    name, where, clause = f"{row.system} ({row.row})", f"system {direction}", "Table 16-N"
    limit = row.height.rstrip("?")
    if site.category not in ("zone 3", "zone 4") or limit == "NL":
        return Finding("height limit", where, Severity.OK,
                       f"{name} has no height limit in {site.category}.", clause)
    if limit == "NP":
        return Finding("height limit", where, Severity.EXCEEDED,
                       f"{name} is not permitted in {site.category}.", clause,
                       "Choose a system that is.")
    most = float(limit) * _FOOT
    over = structure.height > most * (1 + 1e-9)
    doubt = "" if row.certain else " Check this limit against the print."
    return Finding(
        "height limit", where, Severity.EXCEEDED if over else Severity.OK,
        f"{name}: {number_text(structure.height / _FOOT)} ft against {limit} ft.{doubt}", clause,
        "Choose another system." if over else "", structure.height, most, "length")


def weight_share(load: LoadFacts) -> WeightShare:
    """Seismic dead load (1630.1.1)."""
    clause = "1630.1.1"
    if load.kind in {"dead", "cladding", "roof garden"}:
        return WeightShare(1.0, clause, "dead load")
    if load.kind == "equipment":
        return WeightShare(1.0, clause, "permanent equipment")
    if load.kind == "partition":
        return WeightShare(1.0, clause, "partitions, not less than 10 psf", 10.0 * _PSF)
    if load.kind == "storage":
        return WeightShare(0.25, clause, "25 % of storage live load")
    if load.kind == "snow":
        counts = load.intensity is None or load.intensity > 30.0 * _PSF * (1 + 1e-9)
        return WeightShare(1.0 if counts else 0.0, clause,
                           "snow above 30 psf (the building official may allow a reduction)"
                           if counts else "snow not above 30 psf does not count")
    return WeightShare(0.0, clause, "live load other than storage does not count")


def period(system: SystemAnswer, site: SiteAnswer, structure: StructureFacts) -> PeriodAnswer:
    """Method A, and the cap on the computed period (1630.2.2)."""
    name, group = system.name, system.group
    if group == "moment frame" and name.startswith("Steel"):
        kind = "steel moment frame"
    elif (group == "moment frame" and name.startswith("Concrete")) or \
            name == "Steel eccentrically braced frame":
        kind = "concrete moment frame or eccentric bracing"
    else:
        kind = "other"
    w = Working(f"Period in {system.direction}", site.working, system.working)
    w.given("h_n", structure.height / _FOOT, "ft", meaning="height above the base",
            clause="1630.2.2")
    if system.given.period_basis == "walls":
        walls = walls_along(system, structure)
        names = tuple(x.name for x in walls)
        w.given("A_e", tuple(x.area / _FOOT**2 for x in walls), "ft^2", clause="1630.2.2",
                meaning="areas of the walls", rows=names)
        w.given("D_e", tuple(x.length / _FOOT for x in walls), "ft", clause="1630.2.2",
                meaning="lengths of the walls", rows=names)
        w.compute("A_c", "sum(A_e * (0.2 + clip(D_e / h_n, 0, 0.9) ** 2))", "ft^2",
                  meaning="effective wall area", clause="1630.2.2, Eq. 30-9")
        w.compute("C_t", "0.1 / sqrt(A_c)", meaning="period coefficient, walls, height in ft",
                  clause="1630.2.2")
    else:
        w.given("C_t", facts()["period"][kind], clause="1630.2.2",
                meaning=f"period coefficient, {kind}, height in ft")
    approximate = w.compute("T_A", "C_t * h_n ** 0.75", "s", meaning="period by method A",
                            clause="1630.2.2, Eq. 30-8")
    w.given("c", 1.3 if site.category == "zone 4" else 1.4, clause="1630.2.2",
            meaning="limit on method B over method A", branch=site.category)
    cap = w.compute("T_max", "c * T_A", "s", meaning="upper limit on the computed period",
                    clause="1630.2.2")
    return PeriodAnswer(approximate, cap, w.close())


def base_shear(
    purpose: Purpose, site: SiteAnswer, system: SystemAnswer, periods: PeriodAnswer,
    computed: float | None, structure: StructureFacts,
) -> BaseShearAnswer:
    """V with its limits. For drift neither the cap nor Eq. 30-6 applies (1630.10.3)."""
    w = Working(f"Base shear in {system.direction} for {purpose}",
                site.working, system.working, periods.working)
    if computed is None or not system.given.computed_period:
        t = w.compute("T", "T_A", "s", meaning="period used", clause="1630.2.2", branch="method A")
    else:
        w.given("T_B", computed, "s", meaning="computed period, method B", clause="1630.2.2",
                branch="mode with the largest effective mass in this direction")
        if purpose == "drift":
            t = w.compute("T", "T_B", "s", meaning="period used", clause="1630.10.3",
                          branch="computed period without the cap")
        else:
            t = w.compute("T", "min(T_B, T_max)", "s", meaning="period used", clause="1630.2.2",
                          branch="capped" if computed > periods.cap else "below its cap")
    w.given("W", structure.weight, "force", meaning="seismic dead load", clause="1630.1.1")
    v1 = w.compute("V_1", "C_v * I / (R * T) * W", "force", meaning="falling branch",
                   clause="1630.2.1, Eq. 30-4")
    v2 = w.compute("V_2", "2.5 * C_a * I / R * W", "force", meaning="largest value",
                   clause="1630.2.1, Eq. 30-5")
    value, governing = min((v1, "falling branch (Eq. 30-4)"), (v2, "plateau (Eq. 30-5)"))
    floors = []
    if purpose == "strength":
        v3 = w.compute("V_3", "0.11 * C_a * I * W", "force", meaning="least value",
                       clause="1630.2.1, Eq. 30-6")
        floors.append(("V_3", v3, "least value (Eq. 30-6)"))
    if site.category == "zone 4":
        v4 = w.compute("V_4", "0.8 * Z * N_v * I / R * W", "force", clause="1630.2.1, Eq. 30-7",
                       meaning="least value in zone 4")
        floors.append(("V_4", v4, "least value in zone 4 (Eq. 30-7)"))
    for _, floor, name in floors:
        if floor > value:
            value, governing = floor, name
    formula = "min(V_1, V_2)"
    if floors:
        formula = f"max({formula}, {', '.join(symbol for symbol, _, _ in floors)})"
    note = "" if purpose == "strength" else "; Eq. 30-6 is left out for drift (1630.10.3)"
    v = w.compute("V", formula, "force", meaning="base shear", clause="1630.2.1",
                  branch=governing + note)
    return BaseShearAnswer(system.direction, purpose, t, v / structure.weight, v, governing,
                           w.close())


def distribution(
    shear: BaseShearAnswer, weights: Sequence[float], heights: Sequence[float]
) -> Distribution:
    """Top force and the rest by weight times height (1630.5)."""
    w = Working(f"Story forces in {shear.direction} for {shear.purpose}", shear.working)
    clause = "1630.5"
    if shear.period <= 0.7:
        w.given("F_t", 0.0, "force", meaning="force at the top", clause=clause, branch="T ≤ 0.7 s")
    else:
        w.compute("F_t", "min(0.07 * T * V, 0.25 * V)", "force", meaning="force at the top",
                  clause=f"{clause}, Eq. 30-14")
    w.given("w_x", tuple(map(float, weights)), "force", meaning="weight of the level",
            clause=clause)
    w.given("h_x", tuple(map(float, heights)), "length", meaning="height above the base",
            clause=clause)
    w.given("t_x", (1.0, *[0.0] * (len(weights) - 1)), meaning="1 at the top, 0 below",
            clause=clause)
    forces = w.compute_all("F_x", "F_t * t_x + (V - F_t) * w_x * h_x / sum(w_x * h_x)", "force",
                           meaning="force at the level", clause=f"{clause}, Eq. 30-13 and 30-15")
    return Distribution(forces, w.close())


def torsion(direction: Direction, ratio: float, where: str) -> TorsionAnswer:
    """Plan irregularity 1 (Table 16-M). Drift is read at all critical places (1630.9.1)."""
    irregular = ratio > 1.2
    found = Finding(
        "torsional irregularity", f"direction {direction}, {where}",
        Severity.WARNING if irregular else Severity.OK,
        f"Largest over average story drift is {ratio:.3f}"
        + (": plan irregularity 1; accidental torsion is amplified by A_x (1630.7)."
           if irregular else ", not above 1.2."),
        "1629.5.3, Table 16-M",
        "Move stiffness towards the side that drifts most." if irregular else "", ratio, 1.2)
    return TorsionAnswer("1" if irregular else "", "torsional irregularity", True, irregular, True,
                         found)


def scale(
    shear: BaseShearAnswer, modal_base_shear: float, regular: bool, standard_spectrum: bool,
) -> ScaleAnswer:
    """Dynamic base shear not below 90, 80 or 100 % of the static one (1631.5.4)."""
    share = 1.0 if not regular else 0.9 if standard_spectrum else 0.8
    what = "forces" if shear.purpose == "strength" else "drift"
    w = Working(f"Scaling of {what} in {shear.direction}", shear.working)
    w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
            clause="1631.5.3")
    w.given("c_V", share, meaning="share of the static base shear", clause="1631.5.4",
            branch="irregular" if not regular else "regular, design spectrum of Figure 16-3"
            if standard_spectrum else "regular, site-specific spectrum")
    short = modal_base_shear < share * shear.base_shear
    found = w.compute("s_F" if what == "forces" else "s_D", "max(1, c_V * V / V_t)",
                      meaning=f"factor on {what}", clause="1631.5.4",
                      branch="scaled up" if short else "not scaled")
    return ScaleAnswer(found, w.close())


def drift_limit(site: SiteAnswer, system: SystemAnswer, t: float) -> DriftLimit:
    """0.025 below 0.7 s, else 0.020 of the story height (1630.10.2)."""
    w = Working(f"Drift limit in {system.direction}", system.working)
    w.given("T", t, "s", meaning="fundamental period", clause="1630.10.2")
    ratio = w.given("a", 0.025 if t < 0.7 else 0.020, clause="1630.10.2",
                    meaning="allowable drift over story height",
                    branch="T < 0.7 s" if t < 0.7 else "T ≥ 0.7 s")
    return DriftLimit(ratio, w.close())


def stability(
    direction: Direction, site: SiteAnswer, system: SystemAnswer, gravity: Floats, drift: Floats,
    shear: Floats, heights: Floats,
) -> StabilityAnswer:
    """Ratio of secondary to primary moment (1630.1.3), from the drift under design forces.

    In zones 3 and 4 nothing need be done where no story drift ratio is above 0.02/R.
    """
    w = Working(f"P-Delta in {direction}", system.working)
    write_second_order(
        w, ("P_x", "Delta_M", "V_x", "h_sx"), (gravity, drift, shear, heights), "1630.1.3",
        {
            "P_x": "dead, floor live and snow load at and above the story",
            "Delta_M": "maximum inelastic story drift",
        },
    )
    theta = w.compute_all("theta", "P_x * (Delta_M / C_M) / (V_x * h_sx)",
                          meaning="secondary over primary moment", clause="1630.1.3")
    exempt = ""
    if site.category in ("zone 3", "zone 4"):
        ratio = w.compute_all("r_s", "Delta_M / C_M / h_sx", meaning="story drift ratio under "
                              "design forces", clause="1630.1.3")
        most = w.compute("r_P", "0.02 / R", meaning="up to here P-Delta need not be considered",
                         clause="1630.1.3")
        if np.all(ratio <= most * (1 + 1e-9)):
            exempt = f"no story drift ratio is above 0.02/R = {most:.5f}"
    return StabilityAnswer(theta, math.inf, 0.10, 0.10, np.ones_like(theta), "1630.1.3", w.close(),
                           exempt)


def procedures(
    site: SiteAnswer, systems: Sequence[SystemAnswer], structure: StructureFacts,
    irregular: Sequence[str],
) -> tuple[Finding, ...]:
    """Whether the static procedure may be used (1629.8.3)."""
    feet = structure.height / _FOOT
    regular = all(s.given.regular for s in systems)
    quiet = site.category == "zone 1" or (
        site.category in ("zone 2A", "zone 2B") and site.risk in ("standard", "miscellaneous"))
    allowed = quiet or (
        feet < 240 if regular else feet <= 65 and structure.stories <= 5)
    return (Finding(
        "static procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
        f"{'Regular' if regular else 'Irregular'} structure, {number_text(feet)} ft, "
        f"{structure.stories} stories: the static procedure "
        + ("may be used." if allowed else "may not be used; the dynamic analysis governs (set "
           "drift.judged_by = \"spectrum\")."), "1629.8.3"),
        *rules.held_against(systems, irregular))


def table() -> Table:
    """Table 16-N whole."""
    rows = list(system_rows().values())
    return Table(
        "systems",
        "UBC 1997, Table 16-N: heights in ft for zones 3 and 4",
        (
            column("row", "", [r.row for r in rows]),
            column("group", "", [r.group for r in rows]),
            column("system", "", [r.system for r in rows]),
            column("R", "ratio", [r.R for r in rows], 3),
            column("Omega_0", "ratio", [r.overstrength for r in rows], 3),
            column("height", "", [r.height for r in rows]),
        ),
        note="NL: not limited. NP: not permitted. ?: check this limit against the print.",
    )
