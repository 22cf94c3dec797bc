"""Walls, cores, their panels, and floors that deform, to be read under anything."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.errors import Fault, InputError
from undatum.layout.frame import Frame
from undatum.mechanics.actions import framed_of
from undatum.mechanics.cases import StaticCase
from undatum.mechanics.cuts import (
    Section,
    core_sections,
    section_rows,
    wall_sections,
    weight_beyond,
)
from undatum.mechanics.floor_cuts import FLOOR_FORCES, FloorCut, cut_rows, floor_cuts
from undatum.mechanics.panels import center_rows
from undatum.mechanics.quantity import Quantity
from undatum.readings.readable import Structure, Thing, dimensions, growth, known

Floats = NDArray[np.float64]

OF_WALLS = ("axial", "shear in plane", "shear across", "torsion", "moment across",
            "moment in plane")
OF_CORES = ("axial", "shear X", "shear Y", "torsion", "moment X", "moment Y")


def walls(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Actions of walls, of their segments and of the coupling beams over openings, of all or of one
    wall, at the foot and head of every story. Raises InputError where there is no such wall."""
    frame = walled(on)
    every = wall_sections(frame)
    names = list(dict.fromkeys(s.wall for s in every))
    own = every if not which else tuple(
        s for s in every if s.wall == names[known(which, names, "wall")])
    return _of_sections(
        on, own, "wall_forces", "Walls, their segments and coupling beams",
        {"wall": tuple(s.wall for s in own), "part": tuple(s.part for s in own)}, OF_WALLS,
        "About the middle of each part; tension is positive. In its plane and across it: shears "
        "act along the wall and across it, the moment in plane bends it in its plane. Segments "
        "stand between openings and are read at the head and foot of those; coupling beams are "
        "read at the edges of the opening below them. Walls that meet share the corner between "
        "them, so that the parts of single walls there are as good as the panels, and the sum over "
        "a core or a story is exact.", together=(0, 1, 5))


def cores(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Actions of cores, or of one, at the foot and head of every story. Raises InputError."""
    frame = walled(on)
    every = core_sections(frame)
    names = list(dict.fromkeys(s.wall for s in every))
    if not names:
        raise InputError([Fault("", "there are no cores", "name their walls under building.cores")])
    own = every if not which else tuple(
        s for s in every if s.wall == names[known(which, names, "core")])
    return _of_sections(
        on, own, "core_forces", "Cores", {"core": tuple(s.wall for s in own)}, OF_CORES,
        "All walls of the core together, about the center of their area in the story; tension is "
        "positive.", together=(0, 4, 5))


def panel_forces(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Forces per length at the centers of the panels of all walls, or of one. Raises InputError
    where there is no such wall."""
    frame = walled(on)
    panels = frame.panels
    assert panels is not None
    names = [w.name for w in panels.walls]
    own = np.arange(len(panels)) if not which else np.flatnonzero(
        panels.wall == known(which, names, "wall"))
    rows, framed, box = center_rows(frame, own), framed_of(on.model), panels.box[own]

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(rows @ case.members.displacement)

    return Thing(
        "panel_forces", "Forces per length at the centers of panels",
        Quantity("panel force", "line load", sparse.csr_array(framed.applied(rows)), {
            "panel": tuple(str(k) for k in own.tolist() for _ in range(3))}),
        {"wall": tuple(names[w] for w in panels.wall[own].tolist()),
         "story": tuple(on.building.levels[i].name for i in panels.story[own].tolist()),
         "panel": tuple(str(k) for k in own.tolist())},
        (("sideways", "line load"), ("upwards", "line load"), ("shear", "line load")), still,
        growth(on.model, box[:, 2], box[:, 3], 3),
        "Along the wall, up the wall and in shear, per length of section; tension is positive. "
        "Over the thickness they are the stress. Table wall_panels says where each panel is.")


def floors(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Forces within floors that deform, in cuts along the axes, of all levels or of one.

    Raises InputError where no floor deforms, or none on that level.
    """
    cuts = cuts_of(on)
    names = list(dict.fromkeys(on.building.levels[c.level].name for c in cuts))
    own = cuts if not which else tuple(
        c for c in cuts if on.building.levels[c.level].name == names[known(which, names, "level "
                                                                           "with such a floor")])
    framed = framed_of(on.model)
    rows = cut_rows(framed.frame, framed.elements, own)
    z = np.array([on.building.elevations[c.level] for c in own])

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(rows @ case.members.displacement)

    return Thing(
        "floor_forces", "Within floors that deform", Quantity(
            "floor force", "", sparse.csr_array(framed.applied(rows)),
            {"cut": tuple(str(k) for k in range(len(own)) for _ in FLOOR_FORCES)}),
        {"level": tuple(on.building.levels[c.level].name for c in own),
         "cut": tuple(c.name for c in own)},
        tuple((name, "moment" if name.startswith("moment") else "force") for name in FLOOR_FORCES),
        still, growth(on.model, z, z, 4),
        "Cuts run along the axes, through slab and beams: normal force and shear act across and "
        "along the cut, the moment in the plane about its middle; the chord force is the moment "
        "over the depth of the floor there. Each is the mean of both sides of the cut.",
        together=(0, 1, 2))


def cuts_of(on: Structure) -> tuple[FloorCut, ...]:
    """Cuts through floors that deform along every axis. Raises InputError where there are none."""
    framed, axes = on.model.framed, on.building.axes
    if framed is None or framed.frame.slabs is None:
        raise InputError([Fault("", "no floor deforms in its plane",
                                "say so under building.diaphragms")])
    if axes is None or not axes.plain:
        raise InputError([Fault("", "floors are cut along axes that run along X and Y, and there "
                                "are none", "give building.axes")])
    lines = [*((f"axis {name}", 0, value) for name, value in axes.x.items()),
             *((f"axis {name}", 1, value) for name, value in axes.y.items())]
    found = floor_cuts(framed.frame, lines)
    if not found:
        raise InputError([Fault("", "no axis runs through a floor that deforms",
                                "give building.axes there")])
    return found


def walled(on: Structure) -> Frame:
    """The frame of a building with walls. Raises InputError where there are none."""
    if on.model.framed is None or on.model.framed.frame.panels is None:
        raise InputError([Fault("", "the building has no walls", "describe them under "
                                "building.walls; lateral lines are read as lines")])
    return on.model.framed.frame


def _of_sections(
    on: Structure, own: Sequence[Section], stem: str, title: str,
    places: Mapping[str, tuple[str, ...]], components: Sequence[str], note: str, *,
    together: tuple[int, ...],
) -> Thing:
    framed = framed_of(on.model)
    rows = section_rows(framed.frame, own)
    z = np.array([s.place[2] for s in own])
    levels = on.building.levels
    d = on.model.diaphragms
    top = np.array([d.elevations[s.story] for s in own])
    inside = (z + top - d.story_heights[[s.story for s in own]]) / 2  # within its own story
    beyond = weight_beyond(framed.frame, own)

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        found = rows @ case.members.displacement
        return np.asarray(found + beyond if case.members.landed.of_panels else found)

    return Thing(
        stem, title, Quantity(stem, "", sparse.csr_array(framed.applied(rows)), {
            "section": tuple(str(k) for k in range(len(own)) for _ in range(6))}),
        {**places, "story": tuple(levels[s.story].name for s in own),
         "at": tuple(s.at for s in own)},
        dimensions(components, "force", "moment"), still,
        growth(on.model, np.minimum(z, inside), np.minimum(np.maximum(z, inside), top), 6), note,
        together=together)
