"""The job as stages: stop after any, change one thing, and only what follows is done again."""

from __future__ import annotations

import gc
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from conftest import SITE, SYSTEMS, shear_building
from undatum.analysis.accelerations import floor_accelerations
from undatum.analysis.combine import combiner
from undatum.analysis.response import nodal_forces, peaks_by_spectrum
from undatum.job.stage import stage
from undatum.memory import without_collecting
from undatum.results.results import Results

TWISTED = shear_building([6e7] * 4, [2e5] * 4, lines_x=[(0.0, 0.7), (6.0, 0.3)])


def project(**more: object) -> ud.Project:
    given: dict[str, object] = {"title": "t", "standard": "asce7-16", "site": SITE,
                                "system": SYSTEMS, "building": TWISTED, **more}
    return ud.make_project(**given)  # type: ignore[arg-type]


def test_every_stage_is_typed_and_has_one_place() -> None:
    """A type checker knows every stage, and no two classes of the job give one of one name."""
    assert len(set(ud.Job.names())) == len(ud.Job.names())
    for base in ud.Job.__mro__:
        for name, one in vars(base).items():
            if isinstance(one, stage):
                assert "return" in one.make.__annotations__, name
                assert one.name == name


def test_a_user_script_is_checked(tmp_path: Path) -> None:
    """mypy --strict knows what a stage gives, and refuses one that is misspelt."""
    script = tmp_path / "script.py"
    script.write_text(
        "import undatum as ud\n"
        "job = ud.calculate(ud.shipped_project('arcade'))\n"
        "reveal_type(job.modes)\nreveal_type(job.drifts)\nreveal_type(ud.run(job.project))\n"
        "job.mode\n")
    done = subprocess.run(  # with the settings, and so the cache, of `make lint`
        [sys.executable, "-m", "mypy", "--strict", str(script)], capture_output=True, text=True,
        check=False, cwd=Path(__file__).parents[1])
    assert 'Revealed type is "undatum.analysis.modes.Modes"' in done.stdout
    assert "DriftCheck" in done.stdout
    assert "undatum.results.results.Results" in done.stdout
    assert '"Job" has no attribute "mode"' in done.stdout


def test_a_caller_stops_where_it_likes() -> None:
    c = ud.calculate(project())
    assert c.site.parameters["S_DS"] == pytest.approx(2 / 3 * 1.2)
    assert not {"weights", "solver", "modes"} & set(c.done)
    assert c.weights.total == pytest.approx(4 * 2e5 * 9.80665)
    assert "modes" not in c.done
    c.up_to("modes")
    assert not {"statics", "drift", "findings"} & set(c.done)
    with pytest.raises(KeyError, match="did you mean 'modes'"):
        c.up_to("mode")


def test_a_variant_of_the_site_keeps_model_and_modes() -> None:
    c = ud.calculate(project()).up_to("findings")
    v = c.varied({"site.ss": 0.5, "site.s1": 0.15})
    whole = ud.run(project(site={**SITE, "ss": 0.5, "s1": 0.15}))
    for name in ("weights", "solver", "facts", "modes", "computed", "plan"):
        assert getattr(v, name) is getattr(c, name), name
    assert v.statics is not c.statics
    assert v.statics == whole.statics
    assert v.drift == whole.drift
    assert v.findings == whole.findings


def test_a_variant_of_the_system_changes_what_hangs_on_it() -> None:
    c = ud.calculate(project()).up_to("findings")
    v = c.varied({"system.X.row": "C.4"})
    assert v.site is c.site
    assert v.modes is c.modes
    whole = ud.run(project(system={"X": {"row": "C.4"}, "Y": {"row": "C.1"}}))
    assert v.statics == whole.statics


def test_a_variant_of_the_building_is_solved_anew() -> None:
    c = ud.calculate(project()).up_to("findings")
    v = c.varied({"building.lines[direction=X].stiffness": lambda k: 2 * k})
    assert v.site is c.site
    assert v.weights is c.weights  # equal weights are the same weights
    assert v.modes is not c.modes
    assert min(v.modes.periods) < min(c.modes.periods)


def test_another_standard_on_the_same_modes() -> None:
    """Dead load alone counts alike in both, so that weight, model and modes stay."""
    c = ud.calculate(project()).up_to("findings")
    site = {"zone": "3", "soil": "SD", "occupancy_category": "standard"}
    other = project(standard="ubc97", site=site, system={"X": {"row": "3.1a", "regular": True},
                                                         "Y": {"row": "3.1a", "regular": True}})
    v = c.of(other)
    assert v.findings == ud.run(other).findings
    assert v.solver is c.solver
    assert v.modes is c.modes


def test_a_chain_of_variants_holds_one_step_back() -> None:
    c = ud.calculate(project()).up_to("drift")
    modes = c.modes
    for k in range(5):
        c = c.varied({"site.ss": 0.5 + 0.1 * k}).up_to("drift")
    assert c.modes is modes
    assert c._before is None or c._before._before is None


def test_unused_results_of_a_variant_are_not_worked_out() -> None:
    c = ud.calculate(project()).up_to("drift")
    v = c.varied({"site.ss": 0.9})
    v.up_to("drift")
    assert "combinations" not in v.done
    assert "plausibility" not in v.done


def test_many_spectra_on_one_set_of_modes_against_one_at_a_time(archive: Results) -> None:
    """The spectrum axis against the set that a run makes, spectrum by spectrum."""
    model, modes = archive.model, archive.modes
    quantity = model.quantities["story shear"]
    periods = modes.periods[: modes.kept]
    ordinates = np.array([(0.4 + 0.2 * k) * archive.reduced["X", "strength"](periods)
                          for k in range(3)])
    how = combiner("CQC", 2 * np.pi / periods, np.full(modes.kept, 0.05))
    found = peaks_by_spectrum(modes, "X", quantity, model, ordinates, how)
    for row, sa in zip(found, ordinates, strict=True):
        modal = modes.shapes[:, : modes.kept] * (
            modes.participation[: modes.kept, 0] * sa / modes.omega[: modes.kept] ** 2)
        each = quantity.of(modal, nodal_forces(model, modal))
        slow = [np.sqrt(v @ correlation(periods) @ v) for v in each]
        assert row == pytest.approx(slow, rel=1e-9)


def correlation(periods: np.ndarray) -> np.ndarray:  # type: ignore[type-arg]
    """Der Kiureghian's coefficients at 5 % in every mode, written out anew."""
    z = 0.05
    r = periods[:, None] / periods[None, :]
    top = 8 * z**2 * (1 + r) * r**1.5
    return np.asarray(top / ((1 - r**2) ** 2 + 4 * z**2 * r * (1 + r) ** 2))


def test_the_collector_of_cycles_runs_again_after_a_job_and_after_an_error() -> None:
    with without_collecting():
        with without_collecting():
            assert not gc.isenabled()
        assert not gc.isenabled()  # the outer one still waits
    assert gc.isenabled()
    with pytest.raises(ValueError, match="no"), without_collecting():
        raise ValueError("no")
    assert gc.isenabled()
    gc.disable()
    try:
        ud.calculate(project()).up_to("modes")
        assert not gc.isenabled()  # whoever turned it off turns it on
    finally:
        gc.enable()


def test_floor_accelerations_take_the_damping_of_each_mode() -> None:
    one = ud.calculate(ud.shipped_project("terrace").varied(
        {"analysis.damping_of": {"columns at L1": 0.02, "C35/45": 0.06}}))
    r = ud.run(one.project)
    assert len(set(one.damping_ratios[: r.modes.kept])) > 1
    expected = floor_accelerations(
        r.model, r.modes, r.shaking.horizontal, r.plumb, "CQC", one.damping_ratios, "100/30",
        r.rules.rigid_period)
    assert r.accelerations == expected
