"""EN 1998-1: rules that are left to the engineer."""

from __future__ import annotations

from undatum.standards.left import DETAIL, STRENGTH, Left

LEFT = (
    Left("4.2.2(5)", "Secondary members may not make an irregular structure regular",
         "say regularity of the structure with all of its members", "system"),
    Left("5.7", "Strength of secondary members under the displacement of the structure",
         "their forces are given (table secondary_members); their design is yours",
         "building.members"),
    Left("4.2.3.2(2), 4.2.3.3(3)", "Symmetry in plan and gradual change in elevation",
         "the standard gives no number", "irregularities"),
    Left("4.3.6", "Infills: severe irregularity in plan, and in elevation",
         "infills are described as sections of braces, or not at all; slight irregularity in plan "
         "doubles the eccentricity", "system.irregular_infills, building.sections.infill"),
    Left("4.4.2.3, 4.4.2.6", "Capacity design of columns and of foundations", STRENGTH),
    Left("5.4.2.4(8)", "Envelope of the shears of slender walls in dual systems",
         "the shears of the analysis are raised (table wall_design_shears); their envelope is "
         "yours"),
    Left("5.5.2.4", "Resistance of the foot of walls of class DCH, which raises their shears",
         STRENGTH, "system.wall_overstrength"),
    Left("5 to 9", "Rules of materials: detailing, classes of sections, local ductility", DETAIL),
    Left("EN 1990, 6.4.3", "Combinations without earthquake", "are those of EN 1990",
         "combinations"),
    Left("10", "Base isolation", "is another kind of structure"),
)
