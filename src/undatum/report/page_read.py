"""What the page can show of what is read: under every source the same, in members, walls, panels
and feet."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from undatum.layout.frame import Member
from undatum.mechanics.actions import feet, framed_of
from undatum.mechanics.cuts import WHOLE, core_sections, wall_sections
from undatum.readings.layouts import Reading
from undatum.readings.of_walls import OF_CORES, OF_WALLS, cores, panel_forces, walls
from undatum.readings.readable import Thing
from undatum.readings.things import forces_of, reactions
from undatum.results.results import Results

Floats = NDArray[np.float64]
NUMBERS = 1_500_000  # that a page holds; of more the ends of members, or the extremes alone
PLACES = (0.0, 0.25, 0.5, 0.75, 1.0)
SOURCES = 12  # that a job has, or thereabouts


def short(values: Floats) -> Any:
    """Numbers of four digits, as lists."""
    with np.errstate(divide="ignore", invalid="ignore"):
        power = np.power(10.0, 3 - np.floor(np.log10(np.abs(values))))
        found = np.where(np.isfinite(power) & (values != 0), np.round(values * power) / power, 0.0)
    return found.tolist()


def packed(values: Floats) -> dict[str, Any]:
    """Many numbers in few letters: whole numbers of two bytes, times ``size``."""
    size = max(float(np.abs(values).max(initial=0.0)) / 32767, 1e-300)
    return {"size": float(f"{size:.6g}"),
            "data": b64encode(np.round(values / size).astype("<i2").tobytes()).decode("ascii")}


def read_for_page(results: Results, members: Sequence[Member]) -> dict[str, Any]:
    """Sources by name, and what stands under each of them: ``members``, ``walls``, ``cores``,
    ``panels`` and ``feet``, each with ``high`` and ``low`` (source, place, component) in the units
    of the project. Empty where there are neither members nor walls."""
    if results.model.framed is None:
        return {"sources": []}
    panels = framed_of(results.model).frame.panels
    ways = ["sets", *(["cases"] if results.load_cases().cases else []),
            *(["envelope"] if results.combines else [])]
    others = 0 if panels is None else 3 * len(panels)

    def count(at: Sequence[float]) -> int:
        return SOURCES * (6 * len(members) * len(at) + others)

    at = PLACES if count(PLACES) <= NUMBERS else (0.0, 1.0)
    if count(at) > NUMBERS:
        ways = ways[-1:]
    on = results.structure
    things: dict[str, Thing] = {}
    if members:
        things["members"] = forces_of(on, members, at)
    if panels is not None:
        things |= {"walls": walls(on, "", ()), "panels": panel_forces(on, "", ())}
        if panels.cores:
            things["cores"] = cores(on, "", ())
    if things:
        things["feet"] = reactions(on, "", ())
    found: dict[str, Any] = {"at": list(at), "sources": []}
    for key, thing in things.items():
        readings = [(way, results.read_thing(thing, way)) for way in ways]
        if not found["sources"]:
            found["sources"] = [name if way != "envelope" else f"extremes: {name}"
                                for way, one in readings for name in one.names]
        found[key] = _values(results, thing, readings)
    if "members" in things:
        found["members"] |= {"count": len(members), "axes": _local_axes(results, members)}
    _placed(results, found)
    return found


def _values(
    results: Results, thing: Thing, readings: Sequence[tuple[str, Reading]]
) -> dict[str, Any]:
    """Both ends of every value, and which combination gives the one that is larger; of panels the
    larger alone, packed by component."""
    scale = np.array([results.units.size(d) for _, d in thing.components])
    made: dict[str, Any] = {"high": [], "low": [], "words": [], "governs": [],
                            "components": [name for name, _ in thing.components],
                            "units": [results.units.label(d) for _, d in thing.components]}
    names: dict[str, int] = {}
    for way, one in readings:
        for k in range(len(one.high)):
            high, low = (v[k].reshape(-1, len(scale)) / scale for v in (one.high, one.low))
            if way != "envelope":
                low = high if one.signed[k] else -high
            if thing.stem == "panel_forces":
                larger = np.where(np.abs(high) >= np.abs(low), high, low)
                made["high"].append([packed(row) for row in larger.T])
                continue
            made["high"].append(short(high))
            made["low"].append(short(low))
            if one.words is None:
                made["governs"].append(None)
                continue
            first, second = one.words[:, k]
            words: NDArray[Any] = np.where(np.abs(one.high[k]) >= np.abs(one.low[k]), first, second)
            made["governs"].append([
                [names.setdefault(str(w), len(names)) for w in row]
                for row in words.reshape(-1, len(scale)).tolist()])
    made["words"] = list(names)
    return made


def _local_axes(results: Results, members: Sequence[Member]) -> Any:
    """The local axes y and z of every member, as unit vectors."""
    frame = framed_of(results.model).frame
    return np.round([frame.axes[m.elements[0], 1:] for m in members], 5).tolist()


def _placed(results: Results, found: dict[str, Any]) -> None:
    """Where everything but members stands: sections of walls and cores one above the other."""
    size, model = results.units.size("length"), results.model
    frame, levels = framed_of(model).frame, results.project.building.levels
    for key, sections, along in (("walls", wall_sections, None), ("cores", core_sections, 1)):
        if key not in found:
            continue
        chains: dict[str, dict[str, Any]] = {}
        for k, one in enumerate(sections(frame)):
            if key == "walls" and one.part != WHOLE:
                continue
            chain = chains.setdefault(one.wall, {
                "name": one.wall, "rows": [], "points": [], "where": [],
                "along": np.round(one.axes[1 if along is None else along, :2], 5).tolist()})
            chain["rows"].append(k)
            chain["points"].append(np.round(one.place / size, 4).tolist())
            chain["where"].append(f"{levels[one.story].name}, {one.at}")
        found[key] |= {"chains": list(chains.values()),
                       "components": list(OF_WALLS if key == "walls" else OF_CORES)}
    if "panels" in found:
        panels = frame.panels
        assert panels is not None
        found["panels"] |= {"walls": [
            f"{panels.walls[w].name}, {levels[s].name}" for w, s in zip(
                panels.wall.tolist(), panels.story.tolist(), strict=True)]}
    if "feet" in found:
        own = feet(model)
        found["feet"] |= {
            "names": [foot.name for foot in own],
            "points": [np.round(np.array(foot.at) / size, 4).tolist() for foot in own]}


