"""What the page to turn holds: points, paths, shapes, diagrams, floors, and tables beside them."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.response import StaticSet
from undatum.finding import findings_table
from undatum.layout.frame import Member
from undatum.mechanics.quantities import center_line
from undatum.report import frames, walls
from undatum.report.drawing import COLORS
from undatum.report.page_read import packed, read_for_page
from undatum.report.scene import Scene, scene_of
from undatum.results.results import Results
from undatum.table import Table

Floats = NDArray[np.float64]
HUES = {**frames.HUES, "lateral line": COLORS["X"], "floor": "#b9c2cd", "wall": walls.EDGE,
        "wall edge": walls.EDGE}
PROFILED = 1500  # members up to which the page holds the outlines of their sections


def page_data(results: Results) -> dict[str, Any]:
    """What the page draws: points in the project's units, paths, shapes, what is read."""
    scene, u = scene_of(results), results.units
    size = u.size("length")
    return {
        "points": np.round(scene.points / size, 4).tolist(),
        "paths": [[p.name, p.kind, p.section if p.kind != "wall" else ", ".join(
            f"{float(t) / size:.4g}" for t in p.section.split(", ")) + f" {u.label('length')}",
            list(p.points)] for p in scene.paths],
        "hues": HUES,
        "feet": [list(foot) for foot in scene.feet],
        "faces": [{"name": name, "color": color, "corners": corners.tolist()}
                  for name, color, corners in (("walls", walls.FACE, scene.walls),
                                               ("slabs", "#dfe5ec", scene.slabs)) if len(corners)],
        "shapes": [packed(shape) for shape in scene.shapes],
        "titles": list(scene.titles),
        "units": {"length": u.label("length"), "force": u.label("force"),
                  "moment": u.label("moment")},
        "profiles": _profiles(results),
        "read": read_for_page(results, _members(results)),
        "floors": _floors(results),
        "tables": _tables(results, scene),
    }


def _members(results: Results) -> tuple[Member, ...]:
    framed = results.model.framed
    return () if framed is None or not framed.frame.members else results.members()


def _profiles(results: Results) -> dict[str, Any]:
    """The outside of every section along its local axes, where there are not too many members."""
    members, size = _members(results), results.units.size("length")
    if not members or len(members) > PROFILED:
        return {}
    sections = results.project.building.sections
    return {name: [np.round(p / size, 4).tolist() for p in sections[name].profiles()]
            for name in dict.fromkeys(m.section for m in members)}


def _floors(results: Results) -> list[dict[str, Any]]:
    """Levels with their centers, the use of the drift limit below them, and the static forces.

    ``points`` where drift is judged in the story below: x, y, use along X and Y, name.
    """
    d, size, drift = results.model.diaphragms, results.units.size("length"), results.drift
    force = results.units.size("force")
    worst = np.stack([np.nanmax(np.append(found, np.full((1, *found.shape[1:]), -np.inf), 0), 0)
                      for found in (np.abs(drift.judged(c)) for c in range(2))])
    lines = [center_line(results.model), *results.plumb]
    sets = [s for s in results.static_sets if s.state == results.strength]
    found = []
    for i, name in enumerate(results.model.levels):
        use = [float(np.nanmax(np.abs(drift.use[s, p, i, c]))) for c in range(2)
               for s, p, _ in [drift.governing(c, i)]] if drift.above_base[i] else []
        center, stiff = d.centers[i] / size, results.rigidity[i] / size
        z = float(d.elevations[i] / size)
        found.append({
            "name": name, "center": [*np.round(center, 4).tolist(), round(z, 4)],
            "rigidity": [*np.round(stiff, 4).tolist(), round(z, 4)]
            if np.isfinite(stiff).all() else None,
            "use": [round(v, 4) for v in use if np.isfinite(v)],
            "points": [[*np.round(line.points[i] / size, 4).tolist(), *(
                round(float(v), 4) if np.isfinite(v) else None for v in worst[:, p, i]), line.name]
                for p, line in enumerate(lines) if np.isfinite(worst[:, p, i]).any()],
            "forces": {s.name: _pushed(s, i, force) for s in sets}})
    return found


def _pushed(one: StaticSet, floor: int, size: float) -> list[float]:
    value = float(f"{one.forces[floor] / size:.4g}")
    return [value, 0.0] if one.direction == "X" else [0.0, value]


def _tables(results: Results, scene: Scene) -> list[dict[str, Any]]:
    """Tables to sort and filter beside the picture; ``to`` says what each row leads to."""
    known = {p.name for p in scene.paths} | {f"floor {n}" for n in results.model.levels}
    tables = [findings_table(results.findings), *(
        results.table(name) for name in (
            *(results.drift.table_name(c) for c in (0, 1)), "modes", "base_shears")
        if name in results.table_names)]
    return [_table(table, results, known) for table in tables]


def _table(table: Table, results: Results, known: set[str]) -> dict[str, Any]:
    rows = table.text_rows(results.units)
    numbers = [[float(v) if isinstance(v, float | int) and not isinstance(v, bool) else None
                for v in row] for row in table.rows(results.units)]
    return {"title": table.title, "heads": table.heads(results.units), "rows": rows,
            "numbers": numbers, "marks": list(table.marks), "to": [
                next((place for cell in row for part in str(cell).split(", ")
                      for place in _places(part) if place in known), "") for row in rows]}


def _places(text: str) -> tuple[str, ...]:
    """What a part of a place may name: itself, or the floor over a story or of a level."""
    bare = text.removeprefix("story ").removeprefix("level ")
    return text, f"wall {bare.removeprefix('wall ')}", f"floor {bare}"
