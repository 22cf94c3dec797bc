"""TBDY 2018: rules that are left to the engineer."""

from __future__ import annotations

from undatum.standards.left import DETAIL, STRENGTH, Left

LEFT = (
    Left("4.2.1", "Earthquake levels DD-1, DD-3 and DD-4",
         "DD-2 is designed for, DD-3 enters the drift limit; evaluation by displacement is another "
         "procedure", "site.ss_dd3, site.s1_dd3"),
    Left("3.6, Table 3.6", "Weak stories (B1) by effective shear areas",
         "are judged by the strengths of lines, columns, braces and walls; the areas are not in "
         "the description", "lines.strength, walls.strength, members.strength"),
    Left("4.3", "Shares of walls in the overturning moment that tell the systems apart, limits on "
         "limited and mixed ductility by category", "the text is not certain here"),
    Left("4.3.4", "Systems one above the other and basements",
         "are not told apart: the upper part is designed from the base"),
    Left("4.7.3", "Period coefficient of buildings of walls alone",
         "the formula is not certain here; 0.07 is used", "replace, with a reason"),
    Left("4.8", "Every mode with more than 3 % of the mass", "the total of 95 % is judged"),
    Left("4.9.1", "What need not be considered in drift (cap on the period, least base shear, "
         "scaling)", "is not certain here: drift is that of the forces for strength"),
    Left("4.9.2", "What follows where the second-order index is above its limit",
         "the factor on forces is not certain here; the index is judged"),
    Left("4.9.3", "Factors of joints between buildings",
         "are to be checked against the print; displacements of the neighbor are effective ones"),
    Left("TS 498, TS 500", "Combinations without earthquake, soil pressure H",
         "are load cases and combinations of your own", "building.cases, combinations"),
    Left("TS 500", "Effective widths of slabs", "are given with the sections",
         "building.sections.flange.width"),
    Left("7, 9, 12", "Capacity design and detailing of materials", DETAIL),
    Left("7.3", "Strength of columns against beams and of joints", STRENGTH),
    Left("14, 15, 16", "Isolation, existing buildings, foundations",
         "are other kinds of structure or of soil"),
)
