"""The model: freedoms, named quantities, partial vibration, large systems."""

from __future__ import annotations

import dataclasses
from importlib import import_module

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import linalg, sparse

import undatum as ud
from conftest import analyze, shear_building, solver_of
from undatum.analysis.combine import combiner
from undatum.analysis.modes import find_modes
from undatum.mechanics import Solver, factorize
from undatum.mechanics.quantities import PlumbLine, center_line, plumb_drift
from undatum.mechanics.vibration import vibration
from undatum.results.results import Results

solver_module = import_module("undatum.mechanics.solver")
vibration_module = import_module("undatum.mechanics.vibration")


def high(n: int) -> ud.Building:
    return shear_building([9e7 - 1e5 * i for i in range(n)], [2e5 + 1e3 * i for i in range(n)],
                          lines_x=[(0.0, 0.6), (6.0, 0.4)])


def tall(n: int) -> Solver:
    return solver_of(high(n))


def test_quantities_carry_kind_labels_and_dimension(archive: Results) -> None:
    q = archive.model.quantities
    assert q["story shear"].dimension == "force"
    assert q["overturning moment"].dimension == "moment"
    assert q["story drift"].dimension == "displacement"
    for one in q.values():
        assert all(len(v) == len(one) for v in one.labels.values())
    lines = q["line shear"]
    assert set(lines.labels) == {"line", "story"}
    first = archive.model.lines[0]
    assert lines.where(line=first.name).labels["story"] == tuple(
        archive.model.levels[i] for i in first.levels)
    with pytest.raises(KeyError, match="no value of"):
        lines.where(line="nobody")


def test_story_shear_and_overturning_are_cuts(archive: Results) -> None:
    """Forces above, and their moments about the story's foot, added up one at a time."""
    model, one = archive.model, archive.static_sets[0]
    c, d = "XY".index(one.direction), model.diaphragms
    shear = one.of(model.quantities["story shear"].where(component=one.direction))
    moment = one.of(model.quantities["overturning moment"].where(component=one.direction))
    nodal = one.nodal[d.freedoms[:, c]]
    for i in range(model.n):
        above = [j for j in range(model.n) if d.elevations[j] >= d.elevations[i]]
        foot = d.elevations[i] - d.story_heights[i]
        assert shear[i] == pytest.approx(sum(nodal[j] for j in above), rel=1e-9, abs=1e-3)
        assert moment[i] == pytest.approx(
            sum(nodal[j] * (d.elevations[j] - foot) for j in above), rel=1e-9, abs=1e-1)


def test_the_lowest_modes_alone_are_those_of_the_whole() -> None:
    """Lanczos on the sparse factors against the dense solution."""
    s = tall(60)
    omega, shapes = vibration(s)
    few, fewer = vibration(s, 6)
    assert few == pytest.approx(omega[:6], rel=1e-9)
    mass = s.model.mass.toarray()
    assert np.abs(np.diag(fewer.T @ mass @ shapes[:, :6])) == pytest.approx(1.0, rel=1e-6)
    assert fewer.T @ mass @ fewer == pytest.approx(np.eye(6), abs=1e-9)


def test_a_tall_building_is_asked_for_few_modes_and_its_last_one_is_proved() -> None:
    """The lowest ones of all, and an energy balance where the masses can't add up."""
    every, few = tall(80), find_modes(tall(80))
    omega, _ = vibration(every)
    assert not few.complete
    assert few.kept < few.count < omega.size
    assert few.omega == pytest.approx(omega[:few.count], rel=1e-9)
    r = analyze(high(80))
    said = {c.name: c for c in r.plausibility.comparisons}
    assert "effective masses add up to the mass" not in said
    one = said["period of the last mode used by its energies"]
    assert one.believed
    assert one.computed == pytest.approx(2 * np.pi / omega[r.modes.kept - 1])


def test_a_partial_solution_says_what_mass_is_left() -> None:
    s = tall(40)
    every = find_modes(s, 0.9, None, None)
    assert every.mass_ratios.sum(axis=0)[:2] == pytest.approx([1.0, 1.0])
    kept = every.mass_ratios[: every.kept].sum(axis=0)
    assert min(kept[:2]) >= 0.9
    assert min(every.mass_ratios[: every.kept - 1].sum(axis=0)[:2]) < 0.9


def test_large_models_are_factored_sparsely(monkeypatch: pytest.MonkeyPatch) -> None:
    """The same loads by the sparse and by the dense factors, and with both mass matrices."""
    dense = tall(30)
    monkeypatch.setattr(solver_module, "DENSE", 10)
    monkeypatch.setattr(vibration_module, "DIRECT", 10)
    large = factorize(dense.model)
    loads = np.column_stack([dense.model.loads("X", np.arange(30.0)), dense.model.loads("Y", 5.0)])
    assert large.solve(loads) == pytest.approx(dense.solve(loads), rel=1e-9, abs=1e-15)
    assert large.solve(loads[:, 0]) == pytest.approx(dense.solve(loads)[:, 0], abs=1e-15)
    assert vibration(large, 5)[0] == pytest.approx(
        np.sqrt(linalg.eigh(dense.model.stiffness.toarray(), dense.model.mass.toarray(),
                            eigvals_only=True)[:5]), rel=1e-8)


@pytest.mark.parametrize("count", [1, 13, 14, 15, 29, 30, 31, 60])
def test_as_many_modes_as_the_mass_has_rank(
    count: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Ten rigid levels with mass, two without: there are thirty modes, and iteration on a singular
    mass finds each of them, or leaves it to the whole matrix."""
    one = tall(12).model
    mass = one.mass.diagonal()
    mass[one.diaphragms.freedoms[[3, 7]]] = 0.0
    solver = factorize(dataclasses.replace(
        one, mass=sparse.csr_array(sparse.diags_array(mass))))
    k, light = one.stiffness.toarray(), mass == 0
    inner = k[np.ix_(light, light)]
    condensed = k[np.ix_(~light, ~light)] - k[np.ix_(~light, light)] @ np.linalg.solve(
        inner, k[np.ix_(light, ~light)])
    exact = np.sqrt(linalg.eigh(condensed, np.diag(mass[~light]), eigvals_only=True))
    monkeypatch.setattr(vibration_module, "DIRECT", 2)
    omega, shapes = vibration(solver, count)
    assert omega == pytest.approx(exact[:count], rel=1e-8)
    assert shapes.T @ (mass[:, None] * shapes) == pytest.approx(np.eye(omega.size), abs=1e-8)


def test_a_large_mechanism_is_named_too(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(solver_module, "DENSE", 2)
    b = shear_building([6e7] * 3, [2e5] * 3)
    with pytest.raises(ud.AnalysisError, match="can move in Y"):
        solver_of(b.model_copy(update={"lines": [x for x in b.lines if x.name.startswith("X")]}))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.05, 3.0), min_size=1, max_size=8),
       st.floats(0.01, 0.2), st.integers(0, 1000))
def test_one_factor_of_the_correlation_is_the_double_sum(
    periods: list[float], damping: float, seed: int
) -> None:
    """The combiner's factor against the double sum written out, equal periods included."""
    t = np.sort(np.array([*periods, periods[0]]))[::-1]
    z = np.full(t.size, damping)
    values = np.random.default_rng(seed).normal(size=(5, t.size))
    found = combiner("CQC", 2 * np.pi / t, z).peaks(values)
    for row, peak in zip(values, found, strict=True):
        total = 0.0
        for i in range(t.size):
            for j in range(t.size):
                r = t[i] / t[j]
                rho = 8 * damping**2 * (1 + r) * r**1.5 / (
                    (1 - r**2) ** 2 + 4 * damping**2 * r * (1 + r) ** 2)
                total += rho * row[i] * row[j]
        assert peak**2 == pytest.approx(total, rel=1e-7, abs=1e-7 * float(row @ row))
    srss = combiner("SRSS", 2 * np.pi / t, z).peaks(values)
    assert srss == pytest.approx(np.sqrt((values**2).sum(axis=1)))
    absolute = combiner("absolute sum", 2 * np.pi / t, z).peaks(values)
    assert absolute == pytest.approx(np.abs(values).sum(axis=1))
    with pytest.raises(ValueError, match="no combination"):
        combiner("absolute", 2 * np.pi / t, z)  # type: ignore[arg-type]


def test_drift_is_top_less_bottom_of_the_same_point(archive: Results) -> None:
    """A rigid turn and shift of two floors, by hand."""
    model = archive.model
    line = PlumbLine("p", np.tile([10.0, 4.0], (model.n, 1)), np.ones(model.n, dtype=bool))
    u = np.zeros(model.freedoms.count)
    f = model.diaphragms.freedoms
    u[f[0]], u[f[1]] = [0.02, -0.01, 1e-3], [0.015, 0.0, -5e-4]
    (x0, y0), (x1, y1) = model.diaphragms.centers[:2]
    for c, hand in (("X", (0.02 - 1e-3 * (4.0 - y0)) - (0.015 + 5e-4 * (4.0 - y1))),
                    ("Y", (-0.01 + 1e-3 * (10.0 - x0)) - (0.0 - 5e-4 * (10.0 - x1)))):
        found = plumb_drift(model, [line], (c,)).of(u, u)
        assert found[0] == pytest.approx(hand)
    assert plumb_drift(model, [line], ("X",)) is plumb_drift(model, [line], ("X",))
    assert center_line(model) is center_line(model)


def test_rows_kept_beside_a_model_are_no_part_of_it(archive: Results) -> None:
    model = archive.model
    again = dataclasses.replace(model)
    assert again == model
    assert center_line(again) is not center_line(model)


def test_spread_and_loads_reach_the_centers(archive: Results) -> None:
    model = archive.model
    load = model.loads("Y", np.arange(model.n, dtype=float), 7.0)
    assert load[model.freedoms.of("Y")] == pytest.approx(np.arange(model.n))
    assert load[model.freedoms.of("rotation")] == pytest.approx(np.full(model.n, 7.0))
    assert load[model.freedoms.of("X")] == pytest.approx(0.0)


def test_a_mass_that_couples_freedoms_is_taken_whole() -> None:
    """A consistent mass matrix against the generalized eigenvalue problem as it stands."""
    model = tall(8).model
    plain = model.mass.toarray()
    n = model.n
    for c in range(3):
        for i in range(n - 1):
            a, b = c * n + i, c * n + i + 1
            plain[a, b] = plain[b, a] = 0.2 * np.sqrt(plain[a, a] * plain[b, b])
    coupled = dataclasses.replace(model, mass=sparse.csr_array(plain))
    omega, shapes = vibration(factorize(coupled))
    squared = linalg.eigh(model.stiffness.toarray(), plain, eigvals_only=True)
    assert omega == pytest.approx(np.sqrt(squared), rel=1e-9)
    assert shapes.T @ plain @ shapes == pytest.approx(np.eye(3 * n), abs=1e-8)
    few, _ = vibration(factorize(coupled), 2)
    assert few == pytest.approx(omega[:2], rel=1e-8)
    modes = find_modes(factorize(coupled), 0.9, None, None)
    assert modes.effective_mass.sum(axis=0) == pytest.approx(modes.total_mass)


def test_equal_modes_are_turned_whatever_the_solver_returns(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A pair of equal frequencies mixed by 30 degrees comes back as X first, then Y."""
    s = solver_of(shear_building([6e7] * 2, [2e5] * 2, plan=(8.0, 8.0)))
    real = linalg.eigh
    cos, sin = np.cos(np.pi / 6), np.sin(np.pi / 6)

    def mixed(*args: object, **kwargs: object) -> tuple[np.ndarray, np.ndarray]:  # type: ignore[type-arg]
        values, vectors = real(*args, **kwargs)  # type: ignore[call-overload]
        for i in range(len(values) - 1):
            if abs(values[i + 1] - values[i]) < 1e-6 * values[i]:
                vectors[:, [i, i + 1]] = vectors[:, [i, i + 1]] @ [[cos, -sin], [sin, cos]]
        return values, vectors

    monkeypatch.setattr(vibration_module.linalg, "eigh", mixed)
    modes = find_modes(s, 0.9, None, None)
    pairs = [i for i in range(modes.count - 1)
             if abs(modes.omega[i + 1] - modes.omega[i]) < 1e-6 * modes.omega[i]]
    assert len(pairs) == 2
    for i in pairs:
        assert modes.mass_ratios[i, 1] == pytest.approx(0.0, abs=1e-9)
        assert modes.mass_ratios[i + 1, 0] == pytest.approx(0.0, abs=1e-9)
        assert modes.mass_ratios[i, 0] == pytest.approx(modes.mass_ratios[i + 1, 1])
