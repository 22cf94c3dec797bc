"""Tables of members: what the rules made, section forces and reactions."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from undatum.layout.acting import acting
from undatum.layout.frame import Frame
from undatum.layout.groups import LoadGroups
from undatum.layout.takedown import column_shares, take_down
from undatum.layout.whole import Building
from undatum.mechanics.actions import (
    framed_of,
)
from undatum.mechanics.cases import LoadCases, load_cases
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import center_line, plumb_drift
from undatum.mechanics.solver import Solver, factorize
from undatum.table import Table, column

Floats = NDArray[np.float64]


def members_table(frame: Frame) -> Table:
    """Every member: its section, where it runs, its length and local y."""
    m = frame.members
    first = [one.elements[0] for one in m]
    return Table(
        "members", "Members the rules made",
        (
            column("member", "", [x.name for x in m]), column("kind", "", [x.kind for x in m]),
            column("section", "", [x.section for x in m]),
            *(column(f"{end} {c}", "length", [float(getattr(x, end)[k]) for x in m])
              for end in ("start", "end") for k, c in enumerate("xyz")),
            column("length", "length", [x.length for x in m]),
            column("turned", "angle", [x.turned for x in m], 6),
            column("hinged", "", [x.hinged for x in m]),
            *([column("released", "", [x.released for x in m])]
              if any(x.released for x in m) else []),
            *([column("secondary", "", [x.secondary for x in m])]
              if any(x.secondary for x in m) else []),
            column("stiff ends", "ratio", [x.stiff_ends for x in m], 3),
            *(column(f"local y, {c}", "ratio", [float(frame.axes[e, 1, k]) for e in first])
              for k, c in enumerate("xyz")),
        ),
        note="Local x runs from start to end, z = x cross y. A column is named by the level at "
        "its top.",
    )


def sections_table(building: Building, frame: Frame) -> Table:
    """Properties of the sections in use, and how many members have them."""
    names = list(dict.fromkeys(m.section for m in frame.members))
    p = [building.section(name) for name in names]
    materials = [building.material(building.sections[name].material) for name in names]
    return Table(
        "input_sections", "Sections of members",
        (
            column("section", "", names),
            column("material", "", [building.sections[name].material for name in names]),
            column("members", "", [sum(m.section == name for m in frame.members)
                                   for name in names]),
            column("modulus", "stress", [m.modulus for m in materials]),
            column("Poisson ratio", "ratio", [m.poisson for m in materials], 2),
            column("unit weight", "unit weight", [building.unit_weight(name) for name in names]),
            column("area", "area", [x.area for x in p], 4),
            *(column(f"shear area along {k}", "area", [
                None if a > 1e5 * x.area else a for x, a in zip(p, areas, strict=True)], 4)
              for k, areas in (("y", [x.shear_y for x in p]), ("z", [x.shear_z for x in p]))),
            column("second moment about y", "second moment of area", [x.bending_y for x in p], 6),
            column("second moment about z", "second moment of area", [x.bending_z for x in p], 6),
            column("torsion constant", "second moment of area", [x.torsion for x in p], 6),
            column("width", "length", [x.width or None for x in p]),
            column("depth", "length", [x.depth or None for x in p]),
            *([column("tilt", "angle", [x.tilt for x in p], 6)] if any(x.tilt for x in p) else []),
        ),
        note="; ".join(dict.fromkeys(
            f"{building.sections[n].material}: {m.source}"
            for n, m in zip(names, materials, strict=True) if m.source)),
    )


def gravity_axial(solver: Solver, building: Building, groups: LoadGroups) -> Floats:
    """(E,) axial forces of the elements under the gravity load of second-order checks.

    Each load counts with the share that the standard puts into that gravity load.
    """
    found = cases_of(solver.model, building, groups)
    total = np.zeros(len(framed_of(solver.model).frame.ends))
    for one in found.cases:
        if not one.own and one.members is not None:
            total += groups.of(one.name).gravity * one.members.faces[:, [0, 6]].sum(axis=1) / 2
    return np.asarray(np.where(np.abs(total) > 1e-9 * np.abs(total).max(initial=0.0), total, 0.0))


def cases_of(model: Model, building: Building, groups: LoadGroups) -> LoadCases:
    """The structure under every group of loads and every case of one's own, first order."""
    if model.second_order is not None:
        return cases_of(model.second_order.elastic, building, groups)
    return model.memo.get(("cases", groups.key), lambda: load_cases(
        factorize(model),
        None if model.framed is None else take_down(building, model.framed.frame, groups.name),
        [(case.name, acting(building, case, building.frame)) for case in building.cases]))


def landed_table(found: LoadCases) -> Table:
    """What lies on each level and what of it is transferred to members."""
    rows = found.taken.balance if found.taken is not None else ()
    return Table(
        "loads_transferred", "Floor loads and loads transferred to members",
        (
            column("level", "", [b.level for b in rows]),
            column("kind", "", [b.kind for b in rows]),
            column("load by area", "force", [b.given for b in rows]),
            column("transferred to members", "force", [b.landed for b in rows]),
            column("center moved by", "length", [round(b.shift, 9) for b in rows]),
        ),
        note="Two-way: each point of a bay loads the nearest beam; one-way: the beam at the nearer "
             "end of its span; slab beyond the last beam loads it with torque; columns, and floors "
             "whose beams enclose no bay: each point loads the nearest column, as it does around a "
             "column that no beam reaches. Loads on members and their self-weight are added. Loads "
             "that are not transferred have neither beams nor columns below them: lateral lines "
             "alone.",
    )


def column_shares_table(building: Building, frame: Frame) -> Table:
    """Floor loads on the head of every column, beside the floor nearest to it."""
    found = column_shares(building, frame)
    ratio = [a / b if b else None for a, b in zip(found.landed, found.nearest, strict=True)]
    return Table(
        "column_shares", "Floor loads by column",
        (
            column("column", "", found.columns), column("level", "", found.levels),
            column("transferred to its head", "force", found.landed),
            column("on the floor nearest to it", "force", found.nearest),
            column("ratio", "ratio", ratio, 3),
            column("within a fifth", "", (~found.apart).tolist()),
        ),
        marks=tuple(np.flatnonzero(found.apart).tolist()),
        note="Unfactored floor loads of the level at its top, without self-weight of members and "
             "loads on them. Landed: by statics, beams as levers between columns. Rows are marked "
             "where the two differ by more than a fifth.",
    )


def case_motion_table(model: Model, found: LoadCases) -> Table:
    """How the floors move under the cases of one's own."""
    own = [case for case in found.cases if case.own]
    floors = model.diaphragms.freedoms
    rows = [(case, i) for case in own for i in range(model.n)]
    moved = {id(case): case.motion[floors] for case in own}
    drift = plumb_drift(model, [center_line(model)])
    drifts = {id(case): drift.of(case.motion, case.motion).reshape(2, model.n) for case in own}
    return Table(
        "case_motion", "Displacement of the floors under load cases of the project",
        (
            column("case", "", [case.name for case, _ in rows]),
            column("level", "", [model.levels[i] for _, i in rows]),
            *(column(f"displacement {d}", "displacement",
                     [float(moved[id(case)][i, k]) for case, i in rows])
              for k, d in enumerate("XY")),
            column("rotation", "angle", [float(moved[id(case)][i, 2]) for case, i in rows], 6),
            *(column(f"story drift {d}", "displacement",
                     [float(drifts[id(case)][k, i]) for case, i in rows])
              for k, d in enumerate("XY")),
        ),
        note="Elastic, first order, at the center of mass, unfactored.",
    )
