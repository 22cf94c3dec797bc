"""Odd files, odd services, texts that would be code: advice, and nothing lost."""

from __future__ import annotations

import asyncio
import gzip
import json
import os
import re
import stat
import tomllib
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from scipy.io import netcdf_file

import undatum as ud
from conftest import Command, starter_text
from undatum.ground.hazard_files import open_provider
from undatum.ground.hazard_service import HazardService
from undatum.ground.location import Location, LookedUp
from undatum.project.located import keep_in_file
from undatum.report.files import write_all

STARTER = starter_text("starter")
EVIL = "<script>alert(1)</script> $\\frac{x$ [bold]x[/]"


# -- texts that would be code ----------------------------------------------------------------------


def test_texts_of_a_project_stay_texts(tmp_path: Path) -> None:
    """In the page, in figures, in the sheet: a script, half a formula, a markup, a sum."""
    p = ud.shipped_project("starter")
    b = p.building
    names = {level.name: f"L{i} $a_{{$ <b> =1" for i, level in enumerate(b.levels)}
    building = ud.Building(
        levels=[x.model_copy(update={"name": names[x.name]}) for x in b.levels],
        lines=[x.model_copy(update={"name": f"={x.name} $x$ <i>", "top": names[x.top],
                                    "bottom": names[x.bottom]}) for x in b.lines],
        outlines=b.outlines, floors=b.floors)
    own = {"symbol": "S_DS", "value": 0.9, "reason": EVIL}
    kept = LookedUp(location=Location(place=EVIL, file="x.csv"), source=EVIL, edition=EVIL,
                    retrieved="2026-01-01T00:00:00Z", how=EVIL, values={"ss": EVIL})
    site = p.site.model_copy(update={
        "name": EVIL, "replace": [own], "location": kept.location, "looked_up": kept})
    r = ud.run(p.model_copy(update={"title": EVIL, "description": EVIL, "prepared_by": EVIL,
                                    "building": building, "site": site}))
    write_all(r, tmp_path / "o")
    page = (tmp_path / "o" / "record.html").read_text(encoding="utf-8")
    own_marks = re.sub(r"<script>.*?</script>", "", page[: page.index("<body")], flags=re.S)
    assert own_marks
    for wrong in ("<script>alert", "<b> =1", "$ <i>"):
        assert wrong not in page
    assert page.count("&lt;script&gt;alert") >= 5
    line = next(x for x in (tmp_path / "o" / "tables" / "line_shears.csv").read_text().splitlines()
                if "$x$" in x)
    assert line.startswith("'=")


@pytest.mark.parametrize("text", ["a\x1b[31mred", "bell\x07", "right\u202eleft", "null\0"])
def test_control_characters_are_refused_by_place(text: str, tmp_path: Path) -> None:
    with pytest.raises(ud.InputError, match="control character") as caught:
        ud.shipped_project("starter").model_copy(update={"title": text})
    assert caught.value.faults[0].place == "title"
    path = tmp_path / "p.toml"
    path.write_text(STARTER.replace('"My building"', json.dumps(text)), encoding="utf-8")
    with pytest.raises(ud.InputError, match="control character") as caught:
        ud.read(path)
    assert (caught.value.faults[0].place, caught.value.faults[0].line) == ("title", 9)


# -- odd files -------------------------------------------------------------------------------------


CASES: list[tuple[str, Callable[[str], str], str]] = [
    ("digits", lambda t: t.replace("ss = 1.00", "ss = " + "9" * 5000), "thousands of digits"),
    ("deep tables", lambda t: "a" + ".b" * 3000 + " = 1\n" + t, "not a known key"),
    ("deep keys", lambda t: "description" + ".a" * 200_000 + " = 1\n" + t, "nested too deeply"),
    ("deep lists", lambda t: "x = " + "[" * 3000 + "]" * 3000 + "\n" + t, "nested too deeply"),
    ("powers", lambda t: t.replace("height = 3.8", 'height = "3 m**9**9**9"'), "cannot be read"),
    ("exponent", lambda t: t.replace("height = 3.8", 'height = "3 m^99999999"'), "cannot be read"),
    ("massless", lambda t: t.replace('outline = "floor"',
                                     'outline = "floor"\nseismic_mass = false'),
     "no level carries seismic mass"),
    ("parallel", lambda t: t.replace('direction = "Y"', 'direction = "0.0001 deg"'),
     "nearly parallel")]


@pytest.mark.parametrize(("name", "change", "words"), CASES, ids=[c[0] for c in CASES])
def test_odd_projects_end_in_advice(
    name: str, change: Callable[[str], str], words: str, tmp_path: Path, command: Command,
) -> None:
    path = tmp_path / "p.toml"
    path.write_text(change(STARTER), encoding="utf-8")
    assert command(["run", str(path), "--out", str(tmp_path / "o")]) in (2, 3)
    assert words in command.said.err
    assert not (tmp_path / "o").exists()


@pytest.mark.parametrize("cell", ["1" * 200_000, '"' + "1" * 200_000])
def test_a_cell_that_is_far_too_long(cell: str, tmp_path: Path) -> None:
    (tmp_path / "s.csv").write_text(f"period (s), a (g)\n0, 0.1\n1, {cell}\n")
    with pytest.raises(ud.InputError, match="CSV"):
        ud.read_spectrum(tmp_path / "s.csv")
    with pytest.raises(ud.InputError):
        ud.read_motion(str(tmp_path / "s.csv"))


def test_only_ordinary_files_of_a_stated_size(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.toml")
    big = tmp_path / "big.toml"
    with big.open("wb") as out:
        out.truncate(21_000_000)
    for path, words in ((tmp_path / "pipe.toml", "no ordinary file"), (Path("/dev/zero"),
                        "no ordinary file"), (big, "larger than 20 MB"), (tmp_path, "folder")):
        with pytest.raises(ud.InputError, match=words):
            ud.read(path)
    with pytest.raises(ud.InputError, match="no ordinary file"):
        ud.read_motion("/dev/zero")


@pytest.mark.parametrize("seed", range(40))
def test_a_damaged_grid_is_refused_or_read(seed: int, tmp_path: Path) -> None:
    """Bytes of a NetCDF file exchanged or cut: values, or advice."""
    rng = np.random.default_rng(seed)
    with netcdf_file(tmp_path / "g.nc", "w") as f:
        f.source, f.edition = b"map", b"1"
        for name, values in (("latitude", [-41.0, -40.0]), ("longitude", [-21.0, -20.0])):
            f.createDimension(name, 2)
            f.createVariable(name, "d", (name,))[:] = values
        v = f.createVariable("ss", "d", ("latitude", "longitude"))
        v[:] = 0.5
        v.units = b"g"
    raw = bytearray((tmp_path / "g.nc").read_bytes())
    for _ in range(int(rng.integers(1, 6))):
        raw[int(rng.integers(len(raw)))] = int(rng.integers(256))
    if seed % 5 == 0:
        raw = raw[: int(rng.integers(len(raw)))]
    (tmp_path / "g.nc").write_bytes(raw)
    with suppress(ud.InputError):
        place = Location(latitude=-40.5, longitude=-20.5, file="g.nc")
        assert open_provider(tmp_path / "g.nc").find(place).values


@pytest.mark.parametrize("epoch", ["abc", "9" * 30, "1.5"])
def test_a_wrong_time_of_outputs(
        epoch: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    path = tmp_path / "p.toml"
    path.write_text(STARTER, encoding="utf-8")
    monkeypatch.setenv("SOURCE_DATE_EPOCH", epoch)
    assert command(["run", str(path), "--out", str(tmp_path / "o")]) == 2
    assert "seconds since the start of 1970" in command.said.err


@pytest.mark.parametrize(("option", "name", "words"), [
    ("--plot", "a.xyz", "ends in .png"), ("--plot", "none/a.png", "cannot be written"),
    ("--table", "none/a.csv", "cannot be written")])
def test_outputs_that_cannot_be_made(
        option: str, name: str, words: str, tmp_path: Path, command: Command) -> None:
    path = tmp_path / "p.toml"
    path.write_text(STARTER, encoding="utf-8")
    assert command(["spectrum", str(path), option, str(tmp_path / name)]) == 2
    said = command.said
    assert words in said.err
    assert said.out == ""  # nothing is shown before it is written


# -- hazard services -------------------------------------------------------------------------------


@pytest.fixture(autouse=True)
def _own_cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("UNDATUM_CACHE", str(tmp_path / "cache"))


GOOD = {"values": {"ss": "0.5 g"}, "source": "map", "edition": "1"}
HERE = Location(latitude=-40.0, longitude=-20.0, service="http://here")


def service(handle: Callable[[httpx.Request], httpx.Response], **more: Any) -> HazardService:
    return HazardService("http://here", pause=0.0, transport=httpx.MockTransport(handle), **more)


def endless() -> Iterator[bytes]:
    while True:
        yield b"x" * 65536


@pytest.mark.parametrize(("answer", "words"), [
    (lambda: httpx.Response(200, content=endless()), "more than 1000 kB"),
    (lambda: httpx.Response(200, content=gzip.compress(b" " * 50_000_000),
                            headers={"content-encoding": "gzip"}), "more than 1000 kB"),
    (lambda: httpx.Response(200, text='{"values": ' + "[" * 5000 + "]" * 5000 + "}"),
     "does not answer as a hazard service"),
    (lambda: httpx.Response(403, text="no"), "permission"),
    (lambda: httpx.Response(500, text="no"), "try later"),
    (lambda: httpx.Response(302, headers={"location": "http://there"}), "it has moved"),
    (lambda: httpx.Response(404, json={"detail": "a\x1b[31m" + "b" * 5000}), "covers")])
def test_a_service_is_bounded_and_its_failures_advise(
    answer: Callable[[], httpx.Response], words: str
) -> None:
    with pytest.raises(ud.InputError, match=words) as caught:
        service(lambda _: answer()).find(HERE)
    assert len(str(caught.value)) < 700
    assert "\x1b" not in str(caught.value)


def test_texts_of_a_service_are_cut_and_cleaned() -> None:
    told = {**GOOD, "source": "m\x1b[2Jap\u202e", "how": "y" * 5000}
    found = service(lambda _: httpx.Response(200, json=told)).find(HERE)
    assert found.source == "m [2Jap; http://here"
    assert len(found.how) == 300


@pytest.mark.parametrize("address", ["http://[::1", "http://a b", "http://h:99999999", "http://",
                                     "ftp://x", "nonsense"])
def test_addresses_that_are_none(address: str) -> None:
    with pytest.raises(ud.InputError, match="not an http address"):
        HazardService(address).find(HERE)


@pytest.mark.parametrize("then", ["2026-01-01", "nonsense", "2999-01-01T00:00:00+00:00",
                                  "1999-01-01T00:00:00Z", None, "{", "[]"])
def test_the_cache_survives_bad_and_future_dates(then: str | None, tmp_path: Path) -> None:
    asked = []

    def handle(request: httpx.Request) -> httpx.Response:
        asked.append(request)
        return httpx.Response(200, json=GOOD)

    one = service(handle)
    one.find(HERE)
    kept = next((tmp_path / "cache").glob("*.json"))
    held = json.loads(kept.read_text())
    kept.write_text(then if then in ("{", "[]") else json.dumps({**held, "retrieved": then}))
    one.find(HERE)
    assert len(asked) == 2
    recent = (datetime.now(UTC) - timedelta(days=1)).strftime("%Y-%m-%dT%H:%M:%SZ")
    kept.write_text(json.dumps({**held, "retrieved": recent}))
    one.find(HERE)
    assert len(asked) == 2


def test_the_docs_of_the_simulated_service_need_no_network() -> None:
    from undatum.service import application

    async def ask() -> httpx.Response:
        transport = httpx.ASGITransport(app=application(None, "x.csv"))
        async with httpx.AsyncClient(transport=transport, base_url="http://here") as client:
            return await client.get("/docs")

    page = asyncio.run(ask())
    assert page.status_code == 200
    assert "/v1/hazard" in page.text
    assert "latitude" in page.text
    assert not re.search(r"(src|href)='?\"?https?:", page.text)


def test_two_columns_of_one_name_are_refused(tmp_path: Path) -> None:
    (tmp_path / "h.csv").write_text(
        "# source: a\n# edition: 1\nlatitude (deg), longitude (deg), ss (g), ss (g)\n"
        "0, 0, 1, 2\n0, 1, 1, 2\n1, 0, 1, 2\n1, 1, 1, 2\n")
    with pytest.raises(ud.InputError, match="two columns 'ss'"):
        open_provider(tmp_path / "h.csv")


# -- look-up ---------------------------------------------------------------------------------------


KEPT = LookedUp(location=Location(latitude=1.0, longitude=2.0, file="x.csv"), source="map",
                edition="1", retrieved="2026-01-01T00:00:00Z", values={"ss": "0.5 g"})
SITES = {
    "table": 'title = "a"\n\n[site] # here\nss = 1 # two\n\n[system.X]\nrow = "C.1"\n',
    "dotted": 'title = "a"\nsite.ss = 1 # two\nsite.s1 = 2\n\n[system.X]\nrow = "C.1"\n',
    "inline": 'site = { ss = 1, s1 = 2 }\n[system.X]\nrow = "C.1"\n',
    "again": '[site]\nss = 1\n[site.looked_up]\nsource = "old"\n[system.X]\nrow = "C.1"\n',
    "below": '[system.X]\nrow = "C.1"\n[site.location]\nlatitude = 1\n',
}


@pytest.mark.parametrize("how", SITES)
def test_what_is_kept_is_read_again_before_it_is_placed(how: str, tmp_path: Path) -> None:
    path = tmp_path / "p.toml"
    path.write_text(SITES[how], encoding="utf-8")
    path.chmod(0o640)
    link = tmp_path / "link.toml"
    link.symlink_to(path)
    before = tomllib.loads(SITES[how])
    keep_in_file(link, {("site",): KEPT})
    after = tomllib.loads(path.read_text(encoding="utf-8"))
    assert after.pop("site") == {**before.pop("site"),
                                 "looked_up": KEPT.model_dump(exclude_none=True)}
    assert after == before
    assert link.is_symlink()
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    assert ("# two" in path.read_text()) == ("# two" in SITES[how])


# -- words -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("words", "row"), [
    ("SMRF", "C.1"), ("shear walls", "B.4"), ("brbf", "B.25"), ("ebf", "B.1"), ("rc wall", "A.1"),
    ("wood", "A.15"), ("braced frames", "B.2"), ("brick walls", "A.7")])
def test_systems_are_found_by_everyday_words(words: str, row: str, command: Command) -> None:
    assert command(["systems", "--find", words]) == 0
    assert re.search(rf"^\s*{re.escape(row)}\s", command.said.out, re.M)


def test_criteria_of_ones_own_have_their_schema(command: Command) -> None:
    assert command(["schema", "--criteria"]) == 0
    found = json.loads(command.said.out)
    assert {"spectrum", "systems", "drift", "stability"} <= set(found["properties"])
    page = (Path(__file__).parent.parent / "docs" / "criteria.md").read_text(encoding="utf-8")
    assert all(f"`{key}`" in page for key in found["properties"])
