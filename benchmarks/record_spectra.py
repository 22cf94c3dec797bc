"""Response spectra of a record against one bare digital filter pass for each period."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np
from scipy import signal

from undatum.ground import GroundMotion, response_spectra, usual_periods


def median(job: Callable[[], object], runs: int = 7) -> float:
    job()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        job()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def main() -> None:
    a = np.random.default_rng(1).normal(size=20_000)
    motion = GroundMotion("noise", 0.005, a)
    periods = usual_periods(100, 0.35)  # long enough that no resampling is needed

    def floor() -> None:
        for t in periods:
            r = np.exp(-0.05 * 2 * np.pi / t * motion.step)
            signal.lfilter([1e-5, 1e-5, 1e-5], [1.0, -1.99 * r, r * r], a)

    bare, ours = median(floor), median(lambda: response_spectra(motion, periods))
    print(f"bare filter, 100 periods of 20 000 samples: {bare * 1e3:8.1f} ms")
    print(f"response spectra of the same:               {ours * 1e3:8.1f} ms")
    print(f"ratio:                                      {ours / bare:8.2f}")


if __name__ == "__main__":
    main()
