"""What follows from a description, laid out once: members, walls, floors, weight, faults."""

from undatum.layout.weight import Weights, weigh
from undatum.layout.whole import Building

__all__ = ["Building", "Weights", "weigh"]
