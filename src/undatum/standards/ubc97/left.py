"""UBC 1997: rules that are left to the engineer."""

from __future__ import annotations

from undatum.standards.left import DETAIL, Left

LEFT = (
    Left("1629.6.5", "Dual systems: strength of the moment frames for 25 % of the base shear",
         "the forces of the frames by themselves are given (table frames_alone); their design is "
         "yours"),
    Left("1630.2.3", "Simplified static procedure", "is an alternative to what is done here"),
    Left("1612.2.1", "The multiplier of 1.1 for concrete and masonry",
         "is a matter of the concrete standard in use", "combinations"),
    Left("1633.2.4", "Deformation compatibility of other members",
         "forces of members called secondary are given as the structure moves; their strength is "
         "yours", "building.members"),
    Left("1633.2.6", "Collectors", "their forces are given; their sizes are yours"),
    Left("chapters 19 to 23", "Rules of materials", DETAIL),
    Left("1612", "Wind and earth", "are load cases of your own",
         "building.cases, combinations"),
)
