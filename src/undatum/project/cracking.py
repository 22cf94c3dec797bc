"""Cracked members by the standard: its shares put where the project asks for them."""

from __future__ import annotations

from undatum import standards
from undatum.building.rules import KeptShares
from undatum.building.whole import Building
from undatum.errors import Fault, InputError
from undatum.project.schema import Project


def cracked_building(project: Project) -> Building:
    """The building with the standard's shares where ``kept = "by standard"`` stands.

    Raises InputError where the standard names no numbers.
    """
    building = project.building
    asked = [i for i, rule in enumerate(building.members) if rule.kept == "by standard"]
    if not asked:
        return building
    if faults := cracking_faults(project):
        raise InputError(faults)
    standard = standards.get(project.standard, project.folder)
    known = standard.cracked
    assert known is not None
    rules = list(building.members)
    for i in asked:
        own = known.shares.get(rules[i].kind, {})
        rules[i] = rules[i].model_copy(update={"kept": KeptShares(
            **own, concrete_only=True, reason=known.clause)})
    return building.model_copy(update={"members": tuple(rules)})


def cracking_faults(project: Project) -> list[Fault]:
    """Rules that ask for the standard's shares where it names none."""
    standard = standards.get(project.standard, project.folder)
    if standard.cracked is not None:
        return []
    return [Fault(f"building.members[{i}].kept", f"{standard.title} names no shares for cracked "
                  "members", "give them with your reason, such as kept = { bending_y = 0.5, "
                  'reason = "..." }')
            for i, rule in enumerate(project.building.members) if rule.kept == "by standard"]
