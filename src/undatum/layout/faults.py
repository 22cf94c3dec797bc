"""What is wrong with a description as a whole: names, heights, loads, lines, members."""

from __future__ import annotations

from contextlib import suppress
from typing import TYPE_CHECKING

from undatum.building.materials import SHIPPED
from undatum.building.stories import Stretch
from undatum.errors import Fault, InputError, guess
from undatum.layout.held_floors import held_by_level
from undatum.units import said

if TYPE_CHECKING:
    from undatum.building.plain import PlainBuilding
    from undatum.layout.frame import Frame


def member_faults(building: PlainBuilding) -> list[Fault]:
    """Unknown sections and materials, and what asks for members that are not there."""
    found = []
    for name, section in building.sections.items():
        known = [*building.materials, *SHIPPED]
        wrong = [_unknown(f"sections.{name}.{at}material", material, known, "materials")
                 for at, material in (("", section.material), *(
                     (f"parts[{i}].", part.material) for i, part in enumerate(section.parts)))
                 if material is not None and material not in known]
        found += wrong
        if section.parts and not wrong:
            try:
                building.section(name)
            except ValueError as error:
                found.append(Fault(f"sections.{name}.parts", str(error)))
    if building.cores and not building.walls:
        found.append(Fault("cores", "is given, but there are no walls",
                           "give walls, or leave it out"))
    if not building.has_members:
        found += [Fault(key, "is given, but there are no members", "give members, or leave it "
                        "out") for key in ("supports", "member_loads", "vertical_mass")
                  if getattr(building, key)]
    return found


def flange_faults(building: PlainBuilding, frame: Frame | None) -> list[Fault]:
    """Widths of beams that are not there, have no flange, or a web as wide."""
    found = []
    known = {} if frame is None else {m.name: m for m in frame.members if m.kind == "beam"}
    for name, width in building.flange_widths.items():
        place = f"flange_widths.{name}"
        if name not in known:
            found.append(_unknown(place, name, list(known), "beams"))
            continue
        section = building.sections[known[name].section]
        if section.flange is None or section.rectangle is None:
            found.append(Fault(place, f"the section {known[name].section!r} has no flange",
                               "give it one with the thickness of the slab"))
        elif width < section.rectangle[0]:
            found.append(Fault(place, f"{said(width)} is narrower than the web",
                               "the width holds the web"))
    return found


def strut_faults(building: PlainBuilding, frame: Frame | None) -> list[Fault]:
    """Infills that are no brace, and widths of struts that are not there."""
    if frame is None:
        return []
    filled = {m.name: m for m in frame.members if building.sections[m.section].infill is not None}
    found = [Fault(f"sections.{m.section}.infill", f"{m.name!r} is no brace",
                   "an infill is a brace that stands for it; give braces in its bay")
             for m in filled.values() if m.kind != "brace"]
    return found[:1] + [_unknown(f"strut_widths.{name}", name, list(filled), "infills")
                        for name in building.strut_widths if name not in filled]


def name_faults(building: PlainBuilding) -> list[Fault]:
    """Names used twice, and names of levels, outlines and floors that are not there."""
    found = []
    for key, items in (("levels", building.levels), ("lines", building.lines)):
        names = [item.name for item in items]
        for i, name in enumerate(names):
            if name in names[:i]:
                found.append(Fault(f"{key}[{i}].name", f"{name!r} is already the name of "
                                   f"{key}[{names.index(name)}]", "give each its own name"))
    said: set[str] = set()  # levels written in short name the same thing many times
    for i, level in enumerate(building.levels):
        if isinstance(level.outline, str) and level.outline not in (*building.outlines, *said):
            said.add(level.outline)
            found.append(_unknown(
                f"levels[{i}].outline", level.outline, list(building.outlines), "outlines"))
        if level.floor is not None and level.floor not in (*building.floors, *said):
            said.add(level.floor)
            found.append(_unknown(
                f"levels[{i}].floor", level.floor, list(building.floors), "floors"))
    names = [level.name for level in building.levels]
    for i, line in enumerate(building.lines):
        for key, name in (("bottom", line.bottom), ("top", line.top)):
            if name is not None and name not in names:
                found.append(_unknown(f"lines[{i}].{key}", name, names, "levels"))
    for name, outline in building.outlines.items():
        if isinstance(outline, Stretch):
            try:
                if building.axes is None:
                    raise ValueError("runs between axes, but there are none; describe "
                                     "building.axes, or give coordinates")
                outline.outline(building.axes)
            except (ValueError, InputError) as error:
                found.append(Fault(f"outlines.{name}", str(error), "name crossings of axes, "
                                   'such as between = ["A1", "D5"]'))
    if building.base is not None and building.base not in names:
        found.append(_unknown("base", building.base, names, "levels"))
    return found


def standing_faults(building: PlainBuilding) -> list[Fault]:
    """Levels that stand on none, on themselves or on one that comes before them."""
    found = []
    names = [level.name for level in building.levels]
    for i, level in enumerate(building.levels):
        place, name = f"levels[{i}].stands_on", level.stands_on
        if name is None:
            continue
        if name not in names:
            found.append(_unknown(place, name, names, "levels"))
        elif i == len(names) - 1:
            found.append(Fault(place, f"{level.name!r} is the lowest level; the ground holds "
                               "it", "take it out"))
        elif names.index(name) <= i:
            found.append(Fault(place, f"{level.name!r} stands on {name!r}, which does not come "
                               "after it", "list every level before the one it stands on"))
    return found


def height_faults(building: PlainBuilding) -> list[Fault]:
    """Heights and elevations that are missing, too large or out of order."""
    found = []
    for i, level in enumerate(building.levels[:-1]):
        if level.height is None and level.elevation is None:
            found.append(Fault(f"levels[{i}]", f"level {level.name!r} has neither height nor "
                               "elevation", "give the height of the story below it"))
    if building.levels[-1].height is not None:
        found.append(Fault(
            f"levels[{len(building.levels) - 1}].height",
            f"{building.levels[-1].name!r} is the lowest level; there is no story below it",
            "give its elevation, or leave it out for 0",
        ))
    if found:
        return found
    z = building.elevations
    for i, k in enumerate(building.below):
        if z[i] <= z[k]:
            found.append(Fault(
                f"levels[{i}]",
                f"level {building.levels[i].name!r} at {said(z[i])} is not above "
                f"{building.levels[k].name!r} at {said(z[k])}",
                "list the levels from the top down",
            ))
        elif z[i] - z[k] > 60:
            found.append(Fault(
                f"levels[{i}]", f"the story below {building.levels[i].name!r} is "
                f"{said(z[i] - z[k])} high", "is the unit of the elevation right?"))
    base = z[building.base_index]
    wrong = [i for i in range(len(z)) if (i < building.base_index) != (z[i] > base + 1e-9)
             and i != building.base_index]
    if wrong and not found:
        found.append(Fault(
            f"levels[{wrong[0]}]", f"level {building.levels[wrong[0]].name!r} at "
            f"{said(z[wrong[0]])} is on the wrong side of the base in the list; the base is "
            f"at {said(base)}", "list what is above it before it, what is below after it"))
    return found


def load_faults(building: PlainBuilding) -> list[Fault]:
    """Loads counted twice, levels without any, nothing above the base."""
    found = []
    for i, level in enumerate(building.levels):
        loads, names = building.loads(i), set()
        there = [load.name for load in (building.floors[level.floor] if level.floor else ())]
        for load in level.loads:
            if load.instead and load.name not in there:
                found.append(Fault(
                    f"levels[{i}]", f"the load {load.name!r} stands in place of none: the "
                    "floor has no load of that name",
                    guess(load.name, there) or "take instead out"))
        for load in loads:
            if load.name in names:
                found.append(Fault(
                    f"levels[{i}]", f"the load {load.name!r} is counted twice on level "
                    f"{level.name!r}", "take one out, or name them apart if both are there"))
            names.add(load.name)
        if i in building.above_base and level.seismic_mass and not loads \
                and not (building.has_members and (building.self_weight or building.member_loads)):
            found.append(Fault(
                f"levels[{i}]", f"level {level.name!r} has no loads, so no mass",
                "give it a floor or loads, or set seismic_mass = false"))
    if building.base_index == 0:
        found.append(Fault("base", f"{building.base!r} is the top level; nothing stands above it",
                           "name the level at the ground"))
    return found


def line_faults(building: PlainBuilding) -> list[Fault]:
    """Lines upside down, with another count of values than stories, stories without one."""
    found = []
    held: set[int] = set()
    for i, line in enumerate(building.lines):
        span = building.span(line)
        if not span:
            found.append(Fault(f"lines[{i}]", f"line {line.name!r} runs from {line.bottom!r} "
                               f"up to {line.top!r}, which is not above it",
                               "bottom is the lower level, top the higher one"))
            continue
        held |= set(span)
        values = line.stiffness if line.cantilever is None else line.cantilever
        if isinstance(values, tuple) and len(values) != len(span):
            key = "stiffness" if line.cantilever is None else "cantilever"
            found.append(Fault(
                f"lines[{i}].{key}", f"line {line.name!r} has {len(span)} stories but "
                f"{len(values)} values", "give one value for each story from the top down, "
                "or a single one"))
        if isinstance(line.strength, tuple) and len(line.strength) != len(span):
            found.append(Fault(
                f"lines[{i}].strength", f"line {line.name!r} has {len(span)} stories but "
                f"{len(line.strength)} values", "give one value for each story from the top "
                "down, or a single one"))
    if not building.lines and not building.has_members:
        return [Fault("lines", "is missing, and there are no members: nothing resists",
                      "give lateral lines, or members on axes")]
    with suppress(ValueError):  # told where it stands
        held |= set(held_by_level(building))
    for i in range(len(building.levels) - 1):
        if i not in held and not found and not building.has_members:
            found.append(Fault(
                f"levels[{i}]", f"no lateral line holds the story below "
                f"{building.levels[i].name!r}: it has mass but no stiffness",
                "run a line through this story"))
    return found


def _unknown(place: str, name: str, known: list[str], among: str) -> Fault:
    cure = guess(name, known, after=" ")
    return Fault(place, f"{name!r} is not among the {among}",
                 cure + (f"known: {', '.join(known)}" if known else f"there are no {among}"))
