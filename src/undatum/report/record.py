"""The calculation record: one self-contained page another engineer can follow line by line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Literal

import numpy as np

from undatum.analysis.lateral import StaticForces
from undatum.checks.separation import separation_table
from undatum.report.chapter import Chapter
from undatum.report.diagrams import WORDS, diagrams_asked
from undatum.report.page import page
from undatum.results.results import Results
from undatum.results.stack_forces import StackForces
from undatum.stages.shape import shape_table


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
    u = results.units
    heavy = [n for n, w in zip(results.model.levels, results.weights.weight, strict=True) if w]
    above = [n for n, a in zip(results.model.levels, results.model.above_base, strict=True) if a]
    working = partial(add_working, results, {len(above): above, len(heavy): heavy})
    known = results.table_names

    def there(chapter: Chapter, *names: str) -> None:
        """The tables that this job has."""
        for name in names:
            if name in known:
                chapter.add_table(results.table(name), u)

    given = Chapter("What was put in", "With these tables every number below can be followed.")
    for made in results.given_tables():
        given.add_table(made, u)

    frame = None if results.model.framed is None else results.model.framed.frame
    site = Chapter("Site and design spectrum")
    site.add_picture("spectrum", pictures["spectrum"],
                     f"Design spectrum and first modes, {u.label('acceleration')} over s.")
    working(site, "hazard", "site", "vertical spectrum", "floor", "damping")

    building = Chapter(
        "Building and seismic weight",
        f"{_floors_said(results)} on " + " and ".join(
            word for word, any_ in (("lateral lines", results.project.building.lines),
                                    ("members", frame is not None and frame.members),
                                    ("walls", frame is not None and frame.panels)) if any_)
        + ". Heights are measured from the base.")
    building.add_picture("plan", pictures["plan"],
                         f"Lateral lines, members and centers, {u.label('length')}.")
    for name, caption in (
            ("members", f"Members in space, {u.label('length')}."),
            ("elevations", f"Members on the main axes, with sections, {u.label('length')}.")):
        if name in pictures:
            building.add_picture(name, pictures[name], caption)
    building.add_table(results.weights.level_table(), u)
    building.add_table(results.weights.table(), u)
    building.add_table(results.table("centers"), u)
    working(building, "system")

    vibration = Chapter("Modes", "Each mode is named for the component that holds at least two "
                        "thirds of its kinetic energy.")
    vibration.add_picture("mode_shapes", pictures["mode_shapes"],
                          "First modes, the largest component one; periods in s.")
    if "modes_in_space" in pictures:
        vibration.add_picture("modes_in_space", pictures["modes_in_space"],
                              "First modes in space; periods in s.")
    vibration.add_table(results.modes.table(), u)
    there(vibration, "modes_for_drift")

    static = Chapter(
        "Equivalent lateral force",
        "One set of forces for strength and one for drift, as the standard tells them apart. "
        "Forces are the effect of the earthquake alone; redundancy and overstrength factors enter "
        "with the load combinations, not here.")
    static.add_table(results.table("base_shears"), u)
    working(static, "period")
    for d in results.directions:
        for state in results.states:
            own = results.statics[d, state.key]
            twin = next((s for s in results.states if s != state and _alike(
                own, results.statics[d, s.key]) and results.states.index(s)
                < results.states.index(state)), None)
            if twin is not None:
                static.add_text(f"Forces in {d} for {state.key}",
                                f"The same as for {twin.key}: base shear, forces and period are "
                                "equal, so they are printed once.")
                continue
            working(static, "base shear", direction=d, state=state.key)
            working(static, "story forces", direction=d, state=state.key)
            static.add_table(own.table(), u)
    for twisted in results.torsion.values():
        static.add_table(twisted.table(), u)
    working(static, "amplification")
    if results.torsion_factors:
        static.add_table(results.torsion_factors, u)
    static.add_table(shape_table(results.shape), u)
    working(static, "diaphragms")
    there(static, "diaphragms", "own_static")

    dynamic = Chapter(
        "Modal response spectrum analysis",
        f"Modes combined by {results.spectrum_sets[0].combine.how} at "
        f"{results.project.analysis.damping:.1%} damping. Every quantity is combined from its own "
        "modal values; combined values carry no sign and are not in equilibrium with each other. "
        + ("" if results.model.plane else
           "Accidental torsion comes of masses moved both ways, with modes of their own."
           if results.by_masses and results.project.analysis.moved_masses == "in place" else
           "Accidental torsion is added as a static response with its absolute value, unscaled."))
    dynamic.add_table(results.table("modal_base_shears"), u)
    dynamic.add_table(results.table("mode_correlation"), u)
    dynamic.add_table(results.table("scaling"), u)
    working(dynamic, "scaling")
    dynamic.add_picture("story_shears", pictures["story_shears"],
                        f"Story shears, {u.label('force')}, static against spectrum, "
                        f"for {results.strength.key}.")
    dynamic.add_table(results.shears.table(), u)
    dynamic.add_table(results.shears.line_table(), u)
    there(dynamic, "floor_deflection", "floor_design_forces", "floor_to_line", "ground_forces",
          "accidental_torsion", "vertical_response", "floor_accelerations")

    drift = Chapter(
        "Story drift",
        "Drift is read between floors on vertical lines; elastic drift under the reduced forces "
        "and amplified design drift stand side by side.")
    drift.add_picture("drift", pictures["drift"],
                      "Design drift over story height against the limit, percent, sets for drift.")
    drift.add_picture("drift_painted", pictures["drift_painted"],
                      "Design drift over story height on the building, percent, sets for drift.")
    working(drift, "drift limit")
    for check in results.drifts.values():
        for c in check.shown:
            drift.add_table(check.envelope(c), u)
    for reading in results.drift_readings.values():
        for make in reading.tables().values():
            drift.add_table(make(), u)
    there(drift, "drift_combinations", "drift_further")
    drift.add_table(results.table("modal_drift"), u)
    for check in results.drifts.values():
        drift.add_table(check.full_table(), u)

    if results.gaps:
        drift.add_table(separation_table(results.gaps), u)
        working(drift, "separation")

    second = Chapter("Second-order effects")
    for one in results.stability:
        second.add_table(one.table(), u)
    working(second, "stability")

    plausible = Chapter("Plausibility", "Hand estimates beside computed values.")
    plausible.add_table(results.plausibility.table(u), u)
    if results.project.expected:
        plausible.add_table(results.table("expected"), u)
    found = [given, site, building, vibration, static, dynamic, drift, second]
    if results.combinations:
        loads = Chapter("Load combinations", "Factors on the effects of each load"
                        + (", with the vertical effect of the earthquake in the factor on dead "
                           "load." if results.combinations.vertical_in_dead else "."))
        working(loads, "combinations")
        loads.add_table(results.table("load_combinations"), u)
        found.append(loads)
    if results.project.combinations:
        mine = Chapter("Load combinations of one's own", "Beside those of the standard.")
        mine.add_table(results.table("own_combinations"), u)
        found.append(mine)
    return [*found, *member_chapters(results, pictures), plausible]


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
    chapter = Chapter("Readings", "What the project asks for under [record].")
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

    given = Chapter("Heights and weights", "All that is known of the building.")
    given.add_table(found.stack_table(), u)
    site = Chapter("Site and design spectrum")
    site.add_picture("spectrum", pictures["spectrum"],
                     f"Design spectrum, {u.label('acceleration')} over s.")
    working(site, "hazard", "site", "vertical spectrum", "floor", "damping")
    system = Chapter("Lateral systems")
    working(system, "system")
    static = Chapter("Static forces", "Forces are the effect of the earthquake alone.")
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
    return [given, site, system, static]


def render(
    results: Results | StackForces, pictures: Mapping[str, bytes], meta: Mapping[str, str]
) -> str:
    """The page. Every text of the project is escaped."""
    found = chapters(results, pictures) if isinstance(results, Results) \
        else stack_chapters(results, pictures)
    return page(results, "Calculation record", found, meta)
