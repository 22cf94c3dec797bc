"""The building to turn and pick from: a page that stands alone, a grid for other tools, a film."""

from __future__ import annotations

import json
from importlib.resources import files
from pathlib import Path as FilePath

import numpy as np
from jinja2 import Environment
from markupsafe import Markup

from undatum.errors import Fault, InputError, guess
from undatum.report import walls
from undatum.report.drawing import SOFT, as_written, new_figure
from undatum.report.frames import seen
from undatum.report.page_data import HUES, page_data
from undatum.report.scene import Scene, scene_of
from undatum.results.results import Results


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
        raise InputError([Fault("--film", f"there is no {name!r} to film",
                                guess(name, scene.names, after=" ")
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

