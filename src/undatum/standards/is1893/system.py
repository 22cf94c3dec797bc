"""IS 1893 (Part 1): the lateral system and its response reduction factor."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import Fault, InputError, nearest
from undatum.finding import Finding, Severity
from undatum.record import FixedDict
from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.facts import Asked
from undatum.standards.is1893.site import facts
from undatum.standards.terms import Direction
from undatum.table import Table, column
from undatum.units import Period
from undatum.working import SectionKey, Working


@dataclass(frozen=True, slots=True)
class SystemRow:
    """One row of the table of R: the row of the period formula, material, whether ordinary."""

    row: str
    R: float
    period: str
    material: str
    ordinary: bool


@cache
def system_rows(edition: str) -> Mapping[str, SystemRow]:
    """The table of R of an edition."""
    return FixedDict({name: SystemRow(name, *row)
                      for name, row in facts()[f"R_{edition}"].items()})


FRAMES_ALONE = 0.25  # of the base shear: what frames of dual systems resist by themselves


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for IS 1893 (Part 1)."""

    row: str = Field(description='Lateral system of the table of R, such as "RC SMRF"')
    regular: bool = Field(description="Regular building, for the choice of procedure")
    infilled: bool = Field(
        default=False,
        description="Moment frame with masonry infill: period by the formula of the others"
    )
    period: Period | None = Field(
        default=None, description="Approximate period of one's own, such as by the wall formula"
    )
    reason: str = Field(default="", description="Where a period of one's own comes from")

    @model_validator(mode="after")
    def _reason(self) -> SystemInput:
        if self.period is not None and not self.reason:
            raise PydanticCustomError("reason", "a period of one's own has no reason; say it "
                                                "beside the value")
        known = {**system_rows("2016"), **system_rows("2002")}
        if self.row not in known:
            near = nearest(self.row, list(known))
            raise PydanticCustomError(
                "system_row", "{row} is not in the table of R", {
                    "row": repr(self.row), "key": "row", "standard": "is1893-2016",
                    "hint": f"{near!r}" if near else ""})
        return self


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, edition: str
) -> dict[Direction, SystemAnswer]:
    """Response reduction factors of both directions; displacements are not amplified for drift."""
    return {d: _answer(d, given, site, edition) for d, given in asked.items()}


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, edition: str
) -> SystemAnswer:
    table = system_rows(edition)
    findings: tuple[Finding, ...] = ()
    clause = "7.2.6, Table 9" if edition == "2016" else "6.4.2, Table 7"
    if given.row not in table:
        raise InputError([Fault(f"system.{direction}.row",
                                f"{given.row!r} is not in the table of R of {edition}",
                                f"choose from: {', '.join(table)}")])
    row = table[given.row]
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    r = w.given("R", row.R, meaning="response reduction factor", clause=clause,
                branch=given.row, within=(1.0, 20.0))
    divisor = w.compute("R_I", "R / I", meaning="divisor of elastic forces", clause="6.4.2")
    if row.ordinary and edition == "2016":
        barred = site.category != "II"
        findings = (Finding(
            "ordinary system", f"system {direction}", Severity.EXCEEDED if barred else Severity.OK,
            f"{given.row}: ordinary systems are for zone II only; this is zone {site.category}.",
            clause, "Take a special (ductile) system." if barred else ""),)
    elif row.ordinary:
        findings = (Finding(
            "ordinary system", f"system {direction}", Severity.NOTE,
            f"{given.row}: ordinary systems are barred from the higher zones; which ones is not "
            "checked here.", clause, "Check the notes to the table of R."),)
    if edition == "2016" and row.material != "steel":
        findings = (*findings, Finding(
            "stiffness reduction", f"system {direction}", Severity.NOTE,
            "Concrete and masonry frames are analyzed with 0.70 of the gross second moment of "
            "area of columns and 0.35 of that of beams; for walls the clause has no number. The "
            "stiffness given is taken as reduced.", "6.4.3.1"))
    return SystemAnswer(direction, given.row, given.row, "", divisor, 1.0, r, 1.0, w.close(),
                        findings, r, frames_alone=(FRAMES_ALONE, f"{clause}, dual systems")
                        if given.row.startswith("dual") else None)


def table(edition: str) -> Table:
    """The table of response reduction factors."""
    rows = system_rows(edition)
    return Table(
        "systems", f"IS 1893 (Part 1):{edition}, response reduction factors",
        (column("row", "", list(rows)), column("R", "ratio", [v.R for v in rows.values()], 3),
         column("period", "", [v.period for v in rows.values()])),
    )
