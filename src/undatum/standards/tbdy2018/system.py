"""TBDY 2018, 4.3: lateral systems, their factors, height classes and the reduced spectrum."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import nearest
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import ReshapedSpectrum, Spectrum
from undatum.record import FixedDict, fixed
from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.facts import Asked, StructureFacts
from undatum.standards.terms import Direction
from undatum.table import Table, column
from undatum.units import said
from undatum.working import SectionKey, Working

Floats = NDArray[np.float64]
FACTOR = (1.0, 10.0)


@dataclass(frozen=True, slots=True)
class SystemRow:
    """One row of Table 4.1: R, D and the lowest class of height that is permitted, None without;
    whether it is ``certain``."""

    row: str
    system: str
    R: float
    D: float
    least: int | None
    certain: bool = True

    @property
    def steel(self) -> bool:
        """Of steel; the others are of concrete cast in place."""
        return self.row.startswith("C")


ROWS: Mapping[str, SystemRow] = FixedDict({one.row: one for one in (
    SystemRow("A11", "concrete frames, high ductility", 8, 3, 3),
    SystemRow("A12", "coupled concrete walls, high ductility", 7, 2.5, 2),
    SystemRow("A13", "concrete walls, high ductility", 6, 2.5, 2),
    SystemRow("A14", "concrete frames and coupled walls, high ductility", 8, 2.5, 2),
    SystemRow("A15", "concrete frames and walls, high ductility", 7, 2.5, 2),
    SystemRow("A16", "one story up to 12 m, columns hinged at the top", 3, 2, None, False),
    SystemRow("A21", "limited concrete frames, coupled walls of high ductility", 6, 2.5, 4, False),
    SystemRow("A22", "limited concrete frames, walls of high ductility", 5, 2.5, 4, False),
    SystemRow("A31", "concrete frames, limited ductility", 4, 2.5, 7, False),
    SystemRow("A32", "concrete walls, limited ductility", 4, 2, 6, False),
    SystemRow("A33", "concrete frames and walls, limited ductility", 4, 2, 6, False),
    SystemRow("C11", "steel moment frames, high ductility", 8, 3, 3),
    SystemRow("C12", "eccentric or buckling-restrained braces, high ductility", 8, 2.5, 2),
    SystemRow("C13", "concentric braces, high ductility", 5, 2, 4, False),
    SystemRow("C14", "steel frames with eccentric or buckling-restrained braces, high ductility",
              8, 3, 2, False),
    SystemRow("C15", "steel frames with concentric braces, high ductility", 6, 2.5, 2, False),
    SystemRow("C16", "one story up to 12 m, columns hinged at the top", 4, 2, None, False),
    SystemRow("C21", "limited steel frames, eccentric braces of high ductility", 6, 2.5, 4, False),
    SystemRow("C22", "limited steel frames, concentric braces of high ductility", 5, 2, 4, False),
    SystemRow("C31", "steel moment frames, limited ductility", 4, 2.5, 7),
    SystemRow("C32", "concentric braces, limited ductility", 3, 2, 8, False),
    SystemRow("C33", "steel frames with concentric braces, limited ductility", 4, 2, 7, False),
)})
#: C_t of the approximate period: concrete frames alone, steel frames or eccentric braces, others.
FRAMES, STEEL = ("A11", "A31"), ("C11", "C12", "C14", "C31")
#: Heights in m above which a building is of class 1 to 7, by design category (Table 3.3).
HEIGHTS: Mapping[str, tuple[float, ...]] = FixedDict({
    "1": (70.0, 56.0, 42.0, 28.0, 17.5, 10.5, 7.0), "2": (70.0, 56.0, 42.0, 28.0, 17.5, 10.5, 7.0),
    "3": (91.0, 70.0, 56.0, 42.0, 28.0, 17.5, 10.5),
    "4": (105.0, 91.0, 56.0, 42.0, 28.0, 17.5, 10.5)})


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for TBDY 2018."""

    row: str = Field(description='Row of Table 4.1, such as "A11" (concrete frames, high '
                                 'ductility)')
    computed_period: bool = Field(default=True, description="Use the computed period up to its cap")

    @model_validator(mode="after")
    def _known(self) -> SystemInput:
        if self.row not in ROWS:
            near = nearest(self.row, list(ROWS))
            raise PydanticCustomError(
                "system_row", "{row} is not a row of Table 4.1", {
                    "row": repr(self.row), "key": "row",
                    "hint": f"{near!r} ({ROWS[near].system})" if near else "",
                    "standard": "tbdy2018"})
        return self


def height_class(height: float, category: str) -> int:
    """BYS, Table 3.3, of a height in m above the base.

    >>> height_class(30.0, "1a"), height_class(30.0, "3")
    (4, 5)
    """
    return next((k for k, above in enumerate(HEIGHTS[category[0]], 1)
                 if height > above * (1 + 1e-9)), 8)


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
) -> dict[Direction, SystemAnswer]:
    """R, D and the factor on drift of both directions."""
    return {d: _answer(d, given, site, facts) for d, given in asked.items()}


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, facts: StructureFacts
) -> SystemAnswer:
    row, clause = ROWS[given.row], "4.2.1, Table 4.1"
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    w.given("R", row.R, meaning="behavior factor", clause=clause, within=FACTOR,
            branch=f"row {row.row}: {row.system}")
    over = w.given("D", row.D, meaning="overstrength factor", clause=clause, within=FACTOR)
    divisor = w.compute("R_I", "R / I", clause="4.2.1.2", meaning="divisor of elastic forces "
                        "beyond T_B, and factor on drift under the design forces (4.9.1)")
    findings = [_permitted(direction, row, site, facts)]
    if not row.certain:
        findings.append(Finding(
            "behavior factor", f"system {direction}", Severity.WARNING,
            f"The numbers of row {row.row} are to be checked against the print.", clause,
            "Replace R and D by those of the print, with a reason."))
    return SystemAnswer(direction, row.row, row.system, "steel" if row.steel else "concrete",
                        divisor, divisor, over, 1.0, w.close(), tuple(findings), w.value("R"))


def _permitted(
    direction: Direction, row: SystemRow, site: SiteAnswer, facts: StructureFacts
) -> Finding:
    where, own = f"system {direction}", height_class(facts.height, site.category)
    if row.least is None:
        low = facts.stories == 1 and facts.height <= 12.0 * (1 + 1e-9)
        return Finding(
            "height class", where, Severity.OK if low else Severity.EXCEEDED,
            f"{row.system} ({row.row}): {facts.stories} stories, {said(facts.height)}.",
            "Table 4.1", "" if low else "Choose another system.", facts.height, 12.0, "length")
    fine = own >= row.least
    doubt = "" if site.category[0] in "12" else " Check the heights of this category against the " \
        "print."
    return Finding(
        "height class", where, Severity.OK if fine else Severity.EXCEEDED,
        f"{row.system} ({row.row}): {said(facts.height)} is of height class {own}; the system is "
        f"permitted from class {row.least} on, for that height and lower.{doubt}",
        "3.3, Table 3.3; Table 4.1",
        "" if fine else "Choose another system, or a lower building.")


@dataclass(frozen=True, slots=True)
class ReducedSpectrum(ReshapedSpectrum):
    """Another spectrum over R_a(T): R/I beyond T_B, a straight line from D before (4.2.1.2)."""

    name: str
    base: Spectrum
    divisor: float
    overstrength: float
    t_b: float

    @fixed
    def __call__(self, period: ArrayLike) -> Floats:
        t = np.asarray(period, dtype=float)
        return np.asarray(self.base(t) / reduction(t, self.divisor, self.overstrength, self.t_b))


def reduction(period: ArrayLike, divisor: float, overstrength: float, t_b: float) -> Floats:
    """R_a(T), Eq. 4.1."""
    t = np.asarray(period, dtype=float)
    return np.where(t > t_b, divisor, overstrength + (divisor - overstrength) * t / t_b)


def table() -> Table:
    """Table 4.1, cast-in-place concrete and steel."""
    rows = list(ROWS.values())
    return Table(
        "systems", "TBDY 2018, Table 4.1: cast-in-place concrete and steel",
        (column("row", "", [r.row for r in rows]), column("system", "", [r.system for r in rows]),
         column("R", "ratio", [r.R for r in rows], 3), column("D", "ratio", [r.D for r in rows], 3),
         column("class of height from", "", [
             ("–" if r.least is None else str(r.least)) + ("" if r.certain else "?")
             for r in rows])),
        note="Buildings of this class of height and of larger numbers, which are lower. ?: check "
        "the row against the print. Precast, composite, timber and masonry are not here.")
