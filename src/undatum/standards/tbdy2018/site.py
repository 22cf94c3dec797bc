"""TBDY 2018, chapters 2 and 3: mapped accelerations, soil, spectra and design category."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.ground.spectrum import TwoPeriodSpectrum
from undatum.record import FixedDict
from undatum.standards.answers import SiteAnswer, VerticalAnswer
from undatum.standards.contract import Ground
from undatum.standards.facts import AskedOfSite
from undatum.units import STANDARD_GRAVITY, Measure
from undatum.working import SectionKey, Working

TITLE = "TBDY 2018"
SiteClass = Literal["ZA", "ZB", "ZC", "ZD", "ZE"]
InG = Annotated[float, Measure("acceleration in g", above=0.0, most=4.0)]
T_L = 6.0  # s, start of the 1/T2 branch

#: Short-period site coefficient F_S (Table 2.1) and F_1 for 1 s (Table 2.2).
SS = (0.25, 0.50, 0.75, 1.00, 1.25, 1.50)
FS: Mapping[str, tuple[float, ...]] = FixedDict({
    "ZA": (0.8,) * 6, "ZB": (0.9,) * 6, "ZC": (1.3, 1.3, 1.2, 1.2, 1.2, 1.2),
    "ZD": (1.6, 1.4, 1.2, 1.1, 1.0, 1.0), "ZE": (2.4, 1.7, 1.3, 1.1, 0.9, 0.8)})
S1 = (0.10, 0.20, 0.30, 0.40, 0.50, 0.60)
F1: Mapping[str, tuple[float, ...]] = FixedDict({
    "ZA": (0.8,) * 6, "ZB": (0.8,) * 6, "ZC": (1.5, 1.5, 1.5, 1.5, 1.5, 1.4),
    "ZD": (2.4, 2.2, 2.0, 1.9, 1.8, 1.7), "ZE": (4.2, 3.3, 2.8, 2.4, 2.2, 2.0)})
#: Importance factor I by the class of use (Table 3.1).
IMPORTANCE: Mapping[str, float] = FixedDict({"1": 1.5, "2": 1.2, "3": 1.0})


class SiteInput(AskedOfSite):
    """The ``[site]`` table for TBDY 2018. Accelerations are of the map, in g."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    ss: InG = Field(description="S_S of DD-2 (10 % in 50 years), map, in g")
    s1: InG = Field(description="S_1 of DD-2, map, in g")
    ss_dd3: InG | None = Field(
        default=None, description="S_S of DD-3 (50 % in 50 years), for the drift limit; without it "
        "drift is not judged")
    s1_dd3: InG | None = Field(default=None, description="S_1 of DD-3, for the drift limit")
    site_class: SiteClass = Field(description="Local soil class; ZF needs a study of its own")
    use_class: Literal["1", "2", "3"] = Field(
        description="Class of use of the building (BKS), Table 3.1")
    live_participation: Literal["0.3", "0.6"] = Field(
        default="0.3", description="n of the live load: 0.6 in schools, dormitories, sport, "
        "cinema, theatre, concert, car parks, restaurants, shops; 0.3 in dwellings, offices, "
        "hotels, hospitals. A load with a use of its own takes that of its use")

    @model_validator(mode="after")
    def _both(self) -> SiteInput:
        if (self.ss_dd3 is None) != (self.s1_dd3 is None):
            raise PydanticCustomError("reason", "DD-3 has one of two values; give ss_dd3 and "
                                                "s1_dd3, or neither")
        return self


class TbdyGround(Ground):
    """The site by TBDY 2018."""

    def __init__(self, given: SiteInput) -> None:
        self.given = given

    def site(self) -> SiteAnswer:
        given = self.given
        w = Working(SectionKey("site"), "Site parameters and design spectrum",
                    replaced=given.replaced("site"))
        sds, sd1 = _ordinates(w, given.ss, given.s1, given.site_class, "")
        importance = w.given("I", IMPORTANCE[given.use_class], meaning="importance factor",
                             clause="Table 3.1", branch=f"class of use {given.use_class}",
                             within=(1.0, 1.5))
        ta = w.compute("T_A", "0.2 * S_D1 / S_DS", "s", meaning="start of the plateau",
                       clause="2.3.4", empirical=True)
        tb = w.compute("T_B", "S_D1 / S_DS", "s", meaning="end of the plateau", clause="2.3.4",
                       empirical=True)
        grade, bound = next((n, text) for n, text, holds in (
            (4, "S_DS < 0.33", sds < 0.33), (3, "0.33 ≤ S_DS < 0.50", sds < 0.50),
            (2, "0.50 ≤ S_DS < 0.75", sds < 0.75), (1, "0.75 ≤ S_DS", True)) if holds)
        w.given("DTS", float(grade), clause="3.2, Table 3.2", branch=bound, replaceable=False,
                meaning="design category" + (", with the letter a" if given.use_class == "1"
                                             else ""))
        parameters = {"S_DS": sds, "S_D1": sd1, "T_A": ta, "T_B": tb}
        if given.ss_dd3 is not None and given.s1_dd3 is not None:
            parameters["S_DS3"], parameters["S_D13"] = _ordinates(
                w, given.ss_dd3, given.s1_dd3, given.site_class, "3")
        category = str(grade) + ("a" if given.use_class == "1" else "")
        spectrum = TwoPeriodSpectrum(f"{TITLE}, class {given.site_class}", sds * STANDARD_GRAVITY,
                                     sd1 * STANDARD_GRAVITY, ta, tb, T_L, end="T_B")
        return SiteAnswer(
            parameters, given.site_class, given.use_class, category, importance, spectrum,
            f"class {given.site_class}, class of use {given.use_class}, S_DS {sds:.3f} g, S_D1 "
            f"{sd1:.3f} g, design category {category}", w.close(), (),
            "DD-2, 10 % in 50 years, before reduction and importance")

    def vertical(self, site: SiteAnswer) -> VerticalAnswer:
        """0.8 of the plateau at a third of the corner periods, up to T_L / 2 (2.3.5)."""
        w = Working(SectionKey("vertical spectrum"), "Vertical spectrum", site.working)
        clause = "2.3.5"
        w.given("c_v", 0.8, meaning="vertical over horizontal plateau", clause=clause)
        top = w.compute("S_DSD", "c_v * S_DS", "g", meaning="vertical plateau", clause=clause)
        tad = w.compute("T_AD", "T_A / 3", "s", meaning="start of the plateau", clause=clause)
        tbd = w.compute("T_BD", "T_B / 3", "s", meaning="end of the plateau", clause=clause)
        return VerticalAnswer(TwoPeriodSpectrum(
            f"{TITLE}, vertical", top * STANDARD_GRAVITY, top * tbd * STANDARD_GRAVITY, tad, tbd,
            T_L / 2, end="T_BD"), w.close())


def _ordinates(
    w: Working, ss: float, s1: float, site_class: str, mark: str
) -> tuple[float, float]:
    """S_DS and S_D1 of an earthquake level, in g."""
    level = "DD-3" if mark else "DD-2"
    s, one = (f"S_S{mark}" if mark else "S_S"), (f"S_1{mark}" if mark else "S_1")
    w.given(s, ss, "g", meaning=f"mapped short-period acceleration, {level}", clause="2.3.2",
            within=(0.0, 4.0))
    w.given(one, s1, "g", meaning=f"mapped acceleration at 1 s, {level}", clause="2.3.2",
            within=(0.0, 4.0))
    w.interpolate(f"F_S{mark}", s, SS, FS[site_class], clause="2.3.3, Table 2.1",
                  meaning=f"short-period coefficient, class {site_class}")
    w.interpolate(f"F_1{mark}", one, S1, F1[site_class], clause="2.3.3, Table 2.2",
                  meaning=f"coefficient at 1 s, class {site_class}")
    return (w.compute(f"S_DS{mark}", f"{s} * F_S{mark}", "g", clause="2.3.2",
                      meaning=f"short-period design acceleration, {level}"),
            w.compute(f"S_D1{mark}", f"{one} * F_1{mark}", "g", clause="2.3.2",
                      meaning=f"design acceleration at 1 s, {level}"))
