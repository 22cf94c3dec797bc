"""EN 1998-1, chapters 5 and 6: behavior factors."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.errors import nearest
from undatum.finding import Finding, Severity
from undatum.ground.spectrum import Spectrum
from undatum.record import FixedDict, record
from undatum.standards.answers import SiteAnswer, SystemAnswer, WallShear
from undatum.standards.en1998.facts import BehaviorRow, behavior_rows
from undatum.standards.facts import Asked, StructureFacts
from undatum.standards.terms import Direction
from undatum.table import Table, column
from undatum.working import SectionKey, Working

Q = (1.0, 10.0)  # what a behavior factor lies in


#: The most that alpha_u/alpha_1 may be taken as.
MOST_RATIO = {"concrete": 1.5, "steel": 1.6, "composite": 1.6}
RATIO_CLAUSE = {"concrete": "5.2.2.2(8)", "steel": "6.3.2(6)", "composite": "7.3.2"}
LOW_ACCELERATION = 0.08  # g, 3.2.1(4): low seismicity up to here, or up to 0.10 g with the soil


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for EN 1998-1."""

    row: str = Field(description='Structural type, such as "concrete frame"; see undatum systems')
    ductility: Literal["DCL", "DCM", "DCH"] = Field(default="DCM", description="Ductility class")
    regular_in_plan: bool = Field(description="Regular in plan, 4.2.3.2")
    regular_in_elevation: bool = Field(description="Regular in elevation, 4.2.3.3")
    irregular_infills: bool = Field(
        default=False, description="Masonry infills are not regularly distributed in plan, without "
        "making it severely irregular: effects of the accidental eccentricity are doubled "
        "(4.3.6.3.1(4))")
    overstrength_ratio: float | None = Field(
        default=None, ge=1.0, le=1.6,
        description="alpha_u/alpha_1 from an analysis; default if left out"
    )
    wall_slenderness: float | None = Field(
        default=None, gt=0,
        description="alpha_0, sum of wall heights over sum of wall lengths, for k_w"
    )
    wall_overstrength: float | None = Field(
        default=None, ge=1.0, le=10.0, description="M_Rd / M_Ed at the foot of the walls, for "
        "their design shears in class DCH (5.5.2.4)")
    strut_cotangent: float = Field(
        default=1.0, ge=1.0, le=2.5, description="cot theta of the struts in the shear "
        "verification of walls, for the shift of tension in the envelope of their moments "
        "(5.4.2.4(5), EN 1992-1-1 9.2.1.3)")
    q: float | None = Field(
        default=None, ge=1.0, le=8.0, description="Behavior factor of one's own"
    )
    reason: str = Field(default="", description="Where a behavior factor of one's own comes from")
    computed_period: bool = Field(
        default=True, description="Use the computed period for the lateral force method"
    )
    period_basis: Literal["height", "walls", "sway"] = Field(
        default="height",
        description="Approximate period by height alone, by the walls of the lowest "
        "story (Eq. 4.7 and 4.8), or by the sway under the weights applied horizontally (Eq. 4.9)"
    )
    distribution: Literal["height", "mode shape"] = Field(
        default="height",
        description="Lateral forces by height or by the fundamental mode shape, 4.3.3.2.3"
    )

    @model_validator(mode="after")
    def _known(self) -> SystemInput:
        rows = behavior_rows()
        if self.q is not None and not self.reason:
            raise PydanticCustomError("reason", "a behavior factor of one's own has no reason; "
                                                "say it beside the value")
        if self.row not in rows and self.q is None:
            near = nearest(self.row, list(rows))
            raise PydanticCustomError(
                "system_row", "{row} is not a structural type that is covered", {
                    "row": repr(self.row), "key": "row", "standard": "en1998",
                    "hint": f"{near!r}" if near else "", "other": "any other takes q and reason"})
        ratio = self.overstrength_ratio
        if self.row in rows and ratio and ratio > MOST_RATIO.get(rows[self.row].material, 1.6):
            material = rows[self.row].material
            raise PydanticCustomError(
                "reason", "overstrength_ratio = {ratio} is above {most}, the most for {material} "
                "({clause}); give at most that",
                {"ratio": ratio, "material": material, "most": MOST_RATIO[material],
                 "clause": RATIO_CLAUSE[material]})
        if self.row in rows and self.q is None and self.ductility != "DCL" \
                and self.ductility not in rows[self.row].basic:
            raise PydanticCustomError(
                "reason", "{row} is not in ductility class {ductility}; it is in {known}",
                {"row": self.row, "ductility": self.ductility,
                 "known": ", ".join(rows[self.row].basic)})
        if self.row in rows and rows[self.row].wall_factor and self.q is None \
                and self.wall_slenderness is None and self.ductility != "DCL":
            raise PydanticCustomError(
                "reason", "{row} needs wall_slenderness (alpha_0 of 5.2.2.2(12)); give the sum of "
                "heights over the sum of lengths of the walls",
                {"row": self.row})
        return self


_LOW = {"concrete": "5.3.3", "timber": "8.3, Table 8.1", "composite": "7.1.2"}
_TABLES = {"concrete": "5.2.2.2, Table 5.1", "steel": "6.3.2, Table 6.2",
           "composite": "7.3.2, Table 7.2", "timber": "8.3, Table 8.1", "masonry": "9.3, Table 9.1"}


def _cracking(
    direction: Direction, row: BehaviorRow | None, facts: StructureFacts
) -> tuple[Finding, ...]:
    """Half the uncracked stiffness for concrete, composite and masonry (4.3.1(6) and (7))."""
    if row is None or row.material not in ("concrete", "composite", "masonry"):
        return ()
    shares = facts.stiffness_shares.get(direction, ())
    stiff = max(shares, default=0.0) > 0.5
    return (Finding(
        "cracked stiffness", f"system {direction}", Severity.WARNING if stiff else Severity.NOTE,
        f"A cantilever or member keeps {max(shares):.0%} of its gross stiffness." if stiff else
        "Given story stiffness must be that of cracked sections." if not shares else
        "Cantilevers and members keep at most half of their gross stiffness.", "4.3.1(6), 4.3.1(7)",
        "Take flexural_share and shear_share of 0.5 (of members: kept), or analyze the cracked "
        "section."
        if stiff else "", max(shares, default=None), 0.5),)


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
) -> dict[Direction, SystemAnswer]:
    """Behavior factors of both directions."""
    return {d: _answer(d, given, site, facts) for d, given in asked.items()}


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, facts: StructureFacts
) -> SystemAnswer:
    """Behavior factor q with its working. Displacements are multiplied by q_d = q (4.3.4)."""
    row = behavior_rows().get(given.row)
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    findings: list[Finding] = []
    if given.q is not None:
        q = w.given("q", given.q, meaning="behavior factor", clause="3.2.2.5(3)",
                    branch=f"project: {given.reason}", within=Q)
    elif given.ductility == "DCL":
        q = w.given("q", 1.5, meaning="behavior factor, low ductility", within=Q,
                    clause=_LOW.get(row.material if row else "", "6.1.2"))
    else:
        assert row is not None  # the input model has seen to it
        q = _behavior(w, given, row)
    if given.ductility == "DCL":
        findings.append(_low_ductility(direction, site))
    findings += _largest_q(direction, given, row, q)
    if row and not row.certain and given.q is None and given.ductility != "DCL":
        findings.append(Finding(
            "behavior factor", f"system {direction}", Severity.WARNING,
            f"The factor of {given.row!r} is to be checked against the print.",
            _TABLES[row.material], "Or give q with its reason."))
    findings += _cracking(direction, row, facts)
    findings += _structural_type(direction, row, facts)
    amplifier = w.compute("q_d", "q", meaning="displacement behavior factor", clause="4.3.4(1)",
                          within=Q)
    name = row.system if row else given.row
    return SystemAnswer(
        direction, given.row, name, row.material if row else "", q, amplifier, 1.0, 1.0,
        w.close(), tuple(findings), q,
        wall_shear=_wall_shear(given, site, q) if given.row in DUCTILE_WALLS else None,
        wall_envelope=(given.strut_cotangent, "5.4.2.4(5)")
        if given.ductility != "DCL" and given.row in DUCTILE_WALLS else None,
    )


#: What walls, and what frames, must take of the base shear for a type of concrete (5.1.2): the
#: standard lets shares of the shear stand in place of those of the resistance.
MOST, HALF = 0.65, 0.50
TYPES: Mapping[str, tuple[str, float]] = FixedDict({
    "concrete frame": ("frames", MOST), "concrete frame one bay": ("frames", MOST),
    "concrete frame one story": ("frames", MOST),
    "concrete frame-equivalent dual": ("frames", HALF),
    "concrete wall-equivalent dual": ("walls", HALF), "concrete coupled walls": ("walls", MOST),
    "concrete uncoupled walls": ("walls", MOST), "concrete two uncoupled walls": ("walls", MOST)})
NAMES = {("frames", MOST): "a frame system", ("walls", MOST): "a wall system",
         ("frames", HALF): "a frame-equivalent dual system",
         ("walls", HALF): "a wall-equivalent dual system"}


def _structural_type(
    direction: Direction, row: BehaviorRow | None, facts: StructureFacts
) -> tuple[Finding, ...]:
    """Whether frames and walls take what the type of a concrete system asks of them (5.1.2)."""
    taken = facts.taken.get(direction)
    if row is None or row.row not in TYPES or taken is None:
        return ()
    what, least = TYPES[row.row]
    own = taken.frames if what == "frames" else taken.walls
    said = f"Frames take {taken.frames:.0%} of the base shear and walls {taken.walls:.0%}"
    if taken.lines > 0.005:
        said += f"; of lateral lines that take {taken.lines:.0%} it is not known what they are"
    where, clause = f"system {direction}", "5.1.2(1)"
    asked = f"{row.system} asks for more than {least:.0%} by {what}"
    if own > least:
        return (Finding("structural type", where, Severity.OK, f"{said}: {asked}.", clause, "",
                        least, own),)
    if own + taken.lines > least:
        return (Finding("structural type", where, Severity.NOTE, f"{said}. {asked}: not judged.",
                        clause, "Describe walls as walls, or by their section, and frames by "
                        "members."),)
    fits = next((name for (kind, share), name in NAMES.items()
                 if (taken.frames if kind == "frames" else taken.walls) > share), "neither")
    return (Finding("structural type", where, Severity.WARNING,
                    f"{said}. {asked}; by the shares it is {fits}.", clause,
                    "Choose the row of the type it is.", least, own),)


@record
class ResistingWallShear(WallShear):
    """A factor from the resistance of the foot; ``factor`` is the behavior factor, its most.

    ``strength`` is gamma_Rd M_Rd / M_Ed at the foot, ``plateau`` the ordinate (m/s2) at the end of
    the plateau of ``spectrum``.
    """

    strength: float
    plateau: float
    spectrum: Spectrum

    def of(self, *, slender: bool, period: float) -> tuple[float, str]:
        """Of slender walls higher modes too, and at least 1.5 (Eq. 5.25, 5.26)."""
        q = self.factor
        if not slender:
            return min(self.strength, q), "5.5.2.4.2(2), Eq. 5.26"
        higher = 0.1 * (self.plateau / float(self.spectrum(period))) ** 2
        found = q * math.sqrt((self.strength / q) ** 2 + higher)
        return max(min(found, q), min(1.5, q)), "5.5.2.4.1(7), Eq. 5.25"


def _wall_shear(given: SystemInput, site: SiteAnswer, q: float) -> WallShear | None:
    """Shears of ductile walls are raised: in class DCM by a number, in DCH by the resistance of
    their foot, where it is given."""
    if given.ductility == "DCM":
        return WallShear("5.4.2.4(7)", WALL_SHEAR)
    if given.ductility == "DCL" or given.wall_overstrength is None:
        return None
    plateau = float(site.spectrum(site.parameters["T_C"]))
    return ResistingWallShear(
        "5.5.2.4", q, GAMMA_RD * given.wall_overstrength, plateau, site.spectrum)


#: Systems of concrete with ductile walls, whose shears are raised (5.4.2.4(6), 5.5.2.4).
DUCTILE_WALLS = (
    "concrete frame-equivalent dual", "concrete wall-equivalent dual", "concrete coupled walls",
    "concrete uncoupled walls", "concrete two uncoupled walls")
WALL_SHEAR = 1.5
GAMMA_RD = 1.2  # overstrength of the steel, without more precise data (5.5.2.4.1(7))


def _low_ductility(direction: Direction, site: SiteAnswer) -> Finding:
    """Class DCL is for low seismicity: a_g up to 0.08 g, or a_g S up to 0.10 g (3.2.1(4))."""
    ag, soil = site.parameters["a_g"], site.parameters["S"]
    low = ag <= LOW_ACCELERATION * (1 + 1e-9) or ag * soil <= 0.10 * (1 + 1e-9)
    return Finding(
        "ductility class", f"system {direction}", Severity.OK if low else Severity.WARNING,
        f"Class DCL is recommended for low seismicity only: a_g = {ag:.3f} g against "
        f"{LOW_ACCELERATION} g, a_g S = {ag * soil:.3f} g against 0.10 g.",
        "3.2.1(4), 5.2.1(2), 6.1.2", "" if low else "Take class DCM.", ag, LOW_ACCELERATION,
        "acceleration in g")


def _largest_q(
    direction: Direction, given: SystemInput, row: BehaviorRow | None, q: float
) -> list[Finding]:
    """A behavior factor of one's own against the most that row, class and ratio allow."""
    table = 0.8 if not given.regular_in_elevation else 1.0
    most, why = math.nan, ""
    if row is not None and given.ductility == "DCL":
        most, why = (2.0, "class DCL, steel") if row.material == "steel" else (1.5, "class DCL")
    elif row is not None and given.ductility in row.basic:
        basic, multiplied = row.basic[given.ductility]
        ratio = MOST_RATIO.get(row.material, 1.0) if multiplied else 1.0
        most = max(1.5, basic * ratio * table)
        why = f"{given.ductility}, {row.system.lower()}" + (
            f", with a ratio alpha_u/alpha_1 of {ratio:g}" if multiplied else "")
    where = f"system {direction}"
    if math.isnan(most):
        return [] if given.q is None else [Finding(
            "largest behavior factor", where, Severity.WARNING,
            f"q = {q:.3g} is stated in the project for a type that is not in the tables: it is not "
            "checked.", "3.2.2.5(3)", "Show that the standard allows it.")]
    if q <= most * (1 + 1e-9):
        return []
    return [Finding(
        "largest behavior factor", where, Severity.EXCEEDED,
        f"q = {q:.3g}, but at most {most:.3g} is allowed: {why}"
        + ("; not regular in elevation, 20 % less." if table < 1 else "."),
        _TABLES[row.material] if row else "", f"Take q of at most {most:.3g}.", q, most)]


def _behavior(w: Working, given: SystemInput, row: BehaviorRow) -> float:
    basic, multiplied = row.basic[given.ductility]
    concrete = row.material == "concrete"
    table = _TABLES[row.material]
    w.given("q_b", basic, meaning=f"basic factor, {given.ductility}", clause=table,
            branch=row.system)
    ratio = "1"
    if multiplied:
        clause = {"concrete": "5.2.2.2(5)", "steel": "6.3.2(3)"}.get(row.material, "7.3.2")
        if given.overstrength_ratio is not None:
            w.given("alpha", given.overstrength_ratio, meaning="overstrength ratio",
                    clause=clause, branch="from an analysis")
        else:
            w.given("alpha_d", row.ratio, meaning="default overstrength ratio", clause=clause)
            w.compute("alpha", "alpha_d" if given.regular_in_plan else "(1 + alpha_d) / 2",
                      meaning="overstrength ratio", clause=clause,
                      branch="regular in plan" if given.regular_in_plan else
                      "not regular in plan: mean of 1 and the default")
        ratio = "alpha"
    formula = f"q_b * {ratio}" if multiplied else "q_b"
    if not given.regular_in_elevation:
        formula = f"0.8 * {formula}"
    w.compute("q_0", formula, meaning="basic value of the behavior factor",
              clause={"concrete": "5.2.2.2(3)", "steel": "6.3.2(2)"}.get(
                  row.material, table.split(",")[0]),
              branch="" if given.regular_in_elevation else "not regular in elevation: 20 % less")
    if concrete:
        if row.wall_factor:
            w.given("alpha_0", given.wall_slenderness or 0.0, clause="5.2.2.2(12)",
                    meaning="wall heights over wall lengths")
            w.compute("k_w", "min(1, max(0.5, (1 + alpha_0) / 3))", meaning="wall factor",
                      clause="5.2.2.2(11)")
        else:
            w.given("k_w", 1.0, meaning="wall factor", clause="5.2.2.2(11)", branch="frames")
        return w.compute("q", "max(1.5, q_0 * k_w)", meaning="behavior factor", within=Q,
                         clause="5.2.2.2(1), Eq. 5.1")
    return w.compute("q", "max(1.5, q_0)", meaning="behavior factor", within=Q,
                     clause=table.split(",")[0])


def table() -> Table:
    """Structural types with their behavior factors."""
    rows = list(behavior_rows().values())

    def text(row: BehaviorRow, ductility: str) -> str:
        if ductility not in row.basic:
            return "–"
        value, multiplied = row.basic[ductility]
        return f"{value:g} × {row.ratio:g}" if multiplied else f"{value:g}"

    return Table(
        "systems",
        "EN 1998-1:2004, behavior factors (regular in elevation)",
        (
            column("row", "", [r.row for r in rows]),
            column("material", "", [r.material for r in rows]),
            column("system", "", [r.system for r in rows]),
            column("DCM", "", [text(r, "DCM") for r in rows]),
            column("DCH", "", [text(r, "DCH") for r in rows]),
            column("wall factor", "", [r.wall_factor for r in rows]),
        ),
        note="Factor times the default overstrength ratio. Masonry: lower limits of the ranges. "
        "?: check this row against the print.",
    )
