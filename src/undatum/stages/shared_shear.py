"""What frames, braces and walls take of the base shear, and frames by themselves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet, StaticSet
from undatum.building.rules import MemberRule
from undatum.errors import UndatumError
from undatum.finding import Finding, Severity
from undatum.layout.frame import Member
from undatum.layout.weight import FloorMasses
from undatum.layout.whole import Building
from undatum.mechanics.actions import section_forces
from undatum.mechanics.cuts import wall_heads
from undatum.mechanics.framing import end_freedoms
from undatum.mechanics.idealize import idealize
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver, factorize
from undatum.record import record
from undatum.standards.answers import SystemAnswer
from undatum.standards.facts import Taken
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column

Floats = NDArray[np.float64]
ENDS = (0.0, 1.0)
ACTIONS = {"axial": (0,), "shear": (1, 2), "moment": (4, 5)}  # of the six of a section


def taken_by_kind(building: Building, solver: Solver, weight: Floats) -> dict[Direction, Taken]:
    """Shares of the base shear, under forces by weight and height without eccentricity.

    Columns that bend are frames, with what braced bays give them; walls are those of panels and
    lateral lines given as cantilevers; of other lateral lines it is not known what they are.
    """
    model = solver.model
    forces = model.by_height(weight)
    cantilevers = {line.name for line in building.lines if line.cantilever is not None}
    found: dict[Direction, Taken] = {}
    for axis, d in enumerate(DIRECTIONS):
        if d not in model.directions:
            continue
        load = model.loads(d, forces)
        moved = solver.solve(load)
        parts = dict.fromkeys(Taken._fields, 0.0)
        shears, k = model.quantities["line shear"].of(moved, load), 0
        for line in model.lines:
            own = shears[k:k + line.levels.size]
            k += line.levels.size
            if line.stiffness is not None:
                at_base = np.isin(line.levels, model.base_stories)
                kind = "walls" if line.name in cantilevers else "lines"
                parts[kind] += float(own[at_base].sum() * line.axis[axis])
        for kind, value in _of_members(model, axis, moved).items():
            parts[kind] += value
        total = sum(parts.values())
        found[d] = Taken(**{key: value / total if total else 0.0 for key, value in parts.items()})
    return found


def _of_members(model: Model, axis: int, moved: Floats) -> dict[str, float]:
    """What columns, braces and walls of the stories on the base take along an axis, N; infills are
    no part of the system."""
    if model.framed is None:
        return {}
    framed, frame = model.framed, model.framed.frame
    motion = framed.moved(moved)
    infill = np.array([m.infill for m in frame.members], dtype=bool)[frame.member]
    which = np.flatnonzero((frame.kinds != "beam") & ~infill)
    turn, stiffness = framed.elements.turn[which], framed.elements.stiffness[which]
    at_ends = motion[end_freedoms(frame.ends[which])]
    local = np.einsum("eij,ejk,ek->ei", stiffness, turn, at_ends)
    forces = np.einsum("eji,ej->ei", turn, local)[:, 6 + axis].tolist()
    kinds = np.where(frame.kinds[which] == "brace", "braces", "frames").tolist()
    floors = frame.floors[frame.ends[which, 1]].tolist()
    if frame.panels is not None:
        heads = wall_heads(frame, lambda rows: np.asarray(rows @ motion)[:, None])
        kinds += ["walls"] * len(heads.story)
        floors += heads.story.tolist()
        forces += heads.rows[:, axis, 0].tolist()
    found = dict.fromkeys(("frames", "braces", "walls"), 0.0)
    for kind, floor, force in zip(kinds, floors, forces, strict=True):
        if floor in model.base_stories:
            found[kind] += force
    return found


# -- frames by themselves --------------------------------------------------------------------------


@record
class OfPart:
    """A member, or a lateral line in a story: its largest axial force, shear (N) and moment (N m)
    in frames by themselves, and in the analysis; not a number where a line has none."""

    name: str
    level: str
    alone: tuple[float, float, float]
    analysis: tuple[float, float, float]

    @property
    def governs(self) -> bool:
        """Whether the frames by themselves ask for more."""
        return any(a > b * (1 + 1e-9) for a, b in zip(self.alone, self.analysis, strict=True))


@record
class FramesAlone:
    """Moment frames without the walls and braces beside them, under a share of the static forces.

    ``shares`` the share by direction with its clause, and ``taken`` what the frames take of the
    base shear beside the others; ``parts`` what remains; ``failed`` why there is nothing.
    """

    shares: Mapping[Direction, tuple[float, str]]
    taken: Mapping[Direction, float]
    parts: tuple[OfPart, ...]
    failed: str = ""

    def findings(self) -> tuple[Finding, ...]:
        """What the frames take, and how many of them need more by themselves."""
        found = []
        for d, (share, clause) in self.shares.items():
            text = f"Moment frames take {self.taken[d]:.0%} of the base shear beside the others; " \
                   f"by themselves they must resist {share:.0%} of the design forces. "
            if self.failed:
                found.append(Finding(
                    "frames of a dual system", f"system {d}", Severity.WARNING,
                    f"{text}They can't be analyzed by themselves: {self.failed}", clause,
                    "Describe moment frames that stand without the walls and braces, or take "
                    "another system."))
                continue
            more = sum(p.governs for p in self.parts)
            found.append(Finding(
                "frames of a dual system", f"system {d}", Severity.NOTE,
                f"{text}That asks for more than the analysis in {more} of {len(self.parts)} "
                "members or lines, both directions together (table frames_alone).", clause,
                "Design the frames for the larger of both."))
        return tuple(found)

    def table(self) -> Table:
        """Member by member: frames by themselves beside the analysis."""
        rows = self.parts

        def values(which: str, k: int) -> list[float | None]:
            return [None if np.isnan(v) else v for v in (getattr(r, which)[k] for r in rows)]

        said = "; ".join(f"{share:.0%} of the static forces in {d} ({clause})"
                         for d, (share, clause) in self.shares.items())
        return Table(
            "frames_alone", "Moment frames by themselves",
            (
                column("member or line", "", [r.name for r in rows]),
                column("level", "", [r.level for r in rows]),
                *(column(f"{name}, {word}", "moment" if name == "moment" else "force",
                         values(which, k))
                  for k, name in enumerate(ACTIONS)
                  for word, which in (("alone", "alone"), ("analysis", "analysis"))),
                column("governs", "", ["frames alone" if r.governs else "analysis" for r in rows]),
            ),
            marks=tuple(i for i, r in enumerate(rows) if r.governs),
            note=f"Walls, braces and lateral lines given as cantilevers left out, under {said}, "
            "with both signs of the accidental eccentricity. Largest values at the ends of "
            "members, of the larger component across; beside them those of the analysis, each "
            "direction by itself. Earthquake alone.")


def frames_alone(
    building: Building, masses: FloorMasses, solver: Solver,
    systems: Mapping[Direction, SystemAnswer], taken: Mapping[Direction, Taken],
    static_sets: Sequence[StaticSet], sets: Sequence[ResponseSet],
) -> FramesAlone | None:
    """The frames of dual systems by themselves; nothing where there is no dual system.

    ``static_sets`` for strength are what they are put under, ``sets`` all those for strength.
    """
    shares = {d: one.frames_alone for d, one in systems.items() if one.frames_alone is not None}
    if not shares:
        return None
    by_frames = {d: taken[d].frames + taken[d].lines for d in shares}
    try:
        alone = factorize(idealize(without_walls(building), masses))
        pushed = [(s, shares[s.direction][0]) for s in static_sets if s.direction in shares]
        loads = np.column_stack([
            alone.model.loads(s.direction, share * s.forces, share * s.torques)
            for s, share in pushed])
        moved = alone.solve(loads)
    except UndatumError as error:
        return FramesAlone(shares, by_frames, (), str(error).splitlines()[0])
    return FramesAlone(shares, by_frames, (
        *_members(solver.model, alone.model, moved, loads, sets),
        *_lines(solver.model, alone.model, moved, loads, sets)))


def without_walls(building: Building) -> Building:
    """The building without walls, braces and lateral lines given as cantilevers."""
    frame = building.frame
    braced = frame is not None and any(m.kind == "brace" for m in frame.members)
    rules = [MemberRule(braces="all", remove=True)] if braced else []
    return building.model_copy(update={
        "walls": (), "cores": {}, "members": (*building.members, *rules),
        "placed": tuple(p for p in building.placed if p.kind != "brace"),
        "lines": tuple(x for x in building.lines if x.cantilever is None)})


def _members(
    model: Model, alone: Model, moved: Floats, loads: Floats, sets: Sequence[ResponseSet]
) -> list[OfPart]:
    if model.framed is None or alone.framed is None:
        return []
    whole = {m.name: m for m in model.framed.frame.members}
    own = [m for m in alone.framed.frame.members if m.name in whole]
    if not own:
        return []

    def rows(of: Model, members: Sequence[Member], read: Sequence[ResponseSet]) -> Floats:
        quantity = section_forces(of, members, ENDS)
        values = [s.of(quantity) for s in read] if read else [*quantity.of(moved, loads).T]
        return np.asarray(np.max([largest_at_ends(v) for v in values], axis=0))

    pairs = zip(own, rows(alone, own, ()).tolist(),
                rows(model, [whole[m.name] for m in own], sets).tolist(), strict=True)
    return [OfPart(m.name, m.level, (a[0], a[1], a[2]), (b[0], b[1], b[2])) for m, a, b in pairs]


def largest_at_ends(values: Floats) -> Floats:
    """(members, 3) largest axial force, shear and moment of section forces at both ends of
    members, by member, end and the six of a section."""
    each = np.abs(values).reshape(-1, len(ENDS), 6).max(axis=1)
    return np.column_stack([each[:, list(c)].max(axis=1) for c in ACTIONS.values()])


def _lines(
    model: Model, alone: Model, moved: Floats, loads: Floats, sets: Sequence[ResponseSet]
) -> list[OfPart]:
    """Lateral lines that remain, story by story: their shear."""
    remaining = {line.name for line in alone.lines if line.stiffness is not None}
    both = []
    for of, read in ((alone, ()), (model, sets)):
        quantity = of.quantities["line shear"]
        values = np.array([s.of(quantity) for s in read]) if read else \
            quantity.of(moved, loads).T
        both.append({key: float(v) for key, v in zip(zip(
            quantity.labels["line"], quantity.labels["story"], strict=True),
            np.abs(values).max(axis=0), strict=True) if key[0] in remaining})
    return [OfPart(line, story, (np.nan, v, np.nan), (np.nan, both[1][line, story], np.nan))
            for (line, story), v in both[0].items()]
