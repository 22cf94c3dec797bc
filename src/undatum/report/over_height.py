"""Values of levels and stories as curves over the height, floors side by side apart."""

from __future__ import annotations

from typing import Any

import numpy as np
from matplotlib.axes import Axes

from undatum.results.results import Results


def heights(results: Results) -> tuple[Any, Any]:
    """Which levels lie above the base, and their elevations."""
    above = results.model.above_base
    return above, results.model.heights[above] / results.units.size("length")


def stepped(results: Results, values: Any) -> tuple[Any, Any]:
    """A value for each story above the base as a line over the height: floors that stand side by
    side break it."""
    model, size = results.model, results.units.size("length")
    place = {int(i): k for k, i in enumerate(np.flatnonzero(model.above_base))}
    x: list[float] = []
    y: list[float] = []
    drawn: set[int] = set()
    for chain in model.chains:
        for i in chain:
            if i in drawn:
                break
            drawn.add(i)
            top = float(model.heights[i])
            x += [float(values[place[i]])] * 2
            y += [top / size, (top - float(model.diaphragms.story_heights[i])) / size]
        x.append(np.nan)
        y.append(np.nan)
    return np.array(x), np.array(y)


def jointed(results: Results, values: Any, foot: float) -> tuple[Any, Any]:
    """A value for each floor above the base as a line down to the base, chain by chain."""
    model, size = results.model, results.units.size("length")
    place = {int(i): k for k, i in enumerate(np.flatnonzero(model.above_base))}
    x: list[float] = []
    y: list[float] = []
    for chain in model.chains:
        x += [*(float(values[place[i]]) for i in chain), foot, np.nan]
        y += [*(float(model.heights[i]) / size for i in chain), 0.0, np.nan]
    return np.array(x), np.array(y)


def apart(z: Any) -> tuple[Any, Any]:
    """Places and thicknesses of bars at heights, beside each other where floors are level."""
    whole = 0.35 * float(z.min())
    places, thick = np.array(z, dtype=float), np.full(len(z), whole)
    for height in np.unique(np.round(z, 6)):
        own = np.flatnonzero(np.abs(z - height) < 1e-6)
        thick[own] = whole / len(own)
        places[own] += whole * ((len(own) - 1) / 2 - np.arange(len(own))) / len(own)
    return places, thick


def level_ticks(ax: Axes, results: Results) -> list[str]:
    """Name the levels on the left; returns the names."""
    above, z = heights(results)
    at: dict[float, list[str]] = {}  # floors side by side share a line
    names = [name for name, keep in zip(results.model.levels, above, strict=True) if keep]
    for name, height in zip(names, z, strict=True):
        at.setdefault(round(float(height), 6), []).append(name)
    building = results.project.building
    at[0.0] = [building.levels[building.base_index].name]
    said = [", ".join(own) for own in at.values()]
    step = 1 + len(said) // 30  # more names than this can't be read
    ax.set_yticks(list(at)[::-step], said[::-step])
    return said
