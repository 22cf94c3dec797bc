"""Records: what leaves the core. Frozen, arrays read-only, comparable, picklable, short to print.

``@record`` makes a frozen dataclass with slots whose arrays can't be written to, whose lists become
tuples and whose mappings can't be changed, however it was made (by its constructor, by
:func:`dataclasses.replace`, by unpickling). ``@fixed`` does the same for what a function returns.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, fields
from functools import wraps
from typing import Any, NoReturn, ParamSpec, TypeVar, cast, dataclass_transform

import numpy as np
from scipy import sparse

T = TypeVar("T")
P = ParamSpec("P")
R = TypeVar("R")
K = TypeVar("K")
V = TypeVar("V")


class FixedDict(dict[K, V]):
    """A dictionary that can't be changed."""

    __slots__ = ()

    def _refuse(self, *_: object, **__: object) -> NoReturn:
        raise TypeError("this mapping is fixed; make a new one")

    __setitem__ = __delitem__ = _refuse
    clear = pop = popitem = setdefault = update = _refuse
    __ior__ = _refuse

    def __reduce__(self) -> tuple[Any, ...]:
        return _fixed_dict, (dict(self),)

    def __copy__(self) -> FixedDict[K, V]:
        return self

    def __deepcopy__(self, memo: dict[int, Any]) -> FixedDict[K, V]:
        return self


def _fixed_dict(items: dict[K, V]) -> FixedDict[K, V]:
    """A mapping made anew, its arrays read-only again."""
    return FixedDict({k: frozen(v) for k, v in items.items()})


class Lazy(Mapping[K, V]):
    """A fixed mapping whose values are made, and frozen, when they are first asked for."""

    __slots__ = ("_kept", "_makers")

    def __init__(self, makers: Mapping[K, Callable[[], V]]) -> None:
        self._makers, self._kept = dict(makers), Memo()

    def __getitem__(self, key: K) -> V:
        return self._kept.get(key, self._makers[key])

    def __iter__(self) -> Iterator[K]:
        return iter(self._makers)

    def __len__(self) -> int:
        return len(self._makers)

    def __reduce__(self) -> tuple[Any, ...]:
        return _fixed_dict, (dict(self),)


#: Annotations of fields that hold nothing to freeze.
_PLAIN = frozenset({"str", "float", "int", "bool", "str | None", "float | None"})
#: Types that hold nothing to freeze, told at a glance; those met on the way are added.
_LEAVES: set[type] = {str, float, int, bool, type(None), np.float64, np.bool_, FixedDict, Lazy}


def frozen(value: Any) -> Any:
    """``value`` so that nobody can change it: arrays read-only, lists tuples, mappings fixed.

    An array that was writable is left alone and a read-only view of it is returned.
    """
    kind = type(value)
    if kind in _LEAVES:
        return value
    if kind is np.ndarray or isinstance(value, np.ndarray):
        if value.flags.writeable:
            value = value.view()
            value.setflags(write=False)
        return value
    if kind is tuple or kind is list:
        return tuple(value) if _LEAVES.issuperset(map(type, value)) else tuple(map(frozen, value))
    if isinstance(value, Mapping):
        return FixedDict({k: frozen(v) for k, v in value.items()})
    if sparse.issparse(value):
        for part in ("data", "indices", "indptr"):
            if hasattr(value, part):
                getattr(value, part).flags.writeable = False
        return value
    _LEAVES.add(kind)
    return value


class Memo:
    """What has been worked out from a record, kept beside it; no part of its value.

    A record holds one in a field of its own. Keys may hold the ``id`` of objects that the kept
    value refers to, which therefore live as long.
    """

    __slots__ = ("_kept",)

    def __init__(self) -> None:
        self._kept: dict[Any, Any] = {}

    def get(self, key: Any, make: Callable[[], T]) -> T:
        """What is kept under ``key``, made and frozen the first time."""
        try:
            found: T = self._kept[key]
        except KeyError:
            found = self._kept[key] = frozen(make())
        return found

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Memo)

    __hash__ = None  # type: ignore[assignment]

    def __reduce__(self) -> tuple[Any, ...]:
        return Memo, ()

    def __copy__(self) -> Memo:
        return Memo()

    def __deepcopy__(self, _: Any) -> Memo:
        return Memo()


def fixed(function: Callable[P, R]) -> Callable[P, R]:
    """A function whose arrays come back read-only."""

    @wraps(function)
    def wrapped(*args: P.args, **kwargs: P.kwargs) -> R:
        found: R = frozen(function(*args, **kwargs))
        return found

    return wrapped


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def record(cls: type[T]) -> type[T]:
    """Class decorator: see the module."""
    own: Callable[[Any], None] | None = cls.__dict__.get("__post_init__")

    def __post_init__(self: Any) -> None:
        for name in names:
            value = getattr(self, name)
            kind = type(value)
            if kind in _LEAVES or (kind is tuple and _LEAVES.issuperset(map(type, value))):
                continue
            object.__setattr__(self, name, frozen(value))
        if own is not None:
            own(self)

    cls.__post_init__ = __post_init__  # type: ignore[attr-defined]
    made: Any = dataclass(frozen=True, slots=True, eq=False, repr=False)(cls)
    names = tuple(name for name, f in made.__dataclass_fields__.items()
                  if f.type not in _PLAIN)
    for method in (_same, _short, _remake):
        if not any(_NAMES[method] in base.__dict__ for base in cls.__mro__[:-1]):
            setattr(made, _NAMES[method], method)
    if "__hash__" not in cls.__dict__:
        made.__hash__ = None
    return cast(type[T], made)


def _same(self: Any, other: object) -> Any:
    """Equal when every field is; arrays by their numbers, not a number equal to itself."""
    if type(other) is not type(self):
        return NotImplemented
    mine: Any = self
    return all(alike(getattr(mine, f.name), getattr(other, f.name)) for f in fields(mine))


def alike(a: Any, b: Any) -> bool:
    """Whether two values of records are equal."""
    if a is b:
        return True
    if isinstance(a, np.ndarray) or isinstance(b, np.ndarray):
        a, b = np.asarray(a), np.asarray(b)
        return bool(a.shape == b.shape and np.array_equal(a, b, equal_nan=a.dtype.kind == "f"))
    if sparse.issparse(a) and sparse.issparse(b):
        one, other = sparse.csr_array(cast(Any, a)), sparse.csr_array(cast(Any, b))
        return bool(one.shape == other.shape and cast(Any, one != other).nnz == 0)
    if isinstance(a, tuple) and isinstance(b, tuple):
        return len(a) == len(b) and all(map(alike, a, b))
    if isinstance(a, Mapping) and isinstance(b, Mapping):
        return a.keys() == b.keys() and all(alike(a[k], b[k]) for k in a)
    if isinstance(a, float) and isinstance(b, float):
        return a == b or (a != a and b != b)
    return bool(a == b)


def _short(self: Any) -> str:
    """A line: numbers and names in full, arrays by their shape, everything else by its kind."""
    said = []
    for f in fields(self):
        value = getattr(self, f.name)
        if isinstance(value, str) and len(value) > 40:
            said.append(f"{f.name}={value[:37] + '...'!r}")
        elif isinstance(value, str | int | float) or value is None:
            said.append(f"{f.name}={value!r}")
        elif isinstance(value, np.ndarray):
            said.append(f"{f.name}=array{value.shape}")
        elif isinstance(value, tuple | Mapping):
            said.append(f"{f.name}={len(value)} items")
        else:
            said.append(f"{f.name}={type(value).__name__}")
    return f"{type(self).__name__}({', '.join(said)})"


def _remake(self: Any) -> tuple[Any, ...]:
    """Pickled by its fields and made anew by its constructor, so that it comes back read-only."""
    return _made, (type(self), tuple(getattr(self, f.name) for f in fields(self) if f.init))


def _made(cls: type[Any], values: tuple[Any, ...]) -> Any:
    return cls(*values)


_NAMES = {_same: "__eq__", _short: "__repr__", _remake: "__reduce__"}
