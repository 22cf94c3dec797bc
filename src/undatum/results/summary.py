"""The summary of a run: what the terminal shows and a notebook prints."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from undatum.finding import counted
from undatum.stages.own_values import replaced_lines
from undatum.standards.common import scaled
from undatum.standards.terms import DIRECTIONS
from undatum.table import number_text

if TYPE_CHECKING:
    from undatum.results.found import Found


def said_force(results: Found, value: float) -> str:
    """A force in the units of the project."""
    return f"{number_text(results.units.show(value, 'force'))} {results.units.label('force')}"


def summary_of(results: Found) -> list[tuple[str, str]]:
    """The summary: pairs of heading and text."""
    lines = [("Site", f"{results.standard_title}, {results.site.summary}")]
    if any(results.shaking.horizontal[d] != results.site.spectrum for d in results.directions):
        compared = []
        for d in results.directions:
            used = results.shaking.horizontal[d]
            t = results.modes.periods[results.modes.governing(DIRECTIONS.index(d))]
            ratio = float(used(t)) / max(float(results.site.spectrum(t)), 1e-300)
            compared.append(f"{ratio:.2f} times its ordinate at {t:.3f} s in {d}")
        names = dict.fromkeys(results.shaking.horizontal[d].name for d in results.directions)
        lines.append(("Spectrum", f"{' and '.join(names)} in place of the standard's: "
                      f"{', '.join(compared)}"))
    w = results.weights
    per_area = w.total / float(w.areas[w.weight > 0].sum())
    lines.append((
        "Weight",
        f"W = {said_force(results, w.total)}, "
        f"{number_text(results.units.show(per_area, 'area load'), 3)} "
        f"{results.units.label('area load')} of floor",
    ))
    kinds = results.modes.kinds
    lines.append((
        "Periods",
        ", ".join(f"{t:.3f} s ({k})" for t, k in
                  zip(results.modes.periods[:3], kinds[:3], strict=True))
        + f"; {results.modes.kept} mode"
        + (" carries " if results.modes.kept == 1 else "s carry ")
        + ", ".join(f"{c:.1%} in {d}" for c, d in zip(
            results.modes.cumulative[results.modes.kept - 1, :2], DIRECTIONS, strict=True)
            if d in results.directions),
    ))
    for d in results.directions:
        static = results.statics[d, results.strength.key].shear
        dynamic = next(r for r in results.dynamic if r.direction == d)
        scale = [f"on {scaled(s.state)} {s.answer.factor:.3f}" for s in results.scaling
                 if s.direction == d]
        lines.append((
            f"Base shear {d}",
            f"static {said_force(results, static.base_shear)} ({static.coefficient:.4f} W, "
            f"{static.governing}), spectrum {said_force(results, dynamic.base_shear)}; "
            f"factor {', '.join(scale)}",
        ))
    for d in results.directions:
        c = DIRECTIONS.index(d)
        s, point, i = results.drift.governing(c)
        use = float(results.drift.use[s, point, i, c])
        limit = float(results.drift.limits[c])
        held = f"against {limit:.4f} ({use:.0%})" if np.isfinite(limit) else "without a limit"
        barred = results.drift.barred[c] and results.drift.deciding(c) == "spectrum"
        lines.append((
            f"Drift {d}",
            f"{results.drift.ratios[s, point, i, c]:.4f} {held}: story {results.drift.levels[i]}, "
            f"{results.drift.points[point]}, {results.drift.sets[s]}"
            + ("; the static procedure is not permitted" if barred else ""),
        ))
    own = dict.fromkeys(
        f"{step.symbol} in {section.key.direction}" if section.key.direction else step.symbol
        for section, step in replaced_lines(results.working))
    if own:
        lines.append(("Own values", f"{', '.join(own)} in place of the standard's, see the "
                      "findings"))
    lines.append(("Findings", counted(results.findings)))
    return lines


def key_numbers_of(r: Found) -> dict[str, tuple[str, float | str | None]]:
    """What a reader asks first: weight, periods, base shears, what governs, the largest drift."""
    found: dict[str, tuple[str, float | str | None]] = {"standard": ("", r.standard_title),
                                "seismic weight": ("force", r.weights.total)}
    for k, period in enumerate(r.modes.periods[:3].tolist(), 1):
        found[f"period of mode {k}"] = ("time", period)
    for d in r.directions:
        shear = r.statics[d, r.strength.key].shear
        dynamic = next(x for x in r.dynamic if x.direction == d)
        found |= {f"period used in {d}": ("time", shear.period),
                  f"static base shear in {d}": ("force", shear.base_shear),
                  f"what governs it in {d}": ("", shear.governing),
                  f"base shear of the spectrum in {d}": ("force", dynamic.base_shear)}
        found |= {f"factor on {s.state.key} in {d}": ("ratio", s.answer.factor)
                  for s in r.scaling if s.direction == d}
    for d in r.directions:
        for key, check in r.drifts.items():
            s, p, i = check.governing(DIRECTIONS.index(d))
            said = "" if len(r.drifts) == 1 else f", {key}"
            found[f"largest drift over its limit in {d}{said}"] = (
                "ratio", float(check.use[s, p, i, DIRECTIONS.index(d)]))
            found[f"where, in {d}{said}"] = ("", f"story {r.model.levels[i]}, {check.points[p]}")
    return found
