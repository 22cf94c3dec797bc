"""Shaking: a spectrum is a function of period that answers in m/s2, whoever made it."""

from undatum.ground.spectrum import (
    ScaledSpectrum,
    Spectrum,
    TabulatedSpectrum,
    TwoPeriodSpectrum,
    read_spectrum,
)

__all__ = [
    "ScaledSpectrum",
    "Spectrum",
    "TabulatedSpectrum",
    "TwoPeriodSpectrum",
    "read_spectrum",
]
