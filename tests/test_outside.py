"""A standard of another package: registered by an entry point, with limit states of its own."""

from __future__ import annotations

import subprocess
import sys
import textwrap
from pathlib import Path

import pytest

MODULE = '''
"""Three limit states, two of them for drift; the divisor depends on the period."""
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from undatum.ground.spectrum import ScaledSpectrum, Spectrum
from undatum.record import fixed
from undatum.standards.answers import DriftLimit
from undatum.standards.terms import LimitState
from undatum.standards.ubc97 import UBC97
from undatum.standards.ubc97.limits import ModalAnalysis, Structure
from undatum.standards.ubc97.static import Forces

ULTIMATE = LimitState("ultimate", "forces")
DAMAGE = LimitState("damage limitation", "drift")
SERVICE = LimitState("serviceability", "drift")


@dataclass(frozen=True, slots=True)
class Divided(Spectrum):
    """A divisor that grows from 1 at T = 0 to the whole at half a second."""

    name: str
    base: Spectrum
    whole: float
    damping: float = 0.05

    @fixed
    def __call__(self, period):
        t = np.asarray(period, dtype=float)
        return self.base(t) / (1 + (self.whole - 1) * np.minimum(t / 0.5, 1.0))


class OwnForces(Forces):
    def base_shear(self, direction, state, period, computed):
        found = super().base_shear(direction, state, period, computed)
        share = {"ultimate": 1.0, "damage limitation": 0.5, "serviceability": 0.2}[state.key]
        return replace(found, base_shear=share * found.base_shear,
                       coefficient=share * found.coefficient)


class OwnDynamics(ModalAnalysis):
    def reduced(self, direction, state):
        whole = self.job.systems[direction].force_divisor
        if state == SERVICE:
            return ScaledSpectrum("a fifth", self.job.spectra[direction], 0.2)
        return Divided("divided by the period", self.job.spectra[direction], whole)

    def displacement_factor(self, direction, state):
        return {"damage limitation": 3.0, "serviceability": 1.0}.get(state.key, 1.0)


class OwnStructure(Structure):
    def drift_limit(self, direction, state, structure, period, irregular=()):
        found = super().drift_limit(direction, state, structure, period, irregular)
        ratio = 0.010 if state == DAMAGE else 0.004
        return DriftLimit(ratio, "own " + state.key, found.working)


class Plain(UBC97):
    key = "plain-land"
    title = "Plain Land Rules"
    states = (ULTIMATE, DAMAGE, SERVICE)

    def forces(self, job):
        return OwnForces(job)

    def dynamics(self, job):
        return OwnDynamics(job)

    def whole(self, job):
        return OwnStructure(job)
'''

PROJECT = '''
title = "Somewhere plain"
standard = "plain-land"
units = "kN and m"
[site]
zone = "3"
soil = "SD"
occupancy_category = "standard"
[system]
X = { row = "3.1a", regular = true }
Y = { row = "3.1a", regular = true }
[building.outlines]
plan = [[0, 0], [12, 0], [12, 8], [0, 8]]
[[building.levels]]
name = "Roof"
height = 3
outline = "plan"
loads = [{ name = "all", kind = "dead", per_area = 5 }]
[[building.levels]]
name = "First"
height = 3
outline = "plan"
loads = [{ name = "all", kind = "dead", per_area = 6 }]
[[building.levels]]
name = "Ground"
outline = "plan"
[[building.lines]]
name = "A"
at = [6, 0]
direction = "X"
bottom = "Ground"
top = "Roof"
stiffness = 9000
[[building.lines]]
name = "B"
at = [6, 8]
direction = "X"
bottom = "Ground"
top = "Roof"
stiffness = 9000
[[building.lines]]
name = "C"
at = [0, 4]
direction = "Y"
bottom = "Ground"
top = "Roof"
stiffness = 9000
[[building.lines]]
name = "D"
at = [12, 4]
direction = "Y"
bottom = "Ground"
top = "Roof"
stiffness = 9000
'''

CHECK = '''
import numpy as np, pathlib, sys
import undatum as ud
folder = pathlib.Path(sys.argv[1])
r = ud.run(ud.read(folder / "project.toml"))
assert r.standard_title == "Plain Land Rules"
assert [s.key for s in r.states] == ["ultimate", "damage limitation", "serviceability"]
assert r.strength.key == "ultimate"
v = {s.key: r.statics["X", s.key].shear.base_shear for s in r.states}
assert abs(v["damage limitation"] / v["ultimate"] - 0.5) < 1e-9, v
assert abs(v["serviceability"] / v["ultimate"] - 0.2) < 1e-9, v
assert set(r.drifts) == {"damage limitation", "serviceability"}
for key, factor, limit in (("damage limitation", 3.0, 0.010), ("serviceability", 1.0, 0.004)):
    check = r.drifts[key]
    assert all(key in name for name in check.sets), check.sets
    assert not any("ultimate" in name for name in check.sets)
    assert np.allclose(check.factors, factor), check.factors
    assert abs(check.limits[0] - limit) < 1e-12
names = [s.name for s in (*r.static_sets, *r.spectrum_sets)]
assert len(names) == len(set(names)), names
found = [f for f in r.findings if f.check.startswith("story drift")]
assert {f.clause for f in found} >= {"own damage limitation", "own serviceability"}, found
t = 0.25  # half way up the divisor
whole = r.laterals["X"].force_divisor
assert abs(float(r.reduced["X", "ultimate"](t)) * (1 + (whole - 1) / 2)
           / float(r.spectrum(t)) - 1) < 1e-12
assert any(s.state.key == "serviceability" for s in r.spectrum_sets)
r.save(folder / "kept")
assert ud.load(folder / "kept") == r
print("fine")
'''


@pytest.fixture
def installed(tmp_path: Path) -> Path:
    """A package with an entry point, found like any that pip installs."""
    home = tmp_path / "site"
    info = home / "plain_land-1.0.dist-info"
    info.mkdir(parents=True)
    (home / "plain_land.py").write_text(MODULE, encoding="utf-8")
    (info / "METADATA").write_text("Metadata-Version: 2.1\nName: plain-land\nVersion: 1.0\n",
                                   encoding="utf-8")
    (info / "entry_points.txt").write_text(textwrap.dedent("""
        [undatum.standards]
        plain-land = plain_land:Plain
    """), encoding="utf-8")
    (tmp_path / "project.toml").write_text(PROJECT, encoding="utf-8")
    return tmp_path


def call(folder: Path, *command: str, home: str = "site") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, *command], text=True, capture_output=True, cwd=folder, check=False,
        env={"PYTHONPATH": str(folder / home), "PATH": "/usr/bin:/bin", "HOME": str(folder)})


def test_a_registered_standard_runs_the_whole_job(installed: Path) -> None:
    done = call(installed, "-c", CHECK, str(installed))
    assert done.stdout.strip() == "fine", done.stderr[-2000:]


def test_the_command_line_takes_it_too(installed: Path) -> None:
    done = call(installed, "-m", "undatum", "run", "project.toml", "--out", "out",
                "--detail", "short")
    assert done.returncode in (0, 1), done.stderr
    assert (installed / "out" / "record_short.html").is_file()
    assert "Plain Land Rules" in done.stdout


def test_without_the_package_the_key_is_unknown(installed: Path) -> None:
    done = call(installed, "-m", "undatum", "check", "project.toml", home="nowhere")
    assert done.returncode == 2
    assert "'plain-land' is not a standard that is shipped or registered" in \
        " ".join(done.stdout.split() + done.stderr.split())


def test_what_is_no_standard_is_refused(installed: Path) -> None:
    (installed / "site" / "plain_land.py").write_text("def Plain():\n    return 3\n",
                                                      encoding="utf-8")
    done = call(installed, "-m", "undatum", "check", "project.toml")
    assert done.returncode == 2
    assert "is no standard" in " ".join(done.stdout.split() + done.stderr.split())
