"""The calculation record: one self-contained page another engineer can follow line by line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Literal

import numpy as np

from undatum.analysis.lateral import StaticForces
from undatum.checks.separation import separation_table
from undatum.report.basis import add_basis, basis_of, facts_of_shears
from undatum.report.chapter import Chapter
from undatum.report.diagrams import WORDS, diagrams_asked
from undatum.report.page import page
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces
from undatum.stages.shape import shape_table
from undatum.table import Table


def add_working(
    results: Results | StackForces, levels: Mapping[int, Sequence[str]], chapter: Chapter,
    *kinds: str, direction: str = "", state: str = "",
) -> None:
    """The working of some kinds, of one direction and limit state where they are named."""
    for section in results.working:
        key = section.key
        if key.kind in kinds and direction in ("", key.direction) and state in ("", key.state):
            chapter.add_working(section, results.units, levels)


def chapters(results: Results, pictures: Mapping[str, bytes]) -> list[Chapter]:
    """The record in the order of the job."""
    made = _Chapters(results, pictures)
    return [made.basis(), made.given(), made.site(), made.building(), made.vibration(),
            made.static(), made.dynamic(), made.drift(), made.second(), *made.combinations(),
            *member_chapters(results, pictures), made.plausible(), made.left()]


class _Chapters:
    """The chapters of a building's record, one method each."""

    def __init__(self, results: Results, pictures: Mapping[str, bytes]) -> None:
        self.results, self.pictures, self.u = results, pictures, results.units
        heavy = [n for n, w in zip(results.model.levels, results.weights.weight, strict=True) if w]
        above = [n for n, a in zip(results.model.levels, results.model.above_base, strict=True)
                 if a]
        self.working = partial(add_working, results, {len(above): above, len(heavy): heavy})
        self.known = results.table_names

    def there(self, chapter: Chapter, *names: str) -> None:
        """The tables that this job has."""
        for name in names:
            if name in self.known:
                chapter.add_table(self.results.table(name), self.u)

    def basis(self) -> Chapter:
        """What the forces rest on, on one page."""
        return basis_of(self.results)

    def given(self) -> Chapter:
        """The input."""
        results, u = self.results, self.u
        chapter = Chapter(
            "Input", "Every number below can be followed from these tables.")
        for made in results.given_tables():
            chapter.add_table(made, u)
        return chapter

    def site(self) -> Chapter:
        """Parameters, spectrum and where they come from."""
        u = self.u
        chapter = Chapter("Site and design spectrum")
        chapter.add_picture("spectrum", self.pictures["spectrum"],
                            f"Design spectrum and first modes, {u.label('acceleration')} over s.")
        self.working(chapter, "hazard", "site", "vertical spectrum", "floor", "damping")
        return chapter

    def building(self) -> Chapter:
        """Plan, weight, centers, lateral systems."""
        results, u = self.results, self.u
        frame = None if results.model.framed is None else results.model.framed.frame
        chapter = Chapter(
            "Building and seismic weight",
            f"{_floors_said(results)} on " + " and ".join(
                word for word, any_ in (("lateral lines", results.project.building.lines),
                                        ("members", frame is not None and frame.members),
                                        ("walls", frame is not None and frame.panels)) if any_)
            + ". Heights are measured from the base.")
        chapter.add_picture("plan", self.pictures["plan"],
                            f"Lateral lines, members and centers, {u.label('length')}.")
        for name, caption in (
                ("members", f"Members in space, {u.label('length')}."),
                ("elevations", "Members on the main grid lines, with sections, "
                               f"{u.label('length')}.")):
            if name in self.pictures:
                chapter.add_picture(name, self.pictures[name], caption)
        chapter.add_table(results.weights.level_table(), u)
        chapter.add_table(results.weights.table(), u)
        chapter.add_table(results.table("centers"), u)
        self.working(chapter, "system")
        return chapter

    def vibration(self) -> Chapter:
        """Modes and their shapes."""
        results, u = self.results, self.u
        chapter = Chapter("Modes", "Each mode is named for the component that holds at least two "
                            "thirds of its kinetic energy.")
        chapter.add_picture("mode_shapes", self.pictures["mode_shapes"],
                            "First modes, largest component 1; periods in s.")
        if "modes_in_space" in self.pictures:
            chapter.add_picture("modes_in_space", self.pictures["modes_in_space"],
                                "First modes in space; periods in s.")
        chapter.add_table(results.modes.table(), u)
        self.there(chapter, "modes_for_drift")
        return chapter

    def static(self) -> Chapter:
        """Periods, base shears, forces, accidental torsion, diaphragms."""
        results, u = self.results, self.u
        chapter = Chapter(
            "Equivalent lateral force",
            "One set of forces for strength and one for drift, as the standard distinguishes them. "
            "Forces are earthquake effects only; redundancy and overstrength factors enter with "
            "the load combinations.")
        chapter.add_table(results.table("base_shears"), u)
        self.working(chapter, "period")
        for d in results.directions:
            for state in results.states:
                own = results.statics[d, state.key]
                twin = next((s for s in results.states if s != state and _alike(
                    own, results.statics[d, s.key]) and results.states.index(s)
                    < results.states.index(state)), None)
                if twin is not None:
                    chapter.add_text(f"Forces in {d} for {state.key}",
                                     f"Same as for {twin.key}: base shear, forces and period are "
                                     "equal and are printed once.")
                    continue
                self.working(chapter, "base shear", direction=d, state=state.key)
                self.working(chapter, "story forces", direction=d, state=state.key)
                chapter.add_table(own.table(), u)
        for twisted in results.torsion.values():
            chapter.add_table(twisted.table(), u)
        self.working(chapter, "amplification")
        if results.torsion_factors:
            chapter.add_table(results.torsion_factors, u)
        chapter.add_table(shape_table(results.shape), u)
        self.working(chapter, "diaphragms")
        self.there(chapter, "two_stage", "diaphragms", "own_static")
        return chapter

    def dynamic(self) -> Chapter:
        """Modal base shears, scaling, shears of stories and lines."""
        results, u = self.results, self.u
        chapter = Chapter(
            "Modal response spectrum analysis",
            f"Modes combined by {results.spectrum_sets[0].combine.how} at "
            f"{results.project.analysis.damping:.1%} damping. Every quantity is combined from its "
            "own modal values; combined values are unsigned and not in equilibrium with each "
            "other. "
            + ("" if results.model.plane else
               "Accidental torsion is modeled by masses moved both ways, each with its own modes."
               if results.by_masses and results.project.analysis.moved_masses == "in place" else
               "Accidental torsion is added as a static response in absolute value, unscaled."))
        chapter.add_table(results.table("modal_base_shears"), u)
        chapter.add_table(results.table("mode_correlation"), u)
        chapter.add_table(results.table("scaling"), u)
        self.working(chapter, "scaling")
        chapter.add_picture("story_shears", self.pictures["story_shears"],
                            f"Story shears, {u.label('force')}, static against spectrum, "
                            f"for {results.strength.key}.")
        chapter.add_table(results.shears.table(), u)
        chapter.add_table(results.shears.line_table(), u)
        self.there(chapter, "foundation_overturning", "frames_alone", "secondary_members",
                   "mesh_halved", "floor_deflection", "floor_design_forces",
                   "floor_transfer_forces", "floor_to_walls", "floor_to_line", "ground_forces",
                   "accidental_torsion", "vertical_response",
                   "floor_accelerations")
        return chapter

    def drift(self) -> Chapter:
        """Story drift against its limit, separation."""
        results, u = self.results, self.u
        chapter = Chapter(
            "Story drift",
            "Story drift is read between floors on vertical lines. It is computed mode by mode and "
            "then combined, never as the difference of two combined displacements. Elastic drift "
            "under the reduced forces and amplified design drift are listed side by side.")
        chapter.add_picture("drift", self.pictures["drift"],
                            "Design drift over story height against the limit, percent, sets for "
                            "drift.")
        chapter.add_picture("drift_painted", self.pictures["drift_painted"],
                            "Design drift over story height on the building, percent, sets for "
                            "drift.")
        self.working(chapter, "drift limit")
        for check in results.drifts.values():
            for c in check.shown:
                chapter.add_table(check.envelope(c), u)
        for reading in results.drift_readings.values():
            for make in reading.tables().values():
                chapter.add_table(make(), u)
        self.there(chapter, "drift_combinations", "drift_further")
        chapter.add_table(results.table("modal_drift"), u)
        for check in results.drifts.values():
            chapter.add_table(check.full_table(), u)

        if results.gaps:
            chapter.add_table(separation_table(results.gaps), u)
            self.working(chapter, "separation")
        return chapter

    def second(self) -> Chapter:
        """Second-order effects."""
        results, u = self.results, self.u
        chapter = Chapter("Second-order effects")
        for one in results.stability:
            chapter.add_table(one.table(), u)
        self.working(chapter, "stability")
        return chapter

    def plausible(self) -> Chapter:
        """Hand estimates and expected values."""
        results, u = self.results, self.u
        chapter = Chapter("Plausibility", "Hand estimates and computed values.")
        chapter.add_table(results.plausibility.table(u), u)
        if results.project.expected:
            chapter.add_table(results.table("expected"), u)
        return chapter

    def left(self) -> Chapter:
        """What the standard asks for and is not judged here."""
        chapter = Chapter("Left to you", "Rules that are not judged here, and why.")
        self.there(chapter, "required")
        chapter.add_table(self.results.table("left_to_you"), self.u)
        return chapter

    def combinations(self) -> list[Chapter]:
        """Of the standard, and of one's own."""
        results, u, found = self.results, self.u, list[Chapter]()
        if results.combinations:
            loads = Chapter("Load combinations", "Factors on the effects of each load"
                            + (", with the vertical effect of the earthquake in the factor on dead "
                               "load." if results.combinations.vertical_in_dead else "."))
            self.working(loads, "combinations")
            loads.add_table(results.table("load_combinations"), u)
            found.append(loads)
        if results.project.combinations:
            mine = Chapter("Load combinations defined in the "
                           "project", "Beside those of the standard.")
            mine.add_table(results.table("own_combinations"), u)
            found.append(mine)
        return found


def _floors_said(results: Results) -> str:
    """How the floors are taken."""
    model = results.model
    deforming = [model.levels[one.level] for one in model.open_floors if one.deforms]
    bare = [model.levels[one.level] for one in model.open_floors if not one.deforms]
    parts = [f"{', '.join(names)} {word}" for names, word in (
        (deforming, "deforming in their plane"), (bare, "not rigid as a whole")) if names]
    return "Rigid diaphragms" + (f" (but for {'; '.join(parts)})" if parts else "")


def member_chapters(
    results: Results, pictures: Mapping[str, bytes],
    show: Literal["envelope", "extremes"] = "envelope",
) -> list[Chapter]:
    """The members and axes that the project asks for; nothing where it asks for none."""
    chosen, u = results.project.record, results.units
    if not (chosen.readings or chosen.diagrams):
        return []
    chapter = Chapter("Readings", "Requested in the project under [record].")
    for k, one in enumerate(chosen.readings, 1):
        table = results.table(f"picked_{k}")
        if show == "extremes" and one.under == "envelope" and results.combines:
            table = replace(results.read(one.what, one.which, show, at=one.at).table(),
                            title=table.title)
        chapter.add_table(table, u)
    for name, (axis, action, kind) in diagrams_asked(results).items():
        unit = u.label("moment" if action == "moment" else "force")
        chapter.add_picture(name, pictures[name], f"{WORDS[action].capitalize()} on axis {axis}, "
                            f"{unit}: extremes of the combinations for {kind}, response spectrum.")
    return [chapter]


def _alike(one: StaticForces, other: StaticForces) -> bool:
    """Whether the static forces of two limit states are the same in every printed number."""
    a, b = one.shear, other.shear
    return bool(a.period == b.period and a.base_shear == b.base_shear
                and np.array_equal(one.forces, other.forces))


def stack_chapters(found: StackForces, pictures: Mapping[str, bytes]) -> list[Chapter]:
    """The short record of heights and weights."""
    u = found.units
    levels = found.statics["X", found.strength.key].levels
    heavy = [f.name for f in found.project.stack.floors() if f.weight]
    working = partial(add_working, found, {len(levels): levels, len(heavy): heavy})

    given = Chapter("Heights and weights", "Known building data.")
    given.add_table(found.stack_table(), u)
    site = Chapter("Site and design spectrum")
    site.add_picture("spectrum", pictures["spectrum"],
                     f"Design spectrum, {u.label('acceleration')} over s.")
    working(site, "hazard", "site", "vertical spectrum", "floor", "damping")
    system = Chapter("Lateral systems")
    working(system, "system")
    static = Chapter("Static forces", "Forces are earthquake effects only.")
    working(static, "period")
    for (d, state), one in found.statics.items():
        working(static, "base shear", direction=d, state=state)
        static.add_table(one.table(), u)
    working(static, "story forces")
    static.add_picture("story_shears", pictures["story_shears"],
                       f"Static forces and story shears for strength, {u.label('force')}.")
    if found.torques is not None:
        static.add_table(found.torsion_table(), u)
    working(static, "diaphragms")
    if found.diaphragms:
        static.add_table(found.diaphragm_table(), u)
    basis = Chapter("Basis of design")
    add_basis(basis, facts_of_shears(found.base_shears), found.working, u)
    return [basis, given, site, system, static]


def band_chapter(results: Results, band: Table) -> Chapter:
    """How sure the results are: what they are over a family of variants."""
    chapter = Chapter("Spread of results", "The values of this record beside those of a family of "
                      "variants of the same project, in which what is uncertain is varied.")
    chapter.add_table(band, results.units)
    return chapter


def render(
    results: Results | StackForces, pictures: Mapping[str, bytes], meta: Mapping[str, str],
    band: Table | None = None,
) -> str:
    """The page. Every text of the project is escaped."""
    found = chapters(results, pictures) if isinstance(results, Results) \
        else stack_chapters(results, pictures)
    if band is not None and isinstance(results, Results):
        found.append(band_chapter(results, band))
    return page(results, "Calculation record", found, meta)
