"""Damping of the modes from what the structure is made of, weighted by strain energy."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.modes import Modes
from undatum.building.whole import Building
from undatum.errors import Fault, nearest
from undatum.finding import Finding, Severity
from undatum.mechanics.framing import end_freedoms
from undatum.mechanics.model import Model

Floats = NDArray[np.float64]
LINES = "lines"  # lateral lines, and springs at supports, which are of no material


def damping_by_material(
    model: Model, building: Building, modes: Modes, usual: float, own: Mapping[str, float]
) -> Floats:
    """(kept,) damping ratio of the modes in use: that of each material by its strain energy.

    ``own`` gives ratios by material, and that of lateral lines; ``usual`` holds for all else.
    Source: Chopra, Dynamics of Structures, 11.5 (composite modal damping, stiffness-weighted).
    """
    shapes = modes.shapes[:, : modes.kept]
    energy = {LINES: modes.omega[: modes.kept] ** 2}  # with unit modal mass
    if (framed := model.framed) is not None:
        frame, elements = framed.frame, framed.elements
        names = [building.sections[m.section].material for m in frame.members]
        moved = framed.follow @ shapes
        local = np.einsum("eij,ejm->eim", elements.turn, moved[end_freedoms(frame.ends)])
        each = np.einsum("eim,eij,ejm->em", local, elements.stiffness, local)
        owner = np.array([names[m] for m in frame.member])
        for name in dict.fromkeys(names):
            energy[name] = each[owner == name].sum(axis=0)
        energy[LINES] = np.maximum(energy[LINES] - each.sum(axis=0), 0.0)
        energy[LINES][energy[LINES] < 1e-9 * each.sum(axis=0)] = 0.0  # round-off is none
    total = np.sum([*energy.values()], axis=0)
    return np.asarray(np.sum([own.get(name, usual) * e for name, e in energy.items()],
                             axis=0) / total)


def damping_faults(building: Building, own: Mapping[str, float]) -> list[Fault]:
    """Damping of materials that nothing is made of, and of lines where there are none."""
    used = [] if building.frame is None else [
        building.sections[m.section].material for m in building.frame.members]
    known = [*dict.fromkeys(used), *([LINES] if building.lines else [])]
    found = []
    for name in own:
        if name not in known:
            near = nearest(name, known)
            found.append(Fault(f"analysis.damping_of.{name}", f"nothing is made of {name!r}",
                               (f"did you mean {near!r}? " if near else "")
                               + f"there is: {', '.join(known)}"))
    return found


def damping_finding(own: Mapping[str, float], ratios: Floats, spectrum: float
                    ) -> tuple[Finding, ...]:
    """That modes are damped by what they strain, and the ordinates are not adjusted to it."""
    if not own:
        return ()
    low, high = float(ratios.min()), float(ratios.max())
    return (Finding(
        "damping by material", "whole structure", Severity.NOTE,
        f"The modes in use have {low:.2%} to {high:.2%}, by the strain energy of what they move; "
        f"it goes into the combination of modes. The ordinates stay those for {spectrum:.3g}.",
        "analysis.damping_of"),)
