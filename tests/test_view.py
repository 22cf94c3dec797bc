"""The building to turn: points that move as floors do, a page that a real browser opens."""

from __future__ import annotations

import base64
import json
import re
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import meshio
import numpy as np
import pytest
from PIL import Image

import undatum as ud
from conftest import Command, frame_of
from test_frames import SITE, SYSTEM, real
from test_walls import CORE, building, made
from undatum.report import view
from undatum.report.scene import scene_of

BROWSER = next((found for name in ("chromium", "chromium-browser", "google-chrome")
                if (found := shutil.which(name))), None)


@pytest.fixture(scope="module")
def mixed() -> ud.Results:
    """Members and one lateral line, with a title that would like to be a script."""
    one = real()
    wall = ud.Line(name="</script><b>w", direction="X", at=(7, 0), drawn_length=4.0,
                   bottom="Ground", top=one.levels[0].name, stiffness=1e8)
    return ud.analyze(title="Mill </script><script>alert(1)</script>", standard="asce7-16",
                      results_in="kN and m", site=SITE, system=SYSTEM,
                      building=one.model_copy(update={"lines": (wall,)}))


def test_points_move_with_their_floors(mixed: ud.Results) -> None:
    """Every point of a path at a level moves as one rigid body; the ground stays; the largest
    motion is one; columns run from floor to floor."""
    scene = scene_of(mixed)
    frame = mixed.model.framed.frame  # type: ignore[union-attr]
    for i, z in enumerate(mixed.project.building.elevations):
        own = np.flatnonzero(np.abs(scene.points[:, 2] - z) < 1e-9)
        on = [p for p in own if p >= len(frame.points) or mixed.model.framed.tied[p]]  # type: ignore[union-attr]
        for shape in scene.shapes[:-2]:  # peaks of a spectrum are no motion of a rigid body
            if i == len(mixed.project.building.levels) - 1:
                assert np.abs(shape[own, :2]).max() == 0
                continue
            x, y = scene.points[on, 0], scene.points[on, 1]
            rows = np.concatenate([np.column_stack([x * 0 + 1, x * 0, -y]),
                                   np.column_stack([x * 0, x * 0 + 1, x])])
            moved = np.concatenate([shape[on, 0], shape[on, 1]])
            fit, *_ = np.linalg.lstsq(rows, moved, rcond=None)
            assert rows @ fit == pytest.approx(moved, abs=1e-9)
    assert np.abs(scene.shapes).max(axis=(1, 2)) == pytest.approx(1)
    names = [p.name for p in scene.paths]
    assert "line </script><b>w" in names
    for p in scene.paths:
        if p.kind == "column":
            assert np.ptp(scene.points[list(p.points), 2]) > 1
        if p.kind == "lateral line":
            assert len(p.points) == len(mixed.project.building.levels)


def test_peaks_of_a_spectrum_are_those_that_are_read(mixed: ud.Results) -> None:
    """Drawn with the signs of the leading mode, as large as the table of nodes has them."""
    scene = scene_of(mixed)
    frame = mixed.model.framed.frame  # type: ignore[union-attr]
    for k, name in list(enumerate(scene.names))[-2:]:
        assert name.startswith("spectrum")
        found = mixed.read("motion", "all", name, signed=True)
        values = found.high[0].reshape(-1, 6)[:, :3]
        nodes = list(dict.fromkeys(n for m in frame.members
                                   for n in frame.ends[list(m.elements)].ravel().tolist()))
        ratio = scene.shapes[k][nodes] * np.abs(values).max()
        assert ratio / np.abs(ratio).max() * np.abs(values).max() == pytest.approx(
            values, abs=1e-9 * np.abs(values).max())


def opened(path: Path, asked: str = "") -> str:
    assert BROWSER is not None
    found = subprocess.run(
        [BROWSER, "--headless", "--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader",
         "--enable-unsafe-swiftshader", "--window-size=480,360",
         "--virtual-time-budget=2500", "--dump-dom", f"{path.as_uri()}{asked}"],
        capture_output=True, text=True, timeout=120, check=False)
    return found.stdout


def body(text: str) -> str:
    """The page without its scripts."""
    return re.sub(r"<script.*?</script>", "", text, flags=re.DOTALL)


@pytest.mark.skipif(BROWSER is None, reason="no browser is installed")
def test_a_browser_opens_the_page(mixed: ud.Results, tmp_path: Path) -> None:
    """It picks a member by name and shows its forces, shows a mode, and says what it has not."""
    path = tmp_path / "building.html"
    path.write_text(view.page(mixed), encoding="utf-8")
    member = mixed.members("columns")[0]
    text = opened(path, f"#member={member.name.replace(' ', '%20')}&mode=1")
    page = body(text)
    assert 'data-ready="yes"' in page
    assert "<canvas" in page
    assert re.search(r'id="trouble">\s*<', page)
    assert f"<h2>{member.name}</h2>" in page
    assert 'id="paper" alt="" src="data:image/png' in page  # what is printed
    assert f"selected: {member.name}" in page
    assert f"column, section {member.section}" in page
    data = view.page_data(mixed)
    k = [m.name for m in mixed.members()].index(member.name)
    own = np.array(data["read"]["members"]["high"][0]).reshape(len(mixed.members()), -1, 6)[k]
    for largest, smallest in zip(own.max(axis=0), own.min(axis=0), strict=True):
        assert f"<td>{largest:g}</td><td>{smallest:g}</td>" in page
    assert "<b>w" not in page


@pytest.mark.skipif(BROWSER is None, reason="no browser is installed")
def test_every_source_is_drawn_and_tables_are_there(mixed: ud.Results, tmp_path: Path) -> None:
    """Every mode, source, action and choice for floors once: no error of a script; the findings
    stand in a table, and lead to what they name."""
    path = tmp_path / "building.html"
    path.write_text(view.page(mixed), encoding="utf-8")
    page = body(opened(path, "#every=1&floors=drift&action=members:0"))
    assert 'data-ready="yes"' in page
    assert re.search(r'id="trouble">\s*<', page)
    rows = page.split('id="rows"')[1].split("</table>")[0]
    assert rows.count("<tr") == len(mixed.findings) + 1
    assert len(re.findall('role="tab"', page)) == 5
    assert "largest" in page.split('id="peak"')[1][:60]


def test_diagrams_and_floors_are_those_of_the_tables(mixed: ud.Results) -> None:
    data = view.page_data(mixed)
    d, members = data["read"], [m.name for m in mixed.members()]
    names = [s for s in d["sources"] if not s.startswith("extremes")]
    for s in (0, len(names) - 1):
        reading = mixed.read("forces", "all", d["sources"][s], at=tuple(d["at"]))
        values = reading.high[0].reshape(-1, 6) / 1e3
        assert np.array(d["members"]["high"][s]) == pytest.approx(values, rel=1e-3, abs=1e-9)
        sign = 1.0 if reading.signed[0] else -1.0
        assert np.array(d["members"]["low"][s]) == pytest.approx(
            sign * np.array(d["members"]["high"][s]))
        feet = mixed.read("reactions", "", d["sources"][s])
        assert [*d["feet"]["names"], "sum"] == list(feet.thing.places["foot"])
        assert np.array(d["feet"]["high"][s]) == pytest.approx(
            feet.values[0] / 1e3, rel=1e-3, abs=1e-9)
    envelope = frame_of(mixed, "forces", members[0], "envelope", at=tuple(d["at"]))
    top = envelope[(envelope["component"] == "axial") & (envelope["extreme"] == "smallest")]
    worst = top.loc[top["force (kN)"].idxmin()]
    s = d["sources"].index(f"extremes: {worst['kind']}")
    t = ["start", "0.25", "0.5", "0.75", "end"].index(str(worst["at"]))
    assert d["members"]["low"][s][t][0] == pytest.approx(worst["force (kN)"], rel=1e-3)
    assert d["members"]["words"][d["members"]["governs"][s][t][0]] == worst["combination"]


def test_walls_and_panels_on_the_page_are_those_that_are_read() -> None:
    """Sections of walls where they stand, and panels packed to two bytes, under every source."""
    results = ud.run(made(building(CORE, 2, cores={"lift": [w.name for w in CORE]})))
    d = view.page_data(results)["read"]
    for s, name in enumerate(d["sources"][:3]):
        for what in ("walls", "cores"):
            found = results.read(what, "", name)
            for chain in d[what]["chains"]:
                for row, where, point in zip(chain["rows"], chain["where"], chain["points"],
                                             strict=True):
                    places = {key: own[row] for key, own in found.thing.places.items()}
                    assert chain["name"] == places["wall" if what == "walls" else "core"]
                    assert where == f"{places['story']}, {places['at']}"
                    assert point[2] == {"L2, head": 6, "L2, foot": 3, "L1, head": 3,
                                        "L1, foot": 0}[where]
                    assert np.array(d[what]["high"][s][row]) * 1e3 == pytest.approx(
                        found.values[0, row], rel=1e-3, abs=1e-6)
        field = results.read("panels", "", name).values[0] / 1e3
        for c in range(3):
            held = d["panels"]["high"][s][c]
            shown = np.frombuffer(base64.b64decode(held["data"]), "<i2") * held["size"]
            assert np.abs(shown - field[:, c]).max() <= 0.6 * held["size"]


def test_a_floor_on_the_page_is_that_of_the_tables(mixed: ud.Results) -> None:
    data = view.page_data(mixed)
    first = mixed.static_sets[0]
    for i, floor in enumerate(data["floors"]):
        force = np.hypot(*floor["forces"][first.name])
        assert force == pytest.approx(abs(first.forces[i]) / 1e3, rel=1e-3)
        for c in range(len(floor["use"])):
            worst = mixed.to_frame(f"drift_{'xy'[c]}").set_index("story")["use"]
            assert floor["use"][c] == pytest.approx(worst[floor["name"]], abs=1e-3)
            at = [point[2 + c] for point in floor["points"] if point[2 + c] is not None]
            assert max(at) == floor["use"][c]
    findings = data["tables"][0]
    named = [to for row, to in zip(findings["rows"], findings["to"], strict=True)
             if "story" in row[2]]
    assert named
    assert all(to.startswith("floor ") for to in named)


@pytest.mark.parametrize("shape", ["i_shape", "channel", "tee", "angle", "rectangle", "circle"])
def test_sections_are_drawn_as_they_are(shape: str) -> None:
    """What is enclosed is the area of the section, and its middle is where it is turned about."""
    from shapely.geometry import Polygon

    sizes = {"i_shape": (0.2, 0.4, 0.02, 0.01), "channel": (0.1, 0.3, 0.02, 0.01),
             "tee": (0.2, 0.3, 0.02, 0.01), "angle": (0.1, 0.15, 0.01), "rectangle": (0.3, 0.5),
             "circle": 0.4}[shape]
    one = ud.CrossSection(**{shape: sizes}, material="C30/37")
    [points] = one.profiles()
    drawn = Polygon(points)
    assert drawn.is_valid
    assert drawn.area == pytest.approx(one.found().area, rel=0.05 if shape == "circle" else 1e-9)
    if shape != "circle":
        assert (drawn.centroid.x, drawn.centroid.y) == pytest.approx((0, 0), abs=1e-9)
        assert np.ptp(points, axis=0).max() > 0.14


def test_names_never_become_markup(mixed: ud.Results) -> None:
    text = view.page(mixed)
    assert "<title>Mill &lt;/script&gt;" in text
    held = re.search(r'id="data" type="application/json">(.*?)</script>', text, re.DOTALL)
    assert held is not None
    assert json.loads(held[1])["paths"] == view.page_data(mixed)["paths"]


def test_grid_for_other_tools(mixed: ud.Results, tmp_path: Path) -> None:
    view.write_grid(mixed, tmp_path / "one.vtu")
    grid, scene = meshio.read(tmp_path / "one.vtu"), scene_of(mixed)
    assert grid.points == pytest.approx(scene.points)
    assert grid.point_data["mode 2"] == pytest.approx(scene.shapes[1])
    assert len(grid.cells[0].data) == sum(len(p.points) - 1 for p in scene.paths)
    columns = np.flatnonzero(grid.cell_data["kind"][0] == 0)
    ends = scene.points[grid.cells[0].data[columns]]
    assert np.abs(ends[:, 0, :2] - ends[:, 1, :2]).max() == 0


def test_commands(tmp_path: Path, command: Command) -> None:
    path = tmp_path / "a.toml"
    assert command(["new", str(path)]) == 0
    out = tmp_path / "view"
    assert command(["view", str(path), "--out", str(out), "--film", "2"]) == 0
    assert {p.name for p in out.iterdir()} == {"building.html", "building.vtu", "mode_2.gif"}
    with Image.open(out / "mode_2.gif") as film:
        assert film.n_frames > 12  # type: ignore[attr-defined]
    fresh = tmp_path / "fresh"
    assert command(["view", str(path), "--out", str(fresh), "--film", "99"]) == 2
    assert not fresh.exists()
    assert "there is no 'mode 99'" in command.said.err


def test_missing_libraries_say_so(mixed: ud.Results, monkeypatch: Any, tmp_path: Path) -> None:
    monkeypatch.setitem(sys.modules, "plotly.offline", None)
    monkeypatch.setitem(sys.modules, "meshio", None)
    for attempt in (lambda: view.page(mixed), lambda: view.write_grid(mixed, tmp_path / "x.vtu")):
        with pytest.raises(ud.InputError, match=r"(?s)not installed.*undatum-seismic\[view\]"):
            attempt()
