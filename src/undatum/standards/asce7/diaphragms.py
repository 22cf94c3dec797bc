"""ASCE 7, 12.10: forces on floors as diaphragms, by the usual rule or by the alternative one."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.record import FixedDict
from undatum.standards import common
from undatum.standards.answers import Distribution
from undatum.standards.asce7.facts import Edition, system_rows
from undatum.standards.asce7.job import AsceJob
from undatum.standards.asce7.system import DiaphragmSystem, SystemInput
from undatum.working import Candidate, Pick, SectionKey, Working, first, largest, smallest

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

#: R_s by diaphragm system (Table 12.10-1).
REDUCTION: Mapping[DiaphragmSystem, float] = FixedDict({
    "cast-in-place concrete, shear-controlled": 1.5,
    "cast-in-place concrete, flexure-controlled": 2.0,
    "precast concrete, elastic design option": 0.7,
    "precast concrete, basic design option": 1.0,
    "precast concrete, reduced design option": 1.4,
    "wood sheathed, shear-controlled": 3.0})
#: Rows of buckling-restrained braced frames by themselves.
BUCKLING: Mapping[str, tuple[str, ...]] = FixedDict({"16": ("B.25",), "22": ("B.27",)})
CLAUSE = "12.10.3.2"


def forces(
    job: AsceJob, edition: Edition, distribution: Distribution, weights: Floats, carried: Bools
) -> Distribution:
    """Forces on the floors, top down."""
    given = next((one for d, one in job.asked.items() if d == distribution.working.key.direction),
                 None)
    if given is None or given.diaphragm is None or job.site.category == "A":
        return common.diaphragm_forces(
            job.site, distribution, weights, carried, "0.2 * S_DS * I_e", "0.4 * S_DS * I_e",
            "12.10.1.1", edition.equation("12.10.1.1", "12.10-1 to 12.10-3"))
    return _alternative(job, edition, distribution, weights, given, given.diaphragm)


def _alternative(
    job: AsceJob, edition: Edition, distribution: Distribution, weights: Floats,
    given: SystemInput, kind: DiaphragmSystem,
) -> Distribution:
    """From a design acceleration that does not fall with the ductility of what carries the floors
    (12.10.3)."""
    of = distribution.working.key
    w = Working(SectionKey("diaphragms", of.direction, of.state),
                f"Diaphragm forces in {of.direction} for {of.state}", job.site.working,
                next(s.working for d, s in job.systems.items() if d == of.direction),
                distribution.working)
    stories = job.facts.stories
    w.compute("C_s", "sum(F_x) / sum(w_x)", clause="12.8.1.1",
              meaning="seismic response coefficient, base shear over weight")
    w.given("N", float(stories), clause=CLAUSE, meaning="number of stories above the base")
    w.pick("z_s", _mode_factor(edition, (given.row, *given.with_rows)), clause=CLAUSE,
           meaning="modal contribution factor of the lateral system")
    w.given("R_s", REDUCTION[kind], clause="12.10.3.5, Table 12.10-1", branch=kind,
            meaning="diaphragm design force reduction factor")
    w.compute("C_p0", "0.4 * S_DS * I_e", clause=CLAUSE, meaning="coefficient at the base")
    w.compute("Gamma_m1", "1 + z_s / 2 * (1 - 1 / N)", clause=CLAUSE, meaning="first mode factor")
    w.compute("Gamma_m2", "0.9 * z_s * (1 - 1 / N) ** 2", clause=CLAUSE,
              meaning="higher mode factor")
    w.pick("C_s2", smallest(
        Candidate("by stories", "(0.15 * N + 0.25) * I_e * S_DS", "by the number of stories"),
        Candidate("plateau", "I_e * S_DS", "plateau"),
        Candidate("falling", "I_e * S_D1 / (0.03 * (N - 1))", "falling branch"),
    ) if stories > 1 else first(Candidate("one story", "0", "one story")),
        clause=CLAUSE, meaning="higher mode response coefficient", empirical=True)
    w.pick("C_pi", largest(
        Candidate("of the base", "0.8 * C_p0", "0.8 times that at the base"),
        Candidate("first mode", "0.9 * Gamma_m1 * Omega_0 * C_s", "first mode")),
        clause=CLAUSE, meaning="coefficient at 0.8 of the height")
    w.pick("C_pn", largest(
        Candidate("modes", "sqrt((Gamma_m1 * Omega_0 * C_s) ** 2 + (Gamma_m2 * C_s2) ** 2)",
                  "first and higher modes"),
        Candidate("below", "C_pi", "that at 0.8 of the height")),
        clause=CLAUSE, meaning="coefficient at the top")
    w.given("h_n", job.facts.height, "length", clause=CLAUSE, meaning="structural height")
    w.compute_all("r_x", "h_x / h_n", clause=CLAUSE, meaning="height of the level over h_n")
    if stories > 2:  # two straight lines, bent at 0.8 of the height
        w.compute_all("C_px", "C_p0 + (C_pi - C_p0) * min(r_x / 0.8, 1) + (C_pn - C_pi) * "
                      "max(r_x - 0.8, 0) / 0.2", clause=CLAUSE, meaning="coefficient of the level")
    else:
        w.compute_all("C_px", "C_p0 + (C_pn - C_p0) * r_x", clause=CLAUSE,
                      meaning="coefficient of the level")
    w.given("w_px", tuple(map(float, weights)), "force", clause=CLAUSE,
            meaning="weight tributary to the diaphragm, that of the level")
    w.compute_all("F_s", "C_px / R_s * w_px", "force", clause=CLAUSE, meaning="C_px over R_s")
    found = w.compute_all("F_px", "max(F_s, 0.2 * S_DS * I_e * w_px)", "force",
                          meaning="diaphragm design force", clause=CLAUSE)
    return Distribution(found, w.close())


def _mode_factor(edition: Edition, rows: tuple[str, ...]) -> Pick:
    """Of the lateral system; of several the largest."""
    known, found = system_rows(edition.key), []
    for name in rows:
        if name in BUCKLING[edition.key]:
            found.append(Candidate("buckling", "0.3", "buckling-restrained braced frame"))
        elif known[name].group == "moment frame":
            found.append(Candidate("moment frame", "0.7", "moment frame"))
        elif known[name].group.startswith("dual"):
            found.append(Candidate("dual", "0.85", "dual system"))
        else:
            found.append(Candidate("other", "1.0", "any other system"))
    return largest(*found)
