"""Nothing that is handed out can be changed behind its back, and every copy is judged anew."""

from __future__ import annotations

import copy
import dataclasses
import os
import pickle
import shutil
import tomllib
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import sparse

import undatum as ud
from conftest import SITE, SYSTEMS, analyze, shear_building, starter_text
from undatum.record import FixedDict, Memo
from undatum.results.results import Results

EXAMPLES = Path(__file__).parents[1] / "examples"


# -- copies of a description -----------------------------------------------------------------------


def test_a_copy_of_an_outline_has_its_own_area() -> None:
    one = ud.Outline(points=[(0, 0), (10, 0), (10, 6), (0, 6)])
    assert one.polygon.area == pytest.approx(60.0)  # kept for the next call
    twice = one.model_copy(update={"points": [(0, 0), (20, 0), (20, 6), (0, 6)]})
    assert (twice.area, twice.bounds) == (pytest.approx(120.0), (0.0, 0.0, 20.0, 6.0))
    assert one.area == pytest.approx(60.0)


@pytest.mark.parametrize(("update", "words"), [
    ({"height": -3.0}, "height"), ({"heigth": 3.0}, "did you mean 'height'"),
    ({"height": "3 kg"}, "height"), ({"outline": [(0, 0), (1, 1)]}, "outline")])
def test_a_copy_is_held_to_the_same_rules(update: dict[str, Any], words: str) -> None:
    level = ud.Level(name="L1", height=3.0, outline=[(0, 0), (10, 0), (10, 6)])
    with pytest.raises(ud.InputError, match=words):
        level.model_copy(update=update)
    with pytest.raises(ud.InputError, match=words):
        copy.copy(level).model_copy(update=update, deep=True)


def test_a_building_has_nothing_to_pop() -> None:
    p = ud.shipped_project("archive")
    with pytest.raises(AttributeError):
        p.building.lines.pop()  # type: ignore[attr-defined]
    with pytest.raises(TypeError):
        p.building.outlines["new"] = p.building.outline(0)  # type: ignore[index]
    with pytest.raises(ValueError, match="frozen"):
        p.title = "other"  # type: ignore[misc]
    assert isinstance(p.building.levels, tuple)
    assert isinstance(p.building.levels[0].loads, tuple)


# -- variation by path -----------------------------------------------------------------------------


def test_all_stiffness_of_one_direction_in_one_line() -> None:
    p = ud.shipped_project("archive")
    stiffer = p.varied({"building.lines[direction=X].stiffness": lambda k: 1.21 * k})
    for before, after in zip(p.building.lines, stiffer.building.lines, strict=True):
        along_x = abs(np.sin(before.direction)) < 1e-9
        if along_x and before.stiffness is not None:
            assert after.stiffness == pytest.approx(
                tuple(1.21 * k for k in before.stiffness)
                if isinstance(before.stiffness, tuple) else 1.21 * before.stiffness)
        else:
            assert after == before
    b = shear_building([6e7] * 3, [2e5] * 3)
    whole = ud.make_project(title="t", standard="asce7-16", site=SITE, system=SYSTEMS, building=b)
    faster = ud.run(whole.varied({"building.lines[direction=X].stiffness": lambda k: 1.21 * k}))
    plain = ud.run(whole)
    x, y = (sorted(r.modes.periods[r.modes.governing(0)] for r in (plain, faster)),
            [r.modes.periods[r.modes.governing(1)] for r in (plain, faster)])
    assert x[1] / x[0] == pytest.approx(1.1)  # T goes with the root of the stiffness
    assert y[0] == pytest.approx(y[1])


@pytest.mark.parametrize(("changes", "words"), [
    ({"building.lines[direction=X].stifness": 1.0}, "did you mean 'stiffness'"),
    ({"building.lines.stiffness": 1.0}, "says nothing of which"),
    ({"building.lines[99].stiffness": 1.0}, r"building.lines\[99\]"),
    ({"building.lines[nobody].stiffness": 1.0}, "chooses nothing"),
    ({"building.levels[*].height": -1.0}, r"levels\[0\].height"),
    ({"site.ss": "1 m"}, "site.ss"), ({"": 1}, "is not a path"),
    ({"site.ss.more": 1.0}, "nothing further"),
    ({"building.levels[0].elevation": lambda z: z + 1}, "nothing to change")])
def test_a_wrong_variation_is_named(changes: dict[str, Any], words: str) -> None:
    with pytest.raises(ud.InputError, match=words):
        ud.shipped_project("archive").varied(changes)


def test_a_variation_takes_texts_with_units_names_and_several_changes() -> None:
    p = ud.shipped_project("archive")
    name = p.building.levels[1].name
    q = p.varied({f"building.levels[{name}].height": "12 ft", "site.ss": 0.8, "title": "another"})
    assert q.title == "another"
    assert q.site.ss == 0.8
    assert p.title != "another"
    assert q.building.levels[1].height == pytest.approx(3.6576)


# -- arrays ----------------------------------------------------------------------------------------


def arrays_in(value: Any, seen: set[int]) -> list[tuple[str, Any]]:
    """Every array within a value, with where it was found."""
    if id(value) in seen or isinstance(value, Memo):
        return []
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        return [("", value)]
    if sparse.issparse(value):
        whole: Any = value
        return [(f".{k}", getattr(whole, k)) for k in ("data", "indices", "indptr")]
    parts: list[tuple[str, Any]] = []
    if dataclasses.is_dataclass(value):
        parts = [(f.name, getattr(value, f.name)) for f in dataclasses.fields(value)]
    elif isinstance(value, dict):
        parts = [(str(k), v) for k, v in value.items()]
    elif isinstance(value, tuple | list):
        parts = [(str(i), v) for i, v in enumerate(value)]
    return [(f"{name}.{at}", a) for name, v in parts for at, a in arrays_in(v, seen)]


def test_every_array_of_results_is_read_only(archive: Results) -> None:
    found = arrays_in(archive, set())
    assert len(found) > 150
    assert [name for name, a in found if a.flags.writeable] == []
    with pytest.raises(ValueError, match="read-only"):
        archive.drift.use[0] = 0.0
    for name in dir(archive.drift):
        value = getattr(archive.drift, name)
        if isinstance(value, np.ndarray):
            assert not value.flags.writeable, name


def test_every_array_of_a_spectrum_and_a_record_is_read_only() -> None:
    r = ud.shipped_project("archive")
    spectra = ud.site_spectra(standard="asce7-16", site=SITE)
    assert not spectra.shaking.horizontal["X"](np.array([1.0])).flags.writeable
    motion = ud.GroundMotion("pulse", 0.01, np.sin(np.linspace(0, 6, 600)))
    assert not motion.acceleration.flags.writeable
    found = ud.response_spectra(motion, np.linspace(0.1, 2, 5))
    assert [n for n, a in arrays_in(found, set()) if a.flags.writeable] == []
    assert r.building.outline(0).corners.flags.writeable is False


def test_facts_of_the_standards_cannot_be_changed() -> None:
    from undatum.standards import shipped
    from undatum.standards.en1998.facts import behavior_rows, facts

    for table in (shipped(), facts(), facts()["period"], behavior_rows()):
        with pytest.raises(TypeError):
            table["new"] = 1  # type: ignore[index]


# -- projects and results as values ----------------------------------------------------------------


def test_a_project_remembers_its_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    shutil.copytree(EXAMPLES / "study", tmp_path / "study")
    monkeypatch.chdir(tmp_path)
    p = ud.read("study/hall.toml")
    monkeypatch.chdir("/")
    r = ud.run(p)
    assert r.shaking.horizontal["X"].name
    assert ud.run(pickle.loads(pickle.dumps(p))) == r
    again = ud.read(str(tmp_path / "study" / "hall.toml"))
    assert again.folder == tmp_path / "study"
    assert ud.run(again) is not None


def test_projects_and_results_pickle_compare_and_are_short(archive: Results) -> None:
    p = archive.project
    again = pickle.loads(pickle.dumps(p))
    assert again == p
    assert again != p.varied({"title": "other"})
    back = pickle.loads(pickle.dumps(archive))
    assert back == archive
    assert [n for n, a in arrays_in(back, set()) if a.flags.writeable] == []
    assert (back != archive) is False
    assert len(repr(archive)) < 200
    assert len(repr(p)) < 200
    assert len(repr(archive.model)) < 600
    other = dataclasses.replace(archive, findings=())
    assert other != archive
    assert archive != "something else"


def test_fixed_mappings_refuse_every_way() -> None:
    d = FixedDict({"a": 1})
    for change in (lambda: d.update(b=2), lambda: d.pop("a"), d.clear, d.popitem,
                   lambda: d.setdefault("b", 2), lambda: d.__setitem__("a", 2),
                   lambda: d.__delitem__("a"), lambda: d.__ior__({"b": 2})):
        with pytest.raises(TypeError):
            change()
    assert d == pickle.loads(pickle.dumps(d)) == copy.deepcopy(d) == {"a": 1}


@given(st.recursive(st.none() | st.floats(allow_nan=False) | st.text(max_size=3),
                    lambda x: st.lists(x, max_size=3) | st.dictionaries(
                        st.text(max_size=2), x, max_size=3), max_leaves=8))
def test_what_is_frozen_is_equal_and_holds_no_list(value: Any) -> None:
    from undatum.record import frozen

    def lists(v: Any) -> bool:
        if isinstance(v, list) or type(v) is dict:
            return True
        return any(map(lists, v.values() if isinstance(v, dict) else v)) \
            if isinstance(v, dict | tuple) else False

    def plain(v: Any) -> Any:
        if isinstance(v, dict):
            return {k: plain(x) for k, x in v.items()}
        return [plain(x) for x in v] if isinstance(v, list | tuple) else v

    found = frozen(value)
    assert not lists(found)
    assert plain(found) == plain(value)


# -- plain numbers ---------------------------------------------------------------------------------


def test_plain_numbers_are_si_in_python_whatever_the_units_shown() -> None:
    b = shear_building([6e7] * 3, [2e5] * 3)
    shears = {units: analyze(b, results_in=units).statics["X", "strength"].shear.base_shear
              for units in ("N and m", "kN and m", "kip and ft", "kip and in")}
    assert len(set(shears.values())) == 1
    site = {**SITE, "long_period": 8.0}
    plain = ud.site_spectra(standard="asce7-16", site=site)
    feet = ud.site_spectra(standard="asce7-16", site=site, results_in="kip and ft")
    assert float(plain.shaking.horizontal["X"](0.7)) == float(feet.shaking.horizontal["X"](0.7))


def test_a_distance_in_python_is_in_meters_whatever_the_units_shown() -> None:
    near = {"zone": "4", "soil": "SC", "occupancy_category": "standard", "source_type": "A",
            "source_distance": 6000.0}
    metric, feet = (ud.site_spectra(standard="ubc97", site=near, results_in=u).shaking.horizontal[
        "X"] for u in ("N and m", "kip and ft"))
    assert float(metric(1.0)) == float(feet(1.0))


@pytest.mark.parametrize("name", ["archive_frames", "clinic"])
def test_a_parsed_file_is_taken_with_its_own_units(name: str) -> None:
    """kip, ft and kN, m: the same building as read; in millimeters too; objects are refused."""
    data = tomllib.loads(starter_text(name))
    read = ud.run(ud.shipped_project(name))
    given_ = ud.analyze(**data)
    assert given_.weights.total == pytest.approx(read.weights.total, rel=1e-12)
    assert given_.project.units == read.project.units == data["units"]
    other = ud.analyze(**data, results_in="N and mm")
    assert other.weights.total == pytest.approx(read.weights.total, rel=1e-12)
    assert other.to_frame("weight_levels")["floor area (mm²)"].iloc[0] == pytest.approx(
        1e6 * read.weights.areas[0])
    with pytest.raises(ud.InputError, match="building is an object"):
        ud.analyze(**{**data, "building": read.project.building})


def test_every_path_argument_takes_text(tmp_path: Path, archive: Results) -> None:
    place = os.path.join(str(tmp_path), "out")
    archive.save(place)
    assert ud.load(place) == archive == ud.load(os.path.join(place, "results.nc"))
    text = os.path.join(str(tmp_path), "s.csv")
    Path(text).write_text("period (s),acceleration (g)\n0,0.4\n1,1.0\n4,0.2\n", encoding="utf-8")
    assert float(ud.read_spectrum(text)(1.0)) == pytest.approx(9.80665)
    ud.figures.save(ud.figures.drift(archive), os.path.join(str(tmp_path), "d.png"))
    assert (tmp_path / "d.png").read_bytes()[:4] == b"\x89PNG"


@pytest.mark.parametrize("name", ["center of mass", "corner 3"])
def test_a_drift_point_may_not_take_the_name_of_another_line(name: str) -> None:
    b = shear_building([6e7] * 2, [2e5] * 2)
    with pytest.raises(ud.InputError, match=r"drift\.points\[0\]\.name"):
        analyze(b, drift={"points": [{"name": name, "at": [2.0, 2.0]}]})
    assert analyze(b, drift={"points": [{"name": "desk", "at": [2.0, 2.0]}]}) is not None
