"""ASCE 7: what the seismic design category of a building asks for, beside and within the analysis.

A list to work down, not a judgement: what is judged has its findings.
"""

from __future__ import annotations

from undatum.standards.asce7.facts import Edition
from undatum.standards.left import Required

_JUDGED, _YOURS = "judged: see the findings", "left to you"

#: Clause of 2010, the categories that it binds, what it asks for, and how it is met here.
_RULES: tuple[tuple[str, str, str, str], ...] = (
    ("11.7", "A", "General structural integrity and a lateral force of 1 % of the weight at each "
     "level; no other rule of chapter 12", "forces are given; the rest is left to you"),
    ("11.8.1", "EF", "Not over an active fault that may rupture the ground", _YOURS),
    ("11.8.2", "CDEF", "Geotechnical report: slope instability, liquefaction, settlement, "
     "displacement of the ground", _YOURS),
    ("11.8.3", "DEF", "Geotechnical report: lateral earth pressures in the earthquake, "
     "consequences of liquefaction", _YOURS),
    ("12.1.3", "BCDEF", "Continuous load path; a smaller part is tied to the remainder for 0.133 "
     "S_DS times its weight, and at least 5 % of it", _YOURS),
    ("12.1.4", "BCDEF", "Beams, girders and trusses are tied to their supports for 5 % of the "
     "reaction under dead and live load", _YOURS),
    ("12.2.1", "BCDEF", "Systems that the category permits, and their heights", _JUDGED),
    ("12.2.5.5", "DEF", "Special moment frames that the table requires go down to the foundation",
     _YOURS),
    ("12.3.3.1", "DEF", "Irregularities that the category does not permit", _JUDGED),
    ("12.3.3.2", "BCDEF", "Height of buildings with an extreme weak story", _JUDGED),
    ("12.3.3.3", "BCDEF", "Overstrength for what carries walls and frames that are discontinued",
     "judged: see the findings, and the combinations with overstrength"),
    ("12.3.3.4", "DEF", "25 % more force for connections of diaphragms and collectors of irregular "
     "buildings", _JUDGED),
    ("12.3.4", "BCDEF", "Redundancy factor: 1.0 in B and C, 1.3 in D to F unless 12.3.4.2 is met",
     "judged: see the findings and the working of the lateral system"),
    ("12.4.2.2", "BCDEF", "Vertical effect 0.2 S_DS D; in B it may be left out",
     "in the load combinations"),
    ("12.4.4", "DEF", "Horizontal cantilevers resist a net upward force of 0.2 times their dead "
     "load", _YOURS),
    ("12.5.2", "B", "Directions one by one", "both directions are analyzed"),
    ("12.5.3", "CDEF", "100 % and 30 % of the directions where systems are not parallel",
     "directions are combined as the basis of design says"),
    ("12.5.4", "DEF", "100 % and 30 % for columns and walls that two systems share and that bear "
     "20 % of their axial strength", "directions are combined as the basis of design says"),
    ("12.6", "BCDEF", "Analysis procedure", _JUDGED),
    ("12.8.4.2", "BCDEF", "Accidental torsion, by edition and irregularity", _JUDGED),
    ("12.8.4.3", "CDEF", "Its amplification where torsion is irregular", _JUDGED),
    ("12.10.2.1", "CDEF", "Overstrength for collectors, their splices and connections",
     "forces are given; their sizes are left to you"),
    ("12.11.2", "BCDEF", "Anchorage of concrete and masonry walls out of plane", _YOURS),
    ("12.11.2.2", "CDEF", "Continuous ties between chords of diaphragms that anchor walls", _YOURS),
    ("12.12.1.1", "DEF", "Story drift of moment frames: the limit over the redundancy factor",
     _JUDGED),
    ("12.12.3", "BCDEF", "Separation of buildings and parts", "judged where gaps are given"),
    ("12.12.5", "DEF", "Members that are not part of the system bear gravity under the design "
     "story drift", "forces of members called secondary are given; their strength is left to you"),
    ("12.13.5", "C", "Foundations: poles, ties between piles and caissons, their anchorage",
     _YOURS),
    ("12.13.6", "DEF", "Foundations: ties between footings and piles, piles that bend with the "
     "ground, splices, batter piles", _YOURS),
    ("chapter 13", "BCDEF", "Parts, equipment and their anchorage, by category and importance",
     _YOURS),
    ("chapter 14", "BCDEF", "Rules of materials and detailing by category and system", _YOURS),
)

#: Where a clause of 2010 stands in other editions.
_MOVED = {"05": {"12.12.5": "12.12.4"}, "16": {"12.13.5": "12.13.7", "12.13.6": "12.13.8"}}


def required(edition: Edition, category: str) -> tuple[Required, ...]:
    """What binds a building of a category, by the clauses of an edition.

    Of 2022 no more than the section is certain here.
    """

    def clause(given: str) -> str:
        whole = _MOVED.get(edition.key, {}).get(given, given)
        return ".".join(whole.split(".")[:2]) if edition.key == "22" else whole

    return tuple(Required(clause(at), rule, how) for at, bound, rule, how in _RULES
                 if category in bound)
