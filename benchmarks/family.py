"""A family of a 20-story building: what a variant costs over the bare stages it needs, on one
process and on two, and the memory it takes.

    python benchmarks/family.py [COUNT]      # 400 if left out
"""

from __future__ import annotations

import resource
import sys
import time
from pathlib import Path
from tempfile import TemporaryDirectory

from threadpoolctl import threadpool_limits
from whole_job import project

import undatum as ud

KEEP = ("periods", "base shear", "drift")
BARE = 100


def main(count: int) -> None:
    family = ud.Family(project(20), ud.Variants(
        vary=[ud.Parameter(name="Ss", path="site.ss", between=(0.3, 1.6)),
              ud.Parameter(name="system", path=["system.X.row", "system.Y.row"],
                           values=["C.1", "C.2", "C.4", "C.5"]),
              ud.Parameter(name="stiffness", times=True,
                           path=[f"building.lines[{n}].stiffness"
                                 for n in ("X0", "X1", "Y0", "Y1")],
                           values=[0.8, 0.9, 1.0, 1.1, 1.2])],
        design="latin hypercube", count=count, keep=KEEP))
    order = family.order[:BARE]
    with threadpool_limits(limits=1, user_api="blas"):
        job = ud.calculate(family.variant(order[0])).up_to("strength_shears", "drifts")
        start = time.perf_counter()
        for i in order:
            job = job.of(family.variant(i)).up_to("strength_shears", "drifts")
        bare = (time.perf_counter() - start) / len(order)
    print(f"bare stages: {bare * 1e3:.1f} ms a variant")
    each = {}
    with TemporaryDirectory() as folder:
        for jobs in (1, 2):
            start = time.perf_counter()
            found = ud.run_family(family, Path(folder) / str(jobs), jobs=jobs)
            each[jobs] = (time.perf_counter() - start) / count
            assert not any(found.failed), next(f for f in found.failed if f)
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(f"{count} variants: {each[1] * 1e3:.1f} ms each on one process, {each[1] / bare:.2f} of "
          f"the bare stages; on two {each[1] / each[2]:.2f} times as fast; memory {most:.2f} GB")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 400)
