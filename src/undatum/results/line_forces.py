"""What floors and lateral lines give each other, at its largest."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from undatum.analysis.response import Readable
from undatum.mechanics.model import Model
from undatum.readings.things import force_from_floor
from undatum.table import Table, column


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
        note="Shear of the line below a level less that above it: the force that collectors "
             "deliver at the level; each value is the peak of its own modal values. For load "
             "combinations, with overstrength too, see line_forces_envelope; diaphragm design "
             "forces are not included.",
    )
