"""A family of variants as pictures, a page and a workbook."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure
from numpy.typing import NDArray

from undatum.report import workbook
from undatum.report.drawing import COLORS, INK, LIMIT, SOFT, as_written, new_figure, plain, settle
from undatum.report.figures import save
from undatum.report.files import csv_text, metadata
from undatum.report.page import filled
from undatum.results.exchange import placing
from undatum.table import Table, number_text
from undatum.variants.found import QUANTILES, FamilyResults, headed

Floats = NDArray[np.float64]
REPORT = "report"
DRAWN = 4000  # points of a scatter at most
PAIRS = 4  # parameters in the picture of pairs


def _title(quantity: str) -> str:
    return quantity[:1].upper() + quantity[1:]


@as_written
def distribution(found: FamilyResults) -> Figure:
    """The share of variants that stay below a value, for each main quantity, with the limit."""
    names = found.main
    use = found.uses[found.place(names[0])]
    figure = new_figure(7.6, 4.4, f"{found.title}: spread over {len(found)} variants")
    ax = figure.add_subplot()
    hues = (*COLORS.values(), INK, SOFT)
    for k, name in enumerate(names[:4]):
        values, _ = found.shown(name)
        own = np.sort(values[np.isfinite(values)])
        share = np.arange(1, own.size + 1) / own.size
        said = f", {float((own > 1).mean()):.1%} exceed" if use else ""
        ax.step(own, share, where="post", color=hues[k], linewidth=2,
                linestyle=("-", "--", "-.", ":")[k], label=f"{name}{said}")
    if use:
        ax.axvline(1.0, color=LIMIT, linewidth=1.4)
        ax.annotate("limit", (1.0, 0.02), xytext=(4, 0), textcoords="offset points", color=LIMIT,
                    fontsize=8)
    ax.set_ylim(0, 1.02)
    plain(ax, "share of the limit" if use else found.shown(names[0])[1],
          "share of variants below")
    figure.legend(*ax.get_legend_handles_labels(), frameon=False, fontsize=8, ncols=2,
                  loc="lower center")
    settle(figure, ["0.00"], label=True, bottom=1.0)
    return figure


@as_written
def against(found: FamilyResults, quantity: str) -> Figure:
    """A quantity against each parameter: every variant, with median and the middle two thirds."""
    use = found.uses[found.place(quantity)]
    shown, label = found.shown(quantity)
    count = max(len(found.parameters), 1)
    columns = min(count, 3)
    rows = -(-count // columns)
    figure = new_figure(3.7 * columns + 0.8, 2.9 * rows + 1.1,
                        f"{_title(quantity)} against what is varied")
    axes = np.atleast_1d(figure.subplots(rows, columns, sharey=True, squeeze=False).ravel())
    rng = np.random.default_rng(0)
    for ax, name, unit in zip(axes, found.parameters, found.parameter_units, strict=False):
        x, words = found.parameter(name), found.words_of(name)
        good = np.isfinite(x) & np.isfinite(shown)
        own = np.flatnonzero(good)
        if own.size > DRAWN:
            own = rng.choice(own, DRAWN, replace=False)
        jitter = rng.uniform(-0.12, 0.12, own.size) if words else 0.0
        over = shown[own] > 1 if use else np.zeros(own.size, dtype=bool)
        at = x[own] + jitter
        ax.plot(at[~over], shown[own][~over], ".", color=COLORS["X"], markersize=3, alpha=0.5)
        ax.plot(at[over], shown[own][over], "x", color=LIMIT, markersize=3.5, alpha=0.7)
        _band(ax, found, quantity, name)
        if words:
            ax.set_xticks(range(len(words)), [w or "as it is" for w in words])
            ax.set_xlim(-0.5, len(words) - 0.5)
        if use:
            ax.axhline(1.0, color=LIMIT, linewidth=1.2)
        plain(ax, headed(name, unit), label if ax in axes[::columns] else "")
    for ax in axes[len(found.parameters):]:
        ax.axis("off")
    settle(figure, ["0.00"], columns=columns, rows=rows, label=True, bottom=0.75)
    return figure


def _band(ax: Axes, found: FamilyResults, quantity: str, name: str) -> None:
    table, words = found.against(quantity, name), found.words_of(name)
    by = {c.name: c for c in table.columns}
    median, low, high = (np.array(by[f"{q:.0%}"].cells, dtype=float) / found.size(quantity)
                         for q in (QUANTILES[2], QUANTILES[1], QUANTILES[3]))
    at = table.columns[0].cells
    x = np.array([words.index(str(v)) for v in at] if words else at, dtype=float)
    if words:
        ax.vlines(x, low, high, color=INK, alpha=0.35, linewidth=7)
    elif len(x) > 1:
        ax.fill_between(x, low, high, color=INK, alpha=0.12, linewidth=0)
    ax.plot(x, median, "o" if words else "-o", color=INK, linewidth=1.6, markersize=3.5)


@as_written
def tornado(found: FamilyResults, quantity: str) -> Figure:
    """The mean of a quantity where each parameter is low and where it is high, widest first."""
    table = found.influence(quantity)
    by = {c.name: list(c.cells) for c in table.columns}
    low, high = (np.array(by[key], dtype=float) / found.size(quantity) for key in (
        "mean where low", "mean where high"))
    use = found.uses[found.place(quantity)]
    shown, label = found.shown(quantity)
    middle = float(np.nanmean(shown))
    n = len(low)
    figure = new_figure(7.6, 1.7 + 0.42 * n, f"What matters for {quantity}")
    ax = figure.add_subplot()
    y = np.arange(n)[::-1]
    ax.barh(y, low - middle, left=middle, height=0.55, color=COLORS["X"], label="low")
    ax.barh(y, high - middle, left=middle, height=0.55, color=COLORS["Y"], label="high")
    ax.axvline(middle, color=INK, linewidth=1)
    if use:
        ax.axvline(1.0, color=LIMIT, linewidth=1.4, linestyle="--")
    names = [f"{a}\n{b}" for a, b in zip(by["parameter"], by["low and high"], strict=True)]
    ax.set_yticks(y, names, fontsize=8)
    plain(ax, f"mean of {label}; mean of all {number_text(middle, 3)}", "")
    figure.legend(*ax.get_legend_handles_labels(), frameon=False, fontsize=8, ncols=2,
                  loc="lower right")
    lines = [part for name in names for part in name.split("\n")]
    settle(figure, lines, bottom=0.75)
    return figure


@as_written
def pairs(found: FamilyResults, quantity: str) -> Figure:
    """Parameters two by two, colored by a quantity; what exceeds a limit is crossed."""
    names = found.parameters[:PAIRS]
    use = found.uses[found.place(quantity)]
    shown, label = found.shown(quantity)
    n = len(names) - 1
    figure = new_figure(2.6 * n + 2.2, 2.4 * n + 1.2, f"{_title(quantity)} by pairs")
    axes = figure.subplots(n, n, squeeze=False)
    good = np.isfinite(shown)
    dots: Any = None
    for r in range(n):
        for c in range(n):
            ax = axes[r][c]
            if c > r:
                ax.axis("off")
                continue
            x, y = found.parameter(names[c]), found.parameter(names[r + 1])
            dots = ax.scatter(x[good], y[good], c=shown[good], s=9, cmap="cividis",
                              vmin=np.nanmin(shown), vmax=np.nanmax(shown))
            if use:
                over = good & (shown > 1)
                ax.plot(x[over], y[over], "x", color=LIMIT, markersize=4, markeredgewidth=0.8)
            for axis, name in (("x", names[c]), ("y", names[r + 1])):
                words = found.words_of(name)
                if words:
                    getattr(ax, f"set_{axis}ticks")(range(len(words)), words)
            plain(ax, names[c] if r == n - 1 else "", names[r + 1] if c == 0 else "")
    settle(figure, ["0.000"], columns=n, rows=n, label=True, gap=0.55, row_gap=0.5, bottom=0.75,
           top=0.6)
    figure.subplots_adjust(right=1 - 1.1 / (2.6 * n + 2.2))
    bar = figure.add_axes((1 - 0.85 / (2.6 * n + 2.2), 0.25, 0.14 / (2.6 * n + 2.2), 0.5))
    figure.colorbar(dots, cax=bar)
    bar.set_title(label, fontsize=8, loc="right")
    return figure


def figures_of(found: FamilyResults, quantity: str) -> dict[str, Callable[[], Figure]]:
    """The pictures of a family by the names of their files."""
    made: dict[str, Callable[[], Figure]] = {
        "distribution": lambda: distribution(found),
        "against": lambda: against(found, quantity),
        "tornado": lambda: tornado(found, quantity)}
    if len(found.parameters) > 1:
        made["pairs"] = lambda: pairs(found, quantity)
    return made


CAPTIONS = {
    "distribution": "How many variants stay below a value; to the right of the limit they exceed.",
    "against": "Every variant, the median, and the middle two thirds; crosses exceed the limit.",
    "tornado": "The mean where a parameter is low and where it is high; the widest matters most.",
    "pairs": "Two parameters at a time; crosses exceed the limit."}


def write_family(
    found: FamilyResults, folder: str | Path, quantity: str, more: Sequence[Table] = ()
) -> list[Path]:
    """Tables (CSV), workbook, pictures and a page of a family, put into its folder ``report`` as
    one. ``quantity`` is what pictures show; ``more`` tables stand behind what matters for it.
    Raises InputError where nothing can be written, KeyError for a quantity that was not kept."""
    tables = [found.table(), found.spread(), found.influence(quantity), *more,
              *(_named(found.against(quantity, name), k)
                for k, name in enumerate(found.parameters, 1))]
    target = Path(folder) / REPORT
    with placing(target) as work:
        for table in tables:
            (work / f"{table.name}.csv").write_text(
                csv_text(table, found.units), encoding="utf-8", newline="")
        workbook.write(found.title, found.units, tables, work / "variants.xlsx")
        pictures = []
        for name, make in figures_of(found, quantity).items():
            save(make(), work / f"{name}.png")
            pictures.append((CAPTIONS[name], b64encode((work / f"{name}.png").read_bytes())
                             .decode("ascii")))
        shown = [{"title": t.title, "note": t.note, "heads": t.heads(found.units),
                  "numbers": [not isinstance(next(iter(c.cells), ""), str) for c in t.columns],
                  "rows": t.text_rows(found.units)} for t in tables[1:]]
        (work / "variants.html").write_text(filled(
            "variants.html.j2", title=found.title, story=story_of(found), tables=shown,
            pictures=pictures, quantity=quantity, meta=metadata()), encoding="utf-8", newline="\n")
    return [target / n for n in ("variants.html", "variants.xlsx", "variants.csv")]


def _named(table: Table, k: int) -> Table:
    return Table(f"{table.name}_{k}", table.title, table.columns, table.note, table.marks)


def story_of(found: FamilyResults) -> list[tuple[str, str]]:
    """What a family says first: pairs of heading and text."""
    done = sum(not f for f in found.failed)
    said = [("variants", f"{done} of {len(found)} run; {found.design} of "
             f"{', '.join(found.parameters)}")]
    for name in found.main:
        values, label = found.shown(name)
        own = values[np.isfinite(values)]
        low, middle, high = np.quantile(own, (0.05, 0.5, 0.95))
        text = f"{number_text(float(middle), 3)} in the median, {number_text(float(low), 3)} to " \
               f"{number_text(float(high), 3)} between 5 and 95 %"
        said.append((label, text + (f"; {float((own > 1).mean()):.1%} of the variants exceed"
                                    if found.uses[found.place(name)] else "")))
    if len(found) > done:
        first = next(f for f in found.failed if f)
        said.append(("not run", f"{len(found) - done}: {first.splitlines()[0][:160]}"))
    return said
