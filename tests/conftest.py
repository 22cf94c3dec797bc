"""Shared projects and results; everything drives the public interface."""

from __future__ import annotations

import gc
import sys
import tomllib
from base64 import b64decode
from importlib.resources import files
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import settings

import undatum as ud
from undatum import standards
from undatum.cli import main
from undatum.ground.spectrum import Spectrum
from undatum.layout import weigh
from undatum.mechanics import Solver, factorize, idealize
from undatum.results.results import Results
from undatum.standards.answers import BaseShearAnswer, SiteAnswer, WeightShare
from undatum.standards.facts import LoadFacts, StaticLevels, StructureFacts, TorsionFacts
from undatum.standards.terms import DIRECTIONS, Direction, LimitState
from verification import verify, write_pages

__all__ = ["verify"]
settings.register_profile(  # a busy machine is no fault of the code
    "steady", deadline=None, max_examples=50)
settings.load_profile("steady")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--verification", default="", help="folder for the verification pages")


def pytest_collection_finish() -> None:
    """What is loaded stays: the collector of cycles need not look through it at every test."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)


def pytest_sessionfinish(session: pytest.Session) -> None:
    folder = session.config.getoption("--verification")
    if folder:
        write_pages(Path(folder))


STARTERS = ("starter", "archive", "clinic", "terrace")


def starter_text(name: str) -> str:
    return (files("undatum.project") / "starters" / f"{name}.toml").read_text(encoding="utf-8")


@pytest.fixture
def archive_data() -> dict[str, Any]:
    """The demo project as plain data, free to change."""
    return tomllib.loads(starter_text("archive"))


@pytest.fixture(scope="session")
def results(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Results]:
    """Every shipped project, read from its file and run once."""
    folder = tmp_path_factory.mktemp("starters")
    found = {}
    for name in STARTERS:
        path = folder / f"{name}.toml"
        path.write_text(starter_text(name), encoding="utf-8")
        found[name] = ud.run(ud.read(path))
    return found


@pytest.fixture(scope="session")
def archive(results: dict[str, Results]) -> Results:
    return results["archive"]


def write_toml(data: dict[str, Any], path: Path) -> Path:
    """A plain TOML writer for test data: inline values under one key each."""

    def value(v: Any) -> str:
        if isinstance(v, bool):
            return "true" if v else "false"
        if isinstance(v, dict):
            return "{ " + ", ".join(f'"{k}" = {value(x)}' for k, x in v.items()) + " }"
        if isinstance(v, list):
            return "[" + ", ".join(value(x) for x in v) + "]"
        if isinstance(v, str):
            return '"' + v.replace("\\", "\\\\").replace('"', '\\"') + '"'
        return repr(v)

    path.write_text("\n".join(f'"{k}" = {value(v)}' for k, v in data.items()) + "\n",
                    encoding="utf-8")
    return path


def shear_building(
    stiffness: list[float], mass: list[float], *, lines_x: list[tuple[float, float]] | None = None,
    lines_y: list[tuple[float, float]] | None = None, height: float = 3.0,
    plan: tuple[float, float] = (10.0, 6.0),
) -> ud.Building:
    """A rectangular building of story springs, top down; lines at (place, share of stiffness)."""
    a, b = plan
    n = len(stiffness)
    g = 9.80665
    levels = [
        ud.Level(name=f"L{n - i}", height=height, outline=[(0, 0), (a, 0), (a, b), (0, b)],
                 loads=[ud.Load(name="floor", kind="dead", total=mass[i] * g)])
        for i in range(n)
    ]
    levels.append(ud.Level(name="Ground", outline=[(0, 0), (a, 0), (a, b), (0, b)]))
    places_x = lines_x or [(0.0, 0.5), (b, 0.5)]
    places_y = lines_y or [(0.0, 0.5), (a, 0.5)]
    lines = [
        ud.Line(name=f"{d}{i}", at=(a / 2, y) if d == "X" else (y, b / 2), direction=d,
                bottom="Ground", top=f"L{n}", stiffness=[share * k for k in stiffness])
        for d, places in (("X", places_x), ("Y", places_y))
        for i, (y, share) in enumerate(places)
    ]
    return ud.Building(levels=levels, lines=lines)


def solver_of(building: ud.Building) -> Solver:
    rule = standards.get("asce7-16").weight(None)
    return factorize(idealize(building, weigh(
        building, lambda *x: rule.share(LoadFacts(*x)),
        lambda *x: rule.gravity(LoadFacts(*x))).masses))


USUAL = StructureFacts(14.0, 4, (3.5,) * 4, 1e7, (20.0, 12.0), 240.0)


class Room:
    """A standard asked part by part for one structure, as the stages of a job ask it."""

    def __init__(
        self, key: str, site: dict[str, Any], system: dict[str, Any],
        facts: StructureFacts = USUAL, folder: Path | None = None,
        spectrum: Spectrum | None = None,
    ) -> None:
        self.standard = standards.get(key, folder)
        given = self.standard.site_input(**site)
        self.ground = self.standard.ground(given)
        self.site: SiteAnswer = self.ground.site()
        asked = {d: self.standard.system_input(**system) for d in DIRECTIONS}
        self.job = self.standard.bind(given, self.site, asked, facts,
                                      dict.fromkeys(DIRECTIONS, spectrum or self.site.spectrum))
        self.forces = self.standard.forces(self.job)
        self.dynamics = self.standard.dynamics(self.job)
        self.whole = self.standard.whole(self.job)

    def state(self, key: str) -> LimitState:
        return next(s for s in self.standard.states if s.key == key)

    def shear(
        self, state: str, computed: float | None, direction: Direction = "X"
    ) -> BaseShearAnswer:
        return self.forces.base_shear(direction, self.state(state),
                                      self.forces.period(direction), computed)

    def spread(self, shear: BaseShearAnswer, weights: Any, heights: Any) -> Any:
        levels = StaticLevels(np.asarray(weights, float), np.asarray(heights, float),
                              np.asarray(heights, float))
        return self.forces.distribution(shear, levels).forces


def site_of(standard: Any, **given: Any) -> SiteAnswer:
    """What a standard says of a site."""
    if isinstance(standard, str):
        standard = standards.get(standard)
    answer: SiteAnswer = standard.ground(standard.site_input(**given)).site()
    return answer


def share_of(key: str, load: LoadFacts, given: Any = None) -> WeightShare:
    """What a standard counts of a load."""
    found: WeightShare = standards.get(key).weight(given).share(load)
    return found


def twisted(ratio: float) -> TorsionFacts:
    """One story whose ends drift with this ratio of largest to average, under both signs."""
    ends = np.array([[ratio], [2.0 - ratio]])
    return TorsionFacts(("1",), np.stack([ends, ends]), np.stack([ends, ends]),
                        np.array([True]))


def frame_of(r: Results, *asked: str, **more: Any) -> pd.DataFrame:
    """What is read of a run, as a frame in its units."""
    return r.read(*asked, **more).table().to_frame(r.units)


def section(r: Results, title: str) -> Any:
    """The working with a heading."""
    return next(w for w in r.working if w.title == title)


SITE = {"ss": 1.0, "s1": 0.4, "long_period": 8.0, "site_class": "C", "risk_category": "II"}
SYSTEMS = {"X": {"row": "C.1"}, "Y": {"row": "C.1"}}

DOT = b64decode(  # a picture of one pixel
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAAAAAA6fptVAAAACklEQVR4nGP4DwABAQEAsTj2FAAAAABJRU5ErkJggg==")
OWN = Path(__file__).parent.parent / "examples" / "owner"
#: By key: the site, the system, and site values from the least to the greatest importance.
ROOMS: dict[str, tuple[dict[str, Any], dict[str, Any], str, tuple[str, ...]]] = {
    **{f"asce7-{e}": ({**SITE, **({"sms": 1.2, "sm1": 0.6} if e == "22" else {})}, {"row": "C.1"},
                      "risk_category", ("I", "II", "III", "IV")) for e in ("05", "10", "16", "22")},
    "en1998": ({"reference_acceleration": 0.25, "ground_type": "C", "importance_class": "II",
                "use": "B"},
               {"row": "concrete frame", "regular_in_plan": True, "regular_in_elevation": True},
               "importance_class", ("I", "II", "III", "IV")),
    **{f"is1893-{e}": ({"zone": "IV", "soil": "II", "importance_factor": "1.0"},
                       {"row": "RC SMRF", "regular": True}, "importance_factor", grades)
       for e, grades in (("2002", ("1.0", "1.5")), ("2016", ("1.0", "1.2", "1.5")))},
    "nzs1170": ({"hazard_factor": 0.3, "subsoil": "C", "importance_level": "2"},
                {"ductility": 3.0}, "importance_level", ("1", "2", "3", "4")),
    "tbdy2018": ({"ss": 0.9, "s1": 0.25, "ss_dd3": 0.38, "s1_dd3": 0.1, "site_class": "ZC",
                  "use_class": "3"}, {"row": "C11"}, "use_class", ("3", "2", "1")),
    "ubc97": ({"zone": "4", "soil": "SC", "occupancy_category": "standard", "source_type": "B",
               "source_distance": 6e3}, {"row": "3.1a", "regular": True}, "occupancy_category",
              ("standard", "essential")),
    "criteria.toml": ({"importance": "ordinary"}, {"row": "steel frame"}, "importance",
                      ("ordinary", "process")),
}


def analyze(building: ud.Building, **more: Any) -> Results:
    given: dict[str, Any] = {
        "title": "test", "standard": "asce7-16", "site": SITE, "system": SYSTEMS,
        "building": building, **more,
    }
    return ud.analyze(**given)


def dot(figure: Any, path: str | Path) -> None:
    """In place of a figure, which is made and laid out: painting it takes a third of a run."""
    assert figure.axes
    Path(path).write_bytes(DOT)


@pytest.fixture
def unpainted(monkeypatch: pytest.MonkeyPatch) -> None:
    """Figures are not painted; tests of pictures do without this."""
    monkeypatch.setattr("undatum.report.figures.save", dot)


def entry(arguments: list[str], patch: pytest.MonkeyPatch) -> int:
    """The exit code of the command line, in this process."""
    patch.setattr(sys, "argv", ["undatum", *arguments])
    patch.setenv("COLUMNS", "300")
    try:
        main()
    except SystemExit as error:
        return int(error.code or 0)
    return 0


class Command:
    """The command line in this process: called with its arguments it gives the exit code;
    ``said`` is what it wrote."""

    def __init__(self, patch: pytest.MonkeyPatch, capture: pytest.CaptureFixture[str]) -> None:
        self.patch, self.capture = patch, capture

    def __call__(self, arguments: list[str]) -> int:
        self.capture.readouterr()
        code = entry(arguments, self.patch)
        self.said = self.capture.readouterr()
        return code


@pytest.fixture
def command(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Command:
    return Command(monkeypatch, capsys)
