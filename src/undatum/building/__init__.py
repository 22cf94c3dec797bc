"""What the engineer describes: plain validated data, no matrices."""

from undatum.building.concept import ConceptBuilding, Level
from undatum.building.lines import Cantilever, Line
from undatum.building.loads import Load
from undatum.building.outline import Outline
from undatum.building.weight import Weights, weigh

__all__ = ["Cantilever", "ConceptBuilding", "Level", "Line", "Load", "Outline", "Weights", "weigh"]
