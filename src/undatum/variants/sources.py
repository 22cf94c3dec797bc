"""Where a drift comes from: what every group of members, wall and line adds to it.

By virtual work (the adjoint of the solution at hand): with the motion ``u`` that makes the drift
and the motion ``v`` under a unit couple of forces across the story, an element of stiffness ``k``
adds ``v k u``. One more solution gives all of them, they add up to the drift, and to make a group a
hundredth stiffer takes a hundredth of its part off, the forces kept (Charney 1991).
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet, SpectrumSet, StaticSet
from undatum.errors import Fault, InputError
from undatum.job.job import Job
from undatum.layout.frame import Frame
from undatum.mechanics.actions import framed_of
from undatum.mechanics.elements import Elements
from undatum.mechanics.framing import end_freedoms
from undatum.mechanics.lines import motions, node_motions
from undatum.mechanics.model import Model
from undatum.mechanics.panels import shells_of
from undatum.mechanics.quantities import center_line, plumb_drift
from undatum.readings.readable import known
from undatum.record import record
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column

Floats = NDArray[np.float64]
REST = "supports, collectors, floors and second order"
_STEP = 1e-6


@record
class Source:
    """A group: its ``part`` of the elastic drift, m, its ``weight``, N, where it has one."""

    group: str
    kind: str
    part: float
    weight: float


@record
class DriftSources:
    """The governing drift along a direction taken apart: ``set``, ``point`` and ``story`` where it
    is largest, its ``elastic`` value, m, the ``use`` of its limit, and what adds to it, the largest
    first.

    >>> found = ud.drift_sources(ud.calculate(ud.shipped_project("archive")), "Y")
    >>> found.story, found.sources[0].group
    ('L4', 'line Brace 1')
    """

    direction: Direction
    state: str
    set: str
    point: str
    story: str
    elastic: float
    use: float
    sources: tuple[Source, ...]

    def table(self) -> Table:
        """Part of the drift by group, what ten percent more stiffness takes off the use, and that
        by weight."""
        own = self.sources
        share = [s.part / self.elastic if self.elastic else 0.0 for s in own]
        less = [self.use * (x - x / 1.1) for x in share]
        return Table(
            f"drift_sources_{self.direction.lower()}",
            f"Where the drift along {self.direction} comes from: story {self.story}, {self.point}, "
            f"{self.set}",
            (
                column("group", "", [s.group for s in own]),
                column("kind", "", [s.kind for s in own]),
                column("part of the drift", "displacement", [s.part for s in own]),
                column("share", "ratio", share, 3),
                column("weight", "force", [s.weight if s.weight else None for s in own]),
                column("use less with 10 % more stiffness", "ratio", less, 3),
                column("weight to add for 1 % of the limit", "force", [
                    0.1 * s.weight / (100 * x) if s.weight and x > 1e-9 else None
                    for s, x in zip(own, less, strict=True)]),
            ),
            note="Elastic drift by virtual work; the parts add up to it. What stiffness takes off "
            "is to first order, with the forces as they are: forces that rise with stiffness take "
            "part of it back, so confirm it by a run. A negative part: stiffer there is worse.")


def drift_sources(job: Job, direction: Direction, story: str = "") -> DriftSources:
    """Take the governing drift along a direction apart, of the limit state with the largest use; of
    one ``story``, by the level at its top, where it is named. Raises InputError for a story that is
    not there, and where no drift is judged.

    >>> found = ud.drift_sources(ud.calculate(ud.shipped_project("archive")), "X")
    >>> found.sources[0].group, round(sum(s.part for s in found.sources) / found.elastic, 9)
    ('line Frame A', 1.0)
    """
    c = DIRECTIONS.index(direction)
    model = job.drift_solver.model
    above = [n for n, there in zip(model.levels, model.above_base, strict=True) if there]
    at = model.levels.index(above[known(story, above, "story")]) if story else None
    uses = {key: float(one.use[one.governing(c, at)][c]) for key, one in job.drifts.items()}
    if not uses or max(uses.values()) <= 0:
        raise InputError([Fault("drift", f"no drift is judged along {direction}",
                                "there is nothing to take apart")])
    key = max(uses, key=lambda k: uses[k])
    check = job.drifts[key]
    s, p, i = check.governing(c, at)
    acting = next(one for one in job.drift_sets[key] if one.name == check.sets[s])
    quantity = plumb_drift(model, [center_line(model), *job.plumb])
    k = (c * (1 + len(job.plumb)) + p) * model.n + i
    row = np.asarray(quantity.rows[[k]].toarray()).ravel()
    moved = _motion(acting, row)
    virtual = job.drift_solver.solve(row)
    found = [*_parts(job, model, virtual, moved)]
    whole = float(row @ moved)
    rest = whole - sum(one.part for one in found)
    if abs(rest) > 1e-9 * abs(whole):
        found.append(Source(REST, "rest", rest, 0.0))
    sign = 1.0 if whole >= 0 else -1.0
    return DriftSources(
        direction, key, acting.name, check.points[p], model.levels[i], abs(whole),
        float(check.use[s, p, i, c]),
        tuple(Source(one.group, one.kind, sign * one.part, one.weight)
              for one in sorted(found, key=lambda one: -sign * one.part)
              if abs(one.part) > 1e-12 * abs(whole)))


def _motion(acting: ResponseSet, row: Floats) -> Floats:
    """The motion of which a row gives the value of a set: of a spectrum set each mode by what it
    adds to the peak. A peak is proportional to its modal values, so nothing is lost (Euler)."""
    if isinstance(acting, StaticSet):
        return acting.displacement
    assert isinstance(acting, SpectrumSet)
    modal = row @ acting.modal
    size = float(np.abs(modal).max(initial=0.0))
    step = _STEP * size * np.eye(modal.size)
    weight = (acting.combine.peaks(modal + step) - acting.combine.peaks(modal - step)) \
        / (2 * _STEP * size) if size else np.zeros(modal.size)
    found = acting.scale * (acting.modal @ weight)
    if acting.torsion is None:
        return np.asarray(found)
    twist = acting.torsion[:, 0]
    return np.asarray(found + (twist if row @ twist >= 0 else -twist))


def _parts(job: Job, model: Model, virtual: Floats, moved: Floats) -> Iterator[Source]:
    d, framed = model.diaphragms, model.framed
    a, b = (virtual, moved) if framed is None else (
        framed.moved(one).ravel() for one in (virtual, moved))
    for line in model.lines:
        if line.stiffness is None:
            continue
        if model.at_nodes(line):  # on the nodes of floors that deform
            rows, first, second = node_motions([line], framed_of(model).frame), a, b
        else:
            rows = motions([line], d.centers, d.freedoms, model.freedoms.count)
            first, second = virtual, moved
        yield Source(f"line {line.name}", "lateral line", float(
            (rows @ first) @ line.stiffness @ (rows @ second)), 0.0)
    if framed is None:
        return
    yield from _of_members(job, framed.frame, framed.elements, a, b)
    shells, panels = shells_of(framed.frame), framed.frame.panels
    if shells is not None and panels is not None:
        energy = np.einsum("pi,pi->p", shells.forces(b), a[shells.at])
        part = np.bincount(panels.wall, energy, len(panels.walls))
        weight = np.bincount(panels.wall, panels.weights, len(panels.walls))
        for w, run in enumerate(panels.walls):
            yield Source(f"wall {run.name}", "wall", float(part[w]), float(weight[w]))


def _of_members(
    job: Job, frame: Frame, elements: Elements, a: Floats, b: Floats
) -> Iterator[Source]:
    """By kind and section."""
    at = end_freedoms(frame.ends)
    first, second = ((elements.turn @ v[at][:, :, None])[:, :, 0] for v in (a, b))
    energy = np.einsum("ei,eij,ej->e", first, elements.stiffness, second)
    groups: dict[tuple[str, str], list[int]] = {}
    for m in frame.members:
        groups.setdefault((m.section, m.kind), []).extend(m.elements)
    building = job.building
    for (name, kind), own in groups.items():
        section = building.sections[name]
        heavy = building.material(section.material).unit_weight
        area = np.array([frame.sections[s].area for s in frame.section[own]])
        yield Source(f"{kind}s of {name}", kind, float(energy[own].sum()),
                     float(heavy * (area * frame.lengths[own]).sum()))
