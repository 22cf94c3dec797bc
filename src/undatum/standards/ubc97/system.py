"""UBC 1997, 1629.6 and 1630.1.1: the lateral system, its factors, height limit and redundancy."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import nearest
from undatum.finding import Finding, Severity
from undatum.standards.answers import Asked, Direction, SiteAnswer, StructureFacts, SystemAnswer
from undatum.standards.ubc97.facts import SystemRow, system_rows
from undatum.table import Table, column, number_text
from undatum.units import factor
from undatum.working import SectionKey, Working

_FOOT = factor("ft", "length")
FACTOR = (1.0, 20.0)  # what a factor of a lateral system lies in
HIGH = frozenset({"3", "4"})  # zones of high seismicity


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for UBC 1997."""

    row: str = Field(description='Row of Table 16-N, such as "3.1a" (steel special moment frame)')
    regular: bool = Field(description="Structure is regular (1629.5), for the dynamic base shear")
    r_max: float | None = Field(
        default=None, gt=0, le=1,
        description="Largest element-story shear ratio in the lower two thirds "
        "of the height, for the redundancy factor (1630.1.1)"
    )
    computed_period: bool = Field(default=True, description="Use the computed period up to its cap")
    period_basis: Literal["height", "walls"] = Field(
        default="height",
        description="Method A by the table, or with C_t of the walls in the first story"
    )

    @model_validator(mode="after")
    def _known(self) -> SystemInput:
        rows = system_rows()
        if self.row not in rows:
            near = nearest(self.row, list(rows))
            raise PydanticCustomError(
                "system_row", "{row} is not a row of Table 16-N{hint}",
                {"row": repr(self.row), "hint": f"; did you mean {near!r} ({rows[near].system})?"
                 if near else ""})
        return self


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, structure: StructureFacts
) -> dict[Direction, SystemAnswer]:
    """R, overstrength, redundancy and the height limit of zones 3 and 4, both directions."""
    return {d: _answer(d, given, site, structure) for d, given in asked.items()}


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, structure: StructureFacts
) -> SystemAnswer:
    row = system_rows()[given.row]
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    w.given("R", row.R, meaning="response modification factor", clause="Table 16-N",
            branch=f"row {row.row}, {row.group}: {row.system}", within=FACTOR)
    overstrength = w.given("Omega_0", row.overstrength, meaning="overstrength factor",
                           clause="Table 16-N", within=FACTOR)
    divisor = w.compute("R_I", "R / I", meaning="divisor of elastic forces", clause="1630.2.1")
    amplifier = w.compute("C_M", "0.7 * R", meaning="amplification of displacement",
                          clause="1630.9.2, Eq. 30-17")
    rho, findings = _redundancy(w, row, given.r_max, site, structure)
    return SystemAnswer(
        direction, row.row, row.system, row.group, divisor, amplifier, overstrength, rho,
        w.close(), (_height(direction, row, site, structure), *findings),
    )


def _redundancy(
    w: Working, row: SystemRow, r_max: float | None, site: SiteAnswer, structure: StructureFacts
) -> tuple[float, tuple[Finding, ...]]:
    """rho = 2 - 20 / (r_max sqrt(A_B)), from 1.0 to 1.5 (1630.1.1)."""
    clause, within = "1630.1.1, Eq. 30-3", (1.0, 1.5)
    if site.category not in HIGH:
        return w.given("rho", 1.0, meaning="redundancy factor", clause="1630.1.1", within=within,
                       branch=f"zone {site.category}"), ()
    if r_max is None:
        return w.given("rho", 1.5, meaning="redundancy factor", clause="1630.1.1", within=within,
                       branch="r_max is not given: the factor need not exceed 1.5"), ()
    w.given("r_max", r_max, meaning="largest element-story shear ratio", clause="1630.1.1",
            branch="given in the project")
    w.given("A_B", structure.base_area / _FOOT**2, "ft^2", meaning="ground floor area",
            clause="1630.1.1")
    share = "0.8 * " if row.group == "dual" else ""
    rho = w.compute("rho", f"clip({share}(2 - 20 / (r_max * sqrt(A_B))), 1, 1.5)",
                    meaning="redundancy factor", clause=clause, empirical=True, within=within)
    if row.special and rho > 1.25 * (1 + 1e-12):
        return rho, (Finding(
            "redundancy", "special moment frames", Severity.EXCEEDED,
            f"rho = {rho:.3f} is above 1.25.", "1630.1.1", "Add bays of frames.", rho, 1.25),)
    return rho, ()


def _height(
    direction: Direction, row: SystemRow, site: SiteAnswer, structure: StructureFacts
) -> Finding:
    name, where, clause = f"{row.system} ({row.row})", f"system {direction}", "Table 16-N"
    zone = f"zone {site.category}"
    if site.category not in HIGH or row.height == "NL":
        return Finding("height limit", where, Severity.OK,
                       f"{name} has no height limit in {zone}.", clause)
    if row.height == "NP":
        return Finding("height limit", where, Severity.EXCEEDED,
                       f"{name} is not permitted in {zone}.", clause,
                       "Choose a system that is.")
    most = float(row.height) * _FOOT
    over = structure.height > most * (1 + 1e-9)
    doubt = "" if row.certain else " Check this limit against the print."
    return Finding(
        "height limit", where, Severity.EXCEEDED if over else Severity.OK,
        f"{name}: {number_text(structure.height / _FOOT)} ft against {row.height} ft.{doubt}",
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
