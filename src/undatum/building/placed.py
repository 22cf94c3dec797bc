"""Members placed one by one, by the coordinates of their ends, and the tables they come from.

The other way in beside rules. Where a member stands on axes it is the one that a rule would make
there, name and all; later rules change it like any other.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic import Field, model_validator

from undatum.building.axes import advice
from undatum.building.lines import Bearing
from undatum.building.rules import Hinged, Kind, Releases
from undatum.building.sections import CrossSection, GivenProperties
from undatum.building.walls import Wall
from undatum.described import Described, Given
from undatum.errors import Fault, InputError, nearest
from undatum.textfile import csv_rows, read_text
from undatum.units import Length, Share


class Placed(Described):
    """A member between two points of levels.

    >>> ud.Placed(name="B1", kind="beam", section="B50", start=(0, 0, 3.5),
    ...           end=(6, 0, 3.5)).end
    (6.0, 0.0, 3.5)
    """

    name: str = Field(min_length=1, max_length=80, description="Name, unique among those placed")
    kind: Kind = Field(description="column, beam or brace")
    section: str = Field(min_length=1, description="Name of a section")
    start: tuple[Length, Length, Length] = Field(description="Start [x, y, z], z of a level")
    end: tuple[Length, Length, Length] = Field(description="End [x, y, z], z of a level")
    turned: Bearing = Field(default=0.0, description="Angle from X to the local y of a column")
    hinged: Hinged | None = Field(
        default=None, description="Ends without bending moments; both for braces if left out")
    released: Releases | None = Field(
        default=None, description="Single actions that the ends don't pass on, beside hinges")
    stiff_ends: Share = Field(
        default=0.0, description="Share of the size of the meeting members that doesn't deform")
    secondary: bool | None = Field(
        default=None, description="true: it carries gravity and no lateral force")
    transfer: bool = Field(default=False, description="Allow a beam to carry this column "
                                                      "(transfer)")

    if TYPE_CHECKING:  # made by tools/make_constructors.py

        def __init__(
            self, *, name: str, kind: Kind, section: str, start: Sequence[Given],
            end: Sequence[Given], turned: Given = 0.0, hinged: Hinged | None = None,
            released: Releases | None = None, stiff_ends: Given = 0.0,
            secondary: bool | None = None, transfer: bool = False,
        ) -> None: ...

    @model_validator(mode="after")
    def _whole(self) -> Placed:
        if max(abs(a - b) for a, b in zip(self.start, self.end, strict=True)) < 1e-3:
            raise advice(f"{self.name!r} has no length; give it two ends that lie apart")
        if self.turned and self.kind != "column":
            raise advice("turned goes with columns only; take it out")
        if self.secondary and self.kind == "brace":
            raise advice("secondary goes with columns and beams; leave a secondary brace out")
        if self.transfer and self.kind != "column":
            raise advice("transfer goes with columns only; take it out")
        return self


_HEAD = re.compile(r"^\s*(?P<name>.*?)\s*(?:\((?P<unit>[^()]*)\))?\s*$")
_COORDINATES = tuple(f"{end} {c}" for end in ("start", "end") for c in "xyz")
_MEMBER = ("member", "kind", "section", *_COORDINATES, "turned", "hinged", "stiff ends",
           "secondary", "transfer")
_SECTION = ("section", "material", "area", "second moment about y", "second moment about z",
            "torsion constant", "shear area along y", "shear area along z", "width", "depth",
            "tilt")


_WALL = ("wall", "start x", "start y", "end x", "end y", "levels", "thickness", "material")


def _rows(path: Path, known: Sequence[str], needed: Sequence[str]) -> list[tuple[int, Any]]:
    """Rows of a table by column name, numbers with the unit of their column. Raises InputError."""
    def wrong(message: str, cure: str = "", line: int | None = None) -> InputError:
        return InputError([Fault(path.name, message, cure, line)])

    rows = csv_rows(read_text(path, wrong), wrong)
    if not rows:
        raise wrong("is empty", f"give columns such as {', '.join(needed)}")
    line, head = rows[0]
    names, units = [], []
    for cell in head:
        found = _HEAD.match(cell)
        assert found is not None
        names.append(found["name"])
        units.append(found["unit"] or "")
    for name in needed:
        if name not in names:
            near = nearest(name, names)
            raise wrong(f"has no column {name!r}"
                        + (f"; did you mean {near!r} to be it?" if near else ""),
                        f"columns known here: {', '.join(known)}", line)
    found_rows = []
    for number, row in rows[1:]:
        if len(row) != len(head):
            raise wrong(f"has {len(row)} cells where the header has {len(head)}",
                        "give every column a cell, an empty one where it says nothing", number)
        found_rows.append((number, {
            name: f"{cell.strip()} {unit}".strip() if cell.strip() else ""
            for name, unit, cell in zip(names, units, row, strict=True)}))
    return found_rows


def member_rows(path: str | Path) -> list[dict[str, Any]]:
    """Members of a CSV table as the keys of :class:`Placed`.

    Columns ``member``, ``kind``, ``section``, ``start x`` to ``end z`` with their unit behind
    them, such as ``start x (m)``; ``turned``, ``hinged``, ``stiff ends``, ``secondary`` and
    ``transfer`` if wanted. Others are passed over. Raises InputError naming the line.
    """
    found = []
    for _, row in _rows(Path(path), _MEMBER, ("member", "kind", "section", *_COORDINATES)):
        one: dict[str, Any] = {
            "name": row["member"], "kind": row["kind"], "section": row["section"],
            "start": [_number(row[f"start {c}"]) for c in "xyz"],
            "end": [_number(row[f"end {c}"]) for c in "xyz"]}
        for column, key in (("turned", "turned"), ("stiff ends", "stiff_ends")):
            if row.get(column):
                one[key] = _number(row[column])
        if row.get("hinged"):
            one["hinged"] = row["hinged"]
        for key in ("secondary", "transfer"):
            if row.get(key):
                one[key] = row[key].casefold() in ("yes", "true")
        found.append(one)
    return found


def section_rows(path: str | Path) -> dict[str, dict[str, Any]]:
    """Sections of a CSV table by name, as the keys of a section by properties.

    Columns ``section``, ``material``, ``area``, ``second moment about y`` and ``z``, ``torsion
    constant``, and if wanted ``shear area along y`` and ``z``, ``width`` and ``depth``, units
    behind the names: what the table of sections of a run holds. Raises InputError.
    """
    keys = {"area": "area", "second moment about y": "bending_y",
            "second moment about z": "bending_z", "torsion constant": "torsion",
            "shear area along y": "shear_y", "shear area along z": "shear_z", "width": "width",
            "depth": "depth", "tilt": "tilt"}
    found: dict[str, dict[str, Any]] = {}
    for line, row in _rows(Path(path), _SECTION, _SECTION[:6]):
        if row["section"] in found:
            raise InputError([Fault(Path(path).name, f"the section {row['section']!r} stands "
                                    "twice", "give each its own name", line)])
        values: dict[str, Any] = {}
        for column, key in keys.items():
            if row.get(column):
                try:
                    values[key] = float(row[column])
                except ValueError:
                    values[key] = row[column]
        found[row["section"]] = {"material": row["material"], "properties": values}
    return found


def read_members(path: str | Path) -> tuple[Placed, ...]:
    r"""Members of a CSV table, as ``undatum members PROJECT --table`` writes it; see the tour.

    Numbers are in the unit behind the name of their column, SI without one. Raises InputError.

    >>> path = folder / "members.csv"
    >>> _ = path.write_text("member,kind,section,start x (m),start y (m),start z (m),"
    ...                     "end x (m),end y (m),end z (m)\nC1,column,C40,0,0,0,0,0,3\n")
    >>> ud.read_members(path)[0].end
    (0.0, 0.0, 3.0)
    """
    return tuple(Placed(**row) for row in member_rows(path))


def read_sections(path: str | Path) -> dict[str, CrossSection]:
    r"""Sections of a CSV table by name. Raises InputError.

    >>> path = folder / "sections.csv"
    >>> _ = path.write_text("section,material,area (m2),second moment about y (m4),"
    ...                     "second moment about z (m4),torsion constant (m4)\n"
    ...                     "C40,C30/37,0.16,0.00213,0.00213,0.0036\n")
    >>> list(ud.read_sections(path))
    ['C40']
    """
    return {name: CrossSection(material=one["material"],
                               properties=GivenProperties(**one["properties"]))
            for name, one in section_rows(path).items()}


def wall_rows(path: str | Path) -> list[dict[str, Any]]:
    """Walls of a CSV table as the keys of :class:`undatum.Wall`, without openings.

    Columns ``wall``, ``start x`` to ``end y`` and ``thickness`` with their unit behind them,
    ``levels`` (such as ``L1..L4``; all if empty) and ``material``. Raises InputError naming the
    line.
    """
    found = []
    needed = tuple(name for name in _WALL if name != "levels")
    for _, row in _rows(Path(path), _WALL, needed):
        one: dict[str, Any] = {
            "name": row["wall"], "thickness": _number(row["thickness"]),
            "material": row["material"],
            "between": [[_number(row[f"{end} {c}"]) for c in "xy"] for end in ("start", "end")]}
        if row.get("levels"):
            one["levels"] = row["levels"]
        found.append(one)
    return found


def _number(text: str) -> Any:
    try:
        return float(text)
    except ValueError:
        return text


def read_walls(path: str | Path) -> tuple[Wall, ...]:
    r"""Walls of a CSV table; give those with openings an entry of their own. Raises InputError.

    >>> path = folder / "walls.csv"
    >>> _ = path.write_text("wall,start x (m),start y (m),end x (m),end y (m),levels,"
    ...                     "thickness (m),material\nW1,0,0,6,0,all,0.25,C30/37\n")
    >>> ud.read_walls(path)[0].thickness
    0.25
    """
    return tuple(Wall(**row) for row in wall_rows(path))
