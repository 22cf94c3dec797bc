"""ASCE 7, 12.5 and 12.9: rules and scaling of the modal response spectrum analysis."""

from __future__ import annotations

from collections.abc import Sequence

from undatum.standards.answers import (
    BaseShearAnswer,
    DirectionalCombination,
    ModalRules,
    ScaleAnswer,
    SiteAnswer,
    SystemAnswer,
)
from undatum.standards.asce7.facts import Edition
from undatum.working import Working


def rules(site: SiteAnswer, edition: Edition) -> ModalRules:
    """Mass target of 90 % by direction, CQC, and the orthogonal rule of the design category."""
    clause = f"{edition.clause('modal_mass')}, {edition.clause('modal_combination')}"
    how, orthogonal = directions(site, ("H5",))
    if edition.rule("rigid_modes"):
        return ModalRules(0.90, 0.05, "CQC", how, clause, orthogonal, 0.05,
                          edition.clause("modal_mass"))
    return ModalRules(0.90, 0.05, "CQC", how, clause, orthogonal)


def directions(
    site: SiteAnswer, irregular: Sequence[str]
) -> tuple[DirectionalCombination, str]:
    """Each direction alone in A and B, and in C without a nonparallel system (12.5).

    In D to F the combination is asked for columns and walls that two systems share; which those
    are is not in a concept building, so it is taken for all.
    """
    if site.category in "AB":
        return "independent", "12.5.2"
    if site.category == "C" and "H5" not in irregular:
        return "independent", "12.5.3"
    return "100/30", "12.5.3.1" if site.category == "C" else "12.5.4"


def force_scale(
    shear: BaseShearAnswer, modal_base_shear: float, edition: Edition
) -> ScaleAnswer:
    """Scale up to V, or to 0.85 V before the 2016 edition."""
    share = edition.rule("force_share")
    target = "V" if share == 1 else f"{share:g} * V"
    said = "V" if share == 1 else f"{share:g} V"
    w = Working(f"Scaling of forces in {shear.direction}", shear.working)
    w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
            clause=edition.clause("modal_combination"))
    short = modal_base_shear < share * shear.base_shear
    scale = w.compute(
        "s_F", f"max(1, {target} / V_t)", meaning="factor on forces",
        clause=edition.clause("force_scale"),
        branch=f"V_t < {said}: scaled up to {said}" if short else f"V_t ≥ {said}: not scaled",
    )
    return ScaleAnswer(scale, w.close())


def drift_scale(
    site: SiteAnswer, system: SystemAnswer, weight: float, modal_base_shear: float,
    edition: Edition,
) -> ScaleAnswer:
    """Cs W/Vt with Cs of Eq. 12.8-6, where that equation applies (2010: 0.85 Cs W; 2005: none)."""
    w = Working(f"Scaling of drift in {system.direction}", site.working, system.working)
    clause, share = edition.clause("drift_scale"), edition.rule("drift_scale_share")
    if not share:
        w.given("s_D", 1.0, meaning="factor on drift", clause=clause,
                branch="this edition does not scale drift")
        return ScaleAnswer(1.0, w.close())
    if site.parameters["S_1"] < 0.6:
        w.given("s_D", 1.0, meaning="factor on drift", clause=clause,
                branch="S_1 < 0.6: Eq. 12.8-6 does not apply, drift is not scaled")
        return ScaleAnswer(1.0, w.close())
    w.given("W", weight, "force", meaning="effective seismic weight", clause="12.7.2")
    w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
            clause=edition.clause("modal_combination"))
    w.compute("C_s4", "0.5 * S_1 / (R / I_e)", meaning="least value where S_1 ≥ 0.6",
              clause=edition.equation("12.8.1.1", "12.8-6"))
    short = modal_base_shear < share * w.value("C_s4") * weight
    target = "C_s4 * W" if share == 1 else f"{share:g} * C_s4 * W"
    said = "C_s W" if share == 1 else f"{share:g} C_s W"
    scale = w.compute(
        "s_D", f"max(1, {target} / V_t)", meaning="factor on drift", clause=clause,
        branch=f"V_t < {said}: scaled up" if short else f"V_t ≥ {said}: not scaled",
    )
    return ScaleAnswer(scale, w.close())
