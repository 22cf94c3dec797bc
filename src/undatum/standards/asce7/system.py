"""ASCE 7, 12.2 and 12.3.4: the lateral system, its factors, height limits and redundancy."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import Fault, InputError, nearest, one_of
from undatum.finding import Finding, Severity
from undatum.record import FixedDict
from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.asce7.facts import Edition, SystemRow, system_rows
from undatum.standards.facts import Asked, StructureFacts
from undatum.standards.terms import Direction
from undatum.table import Table, column, number_text
from undatum.units import beside_feet, factor
from undatum.working import Candidate, SectionKey, Working, largest

FACTOR = (1.0, 20.0)  # what a factor of a lateral system lies in

FRAMES_ALONE = 0.25  # of the design forces: what the frames of dual systems resist by themselves

PeriodRow = Literal[
    "steel moment frame",
    "concrete moment frame",
    "steel eccentrically braced frame",
    "steel buckling-restrained braced frame",
    "other",
]


DiaphragmSystem = Literal[
    "cast-in-place concrete, shear-controlled",
    "cast-in-place concrete, flexure-controlled",
    "precast concrete, elastic design option",
    "precast concrete, basic design option",
    "precast concrete, reduced design option",
    "wood sheathed, shear-controlled",
]
#: What collectors take of the alternative diaphragm forces, in place of the overstrength.
COLLECTORS = 1.5


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for ASCE 7."""

    edition: ClassVar[str] = "16"

    row: str = Field(description='Row of Table 12.2-1, such as "C.1" (steel special moment frame)')
    period_row: PeriodRow | None = Field(
        default=None, description="Row of Table 12.8-2 where it does not follow from the system"
    )
    with_rows: tuple[str, ...] = Field(
        default=(), description="Rows of the other systems that resist along this direction, "
        "beside or above this one (12.2.3)"
    )
    computed_period: bool = Field(
        default=True,
        description="Use the computed period up to its cap; otherwise the approximate one"
    )
    period_basis: Literal["height", "stories", "walls"] = Field(
        default="height",
        description="Approximate period by system and height, by the number of stories "
        "(moment frames), or by the walls of the lowest story (12.8.2.1)"
    )
    cap_on_sds: bool = Field(
        default=False, description="Use the cap on the short-period acceleration of short regular "
        "buildings (12.8.1.3); its conditions are checked"
    )
    redundancy: float | None = Field(
        default=None, ge=1.0, le=1.3,
        description="Redundancy factor, 12.3.4; by design category where left out",
    )
    redundancy_reason: str = Field(
        default="", description="Why the redundancy factor is 1.0 (12.3.4.2)"
    )
    beta: float = Field(
        default=1.0, gt=0, le=1, description="Ratio of story shear demand to capacity, 12.8.7"
    )
    diaphragm: DiaphragmSystem | None = Field(
        default=None, description="What the diaphragms are, for the alternative forces of 12.10.3 "
        "(2016 and 2022), which precast ones need in categories C to F; 12.10.1 if left out")

    @model_validator(mode="after")
    def _known(self) -> SystemInput:
        rows = system_rows(self.edition)
        unknown = next((r for r in (self.row, *self.with_rows) if r not in rows), None)
        if unknown is not None:
            near = nearest(unknown, list(rows)) or _by_name(unknown, rows)
            raise PydanticCustomError(
                "system_row", "{row} is not a row of Table 12.2-1", {
                    "row": repr(unknown), "key": "row" if unknown == self.row else "with_rows",
                    "hint": f"{near!r} ({rows[near].system})" if near else "",
                    "standard": f"asce7-{self.edition}"})
        if self.diaphragm is not None and self.edition in ("05", "10"):
            raise PydanticCustomError("reason", "diaphragm has no rule in this edition; take it "
                                                "out")
        if self.redundancy not in (None, 1.0, 1.3):
            raise PydanticCustomError("reason", "redundancy is another value than 12.3.4 has; "
                                                "give 1.0 or 1.3")
        if self.redundancy == 1.0 and not self.redundancy_reason:
            raise PydanticCustomError(
                "reason",
                "redundancy = 1.0 has no reason; say in redundancy_reason which condition of "
                "12.3.4.2 is met",
            )
        return self


class SystemInput05(SystemInput):
    """A ``[system.X]`` or ``[system.Y]`` table for ASCE 7-05."""

    edition: ClassVar[str] = "05"


class SystemInput10(SystemInput):
    """A ``[system.X]`` or ``[system.Y]`` table for ASCE 7-10."""

    edition: ClassVar[str] = "10"


class SystemInput22(SystemInput):
    """A ``[system.X]`` or ``[system.Y]`` table for ASCE 7-22."""

    edition: ClassVar[str] = "22"


SYSTEM_INPUTS: Mapping[str, type[SystemInput]] = FixedDict({
    "05": SystemInput05, "10": SystemInput10, "16": SystemInput, "22": SystemInput22})


def _by_name(text: str, rows: Mapping[str, SystemRow]) -> str:
    """The first row whose name holds every word of ``text``."""
    words = text.lower().split()
    for row in rows.values():
        if words and all(word in f"{row.group} {row.system}".lower() for word in words):
            return row.row
    return ""


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts,
    edition: Edition,
) -> dict[Direction, SystemAnswer]:
    """R, overstrength, Cd, redundancy and the height limit of both directions."""
    return {d: _answer(d, given, site, facts, edition) for d, given in asked.items()}


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, facts: StructureFacts,
    edition: Edition,
) -> SystemAnswer:
    row = system_rows(edition.key)[given.row]
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    table = "12.2.1, Table 12.2-1"
    branch = f"row {row.row}, {row.group}: {row.system}"
    others = [system_rows(edition.key)[name] for name in given.with_rows]
    if others:
        overstrength = _combined(w, [row, *others], table, edition)
    else:
        w.given("R", row.R, meaning="response modification coefficient", clause=table,
                branch=branch, within=FACTOR)
        overstrength = w.given("Omega_0", row.overstrength, meaning="overstrength factor",
                               clause=table, within=FACTOR)
        w.given("C_d", row.Cd, meaning="deflection amplification factor", clause=table,
                within=FACTOR)
    divisor = w.compute("R_e", "R / I_e", meaning="divisor of elastic forces", clause="12.8.1.1")
    amplifier = w.compute("C_e", "C_d / I_e", meaning="amplification of displacement",
                          clause=edition.equation("12.8.6", "12.8-15"))
    alike = all(other.group == row.group for other in others)
    group = row.group if alike else "combined systems"
    severe = site.category in "DEF"
    redundancy = w.given(
        "rho", given.redundancy or (1.3 if severe else 1.0), meaning="redundancy factor",
        clause="12.3.4", branch=given.redundancy_reason or (
            "12.3.4.2: category D, E or F" if severe else
            "12.3.4.1: category A, B or C"),
        within=(1.0, 1.3))
    w.given("beta", given.beta, meaning="story shear demand over capacity", clause="12.8.7",
            within=(0.0, 1.0))
    return SystemAnswer(
        direction, row.row, row.system, group, divisor, amplifier, overstrength,
        redundancy, w.close(),
        tuple(_height(direction, r, site, facts, edition, alone=not others)
              for r in (row, *others)), w.value("R"),
        not others and _raised(row, site, facts, edition) is not None,
        collectors=None if given.diaphragm is None or site.category == "A" else COLLECTORS,
        frames_alone=(FRAMES_ALONE, "12.2.5.1") if site.category != "A" and any(
            r.group.startswith("dual") for r in (row, *others)) else None,
    )


#: Rows that 12.2.5.4 lets rise, by edition: steel eccentrically and special concentrically braced
#: frames, buckling-restrained braces, special plate shear walls, special concrete shear walls.
RAISED: Mapping[str, tuple[str, ...]] = FixedDict({
    "10": ("A.1", "B.1", "B.2", "B.4", "B.25", "B.26"),
    "16": ("A.1", "B.1", "B.2", "B.4", "B.25", "B.26"),
    "22": ("A.1", "B.1", "B.2", "B.4", "B.27", "B.28")})
RAISED_TO = {"D": 240, "E": 240, "F": 160}  # ft
ONE_PLANE = 0.60  # of the seismic forces of a direction


def _raised(
    row: SystemRow, site: SiteAnswer, facts: StructureFacts, edition: Edition
) -> int | None:
    """The raised limit in ft where a building makes use of it (12.2.5.4): one higher than the table
    permits and within it."""
    category = site.category
    if category not in RAISED_TO or row.row not in RAISED.get(edition.key, ()):
        return None
    foot, most = factor("ft", "length"), RAISED_TO[category]
    within = float(row.limits[category]) * foot * (1 + 1e-9) < facts.height \
        <= most * foot * (1 + 1e-9)
    return most if within else None


def _combined(w: Working, rows: list[SystemRow], table: str, edition: Edition) -> float:
    """Several systems in one direction (12.2.3): least R, with its own C_d and overstrength.

    The 2005 edition takes the largest C_d and overstrength.
    """
    for i, row in enumerate(rows, 1):
        branch = f"row {row.row}, {row.group}: {row.system}"
        w.given(f"R_{i}", row.R, meaning="response modification coefficient", clause=table,
                branch=branch, within=FACTOR)
        w.given(f"Omega_0{i}", row.overstrength, meaning="overstrength factor", clause=table,
                within=FACTOR)
        w.given(f"C_d{i}", row.Cd, meaning="deflection amplification factor", clause=table,
                within=FACTOR)

    def all_of(symbol: str) -> str:
        return ", ".join(f"{symbol}{i}" for i in range(1, len(rows) + 1))

    clause = "12.2.3.1, 12.2.3.3"
    w.compute("R", f"min({all_of('R_')})", meaning="least of the systems in this direction",
              clause=clause, branch="beside each other the least R; one above the other the R of "
              "the lower part may not be larger than above. The same for the whole height here",
              within=FACTOR)
    if not edition.rule("combined_by_governing_r"):
        found = w.compute("Omega_0", f"max({all_of('Omega_0')})", clause=clause,
                          meaning="largest overstrength factor", within=FACTOR)
        w.compute("C_d", f"max({all_of('C_d')})", meaning="largest amplification factor",
                  clause=clause, within=FACTOR)
        return found
    least = min(w.value(f"R_{i}") for i in range(1, len(rows) + 1))
    own = [i for i in range(1, len(rows) + 1) if w.value(f"R_{i}") == least]

    def governing(symbol: str, prefix: str, meaning: str) -> float:
        return w.pick(symbol, largest(*(
            Candidate(f"row {rows[i - 1].row}", f"{prefix}{i}", f"of row {rows[i - 1].row}, whose "
                      "R governs") for i in own)), meaning=meaning, clause="12.2.3.3",
            within=FACTOR).value

    found = governing("Omega_0", "Omega_0", "overstrength factor with the governing R")
    governing("C_d", "C_d", "amplification factor with the governing R")
    return found


def period_row(direction: Direction, asked: SystemInput, edition: Edition) -> str:
    """The row of Table 12.8-2 that belongs to a system: as given, or that of its own row.

    Systems of several kinds are "all other structural systems". Raises InputError for a row that
    the edition does not have.
    """
    rows = system_rows(edition.key)
    kinds = {rows[name].period for name in (asked.row, *asked.with_rows)}
    found = asked.period_row or (kinds.pop() if len(kinds) == 1 else "other")
    known = edition.table("period")
    if found not in known:
        raise InputError([Fault(
            f"system.{direction}.period_row", f"{found!r} is no row of Table 12.8-2 of ASCE 7-"
            f"{edition.key}", one_of(found, known, "choose from"))])
    return found


def _height(
    direction: Direction, row: SystemRow, site: SiteAnswer, facts: StructureFacts,
    edition: Edition, *, alone: bool,
) -> Finding:
    where, clause = f"system {direction}", "12.2.1, Table 12.2-1"
    name = f"{row.system} ({row.row})"
    limit = "NL" if site.category == "A" else row.limits[site.category]
    if limit == "NP":
        return Finding(
            "height limit", where, Severity.EXCEEDED,
            f"{name} is not permitted in seismic design category {site.category}.", clause,
            "Choose a system the category permits, or show that an exception of 12.2.5 applies.",
        )
    if limit == "NL":
        return Finding("height limit", where, Severity.OK,
                       f"{name} has no height limit in category {site.category}.", clause)
    most = float(limit) * factor("ft", "length")
    over = facts.height > most * (1 + 1e-9)
    feet = number_text(facts.height / factor("ft", "length"))
    beside = beside_feet(facts.height, most, between=" against ")
    raised = _raised(row, site, facts, edition) if alone else None
    if raised is not None:
        plane, share = facts.strongest.get(direction, ("", 0.0))
        fine = 0 < share <= ONE_PLANE + 1e-9
        return Finding(
            "height limit", where, Severity.NOTE if fine else Severity.EXCEEDED,
            f"{name}: structural height {feet} ft, above the {limit} ft of the table. "
            + (f"The strongest plane, {plane}, takes {share:.0%} of a story shear: up to {raised} "
               "ft are permitted without an extreme torsional irregularity (raised height limit)."
               if fine else f"The {raised} ft of 12.2.5.4 do not hold: "
               + (f"plane {plane} takes {share:.0%} of a story shear, more than 60 %." if share
                  else "what one plane takes is not known.")),
            "12.2.5.4", "" if fine else "Spread the forces over more planes, or choose another "
            "system.", share / ONE_PLANE if share else None, 1.0 if share else None)
    return Finding(
        "height limit", where, Severity.EXCEEDED if over else Severity.OK,
        f"{name}: structural height {feet} ft against {limit} ft{beside} in category "
        f"{site.category}.",
        clause,
        "Choose another system, or show that an exception of 12.2.5 applies." if over else "",
        facts.height, most, "length",
    )


def table(edition: Edition) -> Table:
    """Table 12.2-1 whole, as a table to print or to search."""
    rows = list(system_rows(edition.key).values())
    return Table(
        "systems",
        f"{edition.title}, Table 12.2-1: heights in ft by design category",
        (
            column("row", "", [r.row for r in rows]),
            column("group", "", [r.group for r in rows]),
            column("system", "", [r.system for r in rows]),
            column("R", "ratio", [r.R for r in rows], 3),
            column("Omega_0", "ratio", [r.overstrength for r in rows], 3),
            column("C_d", "ratio", [r.Cd for r in rows], 3),
            *(column(c, "", [r.limits[c] for r in rows]) for c in "BCDEF"),
        ),
        note="NL: not limited. NP: not permitted. Exceptions of 12.2.5 are not in the numbers."
        + (" Row numbers of this edition are counted, not read: check them against the print."
           if edition.rule("rows_counted") else ""),
    )
