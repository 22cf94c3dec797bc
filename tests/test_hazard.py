"""From a place to its hazard: grids, tables of zones, a service over HTTP, and what is kept."""

from __future__ import annotations

import asyncio
import io
import shutil
import socket
import subprocess
import sys
import threading
import time
import tomllib
from collections.abc import Iterator
from contextlib import redirect_stderr, redirect_stdout, suppress
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.io import netcdf_file

import undatum as ud
from conftest import entry
from undatum.ground.hazard import look_up
from undatum.ground.hazard_files import HazardGrid, open_provider
from undatum.ground.hazard_service import HazardService
from undatum.ground.location import Location
from undatum.service import make_service

HERE = Path(__file__).parent.parent / "examples" / "located"
HEAD = "# source: A made-up map\n# edition: 7\n"
GRID = HEAD + ("latitude (deg), longitude (deg), ss (g), zone, long_period (s) nearest\n"
               "10, 20, 1.0, A, 4\n10, 21, 2.0, A, 4\n11, 20, 3.0, A, 8\n11, 21, 5.0, B, 8\n")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for path in HERE.iterdir():
        shutil.copy(path, tmp_path / path.name)
    (tmp_path / "small.csv").write_text(GRID)
    return tmp_path


@pytest.fixture(autouse=True)
def own_cache(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("UNDATUM_CACHE", str(tmp_path_factory.mktemp("cache")))


def at(latitude: float, longitude: float, file: str = "small.csv") -> Location:
    return Location(latitude=latitude, longitude=longitude, file=file)


# -- grids and tables ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("latitude", "longitude", "ss", "period"),
    [(10, 20, 1.0, 4), (11, 20, 3.0, 8), (10, 20.5, 1.5, 4), (10.25, 20, 1.5, 4),
     (10.5, 20.25, 0.5 * (1.25 + 3.5), 4), (10.75, 20, 2.5, 8)],
)
def test_interpolation_by_hand(
    folder: Path, latitude: float, longitude: float, ss: float, period: float
) -> None:
    path = folder / "flat.csv"
    path.write_text(GRID.replace(", B,", ", A,"))
    found = open_provider(path).find(at(latitude, longitude))
    assert ud.si(found.values["ss"]) / 9.80665 == pytest.approx(ss)
    assert found.values["long_period"] == f"{period} s"
    assert found.values["zone"] == "A"
    assert (found.source, found.edition) == ("A made-up map", "7")


@settings(deadline=None)
@given(st.floats(-5, 5), st.floats(-5, 5), st.floats(-2, 2), st.floats(0, 1), st.floats(0, 1))
def test_a_bilinear_field_is_reproduced(a: float, b: float, c: float, u: float, v: float) -> None:
    lat, lon = np.array([0.0, 0.3, 1.0]), np.array([5.0, 5.5, 6.0, 7.0])
    y, x = np.meshgrid(lat, lon, indexing="ij")
    grid = HazardGrid("g", lat, lon, {"ss": 10 + a * x + b * y + c * x * y}, {}, {"ss": "g"},
                      frozenset(), "s", "e")
    place = Location(latitude=v, longitude=5 + 2 * u, file="g")
    hand = 10 + a * (5 + 2 * u) + b * v + c * (5 + 2 * u) * v
    assert float(grid.find(place).values["ss"].split()[0]) == pytest.approx(hand, abs=1e-6)


@pytest.mark.parametrize(
    ("latitude", "longitude", "words"),
    [(9.99, 20.5, "latitudes from 10 to 11; 9.99 lies outside"),
     (10.5, 21.01, "longitudes from 20 to 21"), (10.5, 20.5, "zone A and B")],
)
def test_refused_places(folder: Path, latitude: float, longitude: float, words: str) -> None:
    with pytest.raises(ud.InputError, match=words):
        look_up(at(latitude, longitude), folder)


def test_sea_is_refused_but_the_shore_is_not(folder: Path) -> None:
    with pytest.raises(ud.InputError, match="no value of ss"):
        look_up(at(-39.3, -19.2, "hazard.csv"), folder)
    assert look_up(at(-39.3, -19.5, "hazard.csv"), folder).values["ss"]  # on the last land node


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (GRID.replace("# source: A made-up map\n", ""), "does not say its source"),
        (GRID.replace("11, 21, 5.0, B, 8\n", ""), "latitude 11, longitude 21 is missing"),
        (GRID + "11, 21, 5.0, B, 8\n", "given more than once"),
        (GRID.replace("11, 21, 5.0", "eleven, 21, 5.0"),
         r"\(line 7\): a latitude is no number of degrees"),
        (GRID.replace("latitude (deg)", "breadth"), "neither a column place nor"),
        (GRID.replace("11, 21, 5.0, B, 8", "11, 21, 5.0"), r"\(line 7\).*has 3 cells"),
        (HEAD + "place, zone\nOstrel, V\nOSTREL, IV\n", "stands twice"),
        (HEAD, "holds no rows"),
        (HEAD + "place, 7!\nOstrel, V\n", "cannot be read"),
    ],
)
def test_faulty_files(tmp_path: Path, text: str, words: str) -> None:
    (tmp_path / "x.csv").write_text(text)
    with pytest.raises(ud.InputError, match=words):
        open_provider(tmp_path / "x.csv")


def test_an_empty_text_is_no_value(folder: Path) -> None:
    path = folder / "gaps.csv"
    path.write_text(GRID.replace(", A,", ", ,").replace(", B,", ", ,"))
    with pytest.raises(ud.InputError, match="no value of zone"):
        look_up(at(10.5, 20.5, "gaps.csv"), folder)


def test_zones_by_name(folder: Path) -> None:
    kept = look_up(Location(place=" marrowby HAVEN ", file="zones.csv"), folder)
    assert kept.values == {"zone": "IV"}
    with pytest.raises(ud.InputError, match="did you mean 'Ostrel'"):
        look_up(Location(place="Ostrell", file="zones.csv"), folder)
    with pytest.raises(ud.InputError, match="by place name"):
        look_up(at(1, 1, "zones.csv"), folder)
    with pytest.raises(ud.InputError, match="knows coordinates"):
        look_up(Location(place="Ostrel", file="hazard.csv"), folder)


@pytest.mark.parametrize(
    ("given", "words"),
    [({"latitude": 1.0, "file": "a"}, "together"), ({"file": "a"}, "either latitude"),
     ({"place": "x", "latitude": 1.0, "longitude": 1.0, "file": "a"}, "either latitude"),
     ({"place": "x"}, "who knows"), ({"place": "x", "file": "a", "service": "b"}, "who knows"),
     ({"latitude": 95.0, "longitude": 1.0, "file": "a"}, "latitude")],
)
def test_faulty_locations(given: dict[str, Any], words: str) -> None:
    with pytest.raises(ud.InputError, match=words):
        Location(**given)


def write_netcdf(path: Path, *, source: bytes = b"A made-up map") -> None:
    with netcdf_file(path, "w") as f:
        f.source, f.edition = source, b"7"
        for name, values in (("latitude", [11.0, 10.0]), ("longitude", [20.0, 21.0])):
            f.createDimension(name, 2)
            f.createVariable(name, "d", (name,))[:] = values
        v = f.createVariable("ss", "d", ("latitude", "longitude"))
        v[:] = [[3.0, 5.0], [1.0, -999.0]]
        v.units, v._FillValue = b"g", -999.0
        t = f.createVariable("long_period", "d", ("latitude", "longitude"))
        t[:] = [[8.0, 8.0], [4.0, 4.0]]
        t.units, t.interpolation = b"s", b"nearest"


def test_netcdf_with_falling_latitudes(tmp_path: Path) -> None:
    write_netcdf(tmp_path / "h.nc")
    found = open_provider(tmp_path / "h.nc").find(at(10.75, 20))
    assert found.values == {"ss": "2.5 g", "long_period": "8 s"}
    with pytest.raises(ud.InputError, match="no value of ss"):
        open_provider(tmp_path / "h.nc").find(at(10.5, 20.5))
    write_netcdf(tmp_path / "i.nc", source=b"")
    with pytest.raises(ud.InputError, match="does not say its source"):
        open_provider(tmp_path / "i.nc")
    (tmp_path / "j.nc").write_bytes(b"\x89HDF\r\n\x1a\n not this one")
    with pytest.raises(ud.InputError, match="classic NetCDF"):
        open_provider(tmp_path / "j.nc")


# -- in a project ----------------------------------------------------------------------------------


def tool(*args: object, folder: Path) -> subprocess.CompletedProcess[str]:
    """The command line in a folder, within this process."""
    command = [str(one) for one in args]
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(io.StringIO()) as out, \
            redirect_stderr(io.StringIO()) as err:
        patch.chdir(folder)
        code = entry(command, patch)
    return subprocess.CompletedProcess(command, code, out.getvalue(), err.getvalue())


def test_a_project_by_its_place(folder: Path) -> None:
    project = ud.read(folder / "warehouse.toml")
    r = ud.run(project, folder)
    grid = open_provider(folder / "hazard.csv").find(at(-40.37, -20.12, "hazard.csv"))
    ss = float(grid.values["ss"].split()[0])
    assert r.site.parameters["S_S"] == pytest.approx(ss)
    assert r.site.parameters["T_L"] == 8.0
    section = next(w for w in r.working if w.title == "Hazard at the site")
    assert section["ss"].value == grid.values["ss"]
    assert "edition 2026-1" in section["ss"].clause
    assert "hazard.csv" in section["place"].branch
    note = next(f for f in r.findings if f.check == "hazard looked up")
    assert grid.values["s1"] in note.text


def test_kept_values_need_neither_file_nor_service(folder: Path) -> None:
    path = folder / "warehouse.toml"
    before = path.read_text()
    first = ud.run(ud.read(path), folder)
    shown = tool("look-up", "warehouse.toml", "--show", folder=folder)
    assert shown.returncode == 0
    assert path.read_text() == before
    done = tool("look-up", "warehouse.toml", folder=folder)
    assert done.returncode == 0, done.stderr
    assert "latitude -40.37" in done.stdout
    text = path.read_text()
    for line in before.splitlines():
        if "location = { place" not in line:  # that table is written in one line
            assert line in text
    kept = tomllib.loads(text)
    assert kept["site"]["looked_up"]["edition"] == "2026-1"
    assert kept["alternatives"]["is1893-2016"]["site"]["looked_up"]["values"] == {"zone": "IV"}
    (folder / "hazard.csv").unlink()
    (folder / "zones.csv").unlink()
    again = ud.run(ud.read(path), folder)
    assert again.site.parameters == first.site.parameters
    assert tool("look-up", "warehouse.toml", folder=folder).returncode == 2
    assert path.read_text() == text  # nothing half-written
    path.write_text(text.replace("latitude = -40.37", "latitude = -40.40", 1))
    with pytest.raises(ud.InputError, match=r"(?s)site.looked_up.*run undatum look-up again"):
        ud.read(path)


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ('site_class = "C"', 'site_class = "C"\nss = 1.0', r"site.ss.*also comes from"),
        ("latitude = -40.37", "latitude = 40.37", "swapped"),
        ('file = "hazard.csv" }', 'file = "missing.csv" }', "missing.csv"),
        ('file = "hazard.csv" }', 'file = "zones.csv" }', "by place name"),
        ("location = {", "locatoin = {", "did you mean 'location'"),
        ("latitude = -40.37,", "", "coordinate is missing"),
        ('latitude = -40.37, longitude = -20.12, file = "hazard.csv"',
         'place = "Ostrel", file = "zones.csv"', "none of which the standard asks for"),
    ],
)
def test_faults_of_a_location(folder: Path, old: str, new: str, words: str) -> None:
    path = folder / "warehouse.toml"
    path.write_text(path.read_text().replace(old, new, 1))
    with pytest.raises(ud.InputError, match=words) as error:
        ud.read(path)
    if "locatoin" not in new:
        assert not [f for f in error.value.faults if f.message == "is missing"]


def test_line_ends_stay_as_they_are(folder: Path) -> None:
    path = folder / "warehouse.toml"
    path.write_bytes(path.read_bytes().replace(b"\n", b"\r\n"))
    assert tool("look-up", "warehouse.toml", folder=folder).returncode == 0
    assert path.read_bytes().count(b"\r\n") > 100
    assert ud.read(path).site.looked_up is not None


def test_the_time_of_a_look_up_can_be_fixed(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "0")
    assert look_up(at(10, 20), folder).retrieved == "1970-01-01T00:00:00Z"


def test_looked_up_without_a_location() -> None:
    from conftest import SITE, analyze, shear_building

    with pytest.raises(ud.InputError, match="stands without a location"):
        analyze(shear_building([1e8], [1e5]), site={**SITE, "looked_up": {}})


# -- over HTTP -------------------------------------------------------------------------------------


def answering(*answers: Any) -> tuple[HazardService, list[httpx.Request]]:
    """A client whose service gives these answers in turn: a status, an exception or a dict."""
    asked: list[httpx.Request] = []

    def handle(request: httpx.Request) -> httpx.Response:
        answer = answers[min(len(asked), len(answers) - 1)]
        asked.append(request)
        if isinstance(answer, Exception):
            raise answer
        if isinstance(answer, int):
            return httpx.Response(answer, text="busy")
        return httpx.Response(200, json=answer)

    return HazardService("http://hazard.invalid", pause=0.0,
                         transport=httpx.MockTransport(handle)), asked


GOOD = {"values": {"ss": "1.1 g"}, "source": "map", "edition": "3", "how": "by hand"}
PLACE = Location(latitude=10.0, longitude=20.0, service="http://hazard.invalid")


def test_an_answer_is_kept_and_used_again() -> None:
    service, asked = answering(GOOD)
    first, second = service.find(PLACE), service.find(PLACE)
    assert first == second
    assert len(asked) == 1
    assert asked[0].url.params["latitude"] == "10.000000"
    HazardService(service.address, True, transport=service.transport).find(PLACE)
    assert len(asked) == 2


@pytest.mark.parametrize("first", [503, 429, httpx.ConnectError("refused"),
                                   httpx.ReadTimeout("slow")])
def test_a_busy_service_is_tried_again(first: Any) -> None:
    service, asked = answering(first, first, GOOD)
    assert service.find(PLACE).values == {"ss": "1.1 g"}
    assert len(asked) == 3


@pytest.mark.parametrize(
    ("answer", "tries", "words"),
    [(503, 3, "after 3 tries: it answered 503"),
     (httpx.ConnectError("connection refused"), 3, "after 3 tries: connection refused"),
     (httpx.ReadTimeout("slow"), 3, "no answer within 10 s"),
     (404, 1, r"refuses \(404\)"), ({"detail": "x"}, 1, "does not answer as a hazard service")],
)
def test_a_failing_service_says_so(answer: Any, tries: int, words: str) -> None:
    service, asked = answering(answer)
    with pytest.raises(ud.InputError, match=words):
        service.find(PLACE)
    assert len(asked) == tries


def test_a_service_that_drips_does_not_hold_anyone() -> None:
    """One line of a header now and then keeps every step within its bound."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        def drip() -> None:
            line, _ = server.accept()
            with line, suppress(OSError):
                line.sendall(b"HTTP/1.1 200 OK\r\n")
                for k in range(100):
                    line.sendall(f"x{k}: 1\r\n".encode())
                    time.sleep(0.05)

        threading.Thread(target=drip, daemon=True).start()
        address = f"http://127.0.0.1:{server.getsockname()[1]}"
        began = time.monotonic()
        with pytest.raises(ud.InputError, match=r"did not finish its answer within 0.4 s"):
            HazardService(address, whole=0.4).find(PLACE)
        assert time.monotonic() - began < 3


def test_the_simulated_service(folder: Path) -> None:
    app = make_service(folder / "hazard.csv")

    def get(path: str, **params: Any) -> httpx.Response:
        async def ask() -> httpx.Response:
            transport = httpx.ASGITransport(app=app)
            async with httpx.AsyncClient(transport=transport, base_url="http://here") as client:
                return await client.get(path, params=params)

        return asyncio.run(ask())

    found = get("/v1/hazard", latitude=-40.37, longitude=-20.12).json()
    grid = open_provider(folder / "hazard.csv").find(at(-40.37, -20.12, "hazard.csv"))
    assert found["values"] == grid.values
    far = get("/v1/hazard", latitude=0, longitude=0)
    assert far.status_code == 404
    assert "lies outside" in far.json()["detail"]
    assert get("/v1/hazard", latitude=99, longitude=0).status_code == 422
    assert get("/v1/hazard").status_code == 404
    assert get("/v1/about").json()["data"] == "hazard.csv"
    assert "/v1/hazard" in get("/openapi.json").json()["paths"]


@pytest.fixture
def served(folder: Path) -> Iterator[str]:
    """The command itself, answering on a free port."""
    import socket

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    process = subprocess.Popen(
        [sys.executable, "-m", "undatum.cli", "serve-hazard", "hazard.csv", "--port", str(port)],
        cwd=folder, stdout=subprocess.PIPE, text=True)
    watchdog = threading.Timer(60, process.kill)
    watchdog.start()
    try:
        address = f"http://127.0.0.1:{port}"
        for _ in range(300):
            try:
                httpx.get(f"{address}/v1/about", timeout=1.0)
                break
            except httpx.HTTPError:
                time.sleep(0.1)
        yield address
    finally:
        watchdog.cancel()
        process.terminate()
        process.communicate(timeout=20)


def test_a_project_served_over_http(folder: Path, served: str) -> None:
    by_file = ud.run(ud.read(folder / "warehouse.toml"), folder)
    path = folder / "warehouse.toml"
    text = path.read_text().replace('file = "hazard.csv"', f'service = "{served}"')
    path.write_text(text)
    r = ud.run(ud.read(path), folder)
    assert r.site.parameters == pytest.approx(by_file.site.parameters)
    step = next(w for w in r.working if w.title == "Hazard at the site")["ss"]
    assert served in step.clause
    path.write_text(text.replace("latitude = -40.37", "latitude = -50.0", 1))
    with pytest.raises(ud.InputError, match=r"refuses \(404\): covers latitudes"):
        ud.read(path)
