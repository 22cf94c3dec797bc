"""ASCE 7, 2.3.6, 2.4.5 and 12.4: load combinations with earthquake."""

from __future__ import annotations

from collections.abc import Mapping

from undatum.standards.answers import (
    CombinationAnswer,
    Direction,
    DirectionalCombination,
    LoadCombination,
    SiteAnswer,
    SystemAnswer,
)
from undatum.standards.asce7.facts import Edition
from undatum.standards.common import quake_patterns
from undatum.working import Working


def load_combinations(
    site: SiteAnswer, systems: Mapping[Direction, SystemAnswer], how: DirectionalCombination,
    edition: Edition,
) -> CombinationAnswer:
    """Strength and allowable stress, with redundancy and with overstrength (2.3.6, 2.4.5, 12.4)."""
    w = Working("Load combinations", site.working)
    sds = "S_DS"
    if any(getattr(s.given, "cap_on_sds", False) for s in systems.values()) \
            and edition.rule("sds_cap") == "S_DS":
        w.compute("S_DSc", "max(min(S_DS, 1), 0.7 * S_DS)", "g", clause="12.8.1.3",
                  meaning="short-period acceleration for C_s and E_v")
        sds = "S_DSc"
    w.compute("e_v", f"0.2 * {sds}", meaning="vertical effect over dead load",
              clause=edition.clause("vertical_effect"),
              branch="may be left out where the standard says so; kept here")
    table = edition.table("combinations")
    rows = []
    for kind, tag in (("redundancy", "rho"), ("overstrength", "Omega_0")):
        factors = tuple(w.given(f"{tag}_{d}", s.redundancy if tag == "rho" else s.overstrength,
                                meaning=f"{kind} factor in {d}", clause=table["clause"])
                        for d, s in systems.items())
        for group in ("strength", "allowable"):
            for name, dead, vertical, live, snow, quake in table[group]:
                symbol = f"d_{name}" if tag == "rho" else f"d_{name}m"
                total = w.compute(symbol, f"{dead} + {vertical} * e_v", clause=table[f"{group}_at"],
                                  meaning=f"factor on dead load, combination {name}")
                for pattern, (x, y) in quake_patterns(how, (factors[0], factors[1])):
                    rows.append(LoadCombination(
                        f"{'strength' if group == 'strength' else 'allowable stress'}, {kind}",
                        f"{name}: {pattern}", total, live, snow, (quake * x, quake * y),
                        table[f"{group}_at"]))
    return CombinationAnswer(
        tuple(rows), w.close(),
        "Live load may take 0.5 in strength combinations where it is at most 100 psf, outside "
        "garages and public assembly. Overstrength need not exceed what the system can develop. "
        + table["note"])
