"""Cracked members by the standard: its shares put where the project asks for them."""

from __future__ import annotations

from undatum.building.rules import KeptShares
from undatum.building.whole import Building
from undatum.errors import Fault, InputError
from undatum.standards import AnyStandard

BY_STANDARD = "by standard"
KEYS = ("kept", "kept_for_drift")


def cracked_building(standard: AnyStandard, building: Building) -> Building:
    """The building with the standard's shares where ``kept = "by standard"`` stands.

    Raises InputError where the standard names no numbers.
    """
    asked = [(i, key) for i, rule in enumerate(building.members) for key in KEYS
             if getattr(rule, key) == BY_STANDARD]
    if not asked:
        return building
    if faults := cracking_faults(standard, building):
        raise InputError(faults)
    known = standard.cracked
    assert known is not None
    rules = list(building.members)
    for i, key in asked:
        own = known.shares.get(rules[i].kind, {})
        rules[i] = rules[i].model_copy(update={key: KeptShares(
            **own, concrete_only=True, reason=known.clause)})
    return building.model_copy(update={"members": tuple(rules)})


def cracking_faults(standard: AnyStandard, building: Building) -> list[Fault]:
    """Rules that ask for the standard's shares where it names none."""
    if standard.cracked is not None:
        return []
    return [Fault(f"building.members[{i}].{key}", f"{standard.title} names no shares for cracked "
                  f"members", f"give them with your reason, such as {key} = {{ bending_y = 0.5, "
                  'reason = "..." }')
            for i, rule in enumerate(building.members) for key in KEYS
            if getattr(rule, key) == BY_STANDARD]
