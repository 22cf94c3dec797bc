"""Displacements of nodes, by set, mode and load case."""

from __future__ import annotations

from typing import Any

import pytest

import undatum as ud


@pytest.fixture(scope="module")
def terrace() -> ud.Results:
    return ud.run(ud.shipped_project("terrace"))


def rows(r: ud.Results, table: Any, **where: str) -> list[dict[str, Any]]:
    """Rows as dictionaries in SI, of some cells."""
    heads = [c.name for c in table.columns]
    found = [dict(zip(heads, own, strict=True)) for own in table.rows()]
    return [row for row in found if all(row[k] == v for k, v in where.items())]


def test_a_column_shortens_by_what_it_carries(terrace: ud.Results) -> None:
    """(N_start + N_end) / 2 times h / EA, under every kind of load."""
    assert terrace.model.framed is not None
    frame = terrace.model.framed.frame
    m = terrace.members("columns on B2 at L1")[0]
    e = m.elements[0]
    section = frame.section[e]
    ea = frame.materials[section, 0] * frame.sections[section].area * frame.kept[e, 3]
    clear = frame.lengths[e] - frame.stiff[e].sum()
    moved = terrace.read("motion", m.name, "cases").table()
    for name, case in terrace.load_cases().on_members:
        axial = (case.faces[e, 0] + case.faces[e, 6]) / 2
        head = rows(terrace, moved, case=name, level="L1")[0]
        foot = rows(terrace, moved, case=name, level="Ground")[0]
        assert head["displacement Z"] - foot["displacement Z"] == pytest.approx(
            axial * clear / ea, rel=1e-6)


def test_sets_for_drift_by_name_unless_they_act_on_another_stiffness(terrace: ud.Results) -> None:
    name = next(s.name for s in terrace.static_sets if s.state != terrace.strength)
    found = rows(terrace, terrace.read("motion", "columns on B2 at L1", name).table())
    assert {row["set"] for row in found} == {name}
    other = ud.run(terrace.project.varied({"building.members[0].kept_for_drift": {
        "bending_y": 0.9, "bending_z": 0.9, "reason": "service"}}))
    with pytest.raises(ud.InputError, match="acts on the stiffness for drift"):
        other.read("motion", "columns on B2 at L1", name).table()
    with pytest.raises(ud.InputError, match="nothing here is named 'static Z'"):
        terrace.read("motion", "all", "static Z").table()


# -- damping by mode -------------------------------------------------------------------------------


def test_modes_have_the_damping_given_for_them() -> None:
    """From the longest period on, the last for all others, and by number where some are left out;
    the same ratio for all is the usual way of saying it."""
    project = ud.shipped_project("terrace")
    plain = ud.run(project.varied({"analysis.mass_target": 0.99}))
    given = [0.02, 0.03, 0.08]
    r = ud.run(project.varied({"analysis.mass_target": 0.99, "analysis.damping_by_mode": given}))
    kept = r.modes.kept
    assert kept > 4
    for one in r.dynamic:
        assert one.damping == pytest.approx([*given, *[0.08] * (kept - 3)])
    assert any(f.check == "damping by mode" and "2.00% to 8.00%" in f.text for f in r.findings)
    alike = ud.run(project.varied({"analysis.mass_target": 0.99,
                                   "analysis.damping_by_mode": [0.05]}))
    assert alike.dynamic[0].base_shear == pytest.approx(plain.dynamic[0].base_shear, rel=1e-12)
    each = [0.01 + 0.002 * k for k in range(8)]
    light = ud.run(project.varied({"analysis.damping_by_mode": each,
                                   "analysis.mass_target": 0.99, "analysis.least_mass": 0.04}))
    numbers = light.modes.numbers[: light.modes.kept]
    assert numbers != tuple(range(1, len(numbers) + 1))
    assert light.dynamic[0].damping == pytest.approx([each[min(n, 8) - 1] for n in numbers])
    with pytest.raises(ud.InputError, match="either damping_of or damping_by_mode"):
        project.varied({"analysis.damping_by_mode": [0.05], "analysis.damping_of": {"lines": 0.1}})
    with pytest.raises(ud.InputError, match="damping_by_mode"):
        project.varied({"analysis.damping_by_mode": [5.0]})
