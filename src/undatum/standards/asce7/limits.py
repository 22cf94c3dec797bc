"""ASCE 7: torsional irregularity, story drift limits, separation, P-Delta and weight."""

from __future__ import annotations

import numpy as np

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.standards.answers import (
    Direction,
    DriftLimit,
    Floats,
    LoadFacts,
    SeparationAnswer,
    SiteAnswer,
    StabilityAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    WeightShare,
)
from undatum.standards.asce7.facts import Edition
from undatum.standards.common import write_second_order
from undatum.units import factor
from undatum.working import Working


def torsion(
    direction: Direction, site: SiteAnswer, ratio: float, where: str, edition: Edition
) -> TorsionAnswer:
    """Horizontal irregularity 1a or 1b (Table 12.3-1) and what the category makes of it."""
    severe = site.category in "CDEF"
    usual = not edition.rule("torsion_only_where_irregular")  # before 2016 always in the forces
    clause, place = "12.3.2.1, Table 12.3-1", f"direction {direction}, {where}"
    if ratio <= 1.2:
        found = Finding("torsional irregularity", place, Severity.OK,
                        f"Largest over average story drift is {ratio:.3f}, not above 1.2.",
                        clause, "", ratio, 1.2)
        return TorsionAnswer("", "regular in torsion", usual, False, False, found)
    extreme = ratio > 1.4
    kind = "1b" if extreme else "1a"
    name = "extreme torsional irregularity" if extreme else "torsional irregularity"
    banned = extreme and site.category in "EF"
    include = usual or severe or (site.category == "B" and extreme)
    follow = []
    if include:
        follow.append("accidental torsion is in forces and drift (12.8.4.2)")
    if severe:
        follow += ["it is amplified by A_x (12.8.4.3)", "drift is read at the edges (12.12.1)"]
    if extreme and site.category == "D" and edition.key == "16":
        follow.append("the redundancy factor stays 1.3 (12.3.4.2)")
    found = Finding(
        "torsional irregularity", place, Severity.EXCEEDED if banned else Severity.WARNING,
        f"{name.capitalize()} (type {kind}): largest over average story drift is {ratio:.3f}"
        + (f"; category {site.category} does not permit type 1b (12.3.3.1)." if banned else ".")
        + (f" Hence {', '.join(follow)}." if follow else ""),
        clause,
        "Move stiffness towards the side that drifts most, or stiffen the perimeter lines.",
        ratio, 1.2,
    )
    return TorsionAnswer(kind, name, include, severe, severe, found)


def drift_limit(
    site: SiteAnswer, system: SystemAnswer, structure: str, facts: StructureFacts,
    edition: Edition,
) -> DriftLimit:
    """Allowable drift ratio (Table 12.12-1), over rho for moment frames in D, E, F (12.12.1.1)."""
    rows = edition.table("drift")
    if structure.startswith("low-rise") and facts.stories > 4:
        raise InputError([Fault(
            "drift.structure",
            f"{structure!r} is for four stories or less above the base; this has {facts.stories}",
            "take 'other'",
        )])
    column = {"I": 0, "II": 0, "III": 1, "IV": 2}[site.risk]
    w = Working(f"Drift limit in {system.direction}", system.working)
    w.given("a", rows[structure][column], clause="12.12.1, Table 12.12-1",
            meaning="allowable story drift over story height",
            branch=f"{structure}, risk category {site.risk}")
    if system.group == "moment frame" and site.category in "DEF":
        ratio = w.compute("a_rho", "a / rho", meaning="allowable for moment frames in D, E, F",
                          clause="12.12.1.1")
    else:
        ratio = w.compute("a_rho", "a", meaning="allowable story drift over story height",
                          clause="12.12.1")
    return DriftLimit(ratio, w.close())


def stability(
    direction: Direction, site: SiteAnswer, system: SystemAnswer,
    gravity: Floats, drift: Floats, shear: Floats, heights: Floats, edition: Edition,
) -> StabilityAnswer:
    """Stability coefficient by story (Eq. 12.8-16), its limit (12.8-17) and the amplification."""
    w = Working(f"P-Delta in {direction}", site.working, system.working)
    write_second_order(
        w, ("P_x", "Delta", "V_x", "h_sx"), (gravity, drift, shear, heights), "12.8.7",
        {
            "P_x": "gravity load at and above the level",
            "Delta": "design story drift at the center of mass",
            "V_x": "story shear with that drift",
            "h_sx": "story height below the level",
        },
    )
    formula = "P_x * Delta * I_e / (V_x * h_sx * C_d)"
    if not edition.rule("theta_has_importance"):
        formula = formula.replace(" * I_e", "")
    theta = w.compute_all("theta", formula, meaning="stability coefficient",
                          clause=edition.equation("12.8.7", "12.8-16"))
    limit = w.compute("theta_max", "min(0.5 / (beta * C_d), 0.25)",
                      meaning="limit on the coefficient",
                      clause=edition.equation("12.8.7", "12.8-17"))
    amplification = np.where(theta > 0.10, 1.0 / np.maximum(1.0 - theta, 1e-9), 1.0)
    return StabilityAnswer(theta, limit, 0.10, limit, amplification, "12.8.7", w.close())


def separation(own: float, neighbor: float | None, edition: Edition) -> SeparationAnswer:
    """delta_M, and the root of the squares to a neighbor (12.12.3)."""
    w = Working("Separation")
    clause = "12.12.3"
    w.given("delta_M1", own, "displacement", clause=clause,
            meaning="inelastic displacement of this building")
    if neighbor is None:
        found = w.compute("delta_MT", "delta_M1", "displacement", clause=clause,
                          meaning="least distance to the property line")
        return SeparationAnswer(found, w.close())
    w.given("delta_M2", neighbor, "displacement", meaning="that of the neighbor", clause=clause)
    if edition.rule("separation_by_squares"):
        found = w.compute("delta_MT", "sqrt(delta_M1 ** 2 + delta_M2 ** 2)", "displacement",
                          meaning="least distance to the neighbor",
                          clause=edition.equation(clause, "12.12-2"))
    else:
        found = w.compute("delta_MT", "delta_M1 + delta_M2", "displacement", clause=clause,
                          meaning="least distance to the neighbor",
                          branch="this edition gives no rule to combine: their sum")
    return SeparationAnswer(found, w.close())


_PSF = factor("psf", "area load")


def weight_share(load: LoadFacts, edition: Edition) -> WeightShare:
    """Effective seismic weight (12.7.2)."""
    kind, intensity = load.kind, load.intensity
    clause = "12.7.2"
    threshold, share = edition.rule("snow_threshold_psf"), edition.rule("snow_share")
    if kind in {"dead", "cladding"}:
        return WeightShare(1.0, clause, "dead load")
    if kind == "equipment":
        return WeightShare(1.0, clause, "operating weight of permanent equipment")
    if kind == "roof garden":
        return WeightShare(1.0, clause, "landscaping and similar materials")
    if kind == "partition":
        return WeightShare(1.0, clause, "partitions, not less than 10 psf", 10.0 * _PSF)
    if kind == "storage":
        return WeightShare(0.25, clause, "25 % of storage live load")
    if kind == "snow":
        if intensity is None or intensity > threshold * _PSF * (1 + 1e-9):
            return WeightShare(share, clause, f"{share:.0%} of snow above {threshold} psf")
        return WeightShare(0.0, clause, f"snow not above {threshold} psf does not count")
    return WeightShare(0.0, clause, "live load other than storage does not count")


def gravity_share(load: LoadFacts) -> tuple[float, str]:
    """Share in Px of 12.8.7: dead and live load unfactored, snow at the 0.2 of 2.3.6."""
    return (0.2, "12.8.7, 2.3.6") if load.kind == "snow" else (1.0, "12.8.7")
