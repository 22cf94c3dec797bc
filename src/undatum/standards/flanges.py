"""Slab that works with a concrete beam, and walls that work with a wall they meet: effective
widths by the concrete standards.

Rooms name the concrete standard that goes with them; each rule is written once, here.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from types import MappingProxyType

from undatum.record import record
from undatum.units import said


@record
class BesideBeam:
    """A beam in one piece with its slab. SI.

    ``length`` between supports and ``clear`` between their faces, m; ``continues`` over how many
    of its ends it goes on; ``web`` its width, ``slab`` the thickness, m; ``left`` and ``right``
    the slab beside the web: half the clear distance to the next web, or all of it to an edge, m.
    """

    length: float
    clear: float
    continues: int
    web: float
    slab: float
    left: float
    right: float

    @property
    def one_sided(self) -> bool:
        """Whether one side has no slab, or less than it is thick."""
        return min(self.left, self.right) < self.slab


@record
class EffectiveWidth:
    """Width of the flange, web included, m, with what it comes from."""

    width: float
    clause: str
    reason: str


Rule = Callable[[BesideBeam], EffectiveWidth]


def _aci_table(one: BesideBeam) -> EffectiveWidth:
    """ACI 318-14 and 318-19, Table 6.3.2.1: 8 h, s_w / 2, l_n / 8 a side; 6 h, s_w / 2, l_n / 12
    with slab on one side only."""
    times, part = (6, 12) if one.one_sided else (8, 8)
    most = min(times * one.slab, one.clear / part)
    return EffectiveWidth(
        one.web + min(most, one.left) + min(most, one.right), "6.3.2.1",
        f"each side at most {times} h = {said(times * one.slab)}, l_n / {part} = "
        f"{said(one.clear / part)} and the slab there")


def _aci_before(one: BesideBeam) -> EffectiveWidth:
    """ACI 318 up to 2011 (8.10, later 8.12) and UBC 1908.10: a quarter of the span in all and 8 h a
    side; a twelfth and 6 h a side with slab on one side only."""
    if one.one_sided:
        most = min(6 * one.slab, one.length / 12)
        return EffectiveWidth(
            one.web + min(most, max(one.left, one.right)), "8.10.3, 8.12.3",
            f"one side, at most 6 h = {said(6 * one.slab)}, l / 12 = {said(one.length / 12)} and "
            "the slab there")
    width = one.web + min(8 * one.slab, one.left) + min(8 * one.slab, one.right)
    return EffectiveWidth(
        min(width, one.length / 4), "8.10.2, 8.12.2",
        f"at most l / 4 = {said(one.length / 4)} in all, each side 8 h = {said(8 * one.slab)} and "
        "the slab there")


def _en1992(one: BesideBeam) -> EffectiveWidth:
    """EN 1992-1-1, 5.3.2.1: 0.2 b_i + 0.1 l_0, at most 0.2 l_0 and b_i, a side; the value of the
    span for its whole length (5.3.2.1(4))."""
    share = {0: 1.0, 1: 0.85}.get(one.continues, 0.7)
    zero = share * one.length
    sides = [min(0.2 * b + 0.1 * zero, 0.2 * zero, b) for b in (one.left, one.right)]
    return EffectiveWidth(
        one.web + sum(sides), "5.3.2.1, Eq. 5.7",
        f"l_0 = {share:g} l = {said(zero)}; each side 0.2 b_i + 0.1 l_0, at most 0.2 l_0 and b_i")


def _is456(one: BesideBeam) -> EffectiveWidth:
    """IS 456, 23.1.2: l_0 / 6 + b_w + 6 D_f; l_0 / 12 + b_w + 3 D_f with slab on one side only; l_0
    is 0.7 of the span in frames."""
    zero = 0.7 * one.length
    part, times = (12, 3) if one.one_sided else (6, 6)
    width = zero / part + one.web + times * one.slab
    return EffectiveWidth(
        min(width, one.web + one.left + one.right), "23.1.2",
        f"l_0 / {part} + b_w + {times} D_f with l_0 = 0.7 l = {said(zero)}, at most the slab there")


#: By concrete standard.
RULES: Mapping[str, Rule] = MappingProxyType({
    "ACI 318-14": _aci_table, "ACI 318-19": _aci_table, "ACI 318-05": _aci_before,
    "ACI 318-08": _aci_before, "UBC 1997, chapter 19": _aci_before, "EN 1992-1-1": _en1992,
    "IS 456": _is456,
})


#: Clauses for effective flange widths of walls by concrete standard. One rule stands in all.
WALL_RULES: Mapping[str, str] = MappingProxyType({
    "ACI 318-19": "ACI 318-19, 18.10.5.2", "ACI 318-14": "ACI 318-14, 18.10.5.2",
    "ACI 318-08": "ACI 318-08, 21.9.5.2", "ACI 318-05": "ACI 318-05, 21.7.5.2",
    "EN 1992-1-1": "EN 1998-1, 5.4.3.4.1(4)",
})


def wall_flange(above: float, clear: float | None, there: float) -> tuple[float, str]:
    """Effective flange of a wall on one side of its web, from its face, m, and what governs.

    ACI 318-19, 18.10.5.2 and EN 1998-1, 5.4.3.4.1(4): the least of half the distance to the next
    web (``clear``, None where there is none), a quarter of the height of the wall ``above`` the
    section, and what is ``there``. All m.

    >>> wall_flange(24.0, None, 4.0)
    (4.0, 'to its end')
    >>> wall_flange(12.0, 5.0, 4.0)
    (2.5, 'half the distance to the next web')
    """
    choices = [(there, "to its end"), (0.25 * above, "a quarter of the height above")]
    if clear is not None:
        choices.append((clear / 2, "half the distance to the next web"))
    width, why = min(choices)
    return max(width, 0.0), why
