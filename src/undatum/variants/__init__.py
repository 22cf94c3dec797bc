"""Families of buildings: variants of one description, drawn, run, kept and read together."""

from undatum.variants.family import Family, family_of
from undatum.variants.found import FamilyResults, load_family
from undatum.variants.running import run_family

__all__ = ["Family", "FamilyResults", "family_of", "load_family", "run_family"]
