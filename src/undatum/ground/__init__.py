"""Shaking: a spectrum is a function of period that answers in m/s2, whoever made it."""

from undatum.ground.record import (
    GroundMotion,
    RecordSpectra,
    read_motion,
    response_spectra,
    rotated_spectra,
    usual_periods,
)
from undatum.ground.spectrum import (
    ScaledSpectrum,
    Spectrum,
    TabulatedSpectrum,
    TwoPeriodSpectrum,
    read_spectrum,
)

__all__ = [
    "GroundMotion",
    "RecordSpectra",
    "ScaledSpectrum",
    "Spectrum",
    "TabulatedSpectrum",
    "TwoPeriodSpectrum",
    "read_motion",
    "read_spectrum",
    "response_spectra",
    "rotated_spectra",
    "usual_periods",
]
