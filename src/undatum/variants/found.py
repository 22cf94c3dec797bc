"""What a family gave: every variant with its values, kept in an open format and read as tables."""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from undatum.errors import Fault, InputError, one_of
from undatum.finding import Severity
from undatum.record import record
from undatum.table import Table, column
from undatum.units import DIMENSIONS, UnitSystem
from undatum.variants.design import number_of

if TYPE_CHECKING:
    import pandas as pd
    import xarray as xr

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
#: In the folder of a family: what it is, its parts while it is run, all of it when it is done.
SPEC, PARTS, FILE = "family.json", "parts", "variants.nc"
QUANTILES = (0.05, 0.16, 0.5, 0.84, 0.95)
BINS = 8  # of a parameter, in which a quantity is read


@record
class Kept:
    """What was kept of some variants: ``numbers`` (k,) of those, ``settings`` of every parameter as
    text, ``names`` and ``dimensions`` of ``values`` (k, q), SI, and which of them are ``uses`` of a
    limit; the ``severity`` of the gravest finding and what ``governs``, why one ``failed``."""

    numbers: Ints
    settings: tuple[tuple[str, ...], ...]
    names: tuple[str, ...]
    dimensions: tuple[str, ...]
    uses: tuple[bool, ...]
    values: Floats
    severity: tuple[str, ...]
    governs: tuple[str, ...]
    failed: tuple[str, ...]


@record
class FamilyResults:
    """All variants of a family in the order of its design.

    ``parameters`` their names, ``parameter_units`` what their numbers are in, ``words`` the values
    of each that are words, as listed; ``settings`` (n, p) as given; ``names`` and ``dimensions`` of
    what was kept, ``uses`` which of it are shares of a limit, ``values`` (n, q) SI, NaN where there
    is none; ``severity`` and ``governs`` of the gravest finding of each, empty where findings were
    not kept; ``failed`` why one could not be run.

    >>> import undatum as ud
    >>> family = ud.Family(ud.shipped_project("archive"), ud.Variants(
    ...     vary=[ud.Parameter(name="S1", path="site.s1", between=[0.3, 0.5], steps=3)],
    ...     keep=["base shear"]))
    >>> found = ud.run_family(family, folder / "family")
    >>> [round(float(v) / 1e6, 1) for v in found.of("static base shear X")]  # MN
    [4.2, 5.3, 6.3]
    """

    title: str
    units_name: str
    design: str
    count: int
    parameters: tuple[str, ...]
    parameter_units: tuple[str, ...]
    words: tuple[tuple[str, ...], ...]
    settings: tuple[tuple[str, ...], ...]
    names: tuple[str, ...]
    dimensions: tuple[str, ...]
    uses: tuple[bool, ...]
    values: Floats
    severity: tuple[str, ...]
    governs: tuple[str, ...]
    failed: tuple[str, ...]

    def __len__(self) -> int:
        return len(self.settings)

    @property
    def units(self) -> UnitSystem:
        """The unit system of the project."""
        return UnitSystem(self.units_name)

    @property
    def exceeded(self) -> bool:
        """Whether a check is exceeded in any variant, or a use of a limit is above 1."""
        uses = self.values[:, np.array(self.uses, dtype=bool)]
        return Severity.EXCEEDED in self.severity or bool((uses > 1).any())

    def place(self, name: str) -> int:
        """Where a quantity stands. Raises KeyError with the names there are."""
        if name not in self.names:
            raise KeyError(f"nothing was kept as {name!r}; " + one_of(name, self.names, "there is"))
        return self.names.index(name)

    def of(self, name: str) -> Floats:
        """(n,) one quantity of all variants, SI. Raises KeyError with the names there are."""
        return np.asarray(self.values[:, self.place(name)])

    def parameter(self, name: str) -> Floats:
        """(n,) a parameter as numbers in the unit it is given in, NaN where the project's own value
        stays; words count from 0. Raises KeyError with the names there are."""
        words = self.words_of(name)
        return np.array([words.index(v) if words else number_of(v) for v in self._settings(name)],
                        dtype=float)

    def words_of(self, name: str) -> tuple[str, ...]:
        """The values of a parameter that are words, in the order they count from 0: as listed,
        then as met; empty where they are numbers. Raises KeyError with the names there are."""
        met = dict.fromkeys(self._settings(name))
        if all(np.isfinite(number_of(v)) for v in met if v):
            return ()
        listed = self.words[self.parameters.index(name)]
        return (*(w for w in listed if w in met), *(w for w in met if w not in listed))

    def _settings(self, name: str) -> list[str]:
        if name not in self.parameters:
            raise KeyError(f"{name!r} is not varied; " + one_of(name, self.parameters, "there is"))
        return [row[self.parameters.index(name)] for row in self.settings]

    def size(self, name: str) -> float:
        """The SI size of the unit a quantity is shown in. Raises KeyError."""
        dimension = self.dimensions[self.place(name)]
        return self.units.size(dimension) if dimension else 1.0

    def shown(self, name: str) -> tuple[Floats, str]:
        """(n,) a quantity in the units of the project, and its name with the unit. Raises
        KeyError."""
        return self.of(name) / self.size(name), self._head(self.place(name))

    @property
    def main(self) -> list[str]:
        """What is looked at first: uses of limits, the largest first, or else what was kept first;
        nothing where no variant gave a value."""
        known = [k for k in range(len(self.names)) if np.isfinite(self.values[:, k]).any()]
        uses = [k for k in known if self.uses[k]]
        return [self.names[k] for k in sorted(
            uses, key=lambda k: -float(np.nanmax(self.values[:, k]))) or known[:1]]

    def _head(self, k: int) -> str:
        dimension = self.dimensions[k]
        return headed(self.names[k], self.units.label(dimension) if dimension in DIMENSIONS else "")

    def table(self) -> Table:
        """Every variant: its values, what was kept, what governs, why one failed."""
        n = range(len(self))
        return Table(
            "variants", f"{self.title}: variants",
            (
                column("variant", "", [variant_name(i) for i in n]),
                *(column(headed(name, unit), "", [self.settings[i][k] or "as it is" for i in n])
                  for k, (name, unit) in enumerate(
                      zip(self.parameters, self.parameter_units, strict=True))),
                *(column(name, dimension, self.values[:, k].tolist()) for k, (name, dimension)
                  in enumerate(zip(self.names, self.dimensions, strict=True))),
                *([column("severity", "", self.severity), column("governs", "", self.governs)]
                  if any(self.severity) else []),
                *([column("failed", "", self.failed)] if any(self.failed) else []),
            ),
            note="Each variant is analyzed as if it alone were run.",
            marks=tuple(i for i in n if self.failed[i] or self.severity[i] == Severity.EXCEEDED))

    def spread(self) -> Table:
        """Percentiles of everything kept, and how many variants have it."""
        import pandas as pd

        frame = pd.DataFrame(
            {self._head(k): self.shown(name)[0] for k, name in enumerate(self.names)})
        told = frame.dropna(axis=1, how="all").describe(percentiles=list(QUANTILES)).T
        over = {self._head(k): float((own > 1).mean()) for k, use in enumerate(self.uses)
                if use and (own := self.values[np.isfinite(self.values[:, k]), k]).size}
        return Table(
            "spread", f"{self.title}: spread over {len(self)} variants",
            (
                column("quantity", "", list(told.index)),
                column("variants", "", [int(v) for v in told["count"]]),
                *(column(said, "", told[name].fillna(0.0).tolist()) for name, said in (
                    ("mean", "mean"), ("std", "deviation"), ("min", "least"),
                    *((f"{q:.0%}", f"{q:.0%}") for q in QUANTILES), ("max", "most"))),
                column("above 1", "", [over.get(name) for name in told.index]),
            ),
            note="Percentiles are of the variants run, each as likely as the design makes it. "
            "Above 1: the share of variants that exceed the limit.")

    def influence(self, quantity: str) -> Table:
        """What matters for one quantity: its mean where a parameter is in its lowest and its
        highest part, and the share of its variance that the parameter explains by itself (and with
        others, where the design was made for Sobol indices). The strongest first."""
        y, rows = self.of(quantity), []
        for name in self.parameters:
            x = self.parameter(name)
            low, high, said = _ends(x, y, self.words_of(name))
            rows.append((name, said, low, high, abs(high - low),
                         explained(x, y, balanced=self.design == "grid")))
        indices = self._indices(y)
        order = sorted(range(len(rows)), key=lambda i: -np.nan_to_num(rows[i][4]))
        dimension = self.dimensions[self.place(quantity)]
        return Table(
            "influence", f"What matters for {quantity}",
            (
                *(column(head, unit, [rows[i][k] for i in order], digits)
                  for k, (head, unit, digits) in enumerate((
                      ("parameter", "", 4), ("low and high", "", 4),
                      ("mean where low", dimension, 4), ("mean where high", dimension, 4),
                      ("difference", dimension, 4), ("variance explained", "ratio", 3)))),
                *(column(head, "ratio", [float(own[i]) for i in order], 3)
                  for head, own in indices),
            ),
            note="Low and high are the lowest and the highest fifth, or the first and the last "
            "value. Variance explained is that of means within bins of the parameter over the "
            "whole; of samples corrected for their number." + (
                " Indices: Saltelli et al. 2010, from samples made for them." if indices else ""))

    def _indices(self, y: Floats) -> list[tuple[str, Floats]]:
        """First-order and total Sobol indices (p,), where the design was made for them."""
        if self.design != "indices" or not np.isfinite(y).all():
            return []
        from scipy import stats

        p, n = len(self.parameters), self.count
        found = stats.sobol_indices(n=n, func={
            "f_A": y[None, :n], "f_B": y[None, n:2 * n], "f_AB": y[2 * n:].reshape(p, 1, n)})
        return [("first-order index", np.ravel(found.first_order)),
                ("total index", np.ravel(found.total_order))]

    def against(self, quantity: str, parameter: str) -> Table:
        """A quantity against a parameter: median and percentiles in bins, and for a use of a limit
        the share above 1."""
        import pandas as pd

        k, words = self.place(quantity), self.words_of(parameter)
        pairs = pd.DataFrame({"x": self.parameter(parameter), "y": self.values[:, k]}).dropna()
        groups = pairs.groupby(_bins(pairs["x"].to_numpy()))
        at, percentiles = groups["x"].median(), groups["y"].quantile(np.array(QUANTILES)).unstack()
        unit = self.parameter_units[self.parameters.index(parameter)]
        return Table(
            "against", f"{quantity} against {parameter}",
            (
                column(headed(parameter, unit), "",
                       [words[int(v)] if words else float(v) for v in at]),
                column("variants", "", [int(v) for v in groups.size()]),
                *(column(f"{q:.0%}", self.dimensions[k], percentiles[q].tolist())
                  for q in QUANTILES if len(percentiles)),
                *([column("above 1", "ratio", groups["y"].agg(
                    lambda own: float((own > 1).mean())).tolist(), 3)] if self.uses[k] else []),
            ))

    def worst(self, quantity: str, count: int = 10) -> tuple[int, ...]:
        """The numbers of the variants with the largest values of a quantity, the largest first."""
        y = self.of(quantity)
        return tuple(int(i) for i in np.argsort(-np.nan_to_num(y, nan=-np.inf), kind="stable")
                     if np.isfinite(y[i]))[:count]

    def to_frame(self) -> pd.DataFrame:
        """Every variant as a row of a pandas frame, in the units of the project."""
        return self.table().to_frame(self.units)

    def to_xarray(self) -> xr.Dataset:
        """Values (variant, quantity), SI, and settings (variant, parameter) with their labels."""
        found = _dataset(Kept(
            np.arange(len(self)), self.settings, self.names, self.dimensions, self.uses,
            self.values, self.severity, self.governs, self.failed))
        return found.assign_coords(
            variant=np.arange(1, len(self) + 1), parameter=_texts(self.parameters),
            parameter_unit=(("parameter",), _texts(self.parameter_units))).assign_attrs(
                title=self.title, units=self.units_name, design=self.design, count=self.count,
                words=json.dumps(self.words))


def variant_name(i: int) -> str:
    """The name of the variant at place ``i``: they count from 1."""
    return f"v{i + 1:05d}"


def headed(name: str, unit: str) -> str:
    """A name with its unit behind it, where it has one."""
    return f"{name} ({unit})" if unit else name


def _bins(x: Floats) -> Ints:
    """(n,) in which bin each value lies: its own where there are few values, else as many in each
    as in the others."""
    distinct = np.unique(x)
    if distinct.size <= BINS:
        return np.searchsorted(distinct, x)
    edges = np.quantile(x, np.linspace(0, 1, BINS + 1)[1:-1])
    return np.searchsorted(edges, x, side="right")


def explained(x: Floats, y: Floats, *, balanced: bool = False) -> float:
    """Share of the variance of ``y`` (n,) that means in bins of ``x`` (n,) explain: of a
    ``balanced`` grid the correlation ratio, of a sample corrected for the number of bins (epsilon
    squared: Kelley 1935).

    >>> explained(np.array([0.0, 0, 1, 1]), np.array([2.0, 2, 5, 5]))
    1.0
    """
    good = np.isfinite(x) & np.isfinite(y)
    x, y = x[good], y[good]
    bins = _bins(x)
    count = np.unique(bins).size
    if y.size <= count or count < 2 or np.ptp(y) == 0:
        return 0.0
    size = np.bincount(bins)
    means = np.bincount(bins, y) / np.maximum(size, 1)
    within = float(((y - means[bins]) ** 2).sum() / ((y - y.mean()) ** 2).sum())
    lost = 1.0 if balanced else (y.size - 1) / (y.size - count)
    return max(1 - within * lost, 0.0)


def _ends(x: Floats, y: Floats, words: Sequence[str]) -> tuple[float, float, str]:
    """Mean of ``y`` in the lowest and the highest part of ``x``, and what those are."""
    good = np.isfinite(x) & np.isfinite(y)
    x, y = x[good], y[good]
    if not x.size:
        return float("nan"), float("nan"), ""
    low, high = (x.min(), x.max()) if np.unique(x).size <= BINS else np.quantile(x, (0.2, 0.8))
    said = [words[int(v)] if words else f"{v:.4g}" for v in (low, high)]
    return float(y[x <= low].mean()), float(y[x >= high].mean()), " / ".join(said)


# -- on disk -----------------------------------------------------------------------------------

def _texts(values: Sequence[str]) -> NDArray[np.str_]:
    return np.array(values, dtype=str)


def _dataset(kept: Kept) -> xr.Dataset:
    import xarray as xr

    width = len(kept.settings[0]) if kept.settings else 0
    one = ("variant",)
    return xr.Dataset(
        {"number": (one, kept.numbers), "value": ((*one, "quantity"), kept.values),
         "setting": ((*one, "parameter"), np.array(kept.settings, dtype=str).reshape(
             len(kept.settings), width)),
         **{name: (one, _texts(getattr(kept, name)))
            for name in ("severity", "governs", "failed")}},
        {"quantity": _texts(kept.names), "dimension": (("quantity",), _texts(kept.dimensions)),
         "use": (("quantity",), np.array(kept.uses, dtype=np.int8))})


def _kept(found: xr.Dataset) -> Kept:
    def texts(name: str) -> tuple[str, ...]:
        return tuple(map(str, found[name].to_numpy()))

    if "quantity" not in found.dims:  # nothing could be run
        found = found.assign(value=(("variant", "quantity"), np.zeros((len(found["number"]), 0))),
                             quantity=_texts(()), dimension=(("quantity",), _texts(())),
                             use=(("quantity",), np.zeros(0)))
    return Kept(
        found["number"].to_numpy().astype(np.intp),
        tuple(tuple(map(str, row)) for row in found["setting"].to_numpy()), texts("quantity"),
        texts("dimension"), tuple(bool(v) for v in found["use"].to_numpy()),
        found["value"].to_numpy().astype(float), texts("severity"), texts("governs"),
        texts("failed"))


def write_part(kept: Kept, path: Path) -> None:
    """Put some variants in their place, whole or not at all."""
    _put(_dataset(kept), path)


def _put(made: xr.Dataset, path: Path) -> None:
    made = made.drop_dims([name for name, size in made.sizes.items() if not size])  # none in NetCDF
    beside = path.with_name(f".{path.name}.new")
    made.to_netcdf(beside, engine="scipy")
    os.replace(beside, path)


def _opened(path: Path, cure: str) -> xr.Dataset:
    import xarray as xr

    try:
        with xr.open_dataset(path, engine="scipy") as found:
            return found.load()
    except Exception as error:  # what is read may hold anything
        raise InputError([Fault(str(path), f"is not of a family ({type(error).__name__})", cure)
                          ]) from None


def merged(place: Path) -> FamilyResults:
    """All parts in a folder together, whatever is still missing. Raises InputError."""
    try:
        return _merged(place, spec_of(place))
    except (TypeError, ValueError, LookupError) as error:  # what is read may hold anything
        raise InputError([Fault(str(place), f"holds no whole family ({type(error).__name__})",
                                "run 'undatum vary' into another folder")]) from None


def _merged(place: Path, said: Any) -> FamilyResults:
    n, parameters = int(said["variants"]), said["parameters"]
    names: dict[tuple[str, str, bool], int] = {}
    settings = [("",) * len(parameters)] * n
    severity, governs, failed = [""] * n, [""] * n, ["not run yet"] * n
    values = np.full((n, 0), np.nan)
    for path in sorted((place / PARTS).glob("part-*.nc")):
        part = _kept(_opened(path, "take it away; it is worked out again"))
        own = [names.setdefault(one, len(names)) for one in zip(
            part.names, part.dimensions, part.uses, strict=True)]
        values = np.column_stack([values, np.full((n, len(names) - values.shape[1]), np.nan)])
        values[np.ix_(part.numbers, np.array(own, dtype=np.intp))] = part.values
        for k, i in enumerate(part.numbers.tolist()):
            settings[i], failed[i] = part.settings[k], part.failed[k]
            severity[i], governs[i] = part.severity[k], part.governs[k]
    return FamilyResults(
        str(said["title"]), str(said["units"]), str(said["design"]), int(said["count"]),
        tuple(str(p[0]) for p in parameters), tuple(str(p[1]) for p in parameters),
        tuple(tuple(map(str, p[2])) for p in parameters), tuple(settings),
        tuple(name for name, *_ in names), tuple(dimension for _, dimension, _ in names),
        tuple(use for *_, use in names), values, tuple(severity), tuple(governs), tuple(failed))


def close(place: Path) -> FamilyResults:
    """Put the parts of a family that is done into one file, and take them away."""
    found = merged(place)
    _put(found.to_xarray(), place / FILE)
    for path in (place / PARTS).iterdir():
        path.unlink()
    (place / PARTS).rmdir()
    return found


def spec_of(place: Path) -> Any:
    """What the family in a folder is. Raises InputError where there is none."""
    try:
        said = json.loads((place / SPEC).read_text(encoding="utf-8"))
        if not {"fingerprint", "title", "units", "design", "count", "parameters",
                "variants"} <= set(said):
            raise ValueError
    except (OSError, ValueError, TypeError):
        raise InputError([Fault(str(place), "holds no family of variants",
                                "run 'undatum vary' into it")]) from None
    return said


def load_family(folder: str | Path) -> FamilyResults:
    """What a family gave, from its folder; of one that was stopped, what is done. Raises
    InputError where there is none.

    >>> family = ud.Family(ud.shipped_project("archive"), ud.Variants(
    ...     vary=[ud.Parameter(name="S1", path="site.s1", values=[0.3, 0.4])], keep=["base shear"]))
    >>> _ = ud.run_family(family, folder / "family")
    >>> len(ud.load_family(folder / "family"))
    2
    """
    place = Path(folder)
    if not (place / FILE).is_file():
        return merged(place)
    cure = "run 'undatum vary' again into another folder"
    found = _opened(place / FILE, cure)
    try:
        kept, said = _kept(found), found.attrs
        return FamilyResults(
            str(said["title"]), UnitSystem(str(said["units"])).name, str(said["design"]),
            int(said["count"]), tuple(map(str, found["parameter"].to_numpy())),
            tuple(map(str, found["parameter_unit"].to_numpy())),
            tuple(tuple(map(str, own)) for own in json.loads(str(said["words"]))), kept.settings,
            kept.names, kept.dimensions, kept.uses, kept.values, kept.severity, kept.governs,
            kept.failed)
    except Exception as error:  # what is read may hold anything
        raise InputError([Fault(str(place / FILE), "is not the file of a family "
                                f"({type(error).__name__})", cure)]) from None
