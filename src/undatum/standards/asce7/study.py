"""ASCE 7, 21.4: design values from a site-specific study, held against its spectrum."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum
from undatum.standards.answers import SiteAnswer
from undatum.standards.asce7 import spectra
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.inputs import SiteInput, SiteInput22
from undatum.standards.terms import Direction
from undatum.units import STANDARD_GRAVITY

#: Classes whose shear wave velocity is above 1200 ft/s (1450 ft/s in 2022) throughout.
STIFF = ("A", "B", "BC", "C")


def judge(
    given: SiteInput | SiteInput22, site: SiteAnswer, study: Mapping[Direction, Spectrum],
    edition: Edition,
) -> tuple[Finding, ...]:
    """S_DS and S_D1 of a study against its spectrum and against 80 % of the general values."""
    if not given.study:
        return ()
    least: dict[str, list[tuple[float, str]]] = {"S_DS": [], "S_D1": []}
    for symbol, general in _general(given, site, edition).items():
        least[symbol].append((general, "80 % of the general value"))
    for d, spectrum in study.items():
        for symbol, value, why in _asked(spectrum, given.site_class, edition):
            least[symbol].append((value, f"{why} (spectrum in {d})"))
    found = []
    for symbol, asked in least.items():
        value = site.parameters[symbol]
        most, why = max(asked)
        low = value < most * (1 - 1e-3)  # the printed digits of a study
        found.append(Finding(
            f"{symbol} of the study", "site", Severity.EXCEEDED if low else Severity.OK,
            f"{value:.3f} g against at least {most:.3f} g: {why}."
            + ("" if study else " The spectrum of the study is not given, so that it could not be "
               "compared with it."), "21.4",
            f"Give at least {most:.3f} g in site.study, or a spectrum that agrees with it."
            if low else "", most, value, "acceleration in g"))
    return tuple(found)


def _general(
    given: SiteInput | SiteInput22, site: SiteAnswer, edition: Edition
) -> dict[str, float]:
    """80 % of the general S_DS and S_D1 in g; from the curve where it has no such parameters."""
    floor = spectra.least_spectrum(given, site, edition)
    values = {s.symbol: s.value for s in floor.working}
    if "S_DS21" in values:
        return {symbol: float(values[f"{symbol}21"]) * float(values["c_21"])  # type: ignore[arg-type]
                for symbol in ("S_DS", "S_D1")}
    last = 2.0 if given.site_class in STIFF else 5.0
    return {"S_DS": 0.9 * _largest(floor.spectrum, 0.2, 5.0)[0],
            "S_D1": 0.9 * _largest(floor.spectrum, 1.0, last)[1]}


def _asked(
    spectrum: Spectrum, site_class: str, edition: Edition
) -> list[tuple[str, float, str]]:
    """What the edition makes of the ordinates: symbol, least value in g, in words."""
    last = min(spectrum.last_period, 2.0 if site_class in STIFF else 5.0)

    def at(t: float) -> float:
        return float(spectrum(min(t, spectrum.last_period))) / STANDARD_GRAVITY

    if edition.rule("study_values") == "ordinates":
        return [
            ("S_DS", at(0.2), "the ordinate at 0.2 s"),
            ("S_DS", 0.9 * _largest(spectrum, 0.2, 10.0)[0], "90 % of the largest ordinate beyond "
             "0.2 s"),
            ("S_D1", at(1.0), "the ordinate at 1 s"),
            ("S_D1", 2.0 * at(2.0), "twice the ordinate at 2 s")]
    share = 0.9 if edition.rule("study_values") == "share of largest" else 1.0
    words = "" if share == 1.0 else "90 % of "
    return [
        ("S_DS", 0.9 * _largest(spectrum, 0.2, 5.0)[0], "90 % of the largest ordinate from 0.2 s "
         "to 5 s"),
        ("S_D1", share * _largest(spectrum, 1.0, last)[1],
         f"{words}the largest product of period and ordinate from 1 s to {last:g} s"),
        *([("S_D1", at(1.0), "the ordinate at 1 s")] if share < 1.0 else [])]


def _largest(spectrum: Spectrum, low: float, high: float) -> tuple[float, float]:
    """Largest ordinate in g, and largest product with the period, between two periods."""
    high = min(high, spectrum.last_period)
    corners = [c for c in spectrum.corners.values() if low < c < high]
    t = np.unique([*np.linspace(low, max(high, low), 2001), *corners])
    a = np.asarray(spectrum(t)) / STANDARD_GRAVITY
    return float(a.max()), float((t * a).max())
