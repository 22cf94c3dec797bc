"""A concept building of 100 stories: the whole job against one bare eigenvalue solution.

Prints times of this run and their ratio; the ratio is what may be compared between machines. Both
are done in turns, with the machine's default threads, idle and with one core kept busy.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Sequence

import numpy as np
from scipy import linalg

import undatum as ud


def tower(stories: int) -> ud.Building:
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
    return ud.Building(levels=[*levels, ud.Level(name="Ground", outline=low)], lines=lines)


def project(stories: int) -> ud.Project:
    """The tower as a project."""
    return ud.make_project(
        title="tower", standard="asce7-16", results_in="kN and m",
        site={"ss": 1.0, "s1": 0.4, "long_period": 8, "site_class": "C", "risk_category": "II"},
        system={"X": {"row": "C.1"}, "Y": {"row": "C.1"}}, building=tower(stories))


def in_turns(jobs: Sequence[Callable[[], object]], runs: int = 9) -> list[float]:
    """Median time of each job, s, done one after the other so that all meet the same machine."""
    times: list[list[float]] = [[] for _ in jobs]
    for job in jobs:
        job()
    for _ in range(runs):
        for job, own in zip(jobs, times, strict=True):
            start = time.perf_counter()
            job()
            own.append(time.perf_counter() - start)
    return [statistics.median(own) for own in times]


def main() -> None:
    one = project(100)
    model = ud.run(one).model
    stiffness, mass = model.stiffness.toarray(), model.mass.toarray()
    jobs = (lambda: linalg.eigh(stiffness, mass), lambda: ud.run(one))
    floor, job = in_turns(jobs)
    print(f"bare eigh of the same matrices ({len(mass)} equations): {floor * 1e3:8.1f} ms")
    print(f"whole job, project to findings:                    {job * 1e3:8.1f} ms")
    print(f"ratio:                                             {job / floor:8.1f}")
    with subprocess.Popen([sys.executable, "-c", "while True: pass"]) as busy:
        floor, job = in_turns(jobs)
        busy.kill()
    print(f"ratio with one core kept busy:                     {job / floor:8.1f}"
          f"   ({job * 1e3:.0f} against {floor * 1e3:.0f} ms)")


if __name__ == "__main__":
    main()
