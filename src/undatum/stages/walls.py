"""Walls: what is asked about them, and the tables of them as they were given."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

import numpy as np

from undatum.building.naming import known_names
from undatum.finding import Finding, Severity, several
from undatum.layout.apart import parts_apart
from undatum.layout.frame import Frame
from undatum.layout.panels import Panels, WallRun
from undatum.layout.wall_flanges import wall_flanges
from undatum.layout.whole import Building
from undatum.mechanics.model import Model
from undatum.table import Cell, Table, column
from undatum.units import UnitSystem

ACROSS = 4  #: panels along a wall, or between its openings, below which its mesh is coarse
UP = 2  #: panels up a story below which it is


def standing_apart(building: Building) -> tuple[Finding, ...]:
    """Walls and columns that no floor holds at some of their levels."""
    return tuple(Finding(
        "standing apart", one.what, Severity.WARNING,
        f"No floor holds it at {several(one.levels)}: it lies in a hole or beside the edge, and no "
        "beam or wall joins it to the floor. It takes no share of the forces of the floor there; "
        "its weight counts with the floor.", "building.outlines",
        "Extend the outline, join it by a beam, or check it by itself as a cantilever.")
        for one in parts_apart(building))


def wall_findings(building: Building, model: Model) -> tuple[Finding, ...]:
    """How walls are taken, what they stand on, and where their mesh is coarse."""
    frame = building.frame
    if frame is None or frame.panels is None:
        return ()
    panels = frame.panels
    left_out = panels.beams_within
    held = "also across their openings" if building.floors_hold_openings else \
        "where they stand, not across their openings"
    found = [Finding(
        "walls", several(sorted(w.name for w in panels.walls)), Severity.NOTE,
        f"{len(panels)} panels. Walls that meet are joined along their line; floors restrain them "
        f"{held}. Slabs have no bending stiffness: walls are coupled by the wall over openings and "
        "by beams, not by slabs. Dimensions run from center line to center line, so that corners "
        f"count twice in weight and area: {_corners(panels):.1%} of the walls." + (
            f" Beams within walls are left out: {left_out}." if left_out else ""),
        "building.walls")]
    heads = _on_heads(building, frame, panels)
    if heads:
        found.append(Finding(
            "walls on column heads", several(heads), Severity.WARNING,
            "They bear directly on column heads: the forces there grow without limit as panels get "
            "smaller.", "",
            "Add a transfer beam under the wall, or a wall below it."))
    coarse = _coarse(panels)
    if coarse:
        found.append(Finding(
            "mesh of walls", several(coarse), Severity.WARNING,
            f"Fewer than {ACROSS} panels along them, or {UP} per story: sway and forces may be "
            "several percent off.", "building.wall_mesh",
            "Use a smaller mesh and compare."))
    return tuple(found)


def _corners(panels: Panels) -> float:
    """Share of the walls' area in plan that stands at corners, counted by both walls."""
    total, twice = 0.0, 0.0
    for k, one in enumerate(panels.walls):
        total += one.length * one.thickness[-1]
        for other in panels.walls[:k]:
            for p in (one.start, one.end):
                if min(np.hypot(*np.subtract(p, q)) for q in (other.start, other.end)) < 1e-5:
                    twice += one.thickness[-1] * other.thickness[-1] / 4
    return twice / total if total else 0.0


def _on_heads(building: Building, frame: Frame, panels: Panels) -> list[str]:
    """Walls that stand on columns and on nothing between them."""
    lowest = len(building.levels) - 1
    beams = set(frame.ends[frame.kinds == "beam"].ravel().tolist())
    columns = set(frame.ends[frame.kinds == "column", 1].tolist())
    names = []
    for w, run in enumerate(panels.walls):
        for i in run.stories:
            below = building.below[i]
            if below == lowest or below in run.stories:
                continue
            own = (panels.wall == w) & (panels.story == i)
            feet = {n for n in panels.nodes[own, :2].ravel().tolist()
                    if frame.floors[n] == below}
            under = set(panels.nodes[panels.story == below].ravel().tolist())
            if feet & columns and not feet <= beams | under | columns:
                names.append(run.name)
    return names


def _coarse(panels: Panels) -> list[str]:
    """Walls whose panels are few along them, or up a story."""
    names = []
    for w, run in enumerate(panels.walls):
        mine = panels.box[panels.wall == w]
        story = panels.story[panels.wall == w]
        few = any(len(np.unique(mine[story == i, 2].round(6))) < UP for i in run.stories)
        if few or len(np.unique(mine[:, 0].round(6))) < ACROSS:
            names.append(run.name)
    return names


def walls_table(building: Building, units: UnitSystem) -> Table:
    """Every wall by ranges of stories that are alike: where it stands, what it is made of, its
    openings and what is kept of its stiffness."""
    frame = building.frame
    assert frame is not None
    assert frame.panels is not None
    order = [level.name for level in building.levels]
    rows: list[tuple[Cell, ...]] = []
    cores = {w: name for name, own in frame.panels.cores.items() for w in own}
    for w, (given, run) in enumerate(zip(building.walls, frame.panels.walls, strict=True)):
        shares = given.shares()
        kept = "all" if shares is None else \
            f"{shares.bending:g} bending, {shares.shear:g} shear" + (
                "" if shares.coupling_beams is None else
                f", {shares.coupling_beams:g} coupling beams") + f": {shares.reason}"
        for key, places in groupby(range(len(run.stories)), key=lambda k, r=run: _alike(r, k)):  # type: ignore[misc]
            own = list(places)
            names = [order[run.stories[k]] for k in own]
            rows.append((
                run.name, cores.get(w, ""), names[0] if len(names) == 1 else
                f"{names[-1]} to {names[0]}", *map(float, (*run.start, *run.end)), key[0],
                _material(building, w, run.stories[own[0]]), _openings(run, own[0], units), kept))
    heads = (("wall", ""), ("core", ""), ("stories", ""), ("start x", "length"),
             ("start y", "length"), ("end x", "length"), ("end y", "length"),
             ("thickness", "length"), ("material", ""), ("openings", ""), ("kept", ""))
    return Table(
        "input_walls", "Walls as given",
        tuple(column(name, dimension, [r[k] for r in rows])
              for k, (name, dimension) in enumerate(heads)
              if k != 1 or any(r[1] for r in rows)),
        note="A story is named by the level at its top. Openings: from and to along the wall, sill "
        "and head above the floor below.",
    )


def _alike(run: WallRun, k: int) -> tuple[float, tuple[tuple[float, ...], ...], float]:
    low = run.reach[k][0]
    return run.thickness[k], tuple(
        tuple(round(v, 6) for v in (a, b, z0 - low, z1 - low))
        for a, b, z0, z1 in run.holes[k]), run.unit_weight[k]


def _material(building: Building, w: int, story: int) -> str:
    given = building.walls[w].material
    if isinstance(given, str):
        return given
    upwards = [level.name for level in building.levels][:-1][::-1]
    name = building.levels[story].name
    return next((value for text, value in reversed([*given.items()])
                 if name in known_names(text, upwards, "levels")), "")


def _openings(run: WallRun, k: int, units: UnitSystem) -> str:
    low, size = run.reach[k][0], units.size("length")
    return "; ".join(
        f"{a / size:.4g} to {b / size:.4g}, {(z0 - low) / size:.4g} to {(z1 - low) / size:.4g} "
        f"{units.label('length')}" for a, b, z0, z1 in run.holes[k])


def panels_table(panels: Panels, levels: Sequence[str]) -> Table:
    """Where every panel is, by the number that readings of panels name."""
    return Table(
        "wall_panels", "Panels of walls",
        (
            column("panel", "", [str(k) for k in range(len(panels))]),
            column("wall", "", [panels.walls[w].name for w in panels.wall.tolist()]),
            column("story", "", [levels[i] for i in panels.story.tolist()]),
            *(column(name, "length", panels.box[:, k]) for k, name in enumerate(
                ("from the start", "to", "elevation from", "elevation to"))),
            column("thickness", "length", panels.thickness),
            column("over or under an opening", "", panels.over.tolist()),
        ),
    )


def wall_flanges_table(panels: Panels, levels: Sequence[str]) -> Table:
    """Effective flanges of walls at the head and foot of every story, with what governs each."""
    rows = wall_flanges(panels)
    met = {r.web for r in rows}
    alone = [w.name for k, w in enumerate(panels.walls) if w.flanges is not None and k not in met]
    return Table(
        "wall_flanges", "Effective flanges of walls",
        (
            column("wall", "", [panels.walls[r.web].name for r in rows]),
            column("story", "", [levels[r.story] for r in rows]),
            column("at", "", [r.at for r in rows]),
            column("flange", "", [panels.walls[r.wall].name for r in rows]),
            column("from the start", "length", [r.low for r in rows]),
            column("to", "length", [r.high for r in rows]),
            column("width towards the start", "length", [r.widths[0] for r in rows]),
            column("governed by", "", [r.why[0] for r in rows]),
            column("width towards the end", "length", [r.widths[1] for r in rows]),
            column("governed there by", "", [r.why[1] for r in rows]),
            column("clause", "", [r.clause or "given" for r in rows]),
        ),
        note="Widths are measured from the faces of the web. They say what the part \"with "
        "flanges\" takes in; the analysis has every panel, and its stresses fall off along a "
        "flange by themselves." + (
            f" They have no flange, for no wall meets them: {', '.join(alone)}." if alone else ""),
    )
