"""How cost grows with height: a frame of 20 and of 200 stories at fixed plan.

Reading and checking, tables, and modes; modes beside the growth of bare factorization,
condensation and eigen-solution of the same matrices with the same library and one thread.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from scipy import linalg, sparse
from threadpoolctl import threadpool_limits

import undatum as ud
from undatum.mechanics import factors
from undatum.mechanics.framing import assembled
from undatum.project.project_file import validate
from undatum.units import UnitSystem

STORIES = (20, 200)


def text(stories: int) -> dict[str, object]:
    """The tables of a file: four bays by three, stiff enough to stand at any height."""
    return {
        "title": "growth", "standard": "asce7-16", "units": "kN and m",
        "site": {"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C",
                 "risk_category": "II"},
        "system": {d: {"row": "C.5"} for d in "XY"},
        "building": {
            "axes": {"across_x": {"names": "1..5", "spacing": [7] * 4},
                     "across_y": {"names": "A..D", "spacing": [7] * 3}},
            "stories": {"heights": {f"L1..L{stories}": 4.0}, "outline": "all", "floor": "all"},
            "outlines": {"all": {"between": ["A1", "D5"]}},
            "floors": {"all": [{"name": "slab", "kind": "dead", "per_area": 2.0},
                               {"name": "use", "kind": "live", "per_area": 2.5}]},
            "materials": {"stiff": {"modulus": "5000 GPa", "unit_weight": 1}},
            "sections": {"S": {"rectangle": "3 x 3 m", "material": "stiff"}},
            "members": [{"columns": "all", "section": "S"}, {"beams": "all", "section": "S"}]}}


def timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def bare(job: ud.Job) -> float:
    """Factors, condensation to the floors and eigen-solution, nothing else."""
    model = job.elastic.model
    framed = model.framed
    whole = sparse.csr_array(framed.spread.T @ (
        assembled(framed.frame, framed.elements) @ framed.spread))
    count = framed.stiffness.shape[0]
    inner = sparse.csc_array(whole[count:, count:])
    coupling = whole[count:, :count].toarray()
    direct, mass = whole[:count, :count].toarray(), model.mass.toarray()

    def work() -> None:
        found = factors.scaled_factors(inner, 0.0)
        assert found is not None
        half = found.half(coupling)
        taken = half.T @ half if half is not None else coupling.T @ found.solve(coupling)
        linalg.eigh(direct - taken, mass, subset_by_index=(0, 29))

    with threadpool_limits(1, user_api="blas"):
        return min(timed(work) for _ in range(2))


def main() -> None:
    rows: dict[str, list[float]] = {}
    for stories in STORIES:
        data = text(stories)
        project, faults = validate(data)
        assert project is not None, faults

        def read_and_check(data: dict[str, object] = data) -> None:
            found, _ = validate(data)
            assert found is not None
            ud.calculate(found).up_to("questions")

        rows.setdefault("read and check", []).append(timed(read_and_check))
        job = ud.calculate(project).up_to("load_groups")
        rows.setdefault("modes", []).append(timed(lambda job=job: job.modes))
        rows.setdefault("bare: factors, condensation, eigen-solution", []).append(bare(job))
        results = ud.run(project)
        rows.setdefault("every table", []).append(timed(
            lambda r=results: [t.text_rows(UnitSystem("kN and m")) for t in r.tables()]))
    print(f"{'':46}{STORIES[0]:>5} stories{STORIES[1]:>6} stories   times")
    for name, (few, many) in rows.items():
        print(f"{name:46}{few:10.3f} s {many:11.3f} s {many / few:8.1f}")
    modes, floor = (np.divide(*rows[k][::-1]) for k in (
        "modes", "bare: factors, condensation, eigen-solution"))
    print(f"growth of modes over that of the bare work: {modes / floor:.2f}")


if __name__ == "__main__":
    main()
