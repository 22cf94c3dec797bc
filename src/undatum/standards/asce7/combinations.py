"""ASCE 7, 2.3.6, 2.4.5 and 12.4: load combinations with earthquake."""

from __future__ import annotations

from undatum.standards.answers import CombinationAnswer, LoadCombination
from undatum.standards.asce7.facts import Edition
from undatum.standards.asce7.job import AsceJob
from undatum.standards.common import quake_patterns
from undatum.standards.terms import DirectionalCombination
from undatum.working import SectionKey, Working


def without_earthquake(edition: Edition) -> tuple[LoadCombination, ...]:
    """Basic combinations of dead, live, roof live and snow load, among those with redundancy.

    Snow of the 2022 edition is at strength level; its allowable stress rows with snow are left out,
    their factor is not certain.
    """
    late = edition.key == "22"
    some, most = (0.3, 1.0) if late else (0.5, 1.6)
    strength = "2.3.2" if edition.key in ("05", "10") else "2.3.1"
    rows: list[tuple[str, str, str, float, float, float, float]] = [
        ("strength", strength, "1.4 D", 1.4, 0.0, 0.0, 0.0),
        ("strength", strength, f"1.2 D + 1.6 L + {some:g} S", 1.2, 1.6, some, 0.0),
        ("strength", strength, "1.2 D + 1.6 L + 0.5 Lr", 1.2, 1.6, 0.0, 0.5),
        ("strength", strength, f"1.2 D + {most:g} S + L", 1.2, 1.0, most, 0.0),
        ("strength", strength, "1.2 D + 1.6 Lr + L", 1.2, 1.0, 0.0, 1.6),
        ("allowable stress", "2.4.1", "D", 1.0, 0.0, 0.0, 0.0),
        ("allowable stress", "2.4.1", "D + L", 1.0, 1.0, 0.0, 0.0),
        ("allowable stress", "2.4.1", "D + Lr", 1.0, 0.0, 0.0, 1.0),
        ("allowable stress", "2.4.1", "D + 0.75 L + 0.75 Lr", 1.0, 0.75, 0.0, 0.75)]
    if not late:
        rows += [("allowable stress", "2.4.1", "D + S", 1.0, 0.0, 1.0, 0.0),
                 ("allowable stress", "2.4.1", "D + 0.75 L + 0.75 S", 1.0, 0.75, 0.75, 0.0)]
    return tuple(LoadCombination(f"{kind}, redundancy", name, dead, live, snow, (0.0, 0.0), clause,
                                 roof=roof)
                 for kind, clause, name, dead, live, snow, roof in rows)


def load_combinations(
    job: AsceJob, how: DirectionalCombination, edition: Edition
) -> CombinationAnswer:
    """Strength and allowable stress, with redundancy and with overstrength (2.3.6, 2.4.5, 12.4)."""
    w = Working(SectionKey("combinations"), "Load combinations", job.site.working)
    sds = "S_DS"
    if any(asked.cap_on_sds for asked in job.asked.values()) \
            and edition.rule("sds_cap") == "S_DS":
        w.compute("S_DSc", "max(min(S_DS, 1), 0.7 * S_DS)", "g", clause="12.8.1.3",
                  meaning="short-period acceleration for C_s and E_v")
        sds = "S_DSc"
    exempt = job.site.category == "A"  # from 12.4: no vertical effect, no overstrength (11.7)
    if not exempt:
        w.compute("e_v", f"0.2 * {sds}", meaning="vertical effect over dead load",
                  clause=edition.clause("vertical_effect"),
                  branch="may be left out where the standard says so; kept here")
    table = edition.table("combinations")
    dead = {(group, name): _dead(w, group, name, own, 0.0 if exempt else vertical,
                                 table[f"{group}_at"])
            for group in ("strength", "allowable")
            for name, own, vertical, *_ in table[group]}
    rows = []
    for kind, symbol in (("redundancy", "rho"), ("overstrength", "Omega"))[: 1 if exempt else 2]:
        factors = {d: w.given(f"{symbol}_{d}", s.redundancy if symbol == "rho" else s.overstrength,
                        meaning=f"{kind} factor in {d}", clause=table["clause"])
                for d, s in job.systems.items()}
        for group, said in (("strength", "strength"), ("allowable", "allowable stress")):
            for name, _, _, live, snow, quake in table[group]:
                rows += [
                    LoadCombination(f"{said}, {kind}", f"{name}: {pattern}", dead[group, name],
                                    live, snow, (quake * a, quake * b), table[f"{group}_at"])
                    for pattern, (a, b) in quake_patterns(how, factors)
                ]
                if edition.key == "05" and group == "allowable" and snow:  # 0.75 (Lr or S or R)
                    rows += [
                        LoadCombination(f"{said}, {kind}", f"{name}, Lr: {pattern}",
                                        dead[group, name], live, 0.0, (quake * a, quake * b),
                                        table[f"{group}_at"], roof=snow)
                        for pattern, (a, b) in quake_patterns(how, factors)
                    ]
    return CombinationAnswer(
        tuple(rows), w.close(),
        "Live load may take 0.5 in strength combinations where it is at most 100 psf, outside "
        "garages and public assembly. Overstrength need not exceed what the system can develop. "
        + table["note"], {d: s.redundancy for d, s in job.systems.items()},
        gravity=without_earthquake(edition), vertical_in_dead=not exempt)


def _dead(
    w: Working, group: str, name: str, own: float, vertical: float, clause: str
) -> float:
    """Factor on dead load: its own and the share of the vertical effect, up or down."""
    if not vertical:
        return w.given(f"{'d' if group == 'strength' else 'a'}_{name}", own, clause=clause,
                       meaning=f"factor on dead load, combination {name}",
                       branch="category A asks for no vertical effect")
    share = "e_v" if abs(vertical) == 1.0 else f"{abs(vertical)} * e_v"
    symbol = "d" if group == "strength" else "a"
    sign = "-" if vertical < 0 else "+"
    return w.compute(f"{symbol}_{name}", f"{own} {sign} {share}", clause=clause,
                     meaning=f"factor on dead load, combination {name}")
