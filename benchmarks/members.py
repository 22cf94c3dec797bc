"""Section forces of all members of the shipped tower: sets, then load combinations.

The floor is the bare products: the recovery rows times the modal shapes of every spectrum set (and
the loads of every other), and those times the factor of the correlation.
"""

from __future__ import annotations

import time
import tracemalloc

import numpy as np
from whole_job import in_turns

import undatum as ud
from undatum.analysis.response import SpectrumSet
from undatum.mechanics.actions import section_forces
from undatum.readings.combinations import parts_of, story_factors
from undatum.readings.things import forces_of


def main() -> None:
    project = ud.shipped_project("tower").varied({"analysis": {"modes": 60}})
    r = ud.run(project)
    members = r.members("all")
    sets = r.sets_for_strength
    quantity = section_forces(r.model, members)
    rows = quantity.rows

    def bare() -> None:
        for one in sets:
            if isinstance(one, SpectrumSet):
                assert one.combine.factor is not None
                found = (rows @ one.modal) @ one.combine.factor
                np.sqrt(np.einsum("ij,ij->i", found, found))
            else:
                rows @ one.displacement

    def ours() -> None:
        for one in sets:
            one.memo.__init__()  # type: ignore[misc]  (asked for the first time)
            one.of(quantity)

    floor, job = in_turns([bare, ours], 3)
    print(f"{len(members)} members, {len(quantity)} values, {r.modes.kept} modes, "
          f"{len(sets)} sets")
    print(f"  bare products                  {floor:7.2f} s")
    print(f"  all sets, from rows to peaks   {job:7.2f} s, ratio {job / floor:.2f}")

    how = r.combiner()
    cases = r.load_cases().cases
    factors = story_factors(r.stability, "spectrum", r.model)
    start = time.perf_counter()
    parts = parts_of(forces_of(r.structure, members, (0.0, 1.0)), cases, sets, "spectrum",
                     factors, how)
    made = time.perf_counter() - start
    tracemalloc.start()
    parts_of(forces_of(r.structure, members, (0.0, 1.0)), cases, sets, "spectrum", factors, how)
    most = tracemalloc.get_traced_memory()[1] / 1e6
    tracemalloc.stop()
    start = time.perf_counter()
    for kind in how.kinds():
        how.extremes(kind, parts)
    found = time.perf_counter() - start
    start = time.perf_counter()
    table = r.read("forces", "all", "envelope").table()
    rows_of = len(table)
    whole = time.perf_counter() - start
    print(f"  what combinations multiply     {made:7.2f} s, {most:.0f} MB at most")
    print(f"  extremes of {len(how.rows)} combinations    {found:7.2f} s")
    print(f"  the table of envelopes, {rows_of} rows in words, all anew: {whole:.1f} s")


if __name__ == "__main__":
    main()
