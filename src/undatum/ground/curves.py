"""Spectra from files: one curve, or one for each of several damping ratios."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from undatum.errors import Fault, InputError
from undatum.ground.spectrum import Before, Beyond, Interpolation, TabulatedSpectrum
from undatum.textfile import csv_rows, read_text
from undatum.units import factor

_HEAD = re.compile(r"\s*([^(\[]+?)\s*[\(\[]\s*([^)\]]+)\s*[\)\]]\s*")
_ROW = re.compile(r"spectrum row (\d+)")
_PERCENT = re.compile(r"(\d+(?:\.\d+)?)\s*%")
EXAMPLE = "write a first line such as: period (s), acceleration (g)"


@dataclass(frozen=True, slots=True)
class DampingCurves:
    """Tabulated spectra by damping ratio, all with the same periods."""

    name: str
    curves: Mapping[float, TabulatedSpectrum]

    def at(self, damping: float) -> TabulatedSpectrum:
        """The curve for one damping ratio, between two given ones a straight line in ln(damping).

        Raises InputError outside the range of the curves: nothing is extrapolated.
        """
        given = sorted(self.curves)
        near = min(given, key=lambda z: abs(z - damping))
        if abs(near - damping) <= 1e-9:
            return self.curves[near]
        if not given[0] < damping < given[-1]:
            said = ", ".join(f"{z:.3g}" for z in given)
            raise InputError([Fault(
                f"spectrum file {self.name}", f"has curves for damping {said}; {damping:.3g} lies "
                "outside", "give a curve for it")])
        high = int(np.searchsorted(given, damping))
        low_z, high_z = given[high - 1], given[high]
        low, top = self.curves[low_z], self.curves[high_z]
        share = np.log(damping / low_z) / np.log(high_z / low_z)
        a, b = np.asarray(low.ordinates), np.asarray(top.ordinates)
        return TabulatedSpectrum(
            f"{self.name}, between {low_z:.3g} and {high_z:.3g} damping", low.periods,
            tuple(float(v) for v in a + share * (b - a)), damping, low.interpolation, low.beyond,
            low.before)


def read_spectrum(
    path: str | Path, *, damping: float = 0.05, interpolation: Interpolation = "linear",
    beyond: Beyond = "refuse", before: Before = "refuse",
) -> TabulatedSpectrum:
    r"""Read a spectrum from a CSV file with the units in its header, as in ``period (s), Sa (g)``.

    The first column is the period, the second the pseudo-acceleration. Columns that name a
    percentage, such as ``2 % (g), 5 % (g)``, are curves by damping and are read at ``damping``,
    interpolated between the nearest two. Lines starting with ``#`` are passed over. Raises
    InputError naming the file and the line.

    >>> path = folder / "site.csv"
    >>> _ = path.write_text("period (s), Sa (g)\n0.1, 0.5\n1.0, 0.5\n2.0, 0.25\n")
    >>> round(float(ud.read_spectrum(path)(1.5)) / 9.80665, 3)
    0.375
    """
    return read_curves(
        path, damping=damping, interpolation=interpolation, beyond=beyond, before=before
    ).at(damping)


def read_curves(
    path: str | Path, *, damping: float = 0.05, interpolation: Interpolation = "linear",
    beyond: Beyond = "refuse", before: Before = "refuse",
) -> DampingCurves:
    r"""All curves of a file; a single one without a percentage in its header is for ``damping``.

    >>> path = folder / "curves.csv"
    >>> _ = path.write_text("period (s), 2 % (g), 5 % (g)\n0.1, 0.7, 0.5\n2.0, 0.7, 0.5\n")
    >>> len(ud.read_curves(path).curves)
    2
    """
    path = Path(path)
    name = path.name

    def wrong(line: int | None, message: str, cure: str = "") -> InputError:
        return InputError([Fault(f"spectrum file {name}", message, cure, line)])

    def plain(message: str, cure: str) -> InputError:
        return wrong(None, message, cure)

    rows = csv_rows(read_text(path, plain), plain)
    if not rows:
        raise wrong(None, "is empty", EXAMPLE)
    head_line, head = rows[0]
    matches = [m for cell in head if (m := _HEAD.fullmatch(cell))]
    if len(matches) < 2 or len(matches) != len(head):
        raise wrong(head_line, f"the header {','.join(head)!r} names no units", EXAMPLE)
    percents = [_PERCENT.search(m[1]) for m in matches[1:]]
    if len(percents) > 1 and not all(percents):
        raise wrong(head_line, f"the header {','.join(head)!r} does not say which curve is for "
                    "which damping", "name the columns such as: period (s), 2 % (g), 5 % (g)")
    try:
        sizes = [factor(m[2].strip(), "time" if i == 0 else "acceleration")
                 for i, m in enumerate(matches)]
    except ValueError as error:
        raise wrong(head_line, str(error), EXAMPLE) from None
    values: list[list[float]] = []
    for number, row in rows[1:]:
        try:
            values.append([float(cell) * size for cell, size in zip(row, sizes, strict=True)])
        except ValueError:
            raise wrong(number, f"{','.join(row)!r} is not a period and "
                        f"{'an ordinate' if len(head) == 2 else 'its ordinates'}",
                        "a number for every column of the header") from None
    columns = list(zip(*values, strict=True)) if values else [()] * len(head)
    dampings = [float(p[1]) / 100 if p else damping for p in percents]
    if len(set(dampings)) != len(dampings) or min(dampings) <= 0:
        raise wrong(head_line, "two curves are for the same damping, or one is for none",
                    "give each curve its own damping above zero")
    try:
        return DampingCurves(name, {
            z: TabulatedSpectrum(name, tuple(columns[0]), tuple(ordinates), z, interpolation,
                                 beyond, before)
            for z, ordinates in zip(dampings, columns[1:], strict=True)
        })
    except InputError as error:
        raise InputError([
            replace(f, line=rows[int(at[1])][0]) if (at := _ROW.fullmatch(f.place)) else f
            for f in error.faults], source=name) from None
