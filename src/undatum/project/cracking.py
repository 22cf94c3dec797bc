"""Cracked members by the standard: its shares put where the project asks for them."""

from __future__ import annotations

from collections.abc import Sequence

from undatum.building.rules import KeptShares, MemberRule
from undatum.building.walls import Wall, WallShares
from undatum.errors import Fault, InputError
from undatum.layout.whole import Building
from undatum.standards import AnyStandard

BY_STANDARD = "by standard"
KEYS = ("kept", "kept_for_drift")


def cracked_building(standard: AnyStandard, building: Building) -> Building:
    """The building with the standard's shares where ``kept = "by standard"`` stands.

    Raises InputError where the standard names no numbers.
    """
    asked = _asked(building)
    if not asked:
        return building
    if faults := cracking_faults(standard, building):
        raise InputError(faults)
    known = standard.cracked
    assert known is not None
    rules, walls = list(building.members), list(building.walls)
    for place, i, key in asked:
        if place == "walls":
            of_wall = WallShares(**known.shares["wall"], reason=known.clause)
            walls[i] = walls[i].model_copy(update={key: of_wall})
        else:
            own = known.shares.get(rules[i].kind, {})
            rules[i] = rules[i].model_copy(update={key: KeptShares(
                **own, concrete_only=True, reason=known.clause)})
    return building.model_copy(update={"members": tuple(rules), "walls": tuple(walls)})


def _asked(building: Building) -> list[tuple[str, int, str]]:
    """Where the standard's shares are asked for: of rules and walls, which, and for what."""
    lists: tuple[tuple[str, Sequence[MemberRule] | Sequence[Wall]], ...] = (
        ("members", building.members), ("walls", building.walls))
    return [(name, i, key) for name, each in lists for i, one in enumerate(each) for key in KEYS
            if getattr(one, key) == BY_STANDARD]


def cracking_faults(standard: AnyStandard, building: Building) -> list[Fault]:
    """Rules and walls that ask for the standard's shares where it names none."""
    known = standard.cracked
    return [Fault(
        f"building.{place}[{i}].{key}", f"{standard.title} names no shares for cracked {place}",
        f"give them with your reason, such as {key} = {{ bending{'' if place == 'walls' else '_y'}"
        ' = 0.5, reason = "..." }')
        for place, i, key in _asked(building)
        if known is None or (place == "walls" and "wall" not in known.shares)]
