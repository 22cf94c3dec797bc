"""Tables of members: what the rules made, section forces and reactions."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import Readable, SpectrumSet
from undatum.building.cases import acting
from undatum.building.groups import LoadGroups
from undatum.building.members import Frame, Member
from undatum.building.takedown import column_shares, take_down
from undatum.building.whole import Building
from undatum.mechanics.actions import (
    ACTIONS,
    REACTIONS,
    feet,
    framed_of,
    place_name,
    reactions_and_sum,
    rid_of_round_off,
    section_forces,
)
from undatum.mechanics.cases import LoadCases, along, load_cases
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import Quantity, center_line, plumb_drift
from undatum.mechanics.solver import Solver, factorize
from undatum.table import Column, Table, column

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


def _read(quantity: Quantity, sets: Sequence[Readable]) -> Floats:
    """(set, place, component) values."""
    return rid_of_round_off(np.array([s.of(quantity) for s in sets]).reshape(len(sets), -1, 6))


def forces_table(
    model: Model, members: Sequence[Member], sets: Sequence[Readable],
    at: Sequence[float] = (0.0, 1.0), *, signed: bool = False,
) -> Table:
    """Section forces of members under every set.

    ``signed`` gives the peaks of spectrum sets the signs of the mode with the largest base shear.
    """
    quantity = section_forces(model, members, at)
    values = rid_of_round_off(np.array([
        one.signed(quantity, one.dominant(model)) if signed and isinstance(one, SpectrumSet)
        else one.of(quantity) for one in sets]).reshape(len(sets), -1, 6))
    rows = [(s, k) for k in range(values.shape[1]) for s in range(len(sets))]
    names, places = quantity.labels["member"][::6], quantity.labels["at"][::6]
    return Table(
        "section_forces", "Section forces of members",
        (
            column("member", "", [names[k] for _, k in rows]),
            column("at", "", [places[k] for _, k in rows]),
            column("set", "", [sets[s].name for s, _ in rows]),
            *(column(name, "force" if c < 3 else "moment", [float(values[s, k, c])
                                                            for s, k in rows])
              for c, name in enumerate(ACTIONS)),
        ),
        note="Of the earthquake alone, at the faces of the members. Tension is positive; values of "
        "spectrum sets are peaks, each combined from its own modal values, "
        + ("with the signs they have in the mode with the largest base shear: "
           + "; ".join(f"{one.name}: {one.labels[one.dominant(model)]}" for one in sets
                       if isinstance(one, SpectrumSet)) + "." if signed else "without sign."),
    )


def modal_forces_table(
    model: Model, members: Sequence[Member], sets: Sequence[SpectrumSet],
    at: Sequence[float] = (0.0, 1.0),
) -> Table:
    """Section forces of members in every mode of the spectrum sets, scaled, with their signs."""
    quantity = section_forces(model, members, at)
    names, places = quantity.labels["member"][::6], quantity.labels["at"][::6]
    rows: list[tuple[int, str, str, float, Floats]] = []
    for one in sets:
        values = (one.scale * one.modal_values(quantity)).T.reshape(len(one.labels), -1, 6)
        for label, period, part in zip(one.labels, one.periods, rid_of_round_off(values),
                                       strict=True):
            rows += [(k, one.name, label, float(period), v) for k, v in enumerate(part)]
    rows.sort(key=lambda r: r[0])
    return Table(
        "modal_forces", "Section forces of members, mode by mode",
        (
            column("member", "", [names[r[0]] for r in rows]),
            column("at", "", [places[r[0]] for r in rows]),
            column("set", "", [r[1] for r in rows]), column("mode", "", [r[2] for r in rows]),
            column("period", "time", [r[3] for r in rows]),
            *(column(name, "force" if c < 3 else "moment", [float(r[4][c]) for r in rows])
              for c, name in enumerate(ACTIONS)),
        ),
        note="Peaks in each mode with its signs, scaled like the set; accidental torsion comes to "
        "the combined value.",
    )


def _feet_columns(names: Sequence[str], values: Floats) -> tuple[Column, ...]:
    """Foot, forces and moments of (row, foot, 6), all feet of a row one below the other."""
    values = rid_of_round_off(values)
    values[:, -1, 3:] = np.nan  # moments of the sum are about no point
    return (column("foot", "", [name for _ in values for name in names]),
            *(column(c, "force" if k < 3 else "moment", values[..., k].ravel())
              for k, c in enumerate(REACTIONS)))


def beside_the_feet(model: Model) -> str:
    """What a table of the feet of columns leaves out."""
    alone = [line.name for line in model.lines if line.stiffness is not None]
    return ("" if not alone else " Lateral lines have feet of their own, which are not in the "
            "sums.") + ("" if "ground force" not in model.quantities else " The ground takes "
                        "forces at the floors it holds, too: table ground_forces.")


def reactions_table(model: Model, sets: Sequence[Readable], *, signed: bool = False) -> Table:
    """Reactions at the feet of the columns under every set, and the sums of their forces.

    ``signed`` gives the peaks of spectrum sets the signs of the mode with the largest base shear.
    """
    names, quantity = reactions_and_sum(model)
    values = np.array([
        one.signed(quantity, one.dominant(model)) if signed and isinstance(one, SpectrumSet)
        else one.of(quantity) for one in sets]).reshape(len(sets), len(names), 6)
    return Table(
        "reactions", "Reactions at the feet of columns",
        (column("set", "", [one.name for one in sets for _ in names]),
         *_feet_columns(names, values)),
        note="Actions of the ground on the structure, of the earthquake alone. Values of spectrum "
        "sets are peaks " + ("with the signs of the mode with the largest base shear"
                             if signed else "without sign")
        + ": they don't add up, and their sum is the peak of the sum." + beside_the_feet(model),
    )


def modal_reactions_table(model: Model, sets: Sequence[SpectrumSet]) -> Table:
    """Reactions in every mode of the spectrum sets, scaled, with their signs, and their sums."""
    names, quantity = reactions_and_sum(model)
    modes = [(one, m) for one in sets for m in range(len(one.labels))]
    values = np.concatenate([one.scale * one.modal_values(quantity).T for one in sets])
    return Table(
        "modal_reactions", "Reactions at the feet of columns, mode by mode",
        (column("set", "", [one.name for one, _ in modes for _ in names]),
         column("mode", "", [one.labels[m] for one, m in modes for _ in names]),
         column("period", "time", [float(one.periods[m]) for one, m in modes for _ in names]),
         *_feet_columns(names, values.reshape(len(modes), len(names), 6))),
        note="Actions of the ground on the structure, peaks in each mode with its signs, scaled, "
        "without accidental torsion." + beside_the_feet(model),
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
    """What lies on each level and what of it landed on members."""
    rows = found.taken.balance if found.taken is not None else ()
    return Table(
        "loads_landed", "Floor loads and what landed on members",
        (
            column("level", "", [b.level for b in rows]),
            column("kind", "", [b.kind for b in rows]),
            column("load by area", "force", [b.given for b in rows]),
            column("landed on members", "force", [b.landed for b in rows]),
            column("center moved by", "length", [round(b.shift, 9) for b in rows]),
        ),
        note="Two-way: each point of a panel loads the nearest beam; one-way: the beam at the "
        "nearer end of its span; slab beyond the last beam loads it with its torque; columns, and "
        "floors whose beams enclose no panel: each point loads the nearest column, and so it does "
        "around a column that no beam reaches. Loads on members and their self-weight come on top. "
        "What did not land has neither beams nor columns: it stands over lateral lines alone.",
    )


def column_shares_table(building: Building, frame: Frame) -> Table:
    """Floor loads on the head of every column, beside the floor nearest to it."""
    found = column_shares(building, frame)
    ratio = [a / b if b else None for a, b in zip(found.landed, found.nearest, strict=True)]
    return Table(
        "column_shares", "Floor loads column by column",
        (
            column("column", "", found.columns), column("level", "", found.levels),
            column("landed on its head", "force", found.landed),
            column("on the floor nearest to it", "force", found.nearest),
            column("ratio", "ratio", ratio, 3),
            column("within a fifth", "", (~found.apart).tolist()),
        ),
        marks=tuple(np.flatnonzero(found.apart).tolist()),
        note="Floor loads of the level at its top in full, without any factor, self-weight of "
        "members and loads on them left out. Landed: by statics, beams as levers between columns. "
        "Marked where the two differ by more than a fifth.",
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
        "case_motion", "Motion of the floors under cases of one's own",
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
        note="Elastic, first order, at the center of mass, without any factor.",
    )


def case_reactions_table(model: Model, found: LoadCases) -> Table:
    """Reactions by case and foot, with sums and what is out of balance."""
    names = [*feet(model), "sum"]
    values = np.array([rid_of_round_off(np.vstack([case.reactions, case.reactions.sum(axis=0)]))
                       for _, case in found.on_members])
    return Table(
        "case_reactions", "Reactions under load cases",
        (column("case", "", [name for name, _ in found.on_members for _ in names]),
         *_feet_columns(names, values)),
        note="Actions of the ground on the structure, first order, loads in full without any "
        "factor; self-weight of members is dead. Lateral lines have no feet here. Largest force "
        f"out of balance at a node: {max(c.residual for _, c in found.on_members):.1e} of the "
        "largest at an end.",
    )


def case_forces_table(
    model: Model, found: LoadCases, members: Sequence[Member], at: Sequence[float]
) -> Table:
    """Section forces of members under every load case."""
    frame = framed_of(model).frame
    values = np.array([rid_of_round_off(along(case, frame, members, at))
                       for _, case in found.on_members])
    names = [name for name, _ in found.on_members]
    rows = [(c, i, j) for i in range(len(members)) for j in range(len(at))
            for c in range(len(names))]
    said = [place_name(p) for p in at]
    return Table(
        "case_forces", "Section forces of members under load cases",
        (
            column("member", "", [members[i].name for _, i, _ in rows]),
            column("at", "", [said[j] for *_, j in rows]),
            column("case", "", [names[c] for c, *_ in rows]),
            *(column(name, "force" if k < 3 else "moment",
                     [float(values[c, i, j, k]) for c, i, j in rows])
              for k, name in enumerate(ACTIONS)),
        ),
        note="First order, loads in full, without any factor. Tension is positive.",
    )
