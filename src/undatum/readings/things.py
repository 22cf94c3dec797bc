"""What can be read: section forces, stress, reactions, motion, lateral lines, stories, drift.

Each is a named quantity (rows on displacements or forces) with the places its values belong to,
what load cases give, and in which stories it stands. A further one is a maker more in
:data:`THINGS`; packages of their own add theirs by :func:`register`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from importlib.metadata import entry_points

import numpy as np
from scipy import sparse

from undatum.errors import Fault, InputError, one_of
from undatum.layout.frame import Frame, Member
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
from undatum.mechanics.cases import StaticCase, along
from undatum.mechanics.lines import LateralLine, node_motions
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import center_line, moments_of, plumb_drift
from undatum.mechanics.quantity import Quantity
from undatum.readings.of_walls import cores, floors, panel_forces, walls
from undatum.readings.readable import (
    Floats,
    Maker,
    Structure,
    Thing,
    by_story,
    dimensions,
    growth,
    known,
)
from undatum.readings.wall_feet import feet as feet_of_walls
from undatum.standards.terms import DIRECTIONS, Motion

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
        dimensions(ACTIONS, "force", "moment"), still,
        growth(on.model, ends.min(axis=1), ends.max(axis=1), 6 * len(at)),
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
    rows = list(range(len(names))) if not which else [known(which, names, "foot")]
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
        {"foot": tuple(names[k] for k in rows)}, dimensions(REACTIONS, "force", "moment"), still,
        growth(model, z[rows], z[rows], 6),
        "Actions of the ground on the structure: a negative force Z is uplift. Rows of unsigned "
        "peaks cannot be added; the row sum is the peak of the "
        "total." + ("" if not alone else " Lateral lines have bases of their own, which are not "
                                         "included in the sums.")
        + ("" if "ground force" not in model.quantities else " The ground also acts on the floors "
                                                             "it holds: read ground."),
        blank.ravel()[taken], marked=("uplift", "force Z"), together=(2, 3, 4), by_source=True)


def motion(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Displacements and rotations of the nodes of chosen members."""
    return motion_of(on, on.members(which))[0]


def motion_of(on: Structure, members: Sequence[Member]) -> tuple[Thing, list[int]]:
    """As :func:`motion`, of members at hand; the thing and its nodes."""
    nodes = _nodes(framed_of(on.model).frame, members)
    return motion_at(on, nodes), nodes


def motion_at(on: Structure, nodes: Sequence[int]) -> Thing:
    """As :func:`motion`, of nodes at hand."""
    model, building, frame = on.model, on.building, framed_of(on.model).frame
    crossings = {} if building.axes is None else {
        (round(x, 3), round(y, 3)): name for name, (x, y) in building.axes.crossings.items()}
    where = frame.points[list(nodes)]
    floors = frame.floors[list(nodes)]
    stories = [model.levels.index(building.levels[i].name) if building.levels[i].name
               in model.levels else -1 for i in floors.tolist()]

    def still(case: StaticCase) -> Floats:
        assert case.members is not None
        return np.asarray(case.members.displacement.reshape(-1, 6)[list(nodes)].ravel())

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
        "Elastic, without amplification.")


def _nodes(frame: Frame, members: Sequence[Member]) -> list[int]:
    """The nodes at the ends of members, and those between where others meet them."""
    every = [frame.ends[list(m.elements)].ravel().tolist() for m in members]
    return list(dict.fromkeys(node for own in every for node in own))


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


def _at_nodes(model: Model, line: LateralLine, case: StaticCase) -> Floats:
    """(m, 3) shear, force from the floor and moment of a line that meets floors that deform, from
    the nodes where it does."""
    assert model.framed is not None
    assert case.members is not None
    assert line.shear is not None
    moved = node_motions([line], model.framed.frame) @ case.members.displacement
    shear = line.shear @ moved
    return np.column_stack([
        shear, np.diff(shear, prepend=0.0), moments_of(line, model.diaphragms) @ moved])


def lines(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Shear, force from the floor and moment of lateral lines, or of one, story by story.

    Raises InputError where there is no such line.
    """
    model = on.model
    shear, moment = model.quantities["line shear"], model.quantities["line moment"]
    names = shear.labels["line"]
    if which:
        known(which, list(dict.fromkeys(names)), "line")
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
        found = np.where(own, quantity.rows @ case.motion, np.nan).reshape(-1, 3)
        for line in model.lines:
            if model.at_nodes(line) and which in ("", line.name):
                found[[pairs[k][0] == line.name for k in rows]] = _at_nodes(model, line, case)
        return found.ravel()

    return Thing(
        "line_forces", "Lateral lines", quantity,
        {"line": tuple(pairs[k][0] for k in rows), "story": tuple(pairs[k][1] for k in rows)},
        (("shear", "force"), ("force from floor", "force"), ("moment at the bottom", "moment")),
        still, by_story([model.levels.index(pairs[k][1]) for k in rows], 3),
        "The force from the floor is delivered by collectors at the top of the story. Moments are "
        "at the bottom of the story, for lines with a stiffness of their own; under load cases "
        "only these lines are followed, through the displacements of the floors. In the lowest "
        "story, shear and moment act on the base.", blank.ravel(), of_floors=True,
        unknown="lines of members do not follow gravity: read forces of their members")


def stories(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """Shear and overturning moment along X and Y, and torsion, of every story or of one."""
    model, of = on.model, on.model.quantities
    parts = [(of["story shear"], "force", "shear {}"),
             (of["overturning moment"], "moment", "overturning {}")]
    rows = list(range(model.n)) if not which else [known(which, model.levels, "story")]
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
        still, by_story(rows, 5),
        "From horizontal forces: overturning about the bottom of the story below the center of "
        "mass, torsion about the center of mass. Load cases with lateral loads on members between "
        "floors are omitted.",
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
    chosen = every if not which else [every[known(which, [p.name for p in every], "point")]]
    there = [(p, i) for p in range(len(chosen)) for i in range(model.n) if chosen[p].present[i]]
    base = plumb_drift(model, chosen, DIRECTIONS)
    quantity = base.at([c * len(chosen) * model.n + p * model.n + i
                        for p, i in there for c in range(2)])
    return Thing(
        "story_drift", "Elastic story drift", quantity,
        {"point": tuple(chosen[p].name for p, _ in there),
         "story": tuple(model.levels[i] for _, i in there)},
        tuple((f"drift {d}", "displacement") for d in DIRECTIONS),
        lambda case: quantity.of(case.motion, case.motion), by_story([i for _, i in there], 2),
        "Elastic, not amplified; sets for strength act on the stiffness for strength. The "
        "standard's drift check has tables of its own.", of_floors=True, for_drift=True)


def ground(on: Structure, which: str, at: Sequence[float]) -> Thing:
    """What the ground does to the floors it holds, or to one. Raises InputError where none is."""
    model = on.model
    if "ground force" not in model.quantities:
        raise InputError([Fault("what", "the ground holds no floor here",
                                "give building.held_by_ground, or read reactions")])
    force, moment = model.quantities["ground force"], model.quantities["ground moment"]
    floors = moment.labels["level"]
    rows = list(range(len(floors))) if not which else [known(which, list(floors), "level")]
    both = sparse.csr_array(sparse.vstack([force.rows, moment.rows]))
    count = 2 if model.plane else 3  # a plane building turns nowhere
    quantity = Quantity(
        "ground", "", sparse.csr_array(both[[c * len(floors) + k for k in rows
                                             for c in range(count)]]),
        {"level": tuple(floors[k] for k in rows for _ in range(count))})
    return Thing(
        "ground_forces", "Ground forces on the floors it holds", quantity,
        {"level": tuple(floors[k] for k in rows)},
        (("force X", "force"), ("force Y", "force"), ("moment", "moment"))[:count],
        lambda case: np.asarray(quantity.rows @ case.motion),
        by_story([model.levels.index(floors[k]) for k in rows], count),
        "Actions of the ground on the building, at the middle of the floor"
        + ("" if model.plane else "; moments about the vertical axis there") + ".",
        of_floors=True)


#: Everything there is to read, by the word that asks for it.
THINGS: dict[str, Maker] = {
    "forces": forces, "stress": stress, "reactions": reactions, "motion": motion, "lines": lines,
    "stories": stories, "drift": drift, "walls": walls, "cores": cores, "panels": panel_forces,
    "feet": feet_of_walls, "floors": floors, "ground": ground}


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
        raise InputError([Fault("what", f"there is no {what!r} to read",
                                one_of(what, THINGS, "choose from"))])
    return THINGS[what](on, which, at)
