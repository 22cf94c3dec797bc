"""What is asked of each direction: tables of the lateral system, as one standard wants them."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from functools import cache
from typing import Any, ClassVar, cast, get_args

from pydantic import Field, create_model

from undatum.described import Described
from undatum.errors import Fault
from undatum.record import FixedDict
from undatum.standards.facts import Asked
from undatum.standards.terms import DIRECTIONS, Direction


class Directions(Described):
    """The lateral system of each direction."""

    plain: ClassVar[type[Directions]]  # of which there is one for the table of every standard

    X: Asked | None = Field(default=None, description="Lateral system in X")
    Y: Asked | None = Field(default=None, description="Lateral system in Y")

    @property
    def by_direction(self) -> Mapping[Direction, Asked]:
        """Those that are given, by direction."""
        return FixedDict({d: one for d in DIRECTIONS if (one := getattr(self, d)) is not None})

    def __reduce_ex__(self, protocol: Any) -> Any:
        return restored, (directions_class, (asked_in(type(self)), self.plain),
                          self.__getstate__())


Directions.plain = Directions


def restored(make: Any, kinds: tuple[Any, ...], state: dict[Any, Any]) -> Any:
    """A project or a part of it made anew from a pickle."""
    cls = make(*kinds)
    made = cls.__new__(cls)
    made.__setstate__(state)
    return made


@cache
def directions_class(system_input: type[Asked], plain: type[Directions]) -> type[Directions]:
    """The directions, or what else has them, with the table of one standard."""
    asked: Any = system_input
    return cast(type[Directions], create_model(
        plain.__name__, __base__=plain, __doc__=plain.__doc__,
        X=(asked | None, Field(default=None, description="Lateral system in X")),
        Y=(asked | None, Field(default=None, description="Lateral system in Y")),
    ))


def asked_in(system: type[Directions]) -> Any:
    """The table that a standard asks for in each direction."""
    return get_args(system.model_fields["X"].annotation)[0]


def system_faults(
    given: Collection[str], plane: object = None, place: str = "system"
) -> list[Fault]:
    """A direction without a system, or with one that a plane building does not move along."""
    found = []
    for d in DIRECTIONS:
        if plane in (None, d) and d not in given:
            found.append(Fault(f"{place}.{d}", "is missing",
                               f"give the lateral system that resists along {d}"))
        elif plane not in (None, d) and d in given:
            found.append(Fault(f"{place}.{d}", f"is given, but the building is plane along {plane}",
                               "take one of them out"))
    return found
