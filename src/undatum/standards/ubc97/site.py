"""UBC 1997, 1629: zone, soil profile, near-source factors, seismic coefficients, spectrum."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.ground.spectrum import ScaledSpectrum, TwoPeriodSpectrum
from undatum.standards.answers import SiteAnswer, VerticalAnswer
from undatum.standards.contract import Ground
from undatum.standards.facts import AskedOfSite
from undatum.standards.ubc97.facts import facts
from undatum.units import STANDARD_GRAVITY, Measure
from undatum.working import SectionKey, Working

Distance = Annotated[float, Measure("length", least=0.0, most=1e6)]


class SiteInput(AskedOfSite):
    """The ``[site]`` table for UBC 1997."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    zone: Literal["1", "2A", "2B", "3", "4"] = Field(description="Seismic zone")
    soil: Literal["SA", "SB", "SC", "SD", "SE"] = Field(
        description="Soil profile type; SF needs a site-specific study"
    )
    occupancy_category: Literal[
        "essential", "hazardous", "special occupancy", "standard", "miscellaneous"
    ] = Field(description="Occupancy category, Table 16-K")
    source_type: Literal["A", "B", "C"] | None = Field(
        default=None, description="Seismic source type, zone 4"
    )
    source_distance: Distance | None = Field(
        default=None, description='Closest distance to the source, zone 4, such as "7 km"'
    )
    near_source_cap: bool = Field(
        default=False, description="Na need not exceed 1.1: every condition of 1629.4.2 is met"
    )

    live_with_earthquake: Literal["1.0", "0.5"] = Field(
        default="1.0", description="f1 of 1612.2.1: 0.5 where no floor is a place of public "
        "assembly or a garage or has live load above 100 psf")
    concrete_multiplier: bool = Field(
        default=False, description="Strength combinations with earthquake are multiplied by 1.1 "
        "for concrete and masonry (1612.2.1)")
    snow_with_earthquake: Literal["0.7", "0.2"] = Field(
        default="0.7", description="f2 of 1612.2.1: 0.2 where the roof sheds snow")

    @model_validator(mode="after")
    def _source(self) -> SiteInput:
        if self.zone == "4" and (self.source_type is None or self.source_distance is None):
            raise PydanticCustomError(
                "reason", "zone 4 asks for the source (1629.4.2); give source_type and "
                          "source_distance")
        return self


class UbcGround(Ground):
    """The site by UBC 1997."""

    def __init__(self, given: SiteInput) -> None:
        self.given = given

    def site(self) -> SiteAnswer:
        return answer(self.given)

    def vertical(self, site: SiteAnswer) -> VerticalAnswer:
        """Two thirds of the horizontal spectrum (1631.2)."""
        w = Working(SectionKey("vertical spectrum"), "Vertical spectrum", site.working)
        share = w.given(
            "c_v", 2.0 / 3.0, meaning="vertical over horizontal", clause="1631.2",
            branch="where N_a is above 1.0 a site-specific vertical spectrum is asked for"
            if site.parameters["N_a"] > 1.0 else "")
        w.compute("A_v", "c_v * 2.5 * C_a", "g", meaning="plateau of the vertical spectrum",
                  clause="1631.2", replaceable=False)
        return VerticalAnswer(ScaledSpectrum("UBC 1997 vertical", site.spectrum, share), w.close())


def answer(given: SiteInput) -> SiteAnswer:
    """Ca, Cv and the design response spectrum of Figure 16-3."""
    table = facts()
    w = Working(SectionKey("site"), "Site parameters and design spectrum",
                replaced=given.replaced("site"))
    z = w.given("Z", table["zone"][given.zone], meaning="zone factor",
                clause="1629.4.1, Table 16-I", branch=f"zone {given.zone}", replaceable=False)
    importance = w.given("I", table["importance"][given.occupancy_category], clause="Table 16-K",
                         meaning="importance factor", branch=given.occupancy_category)
    column = list(table["zone"]).index(given.zone)
    near = given.zone == "4"
    if near:
        assert given.source_type is not None  # seen to by the input model
        w.given("d", (given.source_distance or 0.0) / 1e3, "km", meaning="distance to the source",
                clause="1629.4.2")
        capped = given.near_source_cap
        for symbol, key, number in (("N_a", "Na", "16-S"), ("N_v", "Nv", "16-T")):
            raw = symbol + ("_t" if capped and symbol == "N_a" else "")
            w.interpolate(raw, "d", table[key]["distance"], table[key][given.source_type],
                          meaning=f"near-source factor, source type {given.source_type}",
                          clause=f"Table {number}")
        if capped:
            w.compute("N_a", "min(N_a_t, 1.1)", meaning="near-source factor", clause="1629.4.2",
                      branch="the conditions for 1.1 are met, as stated in the project")
    for symbol, key, number in (("C_a", "Ca", "16-Q"), ("C_v", "Cv", "16-R")):
        value, clause = table[key][given.soil][column], f"1629.4.3, Table {number}"
        meaning = f"seismic coefficient, soil {given.soil}"
        if near:
            w.given(f"{symbol}4", value, meaning=f"{meaning}, without the near-source factor",
                    clause=clause)
            w.compute(symbol, f"{symbol}4 * N_{key[1]}", meaning=meaning, clause=clause)
        else:
            w.given(symbol, value, meaning=meaning, clause=clause)
    ts = w.compute("T_s", "C_v / (2.5 * C_a)", "s", meaning="end of the plateau",
                   clause="Figure 16-3", empirical=True)  # C_v is an ordinate at 1 s
    t0 = w.compute("T_0", "0.2 * T_s", "s", meaning="start of the plateau", clause="Figure 16-3")
    ca, cv = w.value("C_a"), w.value("C_v")
    spectrum = TwoPeriodSpectrum(
        f"UBC 1997, zone {given.zone}, soil {given.soil}", 2.5 * ca * STANDARD_GRAVITY,
        cv * STANDARD_GRAVITY, t0, ts, math.inf,
    )
    parameters = {"Z": z, "I": importance, "C_a": ca, "C_v": cv, "T_s": ts, "T_0": t0,
                  "N_a": w.value("N_a") if near else 1.0, "N_v": w.value("N_v") if near else 1.0}
    return SiteAnswer(
        parameters, given.soil, given.occupancy_category, given.zone, importance, spectrum,
        f"zone {given.zone}, soil {given.soil}, {given.occupancy_category}, C_a {ca:.3f}, "
        f"C_v {cv:.3f}",
        w.close(), hazard="10 % in 50 years",
    )
