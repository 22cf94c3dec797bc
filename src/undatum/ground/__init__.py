"""Shaking: a spectrum is a function of period that answers in m/s2, whoever made it."""

from undatum.ground.curves import DampingCurves, read_curves, read_spectrum
from undatum.ground.hazard import look_up
from undatum.ground.location import Location, LookedUp
from undatum.ground.motion import (
    GroundMotion,
    RecordSpectra,
    read_motion,
    response_spectra,
    rotated_spectra,
    usual_periods,
)
from undatum.ground.spectrum import (
    CombinedSpectrum,
    ScaledSpectrum,
    Spectrum,
    TabulatedSpectrum,
    TwoPeriodSpectrum,
)

__all__ = [
    "CombinedSpectrum",
    "DampingCurves",
    "GroundMotion",
    "Location",
    "LookedUp",
    "RecordSpectra",
    "ScaledSpectrum",
    "Spectrum",
    "TabulatedSpectrum",
    "TwoPeriodSpectrum",
    "look_up",
    "read_curves",
    "read_motion",
    "read_spectrum",
    "response_spectra",
    "rotated_spectra",
    "usual_periods",
]
