"""The base of everything an engineer describes: validated, frozen, with errors as advice."""

from __future__ import annotations

import re
import types
from collections.abc import Sequence
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel, ConfigDict, ValidationError

from undatum.errors import Fault, InputError, nearest

Loc = tuple[int | str, ...]


class Described(BaseModel):
    """Plain data with units at the boundary. Raises InputError with every fault at once."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    def __init__(self, **data: Any) -> None:
        try:
            super().__init__(**data)
        except ValidationError as error:
            raise InputError(faults_from(error, type(self))) from None

    # Without this mark Pydantic would call __init__ for nested parts too, and the first nested
    # fault would hide all others.
    __init__.__pydantic_base_init__ = True  # type: ignore[attr-defined]


def one_or_list(value: Any) -> str:
    """Discriminator of a value that may be single or a list."""
    return "list" if isinstance(value, list | tuple) else "one"


def place_of(loc: Sequence[int | str]) -> str:
    """A key path as people write it: ``building.levels[3].height``."""
    text = ""
    for part in loc:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text


def faults_from(error: ValidationError, model: type[BaseModel]) -> list[Fault]:
    """Every fault of a Pydantic error in our words, unknown keys with the nearest known one."""
    found: list[Fault] = []
    seen: set[tuple[str, str]] = set()
    for item in error.errors(include_url=False):
        loc = strip_branches(item["loc"], model)
        fault = _fault(loc, item, model)
        if (fault.place, fault.message) not in seen:
            seen.add((fault.place, fault.message))
            found.append(fault)
    return found


def strip_branches(loc: Loc, model: type[BaseModel]) -> Loc:
    """The location without the names Pydantic adds for branches of a union."""
    kept: list[int | str] = []
    kinds: list[Any] = [model]
    for part in loc:
        steps = [s for kind in kinds for s in _members(kind, part)]
        if steps or isinstance(part, int):
            kept.append(part)
            kinds = steps
        elif any(_is_model(kind) for kind in kinds) and part == loc[-1]:
            kept.append(part)  # an unknown key
    return tuple(kept)


def _fault(loc: Loc, item: Any, model: type[BaseModel]) -> Fault:
    place, kind, value = place_of(loc), item["type"], item.get("input")
    if kind == "extra_forbidden":
        known = _fields_at(model, loc[:-1])
        near = nearest(str(loc[-1]), known)
        cure = f"did you mean {near!r}? " if near else ""
        return Fault(place, "is not a known key", f"{cure}known here: {', '.join(known)}")
    if kind == "missing":
        return Fault(place, "is missing", _meaning(model, loc))
    if kind == "literal_error":
        choices = re.findall(r"'([^']*)'", item["ctx"]["expected"])
        near = nearest(str(value), choices)
        cure = f"did you mean {near!r}? " if near else ""
        return Fault(place, f"{_short(value)} is not one of the choices",
                     f"{cure}choose from: {', '.join(map(repr, choices))}")
    if kind in {"quantity", "bound", "advice", "system_row", "reason"}:
        return Fault(place, item["msg"], _meaning(model, loc))
    expected = {
        "model_type": "a table of keys", "dict_type": "a table of keys",
        "model_attributes_type": "a table of keys", "list_type": "a list",
        "tuple_type": "a pair such as [12.0, 30.0]", "string_type": "a text in quotes",
        "bool_type": "true or false", "bool_parsing": "true or false",
    }.get(kind)
    message = (
        f"{_short(value)} is {_kind_of(value)}, expected {expected}"
        if expected else f"{_short(value)}: {_lower(item['msg'])}"
    )
    return Fault(place, message, _meaning(model, loc))


def _lower(text: str) -> str:
    return text[:1].lower() + text[1:]


def _short(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


def _kind_of(value: Any) -> str:
    if isinstance(value, bool):
        return "true or false"
    for kinds, name in (((int, float), "a number"), (str, "a text"), (dict, "a table"),
                        ((list, tuple), "a list")):
        if isinstance(value, kinds):
            return name
    return f"a {type(value).__name__}"


def _is_model(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, BaseModel)


def _unwrap(kind: Any) -> list[Any]:
    """The plain kinds an annotation allows."""
    origin = get_origin(kind)
    if origin is Annotated:
        return _unwrap(get_args(kind)[0])
    if origin in (Union, types.UnionType):
        return [plain for part in get_args(kind) for plain in _unwrap(part)]
    return [kind]


def _members(kind: Any, part: int | str) -> list[Any]:
    """What can stand at ``part`` of a value of ``kind``."""
    found: list[Any] = []
    for plain in _unwrap(kind):
        if _is_model(plain) and isinstance(part, str):
            if part in plain.model_fields:
                found.append(plain.model_fields[part].annotation)
        elif get_origin(plain) is dict and isinstance(part, str):
            found.append(get_args(plain)[1])
        elif get_origin(plain) in (list, tuple) and isinstance(part, int):
            found.append(get_args(plain)[0])
    return found


def _kinds_at(model: type[BaseModel], loc: Loc) -> list[Any]:
    kinds: list[Any] = [model]
    for part in loc:
        kinds = [step for kind in kinds for step in _members(kind, part)]
    return [plain for kind in kinds for plain in _unwrap(kind)]


def _fields_at(model: type[BaseModel], loc: Loc) -> list[str]:
    return [name for kind in _kinds_at(model, loc) if _is_model(kind)
            for name in kind.model_fields]


def _meaning(model: type[BaseModel], loc: Loc) -> str:
    """The description of the key at ``loc``, if it has one."""
    name = next((part for part in reversed(loc) if isinstance(part, str)), "")
    holder = loc[: len(loc) - 1 - list(reversed(loc)).index(name)] if name else ()
    for kind in _kinds_at(model, holder):
        if _is_model(kind) and name in kind.model_fields:
            text = kind.model_fields[name].description
            return f"{name}: {_lower(text)}" if text else ""
    return ""
