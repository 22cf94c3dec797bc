"""Masonry that fills the bays of a frame: the width of every strut, from the bay it stands in."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from undatum.errors import Fault, InputError
from undatum.layout.dividing import to_face
from undatum.layout.frame import Frame, Member
from undatum.layout.whole import Building
from undatum.project.cracking import BY_STANDARD
from undatum.record import FixedDict
from undatum.standards import AnyStandard
from undatum.standards.infills import RULES, FilledBay, StrutWidth
from undatum.table import Table, column

Floats = NDArray[np.float64]
Row = tuple[Member, FilledBay, StrutWidth]


def filled_building(standard: AnyStandard, building: Building) -> Building:
    """The building with the width of every strut that a rule gives.

    Raises InputError where the standard has no rule, or where no column stands beside one.
    """
    asked = {name: s.infill for name, s in building.sections.items() if s.infill is not None}
    faults = [Fault(f"building.sections.{name}.infill.rule",
                    f"{standard.title} has no rule for the width of struts",
                    f"name a standard ({', '.join(RULES)}), or give width or share")
              for name, one in asked.items()
              if one.rule == BY_STANDARD and standard.infill not in RULES]
    if faults:
        raise InputError(faults)
    if not asked or building.frame is None:
        return building
    own = building.strut_widths
    found = {m.name: width.width for m, _, width in _struts(standard, building, building.frame)
             if m.name not in own}
    return building.model_copy(update={"strut_widths": FixedDict({**found, **own})})


def _struts(standard: AnyStandard, building: Building, frame: Frame) -> list[Row]:
    found = []
    for m in frame.members:
        infill = building.sections[m.section].infill
        if infill is None:
            continue
        bay = _bay(building, frame, m, infill.thickness)
        given = infill.width if infill.width is not None else building.strut_widths.get(m.name)
        if given is not None:
            width = StrutWidth(given, "", "as given")
        elif infill.share is not None:
            width = StrutWidth(infill.share * bay.diagonal, "",
                               f"{infill.share:.3g} of the diagonal, as given")
        else:
            rule = standard.infill if infill.rule == BY_STANDARD else str(infill.rule)
            if not bay.column:
                raise InputError([Fault(
                    f"building.sections.{m.section}.infill.rule",
                    f"{m.name!r} has no column at either end", "give width or share")])
            one = RULES[rule](bay)
            width = StrutWidth(one.width, f"{rule}, {one.clause}", one.reason)
        found.append((m, bay, width))
    return found


def _bay(building: Building, frame: Frame, m: Member, thickness: float) -> FilledBay:
    """What is clear between the columns, and below the beam, that a strut stands between."""
    start, end = np.array(m.start), np.array(m.end)
    run = end - start
    along = np.array([*run[:2], 0.0]) / np.hypot(*run[:2])
    faces, stiff = [], []
    for node, level in ((frame.ends[m.elements[0], 0], "foot"),
                        (frame.ends[m.elements[-1], 1], "head")):
        beside = _upright(frame, int(node), head=level == "head")
        faces.append(max((to_face(frame, e, along) for e in beside), default=0.0))
        stiff += [_in_plane(frame, e, along) for e in beside]
    deep = _beam_above(frame, m, along)
    return FilledBay(
        max(float(run[2]) - deep, 0.1), max(float(np.hypot(*run[:2])) - sum(faces), 0.1), thickness,
        building.material(building.sections[m.section].material).modulus,
        float(np.mean(stiff)) if stiff else 0.0)


def _upright(frame: Frame, node: int, *, head: bool) -> list[int]:
    """Elements of the columns of the story that end at a node: at their head, or at their foot."""
    return [e for e in np.flatnonzero(frame.ends[:, 1 if head else 0] == node).tolist()
            if frame.members[frame.member[e]].kind == "column"]


def _in_plane(frame: Frame, e: int, along: Floats) -> float:
    """E I of a column against bending along a direction, N m2."""
    section = frame.section[e]
    p = frame.sections[section]
    y, z = frame.axes[e, 1] @ along, frame.axes[e, 2] @ along
    return float(frame.materials[section, 0] * (p.bending_z * y**2 + p.bending_y * z**2))


def _beam_above(frame: Frame, m: Member, along: Floats) -> float:
    """Depth of the beam that lies over the bay; none is 0."""
    node = int(frame.ends[m.elements[-1], 1])

    def over(e: int) -> bool:
        away = 1 if frame.ends[e, 0] == node else -1
        return frame.members[frame.member[e]].kind == "beam" \
            and float(frame.axes[e, 0] @ -along) * away > 1 - 1e-6

    return max((frame.sections[frame.section[e]].depth
                for e in np.flatnonzero((frame.ends == node).any(axis=1)).tolist() if over(e)),
               default=0.0)


def struts_table(standard: AnyStandard, building: Building) -> Table:
    """Every strut that stands for an infill, and what its width comes from."""
    assert building.frame is not None
    rows = _struts(standard, building, building.frame)
    return Table(
        "struts", "Struts in place of infills",
        (
            column("brace", "", [m.name for m, *_ in rows]),
            column("section", "", [m.section for m, *_ in rows]),
            column("clear height", "length", [b.height for _, b, _ in rows]),
            column("clear length", "length", [b.length for _, b, _ in rows]),
            column("thickness", "length", [b.thickness for _, b, _ in rows]),
            column("modulus", "stress", [b.modulus for _, b, _ in rows]),
            column("width", "length", [w.width for *_, w in rows]),
            column("clause", "", [w.clause for *_, w in rows]),
            column("why", "", [w.reason for *_, w in rows]),
        ),
        note="Struts are hinged, weigh nothing (infills are loads) and take tension as they take "
        "compression: one strut a bay stands for the infill in both senses.")
