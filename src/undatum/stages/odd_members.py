"""Questions about members that are possible and mostly a slip: their sizes and places."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from undatum.building.sections import CrossSection
from undatum.finding import Finding, Severity, several
from undatum.layout.frame import Frame
from undatum.layout.whole import Building
from undatum.table import number_text
from undatum.units import UnitSystem

GYRATION = (1e-3, 2.5)  # m: radii of sections that are built
APART = 0.05  # m: columns nearer than this are one
SHIFT = 1.5  # m: further than any floor lies from the axis of what carries it


def odd_members(building: Building, units: UnitSystem) -> list[Finding]:
    """A warning for every kind of slip that the stiffness shows and no single value does."""
    frame = building.frame
    if frame is None:
        return []
    return [*_unlike(building, units), *_far_from_their_nodes(frame, units),
            *_columns_side_by_side(frame, units)]


def _unlike(building: Building, units: UnitSystem) -> list[Finding]:
    """Sections whose area and second moments are not those of one shape."""
    found = []
    for name, section in building.sections.items():
        own = section.properties if isinstance(section, CrossSection) else None
        if own is None:
            continue
        radii = [float(np.sqrt(second / own.area)) for second in (own.bending_y, own.bending_z)]
        worst = next((r for r in radii if not GYRATION[0] <= r <= GYRATION[1]), None)
        if worst is not None:
            said = [number_text(units.show(x, "length"), 3) for x in (worst, *GYRATION)]
            found.append(Finding(
                "plausible section", f"building.sections.{name}", Severity.WARNING,
                f"Area and second moment give a radius of gyration of {said[0]} "
                f"{units.label('length')}; {said[1]} to {said[2]} would be usual.", "",
                "Are both in the same unit? A value may carry its own, such as \"0.8 m^4\".",
                worst, GYRATION[worst > 1], "length"))
    return found


def _far_from_their_nodes(frame: Frame, units: UnitSystem) -> list[Finding]:
    far = np.hypot(*frame.shifted.T)
    if not np.any(far > SHIFT):
        return []
    worst = float(far.max())
    return [Finding(
        "shifted members", _named(frame, np.flatnonzero(far > SHIFT)), Severity.WARNING,
        f"Their axes lie up to {number_text(units.show(worst, 'length'))} {units.label('length')} "
        "from the line between their nodes and are rigidly tied to it.", "",
        "Is the distance right, and its unit?", worst, SHIFT, "length")]


def _columns_side_by_side(frame: Frame, units: UnitSystem) -> list[Finding]:
    """Columns of one story so near each other that one of them is a slip."""
    kinds = np.array([m.kind == "column" for m in frame.members])
    own = np.flatnonzero(kinds[frame.member])
    if own.size < 2:
        return []
    from scipy.spatial import cKDTree  # slow to load

    pairs = cKDTree(frame.points[frame.ends[own]].reshape(-1, 6)).query_pairs(
        APART * np.sqrt(2), output_type="ndarray")
    gaps = np.linalg.norm(np.diff(frame.points[frame.ends[own]][pairs, 1, :2], axis=1)[:, 0],
                          axis=1)
    near = (gaps <= APART) & (frame.member[own][pairs[:, 0]] != frame.member[own][pairs[:, 1]])
    if not near.any():
        return []
    least = float(gaps[near].min())
    return [Finding(
        "columns side by side", _named(frame, own[pairs[near].ravel()]), Severity.WARNING,
        f"They are {number_text(units.show(least, 'displacement'), 3)} "
        f"{units.label('displacement')} apart and not connected.", "",
        "If they are one, give them one place, or name one axis for both.",
        least, APART, "displacement")]


def _named(frame: Frame, elements: Iterable[int]) -> str:
    """The members of elements, the first few by name."""
    return several(list(dict.fromkeys(frame.members[int(frame.member[e])].name for e in elements)))
