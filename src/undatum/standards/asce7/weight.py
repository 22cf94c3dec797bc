"""ASCE 7, 12.7.2: effective seismic weight, and the gravity load of 12.8.7."""

from __future__ import annotations

from undatum.standards.answers import LoadFacts, WeightShare
from undatum.standards.asce7.facts import Edition
from undatum.standards.contract import WeightRule
from undatum.units import factor

_PSF = factor("psf", "area load")


class EffectiveWeight(WeightRule):
    """Effective seismic weight by one edition."""

    def __init__(self, edition: Edition) -> None:
        self.edition = edition

    def share(self, load: LoadFacts) -> WeightShare:
        kind, intensity = load.kind, load.intensity
        clause = "12.7.2"
        threshold, share = self.edition.rule("snow_threshold_psf"), self.edition.rule("snow_share")
        if kind in {"dead", "cladding"}:
            return WeightShare(1.0, clause, "dead load")
        if kind == "equipment":
            return WeightShare(1.0, clause, "operating weight of permanent equipment")
        if kind == "roof garden":
            return WeightShare(1.0, clause, "landscaping and similar materials")
        if kind == "partition":
            return WeightShare(1.0, clause, "partitions, not less than 10 psf", 10.0 * _PSF)
        if kind == "storage":
            return WeightShare(0.25, clause, "25 % of storage live load")
        if kind == "snow":
            if intensity is None or intensity > threshold * _PSF * (1 + 1e-9):
                return WeightShare(share, clause, f"{share:.0%} of snow above {threshold} psf")
            return WeightShare(0.0, clause, f"snow not above {threshold} psf does not count")
        return WeightShare(0.0, clause, "live load other than storage does not count")

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        """Share in Px of 12.8.7: dead and live load unfactored, snow at the 0.2 of 2.3.6."""
        return (0.2, "12.8.7, 2.3.6") if load.kind == "snow" else (1.0, "12.8.7")
