"""What the ground does to the floors it holds."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from undatum.analysis.response import Readable
from undatum.mechanics.model import Model
from undatum.table import Table, column


def ground_table(model: Model, sets: Sequence[Readable]) -> Table:
    """Forces and moments of the ground on every floor it holds, set by set."""
    force, moment = model.quantities["ground force"], model.quantities["ground moment"]
    floors = moment.labels["level"]
    values = np.array([np.concatenate([one.of(force), one.of(moment)]) for one in sets])
    x, y, turn = values.reshape(len(sets), 3, len(floors)).transpose(1, 0, 2)
    return Table(
        "ground_forces", "What the ground does to the floors it holds, for strength",
        (
            column("set", "", [one.name for one in sets for _ in floors]),
            column("level", "", [name for _ in sets for name in floors]),
            column("force X", "force", x.ravel()),
            column("force Y", "force", y.ravel()),
            *([] if model.plane else [column("moment", "moment", turn.ravel())]),
        ),
        note="Actions of the ground on the building, at the middle of the floor"
        + ("" if model.plane else "; moments about the vertical axis there")
        + ". Values of a spectrum analysis carry no sign.",
    )
