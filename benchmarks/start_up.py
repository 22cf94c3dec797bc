"""Start-up of the package and of the command line against an empty Python process."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time


def median(arguments: list[str], runs: int = 9) -> float:
    times = []
    for _ in range(runs + 1):
        start = time.perf_counter()
        subprocess.run([sys.executable, *arguments], check=True, capture_output=True)
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])


def main() -> None:
    floor = median(["-c", "pass"])
    print(f"python -c pass:        {floor * 1e3:7.1f} ms")
    for name, arguments in {
        "import undatum": ["-c", "import undatum"],
        "undatum --help": ["-m", "undatum.cli", "--help"],
    }.items():
        found = median(arguments)
        print(f"{name}:        {found * 1e3:7.1f} ms, ratio {found / floor:.2f}")


if __name__ == "__main__":
    main()
