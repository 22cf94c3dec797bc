"""Story shear, overturning, torsion and line shears of every set, side by side."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import Readable
from undatum.labelled import Axis, Labelled, axis, labelled
from undatum.mechanics.model import Model
from undatum.mechanics.quantity import Quantity
from undatum.record import record
from undatum.table import Column, Table, column

Floats = NDArray[np.float64]


@record
class StoryShears:
    """Shears and moments by story of several sets, stories top down. SI.

    ``shear`` and ``overturning`` (set, component, story) along X and Y; ``torsion`` (set, story)
    about the vertical axis through the story's center of mass; ``lines`` (set, line story) the
    shear of every lateral line, ``moments`` (set, line story) the moment at the bottom of the story
    of those that have a stiffness of their own. Static values carry their sign, those of a spectrum
    analysis have none.
    """

    shear: Labelled
    overturning: Labelled
    torsion: Labelled
    lines: Labelled
    moments: Labelled

    @property
    def sets(self) -> tuple[str, ...]:
        return self.shear.axes[0].labels["set"]

    def table(self) -> Table:
        """Every set and story."""
        stories = self.shear.axes[2].labels["story"]
        turns = len(self.shear.axes[1]) == 2  # a plane building does not
        index = [(s, i) for s in range(len(self.sets)) for i in range(len(stories))]

        def parts(of: Labelled, name: str, dimension: str) -> list[Column]:
            return [column(f"{name} {d}", dimension, of.sel(component=d).values.ravel())
                    for d in of.axes[1].labels["component"]]

        return Table(
            "shears_by_story",
            "Shears and moments by story, for strength",
            (
                column("set", "", [self.sets[s] for s, _ in index]),
                column("story", "", [stories[i] for _, i in index]),
                *parts(self.shear, "shear", "force"),
                *parts(self.overturning, "overturning by", "moment"),
                *([column("torsion", "moment", self.torsion.values.ravel())] if turns else []),
            ),
            note="Spectrum values are unsigned peaks, each combined from its own modal values; "
                 "they are not in equilibrium with each other."
            + (" Torsion acts about the vertical axis through the center of mass of the level at "
               "the top of the story." if turns else ""),
        )

    def line_table(self) -> Table:
        """Largest shear and moment of each line in each story, and the sets that give them."""
        size, where, bent = np.abs(self.lines.values), self.lines.axes[1].labels, self._bent()
        moments = np.abs(self.moments.values)
        return Table(
            "line_shears",
            "Largest shear of each lateral line, for strength",
            (
                column("line", "", where["line"]),
                column("story", "", where["story"]),
                column("shear", "force", size.max(axis=0)),
                column("set", "", [self.sets[s] for s in size.argmax(axis=0)]),
                *(() if not moments.size else (
                    column("moment at the bottom", "moment", [
                        None if k is None else float(moments[:, k].max()) for k in bent]),
                    column("set for moment", "", [
                        "" if k is None else self.sets[int(moments[:, k].argmax())]
                        for k in bent]))),
            ),
            note="" if not moments.size else "In the lowest story of a line, its shear and moment "
                                             "act on its base.",
        )

    def _bent(self) -> list[int | None]:
        """Where the moment of each line and story stands among the moments."""
        own = self.moments.axes[1].labels
        at = {pair: k for k, pair in enumerate(zip(own["line"], own["story"], strict=True))}
        where = self.lines.axes[1].labels
        return [at.get(pair) for pair in zip(where["line"], where["story"], strict=True)]


def shears_of(
    model: Model, sets: Sequence[Readable]
) -> StoryShears:
    """Evaluate the story quantities of every set."""
    of, stories = model.quantities, axis("story", model.levels)
    names, along = axis("set", [one.name for one in sets]), axis("component", model.directions)

    def values(quantity: Quantity) -> Floats:
        return np.array([one.of(quantity) for one in sets])

    def by_story(kind: str, axes: tuple[Axis, ...]) -> Labelled:
        shape = tuple(len(a) for a in axes)
        own = of[kind]
        if model.plane and "component" in own.labels:
            own = own.where(component=model.directions[0])
        return labelled(kind, own.dimension, axes, values(own).reshape(shape))

    return StoryShears(
        by_story("story shear", (names, along, stories)),
        by_story("overturning moment", (names, along, stories)),
        by_story("story torsion", (names, stories)),
        *(labelled(kind, dimension, (names, Axis("line story", of[kind].labels)),
                   values(of[kind]).reshape(len(sets), -1))
          for kind, dimension in (("line shear", "force"), ("line moment", "moment"))),
    )
