"""Make docs/project-file.md and the published schemas from the models.

Run with --check to see whether they are current without writing anything.
"""

from __future__ import annotations

import json
import re
import sys
import tomllib
from pathlib import Path
from typing import Any

from undatum.job.entry import run
from undatum.project.project_file import shipped_project, starter_by, validate
from undatum.project.schema import criteria_schema, json_schema
from undatum.project.starter_sites import SITES
from undatum.report.files import results_schema
from undatum.results.results import Results
from undatum.service import application
from undatum.standards import shipped
from undatum.standards.left import ALWAYS
from undatum.units import DIMENSIONS, SYSTEMS, UnitSystem

DOCS = Path(__file__).parent.parent / "docs"

HEAD = """# The project file

A project is one TOML file. This page is made from the schema (`undatum schema`), so it cannot
disagree with the program; run `make docs` to renew it.

A plain number is in the unit system named by `units`. Any value with a dimension may carry its own
unit as text: `"12 ft"`, `"12 ft 6 in"`, `"3.2 kPa"`, `"80 psf"`, `"5 %"`. A key that is not listed
here is an error, with the nearest known key in the message. `undatum check PROJECT` names every
fault at once, with its line.
"""


def kind(node: dict[str, Any], definitions: dict[str, Any]) -> str:
    """A schema node in words."""
    if "$ref" in node:
        name = words(node["$ref"])
        return f"table, see [{name}](#{name.lower()})"
    if "x-dimension" in node:
        return str(node["x-dimension"])
    if "const" in node:
        return repr(node["const"])
    if "enum" in node:
        return ", ".join(f"`{json.dumps(v)}`" for v in node["enum"])
    for key in ("anyOf", "oneOf"):
        if key in node:
            parts = [kind(n, definitions) for n in node[key] if n.get("type") != "null"]
            return " or ".join(dict.fromkeys(parts))
    if node.get("type") == "array":
        if "prefixItems" in node:
            each = [kind(n, definitions) for n in node["prefixItems"]]
            return f"[{', '.join(each)}]"
        return "list of " + kind(node["items"], definitions)
    if node.get("type") == "object" and "additionalProperties" in node:
        inner = node["additionalProperties"]
        return "named: " + kind(inner, definitions) if isinstance(inner, dict) else "table"
    found = node.get("type", "any")
    names = {"string": "text", "boolean": "true or false", "integer": "whole number"}
    return "text" if isinstance(found, list) else names.get(found, found)


def words(reference: str) -> str:
    return reference.rsplit("/", 1)[-1]


def table(node: dict[str, Any], definitions: dict[str, Any]) -> list[str]:
    required = set(node.get("required", ()))
    lines = ["| key | what | value | default |", "| --- | --- | --- | --- |"]
    for name, part in node["properties"].items():
        default = "required" if name in required else json.dumps(part.get("default"))
        if default in ("null", '""', "[]", "{}") or (default.startswith("{") and len(default) > 2):
            default = ""
        text = part.get("description", "").replace("|", "\\|")
        lines.append(f"| `{name}` | {text} | {kind(part, definitions)} | {default} |")
    return lines


def project_page() -> str:
    parts = [HEAD]
    written: dict[str, str] = {}
    for key, standard in shipped().items():
        schema = json_schema(key)
        definitions = schema["$defs"]
        if not written:
            parts.append("## The whole file\n\n" + "\n".join(table(schema, definitions)))
        also = ", ".join(f"`{k}`" for k in standard.also)
        fresh = {n: d for n, d in definitions.items() if written.get(n) != json.dumps(d)}
        if written and fresh:
            parts.append(f"## {standard.title}: what differs in the file")
        parts.append(f'`standard = "{key}"` is {standard.title}'
                     + (f", also reached as {also}." if also else "."))
        for name, node in fresh.items():
            written[name] = json.dumps(node)
            body = next((n for n in node.get("anyOf", []) if "properties" in n), node)
            lead = " ".join(body.get("description", "").split()).replace("``", "`")
            lead = lead.split(" Raises InputError")[0]
            parts.append(f"### {name}\n\n{lead}\n\n" + "\n".join(table(body, definitions)))
    rows = ["| dimension | " + " | ".join(f"`{s}`" for s in SYSTEMS) + " | example |",
            "| --- |" + " --- |" * (len(SYSTEMS) + 1)]
    for dimension, (_, example) in DIMENSIONS.items():
        shown = []
        for system in SYSTEMS:
            u = UnitSystem(system)
            bare, out = u.label(dimension, coherent=True), u.label(dimension)
            shown.append(bare if bare == out else f"{bare}, shown in {out}")
        rows.append(f"| {dimension} | " + " | ".join(shown) + f" | `{example}` |")
    parts.append("## Units of plain numbers\n\n" + "\n".join(rows))
    return "\n\n".join(parts).rstrip() + "\n"


def criteria_page() -> str:
    schema = criteria_schema()
    definitions = schema.get("$defs", {})
    parts = [CRITERIA, "## The whole file\n\n" + "\n".join(table(schema, definitions))]
    for name, node in definitions.items():
        if "properties" in node:
            lead = " ".join(node.get("description", "").split()).replace("``", "`")
            parts.append(f"### {name}\n\n{lead}\n\n" + "\n".join(table(node, definitions)))
    return "\n\n".join(parts).rstrip() + "\n"


CRITERIA = """# Criteria of your own

A TOML file that a project names in place of a standard: `standard = "criteria.toml"`. This page is
made from the schema (`undatum schema --criteria`). `examples/owner` holds one that runs. Plain
accelerations are in g, periods in s, heights in formulas in m; lengths may carry their unit as
text.
"""


COVERAGE = """# What is judged, and what is left to you

Made from the code (`make docs`), so it cannot disagree with the program. What is judged was met in
runs of the projects that ship, one under each standard at least: checks by the clause of their
finding, and what is worked out by its section. What is left is what every record names in its last
chapter. A check that was not met in these runs may bind in another building; its finding then says
so.
"""


def bank() -> dict[str, list[Results]]:
    """Runs of what ships, by standard."""
    found: dict[str, list[Results]] = {}
    starters = [validate(tomllib.loads(starter_by(key, "x.toml")))[0] for key in SITES]
    for project in (*map(shipped_project, ("archive", "clinic", "starter", "clinic_frames",
                                           "terrace")), *starters):
        assert project is not None
        found.setdefault(project.standard, []).append(run(project))
    return found


def coverage_page() -> str:
    parts, runs = [COVERAGE], bank()
    for key, standard in shipped().items():
        rows = ["| clause | rule | |", "| --- | --- | --- |"]
        judged: dict[str, set[str]] = {}
        for results in runs[key]:
            for one in results.findings:
                if one.clause and "not judged" not in one.check and \
                        not one.clause.startswith(("analysis.", "irregularities")):
                    name = re.sub(r"(,? (X|Y)\b.*|, resultant)$", "", one.check)
                    judged.setdefault(name, set()).add(one.clause)
            for section in results.working:
                clauses = {step.clause for step in section.steps if step.clause[:1].isdigit()}
                judged.setdefault(section.key.kind, set()).update(clauses)
        rows += [f"| {'; '.join(sorted(clauses))} | {name} | judged |"
                 for name, clauses in sorted(judged.items())]
        rows += [f"| {one.clause} | {one.rule} | " + (
            f"stated in `{one.stated}`" if one.stated else "left") + f": {one.why} |"
            for one in (*standard.left, *ALWAYS)]
        parts.append(f"## {standard.title}\n\n" + "\n".join(rows))
    return "\n\n".join(parts).rstrip() + "\n"


def main() -> int:
    pages = {
        DOCS / "coverage.md": coverage_page(),
        DOCS / "criteria.md": criteria_page(),
        DOCS / "schema" / "criteria.schema.json":
            json.dumps(criteria_schema(), indent=2, ensure_ascii=False) + "\n",
        DOCS / "project-file.md": project_page(),
        DOCS / "schema" / "hazard-service.openapi.json":
            json.dumps(application(None, "").openapi(), indent=2) + "\n",
        DOCS / "schema" / "results.schema.json": json.dumps(results_schema(), indent=2) + "\n",
        **{DOCS / "schema" / f"project.{key}.schema.json":
           json.dumps(json_schema(key), indent=2, ensure_ascii=False) + "\n" for key in shipped()},
    }
    stale = [p for p, text in pages.items()
             if not p.exists() or p.read_text(encoding="utf-8") != text]
    if "--check" in sys.argv:
        for path in stale:
            print(f"{path.relative_to(DOCS.parent)} is out of date: run make docs")
        return 1 if stale else 0
    for path, text in pages.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8", newline="\n")
    print(f"{len(stale)} of {len(pages)} pages renewed")
    return 0


if __name__ == "__main__":
    sys.exit(main())
