"""Members that carry gravity and no lateral force: how stiff they are, and what displacement does
to them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import ResponseSet
from undatum.errors import UndatumError
from undatum.finding import Finding, Severity
from undatum.layout.frame import Member
from undatum.layout.weight import FloorMasses
from undatum.layout.whole import Building
from undatum.mechanics.actions import section_forces
from undatum.mechanics.idealize import idealize
from undatum.mechanics.model import Model
from undatum.mechanics.solver import Solver, factorize
from undatum.record import record
from undatum.stages.shared_shear import ACTIONS, ENDS, largest_at_ends
from undatum.standards.facts import SecondaryRule
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column
from undatum.ties import largest

Floats = NDArray[np.float64]
@record
class Secondary:
    """Secondary members of a building, as if they were as stiff as they are.

    ``shares`` by direction, the largest ratio of their lateral stiffness to that of the others and
    its story; ``names`` and ``levels`` (m,) of the members, ``forces`` (m, 3) largest axial force,
    shear (N) and moment (N m) at their ends where the structure moves as it does in the design
    earthquake; none where floors that deform, or a mechanism, leave that open: ``failed`` says why.
    """

    rule: SecondaryRule | None
    shares: Mapping[Direction, tuple[float, str]]
    names: tuple[str, ...]
    levels: tuple[str, ...]
    forces: Floats
    failed: str = ""

    def findings(self) -> tuple[Finding, ...]:
        """Whether they are few and soft enough, and what is left to check."""
        some = f"{len(self.names)} secondary members carry gravity alone"
        rule = self.rule
        if self.failed:
            return (Finding("secondary members", "whole structure", Severity.WARNING,
                            f"{some}. Their own stiffness is not judged: {self.failed}",
                            rule.clause if rule else "", "Check them by hand."),)
        found = []
        for d, (share, story) in self.shares.items():
            text = f"{some}; with their own stiffness they would add {share:.1%} to that of " \
                   f"story {story}"
            if rule is None or rule.share is None:
                found.append(Finding("secondary members", f"direction {d}", Severity.NOTE,
                                     f"{text}. No limit on that is known here.",
                                     rule.displaced if rule else ""))
                continue
            over = share > rule.share * (1 + 1e-9)
            found.append(Finding(
                "secondary members", f"direction {d}",
                Severity.EXCEEDED if over else Severity.OK,
                f"{text}, {'more than' if over else 'up to'} {rule.share:.0%}"
                f"{'.' if over else ' is permitted.'}", rule.clause,
                "Count the stiffest of them as part of the lateral system." if over else "",
                share, rule.share))
        found.append(Finding(
            "displaced secondary members", "whole structure", Severity.NOTE,
            "They must carry their gravity load as the structure moves in the design earthquake; "
            "what the displacement does to them, if they stay elastic, is in the table "
            "secondary_members.",
            rule.displaced if rule else "", "Check them with gravity, and their connections."))
        return tuple(found)

    def table(self) -> Table:
        """Member by member: actions under the displacements of the design earthquake."""
        said = "R times the displacement under the design forces" if self.rule is not None \
            and self.rule.reduction else "the displacement by which drift is judged"
        return Table(
            "secondary_members", "Secondary members under the displacement of the structure",
            (
                column("member", "", list(self.names)), column("level", "", list(self.levels)),
                *(column(name, "moment" if name == "moment" else "force",
                         self.forces[:, k].tolist()) for k, name in enumerate(ACTIONS)),
            ),
            note=f"Under {said}, largest of all sets, with the stiffness the members would have "
            "with their ends connected as described, and elastic. Largest values at the ends, of "
            "the larger component across. Without gravity; P-Delta factors are not applied.")


def secondary_members(
    building: Building, masses: FloorMasses, solver: Solver, forces: Mapping[Direction, Floats],
    sets: Sequence[ResponseSet], factors: Mapping[tuple[Direction, str], float],
    rule: SecondaryRule | None,
) -> Secondary | None:
    """Secondary members with the stiffness they have; nothing where there are none.

    ``forces`` (n,) N are the static ones by direction, ``sets`` those for drift, and ``factors``
    what makes the displacement of the design earthquake of theirs, by direction and limit state.
    """
    frame = building.frame
    own = [] if frame is None else [m for m in frame.members if m.secondary]
    if not own:
        return None
    names, levels = tuple(m.name for m in own), tuple(m.level for m in own)
    try:
        whole = factorize(idealize(all_primary(building), masses))
    except UndatumError as error:
        return Secondary(rule, {}, names, levels, np.zeros((0, 3)), str(error).splitlines()[0])
    shares = {d: _share(solver, whole, d, one) for d, one in forces.items()}
    if whole.model.freedoms.count != solver.model.freedoms.count or solver.model.open_floors:
        return Secondary(rule, shares, names, levels, np.zeros((0, 3)),
                         "floors that are not rigid move with them.")
    return Secondary(rule, shares, names, levels, _displaced(whole.model, own, sets, factors))


def all_primary(building: Building) -> Building:
    """The building with every member as stiff as it is described."""
    return building.model_copy(update={
        "members": tuple(r.model_copy(update={"secondary": None}) for r in building.members),
        "placed": tuple(p.model_copy(update={"secondary": None}) for p in building.placed)})


def _share(solver: Solver, whole: Solver, d: Direction, forces: Floats) -> tuple[float, str]:
    """The largest of (k with them - k without) / k without, of story stiffness: the same shear over
    drifts at the centers of mass."""
    drifts = []
    for one in (solver, whole):
        diaphragms = one.model.diaphragms
        moved = one.solve(one.model.loads(d, forces))[
            diaphragms.freedoms[:, DIRECTIONS.index(d)]]
        below = np.where(diaphragms.below >= 0, moved[diaphragms.below], 0.0)
        drifts.append(moved - below)
    counts = solver.model.above_base & (np.abs(drifts[1]) > 0)
    ratios = np.where(counts, drifts[0] / np.where(counts, drifts[1], 1.0) - 1, -np.inf)
    i = largest(ratios)
    return max(float(ratios[i]), 0.0), solver.model.levels[i]


def _displaced(
    model: Model, own: Sequence[Member], sets: Sequence[ResponseSet],
    factors: Mapping[tuple[Direction, str], float],
) -> Floats:
    """(m, 3) the largest actions where floors move as they do under the sets, times the factors."""
    assert model.framed is not None
    members = {m.name: m for m in model.framed.frame.members}
    quantity = section_forces(model, [members[m.name] for m in own], ENDS)
    most = np.zeros((len(own), 3))
    for s in sets:
        if s.direction not in DIRECTIONS:
            continue
        most = np.maximum(most, factors[s.direction, s.state.key] * largest_at_ends(s.of(quantity)))
    return most
