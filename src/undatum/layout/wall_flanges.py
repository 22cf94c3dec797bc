"""Walls that work as flanges of a wall they meet: how far, at every head and foot of a story."""

from __future__ import annotations

from collections.abc import Iterator

from undatum.layout.panels import CLOSE, Panels, WallRun
from undatum.record import record
from undatum.standards.flanges import WALL_RULES, wall_flange

ACROSS = 0.5  # sine of the angle, from which a wall that meets another is its flange


@record
class WallFlange:
    """A stretch of a wall that counts with its ``web`` at one section of a story.

    ``wall`` and ``web`` index into the walls; ``at`` head or foot; ``low`` and ``high`` are from
    and to along the wall, m, the thickness of the web in it; ``widths`` (2,) beyond its faces,
    towards start and end, m, and ``why`` of each; ``clause`` empty where the user gave the width.
    """

    web: int
    wall: int
    story: int
    at: str
    low: float
    high: float
    widths: tuple[float, float]
    why: tuple[str, str]
    clause: str


def wall_flanges(panels: Panels) -> tuple[WallFlange, ...]:
    """Every effective flange of the walls that ask for them, top down in each wall."""
    return panels.memo.get("wall flanges", lambda: tuple(
        one for w, run in enumerate(panels.walls) if run.flanges is not None
        for place in range(len(run.stories)) for at in ("head", "foot")
        for one in _at_section(panels, w, place, at)))


def _at_section(panels: Panels, w: int, place: int, at: str) -> Iterator[WallFlange]:
    web = panels.walls[w]
    story, given = web.stories[place], web.flanges
    top = max(high for _, high in web.reach)
    above = top - web.reach[place][1 if at == "head" else 0]
    for f, run in enumerate(panels.walls):
        crossing = _crossing(run, web, story)
        if f == w or crossing is None:
            continue
        u, half = crossing
        others = [c for k, one in enumerate(panels.walls) if k not in (f, w)
                  and (c := _crossing(run, one, story)) is not None and abs(c[0] - u) > CLOSE]
        widths, why = [], []
        for side, there in ((-1, u - half), (1, run.length - u - half)):
            clear = [abs(v - u) - half - other for v, other in others if (v - u) * side > 0]
            width, reason = wall_flange(above, min(clear, default=None), there) \
                if isinstance(given, str) else min((there, "to its end"), (given or 0.0, "given"))
            widths.append(max(width, 0.0))
            why.append(reason)
        yield WallFlange(
            w, f, story, at, max(u - half - widths[0], 0.0),
            min(u + half + widths[1], run.length), (widths[0], widths[1]), (why[0], why[1]),
            WALL_RULES[given] if isinstance(given, str) else "")


def _crossing(run: WallRun, web: WallRun, story: int) -> tuple[float, float] | None:
    """Where a web meets a wall in a story, along that wall, with half the web's width in it; None
    where they do not meet, or run alike."""
    if story not in run.stories or story not in web.stories:
        return None
    sine, crossing = abs(run.sine(web)), run.crossing(web)
    if crossing is None or sine < ACROSS:
        return None
    return crossing[0], web.thickness[web.stories.index(story)] / 2 / sine
