"""Second order in the stiffness: Euler loads, exact stability functions, 1 / (1 - theta)."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import undatum as ud
from conftest import ROOMS, shear_building
from test_frames import BAY, HEIGHT, SITE, SYSTEM, E, building, slender
from test_gravity import SHORT
from undatum.mechanics.model import Model

I_C = 4e-5  # slender columns, m4
AREA = BAY * SHORT


def run(one: ud.Building, how: Any, **more: Any) -> ud.Results:
    """A building under asce7-16, second order as asked; roughly as stiff as it needs to be."""
    return ud.analyze(title="second order", standard="asce7-16", results_in="N and m", site=SITE,
                      system=SYSTEM, building=one, analysis={"second_order": how}, **more)


def loaded(one: ud.Building, pressure: float, path: Any = "columns") -> ud.Building:
    return one.model_copy(update={"floors": {"all": [
        ud.Load(name="slab", kind="dead", per_area=pressure, path=path)]}})


def sway(model: Model) -> float:
    load = model.loads("X", np.eye(model.n)[0])
    return float(1 / np.linalg.solve(model.stiffness.toarray(), load)[
        model.diaphragms.freedoms[0, 0]])


def exact_sway(force: float, inertia: float = I_C) -> float:
    """Shear over sway of a column guided at the top under a force: P / (2 tan(kh/2)/k - h)."""
    k = np.sqrt(force / (E * inertia))
    return float(force / (2 * np.tan(k * HEIGHT / 2) / k - HEIGHT))


@pytest.mark.parametrize("share", [0.05, 0.3, 0.7, 0.95])
def test_guided_columns_by_stability_functions(share: float) -> None:
    """Four columns between the ground and a floor that can't turn, up to their Euler load."""
    euler = np.pi**2 * E * I_C / HEIGHT**2
    one = loaded(building(slender(I_C), slender(1e4, other=1e4)), share * 4 * euler / AREA)
    results = run(one, "by axial force")
    assert sway(results.model) == pytest.approx(
        4 * exact_sway(share * euler), abs=5e-4 * 48 * E * I_C / HEIGHT**3)
    second = results.model.second_order
    assert second is not None
    assert second.buckling == pytest.approx(1 / share, rel=2e-3)


@pytest.mark.parametrize(("rules", "factor"), [
    ((), 1.0),  # held below, guided above
    ((ud.MemberRule(beams="all", hinged="both"),), 0.25)])  # cantilevers
def test_euler_loads(rules: tuple[ud.MemberRule, ...], factor: float) -> None:
    euler = np.pi**2 * E * I_C / HEIGHT**2
    one = loaded(building(slender(I_C), slender(1e4, other=1e4), rules=rules),
                 0.1 * 4 * euler / AREA)
    second = run(one, "by axial force").model.second_order
    assert second is not None
    assert second.buckling == pytest.approx(10 * factor, rel=2e-3)


@pytest.mark.parametrize(("hinges", "factor"), [("no", 4.0), ("end", 2.0457), ("both", 1.0)])
def test_columns_that_lines_hold_buckle_by_themselves(hinges: Any, factor: float) -> None:
    """Clamped both ends 4, clamped and hinged 2.0457, hinged both ends 1 (pi^2 E I / h^2 each)."""
    euler = np.pi**2 * E * I_C / HEIGHT**2
    walls = [ud.Line(name=f"w{i}", direction=d, at=at, bottom="Ground", top="L1", stiffness=1e12)
             for i, (d, at) in enumerate((("X", (0.0, 0.0)), ("X", (0.0, 5.0)),
                                          ("Y", (0.0, 0.0)), ("Y", (6.0, 0.0))))]
    one = loaded(building(slender(I_C), slender(1e4, other=1e4, torsion=1e4), rules=(
        ud.MemberRule(columns="all", hinged=hinges),)), 0.2 * 4 * euler / AREA)
    second = run(one.model_copy(update={"lines": walls}), "by axial force").model.second_order
    assert second is not None
    assert second.buckling == pytest.approx(5 * factor, rel=8e-3)


def lines(stiffness: float, stories: int = 1) -> ud.Building:
    return ud.Building(
        levels=[*(ud.Level(name=f"L{i}", height=4.0, outline="all", floor="all")
                  for i in range(stories, 0, -1)), ud.Level(name="Ground", outline="all")],
        outlines={"all": [(0, 0), (12, 0), (12, 8), (0, 8)]},
        floors={"all": [ud.Load(name="slab", kind="dead", per_area=6e3)]},
        lines=[ud.Line(name=f"{d}{k}", direction=d, at=at, bottom="Ground", top=f"L{stories}",
                       stiffness=stiffness)
               for d, k, at in (("X", 1, (6, 0)), ("X", 2, (6, 8)), ("Y", 1, (0, 4)),
                                ("Y", 2, (12, 4)))])


def test_one_story_of_lines() -> None:
    """Everything moves 1 / (1 - theta) times as much, theta = P / (k h); the period follows."""
    k, weight = 3e6, 6e3 * 96
    theta = weight / (2 * k * 4.0)
    first, second = run(lines(k), "by factor"), run(lines(k), "by story weight")
    grown = 1 / (1 - theta)
    assert second.modes.periods[0] / first.modes.periods[0] == pytest.approx(np.sqrt(grown))
    assert sway(first.model) / sway(second.model) == pytest.approx(grown)
    # twisting: k (8^2 + 12^2) / 2 against P r^2 / h
    r2 = (12**2 + 8**2) / 12
    stiff = 2 * k * (4**2 + 6**2)
    ratio = (stiff - weight * r2 / 4.0) / stiff
    torsion = [r.model.stiffness.toarray()[2, 2] for r in (second, first)]
    assert torsion[0] / torsion[1] == pytest.approx(ratio)
    record = second.model.second_order
    assert record is not None
    assert record.buckling == pytest.approx(min(1 / theta, stiff * 4.0 / (weight * r2)))


def test_drift_takes_second_order_once() -> None:
    """By factor or in the stiffness: nearly the same design drift, and never both."""
    k, weight = 3e6, 6e3 * 96
    theta = weight / (2 * k * 4.0)
    tables = {}
    for how in ("by factor", "by story weight"):
        results = run(lines(k), how)
        check = next(s for s in results.stability if s.direction == "X" and s.method == "static")
        assert check.answer.coefficient[0] == pytest.approx(theta, rel=1e-9)
        assert check.included == (how != "by factor")
        name = next(n for n in results.table_names if n.startswith("drift") and n.endswith("_x"))
        tables[how] = results.to_frame(name)
        factor = check.amplification[0]
        assert factor == pytest.approx(1 / (1 - theta) if how == "by factor" and theta > 0.1
                                       else 1.0)
    assert theta < 0.1


def test_two_stories_by_hand() -> None:
    """K - P/h of each story, a chain; P of the lower story carries both floors."""
    k, weight = 4e6, 6e3 * 96
    model = run(lines(k, 2), "by story weight").model
    x = model.diaphragms.freedoms[:, 0]
    upper, lower = 2 * k - weight / 4.0, 2 * k - 2 * weight / 4.0
    assert model.stiffness.toarray()[np.ix_(x, x)] == pytest.approx(
        np.array([[upper, -upper], [-upper, upper + lower]]))


def test_gravity_beside_members_leans_on_them() -> None:
    """Members carry what lands on them, nothing twice. A floor by columns and the same weight on
    no member at all sway alike, but for the curvature."""
    euler = np.pi**2 * E * I_C / HEIGHT**2
    pressure = 0.2 * 4 * euler / AREA
    frame = building(slender(I_C), slender(1e4, other=1e4))
    on_columns = run(loaded(frame, pressure), "by axial force")
    second = on_columns.model.second_order
    assert second is not None
    assert second.pressing.leaning == pytest.approx([0.0], abs=1e-6 * pressure)
    hanging = run(loaded(frame, pressure), "by story weight")
    second = hanging.model.second_order
    assert second is not None
    assert second.pressing.leaning == pytest.approx([pressure * AREA])
    straight = 12 * E * I_C / HEIGHT**3 - pressure * AREA / 4 / HEIGHT
    one = loaded(building(slender(I_C), slender(1e4, other=1e4)), pressure, "two-way")
    leaning = run(one, "by story weight")
    assert sway(leaning.model) == pytest.approx(4 * straight, rel=1e-4)


def test_shears_of_members_hold_the_push() -> None:
    """Columns take the story shear and what gravity pushes: in second order their own shears along
    X add up to the force, for theirs hold the inclined axial force."""
    euler = np.pi**2 * E * I_C / HEIGHT**2
    results = run(loaded(building(slender(I_C), slender(1e4, other=1e4)), 0.2 * 4 * euler / AREA),
                  "by axial force")
    one = next(s for s in results.static_sets if s.direction == "X")
    total = one.of(results.model.quantities["line shear"])
    names = results.model.quantities["line shear"].labels["line"]
    along = sum(v for v, name in zip(total, names, strict=True) if name in ("axis A", "axis B"))
    assert along == pytest.approx(one.forces.sum(), rel=1e-7)


def test_side_by_side_and_said() -> None:
    results = run(lines(3e6), "by story weight")
    table: Any = results.to_frame("second_order").set_index("what")
    theta = 6e3 * 96 / (2 * 3e6 * 4.0)
    assert table.loc["period of mode 1", "ratio"] == pytest.approx(1 / np.sqrt(1 - theta))
    drift = [name for name in table.index if name.startswith("story drift")]
    assert table.loc[drift, "ratio"].tolist() == pytest.approx([1 / (1 - theta)] * len(drift))
    said = next(f for f in results.findings if f.check == "second order")
    assert "would buckle under" in said.text
    assert "second_order" not in run(lines(3e6), "by factor").table_names


def test_what_buckles_is_refused() -> None:
    with pytest.raises(ud.AnalysisError, match=r"buckles under 0\.\d+ times its gravity load"):
        run(lines(5e4), "by story weight")
    euler = np.pi**2 * E * I_C / HEIGHT**2
    with pytest.raises(ud.AnalysisError, match=r"buckles under 0\.5 times"):
        run(loaded(building(slender(I_C), slender(1e4, other=1e4)), 2 * 4 * euler / AREA),
            "by axial force")


def test_axial_forces_need_members() -> None:
    with pytest.raises(ud.InputError, match=r"(?s)analysis\.second_order.*no members"):
        run(lines(3e6), "by axial force")


def test_saved_and_loaded(tmp_path: Any) -> None:
    results = run(lines(3e6), "by story weight")
    again = ud.load(results.save(tmp_path / "kept"))
    assert again.model.second_order is not None
    assert results.model.second_order is not None
    assert again.model.second_order.buckling == results.model.second_order.buckling
    assert again.table("second_order") == results.table("second_order")


def test_a_pressed_element_that_turns_whole_pushes_sideways_alone() -> None:
    """Rigid rotation by t under a force N: N t across at both ends and no moment at the nodes,
    stiff ends or not, hinged or not."""
    from undatum.mechanics.elements import elements_of

    frame = building(
        ud.CrossSection(rectangle="400 x 500 mm", material="C30/37"),
        ud.CrossSection(rectangle="300 x 600 mm", material="C30/37"), rules=(
            ud.MemberRule(columns="all", stiff_ends=0.9), ud.MemberRule(beams="all", stiff_ends=1),
            ud.MemberRule(columns="A1", hinged="end"))).frame
    assert frame is not None
    force = np.full(len(frame.ends), -3e5)
    k = elements_of(frame, force)[0].stiffness
    for e, length in enumerate(frame.lengths):
        turned = np.zeros((12, 2))
        turned[[5, 11], 0], turned[7, 0] = 1.0, length
        turned[[4, 10], 1], turned[8, 1] = 1.0, -length
        found = k[e] @ turned
        expected = np.zeros((12, 2))
        expected[1, 0], expected[7, 0] = -force[e], force[e]
        expected[2, 1], expected[8, 1] = force[e], -force[e]
        if not frame.hinged[e].any():
            assert found == pytest.approx(expected, abs=1e-6 * np.abs(k[e]).max() / 1e3)


def test_axial_forces_are_of_the_gravity_load_of_the_standard() -> None:
    """EN 1998: dead load and 0.3 of office live load; nothing is left to lean."""
    site, system, *_ = ROOMS["en1998"]
    one = building(slender(2e-3), slender(1e4, other=1e4)).model_copy(update={"floors": {"all": [
        ud.Load(name="slab", kind="dead", per_area=5e3, path="columns"),
        ud.Load(name="use", kind="live", per_area=4e3, path="columns", use="B")]}})
    results = ud.analyze(title="a", standard="en1998", results_in="N and m", site=site,
                         system={"X": system, "Y": system}, building=one,
                         analysis={"second_order": "by axial force"})
    second = results.model.second_order
    assert second is not None
    total = (5e3 + 0.3 * 4e3) * AREA
    columns = second.pressing.axial[second.pressing.axial < 0]
    assert columns.sum() == pytest.approx(-total)
    assert second.pressing.leaning == pytest.approx([0.0], abs=1e-6 * total)


def test_gravity_leans_story_by_story_over_its_own_height() -> None:
    """Stories of 3 m and 6 m: P / h of each, by hand; in a plane building nothing across it."""
    k, weight = 5e7, 4e6
    b = shear_building([k, k], [weight / 9.80665] * 2)
    levels = [x.model_copy(update={"height": h}) if h else x
              for x, h in zip(b.levels, (3.0, 6.0, None), strict=True)]
    solver = ud.calculate(ud.make_project(
        standard="asce7-16", building=ud.Building(levels=levels, lines=b.lines), site=SITE,
        system=SYSTEM, analysis={"second_order": "by story weight"})).solver
    found = solver.model.stiffness.toarray()
    x = solver.model.diaphragms.freedoms[:, 0]
    upper, lower = k - weight / 3.0, k - 2 * weight / 6.0
    assert found[np.ix_(x, x)] == pytest.approx(
        np.array([[upper, -upper], [-upper, upper + lower]]))
    plane = ud.Building(levels=levels, plane="X",
                        lines=[x for x in b.lines if x.name.startswith("X")])
    model = ud.calculate(ud.make_project(
        standard="asce7-16", building=plane, site=SITE, system={"X": SYSTEM["X"]},
        analysis={"second_order": "by story weight"})).solver.model
    across = model.diaphragms.freedoms[:, 1:].ravel()
    rest = np.setdiff1d(np.arange(model.freedoms.count), across)
    assert np.all(model.stiffness.toarray()[np.ix_(across, rest)] == 0)
    assert np.all(np.diag(model.stiffness.toarray())[across] > 0)
    first = ud.calculate(ud.make_project(
        standard="asce7-16", building=plane, site=SITE, system={"X": SYSTEM["X"]})).solver.model
    assert np.diag(model.stiffness.toarray())[across] == pytest.approx(
        np.diag(first.stiffness.toarray())[across])  # gravity takes nothing there


@pytest.mark.parametrize("lean", [1.0, 3.0])
def test_braces_carry_gravity_by_their_vertical_part(lean: float) -> None:
    """A floor on chevron braces beside columns: what leans is the weight less the vertical parts of
    the axial forces, which together carry it: nothing is left."""
    square = ud.CrossSection(rectangle="400 x 400 mm", material="C30/37")
    one = building(square, square, x=(2 * lean,), y=(5.0,), self_weight=False, rules=(
        *(ud.MemberRule(braces=f"on {a} between 1 and 2", pattern="chevron", section="beam")
          for a in "AB"),))
    second = ud.calculate(ud.make_project(
        standard="asce7-16", building=one, site=SITE, system=SYSTEM,
        analysis={"second_order": "by axial force"})).solver.model.second_order
    weight = 6e3 * 2 * lean * 5.0
    axial = second.pressing.axial
    frame = one.frame
    braces = frame.kinds == "brace"
    assert np.abs(axial[braces]).max() > 0.02 * weight  # they do carry some of it
    assert second.pressing.leaning == pytest.approx([0.0], abs=1e-6 * weight)
