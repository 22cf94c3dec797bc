"""The building to turn and pick from: a page that stands alone, a grid for other tools, a film."""

from __future__ import annotations

import json
from importlib.resources import files
from pathlib import Path as FilePath
from typing import Any

import numpy as np
from jinja2 import Environment
from markupsafe import Markup

from undatum.errors import Fault, InputError, nearest
from undatum.mechanics.actions import ACTIONS, section_forces
from undatum.report import walls
from undatum.report.drawing import COLORS, INK, SOFT, as_written, new_figure
from undatum.report.frames import seen
from undatum.report.scene import Scene, scene_of
from undatum.results.results import Results

HUES = {"column": INK, "beam": "#5b7fa6", "brace": COLORS["Y"], "lateral line": COLORS["X"],
        "floor": "#b9c2cd", "wall": walls.EDGE, "wall edge": walls.EDGE}
EVERY_SET = 1500  # members up to which the page holds their forces under every set


def _missing(name: str) -> InputError:
    return InputError([Fault("view", f"needs {name}, which is not installed",
                             "pip install 'undatum-seismic[view]'")])


def page(results: Results) -> str:
    """The page, with the drawing library in it. Raises InputError where that is missing."""
    try:
        from plotly.offline import get_plotlyjs
    except ImportError:
        raise _missing("plotly") from None
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    source = files("undatum.report") / "templates" / "building.html.j2"
    return environment.from_string(source.read_text(encoding="utf-8")).render(
        title=results.project.title, standard=results.standard_title,
        library=Markup(get_plotlyjs()), data=Markup(_script(page_data(results))))


def _script(data: object) -> str:
    """Data inside a script: nothing in it can end the script or begin a comment."""
    text = json.dumps(data, ensure_ascii=True, allow_nan=False, separators=(",", ":"))
    return text.replace("<", "\\u003c").replace(">", "\\u003e").replace("&", "\\u0026")


def page_data(results: Results) -> dict[str, Any]:
    """What the page draws: points in the project's units, paths, shapes, forces by member."""
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
        "walls": _walls(results),
        "shapes": [np.round(shape, 4).tolist() for shape in scene.shapes],
        "titles": list(scene.titles),
        "units": {"length": u.label("length"), "force": u.label("force"),
                  "moment": u.label("moment")},
        **_forces(results),
    }


def _forces(results: Results) -> dict[str, Any]:
    """Section forces at both ends of members by set, or the largest of all sets."""
    if results.model.framed is None or not results.model.framed.frame.members:
        return {"components": [], "sets": [], "forces": []}
    u, members = results.units, results.members()
    quantity = section_forces(results.model, members)
    sets = results.sets_for_strength
    values = np.array([s.of(quantity) for s in sets]).reshape(len(sets), len(members), 2, 6)
    names = [s.name for s in sets]
    if len(members) > EVERY_SET:
        values, names = np.abs(values).max(axis=0)[None], ["largest of all sets, without sign"]
    scale = np.array([u.size("force")] * 3 + [u.size("moment")] * 3)
    return {"components": list(ACTIONS), "sets": names,
            "forces": [[[float(f"{v:.4g}") for v in row] for row in one.reshape(-1, 12)]
                       for one in values / scale]}


def _walls(results: Results) -> dict[str, Any]:
    """The actions of walls at the foot of each story, the largest of all sets for strength."""
    framed = results.model.framed
    if framed is None or framed.frame.panels is None:
        return {}
    found, u = results.read("walls"), results.units
    most = np.abs(found.values).max(axis=0)
    scale = np.array([u.size("force")] * 3 + [u.size("moment")] * 3)
    places = found.thing.places
    made: dict[str, Any] = {}
    for k, (wall, part, story, at) in enumerate(zip(*(
            places[name] for name in ("wall", "part", "story", "at")), strict=True)):
        if part == "whole wall" and at == "foot":
            made.setdefault(f"wall {wall}", []).append(
                [story, *(float(f"{v:.4g}") for v in (most[k] / scale)[[0, 1, 5]])])
    return made


def write_grid(results: Results, path: str | FilePath) -> None:
    """Points, paths and shapes as a VTK unstructured grid. Raises InputError without the library.

    Point data: displacement in every mode, under static sets and load cases (largest 1). Cell
    data: kind (0 column, 1 beam, 2 brace, 3 lateral line, 4 floor, 5 wall, 6 its openings) and the
    number of the section; panels of walls and of floors that deform are quadrilaterals.
    """
    try:
        import meshio
    except ImportError:
        raise _missing("meshio") from None
    scene = scene_of(results)
    kinds = list(HUES)
    sections = list(dict.fromkeys(p.section for p in scene.paths))
    ends, kind, section = [], [], []
    for p in scene.paths:
        for a, b in zip(p.points[:-1], p.points[1:], strict=True):
            ends.append((a, b))
            kind.append(kinds.index(p.kind))
            section.append(sections.index(p.section))
    flat = [(kinds.index(name), quads) for name, quads in (
        ("wall", scene.walls), ("floor", scene.slabs)) if len(quads)]
    meshio.Mesh(
        scene.points, [("line", np.array(ends)), *(("quad", quads) for _, quads in flat)],
        point_data=dict(zip(scene.names, scene.shapes, strict=True)),
        cell_data={
            "kind": [np.array(kind), *(np.full(len(quads), k) for k, quads in flat)],
            "section": [np.array(section), *(np.zeros(len(quads), dtype=int)
                                             for _, quads in flat)]},
    ).write(str(path), file_format="vtu")


def filmed(results: Results, under: str) -> tuple[Scene, int]:
    """The scene, and which of its shapes is meant: a mode by its number or as ``mode 3``, a static
    set or a load case by name. Raises InputError with what there is.
    """
    name = f"mode {under}" if under.isdigit() else under
    scene = scene_of(results, results.modes.kept)
    if name not in scene.names:
        near = nearest(name, list(scene.names))
        raise InputError([Fault("--film", f"there is no {name!r} to film",
                                (f"did you mean {near!r}? " if near else "")
                                + f"modes 1 to {results.modes.kept}; "
                                + "; ".join(scene.names[results.modes.kept:]))])
    return scene, scene.names.index(name)


@as_written
def write_film(results: Results, under: str, path: str | FilePath) -> None:
    """A mode, a static set or a load case as a moving picture (GIF). Raises InputError for one that
    is not there."""
    from matplotlib.animation import FuncAnimation, PillowWriter
    from matplotlib.collections import LineCollection, PolyCollection

    scene, which = filmed(results, under)
    figure = new_figure(6.4, 6.0, scene.names[which].capitalize())
    ax = figure.add_axes((0.02, 0.05, 0.96, 0.86))
    ax.set_aspect("equal")
    ax.axis("off")
    figure.text(0.01, 0.02, scene.titles[which], fontsize=9, color=SOFT)
    reach = 0.06 * float(np.ptp(scene.points, axis=0).max())
    rest = [seen(scene.points[list(p.points)])[0] for p in scene.paths]
    ax.add_collection(LineCollection(rest, colors="#d7dde4", linewidths=0.6))
    flat = np.concatenate([scene.walls, scene.slabs])
    faces = PolyCollection(list(seen(scene.points)[0][flat]), facecolors=walls.FACE, alpha=0.5)
    ax.add_collection(faces)
    moving = LineCollection(rest, colors=[HUES[p.kind] for p in scene.paths], linewidths=[
        0.8 if p.kind in ("floor", "wall edge") else 1.2 for p in scene.paths])
    ax.add_collection(moving)
    every = seen(scene.points)[0]
    low, high = every.min(axis=0) - 1.2 * reach, every.max(axis=0) + 1.2 * reach
    ax.set_xlim(low[0], high[0])
    ax.set_ylim(low[1], high[1])

    def draw(step: int) -> list[LineCollection]:
        at = scene.points + reach * np.sin(2 * np.pi * step / 24) * scene.shapes[which]
        faces.set_verts(list(seen(at)[0][flat]))
        moving.set_segments([seen(at[list(p.points)])[0] for p in scene.paths])
        return [moving]

    FuncAnimation(figure, draw, frames=24, interval=60).save(
        str(path), writer=PillowWriter(fps=16), dpi=90)

