"""Elastic stress at the extreme fibers of members: of sets, and of load combinations."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.analysis.response import Readable
from undatum.building.members import Member
from undatum.building.whole import Building
from undatum.errors import Fault, InputError
from undatum.mechanics.actions import framed_of, place_name, section_forces
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import Quantity
from undatum.project.combining import Combiner, Parts
from undatum.record import record
from undatum.table import Table, column

Floats = NDArray[np.float64]


@record
class Fibers:
    """The outermost points of the sections of members, at places along.

    ``rows`` (p, 6 m a) turns section forces (member, place, component) into stress at the points;
    ``first`` (m a,) is where the points of each place begin. ``left_out`` names members whose
    section has no shape of its own.
    """

    members: tuple[Member, ...]
    at: tuple[float, ...]
    rows: sparse.csr_array
    first: NDArray[np.intp]
    left_out: tuple[str, ...]

    @property
    def places(self) -> list[tuple[str, str, str]]:
        """Member, place and section."""
        return [(m.name, place_name(a), m.section) for m in self.members for a in self.at]

    @property
    def note(self) -> str:
        """What the numbers are, and what is not among them."""
        return ("Elastic, of the gross section as its sizes say, tension positive; warping and "
                "shear are not in it." + ("" if not self.left_out else " Left out, their sections "
                "have no shape of their own (parts, properties, slab flange): "
                + ", ".join(dict.fromkeys(self.left_out)) + "."))


def fibers_of(
    model: Model, building: Building, members: Sequence[Member], at: Sequence[float]
) -> Fibers:
    """N / A + M_y z / I_y - M_z y / I_z at every outermost point. Raises InputError for none."""
    frame = framed_of(model).frame
    rims = {name: building.sections[name].rim()
            for name in dict.fromkeys(m.section for m in members)}
    own = tuple(m for m in members if rims[m.section] is not None)
    if not own:
        raise InputError([Fault("", "no section of these members has a shape of its own",
                                "stresses are found for rectangles, circles, I, T, channels, "
                                "angles and hollow ones, without a slab")])
    blocks, sizes = [], []
    for m in own:
        rim = rims[m.section]
        assert rim is not None
        p = frame.sections[frame.section[m.elements[0]]]
        one = np.zeros((len(rim), 6))
        one[:, 0] = 1 / p.area
        one[:, 4], one[:, 5] = rim[:, 1] / p.bending_y, -rim[:, 0] / p.bending_z
        blocks += [one] * len(at)
        sizes += [len(rim)] * len(at)
    return Fibers(own, tuple(at), sparse.csr_array(sparse.block_diag(
        [sparse.coo_array(one) for one in blocks])),
                  np.cumsum([0, *sizes[:-1]]),
                  tuple(m.section for m in members if rims[m.section] is None))


def stress_quantity(model: Model, fibers: Fibers) -> Quantity:
    """Stresses as rows of their own: a spectrum combines them mode by mode."""
    forces = section_forces(model, fibers.members, fibers.at)
    return Quantity("fiber stress", "stress", sparse.csr_array(fibers.rows @ forces.rows),
                    {"point": tuple(map(str, range(fibers.rows.shape[0])))})


def stresses_table(model: Model, fibers: Fibers, sets: Sequence[Readable]) -> Table:
    """Largest and smallest stress of each place under each set, of the earthquake alone."""
    quantity = stress_quantity(model, fibers)
    places = fibers.places
    high, low = [], []
    for one in sets:
        values = one.of(quantity)
        high.append(np.maximum.reduceat(values, fibers.first))
        low.append(-high[-1] if one.method == "spectrum"
                   else np.minimum.reduceat(values, fibers.first))
    rows = [(k, s) for k in range(len(places)) for s in range(len(sets))]
    return Table(
        "fiber_stresses", "Stress at the extreme fibers, of the earthquake alone",
        (
            column("member", "", [places[k][0] for k, _ in rows]),
            column("at", "", [places[k][1] for k, _ in rows]),
            column("section", "", [places[k][2] for k, _ in rows]),
            column("set", "", [sets[s].name for _, s in rows]),
            column("largest", "stress", [float(high[s][k]) for k, s in rows]),
            column("smallest", "stress", [float(low[s][k]) for k, s in rows]),
        ),
        note=fibers.note + " Those of a spectrum have no sign: both stand.",
    )


def combined_stresses_table(how: Combiner, fibers: Fibers, parts: Parts, note: str) -> Table:
    """Largest and smallest stress of each place over the combinations of each kind."""
    places = fibers.places
    rows: list[tuple[int, str, tuple[tuple[float, str], ...]]] = []
    for kind in how.kinds():
        found = how.extremes(kind, parts)
        ends = [*fibers.first.tolist(), fibers.rows.shape[0]]
        for k, (a, b) in enumerate(pairwise(ends)):
            both = []
            for name, sign, pick in (("largest", "+", np.argmax), ("smallest", "−", np.argmin)):
                values, which, leads = found[name]  # type: ignore[index]
                p = a + int(pick(values[a:b]))
                both.append((float(values[p]), how.said(int(which[p]), leads[:, p], sign, parts)))
            rows.append((k, kind, tuple(both)))
    rows.sort(key=lambda r: r[0])
    return Table(
        "combined_stresses", "Stress at the extreme fibers in load combinations, earthquake by "
        + ("static forces" if parts.method == "static" else "response spectrum"),
        (
            column("member", "", [places[r[0]][0] for r in rows]),
            column("at", "", [places[r[0]][1] for r in rows]),
            column("section", "", [places[r[0]][2] for r in rows]),
            column("kind", "", [r[1] for r in rows]),
            column("largest", "stress", [r[2][0][0] for r in rows]),
            column("combination for largest", "", [r[2][0][1] for r in rows]),
            column("smallest", "stress", [r[2][1][0] for r in rows]),
            column("combination for smallest", "", [r[2][1][1] for r in rows]),
        ),
        note=f"{fibers.note} {note}",
    )
