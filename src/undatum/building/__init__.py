"""What the engineer describes: plain validated data, and nothing that follows from it."""

from undatum.building.axes import Axes, AxisFamily, Rays, Rings
from undatum.building.cases import LoadCase, MemberLoad, OnLevels, OnMembers, OnSupports
from undatum.building.deforming import DeformingFloor
from undatum.building.held import GroundSprings
from undatum.building.level import Level
from undatum.building.lines import Cantilever, Line
from undatum.building.loads import Load
from undatum.building.materials import Material
from undatum.building.outline import Outline
from undatum.building.placed import Placed, read_members, read_sections, read_walls
from undatum.building.rules import BraceEnds, KeptShares, MemberRule, Releases, Support
from undatum.building.sections import (
    CrossSection,
    Flange,
    GivenProperties,
    Infill,
    SectionPart,
)
from undatum.building.stack import Stack
from undatum.building.stories import Stories, Stretch
from undatum.building.walls import Opening, Wall, WallFoot, WallShares

__all__ = [
    "Axes",
    "AxisFamily",
    "BraceEnds",
    "Cantilever",
    "CrossSection",
    "DeformingFloor",
    "Flange",
    "GivenProperties",
    "GroundSprings",
    "Infill",
    "KeptShares",
    "Level",
    "Line",
    "Load",
    "LoadCase",
    "Material",
    "MemberLoad",
    "MemberRule",
    "OnLevels",
    "OnMembers",
    "OnSupports",
    "Opening",
    "Outline",
    "Placed",
    "Rays",
    "Releases",
    "Rings",
    "SectionPart",
    "Stack",
    "Stories",
    "Stretch",
    "Support",
    "Wall",
    "WallFoot",
    "WallShares",
    "read_members",
    "read_sections",
    "read_walls",
]
