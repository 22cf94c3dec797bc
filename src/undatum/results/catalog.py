"""Which tables a run has, by name, in the order of the job; each is made when it is asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING, cast

import numpy as np

from undatum.analysis.response import BothDirections
from undatum.checks.separation import separation_table
from undatum.errors import InputError
from undatum.finding import findings_table
from undatum.mechanics.solver import factorize
from undatum.project.flanges import flanges_table
from undatum.project.for_record import ChosenReading
from undatum.project.infills import struts_table
from undatum.project.own_forces import own_static_table
from undatum.readings.drift_combined import combined_drift_table
from undatum.readings.of_walls import cuts_of
from undatum.readings.own import own_combinations_table
from undatum.readings.wall_feet import standing_panels
from undatum.results.columns import columns_table
from undatum.results.description import (
    cases_table,
    choices_table,
    correlation_table,
    levels_table,
    lines_table,
    modal_drift_table,
    outlines_table,
    rules_table,
)
from undatum.results.expected import expected_table
from undatum.results.foundation import foundation_overturning
from undatum.results.line_forces import floor_to_line_table
from undatum.results.tables_out import (
    centers_table,
    combination_table,
    diaphragm_table,
    drift_ends_table,
    floor_motion_table,
    further_drift_table,
    modal_base_shear_table,
    modal_story_forces_table,
    mode_shape_table,
    moved_masses_table,
    points_table,
    scaling_table,
    vertical_table,
)
from undatum.results.wall_moments import SLENDER, wall_design_moments
from undatum.results.wall_shears import wall_design_shears
from undatum.stages.floor_design import cuts_under_design, floor_to_walls, transfer_forces
from undatum.stages.floors import floors_table
from undatum.stages.members import (
    case_motion_table,
    column_shares_table,
    landed_table,
    members_table,
    sections_table,
)
from undatum.stages.second_order import second_order_table
from undatum.stages.shaking import site_table, spectrum_table
from undatum.stages.shape import shape_table
from undatum.stages.walls import panels_table, wall_flanges_table, walls_table
from undatum.standards.left import left_table, required_table
from undatum.table import Table

if TYPE_CHECKING:
    from undatum.results.found import Found

Made = dict[str, Callable[[], Table]]


def tables_of(r: Found) -> Made:
    """How each table is made, by name, in the order of the job."""
    made: Made = {
        **given_tables_of(r),
        **({"members": partial(members_table, r.model.framed.frame)}
           if r.model.framed and r.model.framed.frame.members else {}),
        "site": partial(site_table, r.site),
        "spectrum": lambda: spectrum_table(
            r.shaking, {d: r.reduced[d, r.strength.key] for d in r.directions},
            max(4.0, 1.2 * float(r.modes.periods[0]))),
        "weight_levels": r.weights.level_table,
        "weight_items": r.weights.table,
        "centers": partial(centers_table, r),
        "modes": r.modes.table,
        **({"modes_for_drift": partial(r.drift_modes.table, for_drift=True)}
           if r.drift_modes is not None else {}),
        **_second_order(r),
        "mode_shapes": partial(mode_shape_table, r, "unit modal mass"),
    }
    made["base_shears"] = lambda: r.base_shears.table()
    made |= {s.table_name: s.table for s in r.statics.values()}
    made |= {f"torsion_{d.lower()}": one.table for d, one in r.torsion.items()}
    if r.own_sets:
        made["own_static"] = lambda: own_static_table(
            r.own_sets, r.model, [r.statics[d, r.strength.key] for d in r.directions])
    if r.torsion_factors is not None:
        factors = r.torsion_factors
        made["torsion_factors"] = lambda: factors
    if r.by_masses:
        made["accidental_torsion"] = partial(moved_masses_table, r)
    made["shape"] = lambda: shape_table(r.shape)
    if r.diaphragms:
        made["diaphragms"] = partial(diaphragm_table, r)
    made |= {
        "modal_base_shears": partial(modal_base_shear_table, r),
        "modal_story_forces": partial(modal_story_forces_table, r),
        "mode_correlation": partial(
            correlation_table, r.dynamic[0], r.modes, r.spectrum_sets[0].combine),
        "scaling": partial(scaling_table, r),
        **({} if r.vertical is None else
           {"vertical_response": partial(vertical_table, r, r.vertical)}),
        "shears_by_story": lambda: r.shears.table(),
        "line_shears": lambda: r.shears.line_table(),
        "floor_to_line": partial(floor_to_line_table, r.model, r.sets_to_read),
        **({"ground_forces": partial(_read_table, r, "ground", "")}
           if r.project.building.held else {}),
        **_members(r),
        "floor_motion": partial(floor_motion_table, r),
        "displacements": lambda: r.displacements.table(),
        "floor_accelerations": lambda: r.accelerations.table(),
    }
    first = next(iter(r.drift_readings.values()))
    if first.methods:
        made["displacements_both"] = lambda: r.displacements.both_table(first.how)
    for check in r.drifts.values():
        made |= {check.table_name(c): partial(check.envelope, c) for c in check.shown}
        made[check.full_name] = check.full_table
    made["drift_ends"] = partial(drift_ends_table, r)
    if r.plumb:
        made["drift_points"] = partial(points_table, r)
    for reading in r.drift_readings.values():
        made |= reading.tables()
    if r.drift_combined:
        made["drift_combinations"] = partial(combined_drift_table, r.drift_combined)
    if any(not isinstance(s, BothDirections) for s in r.further):
        made["drift_further"] = partial(further_drift_table, r)
    made["modal_drift"] = partial(
        modal_drift_table, r.model, r.drift, r.spectrum_sets, r.plumb)
    if r.gaps:
        made["separation"] = lambda: separation_table(r.gaps)
    if r.combinations:
        made["load_combinations"] = partial(combination_table, r)
        made["load_shares"] = r.load_groups.table
    if r.frames_alone is not None and r.frames_alone.parts:
        made["frames_alone"] = r.frames_alone.table
    foundation = r.project.find_standard().foundation
    if foundation is not None and r.site.category != "A":
        made["foundation_overturning"] = lambda: foundation_overturning(
            foundation, r.model, r.sets_for_strength, r.laterals)
    if r.two_stages is not None:
        made["two_stage"] = r.two_stages.table
    if r.secondary is not None and len(r.secondary.forces):
        made["secondary_members"] = r.secondary.table
    if r.project.combinations:
        made["own_combinations"] = partial(own_combinations_table, r.project.combinations)
    if r.combines and len(r.model.quantities["line moment"]):
        made["line_forces_envelope"] = lambda: r.read("lines", under="envelope").table()
    made |= {s.table_name: s.table for s in r.stability}
    made["plausibility"] = partial(r.plausibility.table, r.units)
    if asked := r.project.find_standard().required(r.site):
        made["required"] = lambda: required_table(r.standard_title, r.site.category, asked)
    made["left_to_you"] = lambda: left_table(
        r.standard_title, r.project.find_standard().left)
    if r.project.expected:
        made["expected"] = lambda: expected_table(r.expected(), r.units)
    made["findings"] = lambda: findings_table(r.findings)
    return made


def _second_order(r: Found) -> Made:
    if r.model.second_order is None:
        return {}
    role = "drift" if r.drift_modes is None else "forces"  # of sets on this model
    return {"second_order": partial(
        second_order_table, r.model, r.static_sets, r.modes, r.plumb, role)}


def _picked(r: Found, k: int, one: ChosenReading) -> Table:
    """What the project wants read for the record. Raises InputError at its place."""
    under = "sets" if one.under in ("envelope", "extremes") and not r.combines else one.under
    try:
        with r.project.at_work():
            found = r.read(one.what, one.which, under, at=one.at).table()
    except InputError as error:
        with r.project.at_work():
            raise InputError([
                replace(f, place=f"record.readings[{k}]") for f in error.faults]) from None
    return replace(found, name=f"picked_{k + 1}",
                   title=f"{found.title}{': ' if one.which else ''}{one.which}")


def _members(r: Found) -> Made:
    made: Made = {}
    if r.model.framed is not None:
        made = {
            "reactions": lambda: r.read("reactions").table(),
            "loads_transferred": lambda: landed_table(r.load_cases()),
            "column_shares": partial(column_shares_table, r.project.building,
                                     r.model.framed.frame),
            "column_loads": lambda: columns_table(
                r.model, r.project.building, r.load_cases(), r.weight_rule, r.load_groups),
            "reactions_under_cases": lambda: r.read("reactions", under="cases").table(),
            **({"reactions_envelope": lambda: r.read("reactions", under="envelope").table()}
               if r.combines else {}),
        }
        made |= _walls_and_floors(r)
    made |= {f"picked_{k + 1}": partial(_picked, r, k, one)
             for k, one in enumerate(r.project.record.readings)}
    if r.project.building.cases:
        made["case_motion"] = lambda: case_motion_table(r.model, r.load_cases())
    return made


def _walls_and_floors(r: Found) -> Made:
    """Those of walls, cores and floors that deform."""
    assert r.model.framed is not None
    frame, made = r.model.framed.frame, cast(Made, {})
    if r.mesh_halved is not None:
        made["mesh_halved"] = r.mesh_halved.table
    heavy = np.flatnonzero(r.weights.weight > 0).tolist()
    whats = {"walls": "wall_forces", "cores": "core_forces"} if frame.panels is not None else {}
    if frame.panels is not None and any(one.wall_shear for one in r.laterals.values()):
        runs = {w.name: (float(w.along[0]), float(w.along[1])) for w in frame.panels.walls}
        slender = {w.name: w.reach[0][1] - w.reach[-1][0] > SLENDER * w.length
                   for w in frame.panels.walls}
        made["wall_design_shears"] = lambda: wall_design_shears(
            r.read("walls"), runs, slender, r.laterals, r.computed)
    if frame.panels is not None and any(one.wall_envelope for one in r.laterals.values()):
        floors = r.model.diaphragms
        feet = {name: (float(z - h), float(z)) for name, z, h in zip(
            r.model.levels, floors.elevations, floors.story_heights, strict=True)}
        named = {w.name: w for w in frame.panels.walls}
        made["wall_design_moments"] = lambda: wall_design_moments(
            r.read("walls"), named, feet, r.laterals)
    if frame.panels is not None and any(w.flanges is not None for w in frame.panels.walls):
        made["wall_flanges"] = partial(wall_flanges_table, frame.panels, r.model.levels)
    if frame.panels is not None and not frame.panels.cores:
        del whats["cores"]
    if frame.panels is not None and standing_panels(frame.panels, frame.supports).size:
        whats["feet"] = "foot_forces"
    if frame.slabs is not None:
        made["floor_deflection"] = partial(floors_table, r.floors)
        try:
            cuts = cuts_of(r.structure)
        except InputError:  # no axes to cut along
            cuts = ()
        if cuts:
            whats["floors"] = "floor_forces"
            if r.diaphragms:
                made["floor_design_forces"] = lambda: cuts_under_design(
                    r.project.building, factorize(r.model), cuts, r.diaphragms, heavy)
            made["floor_transfer_forces"] = lambda: transfer_forces(
                r.project.building, factorize(r.model), cuts,
                {d: r.statics[d, r.strength.key] for d in r.model.directions})
    if frame.panels is not None and r.diaphragms:
        made["floor_to_walls"] = lambda: floor_to_walls(
            r.project.building, factorize(r.model), r.diaphragms, heavy,
            {d: one.collectors or one.overstrength for d, one in r.laterals.items()})
    for what, stem in whats.items():
        made[stem] = partial(_read_table, r, what, "")
        made[f"{stem}_under_cases"] = partial(_read_table, r, what, "cases")
        if r.combines:
            made[f"{stem}_envelope"] = partial(_read_table, r, what, "envelope")
    return made


def _read_table(r: Found, what: str, under: str) -> Table:
    return r.read(what, under=under).table()


def given_tables_of(r: Found) -> Made:
    """Those of what was put in."""
    building = r.project.building
    made: Made = {
        "choices": partial(choices_table, r.project),
        "input_levels": partial(levels_table, building),
        "input_outlines": partial(outlines_table, building),
    }
    if building.lines:
        made["input_lines"] = partial(lines_table, building)
    if r.model.framed is not None:
        frame = r.model.framed.frame
        if frame.members:
            made["input_members"] = partial(rules_table, building, r.units)
            made["input_sections"] = partial(sections_table, building, frame)
        if frame.panels is not None:
            made["input_walls"] = partial(walls_table, building, r.units)
            made["wall_panels"] = partial(panels_table, frame.panels, r.model.levels)
        if any(s.flange for s in building.sections.values()):
            made["flanges"] = partial(flanges_table, r.project.find_standard(), building)
        if any(s.infill for s in building.sections.values()):
            made["struts"] = partial(struts_table, r.project.find_standard(), building)
    if building.member_loads or building.cases:
        made["input_cases"] = partial(cases_table, building, r.units)
    return made
