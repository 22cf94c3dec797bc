"""Which sheets a workbook has and how they are told apart: groups, and extremes side by side."""

from __future__ import annotations

from collections.abc import Sequence

from undatum.table import Cell, Column, Table

#: Sheets by what they are about, in the order of the job: names of tables begin with these.
GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Input", ("choices", "input_", "stack", "sections", "members", "load_groups")),
    ("Site and spectrum", ("site", "spectrum")),
    ("Weight and modes", ("weight_", "centers", "modes", "modes_", "mode_shapes")),
    ("Static forces", ("base_shears", "static_", "torsion", "torsion_", "own_static",
                       "two_stage", "foundation_", "diaphragms", "accidental_torsion")),
    ("Spectrum analysis", ("modal_", "mode_correlation", "scaling", "vertical_", "moved_")),
    ("Stories, lines and floors", ("shears_by_story", "line_", "floor_", "story_", "ground_",
                                   "displacements", "floor_motion", "case_motion")),
    ("Drift and second order", ("drift", "drift_", "torsion_ratios", "modal_drift", "stability",
                                "second_order", "separation")),
    ("Members and walls", ("reactions", "section_forces", "column_", "wall_", "core_", "foot_",
                           "panel_", "loads_transferred", "fiber_", "node_", "picked_",
                           "frames_alone", "secondary_", "line_forces")),
    ("Combinations and checks", ("load_", "own_combinations", "plausibility", "left_to", "required",
                                 "shape", "expected", "mesh_", "findings")),
)


def group_of(name: str) -> str:
    """The group a table belongs to: that of the longest name its own begins with."""
    fits = [(len(start), title) for title, starts in GROUPS for start in starts
            if name.startswith(start)]
    return max(fits)[1] if fits else "Others"


def side_by_side(table: Table) -> Table:
    """Extremes in a row for every place: each component's largest and smallest with the combination
    that gives it; any other table as it is."""
    names = [c.name for c in table.columns]
    if not {"component", "extreme", "combination"} <= set(names):
        return table
    first, last = names.index("component"), names.index("combination")
    lead = table.columns[:first]
    numbers = [c for c in table.columns[first + 2:last] if c.dimension]
    keys: dict[tuple[Cell, ...], int] = {}
    found: dict[tuple[str, str], dict[int, tuple[Cell, Cell]]] = {}
    dimension: dict[str, Column] = {}
    marks = set()
    components, extremes = table.columns[first].cells, table.columns[first + 1].cells
    for k, row in enumerate(zip(*(c.cells for c in lead), strict=True)):
        at = keys.setdefault(row, len(keys))
        own = next((c for c in numbers if c.cells[k] is not None), None)
        if own is None:
            continue
        component, extreme = str(components[k]), str(extremes[k])
        dimension.setdefault(component, own)
        found.setdefault((component, extreme), {})[at] = (
            own.cells[k], table.columns[last].cells[k])
        if k in table.marks:
            marks.add(at)
    columns = [Column(c.name, c.dimension, tuple(row[i] for row in keys), c.digits)
               for i, c in enumerate(lead)]
    for component, like in dimension.items():
        for extreme in ("largest", "smallest"):
            values = found.get((component, extreme))
            if values is None:
                continue
            both = [values.get(k, (None, None)) for k in range(len(keys))]
            columns += [
                Column(f"{component}, {extreme}", like.dimension, tuple(v for v, _ in both),
                       like.digits),
                Column(f"combination for {component}, {extreme}", "", tuple(w for _, w in both))]
    return Table(table.name, table.title, tuple(columns), table.note, tuple(sorted(marks)))


def grouped(tables: Sequence[Table]) -> dict[str, list[Table]]:
    """The tables by group, in the order of the job."""
    found: dict[str, list[Table]] = {title: [] for title, _ in GROUPS}
    for table in tables:
        found.setdefault(group_of(table.name), []).append(table)
    return {title: own for title, own in found.items() if own}
