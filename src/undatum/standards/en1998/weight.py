"""EN 1998-1, 3.2.4 and 4.2.4: the masses of the seismic action."""

from __future__ import annotations

from undatum.standards.answers import WeightShare
from undatum.standards.contract import WeightRule
from undatum.standards.en1998.facts import facts
from undatum.standards.en1998.site import SiteInput
from undatum.standards.facts import CarriedFloors, LiveReduction, LoadFacts
from undatum.standards.terms import Effect

PERMANENT = frozenset({"dead", "cladding", "partition", "equipment", "roof garden"})


class SeismicMass(WeightRule):
    """Masses G + psi_E Q with psi_E = phi psi_2."""

    def __init__(self, given: SiteInput) -> None:
        self.given = given

    def share(self, load: LoadFacts) -> WeightShare:
        clause = "3.2.4, 4.2.4"
        if load.kind in PERMANENT:
            return WeightShare(1.0, clause, "permanent action")
        factor, source = psi2(load, self.given)
        phi, why = _phi(load, self.given)
        return WeightShare(phi * factor, clause,
                           f"phi {phi:g} ({why}) × psi_2 {factor:g} ({source})")

    def effect(self, kind: str) -> Effect:
        """Partitions that stay are permanent (EN 1991-1-1, 5.1)."""
        return "dead" if kind in PERMANENT else super().effect(kind)

    def gravity(self, load: LoadFacts) -> tuple[float, str]:
        """G + psi_2 Q, the gravity load of the seismic design situation (6.4.3.4 of EN 1990)."""
        if load.kind in PERMANENT:
            return 1.0, "4.4.2.2"
        return psi2(load, self.given)[0], "4.4.2.2, EN 1990 6.4.3.4"

    def combination(self, load: LoadFacts) -> WeightShare:
        """psi_2 of the load's own category (EN 1990, 6.4.3.4)."""
        if load.kind in PERMANENT:
            return WeightShare(1.0, "EN 1990 6.4.3.4", "permanent action")
        factor, source = psi2(load, self.given)
        return WeightShare(factor, "EN 1990 6.4.3.4, Table A1.1", f"psi_2 of {source}")

    def live_reduction(self, carried: CarriedFloors) -> LiveReduction:
        """alpha_n = (2 + (n - 2) psi_0) / n over more than two floors (EN 1991-1-1, 6.3.1.2(11)).

        Of categories A to D, with the recommended psi_0 of 0.7 (EN 1990, Table A1.1).
        """
        clause = "EN 1991-1-1, 6.3.1.2(11), Eq. 6.2"
        uses = {use or self.given.use for use in carried.uses} or {self.given.use}
        if not uses <= set("ABCD"):
            return LiveReduction(1.0, clause, "categories A to D alone are reduced")
        n = carried.floors
        if n <= 2:
            return LiveReduction(1.0, clause, "not more than two floors")
        return LiveReduction((2 + (n - 2) * 0.7) / n, clause, f"n = {n}, psi_0 = 0.7")


def psi2(load: LoadFacts, given: SiteInput) -> tuple[float, str]:
    """psi_2 of a load by its category of use, else by that of the site, and its source."""
    n, table = given.national, facts()["psi2"]
    if load.kind == "snow":
        usual, name = 0.2 if given.snow_above_1000m else 0.0, "snow"
        own = n.psi2_snow if n else None
    else:
        use = {"storage": "E", "roof live": "H"}.get(load.kind) or load.use or given.use
        usual, name = table[use], f"category {use}"
        own = next((v for k, v in n.psi2.items() if k == use), None) if n else None
    if own is not None and n is not None:
        return own, f"{name}, {n.source}; recommended {usual:g}"
    return usual, f"{name}, EN 1990 Table A1.1"


def _phi(load: LoadFacts, given: SiteInput) -> tuple[float, str]:
    n = given.national
    if load.kind in {"storage", "snow", "roof live"} or (load.use or given.use) not in "ABC":
        return 1.0, "categories D to F and archives" if load.kind != "snow" else "snow"
    if load.on_roof:
        return 1.0, "roof"
    usual = 0.8 if given.correlated_use else 0.5
    if n and n.phi is not None:
        return n.phi, f"{n.source}; recommended {usual:g}"
    return usual, "correlated use" if given.correlated_use else "independent use"
