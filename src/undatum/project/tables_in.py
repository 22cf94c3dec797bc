"""Tables of members, walls and sections beside a project file, put where they belong before it is
read."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from undatum.building.placed import member_rows, section_rows, wall_rows
from undatum.errors import Fault, InputError


def with_tables(data: dict[str, Any], folder: Path | None) -> tuple[dict[str, Any], list[Fault]]:
    """The data of a project with the tables that its building names, or what is wrong with them."""
    building = data.get("building")
    if not isinstance(building, dict):
        return data, []
    made, faults = dict(building), []
    for key, read in (("members_file", member_rows), ("walls_file", wall_rows),
                      ("sections_file", section_rows)):
        name = made.pop(key, None)
        if not isinstance(name, str):
            if name is not None:
                made[key] = name  # the model says what is wrong with it
            continue
        place = (folder or Path()) / name
        if not os.path.exists(place):
            faults.append(Fault(f"building.{key}", f"there is no file {name!r} beside the project",
                                "name a CSV file"))
            continue
        try:
            found: Any = read(place)
        except InputError as error:
            faults += [Fault(f"building.{key}", f"{name}"
                             + (f", line {f.line}" if f.line else "") + f": {f.message}", f.cure)
                       for f in error.faults]
            continue
        if key != "sections_file":
            into = "placed" if key == "members_file" else "walls"
            own = made.get(into, [])
            made[into] = [*(own if isinstance(own, list) else []), *found]
        else:
            own = made.get("sections", {})
            twice = [n for n in found if isinstance(own, dict) and n in own]
            faults += [Fault(f"building.{key}", f"the section {n!r} stands in {name} and in the "
                             "project", "name them apart") for n in twice]
            made["sections"] = {**(own if isinstance(own, dict) else {}), **found}
    return {**data, "building": made}, faults
