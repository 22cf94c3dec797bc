"""Results on disk: labelled arrays and records in one NetCDF file, written and read back whole.

Every labelled array is a variable with named dimensions and its labels beside it, in SI, so that
any program that reads NetCDF can use it. Everything else (answers, working, findings, the project
itself) stands in the text variable ``records`` as JSON, so that :func:`read_back` gives back what a
run gave. Nothing in the file is executed: records are made by their own constructors.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from enum import Enum
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any, Protocol, cast

import numpy as np
from scipy import sparse

from undatum.errors import Fault, InputError
from undatum.labelled import Labelled, own_axes
from undatum.project.schema import SignedProject, SiteProject
from undatum.record import FixedDict
from undatum.results.exchange import recover
from undatum.units import DIMENSIONS

FILE = "results.nc"
SUMMARY = "results.json"
FORMAT = "undatum results 2"
_KINDS: dict[str, Any] = {"b": bool, "i": np.intp, "u": np.intp}


class Stored(Protocol):
    """What can be kept: a record of records, with labelled arrays."""

    def arrays(self) -> Mapping[str, Labelled]: ...


def save(results: Stored, folder: str | Path) -> Path:
    """Keep results in ``folder`` as ``results.nc``. Raises InputError where it can't be written."""
    from undatum.results.exchange import placing

    with placing(folder) as work:
        write(results, work / FILE)
    return Path(folder)


def write(results: Stored, path: str | Path) -> str:
    """Write the file; returns the digest of its contents."""
    from scipy.io import netcdf_file  # on the first file only, off the start path

    arrays: dict[str, Any] = {}
    text = json.dumps(_plain(results, arrays, "results"), ensure_ascii=False, allow_nan=False,
                      separators=(",", ":"))
    named = own_axes(results.arrays())
    file: Any
    with netcdf_file(path, "w", mmap=False, version=2) as file:
        file.format_of = FORMAT
        for name, array in named.items():
            _write_labelled(file, name.replace(" ", "_"), array)
        for name, values in arrays.items():
            _write_array(file, name, values)
        _write_text(file, "records", text.encode("utf-8"))
    return digest(path)


def digest(path: str | Path) -> str:
    """SHA-256 of a file."""
    with Path(path).open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def read_back(folder: str | Path) -> object:
    """What a run gave, from the folder it was written to (or the ``results.nc`` in it).

    An unfinished run is completed or undone first. Raises InputError when there are no results, or
    the files in the folder are not those of one run.
    """
    from scipy.io import netcdf_file

    place = Path(folder)
    path = place if place.suffix == ".nc" else place / FILE
    file: Any
    try:
        if path.parent.is_dir():
            recover(path.parent)
        _same_run(path)
        with netcdf_file(path, "r", mmap=False) as file:
            if getattr(file, "format_of", b"").decode() != FORMAT:
                raise _wrong(path, "is not a file of results", "name the folder of a run")
            records = bytes(file.variables["records"][:].tobytes()).decode("utf-8")
            arrays = {name: _native(v[...]) for name, v in file.variables.items()
                      if name.startswith("a_")}
        return _restore(json.loads(records), arrays)
    except InputError:
        raise
    except FileNotFoundError:
        raise _wrong(path, "there is no such file", "run a project with --out, or save its "
                     "results") from None
    except OSError as error:
        raise _wrong(path, f"can't be read ({error.strerror or error})",
                     "run the project again") from None
    except Exception:  # what is read may hold anything, and readers raise anything of it
        raise _wrong(path, "is not a file of results, or not whole", "run the project again"
                     ) from None


def _same_run(path: Path) -> None:
    """The summary beside the file names its digest: refuse a mixture of two runs."""
    summary = path.with_name(SUMMARY)
    if not (summary.is_file() and path.is_file()):
        return
    try:
        said = json.loads(summary.read_text(encoding="utf-8"))["store"]["digest"]
    except (OSError, ValueError, KeyError, TypeError):
        return  # not a summary of ours
    if said != digest(path):
        raise _wrong(path, f"does not belong to the {SUMMARY} beside it: they are of two runs",
                     "run the project again")


def _wrong(path: Path, message: str, cure: str = "") -> InputError:
    return InputError([Fault(str(path), message, cure)])


def _native(values: Any) -> Any:
    """NetCDF is big-endian; arrays come back in the machine's own order."""
    return np.ascontiguousarray(values, dtype=values.dtype.newbyteorder("="))


# -- variables -------------------------------------------------------------------------------------


def _write_labelled(file: Any, name: str, array: Labelled) -> None:
    for one in array.axes:
        dimension = one.name.replace(" ", "_")
        if dimension in file.dimensions:
            continue
        file.createDimension(dimension, len(one))
        for label, texts in one.labels.items():
            raw = [t.encode("utf-8") for t in texts]
            width = max(1, *map(len, raw))
            if f"characters_{width}" not in file.dimensions:
                file.createDimension(f"characters_{width}", width)
            variable = file.createVariable(label.replace(" ", "_"), "c",
                                           (dimension, f"characters_{width}"))
            variable[:] = np.array(raw, dtype=f"S{width}").view("S1").reshape(len(raw), width)
            variable._Encoding = "utf-8"
    variable = file.createVariable(
        name, "d", tuple(one.name.replace(" ", "_") for one in array.axes))
    variable[...] = array.values
    variable.units = DIMENSIONS[array.dimension][0] or "1" if array.dimension else "1"
    coordinates = [k.replace(" ", "_") for one in array.axes for k in one.labels
                   if k != one.name]
    if coordinates:
        variable.coordinates = " ".join(coordinates)


def _write_array(file: Any, name: str, values: Any) -> None:
    """An array of a record: dimensions are named by their size, none twice in an array."""
    kinds = {"f": "d", "i": "i", "u": "i", "b": "b"}
    names: list[str] = []
    for size in values.shape:
        again = sum(values.shape[i] == size for i in range(len(names)))
        names.append(f"n{size}" if not again else f"n{size}_{again + 1}")
        if names[-1] not in file.dimensions:
            file.createDimension(names[-1], size)
    file.createVariable(name, kinds[values.dtype.kind], tuple(names))[...] = values


def _write_text(file: Any, name: str, raw: bytes) -> None:
    file.createDimension(f"{name}_length", len(raw))
    variable = file.createVariable(name, "c", (f"{name}_length",))
    variable[:] = np.frombuffer(raw, dtype="S1")


# -- records ---------------------------------------------------------------------------------------


def _plain(value: Any, arrays: dict[str, Any], at: str) -> Any:
    """A value as JSON; its arrays go to ``arrays``."""
    if value is None or (isinstance(value, bool | int) and not isinstance(value, Enum)):
        return value
    if isinstance(value, str) and not isinstance(value, Enum):
        return value
    if isinstance(value, float):
        return float(value) if math.isfinite(value) else {"number": repr(float(value))}
    if isinstance(value, Enum):
        return {"enum": _name_of(type(value)), "value": value.value}
    if isinstance(value, np.ndarray) and not value.size:  # no dimension of a file is nothing long
        return {"empty": value.dtype.kind, "shape": list(value.shape)}
    if isinstance(value, np.ndarray):
        name = f"a_{len(arrays)}"
        arrays[name] = value
        return {"array": name, "kind": value.dtype.kind, "shape": list(value.shape)}
    if sparse.issparse(value):
        whole = sparse.csr_array(cast(Any, value))
        return {"sparse": [_plain(np.asarray(part), arrays, at) for part in
                           (whole.data, whole.indices, whole.indptr)], "shape": list(whole.shape)}
    if isinstance(value, np.generic):
        return _plain(value.item(), arrays, at)
    if isinstance(value, tuple | list):
        return {"list": [_plain(v, arrays, at) for v in value]}
    if isinstance(value, Mapping):
        return {"map": [[_plain(k, arrays, at), _plain(v, arrays, at)]
                        for k, v in value.items()]}
    if isinstance(value, SiteProject):
        return _plain_project(value)
    if is_dataclass(value):
        return {"is": _name_of(type(value)), "of": {
            f.name: _plain(getattr(value, f.name), arrays, f"{at}.{f.name}")
            for f in fields(value) if f.init}}
    raise TypeError(f"{at} holds a {type(value).__name__}, which can't be kept")


def _plain_project(project: SiteProject) -> dict[str, Any]:
    """A project in SI, what was given alone; with the text of criteria of one's own."""
    return {"project": project.model_dump(mode="json", exclude_unset=True),
            "standard": project.standard, "criteria": project.criteria}


def _restore(value: Any, arrays: Mapping[str, Any]) -> Any:
    """The other way round."""
    if not isinstance(value, dict):
        return value
    if "is" in value:
        return _class(value["is"])(**{k: _restore(v, arrays) for k, v in value["of"].items()})
    if "list" in value:
        return tuple(_restore(v, arrays) for v in value["list"])
    if "map" in value:
        return FixedDict({_restore(k, arrays): _restore(v, arrays) for k, v in value["map"]})
    if "empty" in value:
        if math.prod(value["shape"]):
            raise ValueError("an empty array has a size")
        return np.zeros(value["shape"], dtype=_KINDS.get(value["empty"], np.float64))
    if "array" in value:
        found = arrays[value["array"]].reshape(value["shape"])
        return found.astype(_KINDS[value["kind"]]) if value["kind"] in _KINDS else found
    if "sparse" in value:
        data, indices, indptr = (_restore(part, arrays) for part in value["sparse"])
        return sparse.csr_array((data, indices, indptr), shape=tuple(value["shape"]))
    if "number" in value:
        return float(value["number"])
    if "enum" in value:
        return _class(value["enum"])(value["value"])
    return _restore_project(value)


def _restore_project(value: Mapping[str, Any]) -> SignedProject:
    from undatum.project.heights import stack_model
    from undatum.project.schema import project_model

    criteria = value["criteria"]
    model: type[SignedProject] = (stack_model if "stack" in value["project"] else project_model)(
        value["standard"], None, criteria)
    made = model.model_validate(value["project"])  # plain numbers are SI
    return made.keeping(criteria)


def _name_of(cls: type) -> str:
    return f"{cls.__module__}:{cls.__qualname__}"


@cache
def _class(name: str) -> Any:
    """A record class by its name, of this package or of one that registers a standard."""
    module, _, cls = name.partition(":")
    if module.partition(".")[0] not in _packages():
        raise InputError([Fault(FILE, f"holds a record of {module!r}, which is not known here",
                                "install the package that registers its standard")])
    found = getattr(import_module(module), cls)
    if not (isinstance(found, type) and (is_dataclass(found) or issubclass(found, Enum))):
        raise InputError([Fault(FILE, f"names {name!r}, which is no record",
                                "run the project again")])
    return found


def _packages() -> set[str]:
    from importlib.metadata import entry_points

    from undatum.standards import ENTRY_POINTS

    return {"undatum", *(point.module.partition(".")[0]
                         for point in entry_points(group=ENTRY_POINTS))}
