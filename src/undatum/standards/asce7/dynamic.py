"""ASCE 7-16, 12.5 and 12.9: rules and scaling of the modal response spectrum analysis."""

from __future__ import annotations

from undatum.standards.contract import (
    BaseShearAnswer,
    ModalRules,
    ScaleAnswer,
    SiteAnswer,
    SystemAnswer,
)
from undatum.working import Working


def rules(site: SiteAnswer) -> ModalRules:
    """Mass target of 90 % by direction, CQC, and the orthogonal rule of the design category."""
    clause = "12.9.1.1 exception, 12.9.1.3"
    if site.category in "AB":
        return ModalRules(0.90, 0.05, "CQC", "independent", clause, "12.5.2")
    return ModalRules(0.90, 0.05, "CQC", "100/30", clause, "12.5.3.1")


def force_scale(shear: BaseShearAnswer, modal_base_shear: float) -> ScaleAnswer:
    """V/Vt where the modal base shear falls short of the static one (12.9.1.4.1)."""
    w = Working(f"Scaling of forces in {shear.direction}", shear.working)
    w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
            clause="12.9.1.3")
    short = modal_base_shear < shear.base_shear
    scale = w.compute(
        "s_F", "max(1, V / V_t)", meaning="factor on forces", clause="12.9.1.4.1",
        branch="V_t < V: scaled up to V" if short else "V_t ≥ V: not scaled",
    )
    return ScaleAnswer(scale, w.close())


def drift_scale(
    site: SiteAnswer, system: SystemAnswer, weight: float, modal_base_shear: float
) -> ScaleAnswer:
    """Cs W/Vt with Cs of Eq. 12.8-6, where that equation applies (12.9.1.4.2)."""
    w = Working(f"Scaling of drift in {system.direction}", site.working, system.working)
    clause = "12.9.1.4.2"
    if site.parameters["S_1"] < 0.6:
        w.given("s_D", 1.0, meaning="factor on drift", clause=clause,
                branch="S_1 < 0.6: Eq. 12.8-6 does not apply, drift is not scaled")
        return ScaleAnswer(1.0, w.close())
    w.given("W", weight, "force", meaning="effective seismic weight", clause="12.7.2")
    w.given("V_t", modal_base_shear, "force", meaning="combined modal base shear",
            clause="12.9.1.3")
    w.compute("C_s4", "0.5 * S_1 / (R / I_e)", meaning="least value where S_1 ≥ 0.6",
              clause="12.8.1.1, Eq. 12.8-6")
    short = modal_base_shear < w.value("C_s4") * weight
    scale = w.compute(
        "s_D", "max(1, C_s4 * W / V_t)", meaning="factor on drift", clause=clause,
        branch="V_t < C_s W: scaled up" if short else "V_t ≥ C_s W: not scaled",
    )
    return ScaleAnswer(scale, w.close())
