"""Run many mutants of the shipped projects: python tools/mutate.py COUNT [FIRST SEED]."""

from __future__ import annotations

import sys
from collections import Counter
from pathlib import Path
from tempfile import TemporaryDirectory

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from mutants import FRAMES, survive


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 3000
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    wrong: Counter[str] = Counter()
    seeds: dict[str, int] = {}
    for seed in range(first, first + count):
        with TemporaryDirectory() as folder:
            said = survive(seed, Path(folder)) or survive(seed, Path(folder), FRAMES)
        if said:
            wrong[said] += 1
            seeds.setdefault(said, seed)
    for said, times in wrong.most_common():
        print(f"{times} times, first with seed {seeds[said]}: {said}")
    print(f"{count} mutants, {sum(wrong.values())} went wrong")
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
