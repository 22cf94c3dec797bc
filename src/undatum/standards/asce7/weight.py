"""ASCE 7, 12.7.2: effective seismic weight, and the gravity load of 12.8.7."""

from __future__ import annotations

from undatum.standards.answers import WeightShare
from undatum.standards.asce7.facts import Edition
from undatum.standards.contract import WeightRule
from undatum.standards.facts import CarriedFloors, LiveReduction, LoadFacts
from undatum.standards.terms import Effect
from undatum.units import factor

_PSF = factor("psf", "area load")
_SQUARE_FOOT = factor("ft^2", "area")


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
        """Share in Px of 12.8.7: dead and live load unfactored, snow at the 0.2 of 2.3.6, none of
        the live load of roofs, which is not in those combinations."""
        if load.kind == "roof live":
            return 0.0, "12.8.7, 2.3.6"
        return (0.2, "12.8.7, 2.3.6") if load.kind == "snow" else (1.0, "12.8.7")

    def effect(self, kind: str) -> Effect:
        """Live load of roofs is one of its own (2.2)."""
        return "roof live" if kind == "roof live" else super().effect(kind)

    def live_reduction(self, carried: CarriedFloors) -> LiveReduction:
        """L = L_o (0.25 + 15 / sqrt(K_LL A_T)) with its bounds (4.7.2 and 4.7.3; 4.8 in 7-05).

        Garages for passenger cars and places of assembly are not told apart: they are not reduced
        (4.7.4, 4.7.5).
        """
        section = "4.8" if self.edition.key == "05" else "4.7"
        heavy, influence = f"{section}.3", carried.influence * carried.area / _SQUARE_FOOT
        several = carried.floors > 1
        if carried.intensity > 100 * _PSF * (1 + 1e-9):
            return LiveReduction(0.8 if several else 1.0, heavy, "above 100 psf"
                                 + (", two floors or more" if several else ", one floor"))
        clause = f"{section}.2, Eq. {section}-1"
        if influence < 400 * (1 - 1e-9):
            return LiveReduction(1.0, clause, f"K_LL A_T = {influence:.0f} ft2, below 400 ft2")
        least = 0.4 if several else 0.5
        found = 0.25 + 15 / influence**0.5
        return LiveReduction(max(found, least), clause, f"K_LL = {carried.influence:g}"
                             + (f", not below {least:g}" if found < least else ""))
