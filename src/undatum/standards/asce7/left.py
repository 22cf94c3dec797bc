"""ASCE 7: rules of its chapters 11 and 12 that are left to the engineer, by edition."""

from __future__ import annotations

from undatum.standards.left import DETAIL, STRENGTH, Left

_EVERY = (
    Left("12.2.3", "Different systems up the height",
         "combined systems take the least R over the whole height, with the C_d and overstrength "
         "that go with it; a rigid lower portion may be a structure of its own (two_stage)",
         "system.with_rows, two_stage"),
    Left("12.2.5.1", "Dual systems: strength of the moment frames for 25 % of the forces",
         "the forces of the frames by themselves are given (table frames_alone); their design is "
         "yours"),
    Left("12.2.5", "Systems of cantilever columns; exceptions for low and light steel frames",
         STRENGTH),
    Left("12.3.4.2", "Strengths for the removal of parts, for a redundancy factor of 1.0",
         "torsion is judged by the analysis, the share of strength by those of lines, walls, "
         "braces, columns and beams as given",
         "lines.strength, walls.strength, members.strength, members.moment_strength"),
    Left("12.10.2", "Collectors and their connections",
         "their forces are given, with overstrength; their sizes are yours"),
    Left("12.11", "Structural walls out of plane and their anchorage", DETAIL),
    Left("12.14", "Simplified design for bearing walls and building frames",
         "is an alternative to what is done here"),
    Left("2.3, 2.4", "Wind, rain, fluids and earth",
         "are load cases of your own", "building.cases, combinations"),
)
_COMPATIBLE = "Deformation compatibility of members that are not part of the system"
_GIVEN = ("forces of members called secondary are given as the structure moves; their strength is "
          "yours", "building.members")
_ALTERNATIVE = Left("12.10.3", "Whether diaphragms are precast and need the alternative forces",
                    "is not in the description; where it is said, the forces are those of 12.10.3 "
                    "(check its numbers against the print)", "system.diaphragm")
_NOT_CERTAIN = "the revised text is not certain here"

LEFT: dict[str, tuple[Left, ...]] = {
    "05": (*_EVERY, Left("12.12.4", _COMPATIBLE, *_GIVEN), Left(
        "12.2.5.4", "Greater heights of braced frames and walls",
        "which systems may rise is not certain here")),
    "10": (*_EVERY, Left("12.12.5", _COMPATIBLE, *_GIVEN)),
    "16": (*_EVERY, Left("12.12.5", _COMPATIBLE, *_GIVEN), _ALTERNATIVE),
    "22": (
        *_EVERY, Left("chapter 12", _COMPATIBLE, *_GIVEN), _ALTERNATIVE,
        Left("12.3.2", "Re-entrant corners of 15 to 20 %, openings of 25 to 50 %, weight "
             "irregularity, what spares soft stories", _NOT_CERTAIN, "irregularities"),
        Left("11.9", "Vertical spectrum", _NOT_CERTAIN, "spectrum"),
        Left("2.4.5", "The allowable stress combination with live load and snow", _NOT_CERTAIN,
             "combinations"),
    ),
}
