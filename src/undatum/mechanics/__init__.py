"""What the computer solves. :func:`idealize` is the only door from a building description."""

from undatum.mechanics.idealize import idealize
from undatum.mechanics.lines import LateralLine
from undatum.mechanics.model import COMPONENTS, Diaphragms, Freedoms, Model
from undatum.mechanics.quantities import PlumbLine
from undatum.mechanics.quantity import Quantity
from undatum.mechanics.solver import Solver, factorize
from undatum.mechanics.vibration import vibration

__all__ = ["COMPONENTS", "Diaphragms", "Freedoms", "LateralLine", "Model", "PlumbLine", "Quantity",
           "Solver", "factorize", "idealize", "vibration"]
