"""Several hundred mutants of every shipped project: advice or sound results, nothing else."""

from __future__ import annotations

from pathlib import Path

import pytest

from mutants import FRAMES, ODD_FRAMES, survive

#: Faults once found by longer runs (make mutate) stay here.
FOUND = (140, 358, 103784, 109820)


@pytest.mark.parametrize("block", range(8))
def test_mutants_end_in_advice_or_in_sound_results(block: int, tmp_path: Path) -> None:
    wrong = {seed: said for seed in range(20 * block, 20 * block + 20)
             if (said := survive(seed, tmp_path))}
    assert not wrong


@pytest.mark.parametrize("seed", FOUND)
def test_mutants_that_once_went_wrong(seed: int, tmp_path: Path) -> None:
    assert survive(seed, tmp_path) == ""


@pytest.mark.parametrize("block", range(4))
def test_mutants_of_members_end_in_advice_or_in_sound_results(block: int, tmp_path: Path) -> None:
    wrong = {seed: said for seed in range(12 * block, 12 * block + 12)
             if (said := survive(seed, tmp_path, FRAMES))}
    assert not wrong


@pytest.mark.parametrize("seed", [487, 1012, 130850])
def test_mutants_of_members_that_once_went_wrong(seed: int, tmp_path: Path) -> None:
    assert survive(seed, tmp_path, FRAMES) == ""


@pytest.mark.parametrize("block", range(4))
def test_mutants_of_planes_and_open_floors(block: int, tmp_path: Path) -> None:
    wrong = {seed: said for seed in range(12 * block, 12 * block + 12)
             if (said := survive(seed, tmp_path, ODD_FRAMES))}
    assert not wrong


def test_mutants_of_planes_and_open_floors_that_once_went_wrong(tmp_path: Path) -> None:
    assert survive(2539, tmp_path, tuple(reversed(ODD_FRAMES))) == ""  # an unknown material
