"""The examples run, and what the README shows is what they print."""

from __future__ import annotations

import re
import runpy
import shutil
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

from conftest import Command
from undatum.project.project_file import shipped_text
from undatum.results.results import Results

ROOT = Path(__file__).parent.parent
EXAMPLES = sorted((ROOT / "examples").glob("*.py"))


def alike_by_hand(said: list[str]) -> None:
    """By hand and by program."""
    rows = [line.split()[-2:] for line in said[1:]]
    assert len(rows) == 6
    for hand, program in rows:
        assert float(program) == pytest.approx(float(hand), rel=1e-3)


def cured(said: list[str]) -> None:
    """Moving the wall cures the twist."""
    ratios = [float(line.split()[2]) for line in said[1:5]]
    assert ratios == sorted(ratios, reverse=True)
    assert "Extreme" in said[1]
    assert "not above 1.2" in said[4]


def held(said: list[str]) -> None:
    """Larger frames hold; gravity in the stiffness asks for no less here."""
    uses = [float(line.split()[-2]) for line in said[1:5]]
    assert uses[1] > uses[0] > 1 > uses[2]


def grounded(said: list[str]) -> None:
    """What the soil takes grows up to the whole base shear; the period hardly moves."""
    taken = [float(line.split()[-1].rstrip(",")) for line in said[2:3]]
    whole = said[4].split()
    assert 0 < taken[0] < float(said[2].split()[-3])
    assert float(whole[-2].rstrip(",")) == float(whole[-4])
    assert float(said[1].split()[3]) == pytest.approx(float(whole[3]), rel=0.01)


LESSONS = {"below_ground": grounded,
           "plane_frame_by_hand": alike_by_hand, "cure_torsion": cured, "tall_frame": held}


@pytest.mark.usefixtures("unpainted")
@pytest.mark.parametrize("path", EXAMPLES, ids=[p.stem for p in EXAMPLES])
def test_example_runs(
    path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("COLUMNS", "160")
    runpy.run_path(str(path), run_name="__main__")
    said = capsys.readouterr()
    assert said.err == ""
    assert len(said.out) > 200
    if path.stem in LESSONS:
        LESSONS[path.stem](said.out.splitlines())


PROJECTS = sorted(p for p in (ROOT / "examples").glob("*/*.toml")
                  if p.name not in ("criteria.toml", "code_by_formulas.toml", "three_hazards.toml",
                                    "site.toml"))


@pytest.mark.usefixtures("unpainted")
@pytest.mark.parametrize("path", PROJECTS, ids=[p.stem for p in PROJECTS])
def test_project_runs(
        path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    folder = tmp_path / "job"
    shutil.copytree(path.parent, folder)
    monkeypatch.chdir(folder)
    # 1: a check is exceeded, as the example shows
    assert command(["run", path.name, "--out", "results"]) in (0, 1)
    assert command.said.err == ""
    assert (folder / "results" / "record.html").stat().st_size > 50_000


def test_readme_shows_the_example_as_it_is() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    body = (ROOT / "examples" / "fifteen_lines.py").read_text(encoding="utf-8").split("\n\n", 1)[1]
    assert body.strip() in readme


def test_readme_shows_the_demo_as_it_runs(archive: Results) -> None:
    lines = (ROOT / "README.md").read_text(encoding="utf-8").splitlines()
    for name, text in archive.summary():
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


def test_the_tour_shows_what_check_says(tmp_path: Path, command: Command) -> None:
    """Two slips in the project that is shipped, as in the transcript."""
    text = shipped_text("starter", "mine.toml").replace("\nsite_class", "\nsite_clas", 1)
    file = tmp_path / "mine.toml"
    text = text.replace("\nheight = 3.8\n", '\nheight = "3.8 kPa"\n', 1)
    file.write_text(text, encoding="utf-8")
    assert command(["check", str(file)]) == 2
    said = command.said.err.splitlines()
    tour = (ROOT / "docs" / "tour.md").read_text(encoding="utf-8")
    shown = tour.split("$ undatum check mine.toml\n")[1].split("```")[0].splitlines()
    assert len(shown) == len(said)
    assert all(s.startswith(x.removesuffix("...")) for s, x in zip(said, shown, strict=True))


def test_generated_docs_are_current() -> None:
    done = subprocess.run([sys.executable, "tools/make_docs.py", "--check"], cwd=ROOT,
                          capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def test_no_text_names_another_distribution() -> None:
    """The registry holds another project under the bare name: ours is named in full."""
    root = Path(__file__).parents[1]
    with (root / "pyproject.toml").open("rb") as file:
        assert tomllib.load(file)["project"]["name"] == "undatum-seismic"
    files = [root / name for name in ("README.md", "pyproject.toml", "Makefile", "constraints.txt")]
    for folder in ("src", "docs", "tools", "examples", "benchmarks"):
        files += [p for p in (root / folder).rglob("*")
                  if p.suffix in (".py", ".md", ".toml", ".html", ".json")]
    bare = re.compile(
        r"(?<![-\w.])undatum\[|install [\"']?undatum\b(?!-)|^undatum[=<>~]", re.MULTILINE)
    assert [p for p in files if bare.search(p.read_text(encoding="utf-8"))] == []
    assert "share an\nenvironment" in (root / "README.md").read_text(encoding="utf-8")
