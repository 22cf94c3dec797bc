"""NZS 1170.5, chapter 3: hazard, subsoil, near-fault factor and elastic site spectra."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import Field

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.record import FixedDict, fixed
from undatum.standards.answers import SiteAnswer, VerticalAnswer
from undatum.standards.contract import Ground
from undatum.standards.facts import AskedOfSite
from undatum.units import STANDARD_GRAVITY, Extent
from undatum.working import SectionKey, Working

Floats = NDArray[np.float64]
Subsoil = Literal["A", "B", "C", "D", "E"]
Level = Literal["1", "2", "3", "4"]
ReturnPeriod = Literal["2500", "2000", "1000", "500", "250", "100", "50", "25", "20"]

#: Return period factor, Table 3.5, by the return period in years.
R_FACTOR: Mapping[str, float] = FixedDict({
    "2500": 1.8, "2000": 1.7, "1000": 1.3, "500": 1.0, "250": 0.75, "100": 0.5, "50": 0.35,
    "25": 0.25, "20": 0.2})
#: Of the ultimate limit state by importance level, for a working life of 50 years.
BY_LEVEL: Mapping[str, ReturnPeriod] = FixedDict({
    "1": "100", "2": "500", "3": "1000", "4": "2500"})
ZR_MOST = 0.7  # 3.1.1
NEAR = 0.75  # return period factor up to which there is no near-fault factor
NEAREST, FARTHEST = 2e3, 20e3  # m, between which it fades
N_MAX = ((0.0, 1.5, 2.0, 3.0, 4.0, 5.0), (1.0, 1.0, 1.12, 1.36, 1.6, 1.72))  # Table 3.7, by T in s
#: Spectral shape, Table 3.1: start, slope up to 0.1 s, plateau and its end for modal analysis,
#: plateau and its end for the static method, then c / T^0.75, c / T, c / T^2.
SHAPES: Mapping[str, tuple[float, ...]] = FixedDict({
    "A": (1.00, 1.35, 2.35, 0.3, 1.89, 0.4, 1.60 * 0.5**0.75, 1.05, 3.15),
    "B": (1.00, 1.35, 2.35, 0.3, 1.89, 0.4, 1.60 * 0.5**0.75, 1.05, 3.15),
    "C": (1.33, 1.60, 2.93, 0.3, 2.36, 0.4, 2.00 * 0.5**0.75, 1.32, 3.96),
    "D": (1.12, 1.88, 3.00, 0.56, 3.00, 0.56, 2.40 * 0.75**0.75, 2.14, 6.42),
    "E": (1.12, 1.88, 3.00, 1.0, 3.00, 1.0, 3.0, 3.32, 9.96)})


def shape_factor(period: ArrayLike, subsoil: str, *, static: bool = False) -> Floats:
    """C_h(T), Table 3.1: for modal analysis, or for the equivalent static method.

    >>> [round(float(v), 2) for v in shape_factor([0.05, 0.2, 1.0, 4.0], "C")]
    [2.13, 2.93, 1.19, 0.25]
    """
    start, slope, top, end, flat, flat_end, a, b, c = SHAPES[subsoil]
    t = np.asarray(period, dtype=float)
    safe = np.maximum(t, 1e-12)
    falling = np.where(t <= 1.5, a / safe**0.75, np.where(t <= 3.0, b / safe, c / safe**2))
    if static:
        return np.where(t <= flat_end, flat, falling)
    return np.where(t < 0.1, start + slope * t / 0.1, np.where(t <= end, top, falling))


def largest_near_fault(period: ArrayLike) -> Floats:
    """N_max(T), Table 3.7."""
    return np.asarray(np.interp(np.asarray(period, dtype=float), *N_MAX))


def near_fault(period: ArrayLike, distance: float | None) -> Floats:
    """N(T, D), 3.1.6, for return periods above 250 years; ``distance`` in m."""
    most = largest_near_fault(period)
    if distance is None or distance >= FARTHEST:
        return np.ones_like(most)
    fade = min(1.0, (FARTHEST - distance) / (FARTHEST - NEAREST))
    return np.asarray(1.0 + (most - 1.0) * fade)


@dataclass(frozen=True, slots=True)
class SiteSpectrum(Spectrum):
    """C(T) = C_h(T) Z R N(T, D) in m/s2; ``hazard`` is Z R."""

    name: str
    subsoil: Subsoil
    hazard: float
    distance: float | None
    damping: float = 0.05

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        return np.asarray(self.hazard * STANDARD_GRAVITY * shape_factor(period, self.subsoil)
                          * near_fault(period, self.distance))

    @property
    def corners(self) -> Mapping[str, float]:
        return {"T1": 0.1, "T2": SHAPES[self.subsoil][3], "T3": 1.5, "T4": 3.0}


class SiteInput(AskedOfSite):
    """The ``[site]`` table for NZS 1170.5."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    hazard_factor: float = Field(gt=0, le=1.0, description="Hazard factor Z, Table 3.3")
    subsoil: Subsoil = Field(description="Site subsoil class, 3.1.3")
    importance_level: Level = Field(description="Importance level 1 to 4, AS/NZS 1170.0")
    return_period: ReturnPeriod | None = Field(
        default=None, description="Return period of the ultimate limit state in years, as text; "
        "by the importance level and a working life of 50 years where left out")
    fault_distance: Extent | None = Field(
        default=None, description="Shortest distance to a major fault of Table 3.6; none is near "
        "where left out")


class NzsGround(Ground):
    """The site by NZS 1170.5."""

    def __init__(self, given: SiteInput) -> None:
        self.given = given

    def site(self) -> SiteAnswer:
        given = self.given
        w = Working(SectionKey("site"), "Site parameters and elastic spectrum",
                    replaced=given.replaced("site"))
        years = given.return_period or BY_LEVEL[given.importance_level]
        w.given("Z", given.hazard_factor, meaning="hazard factor", clause="3.1.4, Table 3.3",
                within=(0.0, 1.0))
        r = w.given("R_u", R_FACTOR[years], clause="3.1.5, Table 3.5",
                    meaning="return period factor, ultimate limit state",
                    branch=f"1/{years} a year" + (
                        "" if given.return_period else f", importance level "
                        f"{given.importance_level}, 50 years"), within=(0.0, 2.0))
        hazard = w.compute("ZR", "min(Z * R_u, 0.7)", meaning="hazard, at most 0.7",
                           clause="3.1.1")
        near = given.fault_distance if r > NEAR else None
        if near is not None:
            w.given("D", near / 1e3, "km", meaning="distance to a major fault", clause="3.1.6")
            w.compute("n_D", "clip((20 - D) / 18, 0, 1)", clause="3.1.6", empirical=True,
                      meaning="share of what is above 1 in the largest near-fault factor")
        spectrum = SiteSpectrum(f"{TITLE}, subsoil {given.subsoil}", given.subsoil, hazard, near)
        findings = (Finding(
            "near-fault factor", "site", Severity.NOTE,
            "No distance to a major fault is given: the near-fault factor is 1." if near is None
            else f"The near-fault factor at {near / 1e3:.3g} km is in the spectrum for periods "
            "above 1.5 s.", "3.1.6", "Give fault_distance where a fault of Table 3.6 is within "
            "20 km." if near is None else ""),) if r > NEAR else ()
        return SiteAnswer(
            {"Z": w.value("Z"), "R_u": r, "ZR": hazard}, given.subsoil, given.importance_level, "",
            1.0, spectrum, f"Z = {given.hazard_factor:g}, subsoil {given.subsoil}, importance "
            f"level {given.importance_level}, 1/{years} a year: ZR = {hazard:.3g}", w.close(),
            findings)

    def vertical(self, site: SiteAnswer) -> VerticalAnswer:
        """C_v(T) = 0.7 C(T) (3.2)."""
        w = Working(SectionKey("vertical spectrum"), "Vertical spectrum", site.working)
        share = w.given("c_v", 0.7, meaning="vertical over horizontal", clause="3.2")
        return VerticalAnswer(ScaledSpectrum(f"{TITLE}, vertical", site.spectrum, share),
                              w.close())


TITLE = "NZS 1170.5:2004"
