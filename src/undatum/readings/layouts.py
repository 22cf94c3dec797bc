"""What was read: values with what they are under, as one labelled array and as a table.

Tables have three layouts: values, extremes with their combinations, both extremes side by side.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from undatum.labelled import Axis, Labelled
from undatum.readings.readable import Thing
from undatum.record import record
from undatum.table import Column, Table, column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Texts = NDArray[np.object_]
Way = Literal["sets", "modes", "cases", "envelope", "extremes", "each", "together"]
_ROUND_OFF = 1e-10  # of the largest value of its dimension
#: What the name of a table says of the way it is read.
NAMES = {"sets": "", "modes": "_by_mode", "cases": "_under_cases", "envelope": "_envelope",
         "extremes": "_extremes", "each": "_in_combinations", "together": "_together"}
FINE = {"angle": 6}  # significant digits


@record
class Head:
    """What says under what a row of values is: the name of a column, its dimension and cells."""

    name: str
    cells: tuple[Any, ...]
    dimension: str = ""


@record
class Reading:
    """A thing under what acts: ``s`` rows of ``k`` values. SI.

    ``heads`` say under what each row is. ``high`` and ``low`` (s, k) are the value, both the same
    where it is ``signed`` (s,), a peak and its negative where it is not, the extremes of the
    combinations of a kind where they are asked for; ``words`` then names the combination of each,
    (2, s, k). ``symmetric`` says that the smallest are the largest with the other sign.
    """

    thing: Thing
    way: Way
    heads: tuple[Head, ...]
    high: Floats
    low: Floats
    signed: NDArray[np.bool_]
    said: str
    note: str
    words: Texts | None = None
    clauses: tuple[str, ...] = ()
    symmetric: bool = False

    @property
    def values(self) -> Floats:
        """(s, p, c) values, or the largest of them."""
        return self._shaped(self.high)

    def _shaped(self, values: Floats) -> Floats:
        return values.reshape(len(values), -1, len(self.thing.components))

    @property
    def names(self) -> tuple[str, ...]:
        """(s,) what each row is under, in one text."""
        return tuple(", ".join(str(h.cells[k]) for h in self.heads if not h.dimension)
                     for k in range(len(self.high)))

    @property
    def array(self) -> Labelled:
        """The values by row and by place and component, with labels; the largest of extremes.

        Of values with several dimensions (forces beside moments) the array has none.
        """
        t = self.thing
        width = len(t.components)
        same = {dimension for _, dimension in t.components}
        rows = Axis("under", {h.name: tuple(map(str, h.cells)) for h in self.heads})
        if t.groups is not None:
            return Labelled(t.stem, same.pop(), (rows, Axis("value", {
                "value": tuple(map(str, range(self.high.shape[1])))})), self.high)
        return Labelled(t.stem, same.pop() if len(same) == 1 else "", (
            rows, Axis("value", {
                **{name: tuple(x for x in own for _ in range(width))
                   for name, own in t.places.items()},
                "component": tuple(name for name, _ in t.components)
                * (len(t.quantity) // width)})), self.high)

    def table(self) -> Table:
        """The values as a table in the layout of the way they are read."""
        made = _envelope if self.way == "envelope" else \
            _extremes if self.way == "extremes" else _values
        columns, marks = made(self)
        return Table(self.thing.stem + NAMES[self.way], self.thing.title + self.said, columns,
                     f"{self.thing.note} {self.note}".strip(), marks)


def _shown(thing: Thing, values: Floats) -> Floats:
    """(s, p, c) values without what is nothing beside the largest of its dimension, and without
    what has no meaning."""
    found = np.array(values).reshape(len(values), -1, len(thing.components))
    for dimension in {d for _, d in thing.components}:
        own = [c for c, (_, d) in enumerate(thing.components) if d == dimension]
        part = found[..., own]
        size = np.abs(part)
        part[size < _ROUND_OFF * np.nanmax(size, initial=0.0)] = 0.0
        found[..., own] = part
    if thing.blank is not None:
        found[:, thing.blank.reshape(found.shape[1:])] = np.nan
    return found


def _grouped(thing: Thing, high: Floats, low: Floats) -> tuple[Ints, Ints]:
    """(s, p) where in each group the largest and the smallest stand."""
    assert thing.groups is not None
    ends = [*thing.groups.tolist(), high.shape[1]]
    spans = list(pairwise(ends))
    return (np.array([[a + int(np.argmax(row[a:b])) for a, b in spans] for row in high]),
            np.array([[a + int(np.argmin(row[a:b])) for a, b in spans] for row in low]))


def _component(name: str, dimension: str, values: Any) -> Column:
    return column(name, dimension, values, FINE.get(dimension, 4))


def _places(thing: Thing, at: Ints) -> list[Column]:
    return [column(name, "", [labels[k] for k in at.tolist()])
            for name, labels in thing.places.items()]


def _count(thing: Thing) -> int:
    return len(next(iter(thing.places.values())))


def _order(reading: Reading) -> tuple[Ints, Ints]:
    """Row and place of every line of the table: place by place, or source by source."""
    s, p = len(reading.high), _count(reading.thing)
    if reading.thing.by_source:
        return np.repeat(np.arange(s), p), np.tile(np.arange(p), s)
    return np.tile(np.arange(s), p), np.repeat(np.arange(p), s)


def _heads(reading: Reading, row: Ints) -> list[Column]:
    return [column(h.name, h.dimension, [h.cells[k] for k in row.tolist()])
            for h in reading.heads]


def _first(thing: Thing, places: list[Column], heads: list[Column]) -> list[Column]:
    return [*heads, *places] if thing.by_source else [*places, *heads]


def _values(reading: Reading) -> tuple[tuple[Column, ...], tuple[int, ...]]:
    """A row for every place and source, components side by side."""
    thing = reading.thing
    row, place = _order(reading)
    lead = _first(thing, _places(thing, place), _heads(reading, row))
    tail = [] if not reading.clauses else [
        column("clause", "", [reading.clauses[k] for k in row.tolist()])]
    if thing.groups is not None:
        largest, smallest = _grouped(thing, reading.high, reading.low)
        dimension = thing.components[0][1]
        return (*lead, column("largest", dimension, reading.high[row, largest[row, place]]),
                column("smallest", dimension, reading.low[row, smallest[row, place]]), *tail), ()
    values = _shown(thing, reading.high)
    parts = thing.together if reading.way == "together" else range(len(thing.components))
    told = [_component(*thing.components[c], values[row, place, c]) for c in parts]
    marked, marks = _marked(thing, values[row, place], reading)
    return (*lead, *told, *marked, *tail), marks


def _marked(
    thing: Thing, values: Floats, reading: Reading
) -> tuple[list[Column], tuple[int, ...]]:
    """A column for what is negative and should not be, under gravity or its sum with it."""
    if thing.marked is None or reading.way != "together":
        return [], ()
    name, of = thing.marked
    found = values[:, [n for n, _ in thing.components].index(of)] < 0
    return [column(name, "", found.tolist())], tuple(np.flatnonzero(found).tolist())


def _envelope(reading: Reading) -> tuple[tuple[Column, ...], tuple[int, ...]]:
    """The largest and the smallest of every component, each a row with its combination; what is
    nothing both ways stands once."""
    thing = reading.thing
    assert reading.words is not None
    if thing.groups is not None:
        return _grouped_envelope(reading)
    both = np.array([_shown(thing, reading.high), _shown(thing, reading.low)])
    words = reading.words.reshape(both.shape)
    order = (2, 1, 3, 0)  # place, kind, component, extreme from extreme, kind, place, component
    values, texts = both.transpose(order), words.transpose(order)
    keep = ~np.isnan(values)
    if reading.symmetric:  # the smallest stands beside the largest where it says more
        keep[..., 1] = False
    keep[..., 1] &= np.nan_to_num(values).any(axis=-1)
    place, kind, component, extreme = np.nonzero(keep)
    found = values[keep]
    lifted = np.zeros(len(found), dtype=bool)
    names = [name for name, _ in thing.components]
    if thing.marked is not None:
        lifted = (component == names.index(thing.marked[1])) & (found < 0)
    dimensions = list(dict.fromkeys(d for _, d in thing.components))
    own = np.array([d for _, d in thing.components], dtype=object)[component]
    return (
        *_places(thing, place),
        column("kind", "", _taken(reading.heads[0].cells, kind)),
        column("component", "", _taken(names, component)),
        column("extreme", "", _taken(("largest", "smallest"), extreme)),
        *(_component(d, d, np.where(own == d, found, np.nan)) for d in dimensions),
        *([] if thing.marked is None else [column(thing.marked[0], "", lifted.tolist())]),
        column("combination", "", texts[keep].tolist()),
    ), tuple(np.flatnonzero(lifted).tolist())


def _taken(names: Sequence[Any], at: Ints) -> list[Any]:
    return [names[i] for i in at.tolist()]


def _grouped_envelope(reading: Reading) -> tuple[tuple[Column, ...], tuple[int, ...]]:
    """Of every group the largest and the smallest, side by side, each with its combination."""
    thing, words = reading.thing, reading.words
    assert words is not None
    row, place = _order(reading)
    picked = _grouped(thing, reading.high, reading.low)
    dimension = thing.components[0][1]
    told: list[Column] = []
    for k, (name, values) in enumerate((("largest", reading.high), ("smallest", reading.low))):
        at = picked[k][row, place]
        told += [column(name, dimension, values[row, at]),
                 column(f"combination for {name}", "", words[k][row, at].tolist())]
    return (*_places(thing, place), *_heads(reading, row), *told), ()


def _extremes(reading: Reading) -> tuple[tuple[Column, ...], tuple[int, ...]]:
    """A row for the largest and one for the smallest, components side by side."""
    thing = reading.thing
    if thing.groups is not None:
        return _grouped_envelope(reading)
    both = np.array([_shown(thing, reading.high), _shown(thing, reading.low)])
    s, p = len(reading.high), _count(thing)
    place, kind, extreme = (a.ravel() for a in np.indices((p, s, 2)))
    return (
        *_places(thing, place), column("kind", "", _taken(reading.heads[0].cells, kind)),
        column("extreme", "", _taken(("largest", "smallest"), extreme)),
        *(_component(*one, both[extreme, kind, place, c])
          for c, one in enumerate(thing.components)),
    ), ()
