"""ASCE 7: the vertical spectrum (11.9) and the floor under a site-specific one (21.3)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from undatum.ground.spectrum import Floats, ScaledSpectrum, Spectrum, TwoPeriodSpectrum
from undatum.record import fixed
from undatum.standards.answers import FloorAnswer, SiteAnswer, VerticalAnswer
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.inputs import SiteInput, SiteInput22
from undatum.units import STANDARD_GRAVITY
from undatum.working import SectionKey, Working


@dataclass(frozen=True, slots=True)
class VerticalSpectrum(Spectrum):
    """Design vertical spectrum of 11.9, up to 2 s; ``cv_sms`` = C_v S_MS in m/s2.

    Two thirds of the MCE_R ordinates, which are not below half of the horizontal ones.
    """

    name: str
    cv_sms: float
    horizontal: Spectrum  # design level
    damping: float = 0.05

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        shape = np.select(
            [t <= 0.025, t <= 0.05, t <= 0.15],
            [np.full_like(t, 0.3), 20.0 * (t - 0.025) + 0.3, np.full_like(t, 0.8)],
            0.8 * (0.15 / np.maximum(t, 1e-12)) ** 0.75,
        )
        return np.asarray(np.maximum(2.0 / 3.0 * self.cv_sms * shape, 0.5 * self.horizontal(t)))

    @property
    def corners(self) -> Mapping[str, float]:
        return {"T1": 0.025, "T2": 0.05, "T3": 0.15}

    @property
    def last_period(self) -> float:
        return 2.0


def vertical(
    given: SiteInput | SiteInput22, site: SiteAnswer, edition: Edition
) -> VerticalAnswer | None:
    """The vertical spectrum of the 2016 edition; earlier ones have none, the 2022 form is left out.

    The curve is not given for a site with values from a study, which has no S_MS of its own here.
    """
    if not edition.rule("vertical_spectrum") or given.study:
        return None
    name = "D" if given.site_class in ("default", "D", "E", "F") else given.site_class
    rows = edition.table("vertical")
    w = Working(SectionKey("vertical spectrum"), "Vertical spectrum", site.working)
    w.interpolate("C_v", "S_S", rows["points"], rows["AB" if name in "AB" else name],
                  meaning="vertical coefficient", clause="11.9.2, Table 11.9-1")
    w.compute("C_M", "C_v * S_MS", "g", meaning="scale of the MCE_R vertical spectrum",
              clause="11.9.2")
    w.compute("S_av0", "2 / 3 * 0.8 * C_M", "g", meaning="plateau of the design spectrum, from "
              "0.05 s to 0.15 s", clause="11.9.2, 11.9.3", replaceable=False)
    return VerticalAnswer(VerticalSpectrum(
        f"ASCE 7-{edition.key} vertical", w.value("C_M") * STANDARD_GRAVITY, site.spectrum),
        w.close())


def least_spectrum(
    given: SiteInput | SiteInput22, site: SiteAnswer, edition: Edition
) -> FloorAnswer:
    """80 % of the general spectrum (21.3), with the coefficients set for that purpose."""
    w = Working(SectionKey("floor"), "Floor under a site-specific spectrum", site.working)
    if isinstance(given, SiteInput22):
        return _mapped_floor(w, given, edition)
    kind = {"default": "D", "F": "E"}.get(given.site_class, given.site_class)
    fa, fv = edition.table("Fa"), edition.table("Fv")
    why = "class E in place of F" if given.site_class == "F" else f"class {kind}"
    if edition.rule("study_floor_coefficients") and kind in "DE":
        late = given.s1 >= 0.2 if kind == "D" else given.s1 > 0.1
        values = {"D": (2.4, 2.5), "E": (4.2, 4.0)}[kind]
        if kind == "E" and given.ss >= 1.0:
            w.given("F_a21", 1.0, meaning="short-period coefficient for this purpose",
                    clause="21.3", branch=f"{why}, S_S ≥ 1.0")
        else:
            known = [(x, y) for x, y in zip(fa["points"], fa[kind], strict=True)
                     if not isinstance(y, str)]
            w.interpolate("F_a21", "S_S", [x for x, _ in known], [y for _, y in known],
                          meaning=f"short-period coefficient, {why}", clause="21.3, Table 11.4-1")
        w.given("F_v21", values[late], meaning="long-period coefficient for this purpose",
                clause="21.3", branch=why)
    else:
        w.interpolate("F_a21", "S_S", fa["points"], fa[kind], clause="21.3, Table 11.4-1",
                      meaning=f"short-period coefficient, {why}")
        w.interpolate("F_v21", "S_1", fv["points"], fv[kind], clause="21.3, Table 11.4-2",
                      meaning=f"long-period coefficient, {why}")
    w.compute("S_DS21", "2 / 3 * F_a21 * S_S", "g", meaning="general design acceleration, short",
              clause="21.3")
    w.compute("S_D121", "2 / 3 * F_v21 * S_1", "g", meaning="general design acceleration at 1 s",
              clause="21.3")
    return _floor(w, edition)


def _mapped_floor(w: Working, given: SiteInput22, edition: Edition) -> FloorAnswer:
    """From the multi-period spectrum where there is one, otherwise from S_MS and S_M1."""
    if given.multi_period is not None:
        general = given.multi_period.spectrum(_name(edition))
        return _share(w, general)
    for symbol, value in (("S_DS21", given.sms), ("S_D121", given.sm1)):
        w.given(f"{symbol}m", value or 0.0, "g", meaning="mapped MCE_R acceleration", clause="21.3")
        w.compute(symbol, f"2 / 3 * {symbol}m", "g", meaning="general design acceleration",
                  clause="21.3")
    return _floor(w, edition)


def _floor(w: Working, edition: Edition) -> FloorAnswer:
    ts = w.compute("T_S21", "S_D121 / S_DS21", "s", meaning="end of its plateau", clause="21.3",
                   empirical=True)
    return _share(w, TwoPeriodSpectrum(
        _name(edition), w.value("S_DS21") * STANDARD_GRAVITY, w.value("S_D121") * STANDARD_GRAVITY,
        0.2 * ts, ts, w.value("T_L")))


def _name(edition: Edition) -> str:
    return f"80 % of the general spectrum, ASCE 7-{edition.key}"


def _share(w: Working, general: Spectrum) -> FloorAnswer:
    share = w.given("c_21", 0.8, meaning="share of the general spectrum", clause="21.3",
                    within=(0.0, 1.0))
    return FloorAnswer(ScaledSpectrum(general.name, general, share), "21.3", w.close())
