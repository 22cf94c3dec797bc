"""Write what constructors take, from the fields of what an engineer describes.

A type checker sees SI numbers in fields; a constructor takes numbers and texts with a unit. So each
class has a constructor that only a type checker reads: it is made here, never typed.
With ``--check`` nothing is written; the exit code is 1 where something is out of date.
"""

from __future__ import annotations

import ast
import importlib
import re
import sys
from collections.abc import Iterator, Mapping
from pathlib import Path
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BeforeValidator
from pydantic.fields import FieldInfo

from undatum.described import Described
from undatum.units import Measure

ROOT = Path(__file__).resolve().parents[1] / "src"
MARK = "    if TYPE_CHECKING:  # made by tools/make_constructors.py\n"
BLOCK = re.compile(
    r"    if TYPE_CHECKING:[^\n]*\n\n        def __init__\(.*?\) -> None: \.\.\.\n", re.S)
#: What is taken beside an object of the class, as its validators read it.
BESIDE = {"Outline": "Sequence[Sequence[Given]]"}
#: Required, and made from another key where that is given: the levels of a building.
IN_SHORT = ("Sequence[Level]",)
#: Read with a project file alone.
OF_FILES = ("members_file", "walls_file", "sections_file")
#: What is taken beside the type itself, by the validator that reads it.
READ = {"_names": "str", "_sizes": "str", "_angle": "Given", "_one_or_two": "Given"}


def spelled(kind: Any, names: Mapping[str, Any]) -> list[str]:
    """The alternatives a constructor takes for a type; ``names`` are those of its module."""
    own = get_origin(kind)
    if own is Annotated:
        inner, *more = get_args(kind)
        if inner is float and any(isinstance(m, Measure) for m in more):
            return ["Given"]
        found = spelled(inner, names)
        before = [m.func for m in more if isinstance(m, BeforeValidator)]
        return _plain([READ[f.__name__] for f in before if f.__name__ in READ] + found)
    if own in (Union, UnionType):
        return _plain([one for part in get_args(kind) for one in spelled(part, names)])
    if own is Literal:
        alias = next((name for name, one in names.items() if one == kind), None)
        return [alias or "Literal[" + ", ".join(f'"{v}"' for v in get_args(kind)) + "]"]
    if own is tuple:
        parts = [one for part in get_args(kind) if part is not Ellipsis
                 for one in spelled(part, names)]
        return [f"Sequence[{' | '.join(dict.fromkeys(parts))}]"]
    if own is not None:  # mappings; a checker takes the values of a literal one for any text
        parts = [" | ".join(re.sub(r"Literal\[.*?\]", "str", one) for one in spelled(part, names))
                 for part in get_args(kind)]
        return [f"Mapping[{', '.join(parts)}]"]
    if kind is NoneType:
        return ["None"]
    return [kind.__name__, *([BESIDE[kind.__name__]] if kind.__name__ in BESIDE else [])]


def _plain(found: list[str]) -> list[str]:
    """Each alternative once, without those that a number with or without unit holds; None last."""
    held = ("str", "float") if "Given" in found else ()
    return sorted((n for n in dict.fromkeys(found) if n not in held), key=lambda n: n == "None")


def parameter(name: str, field: FieldInfo, names: Mapping[str, Any]) -> str:
    """One parameter, with its default."""
    kind = Annotated[(field.annotation, *field.metadata)] if field.metadata else field.annotation
    said = " | ".join(dict.fromkeys(spelled(kind, names)))
    if field.is_required() and said not in IN_SHORT:
        return f"{name}: {said}"
    value = () if field.is_required() else field.get_default(call_default_factory=True)
    shown = f'"{value}"' if isinstance(value, str) else "..." \
        if isinstance(value, dict | Described) or len(repr(value)) > 40 else repr(value)
    return f"{name}: {said} = {shown}"


def block(cls: type[Described]) -> str:
    """The constructor of a class, as a type checker reads it."""
    fields, names = cls.model_fields, vars(sys.modules[cls.__module__])
    order = sorted((n for n in fields if n not in OF_FILES),
                   key=lambda n: not fields[n].is_required())
    inside = ["self", "*", *(parameter(n, fields[n], names) for n in order)]
    line = f"        def __init__({', '.join(inside)}) -> None: ..."
    if len(line) > 100:
        rows = [""]
        for one in inside:  # a parameter is never broken
            if len(rows[-1]) + len(one) > 85:
                rows.append("")
            rows[-1] += f"{one}, "
        body = "".join(f"            {row.rstrip()}\n" for row in rows)
        line = f"        def __init__(\n{body}        ) -> None: ..."
    return f"{MARK}\n{line}\n"


def made(path: Path) -> str:
    """The text of a module with its constructors made anew."""
    text = path.read_text(encoding="utf-8")
    module = importlib.import_module(
        ".".join(path.relative_to(ROOT).with_suffix("").parts))
    for node in reversed(ast.parse(text).body):
        if not isinstance(node, ast.ClassDef):
            continue
        lines = text.splitlines(keepends=True)
        head, own, tail = (lines[:node.lineno - 1], lines[node.lineno - 1:node.end_lineno],
                           lines[node.end_lineno:])
        new = BLOCK.sub(lambda _, n=node: block(getattr(module, n.name)), "".join(own), count=1)
        text = "".join([*head, new, *tail])
    return text


def modules() -> Iterator[Path]:
    for path in sorted(ROOT.rglob("*.py")):
        if BLOCK.search(path.read_text(encoding="utf-8")):
            yield path


def main() -> int:
    stale = [(path, text) for path in modules() if (text := made(path)) != path.read_text("utf-8")]
    for path, text in stale:
        if "--check" not in sys.argv:
            path.write_text(text, encoding="utf-8")
        print(f"{path.relative_to(ROOT.parent)}: constructors "
              + ("are out of date" if "--check" in sys.argv else "made"))
    return int(bool(stale) and "--check" in sys.argv)


if __name__ == "__main__":
    raise SystemExit(main())
