"""Memory: a model that will not fit is refused before it is made, and never ends unforeseen."""

from __future__ import annotations

import tracemalloc
from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from conftest import Command, starter_text
from test_frames import SITE, SYSTEM, building
from undatum.mechanics.framing import memory_needed


def test_a_model_that_will_not_fit_is_refused_before_it_is_made(
        monkeypatch: pytest.MonkeyPatch, tmp_path: Path, command: Command) -> None:
    """With advice and the code of an analysis that can't be done; memory that runs out likewise."""
    from undatum.mechanics import framing

    path = tmp_path / "p.toml"
    path.write_text(starter_text("arcade"), encoding="utf-8")
    monkeypatch.setattr(framing, "free_memory", lambda: 1e3)
    assert command(["run", str(path), "--out", str(tmp_path / "out")]) == 3
    assert "GB are free" in " ".join(command.said.err.split())
    monkeypatch.setattr(framing, "free_memory", lambda: np.inf)

    def full(*_: object) -> None:
        raise MemoryError

    monkeypatch.setattr(framing, "_spread", full)
    assert command(["run", str(path), "--out", str(tmp_path / "out")]) == 3
    assert "Memory ran out" in command.said.err


@pytest.mark.parametrize("stories", [10, 40])
def test_the_memory_said_is_about_the_memory_taken(stories: int) -> None:
    """Between half and three times the peak that is traced while the model is made."""
    square = ud.CrossSection(rectangle="900 x 900 mm", material="C30/37")
    one = building(square, square, stories=stories, x=(7.0,) * 5, y=(7.0,) * 3)
    frame = one.frame
    assert frame is not None
    calculation = ud.calculate(ud.make_project(
        standard="asce7-16", building=one, site=SITE, system=SYSTEM))
    calculation.up_to("masses")
    tracemalloc.start()
    calculation.up_to("elastic")
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert 0.5 * peak < memory_needed(frame, 3 * stories) < 3 * peak
