"""What the computer solves. :func:`idealize` is the only door from a building description."""

from undatum.mechanics.idealize import idealize
from undatum.mechanics.system import LateralLine, PlumbLine, System

__all__ = ["LateralLine", "PlumbLine", "System", "idealize"]
