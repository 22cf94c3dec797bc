"""The manual: its code runs, its keys and commands exist, its links lead somewhere."""

from __future__ import annotations

import re
import shlex
import tomllib
from pathlib import Path
from typing import Any

import pytest
import typer

from undatum.cli import app
from undatum.project.schema import project_model

ROOT = Path(__file__).parents[1]
PAGES = sorted((ROOT / "manual").rglob("*.md"))


def blocks(kind: str) -> list[tuple[str, str]]:
    return [(page.stem, found) for page in PAGES for found in re.findall(
        rf"```{kind}\n(.*?)```", page.read_text(encoding="utf-8"), re.S)]


@pytest.mark.parametrize(("page", "code"), blocks("python"))
def test_code_runs(
    page: str, code: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    exec(compile(code, page, "exec"), {})


def unknown(data: Any, schema: dict[str, Any], whole: dict[str, Any], at: str) -> list[str]:
    """Keys that no schema on the way knows."""
    options = [schema]
    for _ in range(4):  # references and choices, a few deep
        options = [inner for one in options for inner in (
            [whole["$defs"][one["$ref"].split("/")[-1]]] if "$ref" in one else
            [one] if "properties" in one or not {"anyOf", "oneOf"} & set(one) else
            one.get("anyOf", []) + one.get("oneOf", []))]
    if isinstance(data, list):
        items = [one["items"] for one in options if isinstance(one.get("items"), dict)]
        return [x for k, part in enumerate(data) for x in (
            min((unknown(part, i, whole, f"{at}[{k}]") for i in items), key=len, default=[]))]
    if not isinstance(data, dict):
        return []
    found = []
    for key, value in data.items():
        inner = [one["properties"][key] for one in options if key in one.get("properties", {})]
        inner += [one["additionalProperties"] for one in options
                  if isinstance(one.get("additionalProperties"), dict)]
        if not inner:
            found.append(f"{at}.{key}")
            continue
        found += min((unknown(value, i, whole, f"{at}.{key}") for i in inner), key=len)
    return found


@pytest.mark.parametrize(("page", "text"), blocks("toml"))
def test_keys_are_known(page: str, text: str) -> None:
    schema = project_model("asce7-16", None).model_json_schema()
    assert unknown(tomllib.loads(text), schema, schema, page) == []


@pytest.mark.parametrize(("page", "line"), [
    (page, line.split("#")[0].strip()) for page, text in blocks("") for line in text.splitlines()
    if line.startswith("undatum ") and "WHAT" not in line])
def test_commands_and_options_exist(page: str, line: str) -> None:
    group: Any = typer.main.get_command(app)
    name, *rest = shlex.split(line)[1:]
    command = group.commands[name]
    known = {opt for one in command.params if one.param_type_name == "option" for opt in one.opts}
    assert {word for word in rest if word.startswith("--")} <= known


def test_links_lead_somewhere() -> None:
    made = {"reference/criteria.md", "reference/keys.md", "concepts/conventions.md",
            "concepts/load_sets.png"}
    for page in PAGES:
        for target in re.findall(r"\]\(([^)#]+)", page.read_text(encoding="utf-8")):
            place = (page.parent / target).resolve().relative_to(ROOT / "manual")
            assert (ROOT / "manual" / place).exists() or str(place) in made, (page, target)
    index = (ROOT / "manual" / "index.md").read_text(encoding="utf-8")
    assert all(f"how-to/{p.stem}\n" in index for p in PAGES if p.parent.name == "how-to")
