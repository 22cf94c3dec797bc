"""Diagrams of section forces on the members of an axis, under anything that acts."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from matplotlib.axes import Axes
from matplotlib.collections import PolyCollection
from matplotlib.figure import Figure
from numpy.typing import NDArray
from scipy import sparse

from undatum.errors import Fault, InputError
from undatum.finding import several
from undatum.layout.frame import Member
from undatum.mechanics.actions import ACTIONS, framed_of
from undatum.readings.layouts import Reading
from undatum.readings.things import forces_of
from undatum.report.drawing import COLORS, INK, SOFT, as_written, new_figure, settle
from undatum.report.frames import draw_elevation, drawn, ends_of, on_axis
from undatum.results.results import Results
from undatum.standards.terms import Method

Floats = NDArray[np.float64]
FORCES = ("axial", "shear", "shear_y", "shear_z")
WORDS = {"moment": "bending moment in the plane", "shear": "shear in the plane",
         "axial": "axial force", "shear_y": "shear along local y", "shear_z": "shear along local z",
         "torsion": "torsion", "moment_y": "bending moment about local y",
         "moment_z": "bending moment about local z"}


@as_written
def diagram(
    results: Results, axis: str, action: str, under: str, by: Method = "spectrum"
) -> Figure:
    """Section forces of the members on an axis, drawn across them, largest values written.

    ``under`` is what one reading takes: a set, a mode of a set, a load case, a combination or the
    extremes of a kind, drawn as a band between them. ``shear`` and ``moment`` are those in the
    plane of the axis, moments drawn on the side in tension; the components of the members' own axes
    are drawn to the left of each. Raises InputError for an axis, an action or a source that is not
    there, or for several at once.
    """
    found, own, at = forces_on_axis(results, axis, action, under, by)
    frame = framed_of(results.model).frame
    dimension = "force" if action in FORCES else "moment"
    size, unit = results.units.size(dimension), results.units.label(dimension)
    both = np.array([found.high[0], found.low[0] if found.words is not None
                     else np.zeros_like(found.high[0])]).reshape(2, len(own), len(at)) / size
    figure = new_figure(8.6, 6.4, f"{WORDS[action].capitalize()}, axis {axis}: {found.names[0]}")
    ax = figure.add_subplot()
    on_page = draw_elevation(ax, results, axis, sections=False)
    most = max(float(np.abs(both).max()), 1e-300)
    nodes = np.unique(frame.ends[[e for m in own for e in m.elements]])
    reach = 0.05 * float(np.ptp(on_page[nodes], axis=0).max())
    bands, marks = [], []
    for m, (high, low) in zip(own, both.transpose(1, 0, 2), strict=True):
        a, b = drawn(results, axis, on_page, *ends_of(frame, m))
        across = reach / most * np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a))
        along = a + np.array(at)[:, None] * (b - a)
        bands.append(np.concatenate([along + high[:, None] * across,
                                     (along + low[:, None] * across)[::-1]]))
        for values in (high, low):
            for k in sorted({0, int(np.argmax(np.abs(values))), len(at) - 1}):
                if abs(values[k]) > 0.35 * most:
                    inwards = (b - a) * (0.06 if k == 0 else -0.06 if k == len(at) - 1 else 0.0)
                    marks.append((along[k] + 1.25 * values[k] * across + inwards, values[k]))
    ax.add_collection(PolyCollection(bands, facecolors="#c8611a33", edgecolors=COLORS["Y"],
                                     linewidths=0.8, clip_on=False))
    for place, value in marks:  # its side tells the sign of a moment
        _write(ax, place, abs(value) if action == "moment" else float(value), most)
    signs = _side(action) if found.words is not None or found.signed[0] else "peaks without sign"
    figure.text(0.01, 0.02, f"in {unit}, {signs}; largest {most:.4g} {unit}{found.said}",
                fontsize=8, color=SOFT)
    settle(figure, [level.name for level in results.project.building.levels], bottom=0.8, top=0.9)
    return figure


def forces_on_axis(
    results: Results, axis: str, action: str, under: str, by: Method = "spectrum"
) -> tuple[Reading, list[Member], tuple[float, ...]]:
    """One section force of the members on an axis under one source, as it is drawn to their left;
    the members, and the fractions of their length it stands at. Raises InputError.
    """
    _check_action(action)
    own = on_axis(results, axis)
    frame = framed_of(results.model).frame
    at = set(PLACES)
    for m in own:  # where others meet them too
        reach = np.cumsum(frame.lengths[list(m.elements)])
        at |= set(np.round(reach[:-1] / reach[-1], 9).tolist())
    places = tuple(sorted(at))
    base = forces_of(results.structure, own, places)
    turned = _in_plane(results, own, action, _along(results, axis, [m.elements[0] for m in own]))
    rows = sparse.csr_array(sparse.block_diag([sparse.coo_array(one[None, :]) for one in turned
                                               for _ in places]))
    dimension = "force" if action in FORCES else "moment"
    one = base.onto(rows, "diagram", WORDS[action], base.places, ((action, dimension),), base.note)
    found = results.read_thing(one, under, by=by)
    if len(found.high) != 1:
        raise InputError([Fault("under", f"{under or 'sets'!r} gives {len(found.high)} diagrams, "
                                "and one is drawn", f"name one: {several(found.names)}")])
    return found, own, places


def _along(results: Results, axis: str, elements: Sequence[int]) -> Floats:
    """(element, 2) direction of the axis at the middle of every element."""
    frame, axes = framed_of(results.model).frame, results.project.building.axes
    assert axes is not None
    ends = frame.points[frame.ends[list(elements)], :2]
    chord = ends[:, 1] - ends[:, 0]
    length = np.hypot(chord[:, 0], chord[:, 1])
    found = axes.direction(axis, ends.mean(axis=1))
    if axes.curved(axis):  # members are straight there
        sense = np.sign(np.einsum("ij,ij->i", chord, found))
        level = length > 1e-6
        found = np.array(found)
        found[level] = (sense / np.where(level, length, 1.0))[level, None] * chord[level]
    return found


def _in_plane(
    results: Results, own: Sequence[Member], action: str, along: Floats
) -> Floats:
    """(m, 6) what turns the section forces of each member into the one that is drawn to its left.
    """
    found = np.zeros((len(own), 6))
    if action in ACTIONS:
        found[:, ACTIONS.index(action)] = 1.0
        return found
    axes = framed_of(results.model).frame.axes[[m.elements[0] for m in own]]
    out = _towards(along)
    onto = out if action == "moment" else np.cross(out, axes[:, 0])
    first, sign = (4, -1.0) if action == "moment" else (1, 1.0)
    found[:, first:first + 2] = sign * np.einsum("mkj,mj->mk", axes[:, 1:], onto)
    return found


PLACES = tuple(np.linspace(0.0, 1.0, 11).tolist())


def _towards(along: Floats) -> Floats:
    """(k, 3) unit vectors towards who looks at the elevation."""
    return np.column_stack([along[:, 1], -along[:, 0], np.zeros(len(along))])


def _write(ax: Axes, place: Floats, value: float, most: float) -> None:
    ax.annotate(f"{value:.0f}" if most >= 100 else f"{value:.3g}",
                (float(place[0]), float(place[1])), fontsize=6.5, color=INK, ha="center",
                va="center", annotation_clip=False)


def _side(action: str) -> str:
    return "drawn on the side in tension" if action == "moment" else \
        "drawn to the left of each member seen from its start"


def diagrams_asked(results: Results) -> dict[str, tuple[str, str, str]]:
    """Axis, action and kind of combination of each diagram the project asks for, by its name."""
    axes = results.project.record.diagrams
    if not axes:
        return {}
    kind = results.combiner().kinds()[0]
    return {f"extremes_{i + 1}_{action}": (axis, action, kind)
            for i, axis in enumerate(axes) for action in ("moment", "shear")}


def _check_action(action: str) -> None:
    if action not in WORDS:
        raise InputError([Fault("action", f"there is no {action!r}",
                                f"choose from: {', '.join(WORDS)}")])
