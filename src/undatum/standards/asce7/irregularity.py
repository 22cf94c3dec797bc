"""ASCE 7, 12.3.2 and 12.6: structural irregularities and the permitted procedures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from undatum.finding import Finding, Severity
from undatum.standards import irregular
from undatum.standards.answers import (
    BaseShearAnswer,
    Direction,
    ShapeFacts,
    SiteAnswer,
    StructureFacts,
    SystemAnswer,
    TorsionAnswer,
)
from undatum.standards.asce7.facts import Edition
from undatum.table import number_text
from undatum.units import factor

_FOOT = factor("ft", "length")
LIMITS = irregular.Limits(
    elevation="12.3.2.2, Table 12.3-2", plan="12.3.2.1, Table 12.3-1",
    soft=(0.7, 0.8), extreme_soft=(0.6, 0.7), weight=1.5, extent=1.3, weak=0.8, extreme_weak=0.65,
)


def judge(
    site: SiteAnswer, shape: ShapeFacts, torsion: Mapping[Direction, TorsionAnswer],
    edition: Edition,
) -> tuple[tuple[str, ...], tuple[Finding, ...]]:
    """Types found (H1a ... H5, V1a ... V5b) and a finding for each type that is judged.

    What neither the description nor the engineer says is named in a finding of its own.
    """
    kinds = {f"H{a.kind}" for a in torsion.values() if a.kind}
    if edition.key == "22":
        return tuple(sorted(kinds)), (Finding(
            "irregularities", "whole structure", Severity.NOTE,
            "Of the irregularities of the 2022 edition only the torsional one is judged: its "
            "tables were recast and their numbers are not certain.",
            "12.3.2", "Judge the others by hand."),)
    exempt = irregular.drift_exempt(shape)
    if len(shape.levels) == 2 and site.category in "BCD":
        exempt = "two-story building"
    c = site.category
    barred = {kind: f"Not permitted in category {c} (12.3.3.1)."
              for kind, where in (("V1b", "EF"), ("V5a", "EF"), ("V5b", "DEF")) if c in where}
    more, findings = irregular.judge(shape, LIMITS, exempt, barred)
    kinds |= more
    return tuple(sorted(kinds)), (*findings, *_consequences(kinds, shape, site))


def _consequences(kinds: set[str], shape: ShapeFacts, site: SiteAnswer) -> tuple[Finding, ...]:
    """What the types found ask for besides the analysis (12.3.3.2 to 12.3.3.4, 12.5.3)."""
    found = []
    if "V5b" in kinds and site.category in "BC" and (
            len(shape.levels) > 2 or shape.heights[0] > 30 * _FOOT):
        found.append(Finding(
            "height with a weak story", "whole structure", Severity.WARNING,
            "With an extreme weak story only two stories or 30 ft are permitted, unless the story "
            "is strong enough for the forces with overstrength.", "12.3.3.2"))
    if kinds & {"H4", "V4"} and site.category in "BCDEF":
        found.append(Finding(
            "elements under discontinuous lines", "whole structure", Severity.WARNING,
            "Columns, beams and slabs that carry discontinuous walls or frames take the "
            "combinations with overstrength.", "12.3.3.3",
            "Use the overstrength rows of the load combinations for them."))
    if kinds & {"H1a", "H1b", "H2", "H3", "H4", "V4"} and site.category in "DEF":
        found.append(Finding(
            "connections of diaphragms", "whole structure", Severity.NOTE,
            "Diaphragm forces take 25 % more for connections to vertical elements and collectors, "
            "and for collectors, unless overstrength is used.", "12.3.3.4"))
    if "H5" in kinds and site.category in "CDEF":
        found.append(Finding(
            "orthogonal directions", "whole structure", Severity.NOTE,
            "With a nonparallel system the directions are combined, 100 % of one with 30 % of the "
            "other.", "12.5.3"))
    return tuple(found)


def permitted(
    site: SiteAnswer, shears: Sequence[BaseShearAnswer], structure: StructureFacts,
    kinds: Sequence[str], edition: Edition,
) -> tuple[Finding, ...]:
    """Whether the equivalent lateral force procedure is permitted (Table 12.6-1)."""
    clause = "12.6, Table 12.6-1"
    if edition.key == "22":
        return (Finding("permitted procedure", "whole structure", Severity.NOTE,
                        "Which procedures the 2022 edition permits is not judged.", "12.6"),)
    if site.category in "ABC":
        return (Finding("permitted procedure", "whole structure", Severity.OK,
                        f"Category {site.category}: every procedure is permitted.", clause),)
    feet = structure.height / _FOOT
    limit = 3.5 * site.parameters["T_S"]
    short = all(s.period < limit for s in shears)
    mild = not set(kinds) - {"H2", "H3", "H4", "H5", "V4", "V5a", "V5b"}
    low = site.risk in ("I", "II") and structure.stories <= 2
    if edition.key == "05":
        allowed = low or (short and mild)
        rule = f"T {'<' if short else 'not <'} 3.5 T_S = {limit:.2f} s"
    else:
        allowed = low or (not kinds and (feet <= 160 or short)) or (mild and feet <= 160)
        rule = f"height {number_text(feet)} ft against 160 ft, T {'<' if short else 'not <'} " \
               f"3.5 T_S = {limit:.2f} s"
    found = f"irregularities found: {', '.join(kinds)}" if kinds else "no irregularity found"
    return (Finding(
        "permitted procedure", "whole structure", Severity.OK if allowed else Severity.NOTE,
        f"Category {site.category}, {rule}, {found}: the equivalent lateral force procedure is "
        + ("permitted." if allowed else "not permitted as the only analysis; the modal analysis "
           "governs (set drift.judged_by = \"spectrum\")."), clause),)




def conditions(
    site: SiteAnswer, systems: Sequence[SystemAnswer], shears: Sequence[BaseShearAnswer],
    structure: StructureFacts, kinds: Sequence[str], edition: Edition,
) -> tuple[Finding, ...]:
    """Whether what the project claims is open: the cap on S_DS (12.8.1.3) and rho of 1.0."""
    found = []
    for system, shear in zip(systems, shears, strict=True):
        where = f"direction {system.direction}"
        late = edition.rule("sds_cap") == "S_DS"
        if system.given.cap_on_sds:
            failed = [text for text, holds in (
                ("an irregularity was found", not kinds),
                (f"{structure.stories} stories are more than five", structure.stories <= 5),
                (f"T = {shear.period:.3f} s is above 0.5 s", shear.period <= 0.5 + 1e-12),
                ("the redundancy factor is not 1.0", not late or system.redundancy == 1.0),
                (f"site class {site.site_class}", not late or site.site_class not in "EF"),
                (f"risk category {site.risk}", not late or site.risk in ("I", "II")),
            ) if not holds]
            found.append(Finding(
                "cap on the short-period acceleration", where,
                Severity.EXCEEDED if failed else Severity.OK,
                f"Not open: {'; '.join(failed)}." if failed else
                "Every condition is met, with the irregularities that were judged.",
                "12.8.1.3", "Take cap_on_sds out." if failed else ""))
        if system.redundancy == 1.0 and site.category == "D" and "H1b" in kinds \
                and edition.key == "16":
            found.append(Finding(
                "redundancy", where, Severity.EXCEEDED,
                "With extreme torsional irregularity in category D the factor is 1.3.",
                "12.3.4.2", "Take redundancy out."))
    return tuple(found)
