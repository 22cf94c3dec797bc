"""Shipped projects with something wrong in them: in structure, in text, in bytes."""

from __future__ import annotations

import copy
import math
import random
import re
import shutil
import tomllib
import warnings
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import tomlkit

import undatum as ud
from undatum.errors import UndatumError

ROOT = Path(__file__).parent.parent
STARTERS = ROOT / "src" / "undatum" / "project" / "starters"
LINES = ("archive", "clinic", "starter")  # of lateral lines; the seeds found rest on the order
PROJECTS = (*(STARTERS / f"{name}.toml" for name in LINES),
            ROOT / "examples" / "study" / "hall.toml",
            *sorted((ROOT / "examples" / "owner").glob("*.toml"))[:2])
FRAMES = (STARTERS / "terrace.toml",)
ODD_FRAMES = (STARTERS / "arcade.toml", ROOT / "tests" / "projects" / "open_floors.toml")

ODD: tuple[Any, ...] = (
    0, -1, 1, 0.0, -0.0, 1e-300, 1e300, -1e300, math.nan, math.inf, 10**18, 0.1, 2, 1000,
    "", " ", "x", "x" * 300, "1e999 m", "nan m", "-3 m", "12 ft", "5 %", "1 kN/m^2", "X", "Y",
    "m**9**9**9", "3 m/0", "[bold]", "<b>", "$x$", "\x1b[31m", "\u202e", "../..", "a\nb", "'=1+1",
    True, False, [], {}, [1], [[0, 0]], [[0, 0], [1, 0], [0, 1]], {"a": 1}, [{}], ["a"],
    [1e30, 1e30], "30 deg", "Ground", "Roof")
SELECTIONS = ("all", "on A", "A1", "on A between 1 and 2 at L1..L3", "at Roof", "C2 at L1..L2",
              "L2..L1")


def leaves(node: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The paths of everything in a plain tree, the tree itself left out."""
    if at:
        yield at
    items: Any = node.items() if isinstance(node, dict) else \
        enumerate(node) if isinstance(node, list) else ()
    for key, value in items:
        yield from leaves(value, (*at, key))


def in_structure(text: str, rng: random.Random) -> str:
    """One to three values replaced, taken out, doubled or put elsewhere."""
    data = copy.deepcopy(tomllib.loads(text))
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        paths = list(leaves(data))
        if not paths:
            break
        *above, last = rng.choice(paths)
        node: Any = data
        for key in above:
            node = node[key]
        how = rng.random()
        if how < 0.15:
            del node[last]
        elif how < 0.25 and isinstance(node, list):
            node.insert(rng.randrange(len(node) + 1), copy.deepcopy(node[last]))
        elif how < 0.35 and isinstance(node[last], list):
            rng.shuffle(node[last])
        elif how < 0.45 and isinstance(node[last], int | float) \
                and not isinstance(node[last], bool):
            node[last] = node[last] * rng.choice((-1, 0, 1e-9, 1e-3, 1e3, 1e6, 1e12))
        elif how < 0.5 and isinstance(node, dict):
            node[str(last) + rng.choice(("x", "_", " "))] = node.pop(last)
        else:
            text_there = isinstance(node[last], str) and "members" in above
            node[last] = rng.choice(SELECTIONS) if text_there and how < 0.75 else \
                copy.deepcopy(rng.choice(ODD))
    return tomlkit.dumps(data)


def in_text(text: str, rng: random.Random) -> str:
    """Lines taken out, doubled, cut or exchanged; a sign put in."""
    lines = text.splitlines(keepends=True)
    for _ in range(rng.choice((1, 1, 2))):
        i = rng.randrange(len(lines))
        how = rng.randrange(5)
        if how == 0:
            del lines[i]
        elif how == 1:
            lines.insert(i, lines[rng.randrange(len(lines))])
        elif how == 2:
            lines[i] = lines[i][: rng.randrange(len(lines[i]) + 1)]
        elif how == 3:
            at = rng.randrange(len(lines[i]) + 1)
            lines[i] = lines[i][:at] + rng.choice('"[]{}=.,#\0\\\n\t-e9') + lines[i][at:]
        else:
            lines[i] = re.sub(r"\d+", lambda m: str(rng.choice((0, 7, 10**9, m[0] + "e9"))),
                              lines[i])
        if not lines:
            return ""
    return "".join(lines)


def in_bytes(text: str, rng: random.Random) -> bytes:
    """Some bytes exchanged, or the end cut off."""
    data = bytearray(text.encode())
    for _ in range(rng.choice((1, 3, 20))):
        data[rng.randrange(len(data))] = rng.randrange(256)
    return bytes(data[: rng.randrange(len(data))] if rng.random() < 0.2 else data)


def unsound(results: ud.Results) -> str:
    """Where a table or finding holds what is no number, or a text spells one out; or nothing."""
    for table in results.tables():
        for col in table.columns:
            for cell in col.cells:
                if isinstance(cell, float) and not math.isfinite(cell):
                    return f"{table.name}: {col.name}"
    for f in results.findings:
        if any(v is not None and not math.isfinite(v) for v in (f.demand, f.capacity, f.ratio)):
            return f"finding {f.check}"
        if re.search(r"\b(nan|inf)\b", f"{f.text} {f.advice}"):
            return f"finding {f.check}: {f.text}"
    return ""


def lacking(error: UndatumError) -> str:
    """A fault without place, cure or line; a place is a file where none of its lines is wrong, and
    what is missing stands on no line."""
    for f in getattr(error, "faults", ()):
        if not (f.cure and (f.place or f.line or error.source)  # type: ignore[attr-defined]
                and (f.line or not f.place or f.message == "is missing" or " file " in f.place)):
            return f"place {f.place!r}, line {f.line}, cure {f.cure!r}: {f.message}"
    return ""


def survive(seed: int, folder: Path, projects: tuple[Path, ...] = PROJECTS) -> str:
    """Run one mutant of one of the projects.

    Returns what went wrong: a traceback, a warning, what is no number.
    """
    rng = random.Random(seed)
    source = rng.choice(projects)
    text = source.read_text(encoding="utf-8")
    how = rng.choice((in_structure, in_structure, in_structure, in_text, in_bytes))
    made = how(text, rng)
    for beside in (*source.parent.glob("*.csv"), *source.parent.glob("*.toml")):
        if beside.suffix == ".csv" or source.parent.name == "owner":
            shutil.copy(beside, folder)
    path = folder / "mutant.toml"
    path.write_bytes(made if isinstance(made, bytes) else made.encode("utf-8", "surrogatepass"))
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            results = ud.run(ud.read(path))
            str(results)
            again = ud.load(results.save(folder / "kept"))
            changed = [table.name for table in ud.compared(results, again, 0.0) if len(table)]
            return unsound(results) or (f"not as it was saved: {changed}" if changed else "")
    except UndatumError as error:
        said = str(error)
        if part := lacking(error):
            return part
        if not said.strip() or "pydantic" in said.lower() or "Traceback" in said:
            return f"advice without words: {said!r}"
        return ""
    except Exception as error:  # what must not happen
        import traceback

        last = traceback.extract_tb(error.__traceback__)[-1]
        return f"{type(error).__name__}: {error} at {Path(last.filename).name}:{last.lineno}"
