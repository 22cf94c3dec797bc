"""Damping of the modes from that of the parts of the structure, weighted by strain energy."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from undatum.analysis.modes import Modes
from undatum.errors import Fault, guess
from undatum.finding import Finding, Severity
from undatum.layout.frame import Frame, Member
from undatum.layout.members import chosen_members
from undatum.layout.whole import Building
from undatum.mechanics.framing import end_freedoms
from undatum.mechanics.model import Model

Floats = NDArray[np.float64]
LINES = "lines"  # lateral lines, and springs at supports, which are of no material


def damping_by_part(
    model: Model, building: Building, modes: Modes, usual: float, own: Mapping[str, float]
) -> Floats:
    """(kept,) damping ratio of the modes in use: that of each part by its strain energy.

    ``own`` gives ratios by material, of lateral lines, and of members by a selection, which goes
    before their material, later ones before earlier ones; ``usual`` holds for all else.
    Source: Chopra, Dynamics of Structures, 11.5 (composite modal damping, stiffness-weighted).
    """
    shapes = modes.shapes[:, : modes.kept]
    rest = modes.omega[: modes.kept] ** 2  # strain energy, with unit modal mass, twice
    damped = np.zeros_like(rest)
    if (framed := model.framed) is not None:
        frame, elements = framed.frame, framed.elements
        moved = framed.moved(shapes)
        local = np.einsum("eij,ejm->eim", elements.turn, moved[end_freedoms(frame.ends)])
        each = np.einsum("eim,eij,ejm->em", local, elements.stiffness, local)
        damped = _ratios(building, frame, usual, own) @ each
        whole = each.sum(axis=0)
        rest = np.maximum(rest - whole, 0.0)
        rest[rest < 1e-9 * whole] = 0.0  # round-off is none
        return np.asarray((damped + own.get(LINES, usual) * rest) / (whole + rest))
    return np.full(rest.size, own.get(LINES, usual))


def given_by_mode(modes: Modes, given: Sequence[float]) -> Floats:
    """(kept,) damping ratio of the modes in use, given from the longest period of all on."""
    return np.array([given[min(number, len(given)) - 1] for number in modes.numbers[: modes.kept]])


def _ratios(building: Building, frame: Frame, usual: float, own: Mapping[str, float]) -> Floats:
    """(E,) damping ratio of every element."""
    by_member = [own.get(building.sections[m.section].material, usual) for m in frame.members]
    place = {m.name: k for k, m in enumerate(frame.members)}
    for text, ratio in own.items():
        if text not in _materials(building):
            for m in _chosen(building, text):
                by_member[place[m.name]] = ratio
    return np.array(by_member)[frame.member]


def _materials(building: Building) -> list[str]:
    """What members are made of, and the lateral lines where there are any."""
    used = [] if building.frame is None else [
        building.sections[m.section].material for m in building.frame.members]
    return [*dict.fromkeys(used), *([LINES] if building.lines else [])]


def _chosen(building: Building, text: str) -> tuple[Member, ...]:
    """The members a text names; none where it names no member."""
    try:
        return chosen_members(building, building.frame, text)
    except ValueError:
        return ()


def damping_faults(building: Building, own: Mapping[str, float]) -> list[Fault]:
    """Damping of what is no material, no member, and of lines where there are none."""
    known = _materials(building)
    found = []
    for name in own:
        if name not in known and not _chosen(building, name):
            found.append(Fault(f"analysis.damping_of.{name}", f"nothing is made of {name!r}, and "
                               "it chooses no members",
                               guess(name, known, after=" ")
                               + f"there is: {', '.join(known)}; or write such as "
                               '"braces at L1..L3"'))
    return found


def damping_finding(own: Mapping[str, float], given: Sequence[float], ratios: Floats,
                    spectrum: float) -> tuple[Finding, ...]:
    """That modes have damping of their own, and the ordinates are not adjusted to it."""
    if not own and not given:
        return ()
    low, high = float(ratios.min()), float(ratios.max())
    why, key = ("by the strain energy of what they move", "damping_of") if own else \
        ("as given mode by mode", "damping_by_mode")
    return (Finding(
        "damping by part" if own else "damping by mode", "whole structure", Severity.NOTE,
        f"The modes in use have {low:.2%} to {high:.2%}, {why}; it goes into the combination of "
        f"modes. The ordinates stay those for {spectrum:.3g}.", f"analysis.{key}"),)
