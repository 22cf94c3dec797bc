"""Many variants of one 20-story building: of site and system, and of the spectrum alone.

The unit is one full run of the same building: the job alone, and with all that a run writes.
"""

from __future__ import annotations

import time
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from whole_job import in_turns, project

import undatum as ud
from undatum.analysis.response import peaks_by_spectrum
from undatum.report.files import write_all

VARIANTS, SPECTRA = 1000, 10_000


def main() -> None:
    one = project(20)
    results = ud.run(one)
    full = in_turns([lambda: ud.run(one)])[0]
    with TemporaryDirectory() as folder:
        start = time.perf_counter()
        write_all(ud.run(one), Path(folder) / "out")
        whole = time.perf_counter() - start
    print(f"one full run of 20 stories: {full * 1e3:.1f} ms; with all its outputs {whole:.2f} s")

    rng = np.random.default_rng(20)
    rows = ("C.1", "C.2", "C.4", "C.5")
    variant = ud.calculate(one).up_to("statics", "spectrum_sets", "drift")
    start = time.perf_counter()
    for i in range(VARIANTS):
        variant = variant.varied({"site.ss": float(rng.uniform(0.3, 1.6)),
                                  "system.X.row": rows[i % 4], "system.Y.row": rows[i // 4 % 4]})
        variant.up_to("statics", "spectrum_sets", "drift")
    took = time.perf_counter() - start
    print(f"{VARIANTS} variants of site and system (static forces, spectrum analysis, drift): "
          f"{took:.1f} s, as {took / full:.0f} full runs, {took / whole:.1f} with outputs")

    modes, model = results.modes, results.model
    combine = results.spectrum_sets[0].combine
    periods = modes.periods[: modes.kept]
    ordinates = rng.uniform(0.5, 1.5, (SPECTRA, 1)) * results.spectrum(periods)
    rows_read = (model.quantities["story shear"], model.quantities["story drift"])
    start = time.perf_counter()
    for direction in ("X", "Y"):
        for quantity in rows_read:
            peaks_by_spectrum(modes, direction, quantity, model, ordinates, combine)
    took = time.perf_counter() - start
    print(f"{SPECTRA} spectra on the same modes (shears and drifts, X and Y): {took:.2f} s, "
          f"as {took / full:.1f} full runs")


if __name__ == "__main__":
    main()
