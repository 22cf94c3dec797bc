"""Shear and moment of lateral lines, set by set and mode by mode."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.analysis.response import Readable, SpectrumSet
from undatum.errors import Fault, InputError, nearest
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import Quantity
from undatum.table import Column, Table, column

Floats = NDArray[np.float64]
SAID = "From the floor at the top of the story collectors bring the force. The moment is that at " \
    "the bottom of the story, of lines with a stiffness of their own."


def _chosen(model: Model, which: str) -> tuple[Quantity, list[int], list[int | None]]:
    """Shears, the places of those of a line among them, and of their moments. Raises InputError."""
    shear, moment = model.quantities["line shear"], model.quantities["line moment"]
    known = tuple(dict.fromkeys(shear.labels["line"]))
    if which and which not in known:
        near = nearest(which, list(known))
        raise InputError([Fault("", f"there is no line {which!r}",
                                (f"did you mean {near!r}? " if near else "")
                                + f"known: {', '.join(known)}")])
    bent = {pair: k for k, pair in enumerate(
        zip(moment.labels["line"], moment.labels["story"], strict=True))}
    pairs = list(zip(shear.labels["line"], shear.labels["story"], strict=True))
    rows = [k for k, (line, _) in enumerate(pairs) if which in ("", line)]
    return shear, rows, [bent.get(pairs[k]) for k in rows]


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


def floor_to_line_table(model: Model, sets: Sequence[Readable]) -> Table:
    """Largest force that every line takes from, or gives to, the floor of each of its levels."""
    taken = force_from_floor(model)
    values = np.abs(np.array([one.of(taken) for one in sets]))
    lead = values.argmax(axis=0)
    return Table(
        "floor_to_line", "Forces between floors and lateral lines, for strength",
        (
            column("line", "", taken.labels["line"]), column("level", "", taken.labels["story"]),
            column("largest force", "force", values.max(axis=0)),
            column("set", "", [sets[k].name for k in lead]),
        ),
        note="The shear of the line below a level less that above it: what collectors bring at the "
        "level, each value the peak of its own modal values. In load combinations, overstrength "
        "among them, it stands in line_combinations; diaphragm design forces are not in it.",
    )


def _forces(read: Callable[[Quantity], Sequence[Floats]], model: Model, rows: Sequence[int],
            bent: Sequence[int | None]) -> tuple[Column, ...]:
    """Row by row, and for each everything side by side."""
    shears, moments, floors = (read(quantity) for quantity in (
        model.quantities["line shear"], model.quantities["line moment"], force_from_floor(model)))
    return (
        column("shear", "force", [float(values[k]) for k in rows for values in shears]),
        column("force from floor", "force", [float(values[k]) for k in rows for values in floors]),
        column("moment at the bottom", "moment", [
            None if at is None else float(values[at]) for at in bent for values in moments]))


def line_forces_table(
    model: Model, sets: Sequence[Readable], which: str = "", *, signed: bool = False
) -> Table:
    """Every line and story, or those of one line, under every set.

    ``signed`` gives the peaks of spectrum sets the signs of the mode with the largest base shear.
    """
    shear, rows, bent = _chosen(model, which)

    def read(quantity: Quantity) -> list[Floats]:
        return [one.signed(quantity, one.dominant(model)) if signed and isinstance(one, SpectrumSet)
                else one.of(quantity) for one in sets]

    return Table(
        "line_sets", "Lateral lines, set by set, for strength",
        (
            column("line", "", [shear.labels["line"][k] for k in rows for _ in sets]),
            column("story", "", [shear.labels["story"][k] for k in rows for _ in sets]),
            column("set", "", [one.name for _ in rows for one in sets]),
            *_forces(read, model, rows, bent),
        ),
        note="Static values carry their sign; those of a spectrum " + (
            "that of the mode with the largest base shear: " + "; ".join(
                f"{one.name}: {one.labels[one.dominant(model)]}" for one in sets
                if isinstance(one, SpectrumSet)) if signed else "have none") + f". {SAID}")


def modal_line_forces_table(
    model: Model, sets: Sequence[SpectrumSet], which: str = ""
) -> Table:
    """Every line and story, or those of one line, in every mode of the spectrum sets, scaled, with
    their signs."""
    shear, rows, bent = _chosen(model, which)
    modes = [(one, m) for one in sets for m in range(len(one.labels))]

    def read(quantity: Quantity) -> list[Floats]:
        values = [one.scale * one.modal_values(quantity) for one in sets]
        return [of[:, m] for of in values for m in range(of.shape[1])]

    return Table(
        "line_modes", "Lateral lines, mode by mode, for strength",
        (
            column("line", "", [shear.labels["line"][k] for k in rows for _ in modes]),
            column("story", "", [shear.labels["story"][k] for k in rows for _ in modes]),
            column("set", "", [one.name for _ in rows for one, _ in modes]),
            column("mode", "", [one.labels[m] for _ in rows for one, m in modes]),
            column("period", "time", [float(one.periods[m]) for _ in rows for one, m in modes]),
            *_forces(read, model, rows, bent),
        ),
        note=f"Peaks in each mode, scaled, without accidental torsion. {SAID}")
