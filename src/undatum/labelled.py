"""Arrays with names: every axis has a name and labels, every value a dimension."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from undatum.errors import guess
from undatum.record import fixed, record
from undatum.units import SI, UnitSystem

if TYPE_CHECKING:
    import pandas as pd
    import xarray as xr

Floats = NDArray[np.float64]


@record
class Axis:
    """One axis: its name and, by name, the labels along it (several where values are listed)."""

    name: str
    labels: Mapping[str, tuple[str, ...]]

    def __len__(self) -> int:
        return len(next(iter(self.labels.values())))


def axis(name: str, labels: Sequence[str]) -> Axis:
    """An axis with one label for each place."""
    return Axis(name, {name: tuple(labels)})


@record
class Labelled:
    """An array in SI whose axes have names and labels; read it by name with :meth:`sel`.

    >>> results = ud.run(ud.shipped_project("clinic"))
    >>> found = next(iter(results.arrays().values()))
    >>> found.values.ndim == len(found.axes)
    True
    """

    name: str
    dimension: str
    axes: tuple[Axis, ...]
    values: Floats

    def __post_init__(self) -> None:
        if tuple(len(a) for a in self.axes) != self.values.shape:
            raise ValueError(f"{self.name}: the labels do not fit the values")
        for one in self.axes:
            rows = list(zip(*one.labels.values(), strict=True))
            if len(set(rows)) != len(rows):
                raise ValueError(f"{self.name}: a label of the axis {one.name!r} stands twice")

    def sel(self, **labels: str) -> Labelled:
        """The part with the labels given, by name. Raises KeyError with the nearest known."""
        values, axes = self.values, list(self.axes)
        for name, wanted in labels.items():
            at = next((i for i, a in enumerate(axes) if name in a.labels), None)
            if at is None:
                known = [n for a in axes for n in a.labels]
                raise KeyError(f"{self.name} has no axis {name!r}; it has {', '.join(known)}")
            one = axes[at]
            keep = np.array([label == wanted for label in one.labels[name]])
            if not keep.any():
                raise KeyError(f"{self.name} has no {name} {wanted!r}"
                               + guess(wanted, one.labels[name], before="; "))
            if keep.sum() == 1 and len(one.labels) == 1:
                values = np.take(values, int(np.argmax(keep)), axis=at)
                del axes[at]
            else:
                values = np.compress(keep, values, axis=at)
                rest = {k: tuple(v for v, held in zip(labs, keep, strict=True) if held)
                        for k, labs in one.labels.items() if k != name}
                axes[at] = Axis(one.name, rest)
        return Labelled(self.name, self.dimension, tuple(axes), values)

    @property
    def item(self) -> float:
        """The number, where only one is left."""
        return float(self.values.reshape(-1)[0]) if self.values.size == 1 else float("nan")

    @fixed
    def __array__(self, dtype: Any = None, copy: bool | None = None) -> Floats:
        return np.asarray(self.values, dtype=dtype)

    def to_xarray(self, units: UnitSystem | str = SI) -> xr.DataArray:
        """An xarray DataArray with the unit as an attribute."""
        import xarray as xr

        system = UnitSystem(units) if isinstance(units, str) else units
        return xr.DataArray(
            system.show(self.values, self.dimension), dims=[a.name for a in self.axes],
            coords={name: (a.name, list(labels)) for a in self.axes
                    for name, labels in a.labels.items()},
            name=self.name, attrs={"units": system.label(self.dimension)})

    def to_frame(self, units: UnitSystem | str = SI) -> pd.DataFrame:
        """A pandas DataFrame: a row for each value that is there, a column for each label."""
        import pandas as pd

        system = UnitSystem(units) if isinstance(units, str) else units
        index = np.indices(self.values.shape).reshape(len(self.axes), -1)
        columns: dict[str, Any] = {
            name: [labels[i] for i in index[at]] for at, a in enumerate(self.axes)
            for name, labels in a.labels.items()}
        unit = system.label(self.dimension)
        columns[f"{self.name} ({unit})" if unit else self.name] = \
            system.show(self.values, self.dimension).reshape(-1)
        frame = pd.DataFrame(columns)
        return frame[frame.iloc[:, -1].notna()].reset_index(drop=True)


def labelled(name: str, dimension: str, axes: Sequence[Axis], values: ArrayLike) -> Labelled:
    """A labelled array from anything that NumPy takes."""
    return Labelled(name, dimension, tuple(axes), np.asarray(values, dtype=float))


def own_axes(arrays: Mapping[str, Labelled]) -> dict[str, Labelled]:
    """The arrays with axes that differ between them named apart: ``set``, ``set_2`` and so on."""
    known: dict[str, list[Axis]] = {}
    found = {}
    for name, array in arrays.items():
        axes = []
        for one in array.axes:
            same = known.setdefault(one.name, [])
            at = next((i for i, other in enumerate(same) if other == one), len(same))
            if at == len(same):
                same.append(one)
            if at == 0:
                axes.append(one)
                continue
            axes.append(Axis(f"{one.name}_{at + 1}",
                             {f"{k}_{at + 1}": v for k, v in one.labels.items()}))
        found[name] = Labelled(array.name, array.dimension, tuple(axes), array.values)
    return found
