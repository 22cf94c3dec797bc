"""Stages: results that are worked out when they are first read, and what each of them read.

A stage is a method of a job, typed by what it returns and read like an attribute. While it runs,
the job notes which other stages it reads. In a variant of the job a stage whose notes all hold the
same objects again is not worked out again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Generic, Self, TypeVar, overload

from undatum.errors import guess
from undatum.record import alike, frozen

T = TypeVar("T")
#: Takes the name of a stage before it is worked out.
Watch = Callable[[str], None]


class stage(Generic[T]):
    """A result of a job. ``settles`` says that an equal result is taken for the same one: what
    comes after is then not done again."""

    settles = False

    def __init__(self, make: Callable[[Any], T]) -> None:
        self.make, self.name = make, make.__name__
        self.__doc__ = make.__doc__

    @overload
    def __get__(self, job: None, owner: type) -> Self: ...
    @overload
    def __get__(self, job: Stages, owner: type) -> T: ...
    def __get__(self, job: Stages | None, owner: type) -> Self | T:
        return self if job is None else job._read(self)


class settled(stage[T]):
    """A stage that settles."""

    settles = True


@dataclass(slots=True)
class _Kept:
    """A result, and what was read to make it."""

    value: Any
    read: Mapping[str, Any]


class Stages:
    """Keeps the results of stages, and in a variant those of the job before."""

    def __init__(self, before: Stages | None = None, watch: Watch | None = None) -> None:
        self.watch = watch
        self._kept: dict[str, _Kept] = {}
        self._notes: list[dict[str, Any]] = []
        self._before = before
        if before is not None:
            before._before = None  # a chain of variants holds one step back

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """Everything that can be read, in the order of the job."""
        return tuple(name for base in reversed(cls.__mro__) for name, one in vars(base).items()
                     if isinstance(one, stage) and not name.startswith("_"))

    @property
    def done(self) -> tuple[str, ...]:
        """What has been worked out so far."""
        return tuple(self._kept)

    def up_to(self, *names: str) -> Self:
        """Work these out now and return the job. Raises KeyError with the nearest name."""
        known = self.names()
        for name in names:
            if name not in known:
                raise KeyError(f"there is no {name!r}" + guess(name, known, before="; "))
            getattr(self, name)
        return self

    # -- how -----------------------------------------------------------------------------------

    def _note(self, name: str, value: Any) -> None:
        """Whoever is at work has read this."""
        if self._notes:
            self._notes[-1][name] = value

    def _read(self, one: stage[T]) -> T:
        if one.name not in self._kept:
            if self._notes:
                self._work(one)
            else:
                with self._working():
                    self._work(one)
        value: T = self._kept[one.name].value
        self._note(one.name, value)
        return value

    @contextmanager
    def _working(self) -> Iterator[None]:
        """Around the first stage that is asked for; jobs put in what they need."""
        yield

    def _work(self, one: stage[Any]) -> None:
        old = None if self._before is None else self._before._kept.get(one.name)
        notes: dict[str, Any] = {}
        self._notes.append(notes)
        try:
            if old is not None and all(getattr(self, name) is value
                                       for name, value in old.read.items()):
                self._kept[one.name] = old
                return
            notes.clear()
            if self.watch is not None:
                self.watch(one.name.strip("_").replace("_", " "))
            value = frozen(one.make(self))
        finally:
            self._notes.pop()
        if one.settles and old is not None and alike(value, old.value):
            value = old.value
        self._kept[one.name] = _Kept(value, notes)
