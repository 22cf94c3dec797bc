"""UBC 1997: rules that are left to the engineer."""

from __future__ import annotations

from undatum.standards.left import DETAIL, Left

LEFT = (
    Left("1629.6.5", "Dual systems: strength of the moment frames for 25 % of the base shear",
         "the forces of the frames by themselves are given (table frames_alone); their design is "
         "yours"),
    Left("1612.2.1", "Whether the multiplier of 1.1 for concrete and masonry holds",
         "is a matter of the concrete standard in use", "site.concrete_multiplier"),
    Left("1630.2.3.2", "N_a of at most 1.3 in simplified design",
         "its conditions are not certain here; N_a is taken as it is"),
    Left("1633.2.4", "Deformation compatibility of other members",
         "forces of members called secondary are given as the structure moves; their strength is "
         "yours", "building.members"),
    Left("1633.2.6", "Collectors", "their forces are given; their sizes are yours"),
    Left("chapters 19 to 23", "Rules of materials", DETAIL),
    Left("1612", "Wind and earth", "are load cases of your own",
         "building.cases, combinations"),
)
