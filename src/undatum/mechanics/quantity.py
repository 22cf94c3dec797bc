"""A named quantity: sparse rows with a kind, labels and a dimension."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import sparse

from undatum.record import Memo, fixed, record

Floats = NDArray[np.float64]


@record
class Quantity:
    """``k`` values of one kind: ``rows`` (k, N) applied to displacements or to nodal forces.

    ``labels`` says what each value is of, by ``level``, ``story``, ``line``, ``point`` or
    ``component``, (k,) each; ``dimension`` is that of the values. ``returned`` (k, N) are rows on
    displacements beside those on forces: what the ground gives back where it holds floors.
    """

    kind: str
    dimension: str
    rows: sparse.csr_array
    labels: Mapping[str, tuple[str, ...]]
    acts_on: Literal["displacements", "forces"] = "displacements"
    returned: sparse.csr_array | None = None
    memo: Memo = field(default_factory=Memo, init=False)

    def __len__(self) -> int:
        return int(self.rows.shape[0])

    def where(self, **labels: str) -> Quantity:
        """The values with the labels given. Raises KeyError where there is none."""
        return self.memo.get(tuple(labels.items()), lambda: self._where(labels))

    def _where(self, labels: Mapping[str, str]) -> Quantity:
        wanted, columns = tuple(labels.values()), (self.labels[name] for name in labels)
        keep = [k for k, own in enumerate(zip(*columns, strict=True)) if own == wanted]
        if not keep:
            raise KeyError(f"{self.kind} has no value of {labels}")
        return self.at(keep)

    def at(self, index: ArrayLike) -> Quantity:
        """The values at ``index``."""
        i = np.atleast_1d(np.asarray(index, dtype=np.intp))
        if i.size and i[-1] - i[0] == i.size - 1 and np.all(np.diff(i) == 1):  # side by side
            first, last = int(i[0]), int(i[-1]) + 1
            side, ends = slice(first, last), self.rows.indptr[first: last + 1]
            within = slice(int(ends[0]), int(ends[-1]))
            rows = sparse.csr_array(
                (self.rows.data[within], self.rows.indices[within], ends - ends[0]),
                shape=(i.size, self.rows.shape[1]))
            return Quantity(self.kind, self.dimension, rows,
                            {k: v[side] for k, v in self.labels.items()}, self.acts_on,
                            self._returned_at(i))
        return Quantity(
            self.kind, self.dimension, sparse.csr_array(self.rows[i]),
            {k: tuple(v[j] for j in i) for k, v in self.labels.items()}, self.acts_on,
            self._returned_at(i))

    def _returned_at(self, index: NDArray[np.intp]) -> sparse.csr_array | None:
        return None if self.returned is None else sparse.csr_array(self.returned[index])

    @fixed
    def of(self, displacements: Floats, forces: Floats) -> Floats:
        """Values (k, ...) from displacements and nodal forces (N, ...)."""
        found = self.rows @ (displacements if self.acts_on == "displacements" else forces)
        return np.asarray(found if self.returned is None else found + self.returned @ displacements)
