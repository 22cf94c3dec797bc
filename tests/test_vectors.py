"""Which modes are taken: to a frequency, between periods, load-dependent; damping by material."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from scipy import sparse

import undatum as ud
from conftest import Command, analyze, shear_building, solver_of, starter_text
from test_frames import building, model_of, real, slender
from undatum.analysis.modes import find_modes, modes_between
from undatum.mechanics import factorize
from undatum.mechanics.solver import Solver

K, M, N = 3.0e8, 2.0e5, 12


def uniform(plan: tuple[float, float] = (10.0, 6.0), **more: Any) -> Solver:
    return solver_of(shear_building([K] * N, [M] * N, plan=plan, **more))


def lopsided() -> Solver:
    """Eccentric both ways, so that every mode moves along X, Y and turns."""
    return uniform(lines_x=[(0.0, 0.8), (6.0, 0.2)], lines_y=[(0.0, 0.3), (10.0, 0.7)])


@pytest.mark.parametrize("make", [uniform, lopsided])
@pytest.mark.parametrize("count", [3, 6, 11])
def test_the_static_response_is_in_few_vectors(make: Any, count: int) -> None:
    """Sum of participation x shape / omega^2 is K^-1 M r, however few there are."""
    solver = make()
    found = find_modes(solver, 0.5, count, None, "load-dependent")
    assert found.count <= count + 3
    assert found.how == "load-dependent"
    model = solver.model
    exact = solver.solve(model.mass @ model.influence())
    made = found.shapes @ (found.participation / found.omega[:, None] ** 2)
    assert made == pytest.approx(exact, rel=1e-8, abs=1e-9 * np.abs(exact).max())
    overlap = found.shapes.T @ np.asarray(model.mass @ found.shapes)
    assert overlap == pytest.approx(np.eye(found.count), abs=1e-9)


def test_all_vectors_are_the_modes() -> None:
    solver = lopsided()
    every = find_modes(solver)
    found = find_modes(solver, 0.9, 3 * N, None, "load-dependent")
    assert found.complete
    assert found.omega == pytest.approx(every.omega, rel=1e-6)
    assert found.effective_mass[:6] == pytest.approx(every.effective_mass[:6], rel=1e-5,
                                                     abs=1e-5 * every.total_mass.max())


def test_few_vectors_come_close_from_above() -> None:
    """Rayleigh: no approximate frequency is below the exact one of its number."""
    solver = uniform()
    exact, found = find_modes(solver), find_modes(solver, 0.9, 9, None, "load-dependent")
    assert np.all(found.omega >= exact.omega[: found.count] * (1 - 1e-9))
    assert found.omega[0] == pytest.approx(exact.omega[0], rel=1e-6)


def test_inertia_forces_follow_the_masses() -> None:
    """Heavy floors between light ones: three blocks reach the third mode of each kind closely."""
    one = shear_building([K] * N, [M * (40 if i % 4 == 1 else 1) for i in range(N)])
    exact = find_modes(solver_of(one))
    found = find_modes(solver_of(one), 0.9, 12, None, "load-dependent")
    assert found.omega[:9] == pytest.approx(exact.omega[:9], rel=2e-3)


def test_vectors_end_where_nothing_new_comes() -> None:
    """A single mass moves in three ways; asked for more, there are three."""
    found = find_modes(solver_of(shear_building([K], [M])), 0.9, 3, None, "load-dependent")
    assert found.count == 3
    model = solver_of(shear_building([K, K], [M, 1e-9])).model
    light = np.array(model.mass.diagonal())
    light[light < 1.0] = 0.0  # the roof is without mass
    bare = factorize(replace(model, mass=sparse.csr_array(sparse.diags_array(light))))
    assert find_modes(bare, 0.9, None, None, "load-dependent").count == 3


def test_a_run_by_vectors_has_the_base_shear_of_the_modes() -> None:
    one = shear_building([K] * N, [M] * N)
    usual = analyze(one, analysis={"mass_target": 0.999})
    found = analyze(one, analysis={"shapes": "load-dependent", "modes": 15})
    for a, b in zip(usual.dynamic, found.dynamic, strict=True):
        assert b.base_shear == pytest.approx(a.base_shear, rel=0.01)
    assert "Load-dependent" in found.modes.table().note
    assert found.modes.kept == found.modes.count


def test_every_mode_up_to_a_frequency() -> None:
    one = shear_building([K] * N, [M] * N)
    plain = analyze(one)
    f = plain.modes.omega / (2 * np.pi)
    limit = float(f[8] + f[9]) / 2
    assert plain.modes.kept < 9
    found = analyze(one, analysis={"to_frequency": limit})
    assert found.modes.kept >= 9
    assert f[found.modes.kept - 1] >= f[8]
    assert f[found.modes.kept - 1] < 1.1 * limit  # close ones follow
    assert analyze(one, analysis={"to_frequency": "0.01 Hz"}).modes.kept == plain.modes.kept
    both = analyze(one, analysis={"to_frequency": limit, "residual_mass": True})
    assert both.modes.kept >= max(found.modes.kept, analyze(
        one, analysis={"residual_mass": True}).modes.kept)


def test_between_two_periods() -> None:
    """Both ends counted, numbered from the longest; none is none."""
    solver = uniform()
    every = find_modes(solver)
    t = every.periods
    found = modes_between(solver, float(t[7]), float(t[3]))
    inside = np.flatnonzero((t >= t[7]) & (t <= t[3]))
    assert found.number == tuple(inside + 1)
    assert found.periods == pytest.approx(t[inside])
    assert [c.name for c in found.table().columns][-1].startswith("effective mass")
    assert modes_between(solver, 50.0, 60.0).count == 0
    done = ud.calculate(analyze(real()).project)
    t = done.modes.periods
    assert done.modes_between(t[1], t[0]).number == (1, 2)
    assert done.modes_between(f"{1000 * t[1]} ms", "60 s").number == (1, 2)
    for wrong in ((t[0], t[1]), (0.0, 1.0), ("1 m", "2 m")):
        with pytest.raises(ValueError, match=r"period|time"):
            done.modes_between(*wrong)


def test_modes_from_the_command_line(tmp_path: Any, command: Command) -> None:
    path = tmp_path / "starter.toml"
    path.write_text(starter_text("starter"))
    plot = tmp_path / "shapes.png"
    assert command(["modes", str(path), "--plot", str(plot)]) == 0
    assert plot.stat().st_size > 10_000
    assert "first" in command.said.out
    assert command(["modes", str(path), "--between", "0.001", "300 ms"]) == 0
    assert "Modes between" in command.said.out
    assert command(["modes", str(path), "--between", "50", "60"]) == 0
    assert "no mode" in command.said.out
    for wrong in (["2", "1"], ["0", "1"], ["x", "1"], ["1 m", "2 m"]):
        assert command(["modes", str(path), "--between", *wrong]) == 2
        assert "--between" in command.said.err
    assert command(["modes", str(path), "--plot", "shapes.pdf"]) == 2


# -- damping by material ---------------------------------------------------------------------------


def damped(one: ud.Building, own: dict[str, float], **more: Any) -> ud.Results:
    return analyze(one, analysis={"damping_of": own, **more})


def test_one_material_damps_every_mode_alike() -> None:
    found = damped(real(), {"C30/37": 0.03, "steel EN": 0.03}, damping=0.05)
    assert found.dynamic[0].damping == pytest.approx(0.03)


def test_lines_and_members_share_by_strain_energy() -> None:
    """Columns of stiffness k beside a line of stiffness 3 k: a quarter and three quarters."""
    column = slender(2e-3)
    alone = building(column, slender(1e4, other=1e4))
    k = model_of(alone).stiffness.toarray()[0, 0]
    lines = [ud.Line(name=f"{d}{i}", at=at, direction=d, bottom="base", top="L1", stiffness=1.5 * k)
             for d, places in (("X", ((3, 0), (3, 5))), ("Y", ((0, 2.5), (6, 2.5))))
             for i, at in enumerate(places)]
    bottom = alone.levels[-1].name
    lines = [line.model_copy(update={"bottom": bottom}) for line in lines]
    found = damped(building(column, slender(1e4, other=1e4), lines=tuple(lines)),
                   {"stuff": 0.02, "lines": 0.10})
    x = found.modes.kinds.index("X")
    assert found.dynamic[0].damping[x] == pytest.approx(0.25 * 0.02 + 0.75 * 0.10, rel=1e-6)
    assert "damping" in [c.name for c in found.table("modal_base_shears").columns]
    said = next(f for f in found.findings if f.check == "damping by part")
    assert "stay those for 0.05" in said.text


def test_what_is_not_named_has_the_usual_damping() -> None:
    found = damped(real(), {"steel EN": 0.01}, damping=0.05)
    ratios = found.dynamic[0].damping
    assert np.all((ratios > 0.01) & (ratios <= 0.05 + 1e-12))
    plain = analyze(real())
    assert plain.dynamic[0].damping == pytest.approx(0.05)


def test_damping_of_what_is_not_there() -> None:
    for name, said in (("C30/38", "did you mean 'C30/37'"), ("lines", "nothing is made of")):
        with pytest.raises(ud.InputError, match=said):
            damped(real(), {name: 0.03})
