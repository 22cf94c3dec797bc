"""Slab flanges of beams: effective widths by the standard, put where the project asks for them."""

from __future__ import annotations

from collections.abc import Mapping

from undatum import standards
from undatum.building.flanges import SlabSpan, slab_spans
from undatum.building.whole import Building
from undatum.errors import Fault, InputError
from undatum.project.schema import Project
from undatum.record import FixedDict
from undatum.standards.flanges import RULES, BesideBeam, EffectiveWidth
from undatum.table import Table, column


def flanged_building(project: Project, building: Building) -> Building:
    """The building with the effective width of every beam whose section has a flange.

    A beam that ends in the air keeps its web alone. Raises InputError where the standard has no
    rule.
    """
    if not any(s.flange for s in building.sections.values()) or building.frame is None:
        return building
    if faults := flange_faults(project):
        raise InputError(faults)
    own = building.flange_widths
    found = {one.member.name: width.width
             for one, width in _widths(project, building, slab_spans(building, building.frame))
             if width is not None and one.member.name not in own}
    return building.model_copy(update={"flange_widths": FixedDict({**found, **own})})


def _widths(
    project: Project, building: Building, spans: tuple[SlabSpan, ...]
) -> list[tuple[SlabSpan, EffectiveWidth | None]]:
    """Every beam with its width by the section or the standard; ``None`` keeps the web alone."""
    concrete = standards.get(project.standard, project.folder).concrete
    found: list[tuple[SlabSpan, EffectiveWidth | None]] = []
    for one in spans:
        flange = building.sections[one.member.section].flange
        assert flange is not None
        given = flange.width if flange.width is not None else \
            project.building.flange_widths.get(one.member.name)
        width: EffectiveWidth | None = None
        if given is not None:
            width = EffectiveWidth(given, "", "as given")
        elif not one.ends_free:
            beside = BesideBeam(one.length, one.clear, one.continues, one.web, one.slab, one.left,
                                one.right)
            width = RULES[concrete](beside)
        found.append((one, width))
    return found


def flange_faults(project: Project) -> list[Fault]:
    """Flanges by a standard that has no rule, and widths of beams that are not there."""
    building = project.building
    concrete = standards.get(project.standard, project.folder).concrete
    asked = [name for name, s in building.sections.items() if s.flange and s.flange.width is None]
    found = []
    if asked and concrete not in RULES:
        title = standards.get(project.standard, project.folder).title
        found += [Fault(f"building.sections.{name}.flange.width",
                        f"is missing, and {title} has no rule for it", "give the effective width")
                  for name in asked]
    return found


def flanges_table(project: Project, building: Building) -> Table:
    """Effective width of every beam in one piece with the slab, and what it comes from."""
    frame = building.frame
    assert frame is not None
    rows = _widths(project, building, slab_spans(building, frame))
    concrete = standards.get(project.standard, project.folder).concrete
    said: Mapping[bool, str] = {True: "ends in the air: the web alone", False: ""}
    return Table(
        "flanges", "Beams in one piece with the slab",
        (
            column("beam", "", [s.member.name for s, _ in rows]),
            column("section", "", [s.member.section for s, _ in rows]),
            column("length", "length", [s.length for s, _ in rows]),
            column("clear length", "length", [s.clear for s, _ in rows]),
            column("goes on over", "", [f"{s.continues} of 2 ends" for s, _ in rows]),
            column("slab on the left", "length", [s.left for s, _ in rows]),
            column("slab on the right", "length", [s.right for s, _ in rows]),
            column("effective width", "length", [None if w is None else w.width for _, w in rows]),
            column("clause", "", [f"{concrete}, {w.clause}" if w and w.clause else ""
                                  for _, w in rows]),
            column("why", "", [said[True] if w is None else w.reason for _, w in rows]),
        ),
        note="Slab is half the clear distance to the next beam, or all of it to an edge. The "
        "flange counts in bending under vertical loads; area, weight and bending sideways are "
        "those of the web.",
    )
