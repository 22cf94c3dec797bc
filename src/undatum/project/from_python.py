"""What plain numbers are in when a job comes from Python."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel

from undatum.errors import Fault, InputError
from undatum.units import UnitSystem

USUAL = "kN and m"


def in_units(
    data: Mapping[str, object], units: str | None, results_in: str | None
) -> tuple[dict[str, Any], str]:
    """The keys of a project with the system its plain numbers are in, and that of the results.

    Plain numbers are SI, or those of ``units`` where all of it is plain data, as read from a file.
    Raises InputError where objects stand in it, which hold SI numbers.
    """
    found = UnitSystem(results_in or units or USUAL).name
    if units is None:
        return {**data, "units": "N and m"}, found
    UnitSystem(units)
    if held := _objects(data, ""):
        raise InputError([Fault(
            "units", f"says what the plain numbers of a project file are in, but {held} is an "
            "object, whose plain numbers are SI",
            "leave it out; results_in names the system of the results")])
    return {**data, "units": units}, found


def _objects(value: object, at: str) -> str:
    """Where the first object stands among plain data; empty where there is none."""
    if isinstance(value, BaseModel):
        return at
    parts: list[tuple[str, object]] = []
    if isinstance(value, Mapping):
        parts = [(f"{at}.{key}" if at else str(key), one) for key, one in value.items()]
    elif isinstance(value, list | tuple):
        parts = [(f"{at}[{i}]", one) for i, one in enumerate(value)]
    return next((where for name, one in parts if (where := _objects(one, name))), "")
