"""Diagrams of section forces on the members of an axis: of a set, and extremes of combinations."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from matplotlib.axes import Axes
from matplotlib.collections import PolyCollection
from matplotlib.figure import Figure
from numpy.typing import NDArray
from scipy import sparse

from undatum.analysis.response import Readable
from undatum.building.members import Member
from undatum.errors import Fault, InputError
from undatum.mechanics.actions import ACTIONS, element_forces, framed_of
from undatum.mechanics.quantities import Quantity
from undatum.project.combining import member_parts
from undatum.project.results import Results
from undatum.report.drawing import COLORS, INK, SOFT, as_written, new_figure, settle
from undatum.report.frames import draw_elevation, drawn, ends_of, on_axis
from undatum.standards.terms import Method

Floats = NDArray[np.float64]
FORCES = ("axial", "shear", "shear_y", "shear_z")
WORDS = {"moment": "bending moment in the plane", "shear": "shear in the plane",
         "axial": "axial force", "shear_y": "shear along local y", "shear_z": "shear along local z",
         "torsion": "torsion", "moment_y": "bending moment about local y",
         "moment_z": "bending moment about local z"}


@as_written
def diagram(results: Results, axis: str, action: str, of_set: str) -> Figure:
    """Section forces of the members on an axis, drawn across them, largest values written.

    ``shear`` and ``moment`` are those in the plane of the axis, moments drawn on the side in
    tension; the components of the members' own axes are drawn to the left of each. Raises
    InputError for an axis, an action or a set that is not there.
    """
    _check_action(action)
    one = set_named(results, of_set)
    frame = framed_of(results.model).frame
    own = on_axis(results, axis)
    elements = [e for m in own for e in m.elements]
    dimension = "force" if action in FORCES else "moment"
    size, unit = results.units.size(dimension), results.units.label(dimension)
    figure = new_figure(8.6, 6.4, f"{WORDS[action].capitalize()}, axis {axis}: {one.name}")
    ax = figure.add_subplot()
    at = draw_elevation(ax, results, axis, sections=False)
    along = _along(results, axis, elements)
    values = _in_plane(results, one, elements, action, along) / size
    most = max(float(np.abs(values).max()), 1e-300)
    nodes = np.unique(frame.ends[elements])
    reach = 0.05 * float(np.ptp(at[nodes], axis=0).max())
    shapes, marks = [], []
    for e, pair in zip(elements, values, strict=True):
        a, b = drawn(results, axis, at, *frame.ends[e].tolist())
        across = reach / most * np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a))
        shapes.append(np.array([a, a + across * pair[0], b + across * pair[1], b]))
        marks += [(end + 1.25 * across * v, v, (b - a) * s) for end, v, s in
                  ((a, pair[0], 0.06), (b, pair[1], -0.06)) if abs(v) > 0.35 * most]
    ax.add_collection(PolyCollection(shapes, facecolors="#c8611a33", edgecolors=COLORS["Y"],
                                     linewidths=0.8, clip_on=False))
    for where, signed, inwards in marks:
        place = where + inwards
        value = abs(signed) if action == "moment" else signed  # its side tells the sign
        _write(ax, place, value, most)
    signs = "peaks without sign" if one.method == "spectrum" else _side(action)
    figure.text(0.01, 0.02, f"in {unit}, {signs}; largest {most:.4g} {unit}; of the earthquake "
                "alone", fontsize=8, color=SOFT)
    settle(figure, [level.name for level in results.project.building.levels], bottom=0.8, top=0.9)
    return figure


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
    results: Results, one: Readable, elements: Sequence[int], action: str, along: Floats
) -> Floats:
    """(element, 2) values at both faces, as they are drawn to the left of the members."""
    quantity = element_forces(results.model, elements)
    if action in ACTIONS:
        return one.of(quantity.where(component=action)).reshape(-1, 2)
    frame = framed_of(results.model).frame
    axes = np.repeat(frame.axes[list(elements)], 2, axis=0)  # both faces
    out = np.repeat(_towards(along), 2, axis=0)
    left = np.cross(out, axes[:, 0])
    of, sign = ("moment", -1.0) if action == "moment" else ("shear", 1.0)
    onto = out if action == "moment" else left
    rows = sum(sparse.diags_array(sign * np.einsum("ij,ij->i", axes[:, k], onto))
               @ quantity.where(component=f"{of}_{'xyz'[k]}").rows for k in (1, 2))
    kind = "force" if action == "shear" else "moment"
    return one.of(Quantity(f"{action} in plane", kind, sparse.csr_array(rows), {
        "place": tuple(map(str, range(len(axes))))})).reshape(-1, 2)


def set_named(results: Results, name: str) -> Readable:
    """A set for strength by its name. Raises InputError with the names there are."""
    sets = results.sets_to_read
    found = next((s for s in sets if s.name == name), None)
    if found is None:
        raise InputError([Fault("set", f"there is no set {name!r}",
                                f"choose from: {'; '.join(s.name for s in sets)}")])
    return found


PLACES = tuple(np.linspace(0.0, 1.0, 11).tolist())


@as_written
def extremes(
    results: Results, axis: str, action: str, kind: str, method: Method = "spectrum"
) -> Figure:
    """Largest and smallest section forces of the combinations of a kind, on the members of an axis.

    A band across every member, between the two; ``action`` is as for :func:`diagram`. Raises
    InputError for an axis, an action or a kind that is not there.
    """
    _check_action(action)
    how = results.combiner()
    if kind not in how.kinds():
        raise InputError([Fault("combined", f"there is no kind of combination {kind!r}",
                                f"choose from: {'; '.join(how.kinds())}")])
    frame, own = framed_of(results.model).frame, on_axis(results, axis)
    component, sign = _components(
        results, own, action, _along(results, axis, [m.elements[0] for m in own]))
    parts = member_parts(how, results.model, results.load_cases(), results.sets_to_read,
                         method, results.stability, own, PLACES)
    found = how.extremes(kind, parts)
    at_member = np.arange(len(own))
    both = np.array([found[name][0].reshape(len(own), len(PLACES), 6)[at_member, :, component]
                     for name in ("largest", "smallest")]) * sign[:, None]
    dimension = "force" if action in FORCES else "moment"
    size, unit = results.units.size(dimension), results.units.label(dimension)
    both = np.sort(both, axis=0)[::-1] / size
    by = "static forces" if method == "static" else "response spectrum"
    figure = new_figure(8.6, 6.4, f"{WORDS[action].capitalize()}, axis {axis}: {kind} ({by})")
    ax = figure.add_subplot()
    at = draw_elevation(ax, results, axis, sections=False)
    most = max(float(np.abs(both).max()), 1e-300)
    nodes = np.unique(frame.ends[[e for m in own for e in m.elements]])
    reach = 0.05 * float(np.ptp(at[nodes], axis=0).max())
    bands = []
    for m, (high, low) in zip(own, both.transpose(1, 0, 2), strict=True):
        a, b = drawn(results, axis, at, *ends_of(frame, m))
        across = reach / most * np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a))
        along = a + np.array(PLACES)[:, None] * (b - a)
        bands.append(np.concatenate([along + high[:, None] * across,
                                     (along + low[:, None] * across)[::-1]]))
        for values in (high, low):
            k = int(np.argmax(np.abs(values)))
            if abs(values[k]) > 0.35 * most:
                inwards = (b - a) * (0.06 if k == 0 else -0.06 if k == len(PLACES) - 1 else 0.0)
                shown = abs(values[k]) if action == "moment" else values[k]
                _write(ax, along[k] + 1.25 * values[k] * across + inwards, float(shown), most)
    ax.add_collection(PolyCollection(bands, facecolors="#c8611a33", edgecolors=COLORS["Y"],
                                     linewidths=0.8, clip_on=False))
    figure.text(0.01, 0.02, f"in {unit}, extremes of all combinations of the kind; "
                f"{_side(action)}; largest {most:.4g} {unit}", fontsize=8, color=SOFT)
    settle(figure, [level.name for level in results.project.building.levels], bottom=0.8, top=0.9)
    return figure


def _towards(along: Floats) -> Floats:
    """(k, 3) unit vectors towards who looks at the elevation."""
    return np.column_stack([along[:, 1], -along[:, 0], np.zeros(len(along))])


def _components(
    results: Results, own: Sequence[Member], action: str, along: Floats
) -> tuple[NDArray[np.intp], Floats]:
    """(m,) which component of each member to draw, and the sign that puts it on the left."""
    if action in ACTIONS:
        return np.full(len(own), ACTIONS.index(action)), np.ones(len(own))
    frame = framed_of(results.model).frame
    axes = frame.axes[[m.elements[0] for m in own]]
    out = _towards(along)
    left = np.cross(out, axes[:, 0])
    onto = out if action == "moment" else left
    cosines = np.einsum("mkj,mj->mk", axes[:, 1:], onto)
    which = np.argmax(np.abs(cosines), axis=1)
    best = cosines[np.arange(len(own)), which]
    if np.any(np.abs(best) < 1 - 1e-6):
        name = own[int(np.argmin(np.abs(best)))].name
        raise InputError([Fault("action", f"{name} stands turned to the axis: its {action} in the "
                                "plane is two components at once, whose extremes need not come "
                                "together", f"draw {action}_y or {action}_z")])
    sign = -np.sign(best) if action == "moment" else np.sign(best)
    return which + (4 if action == "moment" else 1), sign


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
