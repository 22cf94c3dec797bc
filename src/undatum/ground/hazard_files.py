"""Hazard from files: gridded values, and tables of zones by place.

A gridded file is a CSV or a classic NetCDF file. The CSV holds every node of a rectangular grid::

    # source: Hazard map of the made-up Marrowby region
    # edition: 2026-1
    latitude (deg), longitude (deg), ss (g), s1 (g), long_period (s) nearest
    -41.0, -20.0, 1.02, 0.38, 8

Columns bear the names of the keys in ``[site]``. Numbers are interpolated along straight lines in
both directions, those of a column marked ``nearest`` are taken from the nearest node, and texts
(such as a zone) must be the same at all nodes around the place. In a NetCDF file each parameter is
a variable on (latitude, longitude) with an attribute ``units``, and ``source`` and ``edition`` are
attributes of the file. A table of zones is a CSV with a column ``place``.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import numpy as np

from undatum.errors import Fault, InputError, guess
from undatum.ground.location import Found, Location, Provider
from undatum.ground.spectrum import Floats
from undatum.record import record
from undatum.textfile import csv_rows, ordinary, read_text

LARGEST_GRID = 200_000_000  # bytes of a file
_HEAD = re.compile(r"\s*([A-Za-z]\w*)\s*(?:[\(\[]\s*([^)\]]+)\s*[\)\]])?\s*(nearest)?\s*")
_MARK = re.compile(r"#\s*(source|edition)\s*:\s*(.+)", re.IGNORECASE)


def open_provider(path: str | Path) -> Provider:
    """A gridded file or a table of zones. Raises InputError when it is neither."""
    path = Path(path)
    if path.suffix.lower() in (".nc", ".nc3", ".cdf"):
        return _read_netcdf(path)
    return _read_csv(path)


# -- grids -----------------------------------------------------------------------------------------


@record
class HazardGrid:
    """Parameters on a rectangular grid of latitudes and longitudes, both rising, in degrees.

    ``numbers`` holds (latitudes, longitudes) arrays in the unit of ``units``, ``texts`` arrays of
    text; ``stepped`` names numbers taken from the nearest node. Not a number: no value there.
    """

    name: str
    latitudes: Floats
    longitudes: Floats
    numbers: Mapping[str, Floats]
    texts: Mapping[str, np.ndarray[Any, Any]]
    units: Mapping[str, str]
    stepped: frozenset[str]
    source: str
    edition: str

    def find(self, location: Location) -> Found:
        """Straight-line interpolation in both directions; nothing is extrapolated."""
        if location.latitude is None or location.longitude is None:
            raise self._wrong("knows coordinates, not names of places",
                              "give latitude and longitude in site.location")
        i, u = self._cell(self.latitudes, location.latitude, "latitude")
        j, v = self._cell(self.longitudes, location.longitude, "longitude")
        corner = (slice(i, i + 2), slice(j, j + 2))
        weights = np.outer([1 - u, u], [1 - v, v])
        values: dict[str, str] = {}
        for name, grid in self.numbers.items():
            around = grid[corner]
            if name in self.stepped:
                number = float(around[round(u), round(v)])
            else:
                # A node that carries no weight may be empty: the place lies on the line beside it.
                number = float(np.sum(np.where(weights > 0, around * weights, 0.0)))
            if not np.isfinite(number):
                raise self._wrong(f"has no value of {name} around {location.said}",
                                  "it may be sea there; choose a place on the grid")
            values[name] = f"{number:.10g} {self.units[name]}".strip()
        for name, words in self.texts.items():
            near = sorted({str(w) for w in words[corner][weights > 0]})
            if len(near) > 1:
                raise self._wrong(f"has {name} {' and '.join(near)} around {location.said}",
                                  f"state {name} in [site] and leave the column out")
            if not near[0]:
                raise self._wrong(f"has no value of {name} around {location.said}",
                                  "it may be sea there; choose a place on the grid")
            values[name] = near[0]
        lat, lon = self.latitudes[i : i + 2], self.longitudes[j : j + 2]
        how = f"interpolated between latitudes {lat[0]:g} and {lat[1]:g}, longitudes {lon[0]:g} " \
              f"and {lon[1]:g}"
        if self.stepped:
            how += f"; nearest node for {', '.join(sorted(self.stepped))}"
        return Found(values, self.source, self.edition, how)

    def _cell(self, axis: Floats, at: float, what: str) -> tuple[int, float]:
        if not axis[0] <= at <= axis[-1]:
            raise self._wrong(f"covers {what}s from {axis[0]:g} to {axis[-1]:g}; {at:g} lies "
                              "outside", "is the sign right, and are they swapped?")
        i = min(int(np.searchsorted(axis, at, side="right")) - 1, axis.size - 2)
        return i, float((at - axis[i]) / (axis[i + 1] - axis[i]))

    def _wrong(self, message: str, cure: str) -> InputError:
        return InputError([Fault(f"site.location, {self.name}", message, cure)])


@record
class ZoneTable:
    """Values by the name of a place, each place once."""

    name: str
    places: Mapping[str, Mapping[str, str]]  # by folded name
    names: Mapping[str, str]  # folded name -> name
    source: str
    edition: str

    def find(self, location: Location) -> Found:
        """The row of a place; capitals and spaces at the ends do not matter."""
        known = list(self.names.values())
        if location.place is None:
            raise InputError([Fault(
                f"site.location, {self.name}", "is a table by place name",
                f"give place in site.location; it knows {len(known)} places")])
        key = location.place.strip().casefold()
        if key not in self.places:
            raise InputError([Fault(
                "site.location.place", f"{location.place!r} is not in {self.name}",
                guess(location.place, known, after=" ")
                + f"it knows {', '.join(known[:12])}{' ...' if len(known) > 12 else ''}")])
        return Found(self.places[key], self.source, self.edition,
                     f"row {self.names[key]!r} of the table")


# -- reading ---------------------------------------------------------------------------------------


def _read_csv(path: Path) -> Provider:
    def wrong(message: str, cure: str = "", line: int | None = None) -> InputError:
        return InputError([Fault(f"hazard file {path.name}", message, cure, line)])

    text = read_text(path, lambda message, cure: wrong(
        message, cure or "name a CSV or NetCDF file beside the project"), LARGEST_GRID)
    marks = {m[1].lower(): m[2].strip() for line in text.splitlines()
             if (m := _MARK.fullmatch(line.strip()))}
    rows = [(i, [cell.strip() for cell in row])
            for i, row in csv_rows(text, wrong)]
    if missing := [key for key in ("source", "edition") if not marks.get(key)]:
        raise wrong(f"does not say its {' and '.join(missing)}",
                    "begin it with lines such as: # source: ... and # edition: ...")
    if len(rows) < 2:
        raise wrong("holds no rows", "give a header and a row for every place")
    heads = [_HEAD.fullmatch(cell) for cell in rows[0][1]]
    if not all(heads):
        raise wrong(f"the header {','.join(rows[0][1])!r} cannot be read",
                    "such as: latitude (deg), longitude (deg), ss (g)", rows[0][0])
    names = [h[1] for h in heads if h]
    if twice := next((n for n in names if names.count(n) > 1), None):
        raise wrong(f"has two columns {twice!r}", "give each column its own name", rows[0][0])
    for number, row in rows[1:]:
        if len(row) != len(names):
            raise wrong(f"{','.join(row)!r} has {len(row)} cells, the header {len(names)}",
                        "give every column a cell, an empty one where there is no value", number)
    units = {h[1]: h[2] or "" for h in heads if h}
    if "place" in names:
        return _zones(path, names, units, rows[1:], marks, wrong)
    if not {"latitude", "longitude"} <= set(names):
        raise wrong("has neither a column place nor columns latitude and longitude",
                    "name the columns so", rows[0][0])
    stepped = frozenset(h[1] for h in heads if h and h[3])
    return _grid(path, names, units, stepped, rows[1:], marks, wrong)


def _zones(
    path: Path, names: list[str], units: Mapping[str, str], rows: list[tuple[int, list[str]]],
    marks: Mapping[str, str], wrong: Any,
) -> ZoneTable:
    at = names.index("place")
    places: dict[str, dict[str, str]] = {}
    said: dict[str, str] = {}
    for number, row in rows:
        key = row[at].casefold()
        if key in places:
            raise wrong(f"the place {row[at]!r} stands twice", "take one out", number)
        places[key] = {n: f"{cell} {units[n]}".strip()
                       for n, cell in zip(names, row, strict=True) if n != "place" and cell}
        said[key] = row[at]
    return ZoneTable(path.name, places, said, marks["source"], marks["edition"])


def _grid(
    path: Path, names: list[str], units: Mapping[str, str], stepped: frozenset[str],
    rows: list[tuple[int, list[str]]], marks: Mapping[str, str], wrong: Any,
) -> HazardGrid:
    columns = {n: [row[k] for _, row in rows] for k, n in enumerate(names)}
    axes = {}
    for name in ("latitude", "longitude"):
        degrees = [_degrees(cell) for cell in columns.pop(name)]
        if (at := next((k for k, d in enumerate(degrees) if not abs(d) <= 360), None)) is not None:
            raise wrong(f"a {name} is no number of degrees", "write such as -41.25", rows[at][0])
        axes[name] = np.array(degrees)
    lat, i = np.unique(axes["latitude"], return_inverse=True)
    lon, j = np.unique(axes["longitude"], return_inverse=True)
    filled = np.zeros((lat.size, lon.size), dtype=int)
    np.add.at(filled, (i, j), 1)
    if lat.size < 2 or lon.size < 2 or filled.min() != 1 or filled.max() != 1:
        k = int(np.argmax(filled != 1))
        a, b = lat[k // lon.size], lon[k % lon.size]
        what = "missing" if filled.flat[k] == 0 else "given more than once"
        raise wrong(f"the nodes make no rectangular grid: latitude {a:g}, longitude {b:g} is {what}"
                    if lat.size > 1 and lon.size > 1 else "needs two latitudes and two longitudes",
                    "list every latitude with every longitude once; leave cells empty where there "
                    "is no value")
    numbers, texts = {}, {}
    for name, cells in columns.items():
        try:
            values = np.array([float(cell) if cell else np.nan for cell in cells])
        except ValueError:
            words = np.empty(filled.shape, dtype=object)
            words[i, j] = cells
            texts[name] = words
            continue
        grid = np.empty(filled.shape)
        grid[i, j] = values
        numbers[name] = grid
    return HazardGrid(path.name, lat, lon, numbers, texts, units, stepped, marks["source"],
                      marks["edition"])


def _degrees(cell: str) -> float:
    try:
        return float(cell)
    except ValueError:
        return np.nan


def _read_netcdf(path: Path) -> HazardGrid:
    def wrong(message: str, cure: str = "") -> InputError:
        return InputError([Fault(f"hazard file {path.name}", message, cure)])

    ordinary(path, lambda message, cure: wrong(
        message, cure or "name a file beside the project"), LARGEST_GRID)
    try:
        return _grid_of(path, wrong)
    except InputError:
        raise
    except OSError as error:
        raise wrong(f"cannot be read ({error.strerror or error})",
                    "name a file beside the project") from None
    except Exception:  # the reader trusts the file: a malformed one fails in many ways
        raise wrong("is not a classic NetCDF file, or is damaged",
                    "save it in the classic format (NetCDF 3), or as CSV") from None


def _grid_of(path: Path, wrong: Callable[..., InputError]) -> HazardGrid:
    """The grid of a file that can be read as classic NetCDF."""
    from scipy.io import netcdf_file

    with netcdf_file(path, "r", mmap=False) as file:
        variables = dict(file.variables)
        marks = {k: _text(getattr(file, k, b"")) for k in ("source", "edition")}
    if missing := [k for k, v in marks.items() if not v]:
        raise wrong(f"does not say its {' and '.join(missing)}", "set them as attributes")
    if not {"latitude", "longitude"} <= set(variables):
        raise wrong("has no variables latitude and longitude", "name them so")
    axes = [np.array(variables.pop(n)[:], dtype=float) for n in ("latitude", "longitude")]
    order = [np.argsort(a) for a in axes]
    numbers, units, stepped = {}, {}, set()
    for name, variable in variables.items():
        if tuple(variable.dimensions) != ("latitude", "longitude"):
            raise wrong(f"{name} is not on (latitude, longitude)",
                        "save it on these two dimensions, or leave it out")
        values = np.array(variable[:], dtype=float)
        empty = getattr(variable, "_FillValue", None)
        if empty is not None:
            values[values == empty] = np.nan
        numbers[name] = values[np.ix_(*order)]
        units[name] = _text(getattr(variable, "units", b""))
        if _text(getattr(variable, "interpolation", b"")) == "nearest":
            stepped.add(name)
    lat, lon = (a[o] for a, o in zip(axes, order, strict=True))
    if lat.size < 2 or lon.size < 2 or np.any(np.diff(lat) == 0) or np.any(np.diff(lon) == 0):
        raise wrong("needs two or more latitudes and longitudes, each once",
                    "leave no axis empty, and no value twice")
    return HazardGrid(path.name, lat, lon, numbers, {}, units, frozenset(stepped),
                      marks["source"], marks["edition"])


def _text(value: bytes | str) -> str:
    return value.decode("utf-8") if isinstance(value, bytes) else str(value)
