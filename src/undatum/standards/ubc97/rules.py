"""UBC 1997: irregularities, redundancy, vertical component, separation, load combinations."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum
from undatum.standards import irregular
from undatum.standards.answers import (
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    LoadCombination,
    SeparationAnswer,
    ShapeFacts,
    SiteAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
    VerticalAnswer,
)
from undatum.standards.common import quake_patterns
from undatum.units import factor
from undatum.working import Working

_FOOT = factor("ft", "length")
LIMITS = irregular.Limits(
    elevation="1629.5.3, Table 16-L", plan="1629.5.3, Table 16-M", soft=(0.7, 0.8),
    extreme_soft=None, weight=1.5, extent=1.3, weak=0.8, extreme_weak=0.65,
    names={"V1a": "vertical type 1", "V5a": "vertical type 5", "V5b": "vertical type 5, below 65 %",
           **{f"H{i}": f"plan type {i}" for i in range(1, 6)}},
)


def judge(
    shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer]
) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
    """Types of Tables 16-L and 16-M found, and a finding for each that is judged."""
    kinds, findings = irregular.judge(shape, LIMITS, irregular.drift_exempt(shape))
    kinds |= {"H1" for t in torsion.values() if t.kind}
    if "V5b" in kinds and (len(shape.levels) > 2 or shape.heights[0] > 30 * _FOOT):
        findings.append(Finding(
            "height with a weak story", "whole structure", Severity.EXCEEDED,
            "With a story below 65 % of the strength above only two stories or 30 ft are "
            "permitted, unless it is strong enough for the forces with overstrength.", "1629.9.1",
            "Strengthen the story."))
    if kinds & {"H4", "V4"}:
        findings.append(Finding(
            "elements under discontinuous systems", "whole structure", Severity.WARNING,
            "Columns that carry discontinuous walls or frames take the special combinations.",
            "1630.8.2", "Use the special rows of the load combinations for them."))
    return tuple(sorted(kinds)), tuple(findings)


def held_against(systems: Sequence[SystemAnswer], types: Sequence[str]) -> tuple[Finding, ...]:
    """A finding where the project calls a structure regular and a type was found."""
    stated = [s.direction for s in systems if s.given.regular]
    if not stated or not types:
        return ()
    names = ", ".join(LIMITS.name(k) for k in types)
    return (Finding(
        "regularity", f"direction {', '.join(stated)}", Severity.EXCEEDED,
        f"The project states regular = true, but there is: {names}.", "1629.5.3",
        "Set regular to false; it decides on the procedure and on the scaling of forces."),)


def redundancy(
    w: Working, name: str, group: str, r_max: float | None, site: SiteAnswer,
    structure: StructureFacts,
) -> tuple[float, tuple[Finding, ...]]:
    """rho = 2 - 20 / (r_max sqrt(A_B)), from 1.0 to 1.5 (1630.1.1)."""
    clause = "1630.1.1, Eq. 30-3"
    if site.category in ("zone 1", "zone 2A", "zone 2B"):
        return w.given("rho", 1.0, meaning="redundancy factor", clause="1630.1.1",
                       branch=site.category), ()
    if r_max is None:
        return w.given("rho", 1.5, meaning="redundancy factor", clause="1630.1.1",
                       branch="r_max is not given: the factor need not exceed 1.5"), ()
    w.given("r_max", r_max, meaning="largest element-story shear ratio", clause="1630.1.1",
            branch="given in the project")
    w.given("A_B", structure.base_area / _FOOT**2, "ft^2", meaning="ground floor area",
            clause="1630.1.1")
    share = "0.8 * " if group.startswith("dual") else ""
    rho = w.compute("rho", f"clip({share}(2 - 20 / (r_max * sqrt(A_B))), 1, 1.5)",
                    meaning="redundancy factor", clause=clause)
    special = "special" in name.lower() and group == "moment frame"
    if special and rho > 1.25 * (1 + 1e-12):
        return rho, (Finding(
            "redundancy", "special moment frames", Severity.EXCEEDED,
            f"rho = {rho:.3f} is above 1.25.", "1630.1.1", "Add bays of frames.", rho, 1.25),)
    return rho, ()


def vertical(site: SiteAnswer) -> VerticalAnswer:
    """Two thirds of the horizontal spectrum (1631.2)."""
    w = Working("Vertical spectrum", site.working)
    share = w.given("c_v", 2.0 / 3.0, meaning="vertical over horizontal", clause="1631.2",
            branch="where N_a is above 1.0 a site-specific vertical spectrum is asked for"
            if site.parameters["N_a"] > 1.0 else "")
    w.compute("A_v", "c_v * 2.5 * C_a", "g", meaning="plateau of the vertical spectrum",
              clause="1631.2")
    return VerticalAnswer(ScaledSpectrum("UBC 1997 vertical", site.spectrum, share), w.close())


def separation(own: float, neighbor: float | None) -> SeparationAnswer:
    """Delta_M to the property line, root of the squares to a neighbor (1633.2.11)."""
    w = Working("Separation")
    w.given("Delta_M1", own, "displacement", meaning="maximum inelastic displacement",
            clause="1633.2.11")
    if neighbor is None:
        found = w.compute("Delta_MT", "Delta_M1", "displacement", clause="1633.2.11",
                          meaning="least distance to the property line")
        return SeparationAnswer(found, w.close())
    w.given("Delta_M2", neighbor, "displacement", meaning="that of the neighbor",
            clause="1633.2.11")
    found = w.compute("Delta_MT", "sqrt(Delta_M1 ** 2 + Delta_M2 ** 2)", "displacement",
                      meaning="least distance to the neighbor", clause="1633.2.11, Eq. 33-2")
    return SeparationAnswer(found, w.close())


def load_combinations(
    site: SiteAnswer, systems: Mapping[Direction, SystemAnswer], how: DirectionalCombination
) -> CombinationAnswer:
    """Strength, allowable stress and special combinations (1612)."""
    w = Working("Load combinations", site.working)
    w.compute("e_v", "0.5 * C_a * I", meaning="vertical effect over dead load, for strength",
              clause="1630.1.1")
    up = w.compute("d_5", "1.2 + e_v", meaning="factor on dead load, 1.2 D + 1.0 E",
                   clause="1612.2.1, Eq. 12-5")
    down = w.compute("d_6", "0.9 - e_v", meaning="factor on dead load, 0.9 D - 1.0 E",
                     clause="1612.2.1, Eq. 12-6")
    stress = w.compute("e_s", "1 / 1.4", meaning="factor on the earthquake, allowable stress",
                       clause="1612.3.1")
    rho, over = ((systems["X"].redundancy, systems["Y"].redundancy),
                 (systems["X"].overstrength, systems["Y"].overstrength))
    table = (
        ("strength", "1.2 D + E + f1 L + f2 S", up, 1.0, 0.7, 1.0, rho, "1612.2.1"),
        ("strength", "0.9 D - E", down, 0.0, 0.0, 1.0, rho, "1612.2.1"),
        ("allowable stress", "D + E/1.4", 1.0, 0.0, 0.0, stress, rho, "1612.3.1"),
        ("allowable stress", "0.9 D ± E/1.4", 0.9, 0.0, 0.0, stress, rho, "1612.3.1"),
        ("allowable stress", "D + 0.75 (L + S + E/1.4)", 1.0, 0.75, 0.75, 0.75 * stress, rho,
         "1612.3.1"),
        ("special", "1.2 D + f1 L + Em", 1.2, 1.0, 0.0, 1.0, over, "1612.4"),
        ("special", "0.9 D ± Em", 0.9, 0.0, 0.0, 1.0, over, "1612.4"),
    )
    rows = [
        LoadCombination(kind, f"{name}: {pattern}", dead, live, snow, (quake * x, quake * y),
                        clause)
        for kind, name, dead, live, snow, quake, factors, clause in table
        for pattern, (x, y) in quake_patterns(how, factors)
    ]
    return CombinationAnswer(
        tuple(rows), w.close(), "f1 = 1.0 and f2 = 0.7 are taken; f1 may be 0.5 outside assembly, "
        "garages and live load above 100 psf, f2 0.2 on roofs that shed snow. Vertical effect is "
        "zero for allowable stress. The multiplier for concrete and masonry is not in the factors.")
