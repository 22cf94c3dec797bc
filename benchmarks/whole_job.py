"""A concept building of 100 stories: the whole job against one bare eigenvalue solution.

Prints times of this run and their ratio; the ratio is what may be compared between machines.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np
from scipy import linalg

import undatum as ud


def tower(stories: int) -> ud.ConceptBuilding:
    """A set-back tower with frames both ways and a wall, its center of mass moving."""
    low, high = [(0, 0), (40, 0), (40, 30), (0, 30)], [(0, 0), (30, 0), (30, 30), (0, 30)]
    levels = [
        ud.Level(name=f"L{i}", height=3.5, outline=high if i > stories // 2 else low,
                 loads=[ud.Load(name="floor", kind="dead", per_area=5000.0 + 20.0 * i)])
        for i in range(stories, 0, -1)
    ]
    stiffness = [float(k) for k in np.linspace(8e8, 40e8, stories)]
    lines = [
        ud.Line(name=f"{d}{n}", at=at, direction=d, bottom="Ground", top=f"L{stories}",
                stiffness=stiffness)
        for d, places in (("X", [(15, 0), (15, 30)]), ("Y", [(0, 15), (30, 15)]))
        for n, at in enumerate(places)
    ]
    lines.append(ud.Line(
        name="core", at=(15, 12), direction="X", bottom="Ground", top=f"L{stories}",
        cantilever=ud.Cantilever(modulus="35 GPa", length=12, thickness=0.8)))
    return ud.ConceptBuilding(levels=[*levels, ud.Level(name="Ground", outline=low)], lines=lines)


def median(job: Callable[[], object], runs: int = 7) -> float:
    job()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        job()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def main() -> None:
    building = tower(100)

    def whole() -> object:
        return ud.analyze(
            title="tower", standard="asce7-16", units="kN, m",
            site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C",
                  "risk_category": "II"},
            system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}}, building=building)

    results = whole()
    system = results.system  # type: ignore[attr-defined]
    mass = np.diag(system.mass_diagonal)
    floor = median(lambda: linalg.eigh(system.stiffness, mass))
    job = median(whole)
    print(f"bare eigh of the same matrices ({3 * system.n} equations): {floor * 1e3:8.1f} ms")
    print(f"whole job, description to findings:                {job * 1e3:8.1f} ms")
    print(f"ratio:                                             {job / floor:8.1f}")


if __name__ == "__main__":
    main()
