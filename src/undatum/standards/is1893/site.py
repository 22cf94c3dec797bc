"""IS 1893 (Part 1): zone, soil, importance and the design acceleration spectrum."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Annotated, Any, Literal, TypeVar

import numpy as np
from numpy.typing import ArrayLike
from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Floats, ScaledSpectrum, Spectrum, TabulatedSpectrum
from undatum.record import fixed, frozen
from undatum.standards.answers import DampingAnswer, SiteAnswer, VerticalAnswer
from undatum.standards.contract import Ground
from undatum.standards.facts import AskedOfSite
from undatum.units import STANDARD_GRAVITY, Measure
from undatum.working import SectionKey, Working

Damping = Annotated[float, Measure("ratio", least=0.0, most=0.3, plausible=(0.01, 0.1))]


@cache
def facts() -> Mapping[str, Any]:
    """Zone, soil, period and response reduction tables of both editions."""
    text = (files(__package__) / "data" / "is1893.toml").read_text(encoding="utf-8")
    found: Mapping[str, Any] = frozen(tomllib.loads(text))
    return found


class SiteInput(AskedOfSite):
    """The ``[site]`` table for IS 1893 (Part 1):2016."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    zone: Literal["II", "III", "IV", "V"] = Field(description="Seismic zone")
    soil: Literal["I", "II", "III"] = Field(
        description="Soil type: I rock or hard, II medium or stiff, III soft"
    )
    use: Literal["important", "crowded", "other"] | None = Field(
        default=None,
        description="Use of the building, Table 8: important services and community buildings; "
        "homes and commerce with more than 200 persons; others"
    )
    importance_factor: Literal["1.0", "1.2", "1.5"] | None = Field(
        default=None, description="Importance factor, Table 8, as text; by use where left out"
    )

    @model_validator(mode="after")
    def _importance(self) -> SiteInput:
        return _asked_use(self)


class SiteInput2002(AskedOfSite):
    """The ``[site]`` table for IS 1893 (Part 1):2002."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    zone: Literal["II", "III", "IV", "V"] = Field(description="Seismic zone")
    soil: Literal["I", "II", "III"] = Field(
        description="Soil type: I rock or hard, II medium, III soft"
    )
    use: Literal["important", "other"] | None = Field(
        default=None,
        description="Use of the building, Table 6: important services and community buildings; "
        "others"
    )
    importance_factor: Literal["1.0", "1.5"] | None = Field(
        default=None, description="Importance factor, Table 6, as text; by use where left out"
    )
    damping: Damping = Field(default=0.05, description="Damping ratio, for the factors of Table 3")

    @model_validator(mode="after")
    def _importance(self) -> SiteInput2002:
        return _asked_use(self)


#: Importance factors by use, Table 8 (2016) and Table 6 (2002).
BY_USE = {"important": 1.5, "crowded": 1.2, "other": 1.0}


T = TypeVar("T", "SiteInput", "SiteInput2002")


def _asked_use(site: T) -> T:
    """One of use and importance factor has to be given, and the factor is not below the use's."""
    if site.use is None and site.importance_factor is None:
        raise PydanticCustomError(
            "advice", "the importance is not given; give the use of the building, or its "
                      "importance_factor")
    if site.use is not None and site.importance_factor is not None \
            and float(site.importance_factor) < BY_USE[site.use]:
        raise PydanticCustomError(
            "advice", "importance_factor = {given} is below {least}, that of use = {use}; give at "
                      "least that",
            {"given": site.importance_factor, "least": BY_USE[site.use], "use": repr(site.use)})
    return site


def importance_of(site: SiteInput | SiteInput2002) -> float:
    """The factor as given, or by use."""
    if site.importance_factor is not None:
        return float(site.importance_factor)
    return BY_USE[site.use or "other"]


@dataclass(frozen=True, slots=True)
class IndianSpectrum(Spectrum):
    """Z/2 times Sa/g in m/s2: 1 + 15 T up to 0.1 s, 2.5, a/T, and a constant beyond 4 s.

    ``beyond`` is the constant Sa/g after 4 s, or ``None`` where the edition gives none.
    """

    name: str
    half_zone: float
    corner: float
    numerator: float
    beyond: float | None
    multiplier: float = 1.0
    damping: float = 0.05

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        if self.beyond is None and np.any(t > 4.0):
            raise InputError([Fault(
                "site", f"the edition of 2002 gives no ordinate beyond 4 s; "
                f"{float(np.max(t)):.3g} s is asked", "give the spectrum as a table in [spectrum]",
            )])
        shape = np.where(t <= self.corner, 2.5, self.numerator / np.maximum(t, 1e-12))
        shape = np.where(t < 0.1, 1.0 + 15.0 * t, shape)
        if self.beyond is not None:
            shape = np.where(t > 4.0, self.beyond, shape)
        return np.asarray(self.half_zone * STANDARD_GRAVITY * self.multiplier * shape)

    @property
    def corners(self) -> Mapping[str, float]:
        return {"T1": 0.1, "T2": self.corner, "T3": 4.0}


class IndianGround(Ground):
    """The site by one edition."""

    def __init__(self, given: SiteInput | SiteInput2002, edition: str) -> None:
        self.given, self.edition = given, edition

    def site(self) -> SiteAnswer:
        return answer(self.given, self.edition)

    def vertical(self, site: SiteAnswer) -> VerticalAnswer:
        return vertical(site, self.edition)

    def damping(self, ratio: float) -> DampingAnswer | None:
        return damping_factor(ratio, self.edition)


def answer(given: SiteInput | SiteInput2002, edition: str) -> SiteAnswer:
    """Zone factor, soil and importance, and the spectrum before R and I."""
    table, late = facts(), edition == "2016"
    w = Working(SectionKey("site"), "Site parameters and design spectrum",
                replaced=given.replaced("site"))
    z = w.given("Z", table["zone"][given.zone], meaning="zone factor",
                clause="6.4.2, Table 3" if late else "6.4.2, Table 2", branch=f"zone {given.zone}")
    importance = w.given("I", importance_of(given), meaning="importance factor",
                         clause="7.2.3, Table 8" if late else "6.4.2, Table 6",
                         branch=f"use: {given.use}" if given.importance_factor is None else "")
    clause = "6.4.2" if late else "6.4.5"
    corner = w.given("T_2", table["corner"][given.soil][0], "s", clause=clause,
                     meaning=f"end of the plateau, soil {given.soil}")
    numerator = w.given("a", table["corner"][given.soil][1], clause=clause,
                        meaning="Sa/g times T on the falling branch")
    multiplier = 1.0
    if isinstance(given, SiteInput2002) and given.damping != 0.05:
        w.given("xi", 100 * given.damping, "%", meaning="damping", clause="7.8.2.1")
        multiplier = w.interpolate("m_xi", "xi", table["damping"]["percent"],
                                   table["damping"]["factor"], clause="6.4.2, Table 3",
                                   meaning="multiplying factor for damping")
    spectrum = IndianSpectrum(
        f"IS 1893:{edition}, zone {given.zone}, soil {given.soil}", z / 2, corner, numerator,
        table["beyond"][given.soil] if late else None, multiplier,
        getattr(given, "damping", 0.05),
    )
    return SiteAnswer(
        {"Z": z, "I": importance, "T_2": corner, "a": numerator, "m": multiplier}, given.soil,
        f"{importance:g}", given.zone, importance, spectrum,
        f"zone {given.zone}, soil {given.soil}, importance factor {importance:g}",
        w.close(), _status(given, edition), "design basis: half of the zone factor",
    )


def _status(given: SiteInput | SiteInput2002, edition: str) -> tuple[Finding, ...]:
    """What is taken of amendments, and whether the importance was asked for by use."""
    found = [Finding(
        "amendments", "site", Severity.NOTE,
        f"The edition of {edition} as issued; its amendments were not at hand. Of them only the "
        "accidental eccentricity alone in the modal analysis is taken.", "",
        "Check 7.8.2 and Tables 5, 6 and 9 against them." if edition == "2016" else
        "Check 7.9.2 and 7.8.4.4 against them.")]
    if given.use is None:
        found.append(Finding(
            "importance", "site", Severity.NOTE,
            f"The factor {importance_of(given):g} is as given; the use of the building is not "
            "stated.", "7.2.3, Table 8" if edition == "2016" else "6.4.2, Table 6",
            "Give site.use, so that it can be held against the table."))
    return tuple(found)


def vertical(site: SiteAnswer, edition: str) -> VerticalAnswer:
    """Two thirds of the horizontal spectrum (2002), or of its plateau at all periods (2016)."""
    w = Working(SectionKey("vertical spectrum"), "Vertical spectrum", site.working)
    clause = "6.4.6" if edition == "2016" else "6.4.5"
    share = w.given("c_v", 2.0 / 3.0, meaning="vertical over horizontal", clause=clause)
    if edition == "2016":
        level = w.compute("A_v0", "c_v * Z / 2 * 2.5", "g", clause=clause,
                          meaning="vertical acceleration before R and I, at every period",
                          branch="buildings: Sa/g is 2.5")
        flat = TabulatedSpectrum("IS 1893:2016 vertical", (0.0, 4.0),
                                 (level * STANDARD_GRAVITY,) * 2, beyond="hold")
        return VerticalAnswer(flat, w.close())
    factor = " * m_xi" if any(s.symbol == "m_xi" for s in site.working) else ""
    w.compute("A_v0", f"c_v * Z / 2 * 2.5{factor}", "g", clause=clause, replaceable=False,
              meaning="plateau of the vertical spectrum before R and I")
    return VerticalAnswer(ScaledSpectrum("IS 1893:2002 vertical", site.spectrum, share),
                          w.close())


def damping_factor(damping: float, edition: str) -> DampingAnswer | None:
    """Multiplying factor of the 2002 edition; that of 2016 keeps 5 % for all buildings."""
    if edition == "2016":
        return None
    table, said = facts()["damping"], f"{damping:.3g}"
    w = Working(SectionKey("damping", item=said), f"Damping factor at {said}")
    w.given("xi", 100 * damping, "%", meaning="damping", clause="7.8.2.1")
    meaning, clause = "multiplying factor for damping", "6.4.2, Table 3"
    factor = w.interpolate("m_xi", "xi", table["percent"], table["factor"], clause=clause,
                           meaning=meaning)
    done = w.close()
    return DampingAnswer(np.array([factor]), np.array([0.0]), meaning, clause,
                         done["m_xi"].branch, done)
