"""A wall building whose floors deform, from its description to drift, over bare algebra.

Thirty stories (or as many as asked for) on a core with doors and walls apart. The floor is what
the same matrices cost with the same library and one thread: factors of the whole and thirty modes
by Lanczos iteration, mass at every node of the floors.
"""

from __future__ import annotations

import resource
import sys
import time

import numpy as np
from scipy import sparse
from scipy.sparse.linalg import LinearOperator, eigsh
from threadpoolctl import threadpool_limits

import undatum as ud
from undatum.mechanics.factors import scaled_factors, solver_words
from undatum.mechanics.floors import node_weights
from undatum.mechanics.framing import assembled
from undatum.units import STANDARD_GRAVITY

PLAN = [(0, 0), (36, 0), (36, 18), (0, 18)]
DOOR = ud.Opening(from_start=3.4, width=1.2, height=2.2)
ENDS = {"south": ((12, 5), (20, 5)), "east": ((20, 5), (20, 12)), "north": ((20, 12), (12, 12)),
        "west": ((12, 12), (12, 5)), "gable 1": ((0, 4), (0, 14)), "gable 2": ((36, 4), (36, 14)),
        "front": ((28, 0), (28, 8)), "back": ((28, 10), (28, 18))}


def building(stories: int) -> ud.Project:
    walls = [ud.Wall(name=name, between=ends, thickness=0.3, material="C30/37",
                     openings=[DOOR] if name == "south" else []) for name, ends in ENDS.items()]
    names = f"L1..L{stories}"
    one = ud.Building(
        stories=ud.Stories(heights={names: 3.2}, outline="plan", floor="all"),
        outlines={"plan": PLAN}, walls=walls,
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=7e3)]},
        diaphragms={names: ud.DeformingFloor(deforms=0.2, material="C30/37")})
    return ud.make_project(
        title="walls", standard="asce7-16", building=one, results_in="kN and m",
        site={"ss": 0.5, "s1": 0.2, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={d: {"row": "B.4"} for d in ("X", "Y")})


def main() -> None:
    stories = int(sys.argv[1]) if len(sys.argv) > 1 else 30
    with threadpool_limits(1):
        start = time.perf_counter()
        job = ud.calculate(building(stories))
        frame = job.building.frame
        laid = time.perf_counter() - start
        worst = job.drift.use
        whole = time.perf_counter() - start
        framed = job.model.framed
        k = assembled(framed.frame, framed.elements)
        free = framed.owner
        k = sparse.csc_array(k[free][:, free])
        mass = np.zeros((len(frame.points), 6))
        mass[:, :2] = node_weights(job.building, frame, job.masses.counted)[:, None] \
            / STANDARD_GRAVITY
        m = sparse.csc_array(sparse.diags_array(mass.ravel()[free]))
        start = time.perf_counter()
        factors = scaled_factors(k, 1e-13)
        assert factors is not None
        factored = time.perf_counter() - start
        inverse = LinearOperator(k.shape, matvec=factors.solve, dtype=np.float64)
        squared, _ = eigsh(k, k=30, M=m, sigma=0.0, OPinv=inverse)
        bare = time.perf_counter() - start
    exact = 2 * np.pi / np.sqrt(np.sort(squared))[:3]
    print(f"{stories} stories, {len(frame.panels)} panels of walls, {len(frame.slabs)} of floors, "
          f"{free.size} freedoms; {solver_words()}")
    print(f"layout {laid:.1f} s; description to drift {whole:.1f} s; factors {factored:.1f} s, "
          f"factors and 30 modes {bare:.1f} s; ratio {whole / bare:.2f}")
    print(f"periods {job.modes.periods[:3].round(4)}, with mass at every node {exact.round(4)}")
    print(f"largest use of drift {np.nanmax(worst):.3f}; "
          f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.1f} GB")


if __name__ == "__main__":
    main()
