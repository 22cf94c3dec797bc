"""EN 1998-1, 3.2 and 4.2.5: ground, importance, elastic and design spectrum."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from numpy.typing import ArrayLike
from pydantic import Field

from undatum.described import Described, Named
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Floats, ReshapedSpectrum, Spectrum
from undatum.record import FixedDict, fixed
from undatum.standards.answers import DampingAnswer, SiteAnswer, VerticalAnswer
from undatum.standards.contract import Ground
from undatum.standards.en1998.facts import facts
from undatum.standards.facts import AskedOfSite
from undatum.units import STANDARD_GRAVITY, Measure
from undatum.working import SectionKey, Working

GroundAcceleration = Annotated[
    float, Measure("acceleration in g", above=0.0, most=2.0, plausible=(0.02, 0.6))
]
Damping = Annotated[float, Measure("ratio", above=0.0, most=0.5, plausible=(0.01, 0.2))]
Corner = Annotated[float, Measure("time", above=0.0, most=10.0)]


Psi2 = Annotated[float, Measure("ratio", least=0.0, most=1.0)]


class National(Described):
    """Nationally determined parameters in place of the recommended ones; each is recorded."""

    source: str = Field(min_length=3, description="The national annex they are taken from")
    S: float | None = Field(default=None, gt=0, le=4, description="Soil factor")
    TB: Corner | None = Field(default=None, description="Start of the plateau, s")
    TC: Corner | None = Field(default=None, description="End of the plateau, s")
    TD: Corner | None = Field(default=None, description="Start of constant displacement, s")
    amplification: float | None = Field(
        default=None, ge=1, le=5, description="Plateau over peak ground acceleration at 5 % damping"
    )
    importance_factor: float | None = Field(default=None, gt=0, le=2.5, description="gamma_I")
    beta: float | None = Field(
        default=None, ge=0, le=1, description="Least value of the design spectrum"
    )
    nu: float | None = Field(default=None, gt=0, le=1, description="Reduction to damage limitation")
    vertical_ratio: float | None = Field(default=None, gt=0, le=2, description="a_vg over a_g")
    vertical_TB: Corner | None = Field(default=None, description="Start of the vertical plateau, s")
    vertical_TC: Corner | None = Field(default=None, description="End of the vertical plateau, s")
    vertical_TD: Corner | None = Field(
        default=None, description="Vertical constant displacement from, s"
    )
    vertical_amplification: float | None = Field(
        default=None, ge=1, le=6, description="The same for the vertical spectrum"
    )
    psi2: Named[Literal["A", "B", "C", "D", "E", "F", "G", "H"], Psi2] = Field(
        default_factory=FixedDict,
        description="psi_2 by category of use, such as { B = 0.3, E = 0.8 }; storage is E")
    psi2_snow: float | None = Field(default=None, ge=0, le=1, description="psi_2 of snow")
    phi: float | None = Field(default=None, ge=0, le=1, description="phi of live load on floors")


class SiteInput(AskedOfSite):
    """The ``[site]`` table for EN 1998-1:2004."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    reference_acceleration: GroundAcceleration = Field(
        description="Reference peak ground acceleration on type A ground, a_gR, in g"
    )
    ground_type: Literal["A", "B", "C", "D", "E"] = Field(
        description="Ground type, Table 3.1; S1 and S2 need a special study"
    )
    spectrum_type: Literal[1, 2] = Field(
        default=1,
        description="1, or 2 where the hazard comes from surface-wave magnitudes up to 5.5"
    )
    importance_class: Literal["I", "II", "III", "IV"] = Field(description="4.2.5, Table 4.3")
    use: Literal["A", "B", "C", "D", "E", "F", "G", "H"] = Field(
        description="Category of use of the live load (EN 1991-1-1), for psi_2 of EN 1990"
    )
    correlated_use: bool = Field(
        default=True, description="Some stories are used together (phi 0.8 rather than 0.5), 4.2.4"
    )
    damping: Damping = Field(
        default=0.05,
        description="Viscous damping of the elastic spectrum; q covers it in the design one"
    )
    snow_above_1000m: bool = Field(
        default=False, description="Site above 1000 m: psi_2 of snow is 0.2"
    )
    national: National | None = Field(default=None, description="Nationally determined parameters")


@dataclass(frozen=True, slots=True)
class ElasticSpectrum(Spectrum):
    """Elastic response spectrum, 3.2.2.2 and 3.2.2.3. ``ag`` in m/s2, corners in s.

    ``amplification`` is 2.5 in the horizontal and 3.0 in the vertical direction. ``te`` and ``tf``
    are the control periods of Annex A for displacements beyond 4 s.
    """

    name: str
    ag: float
    soil: float
    tb: float
    tc: float
    td: float
    damping: float = 0.05
    amplification: float = 2.5
    te: float = math.inf
    tf: float = math.inf

    @property
    def correction(self) -> float:
        """Damping correction factor (Eq. 3.6), not below 0.55."""
        return float(max(np.sqrt(10.0 / (5.0 + 100.0 * self.damping)), 0.55))

    @fixed
    def displacement(self, period: ArrayLike) -> Floats:
        """Elastic displacement spectrum in m: Eq. 3.7, and Annex A beyond ``te``."""
        t = np.asarray(period, dtype=float)
        ground = 0.025 * self.ag * self.soil * self.tc * self.td
        peak = self.amplification * self.correction
        fall = np.clip((t - self.te) / (self.tf - self.te), 0.0, 1.0) if np.isfinite(self.tf) \
            else np.zeros_like(t)
        return np.where(t <= self.te, self(t) * (t / (2 * np.pi)) ** 2,
                        ground * (peak + fall * (1.0 - peak)))

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        plateau = self.amplification * self.correction
        shape = np.where(t < self.tb, 1.0 + t / self.tb * (plateau - 1.0),
                         plateau * _falling(t, self.tc, self.td))
        return np.asarray(self.ag * self.soil * shape)

    @property
    def corners(self) -> Mapping[str, float]:
        return {"TB": self.tb, "TC": self.tc, "TD": self.td}


@dataclass(frozen=True, slots=True)
class DesignSpectrum(Spectrum):
    """Design spectrum for elastic analysis, 3.2.2.5, with behavior factor ``q``."""

    name: str
    elastic: ElasticSpectrum
    q: float
    beta: float
    damping: float = 0.05

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        e, t = self.elastic, np.asarray(period, dtype=float)
        ramp = 2.0 / 3.0 + t / e.tb * (e.amplification / self.q - 2.0 / 3.0)
        rest = e.ag * e.soil * e.amplification / self.q * _falling(t, e.tc, e.td)
        # The least value is printed for T above TC (on the plateau it would need q above 12.5).
        rest = np.where(t > e.tc, np.maximum(rest, self.beta * e.ag), rest)
        return np.where(t < e.tb, e.ag * e.soil * ramp, rest)

    @property
    def corners(self) -> Mapping[str, float]:
        return self.elastic.corners


@dataclass(frozen=True, slots=True)
class ReducedSpectrum(ReshapedSpectrum):
    """Another elastic spectrum over ``q`` as 3.2.2.5 reduces its own: below ``tb`` on a straight
    line from 2/3 of the ordinate at zero (Eq. 3.13), not below ``least`` (m/s2)."""

    name: str
    base: Spectrum
    q: float
    tb: float
    least: float

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t, first = np.asarray(period, dtype=float), self.base.first_period
        found = np.maximum(self.base(np.maximum(t, first)) / self.q, self.least)
        if first >= self.tb:
            return np.asarray(found)
        start, top = self.ends
        return np.where(t < self.tb, start + t / self.tb * (top - start), found)

    @property
    def ends(self) -> tuple[float, float]:
        """The line below ``tb``: at zero, where the shortest ordinate known holds, and at it."""
        return (2.0 / 3.0 * float(self.base(self.base.first_period)),
                float(self.base(self.tb)) / self.q)


def _falling(t: Floats, tc: float, td: float) -> Floats:
    """1 on the plateau, TC/T, then TC TD/T2."""
    safe = np.maximum(t, 1e-12)
    return np.asarray(
        np.where(t <= tc, 1.0, np.where(t <= td, tc / safe, tc * td / safe**2))
    )


class EnGround(Ground):
    """The site by EN 1998-1."""

    def __init__(self, given: SiteInput) -> None:
        self.given = given

    def site(self) -> SiteAnswer:
        return answer(self.given)

    def about_own_spectrum(self, site: SiteAnswer) -> tuple[Finding, ...]:
        p = site.parameters
        return (Finding(
            "spectrum of one's own", "spectrum", Severity.NOTE,
            "It stands for the elastic spectrum S_e: soil and the importance factor gamma_I = "
            f"{p['gamma_I']:.3g} must be in its ordinates, nothing is multiplied. Below T_B = "
            f"{p['T_B']:.3g} s its reduction follows the line of Eq. 3.13 from 2/3 of the ordinate "
            f"at zero; the least value is beta a_g with a_g = {p['a_g']:.3g} g of the site.",
            "3.2.2.5(4)"),)

    def vertical(self, site: SiteAnswer) -> VerticalAnswer:
        return vertical(self.given, site)

    def damping(self, ratio: float) -> DampingAnswer:
        return damping_factor(ratio)


def answer(given: SiteInput) -> SiteAnswer:
    """Ground and importance with their working, and the elastic spectrum."""
    table, n = facts(), given.national
    w = Working(SectionKey("site"), "Site parameters and elastic spectrum",
                replaced=given.replaced("site"))
    w.given("a_gR", given.reference_acceleration, "g", clause="3.2.1",
            meaning="reference peak ground acceleration, type A ground")
    importance = national(w, "gamma_I", n, "importance_factor",
                          table["importance"][given.importance_class],
                          meaning="importance factor", clause="4.2.5",
                          branch=f"importance class {given.importance_class}")
    ag = w.compute("a_g", "gamma_I * a_gR", "g", meaning="design ground acceleration",
                   clause="3.2.1(3)")
    clause = f"3.2.2.2, Table 3.{1 + given.spectrum_type}"
    row = table[f"type{given.spectrum_type}"][given.ground_type]
    soil_and_corners = []
    for i, (symbol, key, unit, meaning) in enumerate((
        ("S", "S", "", "soil factor"),
        ("T_B", "TB", "s", "start of the plateau"),
        ("T_C", "TC", "s", "end of the plateau"),
        ("T_D", "TD", "s", "start of constant displacement"),
    )):
        soil_and_corners.append(national(
            w, symbol, n, key, row[i], unit, meaning=meaning, clause=clause,
            branch=f"type {given.spectrum_type}, ground {given.ground_type}",
        ))
    amplification = national(w, "F_0", n, "amplification", table["general"]["amplification"],
                             meaning="plateau over peak ground acceleration, 5 % damping",
                             clause="3.2.2.2, Eq. 3.3")
    national(w, "beta_0", n, "beta", table["general"]["beta"],
             meaning="least value of the design spectrum over a_g", clause="3.2.2.5(4)")
    if given.damping != 0.05:
        w.given("xi", 100 * given.damping, "%", meaning="viscous damping", clause="3.2.2.2(3)",
                replaceable=False)
        w.compute("eta", "max(sqrt(10 / (5 + xi)), 0.55)", meaning="damping correction factor",
                  clause="3.2.2.2(3), Eq. 3.6", replaceable=False)
    soil, tb, tc, td = soil_and_corners
    te, tf = table["displacement"][given.ground_type] if given.spectrum_type == 1 \
        else (math.inf, math.inf)
    spectrum = ElasticSpectrum(
        f"EN 1998-1, type {given.spectrum_type}, ground {given.ground_type}",
        ag * STANDARD_GRAVITY, soil, tb, tc, td, damping=given.damping,
        amplification=amplification, te=te, tf=tf,
    )
    findings = []
    own = None if n is None else n.vertical_ratio
    share = table["vertical"][str(given.spectrum_type)][0] if own is None else own
    if share * ag > 0.25:
        findings.append(Finding(
            "vertical component", "site", Severity.NOTE,
            f"a_vg = {share * ag:.3f} g is above 0.25 g: the vertical component counts for spans "
            "of 20 m and more, cantilevers longer than 5 m, prestressed members, beams that carry "
            "columns, and base-isolated structures.", "4.3.3.5.2(1)",
            "Take the vertical spectrum of this record for such members."))
    if ag * soil <= 0.05 or ag <= 0.04:
        findings.append(Finding(
            "very low seismicity", "site", Severity.NOTE,
            f"a_g = {ag:.3f} g: by the recommended values EN 1998 need not be applied.",
            "3.2.1(5)", "The calculation is run anyway."))
    parameters = {s: w.value(s) for s in ("a_gR", "gamma_I", "a_g", "S", "T_B", "T_C", "T_D")}
    parameters["beta"] = w.value("beta_0")
    return SiteAnswer(
        parameters, given.ground_type, given.importance_class, "", importance, spectrum,
        f"ground {given.ground_type}, importance class {given.importance_class}, "
        f"a_g {ag:.3f} g, S {soil:.2f}",
        w.close(), tuple(findings),
        "reference action of no-collapse, recommended 10 % in 50 years, times gamma_I",
    )


def vertical(given: SiteInput, site: SiteAnswer) -> VerticalAnswer:
    """Vertical elastic spectrum (3.2.2.3): no soil factor, plateau 3.0 eta a_vg by itself."""
    share, *corners = facts()["vertical"][str(given.spectrum_type)]
    w = Working(SectionKey("vertical spectrum"), "Vertical elastic spectrum", site.working)
    clause = "3.2.2.3, Table 3.4"
    national(w, "c_v", given.national, "vertical_ratio", share, clause=clause,
             meaning="vertical over horizontal ground acceleration",
             branch=f"type {given.spectrum_type}")
    avg = w.compute("a_vg", "c_v * a_g", "g", meaning="vertical ground acceleration", clause=clause)
    tb, tc, td = (
        national(w, symbol, given.national, f"vertical_T{symbol[2]}",
                 value, "s", meaning=meaning, clause=clause)
        for symbol, value, meaning in zip(
            ("T_Bv", "T_Cv", "T_Dv"), corners,
            ("start of the plateau", "end of the plateau", "start of constant displacement"),
            strict=True))
    amplification = national(
        w, "F_0v", given.national, "vertical_amplification",
        facts()["general"]["vertical_amplification"], clause="3.2.2.3, Eq. 3.9",
        meaning="plateau over vertical ground acceleration, 5 % damping")
    w.given("q_v", 1.5, meaning="largest behavior factor without justification",
            clause="3.2.2.5(6)", replaceable=False)
    return VerticalAnswer(
        ElasticSpectrum(f"EN 1998-1 vertical, type {given.spectrum_type}", avg * STANDARD_GRAVITY,
                        1.0, tb, tc, td, given.damping, amplification), w.close())


def damping_factor(damping: float) -> DampingAnswer:
    """eta for a damping ratio (Eq. 3.6), the same at every period."""
    said = f"{damping:.3g}"
    w = Working(SectionKey("damping", item=said), f"Damping correction at {said}")
    w.given("xi", 100 * damping, "%", meaning="viscous damping", clause="3.2.2.2(3)")
    clause, branch = "3.2.2.2(3), Eq. 3.6", (
        "for elastic response; with q above 1 the design spectrum already covers damping "
        "(3.2.2.5(3))")
    eta = w.compute("eta", "max(sqrt(10 / (5 + xi)), 0.55)", meaning="damping correction factor",
                    clause=clause, branch=branch)
    return DampingAnswer(np.array([eta]), np.array([0.0]), "damping correction factor", clause,
                         branch, w.close())


def national(
    w: Working, symbol: str, source: National | None, key: str, recommended: float,
    unit: str = "", *, meaning: str, clause: str, branch: str = "",
) -> float:
    """Write a nationally determined parameter: the national value where given, both recorded."""
    own: float | None = getattr(source, key, None)
    if own is None or source is None:
        return w.given(symbol, recommended, unit, meaning=meaning, clause=clause,
                       branch=f"{branch}, recommended value".removeprefix(", "))
    return w.given(symbol, own, unit, meaning=meaning, clause=clause,
                   branch=f"{source.source}; recommended {recommended:g}")
