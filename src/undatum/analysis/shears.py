"""Story shear, overturning, torsion and line shears of every set, side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import BothDirections, ResponseSet
from undatum.mechanics.system import System
from undatum.table import Table, column

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class StoryResponse:
    """Strength response by story, top down: ``sets`` of them, ``n`` stories. SI.

    ``shear`` and ``overturning`` (sets, 2, n) along X and Y; ``torsion`` (sets, n) about the
    vertical axis through the story's center of mass; ``line_shears`` one (sets, m) array a line.
    Static values carry their sign, those of a spectrum analysis have none.
    """

    levels: tuple[str, ...]
    sets: tuple[str, ...]
    shear: Floats
    overturning: Floats
    torsion: Floats
    lines: tuple[str, ...]
    line_levels: tuple[tuple[str, ...], ...]
    line_shears: tuple[Floats, ...]

    def table(self) -> Table:
        """Every set and story."""
        index = [(s, i) for s in range(len(self.sets)) for i in range(len(self.levels))]
        return Table(
            "story_response",
            "Story shear, overturning moment and torsion for strength",
            (
                column("set", "", [self.sets[s] for s, _ in index]),
                column("story", "", [self.levels[i] for _, i in index]),
                column("shear X", "force", [self.shear[s, 0, i] for s, i in index]),
                column("shear Y", "force", [self.shear[s, 1, i] for s, i in index]),
                column("overturning by X", "moment",
                       [self.overturning[s, 0, i] for s, i in index]),
                column("overturning by Y", "moment",
                       [self.overturning[s, 1, i] for s, i in index]),
                column("torsion", "moment", [self.torsion[s, i] for s, i in index]),
            ),
            note="Values of a spectrum analysis carry no sign and are not in equilibrium with each "
            "other: each is the peak of its own modal values. Torsion acts about the vertical axis "
            "through the center of mass of the level at the top of the story.",
        )

    def line_table(self) -> Table:
        """Largest shear of each line in each story over all sets, and the set that gives it."""
        rows = [(k, j) for k in range(len(self.lines)) for j in range(len(self.line_levels[k]))]
        peak = [int(np.argmax(np.abs(self.line_shears[k][:, j]))) for k, j in rows]
        values = [float(np.abs(self.line_shears[k]).max(axis=0)[j]) for k, j in rows]
        return Table(
            "line_shears",
            "Largest shear of each lateral line, for strength",
            (
                column("line", "", [self.lines[k] for k, _ in rows]),
                column("story", "", [self.line_levels[k][j] for k, j in rows]),
                column("shear", "force", values),
                column("set", "", [self.sets[s] for s in peak]),
            ),
        )


def story_response(
    system: System, sets: Sequence[ResponseSet | BothDirections]
) -> StoryResponse:
    """Evaluate the story quantities of every set."""
    shear = [system.shear_map(a) for a in (0, 1)]
    moment = [system.overturning_map(a) for a in (0, 1)]
    twist = system.torsion_map()
    return StoryResponse(
        system.levels,
        tuple(one.name for one in sets),
        np.array([[one.of(m) for m in shear] for one in sets]),
        np.array([[one.of(m) for m in moment] for one in sets]),
        np.array([one.of(twist) for one in sets]),
        tuple(line.name for line in system.lines),
        tuple(tuple(system.levels[i] for i in line.levels) for line in system.lines),
        tuple(
            np.array([one.of(rows) for one in sets])
            for rows in (system.line_shear_map(line) for line in system.lines)
        ),
    )
