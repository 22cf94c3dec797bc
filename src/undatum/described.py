"""The base of everything an engineer describes: validated, frozen, with errors as advice."""

from __future__ import annotations

import re
import types
import unicodedata
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace as dataclass_replace
from functools import cache
from inspect import cleandoc
from typing import (
    TYPE_CHECKING,
    Annotated,
    Any,
    Literal,
    Self,
    TypeVar,
    Union,
    cast,
    get_args,
    get_origin,
)

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    GetJsonSchemaHandler,
    ValidationError,
    model_validator,
)
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema

from undatum.errors import Fault, InputError, guess, nearest, one_of
from undatum.record import FixedDict
from undatum.units import Measure, dimension_of

Loc = tuple[int | str, ...]
#: A value as an engineer gives it: a number in SI, or a text with its unit such as "12 ft".
Given = float | str


_FIELDS = "\n\nFields:\n\n"


class Described(BaseModel):
    """Plain data with units at the boundary. Raises InputError with every fault at once.

    Frozen, with tuples for lists: to change something make a copy with :meth:`varied` or
    ``model_copy(update=...)``, which validate like the original.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    def __init__(self, **data: Any) -> None:
        if faults := control_faults(data):
            raise InputError(faults)
        try:
            super().__init__(**data)
        except ValidationError as error:
            raise InputError(faults_from(error, type(self))) from None

    # Without this mark Pydantic would call __init__ for nested parts too, and the first nested
    # fault would hide all others.
    __init__.__pydantic_base_init__ = True  # type: ignore[attr-defined]

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        """Put the fields, with their dimensions, where ``help`` finds them."""
        super().__pydantic_init_subclass__(**kwargs)
        said = cleandoc(cls.__doc__ or "").partition(_FIELDS)[0].rstrip()
        cls.__doc__ = said + _FIELDS + "\n".join(
            f"    {name}: {field.description or ''}"
            + (f" [{dimension}]" if (dimension := dimension_of(field)) else "")
            for name, field in cls.model_fields.items()) + "\n"

    @classmethod
    def __get_pydantic_json_schema__(
        cls, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        found = handler.resolve_ref_schema(handler(schema))
        if "description" in found:
            said = found["description"].partition(_FIELDS.strip())[0]
            found["description"] = said.partition("\n>>> ")[0].rstrip()  # no example
        return found

    @model_validator(mode="before")
    @classmethod
    def _as_people_write(cls, data: Any) -> Any:
        """Choices in other letters or as a number: "c" for "C", 2 for "II", 1.5 for "1.5"."""
        if not isinstance(data, dict):
            return data
        found = data
        for name, field in cls.model_fields.items():
            value = data.get(name)
            if isinstance(value, bool) or not isinstance(value, str | int | float):
                continue
            choices = _choices(cast(Any, field.annotation))
            if choices and value not in choices:
                meant = _meant(value, choices)
                if meant is not None:
                    found = {**found, name: meant}
        return found

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy; with ``update`` it is made anew and validated. Raises InputError."""
        if not update:
            return super().model_copy(deep=deep)
        data = {name: getattr(self, name) for name in self.model_fields_set}
        made = type(self)(**(data | dict(update)))
        if self.__pydantic_private__ is not None:
            for name, value in self.__pydantic_private__.items():
                setattr(made, name, value)
        return made

    def varied(self, changes: Mapping[str, object]) -> Self:
        """A copy with values changed by path, validated like a project file.

        A path is written as errors write it, ``"building.lines[2].stiffness"``; in the brackets
        may also stand ``*`` for all, the name of an item, or a condition, as in
        ``"building.lines[direction=X].stiffness"``. A change is the new value (plain numbers in
        SI, or texts with their unit) or a function that is given each number there:
        ``{"building.lines[direction=X].stiffness": lambda k: 1.2 * k}``. Raises InputError naming
        the place.
        """
        plan = [(_tokens(path), path, change) for path, change in changes.items()]
        return cast(Self, _varied(self, plan, ""))


    def dimensions_at(self, path: str) -> frozenset[str]:
        """The dimensions of the numbers at a path of :meth:`varied`; empty for what is no number
        with a unit. Raises InputError where nothing is there."""
        tokens, node, field = _tokens(path), cast(Any, self), None
        for k, token in enumerate(tokens):
            if isinstance(node, Described):
                name = next(iter(_by_key([(tokens[k:], path, None)],
                                         list(type(node).model_fields), path)))
                field, node = type(node).model_fields[name], getattr(node, name)
            elif isinstance(node, tuple):
                node = node[_indices(node, token, path)[0]] if node else None
            elif isinstance(node, Mapping):
                name = next(iter(_by_key([(tokens[k:], path, None)], list(node), path)))
                node = node[name]
            else:
                raise InputError([Fault(path, "leads to nothing that is given",
                                        "give a value there, or end the path sooner")])
        return frozenset() if field is None or isinstance(node, Described) else frozenset(
            one.dimension for one in (*_marks(field.annotation), *field.metadata)
            if isinstance(one, Measure) and one.dimension != "ratio")


def _marks(annotation: Any) -> Iterator[Any]:
    """Everything that annotates a type or its parts."""
    yield from getattr(annotation, "__metadata__", ())
    for one in get_args(annotation):
        yield from _marks(one)


# -- choices as people write them ------------------------------------------------------------------

_ROMAN = {"1": "i", "2": "ii", "3": "iii", "4": "iv", "5": "v"}
_BEFORE = re.compile(
    r"^(seismic|site|soil|ground|risk|importance|zone|class|type|category|profile)+")


@cache
def _choices(annotation: Any) -> tuple[str, ...]:
    """The texts an annotation allows, where it allows nothing but texts of a list."""
    found: list[str] = []
    for plain in _unwrap(annotation):
        if plain is type(None):
            continue
        if get_origin(plain) is not Literal or not all(isinstance(x, str) for x in get_args(plain)):
            return ()
        found += get_args(plain)
    return tuple(found)


def _meant(value: str | float, choices: Sequence[str]) -> str | None:
    """The one choice that is written otherwise here, if there is just one."""
    text = f"{value:g}" if isinstance(value, float) else str(value)
    key = _plain(text)
    ways = {key, _BEFORE.sub("", key)}
    ways |= {_ROMAN[w] for w in ways if w in _ROMAN} | {f"s{w}" for w in ways if len(w) == 1}
    found = [c for c in choices if _plain(c) in ways]
    if not found:
        try:
            found = [c for c in choices if float(c) == float(text)]
        except ValueError:
            found = []
    return found[0] if len(found) == 1 else None


def _plain(text: str) -> str:
    return re.sub(r"[\s_-]+", "", text.casefold())


# -- variation by path -----------------------------------------------------------------------------

Plan = list[tuple[list[str], str, object]]
_PART = re.compile(r"([^.\[\]]+)|\[([^\]]*)\]|(\.)")


def _tokens(path: str) -> list[str]:
    """The parts of a path; what stands in brackets keeps its opening bracket."""
    if not isinstance(path, str) or not path or _PART.sub("", path):
        raise InputError([Fault(str(path), "is not a path", 'write one such as "site.ss" or '
                                '"building.lines[direction=X].stiffness"')])
    return [m[1] or f"[{m[2].strip()}" for m in _PART.finditer(path) if not m[3]]


def _varied(node: Any, plan: Plan, at: str) -> Any:
    """``node`` with every change of ``plan`` made in it."""
    whole = [change for tokens, _, change in plan if not tokens]
    if whole:
        change = whole[-1]
        return _changed(node, change, at) if callable(change) else change
    if isinstance(node, Described):
        return _varied_model(node, plan, at)
    if isinstance(node, tuple):
        chosen: dict[int, Plan] = {}
        for tokens, path, change in plan:
            for i in _indices(node, tokens[0], at):
                chosen.setdefault(i, []).append((tokens[1:], path, change))
        return tuple(_varied(v, chosen[i], f"{at}[{i}]") if i in chosen else v
                     for i, v in enumerate(node))
    if isinstance(node, Mapping):
        found = dict(node)
        for key, part in _by_key(plan, list(node), at).items():
            found[key] = _varied(node[key], part, f"{at}.{key}")
        return found
    raise InputError([Fault(at, "holds nothing further", "end the path here")])


def _varied_model(node: Described, plan: Plan, at: str) -> Described:
    names = list(type(node).model_fields)
    update = {
        name: _varied(getattr(node, name), part, f"{at}.{name}".lstrip("."))
        for name, part in _by_key(plan, names, at).items()
    }
    try:
        return node.model_copy(update=update)
    except InputError as error:
        raise InputError([dataclass_replace(f, place=f"{at}.{f.place}".strip("."))
                          for f in error.faults]) from None


def _by_key(plan: Plan, known: list[str], at: str) -> dict[str, Plan]:
    """The changes by the first key of their paths."""
    found: dict[str, Plan] = {}
    for tokens, path, change in plan:
        key = tokens[0].removeprefix("[")
        if key not in known:
            raise InputError([Fault(
                f"{at}.{key}".lstrip("."), "is not a known key",
                one_of(key, known, "known here"))])
        found.setdefault(key, []).append((tokens[1:], path, change))
    return found


def _indices(items: tuple[Any, ...], token: str, at: str) -> list[int]:
    """The items that a bracket chooses."""
    inside = token.removeprefix("[")
    names = [getattr(item, "name", None) for item in items]
    if token == inside or inside == "*":
        if inside != "*":
            raise InputError([Fault(at, f"is a list; {inside!r} says nothing of which",
                                    "write [*], [0], [name] or [key=value] behind it")])
        return list(range(len(items)))
    if inside in names:
        return [i for i, name in enumerate(names) if name == inside]
    if inside.lstrip("-").isdigit():
        i = int(inside)
        if -len(items) <= i < len(items):
            return [i % len(items)]
        raise InputError([Fault(f"{at}[{inside}]", f"is not there; {at} holds {len(items)}", "")])
    key, equal, value = (part.strip() for part in inside.partition("="))
    if equal:
        found = [i for i, item in enumerate(items)
                 if isinstance(item, Described) and _holds(item, key, value, f"{at}[{i}]")]
        if found:
            return found
    known = ", ".join(str(name) for name in names if name is not None)
    raise InputError([Fault(f"{at}[{inside}]", "chooses nothing",
                            f"known: {known}" if known else "write [*], [0] or [key=value]")])


def _holds(item: Described, key: str, value: str, at: str) -> bool:
    """Whether a key of an item has a value, as a project file would write it."""
    _by_key([([key], "", None)], list(type(item).model_fields), at)
    if str(getattr(item, key)) == value:
        return True
    try:
        return bool(getattr(item.model_copy(update={key: value}), key) == getattr(item, key))
    except InputError:
        return False


def _changed(node: Any, change: Callable[[Any], object], at: str) -> Any:
    """A function applied to the number there, or to every number of a list."""
    if isinstance(node, tuple):
        return tuple(_changed(v, change, f"{at}[{i}]") for i, v in enumerate(node))
    if node is None:
        raise InputError([Fault(at, "is not given, so there is nothing to change",
                                "give a value in place of a function")])
    return change(node)


# -- fixed lists and tables ------------------------------------------------------------------------

Key = TypeVar("Key")
Item = TypeVar("Item")
if TYPE_CHECKING:
    Named = Mapping[Key, Item]
else:
    class Named:
        """``Named[str, X]``: a table of keys that can't be changed once it is read."""

        def __class_getitem__(cls, parts: Any) -> Any:
            key, item = parts
            return Annotated[dict[key, item], AfterValidator(FixedDict)]


def control_faults(data: Any) -> list[Fault]:
    """Texts with control characters, which could steer a screen; breaks and tabs are fine."""
    faults: list[Fault] = []
    left: list[tuple[Loc, Any]] = [((), data)]
    while left:
        at, node = left.pop()
        if isinstance(node, str):
            if (found := _control(node)) is not None:
                faults.append(Fault(place_of(at), f"holds the control character {found!r}",
                                    "take it out"))
            continue
        items: Any = node.items() if isinstance(node, dict) else \
            enumerate(node) if isinstance(node, list | tuple) else ()
        for key, value in items:
            if isinstance(key, str) and _control(key) is not None:
                faults.append(Fault(place_of(at), f"holds the key {key[:40]!r} with a control "
                                    "character", "take it out"))
            left.append(((*at, key if isinstance(key, int) else str(key)), value))
    return faults[::-1]


def _control(text: str) -> str | None:
    return next((c for c in text if unicodedata.category(c) in ("Cc", "Cf", "Cs")
                 and c not in "\n\t\r\u200c\u200d"), None)


def one_or_list(value: Any) -> str:
    """Discriminator of a value that may be single or a list."""
    return "list" if isinstance(value, list | tuple) else "one"


def one_or_table(value: Any) -> str:
    """Discriminator of a value that may be single or a table."""
    return "table" if isinstance(value, Mapping) else "one"


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
    items = error.errors(include_url=False)
    misspelt = {(*item["loc"][:-1], _near(item["loc"], model)) for item in items
                if item["type"] == "extra_forbidden"}
    for item in items:
        if item["type"] == "missing" and item["loc"] in misspelt:
            continue  # it is there, in other letters: one fault
        if item["type"] == "too_short" and any(
                len(other["loc"]) > len(item["loc"])
                and other["loc"][:len(item["loc"])] == item["loc"] for other in items):
            continue  # faulty items are not counted; their own faults are said
        loc = strip_branches(item["loc"], model, unknown=item["type"] == "extra_forbidden")
        fault = _fault(loc, item, model)
        if (fault.place, fault.message) not in seen:
            seen.add((fault.place, fault.message))
            found.append(fault)
    return found


def _near(loc: Loc, model: type[BaseModel]) -> str:
    """The known key most like the unknown one at ``loc``."""
    at = strip_branches(loc, model, unknown=True)
    return nearest(str(at[-1]), _fields_at(model, at[:-1]))


def strip_branches(loc: Loc, model: type[BaseModel], *, unknown: bool = False) -> Loc:
    """The location without the names Pydantic adds for branches of a union.

    ``unknown`` says that it ends in a key nobody knows, which is kept.
    """
    kept: list[int | str] = []
    kinds: list[Any] = [model]
    for i, part in enumerate(loc):
        steps = [plain for kind in kinds for s in _members(kind, part) for plain in _unwrap(s)]
        if steps or isinstance(part, int):
            kept.append(part)
            kinds = steps
        elif unknown and i == len(loc) - 1:
            kept.append(part)
    return tuple(kept)


def _fault(loc: Loc, item: Any, model: type[BaseModel]) -> Fault:
    place, kind, value = place_of(loc), item["type"], item.get("input")
    if kind == "extra_forbidden":
        known = _fields_at(model, loc[:-1])
        return Fault(place, "is not a known key", one_of(str(loc[-1]), known, "known here"))
    if kind == "missing":
        return Fault(place, "is missing", _meaning(model, loc))
    if kind == "literal_error":
        choices = re.findall(r"'([^']*)'", item["ctx"]["expected"])
        cure = guess(str(value), choices, after=" ")
        return Fault(place, f"{_short(value)} is not one of the choices",
                     f"{cure}choose from: {', '.join(map(repr, choices))}")
    if kind in {"too_short", "too_long"}:
        ctx = item["ctx"]
        bound = f"at least {ctx['min_length']}" if kind == "too_short" else \
            f"at most {ctx['max_length']}"
        return Fault(place, f"{_short(value)} holds {ctx['actual_length']}; {bound} are needed",
                     _meaning(model, loc))
    if kind == "system_row":
        ctx = item["ctx"]
        advice = [f"did you mean {ctx['hint']}?"] if ctx["hint"] else []
        advice.append(f"'undatum systems {ctx['standard']}' lists them")
        advice += [f"({ctx['other']})"] if "other" in ctx else []
        return Fault(f"{place}.{ctx['key']}".lstrip("."), item["msg"], " ".join(advice))
    if kind in {"quantity", "bound", "advice", "reason"}:
        return Fault(place, item["msg"], _meaning(model, loc))
    if kind == "tuple_type" and any(get_args(k)[-1:] == (...,) for k in _kinds_at(model, loc)):
        kind = "list_type"
    expected = {
        "model_type": "a table of keys", "dict_type": "a table of keys",
        "model_attributes_type": "a table of keys", "list_type": "a list",
        "tuple_type": "a pair such as [12.0, 30.0]", "string_type": "a text in quotes",
        "bool_type": "true or false", "bool_parsing": "true or false",
    }.get(kind)
    message = (
        f"{_short(value)} is {_kind_of(value)}; expected {expected}"
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
