"""Make the made-up pair of ground motions in examples/data: shaped noise, no real earthquake."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from scipy import signal

OUT = Path(__file__).parent.parent / "examples" / "data"


def main() -> None:
    step, n = 0.01, 2400
    t = step * np.arange(n)
    shape = (t / 3.0) ** 2 * np.exp(2 * (1 - t / 3.0)) + 0.05 * (t < 20)
    for name, seed in (("north", 11), ("east", 12)):
        noise = np.random.default_rng(seed).normal(size=n)
        b, a = signal.butter(2, [0.25, 9.0], btype="band", fs=1 / step)
        motion = signal.filtfilt(b, a, noise) * shape * signal.windows.tukey(n, 0.02)
        motion *= 0.31 / np.abs(motion).max()
        rows = "\n".join(f"{x:.2f},{y:.6f}" for x, y in zip(t, motion, strict=True))
        text = f"# Made-up ground motion, {name} component.\ntime (s), acceleration (g)\n{rows}\n"
        (OUT / f"harbor_{name}.csv").write_text(text, encoding="utf-8", newline="\n")


if __name__ == "__main__":
    main()
