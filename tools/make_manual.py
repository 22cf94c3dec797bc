"""The source of the manual: what is written by hand, and the reference made from the code.

    python tools/make_manual.py FOLDER      # then: sphinx-build FOLDER FOLDER/../html
"""

from __future__ import annotations

import inspect
import re
import shutil
import sys
from pathlib import Path
from typing import Any

import typer
from matplotlib.figure import Figure
from matplotlib.patches import FancyBboxPatch

import undatum as ud
from undatum.cli import app
from undatum.described import Described
from undatum.units import UnitSystem

ROOT = Path(__file__).resolve().parent.parent
PROJECTS = ("archive", "clinic", "terrace")


def main(folder: Path) -> None:
    """Write the whole source into a folder, made anew."""
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(ROOT / "manual", folder)
    (folder / "reference").mkdir()
    docs = ROOT / "docs"
    for name, place in (("conventions.md", "concepts"), ("coverage.md", "concepts"),
                        ("project-file.md", "reference"), ("criteria.md", "reference")):
        text = (docs / name).read_text(encoding="utf-8")
        target = "keys.md" if name == "project-file.md" else name
        (folder / place / target).write_text(text, encoding="utf-8")
    shutil.copytree(docs / "verification", folder / "verification")
    (folder / "reference" / "python.md").write_text(python_page(), encoding="utf-8")
    (folder / "reference" / "commands.md").write_text(commands_page(), encoding="utf-8")
    (folder / "reference" / "tables.md").write_text(tables_page(), encoding="utf-8")
    picture().savefig(folder / "concepts" / "load_sets.png", dpi=110)
    gallery(folder)


def prose(text: str) -> str:
    """A docstring as Markdown: code marks single, fields as a list, what runs as code."""
    lines, out, code = inspect.cleandoc(text).split("\n"), [], False
    for line in lines:
        if line.startswith(">>>") or (code and line.startswith("...")):
            if not code:
                out.append("```python")
            code = True
            out.append(line)
            continue
        if code and line.strip():
            out.append(line)
            continue
        if code:
            out.append("```")
            code = False
        field = re.match(r"^    (\w+): (.*)", line)
        said = f"- `{field[1]}`: {field[2]}" if field else line.strip()
        out.append(re.sub(r":(?:func|class|mod|meth|data):`~?\.?([\w.]+)`", r"`\1`",
                          said.replace("``", "`")))
    if code:
        out.append("```")
    return "\n".join(out)


def signature(one: Any) -> str:
    """Arguments with their types, a line each where they are many; of what an engineer describes
    those that a type checker reads."""
    if inspect.isclass(one) and issubclass(one, Described):
        made = re.search(r"def __init__\(\s*self, (.*?),?\s*\) -> None: \.\.\.",
                         inspect.getsource(one), re.S)
        if made is not None:
            each = [x.strip() for x in _apart(made[1])]
            text = ", ".join(each)
            return f"({text})" if len(text) < 80 else "(\n    " + ",\n    ".join(each) + ")"
    try:
        found = inspect.signature(one)
    except ValueError:
        return "(...)"
    each = [re.sub(r": '([^']*)'", r": \1", re.sub(
        r"\b(?:undatum|typing|collections\.abc|pathlib)\.(?:\w+\.)*", "", str(p)))
        for p in found.parameters.values()]
    keyword = next((k for k, p in enumerate(found.parameters.values())
                    if p.kind is p.KEYWORD_ONLY), None)
    if keyword is not None:
        each.insert(keyword, "*")
    text = ", ".join(each)
    return f"({text})" if len(text) < 80 else "(\n    " + ",\n    ".join(each) + ")"


def _apart(text: str) -> list[str]:
    """Arguments one by one: commas within brackets separate none."""
    found, depth = [""], 0
    for c in " ".join(text.split()):
        depth += (c in "([{") - (c in ")]}")
        if c == "," and depth == 0:
            found.append("")
        else:
            found[-1] += c
    return found


def python_page() -> str:
    """Every public name with its signature and docstring: what ``help`` says."""
    parts = ["# Python\n\nThe same text as `help(undatum.NAME)`. Numbers are SI; text may carry a "
             "unit. `Given` is a number in SI or a text with its unit. In examples `ud` is "
             "`undatum` and `folder` an empty folder; all of them are run by the tests.\n"]
    for name in sorted(ud.__all__, key=str.lower):
        one = getattr(ud, name)
        parts.append(f"\n## {name}\n")
        if inspect.isclass(one) or inspect.isfunction(one):
            parts.append(f"```\n{name}{signature(one)}\n```\n")
        parts.append(prose(one.__doc__ or "") + "\n")
    return "\n".join(parts)


def commands_page() -> str:
    """Every command with its arguments and options."""
    group: Any = typer.main.get_command(app)
    parts = ["# Commands\n"]
    for name, command in group.commands.items():
        parts.append(f"\n## undatum {name}\n\n{prose(command.help or '')}\n")
        for one in command.params:
            if "--help" in one.opts:
                continue
            word = ", ".join(one.opts) if one.param_type_name == "option" else one.name.upper()
            said = getattr(one, "help", "") or ""
            parts.append(f"- `{word}`: {said}")
    return "\n".join(parts) + "\n"


def tables_page() -> str:
    """Every table of the shipped projects with its columns and the note under it."""
    seen: dict[str, Any] = {}
    for key in PROJECTS:
        for table in ud.run(ud.shipped_project(key)).tables():
            seen.setdefault(table.name, table)
    units = UnitSystem("kN and m")
    parts = ["# Tables\n\nOf a run: `tables/*.csv`, a sheet of the workbook, "
             "`results.table(NAME)`. Units here are those of kN and m.\n"]
    for name, table in sorted(seen.items()):
        heads = ", ".join(f"`{h}`" for h in table.heads(units) if h)
        parts.append(f"\n## {name}\n\n{table.title}. {table.note}\n\nColumns: {heads}\n")
    return "\n".join(parts)


def picture() -> Figure:
    """From the site to combinations, as boxes and arrows."""
    figure = Figure(figsize=(9.6, 3.6))
    ax = figure.add_axes((0.0, 0.0, 1.0, 1.0))
    ax.set_xlim(0, 100)
    ax.set_ylim(0, 38)
    ax.axis("off")
    boxes = {
        "site": (2, 11, 15, 9, "site,\nspectrum"),
        "cases": (2, 29, 15, 7, "load cases:\ndead, live, wind"),
        "static": (23, 16, 18, 9, "static forces,\nboth signs of e"),
        "modal": (23, 3, 18, 9, "modes,\nunsigned peaks"),
        "strength": (48, 16, 18, 9, "load sets\nfor strength"),
        "drift": (48, 3, 18, 9, "load sets\nfor drift"),
        "combined": (75, 16, 22, 9, "combinations:\nforces, reactions"),
        "checked": (75, 3, 22, 9, "story drift\nagainst its limit")}
    for x, y, w, h, text in boxes.values():
        ax.add_patch(FancyBboxPatch((x, y), w, h, boxstyle="round,pad=0.3,rounding_size=1.2",
                                    facecolor="#e9edf2", edgecolor="#57606d"))
        ax.text(x + w / 2, y + h / 2, text, ha="center", va="center", fontsize=10)
    for a, b in (("site", "static"), ("site", "modal"), ("static", "strength"),
                 ("static", "drift"), ("modal", "strength"), ("modal", "drift"),
                 ("strength", "combined"), ("drift", "checked")):
        (x, y, w, h, _), (p, q, _, k, _) = boxes[a], boxes[b]
        ax.annotate("", (p - 0.5, q + k / 2), (x + w + 0.5, y + h / 2),
                    arrowprops={"arrowstyle": "->", "color": "#1b6ca8"})
    ax.annotate("", (86, 25.5), (17.5, 32.5), arrowprops={
        "arrowstyle": "->", "color": "#1b6ca8", "connectionstyle": "angle,angleA=0,angleB=90"})
    return figure


def gallery(folder: Path) -> None:
    """The pictures of the shipped projects, and the examples with what they say of themselves."""
    shots = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    (folder / "pictures").mkdir()
    lines = []
    for shot in shots:
        shutil.copy(shot, folder / "pictures" / shot.name)
        words = shot.stem.replace("_", " ")
        lines.append(f"## {words}\n\n![{words}](pictures/{shot.name})\n")
    examples = []
    for file in sorted((ROOT / "examples").glob("*.py")):
        text = file.read_text(encoding="utf-8")
        said = re.match(r'"""(.*?)"""', text, re.S)
        about = " ".join(said[1].split()) if said else ""
        examples.append(f"## examples/{file.name}\n\n{about}\n\n```python\n"
                        f"{text[said.end():].strip() if said else text}\n```\n")
    page = folder / "gallery.md"
    page.write_text(page.read_text(encoding="utf-8").replace("GALLERY", "\n".join(lines)).replace(
        "EXAMPLES", "\n".join(examples)), encoding="utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
