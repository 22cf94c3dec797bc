"""What is handed over: the record in short and in full, the base-shear sheet, PDF, JSON, stages."""

from __future__ import annotations

import json
import math
import re
import shutil
import subprocess
from html import unescape
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest

import undatum as ud
from conftest import DOT, ROOMS, Command, analyze, frame_of, shear_building, starter_text
from test_combined import judged
from undatum.report import figures, files, printing, record, record_short
from undatum.report.page import css_text
from undatum.results.results import Results
from undatum.standards import shipped

BROWSER = next((found for name in printing.BROWSERS if (found := shutil.which(name))), None)
needs_browser = pytest.mark.skipif(BROWSER is None, reason="no browser is installed")


@pytest.fixture(scope="module")
def written(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The terrace with a chapter on members, as the command line writes it."""
    folder = tmp_path_factory.mktemp("handover")
    path = folder / "terrace.toml"
    path.write_text(starter_text("terrace")
                    + '\n[record]\nreadings = [{ which = "column B2 at L1" }]\n'
                    'diagrams = ["A"]\n')
    r = ud.run(ud.read(path))
    out = r.save(folder / "out")
    pictures = dict.fromkeys(figures.of_run(r), DOT)
    for name, render in (("record", record.render), ("record_short", record_short.render_short)):
        (out / f"{name}.html").write_text(render(r, pictures, files.metadata()), encoding="utf-8")
    return out


def text_of(page: str) -> str:
    return " ".join(unescape(re.sub(r"<[^>]+>", " ", page)).split())


def pages_in(pdf: Path) -> int:
    return max(int(n) for n in re.findall(rb"/Count (\d+)", pdf.read_bytes()))


@needs_browser
def test_the_demo_in_short_is_ten_pages_at_most(archive: Results, tmp_path: Path) -> None:
    files.write_all(archive, tmp_path / "out", browser=BROWSER, detail="short")
    assert pages_in(tmp_path / "out" / "record_short.pdf") <= 10
    assert pages_in(tmp_path / "out" / "base_shear.pdf") <= 2  # the basis, forces by level
    assert (tmp_path / "out" / "record_short.pdf").read_bytes().startswith(b"%PDF")


@needs_browser
def test_no_line_of_working_is_wider_than_its_column(written: Path) -> None:
    """Of a building with every chapter, in a real browser: nothing is cut, on screen or paper."""
    page = (written / "record.html").read_text(encoding="utf-8").replace("</body>", (
        "<script>onload=()=>{const bad=[...document.querySelectorAll('table.working td')]"
        ".filter(c=>c.scrollWidth>c.clientWidth+1);document.body.insertAdjacentHTML('beforeend',"
        "'<p>WIDE '+bad.length+' OF '+document.querySelectorAll('table.working td').length)}"
        "</script></body>"))
    place = written.parent / "measured.html"
    place.write_text(page, encoding="utf-8")
    assert BROWSER is not None
    done = subprocess.run(
        [BROWSER, "--headless", "--no-sandbox", "--disable-gpu", "--window-size=1080,800",
         f"--user-data-dir={written.parent}/profile", "--dump-dom", place.as_uri()],
        capture_output=True, text=True, timeout=120, check=False)
    found = re.search(r"<p>WIDE (\d+) OF (\d+)", done.stdout)
    assert found is not None
    assert int(found[1]) == 0
    assert int(found[2]) > 200


def test_the_record_shows_the_members_asked_for(written: Path) -> None:
    full, short = (text_of((written / f"{name}.html").read_text(encoding="utf-8"))
                   for name in ("record", "record_short"))
    for page in (full, short):
        assert "column B2 at L1" in page
        assert "Bending moment in the plane on axis A, kN·m: extremes" in page
    assert "combination 7" not in short.lower()
    assert re.search(r"\d: [0.3 XY+]+ \([+−]\)", full)
    assert not re.search(r"\d: [0.3 XY+]+ \([+−]\)", short)  # side by side, without their names
    r = ud.load(written)
    row = r.read("forces", "column B2 at L1", "extremes", at=(0.0,)).table()
    long = frame_of(r, "forces", "column B2 at L1", "envelope", at=(0.0,))
    for values in row.to_frame(r.units).to_dict("records"):
        for component, unit in (("axial", "force (kN)"), ("moment_y", "moment (kN·m)")):
            own = long[(long.kind == values["kind"]) & (long.component == component)
                       & (long.extreme == values["extreme"])]
            assert own[unit].iloc[0] == next(
                v for k, v in values.items() if k.startswith(component))
    plain = ud.run(ud.shipped_project("clinic"))
    assert "Members" not in list(plain.table_names)


def test_the_working_stands_in_columns(written: Path) -> None:
    """Symbol and formula, value with unit, meaning, clause: each line has all of them."""
    page = (written / "record.html").read_text(encoding="utf-8")
    lines = re.findall(r'<tr><td class="formula">(.*?)</td><td class="value">(.*?)</td><td>(.*?)'
                       r'</td><td class="clause">(.*?)</td></tr>', page, flags=re.DOTALL)
    r = ud.load(written)
    assert len(lines) > 60
    shear = next(v for f, v, *_ in lines if "<mi>V</mi>" in f and "kN" in v)
    value = r.statics["X", "strength"].shear.base_shear / 1e3
    assert float(text_of(shear).split(" kN")[0].replace("\u202f", "").replace(" ", "")) == \
        pytest.approx(value, rel=1e-4)
    for rule in ("@bottom-right", "counter(pages)", "@top-left"):
        assert rule in page


@pytest.mark.parametrize("key", list(ROOMS))
def test_the_base_shear_follows_from_what_the_sheet_prints(key: str) -> None:
    """Weight times coefficient, the ordinate at the period used, the period one of three."""
    r = judged(key)
    for row in r.base_shears.table().to_frame(r.units).to_dict("records"):
        assert row["coefficient"] * row["weight (N)"] == pytest.approx(row["base shear (N)"])
        used = row["period used (s)"]
        near = [row[k] for k in ("approximate period (s)", "largest period allowed (s)",
                                 "computed period (s)") if row[k] == row[k] and row[k]]
        assert any(used == pytest.approx(t) for t in near)
        ordinate = row["spectral ordinate (g)" if "spectral ordinate (g)" in row
                       else "spectral ordinate (m/s²)"]
        scale = 1.0 if "spectral ordinate (m/s²)" in row else 9.80665
        assert ordinate * scale == pytest.approx(float(
            r.shaking.horizontal[row["direction"]](used)))
        assert row["why"]
        assert row["governed by"]
    own = ud.calculate(r.project).base_shears
    assert own.table().to_frame(r.units).equals(r.base_shears.table().to_frame(r.units))


def test_the_ordinate_on_the_sheet_is_that_at_the_period_used() -> None:
    """Beyond the plateau, where an ordinate elsewhere is another one: S_D1 / T."""
    r = ud.run(ud.shipped_project("terrace"))
    table = r.base_shears.table().to_frame(r.units)
    at_one = float(r.spectrum(1.0)) / 9.80665
    for ordinate, period in zip(table["spectral ordinate (g)"], table["period used (s)"],
                                strict=True):
        assert period > 1.05
        assert ordinate == pytest.approx(at_one / period)


@pytest.mark.usefixtures("unpainted")
def test_the_sheet_and_where_a_run_may_stop(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    monkeypatch.chdir(tmp_path)
    for name in ("clinic", "loft"):
        (tmp_path / f"{name}.toml").write_text(starter_text(name))
        assert command(["base-shear", f"{name}.toml", "--page", f"{name}.html"]) == 0
        out = command.said.out
        assert "approximate period" in out
        assert "period used" in (tmp_path / f"{name}.html").read_text(encoding="utf-8")
    before = sorted(p.name for p in tmp_path.iterdir())
    for stop, word in (("weight", "Seismic weight by level"), ("modes", "effective mass"),
                       ("static", "period used")):
        assert command(["run", "clinic.toml", "--only", stop]) == 0
        assert word in " ".join(command.said.out.split())
        assert command(["run", "clinic.toml", "--only", stop, "--json"]) == 0
        found = json.loads(command.said.out)
        assert all(isinstance(rows, list) for rows in found.values())
    assert sorted(p.name for p in tmp_path.iterdir()) == before
    assert command(["run", "clinic.toml", "--json", "--out", "out"]) == 0
    shown = json.loads(command.said.out)
    kept = json.loads((tmp_path / "out" / "results.json").read_text(encoding="utf-8"))
    assert shown["summary"] == kept["summary"]
    assert shown["findings"] == kept["findings"]
    for wrong, said in ((["--only", "drifts"], "not a stage to stop at"),
                        (["--only", "modes", "--pdf"], "--only")):
        assert command(["run", "clinic.toml", *wrong]) == 2
        assert said in command.said.err


def test_without_a_browser_a_plain_word_before_anything_is_done(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    (tmp_path / "clinic.toml").write_text(starter_text("clinic"))
    monkeypatch.setattr(printing.shutil, "which", lambda _: None)
    out = tmp_path / "out"
    assert command(["run", str(tmp_path / "clinic.toml"), "--pdf", "--out", str(out)]) == 2
    assert "no browser is installed" in command.said.err
    assert not out.exists()


def test_a_browser_that_fails_takes_nothing_with_it(tmp_path: Path) -> None:
    with pytest.raises(ud.InputError, match="all else is written"):
        files.write_all(ud.run(ud.shipped_project("clinic")), tmp_path / "out",
                        browser=shutil.which("false"))
    assert (tmp_path / "out" / "record.html").stat().st_size > 100_000
    assert not list((tmp_path / "out").glob("*.pdf"))


def test_titles_do_not_leave_their_place() -> None:
    """In the header of the printed page as in the text."""
    bad = 'A"; } body { display: none } </style><script>alert(1)</script>\n\\'
    r = ud.run(ud.shipped_project("clinic").varied({"title": bad, "revision": bad}))
    from undatum.report.record import render
    pictures: Any = dict.fromkeys(("spectrum", "plan", "mode_shapes", "story_shears", "drift",
                                   "drift_painted"), b"")
    page = render(r, pictures, files.metadata())
    style = page[page.index("<style>"):page.index("</style>")]
    assert "<script>alert" not in page
    assert "display: none }" not in style.split("@page", 1)[1]
    assert css_text('a"b\\') == '"a\\22 b\\5c "'


def test_faults_of_what_the_record_is_asked_for() -> None:
    frame, lines = ud.shipped_project("terrace"), ud.shipped_project("clinic")
    for one, change, said in (
        (frame, {"record.readings": [{"which": "columns on Z"}]}, r"record\.readings\[0\]"),
        (frame, {"record.diagrams": ["AA"]}, "there is no axis"),
        (lines, {"record.diagrams": ["A"]}, "there are none on axes"),
    ):
        with pytest.raises(ud.InputError, match=said):
            one.varied(change)


@pytest.mark.usefixtures("unpainted")
def test_how_much_a_run_writes(
        tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: Command) -> None:
    (tmp_path / "terrace.toml").write_text(starter_text("terrace"))
    monkeypatch.chdir(tmp_path)
    for detail in ("short", "full"):
        assert command(["run", "terrace.toml", "--out", detail, "--detail", detail]) in (0, 1)
        said = command.said.out
        for name in (tmp_path / detail).iterdir():
            assert name.name == ".undatum" or name.name in said
    short, full = ({p.name for p in (tmp_path / d).iterdir()} for d in ("short", "full"))
    assert short == {".undatum", "record_short.html", "base_shear.html", "results.json",
                     "results.nc", "tables"}
    assert full == short | {"record.html", "results.xlsx", "figures"}
    more = {p.stem for p in (tmp_path / "full" / "tables").iterdir()} \
        - {p.stem for p in (tmp_path / "short" / "tables").iterdir()}
    assert more == {"section_forces", "section_forces_under_cases", "section_forces_envelope"}
    assert ud.load(tmp_path / "short") == ud.load(tmp_path / "full")
    assert command(["run", "terrace.toml", "--detail", "all"]) == 2
    assert "choose from: short, usual, full" in command.said.err


def evaluated(formula: ElementTree.Element) -> float:
    """What a printed formula in numbers comes to, read from its marks alone."""
    def text(e: ElementTree.Element) -> str:
        inner = "".join(text(c) for c in e)
        if e.tag == "msup":
            return f"({text(e[0])})**({text(e[1])})"
        if e.tag == "mfrac":
            return f"(({text(e[0])})/({text(e[1])}))"
        if e.tag == "msqrt":
            return f"math.sqrt({inner})"
        own = (e.text or "").strip()
        return {"·": "*", "−": "-", ";": ",", "=": "", "…": ",", "within": ","}.get(
            own, own) + inner if e.tag != "mspace" else ""

    found = text(formula).replace("\u202f", "")
    picked = {"min", "max"} & set(re.findall("[a-z]+", found))
    if found.count(",") == 2 and "(" not in found.split(",")[0][:1] and not picked:
        value, low, high = map(eval, found.split(","))
        return float(min(max(value, low), high))
    return float(eval(found, {"math": math, "min": min, "max": max}))


@pytest.mark.parametrize("key", [k for k in ROOMS if "." not in k])
def test_the_base_shear_follows_from_its_sheet_alone(key: str) -> None:
    """Every printed number that has a formula is what the numbers beside it come to."""
    site, system, _, _ = ROOMS[key]
    r = analyze(shear_building([6e7, 9e7, 1.2e8], [2e5] * 3), standard=key, site=site,
                system=dict.fromkeys("XY", system))
    sheet = record_short.base_shear_sheet(r.base_shears, {"undatum": "", "written": ""})
    table = sheet.split('<table class="basis lines">')[1].split("</table>")[0]
    checked, last = 0, ""
    for row in re.findall(r"<tr><td>(.*?)</tr>", table, re.S):
        cells = row.split("</td><td")
        value = re.sub(r"<[^>]+>|[^>]*?>", "", cells[1], count=1).strip()
        maths = re.findall(r"<math.*?</math>", cells[4], re.S)
        symbol = re.sub(r"<[^>]+>", "", cells[0])
        if symbol in ("V", "VB", "VtE", "Fb"):
            last = value
        numbers = [m for m in maths if "<mo>=</mo>" in m]
        if not numbers or "∑" in numbers[0]:
            continue
        shown = float(value.split()[0].replace("\u202f", "").replace(",", ""))
        assert evaluated(ElementTree.fromstring(numbers[0])) == pytest.approx(shown, rel=2e-3), (
            symbol, cells[4])
        checked += 1
    assert checked >= 6
    shears = {s.shear.base_shear for s in r.statics.values()}
    assert any(float(last.split()[0].replace("\u202f", "")) == pytest.approx(
        v / r.units.size("force"), rel=1e-4) for v in shears)


@pytest.mark.parametrize("key", sorted(shipped()))
def test_what_a_standard_leaves_is_named(key: str) -> None:
    """Every standard says what it leaves and why; nothing that it leaves is judged as well; the
    record names it and the page of the docs has it."""
    left = shipped()[key].left
    page = (Path(__file__).parent.parent / "docs/coverage.md").read_text("utf-8")
    own = page.split(f"## {shipped()[key].title}\n")[1].split("\n## ")[0]
    judged = {line.split("|")[2].strip() for line in own.splitlines()
              if line.endswith("| judged |")}
    assert len(judged) > 12
    assert len(left) >= 4
    for one in left:
        assert one.why
        assert one.rule not in judged
        assert f"| {one.clause} | {one.rule} |" in own


def test_the_record_ends_with_what_is_left(archive: Results) -> None:
    pictures = dict.fromkeys(figures.of_run(archive), DOT)
    text = unescape(record.render(archive, pictures, files.metadata()))
    last = text.split("Left to you</h2>")[1]
    for one in shipped()["asce7-16"].left:
        assert one.rule in last
    assert "Left to you" in text.split('class="contents"')[1][:3000]
