"""Results kept and read back whole, and files put in place as one whatever happens."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest

import undatum as ud
from test_frames import building as frame
from test_frames import slender
from test_gravity import results_of as case_results
from undatum.report.files import write_all
from undatum.results import exchange as exchange_module
from undatum.results import store as store_module
from undatum.results.exchange import placing
from undatum.results.results import Results

pytestmark = pytest.mark.usefixtures("unpainted")

EXAMPLES = Path(__file__).parents[1] / "examples"


# -- the store -------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["starter", "archive", "clinic", "terrace"])
def test_everything_comes_back(results: dict[str, Results], name: str, tmp_path: Path) -> None:
    one = results[name]
    one.save(tmp_path / "kept")
    back = ud.load(tmp_path / "kept")
    assert back == one
    assert back.table_names == one.table_names
    for table in one.table_names:
        assert back.to_frame(table).equals(one.to_frame(table)), table
    assert str(back) == str(one)
    assert ud.run(back.project) == one


@pytest.mark.parametrize("file", ["study/hall.toml", "owner/control_building.toml"])
def test_a_project_with_files_comes_back(file: str, tmp_path: Path) -> None:
    one = ud.run(ud.read(EXAMPLES / file))
    one.save(tmp_path)
    assert ud.load(tmp_path) == one


def test_any_reader_of_netcdf_finds_labelled_arrays(archive: Results, tmp_path: Path) -> None:
    xr = pytest.importorskip("xarray")
    archive.save(tmp_path)
    data = xr.load_dataset(tmp_path / "results.nc", engine="scipy")
    name = next(k for k in archive.arrays() if "shear" in k)
    kept, own = data[name.replace(" ", "_")], archive.array(name)
    assert kept.values == pytest.approx(own.values, nan_ok=True)
    assert kept.attrs["units"] == "N"
    assert kept.dims[0] == "set"
    assert [s.decode() if isinstance(s, bytes) else str(s) for s in kept["set"].values] == \
        list(own.axes[0].labels["set"])
    memory = archive.to_xarray()
    assert len(memory.data_vars) == len(archive.arrays())


def test_no_two_sets_share_a_name_and_arrays_are_read_by_label(archive: Results) -> None:
    names = [s.name for s in (*archive.static_sets, *archive.spectrum_sets)]
    assert len(set(names)) == len(names)
    array = archive.array("story shear")
    picked = array.sel(set=archive.static_sets[0].name, component=archive.static_sets[0].direction)
    row = archive.model.quantities["story shear"].where(
        component=archive.static_sets[0].direction)
    own = next(s for s in archive.static_sets if s.state == archive.strength)
    assert array.sel(set=own.name, component=own.direction).values == pytest.approx(
        own.of(archive.model.quantities["story shear"].where(component=own.direction)))
    assert picked.values.shape == (len(row),)
    with pytest.raises(KeyError):
        array.sel(set="nobody")
    frame = array.to_frame()
    assert len(frame) == array.values.size


def test_files_of_two_runs_are_refused(archive: Results, tmp_path: Path) -> None:
    write_all(archive, tmp_path / "a")
    other = ud.run(archive.project.varied({"site.ss": 0.7}))
    write_all(other, tmp_path / "b")
    (tmp_path / "a" / "results.nc").write_bytes((tmp_path / "b" / "results.nc").read_bytes())
    with pytest.raises(ud.InputError, match="two runs"):
        ud.load(tmp_path / "a")
    assert ud.load(tmp_path / "b") == other


@pytest.mark.parametrize("text", [b"", b"CDF\x02 and no more", b"{}"])
def test_what_is_no_file_of_results_is_said_to_be_none(text: bytes, tmp_path: Path) -> None:
    (tmp_path / "results.nc").write_bytes(text)
    with pytest.raises(ud.InputError, match=r"results\.nc"):
        ud.load(tmp_path)
    with pytest.raises(ud.InputError, match="no such file"):
        ud.load(tmp_path / "nowhere")


def test_a_record_of_an_unknown_package_is_not_imported(archive: Results, tmp_path: Path) -> None:
    archive.save(tmp_path)
    raw = (tmp_path / "results.nc").read_bytes()
    fake = raw.replace(b"undatum.working:SectionKey", b"colorsys.xxxxxx:SectionKey")
    assert fake != raw
    (tmp_path / "results.nc").write_bytes(fake)
    with pytest.raises(ud.InputError, match="not known here"):
        ud.load(tmp_path)


# -- placing ---------------------------------------------------------------------------------------


def fill(target: Path, text: str, names: tuple[str, ...] = ("a.txt", "in/b.txt", "c.txt")) -> None:
    with placing(target) as work:
        for name in names:
            (work / name).parent.mkdir(parents=True, exist_ok=True)
            (work / name).write_text(text, encoding="utf-8")


def texts(target: Path) -> dict[str, str]:
    return {str(p.relative_to(target)): p.read_text() for p in target.rglob("*")
            if p.is_file() and ".undatum" not in p.parts}


@pytest.mark.parametrize("step", range(12))
def test_a_kill_at_any_step_leaves_one_run(
    step: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Cut off before the n-th move, removal or write; the next command puts things in order."""
    target = tmp_path / "out"
    fill(target, "old", ("a.txt", "in/b.txt", "c.txt", "gone.txt"))
    old = texts(target)
    left = step

    class Killed(BaseException):
        pass

    def dying(real: object) -> object:
        def call(*args: object, **kwargs: object) -> object:
            nonlocal left
            if left == 0:
                raise Killed
            left -= 1
            return real(*args, **kwargs)  # type: ignore[operator]
        return call

    with monkeypatch.context() as m:
        m.setattr(exchange_module, "_move", dying(exchange_module._move))
        m.setattr(exchange_module, "write_json", dying(exchange_module.write_json))
        m.setattr(Path, "unlink", dying(Path.unlink))
        m.setattr(exchange_module.shutil, "rmtree", lambda *_, **__: None)
        with suppress(Killed):
            fill(target, "new")
    new = {"a.txt": "new", "in/b.txt": "new", "c.txt": "new"}
    exchange_module.recover(target)
    assert texts(target) in (old, new)
    fill(target, "third")
    assert texts(target) == dict.fromkeys(new, "third")
    assert not list((target / ".undatum").glob("new-*"))


def test_what_no_run_wrote_is_never_touched(tmp_path: Path) -> None:
    target = tmp_path / "out"
    target.mkdir()
    (target / "notes.txt").write_text("mine")
    (target / "a.txt").write_text("mine too")
    with pytest.raises(ud.InputError, match="no run wrote it"):
        fill(target, "new")
    assert texts(target) == {"notes.txt": "mine", "a.txt": "mine too"}
    (target / "a.txt").unlink()
    fill(target, "new")
    (target / "c.txt").write_text("changed by hand")
    with pytest.raises(ud.InputError, match="was changed since"):
        fill(target, "newer")
    assert texts(target)["c.txt"] == "changed by hand"
    (target / "c.txt").unlink()
    fill(target, "newest", ("a.txt",))
    assert texts(target) == {"notes.txt": "mine", "a.txt": "newest"}


def test_two_runs_at_once_do_not_mix(tmp_path: Path) -> None:
    target = tmp_path / "out"
    with placing(target) as work:
        (work / "a.txt").write_text("first")
        with pytest.raises(ud.InputError, match="another run"):
            fill(target, "second")
    assert texts(target) == {"a.txt": "first"}


def test_an_unusable_place_is_named(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    for place in (tmp_path / "file", tmp_path / "file" / "below", ""):
        with pytest.raises(ud.InputError):
            fill(place, "new")  # type: ignore[arg-type]

    def stopped() -> None:
        with placing(tmp_path / "fresh") as work:
            (work / "a.txt").write_text("x")
            raise ValueError("stop")

    with pytest.raises(ValueError, match="stop"):
        stopped()
    assert not (tmp_path / "fresh").exists()


# -- the command line ------------------------------------------------------------------------------


def tool(*args: str, cwd: Path, **env: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "undatum", *args], cwd=cwd, text=True,
                          capture_output=True, check=False, env={**os.environ, **env})


def test_results_are_kept_when_the_pipe_is_closed(tmp_path: Path) -> None:
    (tmp_path / "p.toml").write_text(
        (Path(ud.__file__).parent / "project" / "starters" / "starter.toml").read_text()
        + '[drift.own_limit]\nratio = 0.0001\nof = "design"\nreason = "glass"\n')
    done = subprocess.run(
        ["bash", "-c", f"{sys.executable} -m undatum run p.toml --out out --detail short"
         " | head -c 10; echo ${PIPESTATUS[0]}"],
        cwd=tmp_path, capture_output=True, text=True, check=True)
    assert done.stdout.strip().endswith("1")  # a check is exceeded, and that alone
    assert ud.load(tmp_path / "out").severity.value == "exceeded"


def test_a_screen_without_signs_still_gets_everything(tmp_path: Path) -> None:
    (tmp_path / "p.toml").write_text(
        (Path(ud.__file__).parent / "project" / "starters" / "starter.toml").read_text())
    done = tool("run", "p.toml", "--out", "out", "--detail", "short", cwd=tmp_path,
                PYTHONIOENCODING="ascii", PYTHONUTF8="0", LC_ALL="C")
    assert done.returncode in (0, 1), done.stderr
    assert "Traceback" not in done.stderr
    assert done.stdout.isascii()
    assert (tmp_path / "out" / "record_short.html").is_file()


def test_a_crash_is_not_an_exceeded_check(tmp_path: Path) -> None:
    code = ("import undatum.cli as c, sys\n"
            "import undatum.job\n"
            "sys.argv = ['undatum', 'check', 'p.toml']\n"
            "import undatum.project.project_file as reader\n"
            "reader.text_of = lambda path: 1 / 0\n"
            "c.main()\n")
    (tmp_path / "p.toml").write_text("title = 'x'")
    done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, text=True,
                          capture_output=True, check=False)
    assert done.returncode == 4, (done.returncode, done.stdout, done.stderr)


def test_the_summary_names_its_store(archive: Results, tmp_path: Path) -> None:
    write_all(archive, tmp_path / "o")
    said = json.loads((tmp_path / "o" / "results.json").read_text(encoding="utf-8"))
    assert len(said["store"]["digest"]) == 64
    assert (tmp_path / "o" / "results.json").stat().st_size < 200_000


def test_the_service_without_its_extra_says_what_to_install(tmp_path: Path) -> None:
    code = ("import sys; sys.modules['uvicorn'] = None\n"
            "sys.argv = ['undatum', 'serve-hazard', 'h.csv']\n"
            "from undatum.cli import main; main()\n")
    (tmp_path / "h.csv").write_text("x")
    done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, text=True,
                          capture_output=True, check=False)
    assert done.returncode == 2, done.stderr
    assert 'pip install "undatum-seismic[service]"' in " ".join((done.stdout + done.stderr).split())


# -- a folder from anywhere ------------------------------------------------------------------------

DIGEST = "0" * 64


@pytest.fixture
def kept(archive: Results, tmp_path: Path) -> Path:
    archive.save(tmp_path / "kept")
    (tmp_path / "mine.txt").write_text("mine")
    return tmp_path / "kept"


def journal(kept: Path, **more: object) -> None:
    """A journal that a run is said to have left, with files of its own beside it."""
    state = kept / ".undatum"
    (state / "new-1").mkdir(parents=True, exist_ok=True)
    (state / "new-1" / "a.txt").write_text("theirs")
    one = {"work": "new-1", "made": {}, "gone": {}, "before": {}, **more}
    (state / "journal.json").write_text(json.dumps(one))


HOSTILE: dict[str, dict[str, object]] = {
    "deletes beside the folder": {"gone": {"../mine.txt": DIGEST}},
    "deletes by a list": {"gone": ["../mine.txt"]},
    "deletes a file of the user": {"gone": {"notes.txt": DIGEST}},
    "overwrites beside the folder": {"made": {"../mine.txt": DIGEST}},
    "overwrites by a full path": {"made": {"/tmp/mine.txt": DIGEST}},
    "overwrites a file of the user": {"made": {"notes.txt": DIGEST}},
    "moves from elsewhere": {"work": "../..", "made": {"mine.txt": DIGEST}},
    "names itself": {"made": {".undatum/manifest.json": DIGEST}},
    "is no list": {"made": "all"}, "has other digests": {"made": {"a.txt": "x"}},
    "moves what is not there": {"made": {"b.txt": DIGEST}},
    "says nothing": {"made": None},
}


@pytest.mark.parametrize("name", HOSTILE)
@pytest.mark.parametrize("by", ["load", "run"])
def test_a_journal_is_not_believed(
    kept: Path, archive: Results, name: str, by: str
) -> None:
    (kept / "notes.txt").write_text("notes")
    journal(kept, **HOSTILE[name])
    before = {p: p.read_bytes() for p in kept.parent.rglob("*") if p.is_file()}
    with suppress(ud.InputError):
        archive.save(kept) if by == "run" else ud.load(kept)
    for path in (kept / "notes.txt", kept.parent / "mine.txt"):
        assert path.read_bytes() == before[path]
    assert (kept / "notes.txt").exists()


def test_links_are_not_written_through(kept: Path, archive: Results) -> None:
    """A lock, a part file, a folder or a result that leads elsewhere: refused, nothing changed."""
    mine = kept.parent / "mine.txt"
    for name in (".undatum/lock", ".undatum/journal.part", "results.nc"):
        place = kept / name
        held = place.read_bytes() if place.is_file() else None
        place.unlink(missing_ok=True)
        place.symlink_to(mine)
        with pytest.raises(ud.InputError):
            archive.save(kept)
        assert mine.read_text() == "mine"
        place.unlink()
        if held is not None:
            place.write_bytes(held)
    other = kept.parent / "other"
    other.mkdir()
    (other / ".undatum").symlink_to(kept.parent / "away")
    (kept.parent / "away").mkdir()
    with pytest.raises(ud.InputError, match="altered after the run"):
        archive.save(other)
    assert not list((kept.parent / "away").iterdir())


def test_a_file_where_a_folder_is_needed_leaves_one_run_whole(
    results: dict[str, Results], tmp_path: Path
) -> None:
    """``tables`` of the user's own: nothing of the new run is put in place."""
    out = tmp_path / "out"
    write_all(results["starter"], out, detail="short")
    before = {p: p.read_bytes() for p in out.rglob("*") if p.is_file() and ".undatum" not in str(p)}
    for path in (out / "tables").iterdir():
        path.unlink()
    (out / "tables").rmdir()
    (out / "tables").write_text("my own tables")
    with pytest.raises(ud.InputError, match="in the way of a folder"):
        write_all(results["archive"], out, detail="short")
    assert (out / "tables").read_text() == "my own tables"
    assert (out / "results.nc").read_bytes() == before[out / "results.nc"]
    assert ud.load(out) == results["starter"]


@pytest.mark.parametrize("seed", range(40))
def test_a_hostile_store_is_an_error_with_advice(
    results: dict[str, Results], tmp_path: Path, seed: int
) -> None:
    """Bytes changed, cut off, or moved anywhere in the file: results, or an error that says so."""
    rng = np.random.default_rng(seed)
    results["starter"].save(tmp_path)
    raw = bytearray((tmp_path / "results.nc").read_bytes())
    if seed % 4 == 0:
        raw = raw[: int(rng.integers(4, len(raw)))]
    at = rng.integers(0, 2000 if seed % 2 else len(raw), 30) % len(raw)
    for k in at:
        raw[k] = int(rng.integers(0, 256))
    if seed % 5 == 1:  # within the records
        start = raw.find(b'{"is"')
        for k in start + rng.integers(0, 3000, 20):
            raw[k % len(raw)] = int(rng.integers(32, 127))
    (tmp_path / "other.nc").write_bytes(raw)
    with suppress(ud.InputError):
        assert isinstance(ud.load(tmp_path / "other.nc"), Results)


@pytest.mark.parametrize("record", ['{"is": "os:system", "of": {}}', '{"list": []}', "1", "[",
                                    '{"is": "undatum.table:Column", "of": {"x": 1}}',
                                    '{"is": "undatum.cli:main", "of": {}}',
                                    '{"empty": "f", "shape": [100000000000000]}'])
def test_hostile_records_are_an_error_with_advice(tmp_path: Path, record: str) -> None:
    from scipy.io import netcdf_file

    path = tmp_path / "a.nc"
    with netcdf_file(path, "w", version=2) as file:
        file.format_of = store_module.FORMAT
        file.createDimension("n", len(record))
        file.createVariable("records", "c", ("n",))[:] = np.frombuffer(record.encode(), "S1")
    with pytest.raises(ud.InputError):
        ud.load(path)


# -- whole, wherever they go -----------------------------------------------------------------------


def with_loads_on_members() -> ud.Results:
    return case_results(frame(slender(2e-3), slender(2e-3), member_loads=(
        ud.MemberLoad(name="wall", kind="cladding", on="beams on A", per_length=5e3),
        ud.MemberLoad(name="tank", kind="equipment", on="beams on B", total=1e4, at=0.25)), cases=(
        ud.LoadCase(name="wind", on_members=[ud.OnMembers(on="columns", direction="X",
                                                          per_length=[1e3, 2e3])]),)))


def test_loads_on_members_survive_save_load_and_compare(tmp_path: Path) -> None:
    one = with_loads_on_members()
    back = ud.load(one.save(tmp_path))
    assert back == one
    first, judged, asked, found = ud.compared(back, one)
    assert not len(first)
    assert not len(asked)
    assert not len(judged)
    assert not len(found)
    assert ud.run(back.project) == one


def test_results_by_criteria_are_whole_when_the_file_is_gone(tmp_path: Path) -> None:
    shutil.copytree(EXAMPLES / "owner", tmp_path / "owner")
    one = ud.run(ud.read(tmp_path / "owner" / "control_building.toml"))
    expected = {name: one.to_frame(name) for name in one.table_names}
    one.save(tmp_path / "kept")
    for change in (lambda p: p.write_text("title = 1"), Path.unlink):
        change(tmp_path / "owner" / "criteria.toml")
        back = ud.load(tmp_path / "kept")
        assert back == one
        for name, table in expected.items():
            assert back.to_frame(name).equals(table), name
        assert ud.run(back.project) == one


def test_results_say_nothing_of_the_place_they_were_made_in(tmp_path: Path) -> None:
    """Two runs in two folders: the same bytes, and no path of the writer's in them."""
    kept = []
    for name in ("here", "there"):
        shutil.copytree(EXAMPLES / "study", tmp_path / name)
        results_ = ud.run(ud.read(tmp_path / name / "hall.toml"))
        results_.save(tmp_path / name / "out")
        kept.append((tmp_path / name / "out" / "results.nc").read_bytes())
    assert kept[0] == kept[1]
    assert str(tmp_path).encode() not in kept[0]
