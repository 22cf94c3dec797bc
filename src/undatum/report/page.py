"""Pages to read and to print: one template, every text of the project escaped."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any, Literal

from jinja2 import Environment, PackageLoader
from markupsafe import Markup

from undatum.finding import findings_table
from undatum.report.chapter import Chapter, typeset
from undatum.results.base_shear import BaseShears
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces


def css_text(text: str) -> Markup:
    """A text as a string of a style sheet, whatever stands in it."""
    return Markup('"' + "".join(
        c if c.isalnum() or c in " .,:;()-" else f"\\{ord(c):x} " for c in text) + '"')


@cache
def _environment() -> Environment:
    found = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True,
                        loader=PackageLoader("undatum.report"))
    found.filters["typeset"] = typeset
    found.filters["css_text"] = css_text
    return found


def filled(template: str, **given: Any) -> str:
    """A page by its template, every text escaped."""
    return _environment().get_template(template).render(**given)


def page(
    results: Results | StackForces, name: str, chapters: Sequence[Chapter],
    meta: Mapping[str, str], form: Literal["full", "short"] = "full",
) -> str:
    """A record: title, story, findings, chapters. In ``short`` form the checks that hold are
    counted, not listed."""
    findings = findings_table(results.findings)
    return filled(
        "record.html.j2", results=results, name=name, project=results.project,
        story=results.summary(), form=form,
        findings=[dict(zip((c.name.replace(" ", "_") for c in findings.columns), row, strict=True))
                  for row in findings.text_rows(results.units)],
        chapters=chapters, meta=meta, units=results.units.name)


def sheet(found: BaseShears, chapters: Sequence[Chapter], meta: Mapping[str, str]) -> str:
    """A single sheet to print: a title and what it holds."""
    return filled(
        "sheet.html.j2", found=found, name="Static base shear", chapters=chapters, meta=meta,
        units=found.units.name)
