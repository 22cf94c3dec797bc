"""UBC 1997, 1629.6 and 1630.1.1: the lateral system, its factors, height limit and redundancy."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import nearest
from undatum.finding import Finding, Severity
from undatum.standards import common
from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.facts import Asked, ElementShare, StructureFacts
from undatum.standards.terms import Direction
from undatum.standards.ubc97.facts import SystemRow, system_rows
from undatum.table import Table, column, number_text
from undatum.units import beside_feet, factor
from undatum.working import Candidate, SectionKey, Working, smallest

_FOOT = factor("ft", "length")
FACTOR = (1.0, 20.0)  # what a factor of a lateral system lies in
FRAMES_ALONE = 0.25  # of the base shear: what frames of dual systems resist by themselves
HIGH = frozenset({"3", "4"})  # zones of high seismicity


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for UBC 1997."""

    row: str = Field(description='Row of Table 16-N, such as "3.1a" (steel special moment frame)')
    with_rows: tuple[str, ...] = Field(
        default=(), description="Rows of the other systems that resist along this direction "
        "(1630.4.4)"
    )
    regular: bool = Field(description="Structure is regular (1629.5), for the dynamic base shear")
    r_max: float | None = Field(
        default=None, gt=0, le=1,
        description="Largest element-story shear ratio in the lower two thirds "
        "of the height, for the redundancy factor (1630.1.1); from the line shears if left out"
    )
    computed_period: bool = Field(default=True, description="Use the computed period up to its cap")
    period_basis: Literal["height", "walls"] = Field(
        default="height",
        description="Method A by the table, or with C_t of the walls in the first story"
    )

    simplified: bool = Field(
        default=False, description="Simplified static force of low buildings (1630.2.3); whether "
        "it is open is checked. Say it in both directions"
    )

    @model_validator(mode="after")
    def _known(self) -> SystemInput:
        rows = system_rows()
        unknown = next((r for r in (self.row, *self.with_rows) if r not in rows), None)
        if unknown is not None:
            near = nearest(unknown, list(rows))
            raise PydanticCustomError(
                "system_row", "{row} is not a row of Table 16-N", {
                    "row": repr(unknown), "key": "row" if unknown == self.row else "with_rows",
                    "hint": f"{near!r} ({rows[near].system})" if near else "",
                    "standard": "ubc97"})
        return self


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, structure: StructureFacts
) -> dict[Direction, SystemAnswer]:
    """R, overstrength, redundancy and the height limit of zones 3 and 4, both directions."""
    return {d: _answer(d, given, site, structure, _bearing_cap(d, asked, site))
            for d, given in asked.items()}


def _bearing_cap(
    direction: Direction, asked: Mapping[Direction, SystemInput], site: SiteAnswer
) -> SystemRow | None:
    """The bearing wall system of the other direction alone, whose R is the most (1630.4.3)."""
    rows = system_rows()

    def bearing(d: Direction) -> list[SystemRow]:
        return [row for name in (asked[d].row, *asked[d].with_rows)
                if (row := rows[name]).group == "bearing wall"]

    other = next((d for d in asked if d != direction), None)
    if other is None or site.category not in HIGH or bearing(direction) or not bearing(other):
        return None
    return min(bearing(other), key=lambda row: row.R)


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, structure: StructureFacts,
    bearing: SystemRow | None,
) -> SystemAnswer:
    rows = [system_rows()[name] for name in (given.row, *given.with_rows)]
    row = rows[0]
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    if len(rows) == 1 and bearing is None:
        w.given("R", row.R, meaning="response modification factor", clause="Table 16-N",
                branch=f"row {row.row}, {row.group}: {row.system}", within=FACTOR)
    else:
        for i, one in enumerate(rows, 1):
            w.given(f"R_{i}", one.R, meaning="response modification factor", clause="Table 16-N",
                    branch=f"row {one.row}, {one.group}: {one.system}", within=FACTOR)
        candidates = [Candidate(f"row {one.row}", f"R_{i}", f"row {one.row} governs",
                                "1630.4.4" if len(rows) > 1 else "Table 16-N")
                      for i, one in enumerate(rows, 1)]
        if bearing is not None:
            w.given("R_b", bearing.R, clause="1630.4.3", within=FACTOR,
                    meaning="that of the bearing wall system in the other direction",
                    branch=f"row {bearing.row}: {bearing.system}")
            candidates.append(Candidate("bearing wall", "R_b", "bearing walls in the other "
                                        "direction alone, zones 3 and 4", "1630.4.3"))
        w.pick("R", smallest(*candidates), meaning="response modification factor in use",
               within=FACTOR)
    overstrength = w.given(
        "Omega_0", max(one.overstrength for one in rows), meaning="overstrength factor",
        clause="Table 16-N", within=FACTOR,
        branch="the largest of the systems" if len(rows) > 1 else "")
    divisor = w.compute("R_I", "R / I", meaning="divisor of elastic forces", clause="1630.2.1")
    amplifier = w.compute("C_M", "0.7 * R", meaning="amplification of displacement",
                          clause="1630.9.2, Eq. 30-17")
    rho, findings = _redundancy(w, direction, row, given.r_max, site, structure)
    return SystemAnswer(
        direction, row.row, row.system, row.group, divisor, amplifier, overstrength, rho,
        w.close(), (*(_height(direction, one, site, structure) for one in rows), *findings),
        w.value("R"),
        frames_alone=(FRAMES_ALONE, "1629.6.5") if any(one.group == "dual" for one in rows)
        else None,
    )


def _redundancy(
    w: Working, direction: Direction, row: SystemRow, r_max: float | None, site: SiteAnswer,
    structure: StructureFacts,
) -> tuple[float, tuple[Finding, ...]]:
    """rho = 2 - 20 / (r_max sqrt(A_B)), from 1.0 to 1.5 (1630.1.1).

    Where the project gives no r_max it is that of members and lines: a brace, the columns of a bay,
    walls by 10 over their length in ft, other lines as if one element took all of their shear, an
    upper bound.
    """
    clause, within = "1630.1.1, Eq. 30-3", (1.0, 1.5)
    if site.category not in HIGH:
        return w.given("rho", 1.0, meaning="redundancy factor", clause="1630.1.1", within=within,
                       branch=f"zone {site.category}"), ()
    lines = structure.elements.get(direction, ())
    bound = False
    if r_max is not None:
        w.given("r_max", r_max, meaning="largest element-story shear ratio", clause="1630.1.1",
                branch="given in the project", within=(0.0, 10.0))
    elif lines:
        ratio, worst = max(((_element_ratio(e), e) for e in lines), key=lambda pair: pair[0])
        bound = worst.length is None and not worst.single
        kind = "a wall, times 10 over its length in ft" if worst.length is not None else \
            "all of it taken for one element, an upper bound" if bound else \
            "one brace, or the columns of one bay"
        w.given("r_max", ratio, meaning="largest element-story shear ratio", clause="1630.1.1",
                branch=f"line {worst.line}, story {worst.story}: {kind}", within=(0.0, 10.0))
    else:
        return w.given("rho", 1.5, meaning="redundancy factor", clause="1630.1.1", within=within,
                       branch="r_max is not known: the factor need not exceed 1.5"), ()
    w.given("A_B", common.base_area_of(structure) / _FOOT**2, "ft^2", meaning="ground floor area",
            clause="1630.1.1")
    share = "0.8 * " if row.group == "dual" else ""
    rho = w.compute("rho", f"clip({share}(2 - 20 / (r_max * sqrt(A_B))), 1, 1.5)",
                    meaning="redundancy factor", clause=clause, empirical=True, within=within)
    if row.special and rho > 1.25 * (1 + 1e-12):
        return rho, (Finding(
            "redundancy", "special moment frames",
            Severity.WARNING if bound else Severity.EXCEEDED,
            f"rho = {rho:.3f} is above 1.25" + (
                ", by an upper bound of r_max alone." if bound else "."), "1630.1.1",
            "Give r_max, or the members of the frames." if bound else "Add bays of frames.",
            rho, 1.25),)
    return rho, ()


def _element_ratio(element: ElementShare) -> float:
    """Share of the story shear; for a wall times 10 over its length in ft."""
    if element.length is None:
        return element.share
    return element.share * 10.0 / (element.length / _FOOT)


def _height(
    direction: Direction, row: SystemRow, site: SiteAnswer, structure: StructureFacts
) -> Finding:
    name, where, clause = f"{row.system} ({row.row})", f"system {direction}", "Table 16-N"
    zone = f"zone {site.category}"
    if site.category in row.barred:
        return Finding("height limit", where, Severity.EXCEEDED,
                       f"{name} is not permitted in {zone}."
                       + ("" if row.certain else " Check this against the print."), clause,
                       "Choose a system that is.")
    if site.category not in HIGH or row.height == "NL":
        return Finding("height limit", where, Severity.OK,
                       f"{name} has no height limit in {zone}.", clause)
    most = float(row.height) * _FOOT
    over = structure.height > most * (1 + 1e-9)
    doubt = "" if row.certain else " Check this limit against the print."
    return Finding(
        "height limit", where, Severity.EXCEEDED if over else Severity.OK,
        f"{name}: {number_text(structure.height / _FOOT)} ft against {row.height} ft"
        f"{beside_feet(structure.height, most, between=' against ')}.{doubt}",
        clause, "Choose another system." if over else "", structure.height, most, "length")


def table() -> Table:
    """Table 16-N whole."""
    rows = list(system_rows().values())
    return Table(
        "systems",
        "UBC 1997, Table 16-N: heights in ft for zones 3 and 4",
        (
            column("row", "", [r.row for r in rows]),
            column("group", "", [r.group for r in rows]),
            column("system", "", [r.system for r in rows]),
            column("R", "ratio", [r.R for r in rows], 3),
            column("Omega_0", "ratio", [r.overstrength for r in rows], 3),
            column("height", "", [r.height + ("" if r.certain else "?") for r in rows]),
        ),
        note="NL: not limited. NP: not permitted. ?: check this limit against the print.",
    )
