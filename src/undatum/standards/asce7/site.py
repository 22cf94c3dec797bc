"""ASCE 7, chapter 11: site coefficients, design spectrum, seismic design category."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum, TwoPeriodSpectrum
from undatum.standards.answers import FloorAnswer, SiteAnswer, VerticalAnswer
from undatum.standards.asce7 import spectra, study
from undatum.standards.asce7.facts import Edition, StudyValues
from undatum.standards.asce7.inputs import IN_G, SiteInput, SiteInput22
from undatum.standards.contract import Ground
from undatum.standards.terms import Direction
from undatum.units import STANDARD_GRAVITY
from undatum.working import SectionKey, Working


class AsceGround(Ground):
    """The site by one edition."""

    def __init__(self, given: SiteInput | SiteInput22, edition: Edition) -> None:
        self.given, self.edition = given, edition

    def site(self) -> SiteAnswer:
        return answer(self.given, self.edition)

    def vertical(self, site: SiteAnswer) -> VerticalAnswer | None:
        return spectra.vertical(self.given, site, self.edition)

    def floor(self, site: SiteAnswer) -> FloorAnswer:
        return spectra.least_spectrum(self.given, site, self.edition)

    def study(
        self, site: SiteAnswer, spectra: Mapping[Direction, Spectrum]
    ) -> tuple[Finding, ...]:
        return study.judge(self.given, site, spectra, self.edition)


def answer(given: SiteInput | SiteInput22, edition: Edition) -> SiteAnswer:
    """Site parameters with their working; raises InputError for a class F site without a study."""
    w = Working(SectionKey("site"), "Site parameters and design spectrum",
                replaced=given.replaced("site"))
    findings: list[Finding] = []
    mapped, spectrum_clause = edition.clause("mapped"), edition.clause("spectrum")
    w.given("S_S", given.ss, "g", meaning="mapped acceleration, short periods", clause=mapped,
            within=IN_G)
    w.given("S_1", given.s1, "g", within=IN_G, meaning="mapped acceleration at 1 s", clause=mapped)
    long = w.given("T_L", given.long_period, "s", meaning="long-period transition",
                   clause=spectrum_clause)
    importance = w.given(
        "I_e", edition.table("importance")[given.risk_category], meaning="importance factor",
        clause=edition.clause("importance"),
        branch=f"{edition.clause('risk')} {given.risk_category}",
        within=(0.5, 3.0),
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
    w.compute("T_S", "S_D1 / S_DS", "s", meaning="end of the plateau", clause=spectrum_clause,
              empirical=True)  # S_D1 is an ordinate at 1 s
    w.compute("T_0", "0.2 * S_D1 / S_DS", "s", meaning="start of the plateau",
              clause=spectrum_clause, empirical=True)
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
            "Seismic design category A requires only a lateral force of 1 % of the weight at each "
            f"level ({edition.clause('lateral_force_a')}): those are the static forces. Drift, "
            "P-Delta and the spectrum analysis are for information.", "11.7",
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
        f"class {given.site_class}, {edition.clause('risk')} {given.risk_category}, "
        f"S_DS {parameters['S_DS']:.3f} g, S_D1 {parameters['S_D1']:.3f} g, "
        f"design category {category}",
        w.close(), tuple(findings),
        "two thirds of the maximum considered earthquake" if edition.key == "05" else
        "two thirds of the risk-targeted maximum considered earthquake",
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
               "equivalent lateral force procedure with T not above T_S is "
               "permitted.", Severity.WARNING))
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
    w.compute("S_MS", "F_a * S_S", "g", within=IN_G, meaning="MCE acceleration, short periods",
              clause=f"{edition.clause('coefficients')}, Eq. 11.4-1")
    w.compute("S_M1", "F_v * S_1", "g", within=IN_G, meaning="MCE acceleration at 1 s",
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
        w.value("T_0"), ts, w.value("T_L"), end="1.5 Ts" if exception == 2 else "Ts",
    )


BY_SHORT_PERIOD = "by S_DS alone"  # branch of the design category


def _category(w: Working, given: SiteInput | SiteInput22, edition: Edition) -> str:
    limits = edition.table("category")
    letters = limits["essential" if given.risk_category == "IV" else "usual"]
    ss, s1 = w.value("S_S"), w.value("S_1")
    if ss <= 0.15 and s1 <= 0.04 and not given.study:
        category, why, key = "A", \
            f"S_S ≤ 0.15 and S_1 ≤ 0.04 ({edition.clause('mapped')})", "low hazard"
    elif s1 >= 0.75:
        category = "F" if given.risk_category == "IV" else "E"
        why, key = "S_1 ≥ 0.75", "near fault"
    elif given.category_by_short_period:
        category = str(letters[sum(w.value("S_DS") >= x for x in limits["SDS"])])
        why = "by S_DS alone (Table 11.6-1); the conditions are checked below"
        key = BY_SHORT_PERIOD
    else:
        by = {
            symbol: str(letters[sum(w.value(f"S_{symbol[1:]}") >= x for x in limits[symbol])])
            for symbol in ("SDS", "SD1")
        }
        category = max(by.values())
        why = f"{by['SDS']} by S_DS (Table 11.6-1), {by['SD1']} by S_D1 (Table 11.6-2)"
        key = "both tables"
    w.given("SDC", category, meaning="seismic design category", clause="11.6", branch=why,
            key=key)
    return category
