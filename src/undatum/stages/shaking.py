"""The design spectra of a job: the standard's, or from files, by direction and vertical."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np

from undatum.errors import Fault, InputError
from undatum.finding import Finding, Severity
from undatum.ground.curves import read_curves
from undatum.ground.spectrum import (
    CombinedSpectrum,
    LiftedSpectrum,
    PeriodScaledSpectrum,
    ScaledSpectrum,
    Spectrum,
)
from undatum.project.ways import SpectrumSource, SpectrumTable
from undatum.record import record
from undatum.standards.answers import SiteAnswer
from undatum.standards.contract import Ground
from undatum.standards.terms import DIRECTIONS, Direction
from undatum.table import Table, column, number_text
from undatum.working import Section, SectionKey, Working


@record
class Shaking:
    """Design spectra before reduction: one for each direction and, where there is one, vertical."""

    horizontal: Mapping[Direction, Spectrum]
    vertical: Spectrum | None
    working: tuple[Section, ...]
    findings: tuple[Finding, ...]


def shaking(
    table: SpectrumTable | None, modal: float, title: str, part: Ground, site: SiteAnswer,
    folder: Path | None,
) -> Shaking:
    """Read the files the project names and bring them to the damping and floor asked for.

    ``modal`` is the damping ratio of the modes, ``title`` that of the standard whose ``part``
    knows the site. Raises InputError where a file cannot be read, or the standard has no rule for
    what is asked.
    """
    findings: list[Finding] = []
    working: list[Section] = []
    sources = {d: table and (getattr(table, d) or table) for d in DIRECTIONS}
    horizontal: dict[Direction, Spectrum] = {
        d: site.spectrum if source is None or not source.names else _read(source, modal, folder)
        for d, source in sources.items()
    }
    given = dict(horizontal)
    own = {d: source for d, source in sources.items() if source is not None and source.names}
    compared: dict[Direction, Spectrum] = {}  # at the damping of the general spectrum
    if own:
        usual = site.spectrum.damping
        compared = {d: one for d, source in own.items()
                    if (one := _read(source, usual, folder)).damping == usual}
    if table is not None and table.site_specific:
        horizontal = _on_the_floor(horizontal, compared, title, part, site, working, findings)
        floor = part.floor(site)
        compared = compared if floor is None else {
            d: CombinedSpectrum(one.name, (one, floor.spectrum), "envelope")
            for d, one in compared.items()}
    findings += part.study(site, compared)
    if own:
        findings += [*_beside(own, given, site), *part.about_own_spectrum(site)]
    for d in DIRECTIONS:
        if horizontal[d].damping != modal and table is not None and table.adjust_damping:
            by_other = part.damping(modal) is None and table.adjust_damping == "EN 1998-1"
            horizontal[d] = _by_eta(horizontal[d], modal, title, working, findings) if by_other \
                else _adjusted(horizontal[d], modal, title, part, working)
    other = [d for d in DIRECTIONS if horizontal[d].damping != modal]
    if other:
        findings.append(_unadjusted(horizontal[other[0]], modal, other))
    if table is not None and table.factor is not None:
        horizontal = {d: ScaledSpectrum(f"{one.name}, times {table.factor:g}", one, table.factor)
                      for d, one in horizontal.items()}
        findings.append(Finding(
            "factor on the spectrum", "spectrum", Severity.NOTE,
            f"The horizontal ordinates are multiplied by {table.factor:g}: {table.factor_reason}. "
            "Static forces follow where the standard reads them off the spectrum.",
            "spectrum.factor"))
        if not 1 / FAR <= table.factor <= FAR:
            findings.append(Finding(
                "factor on the spectrum", "spectrum.factor", Severity.WARNING,
                f"A factor of {number_text(table.factor, 3)} is far from 1.", "",
                "If it is meant to convert units, state them in the header of the file.",
                table.factor, FAR if table.factor > 1 else 1 / FAR))
    vertical: Spectrum | None = None
    if table is not None and table.vertical is not None:
        vertical = _read(table.vertical, modal, folder)
    elif table is not None and table.vertical_share is not None:
        both = CombinedSpectrum("horizontal", tuple(horizontal.values()), "envelope")
        vertical = ScaledSpectrum(f"{table.vertical_share:g} of the horizontal", both,
                                  table.vertical_share)
    elif (answer := part.vertical(site)) is not None:
        vertical = answer.spectrum
        working.append(answer.working)
    return Shaking(horizontal, vertical, tuple({s.key: s for s in working}.values()),
                   tuple(findings))


#: Times an ordinate of the standard, or below it by as much, beyond which a spectrum is doubted.
FAR = 3.0


def _beside(
    own: Mapping[Direction, SpectrumSource], given: Mapping[Direction, Spectrum], site: SiteAnswer
) -> list[Finding]:
    """Ordinates given beside those of the standard's own spectrum, at the same periods."""
    found: dict[str, Finding] = {}
    for d in own:
        one, usual = given[d], site.spectrum
        t = np.linspace(max(one.first_period, usual.first_period, 0.05),
                        min(one.last_period, usual.last_period, 3.0), 60)
        if t[0] >= t[-1]:
            continue
        ratio = one(t) / np.maximum(usual(t), 1e-12)
        middle = float(np.median(ratio))
        doubt = not 1 / FAR <= middle <= FAR
        text = f"From {t[0]:.3g} to {t[-1]:.3g} s the ordinates of {one.name} are " \
            f"{number_text(float(ratio.min()), 3)} to {number_text(float(ratio.max()), 3)} times " \
            f"those of the standard, {number_text(middle, 3)} in the middle."
        found.setdefault(text, Finding(
            "spectrum beside the standard's", f"spectrum, direction {d}",
            Severity.WARNING if doubt else Severity.OK, text, "",
            "Is the unit in the header of the file right: g, or m/s2?" if doubt else "",
            middle, FAR if middle > 1 else 1 / FAR))
    return list(found.values())


def _read(source: SpectrumSource, damping: float, folder: Path | None) -> Spectrum:
    found: list[Spectrum] = []
    for name in source.names:
        curves = read_curves((folder or Path()) / name, damping=source.damping,
                             interpolation=source.interpolation, beyond=source.beyond,
                             before=source.before)
        one = len(curves.curves) == 1
        found.append(next(iter(curves.curves.values())) if one else curves.at(damping))
    if len(found) == 1:
        return found[0]
    if len({s.damping for s in found}) > 1:
        raise InputError([Fault("spectrum.files", "the files are for different damping ratios",
                                "give files for the same damping")])
    name = f"{source.of_several} of {', '.join(s.name for s in found)}"
    return CombinedSpectrum(name, tuple(found), source.of_several)


def _on_the_floor(
    given: dict[Direction, Spectrum], compared: Mapping[Direction, Spectrum], title: str,
    part: Ground, site: SiteAnswer, working: list[Section], findings: list[Finding],
) -> dict[Direction, Spectrum]:
    """The given spectra lifted to what the standard asks for at least.

    The floor is for its own damping, usually 5 %: the curve ``compared`` for that damping is held
    against it, and the ordinates of another are lifted by the same ratio.
    """
    floor = part.floor(site)
    if floor is None:
        findings.append(Finding(
            "site-specific spectrum", "spectrum", Severity.NOTE,
            f"{title} sets no lower bound on a site-specific spectrum.", "",
            "Check with the authority that accepts the study."))
        return given
    working.append(floor.working)
    lifted: dict[Direction, Spectrum] = {}
    for d, one in given.items():
        if d not in compared and one.damping != floor.spectrum.damping:
            lifted[d] = one
            findings.append(Finding(
                "site-specific spectrum", f"spectrum, direction {d}", Severity.WARNING,
                f"The lower bound is for {floor.spectrum.damping:.3g} damping, the curve given for "
                f"{one.damping:.3g}: they were not compared, and no ordinate was raised.",
                floor.clause, "Give curves for several damping ratios."))
            continue
        same = compared.get(d, one)
        t = np.linspace(max(one.first_period, same.first_period),
                        min(one.last_period, 5.0), 501)
        below = same(t) < floor.spectrum(t) * (1 - 1e-9)
        least = float(np.min(same(t) / floor.spectrum(t)))
        name = f"{one.name}, not below the floor"
        lifted[d] = CombinedSpectrum(name, (one, floor.spectrum), "envelope") \
            if one.damping == floor.spectrum.damping else \
            LiftedSpectrum(name, one, same, floor.spectrum)
        findings.append(Finding(
            "site-specific spectrum", f"spectrum, direction {d}",
            Severity.NOTE if below.any() else Severity.OK,
            f"The least ordinate is {least:.0%} of the floor; the floor holds over "
            f"{below.mean():.0%} of the periods up to {t[-1]:.3g} s.",
            floor.clause))
    return lifted


def _adjusted(
    spectrum: Spectrum, damping: float, title: str, part: Ground, working: list[Section]
) -> Spectrum:
    """Ordinates brought to the damping of the modes by the standard's own rule."""
    before, after = part.damping(spectrum.damping), part.damping(damping)
    if before is None or after is None:
        raise InputError([Fault(
            "spectrum.adjust_damping", f"{title} gives no rule to adjust a spectrum for "
            "buildings from one damping ratio to another",
            "give a file with curves for several damping ratios")])
    w = Working(SectionKey("damping", item=spectrum.name), f"Damping of {spectrum.name}")
    w.given("z_1", spectrum.damping, meaning="damping ratio of the ordinates", clause="project")
    w.given("z_2", damping, meaning="damping ratio of the modes", clause="project")
    for symbol, answer in (("eta_1", before), ("eta_2", after)):
        w.given(symbol, float(answer.factors[0]), meaning=answer.meaning, clause=answer.clause,
                branch=answer.branch)
    factor = w.compute("f_z", "eta_2 / eta_1", meaning="factor on the ordinates",
                       clause=after.clause)
    working += [a.working for a in (before, after) if len(a.working.steps) > 1]
    working.append(w.close())
    name = f"{spectrum.name}, adjusted to {damping:.3g} damping"
    if before.factors.size == after.factors.size == 1:
        return ScaledSpectrum(name, spectrum, factor, adjusted_to=damping)
    periods = np.union1d(before.periods, after.periods)
    factors = np.interp(periods, after.periods, after.factors) / np.interp(
        periods, before.periods, before.factors)
    return PeriodScaledSpectrum(name, spectrum, tuple(map(float, periods)),
                                tuple(map(float, factors)), damping)


def _by_eta(
    spectrum: Spectrum, damping: float, title: str, working: list[Section],
    findings: list[Finding],
) -> Spectrum:
    """Ordinates brought to the damping of the modes by EN 1998-1, where the standard has no rule.

    The factor holds from the first corner on and falls to 1 at a period of zero.
    """
    clause = "EN 1998-1, 3.2.2.2(3)"
    w = Working(SectionKey("damping", item=spectrum.name), f"Damping of {spectrum.name}")
    for symbol, value, of in (("1", spectrum.damping, "ordinates"), ("2", damping, "modes")):
        w.given(f"xi_{symbol}", 100 * value, meaning=f"damping of the {of}, percent",
                clause="project")
        w.compute(f"eta_{symbol}", f"max(sqrt(10 / (5 + xi_{symbol})), 0.55)", empirical=True,
                  meaning="damping correction factor", clause=clause)
    factor = w.compute("f_z", "eta_2 / eta_1", meaning="factor on the ordinates", clause=clause)
    working.append(w.close())
    if not any(f.check == "damping by another standard" for f in findings):
        findings.append(Finding(
            "damping by another standard", "spectrum", Severity.NOTE,
            f"{title} has no rule for {damping:.3g} damping; by choice of the project the "
            f"ordinates are multiplied by {factor:.4g} as in EN 1998-1.", clause))
    corners = [c for c in spectrum.corners.values() if c > 0]
    name = f"{spectrum.name}, adjusted to {damping:.3g} damping"
    if not corners:
        return ScaledSpectrum(name, spectrum, factor, adjusted_to=damping)
    return PeriodScaledSpectrum(name, spectrum, (0.0, min(corners)), (1.0, factor), damping)


def _unadjusted(spectrum: Spectrum, modal: float, directions: list[Direction]) -> Finding:
    """Ordinates are used as they are: say so where the modes are damped otherwise."""
    return Finding(
        "damping", f"spectrum, direction {', '.join(directions)}", Severity.WARNING,
        f"The spectrum is for {spectrum.damping:.3g} damping, the modes are combined at "
        f"{modal:.3g}. The ordinates are not adjusted.", "",
        "Set spectrum.adjust_damping where the standard has a rule, or give a file with curves for "
        "several damping ratios.", modal, spectrum.damping)


def site_table(site: SiteAnswer) -> Table:
    """Site parameters by symbol."""
    steps = [s for s in site.working.steps if not isinstance(s.value, tuple)]
    return Table(
        "site",
        "Site parameters",
        (
            column("symbol", "", [s.symbol for s in steps]),
            column("value", "", [s.value for s in steps]),
            column("unit", "", [s.unit for s in steps]),
            column("meaning", "", [s.meaning for s in steps]),
            column("clause", "", [s.clause for s in steps]),
        ),
    )


def spectrum_table(
    shaking: Shaking, reduced: Mapping[Direction, Spectrum], longest: float
) -> Table:
    """Design spectra before and after reduction, at round periods up to ``longest`` and corners."""
    ground, vertical = shaking.horizontal, shaking.vertical
    t = np.unique(np.concatenate([
        np.arange(0.0, 1.0, 0.05), np.arange(1.0, longest, 0.1),
        [c for one in ground.values() for c in one.corners.values() if c <= longest],
    ]).round(10))
    t = t[(t <= min(one.last_period for one in ground.values()))
          & (t >= max(one.first_period for one in ground.values()))]
    same = len(reduced) == 1 or ground["X"] == ground["Y"]
    first: tuple[Direction, ...] = tuple(reduced) if len(reduced) == 1 else DIRECTIONS
    up = None if vertical is None else [
        float(vertical(x)) if vertical.first_period <= x <= vertical.last_period else None
        for x in t]
    names = "; ".join(f"{d}: {one.name}" for d, one in (reduced or ground).items())
    return Table(
        "spectrum",
        "Design spectrum",
        (
            column("period", "time", t),
            *(column("acceleration" if same else f"acceleration, {d}", "acceleration",
                     ground[d](t)) for d in first[: 1 if same else 2]),
            *(column(f"reduced, {d}", "acceleration", one(t)) for d, one in reduced.items()),
            *([] if up is None else [column("vertical", "acceleration", up)]),
            *(column("displacement" if same else f"displacement, {d}", "displacement",
                     ground[d].displacement(t)) for d in first[: 1 if same else 2]),
        ),
        note=f"{names}." + ("" if vertical is None else f" Vertical: {vertical.name}."),
    )
