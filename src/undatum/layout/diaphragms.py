"""Which floors are rigid in their plane: all, unless levels say otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

import shapely

from undatum.building.deforming import DeformingFloor
from undatum.building.materials import SHIPPED
from undatum.building.naming import known_names
from undatum.building.outline import Outline
from undatum.errors import Fault, guess

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding

NONE = "none"
FLEXIBLE = "flexible"  #: no diaphragm either, where a standard permits it
WHOLE = "rigid"
_SLIP = 1e-3  # m: a point this near to a floor lies on it


def diaphragms_by_level(building: PlainBuilding) -> dict[int, str | DeformingFloor]:
    """``none``, ``flexible``, the name of an outline or how it deforms by place of the level, for
    those not rigid as a whole.

    Later ranges go before earlier ones. Raises ValueError for a range that names no level.
    """
    order = [level.name for level in building.levels]
    upwards = order[:-1][::-1]
    found: dict[int, str | DeformingFloor] = {}
    for text, said in building.diaphragms.items():
        for name in known_names(text, upwards, "levels that move"):
            found[order.index(name)] = said
    return {i: said for i, said in found.items() if said != WHOLE}


def deforming_floors(building: PlainBuilding) -> dict[int, DeformingFloor]:
    """The floors that deform in their plane, by place of the level."""
    return {i: said for i, said in diaphragms_by_level(building).items()
            if isinstance(said, DeformingFloor)}


def on_floor(outline: Outline, at: tuple[float, float]) -> bool:
    """Whether a plan point lies on a floor or on its edge, and in no hole."""
    return bool(outline.polygon.distance(shapely.Point(at)) < _SLIP)


def diaphragm_faults(building: PlainBuilding) -> list[Fault]:
    """Names that are none, levels without members there, lines that need what is missing."""
    found = [Fault(f"outlines.{name}", f"{name!r} says of a diaphragm what it is",
                   "give the outline another name")
             for name in (NONE, FLEXIBLE, WHOLE)
             if building.diaphragms and name in building.outlines]
    known = [NONE, FLEXIBLE, WHOLE, *building.outlines]
    for text, said in building.diaphragms.items():
        if isinstance(said, DeformingFloor):
            materials = [*building.materials, *SHIPPED]
            if said.material is not None and said.material not in materials:
                found.append(Fault(
                    f"diaphragms.{text}.material", f"{said.material!r} is not among the materials",
                    guess(said.material, materials) or f"known: {', '.join(materials)}"))
        elif said not in known:
            found.append(Fault(f"diaphragms.{text}", f"{said!r} is neither none, flexible nor the "
                               "name of an outline",
                               guess(said, known) or f"known: {', '.join(known)}"))
    try:
        by_level = diaphragms_by_level(building)
    except ValueError as error:
        return [*found, Fault("diaphragms", str(error))]
    if found or not by_level:
        return found
    if not building.has_members:
        return [Fault("diaphragms", "there are no members or walls that could move by themselves",
                      "describe columns or walls beside the lateral lines, or leave it out")]
    for i, line in enumerate(building.lines):
        for level in building.span(line):
            if level in by_level and not isinstance(by_level[level], DeformingFloor):
                found.append(Fault(
                    f"lines[{i}]", f"line {line.name!r} reaches level "
                    f"{building.levels[level].name!r}, whose floor is not rigid as a whole",
                    "end it below, make it of members, or let the floor deform"))
                break
            if level in by_level and not on_floor(building.outline(level), line.at):
                x, y = line.at
                found.append(Fault(
                    f"lines[{i}].at", f"line {line.name!r} at ({x:g} m, {y:g} m) stands beside the "
                    f"floor of level {building.levels[level].name!r}, or in a hole of it; a floor "
                    "that deforms pushes on it where it stands",
                    "move it onto the floor, or extend the outline"))
                break
    return found
