"""ASCE 7, chapter 11: site coefficients, design spectrum, seismic design category."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.described import Described
from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum, TabulatedSpectrum, TwoPeriodSpectrum
from undatum.standards.answers import AskedOfSite, BaseShearAnswer, PeriodAnswer, SiteAnswer
from undatum.standards.asce7.facts import Edition, StudyValues
from undatum.units import STANDARD_GRAVITY, Measure
from undatum.working import Working

InG = Annotated[float, Measure("acceleration in g", least=0.0, most=6.0, plausible=(0.0, 4.0))]
LongPeriod = Annotated[float, Measure("time", above=0.0, most=40.0, plausible=(4.0, 16.0))]


class SiteInput(AskedOfSite):
    """The ``[site]`` table for ASCE 7-05, 7-10 and 7-16."""

    name: str = Field("", description="Address or description of the site, for the record")
    ss: InG = Field(description="Mapped risk-targeted acceleration at short periods, S_S, in g")
    s1: InG = Field(description="Mapped risk-targeted acceleration at 1 s, S_1, in g")
    long_period: LongPeriod = Field(description="Long-period transition period T_L, in s")
    site_class: Literal["A", "B", "C", "D", "E", "F", "default"] = Field(
        description='Site class by investigation, or "default" where the soil is not known'
    )
    risk_category: Literal["I", "II", "III", "IV"] = Field(description="Risk category, 1.5.1")
    velocity_measured: bool = Field(
        True, description="For class B: shear wave velocity was measured at the site (11.4.3)"
    )
    category_by_short_period: bool = Field(
        False, description="Take the design category from S_DS alone; the conditions of 11.6 are "
        "checked once the periods are known"
    )
    study: StudyValues | None = Field(
        None, description="S_DS and S_D1 from a site-specific study, with the reason"
    )


class MultiPeriod(Described):
    """MCE_R ordinates at listed periods, from the mapped data for the site class (7-22)."""

    periods: list[float] = Field(min_length=2, description="Periods in s, rising, from 0")
    accelerations: list[float] = Field(min_length=2, description="MCE_R ordinates in g")

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

    name: str = Field("", description="Address or description of the site, for the record")
    ss: InG = Field(description="Mapped acceleration at short periods for class BC, S_S, in g")
    s1: InG = Field(description="Mapped acceleration at 1 s for class BC, S_1, in g")
    sms: InG | None = Field(
        None, description="S_MS of the mapped data for the site class, in g; from multi_period by "
        "21.4 where left out"
    )
    sm1: InG | None = Field(
        None, description="S_M1 of the mapped data for the site class, in g; likewise"
    )
    long_period: LongPeriod = Field(description="Long-period transition period T_L, in s")
    site_class: Literal["A", "B", "BC", "C", "CD", "D", "DE", "E", "F", "default"] = Field(
        description='Site class; for "default" the most severe of C, CD and D is to be given'
    )
    risk_category: Literal["I", "II", "III", "IV"] = Field(description="Risk category, 1.5.1")
    multi_period: MultiPeriod | None = Field(
        None, description="Multi-period MCE_R spectrum of the mapped data, in place of two periods"
    )
    category_by_short_period: bool = Field(
        False, description="Take the design category from S_DS alone; the conditions of 11.6 are "
        "checked once the periods are known"
    )
    study: StudyValues | None = Field(
        None, description="S_DS and S_D1 from a site-specific study, with the reason"
    )


    @model_validator(mode="after")
    def _parameters(self) -> SiteInput22:
        both = self.sms is not None, self.sm1 is not None
        if both[0] != both[1]:
            raise PydanticCustomError("advice", "give sms and sm1 together")
        if not both[0] and self.multi_period is None:
            raise PydanticCustomError(
                "advice", "give sms and sm1 of the mapped data, or a multi_period spectrum")
        if not both[0] and self.multi_period is not None and self.multi_period.periods[-1] < 5.0:
            raise PydanticCustomError(
                "advice", "without sms and sm1 the multi_period spectrum must reach 5 s (21.4)")
        return self


def answer(given: SiteInput | SiteInput22, edition: Edition) -> SiteAnswer:
    """Site parameters with their working; raises InputError for a class F site without a study."""
    w = Working("Site parameters and design spectrum", replaced=given.replaced)
    findings: list[Finding] = []
    mapped, spectrum_clause = edition.clause("mapped"), edition.clause("spectrum")
    w.given("S_S", given.ss, "g", meaning="mapped acceleration, short periods", clause=mapped)
    w.given("S_1", given.s1, "g", meaning="mapped acceleration at 1 s", clause=mapped)
    long = w.given("T_L", given.long_period, "s", meaning="long-period transition",
                   clause=spectrum_clause)
    importance = w.given(
        "I_e", edition.table("importance")[given.risk_category], meaning="importance factor",
        clause="11.5.1, Table 1.5-2", branch=f"risk category {given.risk_category}",
    )
    exception = 0
    if given.study:
        _study(w, given.study, edition)
    elif given.site_class == "F":
        raise InputError([Fault(
            "site.site_class",
            f"class F needs a site response analysis ({edition.clause('site_specific')}); no table "
            "covers it",
            "give its S_DS and S_D1 in site.study and its spectrum as a table in [spectrum]",
        )])
    elif isinstance(given, SiteInput22):
        _mapped_2022(w, given, edition)
    else:
        exception = _mapped(w, given, edition, findings)
    w.compute("T_S", "S_D1 / S_DS", "s", meaning="end of the plateau", clause=spectrum_clause)
    w.compute("T_0", "0.2 * S_D1 / S_DS", "s", meaning="start of the plateau",
              clause=spectrum_clause)
    soil = "site-specific study" if given.study else f"site class {given.site_class}"
    spectrum = _spectrum(w, exception, f"ASCE 7-{edition.key}, {soil}")
    multi = given.multi_period if isinstance(given, SiteInput22) else None
    shape: Spectrum = spectrum if multi is None else multi.spectrum(spectrum.name)
    if spectrum.ts >= long:
        raise InputError([Fault(
            "site.s1",
            f"puts the end of the plateau at {spectrum.ts:.3g} s, beyond the long-period "
            f"transition of {long:g} s", "are S_S and S_1 swapped?")])
    category = _category(w, given, edition)
    if category == "A":
        findings.append(Finding(
            "category A", "site", Severity.NOTE,
            "Seismic design category A asks only for the lateral force of 1.4.3 "
            "(1 % of the weight at each level).", "11.7",
            "The procedure below is run all the same; it is not required.",
        ))
    names = ("S_S", "S_1", "T_L", "S_DS", "S_D1", "T_0", "T_S", "I_e")
    parameters = {name: w.value(name) for name in names}
    if not given.study:
        parameters |= {name: w.value(name) for name in ("S_MS", "S_M1")}
        if isinstance(given, SiteInput):
            parameters |= {name: w.value(name) for name in ("F_a", "F_v")}
    parameters["exception"] = float(exception)
    return SiteAnswer(
        parameters, given.site_class, given.risk_category, category, importance, shape,
        f"class {given.site_class}, risk category {given.risk_category}, "
        f"S_DS {parameters['S_DS']:.3f} g, S_D1 {parameters['S_D1']:.3f} g, "
        f"design category {category}",
        given, w.close(), tuple(findings),
    )


def _mapped_2022(w: Working, given: SiteInput22, edition: Edition) -> None:
    """S_MS and S_M1 as mapped, or S_DS and S_D1 from the multi-period spectrum (21.4)."""
    soil = f"mapped data, site class {given.site_class}"
    if given.sms is not None and given.sm1 is not None:
        for symbol, value, meaning in (("S_MS", given.sms, "MCE_R acceleration, short periods"),
                                       ("S_M1", given.sm1, "MCE_R acceleration at 1 s")):
            w.given(symbol, value, "g", meaning=meaning, clause=edition.clause("coefficients"),
                    branch=soil)
        _design(w, edition)
        return
    multi = given.multi_period
    assert multi is not None  # the input model has seen to it
    last = 2.0 if given.site_class in ("A", "B", "BC", "C") else 5.0  # v_s30 above 1450 ft/s
    w.given("S_a", multi.largest(0.2, 5.0), "g", meaning="largest design ordinate, 0.2 s to 5 s",
            clause="21.4", branch=soil)
    w.given("S_v", multi.largest(1.0, last, times_period=True), "g",
            meaning=f"largest product of period and design ordinate, 1 s to {last:g} s",
            clause="21.4", branch=soil)
    w.given("S_a1", multi.largest(1.0, 1.0), "g", meaning="design ordinate at 1 s", clause="21.4")
    w.compute("S_DS", "0.9 * S_a", "g", meaning="design acceleration, short periods",
              clause="21.4")
    w.compute("S_D1", "max(0.9 * S_v, S_a1)", "g", meaning="design acceleration at 1 s",
              clause="21.4")
    for symbol, of in (("S_MS", "S_DS"), ("S_M1", "S_D1")):
        w.compute(symbol, f"1.5 * {of}", "g", meaning="MCE_R acceleration", clause="21.4")


def _study(w: Working, study: StudyValues, edition: Edition) -> None:
    clause = f"{edition.clause('site_specific')}, 21.4"
    w.given("S_DS", study.sds, "g", meaning="design acceleration, short periods", clause=clause,
            branch=f"site-specific study: {study.reason}")
    w.given("S_D1", study.sd1, "g", meaning="design acceleration at 1 s", clause=clause,
            branch=f"site-specific study: {study.reason}")


def _mapped(
    w: Working, given: SiteInput, edition: Edition, findings: list[Finding]
) -> int:
    """Coefficients and design values. Returns the exception of 11.4.8 (7-16) in use, or 0."""
    ss, s1 = w.value("S_S"), w.value("S_1")
    site_class = "D" if given.site_class == "default" else given.site_class
    exceptions = edition.rule("site_exceptions")
    exception, fa_class = 0, site_class
    if exceptions and site_class == "E" and ss >= 1.0:
        exception, fa_class = 1, "C"
        findings.append(_site_note(
            1, "Class E with S_S of 1.0 or more: F_a is taken as for class C in place of a "
            "ground motion hazard analysis."))
    if exceptions and site_class == "D" and s1 >= 0.2:
        exception = 2
        findings.append(_site_note(
            2, "Class D with S_1 of 0.2 or more: C_s keeps the plateau up to 1.5 T_S and is "
            "1.5 times the falling branch beyond, in place of a ground motion hazard analysis. "
            "The same is applied to the spectrum used in the modal analysis."))
    if exceptions and site_class == "E" and s1 >= 0.2:
        exception = 3
        findings.append(_site_note(
            3, "Class E with S_1 of 0.2 or more: without a ground motion hazard analysis only the "
            "equivalent lateral force procedure with T not above T_S is open.", Severity.WARNING))
    if site_class == "B" and not given.velocity_measured:
        for name in ("F_a", "F_v"):
            w.given(name, 1.0, meaning="site coefficient", clause=edition.clause("site_class"),
                    branch="class B without measured shear wave velocity")
    else:
        coefficients = edition.clause("coefficients")
        fa, fv = edition.table("Fa"), edition.table("Fv")
        row, points, clause = fa[fa_class], fa["points"], f"{coefficients}, Table 11.4-1"
        known = [(x, y) for x, y in zip(points, row, strict=True) if not isinstance(y, str)]
        points, row = [x for x, _ in known], [y for _, y in known]
        if fa_class == "E" and ss > points[-1]:
            clause += f" (no entry above {points[-1]:g} g; that value is held up to 1.0 g)"
        floor = given.site_class == "default" and edition.rule("default_class_floor")
        symbol = "F_a0" if floor else "F_a"
        w.interpolate(symbol, "S_S", points, row,
                      meaning=f"short-period site coefficient, class {fa_class}", clause=clause)
        if floor:
            w.compute("F_a", "max(F_a0, 1.2)", clause=coefficients,
                      meaning="short-period site coefficient, default site class",
                      branch="not below 1.2 where class D is taken by default")
        fv_clause = f"{coefficients}, Table 11.4-2"
        if exceptions and site_class == "E" and s1 > 0.1:
            fv_clause += " with Supplement 1"
        w.interpolate("F_v", "S_1", fv["points"], fv[site_class],
                      meaning=f"long-period site coefficient, class {site_class}",
                      clause=fv_clause)
    w.compute("S_MS", "F_a * S_S", "g", meaning="MCE acceleration, short periods",
              clause=f"{edition.clause('coefficients')}, Eq. 11.4-1")
    w.compute("S_M1", "F_v * S_1", "g", meaning="MCE acceleration at 1 s",
              clause=f"{edition.clause('coefficients')}, Eq. 11.4-2")
    _design(w, edition)
    return exception


def _design(w: Working, edition: Edition) -> None:
    """Design values: two thirds of the maximum considered ones."""
    clause = edition.clause("design")
    w.compute("S_DS", "2 / 3 * S_MS", "g", meaning="design acceleration, short periods",
              clause=edition.equation(clause, "11.4-3"))
    w.compute("S_D1", "2 / 3 * S_M1", "g", meaning="design acceleration at 1 s",
              clause=edition.equation(clause, "11.4-4"))


def _site_note(number: int, text: str, severity: Severity = Severity.NOTE) -> Finding:
    return Finding(f"site-specific ground motion, exception {number}", "site", severity, text,
                   "11.4.8", "A site-specific study (site.study and [spectrum]) replaces this.")


def procedures(
    site: SiteAnswer, periods: Sequence[PeriodAnswer], shears: Sequence[BaseShearAnswer],
    computed: Sequence[float],
) -> tuple[Finding, ...]:
    """What 11.6 and the exceptions of 11.4.8 leave open, once the periods are known."""
    by_sds = _short_period_conditions(site, periods, shears, computed)
    return (*by_sds, *_exception_3(site, shears))


def _short_period_conditions(
    site: SiteAnswer, periods: Sequence[PeriodAnswer], shears: Sequence[BaseShearAnswer],
    computed: Sequence[float],
) -> tuple[Finding, ...]:
    """The conditions under which S_DS alone gives the design category (11.6)."""
    if not site.given.category_by_short_period or "alone" not in site.working["SDC"].branch:
        return ()
    ts, found = site.parameters["T_S"], []
    for s, period, t in zip(shears, periods, computed, strict=True):
        plateau = s.governing.startswith("plateau")
        fine = period.approximate < 0.8 * ts and t < ts and plateau
        found.append(Finding(
            "design category by S_DS alone", f"direction {s.direction}",
            Severity.OK if fine else Severity.EXCEEDED,
            f"T_a = {period.approximate:.3f} s against 0.8 T_S = {0.8 * ts:.3f} s, T for drift = "
            f"{t:.3f} s against T_S = {ts:.3f} s, C_s from the {s.governing}; diaphragms are "
            "rigid." + ("" if fine else " Not every condition is met."), "11.6",
            "" if fine else "Take category_by_short_period out."))
    return tuple(found)


def _exception_3(site: SiteAnswer, shears: Sequence[BaseShearAnswer]) -> tuple[Finding, ...]:
    if site.parameters["exception"] != 3:
        return ()
    ts = site.parameters["T_S"]
    return tuple(
        Finding(
            "site-specific ground motion", f"direction {s.direction}",
            Severity.EXCEEDED if s.period > ts else Severity.OK,
            f"Exception 3 needs T not above T_S: T = {s.period:.3f} s, T_S = {ts:.3f} s"
            + ("; a ground motion hazard analysis is required." if s.period > ts else
               "; the static forces may be used, the spectrum analysis is for comparison."),
            "11.4.8 exception 3",
            "Have the study made and give it in site.study and [spectrum]."
            if s.period > ts else "", s.period, ts, "time",
        )
        for s in shears
    )


def _spectrum(w: Working, exception: int, name: str) -> TwoPeriodSpectrum:
    one_second, ts = w.value("S_D1"), w.value("T_S")
    if exception == 2:
        one_second = w.compute(
            "S_D1s", "1.5 * S_D1", "g", clause="11.4.8 exception 2",
            meaning="1-second ordinate of the spectrum used in the modal analysis",
        )
        ts = w.compute("T_Ss", "1.5 * T_S", "s", clause="11.4.8 exception 2",
                       meaning="end of the plateau of that spectrum")
    return TwoPeriodSpectrum(
        name, w.value("S_DS") * STANDARD_GRAVITY, one_second * STANDARD_GRAVITY,
        w.value("T_0"), ts, w.value("T_L"),
    )


def _category(w: Working, given: SiteInput | SiteInput22, edition: Edition) -> str:
    limits = edition.table("category")
    letters = limits["essential" if given.risk_category == "IV" else "usual"]
    ss, s1 = w.value("S_S"), w.value("S_1")
    if ss <= 0.15 and s1 <= 0.04 and not given.study:
        category, why = "A", "S_S ≤ 0.15 and S_1 ≤ 0.04 (11.4.1)"
    elif s1 >= 0.75:
        category = "F" if given.risk_category == "IV" else "E"
        why = "S_1 ≥ 0.75"
    elif given.category_by_short_period:
        category = str(letters[sum(w.value("S_DS") >= x for x in limits["SDS"])])
        why = "by S_DS alone (Table 11.6-1); the conditions are checked below"
    else:
        by = {
            symbol: str(letters[sum(w.value(f"S_{symbol[1:]}") >= x for x in limits[symbol])])
            for symbol in ("SDS", "SD1")
        }
        category = max(by.values())
        why = f"{by['SDS']} by S_DS (Table 11.6-1), {by['SD1']} by S_D1 (Table 11.6-2)"
    w.given("SDC", category, meaning="seismic design category", clause="11.6", branch=why)
    return category
