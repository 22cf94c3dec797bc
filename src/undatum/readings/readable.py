"""What can be read, as such: a quantity with its places, and what it is read from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from undatum.errors import Fault, InputError, one_of
from undatum.layout.frame import Member
from undatum.layout.members import chosen_members
from undatum.layout.whole import Building
from undatum.mechanics.cases import LoadCases, StaticCase
from undatum.mechanics.model import Model
from undatum.mechanics.quantities import PlumbLine
from undatum.mechanics.quantity import Quantity
from undatum.record import Memo, record
from undatum.standards.terms import Motion

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
#: P-Delta factors by direction: of every story (n,) in, of every value (k,) out.
Growth = Callable[[Mapping[Motion, Floats]], Mapping[Motion, Floats]]


@record
class Thing:
    """``k = p * c`` values: ``c`` components at each of ``p`` places. SI.

    ``places`` labels them (p,) by the name of a column, ``components`` gives name and dimension
    (c,); ``quantity`` (k, N) is place by place. ``still`` gives the values (k,) under a load case,
    ``grown`` the P-Delta factor of every value from those of the stories. ``blank`` (k,) marks what
    has no meaning; ``groups`` where places begin that are told together by their largest and
    smallest; ``marked`` names a component whose negative values are marked, and the column that
    says so; ``together`` are the components that are designed for at once. ``of_floors`` says that
    it follows from the motion of the floors alone, ``for_drift`` that sets for drift are meant
    where none is named, ``by_source`` that tables run source by source; ``unknown`` is the
    advice where nothing is known under some source.
    """

    stem: str
    title: str
    quantity: Quantity
    places: Mapping[str, tuple[str, ...]]
    components: tuple[tuple[str, str], ...]
    still: Callable[[StaticCase], Floats]
    grown: Growth
    note: str = ""
    blank: NDArray[np.bool_] | None = None
    groups: Ints | None = None
    marked: tuple[str, str] | None = None
    together: tuple[int, ...] = ()
    of_floors: bool = False
    for_drift: bool = False
    by_source: bool = False
    unknown: str = "name other sources"
    memo: Memo = field(default_factory=Memo, init=False)

    def onto(
        self, rows: sparse.csr_array, stem: str, title: str,
        places: Mapping[str, tuple[str, ...]], components: tuple[tuple[str, str], ...],
        note: str, groups: Ints | None = None,
    ) -> Thing:
        """What follows linearly (k', k) from this; each value from one place."""
        first = rows.indices[rows.indptr[:-1]]
        base = self.quantity
        quantity = Quantity(stem, components[0][1], sparse.csr_array(rows @ base.rows),
                            {"value": tuple(map(str, range(rows.shape[0])))}, base.acts_on)

        def grown(factors: Mapping[Motion, Floats]) -> Mapping[Motion, Floats]:
            return {d: own[first] for d, own in self.grown(factors).items()}

        return Thing(stem, title, quantity, places, components,
                     lambda case: np.asarray(rows @ self.still(case)), grown, note, None, groups)


@record
class Structure:
    """What things are read from: the model and the description it was made of."""

    model: Model
    building: Building
    plumb: tuple[PlumbLine, ...]
    cases: Callable[[], LoadCases]

    def members(self, which: str) -> tuple[Member, ...]:
        """Members by name or selection; all of them for nothing. Raises InputError."""
        try:
            return chosen_members(self.building, self.building.frame, which or "all")
        except ValueError as error:
            raise InputError([Fault("", str(error))]) from None


#: Makes a thing of a structure, from what is chosen (in words) and fractions of the length.
Maker = Callable[[Structure, str, Sequence[float]], Thing]


# -- stories that things stand in -------------------------------------------------------------


def _between(model: Model, low: Floats, high: Floats, factors: Floats) -> Floats:
    """(m,) the largest of the factors of the stories that things from ``low`` to ``high`` (m,)
    stand in; of those it borders on, for what lies level."""
    d = model.diaphragms
    top, bottom = d.elevations[None], (d.elevations - d.story_heights)[None]
    near = np.where((high - low > 1e-6)[:, None], -1e-6, 1e-6)
    touched = (bottom < high[:, None] + near) & (top > low[:, None] - near)
    return np.asarray(np.where(touched, factors, 1.0).max(axis=1))


def growth(model: Model, low: Floats, high: Floats, each: int) -> Growth:
    """For ``each`` values at every thing from ``low`` to ``high``."""
    return lambda factors: {
        d: np.repeat(_between(model, low, high, own), each) for d, own in factors.items()}


def by_story(stories: Sequence[int], each: int) -> Growth:
    return lambda factors: {d: np.repeat(own[list(stories)], each) for d, own in factors.items()}


def dimensions(names: Sequence[str], first: str, rest: str) -> tuple[tuple[str, str], ...]:
    """Three components of one dimension before three of another."""
    return tuple((name, first if k < 3 else rest) for k, name in enumerate(names))


def known(name: str, names: Sequence[str], what: str) -> int:
    """Where a name stands. Raises InputError with the nearest."""
    if name in names:
        return list(names).index(name)
    raise InputError([Fault("", f"there is no {what} {name!r}", one_of(name, names))])
