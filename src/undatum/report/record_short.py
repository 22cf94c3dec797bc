"""The record in short: what a reader asks first, on a few sheets; and the base-shear sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from undatum.report.basis import add_basis, basis_of, facts_of_shears
from undatum.report.chapter import Chapter
from undatum.report.page import page, sheet
from undatum.report.record import band_chapter, member_chapters
from undatum.results.base_shear import BaseShears
from undatum.results.results import Results
from undatum.table import Table, column

MOST = 12  #: modes in the short record


def render_short(
    results: Results, pictures: Mapping[str, bytes], meta: Mapping[str, str],
    band: Table | None = None,
) -> str:
    """The page. Every text of the project is escaped."""
    found = [*short_chapters(results, pictures),
             *([] if band is None else [band_chapter(results, band)])]
    return page(results, "Calculation record in short", found, meta, "short")


def shows(picture: str) -> bool:
    """Whether the short record has a picture, by its name."""
    return picture in ("spectrum", "story_shears", "drift") or picture.startswith("extremes_")


def short_chapters(results: Results, pictures: Mapping[str, bytes]) -> list[Chapter]:
    """Spectrum, weight, modes, base shear, scaling, drift, second order and combinations."""
    u = results.units
    site = Chapter("Site and design spectrum")
    site.add_picture("spectrum", pictures["spectrum"],
                     f"Design spectrum and first modes, {u.label('acceleration')} over s.")
    building = Chapter("Seismic weight")
    building.add_table(results.table("weight_levels"), u)
    modes = Chapter("Modes")
    table, heavy = results.modes.table(), results.modes.mass_ratios[: results.modes.kept]
    most = set(np.argsort(-heavy.max(axis=1), kind="stable")[:MOST].tolist())
    modes.add_table(replace(
        table.where([k in most for k in range(len(table))]),
        title="Modes in use" if len(heavy) <= MOST else
        f"The {MOST} modes that carry most, of {len(heavy)} in use"), u)
    static = Chapter("Static forces")
    _add_shears(static, results.base_shears)
    dynamic = Chapter("Spectrum analysis", f"Modes combined by "
                      f"{results.spectrum_sets[0].combine.how}.")
    dynamic.add_table(results.table("scaling"), u)
    dynamic.add_picture("story_shears", pictures["story_shears"],
                        f"Story shears, {u.label('force')}, static against spectrum, for "
                        f"{results.strength.key}.")
    drift = Chapter("Story drift")
    for check in results.drifts.values():
        for c in (c for c in check.shown if c < 2):
            drift.add_table(check.envelope(c), u)
    drift.add_table(worst_stability(results), u)
    drift.add_picture("drift", pictures["drift"], "Design drift over story height, percent, "
                      "against the limit, sets for drift.")
    found = [basis_of(results), site, building, modes, static, dynamic, drift]
    if results.combinations is not None:
        loads = Chapter("Load combinations")
        loads.add_table(results.table("load_combinations"), u)
        found.append(loads)
    return [*found, *member_chapters(results, pictures, "extremes")]


def worst_stability(results: Results) -> Table:
    """The story with the largest stability coefficient of every check."""
    rows = [(s, int(np.argmax(s.answer.coefficient))) for s in results.stability if s.levels]
    return Table(
        "stability_worst", "P-Delta, the story that governs",
        (
            column("direction", "", [s.direction for s, _ in rows]),
            column("analysis", "", [s.method for s, _ in rows]),
            column("story", "", [s.levels[i] for s, i in rows]),
            column("stability coefficient", "ratio",
                   [float(s.answer.coefficient[i]) for s, i in rows]),
            column("limit", "ratio", [s.answer.limit for s, _ in rows]),
            column("amplification", "ratio",
                   [float(s.answer.amplification[i]) for s, i in rows]),
            column("verdict", "", [s.verdicts[i] for s, i in rows]),
        ),
        marks=tuple(k for k, (s, i) in enumerate(rows) if s.exceeded[i]),
    )


def base_shear_sheet(found: BaseShears, meta: Mapping[str, str]) -> str:
    """One page to print: period and why, ordinate, coefficient, weight, base shear, forces."""
    chapters = [Chapter("")]
    add_basis(chapters[0], facts_of_shears(found), found.working, found.units)
    _add_shears(chapters[0], found)
    return sheet(found, chapters, meta)


def _add_shears(chapter: Chapter, found: BaseShears) -> None:
    """The forces by level that differ; how the base shears came about stands in the basis."""
    for table in found.by_level():
        chapter.add_table(table, found.units)
