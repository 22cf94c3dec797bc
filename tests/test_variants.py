"""Families of variants: what is drawn, the same numbers however they are run, stopped and gone on
with; what matters, against closed forms; where a drift comes from and what cures it."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

import undatum as ud
from conftest import ROOMS, Command, shear_building
from test_lines_under_floors import with_lines
from test_walls import CORE, building, made
from undatum.mechanics.quantities import center_line, plumb_drift
from undatum.report import variants as report
from undatum.results.exchange import STATE, alone
from undatum.variants.design import drawn, sample
from undatum.variants.explain import explained_worst
from undatum.variants.found import explained
from undatum.variants.kept import values_of
from undatum.variants.running import run_task, tasks_of

STIFF = ud.Parameter(name="stiffness", path="building.lines[*].stiffness", times=True,
                     lognormal=ud.Lognormal(spread=0.2))
SITE = ud.Parameter(name="site class", path="site.site_class", values=["C", "D"])
S1 = ud.Parameter(name="S1", path="site.s1", between=(0.2, 0.6))


def family(count: int = 20, **more: Any) -> ud.Family:
    spec: dict[str, Any] = {"vary": [SITE, S1, STIFF], "design": "latin hypercube",
                            "count": count, "keep": ["base shear", "drift", "findings"]}
    return ud.Family(ud.shipped_project("archive"), ud.Variants(**spec | more))


@pytest.fixture(scope="module")
def run(tmp_path_factory: pytest.TempPathFactory) -> tuple[ud.Family, ud.FamilyResults]:
    made = family()
    return made, ud.run_family(made, tmp_path_factory.mktemp("family") / "out")


# -- what is drawn -----------------------------------------------------------------------------

def test_a_grid_has_every_combination_and_single_changes_one_each() -> None:
    a = ud.Parameter(name="a", path="site.ss", values=[1.0, 2.0])
    b = ud.Parameter(name="b", path="site.s1", between=("0.2", "0.6"), steps=3)
    assert drawn([a, b], "grid", 9, 1) == [(x, y) for x in (1.0, 2.0) for y in (0.2, 0.4, 0.6)]
    c = ud.Parameter(name="c", path="building.walls[w].thickness", between=("200 mm", "400 mm"),
                     steps=2)
    assert drawn([a, c], "one at a time", 9, 1) == [
        (None, None), (1.0, None), (2.0, None), (None, "200.0 mm"), (None, "400.0 mm")]


@given(seed=st.integers(0, 10**6), design=st.sampled_from(["latin hypercube", "sobol", "random"]))
@settings(max_examples=20)
def test_samples_have_the_distribution_asked_for(seed: int, design: Any) -> None:
    """The Kolmogorov distance to the distribution; the same seed, the same sample."""
    p = [ud.Parameter(name="n", path="site.ss", normal=ud.Normal(mean=1.0, deviation=0.1)),
         ud.Parameter(name="l", path="site.s1", lognormal=ud.Lognormal(median=0.4, spread=0.3)),
         ud.Parameter(name="u", path="site.x", between=(2.0, 6.0)),
         ud.Parameter(name="w", path="site.y", values=["a", "b"], weights=[1, 3])]
    rows = drawn(p, design, 256, seed)
    assert rows == drawn(p, design, 256, seed)
    columns = list(zip(*rows, strict=True))
    most = {"latin hypercube": 0.005, "sobol": 0.02, "random": 0.125}[design]
    for values, law in zip(columns, (stats.norm(1, 0.1), stats.lognorm(0.3, scale=0.4),
                                     stats.uniform(2, 4)), strict=False):
        assert stats.kstest(np.array(values, dtype=float), law.cdf).statistic < most
    assert columns[3].count("b") == pytest.approx(192, abs=256 * most)


def test_indices_of_a_known_function_are_found() -> None:
    """y = a + 2 b on uniform numbers: first-order indices 1/5 and 4/5, no interaction; the same
    from bins of the sample."""
    u = sample(2, "indices", 4096, 3)
    y = u[:, 0] + 2 * u[:, 1]
    settings_ = tuple((str(a), str(b)) for a, b in u)
    found = ud.FamilyResults("t", "N and m", "indices", 4096, ("a", "b"), ("", ""), ((), ()),
                             settings_, ("y",), ("",), (False,), y[:, None], *(("",) * len(y),) * 3)
    table = {r[0]: r for r in found.influence("y").rows()}
    for name, share in (("a", 0.2), ("b", 0.8)):
        *_, bins, first, total = table[name]
        assert first == pytest.approx(share, abs=0.01)
        assert total == pytest.approx(share, abs=0.01)
        assert bins == pytest.approx(share, abs=0.04)
    assert explained(u[:, 0], np.ones(len(u))) == 0.0


# -- run, stopped, gone on with ----------------------------------------------------------------

def test_a_variant_is_what_a_project_changed_by_hand_gives(
    run: tuple[ud.Family, ud.FamilyResults]
) -> None:
    fam, found = run
    for i in (0, 7, 19):
        site, s1, factor = fam.rows[i]
        alone = ud.run(ud.shipped_project("archive").varied({
            "site.site_class": site, "site.s1": s1,
            "building.lines[*].stiffness": lambda k, f=float(factor or 1): f * k}))
        for d in "XY":
            shear = alone.statics[d, alone.strength.key].shear.base_shear
            assert found.of(f"static base shear {d}")[i] == shear
            assert found.of(f"drift use {d}")[i] == alone.drift.largest_use(d)
        assert found.of("exceeded")[i] == sum(f.severity.value == "exceeded"
                                              for f in alone.findings)
    none = ("ok",) * len(found)
    assert found.exceeded == bool((found.of("exceeded") > 0).any())
    assert replace(found, severity=none).exceeded == bool(
        max(found.of(f"drift use {d}").max() for d in "XY") > 1)
    low = replace(found, severity=none, values=found.values / 1e9)
    assert not low.exceeded
    assert replace(low, severity=("exceeded", *none[1:])).exceeded


def test_the_same_on_processes_and_on_a_cluster(
    run: tuple[ud.Family, ud.FamilyResults], tmp_path: Path
) -> None:
    """To the last bit: on two processes; on a real cluster of two workers one of which is killed
    while it works."""
    pytest.importorskip("distributed")
    fam, found = run
    once = ud.run_family(fam, tmp_path / "two", jobs=2)
    assert np.array_equal(once.values, found.values)
    code = (
        "import os, signal, sys, threading, time\n"
        "import undatum as ud\nfrom distributed import Client, LocalCluster\n"
        "from test_variants import family\n"
        "if __name__ == '__main__':\n"
        "    own = LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None)\n"
        "    pids = Client(own).run(os.getpid)\n"
        "    threading.Timer(1.5, os.kill, (next(iter(pids.values())), signal.SIGKILL)).start()\n"
        "    ud.run_family(family(), sys.argv[1], cluster=own.scheduler_address)\n")
    script = tmp_path / "killed.py"
    script.write_text(code, encoding="utf-8")
    done = subprocess.run(
        [sys.executable, str(script), str(tmp_path / "cluster")], capture_output=True, text=True,
        timeout=240, check=False,
        env=os.environ | {"PYTHONPATH": os.pathsep.join([str(Path(__file__).parent), *sys.path])})
    assert done.returncode == 0, done.stderr[-2000:]
    assert np.array_equal(ud.load_family(tmp_path / "cluster").values, found.values)


def test_a_family_that_is_killed_goes_on(
    run: tuple[ud.Family, ud.FamilyResults], tmp_path: Path
) -> None:
    """Killed as soon as a part is there: what is done stays, the rest is done later, and all of it
    is what an uninterrupted run gives."""
    fam, found = run
    out = tmp_path / "out"
    code = ("import sys, undatum as ud\nfrom test_variants import family\n"
            "ud.run_family(family(), sys.argv[1])\n")
    process = subprocess.Popen(
        [sys.executable, "-c", code, str(out)],
        env=os.environ | {"PYTHONPATH": os.pathsep.join([str(Path(__file__).parent), *sys.path])})
    for _ in range(600):
        if list(out.glob("parts/part-*.nc")):
            break
        time.sleep(0.05)
    process.send_signal(signal.SIGKILL)
    process.wait()
    partly = ud.load_family(out)
    done = [i for i, why in enumerate(partly.failed) if not why]
    assert 0 < len(done) <= len(fam)
    assert np.array_equal(partly.values[done], found.values[done])
    told: list[tuple[int, int]] = []
    whole = ud.run_family(fam, out, progress=lambda *x: told.append(x))
    assert told[0][0] == len(done) if len(done) < len(fam) else True
    assert np.array_equal(whole.values, found.values)
    again = ud.load_family(out)
    assert again.settings == found.settings
    assert again.governs == found.governs
    assert np.array_equal(again.values, whole.values)
    with pytest.raises(ud.InputError, match="another family"):
        ud.run_family(family(count=21), out)
    with alone(out / STATE, out), pytest.raises(ud.InputError, match="another"):
        ud.run_family(fam, out)


def test_one_that_fails_is_a_row(tmp_path: Path) -> None:
    """A stiffness of next to nothing in one story is no end of the others."""
    path = "building.lines[*].stiffness"
    fam = family(vary=[ud.Parameter(name="s", path=path, times=True, values=[1.0, 1e-7]),
                       ud.Parameter(name="S1", path="site.s1", values=[0.3, 0.4])], design="grid",
                 keep=["periods", {"name": "top", "table": "drift_x", "column": "use",
                                   "where": {"story": "Roof"}, "take": "largest"}])
    bad = ud.Family(fam.project.varied({"analysis.second_order": "by story weight"}), fam.spec)
    found = ud.run_family(bad, tmp_path / "out")
    assert [bool(f) for f in found.failed] == [False, False, True, True]
    assert np.isfinite(found.values[:2]).all()
    assert np.isnan(found.values[2:]).all()
    assert "buckle" in found.failed[2]
    assert found.table().marks == (2, 3)
    job = ud.calculate(fam.project)
    with pytest.raises(ud.InputError, match="is not among the tables"):
        values_of(job, [ud.KeptValue(name="x", table="drift_q", column="use")])
    wrong = family(keep=[ud.KeptValue(name="x", read="stories", component="shear Q")])
    with pytest.raises(ud.InputError, match=r"(?s)keep\[0\].component.*did you mean 'shear "):
        ud.run_family(wrong, tmp_path / "never")
    assert not (tmp_path / "never").exists()
    moment = ud.KeptValue(name="m", read="stories", under="static X*", component="shear X")
    assert values_of(job, [moment])[0].value > 0
    with pytest.raises(ud.InputError, match=r"keep\[1\]: 'm' is kept twice"):
        values_of(job, [moment, moment])


def test_tasks_keep_one_model_together() -> None:
    fam = family(vary=[ud.Parameter(name="k", path="building.lines[*].stiffness", times=True,
                                    values=[0.9, 1.0, 1.1]),
                       ud.Parameter(name="S1", path="site.s1", between=(0.2, 0.6), steps=16)],
                 design="grid")
    for task in tasks_of(fam):
        assert len({fam.rows[i][0] for i in task}) == 1
    assert sorted(i for task in tasks_of(fam) for i in task) == list(range(48))
    assert [one.number for one in run_task(fam, [0, 16])] == [0, 16]


@pytest.mark.parametrize(("changes", "place", "said"), [
    ({"path": "site.s2"}, "variants.vary[0]", "is not a known key"),
    ({"path": "site.ss", "values": [1.0, -1.0]}, "variants.vary[0]", "out of range"),
    ({"path": "building.lines[Z].stiffness", "values": [1.0]}, "variants.vary[0]", "chooses"),
    ({"path": "standard", "values": ["en1998"]}, "variants.vary[0]", "not among the alternatives"),
])
def test_wrong_families_are_refused_before_the_first_run(
    changes: dict[str, Any], place: str, said: str
) -> None:
    one = ud.Parameter(**{"name": "p", "values": [1.0], **changes})
    with pytest.raises(ud.InputError) as error:
        family(vary=[one], design="grid")
    assert error.value.faults[0].place == place
    assert said in str(error.value)


def test_a_table_in_the_project_is_in_its_units_and_a_csv_does_as_well(tmp_path: Path) -> None:
    """Plain numbers in a kip-ft file are kip and ft; in Python they are SI; a CSV of the same."""
    text = (Path(ud.__file__).parent / "project/starters/archive.toml").read_text("utf-8")
    head = text[:text.index("[variants]")]
    file = tmp_path / "a.toml"
    file.write_text(head + '[variants]\n[[variants.vary]]\nname = "h"\n'
                    'path = "building.levels[Roof].height"\nvalues = [12.0, 13.0]\n', "utf-8")
    project = ud.read(file)
    fam = ud.family_of(project)
    assert fam.variant(1).building.levels[0].height == pytest.approx(13 * 0.3048)
    plain = ud.Family(project, ud.Variants(vary=[ud.Parameter(
        name="h", path="building.levels[Roof].height", values=[13 * 0.3048])]))
    assert plain.variant(0).building.levels[0].height == fam.variant(1).building.levels[0].height
    (tmp_path / "rows.csv").write_text("h,site.s1\n12 ft,\n13 ft,0.5\n", "utf-8")
    by_rows = ud.family_of(project, table="rows.csv")
    assert by_rows.variant(1).building.levels[0].height == pytest.approx(13 * 0.3048)
    assert by_rows.variant(1).site.s1 == 0.5  # type: ignore[attr-defined]
    assert by_rows.variant(0).site == project.site
    (tmp_path / "paths.csv").write_text("site.site_class,site.s1\nC,\n,0.3\n", "utf-8")
    alone = ud.family_of(project.model_copy(update={"variants": None}), table="paths.csv")
    assert alone.changes(0) == {"site.site_class": "C"}
    assert alone.changes(1) == {"site.s1": 0.3}


def test_several_standards_and_buildings_in_one_family(tmp_path: Path) -> None:
    project = ud.shipped_project("clinic")
    other = next(iter(project.alternatives))
    fam = ud.Family(project, ud.Variants(
        vary=[ud.Parameter(name="standard", path="standard", values=[project.standard, other])],
        keep=["base shear"]))
    found = ud.run_family(fam, tmp_path / "out")
    both = ud.side_by_side(project).results
    for i, key in enumerate((project.standard, other)):
        one = next(r for r in both if r.project.standard == key)
        assert found.of("static base shear X")[i] == pytest.approx(
            one.statics["X", one.strength.key].shear.base_shear, rel=1e-12)


def test_project_files_are_a_parameter_too(tmp_path: Path) -> None:
    for name in ("archive", "clinic"):
        text = (Path(ud.__file__).parent / f"project/starters/{name}.toml").read_text("utf-8")
        (tmp_path / f"{name}.toml").write_text(text, "utf-8")
    fam = ud.Family(ud.read(tmp_path / "archive.toml"), ud.Variants(
        vary=[ud.Parameter(name="building", path="project",
                           values=["archive.toml", "clinic.toml"])], keep=["weight", "drift"]))
    found = ud.run_family(fam, tmp_path / "out")
    for i, name in enumerate(("archive", "clinic")):
        alone = ud.run(ud.shipped_project(name))
        assert found.of("seismic weight")[i] == pytest.approx(alone.seismic_weight, rel=1e-12)
    with (tmp_path / "clinic.toml").open("a", encoding="utf-8") as file:
        file.write("# of another day\n")
    with pytest.raises(ud.InputError, match="older state"):
        ud.run_family(ud.Family(fam.project, fam.spec), tmp_path / "out")
    with pytest.raises(ud.InputError, match=r"none.toml"):
        ud.Family(fam.project, ud.Variants(vary=[ud.Parameter(
            name="building", path="project", values=["none.toml"])]))


# -- read ----------------------------------------------------------------------------------------

def test_the_one_change_behind_the_worst(run: tuple[ud.Family, ud.FamilyResults]) -> None:
    """Named is the change without which a run by hand is lowest."""
    fam, found = run
    rows = explained_worst(fam, found, "drift use X", 2)
    for row in rows.rows():
        i = int(str(row[0])[1:]) - 1
        assert row[1] == found.of("drift use X")[i]
        without = [ud.run(fam.varied_but(i, k)).drift.largest_use("X") for k in range(3)]
        assert row[2] == fam.parameters[int(np.argmin(without))].name
        assert row[4] == pytest.approx(min(without), rel=1e-9)
    assert [r[1] for r in rows.rows()] == sorted(found.of("drift use X"))[::-1][:2]


def test_a_family_by_command_and_its_page(tmp_path: Path, command: Command) -> None:
    text = (Path(ud.__file__).parent / "project/starters/archive.toml").read_text("utf-8")
    file, out = tmp_path / "a.toml", tmp_path / "fam"
    file.write_text(text.replace("count = 96", "count = 4"), "utf-8")
    assert command(["check", str(file)]) == 0
    assert "4, latin hypercube of site class" in command.said.out
    wrong = tmp_path / "wrong.toml"
    wrong.write_text(text.replace('values = ["C", "D"]', 'values = ["C", "Q"]'), "utf-8")
    assert command(["check", str(wrong)]) == 2
    assert "variants.vary[0] (line " in command.said.err
    assert command(["vary", str(file), "--out", str(out)]) in (0, 1)
    assert "4 of 4 run" in command.said.out
    there = {p.name for p in (out / "report").iterdir()}
    assert {"variants.html", "variants.xlsx", "variants.csv", "tornado.png"} <= there
    page = (out / "report/variants.html").read_text("utf-8")
    found = ud.load_family(out)
    assert f"{np.median(found.of('drift use X')):.3f}" in page
    assert page.count("<img") == 4
    assert (out / "report/worst.csv").is_file()
    assert command(["vary", str(file), "--out", str(out), "--worst", "0"]) in (0, 1)
    assert not (out / "report/worst.csv").exists()
    run = ["run", str(file), "--detail", "short", "--out", str(tmp_path / "r"), "--family"]
    assert command([*run, str(out)]) in (0, 1)
    record = (tmp_path / "r/record_short.html").read_text("utf-8")
    assert "Spread of results" in record
    assert f"{ud.load(tmp_path / 'r').drift.largest_use('X'):.4g}" in record.split("Spread of")[-1]
    file.write_text(file.read_text("utf-8").replace("site_class = \"D\"", "site_class = \"C\""),
                    "utf-8")
    assert command([*run, str(out)]) == 2
    assert "another state of this one" in command.said.err
    assert command(["vary", str(file), "--compare", "v00001,v00002"]) == 0
    assert "static base shear in X" in command.said.out
    assert command(["vary", str(file), "--compare", "v00001,v99"]) == 2
    assert command(["vary", str(file), "--out", str(out), "--of", "drift"]) == 2
    assert command(["cure", str(file), "--most", "2", "--story", "L2"]) == 0
    assert "The least change that meets the drift limits" in command.said.out
    assert "story L2" in command.said.out
    assert command(["cure", str(file), "--story", "L9"]) == 2


def test_a_family_of_which_nothing_runs_says_why(tmp_path: Path, command: Command) -> None:
    text = (Path(ud.__file__).parent / "project/starters/archive.toml").read_text("utf-8")
    text = text[:text.index("[variants]")].replace(
        "[analysis]", '[analysis]\nsecond_order = "by story weight"')
    (tmp_path / "a.toml").write_text(text + """[variants]
keep = ["drift"]
[[variants.vary]]
name = "s"
path = "building.lines[*].stiffness"
times = true
values = [1e-7]
""", "utf-8")
    run = ["vary", str(tmp_path / "a.toml"), "--out", str(tmp_path / "out")]
    assert command(run) == 3
    assert command(run) == 3  # from what was kept
    assert "No variant could be run" in command.said.err


def test_every_picture_of_a_family_is_drawn(run: tuple[ud.Family, ud.FamilyResults]) -> None:
    from test_painted import texts_of

    for make in report.figures_of(run[1], "drift use X").values():
        assert len(texts_of(make())) > 5


# -- where it comes from, and what cures it ------------------------------------------------------

def test_without_a_limit_there_is_no_use_and_no_cure() -> None:
    project = ud.shipped_project("archive").varied({"site.ss": 0.1, "site.s1": 0.03})
    job = ud.calculate(project)
    assert job.site.category == "A"  # type: ignore[union-attr]
    assert values_of(job, ["drift"]) == []
    with pytest.raises(ud.InputError, match="no limit on drift"):
        ud.cure(project, ["building.lines[Frame A].stiffness"])
    with pytest.raises(ud.InputError, match="no drift is judged"):
        ud.drift_sources(job, "X")


@pytest.mark.parametrize("story", ["L1", "L2"])
def test_lines_under_floors_that_deform_have_their_part(story: str) -> None:
    """All of the drift but what the floor adds; the lines take most of it across the hall."""
    found = ud.drift_sources(ud.calculate(made(with_lines())), "Y", story)
    part = {one.group: one.part for one in found.sources}
    assert found.story == story
    assert sum(part.values()) == pytest.approx(found.elastic, rel=1e-9)
    assert part["line w"] + part["line e"] > 0.5 * found.elastic

@pytest.mark.parametrize("name", ["archive", "terrace", "clinic_frames", "walls"])
def test_parts_of_a_drift_add_up_to_it(name: str) -> None:
    job = ud.calculate(made(building(CORE, 3)) if name == "walls" else ud.shipped_project(name))
    for d in job.directions:
        found = ud.drift_sources(job, d)
        check = job.drifts[found.state]
        s = check.sets.index(found.set)
        p, i = check.points.index(found.point), check.levels.index(found.story)
        told = abs(check.elastic[s, p, i, "XY".index(d)])
        assert found.elastic == pytest.approx(told, rel=1e-7)
        assert sum(one.part for one in found.sources) == pytest.approx(told, rel=1e-7)


def test_a_part_is_what_a_stiffer_group_takes_off() -> None:
    """Under forces that stay: the difference of two solved models, to 1e-6."""
    project = ud.shipped_project("clinic_frames")
    job = ud.calculate(project)
    found = ud.drift_sources(job, "X")
    assert found.set.startswith("static")
    acting = next(s for s in job.drift_sets[found.state] if s.name == found.set)
    check, h = job.drifts[found.state], 1e-4
    p, i = check.points.index(found.point), check.levels.index(found.story)

    def drift(factor: float) -> float:
        other = ud.calculate(project.varied(
            {"building.lines[Wall N1].cantilever.modulus": lambda k: factor * k}))
        model = other.solver.model
        motion = other.solver.solve(acting.nodal)  # type: ignore[attr-defined]
        rows = plumb_drift(model, [center_line(model), *other.plumb])
        return abs(float(rows.of(motion, motion)[p * model.n + i]))

    slope = (drift(1 + h) - drift(1 - h)) / (2 * h)
    part = next(one.part for one in found.sources if one.group == "line Wall N1")
    assert slope == pytest.approx(-part, rel=1e-6)


def test_the_least_change_is_that_of_a_search_by_hand() -> None:
    """Two groups on a grid: nothing cheaper on it meets the limit, and what is found does."""
    project = ud.shipped_project("archive")
    paths = [f"building.lines[Frame {n}].stiffness" for n in "AC"]
    found = ud.cure(project, paths, [2.0, 1.0])
    assert found.meets
    job = ud.calculate(project)

    def use(a: float, c: float) -> float:
        nonlocal job
        job = job.of(project.varied({paths[0]: lambda k: a * k, paths[1]: lambda k: c * k}))
        return max(job.drifts[k].largest_use(d) for k in job.drifts for d in "XY")

    assert use(*found.factors) <= 1.0
    grid = [(2 * (a - 1) + (c - 1), a, c) for a in np.linspace(1, 1.7, 15)
            for c in np.linspace(1, 2.4, 15)]
    cheapest = next(cost for cost, a, c in sorted(grid) if use(a, c) <= 1.0)
    assert found.cost <= cheapest * 1.001
    assert found.cost > cheapest - 3 * 0.1  # a step of the grid each way
    nothing = ud.cure(project.varied({"site.site_class": "C"}), paths)
    assert nothing.factors == (1.0, 1.0)
    assert ud.cure(project, ["building.lines[Brace 1].stiffness"], most=1.05).meets is False


@pytest.mark.parametrize("names", [["X0"], ["X1"], ["Y0"], ["X0", "Y1"], ["X0", "X1"]])
def test_no_cure_makes_it_worse(names: list[str]) -> None:
    """A plan with a stiff and a soft side: stiffening the stiff one turns it more, so that nothing
    is offered; whatever is offered lowers the use that governs, in a run of its own."""
    site, system, *_ = ROOMS["asce7-16"]
    one = shear_building([6e6] * 3, [2e5] * 3, lines_x=[(0.0, 0.8), (6.0, 0.2)],
                         lines_y=[(0.0, 0.5), (6.0, 0.5)])
    by_order = {"X0": 0, "X1": 1, "Y0": 2, "Y1": 3}
    lines = [one.lines[by_order[n]].name for n in names]
    project = ud.make_project(title="t", standard="asce7-16", building=one, site=site,
                              system=dict.fromkeys("XY", system))
    found = ud.cure(project, [f"building.lines[{n}].stiffness" for n in lines], most=1.5)
    before, after = (max(v for _, v in uses) for uses in (found.before, found.after))
    assert before > 1
    assert after <= before
    if found.factors == (1.0,) * len(names):
        assert not found.helps
        assert "none is offered" in found.table().note
    else:
        assert after < 0.9995 * before
    if names == ["X0"]:
        assert not found.helps
