"""The command line as a person uses it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest

import undatum as ud
from conftest import ROOMS, STARTERS, Command, starter_text


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The shipped demo run once, in a process of its own."""
    folder = tmp_path_factory.mktemp("demo")
    (folder / "archive.toml").write_text(starter_text("archive"), encoding="utf-8")
    done = subprocess.run(
        [sys.executable, "-m", "undatum.cli", "run", "archive.toml", "--out", "results"],
        cwd=folder, capture_output=True, text=True, check=False,
        env={**os.environ, "COLUMNS": "140"},
    )
    (folder / "stdout.txt").write_text(done.stdout, encoding="utf-8")
    assert done.returncode == 1, done.stderr  # a check is exceeded
    assert done.stderr == ""
    return folder


def test_run_tells_the_short_story(demo: Path) -> None:
    text = (demo / "stdout.txt").read_text(encoding="utf-8")
    for word in ("Harbor records archive", "ASCE/SEI 7-16", "design category D", "W = 12", "kip",
                 "Base shear X", "Drift Y", "exceeded", "torsional irregularity",
                 "results/record.html"):
        assert word in text, word


def test_run_writes_everything_and_nothing_else(demo: Path) -> None:
    assert sorted(p.name for p in demo.iterdir()) == ["archive.toml", "results", "stdout.txt"]
    out = demo / "results"
    assert sorted(p.name for p in out.iterdir()) == [
        ".undatum", "base_shear.html", "figures", "record.html", "record_short.html",
        "results.json", "results.nc", "results.xlsx", "tables"]
    assert sorted(p.stem for p in (out / "figures").iterdir()) == [
        "drift", "drift_painted", "mode_shapes", "plan", "spectrum", "story_shears"]
    for picture in (out / "figures").iterdir():
        assert picture.read_bytes().startswith(b"\x89PNG")


def test_results_match_their_schema(demo: Path, command: Command) -> None:
    assert command(["schema", "--results"]) == 0
    schema = json.loads(command.said.out)
    jsonschema.Draft202012Validator.check_schema(schema)
    data = json.loads((demo / "results" / "results.json").read_text(encoding="utf-8"))
    jsonschema.validate(data, schema)
    assert data["severity"] == "exceeded"
    assert {"modes", "drift_x", "weight_items", "scaling"} <= set(data["tables"])


@pytest.mark.parametrize("name", STARTERS)
def test_shipped_projects_match_the_published_schema(name: str, command: Command) -> None:
    import tomllib

    assert command(["schema"]) == 0
    schema = json.loads(command.said.out)
    jsonschema.Draft202012Validator.check_schema(schema)
    judge = jsonschema.Draft202012Validator(schema)
    right = tomllib.loads(starter_text(name))
    assert judge.is_valid(right)
    assert not judge.is_valid({**right, "site": {**right["site"], "soil": "D"}})


@pytest.mark.parametrize("name", STARTERS)
def test_new_writes_a_project_that_is_valid(name: str, tmp_path: Path, command: Command) -> None:
    path = tmp_path / "sub" / "mine.toml"
    assert command(["new", str(path), "--like", name]) == 0
    assert command(["check", str(path)]) == 0
    said = command.said.out
    assert "mine.toml: valid" in said
    assert "would run" in said
    assert command(["new", str(path)]) == 2
    assert "already there; nothing was written" in command.said.err
    assert path.read_text(encoding="utf-8").count("{name}") == 0


def test_starter_runs_as_it_is_and_exits_0(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    monkeypatch.chdir(tmp_path)
    assert command(["new"]) == 0
    assert command(["run", "project.toml", "--quiet"]) == 0
    said = command.said
    assert said.err == ""
    assert (tmp_path / "results" / "record.html").exists()


def test_spectrum_prints_and_draws(tmp_path: Path, command: Command) -> None:
    path, plot, table = (tmp_path / n for n in ("p.toml", "s.png", "s.csv"))
    path.write_text(starter_text("clinic"), encoding="utf-8")
    code = command(["spectrum", str(path), "--plot", str(plot), "--table", str(table)])
    assert code == 0
    said = command.said.out
    assert "S_DS" in said
    assert "11.4.5, Eq. 11.4-3" in said
    assert plot.read_bytes().startswith(b"\x89PNG")
    assert table.read_text(encoding="utf-8").startswith("period (s),acceleration (g)")
    assert command(["spectrum", str(path), "--plot", str(tmp_path / "no" / "s.png")]) == 2
    assert "cannot be written" in command.said.err


def test_systems_can_be_searched(command: Command) -> None:
    assert command(["systems", "asce7-16", "--find", "moment frame", "--category", "D"]) == 0
    said = command.said.out
    assert "Steel special moment frame" in said
    assert "Concrete ordinary moment frame" not in said  # not permitted in D
    assert command(["systems", "--find", "bamboo"]) == 2
    assert command(["systems", "--category", "Z"]) == 2
    assert command(["systems", "ubc97", "--category", "D"]) == 2
    assert "leave the option out" in command.said.err
    assert command(["systems", "asce7-61"]) == 2
    assert "did you mean 'asce7-16'" in command.said.err


def test_help_names_the_commands_and_exit_codes(command: Command) -> None:
    assert command(["--help"]) == 0
    said = command.said.out
    for word in ("new", "check", "spectrum", "run", "systems", "schema", "Exit codes"):
        assert word in said
    assert command(["--version"]) == 0
    assert command.said.out.startswith("undatum ")


def test_help_and_import_stay_light() -> None:
    """Neither loads the numerical packages nor the drawing package."""
    code = (
        "import sys, undatum, undatum.cli; "
        "heavy = {'numpy', 'scipy', 'pandas', 'matplotlib', 'pint', 'pydantic', 'shapely'}; "
        "print(sorted(heavy & set(sys.modules)))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_unwritable_output(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "p.toml"
    path.write_text(starter_text("starter"), encoding="utf-8")
    (tmp_path / "out").write_text("a file in the way")
    assert command(["run", str(path), "--out", str(tmp_path / "out"), "--quiet"]) == 2
    assert "is a file, not a folder" in command.said.err
    assert (tmp_path / "out").read_text() == "a file in the way"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["out", "p.toml"]


@pytest.mark.parametrize(
    ("example", "words"),
    [("study/hall.toml", ("from study.csv, over the standard's floor, vertical of its own",
                          "typed in the project")),
     ("located/warehouse.toml", ("looked up for latitude -40.37", "2 gaps", "by the standard"))],
)
def test_check_says_where_values_come_from(
    example: str, words: tuple[str, ...], monkeypatch: pytest.MonkeyPatch, command: Command,
) -> None:
    monkeypatch.setenv("COLUMNS", "200")
    path = Path(__file__).parent.parent / "examples" / example
    assert command(["check", str(path)]) == 0
    said = command.said.out
    for word in words:
        assert word in said, said


@pytest.mark.parametrize("standard", [k for k in ROOMS if "." not in k])
def test_a_starter_under_every_standard_runs(
    standard: str, tmp_path: Path, command: Command
) -> None:
    file = tmp_path / "mine.toml"
    assert command(["new", str(file), "--standard", standard]) == 0
    results = ud.run(ud.read(file))
    assert results.project.standard == standard
    assert results.severity != "exceeded"
    assert command(["new", str(tmp_path / "x.toml"), "--standard", "en199"]) == 2
    assert "did you mean 'en1998'" in command.said.err
