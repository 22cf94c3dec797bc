"""What can be read: section forces, stress, reactions, motion, lateral lines, stories, drift.

Each is a named quantity (rows on displacements or forces) with the places its values belong to,
what load cases give, and in which stories it stands. A further one is a maker more in
:data:`THINGS`; packages of their own add theirs by :func:`register`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field
from importlib.metadata import entry_points

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.building.frame import Frame, Member
from undatum.building.members import chosen_members
from undatum.building.whole import Building
from undatum.errors import Fault, InputError, nearest
from undatum.mechanics.actions import (
    ACTIONS,
    NODE_MOTIONS,
    REACTIONS,
    feet,
    foot_sums,
    framed_of,
    node_displacements,
    place_name,
    reactions_and_sum,
    section_forces,
)
from undatum.mechanics.cases import LoadCases, StaticCase, along
from undatum.mechanics.cuts import Section, core_sections, section_rows, wall_sections
from undatum.mechanics.floor_cuts import FLOOR_FORCES, FloorCut, cut_rows, floor_cuts
from undatum.mechanics.model import Model
from undatum.mechanics.panels import center_rows
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.mechanics.quantity import Quantity
from undatum.record import Memo, record
from undatum.standards.terms import DIRECTIONS, Motion

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
#: P-Delta factors by direction: of every story (n,) in, of every value (k,) out.
Growth = Callable[[Mapping[Motion, Floats]], Mapping[Motion, Floats]]


@record
class Thing:
    """``k = p * c`` values: ``c`` components at each of ``p`` places. SI.

    ``places`` labels them (p,) by the name of a column, ``components`` gives name and dimension
    (c,); ``quantity`` (k, N) is place by place. ``still`` gives the values (k,) under a load case,
    ``grown`` the P-Delta factor of every value from those of the stories. ``blank`` (k,) marks what
    has no meaning; ``groups`` where places begin that are told together by their largest and
    smallest; ``marked`` names a component whose negative values are marked, and the column that
    says so; ``together`` are the components that are designed for at once. ``of_floors`` says that
    it follows from the motion of the floors alone, ``for_drift`` that sets for drift are meant
    where none is named, ``by_source`` that tables run source by source; ``unknown`` is the
    advice where nothing is known under some source.
    """

    stem: str
    title: str
    quantity: Quantity
    places: Mapping[str, tuple[str, ...]]
    components: tuple[tuple[str, str], ...]
    still: Callable[[StaticCase], Floats]
    grown: Growth
    note: str = ""
    blank: NDArray[np.bool_] | None = None
    groups: Ints | None = None
    marked: tuple[str, str] | None = None
    together: tuple[int, ...] = ()
    of_floors: bool = False
    for_drift: bool = False
    by_source: bool = False
    unknown: str = "name other sources"
    memo: Memo = field(default_factory=Memo, init=False)

    def onto(
        self, rows: sparse.csr_array, stem: str, title: str,
        places: Mapping[str, tuple[str, ...]], components: tuple[tuple[str, str], ...],
        note: str, groups: Ints | None = None,
    ) -> Thing:
        """What follows linearly (k', k) from this; each value from one place."""
        first = rows.indices[rows.indptr[:-1]]
        base = self.quantity
        quantity = Quantity(stem, components[0][1], sparse.csr_array(rows @ base.rows),
                            {"value": tuple(map(str, range(rows.shape[0])))}, base.acts_on)

        def grown(factors: Mapping[Motion, Floats]) -> Mapping[Motion, Floats]:
            return {d: own[first] for d, own in self.grown(factors).items()}

        return Thing(stem, title, quantity, places, components,
                     lambda case: np.asarray(rows @ self.still(case)), grown, note, None, groups)


@record
class Structure:
    """What things are read from: the model and the description it was made of."""

    model: Model
    building: Building
    plumb: tuple[PlumbLine, ...]
    cases: Callable[[], LoadCases]

    def members(self, which: str) -> tuple[Member, ...]:
        """Members by name or selection; all of them for nothing. Raises InputError."""
        try:
            return chosen_members(self.building, which or "all")
        except ValueError as error:
            raise InputError([Fault("", str(error))]) from None


#: Makes a thing of a structure, from what is chosen (in words) and fractions of the length.
Maker = Callable[[Structure, str, Sequence[float]], Thing]


# -- stories that things stand in -------------------------------------------------------------


def _between(model: Model, low: Floats, high: Floats, factors: Floats) -> Floats:
    """(m,) the largest of the factors of the stories that things from ``low`` to ``high`` (m,)
    stand in; of those it borders on, for what lies level."""
    d = model.diaphragms
    top, bottom = d.elevations[None], (d.elevations - d.story_heights)[None]
    near = np.where((high - low > 1e-6)[:, None], -1e-6, 1e-6)
    touched = (bottom < high[:, None] + near) & (top > low[:, None] - near)
    return np.asarray(np.where(touched, factors, 1.0).max(axis=1))


def _growth(model: Model, low: Floats, high: Floats, each: int) -> Growth:
    """For ``each`` values at every thing from ``low`` to ``high``."""
    return lambda factors: {
        d: np.repeat(_between(model, low, high, own), each) for d, own in factors.items()}


def _by_story(stories: Sequence[int], each: int) -> Growth:
    return lambda factors: {d: np.repeat(own[list(stories)], each) for d, own in factors.items()}


def _dimensions(names: Sequence[str], first: str, rest: str) -> tuple[tuple[str, str], ...]:
    """Three components of one dimension before three of another."""
    return tuple((name, first if k < 3 else rest) for k, name in enumerate(names))


# -- members ---------------------------------------------------------------------------------------


def forces(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Section forces of members at fractions of their length."""
    return forces_of(on, on.members(which), at)


def forces_of(on: Structure, members: Sequence[Member], at: Sequence[float]) -> Thing:
    """As :func:`forces`, of members at hand."""
    _check_places(at)
    frame = framed_of(on.model).frame
    ends = np.array([(m.start[2], m.end[2]) for m in members])

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return along(case.members, frame, members, at).ravel()

    return Thing(
        "section_forces", "Section forces of members", section_forces(on.model, members, at),
        {"member": tuple(m.name for m in members for _ in at),
         "at": tuple(place_name(a) for _ in members for a in at)},
        _dimensions(ACTIONS, "force", "moment"), still,
        _growth(on.model, ends.min(axis=1), ends.max(axis=1), 6 * len(at)),
        "At the faces of the members. Tension is positive.", together=(0, 4, 5))


def _check_places(at: Sequence[float]) -> None:
    faults = [Fault("at", f"{x:g} is no fraction of the length", "give values from 0 to 1")
              for x in at if not 0 <= x <= 1]
    if faults:
        raise InputError(faults)


def stress(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """N / A + M_y z / I_y - M_z y / I_z at the outermost points of sections that have a shape.

    Raises InputError where none has.
    """
    every, frame = on.members(which), framed_of(on.model).frame
    rims = {name: on.building.sections[name].rim()
            for name in dict.fromkeys(m.section for m in every)}
    own = tuple(m for m in every if rims[m.section] is not None)
    if not own:
        raise InputError([Fault("", "no section of these members has a shape of its own",
                                "stresses are found for rectangles, circles, I, T, channels, "
                                "angles and hollow ones, without a slab")])
    base = forces_of(on, every, at)
    blocks: list[Floats] = []
    sizes: list[int] = []
    kept: list[int] = []
    for k, m in enumerate(every):
        rim = rims[m.section]
        if rim is None:
            continue
        p = frame.sections[frame.section[m.elements[0]]]
        one = np.zeros((len(rim), 6))
        one[:, 0] = 1 / p.area
        one[:, 4], one[:, 5] = rim[:, 1] / p.bending_y, -rim[:, 0] / p.bending_z
        blocks += [one] * len(at)
        sizes += [len(rim)] * len(at)
        kept += range(6 * len(at) * k, 6 * len(at) * (k + 1))
    rows = sparse.coo_array(sparse.block_diag([sparse.coo_array(one) for one in blocks]))
    wide = sparse.csr_array(
        (rows.data, (rows.coords[0], np.array(kept)[rows.coords[1]])),
        shape=(sum(sizes), len(base.quantity)))
    left = dict.fromkeys(m.section for m in every if rims[m.section] is None)
    return base.onto(
        wide, "fiber_stresses", "Stress at the extreme fibers",
        {"member": tuple(m.name for m in own for _ in at),
         "at": tuple(place_name(a) for _ in own for a in at),
         "section": tuple(m.section for m in own for _ in at)}, (("stress", "stress"),),
        "Elastic, of the gross section as its sizes say, tension positive; warping and shear are "
        "not in it." + ("" if not left else " Left out, their sections have no shape of their own "
                        f"(parts, properties, slab flange): {', '.join(left)}."),
        np.cumsum([0, *sizes[:-1]]))


def reactions(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Forces and moments of the ground on the feet of columns, and the sums of the forces.

    ``which`` is one foot, by the axes of its column, or ``sum``. Raises InputError.
    """
    if on.model.framed is None:
        on.members("")  # names what is missing
    model = on.model
    names, quantity = reactions_and_sum(model)
    together = foot_sums(model)
    z = np.array([foot.at[2] for foot in feet(model)])
    z = np.append(z, z.min())  # of the sum: all feet stand on the lowest level
    rows = list(range(len(names))) if not which else [_known(which, names, "foot")]
    taken = (6 * np.array(rows)[:, None] + np.arange(6)).ravel()
    blank = np.zeros((len(names), 6), dtype=bool)
    blank[-1, 3:] = True  # moments of the sum are about no point

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        own = (together @ case.members.reactions.ravel()).reshape(-1, 6)
        return np.vstack([own, own.sum(axis=0)]).ravel()[taken]

    alone = [line.name for line in model.lines if line.stiffness is not None]
    return Thing(
        "reactions", "Reactions at the feet of columns and walls",
        quantity.at(taken) if which else quantity,
        {"foot": tuple(names[k] for k in rows)}, _dimensions(REACTIONS, "force", "moment"), still,
        _growth(model, z[rows], z[rows], 6),
        "Actions of the ground on the structure: a negative force Z holds a foot down, or the "
        "whole building in the sum. Unsigned peaks cannot be added; the row sum is the peak of the "
        "total." + ("" if not alone else " Lateral lines have feet of their own, which are not in "
                    "the sums.")
        + ("" if "ground force" not in model.quantities else " The ground takes forces at the "
           "floors it holds, too: table ground_forces."),
        blank.ravel()[taken], marked=("uplift", "force Z"), together=(2, 3, 4), by_source=True)


def motion(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Displacements and rotations of the nodes of chosen members."""
    return motion_of(on, on.members(which))[0]


def motion_of(on: Structure, members: Sequence[Member]) -> tuple[Thing, list[int]]:
    """As :func:`motion`, of members at hand; the thing and its nodes."""
    model, building, frame = on.model, on.building, framed_of(on.model).frame
    nodes = _nodes(frame, members)
    crossings = {} if building.axes is None else {
        (round(x, 3), round(y, 3)): name for name, (x, y) in building.axes.crossings.items()}
    where = frame.points[nodes]
    floors = frame.floors[nodes]
    stories = [model.levels.index(building.levels[i].name) if building.levels[i].name
               in model.levels else -1 for i in floors.tolist()]

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(case.members.displacement.reshape(-1, 6)[nodes].ravel())

    def grown(factors: Mapping[Motion, Floats]) -> Mapping[Motion, Floats]:
        """The largest factor of the stories below: their drift is in the displacement."""
        below = model.diaphragms.carried.T  # (floor, story) stories whose cut a floor loads
        return {d: np.repeat([1.0 if i < 0 else float(np.where(below[i], own, 1.0).max())
                              for i in stories], 6) for d, own in factors.items()}

    return Thing(
        "node_motion", "Displacement of the nodes of members", node_displacements(model, nodes),
        {"node": tuple(crossings.get((round(x, 3), round(y, 3)), f"({x:.3f}, {y:.3f}) m")
                       for x, y, _ in where.tolist()),
         "level": tuple(building.levels[i].name for i in floors.tolist())},
        tuple((name if k > 2 else f"displacement {name}", "angle" if k > 2 else "displacement")
              for k, name in enumerate(NODE_MOTIONS)), still, grown,
        "Elastic, without amplification."), nodes


def _nodes(frame: Frame, members: Sequence[Member]) -> list[int]:
    """The nodes at the ends of members, and those between where others meet them."""
    every = [frame.ends[list(m.elements)].ravel().tolist() for m in members]
    return list(dict.fromkeys(node for own in every for node in own))


# -- walls ---------------------------------------------------------------------------------------

OF_WALLS = ("axial", "shear in plane", "shear across", "torsion", "moment across",
            "moment in plane")
OF_CORES = ("axial", "shear X", "shear Y", "torsion", "moment X", "moment Y")


def walls(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Actions of walls, of their segments and of the coupling beams over openings, of all or of one
    wall, at the foot and head of every story. Raises InputError where there is no such wall."""
    frame = _walled(on)
    every = wall_sections(frame)
    names = list(dict.fromkeys(s.wall for s in every))
    own = every if not which else tuple(
        s for s in every if s.wall == names[_known(which, names, "wall")])
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
    frame = _walled(on)
    every = core_sections(frame)
    names = list(dict.fromkeys(s.wall for s in every))
    if not names:
        raise InputError([Fault("", "there are no cores", "name their walls under building.cores")])
    own = every if not which else tuple(
        s for s in every if s.wall == names[_known(which, names, "core")])
    return _of_sections(
        on, own, "core_forces", "Cores", {"core": tuple(s.wall for s in own)}, OF_CORES,
        "All walls of the core together, about the center of their area in the story; tension is "
        "positive.", together=(0, 4, 5))


def panel_forces(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Forces per length at the centers of the panels of all walls, or of one. Raises InputError
    where there is no such wall."""
    frame = _walled(on)
    panels = frame.panels
    assert panels is not None
    names = [w.name for w in panels.walls]
    own = np.arange(len(panels)) if not which else np.flatnonzero(
        panels.wall == _known(which, names, "wall"))
    rows, framed, box = center_rows(frame, own), framed_of(on.model), panels.box[own]

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(rows @ case.members.displacement)

    return Thing(
        "panel_forces", "Forces per length at the centers of panels",
        Quantity("panel force", "line load", sparse.csr_array(rows @ framed.follow), {
            "panel": tuple(str(k) for k in own.tolist() for _ in range(3))}),
        {"wall": tuple(names[w] for w in panels.wall[own].tolist()),
         "story": tuple(on.building.levels[i].name for i in panels.story[own].tolist()),
         "panel": tuple(str(k) for k in own.tolist())},
        (("sideways", "line load"), ("upwards", "line load"), ("shear", "line load")), still,
        _growth(on.model, box[:, 2], box[:, 3], 3),
        "Along the wall, up the wall and in shear, per length of section; tension is positive. "
        "Over the thickness they are the stress. Table wall_panels says where each panel is.")


def floors(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Forces within floors that deform, in cuts along the axes, of all levels or of one.

    Raises InputError where no floor deforms, or none on that level.
    """
    cuts = cuts_of(on)
    names = list(dict.fromkeys(on.building.levels[c.level].name for c in cuts))
    own = cuts if not which else tuple(
        c for c in cuts if on.building.levels[c.level].name == names[_known(which, names, "level "
                                                                           "with such a floor")])
    framed = framed_of(on.model)
    rows = cut_rows(framed.frame, framed.elements, own)
    z = np.array([on.building.elevations[c.level] for c in own])

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(rows @ case.members.displacement)

    return Thing(
        "floor_forces", "Within floors that deform", Quantity(
            "floor force", "", sparse.csr_array(rows @ framed.follow),
            {"cut": tuple(str(k) for k in range(len(own)) for _ in FLOOR_FORCES)}),
        {"level": tuple(on.building.levels[c.level].name for c in own),
         "cut": tuple(c.name for c in own)},
        tuple((name, "moment" if name.startswith("moment") else "force") for name in FLOOR_FORCES),
        still, _growth(on.model, z, z, 4),
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


def _walled(on: Structure) -> Frame:
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

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(rows @ case.members.displacement)

    return Thing(
        stem, title, Quantity(stem, "", sparse.csr_array(rows @ framed.follow), {
            "section": tuple(str(k) for k in range(len(own)) for _ in range(6))}),
        {**places, "story": tuple(levels[s.story].name for s in own),
         "at": tuple(s.at for s in own)},
        _dimensions(components, "force", "moment"), still,
        _growth(on.model, np.minimum(z, inside), np.minimum(np.maximum(z, inside), top), 6), note,
        together=together)


# -- lines, stories, drift -------------------------------------------------------------------------


def force_from_floor(model: Model) -> Quantity:
    """What every line takes from the floor of each of its levels: shear below less that above."""
    def make() -> Quantity:
        shear = model.quantities["line shear"]
        names = shear.labels["line"]
        under = np.array([k for k in range(1, len(names)) if names[k] == names[k - 1]], dtype=int)
        less = sparse.csr_array((np.ones(under.size), (under, under - 1)),
                                shape=(len(names), len(names)))
        return Quantity("force from floor", "force",
                        sparse.csr_array(shear.rows - less @ shear.rows), shear.labels)

    return model.memo.get("force from floor", make)


def lines(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Shear, force from the floor and moment of lateral lines, or of one, story by story.

    Raises InputError where there is no such line.
    """
    model = on.model
    shear, moment = model.quantities["line shear"], model.quantities["line moment"]
    names = shear.labels["line"]
    if which:
        _known(which, list(dict.fromkeys(names)), "line")
    bent = {pair: k for k, pair in enumerate(
        zip(moment.labels["line"], moment.labels["story"], strict=True))}
    pairs = list(zip(names, shear.labels["story"], strict=True))
    rows = [k for k, (line, _) in enumerate(pairs) if which in ("", line)]
    has = [bent.get(pairs[k], -1) for k in rows]
    count = model.freedoms.count
    bending = sparse.csr_array(sparse.vstack([moment.rows, sparse.csr_array((1, count))]))[has]
    stacked = sparse.vstack([shear.rows[rows], force_from_floor(model).rows[rows], bending])
    order = np.arange(3 * len(rows)).reshape(3, -1).T.ravel()  # place by place
    quantity = Quantity("lateral line", "", sparse.csr_array(sparse.csr_array(stacked)[order]), {
        "line": tuple(pairs[k][0] for k in rows for _ in range(3))})
    own = np.repeat(np.array(has) >= 0, 3)
    blank = np.zeros((len(rows), 3), dtype=bool)
    blank[np.array(has) < 0, 2] = True

    def still(case: StaticCase) -> Floats:
        return np.where(own, quantity.rows @ case.motion, np.nan)

    return Thing(
        "line_forces", "Lateral lines", quantity,
        {"line": tuple(pairs[k][0] for k in rows), "story": tuple(pairs[k][1] for k in rows)},
        (("shear", "force"), ("force from floor", "force"), ("moment at the bottom", "moment")),
        still, _by_story([model.levels.index(pairs[k][1]) for k in rows], 3),
        "The force from the floor is delivered by collectors at the top of the story. The moment "
        "is that at the bottom of the story, of lines with a stiffness of their own; under loads "
        "they alone are followed, by what the floors do to them. The moment of the lowest story "
        "and its shear act on the foot.", blank.ravel(), of_floors=True,
        unknown="lines of members do not follow gravity: read forces of their members")


def stories(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Shear and overturning moment along X and Y, and torsion, of every story or of one."""
    model, of = on.model, on.model.quantities
    parts = [(of["story shear"], "force", "shear {}"),
             (of["overturning moment"], "moment", "overturning {}")]
    rows = list(range(model.n)) if not which else [_known(which, model.levels, "story")]
    order = [c * model.n + i for i in rows for c in range(2)]
    every = [q.at(order) for q, _, _ in parts] + [of["story torsion"].at(rows)]
    place = np.concatenate([5 * np.repeat(np.arange(len(rows)), 2) + np.tile([0, 1], len(rows)),
                            5 * np.repeat(np.arange(len(rows)), 2) + np.tile([2, 3], len(rows)),
                            5 * np.arange(len(rows)) + 4])
    back = np.argsort(place)
    held = [q.returned for q in every if q.returned is not None]
    returned = sparse.csr_array(sparse.csr_array(sparse.vstack(held))[back]) if held else None
    quantity = Quantity(
        "story", "", sparse.csr_array(sparse.csr_array(
            sparse.vstack([q.rows for q in every]))[back]),
        {"story": tuple(model.levels[i] for i in rows for _ in range(5))}, "forces", returned)

    def still(case: StaticCase) -> Floats:
        if _sideways(case, model):
            return np.full(len(quantity), np.nan)
        return quantity.of(case.motion, case.nodal)

    return Thing(
        "story_forces", "Shear, overturning moment and torsion of stories", quantity,
        {"story": tuple(model.levels[i] for i in rows)},
        (*((name.format(d), dimension) for _, dimension, name in parts for d in DIRECTIONS),
         ("torsion", "moment")),
        still, _by_story(rows, 5),
        "Of horizontal forces: overturning about the bottom of the story below the center of mass, "
        "torsion about it. Load cases that push members sideways between floors are left out.",
        of_floors=True, unknown="loads push members sideways between floors: read reactions")


def _sideways(case: StaticCase, model: Model) -> bool:
    """Whether loads on members or nodes have a horizontal part."""
    if case.members is None or model.framed is None:
        return False
    landed, axes = case.members.landed, model.framed.frame.axes
    world = np.einsum("eik,ekj->eij", landed.load, axes[landed.elements])  # both ends, X Y Z
    parts = [world[..., :2].ravel(), landed.forces.reshape(-1, 6)[:, :2].ravel()]
    size = max((float(np.abs(p).max(initial=0.0)) for p in (world, landed.forces)), default=0.0)
    return any(float(np.abs(p).max(initial=0.0)) > 1e-9 * size for p in parts)


def drift(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Elastic story drift on plumb lines, or on one, where they are on the floor above."""
    model = on.model
    every = [center_line(model), *on.plumb]
    chosen = every if not which else [every[_known(which, [p.name for p in every], "point")]]
    there = [(p, i) for p in range(len(chosen)) for i in range(model.n) if chosen[p].present[i]]
    base = plumb_drift(model, chosen, DIRECTIONS)
    quantity = base.at([c * len(chosen) * model.n + p * model.n + i
                        for p, i in there for c in range(2)])
    return Thing(
        "story_drift", "Elastic story drift", quantity,
        {"point": tuple(chosen[p].name for p, _ in there),
         "story": tuple(model.levels[i] for _, i in there)},
        tuple((f"drift {d}", "displacement") for d in DIRECTIONS),
        lambda case: quantity.of(case.motion, case.motion), _by_story([i for _, i in there], 2),
        "Elastic, without amplification, as the forces of each set move the stiffness for "
        "strength where they are for strength. The standard's check of drift stands in tables of "
        "its own.", of_floors=True, for_drift=True)


def _known(name: str, names: Sequence[str], what: str) -> int:
    """Where a name stands. Raises InputError with the nearest."""
    if name in names:
        return list(names).index(name)
    near = nearest(name, list(names))
    raise InputError([Fault("", f"there is no {what} {name!r}",
                            (f"did you mean {near!r}? " if near else "")
                            + f"known: {', '.join(names)}")])


#: Everything there is to read, by the word that asks for it.
THINGS: dict[str, Maker] = {
    "forces": forces, "stress": stress, "reactions": reactions, "motion": motion, "lines": lines,
    "stories": stories, "drift": drift, "walls": walls, "cores": cores, "panels": panel_forces,
    "floors": floors}


def register(name: str, make: Maker) -> None:
    """Add a thing to read, from outside. Raises ValueError where the name is taken."""
    if THINGS.get(name, make) is not make:
        raise ValueError(f"{name!r} is taken; choose another name")
    THINGS[name] = make


def thing(on: Structure, what: str, which: str = "", at: Sequence[float] = (0.0, 1.0)) -> Thing:
    """What is asked for. Raises InputError where it isn't there.

    Packages beside this one add to what there is by the entry point group ``undatum.readings``.
    """
    if what not in THINGS:
        for one in entry_points(group="undatum.readings"):
            register(one.name, one.load())
    if what not in THINGS:
        near = nearest(what, list(THINGS))
        raise InputError([Fault("what", f"there is no {what!r} to read",
                                (f"did you mean {near!r}? " if near else "")
                                + f"choose from: {', '.join(THINGS)}")])
    return THINGS[what](on, which, at)
