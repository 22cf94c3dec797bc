"""Combining 84,000 quantities in 60 modes, and keeping ten million numbers.

The floor of the first is the product of the recovery rows with the modal shapes.
"""

from __future__ import annotations

import dataclasses
import time
from tempfile import TemporaryDirectory

import numpy as np
from scipy import sparse
from whole_job import in_turns

import undatum as ud
from undatum.analysis.combine import combiner
from undatum.analysis.response import SpectrumSet
from undatum.labelled import axis, labelled
from undatum.mechanics.quantities import Quantity
from undatum.standards.terms import STRENGTH

QUANTITIES, MODES, FREEDOMS, NUMBERS = 84_000, 60, 6_000, 10_000_000


def main() -> None:
    rng = np.random.default_rng(60)
    rows = sparse.random_array((QUANTITIES, FREEDOMS), density=12 / FREEDOMS, rng=rng,
                               format="csr")
    modal = rng.normal(size=(FREEDOMS, MODES))
    omega = np.sort(rng.uniform(3, 80, MODES))
    combine = combiner("CQC", omega, np.full(MODES, 0.05))
    one = SpectrumSet("s", "X", STRENGTH, modal, modal, combine, 2 * np.pi / omega,
                      tuple(map(str, range(MODES))))
    quantity = Quantity("member force", "force", sparse.csr_array(rows),
                        {"member": tuple(map(str, range(QUANTITIES)))})
    floor, job = in_turns([
        lambda: rows @ modal,
        lambda: dataclasses.replace(one).of(quantity)])  # made anew: a set keeps what it was asked
    print(f"rows times shapes: {floor * 1e3:.0f} ms; with the combination {job * 1e3:.0f} ms; "
          f"ratio {job / floor:.2f}")

    results = ud.run(ud.shipped_project("starter"))
    many = 2500
    values = rng.normal(size=(NUMBERS // many // 9, many, 3, 3))
    key, check = next(iter(results.drifts.items()))
    large = dataclasses.replace(results, drifts={key: dataclasses.replace(check, drift=labelled(
        "story drift", "displacement", (
            axis("set", [f"s{i}" for i in range(values.shape[0])]),
            axis("point", [f"p{i}" for i in range(many)]), axis("story", ["a", "b", "c"]),
            axis("component", ["X", "Y", "resultant"])), values), factors=np.ones(len(values)),
        second_order=np.ones((3, 3)))})
    with TemporaryDirectory() as folder:
        start = time.perf_counter()
        large.save(folder)
        saved = time.perf_counter() - start
        start = time.perf_counter()
        back = ud.load(folder)
        loaded = time.perf_counter() - start
    assert np.array_equal(back.drift.drift.values, values)
    print(f"{values.size:.0e} numbers: saved in {saved:.1f} s, loaded in {loaded:.1f} s")


if __name__ == "__main__":
    main()
