"""IS 1893: rules that are left to the engineer, by edition."""

from __future__ import annotations

from undatum.standards.left import DETAIL, STRENGTH, Left

_EVERY = (
    Left("", "Where infills have to be part of the model, and open stories below them",
         "where they are described, as sections of braces, struts stand for them (the rule of 2016 "
         "for their width, 7.9.2.2) and soft stories are judged with them",
         "building.sections.infill"),
    Left("IS 13920", "Ductile detailing and capacity design", DETAIL),
    Left("", "Strength of columns against beams and of joints", STRENGTH),
    Left("", "Wind and other loads", "are load cases of your own", "building.cases, combinations"),
)
LEFT: dict[str, tuple[Left, ...]] = {
    "2002": (*_EVERY, Left("", "Bars on ordinary systems by zone", "the text is not certain here")),
    "2016": (
        *_EVERY,
        Left("7.6.2", "The period of buildings with structural walls by their areas",
             "the printed formula is not certain here", "replace, with a reason"),
        Left("Table 6", "What follows by zone where the first modes carry less than 65 %",
             "its amendments are not certain here; the share itself is judged"),
        Left("7.11.3", "Half the separation of floors at one level",
             "the text is not certain here"),
    ),
}
