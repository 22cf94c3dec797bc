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
from undatum.record import record
from undatum.table import Column, Table, column
from undatum.units import DIMENSIONS, UnitSystem
from undatum.variants.design import number_of

if TYPE_CHECKING:
    import pandas as pd
    import xarray as xr

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FILE = "variants.nc"
QUANTILES = (0.05, 0.16, 0.5, 0.84, 0.95)
BINS = 8  # of a parameter, in which a quantity is read


@record
class Part:
    """Some variants: their ``numbers`` (k,), ``settings`` of every parameter as text, ``names`` and
    dimensions of what is kept, ``values`` (k, q) SI, what governs, and why one failed."""

    numbers: Ints
    settings: tuple[tuple[str, ...], ...]
    names: tuple[tuple[str, str], ...]
    values: Floats
    governs: tuple[str, ...]
    failed: tuple[str, ...]


@record
class FamilyResults:
    """All variants of a family in the order of its design.

    ``parameters`` their names, ``parameter_units`` what their numbers are in, ``words`` the values
    of each that are words, as listed; ``settings`` (n, p) as given; ``names`` and ``dimensions`` of
    what was kept, ``values`` (n, q) SI, NaN where there is none; ``governs`` the gravest finding of
    each; ``failed`` why one could not be run.

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
    values: Floats
    governs: tuple[str, ...]
    failed: tuple[str, ...]


    def __len__(self) -> int:
        return len(self.settings)

    @property
    def units(self) -> UnitSystem:
        """The unit system of the project."""
        return UnitSystem(self.units_name)

    def of(self, name: str) -> Floats:
        """(n,) one quantity of all variants, SI. Raises KeyError with the names there are."""
        if name not in self.names:
            raise KeyError(f"nothing was kept as {name!r}; " + one_of(name, self.names, "there is"))
        return np.asarray(self.values[:, self.names.index(name)])

    def parameter(self, name: str) -> Floats:
        """(n,) a parameter as numbers in the unit it is given in; words count from 0 in the order
        they are met. Raises KeyError with the names there are."""
        if name not in self.parameters:
            raise KeyError(f"{name!r} is not varied; " + one_of(name, self.parameters, "there is"))
        own = [row[self.parameters.index(name)] for row in self.settings]
        numbers = np.array([number_of(v) if v else np.nan for v in own])
        if np.isfinite(numbers).sum() >= sum(bool(v) for v in own):
            return numbers
        order = self.words_of(name)
        return np.array([float(order.index(v)) for v in own])

    def words_of(self, name: str) -> tuple[str, ...]:
        """The values of a parameter that are words, in the order they count from 0: as listed,
        then as met; empty where they are numbers."""
        k = self.parameters.index(name)
        own = [row[k] for row in self.settings]
        if all(np.isfinite(number_of(v)) for v in own if v):
            return ()
        met = dict.fromkeys(own)
        return (*(w for w in self.words[k] if w in met),
                *(w for w in met if w not in self.words[k]))

    def table(self) -> Table:
        """Every variant: its values, what was kept, what governs, why one failed."""
        n = range(len(self))
        return Table(
            "variants", f"{self.title}: variants",
            (
                column("variant", "", [variant_name(i) for i in n]),
                *(column(_head(name, unit), "", [self.settings[i][k] or "as it is" for i in n])
                  for k, (name, unit) in enumerate(
                      zip(self.parameters, self.parameter_units, strict=True))),
                *(self._column(k) for k in range(len(self.names))),
                *([column("governs", "", self.governs)] if any(self.governs) else []),
                *([column("failed", "", self.failed)] if any(self.failed) else []),
            ),
            note="Numbers are elastic-analysis results of each variant as if it alone were run.",
            marks=tuple(i for i in n if self.failed[i]))

    def _column(self, k: int) -> Column:
        return column(self.names[k], self.dimensions[k], self.values[:, k].tolist())

    def spread(self) -> Table:
        """Percentiles of everything kept, and how many variants have it."""
        with np.errstate(invalid="ignore"):
            rows = [self.values[np.isfinite(self.values[:, k]), k] for k in range(len(self.names))]
        shown = [k for k, own in enumerate(rows) if own.size]
        quantiles = np.array([np.quantile(rows[k], QUANTILES) for k in shown]).reshape(
            len(shown), len(QUANTILES))
        stats: list[tuple[str, list[float]]] = [
            ("mean", [float(rows[k].mean()) for k in shown]),
            ("deviation", [float(rows[k].std(ddof=1)) if rows[k].size > 1 else 0.0
                           for k in shown]),
            ("least", [float(rows[k].min()) for k in shown]),
            *((f"{q:.0%}", quantiles[:, j].tolist()) for j, q in enumerate(QUANTILES)),
            ("most", [float(rows[k].max()) for k in shown])]
        sizes = [self.units.size(self.dimensions[k]) if self.dimensions[k] else 1.0 for k in shown]
        return Table(
            "spread", f"{self.title}: spread over {len(self)} variants",
            (
                column("quantity", "", [_head(self.names[k], self.units.label(self.dimensions[k])
                                              if self.dimensions[k] in DIMENSIONS else "")
                                        for k in shown]),
                column("variants", "", [int(rows[k].size) for k in shown]),
                *(column(name, "", [v / s for v, s in zip(values, sizes, strict=True)])
                  for name, values in stats),
                column("above 1", "", [
                    float((rows[k] > 1).mean()) if "use" in self.names[k] else None
                    for k in shown]),
            ),
            note="Percentiles are of the variants run, each as likely as the design makes it. "
            "Above 1: the share of variants that exceed the limit.")

    def influence(self, quantity: str) -> Table:
        """What matters for one quantity: its mean where a parameter is in its lowest and its
        highest part, and the share of its variance that the parameter explains by itself (and with
        others, where the design was made for Sobol indices). The strongest first."""
        y = self.of(quantity)
        rows = []
        for name in self.parameters:
            x = self.parameter(name)
            low, high, words = _ends(x, y, self.words_of(name))
            rows.append((name, low, high, abs(high - low),
                         explained(x, y, balanced=self.design == "grid"), words))
        first, total = self._indices(y)
        order = sorted(range(len(rows)), key=lambda i: -np.nan_to_num(rows[i][3]))
        dimension = self.dimensions[self.names.index(quantity)]
        return Table(
            "influence", f"What matters for {quantity}",
            (
                column("parameter", "", [rows[i][0] for i in order]),
                column("low and high", "", [rows[i][5] for i in order]),
                column("mean where low", dimension, [rows[i][1] for i in order]),
                column("mean where high", dimension, [rows[i][2] for i in order]),
                column("difference", dimension, [rows[i][3] for i in order]),
                column("variance explained", "ratio", [rows[i][4] for i in order], 3),
                *([] if first is None or total is None else [
                    column("first-order index", "ratio", [float(first[i]) for i in order], 3),
                    column("total index", "ratio", [float(total[i]) for i in order], 3)]),
            ),
            note="Low and high are the lowest and the highest fifth, or the first and the last "
            "value. Variance explained is that of means within bins of the parameter over the "
            "whole; of samples corrected for their number." + (
                "" if first is None else " Indices: Saltelli et al. 2010, from samples made for "
                "them."))

    def _indices(self, y: Floats) -> tuple[Floats | None, Floats | None]:
        """First-order and total Sobol indices (p,), where the design was made for them."""
        if self.design != "indices" or not np.isfinite(y).all():
            return None, None
        from scipy import stats

        p, n = len(self.parameters), self.count
        a, b, mixed = y[:n], y[n:2 * n], y[2 * n:].reshape(p, 1, n)
        found = stats.sobol_indices(
            func={"f_A": a[None], "f_B": b[None], "f_AB": mixed}, n=n)
        return np.ravel(found.first_order), np.ravel(found.total_order)

    def against(self, quantity: str, parameter: str) -> Table:
        """A quantity against a parameter: median and percentiles in bins, and the share above 1
        for a use of a limit."""
        x, y = self.parameter(parameter), self.of(quantity)
        good = np.isfinite(x) & np.isfinite(y)
        bins = _bins(x[good])
        k = np.array([np.flatnonzero(bins == b) for b in np.unique(bins)], dtype=object) \
            if bins.size else np.zeros(0, dtype=object)
        words = self.words_of(parameter)
        own_x, own_y = x[good], y[good]
        groups = [np.asarray(g, dtype=np.intp) for g in k]
        dimension = self.dimensions[self.names.index(quantity)]
        return Table(
            "against", f"{quantity} against {parameter}",
            (
                column(_head(parameter, self.parameter_units[self.parameters.index(parameter)]), "",
                       [words[int(own_x[g[0]])] if words else float(np.median(own_x[g]))
                        for g in groups]),
                column("variants", "", [int(g.size) for g in groups]),
                *(column(f"{q:.0%}", dimension, [float(np.quantile(own_y[g], q)) for g in groups])
                  for q in QUANTILES),
                column("above 1", "ratio", [float((own_y[g] > 1).mean()) for g in groups], 3),
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
        import xarray as xr

        return xr.Dataset(
            {"value": (("variant", "quantity"), self.values),
             "setting": (("variant", "parameter"), _texts(self.settings, len(self.parameters))),
             "governs": (("variant",), np.array(self.governs, dtype=str)),
             "failed": (("variant",), np.array(self.failed, dtype=str))},
            {"variant": np.arange(1, len(self) + 1), "quantity": list(self.names),
             "parameter": list(self.parameters),
             "dimension": (("quantity",), list(self.dimensions)),
             "parameter_unit": (("parameter",), list(self.parameter_units))},
            {"title": self.title, "units": self.units_name, "design": self.design,
             "count": self.count, "words": json.dumps(self.words)})


def variant_name(i: int) -> str:
    """The name of the variant at place ``i``: they count from 1."""
    return f"v{i + 1:05d}"


def _head(name: str, unit: str) -> str:
    return f"{name} ({unit})" if unit else name


def _texts(settings: Sequence[Sequence[str]], width: int) -> NDArray[np.str_]:
    return np.array(settings, dtype=str).reshape(len(settings), width)


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
    whole = float(((y - y.mean()) ** 2).sum()) if y.size else 0.0
    bins = _bins(x)
    count = np.unique(bins).size
    if whole <= 0 or y.size <= count or count < 2:
        return 0.0
    within = sum(float(((y[bins == b] - y[bins == b].mean()) ** 2).sum())
                 for b in np.unique(bins))
    lost = 1.0 if balanced else (y.size - 1) / (y.size - count)
    return max(1 - within / whole * lost, 0.0)


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

def write_part(part: Part, path: Path) -> None:
    """Put a part in its place, whole or not at all."""
    import xarray as xr

    width = len(part.settings[0]) if part.settings else 0
    made = xr.Dataset(
        {"number": (("variant",), part.numbers),
         "setting": (("variant", "parameter"), _texts(part.settings, width)),
         "value": (("variant", "quantity"), part.values),
         "governs": (("variant",), np.array(part.governs, dtype=str)),
         "failed": (("variant",), np.array(part.failed, dtype=str))},
        {"quantity": np.array([n for n, _ in part.names], dtype=str),
         "dimension": (("quantity",), np.array([d for _, d in part.names], dtype=str))})
    _put(made, path)


def _put(made: Any, path: Path) -> None:
    beside = path.with_name(f".{path.name}.new")
    made.to_netcdf(beside, engine="scipy")
    os.replace(beside, path)


def read_part(path: Path) -> Part:
    """A part back from its file. Raises InputError where it is none."""
    import xarray as xr

    try:
        with xr.open_dataset(path, engine="scipy") as found:
            found.load()
        return Part(
            found["number"].to_numpy().astype(np.intp),
            tuple(tuple(map(str, row)) for row in found["setting"].to_numpy()),
            tuple(zip(map(str, found["quantity"].to_numpy()),
                      map(str, found["dimension"].to_numpy()), strict=True)),
            found["value"].to_numpy().astype(float),
            tuple(map(str, found["governs"].to_numpy())),
            tuple(map(str, found["failed"].to_numpy())))
    except Exception as error:  # what is read may hold anything
        raise InputError([Fault(str(path), f"is not a part of a family ({type(error).__name__})",
                                "take it away; it is worked out again")]) from None


def merged(place: Path, *, whole: bool = False) -> FamilyResults:
    """All parts together; where the family is ``whole`` they become one file."""
    paths = sorted((place / "parts").glob("part-*.nc"))
    if (place / FILE).is_file() and not paths:
        return load_family(place)
    said = _spec(place)
    n = int(said["variants"])
    parameters = said["parameters"]
    names: dict[tuple[str, str], int] = {}
    settings = [("",) * len(parameters)] * n
    governs, failed = [""] * n, ["not run yet"] * n
    values = np.full((n, 0), np.nan)
    for path in paths:
        part = read_part(path)
        for pair in part.names:
            names.setdefault(pair, len(names))
        if len(names) > values.shape[1]:
            values = np.column_stack([values, np.full((n, len(names) - values.shape[1]), np.nan)])
        own = np.array([names[pair] for pair in part.names], dtype=np.intp)
        values[np.ix_(part.numbers, own)] = part.values
        for k, i in enumerate(part.numbers.tolist()):
            settings[i], governs[i], failed[i] = part.settings[k], part.governs[k], part.failed[k]
    found = FamilyResults(
        str(said["title"]), str(said["units"]), str(said["design"]), int(said["count"]),
        tuple(str(p[0]) for p in parameters), tuple(str(p[2]) for p in parameters),
        tuple(tuple(map(str, p[3])) for p in parameters),
        tuple(settings), tuple(n for n, _ in names), tuple(d for _, d in names), values,
        tuple(governs), tuple(failed))
    if whole:
        _put(found.to_xarray(), place / FILE)
        for path in paths:
            path.unlink()
        (place / "parts").rmdir()
    return found


def _spec(place: Path) -> Any:
    try:
        said = json.loads((place / "family.json").read_text(encoding="utf-8"))
        assert {"title", "units", "design", "count", "parameters", "variants"} <= set(said)
    except (OSError, ValueError, AssertionError, TypeError):
        raise InputError([Fault(str(place), "holds no family of variants",
                                "run 'undatum vary' into it")]) from None
    return said


def same_family(folder: str | Path, fingerprint: str) -> bool:
    """Whether a folder holds the family of that fingerprint. Raises InputError where it holds
    none."""
    return bool(_spec(Path(folder)).get("fingerprint") == fingerprint)


def load_family(folder: str | Path) -> FamilyResults:
    """What a family gave, from its folder; of one that was stopped, what is done. Raises
    InputError where there is none.

    >>> family = ud.Family(ud.shipped_project("archive"), ud.Variants(
    ...     vary=[ud.Parameter(name="S1", path="site.s1", values=[0.3, 0.4])], keep=["base shear"]))
    >>> _ = ud.run_family(family, folder / "family")
    >>> len(ud.load_family(folder / "family"))
    2
    """
    import xarray as xr

    place = Path(folder)
    if not (place / FILE).is_file():
        _spec(place)
        return merged(place)
    try:
        with xr.open_dataset(place / FILE, engine="scipy") as found:
            found.load()
        return FamilyResults(
            str(found.attrs["title"]), UnitSystem(str(found.attrs["units"])).name,
            str(found.attrs["design"]), int(found.attrs["count"]),
            tuple(map(str, found["parameter"].to_numpy())),
            tuple(map(str, found["parameter_unit"].to_numpy())),
            tuple(tuple(map(str, own)) for own in json.loads(str(found.attrs["words"]))),
            tuple(tuple(map(str, row)) for row in found["setting"].to_numpy()),
            tuple(map(str, found["quantity"].to_numpy())),
            tuple(map(str, found["dimension"].to_numpy())),
            found["value"].to_numpy().astype(float),
            tuple(map(str, found["governs"].to_numpy())),
            tuple(map(str, found["failed"].to_numpy())))
    except Exception as error:  # what is read may hold anything
        raise InputError([Fault(str(place / FILE), "is not the file of a family "
                                f"({type(error).__name__})", "run 'undatum vary' again")]) from None
