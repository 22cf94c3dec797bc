"""ASCE 7: the ``[site]`` table of a project."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.described import Described
from undatum.errors import InputError
from undatum.ground.spectrum import TabulatedSpectrum
from undatum.standards.asce7.facts import StudyValues
from undatum.standards.facts import AskedOfSite
from undatum.units import STANDARD_GRAVITY, Measure

InG = Annotated[float, Measure("acceleration in g", above=0.0, most=6.0, plausible=(0.0, 4.0))]
IN_G = (0.0, 6.0)  # what an acceleration over gravity lies in
LongPeriod = Annotated[float, Measure("time", above=0.0, most=40.0, plausible=(4.0, 16.0))]


class SiteInput(AskedOfSite):
    """The ``[site]`` table for ASCE 7-05, 7-10 and 7-16."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    ss: InG = Field(description="Mapped risk-targeted acceleration at short periods, S_S, in g")
    s1: InG = Field(description="Mapped risk-targeted acceleration at 1 s, S_1, in g")
    long_period: LongPeriod = Field(description="Long-period transition period T_L, in s")
    site_class: Literal["A", "B", "C", "D", "E", "F", "default"] = Field(
        description='Site class by investigation, or "default" where the soil is not known'
    )
    risk_category: Literal["I", "II", "III", "IV"] = Field(description="Risk category, 1.5.1")
    velocity_measured: bool = Field(
        default=False,
        description="For class B: shear wave velocity was measured at the site; otherwise its "
        "coefficients are 1.0 (7-16)"
    )
    category_by_short_period: bool = Field(
        default=False,
        description="Take the design category from S_DS alone; the conditions of 11.6 are "
        "checked once the periods are known"
    )
    study: StudyValues | None = Field(
        default=None, description="S_DS and S_D1 from a site-specific study, with the reason"
    )


class MultiPeriod(Described):
    """MCE_R ordinates at listed periods, from the mapped data for the site class (7-22)."""

    periods: tuple[float, ...] = Field(min_length=2, description="Periods in s, rising, from 0")
    accelerations: tuple[float, ...] = Field(min_length=2, description="MCE_R ordinates in g")

    @model_validator(mode="after")
    def _as_a_spectrum(self) -> MultiPeriod:
        try:
            TabulatedSpectrum("", tuple(self.periods),
                              tuple(a * STANDARD_GRAVITY for a in self.accelerations))
        except InputError as error:
            raise PydanticCustomError("advice", "{text}", {"text": error.faults[0].message}
                                      ) from None
        return self

    def spectrum(self, name: str) -> TabulatedSpectrum:
        """Two thirds of the ordinates, straight lines between (the design spectrum)."""
        return TabulatedSpectrum(
            f"{name}, multi-period", tuple(self.periods),
            tuple(2 / 3 * a * STANDARD_GRAVITY for a in self.accelerations))

    def largest(self, low: float, high: float, *, times_period: bool = False) -> float:
        """Largest design ordinate in g from ``low`` to ``high`` s, or largest period times it."""
        t = np.unique([low, high, *(t for t in self.periods if low <= t <= high)])
        a = 2 / 3 * np.interp(t, self.periods, self.accelerations)
        return float(np.max(t * a if times_period else a))


class SiteInput22(AskedOfSite):
    """The ``[site]`` table for ASCE 7-22: parameters come from the mapped data for the class."""

    name: str = Field(default="", description="Address or description of the site, for the record")
    ss: InG = Field(description="Mapped acceleration at short periods for class BC, S_S, in g")
    s1: InG = Field(description="Mapped acceleration at 1 s for class BC, S_1, in g")
    sms: InG | None = Field(
        default=None,
        description="S_MS of the mapped data for the site class, in g; from multi_period by "
        "21.4 where left out"
    )
    sm1: InG | None = Field(
        default=None, description="S_M1 of the mapped data for the site class, in g; likewise"
    )
    long_period: LongPeriod = Field(description="Long-period transition period T_L, in s")
    site_class: Literal["A", "B", "BC", "C", "CD", "D", "DE", "E", "F", "default"] = Field(
        description='Site class; for "default" the most severe of C, CD and D is to be given'
    )
    risk_category: Literal["I", "II", "III", "IV"] = Field(description="Risk category, 1.5.1")
    multi_period: MultiPeriod | None = Field(
        default=None,
        description="Multi-period MCE_R spectrum of the mapped data, in place of two periods"
    )
    category_by_short_period: bool = Field(
        default=False,
        description="Take the design category from S_DS alone; the conditions of 11.6 are "
        "checked once the periods are known"
    )
    study: StudyValues | None = Field(
        default=None, description="S_DS and S_D1 from a site-specific study, with the reason"
    )


    @model_validator(mode="after")
    def _parameters(self) -> SiteInput22:
        both = self.sms is not None, self.sm1 is not None
        if both[0] != both[1]:
            raise PydanticCustomError("advice", "one of two values is missing; give sms and sm1 "
                                                "together")
        if not both[0] and self.multi_period is None:
            raise PydanticCustomError(
                "advice", "the ground motion is not given; give sms and sm1 of the mapped data, "
                          "or a multi_period spectrum")
        if not both[0] and self.multi_period is not None and self.multi_period.periods[-1] < 5.0:
            raise PydanticCustomError(
                "advice", "without sms and sm1 the multi_period spectrum must reach 5 s (21.4); "
                          "give them, or longer periods")
        return self
