"""NZS 1170.5, chapters 4 and 5: ductility, structural performance, reduction of the spectrum."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from undatum.standards.answers import SiteAnswer, SystemAnswer
from undatum.standards.facts import Asked, StructureFacts
from undatum.standards.terms import Direction
from undatum.table import Table, column
from undatum.units import Period
from undatum.working import Candidate, SectionKey, Working, first

#: Kinds of structure by the largest ductility factor of each (4.3.1).
KINDS = (("brittle", 1.0), ("nominally ductile", 1.25), ("limited ductile", 3.0),
         ("ductile", 6.0))
NOMINAL = 1.25


class SystemInput(Asked):
    """A ``[system.X]`` or ``[system.Y]`` table for NZS 1170.5."""

    ductility: float = Field(
        ge=1.0, le=6.0, description="Structural ductility factor mu, by the material standard")
    structural_performance: float | None = Field(
        default=None, ge=0.5, le=1.0, description="Structural performance factor S_p of the "
        "material standard, where it gives another than 4.4.2")
    reason: str = Field(default="", description="Where a performance factor of one's own, or a "
                        "period of one's own, comes from")
    period: Period | None = Field(
        default=None, description="Period of one's own, where there is no structure to compute it")

    @model_validator(mode="after")
    def _with_reason(self) -> SystemInput:
        if (self.structural_performance is not None or self.period is not None) \
                and not self.reason:
            raise PydanticCustomError("reason", "a value of one's own has no reason; say it "
                                                "beside the value")
        return self


def kind_of(ductility: float) -> str:
    """What 4.3.1 calls a structure of this ductility."""
    return next(name for name, most in KINDS if ductility <= most + 1e-9)


def answers(
    asked: Mapping[Direction, SystemInput], site: SiteAnswer, facts: StructureFacts
) -> dict[Direction, SystemAnswer]:
    """Ductility, performance factor and drift modification of both directions."""
    return {d: _answer(d, given, site, facts) for d, given in asked.items()}


def _answer(
    direction: Direction, given: SystemInput, site: SiteAnswer, facts: StructureFacts
) -> SystemAnswer:
    w = Working(SectionKey("system", direction), f"Lateral system in {direction}", site.working,
                replaced=given.replaced(f"system.{direction}", direction))
    name = kind_of(given.ductility)
    mu = w.given("mu", given.ductility, meaning="structural ductility factor", clause="4.3.1",
                 branch=name, within=(1.0, 6.0))
    if given.structural_performance is not None:
        w.given("S_p", given.structural_performance, clause="4.4.2", within=(0.0, 1.0),
                meaning="structural performance factor", branch=f"project: {given.reason}")
    else:
        w.pick("S_p", first(
            Candidate("ductile", "0.7", "mu of 2 or more", applies=mu >= 2.0),
            Candidate("less", "1.3 - 0.3 * mu", "mu below 2")),
            meaning="structural performance factor", clause="4.4.2", within=(0.0, 1.0))
    w.given("h", facts.height, "m", meaning="height of the structure", clause="7.3.1.1")
    w.compute("k_dm", "clip(1.2 + 0.02 * (h - 15), 1.2, 1.5)", clause="7.3.1.1, Table 7.1",
              empirical=True, meaning="drift modification factor")
    usual = mu / w.value("S_p")  # where T_1 is long; the spectrum has its own: reduced_at
    drift = w.compute("c_d", "mu * k_dm", clause="7.2.1, 7.3.1.1",
                      meaning="factor on story drift under the design forces")
    return SystemAnswer(direction, name, f"ductility factor {mu:g}", "", usual, drift, 1.0, 1.0,
                        w.close(), (), mu)


def reduction(w: Working, subsoil: str, t: float) -> float:
    """k_mu of 5.2.1.1 at the period ``T_1`` of the working, which is not taken below 0.4 s."""
    longest = max(t, 0.4)
    soft, mu = subsoil == "E", w.value("mu")
    return w.pick("k_mu", first(
        Candidate("soft, long", "mu", "subsoil E, T_1 of 1 s or more, or mu below 1.5",
                  applies=soft and (longest >= 1.0 or mu < 1.5)),
        Candidate("soft, short", "(mu - 1.5) * max(T_1, 0.4) + 1.5", "subsoil E, T_1 below 1 s",
                  applies=soft),
        Candidate("long", "mu", "T_1 of 0.7 s or more", applies=longest >= 0.7),
        Candidate("short", "(mu - 1) * max(T_1, 0.4) / 0.7 + 1", "T_1 below 0.7 s")),
        meaning="reduction for ductility", clause="5.2.1.1", empirical=True,
        within=(1.0, 6.0)).value


def table() -> Table:
    """Kinds of structure by ductility, and the performance factor."""
    return Table(
        "systems", "NZS 1170.5:2004, structures by ductility",
        (column("row", "", [name for name, _ in KINDS]),
         column("largest mu", "ratio", [most for _, most in KINDS], 3),
         column("S_p", "ratio", [1.0 if m <= 1 else 1.3 - 0.3 * m if m < 2 else 0.7
                                 for _, m in KINDS], 3)),
        note="The material standards give the ductility factor of a system; state it as "
        "system.ductility.")
