"""Loads that every combination takes alike: grouped load by load, by kind and by their shares."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field
from typing import Protocol

from undatum.building.cases import MemberLoad
from undatum.building.loads import Load
from undatum.layout.weight import Counted, GravityRule, Rule, pressure_of
from undatum.layout.whole import Building
from undatum.record import FixedDict, record
from undatum.table import Table, column

SELF_WEIGHT = "self-weight"
#: What a load is called for landing, from the place of its level and itself; ``None`` is the weight
#: of the members.
Naming = Callable[[int, "Load | MemberLoad | None"], str]


def by_kind(_: int, load: Load | MemberLoad | None) -> str:
    """Every load by its kind; members are dead load."""
    return "dead" if load is None else load.kind


def by_source(_: int, load: Load | MemberLoad | None) -> str:
    """Every load by itself, as the weight table names it (``WeightLine.key``)."""
    if load is None:
        return SELF_WEIGHT
    return f"{load.name} on members" if isinstance(load, MemberLoad) else load.name


class Effects(Protocol):
    """What a kind of load is in combinations: ``dead``, ``live`` or ``snow``."""

    def __call__(self, kind: str, /) -> str: ...


@record
class LoadGroup:
    """Loads of one kind with the same shares: in combinations with earthquake, and in the gravity
    load of second-order checks."""

    name: str
    kind: str
    effect: str
    combination: float
    gravity: float


@record
class LoadShare:
    """A load with its share in combinations with earthquake, why, and by which clause."""

    level: str
    load: str
    kind: str
    use: str
    effect: str
    share: float
    reason: str
    clause: str


@record
class LoadGroups:
    """Every load of a building in its group, by level and name; the shares one by one."""

    groups: tuple[LoadGroup, ...]
    on_floors: tuple[FixedDict[str, str], ...]
    on_members: FixedDict[str, tuple[str, str]]  # on a floor, on a roof
    roofs: tuple[bool, ...]
    own: str = "dead"
    shares: tuple[LoadShare, ...] = field(default=())

    def name(self, i: int, load: Load | MemberLoad | None) -> str:
        """The group of a load on a level, of a load on members that belong to it, or of the
        members themselves."""
        if load is None:
            return self.own
        if isinstance(load, MemberLoad):
            return self.on_members[load.name][self.roofs[i]]
        return self.on_floors[i][load.name]

    def of(self, name: str) -> LoadGroup:
        """The group of a name."""
        return next(one for one in self.groups if one.name == name)

    @property
    def key(self) -> tuple[object, ...]:
        """What tells one grouping from another."""
        return (*(tuple(one.items()) for one in self.on_floors), tuple(self.on_members.items()),
                self.own)

    def table(self) -> Table:
        """Load by load, what multiplies it in combinations with earthquake beside their factor."""
        rows = self.shares
        return Table(
            "load_shares", "Shares of loads in combinations with earthquake",
            (
                column("level", "", [x.level for x in rows]),
                column("load", "", [x.load for x in rows]),
                column("kind", "", [x.kind for x in rows]),
                column("use", "", [x.use for x in rows]),
                column("counts as", "", [x.effect for x in rows]),
                column("share", "ratio", [x.share for x in rows], 3),
                column("why", "", [x.reason for x in rows]),
                column("clause", "", [x.clause for x in rows]),
            ),
            note="In combinations with earthquake a load is multiplied by the factor on its kind "
                 "times its share; without earthquake, by the factor alone.",
        )


def group_loads(
    building: Building, combination: Rule, gravity: GravityRule, effect: Effects
) -> LoadGroups:
    """Every load by what a standard says of it, floor by floor and use by use."""
    keys: dict[tuple[str, float, float], str] = {}
    shares: list[LoadShare] = []

    def key_of(level: str, load: str, facts: tuple[str, float | None, bool, str]
               ) -> tuple[str, float, float]:
        answer: Counted = combination(*facts)
        shares.append(LoadShare(level, load, facts[0], facts[3], effect(facts[0]), answer.share,
                                answer.reason, answer.clause))
        key = facts[0], answer.share, gravity(*facts)[0]
        keys.setdefault(key, "")
        return key

    n = len(building.levels) - 1
    roofs = tuple(building.is_roof(i) for i in range(n))
    floors = [{load.name: key_of(building.levels[i].name, load.name, (
        load.kind, pressure_of(load, building.outline(i)), roofs[i], load.use))
        for load in building.loads(i)} for i in range(n)]
    own = key_of("every level", "members, self-weight", ("dead", None, False, "")) \
        if building.has_members and building.self_weight else None
    members = {load.name: tuple(key_of(
        "roofs" if roof else "floors", load.name, (load.kind, None, roof, ""))
        for roof in (False, True)) for load in building.member_loads}
    kinds = [kind for kind, *_ in keys]
    for kind, share, pressed in keys:
        said = [key for key in keys if key[:2] == (kind, share)]
        keys[kind, share, pressed] = kind if kinds.count(kind) == 1 else \
            f"{kind}, share {share:g}" + (f", {pressed:g} in P" if len(said) > 1 else "")
    return LoadGroups(
        tuple(LoadGroup(name, *key[:1], effect(key[0]), *key[1:]) for key, name in keys.items()),
        tuple(FixedDict({load: keys[key] for load, key in one.items()}) for one in floors),
        FixedDict({load: (keys[a], keys[b]) for load, (a, b) in members.items()}), roofs,
        "dead" if own is None else keys[own], tuple(shares))
