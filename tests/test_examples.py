"""The examples run, and what the README shows is what they print."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from undatum.project.results import Results

ROOT = Path(__file__).parent.parent
EXAMPLES = sorted((ROOT / "examples").glob("*.py"))


@pytest.mark.parametrize("path", EXAMPLES, ids=[p.stem for p in EXAMPLES])
def test_example_runs(path: Path, tmp_path: Path) -> None:
    done = subprocess.run([sys.executable, str(path)], cwd=tmp_path, capture_output=True,
                          text=True, check=False, env={**os.environ, "COLUMNS": "160"})
    assert done.returncode == 0, done.stderr
    assert done.stderr == ""
    assert len(done.stdout) > 200


PROJECTS = sorted(p for p in (ROOT / "examples").glob("*/*.toml")
                  if p.name not in ("criteria.toml", "site.toml"))


@pytest.mark.parametrize("path", PROJECTS, ids=[p.stem for p in PROJECTS])
def test_project_runs(path: Path, tmp_path: Path) -> None:
    folder = tmp_path / "job"
    shutil.copytree(path.parent, folder)
    done = subprocess.run(
        [sys.executable, "-m", "undatum.cli", "run", path.name, "--out", "results"], cwd=folder,
        capture_output=True, text=True, check=False)
    assert done.returncode in (0, 1), done.stderr  # 1: a check is exceeded, as the example shows
    assert done.stderr == ""
    assert (folder / "results" / "record.html").stat().st_size > 100_000


def test_readme_shows_the_example_as_it_is() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    body = (ROOT / "examples" / "fifteen_lines.py").read_text(encoding="utf-8").split("\n\n", 1)[1]
    assert body.strip() in readme


def test_readme_shows_the_demo_as_it_runs(archive: Results) -> None:
    lines = (ROOT / "README.md").read_text(encoding="utf-8").splitlines()
    for name, text in archive.story():
        shown = next(x for x in lines if x.startswith(f"{name:<13} "))
        assert f"{name:<13} {text}".replace("\u202f", " ").startswith(
            shown.removesuffix("; ...")), name


def test_the_code_of_the_readme_runs(tmp_path: Path) -> None:
    written = subprocess.run([sys.executable, "tools/readme_code.py"], cwd=ROOT, check=True,
                             capture_output=True, text=True).stdout
    done = subprocess.run([sys.executable, "-c", written], cwd=tmp_path, capture_output=True,
                          text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")
    assert "as it is: drift in X is 110% of its limit" in done.stdout  # as the record above shows
    assert (tmp_path / "kept" / "results.nc").is_file()


def test_generated_docs_are_current() -> None:
    done = subprocess.run([sys.executable, "tools/make_docs.py", "--check"], cwd=ROOT,
                          capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def _said(name: str) -> list[str]:
    done = subprocess.run([sys.executable, str(ROOT / "examples" / f"{name}.py")],
                          capture_output=True, text=True, check=True)
    return done.stdout.splitlines()


def test_what_the_examples_teach_is_so() -> None:
    """By hand and by program alike; moving the wall cures the twist; larger frames hold."""
    by_hand = [line.split()[-2:] for line in _said("plane_frame_by_hand")[1:]]
    assert len(by_hand) == 6
    for hand, program in by_hand:
        assert float(program) == pytest.approx(float(hand), rel=1e-3)
    cure = _said("cure_torsion")[1:5]
    ratios = [float(line.split()[2]) for line in cure]
    assert ratios == sorted(ratios, reverse=True)
    assert "Extreme" in cure[0]
    assert "not above 1.2" in cure[-1]
    uses = [float(line.split()[-2]) for line in _said("tall_frame")[1:5]]
    assert uses[0] > 1 > uses[2]
    assert uses[1] > uses[0]  # gravity in the stiffness asks for no less here
