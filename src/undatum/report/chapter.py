"""Chapters of a record: lead, tables, pictures and working line by line."""

from __future__ import annotations

import base64
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from markupsafe import Markup, escape

from undatum.report.formula import formula, math, numbers_of, symbol
from undatum.table import Table, number_text
from undatum.units import UnitSystem
from undatum.working import Section, Step

SHORT, BRIEF = 14, 9  # rows of a table that stays on one page, in full and in short form
WIDE, HALF, GAP, LETTER = 1000, 460, 9, 6  # pixels: of a line, between columns, of a letter


@dataclass
class Chapter:
    """A chapter: a lead sentence, then tables, pictures and working in order."""

    title: str
    lead: str = ""
    parts: list[dict[str, Any]] = field(default_factory=list)

    def add_table(self, table: Table, units: UnitSystem) -> None:
        """A table: not broken over pages where it is short, nor its cells where they fit."""
        rows = table.text_rows(units)
        width = sum(GAP + LETTER * max(map(len, cells)) for cells in zip(*rows, strict=True))
        self.parts.append({
            "kind": "table", "title": table.title, "note": table.note,
            "heads": table.heads(units), "rows": rows,
            "classes": " ".join(name for name, fits in (
                ("whole", len(rows) <= SHORT), ("brief", len(rows) <= BRIEF),
                ("narrow", width <= WIDE)) if fits),
            "beside": len(rows) > SHORT and width <= HALF,
            "marks": set(table.marks),
            "numeric": [bool(c.dimension) for c in table.columns],
        })

    def add_text(self, title: str, text: str) -> None:
        self.parts.append({"kind": "text", "title": title, "text": text})

    def add_picture(self, name: str, data: bytes, caption: str) -> None:
        self.parts.append({
            "kind": "picture", "caption": caption,
            "source": Markup("data:image/png;base64," + base64.b64encode(data).decode()),
        })

    def add_working(
        self, section: Section, units: UnitSystem, levels: Mapping[int, Sequence[str]]
    ) -> None:
        """Working line by line; lines worked for every level are followed by their table.

        ``levels`` holds the names of the levels by how many there are.
        """
        lines = [_line(step, units) for step in section.steps]
        many = [s for s in section.steps if isinstance(s.value, tuple)]
        rows = list(zip(*([number_text(float(v)) for v in _shown(s, units)] for s in many),
                        strict=False))
        own = next((s.rows for s in many if s.rows), ())
        names = own or levels.get(len(rows), [""] * len(rows))
        rows = [(name, *row) for name, row in zip(names, rows, strict=True)]
        more = f", {section.key.item}" if section.key.kind == "separation" else ""
        self.parts.append({
            "kind": "working", "title": section.title + more, "lines": lines,
            "first": "wall" if own else "level",
            "heads": [Markup(math(symbol(s.symbol))) + _unit_text(s, units) for s in many],
            "rows": rows,
        })


_SYMBOL = re.compile(r"\b(S|T|C|A|F|V|I|MCE)_(DS|D1|S|1|L|s|u|a|x|v|t|e|n|R)\b")


def typeset(text: str) -> Markup:
    """Escape a text and set the symbols of the standards in it: S_DS, T_L, C_s."""
    return Markup(_SYMBOL.sub(r"<i>\1</i><sub>\2</sub>", str(escape(text))))


def _shown(step: Step, units: UnitSystem) -> tuple[float, ...]:
    shown = step.shown(units)
    return shown if isinstance(shown, tuple) else ()


def _unit_text(step: Step, units: UnitSystem) -> str:
    unit = step.unit_label(units)
    return f" ({unit})" if unit else ""


def _line(step: Step, units: UnitSystem) -> dict[str, Any]:
    """A line of the working: symbol and formula, the formula in numbers below it, the value."""
    shown = step.shown(units)
    many = isinstance(shown, tuple)
    first = shown[0] if isinstance(shown, tuple) else shown
    if isinstance(first, str):
        value = first
    else:  # a given value as it was given, a worked one to five digits
        value = number_text(float(first), 5) if step.formula else f"{float(first):.6g}"
    numbers = numbers_of(step, units) if step.formula else {}
    equals = "<mo>=</mo>"
    inner = f"<mrow>{symbol(step.symbol)}</mrow>"
    if step.formula:
        inner += f"{equals}<mrow>{formula(step.formula)}</mrow>"
    return {
        "meaning": step.meaning + ("" if not many else f" ({step.rows[0]}; all below)"
                                   if step.rows else " (top level; all levels below)"),
        "math": Markup(math(inner)),
        "numbers": Markup(math(f"{equals}<mrow>{formula(step.formula, numbers)}</mrow>"))
        if numbers else "",
        "value": value,
        "unit": step.unit_label(units),
        "clause": step.clause,
        "branch": step.branch,
    }
