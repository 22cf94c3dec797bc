"""Families of buildings: variants of one description, drawn, run, kept and read together; where a
drift comes from, and the least change that cures it."""

from undatum.variants.family import Family, family_of
from undatum.variants.found import FamilyResults, load_family
from undatum.variants.least_change import Cure, cure
from undatum.variants.running import run_family
from undatum.variants.sources import DriftSources, drift_sources

__all__ = ["Cure", "DriftSources", "Family", "FamilyResults", "cure", "drift_sources", "family_of",
           "load_family", "run_family"]
